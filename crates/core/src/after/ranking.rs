//! Several treatments from best to worst, with those that tie told as ties.

use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::records::CropNumber;
use crate::verdict::comparison;
use iron_twin_judge::question::Question;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::wording::trimmed;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::words::{and, capitalised};

/// The treatments from best to worst.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Ranked {
    /// Those that may be the best.
    pub may_be_best: Vec<String>,
    /// All of them, in a sentence.
    pub said: String,
}

/// The treatments by what they gave, and which of them may be the best: every pair is held against
/// each other together (Tukey), so that two that cannot be told apart share their place. None
/// before the key is open, for two treatments, and where nothing tells units apart.
#[must_use]
pub fn ranked(trial: &Trial, judged: Judged, only: Option<CropNumber>) -> Option<Ranked> {
    trial.reveal.as_ref()?;
    if trial.plan.treatments() < 3 {
        return None;
    }
    let best = |question| Question {
        goal: Goal::Best,
        best_alone: true,
        ..question
    };
    let analysis = comparison::compare(trial, judged, (only, None), best).ok()?;
    let may_be_best = analysis.best.clone()?;
    Some(Ranked {
        said: said(&analysis, &may_be_best, judged),
        may_be_best,
    })
}

fn said(analysis: &Analysis, best: &[String], judged: Judged) -> String {
    let mut order: Vec<(&str, f64)> = analysis
        .treatments
        .iter()
        .map(|t| (t.name.as_str(), t.adjusted_mean))
        .collect();
    order.sort_by(|a, b| a.1.total_cmp(&b.1));
    if analysis.better == Better::Higher {
        order.reverse();
    }
    let unit = judged.measure.unit;
    let figure = |mean: f64| match analysis.kind {
        Kind::Share => format!("{} %", trimmed(100.0 * mean, 0)),
        _ if unit.is_empty() => trimmed(mean, judged.measure.decimals as usize),
        _ => format!("{} {unit}", trimmed(mean, judged.measure.decimals as usize)),
    };
    let listed: Vec<String> = order
        .iter()
        .map(|(name, mean)| format!("{name} {}", figure(*mean)))
        .collect();
    let (first, behind): (Vec<&str>, Vec<&str>) = order
        .iter()
        .map(|(name, _)| *name)
        .partition(|name| best.iter().any(|b| b == name));
    let tie = match (&first[..], &behind[..]) {
        ([one], _) => format!("{} is surely the best of them.", capitalised(one)),
        (_, []) => "None of them is surely better than another.".to_owned(),
        (tied, behind) => {
            let be = if behind.len() == 1 { "is" } else { "are" };
            format!(
                "{} tie for the first place; {} {be} surely behind.",
                capitalised(&and(tied)),
                and(behind)
            )
        }
    };
    format!("From best to worst: {}. {tie}", and(&listed))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::made_up::opened;
    use crate::trial::plan::Plan;
    use crate::trial::record::weighing::Weighing;
    use crate::trial::records::{Recorded, UnitRecords, record_head};
    use std::sync::Arc;

    /// Four trays of each treatment on one level, which gave about so many grams.
    fn trial(gave: &[(&str, f64)]) -> Trial {
        let mut plan = Plan::usual("Cress");
        let base = plan.sheet.treatments[1].clone();
        plan.sheet.treatments.truncate(1);
        let others = gave[1..]
            .iter()
            .map(|(name, _)| crate::trial::sheet::SheetTreatment {
                name: (*name).to_owned(),
                ..base.clone()
            });
        plan.sheet.treatments.extend(others);
        let mut trial = opened(plan, 4 * gave.len());
        let net = |n: usize| gave[n % gave.len()].1 + [1.0, -0.5, 0.5, -1.0][n / gave.len()];
        let weighed = |n: usize| {
            let record = Recorded::new(
                None,
                record_head(10),
                Weighing {
                    gross_g: net(n),
                    tare_g: 0.0,
                    turn: None,
                },
            );
            Arc::new(UnitRecords {
                own: [record].into_iter().collect(),
                ..UnitRecords::default()
            })
        };
        trial.records.units = (0..4 * gave.len()).map(weighed).collect();
        trial
    }

    /// What is left out, deals and numbers of units, changes nothing of the order.
    #[test]
    fn the_best_are_those_of_the_whole_analysis() {
        for (gave, said) in [
            (
                [
                    ("plain water", 60.0),
                    ("full feed", 90.0),
                    ("half feed", 90.5),
                ],
                "From best to worst: half feed 90.5 g, full feed 90 g and plain water 60 g. Half \
                 feed and full feed tie for the first place; plain water is surely behind.",
            ),
            (
                [
                    ("plain water", 60.0),
                    ("full feed", 90.0),
                    ("half feed", 75.0),
                ],
                "From best to worst: full feed 90 g, half feed 75 g and plain water 60 g. Full \
                 feed is surely the best of them.",
            ),
            (
                [
                    ("plain water", 60.0),
                    ("full feed", 59.5),
                    ("half feed", 60.5),
                ],
                "From best to worst: half feed 60.5 g, plain water 60 g and full feed 59.5 g. \
                 None of them is surely better than another.",
            ),
        ] {
            let mut own = trial(&gave);
            let found = ranked(&own, own.decides(), None).expect("an order");
            assert_eq!(found.said, said);
            Arc::make_mut(&mut own.plan).ask.goal = Goal::Best;
            let whole = comparison::analysis(&own, own.decides(), None, None).expect("an analysis");
            assert_eq!(whole.best, Some(found.may_be_best));
            assert!(
                whole.contrasts.iter().all(|c| c.randomisation.is_some())
                    && whole.units_needed.is_some()
            );
        }
    }

    #[test]
    fn two_have_no_order_and_a_sealed_trial_tells_none() {
        let own = trial(&[("plain water", 60.0), ("full feed", 90.0)]);
        assert_eq!(ranked(&own, own.decides(), None), None);
        let mut sealed = trial(&[
            ("plain water", 60.0),
            ("full feed", 90.0),
            ("half feed", 75.0),
        ]);
        sealed.reveal = None;
        assert_eq!(ranked(&sealed, sealed.decides(), None), None);
    }
}
