//! Amounts: weights, heights. Linear or mixed model, Welch beside it, differences or ratios.

mod model;

use super::super::by_block::ByBlock;
use super::super::dealing::{Deals, confirm_by_whole};
use super::super::deciding::Deciding;
use super::super::factors::{self, Crossed};
use super::super::next_time;
use super::super::result::{
    Analysis, Contrast, DecidedBy, OverallOut, Randomisation, Simultaneous, TreatmentOut, WelchOut,
};
use super::super::sentence::Terms;
use super::super::spreads::{SpreadLimits, Spreads};
use super::super::table::Table;
use super::super::units::Units;
use super::super::warnings;
use crate::deciding::{Decision, sidak_limits};
use crate::kinds::shared::{
    Needed, contrast_of, envelope, layout_of, named, ratio_step, units_for_effect,
};
use crate::question::{AnalyseError, Question, Scale, Variance};
use iron_twin_stats::distributions::{t_quantile_upper, t_two_sided};
use iron_twin_stats::dunnett::JointContrasts;
use iron_twin_stats::linear::{self, Layout, Observation};
use iron_twin_stats::welch::{Welch, mean_and_variance, welch};
use iron_twin_stats::{StatsError, mixed, tukey};
use iron_twin_terms::dealing::Restriction;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::severity::{Severity, Warning};
use model::{Model, linear_model, mixed_model, split_plot_model};

/// Compares amounts.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    compare(table, question, Terms::Amount)
}

/// Compares amounts that are spoken of in the given terms.
pub(crate) fn compare(
    table: &Table,
    question: &Question,
    terms: Terms,
) -> Result<Analysis, AnalyseError> {
    let observations = scaled(table, question.scale)?;
    let units = Units::of(&observations, table);
    let mut layout = layout_of(table, table.has_baseline);
    let named = named(table);
    linear::check_connected(&units.rows, layout).map_err(&named)?;
    let baseline_idle = layout.baseline && !linear::baseline_is_free(&units.rows, layout);
    layout.baseline &= !baseline_idle;
    let fit = linear::fit(&units.rows, layout).map_err(&named)?;
    let mut warnings = warnings::collect(table, question, &units, &fit);
    warnings.extend(baseline_idle.then(uninformative_baseline));
    let by_block = ByBlock::of(table, &units, layout).map_err(&named)?;
    let error = by_block.as_ref().filter(|b| b.is_error());
    let mut model = fitted(
        table,
        (&units, &observations),
        (&fit, layout),
        by_block.as_ref(),
        &mut warnings,
    )?;
    model.residual.treatment_by_block = by_block.as_ref().map(|b| b.told.clone());
    let told = by_block.as_ref().map(|b| &b.told);
    warnings.extend(told.and_then(|told| warnings::differs_by_block(table, told)));
    model.residual.cv_percent = cv_percent(&model, question.scale);
    let margin = margin_in_scale(question, &model)?;
    let suspect = warnings.iter().any(|w| w.code == "unequal_spread");
    let apart = question.variance == Variance::Pooled
        && table.dealing.restriction != Restriction::SplitPlot;
    let modelled = error.map_or(&units, |b| &b.cells);
    let spreads = apart.then(|| Spreads::of(modelled, layout, suspect));
    let spreads = spreads.transpose().map_err(&named)?.flatten();
    let computing = Computing {
        table,
        question,
        terms,
        units: &units,
        layout,
        model: &model,
        margin,
        by_block: by_block.as_ref(),
        spreads: spreads.as_ref(),
    };
    let needed = computing.units_needed();
    let contrasts = computing.contrasts(needed).map_err(&named)?;
    let ranked = (question.goal == Goal::Best && model.usable).then(|| computing.best());
    let best = ranked.transpose().map_err(&named)?;
    let mut analysis = computing
        .told(contrasts, needed, warnings)
        .map_err(&named)?;
    if error.is_some() {
        analysis.design.error = "treatment x block";
    }
    analysis.best = best;
    Ok(analysis)
}

/// A baseline that was left out.
fn uninformative_baseline() -> Warning {
    let message = "the baseline says nothing beyond treatments and blocks and was left out".into();
    Warning {
        code: "baseline_uninformative",
        severity: Severity::Minor,
        message,
    }
}

