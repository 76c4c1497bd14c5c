//! `iron-twin taste`: what a tasting told, what it wants, what is served.

use serde_json::{Value, json};
use std::process::{Command, Output};

fn run(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_iron-twin"))
        .arg("taste")
        .args(arguments)
        .output()
        .expect("the binary")
}

fn told(arguments: &[&str]) -> Value {
    let done = run(arguments);
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    serde_json::from_slice(&done.stdout).expect("JSON")
}

#[test]
fn triangles_and_pairs_are_told_exactly() {
    // ISO 4120, table A.1, from memory: 13 of 24 at 5 %. One less tells nothing.
    let of = |right: &str| {
        told(&[
            "result",
            "--serving",
            "triangle",
            "--servings",
            "24",
            "--right",
            right,
        ])
    };
    let (enough, short) = (of("13"), of("12"));
    assert_eq!(
        (&enough["told"], &enough["wanted"], &short["told"]),
        (&json!(true), &json!(13), &json!(false))
    );
    // The sum of binomial terms, worked out beside.
    assert!(
        (enough["p"].as_f64().expect("p") - 0.028_441_128).abs() < 1e-6,
        "{enough}"
    );
    let pair = told(&[
        "result",
        "--serving",
        "pair",
        "--servings",
        "12",
        "--right",
        "10",
    ]);
    assert!(
        (pair["p"].as_f64().expect("p") - 2.0 * 79.0 / 4096.0).abs() < 1e-12
            && pair["told"] == true,
        "{pair}"
    );
}

#[test]
fn a_plan_names_servings_that_keep_their_power() {
    let plan = told(&["plan", "--serving", "triangle", "--share", "30%"]);
    let n = plan["servings"].as_u64().expect("a number");
    assert!(
        (40..52).contains(&n) && plan["power"].as_f64().expect("a chance") >= 0.8,
        "{plan}"
    );
    assert_eq!(
        told(&["plan", "--serving", "pair", "--share", "50%"])["servings"],
        Value::Null
    );
}

#[test]
fn twelve_are_served_and_slips_end_in_one_line() {
    let serve = ["serve", "--cups", "4", "--tasters", "12", "--seed", "5"];
    let cups = told(&serve);
    assert_eq!(cups["tasters"].as_array().expect("tasters").len(), 12);
    assert_eq!(cups, told(&serve));
    for (slip, word) in [
        (
            &["serve", "--cups", "1", "--tasters", "12"][..],
            "2 to 8 cups",
        ),
        (
            &[
                "result",
                "--serving",
                "triangle",
                "--servings",
                "5",
                "--right",
                "6",
            ],
            "right",
        ),
        (
            &[
                "result",
                "--serving",
                "square",
                "--servings",
                "5",
                "--right",
                "1",
            ],
            "triangle",
        ),
        (
            &["plan", "--serving", "pair", "--share", "130%"],
            "beyond 0 to 100",
        ),
    ] {
        let done = run(slip);
        let said = String::from_utf8_lossy(&done.stderr).into_owned();
        assert!(
            !done.status.success() && said.contains(word),
            "{slip:?}: {said}"
        );
    }
}
