//! How much is enough? Dose curves, the choice among them, and the lowest dose that comes within
//! the margin of the best.

use super::super::result::{
    Analysis, DoseLine, DoseOut, DoseStepOut, EnoughOut, LinearOut, LinearPlateauOut,
    LogLogisticOut, OverallOut, QuadraticOut, TreatmentOut,
};
use super::super::table::Table;
use super::super::units::Units;
use crate::kinds::shared::{envelope, named};
use crate::question::{AnalyseError, Question};
use crate::warnings::uninformative_blocks;
use crate::wording::{figure, figure_within, in_hundred, plain};
use iron_twin_stats::StatsError;
use iron_twin_stats::dose::{DoseFits, Enough, Model};
use iron_twin_stats::linear::{self, Layout, Observation};
use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
use iron_twin_stats::welch::mean_and_variance;
use iron_twin_terms::goal::Better;
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::severity::{Severity, Warning};
use std::collections::BTreeMap;

/// Fits the dose curves to the units' means.
pub(super) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    let units = Units::of(&table.observations, table);
    let ladder = Rungs::of(table, &units);
    let (points, spent) = ladder.points(table)?;
    let fits = DoseFits::less_spent(&points, spent).map_err(named(table))?;
    let (from, to) = points.iter().fold((f64::INFINITY, 0.0f64), |(a, b), p| {
        (a.min(p.0), b.max(p.0))
    });
    let higher = question.better == Better::Higher;
    let best = fits.best(from, to, higher);
    let margin = match (question.margin, best) {
        (None, _) => None,
        (Some(Margin::Absolute(value)), _) => Some(value),
        (Some(Margin::Percent(percent)), Some(best)) if best > 0.0 => Some(0.01 * percent * best),
        (Some(Margin::Percent(_)), Some(best)) => return Err(AnalyseError::PercentOfNothing(best)),
        (Some(Margin::Percent(_)), None) => None,
    };
    let enough =
        margin.and_then(|m| fits.enough_with_limits(m, higher, question.confidence, question.seed));
    let mut analysis = envelope(table, question, &units, "dose");
    analysis.design.name = "dose ladder";
    if let Some(out) = analysis.margin.as_mut() {
        out.absolute = margin;
    }
    analysis.treatments = treatments(&points);
    analysis.design.treatments = analysis.treatments.len();
    let (rss, df) = (fits.preferred_rss().0, fits.df());
    analysis.residual.df = df.max(0.0);
    analysis.residual.sd = (df > 0.0).then(|| (rss / df).sqrt());
    analysis.warnings = warnings(table, &analysis);
    analysis
        .warnings
        .extend(uninformative_blocks(table, &ladder.rows, "dose"));
    let told = Ladder {
        fits: &fits,
        question,
        doses: &ladder.doses,
        steps: ladder.steps(question),
    };
    analysis.dose = Some(told.out(enough));
    Ok(analysis)
}

/// Each dose by itself, lowest first.
fn treatments(points: &[(f64, f64)]) -> Vec<TreatmentOut> {
    let mut doses: Vec<f64> = points.iter().map(|p| p.0).collect();
    doses.sort_by(f64::total_cmp);
    doses.dedup();
    doses
        .iter()
        .map(|dose| {
            let own: Vec<f64> = points
                .iter()
                .filter(|p| p.0 == *dose)
                .map(|p| p.1)
                .collect();
            let mean = own.iter().sum::<f64>() / own.len() as f64;
            TreatmentOut {
                name: dose.to_string(),
                units: own.len(),
                samples: own.len(),
                mean,
                adjusted_mean: mean,
                sd: (own.len() > 1).then(|| mean_and_variance(&own).1.sqrt()),
                se: None,
                median: None,
            }
        })
        .collect()
}

