//! A trial through the store: what is kept, what is refused, what is taken back, what survives.

use crate::shelf;

use iron_twin_chemistry::acid::{Bottle, PhProduct};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::place::blind::{KeyEntry, verify};
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::deal::Loss;
use iron_twin_core::trial::feed::{FeedPlan, PhPlan};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::question::Ask;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::mix::{GapWhy, Mix, Portioned};
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::record::write_off::WriteOff;
use iron_twin_core::trial::sheet::Sheet;
use iron_twin_core::trial::space::Rack;
use iron_twin_store::ask::AskChange;
use iron_twin_store::place::Chance;
use iron_twin_store::{Result, Stamp, Store, StoreError};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::quantity::Margin;
use jiff::Timestamp;
use jiff::civil::date;
use shelf::{Take, Taken};

fn stamp() -> Stamp {
    Stamp::owner(Timestamp::from_second(40 * 86_400).expect("an instant"))
}

fn lost(code: &str) -> Taken<WriteOff> {
    shelf::write_off(code, 5, Some("mould"))
}

fn mould() -> Loss {
    Loss {
        reason: "mould".into(),
        day: Some(5),
    }
}

fn keyed(key: &str, body: &str) -> Stamp {
    Stamp {
        request: Some((key.into(), body.into())),
        ..stamp()
    }
}

struct Bench {
    store: Store,
    id: String,
    _folder: tempfile::TempDir,
}

/// A sown trial of two treatments on two levels.
fn sown() -> Result<Bench> {
    let bench = dealt()?;
    bench.store.sow(&stamp(), &bench.id, date(1970, 1, 1))?;
    Ok(bench)
}

fn dealt() -> Result<Bench> {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("trials.sqlite"))?;
    let id = store.create_trial(&stamp(), "Kohlrabi")?;
    let rack = Rack {
        name: "rack".into(),
        levels: 2,
        slots: 2,
        ..Rack::default()
    };
    let version = store.set_rack(&stamp(), &id, &rack, 1)?;
    store.deal(
        &stamp(),
        &id,
        Chance {
            seed: 11,
            nonce: [3; 32],
        },
        version,
    )?;
    Ok(Bench {
        store,
        id,
        _folder: folder,
    })
}

fn reading(code: &str, value: Option<f64>, version: i64) -> Taken<Reading> {
    shelf::reading(code, "ph", 2, value).over(version)
}

fn weight(code: &str, gross_g: f64, version: i64) -> Taken<Weighing> {
    shelf::weighing(code, 12, gross_g, 20.0).over(version)
}

fn first_code(bench: &Bench) -> Result<String> {
    Ok(bench.store.trial(&bench.id)?.units[0].code.clone())
}

/// One more reading of a day stands beside the one before; a correction is of the last of them.
#[test]
fn a_day_may_have_several_readings() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let code = store.trial(id)?.units[UnitIndex(0)].code.clone();
    let again = |value: f64| reading(&code, Some(value), 0).again();
    assert_eq!(store.take(&stamp(), id, &reading(&code, Some(6.0), 0))?, 1);
    assert_eq!(store.take(&stamp(), id, &again(6.2))?, 1);
    assert_eq!(store.take(&stamp(), id, &again(6.4))?, 1);
    let day = || -> Result<Vec<Option<f64>>> {
        Ok(store
            .trial(id)?
            .of_unit(UnitIndex(0))
            .readings
            .iter()
            .map(|r| r.value)
            .collect())
    };
    assert_eq!(day()?, [Some(6.0), Some(6.2), Some(6.4)]);
    assert!(matches!(
        store.take(&stamp(), id, &reading(&code, Some(6.5), 0)),
        Err(StoreError::Stale { .. })
    ));
    assert_eq!(store.take(&stamp(), id, &reading(&code, Some(6.5), 1))?, 2);
    assert_eq!(day()?, [Some(6.0), Some(6.2), Some(6.5)]);
    store.undo(&stamp(), id)?;
    store.undo(&stamp(), id)?;
    assert_eq!(day()?, [Some(6.0), Some(6.2)]);
    Ok(())
}

