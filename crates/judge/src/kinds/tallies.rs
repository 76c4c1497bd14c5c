//! What counts and shares have in common: units summed, the quasi-likelihood model, Dunnett on its
//! scale, the deals.

use super::super::by_block::{self, ByBlock, Places};
use super::super::dealing::{Deals, confirm_by_whole};
use super::super::deciding::Deciding;
use super::super::factors::{Crossed, not_crossed, plain_test};
use super::super::result::{
    Analysis, Contrast, DecidedBy, FactorsOut, OverallOut, Randomisation, Simultaneous,
    TreatmentOut,
};
use super::super::sentence::Terms;
use super::super::table::Table;
use super::super::units::Units;
use super::super::warnings;
use crate::deciding::{Decision, sidak_confidence};
use crate::kinds::shared::{Needed, contrast_of, envelope, layout_of, named, units_for_effect};
use crate::question::{AnalyseError, Question};
use iron_twin_stats::distributions::{t_quantile_upper, t_two_sided};
use iron_twin_stats::dunnett::JointContrasts;
use iron_twin_stats::edge::{self, EdgeLimits, Pair};
use iron_twin_stats::linear::{Layout, Observation, check_connected, contrast_correlation};
use iron_twin_stats::quasi::{self, Family, QuasiFit, Tally};
use iron_twin_stats::welch::mean_and_variance;
use iron_twin_stats::{StatsError, tukey};
use iron_twin_terms::severity::{Severity, Warning};
use nalgebra::DMatrix;

/// The units of a table with what was counted in each, and the model of them.
pub(super) struct Tallies<'a> {
    family: Family,
    pub table: &'a Table,
    pub question: &'a Question,
    pub units: Units,
    pub tallies: Vec<Tally>,
    pub fit: QuasiFit,
    pub layout: Layout,
    joint: Option<Joint>,
    by_block: Option<ByBlock>,
}

/// The joint distribution of the contrasts that can be estimated.
struct Joint {
    contrasts: JointContrasts,
    critical: f64,
}

/// Limits of one contrast on the model's scale.
pub(super) struct Limits {
    pub estimate: f64,
    pub se: f64,
    pub low: f64,
    pub high: f64,
    pub p: f64,
    /// Half-width in standard errors, for the contrast alone.
    pub reach: f64,
    /// The same for all contrasts together, with its p, where there is more than one.
    pub together: Option<(f64, f64)>,
}

/// The rows of each unit, summed.
fn tallied(table: &Table, units: &Units) -> Vec<Tally> {
    let mut totals = vec![(0.0, 0.0); table.units.len()];
    for (o, beside) in table.observations.iter().zip(&table.beside) {
        let total: &mut (f64, f64) = &mut totals[o.unit];
        *total = (total.0 + o.value, total.1 + beside.size);
    }
    units
        .rows
        .iter()
        .map(|r| Tally {
            treatment: r.treatment,
            block: r.block,
            column: r.column,
            count: totals[r.unit].0,
            size: totals[r.unit].1,
        })
        .collect()
}

