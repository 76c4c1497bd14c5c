//! Where a trial stands: its day and round, what was done, what is recorded and what is still open.

use super::Trial;
use super::care::{FeedingDays, MovedJob, TreatmentDays, WorkDone};
use super::deal::Unit;
use super::question::Judged;
use super::record::work::Work;
use super::records::Recorded;
use super::space::{Position, RackDesign};
use crate::catalogue::deeds::Job;
use crate::catalogue::measures::{Measure, Source};
use crate::catalogue::readings::is_of_unit;
use crate::catalogue::spaces::SpaceKind;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::civil::Date;
use std::collections::BTreeSet;

impl Trial {
    /// The measure that decides.
    #[must_use]
    pub fn primary(&self) -> &'static Measure {
        self.plan.ask.measures()[0]
    }

    /// The measure that decides, on the day on which it does.
    #[must_use]
    pub fn decides(&self) -> Judged {
        self.plan.ask.judged()[0]
    }

    /// Whether a measure was added after the first record, and not taken out since: it is judged,
    /// but settles nothing.
    #[must_use]
    pub fn is_added_midway(&self, measure: &str) -> bool {
        self.changes.iter().any(|c| c.added.contains(&measure))
    }

    /// Where each unit stands, with its treatment.
    #[must_use]
    pub fn placement(&self) -> Vec<(Position, TreatmentIndex)> {
        self.units
            .iter()
            .map(|u| (u.position, u.treatment))
            .collect()
    }

    /// Days since sowing; None before it.
    #[must_use]
    pub fn day(&self, today: Date) -> Option<u32> {
        let days = self.sown_on?.until(today).ok()?.get_days();
        u32::try_from(days).ok()
    }

    /// Day 0: when it was sown, else when sowing is meant.
    #[must_use]
    pub fn day_zero(&self) -> Option<Date> {
        self.sown_on.or(self.plan.sow_planned)
    }

    /// What the match sheet says about the days of single treatments.
    #[must_use]
    pub fn treatment_days(&self) -> TreatmentDays {
        let sheet = &self.plan.sheet;
        let cells = |key: &'static str| sheet.indices().filter_map(move |t| sheet.value(t, key));
        let numbers = |key: &'static str| cells(key).filter_map(|v| v.trim().parse::<f64>().ok());
        let dark = |v: &str| {
            v.trim()
                .parse::<f64>()
                .map_or(self.plan.care.blackout_days, |d| d.round() as u32)
        };
        TreatmentDays {
            soak_hours: numbers("soak_hours").fold(0.0, f64::max).ceil() as u32,
            blackouts: cells("blackout_days").map(dark).collect(),
            feeding: FeedingDays {
                unfed: self.plan.rack.kind == SpaceKind::Sites && !sheet.goes_by_feedings(),
                ..sheet.feeding_days(self.plan.ask.end_day)
            },
            judged: self.plan.ask.judged_days(),
        }
    }

    /// Feedings that were done.
    #[must_use]
    pub fn feedings(&self) -> usize {
        self.work_done().times(Job::Feed)
    }

    /// What is known of its past, for the schedule.
    #[must_use]
    pub fn work_done(&self) -> WorkDone {
        self.work_done_if(self.all_recorded())
    }

    /// Work of the round that it is in moved to another day, in the order in which it was.
    #[must_use]
    pub fn moved(&self) -> Vec<MovedJob> {
        let own = self
            .records
            .moved()
            .iter()
            .filter(|m| m.head.round == self.round);
        own.map(|m| MovedJob {
            job: m.job,
            from: m.from,
            to: m.to,
        })
        .collect()
    }

    /// The same, where it is known already whether every unit has what decides.
    #[must_use]
    pub fn work_done_if(&self, all_weighed: bool) -> WorkDone {
        let now = || {
            self.records
                .work()
                .iter()
                .filter(|w: &&Recorded<Work>| w.head.round == self.round)
        };
        let days = |skipped: bool| {
            now()
                .filter(move |w| w.skipped.is_some() == skipped)
                .map(|w| (w.job, w.head.day))
        };
        let mut jobs: Vec<(Job, u32)> = days(false).collect();
        jobs.extend(self.given_one_by_one());
        WorkDone {
            jobs,
            skipped: days(true).collect(),
            all_weighed,
            moved: self.moved(),
            sowing_entered: self.records.sowing_entered,
        }
    }

    /// Whether a unit has what decides: a weight, or the readings that the primary measure is made
    /// from; of every crop, where several share it.
    #[must_use]
    pub fn is_recorded(&self, unit: UnitIndex) -> bool {
        let judged = self.decides();
        let (source, day, own) = (judged.measure.source, judged.day, self.of_unit(unit));
        if source == Source::LineUp {
            return self.mean_place(unit).is_some();
        }
        self.plan.ask.parts().all(|crop| {
            let weighed = !source.is_weighed() || self.is_harvested(unit, crop);
            let taken = |key: &&'static str| {
                let crop = if is_of_unit(key) { None } else { crop };
                // Of samples that stand one is enough.
                let stands =
                    |sample| judged.outlives_samples() || self.gone(unit, sample).is_none();
                let by_sample = self.plan.ask.is_by_sample(key);
                let mut samples = self
                    .plan
                    .ask
                    .samples()
                    .filter(|sample| by_sample && stands(*sample));
                let read = |sample| match day {
                    Some(day) => own.on(key, crop, sample, day).is_some(),
                    None => days_read(own.of(key, crop, sample)) >= source.least_days(),
                };
                match samples.next() {
                    None => read(None),
                    Some(first) => std::iter::once(first).chain(samples).any(read),
                }
            };
            weighed && source.needs().iter().all(taken)
        })
    }

    /// Units that have what decides.
    #[must_use]
    pub fn recorded_units(&self) -> usize {
        self.unit_indices()
            .filter(|&unit| self.is_recorded(unit))
            .count()
    }

    /// Units of the round it is in that still lack what decides, and were not written off.
    #[must_use]
    pub fn open_units(&self) -> usize {
        let open = |&(i, u): &(UnitIndex, &Unit)| {
            self.is_now(u) && u.lost.is_none() && !self.is_recorded(i)
        };
        self.each_unit().filter(open).count()
    }

    /// Whether every unit has what decides, those written off apart; in a swap-over every system of
    /// the round it is in.
    #[must_use]
    pub fn all_recorded(&self) -> bool {
        let open =
            |(i, u): (UnitIndex, &Unit)| self.is_now(u) && u.lost.is_none() && !self.is_recorded(i);
        !self.each_unit().any(open) && self.unit_indices().any(|unit| self.is_recorded(unit))
    }

    /// Day on which the last record that decides was taken, once all units that stand have theirs,
    /// or the key is open.
    #[must_use]
    pub fn ended_on(&self) -> Option<u32> {
        if !self.all_recorded() && self.reveal.is_none() {
            return None;
        }
        let source = self.decides().measure.source;
        let needs = source.needs();
        if source == Source::LineUp {
            return self
                .line_ups_of(self.round)
                .values()
                .map(|l| l.head.day)
                .max();
        }
        let of = |(i, _): (UnitIndex, &Unit)| {
            let own = self.of_unit(i);
            let weighed = own
                .weighings()
                .iter()
                .filter(|_| source.is_weighed())
                .map(|w| w.head.day);
            let read = own
                .readings
                .iter()
                .filter(|r| r.value.is_some() && needs.contains(&r.reading));
            let picks = self
                .records
                .picks()
                .iter()
                .filter(|p| p.unit == Some(i) && !p.aside && source.is_weighed());
            weighed
                .chain(picks.map(|p| p.head.day))
                .chain(read.map(|r| r.head.day))
                .max()
        };
        self.each_unit()
            .filter(|(_, u)| self.is_now(u) && u.lost.is_none())
            .filter_map(of)
            .max()
    }

    /// Whether opening the key on a day would be a look before the end: something that stands has
    /// no record of what decides, or the planned day has not come. What was written off is no
    /// longer waited for; where a stage ends the trial the day is only its latest.
    #[must_use]
    pub fn opens_early(&self, day: u32) -> bool {
        let waits = self
            .each_unit()
            .any(|(i, u)| u.lost.is_none() && !self.is_recorded(i));
        let by_stage = !self.plan.ask.end_stage.trim().is_empty();
        waits || self.has_next_round() || (day < self.plan.ask.end_day && !by_stage)
    }

    /// Whether another round follows the one it is in.
    #[must_use]
    pub fn has_next_round(&self) -> bool {
        self.plan.rack.has_rounds() && self.sown_on.is_some() && self.round < self.plan.rack.levels
    }

    /// Units of each treatment, in the order of the sheet: as dealt, else as planned.
    #[must_use]
    pub fn numbers(&self) -> Vec<usize> {
        let treatments = self.plan.treatments();
        if self.units.is_empty() {
            return self.plan.rack.numbers(treatments);
        }
        TreatmentIndex::all(treatments)
            .map(|t| self.units.iter().filter(|u| u.treatment == t).count())
            .collect()
    }

    /// Units of each treatment that stand at the same time: those of one round of a swap-over, else
    /// all.
    #[must_use]
    pub fn units_at_once(&self) -> Vec<usize> {
        let rounds = if self.plan.rack.has_rounds() {
            self.plan.rack.levels.max(1) as usize
        } else {
            1
        };
        self.numbers().into_iter().map(|n| n / rounds).collect()
    }

    /// Units of each treatment: as planned, or the fewest where the grower placed them by hand.
    #[must_use]
    pub fn units_each(&self) -> usize {
        let treatments = self.plan.treatments();
        match self.plan.rack.design {
            RackDesign::ByHand => TreatmentIndex::all(treatments)
                .map(|t| self.units.iter().filter(|u| u.treatment == t).count())
                .min()
                .unwrap_or(0),
            _ => self.plan.rack.units_each(treatments),
        }
    }

    /// Days with at least one record in the round it is in.
    #[must_use]
    pub fn record_days(&self) -> BTreeSet<u32> {
        let now = self
            .each_unit()
            .filter(|(_, u)| self.is_now(u))
            .map(|(unit, _)| self.of_unit(unit));
        let mut days: BTreeSet<u32> = self
            .records
            .work()
            .iter()
            .filter(|w| w.head.round == self.round)
            .map(|w| w.head.day)
            .collect();
        days.extend(
            self.records
                .givings()
                .iter()
                .filter(|g| g.head.round == self.round)
                .map(|g| g.head.day),
        );
        for unit in now {
            // Readings stand by their days, so that a day is taken once and not thousands of times.
            let mut last = None;
            for day in unit
                .readings
                .iter()
                .map(|r| r.head.day)
                .chain(unit.weighings().iter().map(|w| w.head.day))
            {
                if last.replace(day) != Some(day) {
                    days.insert(day);
                }
            }
        }
        days.extend(
            self.records
                .picks()
                .iter()
                .filter(|p| p.head.round == self.round)
                .map(|p| p.head.day),
        );
        days.extend(
            self.records
                .notes()
                .iter()
                .filter(|n| n.head.round == self.round)
                .map(|n| n.head.day),
        );
        days
    }
}

/// Days on which something was read.
fn days_read(readings: impl Iterator<Item = (u32, f64)>) -> usize {
    let mut days: Vec<u32> = readings.map(|(day, _)| day).collect();
    days.dedup();
    days.len()
}
