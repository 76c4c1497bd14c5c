//! Tend: the record grid under blind codes, notes, and work done.

use super::samples::{GoneView, gone_view};
use crate::access::Who;
use crate::api::trials::current;
use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::{TrialView, UnitView, units};
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::readings::{
    Anchor, Reading, is_after_cut, is_of_solution, is_of_unit,
};
use iron_twin_core::tend::due::due_now;
use iron_twin_core::tend::schedule::Due;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::records::{CropNumber, ReadingRecord, SampleNumber};
use iron_twin_terms::indices::UnitIndex;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A column of the grid: a reading, of the unit or of one of the crops that share it.
#[derive(Serialize, ToSchema)]
pub(crate) struct Column {
    #[serde(flatten)]
    reading: Reading,
    /// Crop inside the unit; null for the unit as a whole.
    crop: Option<CropNumber>,
    /// Its name; null for the unit as a whole.
    crop_name: Option<String>,
    /// Whether it is of the unit as a whole, whatever crops and samples stand in it.
    of_unit: bool,
    /// Whether it is taken of what was cut, after the cut.
    after_cut: bool,
    /// What its grades stand for; empty where it has none.
    anchors: Vec<Anchor>,
}

/// One cell of the grid.
#[derive(Serialize, ToSchema)]
pub(crate) struct Cell {
    /// Key of the reading.
    reading: &'static str,
    /// Value of the day; null where none was taken.
    value: Option<f64>,
    /// Whether it was looked for and marked as missing.
    missing: bool,
    /// Version to send back; 0 where nothing stands.
    version: i64,
    /// The value before, with its day.
    previous: Option<f64>,
    /// Day of the value before.
    previous_day: Option<u32>,
    /// How many readings stand on the day; the last is shown.
    times: usize,
    /// Below this a value is asked about.
    asked_below: f64,
    /// Above this a value is asked about.
    asked_above: f64,
    /// Whether something stands here that is kept from who grades: it would tell them what they
    /// grade.
    hidden: bool,
}

/// One row of the grid.
#[derive(Serialize, ToSchema)]
pub(crate) struct GridRow {
    /// The unit.
    unit: UnitView,
    /// Which of its samples, where they are followed; null for the unit as a whole.
    sample: Option<SampleNumber>,
    /// Why it is not there on this day; null for one that stands.
    gone: Option<GoneView>,
    /// One cell a reading, in the order of `readings`; null where the reading is of the whole unit
    /// and stands with its first sample.
    cells: Vec<Option<Cell>>,
}

/// A note.
#[derive(Serialize, ToSchema)]
pub(crate) struct NoteView {
    /// Code of the unit; null for the whole trial.
    code: Option<String>,
    /// Days since sowing.
    day: u32,
    /// What was seen.
    text: String,
}

/// Work of one kind, as often as it was done.
#[derive(Serialize, ToSchema)]
pub(crate) struct DoneView {
    /// What.
    job: Job,
    /// In the grower's words.
    label: &'static str,
    /// The days on which it was, one for each time.
    days: Vec<u32>,
}

/// Work done in the round that the trial is in, in the order in which each kind was first done.
fn done(trial: &Trial) -> Vec<DoneView> {
    let mut list: Vec<DoneView> = Vec::new();
    for (job, day) in trial.work_done().jobs {
        match list.iter_mut().find(|own| own.job == job) {
            Some(own) => own.days.push(day),
            None => list.push(DoneView {
                job,
                label: job.label(),
                days: vec![day],
            }),
        }
    }
    list
}

/// The Tend station on one day.
#[derive(Serialize, ToSchema)]
pub(crate) struct TendView {
    /// Day shown.
    day: Option<u32>,
    /// Day it is.
    today: Option<u32>,
    /// What is due now.
    due: Vec<Due>,
    /// Readings that the trial's measures need, beside pH and EC.
    readings: Vec<Column>,
    /// Whether earlier readings of the solution are kept from who asks, until the key is open: they
    /// tell who is fed, and this trial is graded by eye.
    solution_kept: bool,
    /// Units in walking order.
    rows: Vec<GridRow>,
    /// Notes, newest first.
    notes: Vec<NoteView>,
    /// Work done since sowing, kind by kind.
    done: Vec<DoneView>,
}

/// Last day that can be asked for: ten years and more.
const MOST_DAY: u32 = 4000;

/// Which day to show.
#[derive(Deserialize, IntoParams)]
pub(crate) struct TendQuery {
    /// Days since sowing; today where left out.
    #[param(maximum = 4000)]
    day: Option<u32>,
}

/// Who looks at the grid.
struct Eyes<'a> {
    who: &'a str,
    /// Whether they are shown what others read of the solution, and what was read on other days.
    solution: bool,
    /// Whether the day shown is the day it is.
    today: bool,
}

