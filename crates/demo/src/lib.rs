//! The demo farm, "Quarry Lane Greens": invented throughout, grown by the core's simulator from
//! fixed seeds with a known truth.

mod logger;
mod photos;
mod scripts;
mod shelves;
mod tasting;

use self::scripts::{Script, scripts};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::mix::tank::tanks;
use iron_twin_core::place::deal::Dealt;
use iron_twin_core::practice::season::{Room, Tray};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::application::Role;
use iron_twin_core::trial::question::Ask;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::mix::{Mix, Portioned};
use iron_twin_core::trial::record::note::Note;
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::sheet::{Sheet, SheetTreatment};
use iron_twin_core::trial::space::Rack;
use iron_twin_store::ask::AskChange;
use iron_twin_store::place::Chance;
use iron_twin_store::{Farm, Result, Stamp, Store};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::quantity::Margin;
use jiff::civil::Date;
use jiff::{Timestamp, ToSpan, tz::TimeZone};

/// Seed of the trial that is ready to be cut.
const READY_SEED: u64 = 20_261_117;

/// What stands ready to be weighed: code, gross and tare in g of each tray of the trial whose last
/// day is today, by code. Empty where there is no such trial.
///
/// # Errors
/// Those of the store.
pub fn ready_loads(store: &Store) -> Result<Vec<(String, f64, f64)>> {
    let Some(script) = scripts().into_iter().find(|s| s.seed == READY_SEED) else {
        return Ok(Vec::new());
    };
    let heads = store.trials()?;
    let Some(head) = heads.iter().find(|h| h.name.ends_with(script.name)) else {
        return Ok(Vec::new());
    };
    let trial = store.trial(&head.id)?;
    let (_, trays) = grown(&trial, &script);
    let codes = trial.units.iter().map(|u| u.code.clone());
    let load = |(code, tray): (String, Tray)| {
        (
            code,
            ((tray.net_g + tray.tare_g) * 10.0).round() / 10.0,
            tray.tare_g,
        )
    };
    let mut loads: Vec<_> = codes.zip(trays).map(load).collect();
    loads.sort_by(|a, b| a.0.cmp(&b.0));
    Ok(loads)
}

/// The trays of a trial as the truth has them, and the room in which they grow.
fn grown(trial: &Trial, script: &Script) -> (Room, Vec<Tray>) {
    let mut room = Room::new(script.truth.clone(), script.seed);
    let units = trial.units.iter();
    let dealt: Vec<Dealt> = units
        .map(|u| Dealt {
            position: u.position,
            treatment: u.treatment,
            code: u.code.clone(),
        })
        .collect();
    let trays = room.trays(&dealt, script.rack.1);
    (room, trays)
}

/// What is filled into a bucket, L.
const BUCKET_L: f64 = 8.0;
/// Days between two looks at the buckets.
const BUCKETS_READ_EVERY: u32 = 7;
/// What evaporates from a bucket over the whole trial, L, and what plants take for each gram that
/// is cut.
const DRINKS: (f64, f64) = (0.9, 0.021);

/// Fills an empty store with the demo farm as it stands on `today`.
///
/// # Errors
/// Those of the store.
pub fn fill(store: &Store, today: Date) -> Result<()> {
    let clock = Clock { today };
    store.set_farm(
        &clock.at(30, 8, 0),
        &Farm {
            name: "Quarry Lane Greens".into(),
            zone: TimeZone::system().iana_name().unwrap_or("UTC").into(),
        },
    )?;
    shelves::fill(store, &clock)?;
    scripts()
        .iter()
        .try_for_each(|script| plan(store, &clock, script, script.name))
}

/// Adds the demo farm's trials to a grower's own empty farm, each named as an example.
///
/// # Errors
/// Those of the store.
pub fn add_examples(store: &Store, today: Date) -> Result<()> {
    let clock = Clock { today };
    scripts()
        .iter()
        .try_for_each(|script| plan(store, &clock, script, &format!("Example: {}", script.name)))
}

struct Clock {
    today: Date,
}

impl Clock {
    /// A moment so many days before today.
    fn at(&self, days_ago: u32, hour: i8, minute: u32) -> Stamp {
        let date = self
            .today
            .checked_sub(i64::from(days_ago).days())
            .unwrap_or(self.today);
        let morning = date
            .at(hour, 0, 0, 0)
            .to_zoned(TimeZone::UTC)
            .map_or(Timestamp::UNIX_EPOCH, |z| z.timestamp());
        Stamp::owner(
            morning
                .checked_add(i64::from(minute).minutes())
                .unwrap_or(morning),
        )
    }

