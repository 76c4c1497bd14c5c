//! What may go to the table: a treatment is tasted only where it is known what it got, where that
//! is food grade by its label, and where the days before harvest that the label wants have gone by.
//!
//! The label and local rules decide; this only keeps off the table what nobody has said to be fit
//! for it.

use crate::catalogue::deeds::Job;
use crate::stores::Stores;
use crate::stores::keys;
use crate::trial::Trial;
use crate::trial::application::{Application, How, Role, When, is_none};
use crate::trial::record::giving::{Gift, Portion, Recipient};
use iron_twin_terms::indices::TreatmentIndex;

/// What everybody should know who serves or tastes. Common practice, no source; labels and local
/// rules lead.
pub const CAUTIONS: [&str; 5] = [
    "Taste only what the labels of all that it got allow: food-grade additives, feeds at the \
     crop's usual strength, and after the days before harvest that the label wants.",
    "Clean hands, clean cups, drinking water; trays with mould or slime go out whole, and nothing \
     of them is tasted.",
    "Ask each taster about allergies before, of plants and of what was given to them.",
    "Raw sprouts and microgreens are not for pregnant people, small children or anybody with weak \
     defences: it is for them and their doctor to say.",
    "Water between cups; spit out what tastes wrong, and stop there.",
];

/// What a taster should know before the first cup. As above.
pub const FOR_TASTERS: [&str; 3] = [
    "Tell who laid the table of any allergy, to plants or to anything that was given to them, and \
     ask what that was.",
    "Raw sprouts and microgreens are not for pregnant people, small children or anybody with weak \
     defences: ask your doctor, not the table.",
    "Water between cups. Spit out what tastes wrong, and stop there.",
];

/// The last day until the harvest on which a treatment got something: as it was recorded; where no
/// feeding was, as it was planned.
fn last_given(
    trial: &Trial,
    treatment: TreatmentIndex,
    what: &Application,
    cut: u32,
) -> Option<u32> {
    let care = &trial.plan.care;
    let end = cut.saturating_add(1);
    let planned = || match &what.when {
        When::EachFeeding => {
            let held: Vec<u32> = trial
                .work_done()
                .jobs
                .iter()
                .filter(|(job, _)| matches!(job, Job::Feed | Job::Apply))
                .map(|(_, day)| *day)
                .collect();
            if held.is_empty() && care.feed_every > 0 {
                (care.first_feed_day..end)
                    .step_by(care.feed_every as usize)
                    .collect()
            } else {
                held
            }
        }
        other => other.days(end).unwrap_or_default(),
    };
    let beside = given_beside(trial, treatment)
        .filter(|(_, p)| p.what.trim().eq_ignore_ascii_case(what.what.trim()));
    planned()
        .into_iter()
        .chain(beside.map(|(day, _)| day))
        .filter(|day| *day <= cut)
        .max()
}

/// What any unit of a treatment got beside the plan, with the day.
fn given_beside(trial: &Trial, treatment: TreatmentIndex) -> impl Iterator<Item = (u32, &Portion)> {
    trial.records.givings().iter().filter_map(move |g| {
        let to = match g.whom()? {
            Recipient::Unit(unit) => trial.units[unit].treatment == treatment,
            Recipient::Treatment(own) => own == treatment,
            Recipient::All => true,
        };
        match &g.gift {
            Gift::Own(portion) if to => Some((g.head.day, portion)),
            _ => None,
        }
    })
}

/// All that a treatment got or was to get: what the plan has, and what else was given to any of its
/// units.
fn all_given(trial: &Trial, stores: &Stores, treatment: TreatmentIndex) -> Vec<Application> {
    let planned = trial.plan.sheet.treatments[treatment]
        .applications
        .iter()
        .filter(|a| !a.is_nothing());
    let mut all: Vec<Application> = planned.cloned().collect();
    for (day, portion) in given_beside(trial, treatment) {
        let name = portion.what.trim();
        // The feeds of one tank stand in one name, as the plan joins them.
        let is_known = name.split(" and ").all(|part| {
            all.iter()
                .any(|a| a.what.trim().eq_ignore_ascii_case(part.trim()))
        });
        if is_known || is_none(name) {
            continue;
        }
        let role = if stores.parts(Role::Feed.shelf(), name).is_some() {
            Role::Feed
        } else {
            Role::Additive
        };
        let own = Application::stirred(role, name, 1.0);
        all.push(Application {
            how: portion.how,
            when: When::Days(vec![day]),
            ..own
        });
    }
    all
}