/// The cells of a row, as somebody may see them: of the solution, where it is kept from them, what
/// they read themselves today.
fn cells(
    trial: &Trial,
    (unit, sample): (UnitIndex, Option<SampleNumber>),
    day: u32,
    eyes: &Eyes<'_>,
) -> Vec<Option<Cell>> {
    trial
        .plan
        .ask
        .columns()
        .into_iter()
        .map(|(reading, crop)| {
            let of = sample.filter(|_| trial.plan.ask.is_by_sample(reading.key));
            if of.is_none() && sample.is_some_and(|s| s.get() > 1) {
                return None;
            }
            let is_own = |r: &&ReadingRecord| {
                (r.head.crop, r.head.sample, r.reading) == (crop, of, reading.key)
            };
            let mut own = trial.of_unit(unit).readings.iter().filter(is_own);
            // Of several on one day the last is shown.
            let here = own.clone().rfind(|r| r.head.day == day);
            let kept = !eyes.solution && is_of_solution(reading.key);
            let hidden = kept && here.is_some_and(|r| !eyes.today || &*r.head.who != eyes.who);
            let times = own.clone().filter(|r| r.head.day == day).count();
            let before = own
                .rfind(|r| r.head.day < day && r.value.is_some())
                .filter(|_| !kept);
            let (asked_below, asked_above) = reading.unasked(before.and_then(|r| r.value));
            Some(Cell {
                times,
                asked_below,
                asked_above,
                reading: reading.key,
                value: here.and_then(|r| r.value).filter(|_| !hidden),
                missing: here.is_some_and(|r| r.value.is_none()) && !hidden,
                hidden,
                version: here.map_or(0, |r| r.head.version),
                previous: before.and_then(|r| r.value),
                previous_day: before.map(|r| r.head.day),
            })
        })
        .collect()
}

/// The record grid of a day.
#[utoipa::path(
    get,
    operation_id = "tend_get",
    path = "/trials/{id}/tend",
    params(("id" = String, Path), TendQuery),
    responses(
        (status = 200, body = TendView),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(query): Query<TendQuery>,
) -> Result<Json<TendView>, Problem> {
    if query.day.is_some_and(|day| day > MOST_DAY) {
        return Err(Problem::refused(
            "day",
            format!("a trial has at most {MOST_DAY} days"),
        ));
    }
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let date = today(&store.farm()?);
        let now = trial.day(date);
        let day = query.day.or(now).map(|d| d.min(now.unwrap_or(0)));
        let solution = trial.shows_solution(&who.name);
        let eyes = Eyes {
            who: &who.name,
            solution,
            today: day == now,
        };
        let rows = grid(&trial, day.unwrap_or(0), &eyes);
        let notes = notes(&trial);
        Ok(Json(TendView {
            day,
            today: now,
            due: due_now(&trial, date),
            readings: trial
                .plan
                .ask
                .columns()
                .into_iter()
                .map(|(reading, crop)| Column {
                    reading: *reading,
                    crop,
                    crop_name: trial.plan.ask.crop_inside(crop).map(str::to_owned),
                    of_unit: is_of_unit(reading.key),
                    after_cut: is_after_cut(reading.key),
                    anchors: reading.anchors(),
                })
                .collect(),
            solution_kept: !solution,
            rows,
            notes,
            done: done(&trial),
        }))
    })
    .await
}

/// A row for every unit that stands there now, or for every sample in it, as one walks.
fn grid(trial: &Trial, day: u32, eyes: &Eyes<'_>) -> Vec<GridRow> {
    let mut rows: Vec<GridRow> = units(trial)
        .into_iter()
        .zip(trial.unit_indices())
        .filter(|(unit, _)| unit.now)
        .flat_map(|(unit, index)| {
            trial
                .plan
                .ask
                .samples()
                .map(move |sample| (index, unit.clone(), sample))
        })
        .map(|(index, unit, sample)| GridRow {
            gone: gone_view(trial, index, sample, day),
            cells: cells(trial, (index, sample), day, eyes),
            unit,
            sample,
        })
        .collect();
    rows.sort_by_key(|r| (r.unit.walk, r.sample));
    rows
}

/// What was noted in this round, latest first.
fn notes(trial: &Trial) -> Vec<NoteView> {
    trial
        .records
        .notes()
        .iter()
        .rev()
        .filter(|n| n.head.round == trial.round)
        .map(|n| NoteView {
            code: n.unit.map(|u| trial.units[u].code.clone()),
            day: n.head.day,
            text: n.text.clone(),
        })
        .collect()
}

/// The care plan as changed.
#[derive(Deserialize, ToSchema)]
pub(crate) struct CareSent {
    /// When the recurring work falls.
    care: CarePlan,
    /// Version on which the change was made.
    version: i64,
}

/// Sets when the recurring work falls.
#[utoipa::path(
    put,
    operation_id = "tend_put_care",
    path = "/trials/{id}/care",
    params(("id" = String, Path)),
    request_body = CareSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_care(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<CareSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_care(&sent.stamp, &id, &sent.body.care, sent.body.version)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}
