//! What a place is like: site cards outdoors, light measured on the shelf.

use serde::{Deserialize, Serialize};

/// What a site outdoors is like.
#[derive(Debug, Clone, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default)]
#[serde(deny_unknown_fields)]
pub struct SiteCard {
    /// Level, 1 the first site.
    pub level: u32,
    /// Which way it faces.
    pub aspect: String,
    /// Shade, and when.
    pub shade: String,
    /// What was grown or sprayed before.
    pub before: String,
    /// What grows there now.
    pub grows_now: String,
    /// Damage that is there already.
    pub damage: String,
}

impl SiteCard {
    /// Longest text on a line of the card.
    pub const MOST_LETTERS: usize = 200;

    /// What stands on its lines.
    #[must_use]
    pub fn lines(&self) -> [&str; 5] {
        [
            &self.aspect,
            &self.shade,
            &self.before,
            &self.grows_now,
            &self.damage,
        ]
    }
}

/// The light of one place.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct SlotLight {
    /// Level, 1 the lowest.
    pub level: u32,
    /// Slot, 1 at the left.
    pub slot: u32,
    /// Light, µmol/m²/s.
    pub umol: f64,
    /// What the meter said.
    #[serde(default)]
    pub measured: f64,
    /// What the meter shows.
    #[serde(default)]
    pub scale: LightScale,
    /// Kind of light, for a meter that shows lux.
    #[serde(default)]
    pub light_kind: String,
}

/// How a light was measured.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LightScale {
    /// Photons that plants use, µmol/m²/s (PPFD).
    #[default]
    Umol,
    /// Brightness for the eye, lux.
    Lux,
}
