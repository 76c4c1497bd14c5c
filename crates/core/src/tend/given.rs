//! What was given, against what the plan had: which times are missing, and which units went short.

use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::received::{UnitReceived, Withheld};
use crate::trial::record::giving::{Gift, Giving};
use crate::trial::records::Recorded;
use iron_twin_terms::indices::UnitIndex;
use std::collections::BTreeSet;

/// Work by which this trial's plan gives something.
#[must_use]
pub fn giving_jobs(trial: &Trial) -> Vec<Job> {
    let own = trial.treatment_days().feeding;
    let care = &trial.plan.care;
    let planned = |job: &Job| match job {
        Job::Feed => !own.unfed && (!own.tank.is_empty() || care.feed_every > 0),
        Job::Water => care.water_every > 0,
        Job::Apply => !own.beside.is_empty(),
        _ => false,
    };
    let mut jobs: Vec<Job> = Job::GIVING.into_iter().filter(planned).collect();
    // What was given beside the plan is told as well.
    let other = trial
        .records
        .work()
        .iter()
        .map(|w| w.job)
        .chain(trial.records.givings().iter().map(|g| g.job));
    for job in other.filter(|job| job.is_giving()) {
        if !jobs.contains(&job) {
            jobs.push(job);
        }
    }
    jobs.sort_unstable();
    jobs
}

/// Days before `today` on which work fell due and of which nothing is on record, neither that it
/// was done nor that it was left out. What recurs counts from the last time it was done, so that
/// what was given late is not missed.
#[must_use]
pub fn missed(trial: &Trial, job: Job, today: u32) -> Vec<u32> {
    let done = trial.work_done();
    let settled: BTreeSet<u32> = done
        .jobs
        .iter()
        .chain(&done.skipped)
        .filter(|(j, _)| *j == job)
        .map(|(_, day)| *day)
        .collect();
    missed_beside(trial, job, today, &settled)
}

/// The same, where other days show that it was done.
#[must_use]
pub fn missed_beside(trial: &Trial, job: Job, today: u32, settled: &BTreeSet<u32>) -> Vec<u32> {
    let (own, care) = (trial.treatment_days().feeding, &trial.plan.care);
    let until = today.min(trial.plan.ask.end_day);
    let listed: &[u32] = match job {
        Job::Feed => &own.tank,
        Job::Apply => &own.beside,
        _ => &[],
    };
    let done = trial.work_done();
    let moved = |day: u32| done.moved(job, day);
    let listed: BTreeSet<u32> = listed
        .iter()
        .map(|&day| moved(day))
        .filter(|day| *day < until)
        .collect();
    let mut missed: BTreeSet<u32> = BTreeSet::new();
    // A listed day is made up for until the next one falls due.
    let next = |day: u32| listed.range(day + 1..).next().copied().unwrap_or(u32::MAX);
    missed.extend(
        listed
            .iter()
            .filter(|&&day| settled.range(day..next(day)).next().is_none()),
    );
    let every = care.every(job);
    let by_rhythm = every > 0 && (job != Job::Feed || (own.by_rhythm && !own.unfed));
    if by_rhythm {
        let mut due = care.first(job);
        while due < until {
            let at = moved(due);
            match settled
                .range(due.min(at)..(at + every).max(due + 1))
                .next_back()
            {
                Some(last) => due = last + every,
                None if at < until => {
                    missed.insert(at);
                    due = at.max(due) + every;
                }
                None => break,
            }
        }
    }
    missed.into_iter().collect()
}

/// A unit that did not get all that its fellows got.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct WentShort {
    /// Its code.
    pub code: String,
    /// Times that were withheld from it alone or from its treatment.
    pub times: usize,
    /// Of so many.
    pub of: usize,
    /// Why, the last time.
    pub why: String,
}

/// Units from which something of some kinds of work was withheld by code when others got it.
#[must_use]
pub fn went_short(trial: &Trial, jobs: &[Job]) -> Vec<WentShort> {
    // What each has received is worked out only where something was withheld.
    let withheld =
        |g: &Recorded<Giving>| jobs.contains(&g.job) && matches!(g.gift, Gift::Withheld(_));
    if !trial.records.givings().iter().any(withheld) {
        return Vec::new();
    }
    let told = trial.tells_deal();
    let all: Vec<(UnitIndex, UnitReceived)> = trial
        .each_unit()
        .filter(|(_, u)| u.lost.is_none())
        .map(|(i, _)| (i, trial.received(i, told)))
        .collect();
    // A round of work is one of its own round only: days begin anew with each.
    let by_round = trial.plan.rack.has_rounds();
    let held: BTreeSet<(u32, u32, Job)> = trial
        .records
        .work()
        .iter()
        .filter(|w| w.skipped.is_none())
        .map(|w| (if by_round { w.head.round } else { 0 }, w.head.day, w.job))
        .collect();
    let mut found = Vec::new();
    for (i, own) in &all {
        // What all of them went without, or nobody is known to have got, is no difference between
        // them.
        let round = if by_round {
            trial.units[*i].position.level
        } else {
            0
        };
        let alone: Vec<&Withheld> = own
            .withheld
            .iter()
            .filter(|w| jobs.contains(&w.job) && held.contains(&(round, w.day, w.job)))
            .collect();
        let Some(last) = alone.last() else { continue };
        let times = jobs.iter().map(|job| own.times(*job)).sum::<usize>();
        found.push(WentShort {
            code: trial.units[*i].code.clone(),
            times: alone.len(),
            of: times + alone.len(),
            why: last.why.clone(),
        });
    }
    found
}

#[cfg(test)]
mod tests;
