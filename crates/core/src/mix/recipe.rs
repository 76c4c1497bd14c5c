//! A recipe: water, salts and label feeds in a volume, and what the solution then holds.
//!
//! The shape is the contract of `iron-twin mix`; docs/commands.md describes it.

use super::ingredient::{
    Ingredient, LEAST_VOLUME_L, MOST_INGREDIENTS, MOST_VOLUME_L, RecipeError, Slip, in_range,
};
use super::noticed::noticed;
use iron_twin_chemistry::conductivity::{PPM_SCALES, TEMPERATURES_C, conductivity, metered};
use iron_twin_chemistry::elements::atomic_weight;
use iron_twin_chemistry::ions::{Ion, Ions};
use iron_twin_chemistry::label::Brings;
use iron_twin_chemistry::nutrients::{Nutrient, Nutrients};
use iron_twin_chemistry::osmotic::osmotic_pressure_kpa;
use iron_twin_chemistry::water::SourceWater;
use iron_twin_terms::severity::Warning;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A recipe as it is written.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Recipe {
    /// Volume to fill, L.
    pub volume_l: f64,
    /// Temperature of the solution, °C.
    #[serde(default = "usual_temperature")]
    pub temperature_c: f64,
    /// Source water; left out for reverse osmosis.
    #[serde(default)]
    pub water: Option<SourceWater>,
    /// What goes in.
    #[serde(default)]
    pub ingredients: Vec<Ingredient>,
    /// Elements to aim for, mg/L; the ingredients then come without doses.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub target: Option<BTreeMap<String, f64>>,
    /// Strength of stock concentrates to work out, times that of the solution.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub stock_times: Option<f64>,
}

impl Default for Recipe {
    fn default() -> Self {
        Self {
            volume_l: 1.0,
            temperature_c: usual_temperature(),
            water: None,
            ingredients: Vec::new(),
            target: None,
            stock_times: None,
        }
    }
}

fn usual_temperature() -> f64 {
    25.0
}

/// Conductivity, mS/cm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Conductivity {
    /// At 25 °C, the way meters show it.
    pub at_25c: f64,
    /// At the solution's own temperature.
    pub at_temperature: f64,
    /// What a meter with the usual compensation of 2 % a degree shows as 25 °C.
    pub as_metered: f64,
}

/// Amounts held against one another, by mass; null where the one they are held against is missing.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ratios {
    /// N to K.
    pub n_to_k: Option<f64>,
    /// K to Ca.
    pub k_to_ca: Option<f64>,
    /// Ca to Mg.
    pub ca_to_mg: Option<f64>,
    /// Share of the nitrogen that is ammonium, per cent.
    pub ammonium_percent: Option<f64>,
    /// Share of the nitrogen that is urea, per cent.
    pub urea_percent: Option<f64>,
}

/// What to weigh or measure out of one ingredient.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Portion {
    /// What it is.
    pub name: String,
    /// g in a litre.
    pub g_per_l: f64,
    /// g in the whole volume.
    pub g: f64,
    /// mL in the whole volume, where a density is known.
    pub ml: Option<f64>,
}

/// What a solution holds.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Solution {
    /// `iron-twin/mix/1`.
    pub format: &'static str,
    /// Nutrients, mg/L; `N` is all nitrogen.
    pub mg_per_l: BTreeMap<&'static str, f64>,
    /// Ions, mmol/L.
    pub mmol_per_l: BTreeMap<&'static str, f64>,
    /// Elements, mmol/L, under the same names as their masses.
    pub element_mmol_per_l: BTreeMap<&'static str, f64>,
    /// Amounts against one another.
    pub ratios: Ratios,
    /// Osmotic pressure at the solution's temperature, kPa.
    pub osmotic_pressure_kpa: f64,
    /// Conductivity.
    pub conductivity_ms_per_cm: Conductivity,
    /// Dissolved solids on the scales of meters, from the conductivity at 25 °C.
    pub ppm: BTreeMap<&'static str, f64>,
    /// Nominal, before ion pairing.
    pub ionic_strength_mol_per_l: f64,
    /// 100 (cations - anions) / (cations + anions), in equivalents, over the ions shown.
    pub charge_balance_percent: f64,
    /// What to measure out, in the order of the recipe.
    pub portions: Vec<Portion>,
    /// What to know about it.
    pub warnings: Vec<Warning>,
    /// The same nutrients, for computing on.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub nutrients: Nutrients,
    /// The same ions, for computing on.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub ions: Ions,
}

