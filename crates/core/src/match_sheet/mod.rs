//! Match: kinds of control. What is behind the names of the sheet stands in
//! [`crate::mix::composition`].

pub mod controls;
