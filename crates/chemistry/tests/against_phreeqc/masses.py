"""Writes ../fixtures/molar-masses.json: molar masses as a reference library gives them.

    v/bin/pip install periodictable==2.1.0 && v/bin/python masses.py

Source: the PyPI package periodictable 2.1.0 (its weights are those of the IUPAC). The tests do not run this script.
"""
import json
import pathlib
from periodictable import formula

SALTS = ["Ca(NO3)2+4H2O", "KNO3", "MgSO4+7H2O", "KH2PO4", "K2SO4", "NH4NO3", "(NH4)2SO4", "NH4H2PO4", "CO(NH2)2",
         "CaCl2+2H2O", "K2CO3", "KOH", "HNO3", "H3PO4", "H2SO4", "H3BO3", "MnSO4+H2O", "ZnSO4+7H2O", "CuSO4+5H2O",
         "Na2MoO4+2H2O", "FeSO4+7H2O", "C10H12FeN2NaO8", "NaCl", "NaHCO3", "CaCO3", "K2SiO3", "C6H8O7"]
masses = {s.replace("+", "·"): round(float(formula(s).mass), 4) for s in SALTS}
out = pathlib.Path(__file__).parent.parent / "fixtures" / "molar-masses.json"
out.write_text(json.dumps({"source": "PyPI package periodictable 2.1.0", "g_per_mol": masses}, indent=1, ensure_ascii=False) + "\n")
