//! All curves together: which is preferred, whether it fits, and which dose is enough by all that
//! may be true.

use super::super::StatsError;
use super::super::distributions::{f_upper, normal_quantile_upper};
use super::super::least_squares::{Curve, Repeated, Within};
use super::curves::{
    ByDose, LinearFit, LogLogistic, LogLogisticFit, PlateauFit, QuadraticFit, Straight,
};
use rand::{Rng, RngExt, SeedableRng};

/// Which curve.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Model {
    /// [`LogLogisticFit`].
    LogLogistic,
    /// [`LinearFit`].
    Linear,
    /// [`PlateauFit`].
    LinearPlateau,
    /// [`QuadraticFit`].
    Quadratic,
    /// A hyperbola, ever less for more: among the curves that are averaged, never the preferred
    /// one.
    Hyperbola,
    /// A parabola on the root of the dose, a hump with a long tail: averaged likewise, never the
    /// preferred one.
    RootParabola,
}

/// What a curve misses of the doses' own means, over what units of one dose differ.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LackOfFit {
    /// The statistic.
    pub f: f64,
    /// Degrees of freedom, above and below.
    pub df: [f64; 2],
    /// Upper tail.
    pub p: f64,
}

/// One curve that may be true.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Candidate {
    model: Model,
    rss: f64,
    parameters: usize,
    aicc: f64,
    /// Share of the evidence among the curves that the doses' means do not rule out; 0 for one that
    /// they do.
    weight: f64,
}

/// All curves, as far as the data carry them.
#[derive(Debug, Clone, PartialEq)]
pub struct DoseFits {
    /// None with fewer than four different doses, or where it does not settle.
    pub log_logistic: Option<LogLogisticFit>,
    /// The straight line.
    pub linear: LinearFit,
    /// None with fewer than three different doses.
    pub plateau: Option<PlateauFit>,
    /// None with fewer than three different doses.
    pub quadratic: Option<QuadraticFit>,
    /// The curve with the least AICc.
    pub preferred: Model,
    /// Whether the preferred curve misses the doses' means; None where no two units share a dose,
    /// or none is left to miss.
    pub lack_of_fit: Option<LackOfFit>,
    hyperbola: Option<Hyperbola>,
    root: Option<QuadraticFit>,
    candidates: Vec<Candidate>,
    by: ByDose,
}

/// intercept + rise x dose / (dose + half).
#[derive(Debug, Clone, Copy, PartialEq)]
struct Hyperbola {
    intercept: f64,
    rise: f64,
    half: f64,
    rss: f64,
}

/// The least of a function that has one between two ends, to a hundred-thousandth of their distance
/// (Kiefer 1953).
fn golden(mut from: f64, mut to: f64, mut of: impl FnMut(f64) -> f64) -> f64 {
    let part = 0.5 * (5.0_f64.sqrt() - 1.0);
    let (mut a, mut b) = (to - part * (to - from), from + part * (to - from));
    let (mut of_a, mut of_b) = (of(a), of(b));
    for _ in 0..24 {
        if of_a < of_b {
            (to, b, of_b) = (b, a, of_a);
            a = to - part * (to - from);
            of_a = of(a);
        } else {
            (from, a, of_a) = (a, b, of_b);
            b = from + part * (to - from);
            of_b = of(b);
        }
    }
    0.5 * (from + to)
}

impl Hyperbola {
    /// The least sum of squares over the dose at half the rise, by a search on its logarithm; for
    /// each such dose the rest is a straight line. None with fewer than four different doses.
    fn of(by: &ByDose) -> Option<Self> {
        const GRID: i32 = 12;
        if by.means.len() < 4 {
            return None;
        }
        let top = by.means.last()?.x;
        let mut bent = by.means.clone();
        let mut at = |log: f64| {
            let half = top * log.exp();
            bent.iter_mut()
                .zip(&by.means)
                .for_each(|(own, mean)| own.x = mean.x / (mean.x + half));
            let line = Straight::through(&bent, by.within);
            Self {
                intercept: line.intercept,
                rise: line.slope,
                half,
                rss: line.rss,
            }
        };
        // From a two-hundredth of the highest dose to thirty times it, beyond which it is a
        // straight line.
        let log = |i: i32| -5.3 + 0.73 * f64::from(i);
        let (best, _) = (0..=GRID)
            .map(|i| (i, at(log(i)).rss))
            .min_by(|a, b| a.1.total_cmp(&b.1))?;
        let least = golden(log(best - 1), log(best + 1), |log| at(log).rss);
        Some(at(least))
    }

