//! What follows from a logger's record: vapour pressure deficit, daily light integral, degree days,
//! oxygen saturation.

use crate::catalogue::logged::Logged;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// A quantity that is computed from what loggers recorded at one place.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ComputedQuantity))]
#[serde(rename_all = "snake_case")]
pub enum Computed {
    /// How much more water the air could take up, by the hour.
    VapourPressureDeficit,
    /// Light of a day, for days without a gap.
    DailyLight,
    /// Warmth above 5 °C, added up.
    DegreeDays,
    /// Dissolved oxygen as a share of what the water can hold, by the hour.
    OxygenSaturation,
}

/// Warmth below this counts nothing for growth, °C: usual for cool-season greens, common practice,
/// no source.
pub const BASE_C: f64 = 5.0;

/// Pressure of water vapour over water, kPa: Allen et al. (1998), FAO Irrigation and Drainage Paper
/// 56, equation 11.
///
/// ```
/// use iron_twin_core::tend::computed::saturation_kpa;
/// // Its table 2.3, to three decimals.
/// for (celsius, kpa) in [(10.0, 1.228), (20.0, 2.338), (25.0, 3.168), (30.0, 4.243), (40.0, 7.376)] {
///     assert!((saturation_kpa(celsius) - kpa).abs() < 6e-4, "{celsius}");
/// }
/// ```
#[must_use]
pub fn saturation_kpa(celsius: f64) -> f64 {
    0.6108 * (17.27 * celsius / (celsius + 237.3)).exp()
}

/// How much more vapour air could take up, kPa, from °C and % relative humidity.
///
/// ```
/// use iron_twin_core::tend::computed::deficit_kpa;
/// assert!((deficit_kpa(25.0, 60.0) - 0.4 * 3.168).abs() < 1e-3);
/// assert_eq!(deficit_kpa(25.0, 100.0), 0.0);
/// ```
#[must_use]
pub fn deficit_kpa(celsius: f64, humidity_percent: f64) -> f64 {
    saturation_kpa(celsius) * (1.0 - humidity_percent / 100.0)
}

/// Oxygen that fresh water holds in air at sea level, mg/L: Benson and Krause (1984), as in
/// Standard Methods 4500-O.
///
/// ```
/// use iron_twin_core::tend::computed::oxygen_held_mg_per_l;
/// // Standard Methods, table 4500-O:I (from memory), to three decimals.
/// let table = [(0.0, 14.621), (10.0, 11.288), (15.0, 10.084), (20.0, 9.092), (25.0, 8.263), (30.0, 7.559)];
/// for (celsius, mg_per_l) in table {
///     assert!((oxygen_held_mg_per_l(celsius) - mg_per_l).abs() < 6e-4, "{celsius}");
/// }
/// ```
#[must_use]
pub fn oxygen_held_mg_per_l(celsius: f64) -> f64 {
    let kelvin = celsius + 273.15;
    let terms = [
        -139.344_11,
        1.575_701e5,
        -6.642_308e7,
        1.243_800e10,
        -8.621_949e11,
    ];
    terms
        .iter()
        .rev()
        .fold(0.0, |sum, term| sum / kelvin + term)
        .exp()
}

/// Light of an hour, mol/m², from its mean in µmol/m²s.
///
/// ```
/// use iron_twin_core::tend::computed::hour_of_light_mol;
/// // Sixteen hours at 200 µmol/m²s are 11.52 mol/m².
/// assert!((16.0 * hour_of_light_mol(200.0) - 11.52).abs() < 1e-12);
/// ```
#[must_use]
pub fn hour_of_light_mol(mean_umol: f64) -> f64 {
    mean_umol * 3600.0 / 1e6
}

/// Hours of a day that must be on record for its light: one is missing where clocks are put
/// forward.
const WHOLE_DAY: usize = 23;

impl Computed {
    /// All, in the order of the page.
    pub const ALL: [Self; 4] = [
        Self::VapourPressureDeficit,
        Self::DailyLight,
        Self::DegreeDays,
        Self::OxygenSaturation,
    ];

