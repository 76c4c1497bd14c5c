//! What each unit has really received: what the plan had for it in the rounds that were held, what
//! was given to it beside them, and what was withheld.
//!
//! It follows from the records alone, whatever the order in which they arrived: yesterday's feeding
//! may be entered today, and "not B" before the round it belongs to.

use super::Trial;
use super::application::{Amount, Application, How};
use super::deal::Unit;
use super::record::giving::{Gift, Giving, Portion, PortionUnit, Recipient};
use super::record::work::Work;
use super::records::Recorded;
use crate::catalogue::deeds::Job;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use std::collections::{BTreeMap, BTreeSet};

/// Something a unit has received.
#[derive(Debug, Clone, PartialEq)]
pub struct Received {
    /// Day of its round.
    pub day: u32,
    /// When.
    pub at: Timestamp,
    /// Which work it was part of.
    pub job: Job,
    /// What, how and how much; None where it was what the plan had, and that may not be told.
    pub portion: Option<Portion>,
    /// In which of the rounds of that work on that day it came, from 1; None where it was given
    /// beside the plan.
    pub round: Option<usize>,
}

/// Something that a unit did not get when others got theirs.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Withheld {
    /// Day of its round.
    pub day: u32,
    /// Which work.
    pub job: Job,
    /// Why.
    pub why: String,
}

/// What a unit has received, and not.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct UnitReceived {
    /// What it got, by day.
    pub gifts: Vec<Received>,
    /// What it did not get, by day.
    pub withheld: Vec<Withheld>,
}

impl UnitReceived {
    fn withhold(&mut self, day: u32, job: Job, why: &str) {
        let why = why.to_owned();
        self.withheld.push(Withheld { day, job, why });
    }
}

impl UnitReceived {
    /// Days on which it got something of a kind of work, one for each time; of several things given
    /// in one round the round counts once.
    pub fn days(&self, job: Job) -> impl Iterator<Item = u32> + '_ {
        let own = || self.gifts.iter().filter(move |g| g.job == job);
        let rounds: BTreeSet<(u32, usize)> =
            own().filter_map(|g| Some((g.day, g.round?))).collect();
        let beside = own().filter(|g| g.round.is_none()).map(|g| g.day);
        let mut days: Vec<u32> = rounds
            .into_iter()
            .map(|(day, _)| day)
            .chain(beside)
            .collect();
        days.sort_unstable();
        days.into_iter()
    }

    /// How often it got something of a kind of work.
    #[must_use]
    pub fn times(&self, job: Job) -> usize {
        self.days(job).count()
    }

    /// All that it got of something, as far as it was measured.
    #[must_use]
    pub fn total(&self, what: &str, unit: PortionUnit) -> f64 {
        let own = self
            .gifts
            .iter()
            .filter_map(|g| g.portion.as_ref())
            .filter(|p| p.what == what && p.unit == unit);
        own.filter_map(|p| p.amount).sum()
    }
}

/// One time that the plan was followed, with what it brought to a unit.
struct Time {
    at: Timestamp,
    /// What was measured, so that of two rounds at one instant the same comes first in whatever
    /// order they arrived.
    ml_a_unit: Option<f64>,
    brought: Vec<Received>,
}

/// The water of a tank into which nothing is stirred.
const PLAIN_WATER: &str = "plain water";

/// How much of an application each unit gets, as far as the plan has it in mL or g.
fn measured(of: &Application) -> Option<f64> {
    of.ml_a_unit.or(match of.amount {
        Amount::PerUnit(x) => Some(x),
        _ => None,
    })
}

