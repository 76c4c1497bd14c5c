//! People with their roles, and their signed-in browsers.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::store::{Stamp, Store, new_id};
use rusqlite::{Connection, OptionalExtension, Row};
use sha2::{Digest, Sha256};

pub use iron_twin_terms::role::Role;

/// A role as the file has it.
fn key(role: Role) -> &'static str {
    match role {
        Role::Owner => "owner",
        Role::Recorder => "recorder",
        Role::Viewer => "viewer",
    }
}

/// Somebody who signs in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Person {
    /// Random id.
    pub id: String,
    /// Name, unique whatever the case of its letters.
    pub name: String,
    /// What they may do.
    pub role: Role,
    /// Argon2id hash of the passphrase.
    pub passphrase_hash: String,
}

/// Longest name of a person.
const MOST_LETTERS: usize = 60;

fn from_row(row: &Row<'_>) -> rusqlite::Result<Person> {
    let role: String = row.get("role")?;
    Ok(Person {
        id: row.get("id")?,
        name: row.get("name")?,
        role: [Role::Owner, Role::Recorder]
            .into_iter()
            .find(|r| key(*r) == role)
            .unwrap_or(Role::Viewer),
        passphrase_hash: row.get("passphrase_hash")?,
    })
}

fn owners(t: &Connection) -> Result<i64> {
    Ok(t.query_row(
        "SELECT count(*) FROM person WHERE role = 'owner'",
        [],
        |r| r.get(0),
    )?)
}

fn everybody(t: &Connection) -> Result<Vec<Person>> {
    let mut statement = t.prepare_cached("SELECT * FROM person ORDER BY name")?;
    let found = statement
        .query_map([], from_row)?
        .collect::<rusqlite::Result<_>>()?;
    Ok(found)
}

/// Whether two names are the same whatever the case of their letters, in any script: SQLite folds
/// those of ASCII alone.
fn same_name(a: &str, b: &str) -> bool {
    a.to_lowercase() == b.to_lowercase()
}

fn digest(session: &str) -> String {
    Sha256::digest(session.as_bytes())
        .iter()
        .map(|b| format!("{b:02x}"))
        .collect()
}

