//! What a trial asks, and what would count as an answer.

use crate::catalogue::measures;
use crate::catalogue::readings;
use crate::catalogue::readings::Reading;
use crate::trial::records::{CropNumber, SampleNumber};
use crate::trial::waves::Waves;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What a trial asks. Sealed at the first record.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Ask {
    /// The question in the grower's words.
    pub question: String,
    /// Which way, how much, and why.
    pub hypothesis: String,
    /// Beat, match or best.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// What is grown.
    pub crop: String,
    /// Key of the primary measure, see [`measures`].
    pub primary_measure: String,
    /// Keys of what is recorded beside it, see [`measures`].
    #[serde(default)]
    pub also: Vec<String>,
    /// Days on which measures are judged, by their key; one that is not here is judged by its last
    /// figure. Of several days of the primary measure the last one decides.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub judged_on: BTreeMap<String, Vec<u32>>,
    /// Smallest difference that matters.
    pub margin: Margin,
    /// Day of harvest, counted from sowing.
    pub end_day: u32,
    /// Stage at which it ends, such as the first true leaf, `end_day` being the latest; empty where
    /// the day decides.
    #[serde(default)]
    pub end_stage: String,
    /// Crops that share each unit: a factor inside it. Empty where a unit holds one crop.
    #[serde(default)]
    pub crops_inside: Vec<String>,
    /// Most samples followed inside a unit, such as the cuttings of a tub: plants are read one by
    /// one then, and the unit is what is compared. 0 where a unit is read as a whole. Those that a
    /// unit lacks are marked as gone.
    #[serde(default)]
    pub samples_inside: u32,
    /// Whether every sample is weighed by itself; else the harvest of a unit is weighed as a whole.
    #[serde(default)]
    pub weigh_samples: bool,
    /// How it is cut or picked several times; None for one harvest at the end.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub waves: Option<Waves>,
    /// What the harvest brings, money a kg.
    #[serde(default)]
    pub price_per_kg: Option<f64>,
    /// What a unit usually yields, in the unit of the primary measure.
    #[serde(default)]
    pub usual_per_unit: Option<f64>,
    /// Shares: out of how many a unit is usually counted, such as seeds sown.
    #[serde(default)]
    pub usual_out_of: Option<f64>,
    /// What is looked for beside a verdict on each treatment.
    #[serde(default)]
    pub seeks: Seeks,
    /// The margin as money a unit, where it was typed so; `margin` follows from it.
    #[serde(default)]
    pub margin_money: Option<f64>,
    /// What is taken out of the differences between units before they are compared, for amounts.
    #[serde(default, skip_serializing_if = "Covariate::is_start")]
    pub covariate: Covariate,
    /// Days before the last on which the trial is looked at by plan, rising: each spends its share
    /// of the error allowance.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub looks_on: Vec<u32>,
    /// Whether amounts are compared by how many times as much: for measures that scatter more the
    /// larger they are.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub by_ratio: bool,
}

/// What is taken out of the differences between units beside their block.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Covariate {
    /// Their starting size, where every unit has one.
    #[default]
    Start,
    /// Where they stand along their level.
    Slot,
    /// The light of their place.
    Light,
}

impl Covariate {
    fn is_start(&self) -> bool {
        *self == Self::Start
    }
}

impl Default for Ask {
    fn default() -> Self {
        Self {
            question: String::new(),
            hypothesis: String::new(),
            goal: Goal::Beat,
            better: Better::Higher,
            crop: String::new(),
            primary_measure: measures::harvest_weight::MEASURE.key.into(),
            also: vec![measures::height::MEASURE.key.into()],
            judged_on: BTreeMap::new(),
            // Common practice, no source: a tenth is what most growers would act on.
            margin: Margin::Percent(10.0),
            end_day: 12,
            end_stage: String::new(),
            crops_inside: Vec::new(),
            samples_inside: 0,
            weigh_samples: false,
            waves: None,
            price_per_kg: None,
            usual_per_unit: None,
            usual_out_of: None,
            seeks: Seeks::Verdicts,
            margin_money: None,
            covariate: Covariate::Start,
            looks_on: Vec::new(),
            by_ratio: false,
        }
    }
}

