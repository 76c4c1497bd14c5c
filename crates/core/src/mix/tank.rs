//! What fills the tank of one treatment: feeds and additives of the match sheet as their labels in Stores give them, what
//! the solution then holds, and whether that fits the crop and what the meter says.

use super::recipe::{Ingredient, MixWarning, Recipe, Solution};
use super::{FeedForm, FeedPlan, MixError};
use crate::judge::warnings::Severity;
use crate::match_sheet::Sheet;
use crate::match_sheet::conditions::feed::is_none;
use crate::quantity::{LITRES_PER_US_GALLON, ML_PER_US_TEASPOON};
use crate::stores::{Item, Stores};
use serde::Serialize;

/// What to measure out of one feed or additive.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeasureOut {
    /// What it is called.
    pub name: String,
    /// `mL` or `g`.
    pub unit: &'static str,
    /// Share of the label dose.
    pub fraction: f64,
    /// mL or g in a litre.
    pub per_litre: f64,
    /// mL or g in the tank.
    pub total: f64,
    /// US teaspoons in a US gallon; liquids only, since a spoon of powder has no fixed weight.
    pub teaspoons_per_us_gallon: Option<f64>,
    /// Whether Stores know its label; else the dose typed at Mix is taken.
    pub in_stores: bool,
}

/// The tank of one treatment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tank {
    /// Solution for all units at one feeding, spare included, litres.
    pub volume_l: f64,
    /// What goes in, the feed first.
    pub measure_out: Vec<MeasureOut>,
    /// What the solution holds, water included; null where something in it is not known.
    pub solution: Option<Solution>,
    /// Names that Stores do not know, or whose composition the maker keeps to himself.
    pub unknown: Vec<String>,
    /// What the crop and the recipe say about it.
    pub warnings: Vec<MixWarning>,
}

/// A dose smaller than this cannot be measured with kitchen means, mL or g. Common practice, no source.
const LITTLE: f64 = 0.5;
/// How far the meter may be from the computed EC before it is asked about, per cent.
pub const EC_GAP_PERCENT: f64 = 10.0;

fn dose_of(sheet: &Sheet, treatment: usize, key: &str) -> f64 {
    sheet.value(treatment, key).and_then(|v| v.trim().parse().ok()).unwrap_or(1.0)
}

fn unit(form: FeedForm) -> &'static str {
    if form == FeedForm::Liquid { "mL" } else { "g" }
}

/// The label dose of a feed or additive: from Stores, else the one typed at Mix, which is for feeds.
fn label_dose(item: Option<&Item>, plan: &FeedPlan) -> (FeedForm, f64, bool) {
    let own = item.and_then(|item| {
        let form = if item.words("form") == Some("powder") { FeedForm::Powder } else { FeedForm::Liquid };
        item.number("dose_per_l").map(|dose| (form, dose, true))
    });
    own.unwrap_or((plan.form, plan.label_per_litre, false))
}

