//! The outside values: each case names its source in `fixtures/<case>/case.json` (R 4.2.2 with the
//! packages said there). Tolerance: 1e-6 relative for linear models, exact p and Dunnett; 1e-4 for
//! REML fits.

use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_judge::table::{Columns, Table, read};
use iron_twin_judge::verdict::Verdict;
use iron_twin_terms::goal::{Better, Goal};
use serde_json::Value;
use std::fs;

fn fixture(path: &str) -> String {
    let full = format!("{}/tests/fixtures/{path}", env!("CARGO_MANIFEST_DIR"));
    fs::read_to_string(&full).unwrap_or_else(|e| panic!("{full}: {e}"))
}

/// The arguments of a case, as the command line would take them.
fn asked(args: &[String]) -> (Columns, Question) {
    let (mut columns, mut question) = (Columns::default(), Question::default());
    for pair in args.chunks(2) {
        let value = pair[1].clone();
        match pair[0].as_str() {
            "--kind" => columns.kind = serde_json::from_value(Value::String(value)).unwrap(),
            "--measure" => columns.measure = value,
            "--treatment" => columns.treatment = value,
            "--control" => columns.control = value,
            "--block" => columns.block = Some(value),
            "--unit" => columns.unit = Some(value),
            "--baseline" => columns.baseline = Some(value),
            "--out-of" => columns.out_of = Some(value),
            "--seen" => columns.seen = Some(value),
            "--dose" => columns.dose = Some(value),
            "--tau" => question.tau = Some(value.parse().unwrap()),
            "--margin" => question.margin = Some(value.parse().unwrap()),
            "--goal" => question.goal = serde_json::from_value(Value::String(value)).unwrap(),
            "--better" => question.better = serde_json::from_value(Value::String(value)).unwrap(),
            other => panic!("argument {other}"),
        }
    }
    (columns, question)
}

fn strings(value: &Value) -> Vec<String> {
    value
        .as_array()
        .unwrap()
        .iter()
        .map(|v| v.as_str().unwrap().to_owned())
        .collect()
}

fn case(name: &str, more: &[String]) -> (Table, Analysis, Value) {
    let case: Value = serde_json::from_str(&fixture(&format!("{name}/case.json"))).unwrap();
    let mut args = strings(&case["args"]);
    args.extend_from_slice(more);
    let (columns, question) = asked(&args);
    let table = read(fixture(&format!("{name}/data.csv")).as_bytes(), &columns).unwrap();
    let analysis = analyse(&table, &question).unwrap();
    (table, analysis, case["expected"].clone())
}

fn close(what: &str, got: f64, want: &Value, tolerance: f64) {
    let want = want
        .as_f64()
        .unwrap_or_else(|| panic!("{what}: no number in the reference"));
    assert!(
        (got - want).abs() <= tolerance * want.abs().max(1e-12),
        "{what}: got {got}, reference {want}"
    );
}

fn check_contrast(case: &str, got: &Contrast, want: &Value, tolerance: f64) {
    let what = |key: &str| format!("{case}, {}, {key}", got.treatment);
    // Estimates near zero are held to the size of their standard error.
    let se = want["se"].as_f64().unwrap();
    let estimate = want["estimate"].as_f64().unwrap();
    assert!(
        (got.estimate - estimate).abs() <= tolerance * se.max(estimate.abs()),
        "{}",
        what("estimate")
    );
    let figures = [
        ("se", got.se),
        ("low", got.low),
        ("high", got.high),
        ("p", got.p),
        ("percent", got.percent),
    ];
    for (key, value) in figures {
        let value = value.unwrap_or_else(|| panic!("{} is missing", what(key)));
        if key == "low" || key == "high" {
            assert!(
                (value - want[key].as_f64().unwrap()).abs() <= tolerance * se.max(value.abs()),
                "{}",
                what(key)
            );
        } else {
            close(&what(key), value, &want[key], tolerance);
        }
    }
    close(&what("df"), got.df, &want["df"], tolerance);
    if let Some(s) = want.get("simultaneous") {
        let ours = got.simultaneous.as_ref().expect("several contrasts");
        close(&what("simultaneous p"), ours.p, &s["p"], tolerance);
        for (value, key) in [(ours.low, "low"), (ours.high, "high")] {
            assert!(
                (value - s[key].as_f64().unwrap()).abs() <= tolerance * se.max(value.abs()),
                "{}",
                what(key)
            );
        }
    }
    if let Some(r) = want.get("randomisation") {
        let ours = got.randomisation.as_ref().expect("a re-deal");
        close(&what("re-deal p"), ours.p, &r["p"], 1e-6);
        close(
            &what("smallest p"),
            ours.smallest_possible_p.unwrap(),
            &r["smallest_possible_p"],
            1e-6,
        );
        close(&what("deals"), ours.assignments, &r["assignments"], 1e-12);
        assert!(ours.exact);
    }
    if let Some(df) = want.get("df_satterthwaite") {
        close(
            &what("df before the cap"),
            got.df_satterthwaite.unwrap(),
            df,
            tolerance,
        );
    }
}

