//! Writing what stands on the shelves.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::store::{Stamp, Store, new_id};
use iron_twin_core::stores::{Item, Stores, csv, shelves};
use jiff::civil::Date;
use rusqlite::{Connection, OptionalExtension, Row};
use std::collections::BTreeMap;

/// An own entry with its id and version.
#[derive(Debug, Clone, PartialEq)]
pub struct OwnItem {
    /// Random id.
    pub id: String,
    /// Grows with every change.
    pub version: i64,
    /// The entry.
    pub item: Item,
}

/// Under this the history of the shelves is kept: they belong to no trial.
pub(crate) const SHELVES: &str = "stores";

fn from_row(row: &Row<'_>) -> rusqlite::Result<OwnItem> {
    let held: String = row.get("held")?;
    let bad =
        |e| rusqlite::Error::FromSqlConversionFailure(0, rusqlite::types::Type::Text, Box::new(e));
    let held: BTreeMap<String, iron_twin_core::stores::Held> =
        serde_json::from_str(&held).map_err(bad)?;
    Ok(OwnItem {
        id: row.get("id")?,
        version: row.get("version")?,
        item: Item {
            shelf: row.get("shelf")?,
            name: row.get("name")?,
            source: row.get("source")?,
            held,
        },
    })
}

/// The grower's own entries, read in a running transaction.
pub(crate) fn own(t: &Connection) -> Result<Vec<OwnItem>> {
    let mut statement = t.prepare_cached("SELECT * FROM store_item ORDER BY shelf, name")?;
    let found = statement
        .query_map([], from_row)?
        .collect::<rusqlite::Result<_>>()?;
    Ok(found)
}

/// Writes an entry where `old` stood, or a new one; the history keeps both.
fn write_item(
    t: &Connection,
    stamp: &Stamp,
    old: Option<&OwnItem>,
    item: &Item,
    action: &str,
) -> Result<OwnItem> {
    let (id, version) = old.map_or_else(|| (new_id(), 1), |o| (o.id.clone(), o.version + 1));
    let before = row(t, "store_item", &id)?;
    t.execute(
        "INSERT INTO store_item (id, shelf, name, source, held, at, version) VALUES (?1, ?2, \
         ?3, ?4, ?5, ?6, ?7) ON CONFLICT (id) DO UPDATE SET name = ?3, source = ?4, held = \
         ?5, at = ?6, version = ?7",
        (
            &id,
            &item.shelf,
            item.name.trim(),
            item.source.trim(),
            serde_json::to_string(&item.held)?,
            stamp.now.to_string(),
            version,
        ),
    )?;
    let after = row(t, "store_item", &id)?;
    append(
        t,
        stamp,
        Entry {
            trial: SHELVES,
            action,
            entity: "store_item",
            id: &id,
            before,
            after,
        },
    )?;
    Ok(OwnItem {
        id,
        version,
        item: item.clone(),
    })
}

fn find(t: &Connection, id: &str) -> Result<OwnItem> {
    t.query_row("SELECT * FROM store_item WHERE id = ?1", [id], from_row)
        .optional()?
        .ok_or_else(|| StoreError::NotFound {
            what: "entry",
            id: id.into(),
        })
}

fn named(t: &Connection, item: &Item) -> Result<Option<OwnItem>> {
    let sql = "SELECT * FROM store_item WHERE shelf = ?1 AND name = ?2";
    Ok(t.query_row(sql, (&item.shelf, item.name.trim()), from_row)
        .optional()?)
}

fn stale(sent: i64, stored: &OwnItem) -> StoreError {
    StoreError::Stale {
        what: stored.item.name.clone(),
        stored: format!("version {}", stored.version),
        sent: format!("version {sent}"),
    }
}

/// The farm's date when something is written.
fn today(t: &Connection, stamp: &Stamp) -> Result<Date> {
    Ok(stamp.now.to_zoned(crate::farm::farm(t)?.time_zone()).date())
}

