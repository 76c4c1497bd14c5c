//! Tracks: each reading over the days, by code and, once the deal may be told, by treatment; and what loggers recorded.

use crate::access::Who;
use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::catalogue::logged::Logged;
use iron_twin_core::catalogue::readings::{Reading, is_of_solution};
use iron_twin_core::tend::logger::ProbeAt;
use iron_twin_core::tend::tracks::{
    Drift, DriftApart, Tick, UnitTrack, band, drifting, drifting_apart, means, ticks, unit_tracks, with_tracks,
};
use iron_twin_core::terms::indices::TreatmentIndex;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::CropNumber;
use iron_twin_store::series::Series;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Something that has tracks.
#[derive(Serialize, ToSchema)]
pub(crate) struct TrackKey {
    /// By which it is asked for: a reading, with `.2` behind it where it is of the second crop of a unit.
    key: String,
    /// As a grower says it.
    name: String,
    /// Unit; empty for pH and grades.
    unit: &'static str,
    /// Decimals shown.
    decimals: u32,
    /// Units that stand out of their siblings, and treatments that drift apart in it.
    outstanding: usize,
}

/// A quantity that loggers recorded.
#[derive(Serialize, ToSchema)]
pub(crate) struct LoggedKey {
    /// Which.
    quantity: Logged,
    /// As a grower says it.
    name: &'static str,
    /// Unit; empty for pH.
    unit: &'static str,
    /// Decimals shown.
    decimals: u32,
    /// Where, in words.
    places: Vec<String>,
}

/// What there are tracks of.
#[derive(Serialize, ToSchema)]
pub(crate) struct TracksView {
    /// Day up to which they can reach.
    until: u32,
    /// Readings, in the order of the grid.
    readings: Vec<TrackKey>,
    /// Quantities that loggers recorded.
    logged: Vec<LoggedKey>,
    /// What happened on which day.
    ticks: Vec<Tick>,
}

fn name_of(trial: &Trial, reading: &Reading, crop: Option<CropNumber>) -> String {
    let own = crop.and_then(|c| trial.plan.ask.crops_inside.get(c.index()));
    own.map_or_else(|| reading.name.to_owned(), |own| format!("{}, {own}", reading.name))
}

fn key_of(reading: &Reading, crop: Option<CropNumber>) -> String {
    crop.map_or_else(|| reading.key.to_owned(), |c| format!("{}.{}", reading.key, c.get()))
}

fn is_shown(trial: &Trial, who: &Who) -> bool {
    trial.shows_solution(&who.name)
}

fn logged_keys(trial: &Trial, series: &[Series], shown: bool) -> Vec<LoggedKey> {
    let may = |quantity: Logged| shown || !is_of_solution(quantity.key());
    let all = Logged::ALL.into_iter().filter(|q| may(*q)).map(|quantity| LoggedKey {
        quantity,
        name: quantity.name(),
        unit: quantity.unit(),
        decimals: quantity.decimals(),
        places: series.iter().filter(|s| s.quantity == quantity).map(|s| place_words(trial, &s.place)).collect(),
    });
    all.filter(|key| !key.places.is_empty()).collect()
}

/// A place, in words.
pub(super) fn place_words(trial: &Trial, place: &ProbeAt) -> String {
    match place {
        ProbeAt::Room => "the room".into(),
        ProbeAt::Shelf(level) => trial.plan.rack.level_name(*level),
        ProbeAt::Unit(code) => code.clone(),
    }
}

fn last_day(trial: &Trial, today: Date) -> u32 {
    let now = trial.day(today).unwrap_or(0);
    trial.ended_on().unwrap_or(now).min(now.max(1)).max(1)
}

/// What there are tracks of in a trial.
#[utoipa::path(get, operation_id = "tracks_list", path = "/trials/{id}/tracks", params(("id" = String, Path)),
    responses((status = 200, body = TracksView), (status = 404, body = Problem)))]
