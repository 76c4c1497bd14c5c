//! Weigh: the harvest, tray by tray under blind codes.

use crate::api::tend::Written;
use crate::app::App;
use crate::clock::{day_at, done_at, today};
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::stores::Stores;
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::{CropNumber, SampleNumber};
use iron_twin_core::weigh::order::{Turn, shuffled};
use iron_twin_store::weigh::NewWeighing;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// One tray of the harvest.
#[derive(Serialize, ToSchema)]
pub(crate) struct WeighRow {
    /// Blind code.
    code: String,
    /// Crop inside the unit; null for the unit as a whole.
    crop: Option<CropNumber>,
    /// Its name; null for the unit as a whole.
    crop_name: Option<String>,
    /// Sample inside the unit, where they are weighed one by one; null for the unit as a whole.
    sample: Option<SampleNumber>,
    /// Where it stands, in words: `level 2, slot 3`.
    place: String,
    /// Gross, g.
    gross_g: Option<f64>,
    /// Tare, g.
    tare_g: Option<f64>,
    /// Net, g.
    net_g: Option<f64>,
    /// Version to send back; 0 where nothing stands.
    version: i64,
    /// Why it was written off.
    lost: Option<String>,
    /// The day since sowing on which it was lost.
    lost_day: Option<u32>,
}

/// A container whose empty weight is known.
#[derive(Serialize, ToSchema)]
pub(crate) struct TareView {
    /// Its name in Stores.
    name: String,
    /// Empty weight, g.
    g: f64,
}

/// The harvest so far.
#[derive(Serialize, ToSchema)]
pub(crate) struct WeighView {
    /// What is weighed, in the order in which it comes to the scale.
    rows: Vec<WeighRow>,
    /// Which order that is.
    turn: Turn,
    /// Containers whose empty weight is known.
    tares: Vec<TareView>,
    /// Code of the tray to weigh next, in that order.
    next: Option<String>,
    /// Which of its crops; null for the unit as a whole.
    next_crop: Option<CropNumber>,
    /// Which of its samples; null for the unit as a whole.
    next_sample: Option<SampleNumber>,
    /// Trays weighed.
    weighed: usize,
    /// Everything cut so far, g.
    total_g: f64,
    /// Lightest so far, g.
    least_g: Option<f64>,
    /// Heaviest so far, g.
    most_g: Option<f64>,
    /// Tare of the last tray, g: the usual one.
    last_tare_g: Option<f64>,
    /// Whether the planned day has come.
    ripe: bool,
}

/// Units of the round in the order in which they come to the scale.
fn in_turn(trial: &Trial, turn: Turn) -> Vec<UnitIndex> {
    let mut order: Vec<UnitIndex> = trial.unit_indices().filter(|&i| trial.is_now(&trial.units[i])).collect();
    if turn == Turn::Shuffled {
        let codes: Vec<&str> = order.iter().map(|&i| trial.units[i].code.as_str()).collect();
        return shuffled(&trial.id, trial.round, &codes).into_iter().map(|place| order[place]).collect();
    }
    let walk = crate::view::walk(trial);
    order.sort_by_key(|&i| walk[i]);
    order
}

/// Containers of the trial whose empty weight stands in Stores.
fn tares(trial: &Trial, stores: &Stores) -> Vec<TareView> {
    let mut found: Vec<TareView> = Vec::new();
    for name in trial.plan.sheet.indices().filter_map(|t| trial.plan.sheet.value(t, "container")) {
        let g = stores.find("containers", name).and_then(|item| item.number("tare_g"));
        if let Some(g) = g.filter(|_| found.iter().all(|t| t.name != name)) {
            found.push(TareView { name: name.to_owned(), g });
        }
    }
    found
}

