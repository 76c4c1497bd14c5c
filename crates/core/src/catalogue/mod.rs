//! What can be measured, read, done and set, and where plants can stand: one file each, with what
//! is refused as impossible and what is asked about as unlikely.

pub mod conditions;
pub mod deeds;
pub mod fixtures;
pub mod instruments;
pub mod logged;
pub mod measures;
pub mod own;
pub mod readings;
pub mod spaces;
