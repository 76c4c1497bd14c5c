//! Deals of units to treatments: how many there are, each in turn, and those of one block to draw
//! from.

use super::binomial;
use rand::RngExt;
use rand_chacha::ChaCha8Rng;
use std::borrow::Cow;

/// In how many ways units can be dealt to treatments that get so many each.
pub(super) fn deals_of(hand: &[usize]) -> f64 {
    let mut left = hand.iter().sum();
    let ways = |own: &usize| {
        let ways = binomial(left, *own);
        left -= own;
        ways
    };
    hand.iter().map(ways).product()
}

/// Every deal in turn: unit by unit, to each treatment that still has a place in its block.
/// Treatments from `named` on have no name yet: the first of them that gets a unit in the first
/// block takes the first name, and so on.
pub(super) fn walk(
    units: &[(usize, f64)],
    left: &mut [Vec<usize>],
    sums: &mut [f64],
    named: usize,
    each: &mut impl FnMut(&[f64]),
) {
    let Some((&(block, value), rest)) = units.split_first() else {
        return each(sums);
    };
    for t in 0..sums.len().min(named + 1) {
        if left[block][t] > 0 {
            left[block][t] -= 1;
            sums[t] += value;
            walk(rest, left, sums, named.max(t + 1), each);
            sums[t] -= value;
            left[block][t] += 1;
        }
    }
}

/// Deals of one block.
pub(super) enum Draws<'a> {
    /// What every deal of it gives to the sums, one deal after the other: a small block has few,
    /// and to pick one of them is quicker than to deal its units.
    Listed { sums: Cow<'a, [f64]>, deals: u32 },
    /// Values are exchanged, and the first of them taken, each to a sum and times a weight. `rest`
    /// is the sum of those units that are most: it gets what the others leave, so they need not be
    /// dealt.
    Dealt {
        values: Vec<f64>,
        to: Vec<(usize, f64)>,
        rest: Option<usize>,
    },
}

impl<'a> Draws<'a> {
    /// Deals of a block that are listed here, at most.
    const LISTED: f64 = 1_000.0;

    /// What each of the treatments gets of what the units stand above the block's mean.
    pub(super) fn of_treatments(above: Vec<f64>, hand: Vec<usize>) -> Self {
        if deals_of(&hand) > Self::LISTED {
            return Self::dealt_to_treatments(above, &hand);
        }
        let units: Vec<(usize, f64)> = above.into_iter().map(|value| (0, value)).collect();
        let (mut sums, mut deals, mut own) = (Vec::new(), 0, vec![0.0; hand.len()]);
        let named = hand.len();
        walk(&units, &mut [hand], &mut own, named, &mut |own| {
            sums.extend_from_slice(own);
            deals += 1;
        });
        Self::Listed {
            sums: sums.into(),
            deals,
        }
    }

    pub(super) fn dealt_to_treatments(above: Vec<f64>, hand: &[usize]) -> Self {
        let rest = (0..hand.len()).max_by_key(|t| hand[*t]).unwrap_or(0);
        let others = hand.iter().enumerate().filter(|(t, _)| *t != rest);
        let to = others
            .flat_map(|(t, units)| vec![(t, 1.0); *units])
            .collect();
        Self::Dealt {
            values: above,
            to,
            rest: Some(rest),
        }
    }

    /// One sum, of which every deal is known.
    pub(super) fn of_list(list: &'a [f64]) -> Self {
        Self::Listed {
            sums: list.into(),
            deals: list.len() as u32,
        }
    }

    /// One sum, of values about their mean each times the score of its place. What is over the
    /// score that most places have is enough: the rest of it goes to all values together, and those
    /// are nothing.
    pub(super) fn of_scores(above: &[f64], scores: &[f64]) -> Self {
        let number = |score: &f64| scores.iter().filter(|s| **s == *score).count();
        let rest = scores.iter().copied().max_by_key(number).unwrap_or(0.0);
        let to = scores
            .iter()
            .filter(|s| **s != rest)
            .map(|s| (0, s - rest))
            .collect();
        Self::Dealt {
            values: above.to_vec(),
            to,
            rest: None,
        }
    }

    /// Adds to the sums what they get in one deal.
    pub(super) fn draw(&mut self, random: &mut ChaCha8Rng, sums: &mut [f64]) {
        // Of 32 bits: twice as quick, and no block has that many units.
        match self {
            Self::Listed {
                sums: listed,
                deals,
            } => {
                let from = random.random_range(0..*deals) as usize * sums.len();
                sums.iter_mut()
                    .zip(&listed[from..])
                    .for_each(|(sum, own)| *sum += own);
            }
            Self::Dealt { values, to, rest } => {
                let (n, mut left) = (values.len() as u32, 0.0);
                for (i, &(sum, weight)) in (0..n).zip(to.iter()) {
                    values.swap(i as usize, random.random_range(i..n) as usize);
                    let own = weight * values[i as usize];
                    sums[sum] += own;
                    left -= own;
                }
                if let Some(rest) = *rest {
                    sums[rest] += left;
                }
            }
        }
    }
}
