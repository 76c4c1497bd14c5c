//! Days to an event, some of them not yet seen: Kaplan-Meier curves, restricted means, the log-rank
//! test.

use super::StatsError;
use super::distributions::chi_square_upper;
use super::linear::quadratic_form;
use nalgebra::{DMatrix, DVector};

/// One plant or unit: the day of the event, or the last day on which it had not come.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lifetime {
    /// Days.
    pub day: f64,
    /// Whether the event was seen on that day.
    pub seen: bool,
}

/// A step of the curve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Step {
    /// Day of the step.
    pub day: f64,
    /// How many had neither had the event nor left before it.
    pub at_risk: f64,
    /// Events on that day.
    pub events: f64,
    /// Share without the event after that day.
    pub remaining: f64,
}

/// A Kaplan-Meier curve: the share without the event.
#[derive(Debug, Clone, PartialEq)]
pub struct Curve {
    /// Its steps, one a day with events.
    pub steps: Vec<Step>,
    /// Last day on which anything was observed.
    pub last_day: f64,
}

/// A mean up to a day, with its standard error.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RestrictedMean {
    /// Area under the curve up to that day, days.
    pub mean: f64,
    /// Greenwood's standard error.
    pub se: f64,
}

/// Shares at or this close to one half stand on it.
const HALF: f64 = 1e-9;

impl Curve {
    /// Kaplan and Meier 1958. A unit lost on the day of an event was still at risk on it.
    ///
    /// # Errors
    /// [`StatsError::NotFinite`] for a day that is not finite; [`StatsError::OutOfRange`] for no
    /// units at all.
    ///
    /// ```
    /// use iron_twin_stats::survival::{Curve, Lifetime};
    /// let at = |day, seen| Lifetime { day, seen };
    /// let curve = Curve::of(&[at(3.0, true), at(5.0, false), at(8.0, true), at(9.0, true)])?;
    /// assert_eq!(curve.median(), Some(8.0));
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn of(lifetimes: &[Lifetime]) -> Result<Self, StatsError> {
        if lifetimes.iter().any(|l| !l.day.is_finite()) {
            return Err(StatsError::NotFinite { what: "a day" });
        }
        if lifetimes.is_empty() {
            return Err(StatsError::OutOfRange {
                what: "units",
                min: 1.0,
                max: f64::INFINITY,
                got: 0.0,
            });
        }
        let mut sorted = lifetimes.to_vec();
        sorted.sort_by(|a, b| a.day.total_cmp(&b.day));
        let mut remaining = 1.0;
        let mut steps = Vec::new();
        let mut from = 0;
        while from < sorted.len() {
            let day = sorted[from].day;
            let same = sorted[from..].iter().take_while(|l| l.day == day);
            let (count, events) = same.fold((0, 0.0), |(n, e), l| {
                (n + 1, e + f64::from(u8::from(l.seen)))
            });
            let at_risk = (sorted.len() - from) as f64;
            if events > 0.0 {
                remaining *= 1.0 - events / at_risk;
                steps.push(Step {
                    day,
                    at_risk,
                    events,
                    remaining,
                });
            }
            from += count;
        }
        Ok(Self {
            steps,
            last_day: sorted[sorted.len() - 1].day,
        })
    }

    /// Day by which half had the event; the middle of the flat stretch where the curve stands at
    /// exactly one half; None where it never comes down that far.
    ///
    /// ```
    /// use iron_twin_stats::survival::{Curve, Lifetime};
    /// let at = |day, seen| Lifetime { day, seen };
    /// // Exactly one half is left from day 2 to day 6.
    /// let curve = Curve::of(&[at(2.0, true), at(6.0, true)])?;
    /// assert_eq!(curve.median(), Some(4.0));
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn median(&self) -> Option<f64> {
        let at = self.steps.iter().position(|s| s.remaining <= 0.5 + HALF)?;
        let step = self.steps[at];
        match self.steps.get(at + 1) {
            Some(next) if (step.remaining - 0.5).abs() <= HALF => Some(0.5 * (step.day + next.day)),
            _ => Some(step.day),
        }
    }

    /// Whether every unit had the event.
    ///
    /// ```
    /// use iron_twin_stats::survival::{Curve, Lifetime};
    /// let at = |day, seen| Lifetime { day, seen };
    /// assert!(!Curve::of(&[at(2.0, true), at(6.0, false)])?.reaches_zero());
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn reaches_zero(&self) -> bool {
        self.steps.last().is_some_and(|s| s.remaining <= 0.0)
    }

