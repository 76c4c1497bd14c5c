//! Samples in units: the unit was treated, the samples only show it. Random unit intercept, REML,
//! Satterthwaite.
//!
//! Everything is computed from unit sums. Within a unit the covariance has two eigenvalues:
//! `within` for contrasts among samples, `within + n * between` for their mean; so each unit enters
//! as one weighted mean plus what its baseline varies inside.

use super::StatsError;
use super::distributions::f_upper;
use super::linear::{Cell, Layout, Normal, Observation, Overall, pair_se};
use nalgebra::{DMatrix, DVector, SymmetricEigen};

/// Adjusted means of the mixed model.
#[derive(Debug, Clone)]
pub struct MixedFit {
    /// Adjusted mean of each treatment.
    pub means: Vec<f64>,
    /// Covariance of the adjusted means.
    pub covariance: DMatrix<f64>,
    /// Standard deviation between units.
    pub between_units_sd: f64,
    /// Standard deviation within a unit.
    pub within_unit_sd: f64,
    /// Units less the rank of the fixed effects: more degrees of freedom than this the units do not
    /// support.
    pub df_cap: f64,
    /// Satterthwaite degrees of freedom of each treatment's contrast with the control, before the
    /// cap.
    pub df_satterthwaite: Vec<f64>,
    /// F test of all treatments alike.
    pub overall: Option<Overall>,
    solution: Solution,
    freedom: Freedom,
    to_means: DMatrix<f64>,
}

impl MixedFit {
    /// Degrees of freedom of a contrast after the cap; equal to the cap where units do not differ
    /// at all.
    ///
    /// ```
    /// use iron_twin_stats::{linear::{Layout, Observation}, mixed::fit};
    /// let row = |treatment, unit, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit };
    /// let rows = [row(0, 0, 10.0), row(0, 0, 11.0), row(0, 1, 14.0), row(0, 1, 15.0),
    ///             row(1, 2, 18.0), row(1, 2, 20.0), row(1, 3, 23.0), row(1, 3, 24.0)];
    /// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
    /// assert!(fit.df(0) <= fit.df_cap);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn df(&self, contrast: usize) -> f64 {
        self.df_satterthwaite[contrast].min(self.df_cap)
    }

    /// Degrees of freedom of any contrast of the adjusted means, after the cap.
    ///
    /// ```
    /// use iron_twin_stats::{linear::{Layout, Observation}, mixed::fit};
    /// let row = |treatment, unit, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit };
    /// let rows = [row(0, 0, 10.0), row(0, 0, 11.0), row(0, 1, 14.0), row(0, 1, 15.0),
    ///             row(1, 2, 18.0), row(1, 2, 20.0), row(1, 3, 23.0), row(1, 3, 24.0)];
    /// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
    /// assert!((fit.df_of(&[-1.0, 1.0]) - fit.df(0)).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn df_of(&self, weights: &[f64]) -> f64 {
        if self.between_units_sd == 0.0 {
            return self.df_cap;
        }
        self.freedom
            .of(&(self.to_means.transpose() * DVector::from_column_slice(weights)))
            .min(self.df_cap)
    }

    /// F test that all the given contrasts of the adjusted means are zero (one a row).
    ///
    /// ```
    /// use iron_twin_stats::{linear::{Layout, Observation}, mixed::fit};
    /// let row = |treatment, unit, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit };
    /// let rows = [row(0, 0, 10.0), row(0, 0, 11.0), row(0, 1, 14.0), row(0, 1, 15.0),
    ///             row(1, 2, 18.0), row(1, 2, 20.0), row(1, 3, 23.0), row(1, 3, 24.0)];
    /// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
    /// let test = fit.test(&nalgebra::DMatrix::from_row_slice(1, 2, &[-1.0, 1.0])).unwrap();
    /// assert!((test.f - fit.overall.unwrap().f).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn test(&self, contrasts: &DMatrix<f64>) -> Option<Overall> {
        let fixed = (self.between_units_sd == 0.0).then_some(self.df_cap);
        overall(
            &(contrasts * &self.to_means),
            &self.solution,
            &self.freedom,
            fixed,
            self.df_cap,
        )
    }
}

