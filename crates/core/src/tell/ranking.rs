//! Several treatments from best to worst, with those that tie told as ties.

use super::comparison;
use crate::judge::result::Analysis;
use crate::judge::wording::trimmed;
use crate::terms::goal::{Better, Goal};
use crate::terms::kind::Kind;
use crate::terms::words::{and, capitalised};
use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::records::CropNumber;
use std::sync::Arc;

/// The treatments from best to worst.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ranked {
    /// Those that may be the best.
    pub may_be_best: Vec<String>,
    /// All of them, in a sentence.
    pub said: String,
}

/// The treatments by what they gave, and which of them may be the best: every pair is held against each other together
/// (Tukey), so that two that cannot be told apart share their place. None before the key is open, for two treatments, and where
/// nothing tells units apart.
#[must_use]
pub fn ranked(trial: &Trial, judged: Judged, only: Option<CropNumber>) -> Option<Ranked> {
    trial.reveal.as_ref()?;
    if trial.plan.treatments() < 3 {
        return None;
    }
    let mut own = trial.clone();
    Arc::make_mut(&mut own.plan).ask.goal = Goal::Best;
    let analysis = comparison::analysis(&own, judged, only, None).ok()?;
    let may_be_best = analysis.best.clone()?;
    Some(Ranked { said: said(&analysis, &may_be_best, judged), may_be_best })
}

fn said(analysis: &Analysis, best: &[String], judged: Judged) -> String {
    let mut order: Vec<(&str, f64)> = analysis.treatments.iter().map(|t| (t.name.as_str(), t.adjusted_mean)).collect();
    order.sort_by(|a, b| a.1.total_cmp(&b.1));
    if analysis.better == Better::Higher {
        order.reverse();
    }
    let unit = judged.measure.unit;
    let figure = |mean: f64| match analysis.kind {
        Kind::Share => format!("{} %", trimmed(100.0 * mean, 0)),
        _ if unit.is_empty() => trimmed(mean, judged.measure.decimals as usize),
        _ => format!("{} {unit}", trimmed(mean, judged.measure.decimals as usize)),
    };
    let listed: Vec<String> = order.iter().map(|(name, mean)| format!("{name} {}", figure(*mean))).collect();
    let (first, behind): (Vec<&str>, Vec<&str>) =
        order.iter().map(|(name, _)| *name).partition(|name| best.iter().any(|b| b == name));
    let tie = match (&first[..], &behind[..]) {
        ([one], _) => format!("{} is surely the best of them.", capitalised(one)),
        (_, []) => "None of them is surely better than another.".to_owned(),
        (tied, behind) => {
            let be = if behind.len() == 1 { "is" } else { "are" };
            format!("{} tie for the first place; {} {be} surely behind.", capitalised(&and(tied)), and(behind))
        }
    };
    format!("From best to worst: {}. {tie}", and(&listed))
}
