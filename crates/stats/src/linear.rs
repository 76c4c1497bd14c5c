//! The linear model of a designed trial: measure ~ treatment (+ block) (+ column) (+ baseline),
//! fixed effects.
//!
//! The normal equations are gathered in one pass, centred, so that a million rows cost no matrix of
//! a million rows.

use super::StatsError;
use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// One row of the model: a unit, or a sample of a unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Observation {
    /// The measure, in its own unit.
    pub value: f64,
    /// Index of the treatment; 0 is the control.
    pub treatment: usize,
    /// Index of the block; 0 for all where there are none.
    pub block: usize,
    /// Index of the second set of blocks that crosses the first (the columns of a Latin square, the
    /// rounds of a swap-over); 0 for all where there are none.
    pub column: usize,
    /// Starting size; 0 for all where there is none.
    pub baseline: f64,
    /// Index of the unit that the row belongs to.
    pub unit: usize,
}

/// How many treatments and blocks there are, and whether a baseline is in the model.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Layout {
    /// Number of treatments, control included.
    pub treatments: usize,
    /// Number of blocks; 1 where there are none.
    pub blocks: usize,
    /// Number of columns that cross the blocks; 1 where there are none.
    pub columns: usize,
    /// Whether the baseline is a covariate.
    pub baseline: bool,
}

impl Layout {
    /// Number of free fixed effects: treatments, further blocks and columns, and the covariate.
    ///
    /// ```
    /// use iron_twin_stats::linear::Layout;
    /// // Three treatments in four blocks: three means and three further blocks.
    /// assert_eq!(Layout { treatments: 3, blocks: 4, columns: 1, baseline: false }.rank(), 6);
    /// ```
    #[must_use]
    pub fn rank(&self) -> usize {
        self.treatments + self.blocks - 1 + self.columns - 1 + usize::from(self.baseline)
    }

    /// Most parameters that are fitted: the normal equations are dense, and for more they would
    /// take minutes and gigabytes.
    pub const LARGEST: usize = 2_000;

    /// An error where there are more than [`Self::LARGEST`].
    ///
    /// ```
    /// use iron_twin_stats::linear::Layout;
    /// let layout = |blocks| Layout { treatments: 2, blocks, columns: 1, baseline: false };
    /// assert!(layout(1_999).check_size().is_ok() && layout(2_000).check_size().is_err());
    /// ```
    pub fn check_size(&self) -> Result<(), StatsError> {
        let (max, got) = (Self::LARGEST as f64, self.rank() as f64);
        let what = "the number of treatments, blocks and other terms that are fitted together";
        if got > max {
            Err(StatsError::OutOfRange {
                what,
                min: 1.0,
                max,
                got,
            })
        } else {
            Ok(())
        }
    }
}

/// Adjusted means with what is known of their uncertainty.
#[derive(Debug, Clone)]
pub struct MeansFit {
    /// Adjusted mean of each treatment: equal weight for each block and column, at the mean
    /// baseline.
    pub means: Vec<f64>,
    /// Covariance of the adjusted means.
    pub covariance: DMatrix<f64>,
    /// Residual standard deviation.
    pub residual_sd: f64,
    /// Residual degrees of freedom.
    pub df: f64,
    /// Residual of each row, in the order of the rows.
    pub residuals: Vec<f64>,
    /// Leverage of each row.
    pub leverages: Vec<f64>,
}

/// A treatment less the control.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Difference {
    /// Treatment minus control, in the measure's unit.
    pub estimate: f64,
    /// Its standard error.
    pub se: f64,
}

