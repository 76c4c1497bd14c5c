//! `iron-twin power`: the classic figures, the page, and what is refused.

use serde_json::Value;
use std::process::{Command, Output};

fn run(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_iron-twin"))
        .arg("power")
        .args(arguments)
        .output()
        .expect("the binary")
}

fn json(arguments: &[&str]) -> Value {
    let done = run(&[arguments, &["--json"]].concat());
    assert!(
        done.status.success(),
        "{}",
        String::from_utf8_lossy(&done.stderr)
    );
    serde_json::from_slice(&done.stdout).expect("JSON")
}

fn near(got: &Value, want: f64) {
    let got = got.as_f64().expect("a number");
    assert!((got - want).abs() < 1e-6 * want.max(1.0), "{got} {want}");
}

#[test]
fn two_treatments_give_the_classic_computation() {
    // R 4.2.2 power.t.test, as in the shared power-and-quantiles.json.
    for (units, effect, power) in [
        ("4", "8%", 0.223_188_030_697_713),
        ("16", "6.4%", 0.590_960_057_334_34),
    ] {
        let got = json(&[
            "--treatments",
            "2",
            "--units",
            units,
            "--cv",
            "8%",
            "--margin",
            effect,
        ]);
        near(&got["power"], power);
    }
    let got = json(&[
        "--treatments",
        "2",
        "--units",
        "4",
        "--cv",
        "10%",
        "--margin",
        "10%",
    ]);
    assert!((got["smallest_detectable"]["sd"].as_f64().unwrap() - 2.380_754_213_27).abs() < 1e-4);
    assert!(
        (got["smallest_detectable"]["percent"].as_f64().unwrap() - 23.807_542_132_7).abs() < 1e-3
    );
    assert_eq!(got["units_needed"], 17);
    near(&got["smallest_possible_p"], 2.0 / 70.0);
}

#[test]
fn blocks_cost_degrees_of_freedom_and_change_the_deals() {
    let plain = json(&[
        "--treatments",
        "3",
        "--units",
        "4",
        "--cv",
        "8%",
        "--margin",
        "12%",
    ]);
    let blocked = json(&[
        "--treatments",
        "3",
        "--units",
        "4",
        "--cv",
        "8%",
        "--margin",
        "12%",
        "--blocks",
        "4",
    ]);
    assert!(blocked["power"].as_f64() < plain["power"].as_f64());
    near(&blocked["smallest_possible_p"], 2.0 / 16.0);
    assert_eq!(blocked["units_needed"].as_u64().map(|n| n % 4), Some(0));
}

#[test]
fn shares_counts_samples_and_matching_have_their_page() {
    let cases: [(&[&str], &str); 4] = [
        (
            &[
                "--kind", "share", "--share", "60%", "--out-of", "50", "--margin", "10",
            ],
            "A true difference of 10 points is found",
        ),
        (
            &[
                "--kind",
                "count",
                "--count",
                "20",
                "--dispersion",
                "2",
                "--margin",
                "30%",
            ],
            "A true difference of 30 % is found",
        ),
        (
            &[
                "--cv",
                "8%",
                "--within-cv",
                "20%",
                "--samples",
                "5",
                "--margin",
                "10%",
            ],
            "The smallest difference found 80 times",
        ),
        (
            &["--cv", "8%", "--goal", "match", "--margin", "10%"],
            "trials in 100 show that it gives up less than 10 %",
        ),
    ];
    for (arguments, part) in cases {
        let done = run(&[&["--treatments", "2", "--units", "6"], arguments].concat());
        let text = String::from_utf8_lossy(&done.stdout).into_owned();
        assert!(
            text.contains(part),
            "{arguments:?}: {text}{}",
            String::from_utf8_lossy(&done.stderr)
        );
    }
}

