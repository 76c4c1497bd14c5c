//! What a trial whose measure is no amount could see, from what its units are expected to show.

use super::foresight::{Foresight, ForesightError, PlannedTrial, Spread};
use super::picture::USUAL_POWER;
use crate::catalogue::measures;
use crate::trial::question::Ask;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use serde::Serialize;

/// A trial as it is planned, beside what it asks.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Planned {
    /// Treatments, control included.
    pub treatments: usize,
    /// Units of each.
    pub units: usize,
    /// Blocks that they are compared in; 1 where there are none.
    pub blocks: usize,
}

/// What could be seen, or what must be known first.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Expected {
    /// A figure is missing; the words name it.
    Lacks {
        /// What to give.
        what: String,
    },
    /// What the plan could see.
    Sees {
        /// Chance of a verdict on a true difference of the margin (goal match: that nothing is
        /// lost).
        power: f64,
        /// Smallest difference found 8 times in 10: per cent of the control, for shares in points.
        smallest: Option<f64>,
        /// Fewest units of a treatment that do.
        units_needed: Option<usize>,
        /// Smallest p that a re-deal of these units could reach.
        smallest_possible_p: f64,
        /// The command that gives the same.
        command: String,
    },
}

/// What the plan could see of a count, a share or days: from what a unit of the control usually
/// shows ([`Ask::usual_per_unit`]: things counted, per cent, days) and, for shares, out of how
/// many.
///
/// Counts and shares are taken to scatter as chance alone makes them: real units scatter more. Days
/// are compared without blocks. None for amounts, which have their picture, and for grades, of
/// which nothing is known before they are given.
///
/// # Errors
/// [`ForesightError`], naming what to change.
pub fn expected(ask: &Ask, planned: Planned) -> Option<Result<Expected, ForesightError>> {
    let measure = measures::find(&ask.primary_measure)?;
    let (spread, options, blocks) = match scatter(ask, measure, planned.blocks)? {
        Ok(found) => found,
        Err(what) => return Some(Ok(Expected::Lacks { what })),
    };
    let goal = if ask.goal == Goal::Match {
        Goal::Match
    } else {
        Goal::Beat
    };
    let trial = PlannedTrial {
        treatments: planned.treatments,
        units: planned.units,
        blocks,
        confidence: 0.95,
        power: USUAL_POWER,
        margin: ask.margin,
        goal,
        spread,
    };
    let command = command(measure.kind, &options, planned, blocks, ask.margin, goal);
    Some(trial.foresee().map(|seen: Foresight| {
        Expected::Sees {
            power: seen.verdict.power,
            smallest: seen
                .verdict
                .smallest_detectable
                .and_then(|s| s.points.or(s.percent)),
            units_needed: seen.verdict.units_needed,
            smallest_possible_p: seen.smallest_possible_p,
            command,
        }
    }))
}

/// What a unit of the control usually shows, as a spread, as options of the command, and in how
/// many blocks; or what is lacking to say so. None where nothing is foretold.
fn scatter(
    ask: &Ask,
    measure: &measures::Measure,
    blocks: usize,
) -> Option<Result<(Spread, String, usize), String>> {
    let lacks = |what: &str| Some(Err(what.to_owned()));
    let usual = ask.usual_per_unit;
    let found = match measure.kind {
        Kind::Count => {
            let Some(mean) = usual else {
                return lacks("how many a unit of the control usually shows");
            };
            (
                Spread::Count {
                    mean,
                    dispersion: 1.0,
                },
                format!("--count {mean}"),
                blocks,
            )
        }
        Kind::Share => {
            let Some(percent) = usual else {
                return lacks("what share the control usually shows, in per cent");
            };
            let Some(out_of) = ask.usual_out_of else {
                return lacks("out of how many a unit is counted");
            };
            let spread = Spread::Share {
                share: 0.01 * percent,
                out_of,
                dispersion: 1.0,
            };
            (
                spread,
                format!("--share {percent}% --out-of {out_of}"),
                blocks,
            )
        }
        Kind::Days => {
            let Some(mean) = usual else {
                return lacks("after how many days it usually happens");
            };
            days(ask, measure.usual_cv_percent, mean)
        }
        _ => return None,
    };
    Some(Ok(found))
}