    fn value(&self, dose: f64) -> f64 {
        self.intercept + self.rise * dose / (dose + self.half)
    }
}

/// A parabola on the root of the dose.
fn root_parabola(by: &ByDose) -> Option<QuadraticFit> {
    by.bent(f64::sqrt).parabola().ok()
}

/// Below this p the doses' means rule a curve out.
const MISSES: f64 = 0.05;
/// Trials simulated for the limits.
const SIMULATED: usize = 999;
/// A drawn trial's curve is near enough when a step gains less than this share of its sum of
/// squares.
const CLOSE: f64 = 1e-7;
/// A step is halved so often: to a billionth of it.
const HALVED: usize = 30;
/// So many squares are drawn one by one.
const MOST_SUMMED: usize = 500;
/// Steps of dose in which the averaged curve is looked at.
const STEPS: usize = 200;
/// The same for a drawn trial's: between two steps the dose is searched anyway, and a peak is
/// missed by next to nothing.
const STEPS_DRAWN: usize = 50;

/// Akaike's criterion corrected for small samples; infinite where the points do not carry so many
/// parameters.
fn corrected_aic(rss: f64, n: f64, curve_parameters: usize) -> f64 {
    let k = curve_parameters as f64 + 1.0;
    if n - k - 1.0 <= 0.0 {
        return f64::INFINITY;
    }
    // An exact fit would be minus infinity for every curve that manages it; the simplest is listed
    // first then.
    n * (rss / n).max(f64::MIN_POSITIVE).ln() + 2.0 * k + 2.0 * k * (k + 1.0) / (n - k - 1.0)
}

impl DoseFits {
    /// Fits what can be fitted and prefers the curve with the least AICc (Hurvich and Tsai 1989).
    ///
    /// # Errors
    /// As [`super::curves::fit_linear`].
    ///
    /// ```
    /// use iron_twin_stats::dose::{DoseFits, Model};
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert_eq!(DoseFits::of(&points)?.preferred, Model::LinearPlateau);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn of(points: &[(f64, f64)]) -> Result<Self, StatsError> {
        Self::less_spent(points, 0)
    }

    /// The same to values from which something else was taken before, such as what blocks give:
    /// `spent` is how many degrees of freedom that took.
    ///
    /// # Errors
    /// As [`super::curves::fit_linear`](super::fit_linear).
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> = (0..12).map(|i| (f64::from(i % 4), f64::from(i % 4) + 0.1 * f64::from(i * 7 % 5))).collect();
    /// let spent = DoseFits::less_spent(&points, 2)?;
    /// assert_eq!((spent.df(), spent.linear.slope), (8.0, DoseFits::of(&points)?.linear.slope));
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn less_spent(points: &[(f64, f64)], spent: usize) -> Result<Self, StatsError> {
        let mut by = ByDose::of(points)?;
        by.within.spent = spent as f64;
        let mut fits = Self {
            linear: by.line()?,
            log_logistic: by.log_logistic().ok(),
            plateau: by.plateau().ok(),
            quadratic: by.parabola().ok(),
            hyperbola: Hyperbola::of(&by),
            root: root_parabola(&by),
            preferred: Model::Linear,
            lack_of_fit: None,
            candidates: Vec::new(),
            by,
        };
        fits.weigh();
        let least = |best: Candidate, next: &Candidate| {
            let only_averaged = matches!(next.model, Model::Hyperbola | Model::RootParabola);
            if !only_averaged && next.aicc < best.aicc {
                *next
            } else {
                best
            }
        };
        let first = fits.candidates[0];
        let preferred = fits.candidates.iter().fold(first, least);
        fits.preferred = preferred.model;
        fits.lack_of_fit = misses(&preferred, &fits.by);
        Ok(fits)
    }

