use super::*;
use crate::catalogue::readings::{ec, height, level, ph};
use crate::stores::keys;
use crate::trial::Reveal;
use crate::trial::deal::{Loss, Unit};
use crate::trial::plan::Plan;
use crate::trial::record::note::Note;
use crate::trial::record::work::Work;
use crate::trial::records::{ReadingRecord, Recorded, UnitRecords, record_head};
use crate::trial::space::Position;
use jiff::Timestamp;
use std::sync::Arc;

/// Sixteen trays of two treatments, read on days 2, 4, 6 and 8; `value` says what each shows.
fn trial(reading: &'static str, open: bool, value: impl Fn(usize, u32) -> Option<f64>) -> Trial {
    let mut trial = Trial::planned("x", Plan::usual("Cress"));
    let unit = |n: usize| Unit {
        id: format!("u{n}"),
        code: char::from(b'A' + n as u8).to_string(),
        position: Position {
            level: n as u32 / 4 + 1,
            slot: n as u32 % 4 + 1,
        },
        treatment: TreatmentIndex(n % 2),
        lost: None,
    };
    trial.units = Arc::new((0..16).map(unit).collect());
    trial.sown_on = Some(jiff::civil::date(2026, 11, 1));
    let record = |n: usize, day| ReadingRecord {
        head: record_head(day),
        reading,
        nth: 1,
        value: value(n, day),
    };
    let of = |n: usize| UnitRecords {
        readings: [2, 4, 6, 8].map(|d| record(n, d)).to_vec(),
        ..UnitRecords::default()
    };
    trial.records.units = (0..16).map(|n| Arc::new(of(n))).collect();
    trial.reveal = open.then_some(Reveal {
        at: Timestamp::UNIX_EPOCH,
        day: 9,
        weighed: 0,
        reason: String::new(),
    });
    trial
}

/// A little unlike from tray to tray and from day to day, the same each time.
fn jitter(n: usize, day: u32) -> f64 {
    f64::from((n as u32 * 7 + day * 5) % 11) / 10.0 - 0.5
}

fn found(trial: &Trial, reading: &'static Reading) -> Vec<(String, f64, u32, u32)> {
    let drifts = drifting(trial, &unit_tracks(trial, reading, None));
    drifts
        .into_iter()
        .map(|d| (d.code, (d.by * 10.0).round() / 10.0, d.from, d.until))
        .collect()
}

#[test]
fn a_unit_that_stands_out_is_named_and_a_sound_trial_names_none() {
    let sound = |n, day| Some(60.0 + jitter(n, day));
    assert_eq!(found(&trial("height", false, sound), &height::READING), []);
    let sick = |n, day| Some(60.0 + jitter(n, day) - if n == 5 && day >= 4 { 3.0 } else { 0.0 });
    let told = found(&trial("height", false, sick), &height::READING);
    assert_eq!(
        told.iter()
            .map(|(code, _, from, until)| (&**code, *from, *until))
            .collect::<Vec<_>>(),
        [("F", 4, 8)]
    );
    assert!((-3.5..-2.5).contains(&told[0].1), "{told:?}");
    // One that was lost is nobody's sibling any more.
    let mut lost = trial("height", false, sick);
    Arc::make_mut(&mut lost.units)[5].lost = Some(Loss {
        reason: "damped off".into(),
        day: Some(8),
    });
    assert_eq!(found(&lost, &height::READING), []);
}

#[test]
fn while_the_deal_is_sealed_what_a_treatment_does_is_nobodys_drift_and_names_nothing() {
    // The treatments lie far apart; tray F stands out of its own treatment alone.
    let apart = |n: usize, day| {
        Some(60.0 + 8.0 * (n % 2) as f64 + jitter(n, day) - if n == 5 { 4.0 } else { 0.0 })
    };
    assert_eq!(found(&trial("height", false, apart), &height::READING), []);
    let told = found(&trial("height", true, apart), &height::READING);
    assert_eq!(told.iter().map(|t| &*t.0).collect::<Vec<_>>(), ["F"]);
}