#[test]
fn the_sealed_key_is_the_one_that_was_dealt() -> Result<()> {
    let bench = dealt()?;
    let trial = bench.store.trial(&bench.id)?;
    let key: Vec<KeyEntry> = trial
        .units
        .iter()
        .map(|u| KeyEntry {
            code: u.code.clone(),
            treatment: trial.plan.sheet.treatments[u.treatment].name.clone(),
        })
        .collect();
    let deal = trial.deal.as_ref().expect("dealt");
    assert!(verify(&deal.commitment, &deal.nonce, &key));
    assert_eq!(deal.seed, 11);
    Ok(())
}

#[test]
fn readings_are_refused_asked_about_corrected_and_guarded() -> Result<()> {
    let bench = sown()?;
    let code = first_code(&bench)?;
    let record = |new: Taken<Reading>| bench.store.take(&stamp(), &bench.id, &new);
    assert!(matches!(
        record(reading(&code, Some(61.0), 0)),
        Err(StoreError::Refused { field: "value", .. })
    ));
    assert!(matches!(
        record(reading(&code, Some(9.1), 0)),
        Err(StoreError::Unlikely { .. })
    ));
    assert!(matches!(
        record(reading("ZZ", Some(6.1), 0)),
        Err(StoreError::NotFound { what: "unit", .. })
    ));
    let mood = reading(&code, Some(6.0), 0).of("mood");
    assert!(matches!(
        record(mood),
        Err(StoreError::Refused {
            field: "reading",
            ..
        })
    ));
    assert_eq!(record(reading(&code, Some(9.1), 0).confirmed())?, 1);
    assert_eq!(record(reading(&code, Some(6.1), 1))?, 2);
    match record(reading(&code, Some(6.4), 1)) {
        Err(StoreError::Stale { stored, sent, .. }) => {
            assert_eq!((stored.as_str(), sent.as_str()), ("6.1", "6.4"))
        }
        other => panic!("{other:?}"),
    }
    assert_eq!(record(reading(&code, None, 2))?, 3);
    assert_eq!(
        bench.store.trial(&bench.id)?.of_unit(UnitIndex(0)).readings[0].value,
        None
    );
    Ok(())
}

/// A bucket cannot hold more than was left and poured in: such a level is asked about at the shelf,
/// and kept where it was rain and is said to be right.
#[test]
fn a_level_that_rises_by_itself_is_asked_about() -> Result<()> {
    let bench = sown()?;
    let code = first_code(&bench)?;
    let on = |day: u32, key: &str, litres: f64| reading(&code, Some(litres), 0).of(key).on(day);
    let record = |new: Taken<Reading>| bench.store.take(&stamp(), &bench.id, &new);
    assert_eq!(
        record(on(1, "level", 7.0))?,
        1,
        "nothing is known to be in it yet"
    );
    assert_eq!(record(on(1, "filled", 8.0))?, 1);
    match record(on(3, "level", 9.5)) {
        Err(StoreError::Unlikely { message }) => {
            assert!(
                message.contains("1.50 L more than there could be"),
                "{message}"
            )
        }
        other => panic!("{other:?}"),
    }
    assert_eq!(record(on(3, "level", 5.0))?, 1);
    assert_eq!(record(on(3, "water_added", 2.0))?, 1);
    assert_eq!(record(on(5, "level", 6.9))?, 1, "5 L and 2 more");
    assert!(matches!(
        record(on(7, "level", 7.8)),
        Err(StoreError::Unlikely { .. })
    ));
    assert_eq!(record(on(7, "level", 7.8).confirmed())?, 1);
    let days = bench
        .store
        .trial(&bench.id)?
        .of_unit(UnitIndex(0))
        .tank_days();
    let levels: Vec<_> = days.iter().map(|d| (d.day, d.level_l, d.water_l)).collect();
    assert_eq!(
        levels,
        [
            (1, Some(7.0), 0.0),
            (3, Some(5.0), 2.0),
            (5, Some(6.9), 0.0),
            (7, Some(7.8), 0.0)
        ]
    );
    Ok(())
}

