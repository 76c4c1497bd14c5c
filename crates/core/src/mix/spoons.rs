//! How a volume is measured with what is at hand: drops, spoons, and doses on a gallon.

use crate::quantity::{LITRES_PER_IMPERIAL_GALLON, LITRES_PER_US_GALLON, ML_PER_US_TEASPOON};
use serde::Serialize;

/// A usual drop, mL: twenty to the millilitre. Common practice; count twenty of your own dropper's and weigh them.
pub const ML_PER_DROP: f64 = 0.05;
/// Teaspoons in a tablespoon. Source: NIST Handbook 44, appendix C.
pub const TEASPOONS_PER_TABLESPOON: f64 = 3.0;
/// Above this many drops nobody counts. Common practice, no source.
const MOST_DROPS: f64 = 60.0;

/// A dose in other measures.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measures {
    /// US teaspoons in the tank.
    pub teaspoons: f64,
    /// US tablespoons in the tank.
    pub tablespoons: f64,
    /// Drops in the tank; null where they are too many to count.
    pub drops: Option<f64>,
    /// US teaspoons in a US gallon.
    pub teaspoons_per_us_gallon: f64,
    /// mL in a US gallon.
    pub ml_per_us_gallon: f64,
    /// mL in an imperial gallon.
    pub ml_per_imperial_gallon: f64,
}

/// A dose of so many mL in the tank and so many in a litre, in other measures; drops of a stated size.
///
/// ```
/// use iron_twin_core::mix::spoons::{measures, ML_PER_DROP};
/// let m = measures(2.0, 1.0, ML_PER_DROP);
/// assert!((m.teaspoons_per_us_gallon - 0.768).abs() < 1e-12);
/// assert_eq!(m.drops, Some(40.0));
/// ```
#[must_use]
pub fn measures(total_ml: f64, ml_per_l: f64, drop_ml: f64) -> Measures {
    let drops = total_ml / drop_ml;
    Measures {
        teaspoons: total_ml / ML_PER_US_TEASPOON,
        tablespoons: total_ml / ML_PER_US_TEASPOON / TEASPOONS_PER_TABLESPOON,
        drops: (drops <= MOST_DROPS).then_some(drops),
        teaspoons_per_us_gallon: ml_per_l * LITRES_PER_US_GALLON / ML_PER_US_TEASPOON,
        ml_per_us_gallon: ml_per_l * LITRES_PER_US_GALLON,
        ml_per_imperial_gallon: ml_per_l * LITRES_PER_IMPERIAL_GALLON,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// NIST Handbook 44, appendix C: a US gallon is 768 teaspoons and 256 tablespoons; an imperial gallon is 4.546 09 L
    /// (Weights and Measures Act 1985, schedule 1), 1.200 95 US gallons.
    #[test]
    fn gallons_and_spoons_are_those_of_the_handbook() {
        let gallon = measures(3_785.411_784, 1000.0, ML_PER_DROP);
        assert!((gallon.teaspoons - 768.0).abs() < 1e-9);
        assert!((gallon.tablespoons - 256.0).abs() < 1e-9);
        assert_eq!(gallon.drops, None);
        assert!((gallon.ml_per_imperial_gallon / gallon.ml_per_us_gallon - 1.200_95).abs() < 1e-5);
    }
}
