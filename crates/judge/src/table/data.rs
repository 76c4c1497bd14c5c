//! The table as the analysis reads it.

use iron_twin_stats::linear::Observation;
use iron_twin_terms::dealing::Dealing;
use iron_twin_terms::kind::Kind;
use serde::Serialize;

/// One of several crossed factors, as the table has it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Factor {
    /// Name: that of its column.
    pub name: String,
    /// Levels, the reference first, the others as the file first names them.
    pub levels: Vec<String>,
}

/// What stands beside the measure in a row, as far as its kind wants it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RowExtras {
    /// Share: the n. Count: the exposure. Dose: the dose. Else 1.
    pub size: f64,
    /// Days: whether the event was seen.
    pub seen: bool,
    /// Days: last day on which it was not yet seen, where that is known.
    pub after: Option<f64>,
    /// The starting size that limited the deal; 0 where none did.
    pub start: f64,
    /// The day of the row; 0 where no column says it.
    pub day: f64,
}

/// A row that could not be used.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Dropped {
    /// Row as a spreadsheet counts it: the header is row 1.
    pub row: usize,
    /// What was wrong with it.
    pub why: String,
}

/// The table, ready for the analysis.
#[derive(Debug, Clone, PartialEq)]
pub struct Table {
    /// Kind of the measure.
    pub kind: Kind,
    /// Data rows in the file.
    pub rows: usize,
    /// Rows that were left out.
    pub dropped: Vec<Dropped>,
    /// Treatment names, control first, the others as the file first names them.
    pub treatments: Vec<String>,
    /// Block names as first named; empty where there are no blocks.
    pub blocks: Vec<String>,
    /// Names of the columns that cross the blocks; empty where there are none.
    pub columns: Vec<String>,
    /// The crossed factors; empty where there are none.
    pub factors: Vec<Factor>,
    /// For each treatment its level of each factor; empty where there are no factors.
    pub cells: Vec<Vec<usize>>,
    /// For each unit the lamp or pump that serves it; empty where there are none.
    pub fixtures: Vec<usize>,
    /// How the units were dealt.
    pub dealing: Dealing,
    /// Unit names; made from the row number where each row is a unit.
    pub units: Vec<String>,
    /// Whether a unit column was given.
    pub has_units: bool,
    /// Whether a column says the day of each row.
    pub has_days: bool,
    /// Whether a baseline column was given.
    pub has_baseline: bool,
    /// Days: whether a column says when the event was not yet seen.
    pub has_after: bool,
    /// The rows, with indices into the lists above.
    pub observations: Vec<Observation>,
    /// What stands beside each observation.
    pub beside: Vec<RowExtras>,
}
