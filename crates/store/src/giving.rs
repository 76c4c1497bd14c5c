//! Writing what was given to single units and treatments, or withheld from them; and giving out the jugs.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::rows::as_word;
use crate::standing::{check_open, check_round, unit};
use crate::store::{Stamp, Store};
use crate::tend::MOST_LETTERS;
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::terms::indices::TreatmentIndex;
use iron_twin_core::terms::words::capitalised;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::{Gift, GivingRecord, Portion, Recipient};
use jiff::Timestamp;
use serde_json::json;

/// To whom something is given, as it is recorded.
#[derive(Debug, Clone, PartialEq)]
pub enum NewRecipient {
    /// All units.
    All,
    /// All units of a treatment.
    Treatment(TreatmentIndex),
    /// The unit with this code.
    Unit(String),
}

/// Something given, or withheld, as it is recorded.
#[derive(Debug, Clone, PartialEq)]
pub struct NewGiving {
    /// Which work it is part of.
    pub job: Job,
    /// To whom.
    pub to: NewRecipient,
    /// What.
    pub gift: Gift,
    /// Days since sowing.
    pub day: u32,
    /// When it was done; None for now. A late entry keeps both instants.
    pub at: Option<Timestamp>,
    /// Whether a second one on the same day was confirmed.
    pub confirmed: bool,
}

fn tidied(gift: &Gift) -> Gift {
    match gift {
        Gift::AsPlanned => Gift::AsPlanned,
        Gift::Own(p) => Gift::Own(Portion {
            what: p.what.trim().to_owned(),
            lot: p.lot.trim().to_owned(),
            batch: p.batch.trim().to_owned(),
            ..p.clone()
        }),
        Gift::Withheld { why } => Gift::Withheld { why: why.trim().to_owned() },
    }
}

fn check(new: &NewGiving) -> Result<()> {
    if !new.job.is_giving() {
        return Err(StoreError::refused("job", format!("nothing is given by {}", new.job.verb())));
    }
    match &new.gift {
        Gift::Own(portion) => portion.check().map_err(|(field, why)| StoreError::refused(field, why)),
        Gift::Withheld { why } if why.trim().is_empty() || why.chars().count() > MOST_LETTERS => {
            Err(StoreError::refused("why", "say why it was not given"))
        }
        Gift::Withheld { .. } | Gift::AsPlanned if new.to == NewRecipient::All => {
            Err(StoreError::refused("to", "a round for all is marked as done, or as left out"))
        }
        _ => Ok(()),
    }
}

/// The same thing to the same units on the same day.
fn is_alike(before: &GivingRecord, (job, to, gift): (Job, Recipient, &Gift), day: u32, round: u32) -> bool {
    let alike = match (&before.gift, gift) {
        (Gift::Own(a), Gift::Own(b)) => a.what.to_lowercase() == b.what.to_lowercase() && a.how == b.how,
        (Gift::AsPlanned, Gift::AsPlanned) | (Gift::Withheld { .. }, Gift::Withheld { .. }) => true,
        _ => false,
    };
    alike && (before.job, before.to, before.head.day, before.head.round) == (job, to, day, round)
}

/// Asks where the same was entered for that day already: two people at one shelf, or one who forgot.
fn ask_if_twice(trial: &Trial, new: &NewGiving, to: Recipient, whom: &str) -> Result<()> {
    let key = (new.job, to, &new.gift);
    let before = trial.records.givings.iter().rfind(|g| is_alike(g, key, new.day, trial.round));
    match before {
        Some(before) if !new.confirmed => Err(StoreError::Unlikely {
            message: format!(
                "{} {} is on record already for {whom} on day {}, by {}. Was it once more?",
                capitalised(new.job.verb()),
                if matches!(new.gift, Gift::Withheld { .. }) { "left out" } else { "done" },
                new.day,
                before.head.who
            ),
        }),
        _ => Ok(()),
    }
}

