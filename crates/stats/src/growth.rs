//! Growth of one unit over time: logistic and Gompertz curves, relative growth rate, area under the
//! track.

use super::StatsError;
use super::distributions::t_quantile_upper;
use super::least_squares::{self, Curve, Stop};

/// Which curve.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Shape {
    /// asymptote / (1 + exp((midpoint - day) / scale)): half of the asymptote at the midpoint.
    Logistic,
    /// asymptote x exp(-exp((midpoint - day) / scale)): 37 % of the asymptote at the midpoint,
    /// where growth is fastest.
    Gompertz,
}

impl Curve for Shape {
    fn value(&self, p: &[f64], x: f64) -> f64 {
        let e = ((p[1] - x) / p[2]).exp();
        match self {
            Self::Logistic => p[0] / (1.0 + e),
            Self::Gompertz => p[0] * (-e).exp(),
        }
    }

    fn gradient(&self, p: &[f64], x: f64) -> Vec<f64> {
        let e = ((p[1] - x) / p[2]).exp().min(1e300);
        // Derivative by the exponent (midpoint - x) / scale.
        let (by_asymptote, by_exponent) = match self {
            Self::Logistic => (1.0 / (1.0 + e), -p[0] * (e / (1.0 + e)) / (1.0 + e)),
            Self::Gompertz => (
                (-e).exp(),
                if e > 700.0 {
                    0.0
                } else {
                    -p[0] * e * (-e).exp()
                },
            ),
        };
        vec![
            by_asymptote,
            by_exponent / p[2],
            -by_exponent * (p[1] - x) / (p[2] * p[2]),
        ]
    }

    fn admits(&self, p: &[f64]) -> bool {
        p.iter().all(|v| v.is_finite()) && p[0] > 0.0 && p[2] > 0.0
    }
}

/// A fitted feature with its limits.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Feature {
    /// The estimate.
    pub value: f64,
    /// Lower limit; NaN without degrees of freedom.
    pub low: f64,
    /// Upper limit; NaN without degrees of freedom.
    pub high: f64,
}

/// A fitted growth curve.
#[derive(Debug, Clone, PartialEq)]
pub struct Growth {
    /// Which curve.
    pub shape: Shape,
    /// Size that growth tends to, in the measure's unit.
    pub asymptote: Feature,
    /// Day of fastest growth.
    pub midpoint: Feature,
    /// Days over which growth runs its course; the steepness is its inverse.
    pub scale: Feature,
    /// Residual standard deviation; NaN without degrees of freedom.
    pub residual_sd: f64,
    /// Steps of the solver.
    pub steps: usize,
    /// How it stopped.
    pub stop: Stop,
    /// Whether the asymptote lies more than twice as high as anything measured: then growth had not
    /// slowed down yet, and the asymptote is a guess.
    pub still_rising: bool,
}

fn check(track: &[(f64, f64)], least: usize) -> Result<(), StatsError> {
    if track.iter().any(|p| !p.0.is_finite() || !p.1.is_finite()) {
        return Err(StatsError::NotFinite {
            what: "a day or size",
        });
    }
    if track.len() < least {
        let (min, got) = (least as f64, track.len() as f64);
        return Err(StatsError::OutOfRange {
            what: "days measured",
            min,
            max: f64::INFINITY,
            got,
        });
    }
    Ok(())
}

/// Starting guesses by straight lines through the transformed track, for asymptotes a little above
/// what was measured up to far above it.
fn guesses(shape: Shape, track: &[(f64, f64)]) -> Vec<[f64; 3]> {
    let largest = track.iter().map(|p| p.1).fold(0.0, f64::max);
    [1.02, 1.1, 1.3, 2.0, 5.0]
        .into_iter()
        .filter_map(|above| {
            let top = above * largest;
            let points: Vec<(f64, f64)> = track
                .iter()
                .filter(|p| p.1 > 0.0)
                .map(|&(x, y)| match shape {
                    Shape::Logistic => (x, (top / y - 1.0).ln()),
                    Shape::Gompertz => (x, (top / y).ln().ln()),
                })
                .filter(|p| p.1.is_finite())
                .collect();
            let n = points.len() as f64;
            let (mx, mz) = (
                points.iter().map(|p| p.0).sum::<f64>() / n,
                points.iter().map(|p| p.1).sum::<f64>() / n,
            );
            let sxx: f64 = points.iter().map(|p| (p.0 - mx).powi(2)).sum();
            let slope = points.iter().map(|p| (p.0 - mx) * (p.1 - mz)).sum::<f64>() / sxx;
            // The line is (midpoint - x) / scale.
            (slope < 0.0).then(|| [top, mx - mz / slope, -1.0 / slope])
        })
        .collect()
}

