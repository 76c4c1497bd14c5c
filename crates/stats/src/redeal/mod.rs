//! The exact re-deal test: in how many of the deals that could have been made would the lead have
//! been this wide?
//!
//! Counting meets in the middle: the units are split in two halves, the sums of each half are
//! listed once and sorted, and pairs of halves are counted without ever being formed. 15 against 15
//! (155 million deals) costs two lists of 32,768 sums. Source: Horowitz and Sahni 1974 for the
//! halving; Fisher 1935 for the test.

mod deal;
pub mod limited;
mod trend;
pub mod whole;

use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// The units of the two treatments within one block.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Block {
    /// Values of the treated units.
    pub treated: Vec<f64>,
    /// Values of the control units.
    pub control: Vec<f64>,
}

/// The outcome of the re-deal.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Redeal {
    /// Share of deals with a lead at least as wide as the one seen, either way.
    pub p: f64,
    /// Share of deals with a wider lead, and half of those with one as wide (Lancaster 1961).
    pub mid_p: f64,
    /// The p of the widest lead that these numbers could give; None when sampled.
    pub smallest_possible_p: Option<f64>,
    /// How many deals could have been made.
    pub assignments: f64,
    /// Whether every deal was counted.
    pub exact: bool,
}

/// Largest list of sums that is formed for exact counting.
const LIST_LIMIT: usize = 2_000_000;
/// Finest ladder of values whose sums are still few.
const MOST_RUNGS: f64 = 1000.0;
/// Deals drawn where counting does not reach.
const SAMPLES: u32 = 100_000;
/// Units drawn for one sampled deal, at most; beyond it the deals follow their limit law as closely
/// as samples could tell.
const MOST_DRAWN: usize = 20_000;
/// Sums this close, as a share of the largest, are one.
const ALIKE: f64 = 1e-13;
/// Ties within this share of the range of the statistic count as equal.
const TIE: f64 = 1e-9;

/// Counts the deals of two treatments over the units of the blocks that hold both.
///
/// The statistic is the unweighted mean over blocks of (treated mean - control mean). Blocks that
/// lack either side are passed over. None where no block holds both. `seed` is used only where the
/// deals must be sampled.
///
/// ```
/// use iron_twin_stats::redeal::{redeal, Block};
/// let far = Block { treated: vec![401.0, 384.0], control: vec![312.0, 321.0] };
/// let result = redeal(&[far], 1).expect("both sides are there");
/// assert_eq!(result.assignments, 6.0);
/// assert!((result.p - 1.0 / 3.0).abs() < 1e-12);
/// ```
#[must_use]
pub fn redeal(blocks: &[Block], seed: u64) -> Option<Redeal> {
    let blocks: Vec<&Block> = blocks
        .iter()
        .filter(|b| !b.treated.is_empty() && !b.control.is_empty())
        .collect();
    if blocks.is_empty()
        || blocks
            .iter()
            .any(|b| b.treated.iter().chain(&b.control).any(|v| !v.is_finite()))
    {
        return None;
    }
    let pieces: Vec<Piece> = blocks.iter().map(|b| Piece::of(b)).collect();
    let observed: f64 = pieces.iter().map(|p| p.observed).sum();
    let highest: f64 = pieces.iter().map(|p| p.highest).sum();
    let lowest: f64 = pieces.iter().map(|p| p.lowest).sum();
    let tie = TIE * (highest - lowest);
    let assignments = pieces
        .iter()
        .map(|p| binomial(p.values.len(), p.size))
        .product();
    let widest = highest.max(-lowest);
    let lists = if pieces.len() == 1 {
        split_single(&pieces[0])
    } else {
        split_blocks(&pieces)
    };
    Some(match lists {
        Some(pairs) => {
            let share = |bound: f64| -> f64 {
                pairs.iter().map(|pair| pair.outside(bound)).sum::<f64>() / assignments
            };
            let p = share(observed.abs() - tie).min(1.0);
            // Where all are alike no lead is wider than another.
            let wider = if tie > 0.0 {
                share(observed.abs() + tie)
            } else {
                0.0
            };
            Redeal {
                p,
                mid_p: 0.5 * (p + wider),
                smallest_possible_p: Some(share(widest - tie).min(1.0)),
                assignments,
                exact: true,
            }
        }
        None if pieces.iter().map(Piece::drawn).sum::<usize>() > MOST_DRAWN => {
            by_limit(&pieces, observed, assignments)
        }
        None => sampled(&pieces, (observed.abs(), tie), assignments, seed),
    })
}

