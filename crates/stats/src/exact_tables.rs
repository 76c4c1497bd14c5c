//! Two totals, or two shares of n, with nothing to show how units scatter: the exact conditional
//! computations.

use super::StatsError;
use super::distributions::{incomplete_beta, log_gamma, root_between};

/// A comparison of two totals or shares, exact given the margins.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ExactRatio {
    /// First over second: of rates, or of odds.
    pub ratio: f64,
    /// Lower limit; 0 where nothing was counted on the first side.
    pub low: f64,
    /// Upper limit; infinite where nothing was counted on the second side.
    pub high: f64,
    /// Two-sided p: the chance of all outcomes no likelier than the one seen.
    pub p: f64,
}

/// Outcomes as likely as the one seen, up to rounding, count as no likelier (R's `binom.test` and
/// `fisher.test`).
const LIKELY: f64 = 1.0 + 1e-7;

/// Largest total that is enumerated.
pub const MOST_COUNTED: f64 = 1e7;

fn check(values: &[f64], confidence: f64) -> Result<(), StatsError> {
    if values.iter().any(|v| !v.is_finite()) {
        return Err(StatsError::NotFinite { what: "a count" });
    }
    let total: f64 = values.iter().sum();
    if values.iter().any(|v| *v < 0.0 || v.fract() != 0.0) || total > MOST_COUNTED {
        return Err(StatsError::OutOfRange {
            what: "a whole count",
            min: 0.0,
            max: MOST_COUNTED,
            got: total,
        });
    }
    if !(confidence > 0.0 && confidence < 1.0) {
        return Err(StatsError::OutOfRange {
            what: "confidence",
            min: 0.0,
            max: 1.0,
            got: confidence,
        });
    }
    Ok(())
}

/// P(X >= x) for X binomial(n, p).
pub(crate) fn binomial_upper(x: f64, n: f64, p: f64) -> f64 {
    if x <= 0.0 {
        1.0
    } else {
        incomplete_beta(x, n - x + 1.0, p, 1.0 - p)
    }
}

/// The p that solves a rising function equal to `target`, between 0 and 1.
fn share_at(target: f64, rising: impl Fn(f64) -> f64) -> Result<f64, StatsError> {
    root_between("exact limit", 1e-300, 1.0 - 1e-16, |p| target - rising(p))
}

/// Ratio of two Poisson rates, counted over two exposures, by the binomial split of the total.
///
/// Limits are Clopper and Pearson's 1934, as in R's `poisson.test`.
///
/// # Errors
/// [`StatsError::OutOfRange`] for counts that are no whole numbers, exposures not above zero or a
/// confidence outside (0, 1); [`StatsError::NoConvergence`].
///
/// ```
/// use iron_twin_stats::exact_tables::rate_ratio;
/// let exact = rate_ratio((58.0, 12.0), (41.0, 10.0), 0.95)?;
/// assert!((exact.p - 0.480097579354868).abs() < 1e-9); // R 4.2.2 poisson.test
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn rate_ratio(
    first: (f64, f64),
    second: (f64, f64),
    confidence: f64,
) -> Result<ExactRatio, StatsError> {
    check(&[first.0, second.0], confidence)?;
    if !(first.1 > 0.0 && second.1 > 0.0) {
        let got = first.1.min(second.1);
        return Err(StatsError::OutOfRange {
            what: "exposure",
            min: 0.0,
            max: f64::INFINITY,
            got,
        });
    }
    let (x, n) = (first.0, first.0 + second.0);
    let chance = first.1 / (first.1 + second.1);
    let log_pmf = |k: f64| {
        log_gamma(n + 1.0) - log_gamma(k + 1.0) - log_gamma(n - k + 1.0)
            + k * chance.ln()
            + (n - k) * (-chance).ln_1p()
    };
    let seen = log_pmf(x).exp() * LIKELY;
    let p = (0..=n as u64)
        .map(|k| log_pmf(k as f64).exp())
        .filter(|d| *d <= seen)
        .sum::<f64>()
        .min(1.0);
    let tail = 0.5 * (1.0 - confidence);
    let to_ratio = |share: f64| share / (1.0 - share) * second.1 / first.1;
    let low = if x == 0.0 {
        0.0
    } else {
        to_ratio(share_at(tail, |p| binomial_upper(x, n, p))?)
    };
    let high = if x == n {
        f64::INFINITY
    } else {
        to_ratio(share_at(1.0 - tail, |p| binomial_upper(x + 1.0, n, p))?)
    };
    Ok(ExactRatio {
        ratio: (first.0 / first.1) / (second.0 / second.1),
        low,
        high,
        p,
    })
}