/// Fits a growth curve to a track of (day, size) by least squares, with t limits.
///
/// # Errors
/// [`StatsError::OutOfRange`] for fewer than four days; [`StatsError::NotFinite`];
/// [`StatsError::NoConvergence`] where nothing grows or no curve settles.
///
/// ```
/// use iron_twin_stats::growth::{fit, Shape};
/// let track: Vec<(f64, f64)> = (0..9).map(|d| (f64::from(d), 80.0 / (1.0 + (4.0 - f64::from(d)).exp()))).collect();
/// assert!((fit(Shape::Logistic, &track, 0.95)?.midpoint.value - 4.0).abs() < 1e-6);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn fit(shape: Shape, track: &[(f64, f64)], confidence: f64) -> Result<Growth, StatsError> {
    check(track, 4)?;
    let mut best: Option<least_squares::CurveFit> = None;
    let mut failure = StatsError::NoConvergence {
        what: "the growth curve",
        steps: 0,
    };
    for guess in guesses(shape, track) {
        match least_squares::fit(&shape, &guess, track) {
            Ok(fit) if best.as_ref().is_none_or(|b| fit.rss < b.rss) => best = Some(fit),
            Ok(_) => {}
            Err(error) => failure = error,
        }
    }
    let fit = best.ok_or(failure)?;
    let critical = if fit.df > 0.0 {
        t_quantile_upper(0.5 * (1.0 - confidence), fit.df)?
    } else {
        f64::NAN
    };
    let feature = |i: usize| {
        let (value, reach) = (fit.parameters[i], critical * fit.se[i]);
        Feature {
            value,
            low: value - reach,
            high: value + reach,
        }
    };
    let largest = track.iter().map(|p| p.1).fold(0.0, f64::max);
    Ok(Growth {
        shape,
        asymptote: feature(0),
        midpoint: feature(1),
        scale: feature(2),
        residual_sd: fit.residual_sd(),
        steps: fit.steps,
        stop: fit.stop,
        still_rising: fit.parameters[0] > 2.0 * largest,
    })
}

/// Relative growth rate per day: the slope of the logarithm of size by day, all days counted.
/// Source: Hunt 1982, Plant Growth Curves; with two days it is the classic difference of logarithms
/// over time.
///
/// # Errors
/// [`StatsError::OutOfRange`] for fewer than two different days or a size not above zero;
/// [`StatsError::NotFinite`].
///
/// ```
/// let rate = iron_twin_stats::growth::relative_growth_rate(&[(0.0, 2.0), (4.0, 2.0 * 2f64.exp())])?;
/// assert!((rate - 0.5).abs() < 1e-12);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn relative_growth_rate(track: &[(f64, f64)]) -> Result<f64, StatsError> {
    check(track, 2)?;
    let range = |what, got| StatsError::OutOfRange {
        what,
        min: 0.0,
        max: f64::INFINITY,
        got,
    };
    if let Some(p) = track.iter().find(|p| !(p.1 > 0.0)) {
        return Err(range("size", p.1));
    }
    let n = track.len() as f64;
    let (mx, mz) = (
        track.iter().map(|p| p.0).sum::<f64>() / n,
        track.iter().map(|p| p.1.ln()).sum::<f64>() / n,
    );
    let sxx: f64 = track.iter().map(|p| (p.0 - mx).powi(2)).sum();
    if !(sxx > 0.0) {
        return Err(range("days between first and last", 0.0));
    }
    Ok(track
        .iter()
        .map(|p| (p.0 - mx) * (p.1.ln() - mz))
        .sum::<f64>()
        / sxx)
}

