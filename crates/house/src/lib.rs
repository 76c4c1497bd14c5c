//! The sources of the house, read as Rust: which module uses which ([`arrows`]), and how long
//! files and functions are, how much is told of them and by what names ([`measure`]). The tests
//! beside hold them to the limits; `cargo xtask house` prints the table.

pub mod arrows;
pub mod measure;
pub mod source;
