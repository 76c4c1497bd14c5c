//! Averages over the spread estimate s, where s^2 is chi-square on `df` degrees of freedom, divided
//! by `df`.
//!
//! Dunnett, Tukey and the noncentral t all have the form "the normal answer at s, averaged over s".
//! In u = ln s the density falls off at least exponentially on both sides, where the trapezium rule
//! converges faster than any power of its step, so a few dozen nodes give twelve digits.

use super::distributions::log_gamma;

/// One node: a value of s and the weight it carries. Weights sum to one.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct SpreadNode {
    pub s: f64,
    pub weight: f64,
}

/// Nodes for averages over s, for any positive `df`, good to twelve digits.
pub(crate) fn spread_nodes(df: f64) -> Vec<SpreadNode> {
    // Few degrees of freedom skew the density, and the rule wants smaller steps.
    nodes(df, if df < 5.0 { 0.22 } else { 0.4 })
}

/// Nodes close enough for integrands with corners, good to about six digits.
pub(crate) fn fine_spread_nodes(df: f64) -> Vec<SpreadNode> {
    nodes(df, 0.001)
}

/// The value of s at each probability, from a fine table of its distribution.
pub(crate) fn spread_quantiles(df: f64, probabilities: &[f64]) -> Vec<f64> {
    let mut table = nodes(df, 0.004);
    table.sort_by(|a, b| a.s.total_cmp(&b.s));
    let mut sum = 0.0;
    // A node stands for the interval around it, so half its weight lies below it.
    let below: Vec<f64> = table
        .iter()
        .map(|node| {
            sum += node.weight;
            sum - 0.5 * node.weight
        })
        .collect();
    probabilities
        .iter()
        .map(|p| {
            let i = below.partition_point(|b| b < p).clamp(1, table.len() - 1);
            let share = ((p - below[i - 1]) / (below[i] - below[i - 1])).clamp(0.0, 1.0);
            table[i - 1].s + share * (table[i].s - table[i - 1].s)
        })
        .collect()
}

fn nodes(df: f64, step_in_widths: f64) -> Vec<SpreadNode> {
    // Density of u = ln s: 2 (df/2)^(df/2) / gamma(df/2) * exp(df u - df exp(2u) / 2).
    let log_constant = std::f64::consts::LN_2 + 0.5 * df * (0.5 * df).ln() - log_gamma(0.5 * df);
    let log_density = |u: f64| log_constant + df * (u - 0.5 * (2.0 * u).exp());
    let width = (1.0 / (2.0 * df).sqrt()).min(1.0);
    let h = step_in_widths * width;
    let peak = log_density(0.0);
    let mut nodes = Vec::with_capacity(160);
    for direction in [-1.0, 1.0] {
        let mut step = if direction < 0.0 { 0 } else { 1 };
        loop {
            let u = direction * h * f64::from(step);
            let log_weight = log_density(u);
            if log_weight < peak - 38.0 || step > 40_000 {
                break;
            }
            nodes.push(SpreadNode {
                s: u.exp(),
                weight: h * log_weight.exp(),
            });
            step += 1;
        }
    }
    nodes
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn weights_sum_to_one_and_give_the_known_moments() {
        for df in [1.0, 2.0, 3.7, 12.0, 90.0, 5000.0] {
            let nodes = spread_nodes(df);
            let total: f64 = nodes.iter().map(|n| n.weight).sum();
            let square: f64 = nodes.iter().map(|n| n.weight * n.s * n.s).sum();
            assert!((total - 1.0).abs() < 1e-11, "df {df}: {total}");
            assert!((square - 1.0).abs() < 1e-10, "df {df}: {square}");
            let middle = spread_quantiles(df, &[0.5])[0];
            let half: f64 = super::nodes(df, 0.01)
                .iter()
                .filter(|n| n.s < middle)
                .map(|n| n.weight)
                .sum();
            assert!((half - 0.5).abs() < 0.01, "df {df}: {half}");
        }
    }
}
