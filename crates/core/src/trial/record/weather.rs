//! The weather of a day outdoors.

use super::head::Head;
use super::kind::{Desk, Record};
use super::refusal::Refusal;
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use serde::{Deserialize, Serialize};

/// The weather of a day outdoors; a later entry of the same day stands in its place.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Weather {
    /// Rain, mm; null where nobody measured it.
    pub rain_mm: Option<f64>,
    /// Lowest temperature, °C.
    pub low_c: Option<f64>,
    /// Highest temperature, °C.
    pub high_c: Option<f64>,
}

/// Most rain of a day, mm: a little above the highest ever measured at sea level (1825 mm; World
/// Meteorological Organization, from memory).
pub const MOST_RAIN_MM: f64 = 2000.0;
/// Lowest and highest air temperature that is taken for credible, °C: the records of the Earth are
/// -89 and 57 (World Meteorological Organization, from memory).
pub const AIR_C: (f64, f64) = (-90.0, 60.0);

impl Kept for Weather {
    const KIND: &'static str = "weather";

    fn order(own: &Recorded<Self>) -> (u32, jiff::Timestamp) {
        // By round, then by day: later rounds begin their days anew.
        (
            own.head.round,
            jiff::Timestamp::new(i64::from(own.head.day), 0).unwrap_or_default(),
        )
    }
}

impl Records {
    /// The weather outdoors, by round and day.
    #[must_use]
    pub fn weather(&self) -> &[Recorded<Weather>] {
        self.of()
    }
}

impl Record for Weather {
    const SEALS: bool = false;

    fn place(&self, head: &Head) -> Option<String> {
        Some(format!("round {} day {}", head.round, head.day))
    }

    fn admit(&mut self, _: &Desk<'_>) -> Result<(), Refusal> {
        let Self {
            rain_mm,
            low_c,
            high_c,
        } = *self;
        if rain_mm.is_none() && low_c.is_none() && high_c.is_none() {
            return Err(Refusal::wrong(
                "rain_mm",
                "say one of rain, lowest and highest",
            ));
        }
        if let Some(mm) = rain_mm.filter(|mm| !(0.0..=MOST_RAIN_MM).contains(mm)) {
            return Err(Refusal::wrong(
                "rain_mm",
                format!("rain lies between 0 and {MOST_RAIN_MM} mm, got {mm}"),
            ));
        }
        for (field, value) in [("low_c", low_c), ("high_c", high_c)] {
            if let Some(c) = value.filter(|c| !(AIR_C.0..=AIR_C.1).contains(c)) {
                return Err(Refusal::wrong(
                    field,
                    format!("between {} and {} °C, got {c}", AIR_C.0, AIR_C.1),
                ));
            }
        }
        match low_c.zip(high_c) {
            Some((low, high)) if low > high => {
                Err(Refusal::wrong("low_c", "the lowest lies above the highest"))
            }
            _ => Ok(()),
        }
    }

    fn told(&self, _: &Trial, head: &Head) -> String {
        format!("entered the weather of day {}", head.day)
    }
}
