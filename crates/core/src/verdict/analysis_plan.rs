//! The plan of a trial as the program exports it, format `iron-twin/plan/1`: how the units were
//! dealt, what is measured, when somebody looks. The analysis follows from it, not from a choice
//! made afterwards.
//!
//! Keys that the analysis does not read (title, places, notes) may stand beside those below.

use crate::catalogue::spaces::SpaceKind;
use crate::trial::space::Rack;
use iron_twin_judge::question::{Look, Question, Scale};
use iron_twin_judge::table::{Columns, FactorColumn};
use iron_twin_stats::looks::Spending;
use iron_twin_terms::dealing::{BlocksAre, Restriction};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use serde::{Deserialize, Serialize};

/// The name of the format.
pub const FORMAT: &str = "iron-twin/plan/1";

/// A crossed factor of the plan.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct PlanFactor {
    /// Column with its levels.
    pub column: String,
    /// The level that the others are compared with.
    pub reference: String,
}

/// The design, with the columns that show it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, Default)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Design {
    /// Every unit dealt freely.
    #[default]
    CompletelyRandomised,
    /// Dealt inside blocks of alike units; pairs are blocks of two.
    Blocks {
        /// Column with the block.
        block: String,
    },
    /// Every treatment once in each row and each column.
    LatinSquare {
        /// Column with the row, for instance the level.
        row: String,
        /// Column with the column, for instance the slot.
        column: String,
    },
    /// A lamp or pump serves several units: it is the unit for the first factor, its trays for the
    /// others.
    SplitPlot {
        /// Column with the lamp or pump.
        fixture: String,
        /// The factor of the lamp or pump first, then the factors inside it.
        factors: Vec<PlanFactor>,
        /// Column with the block of lamps, where there is one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        block: Option<String>,
    },
    /// Two or more factors, every combination grown.
    Factorial {
        /// The factors.
        factors: Vec<PlanFactor>,
        /// Column with the block, where there is one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        block: Option<String>,
    },
    /// Systems that swap treatments each round.
    SwapOver {
        /// Column with the system.
        system: String,
        /// Column with the round.
        round: String,
    },
}

/// One measure of the plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, Default)]
#[serde(deny_unknown_fields)]
pub struct PlanMeasure {
    /// Column with the measure.
    pub column: String,
    /// Kind of measure.
    #[serde(default)]
    pub kind: Kind,
    /// Which way is better.
    #[serde(default)]
    pub better: Better,
    /// Smallest difference that matters, such as `10%` or `5`.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub margin: Option<String>,
    /// amount: differences, or ratios (analysed on logarithms).
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub scale: Option<Scale>,
    /// share: column with the n.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub out_of: Option<String>,
    /// count: column with the exposure.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exposure: Option<String>,
    /// days: column with yes or no.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seen: Option<String>,
    /// days: column with the last day on which it was not yet seen.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub after: Option<String>,
}

/// A deal that was drawn again until the starting sizes were alike.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Balance {
    /// Column with the starting size.
    pub column: String,
    /// Largest admitted gap between the treatments' means, in per cent of the mean of all.
    pub within_percent: f64,
}

/// Looks before the end.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Looks {
    /// How the allowance is spent.
    pub spending: Spending,
    /// Shares of the trial at which somebody looks, rising, the last 1.
    pub at: Vec<f64>,
    /// Which of them this analysis is, counted from 1; the last where left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub now: Option<usize>,
}

