//! A trend over treatments in an order that was fixed beforehand, dealt anew inside the blocks.
//!
//! Of a deal only one figure counts, the sum of the values each times the score of its treatment.
//! What a block can give to it is listed, and the blocks' lists meet in the middle; beyond that
//! deals are sampled.

use super::deal::{Draws, deals_of, walk};
use super::whole::{DealtUnit, Deck, Share, WholeDeal, above};
use super::{MOST_DRAWN, Pair, Piece, TIE, merged, of_samples, split_single, two_sides};
use crate::distributions::normal_upper;
use rand::SeedableRng;
use rand_chacha::ChaCha8Rng;

/// Deals that are sampled where counting does not reach. A trend is asked once for each dose of a
/// ladder: a p of 0.05 is known to 0.0015.
const SAMPLED: u32 = 20_000;
/// Deals of all blocks that are listed, at most, the same number for each.
const LISTED: f64 = 50_000.0;
/// Longest list of sums of several blocks.
const FOLDED: usize = 200_000;

impl Deck {
    /// A linear contrast of the treatments' sums, `scores` one a treatment: the test of a trend
    /// over an order that was fixed beforehand, either way. `seed` is used only where the deals
    /// must be sampled.
    ///
    /// ```
    /// use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
    /// let unit = |treatment, value| DealtUnit { treatment, block: 0, value };
    /// let rising = [unit(0, 1.0), unit(1, 2.0), unit(2, 3.0), unit(3, 4.0)];
    /// let dealt = Deck::of(&rising, 4).expect("numbers").trend(&[0.0, 1.0, 2.0, 3.0], 1);
    /// assert!((dealt.shares[0].p - 2.0 / 24.0).abs() < 1e-12);
    /// ```
    #[must_use]
    pub fn trend(&self, scores: &[f64], seed: u64) -> WholeDeal {
        let few = LISTED / self.blocks.len() as f64;
        let each = self.blocks.iter().zip(self.centres());
        let blocks: Vec<Line> = each
            .map(|(units, centre)| Line::of((units, centre), self.hand(units), scores, few))
            .collect();
        let assignments = self.assignments();
        let seen = blocks.iter().map(|b| b.seen()).sum::<f64>().abs();
        let tie = TIE * blocks.iter().map(Line::reach).sum::<f64>();
        let (share, exact) = match counted(&blocks) {
            Some(pairs) => {
                let beyond =
                    |bound: f64| pairs.iter().map(|p| p.outside(bound)).sum::<f64>() / assignments;
                let p = beyond(seen - tie).min(1.0);
                // Where all are alike no deal is farther out than another.
                let farther = if tie > 0.0 { beyond(seen + tie) } else { 0.0 };
                (
                    Share {
                        p,
                        mid_p: 0.5 * (p + farther),
                    },
                    true,
                )
            }
            None if blocks.iter().map(|b| b.above.len()).sum::<usize>() > MOST_DRAWN => {
                (by_limit(&blocks, seen), false)
            }
            None => (sampled(&blocks, (seen, tie), seed), false),
        };
        WholeDeal {
            shares: vec![share],
            assignments,
            exact,
        }
    }
}

/// A block: what its units stand above its mean, and the score of each one's treatment.
struct Line {
    above: Vec<f64>,
    scores: Vec<f64>,
    /// What every deal gives, where those are few enough to be listed.
    listed: Option<Vec<f64>>,
}

impl Line {
    /// Of units about their mean; deals are listed where there are no more than `few`.
    fn of(
        (units, centre): (&[DealtUnit], f64),
        hand: Vec<usize>,
        scores: &[f64],
        few: f64,
    ) -> Self {
        let above = above(units, centre);
        let listed = (deals_of(&hand) <= few).then(|| {
            let dealt: Vec<(usize, f64)> = above.iter().map(|value| (0, *value)).collect();
            let (mut all, mut sums, named) = (Vec::new(), vec![0.0; hand.len()], hand.len());
            let contrast = |sums: &[f64]| {
                sums.iter()
                    .zip(scores)
                    .map(|(sum, score)| sum * score)
                    .sum()
            };
            walk(&dealt, &mut [hand], &mut sums, named, &mut |sums| {
                all.push(contrast(sums))
            });
            all
        });
        Self {
            above,
            scores: units.iter().map(|u| scores[u.treatment]).collect(),
            listed,
        }
    }

