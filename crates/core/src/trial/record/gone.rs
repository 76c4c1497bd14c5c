//! A sample of a unit that was never there, died or was thinned out.

use super::head::Head;
use super::kind::{Desk, Record, tidied};
use super::refusal::{Of, Refusal};
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records, SampleNumber};
use iron_twin_terms::indices::UnitIndex;
use serde::{Deserialize, Serialize};

/// A sample that is not there from a day on: nothing more is asked of it, and nothing of how it
/// ended is compared.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Gone {
    /// Why.
    pub why: GoneWhy,
    /// In the grower's own words.
    #[serde(default)]
    pub note: String,
}

/// Why a sample is not there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum GoneWhy {
    /// It died, or came to grief.
    Lost,
    /// It was taken out so that the others have room.
    Thinned,
    /// The unit has fewer than others from the start.
    NeverThere,
}

impl GoneWhy {
    /// As it is said of one, such as "lost".
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Lost => "lost",
            Self::Thinned => "thinned out",
            Self::NeverThere => "never there",
        }
    }
}

/// Longest note.
const MOST_NOTE: usize = 200;

impl Kept for Gone {
    const KIND: &'static str = "gone";
}

impl Records {
    /// Samples that were never there or are no longer, by day; each stands once.
    #[must_use]
    pub fn gone(&self) -> &[Recorded<Gone>] {
        self.of()
    }
}

impl Recorded<Gone> {
    /// From which day on: of one that was never there, from the first.
    #[must_use]
    pub fn day(&self) -> u32 {
        if self.why == GoneWhy::NeverThere {
            0
        } else {
            self.head.day
        }
    }
}

/// The last day on which something was read or weighed of a sample.
fn last_record(trial: &Trial, unit: UnitIndex, sample: SampleNumber) -> Option<u32> {
    let (own, sample) = (trial.of_unit(unit), Some(sample));
    let read = own
        .readings
        .iter()
        .filter(|r| r.head.sample == sample && r.value.is_some())
        .map(|r| r.head.day);
    let weighed = own
        .weighings()
        .iter()
        .filter(|w| w.head.sample == sample)
        .map(|w| w.head.day);
    let picks = trial.records.picks().iter();
    let picked = picks
        .filter(|p| p.unit == Some(unit) && p.head.sample == sample)
        .map(|p| p.head.day);
    read.chain(weighed).chain(picked).max()
}

impl Record for Gone {
    const OF: Of = Of::Part;

    fn place(&self, _: &Head) -> Option<String> {
        Some(String::new())
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let (trial, unit, code) = (desk.trial, desk.unit()?, desk.code());
        self.note = tidied("note", &self.note, MOST_NOTE)?;
        let most = trial.plan.ask.samples_inside;
        if most == 0 {
            return Err(Refusal::wrong(
                "sample",
                "no plants are followed one by one in this trial",
            ));
        }
        let Some(sample) = desk.head.sample else {
            return Err(Refusal::wrong("sample", "say which plants"));
        };
        let number = sample.get();
        if number > most {
            return Err(Refusal::wrong(
                "sample",
                format!("{code} has no plant {number}: {most} are followed"),
            ));
        }
        if let Some(known) = trial.gone(unit, Some(sample)) {
            let word = known.why.word();
            return Err(Refusal::wrong(
                "sample",
                format!("plant {number} of {code} is marked as {word} already"),
            ));
        }
        let last = last_record(trial, unit, sample);
        let later = last.filter(|last| self.why == GoneWhy::NeverThere || *last >= desk.head.day);
        if let Some(last) = later {
            let what = format!("plant {number} of {code} has a record on day {last}");
            return Err(Refusal::wrong(
                "sample",
                format!("{what}; take that back, or say a later day"),
            ));
        }
        if !trial.standing_samples(unit).flatten().any(|s| s != sample) {
            let why =
                format!("no plant of {code} would be left: write {code} off as a whole, at Weigh");
            return Err(Refusal::wrong("sample", why));
        }
        Ok(())
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        let number = head.sample.map_or(0, SampleNumber::get);
        format!("plant {number} of {} {}", head.code(trial), self.why.word())
    }
}
