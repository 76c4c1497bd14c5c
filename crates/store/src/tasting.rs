//! Writing blind tastings: what is served to whom, what was answered, and when it was closed.

mod begun;

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::rows::{rows, unreadable, word};
use crate::store::{Stamp, Store};
use crate::time::instant;
use crate::transaction::Tx;
use iron_twin_core::trial::Trial;
use iron_twin_core::weigh::tasting::{Answer, Cup, Seat, Setting, Tasting, Way};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use rusqlite::{Connection, OptionalExtension, Row};
use serde_json::json;

/// A tasting as it is kept.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptTasting {
    /// Its number.
    pub no: i64,
    /// Id of the trial.
    pub trial: String,
    /// It.
    pub is: Tasting,
    /// What opens each seat on a phone, seat by seat; None for covered cups.
    pub tokens: Vec<Option<String>>,
}

/// How a tasting is begun.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Begun {
    /// What it is to be.
    pub setting: Setting,
    /// Hours for which answers are taken.
    pub hours: u32,
    /// Day since sowing on which it was cut; None for today.
    pub day: u32,
    /// Orders and codes are dealt from this.
    pub seed: u64,
}

/// Longest that answers are taken, hours.
pub const MOST_HOURS: u32 = 24 * 7;
/// Most tastings of a trial.
const MOST_TASTINGS: i64 = 60;
/// Longest name of a taster.
const MOST_NAME: usize = 80;

/// A seat's row: what it is, and its token.
fn seat_of(r: &Row<'_>) -> rusqlite::Result<(Seat, Option<String>)> {
    let answer: Option<String> = r.get("answer")?;
    let seat = Seat {
        seat: r.get("seat")?,
        cups: serde_json::from_str(r.get_ref("cups")?.as_str()?).map_err(unreadable)?,
        answer: answer
            .map(|text| serde_json::from_str(&text))
            .transpose()
            .map_err(unreadable)?,
        known: r.get("known")?,
        taster: r.get("taster")?,
    };
    Ok((seat, r.get("token")?))
}

/// A tasting by the condition that finds it.
fn tastings(
    t: &Connection,
    condition: &str,
    key: impl rusqlite::ToSql,
) -> Result<Vec<KeptTasting>> {
    let sql = format!(
        "SELECT tasting.*, trial.id AS trial_id FROM tasting JOIN trial ON trial.no = trial_no \
         WHERE {condition} ORDER BY tasting.no"
    );
    let read = |r: &Row<'_>| {
        let (attributes, treatments): (String, String) =
            (r.get("attributes")?, r.get("treatments")?);
        let closed: Option<i64> = r.get("closed_at_us")?;
        let is = Tasting {
            asked: word(r.get("asked")?)?,
            way: word(r.get("way")?)?,
            attributes: serde_json::from_str(&attributes).map_err(unreadable)?,
            of: serde_json::from_str(&treatments).map_err(unreadable)?,
            seats: Vec::new(),
            begun_at: instant(r.get("begun_at_us")?),
            until: instant(r.get("until_us")?),
            closed_at: closed.map(instant),
        };
        Ok(KeptTasting {
            no: r.get("no")?,
            trial: r.get("trial_id")?,
            is,
            tokens: Vec::new(),
        })
    };
    let mut found = rows(t, &sql, [key], read)?;
    for own in &mut found {
        let seats = rows(
            t,
            "SELECT * FROM seat WHERE tasting_no = ?1 ORDER BY seat",
            [own.no],
            seat_of,
        )?;
        (own.is.seats, own.tokens) = seats.into_iter().unzip();
    }
    Ok(found)
}

fn none(what: &'static str, id: impl ToString) -> StoreError {
    StoreError::NotFound {
        what,
        id: id.to_string(),
    }
}

/// The tasting with this number, and a trial's own.
fn tasting(t: &Connection, trial: &str, no: i64) -> Result<KeptTasting> {
    let found = tastings(t, "tasting.no = ?1", no)?.into_iter().next();
    found
        .filter(|own| own.trial == trial)
        .ok_or_else(|| none("tasting", no))
}

