//! Acid or base to a target pH, from the alkalinity and pH of a water by the equilibria of
//! carbonate.
//!
//! The vessel is closed: what carbon dioxide the acid frees stays in. In an open jug it leaves
//! within a day and the pH rises again by itself.
//!
//! Constants at 25 °C: carbonic acid pK 6.352 and 10.329, water 13.995 (database of PHREEQC,
//! Parkhurst and Appelo 2013, from Plummer and Busenberg 1982); phosphoric acid 2.148, 7.198,
//! 12.35, hydrogen sulfate 1.99, and the pairs of phosphate with calcium and magnesium, log K 2.74
//! and 2.87 for HPO4, 1.41 and 1.51 for H2PO4 (the same database, from memory); without these pairs
//! hard water would seem to need more phosphoric acid. Citric acid 3.128, 4.761, 6.396 (CRC
//! Handbook, from memory). Activities after Davies.

use super::activity::log_activity;
use super::ions::{Ion, Ions};
use super::water::{SourceWater, WaterError};
use serde::{Deserialize, Serialize};

/// What moves the pH.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PhProduct {
    /// HNO3: brings nitrogen.
    Nitric,
    /// H3PO4: brings phosphorus.
    Phosphoric,
    /// H2SO4: brings sulfur.
    Sulfuric,
    /// Citric acid: is eaten by microbes within days, and the pH rises again.
    Citric,
    /// KOH: brings potassium.
    PotassiumHydroxide,
    /// K2CO3: brings potassium and alkalinity.
    PotassiumCarbonate,
}

/// pK of each proton of an acid, the strongest first; strong ones are left out of the list.
struct Protons {
    strong: f64,
    weak: &'static [f64],
}

impl PhProduct {
    /// All of them.
    pub const ALL: [Self; 6] = [
        Self::Nitric,
        Self::Phosphoric,
        Self::Sulfuric,
        Self::Citric,
        Self::PotassiumHydroxide,
        Self::PotassiumCarbonate,
    ];

    /// Molar mass, g/mol.
    #[must_use]
    pub fn molar_mass(self) -> f64 {
        match self {
            Self::Nitric => 63.012,
            Self::Phosphoric => 97.994,
            Self::Sulfuric => 98.072,
            Self::Citric => 192.123,
            Self::PotassiumHydroxide => 56.105,
            Self::PotassiumCarbonate => 138.204,
        }
    }

    /// What it is called on a bottle.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Nitric => "nitric acid",
            Self::Phosphoric => "phosphoric acid",
            Self::Sulfuric => "sulfuric acid",
            Self::Citric => "citric acid",
            Self::PotassiumHydroxide => "potassium hydroxide",
            Self::PotassiumCarbonate => "potassium carbonate",
        }
    }

    /// The ion that stays in the water, as an analysis names it, how many of it a mole brings, and
    /// how much bicarbonate comes (base) or is driven out (acid) for their charge. None for
    /// citrate, which no analysis of water has: the bicarbonate that it drives out stands for it.
    fn leaves(self) -> Option<(&'static str, f64, f64)> {
        match self {
            Self::Nitric => Some(("NO3", 1.0, -1.0)),
            Self::Phosphoric => Some(("PO4", 1.0, -1.0)),
            Self::Sulfuric => Some(("SO4", 1.0, -2.0)),
            Self::Citric => None,
            Self::PotassiumHydroxide => Some(("K", 1.0, 1.0)),
            Self::PotassiumCarbonate => Some(("K", 2.0, 2.0)),
        }
    }

    /// What a mmol brings, mg by element.
    #[must_use]
    pub fn brings(self) -> Option<(&'static str, f64)> {
        match self {
            Self::Nitric => Some(("N_NO3", 14.007)),
            Self::Phosphoric => Some(("P", 30.974)),
            Self::Sulfuric => Some(("S", 32.06)),
            Self::Citric => None,
            Self::PotassiumHydroxide => Some(("K", 39.098)),
            Self::PotassiumCarbonate => Some(("K", 2.0 * 39.098)),
        }
    }

    fn is_base(self) -> bool {
        matches!(self, Self::PotassiumHydroxide | Self::PotassiumCarbonate)
    }

    fn protons(self) -> Protons {
        match self {
            Self::Nitric => Protons {
                strong: 1.0,
                weak: &[],
            },
            Self::Phosphoric => Protons {
                strong: 0.0,
                weak: &[2.148, 7.198, 12.35],
            },
            Self::Sulfuric => Protons {
                strong: 1.0,
                weak: &[1.99],
            },
            Self::Citric => Protons {
                strong: 0.0,
                weak: &[3.128, 4.761, 6.396],
            },
            Self::PotassiumHydroxide | Self::PotassiumCarbonate => Protons {
                strong: 0.0,
                weak: &[],
            },
        }
    }
}

