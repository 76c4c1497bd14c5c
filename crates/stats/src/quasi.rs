//! Counts and shares of designed trials: log-linear quasi-Poisson and logistic quasi-binomial
//! models, treatment (+ block), fitted by iteratively reweighted least squares.
//!
//! Trays scatter more than coin tosses do, so the variance is the textbook one times a dispersion,
//! estimated by Pearson's chi-square over its degrees of freedom. Source: McCullagh and Nelder
//! 1989, Generalized Linear Models.

use super::StatsError;
use super::linear::{Cell, Layout, Normal, Observation, Overall, check_connected, pair_se};
use nalgebra::{DMatrix, DVector};

/// What is modelled.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Family {
    /// Counts of things, variance in proportion to the mean, on logarithms.
    Count,
    /// k out of n, on logits.
    Share,
}

/// One unit: what was counted in it, and out of how much.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tally {
    /// Index of the treatment; 0 is the control.
    pub treatment: usize,
    /// Index of the block; 0 for all where there are none.
    pub block: usize,
    /// Index of the column that crosses the blocks; 0 for all where there are none.
    pub column: usize,
    /// The count, or the k of k out of n.
    pub count: f64,
    /// Exposure of a count (plants, area, days), or the n of k out of n; above zero.
    pub size: f64,
}

impl Tally {
    /// Count over exposure, or k over n.
    ///
    /// ```
    /// use iron_twin_stats::quasi::Tally;
    /// assert_eq!(Tally { treatment: 0, block: 0, column: 0, count: 6.0, size: 4.0 }.rate(), 1.5);
    /// ```
    #[must_use]
    pub fn rate(&self) -> f64 {
        self.count / self.size
    }

    fn cell(&self) -> Cell {
        Cell {
            treatment: self.treatment,
            block: self.block,
            column: self.column,
        }
    }
}

/// The fitted model.
#[derive(Debug, Clone)]
pub struct QuasiFit {
    /// Rate or share of each treatment, averaged over the blocks with equal weight.
    pub rates: Vec<f64>,
    /// Covariance of the rates by the delta method; zero for treatments that are not estimable.
    pub rates_covariance: DMatrix<f64>,
    /// Mean of each treatment on the model's scale (log rate, or logit of the share); NaN where not
    /// estimable.
    pub scores: Vec<f64>,
    /// Covariance of the means on the model's scale, dispersion included; NaN where not estimable.
    pub covariance: DMatrix<f64>,
    /// Whether a treatment stands off the edge: some counts, or neither 0 nor n of n.
    pub estimable: Vec<bool>,
    /// Pearson chi-square over `df`; NaN without degrees of freedom.
    pub dispersion: f64,
    /// Units of the treatments that are estimable, less the rank of their model.
    pub df: f64,
}

impl QuasiFit {
    /// Takes what was solved for the treatments that could be told apart, in their own numbers.
    fn take(&mut self, solved: &Solved, numbers: &[Option<usize>], scale: f64) {
        let told = || {
            numbers
                .iter()
                .enumerate()
                .filter_map(|(t, i)| Some((t, (*i)?)))
        };
        for (t, i) in told() {
            self.scores[t] = solved.scores[i];
            self.rates[t] = solved.rates[i];
            for (u, j) in told() {
                self.covariance[(t, u)] = scale * solved.scores_covariance[(i, j)];
                self.rates_covariance[(t, u)] = scale * solved.rates_covariance[(i, j)];
            }
        }
    }

