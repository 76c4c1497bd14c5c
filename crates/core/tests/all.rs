//! The tests of the core, in one binary: each more would be linked and run by itself.

mod any_table;
mod calibrated;
mod crops;
mod designs;
mod designs_twins;
mod mixing;
mod photos;
mod recipes;
