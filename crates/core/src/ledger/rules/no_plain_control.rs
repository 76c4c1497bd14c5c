//! Is there a control that gets water and nothing else?

use crate::ledger::{Facts, Outcome, Rule};
use crate::match_sheet::controls::ControlKind;
use crate::terms::goal::Goal;
use crate::terms::indices::TreatmentIndex;
use crate::terms::severity::Severity;
use crate::trial::application::{Application, Role};
use crate::trial::sheet::Sheet;

/// Is there a control that gets water and nothing else?
pub const RULE: Rule = Rule {
    code: "no_plain_control",
    title: "no plain-water control",
    threatens: "whether the feed does anything at all",
    station: "match",
    names_treatments: true,
    check,
};

fn check(facts: &Facts) -> Outcome {
    let Some(sheet) = &facts.sheet else { return Outcome::Waits };
    let controls = sheet.controls();
    // Who wants to do as well with less must say as well as what.
    let chosen = controls.iter().find(|c| c.chosen);
    if facts.ask.goal == Goal::Match && chosen.is_some_and(|c| c.kind == ControlKind::PlainWater) {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: "The goal is to do as well as the control, and the control is plain water.".into(),
            remedy:
                "Make what you do now the control at Match, such as the full dose; plain water may stand beside it."
                    .into(),
        };
    }
    if let Some(plain) = controls.iter().find(|c| c.kind == ControlKind::PlainWater) {
        let name = &sheet.treatments[plain.treatment].name;
        return Outcome::Sound(if plain.chosen {
            "plain water is the control".into()
        } else {
            format!("{name} stands beside the control")
        });
    }
    if !sheet.waiver.trim().is_empty() {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: format!("There is no plain water, waived: {}", sheet.waiver.trim()),
            remedy: "Nothing, if that reason holds.".into(),
        };
    }
    if facts.ask.goal == Goal::Match && chosen.is_some_and(|c| c.kind == ControlKind::UsualPractice) {
        return Outcome::Sound("what is done now is the control, as doing as well asks".into());
    }
    // Additives against one another rank them; whether any of them helps takes one that gets none.
    if are_additives_alone(sheet) {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: "Every treatment gets an inoculant or another additive, so the trial can rank them but not say whether any \
                   of them helps."
                .into(),
            remedy: "Add a treatment that gets the rest without it, or waive it with a note at Match.".into(),
        };
    }
    let set_up = controls.iter().any(|c| c.chosen && c.kind == ControlKind::UsualSetUp);
    if set_up {
        return Outcome::Open {
            severity: Severity::Minor,
            seen: "All are fed alike, so a lamp, medium or air that helps only hungry or only fed plants goes unseen."
                .into(),
            remedy: "Cross plain water in as a second factor, or waive it with a note at Match.".into(),
        };
    }
    Outcome::Open {
        severity: Severity::Serious,
        seen: "The control is fed, so the trial can rank feeds but not say whether feeding pays.".into(),
        remedy: "Add a treatment on plain water, or waive it with a note at Match.".into(),
    }
}

/// Whether every treatment gets an additive, and not all the same.
fn are_additives_alone(sheet: &Sheet) -> bool {
    let additives = |t: TreatmentIndex| -> Vec<&Application> {
        let all = sheet.treatments[t].applications.iter();
        all.filter(|a| a.role == Role::Additive && !a.is_nothing()).collect()
    };
    let each: Vec<Vec<&Application>> = sheet.indices().map(additives).collect();
    each.iter().all(|own| !own.is_empty()) && each.windows(2).any(|two| two[0] != two[1])
}
