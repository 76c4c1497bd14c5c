//! What was recorded of a trial, as it is held in memory: every record under one head, by its kind.
//!
//! The kinds themselves stand in [`super::record`], one file each; here is what holds them. Late
//! entries are normal: yesterday's feeding may be entered today, so that a head keeps when
//! something was done and when it was entered.

use crate::catalogue::readings;
use iron_twin_terms::indices::UnitIndex;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::any::Any;
use std::collections::BTreeMap;
use std::fmt::Debug;
use std::num::NonZeroU32;
use std::ops::Deref;
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

/// A value that a trial holds under heads: what was done, seen, weighed, said.
pub trait Kept: Debug + Clone + PartialEq + Send + Sync + 'static {
    /// Its name on the wire, in the file and in the diary.
    const KIND: &'static str;
    /// Whether it is asked for unit by unit, and so held with the unit.
    const BY_UNIT: bool = false;

    /// What those of its kind are ordered by, before the order in which they were written.
    #[must_use]
    fn order(own: &Recorded<Self>) -> (u32, Timestamp) {
        (own.head.day, own.head.at)
    }
}

/// A record: its value under its head.
#[derive(Debug, Clone, PartialEq)]
pub struct Recorded<R> {
    /// Its number in the file; 0 for one that is in none.
    pub no: i64,
    /// Of which unit; None for the trial as a whole.
    pub unit: Option<UnitIndex>,
    /// When, by whom, with what.
    pub head: RecordHead,
    /// What was recorded.
    pub is: R,
}

impl<R> Recorded<R> {
    /// One that stands in no file.
    #[must_use]
    pub fn new(unit: Option<UnitIndex>, head: RecordHead, is: R) -> Self {
        Self {
            no: 0,
            unit,
            head,
            is,
        }
    }
}

impl<R> Deref for Recorded<R> {
    type Target = R;

    fn deref(&self) -> &R {
        &self.is
    }
}

/// Records of one kind, whichever.
trait List: Debug + Send + Sync {
    fn as_any(&self) -> &dyn Any;
    fn is_also(&self, other: &dyn List) -> bool;
    fn len(&self) -> usize;
}

impl<R: Kept> List for Vec<Recorded<R>> {
    fn as_any(&self) -> &dyn Any {
        self
    }

    fn is_also(&self, other: &dyn List) -> bool {
        other
            .as_any()
            .downcast_ref::<Self>()
            .is_some_and(|other| self == other)
    }

    fn len(&self) -> usize {
        Vec::len(self)
    }
}

/// Records, kind by kind.
#[derive(Debug, Clone, Default)]
pub struct Lists(BTreeMap<&'static str, Arc<dyn List>>);

impl PartialEq for Lists {
    fn eq(&self, other: &Self) -> bool {
        self.0.len() == other.0.len()
            && self
                .0
                .iter()
                .zip(&other.0)
                .all(|(a, b)| a.0 == b.0 && a.1.is_also(&**b.1))
    }
}

impl Lists {
    /// Those of one kind, in their order.
    #[must_use]
    pub fn of<R: Kept>(&self) -> &[Recorded<R>] {
        let list = self
            .0
            .get(R::KIND)
            .and_then(|list| list.as_any().downcast_ref::<Vec<Recorded<R>>>());
        list.map_or(&[], Vec::as_slice)
    }

    /// Puts a record in its place in the order; one of the same number is replaced.
    pub fn put<R: Kept>(&mut self, own: Recorded<R>) {
        // The lists are shared with those who read them: a new one is made, as everything about a
        // trial in memory is.
        let mut list = self.of::<R>().to_vec();
        if own.no != 0 {
            list.retain(|other| other.no != own.no);
        }
        let key = (R::order(&own), own.no);
        let at = list.partition_point(|other| (R::order(other), other.no) <= key);
        list.insert(at, own);
        self.0.insert(R::KIND, Arc::new(list));
    }

    /// Puts these in the place of all of their kind.
    pub fn set<R: Kept>(&mut self, all: Vec<Recorded<R>>) {
        self.edit(|list| *list = all);
    }

    /// Changes those of one kind.
    pub fn edit<R: Kept>(&mut self, change: impl FnOnce(&mut Vec<Recorded<R>>)) {
        let mut list = self.of::<R>().to_vec();
        change(&mut list);
        list.sort_by_key(|own| (R::order(own), own.no));
        self.0.insert(R::KIND, Arc::new(list));
    }

    /// Number of those of one kind.
    #[must_use]
    pub fn count(&self, kind: &str) -> usize {
        self.0.get(kind).map_or(0, |list| list.len())
    }
}

impl<R: Kept> FromIterator<Recorded<R>> for Lists {
    fn from_iter<I: IntoIterator<Item = Recorded<R>>>(all: I) -> Self {
        let mut lists = Self::default();
        lists.set(all.into_iter().collect());
        lists
    }
}

/// What was recorded of one unit.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct UnitRecords {
    /// Readings by day, then by the time at which they were taken.
    pub readings: Vec<ReadingRecord>,
    /// Records of kinds that are held with their unit.
    pub own: Lists,
}

