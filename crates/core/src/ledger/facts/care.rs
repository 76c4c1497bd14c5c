//! How all were cared for, what is compared apart.

use super::given;
use crate::catalogue::deeds::Job;
use crate::tend::given::{WentShort, giving_jobs, missed, went_short};
use crate::trial::Trial;
use crate::trial::record::giving::{Gift, Giving, PortionUnit};
use crate::trial::records::Recorded;
use crate::trial::sheet::CareRule;
use std::collections::BTreeSet;

/// How the units were cared for, what is compared apart.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Care {
    /// Work by which all are given something alike.
    pub jobs: Vec<CareJob>,
    /// Units from which some of it was withheld when others got it.
    pub short: Vec<WentShort>,
    /// Units that got more beside the plan than others, with how much more of all they got, per
    /// cent.
    pub extra: Vec<(String, f64)>,
    /// Units that stood dry, and the first day on which one did.
    pub dry: Vec<(String, u32)>,
    /// Units whose level was read.
    pub levels_read: usize,
    /// Once it may be told, the one treatment of all that went short, of all that got more, and of
    /// all that stood dry.
    pub all_of: [Option<String>; 3],
    /// Whether each is to be cared for as it needs.
    pub as_needed: bool,
}

/// Work by which all are given something alike.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct CareJob {
    /// In words: `watering`.
    pub what: &'static str,
    /// Times that it is on record.
    pub done: usize,
    /// Days on which it fell due and of which nothing is on record.
    pub missed: Vec<u32>,
}

/// From this much more to drink on it matters, per cent: common practice, no source.
pub const MATTERS_PERCENT: f64 = 10.0;
/// A unit is dry where less than this share of what it held is left.
const DRY_SHARE: f64 = 0.02;

/// How the units were cared for until a day.
#[must_use]
pub fn look(trial: &Trial, today: Option<u32>) -> Option<Care> {
    let until = trial.ended_on().or(today)?;
    let compared = given::jobs_compared(trial);
    let care: Vec<Job> = giving_jobs(trial)
        .into_iter()
        .filter(|job| !compared.contains(job))
        .collect();
    let done = trial.work_done();
    let of = |job: &Job| CareJob {
        what: job.verb(),
        done: done.times(*job),
        missed: missed(trial, *job, until),
    };
    let (dry, levels_read) = dry(trial);
    let short = went_short(trial, &care);
    let extra = extra(trial);
    let codes = [
        short.iter().map(|s| s.code.clone()).collect::<Vec<_>>(),
        extra
            .iter()
            .filter(|(_, percent)| *percent >= MATTERS_PERCENT)
            .map(|(code, _)| code.clone())
            .collect(),
        dry.iter().map(|(code, _)| code.clone()).collect(),
    ];
    let all_of = codes.map(|codes| all_of_one(trial, &codes));
    let as_needed = trial.plan.sheet.care == CareRule::AsNeeded;
    Some(Care {
        jobs: care.iter().map(of).collect(),
        short,
        extra,
        dry,
        levels_read,
        all_of,
        as_needed,
    })
}

/// Units that got more to drink beside the plan than the one that got least of it, per cent of what
/// the plan had for them.
fn extra(trial: &Trial) -> Vec<(String, f64)> {
    let own = |g: &Recorded<Giving>| g.job != Job::Apply && matches!(g.gift, Gift::Own(_));
    if !trial.records.givings().iter().any(own) {
        return Vec::new();
    }
    let beside = |unit| {
        let own = trial.received(unit, trial.tells_deal());
        let gifts = own
            .gifts
            .iter()
            .filter(|g| g.round.is_none() && g.job != Job::Apply);
        let ml: f64 = gifts
            .filter_map(|g| {
                g.portion
                    .as_ref()
                    .filter(|p| p.unit == PortionUnit::Millilitres)
                    .and_then(|p| p.amount)
            })
            .sum();
        let planned = own
            .gifts
            .iter()
            .filter(|g| g.round.is_some() && g.job != Job::Apply)
            .count() as f64;
        (ml, planned.max(1.0) * trial.plan.feed.ml_a_unit)
    };
    let standing = || {
        trial
            .each_unit()
            .filter(|(_, u)| u.lost.is_none() && trial.is_now(u))
    };
    let all: Vec<(&str, f64, f64)> = standing()
        .map(|(i, u)| {
            let (ml, planned) = beside(i);
            (u.code.as_str(), ml, planned)
        })
        .collect();
    let least = all
        .iter()
        .map(|(_, ml, _)| *ml)
        .fold(f64::INFINITY, f64::min);
    let more = all.into_iter().filter(|(_, ml, _)| *ml > least);
    more.map(|(code, ml, planned)| (code.to_owned(), 100.0 * (ml - least) / planned))
        .collect()
}

/// Units in which nothing was left when somebody looked, with the first day on which one was so;
/// and how many were looked into.
fn dry(trial: &Trial) -> (Vec<(String, u32)>, usize) {
    let (mut found, mut read) = (Vec::new(), 0);
    for (i, unit) in trial.each_unit().filter(|(_, u)| trial.is_now(u)) {
        let own = trial.of_unit(i);
        let levels: Vec<(u32, f64)> = own.of("level", None, None).collect();
        read += usize::from(!levels.is_empty());
        let most = own
            .of("filled", None, None)
            .map(|(_, l)| l)
            .chain(levels.iter().map(|(_, l)| *l))
            .fold(0.0, f64::max);
        if let Some((day, _)) = levels.iter().find(|(_, level)| *level <= DRY_SHARE * most) {
            found.push((unit.code.clone(), *day));
        }
    }
    (found, read)
}

/// The one treatment to which all of some units belong, once the key is open; None where there are
/// several, or one unit.
fn all_of_one(trial: &Trial, codes: &[String]) -> Option<String> {
    trial.reveal.as_ref()?;
    let own: BTreeSet<usize> = trial
        .units
        .iter()
        .filter(|u| codes.contains(&u.code))
        .map(|u| u.treatment.get())
        .collect();
    let first = trial
        .units
        .iter()
        .find(|u| codes.contains(&u.code))?
        .treatment;
    (own.len() == 1 && codes.len() > 1)
        .then(|| trial.plan.sheet.get(first).map(|t| t.name.clone()))?
}
