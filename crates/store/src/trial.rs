//! Loading a trial: as a whole the first time, then only what is new.

use crate::error::{Result, StoreError};
use crate::farm::farm;
use crate::rows::{astray, rows, unreadable};
use crate::time::instant;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::readings;
use iron_twin_core::trial::changes::{PlanChange, added, sealed};
use iron_twin_core::trial::deal::{Deal, Unit};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::record;
use iron_twin_core::trial::record::giving::Recipient;
use iron_twin_core::trial::record::kind::Stored;
use iron_twin_core::trial::records::{
    CropNumber, ReadingRecord, RecordHead, Records, SampleNumber,
};
use iron_twin_core::trial::space::Position;
use iron_twin_core::trial::{Reveal, Trial};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use rusqlite::{Connection, OptionalExtension, Params, Row};
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// How new a picture of a trial is: what it must agree in with the file to stand, in the order in
/// which it grows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub(crate) struct At {
    /// Grows where records were taken back: then everything is read again.
    pub rebuilt: i64,
    /// Version of the trial.
    pub version: i64,
    /// Version of the plan.
    pub plan_version: i64,
    /// Count of the records.
    pub changed: i64,
}

/// A trial in memory, with the numbers of its rows.
#[derive(Debug, Clone)]
pub(crate) struct Loaded {
    pub trial: Arc<Trial>,
    /// Number of the trial in the file.
    pub no: i64,
    /// Numbers of its units, in their order.
    pub units: Arc<Vec<i64>>,
    /// The place of a unit by its number.
    pub places: Arc<HashMap<i64, UnitIndex>>,
    /// Number of its deal.
    pub deal_no: Option<i64>,
    /// Version of the plan that was sealed.
    pub sealed_plan_version: Option<i64>,
    /// How new it is.
    pub at: At,
}

/// The head row, as far as loading needs it.
pub(crate) struct Head {
    pub no: i64,
    deal_no: Option<i64>,
    sealed_plan_version: Option<i64>,
    pub at: At,
    sown_on: Option<String>,
    round: u32,
    sealed_at: Option<Timestamp>,
    reveal: Option<Reveal>,
    pouring_sheets: usize,
    jugs_given_out: bool,
}

pub(crate) fn head(t: &Connection, id: &str) -> Result<Head> {
    let sql = "SELECT no, deal_no, sealed_plan_version, rebuilt, version, plan_version, changed, \
        sown_on, round, sealed_at_us, revealed_at_us, reveal_day, reveal_weighed, \
        pouring_sheets, jugs_given_out_at_us IS NOT NULL, reveal_reason FROM trial WHERE id = ?1";
    let read = |r: &Row<'_>| {
        let revealed: Option<i64> = r.get(10)?;
        let reveal = revealed.map(|at| -> rusqlite::Result<Reveal> {
            Ok(Reveal {
                at: instant(at),
                day: r.get(11)?,
                weighed: r.get::<_, u32>(12)? as usize,
                reason: r.get(15)?,
            })
        });
        Ok(Head {
            no: r.get(0)?,
            deal_no: r.get(1)?,
            sealed_plan_version: r.get(2)?,
            at: At {
                rebuilt: r.get(3)?,
                version: r.get(4)?,
                plan_version: r.get(5)?,
                changed: r.get(6)?,
            },
            sown_on: r.get(7)?,
            round: r.get(8)?,
            sealed_at: r.get::<_, Option<i64>>(9)?.map(instant),
            reveal: reveal.transpose()?,
            pouring_sheets: r.get::<_, u32>(13)? as usize,
            jugs_given_out: r.get(14)?,
        })
    };
    let found = t.prepare_cached(sql)?.query_row([id], read).optional()?;
    found.ok_or_else(|| StoreError::NotFound {
        what: "trial",
        id: id.into(),
    })
}

/// A trial as it stands, from what is known of it already.
pub(crate) fn load(t: &Connection, id: &str, known: Option<Loaded>) -> Result<Loaded> {
    let head = head(t, id)?;
    // A picture that is newer than this transaction's is one that was committed meanwhile: it
    // stands.
    let alike = |l: &Loaded| {
        l.at.rebuilt == head.at.rebuilt && l.deal_no == head.deal_no && l.trial.round == head.round
    };
    let mut loaded = match known.filter(alike) {
        Some(known) if known.at >= head.at => return Ok(known),
        Some(known) => known,
        None => plan_and_deal(t, id, &head)?,
    };
    let trial = Arc::make_mut(&mut loaded.trial);
    let (since, planned) = (loaded.at.changed, loaded.at.plan_version);
    stand(&head, trial)?;
    if planned != head.at.plan_version {
        trial.plan = Arc::new(plan(t, head.no, head.at.plan_version)?);
        trial.changes = changes(t, &head)?;
    }
    if since < head.at.changed {
        Newer {
            t,
            no: head.no,
            since,
            head: &head,
            places: &loaded.places,
        }
        .take_in(trial)?;
    }
    loaded.sealed_plan_version = head.sealed_plan_version;
    loaded.at = head.at;
    Ok(loaded)
}

