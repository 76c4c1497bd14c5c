//! What a logger records by itself, minute by minute: its unit, the units in which loggers write
//! it, and what cannot be.
//!
//! Limits are common practice, no source, unless a physical bound sets them.

use serde::{Deserialize, Serialize};

/// A quantity that a logger records.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = LoggedQuantity))]
#[serde(rename_all = "snake_case")]
pub enum Logged {
    /// Temperature of the air.
    AirTemperature,
    /// Relative humidity of the air.
    Humidity,
    /// Light for photosynthesis on a surface.
    Light,
    /// Carbon dioxide in the air.
    CarbonDioxide,
    /// Temperature of the solution.
    SolutionTemperature,
    /// pH of the solution.
    Ph,
    /// Electrical conductivity of the solution at 25 °C.
    Ec,
    /// Dissolved oxygen.
    DissolvedOxygen,
    /// Depth of the solution.
    Level,
    /// Electric power drawn.
    Power,
}

/// A unit in which loggers write a quantity: times `factor`, plus `offset`, it is in the quantity's
/// own unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct WrittenIn {
    /// Its sign.
    pub sign: &'static str,
    /// Multiplied by this,
    pub factor: f64,
    /// then this added.
    pub offset: f64,
}

impl Logged {
    /// All, in the order of the page.
    pub const ALL: [Self; 10] = [
        Self::AirTemperature,
        Self::Humidity,
        Self::Light,
        Self::CarbonDioxide,
        Self::SolutionTemperature,
        Self::Ph,
        Self::Ec,
        Self::DissolvedOxygen,
        Self::Level,
        Self::Power,
    ];

