//! Writing what a trial asks.

use crate::error::{Result, StoreError};
use crate::plan::{PlanWrite, check_part, check_text, step_version};
use crate::store::{Stamp, Store};
use iron_twin_core::ask::check::AskError;
use iron_twin_core::ask::worth;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::changes::{Change, sealed};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::question::Ask;
use serde::Deserialize;
use serde_json::json;

/// The plan of the Ask station, as it is sent.
#[derive(Debug, Clone, PartialEq, Deserialize)]
pub struct AskChange {
    /// Name of the trial.
    pub name: String,
    /// What is asked.
    pub ask: Ask,
    /// Version on which the change was made.
    pub version: i64,
    /// Why, once the plan is sealed.
    pub reason: Option<String>,
}

impl Store {
    /// Changes what is asked. Once sealed, a reason is needed and the change is kept beside the
    /// original.
    ///
    /// # Errors
    /// [`StoreError::Stale`], [`StoreError::Refused`], [`StoreError::Locked`] after the reveal.
    pub fn set_ask(&self, stamp: &Stamp, id: &str, change: &AskChange) -> Result<i64> {
        let name = change.name.trim();
        if name.is_empty() {
            return Err(StoreError::refused("name", "the trial needs a name"));
        }
        for (field, text) in [
            ("name", &change.name),
            ("question", &change.ask.question),
            ("hypothesis", &change.ask.hypothesis),
            ("crop", &change.ask.crop),
            ("end_stage", &change.ask.end_stage),
        ] {
            check_text(field, text)?;
        }
        change.ask.check().map_err(Self::refused)?;
        // Money is turned into the measure's unit here, once, so that the seal holds what is
        // compared.
        let asked = worth::settled(&change.ask).unwrap_or_else(|| change.ask.clone());
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            let part = |name: &str, ask: &Ask| json!({ "name": name, "ask": ask });
            let (now, sent) = (
                part(&trial.plan.name, &trial.plan.ask),
                part(&change.name, &change.ask),
            );
            check_part(trial, change.version, &now, &sent)?;
            let plan = Plan {
                name: name.to_owned(),
                ask: tidy(&asked),
                ..(*trial.plan).clone()
            };
            Self::fits_records(trial, &plan)?;
            if let Some(why) = plan.at_odds() {
                return Err(StoreError::refused("samples_inside", why));
            }
            // What it is called and what it brings may still be put right, with the reason.
            let asked = |c: &Change| !["name", "price of a kg"].contains(&c.field);
            if trial.reveal.is_some() && sealed(&trial.plan, &plan).iter().any(asked) {
                return Err(StoreError::locked(
                    "the key is open: what was asked can no longer change",
                ));
            }
            let reason = change.reason.as_deref();
            t.change_plan(
                stamp,
                &loaded,
                PlanWrite {
                    action: "asked",
                    plan,
                    reason,
                    drops_deal: false,
                    undoes: None,
                },
            )?;
            step_version(t, &loaded)
        })
    }

    /// An error of what is asked, with the field in which it lies.
    fn refused(e: AskError) -> StoreError {
        match e {
            AskError::EndDay(_) => StoreError::refused("end_day", e),
            AskError::Margin
            | AskError::MarginKind { .. }
            | AskError::NoPrice
            | AskError::NotAbove(_) => StoreError::refused("margin", e),
            AskError::CropsInside => StoreError::refused("crops_inside", e),
            AskError::NotOfADay(_) | AskError::JudgedDays { .. } => {
                StoreError::refused("judged_on", e)
            }
            AskError::LooksOn(_) | AskError::NothingToLookAt(_) => {
                StoreError::refused("looks_on", e)
            }
            AskError::Waves | AskError::WavesBySample => StoreError::refused("waves", e),
            AskError::SamplesInside | AskError::WeighSamples => {
                StoreError::refused("samples_inside", e)
            }
            e => StoreError::refused("primary_measure", e),
        }
    }

    /// Records that are there stay what they are.
    fn fits_records(trial: &Trial, plan: &Plan) -> Result<()> {
        let taken = &trial.records;
        let recorded = taken.readings() + taken.weighings() + taken.picks().len() > 0;
        if recorded && trial.plan.ask.crops_inside.len() != plan.ask.crops_inside.len() {
            return Err(StoreError::locked(
                "records are there of the crops as they were; their number is fixed now",
            ));
        }
        if recorded && trial.plan.ask.samples_inside != plan.ask.samples_inside {
            return Err(StoreError::locked(
                "records are there of the samples as they were; their number is fixed now",
            ));
        }
        if !trial.records.picks().is_empty()
            && trial.plan.ask.waves.is_some() != plan.ask.waves.is_some()
        {
            return Err(StoreError::locked(
                "picks are there already: whether it is harvested in waves is fixed now",
            ));
        }
        let kept = |name: &str| {
            plan.ask
                .waves
                .iter()
                .flat_map(|w| &w.grades)
                .any(|g| g.name == name)
        };
        if let Some(pick) = trial
            .records
            .picks()
            .iter()
            .find(|p| !p.grade.is_empty() && !kept(&p.grade))
        {
            let why = format!(
                "{} was picked already; keep its grade, or take those picks back",
                pick.grade
            );
            return Err(StoreError::refused("waves", why));
        }
        if trial.records.weighings() > 0 && trial.plan.ask.weigh_samples != plan.ask.weigh_samples {
            return Err(StoreError::locked(
                "weights are there already, of units or of plants; that is fixed now",
            ));
        }
        Ok(())
    }
}

/// What was asked, without a measure named twice and without blanks about names.
fn tidy(ask: &Ask) -> Ask {
    let mut ask = ask.clone();
    ask.also.retain(|key| *key != ask.primary_measure);
    // Days of a measure that is no longer recorded go with it.
    let recorded: Vec<&str> = ask.measures().iter().map(|m| m.key).collect();
    ask.judged_on
        .retain(|key, days| recorded.contains(&key.as_str()) && !days.is_empty());
    ask.end_stage = ask.end_stage.trim().to_owned();
    ask.waves
        .iter_mut()
        .flat_map(|w| &mut w.grades)
        .for_each(|grade| grade.name = grade.name.trim().to_owned());
    ask.crops_inside
        .iter_mut()
        .for_each(|crop| *crop = crop.trim().to_owned());
    ask
}
