//! The command as a user meets it: figures as JSON, a page in the terminal, one line and status 2
//! for bad input.

use serde_json::Value;
use std::io::Write;
use std::process::{Command, Output, Stdio};

const GOOD: &str = "tray;feed;shelf;weight_g;height\n1;plain water;a;97,3;71\n2;full \
                    feed;a;126,4;80\n3;plain water;b;101,0;70\n4;full feed;b;131,0;84\n5;plain \
                    water;c;93,5;69\n6;full feed;c;122,2;n/a\n7;plain water;d;99,1;74\n8;full \
                    feed;d;128,8;83\n";

fn run(csv: &[u8], arguments: &[&str]) -> Output {
    let mut child = Command::new(env!("CARGO_BIN_EXE_iron-twin"))
        .args(["analyse", "-"])
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .stderr(Stdio::piped())
        .spawn()
        .expect("the binary");
    // A refused call may close its input early.
    let _ = child.stdin.take().expect("piped").write_all(csv);
    child.wait_with_output().expect("an end")
}

fn usual<'a>(more: &[&'a str]) -> Vec<&'a str> {
    let mut all = vec![
        "--measure",
        "weight_g",
        "--treatment",
        "feed",
        "--control",
        "plain water",
    ];
    all.extend_from_slice(more);
    all
}

fn json(csv: &str, arguments: &[&str]) -> Value {
    let done = run(csv.as_bytes(), arguments);
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    serde_json::from_slice(&done.stdout).expect("JSON")
}

#[test]
fn figures_come_in_the_shape_of_the_contract() {
    let a = json(
        GOOD,
        &usual(&["--block", "shelf", "--margin", "10%", "--json"]),
    );
    assert_eq!(a["format"], "iron-twin/analysis/1");
    assert_eq!(
        (a["kind"].as_str(), a["goal"].as_str(), a["better"].as_str()),
        (Some("amount"), Some("beat"), Some("higher"))
    );
    assert_eq!(a["design"]["blocks"], 4);
    assert_eq!(a["treatments"][0]["name"], "plain water");
    assert_eq!(a["margin"]["given"], "10%");
    let c = &a["contrasts"][0];
    assert_eq!(
        (c["treatment"].as_str(), c["versus"].as_str()),
        (Some("full feed"), Some("plain water"))
    );
    // Paired by shelf: 29.1, 30.0, 28.7, 29.7; mean 29.375, standard deviation 0.5852.
    assert!((c["estimate"].as_f64().unwrap() - 29.375).abs() < 1e-9);
    assert!((c["se"].as_f64().unwrap() - 0.292_617).abs() < 1e-5);
    assert_eq!(c["df"], 3.0);
    assert_eq!(c["randomisation"]["assignments"], 16.0);
    assert_eq!(c["randomisation"]["p"], 0.125);
    assert_eq!(c["verdict"], "better_by_margin");
    assert!(
        c.get("simultaneous").is_none(),
        "one contrast needs no adjustment"
    );
    assert!(a["units_needed"].is_number());
}

#[test]
fn several_measures_are_adjusted_among_the_secondary_ones() {
    let a = json(
        GOOD,
        &usual(&["--measure", "height", "--measure", "tray", "--json"]),
    );
    let measures = a["measures"].as_array().expect("measures");
    assert_eq!(measures.len(), 3);
    assert!(
        measures[0]["contrasts"][0].get("p_holm").is_none(),
        "the primary stands alone"
    );
    let (p, holm) = (
        &measures[1]["contrasts"][0]["p"],
        &measures[1]["contrasts"][0]["p_holm"],
    );
    assert!((holm.as_f64().unwrap() - 2.0 * p.as_f64().unwrap()).abs() < 1e-12);
    assert_eq!(measures[1]["input"]["dropped"][0]["row"], 7);
}

#[test]
fn ratio_and_unequal_spread() {
    let ratio = json(
        GOOD,
        &usual(&["--scale", "ratio", "--margin", "10%", "--json"]),
    );
    let c = &ratio["contrasts"][0];
    assert!((c["ratio"].as_f64().unwrap() - 1.3).abs() < 0.01);
    assert_eq!(c["verdict"], "better_by_margin");
    let welch = json(GOOD, &usual(&["--variance", "unequal", "--json"]));
    let pooled = json(GOOD, &usual(&["--json"]));
    assert_eq!(
        welch["contrasts"][0]["p"],
        pooled["contrasts"][0]["welch"]["p"]
    );
}

