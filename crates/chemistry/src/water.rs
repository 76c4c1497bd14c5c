//! Source water: what is in it before anything is added.

use super::formula::Formula;
use super::ions::{Ion, Ions};
use super::nutrients::{Nutrient, Nutrients};
use crate::volumes::{LITRES_PER_IMPERIAL_GALLON, LITRES_PER_US_GALLON};
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
    /// mg/L of the ion as named: Ca, Mg, K, Na, Cl, SO4, NO3, NH4, PO4, HCO3, Fe, Mn, Zn, B, Cu,
    /// Mo.
    pub mg_per_l: BTreeMap<String, f64>,
    /// The same in mmol/L, for analyses that come so; an ion is given once.
    pub mmol_per_l: BTreeMap<String, f64>,
    /// Hardness in German degrees, for a water of which no more is known: counted as calcium and
    /// magnesium, 4 to 1.
    pub hardness_dh: Option<f64>,
}

/// What is wrong with a water analysis.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum WaterError {
    /// A key that names nothing known.
    #[error(
        "'{0}' is not known in water; use Ca, Mg, K, Na, Cl, SO4, NO3, NH4, PO4, HCO3, Fe, Mn, \
         Zn, B, Cu or Mo"
    )]
    Unknown(String),
    /// A concentration that cannot be.
    #[error("{field} must lie between 0 and {MOST_MG_PER_L} mg/L, got {got}")]
    Concentration {
        /// Which.
        field: String,
        /// What came.
        got: f64,
    },
    /// An ion given twice.
    #[error("{0} is given in mg/L and in mmol/L; give it once")]
    Twice(String),
    /// Hardness beside the ions that make it.
    #[error("hardness_dh stands for calcium and magnesium; give it or them, not both")]
    Hardness,
    /// A pH that cannot be.
    #[error("ph must lie between 0 and 14, got {0}")]
    Ph(f64),
}

/// Highest concentration in a water that anything is grown in, mg/L.
pub const MOST_MG_PER_L: f64 = 50_000.0;

/// Mass of a milliequivalent of calcium carbonate, mg: half of its molar mass.
pub const MG_PER_MEQ_CACO3: f64 = 50.043;

/// mmol/L of calcium and magnesium together in a German degree of hardness: 10 mg of CaO (56.077
/// g/mol). Source: DIN 19640.
pub const MMOL_PER_GERMAN_DEGREE: f64 = 10.0 / 56.077;
/// Milligrams of calcium carbonate in a litre behind one unit of hardness, by the words it goes by:
/// French degrees (10 mg in a litre), English or Clark degrees (a grain in an imperial gallon), US
/// grains in a US gallon, and plain mg/L or ppm. The grain is 64.798 91 mg (NIST Handbook 44,
/// appendix C).
const HARDNESS_MG_CACO3: [(&[&str], f64); 5] = [
    (&["french", "french degrees", "°f", "°fh", "fh", "tf"], 10.0),
    (
        &["english", "english degrees", "clark", "°e", "°clark"],
        64.798_91 / LITRES_PER_IMPERIAL_GALLON,
    ),
    (
        &["gpg", "grains", "grains per gallon"],
        64.798_91 / LITRES_PER_US_GALLON,
    ),
    (&["mg", "mg/l", "ppm", "mg/l caco3", "ppm caco3"], 1.0),
    (&["mmol", "mmol/l"], 2.0 * MG_PER_MEQ_CACO3),
];

