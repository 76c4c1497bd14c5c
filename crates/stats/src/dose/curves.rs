//! The curves, each by its least squares.

use super::super::StatsError;
use super::super::distributions::t_two_sided;
use super::super::least_squares::{self, Curve, CurveFit};

/// The four-parameter log-logistic: lower + (upper - lower) / (1 + exp(slope (ln dose - ln ed50))).
///
/// Parameters: slope, lower, upper, ln ed50. At dose 0 the exponential is 0 for a positive slope. With a positive slope
/// the curve falls from `upper` to `lower`. Source: Seefeldt, Jensen and Fuerst 1995, Weed Technology 9, 218-227.
pub(super) struct LogLogistic;

/// Exponents beyond this are 0 or infinity to double precision.
const MOST_EXPONENT: f64 = 700.0;

impl LogLogistic {
    /// exp(slope (ln dose - ln ed50)).
    fn power(p: &[f64], dose: f64) -> f64 {
        if dose <= 0.0 {
            return if p[0] >= 0.0 { 0.0 } else { f64::INFINITY };
        }
        (p[0] * (dose.ln() - p[3])).clamp(-MOST_EXPONENT, MOST_EXPONENT).exp()
    }
}

impl Curve for LogLogistic {
    fn value(&self, p: &[f64], dose: f64) -> f64 {
        p[1] + (p[2] - p[1]) / (1.0 + Self::power(p, dose))
    }

    fn gradient(&self, p: &[f64], dose: f64) -> Vec<f64> {
        let power = Self::power(p, dose);
        let share = 1.0 / (1.0 + power);
        let steep = if dose <= 0.0 || power.is_infinite() { 0.0 } else { -(p[2] - p[1]) * power * share * share };
        let log_gap = if dose <= 0.0 { 0.0 } else { dose.ln() - p[3] };
        vec![steep * log_gap, 1.0 - share, share, -steep * p[0]]
    }

    fn admits(&self, p: &[f64]) -> bool {
        p.iter().all(|v| v.is_finite()) && p[0].abs() < 1e3 && p[3].abs() < 200.0
    }
}

/// A fitted log-logistic curve.
#[derive(Debug, Clone, PartialEq)]
pub struct LogLogisticFit {
    /// Steepness; positive where the curve falls from `upper` to `lower`.
    pub slope: f64,
    /// Value at very high doses, for a positive slope.
    pub lower: f64,
    /// Value at dose 0, for a positive slope.
    pub upper: f64,
    /// Dose at which half of the way is gone.
    pub ed50: f64,
    /// Its standard error; NaN where the data do not pin it down.
    pub se_ed50: f64,
    /// Residual standard deviation.
    pub residual_sd: f64,
    /// Sum of squared residuals.
    pub rss: f64,
}

impl LogLogisticFit {
    pub(super) fn parameters(&self) -> [f64; 4] {
        [self.slope, self.lower, self.upper, self.ed50.ln()]
    }
}

/// A straight line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LinearFit {
    /// Value at dose 0.
    pub intercept: f64,
    /// Change a unit of dose.
    pub slope: f64,
    /// Standard error of the slope.
    pub se: f64,
    /// Two-sided p of the slope.
    pub p: f64,
    /// Sum of squared residuals.
    pub rss: f64,
}

/// A line that ends in a plateau.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlateauFit {
    /// Value at dose 0.
    pub intercept: f64,
    /// Change a unit of dose below the joint.
    pub slope: f64,
    /// Dose from which on more makes no difference.
    pub joint: f64,
    /// Value from there on.
    pub plateau: f64,
    /// Sum of squared residuals.
    pub rss: f64,
}

/// Doses that the curves are fitted to: (dose, response), doses not below zero.
///
/// # Errors
/// [`StatsError::NotFinite`]; [`StatsError::OutOfRange`] for a dose below zero or fewer than `least` different doses.
fn check(points: &[(f64, f64)], least: usize) -> Result<Vec<f64>, StatsError> {
    if points.iter().any(|p| !p.0.is_finite() || !p.1.is_finite()) {
        return Err(StatsError::NotFinite { what: "a dose or response" });
    }
    if let Some(low) = points.iter().map(|p| p.0).find(|d| *d < 0.0) {
        return Err(StatsError::OutOfRange { what: "dose", min: 0.0, max: f64::INFINITY, got: low });
    }
    let mut doses: Vec<f64> = points.iter().map(|p| p.0).collect();
    doses.sort_by(f64::total_cmp);
    doses.dedup();
    if doses.len() < least {
        let (min, got) = (least as f64, doses.len() as f64);
        return Err(StatsError::OutOfRange { what: "different doses", min, max: f64::INFINITY, got });
    }
    Ok(doses)
}