/// Weight for each litre takes a weight and a level; water alone takes a level.
#[test]
fn a_unit_counts_as_recorded_once_its_measure_has_what_it_is_made_from() -> Result<()> {
    for (measure, levels, weights, recorded) in [
        ("water_used", 0, 1, 0),
        ("water_used", 1, 0, 1),
        ("harvest_per_litre", 1, 0, 0),
        ("harvest_per_litre", 0, 1, 0),
        ("harvest_per_litre", 1, 1, 1),
    ] {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("trials.sqlite"))?;
        let id = store.create_trial(&stamp(), "Jars")?;
        let ask = Ask {
            primary_measure: measure.into(),
            also: Vec::new(),
            ..store.trial(&id)?.plan.ask.clone()
        };
        let version = store.set_ask(
            &stamp(),
            &id,
            &AskChange {
                name: "Jars".into(),
                ask,
                version: 1,
                reason: None,
            },
        )?;
        store.deal(
            &stamp(),
            &id,
            Chance {
                seed: 3,
                nonce: [1; 32],
            },
            version,
        )?;
        store.sow(&stamp(), &id, date(1970, 1, 1))?;
        let code = store.trial(&id)?.units[0].code.clone();
        for _ in 0..levels {
            let level = reading(&code, Some(0.4), 0).of("level");
            store.take(&stamp(), &id, &level)?;
        }
        for _ in 0..weights {
            store.take(&stamp(), &id, &weight(&code, 120.0, 0))?;
        }
        assert_eq!(store.trial(&id)?.recorded_units(), recorded, "{measure}");
    }
    Ok(())
}

/// The pH to which the water is brought is part of the feed: kept whole, guarded against two
/// people, checked.
#[test]
fn the_ph_of_the_water_is_kept_with_the_feed() -> Result<()> {
    let bench = dealt()?;
    let before = bench.store.trial(&bench.id)?;
    let bottle = Bottle {
        product: PhProduct::Citric,
        percent: 30.0,
        density_kg_per_l: 1.12,
    };
    let feed = FeedPlan {
        ph: Some(PhPlan {
            bottle,
            target_ph: 6.2,
        }),
        ..before.plan.feed.clone()
    };
    bench
        .store
        .set_feed(&stamp(), &bench.id, &feed, before.version)?;
    assert_eq!(bench.store.trial(&bench.id)?.plan.feed, feed);
    assert!(matches!(
        bench
            .store
            .set_feed(&stamp(), &bench.id, &before.plan.feed, before.version),
        Err(StoreError::Stale { .. })
    ));
    let bad = FeedPlan {
        ph: Some(PhPlan {
            bottle,
            target_ph: 12.0,
        }),
        ..feed
    };
    let said = bench
        .store
        .set_feed(&stamp(), &bench.id, &bad, before.version + 1);
    assert!(
        matches!(said, Err(StoreError::Refused { field: "feed", .. })),
        "{said:?}"
    );
    Ok(())
}

#[test]
fn a_retry_with_the_same_key_is_answered_and_not_done_again() -> Result<()> {
    let bench = sown()?;
    let (store, code) = (&bench.store, first_code(&bench)?);
    let weigh = |stamp: &Stamp, gross| store.take(stamp, &bench.id, &weight(&code, gross, 0));
    assert_eq!(weigh(&keyed("k1", "120"), 120.0)?, 1);
    let before = bench.store.history_length(&bench.id)?;
    assert_eq!(weigh(&keyed("k1", "120"), 120.0)?, 1);
    assert_eq!(bench.store.history_length(&bench.id)?, before);
    assert!(matches!(
        weigh(&keyed("k1", "121"), 121.0),
        Err(StoreError::KeyReused)
    ));
    // Another weight of the same is asked about where it is one's own, and a quarrel where it is
    // somebody else's.
    let second = weight(&code, 121.0, 0);
    let other = Stamp {
        who: "Ben".into(),
        ..stamp()
    };
    assert!(matches!(
        store.take(&other, &bench.id, &second),
        Err(StoreError::Stale { .. })
    ));
    let sure = second.clone().confirmed();
    assert!(matches!(
        store.take(&other, &bench.id, &sure),
        Err(StoreError::Stale { .. })
    ));
    match store.take(&stamp(), &bench.id, &second) {
        Err(StoreError::Unlikely { message }) => {
            assert!(message.contains("from you already"), "{message}")
        }
        other => panic!("{other:?}"),
    }
    assert_eq!(store.take(&stamp(), &bench.id, &sure)?, 2);
    Ok(())
}

