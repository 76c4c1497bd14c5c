//! Events known only to lie between two checks: "not on day 11, seen on day 13".
//!
//! The curve is the self-consistent one of Turnbull 1976, found by Wang's constrained Newton method
//! (2007, Journal of the Royal Statistical Society B 69, 185-198): the textbook iteration creeps
//! where the likelihood is level, as it is with a few trays checked every other day. The mass of an
//! interval can lie anywhere inside it; means and medians take it as spread evenly. Scores after
//! Sun 1996 and Fay and Shih 1998: with days known exactly they are those of the log-rank test.

use super::StatsError;
use super::least_squares::nonnegative;
use nalgebra::{DMatrix, DVector};

/// When an event came: after `after` and by `by`; `by` is infinite where it had not come when last
/// looked at, and equal to `after` where the day is known exactly.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Window {
    /// Last day on which it was not yet seen.
    pub after: f64,
    /// First day on which it was seen.
    pub by: f64,
}

impl Window {
    fn is_exact(&self) -> bool {
        self.after == self.by
    }

    /// Whether the cell lies inside the window.
    fn holds(&self, cell: &Cell) -> bool {
        if self.is_exact() {
            cell.is_point_at(self.by)
        } else {
            self.after <= cell.from && cell.to <= self.by && !cell.is_point_at(self.after)
        }
    }
}

/// A stretch of days that carries a share of the events: after `from`, by `to`; a point where both
/// are equal.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cell {
    /// Start, itself left out.
    pub from: f64,
    /// End, itself taken in; infinite for events never seen.
    pub to: f64,
    /// Share of the events.
    pub share: f64,
}

impl Cell {
    fn is_point_at(&self, day: f64) -> bool {
        self.from == self.to && self.to == day
    }
}

/// The self-consistent distribution.
#[derive(Debug, Clone, PartialEq)]
pub struct Spread {
    /// Cells in the order of days; shares sum to 1.
    pub cells: Vec<Cell>,
    /// Steps that it took to settle.
    pub steps: usize,
}

/// Steps before giving up.
const STEPS: usize = 500;
/// Largest gradient above one at which the likelihood counts as greatest.
const LEVEL: f64 = 1e-9;

/// The likelihood of shares: which cells each kind of window holds, and how many windows are of
/// that kind.
struct Likelihood {
    inside: Vec<Vec<usize>>,
    counts: Vec<f64>,
    total: f64,
}

impl Likelihood {
    fn masses(&self, shares: &DVector<f64>) -> Vec<f64> {
        self.inside
            .iter()
            .map(|own| own.iter().map(|&c| shares[c]).sum())
            .collect()
    }

    fn log(&self, shares: &DVector<f64>) -> f64 {
        self.masses(shares)
            .iter()
            .zip(&self.counts)
            .map(|(mass, count)| count * mass.max(0.0).ln())
            .sum()
    }

    /// One Newton step on the simplex: least squares of the linearised likelihood with shares not
    /// below zero.
    fn newton(&self, shares: &DVector<f64>) -> DVector<f64> {
        let cells = shares.len();
        let masses = self.masses(shares);
        // Rows S - 2, weighted; and one row that holds the sum of shares to one (Dax 1990).
        let mut cross = DMatrix::from_element(cells, cells, 1.0);
        for ((own, count), mass) in self.inside.iter().zip(&self.counts).zip(&masses) {
            let mut row = DVector::from_element(cells, -2.0);
            own.iter().for_each(|&c| row[c] += 1.0 / mass);
            cross += &row * row.transpose() * (count / self.total);
        }
        let next = nonnegative(&cross, &DVector::from_element(cells, 1.0));
        let sum = next.sum();
        if sum > 0.0 {
            next / sum
        } else {
            shares.clone()
        }
    }

    /// Gradient by cell, one where shares are as they should be.
    fn gradient(&self, shares: &DVector<f64>) -> DVector<f64> {
        let mut gradient = DVector::zeros(shares.len());
        for ((own, count), mass) in self
            .inside
            .iter()
            .zip(&self.counts)
            .zip(self.masses(shares))
        {
            own.iter()
                .for_each(|&c| gradient[c] += count / (mass * self.total));
        }
        gradient
    }