/// The model that the table calls for: of cells where treatments part by block, of lamps and trays,
/// of units and their samples, or of units alone.
fn fitted(
    table: &Table,
    (units, observations): (&Units, &[Observation]),
    (fit, layout): (&linear::MeansFit, Layout),
    by_block: Option<&ByBlock>,
    warnings: &mut Vec<Warning>,
) -> Result<Model, AnalyseError> {
    let named = named(table);
    let error = by_block.filter(|b| b.is_error());
    let mut model = match error {
        Some(by_block) => linear_model(
            &linear::fit(&by_block.cells.rows, layout).map_err(&named)?,
            &by_block.cells,
        ),
        None => linear_model(fit, units),
    };
    if let Some(by_block) = error {
        // A unit's share of what a mean of its cell scatters by.
        model.residual.sd = model.residual.sd.map(|sd| sd * by_block.each.sqrt());
    } else if table.dealing.restriction == Restriction::SplitPlot {
        match split_plot_model(table, units, layout) {
            Ok(fitted) => model = fitted,
            // A lone lamp a side: nothing can be said of lamps, nor of trays beside them.
            Err(StatsError::OutOfRange { .. } | StatsError::NotFinite { .. }) => {
                model.usable = false;
                warnings.push(too_few_fixtures());
            }
            Err(other) => return Err(named(other)),
        }
    } else if units.have_samples() && fit.df > 0.0 && varies_within(observations, units) {
        model = mixed_model(mixed::fit(observations, layout).map_err(&named)?, units);
    }
    Ok(model)
}

/// How much units of one treatment differ, in per cent of the mean.
fn cv_percent(model: &Model, scale: Scale) -> Option<f64> {
    let average = model.means.iter().sum::<f64>() / model.means.len() as f64;
    match scale {
        Scale::Difference => model
            .residual
            .sd
            .filter(|_| average > 0.0)
            .map(|sd| 100.0 * sd / average),
        // On logarithms the residual deviation is itself the relative one.
        Scale::Ratio => model
            .residual
            .sd
            .map(|sd| 100.0 * (sd * sd).exp_m1().sqrt()),
    }
}

fn too_few_fixtures() -> Warning {
    Warning {
        code: "too_few_fixtures",
        severity: Severity::Fatal,
        message: "with a single lamp or pump a side, the lamp cannot be told from what it was set \
                  to; use at least two of each"
            .into(),
    }
}

fn scaled(table: &Table, scale: Scale) -> Result<Vec<Observation>, AnalyseError> {
    match scale {
        Scale::Difference => Ok(table.observations.clone()),
        Scale::Ratio => table
            .observations
            .iter()
            .map(|o| {
                if o.value > 0.0 {
                    Ok(Observation {
                        value: o.value.ln(),
                        ..*o
                    })
                } else {
                    Err(AnalyseError::NotPositive {
                        unit: table.units[o.unit].clone(),
                        value: o.value,
                    })
                }
            })
            .collect(),
    }
}

fn varies_within(observations: &[Observation], units: &Units) -> bool {
    let mut first = std::collections::HashMap::with_capacity(units.rows.len());
    observations
        .iter()
        .any(|o| *first.entry(o.unit).or_insert(o.value) != o.value)
}

/// The margin on the scale of the verdict: in the measure's unit, or as a share for ratios. 0 where
/// none was given.
fn margin_in_scale(question: &Question, model: &Model) -> Result<f64, AnalyseError> {
    match (question.margin, question.scale) {
        (None, _) => Ok(0.0),
        (Some(Margin::Absolute(value)), _) => Ok(value),
        (Some(Margin::Percent(percent)), Scale::Ratio) => Ok(0.01 * percent),
        (Some(Margin::Percent(percent)), Scale::Difference) => {
            let control = model.means[0];
            if control > 0.0 {
                Ok(0.01 * percent * control)
            } else {
                Err(AnalyseError::PercentOfNothing(control))
            }
        }
    }
}