    fn date(&self, days_ago: u32) -> Date {
        self.today
            .checked_sub(i64::from(days_ago).days())
            .unwrap_or(self.today)
    }
}

fn sheet(script: &Script) -> Sheet {
    let treatment = |(i, (name, dose)): (usize, &(&str, f64))| {
        let mut own = SheetTreatment {
            name: (*name).into(),
            control: i == 0,
            ..Sheet::usual().treatments[1].clone()
        };
        script
            .conditions
            .iter()
            .for_each(|(key, value)| own.set(key, *value));
        own.give(Role::Feed, "grow feed", *dose);
        own
    };
    Sheet {
        treatments: script
            .treatments
            .iter()
            .enumerate()
            .map(treatment)
            .collect(),
        ..Sheet::usual()
    }
}

fn plan(store: &Store, clock: &Clock, script: &Script, name: &str) -> Result<()> {
    let stamp = clock.at(script.days_past + 2, 19, 0);
    let id = store.create_trial(&stamp, name)?;
    let ask = Ask {
        question: script.question.into(),
        hypothesis: script.hypothesis.into(),
        crop: script.crop.into(),
        also: script.also.iter().map(|&key| key.to_owned()).collect(),
        margin: Margin::Percent(10.0),
        price_per_kg: (script.crop == "red amaranth").then_some(26.0),
        end_day: script.end_day,
        ..Ask::default()
    };
    let version = store.set_ask(
        &stamp,
        &id,
        &AskChange {
            name: name.into(),
            ask,
            version: 1,
            reason: None,
        },
    )?;
    let version = store.set_sheet(&stamp, &id, &sheet(script), version)?;
    let name = if script.space == SpaceKind::Rack {
        "rack by the window"
    } else {
        "roof, along the south wall"
    };
    let (levels, slots) = script.rack;
    let rack = Rack {
        name: name.into(),
        levels,
        slots,
        kind: script.space,
        ..Rack::default()
    };
    let version = store.set_rack(&stamp, &id, &rack, version)?;
    let version = store.set_care(&stamp, &id, &script.care, version)?;
    let version = store.set_feed(&stamp, &id, &script.feed, version)?;
    let mut nonce = [0; 32];
    for (i, byte) in nonce.iter_mut().enumerate() {
        *byte = (script.seed >> (i % 8 * 8)) as u8 ^ (37 * i % 256) as u8;
    }
    store.deal(
        &stamp,
        &id,
        Chance {
            seed: script.seed,
            nonce,
        },
        version,
    )?;
    store.sow(
        &clock.at(script.days_past, 8, 5),
        &id,
        clock.date(script.days_past),
    )?;
    grow(store, clock, script, &id)
}

/// Keeps the trial day by day as a careful grower would.
fn grow(store: &Store, clock: &Clock, script: &Script, id: &str) -> Result<()> {
    let trial = store.trial(id)?;
    let (mut room, trays) = grown(&trial, script);
    let last = script.days_past.min(script.end_day);
    for day in 1..=last {
        let ago = script.days_past - day;
        if day == trial.plan.care.blackout_days {
            store.job_done(&clock.at(ago, 7, 30), id, Job::EndBlackout, day)?;
            let text = "Stand even, hulls mostly shed.".to_owned();
            store.keep(&clock.at(ago, 7, 35), id, on(day), Note { text })?;
        }
        let feeding = day >= trial.plan.care.first_feed_day
            && (day - trial.plan.care.first_feed_day) % trial.plan.care.feed_every == 0;
        if script.space == SpaceKind::Buckets {
            if feeding {
                feed(store, clock, script, &trial, (id, day))?;
            }
            buckets(
                store,
                clock,
                script,
                &trial,
                (&mut room, &trays),
                (id, day, ago),
            )?;
            continue;
        }
        if day == last.saturating_sub(2) {
            let sown = clock.date(script.days_past);
            logger::take_in(store, &clock.at(ago, 6, 30), id, (sown, day, script.rack.0))?;
        }
        // The work of the day that it is now stays to be done.
        if feeding && day < last.min(script.days_past) {
            feed(store, clock, script, &trial, (id, day))?;
            read(store, clock, &trial, &mut room, &trays, (id, day, ago))?;
        }
    }
    if script.days_past > script.end_day {
        harvest(store, clock, script, &trial, (&mut room, &trays), id)?;
    }
    Ok(())
}

