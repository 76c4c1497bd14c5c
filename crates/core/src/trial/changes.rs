//! What changed between two plans, in words.

use super::plan::Plan;
use super::question::Ask;
use super::space::Position;
use super::waves::Waves;
use jiff::Timestamp;
use std::collections::{BTreeMap, BTreeSet};

/// One thing that changed.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Change {
    /// Which field.
    pub field: &'static str,
    /// What it was.
    pub before: String,
    /// What it became.
    pub after: String,
}

/// A change of the sealed plan, kept beside the original.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlanChange {
    /// When.
    pub at: Timestamp,
    /// What.
    pub change: Change,
    /// Why.
    pub reason: String,
    /// Measures that were added with it.
    pub added: Vec<&'static str>,
}

/// Tells a field of what was asked.
type Told = fn(&Ask) -> String;

/// What was asked, field by field, in the words of the history.
const ASKED: [(&str, Told); 23] = [
    ("question", |a| a.question.clone()),
    ("crop", |a| a.crop.clone()),
    ("price of a kg", |a| said(a.price_per_kg)),
    ("usual yield", |a| said(a.usual_per_unit)),
    ("usual number counted", |a| said(a.usual_out_of)),
    ("margin in money", |a| said(a.margin_money)),
    ("hypothesis", |a| a.hypothesis.clone()),
    ("goal", |a| format!("{:?}", a.goal)),
    ("which way is better", |a| format!("{:?}", a.better)),
    ("margin", |a| a.margin.to_string()),
    ("primary measure", |a| a.primary_measure.clone()),
    ("also recorded", |a| a.also.join(", ")),
    ("days of judgement", |a| {
        let days: Vec<String> = a
            .judged()
            .iter()
            .filter(|j| j.day.is_some())
            .map(|j| j.id())
            .collect();
        days.join(", ")
    }),
    ("last day", |a| a.end_day.to_string()),
    ("what is looked for", |a| format!("{:?}", a.seeks)),
    ("last stage", |a| a.end_stage.clone()),
    ("crops that share a unit", |a| a.crops_inside.join(", ")),
    ("samples weighed one by one", |a| {
        a.weigh_samples.to_string()
    }),
    ("harvest in waves", |a| {
        a.waves.as_ref().map_or_else(|| "no".into(), Waves::told)
    }),
    ("samples in each unit", |a| a.samples_inside.to_string()),
    ("what is taken out", |a| {
        format!("{:?}", a.covariate).to_lowercase()
    }),
    ("looks planned", |a| {
        a.looks_on
            .iter()
            .map(u32::to_string)
            .collect::<Vec<_>>()
            .join(", ")
    }),
    ("compared by ratio", |a| a.by_ratio.to_string()),
];

/// What changed of what is sealed at the first record: what was asked, how it is to be answered,
/// and what was measured of the places.
///
/// ```
/// use iron_twin_core::trial::{changes::sealed, plan::Plan};
/// let before = Plan::usual("Cress");
/// let mut after = before.clone();
/// after.ask.end_day = 14;
/// let changes = sealed(&before, &after);
/// assert_eq!((changes.len(), changes[0].field, changes[0].after.as_str()), (1, "last day", "14"));
/// ```
#[must_use]
pub fn sealed(before: &Plan, after: &Plan) -> Vec<Change> {
    let told = ASKED
        .into_iter()
        .map(|(field, told)| (field, told(&before.ask), told(&after.ask)));
    let name = std::iter::once(("name", before.name.clone(), after.name.clone()));
    let changed = name
        .chain(told)
        .filter(|(_, before, after)| before != after);
    let asked = changed.map(|(field, before, after)| Change {
        field,
        before,
        after,
    });
    let measured = [
        (STARTING_SIZES, starts as fn(&Plan) -> Figures),
        (LIGHT, lights),
    ];
    asked
        .chain(
            measured
                .into_iter()
                .filter_map(|(field, of)| moved(field, &of(before), &of(after))),
        )
        .collect()
}

/// The field of the starting sizes.
const STARTING_SIZES: &str = "starting sizes";
/// The field of the light of places.
pub const LIGHT: &str = "light";

/// Figures by place.
type Figures = BTreeMap<Position, f64>;

fn starts(plan: &Plan) -> Figures {
    let rack = &plan.rack;
    let places = (1..=rack.levels)
        .flat_map(|level| (1..=rack.slots).map(move |slot| Position { level, slot }));
    places
        .filter_map(|place| Some((place, rack.start_of(place)?)))
        .collect()
}

fn lights(plan: &Plan) -> Figures {
    plan.light
        .iter()
        .map(|l| {
            (
                Position {
                    level: l.level,
                    slot: l.slot,
                },
                l.umol,
            )
        })
        .collect()
}

/// Places told one by one; of more it is said how many.
const MOST_TOLD: usize = 3;

/// The places whose figure changed, each with what it was and what it became.
fn moved(field: &'static str, before: &Figures, after: &Figures) -> Option<Change> {
    let all: BTreeSet<&Position> = before.keys().chain(after.keys()).collect();
    let changed: Vec<&Position> = all
        .into_iter()
        .filter(|place| before.get(place) != after.get(place))
        .collect();
    let told = |of: &Figures| {
        let each = changed.iter().take(MOST_TOLD);
        let mut list: Vec<String> = each
            .map(|p| format!("{} in {}.{}", said(of.get(p).copied()), p.level, p.slot))
            .collect();
        list.extend(
            (changed.len() > MOST_TOLD).then(|| format!("{} more", changed.len() - MOST_TOLD)),
        );
        list.join(", ")
    };
    (!changed.is_empty()).then(|| Change {
        field,
        before: told(before),
        after: told(after),
    })
}

/// Measures that were not recorded before a change: added midway, they can raise a question, and
/// not settle it.
#[must_use]
pub fn added(before: &Plan, after: &Plan) -> Vec<&'static str> {
    let own = before.ask.measures();
    let new = after
        .ask
        .measures()
        .into_iter()
        .filter(|m| own.iter().all(|o| o.key != m.key));
    new.map(|m| m.key).collect()
}

/// A figure that may not be there.
fn said(figure: Option<f64>) -> String {
    figure.map_or_else(|| "none".into(), |value| value.to_string())
}
