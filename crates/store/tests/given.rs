//! What each unit has received comes out the same, in whatever order its records arrive, late, sent twice or taken back.

use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::application::How;
use iron_twin_core::trial::received::UnitReceived;
use iron_twin_core::trial::records::{Gift, Portion, PortionUnit};
use iron_twin_core::trial::space::Rack;
use iron_twin_store::giving::{NewGiving, NewRecipient};
use iron_twin_store::place::Chance;
use iron_twin_store::tend::NewWork;
use iron_twin_store::{Stamp, Store, StoreError};
use jiff::Timestamp;
use jiff::civil::date;
use proptest::prelude::*;
use std::sync::Arc;

/// A record as somebody enters it.
#[derive(Debug, Clone)]
enum Act {
    Round { job: Job, day: u32, ml_a_unit: Option<f64>, skipped: bool },
    Single { job: Job, day: u32, unit: usize, gift: Gift },
}

/// One of four trays; dealt with the same seed everywhere, so that their codes are the same.
fn farm(folder: &tempfile::TempDir) -> (Store, String) {
    let store = Store::open(&folder.path().join("trials.sqlite")).unwrap();
    let owner = Stamp::owner(Timestamp::UNIX_EPOCH);
    let id = store.create_trial(&owner, "Kohlrabi").unwrap();
    let rack = Rack { name: "rack".into(), levels: 2, slots: 2, ..Rack::default() };
    let version = store.set_rack(&owner, &id, &rack, 1).unwrap();
    store.deal(&owner, &id, Chance { seed: 11, nonce: [3; 32] }, version).unwrap();
    store.sow(&owner, &id, date(1970, 1, 1)).unwrap();
    (store, id)
}

/// Enters a record, as the `n`th that was thought of, at some moment later.
fn enter(store: &Store, id: &str, (n, act): (usize, &Act), who: &str, moment: i64) {
    let day = |day: u32| Some(Timestamp::from_second(i64::from(day) * 86_400 + n as i64).unwrap());
    let stamp = Stamp {
        who: who.into(),
        now: Timestamp::from_second(10_000_000 + moment).unwrap(),
        request: Some((format!("{who}-{n}"), format!("{act:?}"))),
    };
    let done = match act.clone() {
        Act::Round { job, day: on, ml_a_unit, skipped } => {
            let skipped = skipped.then(|| "away".to_owned());
            let ml_a_unit = ml_a_unit.filter(|_| skipped.is_none());
            store.record_work(&stamp, id, job, &NewWork { day: on, at: day(on), ml_a_unit, skipped, confirmed: true })
        }
        Act::Single { job, day: on, unit, gift } => {
            let to = NewRecipient::Unit(store.trial(id).unwrap().units[unit_index(unit)].code.clone());
            store.record_giving(&stamp, id, &NewGiving { job, to, gift, day: on, at: day(on), confirmed: true })
        }
    };
    done.unwrap();
}

fn unit_index(unit: usize) -> iron_twin_core::terms::indices::UnitIndex {
    iron_twin_core::terms::indices::UnitIndex(unit)
}

fn all_received(trial: &Arc<Trial>) -> Vec<UnitReceived> {
    trial.unit_indices().map(|unit| trial.received(unit, true)).collect()
}

fn any_act() -> impl Strategy<Value = Act> {
    let job = prop_oneof![Just(Job::Feed), Just(Job::Water)];
    let round = (job.clone(), 0..9u32, proptest::option::of(50.0..300.0f64), proptest::bool::weighted(0.2));
    let kelp = |amount| Portion {
        what: "kelp".into(),
        how: How::Sprayed,
        amount: Some(amount),
        unit: PortionUnit::default(),
        lot: String::new(),
        batch: String::new(),
    };
    let gift = prop_oneof![
        Just(Gift::AsPlanned),
        (1.0..40.0f64).prop_map(move |ml| Gift::Own(kelp(ml))),
        Just(Gift::Withheld { why: "ran out".into() }),
    ];
    prop_oneof![
        round.prop_map(|(job, day, ml_a_unit, skipped)| Act::Round { job, day, ml_a_unit, skipped }),
        (job, 0..9u32, 0..4usize, gift).prop_map(|(job, day, unit, gift)| Act::Single { job, day, unit, gift }),
    ]
}

/// What happens to a record on its way: it arrives, arrives again, or arrives from somebody who takes it back.
#[derive(Debug, Clone)]
enum Arrival {
    Enter(usize),
    Slip(usize),
    TakeBack,
}

fn arrivals(count: usize) -> impl Strategy<Value = Vec<Arrival>> {
    let once = (0..count).map(Arrival::Enter);
    let slips = proptest::collection::vec(0..count, 0..4);
    (Just(once.collect::<Vec<_>>()), proptest::collection::vec(0..count, 0..4), slips).prop_flat_map(
        |(mut all, twice, slips)| {
            all.extend(twice.into_iter().map(Arrival::Enter));
            all.extend(slips.into_iter().map(Arrival::Slip));
            let orders = Just(all).prop_shuffle();
            orders.prop_map(|all| {
                // Every slip is taken back at some time after it.
                let mut out = Vec::new();
                let mut open = 0;
                for (n, arrival) in all.into_iter().enumerate() {
                    open += usize::from(matches!(arrival, Arrival::Slip(_)));
                    out.push(arrival);
                    if n % 3 == 2 {
                        out.extend(std::iter::repeat_n(Arrival::TakeBack, std::mem::take(&mut open)));
                    }
                }
                out.extend(std::iter::repeat_n(Arrival::TakeBack, open));
                out
            })
        },
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    #[test]
    fn whatever_the_order_of_arrival_each_has_received_the_same(
        (acts, arrivals) in proptest::collection::vec(any_act(), 1..9)
            .prop_flat_map(|acts| { let n = acts.len(); (Just(acts), arrivals(n)) })
    ) {
        let (one, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let ((plain, id), (rough, rough_id)) = (farm(&one), farm(&other));
        for entry in acts.iter().enumerate() {
            enter(&plain, &id, entry, "Ada", entry.0 as i64);
        }
        let mut slips = 0;
        for (moment, arrival) in arrivals.iter().enumerate() {
            match arrival {
                Arrival::Enter(n) => enter(&rough, &rough_id, (*n, &acts[*n]), "Ada", moment as i64),
                Arrival::Slip(n) => {
                    // Each slip is of somebody else, who takes back only their own.
                    slips += 1;
                    enter(&rough, &rough_id, (*n, &acts[*n]), &format!("slip {moment}"), moment as i64);
                }
                Arrival::TakeBack => {
                    let stamp = |who: &str| Stamp { who: who.into(), ..Stamp::owner(Timestamp::UNIX_EPOCH) };
                    let mut people = (0..moment).map(|m| format!("slip {m}"));
                    let undone = people.find(|who| match rough.undo(&stamp(who), &rough_id) {
                        Ok(_) => true,
                        Err(StoreError::NothingToUndo) => false,
                        Err(e) => panic!("{e}"),
                    });
                    prop_assert!(undone.is_some());
                    slips -= 1;
                }
            }
        }
        prop_assert_eq!(slips, 0);
        let (plain, rough) = (plain.trial(&id).unwrap(), rough.trial(&rough_id).unwrap());
        prop_assert_eq!(all_received(&plain), all_received(&rough));
        let sorted = |trial: &Trial| {
            let mut done = trial.work_done();
            done.jobs.sort_unstable();
            done.skipped.sort_unstable();
            (done.jobs, done.skipped)
        };
        prop_assert_eq!(sorted(&plain), sorted(&rough));
    }
}
