//! What a kind of record is: its value, what it corrects, who may write it and when, and its words.
//!
//! [`Record`] is written once for a kind, in the file of that kind; [`Kind`] is the same as a row
//! of the list of all kinds, for those who handle records whichever they are: the file, the wire,
//! the diary, undo.

use super::head::Head;
use super::refusal::{Of, Refusal, Stage};
use crate::trial::Trial;
use crate::trial::records::{Kept, RecordHead, Recorded, Records};
use iron_twin_terms::indices::UnitIndex;
use iron_twin_terms::role::Role;
use serde::de::DeserializeOwned;
use serde::{Deserialize, Serialize};
use std::any::Any;

/// A heading of the diary: under which of them a kind stands, and by which one looks it through.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = DiaryKind))]
#[serde(rename_all = "snake_case")]
pub enum Heading {
    /// Readings.
    Readings,
    /// Weights.
    Weights,
    /// Work done, left out and moved.
    Work,
    /// What was given.
    Given,
    /// Photos.
    Photos,
    /// Notes, and what else was seen and said.
    Notes,
    /// Mixes.
    Mixes,
    /// Changes of the plan, the deal, the seal, the key: no kind of record stands under it.
    Plan,
}

/// What stands in the place that a record is of.
#[derive(Debug, Clone, PartialEq)]
pub struct Stands {
    /// Its version.
    pub version: i64,
    /// Who wrote it.
    pub who: String,
}

/// What a record is held against before it is taken in.
#[derive(Debug)]
pub struct Desk<'a> {
    /// The trial.
    pub trial: &'a Trial,
    /// Its head.
    pub head: &'a Head,
    /// What stands in its place; None where nothing does, and for kinds whose records stand each by
    /// themselves.
    pub stands: Option<&'a Stands>,
    /// The value of the reading that stands there, and the last one of an earlier day; of readings
    /// alone.
    pub read: ReadBefore,
}

/// What was read before, in the same place and on earlier days.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct ReadBefore {
    /// On that day; None where nothing was, or it was marked as missing.
    pub that_day: Option<f64>,
    /// The last value of an earlier day.
    pub earlier: Option<f64>,
}

impl Desk<'_> {
    /// The unit that it is of.
    ///
    /// # Errors
    /// [`Refusal::Wrong`] where it is of none.
    pub fn unit(&self) -> Result<UnitIndex, Refusal> {
        self.head
            .unit
            .ok_or_else(|| Refusal::wrong("unit", "say of which unit"))
    }

    /// The code of its unit; empty for the trial as a whole.
    #[must_use]
    pub fn code(&self) -> &str {
        self.head.code(self.trial)
    }

    /// Version of what stands in its place; 0 where nothing does.
    #[must_use]
    pub fn version(&self) -> i64 {
        self.stands.map_or(0, |s| s.version)
    }

    /// Refuses what was written over something else than what stands.
    ///
    /// # Errors
    /// [`Refusal::Stale`].
    pub fn check_version(
        &self,
        what: impl Into<String>,
        stored: impl Into<String>,
        sent: impl Into<String>,
    ) -> Result<(), Refusal> {
        if self.version() == self.head.version {
            return Ok(());
        }
        Err(Refusal::Stale {
            what: what.into(),
            stored: stored.into(),
            sent: sent.into(),
        })
    }

    /// Asks, unless it was confirmed.
    ///
    /// # Errors
    /// [`Refusal::Unlikely`].
    pub fn ask(&self, asked: impl Into<String>) -> Result<(), Refusal> {
        if self.head.confirmed {
            Ok(())
        } else {
            Err(Refusal::Unlikely {
                asked: asked.into(),
            })
        }
    }

    /// Whose something is: that of whoever sends it where it was left out.
    ///
    /// # Errors
    /// [`Refusal::Wrong`] for a name of blanks, or one that is too long.
    pub fn name(&self, field: &'static str, name: &str) -> Result<String, Refusal> {
        let own = name.trim();
        if name.is_empty() {
            return Ok(self.head.who.to_string());
        }
        if own.is_empty() || own.chars().count() > MOST_NAME {
            return Err(Refusal::wrong(
                field,
                format!("say whose it is, in at most {MOST_NAME} letters"),
            ));
        }
        Ok(own.to_owned())
    }

    /// Refuses a record of a sample that is not there on its day.
    ///
    /// # Errors
    /// [`Refusal::Wrong`].
    pub fn check_sample_stands(&self) -> Result<(), Refusal> {
        let (Some(unit), Some(sample)) = (self.head.unit, self.head.sample) else {
            return Ok(());
        };
        match self.trial.why_gone(unit, sample, self.head.day) {
            Some(why) => Err(Refusal::wrong("sample", why)),
            None => Ok(()),
        }
    }
}

