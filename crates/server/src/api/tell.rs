//! Tell: the trial as a CSV file.

use crate::facts::export_csv;
use crate::{App, Problem};
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::IntoResponse;

/// One row a unit: code, block, treatment (after the reveal), one column a measure with its unit in the name.
#[utoipa::path(get, operation_id = "tell_export", path = "/trials/{id}/export.csv", params(("id" = String, Path)),
    responses((status = 200, body = String, content_type = "text/csv"), (status = 404, body = Problem)))]
pub(crate) async fn export(State(app): State<App>, Path(id): Path<String>) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let plain: String =
            trial.name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
        let disposition = format!("attachment; filename=\"{}.csv\"", plain.trim_matches('-'));
        let headers =
            [(header::CONTENT_TYPE, "text/csv; charset=utf-8".to_owned()), (header::CONTENT_DISPOSITION, disposition)];
        Ok((headers, export_csv(&trial)))
    })
    .await
}
