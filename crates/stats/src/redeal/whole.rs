//! The whole trial dealt anew: all treatments over all units of their blocks.
//!
//! Dealing only two treatments of several anew can confirm little where each has three or four
//! units. All of them together could have been dealt in far more ways, and under the hypothesis
//! that no treatment does anything each of those was as likely. Counted one by one as far as that
//! reaches, else sampled. Source: Fisher 1935; for the largest of several studentised differences
//! Westfall and Young 1993.

use super::deal::{Draws, deals_of, walk};
use super::{SAMPLES, of_samples};
use nalgebra::DMatrix;
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;

/// One unit of the trial.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct DealtUnit {
    /// Index of the treatment; 0 is the control.
    pub treatment: usize,
    /// Index of the block; 0 for all where there are none.
    pub block: usize,
    /// What it gave.
    pub value: f64,
}

/// How seldom a deal of the whole trial is as far out as what was seen.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Share {
    /// Share of deals at least as far out.
    pub p: f64,
    /// Share of deals farther out, and half of those as far.
    pub mid_p: f64,
}

/// The whole trial dealt anew.
#[derive(Debug, Clone, PartialEq)]
pub struct WholeDeal {
    /// One for each bar that was set.
    pub shares: Vec<Share>,
    /// How many deals could have been made.
    pub assignments: f64,
    /// Whether every deal was counted.
    pub exact: bool,
}

/// Deals that are counted one by one, at most.
const COUNTED: f64 = 2_000_000.0;
/// Deals this close to a bar stand at it, as a share of the bar.
const TIE: f64 = 1e-9;

/// The units of a trial, ready to be dealt anew inside their blocks.
#[derive(Debug, Clone)]
pub struct Deck {
    /// The units of each block.
    pub(super) blocks: Vec<Vec<DealtUnit>>,
    treatments: usize,
}

impl Deck {
    /// None for values that are no numbers, or fewer than two treatments.
    #[must_use]
    pub fn of(units: &[DealtUnit], treatments: usize) -> Option<Self> {
        if treatments < 2
            || units
                .iter()
                .any(|u| !u.value.is_finite() || u.treatment >= treatments)
        {
            return None;
        }
        let mut blocks = vec![Vec::new(); units.iter().map(|u| u.block + 1).max().unwrap_or(0)];
        units.iter().for_each(|u| blocks[u.block].push(*u));
        blocks.retain(|b| !b.is_empty());
        Some(Self { blocks, treatments })
    }

    /// How many deals could have been made.
    ///
    /// ```
    /// use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
    /// let unit = |treatment, value| DealtUnit { treatment, block: 0, value };
    /// let deck = Deck::of(&[unit(0, 1.0), unit(0, 2.0), unit(1, 3.0), unit(2, 4.0)], 3).expect("numbers");
    /// assert_eq!(deck.assignments(), 12.0);
    /// ```
    #[must_use]
    pub fn assignments(&self) -> f64 {
        self.blocks
            .iter()
            .map(|block| deals_of(&self.hand(block)))
            .product()
    }

    /// Sums of each treatment as they were dealt, values taken from the mean of their block.
    fn seen(&self) -> Vec<f64> {
        let mut sums = vec![0.0; self.treatments];
        for (block, centre) in self.blocks.iter().zip(self.centres()) {
            block
                .iter()
                .for_each(|u| sums[u.treatment] += u.value - centre);
        }
        sums
    }

    pub(super) fn centres(&self) -> Vec<f64> {
        self.blocks
            .iter()
            .map(|b| b.iter().map(|u| u.value).sum::<f64>() / b.len() as f64)
            .collect()
    }

    /// Whether the treatments beside the control stand in every block in equal numbers: what treats
    /// them alike then comes out the same with their names exchanged, and one deal of each such set
    /// is enough to count.
    fn others_are_alike(&self) -> bool {
        let hands = || self.blocks.iter().map(|block| self.hand(block));
        hands().next().is_some_and(|hand| hand[1] > 0)
            && hands().all(|hand| hand[1..].iter().all(|n| *n == hand[1]))
    }

