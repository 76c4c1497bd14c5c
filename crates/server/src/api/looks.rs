//! Looks before the end: whether the codes differ by now, without opening the key; each is logged.

use super::records::{self, RecordsAnswer};
use crate::access::Who;
use crate::app::App;
use crate::clock::day_at;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::catalogue::measures::{self, Measure};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::look::{Look, LookAnswer};
use iron_twin_core::verdict::look::spent::{Stage, stages};
use iron_twin_core::verdict::look::{LookError, look};
use iron_twin_store::records::Incoming;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A look that was had.
#[derive(Serialize, ToSchema)]
pub(crate) struct LookView {
    /// Days since sowing.
    day: u32,
    /// What was looked at, as a grower says it.
    measure: String,
    /// Whether the plan had a look at what decides on this day.
    planned: bool,
    /// What it told.
    answer: LookAnswer,
    /// Who looked.
    who: String,
    /// When (RFC 3339).
    at: String,
}

/// What can be looked at before the end.
#[derive(Serialize, ToSchema)]
pub(crate) struct LookAt {
    /// Key of the measure.
    key: &'static str,
    /// As a grower says it.
    name: &'static str,
    /// Whether it decides.
    decides: bool,
}

/// Looks at a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct LooksView {
    /// Those that were had, oldest first.
    had: Vec<LookView>,
    /// Days on which looks are planned.
    planned: Vec<u32>,
    /// What the planned looks and the end spend of the error allowance; empty where no look is
    /// planned.
    stages: Vec<Stage>,
    /// Looks at what decides beside the plan; empty where there were none.
    unplanned: Vec<u32>,
    /// What can be looked at; empty where there is nothing before the end.
    measures: Vec<LookAt>,
    /// Whether a look today is one that was planned.
    is_planned: bool,
    /// Why there is no look today; null where one can be had.
    not_now: Option<String>,
}

fn view(trial: &Trial, day: Option<u32>) -> Result<LooksView, Problem> {
    let decides = trial.decides().measure.key;
    let name =
        |key: &str| measures::find(key).map_or_else(|| key.to_owned(), |m| m.name.to_owned());
    let is_planned = |key: &str, day| key == decides && trial.is_planned_look(day);
    let had = trial.records.looks().iter().map(|own| LookView {
        day: own.head.day,
        measure: name(&own.measure),
        planned: is_planned(&own.measure, own.head.day),
        answer: own.answer,
        who: own.head.who.to_string(),
        at: own.head.at.to_string(),
    });
    let end = trial.plan.ask.end_day;
    let ahead = |key: &str| {
        last_judged(trial, key).and_then(|j| j.day).unwrap_or(end) > day.unwrap_or(0).min(end - 1)
    };
    let has_looks =
        |m: &&Measure| !m.source.is_weighed() && !trial.plan.rack.has_rounds() && ahead(m.key);
    let can = trial.plan.ask.measures().into_iter().filter(has_looks);
    let not_now = match day {
        _ if trial.reveal.is_some() => Some("The key is open.".to_owned()),
        None => Some("Days count from the sowing.".to_owned()),
        Some(0) => Some(capitalised_sentence(&LookError::Day0)),
        Some(day) if day >= end => Some(capitalised_sentence(&LookError::AtTheEnd(end))),
        Some(_) => None,
    };
    let stages = stages(trial, day).map_err(|e| Problem::refused("looks_on", e.to_string()))?;
    Ok(LooksView {
        had: had.collect(),
        planned: trial.plan.ask.looks_on.clone(),
        stages,
        unplanned: trial.looked_on().1,
        measures: can
            .map(|m| LookAt {
                key: m.key,
                name: m.name,
                decides: m.key == decides,
            })
            .collect(),
        is_planned: day.is_some_and(|day| trial.is_planned_look(day)),
        not_now,
    })
}

/// A measure as it is judged last: nothing is looked at before an end that is past.
fn last_judged(trial: &Trial, key: &str) -> Option<Judged> {
    let all = trial
        .plan
        .ask
        .judged()
        .into_iter()
        .filter(|j| j.measure.key == key);
    all.max_by_key(|j| j.day.unwrap_or(u32::MAX))
}

fn capitalised_sentence(error: &LookError) -> String {
    format!(
        "{}.",
        iron_twin_terms::words::capitalised(&error.to_string())
    )
}

/// Looks that were had at a trial, and whether one can be had today.
#[utoipa::path(
    get,
    operation_id = "looks_get",
    path = "/trials/{id}/looks",
    params(("id" = String, Path)),
    responses((status = 200, body = LooksView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<LooksView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let day = day_at(store, &id, Timestamp::now()).ok().flatten();
        Ok(Json(view(&trial, day)?))
    })
    .await
}

/// What to look at.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct LookSent {
    /// Key of the measure.
    measure: String,
}

/// Looks before the end: whether anything differs from the control by now. It is told at so strict
/// a limit that the end keeps nearly all of the error allowance, names no treatment, does not end
/// the trial, is logged, and cannot be taken back.
#[utoipa::path(
    post,
    operation_id = "looks_have",
    path = "/trials/{id}/looks",
    params(("id" = String, Path)),
    request_body = LookSent,
    responses(
        (status = 200, body = RecordsAnswer),
        (status = 404, body = Problem),
        (status = 409, body = RecordsAnswer),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn have(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    sent: Sent<LookSent>,
) -> Result<RecordsAnswer, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let judged = last_judged(&trial, &sent.body.measure)
            .ok_or_else(|| Problem::refused("measure", "this trial does not record that"))?;
        if trial.reveal.is_some() {
            return Err(Problem::locked("The key is open."));
        }
        let Some(day) = day_at(store, &id, sent.stamp.now)? else {
            return Err(Problem::locked("Sow first: days count from sowing."));
        };
        let answer =
            look(&trial, judged, day).map_err(|e| Problem::refused("measure", e.to_string()))?;
        let told = Look {
            measure: judged.measure.key.to_owned(),
            answer,
        };
        let list = Incoming::of(HeadSent::default(), told)
            .into_iter()
            .collect();
        records::answer(1, store.record(&sent.stamp, who.role, &id, list))
    })
    .await
}