pub(crate) async fn list(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<TracksView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let shown = is_shown(&trial, &who);
        let key = |(reading, crop): (&'static Reading, Option<CropNumber>)| {
            let tracks = unit_tracks(&trial, reading, crop);
            TrackKey {
                key: key_of(reading, crop),
                name: name_of(&trial, reading, crop),
                unit: reading.unit,
                decimals: reading.decimals,
                outstanding: drifting(&trial, &tracks).len() + drifting_apart(&trial, reading, &tracks).len(),
            }
        };
        Ok(Json(TracksView {
            until: last_day(&trial, today(&store.farm()?)),
            readings: with_tracks(&trial, shown).into_iter().map(key).collect(),
            logged: logged_keys(&trial, &store.series(&id)?, shown),
            ticks: ticks(&trial),
        }))
    })
    .await
}

/// The track of one unit.
#[derive(Serialize, ToSchema)]
pub(crate) struct UnitTrackView {
    /// Its code.
    code: String,
    /// Its treatment; null where it may not be told.
    treatment: Option<TreatmentIndex>,
    /// Days on which it was read.
    days: Vec<u32>,
    /// Values on those days.
    values: Vec<f64>,
}

/// The mean of a treatment's units, day by day.
#[derive(Serialize, ToSchema)]
pub(crate) struct MeanTrack {
    /// The treatment.
    treatment: TreatmentIndex,
    /// Days.
    days: Vec<u32>,
    /// Means on those days.
    values: Vec<f64>,
}

/// Between which values something is usual.
#[derive(Serialize, ToSchema)]
pub(crate) struct TrackBand {
    /// The least.
    least: f64,
    /// The greatest.
    most: f64,
}

/// Tracks of one reading.
#[derive(Serialize, ToSchema)]
pub(crate) struct TrackView {
    /// Each unit's.
    units: Vec<UnitTrackView>,
    /// The means of the treatments, the control first; empty where the deal may not be told.
    means: Vec<MeanTrack>,
    /// The control, whose mean is the ground line; null where the deal may not be told.
    control: Option<TreatmentIndex>,
    /// What is usual for the crop; null where Stores do not know it.
    band: Option<TrackBand>,
    /// Units that stand out of their siblings.
    drifts: Vec<Drift>,
    /// Treatments that drift apart in what should be equal.
    apart: Vec<DriftApart>,
}

fn split<T: Copy>(points: &[(u32, T)]) -> (Vec<u32>, Vec<T>) {
    points.iter().copied().unzip()
}

fn mean_tracks(trial: &Trial, tracks: &[UnitTrack]) -> Vec<MeanTrack> {
    if !trial.tells_deal() {
        return Vec::new();
    }
    let control = trial.plan.sheet.control();
    let mut all: Vec<TreatmentIndex> = trial.plan.sheet.indices().collect();
    all.sort_by_key(|t| Some(*t) != control);
    let track = |treatment| {
        let (days, values) = split(&means(trial, tracks, treatment));
        MeanTrack { treatment, days, values }
    };
    all.into_iter().map(track).filter(|m| !m.days.is_empty()).collect()
}

/// The tracks of one reading.
#[utoipa::path(get, operation_id = "tracks_get", path = "/trials/{id}/tracks/{key}",
    params(("id" = String, Path), ("key" = String, Path)),
    responses((status = 200, body = TrackView), (status = 404, body = Problem)))]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path((id, key)): Path<(String, String)>,
) -> Result<Json<TrackView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let found = with_tracks(&trial, is_shown(&trial, &who)).into_iter().find(|(r, c)| key_of(r, *c) == key);
        let (reading, crop) = found.ok_or_else(|| Problem::not_found("There are no tracks of this."))?;
        let tracks = unit_tracks(&trial, reading, crop);
        let told = trial.tells_deal();
        let unit = |track: &UnitTrack| {
            let own = &trial.units[track.unit];
            let (days, values) = split(&track.points);
            UnitTrackView { code: own.code.clone(), treatment: told.then_some(own.treatment), days, values }
        };
        Ok(Json(TrackView {
            units: tracks.iter().map(unit).collect(),
            means: mean_tracks(&trial, &tracks),
            control: trial.plan.sheet.control().filter(|_| told),
            band: band(&trial, &store.shelves()?, reading).map(|(least, most)| TrackBand { least, most }),
            drifts: drifting(&trial, &tracks),
            apart: drifting_apart(&trial, reading, &tracks),
        }))
    })
    .await
}

