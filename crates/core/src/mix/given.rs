//! What a treatment gets: its solution, its medium and light, of what is known.

use super::doses::solution_parts;
use super::ingredient::Ingredient;
use super::parts::Part;
use super::recipe::{Recipe, Solution};
use crate::place::light::daily_light;
use crate::stores::{Item, Stores, keys};
use crate::trial::application::{Role, is_none};
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::Sheet;
use iron_twin_chemistry::nutrients::Nutrient;
use iron_twin_chemistry::water::SourceWater;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// What one treatment gets, as far as Stores know it.
#[derive(Debug, Clone, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Given {
    /// Whether anything goes into the water, or feed is given beside it: a powder that is dipped or
    /// dusted feeds nobody.
    pub fed: bool,
    /// Nitrogen in the solution, mg/L, of what is known; null where the feed is not. An additive
    /// whose maker says nothing may bring more.
    pub n_mg_per_l: Option<f64>,
    /// Phosphorus, mg/L.
    pub p_mg_per_l: Option<f64>,
    /// Potassium, mg/L.
    pub k_mg_per_l: Option<f64>,
    /// Calcium, mg/L.
    pub ca_mg_per_l: Option<f64>,
    /// Magnesium, mg/L.
    pub mg_mg_per_l: Option<f64>,
    /// Share of the nitrogen that is urea, 0 to 1.
    pub urea_share: Option<f64>,
    /// Conductivity of the solution at 25 °C, mS/cm.
    pub ec_ms_per_cm: Option<f64>,
    /// Price of a litre of solution, from the prices in Stores.
    pub price_per_l: Option<f64>,
    /// Whether the medium brings fertiliser of its own: yes, no, unknown; null where the medium is
    /// not in Stores.
    pub medium_charged: Option<String>,
    /// Light on the leaves, µmol/m²/s.
    pub ppfd_umol_per_m2_s: Option<f64>,
    /// Light of a day, mol/m².
    pub daily_light_mol_per_m2: Option<f64>,
    /// Names that Stores do not know, or whose composition the maker keeps to himself.
    pub unknown: Vec<String>,
    /// Whether something unknown is stirred in beside a known feed: what it brings stands in no
    /// figure.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub additive_unknown: bool,
    /// Those of them that are given beside the tank, while it is filled.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    unknown_beside: Vec<String>,
}

impl Given {
    /// Takes what a solution holds. Unknown is unknown for what it touches: a water for what
    /// hardness and salt it has, an additive for strength.
    fn hold(&mut self, solution: &Solution, price: Option<f64>, water_unknown: bool) {
        let mg = |n| Some(solution.nutrients.get(n));
        let n = solution.nutrients.nitrogen();
        self.n_mg_per_l = Some(n);
        self.p_mg_per_l = mg(Nutrient::P);
        self.k_mg_per_l = mg(Nutrient::K);
        self.ca_mg_per_l = mg(Nutrient::Ca).filter(|_| !water_unknown);
        self.mg_mg_per_l = mg(Nutrient::Mg).filter(|_| !water_unknown);
        self.urea_share = Some(if n > 0.0 {
            solution.nutrients.get(Nutrient::NUrea) / n
        } else {
            0.0
        });
        let strength = Some(solution.conductivity_ms_per_cm.at_25c);
        self.ec_ms_per_cm = strength.filter(|_| !water_unknown && !self.additive_unknown);
        self.price_per_l = price;
    }
}

/// The ingredients that the parts of a feed make at their shares of the label dose, with their
/// price; None where one is not known.
pub(super) fn ingredients(parts: Vec<(Part, f64)>) -> Option<(Vec<Ingredient>, Option<f64>)> {
    let price = parts.iter().try_fold(0.0, |sum, (part, share)| {
        Some(sum + share * part.price_per_l?)
    });
    let dosed = |(part, share): (Part, f64)| {
        let own = part.ingredient?;
        Some(Ingredient {
            g_per_l: own.g_per_l.map(|g| g * share),
            ..own
        })
    };
    Some((parts.into_iter().map(dosed).collect::<Option<_>>()?, price))
}

/// What a treatment gets.
pub(super) fn given(
    sheet: &Sheet,
    treatment: TreatmentIndex,
    stores: &Stores,
    plan: &FeedPlan,
) -> Given {
    let mut given = Given::default();
    let mut all = Vec::new();
    let mut price = Some(0.0);
    let (mut fed_beside, mut feed_unknown) = (false, false);
    let all_of_it = sheet.treatments[treatment].applications.iter();
    for application in all_of_it.filter(|a| !a.is_nothing()) {
        given.fed |= application.how.in_tank() || application.role == Role::Feed;
        let known = stores
            .parts(application.role.shelf(), application.what.trim())
            .is_some();
        if !application.how.in_tank() {
            // What is given beside the tank does not change what is in it. Feed given so leaves
            // open what plants get.
            fed_beside |= application.role == Role::Feed;
            let what = application.what.trim();
            given
                .unknown_beside
                .extend((!known).then(|| what.to_owned()));
            continue;
        }
        match ingredients(solution_parts(application, stores, plan, plan.ml_a_unit))
            .filter(|_| known)
        {
            Some((own, cost)) => {
                all.extend(own);
                price = price.zip(cost).map(|(a, b)| a + b);
            }
            None => {
                given.unknown.push(application.what.trim().to_owned());
                feed_unknown |= application.role == Role::Feed;
                given.additive_unknown |= application.role == Role::Additive;
            }
        }
    }
    // Unknown is unknown for what it touches: a water for what hardness and salt it has, an
    // additive for strength and price.
    let (water, water_unknown) = water_of(sheet, treatment, stores, &mut given);
    if !feed_unknown && !fed_beside {
        let recipe = Recipe {
            water,
            ingredients: all,
            ..Recipe::default()
        };
        if let Ok(solution) = recipe.solution() {
            let price = price.filter(|_| !given.additive_unknown);
            given.hold(&solution, price, water_unknown);
        }
    }
    given.unknown.append(&mut given.unknown_beside);
    set_up(sheet, treatment, stores, &mut given);
    given
}

/// The water a treatment stands on, and whether it is one that Stores does not know.
fn water_of(
    sheet: &Sheet,
    treatment: TreatmentIndex,
    stores: &Stores,
    given: &mut Given,
) -> (Option<SourceWater>, bool) {
    let name = sheet.value(treatment, "water").unwrap_or("").trim();
    let water = stores.find("waters", name).and_then(Item::water);
    let unknown = water.is_none() && !is_none(name);
    if unknown {
        given.unknown.push(name.to_owned());
    }
    (water, unknown)
}

/// What medium and lamp bring.
fn set_up(sheet: &Sheet, treatment: TreatmentIndex, stores: &Stores, given: &mut Given) {
    let cell = |key: &str| sheet.value(treatment, key).unwrap_or("").trim().to_owned();
    let medium = cell("medium");
    match stores.find("media", &medium) {
        Some(item) => given.medium_charged = item.words(keys::CHARGED).map(str::to_owned),
        None if !is_none(&medium) => given.unknown.push(medium),
        None => {}
    }
    let lamp = cell("light");
    if let Some(item) = stores.find("lights", &lamp) {
        given.ppfd_umol_per_m2_s = item.number(keys::PPFD_UMOL_PER_M2_S);
        let hours = cell("light_hours").parse::<f64>().ok();
        given.daily_light_mol_per_m2 = given
            .ppfd_umol_per_m2_s
            .zip(hours)
            .map(|(ppfd, h)| daily_light(ppfd, h));
    } else if !lamp.is_empty() {
        given.unknown.push(lamp);
    }
}