/// A trial whose plan, deal and standing are those of now; its records may be of before. None where
/// it has to be loaded.
pub(crate) fn as_planned(
    t: &Connection,
    id: &str,
    known: Option<Loaded>,
) -> Result<Option<Loaded>> {
    let Some(known) = known else { return Ok(None) };
    let head = head(t, id)?;
    let before = &known.trial;
    let sown_on = sown(&head)?;
    let alike = known.at.rebuilt == head.at.rebuilt
        && known.at.plan_version == head.at.plan_version
        && known.deal_no == head.deal_no
        && known.sealed_plan_version == head.sealed_plan_version
        && (before.round, before.sown_on, before.sealed_at)
            == (head.round, sown_on, head.sealed_at)
        && before.reveal == head.reveal;
    Ok(alike.then_some(known))
}

fn sown(head: &Head) -> Result<Option<jiff::civil::Date>> {
    let date = head.sown_on.as_deref().map(str::parse).transpose();
    date.map_err(|e: jiff::Error| unreadable(e).into())
}

/// What the head row says of a trial.
fn stand(head: &Head, trial: &mut Trial) -> Result<()> {
    trial.version = head.at.version;
    trial.changed = head.at.changed;
    trial.sown_on = sown(head)?;
    trial.sealed_at = head.sealed_at;
    trial.reveal = head.reveal.clone();
    trial.pouring_sheets = head.pouring_sheets;
    trial.jugs_given_out = head.jugs_given_out;
    Ok(())
}

/// What the records of a trial say beside themselves: who was lost, and when the sowing was
/// entered.
pub(crate) fn settle(t: &Connection, head: &Head, trial: &mut Trial) -> Result<()> {
    trial.settle_losses();
    let sowing = trial
        .records
        .work()
        .iter()
        .find(|w| w.job == Job::Sow && w.head.round == head.round);
    trial.records.sowing_entered = match (sowing, trial.sown_on) {
        (Some(sowing), Some(sown)) => {
            let date = sowing.head.entered_at.to_zoned(farm(t)?.time_zone()).date();
            sown.until(date)
                .ok()
                .and_then(|days| u32::try_from(days.get_days()).ok())
        }
        _ => None,
    };
    let given = trial
        .records
        .givings()
        .iter()
        .filter_map(|g| match g.whom() {
            Some(Recipient::Treatment(treatment)) => Some(treatment),
            _ => None,
        });
    let named = given.chain(trial.records.mixes().iter().map(|m| m.treatment));
    let treatments = trial.plan.treatments();
    match named
        .into_iter()
        .find(|treatment| treatment.get() >= treatments)
    {
        Some(strange) => Err(astray("treatment", strange).into()),
        None => Ok(()),
    }
}

/// Records of some kinds alone, as lists of work need them.
pub(crate) fn some_records(
    t: &Connection,
    head: &Head,
    places: &HashMap<i64, UnitIndex>,
    kinds: &[&str],
    trial: &mut Trial,
) -> Result<()> {
    stand(head, trial)?;
    let sql = format!("{RECORDS} AND kind IN (SELECT value FROM json_each(?2)) ORDER BY no");
    take_records(
        t,
        &sql,
        (head.no, serde_json::to_string(kinds)?),
        places,
        trial,
    )?;
    settle(t, head, trial)
}

/// Rows of records; what follows says which.
const RECORDS: &str = "SELECT no, kind, unit_no, crop, sample, day, round, at_us, entered_at_us, who, \
     instrument, version, body FROM record WHERE trial_no = ?1";