    /// The curves with what speaks for each.
    fn weigh(&mut self) {
        let by = &self.by;
        let of = |model, rss, parameters| Candidate {
            model,
            rss,
            parameters,
            aicc: corrected_aic(rss, by.free(), parameters),
            weight: 0.0,
        };
        self.candidates = vec![of(Model::Linear, self.linear.rss, 2)];
        self.candidates
            .extend(self.plateau.map(|p| of(Model::LinearPlateau, p.rss, 3)));
        self.candidates
            .extend(self.quadratic.map(|q| of(Model::Quadratic, q.rss, 3)));
        self.candidates
            .extend(self.hyperbola.map(|h| of(Model::Hyperbola, h.rss, 3)));
        self.candidates
            .extend(self.root.map(|r| of(Model::RootParabola, r.rss, 3)));
        self.candidates.extend(
            self.log_logistic
                .as_ref()
                .map(|l| of(Model::LogLogistic, l.rss, 4)),
        );
        // What is missed less than units of one dose differ is never ruled out, whatever the
        // degrees of freedom: at least 31 of 100 such ratios are larger by luck.
        let near = |c: &Candidate| misses_by(c, by).is_none_or(|(f, _)| f <= 1.0);
        let stands = |c: &Candidate| {
            c.aicc.is_finite() && (near(c) || misses(c, by).is_none_or(|m| m.p >= MISSES))
        };
        let least = self
            .candidates
            .iter()
            .filter(|c| stands(c))
            .map(|c| c.aicc)
            .fold(f64::INFINITY, f64::min);
        let evidence = |c: &Candidate| {
            if stands(c) {
                (-0.5 * (c.aicc - least)).exp()
            } else {
                0.0
            }
        };
        let all: f64 = self.candidates.iter().map(evidence).sum();
        let shares: Vec<f64> = self
            .candidates
            .iter()
            .map(|c| if all > 0.0 { evidence(c) / all } else { 0.0 })
            .collect();
        self.candidates
            .iter_mut()
            .zip(shares)
            .for_each(|(c, share)| c.weight = share);
    }

    /// Predicted response of one curve.
    fn curve(&self, model: Model, dose: f64) -> f64 {
        match (model, &self.log_logistic, &self.plateau, &self.quadratic) {
            (Model::LogLogistic, Some(l), ..) => LogLogistic.value(&l.parameters(), dose),
            (Model::LinearPlateau, _, Some(p), _) => p.intercept + p.slope * dose.min(p.joint),
            (Model::Quadratic, .., Some(q)) => q.intercept + (q.slope + q.curvature * dose) * dose,
            (Model::RootParabola, ..) => {
                let root = dose.sqrt();
                self.root.map_or(f64::NAN, |r| {
                    r.intercept + (r.slope + r.curvature * root) * root
                })
            }
            (Model::Hyperbola, ..) => self.hyperbola.map_or(f64::NAN, |h| h.value(dose)),
            _ => self.linear.intercept + self.linear.slope * dose,
        }
    }

