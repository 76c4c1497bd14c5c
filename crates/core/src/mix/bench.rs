//! The bench: lines of a recipe as columns that fill a tank, held against a target band, with the
//! concentrates they make.

use super::aim::{Aim, AimError, aim};
use super::ingredient::{Ingredient, RecipeError};
use super::recipe::{Recipe, Solution};
use super::spoons::{Measures, too_little};
use super::stock::{Stock, stock};
use super::tank::{Band, bands};
use crate::mix::parts::Part;
use crate::stores::keys;
use crate::stores::lines::Line;
use crate::stores::{Item, Stores};
use iron_twin_terms::quantity::FeedForm;
use iron_twin_terms::severity::Warning;
use serde::Serialize;
use std::collections::BTreeMap;

/// What stands on the bench.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Bench {
    /// Lines of the recipe.
    pub lines: Vec<Line>,
    /// Name of the water in Stores; empty for nothing in it.
    pub water: String,
    /// Name of the target profile in Stores; empty for none.
    pub target: String,
    /// Litres to make.
    pub volume_l: f64,
    /// Temperature of the solution, °C.
    pub temperature_c: f64,
    /// Strength of concentrates, times the solution; None for none.
    pub stock_times: Option<f64>,
}

/// One ingredient with what it brings.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BenchColumn {
    /// What it is called.
    pub name: String,
    /// Its shelf.
    pub shelf: String,
    /// Its formula, for salts.
    pub formula: Option<String>,
    /// `mL` or `g`.
    pub unit: &'static str,
    /// mL or g in a litre.
    pub per_litre: f64,
    /// mL or g in the tank.
    pub total: f64,
    /// In spoons and drops, where the volume is known.
    pub measures: Option<Measures>,
    /// In the grower's own spoonfuls, where ten of them were weighed.
    pub own_spoons: Option<f64>,
    /// What it brings, mg/L by element.
    pub brings_mg_per_l: BTreeMap<&'static str, f64>,
    /// What it adds to the cost of a litre, where its price is known.
    pub cost_per_l: Option<f64>,
}

/// What the bench shows.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BenchView {
    /// Ingredients in their order.
    pub columns: Vec<BenchColumn>,
    /// What the water alone brings, mg/L by element.
    pub water_mg_per_l: BTreeMap<&'static str, f64>,
    /// What the tank then holds.
    pub solution: Solution,
    /// The bands of the target.
    pub bands: Vec<Band>,
    /// Cost of a litre, where every price is known.
    pub cost_per_l: Option<f64>,
    /// The concentrates, where they are asked for.
    pub stock: Option<Stock>,
    /// What to know: of the solution, and of doses too small for the spoon.
    pub warnings: Vec<Warning>,
}

/// Why the bench shows nothing. `field` is `lines[2]`, `water`, `target`, or a field of the recipe.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{why}")]
pub struct BenchError {
    /// Where.
    pub field: String,
    /// What is wrong.
    pub why: String,
}

fn at(field: impl Into<String>, why: impl std::fmt::Display) -> BenchError {
    BenchError {
        field: field.into(),
        why: why.to_string(),
    }
}

impl From<RecipeError> for BenchError {
    fn from(error: RecipeError) -> Self {
        let field = error
            .index
            .map_or_else(|| error.field.clone(), |i| format!("lines[{i}]"));
        at(field, &error)
    }
}

impl From<AimError> for BenchError {
    fn from(error: AimError) -> Self {
        match error {
            AimError::Recipe(error) => error.into(),
            AimError::Target { .. } => at("target", error),
            AimError::Nothing | AimError::Restless => at("lines", error),
        }
    }
}

impl Bench {
    fn parts(&self, stores: &Stores) -> Result<Vec<(Part, Ingredient)>, BenchError> {
        let each = self.lines.iter().enumerate().map(|(i, line)| {
            let part = stores.line_part(line);
            match part.ingredient.clone() {
                Some(ingredient) => Ok((part, ingredient)),
                None => Err(at(format!("lines[{i}]"), unknown(stores, line))),
            }
        });
        each.collect()
    }

    fn recipe(&self, stores: &Stores, ingredients: Vec<Ingredient>) -> Result<Recipe, BenchError> {
        let water = match self.water.trim() {
            "" => None,
            name => {
                let known = stores.find("waters", name).and_then(Item::water);
                Some(known.ok_or_else(|| at("water", format!("Stores know no water '{name}'")))?)
            }
        };
        let (volume_l, temperature_c) = (self.volume_l, self.temperature_c);
        Ok(Recipe {
            volume_l,
            temperature_c,
            water,
            ingredients,
            ..Recipe::default()
        })
    }

