//! The comparison of treatments with the control, for amounts. `iron-twin analyse` and the Judge screen both call it.

use super::result::{
    Analysis, Contrast, Design, Input, MarginOut, OverallOut, Randomisation, Residual, Simultaneous, TreatmentOut,
    WelchOut,
};
use super::sentence::{self, Wording};
use super::table::Table;
use super::verdict::{Better, Doubt, Gain, Goal, Verdict, decide};
use super::warnings::{self, Severity, Warning};
use crate::quantity::Margin;
use crate::stats::distributions::{t_quantile_upper, t_two_sided};
use crate::stats::dunnett::JointContrasts;
use crate::stats::linear::{self, Layout, MeansFit, Observation};
use crate::stats::power::{PowerPlan, fewest_units};
use crate::stats::redeal::{Block, redeal};
use crate::stats::welch::{Welch, mean_and_variance, welch};
use crate::stats::{StatsError, mixed, tukey};
use nalgebra::DMatrix;

/// Whether treatments are taken to scatter alike.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Variance {
    /// One spread for all treatments.
    #[default]
    Pooled,
    /// Welch for each pair.
    Unequal,
}

/// Differences or ratios.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Scale {
    /// Treatment minus control.
    #[default]
    Difference,
    /// Treatment over control, on logarithms.
    Ratio,
}

/// What is asked of a table.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// Beat, match or best.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// Smallest difference that matters.
    pub margin: Option<Margin>,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// Pooled or unequal spread.
    pub variance: Variance,
    /// Differences or ratios.
    pub scale: Scale,
    /// Units that each treatment started with.
    pub expected_units: Option<usize>,
    /// Seed for anything sampled.
    pub seed: u64,
    /// How the sentences name things.
    pub wording: Wording,
}

impl Default for Question {
    fn default() -> Self {
        Self {
            goal: Goal::Beat,
            better: Better::Higher,
            margin: None,
            confidence: 0.95,
            variance: Variance::Pooled,
            scale: Scale::Difference,
            expected_units: None,
            seed: 1,
            wording: Wording::default(),
        }
    }
}

/// Why a table cannot be analysed as asked.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum AnalyseError {
    /// Confidence outside (0, 1).
    #[error("--confidence must lie between 0 and 1, for instance 0.95; got {0}")]
    Confidence(f64),
    /// Matching needs to know how much may be given up.
    #[error("--goal match needs --margin: how much less would still be good enough, for instance 8%")]
    MarginMissing,
    /// A per cent of a control at or below zero means nothing.
    #[error(
        "a margin in per cent needs a control mean above zero, and it is {0}; give the margin in the measure's unit"
    )]
    PercentOfNothing(f64),
    /// On the ratio scale a margin in units has no place.
    #[error("--scale ratio takes a margin in per cent, not {0}")]
    AbsoluteMarginOnRatio(f64),
    /// Logarithms need values above zero.
    #[error("--scale ratio needs values above zero, and {unit} has {value}")]
    NotPositive {
        /// The unit.
        unit: String,
        /// Its value.
        value: f64,
    },
    /// Welch stands alone.
    #[error("--variance unequal compares plain groups; leave out --block, --unit and --baseline")]
    UnequalWithDesign,
    /// Blocks keep a treatment apart.
    #[error(
        "treatment '{0}' never shares a block, directly or through others, with the control; leave out --block or add a block that holds both"
    )]
    NotConnected(String),
    /// A computation failed.
    #[error(transparent)]
    Stats(StatsError),
}

/// The units of a table, each by its mean.
#[derive(Debug, Clone)]
pub(crate) struct Units {
    pub rows: Vec<Observation>,
    pub samples: Vec<usize>,
    pub counts: Vec<usize>,
}

impl Units {
    fn of(observations: &[Observation], table: &Table) -> Self {
        let mut rows: Vec<Observation> = Vec::new();
        let mut samples = Vec::new();
        let mut place = vec![usize::MAX; table.units.len()];
        for o in observations {
            if place[o.unit] == usize::MAX {
                place[o.unit] = rows.len();
                rows.push(Observation { value: 0.0, baseline: 0.0, ..*o });
                samples.push(0);
            }
            let row = &mut rows[place[o.unit]];
            row.value += o.value;
            row.baseline += o.baseline;
            samples[place[o.unit]] += 1;
        }
        let mut counts = vec![0; table.treatments.len()];
        for (row, &n) in rows.iter_mut().zip(&samples) {
            if n > 1 {
                row.value /= n as f64;
                row.baseline /= n as f64;
            }
            counts[row.treatment] += 1;
        }
        Self { rows, samples, counts }
    }

