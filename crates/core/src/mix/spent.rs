//! What a treatment's feeds and additives came to on each unit, and how much of them bought a gram of what was gained.

use super::tank::given;
use crate::stores::Stores;
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::Sheet;
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

/// What a treatment got on each unit over so many feedings beyond its control, for what it gained (in the measure's unit,
/// better counted as more). What pours past the units is not counted.
///
/// ```
/// use iron_twin_core::trial::sheet::Sheet;
/// use iron_twin_core::trial::feed::FeedPlan;
/// use iron_twin_core::mix::spent::spent;
/// use iron_twin_core::stores::Stores;
/// let stores = Stores::with_own(Vec::new());
/// let list = spent(&Sheet::usual(), (1, 0), &stores, &FeedPlan::default(), (4, 4), Some(8.0));
/// // 4 mL/L of feed, 250 mL a tray, 4 times: 4 mL, half a mL for each gram.
/// assert_eq!((list[0].per_unit, list[0].per_effect), (4.0, Some(0.5)));
/// ```
#[must_use]
pub fn spent(
    sheet: &Sheet,
    (treatment, control): (usize, usize),
    stores: &Stores,
    plan: &FeedPlan,
    (feedings, control_feedings): (usize, usize),
    gain: Option<f64>,
) -> Vec<Spent> {
    let litres = |feedings: usize| plan.ml_a_unit / 1000.0 * feedings as f64;
    let of_control = given(sheet, control, stores, plan);
    let gain = gain.filter(|g| *g > 0.0 && g.is_finite());
    let own = given(sheet, treatment, stores, plan).into_iter();
    own.filter_map(|(part, fraction)| {
        let there = of_control.iter().find(|(p, _)| p.name == part.name);
        let taken = there.map_or(0.0, |(p, f)| p.per_l * f * litres(control_feedings));
        let per_unit = part.per_l * fraction * litres(feedings) - taken;
        let price = part.price_per_l.map(|price| price / part.per_l.max(f64::MIN_POSITIVE));
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

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_the_control_got_as_well_is_not_counted() {
        let stores = Stores::with_own(Vec::new());
        let mut sheet = Sheet::usual();
        for t in 0..2 {
            sheet.treatments[t].set("feed", "grow feed");
            sheet.treatments[t].set("dose", ["0.5", "1"][t]);
        }
        let plan = FeedPlan::default();
        let list = spent(&sheet, (1, 0), &stores, &plan, (4, 4), Some(10.0));
        assert_eq!((list[0].per_unit, list[0].per_effect, list[0].cost_per_effect), (2.0, Some(0.2), None));
        for gain in [None, Some(0.0), Some(-3.0), Some(f64::NAN)] {
            assert_eq!(spent(&sheet, (1, 0), &stores, &plan, (4, 4), gain)[0].per_effect, None);
        }
        assert!(spent(&sheet, (0, 1), &stores, &plan, (4, 4), Some(1.0)).is_empty(), "less than the control");
        assert!(spent(&sheet, (1, 0), &stores, &plan, (0, 0), Some(1.0)).is_empty(), "never fed");
    }
}