impl<'a> Tallies<'a> {
    /// Sums the rows of each unit and fits the model.
    pub fn of(
        family: Family,
        table: &'a Table,
        question: &'a Question,
    ) -> Result<Self, AnalyseError> {
        let mut units = Units::of(&table.observations, table);
        let tallies = tallied(table, &units);
        // From here on a unit stands for its rate: what is dealt anew, and what scatters.
        for (row, tally) in units.rows.iter_mut().zip(&tallies) {
            *row = Observation {
                value: tally.rate(),
                ..*row
            };
        }
        let layout = layout_of(table, false);
        check_connected(&units.rows, layout).map_err(named(table))?;
        let fit_of = |tallies: &[Tally]| match quasi::fit(family, tallies, layout) {
            // A cell at the edge that neither its treatment nor its block explains: only the deals
            // can speak.
            Err(StatsError::NoConvergence { .. } | StatsError::NotConnected { .. }) => {
                Ok(beyond_model(tallies, layout))
            }
            other => other.map_err(named(table)),
        };
        let mut fit = fit_of(&tallies)?;
        let mut by_block = None;
        if let Some(places) = by_block::cells(table, &units, layout) {
            let whole = fit_of(&summed(&tallies, &places))?;
            by_block = spread_inside(family, &tallies, &places)
                .filter(|_| whole.dispersion.is_finite())
                .map(|inside| {
                    ByBlock::told(table, &units, &places, (whole.dispersion, whole.df), inside)
                });
            if by_block.as_ref().is_some_and(ByBlock::is_error) {
                fit = whole;
            }
        }
        let mut whole = Self {
            family,
            table,
            question,
            units,
            tallies,
            fit,
            layout,
            joint: None,
            by_block,
        };
        whole.joint = whole.joint().map_err(named(table))?;
        Ok(whole)
    }

    /// Whether limits can be had at all.
    pub fn usable(&self) -> bool {
        self.fit.df > 0.0 && self.fit.dispersion > 1e-20
    }

    pub fn has_limits(&self, treatment: usize) -> bool {
        self.usable() && self.fit.estimable[0] && self.fit.estimable[treatment]
    }

    /// One unit of every treatment: nothing shows how units scatter.
    pub fn one_each(&self) -> bool {
        self.units.counts.iter().all(|&n| n == 1)
    }

    /// Whether a treatment is compared with the control by the likelihood of their totals: one of
    /// them had none, or all, and the others show how units scatter.
    fn at_edge(&self, treatment: usize) -> bool {
        self.usable() && !(self.fit.estimable[0] && self.fit.estimable[treatment])
    }

    fn joint(&self) -> Result<Option<Joint>, StatsError> {
        if !self.usable() || self.layout.treatments < 3 {
            return Ok(None);
        }
        let known: Vec<usize> = (1..self.layout.treatments)
            .filter(|&t| self.has_limits(t))
            .collect();
        if known.len() + 1 < self.layout.treatments {
            // What is at the edge has no covariance: the shared control alone makes the comparisons
            // go together.
            let shared = |t: usize| {
                let (own, control) = (self.units.counts[t] as f64, self.units.counts[0] as f64);
                (own / (own + control)).sqrt()
            };
            let all = 1..self.layout.treatments;
            let together: Vec<Vec<f64>> = all
                .clone()
                .map(|i| {
                    all.clone()
                        .map(|j| if i == j { 1.0 } else { shared(i) * shared(j) })
                        .collect()
                })
                .collect();
            let contrasts = JointContrasts::new(&together, self.fit.df)?;
            let critical = contrasts.critical(self.question.confidence)?;
            return Ok(Some(Joint {
                contrasts,
                critical,
            }));
        }
        let places: Vec<usize> = std::iter::once(0).chain(known).collect();
        let covariance = DMatrix::from_fn(places.len(), places.len(), |i, j| {
            self.fit.covariance[(places[i], places[j])]
        });
        let contrasts = JointContrasts::new(&contrast_correlation(&covariance), self.fit.df)?;
        let critical = contrasts.critical(self.question.confidence)?;
        Ok(Some(Joint {
            contrasts,
            critical,
        }))
    }

    /// Limits of a treatment against the control on the model's scale; None where there are none.
    pub fn limits(&self, treatment: usize) -> Result<Option<Limits>, StatsError> {
        if !self.has_limits(treatment) {
            return Ok(None);
        }
        let (estimate, se) = self.fit.difference(treatment, 0);
        let reach = t_quantile_upper(0.5 * (1.0 - self.question.confidence), self.fit.df)?;
        let statistic = estimate / se;
        Ok(Some(Limits {
            estimate,
            se,
            low: estimate - reach * se,
            high: estimate + reach * se,
            p: t_two_sided(statistic, self.fit.df),
            reach,
            together: self
                .joint
                .as_ref()
                .map(|j| (j.critical, j.contrasts.exceeds(statistic))),
        }))
    }

