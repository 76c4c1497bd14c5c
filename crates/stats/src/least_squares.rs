//! Nonlinear least squares for curves of a few parameters: Levenberg and Marquardt's method.
//!
//! Own code over nalgebra: the kept crate brings a second nalgebra. Source: Moré 1978, Lecture
//! Notes in Mathematics 630, with Nielsen's damping update.

use super::StatsError;
use nalgebra::{DMatrix, DVector};

/// A curve with parameters: its value and its derivative by each of them.
pub trait Curve {
    /// Value at `x`.
    fn value(&self, parameters: &[f64], x: f64) -> f64;
    /// Derivatives by the parameters at `x`.
    fn gradient(&self, parameters: &[f64], x: f64) -> Vec<f64>;
    /// Whether the parameters make a curve at all.
    fn admits(&self, parameters: &[f64]) -> bool;
}

/// Why the solver stopped.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stop {
    /// The gradient is as good as zero.
    Level,
    /// Steps no longer change the parameters or the fit.
    Settled,
}

/// A fitted curve.
#[derive(Debug, Clone, PartialEq)]
pub struct CurveFit {
    /// The parameters.
    pub parameters: Vec<f64>,
    /// Standard error of each; NaN without degrees of freedom or where the data do not pin it down.
    pub se: Vec<f64>,
    /// Sum of squared residuals.
    pub rss: f64,
    /// Points less parameters.
    pub df: f64,
    /// Steps taken.
    pub steps: usize,
    /// How the solver stopped.
    pub stop: Stop,
}

impl CurveFit {
    /// Residual standard deviation; NaN without degrees of freedom.
    ///
    /// ```
    /// use iron_twin_stats::growth::{fit, Shape};
    /// // A curve without noise leaves nothing.
    /// let track: Vec<(f64, f64)> = (0..9).map(|d| (f64::from(d), 80.0 / (1.0 + (4.0 - f64::from(d)).exp()))).collect();
    /// assert!(fit(Shape::Logistic, &track, 0.95)?.residual_sd < 1e-6);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn residual_sd(&self) -> f64 {
        (self.rss / self.df).sqrt()
    }
}

/// Steps before giving up.
const STEPS: usize = 500;

/// Observations at one x by their mean: a curve through means, each counted as often as it was
/// observed, is the curve through all.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Repeated {
    pub(crate) x: f64,
    /// Mean.
    pub(crate) y: f64,
    /// How many observations.
    pub(crate) times: f64,
}

fn squares(curve: &impl Curve, parameters: &[f64], points: &[Repeated]) -> f64 {
    points
        .iter()
        .map(|p| p.times * (p.y - curve.value(parameters, p.x)).powi(2))
        .sum()
}

/// Fits a curve to points (x, y) from a starting guess.
///
/// # Errors
/// [`StatsError::NotFinite`] for a guess that makes no curve; [`StatsError::NoConvergence`] when
/// the steps run out.
///
/// ```
/// use iron_twin_stats::least_squares::{fit, Curve};
/// struct Line;
/// impl Curve for Line {
///     fn value(&self, p: &[f64], x: f64) -> f64 { p[0] + p[1] * x }
///     fn gradient(&self, _: &[f64], x: f64) -> Vec<f64> { vec![1.0, x] }
///     fn admits(&self, p: &[f64]) -> bool { p.iter().all(|v| v.is_finite()) }
/// }
/// let fit = fit(&Line, &[0.0, 0.0], &[(0.0, 1.0), (1.0, 3.0), (2.0, 5.0)])?;
/// assert!((fit.parameters[1] - 2.0).abs() < 1e-9);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit(
    curve: &impl Curve,
    guess: &[f64],
    points: &[(f64, f64)],
) -> Result<CurveFit, StatsError> {
    let once: Vec<Repeated> = points
        .iter()
        .map(|&(x, y)| Repeated { x, y, times: 1.0 })
        .collect();
    fit_repeated(curve, guess, &once, Within::default(), 0.0)
}

/// What no curve through means takes away.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(crate) struct Within {
    /// Sum of squares of the observations about the means.
    pub(crate) squares: f64,
    /// Degrees of freedom that something else has spent, such as blocks.
    pub(crate) spent: f64,
}

