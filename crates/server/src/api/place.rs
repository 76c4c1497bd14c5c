//! Place: the grow space, its light and site cards, the deal, and places chosen by hand.

use crate::access::Who;
use crate::api::trials::current;
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::trial::site::LightScale;
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::space::{Position, Rack, RackDesign};
use iron_twin_store::place::{Chance, PlaceFigure};
use iron_twin_terms::indices::TreatmentIndex;
use serde::{Deserialize, Serialize};
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
#[utoipa::path(
    put,
    operation_id = "place_put_rack",
    path = "/trials/{id}/rack",
    params(("id" = String, Path)),
    request_body = RackSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_rack(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<RackSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_rack(&sent.stamp, &id, &sent.body.rack, sent.body.version)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// Deals the treatments at random within each level and seals the key.
#[utoipa::path(
    post,
    operation_id = "place_deal",
    path = "/trials/{id}/deal",
    params(("id" = String, Path)),
    request_body = DealSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn deal(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<DealSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.deal(&sent.stamp, &id, Chance::fresh(), sent.body.version)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// A unit in its place, with the treatment known: who placed it knows.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct Placed {
    /// Level, 1 the lowest.
    level: u32,
    /// Slot, 1 at the left.
    slot: u32,
    /// Index of its treatment in the sheet.
    treatment: TreatmentIndex,
}

/// Places chosen by hand, all of them.
#[derive(Deserialize, ToSchema)]
pub(crate) struct PlacesSent {
    /// Every unit.
    places: Vec<Placed>,
    /// Version on which the change was made.
    version: i64,
}

/// What was placed by hand, treatment by treatment: for the owner, and only where nothing was
/// dealt.
#[utoipa::path(
    get,
    operation_id = "place_get_places",
    path = "/trials/{id}/places",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = Vec<Placed>),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
    ),
)]
pub(crate) async fn get_places(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<Vec<Placed>>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        who.unless_sealed(&trial)?;
        if trial.plan.rack.design != RackDesign::ByHand {
            return Ok(Json(Vec::new()));
        }
        let place = |u: &iron_twin_core::trial::deal::Unit| Placed {
            level: u.position.level,
            slot: u.position.slot,
            treatment: u.treatment,
        };
        Ok(Json(trial.units.iter().map(place).collect()))
    })
    .await
}

/// Places units by hand; what stood before is replaced.
#[utoipa::path(
    put,
    operation_id = "place_put_places",
    path = "/trials/{id}/places",
    params(("id" = String, Path)),
    request_body = PlacesSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_places(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<PlacesSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        let place = |p: &Placed| {
            (
                Position {
                    level: p.level,
                    slot: p.slot,
                },
                p.treatment,
            )
        };
        let places: Vec<_> = sent.body.places.iter().map(place).collect();
        store.place_by_hand(
            &sent.stamp,
            &id,
            &places,
            Chance::fresh(),
            sent.body.version,
        )?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// A figure of one place as measured.
#[derive(Deserialize, ToSchema)]
pub(crate) struct FigureAt {
    /// Level, 1 the lowest.
    level: u32,
    /// Slot, 1 at the left.
    slot: u32,
    /// What the meter said; null takes the figure out.
    value: Option<f64>,
}

/// The light as measured, place by place.
#[derive(Deserialize, ToSchema)]
pub(crate) struct LightSent {
    /// Places measured; the figures of others stay.
    places: Vec<FigureAt>,
    /// In what the meter says it.
    #[serde(default)]
    scale: LightScale,
    /// Kind of light, for lux: daylight, white LED, fluorescent, high-pressure sodium or metal
    /// halide.
    #[serde(default)]
    kind: String,
    /// Why it is set after the first record; needed then.
    #[serde(default)]
    reason: Option<String>,
}

/// Sets the light of places.
#[utoipa::path(
    put,
    operation_id = "place_put_light",
    path = "/trials/{id}/light",
    params(("id" = String, Path)),
    request_body = LightSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_light(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<LightSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        let at = |p: &FigureAt| PlaceFigure {
            level: p.level,
            slot: p.slot,
            value: p.value,
        };
        let measured: Vec<PlaceFigure> = sent.body.places.iter().map(at).collect();
        let scale = (sent.body.scale, sent.body.kind.as_str());
        store.set_light(
            &sent.stamp,
            &id,
            &measured,
            scale,
            sent.body.reason.as_deref(),
        )?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// Sets what a site outdoors is like.
#[utoipa::path(
    put,
    operation_id = "place_put_site_card",
    path = "/trials/{id}/site-card",
    params(("id" = String, Path)),
    request_body = SiteCard,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_site_card(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<SiteCard>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_site_card(&sent.stamp, &id, &sent.body)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// Starting sizes, place by place.
#[derive(Deserialize, ToSchema)]
pub(crate) struct StartsSent {
    /// Places measured; the sizes of others stay. In any one unit: mm, g, leaves.
    places: Vec<FigureAt>,
    /// Why they are set after the first record; needed then.
    #[serde(default)]
    reason: Option<String>,
}

/// Sets the starting sizes of what stands in places; a deal that went by them is dropped.
#[utoipa::path(
    put,
    operation_id = "place_put_starts",
    path = "/trials/{id}/starts",
    params(("id" = String, Path)),
    request_body = StartsSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_starts(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<StartsSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        let at = |p: &FigureAt| PlaceFigure {
            level: p.level,
            slot: p.slot,
            value: p.value,
        };
        let sizes: Vec<PlaceFigure> = sent.body.places.iter().map(at).collect();
        store.set_starts(&sent.stamp, &id, &sizes, sent.body.reason.as_deref())?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}
