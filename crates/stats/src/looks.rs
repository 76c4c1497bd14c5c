//! Looking early, honestly: the error allowance spent look by look, and what unplanned looks do to
//! it.
//!
//! Sources: Lan and DeMets 1983, Biometrika 70, 659-663; Armitage, McPherson and Rowe 1969 for the
//! integration.

use super::StatsError;
use super::distributions::{
    decreasing_root, normal_density, normal_quantile_upper, normal_upper, t_quantile_upper,
};
use serde::{Deserialize, Serialize};

/// How the allowance is spent.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Spending {
    /// Very little early: on each side 2 - 2 Phi(z / sqrt(t)), z leaving a quarter of alpha above
    /// it; like O'Brien and Fleming's limits.
    #[serde(rename = "obrien_fleming")]
    OBrienFleming,
    /// Evenly: alpha ln(1 + (e - 1) t), like Pocock's.
    #[serde(rename = "pocock")]
    Pocock,
}

impl Spending {
    /// Allowance spent when a share `fraction` of the trial's information is in; two-sided.
    ///
    /// ```
    /// use iron_twin_stats::looks::Spending;
    /// assert!((Spending::Pocock.spent(0.05, 1.0) - 0.05).abs() < 1e-12);
    /// assert!(Spending::OBrienFleming.spent(0.05, 0.3) < 0.001);
    /// ```
    #[must_use]
    pub fn spent(self, alpha: f64, fraction: f64) -> f64 {
        let t = fraction.clamp(0.0, 1.0);
        match self {
            Self::OBrienFleming if t > 0.0 => {
                4.0 * normal_upper(normal_quantile_upper(0.25 * alpha) / t.sqrt())
            }
            Self::OBrienFleming => 0.0,
            Self::Pocock => alpha * (1.0 + (std::f64::consts::E - 1.0) * t).ln(),
        }
    }
}

/// Points of the grid on which the paths that go on are followed.
const POINTS: usize = 801;

/// The paths that have crossed no limit so far: their density on a grid of the score z sqrt(t).
struct Paths {
    grid: Vec<f64>,
    density: Vec<f64>,
    fraction: f64,
}

impl Paths {
    /// Chance that a path that goes on lies beyond `limit` (in z) at the next fraction.
    fn beyond(before: Option<&Self>, fraction: f64, limit: f64) -> f64 {
        let Some(paths) = before else {
            return 2.0 * normal_upper(limit);
        };
        let (edge, sd) = (limit * fraction.sqrt(), (fraction - paths.fraction).sqrt());
        paths.sum(|s| normal_upper((edge - s) / sd) + normal_upper((edge + s) / sd))
    }

    /// Simpson's rule over the density.
    fn sum(&self, weigh: impl Fn(f64) -> f64) -> f64 {
        let step = self.grid[1] - self.grid[0];
        let last = self.grid.len() - 1;
        let parts = self
            .grid
            .iter()
            .zip(&self.density)
            .enumerate()
            .map(|(i, (s, d))| {
                let weight = if i == 0 || i == last {
                    1.0
                } else {
                    2.0 + 2.0 * (i % 2) as f64
                };
                weight * d * weigh(*s)
            });
        parts.sum::<f64>() * step / 3.0
    }

    /// The paths that stay inside `limit` at `fraction`.
    fn inside(before: Option<&Self>, fraction: f64, limit: f64) -> Self {
        // Beyond 8.5 standard deviations nothing is left to follow.
        let edge = limit.min(8.5) * fraction.sqrt();
        let step = 2.0 * edge / (POINTS - 1) as f64;
        let grid: Vec<f64> = (0..POINTS).map(|i| -edge + step * i as f64).collect();
        let density = grid
            .iter()
            .map(|&s| match before {
                None => normal_density(s / fraction.sqrt()) / fraction.sqrt(),
                Some(paths) => {
                    let sd = (fraction - paths.fraction).sqrt();
                    paths.sum(|from| normal_density((s - from) / sd) / sd)
                }
            })
            .collect();
        Self {
            grid,
            density,
            fraction,
        }
    }
}

fn check(fractions: &[f64], alpha: f64) -> Result<(), StatsError> {
    if !(alpha > 0.0 && alpha < 1.0) {
        return Err(StatsError::OutOfRange {
            what: "error allowance",
            min: 0.0,
            max: 1.0,
            got: alpha,
        });
    }
    let mut before = 0.0;
    for &fraction in fractions {
        if !(fraction > before && fraction <= 1.0) {
            return Err(StatsError::OutOfRange {
                what: "share of the trial at a look",
                min: before,
                max: 1.0,
                got: fraction,
            });
        }
        before = fraction;
    }
    if fractions.is_empty() {
        return Err(StatsError::OutOfRange {
            what: "looks",
            min: 1.0,
            max: f64::INFINITY,
            got: 0.0,
        });
    }
    Ok(())
}

