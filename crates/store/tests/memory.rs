//! A trial kept in memory takes in only what is new: after any course of writes it is the one that
//! the file holds.

use crate::shelf;

use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::record::gone::{Gone, GoneWhy};
use iron_twin_core::trial::record::look::{Look, LookAnswer};
use iron_twin_core::trial::record::mix::Mix;
use iron_twin_core::trial::record::moved::Moved;
use iron_twin_core::trial::record::pick::Pick;
use iron_twin_core::trial::records::{ReadingRecord, SampleNumber};
use iron_twin_core::trial::space::Rack;
use iron_twin_core::trial::waves::{SizeGrade, Waves};
use iron_twin_store::place::Chance;
use iron_twin_store::{Stamp, Store};
use iron_twin_terms::indices::UnitIndex;
use jiff::Timestamp;
use jiff::civil::date;
use proptest::prelude::*;
use shelf::{Take, Taken};

/// One thing that somebody does.
#[derive(Debug, Clone)]
enum Act {
    Read { unit: usize, day: u32, tenths: u32 },
    Weigh { unit: usize, grams: u32 },
    Note { unit: usize },
    Feed { day: u32 },
    Move { to: u32 },
    Mix,
    WriteOff { unit: usize, back: bool },
    Care { every: u32 },
    Pour,
    Undo,
}

fn act() -> impl Strategy<Value = Act> {
    prop_oneof![
        6 => (0usize..4, 0u32..4, 40u32..80).prop_map(|(unit, day, tenths)| Act::Read { unit, day, tenths }),
        3 => (0usize..4, 60u32..200).prop_map(|(unit, grams)| Act::Weigh { unit, grams }),
        1 => (0usize..4).prop_map(|unit| Act::Note { unit }),
        1 => (0u32..9).prop_map(|day| Act::Feed { day }),
        1 => (1u32..9).prop_map(|to| Act::Move { to }),
        1 => Just(Act::Mix),
        1 => (0usize..4, any::<bool>()).prop_map(|(unit, back)| Act::WriteOff { unit, back }),
        1 => (1u32..9).prop_map(|every| Act::Care { every }),
        1 => Just(Act::Pour),
        3 => Just(Act::Undo),
    ]
}

/// Does it; what the store refuses is refused, and that is fine.
fn perform(store: &Store, id: &str, act: &Act, second: i64) {
    let stamp = Stamp::owner(Timestamp::from_second(40 * 86_400 + second).unwrap());
    let trial = store.trial(id).unwrap();
    let code = |unit: usize| trial.units[unit].code.clone();
    let done = match *act {
        Act::Read { unit, day, tenths } => {
            let own = trial
                .of_unit(UnitIndex(unit))
                .readings
                .iter()
                .find(|r| r.head.day == day && r.reading == "ph");
            let (version, value) = (
                own.map_or(0, |r| r.head.version),
                Some(f64::from(tenths) / 10.0),
            );
            store.take(
                &stamp,
                id,
                &shelf::reading(&code(unit), "ph", day, value)
                    .over(version)
                    .confirmed(),
            )
        }
        Act::Weigh { unit, grams } => {
            let version = trial
                .of_unit(UnitIndex(unit))
                .weighed(None, None)
                .map_or(0, |w| w.head.version);
            store.take(
                &stamp,
                id,
                &shelf::weighing(&code(unit), 9, f64::from(grams), 20.0)
                    .over(version)
                    .confirmed(),
            )
        }
        Act::Note { unit } => store.take(&stamp, id, &shelf::note(&code(unit), 3, "pale")),
        Act::Feed { day } => store
            .job_done(&stamp, id, Job::Feed, day)
            .map(|kept| kept.version),
        Act::Move { to } => store.take(
            &stamp,
            id,
            &Taken::new(
                "",
                3,
                Moved {
                    job: Job::Feed,
                    from: 10,
                    to,
                },
            ),
        ),
        Act::Mix => store.take(
            &stamp,
            id,
            &Taken::new(
                "",
                3,
                Mix {
                    volume_l: 2.0,
                    feed_total: 8.0,
                    ..Mix::default()
                },
            ),
        ),
        Act::WriteOff { unit, back } => store.take(
            &stamp,
            id,
            &shelf::write_off(&code(unit), 5, (!back).then_some("mould")),
        ),
        Act::Care { every } => {
            let care = CarePlan {
                feed_every: every,
                ..CarePlan::default()
            };
            store.set_care(&stamp, id, &care, trial.version)
        }
        Act::Pour => store.open_pouring_sheet(&stamp, id).map(|()| 0),
        Act::Undo => store.undo(&stamp, id).map(|_| 0),
    };
    drop(done);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    #[test]
    fn memory_and_file_agree_after_any_course_of_writes(acts in prop::collection::vec(act(), 1..40)) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("trials.sqlite");
        let store = Store::open(&path).unwrap();
        let start = Stamp::owner(Timestamp::UNIX_EPOCH);
        let id = store.create_trial(&start, "Cress").unwrap();
        let version = store.set_rack(&start, &id, &Rack { levels: 2, slots: 2, ..Rack::default() }, 1).unwrap();
        store.deal(&start, &id, Chance { seed: 1, nonce: [1; 32] }, version).unwrap();
        store.sow(&start, &id, date(1970, 1, 1)).unwrap();
        for (act, second) in acts.iter().zip(1..) {
            perform(&store, &id, act, second);
            // Another program that opens the file reads all of it.
            let whole = Store::open(&path).unwrap().trial(&id).unwrap();
            prop_assert_eq!(&*store.trial(&id).unwrap(), &*whole, "after {:?}", act);
            // What lists of work read of the file is what follows from all records.
            let outlines = store.outlines().unwrap();
            prop_assert_eq!(&outlines[0].done, &whole.work_done(), "after {:?}", act);
        }
    }
}