fn warnings(table: &Table, analysis: &Analysis) -> Vec<Warning> {
    let mut found = Vec::new();
    if analysis.treatments.iter().all(|t| t.units == 1) {
        let message =
            "every dose stands in one unit only: how far units scatter rests on the curve alone"
                .into();
        found.push(Warning {
            code: "one_unit_per_dose",
            severity: Severity::Serious,
            message,
        });
    }
    if table
        .observations
        .iter()
        .all(|o| o.value == table.observations[0].value)
    {
        let message = "every value is the same; no dose can be told from another".into();
        found.push(Warning {
            code: "no_variation",
            severity: Severity::Fatal,
            message,
        });
    }
    if !table.dropped.is_empty() {
        let message = format!(
            "{} of {} rows could not be used",
            table.dropped.len(),
            table.rows
        );
        found.push(Warning {
            code: "rows_dropped",
            severity: Severity::Minor,
            message,
        });
    }
    found
}

fn known(value: f64) -> Option<f64> {
    value.is_finite().then_some(value)
}

/// The units by their dose: which of the doses, lowest first, is each one's treatment.
struct Rungs {
    doses: Vec<f64>,
    rows: Vec<Observation>,
}

impl Rungs {
    fn of(table: &Table, units: &Units) -> Self {
        let mut own = vec![0.0; table.units.len()];
        for (o, beside) in table.observations.iter().zip(&table.beside) {
            own[o.unit] = beside.size;
        }
        let mut doses: Vec<f64> = units.rows.iter().map(|r| own[r.unit]).collect();
        doses.sort_by(f64::total_cmp);
        doses.dedup();
        let rung = |row: &Observation| doses.partition_point(|d| *d < own[row.unit]);
        let rows = units
            .rows
            .iter()
            .map(|row| Observation {
                treatment: rung(row),
                ..*row
            })
            .collect();
        Self { doses, rows }
    }

    /// Dose and value of each unit, and how many degrees of freedom went into the values: where the
    /// units stand in blocks, what a block gives is taken out first (value ~ dose + block, fixed
    /// effects), so that shelves that differ are not taken for scatter.
    fn points(&self, table: &Table) -> Result<(Vec<(f64, f64)>, usize), AnalyseError> {
        let dose = |row: &Observation| self.doses[row.treatment];
        let blocks = table.blocks.len();
        if blocks < 2 {
            return Ok((self.rows.iter().map(|r| (dose(r), r.value)).collect(), 0));
        }
        let layout = Layout {
            treatments: self.doses.len(),
            blocks,
            columns: 1,
            baseline: false,
        };
        let fit = linear::fit(&self.rows, layout).map_err(|error| match error {
            StatsError::NotConnected { treatment } => {
                AnalyseError::DoseApart(self.doses[treatment])
            }
            other => AnalyseError::Stats(other),
        })?;
        let without_block =
            |(row, left): (&Observation, &f64)| (dose(row), fit.means[row.treatment] + left);
        Ok((
            self.rows
                .iter()
                .zip(&fit.residuals)
                .map(without_block)
                .collect(),
            blocks - 1,
        ))
    }

    /// The trend over equal steps of the ladder, from the highest dose down as long as it is sure
    /// (Tukey, Ciminera and Heyse 1985; Williams 1971 for the stepping down). The units of the
    /// doses up to each are dealt anew, inside their blocks.
    fn steps(&self, question: &Question) -> Vec<DoseStepOut> {
        let mut steps = Vec::new();
        let mut sure = true;
        for top in (1..self.doses.len()).rev() {
            let up_to = self.rows.iter().filter(|row| row.treatment <= top);
            let dealt = |r: &Observation| DealtUnit {
                treatment: r.treatment,
                block: r.block,
                value: r.value,
            };
            let units: Vec<DealtUnit> = up_to.map(dealt).collect();
            let Some(deck) = Deck::of(&units, top + 1) else {
                continue;
            };
            let scores: Vec<f64> = (0..=top).map(|d| d as f64).collect();
            let dealt = deck.trend(&scores, question.seed);
            let p = dealt.shares[0].p;
            sure &= p < 1.0 - question.confidence;
            steps.push(DoseStepOut {
                dose: self.doses[top],
                p,
                rises: trend_of(&units) > 0.0,
                assignments: dealt.assignments,
                exact: dealt.exact,
                works: sure,
            });
        }
        steps.reverse();
        steps
    }
}

