//! What fills the tank of one treatment: feeds and additives of the match sheet as their labels in
//! Stores give them, what the solution then holds, and whether that fits the crop and what the
//! meter says.

use super::doses::{in_tank, unsaid_in_tank};
use super::recipe::{Recipe, Solution};
use super::spoons::{Dosed, Measures, too_little};
use crate::mix::parts::Part;
use crate::stores::keys;
use crate::stores::{Item, Stores};
use crate::trial::feed::{FeedPlan, PhPlan};
use crate::trial::sheet::Sheet;
use iron_twin_chemistry::acid::{corrected, ph_dose};
use iron_twin_chemistry::water::SourceWater;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::quantity::OutOfRange;
use iron_twin_terms::severity::Severity;
use iron_twin_terms::severity::Warning;
use serde::Serialize;

/// What to measure out of one feed, salt or additive.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeasureOut {
    /// What it is called.
    pub name: String,
    /// `mL` or `g`.
    pub unit: &'static str,
    /// Share of the label dose, or of the recipe.
    pub fraction: f64,
    /// mL or g in a litre.
    pub per_litre: f64,
    /// mL or g in the tank.
    pub total: f64,
    /// In spoons, drops and on gallons; null for powders of unknown density, whose spoons have no
    /// fixed weight.
    pub measures: Option<Measures>,
    /// In the grower's own spoonfuls, where ten of them were weighed.
    pub own_spoons: Option<f64>,
    /// Whether the dose is that of a recipe, not of a label.
    pub of_recipe: bool,
    /// Whether Stores know its dose; else the one typed at Mix is taken.
    pub in_stores: bool,
    /// What so much of it costs, where Stores know its price.
    pub cost: Option<f64>,
}

/// An element's band about the target.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Band {
    /// Element.
    pub element: String,
    /// Target, mg/L.
    pub target_mg_per_l: f64,
    /// Lowest that counts as met, mg/L.
    pub least_mg_per_l: f64,
    /// Highest that counts as met, mg/L.
    pub most_mg_per_l: f64,
}

/// How far from its target an element may lie and count as met, as a share. Common practice, no
/// source.
pub const BAND: f64 = 0.2;

/// The bands about a target profile.
#[must_use]
pub fn bands(target: &std::collections::BTreeMap<String, f64>) -> Vec<Band> {
    let band = |(element, mg): (&String, &f64)| Band {
        element: element.clone(),
        target_mg_per_l: *mg,
        least_mg_per_l: mg * (1.0 - BAND),
        most_mg_per_l: mg * (1.0 + BAND),
    };
    target.iter().map(band).collect()
}

/// Acid or base for a tank.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ToPh {
    /// What is in the bottle.
    pub name: &'static str,
    /// Its strength, per cent by mass.
    pub percent: f64,
    /// mL of it in the tank.
    pub total_ml: f64,
    /// mL in a litre of the water.
    pub ml_per_l: f64,
    /// pH to which the water is brought.
    pub target_ph: f64,
}

impl ToPh {
    fn dosed(&self) -> Dosed<'_> {
        Dosed {
            name: self.name,
            unit: "mL",
            total: self.total_ml,
            soluble_g_per_l: None,
            own_spoons: None,
        }
    }
}

/// The tank of one treatment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Tank {
    /// Solution for all units at one feeding, spare included, litres.
    pub volume_l: f64,
    /// What brings the water to its pH, before anything else goes in; null where it is used as it
    /// comes, or cannot be brought there.
    pub to_ph: Option<ToPh>,
    /// What goes in, the feed first.
    pub measure_out: Vec<MeasureOut>,
    /// What the solution holds, water included; null where something in it is not known.
    pub solution: Option<Solution>,
    /// Names that Stores do not know, or whose composition the maker keeps to himself.
    pub unknown: Vec<String>,
    /// What the crop and the recipe say about it.
    pub warnings: Vec<Warning>,
    /// Cost of the tank, where every price is known.
    pub cost: Option<f64>,
    /// Elements in which it differs from the control's tank by more than a tenth; empty for the
    /// control's own.
    pub unlike: Vec<&'static str>,
    /// The recipe behind the solution.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub recipe: Recipe,
}

