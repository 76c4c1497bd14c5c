//! What is recorded of plants. One file a measure; each names its unit, its kind and the limits of
//! what is credible.

pub mod affected_area;
pub mod affected_area_track;
pub mod brix;
pub mod brown_share;
pub mod canopy_cover;
pub mod canopy_density;
pub mod canopy_evenness;
pub mod cover_rate;
pub mod curl;
pub mod dark_green;
pub mod dissolved_oxygen;
pub mod dry_share;
pub mod dry_weight;
pub mod edible_share;
pub mod edible_weight;
pub mod evenness;
pub mod first_flower;
pub mod first_fruit;
pub mod first_root;
pub mod flowers;
pub mod germinated;
pub mod harvest_per_area;
pub mod harvest_per_day;
pub mod harvest_per_feed;
pub mod harvest_per_hour;
pub mod harvest_per_kwh;
pub mod harvest_per_litre;
pub mod harvest_per_plant;
pub mod harvest_per_seed;
pub mod harvest_value;
pub mod harvest_weight;
pub mod height;
pub mod height_area;
pub mod height_gained;
pub mod height_rate;
pub mod hulls_left;
pub mod leaf_count;
pub mod lean;
pub mod leaves_gained;
pub mod line_up;
pub mod longest_root;
pub mod odour;
pub mod own;
pub mod piece_weight;
pub mod pieces;
pub mod red_colour;
pub mod red_leaf;
pub mod root_colour;
pub mod root_density;
pub mod root_gained;
pub mod sediment;
pub mod slime;
pub mod spread;
pub mod sturdiness;
pub mod swelling;
pub mod tip_burn;
pub mod vigour;
pub mod wall_thickness;
pub mod water_used;
pub mod yellow_leaf;
pub mod yellowing;

use super::readings::is_of_unit;
use crate::catalogue::own::{OwnMeasure, column_word, is_own};
use iron_twin_terms::goal::Better;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use serde::Serialize;

