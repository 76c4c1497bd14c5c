//! Aiming for a target: doses of chosen salts and feeds that come closest to a profile, none below
//! zero or above its largest dose; and what cannot be reached, and why.
//!
//! Least squares over the elements of the target, each weighed by its target so that a tenth of
//! iron counts as a tenth of nitrogen. With bounds on every dose the sum is convex, and going from
//! dose to dose, each time to the best for that one (coordinate descent), comes to its only lowest
//! value.

use super::ingredient::{Ingredient, RecipeError, Slip};
use super::recipe::Recipe;
use iron_twin_chemistry::nutrients::{Nutrient, Nutrients};
use iron_twin_chemistry::water::SourceWater;
use serde::Serialize;
use std::collections::BTreeMap;

/// An element of the target.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reached {
    /// Element, or form of nitrogen.
    pub element: String,
    /// Wanted, mg/L.
    pub wanted_mg_per_l: f64,
    /// Reached, mg/L, water included.
    pub reached_mg_per_l: f64,
    /// Why it is missed by more than a twentieth; null where it is not.
    pub why_missed: Option<String>,
}

/// Doses that come closest.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Aim {
    /// g in a litre of each choice, in their order.
    pub g_per_l: Vec<f64>,
    /// Each element of the target.
    pub reached: Vec<Reached>,
    /// Rounds that the search took.
    pub rounds: usize,
}

/// Why there is no aim.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum AimError {
    /// An element that is none, or an amount that cannot be.
    #[error(
        "target: {element} {got} mg/L cannot be aimed for; name N, N_nitrate, N_ammonium, P, K, \
         Ca, Mg, S or a micronutrient, with an amount from 0 to {MOST_MG_PER_L}"
    )]
    Target {
        /// Element as written.
        element: String,
        /// Amount, mg/L.
        got: f64,
    },
    /// Nothing to aim for, or nothing to aim with.
    #[error("give at least one element to aim for and one salt or feed to use")]
    Nothing,
    /// An ingredient that cannot be.
    #[error(transparent)]
    Recipe(#[from] RecipeError),
    /// The search did not come to rest.
    #[error(
        "the search did not come to rest in {MOST_ROUNDS} rounds; leave out one of the feeds that \
         are nearly alike"
    )]
    Restless,
}

/// Largest amount aimed for, mg/L.
pub const MOST_MG_PER_L: f64 = 5000.0;
/// Rounds over all doses before the search is given up.
const MOST_ROUNDS: usize = 200_000;
/// A miss beyond this share of the target is said.
const MISS: f64 = 0.05;
/// What brings an element for less than this share of what it brings most, each against its target,
/// is no source of it.
const POOR: f64 = 0.02;
/// As much as still counts as none, where none is wanted, mg/L.
const NONE_MG_PER_L: f64 = 0.05;

fn amount(element: &str, nutrients: &Nutrients) -> Option<f64> {
    if element == "N" {
        return Some(nutrients.nitrogen());
    }
    Nutrient::ALL
        .into_iter()
        .find(|n| n.key() == element)
        .map(|n| nutrients.get(n))
}

/// Nutrients of a recipe with the given doses, mg/L.
fn nutrients(
    water: Option<&SourceWater>,
    ingredients: Vec<Ingredient>,
) -> Result<Nutrients, RecipeError> {
    let recipe = Recipe {
        water: water.cloned(),
        ingredients,
        ..Recipe::default()
    };
    Ok(recipe.solution()?.nutrients)
}

/// The choice at a dose, whatever dose came with it.
pub(super) fn dosed(choice: &Ingredient, g_per_l: f64) -> Ingredient {
    Ingredient {
        g_per_l: Some(g_per_l),
        mmol_per_l: None,
        g: None,
        ml_per_l: None,
        tsp_per_us_gal: None,
        ..choice.clone()
    }
}

impl Recipe {
    /// The recipe with the doses that come closest to its own target, and how close; as it is where
    /// it has none.
    ///
    /// # Errors
    /// [`AimError`], naming the element or the ingredient.
    pub fn aimed(&self) -> Result<(Self, Option<Aim>), AimError> {
        let Some(target) = &self.target else {
            return Ok((self.clone(), None));
        };
        if let Some((index, dosed)) = self
            .ingredients
            .iter()
            .enumerate()
            .find(|(_, i)| i.is_dosed())
        {
            let ingredient = Some(format!("ingredient {} ({})", index + 1, dosed.name()));
            return Err(RecipeError {
                ingredient,
                index: Some(index),
                field: "dose".into(),
                slip: Slip::Aimed,
            }
            .into());
        }
        let found = aim(self.water.as_ref(), &self.ingredients, target)?;
        let ingredients = self
            .ingredients
            .iter()
            .zip(&found.g_per_l)
            .map(|(i, g)| dosed(i, *g))
            .collect();
        Ok((
            Self {
                ingredients,
                ..self.clone()
            },
            Some(found),
        ))
    }
}