#[test]
fn undo_takes_back_step_by_step_and_puts_the_old_value_back() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let code = first_code(&bench)?;
    store.take(&stamp(), id, &weight(&code, 120.0, 0))?;
    store.take(&stamp(), id, &weight(&code, 130.0, 1))?;
    store.take(&stamp(), id, &shelf::note(&code, 3, " slimy "))?;
    assert_eq!(store.undo(&stamp(), id)?.action, format!("note on {code}"));
    assert!(store.trial(id)?.records.notes().is_empty());
    store.undo(&stamp(), id)?;
    assert_eq!(
        store.trial(id)?.of_unit(UnitIndex(0)).weighings()[0].net_g(),
        100.0
    );
    store.undo(&stamp(), id)?;
    assert!(store.trial(id)?.records.weighings() == 0);
    store.undo(&stamp(), id)?;
    assert_eq!(
        store.trial(id)?.sown_on,
        None,
        "the sowing itself was taken back"
    );
    assert!(matches!(
        store.undo(&stamp(), id),
        Err(StoreError::NothingToUndo)
    ));
    Ok(())
}

/// A change of the plan is taken back as a whole, with the deal that it had dropped.
#[test]
fn a_change_of_the_plan_is_taken_back_with_its_deal() -> Result<()> {
    let bench = dealt()?;
    let (store, id) = (&bench.store, &bench.id);
    let before = store.trial(id)?;
    let mut sheet = before.plan.sheet.clone();
    sheet.treatments[1].set("medium", "coir mat");
    let version = store.set_sheet(&stamp(), id, &sheet, before.version)?;
    assert!(
        store.trial(id)?.deal.is_none(),
        "the deal was for other treatments"
    );
    let offered = store.last_action(id, "owner")?.expect("an action");
    assert_eq!((offered.action.as_str(), offered.plan), ("matched", true));
    assert_eq!(store.undo(&stamp(), id)?.action, "matched");
    let after = store.trial(id)?;
    assert_eq!(
        (&after.plan, &after.deal, &after.units),
        (&before.plan, &before.deal, &before.units)
    );
    assert!(after.version > version, "a taking back is a change too");
    // The next undo goes one further back: to the rack as it was before the deal, which belongs to
    // the new one.
    assert!(matches!(
        store.undo(&stamp(), id),
        Err(StoreError::Locked(_))
    ));
    assert_eq!(
        store.last_action(id, "owner")?,
        None,
        "what would be refused is not offered"
    );
    Ok(())
}

/// Step by step back to the plan as it was dealt upon, and a change made after that can be taken
/// back in its turn.
#[test]
fn changes_of_the_plan_are_taken_back_one_after_another() -> Result<()> {
    let bench = dealt()?;
    let (store, id) = (&bench.store, &bench.id);
    let every = |days: u32| -> Result<()> {
        let care = CarePlan {
            feed_every: days,
            ..CarePlan::default()
        };
        store
            .set_care(&stamp(), id, &care, store.trial(id)?.version)
            .map(drop)
    };
    let first = store.trial(id)?.plan.clone();
    for days in [3, 4, 5] {
        every(days)?;
    }
    for days in [4, 3] {
        store.undo(&stamp(), id)?;
        assert_eq!(store.trial(id)?.plan.care.feed_every, days);
    }
    every(6)?;
    store.undo(&stamp(), id)?;
    assert_eq!(store.trial(id)?.plan.care.feed_every, 3);
    store.undo(&stamp(), id)?;
    assert_eq!(store.trial(id)?.plan, first);
    assert_eq!(
        store.last_action(id, "owner")?,
        None,
        "the rack before them was dealt upon"
    );
    Ok(())
}

