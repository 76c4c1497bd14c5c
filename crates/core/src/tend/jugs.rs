//! Jugs: the units that are filled from one vessel, told by their codes and a number that says
//! nothing of what is in it.

use crate::trial::Trial;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// A vessel, and the units that are filled from it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Jug {
    /// Its number, from 1, in the order of the first code that it fills.
    pub number: usize,
    /// Codes of the units that it fills, in order; those written off are left out.
    pub codes: Vec<String>,
    /// Whether it is its turn on the day asked for, where treatments are given on days of their
    /// own.
    pub turn: bool,
    /// What it holds. Secret until the reveal.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub treatment: TreatmentIndex,
}

/// The jugs of the round that a trial is in; none before the deal. Numbers follow the codes, which
/// are drawn at random, and not the order of giving: that would name the control.
#[must_use]
pub fn jugs(trial: &Trial, day: Option<u32>) -> Vec<Jug> {
    let jug = |(place, treatment)| Jug {
        number: place + 1,
        codes: Vec::new(),
        turn: trial.plan.sheet.is_its_turn(treatment, day),
        treatment,
    };
    // One that lost all its units keeps its number.
    let mut found: Vec<Jug> = trial.jug_order().into_iter().enumerate().map(jug).collect();
    for (_, unit) in trial
        .each_unit()
        .filter(|(_, u)| trial.is_now(u) && u.lost.is_none())
    {
        if let Some(own) = found.iter_mut().find(|jug| jug.treatment == unit.treatment) {
            own.codes.push(unit.code.clone());
        }
    }
    found
}