/// Doses that come closest to a target, mg/L by element (`N` for all nitrogen, `N_nitrate` and the
/// like for its forms).
///
/// # Errors
/// [`AimError`], naming the element or the ingredient.
///
/// ```
/// use iron_twin_core::mix::aim::aim;
/// use iron_twin_core::mix::ingredient::Ingredient;
/// let salt = |f: &str| Ingredient { formula: Some(f.into()), ..Ingredient::default() };
/// let target = [("K".to_owned(), 195.5), ("N".to_owned(), 70.0)].into();
/// let found = aim(None, &[salt("KNO3")], &target)?;
/// // 5 mmol/L of potassium nitrate.
/// assert!((found.g_per_l[0] - 0.5055).abs() < 1e-3);
/// # Ok::<(), iron_twin_core::mix::aim::AimError>(())
/// ```
pub fn aim(
    water: Option<&SourceWater>,
    choices: &[Ingredient],
    target: &BTreeMap<String, f64>,
) -> Result<Aim, AimError> {
    if choices.is_empty() || target.is_empty() {
        return Err(AimError::Nothing);
    }
    for (element, &got) in target {
        if amount(element, &Nutrients::default()).is_none() || !(0.0..=MOST_MG_PER_L).contains(&got)
        {
            return Err(AimError::Target {
                element: element.clone(),
                got,
            });
        }
    }
    let ground = nutrients(water, Vec::new())?;
    let brings = brings_of(choices, target)?;
    let wanted: Vec<f64> = target.values().copied().collect();
    // An element aimed at 0 weighs as much as a tenth of the largest.
    let floor = 0.1 * wanted.iter().copied().fold(1.0, f64::max);
    let weight: Vec<f64> = wanted
        .iter()
        .map(|w| if *w > 0.0 { 1.0 / w } else { 1.0 / floor })
        .collect();
    let mut left: Vec<f64> = target
        .iter()
        .zip(&weight)
        .map(|((e, w), weight)| weight * (w - amount(e, &ground).unwrap_or(0.0)))
        .collect();
    let columns: Vec<Vec<f64>> = brings
        .iter()
        .map(|column| column.iter().zip(&weight).map(|(b, w)| b * w).collect())
        .collect();
    let (doses, rounds) = settled(&columns, choices, &mut left)?;
    let reached = told(target, &ground, choices, &brings, &doses, &weight);
    Ok(Aim {
        g_per_l: doses,
        reached,
        rounds,
    })
}

/// Column by column: what a gram in a litre brings, mg of each element of the target.
fn brings_of(
    choices: &[Ingredient],
    target: &BTreeMap<String, f64>,
) -> Result<Vec<Vec<f64>>, AimError> {
    let mut brings: Vec<Vec<f64>> = Vec::with_capacity(choices.len());
    for (index, choice) in choices.iter().enumerate() {
        let most = choice.most_g_per_l.unwrap_or(0.0);
        if !(most >= 0.0 && most.is_finite()) {
            let name = format!("ingredient {} ({})", index + 1, choice.name());
            let slip = Slip::Range {
                least: 0.0,
                most: super::ingredient::MOST_G_PER_L,
                got: most,
            };
            let field = "most_g_per_l".to_owned();
            return Err(RecipeError {
                ingredient: Some(name),
                index: Some(index),
                field,
                slip,
            }
            .into());
        }
        let one = nutrients(None, vec![dosed(choice, 1.0)])?;
        brings.push(
            target
                .keys()
                .map(|e| amount(e, &one).unwrap_or(0.0))
                .collect(),
        );
    }
    Ok(brings)
}

/// Doses from 0 to the largest of each that leave least, one after the other until none moves, and how many rounds it took.
fn settled(
    columns: &[Vec<f64>],
    choices: &[Ingredient],
    left: &mut [f64],
) -> Result<(Vec<f64>, usize), AimError> {
    let mut doses = vec![0.0f64; choices.len()];
    let mut rounds = 0;
    loop {
        rounds += 1;
        if rounds > MOST_ROUNDS {
            return Err(AimError::Restless);
        }
        let mut moved = 0.0f64;
        for (i, column) in columns.iter().enumerate() {
            let square: f64 = column.iter().map(|c| c * c).sum();
            if square == 0.0 {
                continue;
            }
            let most = choices[i]
                .most_g_per_l
                .unwrap_or(super::ingredient::MOST_G_PER_L);
            let best = doses[i]
                + column
                    .iter()
                    .zip(left.iter())
                    .map(|(c, l)| c * l)
                    .sum::<f64>()
                    / square;
            let step = best.clamp(0.0, most) - doses[i];
            doses[i] += step;
            left.iter_mut()
                .zip(column)
                .for_each(|(l, c)| *l -= c * step);
            moved = moved.max(step.abs() * square.sqrt());
        }
        if moved < 1e-12 {
            break;
        }
    }
    Ok((doses, rounds))
}