/// [`fit`] to means. It stops when a step gains less than this share of the sum of squares: 0 to go
/// on until nothing moves, and more where the curve is only one of many that are drawn.
pub(crate) fn fit_repeated(
    curve: &impl Curve,
    guess: &[f64],
    points: &[Repeated],
    within: Within,
    close: f64,
) -> Result<CurveFit, StatsError> {
    let mut parameters = guess.to_vec();
    let mut rss = squares(curve, &parameters, points);
    if !(curve.admits(&parameters) && rss.is_finite()) {
        return Err(StatsError::NotFinite {
            what: "the curve at its starting guess",
        });
    }
    let size: f64 = points.iter().map(|p| p.times * p.y * p.y).sum();
    let (mut damping, mut growth) = (1e-3, 2.0);
    let done = |parameters, rss, step, stop| {
        Ok(finish(curve, parameters, points, (rss, within), step, stop))
    };
    for step in 1..=STEPS {
        let (cross, slope) = normal_equations(curve, &parameters, points);
        if slope.amax() == 0.0 || rss <= 1e-28 * size {
            return done(parameters, rss, step, Stop::Level);
        }
        let moved = damped_step(
            curve,
            points,
            (&parameters, rss),
            (&cross, &slope),
            (&mut damping, &mut growth),
        );
        let Some((next, next_rss, change)) = moved else {
            return done(parameters, rss, step, Stop::Settled);
        };
        let still = parameters
            .iter()
            .zip(change.iter())
            .all(|(p, c)| c.abs() <= 1e-11 * (p.abs() + 1e-11));
        let close = close > 0.0 && rss - next_rss <= close * (next_rss + within.squares);
        parameters = next;
        rss = next_rss;
        if still || close {
            return done(parameters, rss, step, Stop::Settled);
        }
    }
    Err(StatsError::NoConvergence {
        what: "the curve",
        steps: STEPS,
    })
}

/// A step that gains, damped more until one does; None where none gains however small it is.
fn damped_step(
    curve: &impl Curve,
    points: &[Repeated],
    (parameters, rss): (&[f64], f64),
    (cross, slope): (&DMatrix<f64>, &DVector<f64>),
    (damping, growth): (&mut f64, &mut f64),
) -> Option<(Vec<f64>, f64, DVector<f64>)> {
    while *damping < 1e30 {
        let mut damped = cross.clone();
        for i in 0..damped.nrows() {
            damped[(i, i)] += *damping * cross[(i, i)].max(1e-30);
        }
        let Some(change) = damped.cholesky().map(|c| c.solve(slope)) else {
            *damping *= *growth;
            *growth *= 2.0;
            continue;
        };
        let next: Vec<f64> = parameters
            .iter()
            .zip(change.iter())
            .map(|(p, c)| p + c)
            .collect();
        let next_rss = if curve.admits(&next) {
            squares(curve, &next, points)
        } else {
            f64::INFINITY
        };
        if next_rss.is_finite() && next_rss <= rss {
            let foreseen = change.dot(
                &(slope
                    + *damping * DVector::from_fn(change.len(), |i, _| cross[(i, i)] * change[i])),
            );
            let gained = (rss - next_rss) / foreseen.max(f64::MIN_POSITIVE);
            *damping *= (1.0 - (2.0 * gained - 1.0).powi(3)).max(1.0 / 3.0);
            *growth = 2.0;
            return Some((next, next_rss, change));
        }
        *damping *= *growth;
        *growth *= 2.0;
    }
    None
}

/// Minimises x'Gx - 2 c'x over x not below zero, G being positive semidefinite: nonnegative least
/// squares by its normal equations. Source: Lawson and Hanson 1974, Solving Least Squares Problems,
/// chapter 23.
pub(crate) fn nonnegative(cross: &DMatrix<f64>, target: &DVector<f64>) -> DVector<f64> {
    let count = target.len();
    let mut free = vec![false; count];
    let mut x = DVector::zeros(count);
    let solve = |free: &[bool]| -> Option<DVector<f64>> {
        let own: Vec<usize> = (0..count).filter(|&i| free[i]).collect();
        // A touch on the diagonal settles directions that the data leave open.
        let part = DMatrix::from_fn(own.len(), own.len(), |i, j| {
            cross[(own[i], own[j])] * if i == j { 1.0 + 1e-14 } else { 1.0 }
        });
        let solved = part.cholesky()?.solve(&DVector::from_iterator(
            own.len(),
            own.iter().map(|&i| target[i]),
        ));
        let mut whole = DVector::zeros(count);
        own.iter()
            .zip(solved.iter())
            .for_each(|(&i, v)| whole[i] = *v);
        Some(whole)
    };
    for _ in 0..3 * count + 10 {
        let slope = target - cross * &x;
        let enter = (0..count)
            .filter(|&i| !free[i])
            .max_by(|&a, &b| slope[a].total_cmp(&slope[b]));
        let Some(enter) = enter.filter(|&i| slope[i] > 1e-12 * (1.0 + target.amax())) else {
            break;
        };
        free[enter] = true;
        while let Some(next) = solve(&free) {
            let blocked = (0..count).filter(|&i| free[i] && next[i] <= 0.0);
            let step = blocked
                .map(|i| x[i] / (x[i] - next[i]))
                .fold(f64::INFINITY, f64::min);
            if step.is_infinite() {
                x = next;
                break;
            }
            x = &x + (next - &x) * step.clamp(0.0, 1.0);
            let least = 1e-15 * (1.0 + x.amax());
            (0..count)
                .filter(|&i| free[i] && x[i] <= least)
                .collect::<Vec<_>>()
                .into_iter()
                .for_each(|i| {
                    free[i] = false;
                    x[i] = 0.0;
                });
        }
    }
    x
}