impl MeansFit {
    /// The difference of two treatments, first minus second.
    ///
    /// ```
    /// use iron_twin_stats::linear::{fit, Layout, Observation};
    /// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
    /// let rows = [row(0, 1.0), row(0, 3.0), row(1, 4.0), row(1, 8.0), row(2, 2.0), row(2, 4.0)];
    /// let fit = fit(&rows, Layout { treatments: 3, blocks: 1, columns: 1, baseline: false })?;
    /// assert!((fit.difference(1, 0).estimate - 4.0).abs() < 1e-12);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn difference(&self, first: usize, second: usize) -> Difference {
        Difference {
            estimate: self.means[first] - self.means[second],
            se: pair_se(&self.covariance, first, second),
        }
    }

    /// Correlations of the contrasts of every treatment with the control, in the treatments' order.
    ///
    /// ```
    /// use iron_twin_stats::linear::{fit, Layout, Observation};
    /// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
    /// let rows = [row(0, 1.0), row(0, 3.0), row(1, 4.0), row(1, 8.0), row(2, 2.0), row(2, 4.0)];
    /// let fit = fit(&rows, Layout { treatments: 3, blocks: 1, columns: 1, baseline: false })?;
    /// // A shared control of the same size: one half.
    /// assert!((fit.contrast_correlation()[0][1] - 0.5).abs() < 1e-12);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn contrast_correlation(&self) -> Vec<Vec<f64>> {
        contrast_correlation(&self.covariance)
    }
}

/// Standard error of the difference of two means, from their covariance matrix. A difference that
/// rounding made a hair less than nothing counts as nothing.
///
/// ```
/// use iron_twin_stats::linear::{Layout, Observation, fit, pair_se};
/// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
/// let rows = [row(0, 1.0), row(0, 3.0), row(1, 4.0), row(1, 8.0)];
/// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
/// assert!((pair_se(&fit.covariance, 1, 0) - 5.0f64.sqrt()).abs() < 1e-12);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
#[must_use]
pub fn pair_se(covariance: &DMatrix<f64>, first: usize, second: usize) -> f64 {
    (covariance[(first, first)] + covariance[(second, second)] - 2.0 * covariance[(first, second)])
        .max(0.0)
        .sqrt()
}

/// Correlations of the contrasts of every mean with the first one, from the covariance matrix of
/// the means; see [`MeansFit::contrast_correlation`].
#[must_use]
pub fn contrast_correlation(covariance: &DMatrix<f64>) -> Vec<Vec<f64>> {
    let count = covariance.nrows();
    let se: Vec<f64> = (0..count).map(|i| pair_se(covariance, i, 0)).collect();
    (1..count)
        .map(|i| {
            (1..count)
                .map(|j| {
                    if i == j {
                        return 1.0;
                    }
                    let shared = covariance[(i, j)] - covariance[(i, 0)] - covariance[(0, j)]
                        + covariance[(0, 0)];
                    shared / (se[i] * se[j])
                })
                .collect()
        })
        .collect()
}

/// The F test that all treatments are alike, given the rest of the model.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Overall {
    /// The statistic.
    pub f: f64,
    /// Numerator degrees of freedom.
    pub df_between: f64,
    /// Denominator degrees of freedom.
    pub df_within: f64,
    /// Upper tail.
    pub p: f64,
}

/// Where a row stands in the model.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Cell {
    pub treatment: usize,
    pub block: usize,
    pub column: usize,
}

impl From<&Observation> for Cell {
    fn from(row: &Observation) -> Self {
        Self {
            treatment: row.treatment,
            block: row.block,
            column: row.column,
        }
    }
}

/// Weighted normal equations: an unknown for each treatment, each further block and column, and the
/// centred baseline.
pub(crate) struct Normal {
    layout: Layout,
    pub cross: DMatrix<f64>,
    pub target: DVector<f64>,
}

impl Normal {
    pub fn new(layout: Layout) -> Self {
        let p = layout.rank();
        Self {
            layout,
            cross: DMatrix::zeros(p, p),
            target: DVector::zeros(p),
        }
    }

    pub fn layout(&self) -> Layout {
        self.layout
    }

    /// The unknowns that a cell takes part in, and the baseline.
    fn unknowns(&self, cell: Cell, baseline: f64) -> [(usize, f64); 4] {
        let layout = self.layout;
        [
            (cell.treatment, 1.0),
            if cell.block > 0 {
                (layout.treatments + cell.block - 1, 1.0)
            } else {
                (0, 0.0)
            },
            if cell.column > 0 {
                (layout.treatments + layout.blocks + cell.column - 2, 1.0)
            } else {
                (0, 0.0)
            },
            if layout.baseline {
                (layout.rank() - 1, baseline)
            } else {
                (0, 0.0)
            },
        ]
    }

    pub fn add(&mut self, weight: f64, cell: Cell, baseline: f64, value: f64) {
        let unknowns = self.unknowns(cell, baseline);
        for &(i, xi) in &unknowns {
            if xi == 0.0 {
                continue;
            }
            self.target[i] += weight * xi * value;
            for &(j, xj) in &unknowns {
                self.cross[(i, j)] += weight * xi * xj;
            }
        }
    }

