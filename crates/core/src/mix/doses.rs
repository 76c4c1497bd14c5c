//! What an application of the match sheet comes to: the parts of a feed at its dose, a litre of the
//! tank or a unit.

use super::parts::Part;
use crate::stores::{Item, Stores};
use crate::trial::application::{Amount, Application, Role};
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::Sheet;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// The parts that an application stands for, at the dose of their label; where Stores know none,
/// the one typed at Mix is taken for a feed.
fn parts_of(application: &Application, stores: &Stores, plan: &FeedPlan) -> Vec<Part> {
    let (shelf, name) = (application.role.shelf(), application.what.trim());
    stores.parts(shelf, name).unwrap_or_else(|| {
        let form = stores.find(shelf, name).map_or(plan.form, Item::form);
        vec![Part::unknown(name, form, plan.label_per_litre)]
    })
}

/// What is dissolved in the tank of a treatment, with the share of its label dose.
#[must_use]
pub fn in_tank(
    sheet: &Sheet,
    treatment: TreatmentIndex,
    stores: &Stores,
    plan: &FeedPlan,
) -> Vec<(Part, f64)> {
    let Some(own) = sheet.get(treatment) else {
        return Vec::new();
    };
    let stirred = own
        .applications
        .iter()
        .filter(|a| a.how.in_tank() && !a.is_nothing());
    let said = stirred.filter(|a| !is_unsaid(a, stores));
    said.flat_map(|a| solution_parts(a, stores, plan, plan.ml_a_unit))
        .collect()
}

/// Whether nobody can say how much of an additive is meant: a share of a label that no shelf knows.
fn is_unsaid(a: &Application, stores: &Stores) -> bool {
    let known = || stores.parts(a.role.shelf(), a.what.trim()).is_some();
    a.role == Role::Additive && a.of_label().is_some() && !known()
}

/// What is stirred into the tank of a treatment, and nobody can say how much of it.
#[must_use]
pub fn unsaid_in_tank(sheet: &Sheet, treatment: TreatmentIndex, stores: &Stores) -> Vec<String> {
    let own = sheet
        .get(treatment)
        .into_iter()
        .flat_map(|t| &t.applications);
    let unsaid = own.filter(|a| a.how.in_tank() && !a.is_nothing() && is_unsaid(a, stores));
    unsaid.map(|a| a.what.trim().to_owned()).collect()
}

/// The parts of a solution of which each unit gets so much, with the share of their label dose.
pub(super) fn solution_parts(
    a: &Application,
    stores: &Stores,
    plan: &FeedPlan,
    ml_a_unit: f64,
) -> Vec<(Part, f64)> {
    let parts = parts_of(a, stores, plan).into_iter();
    let litre_dose = match a.amount {
        Amount::OfLabel(share) => return parts.map(|part| (part, share)).collect(),
        Amount::PerLitre(x) => x,
        Amount::PerUnit(x) => x / (ml_a_unit / 1000.0),
        Amount::PerSite(_) | Amount::Undiluted => return Vec::new(),
    };
    let at = |part: Part| match part.per_l {
        label if label > 0.0 => (part, litre_dose / label),
        _ => (
            Part {
                per_l: litre_dose,
                ..part
            },
            1.0,
        ),
    };
    parts.map(at).collect()
}

/// What one unit gets of one part of an application each time.
#[derive(Debug, Clone, PartialEq)]
pub struct UnitDose {
    /// The part.
    pub part: Part,
    /// mL or g; None where nobody said how much, or of what volume.
    pub amount: Option<f64>,
}

/// What one unit gets of an application each time it is given; `sites` are the plants or places
/// inside a unit.
#[must_use]
pub fn of_unit(a: &Application, stores: &Stores, plan: &FeedPlan, sites: u32) -> Vec<UnitDose> {
    let ml = if a.how.in_tank() {
        Some(plan.ml_a_unit)
    } else {
        a.ml_a_unit
    };
    if a.is_nothing() {
        return Vec::new();
    }
    let each = |amount: Option<f64>| -> Vec<UnitDose> {
        parts_of(a, stores, plan)
            .into_iter()
            .map(|part| UnitDose { part, amount })
            .collect()
    };
    match a.amount {
        Amount::OfLabel(_) if !a.how.is_solution() => each(None),
        Amount::OfLabel(_) | Amount::PerLitre(_) => {
            // The share of the label does not hang on the volume, which may be unknown.
            let parts = solution_parts(a, stores, plan, ml.unwrap_or(1.0)).into_iter();
            // An additive of which no shelf knows a label has no label dose that could be counted.
            let unsaid = is_unsaid(a, stores);
            let dose = |(part, share): (Part, f64)| UnitDose {
                amount: ml
                    .filter(|_| !unsaid)
                    .map(|ml| part.per_l * share * ml / 1000.0),
                part,
            };
            parts.map(dose).collect()
        }
        Amount::PerUnit(x) => each(Some(x)),
        Amount::PerSite(x) => each(Some(x * f64::from(sites.max(1)))),
        Amount::Undiluted => each(ml),
    }
}