#[test]
fn a_change_that_somebody_else_followed_is_not_taken_back() -> Result<()> {
    let bench = dealt()?;
    let (store, id) = (&bench.store, &bench.id);
    let version = store.trial(id)?.version;
    let care = |every: u32| CarePlan {
        feed_every: every,
        ..CarePlan::default()
    };
    let version = store.set_care(&stamp(), id, &care(3), version)?;
    let kim = Stamp {
        who: "Kim".into(),
        ..stamp()
    };
    store.set_care(&kim, id, &care(5), version)?;
    assert!(matches!(
        store.undo(&stamp(), id),
        Err(StoreError::Stale { .. })
    ));
    assert_eq!(
        (
            store.last_action(id, "owner")?,
            store.last_action(id, "Kim")?.is_some()
        ),
        (None, true)
    );
    store.undo(&kim, id)?;
    assert_eq!(store.trial(id)?.plan.care.feed_every, 3);
    Ok(())
}

/// What was asked before the first record stays as it was sealed; what was changed since may be
/// taken back, and is then no change that the report tells of.
#[test]
fn undo_stops_at_the_seal_and_a_change_taken_back_is_none() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let trial = store.trial(id)?;
    let ask = Ask {
        end_day: 20,
        ..trial.plan.ask.clone()
    };
    let change = AskChange {
        name: "Kohlrabi".into(),
        ask,
        version: trial.version,
        reason: Some("slow".into()),
    };
    store.set_ask(&stamp(), id, &change)?;
    assert_eq!(store.trial(id)?.changes.len(), 1);
    assert_eq!(store.undo(&stamp(), id)?.action, "asked");
    let after = store.trial(id)?;
    assert_eq!((&after.plan, after.changes.len()), (&trial.plan, 0));
    store.undo(&stamp(), id)?;
    assert!(
        matches!(store.undo(&stamp(), id), Err(StoreError::NothingToUndo)),
        "the deal and the rack are sealed"
    );
    Ok(())
}

#[test]
fn a_trial_is_planned_from_the_plan_of_another() -> Result<()> {
    let bench = sown()?;
    let plan = Plan {
        name: "Kohlrabi, once more".into(),
        ..(*bench.store.trial(&bench.id)?.plan).clone()
    };
    let id = bench.store.create_from(&stamp(), plan.clone())?;
    let next = bench.store.trial(&id)?;
    assert_eq!(
        (&*next.plan, next.sealed_at, next.deal.is_none()),
        (&plan, None, true)
    );
    let nameless = Plan {
        name: " ".into(),
        ..plan.clone()
    };
    assert!(matches!(
        bench.store.create_from(&stamp(), nameless),
        Err(StoreError::Refused { field: "name", .. })
    ));
    let mut one = plan;
    one.sheet.treatments.truncate(1);
    assert!(matches!(
        bench.store.create_from(&stamp(), one),
        Err(StoreError::Refused { field: "sheet", .. })
    ));
    Ok(())
}

#[test]
fn a_unit_that_was_just_written_off_does_not_hold_up_the_round() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let codes: Vec<String> = store
        .trial(id)?
        .units
        .iter()
        .map(|u| u.code.clone())
        .collect();
    // Nothing is read between these writes: what is in memory does not know of the loss.
    store.take(&stamp(), id, &lost(&codes[1]))?;
    for (n, code) in codes.iter().enumerate().filter(|(n, _)| *n != 1) {
        for (key, value) in [("ph", 6.0), ("ec", 1.5)] {
            store.take(&stamp(), id, &reading(code, Some(value), 0).of(key))?;
        }
        if n == 0 {
            // Brought back and written off again.
            store.take(&stamp(), id, &shelf::write_off(&codes[1], 5, None))?;
            store.take(&stamp(), id, &lost(&codes[1]))?;
        }
    }
    assert_eq!(
        store
            .trial(id)?
            .work_done()
            .jobs
            .iter()
            .filter(|job| **job == (Job::Read, 2))
            .count(),
        1
    );
    Ok(())
}