impl Tank {
    /// What a meter that corrects 2 % a degree shows of it, mS/cm; at 25 °C where no temperature is
    /// known. None where something in it is not known.
    #[must_use]
    pub fn ec_as_metered(&self, temperature_c: Option<f64>) -> Option<f64> {
        self.solution.as_ref()?;
        let recipe = Recipe {
            temperature_c: temperature_c.unwrap_or(25.0),
            ..self.recipe.clone()
        };
        Some(recipe.solution().ok()?.conductivity_ms_per_cm.as_metered)
    }

    /// What the feed adds of an element to the water, mg/L. None where something in it is not
    /// known.
    #[must_use]
    pub fn fed_mg_per_l(&self, element: &str) -> Option<f64> {
        let water = Recipe {
            ingredients: Vec::new(),
            ..self.recipe.clone()
        }
        .solution()
        .ok()?;
        Some(self.solution.as_ref()?.mg_per_l.get(element)? - water.mg_per_l.get(element)?)
    }
}

/// How far the meter may be from the computed EC before it is asked about, per cent.
pub const EC_GAP_PERCENT: f64 = 10.0;
/// Elements whose bars stand beside one another, and how much of each is no matter, mg/L.
const SIDE_BY_SIDE: [(&str, f64); 6] = [
    ("N", 3.0),
    ("P", 1.0),
    ("K", 4.0),
    ("Ca", 4.0),
    ("Mg", 2.0),
    ("S", 3.0),
];
/// Amounts closer than this ratio look alike.
const ALIKE: f64 = 1.1;

/// What is measured out of the parts, what they are, and the names of those of which nobody knows.
fn taken(
    parts: Vec<(Part, f64)>,
    volume_l: f64,
) -> (
    Vec<MeasureOut>,
    Vec<super::ingredient::Ingredient>,
    Vec<String>,
) {
    let (mut measure_out, mut ingredients, mut unknown) = (Vec::new(), Vec::new(), Vec::new());
    for (part, fraction) in parts {
        measure_out.push(measured(&part, fraction, volume_l));
        match part.thinned(fraction) {
            Ok(ingredient) => ingredients.push(ingredient),
            Err(name) => unknown.push(name),
        }
    }
    (measure_out, ingredients, unknown)
}

/// What fills the tank of a treatment that stands on `units` units at once.
///
/// # Errors
/// [`OutOfRange`], naming the number of the feed plan.
pub fn tank(
    sheet: &Sheet,
    treatment: TreatmentIndex,
    stores: &Stores,
    plan: &FeedPlan,
    crop: &str,
    units: usize,
) -> Result<Tank, OutOfRange> {
    plan.check()?;
    let volume_l = plan.ml_a_unit * units as f64 * (1.0 + 0.01 * plan.spare_percent) / 1000.0;
    let parts = in_tank(sheet, treatment, stores, plan);
    let water = sheet.value(treatment, "water").unwrap_or("");
    let water = water.trim().to_owned();
    let known = stores.find("waters", &water).and_then(Item::water);
    let (source, to_ph, refused) = at_ph(known, plan.ph, volume_l);
    let doses = parts
        .iter()
        .map(|(part, fraction)| part.dosed(part.per_l * fraction * volume_l));
    let small = too_little(to_ph.iter().map(ToPh::dosed).chain(doses));
    let (measure_out, ingredients, mut unknown) = taken(parts, volume_l);
    if source.is_none() && !water.is_empty() {
        unknown.push(water);
    }
    let unsaid = unsaid_in_tank(sheet, treatment, stores);
    unknown.extend(unsaid.iter().cloned());
    let volume = volume_l.max(super::ingredient::LEAST_VOLUME_L);
    let recipe = Recipe {
        volume_l: volume,
        water: source,
        ingredients,
        ..Recipe::default()
    };
    let known = unknown.is_empty().then(|| recipe.solution().ok());
    let solution = known.flatten();
    let salty = solution.as_ref().filter(|_| !measure_out.is_empty());
    let salty = salty.map(|s| s.conductivity_ms_per_cm.at_25c);
    let warnings = solution
        .iter()
        .flat_map(|s| s.warnings.iter().cloned())
        .chain(small)
        .chain(refused)
        .chain(unsaid.into_iter().map(dose_unknown))
        .chain(salty.and_then(|ec| crop_band(stores, crop, ec)))
        .collect();
    let cost = measure_out
        .iter()
        .try_fold(0.0, |sum, m| Some(sum + m.cost?));
    Ok(Tank {
        volume_l,
        to_ph,
        measure_out,
        solution,
        unknown,
        warnings,
        cost,
        unlike: Vec::new(),
        recipe,
    })
}