    /// Limits of a treatment against the control by the likelihood of their totals, alone and for
    /// all contrasts together, on the scale of the family; None where there are none.
    pub fn edge_limits(&self, treatment: usize) -> Result<Option<AtEdge>, StatsError> {
        if !self.at_edge(treatment) {
            return Ok(None);
        }
        let alone = t_quantile_upper(0.5 * (1.0 - self.question.confidence), self.fit.df)?;
        let Some(own) = self.likely(treatment, 0, alone) else {
            return Ok(None);
        };
        let p = own.p(self.fit.dispersion, self.fit.df);
        let together = self.joint.as_ref().and_then(|joint| {
            let limits = self.likely(treatment, 0, joint.critical)?;
            let statistic = (own.fall / self.fit.dispersion).sqrt();
            Some(Simultaneous::new(
                "dunnett",
                limits.low,
                limits.high,
                joint.contrasts.exceeds(statistic),
            ))
        });
        Ok(Some(AtEdge {
            low: own.low,
            high: own.high,
            p,
            together,
        }))
    }

    /// The limits that the totals of two treatments leave, inside the blocks that hold both.
    fn likely(&self, first: usize, second: usize, critical: f64) -> Option<EdgeLimits> {
        let mut blocks = vec![
            Pair {
                treated: (0.0, 0.0),
                control: (0.0, 0.0)
            };
            self.layout.blocks
        ];
        for tally in &self.tallies {
            let pair = &mut blocks[tally.block];
            let side = match tally.treatment {
                t if t == first => &mut pair.treated,
                t if t == second => &mut pair.control,
                _ => continue,
            };
            *side = (side.0 + tally.count, side.1 + tally.size);
        }
        blocks.retain(|b| b.treated.1 > 0.0 && b.control.1 > 0.0);
        if blocks.is_empty() {
            return None;
        }
        match self.family {
            Family::Count => edge::ratio_limits(&blocks, self.fit.dispersion, critical),
            Family::Share => {
                let limits = edge::share_limits(&blocks, self.fit.dispersion, critical);
                Some(EdgeLimits {
                    low: 100.0 * limits.low,
                    high: 100.0 * limits.high,
                    ..limits
                })
            }
        }
    }

    /// Every treatment against the control, as the family computes it, with its verdict.
    pub fn contrasts(
        &self,
        said: &Decision<'_>,
        needed: Needed,
        compute: fn(&Self, usize) -> Result<Contrast, StatsError>,
    ) -> Result<Vec<Contrast>, StatsError> {
        let mut found: Vec<Contrast> = (1..self.layout.treatments)
            .map(|t| compute(self, t))
            .collect::<Result<_, StatsError>>()?;
        let mut redealt: Vec<_> = found.iter_mut().map(|c| c.randomisation.take()).collect();
        // Dealing the whole trial takes long, and is asked only where a difference may be claimed.
        let claimed = |c: &Contrast| c.p.is_none_or(|p| p < 1.0 - self.question.confidence);
        if self.by_block.as_ref().is_none_or(|b| !b.is_error()) && found.iter().any(claimed) {
            confirm_by_whole(&mut redealt, self.question.confidence, || {
                self.dealing(&self.rates()).whole()
            });
        }
        (1..)
            .zip(found)
            .zip(redealt)
            .map(|((t, contrast), randomisation)| {
                let mut contrast = Contrast {
                    units_needed: needed.test,
                    units_for_verdict: needed.verdict,
                    randomisation,
                    ..contrast
                };
                let units = (self.units.counts[t], self.units.counts[0]);
                if let Some(by_block) = &self.by_block {
                    contrast.by_block = match self.family {
                        Family::Count => by_block.gaps(self.table, t, |a, b| a / b),
                        Family::Share => by_block.gaps(self.table, t, |a, b| 100.0 * (a - b)),
                    };
                }
                match self.edge_limits(t)? {
                    Some(at_edge) => self.decide_at_edge(said, &mut contrast, units, &at_edge),
                    None => said.decide_by_own_limits(&mut contrast, units, self.lead(t)),
                }
                Ok(contrast)
            })
            .collect()
    }