    fn greatest(&self, mut shares: DVector<f64>) -> Result<(DVector<f64>, usize), StatsError> {
        for step in 1..=STEPS {
            let gradient = self.gradient(&shares);
            if gradient.max() - 1.0 < LEVEL {
                return Ok((shares, step));
            }
            let now = self.log(&shares);
            // The textbook iteration never goes down; Newton's step is taken as far as it goes up
            // further.
            let textbook = shares.component_mul(&gradient);
            let start = if self.log(&textbook) >= now {
                textbook
            } else {
                shares.clone()
            };
            let toward = self.newton(&start) - &start;
            let floor = self.log(&start);
            let moved = (0..40)
                .map(|halving| &start + &toward * 0.5f64.powi(halving))
                .find(|s| self.log(s) > floor);
            let next = moved.unwrap_or(start);
            if (&next - &shares).amax() < 1e-13 {
                return Ok((next, step));
            }
            shares = next;
        }
        Err(StatsError::NoConvergence {
            what: "the self-consistent curve",
            steps: STEPS,
        })
    }
}

impl Spread {
    /// Finds the distribution that the windows lead to.
    ///
    /// # Errors
    /// [`StatsError::NotFinite`] for a window without a finite start or ending before it starts;
    /// [`StatsError::NoConvergence`].
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let spread = Spread::of(&[Window { after: 0.0, by: 2.0 }, Window { after: 2.0, by: 4.0 }])?;
    /// assert!((spread.cells[0].share - 0.5).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn of(windows: &[Window]) -> Result<Self, StatsError> {
        if windows.is_empty()
            || windows
                .iter()
                .any(|w| !w.after.is_finite() || w.by.is_nan() || w.by < w.after)
        {
            return Err(StatsError::NotFinite {
                what: "a window of days",
            });
        }
        // Windows that are the same count together.
        let mut kinds: Vec<(Window, f64)> = Vec::new();
        let mut sorted = windows.to_vec();
        sorted.sort_by(|a, b| a.after.total_cmp(&b.after).then(a.by.total_cmp(&b.by)));
        for window in sorted {
            match kinds.last_mut() {
                Some((last, count)) if *last == window => *count += 1.0,
                _ => kinds.push((window, 1.0)),
            }
        }
        let mut cells = innermost(windows);
        let inside: Vec<Vec<usize>> = kinds
            .iter()
            .map(|(w, _)| (0..cells.len()).filter(|&c| w.holds(&cells[c])).collect())
            .collect();
        let counts = kinds.iter().map(|k| k.1).collect();
        let likelihood = Likelihood {
            inside,
            counts,
            total: windows.len() as f64,
        };
        let even = DVector::from_element(cells.len(), 1.0 / cells.len() as f64);
        let (shares, steps) = likelihood.greatest(even)?;
        cells
            .iter_mut()
            .zip(shares.iter())
            .for_each(|(cell, share)| cell.share = *share);
        Ok(Self { cells, steps })
    }

    /// Share without the event after a day, mass spread evenly inside its cell.
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let between = |after, by| Window { after, by };
    /// let spread = Spread::of(&[between(0.0, 2.0), between(4.0, 6.0)])?;
    /// assert!((spread.remaining(3.0) - 0.5).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn remaining(&self, day: f64) -> f64 {
        self.cells
            .iter()
            .map(|c| {
                let gone = if c.to <= day {
                    1.0
                } else if c.from < day && c.to.is_finite() {
                    (day - c.from) / (c.to - c.from)
                } else {
                    0.0
                };
                c.share * (1.0 - gone)
            })
            .sum()
    }

    /// Day by which half had the event; None where fewer ever have it.
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let between = |after, by| Window { after, by };
    /// let spread = Spread::of(&[between(0.0, 2.0), between(0.0, 2.0), between(4.0, 6.0)])?;
    /// assert!(spread.median().is_some_and(|m| m > 0.0 && m <= 2.0));
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn median(&self) -> Option<f64> {
        let mut gone = 0.0;
        for (i, cell) in self.cells.iter().enumerate() {
            if !cell.to.is_finite() {
                return None;
            }
            let after = gone + cell.share;
            if after > 0.5 + 1e-9 && cell.share > 0.0 {
                return Some(
                    cell.from + (cell.to - cell.from) * ((0.5 - gone) / cell.share).clamp(0.0, 1.0),
                );
            }
            if (after - 0.5).abs() <= 1e-9 {
                // Level at one half until the next cell that carries anything begins.
                let next = self.cells[i + 1..].iter().find(|c| c.share > 1e-9);
                return next
                    .filter(|n| n.from.is_finite())
                    .map(|n| 0.5 * (cell.to + n.from))
                    .or(Some(cell.to));
            }
            gone = after;
        }
        None
    }

    /// Last finite day that the distribution knows of.
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let between = |after, by| Window { after, by };
    /// assert_eq!(Spread::of(&[between(0.0, 2.0), between(4.0, 6.0)])?.last_day(), 6.0);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn last_day(&self) -> f64 {
        self.cells
            .iter()
            .flat_map(|c| [c.from, c.to])
            .filter(|d| d.is_finite())
            .fold(0.0, f64::max)
    }

    /// Whether every event is known to have come.
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let between = |after, by| Window { after, by };
    /// assert!(!Spread::of(&[between(0.0, 2.0), between(4.0, f64::INFINITY)])?.reaches_zero());
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn reaches_zero(&self) -> bool {
        self.cells
            .iter()
            .all(|c| c.to.is_finite() || c.share < 1e-9)
    }

    /// Mean of the days, none counted beyond `tau`.
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let between = |after, by| Window { after, by };
    /// // Half went some time in days 0 to 2, half in 4 to 6: 1 and 5 on average.
    /// let spread = Spread::of(&[between(0.0, 2.0), between(4.0, 6.0)])?;
    /// assert!((spread.restricted_mean(6.0) - 3.0).abs() < 1e-6);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn restricted_mean(&self, tau: f64) -> f64 {
        let mean_of = |c: &Cell| {
            if c.from >= tau || !c.to.is_finite() {
                return tau;
            }
            if c.to <= tau {
                return 0.5 * (c.from + c.to);
            }
            let inside = (tau - c.from) / (c.to - c.from);
            inside * 0.5 * (c.from + tau) + (1.0 - inside) * tau
        };
        self.cells.iter().map(|c| c.share * mean_of(c)).sum()
    }

    /// Log-rank scores of windows under this (pooled) distribution; high where the event came
    /// early. They sum to zero.
    ///
    /// ```
    /// use iron_twin_stats::turnbull::{Spread, Window};
    /// let between = |after, by| Window { after, by };
    /// let windows = [between(0.0, 2.0), between(2.0, 4.0), between(4.0, f64::INFINITY)];
    /// let scores = Spread::of(&windows)?.scores(&windows);
    /// assert!(scores.iter().sum::<f64>().abs() < 1e-6 && scores[0] > scores[2]);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn scores(&self, windows: &[Window]) -> Vec<f64> {
        // Before each cell: the share left, and the hazard gathered.
        let (mut left, mut hazard) = (1.0, 0.0);
        let mut before = Vec::with_capacity(self.cells.len() + 1);
        for cell in &self.cells {
            before.push((left, hazard));
            if left > 1e-12 {
                hazard += (cell.share / left).min(1.0);
            }
            left = f64::max(left - cell.share, 0.0);
        }
        before.push((left, hazard));
        windows
            .iter()
            .map(|w| {
                let own: Vec<usize> = (0..self.cells.len())
                    .filter(|&c| w.holds(&self.cells[c]))
                    .collect();
                let (Some(&first), Some(&last)) = (own.first(), own.last()) else {
                    return 0.0;
                };
                let ((left_a, hazard_a), (left_b, hazard_b)) = (before[first], before[last + 1]);
                let mass = left_a - left_b;
                if w.by.is_infinite() || mass <= 1e-12 {
                    -hazard_a
                } else {
                    (left_b * hazard_b - left_a * hazard_a) / mass
                }
            })
            .collect()
    }
}

