//! Tails and quantiles of the t, F and normal distributions.
//!
//! Tails come straight from the incomplete beta function, never as one minus the other tail: at t =
//! 30 with 20 degrees of freedom that difference is zero where the truth is about 1e-18.

use super::StatsError;
use statrs::function::erf::erfc_inv;
use statrs::function::gamma::{gamma_ur, ln_gamma};

/// Upper tail of the standard normal distribution, P(Z > z).
///
/// The complementary error function is libm's: that of statrs is off by 5e-11 of its value.
///
/// ```
/// use iron_twin_stats::distributions::normal_upper;
/// assert!((normal_upper(1.959963984540054) - 0.025).abs() < 1e-12);
/// ```
#[must_use]
pub fn normal_upper(z: f64) -> f64 {
    0.5 * libm::erfc(z * std::f64::consts::FRAC_1_SQRT_2)
}

/// The z that leaves `upper` above it.
///
/// ```
/// use iron_twin_stats::distributions::normal_quantile_upper;
/// assert!((normal_quantile_upper(0.025) - 1.959_963_984_540).abs() < 1e-11);
/// ```
#[must_use]
pub fn normal_quantile_upper(upper: f64) -> f64 {
    std::f64::consts::SQRT_2 * erfc_inv(2.0 * upper)
}

/// Density of the standard normal distribution.
///
/// ```
/// use iron_twin_stats::distributions::normal_density;
/// assert!((normal_density(0.0) - 0.398_942_280_401).abs() < 1e-12);
/// ```
#[must_use]
pub fn normal_density(z: f64) -> f64 {
    (-0.5 * z * z).exp() / (2.0 * std::f64::consts::PI).sqrt()
}

/// Natural logarithm of the gamma function for a positive argument.
///
/// ```
/// use iron_twin_stats::distributions::log_gamma;
/// assert!((log_gamma(5.0) - 24f64.ln()).abs() < 1e-12);
/// ```
#[must_use]
pub fn log_gamma(x: f64) -> f64 {
    ln_gamma(x)
}

/// Regularised incomplete beta function I_x(a, b) by the continued fraction of Lentz.
///
/// Own code because the crate's stops after 140 steps without saying so, which is too few from
/// about 10,000 degrees of freedom on. `complement` is 1 - x, given apart so that neither end loses
/// digits. Source: NIST Digital Library of Mathematical Functions, 8.17.22.
pub(crate) fn incomplete_beta(a: f64, b: f64, x: f64, complement: f64) -> f64 {
    if x <= 0.0 {
        return 0.0;
    }
    if complement <= 0.0 {
        return 1.0;
    }
    if x > (a + 1.0) / (a + b + 2.0) {
        return 1.0 - incomplete_beta(b, a, complement, x);
    }
    let front =
        (ln_gamma(a + b) - ln_gamma(a) - ln_gamma(b) + a * x.ln() + b * complement.ln()).exp() / a;
    front / beta_fraction(a, b, x)
}

fn beta_fraction(a: f64, b: f64, x: f64) -> f64 {
    const TINY: f64 = 1e-300;
    // The fraction needs about sqrt(max(a, b)) steps; this covers 1e10 degrees of freedom.
    const STEPS: usize = 200_000;
    let guard = |v: f64| if v.abs() < TINY { TINY } else { v };
    let (mut c, mut d) = (1.0, 0.0);
    let mut value = 1.0;
    for step in 1..STEPS {
        let m = (step / 2) as f64;
        let term = if step % 2 == 0 {
            m * (b - m) * x / ((a + 2.0 * m - 1.0) * (a + 2.0 * m))
        } else {
            -(a + m) * (a + b + m) * x / ((a + 2.0 * m) * (a + 2.0 * m + 1.0))
        };
        d = 1.0 / guard(1.0 + term * d);
        c = guard(1.0 + term / c);
        let change = c * d;
        value *= change;
        if (change - 1.0).abs() < 1e-15 {
            break;
        }
    }
    value
}

/// Upper tail of Student's t, P(T > t), for any positive, also fractional, degrees of freedom.
///
/// ```
/// use iron_twin_stats::distributions::t_upper;
/// assert!((t_upper(2.228138852, 10.0) - 0.025).abs() < 1e-9);
/// ```
#[must_use]
pub fn t_upper(t: f64, df: f64) -> f64 {
    if t < 0.0 {
        return 1.0 - t_upper(-t, df);
    }
    if t.is_infinite() {
        return 0.0;
    }
    let square = t * t;
    0.5 * incomplete_beta(0.5 * df, 0.5, df / (df + square), square / (df + square))
}

/// Two-sided p of a t statistic.
///
/// ```
/// // R 4.2.2: 2 * pt(-2.228139, 10)
/// use iron_twin_stats::distributions::t_two_sided;
/// assert!((t_two_sided(2.228_138_852, 10.0) - 0.05).abs() < 1e-9);
/// ```
#[must_use]
pub fn t_two_sided(t: f64, df: f64) -> f64 {
    (2.0 * t_upper(t.abs(), df)).min(1.0)
}

