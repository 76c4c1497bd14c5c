//! What may reach the next unit.

use crate::catalogue::fixtures::Fixture;
use crate::catalogue::spaces::SpaceKind;
use crate::trial::Trial;
use crate::trial::application::How;
use crate::trial::space::RackDesign;

/// What may reach the next unit, of another treatment.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Spill {
    /// Nothing does.
    Nothing,
    /// Spray, in the way in which it is given.
    Spray(How),
    /// The light of the next lamp.
    Light,
}

/// What may reach the next unit.
#[must_use]
pub fn look(trial: &Trial) -> Option<Spill> {
    trial.deal.as_ref()?;
    let (rack, sheet) = (&trial.plan.rack, &trial.plan.sheet);
    let by_level = trial.is_by_level();
    // Systems of a swap-over, and whole levels, stand apart.
    let beside = !by_level && rack.used_slots(trial.plan.treatments()) > 1;
    let lamp = matches!(sheet.through(), Some((Fixture::Lamp, _)));
    if lamp && beside && rack.design != RackDesign::SplitPlot && trial.shared_fixture().is_none() {
        return Some(Spill::Light);
    }
    let drifts = [How::Sprayed, How::Dusted];
    for how in drifts {
        let gets = |t| {
            sheet.get(t).is_some_and(|t| {
                t.applications
                    .iter()
                    .any(|a| a.how == how && !a.is_nothing())
            })
        };
        let some = sheet.indices().filter(|t| gets(*t)).count();
        let differs = sheet.lines().iter().any(|line| {
            let own: Vec<_> = sheet
                .indices()
                .map(|t| sheet.application(line, t))
                .collect();
            own.iter().flatten().any(|a| a.how == how) && own.iter().any(|a| *a != own[0])
        });
        // A board is hard to forget between plots that stand metres apart; trays touch.
        if some > 0 && differs && (beside || rack.kind == SpaceKind::Sites) {
            return Some(Spill::Spray(how));
        }
    }
    Some(Spill::Nothing)
}
