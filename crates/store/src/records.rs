//! The door for records of all kinds: a list in, one transaction, one answer.
//!
//! Readings, of which there are millions, have a narrow table of their own behind the same
//! functions; all other kinds stand in the one table `record`, each as its body under the head that
//! all share.

mod again;

use crate::error::{Result, StoreError};
use crate::farm::farm;
use crate::history::{Entry, append_row, row};
use crate::readings;
pub use crate::standing::Kept;
use crate::standing::{Standing, numbers};
use crate::store::{Stamp, Store};
use crate::transaction::Tx;
use crate::trial::{Loaded, load};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::readings::{ec, ph};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::head::{Asks, Head, HeadSent, Sender};
use iron_twin_core::trial::record::kind::{AnyRecord, Desk, Kind, ReadBefore, Record, Stands};
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_core::trial::record::refusal::Refusal;
use iron_twin_core::trial::record::work::Work;
use iron_twin_core::trial::record::{Sent, find};
use iron_twin_terms::role::Role;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use rusqlite::OptionalExtension;
use std::cell::Cell;

/// A record on its way in.
pub struct Incoming {
    kind: &'static Kind,
    head: HeadSent,
    is: Box<dyn AnyRecord>,
}

impl Incoming {
    /// A record that is worked out here.
    #[must_use]
    pub fn of<R: Record>(head: HeadSent, is: R) -> Option<Self> {
        Some(Self {
            kind: find(R::KIND)?,
            head,
            is: Box::new(is),
        })
    }

    /// A record as a device sent it.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] for a kind that is none, or comes by a way of its own;
    /// [`StoreError::Refused`] for a body that cannot be read, naming what is wrong.
    pub fn read(sent: &Sent) -> Result<Self> {
        let kind = find(&sent.kind).filter(|kind| kind.sent);
        let kind = kind.ok_or_else(|| StoreError::NotFound {
            what: "kind of record",
            id: sent.kind.clone(),
        })?;
        let is = (kind.read)(&sent.body).map_err(|e| StoreError::refused("body", e))?;
        let head = sent.head().map_err(|e| StoreError::refused("head", e))?;
        Ok(Self { kind, head, is })
    }
}

/// The first record of a list that was not taken in, and why; nothing of the list stands.
#[derive(Debug)]
pub struct NotKept {
    /// Its place in the list, from 0.
    pub at: usize,
    /// Why.
    pub why: StoreError,
}

impl From<NotKept> for StoreError {
    fn from(not: NotKept) -> Self {
        not.why
    }
}

/// Who the program is in records that it makes by itself.
const PROGRAM: &str = "program";

impl Store {
    /// Takes a list of records in: all of them, or none.
    ///
    /// A record whose key was seen before is answered again and not done again.
    ///
    /// # Errors
    /// The first that was not taken in, and why.
    pub fn record(
        &self,
        stamp: &Stamp,
        role: Role,
        trial: &str,
        list: Vec<Incoming>,
    ) -> std::result::Result<Vec<Kept>, NotKept> {
        let at = Cell::new(0);
        let all = self.write(stamp, |t| {
            let door = Door {
                t,
                stamp,
                role,
                trial,
                zone: farm(t)?.time_zone(),
            };
            let mut loaded = None;
            let mut kept = Vec::with_capacity(list.len());
            for (place, incoming) in list.into_iter().enumerate() {
                at.set(place);
                kept.push(door.take_in(&mut loaded, incoming)?);
            }
            Ok(kept)
        });
        all.map_err(|why| NotKept { at: at.get(), why })
    }

    /// Takes one record of the owner's in.
    ///
    /// # Errors
    /// Why it was not taken in.
    pub fn keep<R: Record>(
        &self,
        stamp: &Stamp,
        trial: &str,
        head: HeadSent,
        is: R,
    ) -> Result<Kept> {
        let list = Incoming::of(head, is).into_iter().collect();
        let kept = self.record(stamp, Role::Owner, trial, list)?;
        kept.into_iter().next().ok_or(StoreError::NotFound {
            what: "kind of record",
            id: R::KIND.into(),
        })
    }
}

impl Store {
    /// Sows: day 0 is `date`, and the plan is sealed. In a swap-over it begins the next round.
    ///
    /// # Errors
    /// As [`Store::keep`].
    pub fn sow(&self, stamp: &Stamp, trial: &str, date: Date) -> Result<Kept> {
        let head = HeadSent {
            date: Some(date.to_string()),
            ..HeadSent::default()
        };
        self.keep(stamp, trial, head, Work::done(Job::Sow))
    }

    /// Marks work as done on a day, though it may be so already.
    ///
    /// # Errors
    /// As [`Store::keep`].
    pub fn job_done(&self, stamp: &Stamp, trial: &str, job: Job, day: u32) -> Result<Kept> {
        let head = HeadSent {
            day: Some(day),
            confirmed: true,
            ..HeadSent::default()
        };
        self.keep(stamp, trial, head, Work::done(job))
    }
}

