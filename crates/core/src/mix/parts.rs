//! What a name of the match sheet or of a recipe stands for: one feed, or the parts of a recipe,
//! each with its dose.

use crate::mix::ingredient::Ingredient;
use crate::mix::spoons::{Dosed, ML_PER_DROP, Measures, measures};
use crate::stores::keys;
use crate::stores::lines;
use crate::stores::{Item, Stores};
use iron_twin_terms::quantity::FeedForm;

/// A feed, additive or salt with its dose.
#[derive(Debug, Clone, PartialEq)]
pub struct Part {
    /// What it is called.
    pub name: String,
    /// Its shelf; empty where no shelf has it.
    pub shelf: String,
    /// Poured or weighed.
    pub form: FeedForm,
    /// mL or g in a litre at the label dose, or as the recipe says.
    pub per_l: f64,
    /// What it is, with that dose; None where nobody knows what is in it, or how dense it is.
    pub ingredient: Option<Ingredient>,
    /// Price of the dose for a litre of solution.
    pub price_per_l: Option<f64>,
    /// Density, kg/L.
    pub density_kg_per_l: Option<f64>,
    /// What one of the grower's own spoonfuls weighs, g.
    pub spoon_g: Option<f64>,
    /// Whether the dose is that of a recipe, not of a label.
    pub of_recipe: bool,
}

impl Part {
    /// What it brings at a share of its dose; its name where nobody knows what is in it.
    pub(super) fn thinned(self, fraction: f64) -> Result<Ingredient, String> {
        let thinned = |own: Ingredient| Ingredient {
            g_per_l: own.g_per_l.map(|g| g * fraction),
            ..own
        };
        self.ingredient.map(thinned).ok_or(self.name)
    }
}

impl Part {
    /// Something of which no shelf knows what it is.
    #[must_use]
    pub fn unknown(name: &str, form: FeedForm, per_l: f64) -> Self {
        let name = name.to_owned();
        Self {
            name,
            shelf: String::new(),
            form,
            per_l,
            ingredient: None,
            price_per_l: None,
            density_kg_per_l: None,
            spoon_g: None,
            of_recipe: false,
        }
    }
}

impl Part {
    /// So much of it, in the tank and in a litre, by spoon and drop: for liquids, and for powders
    /// whose density is known.
    #[must_use]
    pub fn measures(&self, total: f64, per_l: f64) -> Option<Measures> {
        let ml_a_unit = match self.form {
            FeedForm::Liquid => 1.0,
            FeedForm::Powder => 1.0 / self.density_kg_per_l?,
        };
        Some(measures(total * ml_a_unit, per_l * ml_a_unit, ML_PER_DROP))
    }

    /// So much of it in the grower's own spoonfuls, where ten of them were weighed.
    #[must_use]
    pub fn own_spoons(&self, total: f64) -> Option<f64> {
        let grams = match self.form {
            FeedForm::Liquid => total * self.density_kg_per_l?,
            FeedForm::Powder => total,
        };
        Some(grams / self.spoon_g?)
    }

    /// So much of it as it is looked at for being too little to measure.
    #[must_use]
    pub fn dosed(&self, total: f64) -> Dosed<'_> {
        Dosed {
            name: &self.name,
            unit: self.form.unit(),
            total,
            soluble_g_per_l: self.ingredient.as_ref().and_then(|i| i.solubility_g_per_l),
            own_spoons: self.own_spoons(total),
        }
    }
}

impl Item {
    /// Poured or weighed. Salts are weighed.
    #[must_use]
    pub fn form(&self) -> FeedForm {
        if self.words(keys::FORM) == Some("liquid") {
            FeedForm::Liquid
        } else {
            FeedForm::Powder
        }
    }