/// Something in the tank of which nobody knows how much.
fn dose_unknown(name: String) -> Warning {
    Warning {
        code: "dose_unknown",
        severity: Severity::Serious,
        message: format!(
            "{name} stands on no shelf of Stores, so nobody knows how much its label asks for: \
             add it there, or say at Match how much goes into a litre or a unit."
        ),
    }
}

/// The water at the pH that is planned for it, what brings it there, and why it stays as it comes
/// where it does.
fn at_ph(
    water: Option<SourceWater>,
    plan: Option<PhPlan>,
    volume_l: f64,
) -> (Option<SourceWater>, Option<ToPh>, Option<Warning>) {
    let (Some(water), Some(PhPlan { bottle, target_ph })) = (water.clone(), plan) else {
        return (water, None, None);
    };
    let dosed = ph_dose(&water, &bottle, target_ph)
        .and_then(|dose| Ok((corrected(&water, &bottle, &dose, target_ph)?, dose)));
    match dosed {
        Ok((after, dose)) => {
            let to_ph = ToPh {
                name: bottle.product.name(),
                percent: bottle.percent,
                total_ml: dose.ml_per_l * volume_l,
                ml_per_l: dose.ml_per_l,
                target_ph,
            };
            (Some(after), Some(to_ph), None)
        }
        Err(why) => {
            let message = format!("The water stays as it comes: {why}.");
            (
                Some(water),
                None,
                Some(Warning {
                    code: "ph_not_reached",
                    severity: Severity::Serious,
                    message,
                }),
            )
        }
    }
}

pub(super) fn measured(part: &Part, fraction: f64, volume_l: f64) -> MeasureOut {
    let per_litre = part.per_l * fraction;
    let total = per_litre * volume_l;
    MeasureOut {
        name: part.name.clone(),
        unit: part.form.unit(),
        fraction,
        per_litre,
        total,
        measures: part.measures(total, per_litre),
        own_spoons: part.own_spoons(total),
        of_recipe: part.of_recipe,
        in_stores: !part.shelf.is_empty(),
        cost: part.price_per_l.map(|price| price * fraction * volume_l),
    }
}

/// The tanks of all treatments, in the order of the sheet, with what differs from the control's.
///
/// # Errors
/// [`OutOfRange`], naming the number of the feed plan.
pub fn tanks(
    sheet: &Sheet,
    stores: &Stores,
    plan: &FeedPlan,
    crop: &str,
    units: &[usize],
) -> Result<Vec<Tank>, OutOfRange> {
    let all = sheet.indices();
    let mut tanks = all
        .map(|t| {
            tank(
                sheet,
                t,
                stores,
                plan,
                crop,
                t.of(units).copied().unwrap_or(0),
            )
        })
        .collect::<Result<Vec<_>, _>>()?;
    let control = sheet.control().and_then(|c| tanks[c].solution.clone());
    for tank in &mut tanks {
        if let (Some(control), Some(own)) = (&control, &tank.solution) {
            tank.unlike = unlike(own, control);
        }
    }
    Ok(tanks)
}

/// Elements in which two solutions differ so that a grower would see it.
fn unlike(one: &Solution, other: &Solution) -> Vec<&'static str> {
    let differs = |&(element, little): &(&str, f64)| {
        let (a, b) = (one.mg_per_l[element], other.mg_per_l[element]);
        (a - b).abs() >= little && a.max(b) > ALIKE * a.min(b)
    };
    SIDE_BY_SIDE
        .iter()
        .filter(|e| differs(e))
        .map(|(element, _)| *element)
        .collect()
}