#[test]
fn the_page_ends_in_a_sentence() {
    let done = run(
        GOOD.as_bytes(),
        &usual(&["--block", "shelf", "--margin", "10%"]),
    );
    let text = String::from_utf8(done.stdout).expect("text");
    let last = text.trim_end().lines().last().expect("a line");
    assert!(
        last.starts_with("Full feed gave 29.4 a unit more than plain water (30 %)."),
        "{text}"
    );
}

/// Each kind: its own figures in the JSON, and a page that ends in its sentence.
#[test]
fn every_kind_has_its_figures_and_its_page() {
    const ALL: &str = "feed,k,n,d,seen,a,s,dose,g\nplain water,1,20,12,yes,10,2,0,3\nplain \
                       water,3,20,14,no,14,1,0,3.2\nplain water,2,20,13,yes,11,2,1,4.4\nplain \
                       water,2,20,12,yes,10,1,1,4.1\nfull feed,9,20,8,yes,6,4,2,5.2\nfull \
                       feed,11,20,7,yes,5,5,2,5\nfull feed,8,20,9,yes,7,4,3,5.3\nfull \
                       feed,12,20,6,yes,4,5,3,5.1\n";
    let treated = ["--treatment", "feed", "--control", "plain water"];
    let cases: [(&[&str], &str, &str); 5] = [
        (
            &["--kind", "count", "--measure", "k"],
            "/contrasts/0/ratio",
            "Full feed had 5.0 times as many as plain water",
        ),
        (
            &["--kind", "share", "--measure", "k", "--out-of", "n"],
            "/contrasts/0/odds_ratio",
            "Full feed reached 50 %",
        ),
        (
            &["--kind", "days", "--measure", "d", "--seen", "seen"],
            "/contrasts/0/logrank/exact/p",
            "Full feed took",
        ),
        (
            &[
                "--kind",
                "days",
                "--measure",
                "d",
                "--seen",
                "seen",
                "--after",
                "a",
            ],
            "/treatments/0/median",
            "Full feed took",
        ),
        (
            &["--kind", "score", "--measure", "s"],
            "/contrasts/0/exact_p",
            "Full feed scored higher than plain water",
        ),
    ];
    for (arguments, pointer, said) in cases {
        let mut words: Vec<&str> = arguments.iter().chain(&treated).copied().collect();
        let page = String::from_utf8(run(ALL.as_bytes(), &words).stdout).expect("text");
        let last = page.trim_end().lines().last().expect("a line");
        assert!(last.starts_with(said), "{arguments:?}: {page}");
        words.push("--json");
        let answer = json(ALL, &words);
        assert!(
            answer
                .pointer(pointer)
                .is_some_and(serde_json::Value::is_number),
            "{pointer}: {answer:#}"
        );
        assert_eq!(answer["kind"], arguments[1]);
    }
    let dose = [
        "--kind",
        "dose",
        "--measure",
        "g",
        "--dose",
        "dose",
        "--margin",
        "0.5",
    ];
    let page = String::from_utf8(run(ALL.as_bytes(), &dose).stdout).expect("text");
    assert!(
        page.contains("is enough: it comes within 0.5 of the best"),
        "{page}"
    );
    let answer = json(ALL, &[&dose[..], &["--json"]].concat());
    assert!(
        answer["enough"]["dose"]
            .as_f64()
            .is_some_and(|d| d > 0.5 && d < 3.0),
        "{answer:#}"
    );
    assert!(answer["linear"]["slope"].as_f64().is_some_and(|s| s > 0.0));
}