/// With the last pH and EC of the day the round counts as read: once, in the act that completed it.
#[test]
fn a_round_of_readings_is_done_exactly_once() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let codes: Vec<String> = store
        .trial(id)?
        .units
        .iter()
        .map(|u| u.code.clone())
        .collect();
    let rounds = || {
        Ok::<_, StoreError>(
            store
                .trial(id)?
                .work_done()
                .jobs
                .iter()
                .filter(|j| **j == (Job::Read, 2))
                .count(),
        )
    };
    for key in ["ph", "ec"] {
        for code in &codes {
            assert_eq!(rounds()?, 0, "{key} of {code} is still missing");
            let value = if key == "ph" { 6.0 } else { 1.5 };
            let new = reading(code, Some(value), 0).of(key);
            store.take(&stamp(), id, &new)?;
        }
    }
    assert_eq!(rounds()?, 1);
    store.take(&stamp(), id, &reading(&codes[0], Some(6.2), 1))?;
    assert_eq!(rounds()?, 1, "a correction is no other round");
    Ok(())
}

#[test]
fn the_first_record_seals_and_later_changes_are_kept_beside() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let trial = store.trial(id)?;
    let change = |margin: f64, reason: Option<&str>, version: i64| AskChange {
        name: trial.plan.name.clone(),
        ask: Ask {
            margin: Margin::Percent(margin),
            ..trial.plan.ask.clone()
        },
        version,
        reason: reason.map(Into::into),
    };
    let refused = store.set_ask(&stamp(), id, &change(5.0, None, trial.version));
    assert!(matches!(
        refused,
        Err(StoreError::Refused {
            field: "reason",
            ..
        })
    ));
    store.set_ask(
        &stamp(),
        id,
        &change(5.0, Some("prices fell"), trial.version),
    )?;
    let changed = &store.trial(id)?.changes[0];
    let told = (
        changed.change.before.as_str(),
        changed.change.after.as_str(),
        changed.reason.as_str(),
    );
    assert_eq!(told, ("10%", "5%", "prices fell"));
    let version = store.trial(id)?.version;
    assert!(matches!(
        store.set_sheet(&stamp(), id, &Sheet::usual(), version),
        Err(StoreError::Locked(_))
    ));
    assert!(matches!(
        store.deal(&stamp(), id, Chance::fresh(), version),
        Err(StoreError::Locked(_))
    ));
    assert!(matches!(
        store.set_rack(&stamp(), id, &Rack::default(), version),
        Err(StoreError::Locked(_))
    ));
    Ok(())
}

#[test]
fn the_plan_is_guarded_against_two_people() -> Result<()> {
    let bench = dealt()?;
    let (store, id) = (&bench.store, &bench.id);
    let version = store.trial(id)?.version;
    store.set_care(
        &stamp(),
        id,
        &CarePlan {
            feed_every: 3,
            ..CarePlan::default()
        },
        version,
    )?;
    let late = store.set_care(&stamp(), id, &CarePlan::default(), version);
    assert!(matches!(late, Err(StoreError::Stale { .. })));
    assert_eq!(store.trial(id)?.plan.care.feed_every, 3);
    let never = CarePlan {
        feed_every: 400,
        ..CarePlan::default()
    };
    assert!(matches!(
        store.set_care(&stamp(), id, &never, version + 1),
        Err(StoreError::Refused { field: "care", .. })
    ));
    Ok(())
}

