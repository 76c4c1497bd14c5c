//! Days to an event: restricted means, medians, the log-rank test; also where the day is known only
//! to lie between two checks.

use super::super::dealing::count_deals;
use super::super::result::{
    Analysis, Contrast, LogRankOut, OverallOut, Randomisation, RestrictedMeanOut, TreatmentOut,
};
use super::super::sentence::Terms;
use super::super::table::Table;
use super::super::units::Units;
use super::super::warnings;
use super::amount;
use crate::deciding::{Decision, sidak_confidence, sidak_limits};
use crate::kinds::shared::{Needed, contrast_of, envelope, layout_of, named, needed};
use crate::question::{AnalyseError, Question};
use crate::strictness::Laid;
use crate::table::RowExtras;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::{t_quantile_upper, t_two_sided};
use iron_twin_stats::linear::{self, MeansFit, Observation};
use iron_twin_stats::power::PowerPlan;
use iron_twin_stats::redeal::Block;
use iron_twin_stats::survival::{Curve, Lifetime, RestrictedMean, log_rank, log_rank_scores};
use iron_twin_stats::turnbull::{Spread, Window};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use std::collections::HashMap;

/// Compares days to an event.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    let units = Units::of(&table.observations, table);
    let curves: Vec<DayCurve> = (0..table.treatments.len())
        .map(|t| DayCurve::of(&members(table, |o| o.treatment == t), table.has_after))
        .collect::<Result<_, _>>()
        .map_err(named(table))?;
    let tau = question.tau.unwrap_or_else(|| usual_tau(&curves));
    if !(tau > 0.0) {
        return Err(AnalyseError::Tau(tau));
    }
    if units.have_samples() {
        return by_unit_means(table, question, &curves, tau);
    }
    let in_blocks = InBlocks::of(table, &units, tau).map_err(named(table))?;
    Days {
        table,
        question,
        units,
        curves,
        tau,
        in_blocks,
    }
    .analysis()
}

/// A row as a lifetime or a window, whichever the table gives.
#[derive(Clone, Copy, PartialEq)]
struct Member {
    lifetime: Lifetime,
    window: Window,
}

impl Member {
    fn of(observation: &Observation, beside: &RowExtras) -> Self {
        let day = observation.value;
        let window = if beside.seen {
            // Where nobody had looked before, the event came some time since day 0.
            Window {
                after: beside.after.unwrap_or(0.0).min(day),
                by: day,
            }
        } else {
            Window {
                after: beside.after.map_or(day, |after| after.max(day)),
                by: f64::INFINITY,
            }
        };
        Self {
            lifetime: Lifetime {
                day,
                seen: beside.seen,
            },
            window,
        }
    }
}

fn members(table: &Table, keep: impl Fn(&Observation) -> bool) -> Vec<Member> {
    let rows = table.observations.iter().zip(&table.beside);
    rows.filter(|(o, _)| keep(o))
        .map(|(o, b)| Member::of(o, b))
        .collect()
}

/// Rows of a treatment, and those of them without the event by a day.
fn unseen(table: &Table, treatment: usize, tau: f64) -> [usize; 2] {
    let own = || {
        table
            .observations
            .iter()
            .zip(&table.beside)
            .filter(|(o, _)| o.treatment == treatment)
    };
    [
        own().count(),
        own()
            .filter(|(o, beside)| !beside.seen || o.value > tau)
            .count(),
    ]
}

/// The curve of a treatment, with the members that it came from.
enum DayCurve {
    Exact(Curve),
    Between(Spread, Vec<Member>),
}

/// Mean up to a day of all but one, for each in turn; who is the same leaves the same behind.
fn areas_without_each(members: &[Member], between: bool, tau: f64) -> Result<Vec<f64>, StatsError> {
    let mut known: Vec<(Member, f64)> = Vec::new();
    let without = |(place, own): (usize, &Member)| {
        if let Some((_, area)) = known.iter().find(|(other, _)| other == own) {
            return Ok(*area);
        }
        let rest = [&members[..place], &members[place + 1..]].concat();
        let area = DayCurve::of(&rest, between)?.area(tau);
        known.push((*own, area));
        Ok(area)
    };
    members.iter().enumerate().map(without).collect()
}