struct Computing<'a> {
    table: &'a Table,
    question: &'a Question,
    terms: Terms,
    units: &'a Units,
    layout: Layout,
    model: &'a Model,
    margin: f64,
    /// Treatment by block, where blocks hold several units of a treatment.
    by_block: Option<&'a ByBlock>,
    /// Which treatments do not scatter as the rest.
    spreads: Option<&'a Spreads>,
}

/// Estimate and limits on the scale of the model.
struct Limits {
    estimate: f64,
    se: Option<f64>,
    df: f64,
    interval: Option<(f64, f64, f64)>,
    simultaneous: Option<Simultaneous>,
}

impl Limits {
    /// Whether the limits of this comparison alone leave no difference out.
    fn is_sure(&self, question: &Question) -> bool {
        self.interval
            .is_some_and(|(.., p)| p < 1.0 - question.confidence)
    }
}

/// Which limits a contrast is decided by: those of the spreads of its two sides, or the model's.
fn decided_by(
    own: Option<&SpreadLimits>,
    of_model: Option<(f64, f64)>,
    df: f64,
) -> Option<DecidedBy> {
    match (own, of_model) {
        (Some(s), _) => Some(DecidedBy {
            limits: s.name,
            low: s.low,
            high: Some(s.high),
            df: s.df,
        }),
        (None, Some((low, high))) => Some(DecidedBy {
            limits: "model",
            low,
            high: Some(high),
            df,
        }),
        (None, None) => None,
    }
}

