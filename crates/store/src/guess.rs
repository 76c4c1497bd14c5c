//! Writing guesses: what somebody expects of a trial, before its key is opened.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::rows::rows;
use crate::standing::unit;
use crate::store::{Stamp, Store};

use iron_twin_core::terms::indices::TreatmentIndex;
use jiff::Timestamp;

/// What somebody expects.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum NewExpects {
    /// This treatment comes out best.
    Best(TreatmentIndex),
    /// No treatment differs.
    NoDifference,
    /// The unit with this code comes out best.
    Unit(String),
}

/// A guess as it is logged.
#[derive(Debug, Clone, PartialEq)]
pub struct NewGuess {
    /// Whose it is.
    pub name: String,
    /// What they expect.
    pub expects: NewExpects,
    /// By how much more than the control, %.
    pub by_percent: Option<f64>,
    /// Days since sowing; 0 before.
    pub day: u32,
    /// When it was made.
    pub at: Timestamp,
}

/// Longest name.
const MOST_NAME: usize = 80;
/// Largest difference that is guessed, %.
const MOST_PERCENT: f64 = 1000.0;

/// Trials whose guesses are told together, the newest.
const MOST_TRIALS: usize = 200;

impl Store {
    /// Trials with an open key and guesses, the newest first.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn guessed_trials(&self) -> Result<Vec<String>> {
        let sql = format!(
            "SELECT t.id FROM trial t WHERE t.revealed_at_us IS NOT NULL AND EXISTS (SELECT 1 FROM guess WHERE trial_no = t.no)
             ORDER BY t.revealed_at_us DESC LIMIT {MOST_TRIALS}"
        );
        self.read(|t| rows(t, &sql, [], |r| r.get(0)))
    }

    /// Logs a guess. It may come at any time before the key is open; a later one of the same name stands beside the earlier.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a nameless guess or an amount that cannot be; [`StoreError::NotFound`];
    /// [`StoreError::Locked`] after the reveal.
    pub fn log_guess(&self, stamp: &Stamp, id: &str, new: &NewGuess) -> Result<()> {
        let name = new.name.trim();
        if name.is_empty() || name.chars().count() > MOST_NAME {
            return Err(StoreError::refused("name", format!("say whose guess it is, in at most {MOST_NAME} letters")));
        }
        if new.by_percent.is_some_and(|by| !(by.abs() <= MOST_PERCENT)) {
            return Err(StoreError::refused("by_percent", format!("at most {MOST_PERCENT} %, either way")));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_some() {
                return Err(StoreError::Locked("the key is open: a guess comes too late"));
            }
            let (treatment, unit_no) = match &new.expects {
                NewExpects::NoDifference => (None, None),
                NewExpects::Best(own) if own.get() < trial.plan.treatments() => (Some(own.get() as i64), None),
                NewExpects::Best(own) => return Err(StoreError::NotFound { what: "treatment", id: own.to_string() }),
                NewExpects::Unit(code) => (None, Some(loaded.units[unit(trial, code)?])),
            };
            t.execute(
                "INSERT INTO guess (trial_no, name, treatment, unit_no, by_percent, day, round, at_us, entered_at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?11, ?9, ?10)",
                rusqlite::params![
                    loaded.no,
                    name,
                    treatment,
                    unit_no,
                    new.by_percent,
                    new.day,
                    trial.round,
                    new.at.as_microsecond(),
                    &stamp.who,
                    t.count_record(&loaded)?,
                    stamp.now.as_microsecond(),
                ],
            )?;
            let own = t.last_insert_rowid();
            let after = row(t, "guess", own)?;
            let entry = Entry {
                trial: id,
                action: "logged a guess",
                entity: "guess",
                id: &own.to_string(),
                before: None,
                after,
            };
            append(t, stamp, entry)
        })
    }
}