/// The |z| that must be passed at each look, so that all looks together keep to `alpha`
/// (two-sided).
///
/// `fractions` are the shares of the information at the looks, rising, the last at most 1. Both
/// limits count: a path ends on either side.
///
/// # Errors
/// [`StatsError::OutOfRange`] for fractions that do not rise within (0, 1] or alpha outside (0, 1).
///
/// ```
/// use iron_twin_stats::looks::{limits, Spending};
/// let two = limits(Spending::OBrienFleming, &[0.5, 1.0], 0.05)?;
/// assert!(two[0] > 2.9 && two[1] < 2.0);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn limits(spending: Spending, fractions: &[f64], alpha: f64) -> Result<Vec<f64>, StatsError> {
    check(fractions, alpha)?;
    let mut paths: Option<Paths> = None;
    let mut spent = 0.0;
    let mut found = Vec::with_capacity(fractions.len());
    for &fraction in fractions {
        let now = spending.spent(alpha, fraction);
        let share = now - spent;
        let limit = if share < 1e-14 {
            f64::INFINITY
        } else {
            decreasing_root("the limit of a look", 2.0, |z| {
                (Paths::beyond(paths.as_ref(), fraction, z).max(1e-300)).ln() - share.ln()
            })?
        };
        paths = Some(Paths::inside(paths.as_ref(), fraction, limit));
        spent = now;
        found.push(limit);
    }
    Ok(found)
}

/// Chance that looks with these limits (in |z|) raise a false alarm: what looking early, unplanned,
/// did to the error.
///
/// # Errors
/// As [`limits`]; [`StatsError::OutOfRange`] where there is not one limit a look.
///
/// ```
/// // Armitage, McPherson and Rowe 1969, table 2: five looks at 1.96 raise 14.2 %.
/// let error = iron_twin_stats::looks::error_of(&[0.2, 0.4, 0.6, 0.8, 1.0], &[1.959964; 5])?;
/// assert!((error - 0.142).abs() < 0.0005);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn error_of(fractions: &[f64], limits: &[f64]) -> Result<f64, StatsError> {
    check(fractions, 0.5)?;
    if limits.len() != fractions.len() || limits.iter().any(|l| !(*l > 0.0)) {
        let (min, got) = (fractions.len() as f64, limits.len() as f64);
        return Err(StatsError::OutOfRange {
            what: "limits above zero, one a look",
            min,
            max: min,
            got,
        });
    }
    let mut paths: Option<Paths> = None;
    let mut error = 0.0;
    for (&fraction, &limit) in fractions.iter().zip(limits) {
        error += Paths::beyond(paths.as_ref(), fraction, limit);
        paths = Some(Paths::inside(paths.as_ref(), fraction, limit));
    }
    Ok(error.min(1.0))
}

/// A limit in |z| carried over to |t| with `df` degrees of freedom, by equal tails.
///
/// # Errors
/// [`StatsError::OutOfRange`] for df not above zero.
///
/// ```
/// use iron_twin_stats::looks::t_limit;
/// assert!((t_limit(1.959_963_985, 5.0)? - 2.570_582).abs() < 1e-5);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn t_limit(z: f64, df: f64) -> Result<f64, StatsError> {
    let tail = normal_upper(z);
    if tail < 1e-300 {
        Ok(f64::INFINITY)
    } else {
        t_quantile_upper(tail, df)
    }
}

/// The highest estimate that a trial may still come to at its end, with chance `tail` of a higher
/// one, when the rest of it goes as well as the estimate at a look still allows: stochastic
/// curtailment, the drift of the rest taken at its upper limit.
///
/// `estimate` and `se` are those of the look at the share `fraction`, in any unit, more being
/// better. With q the t quantile at `tail`: estimate + q se ((1 - t) + sqrt(t (1 - t))). Source:
/// Lan, Simon and Halperin 1982, Communications in Statistics C 1, 207-219.
///
/// # Errors
/// [`StatsError::OutOfRange`] for a share outside (0, 1], a standard error below zero, a tail
/// outside (0, 0.5] or df not above zero.
///
/// ```
/// use iron_twin_stats::looks::best_of_the_rest;
/// // Half way, with 1.645 standard errors for a chance of 5 %: 2 + 1.645 (0.5 + 0.5).
/// assert!((best_of_the_rest(0.5, (2.0, 1.0, 1e9), 0.05)? - 3.644_854).abs() < 1e-5);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn best_of_the_rest(
    fraction: f64,
    (estimate, se, df): (f64, f64, f64),
    tail: f64,
) -> Result<f64, StatsError> {
    check(&[fraction], 0.5)?;
    if !(tail > 0.0 && tail <= 0.5) {
        return Err(StatsError::OutOfRange {
            what: "tail",
            min: 0.0,
            max: 0.5,
            got: tail,
        });
    }
    if se.is_nan() || se < 0.0 {
        return Err(StatsError::OutOfRange {
            what: "standard error",
            min: 0.0,
            max: f64::INFINITY,
            got: se,
        });
    }
    let rest = 1.0 - fraction;
    Ok(estimate + t_quantile_upper(tail, df)? * se * (rest + (fraction * rest).sqrt()))
}