impl Recipe {
    /// What a gram of each ingredient brings.
    ///
    /// # Errors
    /// [`RecipeError`], naming ingredient and field.
    pub(super) fn brings(&self) -> Result<Vec<Brings>, RecipeError> {
        let each = self.ingredients.iter().enumerate();
        each.map(|(index, i)| {
            i.brings()
                .map(|(brings, _)| brings)
                .map_err(|slip| i.at(index, slip))
        })
        .collect()
    }

    /// What the solution holds.
    ///
    /// # Errors
    /// [`RecipeError`], naming ingredient and field.
    ///
    /// ```
    /// use iron_twin_core::mix::recipe::Recipe;
    /// let recipe: Recipe = serde_json::from_str(
    ///     r#"{"volume_l": 10, "ingredients": [{"formula": "Ca(NO3)2·4H2O", "mmol_per_l": 5}]}"#).unwrap();
    /// let solution = recipe.solution()?;
    /// assert!((solution.mg_per_l["Ca"] - 200.4).abs() < 0.1);
    /// assert!((solution.portions[0].g - 11.81).abs() < 0.01);
    /// # Ok::<(), iron_twin_core::mix::ingredient::RecipeError>(())
    /// ```
    pub fn solution(&self) -> Result<Solution, RecipeError> {
        self.check()?;
        let own = |(field, slip): (String, Slip)| RecipeError {
            ingredient: None,
            index: None,
            field,
            slip,
        };
        let (mut nutrients, mut ions) = match &self.water {
            Some(water) => water
                .content()
                .map_err(|e| own(("water".into(), e.into())))?,
            None => Default::default(),
        };
        let mut portions = Vec::new();
        let mut unknown_form = Vec::new();
        for (index, ingredient) in self.ingredients.iter().enumerate() {
            let name = ingredient.name();
            let named = |slip| ingredient.at(index, slip);
            let (brings, molar_mass) = ingredient.brings().map_err(named)?;
            let g_per_l = ingredient
                .g_per_l(self.volume_l, molar_mass)
                .map_err(named)?;
            nutrients.add_scaled(&brings.mg_per_g, g_per_l);
            ions.add_scaled(&brings.mmol_per_g, g_per_l);
            if ingredient
                .label
                .as_ref()
                .is_some_and(|l| l.nitrogen_without_form() > 0.0)
            {
                unknown_form.push(name.clone());
            }
            let g = g_per_l * self.volume_l;
            let ml = ingredient
                .density()
                .map_err(named)?
                .map(|density| g / density);
            portions.push(Portion {
                name,
                g_per_l,
                g,
                ml,
            });
        }
        ions.neutralise();
        let mut solution = described(&nutrients, &ions, self.temperature_c);
        solution.portions = portions;
        let fed = solution.portions.iter().any(|p| p.g > 0.0);
        solution.warnings = noticed(&nutrients, &ions, fed, &unknown_form);
        Ok(solution)
    }

    /// Volume, temperature and number of ingredients lie within limits.
    fn check(&self) -> Result<(), RecipeError> {
        let own = |(field, slip): (String, Slip)| RecipeError {
            ingredient: None,
            index: None,
            field,
            slip,
        };
        in_range("volume_l", self.volume_l, LEAST_VOLUME_L, MOST_VOLUME_L).map_err(own)?;
        in_range(
            "temperature_c",
            self.temperature_c,
            *TEMPERATURES_C.start(),
            *TEMPERATURES_C.end(),
        )
        .map_err(own)?;
        if self.ingredients.len() > MOST_INGREDIENTS {
            return Err(own((
                "ingredients".into(),
                Slip::Many(self.ingredients.len()),
            )));
        }
        Ok(())
    }
}