    fn target(&self, stores: &Stores) -> Result<BTreeMap<String, f64>, BenchError> {
        match self.target.trim() {
            "" => Ok(BTreeMap::new()),
            name => {
                let known = stores.find("targets", name).and_then(Item::target);
                known.ok_or_else(|| at("target", format!("Stores know no target profile '{name}'")))
            }
        }
    }

    /// What the bench shows.
    ///
    /// # Errors
    /// [`BenchError`], naming the field.
    ///
    /// ```
    /// use iron_twin_core::mix::bench::Bench;
    /// use iron_twin_core::stores::lines::read;
    /// use iron_twin_core::stores::Stores;
    /// let lines = read("2 mL/L part A, with calcium; 2 mL/L part B, without calcium")?;
    /// let bench = Bench { lines, volume_l: 10.0, temperature_c: 25.0, ..Bench::default() };
    /// let view = bench.view(&Stores::with_own(Vec::new())).unwrap();
    /// assert_eq!(view.columns[0].total, 20.0);
    /// # Ok::<(), iron_twin_core::stores::lines::LinesError>(())
    /// ```
    pub fn view(&self, stores: &Stores) -> Result<BenchView, BenchError> {
        let parts = self.parts(stores)?;
        let recipe = self.recipe(stores, parts.iter().map(|(_, i)| i.clone()).collect())?;
        let solution = recipe.solution()?;
        let alone = |ingredients: Vec<Ingredient>,
                     water|
         -> Result<BTreeMap<&'static str, f64>, BenchError> {
            Ok(Recipe {
                ingredients,
                water,
                ..Recipe::default()
            }
            .solution()?
            .mg_per_l)
        };
        let columns = parts.iter().map(|(part, ingredient)| {
            Ok(BenchColumn {
                brings_mg_per_l: alone(vec![ingredient.clone()], None)?,
                ..column(part, ingredient, self.volume_l)
            })
        });
        let columns = columns.collect::<Result<Vec<_>, BenchError>>()?;
        let stock = self
            .stock_times
            .map(|times| stock(&recipe, times))
            .transpose()?;
        let mut warnings = solution.warnings.clone();
        warnings.extend(too_little(
            parts
                .iter()
                .map(|(part, _)| part.dosed(part.per_l * self.volume_l)),
        ));
        Ok(BenchView {
            warnings,
            columns,
            water_mg_per_l: alone(Vec::new(), recipe.water.clone())?,
            bands: bands(&self.target(stores)?),
            cost_per_l: parts
                .iter()
                .try_fold(0.0, |sum, (p, _)| Some(sum + p.price_per_l?)),
            stock: stock.map(|stock| named(stock, &parts)),
            solution,
        })
    }

    /// The lines with the doses that come closest to the target, and how close they come.
    ///
    /// # Errors
    /// [`BenchError`], naming the field.
    pub fn aim(&self, stores: &Stores) -> Result<(Vec<Line>, Aim), BenchError> {
        // A dose of 0 still is a choice, but says nothing of what a mL weighs.
        let asked = Self {
            lines: self
                .lines
                .iter()
                .map(|l| Line {
                    per_l: 1.0,
                    ..l.clone()
                })
                .collect(),
            ..self.clone()
        };
        let parts = asked.parts(stores)?;
        let a_unit: Vec<f64> = parts
            .iter()
            .map(|(_, i)| i.g_per_l.unwrap_or(1.0))
            .collect();
        let choices: Vec<Ingredient> = parts.iter().map(|(part, i)| bounded(part, i)).collect();
        let recipe = self.recipe(stores, Vec::new())?;
        let target = self.target(stores)?;
        if target.is_empty() {
            return Err(at("target", "choose a target profile to aim for"));
        }
        let mut found = aim(recipe.water.as_ref(), &choices, &target)?;
        for reached in &mut found.reached {
            // In the words of the shelf, not the formula.
            for (part, ingredient) in &parts {
                let why = reached.why_missed.take();
                reached.why_missed = why.map(|w| w.replace(&ingredient.name(), &part.name));
            }
        }
        let lines = self.lines.iter().zip(&found.g_per_l).zip(&a_unit);
        let lines = lines.map(|((line, grams), unit)| Line {
            per_l: rounded(grams / unit),
            ..line.clone()
        });
        Ok((lines.collect(), found))
    }
}

