//! Scores that only say which is better: ranks with ties, the probability of superiority,
//! Kruskal-Wallis and Friedman.

use super::distributions::chi_square_upper;
use super::linear::quadratic_form;
use nalgebra::{DMatrix, DVector};

/// Ranks from 1, ties sharing their mean rank. NaN sorts last.
///
/// ```
/// use iron_twin_stats::ranks::midranks;
/// assert_eq!(midranks(&[3.0, 1.0, 3.0, 7.0]), [2.5, 1.0, 2.5, 4.0]);
/// ```
#[must_use]
pub fn midranks(values: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..values.len()).collect();
    order.sort_by(|&a, &b| values[a].total_cmp(&values[b]));
    let mut ranks = vec![0.0; values.len()];
    let mut start = 0;
    while start < order.len() {
        let same = order[start..]
            .iter()
            .take_while(|&&i| values[i] == values[order[start]])
            .count()
            .max(1);
        for &i in &order[start..start + same] {
            ranks[i] = start as f64 + 0.5 * (same as f64 + 1.0);
        }
        start += same;
    }
    ranks
}

/// The units of two treatments inside one block.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct RankBlock {
    /// Scores of the treated units.
    pub treated: Vec<f64>,
    /// Scores of the control units.
    pub control: Vec<f64>,
}

/// Chance that a treated unit scores higher than a control unit of its block, ties counting half.
/// None without a pair.
///
/// Source: Mann and Whitney 1947; the ratio of U to the number of pairs.
///
/// ```
/// use iron_twin_stats::ranks::{superiority, RankBlock};
/// // Of four pairings three are won and one is even.
/// let block = RankBlock { treated: vec![3.0, 4.0], control: vec![2.0, 3.0] };
/// assert_eq!(superiority(&[block]), Some(0.875));
/// ```
#[must_use]
pub fn superiority(blocks: &[RankBlock]) -> Option<f64> {
    let (mut wins, mut pairs) = (0.0, 0.0);
    for block in blocks {
        let all: Vec<f64> = block
            .treated
            .iter()
            .chain(&block.control)
            .copied()
            .collect();
        let treated = block.treated.len() as f64;
        let rank_sum: f64 = midranks(&all)[..block.treated.len()].iter().sum();
        wins += rank_sum - 0.5 * treated * (treated + 1.0);
        pairs += treated * block.control.len() as f64;
    }
    (pairs > 0.0).then(|| wins / pairs)
}

/// Limits of a probability of superiority that stay inside 0 to 1, also where every pair goes one
/// way.
///
/// `z` is the normal quantile of the confidence, for instance 1.96. Source: Newcombe 2006,
/// Statistics in Medicine 25, 559-573, method 5: the score-like interval with Hanley and McNeil's
/// variance at the limit itself, both sample sizes in its numerator replaced by their mean.
///
/// ```
/// use iron_twin_stats::ranks::superiority_limits;
/// let (low, high) = superiority_limits(1.0, 3, 3, 1.96);
/// assert!(low > 0.2 && low < 0.6 && high == 1.0);
/// ```
#[must_use]
pub fn superiority_limits(superiority: f64, treated: usize, control: usize, z: f64) -> (f64, f64) {
    let (m, n) = (treated as f64, control as f64);
    let extra = 0.5 * (m + n) - 1.0;
    let variance = |at: f64| {
        at * (1.0 - at) * (1.0 + extra * ((1.0 - at) / (2.0 - at) + at / (1.0 + at))) / (m * n)
    };
    let outside = |at: f64| (superiority - at).powi(2) > z * z * variance(at);
    // Between the far edge, which lies outside, and the estimate, which lies inside, the answer
    // changes once.
    let limit = |edge: f64| {
        let (mut out, mut inside) = (edge, superiority);
        for _ in 0..200 {
            let middle = 0.5 * (out + inside);
            if outside(middle) {
                out = middle;
            } else {
                inside = middle;
            }
        }
        inside
    };
    (
        if superiority <= 0.0 { 0.0 } else { limit(0.0) },
        if superiority >= 1.0 { 1.0 } else { limit(1.0) },
    )
}

/// A rank test that all treatments are alike.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RankTest {
    /// Chi-square statistic, corrected for ties.
    pub chi_square: f64,
    /// Degrees of freedom.
    pub df: f64,
    /// Upper tail of chi-square.
    pub p: f64,
}