/// Fits the log-logistic curve from several starting guesses and keeps the best.
///
/// # Errors
/// As for fewer than four different doses, values that are not finite, or no guess that settles.
///
/// ```
/// use iron_twin_stats::dose::fit_log_logistic;
/// let truth = |d: f64| 1.0 + 8.0 / (1.0 + (d / 3.0).powi(2));
/// let points: Vec<(f64, f64)> = [0.0, 1.0, 2.0, 4.0, 8.0, 16.0].map(|d| (d, truth(d))).to_vec();
/// assert!((fit_log_logistic(&points)?.ed50 - 3.0).abs() < 1e-6);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit_log_logistic(points: &[(f64, f64)]) -> Result<LogLogisticFit, StatsError> {
    let doses = check(points, 4)?;
    let mean_at = |dose: f64| {
        let own: Vec<f64> = points.iter().filter(|p| p.0 == dose).map(|p| p.1).collect();
        own.iter().sum::<f64>() / own.len() as f64
    };
    let (first, last) = (mean_at(doses[0]), mean_at(doses[doses.len() - 1]));
    let positive: Vec<f64> = doses.iter().copied().filter(|d| *d > 0.0).collect();
    let mut best: Option<CurveFit> = None;
    let mut failure = StatsError::NoConvergence { what: "the log-logistic curve", steps: 0 };
    for pair in positive.windows(2) {
        let middle = 0.5 * (pair[0].ln() + pair[1].ln());
        for slope in [1.0, 3.0, 8.0] {
            match least_squares::fit(&LogLogistic, &[slope, last, first, middle], points) {
                Ok(fit) if best.as_ref().is_none_or(|b| fit.rss < b.rss) => best = Some(fit),
                Ok(_) => {}
                Err(error) => failure = error,
            }
        }
    }
    let fit = best.ok_or(failure)?;
    let ed50 = fit.parameters[3].exp();
    let (slope, lower, upper) = if fit.parameters[0] >= 0.0 {
        (fit.parameters[0], fit.parameters[1], fit.parameters[2])
    } else {
        (-fit.parameters[0], fit.parameters[2], fit.parameters[1])
    };
    // The error of a logarithm carries over to the dose in proportion.
    Ok(LogLogisticFit {
        slope,
        lower,
        upper,
        ed50,
        se_ed50: ed50 * fit.se[3],
        residual_sd: fit.residual_sd(),
        rss: fit.rss,
    })
}

/// Straight line through doses and responses by least squares. `se` and `p` are NaN without degrees of freedom.
///
/// # Errors
/// As for fewer than two different doses or values that are not finite.
///
/// ```
/// use iron_twin_stats::dose::fit_linear;
/// let line = fit_linear(&[(0.0, 1.0), (1.0, 3.0), (2.0, 5.0)])?;
/// assert!((line.slope - 2.0).abs() < 1e-12 && (line.intercept - 1.0).abs() < 1e-12);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit_linear(points: &[(f64, f64)]) -> Result<LinearFit, StatsError> {
    check(points, 2)?;
    Ok(line(points))
}

fn line(points: &[(f64, f64)]) -> LinearFit {
    let n = points.len() as f64;
    let (x_mean, y_mean) = (points.iter().map(|p| p.0).sum::<f64>() / n, points.iter().map(|p| p.1).sum::<f64>() / n);
    let sxx: f64 = points.iter().map(|p| (p.0 - x_mean).powi(2)).sum();
    let slope = points.iter().map(|p| (p.0 - x_mean) * (p.1 - y_mean)).sum::<f64>() / sxx;
    let rss: f64 = points.iter().map(|p| (p.1 - y_mean - slope * (p.0 - x_mean)).powi(2)).sum();
    let df = n - 2.0;
    let se = if df > 0.0 { (rss / df / sxx).sqrt() } else { f64::NAN };
    let p = if se > 0.0 { t_two_sided(slope / se, df) } else { f64::NAN };
    LinearFit { intercept: y_mean - slope * x_mean, slope, se, p, rss }
}