fn hold(name: &str, tolerance: f64) {
    let (_, analysis, expected) = case(name, &[]);
    for want in expected["treatments"].as_array().unwrap() {
        let got = analysis
            .treatments
            .iter()
            .find(|t| t.name == want["name"].as_str().unwrap())
            .unwrap();
        assert_eq!(got.samples as u64, want["n_rows"].as_u64().unwrap());
        close(&format!("{name}, mean"), got.mean, &want["mean"], 1e-9);
        close(
            &format!("{name}, adjusted mean"),
            got.adjusted_mean,
            &want["adjusted_mean"],
            tolerance,
        );
    }
    let overall = analysis.overall.as_ref().unwrap();
    close(
        "F",
        overall.statistic,
        &expected["overall"]["statistic"],
        tolerance,
    );
    close(
        "F df",
        overall.df[1],
        &expected["overall"]["df"][1],
        tolerance,
    );
    close("F p", overall.p, &expected["overall"]["p"], tolerance);
    for (key, got) in [
        ("sd", analysis.residual.sd),
        ("between_units_sd", analysis.residual.between_units_sd),
        ("within_unit_sd", analysis.residual.within_unit_sd),
    ] {
        if let Some(want) = expected["residual"].get(key) {
            close(key, got.unwrap(), want, tolerance);
        }
    }
    for want in expected["contrasts"].as_array().unwrap() {
        let treatment = want["treatment"].as_str().unwrap();
        let got = analysis
            .contrasts
            .iter()
            .find(|c| c.treatment == treatment)
            .unwrap();
        check_contrast(name, got, want, tolerance);
    }
    if let Some(welch) = expected.get("welch") {
        let got = analysis.contrasts[0].welch.as_ref().unwrap();
        close("Welch df", got.df, &welch["df"], 1e-6);
        close("Welch low", got.low, &welch["low"], 1e-6);
        close("Welch high", got.high, &welch["high"], 1e-6);
        close("Welch p", got.p, &welch["p"], 1e-6);
    }
}

#[test]
fn plant_growth() {
    hold("plant-growth", 1e-6);
}

#[test]
fn tomato_water_control() {
    hold("tomato-water-control", 1e-6);
}

#[test]
fn alfalfa_water_control_blocks() {
    hold("alfalfa-water-control-blocks", 1e-6);
}

#[test]
fn recovery_dunnett() {
    hold("recovery-dunnett", 1e-6);
}

#[test]
fn sleep_matched_pairs() {
    hold("sleep-matched-pairs", 1e-6);
}

#[test]
fn three_against_three() {
    hold("three-against-three", 1e-6);
}

#[test]
fn two_against_two_close() {
    hold("two-against-two-close", 1e-6);
}

#[test]
fn two_against_two_far() {
    hold("two-against-two-far", 1e-6);
}

#[test]
fn kiwishade_samples_in_units() {
    hold("kiwishade-samples-in-units", 1e-4);
}

#[test]
fn plants_in_trays_ragged() {
    hold("plants-in-trays-ragged", 1e-4);
}

/// Every figure of a JSON object against the answer's own JSON.
fn figures(what: &str, got: &Value, want: &Value, tolerance: f64) {
    for (key, value) in want.as_object().unwrap() {
        if value.is_number() {
            close(
                &format!("{what}, {key}"),
                got[key].as_f64().unwrap_or(f64::NAN),
                value,
                tolerance,
            );
        } else if value.is_object() {
            figures(&format!("{what}, {key}"), &got[key], value, tolerance);
        }
    }
}