    /// What the baseline varies, and moves with the measure, inside units.
    pub fn add_within(&mut self, weight: f64, sxx: f64, sxy: f64) {
        if self.layout.baseline {
            let last = self.layout.rank() - 1;
            self.cross[(last, last)] += weight * sxx;
            self.target[last] += weight * sxy;
        }
    }

    pub fn predict(&self, coefficients: &DVector<f64>, cell: Cell, baseline: f64) -> f64 {
        self.unknowns(cell, baseline)
            .iter()
            .map(|&(i, x)| x * coefficients[i])
            .sum()
    }

    pub fn leverage(&self, inverse: &DMatrix<f64>, cell: Cell, baseline: f64) -> f64 {
        let unknowns = self.unknowns(cell, baseline);
        let pairs = unknowns
            .iter()
            .flat_map(|a| unknowns.iter().map(move |b| (a, b)));
        pairs
            .map(|(&(i, x), &(j, y))| x * y * inverse[(i, j)])
            .sum()
    }

    /// Rows that turn coefficients into adjusted means.
    pub fn mean_rows(&self) -> DMatrix<f64> {
        let layout = self.layout;
        DMatrix::from_fn(layout.treatments, layout.rank(), |i, j| {
            if j < layout.treatments {
                f64::from(u8::from(i == j))
            } else if j < layout.treatments + layout.blocks - 1 {
                1.0 / layout.blocks as f64
            } else if j < layout.treatments + layout.blocks + layout.columns - 2 {
                1.0 / layout.columns as f64
            } else {
                0.0
            }
        })
    }
}

/// Checks that blocks connect every treatment with the control.
///
/// # Errors
/// [`StatsError::NotConnected`] with the first treatment that stands apart.
///
/// ```
/// use iron_twin_stats::linear::{check_connected, Layout, Observation};
/// let row = |treatment, block, value| Observation { value, treatment, block, column: 0, baseline: 0.0, unit: 0 };
/// let layout = Layout { treatments: 2, blocks: 2, columns: 1, baseline: false };
/// assert!(check_connected(&[row(0, 0, 1.0), row(1, 1, 2.0)], layout).is_err());
/// assert!(check_connected(&[row(0, 0, 1.0), row(1, 0, 2.0), row(1, 1, 2.0)], layout).is_ok());
/// ```
pub fn check_connected(rows: &[Observation], layout: Layout) -> Result<(), StatsError> {
    let mut parent: Vec<usize> = (0..layout.treatments + layout.blocks).collect();
    fn root(parent: &mut [usize], mut node: usize) -> usize {
        while parent[node] != node {
            parent[node] = parent[parent[node]];
            node = parent[node];
        }
        node
    }
    for row in rows {
        let (a, b) = (
            root(&mut parent, row.treatment),
            root(&mut parent, layout.treatments + row.block),
        );
        parent[a] = b;
    }
    let control = root(&mut parent, 0);
    match (1..layout.treatments).find(|&t| root(&mut parent, t) != control) {
        Some(treatment) => Err(StatsError::NotConnected { treatment }),
        None => Ok(()),
    }
}

/// Whether the baseline says anything that treatments and blocks do not already say.
///
/// ```
/// use iron_twin_stats::linear::{baseline_is_free, Layout, Observation};
/// let row = |treatment, baseline| Observation { value: 1.0, treatment, block: 0, column: 0, baseline, unit: 0 };
/// let layout = Layout { treatments: 2, blocks: 1, columns: 1, baseline: true };
/// // Every treated tray started at 5 and every other at 4: nothing that the treatment does not say.
/// assert!(!baseline_is_free(&[row(0, 4.0), row(0, 4.0), row(1, 5.0), row(1, 5.0)], layout));
/// assert!(baseline_is_free(&[row(0, 4.0), row(0, 6.0), row(1, 5.0), row(1, 5.0)], layout));
/// ```
#[must_use]
pub fn baseline_is_free(rows: &[Observation], layout: Layout) -> bool {
    let plain = Layout {
        baseline: false,
        ..layout
    };
    let as_value: Vec<Observation> = rows
        .iter()
        .map(|r| Observation {
            value: r.baseline,
            ..*r
        })
        .collect();
    let spread = rows.iter().map(|r| r.baseline.abs()).fold(0.0, f64::max);
    match fit(&as_value, plain) {
        Ok(fit) => fit
            .residuals
            .iter()
            .any(|r| r.abs() > 1e-9 * spread.max(f64::MIN_POSITIVE)),
        Err(_) => false,
    }
}