    /// Predicted response of the preferred curve.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert!((DoseFits::of(&points)?.predict(9.0) - 20.0).abs() < 1e-6);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn predict(&self, dose: f64) -> f64 {
        self.curve(self.preferred, dose)
    }

    /// Predicted response of all curves that the doses' means do not rule out, each by its share of
    /// the evidence (Buckland, Burnham and Augustin 1997). None where every curve is ruled out, or
    /// too few units stand to judge whether it bends.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert!((DoseFits::of(&points)?.averaged(3.0).expect("a curve") - 20.0).abs() < 1e-3);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn averaged(&self, dose: f64) -> Option<f64> {
        let bends = self
            .candidates
            .iter()
            .any(|c| c.model != Model::Linear && c.aicc.is_finite());
        let weighed = self.candidates.iter().filter(|c| c.weight > 0.0);
        let sum: f64 = weighed
            .clone()
            .map(|c| c.weight * self.curve(c.model, dose))
            .sum();
        (bends && weighed.count() > 0).then_some(sum)
    }

    /// The curve for which most speaks among those that stand.
    #[must_use]
    pub fn leading(&self) -> Option<Model> {
        let standing = self.candidates.iter().filter(|c| c.weight > 0.0);
        standing
            .max_by(|a, b| a.weight.total_cmp(&b.weight))
            .map(|c| c.model)
    }

    /// The dose at which the leading curve turns, where it is a hump (`higher`) or a trough (else).
    #[must_use]
    pub fn turns(&self, higher: bool) -> Option<f64> {
        let (own, root) = match self.leading()? {
            Model::Quadratic => (self.quadratic?, false),
            Model::RootParabola => (self.root?, true),
            _ => return None,
        };
        let hump = if higher {
            own.curvature < 0.0
        } else {
            own.curvature > 0.0
        };
        hump.then_some(if root {
            own.peak.max(0.0).powi(2)
        } else {
            own.peak
        })
    }

    /// Residual sum of squares of the preferred curve, and how many parameters it has.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// let (left, parameters) = DoseFits::of(&points)?.preferred_rss();
    /// assert!(left < 1e-12 && parameters == 3);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn preferred_rss(&self) -> (f64, usize) {
        let own = self.candidates.iter().find(|c| c.model == self.preferred);
        own.map_or((f64::NAN, 0), |c| (c.rss, c.parameters))
    }

    /// Refits every curve that has a share of the evidence to other responses at the same doses.
    fn refit(&self, by: ByDose) -> Option<Self> {
        let mut other = Self {
            linear: by.line().ok()?,
            ..self.clone()
        };
        other.plateau = self.plateau.and_then(|_| by.plateau().ok());
        other.quadratic = self.quadratic.and_then(|_| by.parabola().ok());
        other.hyperbola = self.hyperbola.and_then(|_| Hyperbola::of(&by));
        other.root = self.root.and_then(|_| root_parabola(&by));
        other.log_logistic = self
            .log_logistic
            .as_ref()
            .and_then(|l| by.log_logistic_from(&l.parameters(), CLOSE).ok());
        other.by = by;
        other.weigh();
        Some(other)
    }

    /// The best that the averaged curve reaches in `[from, to]`.
    #[must_use]
    pub fn best(&self, from: f64, to: f64, higher: bool) -> Option<f64> {
        let sign = if higher { 1.0 } else { -1.0 };
        let reached =
            (0..=STEPS).map(|i| self.averaged(from + (to - from) * i as f64 / STEPS as f64));
        reached
            .map(|v| v.map(|v| sign * v))
            .try_fold(f64::NEG_INFINITY, |best, v| v.map(|v| best.max(v)))
            .map(|v| sign * v)
    }

    /// The lowest dose in `[from, to]` whose averaged response lies within `margin` of the best one
    /// there.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// // Rises by 10 a unit of dose up to dose 2, and no further.
    /// let points: Vec<(f64, f64)> = [0.0, 0.5, 1.0, 1.5, 2.0, 3.0, 4.0].iter().map(|&d: &f64| (d, 10.0 * d.min(2.0))).collect();
    /// assert!((DoseFits::of(&points)?.enough(0.0, 4.0, 2.0, true).expect("a curve") - 1.8).abs() < 1e-3);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn enough(&self, from: f64, to: f64, margin: f64, higher: bool) -> Option<f64> {
        self.enough_in(STEPS, (from, to), margin, higher)
    }

    fn enough_in(
        &self,
        steps: usize,
        (from, to): (f64, f64),
        margin: f64,
        higher: bool,
    ) -> Option<f64> {
        let sign = if higher { 1.0 } else { -1.0 };
        let gain = |dose: f64| self.averaged(dose).map_or(f64::NEG_INFINITY, |v| sign * v);
        let at = |i: usize| from + (to - from) * i as f64 / steps as f64;
        let gains: Vec<f64> = (0..=steps).map(|i| gain(at(i))).collect();
        let wanted = gains.iter().copied().fold(f64::NEG_INFINITY, f64::max) - margin;
        let first = gains.iter().position(|g| g.is_finite() && *g >= wanted)?;
        if first == 0 {
            return Some(from);
        }
        let (mut low, mut high) = (at(first - 1), at(first));
        for _ in 0..HALVED {
            let middle = 0.5 * (low + high);
            if gain(middle) >= wanted {
                high = middle
            } else {
                low = middle
            }
        }
        Some(high)
    }
}