/// The answer's contrasts held against those of a case, by treatment.
fn contrasts(name: &str, tolerance: f64) -> Analysis {
    let (_, analysis, expected) = case(name, &[]);
    close(
        name,
        analysis.dispersion.flatten().unwrap(),
        &expected["dispersion"],
        tolerance,
    );
    for want in expected["contrasts"].as_array().unwrap() {
        let treatment = want["treatment"].as_str().unwrap();
        let got = analysis
            .contrasts
            .iter()
            .find(|c| c.treatment == treatment)
            .unwrap();
        figures(
            &format!("{name}, {treatment}"),
            &serde_json::to_value(got).unwrap(),
            want,
            tolerance,
        );
    }
    analysis
}

#[test]
fn insect_sprays_counts() {
    let analysis = contrasts("insect-sprays-counts", 1e-6);
    // Five treatments against one control: the limits for all together are wider.
    assert!(
        analysis
            .contrasts
            .iter()
            .all(|c| c.simultaneous.as_ref().unwrap().low < c.low.unwrap())
    );
}

#[test]
fn broomrape_germination_shares() {
    let analysis = contrasts("broomrape-germination", 1e-6);
    let c = &analysis.contrasts[0];
    assert!((c.estimate - 100.0 * (c.share.unwrap() - c.share_control.unwrap())).abs() < 1e-9);
    // Delta method by hand, no blocks: dispersion times p(1-p)/n of both sides.
    let (p, q) = (c.share.unwrap(), c.share_control.unwrap());
    let variance =
        analysis.dispersion.flatten().unwrap() * (p * (1.0 - p) / 295.0 + q * (1.0 - q) / 272.0);
    assert!(
        (c.se.unwrap() - 100.0 * variance.sqrt()).abs() < 1e-6,
        "{:?}",
        c.se
    );
}

fn days(name: &str) {
    let (_, analysis, expected) = case(name, &[]);
    let contrast = serde_json::to_value(&analysis.contrasts[0]).unwrap();
    figures(name, &contrast["logrank"], &expected["logrank"], 1e-6);
    figures(
        name,
        &contrast["restricted_mean"],
        &expected["restricted_mean"],
        1e-6,
    );
    for (treatment, median) in expected["median"].as_object().unwrap() {
        let got = analysis
            .treatments
            .iter()
            .find(|t| t.name == *treatment)
            .unwrap();
        close(name, got.median.flatten().unwrap(), median, 1e-12);
    }
}

#[test]
fn aml_days() {
    days("aml-days");
}

#[test]
fn first_root_days() {
    days("first-root-days");
}

fn ranks(name: &str) {
    let (_, analysis, expected) = case(name, &[]);
    let got = analysis
        .contrasts
        .iter()
        .map(|c| serde_json::to_value(c).unwrap())
        .collect::<Vec<_>>();
    let near = |key: &str| {
        got.iter()
            .any(|c| (c[key].as_f64().unwrap() - expected[key].as_f64().unwrap()).abs() < 1e-9)
    };
    assert!(
        near("exact_p") && near("probability_of_superiority"),
        "{name}: {got:#?}"
    );
}

#[test]
fn rank_sums() {
    ranks("rooting-ranks");
    ranks("plant-growth-ranks");
}

#[test]
fn rank_tests_of_all_treatments() {
    // R 4.2.2 kruskal.test and friedman.test, from the shared ranks-overall.json.
    let expected: Value = serde_json::from_str(&fixture("ranks-overall.json")).unwrap();
    let score = ["--kind".to_owned(), "score".to_owned()];
    for (name, key) in [
        ("insect-sprays-counts", "kruskal_insect_sprays"),
        ("alfalfa-water-control-blocks", "friedman_alfalfa"),
    ] {
        let (_, analysis, _) = case(name, &score);
        let overall = analysis.overall.unwrap();
        close(key, overall.statistic, &expected[key]["chi2"], 1e-9);
        close(key, overall.df[0], &expected[key]["df"], 1e-12);
        close(key, overall.p, &expected[key]["p"], 1e-6);
    }
}

#[test]
fn dose_curves() {
    for (name, tolerance) in [
        ("ryegrass-dose", 1e-4),
        ("plateau-dose", 1e-6),
        ("oats-dose-blocks", 1e-6),
    ] {
        let (_, analysis, expected) = case(name, &[]);
        figures(
            name,
            &serde_json::to_value(analysis.dose.unwrap()).unwrap(),
            &expected,
            tolerance,
        );
    }
}