/// Fits the fixed-effects model by least squares.
///
/// `rows` holds one observation a unit (or a row); missing values must have been dropped. With no
/// residual degrees of freedom the standard deviation is NaN and `df` is 0, and the means are still
/// given.
///
/// # Errors
/// [`StatsError::NotFinite`] for a value that is not finite; [`StatsError::NotConnected`] where
/// blocks keep a treatment apart from the control; [`StatsError::Confounded`] where rows and
/// columns together do.
///
/// ```
/// use iron_twin_stats::linear::{fit, Layout, Observation};
/// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
/// let rows = [row(0, 1.0), row(0, 3.0), row(1, 4.0), row(1, 8.0)];
/// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
/// assert!((fit.difference(1, 0).estimate - 4.0).abs() < 1e-12);
/// assert_eq!(fit.df, 2.0);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit(rows: &[Observation], layout: Layout) -> Result<MeansFit, StatsError> {
    if rows.iter().any(|r| !r.value.is_finite()) {
        return Err(StatsError::NotFinite {
            what: "the measure",
        });
    }
    if rows.iter().any(|r| !r.baseline.is_finite()) {
        return Err(StatsError::NotFinite {
            what: "the baseline",
        });
    }
    layout.check_size()?;
    check_connected(rows, layout)?;
    let plain = Layout {
        baseline: false,
        ..layout
    };
    let mut pieces = Pieces::of(rows, plain, |r| r.value)?;
    if layout.baseline {
        pieces.adjust_for(&Pieces::of(rows, plain, |r| r.baseline)?, rows)?;
    }
    let df = rows.len().saturating_sub(layout.rank()) as f64;
    let variance = pieces.residuals.iter().map(|r| r * r).sum::<f64>() / df;
    Ok(MeansFit {
        means: pieces.means,
        covariance: pieces.unscaled * variance,
        residual_sd: if df > 0.0 { variance.sqrt() } else { f64::NAN },
        df,
        residuals: pieces.residuals,
        leverages: pieces.leverages,
    })
}

/// Least squares on treatments and blocks alone, before the residual variance is known.
struct Pieces {
    means: Vec<f64>,
    /// Covariance of the means for a residual variance of one.
    unscaled: DMatrix<f64>,
    residuals: Vec<f64>,
    leverages: Vec<f64>,
}

impl Pieces {
    fn of(
        rows: &[Observation],
        layout: Layout,
        what: impl Fn(&Observation) -> f64,
    ) -> Result<Self, StatsError> {
        let centre = rows.iter().map(&what).sum::<f64>() / rows.len().max(1) as f64;
        let mut normal = Normal::new(layout);
        for row in rows {
            normal.add(1.0, row.into(), 0.0, what(row) - centre);
        }
        let inverse = normal.inverse()?;
        let coefficients = &inverse * &normal.target;
        let to_means = normal.mean_rows();
        let predicted = |r: &Observation| centre + normal.predict(&coefficients, r.into(), 0.0);
        Ok(Self {
            means: (&to_means * &coefficients)
                .iter()
                .map(|m| m + centre)
                .collect(),
            unscaled: &to_means * &inverse * to_means.transpose(),
            residuals: rows.iter().map(|r| what(r) - predicted(r)).collect(),
            leverages: rows
                .iter()
                .map(|r| normal.leverage(&inverse, r.into(), 0.0))
                .collect(),
        })
    }

