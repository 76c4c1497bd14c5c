//! What was cut or picked of a unit on one day, of one grade: before one harvest at the end, or in
//! its place.

use super::head::Head;
use super::kind::{Desk, Heading, Record};
use super::refusal::{Of, Refusal};
use super::weighing::{net_g, question, to_milligram};
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use crate::trial::waves::MOST_PIECES;
use serde::{Deserialize, Serialize};

/// What was cut or picked of a unit on one day, of one grade.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Pick {
    /// Container and all, g; as much as the container where nothing was ripe.
    pub gross_g: f64,
    /// Container alone, g.
    pub tare_g: f64,
    /// Pieces; null where they were not counted.
    #[serde(default)]
    pub pieces: Option<u32>,
    /// Its grade; empty where it was not sorted.
    #[serde(default)]
    pub grade: String,
    /// Taken outside a wave, as for the kitchen: it counts, and the ledger looks whether every unit
    /// gave as much.
    #[serde(default)]
    pub aside: bool,
}

impl Pick {
    /// Net, g; 0 where it was looked at and nothing was ripe.
    #[must_use]
    pub fn net_g(&self) -> f64 {
        to_milligram(self.gross_g - self.tare_g)
    }
}

impl Kept for Pick {
    const KIND: &'static str = "pick";
}

impl Records {
    /// What was cut or picked before one harvest at the end, or in its place, by day.
    #[must_use]
    pub fn picks(&self) -> &[Recorded<Pick>] {
        self.of()
    }
}

impl Pick {
    /// What is asked about before it is taken: a second one of the same grade on that day, a weight
    /// far from its siblings'.
    fn asked(&self, desk: &Desk<'_>) -> Result<Option<String>, Refusal> {
        let (trial, head, unit) = (desk.trial, desk.head, desk.unit()?);
        let same = |p: &&Recorded<Pick>| {
            p.head.day == head.day
                && p.grade == self.grade
                && p.head.sample == head.sample
                && p.aside == self.aside
        };
        if let Some(before) = trial.picks_of(unit, head.crop).find(same) {
            let of = if self.grade.is_empty() {
                String::new()
            } else {
                format!(" of {}", self.grade)
            };
            let (g, code) = (before.net_g(), desk.code());
            return Ok(Some(format!(
                "{g} g{of} stand there for {code} on this day already. Is this more?"
            )));
        }
        // Pieces that are much lighter or heavier than all of its grade so far.
        let piece_g = |net_g: f64, pieces: Option<u32>| {
            pieces.filter(|n| *n > 0).map(|n| net_g / f64::from(n))
        };
        let alike = trial
            .records
            .picks()
            .iter()
            .filter(|p| p.head.crop == head.crop && p.grade == self.grade);
        let siblings: Vec<f64> = alike.filter_map(|p| piece_g(p.net_g(), p.pieces)).collect();
        let Some(own) = piece_g(self.net_g(), self.pieces) else {
            return Ok(None);
        };
        Ok(question(own, &siblings).map(|said| format!("By the piece, {}: {said}", desk.code())))
    }
}

impl Record for Pick {
    const OF: Of = Of::Part;
    const HEADING: Heading = Heading::Weights;

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let (trial, head, unit) = (desk.trial, desk.head, desk.unit()?);
        if trial.units[unit].lost.is_some() {
            return Err(Refusal::locked(
                "this unit was written off; take that back first",
            ));
        }
        if !trial
            .plan
            .ask
            .weighed_parts()
            .any(|part| part == (head.crop, head.sample))
        {
            let why = "name what is picked as it is weighed: the crop, the plant, or the whole";
            return Err(Refusal::wrong("crop", why));
        }
        desk.check_sample_stands()?;
        let waves = trial.plan.ask.waves.as_ref();
        if !self.aside && waves.is_none() {
            let why = "this trial has one harvest at the end: record what you took earlier as \
                       taken aside, or plan a harvest in waves at Ask";
            return Err(Refusal::wrong("aside", why));
        }
        if !self.grade.is_empty()
            && !waves.is_some_and(|w| w.grades.iter().any(|g| g.name == self.grade))
        {
            return Err(Refusal::wrong(
                "grade",
                format!("the plan has no grade '{}'", self.grade),
            ));
        }
        if self.pieces.is_some_and(|n| n > MOST_PIECES) {
            return Err(Refusal::wrong(
                "pieces",
                format!("at most {MOST_PIECES} pieces at once"),
            ));
        }
        let net_g = net_g(self.gross_g, self.tare_g).map_err(|e| Refusal::wrong("gross_g", e))?;
        if net_g == 0.0 && self.pieces.is_some_and(|n| n > 0) {
            return Err(Refusal::wrong(
                "gross_g",
                "pieces that weigh nothing: weigh them, or leave the number empty",
            ));
        }
        self.asked(desk)?.map_or(Ok(()), |asked| desk.ask(asked))
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        let (code, net_g) = (head.code(trial), self.net_g());
        let pieces = self
            .pieces
            .map_or_else(String::new, |n| format!(", {n} pieces"));
        let grade = if self.grade.is_empty() {
            String::new()
        } else {
            format!(" {}", self.grade)
        };
        match (net_g == 0.0, self.aside) {
            (true, _) => format!("nothing ripe on {code}"),
            (_, true) => format!("taken aside from {code}: {net_g} g{pieces}"),
            _ => format!("picked from {code}: {net_g} g{grade}{pieces}"),
        }
    }
}