    fn decide_at_edge(
        &self,
        said: &Decision<'_>,
        contrast: &mut Contrast,
        units: (usize, usize),
        at: &AtEdge,
    ) {
        let finite = |v: f64| v.is_finite().then_some(v);
        (contrast.low, contrast.high, contrast.p) = (Some(at.low), finite(at.high), Some(at.p));
        if self.family == Family::Count {
            (contrast.ratio_low, contrast.ratio_high) = (Some(Some(at.low)), Some(finite(at.high)));
        }
        contrast.simultaneous.clone_from(&at.together);
        let (low, high) = at
            .together
            .as_ref()
            .map_or((at.low, at.high), |s| (s.low, s.high));
        contrast.decided_by = Some(DecidedBy {
            limits: "quasi_likelihood",
            low,
            high: finite(high),
            df: self.fit.df,
        });
        let from = if self.family == Family::Count {
            1.0
        } else {
            0.0
        };
        let redealt = contrast.randomisation.clone();
        let limits = Some((low - from, high - from));
        said.decide(
            contrast,
            &Deciding {
                units,
                limits,
                redealt: redealt.as_ref(),
                ..Deciding::default()
            },
        );
    }

    /// Units of a treatment for an effect in standard deviations of a unit.
    pub fn fewest_units(&self, effect_sd: f64) -> Needed {
        units_for_effect(
            self.table,
            &self.units,
            self.layout,
            self.question,
            effect_sd,
        )
    }

    /// How far a treatment's rate lies above the control's, where one of them stands at the edge,
    /// nothing shows how the others scatter, and only the deals decide.
    pub fn lead(&self, treatment: usize) -> Option<f64> {
        let off_edge = self.fit.estimable[0] && self.fit.estimable[treatment];
        (!off_edge && !self.usable() && !self.one_each())
            .then(|| self.fit.rates[treatment] - self.fit.rates[0])
    }

    /// Deals the units of two treatments anew, each with its rate.
    fn deals(&self, first: usize, second: usize) -> Option<Randomisation> {
        self.dealing(&self.rates()).pair(first, second)
    }

    fn rates(&self) -> Vec<f64> {
        self.tallies.iter().map(Tally::rate).collect()
    }

    fn dealing<'v>(&'v self, values: &'v [f64]) -> Deals<'v> {
        Deals {
            table: self.table,
            units: &self.units,
            values,
            seed: self.question.seed,
        }
    }

    /// A contrast with what does not depend on the family.
    pub fn contrast(&self, treatment: usize) -> Contrast {
        Contrast {
            df: self.fit.df.max(0.0),
            randomisation: self.deals(treatment, 0),
            ..contrast_of(self.table, treatment)
        }
    }

    /// Mean rate and mean size of a control unit: what a further unit would be like.
    pub fn typical_unit(&self) -> (f64, f64) {
        let sizes: f64 = self.tallies.iter().map(|t| 1.0 / t.size).sum();
        (self.fit.rates[0], self.tallies.len() as f64 / sizes)
    }