/// German degrees in one unit of hardness of this name; None for a name that is not known.
///
/// ```
/// use iron_twin_chemistry::water::german_degrees_in;
/// // 180 mg/L as CaCO3 are 18 French and about 10 German degrees.
/// assert!((18.0 * german_degrees_in("French").unwrap() - 180.0 * german_degrees_in("ppm").unwrap()).abs() < 1e-12);
/// assert!((180.0 * german_degrees_in("ppm").unwrap() - 10.08).abs() < 0.01);
/// assert_eq!(german_degrees_in("buckets"), None);
/// ```
#[must_use]
pub fn german_degrees_in(unit: &str) -> Option<f64> {
    let unit = unit.trim().to_lowercase();
    if ["german", "german degrees", "°dh", "dh"].contains(&unit.as_str()) {
        return Some(1.0);
    }
    let (_, mg) = HARDNESS_MG_CACO3
        .iter()
        .find(|(names, _)| names.contains(&unit.as_str()))?;
    Some(mg / (2.0 * MG_PER_MEQ_CACO3) / MMOL_PER_GERMAN_DEGREE)
}

/// Share of calcium in the hardness of most waters. Common practice, no source.
const CALCIUM_OF_HARDNESS: f64 = 0.8;
/// Hardest water taken for credible, German degrees.
const MOST_DH: f64 = 200.0;

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

/// A concentration (mg/L) within limits, or the field that is beyond them.
fn concentration(field: &str, got: f64) -> Result<f64, WaterError> {
    if (0.0..=MOST_MG_PER_L).contains(&got) {
        Ok(got)
    } else {
        Err(WaterError::Concentration {
            field: field.to_owned(),
            got,
        })
    }
}

/// Molar mass (g/mol) of what a key stands for.
fn molar_mass(key: &str) -> Result<f64, WaterError> {
    let known = KEYS
        .iter()
        .find(|(own, ..)| *own == key)
        .and_then(|(name, ..)| name.parse::<Formula>().ok());
    Ok(known
        .ok_or_else(|| WaterError::Unknown(key.to_owned()))?
        .molar_mass())
}

impl SourceWater {
    /// Adds so many mmol/L of an ion, in the unit in which the analysis has it.
    pub(crate) fn add_mmol(&mut self, ion: &str, mmol: f64) {
        match (self.mg_per_l.get_mut(ion), ion.parse::<Formula>()) {
            (Some(mg), Ok(formula)) => *mg += mmol * formula.molar_mass(),
            _ => *self.mmol_per_l.entry(ion.to_owned()).or_default() += mmol,
        }
    }