fn take_records(
    t: &Connection,
    sql: &str,
    params: impl Params,
    places: &HashMap<i64, UnitIndex>,
    trial: &mut Trial,
) -> Result<()> {
    let mut names = Names::default();
    let mut statement = t.prepare_cached(sql)?;
    let mut found = statement.query(params)?;
    while let Some(r) = found.next()? {
        let unit_no: Option<i64> = r.get("unit_no")?;
        let unit = unit_no.and_then(|no| places.get(&no).copied());
        // Of a unit of a deal that no longer stands: it is nobody's.
        if unit_no.is_some() && unit.is_none() {
            continue;
        }
        let key = r.get_ref("kind")?.as_str().map_err(unreadable)?;
        let kind = record::find(key).ok_or_else(|| astray("kind of record", key))?;
        let (no, head) = (r.get("no")?, head_of(r, &mut names)?);
        let body = r.get_ref("body")?.as_str().map_err(unreadable)?;
        (kind.keep)(
            Stored {
                no,
                unit,
                head,
                body,
            },
            &mut trial.records,
        )?;
    }
    Ok(())
}

/// Names that come again and again, each kept once.
#[derive(Default)]
struct Names(HashMap<String, Arc<str>>);

impl Names {
    fn of(&mut self, name: &str) -> Arc<str> {
        if let Some(own) = self.0.get(name) {
            return Arc::clone(own);
        }
        let own: Arc<str> = Arc::from(name);
        self.0.insert(name.to_owned(), Arc::clone(&own));
        own
    }
}

/// The head of a record, of the columns that all of them have.
fn head_of(r: &Row<'_>, names: &mut Names) -> rusqlite::Result<RecordHead> {
    let instrument = r
        .get_ref("instrument")?
        .as_str_or_null()?
        .map(|name| names.of(name));
    Ok(RecordHead {
        crop: CropNumber::new(r.get("crop")?),
        sample: SampleNumber::new(r.get("sample")?),
        day: r.get("day")?,
        round: r.get("round")?,
        at: instant(r.get("at_us")?),
        entered_at: instant(r.get("entered_at_us")?),
        who: names.of(r.get_ref("who")?.as_str()?),
        instrument,
        version: r.get("version")?,
    })
}

/// The same of a reading, whose columns stand in this order: there are millions of them, and a name
/// is looked up for each.
fn head_by_place(r: &Row<'_>, names: &mut Names) -> rusqlite::Result<RecordHead> {
    let instrument = r.get_ref(7)?.as_str_or_null()?.map(|name| names.of(name));
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

/// The plan, the deal and its units; records are taken in afterwards.
pub(crate) fn plan_and_deal(t: &Connection, id: &str, head: &Head) -> Result<Loaded> {
    let mut trial = Trial::planned(id, plan(t, head.no, head.at.plan_version)?);
    trial.changes = changes(t, head)?;
    trial.round = head.round;
    let mut units = Vec::new();
    if let Some(deal) = head.deal_no {
        trial.deal = Some(
            t.prepare_cached(
                "SELECT seed, nonce, commitment, dealt_at_us FROM deal WHERE no = ?1",
            )?
            .query_row([deal], |r| {
                Ok(Deal {
                    seed: r.get::<_, i64>(0)?.cast_unsigned(),
                    nonce: r.get(1)?,
                    commitment: r.get(2)?,
                    dealt_at: instant(r.get(3)?),
                })
            })?,
        );
        let (numbers, dealt) = dealt(t, deal, trial.plan.treatments())?;
        (units, trial.units) = (numbers, Arc::new(dealt));
    }
    trial.records = Records {
        units: vec![Arc::default(); units.len()],
        ..Records::default()
    };
    Ok(Loaded {
        trial: Arc::new(trial),
        no: head.no,
        places: Arc::new(
            units
                .iter()
                .enumerate()
                .map(|(place, no)| (*no, UnitIndex(place)))
                .collect(),
        ),
        units: Arc::new(units),
        deal_no: head.deal_no,
        sealed_plan_version: head.sealed_plan_version,
        at: At {
            changed: -1,
            ..head.at
        },
    })
}

/// The units of a deal, and their numbers in the file.
fn dealt(t: &Connection, deal: i64, treatments: usize) -> Result<(Vec<i64>, Vec<Unit>)> {
    let sql = "SELECT no, id, code, level, slot, treatment FROM unit WHERE deal_no = ?1 ORDER \
                   BY code";
    let unit = |r: &Row<'_>| {
        let own = Unit {
            id: r.get(1)?,
            code: r.get(2)?,
            position: Position {
                level: r.get(3)?,
                slot: r.get(4)?,
            },
            treatment: TreatmentIndex(r.get::<_, u32>(5)? as usize),
            lost: None,
        };
        Ok((r.get::<_, i64>(0)?, own))
    };
    let (numbers, dealt): (Vec<i64>, Vec<Unit>) = rows(t, sql, [deal], unit)?.into_iter().unzip();
    if let Some(unit) = dealt.iter().find(|u| u.treatment.get() >= treatments) {
        return Err(astray("treatment", unit.treatment).into());
    }
    Ok((numbers, dealt))
}