/// What to dose.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct PhDose {
    /// mmol in a litre.
    pub mmol_per_l: f64,
    /// Pure substance, mg in a litre.
    pub mg_per_l: f64,
    /// Of the bottle, mL in a litre: by its share of the substance and its density.
    pub ml_per_l: f64,
    /// Element that it brings.
    pub element: Option<&'static str>,
    /// How much of it, mg/L.
    pub element_mg_per_l: f64,
    /// Alkalinity that stays, mg/L as CaCO3: what keeps the pH from swinging.
    pub alkalinity_left_mg_per_l_caco3: f64,
    /// What to mind.
    pub warnings: Vec<String>,
}

/// A bottle.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Bottle {
    /// What is in it.
    pub product: PhProduct,
    /// Share of the substance by mass, per cent.
    pub percent: f64,
    /// Density, kg/L.
    pub density_kg_per_l: f64,
}

/// Why there is no dose.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PhError {
    /// A number out of its range.
    #[error("{what} must lie between {least} and {most}, got {got}")]
    Range {
        /// Which.
        what: &'static str,
        /// Lowest.
        least: f64,
        /// Highest.
        most: f64,
        /// What came.
        got: f64,
    },
    /// pH or alkalinity are not known.
    #[error("the water's pH and alkalinity must be known; put its analysis into Stores")]
    WaterUnknown,
    /// A water that cannot be.
    #[error(transparent)]
    Water(#[from] WaterError),
    /// The wrong way.
    #[error("from pH {from} to {to} takes {}, not this", if *.to < *.from { "an acid" } else { "a base" })]
    WrongWay {
        /// pH of the water.
        from: f64,
        /// pH wanted.
        to: f64,
    },
}

const PK_CARBONIC: [f64; 2] = [6.352, 10.329];
const PK_WATER: f64 = 13.995;
const MG_PER_MEQ_CACO3: f64 = 50.043;
/// Lowest and highest pH that is aimed for.
pub const TARGETS: (f64, f64) = (4.5, 8.5);
/// Above this share by mass an acid or base is handled with more than the usual care, per cent.
/// Common practice, no source.
const STRONG_PERCENT: f64 = 20.0;
/// Below this, mg/L as CaCO3, little keeps the pH. Common practice, no source.
const LITTLE_ALKALINITY: f64 = 20.0;

fn activity(charge: i32, strength: f64) -> f64 {
    10f64.powf(log_activity(charge, strength))
}

/// Alkalinity that a mole of dissolved carbonate gives at a pH, and that of water itself, mol/L.
fn carbonate(ph: f64, strength: f64) -> (f64, f64) {
    let h = 10f64.powf(-ph);
    let (one, two) = (activity(1, strength), activity(2, strength));
    let bicarbonate = 10f64.powf(-PK_CARBONIC[0]) / (h * one);
    let carbonate = bicarbonate * 10f64.powf(-PK_CARBONIC[1]) * one / (h * two);
    let share = (bicarbonate + 2.0 * carbonate) / (1.0 + bicarbonate + carbonate);
    (share, 10f64.powf(-PK_WATER) / (h * one) - h / one)
}

/// By how much pairing with calcium and magnesium multiplies a stage of phosphoric acid, from its
/// charge: 1 for the free ion alone.
fn paired(charge: i32, ions: &Ions, strength: f64) -> f64 {
    let logs = match charge {
        1 => [1.41, 1.51],
        2 => [2.74, 2.87],
        _ => return 1.0,
    };
    let product =
        activity(2, strength) * activity(charge, strength) / activity(2 - charge, strength);
    let of = |ion: Ion, log: f64| 10f64.powf(log) * product * ions.get(ion) / 1000.0;
    1.0 + of(Ion::Ca, logs[0]) + of(Ion::Mg, logs[1])
}

