//! What is cut or picked of a unit before, or in the place of, one harvest at the end.

use super::Trial;
use super::record::pick::Pick;
use super::records::{CropNumber, Recorded, SampleNumber};
use iron_twin_terms::indices::UnitIndex;

/// The running yield of a unit.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Yield {
    /// All that was cut and picked, g.
    pub g: f64,
    /// Pieces; None where some were not counted, or there were none to count.
    pub pieces: Option<u32>,
    /// What it brings at the price of each grade; None where a price is missing.
    pub value: Option<f64>,
}

impl Yield {
    /// Average weight of a piece, g.
    #[must_use]
    pub fn piece_g(&self) -> Option<f64> {
        self.pieces
            .filter(|n| *n > 0)
            .map(|n| self.g / f64::from(n))
    }
}

impl Trial {
    /// What was picked of a unit, and of one of its crops, oldest first.
    pub fn picks_of(
        &self,
        unit: UnitIndex,
        crop: Option<CropNumber>,
    ) -> impl Iterator<Item = &Recorded<Pick>> + Clone {
        self.records
            .picks()
            .iter()
            .filter(move |p| p.unit == Some(unit) && p.head.crop == crop)
    }

    /// Whether a unit, or a crop of it, is harvested: it was weighed at the end, or its last wave
    /// was looked at on the last day or later.
    #[must_use]
    pub fn is_harvested(&self, unit: UnitIndex, crop: Option<CropNumber>) -> bool {
        let weighed = self
            .of_unit(unit)
            .weighings()
            .iter()
            .any(|w| w.head.crop == crop);
        let last = |p: &Recorded<Pick>| !p.aside && p.head.day >= self.plan.ask.end_day;
        weighed || (self.plan.ask.waves.is_some() && self.picks_of(unit, crop).any(last))
    }

    /// All that was cut and picked of a unit, of one of its crops or samples, g: once it is
    /// harvested, and as far as it has come where it is cut in waves. None before.
    #[must_use]
    pub fn harvest_g(
        &self,
        unit: UnitIndex,
        crop: Option<CropNumber>,
        sample: Option<SampleNumber>,
    ) -> Option<f64> {
        let own = self.of_unit(unit);
        let weighed = own.weighed(crop, sample).map(|w| w.net_g());
        let picked = self
            .picks_of(unit, crop)
            .filter(|p| p.head.sample == sample);
        let waves = self.plan.ask.waves.is_some() && picked.clone().any(|p| !p.aside);
        let sum = weighed.into_iter().chain(picked.map(|p| p.net_g())).sum();
        (weighed.is_some() || waves).then_some(sum)
    }

    /// All of a unit, or of one of its crops, its samples together, g.
    #[must_use]
    pub fn cut_g(&self, unit: UnitIndex, crop: Option<CropNumber>) -> Option<f64> {
        let whole = self.harvest_g(unit, crop, None);
        let samples = self
            .plan
            .ask
            .samples()
            .flatten()
            .filter_map(|s| self.harvest_g(unit, crop, Some(s)));
        samples.chain(whole).reduce(|sum, g| sum + g)
    }

    /// What a kg of a grade brings; what is not sorted has no grade. None where nobody said.
    #[must_use]
    pub fn price_of(&self, grade: &str) -> Option<f64> {
        let own = self
            .plan
            .ask
            .waves
            .iter()
            .flat_map(|w| &w.grades)
            .find(|g| g.name == grade);
        own.and_then(|g| g.price_per_kg)
            .or(self.plan.ask.price_per_kg)
    }

    /// What a unit, or a crop of it, has yielded by the end of a day.
    #[must_use]
    pub fn yield_by(&self, unit: UnitIndex, crop: Option<CropNumber>, day: u32) -> Yield {
        let mut sum = Yield {
            g: 0.0,
            pieces: Some(0),
            value: Some(0.0),
        };
        let mut add = |g: f64, pieces: Option<u32>, grade: &str| {
            sum.g += g;
            if g > 0.0 {
                sum.pieces = sum.pieces.zip(pieces).map(|(all, own)| all + own);
                sum.value = sum
                    .value
                    .zip(self.price_of(grade))
                    .map(|(all, price)| all + g / 1000.0 * price);
            }
        };
        for pick in self.picks_of(unit, crop).filter(|p| p.head.day <= day) {
            add(pick.net_g(), pick.pieces, &pick.grade);
        }
        for weighing in self
            .of_unit(unit)
            .weighings()
            .iter()
            .filter(|w| w.head.crop == crop && w.head.day <= day)
        {
            add(weighing.net_g(), None, "");
        }
        sum.pieces = sum.pieces.filter(|n| *n > 0);
        sum
    }