/// Odds ratio of two shares by Fisher's exact test: `first` and `second` are k of n.
///
/// The ratio is the conditional maximum-likelihood one, limits and p as in R's `fisher.test`.
///
/// # Errors
/// [`StatsError::OutOfRange`] for k outside 0 to n, numbers that are not whole or a confidence
/// outside (0, 1); [`StatsError::NoConvergence`].
///
/// ```
/// use iron_twin_stats::exact_tables::odds_ratio;
/// // Fisher's tea: 3 of 4 against 1 of 4, p = 34/70.
/// assert!((odds_ratio((3.0, 4.0), (1.0, 4.0), 0.95)?.p - 34.0 / 70.0).abs() < 1e-12);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn odds_ratio(
    first: (f64, f64),
    second: (f64, f64),
    confidence: f64,
) -> Result<ExactRatio, StatsError> {
    check(&[first.0, first.1, second.0, second.1], confidence)?;
    if first.0 > first.1 || second.0 > second.1 {
        return Err(StatsError::OutOfRange {
            what: "k of n",
            min: 0.0,
            max: first.1,
            got: first.0,
        });
    }
    let (x, successes) = (first.0, first.0 + second.0);
    let (least, most) = ((successes - second.1).max(0.0), successes.min(first.1));
    let support = support(first.1, second.1, successes);
    let chances = |shift: f64| chances(&support, shift);
    let over = |shift: f64, keep: &dyn Fn(f64) -> bool, weigh: &dyn Fn(f64) -> f64| -> f64 {
        support
            .iter()
            .zip(chances(shift))
            .filter(|((k, _), _)| keep(*k))
            .map(|((k, _), c)| weigh(*k) * c)
            .sum()
    };
    let even = chances(0.0);
    let seen = even[(x - least) as usize] * LIKELY;
    let p = even.iter().filter(|c| **c <= seen).sum::<f64>().min(1.0);
    let tail = 0.5 * (1.0 - confidence);
    let one = |_: f64| 1.0;
    let low = if x == least {
        0.0
    } else {
        ratio_at(tail, |s| over(s, &|k| k >= x, &one))?
    };
    let high = if x == most {
        f64::INFINITY
    } else {
        ratio_at(1.0 - tail, |s| over(s, &|k| k > x, &one))?
    };
    let ratio = if x == least {
        0.0
    } else if x == most {
        f64::INFINITY
    } else {
        ratio_at(x, |s| over(s, &|_| true, &|k| k))?
    };
    Ok(ExactRatio {
        ratio,
        low,
        high,
        p,
    })
}

/// The odds ratio at which what rises with it reaches a target.
fn ratio_at(target: f64, rising: impl Fn(f64) -> f64) -> Result<f64, StatsError> {
    // The logarithm of the odds ratio, moved up so that the root finder sees a positive argument.
    const REACH: f64 = 700.0;
    root_between("exact odds ratio", 1e-9, 2.0 * REACH, |at| {
        target - rising(at - REACH)
    })
    .map(|at| (at - REACH).exp())
}

/// Every outcome with these margins, and the logarithm of the number of ways to it.
fn support(first: f64, second: f64, successes: f64) -> Vec<(f64, f64)> {
    let (least, most) = ((successes - second).max(0.0), successes.min(first));
    let choose = |n: f64, k: f64| log_gamma(n + 1.0) - log_gamma(k + 1.0) - log_gamma(n - k + 1.0);
    (least as u64..=most as u64)
        .map(|k| k as f64)
        .map(|k| (k, choose(first, k) + choose(second, successes - k)))
        .collect()
}

