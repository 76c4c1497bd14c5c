//! Whether what was expected came true.

use super::result::{Analysis, Contrast};
use super::verdict::Verdict;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::words::{and, capitalised};

/// What became of an expectation for one treatment.
#[derive(Clone, Copy, PartialEq, Eq)]
enum Became {
    Held,
    /// In its direction; whether by as much as would matter is open.
    HeldInDirection,
    DidNot,
    CannotTell,
}

fn became(goal: Goal, contrast: &Contrast) -> Became {
    match (goal, contrast.verdict) {
        (_, Verdict::CannotTell) => Became::CannotTell,
        (
            Goal::Match,
            Verdict::GoodEnough | Verdict::Same | Verdict::Better | Verdict::BetterByMargin,
        ) => Became::Held,
        (Goal::Match, _) => Became::DidNot,
        (_, Verdict::BetterByMargin) => Became::Held,
        (_, Verdict::Better) => Became::HeldInDirection,
        _ => Became::DidNot,
    }
}

/// Whether it held that the treatments beat the control, or match it: for which of them, for which
/// not, and of which nobody can say. None where the best of several was asked for, or nothing was
/// compared.
///
/// A trial that was to show more can fail to: that it did not hold is said only where the limits
/// say so.
#[must_use]
pub fn held(analysis: &Analysis) -> Option<String> {
    if analysis.goal == Goal::Best || analysis.contrasts.is_empty() {
        return None;
    }
    let of = |wanted: Became| -> Vec<&str> {
        let own = analysis
            .contrasts
            .iter()
            .filter(|c| became(analysis.goal, c) == wanted);
        own.map(|c| c.treatment.as_str()).collect()
    };
    let alone = analysis.contrasts.len() == 1;
    let told = [
        (Became::Held, "It held", "it held"),
        (
            Became::HeldInDirection,
            "It held, though maybe by less than would matter",
            "it held, though maybe by little,",
        ),
        (Became::DidNot, "It did not hold", "it did not hold"),
        (
            Became::CannotTell,
            "Whether it holds cannot be told",
            "it cannot be told",
        ),
    ];
    let parts = told.into_iter().filter_map(|(became, single, one)| {
        let names = of(became);
        match (names.is_empty(), alone) {
            (true, _) => None,
            (false, true) => Some(single.to_owned()),
            (false, false) => Some(format!("{one} for {}", and(&names))),
        }
    });
    Some(format!(
        "{}.",
        capitalised(&parts.collect::<Vec<_>>().join("; "))
    ))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::analysis::analyse;
    use crate::question::Question;
    use crate::table::{Columns, read};

    fn told(rows: &[(&str, [f64; 4])], goal: Goal) -> Option<String> {
        let csv: String = rows
            .iter()
            .flat_map(|(t, all)| all.iter().map(move |x| format!("{t},{x}\n")))
            .collect();
        let columns = Columns {
            measure: "g".into(),
            treatment: "t".into(),
            control: "water".into(),
            ..Columns::default()
        };
        let question = Question {
            goal,
            margin: "10%".parse().ok(),
            ..Question::default()
        };
        held(
            &analyse(
                &read(format!("t,g\n{csv}").as_bytes(), &columns).unwrap(),
                &question,
            )
            .unwrap(),
        )
    }

    const WATER: (&str, [f64; 4]) = ("water", [99.0, 101.0, 100.0, 100.0]);

    #[test]
    fn one_treatment() {
        let feed = |all| told(&[WATER, ("feed", all)], Goal::Beat);
        assert_eq!(
            feed([129.0, 131.0, 130.0, 130.0]).as_deref(),
            Some("It held.")
        );
        let little = "It held, though maybe by less than would matter.";
        assert_eq!(feed([109.0, 111.0, 110.0, 110.0]).as_deref(), Some(little));
        assert_eq!(
            feed([99.5, 100.5, 100.0, 100.0]).as_deref(),
            Some("It did not hold.")
        );
        assert_eq!(
            feed([70.0, 140.0, 90.0, 130.0]).as_deref(),
            Some("Whether it holds cannot be told.")
        );
        let matches = told(&[WATER, ("feed", [99.5, 100.5, 100.0, 100.0])], Goal::Match);
        assert_eq!(matches.as_deref(), Some("It held."));
        assert_eq!(
            told(&[WATER, ("feed", [70.0, 71.0, 70.0, 70.0])], Goal::Match).as_deref(),
            Some("It did not hold.")
        );
        assert_eq!(
            told(&[WATER, ("feed", [70.0, 71.0, 70.0, 70.0])], Goal::Best),
            None
        );
    }

    #[test]
    fn several_are_told_apart() {
        let all = [
            WATER,
            ("half", [100.0, 100.5, 99.5, 100.0]),
            ("full", [129.0, 131.0, 130.0, 130.0]),
        ];
        assert_eq!(
            told(&all, Goal::Beat).as_deref(),
            Some("It held for full; it did not hold for half.")
        );
    }
}
