//! The curves, each by its least squares.

use super::super::StatsError;
use super::super::distributions::t_two_sided;
use super::super::least_squares::{self, Curve, Repeated, Within};

/// The four-parameter log-logistic: lower + (upper - lower) / (1 + exp(slope (ln dose - ln ed50))).
///
/// Parameters: slope, lower, upper, ln ed50. At dose 0 the exponential is 0 for a positive slope.
/// With a positive slope the curve falls from `upper` to `lower`. Source: Seefeldt, Jensen and
/// Fuerst 1995, Weed Technology 9, 218-227.
pub(super) struct LogLogistic;

/// Exponents beyond this are 0 or infinity to double precision.
const MOST_EXPONENT: f64 = 700.0;

impl LogLogistic {
    /// exp(slope (ln dose - ln ed50)).
    fn power(p: &[f64], dose: f64) -> f64 {
        if dose <= 0.0 {
            return if p[0] >= 0.0 { 0.0 } else { f64::INFINITY };
        }
        (p[0] * (dose.ln() - p[3]))
            .clamp(-MOST_EXPONENT, MOST_EXPONENT)
            .exp()
    }
}

impl Curve for LogLogistic {
    fn value(&self, p: &[f64], dose: f64) -> f64 {
        p[1] + (p[2] - p[1]) / (1.0 + Self::power(p, dose))
    }

    fn gradient(&self, p: &[f64], dose: f64) -> Vec<f64> {
        let power = Self::power(p, dose);
        let share = 1.0 / (1.0 + power);
        let steep = if dose <= 0.0 || power.is_infinite() {
            0.0
        } else {
            -(p[2] - p[1]) * power * share * share
        };
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

/// Responses by dose: every curve here is fitted to the doses' means, each counted as often as it
/// has units, which is the same curve and much quicker than through every unit.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct ByDose {
    /// In order of dose.
    pub(super) means: Vec<Repeated>,
    /// How the units lie about the mean of their dose, and what blocks have spent.
    pub(super) within: Within,
}

impl ByDose {
    /// # Errors
    /// [`StatsError::NotFinite`]; [`StatsError::OutOfRange`] for a dose below zero.
    pub(super) fn of(points: &[(f64, f64)]) -> Result<Self, StatsError> {
        if points.iter().any(|p| !p.0.is_finite() || !p.1.is_finite()) {
            return Err(StatsError::NotFinite {
                what: "a dose or response",
            });
        }
        if let Some(low) = points.iter().map(|p| p.0).find(|d| *d < 0.0) {
            return Err(StatsError::OutOfRange {
                what: "dose",
                min: 0.0,
                max: f64::INFINITY,
                got: low,
            });
        }
        let mut sorted = points.to_vec();
        sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut squares = 0.0;
        let of_one = |own: &[(f64, f64)]| {
            let times = own.len() as f64;
            let y = own.iter().map(|p| p.1).sum::<f64>() / times;
            squares += own.iter().map(|p| (p.1 - y).powi(2)).sum::<f64>();
            Repeated {
                x: own[0].0,
                y,
                times,
            }
        };
        let means = sorted.chunk_by(|a, b| a.0 == b.0).map(of_one).collect();
        Ok(Self {
            means,
            within: Within {
                squares,
                spent: 0.0,
            },
        })
    }

    /// The units, less one for each degree of freedom that blocks have spent.
    pub(super) fn free(&self) -> f64 {
        self.means.iter().map(|m| m.times).sum::<f64>() - self.within.spent
    }

    /// Degrees of freedom of the units about the mean of their dose.
    pub(super) fn df(&self) -> f64 {
        self.free() - self.means.len() as f64
    }

    /// # Errors
    /// [`StatsError::OutOfRange`] for fewer than `least` different doses.
    fn with(&self, least: usize) -> Result<&Self, StatsError> {
        if self.means.len() < least {
            let (min, got) = (least as f64, self.means.len() as f64);
            return Err(StatsError::OutOfRange {
                what: "different doses",
                min,
                max: f64::INFINITY,
                got,
            });
        }
        Ok(self)
    }

