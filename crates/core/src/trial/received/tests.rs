use super::*;
use crate::trial::application::{Role, When};
use crate::trial::deal::Loss;
use crate::trial::plan::Plan;
use crate::trial::records::{RecordHead, record_head};
use crate::trial::space::Position;
use iron_twin_terms::indices::TreatmentIndex;
use proptest::prelude::*;
use std::sync::Arc;

fn head(day: u32, hour: i64) -> RecordHead {
    let at = Timestamp::from_second(i64::from(day) * 86_400 + hour * 3600).unwrap();
    RecordHead {
        at,
        ..record_head(day)
    }
}

fn round(job: Job, day: u32, hour: i64) -> Recorded<Work> {
    Recorded::new(
        None,
        head(day, hour),
        Work {
            job,
            ml_a_unit: None,
            skipped: None,
        },
    )
}

fn giving(to: Recipient, day: u32, gift: Gift) -> Recorded<Giving> {
    Recorded::given(head(day, 12), Job::Feed, to, gift)
}

fn unit(n: usize) -> Recipient {
    Recipient::Unit(UnitIndex(n))
}

/// Plain water (A, C) and a feed with a kelp spray on days 4 and 8 (B, D).
fn trial() -> Trial {
    let mut plan = Plan::usual("Cress");
    plan.sheet.treatments[1].applications = vec![
        Application::stirred(Role::Feed, "grow feed", 1.0),
        Application {
            how: How::Sprayed,
            ml_a_unit: Some(5.0),
            when: When::Days(vec![4, 8]),
            ..Application::stirred(Role::Additive, "kelp", 1.0)
        },
    ];
    let mut trial = Trial::planned("x", plan);
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
    trial
}

fn days(trial: &Trial, unit: usize, job: Job) -> Vec<u32> {
    trial.received(UnitIndex(unit), true).days(job).collect()
}

#[test]
fn a_round_brings_each_what_the_plan_has_for_it() {
    let mut own = trial();
    let measured = Recorded::new(
        None,
        head(6, 9),
        Work {
            ml_a_unit: Some(180.0),
            ..Work::done(Job::Feed)
        },
    );
    own.records.lists.set(vec![
        round(Job::Feed, 4, 9),
        measured,
        round(Job::Apply, 4, 10),
        round(Job::Apply, 5, 10),
    ]);
    let told = |unit: usize| -> Vec<(u32, String, Option<f64>)> {
        let got = own.received(UnitIndex(unit), true).gifts.into_iter();
        got.map(|g| {
            (
                g.day,
                g.portion.as_ref().unwrap().what.clone(),
                g.portion.unwrap().amount,
            )
        })
        .collect()
    };
    let usual = own.plan.feed.ml_a_unit;
    assert_eq!(
        told(0),
        [
            (4, "plain water".into(), Some(usual)),
            (6, "plain water".into(), Some(180.0))
        ]
    );
    // Day 5 is none of its days: nothing was sprayed on it by the plan.
    assert_eq!(
        told(1),
        [
            (4, "grow feed".into(), Some(usual)),
            (4, "kelp".into(), Some(5.0)),
            (6, "grow feed".into(), Some(180.0))
        ]
    );
    let got = own.received(UnitIndex(1), true);
    assert_eq!(
        got.total("grow feed", PortionUnit::Millilitres),
        usual + 180.0
    );
    assert_eq!((got.times(Job::Feed), got.times(Job::Apply)), (2, 1));
}

#[test]
fn what_was_withheld_is_not_received_and_one_of_two_rounds_remains() {
    let mut own = trial();
    own.records.lists.set(vec![
        round(Job::Feed, 4, 9),
        round(Job::Feed, 4, 18),
        round(Job::Feed, 6, 9),
    ]);
    let without = |why: &str| Gift::Withheld(why.into());
    own.records.lists.set(vec![
        giving(unit(1), 4, without("ran out")),
        giving(unit(1), 6, without("ran out")),
    ]);
    assert_eq!(days(&own, 1, Job::Feed), [4]);
    assert_eq!(days(&own, 0, Job::Feed), [4, 4, 6]);
    // Given later on the same day after all.
    let later = Portion {
        what: "grow feed".into(),
        how: How::Stirred,
        amount: Some(90.0),
        ..portion()
    };
    own.records.put(giving(unit(1), 6, Gift::Own(later)));
    assert_eq!(days(&own, 1, Job::Feed), [4, 6]);
    let skipped = Recorded::new(
        None,
        head(8, 9),
        Work {
            skipped: Some("away".into()),
            ..Work::done(Job::Feed)
        },
    );
    own.records.put(skipped);
    assert_eq!(days(&own, 0, Job::Feed), [4, 4, 6]);
    assert_eq!(own.received(UnitIndex(0), true).withheld[0].why, "away");
}

