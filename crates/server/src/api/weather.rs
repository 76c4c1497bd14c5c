//! The weather outdoors, day by day, and what the grower says to findings of the ledger.

use crate::app::App;
use crate::clock::day_at;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::weather::Weather;
use iron_twin_core::trial::records::Recorded;
use jiff::Timestamp;
use serde::Serialize;
use utoipa::ToSchema;

/// The weather of a day.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct WeatherDay {
    /// The day, counted from sowing.
    day: u32,
    /// Rain, mm.
    rain_mm: Option<f64>,
    /// Lowest temperature, °C.
    low_c: Option<f64>,
    /// Highest temperature, °C.
    high_c: Option<f64>,
    /// Who entered it.
    who: String,
}

/// The weather of the round a trial is in.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct WeatherView {
    /// Whether it stands outdoors.
    outdoors: bool,
    /// Days since sowing; null before it.
    today: Option<u32>,
    /// Days of which it is known, newest first.
    days: Vec<WeatherDay>,
}

fn view(trial: &Trial, today: Option<u32>) -> WeatherView {
    let own = trial
        .records
        .weather()
        .iter()
        .rev()
        .filter(|w| w.head.round == trial.round);
    let day = |w: &Recorded<Weather>| WeatherDay {
        day: w.head.day,
        rain_mm: w.rain_mm,
        low_c: w.low_c,
        high_c: w.high_c,
        who: w.head.who.to_string(),
    };
    WeatherView {
        outdoors: trial.plan.rack.kind == SpaceKind::Sites,
        today,
        days: own.map(day).collect(),
    }
}

/// The weather of a trial outdoors.
#[utoipa::path(
    get,
    operation_id = "weather_get",
    path = "/trials/{id}/weather",
    params(("id" = String, Path)),
    responses((status = 200, body = WeatherView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<WeatherView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let today = day_at(store, &id, Timestamp::now()).ok().flatten();
        Ok(Json(view(&trial, today)))
    })
    .await
}