/// What each time brought, with the number of its round; of several rounds on one day the last are
/// those it did not get.
fn numbered(
    rounds: BTreeMap<(u32, Job), Vec<Time>>,
    left_out: &BTreeMap<(u32, Job), usize>,
) -> Vec<Received> {
    let mut gifts = Vec::new();
    for (key, mut times) in rounds {
        // Of several rounds on one day the last are those it did not get.
        times.sort_by_key(|time| (time.at, time.ml_a_unit.map(f64::to_bits)));
        times.truncate(
            times
                .len()
                .saturating_sub(left_out.get(&key).copied().unwrap_or(0)),
        );
        let nth = |(n, time): (usize, Time)| {
            time.brought.into_iter().map(move |gift| Received {
                round: Some(n + 1),
                ..gift
            })
        };
        gifts.extend(times.into_iter().enumerate().flat_map(nth));
    }
    gifts
}

/// Puts what was received in the order of its days.
fn in_order(out: &mut UnitReceived) {
    let words = |p: &Option<Portion>| {
        p.as_ref()
            .map(|p| (p.what.clone(), p.amount.map(f64::to_bits)))
    };
    out.gifts
        .sort_by_cached_key(|g| (g.day, g.at, g.job, g.round, words(&g.portion)));
    out.withheld
        .sort_by_cached_key(|w| (w.day, w.job, w.why.clone()));
}

impl Trial {
    /// What the plan has for a unit in one round of work on a day.
    fn planned_for(&self, unit: &Unit, job: Job, day: u32, ml_a_unit: Option<f64>) -> Vec<Portion> {
        let nothing = String::new;
        let portion = |what: String, how, amount| {
            let unit = PortionUnit::Millilitres;
            Portion {
                what,
                how,
                amount,
                unit,
                lot: nothing(),
                batch: nothing(),
            }
        };
        let applications = self
            .plan
            .sheet
            .get(unit.treatment)
            .map_or(&[][..], |t| &t.applications);
        let falls = |a: &&Application| a.when.falls_on(Some(day)) && !a.is_nothing();
        match job {
            Job::Water => vec![portion(PLAIN_WATER.into(), How::Stirred, ml_a_unit)],
            Job::Feed if !self.plan.sheet.is_its_turn(unit.treatment, Some(day)) => Vec::new(),
            Job::Feed => {
                let stirred: Vec<&str> = applications
                    .iter()
                    .filter(|a| a.how.in_tank())
                    .filter(falls)
                    .map(|a| a.what.trim())
                    .collect();
                let what = if stirred.is_empty() {
                    PLAIN_WATER.to_owned()
                } else {
                    stirred.join(" and ")
                };
                vec![portion(
                    what,
                    How::Stirred,
                    ml_a_unit.or(Some(self.plan.feed.ml_a_unit)),
                )]
            }
            Job::Apply => {
                let beside = applications
                    .iter()
                    .filter(|a| !a.how.in_tank())
                    .filter(falls);
                beside
                    .map(|a| portion(a.what.trim().to_owned(), a.how, ml_a_unit.or(measured(a))))
                    .collect()
            }
            _ => Vec::new(),
        }
    }

    /// Whether something was given to a unit. Whose treatment got it is left out where the deal may
    /// not be told.
    fn is_for(&self, unit: UnitIndex, to: Recipient, told: bool) -> bool {
        match to {
            Recipient::All => true,
            Recipient::Treatment(t) => told && self.units[unit].treatment == t,
            Recipient::Unit(own) => own == unit,
        }
    }