#[cfg(test)]
mod tests {
    use super::*;

    const FIVE: [f64; 5] = [0.2, 0.4, 0.6, 0.8, 1.0];

    #[test]
    fn lan_and_demets_limits() {
        // Lan and DeMets 1983, five equal looks, two-sided 5 %, O'Brien-Fleming type; from memory,
        // and as published by later tables to the last digit but one.
        let want = [4.877, 3.357, 2.680, 2.290, 2.031];
        for (got, want) in limits(Spending::OBrienFleming, &FIVE, 0.05)
            .unwrap()
            .iter()
            .zip(want)
        {
            assert!((got - want).abs() < 0.0015, "{got} {want}");
        }
    }

    #[test]
    fn the_limits_keep_to_the_allowance_whatever_the_looks() {
        for (spending, looks) in [
            (Spending::Pocock, vec![0.3, 0.5, 1.0]),
            (Spending::OBrienFleming, vec![0.25, 0.9]),
            (Spending::Pocock, vec![1.0]),
        ] {
            let found = limits(spending, &looks, 0.05).unwrap();
            let spent = spending.spent(0.05, *looks.last().unwrap());
            assert!(
                (error_of(&looks, &found).unwrap() - spent).abs() < 1e-7,
                "{spending:?}"
            );
        }
        assert!((limits(Spending::Pocock, &[1.0], 0.05).unwrap()[0] - 1.959_964).abs() < 1e-5);
    }

    #[test]
    fn repeated_looks_at_the_usual_limit() {
        // Armitage, McPherson and Rowe 1969: 8.3 % with two looks, 19.3 % with ten.
        assert!((error_of(&[0.5, 1.0], &[1.959_964; 2]).unwrap() - 0.083).abs() < 0.0005);
        let ten: Vec<f64> = (1..=10).map(|i| f64::from(i) / 10.0).collect();
        assert!((error_of(&ten, &[1.959_964; 10]).unwrap() - 0.193).abs() < 0.0005);
    }

    #[test]
    fn small_trials_need_wider_limits_and_nonsense_is_refused() {
        assert!(
            t_limit(2.031, 6.0).unwrap() > 2.5
                && (t_limit(1.959_964, 1e6).unwrap() - 1.959_97).abs() < 1e-4
        );
        assert!(t_limit(2.0, 0.0).is_err());
        assert!(limits(Spending::Pocock, &[], 0.05).is_err());
        assert!(limits(Spending::Pocock, &[0.5, 0.5], 0.05).is_err());
        assert!(limits(Spending::Pocock, &[0.5, 1.1], 0.05).is_err());
        assert!(limits(Spending::Pocock, &[1.0], 0.0).is_err());
        assert!(error_of(&[0.5, 1.0], &[2.0]).is_err());
    }
    #[test]
    fn the_best_of_the_rest_is_passed_as_seldom_as_it_says() {
        // A path with the drift that the look allows at most, followed to its end: the closed form
        // against the density itself.
        for fraction in [0.2, 0.5, 0.9] {
            let (estimate, se, tail) = (0.3, 0.8, 0.05);
            let best = best_of_the_rest(fraction, (estimate, se, 1e6), tail).unwrap();
            let drift = estimate + normal_quantile_upper(tail) * se;
            // Estimates at the end: what is in, and the rest about the drift with its own share of
            // the error.
            let (mean, sd) = (
                fraction * estimate + (1.0 - fraction) * drift,
                se * (fraction * (1.0 - fraction)).sqrt(),
            );
            let passed = normal_upper((best - mean) / sd);
            assert!((passed - tail).abs() < 1e-5, "{fraction}: {passed}");
        }
        assert!(
            (best_of_the_rest(1.0, (0.3, 0.8, 9.0), 0.05).unwrap() - 0.3).abs() < 1e-12,
            "at the end nothing is left"
        );
        assert!(best_of_the_rest(0.0, (0.3, 0.8, 9.0), 0.05).is_err());
        assert!(best_of_the_rest(0.5, (0.3, -0.8, 9.0), 0.05).is_err());
        assert!(best_of_the_rest(0.5, (0.3, 0.8, 9.0), 0.6).is_err());
    }
}