    /// The answer but for its contrasts.
    pub fn envelope(&self, scale: &'static str) -> Analysis {
        let mut analysis = envelope(self.table, self.question, &self.units, scale);
        analysis.treatments = (0..self.layout.treatments)
            .map(|t| self.treatment(t))
            .collect();
        analysis.overall = if self.usable() {
            self.fit.overall().map(|o| OverallOut::f(&o))
        } else {
            None
        };
        analysis.residual.df = self.fit.df.max(0.0);
        analysis.dispersion = Some(
            self.fit
                .dispersion
                .is_finite()
                .then_some(self.fit.dispersion),
        );
        analysis.warnings = self.warnings();
        if let Some(by_block) = &self.by_block {
            analysis.residual.treatment_by_block = Some(by_block.told.clone());
            analysis
                .warnings
                .extend(warnings::differs_by_block(self.table, &by_block.told));
            if by_block.is_error() {
                analysis.design.error = "treatment x block";
            }
        }
        analysis
    }

    /// Crossed factors taken apart: counts on logarithms, shares in points.
    pub fn factors(&self, terms: Terms, margin: f64) -> Result<Option<FactorsOut>, StatsError> {
        if !self.usable() || self.fit.estimable.contains(&false) || self.one_each() {
            return Ok(None);
        }
        let (means, covariance) = if terms == Terms::Share {
            let points = self.fit.rates.iter().map(|r| 100.0 * r).collect();
            (points, &self.fit.rates_covariance * 1e4)
        } else {
            (self.fit.scores.clone(), self.fit.covariance.clone())
        };
        let rates = self.rates();
        Crossed {
            table: self.table,
            question: self.question,
            units: &self.units,
            values: &rates,
            terms,
            means: &means,
            covariance: &covariance,
            df_of: &|_| self.fit.df,
            // On the model's own scale, where effects add up.
            test: &|contrasts| {
                plain_test(
                    &self.fit.scores,
                    &self.fit.covariance,
                    self.fit.df,
                    contrasts,
                )
            },
            margin,
        }
        .take_apart()
    }

    fn treatment(&self, treatment: usize) -> TreatmentOut {
        let own: Vec<&Tally> = self
            .tallies
            .iter()
            .filter(|t| t.treatment == treatment)
            .collect();
        let rates: Vec<f64> = own.iter().map(|t| t.rate()).collect();
        let (count, size) = own
            .iter()
            .fold((0.0, 0.0), |(c, s), t| (c + t.count, s + t.size));
        let se = self.fit.rates_covariance[(treatment, treatment)].sqrt();
        TreatmentOut {
            name: self.table.treatments[treatment].clone(),
            units: own.len(),
            samples: self
                .table
                .observations
                .iter()
                .filter(|o| o.treatment == treatment)
                .count(),
            mean: count / size,
            adjusted_mean: self.fit.rates[treatment],
            sd: (rates.len() > 1).then(|| mean_and_variance(&rates).1.sqrt()),
            se: (self.usable() && self.fit.estimable[treatment]).then_some(se),
            median: None,
        }
    }

    fn warnings(&self) -> Vec<Warning> {
        let mut found = warnings::of_units(self.table, self.question, &self.units);
        // Where the deals decide, at the edge, no spread is asked for.
        let decided = (1..self.layout.treatments)
            .filter(|&t| self.lead(t).is_some())
            .count();
        let undecided = self.layout.treatments - 1 - decided;
        if self.fit.df > 0.0
            && !self.usable()
            && undecided > 0
            && !found.iter().any(|w| w.code == "no_variation")
        {
            let message = "units of a treatment are all exactly alike, so there is no spread to \
                           judge a difference by";
            let severity = if decided == 0 {
                Severity::Fatal
            } else {
                Severity::Serious
            };
            found.push(Warning {
                code: "no_residual_variation",
                severity,
                message: message.into(),
            });
        }
        found.extend(not_crossed(self.table));
        let edge: Vec<&str> = (0..self.layout.treatments)
            .filter(|&t| !self.fit.estimable[t])
            .map(|t| self.table.treatments[t].as_str())
            .collect();
        if !edge.is_empty() {
            let message = format!(
                "{} had none (or all) in every unit: how many times more or less cannot be said; \
                 its units count nowhere in how much the others scatter",
                edge.join(", ")
            );
            found.push(Warning {
                code: "at_the_edge",
                severity: Severity::Minor,
                message,
            });
        }
        found
    }

