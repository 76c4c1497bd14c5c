//! The tests of the command, in one binary: each more would be linked and run by itself.

mod analyse;
mod backup;
mod mix;
mod opening;
mod photo_kills;
mod plans;
mod power;
mod serving;
mod taste;