/// A solution from its nutrients and ions.
fn described(nutrients: &Nutrients, ions: &Ions, temperature_c: f64) -> Solution {
    let mut mg_per_l: BTreeMap<&'static str, f64> = Nutrient::ALL
        .into_iter()
        .map(|n| (n.key(), nutrients.get(n)))
        .collect();
    mg_per_l.insert("N", nutrients.nitrogen());
    if nutrients.get(Nutrient::NOther) == 0.0 {
        mg_per_l.remove("N_other");
    }
    let shown = |(place, ion): (usize, Ion)| {
        let amount = ions.get(ion);
        (place < Ion::SHOWN || amount > 0.0).then_some((ion.key(), amount))
    };
    let at_25c = conductivity(ions, 25.0);
    let ppm = ["500", "640", "700"]
        .into_iter()
        .zip(PPM_SCALES)
        .map(|(name, scale)| (name, at_25c * scale))
        .collect();
    let at_temperature = conductivity(ions, temperature_c);
    let urea_mmol = nutrients.get(Nutrient::NUrea) / (2.0 * weight_of("N"));
    let element_mmol_per_l = mg_per_l
        .iter()
        .map(|(&key, mg)| (key, mg / weight_of(key.split('_').next().unwrap_or(key))))
        .collect();
    Solution {
        format: "iron-twin/mix/1",
        element_mmol_per_l,
        ratios: ratios(nutrients),
        osmotic_pressure_kpa: osmotic_pressure_kpa(ions, urea_mmol, temperature_c),
        ions: *ions,
        mg_per_l,
        mmol_per_l: Ion::ALL.into_iter().enumerate().filter_map(shown).collect(),
        conductivity_ms_per_cm: Conductivity {
            at_25c,
            at_temperature,
            as_metered: metered(at_temperature, temperature_c),
        },
        ppm,
        ionic_strength_mol_per_l: ions.ionic_strength() / 1000.0,
        charge_balance_percent: ions.charge_balance_percent(),
        portions: Vec::new(),
        warnings: Vec::new(),
        nutrients: *nutrients,
    }
}

fn weight_of(element: &str) -> f64 {
    atomic_weight(element).unwrap_or(f64::INFINITY)
}

fn ratios(nutrients: &Nutrients) -> Ratios {
    let of = |nutrient| nutrients.get(nutrient);
    let to = |part: f64, whole: f64| (whole > 0.0).then(|| part / whole);
    let n = nutrients.nitrogen();
    Ratios {
        n_to_k: to(n, of(Nutrient::K)),
        k_to_ca: to(of(Nutrient::K), of(Nutrient::Ca)),
        ca_to_mg: to(of(Nutrient::Ca), of(Nutrient::Mg)),
        ammonium_percent: to(100.0 * of(Nutrient::NAmmonium), n),
        urea_percent: to(100.0 * of(Nutrient::NUrea), n),
    }
}

/// Why a recipe in JSON could not be used.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ReadError {
    /// Not JSON, or a field that does not belong.
    #[error("{}{why}", .ingredient.as_ref().map(|i| format!("{i}: ")).unwrap_or_default())]
    Json {
        /// The ingredient, as `ingredient 2 (KNO3)`.
        ingredient: Option<String>,
        /// What is wrong.
        why: String,
    },
    /// A figure that cannot be.
    #[error(transparent)]
    Recipe(#[from] RecipeError),
}

/// Reads a recipe. An ingredient is read by itself, so that a slip in it is told by its name.
///
/// # Errors
/// [`ReadError::Json`], naming the ingredient where it is one's.
pub fn read(json: &str) -> Result<Recipe, ReadError> {
    let bad = |ingredient: Option<String>| {
        move |e: serde_json::Error| ReadError::Json {
            ingredient,
            why: e.to_string(),
        }
    };
    let mut whole: serde_json::Value = serde_json::from_str(json).map_err(bad(None))?;
    let list = match whole.get_mut("ingredients").map(serde_json::Value::take) {
        Some(serde_json::Value::Array(list)) => list,
        Some(other) if !other.is_null() => {
            return Err(ReadError::Json {
                ingredient: None,
                why: "ingredients must be a list".into(),
            });
        }
        _ => Vec::new(),
    };
    if let Some(object) = whole.as_object_mut() {
        object.remove("ingredients");
    }
    let mut recipe: Recipe = serde_json::from_value(whole).map_err(bad(None))?;
    for (i, value) in list.into_iter().enumerate() {
        let name = value
            .get("formula")
            .or_else(|| value.get("label")?.get("name"))
            .and_then(|v| v.as_str());
        let named = format!("ingredient {} ({})", i + 1, name.unwrap_or("unnamed"));
        recipe
            .ingredients
            .push(serde_json::from_value(value).map_err(bad(Some(named)))?);
    }
    Ok(recipe)
}

