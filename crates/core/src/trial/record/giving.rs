//! Something given to a unit, to those of a treatment, or to all; or withheld from them.

use super::head::Head;
use super::kind::{Desk, Heading, MOST_LETTERS, Record};
use super::refusal::{Of, Refusal};
use crate::catalogue::deeds::Job;
use crate::trial::Trial;
use crate::trial::application::How;
use crate::trial::records::{Kept, RecordHead, Recorded, Records};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::role::Role;
use iron_twin_terms::words::capitalised;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// Something given to a unit, to those of a treatment, or to all; or withheld from them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Giving {
    /// Which work it is part of: feeding, watering, giving beside the water.
    pub job: Job,
    /// To whom.
    pub to: GivenTo,
    /// What.
    pub gift: Gift,
}

/// Who was given something.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum GivenTo {
    /// All units.
    All,
    /// All units of the treatment with this index; only who may know the key can say so.
    Treatment(TreatmentIndex),
    /// All that are filled from the jug with this number, as the treatment that it stands for.
    Jug(usize),
    /// The unit of the head.
    Unit,
}

/// What was given, or that it was not.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Gift {
    /// What the plan has for it on that day.
    AsPlanned,
    /// Something of its own.
    Own(Portion),
    /// It was left out when the others got theirs, for this reason.
    Withheld(String),
}

/// So much of something, given in some way.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
// The solution bench has portions of its own.
#[cfg_attr(feature = "schema", schema(as = GivenPortion))]
#[serde(deny_unknown_fields)]
pub struct Portion {
    /// An entry of Stores, or the grower's own words.
    pub what: String,
    /// How.
    #[serde(default)]
    pub how: How,
    /// How much each unit got; null where nobody measured it.
    #[serde(default)]
    pub amount: Option<f64>,
    /// Of what the amount counts.
    #[serde(default)]
    pub unit: PortionUnit,
    /// Lot on its label.
    #[serde(default)]
    pub lot: String,
    /// Batch of the mix it came from, as the grower counts them.
    #[serde(default)]
    pub batch: String,
}

/// What the amount of a portion counts.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum PortionUnit {
    /// Millilitres.
    #[default]
    #[serde(rename = "mL")]
    Millilitres,
    /// Grams.
    #[serde(rename = "g")]
    Grams,
}

impl PortionUnit {
    /// Its sign.
    #[must_use]
    pub fn sign(self) -> &'static str {
        match self {
            Self::Millilitres => "mL",
            Self::Grams => "g",
        }
    }
}

/// Most of anything that a unit is given at once, mL or g.
pub const MOST_PORTION: f64 = crate::trial::feed::MOST_ML_A_UNIT;

impl Portion {
    /// Checks its words and its figure.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn check(&self) -> Result<(), (&'static str, String)> {
        let most = crate::catalogue::conditions::MOST_LETTERS;
        if self.what.trim().is_empty() {
            return Err(("what", "say what was given".into()));
        }
        for (field, words) in [
            ("what", &self.what),
            ("lot", &self.lot),
            ("batch", &self.batch),
        ] {
            if words.chars().count() > most {
                return Err((field, format!("at most {most} letters")));
            }
        }
        match self.amount {
            Some(x) if !(x > 0.0 && x <= MOST_PORTION) => Err((
                "amount",
                format!(
                    "must lie above 0 and not beyond {MOST_PORTION} {}, got {x}",
                    self.unit.sign()
                ),
            )),
            _ => Ok(()),
        }
    }
}

impl Kept for Giving {
    const KIND: &'static str = "giving";

    fn order(own: &Recorded<Self>) -> (u32, Timestamp) {
        (own.head.day, Timestamp::UNIX_EPOCH)
    }
}

impl Records {
    /// What was given to single units and treatments, or withheld from them, by day.
    #[must_use]
    pub fn givings(&self) -> &[Recorded<Giving>] {
        self.of()
    }
}

/// Who was given something, unit and all.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Recipient {
    /// All units.
    All,
    /// All units of a treatment.
    Treatment(TreatmentIndex),
    /// One unit.
    Unit(UnitIndex),
}

impl Recorded<Giving> {
    /// Something given that stands in no file.
    #[must_use]
    pub fn given(head: RecordHead, job: Job, to: Recipient, gift: Gift) -> Self {
        let (unit, to) = match to {
            Recipient::All => (None, GivenTo::All),
            Recipient::Treatment(own) => (None, GivenTo::Treatment(own)),
            Recipient::Unit(unit) => (Some(unit), GivenTo::Unit),
        };
        Self::new(unit, head, Giving { job, to, gift })
    }

    /// To whom. What was of a unit of a deal that no longer stands is nobody's.
    #[must_use]
    pub fn whom(&self) -> Option<Recipient> {
        match self.to {
            GivenTo::All => Some(Recipient::All),
            GivenTo::Treatment(own) => Some(Recipient::Treatment(own)),
            // As it was written a jug stands for its treatment.
            GivenTo::Jug(_) => None,
            GivenTo::Unit => self.unit.map(Recipient::Unit),
        }
    }
}

