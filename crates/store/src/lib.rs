//! The data file of Iron Twin: SQLite, one transaction a write with its history, nothing lost.
//!
//! [`Store`] opens the file and hands out [`Tx`], a running transaction that knows trials: it loads
//! one as a whole the first time and takes in only what is new afterwards. The modules named after
//! the stations write; `plan` keeps every version of a plan whole; `history` says who did what and
//! takes it back.
//!
//! ```
//! use iron_twin_store::{Stamp, Store};
//! let folder = tempfile::tempdir()?;
//! let store = Store::open(&folder.path().join("farm.sqlite"))?;
//! let id = store.create_trial(&Stamp::owner(jiff::Timestamp::now()), "Cress on two mats")?;
//! assert_eq!(store.trial(&id)?.plan.name, "Cress on two mats");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod across;
pub mod ask;
pub mod backup;
mod beside;
pub mod calendar;
pub mod care;
pub mod device;
pub mod error;
mod farm;
pub mod history;
pub mod match_sheet;
mod memory;
pub mod mix;
pub mod opening;
pub mod outline;
mod outlines;
pub mod people;
pub mod photo;
pub mod place;
pub mod plan;
mod readings;
pub mod records;
pub mod reveal;
mod rows;
pub mod series;
mod standing;
mod store;
pub mod stores;
pub mod tasting;
mod time;
mod transaction;
mod trial;
pub mod trials;
mod upgrade;
mod writer;

pub use error::{Result, StoreError};
pub use farm::Farm;
pub use store::{Stamp, Store};
pub use transaction::Tx;

/// A random name that nobody guesses, for something that is not kept.
#[must_use]
pub fn new_token() -> String {
    store::new_id()
}
