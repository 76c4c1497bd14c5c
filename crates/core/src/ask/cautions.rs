//! What a plan should know before the first seed is sown: where its verdicts are weaker than usual,
//! and what would make the comparison sharper.
//!
//! Figures of false claims are those of docs/calibration.md.

use super::lacks::lacks;
use super::picture::Layout;
use super::sees::seen_each;
use crate::catalogue::measures::Measure;
use crate::catalogue::spaces::SpaceKind;
use crate::trial::Trial;
use crate::trial::question::Covariate;
use crate::trial::space::{Position, RackDesign};
use iron_twin_terms::goal::Goal;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::words::capitalised;
use serde::Serialize;
use std::collections::BTreeMap;

/// What could be changed in the plan about it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Offer {
    /// Take the place along the level out of the differences.
    Slot,
    /// Take the light of the places out of the differences.
    Light,
    /// Compare by how many times as much.
    Ratios,
}

/// Something to know before sowing.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Caution {
    /// Stable code.
    pub code: &'static str,
    /// In plain words, with figures.
    pub said: String,
    /// What the plan could change; null where only another design helps.
    pub offer: Option<Offer>,
    /// Whether the plan has taken up the offer.
    pub taken: bool,
}

/// A figure without a change of the plan to offer.
fn told(code: &'static str, said: String) -> Caution {
    Caution {
        code,
        said,
        offer: None,
        taken: false,
    }
}

/// Everything there is to know of a plan before it is sown. `cv_percent` is the spread that units
/// of one treatment are expected to have.
#[must_use]
pub fn cautions(trial: &Trial, cv_percent: f64) -> Vec<Caution> {
    let all: [Option<Caution>; 6] = [
        grades_never_tell(trial),
        few_places(trial),
        unlike_numbers(trial),
        a_wild_treatment(trial),
        place(trial, cv_percent),
        ratios(trial, cv_percent),
    ];
    // Once sealed, what was not taken up is no longer offered.
    let sealed = trial.sealed_at.is_some();
    all.into_iter()
        .flatten()
        .chain(figures_without_basis(trial))
        .filter(|c| !sealed || c.offer.is_none() || c.taken)
        .collect()
}

/// Measures that will have no figure as long as the plan does not say what they are told for.
fn figures_without_basis(trial: &Trial) -> Vec<Caution> {
    let measures = trial.plan.ask.measures().into_iter();
    let one = |m: &'static Measure| {
        Some(told(
            "no_basis",
            format!("{}: {}", capitalised(m.name), lacks(trial, m)?),
        ))
    };
    measures.filter_map(one).collect()
}

/// Several treatments are told apart by their grades where a pair dealt anew bears it out: where
/// even the widest gap would be dealt by chance once in twenty, no verdict can come of them. Of two
/// treatments limits may still tell.
fn grades_never_tell(trial: &Trial) -> Option<Caution> {
    let layout = Layout::of(trial);
    let rarest = 0.5 * layout.smallest_redeal_p(seen_each(trial));
    let several = trial.plan.treatments() > 2 && trial.plan.rack.kind != SpaceKind::Sites;
    (trial.primary().kind == Kind::Score && several && rarest >= 0.05).then(|| {
        let units = trial.plan.rack.kind.units();
        let enough = (1..=48)
            .map(|n| n * layout.step())
            .find(|n| *n >= 2 && 0.5 * layout.smallest_redeal_p(*n) < 0.05)
            .unwrap_or(48);
        told(
            "grades_never_tell",
            format!(
                "Grades of {} {units} a treatment can never tell several treatments from the \
                 control, whatever they show: at least {enough} each are needed.",
                seen_each(trial)
            ),
        )
    })
}

/// Fewest sites at which grades can tell.
const ENOUGH_SITES: usize = 5;