    /// The same responses at doses that are measured otherwise, as by their root.
    pub(super) fn bent(&self, by: impl Fn(f64) -> f64) -> Self {
        let means = self
            .means
            .iter()
            .map(|m| Repeated { x: by(m.x), ..*m })
            .collect();
        Self { means, ..*self }
    }

    pub(super) fn straight(&self) -> Result<Straight, StatsError> {
        Ok(Straight::through(&self.with(2)?.means, self.within))
    }

    pub(super) fn line(&self) -> Result<LinearFit, StatsError> {
        Ok(self.straight()?.with_errors())
    }

    /// From several starting guesses, the best.
    pub(super) fn log_logistic(&self) -> Result<LogLogisticFit, StatsError> {
        let means = &self.with(4)?.means;
        let (first, last) = (means[0].y, means[means.len() - 1].y);
        let positive: Vec<f64> = means.iter().map(|m| m.x).filter(|d| *d > 0.0).collect();
        let mut best: Option<LogLogisticFit> = None;
        let mut failure = StatsError::NoConvergence {
            what: "the log-logistic curve",
            steps: 0,
        };
        for pair in positive.windows(2) {
            let middle = 0.5 * (pair[0].ln() + pair[1].ln());
            for slope in [1.0, 3.0, 8.0] {
                match self.log_logistic_from(&[slope, last, first, middle], 0.0) {
                    Ok(fit) if best.as_ref().is_none_or(|b| fit.rss < b.rss) => best = Some(fit),
                    Ok(_) => {}
                    Err(error) => failure = error,
                }
            }
        }
        best.ok_or(failure)
    }

    /// From one starting guess: slope, lower, upper, ln ed50; as close as `least_squares` has it.
    pub(super) fn log_logistic_from(
        &self,
        guess: &[f64; 4],
        close: f64,
    ) -> Result<LogLogisticFit, StatsError> {
        let fit =
            least_squares::fit_repeated(&LogLogistic, guess, &self.means, self.within, close)?;
        let p = &fit.parameters;
        let ed50 = p[3].exp();
        let (slope, lower, upper) = if p[0] >= 0.0 {
            (p[0], p[1], p[2])
        } else {
            (-p[0], p[2], p[1])
        };
        // The error of a logarithm carries over to the dose in proportion.
        let (se_ed50, residual_sd) = (ed50 * fit.se[3], fit.residual_sd());
        Ok(LogLogisticFit {
            slope,
            lower,
            upper,
            ed50,
            se_ed50,
            residual_sd,
            rss: fit.rss,
        })
    }

    /// Between two neighbouring doses the best joint is where the line through the lower doses
    /// meets the mean of the upper ones, if it lies there; else the least sum stands at a dose
    /// itself. All of these are tried, so no grid is needed.
    pub(super) fn plateau(&self) -> Result<PlateauFit, StatsError> {
        let means = &self.with(3)?.means;
        let mut best: Option<PlateauFit> = None;
        let mut offer = |fit: PlateauFit| {
            if fit.rss.is_finite() && best.is_none_or(|b| fit.rss < b.rss) {
                best = Some(fit);
            }
        };
        for (i, dose) in means.iter().map(|m| m.x).enumerate().skip(1) {
            let at = Straight::through(&self.bent(|d| d.min(dose)).means, self.within);
            let plateau = at.intercept + at.slope * dose;
            offer(PlateauFit {
                intercept: at.intercept,
                slope: at.slope,
                joint: dose,
                plateau,
                rss: at.rss,
            });
            let (below, above) = means.split_at(i + 1);
            let Some(next) = above.first() else { continue };
            let lower = Straight::through(below, self.within);
            let units: f64 = above.iter().map(|m| m.times).sum();
            let plateau = above.iter().map(|m| m.times * m.y).sum::<f64>() / units;
            let joint = (plateau - lower.intercept) / lower.slope;
            if joint > dose && joint < next.x {
                let rss = lower.rss
                    + above
                        .iter()
                        .map(|m| m.times * (m.y - plateau).powi(2))
                        .sum::<f64>();
                offer(PlateauFit {
                    intercept: lower.intercept,
                    slope: lower.slope,
                    joint,
                    plateau,
                    rss,
                });
            }
        }
        best.ok_or(StatsError::NoConvergence {
            what: "the plateau",
            steps: means.len(),
        })
    }

