//! Own spread: what past trials of a crop say about how much units of one treatment differ.

use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::chi_square_quantile_upper;
use serde::Serialize;

/// What one finished trial says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TrialSpread {
    /// Spread among units of one treatment, per cent of the mean.
    pub cv_percent: f64,
    /// Degrees of freedom behind it.
    pub df: f64,
}

/// The spread that a new trial is planned with.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spread {
    /// Per cent of the mean.
    pub cv_percent: f64,
    /// Own trials it comes from; 0 for the usual figure.
    pub trials: usize,
    /// Degrees of freedom behind it; 0 for the usual figure.
    pub df: f64,
    /// Lower 80 % limit, per cent of the mean; null for the usual figure.
    pub low_percent: Option<f64>,
    /// Upper 80 % limit.
    pub high_percent: Option<f64>,
}

/// Pools the spread of finished trials by their degrees of freedom; without any it is the usual
/// figure.
///
/// Limits hold 80 of 100 true spreads: (df s² / chi²), as for one pooled variance.
///
/// # Errors
/// [`StatsError`] from the chi-square quantile.
///
/// ```
/// use iron_twin_core::across::spread::{TrialSpread, pool};
/// let own = pool(&[TrialSpread { cv_percent: 6.0, df: 9.0 }, TrialSpread { cv_percent: 10.0, df: 3.0 }], 8.0)?;
/// assert!((own.cv_percent - 52f64.sqrt()).abs() < 1e-12);
/// assert_eq!(pool(&[], 8.0)?.cv_percent, 8.0);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn pool(trials: &[TrialSpread], usual_cv_percent: f64) -> Result<Spread, StatsError> {
    let sound = || {
        trials.iter().filter(|t| {
            t.cv_percent > 0.0 && t.cv_percent.is_finite() && t.df > 0.0 && t.df.is_finite()
        })
    };
    let df: f64 = sound().map(|t| t.df).sum();
    // A single pair of trays says next to nothing about spread.
    if df < LEAST_DF {
        return Ok(Spread {
            cv_percent: usual_cv_percent,
            trials: 0,
            df: 0.0,
            low_percent: None,
            high_percent: None,
        });
    }
    let squares: f64 = sound().map(|t| t.df * t.cv_percent * t.cv_percent).sum();
    let limit = |p: f64| chi_square_quantile_upper(p, df).map(|q| (squares / q).sqrt());
    Ok(Spread {
        cv_percent: (squares / df).sqrt(),
        trials: sound().count(),
        df,
        low_percent: Some(limit(0.1)?),
        high_percent: Some(limit(0.9)?),
    })
}

/// Fewest degrees of freedom from which own trials take the place of the usual figure.
pub const LEAST_DF: f64 = 4.0;

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn limits_are_those_of_a_pooled_variance() {
        // qchisq(c(.9, .1), 12) is 18.5493 and 6.3038 (R 4.2.2).
        let own = pool(
            &[TrialSpread {
                cv_percent: 8.0,
                df: 12.0,
            }],
            20.0,
        )
        .unwrap();
        assert!((own.low_percent.unwrap() - (12.0 * 64.0 / 18.549_348f64).sqrt()).abs() < 1e-5);
        assert!((own.high_percent.unwrap() - (12.0 * 64.0 / 6.303_796f64).sqrt()).abs() < 1e-5);
    }

    #[test]
    fn what_says_nothing_is_left_out() {
        let nothing = [
            TrialSpread {
                cv_percent: f64::NAN,
                df: 9.0,
            },
            TrialSpread {
                cv_percent: 5.0,
                df: 0.0,
            },
            TrialSpread {
                cv_percent: 0.0,
                df: 9.0,
            },
            TrialSpread {
                cv_percent: 5.0,
                df: 3.0,
            },
        ];
        let spread = pool(&nothing, 8.0).unwrap();
        assert_eq!((spread.cv_percent, spread.trials), (8.0, 0));
    }
}