/// Words within a length, without blanks about them.
///
/// # Errors
/// [`Refusal::Wrong`] for too many letters.
pub fn tidied(field: &'static str, words: &str, most: usize) -> Result<String, Refusal> {
    let words = words.trim();
    if words.chars().count() > most {
        return Err(Refusal::wrong(field, format!("at most {most} letters")));
    }
    Ok(words.to_owned())
}

/// Longest name of somebody.
const MOST_NAME: usize = 80;
/// Longest note, and longest reason.
pub const MOST_LETTERS: usize = 4000;

/// A kind of record.
pub trait Record: Kept + Serialize + DeserializeOwned + Described {
    /// Of what it is.
    const OF: Of = Of::Trial;
    /// Whether the first of them seals the plan.
    const SEALS: bool = true;
    /// Whether it says what a treatment is: sealed for whoever must not know.
    const NAMES_TREATMENTS: bool = false;
    /// What somebody is told of it in its place who must not know.
    const SEALED_WORDS: &'static str = "";
    /// Whether it is sent as it is; one that is worked out here comes by a way of its own.
    const SENT: bool = true;
    /// Whether it can be taken back.
    const CAN_UNDO: bool = true;
    /// Whether it is written on the strength of the verdict, and so can be taken back once the key
    /// is open.
    const AFTERWARDS: bool = false;
    /// Where the diary tells it.
    const HEADING: Heading = Heading::Notes;

    /// Who may write it.
    #[must_use]
    fn may(role: Role) -> bool {
        role != Role::Viewer
    }

    /// When it may be written.
    #[must_use]
    fn stage(&self) -> Stage {
        Stage::Sown
    }

    /// The round that it is of.
    #[must_use]
    fn round(&self, trial: &Trial) -> u32 {
        trial.round
    }

    /// Its place beside unit, crop and sample, where a later one corrects the earlier; None where
    /// each stands by itself.
    #[must_use]
    fn place(&self, _head: &Head) -> Option<String> {
        None
    }

    /// Holds it against the trial, and tidies it.
    ///
    /// # Errors
    /// Why it is not taken in.
    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal>;

    /// What it did, in the words of the diary.
    #[must_use]
    fn told(&self, trial: &Trial, head: &Head) -> String;

    /// A refusal as whoever sent it may read it; the trial is with all its records.
    #[must_use]
    fn unseen(&self, refusal: Refusal, _trial: &Trial, _who: &str) -> Refusal {
        refusal
    }
}

/// A value that the API document describes.
#[cfg(feature = "schema")]
pub trait Described: utoipa::ToSchema {}
#[cfg(feature = "schema")]
impl<T: utoipa::ToSchema> Described for T {}
/// A value that the API document describes.
#[cfg(not(feature = "schema"))]
pub trait Described {}
#[cfg(not(feature = "schema"))]
impl<T> Described for T {}

/// A record of some kind, on its way in.
pub trait AnyRecord: Any + Send {
    /// See [`Record::stage`].
    fn stage(&self) -> Stage;
    /// See [`Record::round`].
    fn round(&self, trial: &Trial) -> u32;
    /// See [`Record::place`].
    fn place(&self, head: &Head) -> Option<String>;
    /// See [`Record::admit`].
    ///
    /// # Errors
    /// Why it is not taken in.
    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal>;
    /// See [`Record::told`].
    fn told(&self, trial: &Trial, head: &Head) -> String;
    /// See [`Record::unseen`].
    fn unseen(&self, refusal: Refusal, trial: &Trial, who: &str) -> Refusal;
    /// Its body, as file and wire have it.
    ///
    /// # Errors
    /// Where it cannot be written as JSON.
    fn body(&self) -> serde_json::Result<String>;
    /// Itself, for whoever knows its kind.
    fn as_any(&self) -> &dyn Any;
}

