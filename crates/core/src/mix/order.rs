//! The order in which solutions are given with shared tools, and what to do with the tool between
//! two: control first, then from the mildest to what clings or lives longest.

use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// How long a trace of something stays at work in a tool.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Clings {
    /// Plain water.
    Water,
    /// Salts: gone with a rinse.
    Salts,
    /// Extracts, brews, oils: a film stays.
    Film,
    /// Living, or of unknown composition: a drop is enough to spread it.
    Living,
}

/// What is given to one treatment.
#[derive(Debug, Clone, PartialEq)]
pub struct Dose {
    /// Index of the treatment.
    pub treatment: TreatmentIndex,
    /// Whether it is the control.
    pub control: bool,
    /// What clings longest of what is in it.
    pub clings: Clings,
    /// Strength of what is sprayed, drenched or dusted beside the water, as a share of its label; 0
    /// where nothing is.
    pub beside: f64,
    /// Strength, mS/cm; 0 where it is not known.
    pub ec_ms_per_cm: f64,
    /// What makes two solutions the same but for their strength.
    pub of: String,
}

/// What to do with jug, sprayer or blade.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Rinse {
    /// Shake out; a little of the next solution through it, and throw that away.
    NextSolution,
    /// Clean water, three times.
    Water,
    /// Hot water with washing-up liquid, then clean water.
    Soap,
    /// Bleach as its label says, by itself.
    Bleach,
    /// Clean water until nothing of the sanitiser is left: always after bleach, and before it where
    /// acid was.
    Flush,
}

/// A step of the round.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "step", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum RoundStep {
    /// Give this treatment its solution.
    Give {
        /// Index of the treatment.
        treatment: TreatmentIndex,
    },
    /// Rinse the tool.
    Rinse {
        /// How.
        how: Rinse,
    },
}

/// The round: treatments in order with the rinses between, and those that make the tool fit for the
/// control again. `acid` says whether the solutions were brought to their pH with acid, or acid is
/// cleaned with.
///
/// ```
/// use iron_twin_core::mix::order::{round, Clings, Dose, Rinse, RoundStep};
/// use iron_twin_terms::indices::TreatmentIndex;
/// let (full, water) = (TreatmentIndex(0), TreatmentIndex(1));
/// let of = |treatment, clings, ec| Dose { treatment, control: treatment == water, clings, beside: 0.0, ec_ms_per_cm: ec, of: String::new() };
/// let steps = round(&[of(full, Clings::Salts, 1.6), of(water, Clings::Water, 0.5)], false);
/// assert_eq!(steps[0], RoundStep::Give { treatment: water });
/// assert_eq!(steps[2], RoundStep::Give { treatment: full });
/// assert_eq!(steps.last(), Some(&RoundStep::Rinse { how: Rinse::Water }));
/// ```
#[must_use]
pub fn round(doses: &[Dose], acid: bool) -> Vec<RoundStep> {
    let mut order: Vec<&Dose> = doses.iter().collect();
    order.sort_by(|a, b| {
        // A control that is full feed is no milder than half of it.
        let strength = |d: &Dose| (d.beside, d.ec_ms_per_cm);
        let (x, y) = (strength(a), strength(b));
        a.clings
            .cmp(&b.clings)
            .then(x.0.total_cmp(&y.0))
            .then(x.1.total_cmp(&y.1))
            .then(b.control.cmp(&a.control))
    });
    let mut steps = Vec::new();
    for (i, dose) in order.iter().enumerate() {
        steps.push(RoundStep::Give {
            treatment: dose.treatment,
        });
        match order.get(i + 1) {
            Some(next) => steps.extend(
                between(dose, next)
                    .into_iter()
                    .map(|how| RoundStep::Rinse { how }),
            ),
            None => steps.extend(
                back_to_control(dose.clings, acid)
                    .into_iter()
                    .map(|how| RoundStep::Rinse { how }),
            ),
        }
    }
    steps
}

fn between(dose: &Dose, next: &Dose) -> Vec<Rinse> {
    match dose.clings {
        // From weak to strong a drop left behind only weakens the next by as much as a drop does.
        Clings::Water => vec![Rinse::NextSolution],
        Clings::Salts if dose.of == next.of => vec![Rinse::NextSolution],
        Clings::Salts => vec![Rinse::Water],
        Clings::Film => vec![Rinse::Soap],
        Clings::Living => sanitised(true),
    }
}

