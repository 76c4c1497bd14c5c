use super::*;
use crate::catalogue::measures::{affected_area, find, harvest_weight};
use crate::trial::Reveal;
use crate::trial::application::{Amount, Application, How, Role, When};
use crate::trial::deal::{Deal, Unit};
use crate::trial::plan::Plan;
use crate::trial::records::{ReadingRecord, RecordHead, UnitRecords, record_head};
use crate::trial::space::Position;
use std::sync::Arc;

/// Three units of plain water and three that are sprayed on day 4: looks at the area affected, of these days.
fn trial(looks: &[(u32, [f64; 3], [f64; 3])]) -> Trial {
    let mut plan = Plan::usual("Cucumber");
    plan.ask.also = vec!["affected_area".into()];
    let spray = Application {
        how: How::Sprayed,
        amount: Amount::PerLitre(2.0),
        when: When::Days(vec![4, 8]),
        ..Application::stirred(Role::Additive, "milk", 1.0)
    };
    plan.sheet.treatments[1].applications = vec![spray];
    plan.sheet.treatments[1].name = "milk".into();
    let mut trial = Trial::planned("x", plan);
    let unit = |n: usize| Unit {
        id: n.to_string(),
        code: char::from(b'A' + n as u8).to_string(),
        position: Position { level: 1, slot: n as u32 + 1 },
        treatment: TreatmentIndex(n % 2),
        lost: None,
    };
    trial.units = Arc::new((0..6).map(unit).collect());
    let at = record_head(12).at;
    trial.deal = Some(Deal { seed: 1, nonce: [0; 32], commitment: String::new(), dealt_at: at });
    trial.sown_on = Some(jiff::civil::date(2026, 3, 2));
    trial.reveal = Some(Reveal { at, day: 12, weighed: 6, reason: String::new() });
    let read = |n: usize| {
        let own = looks.iter().map(|(day, water, milk)| ReadingRecord {
            head: RecordHead { day: *day, ..record_head(*day) },
            reading: "affected_area",
            nth: 1,
            value: Some(if n.is_multiple_of(2) { water[n / 2] } else { milk[n / 2] }),
        });
        Arc::new(UnitRecords { readings: own.collect(), ..UnitRecords::default() })
    };
    trial.records.units = (0..6).map(read).collect();
    trial
}

fn area() -> Judged {
    Judged { measure: &affected_area::MEASURE, day: None }
}

const AFTER: (u32, [f64; 3], [f64; 3]) = (12, [40.0, 50.0, 60.0], [10.0, 20.0, 30.0]);

/// By hand: 20 % under the treatment and 50 % in the untreated, so that 60 % was kept away. Fieller's limits with 4 degrees of freedom,
/// t 2.7764, both standard errors 5.7735: the ratio lies between -0.0065 / 0.8972 and 0.8981 / 0.8972.
#[test]
fn without_a_look_before_it_is_abbotts() {
    let found = efficacies(&trial(&[AFTER]), area(), None);
    let [own] = &found[..] else { panic!("{found:?}") };
    assert!((own.percent - 60.0).abs() < 1e-9 && own.before.is_none());
    let t: f64 = 2.776_445_1;
    let (b, ratio) = (5.773_502_7 / 50.0, 0.4);
    let g = (t * b).powi(2);
    let half = t * (b * b * (1.0 - g) + ratio * ratio * b * b).sqrt();
    assert!((own.low - 100.0 * (1.0 - (ratio + half) / (1.0 - g))).abs() < 1e-5, "{own:?}");
    assert!((own.high - 100.0_f64.min(100.0 * (1.0 - (ratio - half) / (1.0 - g)))).abs() < 1e-5, "{own:?}");
    assert!(
        own.said.starts_with(
            "Milk kept away 60 % of the area affected that plain water had (after Abbott); very likely between"
        ),
        "{}",
        own.said
    );
}

/// By hand: the treated began with 20 % and end with 20 %, the untreated went from 10 % to 50 %: 1 over 5, so 80 % was kept away.
#[test]
fn with_a_look_before_the_start_is_taken_out() {
    let found = efficacies(&trial(&[(2, [10.0, 10.0, 10.0], [20.0, 20.0, 20.0]), AFTER]), area(), None);
    let [own] = &found[..] else { panic!("{found:?}") };
    assert!((own.percent - 80.0).abs() < 1e-9, "{own:?}");
    assert_eq!(own.before, Some(2));
    assert!(own.said.contains("(after Henderson and Tilton, with the start of day 2 taken out)"), "{}", own.said);
    // A look on a day of spraying or later is no look before.
    let late = efficacies(&trial(&[(4, [10.0; 3], [20.0; 3]), AFTER]), area(), None);
    assert_eq!(late[0].before, None);
    // Nothing can be divided by a start of nothing.
    let none = efficacies(&trial(&[(2, [0.0; 3], [0.0; 3]), AFTER]), area(), None);
    assert_eq!((none[0].before, none[0].percent.round()), (None, 60.0));
}

#[test]
fn what_is_no_damage_or_sealed_has_none() {
    let mut own = trial(&[AFTER]);
    assert!(efficacies(&own, Judged { measure: &harvest_weight::MEASURE, day: None }, None).is_empty());
    assert!(efficacies(&own, Judged { measure: find("water_used").unwrap(), day: None }, None).is_empty());
    own.reveal = None;
    assert!(efficacies(&own, area(), None).is_empty());
    let clean = trial(&[(12, [0.0; 3], [1.0, 2.0, 3.0])]);
    assert!(efficacies(&clean, area(), None).is_empty(), "nothing is a share of nothing");
}

#[test]
fn more_than_the_untreated_is_told_as_more() {
    let worse = efficacies(&trial(&[(12, [10.0, 11.0, 12.0], [40.0, 44.0, 48.0])]), area(), None);
    assert!(
        worse[0]
            .said
            .starts_with("Milk had 300 % more area affected than plain water (after Abbott); very likely between 2"),
        "{}",
        worse[0].said
    );
    let open = efficacies(&trial(&[(12, [10.0, 30.0, 20.0], [12.0, 34.0, 20.0])]), area(), None);
    assert!(open.is_empty() || open[0].said.contains("cannot be told from plain water"), "{open:?}");
}