impl Store {
    /// The grower's own entries, by shelf and name.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn own_items(&self) -> Result<Vec<OwnItem>> {
        self.read(|t| own(t))
    }

    /// All that stands on the shelves, generic entries included.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn shelves(&self) -> Result<Stores> {
        Ok(Stores::with_own(
            self.own_items()?.into_iter().map(|o| o.item).collect(),
        ))
    }

    /// Puts an entry on its shelf: a new one with version 0 and no id, else the change of an old
    /// one.
    ///
    /// # Errors
    /// [`StoreError::Refused`] from the core's check or for a name that is taken,
    /// [`StoreError::Stale`], [`StoreError::NotFound`].
    pub fn put_item(
        &self,
        stamp: &Stamp,
        id: Option<&str>,
        item: &Item,
        version: i64,
    ) -> Result<OwnItemId> {
        item.check().map_err(|e| StoreError::refused("held", e))?;
        self.write(stamp, |t| {
            let old = id.map(|id| find(t, id)).transpose()?;
            if let Some(old) = old.as_ref().filter(|o| o.version != version) {
                return Err(stale(version, old));
            }
            let same_name = named(t, item)?;
            if same_name.is_some_and(|other| old.as_ref().is_none_or(|o| o.id != other.id)) {
                return Err(StoreError::refused(
                    "name",
                    format!("'{}' stands on this shelf already", item.name.trim()),
                ));
            }
            let action = format!(
                "{} {}",
                if old.is_some() {
                    "changed"
                } else {
                    "put on the shelf:"
                },
                item.name.trim()
            );
            let item = item
                .clone()
                .priced(old.as_ref().map(|o| &o.item), today(t, stamp)?);
            let own = write_item(t, stamp, old.as_ref(), &item, &action)?;
            Ok(OwnItemId {
                id: own.id,
                version: own.version,
            })
        })
    }

    /// Takes an own entry off its shelf; the generic one of that name comes back.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Stale`].
    pub fn remove_item(&self, stamp: &Stamp, id: &str, version: i64) -> Result<()> {
        self.write(stamp, |t| {
            let old = find(t, id)?;
            if old.version != version {
                return Err(stale(version, &old));
            }
            let before = row(t, "store_item", id)?;
            t.execute("DELETE FROM store_item WHERE id = ?1", [id])?;
            let action = format!("took off the shelf: {}", old.item.name);
            append(
                t,
                stamp,
                Entry {
                    trial: SHELVES,
                    action: &action,
                    entity: "store_item",
                    id,
                    before,
                    after: None,
                },
            )
        })
    }

    /// Takes in a CSV file of one shelf, as a whole or not at all; entries of the same name are
    /// replaced. Returns how many there were.
    ///
    /// # Errors
    /// [`StoreError::Refused`], naming line and column.
    pub fn import_items(&self, stamp: &Stamp, shelf: &str, file: &[u8]) -> Result<usize> {
        let shelf = shelves::find(shelf).ok_or_else(|| StoreError::NotFound {
            what: "shelf",
            id: shelf.into(),
        })?;
        let items = csv::read(shelf, file).map_err(|e| StoreError::refused("file", e))?;
        self.write(stamp, |t| {
            let action = format!("took in {} {}", items.len(), shelf.name.to_lowercase());
            let (today, number) = (today(t, stamp)?, items.len());
            for item in items {
                let old = named(t, &item)?;
                let item = item.priced(old.as_ref().map(|o| &o.item), today);
                write_item(t, stamp, old.as_ref(), &item, &action)?;
            }
            Ok(number)
        })
    }

    /// Takes back one's own last write to the shelves; a file that was taken in, as a whole.
    ///
    /// # Errors
    /// [`StoreError::NothingToUndo`], [`StoreError::Stale`].
    pub fn undo_shelves(&self, stamp: &Stamp) -> Result<crate::history::Undone> {
        self.write(stamp, |t| {
            let last = |t: &Connection| -> Result<Option<(String, String)>> {
                let sql =
                    "SELECT at, action FROM history WHERE trial_id = ?1 AND who = ?2 AND undone = 0
                             AND entity = 'store_item' ORDER BY id DESC LIMIT 1";
                Ok(
                    t.query_row(sql, (SHELVES, &stamp.who), |r| Ok((r.get(0)?, r.get(1)?)))
                        .optional()?,
                )
            };
            let whole = last(t)?.ok_or(StoreError::NothingToUndo)?;
            let mut undone = crate::history::undo_last_of_shelves(t, stamp, SHELVES)?;
            while last(t)?.as_ref() == Some(&whole) {
                undone = crate::history::undo_last_of_shelves(t, stamp, SHELVES)?;
            }
            Ok(undone)
        })
    }
}

/// An entry as it was written.
#[derive(Debug, Clone, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
pub struct OwnItemId {
    /// Random id.
    pub id: String,
    /// Its version now.
    pub version: i64,
}