/// A running transaction at the door of one trial.
struct Door<'a> {
    t: &'a Tx<'a>,
    stamp: &'a Stamp,
    role: Role,
    trial: &'a str,
    zone: TimeZone,
}

impl Door<'_> {
    /// The trial as it stands: with all its records, or as far as a reading wants it.
    fn load(&self, known: Option<Loaded>, whole: bool) -> Result<Loaded> {
        match known {
            // What this transaction wrote before is taken in, and enters no memory.
            Some(known) => load(self.t, self.trial, Some(known)),
            None if whole => self.t.loaded(self.trial),
            None => self.t.as_planned(self.trial),
        }
    }

    /// The head of a record, with what its kind asks of it.
    fn resolved(
        &self,
        sent: &HeadSent,
        kind: &Kind,
        is: &dyn AnyRecord,
        trial: &Trial,
    ) -> Result<Head> {
        let sender = Sender {
            who: &self.stamp.who,
            role: self.role,
            now: self.stamp.now,
            zone: &self.zone,
        };
        let work = is.as_any().downcast_ref::<Work>();
        let asks = Asks {
            of: kind.of,
            stage: is.stage(),
            round: is.round(trial),
            begins: work.is_some_and(Work::is_sowing),
        };
        Ok(sent.resolve(trial, &sender, asks)?)
    }

    fn take_in(&self, known: &mut Option<Loaded>, incoming: Incoming) -> Result<Kept> {
        let Incoming {
            kind,
            head: sent,
            mut is,
        } = incoming;
        if !(kind.may)(self.role) {
            return Err(Refusal::NotYours.into());
        }
        let body = self.digest(kind, &sent, &*is)?;
        let before = sent.key.as_deref().map(|key| self.answered(key, &body));
        if let Some(kept) = before.transpose()?.flatten() {
            return Ok(kept);
        }
        let reading = is.as_any().downcast_ref::<Reading>().cloned();
        let whole = reading
            .as_ref()
            .is_none_or(|r| r.wants_records() || sent.sample.is_some());
        let loaded = self.load(known.take(), whole)?;
        let trial = &loaded.trial;
        let mut head = self.resolved(&sent, kind, &*is, trial)?;
        let place = is.place(&head);
        let (standing, read) =
            self.standing(&loaded, kind, &head, place.as_deref(), reading.as_ref())?;
        let found = (standing.as_ref(), read);
        if let Some(kept) = self.already(&sent, &loaded, &mut head, &*is, found)? {
            self.answer(&sent, body, &kept)?;
            *known = Some(loaded);
            return Ok(kept);
        }
        let desk = Desk {
            trial,
            head: &head,
            stands: standing.as_ref().map(|s| &s.is),
            read,
        };
        if let Err(refusal) = is.admit(&desk) {
            // The trial as a whole says what may be told of it.
            let whole = load(self.t, self.trial, Some(loaded.clone()))?;
            return Err(is.unseen(refusal, &whole.trial, &self.stamp.who).into());
        }
        if kind.seals {
            self.t.seal(self.stamp, &loaded)?;
        }
        let kept = match &reading {
            Some(own) => {
                readings::write(self.t, self.stamp, &loaded, &head, own, standing.as_ref())?
            }
            None => self.write_in(&loaded, kind, &head, &*is, standing.as_ref())?,
        };
        self.follow(&loaded, &head, &*is)?;
        self.answer(&sent, body, &kept)?;
        *known = Some(loaded);
        Ok(kept)
    }

    /// Writes a record of any kind but a reading.
    fn write_in(
        &self,
        loaded: &Loaded,
        kind: &Kind,
        head: &Head,
        is: &dyn AnyRecord,
        standing: Option<&Standing>,
    ) -> Result<Kept> {
        let (place, body) = (is.place(head), is.body()?);
        let new = New {
            kind: kind.key,
            place: place.as_deref(),
            head,
            body: &body,
        };
        let told = is.told(&loaded.trial, head);
        write(self.t, self.stamp, loaded, new, standing, &told)
    }

    /// What stands in the place of a record, and for a reading what was read before.
    fn standing(
        &self,
        loaded: &Loaded,
        kind: &Kind,
        head: &Head,
        place: Option<&str>,
        reading: Option<&Reading>,
    ) -> Result<(Option<Standing>, ReadBefore)> {
        if let Some(reading) = reading {
            return readings::standing(self.t, loaded, head, &reading.reading);
        }
        let Some(place) = place else {
            return Ok((None, ReadBefore::default()));
        };
        let (unit, crop, sample) = numbers(loaded, head);
        let sql = "SELECT no, version, who FROM record WHERE trial_no = ?1 AND kind = ?2 AND place = ?3 \
            AND coalesce(unit_no, 0) = ?4 AND crop = ?5 AND sample = ?6";
        let found = self
            .t
            .prepare_cached(sql)?
            .query_row(
                (loaded.no, kind.key, place, unit.unwrap_or(0), crop, sample),
                |r| {
                    let is = Stands {
                        version: r.get("version")?,
                        who: r.get("who")?,
                    };
                    Ok(Standing {
                        no: r.get("no")?,
                        nth: 1,
                        is,
                    })
                },
            )
            .optional()?;
        Ok((found, ReadBefore::default()))
    }

    /// What follows from a record in the same act: a sowing starts the days, the last pH and EC of
    /// a day end the round.
    fn follow(&self, loaded: &Loaded, head: &Head, is: &dyn AnyRecord) -> Result<()> {
        if is
            .as_any()
            .downcast_ref::<Work>()
            .is_some_and(Work::is_sowing)
        {
            let date = head.date.to_string();
            self.t.execute(
                "UPDATE trial SET sown_on = ?2, round = ?3 WHERE no = ?1",
                (loaded.no, &date, head.round),
            )?;
            let begun = "INSERT INTO round_begun (trial_no, round, begun_on) VALUES (?1, ?2, ?3)";
            self.t.execute(begun, (loaded.no, head.round, &date))?;
        }
        let Some(reading) = is.as_any().downcast_ref::<Reading>() else {
            return Ok(());
        };
        let Some(unit) = head.unit else { return Ok(()) };
        let may_end_a_round =
            [ph::READING.key, ec::READING.key].contains(&reading.reading.as_str());
        if may_end_a_round
            && readings::round_is_read(self.t, loaded, unit, head.day)?
            && !self.is_marked_read(loaded, head)?
        {
            let stamp = Stamp {
                request: None,
                who: PROGRAM.into(),
                now: self.stamp.now,
            };
            let (at, who) = (self.stamp.now, PROGRAM.into());
            let head = Head {
                unit: None,
                crop: None,
                sample: None,
                at,
                who,
                instrument: None,
                ..head.clone()
            };
            let (work, trial) = (Work::done(Job::Read), &loaded.trial);
            let new = New {
                kind: "work",
                place: None,
                head: &head,
                body: &work.body()?,
            };
            write(
                self.t,
                &stamp,
                loaded,
                new,
                None,
                &Record::told(&work, trial, &head),
            )?;
        }
        Ok(())
    }

    /// Whether the readings of a day are marked as done.
    fn is_marked_read(&self, loaded: &Loaded, head: &Head) -> Result<bool> {
        let sql =
            "SELECT 1 FROM record WHERE trial_no = ?1 AND kind = 'work' AND day = ?2 AND round = ?3
                     AND json_extract(body, '$.job') = 'read'";
        Ok(self
            .t
            .prepare_cached(sql)?
            .exists((loaded.no, head.day, loaded.trial.round))?)
    }
}

