//! Deals of one block, to draw from.

use super::whole::{DealtUnit, deals_of, walk};
use rand::RngExt;
use rand_chacha::ChaCha8Rng;
use std::borrow::Cow;

/// Deals of one block.
pub(super) enum Draws<'a> {
    /// What every deal of it gives to the sums, one deal after the other: a small block has few, and to pick one of them is quicker
    /// than to deal its units.
    Listed { sums: Cow<'a, [f64]>, deals: u32 },
    /// Values are exchanged, and the first of them taken, each to a sum and times a weight. `rest` is the sum of those units that
    /// are most: it gets what the others leave, so they need not be dealt.
    Dealt { values: Vec<f64>, to: Vec<(usize, f64)>, rest: Option<usize> },
}

impl<'a> Draws<'a> {
    /// Deals of a block that are listed here, at most.
    const LISTED: f64 = 1_000.0;

    /// What each of the treatments gets of what stands above the block's mean.
    pub(super) fn of_treatments(block: &[DealtUnit], centre: f64, hand: Vec<usize>) -> Self {
        if deals_of(&hand) > Self::LISTED {
            return Self::dealt_to_treatments(block, centre, &hand);
        }
        let units: Vec<(usize, f64)> = block.iter().map(|u| (0, u.value - centre)).collect();
        let (mut sums, mut deals, mut own) = (Vec::new(), 0, vec![0.0; hand.len()]);
        let named = hand.len();
        walk(&units, &mut [hand], &mut own, named, &mut |own| {
            sums.extend_from_slice(own);
            deals += 1;
        });
        Self::Listed { sums: sums.into(), deals }
    }

    fn dealt_to_treatments(block: &[DealtUnit], centre: f64, hand: &[usize]) -> Self {
        let rest = (0..hand.len()).max_by_key(|t| hand[*t]).unwrap_or(0);
        let to = block.iter().map(|u| (u.treatment, 1.0)).filter(|(t, _)| *t != rest).collect();
        Self::Dealt { values: block.iter().map(|u| u.value - centre).collect(), to, rest: Some(rest) }
    }

    /// One sum, of which every deal is known.
    pub(super) fn of_list(list: &'a [f64]) -> Self {
        Self::Listed { sums: list.into(), deals: list.len() as u32 }
    }

    /// One sum, of values about their mean each times the score of its place. What is over the score that most places have is
    /// enough: the rest of it goes to all values together, and those are nothing.
    pub(super) fn of_scores(above: &[f64], scores: &[f64]) -> Self {
        let number = |score: &f64| scores.iter().filter(|s| **s == *score).count();
        let rest = scores.iter().copied().max_by_key(number).unwrap_or(0.0);
        let to = scores.iter().filter(|s| **s != rest).map(|s| (0, s - rest)).collect();
        Self::Dealt { values: above.to_vec(), to, rest: None }
    }

    /// Adds to the sums what they get in one deal.
    pub(super) fn draw(&mut self, random: &mut ChaCha8Rng, sums: &mut [f64]) {
        // Of 32 bits: twice as quick, and no block has that many units.
        match self {
            Self::Listed { sums: listed, deals } => {
                let from = random.random_range(0..*deals) as usize * sums.len();
                sums.iter_mut().zip(&listed[from..]).for_each(|(sum, own)| *sum += own);
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

#[cfg(test)]
mod tests {
    use super::super::whole::Deck;
    use super::*;
    use rand::SeedableRng;

    /// A deck of two blocks, through both ways of drawing, against what is counted.
    #[test]
    fn both_ways_of_drawing_agree_with_counting() {
        let value = |i: u32| f64::from(i * 37 % 23) + 9.0 * f64::from(u8::from(i % 3 == 2));
        let unit = |i: u32| DealtUnit { treatment: i as usize % 3, block: i as usize / 6, value: value(i) };
        let deck = Deck::of(&(0..12).map(unit).collect::<Vec<_>>(), 3).unwrap();
        let counted = deck.trend(&[0.0, 1.0, 2.0], 1);
        let (p, seen) = (counted.shares[0].p, deck.seen());
        let far = |sums: &[f64]| (sums[1] + 2.0 * sums[2]).abs();
        assert!(counted.exact && p > 0.001 && p < 0.3, "{counted:?}");
        for listed in [true, false] {
            let mut random = ChaCha8Rng::seed_from_u64(4);
            let of = |(block, centre): (&Vec<DealtUnit>, f64)| {
                let hand = deck.hand(block);
                match listed {
                    true => Draws::of_treatments(block, centre, hand),
                    false => Draws::dealt_to_treatments(block, centre, &hand),
                }
            };
            let mut draws: Vec<Draws> = deck.blocks.iter().zip(deck.centres()).map(of).collect();
            assert_eq!(draws.iter().all(|d| matches!(d, Draws::Listed { deals: 90, .. })), listed);
            let hit = |_: &u32| {
                let mut sums = vec![0.0; 3];
                draws.iter_mut().for_each(|d| d.draw(&mut random, &mut sums));
                assert!(sums.iter().sum::<f64>().abs() < 1e-9, "what one gets the others leave");
                far(&sums) >= far(&seen) * (1.0 - 1e-9)
            };
            let share = (0..60_000).filter(hit).count() as f64 / 60_000.0;
            // Four standard errors of a share of 60,000.
            assert!((share - p).abs() < 4.0 * (p / 60_000.0).sqrt(), "{listed} {share} {counted:?}");
        }
    }
}
