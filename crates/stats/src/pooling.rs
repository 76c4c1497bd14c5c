//! Rounds of one trial pooled: random effects, because no two rounds see the same season.

use super::StatsError;
use super::distributions::{chi_square_upper, decreasing_root, t_quantile_upper, t_two_sided};

/// One round: its estimate and the variance of that, both on one scale.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Round {
    /// Treatment less control.
    pub estimate: f64,
    /// Its variance, the square of the standard error; above zero.
    pub variance: f64,
}

/// How the variance between rounds is estimated.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Between {
    /// Restricted maximum likelihood.
    #[default]
    Reml,
    /// Paule and Mandel 1982: the value at which the weighted squares equal their degrees of
    /// freedom.
    PauleMandel,
    /// None: every round estimates the same difference.
    Fixed,
}

/// The pooled answer.
#[derive(Debug, Clone, PartialEq)]
pub struct Pooled {
    /// Mean difference over rounds.
    pub mean: f64,
    /// Its standard error: after Knapp and Hartung 2003, of the fixed effect by its weights.
    pub se: f64,
    /// Degrees of freedom: rounds less one; infinite for the fixed effect.
    pub df: f64,
    /// Lower limit of the mean.
    pub low: f64,
    /// Upper limit of the mean.
    pub high: f64,
    /// Two-sided p that the mean is zero.
    pub p: f64,
    /// Variance between rounds.
    pub between_variance: f64,
    /// Share of the variation of the estimates that lies between rounds, per cent.
    pub heterogeneity_percent: f64,
    /// Cochran's Q: that all rounds estimate the same.
    pub q: f64,
    /// Its upper tail.
    pub q_p: f64,
    /// Limits for the true difference of a next round.
    pub next_round: Option<(f64, f64)>,
    rounds: Vec<Round>,
    confidence: f64,
}

/// Weighted mean, sum of weights and weighted squares at a variance between rounds.
fn at(rounds: &[Round], between: f64) -> (f64, f64, f64) {
    let total: f64 = rounds.iter().map(|r| 1.0 / (r.variance + between)).sum();
    let mean = rounds
        .iter()
        .map(|r| r.estimate / (r.variance + between))
        .sum::<f64>()
        / total;
    (
        mean,
        total,
        rounds
            .iter()
            .map(|r| (r.estimate - mean).powi(2) / (r.variance + between))
            .sum(),
    )
}

/// Slope of the restricted likelihood by the variance between rounds; falls through zero at the
/// estimate.
fn reml_slope(rounds: &[Round], between: f64) -> f64 {
    let (mean, total, _) = at(rounds, between);
    let weight = |r: &Round| 1.0 / (r.variance + between);
    let squares: f64 = rounds
        .iter()
        .map(|r| weight(r).powi(2) * (r.estimate - mean).powi(2))
        .sum();
    squares - total + rounds.iter().map(|r| weight(r).powi(2)).sum::<f64>() / total
}

fn between_variance(rounds: &[Round], how: Between) -> Result<f64, StatsError> {
    let df = rounds.len() as f64 - 1.0;
    let height = |v: f64| match how {
        Between::Reml => reml_slope(rounds, v),
        _ => at(rounds, v).2 - df,
    };
    if how == Between::Fixed || height(0.0) <= 0.0 {
        return Ok(0.0);
    }
    let scale = rounds.iter().map(|r| r.variance).sum::<f64>() / rounds.len() as f64;
    decreasing_root("the variance between rounds", scale, height)
}