/// Upper tail of F, P(F > f).
///
/// ```
/// // The square of a t is an F.
/// use iron_twin_stats::distributions::{f_upper, t_two_sided};
/// assert!((f_upper(4.0, 1.0, 7.0) - t_two_sided(2.0, 7.0)).abs() < 1e-12);
/// ```
#[must_use]
pub fn f_upper(f: f64, df_between: f64, df_within: f64) -> f64 {
    if f <= 0.0 {
        return 1.0;
    }
    let scaled = df_between * f;
    incomplete_beta(
        0.5 * df_within,
        0.5 * df_between,
        df_within / (df_within + scaled),
        scaled / (df_within + scaled),
    )
}

/// Upper tail of chi-square, P(X > x).
///
/// ```
/// use iron_twin_stats::distributions::chi_square_upper;
/// assert!((chi_square_upper(3.841458820694124, 1.0) - 0.05).abs() < 1e-12);
/// ```
#[must_use]
pub fn chi_square_upper(x: f64, df: f64) -> f64 {
    if x <= 0.0 {
        return 1.0;
    }
    if df == 1.0 {
        return 2.0 * normal_upper(x.sqrt());
    }
    gamma_ur(0.5 * df, 0.5 * x)
}

/// The chi-square value that leaves `upper` above it, for 0 < upper < 1.
///
/// # Errors
/// [`StatsError::OutOfRange`] for a tail outside (0, 1) or df not above zero;
/// [`StatsError::NoConvergence`].
///
/// ```
/// // Any table of chi-square: 12 degrees of freedom, 10 %.
/// use iron_twin_stats::distributions::chi_square_quantile_upper;
/// assert!((chi_square_quantile_upper(0.1, 12.0)? - 18.549_348).abs() < 1e-5);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn chi_square_quantile_upper(upper: f64, df: f64) -> Result<f64, StatsError> {
    if !(upper > 0.0 && upper < 1.0) {
        return Err(StatsError::OutOfRange {
            what: "tail",
            min: 0.0,
            max: 1.0,
            got: upper,
        });
    }
    if !(df > 0.0 && df.is_finite()) {
        return Err(StatsError::OutOfRange {
            what: "degrees of freedom",
            min: 0.0,
            max: f64::INFINITY,
            got: df,
        });
    }
    decreasing_root("chi-square quantile", df, |x| {
        chi_square_upper(x, df).ln() - upper.ln()
    })
}

/// The t that leaves `upper` above it, for 0 < upper < 0.5.
///
/// # Errors
/// [`StatsError::OutOfRange`] for a tail outside (0, 0.5) or df not above zero;
/// [`StatsError::NoConvergence`].
///
/// ```
/// // Any table of Student's t: 5 degrees of freedom, 2.5 %.
/// use iron_twin_stats::distributions::t_quantile_upper;
/// assert!((t_quantile_upper(0.025, 5.0)? - 2.570_581_836).abs() < 1e-8);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn t_quantile_upper(upper: f64, df: f64) -> Result<f64, StatsError> {
    if !(upper > 0.0 && upper < 0.5) {
        return Err(StatsError::OutOfRange {
            what: "tail",
            min: 0.0,
            max: 0.5,
            got: upper,
        });
    }
    if !(df > 0.0 && df.is_finite()) {
        return Err(StatsError::OutOfRange {
            what: "degrees of freedom",
            min: 0.0,
            max: f64::INFINITY,
            got: df,
        });
    }
    decreasing_root("t quantile", normal_quantile_upper(upper).max(1e-8), |t| {
        t_upper(t, df).ln() - upper.ln()
    })
}

/// Root of a function that falls as its positive argument grows: brackets by doubling, then bisects
/// in the logarithm and finishes with regula falsi (Illinois), to full double precision or an
/// error.
pub(crate) fn decreasing_root(
    what: &'static str,
    start: f64,
    mut height: impl FnMut(f64) -> f64,
) -> Result<f64, StatsError> {
    const STEPS: usize = 200;
    let (mut low, mut high) = (start, start);
    let (mut at_low, mut at_high) = (height(low), f64::NAN);
    let mut steps = 0;
    while at_low < 0.0 {
        (high, at_high) = (low, at_low);
        low *= 0.5;
        at_low = height(low);
        steps += 1;
        if steps > STEPS {
            return Err(StatsError::NoConvergence { what, steps });
        }
    }
    while at_high.is_nan() || at_high > 0.0 {
        high *= 2.0;
        at_high = height(high);
        steps += 1;
        if steps > 2 * STEPS || high > 1e200 {
            return Err(StatsError::NoConvergence { what, steps });
        }
        if at_high > 0.0 {
            (low, at_low) = (high, at_high);
        }
    }
    narrow(what, (low, at_low), (high, at_high), height)
}

