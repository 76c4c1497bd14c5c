use super::*;
use crate::stores::{Held, Item};
use crate::trial::made_up::opened;
use crate::trial::records::{ReadingRecord, Recorded, UnitRecords, record_head};
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::table::{Columns, read};
use std::sync::Arc;

/// A feed of these per cent of N, K2O and Mg, with 5 g in a litre: 1 % of N is 50 mg/L.
fn feed(name: &str, n: f64, k2o: f64, mg: f64, urea: f64) -> Item {
    let held = [
        ("dose_per_l", 5.0),
        ("n_percent", n),
        ("k2o_percent", k2o),
        ("mg_percent", mg),
        ("n_urea_percent", urea),
    ];
    let mut all: std::collections::BTreeMap<String, Held> = held
        .map(|(key, x)| (key.to_owned(), Held::Number(x)))
        .into();
    all.insert("form".into(), Held::Words("powder".into()));
    all.insert("composition".into(), Held::Words("stated".into()));
    Item {
        shelf: "feeds".into(),
        name: name.into(),
        source: String::new(),
        held: all,
    }
}

/// Three units of each treatment: its name, its feed, and what its units gave. The first is the
/// control.
fn trial(gave: &[(&str, &str, [f64; 3])]) -> (Trial, Analysis) {
    let mut plan = Plan::usual("Basil");
    let base = plan.sheet.treatments[0].clone();
    let treatment = |(i, (name, feed, _)): (usize, &(&str, &str, [f64; 3]))| {
        let mut own = SheetTreatment {
            name: (*name).into(),
            control: i == 0,
            ..base.clone()
        };
        own.give(Role::Feed, feed, 1.0);
        own.set("water", "");
        own
    };
    plan.sheet.treatments = gave.iter().enumerate().map(treatment).collect();
    let trial = opened(plan, 3 * gave.len());
    let rows: String = gave
        .iter()
        .flat_map(|(name, _, all)| all.iter().map(move |x| format!("{name},{x}\n")))
        .collect();
    let columns = Columns {
        measure: "g".into(),
        treatment: "t".into(),
        control: gave[0].0.into(),
        ..Columns::default()
    };
    let question = Question {
        margin: "10%".parse().ok(),
        ..Question::default()
    };
    let analysis = analyse(
        &read(format!("t,g\n{rows}").as_bytes(), &columns).unwrap(),
        &question,
    )
    .unwrap();
    (trial, analysis)
}

const FINE: [f64; 3] = [99.0, 100.0, 101.0];
const POOR: [f64; 3] = [49.0, 50.0, 51.0];

fn keys(why: &Why) -> Vec<&str> {
    why.conjectures.iter().map(|c| c.key.as_str()).collect()
}

/// Three feeds, alike but for magnesium: the one without it fails.
#[test]
fn what_the_thriving_share_is_found_in_the_composition() {
    let stores = Stores::with_own(vec![
        feed("one", 3.0, 4.0, 0.5, 0.0),
        feed("two", 3.0, 4.0, 0.6, 0.0),
        feed("three", 3.0, 4.0, 0.0, 0.0),
    ]);
    let (own, analysis) = trial(&[
        ("feed one", "one", FINE),
        ("feed two", "two", FINE),
        ("feed three", "three", POOR),
    ]);
    let best = ["feed one".to_owned(), "feed two".to_owned()];
    let found = why(&own, Some(&analysis), &best, &stores).expect("a cause");
    assert_eq!(
        (found.thrived.len(), &found.lagged[..]),
        (2, &["feed three".to_owned()][..])
    );
    assert_eq!(keys(&found), ["why:magnesium"]);
    let cause = &found.conjectures[0];
    // 0.5 % and 0.6 % of 5 g in a litre.
    assert_eq!(cause.seen, "magnesium 0 against 25 to 30 mg/L");
    assert_eq!(
        cause.speaks_for,
        ["All that thrived had it, and feed three had none."].map(str::to_owned)
    );
    assert_eq!(
        cause.parts,
        "Feed three with magnesium added, beside feed three as it is."
    );
    let plan = cause.plan.as_ref().expect("a plan");
    let named: Vec<(&str, usize)> = plan
        .sheet
        .treatments
        .iter()
        .map(|t| (t.name.as_str(), t.applications.len()))
        .collect();
    assert_eq!(named, [("feed three", 1), ("with magnesium salt", 2)]);
    assert!(
        plan.sheet.treatments[0].control
            && plan.rack.units_each(2) >= 4
            && plan.sheet.check().is_ok()
    );
}

#[test]
fn nutrients_that_go_together_are_one_conjecture_that_parts_them() {
    let stores = Stores::with_own(vec![feed("one", 3.0, 4.0, 0.0, 0.0)]);
    let (own, analysis) = trial(&[
        ("plain water", "plain water", POOR),
        ("feed one", "one", FINE),
    ]);
    let found = why(&own, Some(&analysis), &[], &stores).expect("a cause");
    assert_eq!(keys(&found), ["why:nitrogen+potassium"]);
    let cause = &found.conjectures[0];
    assert!(
        cause.against[0].starts_with("They go together here"),
        "{cause:?}"
    );
    let plan = cause.plan.as_ref().expect("a plan");
    let named: Vec<&str> = plan
        .sheet
        .treatments
        .iter()
        .map(|t| t.name.as_str())
        .collect();
    assert_eq!(
        named,
        ["plain water", "with nitrogen salt", "with potassium salt"]
    );
}