    /// Its stable key.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::AirTemperature => "air_temperature",
            Self::Humidity => "humidity",
            Self::Light => "light",
            Self::CarbonDioxide => "carbon_dioxide",
            Self::SolutionTemperature => "solution_temperature",
            Self::Ph => "ph",
            Self::Ec => "ec",
            Self::DissolvedOxygen => "dissolved_oxygen",
            Self::Level => "level",
            Self::Power => "power",
        }
    }

    /// As a grower says it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::AirTemperature => "air temperature",
            Self::Humidity => "humidity",
            Self::Light => "light",
            Self::CarbonDioxide => "carbon dioxide",
            Self::SolutionTemperature => "solution temperature",
            Self::Ph => "pH",
            Self::Ec => "EC",
            Self::DissolvedOxygen => "dissolved oxygen",
            Self::Level => "level",
            Self::Power => "power",
        }
    }

    /// Units in which it is written; the first is its own.
    #[must_use]
    pub fn units(self) -> &'static [WrittenIn] {
        const fn by(sign: &'static str, factor: f64) -> WrittenIn {
            WrittenIn {
                sign,
                factor,
                offset: 0.0,
            }
        }
        // Degrees Celsius are (°F - 32) x 5/9.
        const TEMPERATURE: &[WrittenIn] = &[
            by("°C", 1.0),
            WrittenIn {
                sign: "°F",
                factor: 5.0 / 9.0,
                offset: -160.0 / 9.0,
            },
        ];
        match self {
            Self::AirTemperature | Self::SolutionTemperature => TEMPERATURE,
            Self::Humidity => const { &[by("%", 1.0)] },
            Self::Light => const { &[by("µmol/m²s", 1.0)] },
            Self::CarbonDioxide => const { &[by("ppm", 1.0)] },
            Self::Ph => const { &[by("", 1.0)] },
            Self::Ec => {
                const {
                    &[
                        by("mS/cm", 1.0),
                        by("µS/cm", 0.001),
                        by("dS/m", 1.0),
                        by("mS/m", 0.01),
                    ]
                }
            }
            Self::DissolvedOxygen => const { &[by("mg/L", 1.0)] },
            Self::Level => const { &[by("cm", 1.0), by("mm", 0.1), by("in", 2.54)] },
            Self::Power => const { &[by("W", 1.0), by("kW", 1000.0)] },
        }
    }

    /// Its own unit; empty for pH.
    #[must_use]
    pub fn unit(self) -> &'static str {
        self.units()[0].sign
    }

    /// The least and the greatest that can be: a probe that says more is broken, or pulled out.
    #[must_use]
    pub fn limits(self) -> (f64, f64) {
        match self {
            Self::AirTemperature => (-50.0, 70.0),
            Self::Humidity => (0.0, 100.0),
            Self::Light => (0.0, 4000.0),
            Self::CarbonDioxide => (0.0, 20_000.0),
            Self::SolutionTemperature => (-5.0, 60.0),
            Self::Ph => (0.0, 14.0),
            Self::Ec => (0.0, 20.0),
            Self::DissolvedOxygen => (0.0, 50.0),
            Self::Level => (0.0, 300.0),
            Self::Power => (0.0, 100_000.0),
        }
    }

    /// Decimals shown.
    #[must_use]
    pub fn decimals(self) -> u32 {
        match self {
            Self::Light | Self::CarbonDioxide | Self::Power => 0,
            Self::AirTemperature
            | Self::Humidity
            | Self::SolutionTemperature
            | Self::DissolvedOxygen
            | Self::Level => 1,
            Self::Ph | Self::Ec => 2,
        }
    }

    /// What a column is likely to hold, by the words of its head; None where they say nothing.
    ///
    /// ```
    /// use iron_twin_core::catalogue::logged::Logged;
    /// assert_eq!(Logged::of_heading("Water temp (°F)"), Some((Logged::SolutionTemperature, "°F")));
    /// assert_eq!(Logged::of_heading("RH [%]"), Some((Logged::Humidity, "%")));
    /// assert_eq!(Logged::of_heading("EC µS/cm"), Some((Logged::Ec, "µS/cm")));
    /// assert_eq!(Logged::of_heading("battery"), None);
    /// ```
    #[must_use]
    pub fn of_heading(heading: &str) -> Option<(Self, &'static str)> {
        // The micro sign is written in three ways.
        let lower = heading
            .to_lowercase()
            .replace('μ', "µ")
            .replace("us/cm", "µs/cm")
            .replace("umol", "µmol");
        let words: Vec<&str> = lower
            .split(|c: char| !c.is_alphanumeric())
            .filter(|w| !w.is_empty())
            .collect();
        let word = |any: &[&str]| words.iter().any(|w| any.contains(w));
        let begins = |any: &[&str]| words.iter().any(|w| any.iter().any(|a| w.starts_with(a)));
        let wet = begins(&["water", "solution", "reservoir", "tank", "root", "nutrient"]);
        let own = if begins(&["hum"]) || word(&["rh"]) {
            Self::Humidity
        } else if begins(&["temp"]) || word(&["t"]) {
            if wet {
                Self::SolutionTemperature
            } else {
                Self::AirTemperature
            }
        } else if word(&["ppfd", "par", "light"]) {
            Self::Light
        } else if word(&["co2"]) {
            Self::CarbonDioxide
        } else if word(&["ph"]) {
            Self::Ph
        } else if word(&["ec"]) || begins(&["conduct"]) {
            Self::Ec
        } else if word(&["do", "o2"]) || begins(&["oxygen"]) {
            Self::DissolvedOxygen
        } else if begins(&["level", "depth"]) {
            Self::Level
        } else if begins(&["power", "watt"]) || word(&["w", "kw"]) {
            Self::Power
        } else {
            return None;
        };
        // The longest sign that stands in it: "mS/cm" holds "mS/c", and "kW" holds "W".
        let told = own
            .units()
            .iter()
            .filter(|u| !u.sign.is_empty() && lower.contains(&u.sign.to_lowercase()));
        let bare_f = || {
            own.units()
                .iter()
                .find(|u| u.sign == "°F")
                .filter(|_| word(&["f", "degf"]))
        };
        let unit = told
            .max_by_key(|u| u.sign.len())
            .or_else(bare_f)
            .unwrap_or(&own.units()[0]);
        Some((own, unit.sign))
    }

    /// A value as it was written, in the quantity's own unit; None for a unit it does not have.
    #[must_use]
    pub fn from_written(self, value: f64, sign: &str) -> Option<f64> {
        let unit = self.units().iter().find(|u| u.sign == sign)?;
        Some(value * unit.factor + unit.offset)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn units_are_turned_into_the_quantitys_own() {
        let close = |own: Logged, value, sign, expected: f64| {
            let got = own.from_written(value, sign).expect("a unit");
            assert!((got - expected).abs() < 1e-12, "{value} {sign}: {got}");
        };
        // The freezing and boiling points of water, and the one value at which both scales agree.
        close(Logged::AirTemperature, 32.0, "°F", 0.0);
        close(Logged::AirTemperature, 212.0, "°F", 100.0);
        close(Logged::AirTemperature, -40.0, "°F", -40.0);
        close(Logged::Ec, 1413.0, "µS/cm", 1.413);
        close(Logged::Ec, 1.413, "dS/m", 1.413);
        close(Logged::Level, 2.0, "in", 5.08);
        assert_eq!(Logged::Ph.from_written(7.0, "°C"), None);
    }

    #[test]
    fn headings_are_understood() {
        let told = |heading| Logged::of_heading(heading).map(|(own, unit)| (own.key(), unit));
        assert_eq!(told("Temperature (C)"), Some(("air_temperature", "°C")));
        assert_eq!(told("temp F"), Some(("air_temperature", "°F")));
        assert_eq!(told("Tank_Temp_C"), Some(("solution_temperature", "°C")));
        assert_eq!(told("Conductivity [uS/cm]"), Some(("ec", "µS/cm")));
        assert_eq!(told("PPFD (μmol/m²s)"), Some(("light", "µmol/m²s")));
        assert_eq!(told("CO2 ppm"), Some(("carbon_dioxide", "ppm")));
        assert_eq!(told("Power kW"), Some(("power", "kW")));
        assert_eq!(told("phase"), None);
        assert_eq!(told(""), None);
    }
}