    /// Difference of two treatments on the model's scale and its standard error, first minus
    /// second.
    ///
    /// ```
    /// use iron_twin_stats::{linear::Layout, quasi::{fit, Family, Tally}};
    /// let row = |treatment, count| Tally { treatment, block: 0, column: 0, count, size: 1.0 };
    /// let rows = [row(0, 4.0), row(0, 6.0), row(1, 9.0), row(1, 11.0)];
    /// let fit = fit(Family::Count, &rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
    /// assert!((fit.difference(1, 0).0 - 2f64.ln()).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn difference(&self, first: usize, second: usize) -> (f64, f64) {
        (
            self.scores[first] - self.scores[second],
            pair_se(&self.covariance, first, second),
        )
    }

    /// Difference of two rates or shares and its standard error, first minus second.
    ///
    /// ```
    /// use iron_twin_stats::{linear::Layout, quasi::{fit, Family, Tally}};
    /// let row = |treatment, count| Tally { treatment, block: 0, column: 0, count, size: 1.0 };
    /// let rows = [row(0, 4.0), row(0, 6.0), row(1, 9.0), row(1, 11.0)];
    /// let fit = fit(Family::Count, &rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
    /// assert!((fit.rate_difference(1, 0).0 - 5.0).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn rate_difference(&self, first: usize, second: usize) -> (f64, f64) {
        (
            self.rates[first] - self.rates[second],
            pair_se(&self.rates_covariance, first, second),
        )
    }

    /// Wald F test that the estimable treatments are alike. None with fewer than two, or no
    /// residual variation.
    ///
    /// ```
    /// use iron_twin_stats::{linear::Layout, quasi::{fit, Family, Tally}};
    /// let row = |treatment, count| Tally { treatment, block: 0, column: 0, count, size: 1.0 };
    /// let rows = [row(0, 4.0), row(0, 6.0), row(1, 9.0), row(1, 11.0)];
    /// let fit = fit(Family::Count, &rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
    /// // For two treatments F is the square of t.
    /// let (gap, se) = fit.difference(1, 0);
    /// assert!((fit.overall().unwrap().f - (gap / se).powi(2)).abs() < 1e-9);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn overall(&self) -> Option<Overall> {
        let known: Vec<usize> = (0..self.scores.len())
            .filter(|&t| self.estimable[t])
            .collect();
        let (&first, rest) = known.split_first()?;
        if rest.is_empty() || !(self.df > 0.0 && self.dispersion > 0.0) {
            return None;
        }
        let c = &self.covariance;
        let gaps = DVector::from_iterator(
            rest.len(),
            rest.iter().map(|&t| self.scores[t] - self.scores[first]),
        );
        let covariance = DMatrix::from_fn(rest.len(), rest.len(), |i, j| {
            c[(rest[i], rest[j])] - c[(rest[i], first)] - c[(first, rest[j])] + c[(first, first)]
        });
        let df_between = rest.len() as f64;
        let f = gaps.dot(&covariance.cholesky()?.solve(&gaps)) / df_between;
        f.is_finite().then(|| Overall {
            f,
            df_between,
            df_within: self.df,
            p: super::distributions::f_upper(f, df_between, self.df),
        })
    }
}

/// Mean of a unit and the derivative of it by the linear predictor, which is also the binomial or
/// Poisson variance.
fn mean_and_slope(family: Family, predictor: f64, size: f64) -> (f64, f64) {
    match family {
        Family::Count => {
            let mean = size * predictor.exp();
            (mean, mean)
        }
        Family::Share => {
            let (p, q) = (
                1.0 / (1.0 + (-predictor).exp()),
                1.0 / (1.0 + predictor.exp()),
            );
            (size * p, size * p * q)
        }
    }
}

fn start(family: Family, tally: &Tally) -> f64 {
    match family {
        Family::Count => ((tally.count + 0.5) / tally.size).ln(),
        Family::Share => ((tally.count + 0.5) / (tally.size - tally.count + 0.5)).ln(),
    }
}

/// Treatments and blocks with something to estimate: a treatment or block at 0 (or n of n)
/// throughout lies at infinity on the model's scale and says nothing about the others.
#[derive(PartialEq)]
struct Kept {
    treatments: Vec<bool>,
    blocks: Vec<bool>,
    columns: Vec<bool>,
}

impl Kept {
    fn of(family: Family, rows: &[Tally], layout: Layout) -> Self {
        let mut kept = Self {
            treatments: vec![true; layout.treatments],
            blocks: vec![true; layout.blocks],
            columns: vec![true; layout.columns],
        };
        loop {
            let mut treatments = vec![(0.0, 0.0); layout.treatments];
            let mut blocks = vec![(0.0, 0.0); layout.blocks];
            let mut columns = vec![(0.0, 0.0); layout.columns];
            for row in rows.iter().filter(|r| kept.has(r)) {
                for total in [
                    &mut treatments[row.treatment],
                    &mut blocks[row.block],
                    &mut columns[row.column],
                ] {
                    *total = (total.0 + row.count, total.1 + row.size);
                }
            }
            let inside = |&(count, size): &(f64, f64)| match family {
                Family::Count => count > 0.0,
                Family::Share => count > 0.0 && count < size,
            };
            let next = Self {
                treatments: treatments.iter().map(inside).collect(),
                blocks: blocks.iter().map(inside).collect(),
                columns: columns.iter().map(inside).collect(),
            };
            let settled = next == kept;
            kept = next;
            if settled {
                return kept;
            }
        }
    }