fn portion() -> Portion {
    Portion {
        what: "kelp".into(),
        how: How::Drenched,
        amount: Some(20.0),
        unit: PortionUnit::default(),
        lot: String::new(),
        batch: String::new(),
    }
}

#[test]
fn what_would_tell_the_treatment_is_left_out_until_it_may_be_told() {
    let mut own = trial();
    own.records
        .lists
        .set(vec![round(Job::Feed, 4, 9), round(Job::Apply, 4, 10)]);
    own.records.lists.set(vec![giving(
        Recipient::Treatment(TreatmentIndex(1)),
        5,
        Gift::Own(portion()),
    )]);
    let kept = |unit: usize| own.received(UnitIndex(unit), false);
    assert_eq!(kept(0), kept(1), "whatever its treatment");
    assert_eq!(kept(0).gifts.len(), 2);
    assert!(kept(0).gifts.iter().all(|g| g.portion.is_none()));
    assert_eq!(
        (days(&own, 0, Job::Feed), days(&own, 1, Job::Feed)),
        (vec![4], vec![4, 5])
    );
}

#[test]
fn a_unit_that_was_lost_receives_nothing_more() {
    let mut own = trial();
    own.records
        .lists
        .set(vec![round(Job::Feed, 4, 9), round(Job::Feed, 6, 9)]);
    Arc::make_mut(&mut own.units)[0].lost = Some(Loss {
        reason: "dropped".into(),
        day: Some(5),
    });
    assert_eq!(
        (days(&own, 0, Job::Feed), days(&own, 1, Job::Feed)),
        (vec![4], vec![4, 6])
    );
}

#[derive(Debug, Clone)]
enum Any {
    Work(Recorded<Work>),
    Giving(Recorded<Giving>),
}

fn any_record() -> impl Strategy<Value = Any> {
    let job = prop_oneof![Just(Job::Feed), Just(Job::Water), Just(Job::Apply)];
    let work = (
        job.clone(),
        0..9u32,
        0..24i64,
        any::<bool>(),
        proptest::option::of(50.0..300.0f64),
    );
    let work = work.prop_map(|(job, day, hour, skipped, ml)| {
        let skipped = skipped.then(|| "away".to_owned());
        Any::Work(Recorded::new(
            None,
            head(day, hour),
            Work {
                job,
                ml_a_unit: ml,
                skipped,
            },
        ))
    });
    let to = prop_oneof![
        Just(Recipient::All),
        (0..4usize).prop_map(unit),
        (0..2usize).prop_map(|t| Recipient::Treatment(TreatmentIndex(t))),
    ];
    let gift = prop_oneof![
        Just(Gift::AsPlanned),
        (1.0..90.0f64).prop_map(|x| Gift::Own(Portion {
            amount: Some(x),
            ..portion()
        })),
        Just(Gift::Withheld("ran out".into())),
    ];
    let giving = (job, to, gift, 0..9u32, 0..24i64).prop_map(|(job, to, gift, day, hour)| {
        Any::Giving(Recorded::given(head(day, hour), job, to, gift))
    });
    prop_oneof![work, giving]
}

fn with(records: &[Any]) -> Trial {
    let mut own = trial();
    for record in records {
        match record.clone() {
            Any::Work(w) => own.records.put(w),
            Any::Giving(g) => own.records.put(g),
        }
    }
    own
}

proptest! {
    /// Whatever the order in which records arrive, each unit has received the same, and so were the
    /// rounds that were held.
    #[test]
    fn the_order_of_arrival_changes_nothing(
        (records, shuffled) in proptest::collection::vec(any_record(), 0..20).prop_flat_map(|r| {
            (Just(r.clone()), Just(r).prop_shuffle())
        })
    ) {
        let (one, other) = (with(&records), with(&shuffled));
        for unit in one.unit_indices() {
            for told in [true, false] {
                prop_assert_eq!(one.received(unit, told), other.received(unit, told));
            }
        }
        let sorted = |t: &Trial| { let mut done = t.work_done_if(false).jobs; done.sort(); done };
        prop_assert_eq!(sorted(&one), sorted(&other));
    }

    /// One record more, of something given to one unit, is one gift more of that unit and of no
    /// other; so that taking it back leaves what was before.
    #[test]
    fn one_gift_more_is_one_more(records in proptest::collection::vec(any_record(), 0..20), day in 0..9u32) {
        let before = with(&records);
        let mut more = records;
        more.push(Any::Giving(giving(unit(2), day, Gift::Own(portion()))));
        let after = with(&more);
        for unit in before.unit_indices() {
            let gifts = |t: &Trial| t.received(unit, true).gifts.len();
            prop_assert_eq!(gifts(&after), gifts(&before) + usize::from(unit.get() == 2));
        }
    }
}
