use super::*;
use crate::trial::deal::Unit;
use crate::trial::plan::Plan;
use crate::trial::record::giving::{Gift, Giving, Recipient};
use crate::trial::record::work::Work;
use crate::trial::records::{Recorded, record_head};
use crate::trial::space::Position;
use iron_twin_terms::indices::TreatmentIndex;
use std::sync::Arc;

fn round(job: Job, day: u32) -> Recorded<Work> {
    Recorded::new(
        None,
        record_head(day),
        Work {
            job,
            ml_a_unit: None,
            skipped: None,
        },
    )
}

fn withheld(unit: usize, day: u32, why: &str) -> Recorded<Giving> {
    let gift = Gift::Withheld(why.into());
    Recorded::given(
        record_head(day),
        Job::Feed,
        Recipient::Unit(UnitIndex(unit)),
        gift,
    )
}

/// Four trays, fed from day 4 every second day.
fn trial(work: Vec<Recorded<Work>>, givings: Vec<Recorded<Giving>>) -> Trial {
    let mut trial = Trial::planned("x", Plan::usual("Cress"));
    let unit = |n: usize| Unit {
        id: format!("u{n}"),
        code: ["A", "B", "C", "D"][n].into(),
        position: Position {
            level: 1,
            slot: n as u32 + 1,
        },
        treatment: TreatmentIndex(n % 2),
        lost: None,
    };
    trial.units = Arc::new((0..4).map(unit).collect());
    trial.sown_on = Some(jiff::civil::date(2026, 11, 1));
    trial.records.lists.set(work);
    trial.records.lists.set(givings);
    trial
}

fn fed(days: &[u32], today: u32) -> Vec<u32> {
    missed(
        &trial(
            days.iter().map(|day| round(Job::Feed, *day)).collect(),
            Vec::new(),
        ),
        Job::Feed,
        today,
    )
}

#[test]
fn what_was_given_late_is_not_missed_and_what_is_due_today_is_not_yet() {
    assert_eq!(fed(&[], 4), [] as [u32; 0]);
    assert_eq!(fed(&[], 5), [4]);
    assert_eq!(fed(&[], 9), [4, 6, 8]);
    assert_eq!(fed(&[4, 6, 8], 10), [] as [u32; 0]);
    assert_eq!(
        fed(&[5, 7], 9),
        [] as [u32; 0],
        "a day late, and the next counted from it"
    );
    assert_eq!(fed(&[4, 8], 9), [6], "a whole rhythm without");
    assert_eq!(
        fed(&[4], 30),
        [6, 8, 10],
        "nothing is fed on the day of harvest or after"
    );
}

#[test]
fn what_was_left_out_or_moved_is_not_missed() {
    let skipped = Recorded::new(
        None,
        record_head(6),
        Work {
            skipped: Some("power cut".into()),
            ..Work::done(Job::Feed)
        },
    );
    let mut own = trial(vec![round(Job::Feed, 4), skipped], Vec::new());
    assert_eq!(missed(&own, Job::Feed, 8), [] as [u32; 0]);
    assert_eq!(missed(&own, Job::Feed, 9), [8]);
    let moved = crate::trial::record::moved::Moved {
        job: Job::Feed,
        from: 8,
        to: 9,
    };
    own.records.put(Recorded::new(None, record_head(7), moved));
    assert_eq!(missed(&own, Job::Feed, 9), [] as [u32; 0]);
    assert_eq!(missed(&own, Job::Feed, 10), [9]);
}

#[test]
fn a_round_given_one_by_one_is_a_round() {
    let to = |unit| {
        Recorded::given(
            record_head(4),
            Job::Feed,
            Recipient::Unit(UnitIndex(unit)),
            Gift::AsPlanned,
        )
    };
    let treatment = |t| {
        Recorded::given(
            record_head(4),
            Job::Feed,
            Recipient::Treatment(TreatmentIndex(t)),
            Gift::AsPlanned,
        )
    };
    let missing =
        |givings: Vec<Recorded<Giving>>| missed(&trial(Vec::new(), givings), Job::Feed, 5);
    assert_eq!(missing((0..3).map(to).collect()), [4]);
    assert_eq!(missing((0..4).map(to).collect()), [] as [u32; 0]);
    assert_eq!(missing((0..2).map(treatment).collect()), [] as [u32; 0]);
    // Told together they would say which unit has which treatment.
    assert_eq!(missing(vec![treatment(0), to(1), to(3)]), [4]);
}

#[test]
fn who_went_short_is_told_by_code_and_what_all_went_without_is_not() {
    let all = Recorded::new(
        None,
        record_head(8),
        Work {
            skipped: Some("away".into()),
            ..Work::done(Job::Feed)
        },
    );
    let own = trial(
        vec![round(Job::Feed, 4), round(Job::Feed, 6), all],
        vec![withheld(1, 6, "ran out")],
    );
    let short = went_short(&own, &Job::GIVING);
    assert_eq!(
        short,
        [WentShort {
            code: "B".into(),
            times: 1,
            of: 2,
            why: "ran out".into()
        }]
    );
    assert!(went_short(&trial(vec![round(Job::Feed, 4)], Vec::new()), &Job::GIVING).is_empty());
    let no_round = trial(vec![round(Job::Feed, 4)], vec![withheld(1, 6, "ran out")]);
    assert!(
        went_short(&no_round, &Job::GIVING).is_empty(),
        "nobody is known to have got it"
    );
}

#[test]
fn the_jugs_say_nothing_of_what_is_in_them() {
    use crate::tend::jugs::jugs;
    let mut own = trial(Vec::new(), Vec::new());
    let told = |t: &Trial| {
        jugs(t, Some(4))
            .into_iter()
            .map(|j| (j.number, j.codes.join("")))
            .collect::<Vec<_>>()
    };
    assert_eq!(told(&own), [(1, "AC".into()), (2, "BD".into())]);
    // The other way round the same jugs are told.
    Arc::make_mut(&mut own.units)
        .iter_mut()
        .for_each(|u| u.treatment = TreatmentIndex(1 - u.treatment.get()));
    assert_eq!(told(&own), [(1, "AC".into()), (2, "BD".into())]);
    Arc::make_mut(&mut own.units)[0].lost = Some(crate::trial::deal::Loss {
        reason: "dropped".into(),
        day: Some(2),
    });
    assert_eq!(told(&own), [(1, "C".into()), (2, "BD".into())]);
}