#[cfg(test)]
mod tests {
    use super::*;
    use iron_twin_chemistry::label::Label;

    fn salt(formula: &str, mmol_per_l: f64) -> Ingredient {
        Ingredient {
            formula: Some(formula.into()),
            mmol_per_l: Some(mmol_per_l),
            ..Ingredient::default()
        }
    }

    fn recipe(ingredients: Vec<Ingredient>) -> Recipe {
        Recipe {
            volume_l: 10.0,
            ingredients,
            ..Recipe::default()
        }
    }

    #[test]
    fn the_order_of_ingredients_does_not_matter_and_doses_scale() {
        let salts = vec![
            salt("KNO3", 5.0),
            salt("MgSO4·7H2O", 2.0),
            salt("K2CO3", 1.0),
            salt("HNO3", 3.0),
        ];
        let mut turned = salts.clone();
        turned.reverse();
        let (one, other) = (
            recipe(salts.clone()).solution().unwrap(),
            recipe(turned).solution().unwrap(),
        );
        for (key, value) in &one.mg_per_l {
            assert!((value - other.mg_per_l[key]).abs() < 1e-9, "{key}");
        }
        assert!(
            (one.conductivity_ms_per_cm.at_25c - other.conductivity_ms_per_cm.at_25c).abs() < 1e-9
        );
        let double = salts
            .iter()
            .map(|s| Ingredient {
                mmol_per_l: s.mmol_per_l.map(|m| 2.0 * m),
                ..s.clone()
            })
            .collect();
        assert!(
            (recipe(double).solution().unwrap().mg_per_l["K"] - 2.0 * one.mg_per_l["K"]).abs()
                < 1e-9
        );
    }

    #[test]
    fn every_way_of_dosing_says_the_same() {
        let label = Label {
            name: "feed".into(),
            k2o: 10.0,
            density_kg_per_l: Some(1.2),
            ..Label::default()
        };
        let with = |change: fn(&mut Ingredient)| {
            let mut ingredient = Ingredient {
                label: Some(label.clone()),
                ..Ingredient::default()
            };
            change(&mut ingredient);
            recipe(vec![ingredient]).solution().unwrap().mg_per_l["K"]
        };
        let grams = with(|i| i.g_per_l = Some(4.8));
        assert!((grams - 48.0 * 8.301).abs() < 0.1);
        for other in [
            with(|i| i.g = Some(48.0)),
            with(|i| i.ml_per_l = Some(4.0)),
            with(|i| i.tsp_per_us_gal = Some(4.0 * 0.768)),
        ] {
            assert!((other - grams).abs() < 1e-9, "{other} {grams}");
        }
    }

    #[test]
    fn acid_meets_alkalinity() {
        let water = SourceWater {
            alkalinity_mg_per_l_caco3: Some(150.129),
            ..SourceWater::default()
        };
        let acid = Recipe {
            water: Some(water),
            ..recipe(vec![salt("HNO3", 2.0)])
        };
        let solution = acid.solution().unwrap();
        assert!((solution.mmol_per_l["HCO3"] - 1.0).abs() < 1e-9);
        assert!(!solution.mmol_per_l.contains_key("H"));
        assert!((solution.mmol_per_l["NO3"] - 2.0).abs() < 1e-9);
    }

