//! A unit written off, or that taken back.

use super::head::Head;
use super::kind::{Desk, MOST_LETTERS, Record, tidied};
use super::refusal::{Of, Refusal, Stage};
use crate::trial::Trial;
use crate::trial::deal::Loss;
use crate::trial::records::{Kept, Recorded, Records};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// A unit written off, or that taken back; the last word stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct WriteOff {
    /// What happened to it; null takes it back.
    pub reason: Option<String>,
    /// The day on which it was lost, counted from sowing; that of the head, and null before the
    /// sowing.
    #[serde(default)]
    pub day: Option<u32>,
}

impl Kept for WriteOff {
    const KIND: &'static str = "write_off";
}

impl Records {
    /// Units written off, or that taken back.
    #[must_use]
    pub fn write_offs(&self) -> &[Recorded<WriteOff>] {
        self.of()
    }
}

impl Trial {
    /// Lets every unit stand or be lost as its records say.
    pub fn settle_losses(&mut self) {
        let mut lost: Vec<Option<Loss>> = vec![None; self.units.len()];
        for own in self.records.write_offs() {
            let loss = own.reason.clone().map(|reason| Loss {
                reason,
                day: own.day,
            });
            if let Some(place) = own.unit.and_then(|unit| lost.get_mut(unit.get())) {
                *place = loss;
            }
        }
        if self
            .units
            .iter()
            .zip(&lost)
            .any(|(unit, loss)| unit.lost != *loss)
        {
            for (unit, loss) in Arc::make_mut(&mut self.units).iter_mut().zip(lost) {
                unit.lost = loss;
            }
        }
    }
}

impl Record for WriteOff {
    const OF: Of = Of::UnitOrTrial;

    fn stage(&self) -> Stage {
        Stage::Dealt
    }

    fn place(&self, _: &Head) -> Option<String> {
        Some(String::new())
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        desk.unit()?;
        if let Some(reason) = &mut self.reason {
            *reason = tidied("reason", reason, MOST_LETTERS)?;
            if reason.is_empty() {
                return Err(Refusal::wrong("reason", "say what happened to the tray"));
            }
        }
        self.day = desk
            .trial
            .sown_on
            .filter(|_| self.reason.is_some())
            .map(|_| desk.head.day);
        Ok(())
    }

    fn told(&self, _: &Trial, _: &Head) -> String {
        "wrote off".to_owned()
    }
}
