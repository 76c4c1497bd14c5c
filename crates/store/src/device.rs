//! Writing which instruments there are, and at what address.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::rows::{as_word, rows, word};
use crate::store::{Stamp, Store};
use iron_twin_core::catalogue::instruments::Instrument;
use rusqlite::Connection;

/// An instrument as it is entered.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NewDevice {
    /// What kind.
    pub kind: Instrument,
    /// What it is called.
    pub name: String,
    /// `host:port`.
    pub address: String,
    /// Its registers, as JSON; None where they are the usual ones.
    pub registers: Option<String>,
}

/// An instrument.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Device {
    /// Its number.
    pub no: i64,
    /// What it is.
    pub is: NewDevice,
    /// Grows with every change.
    pub version: i64,
}

/// Under this the history of instruments is kept: they belong to no trial.
const DEVICES: &str = "devices";
/// Longest name.
const MOST_NAME: usize = 60;
/// Longest address.
const MOST_ADDRESS: usize = 200;
/// Most instruments; each has a line that is kept.
const MOST: usize = 64;

fn all(t: &Connection) -> Result<Vec<Device>> {
    rows(
        t,
        "SELECT no, kind, name, address, version, registers FROM device ORDER BY no",
        [],
        |r| {
            let is = NewDevice {
                kind: word(r.get(1)?)?,
                name: r.get(2)?,
                address: r.get(3)?,
                registers: r.get(5)?,
            };
            Ok(Device {
                no: r.get(0)?,
                is,
                version: r.get(4)?,
            })
        },
    )
}

fn checked(new: &NewDevice) -> Result<NewDevice> {
    let (name, address) = (new.name.trim().to_owned(), new.address.trim().to_owned());
    if name.is_empty() || name.chars().count() > MOST_NAME || name.chars().any(char::is_control) {
        return Err(StoreError::refused(
            "name",
            format!("a name has 1 to {MOST_NAME} letters"),
        ));
    }
    let port = address
        .rsplit_once(':')
        .filter(|(host, _)| !host.is_empty())
        .and_then(|(_, p)| p.parse::<u16>().ok());
    let plain = !address.chars().any(|c| c.is_control() || c.is_whitespace());
    if port.is_none_or(|port| port == 0) || address.len() > MOST_ADDRESS || !plain {
        let wanted = format!("'{address}' is no address with a port, such as 192.168.1.20:4001");
        return Err(StoreError::refused("address", wanted));
    }
    Ok(NewDevice {
        kind: new.kind,
        name,
        address,
        registers: new.registers.clone(),
    })
}

/// A new instrument has a name of its own, and there is room for it.
fn check_room(own: &[Device], old: Option<(i64, i64)>, new: &NewDevice) -> Result<()> {
    let is_other = |no: i64| old.is_none_or(|(own, _)| own != no);
    if own.iter().any(|d| d.is.name == new.name && is_other(d.no)) {
        let wanted = format!(
            "there is a '{}' already; give this one a name of its own",
            new.name
        );
        return Err(StoreError::refused("name", wanted));
    }
    if old.is_none() && own.len() >= MOST {
        let most = format!("{MOST} instruments are the most");
        return Err(StoreError::refused("name", most));
    }
    Ok(())
}

impl Store {
    /// The instruments, as they were entered.
    ///
    /// # Errors
    /// Those of SQLite.
    pub fn devices(&self) -> Result<Vec<Device>> {
        self.read(|t| all(t))
    }

    /// Adds an instrument, or changes one by number and version. Returns its number.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be, [`StoreError::NotFound`], [`StoreError::Stale`].
    pub fn keep_device(
        &self,
        stamp: &Stamp,
        old: Option<(i64, i64)>,
        new: &NewDevice,
    ) -> Result<i64> {
        let new = checked(new)?;
        self.write(stamp, |t| {
            let own = all(t)?;
            check_room(&own, old, &new)?;
            let before = match old {
                Some((no, version)) => {
                    let stored = own
                        .iter()
                        .find(|d| d.no == no)
                        .ok_or_else(|| not_there(no))?;
                    if stored.version != version {
                        let (what, stored) = (stored.is.name.clone(), stored.is.address.clone());
                        return Err(StoreError::Stale {
                            what,
                            stored,
                            sent: new.address.clone(),
                        });
                    }
                    row(t, "device", no)?
                }
                None => None,
            };
            let no: i64 = t.query_row(
                "INSERT INTO device (no, kind, name, address, registers) VALUES (?1, ?2, ?3, \
                 ?4, ?5) ON CONFLICT (no) DO UPDATE SET kind = ?2, name = ?3, address = ?4, \
                 registers = ?5, version = version + 1 RETURNING no",
                (
                    old.map(|(no, _)| no),
                    as_word(new.kind)?,
                    &new.name,
                    &new.address,
                    &new.registers,
                ),
                |r| r.get(0),
            )?;
            let action = format!("{} at {}", new.name, new.address);
            let entry = Entry {
                trial: DEVICES,
                action: &action,
                entity: "device",
                id: &no.to_string(),
                before,
                after: row(t, "device", no)?,
            };
            append(t, stamp, entry)?;
            Ok(no)
        })
    }

    /// Takes an instrument off the list. What was recorded with it keeps its name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn remove_device(&self, stamp: &Stamp, no: i64) -> Result<()> {
        self.write(stamp, |t| {
            let own = all(t)?
                .into_iter()
                .find(|d| d.no == no)
                .ok_or_else(|| not_there(no))?;
            let before = row(t, "device", no)?;
            t.execute("DELETE FROM device WHERE no = ?1", [no])?;
            let (action, id) = (format!("{} removed", own.is.name), no.to_string());
            append(
                t,
                stamp,
                Entry {
                    trial: DEVICES,
                    action: &action,
                    entity: "device",
                    id: &id,
                    before,
                    after: None,
                },
            )
        })
    }
}

fn not_there(no: i64) -> StoreError {
    StoreError::NotFound {
        what: "instrument",
        id: no.to_string(),
    }
}
