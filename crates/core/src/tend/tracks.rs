//! Tracks: each reading over the days, by unit and by treatment; what stands out of its siblings,
//! and what drifts apart that should be equal.

use crate::catalogue::deeds::Job;
use crate::catalogue::logged::Logged;
use crate::catalogue::readings::{Reading, find, is_of_solution};
use crate::stores::{Stores, keys};
use crate::trial::Trial;
use crate::trial::records::CropNumber;
use iron_twin_stats::outlier::apart;
use iron_twin_stats::welch::welch;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// One unit's track: a value for each day on which it was read, the mean of its samples and of
/// several readings of a day.
#[derive(Debug, Clone, PartialEq)]
pub struct UnitTrack {
    /// The unit.
    pub unit: UnitIndex,
    /// Day and value, by day.
    pub points: Vec<(u32, f64)>,
}

/// The track of all units for one reading, and of one crop where several share a unit.
#[must_use]
pub fn unit_tracks(trial: &Trial, reading: &Reading, crop: Option<CropNumber>) -> Vec<UnitTrack> {
    let track = |unit: UnitIndex| {
        let mut days: BTreeMap<u32, (f64, f64)> = BTreeMap::new();
        let own = trial
            .of_unit(unit)
            .readings
            .iter()
            .filter(|r| r.reading == reading.key && r.head.crop == crop);
        for (day, value) in own.filter_map(|r| Some((r.head.day, r.value?))) {
            let (sum, count) = days.entry(day).or_default();
            *sum += value;
            *count += 1.0;
        }
        UnitTrack {
            unit,
            points: days
                .into_iter()
                .map(|(day, (sum, count))| (day, sum / count))
                .collect(),
        }
    };
    trial
        .unit_indices()
        .map(track)
        .filter(|t| !t.points.is_empty())
        .collect()
}

/// Means over the units of a treatment, day by day: of days on which at least half of those that
/// were ever read were read.
#[must_use]
pub fn means(trial: &Trial, tracks: &[UnitTrack], treatment: TreatmentIndex) -> Vec<(u32, f64)> {
    let own: Vec<&UnitTrack> = tracks
        .iter()
        .filter(|t| trial.units[t.unit].treatment == treatment)
        .collect();
    let mut days: BTreeMap<u32, Vec<f64>> = BTreeMap::new();
    for (day, value) in own.iter().flat_map(|t| &t.points) {
        days.entry(*day).or_default().push(*value);
    }
    let whole = days
        .into_iter()
        .filter(|(_, values)| 2 * values.len() >= own.len());
    whole
        .map(|(day, values)| (day, values.iter().sum::<f64>() / values.len() as f64))
        .collect()
}

/// Looks that are taken together to say that something stands out now.
const LOOKS: usize = 3;
/// The chance at which one of all units is said to stand out where none does.
const ALLOWED: f64 = 0.01;

/// A unit that stands out of its siblings.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Drift {
    /// Its code.
    pub code: String,
    /// Its value less its siblings', on average over the last looks.
    pub by: f64,
    /// From this day on,
    pub from: u32,
    /// to this.
    pub until: u32,
}

/// The last looks at which all of some units were read, at most [`LOOKS`].
fn last_days(tracks: &[&UnitTrack]) -> Vec<u32> {
    let days = |t: &UnitTrack| {
        t.points
            .iter()
            .map(|(day, _)| *day)
            .collect::<BTreeSet<u32>>()
    };
    let mut all = tracks.iter().map(|t| days(t));
    let Some(first) = all.next() else {
        return Vec::new();
    };
    let common = all.fold(first, |a, b| a.intersection(&b).copied().collect());
    let mut last: Vec<u32> = common.into_iter().rev().take(LOOKS).collect();
    last.reverse();
    last
}

fn mean_over(track: &UnitTrack, days: &[u32]) -> f64 {
    let own = track.points.iter().filter(|(day, _)| days.contains(day));
    own.map(|(_, value)| value).sum::<f64>() / days.len() as f64
}

/// Units whose last looks stand out of their siblings': of their treatment where the deal may be
/// told, of all otherwise. An outlier test over all units that stand, so that one is named by
/// chance in at most one of a hundred such looks.
#[must_use]
pub fn drifting(trial: &Trial, tracks: &[UnitTrack]) -> Vec<Drift> {
    let stands =
        |t: &&UnitTrack| trial.is_now(&trial.units[t.unit]) && trial.units[t.unit].lost.is_none();
    let standing: Vec<&UnitTrack> = tracks.iter().filter(stands).collect();
    // Units that were hardly read would leave no look at which all were.
    let most = standing.iter().map(|t| t.points.len()).max().unwrap_or(0);
    let own: Vec<&UnitTrack> = standing
        .into_iter()
        .filter(|t| 2 * t.points.len() > most)
        .collect();
    let days = last_days(&own);
    let (Some(&from), Some(&until)) = (days.first(), days.last()) else {
        return Vec::new();
    };
    let told = trial.tells_deal();
    let group = |t: &&UnitTrack| {
        if told {
            trial.units[t.unit].treatment.get()
        } else {
            0
        }
    };
    let values: Vec<f64> = own.iter().map(|t| mean_over(t, &days)).collect();
    let groups: Vec<usize> = own.iter().map(group).collect();
    let found = own.iter().zip(apart(&values, &groups));
    let named = found.filter_map(|(t, apart)| {
        let apart = apart.filter(|a| a.p < ALLOWED)?;
        Some(Drift {
            code: trial.units[t.unit].code.clone(),
            by: apart.by,
            from,
            until,
        })
    });
    named.collect()
}

