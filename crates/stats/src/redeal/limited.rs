//! The re-deal where the deal was limited: only deals that would have been admitted are counted.
//!
//! Source: Morgan and Rubin 2012, Rerandomization to improve covariate balance in experiments,
//! Annals of Statistics 40.

use super::{Block, Piece, Redeal, SAMPLES, TIE, binomial, of_samples};
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// A block with the starting size of each of its units.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LimitedBlock {
    /// The units by what was measured.
    pub units: Block,
    /// Starting sizes of the treated units.
    pub treated_start: Vec<f64>,
    /// Starting sizes of the control units.
    pub control_start: Vec<f64>,
}

/// Deals that are enumerated at most.
const MOST_DEALS: f64 = 2_000_000.0;
/// Deals drawn for one admitted deal, on average, before sampling gives up.
const MOST_TRIES: u32 = 200;

/// A block's units with the statistic of a deal as a plain sum, and their starting sizes in the
/// same order.
struct Sized {
    piece: Piece,
    start: Vec<f64>,
}

/// Counts the deals of two treatments that would have been admitted.
///
/// `admits` is given the sum of the starting sizes over the treated units of all blocks; the rest
/// went to the control. None where no block holds both sides, or where admitted deals are too rare
/// to be drawn.
///
/// ```
/// use iron_twin_stats::redeal::{Block, limited::{redeal_limited, LimitedBlock}};
/// let units = Block { treated: vec![9.0, 8.0], control: vec![1.0, 2.0] };
/// let block = LimitedBlock { units, treated_start: vec![1.0, 4.0], control_start: vec![2.0, 3.0] };
/// // Of six deals two give both sides the same start (1 + 4 = 2 + 3): this one and its mirror image.
/// let result = redeal_limited(&[block], |sum| sum == 5.0, 1).expect("both sides are there");
/// assert_eq!((result.assignments, result.p), (2.0, 1.0));
/// ```
#[must_use]
pub fn redeal_limited(
    blocks: &[LimitedBlock],
    admits: impl Fn(f64) -> bool,
    seed: u64,
) -> Option<Redeal> {
    let whole = |b: &&LimitedBlock| !b.units.treated.is_empty() && !b.units.control.is_empty();
    let sized: Vec<Sized> = blocks
        .iter()
        .filter(whole)
        .map(|b| Sized {
            piece: Piece::of(&b.units),
            start: b
                .treated_start
                .iter()
                .chain(&b.control_start)
                .copied()
                .collect(),
        })
        .collect();
    let fine = |s: &Sized| s.piece.values.iter().chain(&s.start).all(|v| v.is_finite());
    if sized.is_empty() || !sized.iter().all(fine) {
        return None;
    }
    let observed: f64 = sized.iter().map(|s| s.piece.observed).sum();
    let highest: f64 = sized.iter().map(|s| s.piece.highest).sum();
    let lowest: f64 = sized.iter().map(|s| s.piece.lowest).sum();
    let tie = TIE * (highest - lowest);
    let all: f64 = sized
        .iter()
        .map(|s| binomial(s.start.len(), s.piece.size))
        .product();
    if all > MOST_DEALS {
        return sampled(&sized, (observed.abs(), tie), all, admits, seed);
    }
    let mut leads = Vec::new();
    walk(&sized, 0.0, 0.0, &mut |lead, start| {
        if admits(start) {
            leads.push(lead);
        }
    });
    let number = leads.len() as f64;
    let share = |bound: f64| leads.iter().filter(|l| l.abs() >= bound).count() as f64 / number;
    let widest = leads.iter().map(|l| l.abs()).fold(0.0, f64::max);
    (number > 0.0).then(|| {
        let p = share(observed.abs() - tie);
        let wider = leads
            .iter()
            .filter(|l| l.abs() > observed.abs() + tie)
            .count() as f64
            / number;
        Redeal {
            p,
            mid_p: 0.5 * (p + wider),
            smallest_possible_p: Some(share(widest - tie)),
            assignments: number,
            exact: true,
        }
    })
}

/// Visits every deal with its statistic and its starting sum.
fn walk(blocks: &[Sized], lead: f64, start: f64, visit: &mut dyn FnMut(f64, f64)) {
    let Some((block, rest)) = blocks.split_first() else {
        return visit(lead, start);
    };
    choose(
        block,
        0,
        block.piece.size,
        (block.piece.offset, 0.0),
        &mut |(here, sum)| {
            walk(rest, lead + here, start + sum, visit);
        },
    );
}