impl DayCurve {
    fn of(members: &[Member], between: bool) -> Result<Self, StatsError> {
        if between {
            let windows: Vec<Window> = members.iter().map(|m| m.window).collect();
            Ok(Self::Between(Spread::of(&windows)?, members.to_vec()))
        } else {
            Ok(Self::Exact(Curve::of(
                &members.iter().map(|m| m.lifetime).collect::<Vec<_>>(),
            )?))
        }
    }

    fn median(&self) -> Option<f64> {
        match self {
            Self::Exact(curve) => curve.median(),
            Self::Between(spread, _) => spread.median(),
        }
    }

    fn last_day(&self) -> f64 {
        match self {
            Self::Exact(curve) => curve.last_day,
            Self::Between(spread, _) => spread.last_day(),
        }
    }

    fn reaches_zero(&self) -> bool {
        match self {
            Self::Exact(curve) => curve.reaches_zero(),
            Self::Between(spread, _) => spread.reaches_zero(),
        }
    }

    /// Mean up to a day.
    fn area(&self, tau: f64) -> f64 {
        match self {
            Self::Exact(curve) => curve.restricted_mean(tau).mean,
            Self::Between(spread, _) => spread.restricted_mean(tau),
        }
    }

    /// Mean up to a day: Greenwood's error, or between two checks that of the jackknife, which
    /// leaves out unit by unit.
    fn restricted_mean(&self, tau: f64) -> Result<RestrictedMean, StatsError> {
        match self {
            Self::Exact(curve) => Ok(curve.restricted_mean(tau)),
            Self::Between(spread, members) => {
                let mean = spread.restricted_mean(tau);
                let n = members.len() as f64;
                if members.len() < 2 {
                    return Ok(RestrictedMean { mean, se: f64::NAN });
                }
                let left_out = areas_without_each(members, true, tau)?;
                let centre = left_out.iter().sum::<f64>() / n;
                let squares: f64 = left_out.iter().map(|m| (m - centre).powi(2)).sum();
                Ok(RestrictedMean {
                    mean,
                    se: (squares * (n - 1.0) / n).sqrt(),
                })
            }
        }
    }
}

/// The least last day among the curves that do not come down to zero; the latest of all where every
/// curve does.
fn usual_tau(curves: &[DayCurve]) -> f64 {
    let open = curves
        .iter()
        .filter(|c| !c.reaches_zero())
        .map(DayCurve::last_day)
        .fold(f64::INFINITY, f64::min);
    if open.is_finite() {
        open
    } else {
        curves.iter().map(DayCurve::last_day).fold(0.0, f64::max)
    }
}

/// Samples in units: each unit's own restricted mean, compared as amounts are.
fn by_unit_means(
    table: &Table,
    question: &Question,
    curves: &[DayCurve],
    tau: f64,
) -> Result<Analysis, AnalyseError> {
    let mut means = table.clone();
    let mut first = vec![true; table.units.len()];
    means
        .observations
        .retain(|o| std::mem::take(&mut first[o.unit]));
    for row in &mut means.observations {
        let own = members(table, |o| o.unit == row.unit);
        let curve = DayCurve::of(&own, table.has_after).map_err(named(table))?;
        row.value = curve.area(tau);
    }
    means.kind = Kind::Amount;
    let mut analysis = amount::compare(&means, question, Terms::Days)?;
    let samples = Units::of(&table.observations, table).samples;
    analysis.kind = Kind::Days;
    analysis.input.used = table.observations.len();
    analysis.design.samples_per_unit = [
        samples.iter().copied().min().unwrap_or(0),
        samples.iter().copied().max().unwrap_or(0),
    ];
    for (t, (out, curve)) in analysis.treatments.iter_mut().zip(curves).enumerate() {
        out.median = Some(curve.median());
        out.samples = table
            .observations
            .iter()
            .filter(|o| o.treatment == t)
            .count();
    }
    let (control, others) = match analysis.treatments.split_first() {
        Some((control, others)) => (control, others),
        None => return Ok(analysis),
    };
    for ((contrast, treatment), t) in analysis.contrasts.iter_mut().zip(others).zip(1..) {
        contrast.restricted_mean = Some(RestrictedMeanOut {
            tau,
            control: control.adjusted_mean,
            treatment: treatment.adjusted_mean,
            se_control: control.se.unwrap_or(0.0),
            se_treatment: treatment.se.unwrap_or(0.0),
            unseen_control: unseen(table, 0, tau),
            unseen_treatment: unseen(table, t, tau),
        });
    }
    Ok(analysis)
}

