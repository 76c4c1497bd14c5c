//! Split plots: a lamp or pump serves several units, so it is the unit for its own factor, and the
//! trays under it are the units for the factors inside. Random intercept for each lamp, REML,
//! Satterthwaite, as in lmerTest.
//!
//! In a balanced trial this is the textbook split plot: lamps are judged by lamps, trays by trays.

use super::StatsError;
use super::linear::{Observation, Overall, pair_se, told_apart};
use super::mixed::{self, Estimates, Freedom, Grouped, Solution};
use nalgebra::{DMatrix, DVector};

/// What a split plot is made of.
#[derive(Debug, Clone, Copy)]
pub struct SplitPlot<'a> {
    /// One row a unit.
    pub rows: &'a [Observation],
    /// For each row the lamp or pump that serves it, numbered from 0.
    pub fixtures: &'a [usize],
    /// For each treatment the level of the factor that lamps decide, numbered from 0.
    pub levels: &'a [usize],
    /// Blocks; 1 where there are none.
    pub blocks: usize,
    /// Whether the baseline is a covariate.
    pub baseline: bool,
}

/// Adjusted means with what is known of them.
#[derive(Debug, Clone)]
pub struct SplitPlotFit {
    /// Adjusted mean of each treatment.
    pub means: Vec<f64>,
    /// Covariance of the adjusted means.
    pub covariance: DMatrix<f64>,
    /// Standard deviation between lamps of one level.
    pub between_fixtures_sd: f64,
    /// Standard deviation of units under one lamp.
    pub within_fixture_sd: f64,
    /// Lamps less what their levels and blocks explain: what there is to judge a lamp by.
    pub df_fixtures: f64,
    /// F test of all treatments alike.
    pub overall: Option<Overall>,
    /// What is left for comparisons under one lamp.
    pub df_inside: f64,
    solution: Solution,
    freedom: Freedom,
    to_means: DMatrix<f64>,
    levels: Vec<usize>,
}

/// What a lamp's trays add up to.
struct Sums {
    count: f64,
    cross: DMatrix<f64>,
    total: DVector<f64>,
    moved: DVector<f64>,
    value: f64,
    square: f64,
}

struct Problem {
    sums: Vec<Sums>,
    rows: f64,
    rank: usize,
}

impl Grouped for Problem {
    /// With one intercept a lamp, the inverse covariance of n trays is (I - c J) / within, c =
    /// between / (within + n between).
    fn solve(&self, within: f64, between: f64) -> Result<Solution, StatsError> {
        let mut cross = DMatrix::zeros(self.rank, self.rank);
        let mut target = DVector::zeros(self.rank);
        let (mut square, mut log_determinants) = (0.0, 0.0);
        for s in &self.sums {
            let shared = between / (within + s.count * between);
            cross += (&s.cross - &s.total * s.total.transpose() * shared) / within;
            target += (&s.moved - &s.total * (s.value * shared)) / within;
            square += (s.square - shared * s.value * s.value) / within;
            log_determinants += (s.count - 1.0) * within.ln() + (within + s.count * between).ln();
        }
        let factor = cross.cholesky().ok_or(StatsError::NoConvergence {
            what: "the split-plot model",
            steps: 1,
        })?;
        log_determinants += 2.0
            * factor
                .l_dirty()
                .diagonal()
                .iter()
                .map(|d| d.ln())
                .sum::<f64>();
        let inverse = factor.inverse();
        let coefficients = &inverse * &target;
        let quadratic = square - coefficients.dot(&target);
        Ok(Solution {
            coefficients,
            inverse,
            quadratic,
            log_determinants,
        })
    }

    fn rows(&self) -> f64 {
        self.rows
    }

    fn rank(&self) -> usize {
        self.rank
    }

    fn groups(&self) -> (f64, f64) {
        (
            self.sums.len() as f64,
            self.sums.iter().map(|s| s.count).fold(1.0, f64::max),
        )
    }
}