    /// The entry with so many mL or g of it in a litre.
    #[must_use]
    pub fn part(&self, per_l: f64) -> Part {
        let form = self.form();
        let density = self.number(keys::DENSITY_KG_PER_L);
        let grams = if form == FeedForm::Liquid {
            density.map(|d| d * per_l)
        } else {
            Some(per_l)
        };
        let formula = (self.shelf == "salts")
            .then(|| self.words(keys::FORMULA))
            .flatten()
            .map(str::to_owned);
        let label = self.label();
        let known = formula.is_some() || label.is_some();
        Part {
            name: self.name.clone(),
            shelf: self.shelf.clone(),
            form,
            per_l,
            ingredient: grams.filter(|_| known).map(|grams| Ingredient {
                purity_percent: formula
                    .as_ref()
                    .and_then(|_| self.number(keys::PURITY_PERCENT)),
                solubility_g_per_l: self.number(keys::SOLUBILITY_G_PER_L),
                formula,
                label,
                g_per_l: Some(grams),
                ..Ingredient::default()
            }),
            price_per_l: self
                .number(keys::PRICE_PER_KG_OR_L)
                .map(|price| price * per_l / 1000.0),
            density_kg_per_l: density,
            spoon_g: self.number(keys::TEN_SPOONS_G).map(|ten| ten / 10.0),
            of_recipe: false,
        }
    }
}

/// Shelves on which the parts of a recipe stand, in the order in which they are looked through.
pub const PARTS_OF: [&str; 3] = ["feeds", "additives", "salts"];

/// Dose with which something without a label dose comes onto the bench, g or mL in a litre.
const FIRST_DOSE: f64 = 0.1;

impl Stores {
    /// What a cell of the sheet stands for: a feed or additive at its label dose, or the parts of a
    /// recipe. None where no shelf has it, or no dose is on its label.
    ///
    /// ```
    /// use iron_twin_core::stores::Stores;
    /// let stores = Stores::with_own(Vec::new());
    /// assert_eq!(stores.parts("feeds", "grow feed").unwrap().len(), 1);
    /// assert_eq!(stores.parts("feeds", "two-part feed").unwrap().len(), 2);
    /// ```
    #[must_use]
    pub fn parts(&self, shelf: &str, name: &str) -> Option<Vec<Part>> {
        if let Some(item) = self.find(shelf, name) {
            return Some(vec![item.part(item.number(keys::DOSE_PER_L)?)]);
        }
        let recipe = self.find("recipes", name).filter(|_| shelf == "feeds")?;
        let lines = lines::read(recipe.words(keys::LINES)?).ok()?;
        Some(
            lines
                .iter()
                .map(|line| Part {
                    of_recipe: true,
                    ..self.line_part(line)
                })
                .collect(),
        )
    }

    /// The lines that a name stands for on the bench: those of a recipe, else the entry itself at
    /// its label dose, or at a tenth of a gram for a salt. None where no shelf has it.
    #[must_use]
    pub fn lines(&self, name: &str) -> Option<Vec<lines::Line>> {
        if let Some(recipe) = self.find("recipes", name) {
            return lines::read(recipe.words(keys::LINES)?).ok();
        }
        let item = PARTS_OF.iter().find_map(|shelf| self.find(shelf, name))?;
        let per_l = item.number(keys::DOSE_PER_L).unwrap_or(FIRST_DOSE);
        Some(vec![lines::Line {
            per_l,
            form: item.form(),
            name: item.name.clone(),
        }])
    }