/// A block as the counting needs it: values scaled so that the statistic is a plain sum over the
/// treated units.
struct Piece {
    values: Vec<f64>,
    size: usize,
    /// What the statistic is when the treated sum is zero.
    offset: f64,
    observed: f64,
    highest: f64,
    lowest: f64,
}

impl Piece {
    /// The block's difference of means is sum_treated (1/t + 1/c) - total / c. Values are centred
    /// first, which changes no difference and keeps the digits.
    fn of(block: &Block) -> Self {
        let (t, c) = (block.treated.len() as f64, block.control.len() as f64);
        let all: Vec<f64> = block
            .treated
            .iter()
            .chain(&block.control)
            .copied()
            .collect();
        let centre = all.iter().sum::<f64>() / (t + c);
        let scale = 1.0 / t + 1.0 / c;
        let values: Vec<f64> = all.iter().map(|v| (v - centre) * scale).collect();
        let offset = -values.iter().sum::<f64>() / scale / c;
        let size = block.treated.len();
        let observed = values[..size].iter().sum::<f64>();
        let own = Self::scaled(values, size, observed);
        let add = |sum: f64| offset + sum;
        Self {
            offset,
            observed: add(own.observed),
            lowest: add(own.lowest),
            highest: add(own.highest),
            ..own
        }
    }

    /// Values whose sum over `size` dealt units is the statistic itself.
    fn scaled(values: Vec<f64>, size: usize, observed: f64) -> Self {
        let mut sorted = values.clone();
        sorted.sort_by(f64::total_cmp);
        Self {
            observed,
            lowest: sorted[..size].iter().sum::<f64>(),
            highest: sorted[sorted.len() - size..].iter().sum::<f64>(),
            values,
            size,
            offset: 0.0,
        }
    }
}

impl Piece {
    /// Units moved for one sampled deal: the smaller side.
    fn drawn(&self) -> usize {
        self.size.min(self.values.len() - self.size)
    }
}

/// Two sorted lists whose pairwise sums are the statistic, each pair being one deal (times its
/// count).
struct Pair {
    left: Vec<(f64, f64)>,
    right: Vec<(f64, f64)>,
}

impl Pair {
    /// Number of pairs with |sum| >= bound.
    fn outside(&self, bound: f64) -> f64 {
        if bound <= 0.0 {
            return self.left.iter().map(|l| l.1).sum::<f64>()
                * self.right.iter().map(|r| r.1).sum::<f64>();
        }
        let (Some(lowest), Some(highest)) = (self.right.first(), self.right.last()) else {
            return 0.0;
        };
        // As the left sum grows, the right sums that carry the pair over the bound reach further
        // down the list. Left sums that no right sum carries over it are passed over.
        let mut above = 0.0;
        let (mut from, mut count) = (self.right.len(), 0.0);
        for &(value, times) in &self.left[self.left.partition_point(|l| l.0 + highest.0 < bound)..]
        {
            while from > 0 && value + self.right[from - 1].0 >= bound {
                from -= 1;
                count += self.right[from].1;
            }
            above += times * count;
        }
        let mut below = 0.0;
        let (mut until, mut count) = (0, 0.0);
        for &(value, times) in self.left[..self.left.partition_point(|l| l.0 + lowest.0 <= -bound)]
            .iter()
            .rev()
        {
            while until < self.right.len() && value + self.right[until].0 <= -bound {
                count += self.right[until].1;
                until += 1;
            }
            below += times * count;
        }
        above + below
    }
}

/// Sorted, with equal neighbours merged: decimals repeat a great deal, and merging is what keeps
/// many blocks exact.
fn merged(mut list: Vec<(f64, f64)>) -> Vec<(f64, f64)> {
    list.sort_by(|a, b| a.0.total_cmp(&b.0));
    merge_neighbours(&mut list);
    list
}

/// A value with the number of units that have it.
type Tied = (f64, usize);

/// Values that are alike together, lowest first.
fn tied(values: &[f64]) -> Vec<Tied> {
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    let reach = sorted.iter().map(|v| v.abs()).fold(0.0, f64::max) * ALIKE;
    let mut out: Vec<Tied> = Vec::with_capacity(sorted.len());
    for value in sorted {
        match out.last_mut() {
            Some((first, times)) if value - *first <= reach => *times += 1,
            _ => out.push((value, 1)),
        }
    }
    out
}