struct Days<'a> {
    table: &'a Table,
    question: &'a Question,
    units: Units,
    curves: Vec<DayCurve>,
    tau: f64,
    /// The comparison inside blocks, where there are any.
    in_blocks: Option<InBlocks>,
}

/// Each unit's own part of its treatment's restricted mean, compared inside the blocks as amounts
/// are.
///
/// The part is the pseudo-value n m - (n - 1) m without it (Andersen, Hansen and Klein 2004): with
/// nothing left unseen, the unit's own day.
struct InBlocks {
    fit: MeansFit,
}

impl InBlocks {
    fn of(table: &Table, units: &Units, tau: f64) -> Result<Option<Self>, StatsError> {
        let layout = layout_of(table, false);
        if layout.blocks < 2 || linear::check_connected(&units.rows, layout).is_err() {
            return Ok(None);
        }
        let mut rows = units.rows.clone();
        let place: HashMap<usize, usize> = rows
            .iter()
            .enumerate()
            .map(|(at, row)| (row.unit, at))
            .collect();
        for t in 0..table.treatments.len() {
            let own = members(table, |o| o.treatment == t);
            let number = own.len() as f64;
            if own.len() < 2 {
                return Ok(None);
            }
            let whole = DayCurve::of(&own, table.has_after)?.area(tau);
            let parts = areas_without_each(&own, table.has_after, tau)?;
            // A row a unit: the members in the order of the file.
            for (observation, without) in table
                .observations
                .iter()
                .filter(|o| o.treatment == t)
                .zip(parts)
            {
                rows[place[&observation.unit]].value = number * whole - (number - 1.0) * without;
            }
        }
        let fit = linear::fit(&rows, layout)?;
        Ok((fit.df > 0.0).then_some(Self { fit }))
    }

    fn gap(&self, first: usize, second: usize) -> Option<Gap> {
        let (means, covariance) = (&self.fit.means, &self.fit.covariance);
        let variance = covariance[(first, first)] + covariance[(second, second)]
            - 2.0 * covariance[(first, second)];
        let (estimate, se) = (means[first] - means[second], variance.max(0.0).sqrt());
        // Days that agree to the last digit inside every block leave rounding, and no spread.
        let spread =
            self.fit.residual_sd > 1e-9 * means.iter().fold(0.0_f64, |most, m| most.max(m.abs()));
        (se > 0.0 && spread).then_some(Gap {
            estimate,
            se,
            df: self.fit.df,
        })
    }
}

/// The difference of two restricted means with Welch's degrees of freedom.
struct Gap {
    estimate: f64,
    se: f64,
    df: f64,
}

