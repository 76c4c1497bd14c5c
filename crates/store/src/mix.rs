//! Writing the feed plan, mixes, and the opening of the pouring sheet.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::plan::{PlanWrite, check_part, check_text, step_version};
use crate::rows::as_word;
use crate::store::{Stamp, Store};
use iron_twin_core::catalogue::readings;
use iron_twin_core::catalogue::readings::Credible;
use iron_twin_core::mix::record;
use iron_twin_core::terms::indices::TreatmentIndex;
use iron_twin_core::trial::feed::FeedPlan;
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::records::{GapWhy, Portioned};
use serde::Deserialize;
use serde_json::json;

/// A mix as it is recorded.
#[derive(Debug, Clone, PartialEq, Default, Deserialize)]
pub struct NewMix {
    /// Index of the treatment in the sheet.
    pub treatment: TreatmentIndex,
    /// Litres made.
    pub volume_l: f64,
    /// mL or g of feed measured out.
    pub feed_total: f64,
    /// Measured EC, mS/cm at 25 °C.
    pub ec_ms_per_cm: Option<f64>,
    /// Measured pH.
    pub ph: Option<f64>,
    /// Days since sowing.
    pub day: u32,
    /// Whether an unlikely value was confirmed.
    pub confirmed: bool,
    /// Batch, as the grower counts them.
    pub batch: String,
    /// Temperature of the solution, °C.
    pub temperature_c: Option<f64>,
    /// What the recipe gives, mS/cm at 25 °C.
    pub computed_ec_ms_per_cm: Option<f64>,
    /// Why meter and computation part.
    pub gap_why: Option<GapWhy>,
    /// What was found, in own words.
    pub gap_note: String,
    /// What went in.
    pub portions: Vec<Portioned>,
}

fn check(mix: &NewMix) -> Result<()> {
    let amounts = [("volume_l", mix.volume_l, 1e-3), ("feed_total", mix.feed_total, 0.0)];
    for (field, value, least) in amounts {
        if !(value >= least && value <= 1e5) {
            return Err(StoreError::refused(field, format!("must lie between {least} and 100000, got {value}")));
        }
    }
    if mix.batch.chars().count() > record::MOST_LETTERS {
        return Err(StoreError::refused("batch", format!("at most {} letters", record::MOST_LETTERS)));
    }
    check_text("gap_note", &mix.gap_note)?;
    if let Some(t) = mix.temperature_c.filter(|t| !(0.0..=50.0).contains(t)) {
        return Err(StoreError::refused("temperature_c", format!("must lie between 0 and 50, got {t}")));
    }
    record::check(&mix.portions).map_err(|e| StoreError::refused("portions", e))?;
    for (field, reading, value) in
        [("ec_ms_per_cm", &readings::ec::READING, mix.ec_ms_per_cm), ("ph", &readings::ph::READING, mix.ph)]
    {
        match value.map(|v| reading.check(v, None)) {
            Some(Credible::No(message)) => return Err(StoreError::Refused { field, message }),
            Some(Credible::Ask(message)) if !mix.confirmed => return Err(StoreError::Unlikely { message }),
            _ => {}
        }
    }
    Ok(())
}

/// What went in, without blanks about names.
fn tidy(portions: &[Portioned]) -> Vec<Portioned> {
    let tidied = portions.iter().map(|p| Portioned {
        name: p.name.trim().to_owned(),
        lot: p.lot.trim().to_owned(),
        ..p.clone()
    });
    tidied.collect()
}

impl Store {
    /// Sets the feed as its label gives it.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Stale`].
    pub fn set_feed(&self, stamp: &Stamp, id: &str, feed: &FeedPlan, version: i64) -> Result<i64> {
        feed.check().map_err(|e| StoreError::refused("feed", e))?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            check_part(&loaded.trial, version, &loaded.trial.plan.feed, feed)?;
            let plan = Plan { feed: feed.clone(), ..(*loaded.trial.plan).clone() };
            let write = PlanWrite { action: "set the feed", plan, reason: None, drops_deal: false, undoes: None };
            t.change_plan(stamp, &loaded, write)?;
            step_version(t, &loaded)
        })
    }

    /// Records a mix.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Unlikely`], [`StoreError::NotFound`].
    pub fn record_mix(&self, stamp: &Stamp, id: &str, mix: &NewMix) -> Result<()> {
        check(mix)?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            let treatment = trial
                .plan
                .sheet
                .get(mix.treatment)
                .ok_or_else(|| StoreError::NotFound { what: "treatment", id: mix.treatment.to_string() })?;
            let now = stamp.now.as_microsecond();
            t.execute(
                "INSERT INTO mix (trial_no, treatment, volume_l, feed_total, ec_ms_per_cm, ph, day, round, at_us,
                   entered_at_us, who, changed, batch, temperature_c, computed_ec_ms_per_cm, gap_why, gap_note, portions)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
                rusqlite::params![
                    loaded.no,
                    mix.treatment.get() as i64,
                    mix.volume_l,
                    mix.feed_total,
                    mix.ec_ms_per_cm,
                    mix.ph,
                    mix.day,
                    trial.round,
                    now,
                    &stamp.who,
                    t.count_record(&loaded)?,
                    mix.batch.trim(),
                    mix.temperature_c,
                    mix.computed_ec_ms_per_cm,
                    mix.gap_why.map(as_word).transpose()?.unwrap_or_default(),
                    mix.gap_note.trim(),
                    serde_json::to_string(&tidy(&mix.portions))?,
                ],
            )?;
            let own = t.last_insert_rowid();
            let action = format!("mixed {}", treatment.name);
            let after = row(t, "mix", own)?;
            let entry = Entry { trial: id, action: &action, entity: "mix", id: &own.to_string(), before: None, after };
            append(t, stamp, entry)
        })
    }

    /// Notes that the pouring sheet, which tells the key, was opened.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] before the deal.
    pub fn open_pouring_sheet(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.deal.is_none() {
                return Err(StoreError::Locked("deal the treatments first: until then nobody knows what goes where"));
            }
            if trial.reveal.is_some() {
                return Ok(());
            }
            t.count_record(&loaded)?;
            t.execute("UPDATE trial SET pouring_sheets = pouring_sheets + 1 WHERE no = ?1", [loaded.no])?;
            let after = Some(json!({ "opened": true }));
            let action = "opened the pouring sheet";
            append(t, stamp, Entry { trial: id, action, entity: "pouring_sheet", id, before: None, after })
        })
    }
}