impl SplitPlotFit {
    /// Difference of two adjusted means and its standard error, first minus second.
    ///
    /// ```
    /// use iron_twin_stats::{linear::Observation, split_plot::{fit, SplitPlot}};
    /// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
    /// let rows = [row(0, 10.0), row(1, 12.1), row(0, 11.0), row(1, 13.3), row(2, 15.0), row(3, 17.2), row(2, 16.4), row(3, 18.1)];
    /// let fit = fit(&SplitPlot { rows: &rows, fixtures: &[0, 0, 1, 1, 2, 2, 3, 3], levels: &[0, 0, 1, 1], blocks: 1, baseline: false })?;
    /// // Trays under one lamp compare more closely than trays under two.
    /// assert!(fit.difference_se(1, 0) < fit.difference_se(2, 0));
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn difference_se(&self, first: usize, second: usize) -> f64 {
        pair_se(&self.covariance, first, second)
    }

    /// Degrees of freedom of any contrast of the adjusted means (Satterthwaite).
    ///
    /// What compares lamps is never given more than the lamps support, also where lamps happen not
    /// to differ.
    ///
    /// ```
    /// use iron_twin_stats::{linear::Observation, split_plot::{fit, SplitPlot}};
    /// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
    /// let rows = [row(0, 10.0), row(1, 12.1), row(0, 11.0), row(1, 13.3), row(2, 15.0), row(3, 17.2), row(2, 16.4), row(3, 18.1)];
    /// let fit = fit(&SplitPlot { rows: &rows, fixtures: &[0, 0, 1, 1, 2, 2, 3, 3], levels: &[0, 0, 1, 1], blocks: 1, baseline: false })?;
    /// assert!((fit.df_of(&[-1.0, 1.0, 0.0, 0.0]) - 2.0).abs() < 1e-3);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn df_of(&self, weights: &[f64]) -> f64 {
        let mut by_level = vec![0.0; self.levels.iter().max().map_or(1, |m| m + 1)];
        for (level, weight) in self.levels.iter().zip(weights) {
            by_level[*level] += weight;
        }
        let inside = by_level.iter().all(|w| w.abs() < 1e-9);
        if self.between_fixtures_sd == 0.0 {
            return if inside {
                self.df_inside
            } else {
                self.df_fixtures
            };
        }
        // With unlike levels and unlike insides the two errors mix; Satterthwaite weighs them.
        let own = self
            .freedom
            .of(&(self.to_means.transpose() * DVector::from_column_slice(weights)));
        let only_levels = !inside && self.is_level_contrast(weights);
        own.min(if only_levels {
            self.df_fixtures
        } else {
            self.df_inside
        })
    }

    /// Whether all cells of a level weigh the same: a comparison of lamps alone.
    fn is_level_contrast(&self, weights: &[f64]) -> bool {
        let same = |a: usize, b: usize| {
            self.levels[a] != self.levels[b] || (weights[a] - weights[b]).abs() < 1e-9
        };
        (1..weights.len()).all(|b| (0..b).all(|a| same(a, b)))
    }

    /// F test that all the given contrasts of the adjusted means are zero (one a row).
    ///
    /// ```
    /// use iron_twin_stats::{linear::Observation, split_plot::{fit, SplitPlot}};
    /// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
    /// let rows = [row(0, 10.0), row(1, 12.1), row(0, 11.0), row(1, 13.3), row(2, 15.0), row(3, 17.2), row(2, 16.4), row(3, 18.1)];
    /// let fit = fit(&SplitPlot { rows: &rows, fixtures: &[0, 0, 1, 1, 2, 2, 3, 3], levels: &[0, 0, 1, 1], blocks: 1, baseline: false })?;
    /// // The mat, over both lights: one degree of freedom.
    /// assert_eq!(fit.test(&nalgebra::DMatrix::from_row_slice(1, 4, &[-0.5, 0.5, -0.5, 0.5])).unwrap().df_between, 1.0);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn test(&self, contrasts: &DMatrix<f64>) -> Option<Overall> {
        let rows = contrasts * &self.to_means;
        let each: Vec<f64> = (0..contrasts.nrows())
            .map(|i| self.df_of(&contrasts.row(i).iter().copied().collect::<Vec<_>>()))
            .collect();
        let fewest = each.iter().copied().fold(f64::INFINITY, f64::min);
        let fixed = (self.between_fixtures_sd == 0.0).then_some(fewest);
        mixed::overall(&rows, &self.solution, &self.freedom, fixed, self.df_inside)
    }
}

