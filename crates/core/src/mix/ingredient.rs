//! An ingredient of a recipe: a salt by its formula or a feed by its label, with one dose; and what
//! can be wrong with it.

use iron_twin_chemistry::formula::{Formula, FormulaError};
use iron_twin_chemistry::label::{Brings, Label, LabelError, MOST_DENSITY};
use iron_twin_chemistry::water::WaterError;
use iron_twin_terms::quantity::{LITRES_PER_US_GALLON, ML_PER_US_TEASPOON};
use serde::{Deserialize, Serialize};

/// A salt or a label feed with one dose.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Ingredient {
    /// A salt by its formula.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub formula: Option<String>,
    /// A feed by its label.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub label: Option<Label>,
    /// Share of the salt that is the salt, per cent; 100 where not given.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub purity_percent: Option<f64>,
    /// Dose, mmol of the salt in a litre.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub mmol_per_l: Option<f64>,
    /// Dose, g in a litre.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub g_per_l: Option<f64>,
    /// Dose, g in the whole volume.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub g: Option<f64>,
    /// Dose, mL in a litre.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub ml_per_l: Option<f64>,
    /// Dose, US teaspoons in a US gallon.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub tsp_per_us_gal: Option<f64>,
    /// Density of the powder or liquid, kg/L, where the dose is a volume.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub density_kg_per_l: Option<f64>,
    /// Largest dose, g in a litre, where the recipe aims for a target.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub most_g_per_l: Option<f64>,
    /// How much of it dissolves, g in a litre of water, where concentrates are worked out.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub solubility_g_per_l: Option<f64>,
}

/// What is wrong with a recipe: which ingredient (from 1; None for the recipe itself), which field,
/// and why.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{}{field}: {slip}", .ingredient.as_ref().map(|i| format!("{i}, ")).unwrap_or_default())]
pub struct RecipeError {
    /// The ingredient, as `ingredient 2 (KNO3)`.
    pub ingredient: Option<String>,
    /// Its place in the list, from 0.
    pub index: Option<usize>,
    /// The field.
    pub field: String,
    /// What is wrong.
    pub slip: Slip,
}

