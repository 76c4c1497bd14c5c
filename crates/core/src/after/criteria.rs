//! What a trial itself offers as criteria, and the card of a trial that has none yet.

use super::scorecard::Scored;
use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::scorecard::{Criterion, MOST_SWING, Origin, Scorecard, Setting};
use iron_twin_terms::goal::Better;
use std::collections::BTreeMap;

/// What is proposed to count beside the deciding measure, as swings.
const OTHERS: f64 = 40.0;

/// Whose figures a criterion has, on its day; None where they come from elsewhere, or where the
/// trial does not measure it.
#[must_use]
pub fn measured(trial: &Trial, from: &Origin) -> Option<Judged> {
    let mut judged = trial.plan.ask.judged().into_iter();
    match from {
        // Of several days the last decides.
        Origin::Measure(key) => judged
            .filter(|j| j.measure.key == key)
            .max_by_key(|j| j.day),
        Origin::MeasureOn { measure, day } => {
            judged.find(|j| j.measure.key == measure && j.day == Some(*day))
        }
        Origin::Cost | Origin::Taste | Origin::Own => None,
    }
}

/// What the trial offers: all that it measured, on each of its days, what a unit costs, how it was
/// liked, and what only the grower can score.
#[must_use]
pub fn offers(trial: &Trial) -> Vec<Criterion> {
    let criterion = |name: String, from, better| Criterion {
        name,
        from,
        better,
        scores: BTreeMap::new(),
    };
    let mut all: Vec<Criterion> = Vec::new();
    for own in trial.plan.ask.judged() {
        let measure = own.measure;
        let last = Origin::Measure(measure.key.to_owned());
        let (name, from) = match own.day {
            Some(day) if measured(trial, &last).is_some_and(|l| l.day != Some(day)) => (
                format!("{} on day {day}", measure.name),
                Origin::MeasureOn {
                    measure: measure.key.to_owned(),
                    day,
                },
            ),
            _ => (measure.name.to_owned(), last),
        };
        all.push(criterion(name, from, trial.plan.ask.better_of(measure)));
    }
    all.push(criterion("cost".into(), Origin::Cost, Better::Lower));
    all.push(criterion("taste".into(), Origin::Taste, Better::Higher));
    for name in ["effort", "noise", "looks", "risk"] {
        let better = if name == "looks" {
            Better::Higher
        } else {
            Better::Lower
        };
        all.push(criterion(name.into(), Origin::Own, better));
    }
    all
}

/// The card of a trial that has none: what was measured of every treatment, each measure once, and
/// what it costs, the deciding measure for most. Own scores are given, not proposed.
#[must_use]
pub fn proposed(trial: &Trial, offered: &[(Criterion, Scored)]) -> Scorecard {
    let whole = |s: &Scored| s.figures.iter().all(Option::is_some);
    let once = |c: &Criterion| !matches!(c.from, Origin::Own | Origin::MeasureOn { .. });
    let own: Vec<&Criterion> = offered
        .iter()
        .filter(|(c, s)| once(c) && whole(s))
        .map(|(c, _)| c)
        .collect();
    let first = Origin::Measure(trial.primary().key.into());
    let swing = |c: &&Criterion| {
        (
            c.name.clone(),
            if c.from == first { MOST_SWING } else { OTHERS },
        )
    };
    let setting = |name: &str| Setting {
        name: name.into(),
        swings: own.iter().map(swing).collect(),
    };
    Scorecard {
        criteria: own.iter().map(|c| (*c).clone()).collect(),
        settings: ["home", "market", "school"].map(setting).into(),
        knock_outs: Vec::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::after::scorecard::Figure;
    use crate::trial::made_up::opened;
    use crate::trial::plan::Plan;

    /// Cress by weight, with its height on days 6 and 10.
    fn trial() -> Trial {
        let mut plan = Plan::usual("Cress");
        plan.ask.also = vec!["height".into()];
        plan.ask.judged_on = [("height".to_owned(), vec![6, 10])].into();
        opened(plan, 8)
    }

    #[test]
    fn every_day_of_a_measure_is_offered_and_the_last_has_its_name() {
        let own = trial();
        let names: Vec<(String, Option<u32>)> = offers(&own)
            .into_iter()
            .map(|c| (c.name.clone(), measured(&own, &c.from).and_then(|j| j.day)))
            .collect();
        let told: Vec<(&str, Option<u32>)> = names
            .iter()
            .map(|(name, day)| (name.as_str(), *day))
            .collect();
        let weight = own.primary().name;
        assert_eq!(
            told,
            [
                (weight, None),
                ("height on day 6", Some(6)),
                ("height", Some(10)),
                ("cost", None),
                ("taste", None),
                ("effort", None),
                ("noise", None),
                ("looks", None),
                ("risk", None)
            ]
        );
        assert_eq!(
            measured(
                &own,
                &Origin::MeasureOn {
                    measure: "height".into(),
                    day: 7
                }
            ),
            None
        );
    }

    /// The grower's word on the deciding measure holds in the card too.
    #[test]
    fn which_way_is_better_is_as_the_grower_says() {
        let mut own = trial();
        std::sync::Arc::make_mut(&mut own.plan).ask.better = Better::Lower;
        let of = |name: &str| {
            offers(&own)
                .into_iter()
                .find(|c| c.name == name)
                .expect("an offer")
                .better
        };
        assert_eq!(
            (of(own.primary().name), of("height")),
            (Better::Lower, Better::Higher)
        );
    }

    #[test]
    fn what_is_proposed_has_figures_of_all_and_each_measure_once() {
        let own = trial();
        let figure = Some(Figure { mean: 1.0, se: 0.1 });
        let with = |c: Criterion| {
            let figures = if c.name == "taste" {
                vec![figure, None]
            } else {
                vec![figure; 2]
            };
            let scored = Scored {
                name: c.name.clone(),
                unit: String::new(),
                better: c.better,
                figures,
            };
            (c, scored)
        };
        let card = proposed(
            &own,
            &offers(&own).into_iter().map(with).collect::<Vec<_>>(),
        );
        let names: Vec<&str> = card.criteria.iter().map(|c| c.name.as_str()).collect();
        assert_eq!(names, [own.primary().name, "height", "cost"]);
        let market = &card.settings[1];
        assert_eq!(
            (
                market.name.as_str(),
                market.swings[own.primary().name],
                market.swings["cost"]
            ),
            ("market", 100.0, 40.0)
        );
        assert_eq!(card.refused(), None);
    }
}