/// The steps of a ladder that holds all values, as ranks and grades have it: their sums are then
/// few, however many there are. None where values follow no ladder, or one too fine to help.
fn rungs(values: &[Tied]) -> Option<f64> {
    let (lowest, highest) = (values.first()?.0, values.last()?.0);
    let step = values
        .windows(2)
        .map(|w| w[1].0 - w[0].0)
        .fold(f64::INFINITY, f64::min);
    let steps = (highest - lowest) / step;
    let on = |v: f64| {
        let at = (v - lowest) / step;
        (at - at.round()).abs() < 1e-6
    };
    (steps <= MOST_RUNGS && values.iter().all(|v| on(v.0))).then_some(steps)
}

/// Sums of every subset of each size, counted by distinct values (Streitberg and Röhmel 1986): so
/// many of those that share one are taken in so many ways. Each list is sorted and stays so,
/// because what a value adds is the same list shifted. On a ladder sums fall together again and
/// again and are merged as they come, else at the end.
fn subset_sums(values: &[Tied], ladder: bool) -> Vec<Vec<(f64, f64)>> {
    let all: usize = values.iter().map(|v| v.1).sum();
    let mut by_size: Vec<Vec<(f64, f64)>> = vec![Vec::new(); all + 1];
    by_size[0].push((0.0, 1.0));
    let mut done = 0;
    for &(value, times) in values {
        for size in (0..=done).rev() {
            let (without, with) = by_size.split_at_mut(size + 1);
            for (own, taken) in with.iter_mut().zip(1..=times) {
                let (sum, ways) = (value * taken as f64, binomial(times, taken));
                take_in(own, &without[size], (sum, ways));
            }
        }
        done += times;
        if ladder {
            by_size[..=done].iter_mut().for_each(merge_neighbours);
        }
    }
    by_size.iter_mut().for_each(merge_neighbours);
    by_size
}

/// Takes a sorted list into another, each of its sums raised and counted so many times.
fn take_in(own: &mut Vec<(f64, f64)>, more: &[(f64, f64)], (sum, ways): (f64, f64)) {
    let (mut left, mut right) = (own.len(), more.len());
    own.resize(left + right, (0.0, 0.0));
    // From the back, where there is room: what was there is moved before it is overwritten.
    while right > 0 {
        let next = (more[right - 1].0 + sum, more[right - 1].1 * ways);
        let at = left + right - 1;
        if left > 0 && own[left - 1].0 > next.0 {
            left -= 1;
            own[at] = own[left];
        } else {
            right -= 1;
            own[at] = next;
        }
    }
}

/// Equal neighbours of a sorted list become one.
fn merge_neighbours(list: &mut Vec<(f64, f64)>) {
    let reach = list
        .first()
        .into_iter()
        .chain(list.last())
        .map(|v| v.0.abs())
        .fold(0.0, f64::max)
        * ALIKE;
    list.dedup_by(|next, kept| {
        let is_alike = next.0 - kept.0 <= reach;
        kept.1 += if is_alike { next.1 } else { 0.0 };
        is_alike
    });
}

/// One block: split its distinct values in two halves and pair the sums of k units here with those
/// of size - k there.
fn split_single(piece: &Piece) -> Option<Vec<Pair>> {
    let all = tied(&piece.values);
    let ladder = rungs(&all);
    // The halves in which sums are as many on either side.
    let mut halves: [Vec<Tied>; 2] = [Vec::new(), Vec::new()];
    let mut sums = [1.0f64; 2];
    let mut by_number = all;
    by_number.sort_by_key(|v| std::cmp::Reverse(v.1));
    for value in by_number {
        let side = usize::from(sums[1] < sums[0]);
        sums[side] *= (value.1 + 1) as f64;
        halves[side].push(value);
    }
    let few = ladder.is_some_and(|rungs| {
        rungs * (piece.values.len() * piece.values.len()) as f64 <= LIST_LIMIT as f64
    });
    if !few && sums.iter().any(|n| *n > LIST_LIMIT as f64) {
        return None;
    }
    let [left, right] = halves.map(|half| subset_sums(&half, few));
    let mut right = right;
    let pairs = left.into_iter().enumerate().filter_map(|(here, left)| {
        let there = piece.size.checked_sub(here)?;
        let right = right.get_mut(there).map(std::mem::take)?;
        let left = left
            .into_iter()
            .map(|(s, n)| (s + piece.offset, n))
            .collect();
        Some(Pair { left, right })
    });
    Some(pairs.collect())
}

