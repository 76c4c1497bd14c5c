"""Writes ../fixtures/acid-phreeqc.json: acid or base to a target pH in tap waters, as PHREEQC computes it.

    python3 -m venv v && v/bin/pip install phreeqc==1.1.1 && v/bin/python acid.py

PHREEQC (IPHREEQC through the PyPI package phreeqc 1.1.1), database phreeqc.dat. The vessel is closed: no carbon dioxide
is lost. Hydrochloric acid stands for nitric acid, since PHREEQC would reduce nitrate by its own redox state; both are
strong and give one proton. The amount is found by halving. The tests do not run this script.
"""
import json
import pathlib
from phreeqc import Phreeqc

WATERS = [
    # pH, alkalinity meq/L, calcium, magnesium, sodium, sulfate, mmol/L; chloride balances the charge.
    (7.5, 0.5, 0.25, 0.08, 0.35, 0.08),
    (7.6, 3.1, 1.6, 0.5, 1.0, 0.5),
    (7.2, 5.0, 3.0, 1.2, 2.0, 1.5),
    (8.2, 2.0, 0.6, 0.4, 2.0, 0.4),
]
ADDED = {"nitric": "HCl", "sulfuric": "H2SO4", "phosphoric": "H3PO4", "potassium_hydroxide": "KOH", "potassium_carbonate": "K2CO3"}
TARGETS = {"nitric": [5.5, 5.8, 6.5], "sulfuric": [5.8, 6.2], "phosphoric": [5.5, 5.8, 6.5]}


def ph_after(water, what, mmol):
    engine = Phreeqc()
    database = pathlib.Path(__import__("phreeqc").__file__).parent / "databases" / "phreeqc.dat"
    if engine.LoadDatabase(str(database)):
        raise SystemExit(engine.GetErrorString())
    ph, alkalinity, ca, mg, na, so4 = water
    lines = ["SOLUTION 1", " units mmol/kgw", " temp 25", " pe 12", f" pH {ph}", f" Alkalinity {alkalinity}",
             f" Ca {ca}", f" Mg {mg}", f" Na {na}", f" S(6) {so4}", " Cl 0.5 charge", "REACTION 1", f" {what} 1",
             f" {mmol} mmol", "SELECTED_OUTPUT", " -reset false", "USER_PUNCH", " -headings ph", " 10 PUNCH -LA(\"H+\")", "END"]
    if engine.RunString("\n".join(lines)):
        raise SystemExit(engine.GetErrorString())
    rows = engine.GetSelectedOutputRowCount()
    return engine.GetSelectedOutputValue(rows - 1, 0)


def amount(water, what, target, falls):
    low, high = 0.0, 12.0
    for _ in range(34):
        middle = 0.5 * (low + high)
        beyond = ph_after(water, what, middle) < target if falls else ph_after(water, what, middle) > target
        low, high = (low, middle) if beyond else (middle, high)
    return 0.5 * (low + high)


def main():
    cases = []
    for water in WATERS:
        for kind, targets in TARGETS.items():
            for target in targets:
                cases.append(case(water, kind, target, True))
    for kind in ["potassium_hydroxide", "potassium_carbonate"]:
        cases.append(case((6.0, 0.4, 0.3, 0.1, 0.3, 0.2), kind, 6.8, False))
        cases.append(case((5.5, 0.2, 0.3, 0.1, 0.3, 0.2), kind, 6.2, False))
    out = {"source": "PHREEQC through the PyPI package phreeqc 1.1.1, phreeqc.dat, 25 C, closed; acid.py", "cases": cases}
    path = pathlib.Path(__file__).parent.parent / "fixtures" / "acid-phreeqc.json"
    path.write_text(json.dumps(out, indent=1) + "\n")


def case(water, kind, target, falls):
    ph, alkalinity, ca, mg, na, so4 = water
    return {"ph": ph, "alkalinity_meq_per_l": alkalinity, "ca_mmol_per_l": ca, "mg_mmol_per_l": mg, "na_mmol_per_l": na,
            "so4_mmol_per_l": so4, "with": kind, "target_ph": target,
            "mmol_per_l": round(amount(water, ADDED[kind], target, falls), 5)}


main()