/// Pools two or more rounds.
///
/// Random effects (REML or Paule-Mandel) carry Knapp and Hartung's standard error and t limits on
/// rounds - 1 degrees of freedom, which hold for few rounds; the prediction limits for a next round
/// use the same t. As R's `metafor` with `test = "knha"`. With both estimates equal the standard
/// error is that of the weights.
///
/// # Errors
/// [`StatsError::OutOfRange`] for fewer than two rounds, a variance not above zero or a confidence
/// outside (0, 1); [`StatsError::NotFinite`].
///
/// ```
/// use iron_twin_stats::pooling::{pool, Between, Round};
/// let round = |estimate, variance| Round { estimate, variance };
/// let pooled = pool(&[round(8.1, 9.2), round(5.2, 6.1), round(-1.3, 12.5)], Between::Reml, 0.95)?;
/// assert!(pooled.low < pooled.mean && pooled.mean < pooled.high);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn pool(rounds: &[Round], how: Between, confidence: f64) -> Result<Pooled, StatsError> {
    check(rounds, confidence)?;
    let k = rounds.len() as f64;
    let tau = between_variance(rounds, how)?;
    let (mean, total, squares) = at(rounds, tau);
    let fixed = how == Between::Fixed;
    let df = if fixed { f64::INFINITY } else { k - 1.0 };
    let se = if fixed {
        total.powf(-0.5)
    } else {
        (squares / ((k - 1.0) * total)).sqrt()
    };
    let tail = 0.5 * (1.0 - confidence);
    let critical = if fixed {
        super::distributions::normal_quantile_upper(tail)
    } else {
        t_quantile_upper(tail, df)?
    };
    let p = if fixed {
        2.0 * super::distributions::normal_upper((mean / se).abs())
    } else {
        t_two_sided(mean / se, df)
    };
    let (_, weights, q) = at(rounds, 0.0);
    let weight_squares: f64 = rounds.iter().map(|r| r.variance.powi(-2)).sum();
    let typical = (k - 1.0) * weights / (weights * weights - weight_squares);
    let reach = critical * (tau + se * se).sqrt();
    Ok(Pooled {
        mean,
        se,
        df,
        low: mean - critical * se,
        high: mean + critical * se,
        p,
        between_variance: tau,
        heterogeneity_percent: 100.0 * tau / (tau + typical),
        q,
        q_p: chi_square_upper(q, k - 1.0),
        next_round: (!fixed).then_some((mean - reach, mean + reach)),
        rounds: rounds.to_vec(),
        confidence,
    })
}

/// Two rounds at least, each with its variance.
fn check(rounds: &[Round], confidence: f64) -> Result<(), StatsError> {
    if rounds
        .iter()
        .any(|r| !(r.estimate.is_finite() && r.variance.is_finite()))
    {
        return Err(StatsError::NotFinite { what: "a round" });
    }
    let range = |what, got: f64, min: f64, max: f64| StatsError::OutOfRange {
        what,
        min,
        max,
        got,
    };
    if rounds.len() < 2 {
        return Err(range("rounds", rounds.len() as f64, 2.0, f64::INFINITY));
    }
    if let Some(r) = rounds.iter().find(|r| !(r.variance > 0.0)) {
        return Err(range("variance of a round", r.variance, 0.0, f64::INFINITY));
    }
    if !(confidence > 0.0 && confidence < 1.0) {
        return Err(range("confidence", confidence, 0.0, 1.0));
    }
    Ok(())
}

impl Pooled {
    /// The chance that a next round shows more than nothing: about the mean, with the variance
    /// between rounds, that of the mean, and that of a round of average precision, by Student's t
    /// on the pooled degrees of freedom (Higgins, Thompson and Spiegelhalter 2009, with the round's
    /// own error added). None for the fixed effect, which knows no other rounds.
    ///
    /// ```
    /// use iron_twin_stats::pooling::{pool, Between, Round};
    /// let rounds = [8.0, 6.5, 7.2].map(|estimate| Round { estimate, variance: 1.0 });
    /// assert!(pool(&rounds, Between::Reml, 0.95)?.above_next_time().is_some_and(|chance| chance > 0.97));
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn above_next_time(&self) -> Option<f64> {
        self.next_round?;
        let own = self.rounds.iter().map(|r| r.variance).sum::<f64>() / self.rounds.len() as f64;
        let t = self.mean / (self.between_variance + self.se * self.se + own).sqrt();
        let beyond = 0.5 * t_two_sided(t.abs(), self.df);
        Some(if t > 0.0 { 1.0 - beyond } else { beyond })
    }