/// Where the figure of a unit comes from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Source {
    /// What was cut and weighed.
    Weighing,
    /// The last reading with this key.
    Last(&'static str),
    /// The last day on which both readings were taken: so many out of so many.
    OutOf {
        /// Reading of the k.
        some: &'static str,
        /// Reading of the n.
        all: &'static str,
    },
    /// The first day on which the reading was 1; it is 0 while the event has not been seen.
    FirstSeen(&'static str),
    /// The last reading less the first, of different days.
    Gain(&'static str),
    /// The area under the track of readings, from the first day to the last.
    Area(&'static str),
    /// How fast the readings grow for their size, % a day, from the first day to the last.
    RelativeGrowth(&'static str),
    /// What was filled in and added, less what was left.
    WaterUsed,
    /// What was cut and weighed, over something that was spent on it.
    WeightPer(Per),
    /// A reading that is taken of what was cut, of the weight that was cut, %.
    OfCut(&'static str),
    /// What is cut and picked brings at its price.
    Value,
    /// Pieces that were picked.
    Pieces,
    /// What was picked, over its pieces.
    PieceWeight,
    /// The mean place over the judges who put the units in order.
    LineUp,
}

/// What a harvest is told for.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Per {
    /// A litre of water used.
    Water,
    /// A square metre of surface.
    Surface,
    /// A plant that stands.
    Plant,
    /// A gram of dry seed.
    Seed,
    /// A day from sowing to the last cut.
    Day,
    /// A kilowatt-hour of light.
    Energy,
    /// A millilitre, or gram, of feed as it comes from the bottle.
    Feed,
    /// An hour of work.
    Work,
}

impl Per {
    /// Readings that are taken for it.
    fn readings(self) -> Vec<&'static str> {
        match self {
            Self::Water => WATER.to_vec(),
            Self::Work => vec!["work"],
            _ => Vec::new(),
        }
    }

    /// Whether it follows from what the treatment of a unit is to get, so that figures one by one
    /// would tell the key.
    #[must_use]
    pub fn tells_treatment(self) -> bool {
        matches!(self, Self::Surface | Self::Seed | Self::Energy | Self::Feed)
    }
}

/// Readings from which the water used is reckoned: a level must be there, the others where
/// something was poured in.
const WATER: [&str; 5] = [
    "level",
    "filled",
    "water_added",
    "solution_added",
    "feed_added",
];

impl Source {
    /// Readings that are taken for it.
    #[must_use]
    pub fn readings(self) -> Vec<&'static str> {
        match self {
            Self::Weighing | Self::LineUp | Self::Value | Self::Pieces | Self::PieceWeight => {
                Vec::new()
            }
            Self::WeightPer(per) => per.readings(),
            Self::Last(key)
            | Self::FirstSeen(key)
            | Self::Gain(key)
            | Self::Area(key)
            | Self::RelativeGrowth(key) => {
                vec![key]
            }
            Self::OfCut(key) => vec![key],
            Self::OutOf { some, all } => vec![some, all],
            Self::WaterUsed => WATER.to_vec(),
        }
    }

    /// Readings without which there is no figure.
    #[must_use]
    pub fn needs(self) -> Vec<&'static str> {
        match self {
            Self::WaterUsed | Self::WeightPer(Per::Water) => WATER[..1].to_vec(),
            other => other.readings(),
        }
    }

    /// Whether there is no figure without a weighing.
    #[must_use]
    pub fn is_weighed(self) -> bool {
        matches!(
            self,
            Self::Weighing
                | Self::OfCut(_)
                | Self::WeightPer(_)
                | Self::Value
                | Self::Pieces
                | Self::PieceWeight
        )
    }

    /// Whether it is told of every sample of a unit, where samples are followed.
    #[must_use]
    pub fn is_by_sample(self) -> bool {
        let grows = matches!(
            self,
            Self::Gain(_) | Self::Area(_) | Self::RelativeGrowth(_)
        );
        grows
            || matches!(
                self,
                Self::Last(_) | Self::OutOf { .. } | Self::FirstSeen(_)
            )
    }

    /// Whether it is read on a day, so that a day can be stated for it.
    #[must_use]
    pub fn is_of_a_day(self) -> bool {
        matches!(self, Self::Last(_) | Self::OutOf { .. })
    }

    /// Whether it is of the unit as a whole, however many crops share it.
    #[must_use]
    pub fn of_whole_unit(self) -> bool {
        match self {
            Self::WaterUsed | Self::LineUp | Self::OfCut(_) => true,
            Self::Last(key) | Self::RelativeGrowth(key) => is_of_unit(key),
            _ => false,
        }
    }

    /// Days on which it must have been read at least.
    #[must_use]
    pub fn least_days(self) -> usize {
        if matches!(
            self,
            Self::Gain(_) | Self::Area(_) | Self::RelativeGrowth(_)
        ) {
            2
        } else {
            1
        }
    }
}

/// A measure of plants.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Measure {
    /// Stable key, also the stem of the column in exports.
    pub key: &'static str,
    /// As a grower says it.
    pub name: &'static str,
    /// Unit of the stored value.
    pub unit: &'static str,
    /// How it is analysed.
    pub kind: Kind,
    /// Decimals shown.
    pub decimals: u32,
    /// Which way is better, where nothing else is said.
    pub better: Better,
    /// Where the figure of a unit comes from.
    #[serde(rename = "of_a_day", serialize_with = "of_a_day")]
    #[cfg_attr(feature = "schema", schema(value_type = bool))]
    pub source: Source,
    /// Coefficient of variation among trays of one treatment, in per cent: the default before there
    /// are own trials.
    pub usual_cv_percent: f64,
    /// Whether its figures are known to scatter the more the larger they are, so that ratios are
    /// proposed.
    pub by_ratio: bool,
}

/// Of the source, the page is told whether a day can be stated for it.
fn of_a_day<S: serde::Serializer>(source: &Source, serializer: S) -> Result<S::Ok, S::Error> {
    serializer.serialize_bool(source.is_of_a_day())
}

