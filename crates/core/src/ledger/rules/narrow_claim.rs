//! What does the result not cover?

use crate::catalogue::fixtures::Fixture;
use crate::catalogue::spaces::SpaceKind;
use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use iron_twin_terms::severity::Severity;

/// What does the result not cover?
pub const RULE: Rule = Rule {
    code: "narrow_claim",
    title: "narrow claim",
    threatens: "other crops, seasons and rooms",
    station: "tell",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    if !facts.revealed {
        return Outcome::Waits;
    }
    let outdoors = facts.rack.kind == SpaceKind::Sites;
    let (one, several) = reach(facts);
    let beside = if several.is_empty() {
        String::new()
    } else {
        format!(", though {}", several.join(" and "))
    };
    let told = one.join(", ");
    let seen = if one.is_empty() {
        several.join(", ")
    } else {
        format!("{told}{beside}")
    };
    Outcome::Open {
        severity: Severity::Minor,
        seen: format!("{}.", iron_twin_terms::words::capitalised(&seen)),
        remedy: if outdoors {
            "Run the same trial again in another season; the rounds can be pooled.".into()
        } else {
            "Run the same trial again in another week; the rounds can be pooled.".into()
        },
    }
}

/// What the trial had one of, and several of.
fn reach(facts: &Facts) -> (Vec<String>, Vec<String>) {
    let outdoors = facts.rack.kind == SpaceKind::Sites;
    let mut one = Vec::new();
    let mut several = Vec::new();
    let mut add = |n: usize, single: String, many: String| {
        if n < 2 {
            one.push(single)
        } else {
            several.push(many)
        }
    };
    let crops = facts
        .rack
        .crops_apart()
        .len()
        .max(facts.ask.crops_inside.len());
    let crop = facts.ask.crop.trim();
    let variety = if crop.is_empty() {
        "one variety".into()
    } else {
        format!("one variety ({crop})")
    };
    add(crops, variety, format!("{crops} crops"));
    let rounds = if facts.rack.has_rounds() {
        facts.rack.levels as usize
    } else {
        1
    };
    let season = if outdoors { "one season" } else { "one round" };
    add(rounds, season.into(), format!("{rounds} rounds"));
    let sites = if outdoors {
        facts.rack.levels as usize
    } else {
        1
    };
    add(
        sites,
        place(facts.rack.kind).into(),
        format!("{sites} sites near one another"),
    );
    let lamps = facts
        .sharing
        .as_ref()
        .filter(|s| s.by_level && s.fixture == Some(Fixture::Lamp));
    if lamps.is_some() && facts.units_each < 2 {
        one.push("one lamp of each kind".into());
    }
    (one, several)
}

/// Where it grew.
fn place(kind: SpaceKind) -> &'static str {
    match kind {
        SpaceKind::Sites => "one site",
        SpaceKind::Buckets => "one place for buckets",
        SpaceKind::Bench => "one bench",
        SpaceKind::Sill => "one window",
        SpaceKind::Rack => "one rack",
    }
}
