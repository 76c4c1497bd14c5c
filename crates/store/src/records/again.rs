//! Records that come again: under the key of one that was answered, in the place of one that was not,
//! or equal to what stands.

use super::Door;
use crate::error::{Result, StoreError};
use crate::standing::{Kept, Standing};
use crate::trial::{Loaded, load};
use iron_twin_core::trial::record::head::{Head, HeadSent};
use iron_twin_core::trial::record::kind::{AnyRecord, Kind, ReadBefore};
use iron_twin_core::trial::record::reading::Reading;
use iron_twin_core::trial::record::refusal::Refusal;
use rusqlite::OptionalExtension;
use sha2::{Digest, Sha256};

impl Door<'_> {
    /// What a request of this key was answered with; an error where it was for something else.
    pub(super) fn answered(&self, key: &str, body: &str) -> Result<Option<Kept>> {
        let sql = "SELECT body_sha256, response FROM request WHERE who = ?1 AND key = ?2";
        let known: Option<(String, String)> = self
            .t
            .prepare_cached(sql)?
            .query_row((&self.stamp.who, key), |r| Ok((r.get(0)?, r.get(1)?)))
            .optional()?;
        let Some((sha, response)) = known else {
            return Ok(None);
        };
        match serde_json::from_str(&response) {
            Ok(kept) if sha == body => Ok(Some(kept)),
            Ok(_) => Err(StoreError::KeyReused),
            // Answered before records had one shape: it was kept then, whatever it was called.
            Err(_) => Ok(Some(Kept {
                no: 0,
                version: response.parse().unwrap_or(1),
            })),
        }
    }

    /// What is compared where a key comes again.
    pub(super) fn digest(
        &self,
        kind: &Kind,
        sent: &HeadSent,
        is: &dyn AnyRecord,
    ) -> Result<String> {
        let body = serde_json::to_string(&(self.trial, kind.key, sent, is.body()?))?;
        let digest = Sha256::digest(body.as_bytes());
        Ok(digest.iter().map(|b| format!("{b:02x}")).collect())
    }

    /// What the requests left whose place a record takes, where one of them arrived.
    fn arrived(&self, sent: &HeadSent) -> Result<Option<Kept>> {
        let by = sent.taken_by.as_deref().unwrap_or(&self.stamp.who);
        let mut last = None;
        for key in &sent.instead_of {
            let sql = "SELECT response FROM request WHERE key = ?1 AND who IN (?2, ?3)";
            let response: Option<String> = self
                .t
                .prepare_cached(sql)?
                .query_row((key, &self.stamp.who, by), |r| r.get(0))
                .optional()?;
            // What was answered before records had one shape holds no number.
            let kept: Option<Kept> = response.and_then(|r| serde_json::from_str(&r).ok());
            last = kept.or(last);
        }
        Ok(last)
    }

    /// A record that is there already: sent before under another key, or equal to what stands.
    ///
    /// What it takes the place of is what it corrects, so its head has that version from here on.
    pub(super) fn already(
        &self,
        sent: &HeadSent,
        loaded: &Loaded,
        head: &mut Head,
        is: &dyn AnyRecord,
        (standing, read): (Option<&Standing>, ReadBefore),
    ) -> Result<Option<Kept>> {
        let reading = is.as_any().downcast_ref::<Reading>();
        let arrived = self.arrived(sent)?;
        let Some(own) = standing else {
            let by_itself = reading.is_none() && is.place(head).is_none();
            return Ok(arrived.filter(|_| by_itself));
        };
        if let Some(before) = arrived.filter(|kept| kept.no == own.no) {
            head.version = head.version.max(before.version);
        }
        if head.version == own.is.version || !self.is_equal(own, read, is, reading)? {
            return Ok(None);
        }
        // Whoever may not see what stands is not told that it is equal.
        let stale = Refusal::Stale {
            what: String::new(),
            stored: String::new(),
            sent: String::new(),
        };
        let whole = load(self.t, self.trial, Some(loaded.clone()))?;
        let told = is.unseen(stale.clone(), &whole.trial, &self.stamp.who);
        Ok((told == stale).then_some(Kept {
            no: own.no,
            version: own.is.version,
        }))
    }

    /// Whether what stands is what comes: there is nothing to correct then, and no conflict.
    fn is_equal(
        &self,
        standing: &Standing,
        read: ReadBefore,
        is: &dyn AnyRecord,
        reading: Option<&Reading>,
    ) -> Result<bool> {
        if let Some(reading) = reading {
            return Ok(!reading.again && read.that_day == reading.value);
        }
        let sql = "SELECT body FROM record WHERE no = ?1";
        let stands: String = self
            .t
            .prepare_cached(sql)?
            .query_row([standing.no], |r| r.get(0))?;
        let read = |body: &str| serde_json::from_str::<serde_json::Value>(body);
        Ok(read(&stands)? == read(&is.body()?)?)
    }

    /// Keeps the answer under the key of its request, where it has one.
    pub(super) fn answer(&self, sent: &HeadSent, body: String, kept: &Kept) -> Result<()> {
        let Some(key) = &sent.key else {
            return Ok(());
        };
        let sql = "INSERT INTO request (who, key, body_sha256, response, at) VALUES (?1, ?2, \
                       ?3, ?4, ?5)";
        let (who, now) = (&self.stamp.who, self.stamp.now.to_string());
        self.t
            .prepare_cached(sql)?
            .execute((who, key, body, serde_json::to_string(kept)?, now))?;
        Ok(())
    }
}