#[test]
fn what_should_be_equal_and_is_not_is_told_once_the_deal_may_be() {
    let by =
        |gap: f64| move |n: usize, day| Some(6.0 + gap * (n % 2) as f64 + 0.1 * jitter(n, day));
    let told = |open, gap| {
        let own = trial("ph", open, by(gap));
        drifting_apart(&own, &ph::READING, &unit_tracks(&own, &ph::READING, None))
    };
    let clear = told(true, 0.6);
    assert_eq!(
        (
            clear.len(),
            clear[0].treatment,
            clear[0].from,
            clear[0].until
        ),
        (1, TreatmentIndex(1), 4, 8)
    );
    assert!((clear[0].by - 0.6).abs() < 0.1);
    assert_eq!(told(false, 0.6), [], "sealed");
    assert_eq!(told(true, 0.0), []);
    assert_eq!(told(true, 0.2), [], "clear, and too small to matter");
    // Larger plants drink more; what matters is that one runs dry.
    let level = |less: f64| {
        let own = trial("level", true, |n, day| {
            Some(6.0 - less * (n % 2) as f64 + 0.1 * jitter(n, day))
        });
        drifting_apart(
            &own,
            &level::READING,
            &unit_tracks(&own, &level::READING, None),
        )
        .len()
    };
    assert_eq!((level(2.0), level(4.0)), (0, 1));
    // EC differs by what is stirred in, which is what this trial compares; height may differ as it
    // likes.
    let own = trial("ec", true, by(0.6));
    assert!(own.is_told_by_meter());
    assert_eq!(
        drifting_apart(&own, &ec::READING, &unit_tracks(&own, &ec::READING, None)),
        []
    );
    let own = trial("height", true, by(9.0));
    assert_eq!(
        drifting_apart(
            &own,
            &height::READING,
            &unit_tracks(&own, &height::READING, None)
        ),
        []
    );
}

#[test]
fn tracks_are_means_of_a_days_readings_and_samples() {
    let mut own = trial("height", true, |n, day| {
        (n != 3 || day < 6).then(|| f64::from(day) + n as f64)
    });
    let unit = Arc::make_mut(&mut own.records.units[0]);
    unit.readings.push(ReadingRecord {
        head: record_head(8),
        reading: "height",
        nth: 2,
        value: Some(10.0),
    });
    let tracks = unit_tracks(&own, &height::READING, None);
    assert_eq!(tracks[0].points, [(2, 2.0), (4, 4.0), (6, 6.0), (8, 9.0)]);
    assert_eq!(tracks[3].points, [(2, 5.0), (4, 7.0)]);
    // Units 0, 2, ..., 14 of the control; 1, 3, ..., 15 of the other.
    assert_eq!(
        means(&own, &tracks, TreatmentIndex(0))[..2],
        [(2, 9.0), (4, 11.0)]
    );
    let most = means(&own, &tracks, TreatmentIndex(1));
    assert_eq!(most[2].0, 6);
    assert!(
        (most[2].1 - (6.0 + 61.0 / 7.0)).abs() < 1e-12,
        "without the one that was not read: {most:?}"
    );
    assert_eq!(unit_tracks(&own, &ph::READING, None), []);
    let several: Vec<_> = with_tracks(&own, true)
        .iter()
        .map(|(r, crop)| (r.key, *crop))
        .collect();
    assert_eq!(several, [("height", None)]);
    let ph = trial("ph", false, |_, _| Some(6.0));
    assert_eq!(
        (with_tracks(&ph, true).len(), with_tracks(&ph, false).len()),
        (1, 0)
    );
}

