//! Tracks: each reading over the days, by code and, once the deal may be told, by treatment; and
//! what loggers recorded.

use crate::access::Who;
use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::catalogue::logged::Logged;
use iron_twin_core::catalogue::readings::{Reading, is_of_solution};
use iron_twin_core::tend::computed::Computed;
use iron_twin_core::tend::logger::ProbeAt;
use iron_twin_core::tend::tracks::{
    Drift, DriftApart, Tick, UnitTrack, band, drifting, drifting_apart, logged_apart, means, ticks,
    unit_tracks, with_tracks,
};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::CropNumber;
use iron_twin_store::Store;
use iron_twin_store::series::Series;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::civil::Date;
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;
use utoipa::{IntoParams, ToSchema};

/// Something that has tracks.
#[derive(Serialize, ToSchema)]
pub(crate) struct TrackKey {
    /// By which it is asked for: a reading, with `.2` behind it where it is of the second crop of a
    /// unit.
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

/// A quantity that is computed from what loggers recorded.
#[derive(Serialize, ToSchema)]
pub(crate) struct ComputedKey {
    /// Which.
    quantity: Computed,
    /// As a grower says it.
    name: &'static str,
    /// Its unit.
    unit: &'static str,
    /// Decimals shown.
    decimals: u32,
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
    /// Quantities that follow from those.
    computed: Vec<ComputedKey>,
    /// What happened on which day.
    ticks: Vec<Tick>,
}

fn name_of(trial: &Trial, reading: &Reading, crop: Option<CropNumber>) -> String {
    let own = crop.and_then(|c| trial.plan.ask.crops_inside.get(c.index()));
    own.map_or_else(
        || reading.name.to_owned(),
        |own| format!("{}, {own}", reading.name),
    )
}

fn key_of(reading: &Reading, crop: Option<CropNumber>) -> String {
    crop.map_or_else(
        || reading.key.to_owned(),
        |c| format!("{}.{}", reading.key, c.get()),
    )
}

fn is_shown(trial: &Trial, who: &Who) -> bool {
    trial.shows_solution(&who.name)
}

fn logged_keys(trial: &Trial, series: &[Series], shown: bool) -> Vec<LoggedKey> {
    let may = |quantity: Logged| shown || !is_of_solution(quantity.key());
    let all = Logged::ALL
        .into_iter()
        .filter(|q| may(*q))
        .map(|quantity| LoggedKey {
            quantity,
            name: quantity.name(),
            unit: quantity.unit(),
            decimals: quantity.decimals(),
            places: series
                .iter()
                .filter(|s| s.quantity == quantity)
                .map(|s| place_words(trial, &s.place))
                .collect(),
        });
    all.filter(|key| !key.places.is_empty()).collect()
}

/// Places at which loggers recorded all that a quantity is computed from, each with its series.
fn computed_from<'a>(
    series: &'a [Series],
    computed: Computed,
) -> Vec<(&'a ProbeAt, Vec<&'a Series>)> {
    let places: std::collections::BTreeSet<&ProbeAt> = series.iter().map(|s| &s.place).collect();
    let at = |place: &'a ProbeAt| {
        let find = |q: &Logged| {
            series
                .iter()
                .find(|s| s.quantity == *q && s.place == *place)
        };
        Some((
            place,
            computed
                .needs()
                .iter()
                .map(find)
                .collect::<Option<Vec<_>>>()?,
        ))
    };
    places.into_iter().filter_map(at).collect()
}