    fn have_samples(&self) -> bool {
        self.samples.iter().any(|&n| n > 1)
    }

    pub(crate) fn all_equal(&self, value: f64) -> bool {
        self.rows.iter().all(|r| r.value == value)
    }

    /// No unit departs from its model by more than rounding: compared with the inputs, not with a zero.
    pub(crate) fn no_residual(&self, fit: &MeansFit) -> bool {
        let size = self.rows.iter().map(|r| r.value.abs()).fold(0.0, f64::max);
        fit.residuals.iter().all(|r| r.abs() <= 1e-12 * size)
    }

    fn values_of(&self, treatment: usize) -> Vec<f64> {
        self.rows.iter().filter(|r| r.treatment == treatment).map(|r| r.value).collect()
    }

    /// Harmonic mean of the samples of a unit.
    fn typical_samples(&self) -> f64 {
        self.samples.len() as f64 / self.samples.iter().map(|&n| 1.0 / n as f64).sum::<f64>()
    }
}

/// The fitted model, whichever it was, as the contrasts need it.
struct Model {
    means: Vec<f64>,
    covariance: DMatrix<f64>,
    /// Degrees of freedom of each contrast.
    df: Vec<f64>,
    satterthwaite: Option<Vec<f64>>,
    overall: Option<linear::Overall>,
    residual: Residual,
    /// Whether intervals can be had at all.
    usable: bool,
}

impl Model {
    fn smallest_df(&self) -> f64 {
        self.df.iter().copied().fold(f64::INFINITY, f64::min)
    }
}

fn linear_model(fit: &MeansFit, units: &Units) -> Model {
    let usable = fit.df > 0.0 && !units.no_residual(fit);
    Model {
        means: fit.means.clone(),
        covariance: fit.covariance.clone(),
        df: vec![fit.df; fit.means.len() - 1],
        satterthwaite: None,
        overall: if usable { linear::overall(fit) } else { None },
        residual: Residual {
            sd: (fit.df > 0.0).then_some(fit.residual_sd),
            df: fit.df,
            cv_percent: None,
            between_units_sd: None,
            within_unit_sd: None,
        },
        usable,
    }
}

fn mixed_model(fit: mixed::MixedFit, units: &Units) -> Model {
    let (between, within) = (fit.between_units_sd, fit.within_unit_sd);
    let df: Vec<f64> = (0..fit.means.len() - 1).map(|i| fit.df(i)).collect();
    Model {
        residual: Residual {
            sd: Some((between * between + within * within / units.typical_samples()).sqrt()),
            df: fit.df_cap,
            cv_percent: None,
            between_units_sd: Some(between),
            within_unit_sd: Some(within),
        },
        df,
        satterthwaite: Some(fit.df_satterthwaite),
        means: fit.means,
        covariance: fit.covariance,
        overall: fit.overall,
        usable: true,
    }
}

