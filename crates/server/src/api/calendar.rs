//! The calendar: what lies ahead day by day, days away and what falls into them, and the same as
//! iCalendar.

use crate::api::trials::current;
use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::IntoResponse;
use icalendar::{Component, Event, EventLike};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::stores::Item;
use iron_twin_core::stores::keys;
use iron_twin_core::tend::schedule::away::{Clash, clashes};
use iron_twin_core::tend::schedule::calendar;
use iron_twin_store::Store;
use iron_twin_store::outline::Outline;
use jiff::ToSpan;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::sync::Arc;
use utoipa::ToSchema;

/// One piece of work ahead.
#[derive(Serialize, ToSchema)]
pub(crate) struct Ahead {
    /// Id of the trial; null for work that belongs to none.
    trial_id: Option<String>,
    /// Its name.
    trial: String,
    /// What, as a stable key.
    job: Job,
    /// What, in words.
    label: String,
    /// Day of the trial; null for work that belongs to none.
    day: Option<u32>,
    /// Date, `YYYY-MM-DD`.
    date: String,
}

/// Work that falls on a day away.
#[derive(Serialize, ToSchema)]
pub(crate) struct AwayClash {
    /// Id of the trial.
    trial_id: String,
    /// Its name.
    trial: String,
    /// What falls there, and to which day it could be moved.
    #[serde(flatten)]
    clash: Clash,
    /// Date on which it falls, `YYYY-MM-DD`.
    date: String,
    /// Date to which it could be moved.
    move_to_date: Option<String>,
}

/// A stretch away.
#[derive(Serialize, ToSchema)]
pub(crate) struct AwayView {
    /// Random id.
    id: String,
    /// First day.
    first: String,
    /// Last day.
    last: String,
    /// Where to, or why.
    note: String,
    /// What falls into it.
    clashes: Vec<AwayClash>,
}

/// All that lies ahead.
#[derive(Serialize, ToSchema)]
pub(crate) struct CalendarView {
    /// The farm's date.
    today: String,
    /// Work from today on, by date; late work stands under today in `Today`.
    ahead: Vec<Ahead>,
    /// Stretches away that are not over.
    away: Vec<AwayView>,
}

/// Trials whose work still lies ahead, with the date of their day 0.
fn running(store: &Store) -> Result<Vec<(Arc<Outline>, Date)>, Problem> {
    let outlines = store
        .outlines()?
        .into_iter()
        .filter(|o| o.trial.deal.is_some());
    Ok(outlines
        .filter_map(|o| o.trial.day_zero().map(|zero| (o, zero)))
        .collect())
}

fn ahead_of(Outline { trial, done }: &Outline) -> Vec<(Job, u32)> {
    calendar(
        &trial.plan.care,
        &trial.treatment_days(),
        trial.plan.ask.end_day,
        done,
    )
}

fn date_of(zero: Date, day: u32) -> Date {
    zero.checked_add(i64::from(day).days()).unwrap_or(zero)
}

/// Meters whose calibration runs out, with the day it does.
pub(crate) fn calibrations(items: &[Item]) -> Vec<(String, Date)> {
    let meters = items.iter().filter(|i| i.shelf == "meters");
    meters
        .filter_map(|meter| {
            let on: Date = meter.words(keys::CALIBRATED_ON)?.parse().ok()?;
            let every = meter.number(keys::CALIBRATE_EVERY_DAYS)?;
            Some((
                meter.name.clone(),
                on.checked_add((every as i64).days()).ok()?,
            ))
        })
        .collect()
}

fn ahead(store: &Store, now: Date) -> Result<Vec<Ahead>, Problem> {
    let mut list = Vec::new();
    for (outline, zero) in running(store)? {
        let trial = &outline.trial;
        let entries = ahead_of(&outline)
            .into_iter()
            .map(|(job, day)| (job, day, date_of(zero, day)));
        list.extend(
            entries
                .filter(|(.., date)| *date >= now)
                .map(|(job, day, date)| Ahead {
                    trial_id: Some(trial.id.clone()),
                    trial: trial.plan.name.clone(),
                    job,
                    label: job.label().into(),
                    day: Some(day),
                    date: date.to_string(),
                }),
        );
    }
    let meters = calibrations(store.shelves()?.items())
        .into_iter()
        .filter(|(_, date)| *date >= now);
    list.extend(meters.map(|(name, date)| Ahead {
        trial_id: None,
        trial: String::new(),
        job: Job::Calibrate,
        label: format!("{} {name}", Job::Calibrate.label()),
        day: None,
        date: date.to_string(),
    }));
    list.sort_by(|a, b| {
        a.date
            .cmp(&b.date)
            .then(a.trial.cmp(&b.trial))
            .then(a.job.cmp(&b.job))
    });
    Ok(list)
}

fn view(store: &Store) -> Result<CalendarView, Problem> {
    let now = today(&store.farm()?);
    let trials = running(store)?;
    let away = store.away()?.into_iter().filter(|a| a.last >= now);
    let away = away
        .map(|away| {
            let mut inside = Vec::new();
            for (outline, zero) in &trials {
                let trial = &outline.trial;
                let day = |date: Date| zero.until(date).map_or(-1, |s| i64::from(s.get_days()));
                let (Ok(from), Ok(to)) = (
                    u32::try_from(day(away.first).max(0)),
                    u32::try_from(day(away.last)),
                ) else {
                    continue;
                };
                let found =
                    clashes(&ahead_of(outline), from, to, trial.plan.ask.end_day).into_iter();
                inside.extend(found.map(|clash| AwayClash {
                    trial_id: trial.id.clone(),
                    trial: trial.plan.name.clone(),
                    date: date_of(*zero, clash.day).to_string(),
                    move_to_date: clash.move_to.map(|d| date_of(*zero, d).to_string()),
                    clash,
                }));
            }
            let (first, last) = (away.first.to_string(), away.last.to_string());
            AwayView {
                id: away.id,
                first,
                last,
                note: away.note,
                clashes: inside,
            }
        })
        .collect();
    Ok(CalendarView {
        today: now.to_string(),
        ahead: ahead(store, now)?,
        away,
    })
}

