//! Place: the rack and the deal.

use crate::api::trials::current;
use crate::sent::Sent;
use crate::view::TrialView;
use crate::{App, Problem};
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::place::Rack;
use iron_twin_store::place::Chance;
use serde::Deserialize;
use utoipa::ToSchema;

/// The rack as changed.
#[derive(Deserialize, ToSchema)]
pub(crate) struct RackSent {
    /// The rack.
    rack: Rack,
    /// Version on which the change was made.
    version: i64,
}

/// Which plan to deal.
#[derive(Deserialize, ToSchema)]
pub(crate) struct DealSent {
    /// Version of the plan that is dealt.
    version: i64,
}

/// Sets the rack; a deal made for another shape is dropped.
#[utoipa::path(put, operation_id = "place_put_rack", path = "/trials/{id}/rack", params(("id" = String, Path)), request_body = RackSent,
    responses((status = 200, body = TrialView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn put_rack(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<RackSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_rack(&sent.stamp, &id, &sent.body.rack, sent.body.version)?;
        current(store, &id)
    })
    .await
}

/// Deals the treatments at random within each level and seals the key.
#[utoipa::path(post, operation_id = "place_deal", path = "/trials/{id}/deal", params(("id" = String, Path)), request_body = DealSent,
    responses((status = 200, body = TrialView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn deal(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<DealSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.deal(&sent.stamp, &id, Chance::fresh(), sent.body.version)?;
        current(store, &id)
    })
    .await
}
