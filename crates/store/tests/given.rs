//! What each unit has received comes out the same, in whatever order its records arrive, late, sent
//! twice or taken back.

use crate::shelf;

use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::measures::first_root;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::application::How;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::received::UnitReceived;
use iron_twin_core::trial::record::giving::{Gift, GivenTo, Giving, Portion, PortionUnit};
use iron_twin_core::trial::record::work::Work;
use iron_twin_core::trial::space::Rack;
use iron_twin_core::verdict::figures::figures;
use iron_twin_store::place::Chance;
use iron_twin_store::{Stamp, Store, StoreError};
use jiff::Timestamp;
use jiff::civil::date;
use proptest::prelude::*;
use shelf::{Take, Taken};
use std::sync::Arc;

/// A record as somebody enters it.
#[derive(Debug, Clone)]
enum Act {
    Round {
        job: Job,
        day: u32,
        ml_a_unit: Option<f64>,
        skipped: bool,
    },
    Single {
        job: Job,
        day: u32,
        unit: usize,
        gift: Gift,
    },
}

/// One of four trays; dealt with the same seed everywhere, so that their codes are the same.
fn farm(folder: &tempfile::TempDir) -> (Store, String) {
    let store = Store::open(&folder.path().join("trials.sqlite")).unwrap();
    let owner = Stamp::owner(Timestamp::UNIX_EPOCH);
    let id = store.create_trial(&owner, "Kohlrabi").unwrap();
    let rack = Rack {
        name: "rack".into(),
        levels: 2,
        slots: 2,
        ..Rack::default()
    };
    let version = store.set_rack(&owner, &id, &rack, 1).unwrap();
    store
        .deal(
            &owner,
            &id,
            Chance {
                seed: 11,
                nonce: [3; 32],
            },
            version,
        )
        .unwrap();
    store.sow(&owner, &id, date(1970, 1, 1)).unwrap();
    (store, id)
}

/// Enters a record, as the `n`th that was thought of, at some moment later.
fn enter(store: &Store, id: &str, (n, act): (usize, &Act), who: &str, moment: i64) {
    let on_day =
        |day: u32| Some(Timestamp::from_second(i64::from(day) * 86_400 + n as i64).unwrap());
    let stamp = Stamp {
        who: who.into(),
        now: Timestamp::from_second(10_000_000 + moment).unwrap(),
        request: Some((format!("{who}-{n}"), format!("{act:?}"))),
    };
    match act.clone() {
        Act::Round {
            job,
            day,
            ml_a_unit,
            skipped,
        } => {
            let skipped = skipped.then(|| "away".to_owned());
            let ml_a_unit = ml_a_unit.filter(|_| skipped.is_none());
            let work = Taken::new(
                "",
                day,
                Work {
                    job,
                    ml_a_unit,
                    skipped,
                },
            )
            .at(on_day(day))
            .confirmed();
            store.take(&stamp, id, &work).unwrap();
        }
        Act::Single {
            job,
            day,
            unit,
            gift,
        } => {
            let code = store.trial(id).unwrap().units[unit_index(unit)]
                .code
                .clone();
            let giving = Taken::new(
                &code,
                day,
                Giving {
                    job,
                    to: GivenTo::Unit,
                    gift,
                },
            )
            .at(on_day(day))
            .confirmed();
            store.take(&stamp, id, &giving).unwrap();
        }
    }
}

fn unit_index(unit: usize) -> iron_twin_terms::indices::UnitIndex {
    iron_twin_terms::indices::UnitIndex(unit)
}

fn all_received(trial: &Arc<Trial>) -> Vec<UnitReceived> {
    trial
        .unit_indices()
        .map(|unit| trial.received(unit, true))
        .collect()
}

fn any_act() -> impl Strategy<Value = Act> {
    let job = prop_oneof![Just(Job::Feed), Just(Job::Water)];
    let round = (
        job.clone(),
        0..9u32,
        proptest::option::of(50.0..300.0f64),
        proptest::bool::weighted(0.2),
    );
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
        Just(Gift::Withheld("ran out".into())),
    ];
    prop_oneof![
        round.prop_map(|(job, day, ml_a_unit, skipped)| Act::Round {
            job,
            day,
            ml_a_unit,
            skipped
        }),
        (job, 0..9u32, 0..4usize, gift).prop_map(|(job, day, unit, gift)| Act::Single {
            job,
            day,
            unit,
            gift
        }),
    ]
}

