//! Samples of a unit that were never there, died or were thinned out.

use crate::app::App;
use crate::clock::DoneWhen;
use crate::error::Problem;
use crate::sent::Sent;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::GoneWhy;
use iron_twin_core::trial::records::SampleNumber;
use iron_twin_store::gone::NewGone;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
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
pub(super) fn gone_view(trial: &Trial, unit: UnitIndex, sample: Option<SampleNumber>, day: u32) -> Option<GoneView> {
    let own = trial.gone(unit, sample).filter(|_| !trial.stands(unit, sample, day))?;
    let words = match own.why {
        GoneWhy::NeverThere => own.why.word().to_owned(),
        why => format!("{}, day {}", why.word(), own.head.day),
    };
    Some(GoneView { why: own.why, words, note: own.note.clone(), day: own.head.day })
}

/// Samples of one unit.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct SamplesOf {
    /// Code of the unit.
    code: String,
    /// Their numbers, from 1.
    numbers: Vec<SampleNumber>,
}

/// Samples that are gone.
#[derive(Debug, Deserialize, ToSchema)]
pub(crate) struct SamplesGoneSent {
    /// Which.
    samples: Vec<SamplesOf>,
    /// Why.
    why: GoneWhy,
    /// In the grower's own words.
    #[serde(default)]
    note: String,
    /// From when on.
    #[serde(flatten)]
    when: DoneWhen,
}

/// Records that samples of some units were never there, died or were thinned out; all of it stands, or none. From that day on
/// nothing more is asked of them, and nothing of how they ended is compared. Each can be taken back by itself.
#[utoipa::path(post, operation_id = "samples_gone", path = "/trials/{id}/samples-gone", params(("id" = String, Path)),
    request_body = SamplesGoneSent,
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn gone(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<SamplesGoneSent>,
) -> Result<StatusCode, Problem> {
    app.run(move |store| {
        let SamplesGoneSent { samples, why, note, when } = sent.body;
        let (day, at) = when.of(store, &id, Timestamp::now())?;
        let samples = samples.into_iter().map(|of| (of.code, of.numbers)).collect();
        store.record_gone(&sent.stamp, &id, &NewGone { samples, why, note, day, at: Some(at) })?;
        Ok(StatusCode::NO_CONTENT)
    })
    .await
}