/// Several blocks: list each block's statistics, then fold the blocks into two lists of about equal
/// length.
fn split_blocks(pieces: &[Piece]) -> Option<Vec<Pair>> {
    let mut lists: Vec<Vec<(f64, f64)>> = Vec::with_capacity(pieces.len());
    for piece in pieces {
        if binomial(piece.values.len(), piece.size) > LIST_LIMIT as f64 {
            return None;
        }
        let sums = choose_sums(&piece.values, piece.size);
        lists.push(merged(
            sums.into_iter().map(|s| (s + piece.offset, 1.0)).collect(),
        ));
    }
    Some(vec![two_sides(lists, 4 * LIST_LIMIT)?])
}

/// Blocks folded into two lists of about equal length; None where one would be longer than `most`.
fn two_sides(mut lists: Vec<Vec<(f64, f64)>>, most: usize) -> Option<Pair> {
    lists.sort_by_key(|l| std::cmp::Reverse(l.len()));
    let mut sides = [vec![(0.0, 1.0)], vec![(0.0, 1.0)]];
    for list in lists {
        let side = usize::from(sides[1].len() < sides[0].len());
        if sides[side]
            .len()
            .checked_mul(list.len())
            .is_none_or(|n| n > most)
        {
            return None;
        }
        let folded = sides[side]
            .iter()
            .flat_map(|&(a, n)| list.iter().map(move |&(b, m)| (a + b, n * m)))
            .collect();
        sides[side] = merged(folded);
    }
    let [left, right] = sides;
    Some(Pair { left, right })
}

/// Sums of all subsets of exactly `size` values.
fn choose_sums(values: &[f64], size: usize) -> Vec<f64> {
    fn walk(values: &[f64], size: usize, sum: f64, out: &mut Vec<f64>) {
        if size == 0 {
            out.push(sum);
        } else if values.len() >= size {
            walk(&values[1..], size - 1, sum + values[0], out);
            walk(&values[1..], size, sum, out);
        }
    }
    let mut out = Vec::new();
    walk(values, size, 0.0, &mut out);
    out
}

/// The share of deals by the central limit theorem for sampling without replacement (Hájek 1960),
/// for deals of tens of thousands of units: its error is far below what 100,000 sampled deals
/// leave, and no p below one in them is claimed.
fn by_limit(pieces: &[Piece], observed: f64, assignments: f64) -> Redeal {
    let variance: f64 = pieces
        .iter()
        .map(|p| {
            let (n, t) = (p.values.len() as f64, p.size as f64);
            let centre = p.values.iter().sum::<f64>() / n;
            let spread = p
                .values
                .iter()
                .map(|v| (v - centre) * (v - centre))
                .sum::<f64>()
                / (n - 1.0);
            spread * t * (n - t) / n
        })
        .sum();
    let p = if variance > 0.0 {
        2.0 * super::distributions::normal_upper(observed.abs() / variance.sqrt())
    } else {
        1.0
    };
    let p = p.max(1.0 / f64::from(SAMPLES + 1));
    Redeal {
        p,
        mid_p: p,
        smallest_possible_p: None,
        assignments,
        exact: false,
    }
}

/// What sampled deals say: so many of them led as widely, so many more widely. The deal that was
/// made is one of all.
fn of_samples(deals: u32, as_wide: u32, wider: u32) -> (f64, f64) {
    let all = f64::from(deals + 1);
    (
        f64::from(as_wide + 1) / all,
        0.5 * f64::from(as_wide + 1 + wider) / all,
    )
}

fn sampled(pieces: &[Piece], (lead, tie): (f64, f64), assignments: f64, seed: u64) -> Redeal {
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let mut values: Vec<Vec<f64>> = pieces.iter().map(|p| p.values.clone()).collect();
    let (mut as_wide, mut wider) = (0u32, 0u32);
    for _ in 0..SAMPLES {
        let mut statistic: f64 = 0.0;
        for (piece, values) in pieces.iter().zip(&mut values) {
            // A partial shuffle of the smaller side is enough to deal a block anew.
            let drawn = piece.drawn();
            for i in 0..drawn {
                let j = random.random_range(i..values.len());
                values.swap(i, j);
            }
            let sum: f64 = values[..drawn].iter().sum();
            let treated = if drawn == piece.size {
                sum
            } else {
                values.iter().sum::<f64>() - sum
            };
            statistic += piece.offset + treated;
        }
        as_wide += u32::from(statistic.abs() >= lead - tie);
        wider += u32::from(statistic.abs() > lead + tie);
    }
    let (p, mid_p) = of_samples(SAMPLES, as_wide, wider);
    Redeal {
        p,
        mid_p,
        smallest_possible_p: None,
        assignments,
        exact: false,
    }
}