fn check_taster(taster: &str) -> Result<()> {
    if taster.chars().count() > MOST_NAME {
        return Err(StoreError::refused(
            "taster",
            format!("a name has at most {MOST_NAME} letters"),
        ));
    }
    Ok(())
}

/// Units of a treatment that stand to be tasted.
pub fn on_the_table(trial: &Trial, treatment: TreatmentIndex) -> Vec<UnitIndex> {
    let own = trial
        .each_unit()
        .filter(|(_, u)| u.treatment == treatment && u.lost.is_none() && trial.is_now(u));
    own.map(|(index, _)| index).collect()
}

/// Tells the history what a taster said.
fn append_answer(
    t: &Tx<'_>,
    stamp: &Stamp,
    kept: &KeptTasting,
    own: &Seat,
    (answer, taster): (&Answer, &str),
) -> Result<()> {
    let before = own
        .answer
        .as_ref()
        .map(|old| json!({ "answer": old, "taster": own.taster }));
    let action = format!("tasted at seat {}", own.seat);
    let id = format!("{}/{}", kept.no, own.seat);
    let entry = Entry {
        trial: &kept.trial,
        action: &action,
        entity: "seat",
        id: &id,
        before,
        after: Some(json!({ "answer": answer, "taster": taster.trim() })),
    };
    append(t, stamp, entry)
}

/// The cups of a seat in the order in which they are said to have stood.
fn stood<'u>(
    own: &Seat,
    codes: &[String],
    code: impl Fn(&Cup) -> Option<&'u str>,
) -> Result<Vec<Cup>> {
    let of = |wanted: &String| {
        own.cups
            .iter()
            .find(|cup| code(cup) == Some(wanted))
            .copied()
    };
    let stood: Option<Vec<Cup>> = codes.iter().map(of).collect();
    let is_all =
        |s: &Vec<Cup>| s.len() == own.cups.len() && own.cups.iter().all(|cup| s.contains(cup));
    stood.filter(is_all).ok_or_else(|| {
        let all: Vec<&str> = own.cups.iter().filter_map(&code).collect();
        let why = format!("under the cups stand {}, each once", all.join(" and "));
        StoreError::refused("codes", why)
    })
}

/// Writes what a taster said.
fn write_answer(
    t: &Tx<'_>,
    stamp: &Stamp,
    kept: &KeptTasting,
    seat: u32,
    said: (&Answer, &str),
) -> Result<()> {
    let (answer, taster) = said;
    check_taster(taster)?;
    kept.is
        .check(answer)
        .map_err(|e| StoreError::refused("answer", e))?;
    if !kept.is.takes_answers(stamp.now) {
        return Err(StoreError::locked(
            "this tasting is over: no answer is taken any more",
        ));
    }
    let own = kept
        .is
        .seats
        .iter()
        .find(|s| s.seat == seat)
        .ok_or_else(|| none("seat", seat))?;
    if kept.is.way == Way::Covered && own.known {
        return Err(StoreError::locked(
            "it was looked under the cups already: what was said before stands",
        ));
    }
    t.execute(
        "UPDATE seat SET answer = ?3, taster = ?4, answered_at_us = ?5 WHERE tasting_no = ?1 AND \
         seat = ?2",
        (
            kept.no,
            seat,
            serde_json::to_string(answer)?,
            taster.trim(),
            stamp.now.as_microsecond(),
        ),
    )?;
    append_answer(t, stamp, kept, own, (answer, taster))
}

