//! The tests of the demo, in one binary: each more would be linked and run by itself.

mod scenarios;
mod sentences;