/// What lies ahead, and days away.
#[utoipa::path(
    get,
    operation_id = "calendar_get",
    path = "/calendar",
    responses((status = 200, body = CalendarView)),
)]
pub(crate) async fn get(State(app): State<App>) -> Result<Json<CalendarView>, Problem> {
    app.run(|store| Ok(Json(view(store)?))).await
}

/// The same as an iCalendar file (RFC 5545): one all-day event for each piece of work, with an id
/// that stays, so that a calendar that follows it moves events instead of doubling them. It names
/// codes and work, never treatments.
#[utoipa::path(get, operation_id = "calendar_ics", path = "/calendar.ics",
    responses((status = 200, body = String, content_type = "text/calendar")))]
pub(crate) async fn ics(State(app): State<App>) -> Result<impl IntoResponse, Problem> {
    app.run(|store| {
        let farm = store.farm()?;
        let mut file = icalendar::Calendar::new();
        file.name(&format!("Iron Twin, {}", farm.name));
        let mut times: std::collections::HashMap<(String, Job), usize> =
            std::collections::HashMap::new();
        for entry in ahead(store, today(&farm))? {
            let whose = entry
                .trial_id
                .clone()
                .unwrap_or_else(|| entry.label.clone());
            let count = times.entry((whose.clone(), entry.job)).or_default();
            *count += 1;
            let Ok(date) = entry.date.parse::<Date>() else {
                continue;
            };
            let Some(date) = chrono_date(date) else {
                continue;
            };
            let job = serde_json::to_value(entry.job).unwrap_or_default();
            let mut event = Event::new();
            // Counted, not dated: a feeding that moves stays the same event.
            event.uid(&format!(
                "{}-{}-{count}@iron-twin",
                whose.replace(' ', "-"),
                job.as_str().unwrap_or("job")
            ));
            let trial = if entry.trial.is_empty() {
                String::new()
            } else {
                format!(": {}", entry.trial)
            };
            // A line of a calendar ends at a control character, whatever stands in a name.
            let summary = format!("{}{trial}", entry.label).replace(char::is_control, " ");
            event.summary(&summary).all_day(date);
            if let Some(day) = entry.day {
                event.description(&format!("Day {day} of the trial"));
            }
            file.push(event.done());
        }
        let headers = [
            (header::CONTENT_TYPE, "text/calendar; charset=utf-8"),
            (
                header::CONTENT_DISPOSITION,
                "attachment; filename=\"iron-twin.ics\"",
            ),
        ];
        Ok((headers, file.to_string()))
    })
    .await
}

/// The calendar crate speaks chrono; the rest of the house jiff.
fn chrono_date(date: Date) -> Option<chrono::NaiveDate> {
    chrono::NaiveDate::from_ymd_opt(
        i32::from(date.year()),
        u32::from(date.month().unsigned_abs()),
        u32::from(date.day().unsigned_abs()),
    )
}

/// Days away as typed.
#[derive(Deserialize, ToSchema)]
pub(crate) struct AwaySent {
    /// First day, `YYYY-MM-DD`.
    first: String,
    /// Last day, `YYYY-MM-DD`.
    last: String,
    /// Where to, or why.
    #[serde(default)]
    note: String,
}

/// Adds days away.
#[utoipa::path(post, operation_id = "calendar_away", path = "/away", request_body = AwaySent,
    responses((status = 200, body = CalendarView), (status = 422, body = Problem)))]
pub(crate) async fn away(
    State(app): State<App>,
    sent: Sent<AwaySent>,
) -> Result<Json<CalendarView>, Problem> {
    app.run(move |store| {
        store.add_away(
            &sent.stamp,
            &sent.body.first,
            &sent.body.last,
            &sent.body.note,
        )?;
        Ok(Json(view(store)?))
    })
    .await
}

/// Takes days away out again.
#[utoipa::path(
    post,
    operation_id = "calendar_not_away",
    path = "/away/{id}/remove",
    params(("id" = String, Path)),
    responses((status = 200, body = CalendarView), (status = 404, body = Problem)),
)]
pub(crate) async fn not_away(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<Json<CalendarView>, Problem> {
    app.run(move |store| {
        store.remove_away(&sent.stamp, &id)?;
        Ok(Json(view(store)?))
    })
    .await
}

/// When sowing is meant.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SowingSent {
    /// Date, `YYYY-MM-DD`; null to leave it open.
    on: Option<String>,
    /// Version on which the change was made.
    version: i64,
}

/// Sets the day on which sowing is meant, so that the calendar can be seen before.
#[utoipa::path(
    put,
    operation_id = "calendar_plan_sowing",
    path = "/trials/{id}/sowing",
    params(("id" = String, Path)),
    request_body = SowingSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn plan_sowing(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<SowingSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.plan_sowing(&sent.stamp, &id, sent.body.on.as_deref(), sent.body.version)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}
