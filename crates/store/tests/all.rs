//! The tests of the store, in one binary: each more would be linked and run by itself.

mod backup;
mod file;
mod given;
mod memory;
mod places;
mod series;
mod shelf;
mod stores;
mod together;
mod trial;
mod upgrade;
