//! The trial at the bench: how its treatments are filled from shared batches, and in which order
//! they are given.

use super::doses::in_tank;
use super::filling::{Filling, Served, fill};
use super::order::{Clings, Dose, RoundStep, round};
use super::tank::{Tank, measured};
use crate::stores::Stores;
use crate::stores::keys;
use crate::trial::application::{Amount, Application, Role};
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::Sheet;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::quantity::OutOfRange;

/// What a treatment gets, so that two that differ in strength alone share a batch.
fn served(sheet: &Sheet, treatment: TreatmentIndex, units: usize) -> Served {
    let in_tank = |a: &&Application| a.how.in_tank() && !a.is_nothing();
    let stirred: Vec<&Application> = sheet.treatments[treatment]
        .applications
        .iter()
        .filter(in_tank)
        .collect();
    let shares: Option<Vec<f64>> = stirred.iter().map(|a| a.of_label()).collect();
    let fraction = match &shares {
        Some(shares) => shares.first().copied().unwrap_or(0.0),
        // Doses that are no shares of a label are not thinned to one another.
        None => 1.0,
    };
    let named = |a: &&Application| match a.of_label() {
        // What is thinned together keeps its proportion.
        Some(share) if shares.is_none() || share != fraction => {
            format!(
                "{:.3} x {}",
                if shares.is_none() {
                    share
                } else {
                    share / fraction
                },
                a.what.trim()
            )
        }
        Some(_) => a.what.trim().to_owned(),
        None => format!("{} ({})", a.what.trim(), a.amount.words()),
    };
    let of = stirred.iter().map(named).collect::<Vec<_>>().join(" and ");
    let waters: Vec<&str> = sheet
        .indices()
        .filter_map(|t| sheet.value(t, "water"))
        .collect();
    let one_water = waters.windows(2).all(|w| w[0] == w[1]);
    let of = if one_water || of.is_empty() {
        of
    } else {
        format!(
            "{of} in {}",
            sheet.value(treatment, "water").unwrap_or("").trim()
        )
    };
    Served {
        treatment,
        of,
        fraction,
        units,
    }
}

/// Batches for all units of a trial, with what to measure out for each.
///
/// # Errors
/// [`OutOfRange`], naming the number.
///
/// ```
/// use iron_twin_core::trial::sheet::Sheet;
/// use iron_twin_core::trial::feed::FeedPlan;
/// use iron_twin_core::mix::serving::filling;
/// use iron_twin_core::stores::Stores;
/// let stores = Stores::with_own(Vec::new());
/// let plan = filling(&Sheet::usual(), &stores, &FeedPlan::default(), &[8, 8], 10.0)?;
/// assert_eq!(plan.series.len(), 1);
/// assert_eq!(plan.series[0].measure_out[0].total, 4.0 * plan.series[0].batch_l);
/// # Ok::<(), iron_twin_terms::quantity::OutOfRange>(())
/// ```
pub fn filling(
    sheet: &Sheet,
    stores: &Stores,
    plan: &FeedPlan,
    units: &[usize],
    vessel_l: f64,
) -> Result<Filling, OutOfRange> {
    plan.check()?;
    let all: Vec<Served> = sheet
        .indices()
        .map(|t| served(sheet, t, t.of(units).copied().unwrap_or(0)))
        .collect();
    let mut filling = fill(&all, plan.ml_a_unit, plan.spare_percent, vessel_l)?;
    for series in &mut filling.series {
        let strongest = all
            .iter()
            .find(|s| s.of == series.of && s.fraction == series.fraction);
        let treatment = strongest
            .expect("a series is that of its strongest treatment")
            .treatment;
        let parts = in_tank(sheet, treatment, stores, plan);
        series.measure_out = parts
            .iter()
            .map(|(part, fraction)| measured(part, *fraction, series.batch_l))
            .collect();
    }
    Ok(filling)
}

/// Kinds of additive that leave a film.
const FILM: [&str; 3] = ["seaweed", "humic or fulvic", "brew or tea"];

