//! Crossed factors taken apart: does one work differently with another, what does each do by
//! itself, and where?
//!
//! Everything is a contrast of the adjusted means of the cells, so every model that gives them and
//! their covariance can be taken apart. Where the interaction is there, an average over it says
//! nothing, and the effects within each cell lead.

use super::dealing::Deals;
use super::deciding::Deciding;
use super::result::{Contrast, EffectOut, FactorsOut, InteractionOut, OverallOut, Simultaneous};
use super::sentence;
use super::sentence::Terms;
use super::table::Table;
use super::units::Units;
use super::verdict::Verdict;
use crate::deciding::{Decision, sidak_limits};
use crate::question::Question;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::{t_quantile_upper, t_two_sided};
use iron_twin_stats::linear::Overall;
use iron_twin_terms::severity::{Severity, Warning};
use iron_twin_terms::words::capitalised;
use nalgebra::{DMatrix, DVector, SymmetricEigen};

/// A fitted model of the cells.
pub(crate) struct Crossed<'a> {
    pub table: &'a Table,
    pub question: &'a Question,
    pub units: &'a Units,
    /// What the units are dealt by.
    pub values: &'a [f64],
    pub terms: Terms,
    /// Adjusted means of the cells on the scale of the limits: logarithms for ratios, points for
    /// shares.
    pub means: &'a [f64],
    pub covariance: &'a DMatrix<f64>,
    /// Degrees of freedom of a contrast of the means.
    pub df_of: &'a dyn Fn(&[f64]) -> f64,
    /// F test that all contrasts, one a row, are zero.
    pub test: &'a dyn Fn(&DMatrix<f64>) -> Option<Overall>,
    /// The margin on the scale of the verdict; 0 where none was given.
    pub margin: f64,
}

/// F test that contrasts of means, one a row, are zero, where all share one spread estimate.
pub(crate) fn plain_test(
    means: &[f64],
    covariance: &DMatrix<f64>,
    df: f64,
    contrasts: &DMatrix<f64>,
) -> Option<Overall> {
    let gaps = contrasts * DVector::from_column_slice(means);
    let spread = contrasts * covariance * contrasts.transpose();
    let between = contrasts.nrows() as f64;
    let f = gaps.dot(&spread.cholesky()?.solve(&gaps)) / between;
    (f.is_finite() && df > 0.0).then(|| Overall {
        f,
        df_between: between,
        df_within: df,
        p: iron_twin_stats::distributions::f_upper(f, between, df),
    })
}

/// A warning where factors were named but not every combination was grown.
pub(crate) fn not_crossed(table: &Table) -> Option<Warning> {
    let wanted: usize = table.factors.iter().map(|f| f.levels.len()).product();
    (!table.factors.is_empty() && wanted != table.treatments.len()).then(|| Warning {
        code: "factors_not_crossed",
        severity: Severity::Serious,
        message: format!(
            "{} of {wanted} combinations of {} were grown, so what each does by itself cannot be \
             taken apart; each is compared with the control only",
            table.treatments.len(),
            names(table)
        ),
    })
}

fn names(table: &Table) -> String {
    table
        .factors
        .iter()
        .map(|f| f.name.as_str())
        .collect::<Vec<_>>()
        .join(" and ")
}

/// What a level is called beside a number: "45" under "temperature" means nothing by itself.
fn level_name(table: &Table, factor: usize, level: usize) -> String {
    let (name, level) = (
        &table.factors[factor].name,
        &table.factors[factor].levels[level],
    );
    let bare = level
        .chars()
        .all(|c| c.is_ascii_digit() || ".,- ".contains(c))
        || ["yes", "no"].contains(&level.as_str());
    if bare {
        format!("{name} {level}")
    } else {
        level.clone()
    }
}

/// Two sets of cells that differ in one factor only.
struct Effect {
    factor: usize,
    level: usize,
    /// Levels of the other factors; None where it runs over all of them.
    at: Option<Vec<usize>>,
    /// Pairs of cells: with the level, and with the reference.
    pairs: Vec<(usize, usize)>,
}

