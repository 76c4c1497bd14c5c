//! Two treatments whose spreads differ: Welch's t.

use super::StatsError;
use super::distributions::{t_quantile_upper, t_two_sided};

/// Welch's comparison of two means.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Welch {
    /// First mean minus second.
    pub estimate: f64,
    /// Its standard error.
    pub se: f64,
    /// Satterthwaite degrees of freedom, fractional.
    pub df: f64,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// Two-sided p.
    pub p: f64,
}

/// Mean and sample variance.
///
/// ```
/// use iron_twin_stats::welch::mean_and_variance;
/// assert_eq!(mean_and_variance(&[1.0, 3.0]), (2.0, 2.0));
/// ```
#[must_use]
pub fn mean_and_variance(values: &[f64]) -> (f64, f64) {
    let n = values.len() as f64;
    let mean = values.iter().sum::<f64>() / n;
    (
        mean,
        values.iter().map(|v| (v - mean) * (v - mean)).sum::<f64>() / (n - 1.0),
    )
}

/// Compares two groups without assuming equal spread. None with fewer than two values on a side, or
/// no variation.
///
/// # Errors
/// [`StatsError`] from the t quantile for a confidence outside (0, 1).
///
/// ```
/// use iron_twin_stats::welch::welch;
/// // R 4.2.2: t.test(c(4, 8, 6), c(1, 3, 2))$parameter
/// let w = welch(&[4.0, 8.0, 6.0], &[1.0, 3.0, 2.0], 0.95)?.unwrap();
/// assert!((w.estimate - 4.0).abs() < 1e-12 && (w.df - 2.941_176_470_6).abs() < 1e-9);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn welch(first: &[f64], second: &[f64], confidence: f64) -> Result<Option<Welch>, StatsError> {
    if first.len() < 2 || second.len() < 2 {
        return Ok(None);
    }
    let ((mean_a, var_a), (mean_b, var_b)) = (mean_and_variance(first), mean_and_variance(second));
    let (a, b) = (var_a / first.len() as f64, var_b / second.len() as f64);
    if !(a + b > 0.0) {
        return Ok(None);
    }
    let df = (a + b) * (a + b)
        / (a * a / (first.len() as f64 - 1.0) + b * b / (second.len() as f64 - 1.0));
    let (estimate, se) = (mean_a - mean_b, (a + b).sqrt());
    let reach = se * t_quantile_upper(0.5 * (1.0 - confidence), df)?;
    Ok(Some(Welch {
        estimate,
        se,
        df,
        low: estimate - reach,
        high: estimate + reach,
        p: t_two_sided(estimate / se, df),
    }))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_against_two_far_agrees_with_r() {
        // R 4.2.2 t.test, shared reference two-against-two-far.
        let w = welch(&[401.0, 384.0], &[312.0, 321.0], 0.95)
            .unwrap()
            .unwrap();
        assert!((w.df - 1.519_726_471_437_13).abs() < 1e-9);
        assert!((w.low - 19.173_913_265_605_4).abs() < 1e-5);
        assert!((w.p - 0.032_469_936_237_152_9).abs() < 1e-8);
    }

    #[test]
    fn too_little_to_compare() {
        assert!(welch(&[1.0], &[1.0, 2.0], 0.95).unwrap().is_none());
        assert!(welch(&[2.0, 2.0], &[2.0, 2.0], 0.95).unwrap().is_none());
        assert!(welch(&[1.0, 2.0], &[3.0, 5.0], 1.5).is_err());
    }
}
