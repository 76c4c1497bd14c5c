//! Match: what each treatment gets.

use crate::api::trials::current;
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::trial::sheet::Sheet;
use serde::Deserialize;
use utoipa::ToSchema;

/// The match sheet as changed.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SheetSent {
    /// The sheet.
    sheet: Sheet,
    /// Version on which the change was made.
    version: i64,
}

/// Replaces the match sheet; a deal made for it before is dropped.
#[utoipa::path(
    put,
    operation_id = "match_sheet_put",
    path = "/trials/{id}/match-sheet",
    params(("id" = String, Path)),
    request_body = SheetSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<SheetSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_sheet(&sent.stamp, &id, &sent.body.sheet, sent.body.version)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}
