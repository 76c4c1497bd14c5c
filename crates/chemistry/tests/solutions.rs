//! Solutions against outside values: conductivity, molar masses, acids, solids.

use iron_twin_chemistry::conductivity::conductivity;
use iron_twin_chemistry::formula::Formula;
use iron_twin_chemistry::ions::{Ion, Ions};
use iron_twin_chemistry::solids::{calcium_phosphate, gypsum};
use iron_twin_chemistry::water::SourceWater;
use serde_json::Value;
use std::fs;

fn fixture(name: &str) -> Value {
    let path = format!("{}/tests/fixtures/{name}", env!("CARGO_MANIFEST_DIR"));
    serde_json::from_str(&fs::read_to_string(path).unwrap()).unwrap()
}

fn ions(mmol_per_l: &Value) -> Ions {
    let mut ions = Ions::default();
    for (key, value) in mmol_per_l.as_object().unwrap() {
        let ion = Ion::ALL.into_iter().find(|i| i.key() == key).unwrap();
        ions.add(ion, value.as_f64().unwrap());
    }
    ions
}

/// Largest relative gap to a fixture's conductivities, and where.
fn worst(name: &str) -> (f64, String) {
    let fixture = fixture(name);
    let mut worst = (0.0, String::new());
    for case in fixture["cases"].as_array().unwrap() {
        let want = case["conductivity_us_per_cm"].as_f64().unwrap() / 1000.0;
        let got = conductivity(
            &ions(&case["mmol_per_l"]),
            case["temperature_c"].as_f64().unwrap(),
        );
        let gap = (got / want - 1.0).abs();
        if gap > worst.0 {
            worst = (
                gap,
                format!(
                    "{} at {}: {got}, reference {want}",
                    case["name"], case["temperature_c"]
                ),
            );
        }
    }
    worst
}

#[test]
fn conductivities_lie_within_three_per_cent_of_the_reference() {
    // Source: ../shared/reference/conductivity.json, PHREEQC (phreeqc 1.1.1 from PyPI,
    // phreeqc.dat).
    let (gap, at) = worst("conductivity.json");
    assert!(gap < 0.03, "{at}");
}

#[test]
fn other_salts_strengths_and_temperatures_hold_as_well() {
    // Source: against_phreeqc/conductivity.py, the same program on 62 more solutions.
    let (gap, at) = worst("conductivity-phreeqc.json");
    assert!(gap < 0.035, "{at}");
}

#[test]
fn molar_masses_are_those_of_a_reference_library() {
    for (formula, mass) in fixture("molar-masses.json")["g_per_mol"]
        .as_object()
        .unwrap()
    {
        let got = formula.parse::<Formula>().unwrap().molar_mass();
        assert!(
            (got / mass.as_f64().unwrap() - 1.0).abs() < 1e-4,
            "{formula}: {got} {mass}"
        );
    }
}

/// Acid and base to a target pH against PHREEQC (fixtures/acid-phreeqc.json, made by
/// against_phreeqc/acid.py).
#[test]
fn acids_and_bases_to_a_target_ph_agree_with_phreeqc() {
    use iron_twin_chemistry::acid::{Bottle, PhProduct, ph_dose};
    let file = std::fs::read_to_string(concat!(
        env!("CARGO_MANIFEST_DIR"),
        "/tests/fixtures/acid-phreeqc.json"
    ));
    let fixture: serde_json::Value = serde_json::from_str(&file.expect("a file")).expect("JSON");
    let cases = fixture["cases"].as_array().expect("cases");
    assert!(cases.len() >= 30);
    let mut widest = 0.0f64;
    for case in cases {
        let get = |key: &str| case[key].as_f64().expect("a number");
        let product: PhProduct = serde_json::from_value(case["with"].clone()).expect("a product");
        let milligrams = [
            ("Ca", 40.078, "ca"),
            ("Mg", 24.305, "mg"),
            ("Na", 22.990, "na"),
            ("SO4", 96.06, "so4"),
        ];
        let mut water = SourceWater {
            ph: Some(get("ph")),
            alkalinity_mg_per_l_caco3: Some(50.043 * get("alkalinity_meq_per_l")),
            mg_per_l: milligrams
                .iter()
                .map(|(k, mass, c)| ((*k).into(), mass * get(&format!("{c}_mmol_per_l"))))
                .collect(),
            ..SourceWater::default()
        };
        // Chloride balances the charge there too.
        let charge = 2.0 * (get("ca_mmol_per_l") + get("mg_mmol_per_l") - get("so4_mmol_per_l"))
            + get("na_mmol_per_l")
            - get("alkalinity_meq_per_l");
        water.mg_per_l.insert("Cl".into(), 35.45 * charge.max(0.0));
        let bottle = Bottle {
            product,
            percent: 30.0,
            density_kg_per_l: 1.2,
        };
        let found = ph_dose(&water, &bottle, get("target_ph"))
            .expect("a dose")
            .mmol_per_l;
        let off = (found / get("mmol_per_l") - 1.0).abs();
        widest = widest.max(off);
        assert!(off < 0.03, "{case}: {found}");
    }
    assert!(widest > 1e-6, "not the same computation");
}

#[test]
fn solids_fall_out_where_phreeqc_says() {
    // Source: against_phreeqc/solids.py; log10 of the ion product over the solubility product.
    let fixture = fixture("solids-phreeqc.json");
    for case in fixture["cases"].as_array().unwrap() {
        let (ions, ph) = (ions(&case["mmol_per_l"]), case["ph"].as_f64().unwrap());
        for (solid, got) in [
            ("gypsum", gypsum(&ions)),
            ("brushite", calcium_phosphate(&ions, ph)),
        ] {
            let (got, want) = (got.log10(), case[solid].as_f64().unwrap());
            // A feed to 0.08; a concentrate, at the end of where Davies' activities hold, to 0.15.
            let tolerance = if case["name"] == "concentrate in hard water" {
                0.15
            } else {
                0.08
            };
            assert!(
                (got - want).abs() < tolerance,
                "{solid} in {} at pH {ph}: {got}, {want}",
                case["name"]
            );
        }
    }
}