/// The plan.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct AnalysisPlan {
    /// Always `iron-twin/plan/1`.
    pub format: String,
    /// How units were dealt.
    #[serde(default)]
    pub design: Design,
    /// Column with the treatment; beside factors it gives the combinations their names.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub treatment: Option<String>,
    /// The treatment that the others are compared with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub control: Option<String>,
    /// Column whose equal values are samples of one unit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<String>,
    /// Column with the number of the sample inside its unit: what is of the whole unit stands with
    /// the first.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sample: Option<String>,
    /// Column with the starting size as a covariate.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub baseline: Option<String>,
    /// The measures, the primary first.
    #[serde(default)]
    pub measures: Vec<PlanMeasure>,
    /// The goal.
    #[serde(default)]
    pub goal: Option<Goal>,
    /// The limit of the deal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub balance: Option<Balance>,
    /// Planned looks.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub looks: Option<Looks>,
    /// What the blocks are: `places` to which the claim is to carry, or `alike` corners of one
    /// room. Left out, `rack` says it, or the name of the column.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blocks_are: Option<BlocksAre>,
    /// Looks that were not planned: shares of the trial at which somebody analysed it all the same.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub unplanned_looks: Vec<f64>,
    /// Units that each treatment started with.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub expected_units: Option<usize>,
    /// Where it stands, for the deal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rack: Option<Rack>,
    /// The treatments, the control first, for the deal.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub treatments: Vec<String>,
    /// Seed of the deal.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub seed: Option<u64>,
}

/// Why a plan cannot be followed.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum AnalysisPlanError {
    /// Not the JSON of a plan.
    #[error("not a plan: {0}")]
    NotAPlan(String),
    /// Another format.
    #[error("\"format\" is \"{0}\"; a plan has \"{FORMAT}\"")]
    Format(String),
    /// A factorial needs two factors.
    #[error(
        "\"factors\" names {0}; crossing needs at least two, the lamp's or pump's first in a \
         split plot"
    )]
    Factors(usize),
    /// A margin that is no margin.
    #[error("measure '{column}': {why}")]
    Margin {
        /// The measure's column.
        column: String,
        /// What is wrong.
        why: String,
    },
    /// A bound that bounds nothing.
    #[error("\"within_percent\" must be above 0, got {0}")]
    Bound(f64),
    /// A look that is not among those planned.
    #[error("\"now\" is look {now} of {planned}; count from 1")]
    NoSuchLook {
        /// What was asked for.
        now: usize,
        /// How many are planned.
        planned: usize,
    },
    /// Shares that do not rise to 1.
    #[error(
        "\"{key}\" must hold shares of the trial between 0 and 1, each above the one before; got \
         {got:?}"
    )]
    Shares {
        /// The key.
        key: &'static str,
        /// What came.
        got: Vec<f64>,
    },
}

fn rising(shares: &[f64]) -> bool {
    shares.windows(2).all(|w| w[0] < w[1]) && shares.iter().all(|s| *s > 0.0 && *s <= 1.0)
}

impl AnalysisPlan {
    /// Reads a plan from its JSON.
    ///
    /// # Errors
    /// [`AnalysisPlanError`], naming the key and what to do.
    ///
    /// ```
    /// use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
    /// let json = r#"{ "format": "iron-twin/plan/1", "control": "plain water", "treatment": "feed",
    ///                 "design": { "kind": "latin_square", "row": "level", "column": "slot" },
    ///                 "measures": [ { "column": "weight_g", "margin": "10%" } ] }"#;
    /// let plan = AnalysisPlan::read(json)?;
    /// assert_eq!(plan.columns(0).block.as_deref(), Some("level"));
    /// # Ok::<(), iron_twin_core::verdict::analysis_plan::AnalysisPlanError>(())
    /// ```
    pub fn read(json: &str) -> Result<Self, AnalysisPlanError> {
        let value: serde_json::Value =
            serde_json::from_str(json).map_err(|e| AnalysisPlanError::NotAPlan(e.to_string()))?;
        let format = value
            .get("format")
            .and_then(|f| f.as_str())
            .unwrap_or_default();
        if format != FORMAT {
            return Err(AnalysisPlanError::Format(format.to_owned()));
        }
        let plan: Self = serde_json::from_value(value)
            .map_err(|e| AnalysisPlanError::NotAPlan(e.to_string()))?;
        plan.check()?;
        Ok(plan)
    }