/// Compares every treatment of the table with its control.
///
/// Answers: how much more or less does each treatment give, how sure is that, and is it worth acting on?
/// Figures are in the measure's own unit, treatment minus control as measured; `better` turns only verdict and
/// sentence. Missing values were dropped by the table. Sources stand at each estimator in [`crate::stats`].
///
/// # Errors
/// [`AnalyseError`], each naming what to do.
///
/// ```
/// use iron_twin_core::judge::{analysis::{analyse, Question}, table::{read, Columns}, verdict::Verdict};
/// let csv = "feed,g\nwater,312\nwater,321\nfull,401\nfull,384\n";
/// let columns = Columns { measure: "g".into(), treatment: "feed".into(), control: "water".into(), ..Columns::default() };
/// let question = Question { margin: "10%".parse().ok(), ..Question::default() };
/// let analysis = analyse(&read(csv.as_bytes(), &columns).unwrap(), &question).unwrap();
/// assert_eq!(analysis.contrasts[0].estimate, 76.0);
/// assert_eq!(analysis.contrasts[0].verdict, Verdict::BetterByMargin);
/// ```
pub fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    check(table, question)?;
    let observations = scaled(table, question.scale)?;
    let units = Units::of(&observations, table);
    let mut layout =
        Layout { treatments: table.treatments.len(), blocks: table.blocks.len().max(1), baseline: table.has_baseline };
    let named = |error| match error {
        StatsError::NotConnected { treatment } => AnalyseError::NotConnected(table.treatments[treatment].clone()),
        other => AnalyseError::Stats(other),
    };
    linear::check_connected(&units.rows, layout).map_err(named)?;
    let baseline_idle = layout.baseline && !linear::baseline_is_free(&units.rows, layout);
    layout.baseline &= !baseline_idle;
    let fit = linear::fit(&units.rows, layout).map_err(named)?;
    let mut warnings = warnings::collect(table, question, &units, &fit);
    if baseline_idle {
        let message = "the baseline says nothing beyond treatments and blocks and was left out".into();
        warnings.push(Warning { code: "baseline_uninformative", severity: Severity::Minor, message });
    }
    let mut model = linear_model(&fit, &units);
    if units.have_samples() && fit.df > 0.0 && varies_within(&observations, &units) {
        model = mixed_model(mixed::fit(&observations, layout).map_err(named)?, &units);
    }
    let average = model.means.iter().sum::<f64>() / model.means.len() as f64;
    model.residual.cv_percent = match question.scale {
        Scale::Difference => model.residual.sd.filter(|_| average > 0.0).map(|sd| 100.0 * sd / average),
        // On logarithms the residual deviation is itself the relative one.
        Scale::Ratio => model.residual.sd.map(|sd| 100.0 * (sd * sd).exp_m1().sqrt()),
    };
    let margin = margin_in_scale(question, &model)?;
    let computing = Computing { table, question, units: &units, layout, model: &model, margin };
    let units_needed = computing.units_needed();
    let contrasts = computing.contrasts(units_needed, &warnings).map_err(named)?;
    let best = if question.goal == Goal::Best && model.usable { Some(computing.best().map_err(named)?) } else { None };
    Ok(Analysis {
        format: "iron-twin/analysis/1",
        input: Input { rows: table.rows, used: table.observations.len(), dropped: table.dropped.clone() },
        kind: "amount",
        goal: question.goal,
        better: question.better,
        confidence: question.confidence,
        scale: if question.scale == Scale::Ratio { "ratio" } else { "difference" },
        margin: question.margin.map(|given| MarginOut {
            given: given.to_string(),
            absolute: (question.scale == Scale::Difference).then_some(margin),
        }),
        design: design(table, &units),
        treatments: computing.treatments(),
        overall: model.overall.map(|o| OverallOut {
            test: "F",
            statistic: o.f,
            df: [o.df_between, o.df_within],
            p: o.p,
        }),
        residual: model.residual.clone(),
        contrasts,
        best,
        units_needed,
        warnings,
    })
}

fn check(table: &Table, question: &Question) -> Result<(), AnalyseError> {
    if !(question.confidence > 0.0 && question.confidence < 1.0) {
        return Err(AnalyseError::Confidence(question.confidence));
    }
    if question.goal == Goal::Match && question.margin.is_none() {
        return Err(AnalyseError::MarginMissing);
    }
    if question.variance == Variance::Unequal && (!table.blocks.is_empty() || table.has_units || table.has_baseline) {
        return Err(AnalyseError::UnequalWithDesign);
    }
    match (question.scale, question.margin) {
        (Scale::Ratio, Some(Margin::Absolute(value))) => Err(AnalyseError::AbsoluteMarginOnRatio(value)),
        _ => Ok(()),
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
                    Ok(Observation { value: o.value.ln(), ..*o })
                } else {
                    Err(AnalyseError::NotPositive { unit: table.units[o.unit].clone(), value: o.value })
                }
            })
            .collect(),
    }
}

fn varies_within(observations: &[Observation], units: &Units) -> bool {
    let mut first = std::collections::HashMap::with_capacity(units.rows.len());
    observations.iter().any(|o| *first.entry(o.unit).or_insert(o.value) != o.value)
}

/// The margin on the scale of the verdict: in the measure's unit, or as a share for ratios. 0 where none was given.
fn margin_in_scale(question: &Question, model: &Model) -> Result<f64, AnalyseError> {
    match (question.margin, question.scale) {
        (None, _) => Ok(0.0),
        (Some(Margin::Absolute(value)), _) => Ok(value),
        (Some(Margin::Percent(percent)), Scale::Ratio) => Ok(0.01 * percent),
        (Some(Margin::Percent(percent)), Scale::Difference) => {
            let control = model.means[0];
            if control > 0.0 { Ok(0.01 * percent * control) } else { Err(AnalyseError::PercentOfNothing(control)) }
        }
    }
}

