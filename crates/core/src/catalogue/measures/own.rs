//! Measures of a grower's own.

use super::{Kind, Measure, Source};
use crate::catalogue::own::{Met, OwnKind, OwnMeasure, for_good};

static MET: Met<Measure> = Met::new();

/// The measure with a key of a grower's own.
#[must_use]
pub fn find(key: &str) -> Option<&'static Measure> {
    MET.get(key, measure)
}

fn measure(own: OwnMeasure) -> Measure {
    let key = for_good(own.key());
    let (kind, source) = match own.kind {
        OwnKind::Amount => (Kind::Amount, Source::Last(key)),
        OwnKind::Count => (Kind::Count, Source::Last(key)),
        OwnKind::Score => (Kind::Score, Source::Last(key)),
        OwnKind::FirstSeen => (Kind::Days, Source::FirstSeen(key)),
    };
    let days = kind == Kind::Days;
    Measure {
        key,
        name: for_good(if days {
            format!("days to {}", own.name)
        } else {
            own.name
        }),
        unit: if days { "days" } else { for_good(own.unit) },
        kind,
        decimals: if kind == Kind::Amount {
            if own.most - own.least <= 20.0 { 2 } else { 1 }
        } else {
            0
        },
        better: own.better,
        source,
        // Common practice, no source: until there are trials of one's own, as of most that is
        // measured on plants.
        usual_cv_percent: 20.0,
        by_ratio: false,
    }
}
