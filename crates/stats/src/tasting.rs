//! Can people taste a difference, and which do they prefer? Exact binomial computations for the
//! triangle test and the paired preference test, what so many servings could see, and how many are
//! wanted.

use crate::StatsError;
use crate::exact_tables::binomial_upper;

/// What is served each time, and what counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Serving {
    /// Three cups, two of them alike: which is the odd one? Who guesses is right once in three
    /// times.
    Triangle,
    /// Two cups: which is better? Who does not care says either as often.
    Pair,
}

/// Most servings that are reckoned with.
pub const MOST: usize = 10_000;

impl Serving {
    /// The chance that a guess is right.
    #[must_use]
    pub fn guessed(self) -> f64 {
        match self {
            Self::Triangle => 1.0 / 3.0,
            Self::Pair => 0.5,
        }
    }

    /// How often one is right where a share of servings is truly told apart (triangle), or one is
    /// preferred in that share of them (pair).
    fn right(self, share: f64) -> f64 {
        match self {
            Self::Triangle => share + (1.0 - share) / 3.0,
            Self::Pair => share,
        }
    }
}

fn check(servings: usize, right: usize) -> Result<(), StatsError> {
    let most = MOST as f64;
    if servings == 0 || servings > MOST {
        return Err(StatsError::OutOfRange {
            what: "servings",
            min: 1.0,
            max: most,
            got: servings as f64,
        });
    }
    if right > servings {
        return Err(StatsError::OutOfRange {
            what: "right",
            min: 0.0,
            max: servings as f64,
            got: right as f64,
        });
    }
    Ok(())
}

/// The chance of so many right answers or more among so many servings where everybody guesses:
/// one-sided for triangles; for pairs the chance that as many or more agree on one, whichever it
/// is.
///
/// # Errors
/// [`StatsError::OutOfRange`] for no servings, more than [`MOST`], or more right than there were.
///
/// ```
/// use iron_twin_stats::tasting::{Serving, p_value};
/// // All six of six: (1/3)^6; and six of six for one of two: twice (1/2)^6.
/// assert!((p_value(Serving::Triangle, 6, 6).unwrap() - 1.0 / 729.0).abs() < 1e-12);
/// assert!((p_value(Serving::Pair, 6, 6).unwrap() - 1.0 / 32.0).abs() < 1e-12);
/// ```
pub fn p_value(serving: Serving, servings: usize, right: usize) -> Result<f64, StatsError> {
    check(servings, right)?;
    let n = servings as f64;
    Ok(match serving {
        Serving::Triangle => binomial_upper(right as f64, n, 1.0 / 3.0),
        Serving::Pair => {
            (2.0 * binomial_upper(right.max(servings - right) as f64, n, 0.5)).min(1.0)
        }
    })
}

/// The fewest right answers (or the fewest that agree on one) that chance alone gives no more often
/// than `alpha`; None where even all of them would not be enough.
///
/// # Errors
/// As [`p_value`].
pub fn wanted(serving: Serving, servings: usize, alpha: f64) -> Result<Option<usize>, StatsError> {
    check(servings, 0)?;
    let from = if serving == Serving::Pair {
        servings.div_ceil(2)
    } else {
        0
    };
    // The p falls as more are right: halved until the first is found.
    let (mut low, mut high) = (from, servings + 1);
    while low < high {
        let middle = low.midpoint(high);
        if middle <= servings && p_value(serving, servings, middle)? > alpha {
            low = middle + 1;
        } else {
            high = middle;
        }
    }
    Ok((low <= servings).then_some(low))
}

/// The chance that so many servings show it, at `alpha`, where a share of them is truly told apart
/// (triangle) or one is preferred in that share (pair).
///
/// # Errors
/// As [`p_value`]; [`StatsError::OutOfRange`] for a share that is none.
pub fn power(serving: Serving, servings: usize, alpha: f64, share: f64) -> Result<f64, StatsError> {
    if !(0.0..=1.0).contains(&share) {
        return Err(StatsError::OutOfRange {
            what: "share",
            min: 0.0,
            max: 1.0,
            got: share,
        });
    }
    let Some(wanted) = wanted(serving, servings, alpha)? else {
        return Ok(0.0);
    };
    let (n, right) = (servings as f64, serving.right(share));
    let upper = binomial_upper(wanted as f64, n, right);
    Ok(match serving {
        Serving::Triangle => upper,
        // Also where they agree on the other.
        Serving::Pair => upper + binomial_upper(wanted as f64, n, 1.0 - right),
    })
}

/// The fewest servings that show it with this power, and so do the next twelve numbers: the power
/// goes up and down like a saw, and a taster who does not come must not lose it. None beyond
/// [`MOST`].
///
/// # Errors
/// As [`power`].
pub fn planned(
    serving: Serving,
    alpha: f64,
    share: f64,
    at_least: f64,
) -> Result<Option<usize>, StatsError> {
    let mut run = 0;
    for n in 1..=MOST {
        run = if power(serving, n, alpha, share)? >= at_least {
            run + 1
        } else {
            0
        };
        if run > 12 {
            return Ok(Some(n - 12));
        }
    }
    Ok(None)
}

