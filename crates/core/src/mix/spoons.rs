//! How a dose is measured with what is at hand: drops, spoons, doses on a gallon, the grower's own
//! spoonfuls; and what is weighed instead where a dose is too little for all of them.

use iron_twin_terms::quantity::{
    LITRES_PER_IMPERIAL_GALLON, LITRES_PER_US_GALLON, ML_PER_US_TEASPOON,
};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::severity::Warning;
use serde::Serialize;

/// A usual drop, mL: twenty to the millilitre. Common practice; count twenty of your own dropper's
/// and weigh them.
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

/// A dose of so many mL in the tank and so many in a litre, in other measures; drops of a stated
/// size.
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

/// A dose of something.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dosed<'a> {
    /// What it is called.
    pub name: &'a str,
    /// `mL` or `g`.
    pub unit: &'static str,
    /// mL or g in the tank.
    pub total: f64,
    /// g of it that dissolve in a litre of water at 20 °C, where known.
    pub soluble_g_per_l: Option<f64>,
    /// In the grower's own spoonfuls, where ten of them were weighed.
    pub own_spoons: Option<f64>,
}

/// A dose smaller than this cannot be measured with kitchen means, mL or g. Common practice, no
/// source.
const LITTLE: f64 = 0.5;
/// Half a spoonful can still be judged by eye. Common practice, no source.
const LEAST_SPOON: f64 = 0.5;
/// What is weighed or poured for a dilution: ten times the least that is measured well, so that a
/// scale's step is 1 % of it or less.
const FOR_DILUTION: f64 = 10.0 * LITTLE;
/// Vessels for a dilution, mL.
const VESSELS_ML: [f64; 5] = [100.0, 250.0, 500.0, 1000.0, 2000.0];
/// Least that is taken of a dilution, mL: a syringe reads it to a few per cent. Common practice, no
/// source.
const LEAST_TAKEN_ML: f64 = 2.0;
/// Share of what would dissolve that a dilution may hold, so that all of it does, and soon.
const DISSOLVES: f64 = 0.5;

/// What to weigh or pour instead of a dose that is too little, and how much of the dilution holds
/// that dose.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Dilution {
    /// g or mL to weigh or pour.
    pub amount: f64,
    /// What it is filled up to with water, mL.
    pub fill_to_ml: f64,
    /// What to take of that, mL.
    pub take_ml: f64,
}

impl Dosed<'_> {
    /// Whether kitchen means fail, the grower's own spoon among them.
    #[must_use]
    pub fn is_too_little(&self) -> bool {
        self.total > 0.0 && self.total < LITTLE && self.own_spoons.is_none_or(|n| n < LEAST_SPOON)
    }

    /// A dilution from which the dose can be measured: the smallest in which all dissolves and of
    /// which enough is taken. None where no kitchen vessel is large enough.
    ///
    /// ```
    /// use iron_twin_core::mix::spoons::Dosed;
    /// let salt = Dosed { name: "", unit: "g", total: 0.12, soluble_g_per_l: None, own_spoons: None };
    /// let d = salt.dilution().unwrap();
    /// assert_eq!((d.amount, d.fill_to_ml, d.take_ml), (5.0, 100.0, 2.4));
    /// ```
    #[must_use]
    pub fn dilution(&self) -> Option<Dilution> {
        let amount = FOR_DILUTION;
        let fits = |fill_to_ml: f64| {
            let dissolves = self
                .soluble_g_per_l
                .is_none_or(|most| amount / fill_to_ml * 1000.0 <= DISSOLVES * most);
            let take_ml = self.total * fill_to_ml / amount;
            (dissolves && take_ml >= LEAST_TAKEN_ML).then_some(Dilution {
                amount,
                fill_to_ml,
                take_ml,
            })
        };
        VESSELS_ML.into_iter().find_map(fits)
    }

    fn said(&self) -> String {
        let (unit, name) = (self.unit, self.name);
        let dose = if unit == "g" && self.total < 0.1 {
            format!("{} mg of {name}", figure(1000.0 * self.total))
        } else {
            format!("{} {unit} of {name}", figure(self.total))
        };
        let Some(d) = self.dilution() else {
            return dose;
        };
        let verb = if unit == "g" { "dissolve" } else { "thin" };
        format!(
            "{dose} ({verb} {} {unit} in water to {} mL and take {} mL of it)",
            d.amount,
            d.fill_to_ml,
            figure(d.take_ml)
        )
    }
}

/// Three digits and no more than that: `0.123`, `7`, `34`.
fn figure(value: f64) -> String {
    let decimals = (2.0 - value.abs().max(1e-9).log10().floor()).max(0.0) as usize;
    let text = format!("{value:.decimals$}");
    if text.contains('.') {
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    } else {
        text
    }
}

