//! The fairness ledger: rules checked from the plan and the records. One file a rule in `rules/`.
//!
//! The absence of records is itself said ("waits"), never a pass.

pub mod answer;
pub mod facts;
mod found;
pub mod rules;
pub mod trust;

pub use facts::{Claims, Facts, Known};

use answer::AnswerRecord;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;
use serde::Serialize;

/// An open finding.
#[derive(Debug, Clone, PartialEq, Serialize)]
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
    /// Station at which it can be mended, and where the records behind it are.
    pub station: &'static str,
    /// Codes of the units it speaks of, where it is of single ones.
    pub units: Vec<String>,
    /// What the grower says to it.
    pub answer: Option<AnswerRecord>,
    /// How much of each difference that is claimed it could make by itself, per cent, where that
    /// can be reckoned.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub makes: Vec<(TreatmentIndex, f64)>,
    /// Whether it names treatments or what is in them.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub names_treatments: bool,
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
    /// Whether it names treatments or what is in them: who must not know the key does not read it
    /// before the reveal.
    pub names_treatments: bool,
    /// Looks at the facts.
    pub check: fn(&Facts) -> Outcome,
    /// The units of which an open finding speaks, by code.
    pub units: fn(&Facts) -> Vec<String>,
    /// How much of each difference that is claimed what was found could make by itself, per cent;
    /// none where nobody can reckon it, or it points the other way.
    pub makes: fn(&Facts) -> Vec<(TreatmentIndex, f64)>,
}

/// What a finding could make cannot be reckoned.
fn unknown(_: &Facts) -> Vec<(TreatmentIndex, f64)> {
    Vec::new()
}

/// A finding that is of no single units.
fn of_all(_: &Facts) -> Vec<String> {
    Vec::new()
}

/// The ledger of one trial.
#[derive(Debug, Clone, PartialEq, Serialize, Default)]
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
            Outcome::Open {
                severity,
                seen,
                remedy,
            } => ledger.open.push(Finding {
                code: rule.code,
                title: rule.title,
                severity,
                seen,
                threatens: rule.threatens,
                remedy,
                station: rule.station,
                units: (rule.units)(facts),
                makes: (rule.makes)(facts),
                answer: facts.answers.iter().find(|a| a.code == rule.code).cloned(),
                names_treatments: rule.names_treatments,
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

#[cfg(test)]
mod faults;
