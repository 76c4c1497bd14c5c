//! A photo of a unit, and what was marked in it and measured of it.

use super::head::Head;
use super::kind::{Desk, Heading, Record};
use super::refusal::{Of, Refusal};
use crate::catalogue::readings::is_of_picture;
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_photo::{Figures, Marked};
use iron_twin_terms::indices::UnitIndex;
use serde::{Deserialize, Serialize};

/// From where a picture is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum View {
    /// From above.
    Top,
    /// From the side.
    Side,
    /// Of the roots.
    Root,
}

/// A photo of a unit. The picture itself lies beside the data file, under the hash of its content.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Photo {
    /// Random id.
    pub id: String,
    /// From where.
    pub view: View,
    /// Hash of its content.
    pub sha256: String,
    /// `image/jpeg` or `image/png`.
    pub media: String,
    /// Pixels in a row, turned upright.
    pub width: u32,
    /// Rows, turned upright.
    pub height: u32,
    /// As the camera wrote it, 1 to 8; 1 is upright.
    pub orientation: u8,
}

/// What was marked in a photo, and measured of it; a later marking stands in its place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PhotoMarked {
    /// Id of the photo.
    pub photo: String,
    /// Corners, card, and how readily a pixel counts as leaf.
    pub marked: Marked,
    /// What was measured.
    pub figures: Figures,
}

impl Kept for Photo {
    const KIND: &'static str = "photo";
}

impl Kept for PhotoMarked {
    const KIND: &'static str = "photo_marked";
}

impl Records {
    /// Photos of units that stand, oldest first.
    pub fn photos(&self) -> impl Iterator<Item = (UnitIndex, &Recorded<Photo>)> {
        self.of::<Photo>()
            .iter()
            .filter_map(|own| Some((own.unit?, own)))
    }

    /// A photo by its id.
    #[must_use]
    pub fn photo(&self, id: &str) -> Option<(UnitIndex, &Recorded<Photo>)> {
        self.photos().find(|(_, own)| own.id == id)
    }

    /// What was marked in a photo; None before.
    #[must_use]
    pub fn photo_marked(&self, id: &str) -> Option<&Recorded<PhotoMarked>> {
        self.of::<PhotoMarked>().iter().find(|own| own.photo == id)
    }
}

impl View {
    /// What the figures of a picture are recorded as: those of the canopy from above; a line along
    /// a stem seen from the side is its height, and one along a root its length.
    #[must_use]
    pub fn readings(self, figures: &Figures) -> Vec<(&'static str, Option<f64>)> {
        let of_line = |key: &'static str| {
            figures
                .line_mm
                .map(|mm| (key, Some(mm)))
                .into_iter()
                .collect()
        };
        match self {
            Self::Top => vec![
                ("canopy_cover", Some(figures.cover_percent)),
                ("dark_green", figures.dark_green),
                ("yellow_leaf", figures.yellow_percent),
                ("red_leaf", figures.red_percent),
                ("brown_share", Some(figures.brown_percent)),
                ("canopy_evenness", figures.evenness_percent),
            ],
            Self::Side => of_line("height"),
            Self::Root => of_line("longest_root"),
        }
    }
}

impl Trial {
    /// The readings that the figures of a photo stand for, as far as the trial is judged by them.
    /// Of which plant or which crop a line is a picture does not say: where several are followed it
    /// stays with the picture.
    #[must_use]
    pub fn readings_of_photo(
        &self,
        view: View,
        figures: &Figures,
    ) -> Vec<(&'static str, Option<f64>)> {
        let ask = &self.plan.ask;
        let of_unit = |key: &str| {
            is_of_picture(key) || (ask.crops_inside.is_empty() && !ask.is_by_sample(key))
        };
        let wanted: Vec<&str> = ask
            .readings()
            .iter()
            .map(|r| r.key)
            .filter(|key| of_unit(key))
            .collect();
        view.readings(figures)
            .into_iter()
            .filter(|(key, _)| wanted.contains(key))
            .collect()
    }
}

impl Record for Photo {
    const OF: Of = Of::Unit;
    // The picture comes with it, and is looked through first.
    const SENT: bool = false;
    const HEADING: Heading = Heading::Photos;

    fn admit(&mut self, _: &Desk<'_>) -> Result<(), Refusal> {
        Ok(())
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        format!("photo of {}, day {}", head.code(trial), head.day)
    }
}

impl Record for PhotoMarked {
    const OF: Of = Of::Unit;
    // What is measured is worked out from the picture.
    const SENT: bool = false;
    const HEADING: Heading = Heading::Photos;

    fn place(&self, _: &Head) -> Option<String> {
        Some(self.photo.clone())
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        match desk.trial.records.photo(&self.photo) {
            Some((unit, _)) if Some(unit) == desk.head.unit => {}
            _ => {
                return Err(Refusal::NotFound {
                    what: "photo",
                    id: self.photo.clone(),
                });
            }
        }
        desk.check_version("what is marked in this photo", "other corners", "yours")
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        format!("measured a photo of {}", head.code(trial))
    }
}