    /// The part that a line of a recipe names; without an ingredient where no shelf has it, or in
    /// another form.
    #[must_use]
    pub fn line_part(&self, line: &lines::Line) -> Part {
        let found = PARTS_OF
            .iter()
            .find_map(|shelf| self.find(shelf, &line.name));
        match found {
            Some(item) if item.form() == line.form => item.part(line.per_l),
            _ => Part::unknown(&line.name, line.form, line.per_l),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stores::Held;

    fn recipe(lines: &str) -> Stores {
        let held = [("lines".to_owned(), Held::Words(lines.into()))].into();
        Stores::with_own(vec![Item {
            shelf: "recipes".into(),
            name: "my mix".into(),
            source: String::new(),
            held,
        }])
    }

    #[test]
    fn the_parts_of_a_recipe_are_salts_and_feeds_of_stores() {
        let parts = recipe("0.5 g/L potassium nitrate; 2 mL/L part A, with calcium")
            .parts("feeds", "My Mix")
            .unwrap();
        assert_eq!(
            parts[0].ingredient.as_ref().unwrap().formula.as_deref(),
            Some("KNO3")
        );
        assert_eq!(
            parts[0].ingredient.as_ref().unwrap().solubility_g_per_l,
            Some(316.0)
        );
        let label = Stores::with_own(Vec::new())
            .parts("feeds", "grow feed")
            .unwrap();
        assert!(parts.iter().all(|p| p.of_recipe) && !label[0].of_recipe);
        // 2 mL of 1.2 kg/L.
        assert_eq!(parts[1].ingredient.as_ref().unwrap().g_per_l, Some(2.4));
    }

    #[test]
    fn a_powder_has_spoons_once_its_density_is_known() {
        let powder = |density: Option<f64>| Part {
            density_kg_per_l: density,
            ..Part::unknown("bone meal", FeedForm::Powder, 1.0)
        };
        assert_eq!(powder(None).measures(10.0, 1.0), None);
        // 10 g of 0.8 kg/L are 12.5 mL; a US teaspoon holds 4.929.
        let spoons = powder(Some(0.8)).measures(10.0, 1.0).unwrap();
        assert!((spoons.teaspoons - 12.5 / 4.928_921_593_75).abs() < 1e-9);
    }

    #[test]
    fn own_spoonfuls_are_counted_once_ten_were_weighed() {
        let part = |form, density: Option<f64>, spoon: Option<f64>| Part {
            density_kg_per_l: density,
            spoon_g: spoon,
            ..Part::unknown("salt", form, 1.0)
        };
        assert_eq!(
            part(FeedForm::Powder, None, Some(0.2)).own_spoons(1.0),
            Some(5.0)
        );
        assert_eq!(part(FeedForm::Powder, None, None).own_spoons(1.0), None);
        // 3 mL of 1.2 kg/L are 3.6 g.
        assert!(
            (part(FeedForm::Liquid, Some(1.2), Some(0.9))
                .own_spoons(3.0)
                .unwrap()
                - 4.0)
                .abs()
                < 1e-12
        );
        assert_eq!(
            part(FeedForm::Liquid, None, Some(0.9)).own_spoons(3.0),
            None
        );
        let held = [
            ("formula".to_owned(), Held::Words("KNO3".into())),
            ("ten_spoons_g".to_owned(), Held::Number(41.0)),
        ];
        let item = Item {
            shelf: "salts".into(),
            name: "own salt".into(),
            source: String::new(),
            held: held.into(),
        };
        assert!((item.part(1.0).own_spoons(8.2).unwrap() - 2.0).abs() < 1e-12);
    }

    #[test]
    fn a_name_comes_onto_the_bench_with_its_lines() {
        let stores = Stores::with_own(Vec::new());
        let doses = |name: &str| {
            stores
                .lines(name)
                .map(|l| l.iter().map(|l| l.per_l).collect::<Vec<_>>())
        };
        assert_eq!(doses("two-part feed"), Some(vec![2.0, 2.0]));
        assert_eq!(doses("Grow Feed"), Some(vec![4.0]));
        assert_eq!(doses("potassium nitrate"), Some(vec![0.1]));
        assert_eq!(doses("moon dust"), None);
    }

    #[test]
    fn what_no_shelf_has_is_named_and_not_guessed() {
        let stores = recipe("1 g/L moon dust; 2 g/L part A, with calcium");
        let parts = stores.parts("feeds", "my mix").unwrap();
        assert!(
            parts.iter().all(|p| p.ingredient.is_none()),
            "grams of a liquid are not its dose"
        );
        assert_eq!(stores.parts("additives", "my mix"), None);
        assert_eq!(stores.parts("feeds", "moon dust"), None);
        assert_eq!(
            stores.parts("additives", "willow tea"),
            None,
            "no dose on its label"
        );
    }
}