/// The innermost stretches: from a start to the next end with no other start between. Only they can
/// carry mass.
fn innermost(windows: &[Window]) -> Vec<Cell> {
    // At one day: exact days first, then ends, then starts; a start is left out of its window and
    // an end taken in.
    let mut marks: Vec<(f64, u8)> = Vec::with_capacity(2 * windows.len());
    let mut points: Vec<f64> = Vec::new();
    for w in windows {
        if w.is_exact() {
            points.push(w.by);
        } else {
            marks.push((w.by, 0));
            marks.push((w.after, 1));
        }
    }
    // An exact day is a window of its own that starts just before it.
    marks.extend(points.iter().flat_map(|p| [(p.next_down(), 1), (*p, 0)]));
    marks.sort_by(|a, b| a.0.total_cmp(&b.0).then(a.1.cmp(&b.1)));
    let mut cells: Vec<Cell> = Vec::new();
    for pair in marks.windows(2) {
        let ((from, start), (to, end)) = (pair[0], pair[1]);
        if start == 1 && end == 0 {
            let from = if from == to.next_down() { to } else { from };
            if cells.last().is_none_or(|c| (c.from, c.to) != (from, to)) {
                cells.push(Cell {
                    from,
                    to,
                    share: 0.0,
                });
            }
        }
    }
    cells
}

