//! Days to an event, planned: no formula knows units that never flower, so seasons are played and
//! judged as the analysis would judge them, by restricted means and Welch's interval.

use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::t_quantile_upper;
use iron_twin_stats::survival::{Curve, Lifetime, RestrictedMean};
use iron_twin_terms::goal::Goal;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// Seasons played for one chance; its standard error is at most 0.8 in a hundred.
pub(super) const SEASONS: usize = 4000;
/// Most units of a treatment that are looked for.
const MOST_UNITS: usize = 2000;

/// Days as they are expected to fall: Weibull, looked at once a day.
#[derive(Debug, Clone, Copy)]
pub(super) struct Days {
    pub mean: f64,
    pub cv_percent: f64,
    /// Last day on which somebody looks.
    pub until: f64,
    /// Whether the treatment is hoped to come sooner than the control, or later.
    pub sooner: bool,
    pub seed: u64,
}

/// What must be shown, and how surely.
#[derive(Debug, Clone, Copy)]
pub(super) struct Wanted {
    pub goal: Goal,
    /// Confidence of one comparison, Sidak's where there are several.
    pub confidence: f64,
    /// The margin, days.
    pub margin: f64,
}

/// The shape of a Weibull distribution with this coefficient of variation: cv^2 = G(1 + 2/k) / G(1
/// + 1/k)^2 - 1.
fn shape(cv: f64) -> f64 {
    let off =
        |k: f64| libm::tgamma(1.0 + 2.0 / k) / libm::tgamma(1.0 + 1.0 / k).powi(2) - 1.0 - cv * cv;
    let (mut low, mut high) = (0.2, 2000.0);
    for _ in 0..200 {
        let middle = f64::sqrt(low * high);
        if off(middle) > 0.0 {
            low = middle
        } else {
            high = middle
        }
    }
    f64::sqrt(low * high)
}

impl Days {
    /// What a treatment's days are times the control's when it gains (or loses) this share of them.
    pub(super) fn factor(&self, step: f64) -> f64 {
        if self.sooner {
            (1.0 - step).max(0.001)
        } else {
            1.0 + step
        }
    }

    /// Share of seasons in which a treatment whose days are `longer` times the control's is found
    /// (goal match: is shown to lose less than the margin). The same seed gives the same seasons,
    /// so that chances of two plans compare.
    pub(super) fn chance(
        &self,
        units: usize,
        longer: f64,
        wanted: &Wanted,
    ) -> Result<f64, StatsError> {
        let shape = shape(0.01 * self.cv_percent);
        let scale = self.mean / libm::tgamma(1.0 + 1.0 / shape);
        let mut random = ChaCha8Rng::seed_from_u64(self.seed);
        let mut season = |factor: f64| -> Result<Curve, StatsError> {
            let units: Vec<Lifetime> = (0..units)
                .map(|_| {
                    let luck: f64 = 1.0 - random.random::<f64>();
                    let day = (factor * scale * (-luck.ln()).powf(1.0 / shape)).ceil();
                    Lifetime {
                        day: day.min(self.until),
                        seen: day <= self.until,
                    }
                })
                .collect();
            Curve::of(&units)
        };
        let mut found = 0usize;
        for _ in 0..SEASONS {
            let (control, treated) = (season(1.0)?, season(longer)?);
            found += usize::from(shown(&control, &treated, units, self.until, wanted)?);
        }
        Ok(found as f64 / SEASONS as f64)
    }

    /// Fewest units with the wanted chance, `power` of so many units.
    pub(super) fn fewest(
        &self,
        longer: f64,
        wanted: &Wanted,
        power: impl Fn(usize) -> f64,
    ) -> Result<Option<usize>, StatsError> {
        let reached = |units| {
            self.chance(units, longer, wanted)
                .map(|chance| chance >= power(units))
        };
        let mut high = 2;
        while !reached(high)? {
            high *= 2;
            if high > MOST_UNITS {
                return Ok(None);
            }
        }
        let mut low = high / 2;
        while high - low > 1 {
            let middle = low.midpoint(high);
            if reached(middle)? {
                high = middle
            } else {
                low = middle
            }
        }
        Ok(Some(high))
    }

    /// The smallest saving (or lengthening) that is found with the wanted chance, as a share of the
    /// control's mean.
    pub(super) fn smallest(
        &self,
        units: usize,
        wanted: &Wanted,
        power: f64,
    ) -> Result<Option<f64>, StatsError> {
        let (mut low, mut high) = (0.0, if self.sooner { 0.999 } else { 4.0 });
        if self.chance(units, self.factor(high), wanted)? < power {
            return Ok(None);
        }
        for _ in 0..12 {
            let middle = f64::midpoint(low, high);
            if self.chance(units, self.factor(middle), wanted)? < power {
                low = middle
            } else {
                high = middle
            }
        }
        Ok(Some(high))
    }
}