impl Giving {
    /// The same thing to the same units on the same day.
    fn is_alike(&self, before: &Recorded<Giving>, head: &Head) -> bool {
        let alike = match (&before.gift, &self.gift) {
            (Gift::Own(a), Gift::Own(b)) => {
                a.what.to_lowercase() == b.what.to_lowercase() && a.how == b.how
            }
            (Gift::AsPlanned, Gift::AsPlanned) | (Gift::Withheld(_), Gift::Withheld(_)) => true,
            _ => false,
        };
        alike
            && (before.job, before.to, before.unit) == (self.job, self.to, head.unit)
            && (before.head.day, before.head.round) == (head.day, head.round)
    }

    /// To whom, as everybody may be told.
    fn said_to(&self, trial: &Trial, head: &Head) -> String {
        match self.to {
            GivenTo::All => "all".to_owned(),
            GivenTo::Treatment(_) | GivenTo::Jug(_) => "this treatment".to_owned(),
            GivenTo::Unit => head.code(trial).to_owned(),
        }
    }

    fn tidy(&mut self) -> Result<(), Refusal> {
        match &mut self.gift {
            Gift::AsPlanned => {}
            Gift::Own(portion) => {
                portion
                    .check()
                    .map_err(|(field, why)| Refusal::wrong(field, why))?;
                for words in [&mut portion.what, &mut portion.lot, &mut portion.batch] {
                    *words = words.trim().to_owned();
                }
            }
            Gift::Withheld(why) => {
                *why = why.trim().to_owned();
                if why.is_empty() || why.chars().count() > MOST_LETTERS {
                    return Err(Refusal::wrong("why", "say why it was not given"));
                }
            }
        }
        Ok(())
    }

    /// By jug it is of the treatment that is in it; by treatment only who may know the key can say
    /// so.
    fn resolve(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let trial = desk.trial;
        let sees_key = desk.head.role == Role::Owner || trial.reveal.is_some();
        match self.to {
            GivenTo::Treatment(own) if own.get() >= trial.plan.treatments() => {
                Err(Refusal::NotFound {
                    what: "treatment",
                    id: own.to_string(),
                })
            }
            GivenTo::Treatment(_) if !sees_key => Err(Refusal::Sealed),
            GivenTo::Jug(_) if !sees_key && !trial.jugs_given_out => Err(Refusal::Sealed),
            GivenTo::Jug(number) => {
                let unknown = || Refusal::NotFound {
                    what: "jug",
                    id: number.to_string(),
                };
                let order = trial.jug_order();
                self.to = GivenTo::Treatment(
                    *number
                        .checked_sub(1)
                        .and_then(|place| order.get(place))
                        .ok_or_else(unknown)?,
                );
                Ok(())
            }
            GivenTo::Unit if desk.head.unit.is_none() => {
                Err(Refusal::wrong("unit", "say to which unit"))
            }
            GivenTo::All | GivenTo::Treatment(_) if desk.head.unit.is_some() => {
                Err(Refusal::wrong("unit", "this is given to several"))
            }
            _ => Ok(()),
        }
    }
}

impl Trial {
    /// What the jugs of the round that it is in hold, in the order of their numbers: that of the
    /// first code that each fills, which is drawn at random, and not the order of giving, which
    /// would name the control.
    #[must_use]
    pub fn jug_order(&self) -> Vec<TreatmentIndex> {
        let mut order = Vec::new();
        for (_, unit) in self.each_unit().filter(|(_, u)| self.is_now(u)) {
            if !order.contains(&unit.treatment) {
                order.push(unit.treatment);
            }
        }
        order
    }
}

impl Record for Giving {
    const OF: Of = Of::UnitOrTrial;
    const NAMES_TREATMENTS: bool = true;
    const HEADING: Heading = Heading::Given;

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let (trial, head) = (desk.trial, desk.head);
        if !self.job.is_giving() {
            return Err(Refusal::wrong(
                "job",
                format!("nothing is given by {}", self.job.verb()),
            ));
        }
        self.tidy()?;
        if self.to == GivenTo::All && !matches!(self.gift, Gift::Own(_)) {
            return Err(Refusal::wrong(
                "to",
                "a round for all is marked as done, or as left out",
            ));
        }
        self.resolve(desk)?;
        if let Some(unit) = head.unit {
            super::head::check_round(trial, unit)?;
        }
        match trial
            .records
            .givings()
            .iter()
            .rfind(|g| self.is_alike(g, head))
        {
            Some(before) => desk.ask(format!(
                "{} {} was already recorded for {} on day {}, by {}. Was it once more?",
                capitalised(self.job.verb()),
                if matches!(self.gift, Gift::Withheld(_)) {
                    "left out"
                } else {
                    "done"
                },
                self.said_to(trial, head),
                head.day,
                before.head.who
            )),
            None => Ok(()),
        }
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        let done = if matches!(self.gift, Gift::Withheld(_)) {
            "without"
        } else {
            "of"
        };
        format!(
            "{} {done} {}, day {}",
            self.job.verb(),
            self.said_to(trial, head),
            head.day
        )
    }
}