fn normal_equations(
    curve: &impl Curve,
    parameters: &[f64],
    points: &[Repeated],
) -> (DMatrix<f64>, DVector<f64>) {
    let count = parameters.len();
    let (mut cross, mut slope) = (DMatrix::zeros(count, count), DVector::zeros(count));
    for p in points {
        let gradient = curve.gradient(parameters, p.x);
        let missed = p.times * (p.y - curve.value(parameters, p.x));
        for (i, a) in gradient.iter().enumerate() {
            slope[i] += missed * a;
            gradient
                .iter()
                .enumerate()
                .for_each(|(j, b)| cross[(i, j)] += p.times * a * b);
        }
    }
    (cross, slope)
}

fn finish(
    curve: &impl Curve,
    parameters: Vec<f64>,
    points: &[Repeated],
    (missed, within): (f64, Within),
    steps: usize,
    stop: Stop,
) -> CurveFit {
    let df = points.iter().map(|p| p.times).sum::<f64>() - parameters.len() as f64 - within.spent;
    let rss = missed + within.squares;
    let variance = if df > 0.0 { rss / df } else { f64::NAN };
    let (cross, _) = normal_equations(curve, &parameters, points);
    let se = match cross.cholesky().map(|c| c.inverse()) {
        Some(inverse) => (0..parameters.len())
            .map(|i| (variance * inverse[(i, i)]).sqrt())
            .collect(),
        None => vec![f64::NAN; parameters.len()],
    };
    CurveFit {
        parameters,
        se,
        rss,
        df,
        steps,
        stop,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// y = a exp(-b x).
    struct Decay;

    impl Curve for Decay {
        fn value(&self, p: &[f64], x: f64) -> f64 {
            p[0] * (-p[1] * x).exp()
        }
        fn gradient(&self, p: &[f64], x: f64) -> Vec<f64> {
            let e = (-p[1] * x).exp();
            vec![e, -p[0] * x * e]
        }
        fn admits(&self, p: &[f64]) -> bool {
            p.iter().all(|v| v.is_finite())
        }
    }

    #[test]
    fn an_exact_curve_is_found_from_afar() {
        let points: Vec<(f64, f64)> = (0..8)
            .map(|i| (f64::from(i), 5.0 * (-0.4 * f64::from(i)).exp()))
            .collect();
        let fit = fit(&Decay, &[1.0, 1.0], &points).unwrap();
        assert!((fit.parameters[0] - 5.0).abs() < 1e-8 && (fit.parameters[1] - 0.4).abs() < 1e-8);
        assert_eq!(fit.df, 6.0);
    }

    #[test]
    fn what_must_not_be_negative_is_zero() {
        // Unconstrained the minimum lies at (-1, 2); on the edge x = 0 it lies at y = 1.5.
        let cross = DMatrix::from_row_slice(2, 2, &[1.0, 1.0, 1.0, 2.0]);
        let target = DVector::from_vec(vec![1.0, 3.0]);
        let x = nonnegative(&cross, &target);
        assert!(x[0] == 0.0 && (x[1] - 1.5).abs() < 1e-12, "{x}");
        let free = nonnegative(&cross, &DVector::from_vec(vec![2.0, 3.0]));
        assert!(
            (free[0] - 1.0).abs() < 1e-9 && (free[1] - 1.0).abs() < 1e-9,
            "{free}"
        );
    }

    #[test]
    fn constants_nonsense_and_too_few_points() {
        let level: Vec<(f64, f64)> = (0..4).map(|i| (f64::from(i), 3.0)).collect();
        let flat = fit(&Decay, &[1.0, 0.5], &level).unwrap();
        assert!(flat.parameters[1].abs() < 1e-6);
        assert!(fit(&Decay, &[f64::NAN, 1.0], &level).is_err());
        assert!(
            fit(&Decay, &[1.0, 1.0], &[(0.0, 2.0)])
                .unwrap()
                .residual_sd()
                .is_nan()
        );
    }
}