/// A liquid is not dosed beyond [`MOST_LIQUID_ML`].
fn bounded(part: &Part, ingredient: &Ingredient) -> Ingredient {
    let most = (part.form == FeedForm::Liquid)
        .then_some(MOST_LIQUID_ML * part.density_kg_per_l.unwrap_or(1.0));
    Ingredient {
        most_g_per_l: most,
        ..ingredient.clone()
    }
}

/// Largest dose of a liquid that is aimed with, mL in a litre. Common practice, no source.
const MOST_LIQUID_ML: f64 = 20.0;

/// Three digits: as fine as a dose is weighed.
fn rounded(amount: f64) -> f64 {
    if amount < 1e-6 {
        return 0.0;
    }
    let scale = 10f64.powf(2.0 - amount.log10().floor());
    (amount * scale).round() / scale
}

fn unknown(stores: &Stores, line: &Line) -> String {
    let name = &line.name;
    let found = crate::mix::parts::PARTS_OF
        .iter()
        .find_map(|shelf| stores.find(shelf, name));
    match found {
        None => format!("Stores know no feed, additive or salt '{name}'"),
        Some(item) if item.form() != line.form => {
            format!(
                "{name} is measured in {}, not in {}",
                item.form().unit(),
                line.form.unit()
            )
        }
        Some(item) if item.words(keys::COMPOSITION) == Some("unknown") => {
            format!("nobody says what is in {name}")
        }
        Some(_) => format!("Stores lack the density of {name}, which turns mL into grams"),
    }
}

fn column(part: &Part, ingredient: &Ingredient, volume_l: f64) -> BenchColumn {
    let total = part.per_l * volume_l;
    BenchColumn {
        name: part.name.clone(),
        shelf: part.shelf.clone(),
        formula: ingredient.formula.clone(),
        unit: part.form.unit(),
        per_litre: part.per_l,
        total,
        measures: part.measures(total, part.per_l),
        own_spoons: part.own_spoons(total),
        brings_mg_per_l: BTreeMap::new(),
        cost_per_l: part.price_per_l,
    }
}