/// What holds for further places is held against what places differ in: two show that by a single
/// figure.
fn few_places(trial: &Trial) -> Option<Caution> {
    let rack = &trial.plan.rack;
    let (treatments, sites) = (
        trial.plan.treatments(),
        rack.blocks(trial.plan.treatments()),
    );
    if rack.kind != SpaceKind::Sites || sites < 2 {
        return None;
    }
    match trial.primary().kind {
        Kind::Amount | Kind::Count | Kind::Share | Kind::Days if sites == 2 && treatments < 4 => Some(told(
            "few_places",
            "Two sites show next to nothing of how much treatments differ from site to site: only \
             a very large difference can be claimed for others. Three or more sites, if need be \
             with fewer plots at each, tell more."
                .into(),
        )),
        // Whole sites are dealt anew: of four the rarest outcome still comes up once in sixteen.
        Kind::Score if sites < ENOUGH_SITES => Some(told(
            "few_places_for_grades",
            format!(
                "Grades are compared site by site, and {sites} sites can never tell treatments \
                 apart, whatever they show: at least {ENOUGH_SITES} are needed."
            ),
        )),
        _ => None,
    }
}

/// Unlike numbers make a wrong spread do the most harm.
fn unlike_numbers(trial: &Trial) -> Option<Caution> {
    let numbers = trial.plan.rack.dealt_numbers(trial.plan.treatments());
    let (fewest, most) = (numbers.iter().min()?, numbers.iter().max()?);
    if trial.plan.rack.numbers.is_empty() || fewest == most || trial.primary().kind != Kind::Amount
    {
        return None;
    }
    let units = trial.dealt_words().1;
    Some(told(
        "unlike_numbers",
        format!(
            "Treatments have from {fewest} to {most} {units}. Where one with few of them scatters \
             far more than the rest, a difference that is none may be claimed in up to 7 of 100 \
             trials instead of 5; each is therefore judged by a spread of its own, which takes \
             larger differences to tell."
        ),
    ))
}

/// Three or more treatments with few units each show too little of their own spread.
fn a_wild_treatment(trial: &Trial) -> Option<Caution> {
    let (treatments, units) = (trial.plan.treatments(), seen_each(trial));
    let numbers = &trial.plan.rack.numbers;
    if treatments < 3
        || trial.primary().kind != Kind::Amount
        || !numbers.is_empty()
        || !(2..=6).contains(&units)
    {
        return None;
    }
    let most = if units == 2 { 8 } else { 7 };
    Some(told(
        "a_wild_control",
        format!(
            "With {units} {} of each of {treatments} treatments a control that scatters far more \
             than the rest may go unseen: a difference that is none is then claimed in up to \
             {most} of 100 trials instead of 5. Keep the control as even as you can.",
            trial.dealt_words().1
        ),
    ))
}

/// How much harvest changes with light, per cent for a per cent. Source, from memory: Marcelis and
/// others 2006, Acta Horticulturae 711: half to one per cent in most crops of the greenhouse.
const BY_LIGHT: f64 = 1.0;
/// Differences of light between places below this are left alone, per cent.
const EVEN_LIGHT: f64 = 3.0;

/// A gradient along the shelf can be taken out, where the plan says so beforehand.
fn place(trial: &Trial, cv_percent: f64) -> Option<Caution> {
    let rack = &trial.plan.rack;
    let dealt = matches!(
        rack.design,
        RackDesign::Blocks | RackDesign::CompletelyRandomised
    );
    let layout = Layout::of(trial);
    let with = Layout {
        covariates: 1,
        ..layout
    };
    let units = seen_each(trial);
    let plan = with.plan(units);
    let wanted = trial.plan.ask.covariate;
    // What is moved around has no place of its own.
    let stays = trial.plan.care.rotate_every == 0;
    let free =
        dealt && stays && !trial.is_by_level() && rack.kind != SpaceKind::Sites && plan.df() >= 4.0;
    // What every unit has a starting size for is compared by that; two figures at once are not
    // taken out.
    let started = trial.plan.rack.starts.iter().any(Option::is_some) && wanted == Covariate::Start;
    if trial.primary().kind != Kind::Amount || !free || started || rack.slots < 3 {
        return None;
    }
    let taken = |covariate| wanted == covariate;
    match light_spread(trial) {
        Some(light) if light >= EVEN_LIGHT || taken(Covariate::Light) => {
            by_light(trial, cv_percent, (layout, with), light)
        }
        None => Some(Caution {
            code: "place_on_the_shelf",
            said: "If one end of the shelf is better off (a window, a fan, the end of a lamp), \
                   say before the first record that the place along it is taken out: a steep \
                   slope then hides far less, and an even shelf loses little."
                .into(),
            offer: Some(Offer::Slot),
            taken: taken(Covariate::Slot),
        }),
        Some(_) => None,
    }
}