/// Chances of every outcome when the odds ratio is exp(shift).
fn chances(support: &[(f64, f64)], shift: f64) -> Vec<f64> {
    let logs: Vec<f64> = support.iter().map(|(k, log)| log + k * shift).collect();
    let top = logs.iter().copied().fold(f64::MIN, f64::max);
    let raw: Vec<f64> = logs.iter().map(|l| (l - top).exp()).collect();
    let total: f64 = raw.iter().sum();
    raw.iter().map(|r| r / total).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn near(got: f64, want: f64) {
        assert!((got - want).abs() < 1e-6 * want.abs(), "{got} {want}");
    }

    #[test]
    fn agrees_with_r() {
        // Shared exact-counts.json: R 4.2.2 poisson.test and fisher.test.
        let counts = rate_ratio((58.0, 12.0), (41.0, 10.0), 0.95).unwrap();
        near(counts.ratio, 1.178_861_788_617_89);
        near(counts.low, 0.776_798_602_431_17);
        near(counts.high, 1.803_765_785_677_54);
        near(counts.p, 0.480_097_579_354_868);
        // table(23, 8, 14, 17) by columns: 23 and 14 in the first row, 8 and 17 in the second.
        let fisher = odds_ratio((23.0, 31.0), (14.0, 31.0), 0.95).unwrap();
        // R stops its searches at 1e-4, of the upper limit's inverse even; ours go on. With odds
        // ratio 11.824014644 the chance of 23 or fewer is 0.025000000 (by whole-number sums outside
        // the project), with R's limit 0.0249675.
        for (got, want) in [
            (fisher.ratio, 3.417_413),
            (fisher.low, 1.064_157),
            (fisher.high, 11.827_896),
        ] {
            assert!((got - want).abs() < 4e-4 * want, "{got} {want}");
        }
        near(fisher.p, 0.037_367_535_494_091_7);
    }

    #[test]
    fn turning_the_sides_turns_the_ratio() {
        let (a, b) = (
            rate_ratio((9.0, 2.0), (4.0, 3.0), 0.9).unwrap(),
            rate_ratio((4.0, 3.0), (9.0, 2.0), 0.9).unwrap(),
        );
        assert!((a.low * b.high - 1.0).abs() < 1e-9 && (a.p - b.p).abs() < 1e-12);
        let (a, b) = (
            odds_ratio((7.0, 9.0), (2.0, 8.0), 0.9).unwrap(),
            odds_ratio((2.0, 8.0), (7.0, 9.0), 0.9).unwrap(),
        );
        assert!((a.low * b.high - 1.0).abs() < 1e-9 && (a.ratio * b.ratio - 1.0).abs() < 1e-9);
    }

    #[test]
    fn edges() {
        let none = rate_ratio((0.0, 1.0), (5.0, 1.0), 0.95).unwrap();
        assert!(none.low == 0.0 && none.high.is_finite() && none.p < 0.1);
        let all = odds_ratio((5.0, 5.0), (0.0, 5.0), 0.95).unwrap();
        assert!(all.high.is_infinite() && all.low > 1.0 && (all.p - 2.0 / 252.0).abs() < 1e-12);
        assert_eq!(odds_ratio((0.0, 4.0), (0.0, 4.0), 0.95).unwrap().p, 1.0);
        assert!(rate_ratio((1.5, 1.0), (2.0, 1.0), 0.95).is_err());
        assert!(rate_ratio((1.0, 0.0), (2.0, 1.0), 0.95).is_err());
        assert!(odds_ratio((3.0, 2.0), (1.0, 2.0), 0.95).is_err());
        assert!(rate_ratio((1.0, 1.0), (2.0, 1.0), 1.0).is_err());
    }
}