/// What a curve misses of the means over what units of one dose differ, with its degrees of
/// freedom; None where no two units share a dose, or the curve passes through every mean.
fn misses_by(curve: &Candidate, by: &ByDose) -> Option<(f64, [f64; 2])> {
    let (over, df) = (by.means.len() as f64 - curve.parameters as f64, by.df());
    if !(df > 0.0 && over > 0.0 && by.within.squares > 0.0) {
        return None;
    }
    let f = ((curve.rss - by.within.squares).max(0.0) / over) / (by.within.squares / df);
    Some((f, [over, df]))
}

fn misses(curve: &Candidate, by: &ByDose) -> Option<LackOfFit> {
    misses_by(curve, by).map(|(f, df)| LackOfFit {
        f,
        df,
        p: f_upper(f, df[0], df[1]),
    })
}

/// The dose that is enough, with its interval.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Enough {
    /// The dose.
    pub dose: f64,
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// Simulated trials behind the limits.
    pub simulated: usize,
}

impl DoseFits {
    /// Spread of the units of one dose, where any share one and differ.
    fn pure_sd(&self) -> Option<f64> {
        let (squares, df) = (self.by.within.squares, self.by.df());
        (df > 0.0 && squares > 0.0).then(|| (squares / df).sqrt())
    }

    /// Degrees of freedom that the preferred curve leaves.
    #[must_use]
    pub fn df(&self) -> f64 {
        self.by.free() - self.preferred_rss().1 as f64
    }

    /// The lowest and the highest dose.
    fn range(&self) -> (f64, f64) {
        let of = |mean: Option<&Repeated>| mean.map_or(f64::NAN, |m| m.x);
        (of(self.by.means.first()), of(self.by.means.last()))
    }

