//! The tests of the house, in one binary: each more would be linked and run by itself.

mod arrows;
mod limits;
