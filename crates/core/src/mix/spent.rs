//! What a treatment's feeds and additives came to on each unit, and how much of them bought a gram
//! of what was gained.

use super::doses::of_unit;
use super::parts::Part;
use crate::stores::Stores;
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::Sheet;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// One feed, salt or additive of a treatment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Spent {
    /// What it is called.
    pub name: String,
    /// `mL` or `g`.
    pub unit: &'static str,
    /// On each unit over the trial, beyond what the control got of it.
    pub per_unit: f64,
    /// For one unit of what was gained; null where nothing was.
    pub per_effect: Option<f64>,
    /// What that costs; null without a price or a gain.
    pub cost_per_effect: Option<f64>,
}

/// What the amounts of a trial hang on.
#[derive(Debug, Clone, Copy)]
pub struct Bench<'a> {
    /// Stores.
    pub stores: &'a Stores,
    /// Solution of a unit.
    pub plan: &'a FeedPlan,
    /// Plants or places inside a unit.
    pub sites: u32,
    /// Feedings that were done.
    pub feedings: usize,
    /// Day of harvest.
    pub end_day: u32,
}

/// What a treatment got on each unit over so many feedings beyond its control, for what it gained
/// (in the measure's unit, better counted as more). What pours past the units is not counted.
///
/// ```
/// use iron_twin_core::trial::sheet::Sheet;
/// use iron_twin_core::trial::feed::FeedPlan;
/// use iron_twin_core::mix::spent::{Bench, spent};
/// use iron_twin_core::stores::Stores;
/// use iron_twin_terms::indices::TreatmentIndex;
/// let stores = Stores::with_own(Vec::new());
/// let bench = Bench { stores: &stores, plan: &FeedPlan::default(), sites: 1, feedings: 4, end_day: 12 };
/// let list = spent(&Sheet::usual(), (TreatmentIndex(1), TreatmentIndex(0)), &bench, Some(8.0));
/// // 4 mL/L of feed, 250 mL a tray, 4 times: 4 mL, half a mL for each gram.
/// assert_eq!((list[0].per_unit, list[0].per_effect), (4.0, Some(0.5)));
/// ```
#[must_use]
pub fn spent(
    sheet: &Sheet,
    (treatment, control): (TreatmentIndex, TreatmentIndex),
    bench: &Bench<'_>,
    gain: Option<f64>,
) -> Vec<Spent> {
    let gain = gain.filter(|g| *g > 0.0 && g.is_finite());
    let of_control = over_trial(sheet, control, bench);
    let own = over_trial(sheet, treatment, bench).into_iter();
    own.filter_map(|(part, amount)| {
        let taken: f64 = of_control
            .iter()
            .filter(|(p, _)| p.name == part.name)
            .map(|(_, amount)| amount)
            .sum();
        let per_unit = amount - taken;
        let price = part
            .price_per_l
            .map(|price| price / part.per_l.max(f64::MIN_POSITIVE));
        (per_unit > 0.0).then(|| Spent {
            unit: part.form.unit(),
            per_unit,
            per_effect: gain.map(|g| per_unit / g),
            cost_per_effect: gain.zip(price).map(|(g, price)| price * per_unit / g),
            name: part.name,
        })
    })
    .collect()
}

/// What one unit of a treatment gets over the trial, part by part; what was given without a measure
/// is left out.
fn over_trial(sheet: &Sheet, treatment: TreatmentIndex, bench: &Bench<'_>) -> Vec<(Part, f64)> {
    let mut list: Vec<(Part, f64)> = Vec::new();
    for application in sheet
        .get(treatment)
        .into_iter()
        .flat_map(|t| &t.applications)
    {
        let days = application.when.days(bench.end_day);
        let times = days.map_or(bench.feedings, |days| days.len()) as f64;
        for dose in of_unit(application, bench.stores, bench.plan, bench.sites) {
            let Some(amount) = dose.amount.map(|x| x * times) else {
                continue;
            };
            match list
                .iter_mut()
                .find(|(part, _)| part.name == dose.part.name)
            {
                Some((_, sum)) => *sum += amount,
                None => list.push((dose.part, amount)),
            }
        }
    }
    list
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::application::{Amount, Application, How, Role, When};

    #[test]
    fn what_the_control_got_as_well_is_not_counted() {
        let stores = Stores::with_own(Vec::new());
        let mut sheet = Sheet::usual();
        for t in 0..2 {
            sheet.treatments[t].give(Role::Feed, "grow feed", [0.5, 1.0][t]);
        }
        let plan = FeedPlan::default();
        let bench = Bench {
            stores: &stores,
            plan: &plan,
            sites: 1,
            feedings: 4,
            end_day: 12,
        };
        let list = spent(
            &sheet,
            (TreatmentIndex(1), TreatmentIndex(0)),
            &bench,
            Some(10.0),
        );
        assert_eq!(
            (
                list[0].per_unit,
                list[0].per_effect,
                list[0].cost_per_effect
            ),
            (2.0, Some(0.2), None)
        );
        for gain in [None, Some(0.0), Some(-3.0), Some(f64::NAN)] {
            assert_eq!(
                spent(&sheet, (TreatmentIndex(1), TreatmentIndex(0)), &bench, gain)[0].per_effect,
                None
            );
        }
        assert!(
            spent(
                &sheet,
                (TreatmentIndex(0), TreatmentIndex(1)),
                &bench,
                Some(1.0)
            )
            .is_empty(),
            "less than the control"
        );
        assert!(
            spent(
                &sheet,
                (TreatmentIndex(1), TreatmentIndex(0)),
                &Bench {
                    feedings: 0,
                    ..bench
                },
                Some(1.0)
            )
            .is_empty(),
            "never fed"
        );
        // Dipped once at planting, however often the trial is fed.
        let dip = Application::stirred(Role::Additive, "seaweed extract", 1.0);
        let dip = Application {
            how: How::Dipped,
            amount: Amount::Undiluted,
            ml_a_unit: Some(3.0),
            when: When::Planting,
            ..dip
        };
        sheet.treatments[1].applications.push(dip);
        let list = spent(&sheet, (TreatmentIndex(1), TreatmentIndex(0)), &bench, None);
        assert_eq!(
            (list[1].name.as_str(), list[1].per_unit),
            ("seaweed extract", 3.0)
        );
    }
}