/// Area under the track by trapezia, in the measure's unit times days: how much there was, and for
/// how long.
///
/// # Errors
/// [`StatsError::OutOfRange`] for fewer than two days; [`StatsError::NotFinite`].
///
/// ```
/// use iron_twin_stats::growth::area_under;
/// // Days may come in any order.
/// assert_eq!(area_under(&[(4.0, 6.0), (0.0, 2.0)])?, 16.0);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn area_under(track: &[(f64, f64)]) -> Result<f64, StatsError> {
    check(track, 2)?;
    let mut sorted = track.to_vec();
    sorted.sort_by(|a, b| a.0.total_cmp(&b.0));
    Ok(sorted
        .windows(2)
        .map(|w| 0.5 * (w[0].1 + w[1].1) * (w[1].0 - w[0].0))
        .sum())
}

#[cfg(test)]
mod tests {
    use super::*;

    const TREE: [(f64, f64); 7] = [
        (118.0, 30.0),
        (484.0, 51.0),
        (664.0, 75.0),
        (1004.0, 108.0),
        (1231.0, 115.0),
        (1372.0, 139.0),
        (1582.0, 140.0),
    ];
    const CHICK: [(f64, f64); 12] = [
        (0.0, 42.0),
        (2.0, 51.0),
        (4.0, 59.0),
        (6.0, 64.0),
        (8.0, 76.0),
        (10.0, 93.0),
        (12.0, 106.0),
        (14.0, 125.0),
        (16.0, 149.0),
        (18.0, 171.0),
        (20.0, 199.0),
        (21.0, 205.0),
    ];

    #[test]
    fn agrees_with_r() {
        // Shared growth-curves.json: R 4.2.2 nls with SSlogis on datasets Orange (tree 3) and
        // ChickWeight (chick 1).
        let near = |got: f64, want: f64| assert!((got - want).abs() < 1e-4 * want, "{got} {want}");
        let tree = fit(Shape::Logistic, &TREE, 0.95).unwrap();
        near(tree.asymptote.value, 158.829_455_697_003);
        near(tree.midpoint.value, 734.842_204_547_371);
        near(tree.scale.value, 400.954_928_770_833);
        near(tree.residual_sd, 6.258_410_428_251_86);
        assert!(!tree.still_rising && tree.asymptote.low < 158.8 && tree.asymptote.high > 158.8);
        let chick = fit(Shape::Logistic, &CHICK, 0.95).unwrap();
        near(chick.asymptote.value, 937.020_595_575_262);
        near(chick.midpoint.value, 35.222_794_891_395);
        near(chick.scale.value, 11.405_191_762_955);
        assert!(
            chick.still_rising,
            "the asymptote lies four times above the heaviest day"
        );
    }

    #[test]
    fn a_gompertz_track_is_found_and_told_from_a_logistic_one() {
        let track: Vec<(f64, f64)> = (0..12)
            .map(|d| {
                (
                    f64::from(d),
                    90.0 * (-((5.0 - f64::from(d)) / 2.5).exp()).exp(),
                )
            })
            .collect();
        let own = fit(Shape::Gompertz, &track, 0.95).unwrap();
        assert!((own.asymptote.value - 90.0).abs() < 1e-5 && (own.scale.value - 2.5).abs() < 1e-6);
        assert!(fit(Shape::Logistic, &track, 0.95).unwrap().residual_sd > 0.5);
    }

    #[test]
    fn flat_falling_short_and_broken_tracks() {
        let flat: Vec<(f64, f64)> = (0..6).map(|d| (f64::from(d), 5.0)).collect();
        assert!(fit(Shape::Logistic, &flat, 0.95).is_err());
        assert!(fit(Shape::Logistic, &TREE[..3], 0.95).is_err());
        assert!(fit(Shape::Gompertz, &[(0.0, f64::NAN); 5], 0.95).is_err());
        assert!(relative_growth_rate(&[(1.0, 2.0), (1.0, 3.0)]).is_err());
        assert!(relative_growth_rate(&[(1.0, 0.0), (2.0, 3.0)]).is_err());
        assert_eq!(area_under(&[(2.0, 3.0), (0.0, 1.0)]).unwrap(), 4.0);
        assert!(area_under(&[(0.0, 1.0)]).is_err());
    }
}
