//! Trials kept in memory between requests, so that a screen does not read thousands of rows again.

use crate::outline::Outlined;
use crate::trial::Loaded;
use std::collections::HashMap;
use std::sync::{Mutex, PoisonError};

/// Readings kept in memory at most, over all trials: about 100 bytes each.
const MOST_READINGS: usize = 400_000;
/// Trials kept at most.
const MOST_TRIALS: usize = 300;

/// Trials as they were last loaded.
#[derive(Default)]
pub(crate) struct Memory {
    trials: Mutex<HashMap<String, Loaded>>,
    outlines: Mutex<HashMap<String, Outlined>>,
}

/// Outlines kept at most.
const MOST_OUTLINES: usize = 1000;

impl Memory {
    /// A trial as it was last loaded.
    pub(crate) fn get(&self, id: &str) -> Option<Loaded> {
        self.trials
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .get(id)
            .cloned()
    }

    /// Keeps a trial, unless a newer one is there; lets all others go where that would be too much.
    pub(crate) fn keep(&self, loaded: &Loaded) {
        let mut kept = self.trials.lock().unwrap_or_else(PoisonError::into_inner);
        if kept
            .get(&loaded.trial.id)
            .is_some_and(|own| own.at >= loaded.at)
        {
            return;
        }
        kept.insert(loaded.trial.id.clone(), loaded.clone());
        let readings: usize = kept.values().map(|l| l.trial.records.readings()).sum();
        if readings > MOST_READINGS || kept.len() > MOST_TRIALS {
            kept.retain(|id, _| *id == loaded.trial.id);
        }
    }

    /// The outline of a trial as it was last read.
    pub(crate) fn outline(&self, id: &str) -> Option<Outlined> {
        self.outlines
            .lock()
            .unwrap_or_else(PoisonError::into_inner)
            .get(id)
            .cloned()
    }

    /// Keeps an outline; lets all others go where there would be too many.
    pub(crate) fn keep_outline(&self, id: &str, outlined: &Outlined) {
        let mut kept = self.outlines.lock().unwrap_or_else(PoisonError::into_inner);
        if kept.len() >= MOST_OUTLINES {
            kept.clear();
        }
        kept.insert(id.to_owned(), outlined.clone());
    }
}
