//! Why a table is refused, each with its place and what to do.

/// Why a table is refused.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum TableError {
    /// Not text at all.
    #[error("byte {byte} is not UTF-8; save the file as CSV in UTF-8")]
    NotUtf8 {
        /// Offset of the first bad byte.
        byte: usize,
    },
    /// Nothing but white space, or a header alone.
    #[error("the file holds no data rows; it needs a header row and one row for each unit")]
    Empty,
    /// A name occurs twice in the header.
    #[error("row 1: the header names the column '{column}' twice; rename one of them")]
    DuplicateHeader {
        /// The name.
        column: String,
    },
    /// A named column is not there.
    #[error("row 1: there is no column '{column}'; the columns are {present}")]
    UnknownColumn {
        /// The name asked for.
        column: String,
        /// What is there.
        present: String,
    },
    /// One column was asked to be two things.
    #[error(
        "the column '{column}' cannot be both {first} and {second}; name two different columns"
    )]
    ColumnTwice {
        /// The name.
        column: String,
        /// First role.
        first: &'static str,
        /// Second role.
        second: &'static str,
    },
    /// More or fewer cells than the header has.
    #[error(
        "row {row}: has {got} cells where the header has {want}; check for a stray or missing \
         separator"
    )]
    Ragged {
        /// Row of the file.
        row: usize,
        /// Cells found.
        got: usize,
        /// Cells in the header.
        want: usize,
    },
    /// Infinite, or too large to be a measurement.
    #[error(
        "row {row}, column '{column}': '{text}' is not a size that can be measured; correct or \
         empty the cell"
    )]
    AbsurdValue {
        /// Row of the file.
        row: usize,
        /// Column.
        column: String,
        /// The cell.
        text: String,
    },
    /// A cell that must hold a number.
    #[error(
        "row {row}, column '{column}': '{text}' is not a number; fill it in or take the row out"
    )]
    NotANumber {
        /// Row of the file.
        row: usize,
        /// Column.
        column: String,
        /// The cell.
        text: String,
    },
    /// A count below zero or with a fraction.
    #[error(
        "row {row}, column '{column}': '{text}' cannot be counted; counts are whole numbers from \
         0 up"
    )]
    NotACount {
        /// Row of the file.
        row: usize,
        /// Column.
        column: String,
        /// The cell.
        text: String,
    },
    /// More out of n than n.
    #[error("row {row}: {k} out of {n} cannot be; check the columns '{column}' and '{out_of}'")]
    MoreThanAll {
        /// Row of the file.
        row: usize,
        /// The k.
        k: f64,
        /// The n.
        n: f64,
        /// Column of k.
        column: String,
        /// Column of n.
        out_of: String,
    },
    /// A day or dose below zero.
    #[error("row {row}, column '{column}': '{text}' is below zero; count from 0")]
    BelowZero {
        /// Row of the file.
        row: usize,
        /// Column.
        column: String,
        /// The cell.
        text: String,
    },
    /// Not yet seen on a day later than the one on which it was seen.
    #[error(
        "row {row}: not yet seen on day {after}, but seen on day {day}; exchange or correct the \
         two"
    )]
    SeenBefore {
        /// Row of the file.
        row: usize,
        /// Last day on which it was not yet seen.
        after: f64,
        /// Day on which it was seen.
        day: f64,
    },
    /// The kind needs a column that was not named.
    #[error("`kind` {kind} needs {option}")]
    ColumnMissing {
        /// Kind of measure.
        kind: &'static str,
        /// The option.
        option: &'static str,
    },
    /// No row could be used.
    #[error("column '{column}': no row holds a number; check the column and the decimal sign")]
    NoNumbers {
        /// Column.
        column: String,
    },
    /// The control does not occur.
    #[error("column '{column}': no row is '{control}'; the treatments are {present}")]
    ControlNotFound {
        /// Column.
        column: String,
        /// The name asked for.
        control: String,
        /// What is there.
        present: String,
    },
    /// Nothing to compare.
    #[error("column '{column}': only one treatment, '{only}'; a comparison needs at least two")]
    OneTreatment {
        /// Column.
        column: String,
        /// Its name.
        only: String,
    },
    /// Every row of a treatment had to be dropped.
    #[error(
        "treatment '{treatment}' lost all its rows (first: row {row}, {why}); mend them or take \
         the treatment out"
    )]
    TreatmentLost {
        /// Its name.
        treatment: String,
        /// The first row lost.
        row: usize,
        /// Why.
        why: String,
    },
    /// A unit was given two treatments, or stands in two blocks.
    #[error(
        "row {row}, column '{column}': unit '{unit}' already stands under {role} '{first}', here \
         under '{second}'; give each unit its own label"
    )]
    UnitTwice {
        /// Row of the file.
        row: usize,
        /// Unit column.
        column: String,
        /// Unit label.
        unit: String,
        /// `treatment` or `block`.
        role: &'static str,
        /// First value.
        first: String,
        /// Second value.
        second: String,
    },
    /// A treatment that stands for two combinations of the factors.
    #[error(
        "row {row}: '{treatment}' stands for '{first}', here for '{second}'; the control must \
         have every reference level, and each treatment one combination"
    )]
    LevelsChange {
        /// Row of the file.
        row: usize,
        /// Its name.
        treatment: String,
        /// Levels as first met; those of the control are the references.
        first: String,
        /// Levels here.
        second: String,
    },
    /// A factor in which nothing differs.
    #[error(
        "the factor '{factor}' has only the level '{level}'; with one level there is nothing to \
         compare"
    )]
    OneLevel {
        /// Its column.
        factor: String,
        /// Its one level.
        level: String,
    },
    /// A lamp or pump that carries two levels of what it decides.
    #[error(
        "row {row}: '{fixture}' already carries '{first}', here '{second}'; what a lamp or pump \
         decides is the same for all that it serves"
    )]
    FixtureTwice {
        /// Row of the file.
        row: usize,
        /// Its label.
        fixture: String,
        /// First level.
        first: String,
        /// Second level.
        second: String,
    },
}