/// What fills the tank of a treatment that stands on `units` units at once.
///
/// # Errors
/// [`MixError::OutOfRange`], naming the number of the feed plan.
pub fn tank(
    sheet: &Sheet,
    treatment: usize,
    stores: &Stores,
    plan: &FeedPlan,
    crop: &str,
    units: usize,
) -> Result<Tank, MixError> {
    plan.check()?;
    let cell = |key: &str| sheet.value(treatment, key).unwrap_or("").trim().to_owned();
    let volume_l = plan.ml_a_unit * units as f64 * (1.0 + 0.01 * plan.spare_percent) / 1000.0;
    let (mut measure_out, mut ingredients, mut unknown) = (Vec::new(), Vec::new(), Vec::new());
    for (shelf, key, dose_key) in [("feeds", "feed", "dose"), ("additives", "additive", "additive_dose")] {
        let (name, fraction) = (cell(key), dose_of(sheet, treatment, dose_key));
        if is_none(&name) || fraction == 0.0 {
            continue;
        }
        let item = stores.find(shelf, &name);
        let (form, dose, in_stores) = label_dose(item, plan);
        let per_litre = dose * fraction;
        measure_out.push(MeasureOut {
            unit: unit(form),
            fraction,
            per_litre,
            total: per_litre * volume_l,
            teaspoons_per_us_gallon: (form == FeedForm::Liquid)
                .then_some(per_litre * LITRES_PER_US_GALLON / ML_PER_US_TEASPOON),
            in_stores,
            name: name.clone(),
        });
        match item.and_then(|i| Some((i.label()?, i.label_g_per_l()?))) {
            Some((label, grams)) => ingredients.push(Ingredient {
                label: Some(label),
                g_per_l: Some(grams * fraction),
                ..Ingredient::default()
            }),
            None => unknown.push(name),
        }
    }
    let water = cell("water");
    let source = stores.find("waters", &water).and_then(Item::water);
    if source.is_none() && !water.is_empty() {
        unknown.push(water);
    }
    let recipe = Recipe {
        volume_l: volume_l.max(super::recipe::LEAST_VOLUME_L),
        temperature_c: 25.0,
        water: source,
        ingredients,
    };
    let solution = if unknown.is_empty() { recipe.solution().ok() } else { None };
    let mut warnings = solution.as_ref().map_or_else(Vec::new, |s| s.warnings.clone());
    warnings.extend(small_doses(&measure_out));
    if let (Some(solution), false) = (&solution, measure_out.is_empty()) {
        warnings.extend(crop_band(stores, crop, solution.conductivity_ms_per_cm.at_25c));
    }
    Ok(Tank { volume_l, measure_out, solution, unknown, warnings })
}

/// Doses too small for the spoon.
fn small_doses(measure_out: &[MeasureOut]) -> impl Iterator<Item = MixWarning> + '_ {
    measure_out.iter().filter(|m| m.total > 0.0 && m.total < LITTLE).map(|m| MixWarning {
        code: "dose_too_small",
        severity: Severity::Minor,
        message: format!(
            "{:.2} {} of {} is too little to measure well: weigh ten such doses and take the tenth, or dilute it tenfold first and rinse the measure into the tank.",
            m.total, m.unit, m.name
        ),
    })
}

/// Whether the strength fits the crop, where Stores know its band.
fn crop_band(stores: &Stores, crop: &str, ec: f64) -> Option<MixWarning> {
    let item = stores.find("crops", crop.trim())?;
    let (least, most) = (item.number("ec_least_ms_per_cm")?, item.number("ec_most_ms_per_cm")?);
    let (code, side) = match ec {
        ec if ec > most => ("ec_above_band", "above"),
        ec if ec < least => ("ec_below_band", "below"),
        _ => return None,
    };
    let message = format!("EC {ec:.2} lies {side} the usual {least} to {most} mS/cm of {}.", item.name);
    Some(MixWarning { code, severity: Severity::Minor, message })
}

