//! Outdoors: did rain wash off one application and not another, was there frost or heat, and does
//! anybody know?

use crate::ledger::found::{Found, joined, now_or_next};
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::days_told;

/// Outdoors: did rain wash off one application and not another, was there frost or heat, and does
/// anybody know?
pub const RULE: Rule = Rule {
    code: "weather_differed",
    title: "weather",
    threatens: "what rain took off one treatment and not another, and what frost or heat did to \
                all",
    station: "tend",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Days outdoors without a word of the weather before it is said.
const TOLERATED_DAYS: u32 = 3;

/// From this much more of one treatment's applications than of another's on it is serious.
const SERIOUS: f64 = 0.5;

fn check(facts: &Facts) -> Outcome {
    let Some(weather) = &facts.weather else {
        return Outcome::Waits;
    };
    if !weather.outdoors {
        return Outcome::Sound("indoors, out of the weather".into());
    }
    if weather.known == 0 {
        if weather.days < TOLERATED_DAYS {
            return Outcome::Waits;
        }
        return Outcome::Open {
            severity: Severity::Minor,
            seen: "Nothing is on record of the weather: rain after an application, frost and heat \
                   go unseen."
                .into(),
            remedy: now_or_next(
                facts,
                "Enter rain and the lowest and highest temperature by day at Tend.",
                "Next time enter rain and temperatures by day.",
            )
            .into(),
        };
    }
    let mut found = Vec::new();
    let share = |(_, all, washed): &(String, usize, usize)| *washed as f64 / *all as f64;
    let shares: Vec<f64> = weather.by_treatment.iter().map(share).collect();
    let (low, high) = shares
        .iter()
        .fold((1.0_f64, 0.0_f64), |(a, b), s| (a.min(*s), b.max(*s)));
    if shares.len() > 1 && high - low > 0.0 {
        let told: Vec<String> = weather
            .by_treatment
            .iter()
            .map(|(name, all, washed)| format!("{washed} of {all} of {name}"))
            .collect();
        let severity = if high - low >= SERIOUS {
            Severity::Serious
        } else {
            Severity::Minor
        };
        let seen = format!(
            "Rain followed unlike shares of the applications: {}.",
            told.join(", ")
        );
        found.push(Found::new(
            severity,
            seen,
            "Give all of them on one day, with a dry day ahead, as the label wants it.",
        ));
    } else if !weather.washed.is_empty() {
        let days: Vec<u32> = weather.washed.iter().map(|(day, _)| *day).collect();
        let most = weather.washed.iter().map(|(_, mm)| *mm).fold(0.0, f64::max);
        let seen = format!(
            "Rain followed what was given on {}, up to {most:.0} mm by the next day.",
            days_told(&days)
        );
        found.push(Found::new(
            Severity::Minor,
            seen,
            "Give it with a dry day ahead, as its label wants it: what was washed off cannot help.",
        ));
    }
    for (what, (days, figure)) in [("Frost", &weather.frost), ("Heat", &weather.heat)] {
        if !days.is_empty() {
            let sign = if *figure < 0.0 { "−" } else { "" };
            let seen = format!(
                "{what} on {}, {sign}{:.0} °C.",
                days_told(days),
                figure.abs()
            );
            found.push(Found::new(
                Severity::Minor,
                seen,
                "It met all alike; say so when you tell the result.",
            ));
        }
    }
    joined(&found).unwrap_or_else(|| {
        Outcome::Sound(format!(
            "{} days of weather on record, none of them matters",
            weather.known
        ))
    })
}
