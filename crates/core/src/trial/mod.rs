//! The trial: its nouns, and what follows from them alone.

pub mod care;
pub mod feed;
pub mod question;
pub mod sheet;
pub mod site;
pub mod space;
pub mod starts;
