//! The linear model of a designed trial: measure ~ treatment (+ block) (+ baseline), fixed effects.
//!
//! The normal equations are gathered in one pass, centred, so that a million rows cost no matrix of a million rows.

use super::StatsError;
use nalgebra::{DMatrix, DVector};

/// One row of the model: a unit, or a sample of a unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Observation {
    /// The measure, in its own unit.
    pub value: f64,
    /// Index of the treatment; 0 is the control.
    pub treatment: usize,
    /// Index of the block; 0 for all where there are none.
    pub block: usize,
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
    /// Whether the baseline is a covariate.
    pub baseline: bool,
}

impl Layout {
    /// Number of free fixed effects: treatments, further blocks, and the covariate.
    #[must_use]
    pub fn rank(&self) -> usize {
        self.treatments + self.blocks - 1 + usize::from(self.baseline)
    }
}

/// Adjusted means with what is known of their uncertainty.
#[derive(Debug, Clone)]
pub struct MeansFit {
    /// Adjusted mean of each treatment: equal weight for each block, at the mean baseline.
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
    #[must_use]
    pub fn difference(&self, first: usize, second: usize) -> Difference {
        Difference { estimate: self.means[first] - self.means[second], se: pair_se(&self.covariance, first, second) }
    }

    /// Correlations of the contrasts of every treatment with the control, in the treatments' order.
    #[must_use]
    pub fn contrast_correlation(&self) -> Vec<Vec<f64>> {
        contrast_correlation(&self.covariance)
    }
}

pub(crate) fn pair_se(covariance: &DMatrix<f64>, first: usize, second: usize) -> f64 {
    (covariance[(first, first)] + covariance[(second, second)] - 2.0 * covariance[(first, second)]).max(0.0).sqrt()
}

