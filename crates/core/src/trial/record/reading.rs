//! A reading of one unit on one day. There are millions of them, so that they have a narrow table
//! of their own in the file; everything else about them is as of other kinds.

use super::head::Head;
use super::kind::{Desk, Heading, Record};
use super::refusal::{Of, Refusal};
use crate::catalogue::own::is_own;
use crate::catalogue::readings::{self, Credible, is_after_cut, is_of_solution, level};
use crate::trial::Trial;
use crate::trial::records::Kept;
use crate::trial::tank_day::TankDay;
use crate::trial::uptake::{NoUptake, Strength, uptake};
use iron_twin_terms::indices::UnitIndex;
use serde::{Deserialize, Serialize};

/// A reading of one unit on one day, or its correction.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Reading {
    /// Key of the reading.
    pub reading: String,
    /// The value; null marks it as missing.
    pub value: Option<f64>,
    /// Whether it stands beside what was read on that day before, and does not correct it.
    #[serde(default)]
    pub again: bool,
}

impl Kept for Reading {
    const KIND: &'static str = "reading";
}

/// A value as the diary and questions tell it.
fn words(value: Option<f64>) -> String {
    value.map_or_else(|| "missing".into(), |v| v.to_string())
}

impl Reading {
    /// Whether it is held against other records of its unit, and so wants the trial with all of
    /// them.
    #[must_use]
    pub fn wants_records(&self) -> bool {
        self.reading == level::READING.key || is_after_cut(&self.reading)
    }

    /// The reading of the catalogue; of those of a grower's own only what the trial records.
    fn known(&self, trial: &Trial) -> Result<&'static readings::Reading, Refusal> {
        let asked = || {
            trial
                .plan
                .ask
                .readings()
                .into_iter()
                .find(|r| r.key == self.reading)
        };
        let known = if is_own(&self.reading) {
            asked()
        } else {
            readings::find(&self.reading)
        };
        known.ok_or_else(|| {
            Refusal::wrong("reading", format!("there is no reading '{}'", self.reading))
        })
    }

    /// Refuses one of a part of the unit of which it is not taken.
    fn check_part(&self, trial: &Trial, head: &Head, key: &str) -> Result<(), Refusal> {
        let ask = &trial.plan.ask;
        let is_column = ask
            .columns()
            .iter()
            .any(|(r, crop)| r.key == key && *crop == head.crop);
        if !is_column && ask.readings().iter().any(|r| r.key == key) {
            let why = "this is recorded of another crop of the unit, or of the unit as a whole";
            return Err(Refusal::wrong("crop", why));
        }
        let by_sample = ask.is_by_sample(key);
        if head.sample.is_some() == by_sample
            && head.sample.is_none_or(|s| s.get() <= ask.samples_inside)
        {
            return Ok(());
        }
        let why = if by_sample {
            format!(
                "this is read of each of the {} samples in a unit; say of which",
                ask.samples_inside
            )
        } else {
            "this is read of the unit as a whole".to_owned()
        };
        Err(Refusal::wrong("sample", why))
    }
}

/// What a unit holds more of than was left and poured in, as far as that is recorded: asked about.
fn asked_of_level(trial: &Trial, unit: UnitIndex, day: u32, litres: f64) -> Option<String> {
    let mut days = trial.of_unit(unit).tank_days();
    days.retain(|d| d.day < day);
    days.push(TankDay {
        day,
        level_l: Some(litres),
        ..TankDay::default()
    });
    match uptake(&days, Strength::UNKNOWN) {
        Err(why @ NoUptake::MoreThanGiven { day: at, .. }) if at == day => {
            Some(format!("{litres} L left: {why}"))
        }
        _ => None,
    }
}

impl Record for Reading {
    const OF: Of = Of::Part;
    const HEADING: Heading = Heading::Readings;

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let (trial, head, unit) = (desk.trial, desk.head, desk.unit()?);
        let reading = self.known(trial)?;
        self.check_part(trial, head, reading.key)?;
        desk.check_sample_stands()?;
        if let Some(value) = self.value {
            match reading.check(value, desk.read.earlier) {
                Credible::No(why) => return Err(Refusal::wrong("value", why)),
                Credible::Ask(asked) => desk.ask(asked)?,
                Credible::Yes => {}
            }
            if reading.key == level::READING.key
                && let Some(asked) = asked_of_level(trial, unit, head.day, value)
            {
                desk.ask(asked)?;
            }
            if is_after_cut(reading.key)
                && let Some(cut) = trial.cut_g(unit, head.crop).filter(|cut| value > *cut)
            {
                desk.ask(format!(
                    "{value} g, and {cut} g were cut: a decimal point, or the wrong letter?"
                ))?;
            }
        }
        // One more of the same day corrects nothing.
        if self.again {
            return Ok(());
        }
        let what = format!("{} of {}", self.reading, desk.code());
        desk.check_version(what, words(desk.read.that_day), words(self.value))
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        let name = readings::find(&self.reading).map_or(self.reading.as_str(), |r| r.name);
        let of = trial
            .plan
            .ask
            .crop_inside(head.crop)
            .map_or_else(String::new, |crop| format!(", {crop}"));
        let each = head
            .sample
            .map_or_else(String::new, |sample| format!(" {}", sample.get()));
        format!(
            "{name} of {}{each}{of}: {}",
            head.code(trial),
            words(self.value)
        )
    }

    // What stands of a solution is kept from who grades: it would tell them what they grade.
    fn unseen(&self, refusal: Refusal, trial: &Trial, who: &str) -> Refusal {
        if !is_of_solution(&self.reading) || trial.shows_solution(who) {
            return refusal;
        }
        match refusal {
            Refusal::Unlikely { .. } => Refusal::Unlikely {
                asked: "That is unusual, or far from what was read before. Is it right?".into(),
            },
            Refusal::Stale { what, sent, .. } => Refusal::Stale {
                what,
                stored: "another value".into(),
                sent,
            },
            other => other,
        }
    }
}
