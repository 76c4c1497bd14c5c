//! Losses that a treatment may have caused: the same comparison with the lost units at the worst
//! value that was seen.
//!
//! The weakest die first. Where a treatment lost more units than the control, what is left of it
//! looks better than it did; counted as the worst that any unit showed, the lost ones can no longer
//! flatter it. Source: Rosenbaum 1984 for bounding what depends on survival; worst-rank scores of
//! Lachin 1999.

use super::kinds;
use super::result::{Analysis, Contrast, WithLosses};
use super::sentence;
use super::table::{RowExtras, Table};
use crate::question::Question;
use crate::verdict::Verdict;
use iron_twin_stats::linear::Observation;
use iron_twin_terms::dealing::Restriction;
use iron_twin_terms::goal::Better;
use iron_twin_terms::kind::Kind;
use std::collections::BTreeMap;

/// Adds to every contrast whose sides lost unlike numbers of units what it comes to with them
/// counted as the worst.
pub(crate) fn beside(table: &Table, question: &Question, analysis: &mut Analysis) {
    let Some(expected) = question.expected_units else {
        return;
    };
    if table.kind == Kind::Dose
        || table.dealing.restriction != Restriction::Free
        || table.dealing.within.is_some()
    {
        return;
    }
    let lost: Vec<usize> = analysis
        .treatments
        .iter()
        .map(|t| expected.saturating_sub(t.units))
        .collect();
    let concerned = concerned(analysis, &lost);
    if concerned.is_empty() {
        return;
    }
    // What cannot be compared with the lost ones in it takes nothing from the comparison that
    // stands.
    let asked = Question {
        expected_units: None,
        ..question.clone()
    };
    let Ok(whole) = kinds::analyse(&filled(table, question, &lost), &asked) else {
        return;
    };
    for t in concerned {
        let (Some(own), Some(with)) = (
            analysis.contrasts.get_mut(t - 1),
            whole.contrasts.get(t - 1),
        ) else {
            continue;
        };
        let turns =
            !with.verdict.claims_difference() || is_gain(with.verdict) != is_gain(own.verdict);
        let said = told(own, with.verdict, turns, (lost[t], lost[0]));
        own.with_losses = Some(WithLosses {
            verdict: with.verdict,
            estimate: with.estimate,
            turns,
        });
        own.caveat = Some(
            own.caveat
                .take()
                .map_or_else(|| said.clone(), |before| format!("{before} {said}")),
        );
        own.sentence = sentence::joined(&own.claim, own.caveat.as_deref());
    }
}

/// The treatments that differ from the control, and lost another number of units than it did.
fn concerned(analysis: &Analysis, lost: &[usize]) -> Vec<usize> {
    let claims = |t: usize| analysis.contrasts.get(t - 1);
    (1..lost.len())
        .filter(|&t| lost[t] != lost[0])
        .filter(|&t| claims(t).is_some_and(|c| c.verdict.claims_difference()))
        .collect()
}

fn is_gain(verdict: Verdict) -> bool {
    matches!(verdict, Verdict::Better | Verdict::BetterByMargin)
}

/// What a contrast comes to with the lost ones of both sides counted, in words.
fn told(own: &Contrast, with: Verdict, turns: bool, lost: (usize, usize)) -> String {
    let number = |n: usize| {
        if n == 0 {
            "none".to_owned()
        } else {
            n.to_string()
        }
    };
    let counted = format!(
        "{} of {} and {} of {} were lost",
        number(lost.0),
        own.treatment,
        number(lost.1),
        own.versus
    );
    if turns && with.claims_difference() {
        format!("But {counted}: counted as the worst that was seen, they turn it round.")
    } else if turns {
        format!(
            "But {counted}: counted as the worst that was seen, they leave it untold which is \
                 better."
        )
    } else {
        format!("It holds with the lost ones counted as the worst that was seen ({counted}).")
    }
}

/// Units of each treatment in each block.
fn held(table: &Table) -> BTreeMap<(usize, usize), usize> {
    let mut held: BTreeMap<(usize, usize), usize> = BTreeMap::new();
    let mut met = vec![false; table.units.len()];
    for row in &table.observations {
        if !std::mem::replace(&mut met[row.unit], true) {
            *held.entry((row.treatment, row.block)).or_default() += 1;
        }
    }
    held
}

/// The table with so many more units of each treatment, each with the worst that any unit showed,
/// in the blocks that hold fewest of it.
fn filled(table: &Table, question: &Question, lost: &[usize]) -> Table {
    let mut all = table.clone();
    let rate = |i: usize| match table.kind {
        Kind::Count | Kind::Share => table.observations[i].value / table.beside[i].size,
        _ => table.observations[i].value,
    };
    let lowest = question.better == Better::Higher;
    let rows = 0..table.observations.len();
    let worse = |a: &usize, b: &usize| {
        if lowest {
            rate(*a).total_cmp(&rate(*b))
        } else {
            rate(*b).total_cmp(&rate(*a))
        }
    };
    let Some(worst) = rows.min_by(worse) else {
        return all;
    };
    let blocks = table.blocks.len().max(1);
    let mut held = held(table);
    for (treatment, &number) in lost.iter().enumerate() {
        let own = || {
            table
                .observations
                .iter()
                .enumerate()
                .filter(|(_, o)| o.treatment == treatment)
        };
        let baseline = own().map(|(_, o)| o.baseline).sum::<f64>() / own().count().max(1) as f64;
        let size = own().next().map_or(1.0, |(i, _)| table.beside[i].size);
        for one in 0..number {
            let block = (0..blocks)
                .min_by_key(|b| held.get(&(treatment, *b)).copied().unwrap_or(0))
                .unwrap_or(0);
            *held.entry((treatment, block)).or_default() += 1;
            let value = match table.kind {
                Kind::Count | Kind::Share => (rate(worst) * size).round(),
                _ => rate(worst),
            };
            let unit = all.units.len();
            all.units.push(format!("lost {treatment}-{one}"));
            all.observations.push(Observation {
                value,
                treatment,
                block,
                baseline,
                unit,
                column: 0,
            });
            // What was lost has not come to it either, where to come soon is good.
            let seen = table.beside[worst].seen && (table.kind != Kind::Days || lowest);
            all.beside.push(RowExtras {
                size,
                seen,
                ..table.beside[worst]
            });
        }
    }
    all
}
