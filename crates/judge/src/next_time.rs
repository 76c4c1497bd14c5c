//! How often the treatment would come out ahead if the same trial were run again.
//!
//! An interval says where the true difference lies; a grower asks whether it will work next time.
//! The difference that a second, equal trial shows lies about the first one's with twice its
//! variance, so (d2 - d1) / (se sqrt 2) is Student's t as the first comparison is (Geisser 1993,
//! Predictive Inference, chapter 2). Nothing is known here of other seasons: rounds tell that.

use super::result::Analysis;
use crate::question::Question;
use crate::verdict::Doubt;
use iron_twin_stats::distributions::{t_quantile_upper, t_two_sided};
use iron_twin_terms::goal::Better;
use iron_twin_terms::kind::Kind;

/// The chance that a second trial comes out above nothing, from t = estimate / se of the first and
/// its degrees of freedom.
pub(crate) fn above(t: f64, df: f64) -> f64 {
    let beyond = 0.5 * t_two_sided(t.abs() / std::f64::consts::SQRT_2, df);
    if t > 0.0 { 1.0 - beyond } else { beyond }
}

/// Gives every comparison that has a p the chance that it comes out ahead again; those that have
/// one already keep it.
pub(crate) fn beside(question: &Question, analysis: &mut Analysis) {
    // Ranks have a p and no distance; where nothing shows how units differ there is none either.
    let ranked = analysis.kind == Kind::Score;
    for contrast in &mut analysis.contrasts {
        if ranked || contrast.doubt == Some(Doubt::NoSpread) {
            contrast.ahead_next_time = None;
            continue;
        }
        let more = match contrast.ratio {
            Some(Some(ratio)) => ratio > 1.0,
            _ => contrast.estimate > 0.0,
        };
        if contrast.ahead_next_time.is_none() {
            // A p too small for a number is as small as any.
            let p = contrast
                .p
                .filter(|_| contrast.df > 0.0)
                .map(|p| p.max(f64::MIN_POSITIVE));
            let t = p.and_then(|p| t_quantile_upper(0.5 * p, contrast.df).ok());
            contrast.ahead_next_time = t.map(|t| above(if more { t } else { -t }, contrast.df));
        }
        if question.better == Better::Lower {
            contrast.ahead_next_time = contrast.ahead_next_time.map(|chance| 1.0 - chance);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::above;
    use rand::{RngExt, SeedableRng};
    use rand_chacha::ChaCha8Rng;

    #[test]
    fn nothing_seen_is_even_and_much_seen_is_sure() {
        assert!((above(0.0, 6.0) - 0.5).abs() < 1e-12);
        assert!((above(2.0, 6.0) + above(-2.0, 6.0) - 1.0).abs() < 1e-12);
        // Just sure at 5 in 100 is far from sure next time. SciPy 1.17: t.cdf(2.446912 / sqrt(2),
        // 6) and t.cdf(1 / sqrt(2), 3).
        assert!((above(2.446_912, 6.0) - 0.932_843_722_369_533).abs() < 1e-9);
        assert!((above(1.0, 3.0) - 0.734_761_114_533_522).abs() < 1e-9);
    }

    /// Whatever the truth, a second trial lies below the first by so much as often as is foretold:
    /// the chance is uniform.
    #[test]
    fn a_second_trial_lies_about_the_first_as_foretold() {
        let mut random = ChaCha8Rng::seed_from_u64(5);
        let mut normal = || {
            let (u, v): (f64, f64) = (1.0 - random.random::<f64>(), random.random());
            (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
        };
        let mut trial = |truth: f64| {
            let side: Vec<f64> = (0..8)
                .map(|i| normal() + if i < 4 { truth } else { 0.0 })
                .collect();
            let mean = |own: &[f64]| own.iter().sum::<f64>() / 4.0;
            let (a, b) = (mean(&side[..4]), mean(&side[4..]));
            let squares = side
                .iter()
                .enumerate()
                .map(|(i, v)| (v - if i < 4 { a } else { b }).powi(2))
                .sum::<f64>();
            (a - b, (squares / 6.0 * 0.5).sqrt())
        };
        let (mut fifths, seasons) = ([0u32; 5], 20_000);
        for season in 0..seasons {
            let truth = f64::from(season % 7) - 3.0;
            let ((first, se), (second, _)) = (trial(truth), trial(truth));
            fifths[((5.0 * above((first - second) / se, 6.0)) as usize).min(4)] += 1;
        }
        for of in fifths {
            let share = f64::from(of) / f64::from(seasons);
            assert!((share - 0.2).abs() < 0.012, "{fifths:?}");
        }
    }
}