/// A treatment that differs from the control in something that should be equal.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = TrackApart))]
pub struct DriftApart {
    /// The treatment.
    pub treatment: TreatmentIndex,
    /// Its value less the control's, on average over the last looks.
    pub by: f64,
    /// From this day on,
    pub from: u32,
    /// to this.
    pub until: u32,
}

/// How far apart matters.
#[derive(Clone, Copy)]
enum Matters {
    /// From this difference on.
    By(f64),
    /// Where one has less than this share of the other: larger plants drink more, which is no fault
    /// until they run dry.
    Share(f64),
}

impl Matters {
    fn is_met(self, own: f64, ground: f64) -> bool {
        match self {
            Self::By(gap) => (own - ground).abs() > gap,
            Self::Share(share) => own.min(ground) < share * own.max(ground),
        }
    }
}

/// What should be equal between treatments unless it is what is compared, and how far apart
/// matters: common practice, no source.
const SHOULD_BE_EQUAL: [(&str, Matters); 4] = [
    ("ph", Matters::By(0.3)),
    ("ec", Matters::By(0.2)),
    ("level", Matters::Share(0.5)),
    ("dissolved_oxygen", Matters::By(1.0)),
];

/// Treatments that drift from the control in what should be equal. Empty where the deal may not be
/// told, and for EC where what is stirred in is what is compared.
#[must_use]
pub fn drifting_apart(trial: &Trial, reading: &Reading, tracks: &[UnitTrack]) -> Vec<DriftApart> {
    let Some((key, matters)) = SHOULD_BE_EQUAL
        .into_iter()
        .find(|(key, _)| *key == reading.key)
    else {
        return Vec::new();
    };
    let Some(control) = trial.plan.sheet.control().filter(|_| trial.tells_deal()) else {
        return Vec::new();
    };
    if key == "ec" && trial.is_told_by_meter() {
        return Vec::new();
    }
    let standing: Vec<&UnitTrack> = tracks
        .iter()
        .filter(|t| trial.units[t.unit].lost.is_none())
        .collect();
    // Units that were hardly read would leave no look at which all were.
    let most = standing.iter().map(|t| t.points.len()).max().unwrap_or(0);
    let own: Vec<&UnitTrack> = standing
        .into_iter()
        .filter(|t| 2 * t.points.len() > most)
        .collect();
    let days = last_days(&own);
    let (Some(&from), Some(&until)) = (days.first(), days.last()) else {
        return Vec::new();
    };
    let values: Vec<(UnitIndex, f64)> = own.iter().map(|t| (t.unit, mean_over(t, &days))).collect();
    against_control(trial, control, matters, &values, (from, until))
}

/// The treatments whose values lie apart from the control's by as much as matters, and by more than
/// chance does.
fn against_control(
    trial: &Trial,
    control: TreatmentIndex,
    matters: Matters,
    values: &[(UnitIndex, f64)],
    (from, until): (u32, u32),
) -> Vec<DriftApart> {
    let of = |treatment: TreatmentIndex| -> Vec<f64> {
        values
            .iter()
            .filter(|(unit, _)| trial.units[*unit].treatment == treatment)
            .map(|(_, value)| *value)
            .collect()
    };
    let ground = of(control);
    let mean = |values: &[f64]| values.iter().sum::<f64>() / values.len() as f64;
    let others = trial.plan.sheet.indices().filter(|t| *t != control);
    let allowed = ALLOWED / (trial.plan.treatments().max(2) - 1) as f64;
    let named = others.filter_map(|treatment| {
        let own = of(treatment);
        let told = welch(&own, &ground, 0.95).ok().flatten()?;
        let clear = told.p < allowed && matters.is_met(mean(&own), mean(&ground));
        clear.then_some(DriftApart {
            treatment,
            by: told.estimate,
            from,
            until,
        })
    });
    named.collect()
}

/// How far apart matters in what loggers record: common practice, no source. None for what plants
/// and lamps make of it.
fn logged_matters(quantity: Logged) -> Option<Matters> {
    Some(match quantity {
        Logged::AirTemperature | Logged::SolutionTemperature | Logged::DissolvedOxygen => {
            Matters::By(1.0)
        }
        Logged::Humidity => Matters::By(8.0),
        Logged::Light => Matters::Share(0.85),
        Logged::CarbonDioxide => Matters::By(100.0),
        Logged::Ph => Matters::By(0.3),
        Logged::Ec => Matters::By(0.2),
        Logged::Level => Matters::Share(0.5),
        Logged::Power => return None,
    })
}