#[test]
fn ticks_say_what_was_done_and_noted() {
    let mut own = trial("height", false, |_, _| Some(60.0));
    let work = |job, day| {
        Recorded::new(
            None,
            record_head(day),
            Work {
                job,
                ml_a_unit: None,
                skipped: None,
            },
        )
    };
    let skipped = Recorded::new(
        None,
        record_head(6),
        Work {
            skipped: Some("away".into()),
            ..Work::done(Job::Feed)
        },
    );
    own.records
        .lists
        .set(vec![work(Job::Feed, 4), work(Job::Read, 4), skipped]);
    own.records.lists.set(vec![Recorded::new(
        Some(UnitIndex(2)),
        record_head(5),
        Note {
            text: "pale".into(),
        },
    )]);
    Arc::make_mut(&mut own.units)[5].lost = Some(Loss {
        reason: "damped off".into(),
        day: Some(7),
    });
    let told: Vec<(u32, String)> = ticks(&own).into_iter().map(|t| (t.day, t.what)).collect();
    let tick = |day, what: &str| (day, what.to_owned());
    assert_eq!(
        told,
        [
            tick(4, "Feed by code"),
            tick(5, "Note on C"),
            tick(6, "Feed by code, left out"),
            tick(7, "F lost")
        ]
    );
}

#[test]
fn the_band_is_that_of_the_crop() {
    let mut own = trial("ph", false, |_, _| Some(6.0));
    let stores = Stores::with_own(Vec::new());
    Arc::make_mut(&mut own.plan).ask.crop = "a crop that nobody knows".into();
    assert_eq!(band(&own, &stores, &ph::READING), None);
    let known = stores
        .items()
        .iter()
        .find(|item| item.shelf == "crops" && item.number(keys::PH_LEAST).is_some());
    let known = known.expect("a crop with its pH");
    Arc::make_mut(&mut own.plan).ask.crop = known.name.clone();
    let told = band(&own, &stores, &ph::READING);
    assert_eq!(
        told,
        known
            .number(keys::PH_LEAST)
            .zip(known.number(keys::PH_MOST))
    );
    assert_eq!(band(&own, &stores, &height::READING), None);
}

#[test]
fn probes_of_one_treatment_that_run_warm_are_told_and_lamps_that_are_compared_are_not() {
    let own = trial("height", true, |n, day| Some(60.0 + jitter(n, day)));
    let warm = |by: f64| -> Vec<(UnitIndex, f64)> {
        (0..8)
            .map(|n| {
                (
                    UnitIndex(n),
                    20.0 + 0.4 * jitter(n, 3) + by * (n % 2) as f64,
                )
            })
            .collect()
    };
    let said = |own: &Trial, by| logged_apart(own, Logged::AirTemperature, &warm(by), (6, 8)).len();
    assert_eq!(
        [said(&own, 0.0), said(&own, 0.8), said(&own, 2.0)],
        [0, 0, 1],
        "half a degree does not matter"
    );
    let told = logged_apart(&own, Logged::AirTemperature, &warm(2.0), (6, 8));
    assert!(
        (told[0].by - 2.0).abs() < 0.4 && (told[0].from, told[0].until) == (6, 8),
        "{told:?}"
    );
    assert_eq!(
        logged_apart(&own, Logged::Power, &warm(2.0), (6, 8)),
        [],
        "nobody expects lamps to draw the same"
    );
    assert_eq!(
        logged_apart(&own, Logged::AirTemperature, &warm(2.0)[..2], (6, 8)),
        [],
        "one probe a side tells nothing"
    );
    // Hours of light are what is compared: who has more of them is warmer.
    let mut lamps = own.clone();
    let mut plan = (*lamps.plan).clone();
    plan.sheet.treatments[1].set("light_hours", "20");
    lamps.plan = plan.into();
    assert_eq!(said(&lamps, 2.0), 0);
    let mut sealed = own.clone();
    sealed.reveal = None;
    assert_eq!(said(&sealed, 2.0), 0, "the key is shut");
}