#[cfg(test)]
mod tests {
    use super::super::survival::{Curve, Lifetime, log_rank_scores};
    use super::*;

    fn window(after: f64, by: f64) -> Window {
        Window { after, by }
    }

    /// Days known exactly, some not yet seen: Kaplan and Meier's curve, and the log-rank scores.
    #[test]
    fn exact_days_give_kaplan_and_meier_and_log_rank() {
        let lifetimes = [
            (3.0, true),
            (5.0, false),
            (5.0, true),
            (8.0, true),
            (9.0, false),
            (12.0, true),
        ]
        .map(|(day, seen)| Lifetime { day, seen });
        let windows = lifetimes.map(|l| window(l.day, if l.seen { l.day } else { f64::INFINITY }));
        let spread = Spread::of(&windows).unwrap();
        let curve = Curve::of(&lifetimes).unwrap();
        for step in &curve.steps {
            assert!(
                (spread.remaining(step.day) - step.remaining).abs() < 1e-6,
                "day {}",
                step.day
            );
        }
        assert!((spread.restricted_mean(12.0) - curve.restricted_mean(12.0).mean).abs() < 1e-6);
        for (ours, theirs) in spread
            .scores(&windows)
            .iter()
            .zip(log_rank_scores(&lifetimes))
        {
            assert!((ours - theirs).abs() < 1e-6, "{ours} {theirs}");
        }
    }

    /// The shares are self-consistent: each is the mean over windows of its share within the
    /// window.
    #[test]
    fn overlapping_windows_are_self_consistent_and_scores_sum_to_zero() {
        let windows = [
            window(0.0, 7.0),
            window(6.0, 9.0),
            window(4.0, 11.0),
            window(8.0, f64::INFINITY),
            window(5.0, 8.0),
            window(10.0, 14.0),
        ];
        let spread = Spread::of(&windows).unwrap();
        assert!((spread.cells.iter().map(|c| c.share).sum::<f64>() - 1.0).abs() < 1e-9);
        for cell in &spread.cells {
            let mean: f64 = windows
                .iter()
                .filter(|w| w.holds(cell))
                .map(|w| {
                    cell.share
                        / spread
                            .cells
                            .iter()
                            .filter(|c| w.holds(c))
                            .map(|c| c.share)
                            .sum::<f64>()
                })
                .sum::<f64>()
                / windows.len() as f64;
            assert!((mean - cell.share).abs() < 1e-6, "{cell:?}");
        }
        assert!(spread.scores(&windows).iter().sum::<f64>().abs() < 1e-6);
    }

    /// Four trays checked every other day: level in one direction, so that the textbook iteration
    /// takes forever.
    #[test]
    fn a_level_likelihood_settles() {
        let windows = [
            window(6.0, 8.0),
            window(5.0, 7.0),
            window(7.0, 9.0),
            window(4.0, 6.0),
        ];
        let spread = Spread::of(&windows).unwrap();
        assert!(spread.steps < 100, "{}", spread.steps);
        let shares: Vec<f64> = spread.cells.iter().map(|c| c.share).collect();
        // (1 - e^2)^2 / 16 is greatest at e = 0, e being the share of the middle cell.
        assert!(
            (shares[0] - 0.5).abs() < 1e-4 && shares[1] < 1e-4,
            "{shares:?}"
        );
    }

    #[test]
    fn medians_and_nonsense() {
        assert_eq!(Spread::of(&[window(2.0, 4.0)]).unwrap().median(), Some(3.0));
        assert_eq!(
            Spread::of(&[window(2.0, f64::INFINITY)]).unwrap().median(),
            None
        );
        assert!(Spread::of(&[]).is_err());
        assert!(Spread::of(&[window(4.0, 2.0)]).is_err());
        assert!(Spread::of(&[window(f64::NAN, 2.0)]).is_err());
    }
}