    /// Area under the curve from day 0 to `tau`, the curve staying level after the last day
    /// observed.
    ///
    /// ```
    /// use iron_twin_stats::survival::{Curve, Lifetime};
    /// let at = |day, seen| Lifetime { day, seen };
    /// let curve = Curve::of(&[at(2.0, true), at(4.0, true)])?;
    /// assert_eq!(curve.restricted_mean(3.0).mean, 2.5);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn restricted_mean(&self, tau: f64) -> RestrictedMean {
        let steps: Vec<&Step> = self.steps.iter().take_while(|s| s.day <= tau).collect();
        let edges: Vec<f64> = steps.iter().map(|s| s.day).chain([tau]).collect();
        let first = edges[0].min(tau);
        let stretches: Vec<f64> = steps
            .iter()
            .zip(edges.windows(2))
            .map(|(s, edge)| s.remaining * (edge[1] - edge[0]))
            .collect();
        let mean = first + stretches.iter().sum::<f64>();
        let mut after = 0.0;
        let mut variance = 0.0;
        for (step, stretch) in steps.iter().zip(&stretches).rev() {
            after += stretch;
            let left = step.at_risk - step.events;
            if left > 0.0 {
                variance += after * after * step.events / (step.at_risk * left);
            }
        }
        RestrictedMean {
            mean,
            se: variance.sqrt(),
        }
    }
}

/// Log-rank scores of units pooled: event seen (1 or 0) less the pooled cumulative hazard at its
/// day.
///
/// They sum to zero; a treatment whose scores are high had its events earlier. Their sum over a
/// treatment is its observed less expected events, so that dealing the scores anew is the exact
/// log-rank test.
///
/// ```
/// use iron_twin_stats::survival::{log_rank_scores, Lifetime};
/// let at = |day, seen| Lifetime { day, seen };
/// let scores = log_rank_scores(&[at(1.0, true), at(2.0, true), at(3.0, false)]);
/// assert!(scores.iter().sum::<f64>().abs() < 1e-12);
/// assert!((scores[0] - 2.0 / 3.0).abs() < 1e-12);
/// ```
#[must_use]
pub fn log_rank_scores(lifetimes: &[Lifetime]) -> Vec<f64> {
    let Ok(curve) = Curve::of(lifetimes) else {
        return Vec::new();
    };
    let mut hazard = 0.0;
    let cumulative: Vec<(f64, f64)> = curve
        .steps
        .iter()
        .map(|s| {
            hazard += s.events / s.at_risk;
            (s.day, hazard)
        })
        .collect();
    lifetimes
        .iter()
        .map(|l| {
            let known = cumulative.partition_point(|(day, _)| *day <= l.day);
            let sum = if known == 0 {
                0.0
            } else {
                cumulative[known - 1].1
            };
            f64::from(u8::from(l.seen)) - sum
        })
        .collect()
}

/// The log-rank test.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LogRank {
    /// Chi-square statistic.
    pub chi_square: f64,
    /// Degrees of freedom: treatments less one.
    pub df: f64,
    /// Upper tail of chi-square.
    pub p: f64,
}

/// Tests whether the treatments' events come equally fast, inside blocks where there are several.
///
/// `units` holds (treatment, block, lifetime). None where no event tells treatments apart. Source:
/// Mantel 1966 and Peto and Peto 1972, hypergeometric variance; with blocks stratified, as in R's
/// `survdiff`.
///
/// ```
/// use iron_twin_stats::survival::{log_rank, Lifetime};
/// let at = |day, seen| Lifetime { day, seen };
/// let units = [(0, 0, at(9.0, true)), (0, 0, at(8.0, true)), (1, 0, at(3.0, true)), (1, 0, at(4.0, true))];
/// assert!(log_rank(&units, 2, 1).unwrap().chi_square > 2.0);
/// ```
#[must_use]
pub fn log_rank(
    units: &[(usize, usize, Lifetime)],
    treatments: usize,
    blocks: usize,
) -> Option<LogRank> {
    let mut gaps = DVector::zeros(treatments);
    let mut covariance = DMatrix::zeros(treatments, treatments);
    for block in 0..blocks {
        let mut members: Vec<(usize, Lifetime)> = units
            .iter()
            .filter(|u| u.1 == block)
            .map(|u| (u.0, u.2))
            .collect();
        members.sort_by(|a, b| a.1.day.total_cmp(&b.1.day));
        let mut at_risk = vec![0.0; treatments];
        members.iter().for_each(|m| at_risk[m.0] += 1.0);
        let mut from = 0;
        while from < members.len() {
            let day = members[from].1.day;
            let today = members[from..]
                .iter()
                .take_while(|m| m.1.day == day)
                .count();
            let mut events = vec![0.0; treatments];
            members[from..from + today]
                .iter()
                .filter(|m| m.1.seen)
                .for_each(|m| events[m.0] += 1.0);
            add_day(&mut gaps, &mut covariance, &events, &at_risk);
            members[from..from + today]
                .iter()
                .for_each(|m| at_risk[m.0] -= 1.0);
            from += today;
        }
    }
    let (chi_square, df) = quadratic_form(&gaps, &covariance)?;
    Some(LogRank {
        chi_square,
        df,
        p: chi_square_upper(chi_square, df),
    })
}

