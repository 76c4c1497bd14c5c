//! Trials for tests, made up.

use super::deal::{Deal, Unit};
use super::plan::Plan;
use super::records::record_head;
use super::space::Position;
use super::{Reveal, Trial};
use iron_twin_terms::indices::TreatmentIndex;
use std::sync::Arc;

/// A trial with its key open, of so many units on one level, the treatments in turn; sown on 2
/// March 2026, nothing recorded.
pub(crate) fn opened(plan: Plan, units: usize) -> Trial {
    let treatments = plan.treatments();
    let day = plan.ask.end_day;
    let mut trial = Trial::planned("x", plan);
    let unit = |n: usize| Unit {
        id: n.to_string(),
        code: char::from(b'A' + n as u8).to_string(),
        position: Position {
            level: 1,
            slot: n as u32 + 1,
        },
        treatment: TreatmentIndex(n % treatments),
        lost: None,
    };
    trial.units = Arc::new((0..units).map(unit).collect());
    let at = record_head(day).at;
    trial.deal = Some(Deal {
        seed: 1,
        nonce: [0; 32],
        commitment: String::new(),
        dealt_at: at,
    });
    trial.sown_on = Some(jiff::civil::date(2026, 3, 2));
    trial.reveal = Some(Reveal {
        at,
        day,
        weighed: units,
        reason: String::new(),
    });
    trial.records.units = vec![Arc::default(); units];
    trial
}