    fn check(&self) -> Result<(), AnalysisPlanError> {
        if let Design::SplitPlot { factors, .. } | Design::Factorial { factors, .. } = &self.design
            && factors.len() < 2
        {
            return Err(AnalysisPlanError::Factors(factors.len()));
        }
        for (i, measure) in self.measures.iter().enumerate() {
            self.margin(i).map_err(|why| AnalysisPlanError::Margin {
                column: measure.column.clone(),
                why,
            })?;
        }
        if let Some(balance) = &self.balance
            && !(balance.within_percent > 0.0)
        {
            return Err(AnalysisPlanError::Bound(balance.within_percent));
        }
        if let Some(looks) = &self.looks {
            let planned = looks.at.len();
            let now = looks.now.unwrap_or(planned);
            if !rising(&looks.at) || looks.at.last() != Some(&1.0) {
                return Err(AnalysisPlanError::Shares {
                    key: "at",
                    got: looks.at.clone(),
                });
            }
            if !(1..=planned).contains(&now) {
                return Err(AnalysisPlanError::NoSuchLook { now, planned });
            }
        }
        if !rising(&self.unplanned_looks) {
            return Err(AnalysisPlanError::Shares {
                key: "unplanned_looks",
                got: self.unplanned_looks.clone(),
            });
        }
        Ok(())
    }

    fn margin(&self, measure: usize) -> Result<Option<Margin>, String> {
        let text = self.measures.get(measure).and_then(|m| m.margin.as_ref());
        text.map(|m| m.parse())
            .transpose()
            .map_err(|e: iron_twin_terms::quantity::MarginError| e.to_string())
    }

    /// Where the measure with this column stands in the plan.
    #[must_use]
    pub fn measure(&self, column: &str) -> Option<usize> {
        self.measures.iter().position(|m| m.column == column)
    }

    /// The columns of a table for one of the plan's measures; empty names where the plan has none.
    #[must_use]
    pub fn columns(&self, measure: usize) -> Columns {
        let own = self.measures.get(measure).cloned().unwrap_or_default();
        let amount = own.kind == Kind::Amount;
        let mut columns = Columns {
            kind: own.kind,
            measure: own.column,
            treatment: self.treatment.clone().unwrap_or_default(),
            control: self.control.clone().unwrap_or_default(),
            unit: self.unit.clone(),
            sample: self.sample.clone(),
            baseline: self.baseline.clone().filter(|_| amount),
            out_of: own.out_of,
            exposure: own.exposure,
            seen: own.seen,
            after: own.after,
            start: self.balance.as_ref().map(|b| b.column.clone()),
            ..Columns::default()
        };
        let of_rack = |rack: &Rack| {
            if rack.kind == SpaceKind::Sites {
                BlocksAre::Places
            } else {
                BlocksAre::Alike
            }
        };
        columns.dealing.blocks = self
            .blocks_are
            .or(self.rack.as_ref().map(of_rack))
            .unwrap_or_default();
        columns.dealing.within = self.balance.as_ref().map(|b| 0.01 * b.within_percent);
        self.take_design(&mut columns);
        columns
    }

    /// Which columns say how units were dealt.
    fn take_design(&self, columns: &mut Columns) {
        let crossed = |factors: &[PlanFactor]| {
            let one = |f: &PlanFactor| FactorColumn {
                column: f.column.clone(),
                reference: f.reference.clone(),
            };
            factors.iter().map(one).collect()
        };
        match &self.design {
            Design::CompletelyRandomised => {}
            Design::Blocks { block } => columns.block = Some(block.clone()),
            Design::LatinSquare { row, column } => {
                (columns.block, columns.column) = (Some(row.clone()), Some(column.clone()));
                columns.dealing.restriction = Restriction::LatinSquare;
            }
            Design::SplitPlot {
                fixture,
                factors,
                block,
            } => {
                (columns.block, columns.fixture) = (block.clone(), Some(fixture.clone()));
                columns.factors = crossed(factors);
                columns.dealing.restriction = Restriction::SplitPlot;
            }
            Design::Factorial { factors, block } => {
                columns.block = block.clone();
                columns.factors = crossed(factors);
            }
            Design::SwapOver { system, round } => {
                (columns.block, columns.column, columns.unit) =
                    (Some(system.clone()), Some(round.clone()), None);
                columns.dealing.restriction = Restriction::SwapOver;
            }
        }
    }