fn computed_keys(series: &[Series], shown: bool) -> Vec<ComputedKey> {
    let may = |c: Computed| shown || !c.needs().iter().any(|q| is_of_solution(q.key()));
    let all = Computed::ALL
        .into_iter()
        .filter(|c| may(*c) && !computed_from(series, *c).is_empty());
    all.map(|quantity| ComputedKey {
        quantity,
        name: quantity.name(),
        unit: quantity.unit(),
        decimals: quantity.decimals(),
    })
    .collect()
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
#[utoipa::path(
    get,
    operation_id = "tracks_list",
    path = "/trials/{id}/tracks",
    params(("id" = String, Path)),
    responses((status = 200, body = TracksView), (status = 404, body = Problem)),
)]
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
                outstanding: drifting(&trial, &tracks).len()
                    + drifting_apart(&trial, reading, &tracks).len(),
            }
        };
        let series = store.series(&id)?;
        Ok(Json(TracksView {
            until: last_day(&trial, today(&store.farm()?)),
            readings: with_tracks(&trial, shown).into_iter().map(key).collect(),
            logged: logged_keys(&trial, &series, shown),
            computed: computed_keys(&series, shown),
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
        MeanTrack {
            treatment,
            days,
            values,
        }
    };
    all.into_iter()
        .map(track)
        .filter(|m| !m.days.is_empty())
        .collect()
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
        let found = with_tracks(&trial, is_shown(&trial, &who))
            .into_iter()
            .find(|(r, c)| key_of(r, *c) == key);
        let (reading, crop) =
            found.ok_or_else(|| Problem::not_found("There are no tracks of this."))?;
        let tracks = unit_tracks(&trial, reading, crop);
        let told = trial.tells_deal();
        let unit = |track: &UnitTrack| {
            let own = &trial.units[track.unit];
            let (days, values) = split(&track.points);
            UnitTrackView {
                code: own.code.clone(),
                treatment: told.then_some(own.treatment),
                days,
                values,
            }
        };
        Ok(Json(TrackView {
            units: tracks.iter().map(unit).collect(),
            means: mean_tracks(&trial, &tracks),
            control: trial.plan.sheet.control().filter(|_| told),
            band: band(&trial, &store.shelves()?, reading)
                .map(|(least, most)| TrackBand { least, most }),
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
    /// Treatments whose probes drift apart in what should be equal, over the last days shown; empty
    /// where the deal may not be told, where probes do not stand in single units, and for what is
    /// computed.
    apart: Vec<DriftApart>,
}

/// Last days over which probes are compared.
const LAST_DAYS: i64 = 3;

/// Treatments whose probes lie apart in the last days of those asked for.
fn probes_apart(
    store: &Store,
    trial: &Trial,
    asked: &Asked,
    quantity: Logged,
) -> Result<Vec<DriftApart>, Problem> {
    let series = store.series(&trial.id)?;
    let own: Vec<(UnitIndex, &Series)> = series
        .iter()
        .filter(|s| s.quantity == quantity)
        .filter_map(|s| match &s.place {
            ProbeAt::Unit(code) => Some((trial.unit(code)?, s)),
            ProbeAt::Room | ProbeAt::Shelf(_) => None,
        })
        .collect();
    // A probe that was pulled out before the others tells of other days.
    let Some(last) = own
        .iter()
        .map(|(_, s)| s.until.as_second().div_euclid(3600))
        .min()
    else {
        return Ok(Vec::new());
    };
    let until = (last + 1).min(asked.hours.1);
    let from = (until - 24 * LAST_DAYS).max(asked.hours.0);
    let mut values = Vec::new();
    for (unit, series) in own {
        let found = store.stretches(series, (from, until), 1)?;
        let count: u64 = found.iter().map(|s| s.count).sum();
        if count > 0 {
            values.push((
                unit,
                found.iter().map(|s| s.mean * s.count as f64).sum::<f64>() / count as f64,
            ));
        }
    }
    let day =
        |hour: i64| u32::try_from((hour * 3600 - asked.day_zero).div_euclid(86_400)).unwrap_or(0);
    Ok(logged_apart(
        trial,
        quantity,
        &values,
        (day(from), day(until - 1)),
    ))
}

/// Stretches that are drawn at most, so that a year comes as quickly as a day.
const MOST_STRETCHES: i64 = 800;
/// Hours of a stretch, from fine to coarse.
const STRETCHES: [i64; 7] = [1, 2, 3, 6, 12, 24, 168];

/// The beginning of a day since sowing, seconds since 1970.
fn begins(sown: Date, zone: &TimeZone, day: i32) -> Result<i64, Problem> {
    let date = sown
        .checked_add(jiff::Span::new().days(day))
        .map_err(|_| Problem::refused("from", "no such day"))?;
    let start = date
        .to_zoned(zone.clone())
        .map_err(|e| Problem::internal(&e))?;
    Ok(start.timestamp().as_second())
}

/// Furthest day from the sowing that is asked for.
const MOST_DAYS: i32 = 3660;

/// The days that are asked for: the instant at which day 0 began, and the hours since 1970 from
/// which to which.
struct Asked {
    day_zero: i64,
    hours: (i64, i64),
}

fn asked(store: &Store, trial: &Trial, query: &LoggedQuery) -> Result<Asked, Problem> {
    let farm = store.farm()?;
    let Some(sown) = trial.sown_on else {
        return Err(Problem::locked("Sow first: days count from sowing."));
    };
    let within = -MOST_DAYS..=MOST_DAYS;
    let (from, until) = (
        query.from.unwrap_or(0),
        query.until.unwrap_or(last_day(trial, today(&farm)) as i32),
    );
    if !within.contains(&from) || !within.contains(&until) || from > until {
        return Err(Problem::refused(
            "from",
            "from a day up to a later one, within ten years of the sowing",
        ));
    }
    let zone = farm.time_zone();
    let hours = (
        begins(sown, &zone, from)?.div_euclid(3600),
        begins(sown, &zone, until + 1)?.div_euclid(3600),
    );
    Ok(Asked {
        day_zero: begins(sown, &zone, 0)?,
        hours,
    })
}

impl Asked {
    /// Hours of a stretch with which not too many are drawn.
    fn stretch(&self) -> i64 {
        let fits = |hours: &&i64| (self.hours.1 - self.hours.0) / **hours <= MOST_STRETCHES;
        STRETCHES
            .iter()
            .find(fits)
            .copied()
            .unwrap_or(STRETCHES[STRETCHES.len() - 1])
    }

    /// Days since the sowing at the middle of a stretch that begins at an hour.
    fn day(&self, hour: i64, hours: i64) -> f64 {
        (hour * 3600 + hours * 1800 - self.day_zero) as f64 / 86_400.0
    }
}

fn unless_kept(trial: &Trial, who: &Who, needs: &[Logged]) -> Result<(), Problem> {
    if needs.iter().any(|q| is_of_solution(q.key())) && !is_shown(trial, who) {
        return Err(Problem::not_found("There are no tracks of this."));
    }
    Ok(())
}

/// What loggers recorded of one quantity, by stretches of an hour up to a week.
#[utoipa::path(
    get,
    operation_id = "tracks_logged",
    path = "/trials/{id}/tracks/logged/{quantity}",
    params(("id" = String, Path), ("quantity" = Logged, Path), LoggedQuery),
    responses(
        (status = 200, body = LoggedView),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn logged(
    State(app): State<App>,
    who: Who,
    Path((id, quantity)): Path<(String, Logged)>,
    Query(query): Query<LoggedQuery>,
) -> Result<Json<LoggedView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        unless_kept(&trial, &who, &[quantity])?;
        let asked = asked(store, &trial, &query)?;
        let hours = asked.stretch();
        let mut tracks = Vec::new();
        for series in store.series(&id)?.iter().filter(|s| s.quantity == quantity) {
            let own = store.stretches(series, asked.hours, hours)?;
            tracks.push(LoggedTrack {
                place: place_words(&trial, &series.place),
                days: own.iter().map(|s| asked.day(s.hour, hours)).collect(),
                least: own.iter().map(|s| s.least).collect(),
                most: own.iter().map(|s| s.most).collect(),
                mean: own.iter().map(|s| s.mean).collect(),
            });
        }
        let apart = probes_apart(store, &trial, &asked, quantity)?;
        Ok(Json(LoggedView {
            hours,
            tracks,
            apart,
        }))
    })
    .await
}

/// A quantity that follows from what loggers recorded, by place: by the hour, and by stretches
/// where there are too many; light by the day.
#[utoipa::path(
    get,
    operation_id = "tracks_computed",
    path = "/trials/{id}/tracks/computed/{quantity}",
    params(("id" = String, Path), ("quantity" = Computed, Path), LoggedQuery),
    responses(
        (status = 200, body = LoggedView),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn computed(
    State(app): State<App>,
    who: Who,
    Path((id, quantity)): Path<(String, Computed)>,
    Query(query): Query<LoggedQuery>,
) -> Result<Json<LoggedView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        unless_kept(&trial, &who, quantity.needs())?;
        let asked = asked(store, &trial, &query)?;
        // Light is told by the farm's days.
        let by_day = quantity == Computed::DailyLight;
        let hours = if by_day { 24 } else { asked.stretch() };
        let day_of = |hour: i64| (hour * 3600 - asked.day_zero).div_euclid(86_400);
        let stretch_of = |hour: i64| {
            if by_day {
                day_of(hour)
            } else {
                hour.div_euclid(hours)
            }
        };
        let middle = |n: i64| {
            if by_day {
                n as f64 + 0.5
            } else {
                asked.day(n * hours, hours)
            }
        };
        // What adds up begins with the sowing, whatever days are shown.
        let first = match quantity {
            Computed::DegreeDays => asked.hours.0.min(asked.day_zero.div_euclid(3600)),
            _ => asked.hours.0,
        };
        let all = store.series(&id)?;
        let mut tracks = Vec::new();
        for (place, series) in computed_from(&all, quantity) {
            let mut needs: Vec<BTreeMap<i64, f64>> = Vec::new();
            for one in series {
                let hourly = store.stretches(one, (first, asked.hours.1), 1)?;
                needs.push(hourly.iter().map(|s| (s.hour, s.mean)).collect());
            }
            let values = quantity.values(&needs, day_of).into_iter();
            let own = stretches(
                quantity,
                values.filter(|(hour, _)| *hour >= asked.hours.0),
                stretch_of,
            );
            tracks.push(LoggedTrack {
                place: place_words(&trial, place),
                days: own.keys().map(|n| middle(*n)).collect(),
                least: own.values().map(|s| s.0).collect(),
                most: own.values().map(|s| s.1).collect(),
                mean: own.values().map(|s| s.2 / s.3).collect(),
            });
        }
        Ok(Json(LoggedView {
            hours,
            tracks,
            apart: Vec::new(),
        }))
    })
    .await
}

/// Least, greatest, sum and count of each stretch; what adds up is told as it stands at the
/// stretch's end.
fn stretches(
    quantity: Computed,
    values: impl Iterator<Item = (i64, f64)>,
    stretch_of: impl Fn(i64) -> i64,
) -> BTreeMap<i64, (f64, f64, f64, f64)> {
    let mut own: BTreeMap<i64, (f64, f64, f64, f64)> = BTreeMap::new();
    for (hour, value) in values {
        let stretch = own
            .entry(stretch_of(hour))
            .or_insert((value, value, 0.0, 0.0));
        *stretch = match quantity {
            Computed::DegreeDays => (value, value, value, 1.0),
            _ => (
                stretch.0.min(value),
                stretch.1.max(value),
                stretch.2 + value,
                stretch.3 + 1.0,
            ),
        };
    }
    own
}
