//! The tests of the verdicts, in one binary: each more would be linked and run by itself.

mod honest;
mod kinds;
mod kinds_twins;
mod reference;
mod sentences;