/// The chance that differences within tasters add up as far to either side, where for each taster
/// the two cups might as well have been changed over: exact, by counting all ways to change them.
/// Differences are of ranks or of whole points, in steps of one half; those of nought say nothing.
///
/// # Errors
/// [`StatsError::OutOfRange`] for no differences, more than [`MOST`], or one that is no multiple of
/// one half up to 100.
///
/// ```
/// use iron_twin_stats::tasting::changed_over;
/// // Six tasters, all to one side: twice (1/2)^6.
/// assert_eq!(changed_over(&[1.0; 6]), Ok(0.03125));
/// assert_eq!(changed_over(&[1.0, -1.0, 0.0]), Ok(1.0));
/// ```
pub fn changed_over(differences: &[f64]) -> Result<f64, StatsError> {
    let n = differences.len();
    if n == 0 || n > MOST {
        return Err(StatsError::OutOfRange {
            what: "differences",
            min: 1.0,
            max: MOST as f64,
            got: n as f64,
        });
    }
    let halves = |d: &f64| {
        let twice = 2.0 * d;
        let whole = twice.abs() <= 200.0 && (twice - twice.round()).abs() < 1e-9;
        whole
            .then_some(twice.round() as i64)
            .ok_or(StatsError::OutOfRange {
                what: "difference",
                min: -100.0,
                max: 100.0,
                got: *d,
            })
    };
    let halves: Vec<i64> = differences.iter().map(halves).collect::<Result<_, _>>()?;
    let most: i64 = halves.iter().map(|d| d.abs()).sum();
    // The chance of each sum that the differences can make, from -most to most.
    let mut chance = vec![0.0; (2 * most + 1) as usize];
    chance[most as usize] = 1.0;
    for d in halves
        .iter()
        .map(|d| d.unsigned_abs() as usize)
        .filter(|d| *d > 0)
    {
        let before = chance.clone();
        for (sum, own) in chance.iter_mut().enumerate() {
            let of = |from: Option<usize>| from.and_then(|i| before.get(i)).copied().unwrap_or(0.0);
            *own = 0.5 * (of(sum.checked_sub(d)) + of(sum.checked_add(d)));
        }
    }
    let seen = halves.iter().sum::<i64>().abs();
    let as_far = chance
        .iter()
        .enumerate()
        .filter(|(i, _)| (*i as i64 - most).abs() >= seen);
    Ok(as_far.map(|(_, p)| p).sum::<f64>().min(1.0))
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    /// ISO 4120 (triangle test), table A.1: the fewest correct answers at 5 % and 1 %, from memory.
    #[test]
    fn triangles_want_what_the_standard_says() {
        for (n, five, one) in [
            (6, 5, 6),
            (12, 8, 9),
            (18, 10, 12),
            (24, 13, 15),
            (30, 15, 17),
            (36, 18, 20),
            (42, 20, 22),
            (48, 22, 25),
            (54, 25, 27),
            (60, 27, 30),
        ] {
            assert_eq!(wanted(Serving::Triangle, n, 0.05), Ok(Some(five)), "{n}");
            assert_eq!(wanted(Serving::Triangle, n, 0.01), Ok(Some(one)), "{n}");
        }
        for (n, five) in [
            (7, 5),
            (8, 6),
            (9, 6),
            (10, 7),
            (11, 7),
            (13, 8),
            (14, 9),
            (15, 9),
            (16, 9),
            (17, 10),
            (20, 11),
        ] {
            assert_eq!(wanted(Serving::Triangle, n, 0.05), Ok(Some(five)), "{n}");
        }
    }

    /// ISO 5495 (paired comparison), two-sided at 5 %, from memory.
    #[test]
    fn pairs_want_what_the_standard_says() {
        for (n, five) in [(10, 9), (12, 10), (15, 12), (20, 15), (24, 18), (30, 21)] {
            assert_eq!(wanted(Serving::Pair, n, 0.05), Ok(Some(five)), "{n}");
        }
        assert_eq!(
            wanted(Serving::Pair, 5, 0.05),
            Ok(None),
            "five of five is one in sixteen"
        );
        assert_eq!(p_value(Serving::Pair, 8, 4), Ok(1.0));
    }

    /// By direct sums over binomial coefficients, worked out beside: 16, 40 and 53 servings first
    /// reach it.
    #[test]
    fn the_number_of_servings_keeps_its_power() {
        for (share, at_least, first) in [(0.5, 0.8, 16), (0.3, 0.8, 40), (0.3, 0.9, 53)] {
            let n = planned(Serving::Triangle, 0.05, share, at_least)
                .unwrap()
                .unwrap();
            assert!((first..first + 12).contains(&n), "{share} {at_least}: {n}");
            assert!(
                (n..n + 13).all(|n| power(Serving::Triangle, n, 0.05, share).unwrap() >= at_least)
            );
            assert!(power(Serving::Triangle, n - 1, 0.05, share).unwrap() < at_least);
        }
        assert_eq!(
            planned(Serving::Pair, 0.05, 0.5, 0.8),
            Ok(None),
            "nobody prefers either"
        );
    }

    proptest! {
        /// The p falls with every right answer, what is wanted is the first to reach it, and who
        /// guesses reaches it no more often than allowed.
        #[test]
        fn chance_alone_passes_no_more_often_than_allowed(n in 1usize..80, alpha in 0.001..0.2f64, pair in any::<bool>()) {
            let serving = if pair { Serving::Pair } else { Serving::Triangle };
            let p = |right| p_value(serving, n, right).unwrap();
            let from = if pair { n.div_ceil(2) } else { 0 };
            prop_assert!((from..n).all(|right| p(right) >= p(right + 1)));
            let first = (from..=n).find(|right| p(*right) <= alpha);
            prop_assert_eq!(wanted(serving, n, alpha).unwrap(), first);
            let guessing = if pair { 0.5 } else { 0.0 };
            prop_assert!(power(serving, n, alpha, guessing).unwrap() <= alpha + 1e-12);
        }
    }

    /// Bitterness of eight wines by nine judges: `wine` of the R package ordinal, after Randall
    /// (1989), from memory; the counts of its ratings agree with the help page. Friedman's
    /// chi-square by R 4.2.2 `friedman.test` is 32.215, and each cup against the first was counted
    /// in R over all 512 ways to change them over.
    #[test]
    fn bitterness_of_wine_agrees_with_r() {
        let rated: [[u8; 8]; 9] = [
            [2, 3, 3, 4, 4, 4, 5, 5],
            [1, 2, 1, 3, 2, 3, 5, 4],
            [2, 3, 3, 2, 5, 5, 4, 4],
            [3, 2, 3, 2, 3, 2, 5, 3],
            [2, 3, 4, 3, 3, 3, 3, 3],
            [3, 2, 3, 2, 2, 4, 5, 4],
            [1, 1, 2, 2, 2, 3, 2, 3],
            [2, 2, 2, 3, 3, 3, 3, 4],
            [1, 2, 3, 2, 3, 2, 4, 4],
        ];
        let ranks: Vec<Vec<f64>> = rated
            .iter()
            .map(|own| crate::ranks::midranks(&own.map(f64::from)))
            .collect();
        let agreed = crate::concordance::concordance(&ranks).unwrap();
        assert!((agreed.w * 9.0 * 7.0 - 32.215).abs() < 5e-4, "{agreed:?}");
        let ways = |cup: usize| {
            let differences: Vec<f64> = ranks.iter().map(|own| own[cup] - own[0]).collect();
            512.0 * changed_over(&differences).unwrap()
        };
        for (cup, of_512) in [
            (1, 280.0),
            (2, 32.0),
            (3, 80.0),
            (4, 12.0),
            (5, 12.0),
            (6, 2.0),
            (7, 4.0),
        ] {
            assert!((ways(cup) - of_512).abs() < 1e-6, "{cup}: {}", ways(cup));
        }
    }

    proptest! {
        /// As counted over all ways to change the cups over; the other way round it is the same.
        #[test]
        fn changing_over_is_counted(halves in prop::collection::vec(-8i32..9, 1..11)) {
            let d: Vec<f64> = halves.iter().map(|h| 0.5 * f64::from(*h)).collect();
            let sum = |way: u32| -> i32 {
                halves.iter().enumerate().map(|(i, h)| if way >> i & 1 == 1 { -h } else { *h }).sum()
            };
            let ways = 1_u32 << halves.len();
            let as_far = (0..ways).filter(|way| sum(*way).abs() >= sum(0).abs()).count();
            let told = changed_over(&d).unwrap();
            prop_assert!((told - as_far as f64 / f64::from(ways)).abs() < 1e-12);
            let back: Vec<f64> = d.iter().map(|x| -x).collect();
            prop_assert_eq!(told, changed_over(&back).unwrap());
        }
    }

    #[test]
    fn what_cannot_be_is_refused() {
        assert!(
            changed_over(&[]).is_err()
                && changed_over(&[0.3]).is_err()
                && changed_over(&[f64::NAN]).is_err()
        );
        assert!(
            p_value(Serving::Triangle, 0, 0).is_err() && p_value(Serving::Triangle, 5, 6).is_err()
        );
        assert!(
            power(Serving::Pair, 10, 0.05, 1.2).is_err()
                && wanted(Serving::Pair, MOST + 1, 0.05).is_err()
        );
    }
}
