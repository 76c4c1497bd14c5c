//! The trial as one value: its plan, its deal, its records, and what follows from them alone.
//!
//! The store loads a [`Trial`] once for a request; everything else reads it. Nothing here knows a
//! clock: the day comes in.

pub mod application;
pub mod care;
pub mod changes;
pub mod deal;
pub mod dealt;
pub mod decided;
pub mod feed;
pub mod gone;
pub mod hands;
pub mod line_up;
pub mod looks;
#[cfg(test)]
pub(crate) mod made_up;
pub mod picks;
pub mod plan;
pub mod question;
pub mod received;
pub mod record;
pub mod records;
pub mod scorecard;
pub mod sheet;
pub mod site;
pub mod space;
pub mod standing;
pub mod starts;
pub mod tank_day;
pub mod uptake;
mod value;
pub mod waves;

pub use value::{Reveal, Trial};

#[cfg(test)]
mod tests;
