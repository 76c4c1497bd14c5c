//! Figures that will be missing as long as the plan does not say what a harvest is told for.

use crate::catalogue::measures::{Measure, Per, Source};
use crate::trial::Trial;

/// What a plan must say before a measure has any figure, in a grower's words; None where it says
/// so, or needs nothing of it.
#[must_use]
pub fn lacks(trial: &Trial, measure: &Measure) -> Option<&'static str> {
    let none = |key: &str| {
        trial
            .plan
            .sheet
            .indices()
            .all(|t| trial.plan.sheet.number(t, key).is_none())
    };
    let ask = &trial.plan.ask;
    match measure.source {
        Source::WeightPer(Per::Surface) if none("surface") => {
            Some("Say at Match how much surface one has.")
        }
        Source::WeightPer(Per::Energy) if none("light_watts") || none("light_hours") => Some(
            "Say at Match how many watts the light over one takes, and for how many hours a day.",
        ),
        Source::WeightPer(Per::Seed) if none("seed_weight") => {
            Some("Say at Match how much seed one gets.")
        }
        Source::WeightPer(Per::Plant) if ask.samples().flatten().next().is_none() => {
            Some("Say at Ask how many plants are followed in one.")
        }
        Source::Value
            if ask.price_per_kg.is_none()
                && !ask
                    .waves
                    .iter()
                    .flat_map(|w| &w.grades)
                    .any(|g| g.price_per_kg.is_some()) =>
        {
            Some("Say at Ask what a kilogram brings.")
        }
        Source::Pieces | Source::PieceWeight if ask.waves.is_none() => {
            Some("Pieces are counted where the harvest comes in waves: say so at Ask.")
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::catalogue::measures::ALL;
    use crate::trial::plan::Plan;

    #[test]
    fn what_the_plan_does_not_say_is_asked_for() {
        let wants = |plan: &Plan| -> Vec<&str> {
            let trial = Trial::planned("x", plan.clone());
            ALL.into_iter()
                .filter(|m| lacks(&trial, m).is_some())
                .map(|m| m.key)
                .collect()
        };
        let mut plan = Plan::usual("Cress");
        let all = [
            "harvest_per_area",
            "harvest_per_plant",
            "harvest_per_kwh",
            "harvest_value",
            "pieces",
            "piece_weight",
        ];
        assert_eq!(wants(&plan), all);
        // One treatment of which it is known is enough for a figure.
        for (key, value) in [
            ("surface", "1250"),
            ("light_watts", "30"),
            ("light_hours", "16"),
        ] {
            plan.sheet.treatments[1].set(key, value);
        }
        assert_eq!(
            wants(&plan),
            [
                "harvest_per_plant",
                "harvest_value",
                "pieces",
                "piece_weight"
            ]
        );
        (plan.ask.price_per_kg, plan.ask.samples_inside) = (Some(40.0), 6);
        plan.ask.waves = Some(crate::trial::waves::Waves::default());
        assert_eq!(wants(&plan), Vec::<&str>::new());
        plan.sheet
            .treatments
            .iter_mut()
            .for_each(|t| t.set("seed_weight", ""));
        assert_eq!(wants(&plan), ["harvest_per_seed"]);
    }
}
