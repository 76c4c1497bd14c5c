//! Jugs: the units that are filled from one vessel, told by their codes and a number that says nothing of what is in it.

use crate::terms::indices::TreatmentIndex;
use crate::trial::Trial;
use serde::Serialize;

/// A vessel, and the units that are filled from it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Jug {
    /// Its number, from 1, in the order of the first code that it fills.
    pub number: usize,
    /// Codes of the units that it fills, in order; those written off are left out.
    pub codes: Vec<String>,
    /// Whether it is its turn on the day asked for, where treatments are given on days of their own.
    pub turn: bool,
    /// What it holds. Secret until the reveal.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub treatment: TreatmentIndex,
}

/// The jugs of the round that a trial is in; none before the deal. Numbers follow the codes, which are drawn at random, and
/// not the order of giving: that would name the control.
#[must_use]
pub fn jugs(trial: &Trial, day: Option<u32>) -> Vec<Jug> {
    let mut found: Vec<Jug> = Vec::new();
    // Units stand in the order of their codes; one that was lost keeps its jug's number.
    for (_, unit) in trial.each_unit().filter(|(_, u)| trial.is_now(u)) {
        let number = found.len() + 1;
        let place = found.iter().position(|j| j.treatment == unit.treatment).unwrap_or_else(|| {
            let turn = trial.plan.sheet.is_its_turn(unit.treatment, day);
            found.push(Jug { number, codes: Vec::new(), turn, treatment: unit.treatment });
            number - 1
        });
        if unit.lost.is_none() {
            found[place].codes.push(unit.code.clone());
        }
    }
    found
}
