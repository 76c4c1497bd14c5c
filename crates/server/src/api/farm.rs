//! Whose trials these are, and what the program knows of measures, conditions and readings.

use crate::app::App;
use crate::clock::{is_zone, machine_zone, today};
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::State;
use iron_twin_core::catalogue::conditions;
use iron_twin_core::catalogue::measures;
use iron_twin_core::catalogue::measures::Measure;
use iron_twin_core::catalogue::own::OwnMeasure;
use iron_twin_core::catalogue::readings;
use iron_twin_core::catalogue::readings::Reading;
use iron_twin_core::stores::prices::Prices;
use iron_twin_core::stores::shelves::of_condition;
use iron_twin_core::trial::question::{Ask, MOST_SAMPLES};
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::space::error::{MOST_LETTERS, MOST_LEVELS, MOST_SLOTS};
use iron_twin_store::{Farm, Store};
use iron_twin_terms::quantity::Margin;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// The farm.
#[derive(Serialize, ToSchema)]
pub(crate) struct FarmView {
    /// Name.
    name: String,
    /// The farm's date today, `YYYY-MM-DD`.
    today: String,
    /// Its time zone by its IANA name; empty until somebody says it, and then that of this computer
    /// counts.
    zone: String,
    /// The time zone of the computer on which the program runs; empty where the system does not
    /// say.
    machine_zone: String,
    /// Version of the program.
    version: &'static str,
}

fn view(store: &Store) -> Result<FarmView, Problem> {
    let farm = store.farm()?;
    let today = today(&farm).to_string();
    let (name, zone) = (farm.name, farm.zone);
    Ok(FarmView {
        name,
        today,
        zone,
        machine_zone: machine_zone(),
        version: env!("CARGO_PKG_VERSION"),
    })
}

/// Longest name of a farm.
const MOST_NAME: usize = 60;

/// Name and time zone of the farm.
#[derive(Deserialize, ToSchema)]
pub(crate) struct FarmSent {
    /// Name.
    name: String,
    /// IANA name of its time zone, such as `Europe/Vienna`; empty for that of this computer.
    zone: String,
}

/// Sets name and time zone: a day of every trial begins at midnight there.
#[utoipa::path(
    put,
    operation_id = "farm_put",
    path = "/farm",
    request_body = FarmSent,
    responses(
        (status = 200, body = FarmView),
        (status = 403, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put(
    State(app): State<App>,
    sent: Sent<FarmSent>,
) -> Result<Json<FarmView>, Problem> {
    app.run(move |store| {
        let (name, zone) = (
            sent.body.name.trim().to_owned(),
            sent.body.zone.trim().to_owned(),
        );
        if name.is_empty() || name.chars().count() > MOST_NAME {
            return Err(Problem::refused(
                "name",
                format!("a name has 1 to {MOST_NAME} letters"),
            ));
        }
        if !zone.is_empty() && !is_zone(&zone) {
            return Err(Problem::refused(
                "zone",
                format!("'{zone}' is no time zone such as Europe/Vienna"),
            ));
        }
        store.set_farm(&sent.stamp, &Farm { name, zone })?;
        Ok(Json(view(store)?))
    })
    .await
}

/// Name and date of the farm.
#[utoipa::path(
    get,
    operation_id = "farm_farm",
    path = "/farm",
    responses((status = 200, body = FarmView)),
)]
pub(crate) async fn farm(State(app): State<App>) -> Result<Json<FarmView>, Problem> {
    app.run(|store| Ok(Json(view(store)?))).await
}

/// What money is counted in, and what electricity and an hour of work cost.
#[utoipa::path(
    get,
    operation_id = "farm_prices",
    path = "/farm/prices",
    responses((status = 200, body = Prices)),
)]
pub(crate) async fn prices(State(app): State<App>) -> Result<Json<Prices>, Problem> {
    app.run(|store| Ok(Json(store.prices()?))).await
}

