//! Looks: how the treatments compare before the end. A planned one spends its share of the error
//! allowance; another is logged, and told with the verdict. Neither opens the key.

use super::Trial;
use super::records::UnitRecords;
use std::collections::BTreeSet;

/// Shares of a trial at which somebody looked: its days out of all that were planned.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct LookShares {
    /// Those that were planned, and had; rising, the end not among them.
    pub planned: Vec<f64>,
    /// Looks that were not planned.
    pub unplanned: Vec<f64>,
}

impl Trial {
    /// The planned look that a look on a day is, by its place in the plan: on the day itself or
    /// beside it.
    #[must_use]
    pub fn planned_look(&self, day: u32) -> Option<usize> {
        let near = |planned: &u32| planned.abs_diff(day) <= UnitRecords::DAYS_BESIDE;
        let days = self
            .plan
            .ask
            .looks_on
            .iter()
            .enumerate()
            .filter(|(_, own)| near(own));
        days.min_by_key(|(_, own)| own.abs_diff(day))
            .map(|(n, _)| n)
    }

    /// Days on which what decides was looked at before the day on which it is judged: those that
    /// were planned, and others. Several looks of a day are one.
    #[must_use]
    pub fn looked_on(&self) -> (Vec<u32>, Vec<u32>) {
        self.parted(self.look_days())
    }

    /// Whether a look at what decides on a day is, or would be, one that was planned: of two near
    /// one planned day only the first is.
    #[must_use]
    pub fn is_planned_look(&self, day: u32) -> bool {
        let mut days = self.look_days();
        days.insert(day);
        self.parted(days).0.contains(&day)
    }

    fn look_days(&self) -> BTreeSet<u32> {
        let decides = self.decides();
        let had = self
            .records
            .looks()
            .iter()
            .filter(|l| l.measure == decides.measure.key);
        had.map(|l| l.head.day)
            .filter(|day| (1..self.judged_by()).contains(day))
            .collect()
    }

    fn parted(&self, days: BTreeSet<u32>) -> (Vec<u32>, Vec<u32>) {
        let mut met = BTreeSet::new();
        // Of two looks near one planned day the first is the planned one.
        days.into_iter()
            .partition(|day| self.planned_look(*day).is_some_and(|n| met.insert(n)))
    }

    /// Day on which what decides is judged.
    fn judged_by(&self) -> u32 {
        self.decides().day.unwrap_or(self.plan.ask.end_day)
    }

    /// The shares of the trial at which what decides was looked at, by plan and beside it. A
    /// planned look that nobody had spends nothing; one at the end is none.
    #[must_use]
    pub fn look_shares(&self) -> LookShares {
        let share = |days: Vec<u32>| {
            days.into_iter()
                .map(|day| f64::from(day) / f64::from(self.judged_by()))
                .collect()
        };
        let (planned, unplanned) = self.looked_on();
        LookShares {
            planned: share(planned),
            unplanned: share(unplanned),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::super::record::look::{Look, LookAnswer};
    use super::super::records::{Recorded, record_head};
    use super::*;
    use crate::trial::plan::Plan;

    #[test]
    fn looks_beside_the_plan_are_told_once_a_day() {
        let mut trial = Trial::planned("x", Plan::usual("Cress"));
        let mut plan = (*trial.plan).clone();
        (plan.ask.end_day, plan.ask.looks_on) = (20, vec![5, 10, 14]);
        trial.plan = plan.into();
        let key = trial.decides().measure.key;
        let look = |day: u32, measure: &str| {
            Recorded::new(
                None,
                record_head(day),
                Look {
                    measure: measure.into(),
                    answer: LookAnswer::CannotTell,
                },
            )
        };
        let own = [15, 8, 6, 8, 10, 11, 18, 20].map(|day| look(day, key));
        trial
            .records
            .lists
            .set(own.into_iter().chain([look(3, "other")]).collect());
        let told = trial.look_shares();
        assert_eq!(
            told,
            LookShares {
                planned: vec![0.3, 0.5, 0.75],
                unplanned: vec![0.4, 0.55, 0.9]
            }
        );
        let planned = [4, 6, 7, 9, 11, 12].map(|day| trial.planned_look(day));
        assert_eq!(planned, [Some(0), Some(0), None, Some(1), Some(1), None]);
        // Day 6 was the look of day 5: once more on it is the same look, on the day after another.
        assert_eq!(
            [6, 7, 10, 11].map(|day| trial.is_planned_look(day)),
            [true, false, true, false]
        );
        trial.records.lists.set::<Look>(Vec::new());
        assert_eq!(
            trial.look_shares(),
            LookShares::default(),
            "what nobody had spends nothing"
        );
    }
}