/// Root of a falling function known to lie between `low` and `high`; falls back on bracketing where
/// it does not.
pub(crate) fn root_between(
    what: &'static str,
    low: f64,
    high: f64,
    mut height: impl FnMut(f64) -> f64,
) -> Result<f64, StatsError> {
    let (at_low, at_high) = (height(low), height(high));
    if at_low >= 0.0 && at_high <= 0.0 {
        narrow(what, (low, at_low), (high, at_high), height)
    } else {
        decreasing_root(what, high, height)
    }
}

/// Regula falsi after Illinois: halving the height of an end that stays keeps both ends moving.
fn narrow(
    what: &'static str,
    (mut low, mut at_low): (f64, f64),
    (mut high, mut at_high): (f64, f64),
    mut height: impl FnMut(f64) -> f64,
) -> Result<f64, StatsError> {
    const STEPS: usize = 200;
    let mut kept = 0i8;
    for _ in 0..STEPS {
        if (high - low) <= 1e-14 * high || at_low == 0.0 {
            return Ok(if at_low == 0.0 {
                low
            } else {
                0.5 * (low + high)
            });
        }
        let secant = if at_high.is_finite() && at_low.is_finite() {
            (low * at_high - high * at_low) / (at_high - at_low)
        } else {
            (low * high).sqrt()
        };
        let next = if secant > low && secant < high {
            secant
        } else {
            0.5 * (low + high)
        };
        let at_next = height(next);
        if at_next.abs() < 1e-13 {
            return Ok(next);
        }
        if at_next > 0.0 {
            (low, at_low) = (next, at_next);
            if kept == 1 {
                at_high *= 0.5;
            }
            kept = 1;
        } else {
            (high, at_high) = (next, at_next);
            if kept == -1 {
                at_low *= 0.5;
            }
            kept = -1;
        }
    }
    Err(StatsError::NoConvergence { what, steps: STEPS })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn close(got: f64, want: f64, relative: f64) {
        assert!(
            (got - want).abs() <= relative * want.abs(),
            "got {got}, wanted {want}"
        );
    }

    #[test]
    fn tails_hold_far_out() {
        // R 4.2.2: pt(30, 20, lower=FALSE), pf(500, 3, 15, lower=FALSE), pnorm(9, lower=FALSE)
        close(t_upper(30.0, 20.0), t_upper_by_series(30.0, 20.0), 1e-6);
        close(normal_upper(9.0), 1.128_588_405_953_840_6e-19, 1e-10);
        assert!(t_upper(30.0, 20.0) > 0.0);
    }

    /// A naive twin: Simpson's rule on the density, out to where nothing is left.
    fn t_upper_by_series(t: f64, df: f64) -> f64 {
        let constant = (log_gamma(0.5 * (df + 1.0)) - log_gamma(0.5 * df)).exp()
            / (df * std::f64::consts::PI).sqrt();
        let density = |x: f64| constant * (1.0 + x * x / df).powf(-0.5 * (df + 1.0));
        // Substitute x = exp(u), so that the far tail is reached in few steps.
        let (from, to, steps) = (t.ln(), t.ln() + 40.0, 20_000);
        let h = (to - from) / f64::from(steps);
        (0..=steps)
            .map(|i| {
                let x = (from + h * f64::from(i)).exp();
                let weight = if i == 0 || i == steps {
                    1.0
                } else if i % 2 == 1 {
                    4.0
                } else {
                    2.0
                };
                weight * density(x) * x
            })
            .sum::<f64>()
            * h
            / 3.0
    }

    #[test]
    fn t_agrees_with_the_naive_twin_and_inverts() {
        for df in [1.0, 1.9, 4.0, 37.0, 1000.0] {
            for t in [0.4, 1.0, 2.5, 7.0] {
                close(t_upper(t, df), t_upper_by_series(t, df), 1e-5);
                close(t_quantile_upper(t_upper(t, df), df).unwrap(), t, 1e-9);
            }
        }
    }

    #[test]
    fn many_degrees_of_freedom_reach_the_normal() {
        close(t_upper(1.96, 5e7), normal_upper(1.96), 1e-6);
        close(t_two_sided(-2.0, 1e6), 2.0 * normal_upper(2.0), 1e-5);
    }

    #[test]
    fn f_with_one_numerator_df_is_t_squared() {
        close(f_upper(6.25, 1.0, 11.0), t_two_sided(2.5, 11.0), 1e-12);
        assert_eq!(f_upper(0.0, 3.0, 9.0), 1.0);
    }

    #[test]
    fn quantiles_refuse_what_makes_no_sense() {
        for (tail, df) in [
            (0.0, 5.0),
            (0.7, 5.0),
            (f64::NAN, 5.0),
            (0.1, 0.0),
            (0.1, f64::NAN),
        ] {
            assert!(t_quantile_upper(tail, df).is_err(), "{tail} {df}");
        }
    }
}
