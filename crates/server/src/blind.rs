//! What a recorder or viewer sees of a trial before its key is opened: no name of a treatment,
//! nothing that tells one from another, and nothing of the ledger that speaks of them.

use crate::view::TrialView;
use iron_twin_core::catalogue::conditions;
use iron_twin_core::mix::composition::Composition;
use iron_twin_core::trial::application::{Application, Role};
use iron_twin_core::trial::sheet::differences::Differences;
use iron_twin_core::trial::sheet::{Sheet, SheetTreatment};

/// Stands where treatments differ.
const SEALED: &str = "sealed";

fn sheet(sheet: &Sheet) -> Sheet {
    let mut blind = sheet.clone();
    for condition in conditions::ALL {
        let cell = |t: &SheetTreatment| {
            t.value(condition.key)
                .unwrap_or_default()
                .trim()
                .to_lowercase()
        };
        let values: Vec<String> = blind.treatments.iter().map(cell).collect();
        if values.iter().any(|v| *v != values[0]) {
            blind
                .treatments
                .iter_mut()
                .for_each(|t| t.set(condition.key, SEALED));
        }
    }
    if blind
        .treatments
        .iter()
        .any(|t| t.applications != blind.treatments[0].applications)
    {
        let sealed = [Application::stirred(Role::Feed, SEALED, 1.0)];
        blind
            .treatments
            .iter_mut()
            .for_each(|t| t.applications = sealed.to_vec());
    }
    for (i, treatment) in blind.treatments.iter_mut().enumerate() {
        treatment.name = format!("treatment {}", i + 1);
    }
    blind.waiver.clear();
    blind
}

/// A trial as somebody sees it who must not know the key.
pub(crate) fn blinded(view: TrialView) -> TrialView {
    if view.reveal.is_some() {
        return view;
    }
    let mut view = view;
    view.sheet = sheet(&view.sheet);
    (view.lines, view.rows) = (view.sheet.lines(), view.sheet.rows());
    if let Differences::Stepwise { steps, .. } = &mut view.differences {
        steps.clear();
    }
    view.rack.split.clear();
    view.fixture = None;
    view.controls.clear();
    view.composition = Composition::default();
    view.ledger.open.retain(|f| !f.names_treatments);
    // What was found sound is told in words that name treatments.
    view.ledger.sound.clear();
    view
}