/// Fits measure ~ treatment (+ block) (+ baseline) with a random intercept for each lamp or pump,
/// by REML.
///
/// Answers: how much of a gap is the lamp's, and how much the tray's? One row a unit; treatments
/// are the combinations of the lamps' factor with the factors inside. Figures are in the measure's
/// unit.
///
/// # Errors
/// [`StatsError::NotFinite`]; [`StatsError::Confounded`] where treatments and blocks cannot be told
/// apart; [`StatsError::OutOfRange`] with fewer lamps than their levels and blocks need.
///
/// ```
/// use iron_twin_stats::{linear::Observation, split_plot::{fit, SplitPlot}};
/// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
/// // Four lamps: two strong, two weak; under each a tray with and one without the mat.
/// let rows = [row(0, 10.0), row(1, 12.1), row(0, 11.0), row(1, 13.3), row(2, 15.0), row(3, 17.2), row(2, 16.4), row(3, 18.1)];
/// let plot = SplitPlot { rows: &rows, fixtures: &[0, 0, 1, 1, 2, 2, 3, 3], levels: &[0, 0, 1, 1], blocks: 1, baseline: false };
/// let fit = fit(&plot)?;
/// // Strong against weak light: two lamps a side, so two degrees of freedom.
/// assert!((fit.df_of(&[-0.5, -0.5, 0.5, 0.5]) - 2.0).abs() < 1e-3);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit(plot: &SplitPlot<'_>) -> Result<SplitPlotFit, StatsError> {
    if plot
        .rows
        .iter()
        .any(|r| !r.value.is_finite() || !r.baseline.is_finite())
    {
        return Err(StatsError::NotFinite {
            what: "the measure",
        });
    }
    let treatments = plot.levels.len();
    let rank = treatments + plot.blocks - 1 + usize::from(plot.baseline);
    let lamps = plot.fixtures.iter().max().map_or(0, |m| m + 1);
    let levels = plot.levels.iter().max().map_or(1, |m| m + 1);
    // The baseline is met inside lamps and costs the lamps nothing; their levels and blocks do.
    let df_fixtures = lamps as f64 - (levels + plot.blocks - 1) as f64;
    let rest = plot.rows.len() as f64 - rank as f64;
    if df_fixtures < 1.0 || rest - df_fixtures < 1.0 {
        let got = df_fixtures.min(rest - df_fixtures);
        return Err(StatsError::OutOfRange {
            what: "lamps and trays to spare",
            min: 1.0,
            max: f64::INFINITY,
            got,
        });
    }
    let problem = gather(plot, lamps, rank);
    check_apart(&problem)?;
    let Estimates {
        within,
        between,
        solution,
        freedom,
    } = mixed::estimate(&problem)?;
    let to_means = to_means(plot, rank);
    let centre = centre(plot, |r| r.value);
    let mut fit = SplitPlotFit {
        means: (&to_means * &solution.coefficients)
            .iter()
            .map(|m| m + centre)
            .collect(),
        covariance: &to_means * &solution.inverse * to_means.transpose(),
        between_fixtures_sd: between.sqrt(),
        within_fixture_sd: within.sqrt(),
        df_fixtures,
        overall: None,
        df_inside: rest - df_fixtures,
        solution,
        freedom,
        to_means,
        levels: plot.levels.to_vec(),
    };
    let all = DMatrix::from_fn(treatments - 1, treatments, |i, j| match j {
        0 => -1.0,
        _ if j == i + 1 => 1.0,
        _ => 0.0,
    });
    fit.overall = fit.test(&all);
    Ok(fit)
}

/// Rows that make the means of treatments, every block weighing the same, of the coefficients.
fn to_means(plot: &SplitPlot<'_>, rank: usize) -> DMatrix<f64> {
    let treatments = plot.levels.len();
    DMatrix::from_fn(treatments, rank, |i, j| {
        if j < treatments {
            f64::from(u8::from(i == j))
        } else if j < treatments + plot.blocks - 1 {
            1.0 / plot.blocks as f64
        } else {
            0.0
        }
    })
}