pub(crate) fn plan(t: &Connection, trial: i64, version: i64) -> Result<Plan> {
    let sql = "SELECT document FROM plan WHERE trial_no = ?1 AND version = ?2";
    let document: String = t
        .prepare_cached(sql)?
        .query_row([trial, version], |r| r.get(0))?;
    Plan::read(&document).map_err(|e| unreadable(e).into())
}

/// What was changed in the sealed plan, oldest first; a change that was taken back is none.
fn changes(t: &Connection, head: &Head) -> Result<Vec<PlanChange>> {
    let Some(sealed_version) = head
        .sealed_plan_version
        .filter(|v| *v < head.at.plan_version)
    else {
        return Ok(Vec::new());
    };
    let sql = "SELECT version, at_us, reason, document, undoes FROM plan WHERE trial_no = ?1 AND \
               version >= ?2 ORDER BY version";
    let versions: Vec<(i64, i64, String, String, Option<i64>)> =
        rows(t, sql, [head.no, sealed_version], |r| {
            Ok((r.get(0)?, r.get(1)?, r.get(2)?, r.get(3)?, r.get(4)?))
        })?;
    let taken_back: HashSet<i64> = versions.iter().filter_map(|v| v.4).collect();
    let mut before: Option<Plan> = None;
    let mut found = Vec::new();
    for (version, at, reason, document, undoes) in versions {
        let after = Plan::read(&document).map_err(unreadable)?;
        if let Some(before) = before.filter(|_| undoes.is_none() && !taken_back.contains(&version))
        {
            let told = sealed(&before, &after).into_iter();
            let added = added(&before, &after);
            let whole = |change| PlanChange {
                at: instant(at),
                change,
                reason: reason.clone(),
                added: added.clone(),
            };
            found.extend(told.map(whole));
        }
        before = Some(after);
    }
    Ok(found)
}

/// Rows written since a count of the records.
struct Newer<'a> {
    t: &'a Connection,
    no: i64,
    since: i64,
    head: &'a Head,
    places: &'a HashMap<i64, UnitIndex>,
}

impl Newer<'_> {
    fn take_in(&self, trial: &mut Trial) -> Result<()> {
        self.readings(trial)?;
        let sql = format!("{RECORDS} AND changed > ?2 ORDER BY no");
        take_records(self.t, &sql, [self.no, self.since], self.places, trial)?;
        settle(self.t, self.head, trial)
    }

    fn readings(&self, trial: &mut Trial) -> Result<()> {
        let sql = "SELECT crop, sample, day, round, at_us, entered_at_us, who, instrument, version, \
            unit_no, reading, nth, value FROM reading WHERE trial_no = ?1 AND changed > ?2";
        let mut names = Names::default();
        let mut statement = self.t.prepare_cached(sql)?;
        let mut found = statement.query([self.no, self.since])?;
        let mut touched = HashSet::new();
        while let Some(r) = found.next()? {
            // Units of a deal that no longer stands are nobody's.
            let Some(&unit) = self.places.get(&r.get(9)?) else {
                continue;
            };
            let key = r.get_ref(10)?.as_str().map_err(unreadable)?;
            let reading = readings::find(key)
                .ok_or_else(|| astray("reading", key))?
                .key;
            let own = ReadingRecord {
                head: head_by_place(r, &mut names)?,
                reading,
                nth: r.get(11)?,
                value: r.get(12)?,
            };
            let list = &mut Arc::make_mut(&mut trial.records.units[unit]).readings;
            let same = |o: &ReadingRecord| {
                (o.reading, o.head.crop, o.head.sample, o.head.day, o.nth)
                    == (
                        own.reading,
                        own.head.crop,
                        own.head.sample,
                        own.head.day,
                        own.nth,
                    )
            };
            // The first time there is nothing to replace.
            match list.iter().position(same).filter(|_| self.since >= 0) {
                Some(at) => list[at] = own,
                None => list.push(own),
            }
            touched.insert(unit);
        }
        for unit in touched {
            let list = &mut Arc::make_mut(&mut trial.records.units[unit]).readings;
            list.sort_by_key(|r| (r.head.day, r.nth, r.head.at));
        }
        Ok(())
    }
}