    /// The dose that is enough, with limits by parametric bootstrap: trials are drawn from each
    /// curve as often as the evidence speaks for it, with the spread of units of one dose, every
    /// curve is refitted and weighed anew, and the same is asked. Of a trial the doses' means are
    /// drawn and the squares within them, which is all that the curves see. Without a spread the
    /// limits are the ends of the range. None where no curve stands.
    ///
    /// ```
    /// use iron_twin_stats::dose::DoseFits;
    /// let points: Vec<(f64, f64)> =
    ///     (0..12).map(|i| (f64::from(i % 6), 10.0 * f64::from(i % 6).min(2.0) + 0.3 * f64::from(i * 7 % 5))).collect();
    /// let enough = DoseFits::of(&points)?.enough_with_limits(2.0, true, 0.95, 1).expect("a curve");
    /// assert!(enough.low <= enough.dose && enough.dose <= enough.high && enough.high < 3.0);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn enough_with_limits(
        &self,
        margin: f64,
        higher: bool,
        confidence: f64,
        seed: u64,
    ) -> Option<Enough> {
        let (from, to) = self.range();
        let dose = self.enough(from, to, margin, higher)?;
        let own = self.df();
        let of_curve = (own > 0.0).then(|| ((self.preferred_rss().0 / own).sqrt(), own));
        let Some((sd, df)) = self.pure_sd().map(|sd| (sd, self.by.df())).or(of_curve) else {
            return Some(Enough {
                dose,
                low: from,
                high: to,
                simulated: 0,
            });
        };
        let mut random = rand_chacha::ChaCha8Rng::seed_from_u64(seed);
        let mut found: Vec<f64> = (0..SIMULATED)
            .filter_map(|_| self.refit(self.drawn(sd, df, &mut random)))
            .filter_map(|drawn| drawn.enough_in(STEPS_DRAWN, (from, to), margin, higher))
            .collect();
        found.sort_by(f64::total_cmp);
        let tail = 0.5 * (1.0 - confidence);
        let at = |share: f64| {
            found[((share * (found.len() - 1) as f64).round() as usize).min(found.len() - 1)]
        };
        if found.is_empty() {
            return Some(Enough {
                dose,
                low: from,
                high: to,
                simulated: 0,
            });
        }
        Some(Enough {
            dose,
            low: at(tail).min(dose),
            high: at(1.0 - tail).max(dose),
            simulated: found.len(),
        })
    }

    /// One trial drawn from the curves.
    fn drawn(&self, sd: f64, df: f64, random: &mut impl Rng) -> ByDose {
        let mut normal = || normal_quantile_upper(random.random_range(1e-12..1.0 - 1e-12));
        let mut squares = || match df as usize {
            few @ 0..=MOST_SUMMED => (0..few).map(|_| normal().powi(2)).sum::<f64>(),
            // The cube root of so many squares is all but normal (Wilson and Hilferty 1931).
            _ => {
                df.floor() * (1.0 - 2.0 / (9.0 * df) + normal() * (2.0 / (9.0 * df)).sqrt()).powi(3)
            }
        };
        // The spread itself is known from so few units only.
        let own_sd = sd * (df.floor() / squares()).sqrt();
        let within = if self.by.df() > 0.0 {
            own_sd * own_sd * squares()
        } else {
            0.0
        };
        let mut left: f64 = random.random();
        let drawn_from = self.candidates.iter().filter(|c| c.weight > 0.0).find(|c| {
            left -= c.weight;
            left <= 0.0
        });
        let model = drawn_from.map_or(self.preferred, |c| c.model);
        let mean = |m: &Repeated| {
            let chance: f64 = random.random_range(1e-12..1.0 - 1e-12);
            Repeated {
                y: self.curve(model, m.x) + own_sd / m.times.sqrt() * normal_quantile_upper(chance),
                ..*m
            }
        };
        let means = self.by.means.iter().map(mean).collect();
        ByDose {
            means,
            within: Within {
                squares: within,
                ..self.by.within
            },
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn enough_is_the_lowest_dose_within_the_margin() {
        let points: Vec<(f64, f64)> = (0..14)
            .map(|i| {
                (
                    f64::from(i % 7),
                    2.0 * f64::from(i % 7).min(3.0) + if i % 2 == 0 { 0.05 } else { -0.05 },
                )
            })
            .collect();
        let fits = DoseFits::of(&points).unwrap();
        assert_eq!(fits.preferred, Model::LinearPlateau);
        let enough = fits
            .enough_with_limits(1.0, true, 0.95, 1)
            .expect("a curve that fits");
        assert!((enough.dose - 2.5).abs() < 0.2, "{enough:?}");
        assert!(enough.low <= enough.dose && enough.dose <= enough.high && enough.simulated > 400);
        assert_eq!(
            fits.enough(0.0, 6.0, 1.0, false),
            Some(0.0),
            "where less is better, nothing is enough"
        );
        assert_eq!(
            Some(enough),
            fits.enough_with_limits(1.0, true, 0.95, 1),
            "the same seed, the same limits"
        );
    }

    #[test]
    fn two_doses_have_a_line_alone() {
        let two = DoseFits::of(&[(0.0, 1.0), (1.0, 2.0), (0.0, 1.2), (1.0, 2.1)]).unwrap();
        assert!(
            two.log_logistic.is_none() && two.plateau.is_none() && two.preferred == Model::Linear
        );
        assert_eq!(
            two.enough(0.0, 1.0, 0.5, true),
            None,
            "nothing shows whether it bends"
        );
    }

    /// A hump: the parabola leads, the line and the plateau are ruled out, and what is enough lies
    /// before the peak.
    #[test]
    fn too_much_does_harm() {
        let points: Vec<(f64, f64)> = (0..15)
            .map(|i| {
                let dose = [0.0, 1.0, 2.0, 4.0, 8.0][i % 5];
                (
                    dose,
                    10.0 + 10.0 * dose - 1.25 * dose * dose + [0.6, -0.4, -0.2][i / 5],
                )
            })
            .collect();
        let fits = DoseFits::of(&points).unwrap();
        assert_eq!(
            (fits.preferred, fits.leading()),
            (Model::Quadratic, Some(Model::Quadratic))
        );
        assert!(
            (fits.quadratic.unwrap().peak - 4.0).abs() < 0.05,
            "{:?}",
            fits.quadratic
        );
        let enough = fits.enough_with_limits(3.0, true, 0.95, 1).unwrap();
        assert!(
            enough.low < 2.45 && 2.45 < enough.high && enough.high < 3.2,
            "{enough:?}"
        );
        let line = LackOfFit {
            ..misses(&fits.candidates[0], &fits.by).unwrap()
        };
        assert!(
            line.p < 1e-6 && fits.lack_of_fit.unwrap().p > 0.5,
            "{line:?}"
        );
    }
}