    /// Days of waves so far, oldest first: those on which something was picked in turn.
    #[must_use]
    pub fn wave_days(&self) -> Vec<u32> {
        let days = self
            .records
            .picks()
            .iter()
            .filter(|p| !p.aside && p.head.round == self.round)
            .map(|p| p.head.day);
        days.collect::<std::collections::BTreeSet<u32>>()
            .into_iter()
            .collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::plan::Plan;
    use crate::trial::record::weighing::Weighing;
    use crate::trial::records::{Recorded, UnitRecords, record_head};
    use crate::trial::waves::{SizeGrade, Waves};
    use std::sync::Arc;

    fn pick(unit: usize, day: u32, net_g: f64, pieces: Option<u32>, grade: &str) -> Recorded<Pick> {
        let head = record_head(day);
        Recorded::new(
            Some(UnitIndex(unit)),
            head,
            Pick {
                gross_g: net_g + 10.0,
                tare_g: 10.0,
                pieces,
                grade: grade.into(),
                aside: false,
            },
        )
    }

    /// Two plants of peppers; 60 days.
    fn peppers(picks: Vec<Recorded<Pick>>) -> Trial {
        let mut trial = Trial::planned("x", Plan::usual("Peppers"));
        trial.records.units = (0..2).map(|_| Arc::new(UnitRecords::default())).collect();
        let plan = Arc::make_mut(&mut trial.plan);
        plan.ask.end_day = 60;
        plan.ask.waves = Some(Waves {
            grades: vec![
                SizeGrade {
                    name: "large".into(),
                    price_per_kg: Some(8.0),
                },
                SizeGrade {
                    name: "small".into(),
                    price_per_kg: Some(5.0),
                },
                SizeGrade {
                    name: "split".into(),
                    price_per_kg: Some(0.0),
                },
            ],
            cut_mm: None,
        });
        trial.records.lists.set(picks);
        trial
    }

    #[test]
    fn three_waves_come_to_their_weight_pieces_and_value() {
        let trial = peppers(vec![
            pick(0, 45, 620.0, Some(4), "large"),
            pick(0, 45, 150.0, Some(2), "small"),
            pick(1, 45, 0.0, None, ""),
            pick(0, 52, 480.0, Some(3), "large"),
            pick(0, 60, 90.0, Some(1), "split"),
        ]);
        let unit = UnitIndex(0);
        // By hand: 0.62 x 8 + 0.15 x 5 = 5.71; with the second wave 5.71 + 0.48 x 8 = 9.55; what is
        // split brings nothing.
        let told = |day| {
            let own = trial.yield_by(unit, None, day);
            (own.g, own.pieces, own.value.map(|v| (v * 100.0).round()))
        };
        assert_eq!(told(44), (0.0, None, Some(0.0)));
        assert_eq!(told(45), (770.0, Some(6), Some(571.0)));
        assert_eq!(told(52), (1250.0, Some(9), Some(955.0)));
        assert_eq!(told(60), (1340.0, Some(10), Some(955.0)));
        assert_eq!(trial.yield_by(unit, None, 60).piece_g(), Some(134.0));
        assert_eq!(trial.wave_days(), [45, 52, 60]);
        // The first is through with its last day; of the second nothing was looked at on it.
        assert_eq!(
            (
                trial.is_harvested(unit, None),
                trial.is_harvested(UnitIndex(1), None)
            ),
            (true, false)
        );
        assert_eq!(
            (trial.cut_g(unit, None), trial.cut_g(UnitIndex(1), None)),
            (Some(1340.0), Some(0.0))
        );
    }

    #[test]
    fn what_is_missing_is_said_and_not_guessed() {
        // Pieces that were not counted once, a grade without a price.
        let mut trial = peppers(vec![
            pick(0, 45, 620.0, Some(4), "large"),
            pick(0, 52, 480.0, None, "odd"),
        ]);
        let own = trial.yield_by(UnitIndex(0), None, 60);
        assert_eq!((own.g, own.pieces, own.value), (1100.0, None, None));
        // A price for all stands where a grade has none.
        Arc::make_mut(&mut trial.plan).ask.price_per_kg = Some(2.0);
        assert_eq!(
            trial.yield_by(UnitIndex(0), None, 60).value,
            Some(0.62 * 8.0 + 0.48 * 2.0)
        );
    }

    #[test]
    fn what_goes_to_the_kitchen_counts_once_the_unit_is_weighed() {
        let mut aside = pick(0, 8, 40.0, None, "");
        aside.is.aside = true;
        let mut trial = peppers(vec![aside]);
        Arc::make_mut(&mut trial.plan).ask.waves = None;
        assert_eq!(
            (trial.harvest_g(UnitIndex(0), None, None), trial.wave_days()),
            (None, vec![])
        );
        let weighing = Recorded::new(
            None,
            record_head(60),
            Weighing {
                gross_g: 400.0,
                tare_g: 288.0,
                turn: None,
            },
        );
        Arc::make_mut(&mut trial.records.units[0]).own.put(weighing);
        assert_eq!(trial.harvest_g(UnitIndex(0), None, None), Some(152.0));
        assert!(trial.is_harvested(UnitIndex(0), None));
    }
}
