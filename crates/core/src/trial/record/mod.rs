//! Records: what happens at the shelf, one file a kind.
//!
//! A kind is a value that implements [`kind::Record`]: it says what it corrects, who may write it
//! and when, what is refused and what is asked about, and its words for the diary. It stands on the
//! wire, in the outbox, in the file and in the package as this one value, under a [`head`] that is
//! worked out once for all kinds.
//!
//! A new kind is a file here and a line in [`ALL`].

pub mod answer;
pub mod decision;
pub mod giving;
pub mod gone;
pub mod guess;
pub mod head;
pub mod kind;
pub mod line_up;
pub mod look;
pub mod mix;
pub mod moved;
pub mod note;
pub mod photo;
pub mod pick;
pub mod reading;
pub mod refusal;
pub mod scorecard;
pub mod weather;
pub mod weighing;
pub mod work;
pub mod write_off;

use self::head::HeadSent;
use self::kind::Kind;
use serde::{Deserialize, Serialize};

/// All kinds of record.
pub static ALL: &[Kind] = &[
    Kind::of::<reading::Reading>(),
    Kind::of::<weighing::Weighing>(),
    Kind::of::<pick::Pick>(),
    Kind::of::<note::Note>(),
    Kind::of::<work::Work>(),
    Kind::of::<moved::Moved>(),
    Kind::of::<giving::Giving>(),
    Kind::of::<line_up::LineUp>(),
    Kind::of::<guess::Guess>(),
    Kind::of::<gone::Gone>(),
    Kind::of::<look::Look>(),
    Kind::of::<weather::Weather>(),
    Kind::of::<answer::Answer>(),
    Kind::of::<decision::Decision>(),
    Kind::of::<super::scorecard::Scorecard>(),
    Kind::of::<mix::Mix>(),
    Kind::of::<photo::Photo>(),
    Kind::of::<photo::PhotoMarked>(),
    Kind::of::<write_off::WriteOff>(),
];

/// The kind with this name.
#[must_use]
pub fn find(key: &str) -> Option<&'static Kind> {
    ALL.iter().find(|kind| kind.key == key)
}

/// A record as a device sends it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Sent {
    /// Its kind.
    pub kind: String,
    /// Of what it is, when, and over what: a [`HeadSent`].
    #[serde(default = "Sent::no_head")]
    pub head: serde_json::Value,
    /// Its value.
    pub body: serde_json::Value,
}

impl Sent {
    fn no_head() -> serde_json::Value {
        serde_json::Value::Object(serde_json::Map::new())
    }

    /// Its head; it is read by itself, so that a slip in one record is told of that one.
    ///
    /// # Errors
    /// What cannot be read in it.
    pub fn head(&self) -> serde_json::Result<HeadSent> {
        HeadSent::deserialize(&self.head)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeSet;

    #[test]
    fn every_kind_has_a_name_of_its_own() {
        let keys: BTreeSet<&str> = ALL.iter().map(|kind| kind.key).collect();
        assert_eq!(keys.len(), ALL.len());
        assert!(
            keys.iter()
                .all(|key| find(key).is_some_and(|kind| kind.key == *key))
        );
    }

    #[test]
    fn a_body_with_an_unknown_key_is_refused_by_its_name() {
        for kind in ALL {
            let error = (kind.read)(&serde_json::json!({ "nonsense": 1 }))
                .err()
                .map(|e| e.to_string());
            assert!(
                error.is_some_and(|e| e.contains("nonsense")),
                "{}",
                kind.key
            );
        }
    }
}