/// What clings longest of all that a treatment is given, in its water and beside it.
fn clings(sheet: &Sheet, treatment: TreatmentIndex, stores: &Stores) -> Clings {
    let kind = |a: &Application| match a.role {
        Role::Additive => match stores.find("additives", a.what.trim()) {
            Some(item) if item.words(keys::LIVING) == Some("yes") => Clings::Living,
            Some(item) if item.words(keys::KIND).is_some_and(|k| FILM.contains(&k)) => Clings::Film,
            Some(item) if item.words(keys::COMPOSITION) == Some("stated") => Clings::Salts,
            _ => Clings::Living,
        },
        Role::Feed if stores.parts("feeds", a.what.trim()).is_none() => Clings::Living,
        Role::Feed => Clings::Salts,
    };
    let all = sheet.treatments[treatment]
        .applications
        .iter()
        .filter(|a| !a.is_nothing());
    all.map(kind).max().unwrap_or(Clings::Water)
}

/// How strong what is given beside the water is, as a share of its label; as it comes from the
/// bottle it is a whole litre of what the label dilutes.
fn beside_strength(sheet: &Sheet, treatment: TreatmentIndex, stores: &Stores) -> f64 {
    let apart = sheet.treatments[treatment]
        .applications
        .iter()
        .filter(|a| !a.how.in_tank() && !a.is_nothing());
    let of = |a: &Application| {
        let label = stores
            .parts(a.role.shelf(), a.what.trim())
            .and_then(|p| p.first().map(|p| p.per_l));
        let label = label.filter(|per_l| *per_l > 0.0).unwrap_or(1.0);
        match a.amount {
            Amount::OfLabel(share) => share,
            Amount::PerLitre(x) => x / label,
            Amount::PerUnit(x) | Amount::PerSite(x) => x,
            Amount::Undiluted => 1000.0 / label,
        }
    };
    apart.map(of).fold(0.0, f64::max)
}

/// The treatments in the order of a round: from the mildest to what clings or lives longest.
#[must_use]
pub fn in_order(sheet: &Sheet, stores: &Stores, tanks: &[Tank]) -> Vec<TreatmentIndex> {
    let steps = order(sheet, stores, tanks).into_iter();
    steps
        .filter_map(|step| {
            if let RoundStep::Give { treatment } = step {
                Some(treatment)
            } else {
                None
            }
        })
        .collect()
}

/// The order in which treatments are given with shared tools, and the rinses between. Rinses are
/// planned as if acid were at hand, as most growers bring their water to its pH with it.
#[must_use]
pub fn order(sheet: &Sheet, stores: &Stores, tanks: &[Tank]) -> Vec<RoundStep> {
    let dose = |(treatment, tank): (TreatmentIndex, &Tank)| Dose {
        treatment,
        control: sheet.treatments[treatment].control,
        clings: clings(sheet, treatment, stores),
        beside: beside_strength(sheet, treatment, stores),
        ec_ms_per_cm: tank
            .solution
            .as_ref()
            .map_or(0.0, |s| s.conductivity_ms_per_cm.at_25c),
        of: served(sheet, treatment, 1).of,
    };
    round(
        &sheet.indices().zip(tanks).map(dose).collect::<Vec<_>>(),
        true,
    )
}

#[cfg(test)]
mod tests {
    use super::super::order::Rinse;
    use super::super::tank::tanks;
    use super::*;
    use crate::trial::application::How;

    fn sheet(rows: &[[&str; 4]]) -> Sheet {
        let mut sheet = Sheet::usual();
        let model = sheet.treatments[1].clone();
        sheet.treatments.truncate(1);
        for (i, row) in rows.iter().enumerate() {
            let mut treatment = model.clone();
            treatment.name = format!("treatment {i}");
            let share = |at: usize| row[at].parse().unwrap();
            treatment.give(Role::Feed, row[0], share(1));
            treatment.give(Role::Additive, row[2], share(3));
            sheet.treatments.push(treatment);
        }
        sheet
    }

