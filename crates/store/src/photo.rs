//! Keeping photos: rows in the data file, pictures beside it under the hash of their content.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::rows::rows;
use crate::rows::{as_word, word};
use crate::standing::{check_open, check_round, unit};
use crate::store::{Stamp, Store, new_id, own_alone};

use crate::time::instant;
use iron_twin_core::tend::photo::{Figures, Marked};
use iron_twin_core::terms::indices::UnitIndex;
use jiff::Timestamp;
use rusqlite::{OptionalExtension, Row};
use sha2::{Digest, Sha256};
use std::io::Write;
use std::path::PathBuf;

/// From where a picture is taken.
#[derive(Debug, Clone, Copy, PartialEq, Eq, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum View {
    /// From above.
    Top,
    /// From the side.
    Side,
    /// Of the roots.
    Root,
}

/// A picture as it comes in: what is kept of it, and what the camera told.
#[derive(Debug, Clone, PartialEq)]
pub struct NewPhoto {
    /// Code of the unit.
    pub code: String,
    /// From where.
    pub view: View,
    /// Days since sowing.
    pub day: u32,
    /// When it was taken; None for now.
    pub at: Option<Timestamp>,
    /// `image/jpeg` or `image/png`.
    pub media: &'static str,
    /// Pixels in a row, turned upright.
    pub width: u32,
    /// Rows, turned upright.
    pub height: u32,
    /// As the camera wrote it, 1 to 8.
    pub orientation: u8,
    /// The picture, without what the camera told of the place.
    pub bytes: Vec<u8>,
}

/// A kept photo.
#[derive(Debug, Clone, PartialEq)]
pub struct Photo {
    /// Random id.
    pub id: String,
    /// Of which unit.
    pub unit: UnitIndex,
    /// From where.
    pub view: View,
    /// Hash of its content.
    pub sha256: String,
    /// `image/jpeg` or `image/png`.
    pub media: String,
    /// Pixels in a row, turned upright.
    pub width: u32,
    /// Rows, turned upright.
    pub height: u32,
    /// As the camera wrote it, 1 to 8.
    pub orientation: u8,
    /// What was marked in it.
    pub marked: Option<Marked>,
    /// What was measured.
    pub figures: Option<Figures>,
    /// Days since sowing.
    pub day: u32,
    /// When it was taken.
    pub at: Timestamp,
    /// Who entered it.
    pub who: String,
    /// Grows with every change.
    pub version: i64,
}

const COLUMNS: &str =
    "id, unit_no, view, sha256, media, width, height, orientation, marked, figures, day, at_us, who, version";

fn parsed<T: serde::de::DeserializeOwned>(text: Option<String>) -> rusqlite::Result<Option<T>> {
    let wrong = |e| rusqlite::Error::FromSqlConversionFailure(0, rusqlite::types::Type::Text, Box::new(e));
    text.map(|text| serde_json::from_str(&text).map_err(wrong)).transpose()
}

/// A photo of a row; None of a unit of a deal that no longer stands.
fn photo(r: &Row<'_>, place: impl Fn(i64) -> Option<UnitIndex>) -> rusqlite::Result<Option<Photo>> {
    let Some(unit) = place(r.get(1)?) else { return Ok(None) };
    Ok(Some(Photo {
        id: r.get(0)?,
        unit,
        view: word(r.get(2)?)?,
        sha256: r.get(3)?,
        media: r.get(4)?,
        width: r.get(5)?,
        height: r.get(6)?,
        orientation: r.get(7)?,
        marked: parsed(r.get(8)?)?,
        figures: parsed(r.get(9)?)?,
        day: r.get(10)?,
        at: instant(r.get(11)?),
        who: r.get(12)?,
        version: r.get(13)?,
    }))
}

impl Store {
    /// Folder of the pictures, beside the data file.
    #[must_use]
    pub fn photo_folder(&self) -> PathBuf {
        crate::backup::pictures_of(self.path())
    }

    /// The file of a picture, by the hash of its content.
    #[must_use]
    pub fn photo_file(&self, photo: &Photo) -> PathBuf {
        self.photo_folder().join(format!("{}.{}", photo.sha256, ending(&photo.media)))
    }

    /// Writes a picture under the hash of its content, whole or not at all, unless it is there already.
    fn keep_picture(&self, media: &str, bytes: &[u8]) -> Result<String> {
        let folder = self.photo_folder();
        let failed = |e: std::io::Error| match e.kind() {
            std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => StoreError::DiskFull,
            _ => StoreError::Unwritable { path: folder.display().to_string(), why: e.to_string() },
        };
        std::fs::create_dir_all(&folder).map_err(failed)?;
        let hash: String = Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect();
        let whole = folder.join(format!("{hash}.{}", ending(media)));
        if whole.exists() {
            return Ok(hash);
        }
        let half = folder.join(format!("{}.part", new_id()));
        let written = (|| {
            own_alone(&half)?;
            let mut file = std::fs::OpenOptions::new().write(true).open(&half)?;
            file.write_all(bytes)?;
            file.sync_all()?;
            std::fs::rename(&half, &whole)?;
            // The name is on the disk as well before the record says so.
            std::fs::File::open(&folder)?.sync_all()
        })();
        if written.is_err() {
            let _ = std::fs::remove_file(&half);
        }
        written.map_err(failed)?;
        Ok(hash)
    }

