use super::*;
use crate::stores::{Held, Item};
use crate::trial::space::{Rack, RackDesign};
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::table::{Columns, read};

/// What each treatment gave, unit by unit; the first is the control.
type Gave<'a> = &'a [(&'a str, f64, &'a [f64])];

const STEADY: [f64; 4] = [98.0, 102.0, 99.0, 101.0];

/// A trial of these shares of the label dose, and what its figures say.
fn trial(gave: Gave<'_>, goal: Goal) -> (Trial, Analysis) {
    let mut plan = Plan::usual("Amaranth");
    plan.ask.goal = goal;
    plan.ask.crop = "red amaranth".into();
    plan.rack = Rack {
        levels: gave[0].2.len() as u32,
        slots: gave.len() as u32,
        ..Rack::default()
    };
    let base = plan.sheet.treatments[0].clone();
    plan.sheet.treatments = gave
        .iter()
        .enumerate()
        .map(|(i, (name, share, _))| {
            let mut own = SheetTreatment {
                name: (*name).into(),
                control: i == 0,
                ..base.clone()
            };
            own.give(Role::Feed, "grow feed", *share);
            own
        })
        .collect();
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
        goal,
        ..Question::default()
    };
    let analysis = analyse(
        &read(format!("t,g\n{rows}").as_bytes(), &columns).unwrap(),
        &question,
    )
    .unwrap();
    (Trial::planned("x", plan), analysis)
}

fn told<T>(gave: Gave<'_>, goal: Goal, look: impl Fn(&Told<'_>) -> T) -> T {
    with(gave, goal, Belief::Believe, &[], look)
}