    fn has(&self, row: &Tally) -> bool {
        self.treatments[row.treatment] && self.blocks[row.block] && self.columns[row.column]
    }
}

/// New numbers for what was kept.
fn numbers(kept: &[bool]) -> Vec<Option<usize>> {
    let mut next = 0;
    kept.iter()
        .map(|&k| {
            k.then(|| {
                next += 1;
                next - 1
            })
        })
        .collect()
}

/// Fits treatment (+ block) to counts or shares, one row a unit.
///
/// Standard errors carry the dispersion. A treatment at zero throughout (shares: or n of n) is not
/// estimable: its rate is given, its score is NaN, and its units count neither in the dispersion
/// nor in the degrees of freedom.
///
/// # Errors
/// [`StatsError::NotFinite`] for a count or size that is not finite, or a size not above zero;
/// [`StatsError::NotConnected`] where blocks keep a treatment apart from the rest;
/// [`StatsError::NoConvergence`] where a cell at the edge sends the fit to infinity.
///
/// ```
/// use iron_twin_stats::{linear::Layout, quasi::{fit, Family, Tally}};
/// let row = |treatment, count| Tally { treatment, block: 0, column: 0, count, size: 1.0 };
/// let rows = [row(0, 4.0), row(0, 6.0), row(1, 9.0), row(1, 11.0)];
/// let fit = fit(Family::Count, &rows, Layout { treatments: 2, blocks: 1, columns: 1, baseline: false })?;
/// assert!((fit.difference(1, 0).0.exp() - 2.0).abs() < 1e-9);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit(family: Family, rows: &[Tally], layout: Layout) -> Result<QuasiFit, StatsError> {
    if rows
        .iter()
        .any(|r| !(r.count.is_finite() && r.size.is_finite() && r.size > 0.0))
    {
        return Err(StatsError::NotFinite {
            what: "a count or what it was counted in",
        });
    }
    let kept = Kept::of(family, rows, layout);
    let df = degrees_left(rows, &kept.treatments);
    let mut out = QuasiFit {
        rates: plain_rates(rows, layout.treatments),
        rates_covariance: DMatrix::zeros(layout.treatments, layout.treatments),
        scores: vec![f64::NAN; layout.treatments],
        covariance: DMatrix::from_element(layout.treatments, layout.treatments, f64::NAN),
        estimable: kept.treatments.clone(),
        dispersion: f64::NAN,
        df,
    };
    let (treatment_number, block_number, column_number) = (
        numbers(&kept.treatments),
        numbers(&kept.blocks),
        numbers(&kept.columns),
    );
    let renumbered: Vec<Tally> = rows
        .iter()
        .filter_map(|r| {
            Some(Tally {
                treatment: treatment_number[r.treatment]?,
                block: block_number[r.block]?,
                column: column_number[r.column]?,
                ..*r
            })
        })
        .collect();
    let count = |numbers: &[Option<usize>]| numbers.iter().flatten().count();
    let inner = Layout {
        treatments: count(&treatment_number),
        blocks: count(&block_number),
        columns: count(&column_number),
        baseline: false,
    };
    if inner.treatments == 0 {
        return Ok(out);
    }
    let solved = solve(family, &renumbered, inner)?;
    let scale = if df > 0.0 {
        solved.chi_square / df
    } else {
        f64::NAN
    };
    out.dispersion = scale;
    let scale = if scale.is_finite() { scale } else { f64::NAN };
    out.take(&solved, &treatment_number, scale);
    Ok(out)
}

/// Units of the treatments off the edge less what they must estimate: a treatment at the edge has
/// no residuals to offer, and its units would only make the others seem steadier than they are.
fn degrees_left(rows: &[Tally], treatments: &[bool]) -> f64 {
    let met = |of: fn(&Tally) -> usize| {
        rows.iter()
            .filter(|r| treatments[r.treatment])
            .map(of)
            .collect::<std::collections::BTreeSet<_>>()
            .len()
    };
    let units = rows.iter().filter(|r| treatments[r.treatment]).count();
    let rank = met(|r| r.treatment)
        + met(|r| r.block).saturating_sub(1)
        + met(|r| r.column).saturating_sub(1);
    units as f64 - rank as f64
}

