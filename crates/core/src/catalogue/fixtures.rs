//! What can serve several places at once: it is then what was dealt a treatment, and what stands
//! under it are samples.

use super::conditions;
use serde::{Deserialize, Serialize};

/// Something that gives its treatment to all places it serves.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Fixture {
    /// Light from above, or a timer for several lamps.
    Lamp,
    /// Air or water driven through several places.
    Pump,
    /// A tub or tank from which several places drink, or in which several pots stand.
    Reservoir,
}

/// How far a fixture reaches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Serves {
    /// One for a whole level.
    Level,
    /// One for each place.
    Place,
}

impl Fixture {
    /// As a grower says it.
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Lamp => "lamp",
            Self::Pump => "pump",
            Self::Reservoir => "reservoir",
        }
    }

    /// Several of them.
    #[must_use]
    pub fn words(self) -> &'static str {
        match self {
            Self::Lamp => "lamps",
            Self::Pump => "pumps",
            Self::Reservoir => "reservoirs",
        }
    }

    /// The fixture through which a factor of the match sheet reaches the plants; None where it
    /// belongs to each place.
    ///
    /// ```
    /// use iron_twin_core::catalogue::fixtures::Fixture;
    /// assert_eq!((Fixture::of_factor("lamp"), Fixture::of_factor("medium")), (Some(Fixture::Lamp), None));
    /// ```
    #[must_use]
    pub fn of_factor(factor: &str) -> Option<Self> {
        let lamp = [
            conditions::light::CONDITION.factor,
            conditions::light_hours::CONDITION.factor,
        ];
        let pump = [
            conditions::aeration::CONDITION.factor,
            conditions::irrigation::CONDITION.factor,
        ];
        if lamp.contains(&factor) {
            return Some(Self::Lamp);
        }
        if pump.contains(&factor) {
            return Some(Self::Pump);
        }
        (factor == conditions::water::CONDITION.factor).then_some(Self::Reservoir)
    }

    /// Whether one of them usually serves several places, so that it is asked about where its
    /// factor is compared: common practice, no source. Trays and buckets mostly hold their own
    /// water.
    #[must_use]
    pub fn is_mostly_shared(self) -> bool {
        self != Self::Reservoir
    }
}