/// The target profile that fits a crop by what it is grown as, and its name; None where Stores know
/// neither.
#[must_use]
pub fn usual_target<'a>(stores: &'a Stores, crop: &str) -> Option<&'a Item> {
    let name = match stores.find("crops", crop.trim())?.words(keys::GROWN_AS)? {
        "microgreen" | "sprout" => "microgreens",
        "leaf" => "leafy greens",
        "fruit" => "fruit crops",
        _ => "cuttings and herbs",
    };
    stores.find("targets", name)
}

/// Whether the strength fits the crop, where Stores know its band.
fn crop_band(stores: &Stores, crop: &str, ec: f64) -> Option<Warning> {
    let item = stores.find("crops", crop.trim())?;
    let (least, most) = (
        item.number(keys::EC_LEAST_MS_PER_CM)?,
        item.number(keys::EC_MOST_MS_PER_CM)?,
    );
    let (code, side) = match ec {
        ec if ec > most => ("ec_above_band", "above"),
        ec if ec < least => ("ec_below_band", "below"),
        _ => return None,
    };
    let message = format!(
        "EC {ec:.2} lies {side} the usual {least} to {most} mS/cm of {}.",
        item.name
    );
    Some(Warning {
        code,
        severity: Severity::Minor,
        message,
    })
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
        "EC {measured:.2} lies {:.0} % {side} the computed {computed:.2}. What is it: the scale \
         or spoon, the water, the probe, or the label? Enter it again to keep it.",
        gap.abs()
    ))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn sheet(feed: &str, dose: &str) -> Sheet {
        let mut sheet = Sheet::usual();
        sheet.treatments[1].cell("feed", feed);
        sheet.treatments[1].cell("dose", dose);
        sheet
            .treatments
            .iter_mut()
            .for_each(|t| t.set("water", "tap water"));
        sheet
    }

    fn fed(feed: &str, dose: &str) -> Tank {
        let stores = Stores::with_own(Vec::new());
        tank(
            &sheet(feed, dose),
            TreatmentIndex(1),
            &stores,
            &FeedPlan::default(),
            "lettuce",
            8,
        )
        .unwrap()
    }

    #[test]
    fn each_feed_goes_by_its_own_label() {
        let liquid = fed("grow feed", "0.5");
        // 8 units of 250 mL and a tenth spare are 2.2 L; half of 4 mL in a litre.
        assert!((liquid.volume_l - 2.2).abs() < 1e-12);
        assert!((liquid.measure_out[0].total - 4.4).abs() < 1e-12);
        assert_eq!(
            (liquid.measure_out[0].unit, liquid.measure_out[0].in_stores),
            ("mL", true)
        );
        let powder = fed("powder without calcium", "1");
        assert_eq!(powder.measure_out[0].unit, "g");
        assert!((powder.measure_out[0].per_litre - 0.6).abs() < 1e-12);
        assert_eq!(powder.measure_out[0].measures, None);
    }

    #[test]
    fn half_the_feed_is_half_of_what_it_adds_to_the_water() {
        let nitrogen = |tank: &Tank| tank.solution.as_ref().unwrap().nutrients.nitrogen();
        let stores = Stores::with_own(Vec::new());
        let water = tank(
            &sheet("grow feed", "1"),
            TreatmentIndex(0),
            &stores,
            &FeedPlan::default(),
            "",
            8,
        )
        .unwrap();
        let (half, full) = (fed("grow feed", "0.5"), fed("grow feed", "1"));
        let (own, half, full) = (nitrogen(&water), nitrogen(&half), nitrogen(&full));
        assert!((full - own - 2.0 * (half - own)).abs() < 1e-9);
        // 4 mL of 1.12 kg/L with 3 % N: 134.4 mg/L on top of the water's nitrate.
        assert!((full - own - 134.4).abs() < 1e-6, "{}", full - own);
        assert!((fed("grow feed", "1").fed_mg_per_l("N").unwrap() - 134.4).abs() < 1e-6);
        assert_eq!(fed("neighbour's brew", "1").fed_mg_per_l("N"), None);
    }

    /// Nitric acid to pH 5.8 in tap water: its nitrogen is in the tank, also in that of the
    /// control, and nothing is called different for it.
    #[test]
    fn acid_is_counted_in_every_tank() {
        use iron_twin_chemistry::acid::{Bottle, PhProduct};
        let bottle = Bottle {
            product: PhProduct::Nitric,
            percent: 38.0,
            density_kg_per_l: 1.23,
        };
        let stores = Stores::with_own(Vec::new());
        let with = |ph| {
            let plan = FeedPlan {
                ph,
                ..FeedPlan::default()
            };
            tanks(&sheet("grow feed", "1"), &stores, &plan, "lettuce", &[8, 8]).unwrap()
        };
        let (plain, acid) = (
            with(None),
            with(Some(PhPlan {
                bottle,
                target_ph: 5.8,
            })),
        );
        let n = |t: &Tank| t.solution.as_ref().unwrap().mg_per_l["N"];
        for (before, after) in plain.iter().zip(&acid) {
            let to_ph = after.to_ph.as_ref().unwrap();
            // 38 % of 1.23 kg/L; 63.012 g of the acid hold 14.007 g of nitrogen.
            let brought = to_ph.ml_per_l * 1230.0 * 0.38 * 14.007 / 63.012;
            assert!(
                (n(after) - n(before) - brought).abs() < 1e-3,
                "{} {} {brought}",
                n(after),
                n(before)
            );
            assert!((to_ph.total_ml - to_ph.ml_per_l * after.volume_l).abs() < 1e-12);
            assert_eq!(after.unlike, before.unlike);
            assert_eq!(after.measure_out, before.measure_out);
            // Where something is fed the meter still tells its strength.
            let ec = after
                .solution
                .as_ref()
                .unwrap()
                .conductivity_ms_per_cm
                .at_25c;
            let share = super::super::top_up::strength_at(&after.recipe, ec);
            assert!(
                share.is_none_or(|s| (s - 1.0).abs() < 1e-6)
                    && share.is_some() != after.measure_out.is_empty()
            );
        }
        // A target above the water's own pH takes a base.
        let wrong = &with(Some(PhPlan {
            bottle,
            target_ph: 8.4,
        }))[0];
        assert!(
            wrong.to_ph.is_none() && wrong.warnings.iter().any(|w| w.code == "ph_not_reached"),
            "{:?}",
            wrong.warnings
        );
        assert_eq!(n(wrong), n(&plain[0]));
    }

    #[test]
    fn what_is_not_known_is_said_and_measured_by_the_typed_dose() {
        let secret = fed("neighbour's brew", "1");
        assert_eq!(
            (secret.unknown.clone(), secret.solution.is_none()),
            (vec!["neighbour's brew".to_owned()], true)
        );
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
    fn a_meter_in_the_cold_shows_a_little_less_than_at_25() {
        let tank = fed("grow feed", "1");
        let (warm, cold) = (
            tank.ec_as_metered(None).unwrap(),
            tank.ec_as_metered(Some(10.0)).unwrap(),
        );
        assert!(
            (warm
                - tank
                    .solution
                    .as_ref()
                    .unwrap()
                    .conductivity_ms_per_cm
                    .at_25c)
                .abs()
                < 1e-12
        );
        assert!((0.9..1.05).contains(&(cold / warm)), "{cold} {warm}");
        assert_eq!(fed("neighbour's brew", "1").ec_as_metered(None), None);
    }

    #[test]
    fn the_meter_is_asked_about_beyond_a_tenth() {
        assert_eq!(ec_question(1.77, 1.62), None);
        assert!(ec_question(1.80, 1.62).unwrap().contains("above"));
        assert_eq!(
            ec_question(0.08, 0.02),
            None,
            "distilled water is no finding"
        );
        assert_eq!(ec_question(f64::NAN, 1.0), None);
        assert_eq!(ec_question(1.0, 0.0), None);
    }
}
