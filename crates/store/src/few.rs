//! Loading the records of which a trial has few: where one is new, all of its kind are read.

use crate::error::Result;
use crate::rows::{astray, rows, unreadable, word};
use crate::time::instant;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_core::trial::decided::{Decides, DecisionRecord};
use iron_twin_core::trial::records::{AnswerRecord, LookAnswer, LookRecord, PickRecord, WeatherRecord};
use iron_twin_core::trial::records::{
    CropNumber, Expects, GapWhy, Gift, GivingRecord, GuessRecord, LineUpRecord, MixRecord, NoteRecord, Recipient,
    RecordHead, SampleNumber,
};
use iron_twin_core::trial::records::{GoneRecord, GoneWhy};
use rusqlite::{Connection, Row};
use std::collections::HashMap;
use std::sync::Arc;

/// Names that come again and again, each kept once.
#[derive(Default)]
pub(crate) struct Names(HashMap<String, Arc<str>>);

impl Names {
    pub(crate) fn of(&mut self, name: &str) -> Arc<str> {
        if let Some(own) = self.0.get(name) {
            return Arc::clone(own);
        }
        let own: Arc<str> = Arc::from(name);
        self.0.insert(name.to_owned(), Arc::clone(&own));
        own
    }
}

/// The head of a record: its first nine columns.
pub(crate) fn head_of(r: &Row<'_>, names: &mut Names) -> rusqlite::Result<RecordHead> {
    let instrument: Option<Arc<str>> = r.get_ref(7)?.as_str_or_null()?.map(|name| names.of(name));
    Ok(RecordHead {
        crop: CropNumber::new(r.get(0)?),
        sample: SampleNumber::new(r.get(1)?),
        day: r.get(2)?,
        round: r.get(3)?,
        at: instant(r.get(4)?),
        entered_at: instant(r.get(5)?),
        who: names.of(r.get_ref(6)?.as_str()?),
        instrument,
        version: r.get(8)?,
    })
}

/// Units put in order by judges.
pub(crate) fn line_ups(t: &Connection, trial: i64, places: &HashMap<i64, UnitIndex>) -> Result<Vec<LineUpRecord>> {
    let mut names = Names::default();
    let sql = "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, judge, places
               FROM line_up WHERE trial_no = ?1 ORDER BY day, at_us, no";
    rows(t, sql, [trial], |r| {
        let order: Vec<Vec<i64>> = serde_json::from_str(r.get_ref(10)?.as_str()?).map_err(unreadable)?;
        // Units of a deal that no longer stands are nobody's.
        let own = |tied: Vec<i64>| tied.iter().filter_map(|no| places.get(no).copied()).collect();
        Ok(LineUpRecord {
            head: head_of(r, &mut names)?,
            judge: r.get(9)?,
            order: order.into_iter().map(own).collect(),
        })
    })
}

/// What people expect.
pub(crate) fn guesses(t: &Connection, trial: i64, places: &HashMap<i64, UnitIndex>) -> Result<Vec<GuessRecord>> {
    let mut names = Names::default();
    let sql = "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, name, treatment, unit_no, by_percent
               FROM guess WHERE trial_no = ?1 ORDER BY at_us, no";
    let read = |r: &Row<'_>| {
        let (treatment, unit): (Option<u32>, Option<i64>) = (r.get(10)?, r.get(11)?);
        let expects = match (treatment, unit) {
            (Some(treatment), _) => Expects::Best(TreatmentIndex(treatment as usize)),
            (None, None) => Expects::NoDifference,
            // Units of a deal that no longer stands are nobody's.
            (None, Some(no)) => match places.get(&no) {
                Some(unit) => Expects::Unit(*unit),
                None => return Ok(None),
            },
        };
        Ok(Some(GuessRecord { head: head_of(r, &mut names)?, name: r.get(9)?, expects, by_percent: r.get(12)? }))
    };
    Ok(rows(t, sql, [trial], read)?.into_iter().flatten().collect())
}