    /// Adds the covariate by what treatments and blocks leave of it (Frisch and Waugh 1933). A
    /// covariate that treatments nearly explain would cost the normal equations half their digits;
    /// its residuals are as exact as the rest.
    fn adjust_for(&mut self, covariate: &Self, rows: &[Observation]) -> Result<(), StatsError> {
        let rest = &covariate.residuals;
        let squares: f64 = rest.iter().map(|z| z * z).sum();
        if !(squares > 0.0) {
            return Err(StatsError::NoConvergence {
                what: "the least-squares solution",
                steps: 1,
            });
        }
        let slope = rest
            .iter()
            .zip(&self.residuals)
            .map(|(z, e)| z * e)
            .sum::<f64>()
            / squares;
        let centre = rows.iter().map(|r| r.baseline).sum::<f64>() / rows.len() as f64;
        let off =
            DVector::from_iterator(self.means.len(), covariate.means.iter().map(|m| m - centre));
        self.unscaled += &off * off.transpose() / squares;
        for (mean, off) in self.means.iter_mut().zip(&off) {
            *mean -= slope * off;
        }
        for (i, z) in rest.iter().enumerate() {
            self.residuals[i] -= slope * z;
            self.leverages[i] += z * z / squares;
        }
        Ok(())
    }
}

impl Normal {
    /// Inverse of the cross products.
    ///
    /// Where two sets of blocks cross, connected blocks are not enough: treatments can follow rows
    /// and columns together, as when two systems are never swapped. Cholesky may come through that
    /// on rounding alone, so what each unknown has of its own, 1 - R^2, is looked at.
    pub fn inverse(&self) -> Result<DMatrix<f64>, StatsError> {
        let failed = if self.layout.columns > 1 {
            StatsError::Confounded
        } else {
            StatsError::NoConvergence {
                what: "the least-squares solution",
                steps: 1,
            }
        };
        let factor = self.cross.clone().cholesky().ok_or(failed.clone())?;
        if self.layout.columns > 1 && !told_apart(&self.cross, &factor) {
            return Err(failed);
        }
        Ok(factor.inverse())
    }
}

/// Whether each unknown has something of its own that the ones before it do not say.
pub(crate) fn told_apart(cross: &DMatrix<f64>, factor: &Cholesky<f64, Dyn>) -> bool {
    const OWN: f64 = 1e-11;
    (0..cross.nrows()).all(|i| factor.l_dirty()[(i, i)].powi(2) / cross[(i, i)] > OWN)
}

/// The weights with which the rows make up the difference of two adjusted means, first minus
/// second.
///
/// # Errors
/// As [`fit`].
///
/// ```
/// use iron_twin_stats::linear::{Layout, Observation, difference_weights};
/// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
/// let rows = [row(0, 1.0), row(0, 3.0), row(1, 4.0), row(1, 8.0)];
/// let weights = difference_weights(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false }, 1, 0)?;
/// assert!(weights.iter().zip([-0.5, -0.5, 0.5, 0.5]).all(|(w, e)| (w - e).abs() < 1e-12));
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn difference_weights(
    rows: &[Observation],
    layout: Layout,
    first: usize,
    second: usize,
) -> Result<Vec<f64>, StatsError> {
    let plain = Layout {
        baseline: false,
        ..layout
    };
    let mut normal = Normal::new(plain);
    rows.iter()
        .for_each(|row| normal.add(1.0, row.into(), 0.0, 0.0));
    let to_means = normal.mean_rows();
    let gap = &normal.inverse()? * (to_means.row(first) - to_means.row(second)).transpose();
    let mut weights: Vec<f64> = rows
        .iter()
        .map(|r| normal.predict(&gap, r.into(), 0.0))
        .collect();
    if layout.baseline {
        let covariate = Pieces::of(rows, plain, |r| r.baseline)?;
        let squares: f64 = covariate.residuals.iter().map(|z| z * z).sum();
        let off = (covariate.means[first] - covariate.means[second]) / squares;
        weights
            .iter_mut()
            .zip(&covariate.residuals)
            .for_each(|(w, z)| *w -= off * z);
    }
    Ok(weights)
}

/// Squared length of gaps that sum to zero, in units of their covariance, and its degrees of
/// freedom.
///
/// One of the gaps follows from the others and is left out; what never varies says nothing. None
/// where nothing is left.
pub(crate) fn quadratic_form(gaps: &DVector<f64>, covariance: &DMatrix<f64>) -> Option<(f64, f64)> {
    let told: Vec<usize> = (0..gaps.len())
        .filter(|&t| covariance[(t, t)] > 1e-12)
        .collect();
    let used = told.split_last()?.1;
    let part = DMatrix::from_fn(used.len(), used.len(), |i, j| {
        covariance[(used[i], used[j])]
    });
    let gap = DVector::from_iterator(used.len(), used.iter().map(|&t| gaps[t]));
    let square = gap.dot(&part.cholesky()?.solve(&gap));
    (!used.is_empty()).then_some((square, used.len() as f64))
}

