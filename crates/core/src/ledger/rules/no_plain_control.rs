//! Is there a control that gets water and nothing else?

use crate::ledger::{Facts, Outcome, Rule, of_all, unknown};
use crate::match_sheet::controls::{ControlKind, ControlSaid};
use crate::trial::application::{Application, Role};
use crate::trial::sheet::Sheet;
use crate::trial::sheet::differences::Differences;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;

/// Is there a control that gets water and nothing else?
pub const RULE: Rule = Rule {
    code: "no_plain_control",
    title: "no plain-water control",
    threatens: "whether the feed does anything at all",
    station: "match",
    names_treatments: true,
    check,
    units: of_all,
    makes: unknown,
};

fn check(facts: &Facts) -> Outcome {
    let Some(sheet) = &facts.sheet else {
        return Outcome::Waits;
    };
    let controls = sheet.controls();
    // Who wants to do as well with less must say as well as what.
    let chosen = controls.iter().find(|c| c.chosen);
    if facts.ask.goal == Goal::Match && chosen.is_some_and(|c| c.kind == ControlKind::PlainWater) {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: "The goal is to do as well as the control, and the control is plain water."
                .into(),
            remedy:
                "Make what you do now the control at Match, such as the full dose; plain water \
                 may stand beside it."
                    .into(),
        };
    }
    if let Some(told) = with_or_without(facts, sheet, &controls) {
        return told;
    }
    // Additives against one another rank them; whether any of them helps takes one that gets none.
    if are_additives_alone(sheet) {
        return Outcome::Open {
            severity: Severity::Serious,
            seen: "Every treatment gets an inoculant or another additive, so the trial can rank \
                   them but not say whether any of them helps."
                .into(),
            remedy: "Add a treatment that gets the rest without it, or waive it with a note at \
                     Match."
                .into(),
        };
    }
    if chosen.is_some_and(|c| c.kind == ControlKind::FeedOnly) {
        return Outcome::Sound("the control gets the same feed without the additive".into());
    }
    let given = sheet
        .treatments
        .iter()
        .flat_map(|t| &t.applications)
        .filter(|a| !a.is_nothing())
        .count();
    // One strength against another is no matter of how it is set up.
    let alike = sheet.indices().all(|t| {
        sheet.treatments[t].applications == sheet.treatments[TreatmentIndex(0)].applications
    });
    if given == 0 && sheet.differences() != Differences::None {
        return Outcome::Sound("all grow on plain water; the control has the usual set-up".into());
    }
    if alike && chosen.is_some_and(|c| c.kind == ControlKind::UsualSetUp) {
        return fed_alike(sheet);
    }
    Outcome::Open {
        severity: Severity::Serious,
        seen: "The control is fed, so the trial can rank feeds but not say whether feeding pays."
            .into(),
        remedy: "Add a treatment on plain water, or waive it with a note at Match.".into(),
    }
}

/// What plain water that stands there, or its waiver, or the goal settles.
fn with_or_without(facts: &Facts, sheet: &Sheet, controls: &[ControlSaid]) -> Option<Outcome> {
    let chosen = controls.iter().find(|c| c.chosen);
    if let Some(plain) = controls.iter().find(|c| c.kind == ControlKind::PlainWater) {
        let name = &sheet.treatments[plain.treatment].name;
        return Some(Outcome::Sound(if plain.chosen {
            "plain water is the control".into()
        } else {
            format!("{name} stands beside the control")
        }));
    }
    if !sheet.waiver.trim().is_empty() {
        return Some(Outcome::Open {
            severity: Severity::Minor,
            seen: format!(
                "There is no plain water, waived: {}.",
                sheet.waiver.trim().trim_end_matches('.')
            ),
            remedy: "Nothing, if that reason holds.".into(),
        });
    }
    if facts.ask.goal == Goal::Match && chosen.is_some_and(|c| c.kind == ControlKind::UsualPractice)
    {
        return Some(Outcome::Sound(
            "what is done now is the control, as doing as well asks".into(),
        ));
    }
    None
}

/// All are fed alike; said as the sheet calls it: no word of lamps where there are none.
fn fed_alike(sheet: &Sheet) -> Outcome {
    let factor = match sheet.differences() {
        Differences::One { factor } => with_article(&factor),
        Differences::Crossed { factors } => factors.join(" and "),
        _ => "what differs".into(),
    };
    Outcome::Open {
        severity: Severity::Minor,
        seen: format!(
            "All are fed alike: whether {factor} matters more to hungry plants than to fed \
                 ones goes unseen."
        ),
        remedy: "Cross plain water in as a second factor, or waive it with a note at Match.".into(),
    }
}

/// Whether every treatment gets an additive, and not all the same.
fn are_additives_alone(sheet: &Sheet) -> bool {
    let additives = |t: TreatmentIndex| -> Vec<&Application> {
        let all = sheet.treatments[t].applications.iter();
        all.filter(|a| a.role == Role::Additive && !a.is_nothing())
            .collect()
    };
    let each: Vec<Vec<&Application>> = sheet.indices().map(additives).collect();
    each.iter().all(|own| !own.is_empty()) && each.windows(2).any(|two| two[0] != two[1])
}

/// `the lamp`, `the number of light hours`.
fn with_article(factor: &str) -> String {
    if factor.ends_with('s') {
        format!("the number of {factor}")
    } else {
        format!("the {factor}")
    }
}