fn plain_rates(rows: &[Tally], treatments: usize) -> Vec<f64> {
    let mut totals = vec![(0.0, 0.0); treatments];
    for row in rows {
        let total = &mut totals[row.treatment];
        *total = (total.0 + row.count, total.1 + row.size);
    }
    totals.iter().map(|(count, size)| count / size).collect()
}

struct Solved {
    scores: Vec<f64>,
    scores_covariance: DMatrix<f64>,
    rates: Vec<f64>,
    rates_covariance: DMatrix<f64>,
    chi_square: f64,
}

fn solve(family: Family, rows: &[Tally], layout: Layout) -> Result<Solved, StatsError> {
    const STEPS: usize = 60;
    // Beyond this a share is 1 - 1e-13: the fit is on its way to infinity.
    const MOST: f64 = 30.0;
    check(rows, layout)?;
    // Counts are taken against the overall rate, so that sizes in any unit start near zero.
    let total: f64 =
        rows.iter().map(|r| r.count).sum::<f64>() / rows.iter().map(|r| r.size).sum::<f64>();
    let offset = if family == Family::Count {
        total.ln()
    } else {
        0.0
    };
    let mut predictors: Vec<f64> = rows.iter().map(|r| start(family, r) - offset).collect();
    let mut coefficients = DVector::from_element(layout.rank(), f64::INFINITY);
    for _ in 0..STEPS {
        let mut normal = Normal::new(layout);
        for (row, &predictor) in rows.iter().zip(&predictors) {
            let (mean, slope) = mean_and_slope(family, predictor + offset, row.size);
            let working = predictor + (row.count - mean) / slope;
            normal.add(slope, row.cell(), 0.0, working);
        }
        let inverse = normal.inverse()?;
        let next = &inverse * &normal.target;
        predictors = rows
            .iter()
            .map(|r| normal.predict(&next, r.cell(), 0.0))
            .collect();
        if predictors.iter().any(|p| !(p.abs() < MOST)) {
            break;
        }
        let moved = (&next - &coefficients).amax();
        coefficients = next;
        if moved < 1e-12 {
            return Ok(finish(
                family,
                rows,
                &normal,
                &coefficients,
                &inverse,
                offset,
            ));
        }
    }
    Err(StatsError::NoConvergence {
        what: "the model of counts",
        steps: STEPS,
    })
}

/// Treatments, blocks and columns can be told apart.
fn check(rows: &[Tally], layout: Layout) -> Result<(), StatsError> {
    let as_observations: Vec<Observation> = rows
        .iter()
        .enumerate()
        .map(|(unit, r)| Observation {
            value: 0.0,
            treatment: r.treatment,
            block: r.block,
            column: r.column,
            baseline: 0.0,
            unit,
        })
        .collect();
    layout.check_size()?;
    check_connected(&as_observations, layout)
}

fn finish(
    family: Family,
    rows: &[Tally],
    normal: &Normal,
    coefficients: &DVector<f64>,
    inverse: &DMatrix<f64>,
    offset: f64,
) -> Solved {
    let chi_square = rows
        .iter()
        .map(|r| {
            let predictor = normal.predict(coefficients, r.cell(), 0.0) + offset;
            let (mean, variance) = mean_and_slope(family, predictor, r.size);
            (r.count - mean) * (r.count - mean) / variance
        })
        .sum();
    let to_means = normal.mean_rows();
    let layout = normal.layout();
    // Every place, a block crossed with a column, weighs the same.
    let places = move || {
        (0..layout.blocks).flat_map(move |block| (0..layout.columns).map(move |c| (block, c)))
    };
    let cells = |treatment: usize| {
        places().map(move |(block, column)| {
            let cell = Cell {
                treatment,
                block,
                column,
            };
            (
                block,
                column,
                mean_and_slope(
                    family,
                    normal.predict(coefficients, cell, 0.0) + offset,
                    1.0,
                ),
            )
        })
    };
    let number = (layout.blocks * layout.columns) as f64;
    let rates = (0..layout.treatments)
        .map(|t| cells(t).map(|c| c.2.0).sum::<f64>() / number)
        .collect();
    let gradient = gradient(layout, cells, number);
    Solved {
        scores: (&to_means * coefficients)
            .iter()
            .map(|s| s + offset)
            .collect(),
        scores_covariance: &to_means * inverse * to_means.transpose(),
        rates,
        rates_covariance: &gradient * inverse * gradient.transpose(),
        chi_square,
    }
}