    /// Deals anew and counts how often `far`, made of the treatments' sums of what stands above the
    /// mean of their block, passes each of the bars. `alike` says that `far` does not change where
    /// treatments beside the control exchange names.
    fn count(
        &self,
        bars: &[f64],
        seed: u64,
        alike: bool,
        far: impl Fn(&[f64]) -> f64,
    ) -> WholeDeal {
        let assignments = self.assignments();
        let mut tally = Tally {
            at: vec![(0, 0); bars.len()],
            bars,
            deals: 0,
        };
        let mut sums = vec![0.0; self.treatments];
        if assignments <= COUNTED {
            let units: Vec<(usize, f64)> = (self.blocks.iter().zip(self.centres()).enumerate())
                .flat_map(|(b, (block, centre))| block.iter().map(move |u| (b, u.value - centre)))
                .collect();
            let mut left: Vec<Vec<usize>> =
                self.blocks.iter().map(|block| self.hand(block)).collect();
            let named = if alike && self.others_are_alike() {
                1
            } else {
                self.treatments
            };
            walk(&units, &mut left, &mut sums, named, &mut |sums| {
                tally.take(far(sums))
            });
            let all = f64::from(tally.deals);
            let share = |&(as_far, farther): &(u32, u32)| {
                let (p, farther) = (f64::from(as_far) / all, f64::from(farther) / all);
                Share {
                    p,
                    mid_p: 0.5 * (p + farther),
                }
            };
            return WholeDeal {
                shares: tally.at.iter().map(share).collect(),
                assignments,
                exact: true,
            };
        }
        self.sampled(tally, seed, far)
    }

    /// The same from deals that are drawn.
    fn sampled(&self, mut tally: Tally<'_>, seed: u64, far: impl Fn(&[f64]) -> f64) -> WholeDeal {
        let assignments = self.assignments();
        let mut sums = vec![0.0; self.treatments];
        let mut random = ChaCha8Rng::seed_from_u64(seed);
        let blocks = self.blocks.iter().zip(self.centres());
        let mut draws: Vec<Draws> = blocks
            .map(|(block, centre)| Draws::of_treatments(above(block, centre), self.hand(block)))
            .collect();
        for _ in 0..SAMPLES {
            sums.fill(0.0);
            draws
                .iter_mut()
                .for_each(|own| own.draw(&mut random, &mut sums));
            tally.take(far(&sums));
        }
        let share = |&(as_far, farther): &(u32, u32)| {
            let (p, mid_p) = of_samples(SAMPLES, as_far, farther);
            Share { p, mid_p }
        };
        WholeDeal {
            shares: tally.at.iter().map(share).collect(),
            assignments,
            exact: false,
        }
    }

    /// Units of each treatment in a block.
    pub(super) fn hand(&self, block: &[DealtUnit]) -> Vec<usize> {
        (0..self.treatments)
            .map(|t| block.iter().filter(|u| u.treatment == t).count())
            .collect()
    }