/// One thing that somebody does in a trial whose plants are followed one by one.
#[derive(Debug, Clone)]
enum Follow {
    Height {
        unit: usize,
        sample: u32,
        day: u32,
    },
    Gone {
        unit: usize,
        sample: u32,
        why: GoneWhy,
        day: u32,
    },
    Look,
    Undo,
}

fn follow() -> impl Strategy<Value = Follow> {
    let why = prop_oneof![
        Just(GoneWhy::Lost),
        Just(GoneWhy::Thinned),
        Just(GoneWhy::NeverThere)
    ];
    prop_oneof![
        8 => (0usize..4, 1u32..4, 0u32..5).prop_map(|(unit, sample, day)| Follow::Height { unit, sample, day }),
        3 => (0usize..4, 1u32..4, why, 0u32..5)
            .prop_map(|(unit, sample, why, day)| Follow::Gone { unit, sample, why, day }),
        1 => Just(Follow::Look),
        2 => Just(Follow::Undo),
    ]
}

fn perform_followed(store: &Store, id: &str, act: &Follow, second: i64) {
    let stamp = Stamp::owner(Timestamp::from_second(40 * 86_400 + second).unwrap());
    let trial = store.trial(id).unwrap();
    let code = |unit: usize| trial.units[unit].code.clone();
    let done = match *act {
        Follow::Height { unit, sample, day } => {
            let sample = SampleNumber::new(sample);
            let same = |r: &&ReadingRecord| r.head.day == day && r.head.sample == sample;
            let version = trial
                .of_unit(UnitIndex(unit))
                .readings
                .iter()
                .find(same)
                .map_or(0, |r| r.head.version);
            let mut new = shelf::reading(&code(unit), "height", day, Some(40.0 + f64::from(day)))
                .over(version)
                .confirmed();
            new.head.sample = sample;
            store.take(&stamp, id, &new)
        }
        Follow::Gone {
            unit,
            sample,
            why,
            day,
        } => {
            let mut new = Taken::new(
                &code(unit),
                day,
                Gone {
                    why,
                    note: String::new(),
                },
            );
            new.head.sample = SampleNumber::new(sample);
            store.take(&stamp, id, &new)
        }
        Follow::Look => {
            let look = Look {
                measure: "height".into(),
                answer: LookAnswer::CannotTell,
            };
            store.take(&stamp, id, &Taken::new("", 3, look))
        }
        Follow::Undo => store.undo(&stamp, id).map(|_| 0),
    };
    drop(done);
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// The same with plants that are followed, of which some die: nothing is on record of one on or
    /// after the day on which it was gone, none is gone twice, one of every unit stands, and lists
    /// of work agree with the records.
    #[test]
    fn plants_that_are_gone_are_so_in_memory_and_file(
        acts in prop::collection::vec(follow(), 1..50), gain in any::<bool>(),
    ) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("trials.sqlite");
        let store = Store::open(&path).unwrap();
        let start = Stamp::owner(Timestamp::UNIX_EPOCH);
        let mut plan = Plan::usual("Mint");
        plan.ask.primary_measure = if gain { "height_gained" } else { "height" }.into();
        (plan.ask.also, plan.ask.samples_inside) = (Vec::new(), 3);
        (plan.rack, plan.ask.end_day) = (Rack { levels: 2, slots: 2, ..Rack::default() }, 9);
        let id = store.create_from(&start, plan).unwrap();
        let version = store.trial(&id).unwrap().version;
        store.deal(&start, &id, Chance { seed: 1, nonce: [1; 32] }, version).unwrap();
        store.sow(&start, &id, date(1970, 1, 1)).unwrap();
        for (act, second) in acts.iter().zip(1..) {
            perform_followed(&store, &id, act, second);
            let whole = Store::open(&path).unwrap().trial(&id).unwrap();
            prop_assert_eq!(&*store.trial(&id).unwrap(), &*whole, "after {:?}", act);
            let outlines = store.outlines().unwrap();
            prop_assert_eq!(&outlines[0].done, &whole.work_done(), "after {:?}", act);
        }
        let trial = store.trial(&id).unwrap();
        for unit in trial.unit_indices() {
            prop_assert!(trial.standing_samples(unit).next().is_some());
            for reading in &trial.of_unit(unit).readings {
                prop_assert!(trial.stands(unit, reading.head.sample, reading.head.day), "{reading:?}");
            }
            let of: Vec<_> = trial.records.gone().iter().filter(|g| g.unit == Some(unit)).map(|g| g.head.sample).collect();
            prop_assert_eq!(of.iter().collect::<std::collections::BTreeSet<_>>().len(), of.len());
        }
    }
}

