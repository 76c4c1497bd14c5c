//! All measures of an opened trial side by side, against all treatments.

use crate::api::judge::JudgedView;
use crate::app::{App, Work};
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::trial::Trial;
use iron_twin_judge::expected::held;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::secondary::beside_one_another;
use iron_twin_judge::side_by_side::{Row, row};
use serde::Serialize;
use utoipa::ToSchema;

/// One measure against all treatments.
#[derive(Serialize, ToSchema)]
pub(crate) struct MeasureRow {
    /// The measure, on its day.
    judged: JudgedView,
    /// What is told of it: its name.
    name: &'static str,
    /// Whether it decides.
    decides: bool,
    /// Its differences.
    row: Row,
}

/// What stands beside the single verdicts; empty before the key is open.
#[derive(Serialize, ToSchema)]
pub(crate) struct SideBySide {
    /// Measure by measure, the one that decides first.
    rows: Vec<MeasureRow>,
    /// The treatments from best to worst by what decides, ties told as ties; null for two, and
    /// where crops share a unit.
    ranking: Option<String>,
    /// Whether what was expected came true, in words.
    expected: Option<String>,
    /// Measures beside the one that decides: the chance that at least one of so many would seem to
    /// differ by luck, were nothing adjusted, per cent; null for fewer than two.
    by_luck_percent: Option<f64>,
}

fn side_by_side(work: &Work, trial: &Trial) -> SideBySide {
    if trial.reveal.is_none() {
        return SideBySide {
            rows: Vec::new(),
            ranking: None,
            expected: None,
            by_luck_percent: None,
        };
    }
    let crop = trial.plan.ask.parts().next().flatten();
    let all = trial.plan.ask.judged();
    let found = all.iter().filter_map(|judged| {
        let own = work.figures.analysis(trial, *judged, crop, None).ok()?;
        Some((*judged, (*own).clone()))
    });
    let decides = trial.decides().id();
    let expects =
        trial.plan.ask.crops_inside.is_empty() && !trial.plan.ask.hypothesis.trim().is_empty();
    // What decides stands alone; the others are counted among themselves.
    let (first, mut others): (Vec<_>, Vec<_>) = found
        .into_iter()
        .partition(|(judged, _)| judged.id() == decides);
    let expected = first
        .first()
        .filter(|_| expects)
        .and_then(|(_, own)| held(own));
    let mut secondary: Vec<Analysis> = others.iter().map(|(_, own)| own.clone()).collect();
    beside_one_another(&mut secondary);
    for (own, adjusted) in others.iter_mut().zip(secondary) {
        own.1 = adjusted;
    }
    let tests = others
        .iter()
        .map(|(_, own)| own.contrasts.len())
        .max()
        .unwrap_or(0)
        .min(1)
        * others.len();
    let confidence = others.first().map_or(0.95, |(_, own)| own.confidence);
    let rows = first
        .into_iter()
        .chain(others)
        .map(|(judged, own)| MeasureRow {
            judged: JudgedView::of(trial, judged),
            name: judged.measure.name,
            decides: judged.id() == decides,
            row: row(&own),
        });
    let crops = !trial.plan.ask.crops_inside.is_empty();
    SideBySide {
        ranking: if crops {
            None
        } else {
            work.figures.ranked(trial, None).map(|own| own.said.clone())
        },
        expected,
        rows: rows.collect(),
        by_luck_percent: (tests > 1).then(|| 100.0 * (1.0 - confidence.powi(tests as i32))),
    }
}

/// All measures against all treatments, each difference with its limits.
#[utoipa::path(
    get,
    operation_id = "judge_measures",
    path = "/trials/{id}/judge/measures",
    params(("id" = String, Path)),
    responses((status = 200, body = SideBySide), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<SideBySide>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Ok(Json(side_by_side(store, &trial)))
    })
    .await
}