impl Crossed<'_> {
    /// Takes the factors apart; None where combinations are missing or there is no spread to judge
    /// by.
    pub(crate) fn take_apart(&self) -> Result<Option<FactorsOut>, StatsError> {
        if self.table.factors.len() < 2 || not_crossed(self.table).is_some() {
            return Ok(None);
        }
        let interaction = (self.test)(&self.interaction_rows());
        let depends = interaction.is_some_and(|o| o.p < 1.0 - self.question.confidence);
        let mut effects = Vec::new();
        for factor in 0..self.table.factors.len() {
            for family in [self.averaged(factor), self.within_cells(factor)] {
                let number = family.len();
                for effect in family {
                    effects.push(self.effect(effect, number)?);
                }
            }
        }
        let (claim, caveat) = self.said(depends, interaction.as_ref(), &effects);
        Ok(Some(FactorsOut {
            names: self.table.factors.iter().map(|f| f.name.clone()).collect(),
            interaction: InteractionOut {
                test: interaction.map(|o| OverallOut::f(&o)),
                found: depends,
                difference: self.difference_of_differences()?,
            },
            effects,
            sentence: sentence::joined(&claim, caveat.as_deref()),
            claim,
            caveat,
        }))
    }

    fn cell(&self, levels: &[usize]) -> usize {
        self.table
            .cells
            .iter()
            .position(|c| c == levels)
            .unwrap_or(0)
    }

    /// Every combination of levels of the factors other than this one, with a gap for it.
    fn others(&self, factor: usize) -> Vec<Vec<usize>> {
        self.table
            .cells
            .iter()
            .filter(|c| c[factor] == 0)
            .cloned()
            .collect()
    }

    fn pair(&self, factor: usize, level: usize, other: &[usize]) -> (usize, usize) {
        let mut with = other.to_vec();
        with[factor] = level;
        (self.cell(&with), self.cell(other))
    }

    fn averaged(&self, factor: usize) -> Vec<Effect> {
        let others = self.others(factor);
        (1..self.table.factors[factor].levels.len())
            .map(|level| Effect {
                factor,
                level,
                at: None,
                pairs: others
                    .iter()
                    .map(|other| self.pair(factor, level, other))
                    .collect(),
            })
            .collect()
    }

    fn within_cells(&self, factor: usize) -> Vec<Effect> {
        let mut effects = Vec::new();
        for level in 1..self.table.factors[factor].levels.len() {
            for other in self.others(factor) {
                let pairs = vec![self.pair(factor, level, &other)];
                effects.push(Effect {
                    factor,
                    level,
                    at: Some(other),
                    pairs,
                });
            }
        }
        effects
    }

    /// Contrasts that span all that the factors do beyond adding up.
    fn interaction_rows(&self) -> DMatrix<f64> {
        let cells = self.table.treatments.len();
        let additive = 1 + self
            .table
            .factors
            .iter()
            .map(|f| f.levels.len() - 1)
            .sum::<usize>();
        // The additive space: one for all, and one for each level of each factor.
        let columns: Vec<(usize, usize)> = (self.table.factors.iter().enumerate())
            .flat_map(|(f, factor)| (0..factor.levels.len()).map(move |level| (f, level)))
            .collect();
        let space = DMatrix::from_fn(cells, columns.len(), |i, j| {
            f64::from(u8::from(self.table.cells[i][columns[j].0] == columns[j].1))
        });
        let eigen = SymmetricEigen::new(&space * space.transpose());
        let mut order: Vec<usize> = (0..cells).collect();
        order.sort_by(|&a, &b| eigen.eigenvalues[a].total_cmp(&eigen.eigenvalues[b]));
        let beyond = &order[..cells - additive];
        DMatrix::from_fn(beyond.len(), cells, |i, j| {
            eigen.eigenvectors[(j, beyond[i])]
        })
    }

    fn weights(&self, pairs: &[(usize, usize)]) -> Vec<f64> {
        let mut weights = vec![0.0; self.means.len()];
        for &(with, without) in pairs {
            weights[with] += 1.0 / pairs.len() as f64;
            weights[without] -= 1.0 / pairs.len() as f64;
        }
        weights
    }

    /// Estimate, standard error and degrees of freedom of a contrast of the means.
    fn spread(&self, weights: &[f64]) -> (f64, f64, f64) {
        let w = DVector::from_column_slice(weights);
        let estimate = w.dot(&DVector::from_column_slice(self.means));
        (
            estimate,
            (self.covariance * &w).dot(&w).max(0.0).sqrt(),
            (self.df_of)(weights),
        )
    }

    /// Two by two: how much more the one does where the other is there.
    fn difference_of_differences(&self) -> Result<Option<Contrast>, StatsError> {
        if self.table.factors.len() != 2 || self.table.treatments.len() != 4 {
            return Ok(None);
        }
        let (both, first, second, none) = (
            self.cell(&[1, 1]),
            self.cell(&[1, 0]),
            self.cell(&[0, 1]),
            self.cell(&[0, 0]),
        );
        let mut weights = vec![0.0; 4];
        for (cell, weight) in [(both, 1.0), (first, -1.0), (second, -1.0), (none, 1.0)] {
            weights[cell] = weight;
        }
        let (estimate, se, df) = self.spread(&weights);
        let reach = se * t_quantile_upper(0.5 * (1.0 - self.question.confidence), df)?;
        let mut contrast = Contrast {
            treatment: self.table.treatments[both].clone(),
            versus: "both effects added up".into(),
            ..Contrast::default()
        };
        self.fill(&mut contrast, (estimate, se, df), reach);
        Ok(Some(contrast))
    }

    fn back(&self, v: f64) -> f64 {
        if self.terms.is_ratio() { v.exp() } else { v }
    }

    fn fill(&self, contrast: &mut Contrast, (estimate, se, df): (f64, f64, f64), reach: f64) {
        contrast.estimate = self.back(estimate);
        (contrast.se, contrast.df) = (Some(se), df);
        contrast.low = Some(self.back(estimate - reach));
        contrast.high = Some(self.back(estimate + reach));
        contrast.p = Some(t_two_sided(estimate / se, df));
        if self.terms.is_ratio() {
            contrast.percent = Some(100.0 * estimate.exp_m1());
            contrast.ratio = Some(Some(contrast.estimate));
            (contrast.ratio_low, contrast.ratio_high) = (Some(contrast.low), Some(contrast.high));
        }
    }

    fn effect(&self, effect: Effect, family: usize) -> Result<EffectOut, StatsError> {
        let (with, without): (Vec<usize>, Vec<usize>) = effect.pairs.iter().copied().unzip();
        let figures = self.spread(&self.weights(&effect.pairs));
        let (estimate, se, df) = figures;
        let reach = se * t_quantile_upper(0.5 * (1.0 - self.question.confidence), df)?;
        let at = effect.at.as_ref().map(|at| self.place(effect.factor, at));
        let named = |level: usize| {
            let own = level_name(self.table, effect.factor, level);
            at.as_ref()
                .map_or(own.clone(), |at| format!("{own} with {at}"))
        };
        let mut contrast = Contrast {
            treatment: named(effect.level),
            versus: named(0),
            ..Contrast::default()
        };
        self.fill(&mut contrast, figures, reach);
        let mean = |cells: &[usize]| {
            cells.iter().map(|&c| self.means[c]).sum::<f64>() / cells.len() as f64
        };
        let control = mean(&without);
        if self.terms == Terms::Share {
            (contrast.share, contrast.share_control) =
                (Some(0.01 * mean(&with)), Some(0.01 * control));
        }
        if !self.terms.is_ratio() {
            contrast.percent = (control > 0.0).then(|| 100.0 * estimate / control);
        }
        let p = contrast.p.unwrap_or(1.0);
        let together = sidak_limits((estimate, se, df), p, self.question.confidence, family)?;
        contrast.simultaneous = together.map(|s| Simultaneous {
            low: self.back(s.low),
            high: self.back(s.high),
            ..s
        });
        let deals = Deals {
            table: self.table,
            units: self.units,
            values: self.values,
            seed: self.question.seed,
        };
        let strata: Vec<(&[usize], &[usize])> = (0..with.len())
            .map(|i| (&with[i..=i], &without[i..=i]))
            .collect();
        // Lamps are dealt whole: over all cells at once, not cell by cell.
        let whole = [(&with[..], &without[..])];
        let lamps = !self.table.fixtures.is_empty() && effect.factor == 0;
        contrast.randomisation = deals.sides(if lamps { &whole } else { &strata });
        self.decide(&mut contrast, &with, &without, control);
        Ok(EffectOut {
            factor: self.table.factors[effect.factor].name.clone(),
            at,
            contrast,
        })
    }

    fn decide(&self, contrast: &mut Contrast, with: &[usize], without: &[usize], control: f64) {
        let from = if self.terms.is_ratio() { 1.0 } else { 0.0 };
        let together = contrast.simultaneous.as_ref().map(|s| (s.low, s.high));
        let limits = together
            .or(contrast.low.zip(contrast.high))
            .map(|(low, high)| (low - from, high - from));
        let redealt = contrast.randomisation.clone();
        let count = |cells: &[usize]| cells.iter().map(|&c| self.units.counts[c]).sum();
        let said = Decision {
            question: self.question,
            terms: self.terms,
            margin: self.margin,
            control,
        };
        let deciding = Deciding {
            units: (count(with), count(without)),
            limits,
            redealt: redealt.as_ref(),
            ..Deciding::default()
        };
        said.decide(contrast, &deciding);
    }

    /// The levels of the factors other than this one, in words.
    fn place(&self, factor: usize, levels: &[usize]) -> String {
        let others = (0..levels.len()).filter(|&f| f != factor);
        others
            .map(|f| level_name(self.table, f, levels[f]))
            .collect::<Vec<_>>()
            .join(" and ")
    }

    /// What was learned, and what it rests on.
    fn said(
        &self,
        depends: bool,
        interaction: Option<&Overall>,
        effects: &[EffectOut],
    ) -> (String, Option<String>) {
        let all = names(self.table);
        if interaction.is_none() {
            let claim = format!(
                "Nothing shows how much units differ by themselves, so {all} cannot be taken \
                 apart."
            );
            return (claim, None);
        }
        if !depends {
            let (claims, caveat) = joined(effects.iter().filter(|e| e.at.is_none()));
            let lead = format!(
                "Nothing shows that {all} change what the other does; taken over all combinations:"
            );
            return (format!("{lead} {claims}"), caveat);
        }
        // The factor whose gain comes and goes with the others is the one to speak of.
        let spoken = self
            .table
            .factors
            .iter()
            .map(|f| {
                effects
                    .iter()
                    .filter(|e| e.factor == f.name && e.at.is_some())
                    .collect::<Vec<_>>()
            })
            .max_by_key(|own| {
                usize::from(own.iter().any(|e| gains(e)) && own.iter().any(|e| !gains(e)))
            })
            .unwrap_or_default();
        let (helps, rest): (Vec<&EffectOut>, Vec<&EffectOut>) =
            spoken.iter().copied().partition(|e| gains(e));
        let lead = match (helps.as_slice(), spoken.first()) {
            ([one], Some(_)) if !rest.is_empty() => format!(
                "{} helps only with {}. ",
                capitalised(
                    one.contrast
                        .treatment
                        .split(" with ")
                        .next()
                        .unwrap_or_default()
                ),
                one.at.as_deref().unwrap_or_default()
            ),
            (_, Some(first)) => format!("What {} does depends on the rest. ", first.factor),
            _ => String::new(),
        };
        let (claims, caveat) = joined(helps.iter().chain(&rest).copied());
        (format!("{lead}{claims}"), caveat)
    }
}

fn gains(effect: &EffectOut) -> bool {
    matches!(
        effect.contrast.verdict,
        Verdict::Better | Verdict::BetterByMargin
    )
}

/// The claims one after the other, and what they rest on, which is said once.
fn joined<'a>(effects: impl Iterator<Item = &'a EffectOut> + Clone) -> (String, Option<String>) {
    let claims: Vec<&str> = effects.clone().map(|e| e.contrast.claim.as_str()).collect();
    let caveat = effects.filter_map(|e| e.contrast.caveat.clone()).next();
    (claims.join(" "), caveat)
}