impl Computing<'_> {
    /// The analysis but for what is asked of the best.
    fn told(
        &self,
        contrasts: Vec<Contrast>,
        needed: Needed,
        warnings: Vec<Warning>,
    ) -> Result<Analysis, StatsError> {
        let (table, model) = (self.table, self.model);
        let ratio_scale = self.question.scale == Scale::Ratio;
        let scale = if ratio_scale { "ratio" } else { "difference" };
        let mut analysis = envelope(table, self.question, self.units, scale);
        if let Some(out) = analysis.margin.as_mut().filter(|_| !ratio_scale) {
            out.absolute = Some(self.margin);
        }
        analysis.treatments = self.treatments();
        analysis.overall = model.overall.map(|o| OverallOut::f(&o));
        analysis.residual = model.residual.clone();
        analysis.contrasts = contrasts;
        analysis.factors = self.factors()?;
        analysis.warnings = warnings;
        analysis.warnings.extend(factors::not_crossed(table));
        (analysis.units_needed, analysis.units_for_verdict) = (needed.test, needed.verdict);
        Ok(analysis)
    }

    fn treatments(&self) -> Vec<TreatmentOut> {
        (0..self.table.treatments.len())
            .map(|t| {
                let rows: Vec<f64> = self
                    .table
                    .observations
                    .iter()
                    .filter(|o| o.treatment == t)
                    .map(|o| o.value)
                    .collect();
                let back = |v: f64| {
                    if self.question.scale == Scale::Ratio {
                        v.exp()
                    } else {
                        v
                    }
                };
                let unit_values: Vec<f64> = self.units.values_of(t).into_iter().map(back).collect();
                let mean = self.model.means[t];
                let se = match self.question.variance {
                    Variance::Pooled => self.model.covariance[(t, t)].sqrt(),
                    Variance::Unequal => {
                        (mean_and_variance(&unit_values).1 / unit_values.len() as f64).sqrt()
                    }
                };
                TreatmentOut {
                    name: self.table.treatments[t].clone(),
                    units: self.units.counts[t],
                    samples: rows.len(),
                    mean: rows.iter().sum::<f64>() / rows.len() as f64,
                    adjusted_mean: back(mean),
                    sd: (unit_values.len() > 1).then(|| mean_and_variance(&unit_values).1.sqrt()),
                    se: (self.model.usable && se.is_finite()).then_some(
                        if self.question.scale == Scale::Ratio {
                            se * mean.exp()
                        } else {
                            se
                        },
                    ),
                    median: None,
                }
            })
            .collect()
    }

    fn contrasts(&self, needed: Needed) -> Result<Vec<Contrast>, StatsError> {
        let joint = self.joint()?;
        let treatments = 1..self.table.treatments.len();
        let mut redealt: Vec<_> = treatments.clone().map(|t| self.randomisation(t)).collect();
        // Dealing the whole trial takes long, and is asked only where a difference may be claimed.
        let claimed = |t: usize| {
            self.model.usable && self.pooled(t, None).is_ok_and(|l| l.is_sure(self.question))
        };
        if self.by_block.is_none_or(|b| !b.is_error()) && treatments.clone().any(claimed) {
            confirm_by_whole(&mut redealt, self.question.confidence, || {
                self.deals(&self.dealt()).whole()
            });
        }
        (1..self.table.treatments.len())
            .map(|t| {
                let welch = self.welch(t)?;
                let limits = match (self.question.variance, &welch) {
                    (Variance::Unequal, Some(w)) => self.sidak(w)?,
                    (Variance::Unequal, None) => self.nothing(t),
                    (Variance::Pooled, _) => self.pooled(t, joint.as_ref())?,
                };
                let usual = joint
                    .as_ref()
                    .map(|(_, critical)| (*critical, self.model.smallest_df()));
                self.contrast(t, limits, welch, redealt[t - 1].take(), usual, needed)
            })
            .collect()
    }

    /// The joint distribution of the contrasts with its critical value, where there is more than
    /// one.
    fn joint(&self) -> Result<Option<(JointContrasts, f64)>, StatsError> {
        if !self.model.usable
            || self.layout.treatments < 3
            || self.question.variance == Variance::Unequal
        {
            return Ok(None);
        }
        let joint = JointContrasts::new(
            &linear::contrast_correlation(&self.model.covariance),
            self.model.smallest_df(),
        )?;
        let critical = joint.critical(self.question.confidence)?;
        Ok(Some((joint, critical)))
    }

    fn nothing(&self, t: usize) -> Limits {
        let estimate = self.model.means[t] - self.model.means[0];
        Limits {
            estimate,
            se: None,
            df: 0.0,
            interval: None,
            simultaneous: None,
        }
    }

    fn pooled(
        &self,
        t: usize,
        joint: Option<&(JointContrasts, f64)>,
    ) -> Result<Limits, StatsError> {
        let mut limits = self.nothing(t);
        limits.df = self.model.df[t - 1];
        if !self.model.usable {
            return Ok(limits);
        }
        let se = linear::pair_se(&self.model.covariance, t, 0);
        let (estimate, statistic) = (limits.estimate, limits.estimate / se);
        let reach = se * t_quantile_upper(0.5 * (1.0 - self.question.confidence), limits.df)?;
        limits.se = Some(se);
        limits.interval = Some((
            estimate - reach,
            estimate + reach,
            t_two_sided(statistic, limits.df),
        ));
        limits.simultaneous = joint.map(|(joint, critical)| {
            Simultaneous::new(
                "dunnett",
                estimate - critical * se,
                estimate + critical * se,
                joint.exceeds(statistic),
            )
        });
        Ok(limits)
    }

    fn welch(&self, t: usize) -> Result<Option<Welch>, StatsError> {
        if !self.table.blocks.is_empty() || self.units.have_samples() || self.layout.baseline {
            return Ok(None);
        }
        welch(
            &self.units.values_of(t),
            &self.units.values_of(0),
            self.question.confidence,
        )
    }

    /// Welch's limits, and Sidak's where several treatments are compared.
    fn sidak(&self, w: &Welch) -> Result<Limits, StatsError> {
        let simultaneous = sidak_limits(
            (w.estimate, w.se, w.df),
            w.p,
            self.question.confidence,
            self.layout.treatments - 1,
        )?;
        Ok(Limits {
            estimate: w.estimate,
            se: Some(w.se),
            df: w.df,
            interval: Some((w.low, w.high, w.p)),
            simultaneous,
        })
    }

    fn contrast(
        &self,
        t: usize,
        limits: Limits,
        welch: Option<Welch>,
        randomisation: Option<Randomisation>,
        usual: Option<(f64, f64)>,
        needed: Needed,
    ) -> Result<Contrast, StatsError> {
        let ratio_scale = self.question.scale == Scale::Ratio;
        let back = |v: f64| if ratio_scale { v.exp() } else { v };
        let together = limits.simultaneous.as_ref().map(|s| (s.low, s.high));
        let of_model = together.or(limits.interval.map(|(low, high, _)| (low, high)));
        let own = of_model.map(|_| self.of_spreads(t, usual));
        let own = own.transpose()?.flatten();
        let of_spreads = own.as_ref().map(|s| (s.low, s.high));
        let decided_by = decided_by(own.as_ref(), of_model, limits.df);
        let control = self.model.means[0];
        let percent = if ratio_scale {
            Some(100.0 * limits.estimate.exp_m1())
        } else {
            (control > 0.0).then(|| 100.0 * limits.estimate / control)
        };
        let finite = |v: Option<f64>| v.map(f64::exp).filter(|v| v.is_finite());
        let only_ratio = |v: Option<f64>| ratio_scale.then(|| finite(v));
        let mut contrast = Contrast {
            estimate: back(limits.estimate),
            percent,
            se: limits.se,
            df: limits.df,
            low: limits.interval.map(|i| back(i.0)),
            // A ratio may have no upper limit that a number can hold.
            high: limits.interval.map(|i| back(i.1)).filter(|h| h.is_finite()),
            p: limits.interval.map(|i| i.2),
            ratio: only_ratio(Some(limits.estimate)),
            ratio_low: only_ratio(limits.interval.map(|i| i.0)),
            ratio_high: only_ratio(limits.interval.map(|i| i.1)),
            simultaneous: limits.simultaneous.map(|s| Simultaneous {
                low: back(s.low),
                high: back(s.high),
                ..s
            }),
            welch: welch
                .filter(|_| self.question.variance == Variance::Pooled)
                .map(|w| of_welch(w, back)),
            df_satterthwaite: self.model.satterthwaite.as_ref().map(|df| df[t - 1]),
            units_needed: needed.test,
            units_for_verdict: needed.verdict,
            randomisation: randomisation.clone(),
            ahead_next_time: own.map(|s| next_time::above(0.5 * (s.low + s.high) / s.se, s.df)),
            by_block: self
                .by_block
                .map_or_else(Vec::new, |b| b.gaps(self.table, t, |a, b| back(a - b))),
            decided_by: decided_by.map(|d| DecidedBy {
                low: back(d.low),
                high: d.high.map(back).filter(|high| high.is_finite()),
                ..d
            }),
            ..contrast_of(self.table, t)
        };
        let deal = randomisation.as_ref();
        self.decided(&mut contrast, t, deal, of_spreads, of_model);
        Ok(contrast)
    }

    /// Gives a contrast its verdict and its sentence, from the limits of the spreads or of the model.
    fn decided(
        &self,
        contrast: &mut Contrast,
        t: usize,
        redealt: Option<&Randomisation>,
        of_spreads: Option<(f64, f64)>,
        of_model: Option<(f64, f64)>,
    ) {
        let ratio_scale = self.question.scale == Scale::Ratio;
        // Ratios are judged by how far they lie from one.
        let judged = |v: f64| if ratio_scale { v.exp_m1() } else { v };
        let terms = if ratio_scale {
            Terms::Ratio
        } else {
            self.terms
        };
        let said = Decision {
            question: self.question,
            terms,
            margin: self.margin,
            control: self.model.means[0],
        };
        let deciding = Deciding {
            units: (self.units.counts[t], self.units.counts[0]),
            limits: of_spreads
                .or(of_model)
                .map(|(low, high)| (judged(low), judged(high))),
            redealt,
            pooled: of_spreads
                .and(of_model)
                .map(|(low, high)| (judged(low), judged(high))),
            flat: self.units.is_flat(t) || self.units.is_flat(0),
            ..Deciding::default()
        };
        said.decide(contrast, &deciding);
    }

    /// The limits that allow for spreads unlike, on the scale of the model, where spreads ask for
    /// them.
    fn of_spreads(
        &self,
        t: usize,
        usual: Option<(f64, f64)>,
    ) -> Result<Option<SpreadLimits>, StatsError> {
        self.spreads.map_or(Ok(None), |spreads| {
            spreads.limits(t, self.question.confidence, usual)
        })
    }

    /// Crossed factors taken apart.
    fn factors(&self) -> Result<Option<super::super::result::FactorsOut>, StatsError> {
        if !self.model.usable {
            return Ok(None);
        }
        let terms = if self.question.scale == Scale::Ratio {
            Terms::Ratio
        } else {
            self.terms
        };
        Crossed {
            table: self.table,
            question: self.question,
            units: self.units,
            values: &self.dealt(),
            terms,
            means: &self.model.means,
            covariance: &self.model.covariance,
            df_of: &|weights| self.model.df_of(weights),
            test: &|contrasts| self.model.test(contrasts),
            margin: self.margin,
        }
        .take_apart()
    }

    /// Units as they could have been dealt: their means, or what block and baseline leave of them.
    fn dealt(&self) -> Vec<f64> {
        if self.layout.baseline {
            let together: Vec<Observation> = self
                .units
                .rows
                .iter()
                .map(|r| Observation { treatment: 0, ..*r })
                .collect();
            if let Ok(fit) = linear::fit(
                &together,
                Layout {
                    treatments: 1,
                    ..self.layout
                },
            ) {
                return fit.residuals;
            }
        }
        self.units.rows.iter().map(|r| r.value).collect()
    }

    fn randomisation(&self, t: usize) -> Option<Randomisation> {
        if self.question.best_alone {
            return None;
        }
        self.deals(&self.dealt()).pair(t, 0)
    }

    fn deals<'v>(&'v self, values: &'v [f64]) -> Deals<'v> {
        Deals {
            table: self.table,
            units: self.units,
            values,
            seed: self.question.seed,
        }
    }

    /// Units of a treatment with an 80 % chance that the lower limit passes zero (match: minus the
    /// margin).
    fn units_needed(&self) -> Needed {
        // More trays under a lamp and more lamps buy different things: no single number of units
        // would be true.
        if self.table.dealing.restriction == Restriction::SplitPlot || self.question.best_alone {
            return Needed::default();
        }
        let Some(sd) = self
            .model
            .residual
            .sd
            .filter(|sd| *sd > 0.0 && self.model.usable)
        else {
            return Needed::default();
        };
        let effect = match (self.question.scale, self.question.better) {
            (Scale::Difference, _) => self.margin,
            (Scale::Ratio, better) => ratio_step(self.margin, better, self.question.goal),
        } / sd;
        if effect <= 0.0 {
            return Needed::default();
        }
        let units_for =
            |units, effect| units_for_effect(self.table, units, self.layout, self.question, effect);
        match self.by_block.filter(|b| b.is_error()) {
            // Further blocks are what settles it: one cell each, and as many units in it as now.
            Some(by_block) => {
                let blocks = units_for(&by_block.cells, effect * by_block.each.sqrt());
                let units = |blocks: Option<usize>| {
                    blocks.map(|n| (n as f64 * by_block.each).ceil() as usize)
                };
                Needed {
                    test: units(blocks.test),
                    verdict: units(blocks.verdict),
                }
            }
            None => units_for(self.units, effect),
        }
    }

    /// The treatments that no other is surely better than, all pairs considered (Tukey, Kramer's
    /// extension).
    fn best(&self) -> Result<Vec<String>, StatsError> {
        let count = self.layout.treatments;
        let critical =
            tukey::critical_t(self.question.confidence, count, self.model.smallest_df())?;
        let sign = if self.question.better == Better::Higher {
            1.0
        } else {
            -1.0
        };
        let surely_better = |a: usize, b: usize| {
            let gap = sign * (self.model.means[a] - self.model.means[b]);
            gap > critical * linear::pair_se(&self.model.covariance, a, b)
        };
        Ok((0..count)
            .filter(|&t| !(0..count).any(|other| other != t && surely_better(other, t)))
            .map(|t| self.table.treatments[t].clone())
            .collect())
    }
}

/// Welch's comparison in the scale that is shown.
fn of_welch(welch: Welch, back: impl Fn(f64) -> f64) -> WelchOut {
    WelchOut {
        df: welch.df,
        low: back(welch.low),
        high: back(welch.high),
        p: welch.p,
    }
}
