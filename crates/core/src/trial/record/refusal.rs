//! When a record can be written, of what, and why it is not taken in.

use std::borrow::Cow;

/// What a trial must be past, and not beyond, before something is recorded.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Stage {
    /// From the plan on, until the key is open.
    Planned,
    /// From the deal on, until the key is open.
    Dealt,
    /// From the sowing on, until the key is open.
    Sown,
    /// Once the key is open.
    Opened,
    /// At any time.
    Any,
}

/// Of what a record is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Of {
    /// Of one unit, of one of its crops, or of one of its samples.
    Part,
    /// Of one unit as a whole.
    Unit,
    /// Of one unit as a whole, or of the trial.
    UnitOrTrial,
    /// Of the trial.
    Trial,
}

/// Why a record was not taken in.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum Refusal {
    /// Nothing under that name.
    #[error("there is no {what} '{id}'")]
    NotFound {
        /// `unit`, `treatment`, `photo`.
        what: &'static str,
        /// The name.
        id: String,
    },
    /// The trial is not where this can be recorded.
    #[error("{0}")]
    Locked(Cow<'static, str>),
    /// Something else stands there than what this was written over.
    #[error("{what} was changed meanwhile: it is now {stored}, and you sent {sent}")]
    Stale {
        /// What was written to.
        what: String,
        /// What stands there now.
        stored: String,
        /// What came.
        sent: String,
    },
    /// It was taken under a deal that is no more.
    #[error(
        "The treatments were dealt again since this was taken, so its code may be on another unit \
         now. Find out which unit it was and record it there."
    )]
    DealtAgain,
    /// It cannot be.
    #[error("{why}")]
    Wrong {
        /// The field, as the wire names it.
        field: &'static str,
        /// What is wrong with it.
        why: String,
    },
    /// It can be, but hardly; the same with `confirmed` is taken.
    #[error("{asked}")]
    Unlikely {
        /// The question.
        asked: String,
    },
    /// Who sends it may not record this.
    #[error("Only the owner records this. Nothing was changed.")]
    NotYours,
    /// It names a treatment, and who sends it may not know the key.
    #[error("This tells what each treatment gets; it opens to recorders and viewers with the key.")]
    Sealed,
}

impl Refusal {
    /// A field that cannot be so.
    #[must_use]
    pub fn wrong(field: &'static str, why: impl ToString) -> Self {
        Self::Wrong {
            field,
            why: why.to_string(),
        }
    }

    /// A trial that is not where this can be recorded.
    #[must_use]
    pub fn locked(why: impl Into<Cow<'static, str>>) -> Self {
        Self::Locked(why.into())
    }
}