/// How the rates move with the coefficients.
fn gradient<C: Iterator<Item = (usize, usize, (f64, f64))>>(
    layout: Layout,
    cells: impl Fn(usize) -> C,
    number: f64,
) -> DMatrix<f64> {
    let mut gradient = DMatrix::zeros(layout.treatments, layout.rank());
    for t in 0..layout.treatments {
        for (block, column, (_, slope)) in cells(t) {
            gradient[(t, t)] += slope / number;
            if block > 0 {
                gradient[(t, layout.treatments + block - 1)] += slope / number;
            }
            if column > 0 {
                gradient[(t, layout.treatments + layout.blocks + column - 2)] += slope / number;
            }
        }
    }
    gradient
}

#[cfg(test)]
mod tests {
    use super::*;

    const PLAIN: Layout = Layout {
        treatments: 2,
        blocks: 1,
        columns: 1,
        baseline: false,
    };

    fn row(treatment: usize, count: f64, size: f64) -> Tally {
        Tally {
            treatment,
            block: 0,
            column: 0,
            count,
            size,
        }
    }

    /// Without blocks the rates are the pooled ones, and the dispersion is Pearson's sum by hand.
    #[test]
    fn pooled_rates_and_pearson_dispersion() {
        let rows = [
            row(0, 3.0, 10.0),
            row(0, 5.0, 10.0),
            row(1, 7.0, 10.0),
            row(1, 8.0, 10.0),
        ];
        let fit = fit(Family::Share, &rows, PLAIN).unwrap();
        assert!((fit.rates[0] - 0.4).abs() < 1e-12 && (fit.rates[1] - 0.75).abs() < 1e-12);
        let by_hand = (2.0 * 1.0 / 2.4 + 2.0 * 0.25 / 1.875) / 2.0;
        assert!((fit.dispersion - by_hand).abs() < 1e-10);
    }

    #[test]
    fn exposures_scale_rates_and_nothing_else() {
        let rows = [
            row(0, 4.0, 2.0),
            row(0, 9.0, 3.0),
            row(1, 9.0, 2.0),
            row(1, 20.0, 4.0),
        ];
        let large: Vec<Tally> = rows
            .iter()
            .map(|r| Tally {
                size: r.size * 1e6,
                ..*r
            })
            .collect();
        let (a, b) = (
            fit(Family::Count, &rows, PLAIN).unwrap(),
            fit(Family::Count, &large, PLAIN).unwrap(),
        );
        assert!((a.difference(1, 0).0 - b.difference(1, 0).0).abs() < 1e-10);
        assert!((a.difference(1, 0).1 - b.difference(1, 0).1).abs() < 1e-10);
        assert!((a.rates[1] / b.rates[1] - 1e6).abs() < 1e-3);
    }

    #[test]
    fn a_treatment_at_zero_leaves_the_others_as_they_are() {
        let rows = [
            row(0, 4.0, 1.0),
            row(0, 6.0, 1.0),
            row(1, 0.0, 1.0),
            row(1, 0.0, 1.0),
        ];
        let fit = fit(Family::Count, &rows, PLAIN).unwrap();
        assert_eq!(fit.estimable, [true, false]);
        assert!(fit.scores[1].is_nan() && fit.rates[1] == 0.0);
        assert!((fit.rates[0] - 5.0).abs() < 1e-9);
        assert!(fit.overall().is_none());
    }

    #[test]
    fn nothing_at_all_and_nonsense() {
        let zero = [row(0, 0.0, 1.0), row(1, 0.0, 1.0)];
        assert_eq!(
            fit(Family::Count, &zero, PLAIN).unwrap().estimable,
            [false, false]
        );
        assert!(fit(Family::Count, &[row(0, f64::NAN, 1.0)], PLAIN).is_err());
        assert!(fit(Family::Count, &[row(0, 1.0, 0.0)], PLAIN).is_err());
        let one = [row(0, 1.0, 2.0), row(1, 1.0, 2.0)];
        assert!(fit(Family::Share, &one, PLAIN).unwrap().dispersion.is_nan());
    }
}
