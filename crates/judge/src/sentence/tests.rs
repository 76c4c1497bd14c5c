use crate::analysis::analyse;
use crate::table::{Columns, read};

use crate::question::Question;
use crate::wording::{Wording, figure_within};
use iron_twin_terms::goal::{Better, Goal};

fn said(rows: &[(&str, f64)], question: Question) -> String {
    let csv: String = rows.iter().map(|(t, v)| format!("{t},{v}\n")).collect();
    let columns = Columns {
        measure: "g".into(),
        treatment: "t".into(),
        control: "plain water".into(),
        ..Columns::default()
    };
    let table = read(format!("t,g\n{csv}").as_bytes(), &columns).unwrap();
    analyse(&table, &question).unwrap().contrasts[0]
        .sentence
        .clone()
}

fn trays() -> Wording {
    Wording {
        unit: "g".into(),
        a_unit: "tray".into(),
        units: "trays".into(),
        each: "tray".into(),
        dose: String::new(),
        measure: String::new(),
    }
}

fn question(margin: &str) -> Question {
    Question {
        margin: margin.parse().ok(),
        wording: trays(),
        ..Question::default()
    }
}

const FAR: [(&str, f64); 8] = [
    ("plain water", 95.0),
    ("plain water", 101.0),
    ("plain water", 98.0),
    ("plain water", 104.0),
    ("full feed", 128.0),
    ("full feed", 133.0),
    ("full feed", 125.0),
    ("full feed", 131.0),
];

#[test]
fn a_clear_gain() {
    assert_eq!(
        said(&FAR, question("10%")),
        "Full feed gave 30 g a tray more than plain water (30 %). The true gain is very likely \
         between 23 and 36 g: more than the 10 % you said would matter."
    );
}

#[test]
fn lower_is_better_keeps_the_direction_and_turns_the_praise() {
    let text = said(
        &FAR,
        Question {
            better: Better::Lower,
            ..question("10%")
        },
    );
    assert!(
        text.contains("more than plain water (30 %), and less is better. The true excess is"),
        "{text}"
    );
}

#[test]
fn figures_are_as_fine_as_their_limits_support() {
    for (value, limits, text) in [
        (0.6284, (0.5164, 0.7794), "0.63"),
        (0.5164, (0.5164, 0.7794), "0.52"),
        (1234.6, (1100.0, 1500.0), "1235"),
        (2.0, (1.98, 2.03), "2"),
        (0.6284, (0.5, 0.5), "0.6284"),
    ] {
        assert_eq!(figure_within(value, limits), text);
    }
}

#[test]
fn cannot_tell_says_how_far_and_how_many() {
    let close = [
        ("plain water", 203.0),
        ("plain water", 222.0),
        ("full feed", 209.0),
        ("full feed", 224.0),
    ];
    let text = said(&close, question("10%"));
    assert!(
        text.starts_with(
            "Can't tell full feed from plain water: it could give 48 g (23 %) less \
                          or 56 g (26 %) more."
        ),
        "{text}"
    );
    assert!(
        text.contains("trays a side would settle a 10 % difference."),
        "{text}"
    );
}

#[test]
fn matching_says_what_is_given_up_at_worst() {
    let near = [
        ("plain water", 100.0),
        ("plain water", 101.0),
        ("plain water", 99.0),
        ("plain water", 100.5),
        ("half feed", 99.5),
        ("half feed", 100.2),
        ("half feed", 101.5),
        ("half feed", 99.8),
    ];
    let text = said(
        &near,
        Question {
            goal: Goal::Match,
            ..question("8%")
        },
    );
    assert!(
        text.starts_with("Half feed did the same as plain water"),
        "{text}"
    );
}

#[test]
fn two_trays_a_side_rest_on_the_model() {
    let far = [
        ("plain water", 312.0),
        ("plain water", 321.0),
        ("full feed", 401.0),
        ("full feed", 384.0),
    ];
    let text = said(&far, question("10%"));
    assert!(
        text.ends_with("a gap this wide in 33 of 100 deals."),
        "{text}"
    );
}

#[test]
fn one_tray_a_side_is_told_plainly() {
    let text = said(
        &[("plain water", 312.0), ("full feed", 401.0)],
        question("10%"),
    );
    assert!(
        text.contains("the tray cannot be told from the treatment"),
        "{text}"
    );
}

#[test]
fn in_few_words() {
    let brief = |rows: &[(&str, f64)], question: Question| {
        let csv: String = rows.iter().map(|(t, v)| format!("{t},{v}\n")).collect();
        let columns = Columns {
            measure: "g".into(),
            treatment: "t".into(),
            control: "plain water".into(),
            ..Columns::default()
        };
        let table = read(format!("t,g\n{csv}").as_bytes(), &columns).unwrap();
        analyse(&table, &question).unwrap().contrasts[0]
            .brief
            .clone()
    };
    assert_eq!(
        brief(&FAR, question("10%")),
        "Full feed gave 30 g a tray more than plain water (30 %); very likely 23 to 36 g, over \
         the 10 % asked."
    );
    assert_eq!(
        brief(&FAR, question("30%")),
        "Full feed gave 30 g a tray more than plain water (30 %); very likely 23 to 36 g, maybe \
         below the 30 % asked."
    );
    let close = [
        ("plain water", 203.0),
        ("plain water", 222.0),
        ("full feed", 209.0),
        ("full feed", 224.0),
    ];
    assert_eq!(
        brief(&close, question("10%")),
        "Can't tell full feed from plain water: 48 g (23 %) less to 56 g (26 %) more. About 7 \
         trays a side would settle it."
    );
    let one = [("plain water", 312.0), ("full feed", 401.0)];
    assert_eq!(
        brief(&one, question("10%")),
        "Can't tell full feed from plain water: one tray on a side."
    );
}

#[test]
fn what_is_read_off_is_named_and_is_no_more_of_a_tray() {
    let read_off = |unit: &str| Question {
        wording: Wording {
            unit: unit.into(),
            each: String::new(),
            measure: "area affected".into(),
            ..trays()
        },
        ..question("10%")
    };
    let far = said(&FAR, read_off("mm"));
    assert!(
        far.starts_with(
            "Area affected: full feed had 30 mm more than plain water (30 %). The true gain"
        ),
        "{far}"
    );
    let points = said(&FAR, read_off("points"));
    assert!(
        points.contains("had 30 points more than plain water") && points.contains("and 36 points"),
        "{points}"
    );
    // One colon leads to the doubt, not two.
    let near: Vec<(&str, f64)> = FAR
        .iter()
        .enumerate()
        .map(|(i, (t, _))| (*t, 90.0 + 9.0 * ((i * 3) % 4) as f64))
        .collect();
    let open = said(&near, read_off("mm"));
    assert!(
        open.starts_with("Area affected: can't tell full feed from plain water; it could have "),
        "{open}"
    );
    assert_eq!(
        Wording {
            unit: "points".into(),
            ..trays()
        }
        .amount(1.0, 0),
        "1 point"
    );
}