/// A model with one random intercept, as the restricted likelihood needs it: units with samples, or
/// lamps with trays.
pub(crate) trait Grouped {
    /// Generalised least squares at the given variances.
    fn solve(&self, within: f64, between: f64) -> Result<Solution, StatsError>;
    /// Rows of the table.
    fn rows(&self) -> f64;
    /// Free fixed effects.
    fn rank(&self) -> usize;
    /// Number of groups, and rows of the largest.
    fn groups(&self) -> (f64, f64);

    fn residual_df(&self) -> f64 {
        self.rows() - self.rank() as f64
    }

    /// Minus twice the restricted log-likelihood, up to a constant, with the within variance
    /// profiled out.
    fn profiled(&self, ratio: f64) -> Result<f64, StatsError> {
        let s = self.solve(1.0, ratio)?;
        Ok(self.residual_df() * s.quadratic.ln() + s.log_determinants)
    }

    fn deviance(&self, within: f64, between: f64) -> Result<f64, StatsError> {
        let s = self.solve(within, between)?;
        Ok(s.quadratic + s.log_determinants)
    }
}

/// The estimates by restricted likelihood.
pub(crate) struct Estimates {
    pub within: f64,
    pub between: f64,
    pub solution: Solution,
    pub freedom: Freedom,
}

/// Finds both variances by restricted likelihood.
pub(crate) fn estimate(problem: &impl Grouped) -> Result<Estimates, StatsError> {
    let ratio = best_ratio(problem)?;
    let within = problem.solve(1.0, ratio)?.quadratic / problem.residual_df();
    let between = ratio * within;
    if !(within > 0.0 && within.is_finite()) {
        return Err(StatsError::NotFinite {
            what: "the variation within units",
        });
    }
    let solution = problem.solve(within, between)?;
    let freedom = Freedom::new(problem, within, between)?;
    Ok(Estimates {
        within,
        between,
        solution,
        freedom,
    })
}

#[derive(Default, Clone)]
struct UnitSums {
    samples: f64,
    cell: Cell,
    value: f64,
    baseline: f64,
    syy: f64,
    sxy: f64,
    sxx: f64,
}

struct Problem {
    layout: Layout,
    units: Vec<UnitSums>,
    rows: f64,
    centre: f64,
}

#[derive(Debug, Clone)]
pub(crate) struct Solution {
    pub coefficients: DVector<f64>,
    pub inverse: DMatrix<f64>,
    pub quadratic: f64,
    pub log_determinants: f64,
}

impl Problem {
    fn gather(rows: &[Observation], layout: Layout) -> Self {
        let count = rows.len() as f64;
        let centre = rows.iter().map(|r| r.value).sum::<f64>() / count;
        let baseline_centre = rows.iter().map(|r| r.baseline).sum::<f64>() / count;
        let number = rows.iter().map(|r| r.unit + 1).max().unwrap_or(0);
        let mut units = vec![UnitSums::default(); number];
        for row in rows {
            let unit = &mut units[row.unit];
            unit.samples += 1.0;
            unit.cell = row.into();
            unit.value += row.value - centre;
            unit.baseline += row.baseline - baseline_centre;
        }
        for unit in &mut units {
            unit.value /= unit.samples;
            unit.baseline /= unit.samples;
        }
        for row in rows {
            let unit = &mut units[row.unit];
            let (y, x) = (
                row.value - centre - unit.value,
                row.baseline - baseline_centre - unit.baseline,
            );
            unit.syy += y * y;
            unit.sxy += x * y;
            unit.sxx += x * x;
        }
        units.retain(|u| u.samples > 0.0);
        Self {
            layout,
            units,
            rows: count,
            centre,
        }
    }
}

