//! Whose hands recorded what: who reads the solution learns which unit is fed, and should not grade
//! it by eye.

use super::Trial;
use crate::catalogue::measures::Source;
use crate::catalogue::readings::{find, is_of_solution};
use jiff::Timestamp;
use std::collections::BTreeMap;
use std::sync::Arc;

/// Whether a reading is judged by eye.
fn is_by_eye(key: &str) -> bool {
    find(key).is_some_and(|reading| reading.by_eye)
}

/// Whether a reading of the solution tells who is fed: what a meter shows does, its smell does not.
fn is_metered(key: &str) -> bool {
    is_of_solution(key) && !is_by_eye(key)
}

impl Trial {
    /// Whether anything is judged by eye.
    #[must_use]
    pub fn is_graded(&self) -> bool {
        let lined_up = self
            .plan
            .ask
            .measures()
            .iter()
            .any(|m| m.source == Source::LineUp);
        lined_up
            || self
                .plan
                .ask
                .readings()
                .iter()
                .any(|reading| reading.by_eye)
    }

    /// Whether a meter tells treatments apart: what is stirred into their water differs, or the
    /// water itself.
    #[must_use]
    pub fn is_told_by_meter(&self) -> bool {
        let sheet = &self.plan.sheet;
        let mut all = sheet.indices();
        let Some(first) = all.next() else {
            return false;
        };
        let water = |t| sheet.value(t, "water").map(|w| w.trim().to_lowercase());
        all.any(|t| {
            let stirred = |line, t| {
                sheet
                    .application(line, t)
                    .filter(|a| a.how.in_tank() && !a.is_nothing())
            };
            let differs = |line| match (stirred(line, t), stirred(line, first)) {
                (Some(own), Some(other)) => !own.is_also(other) || own.amount != other.amount,
                (own, other) => own.is_some() != other.is_some(),
            };
            water(t) != water(first) || sheet.lines().iter().any(differs)
        })
    }

    /// Whether somebody may be shown what was read of the solution under each code. Before the
    /// reveal it is kept from those who judge by eye, where it would tell them what they judge; who
    /// reads the meter and grades nothing sees it.
    #[must_use]
    pub fn shows_solution(&self, who: &str) -> bool {
        if self.reveal.is_some() || !self.is_graded() || !self.is_told_by_meter() {
            return true;
        }
        let mut own = self
            .records
            .units
            .iter()
            .flat_map(|unit| &unit.readings)
            .filter(|r| &*r.head.who == who);
        let mut metered = false;
        let graded = own.any(|r| {
            metered |= is_metered(r.reading);
            is_by_eye(r.reading)
        });
        let lined_up = self.records.line_ups().iter().any(|l| &*l.head.who == who);
        metered && !graded && !lined_up
    }

    /// Who judged by eye after they had read the solution, where that tells treatments apart:
    /// names, in order.
    #[must_use]
    pub fn read_before_grading(&self) -> Vec<Arc<str>> {
        if !self.is_graded() || !self.is_told_by_meter() {
            return Vec::new();
        }
        // The first reading of the solution and the last grade of each person, by when they were
        // taken.
        let mut hands: BTreeMap<&Arc<str>, (Option<Timestamp>, Option<Timestamp>)> =
            BTreeMap::new();
        for record in self
            .records
            .units
            .iter()
            .flat_map(|unit| &unit.readings)
            .filter(|r| r.value.is_some())
        {
            let (at, who) = (record.head.at, &record.head.who);
            if is_metered(record.reading) {
                let own = &mut hands.entry(who).or_default().0;
                *own = Some(own.map_or(at, |first| first.min(at)));
            } else if is_by_eye(record.reading) {
                let own = &mut hands.entry(who).or_default().1;
                *own = Some(own.map_or(at, |last| last.max(at)));
            }
        }
        for record in self.records.line_ups() {
            let own = &mut hands.entry(&record.head.who).or_default().1;
            *own = Some(own.map_or(record.head.at, |last| last.max(record.head.at)));
        }
        let both = hands
            .into_iter()
            .filter(|(_, (read, graded))| read.zip(*graded).is_some_and(|(r, g)| r < g));
        both.map(|(who, _)| Arc::clone(who)).collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::plan::Plan;
    use crate::trial::records::{ReadingRecord, RecordHead, UnitRecords};

    fn taken(reading: &'static str, who: &str, second: i64) -> ReadingRecord {
        let at = Timestamp::from_second(second).unwrap();
        let who = who.into();
        let head = RecordHead {
            crop: None,
            sample: None,
            day: 3,
            round: 1,
            at,
            entered_at: at,
            who,
            instrument: None,
            version: 1,
        };
        ReadingRecord {
            head,
            reading,
            nth: 1,
            value: Some(1.0),
        }
    }

    /// A trial of feed against water, judged by eye, with these readings of one unit.
    fn trial(readings: Vec<ReadingRecord>) -> Trial {
        let mut plan = Plan::usual("Cress");
        plan.ask.also = vec!["vigour".into()];
        let mut trial = Trial::planned("x", plan);
        trial.records.units = vec![Arc::new(UnitRecords {
            readings,
            ..UnitRecords::default()
        })];
        trial
    }

    #[test]
    fn the_meter_is_kept_from_who_judges_by_eye() {
        let own = trial(vec![
            taken("ec", "Ada", 10),
            taken("vigour", "Bo", 20),
            taken("ec", "Cy", 30),
            taken("vigour", "Cy", 40),
        ]);
        let shown: Vec<bool> = ["Ada", "Bo", "Cy", "Dee"]
            .iter()
            .map(|who| own.shows_solution(who))
            .collect();
        assert_eq!(
            shown,
            [true, false, false, false],
            "who has done neither is not shown it before they choose"
        );
        assert_eq!(own.read_before_grading(), ["Cy".into()]);
    }

    #[test]
    fn a_grade_before_the_first_look_at_the_meter_was_blind() {
        let own = trial(vec![taken("vigour", "Ada", 10), taken("ec", "Ada", 20)]);
        assert!(own.read_before_grading().is_empty());
        assert!(!own.shows_solution("Ada"), "the next grade would not be");
    }

    #[test]
    fn where_the_meter_tells_nothing_it_is_shown() {
        let mut alike = trial(vec![taken("ec", "Ada", 10), taken("vigour", "Ada", 20)]);
        let plan = Arc::make_mut(&mut alike.plan);
        plan.sheet.treatments[1].applications = plan.sheet.treatments[0].applications.clone();
        plan.sheet.treatments[1].set("light_hours", "12");
        assert!(
            !alike.is_told_by_meter()
                && alike.shows_solution("Ada")
                && alike.read_before_grading().is_empty()
        );
        let plan = Arc::make_mut(&mut alike.plan);
        plan.sheet.treatments[1].set("water", "rain water");
        assert!(alike.is_told_by_meter(), "another water has another EC");
        let mut weighed = trial(vec![taken("ec", "Ada", 10)]);
        Arc::make_mut(&mut weighed.plan).ask.also.clear();
        assert!(weighed.shows_solution("Bo"), "nothing is judged by eye");
    }
}