fn insert(t: &Tx<'_>, stamp: &Stamp, loaded: &Loaded, new: &NewGiving, to: Recipient) -> Result<i64> {
    let (portion, why) = match &new.gift {
        Gift::AsPlanned => (None, None),
        Gift::Own(portion) => (Some(serde_json::to_string(portion)?), None),
        Gift::Withheld { why } => (None, Some(why)),
    };
    let gift = match &new.gift {
        Gift::AsPlanned => "as_planned",
        Gift::Own(_) => "own",
        Gift::Withheld { .. } => "withheld",
    };
    let unit = if let Recipient::Unit(unit) = to { Some(loaded.units[unit]) } else { None };
    let treatment = if let Recipient::Treatment(own) = to { Some(own.get() as i64) } else { None };
    t.execute(
        "INSERT INTO giving (trial_no, job, unit_no, treatment, gift, portion, why, day, round, at_us, entered_at_us, who, changed)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13)",
        rusqlite::params![
            loaded.no,
            as_word(new.job)?,
            unit,
            treatment,
            gift,
            portion,
            why,
            new.day,
            loaded.trial.round,
            new.at.unwrap_or(stamp.now).as_microsecond(),
            stamp.now.as_microsecond(),
            &stamp.who,
            t.count_record(loaded)?,
        ],
    )?;
    Ok(t.last_insert_rowid())
}

impl Store {
    /// Records what was given to a unit, a treatment or all, or withheld from them.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be, [`StoreError::Unlikely`] for a second one on the same day that was not
    /// confirmed, [`StoreError::NotFound`], [`StoreError::Locked`] before the sowing and after the reveal.
    pub fn record_giving(&self, stamp: &Stamp, id: &str, new: &NewGiving) -> Result<()> {
        check(new)?;
        let new = NewGiving { gift: tidied(&new.gift), ..new.clone() };
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            if trial.sown_on.is_none() {
                return Err(StoreError::Locked("sow first: days count from sowing"));
            }
            let (to, whom) = match &new.to {
                NewRecipient::All => (Recipient::All, "all".to_owned()),
                NewRecipient::Treatment(own) if own.get() < trial.plan.treatments() => {
                    (Recipient::Treatment(*own), "this treatment".to_owned())
                }
                NewRecipient::Treatment(own) => {
                    return Err(StoreError::NotFound { what: "treatment", id: own.to_string() });
                }
                NewRecipient::Unit(code) => {
                    let unit = unit(trial, code)?;
                    check_round(trial, unit)?;
                    (Recipient::Unit(unit), trial.units[unit].code.clone())
                }
            };
            ask_if_twice(trial, &new, to, &whom)?;
            t.seal(stamp, &loaded)?;
            let own = insert(t, stamp, &loaded, &new, to)?;
            let done = if matches!(new.gift, Gift::Withheld { .. }) { "without" } else { "of" };
            let action = format!("{} {done} {whom}, day {}", new.job.verb(), new.day);
            let after = row(t, "giving", own)?;
            let entry =
                Entry { trial: id, action: &action, entity: "giving", id: &own.to_string(), before: None, after };
            append(t, stamp, entry)
        })
    }

    /// Gives out the jugs: from here on everybody who records sees which codes are filled from one jug, without what is in it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the deal.
    pub fn give_out_jugs(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            if loaded.trial.deal.is_none() {
                return Err(StoreError::Locked("deal the treatments first: until then nobody knows what goes where"));
            }
            if loaded.trial.jugs_given_out {
                return Ok(());
            }
            t.count_record(&loaded)?;
            t.execute(
                "UPDATE trial SET jugs_given_out_at_us = ?2 WHERE no = ?1",
                (loaded.no, stamp.now.as_microsecond()),
            )?;
            let after = Some(json!({ "given_out": true }));
            append(t, stamp, Entry { trial: id, action: "gave out the jugs", entity: "jugs", id, before: None, after })
        })
    }
}
