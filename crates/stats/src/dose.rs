//! How much is enough? Dose curves: log-logistic, straight line, line up to a plateau; the choice among them by AICc.

use super::StatsError;
use super::distributions::t_two_sided;
use super::least_squares::{self, Curve, CurveFit};

/// The four-parameter log-logistic: lower + (upper - lower) / (1 + exp(slope (ln dose - ln ed50))).
///
/// Parameters: slope, lower, upper, ln ed50. At dose 0 the exponential is 0 for a positive slope. With a positive slope
/// the curve falls from `upper` to `lower`. Source: Seefeldt, Jensen and Fuerst 1995, Weed Technology 9, 218-227.
struct LogLogistic;

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
    fn parameters(&self) -> [f64; 4] {
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

/// Which curve.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Model {
    /// [`LogLogisticFit`].
    LogLogistic,
    /// [`LinearFit`].
    Linear,
    /// [`PlateauFit`].
    LinearPlateau,
}

/// All three curves, as far as the data carry them.
#[derive(Debug, Clone, PartialEq)]
pub struct DoseFits {
    /// None with fewer than four different doses, or where it does not settle.
    pub log_logistic: Option<LogLogisticFit>,
    /// The straight line.
    pub linear: LinearFit,
    /// None with fewer than three different doses.
    pub plateau: Option<PlateauFit>,
    /// The curve with the least AICc.
    pub preferred: Model,
}

/// Akaike's criterion corrected for small samples; infinite where the points do not carry so many parameters.
fn corrected_aic(rss: f64, points: usize, curve_parameters: usize) -> f64 {
    let (n, k) = (points as f64, curve_parameters as f64 + 1.0);
    if n - k - 1.0 <= 0.0 {
        return f64::INFINITY;
    }
    // An exact fit would be minus infinity for every curve that manages it; the simplest is listed first then.
    n * (rss / n).max(f64::MIN_POSITIVE).ln() + 2.0 * k + 2.0 * k * (k + 1.0) / (n - k - 1.0)
}

impl DoseFits {
    /// Fits what can be fitted and prefers the curve with the least AICc (Hurvich and Tsai 1989).
    ///
    /// # Errors
    /// As [`fit_linear`].
    ///
    /// ```
    /// use iron_twin_stats::dose::{DoseFits, Model};
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert_eq!(DoseFits::of(&points)?.preferred, Model::LinearPlateau);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn of(points: &[(f64, f64)]) -> Result<Self, StatsError> {
        let linear = fit_linear(points)?;
        let (log_logistic, plateau) = (fit_log_logistic(points).ok(), fit_plateau(points).ok());
        let mut preferred = (Model::Linear, corrected_aic(linear.rss, points.len(), 2));
        let others = [
            plateau.map(|p| (Model::LinearPlateau, corrected_aic(p.rss, points.len(), 3))),
            log_logistic.as_ref().map(|l| (Model::LogLogistic, corrected_aic(l.rss, points.len(), 4))),
        ];
        for candidate in others.into_iter().flatten() {
            if candidate.1 < preferred.1 {
                preferred = candidate;
            }
        }
        Ok(Self { log_logistic, linear, plateau, preferred: preferred.0 })
    }

    /// Predicted response of the preferred curve.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert!((DoseFits::of(&points)?.predict(9.0) - 20.0).abs() < 1e-6);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn predict(&self, dose: f64) -> f64 {
        match (self.preferred, &self.log_logistic, &self.plateau) {
            (Model::LogLogistic, Some(l), _) => LogLogistic.value(&l.parameters(), dose),
            (Model::LinearPlateau, _, Some(p)) => p.intercept + p.slope * dose.min(p.joint),
            _ => self.linear.intercept + self.linear.slope * dose,
        }
    }

    /// Residual sum of squares of the preferred curve, and how many parameters it has.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// let (left, parameters) = DoseFits::of(&points)?.preferred_rss();
    /// assert!(left < 1e-12 && parameters == 3);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn preferred_rss(&self) -> (f64, usize) {
        match (self.preferred, &self.log_logistic, &self.plateau) {
            (Model::LogLogistic, Some(l), _) => (l.rss, 4),
            (Model::LinearPlateau, _, Some(p)) => (p.rss, 3),
            _ => (self.linear.rss, 2),
        }
    }

    /// Refits the preferred curve alone to other responses at the same doses.
    fn refit(&self, points: &[(f64, f64)]) -> Option<Self> {
        let mut other = self.clone();
        match self.preferred {
            Model::LogLogistic => {
                let start = self.log_logistic.as_ref()?.parameters();
                let fit = least_squares::fit(&LogLogistic, &start, points).ok()?;
                let p = &fit.parameters;
                other.log_logistic = Some(LogLogisticFit {
                    slope: p[0],
                    lower: p[1],
                    upper: p[2],
                    ed50: p[3].exp(),
                    se_ed50: f64::NAN,
                    residual_sd: f64::NAN,
                    rss: fit.rss,
                });
            }
            Model::LinearPlateau => other.plateau = Some(fit_plateau(points).ok()?),
            Model::Linear => other.linear = line(points),
        }
        Some(other)
    }

    /// The lowest dose in `[from, to]` whose predicted response lies within `margin` of the best predicted one.
    ///
    /// All three curves rise or fall throughout, so the best lies at an end of the range and the doses that are good
    /// enough form one stretch.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// // Rises by 10 a unit of dose up to dose 2, and no further.
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert!((DoseFits::of(&points)?.enough(0.0, 4.0, 2.0, true) - 1.8).abs() < 1e-6);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn enough(&self, from: f64, to: f64, margin: f64, higher: bool) -> f64 {
        let sign = if higher { 1.0 } else { -1.0 };
        let gain = |dose: f64| sign * self.predict(dose);
        let wanted = gain(from).max(gain(to)) - margin;
        if gain(from) >= wanted {
            return from;
        }
        let (mut low, mut high) = (from, to);
        for _ in 0..200 {
            let middle = 0.5 * (low + high);
            if gain(middle) >= wanted {
                high = middle;
            } else {
                low = middle;
            }
        }
        high
    }
}

