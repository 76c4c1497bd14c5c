//! What the sheet sees behind the names, and what its controls can show.

use super::*;
use crate::match_sheet::controls::ControlKind;
use crate::stores::{Held, Item, Stores};
use crate::trial::application::{Amount, When};
use crate::trial::sheet::SheetTreatment;
use crate::trial::sheet::differences::Differences;
use iron_twin_terms::severity::Severity;

/// A sheet with these treatments, each a name and what differs from the usual row; the first is the
/// control.
fn sheet(treatments: &[(&str, &[(&str, &str)])]) -> Sheet {
    let usual = Sheet::usual();
    let columns = treatments
        .iter()
        .enumerate()
        .map(|(i, (name, cells))| {
            let mut own = SheetTreatment {
                name: (*name).into(),
                control: i == 0,
                ..usual.treatments[1].clone()
            };
            cells.iter().for_each(|(key, value)| own.cell(key, value));
            own
        })
        .collect();
    Sheet {
        treatments: columns,
        ..usual
    }
}

fn stores() -> Stores {
    Stores::with_own(Vec::new())
}

fn hidden(sheet: &Sheet) -> Vec<&'static str> {
    sheet
        .composition(&stores(), &FeedPlan::default())
        .hidden
        .iter()
        .map(|h| h.what)
        .collect()
}

const WATER: (&str, &[(&str, &str)]) = ("water", &[("feed", "none"), ("dose", "0")]);

#[test]
fn doses_of_one_feed_hide_nothing() {
    let doses = sheet(&[
        WATER,
        ("half", &[("dose", "0.5")]),
        ("full", &[("dose", "1")]),
    ]);
    assert!(hidden(&doses).is_empty());
    let given = doses.composition(&stores(), &FeedPlan::default()).given;
    // 4 mL/L of 1.12 kg/L at 3 % N is 134 mg/L, and 2.3 mg/L of nitrogen come with the tap water's
    // nitrate.
    assert!(
        (given[2].n_mg_per_l.unwrap() - (134.4 + 2.26)).abs() < 0.1,
        "{given:?}"
    );
    assert!((given[1].n_mg_per_l.unwrap() - (67.2 + 2.26)).abs() < 0.1);
    assert!(!given[0].fed && given[1].fed);
}

#[test]
fn two_feeds_are_compared_by_what_is_in_them() {
    let brands = sheet(&[
        WATER,
        ("blue", &[("feed", "grow feed")]),
        ("green", &[("feed", "fish emulsion")]),
    ]);
    assert!(
        hidden(&brands).contains(&"calcium"),
        "{:?}",
        hidden(&brands)
    );
    let composition = brands.composition(&stores(), &FeedPlan::default());
    assert!(
        composition
            .hidden
            .iter()
            .all(|h| h.severity == Severity::Minor),
        "at their label rates, as declared"
    );
    let equal = Sheet {
        basis: Basis::EqualNitrogen,
        ..brands
    };
    let composition = equal.composition(&stores(), &FeedPlan::default());
    let nitrogen = composition
        .hidden
        .iter()
        .find(|h| h.what == "nitrogen")
        .unwrap();
    assert_eq!(nitrogen.severity, Severity::Serious);
    // 4 mL/L of 1.15 kg/L at 5 % N, less what the label calls urea or ammonium: all of it counts.
    assert_eq!(
        nitrogen.seen,
        "Nitrogen: 232 mg/L in green, 137 in blue, half as much again."
    );
}

#[test]
fn urea_and_charged_media_are_seen() {
    let powders = sheet(&[
        ("one", &[("feed", "powder without calcium")]),
        ("two", &[("feed", "urea-rich garden powder")]),
    ]);
    assert!(hidden(&powders).contains(&"urea"));
    let media = sheet(&[
        ("hemp", &[]),
        ("mix", &[("medium", "potting mix, charged")]),
    ]);
    assert_eq!(hidden(&media), ["fertiliser in the medium"]);
}

