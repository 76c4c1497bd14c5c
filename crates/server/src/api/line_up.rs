//! Line-ups: units put in order from best to worst by code, each judge on a page of their own.

use crate::access::Who;
use crate::app::App;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::catalogue::measures::Source;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::line_up::LineUp;
use iron_twin_core::trial::records::Recorded;
use iron_twin_stats::concordance::concordance;
use iron_twin_terms::indices::UnitIndex;
use serde::Serialize;
use utoipa::ToSchema;

/// The line-up of a judge that stands.
#[derive(Serialize, ToSchema)]
pub(crate) struct LineUpView {
    /// Whose it is.
    judge: String,
    /// Days since sowing.
    day: u32,
    /// Codes from the best place to the worst; those in one place are tied.
    places: Vec<Vec<String>>,
}

/// How far the judges agree.
#[derive(Serialize, ToSchema)]
pub(crate) struct AgreementView {
    /// Kendall's coefficient of concordance: 0 where orders have nothing to do with one another, 1
    /// where they are the same.
    w: f64,
    /// How often orders drawn by lot would agree as well.
    p: f64,
    /// Units that all of them lined up.
    units: usize,
}

/// The mean place of a unit.
#[derive(Serialize, ToSchema)]
pub(crate) struct MeanPlace {
    /// Its code.
    code: String,
    /// Over all judges; 1 is the best.
    place: f64,
}

/// The line-ups of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct LineUpsView {
    /// Codes of the units that stand, in the order in which one begins: shuffled for each who asks,
    /// always the same.
    codes: Vec<String>,
    /// Judges who have lined them up.
    judges: Vec<String>,
    /// What they said; to a judge who has not said anything yet, nothing of others is told.
    line_ups: Vec<LineUpView>,
    /// How far they agree; null for fewer than two, and where nothing is told.
    agreement: Option<AgreementView>,
    /// Mean places, the best first; empty where nothing is told.
    mean: Vec<MeanPlace>,
    /// Whether the place in the line-up is among what the trial is judged by.
    judged_by: bool,
}

fn of_judge(trial: &Trial, record: &Recorded<LineUp>) -> LineUpView {
    let codes = |tied: &Vec<UnitIndex>| tied.iter().map(|u| trial.units[*u].code.clone()).collect();
    LineUpView {
        judge: record.judge.clone(),
        day: record.head.day,
        places: record
            .order(trial)
            .iter()
            .map(codes)
            .filter(|tied: &Vec<String>| !tied.is_empty())
            .collect(),
    }
}

/// An order of codes that says nothing, and is the same whenever the same person asks.
fn shuffled(mut codes: Vec<String>, trial: &str, who: &str) -> Vec<String> {
    use std::hash::{DefaultHasher, Hash, Hasher};
    codes.sort_by_cached_key(|code| {
        let mut hasher = DefaultHasher::new();
        (trial, who, code).hash(&mut hasher);
        hasher.finish()
    });
    codes
}

fn view(trial: &Trial, who: &Who) -> LineUpsView {
    let of = trial.line_ups_of(trial.round);
    let standing = trial
        .each_unit()
        .filter(|(_, u)| trial.is_now(u) && u.lost.is_none());
    let codes = standing.map(|(_, u)| u.code.clone()).collect();
    // What others said would pull at one's own eye.
    let said = trial.reveal.is_some()
        || trial
            .records
            .line_ups()
            .iter()
            .any(|l| *l.head.who == *who.name);
    let (judges, ranks) = trial.common_places();
    let units = ranks.first().map_or(0, Vec::len);
    let agreement = concordance(&ranks).filter(|_| said);
    let mut mean: Vec<MeanPlace> = trial
        .each_unit()
        .filter(|(_, u)| said && trial.is_now(u))
        .filter_map(|(i, u)| {
            Some(MeanPlace {
                code: u.code.clone(),
                place: trial.mean_place(i)?,
            })
        })
        .collect();
    mean.sort_by(|a, b| {
        a.place
            .total_cmp(&b.place)
            .then_with(|| a.code.cmp(&b.code))
    });
    LineUpsView {
        codes: shuffled(codes, &trial.id, &who.name),
        judges: judges.into_iter().map(str::to_owned).collect(),
        line_ups: of
            .values()
            .filter(|_| said)
            .map(|l| of_judge(trial, l))
            .collect(),
        agreement: agreement.map(|a| AgreementView {
            w: a.w,
            p: a.p,
            units,
        }),
        mean,
        judged_by: trial
            .plan
            .ask
            .measures()
            .iter()
            .any(|m| m.source == Source::LineUp),
    }
}

/// The line-ups of the round that a trial is in.
#[utoipa::path(
    get,
    operation_id = "line_ups_get",
    path = "/trials/{id}/line-ups",
    params(("id" = String, Path)),
    responses((status = 200, body = LineUpsView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<LineUpsView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Ok(Json(view(&trial, &who)))
    })
    .await
}
