use super::*;
use crate::catalogue::measures;
use crate::trial::deal::{Loss, Unit};
use crate::trial::plan::Plan;
use crate::trial::record::look::Look;
use crate::trial::records::Recorded;
use crate::trial::records::{ReadingRecord, UnitRecords, record_head};
use crate::trial::space::Position;
use crate::verdict::comparison::analysis;
use iron_twin_terms::indices::TreatmentIndex;
use std::sync::Arc;

const HEIGHT: Judged = Judged {
    measure: &measures::height::MEASURE,
    day: None,
};

/// Sixteen trays of two treatments on four levels, judged by their height on day 20; `value` says
/// what a tray shows on a day.
fn trial(days: &[u32], value: impl Fn(usize, usize, u32) -> f64) -> Trial {
    let mut trial = Trial::planned("x", Plan::usual("Cress"));
    let mut plan = (*trial.plan).clone();
    (plan.ask.primary_measure, plan.ask.end_day) = ("height".into(), 20);
    trial.plan = plan.into();
    let unit = |n: usize| Unit {
        id: format!("u{n}"),
        code: char::from(b'A' + n as u8).to_string(),
        position: Position {
            level: n as u32 / 4 + 1,
            slot: n as u32 % 4 + 1,
        },
        treatment: TreatmentIndex((n + n / 4) % 2),
        lost: None,
    };
    trial.units = Arc::new((0..16).map(unit).collect());
    let of = |n: usize| {
        let treatment = (n + n / 4) % 2;
        let reading = |day: &u32| ReadingRecord {
            head: record_head(*day),
            reading: "height",
            nth: 1,
            value: Some(value(n, treatment, *day)),
        };
        Arc::new(UnitRecords {
            readings: days.iter().map(reading).collect(),
            ..UnitRecords::default()
        })
    };
    trial.records.units = (0..16).map(of).collect();
    trial
}