/// A measure as it is judged: by its last figure, or by that of a stated day.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Judged {
    /// The measure.
    pub measure: &'static measures::Measure,
    /// The day; None for the last figure.
    pub day: Option<u32>,
}

impl Judged {
    /// What it is called in addresses: `height`, `height@7`.
    #[must_use]
    pub fn id(&self) -> String {
        self.day.map_or_else(
            || self.measure.key.to_owned(),
            |day| format!("{}@{day}", self.measure.key),
        )
    }

    /// Column in exports.
    #[must_use]
    pub fn column(&self) -> String {
        self.on_its_day(self.measure.column())
    }

    /// Columns that stand beside it in exports.
    #[must_use]
    pub fn beside(&self) -> Vec<String> {
        self.measure
            .beside()
            .into_iter()
            .map(|column| self.on_its_day(column))
            .collect()
    }

    fn on_its_day(&self, column: String) -> String {
        self.day
            .map_or(column.clone(), |day| format!("{column}_day_{day}"))
    }
}

/// Longest trial that is planned, in days.
pub const MOST_DAYS: u32 = 400;

/// What a trial looks for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Seeks {
    /// A verdict on each treatment.
    #[default]
    Verdicts,
    /// The dose that is enough, from a ladder of doses.
    Dose,
    /// What two or more crossed factors do, alone and together.
    Factors,
}

/// Most looks that are planned.
pub const MOST_LOOKS: usize = 4;

/// Most days on which one measure is judged.
pub const MOST_JUDGED: usize = 8;

/// Most samples followed inside a unit.
pub const MOST_SAMPLES: u32 = 40;

/// Most crops that share a unit.
pub const MOST_CROPS: usize = 6;

impl Ask {
    /// Which way a measure is better: of the primary as the grower says, of the others as is usual.
    #[must_use]
    pub fn better_of(&self, measure: &measures::Measure) -> Better {
        if measure.key == self.primary_measure {
            self.better
        } else {
            measure.better
        }
    }

