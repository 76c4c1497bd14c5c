//! Ask: the plan's question, and the live picture of what it could see.

use crate::api::trials::current;
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::ask::expected::{Expected, Planned, expected};
use iron_twin_core::ask::picture::{Layout, Picture, picture as compute};
use iron_twin_core::ask::sees::seen_each;
use iron_twin_core::trial::question::Ask;
use iron_twin_store::ask::AskChange;
use iron_twin_terms::goal::Goal;
use serde::Deserialize;
use utoipa::ToSchema;

/// The question as changed.
#[derive(Deserialize, ToSchema)]
pub(crate) struct AskSent {
    /// Name of the trial.
    name: String,
    /// What is asked.
    ask: Ask,
    /// Version on which the change was made.
    version: i64,
    /// Why, once the plan is sealed.
    reason: Option<String>,
}

/// Changes what is asked.
#[utoipa::path(
    put,
    operation_id = "ask_put",
    path = "/trials/{id}/ask",
    params(("id" = String, Path)),
    request_body = AskSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<AskSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        let AskSent {
            name,
            ask,
            version,
            reason,
        } = sent.body;
        store.set_ask(
            &sent.stamp,
            &id,
            &AskChange {
                name,
                ask,
                version,
                reason,
            },
        )?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// What a trial whose measure is a count, a share or days could see; null for amounts and grades.
#[utoipa::path(
    get,
    operation_id = "ask_expected",
    path = "/trials/{id}/expected",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = Option<Expected>),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn foreseen(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<Option<Expected>>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let treatments = trial.plan.sheet.treatments.len();
        let planned = Planned {
            treatments,
            units: seen_each(&trial),
            blocks: trial.plan.rack.blocks(treatments),
        };
        let seen = expected(&trial.plan.ask, planned).transpose();
        Ok(Json(seen.map_err(|e| {
            Problem::refused("expected", e.to_string())
        })?))
    })
    .await
}

/// A plan, as far as the picture needs it.
#[derive(Deserialize, ToSchema)]
pub(crate) struct PictureSent {
    /// How units are laid out.
    layout: Layout,
    /// Planned units of each treatment.
    units: usize,
    /// Beat the control, or do as well.
    #[serde(default)]
    goal: Goal,
    /// Spread among units of one treatment, per cent of the mean.
    cv_percent: f64,
    /// Margin, per cent of the control.
    margin_percent: f64,
}

/// Most treatments for which the picture is drawn.
const MOST_TREATMENTS: usize = 24;

/// What the planned units could and could not see.
#[utoipa::path(post, operation_id = "ask_picture", path = "/picture", request_body = PictureSent,
    responses((status = 200, body = Picture), (status = 422, body = Problem)))]
pub(crate) async fn picture(
    State(app): State<App>,
    sent: Sent<PictureSent>,
) -> Result<Json<Picture>, Problem> {
    let p = sent.body;
    if p.layout.treatments > MOST_TREATMENTS {
        return Err(Problem::refused(
            "treatments",
            format!("at most {MOST_TREATMENTS} treatments"),
        ));
    }
    app.run(move |_| {
        Ok(Json(compute(
            p.layout,
            p.units,
            p.goal,
            p.cv_percent,
            p.margin_percent,
        )?))
    })
    .await
}
