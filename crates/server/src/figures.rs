//! What is computed from a trial and kept by the version of its inputs: analyses, and the spread a
//! trial is planned with. Whoever asks while it is being computed waits for that one computation.

use crate::error::Problem;
use iron_twin_core::across::spread::{Spread, TrialSpread, pool};
use iron_twin_core::after::ranking::{Ranked, ranked};
use iron_twin_core::ask::sees::sees_percent;
use iron_twin_core::ledger::Known;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::records::CropNumber;
use iron_twin_core::verdict::comparison::{self, CompareError, DoseAnswer};
use iron_twin_judge::result::Analysis;
use iron_twin_store::{Stamp, Store};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::kind::Kind;
use jiff::Timestamp;
use std::collections::HashMap;
use std::hash::Hash;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

/// Answers kept at most; beyond it all are let go, and those wanted are made anew.
const MOST_KEPT: usize = 500;

/// Answers by what they hang on, each computed once however many ask at the same time.
struct Kept<K, V>(Mutex<HashMap<K, Arc<OnceLock<V>>>>);

impl<K: Eq + Hash, V: Clone> Kept<K, V> {
    fn new() -> Self {
        Self(Mutex::new(HashMap::new()))
    }

    fn get(&self, key: K, compute: impl FnOnce() -> V) -> V {
        let cell = {
            let mut all = self.0.lock().unwrap_or_else(PoisonError::into_inner);
            if all.len() >= MOST_KEPT {
                all.retain(|_, cell| cell.get().is_none());
            }
            Arc::clone(all.entry(key).or_default())
        };
        // Computed outside the lock, so that other answers need not wait for this one.
        cell.get_or_init(compute).clone()
    }
}

/// What an analysis hangs on.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
struct Analysed {
    trial: String,
    version: i64,
    changed: i64,
    measure: String,
    crop: Option<CropNumber>,
    against: Option<TreatmentIndex>,
}

impl Analysed {
    fn of(
        trial: &Trial,
        judged: Judged,
        crop: Option<CropNumber>,
        against: Option<TreatmentIndex>,
    ) -> Self {
        let (version, changed, measure) = (trial.version, trial.changed, judged.id());
        Self {
            trial: trial.id.clone(),
            version,
            changed,
            measure,
            crop,
            against,
        }
    }
}

/// Answers that several screens ask for.
pub(crate) struct Figures {
    analyses: Kept<Analysed, Result<Arc<Analysis>, CompareError>>,
    ranked: Kept<Analysed, Option<Arc<Ranked>>>,
    doses: Kept<Analysed, Option<Arc<DoseAnswer>>>,
    codes: Kept<String, Result<Vec<String>, Problem>>,
}

impl Figures {
    pub(crate) fn new() -> Self {
        Self {
            analyses: Kept::new(),
            ranked: Kept::new(),
            doses: Kept::new(),
            codes: Kept::new(),
        }
    }

    /// The analysis of an opened trial, every treatment compared with the control, or with a
    /// benchmark.
    pub(crate) fn analysis(
        &self,
        trial: &Trial,
        judged: Judged,
        crop: Option<CropNumber>,
        against: Option<TreatmentIndex>,
    ) -> Result<Arc<Analysis>, CompareError> {
        let key = Analysed::of(trial, judged, crop, against);
        self.analyses.get(key, || {
            comparison::analysis(trial, judged, crop, against).map(Arc::new)
        })
    }

    /// The treatments from best to worst by what decides; None where they have no order.
    pub(crate) fn ranked(&self, trial: &Trial, crop: Option<CropNumber>) -> Option<Arc<Ranked>> {
        let judged = trial.decides();
        self.ranked
            .get(Analysed::of(trial, judged, crop, None), || {
                ranked(trial, judged, crop).map(Arc::new)
            })
    }

    /// How much is enough, where treatments are a ladder of doses: its limits are drawn by many
    /// trials, so it is kept.
    pub(crate) fn dose(
        &self,
        trial: &Trial,
        judged: Judged,
        crop: Option<CropNumber>,
    ) -> Option<Arc<DoseAnswer>> {
        let key = Analysed::of(trial, judged, crop, None);
        self.doses
            .get(key, || comparison::dose(trial, judged, crop).map(Arc::new))
    }

    /// The QR code of an address.
    pub(crate) fn code(
        &self,
        link: &str,
        make: impl FnOnce() -> Result<Vec<String>, Problem>,
    ) -> Result<Vec<String>, Problem> {
        self.codes.get(link.to_owned(), make)
    }

    /// What the ledger is told beside the trial.
    pub(crate) fn known(&self, trial: &Trial, spread: &Spread) -> Known {
        let sees = sees_percent(trial, spread.cv_percent);
        if trial.reveal.is_none() {
            return Known::planned(sees);
        }
        // Where crops share a unit, each crop's comparisons count.
        let crops = trial.plan.ask.parts();
        let found: Vec<Arc<Analysis>> = crops
            .filter_map(|crop| self.analysis(trial, trial.decides(), crop, None).ok())
            .collect();
        Known::opened(trial, sees, found.iter().map(|own| &**own))
    }

    /// What a finished trial says about spread.
    fn own_spread(&self, trial: &Trial) -> Option<TrialSpread> {
        // Levels that were dealt as a whole say how lamps differ, not how trays do.
        if trial.is_by_level() {
            return None;
        }
        // The spread among units is that of one crop in each.
        let crop = CropNumber::new(1).filter(|_| !trial.plan.ask.crops_inside.is_empty());
        let residual = self
            .analysis(trial, trial.decides(), crop, None)
            .ok()?
            .residual
            .clone();
        Some(TrialSpread {
            cv_percent: residual.cv_percent?,
            df: residual.df,
        })
    }

    /// The spread among units of one treatment with which a trial is planned: from the grower's own
    /// finished trials of that crop and measure, else the usual figure. What a finished trial says
    /// is kept with it.
    pub(crate) fn spread(&self, store: &Store, trial: &Trial) -> Result<Spread, Problem> {
        let measure = trial.primary();
        let mut list = Vec::new();
        if measure.kind == Kind::Amount {
            for other in store.finished_alike(&trial.plan.ask.crop, measure.key)? {
                if other.id == trial.id {
                    continue;
                }
                let own = if other.known {
                    other.spread
                } else {
                    let own = self.own_spread(&*store.trial(&other.id)?);
                    store.keep_spread(&Stamp::owner(Timestamp::now()), &other.id, own)?;
                    own
                };
                list.extend(own);
            }
        }
        pool(
            &list,
            measure.usual_cv_percent * trial.plan.rack.kind.spread(),
        )
        .map_err(|e| Problem::internal(&e))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::atomic::{AtomicUsize, Ordering};

    #[test]
    fn all_who_wait_share_one_computation() {
        let (kept, made) = (Kept::<u32, u32>::new(), AtomicUsize::new(0));
        let compute = || {
            std::thread::sleep(std::time::Duration::from_millis(30));
            made.fetch_add(1, Ordering::SeqCst);
            7
        };
        std::thread::scope(|s| {
            (0..8).for_each(|_| drop(s.spawn(|| assert_eq!(kept.get(1, compute), 7))))
        });
        assert_eq!(made.load(Ordering::SeqCst), 1);
        assert_eq!(kept.get(2, || 9), 9, "another key is another answer");
    }
}