/// What happens to a record on its way: it arrives, arrives again, or arrives from somebody who
/// takes it back.
#[derive(Debug, Clone)]
enum Arrival {
    Enter(usize),
    Slip(usize),
    TakeBack,
}

fn arrivals(count: usize) -> impl Strategy<Value = Vec<Arrival>> {
    let once = (0..count).map(Arrival::Enter);
    let slips = proptest::collection::vec(0..count, 0..4);
    (
        Just(once.collect::<Vec<_>>()),
        proptest::collection::vec(0..count, 0..4),
        slips,
    )
        .prop_flat_map(|(mut all, twice, slips)| {
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
                        out.extend(std::iter::repeat_n(
                            Arrival::TakeBack,
                            std::mem::take(&mut open),
                        ));
                    }
                }
                out.extend(std::iter::repeat_n(Arrival::TakeBack, open));
                out
            })
        })
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

/// A look at a unit on a day, at which something was seen or not.
fn look(store: &Store, id: &str, (unit, day): (usize, u32), seen: bool, again: bool, moment: i64) {
    let code = store.trial(id).unwrap().units[unit_index(unit)]
        .code
        .clone();
    let stamp = Stamp {
        who: if again { "slip".into() } else { "Ada".into() },
        now: Timestamp::from_second(20_000_000 + moment).unwrap(),
        request: (!again).then(|| (format!("look {unit} {day}"), format!("{seen}"))),
    };
    let value = Some(f64::from(u8::from(seen)));
    let at = Timestamp::from_second(i64::from(day) * 86_400).ok();
    let mut new = shelf::reading(&code, "first_root", day, value)
        .at(at)
        .confirmed();
    new.is.again = again;
    store.take(&stamp, id, &new).unwrap();
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]
    /// "Not on day 3, seen on day 5" is what remains of all looks, in whatever order they arrive,
    /// twice, or beside a slip that is taken back.
    #[test]
    fn the_days_until_something_was_seen_come_out_the_same(
        (looks, order) in proptest::collection::btree_map((0..4usize, 0..12u32), any::<bool>(), 1..14)
            .prop_flat_map(|looks| {
                let all: Vec<_> = looks.iter().map(|(k, v)| (*k, *v)).collect();
                (Just(all.clone()), Just([all.clone(), all].concat()).prop_shuffle())
            })
    ) {
        let (one, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let ((plain, id), (rough, rough_id)) = (farm(&one), farm(&other));
        for (n, (place, seen)) in looks.iter().enumerate() {
            look(&plain, &id, *place, *seen, false, n as i64);
        }
        for (n, (place, seen)) in order.iter().enumerate() {
            look(&rough, &rough_id, *place, *seen, false, n as i64);
            if n % 5 == 0 {
                look(&rough, &rough_id, (place.0, 0), true, true, n as i64);
                rough.undo(&Stamp { who: "slip".into(), ..Stamp::owner(Timestamp::UNIX_EPOCH) }, &rough_id).unwrap();
            }
        }
        let judged = Judged { measure: &first_root::MEASURE, day: None };
        let (plain, rough) = (plain.trial(&id).unwrap(), rough.trial(&rough_id).unwrap());
        let told = figures(&plain, judged, None, None);
        prop_assert_eq!(&told, &figures(&rough, judged, None, None));
        // And it is what the looks say: the first day on which it was seen, after the last before
        // it on which it was not.
        for (unit, figure) in told.iter().enumerate() {
            let days = |wanted: bool| looks.iter().filter(move |((u, _), seen)| *u == unit && *seen == wanted).map(|((_, d), _)| *d);
            let first = days(true).min();
            let after = days(false).filter(|d| first.is_none_or(|f| *d < f)).max();
            let wanted = match (first, after) {
                (Some(day), after) => Some((f64::from(day), true, after.map(f64::from))),
                (None, Some(day)) => Some((f64::from(day), false, None)),
                (None, None) => None,
            };
            let got = figure.and_then(|f| Some((f.value, f.seen?.yes, f.seen?.after)));
            prop_assert_eq!(got, wanted, "unit {}", unit);
        }
    }
}