    /// The largest studentised difference from the control, treatment + block fitted anew for each
    /// deal: how seldom it reaches each treatment's own. None without degrees of freedom, or where
    /// blocks keep a treatment apart.
    ///
    /// ```
    /// use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
    /// let unit = |treatment, value| DealtUnit { treatment, block: 0, value };
    /// let far = [unit(0, 312.0), unit(0, 321.0), unit(1, 401.0), unit(1, 384.0)];
    /// let dealt = Deck::of(&far, 2).and_then(|deck| deck.largest_difference(1)).expect("two degrees of freedom");
    /// assert!(dealt.exact && (dealt.shares[0].p - 1.0 / 3.0).abs() < 1e-12);
    /// ```
    #[must_use]
    pub fn largest_difference(&self, seed: u64) -> Option<WholeDeal> {
        let k = self.treatments;
        let mut cross = DMatrix::<f64>::zeros(k, k);
        let (mut units, mut total) = (0, 0.0);
        for (block, centre) in self.blocks.iter().zip(self.centres()) {
            let hand = self.hand(block);
            let n = block.len() as f64;
            for (i, &own) in hand.iter().enumerate() {
                cross[(i, i)] += own as f64;
                hand.iter()
                    .enumerate()
                    .for_each(|(j, &other)| cross[(i, j)] -= (own * other) as f64 / n);
            }
            units += block.len();
            total += block
                .iter()
                .map(|u| (u.value - centre).powi(2))
                .sum::<f64>();
        }
        let df = units as f64 - (k + self.blocks.len() - 1) as f64;
        let inverse = cross
            .view((1, 1), (k - 1, k - 1))
            .into_owned()
            .cholesky()?
            .inverse();
        if !(df > 0.0 && total > 0.0) || (0..k - 1).any(|t| !inverse[(t, t)].is_finite()) {
            return None;
        }
        let rows: Vec<Vec<f64>> = (0..k - 1)
            .map(|t| inverse.row(t).iter().copied().collect())
            .collect();
        // Squares of the gaps over their share of the variance, and what the treatments leave: no
        // room is asked for, because this runs for every deal.
        let gap = |t: usize, sums: &[f64]| -> f64 {
            rows[t].iter().zip(&sums[1..]).map(|(w, sum)| w * sum).sum()
        };
        let left = |explained: f64| ((total - explained) / df).max(total * 1e-15);
        let seen = self.seen();
        let explained = (0..k - 1).map(|t| gap(t, &seen) * seen[t + 1]).sum::<f64>();
        let bars: Vec<f64> = (0..k - 1)
            .map(|t| gap(t, &seen).abs() / (left(explained) * rows[t][t]).sqrt())
            .collect();
        let largest = |sums: &[f64]| -> f64 {
            let (mut explained, mut most) = (0.0, 0.0f64);
            for (t, row) in rows.iter().enumerate() {
                let gap = gap(t, sums);
                explained += gap * sums[t + 1];
                most = most.max(gap * gap / row[t]);
            }
            (most / left(explained)).sqrt()
        };
        Some(self.count(&bars, seed, true, largest))
    }

    /// The largest difference of mean values from the control, each over its standard deviation
    /// under the deal: the statistic for ranks and grades. One bar, that of all the treatments
    /// together.
    ///
    /// ```
    /// use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
    /// let unit = |treatment, value| DealtUnit { treatment, block: 0, value };
    /// let ranks = [unit(0, 1.0), unit(0, 2.0), unit(1, 4.0), unit(1, 3.0)];
    /// let dealt = Deck::of(&ranks, 2).and_then(|deck| deck.largest_mean_gap(1)).expect("ranks that differ");
    /// assert!((dealt.shares[0].p - 1.0 / 3.0).abs() < 1e-12);
    /// ```
    #[must_use]
    pub fn largest_mean_gap(&self, seed: u64) -> Option<WholeDeal> {
        let k = self.treatments;
        let mut counts = vec![0.0; k];
        self.blocks
            .iter()
            .flatten()
            .for_each(|u| counts[u.treatment] += 1.0);
        if counts.contains(&0.0) {
            return None;
        }
        // Variance of a difference of means under the deal: a block's units are drawn without
        // replacement.
        let mut variances = vec![0.0; k];
        for (block, centre) in self.blocks.iter().zip(self.centres()) {
            let n = block.len() as f64;
            if n < 2.0 {
                continue;
            }
            let spread = block
                .iter()
                .map(|u| (u.value - centre).powi(2))
                .sum::<f64>()
                / (n - 1.0);
            let hand: Vec<f64> = self.hand(block).into_iter().map(|n| n as f64).collect();
            for t in 1..k {
                let (a, b) = (1.0 / counts[t], 1.0 / counts[0]);
                // Var sum w_i x_i with weights a on own units, -b on the control's: s2 (sum w^2 -
                // (sum w)^2 / n).
                let squares = hand[t] * a * a + hand[0] * b * b;
                let sum = hand[t] * a - hand[0] * b;
                variances[t] += spread * (squares - sum * sum / n);
            }
        }
        if (1..k).any(|t| !(variances[t] > 0.0)) {
            return None;
        }
        let far = |sums: &[f64]| -> f64 {
            (1..k)
                .map(|t| (sums[t] / counts[t] - sums[0] / counts[0]).abs() / variances[t].sqrt())
                .fold(0.0, f64::max)
        };
        Some(self.count(&[far(&self.seen())], seed, true, far))
    }
}

