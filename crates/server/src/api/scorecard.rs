//! The scorecard: what counts beside the yield, for how much, and which treatment comes out first.

use crate::app::{App, Work};
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::after::criteria;
use iron_twin_core::after::money::money;
use iron_twin_core::after::scorecard::{Figure, Outcome, Scored, outcome, own_scores};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::scorecard::{Criterion, Origin, Scorecard};
use iron_twin_core::weigh::tasting::liked;
use iron_twin_terms::goal::Better;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;
use utoipa::ToSchema;

/// A criterion that can be had.
#[derive(Serialize, ToSchema)]
pub(crate) struct CriterionOffer {
    /// As it would stand in the card.
    criterion: Criterion,
}

/// The scorecard and what it comes to.
#[derive(Serialize, ToSchema)]
pub(crate) struct ScorecardView {
    /// The card as it is kept, or as it is proposed.
    card: Scorecard,
    /// Whether it is only proposed.
    proposed: bool,
    /// What could be added, from what the trial measured.
    offers: Vec<CriterionOffer>,
    /// What it comes to.
    outcome: Outcome,
}

/// The figures of a criterion for each treatment.
fn figures(
    work: &Work,
    trial: &Trial,
    of: &Criterion,
    names: &[String],
) -> Result<Scored, Problem> {
    let none = || vec![None; names.len()];
    let (unit, better, figures) = match &of.from {
        Origin::Own => (String::new(), of.better, own_scores(of, names)),
        Origin::Measure(_) | Origin::MeasureOn { .. } => {
            match criteria::measured(trial, &of.from) {
                Some(own) => {
                    let better = trial.plan.ask.better_of(own.measure);
                    (
                        own.measure.unit.to_owned(),
                        better,
                        measured(work, trial, own, names),
                    )
                }
                None => (String::new(), of.better, none()),
            }
        }
        Origin::Cost => {
            let prices = work.prices()?;
            let told = money(trial, &work.shelves()?, &prices);
            let cost = |t: usize| {
                told.as_ref()?.treatments.get(t).map(|m| Figure {
                    mean: m.cost,
                    se: 0.0,
                })
            };
            (
                prices.currency,
                Better::Lower,
                (0..names.len()).map(cost).collect(),
            )
        }
        Origin::Taste => (
            "points".into(),
            Better::Higher,
            tasted(work, trial, names.len())?,
        ),
    };
    Ok(Scored {
        name: of.name.clone(),
        unit,
        better,
        figures,
    })
}

/// How much each was liked, over all tastings that are closed.
fn tasted(work: &Work, trial: &Trial, treatments: usize) -> Result<Vec<Option<Figure>>, Problem> {
    let kept = work.tastings(&trial.id)?;
    let closed = kept
        .iter()
        .map(|own| &own.is)
        .filter(|own| own.closed_at.is_some());
    let points = liked(closed);
    let mean = |t: usize| {
        Figure::of(
            points
                .get(&TreatmentIndex(t))
                .map_or(&[][..], Vec::as_slice),
        )
    };
    Ok((0..treatments).map(mean).collect())
}

fn measured(work: &Work, trial: &Trial, own: Judged, names: &[String]) -> Vec<Option<Figure>> {
    let crop = trial.plan.ask.parts().next().flatten();
    let Ok(analysis) = work.figures.analysis(trial, own, crop, None) else {
        return vec![None; names.len()];
    };
    let of = |name: &String| {
        let found = analysis.treatments.iter().find(|t| t.name == *name)?;
        Some(Figure {
            mean: found.adjusted_mean,
            se: found.se.unwrap_or(0.0),
        })
    };
    names.iter().map(of).collect()
}

fn view(work: &Work, id: &str) -> Result<ScorecardView, Problem> {
    let trial = work.trial(id)?;
    if trial.reveal.is_none() {
        return Err(Problem::locked(
            "The scorecard waits for the key: it names treatments and what they gave.",
        ));
    }
    let names: Vec<String> = trial
        .plan
        .sheet
        .treatments
        .iter()
        .map(|t| t.name.clone())
        .collect();
    let all = |criteria: Vec<Criterion>| -> Result<Vec<(Criterion, Scored)>, Problem> {
        criteria
            .into_iter()
            .map(|c| figures(work, &trial, &c, &names).map(|s| (c, s)))
            .collect()
    };
    let kept = trial.records.scorecard().cloned();
    let offered = criteria::offers(&trial);
    let (card, is_proposed) = match kept {
        Some(card) => (card, false),
        None => (criteria::proposed(&trial, &all(offered.clone())?), true),
    };
    let scored = all(card.criteria.clone())?
        .into_iter()
        .map(|(_, s)| s)
        .collect();
    let outcome = outcome(&card, &names, scored);
    let free = |c: &Criterion| !card.criteria.iter().any(|own| own.name == c.name);
    let offers = offered
        .into_iter()
        .filter(free)
        .map(|criterion| CriterionOffer { criterion })
        .collect();
    Ok(ScorecardView {
        card,
        proposed: is_proposed,
        offers,
        outcome,
    })
}

/// The scorecard, with every treatment ranked in every setting. Only after the key is open.
#[utoipa::path(
    get,
    operation_id = "scorecard_get",
    path = "/trials/{id}/scorecard",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = ScorecardView),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
    ),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<ScorecardView>, Problem> {
    app.run(move |store| Ok(Json(view(store, &id)?))).await
}