fn back_to_control(clings: Clings, acid: bool) -> Vec<Rinse> {
    match clings {
        Clings::Water => vec![],
        Clings::Salts => vec![Rinse::Water],
        Clings::Film => vec![Rinse::Soap],
        Clings::Living => sanitised(acid),
    }
}

/// Bleach stands between flushes, so that it meets neither acid nor the ammonium of a feed.
fn sanitised(acid: bool) -> Vec<Rinse> {
    // Soap leaves an alkaline film and is flushed as well; where acid was, the flush before bleach
    // is what keeps chlorine away.
    let before = if acid {
        vec![Rinse::Soap, Rinse::Flush]
    } else {
        vec![Rinse::Flush]
    };
    before
        .into_iter()
        .chain([Rinse::Bleach, Rinse::Flush])
        .collect()
}

/// What is wrong with a round: places where bleach meets something other than a flush.
#[must_use]
pub fn bleach_unflushed(steps: &[RoundStep]) -> Vec<usize> {
    let is = |step: Option<&RoundStep>, wanted| matches!(step, Some(RoundStep::Rinse { how }) if *how == wanted);
    (0..steps.len())
        .filter(|&i| is(steps.get(i), Rinse::Bleach))
        .filter(|&i| {
            !is(steps.get(i + 1), Rinse::Flush) || i == 0 || !is(steps.get(i - 1), Rinse::Flush)
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    const ALL: [Clings; 4] = [Clings::Water, Clings::Salts, Clings::Film, Clings::Living];

    fn dose(treatment: usize, clings: Clings, ec: f64, of: &str) -> Dose {
        Dose {
            treatment: TreatmentIndex(treatment),
            control: treatment == 0,
            clings,
            beside: 0.0,
            ec_ms_per_cm: ec,
            of: of.into(),
        }
    }

    #[test]
    fn a_ladder_of_one_feed_needs_no_wash_between() {
        let list = [
            dose(0, Clings::Water, 0.5, ""),
            dose(1, Clings::Salts, 1.7, "feed"),
            dose(2, Clings::Salts, 1.1, "feed"),
            dose(3, Clings::Salts, 1.4, "other"),
        ];
        let steps = round(&list[..3], false);
        let next = RoundStep::Rinse {
            how: Rinse::NextSolution,
        };
        let give = |treatment| RoundStep::Give {
            treatment: TreatmentIndex(treatment),
        };
        assert_eq!(
            steps,
            [
                give(0),
                next.clone(),
                give(2),
                next,
                give(1),
                RoundStep::Rinse { how: Rinse::Water }
            ]
        );
        let mixed = round(&list, false);
        assert!(mixed.contains(&RoundStep::Rinse { how: Rinse::Water }));
    }

    #[test]
    fn the_living_come_last_and_bleach_is_flushed() {
        let steps = round(
            &[
                dose(1, Clings::Living, 0.5, "bacillus"),
                dose(0, Clings::Film, 0.6, "kelp"),
            ],
            true,
        );
        assert_eq!(
            steps[0],
            RoundStep::Give {
                treatment: TreatmentIndex(0)
            }
        );
        assert_eq!(steps[1], RoundStep::Rinse { how: Rinse::Soap });
        assert!(bleach_unflushed(&steps).is_empty());
        let bad = [
            RoundStep::Rinse { how: Rinse::Soap },
            RoundStep::Rinse { how: Rinse::Bleach },
            RoundStep::Rinse { how: Rinse::Flush },
        ];
        assert_eq!(bleach_unflushed(&bad), [1]);
        assert!(round(&[], false).is_empty());
    }

    proptest! {
        /// Whatever is given: each once, never from what clings longer to what clings less, bleach
        /// always between flushes.
        #[test]
        fn rounds_go_from_mild_to_lasting(
            kinds in prop::collection::vec((0usize..4, 0.0f64..4.0, 0u8..3), 1..9), acid: bool,
        ) {
            let list: Vec<Dose> =
                kinds.iter().enumerate().map(|(i, (k, ec, of))| dose(i, ALL[*k], *ec, &of.to_string())).collect();
            let steps = round(&list, acid);
            let given: Vec<usize> =
                steps.iter().filter_map(|s| if let RoundStep::Give { treatment } = s { Some(treatment.get()) } else { None }).collect();
            prop_assert_eq!(given.len(), list.len());
            prop_assert!(given.windows(2).all(|w| list[w[0]].clings <= list[w[1]].clings));
            prop_assert!(bleach_unflushed(&steps).is_empty());
        }
    }
}