    #[test]
    fn slips_name_the_ingredient_and_the_field() {
        let said = |ingredient: Ingredient| {
            recipe(vec![salt("KNO3", 1.0), ingredient])
                .solution()
                .unwrap_err()
                .to_string()
        };
        let none = Ingredient {
            formula: Some("KCl".into()),
            ..Ingredient::default()
        };
        assert!(said(none.clone()).starts_with("ingredient 2 (KCl), dose: give one dose"));
        assert!(
            said(Ingredient {
                g: Some(1.0),
                g_per_l: Some(1.0),
                ..none.clone()
            })
            .contains("2 are given")
        );
        assert!(
            said(Ingredient {
                g: Some(-1.0),
                ..none.clone()
            })
            .starts_with("ingredient 2 (KCl), g: must lie")
        );
        assert!(
            said(Ingredient {
                g_per_l: Some(f64::NAN),
                ..none.clone()
            })
            .contains("g_per_l: must lie")
        );
        assert!(
            said(Ingredient {
                g_per_l: Some(1e9),
                ..none.clone()
            })
            .contains("g_per_l: must lie between 0 and 1000")
        );
        assert!(
            said(Ingredient {
                ml_per_l: Some(1.0),
                ..none.clone()
            })
            .contains("needs density_kg_per_l")
        );
        assert!(
            said(Ingredient {
                purity_percent: Some(0.0),
                g: Some(1.0),
                ..none
            })
            .contains("purity_percent")
        );
        assert!(said(salt("Ca(NO3", 1.0)).contains("formula: the parentheses do not close"));
        let label = Ingredient {
            label: Some(Label::default()),
            mmol_per_l: Some(1.0),
            ..Ingredient::default()
        };
        assert!(said(label).contains("no molar mass"));
        for volume_l in [0.0, -1.0, f64::NAN, 1e9] {
            let error = Recipe {
                volume_l,
                ..recipe(vec![])
            }
            .solution()
            .unwrap_err();
            assert!(
                error.to_string().starts_with("volume_l: must lie"),
                "{error}"
            );
        }
        let typed = read(r#"{"volume_l": 1, "ingredients": [{"formula": "KCl", "gramms": 2}]}"#)
            .unwrap_err();
        assert!(
            typed
                .to_string()
                .starts_with("ingredient 1 (KCl): unknown field `gramms`"),
            "{typed}"
        );
    }

    #[test]
    fn warnings_come_from_what_is_in_it() {
        let codes = |ingredients| -> Vec<&'static str> {
            recipe(ingredients)
                .solution()
                .unwrap()
                .warnings
                .iter()
                .map(|w| w.code)
                .collect()
        };
        assert_eq!(codes(vec![]), Vec::<&str>::new());
        assert_eq!(
            codes(vec![salt("KNO3", 5.0)]),
            ["no_calcium", "no_magnesium"]
        );
        let urea = vec![
            salt("CO(NH2)2", 5.0),
            salt("Ca(NO3)2·4H2O", 2.0),
            salt("MgSO4·7H2O", 1.0),
        ];
        assert_eq!(codes(urea), ["much_urea"]);
        assert!(codes(vec![salt("NaCl", 8.0)]).contains(&"much_sodium"));
        let thick = vec![salt("Ca(NO3)2·4H2O", 40.0), salt("MgSO4·7H2O", 40.0)];
        assert_eq!(codes(thick), ["falls_out"]);
        let haze = vec![
            salt("Ca(NO3)2·4H2O", 10.0),
            salt("KH2PO4", 5.0),
            salt("MgSO4·7H2O", 2.0),
        ];
        assert_eq!(codes(haze), ["falls_out"]);
        assert!(
            codes(vec![
                salt("NH4NO3", 3.0),
                salt("Ca(NO3)2·4H2O", 1.0),
                salt("MgSO4·7H2O", 1.0)
            ])
            .contains(&"much_ammonium")
        );
        let label = Label {
            n: 6.0,
            ..Label::default()
        };
        let fed = Ingredient {
            label: Some(label),
            g_per_l: Some(0.1),
            ..Ingredient::default()
        };
        assert_eq!(
            codes(vec![fed]),
            [
                "nitrogen_form_unknown",
                "no_calcium",
                "no_magnesium",
                "starved"
            ]
        );
    }
}
