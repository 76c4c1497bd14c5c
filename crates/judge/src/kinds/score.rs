//! Scores and grades: only their order counts. Probability of superiority, exact rank sums with
//! ties, in blocks.

use super::super::dealing::count_deals;
use super::super::result::{Analysis, Contrast, OverallOut, Simultaneous, TreatmentOut};
use super::super::sentence::Terms;
use super::super::table::Table;
use super::super::units::Units;
use super::super::warnings;
use crate::deciding::{Decision, sidak_confidence, sidak_p};
use crate::kinds::shared::{contrast_of, envelope};
use crate::question::{AnalyseError, Question};
use iron_twin_stats::distributions::normal_quantile_upper;
use iron_twin_stats::ranks::{RankBlock, midranks, rank_test, superiority, superiority_limits};
use iron_twin_stats::redeal::Block;
use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
use iron_twin_stats::welch::mean_and_variance;
use iron_twin_terms::dealing::BlocksAre;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;

/// Compares scores; with samples in units, the units' mean scores.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    let scores = Scores {
        table,
        question,
        units: Units::of(&table.observations, table),
    };
    let margin = match question.margin {
        Some(Margin::Absolute(value)) => value,
        _ => 0.0,
    };
    let needed = units_needed(margin, question.confidence, table.treatments.len() - 1);
    let said = Decision {
        question,
        terms: Terms::Score,
        margin,
        control: 0.0,
    };
    let mut analysis = envelope(table, question, &scores.units, "superiority");
    if let Some(out) = analysis.margin.as_mut() {
        out.absolute = Some(margin);
    }
    analysis.treatments = (0..table.treatments.len())
        .map(|t| scores.treatment(t))
        .collect();
    analysis.overall = scores.overall();
    analysis.residual.df = scores
        .units
        .rows
        .len()
        .saturating_sub(table.treatments.len()) as f64;
    analysis.warnings = warnings::of_units(table, question, &scores.units);
    (analysis.units_needed, analysis.units_for_verdict) = (needed, needed);
    // At places the limits of few cells claim too much: of two treatments, too, deals alone decide.
    let by_deals = table.treatments.len() > 2
        || (table.dealing.blocks == BlocksAre::Places && table.blocks.len() > 1);
    let closed = by_deals.then(|| scores.closed());
    analysis.contrasts = (1..table.treatments.len())
        .map(|t| {
            let mut contrast = scores.contrast(t);
            (contrast.units_needed, contrast.units_for_verdict) = (needed, needed);
            let units = (scores.units.counts[t], scores.units.counts[0]);
            match &closed {
                Some(closed) => {
                    contrast.closed_p = closed[t - 1];
                    said.decide_by_closed_test(&mut contrast, units);
                }
                None => said.decide_by_own_limits(&mut contrast, units, None),
            }
            contrast
        })
        .collect();
    analysis.best = (question.goal == Goal::Best && scores.varies()).then(|| scores.best());
    Ok(analysis)
}

struct Scores<'a> {
    table: &'a Table,
    question: &'a Question,
    units: Units,
}

