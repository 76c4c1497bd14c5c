//! A treatment whose units were all written off: no figure is left to compare, but that it lost
//! them is a result.

use crate::trial::Trial;
use crate::trial::deal::Unit;
use iron_twin_judge::wording::in_hundred;
use iron_twin_stats::redeal::{Block, redeal};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::words::capitalised;
use serde::Serialize;
use std::collections::BTreeMap;

/// A treatment that lost all its units.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Gone {
    /// Name of the treatment.
    pub treatment: String,
    /// Its units, all written off.
    pub units: usize,
    /// Units of the control.
    pub of_control: usize,
    /// Units of the control that were written off.
    pub lost_control: usize,
    /// Days since sowing on which they were lost, earliest first; empty unless each has one.
    pub days: Vec<u32>,
    /// Share of the deals that part losses and units as unevenly; null where nothing could be
    /// dealt.
    pub p: Option<f64>,
    /// Whether so uneven a loss is unlikely to be luck.
    pub told: bool,
    /// In words.
    pub sentence: String,
}

/// Chance that is left for error.
const OUTSIDE: f64 = 0.05;

/// Whether a treatment has units, and all were written off.
#[must_use]
pub fn is_gone(trial: &Trial, treatment: TreatmentIndex) -> bool {
    let mut own = trial
        .units
        .iter()
        .filter(|u| u.treatment == treatment)
        .peekable();
    own.peek().is_some() && own.all(|u| u.lost.is_some())
}

/// The treatments other than the control that lost all their units, each against the control: every
/// way in which the units of the two could have been dealt inside their blocks is counted, losses
/// as they were. None before the reveal.
#[must_use]
pub fn gone(trial: &Trial) -> Vec<Gone> {
    let (Some(control), Some(_)) = (trial.plan.sheet.control(), &trial.reveal) else {
        return Vec::new();
    };
    let treatments = trial.plan.sheet.indices();
    let lost = treatments.filter(|t| *t != control && is_gone(trial, *t));
    lost.map(|t| against(trial, t, control)).collect()
}

fn against(trial: &Trial, treatment: TreatmentIndex, control: TreatmentIndex) -> Gone {
    let (rack, several) = (&trial.plan.rack, trial.plan.rack.kind.units());
    let blocks = rack.block_names(trial.plan.treatments());
    let compared = rack.blocks(trial.plan.treatments()) > 1;
    let mut dealt: BTreeMap<String, Block> = BTreeMap::new();
    let (mut units, mut of_control, mut lost_control) = (0, 0, 0);
    let (mut reasons, mut days) = (Vec::new(), Vec::new());
    let of_both = |u: &&Unit| u.treatment == treatment || u.treatment == control;
    for unit in trial.units.iter().filter(of_both) {
        let block = blocks(unit.position).filter(|_| compared);
        let own = dealt.entry(block.unwrap_or_default()).or_default();
        let value = if unit.lost.is_some() { 1.0 } else { 0.0 };
        if unit.treatment == treatment {
            own.treated.push(value);
            units += 1;
            days.extend(unit.lost.as_ref().and_then(|l| l.day));
            let why = unit.lost.as_ref().map_or("", |l| l.reason.trim());
            if !why.is_empty() && !reasons.contains(&why) {
                reasons.push(why);
            }
        } else {
            own.control.push(value);
            of_control += 1;
            lost_control += usize::from(unit.lost.is_some());
        }
    }
    // Lamps and the systems of a swap-over were dealt otherwise than unit by unit.
    let by_unit = !trial.is_by_level() && !rack.has_rounds() && rack.settings() < 2;
    let deals: Vec<Block> = dealt.into_values().collect();
    let tried = by_unit && lost_control < of_control;
    let p = redeal(&deals, 1).filter(|_| tried).map(|f| f.p);
    let told = p.is_some_and(|p| p < OUTSIDE);
    let treatments = &trial.plan.sheet.treatments;
    let (name, base) = (&treatments[treatment].name, &treatments[control].name);
    days.sort_unstable();
    if days.len() < units {
        days.clear();
    }
    let kept = match lost_control {
        0 => format!("{base} none of {of_control}"),
        n => format!("{base} {n} of {of_control}"),
    };
    let lead = format!(
        "{} lost all of its {units} {several}{}{}, {kept}",
        capitalised(name),
        given_reasons(&reasons),
        when(&days)
    );
    let sentence = said(&lead, several, p.map(in_hundred), told);
    Gone {
        treatment: name.clone(),
        units,
        of_control,
        lost_control,
        days,
        p,
        told,
        sentence,
    }
}

/// The reasons that were given, in brackets; nothing where none was.
fn given_reasons(reasons: &[&str]) -> String {
    if reasons.is_empty() {
        String::new()
    } else {
        format!(" ({})", reasons.join("; "))
    }
}

/// Whether luck could have parted the losses so.
fn said(lead: &str, several: &str, chance: Option<String>, told: bool) -> String {
    match (chance, told) {
        (Some(chance), true) => {
            format!(
                "{lead}. Dealing the {several} anew parts the losses like this in {chance} of 100 \
                 deals, so luck is unlikely."
            )
        }
        (Some(chance), false) => format!(
            "{lead}. Can't tell whether the treatment did it: dealing the {several} anew parts \
             the losses like this in {chance} of 100 deals."
        ),
        (None, _) => format!("{lead}. Can't tell whether the treatment did it."),
    }
}

/// On which days they went: the first, the last, and by when half of them were gone.
fn when(days: &[u32]) -> String {
    let (Some(first), Some(last)) = (days.first(), days.last()) else {
        return String::new();
    };
    let half = days[days.len().div_ceil(2) - 1];
    match () {
        () if first == last => format!(" on day {first}"),
        () if half == *last || half == *first => format!(" from day {first} to day {last}"),
        () => format!(" from day {first} to day {last}, half of them by day {half}"),
    }
}
