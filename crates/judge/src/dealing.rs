//! How the units of two treatments could have been dealt otherwise, by the design: what the re-deal
//! counts.

use super::result::{Randomisation, WholeOut};
use super::table::Table;
use super::units::Units;
use iron_twin_stats::redeal::limited::{LimitedBlock, redeal_limited};
use iron_twin_stats::redeal::whole::{DealtUnit, Deck, WholeDeal};
use iron_twin_stats::redeal::{Block, Redeal, redeal};
use iron_twin_terms::dealing::Restriction;
use std::collections::BTreeMap;

/// A side of a comparison: the treatments whose units belong to it.
pub(crate) type Side<'a> = &'a [usize];

/// Splits units into groups that change sides together; the last argument tells which units stand
/// on the first side.
type Grouping<T> = fn(&T, &[usize], &dyn Fn(usize) -> bool) -> Vec<Vec<usize>>;

/// Deals the units of two sides anew, each unit with its value. Units are compared within blocks,
/// and within `strata` of treatments where a comparison runs over several cells of crossed factors.
pub(crate) struct Deals<'a> {
    pub table: &'a Table,
    pub units: &'a Units,
    pub values: &'a [f64],
    pub seed: u64,
}

fn told(redealt: Redeal) -> Randomisation {
    Randomisation {
        p: redealt.p,
        mid_p: redealt.mid_p,
        smallest_possible_p: redealt.smallest_possible_p,
        assignments: redealt.assignments,
        exact: redealt.exact,
        whole: None,
    }
}

pub(crate) fn count_deals(blocks: &[Block], seed: u64) -> Option<Randomisation> {
    redeal(blocks, seed).map(told)
}

/// Adds the deal of the whole trial where the deal of two of its treatments could never have
/// confirmed a difference.
pub(crate) fn confirm_by_whole(
    pairs: &mut [Option<Randomisation>],
    confidence: f64,
    whole: impl FnOnce() -> Option<WholeDeal>,
) {
    let never = |r: &Randomisation| {
        r.smallest_possible_p
            .is_some_and(|smallest| smallest >= 1.0 - confidence)
    };
    if pairs.len() < 2 || !pairs.iter().flatten().any(never) {
        return;
    }
    let Some(dealt) = whole() else { return };
    for (pair, share) in pairs.iter_mut().zip(&dealt.shares) {
        if let Some(pair) = pair.as_mut().filter(|r| never(r)) {
            let (assignments, exact) = (dealt.assignments, dealt.exact);
            pair.whole = Some(WholeOut {
                p: share.p,
                mid_p: share.mid_p,
                assignments,
                exact,
            });
        }
    }
}