impl Grouped for Problem {
    fn solve(&self, within: f64, between: f64) -> Result<Solution, StatsError> {
        let mut normal = Normal::new(self.layout);
        let mut log_determinants = 0.0;
        for u in &self.units {
            let mean_variance = within + u.samples * between;
            normal.add(u.samples / mean_variance, u.cell, u.baseline, u.value);
            normal.add_within(1.0 / within, u.sxx, u.sxy);
            log_determinants += (u.samples - 1.0) * within.ln() + mean_variance.ln();
        }
        let factor = normal
            .cross
            .clone()
            .cholesky()
            .ok_or(StatsError::NoConvergence {
                what: "the mixed model",
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
        let coefficients = &inverse * &normal.target;
        let slope = if self.layout.baseline {
            coefficients[self.layout.rank() - 1]
        } else {
            0.0
        };
        let quadratic = self
            .units
            .iter()
            .map(|u| {
                let gap = u.value - normal.predict(&coefficients, u.cell, u.baseline);
                u.samples / (within + u.samples * between) * gap * gap
                    + (u.syy - 2.0 * slope * u.sxy + slope * slope * u.sxx) / within
            })
            .sum();
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
        self.layout.rank()
    }

    fn groups(&self) -> (f64, f64) {
        (
            self.units.len() as f64,
            self.units.iter().map(|u| u.samples).fold(1.0, f64::max),
        )
    }
}

/// The variance ratio between / within that minimises the profiled deviance; zero when units do not
/// differ.
fn best_ratio(problem: &impl Grouped) -> Result<f64, StatsError> {
    const GRID: i32 = 72;
    let ratio_at = |i: i32| 10f64.powf(-9.0 + 0.25 * f64::from(i));
    let mut best = (0.0, problem.profiled(0.0)?, -1);
    for i in 0..=GRID {
        let height = problem.profiled(ratio_at(i))?;
        if height < best.1 {
            best = (ratio_at(i), height, i);
        }
    }
    if best.2 < 0 {
        return Ok(0.0);
    }
    // Golden section in the logarithm between the neighbours of the best grid point.
    let golden = 0.5 * (5f64.sqrt() - 1.0);
    let (mut low, mut high) = (ratio_at(best.2 - 1).ln(), ratio_at(best.2 + 1).ln());
    let mut inner = [high - golden * (high - low), low + golden * (high - low)];
    let mut heights = [
        problem.profiled(inner[0].exp())?,
        problem.profiled(inner[1].exp())?,
    ];
    for _ in 0..60 {
        if heights[0] < heights[1] {
            high = inner[1];
            inner = [high - golden * (high - low), inner[0]];
            heights = [problem.profiled(inner[0].exp())?, heights[0]];
        } else {
            low = inner[0];
            inner = [inner[1], low + golden * (high - low)];
            heights = [heights[1], problem.profiled(inner[1].exp())?];
        }
        if high - low < 1e-9 {
            break;
        }
    }
    Ok((0.5 * (low + high)).exp())
}

/// Fits measure ~ treatment (+ block) (+ baseline) with a random intercept for each unit, by REML.
///
/// `rows` holds the samples; `unit` tells which belong together; all rows of a unit must share
/// treatment and block. Degrees of freedom after Satterthwaite as in lmerTest (Kuznetsova,
/// Brockhoff and Christensen 2017): from the observed curvature of the restricted likelihood in
/// both variances.
///
/// # Errors
/// [`StatsError::NotConnected`]; [`StatsError::NotFinite`] where values do not vary within units at
/// all (use the linear model on unit means then); [`StatsError::NoConvergence`].
///
/// ```
/// use iron_twin_stats::{linear::{Layout, Observation}, mixed::fit};
/// let row = |treatment, unit, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit };
/// // Two trays a side, two plants in each: the trays count.
/// let rows = [row(0, 0, 10.0), row(0, 0, 11.0), row(0, 1, 14.0), row(0, 1, 15.0),
///             row(1, 2, 18.0), row(1, 2, 20.0), row(1, 3, 23.0), row(1, 3, 24.0)];
/// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
/// assert!((fit.df(0) - 2.0).abs() < 1e-6);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit(rows: &[Observation], layout: Layout) -> Result<MixedFit, StatsError> {
    layout.check_size()?;
    super::linear::check_connected(rows, layout)?;
    if rows
        .iter()
        .any(|r| !r.value.is_finite() || !r.baseline.is_finite())
    {
        return Err(StatsError::NotFinite {
            what: "the measure",
        });
    }
    let problem = Problem::gather(rows, layout);
    let df_cap = problem.units.len() as f64 - layout.rank() as f64;
    let Estimates {
        within,
        between,
        solution,
        freedom,
    } = estimate(&problem)?;
    let to_means = Normal::new(layout).mean_rows();
    let covariance = &to_means * &solution.inverse * to_means.transpose();
    let means: Vec<f64> = (&to_means * &solution.coefficients)
        .iter()
        .map(|m| m + problem.centre)
        .collect();
    let contrasts = contrast_rows(layout);
    let pooled = between == 0.0;
    let df_satterthwaite = (0..layout.treatments - 1)
        .map(|i| {
            if pooled {
                df_cap
            } else {
                freedom.of(&contrasts.row(i).transpose())
            }
        })
        .collect();
    let overall = overall(
        &contrasts,
        &solution,
        &freedom,
        if pooled { Some(df_cap) } else { None },
        df_cap,
    );
    Ok(MixedFit {
        means,
        covariance,
        between_units_sd: between.sqrt(),
        within_unit_sd: within.sqrt(),
        df_cap,
        df_satterthwaite,
        overall,
        solution,
        freedom,
        to_means,
    })
}

/// Treatment minus control, as rows over the coefficients.
fn contrast_rows(layout: Layout) -> DMatrix<f64> {
    DMatrix::from_fn(layout.treatments - 1, layout.rank(), |i, j| {
        if j == i + 1 {
            1.0
        } else if j == 0 {
            -1.0
        } else {
            0.0
        }
    })
}

/// What Satterthwaite needs: how the coefficients' covariance moves with each variance, and how
/// sure the variances are.
#[derive(Debug, Clone)]
pub(crate) struct Freedom {
    inverse: DMatrix<f64>,
    slopes: [DMatrix<f64>; 2],
    variance_covariance: [[f64; 2]; 2],
}

impl Freedom {
    fn new(problem: &impl Grouped, within: f64, between: f64) -> Result<Self, StatsError> {
        let (groups, most) = problem.groups();
        let average = problem.rows() / groups;
        // A step small beside either eigenvalue, so that the covariance stays positive on both
        // sides of zero.
        let h = [2e-3 * within, 2e-3 * (between + within / average.max(most))];
        let at = |i: f64, j: f64| problem.deviance(within + i * h[0], between + j * h[1]);
        let centre = at(0.0, 0.0)?;
        // Central differences at one and two steps, combined so that the error is of fourth order.
        let second = |one: f64, two: f64| (4.0 * one - 0.25 * two) / 3.0;
        let pure = |k: usize| -> Result<f64, StatsError> {
            let along = |step: f64| if k == 0 { at(step, 0.0) } else { at(0.0, step) };
            let one = along(1.0)? - 2.0 * centre + along(-1.0)?;
            let two = along(2.0)? - 2.0 * centre + along(-2.0)?;
            Ok(second(one, two) / (h[k] * h[k]))
        };
        let mixed = |s: f64| -> Result<f64, StatsError> {
            Ok((at(s, s)? - at(s, -s)? - at(-s, s)? + at(-s, -s)?) / 4.0)
        };
        let cross = second(mixed(1.0)?, mixed(2.0)?) / (h[0] * h[1]);
        let (a, d) = (pure(0)?, pure(1)?);
        let determinant = a * d - cross * cross;
        let inverse_at = |i: f64, j: f64| {
            problem
                .solve(within + i * h[0], between + j * h[1])
                .map(|s| s.inverse)
        };
        let slope = |k: usize| -> Result<DMatrix<f64>, StatsError> {
            let along = |step: f64| {
                if k == 0 {
                    inverse_at(step, 0.0)
                } else {
                    inverse_at(0.0, step)
                }
            };
            let one = (along(1.0)? - along(-1.0)?) / 2.0;
            let two = (along(2.0)? - along(-2.0)?) / 4.0;
            Ok((one * 4.0 - two) / 3.0 / h[k])
        };
        Ok(Self {
            inverse: inverse_at(0.0, 0.0)?,
            slopes: [slope(0)?, slope(1)?],
            variance_covariance: [
                [2.0 * d / determinant, -2.0 * cross / determinant],
                [-2.0 * cross / determinant, 2.0 * a / determinant],
            ],
        })
    }