/// Number of ways to choose `k` of `n`.
///
/// ```
/// use iron_twin_stats::redeal::binomial;
/// assert_eq!(binomial(16, 8), 12_870.0);
/// ```
#[must_use]
pub fn binomial(n: usize, k: usize) -> f64 {
    let k = k.min(n - k.min(n));
    (0..k)
        .map(|i| (n - i) as f64 / (i + 1) as f64)
        .product::<f64>()
        .round()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// The naive twin: every deal of every block, one by one.
    fn brute(blocks: &[Block]) -> [f64; 4] {
        let mut all = vec![0.0];
        for b in blocks {
            let values: Vec<f64> = b.treated.iter().chain(&b.control).copied().collect();
            let total: f64 = values.iter().sum();
            let (t, c) = (b.treated.len() as f64, b.control.len() as f64);
            let here: Vec<f64> = choose_sums(&values, b.treated.len())
                .iter()
                .map(|sum| sum / t - (total - sum) / c)
                .collect();
            all = all
                .iter()
                .flat_map(|a| here.iter().map(move |h| a + h))
                .collect();
        }
        let observed: f64 = blocks
            .iter()
            .map(|b| {
                b.treated.iter().sum::<f64>() / b.treated.len() as f64
                    - b.control.iter().sum::<f64>() / b.control.len() as f64
            })
            .sum();
        let high = all.iter().copied().fold(f64::MIN, f64::max);
        let low = all.iter().copied().fold(f64::MAX, f64::min);
        let tie = TIE * (high - low);
        let share = |bound: f64| {
            all.iter().filter(|s| s.abs() >= bound - tie).count() as f64 / all.len() as f64
        };
        let wider = all
            .iter()
            .filter(|s| s.abs() > observed.abs() + tie)
            .count() as f64
            / all.len() as f64;
        let p = share(observed.abs());
        [
            p,
            0.5 * (p + wider),
            share(high.max(-low)),
            all.len() as f64,
        ]
    }

    fn block_strategy() -> impl Strategy<Value = Block> {
        let value = (0i32..60).prop_map(|v| f64::from(v) / 10.0);
        (
            prop::collection::vec(value.clone(), 1..4),
            prop::collection::vec(value, 1..4),
        )
            .prop_map(|(treated, control)| Block { treated, control })
    }

    proptest! {
        #[test]
        fn counting_equals_enumeration(blocks in prop::collection::vec(block_strategy(), 1..4)) {
            let fast = redeal(&blocks, 1).unwrap();
            let [p, mid_p, smallest, deals] = brute(&blocks);
            prop_assert!((fast.p - p).abs() < 1e-12);
            prop_assert!((fast.mid_p - mid_p).abs() < 1e-12, "{} {mid_p}", fast.mid_p);
            prop_assert!((fast.smallest_possible_p.unwrap() - smallest).abs() < 1e-12);
            prop_assert!((fast.assignments - deals).abs() < 1e-9);
        }

        #[test]
        fn shifting_and_scaling_change_nothing(
            block in block_strategy(), shift in -1e4..1e4f64, scale in 0.01..100.0f64,
        ) {
            let moved = Block {
                treated: block.treated.iter().map(|v| v * scale + shift).collect(),
                control: block.control.iter().map(|v| v * scale + shift).collect(),
            };
            let swapped = Block { treated: block.control.clone(), control: block.treated.clone() };
            let p = redeal(std::slice::from_ref(&block), 1).unwrap().p;
            prop_assert!((redeal(&[moved], 1).unwrap().p - p).abs() < 1e-12);
            prop_assert!((redeal(&[swapped], 1).unwrap().p - p).abs() < 1e-12);
        }
    }

    /// Grades and ranks are counted however many there are: the rank sum of 40 against 40 without
    /// ties, beside the recurrence of Mann and Whitney 1947 written out.
    #[test]
    fn ranks_are_counted_by_distinct_values() {
        let treated: Vec<f64> = (1..=40).map(|i| f64::from(2 * i - i % 3)).collect();
        let control: Vec<f64> = (1..=80)
            .map(f64::from)
            .filter(|r| !treated.contains(r))
            .collect();
        assert_eq!(control.len(), 40, "all ranks of 80");
        let result = redeal(
            &[Block {
                treated: treated.clone(),
                control,
            }],
            1,
        )
        .unwrap();
        assert!(result.exact);
        // ways[n][s]: subsets of n of the ranks so far with sum s.
        let most = 80 * 81 / 2;
        let mut ways = vec![vec![0.0f64; most + 1]; 41];
        ways[0][0] = 1.0;
        for rank in 1..=80usize {
            for n in (1..=40).rev() {
                for sum in (rank..=most).rev() {
                    ways[n][sum] += ways[n - 1][sum - rank];
                }
            }
        }
        let (middle, seen) = (40.0 * 81.0 / 2.0, treated.iter().sum::<f64>());
        let as_far: f64 = (0..=most)
            .filter(|s| (*s as f64 - middle).abs() >= (seen - middle).abs())
            .map(|s| ways[40][s])
            .sum();
        let all: f64 = ways[40].iter().sum();
        assert!(
            (result.p - as_far / all).abs() < 1e-12,
            "{} {}",
            result.p,
            as_far / all
        );
    }

    #[test]
    fn large_deals_are_still_counted() {
        let treated: Vec<f64> = (0..15).map(|i| f64::from(i * 37 % 101) / 7.0).collect();
        let control: Vec<f64> = (0..15).map(|i| f64::from(i * 53 % 97) / 7.0).collect();
        let result = redeal(&[Block { treated, control }], 1).unwrap();
        assert!(result.exact);
        assert_eq!(result.assignments, 155_117_520.0);
    }

    #[test]
    fn beyond_counting_the_deals_are_sampled_and_say_so() {
        let treated: Vec<f64> = (0..40).map(|i| (f64::from(i)).sqrt()).collect();
        let control: Vec<f64> = (0..40).map(|i| (f64::from(i) + 0.3).sqrt()).collect();
        let block = Block { treated, control };
        let result = redeal(std::slice::from_ref(&block), 7).unwrap();
        assert!(!result.exact && result.smallest_possible_p.is_none());
        assert!(result.p > 0.5);
        assert_eq!(
            result.p,
            redeal(&[block], 7).unwrap().p,
            "the same seed gives the same answer"
        );
    }

    #[test]
    fn beyond_sampling_the_limit_law_agrees_with_samples() {
        let values = |n: usize, shift: f64| {
            (0..n)
                .map(|i| (i * 7919 % 1009) as f64 / 10.0 + shift)
                .collect::<Vec<f64>>()
        };
        let block = Block {
            treated: values(2000, 1.0),
            control: values(3000, 0.0),
        };
        let pieces = [Piece::of(&block)];
        let (limit, drawn) = (
            by_limit(&pieces, pieces[0].observed, 1.0),
            sampled(&pieces, (pieces[0].observed.abs(), 0.0), 1.0, 5),
        );
        assert!(
            (limit.p - drawn.p).abs()
                < 4.0 * (drawn.p * (1.0 - drawn.p) / f64::from(SAMPLES)).sqrt(),
            "{limit:?} {drawn:?}"
        );
        let large = Block {
            treated: values(60_000, 0.2),
            control: values(60_000, 0.0),
        };
        let result = redeal(&[large], 1).unwrap();
        assert!(!result.exact && result.p < 0.5 && result.p > 1e-6);
    }

    #[test]
    fn degenerate_blocks() {
        assert!(redeal(&[], 1).is_none());
        assert!(
            redeal(
                &[Block {
                    treated: vec![1.0],
                    control: vec![]
                }],
                1
            )
            .is_none()
        );
        assert!(
            redeal(
                &[Block {
                    treated: vec![f64::NAN],
                    control: vec![1.0]
                }],
                1
            )
            .is_none()
        );
        let same = Block {
            treated: vec![2.0; 3],
            control: vec![2.0; 3],
        };
        let alike = redeal(&[same], 1).unwrap();
        assert_eq!(
            (alike.p, alike.mid_p),
            (1.0, 0.5),
            "as many lead wider as less wide"
        );
    }
}