#[test]
fn bad_input_is_one_line_and_status_two() {
    let good = GOOD.as_bytes();
    let cases: Vec<(&[u8], Vec<&str>, &str)> = vec![
        (
            good,
            vec![
                "--measure",
                "grams",
                "--treatment",
                "feed",
                "--control",
                "plain water",
            ],
            "no column 'grams'",
        ),
        (
            good,
            vec![
                "--measure",
                "weight_g",
                "--treatment",
                "feed",
                "--control",
                "rain",
            ],
            "no row is 'rain'",
        ),
        (
            good,
            vec!["--measure", "weight_g", "--treatment", "feed"],
            "--control",
        ),
        (good, usual(&["--margin", "much"]), "margin"),
        (good, usual(&["--margin", "-5"]), "above zero"),
        (good, usual(&["--goal", "win"]), "beat, match, best"),
        (good, usual(&["--goal", "match"]), "--margin"),
        (good, usual(&["--confidence", "1.5"]), "between 0 and 1"),
        (
            good,
            usual(&["--scale", "ratio", "--margin", "5"]),
            "per cent",
        ),
        (
            good,
            usual(&["--variance", "unequal", "--block", "shelf"]),
            "leave out",
        ),
        (
            good,
            usual(&["--kind", "mood"]),
            "amount, count, share, days, score, dose",
        ),
        (good, usual(&["--kind", "share"]), "--out-of"),
        (
            good,
            usual(&["--out-of", "shelf"]),
            "goes with --kind share",
        ),
        (
            good,
            usual(&["--kind", "count", "--margin", "10%"]),
            "whole numbers",
        ),
        (good, usual(&["--kind", "score", "--margin", "10%"]), "0.1"),
        (
            good,
            usual(&["--kind", "score", "--scale", "ratio"]),
            "does not go with --kind score",
        ),
        (
            good,
            vec!["--measure", "weight_g", "--kind", "dose"],
            "--treatment",
        ),
        (
            b"t,k,n\nw,5,4\nf,1,4\n",
            vec![
                "--measure",
                "k",
                "--out-of",
                "n",
                "--kind",
                "share",
                "--treatment",
                "t",
                "--control",
                "w",
            ],
            "row 2: 5 out of 4",
        ),
        (
            b"t,d,a\nw,5,9\nf,1,0\n",
            vec![
                "--measure",
                "d",
                "--after",
                "a",
                "--kind",
                "days",
                "--treatment",
                "t",
                "--control",
                "w",
            ],
            "row 2: not yet seen on day 9",
        ),
        (
            b"t,k\nw,-1\nf,1\n",
            vec![
                "--measure",
                "k",
                "--kind",
                "count",
                "--treatment",
                "t",
                "--control",
                "w",
            ],
            "row 2, column 'k'",
        ),
        (
            b"x,g\n1,2\n-1,3\n",
            vec!["--measure", "g", "--kind", "dose", "--dose", "x"],
            "below zero",
        ),
        (
            b"x,g\n1,2\n1,3\n",
            vec!["--measure", "g", "--kind", "dose", "--dose", "x"],
            "only one",
        ),
        (b"", usual(&[]), "no data rows"),
        (
            b"feed,weight_g\nplain water,1\nfull,\xff\n",
            usual(&[]),
            "UTF-8",
        ),
        (
            b"feed,weight_g\nplain water,1\nfull,1e400\n",
            usual(&[]),
            "row 3",
        ),
    ];
    for (csv, arguments, part) in cases {
        let done = run(csv, &arguments);
        let message = String::from_utf8_lossy(&done.stderr).into_owned();
        assert_eq!(done.status.code(), Some(2), "{arguments:?}: {message}");
        assert_eq!(message.trim_end().lines().count(), 1, "{message}");
        assert!(message.contains(part), "'{part}' is not in: {message}");
        assert!(done.stdout.is_empty());
    }
    let missing = Command::new(env!("CARGO_BIN_EXE_iron-twin"))
        .args([
            "analyse",
            "/no/such/file.csv",
            "--measure",
            "g",
            "--treatment",
            "t",
            "--control",
            "c",
        ])
        .output()
        .expect("the binary");
    assert_eq!(missing.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&missing.stderr).contains("/no/such/file.csv"));
}

#[test]
fn a_taken_port_and_an_unwritable_place_are_told() {
    let taken = std::net::TcpListener::bind("127.0.0.1:0").expect("a port");
    let port = taken.local_addr().expect("an address").port().to_string();
    let folder = tempfile::tempdir().expect("a folder");
    let serve = |port: &str, data: &std::path::Path| {
        let done = Command::new(env!("CARGO_BIN_EXE_iron-twin"))
            .args(["serve", "--port", port, "--data"])
            .arg(data)
            .output()
            .expect("the binary");
        assert_eq!(done.status.code(), Some(2));
        String::from_utf8_lossy(&done.stderr).into_owned()
    };
    let port_taken = serve(&port, &folder.path().join("a.sqlite"));
    assert!(
        port_taken.contains("taken") && port_taken.contains("--port"),
        "{port_taken}"
    );
    // A file where the folder should be cannot be written into, whoever asks.
    std::fs::write(folder.path().join("plain"), "x").expect("a file");
    let unwritable = serve("0", &folder.path().join("plain/trials.sqlite"));
    assert!(
        unwritable.contains("trials.sqlite") && unwritable.contains("--data"),
        "{unwritable}"
    );
}
