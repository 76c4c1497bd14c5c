//! Whether treatments scatter alike, and whether one unit stands far from the rest.

use super::distributions::{f_upper, t_two_sided};

/// Brown and Forsythe's test that groups scatter alike: F on distances from the group's median.
///
/// Returns the p, or None with fewer than two groups of two, or where no group scatters at all.
/// Source: Brown and Forsythe 1974.
///
/// ```
/// use iron_twin_stats::spread::brown_forsythe_p;
/// let (even, wild) = (vec![9.0, 10.0, 11.0, 10.0], vec![2.0, 10.0, 18.0, 11.0]);
/// assert!(brown_forsythe_p(&[even, wild]).unwrap() < 0.2);
/// ```
#[must_use]
pub fn brown_forsythe_p(groups: &[Vec<f64>]) -> Option<f64> {
    let distances: Vec<Vec<f64>> = groups
        .iter()
        .map(|group| {
            let middle = median(group);
            group.iter().map(|v| (v - middle).abs()).collect()
        })
        .collect();
    let total: usize = distances.iter().map(Vec::len).sum();
    if distances.len() < 2 || distances.iter().any(|g| g.len() < 2) {
        return None;
    }
    let grand = distances.iter().flatten().sum::<f64>() / total as f64;
    let (mut between, mut within) = (0.0, 0.0);
    for group in &distances {
        let mean = group.iter().sum::<f64>() / group.len() as f64;
        between += group.len() as f64 * (mean - grand) * (mean - grand);
        within += group.iter().map(|d| (d - mean) * (d - mean)).sum::<f64>();
    }
    let (df_between, df_within) = (
        (distances.len() - 1) as f64,
        (total - distances.len()) as f64,
    );
    if !(within > 0.0) {
        return (between > 0.0).then_some(0.0);
    }
    Some(f_upper(
        (between / df_between) / (within / df_within),
        df_between,
        df_within,
    ))
}

/// The middle value; NaN of nothing.
///
/// ```
/// use iron_twin_stats::spread::median;
/// assert_eq!(median(&[4.0, 1.0, 3.0, 2.0]), 2.5);
/// ```
#[must_use]
pub fn median(values: &[f64]) -> f64 {
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    match sorted.len() {
        0 => f64::NAN,
        n if n % 2 == 1 => sorted[n / 2],
        n => 0.5 * (sorted[n / 2 - 1] + sorted[n / 2]),
    }
}

/// A unit that stands far from what the rest leads to expect.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Outlier {
    /// Index of the row.
    pub row: usize,
    /// Externally studentised residual.
    pub t: f64,
    /// Its p after Bonferroni over all rows.
    pub p: f64,
}

/// The farthest row by externally studentised residual. None without the degrees of freedom to say.
///
/// ```
/// use iron_twin_stats::spread::farthest;
/// // Nine units near their mean and one far off, each with a tenth of the leverage.
/// let residuals = [0.1, -0.2, 0.15, -0.1, 0.05, -0.15, 0.1, -0.05, 0.1, 5.0];
/// let far = farthest(&residuals, &[0.1; 10], 9.0).unwrap();
/// assert!(far.row == 9 && far.p < 1e-6);
/// ```
#[must_use]
pub fn farthest(residuals: &[f64], leverages: &[f64], df: f64) -> Option<Outlier> {
    if df < 2.0 {
        return None;
    }
    let sum: f64 = residuals.iter().map(|r| r * r).sum();
    let studentised = |i: usize| {
        let rest = 1.0 - leverages[i];
        let own = residuals[i] * residuals[i] / rest;
        let without = (sum - own) / (df - 1.0);
        // A row that the model reproduces by itself (leverage one) says nothing about its own
        // distance.
        if rest < 1e-9 {
            0.0
        } else {
            residuals[i] / (without.max(0.0) * rest).sqrt()
        }
    };
    let (row, t) = (0..residuals.len())
        .map(|i| (i, studentised(i)))
        .filter(|(_, t)| !t.is_nan())
        .max_by(|a, b| a.1.abs().total_cmp(&b.1.abs()))?;
    let p = (t_two_sided(t, df - 1.0) * residuals.len() as f64).min(1.0);
    Some(Outlier { row, t, p })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn unlike_scatter_is_seen_and_like_scatter_is_not() {
        let tight = vec![10.0, 10.1, 9.9, 10.05, 9.95, 10.02];
        let wide = vec![4.0, 16.0, 9.0, 12.0, 2.0, 18.0];
        assert!(brown_forsythe_p(&[tight.clone(), wide]).unwrap() < 0.01);
        assert!(
            brown_forsythe_p(&[tight.clone(), tight.iter().map(|v| v + 3.0).collect()]).unwrap()
                > 0.9
        );
        assert!(brown_forsythe_p(&[tight, vec![1.0]]).is_none());
    }

    #[test]
    fn one_far_unit_is_named() {
        let residuals = [0.1, -0.2, 0.15, -0.05, 9.0, -0.1, 0.05, -0.15];
        let found = farthest(&residuals, &[0.25; 8], 6.0).unwrap();
        assert_eq!(found.row, 4);
        assert!(found.p < 0.001);
        assert!(farthest(&residuals, &[0.25; 8], 1.0).is_none());
    }

    #[test]
    fn medians() {
        assert_eq!(median(&[3.0, 1.0, 2.0]), 2.0);
        assert_eq!(median(&[4.0, 1.0]), 2.5);
        assert!(median(&[]).is_nan());
    }
}
