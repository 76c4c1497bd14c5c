//! Records as tests write them: head and body in one.

use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::kind::Record;
use iron_twin_core::trial::record::note::Note;
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::record::write_off::WriteOff;
use iron_twin_store::records::Incoming;
use iron_twin_store::{Result, Stamp, Store};
use iron_twin_terms::role::Role;
use jiff::Timestamp;

/// A record on its way.
#[derive(Debug, Clone)]
pub struct Taken<R> {
    pub head: HeadSent,
    pub is: R,
}

impl<R> Taken<R> {
    pub fn new(code: &str, day: u32, is: R) -> Self {
        let unit = (!code.is_empty()).then(|| code.to_owned());
        Self {
            head: HeadSent {
                unit,
                day: Some(day),
                ..HeadSent::default()
            },
            is,
        }
    }

    pub fn confirmed(mut self) -> Self {
        self.head.confirmed = true;
        self
    }

    pub fn over(mut self, version: i64) -> Self {
        self.head.version = version;
        self
    }

    pub fn on(mut self, day: u32) -> Self {
        self.head.day = Some(day);
        self
    }

    pub fn at(mut self, at: Option<Timestamp>) -> Self {
        self.head.at = at;
        self
    }
}

impl Taken<Reading> {
    pub fn again(mut self) -> Self {
        self.is.again = true;
        self
    }

    pub fn of(mut self, key: &str) -> Self {
        self.is.reading = key.to_owned();
        self
    }
}

pub fn reading(code: &str, key: &str, day: u32, value: Option<f64>) -> Taken<Reading> {
    Taken::new(
        code,
        day,
        Reading {
            reading: key.to_owned(),
            value,
            again: false,
        },
    )
}

pub fn weighing(code: &str, day: u32, gross_g: f64, tare_g: f64) -> Taken<Weighing> {
    Taken::new(
        code,
        day,
        Weighing {
            gross_g,
            tare_g,
            turn: None,
        },
    )
}

pub fn note(code: &str, day: u32, text: &str) -> Taken<Note> {
    Taken::new(
        code,
        day,
        Note {
            text: text.to_owned(),
        },
    )
}

pub fn write_off(code: &str, day: u32, reason: Option<&str>) -> Taken<WriteOff> {
    Taken::new(
        code,
        day,
        WriteOff {
            reason: reason.map(str::to_owned),
            day: None,
        },
    )
}

/// Writes records as the owner; the version that stands then.
pub trait Take {
    fn take<R: Record>(&self, stamp: &Stamp, id: &str, new: &Taken<R>) -> Result<i64>;
}

impl Take for Store {
    fn take<R: Record>(&self, stamp: &Stamp, id: &str, new: &Taken<R>) -> Result<i64> {
        let list = Incoming::of(new.head.clone(), new.is.clone())
            .into_iter()
            .collect();
        Ok(self.record(stamp, Role::Owner, id, list)?[0].version)
    }
}
