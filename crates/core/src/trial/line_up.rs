//! Line-ups: units put in order from best to worst by one or several judges; ties allowed.

use super::Trial;
use super::record::line_up::LineUp;
use super::records::Recorded;
use iron_twin_terms::indices::UnitIndex;
use std::collections::BTreeMap;

impl LineUp {
    /// The place of every unit that is asked about, from 1 for the best; those that are tied share
    /// the middle of theirs, and what is not asked about leaves no gap.
    #[must_use]
    pub fn ranks(
        &self,
        trial: &Trial,
        asked: impl Fn(UnitIndex) -> bool,
    ) -> BTreeMap<UnitIndex, f64> {
        let mut places = BTreeMap::new();
        let mut before = 0;
        for tied in self.order(trial) {
            let own: Vec<UnitIndex> = tied.into_iter().filter(|u| asked(*u)).collect();
            let middle = before as f64 + (own.len() as f64 + 1.0) / 2.0;
            before += own.len();
            places.extend(own.into_iter().map(|unit| (unit, middle)));
        }
        places
    }
}

impl Trial {
    /// The line-up that stands for each judge of a round: their last one. Judges by name.
    #[must_use]
    pub fn line_ups_of(&self, round: u32) -> BTreeMap<&str, &Recorded<LineUp>> {
        let own = self
            .records
            .line_ups()
            .iter()
            .filter(|l| l.head.round == round);
        let mut last: BTreeMap<&str, &Recorded<LineUp>> = BTreeMap::new();
        for record in own {
            let newer = |known: &&Recorded<LineUp>| {
                (known.head.day, known.head.at) <= (record.head.day, record.head.at)
            };
            if last.get(&*record.judge).is_none_or(newer) {
                last.insert(&record.judge, record);
            }
        }
        last
    }

    /// Whether a unit stands to be lined up: it is in a round, and was not lost.
    fn is_lined_up(&self, unit: UnitIndex, round: u32) -> bool {
        let own = &self.units[unit];
        own.lost.is_none() && (!self.plan.rack.has_rounds() || own.position.level == round)
    }

    /// The mean place of a unit over the judges who lined it up; None where nobody did.
    #[must_use]
    pub fn mean_place(&self, unit: UnitIndex) -> Option<f64> {
        let own = &self.units[unit];
        let round = if self.plan.rack.has_rounds() {
            own.position.level
        } else {
            1
        };
        let of = self.line_ups_of(round);
        let places = of.values().filter_map(|l| {
            l.ranks(self, |u| self.is_lined_up(u, round))
                .get(&unit)
                .copied()
        });
        let places: Vec<f64> = places.collect();
        (!places.is_empty()).then(|| places.iter().sum::<f64>() / places.len() as f64)
    }

    /// The places that each judge of the round gave to the units that all of them lined up: judges
    /// by name, and their ranks in one order of units.
    #[must_use]
    pub fn common_places(&self) -> (Vec<&str>, Vec<Vec<f64>>) {
        let of = self.line_ups_of(self.round);
        let by_all = |unit: UnitIndex| {
            self.is_lined_up(unit, self.round)
                && of
                    .values()
                    .all(|l| l.order(self).iter().flatten().any(|u| *u == unit))
        };
        let common: Vec<UnitIndex> = self.unit_indices().filter(|u| by_all(*u)).collect();
        let places = of.values().map(|l| {
            l.ranks(self, |u| common.contains(&u))
                .into_values()
                .collect()
        });
        (of.keys().copied().collect(), places.collect())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::deal::{Loss, Unit};
    use crate::trial::plan::Plan;
    use crate::trial::records::record_head;
    use crate::trial::space::Position;
    use iron_twin_terms::indices::TreatmentIndex;
    use std::sync::Arc;

    fn record(judge: &str, day: u32, order: &[&[usize]]) -> Recorded<LineUp> {
        Recorded::new(
            None,
            record_head(day),
            LineUp {
                judge: judge.into(),
                places: order
                    .iter()
                    .map(|tied| {
                        tied.iter()
                            .map(|n| char::from(b'A' + *n as u8).to_string())
                            .collect()
                    })
                    .collect(),
            },
        )
    }

    fn trial(line_ups: Vec<Recorded<LineUp>>) -> Trial {
        let mut trial = Trial::planned("x", Plan::usual("Cress"));
        let unit = |n: usize| Unit {
            id: format!("u{n}"),
            code: char::from(b'A' + n as u8).to_string(),
            position: Position {
                level: 1,
                slot: n as u32 + 1,
            },
            treatment: TreatmentIndex(n % 2),
            lost: None,
        };
        trial.units = Arc::new((0..4).map(unit).collect());
        trial.records.lists.set(line_ups);
        trial
    }

    fn places(trial: &Trial) -> Vec<Option<f64>> {
        trial
            .unit_indices()
            .map(|unit| trial.mean_place(unit))
            .collect()
    }

    #[test]
    fn ties_share_their_place_and_judges_are_averaged() {
        let own = trial(vec![
            record("Ada", 5, &[&[2], &[0, 3], &[1]]),
            record("Bo", 5, &[&[0], &[2], &[1], &[3]]),
        ]);
        assert_eq!(places(&own), [Some(1.75), Some(3.5), Some(1.5), Some(3.25)]);
        assert_eq!(
            own.common_places().1,
            [[2.5, 4.0, 1.0, 2.5], [1.0, 3.0, 2.0, 4.0]]
        );
        assert_eq!(places(&trial(Vec::new())), [None; 4]);
    }

    #[test]
    fn the_last_of_a_judge_stands_whatever_the_order_of_entry() {
        let (first, last) = (
            record("Ada", 5, &[&[0], &[1], &[2], &[3]]),
            record("Ada", 7, &[&[3], &[2], &[1], &[0]]),
        );
        let expected = [Some(4.0), Some(3.0), Some(2.0), Some(1.0)];
        assert_eq!(places(&trial(vec![first.clone(), last.clone()])), expected);
        assert_eq!(places(&trial(vec![last, first])), expected);
    }

    #[test]
    fn what_is_lost_leaves_no_gap_and_what_one_did_not_see_is_not_compared() {
        let mut own = trial(vec![
            record("Ada", 5, &[&[2], &[0], &[1], &[3]]),
            record("Bo", 5, &[&[0], &[1]]),
        ]);
        assert_eq!(places(&own), [Some(1.5), Some(2.5), Some(1.0), Some(4.0)]);
        assert_eq!(
            own.common_places(),
            (vec!["Ada", "Bo"], vec![vec![1.0, 2.0], vec![1.0, 2.0]])
        );
        Arc::make_mut(&mut own.units)[2].lost = Some(Loss {
            reason: "eaten".into(),
            day: Some(6),
        });
        assert_eq!(places(&own), [Some(1.0), Some(2.0), None, Some(3.0)]);
    }
}
