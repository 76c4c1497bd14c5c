//! Materials: what a trial takes, for all units and a spare.

use crate::app::App;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::after::money::{Money, money as told};
use iron_twin_core::tend::materials::{Material, Planned, materials};
use iron_twin_terms::indices::TreatmentIndex;

/// Seed, media, containers, feed, water and electricity for the whole trial, with their cost where
/// a price is known. Totals only: they tell nothing of single trays.
#[utoipa::path(
    get,
    operation_id = "materials_get",
    path = "/trials/{id}/materials",
    params(("id" = String, Path)),
    responses((status = 200, body = Vec<Material>), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: crate::access::Who,
    Path(id): Path<String>,
) -> Result<Json<Vec<Material>>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        who.unless_sealed(&trial)?;
        let own = trial.treatment_days();
        let hours = trial
            .plan
            .sheet
            .number(TreatmentIndex(0), "light_hours")
            .unwrap_or_default();
        let planned = Planned {
            sheet: &trial.plan.sheet,
            units: &trial.numbers(),
            end_day: trial.plan.ask.end_day,
            sites: trial.plan.ask.sites(),
            care: &trial.plan.care,
            own: &own,
            feed: &trial.plan.feed,
            // Lamps of all treatments together; the hours of the first stand for them.
            price_per_kwh: store.prices()?.per_kwh_of(hours),
        };
        Ok(Json(materials(&planned, &store.shelves()?)))
    })
    .await
}

/// What each treatment costs and brings on a unit, and what it earns beside the control; null until
/// the reveal.
#[utoipa::path(
    get,
    operation_id = "money_get",
    path = "/trials/{id}/money",
    params(("id" = String, Path)),
    responses((status = 200, body = Option<Money>), (status = 404, body = Problem)),
)]
pub(crate) async fn money(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Option<Money>>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Ok(Json(told(&trial, &store.shelves()?, &store.prices()?)))
    })
    .await
}