    /// What is asked of one of the plan's measures.
    #[must_use]
    pub fn question(&self, measure: usize) -> Question {
        Question {
            goal: self.goal.unwrap_or_default(),
            better: self
                .measures
                .get(measure)
                .map_or(Better::default(), |m| m.better),
            margin: self.margin(measure).unwrap_or_default(),
            scale: self
                .measures
                .get(measure)
                .and_then(|m| m.scale)
                .unwrap_or_default(),
            expected_units: self.expected_units,
            // What is spent is spent on what decides, which stands first.
            look: self
                .looks
                .as_ref()
                .filter(|_| measure == 0)
                .map(|looks| Look {
                    spending: looks.spending,
                    at: looks.at.clone(),
                    now: looks.now.unwrap_or(looks.at.len()),
                }),
            unplanned_looks: if measure == 0 {
                self.unplanned_looks.clone()
            } else {
                Vec::new()
            },
            ..Question::default()
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use iron_twin_terms::dealing::{Dealing, Restriction};

    fn read(rest: &str) -> Result<AnalysisPlan, AnalysisPlanError> {
        AnalysisPlan::read(&format!(r#"{{ "format": "iron-twin/plan/1" {rest} }}"#))
    }

    #[test]
    fn each_refusal_names_its_key() {
        let cases = [
            (
                r#", "design": { "kind": "spiral" }"#,
                "unknown variant `spiral`",
            ),
            (
                r#", "design": { "kind": "blocks", "blok": "level" }"#,
                "blok",
            ),
            (
                r#", "design": { "kind": "factorial", "factors": [] }"#,
                "\"factors\" names 0",
            ),
            (
                r#", "measures": [ { "column": "g", "margin": "ten" } ]"#,
                "measure 'g'",
            ),
            (
                r#", "balance": { "column": "start_g", "within_percent": 0 }"#,
                "within_percent",
            ),
            (
                r#", "looks": { "spending": "pocock", "at": [0.5, 0.5, 1] }"#,
                "\"at\"",
            ),
            (
                r#", "looks": { "spending": "pocock", "at": [0.5] }"#,
                "\"at\"",
            ),
            (
                r#", "looks": { "spending": "pocock", "at": [0.5, 1], "now": 3 }"#,
                "look 3 of 2",
            ),
            (r#", "unplanned_looks": [0.9, 0.4]"#, "unplanned_looks"),
        ];
        for (rest, part) in cases {
            let message = read(rest).unwrap_err().to_string();
            assert!(message.contains(part), "{message}");
        }
        assert!(matches!(
            AnalysisPlan::read("{}"),
            Err(AnalysisPlanError::Format(_))
        ));
        assert!(matches!(
            AnalysisPlan::read("trays"),
            Err(AnalysisPlanError::NotAPlan(_))
        ));
    }

    #[test]
    fn what_is_written_reads_again() {
        let plan = read(
            r#", "design": { "kind": "split_plot", "fixture": "lamp", "factors": [
                 { "column": "light", "reference": "sill" }, { "column": "feed", "reference": "water" } ] },
               "goal": "match", "balance": { "column": "start_g", "within_percent": 4 },
               "measures": [ { "column": "g", "margin": "10%" }, { "column": "roots", "kind": "score", "better": "lower" } ]"#,
        )
        .unwrap();
        assert_eq!(
            AnalysisPlan::read(&serde_json::to_string(&plan).unwrap()),
            Ok(plan.clone())
        );
        let columns = plan.columns(1);
        assert_eq!(
            (columns.kind, columns.control_name().as_str()),
            (Kind::Score, "sill + water")
        );
        assert_eq!(
            columns.dealing,
            Dealing {
                restriction: Restriction::SplitPlot,
                within: Some(0.04),
                ..Dealing::default()
            }
        );
        assert_eq!(plan.question(0).margin, Some(Margin::Percent(10.0)));
        assert_eq!(plan.question(1).better, Better::Lower);
    }
}
