//! How far several judges agree on an order: Kendall's coefficient of concordance, with ties.
//!
//! Kendall and Babington Smith (1939), Annals of Mathematical Statistics 10, 275; correction for
//! ties as in Siegel and Castellan (1988), Nonparametric Statistics.

use rand::seq::SliceRandom;
use rand_chacha::ChaCha8Rng;
use rand_chacha::rand_core::SeedableRng;

/// How far judges agree.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Concordance {
    /// 0 where their orders have nothing to do with one another, 1 where they are the same.
    pub w: f64,
    /// How often orders drawn by lot would agree as well.
    pub p: f64,
}

/// Orders drawn by lot for the p.
const DRAWN: usize = 4999;

fn w_of(ranks: &[Vec<f64>]) -> Option<f64> {
    let (judges, items) = (ranks.len() as f64, ranks.first()?.len());
    let n = items as f64;
    let mean = judges * (n + 1.0) / 2.0;
    let sums = (0..items).map(|i| ranks.iter().map(|own| own[i]).sum::<f64>());
    let squares: f64 = sums.map(|sum| (sum - mean).powi(2)).sum();
    let ties: f64 = ranks.iter().map(|own| tied(own)).sum();
    let most = judges * judges * (n * n * n - n) - judges * ties;
    (most > 0.0).then(|| 12.0 * squares / most)
}

/// The sum of t³ - t over groups of t tied ranks.
fn tied(ranks: &[f64]) -> f64 {
    let mut sorted = ranks.to_vec();
    sorted.sort_by(f64::total_cmp);
    let cubes = |group: &[f64]| {
        let t = group.len() as f64;
        t * t * t - t
    };
    sorted.chunk_by(|a, b| a == b).map(cubes).sum()
}

/// How far judges agree, each by the ranks they gave, ties by the middle of theirs. None with fewer
/// than two judges or three items, or where everything is tied.
///
/// ```
/// use iron_twin_stats::concordance::concordance;
/// let same = vec![vec![1.0, 2.0, 3.0, 4.0, 5.0]; 3];
/// assert!((concordance(&same).unwrap().w - 1.0).abs() < 1e-12);
/// assert_eq!(concordance(&same[..1]), None);
/// ```
#[must_use]
pub fn concordance(ranks: &[Vec<f64>]) -> Option<Concordance> {
    let items = ranks.first()?.len();
    if ranks.len() < 2 || items < 3 || ranks.iter().any(|own| own.len() != items) {
        return None;
    }
    let w = w_of(ranks)?;
    // The same draws every time: the answer does not change while nobody changes anything.
    let mut random = ChaCha8Rng::seed_from_u64(0);
    let mut drawn = ranks.to_vec();
    let as_well = (0..DRAWN).filter(|_| {
        drawn[1..]
            .iter_mut()
            .for_each(|own| own.shuffle(&mut random));
        w_of(&drawn).is_some_and(|other| other >= w - 1e-9)
    });
    Some(Concordance {
        w,
        p: (as_well.count() + 1) as f64 / (DRAWN + 1) as f64,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ranks::midranks;
    use proptest::prelude::*;

    /// `kendall(anxiety, TRUE)` of the R package irr (Gamer et al.): 20 subjects, 3 raters, Wt =
    /// 0.54, p = 0.0429 by chi-square. Data and values from memory of its help page; they agree
    /// with one another.
    #[test]
    fn ratings_of_anxiety_agree_with_r() {
        let raters = [
            [3, 3, 3, 4, 5, 5, 2, 3, 5, 2, 2, 6, 1, 5, 2, 2, 1, 2, 4, 3],
            [3, 6, 4, 6, 2, 4, 2, 4, 3, 3, 2, 3, 3, 3, 2, 2, 1, 3, 3, 4],
            [2, 1, 4, 4, 3, 2, 1, 6, 1, 1, 1, 2, 3, 3, 1, 1, 3, 3, 2, 2],
        ];
        let ranks: Vec<Vec<f64>> = raters
            .iter()
            .map(|own| midranks(&own.map(f64::from)))
            .collect();
        let told = concordance(&ranks).expect("agreement");
        assert!((told.w - 0.54).abs() < 0.005, "{told:?}");
        assert!(
            (told.p - 0.0429).abs() < 0.025,
            "by lot and by chi-square: {told:?}"
        );
    }

    fn orders() -> impl Strategy<Value = Vec<Vec<f64>>> {
        (3..9_usize, 2..6_usize).prop_flat_map(|(items, judges)| {
            let order = Just((1..=items).map(|n| n as f64).collect::<Vec<_>>()).prop_shuffle();
            prop::collection::vec(order, judges)
        })
    }

    fn correlation(a: &[f64], b: &[f64]) -> f64 {
        let mean = (a.len() as f64 + 1.0) / 2.0;
        let product = |x: &[f64], y: &[f64]| {
            x.iter()
                .zip(y)
                .map(|(x, y)| (x - mean) * (y - mean))
                .sum::<f64>()
        };
        product(a, b) / (product(a, a) * product(b, b)).sqrt()
    }

    proptest! {
        /// Without ties it is told by the mean of Spearman's correlations: W = (1 + (m - 1) r) / m.
        #[test]
        fn it_is_the_mean_correlation_of_pairs(ranks in orders()) {
            let judges = ranks.len();
            let pairs = (0..judges).flat_map(|a| (0..a).map(move |b| (a, b)));
            let all: Vec<f64> = pairs.map(|(a, b)| correlation(&ranks[a], &ranks[b])).collect();
            let mean = all.iter().sum::<f64>() / all.len() as f64;
            let m = judges as f64;
            let told = concordance(&ranks).expect("agreement");
            prop_assert!((told.w - (1.0 + (m - 1.0) * mean) / m).abs() < 1e-9);
            prop_assert!((0.0..=1.0 + 1e-9).contains(&told.w) && (0.0..=1.0).contains(&told.p));
        }
    }

    #[test]
    fn what_says_nothing_has_no_agreement() {
        assert_eq!(concordance(&[vec![2.0; 3], vec![2.0; 3]]), None, "all tied");
        assert_eq!(
            concordance(&[vec![1.0, 2.0], vec![1.0, 2.0]]),
            None,
            "two items"
        );
        assert_eq!(concordance(&[vec![1.0, 2.0, 3.0], vec![1.0, 2.0]]), None);
        assert_eq!(concordance(&[]), None);
    }
}