/// From which day to which.
#[derive(Deserialize, IntoParams)]
pub(crate) struct LoggedQuery {
    /// From this day on; the sowing where left out.
    from: Option<i32>,
    /// Up to the end of this day; today, or the end of the trial, where left out.
    until: Option<i32>,
}

/// What a logger recorded at one place.
#[derive(Serialize, ToSchema)]
pub(crate) struct LoggedTrack {
    /// Where, in words.
    place: String,
    /// Days since sowing at the middle of each stretch.
    days: Vec<f64>,
    /// The least in each.
    least: Vec<f64>,
    /// The greatest in each.
    most: Vec<f64>,
    /// The mean of each.
    mean: Vec<f64>,
}

/// What loggers recorded of one quantity.
#[derive(Serialize, ToSchema)]
pub(crate) struct LoggedView {
    /// Hours of a stretch.
    hours: i64,
    /// By place.
    tracks: Vec<LoggedTrack>,
}

/// Stretches that are drawn at most, so that a year comes as quickly as a day.
const MOST_STRETCHES: i64 = 800;
/// Hours of a stretch, from fine to coarse.
const STRETCHES: [i64; 7] = [1, 2, 3, 6, 12, 24, 168];

/// The beginning of a day since sowing, seconds since 1970.
fn begins(sown: Date, zone: &TimeZone, day: i32) -> Result<i64, Problem> {
    let date = sown.checked_add(jiff::Span::new().days(day)).map_err(|_| Problem::refused("from", "no such day"))?;
    let start = date.to_zoned(zone.clone()).map_err(|e| Problem::internal(&e))?;
    Ok(start.timestamp().as_second())
}

/// Furthest day from the sowing that is asked for.
const MOST_DAYS: i32 = 3660;

/// What loggers recorded of one quantity, by stretches of an hour up to a week.
#[utoipa::path(get, operation_id = "tracks_logged", path = "/trials/{id}/tracks/logged/{quantity}",
    params(("id" = String, Path), ("quantity" = Logged, Path), LoggedQuery),
    responses((status = 200, body = LoggedView), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn logged(
    State(app): State<App>,
    who: Who,
    Path((id, quantity)): Path<(String, Logged)>,
    Query(query): Query<LoggedQuery>,
) -> Result<Json<LoggedView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let farm = store.farm()?;
        let Some(sown) = trial.sown_on else {
            return Err(Problem::locked("Sow first: days count from sowing."));
        };
        if is_of_solution(quantity.key()) && !is_shown(&trial, &who) {
            return Err(Problem::not_found("There are no tracks of this."));
        }
        let within = -MOST_DAYS..=MOST_DAYS;
        let (from, until) = (query.from.unwrap_or(0), query.until.unwrap_or(last_day(&trial, today(&farm)) as i32));
        if !within.contains(&from) || !within.contains(&until) || from > until {
            return Err(Problem::refused("from", "from a day up to a later one, within ten years of the sowing"));
        }
        let zone = farm.time_zone();
        let start = begins(sown, &zone, from)?.div_euclid(3600);
        let end = begins(sown, &zone, until + 1)?.div_euclid(3600);
        let fits = |hours: &&i64| (end - start) / **hours <= MOST_STRETCHES;
        let hours = STRETCHES.iter().find(fits).copied().unwrap_or(STRETCHES[STRETCHES.len() - 1]);
        let day_zero = begins(sown, &zone, 0)?;
        let mut tracks = Vec::new();
        for series in store.series(&id)?.iter().filter(|s| s.quantity == quantity) {
            let own = store.stretches(series, (start, end), hours)?;
            let day = |hour: i64| (hour * 3600 + hours * 1800 - day_zero) as f64 / 86_400.0;
            tracks.push(LoggedTrack {
                place: place_words(&trial, &series.place),
                days: own.iter().map(|s| day(s.hour)).collect(),
                least: own.iter().map(|s| s.least).collect(),
                most: own.iter().map(|s| s.most).collect(),
                mean: own.iter().map(|s| s.mean).collect(),
            });
        }
        Ok(Json(LoggedView { hours, tracks }))
    })
    .await
}