/// What is wrong with a field of a recipe.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Slip {
    /// Out of range.
    #[error("must lie between {least} and {most}, got {got}")]
    Range {
        /// Lowest.
        least: f64,
        /// Highest.
        most: f64,
        /// What came.
        got: f64,
    },
    /// No dose, or several.
    #[error("give one dose: mmol_per_l, g_per_l, g, ml_per_l or tsp_per_us_gal; {0} are given")]
    Doses(usize),
    /// A dose beside a target.
    #[error("the doses are worked out from the target; leave this one out, or the target")]
    Aimed,
    /// Neither a salt nor a feed, or both.
    #[error("an ingredient is either a formula or a label")]
    What,
    /// A volume whose mass nobody can know.
    #[error("a dose by volume needs density_kg_per_l")]
    Density,
    /// Moles of a mixture.
    #[error("a label feed has no molar mass; give its dose in g or mL")]
    Moles,
    /// A formula that cannot be read.
    #[error(transparent)]
    Formula(#[from] FormulaError),
    /// A label that cannot be.
    #[error(transparent)]
    Label(#[from] LabelError),
    /// A water that cannot be.
    #[error(transparent)]
    Water(#[from] WaterError),
    /// Too many to be meant.
    #[error("at most {MOST_INGREDIENTS} ingredients, got {0}")]
    Many(usize),
}

/// Least volume, L.
pub const LEAST_VOLUME_L: f64 = 0.001;
/// Greatest volume, L: a swimming pool of it.
pub const MOST_VOLUME_L: f64 = 1e6;
/// Greatest dose, g in a litre: about what the most soluble salts come to.
pub const MOST_G_PER_L: f64 = 1000.0;
/// Most ingredients.
pub const MOST_INGREDIENTS: usize = 100;

/// A figure between its limits, or what is wrong with its field.
pub(super) fn in_range(
    field: &str,
    got: f64,
    least: f64,
    most: f64,
) -> Result<f64, (String, Slip)> {
    if got >= least && got <= most {
        Ok(got)
    } else {
        Err((field.to_owned(), Slip::Range { least, most, got }))
    }
}

impl Ingredient {
    fn doses(&self) -> [(&'static str, Option<f64>); 5] {
        [
            ("mmol_per_l", self.mmol_per_l),
            ("g_per_l", self.g_per_l),
            ("g", self.g),
            ("ml_per_l", self.ml_per_l),
            ("tsp_per_us_gal", self.tsp_per_us_gal),
        ]
    }

    /// What it is called.
    #[must_use]
    pub fn name(&self) -> String {
        match (&self.formula, &self.label) {
            (Some(formula), _) => formula.clone(),
            (None, Some(label)) if !label.name.is_empty() => label.name.clone(),
            _ => "unnamed".into(),
        }
    }

    pub(super) fn density(&self) -> Result<Option<f64>, (String, Slip)> {
        let given = self
            .density_kg_per_l
            .or(self.label.as_ref().and_then(|l| l.density_kg_per_l));
        given
            .map(|d| {
                in_range(
                    "density_kg_per_l",
                    d,
                    iron_twin_chemistry::label::LEAST_DENSITY,
                    MOST_DENSITY,
                )
            })
            .transpose()
    }

    /// What a gram brings, and the molar mass of a salt.
    pub(super) fn brings(&self) -> Result<(Brings, Option<f64>), (String, Slip)> {
        let purity = in_range(
            "purity_percent",
            self.purity_percent.unwrap_or(100.0),
            0.1,
            100.0,
        )? / 100.0;
        match (&self.formula, &self.label) {
            (Some(formula), None) => {
                let formula: Formula = formula
                    .parse()
                    .map_err(|e: FormulaError| ("formula".to_owned(), e.into()))?;
                let mass = formula.molar_mass();
                let mut brings = Brings::default();
                brings
                    .mg_per_g
                    .add_scaled(&formula.nutrients(), 1000.0 * purity / mass);
                brings
                    .mmol_per_g
                    .add_scaled(&formula.ions(), 1000.0 * purity / mass);
                Ok((brings, Some(mass / purity)))
            }
            (None, Some(label)) => Ok((
                label.brings().map_err(|e| ("label".to_owned(), e.into()))?,
                None,
            )),
            _ => Err(("formula".to_owned(), Slip::What)),
        }
    }

    /// What is wrong with the ingredient that stands at this place of a recipe.
    pub(super) fn at(&self, index: usize, (field, slip): (String, Slip)) -> RecipeError {
        let ingredient = Some(format!("ingredient {} ({})", index + 1, self.name()));
        RecipeError {
            ingredient,
            index: Some(index),
            field,
            slip,
        }
    }

    /// Whether a dose is given.
    pub(super) fn is_dosed(&self) -> bool {
        self.doses().iter().any(|(_, dose)| dose.is_some())
    }

    /// Grams in a litre.
    pub(super) fn g_per_l(
        &self,
        volume_l: f64,
        molar_mass: Option<f64>,
    ) -> Result<f64, (String, Slip)> {
        let given: Vec<(&str, f64)> = self
            .doses()
            .iter()
            .filter_map(|(field, dose)| Some((*field, (*dose)?)))
            .collect();
        let [(field, dose)] = given[..] else {
            return Err(("dose".to_owned(), Slip::Doses(given.len())));
        };
        in_range(field, dose, 0.0, f64::MAX)?;
        let by_volume = |ml_per_l: f64| match self.density()? {
            Some(density) => Ok(ml_per_l * density),
            None => Err((field.to_owned(), Slip::Density)),
        };
        let grams = match field {
            "mmol_per_l" => dose * molar_mass.ok_or((field.to_owned(), Slip::Moles))? / 1000.0,
            "g_per_l" => dose,
            "g" => dose / volume_l,
            "ml_per_l" => by_volume(dose)?,
            _ => by_volume(dose * ML_PER_US_TEASPOON / LITRES_PER_US_GALLON)?,
        };
        if grams <= MOST_G_PER_L {
            return Ok(grams);
        }
        // The limit, in the unit in which the dose was given.
        let most = if grams.is_finite() {
            MOST_G_PER_L / grams * dose
        } else {
            MOST_G_PER_L
        };
        Err((
            field.to_owned(),
            Slip::Range {
                least: 0.0,
                most,
                got: dose,
            },
        ))
    }
}
