//! The fairness ledger: rules checked from the plan and the records. One file a rule in `rules/`.
//!
//! The absence of records is itself said ("waits"), never a pass.

pub mod rules;

use crate::mix::composition::Composition;
use crate::terms::severity::Severity;
use crate::trial::question::Ask;
use crate::trial::sheet::Sheet;
use crate::trial::space::Rack;
use serde::Serialize;

/// What the rules look at: an immutable picture of one trial.
#[derive(Debug, Clone, Default)]
pub struct Facts {
    /// What is asked.
    pub ask: Ask,
    /// The match sheet.
    pub sheet: Option<Sheet>,
    /// What is behind the names of the sheet.
    pub composition: Option<Composition>,
    /// The rack.
    pub rack: Rack,
    /// Whether the treatments were dealt.
    pub dealt: bool,
    /// Units of each treatment, as planned or placed: the lamps of a split plot, where a lamp is what was dealt.
    pub units_each: usize,
    /// Whether the grower chose the places.
    pub by_hand: bool,
    /// Levels that do not hold every treatment equally often, where they are meant to or the places were chosen.
    pub uneven_levels: Vec<String>,
    /// Whether one treatment stands wholly to one side of another.
    pub parted: bool,
    /// Gap between treatments' mean starting sizes, per cent of the mean of all; None unless every unit has one.
    pub start_gap_percent: Option<f64>,
    /// Edge slots of each treatment, in the order of the sheet; empty before the deal.
    pub edge_slots: Vec<usize>,
    /// Mean light of each treatment, µmol/m²/s; empty unless all places are measured.
    pub light_umol: Vec<f64>,
    /// Moves to the next slot, where rotation is planned.
    pub rotation: Option<Rotation>,
    /// Smallest difference that these units find 8 times in 10, per cent.
    pub sees_percent: Option<f64>,
    /// After the reveal: comparisons that stayed open, of how many.
    pub undecided: Option<(usize, usize)>,
    /// Days since sowing; None before it.
    pub day: Option<u32>,
    /// Days with at least one record.
    pub record_days: Vec<u32>,
    /// Number of records of any kind.
    pub records: usize,
    /// Units dealt, and those weighed.
    pub units: usize,
    /// Units with a harvest weight.
    pub weighed: usize,
    /// Units written off, with the reason.
    pub lost: Vec<String>,
    /// Whether the key was opened.
    pub revealed: bool,
    /// Day on which the key was opened, and units weighed by then.
    pub revealed_at: Option<(u32, usize)>,
    /// How often the pouring sheet was opened.
    pub pouring_sheets: usize,
    /// What was changed in the sealed plan after the first record.
    pub moved_goal_posts: Vec<String>,
}

/// Moves to the next slot.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Rotation {
    /// Moves that the plan has until now.
    pub planned: usize,
    /// Moves made.
    pub done: usize,
}

impl Facts {
    /// Number of treatments.
    #[must_use]
    pub fn treatments(&self) -> usize {
        self.sheet.as_ref().map_or(0, |s| s.treatments.len())
    }

    /// What stands in a place, in the plural.
    #[must_use]
    pub fn units_word(&self) -> &'static str {
        if self.rack.has_rounds() { "systems" } else { self.rack.kind.units() }
    }
}

/// An open finding.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Finding {
    /// Stable code.
    pub code: &'static str,
    /// The code in plain words.
    pub title: &'static str,
    /// How bad.
    pub severity: Severity,
    /// What was seen, with figures.
    pub seen: String,
    /// What it threatens.
    pub threatens: &'static str,
    /// What to do now or next time.
    pub remedy: String,
    /// Station at which it can be mended.
    pub station: &'static str,
}

/// What a rule says.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Outcome {
    /// Something to mend or to keep in mind.
    Open {
        /// How bad.
        severity: Severity,
        /// What was seen, with figures.
        seen: String,
        /// What to do.
        remedy: String,
    },
    /// Looked at and found sound.
    Sound(String),
    /// Nothing to look at yet.
    Waits,
}

/// A rule of the ledger.
pub struct Rule {
    /// Stable code.
    pub code: &'static str,
    /// The code in plain words.
    pub title: &'static str,
    /// What an open finding threatens.
    pub threatens: &'static str,
    /// Station at which it can be mended.
    pub station: &'static str,
    /// Looks at the facts.
    pub check: fn(&Facts) -> Outcome,
}

/// The ledger of one trial.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Default)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ledger {
    /// Open findings, worst first.
    pub open: Vec<Finding>,
    /// What was looked at and found sound.
    pub sound: Vec<String>,
    /// Titles of the rules that wait for records.
    pub waits: Vec<&'static str>,
}

/// Checks every rule.
#[must_use]
pub fn audit(facts: &Facts) -> Ledger {
    let mut ledger = Ledger::default();
    for rule in rules::ALL {
        match (rule.check)(facts) {
            Outcome::Open { severity, seen, remedy } => ledger.open.push(Finding {
                code: rule.code,
                title: rule.title,
                severity,
                seen,
                threatens: rule.threatens,
                remedy,
                station: rule.station,
            }),
            Outcome::Sound(what) => ledger.sound.push(what),
            Outcome::Waits => ledger.waits.push(rule.title),
        }
    }
    ledger.open.sort_by_key(|f| std::cmp::Reverse(f.severity));
    ledger
}

#[cfg(test)]
mod tests;
