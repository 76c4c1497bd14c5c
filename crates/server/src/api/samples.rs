//! Samples of a unit that were never there, died or were thinned out.

use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::gone::GoneWhy;
use iron_twin_core::trial::records::SampleNumber;
use iron_twin_terms::indices::UnitIndex;
use serde::Serialize;
use utoipa::ToSchema;

/// A sample that is not there.
#[derive(Serialize, ToSchema)]
#[schema(as = SampleGone)]
pub(super) struct GoneView {
    /// Why.
    why: GoneWhy,
    /// In words, with the day, such as `lost, day 9`.
    words: String,
    /// What was noted with it.
    note: String,
    /// From which day on.
    day: u32,
}

/// What is known of a sample that is not there on a day; None of one that stands.
pub(super) fn gone_view(
    trial: &Trial,
    unit: UnitIndex,
    sample: Option<SampleNumber>,
    day: u32,
) -> Option<GoneView> {
    let own = trial
        .gone(unit, sample)
        .filter(|_| !trial.stands(unit, sample, day))?;
    let words = match own.why {
        GoneWhy::NeverThere => own.why.word().to_owned(),
        why => format!("{}, day {}", why.word(), own.head.day),
    };
    Some(GoneView {
        why: own.why,
        words,
        note: own.note.clone(),
        day: own.head.day,
    })
}
