//! Is the container large enough for the days it runs?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use crate::trial::space::Rack;
use iron_twin_terms::severity::Severity;

/// Is the container large enough for the days it runs?
pub const RULE: Rule = Rule {
    code: "outgrown",
    title: "outgrown",
    threatens: "once roots fill the container all treatments are held back alike",
    station: "match",
    names_treatments: false,
    check,
    units: of_all,
    makes: unknown,
};

/// Least room of a plant that grows to its full size, L: common practice, no source.
const NEEDS_L: [(&str, f64); 3] = [("cutting", 0.1), ("leaf", 0.5), ("fruit", 8.0)];

/// A crop is taken to fill its container from this share of its usual time on.
const FULL_SIZE: f64 = 0.7;

/// Seedlings on a tray that stay so many times their usual time are another crop; beyond the second
/// it is serious.
const LONG: f64 = 1.5;

const TOO_LONG: f64 = 2.0;

fn check(facts: &Facts) -> Outcome {
    let Some(room) = &facts.room else {
        return Outcome::Waits;
    };
    let Rack { kind, .. } = &facts.rack;
    if matches!(room.grown_as.as_str(), "microgreen" | "sprout") {
        let times = f64::from(room.last_day) / room.usual_day;
        if times < LONG {
            return Outcome::Sound(format!("{} is cut in its usual time", room.crop));
        }
        return Outcome::Open {
            severity: if times >= TOO_LONG {
                Severity::Serious
            } else {
                Severity::Minor
            },
            seen: format!(
                "{} is usually cut on day {:.0}; this {} ran to day {}, on the room of a seedling.",
                iron_twin_terms::words::capitalised(&room.crop),
                room.usual_day,
                kind.unit(),
                room.last_day
            ),
            remedy: "Cut at its usual time, or move it to a larger container and ask about the \
                     grown plant."
                .into(),
        };
    }
    let Some((_, needs)) = NEEDS_L.iter().find(|(grown, _)| *grown == room.grown_as) else {
        return Outcome::Waits;
    };
    let Some((container, litres)) = &room.container else {
        return Outcome::Waits;
    };
    if f64::from(room.last_day) < FULL_SIZE * room.usual_day || litres >= needs {
        return Outcome::Sound(format!(
            "each plant has {} L, enough for its days",
            shown(*litres)
        ));
    }
    Outcome::Open {
        severity: if *litres < needs / 2.0 {
            Severity::Serious
        } else {
            Severity::Minor
        },
        seen: format!(
            "{} for {} days: a plant has {} L of “{container}”, and usually wants {} L by then.",
            iron_twin_terms::words::capitalised(&room.crop),
            room.last_day,
            shown(*litres),
            shown(*needs)
        ),
        remedy: "Give each plant more room, or end it earlier.".into(),
    }
}

fn shown(litres: f64) -> String {
    if litres < 1.0 {
        format!("{litres:.1}")
    } else {
        format!("{litres:.0}")
    }
}