    pub(super) fn parabola(&self) -> Result<QuadraticFit, StatsError> {
        let means = &self.with(3)?.means;
        // Against the line: what the squares have that the doses do not say, and how the response
        // moves with it.
        let squares: Vec<Repeated> = means
            .iter()
            .map(|m| Repeated { y: m.x * m.x, ..*m })
            .collect();
        let (of_squares, of_values) = (
            Straight::through(&squares, Within::default()),
            Straight::through(means, self.within),
        );
        let rest = |l: &Straight, m: &Repeated| m.y - l.intercept - l.slope * m.x;
        let own: f64 = squares
            .iter()
            .map(|m| m.times * rest(&of_squares, m).powi(2))
            .sum();
        let both = squares.iter().zip(means);
        let shared: f64 = both
            .map(|(s, m)| m.times * rest(&of_squares, s) * rest(&of_values, m))
            .sum();
        if !(own > 0.0) {
            return Err(StatsError::NoConvergence {
                what: "the parabola",
                steps: 1,
            });
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
    ByDose::of(points)?.log_logistic()
}

/// Straight line through doses and responses by least squares. `se` and `p` are NaN without degrees
/// of freedom.
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
    ByDose::of(points)?.line()
}

/// A straight line through means, without the errors of it, which are dear and which few ask for.
pub(super) struct Straight {
    pub(super) intercept: f64,
    pub(super) slope: f64,
    /// Sum of squares, with that of the units about the means.
    pub(super) rss: f64,
    /// Spread of the doses, and the degrees of freedom about the line.
    sxx: f64,
    df: f64,
}

impl Straight {
    pub(super) fn through(points: &[Repeated], within: Within) -> Self {
        let n: f64 = points.iter().map(|p| p.times).sum();
        let mean =
            |of: fn(&Repeated) -> f64| points.iter().map(|p| p.times * of(p)).sum::<f64>() / n;
        let (x_mean, y_mean) = (mean(|p| p.x), mean(|p| p.y));
        let sxx: f64 = points
            .iter()
            .map(|p| p.times * (p.x - x_mean).powi(2))
            .sum();
        let slope = points
            .iter()
            .map(|p| p.times * (p.x - x_mean) * (p.y - y_mean))
            .sum::<f64>()
            / sxx;
        let missed: f64 = points
            .iter()
            .map(|p| p.times * (p.y - y_mean - slope * (p.x - x_mean)).powi(2))
            .sum();
        Self {
            intercept: y_mean - slope * x_mean,
            slope,
            rss: missed + within.squares,
            sxx,
            df: n - 2.0 - within.spent,
        }
    }