/// A figure that looks like chance and is always the same.
fn noise(n: usize, season: usize, day: u32) -> f64 {
    let mixed = (n as u64 + 1).wrapping_mul(0x9e37_79b9_7f4a_7c15)
        ^ (season as u64 + 7).wrapping_mul(0xbf58_476d_1ce4_e5b9)
        ^ u64::from(day).wrapping_mul(0x94d0_49bb_1331_11eb);
    let mixed = (mixed ^ (mixed >> 29)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    ((mixed ^ (mixed >> 32)) % 10_000) as f64 / 10_000.0 - 0.5
}

#[test]
fn what_is_far_apart_is_told_and_what_is_not_is_left_open() {
    let apart = trial(&[12], |n, t, day| {
        60.0 + 30.0 * t as f64 + 6.0 * noise(n, 0, day)
    });
    let alike = trial(&[12], |n, _, day| 60.0 + 6.0 * noise(n, 0, day));
    assert_eq!(look(&apart, HEIGHT, 12), Ok(LookAnswer::Differ));
    // They differ by less than the tenth that would matter; had they scattered more, nobody could
    // say.
    assert_eq!(look(&alike, HEIGHT, 12), Ok(LookAnswer::Alike));
    let wild = trial(&[12], |n, _, day| 60.0 + 40.0 * noise(n, 0, day));
    assert_eq!(look(&wild, HEIGHT, 12), Ok(LookAnswer::CannotTell));
    assert!(apart.reveal.is_none() && alike.reveal.is_none());
    // What would do at the end is not enough early.
    let some = trial(&[4, 19], |n, t, day| {
        60.0 + 9.0 * t as f64 + 6.0 * noise(n, 0, day % 2)
    });
    assert_eq!(
        [4, 19].map(|day| look(&some, HEIGHT, day)),
        [Ok(LookAnswer::CannotTell), Ok(LookAnswer::Differ)]
    );
}

/// Of trials that would end just where it matters, and of trials without any difference, how many
/// are said to be out of reach half way; a noise of its own every day makes the end of a trial
/// differ from its middle.
#[test]
fn out_of_reach_is_seldom_said_of_what_is_within_and_often_of_what_is_not() {
    let said = |gap: f64| {
        let seasons = 120;
        let hopeless = (0..seasons).filter(|season| {
            let value = |n: usize, t: usize, day: u32| {
                60.0 + gap * t as f64 + 30.0 * noise(n, *season, day)
            };
            look(&trial(&[12], value), HEIGHT, 12) == Ok(LookAnswer::OutOfReach)
        });
        hopeless.count()
    };
    // A tenth of 60 is 6. By theory 5 % of those that end on it are given up in the middle, so at
    // most 6 of 120, and chance 6 more.
    let (within, without, behind) = (said(6.0), said(0.0), said(-4.0));
    assert!(within <= 12, "{within}");
    assert!(without >= 30, "{without}");
    assert!(
        behind > without,
        "{behind} behind, {without} without a difference"
    );
}

#[test]
fn a_match_and_a_trial_that_may_still_turn_are_not_given_up() {
    let level = |n: usize, t: usize, day: u32| 60.0 - 6.0 * t as f64 + 30.0 * noise(n, 2, day);
    assert_eq!(
        look(&trial(&[12], level), HEIGHT, 12),
        Ok(LookAnswer::OutOfReach)
    );
    let mut own = trial(&[12], level);
    let mut plan = (*own.plan).clone();
    plan.ask.goal = iron_twin_terms::goal::Goal::Match;
    own.plan = plan.into();
    assert_ne!(look(&own, HEIGHT, 12), Ok(LookAnswer::OutOfReach));
    // What is behind by as much is well ahead where less is better.
    let mut lower = trial(&[12], level);
    let mut plan = (*lower.plan).clone();
    plan.ask.better = iron_twin_terms::goal::Better::Lower;
    lower.plan = plan.into();
    assert_eq!(look(&lower, HEIGHT, 12), Ok(LookAnswer::CannotTell));
    // Before half of the days nothing is given up.
    assert_eq!(
        look(&trial(&[9], |n, t, _| level(n, t, 12)), HEIGHT, 9),
        Ok(LookAnswer::CannotTell)
    );
    assert_eq!(
        look(&trial(&[10], |n, t, _| level(n, t, 12)), HEIGHT, 10),
        Ok(LookAnswer::OutOfReach)
    );
}

#[test]
fn what_the_looks_spend_is_told_stage_by_stage() {
    let mut own = trial(&[], |_, _, _| 60.0);
    let mut plan = (*own.plan).clone();
    plan.ask.looks_on = vec![5, 10, 15];
    own.plan = plan.into();
    let had = |day| {
        Recorded::new(
            None,
            record_head(day),
            Look {
                measure: "height".into(),
                answer: LookAnswer::OutOfReach,
            },
        )
    };
    own.records.lists.set(vec![had(11), had(13)]);
    // On day 12 the look of day 5 was never had, that of day 10 was, a day late, and that of day 15
    // is ahead.
    let told = spent::stages(&own, Some(12)).unwrap();
    let brief: Vec<_> = told
        .iter()
        .map(|s| (s.day, s.missed, s.told, s.end))
        .collect();
    let want = [
        (5, true, None, false),
        (11, false, Some(LookAnswer::OutOfReach), false),
        (15, false, None, false),
        (20, false, None, true),
    ];
    assert_eq!(brief, want);
    let spent: Vec<f64> = told.iter().map(|s| s.spent_percent).collect();
    assert!(
        spent[0] == 0.0 && spent.windows(2).all(|w| w[0] < w[1]) && (spent[3] - 5.0).abs() < 1e-9,
        "{spent:?}"
    );
    assert!(told[0].confidence_percent.is_none());
    // The end is held to what its analysis is held to.
    own.reveal = Some(Reveal {
        at: Timestamp::UNIX_EPOCH,
        day: 20,
        weighed: 16,
        reason: String::new(),
    });
    let last = spent::stages(&own, Some(20)).unwrap().pop().unwrap();
    let mut full = trial(&[20], |n, _, day| 60.0 + noise(n, 0, day));
    (full.plan, full.reveal) = (own.plan.clone(), own.reveal.clone());
    full.records.lists.set(own.records.looks().to_vec());
    let found = analysis(&full, HEIGHT, None, None).unwrap().look.unwrap();
    assert!((last.confidence_percent.unwrap() / 100.0 - found.confidence).abs() < 1e-9);
}

#[test]
fn a_refusal_says_what_is_missing_before_anything_is_compared() {
    let own = trial(&[8], |n, t, day| 60.0 + 30.0 * t as f64 + noise(n, 0, day));
    assert_eq!(look(&own, HEIGHT, 0), Err(LookError::Day0));
    assert_eq!(look(&own, HEIGHT, 20), Err(LookError::AtTheEnd(20)));
    assert_eq!(
        look(
            &own,
            Judged {
                day: Some(8),
                ..HEIGHT
            },
            8
        ),
        Err(LookError::AtTheEnd(8))
    );
    let weight = Judged {
        measure: &measures::harvest_weight::MEASURE,
        day: None,
    };
    assert_eq!(
        look(&own, weight, 8),
        Err(LookError::OnlyAtTheEnd("harvest weight"))
    );
    let mut short = own.clone();
    short.records.units[3] = Arc::default();
    assert_eq!(
        look(&short, HEIGHT, 8),
        Err(LookError::TooFew {
            measure: "height",
            have: 15,
            units: 16
        })
    );
    // A tray that was written off is not waited for.
    Arc::make_mut(&mut short.units)[3].lost = Some(Loss {
        reason: "fell".into(),
        day: Some(6),
    });
    assert_eq!(look(&short, HEIGHT, 8), Ok(LookAnswer::Differ));
}

#[test]
fn looks_that_were_had_stand_in_the_exported_plan_and_in_the_verdict() {
    let mut own = trial(&[5, 10, 20], |n, t, day| {
        60.0 + 5.0 * t as f64 + 6.0 * noise(n, 0, day)
    });
    let mut plan = (*own.plan).clone();
    plan.ask.looks_on = vec![5, 10];
    own.plan = plan.into();
    let had = |day| {
        Recorded::new(
            None,
            record_head(day),
            Look {
                measure: "height".into(),
                answer: LookAnswer::CannotTell,
            },
        )
    };
    own.records.lists.set(vec![had(10), had(14)]);
    let plan = super::super::design::analysis_plan(&own, None);
    assert_eq!(
        plan.looks.as_ref().map(|l| l.at.clone()),
        Some(vec![0.5, 1.0])
    );
    assert_eq!(plan.unplanned_looks, [0.7]);
    own.reveal = Some(Reveal {
        at: Timestamp::UNIX_EPOCH,
        day: 20,
        weighed: 16,
        reason: String::new(),
    });
    let found = analysis(&own, HEIGHT, None, None).expect("an analysis");
    let spent = found.look.expect("the last of two looks");
    assert_eq!((spent.now, spent.planned), (2, 2));
    // Lan and DeMets' limits for looks at a half and at the end leave 4.9 of 5 % for the end.
    assert!(
        (spent.confidence - 0.951).abs() < 0.0005,
        "{}",
        spent.confidence
    );
    assert!(found.warnings.iter().any(|w| w.code == "unplanned_looks"));
    own.records.lists.set::<Look>(Vec::new());
    let found = analysis(&own, HEIGHT, None, None).expect("an analysis");
    assert!(found.look.is_none() && found.warnings.iter().all(|w| w.code != "unplanned_looks"));
}

/// Three planned looks at trials without any difference: at most one in twenty is told a difference
/// at any of them, and the units carry on from one look to the next as plants do.
#[test]
fn looks_seldom_see_what_is_not_there() {
    let seasons = 200;
    let fooled = (0..seasons).filter(|season| {
        let value = |n: usize, _: usize, day: u32| {
            60.0 + 10.0 * noise(n, *season, 0)
                + (0..day).map(|d| noise(n, *season, d + 1)).sum::<f64>()
        };
        let mut own = trial(&[5, 10, 15], value);
        let mut plan = (*own.plan).clone();
        plan.ask.looks_on = vec![5, 10, 15];
        own.plan = plan.into();
        [5, 10, 15].into_iter().any(|day| {
            let mut by_then = own.clone();
            for records in &mut by_then.records.units {
                Arc::make_mut(records)
                    .readings
                    .retain(|r| r.head.day <= day);
            }
            look(&by_then, HEIGHT, day) == Ok(LookAnswer::Differ)
        })
    });
    let fooled = fooled.count();
    // 1.9 % is spent by day 15: 4 of 200, and chance brings no more than 11.
    assert!(fooled <= 11, "{fooled} of {seasons}");
}