fn view(trial: &Trial, stores: &Stores, day: Option<u32>, turn: Turn) -> WeighView {
    let stands = crate::view::stands(trial);
    let order = in_turn(trial, turn);
    let rows: Vec<WeighRow> = order
        .into_iter()
        .flat_map(|i| trial.weighed_parts(i).map(move |part| (i, part)))
        .map(|(i, (crop, sample))| {
            let weighing = trial.of_unit(i).weighed(crop, sample);
            let unit = &trial.units[i];
            WeighRow {
                code: unit.code.clone(),
                crop,
                crop_name: trial.plan.ask.crop_inside(crop).map(str::to_owned),
                sample,
                place: trial.plan.rack.place_name(stands[i]),
                gross_g: weighing.map(|w| w.gross_g),
                tare_g: weighing.map(|w| w.tare_g),
                net_g: weighing.map(|w| w.net_g),
                version: weighing.map_or(0, |w| w.head.version),
                lost: unit.lost.as_ref().map(|l| l.reason.clone()),
                lost_day: unit.lost.as_ref().and_then(|l| l.day),
            }
        })
        .collect();
    let next = rows.iter().find(|r| r.net_g.is_none() && r.lost.is_none());
    let nets = || rows.iter().filter_map(|r| r.net_g);
    let all = trial.unit_indices().flat_map(|unit| &trial.of_unit(unit).weighings);
    let last = all.max_by_key(|w| w.head.at);
    WeighView {
        next: next.map(|r| r.code.clone()),
        next_crop: next.and_then(|r| r.crop),
        next_sample: next.and_then(|r| r.sample),
        weighed: nets().count(),
        total_g: nets().sum(),
        least_g: nets().reduce(f64::min),
        most_g: nets().reduce(f64::max),
        last_tare_g: last.map(|w| w.tare_g),
        ripe: day.is_some_and(|d| d >= trial.plan.ask.end_day),
        tares: tares(trial, stores),
        turn,
        rows,
    }
}

/// The order that is asked for.
#[derive(Deserialize, IntoParams)]
#[into_params(parameter_in = Query)]
pub(crate) struct InTurn {
    /// In which order the units come; by chance where left out.
    #[serde(default)]
    turn: Turn,
}

/// The harvest so far.
#[utoipa::path(get, operation_id = "weigh_get", path = "/trials/{id}/weigh", params(("id" = String, Path), InTurn),
    responses((status = 200, body = WeighView), (status = 404, body = Problem)))]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
    Query(asked): Query<InTurn>,
) -> Result<Json<WeighView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let day = trial.day(today(&store.farm()?));
        Ok(Json(view(&trial, &store.shelves()?, day, asked.turn)))
    })
    .await
}

/// A weight as taken.
#[derive(Deserialize, ToSchema)]
pub(crate) struct WeighingSent {
    /// Code of the unit.
    code: String,
    /// Crop inside the unit; null for the unit as a whole.
    #[serde(default)]
    crop: Option<CropNumber>,
    /// Sample inside the unit, where they are weighed one by one; null for the unit as a whole.
    #[serde(default)]
    sample: Option<SampleNumber>,
    /// Gross, g.
    gross_g: f64,
    /// Tare, g.
    tare_g: f64,
    /// Whether an unlikely weight was confirmed.
    #[serde(default)]
    confirmed: bool,
    /// Version that is overwritten; 0 where nothing stood.
    version: i64,
    /// When it was taken (RFC 3339), which is kept where it arrives later; now where left out.
    #[serde(default)]
    #[schema(value_type = Option<String>)]
    at: Option<Timestamp>,
    /// Name of the scale it was taken from; null where it was typed.
    #[serde(default)]
    instrument: Option<String>,
    /// In which order the units came; null where nobody said.
    #[serde(default)]
    turn: Option<Turn>,
}

/// Longest name of an instrument.
const MOST_INSTRUMENT: usize = 60;

/// Records the weight of one tray, or corrects it.
#[utoipa::path(post, operation_id = "weigh_record", path = "/trials/{id}/weighings", params(("id" = String, Path)), request_body = WeighingSent,
    responses((status = 200, body = Written), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn record(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<WeighingSent>,
) -> Result<Json<Written>, Problem> {
    app.run(move |store| {
        let WeighingSent { code, crop, sample, gross_g, tare_g, confirmed, version, at, instrument, turn } = sent.body;
        if instrument.as_ref().is_some_and(|name| name.chars().count() > MOST_INSTRUMENT) {
            return Err(Problem::refused("instrument", "that is no name of an instrument"));
        }
        // The day on which it was weighed, however late it arrives.
        let at = done_at(at, sent.stamp.now);
        let day = day_at(store, &id, at)?.unwrap_or(0);
        let at = Some(at);
        let new = NewWeighing { code, crop, sample, gross_g, tare_g, day, confirmed, version, at, instrument, turn };
        Ok(Json(Written { version: store.record_weighing(&sent.stamp, &id, &new)? }))
    })
    .await
}