    fn seen(&self) -> f64 {
        self.above
            .iter()
            .zip(&self.scores)
            .map(|(value, score)| value * score)
            .sum()
    }

    /// From the lowest to the highest that a deal can give: like goes with like, or with unlike.
    fn reach(&self) -> f64 {
        let sorted = |values: &[f64]| {
            let mut own = values.to_vec();
            own.sort_by(f64::total_cmp);
            own
        };
        let (values, scores) = (sorted(&self.above), sorted(&self.scores));
        values
            .iter()
            .zip(scores.iter().zip(scores.iter().rev()))
            .map(|(v, (up, down))| v * (up - down))
            .sum()
    }

    fn draws(&self) -> Draws<'_> {
        match &self.listed {
            Some(list) => Draws::of_list(list),
            None => Draws::of_scores(&self.above, &self.scores),
        }
    }

    /// The block as two sides of which one is dealt, where no more than two scores are in it.
    fn two_sided(&self) -> Option<Piece> {
        let low = self.scores.iter().copied().fold(f64::INFINITY, f64::min);
        let high = self
            .scores
            .iter()
            .copied()
            .fold(f64::NEG_INFINITY, f64::max);
        if self.scores.iter().any(|s| *s != low && *s != high) || low == high {
            return None;
        }
        let size = self.scores.iter().filter(|s| **s == high).count();
        Some(Piece::scaled(
            self.above.iter().map(|v| v * (high - low)).collect(),
            size,
            self.seen(),
        ))
    }
}

/// Every deal, as sums that meet in the middle; None where those are too many.
fn counted(blocks: &[Line]) -> Option<Vec<Pair>> {
    if let [alone] = blocks
        && let Some(piece) = alone.two_sided()
    {
        return split_single(&piece);
    }
    let lists: Option<Vec<_>> = blocks.iter().map(|b| b.listed.as_ref()).collect();
    let once = |list: &Vec<f64>| merged(list.iter().map(|sum| (*sum, 1.0)).collect());
    two_sides(lists?.into_iter().map(once).collect(), FOLDED).map(|pair| vec![pair])
}

/// The share of deals by the central limit theorem for sampling without replacement (Hájek 1960),
/// for deals of so many units that sampling them would take minutes: its error is far below what
/// samples leave, and no p below one in them is claimed.
fn by_limit(blocks: &[Line], seen: f64) -> Share {
    let variance = |b: &Line| {
        let n = b.above.len() as f64;
        let centre = b.scores.iter().sum::<f64>() / n;
        let scores: f64 = b.scores.iter().map(|s| (s - centre).powi(2)).sum();
        if n > 1.0 {
            scores * b.above.iter().map(|v| v * v).sum::<f64>() / (n - 1.0)
        } else {
            0.0
        }
    };
    let spread = blocks.iter().map(variance).sum::<f64>().sqrt();
    let p = if spread > 0.0 {
        2.0 * normal_upper(seen / spread)
    } else {
        1.0
    };
    let p = p.max(1.0 / f64::from(SAMPLED + 1));
    Share { p, mid_p: p }
}