/// Days until something happens: dealt freely, since they are not compared in blocks.
fn days(ask: &Ask, cv_percent: f64, mean: f64) -> (Spread, String, usize) {
    let until = f64::from(ask.end_day);
    let sooner = ask.better == Better::Lower;
    let spread = Spread::Days {
        mean,
        cv_percent,
        until: Some(until),
        sooner,
        seed: 1,
    };
    let better = if sooner { "" } else { " --better higher" };
    (
        spread,
        format!("--days {mean} --cv {cv_percent}% --until {until}{better}"),
        1,
    )
}

/// The command that foretells the same.
fn command(
    kind: Kind,
    options: &str,
    planned: Planned,
    blocks: usize,
    margin: Margin,
    goal: Goal,
) -> String {
    let margin = match margin {
        Margin::Percent(percent) => format!("{percent}%"),
        Margin::Absolute(value) => value.to_string(),
    };
    let in_blocks = if blocks > 1 {
        format!(" --blocks {blocks}")
    } else {
        String::new()
    };
    let to_match = if goal == Goal::Match {
        " --goal match"
    } else {
        ""
    };
    format!(
        "iron-twin power --kind {} {options} --treatments {} --units {}{in_blocks} --margin \
         {margin}{to_match}",
        kind.word(),
        planned.treatments,
        planned.units
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ask(measure: &str, usual: Option<f64>, out_of: Option<f64>) -> Ask {
        Ask {
            primary_measure: measure.into(),
            usual_per_unit: usual,
            usual_out_of: out_of,
            ..Ask::default()
        }
    }

    const PLANNED: Planned = Planned {
        treatments: 2,
        units: 6,
        blocks: 3,
    };

    #[test]
    fn what_is_missing_is_named_one_after_the_other() {
        let what = |ask: &Ask| match expected(ask, PLANNED) {
            Some(Ok(Expected::Lacks { what })) => what,
            other => format!("{other:?}"),
        };
        assert!(what(&ask("germinated", None, None)).contains("per cent"));
        assert!(what(&ask("germinated", Some(60.0), None)).contains("out of how many"));
        assert!(what(&ask("leaf_count", None, None)).contains("how many"));
        assert!(what(&ask("first_root", None, None)).contains("days"));
        assert_eq!(
            expected(&ask("harvest_weight", None, None), PLANNED),
            None,
            "amounts have their picture"
        );
        assert_eq!(expected(&ask("vigour", Some(3.0), None), PLANNED), None);
    }

    #[test]
    fn the_figures_are_those_of_the_foresight() {
        let share = ask("germinated", Some(60.0), Some(50.0));
        let Some(Ok(Expected::Sees {
            power,
            smallest,
            units_needed,
            command,
            ..
        })) = expected(&share, PLANNED)
        else {
            panic!("nothing seen")
        };
        let spread = Spread::Share {
            share: 0.6,
            out_of: 50.0,
            dispersion: 1.0,
        };
        let trial = PlannedTrial {
            treatments: 2,
            units: 6,
            blocks: 3,
            confidence: 0.95,
            power: 0.8,
            margin: share.margin,
            goal: Goal::Beat,
            spread,
        };
        let seen = trial.foresee().unwrap().verdict;
        assert_eq!((power, units_needed), (seen.power, seen.units_needed));
        assert_eq!(smallest, seen.smallest_detectable.unwrap().points);
        assert_eq!(
            command,
            "iron-twin power --kind share --share 60% --out-of 50 --treatments 2 --units 6 \
             --blocks 3 --margin 10%"
        );
    }
}