/// How much more the higher doses give inside the blocks: values times the rung of their dose about
/// its block's mean rung.
fn trend_of(units: &[DealtUnit]) -> f64 {
    let mut blocks: BTreeMap<usize, (f64, f64)> = BTreeMap::new();
    for unit in units {
        let (n, rungs) = blocks.entry(unit.block).or_default();
        (*n, *rungs) = (*n + 1.0, *rungs + unit.treatment as f64);
    }
    units
        .iter()
        .map(|u| u.value * (u.treatment as f64 - blocks[&u.block].1 / blocks[&u.block].0))
        .sum()
}

/// A ladder of doses with what is to be said of it.
struct Ladder<'a> {
    fits: &'a DoseFits,
    question: &'a Question,
    /// The different doses, lowest first.
    doses: &'a [f64],
    steps: Vec<DoseStepOut>,
}

impl Ladder<'_> {
    fn out(self, enough: Option<Enough>) -> DoseOut {
        let fits = self.fits;
        let enough = enough
            .filter(|e| !self.still_rising(e))
            .map(|e| self.by_what_was_tried(e));
        let (sentence, line) = (self.sentence(enough), self.line());
        DoseOut {
            log_logistic: fits.log_logistic.as_ref().map(|l| LogLogisticOut {
                slope: l.slope,
                lower: l.lower,
                upper: l.upper,
                ed50: l.ed50,
                se_ed50: known(l.se_ed50),
                residual_sd: known(l.residual_sd),
            }),
            linear: LinearOut {
                intercept: fits.linear.intercept,
                slope: fits.linear.slope,
                se: known(fits.linear.se),
                p: known(fits.linear.p),
            },
            linear_plateau: fits.plateau.map(|p| LinearPlateauOut {
                intercept: p.intercept,
                slope: p.slope,
                joint: p.joint,
                plateau: p.plateau,
                rss: p.rss,
            }),
            quadratic: fits.quadratic.map(|q| QuadraticOut {
                intercept: q.intercept,
                slope: q.slope,
                curvature: q.curvature,
                peak: known(q.peak),
                rss: q.rss,
            }),
            preferred: match fits.preferred {
                Model::LogLogistic => "log_logistic",
                Model::Linear | Model::Hyperbola | Model::RootParabola => "linear",
                Model::LinearPlateau => "linear_plateau",
                Model::Quadratic => "quadratic",
            },
            lack_of_fit: fits.lack_of_fit.map(|l| OverallOut {
                test: "F",
                statistic: l.f,
                df: l.df.to_vec(),
                p: l.p,
            }),
            enough: enough.map(|e| EnoughOut {
                dose: e.dose,
                low: e.low,
                high: e.high,
            }),
            sentence,
            steps: self.steps,
            line,
        }
    }

    /// Points of the line to be drawn.
    const DRAWN: usize = 60;

    fn line(&self) -> DoseLine {
        let (from, to) = self.range();
        let doses: Vec<f64> = (0..=Self::DRAWN)
            .map(|n| from + (to - from) * n as f64 / Self::DRAWN as f64)
            .collect();
        let value = |dose: &f64| {
            self.fits
                .averaged(*dose)
                .unwrap_or_else(|| self.fits.predict(*dose))
        };
        DoseLine {
            values: doses.iter().map(value).collect(),
            doses,
            averaged: self.fits.averaged(from).is_some(),
        }
    }

    fn range(&self) -> (f64, f64) {
        (
            self.doses.first().copied().unwrap_or(0.0),
            self.doses.last().copied().unwrap_or(0.0),
        )
    }

    /// Whether the response comes within the margin of the best only on the last step of the
    /// ladder: then nothing shows that it has stopped.
    fn still_rising(&self, enough: &Enough) -> bool {
        matches!(self.doses, [.., before, _] if enough.dose > *before)
    }

    /// Round a peak the curves differ most between two doses, where nothing was seen: the limits go
    /// out to the doses tried.
    fn by_what_was_tried(&self, enough: Enough) -> Enough {
        if self.peak().is_none() {
            return enough;
        }
        let below = self.doses.iter().rev().find(|d| **d <= enough.low).copied();
        let above = self.doses.iter().find(|d| **d >= enough.high).copied();
        Enough {
            low: below.unwrap_or(enough.low),
            high: above.unwrap_or(enough.high),
            ..enough
        }
    }

    /// The dose of a peak that lies inside what was tried.
    fn peak(&self) -> Option<f64> {
        let (from, to) = self.range();
        self.fits
            .turns(self.question.better == Better::Higher)
            .filter(|peak| *peak > from && *peak < to)
    }

    fn shape(&self) -> Option<String> {
        Some(match self.fits.leading()? {
            Model::LogLogistic => "The response bends along an S-shaped curve".into(),
            Model::Linear => "Nothing shows that the response bends over the doses tried".into(),
            Model::LinearPlateau => "The response follows a line and then stays level".into(),
            Model::Hyperbola => "The response gains less and less from more".into(),
            Model::Quadratic | Model::RootParabola => match self.peak() {
                Some(peak) => {
                    format!(
                        "The response is best at a dose of about {} and gets worse beyond it",
                        plain(peak, 1) + &self.unit()
                    )
                }
                None => "The response bends".into(),
            },
        })
    }

    fn sentence(&self, enough: Option<Enough>) -> String {
        let told = self.which_is_enough(enough);
        // Past a peak the highest dose says little of those below it.
        if self.peak().is_some() {
            return told;
        }
        let sure: Vec<&DoseStepOut> = self.steps.iter().filter(|s| s.works).collect();
        match sure.first() {
            Some(lowest) => {
                let (dose, unit) = (figure(lowest.dose), self.unit());
                let most = sure.iter().map(|s| s.p).fold(0.0, f64::max);
                let (one, several) =
                    match (sure.iter().all(|s| s.rises), sure.iter().all(|s| !s.rises)) {
                        (true, _) => ("raises", "raise"),
                        (_, true) => ("lowers", "lower"),
                        _ => ("changes", "change"),
                    };
                let which = if lowest.dose < self.range().1 {
                    format!("{dose}{unit} and more {several}")
                } else {
                    format!("{dose}{unit} {one}")
                };
                format!(
                    "{told} Dealing the ladder anew: {which} the response; a trend this strong \
                     came up in at most {} of 100 deals.{}",
                    in_hundred(most),
                    self.too_few_ways()
                )
            }
            // A response that turns on the way has no trend over the whole ladder, and does
            // something all the same.
            None if self.turns_on_the_way() => told,
            None => format!(
                "{told} Dealing the ladder anew, no dose is sure to do anything.{}",
                self.too_few_ways()
            ),
        }
    }

    /// Where the step that stopped could not have been sure whatever came out: a deal and its
    /// mirror image are as far out.
    fn too_few_ways(&self) -> String {
        let stopped = self.steps.iter().rev().find(|s| !s.works);
        match stopped.filter(|s| s.exact && 2.0 / s.assignments > 1.0 - self.question.confidence) {
            Some(step) => format!(
                " For {}{} there were too few ways to deal ({}) to be sure, whatever came out.",
                figure(step.dose),
                self.unit(),
                step.assignments
            ),
            None => String::new(),
        }
    }

    fn turns_on_the_way(&self) -> bool {
        let each = (1.0 - self.question.confidence) / self.steps.len().max(1) as f64;
        self.steps.iter().any(|s| s.p < each)
    }

    fn unit(&self) -> String {
        let dose = &self.question.wording.dose;
        if dose.is_empty() {
            String::new()
        } else {
            format!(" {dose}")
        }
    }

    fn which_is_enough(&self, enough: Option<Enough>) -> String {
        let ((from, to), unit) = (self.range(), self.unit());
        let Some(shape) = self.shape() else {
            return "Can't tell which dose is enough: no curve that was tried passes near enough \
                    to the means of the doses."
                .into();
        };
        let Some(m) = self.question.margin else {
            return format!("{shape}. Give a margin to learn which dose is enough.");
        };
        let margin = match m {
            Margin::Percent(p) => format!("{p} %"),
            Margin::Absolute(a) => a.to_string(),
        };
        let Some(e) = enough else {
            return self.untold(&shape);
        };
        let fine = |value: f64| figure_within(value, (e.low, e.high));
        let limits = if e.low < e.high {
            format!(
                " (very likely between {} and {})",
                fine(e.low),
                fine(e.high)
            )
        } else {
            String::new()
        };
        let rises = self.fits.leading() == Some(Model::Linear)
            && self.steps.last().is_some_and(|s| s.works);
        if rises && e.dose > from {
            return format!(
                "{shape}. {}{unit} comes within {margin} of the best that was tried{limits}; \
                 nothing shows that the response has stopped there, and more may do better.",
                fine(e.dose)
            );
        }
        if e.low <= from && e.high >= to {
            format!(
                "{shape}. Can't tell which dose is enough: {}{unit} comes within {margin} of the \
                 best, but it could be any of those tried.",
                fine(e.dose)
            )
        } else if e.low <= from && e.low < e.high {
            self.promised(&shape, e, &margin)
        } else if e.high <= from {
            let lowest = if from == 0.0 {
                "without any".into()
            } else {
                format!("at the lowest dose tried, {}{unit},", figure(from))
            };
            format!("{shape}. Already {lowest} the response is within {margin} of the best.")
        } else {
            format!(
                "{shape}. A dose of {}{unit} is enough: it comes within {margin} of the \
                 best{limits}.",
                fine(e.dose)
            )
        }
    }

    /// What is said where no dose can be called enough.
    fn untold(&self, shape: &str) -> String {
        let ((from, to), unit) = (self.range(), self.unit());
        if self.fits.averaged(from).is_none() {
            "Can't tell which dose is enough: so few units do not show whether the response \
                 bends."
                .into()
        } else if self.peak().is_some() {
            format!(
                "{shape}. Can't tell which dose is enough: the best may lie anywhere towards \
                     {}{unit}.",
                figure(to)
            )
        } else if !self.steps.last().is_some_and(|s| s.works) {
            format!("{shape}. Can't tell which dose is enough.")
        } else {
            format!(
                "{shape}. It has not stopped at the highest dose tried, {}{unit}: more may do \
                     better, and no dose tried can be called enough.",
                figure(to)
            )
        }
    }

    /// What is promised where the lowest dose may do as well.
    fn promised(&self, shape: &str, e: Enough, margin: &str) -> String {
        let ((from, _), unit) = (self.range(), self.unit());
        // The lowest dose may do as well. What can be promised is the upper limit, and of what
        // was tried: between two doses the curve alone speaks.
        let promised = self
            .doses
            .iter()
            .copied()
            .find(|d| *d >= e.high)
            .unwrap_or(e.high);
        let needed = if from == 0.0 {
            "any".into()
        } else {
            format!("more than the lowest tried, {}{unit},", figure(from))
        };
        format!(
            "{shape}. A dose of {}{unit} is very likely enough, and less may be: nothing \
                 shows that {needed} is needed to come within {margin} of the best.",
            figure(promised)
        )
    }
}
