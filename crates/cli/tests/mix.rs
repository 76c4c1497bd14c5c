//! `iron-twin mix` as somebody calls it.

use std::io::Write;
use std::process::{Command, Output, Stdio};

fn mix(recipe: &str, args: &[&str]) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_iron-twin"))
        .args(["mix", "-"])
        .args(args)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .unwrap();
    child
        .stdin
        .take()
        .unwrap()
        .write_all(recipe.as_bytes())
        .unwrap();
    child.wait_with_output().unwrap()
}

const HOAGLAND: &str = r#"{"volume_l": 1, "ingredients": [
    {"formula": "Ca(NO3)2*4H2O", "mmol_per_l": 5}, {"formula": "KNO3", "mmol_per_l": 5},
    {"formula": "MgSO4.7H2O", "mmol_per_l": 2}, {"formula": "KH2PO4", "mmol_per_l": 1}]}"#;

#[test]
fn json_has_the_shape_of_the_contract() {
    let out = mix(HOAGLAND, &["--json"]);
    assert!(out.status.success());
    let solution: serde_json::Value = serde_json::from_slice(&out.stdout).unwrap();
    assert_eq!(solution["format"], "iron-twin/mix/1");
    for key in [
        "N",
        "N_nitrate",
        "N_ammonium",
        "N_urea",
        "P",
        "K",
        "Ca",
        "Mg",
        "S",
        "Na",
        "Cl",
        "Fe",
        "Mn",
        "Zn",
        "B",
        "Cu",
        "Mo",
    ] {
        assert!(solution["mg_per_l"][key].is_number(), "{key}");
    }
    for key in [
        "NO3", "NH4", "H2PO4", "K", "Ca", "Mg", "SO4", "Na", "Cl", "HCO3",
    ] {
        assert!(solution["mmol_per_l"][key].is_number(), "{key}");
    }
    let ec = solution["conductivity_ms_per_cm"]["at_25c"]
        .as_f64()
        .unwrap();
    assert_eq!(solution["ppm"]["700"].as_f64().unwrap(), 700.0 * ec);
    assert!(solution["warnings"].as_array().unwrap().is_empty());
}

#[test]
fn the_page_says_what_to_measure_out() {
    let out = mix(HOAGLAND, &[]);
    let page = String::from_utf8(out.stdout).unwrap();
    assert!(page.starts_with("1 L of solution, EC 2.1"), "{page}");
    assert!(
        page.contains("measure out") && page.contains("1.18 g"),
        "{page}"
    );
}

#[test]
fn a_cold_solution_says_what_a_meter_makes_of_it() {
    let cold = HOAGLAND.replacen(
        "\"volume_l\": 1,",
        "\"volume_l\": 1, \"temperature_c\": 10,",
        1,
    );
    let page = String::from_utf8(mix(&cold, &[]).stdout).unwrap();
    // A meter that takes off 2 % a degree finds 0.7 of the value at 25 °C, and shows what it reads
    // divided by that.
    assert!(
        page.contains("at 10 °C it conducts 1.5")
            && page.contains("a meter that corrects 2 % a degree shows 2.1"),
        "{page}"
    );
}

#[test]
fn a_target_is_aimed_for_and_what_is_missed_is_told() {
    let recipe = r#"{"volume_l": 10, "target": {"N": 210.1, "P": 31, "K": 234.6, "Ca": 200.4, "Mg": 48.6, "S": 64.1, "Fe": 2},
        "ingredients": [{"formula": "Ca(NO3)2*4H2O"}, {"formula": "KNO3"}, {"formula": "MgSO4.7H2O"}, {"formula": "KH2PO4"}]}"#;
    let answer: serde_json::Value =
        serde_json::from_slice(&mix(recipe, &["--json"]).stdout).unwrap();
    // Hoagland and Arnon 1950: 5, 5, 2 and 1 mmol/L.
    for (i, grams) in [1.1808, 0.5055, 0.4929, 0.1361].into_iter().enumerate() {
        let got = answer["portions"][i]["g_per_l"].as_f64().unwrap();
        assert!((got / grams - 1.0).abs() < 0.003, "{got} {grams}");
    }
    let page = String::from_utf8(mix(recipe, &[]).stdout).unwrap();
    assert!(
        page.contains("! Fe: 0.00 instead of 2.00 mg/L: nothing here brings it"),
        "{page}"
    );
}

#[test]
fn concentrates_stand_on_the_page_with_what_falls_out() {
    let strong = HOAGLAND.replacen(
        "\"volume_l\": 1,",
        "\"volume_l\": 1, \"stock_times\": 900,",
        1,
    );
    let page = String::from_utf8(mix(&strong, &[]).stdout).unwrap();
    assert!(page.contains("tank A") && page.contains("tank B"), "{page}");
    assert!(page.contains("falls out. Make it at most"), "{page}");
}

#[test]
fn slips_end_with_status_two_and_one_line() {
    for (recipe, said) in [
        ("{", "EOF"),
        (r#"{"volume_l": -1}"#, "volume_l: must lie"),
        (
            r#"{"volume_l": 1, "stock_times": 1}"#,
            "stock_times: must lie between 2 and 1000",
        ),
        (
            r#"{"volume_l": 1, "target": {"N": -5}, "ingredients": [{"formula": "KNO3"}]}"#,
            "target: N -5 mg/L cannot be aimed for",
        ),
        (
            r#"{"volume_l": 1, "target": {"Q": 5}, "ingredients": [{"formula": "KNO3"}]}"#,
            "target: Q 5 mg/L",
        ),
        (
            r#"{"volume_l": 1, "target": {"N": 5}}"#,
            "one salt or feed to use",
        ),
        (
            r#"{"volume_l": 1, "target": {"N": 5}, "ingredients": [{"formula": "KNO3", "g": 1}]}"#,
            "ingredient 1 (KNO3), dose: the doses are worked out",
        ),
        (
            r#"{"volume_l": 1, "water": {"mg_per_l": {"Ca": 40}, "mmol_per_l": {"Ca": 1}}}"#,
            "water: Ca is given in mg/L and in mmol/L",
        ),
        (r#"{"volume_l": 1e9}"#, "volume_l: must lie"),
        (
            r#"{"volume_l": 1, "ingredients": [{"formula": "Kx", "g": 1}]}"#,
            "ingredient 1 (Kx), formula: 'Kx' is no element",
        ),
        (
            r#"{"volume_l": 1, "ingredients": [{"label": {"name": "a", "n": 101}, "g": 1}]}"#,
            "ingredient 1 (a), label: n must lie",
        ),
        (
            r#"{"volume_l": 1, "ingredients": [{"label": {"name": "a", "n": 1}, "ml_per_l": 1}]}"#,
            "density_kg_per_l",
        ),
        (
            r#"{"volume_l": 1, "water": {"mg_per_l": {"Xe": 1}}}"#,
            "water: 'Xe' is not known",
        ),
    ] {
        let out = mix(recipe, &["--json"]);
        let error = String::from_utf8(out.stderr).unwrap();
        assert_eq!(out.status.code(), Some(2), "{recipe}");
        assert_eq!(error.lines().count(), 1, "{error}");
        assert!(error.contains(said), "{error}");
        assert!(out.stdout.is_empty());
    }
}