/// What the units of a block stand above its mean.
pub(super) fn above(block: &[DealtUnit], centre: f64) -> Vec<f64> {
    block.iter().map(|unit| unit.value - centre).collect()
}

/// How many deals passed each bar: at least as far, and farther.
struct Tally<'a> {
    at: Vec<(u32, u32)>,
    bars: &'a [f64],
    deals: u32,
}

impl Tally<'_> {
    fn take(&mut self, far: f64) {
        self.deals += 1;
        for (at, bar) in self.at.iter_mut().zip(self.bars) {
            at.0 += u32::from(far >= bar - TIE * bar);
            at.1 += u32::from(far > bar + TIE * bar);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::linear::{Layout, Observation, fit};
    use rand::RngExt;

    fn unit(treatment: usize, block: usize, value: f64) -> DealtUnit {
        DealtUnit {
            treatment,
            block,
            value,
        }
    }

    /// The naive twin: the linear model fitted for every deal of two blocks.
    #[test]
    fn the_largest_difference_is_that_of_the_model() {
        let values = [[3.0, 5.5, 9.0], [4.0, 7.0, 6.5], [1.0, 2.0, 8.0]];
        let units: Vec<DealtUnit> = (values.iter().enumerate())
            .flat_map(|(b, own)| own.iter().enumerate().map(move |(t, v)| unit(t, b, *v)))
            .collect();
        let layout = Layout {
            treatments: 3,
            blocks: 3,
            columns: 1,
            baseline: false,
        };
        let largest = |order: &[[usize; 3]; 3]| {
            let rows: Vec<Observation> = (0..9)
                .map(|i| Observation {
                    value: values[i / 3][i % 3],
                    treatment: order[i / 3][i % 3],
                    block: i / 3,
                    column: 0,
                    baseline: 0.0,
                    unit: i,
                })
                .collect();
            let fit = fit(&rows, layout).unwrap();
            [1, 2].map(|t| {
                let d = fit.difference(t, 0);
                (d.estimate / d.se).abs()
            })
        };
        let orders = [
            [0, 1, 2],
            [0, 2, 1],
            [1, 0, 2],
            [1, 2, 0],
            [2, 0, 1],
            [2, 1, 0],
        ];
        let seen = largest(&[orders[0]; 3]);
        let (mut as_far, mut farther) = ([0.0; 2], [0.0; 2]);
        for a in orders {
            for b in orders {
                for c in orders {
                    let most = largest(&[a, b, c]).into_iter().fold(0.0, f64::max);
                    for t in 0..2 {
                        as_far[t] += f64::from(u8::from(most >= seen[t] * (1.0 - 1e-9)));
                        farther[t] += f64::from(u8::from(most > seen[t] * (1.0 + 1e-9)));
                    }
                }
            }
        }
        let dealt = Deck::of(&units, 3).unwrap().largest_difference(1).unwrap();
        assert_eq!((dealt.assignments, dealt.exact), (216.0, true));
        for t in 0..2 {
            assert!(
                (dealt.shares[t].p - as_far[t] / 216.0).abs() < 1e-12,
                "{dealt:?}"
            );
            assert!(
                (dealt.shares[t].mid_p - 0.5 * (as_far[t] + farther[t]) / 216.0).abs() < 1e-12,
                "{dealt:?}"
            );
        }
    }

    #[test]
    fn sampling_agrees_with_counting() {
        let units: Vec<DealtUnit> = (0..12)
            .map(|i| unit(i % 4, 0, f64::from(i as u32 * 37 % 23)))
            .collect();
        let deck = Deck::of(&units, 4).unwrap();
        let counted = deck.largest_difference(1).unwrap();
        // Names exchanged change nothing: one deal of each set of names is as good as all.
        let spread =
            |sums: &[f64]| sums[1..].iter().map(|s| s.abs()).fold(0.0, f64::max) - sums[0].abs();
        let at = [spread(&deck.seen())];
        assert_eq!(
            deck.count(&at, 1, true, spread).shares,
            deck.count(&at, 1, false, spread).shares
        );
        assert!(counted.exact && (counted.assignments - 369_600.0).abs() < 1e-6);
        let large: Vec<DealtUnit> = (0..24)
            .map(|i| unit(i % 4, i / 4, f64::from(i as u32 * 37 % 23)))
            .collect();
        let (a, b) = (
            Deck::of(&large, 4).unwrap().largest_difference(5),
            Deck::of(&large, 4).unwrap().largest_difference(5),
        );
        assert!(
            a == b && a.is_some_and(|d| !d.exact),
            "the same seed gives the same answer"
        );
        // Both ways of dealing, through the same statistic.
        let far = |sums: &[f64]| sums[1].abs();
        let bar = [far(&deck.seen())];
        let exact = deck.count(&bar, 1, false, far).shares[0].p;
        let mut random = ChaCha8Rng::seed_from_u64(3);
        let mut values: Vec<f64> = units.iter().map(|u| u.value - deck.centres()[0]).collect();
        let hits = (0..40_000)
            .filter(|_| {
                for i in 0..values.len() {
                    let j = random.random_range(i..values.len());
                    values.swap(i, j);
                }
                values[..3].iter().sum::<f64>().abs() >= bar[0] * (1.0 - 1e-9)
            })
            .count();
        assert!(
            (exact - hits as f64 / 40_000.0).abs() < 0.01,
            "{exact} {hits}"
        );
    }

    /// A deck of two blocks, through both ways of drawing, against what is counted.
    #[test]
    fn both_ways_of_drawing_agree_with_counting() {
        let value = |i: u32| f64::from(i * 37 % 23) + 9.0 * f64::from(u8::from(i % 3 == 2));
        let unit = |i: u32| DealtUnit {
            treatment: i as usize % 3,
            block: i as usize / 6,
            value: value(i),
        };
        let deck = Deck::of(&(0..12).map(unit).collect::<Vec<_>>(), 3).unwrap();
        let far = |sums: &[f64]| (sums[1] + 2.0 * sums[2]).abs();
        let seen = deck.seen();
        let counted = deck.count(&[far(&seen)], 1, false, far);
        let p = counted.shares[0].p;
        assert!(counted.exact && p > 0.001 && p < 0.3, "{counted:?}");
        for listed in [true, false] {
            let mut random = ChaCha8Rng::seed_from_u64(4);
            let of = |(block, centre): (&Vec<DealtUnit>, f64)| {
                let (above, hand) = (above(block, centre), deck.hand(block));
                match listed {
                    true => Draws::of_treatments(above, hand),
                    false => Draws::dealt_to_treatments(above, &hand),
                }
            };
            let mut draws: Vec<Draws> = deck.blocks.iter().zip(deck.centres()).map(of).collect();
            assert_eq!(
                draws
                    .iter()
                    .all(|d| matches!(d, Draws::Listed { deals: 90, .. })),
                listed
            );
            let hit = |_: &u32| {
                let mut sums = vec![0.0; 3];
                draws
                    .iter_mut()
                    .for_each(|d| d.draw(&mut random, &mut sums));
                assert!(
                    sums.iter().sum::<f64>().abs() < 1e-9,
                    "what one gets the others leave"
                );
                far(&sums) >= far(&seen) * (1.0 - 1e-9)
            };
            let share = (0..60_000).filter(hit).count() as f64 / 60_000.0;
            // Four standard errors of a share of 60,000.
            assert!(
                (share - p).abs() < 4.0 * (p / 60_000.0).sqrt(),
                "{listed} {share} {counted:?}"
            );
        }
    }

    #[test]
    fn nothing_to_deal() {
        assert!(Deck::of(&[unit(0, 0, f64::NAN)], 2).is_none());
        let alike: Vec<DealtUnit> = (0..4).map(|i| unit(i % 2, 0, 5.0)).collect();
        assert!(Deck::of(&alike, 2).unwrap().largest_difference(1).is_none());
        let apart = [
            unit(0, 0, 1.0),
            unit(0, 0, 2.0),
            unit(1, 1, 3.0),
            unit(1, 1, 4.0),
        ];
        assert!(Deck::of(&apart, 2).unwrap().largest_difference(1).is_none());
    }
}