fn centre(plot: &SplitPlot<'_>, of: impl Fn(&Observation) -> f64) -> f64 {
    plot.rows.iter().map(of).sum::<f64>() / plot.rows.len() as f64
}

fn gather(plot: &SplitPlot<'_>, lamps: usize, rank: usize) -> Problem {
    let (centre_value, centre_baseline) = (centre(plot, |r| r.value), centre(plot, |r| r.baseline));
    let treatments = plot.levels.len();
    let mut sums: Vec<Sums> = (0..lamps)
        .map(|_| Sums {
            count: 0.0,
            cross: DMatrix::zeros(rank, rank),
            total: DVector::zeros(rank),
            moved: DVector::zeros(rank),
            value: 0.0,
            square: 0.0,
        })
        .collect();
    for (row, &lamp) in plot.rows.iter().zip(plot.fixtures) {
        let mut x = DVector::zeros(rank);
        x[row.treatment] = 1.0;
        if row.block > 0 {
            x[treatments + row.block - 1] = 1.0;
        }
        if plot.baseline {
            x[rank - 1] = row.baseline - centre_baseline;
        }
        let (s, y) = (&mut sums[lamp], row.value - centre_value);
        s.count += 1.0;
        s.cross += &x * x.transpose();
        s.moved += &x * y;
        s.total += x;
        s.value += y;
        s.square += y * y;
    }
    sums.retain(|s| s.count > 0.0);
    Problem {
        sums,
        rows: plot.rows.len() as f64,
        rank,
    }
}

/// Cholesky may come through a singular design on rounding alone.
fn check_apart(problem: &Problem) -> Result<(), StatsError> {
    let mut cross = DMatrix::zeros(problem.rank, problem.rank);
    problem.sums.iter().for_each(|s| cross += &s.cross);
    let factor = cross.clone().cholesky().ok_or(StatsError::Confounded)?;
    if told_apart(&cross, &factor) {
        Ok(())
    } else {
        Err(StatsError::Confounded)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn row(treatment: usize, block: usize, value: f64) -> Observation {
        Observation {
            value,
            treatment,
            block,
            column: 0,
            baseline: 0.0,
            unit: 0,
        }
    }

    #[test]
    fn a_lone_lamp_a_side_cannot_be_judged() {
        let rows = [
            row(0, 0, 1.0),
            row(1, 0, 2.0),
            row(2, 0, 3.0),
            row(3, 0, 4.5),
        ];
        let plot = SplitPlot {
            rows: &rows,
            fixtures: &[0, 0, 1, 1],
            levels: &[0, 0, 1, 1],
            blocks: 1,
            baseline: false,
        };
        assert!(matches!(fit(&plot), Err(StatsError::OutOfRange { .. })));
    }

    #[test]
    fn blocks_that_follow_the_lamps_level_are_told() {
        let rows: Vec<Observation> = (0..8)
            .map(|i| row(i % 2 + 2 * (i / 4), i / 4, f64::from(i as u8)))
            .collect();
        let plot = SplitPlot {
            rows: &rows,
            fixtures: &[0, 0, 1, 1, 2, 2, 3, 3],
            levels: &[0, 0, 1, 1],
            blocks: 2,
            baseline: false,
        };
        assert_eq!(fit(&plot).unwrap_err(), StatsError::Confounded);
    }

    #[test]
    fn nonsense_is_refused() {
        let mut rows: Vec<Observation> = (0..8)
            .map(|i| row(i % 2 + 2 * (i / 4), 0, f64::from(i as u8)))
            .collect();
        rows[3].value = f64::NAN;
        let plot = SplitPlot {
            rows: &rows,
            fixtures: &[0, 0, 1, 1, 2, 2, 3, 3],
            levels: &[0, 0, 1, 1],
            blocks: 1,
            baseline: false,
        };
        assert!(matches!(fit(&plot), Err(StatsError::NotFinite { .. })));
    }
}