/// Whether an element came as near to its target as a scale can tell.
fn is_met(wanted: f64, reached: f64) -> bool {
    let miss = if wanted > 0.0 {
        MISS * wanted
    } else {
        NONE_MG_PER_L
    };
    (reached - wanted).abs() <= miss
}

/// Each element of the target, and why it is missed.
fn told(
    target: &BTreeMap<String, f64>,
    ground: &Nutrients,
    choices: &[Ingredient],
    brings: &[Vec<f64>],
    doses: &[f64],
    weight: &[f64],
) -> Vec<Reached> {
    let name = |i: usize| choices[i].name();
    target
        .iter()
        .enumerate()
        .map(|(place, (element, &wanted))| {
            let from_water = amount(element, ground).unwrap_or(0.0);
            let dosed = brings.iter().zip(doses).map(|(b, d)| b[place] * d);
            let reached = from_water + dosed.sum::<f64>();
            // A chelate brings a trace of nitrogen beside its iron; nobody would dose it for that.
            let counts = |brings: &[f64]| {
                let most = brings
                    .iter()
                    .zip(weight)
                    .map(|(b, w)| b * w)
                    .fold(0.0, f64::max);
                brings[place] > 0.0 && brings[place] * weight[place] >= POOR * most
            };
            let sources: Vec<usize> = (0..choices.len()).filter(|&i| counts(&brings[i])).collect();
            let named = |own: &dyn Fn(usize) -> bool| -> Vec<String> {
                let own = sources.iter().filter(|&&i| own(i));
                own.map(|&i| name(i)).collect()
            };
            let full = named(&|i| {
                let most = choices[i].most_g_per_l;
                most.is_some_and(|most| doses[i] >= most * (1.0 - 1e-9))
            });
            let used = named(&|i| doses[i] > 0.0);
            let why = if is_met(wanted, reached) {
                None
            } else {
                Some(why_missed(
                    (wanted, reached, from_water),
                    &used,
                    &full,
                    sources.iter().map(|&i| name(i)),
                ))
            };
            Reached {
                element: element.clone(),
                wanted_mg_per_l: wanted,
                reached_mg_per_l: reached,
                why_missed: why,
            }
        })
        .collect()
}