#[test]
fn nothing_is_recorded_before_the_deal_or_after_the_reveal() -> Result<()> {
    let bench = dealt()?;
    let (store, id) = (&bench.store, &bench.id);
    let code = first_code(&bench)?;
    assert!(matches!(
        store.take(&stamp(), id, &weight(&code, 120.0, 0)),
        Err(StoreError::Locked(_))
    ));
    assert!(matches!(
        store.reveal(&stamp(), id, 0, "tried out"),
        Err(StoreError::Locked(_))
    ));
    store.sow(&stamp(), id, date(1970, 1, 1))?;
    assert!(matches!(
        store.sow(&stamp(), id, date(1970, 1, 1)),
        Err(StoreError::Locked(_))
    ));
    store.take(&stamp(), id, &weight(&code, 120.0, 0))?;
    // Most of them have no weight yet: without a reason it stays sealed.
    for reason in ["", "  "] {
        assert!(matches!(
            store.reveal(&stamp(), id, 12, reason),
            Err(StoreError::Refused {
                field: "reason",
                ..
            })
        ));
    }
    assert_eq!(store.trial(id)?.reveal, None);
    store.reveal(&stamp(), id, 12, " the fair is tomorrow ")?;
    assert!(matches!(
        store.take(&stamp(), id, &weight(&code, 121.0, 1)),
        Err(StoreError::Locked(_))
    ));
    assert!(matches!(
        store.job_done(&stamp(), id, Job::Feed, 13),
        Err(StoreError::Locked(_))
    ));
    let reveal = store.trial(id)?.reveal.clone().expect("open");
    assert_eq!(
        (reveal.day, reveal.weighed, reveal.reason.as_str()),
        (12, 1, "the fair is tomorrow")
    );
    Ok(())
}

/// What was written off is accounted for, whether or not it was weighed before; what stands and was
/// not weighed is not.
#[test]
fn the_key_waits_for_what_stands_and_not_for_what_was_written_off() -> Result<()> {
    let bench = dealt()?;
    let (store, id) = (&bench.store, &bench.id);
    store.sow(&stamp(), id, date(1970, 1, 1))?;
    let codes: Vec<String> = store
        .trial(id)?
        .units
        .iter()
        .map(|u| u.code.clone())
        .collect();
    // The first is weighed and then spoilt, the last is not weighed at all.
    for code in &codes[..codes.len() - 1] {
        store.take(&stamp(), id, &weight(code, 120.0, 0))?;
    }
    let end = store.trial(id)?.plan.ask.end_day;
    let lose = |code: &str| store.take(&stamp(), id, &lost(code));
    lose(&codes[0])?;
    assert!(
        store.trial(id)?.opens_early(end),
        "one stands that was not weighed"
    );
    lose(&codes[codes.len() - 1])?;
    let trial = store.trial(id)?;
    assert!(!trial.opens_early(end) && trial.opens_early(end - 1));
    store.reveal(&stamp(), id, end, "for nothing")?;
    let reveal = store.trial(id)?.reveal.clone().expect("open");
    assert_eq!(
        (reveal.weighed, reveal.reason.as_str()),
        (codes.len() - 2, ""),
        "no reason where none is wanted"
    );
    Ok(())
}

fn portion(name: &str, measured: f64) -> Portioned {
    Portioned {
        name: name.into(),
        unit: "mL".into(),
        planned: 2.2,
        measured,
        lot: "L-07".into(),
    }
}

