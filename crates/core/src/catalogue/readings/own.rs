//! Readings of a grower's own.

use super::Reading;
use crate::catalogue::own::{Met, OwnKind, OwnMeasure, for_good};

static MET: Met<Reading> = Met::new();

/// The reading with a key of a grower's own.
#[must_use]
pub fn find(key: &str) -> Option<&'static Reading> {
    MET.get(key, reading)
}

fn reading(own: OwnMeasure) -> Reading {
    let graded = own
        .grades
        .iter()
        .enumerate()
        .map(|(n, words)| format!("{} {words}", n + 1));
    let scale = match own.kind {
        OwnKind::Score => graded.collect::<Vec<_>>().join(", "),
        OwnKind::FirstSeen => "1 seen, 0 not yet".to_owned(),
        OwnKind::Amount | OwnKind::Count => String::new(),
    };
    let amount = own.kind == OwnKind::Amount;
    Reading {
        key: for_good(own.key()),
        name: for_good(own.name),
        unit: for_good(own.unit),
        // What spans little is read finely.
        decimals: if amount && own.most - own.least <= 20.0 {
            2
        } else {
            u32::from(amount)
        },
        refused_below: own.least,
        refused_above: own.most,
        asked_below: own.least,
        asked_above: own.most,
        whole: !amount,
        jumps_asked: amount,
        once_seen: own.kind == OwnKind::FirstSeen,
        by_eye: matches!(own.kind, OwnKind::Score | OwnKind::FirstSeen),
        scale: for_good(scale),
    }
}