/// The concentrates in the words of the shelf instead of formulas.
fn named(stock: Stock, parts: &[(Part, Ingredient)]) -> Stock {
    let mut stock = stock;
    let said = |text: &str| {
        parts.iter().fold(text.to_owned(), |t, (part, i)| {
            t.replace(&i.name(), &part.name)
        })
    };
    for tank in &mut stock.tanks {
        tank.parts
            .iter_mut()
            .for_each(|part| part.name.clone_from(&parts[part.index].0.name));
        tank.nearest = tank.nearest.as_deref().map(said);
    }
    stock
        .warnings
        .iter_mut()
        .for_each(|w| w.message = said(&w.message));
    stock
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stores::lines::read;

    fn bench(lines: &str) -> Bench {
        Bench {
            lines: read(lines).unwrap(),
            volume_l: 10.0,
            temperature_c: 25.0,
            ..Bench::default()
        }
    }

    fn stores() -> Stores {
        Stores::with_own(Vec::new())
    }

    #[test]
    fn columns_add_up_to_the_tank() {
        let bench = Bench {
            water: "tap water".into(),
            ..bench("2 mL/L part A, with calcium; 0.4 g/L magnesium sulfate heptahydrate")
        };
        let view = bench.view(&stores()).unwrap();
        for element in ["N", "Ca", "Mg", "S", "Cl"] {
            let sum: f64 = view
                .columns
                .iter()
                .map(|c| c.brings_mg_per_l[element])
                .sum::<f64>()
                + view.water_mg_per_l[element];
            assert!(
                (sum - view.solution.mg_per_l[element]).abs() < 1e-9,
                "{element}"
            );
        }
        assert_eq!(
            (view.columns[1].unit, view.columns[1].formula.as_deref()),
            ("g", Some("MgSO4·7H2O"))
        );
        assert!(view.columns[1].measures.is_none() && view.cost_per_l.is_none());
    }

    #[test]
    fn the_aim_comes_back_in_the_unit_of_each_line() {
        let salts = "0 g/L calcium nitrate tetrahydrate; 0 g/L potassium nitrate; 0 g/L magnesium \
                     sulfate heptahydrate; 0 g/L potassium dihydrogen phosphate";
        let bench = Bench {
            target: "Hoagland and Arnon, solution 1".into(),
            ..bench(salts)
        };
        let (lines, aim) = bench.aim(&stores()).unwrap();
        let macros = ["N", "P", "K", "Ca", "Mg", "S"];
        let missed: Vec<_> = aim
            .reached
            .iter()
            .filter(|r| macros.contains(&r.element.as_str()) && r.why_missed.is_some())
            .collect();
        assert!(missed.is_empty(), "{missed:?}");
        let view = Bench { lines, ..bench }.view(&stores()).unwrap();
        let band = view.bands.iter().find(|b| b.element == "Ca").unwrap();
        assert!((band.least_mg_per_l..band.most_mg_per_l).contains(&view.solution.mg_per_l["Ca"]));
        // No trace elements among these salts: said, in the words of the shelf.
        let copper = aim.reached.iter().find(|r| r.element == "Cu").unwrap();
        assert_eq!(copper.why_missed.as_deref(), Some("nothing here brings it"));
    }

    #[test]
    fn a_feed_that_is_poured_is_aimed_with_in_millilitres() {
        let bench = Bench {
            target: "leafy greens".into(),
            ..bench("0 mL/L part A, with calcium; 0 mL/L part B, without calcium")
        };
        let (lines, aim) = bench.aim(&stores()).unwrap();
        assert!(
            (aim.g_per_l[0] / 1.2 - lines[0].per_l).abs() < 0.01 * lines[0].per_l,
            "1.2 kg/L"
        );
        let missed = aim
            .reached
            .iter()
            .find_map(|r| r.why_missed.as_deref())
            .unwrap();
        assert!(
            !missed.is_empty() && lines.iter().all(|l| l.per_l > 0.5 && l.per_l < 6.0),
            "{lines:?}"
        );
    }

    #[test]
    fn the_generic_recipe_of_salts_meets_its_own_target() {
        let stores = stores();
        let item = stores.find("recipes", "leafy greens from salts").unwrap();
        let bench = Bench {
            water: "rain water".into(),
            target: "leafy greens".into(),
            stock_times: Some(100.0),
            ..bench(item.words(keys::LINES).unwrap())
        };
        let view = bench.view(&stores).unwrap();
        for band in view
            .bands
            .iter()
            .filter(|b| ["N", "P", "K", "Ca", "Mg", "S", "Fe"].contains(&b.element.as_str()))
        {
            let got = view.solution.mg_per_l[band.element.as_str()];
            assert!(
                (band.least_mg_per_l..=band.most_mg_per_l).contains(&got),
                "{} {got}",
                band.element
            );
        }
        let stock = view.stock.unwrap();
        assert_eq!(stock.tanks[0].parts[0].name, "calcium nitrate tetrahydrate");
        assert!(
            stock
                .tanks
                .iter()
                .all(|t| t.nearest.as_ref().is_some_and(|n| n.contains(' '))),
            "words, not formulas"
        );
        assert!(stock.warnings.is_empty(), "{:?}", stock.warnings);
    }

    #[test]
    fn nonsense_is_told_at_its_field() {
        let told = |bench: Bench| {
            let error = bench.view(&stores()).unwrap_err();
            (error.field.clone(), error.to_string())
        };
        let (field, why) = told(bench("1 g/L potassium nitrate; 1 g/L moon dust"));
        assert_eq!(
            (field.as_str(), why.as_str()),
            (
                "lines[1]",
                "Stores know no feed, additive or salt 'moon dust'"
            )
        );
        assert!(told(bench("1 g/L grow feed")).1.contains("measured in mL"));
        assert!(
            told(bench("1 g/L Bacillus inoculant"))
                .1
                .contains("nobody says")
        );
        assert_eq!(
            told(Bench {
                water: "lava".into(),
                ..bench("1 g/L potassium nitrate")
            })
            .0,
            "water"
        );
        assert_eq!(
            told(Bench {
                target: "gold".into(),
                ..bench("1 g/L potassium nitrate")
            })
            .0,
            "target"
        );
        assert_eq!(
            told(Bench {
                volume_l: 1e9,
                ..bench("1 g/L potassium nitrate")
            })
            .0,
            "volume_l"
        );
        assert_eq!(
            told(Bench {
                stock_times: Some(1.0),
                ..bench("1 g/L potassium nitrate")
            })
            .0,
            "stock_times"
        );
        assert_eq!(
            bench("1 g/L potassium nitrate")
                .aim(&stores())
                .unwrap_err()
                .field,
            "target"
        );
    }
}