impl Store {
    /// The tastings of a trial, oldest first.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn tastings(&self, id: &str) -> Result<Vec<KeptTasting>> {
        self.read(|t| tastings(t, "trial.id = ?1", id))
    }

    /// The tasting that a token opens, and the number of its seat.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn seat(&self, token: &str) -> Result<(KeptTasting, u32)> {
        self.read(|t| seat_by(t, token))
    }

    /// What a taster said at the seat that a token opens. Until the tasting ends a later answer
    /// takes the place of an earlier.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Refused`]; [`StoreError::Locked`] once the tasting
    /// is over.
    pub fn taste(&self, stamp: &Stamp, token: &str, answer: &Answer, taster: &str) -> Result<()> {
        self.write(stamp, |t| {
            let (kept, seat) = seat_by(t, token)?;
            write_answer(t, stamp, &kept, seat, (answer, taster))
        })
    }

    /// What was said of covered cups, before it is looked under them.
    ///
    /// # Errors
    /// As [`Store::taste`].
    pub fn taste_covered(
        &self,
        stamp: &Stamp,
        (id, no, seat): (&str, i64, u32),
        answer: &Answer,
        taster: &str,
    ) -> Result<()> {
        self.write(stamp, |t| {
            let kept = tasting(t, id, no)?;
            if kept.is.way != Way::Covered {
                return Err(StoreError::refused(
                    "seat",
                    "the cups of this tasting are served; answer at the seat",
                ));
            }
            write_answer(t, stamp, &kept, seat, (answer, taster))
        })
    }

    /// How covered cups stood, from the left, by the codes of their units: said once, after the
    /// answer.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Refused`] for other cups than these;
    /// [`StoreError::Locked`] before the answer and once it was said.
    pub fn uncover(
        &self,
        stamp: &Stamp,
        (id, no, seat): (&str, i64, u32),
        codes: &[String],
    ) -> Result<()> {
        self.write(stamp, |t| {
            let kept = tasting(t, id, no)?;
            let trial = t.loaded(id)?;
            let own = kept
                .is
                .seats
                .iter()
                .find(|s| s.seat == seat)
                .ok_or_else(|| none("seat", seat))?;
            if own.answer.is_none() {
                return Err(StoreError::locked(
                    "say first which is better, then look under the cups",
                ));
            }
            if kept.is.way != Way::Covered || own.known {
                return Err(StoreError::locked("how these cups stood is known already"));
            }
            let code = |cup: &Cup| cup.unit.map(|unit| trial.trial.units[unit].code.as_str());
            let stood = stood(own, codes, code)?;
            t.execute(
                "UPDATE seat SET cups = ?3, known = 1 WHERE tasting_no = ?1 AND seat = ?2",
                (kept.no, seat, serde_json::to_string(&stood)?),
            )?;
            let (action, key) = (
                format!("looked under the cups of serving {seat}"),
                format!("{no}/{seat}"),
            );
            let after = Some(json!({ "stood": codes }));
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action: &action,
                    entity: "seat",
                    id: &key,
                    before: None,
                    after,
                },
            )
        })
    }

    /// Closes a tasting: no answer is taken any more, and what it tells may be seen. It cannot be
    /// opened again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn close_tasting(&self, stamp: &Stamp, id: &str, no: i64) -> Result<()> {
        self.write(stamp, |t| {
            let kept = tasting(t, id, no)?;
            if kept.is.closed_at.is_some() {
                return Ok(());
            }
            t.execute(
                "UPDATE tasting SET closed_at_us = ?2 WHERE no = ?1",
                (no, stamp.now.as_microsecond()),
            )?;
            let answers = kept.is.seats.iter().filter(|s| s.answer.is_some()).count();
            let after = Some(json!({ "answers": answers }));
            let action = format!("closed a tasting with {answers} answers");
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action: &action,
                    entity: "tasting",
                    id: &no.to_string(),
                    before: None,
                    after,
                },
            )
        })
    }
}

fn seat_by(t: &Connection, token: &str) -> Result<(KeptTasting, u32)> {
    let sql = "SELECT tasting_no, seat FROM seat WHERE token = ?1";
    let found: Option<(i64, u32)> = t
        .query_row(sql, [token], |r| Ok((r.get(0)?, r.get(1)?)))
        .optional()?;
    // The token itself is not told back.
    let Some((no, seat)) = found else {
        return Err(none("seat", "of that address"));
    };
    let kept = tastings(t, "tasting.no = ?1", no)?.into_iter().next();
    Ok((kept.ok_or_else(|| none("tasting", no))?, seat))
}
