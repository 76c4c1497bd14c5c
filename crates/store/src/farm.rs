//! Whose trials these are, and at whose midnight their days begin.

use crate::error::Result;
use jiff::tz::TimeZone;
use rusqlite::{Connection, OptionalExtension};

/// The farm, read in a running transaction.
pub(crate) fn farm(t: &Connection) -> Result<Farm> {
    let row = t
        .prepare_cached("SELECT name, zone FROM farm")?
        .query_row([], |r| {
            Ok(Farm {
                name: r.get(0)?,
                zone: r.get(1)?,
            })
        })
        .optional()?;
    Ok(row.unwrap_or_else(|| Farm {
        name: "Your grow room".into(),
        zone: String::new(),
    }))
}

/// Whose trials these are.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Farm {
    /// Name shown at the top.
    pub name: String,
    /// IANA time zone; empty for that of the machine.
    pub zone: String,
}

impl Farm {
    /// The zone at whose midnight a day begins: that which was said, else that of the machine.
    #[must_use]
    pub fn time_zone(&self) -> TimeZone {
        if self.zone.is_empty() {
            TimeZone::system()
        } else {
            TimeZone::get(&self.zone).unwrap_or(TimeZone::UTC)
        }
    }
}