    /// Goal best: the treatments that no other is surely better than, all pairs considered on the
    /// model's scale (Tukey).
    pub fn best(&self, higher: bool) -> Result<Option<Vec<String>>, StatsError> {
        if !self.usable() {
            return Ok(None);
        }
        let count = self.layout.treatments;
        let critical = tukey::critical_t(self.question.confidence, count, self.fit.df)?;
        let sign = if higher { 1.0 } else { -1.0 };
        let pairs = count * (count - 1) / 2;
        let surely_better = |a: usize, b: usize| {
            if self.fit.estimable[a] && self.fit.estimable[b] {
                let (gap, se) = self.fit.difference(a, b);
                return sign * gap > critical * se;
            }
            if let Some(limits) = self.likely(a, b, critical).filter(|_| self.usable()) {
                let even = if self.family == Family::Count {
                    1.0
                } else {
                    0.0
                };
                return if sign > 0.0 {
                    limits.low > even
                } else {
                    limits.high < even
                };
            }
            // Beside a treatment at the edge only the deals can speak.
            let outside = 1.0 - sidak_confidence(self.question.confidence, pairs);
            sign * (self.fit.rates[a] - self.fit.rates[b]) > 0.0
                && self.deals(a, b).is_some_and(|r| r.p < outside)
        };
        Ok(Some(
            (0..count)
                .filter(|&t| !(0..count).any(|other| other != t && surely_better(other, t)))
                .map(|t| self.table.treatments[t].clone())
                .collect(),
        ))
    }
}

/// Limits with a treatment at the edge.
pub(super) struct AtEdge {
    low: f64,
    high: f64,
    p: f64,
    together: Option<Simultaneous>,
}

/// The units of each cell as one.
fn summed(tallies: &[Tally], places: &Places) -> Vec<Tally> {
    let sum =
        |own: &Vec<usize>, of: fn(&Tally) -> f64| own.iter().map(|&at| of(&tallies[at])).sum();
    places
        .values()
        .map(|own| Tally {
            count: sum(own, |t| t.count),
            size: sum(own, |t| t.size),
            ..tallies[own[0]]
        })
        .collect()
}

/// How much more the units of a cell scatter than chance alone would make them, and its degrees of
/// freedom; None where no cell off the edge shows it.
fn spread_inside(family: Family, tallies: &[Tally], places: &Places) -> Option<(f64, f64)> {
    let rows: Vec<Tally> = (places.values().enumerate())
        .flat_map(|(cell, own)| {
            own.iter().map(move |&at| Tally {
                treatment: cell,
                block: 0,
                column: 0,
                ..tallies[at]
            })
        })
        .collect();
    let layout = Layout {
        treatments: places.len(),
        blocks: 1,
        columns: 1,
        baseline: false,
    };
    let fit = quasi::fit(family, &rows, layout).ok()?;
    (fit.df > 0.0 && fit.dispersion > 1e-20).then_some((fit.dispersion, fit.df))
}

/// A fit in which nothing is estimable but the plain rates.
fn beyond_model(tallies: &[Tally], layout: Layout) -> QuasiFit {
    let count = layout.treatments;
    let rates = (0..count)
        .map(|t| {
            let own = tallies.iter().filter(|tally| tally.treatment == t);
            let (k, n) = own.fold((0.0, 0.0), |(k, n), tally| {
                (k + tally.count, n + tally.size)
            });
            k / n
        })
        .collect();
    QuasiFit {
        rates,
        rates_covariance: DMatrix::zeros(count, count),
        scores: vec![f64::NAN; count],
        covariance: DMatrix::from_element(count, count, f64::NAN),
        estimable: vec![false; count],
        dispersion: f64::NAN,
        df: tallies.len() as f64 - layout.rank() as f64,
    }
}