/// What is given to a treatment beside its tank, each time.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Beside {
    /// Feed or additive.
    pub role: Role,
    /// What it is called.
    pub what: String,
    /// How it is given.
    pub how: &'static str,
    /// How much, as planned: `0.5 × the label dose`, `undiluted`.
    pub dose: String,
    /// When.
    pub when: String,
    /// Of its solution or the undiluted liquid each unit gets, mL; null where nobody measures it.
    pub ml_a_unit: Option<f64>,
    /// Whether it is mixed with water first.
    pub diluted: bool,
    /// Of that solution for all units, spare included, L; null where it is given as it comes or
    /// nobody measures it.
    pub solution_l: Option<f64>,
    /// What to measure out, part by part.
    pub measure_out: Vec<BesidePart>,
}

/// What to measure out of one part.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BesidePart {
    /// What it is called.
    pub name: String,
    /// `mL` or `g`.
    pub unit: &'static str,
    /// For each unit; null where the plan leaves it open.
    pub per_unit: Option<f64>,
    /// For all units, spare included.
    pub total: Option<f64>,
}

/// What is given to a treatment beside its tank, for so many units.
///
/// ```
/// use iron_twin_core::mix::doses::beside;
/// use iron_twin_terms::indices::TreatmentIndex;
/// use iron_twin_core::stores::Stores;
/// use iron_twin_core::trial::{application::{Amount, Application, How, Role}, feed::FeedPlan, sheet::Sheet};
/// let mut sheet = Sheet::usual();
/// let kelp = Application::stirred(Role::Additive, "kelp", 1.0);
/// sheet.treatments[1].applications.push(Application { how: How::Sprayed, amount: Amount::Undiluted, ml_a_unit: Some(5.0), ..kelp });
/// let list = beside(&sheet, TreatmentIndex(1), &Stores::with_own(Vec::new()), &FeedPlan::default(), 8, 1);
/// assert_eq!((list[0].measure_out[0].per_unit, list[0].diluted), (Some(5.0), false));
/// ```
#[must_use]
pub fn beside(
    sheet: &Sheet,
    treatment: TreatmentIndex,
    stores: &Stores,
    plan: &FeedPlan,
    units: usize,
    sites: u32,
) -> Vec<Beside> {
    let Some(own) = sheet.get(treatment) else {
        return Vec::new();
    };
    let all = units as f64 * (1.0 + 0.01 * plan.spare_percent);
    let apart = own
        .applications
        .iter()
        .filter(|a| !a.how.in_tank() && !a.is_nothing());
    let each = apart.map(|a| {
        let diluted = a.takes_water();
        let dose = |UnitDose { part, amount }: UnitDose| BesidePart {
            unit: part.form.unit(),
            per_unit: amount,
            total: amount.map(|x| x * all),
            name: part.name,
        };
        Beside {
            role: a.role,
            what: a.what.clone(),
            how: a.how.words(),
            dose: a.amount.words(),
            when: a.when.words(),
            ml_a_unit: a.ml_a_unit,
            diluted,
            solution_l: a.ml_a_unit.filter(|_| diluted).map(|ml| ml / 1000.0 * all),
            measure_out: of_unit(a, stores, plan, sites)
                .into_iter()
                .map(dose)
                .collect(),
        }
    });
    each.collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::application::How;

    fn amounts(how: How, amount: Amount, ml: Option<f64>) -> Vec<Option<f64>> {
        let a = Application {
            how,
            amount,
            ml_a_unit: ml,
            ..Application::stirred(Role::Feed, "two-part feed", 1.0)
        };
        assert_eq!(a.check(), Ok(()), "{how:?} {amount:?}");
        let plan = FeedPlan {
            ml_a_unit: 500.0,
            ..FeedPlan::default()
        };
        of_unit(&a, &Stores::with_own(Vec::new()), &plan, 3)
            .into_iter()
            .map(|d| d.amount)
            .collect()
    }

    #[test]
    fn what_a_unit_gets_follows_from_how_it_is_given() {
        // 2 mL of each part a litre on the label; half a litre from the tank, a fifth of a litre as
        // a drench.
        assert_eq!(
            amounts(How::Stirred, Amount::OfLabel(0.5), None),
            [Some(0.5), Some(0.5)]
        );
        assert_eq!(
            amounts(How::Stirred, Amount::PerLitre(3.0), None),
            [Some(1.5), Some(1.5)]
        );
        assert_eq!(
            amounts(How::Stirred, Amount::PerUnit(4.0), None),
            [Some(4.0), Some(4.0)]
        );
        assert_eq!(
            amounts(How::Drenched, Amount::OfLabel(0.5), Some(200.0)),
            [Some(0.2), Some(0.2)]
        );
        assert_eq!(
            amounts(How::Drenched, Amount::OfLabel(0.5), None),
            [None, None],
            "nobody said how much"
        );
        assert_eq!(
            amounts(How::Sprayed, Amount::Undiluted, Some(5.0)),
            [Some(5.0), Some(5.0)]
        );
        assert_eq!(amounts(How::Sprayed, Amount::Undiluted, None), [None, None]);
        assert_eq!(
            amounts(How::Dusted, Amount::PerUnit(0.2), None),
            [Some(0.2), Some(0.2)]
        );
        assert_eq!(
            amounts(How::Injected, Amount::PerSite(0.2), None),
            [Some(0.6000000000000001); 2]
        );
        assert_eq!(
            amounts(How::Dusted, Amount::OfLabel(1.0), None),
            [None, None],
            "a label dose a litre is none of a dust"
        );
    }

    #[test]
    fn the_label_dose_of_an_unknown_additive_is_not_that_of_the_feed() {
        let (stores, plan) = (Stores::with_own(Vec::new()), FeedPlan::default());
        let amount = |role, what: &str, amount| {
            let a = Application {
                amount,
                ..Application::stirred(role, what, 1.0)
            };
            of_unit(&a, &stores, &plan, 1)[0].amount
        };
        assert_eq!(
            amount(Role::Additive, "secret tonic", Amount::OfLabel(1.0)),
            None
        );
        assert_eq!(
            amount(Role::Additive, "secret tonic", Amount::PerLitre(2.0)),
            Some(0.5)
        );
        assert!(amount(Role::Additive, "seaweed extract", Amount::OfLabel(1.0)).is_some());
        // For a feed that is not in Stores the label dose is typed at Mix.
        assert_eq!(
            amount(Role::Feed, "neighbour's brew", Amount::OfLabel(1.0)),
            Some(1.0)
        );
    }

    #[test]
    fn the_tank_holds_what_is_stirred_in_and_nothing_else() {
        let (stores, plan) = (
            Stores::with_own(Vec::new()),
            FeedPlan {
                ml_a_unit: 500.0,
                ..FeedPlan::default()
            },
        );
        let mut sheet = Sheet::usual();
        let kelp = Application::stirred(Role::Additive, "seaweed extract", 1.0);
        for how in How::ALL.into_iter().filter(|how| !how.in_tank()) {
            sheet.treatments[1].applications.truncate(1);
            sheet.treatments[1].applications.push(Application {
                how,
                ..kelp.clone()
            });
            assert_eq!(
                in_tank(&sheet, TreatmentIndex(1), &stores, &plan).len(),
                1,
                "{how:?}"
            );
            assert_eq!(
                beside(&sheet, TreatmentIndex(1), &stores, &plan, 8, 1).len(),
                1,
                "{how:?}"
            );
        }
        sheet.treatments[1].applications[1].how = How::Stirred;
        assert_eq!(
            (
                in_tank(&sheet, TreatmentIndex(1), &stores, &plan).len(),
                beside(&sheet, TreatmentIndex(1), &stores, &plan, 8, 1).len()
            ),
            (2, 0)
        );
        // A dose fixed for the unit, in half a litre: twice as much a litre, as a share of 4 mL.
        sheet.treatments[1].applications[0].amount = Amount::PerUnit(1.0);
        let (part, share) = &in_tank(&sheet, TreatmentIndex(1), &stores, &plan)[0];
        assert!((part.per_l * share - 2.0).abs() < 1e-12 && (share - 0.5).abs() < 1e-12);
    }
}