fn with<T>(
    gave: Gave<'_>,
    goal: Goal,
    belief: Belief,
    findings: &[Finding],
    look: impl Fn(&Told<'_>) -> T,
) -> T {
    let (trial, analysis) = trial(gave, goal);
    let held = |key: &str, x: f64| (key.to_owned(), Held::Number(x));
    let feed = Item {
        shelf: "feeds".into(),
        name: "grow feed".into(),
        source: String::new(),
        held: [held("price_per_kg_or_l", 15.0), held("dose_per_l", 4.0)].into(),
    };
    let stores = Stores::with_own(vec![feed]);
    let prices = Prices::default();
    look(&Told {
        trial: &trial,
        analysis: &analysis,
        may_be_best: &[],
        findings,
        belief,
        cv_percent: 5.0,
        stores: &stores,
        prices: &prices,
    })
}

fn keys(list: &[Suggestion]) -> Vec<&str> {
    list.iter().map(|s| s.key.as_str()).collect()
}

fn doses(plan: &Plan) -> Vec<f64> {
    plan.sheet
        .treatments
        .iter()
        .map(|t| {
            t.applications
                .first()
                .and_then(|a| a.of_label())
                .unwrap_or(0.0)
        })
        .collect()
}

fn up(by: f64) -> Vec<f64> {
    STEADY.iter().map(|x| x + by).collect()
}

#[test]
fn a_clear_gain_is_adopted_and_less_of_it_tried() {
    let won = up(30.0);
    told(
        &[("plain water", 0.0, &STEADY), ("full feed", 1.0, &won)],
        Goal::Beat,
        |t| {
            let advice = t.advice();
            assert_eq!(
                (advice.decides, advice.treatment.as_deref()),
                (Decides::Adopt, Some("full feed"))
            );
            let list = t.suggestions();
            assert_eq!(keys(&list), ["between", "variety", "once_more"]);
            let between = &list[0];
            assert_eq!(
                between.title,
                "A dose between: 50 % of the label dose of grow feed"
            );
            assert_eq!(doses(&between.plan), [0.0, 1.0, 0.5]);
            // What it would find rests on a spread that need not be this trial's, so that is said.
            let told = &between.teaches;
            assert!(
                told.ends_with(" in 4 of 5 trials, if trays of one treatment differ by 5 %."),
                "{told}"
            );
            // Enough to see the 10 % that would matter, and not one too many.
            let sees = |levels: u32| {
                let mut plan = between.plan.clone();
                plan.rack.levels = levels;
                sees_percent(&Trial::planned("x", plan), 5.0).unwrap()
            };
            let levels = between.plan.rack.levels;
            assert_eq!((between.treatments, between.units), (3, levels as usize));
            assert!(
                levels > 4 && sees(levels) <= 10.0 && sees(levels - 1) > 10.0,
                "{levels}: {}",
                sees(levels)
            );
            let named: Vec<&str> = between
                .plan
                .sheet
                .treatments
                .iter()
                .map(|t| t.name.as_str())
                .collect();
            assert_eq!(named, ["plain water", "full feed", "half feed"]);
            assert_eq!(between.plan.name, "Amaranth, a dose between");
            assert!(between.plan.at_odds().is_none() && between.plan.sheet.check().is_ok());
            // The plan itself is checked as one that is brought.
            let json = serde_json::to_string(&between.plan).unwrap();
            assert_eq!(Plan::read(&json).unwrap(), between.plan);
        },
    );
}

/// By hand: 12 days, fed every three days from day 3 as is usual: what the plan says is mixed at
/// the label's 4 mL a litre and 15 a litre, for as many trays of full feed as of half of it; water
/// has no price here.
#[test]
fn what_it_costs_follows_the_plan() {
    let won = up(30.0);
    told(
        &[("plain water", 0.0, &STEADY), ("full feed", 1.0, &won)],
        Goal::Beat,
        |t| {
            let [between, variety, ..] = &t.suggestions()[..] else {
                panic!()
            };
            let a_unit = |s: &Suggestion| s.cost.unwrap() / s.units as f64;
            let ratio = a_unit(between) / a_unit(variety);
            assert!(
                (ratio - 1.5).abs() < 1e-9,
                "full and half feed over full feed alone: {ratio}"
            );
        },
    );
}

#[test]
fn what_cannot_be_told_is_repeated_with_enough() {
    let (a, b) = ([90.0, 112.0, 95.0, 108.0], [104.0, 97.0, 119.0, 101.0]);
    told(
        &[("plain water", 0.0, &a), ("full feed", 1.0, &b)],
        Goal::Beat,
        |t| {
            let needed = t.analysis.contrasts[0].units_for_verdict.unwrap();
            assert!(needed > 4 && needed <= MOST_WORTH, "{needed}");
            let advice = t.advice();
            assert_eq!(
                (advice.decides, advice.units),
                (Decides::Repeat, Some(needed as u32))
            );
            let list = t.suggestions();
            assert_eq!(keys(&list), ["repeat"]);
            // More levels of two places each cannot be had; twice as long ones hold two of each.
            let rack = &list[0].plan.rack;
            assert!(
                list[0].units >= needed && list[0].units < needed + rack.repeats(2),
                "{rack:?}"
            );
            assert_eq!(list[0].why, "Full feed could not be told from plain water.");
        },
    );
}

#[test]
fn where_it_would_take_too_many_it_is_not_repeated() {
    let (a, b) = ([60.0, 142.0, 75.0, 128.0], [104.0, 67.0, 149.0, 91.0]);
    told(
        &[("plain water", 0.0, &a), ("full feed", 1.0, &b)],
        Goal::Beat,
        |t| {
            assert!(t.settles().unwrap() > MOST_WORTH);
            assert_eq!(t.advice().decides, Decides::Further);
            assert_eq!(keys(&t.suggestions()), ["once_more"]);
        },
    );
}

#[test]
fn a_weak_dose_that_did_nothing_is_tried_whole() {
    let same = up(0.2);
    told(
        &[("plain water", 0.0, &STEADY), ("half feed", 0.5, &same)],
        Goal::Beat,
        |t| {
            assert_eq!(t.analysis.contrasts[0].verdict, Verdict::Same);
            assert_eq!(t.advice().decides, Decides::Reject);
            let list = t.suggestions();
            assert_eq!(keys(&list), ["stronger", "variety", "once_more"]);
            assert_eq!(doses(&list[0].plan), [0.0, 0.5, 1.0]);
            assert_eq!(
                list[0].why,
                "Half feed is 50 % of the label dose, and it showed no difference from plain \
                 water."
            );
        },
    );
    // Never beyond the label.
    told(
        &[("plain water", 0.0, &STEADY), ("full feed", 1.0, &same)],
        Goal::Beat,
        |t| {
            assert_eq!(keys(&t.suggestions()), ["variety", "once_more"]);
        },
    );
}

#[test]
fn less_that_did_as_well_goes_down_and_less_that_fell_short_goes_between() {
    let same = up(0.5);
    told(
        &[("full feed", 1.0, &STEADY), ("half feed", 0.5, &same)],
        Goal::Match,
        |t| {
            assert_eq!(
                (t.advice().decides, t.advice().treatment.as_deref()),
                (Decides::Adopt, Some("half feed"))
            );
            let list = t.suggestions();
            assert_eq!(keys(&list), ["less", "variety", "once_more"]);
            assert_eq!(doses(&list[0].plan), [1.0, 0.5, 0.25]);
        },
    );
    let short = up(-30.0);
    told(
        &[("full feed", 1.0, &STEADY), ("half feed", 0.5, &short)],
        Goal::Match,
        |t| {
            assert_eq!(
                (t.advice().decides, t.advice().treatment.as_deref()),
                (Decides::Reject, Some("half feed"))
            );
            let list = t.suggestions();
            assert_eq!(keys(&list), ["between", "variety", "once_more"]);
            assert_eq!(doses(&list[0].plan), [1.0, 0.5, 0.75]);
            assert_eq!(list[0].why, "Half feed fell short of full feed.");
        },
    );
}

#[test]
fn one_unit_a_side_is_mended_before_anything_rests_on_it() {
    let finding = Finding {
        code: "one_unit_per_treatment",
        title: "one unit a treatment",
        severity: Severity::Fatal,
        seen: "One tray of each treatment.".into(),
        threatens: "",
        remedy: String::new(),
        station: "place",
        units: Vec::new(),
        answer: None,
        makes: Vec::new(),
        names_treatments: false,
    };
    let gave: Gave<'_> = &[("plain water", 0.0, &[100.0]), ("full feed", 1.0, &[130.0])];
    with(gave, Goal::Beat, Belief::DoNotAct, &[finding], |t| {
        assert_eq!(
            (t.advice().decides, t.advice().units),
            (Decides::Repeat, Some(4))
        );
        let list = t.suggestions();
        assert_eq!(keys(&list), ["mended"]);
        assert_eq!(
            list[0].title,
            "The same, dealt by lot, with 7 trays of each treatment"
        );
        assert_eq!(
            (list[0].units, list[0].plan.rack.design),
            (7, RackDesign::Blocks),
            "enough to see 10 %"
        );
    });
}

#[test]
fn two_things_at_once_are_tried_one_by_one() {
    let (mut own, analysis) = trial(
        &[("plain water", 0.0, &STEADY), ("full feed", 1.0, &STEADY)],
        Goal::Beat,
    );
    let plan = std::sync::Arc::make_mut(&mut own.plan);
    plan.sheet.treatments[1].set("medium", "rockwool sheet");
    let (stores, prices) = (Stores::with_own(Vec::new()), Prices::default());
    let told = Told {
        trial: &own,
        analysis: &analysis,
        may_be_best: &[],
        findings: &[],
        belief: Belief::Believe,
        cv_percent: 5.0,
        stores: &stores,
        prices: &prices,
    };
    let list = told.suggestions();
    let one = list
        .iter()
        .find(|s| s.key == "one_thing")
        .expect("one thing only");
    assert!(
        matches!(one.plan.sheet.differences(), Differences::One { .. }),
        "{:?}",
        one.plan.sheet.differences()
    );
    assert_eq!(one.plan.sheet.treatments.len(), 2);
    assert_eq!(one.cost, None, "nothing has a price");
}

#[test]
fn what_ties_for_the_first_place_gets_the_room_of_the_rest() {
    let (most, near, half) = (up(30.0), up(28.0), up(12.0));
    let gave: Gave<'_> = &[
        ("plain water", 0.0, &STEADY),
        ("full feed", 1.0, &most),
        ("most feed", 0.8, &near),
        ("half feed", 0.5, &half),
    ];
    let (own, analysis) = trial(gave, Goal::Beat);
    let (stores, prices) = (Stores::with_own(Vec::new()), Prices::default());
    let best = ["full feed".to_owned(), "most feed".to_owned()];
    let told = |may_be_best| Told {
        trial: &own,
        analysis: &analysis,
        may_be_best,
        findings: &[],
        belief: Belief::Believe,
        cv_percent: 5.0,
        stores: &stores,
        prices: &prices,
    };
    let list = told(&best).suggestions();
    let tied = list.iter().find(|s| s.key == "tied").expect("a tie");
    assert_eq!(tied.treatments, 3);
    assert!(
        tied.units > 4
            && sees_percent(&Trial::planned("x", tied.plan.clone()), 5.0).unwrap() <= 10.0
    );
    assert_eq!(tied.plan.ask.goal, Goal::Best);
    assert_eq!(tied.why, "Most feed could not be told from full feed.");
    assert!(
        told(&best)
            .advice()
            .why
            .ends_with("Most feed cannot be told from it; the scorecard weighs them.")
    );
    // One that is surely the best ties with nobody.
    assert!(
        told(&best[..1])
            .suggestions()
            .iter()
            .all(|s| s.key != "tied")
    );
    assert!(!told(&best[..1]).advice().why.contains("told from"));
}