/// Why an element lies beside its target.
fn why_missed(
    (wanted, reached, from_water): (f64, f64, f64),
    used: &[String],
    full: &[String],
    sources: impl Iterator<Item = String>,
) -> String {
    let sources: Vec<String> = sources.collect();
    if reached > wanted && from_water >= wanted {
        format!("the water alone brings {from_water:.0} mg/L")
    } else if reached > wanted {
        format!(
            "it comes along with what else {} {}",
            used.join(" and "),
            if used.len() == 1 { "brings" } else { "bring" }
        )
    } else if sources.is_empty() {
        "nothing here brings it".to_owned()
    } else if !full.is_empty() {
        format!("{} is at its largest dose", full.join(" and "))
    } else {
        format!(
            "more of {} would bring too much of something else",
            sources.join(" or ")
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn salt(formula: &str) -> Ingredient {
        Ingredient {
            formula: Some(formula.into()),
            ..Ingredient::default()
        }
    }

    fn target(list: &[(&str, f64)]) -> BTreeMap<String, f64> {
        list.iter().map(|(e, v)| ((*e).to_owned(), *v)).collect()
    }

    /// The macronutrients of Hoagland and Arnon 1950, solution 1, mg/L, from their four salts.
    #[test]
    fn hoagland_and_arnon_are_found_from_their_own_salts() {
        let wanted = target(&[
            ("N", 210.1),
            ("P", 31.0),
            ("K", 234.6),
            ("Ca", 200.4),
            ("Mg", 48.6),
            ("S", 64.1),
        ]);
        let salts = ["KNO3", "Ca(NO3)2·4H2O", "MgSO4·7H2O", "KH2PO4"].map(salt);
        let found = aim(None, &salts, &wanted).unwrap();
        // 5, 5, 2 and 1 mmol/L.
        for (grams, wanted) in found.g_per_l.iter().zip([0.5055, 1.1808, 0.4929, 0.1361]) {
            assert!((grams - wanted).abs() < 0.002 * wanted, "{grams} {wanted}");
        }
        assert!(
            found.reached.iter().all(|r| r.why_missed.is_none()),
            "{:?}",
            found.reached
        );
    }

    #[test]
    fn what_cannot_be_reached_says_why() {
        let why = |choices: &[Ingredient], wanted: &[(&str, f64)], element: &str| {
            let found = aim(None, choices, &target(wanted)).unwrap();
            found
                .reached
                .iter()
                .find(|r| r.element == element)
                .unwrap()
                .why_missed
                .clone()
                .unwrap()
        };
        assert_eq!(
            why(&[salt("KNO3")], &[("K", 200.0), ("Ca", 100.0)], "Ca"),
            "nothing here brings it"
        );
        let little = Ingredient {
            most_g_per_l: Some(0.1),
            ..salt("KNO3")
        };
        assert_eq!(
            why(std::slice::from_ref(&little), &[("K", 200.0)], "K"),
            "KNO3 is at its largest dose"
        );
        // Iron comes with a trace of nitrogen and is no source of it.
        let short = why(
            &[little, salt("C10H12FeN2NaO8")],
            &[("N", 100.0), ("Fe", 1.0)],
            "N",
        );
        assert_eq!(short, "KNO3 is at its largest dose");
        let mixed = why(&[salt("KNO3")], &[("K", 200.0), ("N", 10.0)], "N");
        assert!(mixed.contains("comes along"), "{mixed}");
        let water = SourceWater {
            mg_per_l: [("Ca".to_owned(), 120.0)].into(),
            ..SourceWater::default()
        };
        let found = aim(
            Some(&water),
            &[salt("KNO3")],
            &target(&[("Ca", 80.0), ("K", 100.0)]),
        )
        .unwrap();
        assert!(
            found.reached[0]
                .why_missed
                .as_ref()
                .unwrap()
                .contains("water alone brings 120")
        );
    }

    #[test]
    fn nonsense_is_refused_by_name() {
        assert_eq!(
            aim(None, &[], &target(&[("N", 1.0)])),
            Err(AimError::Nothing)
        );
        let said = |wanted: &[(&str, f64)]| {
            aim(None, &[salt("KNO3")], &target(wanted))
                .unwrap_err()
                .to_string()
        };
        assert!(said(&[("Zr", 5.0)]).contains("Zr"));
        assert!(said(&[("N", -5.0)]).contains("-5") && said(&[("N", f64::NAN)]).contains("NaN"));
        let unknown = aim(None, &[salt("Kx9")], &target(&[("N", 1.0)]))
            .unwrap_err()
            .to_string();
        assert!(unknown.contains("ingredient 1 (Kx9)"), "{unknown}");
        let most = Ingredient {
            most_g_per_l: Some(-1.0),
            ..salt("KNO3")
        };
        assert!(
            aim(None, &[most], &target(&[("N", 1.0)]))
                .unwrap_err()
                .to_string()
                .contains("most_g_per_l")
        );
    }

    proptest! {
        /// Whatever is aimed for: doses keep their bounds, and no small change of one dose comes
        /// closer.
        #[test]
        fn no_neighbouring_doses_come_closer(
            n in 10.0f64..300.0, k in 10.0f64..400.0, ca in 0.0f64..250.0, mg in 0.0f64..80.0, most in 0.0f64..2.0,
        ) {
            let wanted = target(&[("N", n), ("K", k), ("Ca", ca), ("Mg", mg)]);
            let mut salts = ["KNO3", "Ca(NO3)2·4H2O", "MgSO4·7H2O", "K2SO4"].map(salt);
            salts[1].most_g_per_l = Some(most);
            let found = aim(None, &salts, &wanted).unwrap();
            let miss = |doses: &[f64]| -> f64 {
                let given = salts.iter().zip(doses).map(|(s, d)| dosed(s, *d)).collect();
                let held = nutrients(None, given).unwrap();
                let floor = 0.1 * [n, k, ca, mg].into_iter().fold(1.0, f64::max);
                wanted.iter().map(|(e, w)| ((amount(e, &held).unwrap() - w) / if *w > 0.0 { *w } else { floor }).powi(2)).sum()
            };
            let best = miss(&found.g_per_l);
            prop_assert!(found.g_per_l.iter().all(|d| *d >= 0.0) && found.g_per_l[1] <= most);
            for i in 0..4 {
                for step in [-1e-3, 1e-3] {
                    let mut near = found.g_per_l.clone();
                    near[i] = (near[i] + step).max(0.0);
                    if i == 1 { near[i] = near[i].min(most); }
                    prop_assert!(miss(&near) >= best - 1e-12, "dose {i} by {step}");
                }
            }
        }
    }
}