/// Ranks units inside each block and tests whether the treatments' rank sums differ.
///
/// One block is the test of Kruskal and Wallis 1952; one unit a treatment in each block is
/// Friedman's of 1937; anything between is Benard and van Elteren's of 1953. `units` holds
/// (treatment, block, score). None where nothing varies.
///
/// ```
/// use iron_twin_stats::ranks::rank_test;
/// let units = [(0, 0, 1.0), (0, 0, 2.0), (1, 0, 3.0), (1, 0, 4.0)];
/// assert!((rank_test(&units, 2, 1).unwrap().chi_square - 2.4).abs() < 1e-12);
/// ```
#[must_use]
pub fn rank_test(
    units: &[(usize, usize, f64)],
    treatments: usize,
    blocks: usize,
) -> Option<RankTest> {
    let mut gaps = DVector::zeros(treatments);
    let mut covariance = DMatrix::zeros(treatments, treatments);
    let mut by_block = vec![Vec::new(); blocks];
    for &(treatment, block, score) in units {
        by_block[block].push((treatment, score));
    }
    for members in by_block.iter().filter(|m| m.len() > 1) {
        let ranks = midranks(&members.iter().map(|m| m.1).collect::<Vec<f64>>());
        let size = members.len() as f64;
        let centre = 0.5 * (size + 1.0);
        let spread = ranks.iter().map(|r| (r - centre).powi(2)).sum::<f64>() / (size - 1.0);
        let mut counts = vec![0.0; treatments];
        for (&(treatment, _), rank) in members.iter().zip(&ranks) {
            gaps[treatment] += rank - centre;
            counts[treatment] += 1.0;
        }
        for i in 0..treatments {
            for j in 0..treatments {
                let own = if i == j { counts[i] } else { 0.0 };
                covariance[(i, j)] += spread * (own - counts[i] * counts[j] / size);
            }
        }
    }
    let (chi_square, df) = quadratic_form(&gaps, &covariance)?;
    Some(RankTest {
        chi_square,
        df,
        p: chi_square_upper(chi_square, df),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn ranks_of_nothing_one_and_all_alike() {
        assert!(midranks(&[]).is_empty());
        assert_eq!(midranks(&[5.0]), [1.0]);
        assert_eq!(midranks(&[2.0; 4]), [2.5; 4]);
    }

    #[test]
    fn superiority_counts_ties_half_and_stays_in_its_block() {
        let block = |treated: &[f64], control: &[f64]| RankBlock {
            treated: treated.to_vec(),
            control: control.to_vec(),
        };
        assert_eq!(
            superiority(&[block(&[2.0, 3.0], &[2.0, 1.0])]),
            Some(3.5 / 4.0)
        );
        assert_eq!(
            superiority(&[block(&[1.0], &[0.0]), block(&[11.0], &[12.0])]),
            Some(0.5)
        );
        assert_eq!(superiority(&[block(&[1.0], &[])]), None);
    }

    #[test]
    fn limits_turn_with_the_sides_and_narrow_with_units() {
        let (low, high) = superiority_limits(0.75, 10, 10, 1.96);
        let (turned_low, turned_high) = superiority_limits(0.25, 10, 10, 1.96);
        assert!((low + turned_high - 1.0).abs() < 1e-9 && (high + turned_low - 1.0).abs() < 1e-9);
        assert!(0.0 < low && low < 0.75 && 0.75 < high && high < 1.0);
        let (more, _) = superiority_limits(0.75, 40, 40, 1.96);
        assert!(more > low);
        // The limit solves its own equation.
        let v = |at: f64| {
            at * (1.0 - at) * (1.0 + 9.0 * ((1.0 - at) / (2.0 - at) + at / (1.0 + at))) / 100.0
        };
        assert!(((0.75 - low) / v(low).sqrt() - 1.96).abs() < 1e-6);
    }

    #[test]
    fn nothing_varies_nothing_is_tested() {
        assert!(rank_test(&[(0, 0, 1.0), (1, 0, 1.0)], 2, 1).is_none());
        assert!(rank_test(&[], 2, 1).is_none());
        assert!(rank_test(&[(0, 0, 1.0), (1, 1, 2.0)], 2, 2).is_none());
    }
}