#[test]
fn verdicts_follow_the_table() {
    let all: Value = serde_json::from_str(&fixture("verdicts.json")).unwrap();
    let mut checked = 0;
    for entry in all["cases"].as_array().unwrap() {
        let (name, args) = (entry["case"].as_str().unwrap(), strings(&entry["args"]));
        let (_, analysis, _) = case(name, &args);
        if let Some(want) = entry["margin_absolute"].as_f64() {
            let got = analysis.margin.as_ref().and_then(|m| m.absolute).unwrap();
            assert!((got - want).abs() < 1e-9 * want);
        }
        for contrast in &analysis.contrasts {
            let got = serde_json::to_value(contrast.verdict).unwrap();
            assert_eq!(
                got, entry["verdicts"][&contrast.treatment],
                "{name} {args:?} {}",
                contrast.treatment
            );
            checked += 1;
        }
    }
    assert!(
        checked >= 25,
        "only {checked} verdicts were held against the reference"
    );
}

#[test]
fn renaming_shifting_and_scaling_carry_through() {
    let (table, plain, _) = case("alfalfa-water-control-blocks", &[]);
    let mut moved = table.clone();
    moved
        .observations
        .iter_mut()
        .for_each(|o| o.value = 3.0 * o.value + 50.0);
    moved.observations.reverse();
    moved.treatments[1] = "renamed".into();
    let other = analyse(&moved, &Question::default()).unwrap();
    for (a, b) in plain.contrasts.iter().zip(&other.contrasts) {
        assert!((3.0 * a.estimate - b.estimate).abs() < 1e-9);
        assert!((a.p.unwrap() - b.p.unwrap()).abs() < 1e-9);
        assert_eq!(
            a.randomisation.as_ref().unwrap().p,
            b.randomisation.as_ref().unwrap().p
        );
        assert_eq!(a.verdict, b.verdict);
    }
}

#[test]
fn goal_best_names_all_that_may_be_best() {
    let (_, analysis, _) = case(
        "recovery-dunnett",
        &[
            "--goal".into(),
            "best".into(),
            "--better".into(),
            "lower".into(),
        ],
    );
    // b1 less b2 is 5.33 with standard error 2.115: t = 2.52 stays below Tukey's 2.69 for four
    // treatments and 37 df.
    assert_eq!(analysis.best.unwrap(), ["b1", "b2"]);
    let (_, analysis, _) = case("plant-growth", &["--goal".into(), "best".into()]);
    assert_eq!(analysis.best.unwrap(), ["ctrl", "trt2"]);
}

#[test]
fn degenerate_tables_give_an_answer_or_a_reason() {
    let columns = Columns {
        measure: "g".into(),
        treatment: "t".into(),
        control: "w".into(),
        block: Some("b".into()),
        ..Columns::default()
    };
    let tables = [
        ("t,g,b\nw,1,1\nf,2,1\n", "one_unit_per_treatment"),
        ("t,g,b\nw,2,1\nf,2,1\nw,2,2\nf,2,2\n", "no_variation"),
        (
            "t,g,b\nw,1,1\nf,2,1\nw,3,2\nf,4,2\n",
            "no_residual_variation",
        ),
        (
            "t,g,b\nw,1,1\nf,2,1\nw,3,2\nf,4.5,2\nw,9,3\n",
            "uninformative_block",
        ),
    ];
    for (csv, code) in tables {
        let table = read(csv.as_bytes(), &columns).unwrap();
        let analysis = analyse(
            &table,
            &Question {
                goal: Goal::Beat,
                better: Better::Lower,
                ..Question::default()
            },
        )
        .unwrap();
        assert!(
            analysis.warnings.iter().any(|w| w.code == code),
            "{csv}: {:?}",
            analysis.warnings
        );
        assert!(
            analysis
                .contrasts
                .iter()
                .all(|c| c.verdict == Verdict::CannotTell)
        );
    }
    let apart = read(b"t,g,b\nw,1,1\nw,2,1\nf,2,2\nf,3,2\n", &columns).unwrap();
    let message = analyse(&apart, &Question::default())
        .unwrap_err()
        .to_string();
    assert!(message.contains("'f' never shares a block"), "{message}");
}
