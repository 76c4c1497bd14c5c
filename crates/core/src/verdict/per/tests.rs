use super::*;
use crate::catalogue::measures::{self, ALL, Source};
use crate::trial::Reveal;
use crate::trial::deal::Unit;
use crate::trial::plan::Plan;
use crate::trial::question::Judged;
use crate::trial::record::pick::Pick;
use crate::trial::record::weighing::Weighing;
use crate::trial::record::work::Work;
use crate::trial::records::{ReadingRecord, Recorded, record_head};
use crate::trial::space::Position;
use crate::trial::waves::{SizeGrade, Waves};
use crate::verdict::figures::figure;
use jiff::Timestamp;
use std::sync::Arc;

/// Two trays, plain water and full feed, fed on days 4 and 7 and cut on day 10: 240 g each.
fn trial() -> Trial {
    let mut plan = Plan::usual("Cress");
    for treatment in &mut plan.sheet.treatments {
        for (key, value) in [
            ("surface", "1250"),
            ("light_watts", "30"),
            ("light_hours", "16"),
            ("seed_weight", "12"),
            ("blackout_days", "2"),
        ] {
            treatment.set(key, value);
        }
    }
    (plan.feed.label_per_litre, plan.feed.ml_a_unit) = (4.0, 250.0);
    let mut trial = Trial::planned("x", plan);
    let unit = |n: usize| Unit {
        id: format!("u{n}"),
        code: ["A", "B"][n].into(),
        position: Position {
            level: 1,
            slot: n as u32 + 1,
        },
        treatment: TreatmentIndex(n),
        lost: None,
    };
    trial.units = Arc::new((0..2).map(unit).collect());
    let fed = |day: u32| {
        Recorded::new(
            None,
            record_head(day),
            Work {
                job: Job::Feed,
                skipped: None,
                ml_a_unit: None,
            },
        )
    };
    trial.records.lists.set(vec![fed(4), fed(7)]);
    let cut = Recorded::new(
        None,
        record_head(10),
        Weighing {
            gross_g: 260.0,
            tare_g: 20.0,
            turn: None,
        },
    );
    let worked = |day: u32, minutes: f64| ReadingRecord {
        head: record_head(day),
        reading: "work",
        value: Some(minutes),
        nth: 0,
    };
    let own = UnitRecords {
        readings: vec![worked(1, 2.0), worked(4, 1.5), worked(10, 2.5)],
        own: [cut].into_iter().collect(),
    };
    trial.records.units = vec![Arc::new(own.clone()), Arc::new(own)];
    open(trial)
}

fn open(mut trial: Trial) -> Trial {
    trial.reveal = Some(Reveal {
        at: Timestamp::UNIX_EPOCH,
        day: 10,
        weighed: 2,
        reason: String::new(),
    });
    trial
}

fn of(trial: &Trial, key: &str, unit: usize) -> Option<f64> {
    let measure = measures::find(key).unwrap();
    figure(
        trial,
        UnitIndex(unit),
        Judged { measure, day: None },
        (None, None),
    )
    .map(|f| f.value)
}

#[test]
fn a_harvest_is_told_for_what_was_spent_on_it() {
    let own = trial();
    for (key, expected) in [
        // 240 g from 0.125 m²; of 12 g of seed; in 10 days.
        ("harvest_per_area", 1920.0),
        ("harvest_per_seed", 20.0),
        ("harvest_per_day", 24.0),
        // 30 W, 16 h, on the 8 days in the light: 3.84 kWh.
        ("harvest_per_kwh", 62.5),
        // 6 minutes.
        ("harvest_per_hour", 2400.0),
    ] {
        for unit in 0..2 {
            let told = of(&own, key, unit).unwrap();
            assert!((told - expected).abs() < 1e-9, "{key}: {told}");
        }
    }
    // Two feedings of 250 mL at 4 mL a litre: 2 mL. Plain water gets none, and has no such figure.
    assert_eq!(
        (
            of(&own, "harvest_per_feed", 0),
            of(&own, "harvest_per_feed", 1)
        ),
        (None, Some(120.0))
    );
    assert_eq!(
        of(&own, "harvest_per_plant", 0),
        None,
        "no plants are followed"
    );
    let mut by_plant = own.clone();
    Arc::make_mut(&mut by_plant.plan).ask.samples_inside = 6;
    assert_eq!(of(&by_plant, "harvest_per_plant", 0), Some(40.0));
}

#[test]
fn what_follows_from_the_treatment_is_told_only_with_the_key() {
    let sealed = Trial {
        reveal: None,
        ..trial()
    };
    for measure in ALL {
        let Source::WeightPer(per) = measure.source else {
            continue;
        };
        let told = of(&sealed, measure.key, 1).is_some();
        let plain = matches!(per, Per::Day | Per::Work);
        assert_eq!(told, plain, "{}", measure.key);
    }
}

#[test]
fn value_and_pieces_come_from_what_was_picked() {
    let mut own = trial();
    let plan = Arc::make_mut(&mut own.plan);
    let grade = |name: &str, price| SizeGrade {
        name: name.into(),
        price_per_kg: price,
    };
    plan.ask.waves = Some(Waves {
        grades: vec![grade("large", Some(8.0)), grade("small", Some(5.0))],
        cut_mm: None,
    });
    own.records.units = vec![Arc::default(); 2];
    let pick = |day, net_g, pieces, grade: &str| {
        Recorded::new(
            Some(UnitIndex(0)),
            record_head(day),
            Pick {
                gross_g: net_g,
                tare_g: 0.0,
                pieces: Some(pieces),
                grade: grade.into(),
                aside: false,
            },
        )
    };
    own.records
        .lists
        .set(vec![pick(6, 500.0, 4, "large"), pick(9, 300.0, 6, "small")]);
    // 0.5 kg x 8 and 0.3 kg x 5; 800 g in 10 pieces; in 9 days.
    assert_eq!(of(&own, "harvest_value", 0), Some(5.5));
    assert_eq!(
        (of(&own, "pieces", 0), of(&own, "piece_weight", 0)),
        (Some(10.0), Some(80.0))
    );
    assert!((of(&own, "harvest_per_day", 0).unwrap() - 800.0 / 9.0).abs() < 1e-9);
    assert_eq!(
        of(&own, "harvest_value", 1),
        None,
        "nothing was picked of it"
    );
    // One harvest at a price a kilogram.
    let mut once = trial();
    Arc::make_mut(&mut once.plan).ask.price_per_kg = Some(40.0);
    assert_eq!(
        (of(&once, "harvest_value", 0), of(&once, "pieces", 0)),
        (Some(9.6), None)
    );
}
