//! What is decided on the strength of a trial, and which trial could follow.

use crate::api::trials::current;
use crate::app::{App, Work};
use crate::clock::today;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use iron_twin_core::after::next_trial::{Advice, Suggestion, Told};
use iron_twin_core::after::why::{Why, why};
use iron_twin_core::ledger::trust::trust;
use iron_twin_core::ledger::{Facts, audit};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::decided::DecisionRecord;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A decision as it is told.
#[derive(Serialize, ToSchema)]
pub(crate) struct DecisionView {
    /// The decision.
    decision: DecisionRecord,
    /// In words.
    said: String,
    /// Random id of the trial.
    trial: String,
    /// What the trial is called.
    name: String,
}

/// What was decided, what the figures advise, and what could follow.
#[derive(Serialize, ToSchema)]
pub(crate) struct NextView {
    /// Decisions on this trial, oldest first; the last one stands.
    decisions: Vec<DecisionView>,
    /// What was decided after other trials of the same crop, newest first.
    before: Vec<DecisionView>,
    /// What the figures advise; null before the key is open, or where nothing was compared.
    advice: Option<Advice>,
    /// Trials that could follow, the most telling first.
    suggestions: Vec<Suggestion>,
    /// Why some thrived and others lagged, as conjectures; null where nobody was surely behind.
    why: Option<Why>,
    /// What stands before an amount of money.
    currency: String,
}

fn said(trial: &Trial, decision: &DecisionRecord) -> String {
    let kind = trial.plan.rack.kind;
    decision.said((kind.unit(), kind.units()))
}

/// Looks at what a finished trial told.
fn with_told<T>(
    work: &Work,
    trial: &Trial,
    look: impl FnOnce(&Told<'_>) -> T,
) -> Result<Option<T>, Problem> {
    if trial.reveal.is_none() {
        return Ok(None);
    }
    let crop = trial.plan.ask.parts().next().flatten();
    let Ok(analysis) = work.figures.analysis(trial, trial.decides(), crop, None) else {
        return Ok(None);
    };
    let (stores, prices) = (work.shelves()?, work.prices()?);
    let spread = work.figures.spread(work, trial)?;
    let known = work.figures.known(trial, &spread);
    let ledger = audit(&Facts::of(trial, &stores, &known, today(&work.farm()?)));
    let ranked = work.figures.ranked(trial, crop);
    let told = Told {
        trial,
        analysis: &analysis,
        may_be_best: ranked.as_deref().map_or(&[], |own| &own.may_be_best),
        findings: &ledger.open,
        belief: trust(&ledger, &known.claims).belief,
        // One trial's own spread may be small by luck.
        cv_percent: analysis
            .residual
            .cv_percent
            .unwrap_or(0.0)
            .max(spread.cv_percent),
        stores: &stores,
        prices: &prices,
    };
    Ok((!analysis.contrasts.is_empty()).then(|| look(&told)))
}

/// Why some thrived and others lagged.
fn causes(work: &Work, trial: &Trial) -> Result<Option<Why>, Problem> {
    if trial.reveal.is_none() {
        return Ok(None);
    }
    let crop = trial.plan.ask.parts().next().flatten();
    let analysis = work
        .figures
        .analysis(trial, trial.decides(), crop, None)
        .ok();
    let ranked = work.figures.ranked(trial, crop);
    let best = ranked.as_deref().map_or(&[][..], |own| &own.may_be_best);
    Ok(why(trial, analysis.as_deref(), best, &work.shelves()?))
}

fn view(work: &Work, id: &str) -> Result<NextView, Problem> {
    let trial = work.trial(id)?;
    let own = |decision: DecisionRecord| DecisionView {
        said: said(&trial, &decision),
        decision,
        trial: trial.id.clone(),
        name: trial.plan.name.clone(),
    };
    let before = work.decided_before(id)?.into_iter().map(|other| {
        // Words of the other trial's units.
        let trial = work.trial(&other.trial)?;
        let said = said(&trial, &other.decision);
        Ok(DecisionView {
            decision: other.decision,
            said,
            trial: other.trial,
            name: other.name,
        })
    });
    let (advice, suggestions) =
        with_told(work, &trial, |told| (told.advice(), told.suggestions()))?.unzip();
    Ok(NextView {
        decisions: trial
            .records
            .decisions()
            .iter()
            .map(DecisionRecord::from)
            .map(own)
            .collect(),
        before: before.collect::<Result<_, Problem>>()?,
        advice,
        suggestions: suggestions.unwrap_or_default(),
        why: causes(work, &trial)?,
        currency: work.prices()?.currency,
    })
}

/// What was decided here and before, what the figures advise, and which trials could follow.
#[utoipa::path(
    get,
    operation_id = "next_get",
    path = "/trials/{id}/next",
    params(("id" = String, Path)),
    responses((status = 200, body = NextView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<NextView>, Problem> {
    app.run(move |store| Ok(Json(view(store, &id)?))).await
}

/// Which of the suggested trials is planned.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct NextSent {
    /// Its key.
    key: String,
}

/// Plans a trial that was suggested: a new trial with its plan, to be changed until its first
/// record.
#[utoipa::path(
    post,
    operation_id = "next_plan",
    path = "/trials/{id}/next",
    params(("id" = String, Path)),
    request_body = NextSent,
    responses(
        (status = 201, body = TrialView),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn plan(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<NextSent>,
) -> Result<(StatusCode, Json<TrialView>), Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let asked = |told: &Told<'_>| {
            told.suggestions()
                .into_iter()
                .find(|s| s.key == sent.body.key)
        };
        let suggested = with_told(store, &trial, asked)?.flatten().map(|s| s.plan);
        let found = match suggested {
            Some(plan) => Some(plan),
            None => {
                let all = causes(store, &trial)?
                    .map(|w| w.conjectures)
                    .unwrap_or_default();
                all.into_iter()
                    .find(|c| c.key == sent.body.key)
                    .and_then(|c| c.plan)
            }
        };
        let plan = found.ok_or_else(|| {
            Problem::refused("key", "this trial is no longer suggested; look again")
        })?;
        let id = store.create_from(&sent.stamp, plan)?;
        Ok((StatusCode::CREATED, current(store, &id, &sent.stamp.who)?))
    })
    .await
}