/// One thing that somebody does in a trial that is harvested in waves.
#[derive(Debug, Clone)]
enum Harvest {
    Pick {
        unit: usize,
        day: u32,
        grams: u32,
        grade: bool,
        aside: bool,
    },
    Weigh {
        unit: usize,
        day: u32,
    },
    WriteOff {
        unit: usize,
        back: bool,
    },
    Undo,
}

fn harvest() -> impl Strategy<Value = Harvest> {
    prop_oneof![
        8 => (0usize..4, 6u32..11, 0u32..90, any::<bool>(), prop::bool::weighted(0.2))
            .prop_map(|(unit, day, grams, grade, aside)| Harvest::Pick { unit, day, grams, grade, aside }),
        1 => (0usize..4, 6u32..11).prop_map(|(unit, day)| Harvest::Weigh { unit, day }),
        1 => (0usize..4, any::<bool>()).prop_map(|(unit, back)| Harvest::WriteOff { unit, back }),
        2 => Just(Harvest::Undo),
    ]
}

/// Does it; whether it was taken.
fn perform_harvest(store: &Store, id: &str, act: &Harvest, second: i64) -> bool {
    let stamp = Stamp::owner(Timestamp::from_second(40 * 86_400 + second).unwrap());
    let trial = store.trial(id).unwrap();
    let code = |unit: usize| trial.units[unit].code.clone();
    let done = match *act {
        Harvest::Pick {
            unit,
            day,
            grams,
            grade,
            aside,
        } => {
            let grade = if grade { "large".into() } else { String::new() };
            let pick = Pick {
                gross_g: 20.0 + f64::from(grams),
                tare_g: 20.0,
                grade,
                aside,
                ..Pick::default()
            };
            store.take(&stamp, id, &Taken::new(&code(unit), day, pick).confirmed())
        }
        Harvest::Weigh { unit, day } => {
            let version = trial
                .of_unit(UnitIndex(unit))
                .weighed(None, None)
                .map_or(0, |w| w.head.version);
            store.take(
                &stamp,
                id,
                &shelf::weighing(&code(unit), day, 120.0, 20.0)
                    .over(version)
                    .confirmed(),
            )
        }
        Harvest::WriteOff { unit, back } => store.take(
            &stamp,
            id,
            &shelf::write_off(&code(unit), 5, (!back).then_some("mould")),
        ),
        Harvest::Undo => store.undo(&stamp, id).map(|_| 0),
    };
    done.is_ok()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(40))]

    /// In waves: memory, file and lists of work agree, and a unit has yielded what was taken of it
    /// and not taken back.
    #[test]
    fn what_is_picked_adds_up_in_memory_and_file(acts in prop::collection::vec(harvest(), 1..50), waves in any::<bool>()) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("trials.sqlite");
        let store = Store::open(&path).unwrap();
        let start = Stamp::owner(Timestamp::UNIX_EPOCH);
        let mut plan = Plan::usual("Peppers");
        plan.ask.also = Vec::new();
        let large = SizeGrade { name: "large".into(), price_per_kg: Some(8.0) };
        plan.ask.waves = waves.then(|| Waves { grades: vec![large], cut_mm: None });
        (plan.rack, plan.ask.end_day) = (Rack { levels: 2, slots: 2, ..Rack::default() }, 9);
        let id = store.create_from(&start, plan).unwrap();
        let version = store.trial(&id).unwrap().version;
        store.deal(&start, &id, Chance { seed: 1, nonce: [1; 32] }, version).unwrap();
        store.sow(&start, &id, date(1970, 1, 1)).unwrap();
        let sum = |store: &Store| {
            let trial = store.trial(&id).unwrap();
            trial.unit_indices().map(|u| trial.yield_by(u, None, u32::MAX).g).sum::<f64>()
        };
        for (act, second) in acts.iter().zip(1..) {
            let before = sum(&store);
            let taken = perform_harvest(&store, &id, act, second);
            let whole = Store::open(&path).unwrap().trial(&id).unwrap();
            prop_assert_eq!(&*store.trial(&id).unwrap(), &*whole, "after {:?}", act);
            prop_assert_eq!(&store.outlines().unwrap()[0].done, &whole.work_done(), "after {:?}", act);
            if let Harvest::Pick { grams, grade, aside, .. } = *act {
                prop_assert!(!taken || waves || aside && !grade, "one harvest at the end takes no waves and no grades");
                prop_assert_eq!(sum(&store) - before, if taken { f64::from(grams) } else { 0.0 });
            }
        }
    }
}