/// What is told where the light of the places differs, if taking it out would help or is planned.
fn by_light(
    trial: &Trial,
    cv_percent: f64,
    (layout, with): (Layout, Layout),
    light: f64,
) -> Option<Caution> {
    let units = seen_each(trial);
    let plan = with.plan(units);
    let taken = trial.plan.ask.covariate == Covariate::Light;
    let by_light = BY_LIGHT * light;
    let scatter = (cv_percent * cv_percent + by_light * by_light).sqrt();
    let goal = if trial.plan.ask.goal == Goal::Match {
        Goal::Match
    } else {
        Goal::Beat
    };
    let left = scatter * layout.smallest(units, goal).ok()?;
    // A covariate costs one degree of freedom, and what treatments happen to share of it
    // (Cox 1957, Biometrika 44: variance by 1 + 1 / (df - 1) on average); what else a
    // verdict asks stays as it is.
    let usual = layout.plan(units).smallest_detectable(0.8).ok()?;
    let dearer =
        plan.smallest_detectable(0.8).ok()? / usual * (1.0 + 1.0 / (plan.df() - 1.0)).sqrt();
    let out = cv_percent * layout.smallest(units, goal).ok()? * dearer;
    (out < left || taken).then(|| Caution {
        code: "light_of_places",
        said: format!(
            "Places of one level differ in light by {light:.0} %. Where the harvest \
                     follows the light, {units} {} a side tell a difference of {left:.0} % as \
                     they stand, and of {out:.0} % with the light of each place taken out. That \
                     is to be said before the first record.",
            trial.dealt_words().1
        ),
        offer: Some(Offer::Light),
        taken,
    })
}

/// How much places that hold units differ in light inside their blocks, as a standard deviation in
/// per cent of the mean; None where the light of some was not measured.
fn light_spread(trial: &Trial) -> Option<f64> {
    let (rack, treatments) = (&trial.plan.rack, trial.plan.treatments());
    let blocks = rack.block_names(treatments);
    let mut by_block: BTreeMap<Option<String>, Vec<f64>> = BTreeMap::new();
    let used = rack.used_slots(treatments);
    for level in 1..=rack.levels {
        for slot in 1..=used {
            let position = Position { level, slot };
            by_block
                .entry(blocks(position))
                .or_default()
                .push(trial.plan.light_at(position)?);
        }
    }
    let all: Vec<f64> = by_block.values().flatten().copied().collect();
    let mean = all.iter().sum::<f64>() / all.len() as f64;
    let mut squares = 0.0;
    for own in by_block.values() {
        let centre = own.iter().sum::<f64>() / own.len() as f64;
        squares += own.iter().map(|v| (v - centre).powi(2)).sum::<f64>();
    }
    let df = all.len().checked_sub(by_block.len()).filter(|df| *df > 0)? as f64;
    (mean > 0.0).then(|| 100.0 * (squares / df).sqrt() / mean)
}

/// Spread from which figures that cannot be below zero must lean to one side, per cent.
const LEANS: f64 = 30.0;