    fn with_errors(&self) -> LinearFit {
        let df = self.df;
        let se = if df > 0.0 {
            (self.rss / df / self.sxx).sqrt()
        } else {
            f64::NAN
        };
        let p = if se > 0.0 {
            t_two_sided(self.slope / se, df)
        } else {
            f64::NAN
        };
        LinearFit {
            intercept: self.intercept,
            slope: self.slope,
            se,
            p,
            rss: self.rss,
        }
    }
}

/// Line up to a plateau, at the exact least sum of squares over all joints.
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
    ByDose::of(points)?.plateau()
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
    ByDose::of(points)?.parabola()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_plateau_beats_a_fine_grid_of_joints() {
        let doses: [f64; 6] = [0.0, 10.0, 20.0, 30.0, 40.0, 50.0];
        let bumps = [
            0.7, -0.3, 1.1, -0.9, 0.2, -0.6, 0.5, -1.2, 0.1, 0.8, -0.4, 0.3,
        ];
        let points: Vec<(f64, f64)> = (0..12)
            .map(|i| (doses[i % 6], 3.0 + 0.4 * doses[i % 6].min(27.0) + bumps[i]))
            .collect();
        let fit = fit_plateau(&points).unwrap();
        let grid = (1..5000)
            .map(|i| {
                let joint = f64::from(i) * 0.01;
                fit_linear(
                    &points
                        .iter()
                        .map(|p| (p.0.min(joint), p.1))
                        .collect::<Vec<_>>(),
                )
                .map_or(f64::INFINITY, |l| l.rss)
            })
            .fold(f64::INFINITY, f64::min);
        assert!(fit.rss <= grid + 1e-9, "{} {grid}", fit.rss);
        assert!((fit.plateau - fit.intercept - fit.slope * fit.joint).abs() < 1e-9);
    }

    /// Unequal numbers of units a dose: through the means, each by its number, runs the curve that
    /// runs through the units, with the same errors.
    #[test]
    fn the_means_by_their_number_are_as_good_as_the_units() {
        let doses: [f64; 13] = [
            0.0, 1.0, 2.0, 4.0, 4.0, 8.0, 8.0, 8.0, 16.0, 0.0, 2.0, 16.0, 16.0,
        ];
        let value = |i: usize| {
            2.0 + 9.0 / (1.0 + (doses[i] / 3.5).powi(2)) + [0.4, -0.3, 0.1, -0.6, 0.5][i % 5]
        };
        let points: Vec<(f64, f64)> = (0..doses.len()).map(|i| (doses[i], value(i))).collect();
        let by = ByDose::of(&points).unwrap();
        assert_eq!((by.means.len(), by.free()), (6, 13.0));
        let close = |a: f64, b: f64| assert!((a - b).abs() < 1e-7 * (1.0 + b.abs()), "{a} {b}");

        let own = by.log_logistic().unwrap();
        let units = least_squares::fit(&LogLogistic, &own.parameters(), &points).unwrap();
        close(own.rss, units.rss);
        close(own.residual_sd, units.residual_sd());
        close(own.se_ed50, own.ed50 * units.se[3]);

        let each: Vec<Repeated> = points
            .iter()
            .map(|&(x, y)| Repeated { x, y, times: 1.0 })
            .collect();
        let (of_means, of_units) = (
            by.line().unwrap(),
            Straight::through(&each, Within::default()).with_errors(),
        );
        close(of_means.slope, of_units.slope);
        close(of_means.se, of_units.se);
        close(of_means.rss, of_units.rss);

        // A parabola is the least: any step away from it misses the units by more.
        let hump = by.parabola().unwrap();
        let missed = |a: f64, b: f64, c: f64| {
            points
                .iter()
                .map(|p| (p.1 - a - (b + c * p.0) * p.0).powi(2))
                .sum::<f64>()
        };
        close(hump.rss, missed(hump.intercept, hump.slope, hump.curvature));
        for (a, b, c) in [
            (0.1, 0.0, 0.0),
            (0.0, 0.02, 0.0),
            (0.0, 0.0, -0.001),
            (-0.1, 0.01, 0.0),
        ] {
            assert!(missed(hump.intercept + a, hump.slope + b, hump.curvature + c) > hump.rss);
        }
    }

    #[test]
    fn few_doses_and_nonsense() {
        assert!(fit_linear(&[(1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(fit_linear(&[(-1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(fit_log_logistic(&[(0.0, 1.0), (1.0, f64::NAN)]).is_err());
    }
}
