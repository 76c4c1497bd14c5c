use super::*;
use crate::catalogue::measures;
use crate::trial::made_up::opened;
use crate::trial::plan::Plan;
use crate::trial::records::{ReadingRecord, UnitRecords, record_head};
use std::sync::Arc;

/// Eight trays of two treatments with an open key; what each reading shows of a tray, its treatment
/// and a day, where it was taken.
fn trial(
    reading: &'static str,
    days: &[u32],
    value: impl Fn(usize, usize, u32) -> Option<f64>,
) -> Trial {
    let mut trial = opened(Plan::usual("Cress"), 8);
    let of = |n: usize| {
        let own = |day: &u32| {
            let value = value(n, n % 2, *day)?;
            Some(ReadingRecord {
                head: record_head(*day),
                reading,
                nth: 1,
                value: Some(value),
            })
        };
        Arc::new(UnitRecords {
            readings: days.iter().filter_map(own).collect(),
            ..UnitRecords::default()
        })
    };
    trial.records.units = (0..8).map(of).collect();
    trial
}

fn judged(key: &str) -> Judged {
    Judged {
        measure: measures::find(key).expect("a measure"),
        day: None,
    }
}

/// A logistic track: 80 mm in the end, half of it on day 5, or on day 6 for the control.
fn size(n: usize, t: usize, day: u32) -> f64 {
    let middle = if t == 1 { 5.0 } else { 6.0 };
    (80.0 + (n / 2) as f64 - 1.5) / (1.0 + (middle - f64::from(day)).exp())
}

#[test]
fn growth_has_the_means_the_reach_and_the_curve_that_was_put_in() {
    let days = [2, 3, 4, 5, 6, 7, 8, 9, 10, 11];
    let own = trial("height", &days, |n, t, day| Some(size(n, t, day)));
    let all = pictures(&own, judged("height"), None, None);
    assert_eq!(all.len(), 1);
    let found = &all[0];
    assert_eq!(
        (found.shown, found.across, found.up, found.points.len()),
        (Shown::Growth, "days", "mm", 20)
    );
    let at = found
        .points
        .iter()
        .find(|p| p.of.get() == 1 && p.x == 5.0)
        .expect("day 5");
    // Trays of 78.5, 79.5, 80.5 and 81.5 mm stand half way.
    assert!(
        (at.y - 40.0).abs() < 1e-9 && at.reach == Some([39.25, 40.75]),
        "{at:?}"
    );
    let line = found
        .lines
        .iter()
        .find(|l| l.of == Some(TreatmentIndex(1)))
        .expect("a curve");
    assert!(
        line.x.len() == 61 && (line.y[20] - 80.0 / (1.0 + (5.0 - line.x[20]).exp())).abs() < 1e-3
    );
    assert!(
        found.said[1].contains("fastest on day 5.0, towards 80 mm")
            && found.said[1].contains("fastest on day 6.0"),
        "{:?}",
        found.said
    );
    // A tray that was written off, and a day on which few were read, move no mean.
    let mut some = own.clone();
    Arc::make_mut(&mut some.units)[1].lost = Some(crate::trial::deal::Loss {
        reason: "fell".into(),
        day: Some(3),
    });
    for n in [3, 5] {
        Arc::make_mut(&mut some.records.units[n])
            .readings
            .retain(|r| r.head.day != 11);
    }
    let found = pictures(&some, judged("height"), None, None)
        .pop()
        .expect("a picture");
    assert_eq!(found.points.iter().filter(|p| p.of.get() == 1).count(), 9);
}

#[test]
fn what_does_not_run_over_days_or_is_sealed_has_no_picture() {
    let twice = trial("height", &[3, 9], |n, t, day| Some(size(n, t, day)));
    assert_eq!(pictures(&twice, judged("height"), None, None), []);
    assert_eq!(pictures(&twice, judged("harvest_weight"), None, None), []);
    let mut sealed = trial("height", &[3, 6, 9], |n, t, day| Some(size(n, t, day)));
    assert_eq!(pictures(&sealed, judged("height"), None, None).len(), 1);
    sealed.reveal = None;
    assert_eq!(pictures(&sealed, judged("height"), None, None), []);
    // Three days are too few for a curve: lines lead from mean to mean.
    let three = trial("height", &[3, 6, 9], |n, t, day| Some(size(n, t, day)));
    let found = pictures(&three, judged("height"), None, None)
        .pop()
        .expect("a picture");
    assert!(
        found.lines.iter().all(|l| l.x == [3.0, 6.0, 9.0])
            && found.said[0].contains("from mean to mean"),
        "{:?}",
        found.said
    );
}

#[test]
fn grades_go_from_mean_to_mean() {
    let days = [2, 4, 6, 8, 10];
    let own = trial("vigour", &days, |n, t, day| {
        Some((1.0 + size(n, t, day) / 12.0).round())
    });
    let found = pictures(&own, judged("vigour"), None, None)
        .pop()
        .expect("a picture");
    assert!(
        found.lines.iter().all(|l| l.x.len() == days.len()) && found.said.len() == 1,
        "{:?}",
        found.said
    );
    assert!(
        found.said[0].ends_with("lines from mean to mean."),
        "{:?}",
        found.said
    );
}

#[test]
fn days_stand_as_steps_or_between_two_looks() {
    // Seen every day: trays of treatment 1 on days 3, 4, 5 and 6, of 0 on 5, 6 and never.
    let on = |n: usize, t: usize| match (t, n / 2) {
        (1, k) => Some(3 + k as u32),
        (_, 0) => Some(5),
        (_, 1) => Some(6),
        _ => None,
    };
    let daily = |n, t, day| {
        Some(f64::from(u8::from(
            on(n, t).is_some_and(|first| day >= first),
        )))
    };
    let own = trial("first_root", &(1..=10).collect::<Vec<u32>>(), daily);
    let found = pictures(&own, judged("first_root"), None, None)
        .pop()
        .expect("a picture");
    assert_eq!((found.shown, found.up), (Shown::Steps, "%"));
    let line = |t: usize| {
        found
            .lines
            .iter()
            .find(|l| l.of == Some(TreatmentIndex(t)))
            .expect("a line")
    };
    let by = |t: usize, day: f64| {
        line(t)
            .x
            .iter()
            .zip(&line(t).y)
            .filter(|(x, _)| **x <= day)
            .map(|(_, y)| *y)
            .next_back()
    };
    assert_eq!(
        (by(1, 2.0), by(1, 6.0), by(0, 4.0), by(0, 10.0)),
        (Some(0.0), Some(100.0), Some(0.0), Some(50.0))
    );
    assert!(
        line(1).y.windows(2).all(|w| w[0] <= w[1] + 1e-9),
        "it never falls"
    );
    assert!(
        found.said.iter().any(|s| s.starts_with("Half of them:")),
        "{:?}",
        found.said
    );
    // Nobody looked before it was there: the days stand as they are.
    let late = trial(
        "first_root",
        &(1..=10).collect::<Vec<u32>>(),
        |n, t, day| on(n, t).filter(|first| day >= *first).map(|_| 1.0),
    );
    let found = pictures(&late, judged("first_root"), None, None)
        .pop()
        .expect("a picture");
    let line = found
        .lines
        .iter()
        .find(|l| l.of == Some(TreatmentIndex(1)))
        .expect("a line");
    assert_eq!(
        (&line.x[..3], &line.y[..3]),
        (&[0.0, 3.0, 3.0][..], &[0.0, 0.0, 25.0][..])
    );
}