impl Deals<'_> {
    /// All treatments anew, by the largest studentised difference from the control; None where not
    /// every deal of the units inside their blocks could have been made.
    pub(crate) fn whole(&self) -> Option<WholeDeal> {
        let dealing = self.table.dealing;
        if dealing.restriction != Restriction::Free || dealing.within.is_some() {
            return None;
        }
        let units: Vec<DealtUnit> = (self.units.rows.iter().zip(self.values))
            .map(|(row, &value)| DealtUnit {
                treatment: row.treatment,
                block: row.block,
                value,
            })
            .collect();
        Deck::of(&units, self.units.counts.len())?.largest_difference(self.seed)
    }

    /// One treatment against another.
    pub(crate) fn pair(&self, first: usize, second: usize) -> Option<Randomisation> {
        self.sides(&[(&[first], &[second])])
    }

    /// Several pairs of cells that are compared together, for instance bubbled against still within
    /// each mat.
    pub(crate) fn sides(&self, strata: &[(Side<'_>, Side<'_>)]) -> Option<Randomisation> {
        match self.table.dealing.restriction {
            Restriction::Free => match self.table.dealing.within {
                // A deal that did not keep to its own bound was not limited by it.
                Some(within) if self.units.starts_within(within) => self.limited(strata, within),
                _ => count_deals(
                    &self.by_block(strata, |unit| self.units.rows[unit].block),
                    self.seed,
                ),
            },
            Restriction::SplitPlot => self.split_plot(strata),
            Restriction::LatinSquare => count_deals(&self.swapped(strata, Self::cycles), self.seed),
            Restriction::SwapOver => count_deals(&self.by_pairs_of_rounds(strata), self.seed),
        }
    }

    /// The side on which a unit stands in a stratum: true for the first.
    fn side(&self, unit: usize, (first, second): (Side<'_>, Side<'_>)) -> Option<bool> {
        let treatment = self.units.rows[unit].treatment;
        if first.contains(&treatment) {
            Some(true)
        } else {
            second.contains(&treatment).then_some(false)
        }
    }

    /// Units by stratum and block.
    fn by_block(
        &self,
        strata: &[(Side<'_>, Side<'_>)],
        block_of: impl Fn(usize) -> usize,
    ) -> Vec<Block> {
        let mut dealt: BTreeMap<(usize, usize), Block> = BTreeMap::new();
        for (stratum, sides) in strata.iter().enumerate() {
            for (unit, &value) in self.values.iter().enumerate() {
                let Some(first) = self.side(unit, *sides) else {
                    continue;
                };
                let block = dealt.entry((stratum, block_of(unit))).or_default();
                if first {
                    &mut block.treated
                } else {
                    &mut block.control
                }
                .push(value);
            }
        }
        dealt.into_values().collect()
    }

    /// Trays are dealt under their lamp; where the sides stand under different lamps, the lamps are
    /// dealt.
    fn split_plot(&self, strata: &[(Side<'_>, Side<'_>)]) -> Option<Randomisation> {
        let lamp = |unit: usize| self.table.fixtures[self.units.rows[unit].unit];
        let level = |t: &usize| self.table.cells[*t][0];
        let alike = |(first, second): &(Side<'_>, Side<'_>)| {
            first
                .iter()
                .zip(second.iter())
                .all(|(a, b)| level(a) == level(b))
        };
        let inside = |(first, second): &(Side<'_>, Side<'_>)| {
            // Lamps differ in nothing but their own factor: the same cells stand under both.
            let other = |side: Side<'_>| {
                let mut cells: Vec<&[usize]> =
                    side.iter().map(|t| &self.table.cells[*t][1..]).collect();
                cells.sort();
                cells.into_iter().map(<[usize]>::to_vec).collect::<Vec<_>>()
            };
            other(first) == other(second)
        };
        if strata.iter().all(alike) {
            return count_deals(&self.by_block(strata, lamp), self.seed);
        }
        // A mix of both errors was never dealt as such.
        let [sides] = strata else { return None };
        if !inside(sides) {
            return None;
        }
        let mut lamps: BTreeMap<usize, (bool, usize, f64, f64)> = BTreeMap::new();
        for (unit, &value) in self.values.iter().enumerate() {
            let Some(first) = self.side(unit, *sides) else {
                continue;
            };
            let own =
                lamps
                    .entry(lamp(unit))
                    .or_insert((first, self.units.rows[unit].block, 0.0, 0.0));
            (own.2, own.3) = (own.2 + value, own.3 + 1.0);
        }
        let mut dealt = vec![Block::default(); self.table.blocks.len().max(1)];
        for (first, block, sum, number) in lamps.into_values() {
            let side = if first {
                &mut dealt[block].treated
            } else {
                &mut dealt[block].control
            };
            side.push(sum / number);
        }
        count_deals(&dealt, self.seed)
    }

    /// Only deals that keep every treatment's mean starting size as close to the others' as was
    /// asked.
    fn limited(&self, strata: &[(Side<'_>, Side<'_>)], within: f64) -> Option<Randomisation> {
        let &[([first], [second])] = strata else {
            return count_deals(
                &self.by_block(strata, |unit| self.units.rows[unit].block),
                self.seed,
            );
        };
        let (first, second, starts) = (*first, *second, &self.units.starts);
        let number = |t: usize| self.units.counts[t] as f64;
        let total = |t: usize| -> f64 {
            self.units
                .rows
                .iter()
                .zip(starts)
                .filter(|(r, _)| r.treatment == t)
                .map(|(_, s)| s)
                .sum()
        };
        let all: f64 = starts.iter().sum::<f64>() / starts.len() as f64;
        let both = total(first) + total(second);
        let others = (0..self.units.counts.len())
            .filter(|t| *t != first && *t != second)
            .map(|t| total(t) / number(t));
        let (lowest, highest) = others.fold((f64::INFINITY, f64::NEG_INFINITY), |(l, h), m| {
            (l.min(m), h.max(m))
        });
        let mut dealt = vec![LimitedBlock::default(); self.table.blocks.len().max(1)];
        // Units in blocks that hold only one side are never dealt to the other.
        let mut lone = vec![0.0; dealt.len()];
        for ((row, &value), &start) in self.units.rows.iter().zip(self.values).zip(starts) {
            let block = &mut dealt[row.block];
            if row.treatment == first {
                block.units.treated.push(value);
                block.treated_start.push(start);
                lone[row.block] += start;
            } else if row.treatment == second {
                block.units.control.push(value);
                block.control_start.push(start);
            }
        }
        let fixed: f64 = dealt
            .iter()
            .zip(&lone)
            .filter(|(b, _)| b.units.control.is_empty())
            .map(|(_, s)| s)
            .sum();
        // The bound was met by the deal itself; rounding must not shut it out.
        let bound = within * all.abs() * (1.0 + 1e-9);
        let admits = |sum: f64| {
            let (a, b) = (
                (sum + fixed) / number(first),
                (both - sum - fixed) / number(second),
            );
            highest.max(a).max(b) - lowest.min(a).min(b) <= bound
        };
        redeal_limited(&dealt, admits, self.seed).map(told)
    }

    /// Units that can only change sides together: each group is one block whose two sides are the
    /// sums of both.
    fn swapped(&self, strata: &[(Side<'_>, Side<'_>)], groups: Grouping<Self>) -> Vec<Block> {
        let mut blocks = Vec::new();
        for sides in strata {
            let own: Vec<usize> = (0..self.values.len())
                .filter(|&u| self.side(u, *sides).is_some())
                .collect();
            let first = |unit: usize| self.side(unit, *sides) == Some(true);
            for group in groups(self, &own, &first) {
                let sum = |side: bool| {
                    group
                        .iter()
                        .filter(|&&u| first(u) == side)
                        .map(|&u| self.values[u])
                        .sum::<f64>()
                };
                blocks.push(Block {
                    treated: vec![sum(true)],
                    control: vec![sum(false)],
                });
            }
        }
        blocks
    }

    /// Exchanging two treatments of a Latin square in one row forces the exchange in the columns
    /// met, and so on until the round closes; each such cycle can be exchanged by itself (Jacobson
    /// and Matthews 1996).
    fn cycles(&self, own: &[usize], first: &dyn Fn(usize) -> bool) -> Vec<Vec<usize>> {
        let mut left: Vec<usize> = own.to_vec();
        let mut found = Vec::new();
        while let Some(start) = left.pop() {
            let (mut group, mut open) = (vec![start], vec![start]);
            while let Some(unit) = open.pop() {
                let here = &self.units.rows[unit];
                let (linked, rest): (Vec<usize>, Vec<usize>) = left.iter().partition(|&&other| {
                    let there = &self.units.rows[other];
                    (here.block == there.block || here.column == there.column)
                        && first(unit) != first(other)
                });
                group.extend(&linked);
                open.extend(linked);
                left = rest;
            }
            // A lost tray leaves a chain that cannot be exchanged.
            let sides = group.iter().filter(|&&u| first(u)).count();
            if 2 * sides == group.len() {
                found.push(group);
            }
        }
        found
    }

    /// In a swap-over rounds go in pairs, the second the mirror of the first. Dealt was which half
    /// of the systems takes which treatment first: a system is its own difference between the two
    /// rounds. Where the halves are unlike, as with a single system, only the order of the whole
    /// pair of rounds can have been dealt.
    fn by_pairs_of_rounds(&self, strata: &[(Side<'_>, Side<'_>)]) -> Vec<Block> {
        let mut blocks = Vec::new();
        for sides in strata {
            let mut pairs: BTreeMap<usize, BTreeMap<usize, Vec<usize>>> = BTreeMap::new();
            for unit in (0..self.values.len()).filter(|&u| self.side(u, *sides).is_some()) {
                let row = &self.units.rows[unit];
                pairs
                    .entry(row.column / 2)
                    .or_default()
                    .entry(row.block)
                    .or_default()
                    .push(unit);
            }
            blocks.extend(
                pairs
                    .into_values()
                    .filter_map(|systems| self.pair_of_rounds(systems, *sides)),
            );
        }
        blocks
    }

    /// The systems of one pair of rounds, as what could have been dealt.
    fn pair_of_rounds(
        &self,
        systems: BTreeMap<usize, Vec<usize>>,
        sides: (Side<'_>, Side<'_>),
    ) -> Option<Block> {
        let first = |unit: usize| self.side(unit, sides) == Some(true);
        let (mut dealt, mut whole) = (Block::default(), (0.0, 0.0));
        for mut own in systems.into_values() {
            own.sort_by_key(|&u| self.units.rows[u].column);
            // A system that lost a round, or kept its treatment, cannot have been dealt the other
            // order.
            let &[early, late] = own.as_slice() else {
                continue;
            };
            if first(early) == first(late) {
                continue;
            }
            let difference = self.values[early] - self.values[late];
            if first(early) {
                &mut dealt.treated
            } else {
                &mut dealt.control
            }
            .push(difference);
            let (on_first, on_second) = if first(early) {
                (early, late)
            } else {
                (late, early)
            };
            whole = (
                whole.0 + self.values[on_first],
                whole.1 + self.values[on_second],
            );
        }
        match (dealt.treated.len(), dealt.control.len()) {
            (0, 0) => None,
            (a, b) if a == b => Some(dealt),
            _ => Some(Block {
                treated: vec![whole.0],
                control: vec![whole.1],
            }),
        }
    }
}