/// Protons that a mole of an acid has given away at a pH.
fn given_away(product: PhProduct, ph: f64, ions: &Ions) -> f64 {
    let (protons, strength) = (product.protons(), strength(ions));
    let h = 10f64.powf(-ph);
    let first = protons.strong as i32;
    // Amounts of each stage against the full acid, and its charge.
    let (mut stage, mut sum, mut charged) = (1.0, 1.0, 0.0);
    for (lost, pk) in (1..).zip(protons.weak) {
        let (before, after) = (
            activity(first + lost - 1, strength),
            activity(first + lost, strength),
        );
        stage *= 10f64.powf(-pk) * before / (h * after);
        let with_pairs = if product == PhProduct::Phosphoric {
            stage * paired(first + lost, ions, strength)
        } else {
            stage
        };
        sum += with_pairs;
        charged += f64::from(lost) * with_pairs;
    }
    protons.strong + charged / sum
}

fn range(what: &'static str, got: f64, least: f64, most: f64) -> Result<f64, PhError> {
    if got >= least && got <= most {
        Ok(got)
    } else {
        Err(PhError::Range {
            what,
            least,
            most,
            got,
        })
    }
}

/// How much of a bottle takes a water to a pH.
///
/// # Errors
/// [`PhError`], naming what is missing or wrong.
///
/// ```
/// use iron_twin_chemistry::acid::{ph_dose, Bottle, PhProduct};
/// use iron_twin_chemistry::water::SourceWater;
/// let tap = SourceWater { ph: Some(7.6), alkalinity_mg_per_l_caco3: Some(155.0), ..SourceWater::default() };
/// let bottle = Bottle { product: PhProduct::Nitric, percent: 38.0, density_kg_per_l: 1.23 };
/// let dose = ph_dose(&tap, &bottle, 5.8)?;
/// assert!((dose.mmol_per_l - 2.34).abs() < 0.05);
/// assert!(ph_dose(&tap, &bottle, 8.0).is_err());
/// # Ok::<(), iron_twin_chemistry::acid::PhError>(())
/// ```
pub fn ph_dose(water: &SourceWater, bottle: &Bottle, target_ph: f64) -> Result<PhDose, PhError> {
    range("target pH", target_ph, TARGETS.0, TARGETS.1)?;
    range("strength, per cent", bottle.percent, 0.1, 100.0)?;
    range("density, kg/L", bottle.density_kg_per_l, 0.5, 2.5)?;
    let (_, ions) = water.content()?;
    let alkalinity = ions.get(Ion::HCO3) / 1000.0;
    let from = water.ph.ok_or(PhError::WaterUnknown)?;
    if water.alkalinity_mg_per_l_caco3.is_none() && !water.mg_per_l.contains_key("HCO3") {
        return Err(PhError::WaterUnknown);
    }
    if (target_ph > from) != bottle.product.is_base() {
        return Err(PhError::WrongWay {
            from,
            to: target_ph,
        });
    }
    let dissolved = strength(&ions);
    let (share, own) = carbonate(from, dissolved);
    let total = ((alkalinity - own) / share).max(0.0);
    let (share, own) = carbonate(target_ph, dissolved);
    // Each mole takes away (acid) or brings (base) so much alkalinity; carbonate brings carbon as
    // well.
    let (brings, carbon) = match bottle.product {
        PhProduct::PotassiumHydroxide => (1.0, 0.0),
        PhProduct::PotassiumCarbonate => (2.0, 1.0),
        acid => (-given_away(acid, target_ph, &ions), 0.0),
    };
    let moles = ((total * share + own - alkalinity) / (brings - carbon * share)).max(0.0);
    let mmol_per_l = 1000.0 * moles;
    let mg_per_l = mmol_per_l * bottle.product.molar_mass();
    let left = 1000.0 * (alkalinity + brings * moles).max(0.0) * MG_PER_MEQ_CACO3;
    let (element, each) = bottle
        .product
        .brings()
        .map_or((None, 0.0), |(element, mg)| (Some(element), mg));
    Ok(PhDose {
        mmol_per_l,
        mg_per_l,
        ml_per_l: mg_per_l / (10.0 * bottle.percent * bottle.density_kg_per_l),
        element,
        element_mg_per_l: each * mmol_per_l,
        alkalinity_left_mg_per_l_caco3: left,
        warnings: minded(bottle, left),
    })
}