    /// The measures that are recorded, the primary first.
    #[must_use]
    pub fn measures(&self) -> Vec<&'static measures::Measure> {
        let primary =
            measures::find(&self.primary_measure).unwrap_or(&measures::harvest_weight::MEASURE);
        let others = self
            .also
            .iter()
            .filter_map(|key| measures::find(key))
            .filter(|m| m.key != primary.key);
        std::iter::once(primary).chain(others).collect()
    }

    /// The measures as they are judged, what decides first: a measure of several days once for each
    /// of them.
    ///
    /// ```
    /// use iron_twin_core::trial::question::Ask;
    /// let mut ask = Ask::default();
    /// ask.judged_on.insert("height".into(), vec![5, 9]);
    /// let ids: Vec<String> = ask.judged().iter().map(|j| j.id()).collect();
    /// assert_eq!(ids, ["harvest_weight", "height@5", "height@9"]);
    /// assert_eq!(ask.judged()[2].column(), "height_mm_day_9");
    /// ```
    #[must_use]
    pub fn judged(&self) -> Vec<Judged> {
        let mut list: Vec<Judged> = Vec::new();
        for measure in self.measures() {
            let days = self
                .judged_on
                .get(measure.key)
                .filter(|days| !days.is_empty());
            match days {
                Some(days) => list.extend(days.iter().map(|day| Judged {
                    measure,
                    day: Some(*day),
                })),
                None => list.push(Judged { measure, day: None }),
            }
        }
        // The last day of the primary measure decides.
        let primary = list[0].measure.key;
        let of_primary = list.iter().take_while(|j| j.measure.key == primary).count();
        list[..of_primary].sort_by_key(|j| std::cmp::Reverse(j.day));
        list
    }

    /// Days on which something is judged, each once, rising.
    #[must_use]
    pub fn judged_days(&self) -> Vec<u32> {
        let mut days: Vec<u32> = self.judged().iter().filter_map(|j| j.day).collect();
        days.sort_unstable();
        days.dedup();
        days
    }

    /// Readings that the grid asks for: pH and EC always, and what the measures are made from.
    #[must_use]
    pub fn readings(&self) -> Vec<&'static Reading> {
        let wanted: Vec<&str> = self
            .measures()
            .iter()
            .flat_map(|m| m.source.readings())
            .collect();
        let solution = [readings::ph::READING.key, readings::ec::READING.key];
        let known = readings::ALL
            .into_iter()
            .filter(|r| solution.contains(&r.key) || wanted.contains(&r.key));
        known
            .chain(wanted.iter().filter_map(|key| readings::own::find(key)))
            .collect()
    }

    /// What one walks through at the shelf: each reading with the crop it is of, None being the
    /// unit as a whole. Those of the solution are of what all crops of a unit share.
    #[must_use]
    pub fn columns(&self) -> Vec<(&'static Reading, Option<CropNumber>)> {
        let parts = |r: &Reading| {
            if readings::is_of_unit(r.key) {
                vec![None]
            } else {
                self.parts().collect()
            }
        };
        self.readings()
            .into_iter()
            .flat_map(|r| parts(r).into_iter().map(move |crop| (r, crop)))
            .collect()
    }

    /// What is recorded in a unit: each of its crops, or the unit as a whole.
    pub fn parts(&self) -> impl Iterator<Item = Option<CropNumber>> + Clone + use<> {
        let crops = self.crops_inside.len() as u32;
        let whole = (crops == 0).then_some(None);
        whole.into_iter().chain((1..=crops).map(CropNumber::new))
    }

    /// Plants or places inside a unit that are given something one by one: its samples, else the
    /// unit itself.
    #[must_use]
    pub fn sites(&self) -> u32 {
        self.samples_inside.max(1)
    }

    /// The samples that are read one by one in each unit; None for the unit as a whole.
    pub fn samples(&self) -> impl Iterator<Item = Option<SampleNumber>> + Clone + use<> {
        let whole = (self.samples_inside == 0).then_some(None);
        whole
            .into_iter()
            .chain((1..=self.samples_inside).map(SampleNumber::new))
    }

    /// What is weighed in each unit: each of its crops, each of its samples, or the unit as a
    /// whole.
    pub fn weighed_parts(
        &self,
    ) -> impl Iterator<Item = (Option<CropNumber>, Option<SampleNumber>)> + Clone + use<> {
        let by_sample = self.weigh_samples;
        let samples = self
            .samples()
            .take(if by_sample { usize::MAX } else { 1 })
            .map(move |s| s.filter(|_| by_sample));
        self.parts()
            .flat_map(move |crop| samples.clone().map(move |sample| (crop, sample)))
    }

    /// Whether a measure is told of every sample: those read or weighed one by one.
    #[must_use]
    pub fn is_told_by_sample(&self, source: measures::Source) -> bool {
        let weighed = source == measures::Source::Weighing && self.weigh_samples;
        self.samples_inside > 0 && (weighed || source.is_by_sample())
    }

    /// Whether a reading is taken of every sample: those of plants are, those of the solution are
    /// of the whole unit.
    #[must_use]
    pub fn is_by_sample(&self, reading: &str) -> bool {
        self.samples_inside > 0 && !readings::is_of_unit(reading)
    }

    /// The name of a crop; None for the unit as a whole.
    #[must_use]
    pub fn crop_inside(&self, crop: Option<CropNumber>) -> Option<&str> {
        self.crops_inside.get(crop?.index()).map(String::as_str)
    }
}
