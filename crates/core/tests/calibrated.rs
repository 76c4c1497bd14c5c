//! The error rates of the verdicts, by a few hundred simulated seasons of the designs that once
//! misled, with bounds on both sides. The whole table is docs/calibration.md.

#[path = "../examples/seasons/mod.rs"]
mod seasons;

use iron_twin_terms::kind::Kind;
use seasons::{Design, Law, run};

/// Seasons of a design: enough that 5 in 100 stay within 2 and 8 but once in ten thousand runs. The
/// seed is fixed.
const SEASONS: u32 = 1000;

fn amounts(each: &[usize], blocks: usize, law: Law) -> Design {
    Design::new(Kind::Amount, each, blocks, 1, law)
}

/// False claims within these bounds, in per cent, and limits that hold the truth in at least 92.
fn holds(design: &Design, least: f64, most: f64) {
    let found = run(design, SEASONS, 7);
    assert!(
        (least..=most).contains(&found.claims),
        "{}: {} % false",
        design.name(),
        found.claims
    );
    assert!(
        found.held >= 92.0,
        "{}: {} % held",
        design.name(),
        found.held
    );
}

#[test]
fn effects_that_differ_between_sites_are_held_against_sites() {
    holds(&amounts(&[4, 4], 3, Law::Sites), 2.5, 7.5);
    holds(&amounts(&[2, 2], 6, Law::Sites), 2.5, 7.5);
    holds(&amounts(&[4, 4], 3, Law::MildSites), 2.5, 7.5);
    // Both the cells and the units dealt anew must bear it out, which is stricter than either.
    holds(&amounts(&[3, 3], 4, Law::AlikeSites), 0.8, 6.0);
}

/// Days and grades too: of grades, whole sites dealt anew decide.
#[test]
fn days_and_grades_are_held_against_sites() {
    holds(
        &Design::new(Kind::Days, &[3, 3], 4, 1, Law::Sites),
        2.0,
        7.5,
    );
    let claims = |blocks| {
        run(
            &Design::new(Kind::Score, &[2, 2], blocks, 1, Law::Sites),
            500,
            7,
        )
        .claims
    };
    assert!(
        claims(4) == 0.0 && (0.2..6.0).contains(&claims(8)),
        "{} {}",
        claims(4),
        claims(8)
    );
}

#[test]
fn a_wild_treatment_brings_no_false_claims() {
    holds(&amounts(&[8, 4], 1, Law::Wild(1)), 2.5, 7.5);
    holds(&amounts(&[4, 4], 1, Law::Wild(0)), 2.0, 7.5);
    holds(&amounts(&[6, 6, 6], 1, Law::Wild(0)), 2.0, 7.5);
}

#[test]
fn treatments_at_none_thin_nothing() {
    holds(
        &Design::new(Kind::Count, &[3, 3, 3, 3], 1, 1, Law::Gone),
        0.5,
        6.5,
    );
    holds(
        &Design::new(Kind::Share, &[6, 6], 1, 1, Law::Edge),
        1.0,
        6.5,
    );
    holds(&amounts(&[4, 4], 1, Law::Skewed), 1.0, 6.5);
}

/// The dose that is promised is truly enough but in few seasons, whichever way the response bends.
#[test]
fn a_promised_dose_is_enough() {
    for law in [Law::Hump, Law::SCurve, Law::Hyperbola, Law::Plateau] {
        for (each, blocks) in [(4, 1), (1, 4)] {
            let design = Design::new(Kind::Dose, &[each], blocks, 1, law);
            let found = run(&design, 50, 7);
            println!(
                "{} {} {} {}",
                design.name(),
                found.claims,
                found.held,
                found.found
            );
            assert!(
                found.claims <= 8.0 && found.found >= 40.0,
                "{}: {} {}",
                design.name(),
                found.claims,
                found.found
            );
        }
    }
}

#[test]
fn where_all_scatter_alike_nothing_much_is_lost() {
    let design = amounts(&[8, 8], 1, Law::Usual);
    let (truth, _) = design.usual_test().expect("a plain design");
    let found = run(&Design { truth, ..design }, SEASONS, 7).found;
    assert!(
        (75.0..=83.0).contains(&found),
        "{found} of 100 where the usual test finds 80"
    );
}

/// A slope along the shelf hides what is there; with the place taken out it is found about as often
/// as the plan foretells, and nothing is claimed that is not there.
#[test]
fn a_slope_that_is_taken_out_hides_little() {
    let (left_in, out) = (
        amounts(&[8, 8], 1, Law::Slope),
        amounts(&[8, 8], 1, Law::SlopeOut),
    );
    let (truth, _) = out.usual_test().expect("a plain design");
    let foretold = out.foretold(truth).expect("a plan");
    let found = |design: &Design| {
        run(
            &Design {
                truth,
                ..design.clone()
            },
            SEASONS,
            7,
        )
        .found
    };
    let (hidden, seen) = (found(&left_in), found(&out));
    assert!((20.0..40.0).contains(&hidden), "{hidden} left in");
    assert!(
        (seen - foretold).abs() < 5.0,
        "{seen} taken out, {foretold} foretold"
    );
    holds(&out, 2.5, 7.5);
}

/// What leans to one side keeps its error rates by ratio, under an effect too.
#[test]
fn ratios_hold_where_figures_lean() {
    let leaning = amounts(&[8, 8], 1, Law::VerySkewed);
    holds(&leaning, 2.5, 7.5);
    let held = run(
        &Design {
            truth: 3.0,
            ..leaning
        },
        SEASONS,
        7,
    )
    .held;
    assert!((92.0..=98.0).contains(&held), "{held}");
}

/// The chance that a plan foretells is that of the verdict: docs/foretold.md has thirty plans,
/// these are three of them.
#[test]
fn a_plan_foretells_the_verdict() {
    for (each, blocks) in [(&[4, 4][..], 1), (&[1, 1], 7), (&[3, 3], 3)] {
        let design = amounts(each, blocks, Law::Usual);
        let (truth, usual) = design.usual_test().expect("a plain design");
        let foretold = design.foretold(truth).expect("a plan");
        let found = run(
            &Design {
                truth,
                ..design.clone()
            },
            3000,
            11,
        )
        .found;
        assert!(
            foretold < usual && (found - foretold).abs() < 3.0,
            "{}: {found} {foretold}",
            design.name()
        );
    }
}
