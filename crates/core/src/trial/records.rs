//! What was recorded of a trial: readings, weighings, notes, work, mixes.
//!
//! Every record has one head: of which crop and sample inside its unit, when it was done and when it was entered, on
//! which day of which round, by whom. Late entries are normal: yesterday's feeding may be entered today.

use crate::catalogue::deeds::Job;
use crate::catalogue::readings;
use crate::terms::indices::{TreatmentIndex, UnitIndex};
use crate::trial::application::How;
use crate::trial::care::MovedJob;
use crate::trial::decided::DecisionRecord;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::num::NonZeroU32;
use std::sync::Arc;

/// The number of one of the crops that share a unit, from 1.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(value_type = u32))]
#[serde(transparent)]
pub struct CropNumber(pub NonZeroU32);

/// The number of a sample inside its unit, from 1: a plant, a cutting, a pod.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(value_type = u32))]
#[serde(transparent)]
pub struct SampleNumber(pub NonZeroU32);

macro_rules! number {
    ($name:ident) => {
        impl $name {
            /// The number; None for 0, which stands for the unit as a whole.
            #[must_use]
            pub fn new(number: u32) -> Option<Self> {
                NonZeroU32::new(number).map(Self)
            }

            /// The number, from 1.
            #[must_use]
            pub fn get(self) -> u32 {
                self.0.get()
            }

            /// Its place in a list, from 0.
            #[must_use]
            pub fn index(self) -> usize {
                self.0.get() as usize - 1
            }
        }
    };
}
number!(CropNumber);
number!(SampleNumber);

/// What every record carries beside its figure.
#[derive(Debug, Clone, PartialEq)]
pub struct RecordHead {
    /// Crop inside the unit; None for the unit as a whole.
    pub crop: Option<CropNumber>,
    /// Sample inside the unit; None for the unit as a whole.
    pub sample: Option<SampleNumber>,
    /// Days since sowing, or since the round began.
    pub day: u32,
    /// Round, from 1.
    pub round: u32,
    /// When it was done or seen.
    pub at: Timestamp,
    /// When it was entered.
    pub entered_at: Timestamp,
    /// Who entered it.
    pub who: Arc<str>,
    /// What it was measured with; None where nobody said.
    pub instrument: Option<Arc<str>>,
    /// Grows with every correction.
    pub version: i64,
}

/// A reading of one unit.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadingRecord {
    /// Of what, when, by whom.
    pub head: RecordHead,
    /// Key of the reading, as in [`crate::catalogue::readings`].
    pub reading: &'static str,
    /// Which of several on the same day, from 1.
    pub nth: u32,
    /// The value; None when marked missing.
    pub value: Option<f64>,
}

/// A weighing of one unit.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighingRecord {
    /// Of what, when, by whom.
    pub head: RecordHead,
    /// Gross, g.
    pub gross_g: f64,
    /// Tare, g.
    pub tare_g: f64,
    /// Net, g.
    pub net_g: f64,
}

/// What was cut or picked of a unit on one day, of one grade.
#[derive(Debug, Clone, PartialEq)]
pub struct PickRecord {
    /// Of what, when, by whom.
    pub head: RecordHead,
    /// Of which unit.
    pub unit: UnitIndex,
    /// Gross, g.
    pub gross_g: f64,
    /// Tare, g.
    pub tare_g: f64,
    /// Net, g; 0 where it was looked at and nothing was ripe.
    pub net_g: f64,
    /// Pieces; None where they were not counted.
    pub pieces: Option<u32>,
    /// Its grade; empty where it was not sorted.
    pub grade: String,
    /// Taken outside a wave, as for the kitchen: it counts, and the ledger looks whether every unit gave as much.
    pub aside: bool,
}

/// A note on a unit or the whole trial.
#[derive(Debug, Clone, PartialEq)]
pub struct NoteRecord {
    /// When, by whom.
    pub head: RecordHead,
    /// Index of the unit in [`super::Trial::units`]; None for the whole trial.
    pub unit: Option<UnitIndex>,
    /// What was noted.
    pub text: String,
}

/// Units put in order from best to worst by one judge.
#[derive(Debug, Clone, PartialEq)]
pub struct LineUpRecord {
    /// When, by whom entered.
    pub head: RecordHead,
    /// Whose order it is.
    pub judge: String,
    /// From the best to the worst; those in one place are tied.
    pub order: Vec<Vec<UnitIndex>>,
}

/// Work done for all units, or left out for all of them.
#[derive(Debug, Clone, PartialEq)]
pub struct WorkRecord {
    /// When, by whom.
    pub head: RecordHead,
    /// What.
    pub job: Job,
    /// Of the solution or the water each unit got, mL, where it was measured; None where it was as planned.
    pub ml_a_unit: Option<f64>,
    /// Why it was not done; None where it was.
    pub skipped: Option<String>,
}