/// Sets them.
#[utoipa::path(
    put,
    operation_id = "farm_put_prices",
    path = "/farm/prices",
    request_body = Prices,
    responses(
        (status = 200, body = Prices),
        (status = 403, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_prices(
    State(app): State<App>,
    sent: Sent<Prices>,
) -> Result<Json<Prices>, Problem> {
    app.run(move |store| {
        let prices = Prices {
            currency: sent.body.currency.trim().to_owned(),
            ..sent.body
        };
        store.set_prices(&sent.stamp, &prices)?;
        Ok(Json(store.prices()?))
    })
    .await
}

/// A row of the match sheet.
#[derive(Serialize, ToSchema)]
pub(crate) struct ConditionView {
    /// Stable key.
    key: &'static str,
    /// As a grower says it.
    name: &'static str,
    /// Unit; empty for words.
    unit: &'static str,
    /// Conditions of one factor count as one difference.
    factor: &'static str,
    /// What a new sheet holds.
    usual: &'static str,
    /// Whether most trials say something about it.
    common: bool,
    /// The shelf whose entries its cells name; empty for none.
    shelf: &'static str,
}

/// What the program knows.
#[derive(Serialize, ToSchema)]
pub(crate) struct Catalogue {
    /// Measures of plants.
    measures: Vec<Measure>,
    /// Rows of the match sheet.
    conditions: Vec<ConditionView>,
    /// Readings at the shelf.
    readings: Vec<Reading>,
    /// What fields take at most, and what stands in them first.
    limits: Limits,
}

/// What fields take at most, and what stands in them first.
#[derive(Serialize, ToSchema)]
pub(crate) struct Limits {
    /// Levels of a grow space.
    levels: u32,
    /// Slots of a level.
    slots: u32,
    /// Letters in the name or crop of a level.
    level_letters: usize,
    /// Letters in a line of a site card.
    card_letters: usize,
    /// Samples followed inside a unit.
    samples: u32,
    /// Margin of a new question, per cent of the control.
    margin_percent: f64,
    /// Margin of a new question on grades, of 1 pairing: 60 of 100 instead of 50.
    margin_pairings: f64,
}

fn limits() -> Limits {
    let margin_percent = match Ask::default().margin {
        Margin::Percent(percent) => percent,
        Margin::Absolute(_) => 0.0,
    };
    Limits {
        levels: MOST_LEVELS,
        slots: MOST_SLOTS,
        level_letters: MOST_LETTERS,
        card_letters: SiteCard::MOST_LETTERS,
        samples: MOST_SAMPLES,
        margin_percent,
        margin_pairings: 0.1,
    }
}

/// Measures, those of the grower's own in any trial among them, conditions and readings.
#[utoipa::path(
    get,
    operation_id = "farm_catalogue",
    path = "/catalogue",
    responses((status = 200, body = Catalogue)),
)]
pub(crate) async fn catalogue(State(app): State<App>) -> Result<Json<Catalogue>, Problem> {
    let conditions = conditions::ALL
        .iter()
        .map(|c| ConditionView {
            key: c.key,
            name: c.name,
            unit: c.unit,
            factor: c.factor,
            usual: c.usual,
            common: c.common,
            shelf: of_condition(c.key).map_or("", |s| s.key),
        })
        .collect();
    let own = app.run(move |store| Ok(store.own_measures()?)).await?;
    let own_measures = own.iter().filter_map(|key| measures::own::find(key));
    let own_readings = own.iter().filter_map(|key| readings::own::find(key));
    Ok(Json(Catalogue {
        measures: measures::ALL
            .into_iter()
            .chain(own_measures)
            .copied()
            .collect(),
        conditions,
        readings: readings::ALL
            .into_iter()
            .chain(own_readings)
            .copied()
            .collect(),
        limits: limits(),
    }))
}

/// Works out a measure of a grower's own: its key tells all of it, and stands among what a trial
/// records.
#[utoipa::path(
    post,
    operation_id = "farm_own_measure",
    path = "/own-measures",
    request_body = OwnMeasure,
    responses((status = 200, body = Measure), (status = 422, body = Problem)),
)]
pub(crate) async fn own_measure(Json(own): Json<OwnMeasure>) -> Result<Json<Measure>, Problem> {
    let own = own
        .checked()
        .map_err(|(field, why)| Problem::refused(field, why))?;
    let found = measures::own::find(&own.key());
    found
        .copied()
        .map(Json)
        .ok_or_else(|| Problem::refused("name", "there are too many measures already"))
}
