//! Do treatments share the edge slots alike?

use crate::judge::ledger::{Facts, Outcome, Rule};
use crate::judge::warnings::Severity;

/// Do treatments share the edge slots alike?
pub const RULE: Rule = Rule {
    code: "edge_or_light_uneven",
    title: "edge slots uneven",
    threatens: "edges are warmer, drier and darker",
    station: "place",
    check,
};

/// Edge slots that one treatment may have more than another before it is said.
const TOLERATED: usize = 2;

fn check(facts: &Facts) -> Outcome {
    if let Some(rotation) = facts.rotation {
        let missed = rotation.planned.saturating_sub(rotation.done);
        if missed > 1 {
            return Outcome::Open {
                severity: Severity::Minor,
                seen: format!("{} of {} moves to the next slot were made.", rotation.done, rotation.planned),
                remedy: "Move on from here; slots then weigh a little more on some trays than on others.".into(),
            };
        }
        if rotation.done > 0 {
            return Outcome::Sound(format!("turned through the slots, {} moves made", rotation.done));
        }
    }
    let (Some(most), Some(least)) = (facts.edge_slots.iter().max(), facts.edge_slots.iter().min()) else {
        return Outcome::Waits;
    };
    if most - least > TOLERATED {
        // No names: before the reveal they would point at trays.
        Outcome::Open {
            severity: Severity::Minor,
            seen: format!("One treatment stands in {most} edge slots, another in {least}."),
            remedy: "Deal again before the first record, or turn the trays through all slots.".into(),
        }
    } else {
        Outcome::Sound(format!("edge slots shared: {least} to {most} each"))
    }
}
