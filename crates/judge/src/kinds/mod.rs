//! One file a kind of measure; what they share stands in `shared`.

pub(crate) mod amount;
mod count;
mod days;
mod dose;
mod score;
mod share;
mod shared;
mod tallies;

use super::places;
use super::question::{AnalyseError, Question};
use super::result::Analysis;
use super::table::Table;
use iron_twin_terms::kind::Kind;

/// Analyses a table by its kind of measure.
pub(crate) fn analyse(table: &Table, question: &Question) -> Result<Analysis, AnalyseError> {
    match table.kind {
        Kind::Amount => amount::analyse(table, question),
        Kind::Count => count::analyse(table, question),
        Kind::Share => share::analyse(table, question),
        Kind::Days => places::told_of_units(table, question, days::analyse),
        Kind::Score => places::told_of_units(table, question, score::analyse),
        Kind::Dose => dose::analyse(table, question),
    }
}
