//! `iron-twin analyse --plan`, `growth`, `rounds` and `power --kind days`: as a user meets them.

use serde_json::Value;
use std::io::Write;
use std::path::PathBuf;
use std::process::{Command, Output, Stdio};

fn run(words: &[&str], input: &str) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_iron-twin"))
        .args(words)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the binary");
    // A refused call may close its input early.
    let _ = child
        .stdin
        .take()
        .expect("piped")
        .write_all(input.as_bytes());
    child.wait_with_output().expect("an end")
}

fn text(output: &Output) -> String {
    assert!(
        output.status.success(),
        "{}",
        String::from_utf8_lossy(&output.stderr)
    );
    String::from_utf8(output.stdout.clone()).expect("UTF-8")
}

fn refused(output: &Output) -> String {
    assert_eq!(output.status.code(), Some(2));
    let message = String::from_utf8_lossy(&output.stderr).into_owned();
    assert_eq!(message.trim_end().lines().count(), 1, "{message}");
    message
}

struct Plan(PathBuf);

impl Plan {
    fn of(name: &str, json: &str) -> Self {
        let file =
            std::env::temp_dir().join(format!("iron-twin-plan-{}-{name}.json", std::process::id()));
        std::fs::write(&file, json).expect("a folder to write to");
        Self(file)
    }

    fn path(&self) -> &str {
        self.0.to_str().expect("UTF-8")
    }
}

impl Drop for Plan {
    fn drop(&mut self) {
        let _ = std::fs::remove_file(&self.0);
    }
}

const FACTORIAL: &str = r#"{ "format": "iron-twin/plan/1", "title": "Mats and air",
    "design": { "kind": "factorial", "block": "level",
        "factors": [ { "column": "mat", "reference": "bare" }, { "column": "air", "reference": "still" } ] },
    "measures": [ { "column": "g", "margin": "10%" }, { "column": "leaves", "kind": "count" } ] }"#;

fn trays() -> String {
    let mut csv = "level,mat,air,g,leaves\n".to_owned();
    for level in 0..4 {
        for (mat, air, g) in [
            ("bare", "still", 100),
            ("wool", "still", 103),
            ("bare", "bubbled", 101),
            ("wool", "bubbled", 131),
        ] {
            let noise = (level * 7 + g) % 5;
            csv += &format!(
                "{level},{mat},{air},{}.{noise},{}\n",
                g + 3 * level,
                20 + noise + level
            );
        }
    }
    csv
}

#[test]
fn a_plan_brings_its_measures_and_its_factors() {
    let plan = Plan::of("factorial", FACTORIAL);
    let out: Value = serde_json::from_str(&text(&run(
        &["analyse", "-", "--plan", plan.path(), "--json"],
        &trays(),
    )))
    .unwrap();
    assert_eq!(out["design"]["name"], "factorial in blocks");
    assert_eq!(out["margin"]["given"], "10%");
    assert_eq!(out["factors"]["interaction"]["found"], true);
    assert_eq!(out["measures"][1]["kind"], "count");
    assert_eq!(out["contrasts"][0]["versus"], "bare + still");
    let page = text(&run(
        &["analyse", "-", "--plan", plan.path(), "--measure", "g"],
        &trays(),
    ));
    assert!(
        page.contains("Does one work differently with the other?"),
        "{page}"
    );
    assert!(
        page.contains("bubbled (over all)")
            && page
                .trim_end()
                .lines()
                .last()
                .unwrap()
                .starts_with("Bubbled helps only with wool")
    );
}

#[test]
fn options_beside_a_plan_lead() {
    let plan = Plan::of("lead", FACTORIAL);
    let words = [
        "analyse",
        "-",
        "--plan",
        plan.path(),
        "--measure",
        "g",
        "--treatment",
        "mat",
        "--control",
        "bare",
        "--margin",
        "3%",
        "--json",
    ];
    let out: Value = serde_json::from_str(&text(&run(&words, &trays()))).unwrap();
    assert_eq!(
        (
            out["design"]["treatments"].as_u64(),
            out["margin"]["given"].as_str()
        ),
        (Some(2), Some("3%"))
    );
    assert!(out.get("factors").is_none());
}