impl Store {
    /// Everybody who can sign in, by name.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn people(&self) -> Result<Vec<Person>> {
        self.read(|t| everybody(t))
    }

    /// Somebody by name, or by id.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn person(&self, name_or_id: &str) -> Result<Option<Person>> {
        let asked = name_or_id.trim();
        self.read(|t| {
            Ok(everybody(t)?
                .into_iter()
                .find(|p| p.id == asked || same_name(&p.name, asked)))
        })
    }

    /// Adds somebody. The first is an owner: else nobody could let anybody in.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a name that is taken or the first person not being an owner.
    pub fn add_person(
        &self,
        stamp: &Stamp,
        name: &str,
        role: Role,
        passphrase_hash: &str,
    ) -> Result<String> {
        let name = name.trim();
        if name.is_empty() || name.chars().count() > MOST_LETTERS || name == "owner" {
            return Err(StoreError::refused(
                "name",
                format!("a name has 1 to {MOST_LETTERS} letters, and is not 'owner'"),
            ));
        }
        self.write(stamp, |t| {
            if role != Role::Owner && owners(t)? == 0 {
                return Err(StoreError::refused(
                    "role",
                    "the first to be added is an owner, with a passphrase of their own",
                ));
            }
            if everybody(t)?.iter().any(|p| same_name(&p.name, name)) {
                return Err(StoreError::refused(
                    "name",
                    format!("there is somebody called '{name}' already"),
                ));
            }
            let id = new_id();
            t.execute(
                "INSERT INTO person (id, name, role, passphrase_hash, at) VALUES (?1, ?2, ?3, ?4, \
                 ?5)",
                (&id, name, key(role), passphrase_hash, stamp.now.to_string()),
            )?;
            let after = Some(serde_json::json!({ "name": name, "role": role }));
            append(
                t,
                stamp,
                Entry {
                    trial: "people",
                    action: "let in",
                    entity: "person",
                    id: &id,
                    before: None,
                    after,
                },
            )?;
            Ok(id)
        })
    }

    /// Takes somebody out; their browsers are signed out with them, their records stay under their
    /// name.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Locked`] for the last owner while others can sign
    /// in.
    pub fn remove_person(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            let person = t
                .query_row("SELECT * FROM person WHERE id = ?1", [id], from_row)
                .optional()?;
            let person = person.ok_or_else(|| StoreError::NotFound {
                what: "person",
                id: id.into(),
            })?;
            let all: i64 = t.query_row("SELECT count(*) FROM person", [], |r| r.get(0))?;
            if person.role == Role::Owner && owners(t)? == 1 && all > 1 {
                return Err(StoreError::locked(
                    "the last owner stays while others can sign in",
                ));
            }
            t.execute("DELETE FROM person WHERE id = ?1", [id])?;
            if all == 1 {
                t.execute("UPDATE farm SET ask_here = 0", [])?;
            }
            let before = Some(serde_json::json!({ "name": person.name, "role": person.role }));
            append(
                t,
                stamp,
                Entry {
                    trial: "people",
                    action: "took out",
                    entity: "person",
                    id,
                    before,
                    after: None,
                },
            )
        })
    }

    /// Whether this computer too asks who it is.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn asks_here(&self) -> Result<bool> {
        self.read(|t| {
            let asks = t
                .prepare_cached("SELECT ask_here FROM farm")?
                .query_row([], |r| r.get(0))
                .optional()?;
            Ok(asks.unwrap_or(false))
        })
    }

    /// Sets whether this computer too asks who it is.
    ///
    /// # Errors
    /// [`StoreError::Locked`] while there is no owner who could sign in.
    pub fn set_ask_here(&self, stamp: &Stamp, ask: bool) -> Result<()> {
        self.write(stamp, |t| {
            if ask && owners(t)? == 0 {
                return Err(StoreError::locked(
                    "add an owner with a passphrase first: else nobody could sign in",
                ));
            }
            t.execute(
                "INSERT INTO farm (id, name, zone, ask_here) VALUES (1, 'Your grow room', '', ?1)
                 ON CONFLICT (id) DO UPDATE SET ask_here = ?1",
                [ask],
            )?;
            let after = Some(serde_json::json!({ "ask_here": ask }));
            append(
                t,
                stamp,
                Entry {
                    trial: "people",
                    action: "asks here",
                    entity: "farm",
                    id: "1",
                    before: None,
                    after,
                },
            )
        })
    }

    /// Keeps a signed-in browser until a moment (Unix seconds); those that have run out are swept
    /// away.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn keep_session(
        &self,
        stamp: &Stamp,
        id: &str,
        person: Option<&str>,
        record: &str,
        until: i64,
    ) -> Result<()> {
        self.write(stamp, |t| {
            t.execute(
                "DELETE FROM session WHERE expires_at < ?1",
                [stamp.now.as_second()],
            )?;
            t.execute(
                "INSERT INTO session (id_sha256, person_id, record, expires_at) VALUES (?1, \
                 ?2, ?3, ?4) ON CONFLICT (id_sha256) DO UPDATE SET person_id = ?2, record = \
                 ?3, expires_at = ?4",
                (digest(id), person, record, until),
            )?;
            Ok(())
        })
    }

    /// What was kept for a signed-in browser that has not run out.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn session(&self, id: &str, now: i64) -> Result<Option<String>> {
        self.read(|t| {
            let sql = "SELECT record FROM session WHERE id_sha256 = ?1 AND expires_at >= ?2";
            Ok(t.query_row(sql, (digest(id), now), |r| r.get(0))
                .optional()?)
        })
    }

    /// Signs a browser out.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn end_session(&self, stamp: &Stamp, id: &str) -> Result<()> {
        self.write(stamp, |t| {
            t.execute("DELETE FROM session WHERE id_sha256 = ?1", [digest(id)])?;
            Ok(())
        })
    }
}
