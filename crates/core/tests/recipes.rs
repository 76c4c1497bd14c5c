//! Recipes against a handbook, and the example of the contract.

use iron_twin_core::mix::recipe::{Recipe, read};

/// Hoagland and Arnon (1950), solution 1: 5 mM calcium nitrate, 5 mM potassium nitrate, 2 mM
/// magnesium sulfate and 1 mM potassium dihydrogen phosphate.
fn hoagland() -> Recipe {
    read(
        r#"{"volume_l": 40, "ingredients": [
            {"formula": "Ca(NO3)2·4H2O", "mmol_per_l": 5}, {"formula": "KNO3", "mmol_per_l": 5},
            {"formula": "MgSO4·7H2O", "mmol_per_l": 2}, {"formula": "KH2PO4", "mmol_per_l": 1}]}"#,
    )
    .unwrap()
}

#[test]
fn hoagland_and_arnon_comes_out_as_in_the_handbook() {
    let solution = hoagland().solution().unwrap();
    // mg/L as handbooks print them: N 210, P 31, K 235, Ca 200, Mg 49, S 64.
    for (element, want) in [
        ("N", 210.1),
        ("P", 31.0),
        ("K", 234.6),
        ("Ca", 200.4),
        ("Mg", 48.6),
        ("S", 64.1),
    ] {
        assert!(
            (solution.mg_per_l[element] - want).abs() < 0.06,
            "{element} {}",
            solution.mg_per_l[element]
        );
    }
    for (ion, want) in [
        ("NO3", 15.0),
        ("H2PO4", 1.0),
        ("K", 6.0),
        ("Ca", 5.0),
        ("Mg", 2.0),
        ("SO4", 2.0),
    ] {
        assert!((solution.mmol_per_l[ion] - want).abs() < 1e-9, "{ion}");
    }
    assert!((solution.conductivity_ms_per_cm.at_25c / 2.157 - 1.0).abs() < 0.03);
    assert!((solution.ionic_strength_mol_per_l - 0.029).abs() < 1e-9);
    assert!(solution.charge_balance_percent.abs() < 1e-9 && solution.warnings.is_empty());
    assert!((solution.portions[0].g - 40.0 * 5.0 * 0.236_146).abs() < 0.01);
}

#[test]
fn the_contract_s_example_is_read_whole() {
    let recipe = read(
        r#"{ "volume_l": 40, "temperature_c": 25,
      "water": { "name": "tap", "ph": 7.6, "alkalinity_mg_per_l_caco3": 155, "mg_per_l": { "Ca": 64, "Mg": 12, "Na": 23, "Cl": 39, "SO4": 48 } },
      "ingredients": [
        { "formula": "Ca(NO3)2·4H2O", "mmol_per_l": 5 },
        { "formula": "KNO3", "g_per_l": 0.5055 },
        { "formula": "MgSO4·7H2O", "g": 19.72 },
        { "label": { "name": "base powder", "n": 6, "n_nitrate": 4.5, "n_ammonium": 1.5, "n_urea": 0, "p2o5": 11, "k2o": 30, "mg": 1.5, "s": 2.0, "fe": 0.2 }, "g_per_l": 0.6 },
        { "label": { "name": "liquid feed", "n": 3.2, "p2o5": 1.1, "k2o": 4.4, "density_kg_per_l": 1.09 }, "ml_per_l": 4 } ] }"#,
    )
    .unwrap();
    let solution = recipe.solution().unwrap();
    // By hand: 200.39 from calcium nitrate and 64 from the water.
    assert!((solution.mg_per_l["Ca"] - 264.39).abs() < 0.01);
    // 0.5055 g/L of potassium nitrate, 30 % K2O of 0.6 g/L, 4.4 % K2O of 4.36 g/L.
    let k = 0.5055 * 39.098 / 101.102 * 1000.0 + 0.830_15 * (0.30 * 600.0 + 0.044 * 4360.0);
    assert!(
        (solution.mg_per_l["K"] - k).abs() < 0.05,
        "{} {k}",
        solution.mg_per_l["K"]
    );
    assert!((solution.mmol_per_l["HCO3"] - 3.097).abs() < 1e-3);
    assert!(
        solution
            .warnings
            .iter()
            .any(|w| w.code == "nitrogen_form_unknown")
    );
    assert!((solution.portions[4].ml.unwrap() - 160.0).abs() < 1e-9);
}