impl Measure {
    /// Column in exports: key and unit, for instance `harvest_weight_g` or
    /// `harvest_per_litre_g_per_L`; the key alone where there is no unit.
    #[must_use]
    pub fn column(&self) -> String {
        let stem = self.stem();
        match self.kind {
            Kind::Days => format!("{stem}_day"),
            _ if self.unit.is_empty() || self.unit == "%" => stem,
            _ if is_own(self.key) => format!("{stem}_{}", column_word(self.unit)),
            _ if self.unit == self.key => stem,
            _ => format!(
                "{stem}_{}",
                self.unit.replace('/', "_per_").replace('²', "2")
            ),
        }
    }

    /// What its columns begin with: its key, or the name of one of a grower's own.
    fn stem(&self) -> String {
        OwnMeasure::of_key(self.key).map_or_else(|| self.key.to_owned(), |own| own.stem())
    }

    /// Columns that stand beside it in exports: the n of a share; whether and after which day an
    /// event was seen.
    #[must_use]
    pub fn beside(&self) -> Vec<String> {
        match (self.kind, self.source) {
            (Kind::Share, _) => vec![format!("{}_of", self.stem())],
            (Kind::Days, _) => vec![
                format!("{}_seen", self.stem()),
                format!("{}_after", self.stem()),
            ],
            _ => Vec::new(),
        }
    }

    /// Whether a margin of this sort means anything for it.
    #[must_use]
    pub fn takes(&self, margin: Margin) -> bool {
        match (self.kind, margin) {
            (Kind::Count, margin) => matches!(margin, Margin::Percent(_)),
            (Kind::Score, margin) => matches!(margin, Margin::Absolute(m) if m < 0.5),
            _ => true,
        }
    }
}

/// All measures, in the order in which they are offered.
pub const ALL: [&Measure; 60] = [
    &harvest_weight::MEASURE,
    &height::MEASURE,
    &germinated::MEASURE,
    &leaf_count::MEASURE,
    &tip_burn::MEASURE,
    &first_root::MEASURE,
    &first_flower::MEASURE,
    &first_fruit::MEASURE,
    &root_colour::MEASURE,
    &vigour::MEASURE,
    &line_up::MEASURE,
    &water_used::MEASURE,
    &edible_weight::MEASURE,
    &edible_share::MEASURE,
    &dry_weight::MEASURE,
    &dry_share::MEASURE,
    &harvest_per_litre::MEASURE,
    &harvest_per_area::MEASURE,
    &harvest_per_plant::MEASURE,
    &harvest_per_seed::MEASURE,
    &harvest_per_day::MEASURE,
    &harvest_per_kwh::MEASURE,
    &harvest_per_feed::MEASURE,
    &harvest_per_hour::MEASURE,
    &harvest_value::MEASURE,
    &pieces::MEASURE,
    &piece_weight::MEASURE,
    &dissolved_oxygen::MEASURE,
    &odour::MEASURE,
    &sediment::MEASURE,
    &longest_root::MEASURE,
    &spread::MEASURE,
    &flowers::MEASURE,
    &brix::MEASURE,
    &wall_thickness::MEASURE,
    &affected_area::MEASURE,
    &root_density::MEASURE,
    &slime::MEASURE,
    &swelling::MEASURE,
    &sturdiness::MEASURE,
    &lean::MEASURE,
    &canopy_density::MEASURE,
    &evenness::MEASURE,
    &hulls_left::MEASURE,
    &yellowing::MEASURE,
    &curl::MEASURE,
    &red_colour::MEASURE,
    &height_gained::MEASURE,
    &leaves_gained::MEASURE,
    &root_gained::MEASURE,
    &height_area::MEASURE,
    &height_rate::MEASURE,
    &affected_area_track::MEASURE,
    &canopy_cover::MEASURE,
    &dark_green::MEASURE,
    &yellow_leaf::MEASURE,
    &red_leaf::MEASURE,
    &brown_share::MEASURE,
    &canopy_evenness::MEASURE,
    &cover_rate::MEASURE,
];

/// The measure with this key, one of a grower's own among them.
#[must_use]
pub fn find(key: &str) -> Option<&'static Measure> {
    ALL.into_iter()
        .find(|m| m.key == key)
        .or_else(|| own::find(key))
}
