//! All pairs of treatments: the studentised range.

use super::StatsError;
use super::distributions::{decreasing_root, normal_density, normal_upper};
use super::studentised::{SpreadNode, spread_nodes};

/// P(range of `count` equal treatments / spread > q): the upper tail of the studentised range.
///
/// Source: Tukey 1953; the integral as in R's ptukey, by the trapezium rule. `count` at least 2,
/// `df` above zero.
///
/// ```
/// use iron_twin_stats::tukey::range_upper;
/// assert!((range_upper(3.5, 3, 10.0) - (1.0 - 0.92289668916134)).abs() < 1e-9);
/// ```
#[must_use]
pub fn range_upper(q: f64, count: usize, df: f64) -> f64 {
    let nodes = spread_nodes(df);
    range_upper_over(&nodes, q, count)
}

fn range_upper_over(nodes: &[SpreadNode], q: f64, count: usize) -> f64 {
    nodes
        .iter()
        .map(|node| node.weight * normal_range_upper(q * node.s, count))
        .sum::<f64>()
        .clamp(0.0, 1.0)
}

/// Upper tail of the range of `count` standard normals.
fn normal_range_upper(width: f64, count: usize) -> f64 {
    if width <= 0.0 {
        return 1.0;
    }
    let h = 0.15;
    let k = count as f64;
    // 1 = k * integral of phi(z) Phi(z)^(k-1), z being the largest; what lies outside is the
    // difference inside.
    (-60..=60)
        .map(|i| {
            let z = f64::from(i) * h;
            let below = 1.0 - normal_upper(z);
            let far_below = normal_upper(width - z);
            let outside = below.powf(k - 1.0) - (below - far_below).max(0.0).powf(k - 1.0);
            h * normal_density(z) * k * outside
        })
        .sum::<f64>()
        .clamp(0.0, 1.0)
}

/// The |t| of a pair that all pairs together stay within with the given confidence: q / sqrt(2).
///
/// # Errors
/// [`StatsError::OutOfRange`] for a confidence outside (0, 1) or df not above zero;
/// [`StatsError::NoConvergence`].
///
/// ```
/// use iron_twin_stats::{distributions::t_quantile_upper, tukey::critical_t};
/// // One pair is Student's t.
/// assert!((critical_t(0.95, 2, 9.0)? - t_quantile_upper(0.025, 9.0)?).abs() < 1e-8);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn critical_t(confidence: f64, count: usize, df: f64) -> Result<f64, StatsError> {
    if !(confidence > 0.0 && confidence < 1.0) {
        return Err(StatsError::OutOfRange {
            what: "confidence",
            min: 0.0,
            max: 1.0,
            got: confidence,
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
    let nodes = spread_nodes(df);
    let outside = (1.0 - confidence).ln();
    let q = decreasing_root("Tukey critical value", 3.0, |q| {
        range_upper_over(&nodes, q, count.max(2)).max(1e-300).ln() - outside
    })?;
    Ok(q * std::f64::consts::FRAC_1_SQRT_2)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn agrees_with_r() {
        // R 4.2.2 ptukey, from the shared power-and-quantiles.json.
        for (q, count, df, inside) in [
            (3.5, 3, 10.0, 0.922_896_689_161_34),
            (4.2, 5, 20.0, 0.947_646_423_321_794),
        ] {
            assert!((range_upper(q, count, df) - (1.0 - inside)).abs() < 1e-8);
        }
    }

    #[test]
    fn two_treatments_are_a_t_test() {
        let t = critical_t(0.95, 2, 8.0).unwrap();
        assert!((t - 2.306_004_135_204_166).abs() < 1e-8, "{t}");
    }
}