fn design(table: &Table, units: &Units) -> Design {
    let blocks = table.blocks.len();
    let name = if blocks == 0 {
        "completely randomised"
    } else {
        let (treatments, mut cells) = (table.treatments.len(), std::collections::HashMap::new());
        units.rows.iter().for_each(|r| *cells.entry((r.block, r.treatment)).or_insert(0usize) += 1);
        let complete = cells.len() == blocks * treatments;
        let single = cells.values().all(|&n| n == 1);
        match (complete, single, treatments) {
            (true, true, 2) => "matched pairs",
            (true, _, _) => "randomised complete blocks",
            (false, _, _) => "incomplete blocks",
        }
    };
    Design {
        name,
        treatments: table.treatments.len(),
        units: units.rows.len(),
        blocks,
        samples_per_unit: [
            units.samples.iter().copied().min().unwrap_or(0),
            units.samples.iter().copied().max().unwrap_or(0),
        ],
    }
}

struct Computing<'a> {
    table: &'a Table,
    question: &'a Question,
    units: &'a Units,
    layout: Layout,
    model: &'a Model,
    margin: f64,
}

/// Estimate and limits on the scale of the model.
struct Limits {
    estimate: f64,
    se: Option<f64>,
    df: f64,
    interval: Option<(f64, f64, f64)>,
    simultaneous: Option<Simultaneous>,
}