/// What was given to units and treatments, or withheld from them.
pub(crate) fn givings(
    t: &Connection,
    trial: i64,
    places: &HashMap<i64, UnitIndex>,
    names: &mut Names,
) -> Result<Vec<GivingRecord>> {
    let sql = "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, job, unit_no, treatment, portion, why
               FROM giving WHERE trial_no = ?1 ORDER BY day, no";
    let read = |r: &Row<'_>| {
        let (unit, treatment): (Option<i64>, Option<u32>) = (r.get(10)?, r.get(11)?);
        let to = match (unit, treatment) {
            // Units of a deal that no longer stands are nobody's.
            (Some(no), _) => match places.get(&no) {
                Some(unit) => Recipient::Unit(*unit),
                None => return Ok(None),
            },
            (None, Some(treatment)) => Recipient::Treatment(TreatmentIndex(treatment as usize)),
            (None, None) => Recipient::All,
        };
        let (portion, why): (Option<String>, Option<String>) = (r.get(12)?, r.get(13)?);
        let gift = match (portion, why) {
            (Some(portion), _) => Gift::Own(serde_json::from_str(&portion).map_err(unreadable)?),
            (None, Some(why)) => Gift::Withheld { why },
            (None, None) => Gift::AsPlanned,
        };
        Ok(Some(GivingRecord { head: head_of(r, names)?, job: word::<Job>(r.get(9)?)?, to, gift }))
    };
    Ok(rows(t, sql, [trial], read)?.into_iter().flatten().collect())
}

/// Notes on units and on the whole trial.
pub(crate) fn notes(
    t: &Connection,
    trial: i64,
    places: &HashMap<i64, UnitIndex>,
    names: &mut Names,
) -> Result<Vec<NoteRecord>> {
    let sql = "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, unit_no, text
               FROM note WHERE trial_no = ?1 ORDER BY day, at_us, no";
    let read = |r: &Row<'_>| {
        let unit: Option<i64> = r.get(9)?;
        Ok(NoteRecord {
            head: head_of(r, names)?,
            unit: unit.and_then(|no| places.get(&no).copied()),
            text: r.get(10)?,
        })
    };
    rows(t, sql, [trial], read)
}

/// Mixes as they were made.
pub(crate) fn mixes(t: &Connection, trial: i64, names: &mut Names, treatments: usize) -> Result<Vec<MixRecord>> {
    let sql =
        "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, treatment, volume_l, feed_total, ec_ms_per_cm,
                 ph, batch, temperature_c, computed_ec_ms_per_cm, gap_why, gap_note, portions
               FROM mix WHERE trial_no = ?1 ORDER BY at_us, no";
    let read = |r: &Row<'_>| {
        let why: String = r.get(17)?;
        let treatment = TreatmentIndex(r.get::<_, u32>(9)? as usize);
        if treatment.get() >= treatments {
            return Err(astray("treatment", treatment));
        }
        Ok(MixRecord {
            head: head_of(r, names)?,
            treatment,
            volume_l: r.get(10)?,
            feed_total: r.get(11)?,
            ec_ms_per_cm: r.get(12)?,
            ph: r.get(13)?,
            batch: r.get(14)?,
            temperature_c: r.get(15)?,
            computed_ec_ms_per_cm: r.get(16)?,
            gap_why: (!why.is_empty()).then(|| word::<GapWhy>(why)).transpose()?,
            gap_note: r.get(18)?,
            portions: serde_json::from_str(r.get_ref(19)?.as_str()?).map_err(unreadable)?,
        })
    };
    rows(t, sql, [trial], read)
}

