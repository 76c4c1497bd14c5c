//! Weigh: the harvest, tray by tray under blind codes.

use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::stores::Stores;
use iron_twin_core::stores::keys;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::pick::Pick;
use iron_twin_core::trial::record::weighing::Turn;
use iron_twin_core::trial::records::{CropNumber, Recorded, SampleNumber};
use iron_twin_core::trial::waves::Waves;
use iron_twin_core::weigh::order::shuffled;
use iron_twin_terms::indices::UnitIndex;
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
    /// All that was picked of it so far; null where it is not harvested in waves.
    picked: Option<PickedView>,
    /// Why it was written off.
    lost: Option<String>,
    /// The day since sowing on which it was lost.
    lost_day: Option<u32>,
}

/// What was picked of a unit on one day, of one grade.
#[derive(Serialize, ToSchema)]
pub(crate) struct PickView {
    /// Days since sowing.
    day: u32,
    /// Net, g; 0 where nothing was ripe.
    net_g: f64,
    /// Pieces; null where they were not counted.
    pieces: Option<u32>,
    /// Grade; empty where it was not sorted.
    grade: String,
    /// Whether it was taken outside a wave.
    aside: bool,
}

/// All that was picked of a unit so far.
#[derive(Serialize, ToSchema)]
pub(crate) struct PickedView {
    /// g.
    g: f64,
    /// Pieces; null where some were not counted.
    pieces: Option<u32>,
    /// Average weight of a piece, g.
    piece_g: Option<f64>,
    /// What it brings; null where a price is missing.
    value: Option<f64>,
    /// Whether it was looked at in the wave of today.
    today: bool,
    /// Each pick, oldest first.
    picks: Vec<PickView>,
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
    /// How it is harvested in waves; null for one harvest at the end.
    waves: Option<Waves>,
    /// Days of waves so far.
    wave_days: Vec<u32>,
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
    let mut order: Vec<UnitIndex> = trial
        .unit_indices()
        .filter(|&i| trial.is_now(&trial.units[i]))
        .collect();
    if turn == Turn::Shuffled {
        let codes: Vec<&str> = order
            .iter()
            .map(|&i| trial.units[i].code.as_str())
            .collect();
        return shuffled(&trial.id, trial.round, &codes)
            .into_iter()
            .map(|place| order[place])
            .collect();
    }
    let walk = iron_twin_core::place::walk::places(trial);
    order.sort_by_key(|&i| walk[i]);
    order
}

/// Containers of the trial whose empty weight stands in Stores.
fn tares(trial: &Trial, stores: &Stores) -> Vec<TareView> {
    let mut found: Vec<TareView> = Vec::new();
    for name in trial
        .plan
        .sheet
        .indices()
        .filter_map(|t| trial.plan.sheet.value(t, "container"))
    {
        let g = stores
            .find("containers", name)
            .and_then(|item| item.number(keys::TARE_G));
        if let Some(g) = g.filter(|_| found.iter().all(|t| t.name != name)) {
            found.push(TareView {
                name: name.to_owned(),
                g,
            });
        }
    }
    found
}

/// What was picked of one of its parts so far.
fn picked(
    trial: &Trial,
    unit: UnitIndex,
    crop: Option<CropNumber>,
    today: Option<u32>,
) -> PickedView {
    let sum = trial.yield_by(unit, crop, u32::MAX);
    let own = || trial.picks_of(unit, crop);
    let view = |p: &Recorded<Pick>| PickView {
        day: p.head.day,
        net_g: p.net_g(),
        pieces: p.pieces,
        grade: p.grade.clone(),
        aside: p.aside,
    };
    PickedView {
        g: sum.g,
        pieces: sum.pieces,
        piece_g: sum.piece_g(),
        value: sum.value,
        today: own().any(|p| !p.aside && Some(p.head.day) == today),
        picks: own().map(view).collect(),
    }
}

/// What is to be weighed of a unit, and what was.
fn weigh_row(
    trial: &Trial,
    (i, crop, sample): (UnitIndex, Option<CropNumber>, Option<SampleNumber>),
    place: String,
    picked: Option<PickedView>,
) -> WeighRow {
    let weighing = trial.of_unit(i).weighed(crop, sample);
    let unit = &trial.units[i];
    WeighRow {
        code: unit.code.clone(),
        crop,
        crop_name: trial.plan.ask.crop_inside(crop).map(str::to_owned),
        sample,
        place,
        gross_g: weighing.map(|w| w.gross_g),
        tare_g: weighing.map(|w| w.tare_g),
        net_g: weighing.map(|w| w.net_g()),
        version: weighing.map_or(0, |w| w.head.version),
        picked,
        lost: unit.lost.as_ref().map(|l| l.reason.clone()),
        lost_day: unit.lost.as_ref().and_then(|l| l.day),
    }
}

fn view(trial: &Trial, stores: &Stores, day: Option<u32>, turn: Turn) -> WeighView {
    let stands = iron_twin_core::place::walk::stands(trial);
    let order = in_turn(trial, turn);
    let waves = trial.plan.ask.waves.is_some();
    let rows: Vec<WeighRow> = order
        .into_iter()
        .flat_map(|i| trial.weighed_parts(i).map(move |part| (i, part)))
        .map(|(i, (crop, sample))| {
            let place = trial.plan.rack.place_name(stands[i]);
            let picked = waves.then(|| picked(trial, i, crop, day));
            weigh_row(trial, (i, crop, sample), place, picked)
        })
        .collect();
    // In waves the next is that which was not looked at today.
    let open = |r: &&WeighRow| match &r.picked {
        Some(picked) => !picked.today && r.net_g.is_none(),
        None => r.net_g.is_none(),
    };
    let next = rows.iter().find(|r| r.lost.is_none() && open(r));
    let nets = || {
        rows.iter()
            .filter_map(|r| r.net_g.or_else(|| r.picked.as_ref().map(|p| p.g)))
    };
    let last = last_tare(trial);
    WeighView {
        next: next.map(|r| r.code.clone()),
        next_crop: next.and_then(|r| r.crop),
        next_sample: next.and_then(|r| r.sample),
        weighed: rows.iter().filter(|r| !open(r) && r.lost.is_none()).count(),
        total_g: nets().sum(),
        least_g: nets().reduce(f64::min),
        most_g: nets().reduce(f64::max),
        last_tare_g: last,
        ripe: day.is_some_and(|d| d >= trial.plan.ask.end_day),
        tares: tares(trial, stores),
        waves: trial.plan.ask.waves.clone(),
        wave_days: trial.wave_days(),
        turn,
        rows,
    }
}

/// The tare of what was weighed last; where nothing was ripe nothing was weighed.
fn last_tare(trial: &Trial) -> Option<f64> {
    let all = trial
        .unit_indices()
        .flat_map(|unit| trial.of_unit(unit).weighings());
    let weighed = all.map(|w| (w.head.at, w.tare_g));
    let picked = trial.records.picks().iter().filter(|p| p.net_g() > 0.0);
    weighed
        .chain(picked.map(|p| (p.head.at, p.tare_g)))
        .max_by_key(|(at, _)| *at)
        .map(|(_, tare_g)| tare_g)
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
#[utoipa::path(
    get,
    operation_id = "weigh_get",
    path = "/trials/{id}/weigh",
    params(("id" = String, Path), InTurn),
    responses((status = 200, body = WeighView), (status = 404, body = Problem)),
)]
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
