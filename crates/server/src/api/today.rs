//! Today: what is due across all trials, and the trials as stakes in a row.

use crate::api::calendar::calibrations;
use crate::app::App;
use crate::clock;
use crate::error::Problem;
use crate::stations::next_station;
use axum::Json;
use axum::extract::State;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::tend::due::due_after;
use iron_twin_core::tend::schedule::Due;
use iron_twin_core::trial::Trial;
use iron_twin_store::Store;
use iron_twin_store::trials::TrialHead;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

/// A trial as a stake in the row.
#[derive(Serialize, ToSchema)]
pub(crate) struct Stake {
    /// Id of the trial.
    id: String,
    /// Its name.
    name: String,
    /// Day, or what is the matter.
    status: String,
    /// Share of the planned days that have passed, 0 to 1.
    progress: f64,
    /// Station at which to go on.
    next: &'static str,
}

/// Something to do.
#[derive(Serialize, ToSchema)]
pub(crate) struct Task {
    /// Id of the trial; null for work that belongs to none.
    trial_id: Option<String>,
    /// Its name.
    trial: String,
    /// Where it stands.
    place: String,
    /// Number of units; 0 for work that belongs to no trial.
    units: usize,
    /// What falls due.
    #[serde(flatten)]
    due: Due,
    /// What, in words: the work, and of a meter its name.
    title: String,
}

/// The day's work.
#[derive(Serialize, ToSchema)]
pub(crate) struct TodayView {
    /// The farm's date, `YYYY-MM-DD`.
    date: String,
    /// Trials that are planned or run, newest first, then the newest of those that ended.
    stakes: Vec<Stake>,
    /// Trials that ended and are not among them.
    more_ended: usize,
    /// What is due, in walking order: place by place, trial by trial, in the order of a day.
    due: Vec<Task>,
}

/// Ended trials that stand among the stakes.
const MOST_ENDED: usize = 6;
/// Days for which a trial stands among them after its key was opened.
const ENDED_DAYS: i32 = 7;

/// A trial that is planned or runs.
fn stake(trial: &Trial, all_recorded: bool, date: Date) -> Stake {
    let (end, day) = (trial.plan.ask.end_day, trial.day(date));
    let status = match day {
        Some(day) if day > end => format!("day {day}, {} over", day - end),
        Some(day) => format!("day {day} of {end}"),
        None if trial.deal.is_some() => "dealt, not sown".into(),
        None => "being planned".to_owned(),
    };
    Stake {
        id: trial.id.clone(),
        name: trial.plan.name.clone(),
        status,
        progress: (f64::from(day.unwrap_or(0)) / f64::from(end)).min(1.0),
        next: next_station(trial, all_recorded, date),
    }
}

/// The calibration of a meter that falls due; None where its day is too far off to be told.
fn meter_due((name, runs_out): (String, Date), date: Date) -> Option<Task> {
    let late = u32::try_from(runs_out.until(date).map_or(-1, |s| s.get_days())).ok()?;
    Some(Task {
        trial_id: None,
        trial: String::new(),
        place: "meters".into(),
        units: 0,
        title: format!("{} {name}", Job::Calibrate.label()),
        due: Due::new(Job::Calibrate, 0, late),
    })
}

/// What is due today.
#[utoipa::path(
    get,
    operation_id = "today_today",
    path = "/today",
    responses((status = 200, body = TodayView)),
)]
pub(crate) async fn today(State(app): State<App>) -> Result<Json<TodayView>, Problem> {
    app.run(|store| {
        let date = clock::today(&store.farm()?);
        let (mut stakes, mut due) = (Vec::new(), Vec::new());
        for outline in store.outlines()? {
            let trial = &outline.trial;
            due.extend(
                due_after(trial, &outline.done, date)
                    .into_iter()
                    .map(|due| Task {
                        trial_id: Some(trial.id.clone()),
                        trial: trial.plan.name.clone(),
                        place: trial.plan.rack.name.clone(),
                        units: trial.units.len(),
                        title: due.label.to_owned(),
                        due,
                    }),
            );
            stakes.push(stake(trial, outline.done.all_weighed, date));
        }
        let (ended, more_ended) = ended_lately(store, date)?;
        stakes.extend(ended);
        // Meters matter while something is measured with them.
        if !stakes.is_empty() {
            due.extend(
                calibrations(store.shelves()?.items())
                    .into_iter()
                    .filter_map(|own| meter_due(own, date)),
            );
        }
        // As one walks: place by place, in each the work of one trial after that of another, in the
        // order of a day.
        due.sort_by(|a, b| (&a.place, &a.trial, a.due.job).cmp(&(&b.place, &b.trial, b.due.job)));
        Ok(Json(TodayView {
            date: date.to_string(),
            stakes,
            more_ended,
            due,
        }))
    })
    .await
}

/// Trials that ended lately, and how many more there are.
fn ended_lately(store: &Store, date: Date) -> Result<(Vec<Stake>, usize), Problem> {
    let farm = store.farm()?;
    let ended: Vec<TrialHead> = store
        .trials()?
        .into_iter()
        .filter(|h| !h.put_away && h.revealed_at.is_some())
        .collect();
    let all_ended = ended.len();
    let lately = |head: &TrialHead| {
        let opened = head.revealed_at.map(|at| clock::date_of(&farm, at));
        opened
            .and_then(|opened| opened.until(date).ok())
            .is_some_and(|span| span.get_days() <= ENDED_DAYS)
    };
    let shown: Vec<TrialHead> = ended.into_iter().filter(lately).take(MOST_ENDED).collect();
    let more_ended = all_ended - shown.len();
    let stakes = shown.into_iter().map(|head| Stake {
        id: head.id,
        name: head.name,
        status: "ended, verdict ready".into(),
        progress: 1.0,
        next: "judge",
    });
    Ok((stakes.collect(), more_ended))
}