#[test]
fn what_cannot_be_is_one_line_and_status_two() {
    let cases: [(&[&str], &str); 9] = [
        (
            &[
                "--treatments",
                "2",
                "--units",
                "6",
                "--cv",
                "8%",
                "--margin",
                "10%",
                "--blocks",
                "4",
            ],
            "multiple of 4",
        ),
        (
            &["--treatments", "2", "--units", "6", "--margin", "10%"],
            "--cv",
        ),
        (
            &[
                "--treatments",
                "2",
                "--units",
                "6",
                "--cv",
                "8%",
                "--margin",
                "5",
            ],
            "per cent",
        ),
        (
            &[
                "--treatments",
                "1",
                "--units",
                "6",
                "--cv",
                "8%",
                "--margin",
                "5%",
            ],
            "treatments",
        ),
        (
            &[
                "--treatments",
                "2",
                "--units",
                "1",
                "--cv",
                "8%",
                "--margin",
                "5%",
            ],
            "degrees of freedom",
        ),
        (
            &[
                "--treatments",
                "2",
                "--units",
                "6",
                "--cv",
                "-8%",
                "--margin",
                "5%",
            ],
            "between units",
        ),
        (
            &[
                "--treatments",
                "2",
                "--units",
                "6",
                "--cv",
                "much",
                "--margin",
                "5%",
            ],
            "no per cent",
        ),
        (
            &[
                "--treatments",
                "2",
                "--units",
                "6",
                "--kind",
                "count",
                "--margin",
                "5%",
            ],
            "--count",
        ),
        (
            &[
                "--treatments",
                "2",
                "--units",
                "6",
                "--kind",
                "count",
                "--count",
                "5",
                "--cv",
                "8%",
                "--margin",
                "5%",
            ],
            "leave it out",
        ),
    ];
    for (arguments, part) in cases {
        let done = run(arguments);
        let message = String::from_utf8_lossy(&done.stderr).into_owned();
        assert_eq!(done.status.code(), Some(2), "{arguments:?}: {message}");
        assert!(
            message.contains(part) && message.trim_end().lines().count() == 1,
            "'{part}' is not in: {message}"
        );
    }
}

#[test]
fn the_page_s_picture_gives_the_same_figures() {
    use iron_twin_core::ask::picture::{Layout, picture};
    use iron_twin_terms::goal::Goal;
    // Treatments, and how often a block holds each; 0 without blocks. More units fill more blocks,
    // as levels of a rack.
    for (treatments, per_block) in [(2, 0), (4, 1), (3, 2)] {
        let drawn = picture(
            Layout {
                treatments,
                per_block,
                covariates: 0,
                in_turn: false,
                places: false,
            },
            4,
            Goal::Beat,
            8.0,
            10.0,
        )
        .expect("a picture");
        let asked = |units: usize| {
            let blocks = units.checked_div(per_block).unwrap_or(1).to_string();
            let (t, u) = (treatments.to_string(), units.to_string());
            let plain = [
                "--treatments",
                &t,
                "--units",
                &u,
                "--cv",
                "8%",
                "--margin",
                "10%",
            ];
            if per_block > 0 {
                json(&[&plain[..], &["--blocks", &blocks]].concat())
            } else {
                json(&plain)
            }
        };
        for sight in drawn
            .sights
            .iter()
            .filter(|s| [2, 4, 8, 16].contains(&s.units))
        {
            let got = asked(sight.units);
            near(&got["verdict"]["power"], sight.power);
            near(
                &got["verdict"]["smallest_detectable"]["percent"],
                sight.smallest_percent,
            );
            near(&got["smallest_possible_p"], sight.smallest_redeal_p);
        }
        if per_block > 1 {
            // The picture's count need not fill a level; the command asks for whole blocks.
            continue;
        }
        let needed = drawn.units_needed.expect("so many");
        let power = |units: usize| asked(units)["verdict"]["power"].as_f64().expect("a number");
        assert!(
            power(needed) >= 0.8 && power(needed - 1) < 0.8,
            "{treatments} {per_block}: {needed}"
        );
    }
}
