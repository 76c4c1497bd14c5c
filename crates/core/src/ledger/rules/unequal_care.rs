//! Was every unit cared for alike, in all that is not what is compared?

use crate::ledger::facts::care::{Care, MATTERS_PERCENT};
use crate::ledger::found::{Found, joined, listed, now_or_next};
use crate::ledger::{Facts, Outcome, Rule, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::days_told;
use iron_twin_terms::words::times;

/// Was every unit cared for alike, in all that is not what is compared?
pub const RULE: Rule = Rule {
    code: "unequal_care",
    title: "not cared for alike",
    threatens: "the verdict: what one got more of, or went without, may be what made the \
                difference",
    station: "tend",
    names_treatments: false,
    check,
    units,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(care) = &facts.care else {
        return Outcome::Waits;
    };
    let late = if facts.revealed {
        Severity::Serious
    } else {
        Severity::Minor
    };
    let mut found = Vec::new();
    let mark = now_or_next(
        facts,
        "Mark what was done and not entered; the day may be chosen.",
        "Next time mark what is done when it is done.",
    );
    for job in &care.jobs {
        let missed = job.missed.len();
        if job.done == 0 && missed > 0 {
            let seen = format!(
                "Nothing is on record of {}, which fell due {}.",
                job.what,
                times(missed)
            );
            found.push(Found::new(Severity::Minor, seen, mark));
        } else if missed >= 2 || missed * 4 > job.done + missed {
            // One that is missing among many is told, and no fault.
            let seen = format!(
                "Of {} nothing is on record for {}, when it fell due.",
                job.what,
                days_told(&job.missed)
            );
            found.push(Found::new(Severity::Minor, seen, mark));
        }
    }
    if !care.as_needed {
        found.extend(short(care, late));
        found.extend(more(care, late));
    }
    found.extend(dry(care, late));
    joined(&found).unwrap_or_else(|| sound(care))
}

/// Whether all of them are of one treatment, in brackets.
fn whose(care: &Care, n: usize) -> String {
    care.all_of[n]
        .as_ref()
        .map_or_else(String::new, |name| format!(" (all of {name})"))
}

/// Units that went without when the others were cared for.
fn short(care: &Care, late: Severity) -> Option<Found> {
    let worst = care
        .short
        .iter()
        .max_by(|a, b| (a.times * b.of).cmp(&(b.times * a.of)))?;
    let codes: Vec<String> = care.short.iter().map(|s| s.code.clone()).collect();
    let alike = care
        .short
        .iter()
        .all(|s| (s.times, s.of, &s.why) == (worst.times, worst.of, &worst.why));
    let most = if alike {
        String::new()
    } else {
        format!(", {} most often", worst.code)
    };
    let seen = format!(
        "{}{} went without{most}{} {} in {} when the others were cared for ({}).",
        listed(&codes),
        whose(care, 0),
        if alike { "" } else { "," },
        times(worst.times),
        worst.of,
        worst.why
    );
    let severity = if care.all_of[0].is_some() || worst.times * 4 >= worst.of {
        late
    } else {
        Severity::Minor
    };
    let remedy = "Care for all of them alike, or write off what went without.";
    Some(Found::new(severity, seen, remedy))
}

/// Units that got more to drink than the others.
fn more(care: &Care, late: Severity) -> Option<Found> {
    let more: Vec<String> = care
        .extra
        .iter()
        .filter(|(_, percent)| *percent >= MATTERS_PERCENT)
        .map(|(code, _)| code.clone())
        .collect();
    let most = care
        .extra
        .iter()
        .map(|(_, percent)| *percent)
        .fold(0.0, f64::max);
    let seen = format!(
        "{}{} got {}{most:.0} % more to drink than the others.",
        listed(&more),
        whose(care, 1),
        if more.len() > 1 { "up to " } else { "" }
    );
    let severity = if care.all_of[1].is_some() {
        late
    } else {
        Severity::Minor
    };
    let remedy = "Give all of them alike; what is poured in to make up a level is read as such.";
    (!more.is_empty()).then(|| Found::new(severity, seen, remedy))
}

/// Units that stood dry when they were looked into.
fn dry(care: &Care, late: Severity) -> Option<Found> {
    let first = care.dry.iter().map(|(_, day)| *day).min()?;
    let codes: Vec<String> = care.dry.iter().map(|(code, _)| code.clone()).collect();
    let some = care.dry.len() < care.levels_read;
    let seen = format!(
        "{}{} stood dry when looked into, first on day {first}.",
        if some {
            listed(&codes)
        } else {
            format!("All {} that were looked into", codes.len())
        },
        whose(care, 2)
    );
    let severity = if some && care.all_of[2].is_some() {
        late
    } else {
        Severity::Minor
    };
    let remedy = "Top up before it is empty, or give more room: from then on thirst decides, \
                      not the treatment.";
    Some(Found::new(severity, seen, remedy))
}

fn sound(care: &Care) -> Outcome {
    let done: Vec<String> = care
        .jobs
        .iter()
        .filter(|j| j.done > 0)
        .map(|j| format!("{} {}", j.what, times(j.done)))
        .collect();
    match (done.as_slice(), care.as_needed) {
        ([], _) if care.jobs.iter().any(|j| j.done + j.missed.len() == 0) => Outcome::Waits,
        (_, true) => Outcome::Sound("each cared for as it needs, as was declared".into()),
        ([], false) => Outcome::Sound("nothing but what is compared is given".into()),
        (done, false) => {
            let missed: Vec<u32> = care
                .jobs
                .iter()
                .flat_map(|j| j.missed.iter().copied())
                .collect();
            let missed = if missed.is_empty() {
                String::new()
            } else {
                format!("; nothing on record for {}", days_told(&missed))
            };
            Outcome::Sound(format!("cared for alike: {}{missed}", done.join(", ")))
        }
    }
}

fn units(facts: &Facts) -> Vec<String> {
    let care = facts.care.iter();
    let named = care.flat_map(|c| {
        let short = c.short.iter().map(|s| &s.code);
        short
            .chain(c.extra.iter().map(|(code, _)| code))
            .chain(c.dry.iter().map(|(code, _)| code))
    });
    named
        .cloned()
        .collect::<std::collections::BTreeSet<_>>()
        .into_iter()
        .collect()
}
