//! Keeping photos: records in the data file, pictures beside it under the hash of their content.

use crate::error::{Result, StoreError};
use crate::records::{Incoming, Kept};
use crate::store::{Stamp, Store, new_id, own_alone};
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::photo::{Photo, PhotoMarked, View};
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_photo::{Figures, Marked};
use iron_twin_terms::role::Role;
use sha2::{Digest, Sha256};
use std::io::Write;
use std::path::PathBuf;

/// A picture as it comes in: what is kept of it, and what the camera told.
#[derive(Debug, Clone, PartialEq)]
pub struct NewPhoto {
    /// From where.
    pub view: View,
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

/// A photo that was kept.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeptPhoto {
    /// Its random id.
    pub id: String,
    /// Its record.
    pub kept: Kept,
}

/// What somebody marked in a photo, and what was measured of it.
#[derive(Debug, Clone, PartialEq)]
pub struct NewMarks {
    /// Id of the photo.
    pub photo: String,
    /// What was marked.
    pub marked: Marked,
    /// What was measured.
    pub figures: Figures,
    /// Version of the marks that these stand in place of; 0 where there were none.
    pub version: i64,
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
        self.photo_folder()
            .join(format!("{}.{}", photo.sha256, ending(&photo.media)))
    }

    /// Writes a picture under the hash of its content, whole or not at all, unless it is there
    /// already.
    fn keep_picture(&self, media: &str, bytes: &[u8]) -> Result<String> {
        let folder = self.photo_folder();
        let failed = |e: std::io::Error| match e.kind() {
            std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => {
                StoreError::DiskFull
            }
            _ => StoreError::Unwritable {
                path: folder.display().to_string(),
                why: e.to_string(),
            },
        };
        std::fs::create_dir_all(&folder).map_err(failed)?;
        let hash: String = Sha256::digest(bytes)
            .iter()
            .map(|b| format!("{b:02x}"))
            .collect();
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

    /// Keeps a photo of a unit.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Locked`], [`StoreError::DiskFull`],
    /// [`StoreError::Unwritable`].
    pub fn add_photo(
        &self,
        stamp: &Stamp,
        role: Role,
        id: &str,
        head: HeadSent,
        new: &NewPhoto,
    ) -> Result<KeptPhoto> {
        // The picture first: a record never points to nothing. One that no record points to is
        // small harm.
        if self.trial(id)?.reveal.is_some() {
            return Err(StoreError::locked(
                "the key is open: records can no longer change",
            ));
        }
        let sha256 = self.keep_picture(new.media, &new.bytes)?;
        let photo = Photo {
            id: new_id(),
            view: new.view,
            sha256,
            media: new.media.to_owned(),
            width: new.width,
            height: new.height,
            orientation: new.orientation,
        };
        let own = photo.id.clone();
        let list = Incoming::of(head, photo).into_iter().collect();
        let kept = self.record(stamp, role, id, list)?.into_iter().next();
        let unknown = StoreError::NotFound {
            what: "kind of record",
            id: "photo".into(),
        };
        Ok(KeptPhoto {
            id: own,
            kept: kept.ok_or(unknown)?,
        })
    }

    /// Keeps what was marked in a photo and measured of it, and what that says of its unit among
    /// the readings of its day: all of it, or nothing.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Locked`], [`StoreError::Stale`].
    pub fn mark_photo(&self, stamp: &Stamp, role: Role, id: &str, new: &NewMarks) -> Result<Kept> {
        let trial = self.trial(id)?;
        let unknown = || StoreError::NotFound {
            what: "photo",
            id: new.photo.clone(),
        };
        let (unit, photo) = trial.records.photo(&new.photo).ok_or_else(unknown)?;
        let head = HeadSent {
            unit: Some(trial.units[unit].code.clone()),
            day: Some(photo.head.day),
            at: Some(photo.head.at),
            confirmed: true,
            ..HeadSent::default()
        };
        let marks = PhotoMarked {
            photo: photo.id.clone(),
            marked: new.marked,
            figures: new.figures,
        };
        let mut list = vec![Incoming::of(
            HeadSent {
                version: new.version,
                ..head.clone()
            },
            marks,
        )];
        for (key, value) in trial.readings_of_photo(photo.view, &new.figures) {
            let own = trial.of_unit(unit).readings.iter();
            let before = own
                .rev()
                .find(|r| r.reading == key && r.head.day == photo.head.day);
            let version = before.map_or(0, |r| r.head.version);
            let reading = Reading {
                reading: key.to_owned(),
                value,
                again: false,
            };
            list.push(Incoming::of(
                HeadSent {
                    version,
                    ..head.clone()
                },
                reading,
            ));
        }
        let kept = self.record(stamp, role, id, list.into_iter().flatten().collect())?;
        kept.into_iter().next().ok_or_else(unknown)
    }
}

fn ending(media: &str) -> &'static str {
    if media == "image/png" { "png" } else { "jpg" }
}