/// Figures that scatter the more the larger they are want to be compared by ratio.
fn ratios(trial: &Trial, cv_percent: f64) -> Option<Caution> {
    let measure = trial.primary();
    let taken = trial.plan.ask.by_ratio;
    let leans = measure.by_ratio || cv_percent >= LEANS;
    if measure.kind != Kind::Amount
        || !(leans || taken)
        || trial.plan.ask.goal == Goal::Match && !taken
    {
        return None;
    }
    let why = if measure.by_ratio {
        "is one figure divided by another".to_owned()
    } else {
        format!("is expected to scatter by {cv_percent:.0} %, and cannot fall below zero")
    };
    Some(Caution {
        code: "compare_by_ratio",
        said: format!(
            "{} {why}: a few very large figures are usual, and pull a difference with them. \
             Compared by how many times as much, they do not. That is to be said before the first \
             record.",
            capitalised(measure.name)
        ),
        offer: Some(Offer::Ratios),
        taken,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::plan::Plan;
    use crate::trial::site::{LightScale, SlotLight};

    fn codes(change: impl FnOnce(&mut Plan)) -> Vec<(&'static str, Option<Offer>)> {
        let mut plan = Plan::usual("Cress");
        change(&mut plan);
        cautions(&Trial::planned("t", plan), 8.0)
            .into_iter()
            .map(|c| (c.code, c.offer))
            .collect()
    }

    fn treatments(plan: &mut Plan, number: usize) {
        let first = plan.sheet.treatments[0].clone();
        plan.sheet.treatments = (0..number)
            .map(|n| {
                let mut own = first.clone();
                own.name = format!("feed {n}");
                own
            })
            .collect();
    }

    #[test]
    fn a_plain_plan_is_offered_its_place_and_nothing_else() {
        assert_eq!(
            codes(|p| treatments(p, 2)),
            [("place_on_the_shelf", Some(Offer::Slot))]
        );
        assert_eq!(
            codes(|p| (treatments(p, 2), p.rack.slots = 2).1),
            [],
            "two places are no slope"
        );
        assert_eq!(
            codes(|p| (treatments(p, 2), p.care.rotate_every = 2).1),
            [],
            "moved around, none keeps its place"
        );
    }

    #[test]
    fn grades_that_can_never_tell_are_told_and_enough_of_them_are_not() {
        let graded = |number, levels| {
            codes(|p| {
                treatments(p, number);
                p.ask.primary_measure = "vigour".into();
                (p.rack.levels, p.rack.slots) = (levels, number as u32);
                p.rack.design = RackDesign::CompletelyRandomised;
            })
        };
        assert_eq!(graded(3, 3), [("grades_never_tell", None)]);
        assert_eq!((graded(3, 4), graded(2, 3)), (vec![], vec![]));
    }

    #[test]
    fn few_units_of_several_treatments_and_unlike_numbers() {
        let several = |levels| codes(|p| (treatments(p, 4), p.rack.levels = levels).1);
        assert!(
            several(4).contains(&("a_wild_control", None))
                && !several(8).contains(&("a_wild_control", None))
        );
        let unlike = codes(|p| {
            treatments(p, 2);
            p.rack.design = RackDesign::CompletelyRandomised;
            p.rack.numbers = vec![10, 6];
        });
        assert!(unlike.contains(&("unlike_numbers", None)), "{unlike:?}");
    }

    #[test]
    fn two_sites_are_few_and_three_are_not() {
        let sites = |levels, measure: &str| {
            codes(|p| {
                treatments(p, 2);
                p.ask.primary_measure = measure.into();
                (p.rack.kind, p.rack.levels, p.rack.slots) = (SpaceKind::Sites, levels, 8);
            })
        };
        assert_eq!(sites(2, "harvest_weight"), [("few_places", None)]);
        assert_eq!(sites(3, "harvest_weight"), []);
        assert_eq!(
            (sites(2, "first_flower"), sites(3, "first_flower")),
            (vec![("few_places", None)], vec![])
        );
        assert_eq!(
            (sites(4, "vigour"), sites(5, "vigour")),
            (vec![("few_places_for_grades", None)], vec![])
        );
    }

    fn light(level: u32, slot: u32, umol: f64) -> SlotLight {
        SlotLight {
            level,
            slot,
            umol,
            measured: umol,
            scale: LightScale::Umol,
            light_kind: String::new(),
        }
    }

    #[test]
    fn uneven_light_is_offered_with_what_it_gains() {
        let lit = |step: f64| {
            let mut plan = Plan::usual("Cress");
            treatments(&mut plan, 2);
            (plan.rack.levels, plan.rack.slots) = (4, 4);
            plan.light = (1..=4)
                .flat_map(|level| {
                    (1..=4).map(move |slot| light(level, slot, 150.0 + step * f64::from(slot)))
                })
                .collect();
            cautions(&Trial::planned("t", plan), 8.0)
        };
        let uneven = lit(20.0);
        assert_eq!(uneven[0].offer, Some(Offer::Light));
        let figures: Vec<f64> = uneven[0]
            .said
            .split_whitespace()
            .filter_map(|w| w.parse().ok())
            .collect();
        // Light, units a side, then what is told without and with it.
        assert!(figures[2] > figures[3], "{}", uneven[0].said);
        assert_eq!(lit(0.5), [], "even light has nothing to take out");
    }

    #[test]
    fn quotients_are_offered_ratios() {
        let quotient = codes(|p| {
            treatments(p, 2);
            p.rack.slots = 2;
            p.ask.primary_measure = "harvest_per_litre".into();
        });
        assert_eq!(quotient, [("compare_by_ratio", Some(Offer::Ratios))]);
    }
}