    #[test]
    fn strengths_of_one_feed_share_a_batch_and_additives_have_their_own() {
        let sheet = sheet(&[
            ["two-part feed", "0.5", "none", "1"],
            ["two-part feed", "1", "none", "1"],
            ["two-part feed", "1", "seaweed extract", "1"],
        ]);
        let plan = FeedPlan {
            spare_percent: 0.0,
            ..FeedPlan::default()
        };
        let filling = filling(&sheet, &Stores::with_own(Vec::new()), &plan, &[4; 8], 2.0).unwrap();
        assert_eq!(
            filling
                .series
                .iter()
                .map(|s| s.shares.len())
                .collect::<Vec<_>>(),
            [2, 1]
        );
        // 1 L at half and 1 L at full strength: 1.5 L, in one vessel of 2 L; 2 mL of each part in a
        // litre.
        let measure: Vec<_> = filling.series[0]
            .measure_out
            .iter()
            .map(|m| (m.total, m.unit))
            .collect();
        assert_eq!(measure, [(3.0, "mL"), (3.0, "mL")]);
        assert_eq!(filling.series[1].measure_out.len(), 3);
        assert!((filling.water_l - 1.0).abs() < 1e-12);
    }

    #[test]
    fn the_control_is_first_and_the_living_last() {
        let stores = Stores::with_own(Vec::new());
        let sheet = sheet(&[
            ["grow feed", "1", "Bacillus inoculant", "1"],
            ["grow feed", "1", "seaweed extract", "1"],
            ["grow feed", "1", "none", "1"],
        ]);
        let tanks = tanks(&sheet, &stores, &FeedPlan::default(), "", &[4; 8]).unwrap();
        let steps = order(&sheet, &stores, &tanks);
        let given: Vec<usize> = steps
            .iter()
            .filter_map(|s| {
                if let RoundStep::Give { treatment } = s {
                    Some(treatment.get())
                } else {
                    None
                }
            })
            .collect();
        assert_eq!(given, [0, 3, 2, 1]);
        assert_eq!(steps.last(), Some(&RoundStep::Rinse { how: Rinse::Flush }));
    }

    #[test]
    fn treatments_see_what_differs_from_the_control() {
        let stores = Stores::with_own(Vec::new());
        let sheet = sheet(&[
            ["grow feed", "1", "none", "1"],
            ["grow feed", "0", "none", "1"],
        ]);
        let tanks = tanks(&sheet, &stores, &FeedPlan::default(), "", &[4; 8]).unwrap();
        assert!(tanks[0].unlike.is_empty() && tanks[2].unlike.is_empty());
        assert!(tanks[1].unlike.contains(&"N") && tanks[1].unlike.contains(&"K"));
    }

    /// Full feed as the control comes after half of it; of sprays the mildest comes first, and one
    /// from the bottle last.
    #[test]
    fn the_mildest_comes_first_whoever_is_the_control() {
        let stores = Stores::with_own(Vec::new());
        let in_turn = |sheet: &Sheet| {
            let filled = tanks(sheet, &stores, &FeedPlan::default(), "lettuce", &[4; 3]).unwrap();
            in_order(sheet, &stores, &filled)
                .into_iter()
                .map(TreatmentIndex::get)
                .collect::<Vec<_>>()
        };
        let mut feeds = sheet(&[
            ["grow feed", "0.5", "none", "1"],
            ["grow feed", "0.25", "none", "1"],
        ]);
        feeds.treatments[0].give(Role::Feed, "grow feed", 1.0);
        assert_eq!(in_turn(&feeds), [2, 1, 0]);
        let mut sprays = sheet(&[["none", "1", "none", "1"], ["none", "1", "none", "1"]]);
        let kelp = |amount| Application {
            how: How::Sprayed,
            amount,
            ml_a_unit: Some(5.0),
            ..Application::stirred(Role::Additive, "seaweed extract", 1.0)
        };
        for (treatment, amount) in [
            (0, None),
            (1, Some(Amount::Undiluted)),
            (2, Some(Amount::OfLabel(0.5))),
        ] {
            sprays.treatments[treatment].applications = amount.map(kelp).into_iter().collect();
        }
        assert_eq!(
            in_turn(&sprays),
            [0, 2, 1],
            "strongest first would carry it over"
        );
    }
}
