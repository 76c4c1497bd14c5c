//! Trials as a whole: the list, a new one, one with its line and ledger, and taking back.

use crate::access::Who;
use crate::app::App;
use crate::app::Work;
use crate::blind::blinded;
use crate::clock::today;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::{TrialView, UndoneView, trial_view};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use iron_twin_core::trial::plan::Plan;
use iron_twin_store::trials::TrialHead;
use serde::{Deserialize, Serialize};
use serde_json::Value;
use utoipa::ToSchema;

/// A trial in the list.
#[derive(Serialize, ToSchema)]
pub(crate) struct TrialHeadView {
    /// Random id.
    id: String,
    /// Name.
    name: String,
    /// Whether it was put away.
    put_away: bool,
}

impl From<TrialHead> for TrialHeadView {
    fn from(head: TrialHead) -> Self {
        Self {
            id: head.id,
            name: head.name,
            put_away: head.put_away,
        }
    }
}

/// A new trial.
#[derive(Deserialize, ToSchema)]
pub(crate) struct NewTrial {
    /// Name: the crop and what is tried.
    name: String,
}

/// The trial as it now stands, for the answer of a write.
pub(crate) fn current(store: &Work, id: &str, who: &str) -> Result<Json<TrialView>, Problem> {
    let today = today(&store.farm()?);
    let trial = store.trial(id)?;
    let spread = store.figures.spread(store, &trial)?;
    let known = store.figures.known(&trial, &spread);
    let view = trial_view(&trial, &store.shelves()?, spread, known, today);
    Ok(Json(TrialView {
        undo: store.last_action(id, who)?.map(UndoneView::from),
        ..view
    }))
}

/// All trials, newest first.
#[utoipa::path(
    get,
    operation_id = "trials_list",
    path = "/trials",
    responses((status = 200, body = Vec<TrialHeadView>)),
)]
pub(crate) async fn list(State(app): State<App>) -> Result<Json<Vec<TrialHeadView>>, Problem> {
    app.run(|store| Ok(Json(store.trials()?.into_iter().map(Into::into).collect())))
        .await
}

/// Starts a trial with the usual plan.
#[utoipa::path(post, operation_id = "trials_create", path = "/trials", request_body = NewTrial,
    responses((status = 201, body = TrialView), (status = 422, body = Problem)))]
pub(crate) async fn create(
    State(app): State<App>,
    sent: Sent<NewTrial>,
) -> Result<(StatusCode, Json<TrialView>), Problem> {
    app.run(move |store| {
        let id = store.create_trial(&sent.stamp, &sent.body.name)?;
        Ok((StatusCode::CREATED, current(store, &id, &sent.stamp.who)?))
    })
    .await
}

/// Starts a trial with a plan that was brought, format `iron-twin/trial-plan/1`. A key that is left
/// out stands at its usual value; one that nobody knows is refused by its name.
#[utoipa::path(
    post,
    operation_id = "trials_bring",
    path = "/trials/from-plan",
    request_body = Value,
    responses((status = 201, body = TrialView), (status = 422, body = Problem)),
)]
pub(crate) async fn bring(
    State(app): State<App>,
    sent: Sent<Value>,
) -> Result<(StatusCode, Json<TrialView>), Problem> {
    app.run(move |store| {
        let plan = Plan::read(&sent.body.to_string())
            .map_err(|e| Problem::refused("plan", e.to_string()))?;
        let id = store.create_from(&sent.stamp, plan)?;
        Ok((StatusCode::CREATED, current(store, &id, &sent.stamp.who)?))
    })
    .await
}

/// Starts the next round of a trial: the same plan under the next free name, to be changed until
/// its first record.
#[utoipa::path(
    post,
    operation_id = "trials_next_round",
    path = "/trials/{id}/next-round",
    params(("id" = String, Path)),
    responses((status = 201, body = TrialView), (status = 404, body = Problem)),
)]
pub(crate) async fn next_round(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<(StatusCode, Json<TrialView>), Problem> {
    app.run(move |store| {
        let id = store.next_round(&sent.stamp, &id)?;
        Ok((StatusCode::CREATED, current(store, &id, &sent.stamp.who)?))
    })
    .await
}

/// A trial with its line and ledger.
#[utoipa::path(
    get,
    operation_id = "trials_get",
    path = "/trials/{id}",
    params(("id" = String, Path)),
    responses((status = 200, body = TrialView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        let Json(view) = current(store, &id, &who.name)?;
        Ok(Json(if who.sees_key() { view } else { blinded(view) }))
    })
    .await
}

/// Takes back the last record.
#[utoipa::path(
    post,
    operation_id = "trials_undo",
    path = "/trials/{id}/undo",
    params(("id" = String, Path)),
    responses((status = 200, body = UndoneView), (status = 409, body = Problem)),
)]
pub(crate) async fn undo(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<Json<UndoneView>, Problem> {
    app.run(move |store| Ok(Json(store.undo(&sent.stamp, &id)?.into())))
        .await
}

/// Where a trial shall stand.
#[derive(Deserialize, ToSchema)]
pub(crate) struct PutAwaySent {
    /// True puts it away, false brings it back.
    away: bool,
}

/// Puts a trial away, or brings it back; nothing of it is lost.
#[utoipa::path(
    post,
    operation_id = "trials_put_away",
    path = "/trials/{id}/put-away",
    params(("id" = String, Path)),
    request_body = PutAwaySent,
    responses((status = 204), (status = 404, body = Problem)),
)]
pub(crate) async fn put_away(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<PutAwaySent>,
) -> Result<StatusCode, Problem> {
    app.run(move |store| {
        store.put_away(&sent.stamp, &id, sent.body.away)?;
        Ok(StatusCode::NO_CONTENT)
    })
    .await
}

/// Adds the example trials to a farm that has none yet.
#[utoipa::path(post, operation_id = "trials_examples", path = "/examples",
    responses((status = 201, body = Vec<TrialHeadView>), (status = 409, body = Problem)))]
pub(crate) async fn examples(
    State(app): State<App>,
) -> Result<(StatusCode, Json<Vec<TrialHeadView>>), Problem> {
    let add = app
        .examples
        .ok_or_else(|| Problem::not_found("This server has no examples."))?;
    app.run_alone(move |store| {
        if !store.trials()?.is_empty() {
            return Err(Problem::not_empty());
        }
        add(store, today(&store.farm()?))?;
        Ok((
            StatusCode::CREATED,
            Json(store.trials()?.into_iter().map(Into::into).collect()),
        ))
    })
    .await
}