fn add_day(
    gaps: &mut DVector<f64>,
    covariance: &mut DMatrix<f64>,
    events: &[f64],
    at_risk: &[f64],
) {
    let (total, all): (f64, f64) = (events.iter().sum(), at_risk.iter().sum());
    if total == 0.0 {
        return;
    }
    let scale = if all > 1.0 {
        total * (all - total) / (all - 1.0)
    } else {
        0.0
    };
    for i in 0..events.len() {
        let share = at_risk[i] / all;
        gaps[i] += events[i] - total * share;
        for j in 0..events.len() {
            let own = if i == j { share } else { 0.0 };
            covariance[(i, j)] += scale * (own - share * at_risk[j] / all);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn seen(day: f64) -> Lifetime {
        Lifetime { day, seen: true }
    }

    fn open(day: f64) -> Lifetime {
        Lifetime { day, seen: false }
    }

    #[test]
    fn without_censoring_the_mean_is_the_mean() {
        let days = [3.0, 5.0, 6.0, 10.0];
        let curve = Curve::of(&days.map(seen)).unwrap();
        assert!(curve.reaches_zero());
        let mean = curve.restricted_mean(10.0);
        assert!((mean.mean - 6.0).abs() < 1e-12);
        // Greenwood without censoring is the population variance over n.
        let variance = days.iter().map(|d| (d - 6.0).powi(2)).sum::<f64>() / 16.0;
        assert!((mean.se - variance.sqrt()).abs() < 1e-12);
        assert!((curve.restricted_mean(2.0).mean - 2.0).abs() < 1e-12);
        assert!((curve.restricted_mean(12.0).mean - 6.0).abs() < 1e-12);
    }

    #[test]
    fn medians() {
        assert_eq!(
            Curve::of(&[1.0, 2.0, 3.0, 4.0].map(seen)).unwrap().median(),
            Some(2.5)
        );
        assert_eq!(
            Curve::of(&[seen(1.0), open(2.0), open(3.0)])
                .unwrap()
                .median(),
            None
        );
        assert_eq!(
            Curve::of(&[seen(1.0), open(2.0)]).unwrap().median(),
            Some(1.0)
        );
        assert_eq!(Curve::of(&[open(2.0)]).unwrap().median(), None);
        assert!(Curve::of(&[]).is_err());
        assert!(Curve::of(&[seen(f64::NAN)]).is_err());
    }

    #[test]
    fn scores_sum_to_zero_and_to_observed_less_expected() {
        let units = [
            (0, seen(4.0)),
            (0, open(6.0)),
            (1, seen(4.0)),
            (1, seen(9.0)),
            (0, seen(9.0)),
            (1, seen(2.0)),
        ];
        let all: Vec<Lifetime> = units.iter().map(|u| u.1).collect();
        let scores = log_rank_scores(&all);
        assert!(scores.iter().sum::<f64>().abs() < 1e-12);
        let mut gaps = DVector::zeros(2);
        let mut covariance = DMatrix::zeros(2, 2);
        for day in [2.0, 4.0, 9.0] {
            let count = |t: usize, f: &dyn Fn(&Lifetime) -> bool| {
                units.iter().filter(|u| u.0 == t && f(&u.1)).count() as f64
            };
            let events = [0, 1].map(|t| count(t, &|l| l.seen && l.day == day));
            let at_risk = [0, 1].map(|t| count(t, &|l| l.day >= day));
            add_day(&mut gaps, &mut covariance, &events, &at_risk);
        }
        let treated: f64 = units
            .iter()
            .zip(&scores)
            .filter(|(u, _)| u.0 == 1)
            .map(|(_, s)| s)
            .sum();
        assert!((treated - gaps[1]).abs() < 1e-12);
    }

    #[test]
    fn a_test_of_nothing_is_none() {
        assert!(log_rank(&[(0, 0, open(3.0)), (1, 0, open(4.0))], 2, 1).is_none());
        assert!(log_rank(&[(0, 0, seen(3.0)), (1, 1, seen(4.0))], 2, 2).is_none());
    }
}