/// What was cut or picked before one harvest at the end, or in its place.
pub(crate) fn picks(
    t: &Connection,
    trial: i64,
    places: &HashMap<i64, UnitIndex>,
    names: &mut Names,
) -> Result<Vec<PickRecord>> {
    let sql =
        "SELECT crop, sample, day, round, at_us, entered_at_us, who, instrument, 1, unit_no, gross_g, tare_g, net_g,
                      pieces, grade, aside
               FROM pick WHERE trial_no = ?1 ORDER BY day, at_us, no";
    let read = |r: &Row<'_>| {
        // Of a deal that no longer stands.
        let Some(&unit) = places.get(&r.get(9)?) else { return Ok(None) };
        Ok(Some(PickRecord {
            head: head_of(r, names)?,
            unit,
            gross_g: r.get(10)?,
            tare_g: r.get(11)?,
            net_g: r.get(12)?,
            pieces: r.get(13)?,
            grade: r.get(14)?,
            aside: r.get(15)?,
        }))
    };
    Ok(rows(t, sql, [trial], read)?.into_iter().flatten().collect())
}

/// Samples that are not there, or no longer.
pub(crate) fn gone(
    t: &Connection,
    trial: i64,
    places: &HashMap<i64, UnitIndex>,
    names: &mut Names,
) -> Result<Vec<GoneRecord>> {
    let sql = "SELECT 0, sample, day, round, at_us, entered_at_us, who, NULL, 1, unit_no, why, note
               FROM sample_gone WHERE trial_no = ?1 ORDER BY day, at_us, no";
    let read = |r: &Row<'_>| {
        // Units of a deal that no longer stands are nobody's.
        let Some(&unit) = places.get(&r.get(9)?) else { return Ok(None) };
        Ok(Some(GoneRecord { head: head_of(r, names)?, unit, why: word::<GoneWhy>(r.get(10)?)?, note: r.get(11)? }))
    };
    Ok(rows(t, sql, [trial], read)?.into_iter().flatten().collect())
}

/// Looks that were had before the end.
pub(crate) fn looks(t: &Connection, trial: i64, names: &mut Names) -> Result<Vec<LookRecord>> {
    let sql = "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, measure, answer
               FROM look WHERE trial_no = ?1 ORDER BY day, at_us, no";
    rows(t, sql, [trial], |r| {
        Ok(LookRecord { head: head_of(r, names)?, measure: r.get(9)?, answer: word::<LookAnswer>(r.get(10)?)? })
    })
}

/// The weather outdoors.
pub(crate) fn weather(t: &Connection, trial: i64, names: &mut Names) -> Result<Vec<WeatherRecord>> {
    let sql = "SELECT 0, 0, day, round, at_us, entered_at_us, who, NULL, 1, rain_mm, low_c, high_c
               FROM weather WHERE trial_no = ?1 ORDER BY round, day";
    rows(t, sql, [trial], |r| {
        Ok(WeatherRecord { head: head_of(r, names)?, rain_mm: r.get(9)?, low_c: r.get(10)?, high_c: r.get(11)? })
    })
}

/// What the grower says to findings.
pub(crate) fn answers(t: &Connection, trial: i64) -> Result<Vec<AnswerRecord>> {
    let sql = "SELECT code, text, who, at_us FROM finding_answer WHERE trial_no = ?1 ORDER BY code";
    rows(t, sql, [trial], |r| {
        Ok(AnswerRecord { code: r.get(0)?, text: r.get(1)?, who: r.get(2)?, at: instant(r.get(3)?) })
    })
}

/// Columns of a decision, as [`decision`] reads them.
pub(crate) const DECISION: &str = "d.decides, d.treatment, d.units, d.reason, d.who, d.at_us";

pub(crate) fn decision(r: &Row<'_>) -> rusqlite::Result<DecisionRecord> {
    Ok(DecisionRecord {
        decides: word::<Decides>(r.get(0)?)?,
        treatment: r.get(1)?,
        units: r.get(2)?,
        reason: r.get(3)?,
        who: r.get(4)?,
        at: instant(r.get(5)?),
    })
}

/// Decisions of a trial, oldest first.
pub(crate) fn decisions(t: &Connection, trial: i64) -> Result<Vec<DecisionRecord>> {
    rows(t, &format!("SELECT {DECISION} FROM decision d WHERE trial_no = ?1 ORDER BY no"), [trial], decision)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_kept_once() {
        let mut names = Names::default();
        assert!(Arc::ptr_eq(&names.of("kim"), &names.of("kim")));
    }
}