#[test]
fn an_additive_that_feeds_is_told_from_one_that_does_not() {
    let own = |k2o: f64| {
        let held = [
            ("form", Held::Words("liquid".into())),
            ("dose_per_l", Held::Number(4.0)),
            ("density_kg_per_l", Held::Number(1.1)),
            ("k2o_percent", Held::Number(k2o)),
        ];
        let held = held.into_iter().map(|(k, v)| (k.to_owned(), v)).collect();
        Stores::with_own(vec![Item {
            shelf: "additives".into(),
            name: "kelp".into(),
            source: "label".into(),
            held,
        }])
    };
    let kelp = sheet(&[("feed only", &[]), ("with kelp", &[("additive", "kelp")])]);
    assert!(
        kelp.composition(&own(0.1), &FeedPlan::default())
            .hidden
            .is_empty()
    );
    let strong = kelp.composition(&own(8.0), &FeedPlan::default());
    assert_eq!(strong.hidden[0].what, "potassium");
    assert_eq!(strong.hidden[0].severity, Severity::Serious);
}

#[test]
fn lamps_of_unlike_strength_are_seen_and_unknown_names_are_said() {
    let lamps = sheet(&[
        ("bar", &[("light", "white LED bar, 20 W")]),
        ("panel", &[("light", "white LED panel, 100 W")]),
    ]);
    assert_eq!(hidden(&lamps), ["light on the leaves"]);
    let given = &lamps.composition(&stores(), &FeedPlan::default()).given[0];
    // 130 umol/m2/s for 16 h is 7.5 mol/m2 a day.
    assert!((given.daily_light_mol_per_m2.unwrap() - 7.488).abs() < 1e-9);
    let secret = sheet(&[
        ("feed only", &[]),
        ("with tonic", &[("additive", "secret tonic")]),
    ]);
    assert_eq!(
        secret.composition(&stores(), &FeedPlan::default()).unknown,
        ["secret tonic"]
    );
    let same_for_all = sheet(&[WATER, ("feed", &[])]);
    assert!(
        same_for_all
            .composition(&stores(), &FeedPlan::default())
            .unknown
            .is_empty()
    );
}

#[test]
fn two_labels_of_one_formula_are_said_to_be_so() {
    let mut twin = stores().find("feeds", "grow feed").unwrap().clone();
    twin.name = "premium feed".into();
    let stores = Stores::with_own(vec![twin]);
    let pair = sheet(&[("cheap", &[]), ("dear", &[("feed", "premium feed")])]);
    let same = &pair.composition(&stores, &FeedPlan::default()).one_formula[0];
    assert_eq!(
        (same.name.as_str(), same.other.as_str()),
        ("grow feed", "premium feed")
    );
}

#[test]
fn stepwise_trials_tell_each_step() {
    let stepwise = sheet(&[
        WATER,
        ("feed only", &[]),
        ("feed and kelp", &[("additive", "seaweed extract")]),
    ]);
    let Differences::Stepwise { factors, steps } = stepwise.differences() else {
        panic!("{:?}", stepwise.differences())
    };
    assert_eq!(factors, ["feed", "additive"]);
    assert_eq!(
        (
            steps[1].treatment.get(),
            steps[1].against.get(),
            steps[1].factor.as_str()
        ),
        (2, 1, "additive")
    );
    let jump = sheet(&[WATER, ("feed and kelp", &[("additive", "seaweed extract")])]);
    assert!(matches!(jump.differences(), Differences::Several { .. }));
    let kinds: Vec<ControlKind> = stepwise.controls().iter().map(|c| c.kind).collect();
    assert_eq!(kinds, [ControlKind::PlainWater, ControlKind::FeedOnly]);
}

#[test]
fn controls_are_known_by_what_they_get() {
    let kinds = |s: &Sheet| -> Vec<(usize, ControlKind)> {
        s.controls()
            .iter()
            .map(|c| (c.treatment.get(), c.kind))
            .collect()
    };
    assert_eq!(
        kinds(&sheet(&[("full", &[]), ("half", &[("dose", "0.5")])])),
        [(0, ControlKind::UsualPractice)]
    );
    let lamps = sheet(&[("bar", &[("light", "a")]), ("panel", &[("light", "b")])]);
    assert_eq!(kinds(&lamps), [(0, ControlKind::UsualSetUp)]);
    // A spiked water is no plain water.
    let spiked = sheet(&[
        ("tonic", &[("feed", "none"), ("additive", "tonic")]),
        ("feed", &[]),
    ]);
    assert!(!spiked.plain_water_control());
}