fn choose(
    block: &Sized,
    from: usize,
    left: usize,
    sums: (f64, f64),
    visit: &mut dyn FnMut((f64, f64)),
) {
    if left == 0 {
        return visit(sums);
    }
    for i in from..=block.start.len() - left {
        let next = (sums.0 + block.piece.values[i], sums.1 + block.start[i]);
        choose(block, i + 1, left - 1, next, visit);
    }
}

fn sampled(
    blocks: &[Sized],
    (wide, tie): (f64, f64),
    all: f64,
    admits: impl Fn(f64) -> bool,
    seed: u64,
) -> Option<Redeal> {
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let mut orders: Vec<Vec<usize>> = blocks
        .iter()
        .map(|b| (0..b.start.len()).collect())
        .collect();
    let (mut tried, mut admitted, mut as_wide, mut wider) = (0u32, 0u32, 0u32, 0u32);
    while admitted < SAMPLES && tried < MOST_TRIES * SAMPLES / 10 {
        tried += 1;
        let (mut lead, mut start) = (0.0_f64, 0.0);
        for (block, order) in blocks.iter().zip(&mut orders) {
            lead += block.piece.offset;
            for i in 0..block.piece.size {
                let j = random.random_range(i..order.len());
                order.swap(i, j);
                lead += block.piece.values[order[i]];
                start += block.start[order[i]];
            }
        }
        if admits(start) {
            admitted += 1;
            as_wide += u32::from(lead.abs() >= wide - tie);
            wider += u32::from(lead.abs() > wide + tie);
        }
    }
    let (p, mid_p) = of_samples(admitted, as_wide, wider);
    (admitted > 1000).then(|| Redeal {
        p,
        mid_p,
        smallest_possible_p: None,
        assignments: (all * f64::from(admitted) / f64::from(tried)).round(),
        exact: false,
    })
}

#[cfg(test)]
mod tests {
    use super::super::redeal;
    use super::*;
    use proptest::prelude::*;

    fn block(values: &[f64], starts: &[f64], treated: usize) -> LimitedBlock {
        LimitedBlock {
            units: Block {
                treated: values[..treated].to_vec(),
                control: values[treated..].to_vec(),
            },
            treated_start: starts[..treated].to_vec(),
            control_start: starts[treated..].to_vec(),
        }
    }

    proptest! {
        #[test]
        fn without_a_limit_it_is_the_plain_redeal(values in prop::collection::vec(0i32..50, 8), treated in 1usize..4) {
            let values: Vec<f64> = values.into_iter().map(f64::from).collect();
            let blocks = [block(&values[..4], &[0.0; 4], treated), block(&values[4..], &[0.0; 4], 2)];
            let plain: Vec<Block> = blocks.iter().map(|b| b.units.clone()).collect();
            let (ours, other) = (redeal_limited(&blocks, |_| true, 1).unwrap(), redeal(&plain, 1).unwrap());
            prop_assert!((ours.p - other.p).abs() < 1e-12, "{} {}", ours.p, other.p);
            prop_assert!((ours.mid_p - other.mid_p).abs() < 1e-12, "{} {}", ours.mid_p, other.mid_p);
            prop_assert_eq!(ours.assignments, other.assignments);
            prop_assert_eq!(ours.smallest_possible_p.is_some(), other.smallest_possible_p.is_some());
        }
    }

    #[test]
    fn drawn_deals_agree_with_all_of_them() {
        // 12 v 12 is 2.7 million deals: just beyond what is enumerated, while a share of the
        // starting sums can be told exactly for one that is not limited.
        let values: Vec<f64> = (0..24).map(|i| f64::from((i * 7) % 24)).collect();
        let starts: Vec<f64> = (0..24).map(|i| f64::from((i * 5) % 24)).collect();
        let one = block(&values, &starts, 12);
        let drawn = redeal_limited(std::slice::from_ref(&one), |_| true, 3).unwrap();
        let counted = redeal(std::slice::from_ref(&one.units), 3).unwrap();
        assert!(!drawn.exact && counted.exact);
        assert!(
            (drawn.p - counted.p).abs() < 0.006,
            "{} {}",
            drawn.p,
            counted.p
        );
        assert!(
            redeal_limited(&[one], |sum| sum == 0.5, 3).is_none(),
            "a limit that admits nothing"
        );
    }

    #[test]
    fn nonsense_gives_nothing() {
        assert!(redeal_limited(&[], |_| true, 1).is_none());
        assert!(redeal_limited(&[block(&[1.0, f64::NAN], &[1.0, 1.0], 1)], |_| true, 1).is_none());
        assert!(
            redeal_limited(&[block(&[1.0, 2.0], &[1.0, f64::INFINITY], 1)], |_| true, 1).is_none()
        );
    }
}
