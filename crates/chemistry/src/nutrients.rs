//! What plants take from a solution, by mass.

use serde::{Deserialize, Serialize};

/// A nutrient, or a companion that growers watch. Nitrogen stands in the forms it comes in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Nutrient {
    /// Nitrogen of nitrate.
    #[serde(rename = "N_nitrate")]
    NNitrate,
    /// Nitrogen of ammonium.
    #[serde(rename = "N_ammonium")]
    NAmmonium,
    /// Nitrogen of urea.
    #[serde(rename = "N_urea")]
    NUrea,
    /// Nitrogen bound otherwise, as in a chelate.
    #[serde(rename = "N_other")]
    NOther,
    /// Phosphorus.
    P,
    /// Potassium.
    K,
    /// Calcium.
    Ca,
    /// Magnesium.
    Mg,
    /// Sulfur.
    S,
    /// Sodium.
    Na,
    /// Chloride.
    Cl,
    /// Iron.
    Fe,
    /// Manganese.
    Mn,
    /// Zinc.
    Zn,
    /// Boron.
    B,
    /// Copper.
    Cu,
    /// Molybdenum.
    Mo,
}

impl Nutrient {
    /// All of them, in the order in which they are shown.
    pub const ALL: [Self; 17] = [
        Self::NNitrate,
        Self::NAmmonium,
        Self::NUrea,
        Self::NOther,
        Self::P,
        Self::K,
        Self::Ca,
        Self::Mg,
        Self::S,
        Self::Na,
        Self::Cl,
        Self::Fe,
        Self::Mn,
        Self::Zn,
        Self::B,
        Self::Cu,
        Self::Mo,
    ];

    /// As it is written: `K`, `N_nitrate`.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::NNitrate => "N_nitrate",
            Self::NAmmonium => "N_ammonium",
            Self::NUrea => "N_urea",
            Self::NOther => "N_other",
            other => other.symbol(),
        }
    }

    /// Symbol of its element.
    #[must_use]
    pub fn symbol(self) -> &'static str {
        match self {
            Self::NNitrate | Self::NAmmonium | Self::NUrea | Self::NOther => "N",
            Self::P => "P",
            Self::K => "K",
            Self::Ca => "Ca",
            Self::Mg => "Mg",
            Self::S => "S",
            Self::Na => "Na",
            Self::Cl => "Cl",
            Self::Fe => "Fe",
            Self::Mn => "Mn",
            Self::Zn => "Zn",
            Self::B => "B",
            Self::Cu => "Cu",
            Self::Mo => "Mo",
        }
    }
}

/// Masses of nutrients: mg in a litre, or mg in a gram of a product.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Nutrients([f64; Nutrient::ALL.len()]);

impl Nutrients {
    /// Mass of one nutrient.
    #[must_use]
    pub fn get(&self, nutrient: Nutrient) -> f64 {
        self.0[nutrient as usize]
    }

    /// Adds to one nutrient.
    pub fn add(&mut self, nutrient: Nutrient, mass: f64) {
        self.0[nutrient as usize] += mass;
    }

    /// All nitrogen, whatever its form.
    #[must_use]
    pub fn nitrogen(&self) -> f64 {
        [
            Nutrient::NNitrate,
            Nutrient::NAmmonium,
            Nutrient::NUrea,
            Nutrient::NOther,
        ]
        .iter()
        .map(|&n| self.get(n))
        .sum()
    }

    /// `factor` times another amount, added.
    pub fn add_scaled(&mut self, other: &Self, factor: f64) {
        self.0
            .iter_mut()
            .zip(other.0)
            .for_each(|(own, more)| *own += factor * more);
    }

    /// Whether nothing is in it.
    #[must_use]
    pub fn is_nothing(&self) -> bool {
        self.0.iter().all(|&m| m == 0.0)
    }
}
