//! What units may share of what differs.

use crate::catalogue::fixtures::Fixture;
use crate::trial::Trial;
use crate::trial::sheet::differences::Differences;
use crate::trial::space::RackDesign;

/// What units may share of what differs.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Sharing {
    /// The fixture that is shared, or of which nobody said how far it reaches; None where each unit
    /// has its own.
    pub fixture: Option<Fixture>,
    /// What differs, as a grower says it.
    pub factor: String,
    /// Whether somebody said that one serves a whole level.
    pub said: bool,
    /// Whether whole levels are what counts.
    pub by_level: bool,
}

/// What units may share of what differs.
#[must_use]
pub fn look(trial: &Trial) -> Option<Sharing> {
    if matches!(trial.plan.sheet.differences(), Differences::None) {
        return None;
    }
    let by_level = trial.is_by_level() || trial.plan.rack.design == RackDesign::SplitPlot;
    let shared = trial.shared_fixture();
    let unsaid = trial.unsaid_fixture();
    let factor = trial
        .plan
        .sheet
        .through()
        .map(|(_, factor)| factor)
        .unwrap_or_default();
    Some(Sharing {
        fixture: shared.or(unsaid.map(|(f, _)| f)),
        factor,
        said: shared.is_some(),
        by_level,
    })
}