/// Doses too small for kitchen means, each with the dilution to measure instead, in one warning.
pub(crate) fn too_little<'a>(doses: impl Iterator<Item = Dosed<'a>>) -> Option<Warning> {
    let list: Vec<String> = doses
        .filter(Dosed::is_too_little)
        .map(|dose| dose.said())
        .collect();
    (!list.is_empty()).then(|| Warning {
        code: "dose_too_small",
        severity: Severity::Minor,
        message: format!(
            "Too little to measure well: {}. Rinse the measure into the tank. Or weigh ten of \
             your own spoonfuls once and put that into Stores.",
            list.join("; ")
        ),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    /// NIST Handbook 44, appendix C: a US gallon is 768 teaspoons and 256 tablespoons; an imperial
    /// gallon is 4.546 09 L (Weights and Measures Act 1985, schedule 1), 1.200 95 US gallons.
    #[test]
    fn gallons_and_spoons_are_those_of_the_handbook() {
        let gallon = measures(3_785.411_784, 1000.0, ML_PER_DROP);
        assert!((gallon.teaspoons - 768.0).abs() < 1e-9);
        assert!((gallon.tablespoons - 256.0).abs() < 1e-9);
        assert_eq!(gallon.drops, None);
        assert!((gallon.ml_per_imperial_gallon / gallon.ml_per_us_gallon - 1.200_95).abs() < 1e-5);
    }

    fn dosed(total: f64) -> Dosed<'static> {
        Dosed {
            name: "iron EDTA",
            unit: "g",
            total,
            soluble_g_per_l: None,
            own_spoons: None,
        }
    }

    #[test]
    fn what_a_spoon_holds_is_not_too_little() {
        assert!(
            dosed(0.2).is_too_little()
                && !dosed(0.5).is_too_little()
                && !dosed(0.0).is_too_little()
        );
        assert!(
            !Dosed {
                own_spoons: Some(2.0),
                ..dosed(0.2)
            }
            .is_too_little()
        );
        assert!(
            Dosed {
                own_spoons: Some(0.1),
                ..dosed(0.2)
            }
            .is_too_little()
        );
    }

    #[test]
    fn a_dilution_dissolves_and_enough_is_taken_of_it() {
        // Calcium hydroxide, 1.7 g/L at 20 °C (CRC Handbook, from memory): five grams of it
        // dissolve in no kitchen vessel.
        assert_eq!(
            Dosed {
                soluble_g_per_l: Some(1.7),
                ..dosed(0.2)
            }
            .dilution(),
            None
        );
        // Boric acid, 47 g/L at 20 °C: 50 g/L is too much, 20 g/L is less than half of what
        // dissolves.
        let boric = Dosed {
            soluble_g_per_l: Some(47.0),
            ..dosed(0.2)
        }
        .dilution()
        .unwrap();
        assert_eq!((boric.fill_to_ml, boric.take_ml), (250.0, 10.0));
        assert_eq!(
            dosed(0.001).dilution(),
            None,
            "a mg wants a dilution of a dilution: make a concentrate"
        );
    }

    #[test]
    fn the_warning_names_each_dose_with_a_figure_that_can_be_read() {
        let poured = Dosed {
            name: "acid",
            unit: "mL",
            ..dosed(0.3)
        };
        let said = too_little([dosed(0.034), poured, dosed(3.0)].into_iter())
            .unwrap()
            .message;
        assert!(
            said.contains(
                "34 mg of iron EDTA (dissolve 5 g in water to 500 mL and take 3.4 mL of it); 0.3 \
                 mL of acid (thin 5 mL"
            ),
            "{said}"
        );
        assert!(!said.contains("3 g of"), "{said}");
        assert_eq!(too_little([dosed(3.0)].into_iter()), None);
        assert_eq!(
            ["0.0044", "0.123", "7", "34.4", "123", "2.85"],
            [0.0044, 0.123, 7.0, 34.4, 123.4, 2.85]
                .map(figure)
                .each_ref()
                .map(String::as_str)
        );
    }

    proptest::proptest! {
        /// What is taken of the dilution holds the dose.
        #[test]
        fn a_dilution_holds_the_dose(total in 1e-4f64..0.5, soluble in proptest::option::of(1.0f64..2000.0)) {
            if let Some(d) = (Dosed { soluble_g_per_l: soluble, ..dosed(total) }).dilution() {
                proptest::prop_assert!((d.take_ml * d.amount / d.fill_to_ml - total).abs() < 1e-12);
                proptest::prop_assert!(d.take_ml >= LEAST_TAKEN_ML && d.take_ml <= d.fill_to_ml);
                proptest::prop_assert!(soluble.is_none_or(|most| d.amount / d.fill_to_ml * 1000.0 <= 0.5 * most));
            }
        }
    }
}