#[test]
fn urea_is_a_thing_of_which_there_was_too_much() {
    let stores = Stores::with_own(vec![
        feed("one", 3.0, 4.0, 0.5, 0.0),
        feed("two", 3.0, 4.0, 0.5, 0.1),
        feed("three", 3.0, 4.0, 0.5, 3.0),
    ]);
    let (own, analysis) = trial(&[
        ("feed one", "one", FINE),
        ("feed two", "two", FINE),
        ("feed three", "three", POOR),
    ]);
    let best = ["feed one".to_owned(), "feed two".to_owned()];
    let found = why(&own, Some(&analysis), &best, &stores).expect("a cause");
    assert_eq!(keys(&found), ["why:urea"]);
    assert_eq!(found.conjectures[0].what, "too much urea");
    assert_eq!(
        found.conjectures[0].plan.as_ref().unwrap().sheet.treatments[1].name,
        "with urea"
    );
}

fn read_ph(trial: &mut Trial, of: impl Fn(usize, u32) -> f64) {
    let sides = trial.plan.treatments();
    for (n, unit) in trial.records.units.iter_mut().enumerate() {
        let one = |day| ReadingRecord {
            head: record_head(day),
            reading: "ph",
            nth: 1,
            value: Some(of(n % sides, day)),
        };
        *unit = Arc::new(UnitRecords {
            readings: [1, 4, 7, 9].map(one).to_vec(),
            ..UnitRecords::default()
        });
    }
}

#[test]
fn a_track_that_went_apart_is_told_with_the_day() {
    let stores = Stores::with_own(vec![feed("one", 3.0, 4.0, 0.5, 0.0)]);
    let (mut own, analysis) = trial(&[("feed one", "one", FINE), ("again", "one", POOR)]);
    read_ph(
        &mut own,
        |t, day| if t == 1 && day >= 4 { 7.4 } else { 6.1 },
    );
    let found = why(&own, Some(&analysis), &[], &stores).expect("a cause");
    assert_eq!(keys(&found), ["why:ph"]);
    let cause = &found.conjectures[0];
    assert_eq!(
        (cause.what.as_str(), cause.seen.as_str()),
        ("pH too high", "pH 7.4 against 6.1 from day 4 on")
    );
    assert_eq!(
        cause.speaks_for,
        ["They began alike and went apart from day 4 on."].map(str::to_owned)
    );
    // A single day, or as little as a meter errs, is nothing.
    read_ph(
        &mut own,
        |t, day| if t == 1 && day == 9 { 7.4 } else { 6.1 },
    );
    assert_eq!(
        why(&own, Some(&analysis), &[], &stores)
            .expect("sides")
            .conjectures,
        []
    );
    read_ph(&mut own, |t, _| if t == 1 { 6.4 } else { 6.1 });
    assert_eq!(
        why(&own, Some(&analysis), &[], &stores)
            .expect("sides")
            .conjectures,
        []
    );
}

#[test]
fn what_befell_the_lagging_alone_and_conditions_stand_against_each_other() {
    let stores = Stores::with_own(vec![feed("one", 3.0, 4.0, 0.5, 0.0)]);
    let (mut own, analysis) = trial(&[("feed one", "one", FINE), ("again", "one", POOR)]);
    Arc::make_mut(&mut own.plan).sheet.treatments[1].set("medium", "rockwool sheet");
    let gift = Gift::Withheld("ran out".into());
    let to = Recipient::Treatment(TreatmentIndex(1));
    let job = crate::catalogue::deeds::Job::Feed;
    own.records
        .put(Recorded::given(record_head(5), job, to, gift));
    let found = why(&own, Some(&analysis), &[], &stores).expect("a cause");
    assert_eq!(
        keys(&found),
        ["why:went without what was due", "why:medium"]
    );
    assert!(
        found.conjectures[0]
            .against
            .iter()
            .any(|w| w == "It could as well be: medium.")
    );
    assert!(
        found.conjectures[1].parts.starts_with("Again with "),
        "{:?}",
        found.conjectures[1]
    );
    assert!(found.conjectures[1].plan.is_some());
}

#[test]
fn where_nobody_is_surely_behind_nothing_is_guessed() {
    let stores = Stores::with_own(vec![feed("one", 3.0, 4.0, 0.0, 0.0)]);
    let (mut own, analysis) = trial(&[
        ("plain water", "plain water", FINE),
        ("feed one", "one", [98.0, 101.0, 102.0]),
    ]);
    assert_eq!(why(&own, Some(&analysis), &[], &stores), None);
    let (three, figures) = trial(&[
        ("a", "plain water", FINE),
        ("b", "one", FINE),
        ("c", "one", FINE),
    ]);
    let all = ["a", "b", "c"].map(str::to_owned);
    assert_eq!(
        why(&three, Some(&figures), &all, &stores),
        None,
        "they all tie"
    );
    own.reveal = None;
    assert_eq!(why(&own, Some(&analysis), &[], &stores), None);
}
