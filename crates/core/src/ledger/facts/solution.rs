//! What was read of the solutions.

use crate::catalogue::deeds::Job;
use crate::catalogue::readings::{Reading, ec, find, ph};
use crate::catalogue::spaces::SpaceKind;
use crate::stores::Stores;
use crate::tend::tracks::{band, drifting_apart, unit_tracks};
use crate::trial::Trial;
use crate::trial::application::Role;
use iron_twin_terms::severity::Severity;

/// What was read of the solutions.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Solution {
    /// Readings of pH and EC with a value.
    pub readings: usize,
    /// Whether the plan has had some read by now.
    pub due: bool,
    /// Whether there is a solution to be read.
    pub is_there: bool,
    /// Readings out of their band.
    pub outside: Vec<Outside>,
    /// Treatments that drifted from the control, in words, with how bad that is.
    pub apart: Vec<(String, Severity)>,
}

/// Readings of one kind that lay out of their band.
#[derive(Debug, Clone, PartialEq)]
pub struct Outside {
    /// Of what.
    pub name: &'static str,
    /// The band.
    pub band: (f64, f64),
    /// How many lay out of it.
    pub out: usize,
    /// Of how many.
    pub of: usize,
}

/// How far pH may wander from what the mix aims at: common practice, no source.
const PH_WANDERS: f64 = 0.5;

/// Conditions that change what the solution is by themselves.
const MAKES_SOLUTION: [&str; 3] = ["water", "medium", "aeration"];

/// What was read of the solutions until a day.
#[must_use]
pub fn look(trial: &Trial, stores: &Stores, today: Option<u32>) -> Option<Solution> {
    let today = today?;
    let care = &trial.plan.care;
    let by_water = trial.is_told_by_meter();
    let fed = trial
        .plan
        .sheet
        .indices()
        .all(|t| trial.plan.sheet.gets(t, Role::Feed));
    let sheet = &trial.plan.sheet;
    let made = MAKES_SOLUTION.iter().any(|key| {
        sheet
            .pairs()
            .any(|(a, b)| sheet.value(a, key) != sheet.value(b, key))
    });
    let mut seen = Solution {
        due: care.read_every > 0 && today > care.first(Job::Read) + care.read_every,
        is_there: trial.plan.rack.kind != SpaceKind::Sites,
        ..Solution::default()
    };
    for reading in [&ph::READING, &ec::READING] {
        let values: Vec<f64> = trial
            .unit_indices()
            .flat_map(|unit| {
                trial
                    .of_unit(unit)
                    .of(reading.key, None, None)
                    .map(|(_, value)| value)
            })
            .collect();
        seen.readings += values.len();
        // Where what is stirred in is compared, or nobody is fed, EC is what it is.
        let belongs = if reading.key == "ec" && (by_water || !fed) {
            None
        } else {
            belongs(trial, stores, reading)
        };
        if let Some(band) = belongs {
            let out = values
                .iter()
                .filter(|v| !(band.0..=band.1).contains(*v))
                .count();
            seen.outside.push(Outside {
                name: reading.name,
                band,
                out,
                of: values.len(),
            });
        }
    }
    if trial.reveal.is_some() {
        seen.apart = apart(trial, by_water || made);
    }
    Some(seen)
}

/// Solutions that drifted away from the control's, in words.
fn apart(trial: &Trial, is_minor: bool) -> Vec<(String, Severity)> {
    let sheet = &trial.plan.sheet;
    let mut found = Vec::new();
    for reading in ["ph", "ec"].into_iter().filter_map(find) {
        let tracks = unit_tracks(trial, reading, None);
        for apart in drifting_apart(trial, reading, &tracks) {
            let name = sheet
                .get(apart.treatment)
                .map_or("one treatment", |t| t.name.as_str());
            let way = if apart.by > 0.0 { "above" } else { "below" };
            let unit = if reading.unit.is_empty() {
                String::new()
            } else {
                format!(" {}", reading.unit)
            };
            let words = format!(
                "{} of {name} lay {:.1}{unit} {way} the control's, days {} to {}.",
                reading.name,
                apart.by.abs(),
                apart.from,
                apart.until
            );
            found.push((
                words,
                if is_minor {
                    Severity::Minor
                } else {
                    Severity::Serious
                },
            ));
        }
    }
    found
}

/// Between which values a reading belongs: around what the mix aims at, else where the crop usually
/// stands.
fn belongs(trial: &Trial, stores: &Stores, reading: &Reading) -> Option<(f64, f64)> {
    let aimed = trial
        .plan
        .feed
        .ph
        .as_ref()
        .filter(|_| reading.key == "ph")
        .map(|p| p.target_ph);
    aimed
        .map(|ph| (ph - PH_WANDERS, ph + PH_WANDERS))
        .or_else(|| band(trial, stores, reading))
}