    /// Nutrients (mg/L) and ions (mmol/L).
    ///
    /// # Errors
    /// [`WaterError`], naming the field.
    ///
    /// ```
    /// use iron_twin_chemistry::{ions::Ion, water::SourceWater};
    /// let tap = SourceWater { alkalinity_mg_per_l_caco3: Some(155.0), ..SourceWater::default() };
    /// assert!((tap.content()?.1.get(Ion::HCO3) - 3.097).abs() < 1e-3);
    /// # Ok::<(), iron_twin_chemistry::water::WaterError>(())
    /// ```
    pub fn content(&self) -> Result<(Nutrients, Ions), WaterError> {
        if let Some(ph) = self.ph.filter(|ph| !(0.0..=14.0).contains(ph)) {
            return Err(WaterError::Ph(ph));
        }
        let (mut nutrients, mut ions) = (Nutrients::default(), Ions::default());
        let mut add = |key: &str, mmol: f64| {
            let (_, ion, nutrient) = KEYS
                .iter()
                .find(|(own, ..)| own == &key)
                .expect("looked up before");
            if let Some(ion) = ion {
                ions.add(*ion, mmol);
            }
            if let Some(nutrient) = nutrient {
                let each = super::elements::atomic_weight(nutrient.symbol()).unwrap_or(0.0);
                nutrients.add(*nutrient, mmol * each);
            }
        };
        for (key, &mg) in &self.mg_per_l {
            let molar_mass = molar_mass(key)?;
            add(key, concentration(key, mg)? / molar_mass);
        }
        for (key, &mmol) in &self.mmol_per_l {
            if self.mg_per_l.contains_key(key) {
                return Err(WaterError::Twice(key.clone()));
            }
            add(
                key,
                concentration(key, mmol * molar_mass(key)?).map(|_| mmol)?,
            );
        }
        let given =
            |key: &str| self.mg_per_l.contains_key(key) || self.mmol_per_l.contains_key(key);
        if let Some(degrees) = self.hardness_dh {
            if given("Ca") || given("Mg") {
                return Err(WaterError::Hardness);
            }
            if !(0.0..=MOST_DH).contains(&degrees) {
                return Err(WaterError::Concentration {
                    field: "hardness_dh".into(),
                    got: degrees,
                });
            }
            add("Ca", CALCIUM_OF_HARDNESS * degrees * MMOL_PER_GERMAN_DEGREE);
            add(
                "Mg",
                (1.0 - CALCIUM_OF_HARDNESS) * degrees * MMOL_PER_GERMAN_DEGREE,
            );
        }
        if let (Some(alkalinity), false) = (self.alkalinity_mg_per_l_caco3, given("HCO3")) {
            ions.add(
                Ion::HCO3,
                concentration("alkalinity_mg_per_l_caco3", alkalinity)? / MG_PER_MEQ_CACO3,
            );
        }
        Ok((nutrients, ions))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn water(mg: &[(&str, f64)], mmol: &[(&str, f64)], hardness_dh: Option<f64>) -> SourceWater {
        let map = |list: &[(&str, f64)]| list.iter().map(|(k, v)| ((*k).to_owned(), *v)).collect();
        SourceWater {
            mg_per_l: map(mg),
            mmol_per_l: map(mmol),
            hardness_dh,
            ..SourceWater::default()
        }
    }

    /// DIN 19640: a German degree is 10 mg/L of CaO, 0.1783 mmol/L; 17.85 mg/L as CaCO3.
    #[test]
    fn an_analysis_says_the_same_in_every_unit() {
        let ions = |w: &SourceWater| w.content().unwrap().1;
        let by_mg = ions(&water(&[("Ca", 40.078), ("SO4", 96.06)], &[], None));
        let by_mmol = ions(&water(&[], &[("Ca", 1.0), ("SO4", 1.0)], None));
        for ion in [Ion::Ca, Ion::SO4] {
            assert!((by_mg.get(ion) - by_mmol.get(ion)).abs() < 1e-4, "{ion:?}");
        }
        let hard = ions(&water(&[], &[], Some(10.0)));
        let total = hard.get(Ion::Ca) + hard.get(Ion::Mg);
        assert!((total - 1.783).abs() < 1e-3, "{total}");
        assert!((total * 100.09 - 178.5).abs() < 0.2);
    }

    /// Hardness tables as water works print them: 1 German degree is 1.785 French, 1.25 English,
    /// 17.85 ppm and 1.043 grains per US gallon (from memory of such tables; by the definitions the
    /// same to three digits).
    #[test]
    fn degrees_of_hardness_agree_with_the_tables_of_water_works() {
        for (unit, in_a_german) in [
            ("°fH", 1.785),
            ("Clark", 1.252),
            ("ppm", 17.85),
            ("gpg", 1.043),
            ("mmol/L", 0.1783),
            ("German degrees", 1.0),
        ] {
            let got = 1.0 / german_degrees_in(unit).unwrap();
            assert!((got / in_a_german - 1.0).abs() < 1e-3, "{unit}: {got}");
        }
    }

    #[test]
    fn what_is_given_twice_or_cannot_be_is_refused_by_name() {
        let said = |w: SourceWater| w.content().unwrap_err().to_string();
        assert!(said(water(&[("Ca", 40.0)], &[("Ca", 1.0)], None)).contains("give it once"));
        assert!(said(water(&[("Ca", 40.0)], &[], Some(9.0))).contains("not both"));
        assert!(said(water(&[], &[("Xy", 1.0)], None)).contains("'Xy'"));
        for odd in [-1.0, f64::NAN, 1e9] {
            assert!(said(water(&[], &[("K", odd)], None)).starts_with("K must lie"));
            assert!(said(water(&[], &[], Some(odd))).starts_with("hardness_dh"));
        }
    }
}