#[test]
fn mixes_write_offs_and_pouring_sheets_leave_their_trace() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let code = first_code(&bench)?;
    let mix = |ec: f64| Mix {
        treatment: TreatmentIndex(1),
        volume_l: 1.1,
        feed_total: 4.4,
        ec_ms_per_cm: Some(ec),
        ph: Some(6.0),
        batch: " 3 ".into(),
        temperature_c: Some(18.5),
        computed_ec_ms_per_cm: Some(1.62),
        gap_why: Some(GapWhy::Probe),
        gap_note: " cleaned it, then it agreed ".into(),
        portions: vec![portion("part A", 2.2), portion("part B", 2.3)],
    };
    store.keep(
        &stamp(),
        id,
        HeadSent {
            day: Some(4),
            ..HeadSent::default()
        },
        mix(1.6),
    )?;
    let kept = store.trial(id)?.records.mixes()[0].clone();
    assert_eq!(
        (kept.batch.as_str(), kept.temperature_c, kept.gap_why),
        ("3", Some(18.5), Some(GapWhy::Probe))
    );
    assert_eq!(kept.gap_note, "cleaned it, then it agreed");
    assert_eq!(kept.portions, mix(1.6).portions);
    for (field, odd) in [
        (
            "temperature_c",
            Mix {
                temperature_c: Some(90.0),
                ..mix(1.6)
            },
        ),
        (
            "portions",
            Mix {
                portions: vec![portion("part A", f64::NAN)],
                ..mix(1.6)
            },
        ),
        (
            "batch",
            Mix {
                batch: "x".repeat(61),
                ..mix(1.6)
            },
        ),
    ] {
        assert!(
            matches!(store.keep(&stamp(), id, HeadSent { day: Some(4), ..HeadSent::default() }, odd), Err(StoreError::Refused { field: f, .. }) if f == field)
        );
    }
    assert!(matches!(
        store.keep(
            &stamp(),
            id,
            HeadSent {
                day: Some(4),
                ..HeadSent::default()
            },
            mix(16.0)
        ),
        Err(StoreError::Unlikely { .. })
    ));
    assert!(matches!(
        store.keep(
            &stamp(),
            id,
            HeadSent {
                day: Some(4),
                ..HeadSent::default()
            },
            mix(-1.0)
        ),
        Err(StoreError::Refused {
            field: "ec_ms_per_cm",
            ..
        })
    ));
    let nowhere = store.keep(
        &stamp(),
        id,
        HeadSent {
            day: Some(4),
            ..HeadSent::default()
        },
        Mix {
            treatment: TreatmentIndex(7),
            ..mix(1.6)
        },
    );
    assert!(matches!(
        nowhere,
        Err(StoreError::NotFound {
            what: "treatment",
            ..
        })
    ));
    store.open_pouring_sheet(&stamp(), id)?;
    store.take(&stamp(), id, &lost(&code))?;
    assert!(matches!(
        store.take(&stamp(), id, &weight(&code, 99.0, 0)),
        Err(StoreError::Locked(_))
    ));
    let trial = store.trial(id)?;
    assert_eq!((trial.records.mixes().len(), trial.pouring_sheets), (1, 1));
    assert_eq!(trial.units[0].lost, Some(mould()));
    store.take(&stamp(), id, &shelf::write_off(&code, 5, None))?;
    assert_eq!(store.trial(id)?.units[0].lost, None);
    Ok(())
}

#[test]
fn a_failed_write_leaves_nothing_behind() -> Result<()> {
    let bench = sown()?;
    let before = bench.store.trial(&bench.id)?;
    let failed: Result<()> = bench.store.write(&stamp(), |t| {
        t.execute("DELETE FROM unit", [])?;
        Err(StoreError::Locked("no".into()))
    });
    assert!(failed.is_err());
    assert_eq!(bench.store.trial(&bench.id)?, before);
    assert!(bench.store.sound(false)? && bench.store.sound(true)?);
    Ok(())
}

#[test]
fn unwritable_places_are_told_with_their_path() {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("a-file");
    std::fs::write(
        &file,
        b"not a database, and long enough to be read as a broken one ........",
    )
    .expect("a file");
    let below = Store::open(&file.join("trials.sqlite"))
        .err()
        .expect("no folder below a file");
    assert!(
        matches!(&below, StoreError::CannotOpen { path, .. } if path.contains("trials.sqlite")),
        "{below}"
    );
    assert!(Store::open(&file).is_err());
}

#[test]
fn a_trial_put_away_is_in_no_list_of_work_and_comes_back_whole() -> Result<()> {
    let bench = sown()?;
    let (store, id) = (&bench.store, &bench.id);
    let before = store.trial(id)?;
    store.put_away(&stamp(), id, true)?;
    assert!(store.trials()?[0].put_away);
    assert_eq!(store.trial(id)?.units, before.units);
    store.put_away(&stamp(), id, false)?;
    assert!(!store.trials()?[0].put_away);
    assert!(matches!(
        store.put_away(&stamp(), "nobody", true),
        Err(StoreError::NotFound { .. })
    ));
    Ok(())
}