/// The dose that is enough, with its interval.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Enough {
    /// The dose.
    pub dose: f64,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// Simulated trials behind the limits.
    pub simulated: usize,
}

/// Trials simulated for the limits.
const SIMULATED: usize = 999;

impl DoseFits {
    /// The dose that is enough, with limits by parametric bootstrap: trials are drawn from the preferred curve with its
    /// residual spread, refitted, and asked the same. Without degrees of freedom the limits are the ends of the range.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> =
    ///     (0..12).map(|i| (f64::from(i % 6), 10.0 * f64::from(i % 6).min(2.0) + 0.3 * f64::from(i * 7 % 5))).collect();
    /// let enough = DoseFits::of(&points)?.enough_with_limits(&points, 2.0, true, 0.95, 1);
    /// assert!(enough.low <= enough.dose && enough.dose <= enough.high && enough.high < 3.0);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn enough_with_limits(
        &self,
        points: &[(f64, f64)],
        margin: f64,
        higher: bool,
        confidence: f64,
        seed: u64,
    ) -> Enough {
        use rand::{RngExt, SeedableRng};
        let (from, to) = points.iter().fold((f64::INFINITY, 0.0f64), |(a, b), p| (a.min(p.0), b.max(p.0)));
        let dose = self.enough(from, to, margin, higher);
        let (rss, parameters) = self.preferred_rss();
        let df = points.len() as f64 - parameters as f64;
        if !(df > 0.0) {
            return Enough { dose, low: from, high: to, simulated: 0 };
        }
        let sd = (rss / df).sqrt();
        let mut random = rand_chacha::ChaCha8Rng::seed_from_u64(seed);
        let mut found: Vec<f64> = (0..SIMULATED)
            .filter_map(|_| {
                let drawn: Vec<(f64, f64)> = points
                    .iter()
                    .map(|p| {
                        let chance: f64 = random.random_range(1e-12..1.0 - 1e-12);
                        (p.0, self.predict(p.0) + sd * super::distributions::normal_quantile_upper(chance))
                    })
                    .collect();
                Some(self.refit(&drawn)?.enough(from, to, margin, higher))
            })
            .collect();
        found.sort_by(f64::total_cmp);
        let tail = 0.5 * (1.0 - confidence);
        let at = |share: f64| found[((share * (found.len() - 1) as f64).round() as usize).min(found.len() - 1)];
        if found.is_empty() {
            return Enough { dose, low: from, high: to, simulated: 0 };
        }
        Enough { dose, low: at(tail).min(dose), high: at(1.0 - tail).max(dose), simulated: found.len() }
    }
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
    fn enough_is_the_lowest_dose_within_the_margin() {
        let points: Vec<(f64, f64)> = (0..14)
            .map(|i| (f64::from(i % 7), 2.0 * f64::from(i % 7).min(3.0) + if i % 2 == 0 { 0.05 } else { -0.05 }))
            .collect();
        let fits = DoseFits::of(&points).unwrap();
        assert_eq!(fits.preferred, Model::LinearPlateau);
        let enough = fits.enough_with_limits(&points, 1.0, true, 0.95, 1);
        assert!((enough.dose - 2.5).abs() < 0.1, "{enough:?}");
        assert!(enough.low <= enough.dose && enough.dose <= enough.high && enough.simulated > 900);
        assert_eq!(fits.enough(0.0, 6.0, 1.0, false), 0.0, "where less is better, nothing is enough");
        assert_eq!(enough, fits.enough_with_limits(&points, 1.0, true, 0.95, 1), "the same seed, the same limits");
    }

    #[test]
    fn few_doses_and_nonsense() {
        assert!(fit_linear(&[(1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(fit_linear(&[(-1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(fit_log_logistic(&[(0.0, 1.0), (1.0, f64::NAN)]).is_err());
        let two = DoseFits::of(&[(0.0, 1.0), (1.0, 2.0), (0.0, 1.2), (1.0, 2.1)]).unwrap();
        assert!(two.log_logistic.is_none() && two.plateau.is_none() && two.preferred == Model::Linear);
    }
}