/// Why a treatment that was cut on a day stays off the table, each reason in a sentence; empty
/// where nothing is known against it.
#[must_use]
pub fn barred(trial: &Trial, stores: &Stores, treatment: TreatmentIndex, cut: u32) -> Vec<String> {
    let mut why = Vec::new();
    for own in &all_given(trial, stores, treatment) {
        let (name, shelf) = (own.what.trim(), own.role.shelf());
        let item = stores.find(shelf, name);
        let known = stores.parts(shelf, name).is_some();
        let said = |key| item.and_then(|i| i.words(key));
        match (said(keys::FOOD_GRADE), own.role) {
            (Some("no"), _) => why.push(format!("{name} is not food grade, by its label.")),
            (_, _) if !known || said(keys::COMPOSITION) == Some("unknown") => {
                why.push(format!(
                    "Stores do not know what is in {name}: what is unknown is not eaten."
                ));
            }
            (None, Role::Additive) => {
                why.push(format!(
                    "Stores do not say whether {name} is food grade: look at its label, and enter \
                     it there."
                ));
            }
            _ => {}
        }
        let wait = item.and_then(|i| i.number(keys::PRE_HARVEST_DAYS));
        match (wait, last_given(trial, treatment, own, cut)) {
            (Some(wait), Some(last)) if f64::from(cut) < f64::from(last) + wait => {
                why.push(format!(
                    "{name} was given last on day {last}; its label wants {wait} days before the \
                 harvest: not before day {}.",
                    f64::from(last) + wait
                ))
            }
            (None, Some(_))
                if own.role == Role::Additive && matches!(own.how, How::Sprayed | How::Dusted) =>
            {
                why.push(format!(
                    "{name} is {}: enter in Stores how many days before harvest its label wants \
                     (pre-harvest interval).",
                    own.how.words()
                ));
            }
            _ => {}
        }
    }
    why
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stores::{Held, Item};
    use crate::trial::plan::Plan;
    use crate::trial::record::giving::{Giving, PortionUnit};
    use crate::trial::records::{Recorded, record_head};
    use std::collections::BTreeMap;

    /// A trial whose second treatment gets this.
    fn trial(given: Application) -> Trial {
        let mut plan = Plan::usual("Cress");
        plan.sheet.treatments[1].applications = vec![given];
        (plan.care.first_feed_day, plan.care.feed_every) = (2, 3);
        Trial::planned("x", plan)
    }

    /// Stores with an additive of which this is known.
    fn stores(held: &[(&str, Held)]) -> Stores {
        let held: BTreeMap<String, Held> = held
            .iter()
            .map(|(key, held)| ((*key).to_owned(), held.clone()))
            .collect();
        Stores::with_own(vec![Item {
            shelf: "additives".into(),
            name: "kelp".into(),
            source: "label".into(),
            held,
        }])
    }

    fn words(text: &str) -> Held {
        Held::Words(text.into())
    }

    fn kelp(how: How, when: When) -> Application {
        Application {
            how,
            when,
            ..Application::stirred(Role::Additive, "kelp", 1.0)
        }
    }

    const OWN: TreatmentIndex = TreatmentIndex(1);

    #[test]
    fn only_what_is_known_and_food_grade_goes_to_the_table() {
        let known = [
            ("composition", words("stated")),
            ("dose_per_l", Held::Number(2.0)),
            ("form", words("liquid")),
            ("n_percent", Held::Number(1.0)),
        ];
        let with = |more: &[(&'static str, Held)]| {
            let all: Vec<(&str, Held)> =
                known.iter().cloned().chain(more.iter().cloned()).collect();
            barred(
                &trial(kelp(How::Stirred, When::EachFeeding)),
                &stores(&all),
                OWN,
                12,
            )
        };
        assert_eq!(with(&[("food_grade", words("yes"))]), Vec::<String>::new());
        assert_eq!(
            with(&[("food_grade", words("no"))]),
            ["kelp is not food grade, by its label."]
        );
        let unsaid = with(&[]);
        assert!(
            unsaid.len() == 1 && unsaid[0].contains("do not say whether kelp is food grade"),
            "{unsaid:?}"
        );
        let unknown = with(&[
            ("food_grade", words("yes")),
            ("composition", words("unknown")),
        ]);
        assert!(
            unknown.len() == 1 && unknown[0].contains("do not know what is in kelp"),
            "{unknown:?}"
        );
        let nobody = barred(
            &trial(kelp(How::Stirred, When::EachFeeding)),
            &Stores::with_own(Vec::new()),
            OWN,
            12,
        );
        assert!(
            nobody.len() == 1 && nobody[0].contains("do not know what is in kelp"),
            "{nobody:?}"
        );
        // Plain water, and a generic feed at its label dose.
        let feed = trial(Application::stirred(Role::Feed, "grow feed", 1.0));
        let generic = Stores::with_own(Vec::new());
        let name = generic
            .items()
            .iter()
            .find(|i| i.shelf == "feeds" && generic.parts("feeds", &i.name).is_some());
        let feed = Trial {
            plan: std::sync::Arc::new({
                let mut plan = (*feed.plan).clone();
                plan.sheet.treatments[1].applications[0]
                    .what
                    .clone_from(&name.unwrap().name);
                plan
            }),
            ..feed
        };
        assert_eq!(barred(&feed, &generic, OWN, 12), Vec::<String>::new());
        assert_eq!(
            barred(&feed, &generic, TreatmentIndex(0), 12),
            Vec::<String>::new()
        );
    }

    #[test]
    fn the_days_before_harvest_count_from_the_last_time_it_was_given() {
        let food = ("food_grade", words("yes"));
        let known = [
            food,
            ("composition", words("stated")),
            ("dose_per_l", Held::Number(2.0)),
            ("form", words("liquid")),
            ("n_percent", Held::Number(1.0)),
        ];
        let seven: Vec<(&str, Held)> = known
            .iter()
            .cloned()
            .chain([("pre_harvest_days", Held::Number(7.0))])
            .collect();
        // As planned on days 2, 5, 8: before day 15 it stays off the table.
        let by_plan = trial(kelp(How::Stirred, When::EachFeeding));
        let on = |cut| barred(&by_plan, &stores(&seven), OWN, cut);
        assert!(
            on(14)[0].contains("given last on day 14") && on(10)[0].contains("not before day 15"),
            "{:?}",
            on(10)
        );
        let once = trial(kelp(How::Sprayed, When::Days(vec![3])));
        let on = |cut| barred(&once, &stores(&seven), OWN, cut);
        assert!(on(9)[0].contains("not before day 10") && on(10).is_empty());
        // One that was entered beside the plan puts it off.
        let mut late = once.clone();
        late.records.lists.set(vec![Recorded::given(
            record_head(6),
            Job::Feed,
            Recipient::Treatment(OWN),
            Gift::Own(Portion {
                what: "kelp".into(),
                how: How::Sprayed,
                amount: None,
                unit: PortionUnit::default(),
                lot: String::new(),
                batch: String::new(),
            }),
        )]);
        assert!(barred(&late, &stores(&seven), OWN, 12)[0].contains("not before day 13"));
        // What the plan never had, given once by hand, bars the treatment as well; plain water does
        // not.
        let given = |what: &str| {
            let mut other = late.clone();
            other.records.lists.edit::<Giving>(|all| {
                let Gift::Own(portion) = &mut all[0].is.gift else {
                    unreachable!()
                };
                portion.what = what.into();
            });
            other
        };
        let other = given("garlic brew");
        let why = barred(&other, &stores(&seven), OWN, 30);
        assert!(
            why.len() == 2 && why[0].contains("do not know what is in garlic brew"),
            "{why:?}"
        );
        assert!(barred(&other, &stores(&seven), TreatmentIndex(0), 30).is_empty());
        assert_eq!(
            barred(&given("plain water"), &stores(&seven), OWN, 30),
            Vec::<String>::new()
        );
        // A spray of which nobody said how long it has to wait.
        let unsaid = barred(&once, &stores(&known), OWN, 30);
        assert!(
            unsaid.len() == 1 && unsaid[0].contains("pre-harvest interval"),
            "{unsaid:?}"
        );
    }
}
