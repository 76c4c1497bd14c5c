//! The diary: everything that was written in a trial, newest first; each can be taken back by who
//! wrote it.

use crate::access::Who;
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::catalogue::readings::is_of_solution;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record;
use iron_twin_core::trial::record::kind::Heading;
use iron_twin_store::history::{DiaryEntry, Undone};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// What stands under a heading beside records. Units written off before records had one shape are
/// told as `unit`.
fn beside(heading: Heading) -> &'static [&'static str] {
    match heading {
        Heading::Readings => &["log_file"],
        Heading::Given => &["jugs", "pouring_sheet"],
        Heading::Notes => &["unit"],
        Heading::Plan => &["plan", "trial", "deal", "reveal"],
        Heading::Weights | Heading::Work | Heading::Photos | Heading::Mixes => &[],
    }
}

/// All that stands under a heading, as the history names it.
fn entities(heading: Heading) -> Vec<&'static str> {
    let of = record::ALL
        .iter()
        .filter(|kind| kind.heading == heading)
        .map(|kind| kind.key);
    of.chain(beside(heading).iter().copied()).collect()
}

/// Which entries.
#[derive(Deserialize, IntoParams)]
pub(crate) struct DiaryQuery {
    /// Of one kind; of all where left out.
    #[param(inline)]
    kind: Option<Heading>,
    /// Those before this one; the newest where left out.
    before: Option<i64>,
}

/// Entries shown at once.
const MOST: u32 = 100;

/// An entry of the diary.
#[derive(Serialize, ToSchema)]
pub(crate) struct DiaryLine {
    /// Its number.
    id: i64,
    /// When it was written (RFC 3339).
    at: String,
    /// By whom.
    who: String,
    /// What it did.
    action: String,
    /// Whether it was a change of the plan.
    plan: bool,
    /// Whether it was taken back.
    undone: bool,
    /// Whether who asks may take it back.
    own: bool,
}

/// The diary of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct DiaryView {
    /// Newest first.
    entries: Vec<DiaryLine>,
    /// Whether there are older ones.
    more: bool,
}

/// What an entry did, as somebody may be told: no treatment by name, and no value of the solution
/// that is kept from them.
fn told(trial: &Trial, entry: &DiaryEntry, who: &Who) -> String {
    let sealed = !who.sees_key() && trial.reveal.is_none();
    let others = entry.who != who.name;
    let of_solution = entry.reading.as_deref().is_some_and(is_of_solution);
    // What names a treatment says so itself; one given something is told by the units that got it.
    let kept = record::find(&entry.entity)
        .filter(|kind| kind.names_treatments && !kind.sealed_words.is_empty());
    if let Some(kind) = kept.filter(|_| sealed) {
        return kind.sealed_words.to_owned();
    }
    match &*entry.entity {
        "reading" if others && of_solution && !trial.shows_solution(&who.name) => entry
            .action
            .rsplit_once(':')
            .map_or_else(|| entry.action.clone(), |(what, _)| what.to_owned()),
        _ => entry.action.clone(),
    }
}

/// Everything that was written in a trial, newest first.
#[utoipa::path(
    get,
    operation_id = "diary_get",
    path = "/trials/{id}/diary",
    params(("id" = String, Path), DiaryQuery),
    responses((status = 200, body = DiaryView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(query): Query<DiaryQuery>,
) -> Result<Json<DiaryView>, Problem> {
    app.run(move |store| {
        let kinds = query.kind.map_or_else(Vec::new, entities);
        let mut found = store.diary(&id, &who.name, &kinds, query.before, MOST + 1)?;
        let trial = store.trial(&id)?;
        let more = found.len() > MOST as usize;
        found.truncate(MOST as usize);
        let line = |entry: DiaryEntry| DiaryLine {
            action: told(&trial, &entry, &who),
            id: entry.id,
            at: entry.at.to_string(),
            who: entry.who,
            plan: entry.entity == "plan",
            undone: entry.undone,
            own: entry.own,
        };
        Ok(Json(DiaryView {
            entries: found.into_iter().map(line).collect(),
            more,
        }))
    })
    .await
}

/// Which entry to take back.
#[derive(Deserialize, ToSchema)]
pub(crate) struct TakeBackSent {
    /// Its number.
    entry: i64,
}

/// Takes back an entry of one's own: any record, and the last change of the plan.
#[utoipa::path(
    post,
    operation_id = "diary_take_back",
    path = "/trials/{id}/take-back",
    params(("id" = String, Path)),
    request_body = TakeBackSent,
    responses((status = 200, body = TakenBack), (status = 409, body = Problem)),
)]
pub(crate) async fn take_back(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<TakeBackSent>,
) -> Result<Json<TakenBack>, Problem> {
    app.run(move |store| {
        let Undone { action, plan } = store.undo_entry(&sent.stamp, &id, sent.body.entry)?;
        Ok(Json(TakenBack { action, plan }))
    })
    .await
}

/// What was taken back.
#[derive(Serialize, ToSchema)]
pub(crate) struct TakenBack {
    /// What it had done.
    action: String,
    /// Whether it was a change of the plan.
    plan: bool,
}