pub(crate) fn contrast_correlation(covariance: &DMatrix<f64>) -> Vec<Vec<f64>> {
    let count = covariance.nrows();
    let se: Vec<f64> = (0..count).map(|i| pair_se(covariance, i, 0)).collect();
    (1..count)
        .map(|i| {
            (1..count)
                .map(|j| {
                    if i == j {
                        return 1.0;
                    }
                    let shared = covariance[(i, j)] - covariance[(i, 0)] - covariance[(0, j)] + covariance[(0, 0)];
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

/// Weighted normal equations with one column a treatment, one a further block, and the centred baseline.
pub(crate) struct Normal {
    layout: Layout,
    pub cross: DMatrix<f64>,
    pub target: DVector<f64>,
}

impl Normal {
    pub fn new(layout: Layout) -> Self {
        let p = layout.rank();
        Self { layout, cross: DMatrix::zeros(p, p), target: DVector::zeros(p) }
    }

    pub fn layout(&self) -> Layout {
        self.layout
    }

    /// Columns with a one in them for this treatment and block, and the place of the baseline.
    fn columns(&self, treatment: usize, block: usize, baseline: f64) -> [(usize, f64); 3] {
        let layout = self.layout;
        [
            (treatment, 1.0),
            if block > 0 { (layout.treatments + block - 1, 1.0) } else { (0, 0.0) },
            if layout.baseline { (layout.rank() - 1, baseline) } else { (0, 0.0) },
        ]
    }

    pub fn add(&mut self, weight: f64, treatment: usize, block: usize, baseline: f64, value: f64) {
        let columns = self.columns(treatment, block, baseline);
        for &(i, xi) in &columns {
            if xi == 0.0 {
                continue;
            }
            self.target[i] += weight * xi * value;
            for &(j, xj) in &columns {
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

    pub fn predict(&self, coefficients: &DVector<f64>, treatment: usize, block: usize, baseline: f64) -> f64 {
        self.columns(treatment, block, baseline).iter().map(|&(i, x)| x * coefficients[i]).sum()
    }

    pub fn leverage(&self, inverse: &DMatrix<f64>, treatment: usize, block: usize, baseline: f64) -> f64 {
        let columns = self.columns(treatment, block, baseline);
        let pairs = columns.iter().flat_map(|a| columns.iter().map(move |b| (a, b)));
        pairs.map(|(&(i, x), &(j, y))| x * y * inverse[(i, j)]).sum()
    }

    /// Rows that turn coefficients into adjusted means.
    pub fn mean_rows(&self) -> DMatrix<f64> {
        let layout = self.layout;
        DMatrix::from_fn(layout.treatments, layout.rank(), |i, j| {
            if j < layout.treatments {
                f64::from(u8::from(i == j))
            } else if j < layout.treatments + layout.blocks - 1 {
                1.0 / layout.blocks as f64
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
        let (a, b) = (root(&mut parent, row.treatment), root(&mut parent, layout.treatments + row.block));
        parent[a] = b;
    }
    let control = root(&mut parent, 0);
    match (1..layout.treatments).find(|&t| root(&mut parent, t) != control) {
        Some(treatment) => Err(StatsError::NotConnected { treatment }),
        None => Ok(()),
    }
}

/// Whether the baseline says anything that treatments and blocks do not already say.
#[must_use]
pub fn baseline_is_free(rows: &[Observation], layout: Layout) -> bool {
    let plain = Layout { baseline: false, ..layout };
    let as_value: Vec<Observation> = rows.iter().map(|r| Observation { value: r.baseline, ..*r }).collect();
    let spread = rows.iter().map(|r| r.baseline.abs()).fold(0.0, f64::max);
    match fit(&as_value, plain) {
        Ok(fit) => fit.residuals.iter().any(|r| r.abs() > 1e-9 * spread.max(f64::MIN_POSITIVE)),
        Err(_) => false,
    }
}

/// Fits the fixed-effects model by least squares.
///
/// `rows` holds one observation a unit (or a row); missing values must have been dropped. With no residual degrees of
/// freedom the standard deviation is NaN and `df` is 0, and the means are still given.
///
/// # Errors
/// [`StatsError::NotFinite`] for a value that is not finite; [`StatsError::NotConnected`] where blocks keep a
/// treatment apart from the control.
///
/// ```
/// use iron_twin_core::stats::linear::{fit, Layout, Observation};
/// let row = |treatment, value| Observation { value, treatment, block: 0, baseline: 0.0, unit: 0 };
/// let rows = [row(0, 1.0), row(0, 3.0), row(1, 4.0), row(1, 8.0)];
/// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, baseline: false })?;
/// assert!((fit.difference(1, 0).estimate - 4.0).abs() < 1e-12);
/// assert_eq!(fit.df, 2.0);
/// # Ok::<(), iron_twin_core::stats::StatsError>(())
/// ```
pub fn fit(rows: &[Observation], layout: Layout) -> Result<MeansFit, StatsError> {
    if rows.iter().any(|r| !r.value.is_finite()) {
        return Err(StatsError::NotFinite { what: "the measure" });
    }
    if rows.iter().any(|r| !r.baseline.is_finite()) {
        return Err(StatsError::NotFinite { what: "the baseline" });
    }
    check_connected(rows, layout)?;
    let plain = Layout { baseline: false, ..layout };
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
    fn of(rows: &[Observation], layout: Layout, what: impl Fn(&Observation) -> f64) -> Result<Self, StatsError> {
        let centre = rows.iter().map(&what).sum::<f64>() / rows.len().max(1) as f64;
        let mut normal = Normal::new(layout);
        for row in rows {
            normal.add(1.0, row.treatment, row.block, 0.0, what(row) - centre);
        }
        let inverse = invert(&normal.cross)?;
        let coefficients = &inverse * &normal.target;
        let to_means = normal.mean_rows();
        let predicted = |r: &Observation| centre + normal.predict(&coefficients, r.treatment, r.block, 0.0);
        Ok(Self {
            means: (&to_means * &coefficients).iter().map(|m| m + centre).collect(),
            unscaled: &to_means * &inverse * to_means.transpose(),
            residuals: rows.iter().map(|r| what(r) - predicted(r)).collect(),
            leverages: rows.iter().map(|r| normal.leverage(&inverse, r.treatment, r.block, 0.0)).collect(),
        })
    }

    /// Adds the covariate by what treatments and blocks leave of it (Frisch and Waugh 1933). A covariate that treatments
    /// nearly explain would cost the normal equations half their digits; its residuals are as exact as the rest.
    fn adjust_for(&mut self, covariate: &Self, rows: &[Observation]) -> Result<(), StatsError> {
        let rest = &covariate.residuals;
        let squares: f64 = rest.iter().map(|z| z * z).sum();
        if !(squares > 0.0) {
            return Err(StatsError::NoConvergence { what: "the least-squares solution", steps: 1 });
        }
        let slope = rest.iter().zip(&self.residuals).map(|(z, e)| z * e).sum::<f64>() / squares;
        let centre = rows.iter().map(|r| r.baseline).sum::<f64>() / rows.len() as f64;
        let off = DVector::from_iterator(self.means.len(), covariate.means.iter().map(|m| m - centre));
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

pub(crate) fn invert(matrix: &DMatrix<f64>) -> Result<DMatrix<f64>, StatsError> {
    matrix
        .clone()
        .cholesky()
        .map(|c| c.inverse())
        .ok_or(StatsError::NoConvergence { what: "the least-squares solution", steps: 1 })
}

/// Squared length of gaps that sum to zero, in units of their covariance, and its degrees of freedom.
///
/// One of the gaps follows from the others and is left out; what never varies says nothing. None where nothing is left.
pub(crate) fn quadratic_form(gaps: &DVector<f64>, covariance: &DMatrix<f64>) -> Option<(f64, f64)> {
    let told: Vec<usize> = (0..gaps.len()).filter(|&t| covariance[(t, t)] > 1e-12).collect();
    let used = told.split_last()?.1;
    let part = DMatrix::from_fn(used.len(), used.len(), |i, j| covariance[(used[i], used[j])]);
    let gap = DVector::from_iterator(used.len(), used.iter().map(|&t| gaps[t]));
    let square = gap.dot(&part.cholesky()?.solve(&gap));
    (!used.is_empty()).then_some((square, used.len() as f64))
}

/// The F test of all treatments alike. None without residual variation or degrees of freedom.
#[must_use]
pub fn overall(fit: &MeansFit) -> Option<Overall> {
    let count = fit.means.len();
    let differences = DVector::from_iterator(count - 1, (1..count).map(|i| fit.means[i] - fit.means[0]));
    let c = &fit.covariance;
    let covariance =
        DMatrix::from_fn(count - 1, count - 1, |i, j| c[(i + 1, j + 1)] - c[(i + 1, 0)] - c[(0, j + 1)] + c[(0, 0)]);
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
        Observation { value, treatment, block, baseline: 0.0, unit: 0 }
    }

    #[test]
    fn blocks_that_never_share_are_refused() {
        let rows = [row(0, 0, 1.0), row(0, 0, 2.0), row(1, 1, 3.0), row(1, 1, 4.0)];
        let layout = Layout { treatments: 2, blocks: 2, baseline: false };
        assert_eq!(fit(&rows, layout).unwrap_err(), StatsError::NotConnected { treatment: 1 });
    }

    #[test]
    fn a_large_offset_costs_no_digits() {
        let rows = [row(0, 0, 1.0), row(0, 0, 3.0), row(1, 0, 4.0), row(1, 0, 8.0)];
        let moved: Vec<_> = rows.iter().map(|r| Observation { value: r.value + 1e9, ..*r }).collect();
        let layout = Layout { treatments: 2, blocks: 1, baseline: false };
        let (a, b) = (fit(&rows, layout).unwrap(), fit(&moved, layout).unwrap());
        assert!((a.difference(1, 0).se - b.difference(1, 0).se).abs() < 1e-9);
    }

    #[test]
    fn no_degrees_of_freedom_is_no_panic() {
        let rows = [row(0, 0, 1.0), row(1, 0, 3.0)];
        let fit = fit(&rows, Layout { treatments: 2, blocks: 1, baseline: false }).unwrap();
        assert_eq!(fit.df, 0.0);
        assert!(fit.residual_sd.is_nan());
        assert!(overall(&fit).is_none());
    }
}
