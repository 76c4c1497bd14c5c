//! Source water: what is in it before anything is added.

use super::formula::Formula;
use super::ions::{Ion, Ions};
use super::nutrients::{Nutrient, Nutrients};
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A water analysis.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct SourceWater {
    /// What it is called.
    pub name: String,
    /// pH as delivered.
    pub ph: Option<f64>,
    /// Alkalinity, mg/L as CaCO3. Counts as bicarbonate unless that is given.
    pub alkalinity_mg_per_l_caco3: Option<f64>,
    /// mg/L of the ion as named: Ca, Mg, K, Na, Cl, SO4, NO3, NH4, PO4, HCO3, Fe, Mn, Zn, B, Cu, Mo.
    pub mg_per_l: BTreeMap<String, f64>,
}

/// What is wrong with a water analysis.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum WaterError {
    /// A key that names nothing known.
    #[error("'{0}' is not known in water; use Ca, Mg, K, Na, Cl, SO4, NO3, NH4, PO4, HCO3, Fe, Mn, Zn, B, Cu or Mo")]
    Unknown(String),
    /// A concentration that cannot be.
    #[error("{field} must lie between 0 and {MOST_MG_PER_L} mg/L, got {got}")]
    Concentration {
        /// Which.
        field: String,
        /// What came.
        got: f64,
    },
    /// A pH that cannot be.
    #[error("ph must lie between 0 and 14, got {0}")]
    Ph(f64),
}

/// Highest concentration in a water that anything is grown in, mg/L.
pub const MOST_MG_PER_L: f64 = 50_000.0;

/// Mass of a milliequivalent of calcium carbonate, mg: half of its molar mass.
const MG_PER_MEQ_CACO3: f64 = 50.043;

/// Formula, ion and nutrient of each key.
const KEYS: [(&str, Option<Ion>, Option<Nutrient>); 16] = [
    ("Ca", Some(Ion::Ca), Some(Nutrient::Ca)),
    ("Mg", Some(Ion::Mg), Some(Nutrient::Mg)),
    ("K", Some(Ion::K), Some(Nutrient::K)),
    ("Na", Some(Ion::Na), Some(Nutrient::Na)),
    ("Cl", Some(Ion::Cl), Some(Nutrient::Cl)),
    ("SO4", Some(Ion::SO4), Some(Nutrient::S)),
    ("NO3", Some(Ion::NO3), Some(Nutrient::NNitrate)),
    ("NH4", Some(Ion::NH4), Some(Nutrient::NAmmonium)),
    ("PO4", Some(Ion::H2PO4), Some(Nutrient::P)),
    ("HCO3", Some(Ion::HCO3), None),
    ("Fe", None, Some(Nutrient::Fe)),
    ("Mn", None, Some(Nutrient::Mn)),
    ("Zn", None, Some(Nutrient::Zn)),
    ("B", None, Some(Nutrient::B)),
    ("Cu", None, Some(Nutrient::Cu)),
    ("Mo", None, Some(Nutrient::Mo)),
];

impl SourceWater {
    /// Nutrients (mg/L) and ions (mmol/L).
    ///
    /// # Errors
    /// [`WaterError`], naming the field.
    ///
    /// ```
    /// use iron_twin_core::chemistry::{ions::Ion, water::SourceWater};
    /// let tap = SourceWater { alkalinity_mg_per_l_caco3: Some(155.0), ..SourceWater::default() };
    /// assert!((tap.content()?.1.get(Ion::HCO3) - 3.097).abs() < 1e-3);
    /// # Ok::<(), iron_twin_core::chemistry::water::WaterError>(())
    /// ```
    pub fn content(&self) -> Result<(Nutrients, Ions), WaterError> {
        if let Some(ph) = self.ph.filter(|ph| !(0.0..=14.0).contains(ph)) {
            return Err(WaterError::Ph(ph));
        }
        let concentration = |field: &str, got: f64| {
            let bad = || WaterError::Concentration { field: field.to_owned(), got };
            if (0.0..=MOST_MG_PER_L).contains(&got) { Ok(got) } else { Err(bad()) }
        };
        let (mut nutrients, mut ions) = (Nutrients::default(), Ions::default());
        for (key, &mg) in &self.mg_per_l {
            let Some((name, ion, nutrient)) = KEYS.iter().find(|(own, ..)| own == key) else {
                return Err(WaterError::Unknown(key.clone()));
            };
            let mg = concentration(key, mg)?;
            let formula: Formula = name.parse().map_err(|_| WaterError::Unknown(key.clone()))?;
            let mmol = mg / formula.molar_mass();
            if let Some(ion) = ion {
                ions.add(*ion, mmol);
            }
            if let Some(nutrient) = nutrient {
                let each = super::elements::atomic_weight(nutrient.symbol()).unwrap_or(0.0);
                nutrients.add(*nutrient, mmol * each);
            }
        }
        if let (Some(alkalinity), false) = (self.alkalinity_mg_per_l_caco3, self.mg_per_l.contains_key("HCO3")) {
            ions.add(Ion::HCO3, concentration("alkalinity_mg_per_l_caco3", alkalinity)? / MG_PER_MEQ_CACO3);
        }
        Ok((nutrients, ions))
    }
}