    /// What a unit has received. Where `told` is false, what would tell its treatment is left out:
    /// the portions of the plan, and what was given to a treatment by name.
    #[must_use]
    pub fn received(&self, index: UnitIndex, told: bool) -> UnitReceived {
        let unit = &self.units[index];
        let own_round = |round: u32| !self.plan.rack.has_rounds() || round == unit.position.level;
        let lost_on = unit.lost.as_ref().and_then(|l| l.day);
        let alive = |day: u32| lost_on.is_none_or(|lost| day <= lost);
        let of = |day, at, job, portion| Received {
            day,
            at,
            job,
            portion,
            round: None,
        };
        // Each time that the plan was followed, with what it brought.
        let mut rounds: BTreeMap<(u32, Job), Vec<Time>> = BTreeMap::new();
        let mut planned = |job: Job, day: u32, at: Timestamp, ml: Option<f64>| {
            let brought = self.brought(unit, (told, ml), of(day, at, job, None));
            if !brought.is_empty() {
                rounds.entry((day, job)).or_default().push(Time {
                    at,
                    ml_a_unit: ml,
                    brought,
                });
            }
        };
        let mut out = UnitReceived::default();
        let held =
            |w: &&Recorded<Work>| w.job.is_giving() && own_round(w.head.round) && alive(w.head.day);
        for work in self.records.work().iter().filter(held) {
            match &work.skipped {
                None => planned(work.job, work.head.day, work.head.at, work.ml_a_unit),
                Some(why) => out.withhold(work.head.day, work.job, why),
            }
        }
        let for_it = |g: &&Recorded<Giving>| {
            own_round(g.head.round)
                && alive(g.head.day)
                && g.whom().is_some_and(|to| self.is_for(index, to, told))
        };
        let mut left_out: BTreeMap<(u32, Job), usize> = BTreeMap::new();
        for giving in self.records.givings().iter().filter(for_it) {
            let (day, at, job) = (giving.head.day, giving.head.at, giving.job);
            match &giving.gift {
                Gift::AsPlanned => planned(job, day, at, None),
                Gift::Own(portion) => out.gifts.push(of(day, at, job, Some(portion.clone()))),
                Gift::Withheld(why) => {
                    *left_out.entry((day, job)).or_default() += 1;
                    out.withhold(day, job, why);
                }
            }
        }
        out.gifts.extend(numbered(rounds, &left_out));
        in_order(&mut out);
        out
    }

    /// What following the plan brought to a unit; what it was is left out where it is not told.
    fn brought(
        &self,
        unit: &Unit,
        (told, ml): (bool, Option<f64>),
        time: Received,
    ) -> Vec<Received> {
        if !told {
            return vec![time];
        }
        let portions = self.planned_for(unit, time.job, time.day, ml).into_iter();
        let of = |portion| Received {
            portion: Some(portion),
            ..time.clone()
        };
        portions.map(of).collect()
    }

    /// Work on days on which every unit that stands, or every treatment, got something of it one by
    /// one, so that it was done without a round. Units and treatments are not taken together: that
    /// would tell which unit has which.
    pub(super) fn given_one_by_one(&self) -> Vec<(Job, u32)> {
        #[derive(Default)]
        struct Got {
            units: BTreeSet<UnitIndex>,
            treatments: BTreeSet<TreatmentIndex>,
        }
        let mut given: BTreeMap<(Job, u32), Got> = BTreeMap::new();
        for giving in self
            .records
            .givings()
            .iter()
            .filter(|g| g.head.round == self.round)
        {
            if matches!(giving.gift, Gift::Withheld(_)) {
                continue;
            }
            let own = given.entry((giving.job, giving.head.day)).or_default();
            match giving.whom() {
                Some(Recipient::All) => own.units.extend(self.unit_indices()),
                Some(Recipient::Treatment(t)) => _ = own.treatments.insert(t),
                Some(Recipient::Unit(unit)) => _ = own.units.insert(unit),
                None => {}
            }
        }
        let stands = |u: &Unit, day: u32| {
            u.lost
                .as_ref()
                .is_none_or(|l| l.day.is_some_and(|lost| lost > day))
        };
        let whole = given.into_iter().filter(|((_, day), got)| {
            let mut standing = self
                .each_unit()
                .filter(|(_, u)| self.is_now(u) && stands(u, *day))
                .peekable();
            let every_unit =
                standing.peek().is_some() && standing.all(|(i, _)| got.units.contains(&i));
            every_unit || got.treatments.len() == self.plan.treatments()
        });
        whole.map(|(key, _)| key).collect()
    }
}

#[cfg(test)]
mod tests;