#[test]
fn what_differs_is_said_treatment_by_treatment() {
    let mut doses = sheet(&[WATER, ("half", &[("dose", "0.5")])]);
    assert_eq!(
        doses.differing(TreatmentIndex(1)),
        ["feed: grow feed", "dose: 0.5 × the label dose"]
    );
    doses.treatments[1].applications[0].when = When::Days(vec![4, 8]);
    assert_eq!(
        doses.differing(TreatmentIndex(1)),
        [
            "feed: grow feed",
            "dose: 0.5 × the label dose",
            "when given: on days 4, 8"
        ]
    );
    assert_eq!(doses.differing(TreatmentIndex(0)), ["feed: none"]);
    doses.treatments[0] = SheetTreatment {
        name: "water".into(),
        control: true,
        ..doses.treatments[1].clone()
    };
    doses.treatments[0].applications[0].when = When::EachFeeding;
    assert_eq!(
        doses.differing(TreatmentIndex(0)),
        ["when given: with each feeding"]
    );
}

#[test]
fn a_ladder_of_doses_is_told_from_two_feeds() {
    let mut sheet = Sheet::usual();
    for strength in ["0.5", "0.67"] {
        let mut other = sheet.treatments[1].clone();
        other.name = format!("{strength} feed");
        other.cell("dose", strength);
        sheet.treatments.push(other);
    }
    let ladder = sheet.dose_ladder().unwrap();
    assert_eq!(
        (ladder.name.as_str(), ladder.unit),
        ("dose", "× the label dose")
    );
    assert_eq!(ladder.doses, [0.0, 1.0, 0.5, 0.67], "water has none of it");
    sheet.treatments[3].applications[0].amount = Amount::PerLitre(2.0);
    assert!(
        sheet.dose_ladder().is_none(),
        "of the label and a litre are no one scale"
    );
    sheet.treatments[3].cell("dose", "0.67");
    sheet.treatments[2].cell("feed", "another feed");
    assert!(sheet.dose_ladder().is_none());
}

/// Unknown is unknown for what it touches: an additive for strength and price, a water for hardness
/// and strength; what the feed brings is still known.
#[test]
fn what_is_unknown_blanks_only_what_it_touches() {
    let of = |cells: &[(&str, &str)]| {
        let sheet = sheet(&[WATER, ("fed", cells)]);
        sheet.composition(&stores(), &FeedPlan::default())
    };
    let plain = of(&[("dose", "1")]);
    let nitrogen = plain.given[1].n_mg_per_l.expect("known");
    let tonic = of(&[("dose", "1"), ("additive", "secret tonic")]);
    assert_eq!(
        (tonic.given[1].n_mg_per_l, tonic.given[1].ec_ms_per_cm),
        (Some(nitrogen), None)
    );
    assert!(tonic.given[1].additive_unknown && tonic.unknown.contains(&"secret tonic".to_owned()));
    let pond = of(&[("dose", "1"), ("water", "pond water")]);
    assert_eq!(
        (pond.given[1].ec_ms_per_cm, pond.given[1].ca_mg_per_l),
        (None, None),
        "no pure water with an EC of nothing"
    );
    assert!(
        pond.given[1]
            .n_mg_per_l
            .is_some_and(|n| n > 0.9 * nitrogen - 5.0)
    );
    assert!(pond.given[1].unknown.contains(&"pond water".to_owned()));
    let brew = of(&[("feed", "neighbour's brew")]);
    assert_eq!(
        brew.given[1].n_mg_per_l, None,
        "what feeds them is not known"
    );
}

/// A share of a label that no shelf knows is not measured out of the tank as if it were the feed's.
#[test]
fn the_tank_does_not_measure_what_nobody_can_say() {
    let sheet = sheet(&[
        WATER,
        ("fed", &[("dose", "1"), ("additive", "secret tonic")]),
    ]);
    let tank = crate::mix::tank::tank(
        &sheet,
        TreatmentIndex(1),
        &stores(),
        &FeedPlan::default(),
        "lettuce",
        4,
    )
    .unwrap();
    let names: Vec<&str> = tank.measure_out.iter().map(|m| m.name.as_str()).collect();
    assert_eq!(
        (names, tank.unknown.as_slice()),
        (vec!["grow feed"], ["secret tonic".to_owned()].as_slice())
    );
    assert!(tank.solution.is_none() && tank.warnings.iter().any(|w| w.code == "dose_unknown"));
}
