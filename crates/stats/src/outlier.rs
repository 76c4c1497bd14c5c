//! One value unlike the others: externally studentised residuals of groups, allowed for the number
//! of values looked at.
//!
//! Cook and Weisberg (1982), Residuals and Influence in Regression: each value is held against its
//! group without it, and the p of the largest is multiplied by the number of values (Bonferroni).
//! With one group it is Grubbs' test.

use super::distributions::t_two_sided;

/// How far a value lies from the others of its group.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Apart {
    /// The value less the mean of the others of its group.
    pub by: f64,
    /// That in standard errors, with the spread of all values but this one.
    pub t: f64,
    /// Two-sided p, times the number of values that have others to be held against; at most 1.
    pub p: f64,
}

/// Holds every value against the others of its group; spreads are taken as alike in all groups.
/// None for one that is alone in its group, and for all where fewer than two degrees of freedom are
/// left.
///
/// ```
/// use iron_twin_stats::outlier::apart;
/// let all = [20.1, 19.8, 20.3, 20.0, 24.6, 19.9, 20.2];
/// let told = apart(&all, &[0; 7]);
/// assert!(told[4].unwrap().p < 0.001 && told[0].unwrap().p == 1.0);
/// ```
#[must_use]
pub fn apart(values: &[f64], groups: &[usize]) -> Vec<Option<Apart>> {
    debug_assert_eq!(values.len(), groups.len());
    let number = groups.iter().max().map_or(0, |g| g + 1);
    let (mut counts, mut sums) = (vec![0.0; number], vec![0.0; number]);
    for (value, &group) in values.iter().zip(groups) {
        counts[group] += 1.0;
        sums[group] += value;
    }
    let filled = counts.iter().filter(|&&n| n > 0.0).count();
    let df = values.len() as f64 - filled as f64 - 1.0;
    let held = groups.iter().filter(|&&g| counts[g] > 1.0).count() as f64;
    let mean = |g: usize| sums[g] / counts[g];
    let squares: f64 = values
        .iter()
        .zip(groups)
        .map(|(v, &g)| (v - mean(g)).powi(2))
        .sum();
    let own = |(value, &group): (&f64, &usize)| {
        let n = counts[group];
        if n < 2.0 || df < 2.0 {
            return None;
        }
        // Without it the mean of its group moves, and the sum of squares loses what it brought.
        let residual = value - mean(group);
        let by = residual * n / (n - 1.0);
        let left = (squares - residual * by).max(0.0);
        let se = (left / df * n / (n - 1.0)).sqrt();
        let t = if se > 0.0 {
            by / se
        } else if by == 0.0 {
            0.0
        } else {
            f64::INFINITY.copysign(by)
        };
        Some(Apart {
            by,
            t,
            p: (held * t_two_sided(t, df)).min(1.0),
        })
    };
    values.iter().zip(groups).map(own).collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::welch::mean_and_variance;

    /// Grubbs and Beck (1972), Technometrics 14, and ASTM E 178: critical values of (largest -
    /// mean) / s at an upper 5 %; here, two-sided and for either end, 10 %. Values from memory of
    /// the table.
    #[test]
    fn one_group_is_the_published_test_of_one_value() {
        for (n, critical) in [(5, 1.672), (8, 2.032), (10, 2.176), (20, 2.557)] {
            let others: Vec<f64> = (0..n - 1).map(|k| f64::from(k % 4)).collect();
            let ratio = |x: f64| {
                let mut all = others.clone();
                all.push(x);
                let (mean, variance) = mean_and_variance(&all);
                (x - mean) / variance.sqrt()
            };
            // The last value is moved out until the ratio is the critical one.
            let (mut low, mut high) = (3.0, 200.0);
            for _ in 0..100 {
                let middle = 0.5 * (low + high);
                if ratio(middle) < critical {
                    low = middle
                } else {
                    high = middle
                }
            }
            let mut all = others;
            all.push(low);
            let p = apart(&all, &vec![0; all.len()])
                .last()
                .and_then(|a| a.map(|a| a.p))
                .expect("held");
            assert!((p - 0.10).abs() < 0.002, "n = {n}: {p}");
        }
    }

    #[test]
    fn each_is_held_against_the_others_without_it() {
        let values = [3.0, 4.0, 5.5, 10.0, 11.0, 9.5, 14.0, 7.0];
        let groups = [0, 0, 0, 1, 1, 1, 1, 2];
        let told = apart(&values, &groups);
        assert_eq!(told[7], None, "alone");
        for (i, own) in told.iter().enumerate().take(7) {
            let own = own.expect("held");
            // By leaving it out in earnest.
            let others = |g: usize| -> Vec<f64> {
                let all = values.iter().zip(&groups).enumerate();
                all.filter(|(j, (_, h))| *j != i && **h == g)
                    .map(|(_, (v, _))| *v)
                    .collect()
            };
            let group = others(groups[i]);
            let (mean, _) = mean_and_variance(&group);
            let squares: f64 = [others(0), others(1)]
                .iter()
                .map(|g| mean_and_variance(g).1 * (g.len() as f64 - 1.0))
                .sum();
            let df = 7.0 - 2.0 - 1.0;
            let se = (squares / df * (1.0 + 1.0 / group.len() as f64)).sqrt();
            assert!((own.by - (values[i] - mean)).abs() < 1e-12);
            assert!((own.t - (values[i] - mean) / se).abs() < 1e-9, "{i}");
        }
        assert!(
            apart(&[1.0, 2.0, 9.0], &[0, 0, 0])
                .iter()
                .all(Option::is_none),
            "too few"
        );
        assert!(apart(&[], &[]).is_empty());
        let same = apart(&[2.0; 6], &[0; 6]);
        assert!(
            same.iter()
                .all(|a| a.is_some_and(|a| a.t == 0.0 && a.p == 1.0))
        );
    }

    /// Where nothing is apart, fewer than one table in a hundred says so at 1 %; where one is, by
    /// seven standard deviations, most do.
    #[test]
    fn the_allowance_holds() {
        let mut state = 7_u64;
        let mut uniform = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            ((state >> 11) as f64 + 0.5) / (1_u64 << 53) as f64
        };
        let groups: Vec<usize> = (0..16).map(|i| i / 4).collect();
        let (mut nothing, mut found) = (0, 0);
        for _ in 0..2000 {
            // Twelve uniform numbers add up to something all but normal, of variance one.
            let mut values: Vec<f64> = groups
                .iter()
                .map(|_| (0..12).map(|_| uniform()).sum::<f64>() - 6.0)
                .collect();
            let least = |v: &[f64]| {
                apart(v, &groups)
                    .iter()
                    .flatten()
                    .map(|a| a.p)
                    .fold(1.0, f64::min)
            };
            nothing += u32::from(least(&values) < 0.01);
            values[5] += 7.0;
            found += u32::from(apart(&values, &groups)[5].is_some_and(|a| a.p < 0.01));
        }
        assert!((5..=32).contains(&nothing), "{nothing} of 2000");
        assert!(found > 1000, "{found} of 2000");
    }
}