/// What somebody expects of the trial.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Expects {
    /// This treatment comes out best; the control where no other is better.
    Best(TreatmentIndex),
    /// No treatment differs from the control by what would matter.
    NoDifference,
    /// This unit comes out best, as told from its plants or its picture under its code.
    Unit(UnitIndex),
}

/// A guess, logged before the key was opened.
#[derive(Debug, Clone, PartialEq)]
pub struct GuessRecord {
    /// When, by whom entered.
    pub head: RecordHead,
    /// Whose guess it is.
    pub name: String,
    /// What they expect.
    pub expects: Expects,
    /// By how much more than the control, %; None where they did not say.
    pub by_percent: Option<f64>,
}

/// Something given to a unit, to those of a treatment, or to all; or withheld from them.
#[derive(Debug, Clone, PartialEq)]
pub struct GivingRecord {
    /// When, by whom.
    pub head: RecordHead,
    /// Which work it is part of: feeding, watering, giving beside the water.
    pub job: Job,
    /// To whom.
    pub to: Recipient,
    /// What.
    pub gift: Gift,
}

/// Who was given something.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Recipient {
    /// All units.
    All,
    /// All units of a treatment.
    Treatment(TreatmentIndex),
    /// One unit.
    Unit(UnitIndex),
}

/// What was given, or that it was not.
#[derive(Debug, Clone, PartialEq)]
pub enum Gift {
    /// What the plan has for it on that day.
    AsPlanned,
    /// Something of its own.
    Own(Portion),
    /// It was left out when the others got theirs.
    Withheld {
        /// Why.
        why: String,
    },
}

/// So much of something, given in some way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
// The solution bench has portions of its own.
#[cfg_attr(feature = "schema", schema(as = GivenPortion))]
#[serde(deny_unknown_fields)]
pub struct Portion {
    /// An entry of Stores, or the grower's own words.
    pub what: String,
    /// How.
    #[serde(default)]
    pub how: How,
    /// How much each unit got; null where nobody measured it.
    #[serde(default)]
    pub amount: Option<f64>,
    /// Of what the amount counts.
    #[serde(default)]
    pub unit: PortionUnit,
    /// Lot on its label.
    #[serde(default)]
    pub lot: String,
    /// Batch of the mix it came from, as the grower counts them.
    #[serde(default)]
    pub batch: String,
}

/// What the amount of a portion counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PortionUnit {
    /// Millilitres.
    #[default]
    #[serde(rename = "mL")]
    Millilitres,
    /// Grams.
    #[serde(rename = "g")]
    Grams,
}

impl PortionUnit {
    /// Its sign.
    #[must_use]
    pub fn sign(self) -> &'static str {
        match self {
            Self::Millilitres => "mL",
            Self::Grams => "g",
        }
    }
}

/// Most of anything that a unit is given at once, mL or g.
pub const MOST_PORTION: f64 = super::feed::MOST_ML_A_UNIT;

impl Portion {
    /// Checks its words and its figure.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn check(&self) -> Result<(), (&'static str, String)> {
        let most = crate::catalogue::conditions::MOST_LETTERS;
        if self.what.trim().is_empty() {
            return Err(("what", "say what was given".into()));
        }
        for (field, words) in [("what", &self.what), ("lot", &self.lot), ("batch", &self.batch)] {
            if words.chars().count() > most {
                return Err((field, format!("at most {most} letters")));
            }
        }
        match self.amount {
            Some(x) if !(x > 0.0 && x <= MOST_PORTION) => {
                Err(("amount", format!("must lie above 0 and not beyond {MOST_PORTION} {}, got {x}", self.unit.sign())))
            }
            _ => Ok(()),
        }
    }
}

/// A mix as it was made.
#[derive(Debug, Clone, PartialEq)]
pub struct MixRecord {
    /// When, by whom.
    pub head: RecordHead,
    /// Index of the treatment in the sheet.
    pub treatment: TreatmentIndex,
    /// Litres made.
    pub volume_l: f64,
    /// mL or g of feed.
    pub feed_total: f64,
    /// Measured EC, mS/cm at 25 °C.
    pub ec_ms_per_cm: Option<f64>,
    /// Measured pH.
    pub ph: Option<f64>,
    /// Batch, as the grower counts them.
    pub batch: String,
    /// Temperature of the solution, °C.
    pub temperature_c: Option<f64>,
    /// What the recipe gave then, mS/cm at 25 °C.
    pub computed_ec_ms_per_cm: Option<f64>,
    /// Why meter and computation parted.
    pub gap_why: Option<GapWhy>,
    /// What was found, in own words.
    pub gap_note: String,
    /// What went in.
    pub portions: Vec<Portioned>,
}