impl Computing<'_> {
    fn treatments(&self) -> Vec<TreatmentOut> {
        (0..self.table.treatments.len())
            .map(|t| {
                let rows: Vec<f64> =
                    self.table.observations.iter().filter(|o| o.treatment == t).map(|o| o.value).collect();
                let back = |v: f64| if self.question.scale == Scale::Ratio { v.exp() } else { v };
                let unit_values: Vec<f64> = self.units.values_of(t).into_iter().map(back).collect();
                let mean = self.model.means[t];
                let se = match self.question.variance {
                    Variance::Pooled => self.model.covariance[(t, t)].sqrt(),
                    Variance::Unequal => (mean_and_variance(&unit_values).1 / unit_values.len() as f64).sqrt(),
                };
                TreatmentOut {
                    name: self.table.treatments[t].clone(),
                    units: self.units.counts[t],
                    samples: rows.len(),
                    mean: rows.iter().sum::<f64>() / rows.len() as f64,
                    adjusted_mean: back(mean),
                    sd: (unit_values.len() > 1).then(|| mean_and_variance(&unit_values).1.sqrt()),
                    se: (self.model.usable && se.is_finite()).then_some(if self.question.scale == Scale::Ratio {
                        se * mean.exp()
                    } else {
                        se
                    }),
                }
            })
            .collect()
    }

    fn contrasts(&self, units_needed: Option<usize>, warnings: &[Warning]) -> Result<Vec<Contrast>, StatsError> {
        let unequal = warnings.iter().any(|w| w.code == "unequal_spread");
        let joint = self.joint()?;
        (1..self.table.treatments.len())
            .map(|t| {
                let welch = self.welch(t)?;
                let limits = match (self.question.variance, &welch) {
                    (Variance::Unequal, Some(w)) => self.sidak(w)?,
                    (Variance::Unequal, None) => self.nothing(t),
                    (Variance::Pooled, _) => self.pooled(t, joint.as_ref())?,
                };
                self.contrast(t, limits, welch, unequal, units_needed)
            })
            .collect()
    }

    /// The joint distribution of the contrasts with its critical value, where there is more than one.
    fn joint(&self) -> Result<Option<(JointContrasts, f64)>, StatsError> {
        if !self.model.usable || self.layout.treatments < 3 || self.question.variance == Variance::Unequal {
            return Ok(None);
        }
        let joint =
            JointContrasts::new(&linear::contrast_correlation(&self.model.covariance), self.model.smallest_df())?;
        let critical = joint.critical(self.question.confidence)?;
        Ok(Some((joint, critical)))
    }

    fn nothing(&self, t: usize) -> Limits {
        let estimate = self.model.means[t] - self.model.means[0];
        Limits { estimate, se: None, df: 0.0, interval: None, simultaneous: None }
    }

    fn pooled(&self, t: usize, joint: Option<&(JointContrasts, f64)>) -> Result<Limits, StatsError> {
        let mut limits = self.nothing(t);
        limits.df = self.model.df[t - 1];
        if !self.model.usable {
            return Ok(limits);
        }
        let se = linear::pair_se(&self.model.covariance, t, 0);
        let (estimate, statistic) = (limits.estimate, limits.estimate / se);
        let reach = se * t_quantile_upper(0.5 * (1.0 - self.question.confidence), limits.df)?;
        limits.se = Some(se);
        limits.interval = Some((estimate - reach, estimate + reach, t_two_sided(statistic, limits.df)));
        limits.simultaneous = joint.map(|(joint, critical)| Simultaneous {
            method: "dunnett",
            low: estimate - critical * se,
            high: estimate + critical * se,
            p: joint.exceeds(statistic),
        });
        Ok(limits)
    }

    fn welch(&self, t: usize) -> Result<Option<Welch>, StatsError> {
        if !self.table.blocks.is_empty() || self.units.have_samples() || self.layout.baseline {
            return Ok(None);
        }
        welch(&self.units.values_of(t), &self.units.values_of(0), self.question.confidence)
    }

    /// Welch's limits, and Sidak's where several treatments are compared.
    fn sidak(&self, w: &Welch) -> Result<Limits, StatsError> {
        let contrasts = (self.layout.treatments - 1) as f64;
        let simultaneous = if contrasts > 1.0 {
            let confidence = self.question.confidence.powf(1.0 / contrasts);
            let reach = w.se * t_quantile_upper(0.5 * (1.0 - confidence), w.df)?;
            let p = -(contrasts * (-w.p).ln_1p()).exp_m1();
            Some(Simultaneous { method: "sidak", low: w.estimate - reach, high: w.estimate + reach, p })
        } else {
            None
        };
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
        unequal: bool,
        units_needed: Option<usize>,
    ) -> Result<Contrast, StatsError> {
        let randomisation = self.randomisation(t);
        let deciding =
            limits.simultaneous.as_ref().map(|s| (s.low, s.high)).or(limits.interval.map(|(low, high, _)| (low, high)));
        let (verdict, doubt) = self.verdict(t, deciding, randomisation.as_ref(), welch.as_ref().filter(|_| unequal))?;
        let ratio_scale = self.question.scale == Scale::Ratio;
        let back = |v: f64| if ratio_scale { v.exp() } else { v };
        let control = self.model.means[0];
        let percent = if ratio_scale {
            Some(100.0 * limits.estimate.exp_m1())
        } else {
            (control > 0.0).then(|| 100.0 * limits.estimate / control)
        };
        let only_ratio = |v: Option<f64>| if ratio_scale { v.map(f64::exp) } else { None };
        let mut contrast = Contrast {
            treatment: self.table.treatments[t].clone(),
            versus: self.table.treatments[0].clone(),
            estimate: back(limits.estimate),
            percent,
            se: limits.se,
            df: limits.df,
            low: limits.interval.map(|i| back(i.0)),
            high: limits.interval.map(|i| back(i.1)),
            p: limits.interval.map(|i| i.2),
            ratio: only_ratio(Some(limits.estimate)),
            ratio_low: only_ratio(limits.interval.map(|i| i.0)),
            ratio_high: only_ratio(limits.interval.map(|i| i.1)),
            simultaneous: limits.simultaneous.map(|s| Simultaneous { low: back(s.low), high: back(s.high), ..s }),
            randomisation,
            welch: welch.filter(|_| self.question.variance == Variance::Pooled).map(|w| WelchOut {
                df: w.df,
                low: back(w.low),
                high: back(w.high),
                p: w.p,
            }),
            df_satterthwaite: self.model.satterthwaite.as_ref().map(|df| df[t - 1]),
            p_holm: None,
            verdict,
            doubt,
            units_needed,
            sentence: String::new(),
            caveat: None,
        };
        let said = sentence::of(&contrast, self.question, self.sentence_margin(), control);
        (contrast.sentence, contrast.caveat) = (said.whole, said.caveat);
        Ok(contrast)
    }

    fn sentence_margin(&self) -> Option<f64> {
        (self.margin > 0.0).then_some(self.margin)
    }

    /// Limits of the gain on the scale of the margin: in the measure's unit, or as a share for ratios.
    fn gain(&self, low: f64, high: f64) -> Gain {
        match self.question.scale {
            Scale::Difference => Gain::of(low, high, self.question.better),
            Scale::Ratio => Gain::of(low.exp_m1(), high.exp_m1(), self.question.better),
        }
    }

    fn verdict(
        &self,
        t: usize,
        deciding: Option<(f64, f64)>,
        redealt: Option<&Randomisation>,
        welch: Option<&Welch>,
    ) -> Result<(Verdict, Option<Doubt>), StatsError> {
        if self.units.counts[t] < 2 || self.units.counts[0] < 2 {
            return Ok((Verdict::CannotTell, Some(Doubt::OneUnit)));
        }
        let Some((low, high)) = deciding else {
            return Ok((Verdict::CannotTell, Some(Doubt::NoSpread)));
        };
        let verdict = decide(self.question.goal, self.gain(low, high), self.margin);
        let outside = 1.0 - self.question.confidence;
        let contradicted =
            redealt.is_some_and(|r| r.p >= outside && r.smallest_possible_p.is_none_or(|smallest| smallest < outside));
        if verdict.claims_difference() && contradicted {
            return Ok((Verdict::CannotTell, Some(Doubt::Redeal)));
        }
        if let Some(w) = welch {
            let limits = self.sidak(w)?;
            let (low, high) = limits.simultaneous.map_or((w.low, w.high), |s| (s.low, s.high));
            if verdict != Verdict::CannotTell
                && decide(self.question.goal, self.gain(low, high), self.margin) == Verdict::CannotTell
            {
                return Ok((Verdict::CannotTell, Some(Doubt::UnequalSpread)));
            }
        }
        Ok((verdict, None))
    }

    /// Units as they could have been dealt: their means, or what block and baseline leave of them.
    fn randomisation(&self, t: usize) -> Option<Randomisation> {
        let adjusted: Vec<f64> = if self.layout.baseline {
            let together: Vec<Observation> =
                self.units.rows.iter().map(|r| Observation { treatment: 0, ..*r }).collect();
            linear::fit(&together, Layout { treatments: 1, ..self.layout }).ok()?.residuals
        } else {
            self.units.rows.iter().map(|r| r.value).collect()
        };
        let mut blocks = vec![Block::default(); self.layout.blocks];
        for (row, value) in self.units.rows.iter().zip(adjusted) {
            if row.treatment == t {
                blocks[row.block].treated.push(value);
            } else if row.treatment == 0 {
                blocks[row.block].control.push(value);
            }
        }
        redeal(&blocks, self.question.seed).map(|r| Randomisation {
            p: r.p,
            smallest_possible_p: r.smallest_possible_p,
            assignments: r.assignments,
            exact: r.exact,
        })
    }

    /// Units of a treatment with an 80 % chance that the lower limit passes zero (match: minus the margin).
    fn units_needed(&self) -> Option<usize> {
        const CHANCE: f64 = 0.8;
        let sd = self.model.residual.sd.filter(|sd| *sd > 0.0 && self.model.usable)?;
        let effect = match (self.question.scale, self.question.better) {
            (Scale::Difference, _) => self.margin,
            (Scale::Ratio, Better::Higher) => self.margin.ln_1p(),
            (Scale::Ratio, Better::Lower) => -(-self.margin.min(0.999)).ln_1p(),
        } / sd;
        if effect <= 0.0 {
            return None;
        }
        let blocks = self.table.blocks.len();
        let a_block = if blocks == 0 {
            1
        } else {
            ((self.units.rows.len() as f64 / (blocks * self.layout.treatments) as f64).round() as usize).max(1)
        };
        fewest_units(a_block, |units| {
            let plan = PowerPlan {
                treatments: self.layout.treatments,
                units,
                blocks: if blocks == 0 { 1 } else { units / a_block },
                covariates: usize::from(self.layout.baseline),
                confidence: self.question.confidence,
            };
            plan.chance_above_zero(effect).is_ok_and(|chance| chance >= CHANCE)
        })
    }

    /// The treatments that no other is surely better than, all pairs considered (Tukey, Kramer's extension).
    fn best(&self) -> Result<Vec<String>, StatsError> {
        let count = self.layout.treatments;
        let critical = tukey::critical_t(self.question.confidence, count, self.model.smallest_df())?;
        let sign = if self.question.better == Better::Higher { 1.0 } else { -1.0 };
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