impl<R: Record> AnyRecord for R {
    fn stage(&self) -> Stage {
        Record::stage(self)
    }

    fn round(&self, trial: &Trial) -> u32 {
        Record::round(self, trial)
    }

    fn place(&self, head: &Head) -> Option<String> {
        Record::place(self, head)
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        Record::admit(self, desk)
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        Record::told(self, trial, head)
    }

    fn unseen(&self, refusal: Refusal, trial: &Trial, who: &str) -> Refusal {
        Record::unseen(self, refusal, trial, who)
    }

    fn body(&self) -> serde_json::Result<String> {
        serde_json::to_string(self)
    }

    fn as_any(&self) -> &dyn Any {
        self
    }
}

/// A record as it stands in the file, whatever its kind.
#[derive(Debug)]
pub struct Stored<'a> {
    /// Its number.
    pub no: i64,
    /// Of which unit.
    pub unit: Option<UnitIndex>,
    /// Its head.
    pub head: RecordHead,
    /// Its body.
    pub body: &'a str,
}

/// A kind of record, as a row of the list of all kinds.
#[derive(Debug)]
pub struct Kind {
    /// Its name on the wire, in the file and in the diary.
    pub key: &'static str,
    /// See [`Record::OF`].
    pub of: Of,
    /// See [`Record::SEALS`].
    pub seals: bool,
    /// See [`Record::NAMES_TREATMENTS`].
    pub names_treatments: bool,
    /// See [`Record::SEALED_WORDS`].
    pub sealed_words: &'static str,
    /// See [`Record::SENT`].
    pub sent: bool,
    /// See [`Record::CAN_UNDO`].
    pub can_undo: bool,
    /// See [`Record::AFTERWARDS`].
    pub afterwards: bool,
    /// See [`Record::HEADING`].
    pub heading: Heading,
    /// See [`Record::may`].
    pub may: fn(Role) -> bool,
    /// Reads a body as it was sent.
    pub read: fn(&serde_json::Value) -> serde_json::Result<Box<dyn AnyRecord>>,
    /// Takes one that stands in the file into the trial.
    pub keep: fn(Stored<'_>, &mut Records) -> serde_json::Result<()>,
    /// Describes its body: the name of the schema, and all that it refers to.
    #[cfg(feature = "schema")]
    pub schema: fn(&mut Schemas) -> String,
}

/// Schemas by their names, as the description of the API collects them.
#[cfg(feature = "schema")]
pub type Schemas = Vec<(String, utoipa::openapi::RefOr<utoipa::openapi::Schema>)>;

fn read<R: Record>(body: &serde_json::Value) -> serde_json::Result<Box<dyn AnyRecord>> {
    Ok(Box::new(R::deserialize(body)?))
}

fn keep<R: Record>(of: Stored<'_>, records: &mut Records) -> serde_json::Result<()> {
    let Stored {
        no,
        unit,
        head,
        body,
    } = of;
    records.put(Recorded {
        no,
        unit,
        head,
        is: serde_json::from_str::<R>(body)?,
    });
    Ok(())
}

#[cfg(feature = "schema")]
fn schema<R: Record>(all: &mut Schemas) -> String {
    // Told apart from views of the same: that of `line_up` is `LineUpRecord`.
    let capital = |word: &str| word[..1].to_uppercase() + &word[1..];
    let name = R::KIND.split('_').map(capital).collect::<String>() + "Record";
    all.push((name.clone(), R::schema()));
    R::schemas(all);
    name
}

impl Kind {
    /// The row of a kind.
    #[must_use]
    pub const fn of<R: Record>() -> Self {
        Self {
            key: R::KIND,
            of: R::OF,
            seals: R::SEALS,
            names_treatments: R::NAMES_TREATMENTS,
            sealed_words: R::SEALED_WORDS,
            sent: R::SENT,
            can_undo: R::CAN_UNDO,
            afterwards: R::AFTERWARDS,
            heading: R::HEADING,
            may: R::may,
            read: read::<R>,
            keep: keep::<R>,
            #[cfg(feature = "schema")]
            schema: schema::<R>,
        }
    }
}