/// The water once so much of the bottle is in it: what the acid or base brings, and the bicarbonate
/// that stays.
///
/// # Errors
/// [`PhError::Water`].
///
/// ```
/// use iron_twin_chemistry::acid::{Bottle, PhProduct, corrected, ph_dose};
/// use iron_twin_chemistry::{ions::Ion, water::SourceWater};
/// let tap = SourceWater { ph: Some(7.6), alkalinity_mg_per_l_caco3: Some(155.0), ..SourceWater::default() };
/// let bottle = Bottle { product: PhProduct::Nitric, percent: 38.0, density_kg_per_l: 1.23 };
/// let dose = ph_dose(&tap, &bottle, 5.8)?;
/// let (_, ions) = corrected(&tap, &bottle, &dose, 5.8)?.content()?;
/// assert!((ions.get(Ion::NO3) - dose.mmol_per_l).abs() < 1e-9);
/// assert!((ions.get(Ion::HCO3) - (155.0 / 50.043 - dose.mmol_per_l)).abs() < 1e-6);
/// # Ok::<(), iron_twin_chemistry::acid::PhError>(())
/// ```
pub fn corrected(
    water: &SourceWater,
    bottle: &Bottle,
    dose: &PhDose,
    target_ph: f64,
) -> Result<SourceWater, PhError> {
    let mut after = SourceWater {
        ph: Some(target_ph),
        ..water.clone()
    };
    let Some((ion, each, bicarbonate)) = bottle.product.leaves() else {
        return Ok(after);
    };
    let before = water.content()?.1.get(Ion::HCO3);
    let left = (before + bicarbonate * dose.mmol_per_l).max(0.0);
    after.alkalinity_mg_per_l_caco3 = Some(left * MG_PER_MEQ_CACO3);
    for map in [&mut after.mg_per_l, &mut after.mmol_per_l] {
        map.remove("HCO3");
    }
    after.add_mmol(ion, each * dose.mmol_per_l);
    Ok(after)
}

/// Ionic strength, mol/L.
fn strength(ions: &Ions) -> f64 {
    ions.ionic_strength() / 1000.0
}

fn minded(bottle: &Bottle, alkalinity_left: f64) -> Vec<String> {
    let mut list = Vec::new();
    if bottle.percent > STRONG_PERCENT {
        list.push(format!(
            "{} % is strong: goggles, gloves, fresh air; pour it into water, never water into it, \
             and dilute it well before you dose.",
            bottle.percent
        ));
    }
    if alkalinity_left < LITTLE_ALKALINITY {
        list.push(
            "Little alkalinity stays, so the pH will swing: go in small steps and measure again."
                .into(),
        );
    }
    if bottle.product == PhProduct::Citric {
        list.push("Citric acid is eaten by microbes within days, and the pH rises again.".into());
    }
    list
}

#[cfg(test)]
mod tests {
    use super::super::nutrients::Nutrient;
    use super::*;

    fn tap() -> SourceWater {
        SourceWater {
            ph: Some(7.6),
            alkalinity_mg_per_l_caco3: Some(155.0),
            ..SourceWater::default()
        }
    }

    fn dose(product: PhProduct, target: f64) -> Result<PhDose, PhError> {
        ph_dose(
            &tap(),
            &Bottle {
                product,
                percent: 38.0,
                density_kg_per_l: 1.2,
            },
            target,
        )
    }

    #[test]
    fn more_acid_for_a_lower_ph_and_half_as_much_of_one_with_two_protons() {
        let mmol = |product, target| dose(product, target).unwrap().mmol_per_l;
        assert!(mmol(PhProduct::Nitric, 5.5) > mmol(PhProduct::Nitric, 6.2));
        let ratio = mmol(PhProduct::Nitric, 5.8) / mmol(PhProduct::Sulfuric, 5.8);
        assert!((ratio - 2.0).abs() < 0.01, "{ratio}");
        // Citric acid has given two of its protons and part of the third at pH 5.8.
        let ratio = mmol(PhProduct::Nitric, 5.8) / mmol(PhProduct::Citric, 5.8);
        assert!((1.9..2.4).contains(&ratio), "{ratio}");
    }