    /// Keeps a photo of a unit. Returns its id.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Locked`], [`StoreError::DiskFull`], [`StoreError::Unwritable`].
    pub fn add_photo(&self, stamp: &Stamp, id: &str, new: &NewPhoto) -> Result<String> {
        // The picture first: a record never points to nothing. One that no record points to is small harm.
        check_open(&*self.trial(id)?)?;
        let sha256 = self.keep_picture(new.media, &new.bytes)?;
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            check_open(trial)?;
            let unit = unit(trial, &new.code)?;
            check_round(trial, unit)?;
            t.seal(stamp, &loaded)?;
            let own = new_id();
            t.execute(
                "INSERT INTO photo (id, trial_no, unit_no, view, sha256, media, width, height, orientation, day, round, at_us,
                   entered_at_us, who, changed)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15)",
                rusqlite::params![
                    &own,
                    loaded.no,
                    loaded.units[unit],
                    as_word(new.view)?,
                    &sha256,
                    new.media,
                    new.width,
                    new.height,
                    new.orientation,
                    new.day,
                    trial.round,
                    new.at.unwrap_or(stamp.now).as_microsecond(),
                    stamp.now.as_microsecond(),
                    &stamp.who,
                    t.count_record(&loaded)?,
                ],
            )?;
            let no = t.last_insert_rowid();
            let action = format!("photo of {}, day {}", trial.units[unit].code, new.day);
            let after = row(t, "photo", no)?;
            let entry = Entry { trial: id, action: &action, entity: "photo", id: &no.to_string(), before: None, after };
            append(t, stamp, entry)?;
            Ok(own)
        })
    }

    /// Photos of a trial, oldest first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn photos(&self, id: &str) -> Result<Vec<Photo>> {
        self.read(|t| {
            let loaded = t.loaded(id)?;
            let sql = format!("SELECT {COLUMNS} FROM photo WHERE trial_no = ?1 ORDER BY day, at_us, no");
            let found = rows(t, &sql, [loaded.no], |r| photo(r, |no| loaded.places.get(&no).copied()))?;
            Ok(found.into_iter().flatten().collect())
        })
    }

    /// One photo of a trial.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn photo(&self, id: &str, photo_id: &str) -> Result<Photo> {
        self.read(|t| {
            let loaded = t.loaded(id)?;
            let sql = format!("SELECT {COLUMNS} FROM photo WHERE trial_no = ?1 AND id = ?2");
            let found = t
                .prepare_cached(&sql)?
                .query_row((loaded.no, photo_id), |r| photo(r, |no| loaded.places.get(&no).copied()))
                .optional()?;
            found.flatten().ok_or_else(|| StoreError::NotFound { what: "photo", id: photo_id.into() })
        })
    }

    /// Keeps what was marked in a photo and measured of it. Returns the version of the row.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Locked`], [`StoreError::Stale`].
    pub fn mark_photo(
        &self,
        stamp: &Stamp,
        id: &str,
        photo_id: &str,
        (marked, figures): (&Marked, &Figures),
        version: i64,
    ) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            check_open(&loaded.trial)?;
            let found: Option<(i64, i64, i64)> = t
                .prepare_cached("SELECT no, version, unit_no FROM photo WHERE trial_no = ?1 AND id = ?2")?
                .query_row((loaded.no, photo_id), |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)))
                .optional()?;
            let (no, stored, unit_no) =
                found.ok_or_else(|| StoreError::NotFound { what: "photo", id: photo_id.into() })?;
            if stored != version {
                return Err(StoreError::Stale {
                    what: "what is marked in this photo".into(),
                    stored: "other corners".into(),
                    sent: "yours".into(),
                });
            }
            let before = row(t, "photo", no)?;
            t.execute(
                "UPDATE photo SET marked = ?2, figures = ?3, version = version + 1, changed = ?4 WHERE no = ?1",
                (no, serde_json::to_string(marked)?, serde_json::to_string(figures)?, t.count_record(&loaded)?),
            )?;
            let code = loaded.places.get(&unit_no).map_or("", |unit| loaded.trial.units[*unit].code.as_str());
            let action = format!("measured a photo of {code}");
            let after = row(t, "photo", no)?;
            let entry = Entry { trial: id, action: &action, entity: "photo", id: &no.to_string(), before, after };
            append(t, stamp, entry)?;
            Ok(stored + 1)
        })
    }
}

fn ending(media: &str) -> &'static str {
    if media == "image/png" { "png" } else { "jpg" }
}