fn shown(
    control: &Curve,
    treated: &Curve,
    units: usize,
    until: f64,
    wanted: &Wanted,
) -> Result<bool, StatsError> {
    let open = !control.reaches_zero() || !treated.reaches_zero();
    let tau = if open {
        until
    } else {
        control.last_day.max(treated.last_day)
    };
    let (a, b): (RestrictedMean, RestrictedMean) =
        (control.restricted_mean(tau), treated.restricted_mean(tau));
    // Greenwood's variance times n / (n - 1), as the analysis has it.
    let small = units as f64 / (units as f64 - 1.0);
    let (va, vb) = (a.se * a.se * small, b.se * b.se * small);
    let (gap, se) = (b.mean - a.mean, (va + vb).sqrt());
    if !(se > 0.0) {
        return Ok(false);
    }
    let each = units as f64 - 1.0;
    let df = (va + vb) * (va + vb) / (va * va / each + vb * vb / each);
    let reach = se * t_quantile_upper(0.5 * (1.0 - wanted.confidence), df)?;
    Ok(match wanted.goal {
        Goal::Match => gap + reach < wanted.margin,
        Goal::Beat | Goal::Best => gap.abs() > reach,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    const ROOTS: Days = Days {
        mean: 20.0,
        cv_percent: 15.0,
        until: 1000.0,
        sooner: false,
        seed: 7,
    };

    fn beat(margin: f64) -> Wanted {
        Wanted {
            goal: Goal::Beat,
            confidence: 0.95,
            margin,
        }
    }

    #[test]
    fn the_shape_gives_the_spread() {
        // Exponential: a spread as large as the mean.
        assert!((shape(1.0) - 1.0).abs() < 1e-9);
        for cv in [0.05, 0.2, 0.6] {
            let k = shape(cv);
            let back =
                (libm::tgamma(1.0 + 2.0 / k) / libm::tgamma(1.0 + 1.0 / k).powi(2) - 1.0).sqrt();
            assert!((back - cv).abs() < 1e-9);
        }
    }

    #[test]
    fn without_an_effect_it_is_found_about_as_often_as_allowed() {
        let alarms = ROOTS.chance(8, 1.0, &beat(2.0)).unwrap();
        assert!((0.03..0.08).contains(&alarms), "{alarms}");
    }

    #[test]
    fn nearly_normal_days_agree_with_the_t_test() {
        // With nothing unseen the comparison is Welch's; days 1.15 times as long scatter 1.15 times
        // as much. SciPy 1.17, noncentral t with 18 df, standard deviations 3 and 3.45 pooled:
        // 0.5016.
        let chance = ROOTS.chance(10, 1.15, &beat(3.0)).unwrap();
        assert!((chance - 0.5016).abs() < 0.025, "{chance}");
    }

    /// A treatment that is hoped to come sooner is played as such: where the last look cuts late
    /// ones off, it is found far more often than one as much later.
    #[test]
    fn sooner_is_another_question_than_later() {
        let cut = Days {
            until: 21.0,
            ..ROOTS
        };
        let sooner = Days {
            sooner: true,
            ..cut
        };
        let (late, soon) = (
            cut.chance(8, cut.factor(0.2), &beat(4.0)),
            sooner.chance(8, sooner.factor(0.2), &beat(4.0)),
        );
        let (late, soon) = (late.unwrap(), soon.unwrap());
        assert!(soon > late + 0.15, "{soon} {late}");
        let smallest = sooner.smallest(8, &beat(4.0), 0.8).unwrap().unwrap();
        assert!(
            (sooner.chance(8, 1.0 - smallest, &beat(4.0)).unwrap() - 0.8).abs() < 0.02,
            "{smallest}"
        );
    }

    #[test]
    fn units_that_are_never_seen_cost_power_and_more_units_buy_it() {
        let short = Days {
            until: 21.0,
            ..ROOTS
        };
        let (all, cut) = (
            ROOTS.chance(10, 1.15, &beat(3.0)).unwrap(),
            short.chance(10, 1.15, &beat(3.0)).unwrap(),
        );
        assert!(cut < all, "{cut} {all}");
        let needed = ROOTS.fewest(1.15, &beat(3.0), |_| 0.8).unwrap().unwrap();
        assert!((12..24).contains(&needed), "{needed}");
        let smallest = ROOTS.smallest(needed, &beat(3.0), 0.8).unwrap().unwrap();
        assert!(smallest < 0.155 && smallest > 0.12, "{smallest}");
    }
}