    /// As a grower says it.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::VapourPressureDeficit => "vapour pressure deficit",
            Self::DailyLight => "daily light integral",
            Self::DegreeDays => "degree days above 5 °C",
            Self::OxygenSaturation => "oxygen saturation",
        }
    }

    /// Its unit.
    #[must_use]
    pub fn unit(self) -> &'static str {
        match self {
            Self::VapourPressureDeficit => "kPa",
            Self::DailyLight => "mol/m²",
            Self::DegreeDays => "°C days",
            Self::OxygenSaturation => "%",
        }
    }

    /// Decimals shown.
    #[must_use]
    pub fn decimals(self) -> u32 {
        match self {
            Self::VapourPressureDeficit => 2,
            Self::DailyLight => 1,
            Self::DegreeDays | Self::OxygenSaturation => 0,
        }
    }

    /// What it is computed from, at one place.
    #[must_use]
    pub fn needs(self) -> &'static [Logged] {
        match self {
            Self::VapourPressureDeficit => &[Logged::AirTemperature, Logged::Humidity],
            Self::DailyLight => &[Logged::Light],
            Self::DegreeDays => &[Logged::AirTemperature],
            Self::OxygenSaturation => &[Logged::DissolvedOxygen, Logged::SolutionTemperature],
        }
    }

    /// Its values by hour since 1970, from the hourly means of what it needs; hours in which one is
    /// missing have none. `day_of` tells on which day of the trial an hour lies: light is told at
    /// the last hour of its day.
    #[must_use]
    pub fn values(
        self,
        needs: &[BTreeMap<i64, f64>],
        day_of: impl Fn(i64) -> i64,
    ) -> Vec<(i64, f64)> {
        let Some(first) = needs.first().filter(|_| needs.len() == self.needs().len()) else {
            return Vec::new();
        };
        let both = |with: fn(f64, f64) -> f64| -> Vec<(i64, f64)> {
            first
                .iter()
                .filter_map(|(hour, a)| Some((*hour, with(*a, *needs[1].get(hour)?))))
                .collect()
        };
        match self {
            Self::VapourPressureDeficit => both(deficit_kpa),
            Self::OxygenSaturation => {
                both(|mg_per_l, celsius| 100.0 * mg_per_l / oxygen_held_mg_per_l(celsius))
            }
            Self::DegreeDays => {
                let mut sum = 0.0;
                let added = first.iter().map(|(hour, celsius)| {
                    sum += (celsius - BASE_C).max(0.0) / 24.0;
                    (*hour, sum)
                });
                added.collect()
            }
            Self::DailyLight => {
                let mut days: BTreeMap<i64, (usize, f64, i64)> = BTreeMap::new();
                for (hour, mean) in first {
                    let own = days.entry(day_of(*hour)).or_default();
                    *own = (own.0 + 1, own.1 + hour_of_light_mol(*mean), *hour);
                }
                days.into_values()
                    .filter(|d| d.0 >= WHOLE_DAY)
                    .map(|(_, mol, last)| (last, mol))
                    .collect()
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn hours(values: impl IntoIterator<Item = f64>) -> BTreeMap<i64, f64> {
        (0..).zip(values).collect()
    }

    #[test]
    fn what_lacks_one_of_two_has_no_value() {
        let (mut warm, damp) = (hours([25.0; 4]), hours([60.0, 60.0, 100.0, 60.0]));
        warm.remove(&1);
        let told = Computed::VapourPressureDeficit.values(&[warm, damp], |h| h / 24);
        assert_eq!(
            told.iter().map(|(hour, _)| *hour).collect::<Vec<_>>(),
            [0, 2, 3]
        );
        assert!((told[0].1 - 1.267).abs() < 1e-3 && told[1].1 == 0.0);
        assert!(
            Computed::OxygenSaturation
                .values(&[hours([9.0])], |h| h)
                .is_empty()
        );
        let full = Computed::OxygenSaturation.values(&[hours([9.092]), hours([20.0])], |h| h);
        assert!((full[0].1 - 100.0).abs() < 0.01);
    }

    #[test]
    fn light_is_that_of_whole_days_and_warmth_adds_up() {
        // Two days of sixteen hours at 200, and half a day.
        let lit = |n: usize| if n % 24 < 16 { 200.0 } else { 0.0 };
        let told = Computed::DailyLight.values(&[hours((0..60).map(lit))], |h| h / 24);
        assert_eq!(
            told.iter().map(|(hour, _)| *hour).collect::<Vec<_>>(),
            [23, 47]
        );
        assert!(told.iter().all(|(_, mol)| (mol - 11.52).abs() < 1e-9));
        // A day at 20 °C is 15 above the base; a day below it is none.
        let warm = Computed::DegreeDays.values(
            &[hours((0..48).map(|n| if n < 24 { 20.0 } else { 3.0 }))],
            |h| h,
        );
        assert!((warm[23].1 - 15.0).abs() < 1e-9 && (warm[47].1 - 15.0).abs() < 1e-9);
    }
}