/// Line up to a plateau, at the exact least sum of squares over all joints.
///
/// Between two neighbouring doses the best joint is where the line through the lower doses meets the mean of the upper
/// ones, if it lies there; else the least sum stands at a dose itself. All of these are tried, so no grid is needed.
///
/// # Errors
/// As for fewer than three different doses or values that are not finite.
///
/// ```
/// use iron_twin_stats::dose::fit_plateau;
/// let points: Vec<(f64, f64)> = [0.0, 1.0, 2.0, 3.0, 4.0, 5.0].map(|d: f64| (d, 2.0 * d.min(2.5))).to_vec();
/// assert!((fit_plateau(&points)?.joint - 2.5).abs() < 1e-9);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit_plateau(points: &[(f64, f64)]) -> Result<PlateauFit, StatsError> {
    let doses = check(points, 3)?;
    let mut best: Option<PlateauFit> = None;
    let mut offer = |fit: PlateauFit| {
        if fit.rss.is_finite() && best.is_none_or(|b| fit.rss < b.rss) {
            best = Some(fit);
        }
    };
    for (i, &dose) in doses.iter().enumerate().skip(1) {
        let capped: Vec<(f64, f64)> = points.iter().map(|p| (p.0.min(dose), p.1)).collect();
        let at = line(&capped);
        offer(PlateauFit {
            intercept: at.intercept,
            slope: at.slope,
            joint: dose,
            plateau: at.intercept + at.slope * dose,
            rss: at.rss,
        });
        let Some(&next) = doses.get(i + 1) else { continue };
        let (below, above): (Vec<_>, Vec<_>) = points.iter().partition(|p| p.0 <= dose);
        let lower = line(&below);
        let plateau = above.iter().map(|p| p.1).sum::<f64>() / above.len() as f64;
        let joint = (plateau - lower.intercept) / lower.slope;
        if joint > dose && joint < next {
            let rss = lower.rss + above.iter().map(|p| (p.1 - plateau).powi(2)).sum::<f64>();
            offer(PlateauFit { intercept: lower.intercept, slope: lower.slope, joint, plateau, rss });
        }
    }
    best.ok_or(StatsError::NoConvergence { what: "the plateau", steps: doses.len() })
}

/// A parabola: with a negative curvature a hump, beyond whose peak more does harm.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct QuadraticFit {
    /// Value at dose 0.
    pub intercept: f64,
    /// Change a unit of dose, at dose 0.
    pub slope: f64,
    /// Half the change of that change.
    pub curvature: f64,
    /// The dose at which it turns.
    pub peak: f64,
    /// Sum of squared residuals.
    pub rss: f64,
}

/// Parabola through doses and responses by least squares.
///
/// # Errors
/// As for fewer than three different doses or values that are not finite.
///
/// ```
/// use iron_twin_stats::dose::fit_quadratic;
/// let points: Vec<(f64, f64)> = [0.0, 1.0, 2.0, 3.0].map(|d: f64| (d, 5.0 + 4.0 * d - d * d)).to_vec();
/// assert!((fit_quadratic(&points)?.peak - 2.0).abs() < 1e-9);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit_quadratic(points: &[(f64, f64)]) -> Result<QuadraticFit, StatsError> {
    check(points, 3)?;
    // Against the line: what the squares have that the doses do not say, and how the response moves with it.
    let squares: Vec<(f64, f64)> = points.iter().map(|p| (p.0, p.0 * p.0)).collect();
    let (of_squares, of_values) = (line(&squares), line(points));
    let rest = |l: &LinearFit, p: &(f64, f64)| p.1 - l.intercept - l.slope * p.0;
    let own: f64 = squares.iter().map(|p| rest(&of_squares, p).powi(2)).sum();
    let shared: f64 = squares.iter().zip(points).map(|(s, p)| rest(&of_squares, s) * rest(&of_values, p)).sum();
    if !(own > 0.0) {
        return Err(StatsError::NoConvergence { what: "the parabola", steps: 1 });
    }
    let curvature = shared / own;
    let slope = of_values.slope - curvature * of_squares.slope;
    Ok(QuadraticFit {
        intercept: of_values.intercept - curvature * of_squares.intercept,
        slope,
        curvature,
        peak: -0.5 * slope / curvature,
        rss: (of_values.rss - curvature * shared).max(0.0),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_plateau_beats_a_fine_grid_of_joints() {
        let doses: [f64; 6] = [0.0, 10.0, 20.0, 30.0, 40.0, 50.0];
        let bumps = [0.7, -0.3, 1.1, -0.9, 0.2, -0.6, 0.5, -1.2, 0.1, 0.8, -0.4, 0.3];
        let points: Vec<(f64, f64)> =
            (0..12).map(|i| (doses[i % 6], 3.0 + 0.4 * doses[i % 6].min(27.0) + bumps[i])).collect();
        let fit = fit_plateau(&points).unwrap();
        let grid = (1..5000)
            .map(|i| {
                let joint = f64::from(i) * 0.01;
                line(&points.iter().map(|p| (p.0.min(joint), p.1)).collect::<Vec<_>>()).rss
            })
            .fold(f64::INFINITY, f64::min);
        assert!(fit.rss <= grid + 1e-9, "{} {grid}", fit.rss);
        assert!((fit.plateau - fit.intercept - fit.slope * fit.joint).abs() < 1e-9);
    }

    #[test]
    fn few_doses_and_nonsense() {
        assert!(fit_linear(&[(1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(fit_linear(&[(-1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(fit_log_logistic(&[(0.0, 1.0), (1.0, f64::NAN)]).is_err());
    }
}
