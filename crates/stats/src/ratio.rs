//! Ratios of two means, with limits.

use crate::StatsError;
use crate::distributions::t_quantile_upper;

/// A mean with its standard error.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Mean {
    /// The mean.
    pub mean: f64,
    /// Its standard error.
    pub se: f64,
}

/// Limits of `top / bottom`, two independent means, at a confidence, with so many degrees of
/// freedom (Fieller 1954, Journal of the Royal Statistical Society B 16, 175). None where the
/// bottom is not sure to lie above nothing: then no ratio has two limits.
///
/// # Errors
/// [`StatsError`] for a confidence or degrees of freedom out of range.
///
/// ```
/// use iron_twin_stats::ratio::{Mean, fieller};
/// // With an exact bottom the limits are those of the top over it: t(0.975; 10) = 2.2281.
/// let (low, high) = fieller(Mean { mean: 30.0, se: 3.0 }, Mean { mean: 60.0, se: 0.0 }, 10.0, 0.95)?.unwrap();
/// assert!((low - (30.0 - 2.228_138_9 * 3.0) / 60.0).abs() < 1e-8 && (high - (30.0 + 2.228_138_9 * 3.0) / 60.0).abs() < 1e-8);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fieller(
    top: Mean,
    bottom: Mean,
    df: f64,
    confidence: f64,
) -> Result<Option<(f64, f64)>, StatsError> {
    let t = t_quantile_upper(0.5 * (1.0 - confidence), df)?;
    let g = (t * bottom.se / bottom.mean).powi(2);
    if !(bottom.mean > 0.0 && g < 1.0) {
        return Ok(None);
    }
    let ratio = top.mean / bottom.mean;
    let (a, b) = (top.se / bottom.mean, bottom.se / bottom.mean);
    let half = t * (a * a * (1.0 - g) + ratio * ratio * b * b).sqrt();
    Ok(Some((
        (ratio - half) / (1.0 - g),
        (ratio + half) / (1.0 - g),
    )))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// The limits are the ratios at which a t test of `top - ratio × bottom` just does not tell:
    /// put back in, they give t itself.
    #[test]
    fn the_limits_are_where_the_test_turns() {
        let (top, bottom, df) = (
            Mean {
                mean: 12.0,
                se: 2.0,
            },
            Mean {
                mean: 40.0,
                se: 5.0,
            },
            8.0,
        );
        let (low, high) = fieller(top, bottom, df, 0.95).unwrap().unwrap();
        let t = t_quantile_upper(0.025, df).unwrap();
        for limit in [low, high] {
            let z = (top.mean - limit * bottom.mean)
                / (top.se.powi(2) + (limit * bottom.se).powi(2)).sqrt();
            assert!((z.abs() - t).abs() < 1e-9, "{limit}: {z}");
        }
        assert!(low < 0.3 && high > 0.3);
    }

    #[test]
    fn a_bottom_that_may_be_nothing_has_no_limits() {
        let top = Mean { mean: 1.0, se: 0.1 };
        assert_eq!(
            fieller(top, Mean { mean: 1.0, se: 0.6 }, 8.0, 0.95).unwrap(),
            None
        );
        assert_eq!(
            fieller(top, Mean { mean: 0.0, se: 0.0 }, 8.0, 0.95).unwrap(),
            None
        );
        assert!(fieller(top, top, 0.0, 0.95).is_err());
    }
}