    /// Degrees of freedom of one contrast: 2 v^2 / Var(v).
    pub fn of(&self, contrast: &DVector<f64>) -> f64 {
        let variance = (contrast.transpose() * &self.inverse * contrast)[0];
        let slope = [0, 1].map(|k| (contrast.transpose() * &self.slopes[k] * contrast)[0]);
        let spread: f64 = (0..2)
            .flat_map(|i| (0..2).map(move |j| (i, j)))
            .map(|(i, j)| slope[i] * self.variance_covariance[i][j] * slope[j])
            .sum();
        let df = 2.0 * variance * variance / spread;
        if df.is_finite() && df > 0.0 {
            df
        } else {
            f64::INFINITY
        }
    }
}

/// F over all contrasts, its df combined from the independent pieces (Fai and Cornelius 1996, as in
/// lmerTest).
pub(crate) fn overall(
    contrasts: &DMatrix<f64>,
    solution: &Solution,
    freedom: &Freedom,
    fixed_df: Option<f64>,
    cap: f64,
) -> Option<Overall> {
    if contrasts.nrows() == 0 {
        return None;
    }
    let covariance = contrasts * &solution.inverse * contrasts.transpose();
    let eigen = SymmetricEigen::new(covariance);
    let pieces = eigen.eigenvectors.transpose() * contrasts;
    let effects = &pieces * &solution.coefficients;
    let q = pieces.nrows() as f64;
    let f = effects
        .iter()
        .zip(eigen.eigenvalues.iter())
        .map(|(e, d)| e * e / d)
        .sum::<f64>()
        / q;
    let each: Vec<f64> = (0..pieces.nrows())
        .map(|i| freedom.of(&pieces.row(i).transpose()))
        .collect();
    let df = fixed_df.unwrap_or_else(|| {
        if each.len() == 1 {
            each[0]
        } else if each.iter().any(|&v| v <= 2.0) {
            2.0
        } else {
            let sum: f64 = each
                .iter()
                .map(|v| if v.is_finite() { v / (v - 2.0) } else { 1.0 })
                .sum();
            2.0 * sum / (sum - q)
        }
    });
    let df = df.min(cap);
    (f.is_finite() && df > 0.0).then(|| Overall {
        f,
        df_between: q,
        df_within: df,
        p: f_upper(f, q, df),
    })
}

/// Standard error of a difference of two adjusted means.
///
/// ```
/// use iron_twin_stats::{linear::{Layout, Observation}, mixed::{difference_se, fit}};
/// let row = |treatment, unit, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit };
/// let rows = [row(0, 0, 10.0), row(0, 0, 11.0), row(0, 1, 14.0), row(0, 1, 15.0),
///             row(1, 2, 18.0), row(1, 2, 20.0), row(1, 3, 23.0), row(1, 3, 24.0)];
/// let fit = fit(&rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
/// assert!(difference_se(&fit, 1, 0) > 0.0);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
#[must_use]
pub fn difference_se(fit: &MixedFit, first: usize, second: usize) -> f64 {
    pair_se(&fit.covariance, first, second)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::linear;

    /// A balanced trial equals the analysis of unit means: the textbook identity.
    #[test]
    fn balanced_samples_equal_the_analysis_of_unit_means() {
        let bumps = [0.3, -1.1, 2.0, 0.4, -0.6, 1.7];
        let mut rows = Vec::new();
        for (unit, bump) in bumps.iter().enumerate() {
            for sample in 0..4 {
                let value = 10.0
                    + 3.0 * f64::from(u8::from(unit >= 3))
                    + bump
                    + 0.2 * ((sample * 7 + unit * 3) % 5) as f64;
                rows.push(Observation {
                    value,
                    treatment: unit / 3,
                    block: 0,
                    column: 0,
                    baseline: 0.0,
                    unit,
                });
            }
        }
        let layout = Layout {
            treatments: 2,
            blocks: 1,
            columns: 1,
            baseline: false,
        };
        let mixed = fit(&rows, layout).unwrap();
        let means: Vec<Observation> = (0..6)
            .map(|unit| Observation {
                value: rows
                    .iter()
                    .filter(|r| r.unit == unit)
                    .map(|r| r.value)
                    .sum::<f64>()
                    / 4.0,
                ..rows[unit * 4]
            })
            .collect();
        let plain = linear::fit(&means, layout).unwrap();
        assert!((difference_se(&mixed, 1, 0) - plain.difference(1, 0).se).abs() < 1e-6);
        assert!((mixed.df(0) - 4.0).abs() < 1e-4, "{}", mixed.df(0));
    }

    #[test]
    fn units_that_do_not_differ_give_the_cap() {
        let mut rows = Vec::new();
        for unit in 0..6 {
            for sample in 0..3 {
                // Every unit holds the same three values: no variation between units at all.
                rows.push(Observation {
                    value: f64::from(sample) + if unit >= 3 { 5.0 } else { 0.0 },
                    treatment: unit as usize / 3,
                    block: 0,
                    column: 0,
                    baseline: 0.0,
                    unit: unit as usize,
                });
            }
        }
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
        assert_eq!(fit.between_units_sd, 0.0);
        assert_eq!(fit.df(0), 4.0);
    }
}