/// Rows of the match sheet that set what a logger records: where they are what is compared, it may
/// differ.
fn is_compared(trial: &Trial, quantity: Logged) -> bool {
    let rows: &[&str] = match quantity {
        Logged::Light | Logged::AirTemperature => &["light", "light_hours"],
        Logged::Level => &["irrigation", "container"],
        Logged::SolutionTemperature | Logged::DissolvedOxygen => &["aeration", "container"],
        Logged::Ec => return trial.is_told_by_meter(),
        Logged::Humidity | Logged::CarbonDioxide | Logged::Ph | Logged::Power => &[],
    };
    let sheet = &trial.plan.sheet;
    let said = |key: &str, t| sheet.value(t, key).map(|v| v.trim().to_lowercase());
    rows.iter()
        .any(|key| sheet.pairs().any(|(a, b)| said(key, a) != said(key, b)))
}

/// The same for what loggers record in single units over some days: a mean of each unit that has a
/// probe.
#[must_use]
pub fn logged_apart(
    trial: &Trial,
    quantity: Logged,
    values: &[(UnitIndex, f64)],
    days: (u32, u32),
) -> Vec<DriftApart> {
    let control = trial
        .plan
        .sheet
        .control()
        .filter(|_| trial.tells_deal() && !is_compared(trial, quantity));
    let Some((control, matters)) = control.zip(logged_matters(quantity)) else {
        return Vec::new();
    };
    let stands = |(unit, _): &&(UnitIndex, f64)| {
        trial.units[*unit].lost.is_none() && trial.is_now(&trial.units[*unit])
    };
    let values: Vec<(UnitIndex, f64)> = values.iter().filter(stands).copied().collect();
    against_control(trial, control, matters, &values, days)
}

/// Between which values a reading is usual for the crop, where Stores know it.
#[must_use]
pub fn band(trial: &Trial, stores: &Stores, reading: &Reading) -> Option<(f64, f64)> {
    let keys = match reading.key {
        "ph" => (keys::PH_LEAST, keys::PH_MOST),
        "ec" => (keys::EC_LEAST_MS_PER_CM, keys::EC_MOST_MS_PER_CM),
        _ => return None,
    };
    let item = stores.find("crops", trial.plan.ask.crop.trim())?;
    Some((item.number(keys.0)?, item.number(keys.1)?))
}

/// Work on a day, as a tick below the tracks.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = TrackTick))]
pub struct Tick {
    /// Day.
    pub day: u32,
    /// What was done, or that something was noted.
    pub what: String,
}

/// What happened in the round that a trial is in, by day: work done and left out, notes, losses.
#[must_use]
pub fn ticks(trial: &Trial) -> Vec<Tick> {
    let now = |round: u32| round == trial.round;
    let mut found: BTreeSet<Tick> = BTreeSet::new();
    let mut add = |day, what: String| _ = found.insert(Tick { day, what });
    for work in trial
        .records
        .work()
        .iter()
        .filter(|w| now(w.head.round) && w.job != Job::Read)
    {
        let left = if work.skipped.is_some() {
            ", left out"
        } else {
            ""
        };
        add(work.head.day, format!("{}{left}", work.job.label()));
    }
    for giving in trial.records.givings().iter().filter(|g| now(g.head.round)) {
        add(
            giving.head.day,
            format!("{}, single ones", giving.job.label()),
        );
    }
    for note in trial.records.notes().iter().filter(|n| now(n.head.round)) {
        let whose = note
            .unit
            .map(|u| format!(" on {}", trial.units[u].code))
            .unwrap_or_default();
        add(note.head.day, format!("Note{whose}"));
    }
    for unit in trial.units.iter().filter(|u| trial.is_now(u)) {
        if let Some(day) = unit.lost.as_ref().and_then(|l| l.day) {
            add(day, format!("{} lost", unit.code));
        }
    }
    found.into_iter().collect()
}

/// The readings that have tracks, with their crop: those taken on at least two days. What is read
/// of the solution is left out where it may not be shown.
#[must_use]
pub fn with_tracks(
    trial: &Trial,
    shows_solution: bool,
) -> Vec<(&'static Reading, Option<CropNumber>)> {
    let mut days: BTreeMap<(&'static str, Option<CropNumber>), BTreeSet<u32>> = BTreeMap::new();
    let all = trial
        .records
        .units
        .iter()
        .flat_map(|u| &u.readings)
        .filter(|r| r.value.is_some());
    for reading in all {
        days.entry((reading.reading, reading.head.crop))
            .or_default()
            .insert(reading.head.day);
    }
    let several = days.into_iter().filter(|(_, days)| days.len() > 1);
    let known = several.filter_map(|((key, crop), _)| Some((find(key)?, crop)));
    let mut found: Vec<_> = known
        .filter(|(r, _)| shows_solution || !is_of_solution(r.key))
        .collect();
    // Those of the grower's own come last.
    let all = crate::catalogue::readings::ALL;
    let place = |r: &Reading| {
        all.iter()
            .position(|own| own.key == r.key)
            .unwrap_or(all.len())
    };
    found.sort_by_key(|(reading, crop)| (place(reading), *crop));
    found
}

#[cfg(test)]
mod tests;