/// Why a meter and the computation part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum GapWhy {
    /// Something was weighed or measured wrongly.
    Scale,
    /// The water is not the one in Stores.
    Water,
    /// The meter is off.
    Probe,
    /// The label does not hold what it says.
    Label,
    /// Looked for and not found.
    Unknown,
}

/// What was weighed or poured of one ingredient.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Portioned {
    /// What.
    pub name: String,
    /// `g` or `mL`.
    pub unit: String,
    /// As much as the bench asked for.
    pub planned: f64,
    /// As much as went in.
    pub measured: f64,
    /// Lot on its label.
    #[serde(default)]
    pub lot: String,
}

/// Why a sample is not there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum GoneWhy {
    /// It died, or came to grief.
    Lost,
    /// It was taken out so that the others have room.
    Thinned,
    /// The unit has fewer than others from the start.
    NeverThere,
}

impl GoneWhy {
    /// As it is said of one, such as "lost".
    #[must_use]
    pub fn word(self) -> &'static str {
        match self {
            Self::Lost => "lost",
            Self::Thinned => "thinned out",
            Self::NeverThere => "never there",
        }
    }
}

/// A sample that is not there from a day on.
#[derive(Debug, Clone, PartialEq)]
pub struct GoneRecord {
    /// Which sample, from which day on, by whom.
    pub head: RecordHead,
    /// Of which unit.
    pub unit: UnitIndex,
    /// Why.
    pub why: GoneWhy,
    /// In the grower's own words.
    pub note: String,
}

/// What a look tells: never of which treatment.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum LookAnswer {
    /// Some treatment differs from the control.
    Differ,
    /// All do the same as the control, within what matters.
    Alike,
    /// It cannot be told yet.
    CannotTell,
    /// It cannot be told yet, and even with the best of the rest none would come as far beyond the control as matters.
    OutOfReach,
}

/// A look that was had.
#[derive(Debug, Clone, PartialEq)]
pub struct LookRecord {
    /// When, by whom.
    pub head: RecordHead,
    /// Key of the measure that was looked at.
    pub measure: String,
    /// What it told.
    pub answer: LookAnswer,
}

/// The weather of a day outdoors.
#[derive(Debug, Clone, PartialEq)]
pub struct WeatherRecord {
    /// Of which day, by whom.
    pub head: RecordHead,
    /// Rain, mm; None where nobody measured it.
    pub rain_mm: Option<f64>,
    /// Lowest temperature, °C.
    pub low_c: Option<f64>,
    /// Highest temperature, °C.
    pub high_c: Option<f64>,
}

/// Most rain of a day, mm: a little above the highest ever measured at sea level (1825 mm; World Meteorological Organization,
/// from memory).
pub const MOST_RAIN_MM: f64 = 2000.0;
/// Lowest and highest air temperature that is taken for credible, °C: the records of the Earth are -89 and 57 (World
/// Meteorological Organization, from memory).
pub const AIR_C: (f64, f64) = (-90.0, 60.0);

impl WeatherRecord {
    /// Checks the figures of a day.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn check(rain_mm: Option<f64>, low_c: Option<f64>, high_c: Option<f64>) -> Result<(), (&'static str, String)> {
        if rain_mm.is_none() && low_c.is_none() && high_c.is_none() {
            return Err(("rain_mm", "say one of rain, lowest and highest".into()));
        }
        if let Some(mm) = rain_mm.filter(|mm| !(0.0..=MOST_RAIN_MM).contains(mm)) {
            return Err(("rain_mm", format!("rain lies between 0 and {MOST_RAIN_MM} mm, got {mm}")));
        }
        for (field, value) in [("low_c", low_c), ("high_c", high_c)] {
            if let Some(c) = value.filter(|c| !(AIR_C.0..=AIR_C.1).contains(c)) {
                return Err((field, format!("between {} and {} °C, got {c}", AIR_C.0, AIR_C.1)));
            }
        }
        match low_c.zip(high_c) {
            Some((low, high)) if low > high => Err(("low_c", "the lowest lies above the highest".into())),
            _ => Ok(()),
        }
    }
}

/// What the grower says to a finding of the ledger; the finding stands, and the answer beside it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = FindingAnswer))]
pub struct AnswerRecord {
    /// Code of the finding.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub code: String,
    /// In the grower's words.
    pub text: String,
    /// Who said it.
    pub who: String,
    /// When.
    #[cfg_attr(feature = "schema", schema(value_type = String))]
    pub at: Timestamp,
}

/// What was recorded of one unit.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct UnitRecords {
    /// Readings by day, then by the time at which they were taken.
    pub readings: Vec<ReadingRecord>,
    /// Weighings in the order in which they were taken.
    pub weighings: Vec<WeighingRecord>,
}

