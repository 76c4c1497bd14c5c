//! Samples of a unit that were never there, died, or were thinned out: units may hold unlike
//! numbers of them, and fewer from a day on.

use super::Trial;
use super::question::Judged;
use super::record::gone::{Gone, GoneWhy};
use super::records::{CropNumber, Recorded, SampleNumber};
use crate::catalogue::measures::Source;
use iron_twin_terms::indices::UnitIndex;

/// How many samples of a treatment stood at the start, and how many died.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub struct SampleLosses {
    /// At the start.
    pub stood: usize,
    /// That died.
    pub lost: usize,
}

impl Judged {
    /// Whether what a sample showed before it was gone still stands: what it was on a stated day,
    /// and when something was first seen of it. How it ended is known of none that was gone by
    /// then.
    #[must_use]
    pub fn outlives_samples(&self) -> bool {
        self.day.is_some() || matches!(self.measure.source, Source::FirstSeen(_))
    }
}

impl Trial {
    /// What is known of a sample that is not there; None of one that stands, and of a unit as a
    /// whole.
    #[must_use]
    pub fn gone(&self, unit: UnitIndex, sample: Option<SampleNumber>) -> Option<&Recorded<Gone>> {
        let sample = sample?;
        self.records
            .gone()
            .iter()
            .find(|g| g.unit == Some(unit) && g.head.sample == Some(sample))
    }

    /// Why a sample is not there on a day, in words; None of one that stands.
    #[must_use]
    pub fn why_gone(&self, unit: UnitIndex, sample: SampleNumber, day: u32) -> Option<String> {
        let own = self
            .gone(unit, Some(sample))
            .filter(|_| !self.stands(unit, Some(sample), day))?;
        let (number, code, why) = (sample.get(), &self.units[unit].code, own.why.word());
        Some(match own.why {
            GoneWhy::NeverThere => format!("plant {number} of {code} was {why}"),
            _ => format!("plant {number} of {code} was {why} on day {}", own.head.day),
        })
    }

    /// Whether a sample is there on a day: it is not on the day from which on it is gone.
    #[must_use]
    pub fn stands(&self, unit: UnitIndex, sample: Option<SampleNumber>, day: u32) -> bool {
        self.gone(unit, sample)
            .is_none_or(|g| g.why != GoneWhy::NeverThere && day < g.head.day)
    }

    /// The samples of a unit that stand to the end; None for the unit as a whole.
    pub fn standing_samples(
        &self,
        unit: UnitIndex,
    ) -> impl Iterator<Item = Option<SampleNumber>> + '_ {
        self.plan
            .ask
            .samples()
            .filter(move |sample| self.gone(unit, *sample).is_none())
    }

    /// What is weighed of a unit: each crop in it, each of its samples that stand, or the whole.
    pub fn weighed_parts(
        &self,
        unit: UnitIndex,
    ) -> impl Iterator<Item = (Option<CropNumber>, Option<SampleNumber>)> + '_ {
        self.plan
            .ask
            .weighed_parts()
            .filter(move |(_, sample)| self.gone(unit, *sample).is_none())
    }

    /// Samples of some units that died, of those that stood at the start: what was thinned out is
    /// no loss.
    #[must_use]
    pub fn sample_losses(&self, units: impl Iterator<Item = UnitIndex>) -> SampleLosses {
        let mut of = SampleLosses::default();
        for unit in units {
            for sample in self.plan.ask.samples().filter(Option::is_some) {
                match self.gone(unit, sample).map(|g| g.why) {
                    Some(GoneWhy::NeverThere) => {}
                    why => {
                        of.stood += 1;
                        of.lost += usize::from(why == Some(GoneWhy::Lost));
                    }
                }
            }
        }
        of
    }
}

#[cfg(test)]
mod tests {
    use super::super::records::{RecordHead, record_head};
    use super::*;
    use crate::trial::plan::Plan;

    fn trial(gone: &[(usize, u32, u32, GoneWhy)]) -> Trial {
        let mut trial = Trial::planned("x", Plan::usual("Mint"));
        let mut plan = (*trial.plan).clone();
        plan.ask.samples_inside = 4;
        trial.plan = plan.into();
        let record = |&(unit, sample, day, why): &(usize, u32, u32, GoneWhy)| {
            Recorded::new(
                Some(UnitIndex(unit)),
                RecordHead {
                    sample: SampleNumber::new(sample),
                    ..record_head(day)
                },
                Gone {
                    why,
                    note: String::new(),
                },
            )
        };
        trial.records.lists.set(gone.iter().map(record).collect());
        trial
    }

    #[test]
    fn a_sample_stands_up_to_the_day_on_which_it_is_gone() {
        let own = trial(&[
            (0, 2, 5, GoneWhy::Lost),
            (1, 4, 0, GoneWhy::NeverThere),
            (1, 1, 7, GoneWhy::Thinned),
        ]);
        let stands = |unit: usize, sample: u32, day| {
            own.stands(UnitIndex(unit), SampleNumber::new(sample), day)
        };
        assert_eq!([4, 5, 6].map(|day| stands(0, 2, day)), [true, false, false]);
        assert_eq!(
            [stands(1, 4, 0), stands(1, 1, 6), stands(1, 1, 7)],
            [false, true, false]
        );
        assert!(own.stands(UnitIndex(0), None, 99) && stands(0, 1, 99) && stands(1, 2, 99));
        let left = |unit| {
            own.standing_samples(UnitIndex(unit))
                .flatten()
                .map(SampleNumber::get)
                .collect::<Vec<_>>()
        };
        assert_eq!((left(0), left(1)), (vec![1, 3, 4], vec![2, 3]));
    }

    #[test]
    fn only_what_died_is_a_loss() {
        let own = trial(&[
            (0, 2, 5, GoneWhy::Lost),
            (1, 4, 0, GoneWhy::NeverThere),
            (1, 1, 7, GoneWhy::Thinned),
        ]);
        let of = |units: &[usize]| own.sample_losses(units.iter().map(|u| UnitIndex(*u)));
        assert_eq!(of(&[0]), SampleLosses { stood: 4, lost: 1 });
        assert_eq!(of(&[1]), SampleLosses { stood: 3, lost: 0 });
        assert_eq!(of(&[0, 1]), SampleLosses { stood: 7, lost: 1 });
    }
}