    /// Limits of the mean to be expected with `more` further rounds that come out at the mean, each
    /// as precise as these are on average: whether another round would settle the question.
    ///
    /// # Errors
    /// As [`pool`].
    ///
    /// ```
    /// use iron_twin_stats::pooling::{pool, Between, Round};
    /// let rounds = [Round { estimate: 9.0, variance: 4.0 }, Round { estimate: 5.0, variance: 4.0 }];
    /// let pooled = pool(&rounds, Between::Reml, 0.95)?;
    /// let (low, _) = pooled.with_more(1)?;
    /// assert!(pooled.low < 0.0 && low > pooled.low, "two rounds have one degree of freedom only");
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn with_more(&self, more: usize) -> Result<(f64, f64), StatsError> {
        let rounds = self.rounds.len();
        let typical = self.rounds.iter().map(|r| r.variance).sum::<f64>() / rounds as f64;
        let (_, total, _) = at(&self.rounds, self.between_variance);
        // The spread between rounds is kept as found; a round at the mean would otherwise shrink it
        // by being average.
        let weights = total + more as f64 / (typical + self.between_variance);
        let critical =
            t_quantile_upper(0.5 * (1.0 - self.confidence), (rounds + more) as f64 - 1.0)?;
        let reach = critical / weights.sqrt();
        Ok((self.mean - reach, self.mean + reach))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rounds(estimates: &[f64], variances: &[f64]) -> Vec<Round> {
        estimates
            .iter()
            .zip(variances)
            .map(|(&estimate, &variance)| Round { estimate, variance })
            .collect()
    }

    #[test]
    fn agrees_with_metafor() {
        // Shared pooled-rounds.json: R's metafor, REML with Knapp-Hartung, Paule-Mandel and the
        // fixed effect.
        let r = rounds(&[8.1, 5.2, -1.3, 11.4, 6.6], &[9.2, 6.1, 12.5, 8.8, 15.0]);
        let near = |got: f64, want: f64, tolerance: f64| {
            assert!((got - want).abs() < tolerance * want.abs(), "{got} {want}");
        };
        let reml = pool(&r, Between::Reml, 0.95).unwrap();
        // metafor stops its own search at 1e-5.
        near(reml.mean, 6.183_434_045_754_2, 1e-5);
        near(reml.se, 2.041_141_326_157_45, 1e-5);
        near(reml.low, 0.516_317_201_727_422, 1e-4);
        near(reml.high, 11.850_550_889_781, 1e-5);
        near(reml.p, 0.038_803_377_579_869_7, 1e-4);
        near(reml.between_variance, 10.138_802_512_479_6, 1e-4);
        near(reml.heterogeneity_percent, 51.310_243_700_481_3, 1e-4);
        near(reml.q, 8.132_927_832_515_41, 1e-9);
        near(reml.q_p, 0.086_828_463_166_643_6, 1e-9);
        let next = reml.next_round.unwrap();
        near(next.0, -4.317_645_288_087_51, 1e-4);
        near(next.1, 16.684_513_379_595_9, 1e-4);
        let fixed = pool(&r, Between::Fixed, 0.95).unwrap();
        near(fixed.mean, 6.312_890_472_544_88, 1e-9);
        near(fixed.se, 1.369_820_461_363_17, 1e-9);
        let pm = pool(&r, Between::PauleMandel, 0.95).unwrap();
        near(pm.mean, 6.176_691_871_969_54, 1e-5);
        near(pm.between_variance, 11.013_585_043_089_6, 1e-4);
    }

    #[test]
    fn rounds_that_agree_have_no_variance_between_and_more_rounds_narrow() {
        let r = rounds(&[5.0, 5.1, 4.9], &[4.0, 4.0, 4.0]);
        let pooled = pool(&r, Between::Reml, 0.95).unwrap();
        assert_eq!(pooled.between_variance, 0.0);
        let width = |more| {
            let (low, high) = pooled.with_more(more).unwrap();
            high - low
        };
        assert!(width(2) < width(1) && width(1) < width(0));
    }

    #[test]
    fn scaling_scales_and_nonsense_is_refused() {
        let (e, v) = ([8.0, 2.0, 5.0, 9.0], [3.0, 1.0, 2.0, 6.0]);
        let plain = pool(&rounds(&e, &v), Between::Reml, 0.9).unwrap();
        let large = pool(
            &rounds(&e.map(|x| 1e3 * x), &v.map(|x| 1e6 * x)),
            Between::Reml,
            0.9,
        )
        .unwrap();
        assert!((large.mean / plain.mean - 1e3).abs() < 1e-6 && (large.p - plain.p).abs() < 1e-9);
        assert!(pool(&rounds(&[1.0], &[1.0]), Between::Reml, 0.95).is_err());
        assert!(pool(&rounds(&[1.0, 2.0], &[1.0, 0.0]), Between::Reml, 0.95).is_err());
        assert!(pool(&rounds(&[1.0, f64::NAN], &[1.0, 1.0]), Between::Reml, 0.95).is_err());
        assert!(pool(&rounds(&[1.0, 2.0], &[1.0, 1.0]), Between::Reml, 1.0).is_err());
    }
}
