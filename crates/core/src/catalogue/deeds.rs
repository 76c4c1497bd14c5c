//! Kinds of work.

use serde::{Deserialize, Serialize};

/// A kind of work, in the order in which it is done on a day.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, PartialOrd, Ord)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Job {
    /// Put the seed in water.
    Soak,
    /// Sow all units.
    Sow,
    /// Take off the covers.
    EndBlackout,
    /// Move every unit to its next slot.
    Rotate,
    /// Give plain water.
    Water,
    /// Give each unit its solution.
    Feed,
    /// Give what is given beside the water, on days of its own: sprayed, drenched, dusted, dipped.
    Apply,
    /// Rinse what several treatments share, between one and the next.
    Rinse,
    /// Read pH and EC, unit by unit.
    Read,
    /// Look at every unit.
    Observe,
    /// Photograph every unit.
    Photograph,
    /// Thin to the same stand.
    Thin,
    /// Calibrate a meter or scale.
    Calibrate,
    /// Cut and weigh.
    Harvest,
}

impl Job {
    /// Work that comes again and again.
    pub const RECURRING: [Self; 6] = [
        Self::Rotate,
        Self::Water,
        Self::Feed,
        Self::Read,
        Self::Observe,
        Self::Photograph,
    ];

    /// Work by which something is given to the units.
    pub const GIVING: [Self; 3] = [Self::Water, Self::Feed, Self::Apply];

    /// Whether something is given to the units by it.
    #[must_use]
    pub fn is_giving(self) -> bool {
        Self::GIVING.contains(&self)
    }

    /// Whether it may be left out, with a reason: what a trial cannot be without is only done late.
    #[must_use]
    pub fn can_skip(self) -> bool {
        !matches!(self, Self::Sow | Self::Harvest | Self::Calibrate)
    }

    /// In the grower's words.
    #[must_use]
    pub fn label(self) -> &'static str {
        match self {
            Self::Soak => "Soak the seed",
            Self::Sow => "Sow",
            Self::EndBlackout => "End blackout",
            Self::Rotate => "Move to the next slot",
            Self::Water => "Give water",
            Self::Feed => "Feed by code",
            Self::Apply => "Spray, drench or dust by code",
            Self::Rinse => "Rinse between treatments",
            Self::Read => "Read pH and EC",
            Self::Observe => "Look at all of them",
            Self::Photograph => "Photograph",
            Self::Thin => "Thin to the same stand",
            Self::Calibrate => "Calibrate",
            Self::Harvest => "Cut and weigh",
        }
    }

    /// As a doing: `feeding`.
    #[must_use]
    pub fn verb(self) -> &'static str {
        match self {
            Self::Soak => "soaking",
            Self::Sow => "sowing",
            Self::EndBlackout => "ending blackout",
            Self::Rotate => "rotating",
            Self::Water => "watering",
            Self::Feed => "feeding",
            Self::Apply => "giving beside the water",
            Self::Rinse => "rinsing",
            Self::Read => "reading",
            Self::Observe => "observing",
            Self::Photograph => "photographing",
            Self::Thin => "thinning",
            Self::Calibrate => "calibrating",
            Self::Harvest => "harvesting",
        }
    }

    /// Whether it may be done on another day than planned without the trial being less fair: all
    /// units alike.
    #[must_use]
    pub fn can_move(self) -> bool {
        !matches!(
            self,
            Self::Soak | Self::Sow | Self::EndBlackout | Self::Rinse | Self::Harvest
        )
    }
}
