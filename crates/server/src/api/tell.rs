//! Tell: the trial as a CSV file, and its plan.

use crate::access::Who;
use crate::app::App;
use crate::error::Problem;
use axum::extract::{Path, State};
use axum::http::{HeaderName, header};
use axum::response::IntoResponse;
use iron_twin_core::verdict::design::analysis_plan;
use iron_twin_core::verdict::export::csv;

/// One row a unit: code, block, treatment (after the reveal), one column a measure with its unit in
/// the name.
#[utoipa::path(
    get,
    operation_id = "tell_export",
    path = "/trials/{id}/export.csv",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = String, content_type = "text/csv"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn export(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Ok((
            file_headers(&trial.plan.name, "", "csv", "text/csv; charset=utf-8"),
            csv(&trial, None),
        ))
    })
    .await
}

/// The plan, format `iron-twin/plan/1`: with it `iron-twin analyse --plan` reads the exported CSV
/// as the Judge station does.
#[utoipa::path(
    get,
    operation_id = "tell_plan",
    path = "/trials/{id}/plan.json",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = serde_json::Value, content_type = "application/json"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn plan(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        who.unless_sealed(&trial)?;
        let json = serde_json::to_string_pretty(&analysis_plan(&trial, None))
            .map_err(|e| Problem::internal(&e))?;
        Ok((
            file_headers(&trial.plan.name, "-plan", "json", "application/json"),
            json,
        ))
    })
    .await
}

/// The plan of the trial as one document, format `iron-twin/trial-plan/1`: everything that was
/// planned, nothing that was dealt or recorded. Brought to another farm it is planned there.
#[utoipa::path(
    get,
    operation_id = "tell_trial_plan",
    path = "/trials/{id}/trial-plan.json",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = serde_json::Value, content_type = "application/json"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn trial_plan(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        who.unless_sealed(&trial)?;
        let json = serde_json::to_string_pretty(&*trial.plan).map_err(|e| Problem::internal(&e))?;
        Ok((
            file_headers(&trial.plan.name, "-trial-plan", "json", "application/json"),
            json,
        ))
    })
    .await
}

/// Headers of a file that is kept under the trial's name.
pub(crate) fn file_headers(
    trial: &str,
    more: &str,
    ending: &str,
    kind: &str,
) -> [(HeaderName, String); 2] {
    let plain: String = trial
        .chars()
        .map(|c| {
            if c.is_ascii_alphanumeric() {
                c.to_ascii_lowercase()
            } else {
                '-'
            }
        })
        .collect();
    let disposition = format!(
        "attachment; filename=\"{}{more}.{ending}\"",
        plain.trim_matches('-')
    );
    [
        (header::CONTENT_TYPE, kind.to_owned()),
        (header::CONTENT_DISPOSITION, disposition),
    ]
}