impl UnitRecords {
    /// Readings of one kind with a value, of one crop and sample or of the unit as a whole, oldest first: day and value.
    pub fn of<'a>(
        &'a self,
        reading: &'a str,
        crop: Option<CropNumber>,
        sample: Option<SampleNumber>,
    ) -> impl DoubleEndedIterator<Item = (u32, f64)> + Clone + 'a {
        let own = self
            .readings
            .iter()
            .filter(move |r| (r.head.crop, r.head.sample) == (crop, sample) && r.reading == reading);
        own.filter_map(|r| Some((r.head.day, r.value?)))
    }

    /// Minutes of work on the unit that were entered, of any task; None where none were.
    #[must_use]
    pub fn work_minutes(&self) -> Option<f64> {
        let each = readings::WORK.iter().flat_map(|own| self.of(own.key, None, None));
        each.map(|(_, minutes)| minutes).reduce(|sum, own| sum + own)
    }

    /// The reading of one kind that stands for a stated day: that of the day itself, else of a day beside it, the later one
    /// first. None where nobody looked within [`DAYS_BESIDE`].
    ///
    /// [`DAYS_BESIDE`]: UnitRecords::DAYS_BESIDE
    #[must_use]
    pub fn on(
        &self,
        reading: &str,
        crop: Option<CropNumber>,
        sample: Option<SampleNumber>,
        day: u32,
    ) -> Option<(u32, f64)> {
        let near = self.of(reading, crop, sample).filter(|(own, _)| own.abs_diff(day) <= Self::DAYS_BESIDE);
        // Of several on one day the last, as of several readings of a trial.
        near.enumerate().min_by_key(|(n, (own, _))| (own.abs_diff(day), std::cmp::Reverse((*own, *n)))).map(|(_, r)| r)
    }

    /// How far a reading may lie from the day for which it stands: common practice, no source.
    pub const DAYS_BESIDE: u32 = 1;

    /// The weight of one crop or sample, or of the unit as a whole.
    #[must_use]
    pub fn weighed(&self, crop: Option<CropNumber>, sample: Option<SampleNumber>) -> Option<&WeighingRecord> {
        self.weighings.iter().find(|w| (w.head.crop, w.head.sample) == (crop, sample))
    }
}

/// All records of a trial, indexed by unit.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Records {
    /// Records of each unit, in the order of [`super::Trial::units`].
    pub units: Vec<Arc<UnitRecords>>,
    /// Notes, oldest first.
    pub notes: Vec<NoteRecord>,
    /// Work done for all units, or left out, by day.
    pub work: Vec<WorkRecord>,
    /// What was given to single units and treatments, or withheld from them, by day.
    pub givings: Vec<GivingRecord>,
    /// Work of that round moved to another day, oldest first.
    pub moved: Vec<MovedJob>,
    /// Day on which the sowing of that round was entered, by the farm's calendar: later than day 0 where a past day was said.
    pub sowing_entered: Option<u32>,
    /// Mixes, oldest first.
    pub mixes: Vec<MixRecord>,
    /// Units put in order by judges, by day.
    pub line_ups: Vec<LineUpRecord>,
    /// Guesses, oldest first.
    pub guesses: Vec<GuessRecord>,
    /// Samples that were never there or are no longer, by day; each stands once.
    pub gone: Vec<GoneRecord>,
    /// What was cut or picked before one harvest at the end, or in its place, by day.
    pub picks: Vec<PickRecord>,
    /// Looks had before the end, by day.
    pub looks: Vec<LookRecord>,
    /// The weather outdoors, by day.
    pub weather: Vec<WeatherRecord>,
    /// What the grower says to findings.
    pub answers: Vec<AnswerRecord>,
    /// What was decided on its strength, oldest first.
    pub decisions: Vec<DecisionRecord>,
}

impl Records {
    /// Number of readings.
    #[must_use]
    pub fn readings(&self) -> usize {
        self.units.iter().map(|u| u.readings.len()).sum()
    }

    /// Number of weighings.
    #[must_use]
    pub fn weighings(&self) -> usize {
        self.units.iter().map(|u| u.weighings.len()).sum()
    }
}

/// A head for records of tests: of no crop or sample, on a day of the first round.
#[cfg(test)]
pub(crate) fn record_head(day: u32) -> RecordHead {
    let at = Timestamp::from_second(i64::from(day) * 86_400).expect("an instant");
    let (crop, sample, instrument) = (None, None, None);
    RecordHead { crop, sample, day, round: 1, at, entered_at: at, who: "Ada".into(), instrument, version: 1 }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_count_from_one_and_places_from_nought() {
        assert_eq!(CropNumber::new(0), None);
        assert_eq!(CropNumber::new(3).map(|c| (c.get(), c.index())), Some((3, 2)));
    }
}