/// What to ask where the meter and the computation part by more than [`EC_GAP_PERCENT`].
///
/// ```
/// use iron_twin_core::mix::tank::ec_question;
/// assert_eq!(ec_question(1.55, 1.62), None);
/// assert!(ec_question(1.2, 1.62).unwrap().contains("26 % below"));
/// ```
#[must_use]
pub fn ec_question(measured: f64, computed: f64) -> Option<String> {
    if !(measured.is_finite() && computed > 0.0) {
        return None;
    }
    let gap = 100.0 * (measured - computed) / computed;
    // Next to nothing is dissolved: any meter's last digit is more than a tenth of it.
    if gap.abs() <= EC_GAP_PERCENT || (measured - computed).abs() < 0.1 {
        return None;
    }
    let side = if gap > 0.0 { "above" } else { "below" };
    Some(format!(
        "EC {measured:.2} lies {:.0} % {side} the computed {computed:.2}. What is it: the scale or spoon, the water, the probe, or the label? Enter it again to keep it.",
        gap.abs()
    ))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sheet(feed: &str, dose: &str) -> Sheet {
        let mut sheet = Sheet::usual();
        let row = |key: &str| sheet.conditions.iter().position(|c| c == key).unwrap();
        let (feed_row, dose_row, water) = (row("feed"), row("dose"), row("water"));
        sheet.treatments[1].values[feed_row] = feed.into();
        sheet.treatments[1].values[dose_row] = dose.into();
        sheet.treatments.iter_mut().for_each(|t| t.values[water] = "tap water".into());
        sheet
    }

    fn fed(feed: &str, dose: &str) -> Tank {
        let stores = Stores::with_own(Vec::new());
        tank(&sheet(feed, dose), 1, &stores, &FeedPlan::default(), "lettuce", 8).unwrap()
    }

    #[test]
    fn each_feed_goes_by_its_own_label() {
        let liquid = fed("grow feed", "0.5");
        // 8 units of 250 mL and a tenth spare are 2.2 L; half of 4 mL in a litre.
        assert!((liquid.volume_l - 2.2).abs() < 1e-12);
        assert!((liquid.measure_out[0].total - 4.4).abs() < 1e-12);
        assert_eq!((liquid.measure_out[0].unit, liquid.measure_out[0].in_stores), ("mL", true));
        let powder = fed("powder without calcium", "1");
        assert_eq!(powder.measure_out[0].unit, "g");
        assert!((powder.measure_out[0].per_litre - 0.6).abs() < 1e-12);
        assert_eq!(powder.measure_out[0].teaspoons_per_us_gallon, None);
    }

    #[test]
    fn half_the_feed_is_half_of_what_it_adds_to_the_water() {
        let nitrogen = |tank: &Tank| tank.solution.as_ref().unwrap().nutrients.nitrogen();
        let stores = Stores::with_own(Vec::new());
        let water = tank(&sheet("grow feed", "1"), 0, &stores, &FeedPlan::default(), "", 8).unwrap();
        let (half, full) = (fed("grow feed", "0.5"), fed("grow feed", "1"));
        let (own, half, full) = (nitrogen(&water), nitrogen(&half), nitrogen(&full));
        assert!((full - own - 2.0 * (half - own)).abs() < 1e-9);
        // 4 mL of 1.12 kg/L with 3 % N: 134.4 mg/L on top of the water's nitrate.
        assert!((full - own - 134.4).abs() < 1e-6, "{}", full - own);
    }

    #[test]
    fn what_is_not_known_is_said_and_measured_by_the_typed_dose() {
        let secret = fed("neighbour's brew", "1");
        assert_eq!((secret.unknown.clone(), secret.solution.is_none()), (vec!["neighbour's brew".to_owned()], true));
        assert!(!secret.measure_out[0].in_stores);
        assert!((secret.measure_out[0].per_litre - 4.0).abs() < 1e-12);
    }

    #[test]
    fn strength_is_held_against_the_crop_and_small_doses_against_the_spoon() {
        let codes = |tank: &Tank| tank.warnings.iter().map(|w| w.code).collect::<Vec<_>>();
        assert!(codes(&fed("grow feed", "3")).contains(&"ec_above_band"));
        assert!(codes(&fed("grow feed", "0.1")).contains(&"ec_below_band"));
        assert!(codes(&fed("powder without calcium", "0.2")).contains(&"dose_too_small"));
        assert!(!codes(&fed("grow feed", "0.5")).contains(&"dose_too_small"));
    }

    #[test]
    fn the_meter_is_asked_about_beyond_a_tenth() {
        assert_eq!(ec_question(1.77, 1.62), None);
        assert!(ec_question(1.80, 1.62).unwrap().contains("above"));
        assert_eq!(ec_question(0.08, 0.02), None, "distilled water is no finding");
        assert_eq!(ec_question(f64::NAN, 1.0), None);
        assert_eq!(ec_question(1.0, 0.0), None);
    }
}
