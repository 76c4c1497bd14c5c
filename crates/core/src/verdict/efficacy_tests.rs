use super::*;
use crate::catalogue::measures::{affected_area, find, harvest_weight};
use crate::trial::application::{Amount, Application, How, Role, When};
use crate::trial::made_up::opened;
use crate::trial::plan::Plan;
use crate::trial::records::{ReadingRecord, RecordHead, UnitRecords, record_head};
use std::sync::Arc;

/// Three units of plain water and three that are sprayed on day 4: looks at the area affected, of
/// these days.
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
    let mut trial = opened(plan, 6);
    let read = |n: usize| {
        let own = looks.iter().map(|(day, water, milk)| ReadingRecord {
            head: RecordHead {
                day: *day,
                ..record_head(*day)
            },
            reading: "affected_area",
            nth: 1,
            value: Some(if n.is_multiple_of(2) {
                water[n / 2]
            } else {
                milk[n / 2]
            }),
        });
        Arc::new(UnitRecords {
            readings: own.collect(),
            ..UnitRecords::default()
        })
    };
    trial.records.units = (0..6).map(read).collect();
    trial
}

fn area() -> Judged {
    Judged {
        measure: &affected_area::MEASURE,
        day: None,
    }
}

const AFTER: (u32, [f64; 3], [f64; 3]) = (12, [40.0, 50.0, 60.0], [10.0, 20.0, 30.0]);

/// By hand: 20 % under the treatment and 50 % in the untreated, so that 60 % was kept away.
/// Fieller's limits with 4 degrees of freedom, t 2.7764, both standard errors 5.7735: the ratio
/// lies between -0.0065 / 0.8972 and 0.8981 / 0.8972.
#[test]
fn without_a_look_before_it_is_abbotts() {
    let found = efficacies(&trial(&[AFTER]), area(), None);
    let [own] = &found[..] else {
        panic!("{found:?}")
    };
    assert!((own.percent - 60.0).abs() < 1e-9 && own.before.is_none());
    let t: f64 = 2.776_445_1;
    let (b, ratio) = (5.773_502_7 / 50.0, 0.4);
    let g = (t * b).powi(2);
    let half = t * (b * b * (1.0 - g) + ratio * ratio * b * b).sqrt();
    assert!(
        (own.low - 100.0 * (1.0 - (ratio + half) / (1.0 - g))).abs() < 1e-5,
        "{own:?}"
    );
    assert!(
        (own.high - 100.0_f64.min(100.0 * (1.0 - (ratio - half) / (1.0 - g)))).abs() < 1e-5,
        "{own:?}"
    );
    assert!(
        own.said.starts_with(
            "Milk kept away 60 % of the area affected that plain water had (after Abbott); very \
             likely between"
        ),
        "{}",
        own.said
    );
}

/// Abbott's formula is one less a ratio of two shares, whatever is affected. Thirteen trials of a
/// vaccine, affected and not on the side of the treatment and on that of the untreated, as R
/// `metadat` 1.2-0 has them (`dat.bcg`; Colditz and others 1994, Journal of the American Medical
/// Association 271, 698), with the logarithm of the ratio that is printed for each by Viechtbauer
/// 2010, Journal of Statistical Software 36(3), section 3.1 (from memory, and the same as R gives
/// from the counts).
const PUBLISHED: [([u32; 2], [u32; 2], f64); 13] = [
    ([4, 119], [11, 128], -0.8893),
    ([6, 300], [29, 274], -1.5854),
    ([3, 228], [11, 209], -1.3481),
    ([62, 13536], [248, 12619], -1.4416),
    ([33, 5036], [47, 5761], -0.2175),
    ([180, 1361], [372, 1079], -0.7861),
    ([8, 2537], [10, 619], -1.6209),
    ([505, 87886], [499, 87892], 0.0120),
    ([29, 7470], [45, 7232], -0.4694),
    ([17, 1699], [65, 1600], -1.3713),
    ([186, 50448], [141, 27197], -0.3394),
    ([5, 2493], [3, 2338], 0.4459),
    ([27, 16886], [29, 17825], -0.0173),
];

/// Three units that differ a little and have this mean.
fn about(percent: f64) -> [f64; 3] {
    [0.99 * percent, percent, 1.01 * percent]
}

#[test]
fn abbotts_formula_against_published_tables() {
    let of = |treated: f64, untreated: f64| {
        let found = efficacies(
            &trial(&[(12, about(untreated), about(treated))]),
            area(),
            None,
        );
        let [own] = &found[..] else {
            panic!("{found:?}")
        };
        assert!(
            own.before.is_none() && own.low < own.percent && own.percent < own.high,
            "{own:?}"
        );
        own.percent
    };
    let affected = |[yes, no]: [u32; 2]| 100.0 * f64::from(yes) / f64::from(yes + no);
    for (treated, untreated, printed) in PUBLISHED {
        let percent = of(affected(treated), affected(untreated));
        // Printed to four digits.
        let (least, most) = (
            100.0 * (1.0 - (printed + 5e-5_f64).exp()),
            100.0 * (1.0 - (printed - 5e-5_f64).exp()),
        );
        assert!(
            (least - 1e-9..=most + 1e-9).contains(&percent),
            "{percent} {printed}"
        );
    }
    // The example of the United States' guideline for testing insects in bottles (Brogdon and Chan
    // 2010; from memory): half die where they are treated and a tenth where they are not, which
    // Abbott corrects to 44.4 %. What lives is what is left affected.
    assert!((of(100.0 - 50.0, 100.0 - 10.0) - 44.4).abs() < 0.05);
}

/// By hand: the treated began with 20 % and end with 20 %, the untreated went from 10 % to 50 %: 1
/// over 5, so 80 % was kept away.
#[test]
fn with_a_look_before_the_start_is_taken_out() {
    let found = efficacies(
        &trial(&[(2, [10.0, 10.0, 10.0], [20.0, 20.0, 20.0]), AFTER]),
        area(),
        None,
    );
    let [own] = &found[..] else {
        panic!("{found:?}")
    };
    assert!((own.percent - 80.0).abs() < 1e-9, "{own:?}");
    assert_eq!(own.before, Some(2));
    assert!(
        own.said
            .contains("(after Henderson and Tilton, with the start of day 2 taken out)"),
        "{}",
        own.said
    );
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
    assert!(
        efficacies(
            &own,
            Judged {
                measure: &harvest_weight::MEASURE,
                day: None
            },
            None
        )
        .is_empty()
    );
    assert!(
        efficacies(
            &own,
            Judged {
                measure: find("water_used").unwrap(),
                day: None
            },
            None
        )
        .is_empty()
    );
    own.reveal = None;
    assert!(efficacies(&own, area(), None).is_empty());
    let clean = trial(&[(12, [0.0; 3], [1.0, 2.0, 3.0])]);
    assert!(
        efficacies(&clean, area(), None).is_empty(),
        "nothing is a share of nothing"
    );
}

#[test]
fn more_than_the_untreated_is_told_as_more() {
    let worse = efficacies(
        &trial(&[(12, [10.0, 11.0, 12.0], [40.0, 44.0, 48.0])]),
        area(),
        None,
    );
    assert!(
        worse[0].said.starts_with(
            "Milk had 300 % more area affected than plain water (after Abbott); very \
                          likely between 2"
        ),
        "{}",
        worse[0].said
    );
    let open = efficacies(
        &trial(&[(12, [10.0, 30.0, 20.0], [12.0, 34.0, 20.0])]),
        area(),
        None,
    );
    assert!(
        open.is_empty() || open[0].said.contains("cannot be told from plain water"),
        "{open:?}"
    );
}