impl UnitRecords {
    /// Readings of one kind with a value, of one crop and sample or of the unit as a whole, oldest
    /// first: day and value.
    pub fn of<'a>(
        &'a self,
        reading: &'a str,
        crop: Option<CropNumber>,
        sample: Option<SampleNumber>,
    ) -> impl DoubleEndedIterator<Item = (u32, f64)> + Clone + 'a {
        let own = self.readings.iter().filter(move |r| {
            (r.head.crop, r.head.sample) == (crop, sample) && r.reading == reading
        });
        own.filter_map(|r| Some((r.head.day, r.value?)))
    }

    /// Minutes of work on the unit that were entered, of any task; None where none were.
    #[must_use]
    pub fn work_minutes(&self) -> Option<f64> {
        let each = readings::WORK
            .iter()
            .flat_map(|own| self.of(own.key, None, None));
        each.map(|(_, minutes)| minutes)
            .reduce(|sum, own| sum + own)
    }

    /// The reading of one kind that stands for a stated day: that of the day itself, else of a day
    /// beside it, the later one first. None where nobody looked within [`DAYS_BESIDE`].
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
        let near = self
            .of(reading, crop, sample)
            .filter(|(own, _)| own.abs_diff(day) <= Self::DAYS_BESIDE);
        // Of several on one day the last, as of several readings of a trial.
        near.enumerate()
            .min_by_key(|(n, (own, _))| (own.abs_diff(day), std::cmp::Reverse((*own, *n))))
            .map(|(_, r)| r)
    }

    /// How far a reading may lie from the day for which it stands: common practice, no source.
    pub const DAYS_BESIDE: u32 = 1;
}

/// All records of a trial.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Records {
    /// Records of each unit, in the order of [`super::Trial::units`].
    pub units: Vec<Arc<UnitRecords>>,
    /// Records of all other kinds.
    pub lists: Lists,
    /// Day on which the sowing of that round was entered, by the farm's calendar: later than day 0
    /// where a past day was said.
    pub sowing_entered: Option<u32>,
}

impl Records {
    /// Those of one kind, in their order; of a kind that is held with its unit see
    /// [`UnitRecords::own`].
    #[must_use]
    pub fn of<R: Kept>(&self) -> &[Recorded<R>] {
        self.lists.of::<R>()
    }

    /// Takes a record in, in its order; one of the same number is replaced.
    pub fn put<R: Kept>(&mut self, own: Recorded<R>) {
        match own.unit {
            Some(unit) if R::BY_UNIT => {
                if let Some(of) = self.units.get_mut(unit.get()) {
                    Arc::make_mut(of).own.put(own);
                }
            }
            _ => self.lists.put(own),
        }
    }

    /// Number of readings.
    #[must_use]
    pub fn readings(&self) -> usize {
        self.units.iter().map(|u| u.readings.len()).sum()
    }

    /// Number of weighings.
    #[must_use]
    pub fn weighings(&self) -> usize {
        self.units.iter().map(|u| u.own.count("weighing")).sum()
    }
}

/// A head for records of tests: of no crop or sample, on a day of the first round.
#[cfg(test)]
pub(crate) fn record_head(day: u32) -> RecordHead {
    let at = Timestamp::from_second(i64::from(day) * 86_400).expect("an instant");
    let (crop, sample, instrument) = (None, None, None);
    RecordHead {
        crop,
        sample,
        day,
        round: 1,
        at,
        entered_at: at,
        who: "Ada".into(),
        instrument,
        version: 1,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[derive(Debug, Clone, PartialEq)]
    struct Knock(u32);

    impl Kept for Knock {
        const KIND: &'static str = "knock";
    }

    #[test]
    fn numbers_count_from_one_and_places_from_nought() {
        assert_eq!(CropNumber::new(0), None);
        assert_eq!(
            CropNumber::new(3).map(|c| (c.get(), c.index())),
            Some((3, 2))
        );
    }

    #[test]
    fn records_stand_in_order_and_one_of_the_same_number_is_replaced() {
        let mut lists = Lists::default();
        let knock = |no, day, is| Recorded {
            no,
            unit: None,
            head: record_head(day),
            is: Knock(is),
        };
        for own in [
            knock(3, 5, 1),
            knock(1, 2, 2),
            knock(2, 5, 3),
            knock(1, 9, 4),
        ] {
            lists.put(own);
        }
        let told = |lists: &Lists| {
            lists
                .of::<Knock>()
                .iter()
                .map(|k| (k.no, k.0))
                .collect::<Vec<_>>()
        };
        assert_eq!(told(&lists), [(2, 3), (3, 1), (1, 4)]);
        let before = lists.clone();
        assert_eq!(lists, before);
        lists.put(knock(2, 5, 8));
        assert!(
            lists != before && told(&before)[0] == (2, 3),
            "who read it before reads on what it was"
        );
    }
}
