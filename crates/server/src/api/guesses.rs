//! Guesses: what anybody expects of a trial, logged before the key is opened; who was right stands
//! beside the verdict.

use crate::access::Who;
use crate::app::{App, Work};
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::after::guesses::{Guesser, Outcome, tallied, told};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::guess::{Expects, Guess};
use iron_twin_core::trial::records::Recorded;
use iron_twin_core::verdict::figures::dots;
use iron_twin_terms::indices::TreatmentIndex;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What somebody expects.
#[derive(Debug, Clone, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum GuessExpects {
    /// The treatment with this index comes out best; the control where no other is better.
    Best(TreatmentIndex),
    /// No treatment differs from the control by what would matter.
    NoDifference,
    /// The unit with this code comes out best.
    Unit(String),
}

/// A guess.
#[derive(Serialize, ToSchema)]
pub(crate) struct GuessView {
    /// Whose it is.
    name: String,
    /// Days since sowing at which it was logged; 0 before.
    day: u32,
    /// What they expect.
    expects: GuessExpects,
    /// By how much more than the control, %; null where they did not say.
    by_percent: Option<f64>,
    /// Whether it came true; null before the key is open.
    outcome: Option<Outcome>,
    /// How far the guessed difference lies from the one found, percentage points.
    off_points: Option<f64>,
    /// A unit's place among all, 1 the best.
    place: Option<usize>,
    /// Of so many.
    of: Option<usize>,
}

/// The guesses of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct GuessesView {
    /// How many there are.
    count: usize,
    /// One's own before the key is open, all of them afterwards; oldest first.
    guesses: Vec<GuessView>,
}

fn view(work: &Work, trial: &Trial, who: &Who) -> GuessesView {
    let all = trial.records.guesses();
    let judged = trial.decides();
    let open = trial.reveal.is_some();
    let crop = trial.plan.ask.parts().next().flatten();
    let analysis = if open {
        work.figures.analysis(trial, judged, crop, None).ok()
    } else {
        None
    };
    let values = dots(trial, judged, crop);
    let one = |guess: &Recorded<Guess>| {
        let became = told(trial, analysis.as_deref(), &values, guess);
        GuessView {
            name: guess.name.clone(),
            day: guess.head.day,
            expects: match guess.whom() {
                Some(Expects::Best(own)) => GuessExpects::Best(own),
                Some(Expects::Unit(unit)) => GuessExpects::Unit(trial.units[unit].code.clone()),
                Some(Expects::NoDifference) | None => GuessExpects::NoDifference,
            },
            by_percent: guess.by_percent,
            outcome: became.map(|b| b.outcome),
            off_points: became.and_then(|b| b.off_points),
            place: became.and_then(|b| b.place).map(|p| p.0),
            of: became.and_then(|b| b.place).map(|p| p.1),
        }
    };
    // What others expect would pull at one's own guess.
    let mine = |guess: &&Recorded<Guess>| open || *guess.head.who == *who.name;
    GuessesView {
        count: all.clone().count(),
        guesses: all.filter(mine).map(one).collect(),
    }
}

/// The guesses of a trial.
#[utoipa::path(
    get,
    operation_id = "guesses_get",
    path = "/trials/{id}/guesses",
    params(("id" = String, Path)),
    responses((status = 200, body = GuessesView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<GuessesView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Ok(Json(view(store, &trial, &who)))
    })
    .await
}

/// Who guesses how well, over all trials with an open key.
#[utoipa::path(
    get,
    operation_id = "guessers_get",
    path = "/guessers",
    responses((status = 200, body = Vec<Guesser>)),
)]
pub(crate) async fn guessers(State(app): State<App>) -> Result<Json<Vec<Guesser>>, Problem> {
    app.run(move |store| {
        let mut all = Vec::new();
        for id in store.guessed_trials()? {
            let trial = store.trial(&id)?;
            let crop = trial.plan.ask.parts().next().flatten();
            let analysis = store
                .figures
                .analysis(&trial, trial.decides(), crop, None)
                .ok();
            let values = dots(&trial, trial.decides(), crop);
            let own = trial.records.guesses();
            let became = own.filter_map(|g| {
                Some((
                    g.name.clone(),
                    told(&trial, analysis.as_deref(), &values, g)?,
                ))
            });
            all.extend(became);
        }
        Ok(Json(tallied(&all)))
    })
    .await
}
