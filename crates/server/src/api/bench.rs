//! The bench of Mix: a recipe's columns and tank while it is typed, and the doses for a target.
//! Nothing is written.

use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Query, State};
use iron_twin_core::mix::aim::Aim;
use iron_twin_core::mix::bench::{Bench, BenchError, BenchView};
use iron_twin_core::stores::lines;
use iron_twin_core::stores::lines::Line;
use iron_twin_terms::quantity::FeedForm;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A line of the recipe.
#[derive(Serialize, Deserialize, ToSchema)]
pub(crate) struct BenchLine {
    /// Name of a feed, additive or salt in Stores.
    name: String,
    /// Poured or weighed.
    form: FeedForm,
    /// mL or g in a litre.
    per_l: f64,
}

impl From<Line> for BenchLine {
    fn from(line: Line) -> Self {
        Self {
            name: line.name,
            form: line.form,
            per_l: line.per_l,
        }
    }
}

/// What stands on the bench.
#[derive(Deserialize, ToSchema)]
pub(crate) struct BenchSent {
    /// Lines of the recipe.
    lines: Vec<BenchLine>,
    /// Name of the water in Stores; empty for nothing in it.
    #[serde(default)]
    water: String,
    /// Name of the target profile in Stores; empty for none.
    #[serde(default)]
    target: String,
    /// Litres to make.
    volume_l: f64,
    /// Temperature of the solution, °C; 25 where left out.
    #[serde(default)]
    temperature_c: Option<f64>,
    /// Strength of concentrates, times the solution.
    #[serde(default)]
    stock_times: Option<f64>,
}

/// What the bench shows.
#[derive(Serialize, ToSchema)]
pub(crate) struct BenchAnswer {
    /// The columns and the tank.
    #[serde(flatten)]
    view: BenchView,
    /// The recipe as Stores keep it.
    lines_text: String,
}

/// Doses for a target.
#[derive(Serialize, ToSchema)]
pub(crate) struct AimAnswer {
    /// The lines with their doses.
    lines: Vec<BenchLine>,
    /// How close they come, and what is missed and why.
    aim: Aim,
}

fn refused(error: BenchError) -> Problem {
    Problem::refused(error.field, error.why)
}

impl BenchSent {
    fn bench(self) -> Result<Bench, Problem> {
        if self.lines.len() > lines::MOST_LINES {
            return Err(Problem::refused(
                "lines",
                lines::LinesError::Many(self.lines.len()).to_string(),
            ));
        }
        for (i, line) in self.lines.iter().enumerate() {
            if !(0.0..=lines::MOST_PER_L).contains(&line.per_l) {
                let error = lines::LinesError::Amount {
                    name: line.name.clone(),
                    got: line.per_l.to_string(),
                };
                return Err(Problem::refused(format!("lines[{i}]"), error.to_string()));
            }
        }
        let lines = self.lines.into_iter().map(|l| Line {
            per_l: l.per_l,
            form: l.form,
            name: l.name,
        });
        Ok(Bench {
            lines: lines.collect(),
            water: self.water,
            target: self.target,
            volume_l: self.volume_l,
            temperature_c: self.temperature_c.unwrap_or(25.0),
            stock_times: self.stock_times,
        })
    }
}

/// What to put onto the bench.
#[derive(Deserialize, IntoParams)]
pub(crate) struct StartQuery {
    /// Name of a recipe, feed, additive or salt in Stores.
    name: String,
}

/// The lines that a name of Stores stands for.
#[utoipa::path(get, operation_id = "bench_lines", path = "/bench/lines", params(StartQuery),
    responses((status = 200, body = Vec<BenchLine>), (status = 404, body = Problem)))]
pub(crate) async fn start(
    State(app): State<App>,
    Query(query): Query<StartQuery>,
) -> Result<Json<Vec<BenchLine>>, Problem> {
    app.run(move |store| {
        let found = store.shelves()?.lines(query.name.trim());
        let found = found.ok_or_else(|| {
            Problem::not_found(format!("Stores know nothing called '{}'.", query.name))
        })?;
        Ok(Json(found.into_iter().map(BenchLine::from).collect()))
    })
    .await
}

/// What a recipe brings, and what the tank then holds.
#[utoipa::path(post, operation_id = "bench_view", path = "/bench", request_body = BenchSent,
    responses((status = 200, body = BenchAnswer), (status = 422, body = Problem)))]
pub(crate) async fn view(
    State(app): State<App>,
    sent: Sent<BenchSent>,
) -> Result<Json<BenchAnswer>, Problem> {
    app.run(move |store| {
        let bench = sent.body.bench()?;
        let view = bench.view(&store.shelves()?).map_err(refused)?;
        Ok(Json(BenchAnswer {
            view,
            lines_text: lines::write(&bench.lines),
        }))
    })
    .await
}

/// The doses that come closest to the target.
#[utoipa::path(post, operation_id = "bench_aim", path = "/bench/aim", request_body = BenchSent,
    responses((status = 200, body = AimAnswer), (status = 422, body = Problem)))]
pub(crate) async fn aim(
    State(app): State<App>,
    sent: Sent<BenchSent>,
) -> Result<Json<AimAnswer>, Problem> {
    app.run(move |store| {
        let (lines, aim) = sent.body.bench()?.aim(&store.shelves()?).map_err(refused)?;
        Ok(Json(AimAnswer {
            lines: lines.into_iter().map(BenchLine::from).collect(),
            aim,
        }))
    })
    .await
}