    #[test]
    fn a_bottle_twice_as_strong_is_half_the_volume() {
        let ml = |percent| {
            ph_dose(
                &tap(),
                &Bottle {
                    product: PhProduct::Nitric,
                    percent,
                    density_kg_per_l: 1.0,
                },
                5.8,
            )
            .unwrap()
            .ml_per_l
        };
        assert!((ml(10.0) - 2.0 * ml(20.0)).abs() < 1e-12);
        let nitric = dose(PhProduct::Nitric, 5.8).unwrap();
        assert!((nitric.element_mg_per_l - 14.007 * nitric.mmol_per_l).abs() < 1e-9);
        assert!(nitric.warnings[0].contains("never water into it"));
    }

    #[test]
    fn nonsense_is_refused_by_name() {
        assert_eq!(
            dose(PhProduct::Nitric, 9.0).unwrap_err().to_string(),
            "target pH must lie between 4.5 and 8.5, got 9"
        );
        assert!(dose(PhProduct::Nitric, f64::NAN).is_err());
        assert!(
            dose(PhProduct::Nitric, 8.0)
                .unwrap_err()
                .to_string()
                .contains("takes a base")
        );
        assert!(
            dose(PhProduct::PotassiumHydroxide, 6.0)
                .unwrap_err()
                .to_string()
                .contains("takes an acid")
        );
        let bottle = Bottle {
            product: PhProduct::Nitric,
            percent: 0.0,
            density_kg_per_l: 1.2,
        };
        assert!(
            ph_dose(&tap(), &bottle, 5.8)
                .unwrap_err()
                .to_string()
                .contains("strength")
        );
        let unknown = SourceWater {
            ph: Some(7.0),
            ..SourceWater::default()
        };
        let bottle = Bottle {
            percent: 38.0,
            ..bottle
        };
        assert_eq!(ph_dose(&unknown, &bottle, 5.8), Err(PhError::WaterUnknown));
    }

    proptest::proptest! {
        /// What goes in and what is driven out carry the same charge, whatever the bottle, and the
        /// element is found again.
        #[test]
        fn a_corrected_water_keeps_its_charge(
            product in proptest::sample::select(PhProduct::ALL.to_vec()), ph in 6.5f64..8.0, alkalinity in 30.0f64..300.0,
            nitrate in proptest::option::of(1.0f64..40.0), mmol in proptest::bool::ANY,
        ) {
            let mut water = SourceWater { ph: Some(ph), alkalinity_mg_per_l_caco3: Some(alkalinity), ..SourceWater::default() };
            if let Some(nitrate) = nitrate {
                let map = if mmol { &mut water.mmol_per_l } else { &mut water.mg_per_l };
                map.insert("NO3".into(), nitrate);
            }
            let target = if product.is_base() { ph + 0.3 } else { ph - 0.8 };
            let bottle = Bottle { product, percent: 20.0, density_kg_per_l: 1.1 };
            let dose = ph_dose(&water, &bottle, target).unwrap();
            let after = corrected(&water, &bottle, &dose, target).unwrap();
            let charge = |water: &SourceWater| {
                let (_, ions) = water.content().unwrap();
                Ion::ALL.iter().map(|ion| f64::from(ion.charge()) * ions.get(*ion)).sum::<f64>()
            };
            // Where more is given than there is bicarbonate, the rest is the acid of the solution
            // itself.
            let slack = 1e-9 + (2.1 * dose.mmol_per_l - alkalinity / MG_PER_MEQ_CACO3).max(0.0);
            proptest::prop_assert!((charge(&after) - charge(&water)).abs() < slack, "{product:?} {dose:?}");
            let (before, now) = (water.content().unwrap().0, after.content().unwrap().0);
            let gained = match dose.element {
                Some("N_NO3") => now.nitrogen() - before.nitrogen(),
                Some("P") => now.get(Nutrient::P) - before.get(Nutrient::P),
                Some("S") => now.get(Nutrient::S) - before.get(Nutrient::S),
                Some("K") => now.get(Nutrient::K) - before.get(Nutrient::K),
                _ => 0.0,
            };
            proptest::prop_assert!((gained - dose.element_mg_per_l).abs() < 2e-3 * (1.0 + dose.element_mg_per_l), "{gained} {dose:?}");
        }
    }
}
