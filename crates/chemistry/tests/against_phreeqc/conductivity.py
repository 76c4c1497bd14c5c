"""Writes ../fixtures/conductivity-phreeqc.json: specific conductance of nutrient solutions as PHREEQC computes it.

    python3 -m venv v && v/bin/pip install phreeqc==1.1.1 && v/bin/python conductivity.py

PHREEQC (IPHREEQC through the PyPI package phreeqc 1.1.1), database phreeqc.dat. Nitrate stands as N(5) and ammonium as
N(-3): an initial solution keeps the valences it is given. SC is at the solution's own temperature. The tests do not run this script.
"""
import json
import pathlib
from phreeqc import Phreeqc

NAMES = {"K": "K", "Na": "Na", "Ca": "Ca", "Mg": "Mg", "NH4": "N(-3)", "NO3": "N(5)", "Cl": "Cl", "SO4": "S(6)",
         "H2PO4": "P", "HCO3": "C(4)"}

HOAGLAND = {"Ca": 5, "NO3": 15, "K": 6, "Mg": 2, "SO4": 2, "H2PO4": 1}
LETTUCE = {"NO3": 19, "NH4": 1.25, "H2PO4": 2, "K": 11, "Ca": 4.5, "Mg": 1, "SO4": 1.125}
TOMATO = {"NO3": 16, "NH4": 1.25, "H2PO4": 1.5, "K": 9.5, "Ca": 5.4, "Mg": 2.4, "SO4": 4.425}
SULFATES = {"K": 6, "NH4": 2, "Mg": 3, "Ca": 2, "SO4": 7, "NO3": 4}
TAP = {"Ca": 1.6, "Mg": 0.5, "Na": 1.0, "Cl": 1.1, "SO4": 0.5, "HCO3": 3.1}
HARD = {"Ca": 3.0, "Mg": 1.2, "Na": 2.0, "Cl": 2.4, "SO4": 1.5, "HCO3": 5.0}
SALTY = {"Na": 10, "Cl": 10, "Ca": 2, "NO3": 4}
SOLUTIONS = [
    ("potassium chloride", {"K": 1, "Cl": 1}, [1, 5, 10, 50, 100]),
    ("sodium chloride", {"Na": 1, "Cl": 1}, [2, 20]),
    ("calcium chloride", {"Ca": 1, "Cl": 2}, [1, 10]),
    ("calcium nitrate", {"Ca": 1, "NO3": 2}, [1, 5, 15]),
    ("potassium nitrate", {"K": 1, "NO3": 1}, [1, 6, 20]),
    ("magnesium sulfate", {"Mg": 1, "SO4": 1}, [0.5, 2, 8]),
    ("potassium sulfate", {"K": 2, "SO4": 1}, [1, 6]),
    ("ammonium sulfate", {"NH4": 2, "SO4": 1}, [1, 6]),
    ("ammonium nitrate", {"NH4": 1, "NO3": 1}, [2, 10]),
    ("potassium dihydrogen phosphate", {"K": 1, "H2PO4": 1}, [1, 5]),
    ("sodium hydrogen carbonate", {"Na": 1, "HCO3": 1}, [1, 4]),
    ("calcium sulfate", {"Ca": 1, "SO4": 1}, [1, 5]),
    ("Hoagland and Arnon solution 1", HOAGLAND, [0.1, 0.25, 0.5, 1, 2]),
    ("lettuce recipe", LETTUCE, [0.25, 0.5, 1, 2]),
    ("tomato recipe", TOMATO, [0.5, 1, 1.5]),
    ("sulfate-rich feed", SULFATES, [0.5, 1, 2]),
    ("tap water", TAP, [1]),
    ("hard tap water", HARD, [1]),
    ("salty water with calcium nitrate", SALTY, [0.5, 1, 2]),
]
WARM = {"Hoagland and Arnon solution 1", "lettuce recipe", "tap water", "potassium chloride"}


def run(mmol, temperature, ph):
    engine = Phreeqc()
    database = pathlib.Path(__import__("phreeqc").__file__).parent / "databases" / "phreeqc.dat"
    if engine.LoadDatabase(str(database)):
        raise SystemExit(engine.GetErrorString())
    lines = ["SOLUTION 1", " units mmol/kgw", f" temp {temperature}", f" pH {ph}"]
    lines += [f" {NAMES[ion]} {value}" for ion, value in sorted(mmol.items())]
    lines += ["SELECTED_OUTPUT", " -reset false", "USER_PUNCH", " -headings sc mu", " 10 PUNCH SC, MU", "END"]
    if engine.RunString("\n".join(lines)):
        raise SystemExit(engine.GetErrorString())
    rows = [[engine.GetSelectedOutputValue(r, c) for c in range(2)] for r in range(engine.GetSelectedOutputRowCount())]
    return rows[-1]


def main():
    cases = []
    for name, mmol, strengths in SOLUTIONS:
        ph = 8.3 if "HCO3" in mmol else 5.8
        for strength in strengths:
            scaled = {ion: round(value * strength, 6) for ion, value in sorted(mmol.items())}
            for temperature in [25] + ([10, 18, 35] if name in WARM and strength == 1 else []):
                sc, mu = run(scaled, temperature, ph)
                cases.append({"name": f"{name} x {strength}", "mmol_per_l": scaled, "temperature_c": temperature,
                              "ph": ph, "conductivity_us_per_cm": round(sc, 1), "ionic_strength_mol_per_l": round(mu, 5)})
    out = pathlib.Path(__file__).parent.parent / "fixtures" / "conductivity-phreeqc.json"
    source = "PHREEQC (IPHREEQC through the PyPI package phreeqc 1.1.1, database phreeqc.dat)"
    out.write_text(json.dumps({"source": source, "cases": cases}, indent=1) + "\n")
    print(len(cases), "cases")


main()