/// A record as it is written.
struct New<'a> {
    kind: &'static str,
    place: Option<&'a str>,
    head: &'a Head,
    body: &'a str,
}

fn write(
    t: &Tx<'_>,
    stamp: &Stamp,
    loaded: &Loaded,
    new: New<'_>,
    standing: Option<&Standing>,
    told: &str,
) -> Result<Kept> {
    let head = new.head;
    let (unit, crop, sample) = numbers(loaded, head);
    let before = standing
        .map(|own| row(t, "record", own.no))
        .transpose()?
        .flatten();
    let values = rusqlite::params![
        standing.map(|own| own.no),
        loaded.no,
        new.kind,
        new.place,
        unit,
        crop,
        sample,
        head.day,
        head.round,
        head.at.as_microsecond(),
        head.entered_at.as_microsecond(),
        &*head.who,
        head.instrument.as_deref(),
        t.count_record(loaded)?,
        new.body,
    ];
    let sql = "INSERT INTO record (no, trial_no, kind, place, unit_no, crop, sample, day, round, \
         at_us, entered_at_us, who, instrument, changed, body) VALUES (?1, ?2, ?3, ?4, ?5, \
         ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15) ON CONFLICT (no) DO UPDATE SET day = \
         ?8, round = ?9, at_us = ?10, entered_at_us = ?11, who = ?12, instrument = ?13, \
         changed = ?14, body = ?15, version = version + 1 RETURNING no, version";
    let kept = t.prepare_cached(sql)?.query_row(values, |r| {
        Ok(Kept {
            no: r.get("no")?,
            version: r.get("version")?,
        })
    })?;
    let (trial, id) = (&*loaded.trial.id, kept.no.to_string());
    let entry = Entry {
        trial,
        action: told,
        entity: new.kind,
        id: &id,
        before,
        after: None,
    };
    append_row(t, stamp, entry, "record", kept.no)?;
    Ok(kept)
}