/// The F test of all treatments alike. None without residual variation or degrees of freedom.
///
/// ```
/// use iron_twin_stats::linear::{fit, overall, Layout, Observation};
/// let row = |treatment, block, value| Observation { value, treatment, block, column: 0, baseline: 0.0, unit: 0 };
/// let rows = [row(0, 0, 1.0), row(0, 0, 3.0), row(1, 0, 4.0), row(1, 0, 8.0)];
/// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
/// // For two treatments F is the square of t: 4 / sqrt(5 (1/2 + 1/2)).
/// assert!((overall(&fit).unwrap().f - 16.0 / 5.0).abs() < 1e-12);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
#[must_use]
pub fn overall(fit: &MeansFit) -> Option<Overall> {
    let count = fit.means.len();
    let differences =
        DVector::from_iterator(count - 1, (1..count).map(|i| fit.means[i] - fit.means[0]));
    let c = &fit.covariance;
    let covariance = DMatrix::from_fn(count - 1, count - 1, |i, j| {
        c[(i + 1, j + 1)] - c[(i + 1, 0)] - c[(0, j + 1)] + c[(0, 0)]
    });
    let solved = covariance.cholesky()?.solve(&differences);
    let df_between = (count - 1) as f64;
    let f = differences.dot(&solved) / df_between;
    f.is_finite().then(|| Overall {
        f,
        df_between,
        df_within: fit.df,
        p: super::distributions::f_upper(f, df_between, fit.df),
    })
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
    fn blocks_that_never_share_are_refused() {
        let rows = [
            row(0, 0, 1.0),
            row(0, 0, 2.0),
            row(1, 1, 3.0),
            row(1, 1, 4.0),
        ];
        let layout = Layout {
            treatments: 2,
            blocks: 2,
            columns: 1,
            baseline: false,
        };
        assert_eq!(
            fit(&rows, layout).unwrap_err(),
            StatsError::NotConnected { treatment: 1 }
        );
    }

    #[test]
    fn a_large_offset_costs_no_digits() {
        let rows = [
            row(0, 0, 1.0),
            row(0, 0, 3.0),
            row(1, 0, 4.0),
            row(1, 0, 8.0),
        ];
        let moved: Vec<_> = rows
            .iter()
            .map(|r| Observation {
                value: r.value + 1e9,
                ..*r
            })
            .collect();
        let layout = Layout {
            treatments: 2,
            blocks: 1,
            columns: 1,
            baseline: false,
        };
        let (a, b) = (fit(&rows, layout).unwrap(), fit(&moved, layout).unwrap());
        assert!((a.difference(1, 0).se - b.difference(1, 0).se).abs() < 1e-9);
    }

    #[test]
    fn systems_that_are_never_swapped_are_told() {
        // Two systems over three rounds, the treatment stays with its system: blocks connect, the
        // square does not.
        let cells = [
            (0, 0, 0),
            (1, 1, 0),
            (0, 0, 1),
            (1, 1, 1),
            (0, 0, 2),
            (1, 1, 2),
        ];
        let rows: Vec<_> = (cells.iter().enumerate())
            .map(|(i, &(treatment, block, column))| Observation {
                block: column,
                column: block,
                ..row(treatment, 0, i as f64)
            })
            .collect();
        let layout = Layout {
            treatments: 2,
            blocks: 3,
            columns: 2,
            baseline: false,
        };
        assert_eq!(fit(&rows, layout).unwrap_err(), StatsError::Confounded);
    }

    #[test]
    fn no_degrees_of_freedom_is_no_panic() {
        let rows = [row(0, 0, 1.0), row(1, 0, 3.0)];
        let fit = fit(
            &rows,
            Layout {
                treatments: 2,
                blocks: 1,
                columns: 1,
                baseline: false,
            },
        )
        .unwrap();
        assert_eq!(fit.df, 0.0);
        assert!(fit.residual_sd.is_nan());
        assert!(overall(&fit).is_none());
    }
}