fn sampled(blocks: &[Line], (seen, tie): (f64, f64), seed: u64) -> Share {
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let mut draws: Vec<Draws> = blocks.iter().map(Line::draws).collect();
    let (mut as_far, mut farther) = (0, 0);
    for _ in 0..SAMPLED {
        let mut sum = [0.0];
        draws
            .iter_mut()
            .for_each(|block| block.draw(&mut random, &mut sum));
        let far = sum[0].abs();
        as_far += u32::from(far >= seen - tie);
        farther += u32::from(far > seen + tie);
    }
    let (p, mid_p) = of_samples(SAMPLED, as_far, farther);
    Share { p, mid_p }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn deck(units: &[(usize, usize, f64)], treatments: usize) -> Deck {
        let unit = |&(treatment, block, value): &(usize, usize, f64)| DealtUnit {
            treatment,
            block,
            value,
        };
        Deck::of(&units.iter().map(unit).collect::<Vec<_>>(), treatments).unwrap()
    }

    /// Every deal one by one: all ways to write a treatment at each unit, and of those the ones
    /// that hold as many of each as were dealt.
    fn brute(deck: &Deck, scores: &[f64]) -> (f64, f64, f64) {
        let mut all = vec![0.0];
        for (block, centre) in deck.blocks.iter().zip(deck.centres()) {
            let (mut own, hand) = (Vec::new(), deck.hand(block));
            for mut written in 0..scores.len().pow(block.len() as u32) {
                let (mut counts, mut sum) = (vec![0; scores.len()], 0.0);
                for unit in block {
                    let treatment = written % scores.len();
                    written /= scores.len();
                    counts[treatment] += 1;
                    sum += (unit.value - centre) * scores[treatment];
                }
                if counts == hand {
                    own.push(sum);
                }
            }
            all = all
                .iter()
                .flat_map(|a: &f64| own.iter().map(move |b| a + b))
                .collect();
        }
        let seen: f64 = (deck.blocks.iter().zip(deck.centres()))
            .flat_map(|(b, centre)| {
                b.iter()
                    .map(move |u| (u.value - centre) * scores[u.treatment])
            })
            .sum();
        let share = |over: f64| {
            all.iter().filter(|v| v.abs() > seen.abs() + over).count() as f64 / all.len() as f64
        };
        let (p, farther) = (share(-1e-7), share(1e-7));
        (p, 0.5 * (p + farther), all.len() as f64)
    }

    proptest! {
        #[test]
        fn what_meets_in_the_middle_is_what_is_counted_one_by_one(
            values in prop::collection::vec(0i32..40, 10), split in 1usize..4, uneven in 0usize..3,
        ) {
            let unit = |(i, v): (usize, &i32)| ((i + i / 5 * uneven) % 3, i % split, f64::from(*v) / 8.0);
            let units: Vec<(usize, usize, f64)> = values.iter().enumerate().map(unit).collect();
            let (deck, scores) = (deck(&units, 3), [0.0, 1.0, 2.0]);
            let dealt = deck.trend(&scores, 1);
            let (p, mid_p, deals) = brute(&deck, &scores);
            prop_assert_eq!((dealt.exact, dealt.assignments), (true, deals));
            prop_assert!((dealt.shares[0].p - p).abs() < 1e-12, "{:?} {}", dealt, p);
            // All alike: no deal is farther out than another, and half of them count.
            let alike = values.iter().all(|v| *v == values[0]);
            prop_assert!(alike || (dealt.shares[0].mid_p - mid_p).abs() < 1e-12, "{:?} {}", dealt, mid_p);
        }
    }

    /// One block of two doses is counted however many units there are: the same as the re-deal of
    /// two sides.
    #[test]
    fn two_doses_are_counted_as_two_sides_are() {
        let value = |i: usize| (i as f64 * 12.9898).sin().abs() * 10.0 + (i % 2) as f64;
        let units: Vec<(usize, usize, f64)> = (0..30).map(|i| (i % 2, 0, value(i))).collect();
        let dealt = deck(&units, 2).trend(&[0.0, 3.0], 1);
        let side = |of: usize| units.iter().filter(|u| u.0 == of).map(|u| u.2).collect();
        let pair = crate::redeal::redeal(
            &[crate::redeal::Block {
                treated: side(1),
                control: side(0),
            }],
            1,
        )
        .unwrap();
        assert!(
            dealt.exact && dealt.assignments == 155_117_520.0 && pair.p > 0.001 && pair.p < 0.9,
            "{pair:?}"
        );
        assert!(
            (dealt.shares[0].p - pair.p).abs() < 1e-12
                && (dealt.shares[0].mid_p - pair.mid_p).abs() < 1e-12
        );
    }

    /// Both ways of drawing, a list of deals and units exchanged, against what is counted.
    #[test]
    fn samples_agree_with_counting() {
        let value = |i: usize| (i * 37 % 23) as f64 + 9.0 * f64::from(u8::from(i % 3 == 2));
        let units: Vec<(usize, usize, f64)> = (0..12).map(|i| (i % 3, i / 6, value(i))).collect();
        let (deck, scores) = (deck(&units, 3), [0.0, 1.0, 2.0]);
        let exact = deck.trend(&scores, 1);
        assert!(
            exact.exact && exact.shares[0].p > 0.001 && exact.shares[0].p < 0.3,
            "{exact:?}"
        );
        for listed in [true, false] {
            let few = if listed { 90.0 } else { 89.0 };
            let line = |(b, centre): (&Vec<DealtUnit>, f64)| {
                Line::of((b, centre), deck.hand(b), &scores, few)
            };
            let own: Vec<Line> = deck.blocks.iter().zip(deck.centres()).map(line).collect();
            assert!(
                own.iter()
                    .all(|b| b.listed.as_ref().map(Vec::len) == listed.then_some(90))
            );
            let seen = own.iter().map(Line::seen).sum::<f64>().abs();
            let drawn = sampled(&own, (seen, 1e-9), 4);
            for (counted, drawn) in [
                (exact.shares[0].p, drawn.p),
                (exact.shares[0].mid_p, drawn.mid_p),
            ] {
                // Four standard errors of so many deals.
                let four = 4.0 * (counted / f64::from(SAMPLED)).sqrt();
                assert!((drawn - counted).abs() < four, "{listed} {drawn} {counted}");
            }
        }
        // Too many to count: the same seed gives the same answer.
        let many: Vec<(usize, usize, f64)> = (0..48).map(|i| (i % 4, 0, value(i))).collect();
        let many = self::deck(&many, 4);
        let (a, b) = (
            many.trend(&[0.0, 1.0, 2.0, 3.0], 5),
            many.trend(&[0.0, 1.0, 2.0, 3.0], 5),
        );
        assert!(a == b && !a.exact);
    }

    /// What the limit law says of 600 units in two unlike blocks is what samples say of them.
    #[test]
    fn beyond_sampling_the_limit_law_agrees_with_samples() {
        let value = |i: usize| (i * 7919 % 1009) as f64 / 10.0 + 2.0 * (i % 3) as f64;
        let units: Vec<(usize, usize, f64)> = (0..600)
            .map(|i| (i % 3, usize::from(i > 400), value(i)))
            .collect();
        let (deck, scores) = (deck(&units, 3), [0.0, 1.0, 2.0]);
        let line =
            |(b, centre): (&Vec<DealtUnit>, f64)| Line::of((b, centre), deck.hand(b), &scores, 0.0);
        let own: Vec<Line> = deck.blocks.iter().zip(deck.centres()).map(line).collect();
        let seen = own.iter().map(Line::seen).sum::<f64>().abs();
        let (limit, drawn) = (by_limit(&own, seen).p, sampled(&own, (seen, 0.0), 4).p);
        assert!(drawn > 0.01 && drawn < 0.9, "{drawn}");
        assert!(
            (limit - drawn).abs() < 4.0 * (drawn / f64::from(SAMPLED)).sqrt(),
            "{limit} {drawn}"
        );
        // A hundred thousand units in twenty-five thousand blocks are told at once.
        let many: Vec<(usize, usize, f64)> =
            (0..100_000).map(|i| (i % 4, i / 4, value(i))).collect();
        let many = self::deck(&many, 4).trend(&[0.0, 1.0, 2.0, 3.0], 1);
        assert!(
            !many.exact && many.shares[0].p > 0.0 && many.shares[0].p <= 1.0,
            "{many:?}"
        );
    }

    #[test]
    fn where_all_are_alike_half_of_the_deals_count() {
        let dealt = deck(&[(0, 0, 2.0), (1, 0, 2.0), (2, 0, 2.0)], 3).trend(&[0.0, 1.0, 2.0], 1);
        assert_eq!((dealt.shares[0].p, dealt.shares[0].mid_p), (1.0, 0.5));
    }
}