impl Scores<'_> {
    fn varies(&self) -> bool {
        !self
            .units
            .all_equal(self.units.rows.first().map_or(0.0, |r| r.value))
    }

    fn treatment(&self, treatment: usize) -> TreatmentOut {
        let rows: Vec<f64> = self
            .table
            .observations
            .iter()
            .filter(|o| o.treatment == treatment)
            .map(|o| o.value)
            .collect();
        let units = self.units.values_of(treatment);
        TreatmentOut {
            name: self.table.treatments[treatment].clone(),
            units: units.len(),
            samples: rows.len(),
            mean: rows.iter().sum::<f64>() / rows.len() as f64,
            adjusted_mean: units.iter().sum::<f64>() / units.len() as f64,
            sd: (units.len() > 1).then(|| mean_and_variance(&units).1.sqrt()),
            se: None,
            median: None,
        }
    }

    fn overall(&self) -> Option<OverallOut> {
        let units: Vec<(usize, usize, f64)> = self
            .units
            .rows
            .iter()
            .map(|r| (r.treatment, r.block, r.value))
            .collect();
        let test = rank_test(
            &units,
            self.table.treatments.len(),
            self.table.blocks.len().max(1),
        )?;
        let name = if self.table.blocks.is_empty() {
            "Kruskal-Wallis"
        } else {
            "Friedman"
        };
        Some(OverallOut {
            test: name,
            statistic: test.chi_square,
            df: vec![test.df],
            p: test.p,
        })
    }

    fn blocks(&self, first: usize, second: usize) -> Vec<RankBlock> {
        let mut blocks = vec![RankBlock::default(); self.table.blocks.len().max(1)];
        for row in &self.units.rows {
            if row.treatment == first {
                blocks[row.block].treated.push(row.value);
            } else if row.treatment == second {
                blocks[row.block].control.push(row.value);
            }
        }
        blocks
    }

    fn contrast(&self, t: usize) -> Contrast {
        let blocks = self.blocks(t, 0);
        let comparisons = self.table.treatments.len() - 1;
        let (treated, control) = (self.units.counts[t], self.units.counts[0]);
        let mut contrast = Contrast {
            df: (treated + control).saturating_sub(2) as f64,
            ..contrast_of(self.table, t)
        };
        contrast.randomisation = count_deals(&rank_blocks(&blocks), self.question.seed);
        contrast.exact_p = contrast.randomisation.as_ref().map(|r| r.p);
        contrast.p = contrast.exact_p;
        // Where every score is the same, or no block holds both, there is nothing to compare.
        let Some(superiority) = superiority(&blocks).filter(|_| self.varies()) else {
            return contrast;
        };
        let limits = |confidence: f64| {
            superiority_limits(
                superiority,
                treated,
                control,
                normal_quantile_upper(0.5 * (1.0 - confidence)),
            )
        };
        let (low, high) = limits(self.question.confidence);
        contrast.estimate = superiority - 0.5;
        (contrast.low, contrast.high) = (Some(low - 0.5), Some(high - 0.5));
        contrast.probability_of_superiority = Some(superiority);
        contrast.probability_of_superiority_low = Some(low);
        contrast.probability_of_superiority_high = Some(high);
        if let Some(p) = contrast.p.filter(|_| comparisons > 1) {
            let (low, high) = limits(sidak_confidence(self.question.confidence, comparisons));
            contrast.simultaneous = Some(Simultaneous::new(
                "sidak",
                low - 0.5,
                high - 0.5,
                sidak_p(p, comparisons),
            ));
        }
        contrast
    }

    /// The p of the closed test for each treatment: the largest over every set of treatments that
    /// holds it. A set is dealt anew with the control, by the largest standardised difference of
    /// mean ranks. Beyond `SETS` only the whole set is dealt, which is as valid and finds less.
    /// Source: Marcus, Peritz and Gabriel 1976.
    fn closed(&self) -> Vec<Option<f64>> {
        const SETS: usize = 5;
        let others = self.table.treatments.len() - 1;
        let has = |set: u32, treatment: usize| set == u32::MAX || set & (1 << (treatment - 1)) != 0;
        let sets: Vec<u32> = if others <= SETS {
            (1..1 << others).collect()
        } else {
            vec![u32::MAX]
        };
        let mut found: Vec<Option<f64>> = vec![None; others];
        for set in sets {
            let p = self.dealt_with_control(|t| has(set, t));
            for (_, own) in found
                .iter_mut()
                .enumerate()
                .filter(|(t, _)| has(set, t + 1))
            {
                *own = Some(own.unwrap_or(0.0).max(p));
            }
        }
        found
    }

    /// How seldom a deal of these treatments and the control stands as far out; 1 where nothing can
    /// be told.
    fn dealt_with_control(&self, holds: impl Fn(usize) -> bool) -> f64 {
        let members: Vec<usize> = (0..self.table.treatments.len())
            .filter(|&t| t == 0 || holds(t))
            .collect();
        let mut units = Vec::new();
        for block in 0..self.table.blocks.len().max(1) {
            let own: Vec<&_> = self
                .units
                .rows
                .iter()
                .filter(|r| r.block == block && members.contains(&r.treatment))
                .collect();
            let ranks = midranks(&own.iter().map(|r| r.value).collect::<Vec<f64>>());
            units.extend(own.iter().zip(ranks).map(|(row, value)| {
                DealtUnit {
                    treatment: members
                        .iter()
                        .position(|m| *m == row.treatment)
                        .unwrap_or(0),
                    block,
                    value,
                }
            }));
        }
        let dealt = Deck::of(&units, members.len())
            .and_then(|deck| deck.largest_mean_gap(self.question.seed));
        dealt.map_or(1.0, |d| d.shares[0].p)
    }

    /// The treatments that no other surely scores higher than, all pairs considered (Sidak).
    fn best(&self) -> Vec<String> {
        let count = self.table.treatments.len();
        let confidence = sidak_confidence(self.question.confidence, count * (count - 1) / 2);
        let z = normal_quantile_upper(0.5 * (1.0 - confidence));
        let surely_better = |a: usize, b: usize| {
            superiority(&self.blocks(a, b)).is_some_and(|s| {
                let (low, high) =
                    superiority_limits(s, self.units.counts[a], self.units.counts[b], z);
                if self.question.better == Better::Higher {
                    low > 0.5
                } else {
                    high < 0.5
                }
            })
        };
        (0..count)
            .filter(|&t| !(0..count).any(|other| other != t && surely_better(other, t)))
            .map(|t| self.table.treatments[t].clone())
            .collect()
    }
}

/// Ranks inside each block, scaled so that the mean difference of the deal is the rank sum: blocks
/// count by their size, as in the stratified rank-sum test.
fn rank_blocks(blocks: &[RankBlock]) -> Vec<Block> {
    blocks
        .iter()
        .map(|block| {
            let all: Vec<f64> = block
                .treated
                .iter()
                .chain(&block.control)
                .copied()
                .collect();
            let (treated, control) = (block.treated.len() as f64, block.control.len() as f64);
            let scale = treated * control / (treated + control).max(1.0);
            let ranks: Vec<f64> = midranks(&all).iter().map(|r| r * scale).collect();
            let (first, second) = ranks.split_at(block.treated.len());
            Block {
                treated: first.to_vec(),
                control: second.to_vec(),
            }
        })
        .collect()
}

/// Units of a treatment with an 80 % chance to tell a superiority of one half plus the margin.
/// Source: Noether 1987.
fn units_needed(margin: f64, confidence: f64, comparisons: usize) -> Option<usize> {
    const MISSED: f64 = 0.2;
    if !(margin > 0.0) {
        return None;
    }
    let tail = 0.5 * (1.0 - sidak_confidence(confidence, comparisons));
    let reach = normal_quantile_upper(tail) + normal_quantile_upper(MISSED);
    let needed = (reach * reach / (6.0 * margin * margin)).ceil();
    (needed <= iron_twin_stats::power::MOST_UNITS as f64).then_some(needed as usize)
}