fn feed(
    store: &Store,
    clock: &Clock,
    script: &Script,
    trial: &Trial,
    (id, day): (&str, u32),
) -> Result<()> {
    let ago = script.days_past - day;
    if day == trial.plan.care.first_feed_day {
        let (units, shelves) = (trial.units_at_once(), store.shelves()?);
        let all = tanks(
            &trial.plan.sheet,
            &shelves,
            &trial.plan.feed,
            &trial.plan.ask.crop,
            &units,
        )
        .unwrap_or_default();
        for (treatment, tank) in all.iter().enumerate() {
            let portions: Vec<Portioned> = tank
                .measure_out
                .iter()
                .map(|m| Portioned {
                    name: m.name.clone(),
                    unit: m.unit.to_owned(),
                    planned: m.total,
                    measured: (10.0 * m.total).round() / 10.0,
                    lot: "QL-114".into(),
                })
                .collect();
            let mix = Mix {
                treatment: TreatmentIndex(treatment),
                volume_l: tank.volume_l,
                feed_total: portions.iter().map(|p| p.measured).sum(),
                ec_ms_per_cm: Some(script.truth.ec[treatment]),
                ph: Some(6.1),
                batch: "1".into(),
                temperature_c: Some(19.5),
                computed_ec_ms_per_cm: tank
                    .solution
                    .as_ref()
                    .map(|s| s.conductivity_ms_per_cm.at_25c),
                portions,
                ..Mix::default()
            };
            store.keep(&clock.at(ago, 7, 40 + treatment as u32), id, on(day), mix)?;
        }
    }
    store
        .job_done(&clock.at(ago, 8, 0), id, Job::Feed, day)
        .map(drop)
}

/// The head of a record on a day, whatever is unlikely in it.
fn on(day: u32) -> HeadSent {
    HeadSent {
        day: Some(day),
        confirmed: true,
        ..HeadSent::default()
    }
}

fn put(
    store: &Store,
    stamp: &Stamp,
    id: &str,
    code: &str,
    (day, reading, value): (u32, &str, f64),
) -> Result<()> {
    let head = HeadSent {
        unit: Some(code.to_owned()),
        ..on(day)
    };
    let reading = Reading {
        reading: reading.into(),
        value: Some(value),
        again: false,
    };
    store.keep(stamp, id, head, reading).map(drop)
}

/// Buckets are filled on the first day, looked at once a week, and filled up with water as they
/// empty; on the last day what is left is read.
fn buckets(
    store: &Store,
    clock: &Clock,
    script: &Script,
    trial: &Trial,
    (room, trays): (&mut Room, &[Tray]),
    (id, day, ago): (&str, u32, u32),
) -> Result<()> {
    let first = trial.plan.care.first_feed_day;
    let looked = |day: u32| {
        day == script.end_day || (day > first && (day - first).is_multiple_of(BUCKETS_READ_EVERY))
    };
    if day != first && !looked(day) {
        return Ok(());
    }
    let deep = |litres: f64| (10.0 * litres).round() / 10.0;
    // What is gone by a day: it goes with the canopy.
    let gone = |tray: &Tray, day: u32| {
        let share = (f64::from(day - first) / f64::from(script.end_day - first)).powf(1.6);
        share * (DRINKS.0 + DRINKS.1 * tray.net_g)
    };
    for (i, (unit, tray)) in trial.units.iter().zip(trays).enumerate() {
        let stamp = clock.at(ago, 8, 10 + i as u32);
        if day == first {
            put(store, &stamp, id, &unit.code, (day, "filled", BUCKET_L))?;
            continue;
        }
        let mut litres = BUCKET_L;
        let mut before = first;
        for at in (first..day).filter(|&d| looked(d)) {
            litres = deep(litres - gone(tray, at) + gone(tray, before));
            // Filled up again once a good part is gone.
            litres = if litres < 0.7 * BUCKET_L {
                BUCKET_L
            } else {
                litres
            };
            before = at;
        }
        let left = deep(litres - gone(tray, day) + gone(tray, before));
        // The feed goes with the water, a little faster than it.
        let water_ec = script.truth.ec[0];
        let fed = (tray.ec - water_ec) * (1.0 - 0.55 * gone(tray, day) / BUCKET_L).max(0.05);
        let ec = room.ec_reading(&Tray {
            ec: water_ec + fed * (left / BUCKET_L).powf(0.4),
            ..tray.clone()
        });
        let mut readings = vec![("ph", room.ph_reading()), ("ec", ec), ("level", left)];
        if left < 0.7 * BUCKET_L && day < script.end_day {
            readings.push(("water_added", deep(BUCKET_L - left)));
        }
        readings.iter().try_for_each(|&(reading, value)| {
            put(store, &stamp, id, &unit.code, (day, reading, value))
        })?;
    }
    Ok(())
}

