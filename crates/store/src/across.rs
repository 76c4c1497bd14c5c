//! What is read over many trials: what was decided after others of the same crop, and which have
//! guesses.

use crate::error::Result;
use crate::rows::{rows, unreadable};
use crate::store::Store;
use crate::time::instant;
use iron_twin_core::trial::decided::DecisionRecord;
use iron_twin_core::trial::record::decision::Decision;
use rusqlite::Row;

/// What was decided after an earlier trial.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct DecidedBefore {
    /// The trial.
    pub trial: String,
    /// Its name.
    pub name: String,
    /// What was decided.
    pub decision: DecisionRecord,
}

/// Trials whose decisions are told beside a new one.
const MOST_BEFORE: usize = 12;
/// Trials whose guesses are told together, the newest.
const MOST_GUESSED: usize = 200;

fn decided(r: &Row<'_>) -> rusqlite::Result<DecidedBefore> {
    let Decision {
        decides,
        treatment,
        units,
        reason,
    } = serde_json::from_str(r.get_ref("body")?.as_str()?).map_err(unreadable)?;
    let (who, at) = (r.get("who")?, instant(r.get("at_us")?));
    let decision = DecisionRecord {
        decides,
        treatment,
        units,
        reason,
        who,
        at,
    };
    Ok(DecidedBefore {
        trial: r.get("id")?,
        name: r.get("name")?,
        decision,
    })
}

impl Store {
    /// What was decided after other trials of the same crop, newest first; of each trial the last
    /// word.
    ///
    /// # Errors
    /// [`crate::StoreError::Sqlite`].
    pub fn decided_before(&self, id: &str) -> Result<Vec<DecidedBefore>> {
        let sql = format!(
            "SELECT d.body, d.who, d.at_us, t.id, t.name FROM trial own JOIN trial t ON t.no \
             <> own.no AND lower(trim(t.crop)) = lower(trim(own.crop)) AND trim(t.crop) <> '' \
             JOIN record d ON d.trial_no = t.no AND d.kind = 'decision' WHERE own.id = ?1 AND \
             d.no = (SELECT max(no) FROM record WHERE trial_no = t.no AND kind = 'decision') \
             ORDER BY d.at_us DESC LIMIT {MOST_BEFORE}"
        );
        self.read(|t| rows(t, &sql, [id], decided))
    }

    /// Trials with an open key and guesses, the newest first.
    ///
    /// # Errors
    /// [`crate::StoreError::Sqlite`].
    pub fn guessed_trials(&self) -> Result<Vec<String>> {
        let sql = format!(
            "SELECT t.id FROM trial t WHERE t.revealed_at_us IS NOT NULL
               AND EXISTS (SELECT 1 FROM record WHERE trial_no = t.no AND kind = 'guess')
             ORDER BY t.revealed_at_us DESC LIMIT {MOST_GUESSED}"
        );
        self.read(|t| rows(t, &sql, [], |r| r.get(0)))
    }
}