impl Days<'_> {
    fn analysis(&self) -> Result<Analysis, AnalyseError> {
        let (table, question) = (self.table, self.question);
        let means: Vec<RestrictedMean> = self
            .curves
            .iter()
            .map(|c| c.restricted_mean(self.tau))
            .collect::<Result<_, _>>()
            .map_err(named(table))?;
        let control = means[0].mean;
        let margin = match question.margin {
            None => 0.0,
            Some(Margin::Absolute(days)) => days,
            Some(Margin::Percent(percent)) if control > 0.0 => 0.01 * percent * control,
            Some(Margin::Percent(_)) => return Err(AnalyseError::PercentOfNothing(control)),
        };
        let needed = self.units_needed(&means, margin);
        let said = Decision {
            question,
            terms: Terms::Days,
            margin,
            control,
        };
        let mut analysis = envelope(table, question, &self.units, "difference");
        if let Some(out) = analysis.margin.as_mut() {
            out.absolute = Some(margin);
        }
        analysis.treatments = (0..means.len())
            .map(|t| self.treatment(t, &means[t]))
            .collect();
        analysis.overall = self.overall();
        analysis.residual.df = self.units.rows.len().saturating_sub(means.len()) as f64;
        analysis.warnings = warnings::of_units(table, question, &self.units);
        (analysis.units_needed, analysis.units_for_verdict) = (needed.test, needed.verdict);
        analysis.contrasts = (1..means.len())
            .map(|t| {
                let mut contrast = self.contrast(t, &means)?;
                (contrast.units_needed, contrast.units_for_verdict) = (needed.test, needed.verdict);
                // A side whose units were all seen on one day, or all not seen by it, shows no
                // spread of its own.
                let flat = [t, 0]
                    .iter()
                    .any(|&side| self.units.counts[side] > 1 && means[side].se == 0.0);
                let units = (self.units.counts[t], self.units.counts[0]);
                said.decide_unless(&mut contrast, units, None, flat);
                Ok(contrast)
            })
            .collect::<Result<Vec<Contrast>, StatsError>>()
            .map_err(named(table))?;
        if question.goal == Goal::Best {
            analysis.best = Some(self.best(&means).map_err(named(table))?);
        }
        Ok(analysis)
    }

    fn treatment(&self, t: usize, mean: &RestrictedMean) -> TreatmentOut {
        TreatmentOut {
            name: self.table.treatments[t].clone(),
            units: self.units.counts[t],
            samples: self.units.counts[t],
            mean: mean.mean,
            adjusted_mean: self
                .in_blocks
                .as_ref()
                .map_or(mean.mean, |b| b.fit.means[t]),
            sd: None,
            se: mean.se.is_finite().then_some(mean.se),
            median: Some(self.curves[t].median()),
        }
    }

    fn overall(&self) -> Option<OverallOut> {
        let units: Vec<(usize, usize, Lifetime)> = self.lifetimes(|_| true);
        let test = log_rank(
            &units,
            self.table.treatments.len(),
            self.table.blocks.len().max(1),
        )
        .filter(|_| !self.table.has_after)?;
        Some(OverallOut {
            test: "log-rank",
            statistic: test.chi_square,
            df: vec![test.df],
            p: test.p,
        })
    }

    fn lifetimes(&self, keep: impl Fn(usize) -> bool) -> Vec<(usize, usize, Lifetime)> {
        let rows = self.table.observations.iter().zip(&self.table.beside);
        rows.filter(|(o, _)| keep(o.treatment))
            .map(|(o, b)| {
                (
                    o.treatment,
                    o.block,
                    Lifetime {
                        day: o.value,
                        seen: b.seen,
                    },
                )
            })
            .collect()
    }

    fn gap(&self, first: usize, second: usize, means: &[RestrictedMean]) -> Option<Gap> {
        if let Some(blocks) = &self.in_blocks {
            return blocks.gap(first, second);
        }
        let (a, b) = (&means[first], &means[second]);
        let (n, m) = (
            self.units.counts[first] as f64 - 1.0,
            self.units.counts[second] as f64 - 1.0,
        );
        let (va, vb) = (
            a.se * a.se * self.small(first),
            b.se * b.se * self.small(second),
        );
        let df = (va + vb) * (va + vb) / (va * va / n + vb * vb / m);
        (n > 0.0 && m > 0.0 && va + vb > 0.0).then(|| Gap {
            estimate: a.mean - b.mean,
            se: (va + vb).sqrt(),
            df,
        })
    }

    /// Greenwood's variance is that of a share, over n and not n - 1: with nothing left unseen,
    /// times this it is Welch's. The jackknife between two checks has it already.
    fn small(&self, t: usize) -> f64 {
        let n = self.units.counts[t] as f64;
        if matches!(self.curves[t], DayCurve::Exact(_)) && n > 1.0 {
            n / (n - 1.0)
        } else {
            1.0
        }
    }

    fn contrast(&self, t: usize, means: &[RestrictedMean]) -> Result<Contrast, StatsError> {
        let (control, treated) = (&means[0], &means[t]);
        let mut contrast = contrast_of(self.table, t);
        contrast.estimate = self
            .in_blocks
            .as_ref()
            .map_or(treated.mean - control.mean, |b| {
                b.fit.means[t] - b.fit.means[0]
            });
        contrast.percent = (control.mean > 0.0).then(|| 100.0 * contrast.estimate / control.mean);
        contrast.restricted_mean = Some(RestrictedMeanOut {
            tau: self.tau,
            control: control.mean,
            treatment: treated.mean,
            se_control: if control.se.is_finite() {
                control.se
            } else {
                0.0
            },
            se_treatment: if treated.se.is_finite() {
                treated.se
            } else {
                0.0
            },
            unseen_control: unseen(self.table, 0, self.tau),
            unseen_treatment: unseen(self.table, t, self.tau),
        });
        contrast.randomisation = self.redealt(t);
        contrast.logrank = Some(self.log_rank(t, contrast.randomisation.clone()));
        if let Some(Gap { estimate, se, df }) = self.gap(t, 0, means) {
            let reach = se * t_quantile_upper(0.5 * (1.0 - self.question.confidence), df)?;
            let p = t_two_sided(estimate / se, df);
            (contrast.se, contrast.df, contrast.p) = (Some(se), df, Some(p));
            (contrast.low, contrast.high) = (Some(estimate - reach), Some(estimate + reach));
            contrast.simultaneous = sidak_limits(
                (estimate, se, df),
                p,
                self.question.confidence,
                means.len() - 1,
            )?;
        }
        Ok(contrast)
    }

    fn log_rank(&self, t: usize, exact: Option<Randomisation>) -> LogRankOut {
        let pair: Vec<(usize, usize, Lifetime)> = self
            .lifetimes(|treatment| treatment == t || treatment == 0)
            .into_iter()
            .map(|(treatment, block, lifetime)| (usize::from(treatment == t), block, lifetime))
            .collect();
        let test =
            log_rank(&pair, 2, self.table.blocks.len().max(1)).filter(|_| !self.table.has_after);
        LogRankOut {
            chi2: test.map(|l| l.chi_square),
            p: test.map(|l| l.p),
            exact,
        }
    }

    /// Deals the log-rank scores anew, scored inside each block from the units of the two
    /// treatments.
    fn redealt(&self, t: usize) -> Option<Randomisation> {
        let blocks: Vec<Block> = (0..self.table.blocks.len().max(1))
            .map(|block| {
                let own = |treatment: usize| {
                    members(self.table, |o| o.block == block && o.treatment == treatment)
                };
                let (treated, control) = (own(t), own(0));
                let all: Vec<Member> = treated.iter().chain(&control).copied().collect();
                let scores = self.scores(&all).unwrap_or_else(|| vec![0.0; all.len()]);
                let (first, second) = scores.split_at(treated.len());
                Block {
                    treated: first.to_vec(),
                    control: second.to_vec(),
                }
            })
            .collect();
        count_deals(&blocks, self.question.seed)
    }

    fn scores(&self, members: &[Member]) -> Option<Vec<f64>> {
        if self.table.has_after {
            let windows: Vec<Window> = members.iter().map(|m| m.window).collect();
            return Some(Spread::of(&windows).ok()?.scores(&windows));
        }
        let lifetimes: Vec<Lifetime> = members.iter().map(|m| m.lifetime).collect();
        Some(log_rank_scores(&lifetimes)).filter(|s| s.len() == members.len())
    }

    /// Units of a treatment with an 80 % chance to find a difference of the margin, the spread as
    /// found.
    fn units_needed(&self, means: &[RestrictedMean], margin: f64) -> Needed {
        let variances: Vec<f64> = means
            .iter()
            .zip(&self.units.counts)
            .enumerate()
            .map(|(t, (m, &n))| m.se * m.se * self.small(t) * n as f64)
            .filter(|v| v.is_finite())
            .collect();
        let sd = (variances.iter().sum::<f64>() / variances.len().max(1) as f64).sqrt();
        if !(margin > 0.0 && sd > 0.0) {
            return Needed::default();
        }
        let confidence = sidak_confidence(self.question.confidence, means.len() - 1);
        needed(means.len(), Laid::Freely, self.question.goal, 1, |units| {
            let plan = PowerPlan {
                treatments: 2,
                units,
                blocks: 1,
                covariates: 0,
                confidence,
            };
            plan.chance_above_zero(margin / sd).ok()
        })
    }

    /// The treatments that no other is surely quicker (or slower) than, all pairs considered
    /// (Sidak).
    fn best(&self, means: &[RestrictedMean]) -> Result<Vec<String>, StatsError> {
        let count = means.len();
        let tail =
            0.5 * (1.0 - sidak_confidence(self.question.confidence, count * (count - 1) / 2));
        let sign = if self.question.better == Better::Higher {
            1.0
        } else {
            -1.0
        };
        let mut may = Vec::new();
        for t in 0..count {
            let mut beaten = false;
            for other in (0..count).filter(|&o| o != t) {
                if let Some(gap) = self.gap(other, t, means) {
                    beaten |= sign * gap.estimate > gap.se * t_quantile_upper(tail, gap.df)?;
                }
            }
            if !beaten {
                may.push(self.table.treatments[t].clone());
            }
        }
        Ok(may)
    }
}
