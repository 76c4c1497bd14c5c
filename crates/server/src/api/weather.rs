//! The weather outdoors, day by day, and what the grower says to findings of the ledger.

use crate::app::App;
use crate::clock::day_at;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::ledger::rules;
use iron_twin_core::trial::Trial;
use iron_twin_store::weather::NewWeather;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
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
    let own = trial.records.weather.iter().rev().filter(|w| w.head.round == trial.round);
    let day = |w: &iron_twin_core::trial::records::WeatherRecord| WeatherDay {
        day: w.head.day,
        rain_mm: w.rain_mm,
        low_c: w.low_c,
        high_c: w.high_c,
        who: w.head.who.to_string(),
    };
    WeatherView { outdoors: trial.plan.rack.kind == SpaceKind::Sites, today, days: own.map(day).collect() }
}

/// The weather of a trial outdoors.
#[utoipa::path(get, operation_id = "weather_get", path = "/trials/{id}/weather", params(("id" = String, Path)),
    responses((status = 200, body = WeatherView), (status = 404, body = Problem)))]
pub(crate) async fn get(State(app): State<App>, Path(id): Path<String>) -> Result<Json<WeatherView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let today = day_at(store, &id, Timestamp::now()).ok().flatten();
        Ok(Json(view(&trial, today)))
    })
    .await
}

/// The weather of a day as it is entered.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct WeatherSent {
    /// The day, counted from sowing; today where left out.
    #[serde(default)]
    day: Option<u32>,
    /// Rain, mm.
    #[serde(default)]
    rain_mm: Option<f64>,
    /// Lowest temperature, °C.
    #[serde(default)]
    low_c: Option<f64>,
    /// Highest temperature, °C.
    #[serde(default)]
    high_c: Option<f64>,
}

/// Enters the weather of a day, or puts what it was in place of what stood there.
#[utoipa::path(post, operation_id = "weather_enter", path = "/trials/{id}/weather", params(("id" = String, Path)),
    request_body = WeatherSent,
    responses((status = 200, body = WeatherView), (status = 404, body = Problem), (status = 409, body = Problem),
        (status = 422, body = Problem)))]
pub(crate) async fn enter(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<WeatherSent>,
) -> Result<Json<WeatherView>, Problem> {
    app.run(move |store| {
        let today =
            day_at(store, &id, sent.stamp.now)?.ok_or_else(|| Problem::locked("Sow first: days count from sowing."))?;
        let WeatherSent { day, rain_mm, low_c, high_c } = sent.body;
        let day = day.unwrap_or(today);
        if day > today {
            return Err(Problem::refused(
                "day",
                format!("it is day {today}; the weather of day {day} is still to come"),
            ));
        }
        store.record_weather(&sent.stamp, &id, &NewWeather { day, rain_mm, low_c, high_c, at: sent.stamp.now })?;
        let trial = store.trial(&id)?;
        Ok(Json(view(&trial, Some(today))))
    })
    .await
}

/// What is said to a finding.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct AnswerSent {
    /// In the grower's words; empty takes away what was said before.
    #[schema(max_length = 400)]
    text: String,
}

/// Answers a finding of the fairness ledger. The finding stands, and the answer beside it: here, at Judge and in the report.
#[utoipa::path(put, operation_id = "findings_answer", path = "/trials/{id}/findings/{code}/answer",
    params(("id" = String, Path), ("code" = String, Path)), request_body = AnswerSent,
    responses((status = 204), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn answer(
    State(app): State<App>,
    Path((id, code)): Path<(String, String)>,
    sent: Sent<AnswerSent>,
) -> Result<axum::http::StatusCode, Problem> {
    app.run(move |store| {
        if !rules::ALL.iter().any(|rule| rule.code == code) {
            return Err(Problem::refused("code", "the ledger has no such finding"));
        }
        store.answer_finding(&sent.stamp, &id, &code, &sent.body.text)?;
        Ok(axum::http::StatusCode::NO_CONTENT)
    })
    .await
}