fn read(
    store: &Store,
    clock: &Clock,
    trial: &Trial,
    room: &mut Room,
    trays: &[Tray],
    (id, day, ago): (&str, u32, u32),
) -> Result<()> {
    for (i, (unit, tray)) in trial.units.iter().zip(trays).enumerate() {
        let values = [
            ("ph", room.ph_reading()),
            ("ec", room.ec_reading(tray)),
            ("height", room.height_on(tray, day)),
        ];
        for (reading, value) in values {
            put(
                store,
                &clock.at(ago, 8, 10 + i as u32),
                id,
                &unit.code,
                (day, reading, value),
            )?;
        }
        // Only of the trial that still runs: a farm that is made anew at every start draws few
        // pictures.
        if day + ago < trial.plan.ask.end_day {
            let (stamp, height) = (clock.at(ago, 9, i as u32), room.height_on(tray, day));
            photos::photograph(
                store,
                &stamp,
                id,
                (&unit.code, day, height),
                u64::from(100 * day) + i as u64,
            )?;
        }
    }
    // With the last pH and EC of a day the round counts as read.
    Ok(())
}

fn harvest(
    store: &Store,
    clock: &Clock,
    script: &Script,
    trial: &Trial,
    (room, trays): (&mut Room, &[Tray]),
    id: &str,
) -> Result<()> {
    let (day, ago) = (script.end_day, script.days_past - script.end_day);
    for (i, (unit, tray)) in trial.units.iter().zip(trays).enumerate() {
        if script.also.contains(&"height") {
            let height = room.height_on(tray, day);
            put(
                store,
                &clock.at(ago, 15, i as u32),
                id,
                &unit.code,
                (day, "height", height),
            )?;
        }
        let gross_g = ((tray.net_g + tray.tare_g) * 10.0).round() / 10.0;
        let head = HeadSent {
            unit: Some(unit.code.clone()),
            ..on(day)
        };
        let weighing = Weighing {
            gross_g,
            tare_g: tray.tare_g,
            turn: None,
        };
        store.keep(&clock.at(ago, 16, i as u32), id, head, weighing)?;
    }
    store.reveal(&clock.at(ago, 17, 20), id, day, "")?;
    // Only of the ladder of feeds: leaves from buckets go to the market.
    if trial.plan.treatments() == 4 {
        tasting::tasted(store, clock, id, (day, ago))
    } else {
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use iron_twin_core::trial::uptake::{Strength, uptake};
    use iron_twin_terms::indices::UnitIndex;

    fn named(store: &Store, name: &str) -> std::sync::Arc<Trial> {
        let heads = store.trials().unwrap();
        store
            .trial(&heads.iter().find(|h| h.name.starts_with(name)).unwrap().id)
            .unwrap()
    }

    /// What the records of a bucket say it drank lies where the truth put it: readings are to the
    /// tenth of a litre.
    #[test]
    fn buckets_drink_what_the_truth_says() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("farm.sqlite")).unwrap();
        fill(&store, "2026-11-24".parse().unwrap()).unwrap();
        let trial = named(&store, "Watercress");
        assert!(trial.reveal.is_some() && trial.records.weighings() == 12);
        for own in &trial.records.units {
            let of = |key: &'static str| {
                own.of(key, None, None)
                    .map(|(_, value)| value)
                    .collect::<Vec<_>>()
            };
            let used = uptake(&own.tank_days(), Strength::UNKNOWN).unwrap().water_l;
            let truth = DRINKS.0 + DRINKS.1 * own.weighings()[0].net_g();
            assert!((used - truth).abs() < 0.3, "{used} {truth}");
            assert!(
                of("level").iter().all(|litres| *litres > 0.5),
                "no bucket runs dry: {:?}",
                of("level")
            );
        }
    }

    #[test]
    fn the_farm_is_the_same_every_time_and_the_truth_lies_in_it() {
        let folder = tempfile::tempdir().unwrap();
        let weights = |file: &str| {
            let store = Store::open(&folder.path().join(file)).unwrap();
            fill(&store, "2026-11-24".parse().unwrap()).unwrap();
            let heads = store.trials().unwrap();
            assert_eq!(heads.len(), 4);
            let done = named(&store, "Red amaranth");
            assert_eq!(done.records.weighings(), 16);
            for trial in heads.iter().map(|h| store.trial(&h.id).unwrap()) {
                let read: Vec<u32> = trial
                    .work_done()
                    .jobs
                    .iter()
                    .filter(|(j, _)| *j == Job::Read)
                    .map(|(_, d)| *d)
                    .collect();
                assert!(
                    !read.is_empty() && read.windows(2).all(|two| two[0] < two[1]),
                    "once a day: {read:?}"
                );
            }
            // One row of the logger's is no number; the rest of its days came in.
            let log = &store.log_files(&done.id).unwrap()[0];
            assert_eq!((log.taken, log.bad, log.doubled), (1439, 1, 0));
            let net_g = |unit: UnitIndex| done.of_unit(unit).weighings()[0].net_g();
            let mean = |t: usize| {
                let own: Vec<f64> = done
                    .unit_indices()
                    .filter(|&u| done.units[u].treatment.get() == t)
                    .map(net_g)
                    .collect();
                own.iter().sum::<f64>() / own.len() as f64
            };
            // Four trays a side with a spread of 4.5 g around a true gain of 33 g.
            assert!(
                (mean(3) - mean(0) - 33.0).abs() < 12.0,
                "{}",
                mean(3) - mean(0)
            );
            done.units
                .iter()
                .map(|u| u.code.clone())
                .zip(done.unit_indices().map(net_g))
                .collect::<Vec<_>>()
        };
        assert_eq!(weights("a.sqlite"), weights("b.sqlite"));
    }

    #[test]
    fn examples_are_named_so_and_leave_the_farm_its_name() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("own.sqlite")).unwrap();
        let before = store.farm().unwrap();
        add_examples(&store, "2026-11-24".parse().unwrap()).unwrap();
        assert_eq!(store.farm().unwrap(), before);
        let heads = store.trials().unwrap();
        assert!(
            heads.len() == 4 && heads.iter().all(|h| h.name.starts_with("Example: ")),
            "{heads:?}"
        );
    }

    #[test]
    fn what_stands_ready_is_what_the_truth_grew() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("farm.sqlite")).unwrap();
        assert_eq!(ready_loads(&store).unwrap(), []);
        fill(&store, "2026-11-24".parse().unwrap()).unwrap();
        let (trial, loads) = (named(&store, "Kohlrabi"), ready_loads(&store).unwrap());
        assert_eq!(
            (
                trial.records.weighings(),
                trial.reveal.is_some(),
                loads.len()
            ),
            (0, false, 16)
        );
        let net = |t: usize| {
            let own = |code: &str| {
                trial
                    .units
                    .iter()
                    .any(|u| u.code == code && u.treatment.get() == t)
            };
            let nets: Vec<f64> = loads
                .iter()
                .filter(|(code, ..)| own(code))
                .map(|(_, gross, tare)| gross - tare)
                .collect();
            nets.iter().sum::<f64>() / nets.len() as f64
        };
        // Eight trays a side with a spread of some 7 g around a true gain of 17 g.
        assert!((net(1) - net(0) - 17.0).abs() < 10.0, "{}", net(1) - net(0));
    }

    #[test]
    fn the_running_trial_stands_on_day_five_under_its_blind() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("farm.sqlite")).unwrap();
        fill(&store, "2026-11-24".parse().unwrap()).unwrap();
        let running = named(&store, "Rocket");
        assert_eq!(running.sown_on, Some(jiff::civil::date(2026, 11, 19)));
        assert!(running.sealed_at.is_some() && running.records.weighings() == 0);
        assert_eq!(
            running.records.readings(),
            36,
            "one round of three readings on twelve trays"
        );
    }
}
