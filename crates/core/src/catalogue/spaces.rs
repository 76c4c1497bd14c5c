//! What a grow space is, and what its parts are called.

use serde::{Deserialize, Serialize};

/// A kind of grow space. All of them are rows of places; the words and the edges differ.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum SpaceKind {
    /// Levels one above the other, trays side by side.
    #[default]
    Rack,
    /// Buckets or systems in rows.
    Buckets,
    /// A bench with rows of jars.
    Bench,
    /// Window sills, pots side by side.
    Sill,
    /// Sites outdoors, plots side by side.
    Sites,
}

impl SpaceKind {
    /// What a row of places is called.
    #[must_use]
    pub fn level(self) -> &'static str {
        match self {
            Self::Rack => "level",
            Self::Buckets | Self::Bench => "row",
            Self::Sill => "sill",
            Self::Sites => "site",
        }
    }

    /// Several rows of places.
    #[must_use]
    pub fn levels(self) -> &'static str {
        match self {
            Self::Rack => "levels",
            Self::Buckets | Self::Bench => "rows",
            Self::Sill => "sills",
            Self::Sites => "sites",
        }
    }

    /// What stands in a place.
    ///
    /// ```
    /// use iron_twin_core::catalogue::spaces::SpaceKind;
    /// assert_eq!((SpaceKind::Rack.unit(), SpaceKind::Buckets.units()), ("tray", "buckets"));
    /// ```
    #[must_use]
    pub fn unit(self) -> &'static str {
        match self {
            Self::Rack => "tray",
            Self::Buckets => "bucket",
            Self::Bench => "jar",
            Self::Sill => "pot",
            Self::Sites => "plot",
        }
    }

    /// Several of what stands in a place.
    #[must_use]
    pub fn units(self) -> &'static str {
        match self {
            Self::Rack => "trays",
            Self::Buckets => "buckets",
            Self::Bench => "jars",
            Self::Sill => "pots",
            Self::Sites => "plots",
        }
    }

    /// How many times as much what stands here differs as trays on a rack do: common practice, no
    /// source. Soil, slope and weather make plots outdoors differ by a fifth where trays differ by
    /// a twelfth.
    #[must_use]
    pub fn spread(self) -> f64 {
        match self {
            Self::Rack | Self::Buckets | Self::Bench | Self::Sill => 1.0,
            Self::Sites => 2.5,
        }
    }

    /// Whether the first and the last place of a row are warmer, drier or darker than the middle.
    /// Plots outdoors have their site cards instead.
    #[must_use]
    pub fn has_edges(self) -> bool {
        self != Self::Sites
    }
}