#[test]
fn a_plan_that_is_none_is_refused_in_one_line() {
    let other = Plan::of("other", r#"{ "format": "iron-twin/plan/9" }"#);
    let message = refused(&run(&["analyse", "-", "--plan", other.path()], &trays()));
    assert!(
        message.contains(other.path()) && message.contains("iron-twin/plan/1"),
        "{message}"
    );
    let bare = Plan::of("bare", r#"{ "format": "iron-twin/plan/1" }"#);
    assert!(
        refused(&run(&["analyse", "-", "--plan", bare.path()], &trays()))
            .contains("names no measure")
    );
    let message = refused(&run(
        &["analyse", "-", "--plan", bare.path(), "--measure", "g"],
        &trays(),
    ));
    assert!(
        message.contains("--treatment COL and --control NAME"),
        "{message}"
    );
    assert!(
        refused(&run(
            &["analyse", "-", "--plan", "/nowhere/plan.json"],
            &trays()
        ))
        .contains("cannot be read")
    );
    let wrong = Plan::of("wrong", &FACTORIAL.replace("\"mat\"", "\"matt\""));
    assert!(
        refused(&run(&["analyse", "-", "--plan", wrong.path()], &trays()))
            .contains("no column 'matt'")
    );
}

#[test]
fn a_plan_is_dealt_again_from_its_seed() {
    let json = r#"{ "format": "iron-twin/plan/1", "treatments": ["plain water", "half feed", "full feed", "double feed"], "seed": 42,
        "rack": { "name": "rack", "levels": 2, "slots": 4 } }"#;
    let plan = Plan::of("deal", json);
    let csv = text(&run(&["deal", plan.path()], ""));
    // The deal that the core froze for this seed.
    let first: Vec<&str> = csv.lines().take(3).collect();
    assert_eq!(
        first,
        [
            "unit,block,level,slot,treatment",
            "B,level 1,1,1,full feed",
            "C,level 1,1,2,plain water"
        ]
    );
    assert_ne!(csv, text(&run(&["deal", plan.path(), "--seed", "43"], "")));
    let square = Plan::of(
        "square",
        &json.replace("\"slots\": 4", "\"slots\": 4, \"design\": \"latin_square\""),
    );
    assert!(refused(&run(&["deal", square.path()], "")).contains("4 levels (or a multiple)"));
    let bare = Plan::of("bare-deal", r#"{ "format": "iron-twin/plan/1" }"#);
    assert!(refused(&run(&["deal", bare.path()], "")).contains("no \"rack\""));
}

#[test]
fn growth_is_compared_unit_by_unit() {
    let mut csv = "feed,tray,day,mm\n".to_owned();
    for tray in 0..6u32 {
        let fed = tray % 2 == 1;
        for day in (0..20).step_by(2) {
            let top = if fed { 120.0 } else { 100.0 } + f64::from(tray / 2);
            let mm = top / (1.0 + ((8.0 - f64::from(day)) / 2.0).exp())
                + 0.1 * f64::from((day + tray) % 3);
            csv += &format!(
                "{},t{tray},{day},{mm:.2}\n",
                if fed { "full" } else { "water" }
            );
        }
    }
    let words = [
        "growth",
        "-",
        "--measure",
        "mm",
        "--treatment",
        "feed",
        "--control",
        "water",
        "--unit",
        "tray",
        "--day",
        "day",
    ];
    let out: Value =
        serde_json::from_str(&text(&run(&[&words[..], &["--json"]].concat(), &csv))).unwrap();
    assert_eq!(
        (out["format"].as_str(), out["shape"].as_str()),
        (Some("iron-twin/growth/1"), Some("logistic"))
    );
    assert_eq!(out["units"].as_array().unwrap().len(), 6);
    assert_eq!(out["features"][0]["analysis"]["contrasts"][0]["df"], 4.0);
    let page = text(&run(&words, &csv));
    assert!(
        page.contains("Size that growth tends to: Full gave"),
        "{page}"
    );
    assert!(
        refused(&run(&words, "feed,tray,day,mm\nwater,a,x,1\n")).contains("no row holds a number")
    );
}

#[test]
fn rounds_are_pooled_to_one_sentence() {
    let csv = "round;gain;se\n1;8,1;3,03\n2;5,2;2,47\n3;-1,3;3,54\n4;11,4;2,97\n5;6,6;3,87\n";
    let words = [
        "rounds",
        "-",
        "--estimate",
        "gain",
        "--se",
        "se",
        "--treatment",
        "full feed",
        "--control",
        "plain water",
        "--in-unit",
        "g",
    ];
    let sentence = text(&run(&words, csv));
    assert!(
        sentence.starts_with("Over 5 rounds full feed gave 6 g more")
            && sentence.contains(
                "In a next round the true difference very likely lies between 4 \
                                  g less and 17 g more. Such a round would come out ahead in \
                                  about 86 of 100."
            ),
        "{sentence}"
    );
    let out: Value =
        serde_json::from_str(&text(&run(&[&words[..], &["--json"]].concat(), csv))).unwrap();
    assert_eq!(
        (out["rounds"].as_u64(), out["verdict"].as_str()),
        (Some(5), Some("better"))
    );
    assert!(refused(&run(&words, "round,gain,se\n1,2,\n")).contains("row 2, column 'se'"));
    assert!(refused(&run(&words, "round,gain,se\n1,2,1\n")).contains("rounds"));
    assert!(refused(&run(&[&words[..], &["--goal", "match"]].concat(), csv)).contains("--margin"));
}

#[test]
fn days_are_foreseen_by_seasons() {
    let words = [
        "power",
        "--kind",
        "days",
        "--treatments",
        "2",
        "--units",
        "8",
        "--days",
        "12",
        "--cv",
        "15%",
        "--margin",
        "2",
        "--until",
        "16",
    ];
    let out: Value =
        serde_json::from_str(&text(&run(&[&words[..], &["--json"]].concat(), ""))).unwrap();
    let again: Value =
        serde_json::from_str(&text(&run(&[&words[..], &["--json"]].concat(), ""))).unwrap();
    assert_eq!(out, again, "the same seed plays the same seasons");
    assert_eq!(out["seasons"], 4000);
    assert!((0.3..0.7).contains(&out["power"].as_f64().unwrap()));
    assert!(text(&run(&words, "")).contains("2 days is found in"));
    assert!(
        refused(&run(&[&words[..], &["--blocks", "2"]].concat(), ""))
            .contains("leave out --blocks")
    );
    assert!(
        refused(&run(
            &[
                "power",
                "--kind",
                "days",
                "--treatments",
                "2",
                "--units",
                "8",
                "--margin",
                "2",
                "--cv",
                "9%"
            ],
            ""
        ))
        .contains("--days N")
    );
}
