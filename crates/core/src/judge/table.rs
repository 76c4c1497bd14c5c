//! A plain CSV table, as anybody might bring it, read into units, treatments and blocks.
//!
//! UTF-8 with or without a byte-order mark, CRLF, comma, semicolon or tab, decimal points or commas. What cannot be
//! used is dropped row by row and listed; what makes the whole table doubtful is refused with row and column.

use crate::ask::measures::Kind;
use crate::stats::linear::Observation;
use serde::Serialize;
use std::collections::HashMap;

/// Values beyond this are taken for a slip of the keyboard or a broken export.
pub const LARGEST_VALUE: f64 = 1e15;

/// Which columns hold what.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Columns {
    /// What kind of measure it is: says which of the columns below are read.
    pub kind: Kind,
    /// What was measured.
    pub measure: String,
    /// What was given.
    pub treatment: String,
    /// The treatment that the others are compared with.
    pub control: String,
    /// Alike units compared with each other.
    pub block: Option<String>,
    /// Rows with the same value are samples of one unit.
    pub unit: Option<String>,
    /// Starting size.
    pub baseline: Option<String>,
    /// The n of k out of n, for shares.
    pub out_of: Option<String>,
    /// Plants, area or days behind a count; 1 where left out.
    pub exposure: Option<String>,
    /// Days: whether the event was seen on that day.
    pub seen: Option<String>,
    /// Days: last day on which it was not yet seen.
    pub after: Option<String>,
    /// The numeric dose; takes the place of the treatment.
    pub dose: Option<String>,
}

/// What stands beside the measure in a row, as far as its kind wants it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Beside {
    /// Share: the n. Count: the exposure. Dose: the dose. Else 1.
    pub size: f64,
    /// Days: whether the event was seen.
    pub seen: bool,
    /// Days: last day on which it was not yet seen, where that is known.
    pub after: Option<f64>,
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
    /// Unit names; made from the row number where each row is a unit.
    pub units: Vec<String>,
    /// Whether a unit column was given.
    pub has_units: bool,
    /// Whether a baseline column was given.
    pub has_baseline: bool,
    /// Days: whether a column says when the event was not yet seen.
    pub has_after: bool,
    /// The rows, with indices into the lists above.
    pub observations: Vec<Observation>,
    /// What stands beside each observation.
    pub beside: Vec<Beside>,
}

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
    #[error("the column '{column}' cannot be both {first} and {second}; name two different columns")]
    ColumnTwice {
        /// The name.
        column: String,
        /// First role.
        first: &'static str,
        /// Second role.
        second: &'static str,
    },
    /// More or fewer cells than the header has.
    #[error("row {row}: has {got} cells where the header has {want}; check for a stray or missing separator")]
    Ragged {
        /// Row of the file.
        row: usize,
        /// Cells found.
        got: usize,
        /// Cells in the header.
        want: usize,
    },
    /// Infinite, or too large to be a measurement.
    #[error("row {row}, column '{column}': '{text}' is not a size that can be measured; correct or empty the cell")]
    AbsurdValue {
        /// Row of the file.
        row: usize,
        /// Column.
        column: String,
        /// The cell.
        text: String,
    },
    /// A count below zero or with a fraction.
    #[error("row {row}, column '{column}': '{text}' cannot be counted; counts are whole numbers from 0 up")]
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
    #[error("row {row}: not yet seen on day {after}, but seen on day {day}; exchange or correct the two")]
    SeenBefore {
        /// Row of the file.
        row: usize,
        /// Last day on which it was not yet seen.
        after: f64,
        /// Day on which it was seen.
        day: f64,
    },
    /// The kind needs a column that was not named.
    #[error("--kind {kind} needs {option}")]
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
    #[error("treatment '{treatment}' lost all its rows (first: row {row}, {why}); mend them or take the treatment out")]
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
        "row {row}, column '{column}': unit '{unit}' already stands under {role} '{first}', here under '{second}'; give each unit its own label"
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
}

/// Names in order of first appearance.
#[derive(Default)]
struct Names {
    index: HashMap<String, usize>,
    list: Vec<String>,
}

impl Names {
    fn number(&mut self, name: &str) -> usize {
        if let Some(&i) = self.index.get(name) {
            return i;
        }
        self.index.insert(name.to_owned(), self.list.len());
        self.list.push(name.to_owned());
        self.list.len() - 1
    }
}

fn listed(names: &[String]) -> String {
    const SHOWN: usize = 12;
    let shown: Vec<String> = names.iter().take(SHOWN).map(|n| format!("'{n}'")).collect();
    let more = if names.len() > SHOWN { format!(" and {} more", names.len() - SHOWN) } else { String::new() };
    format!("{}{more}", shown.join(", "))
}

/// The separator that the header uses most, outside quotes; a comma where none occurs.
fn separator(text: &str) -> u8 {
    let header = text.lines().next().unwrap_or_default();
    let mut counts = [(b'\t', 0), (b';', 0), (b',', 0)];
    let mut quoted = false;
    for byte in header.bytes() {
        quoted ^= byte == b'"';
        if !quoted && let Some(entry) = counts.iter_mut().find(|c| c.0 == byte) {
            entry.1 += 1;
        }
    }
    // On a tie the separator that can least be part of a name wins; a lone column has none.
    counts.iter().rev().max_by_key(|c| c.1).filter(|c| c.1 > 0).map_or(b',', |c| c.0)
}

/// What a cell holds.
enum Cell {
    Number(f64),
    NotANumber,
    Absurd,
}

fn number(text: &str) -> Cell {
    let trimmed = text.trim();
    let parsed = trimmed.parse::<f64>().or_else(|error| {
        // A decimal comma: one comma, and nothing that a point would claim.
        if trimmed.matches(',').count() == 1 && !trimmed.contains('.') {
            trimmed.replace(',', ".").parse()
        } else {
            Err(error)
        }
    });
    match parsed {
        Ok(v) if v.is_nan() => Cell::NotANumber,
        Ok(v) if v.abs() > LARGEST_VALUE => Cell::Absurd,
        Ok(v) => Cell::Number(v),
        Err(_) => Cell::NotANumber,
    }
}

struct Places {
    measure: usize,
    treatment: usize,
    block: Option<usize>,
    unit: Option<usize>,
    baseline: Option<usize>,
    /// The n, the exposure or the dose.
    size: Option<usize>,
    seen: Option<usize>,
    after: Option<usize>,
}

impl Columns {
    /// The column that says how the rows were treated: for doses, the dose itself.
    #[must_use]
    pub fn treated_by(&self) -> &str {
        match (&self.dose, self.kind) {
            (Some(dose), Kind::Dose) => dose,
            _ => &self.treatment,
        }
    }

    /// The column of the n, the exposure or the dose.
    fn size(&self) -> Result<Option<&String>, TableError> {
        let missing = |option| TableError::ColumnMissing { kind: self.kind.word(), option };
        match self.kind {
            Kind::Share => self.out_of.as_ref().map(Some).ok_or(missing("--out-of COL: the n of k out of n")),
            Kind::Dose => self.dose.as_ref().map(Some).ok_or(missing("--dose COL: the numeric dose")),
            Kind::Count => Ok(self.exposure.as_ref()),
            Kind::Amount | Kind::Days | Kind::Score => Ok(None),
        }
    }
}

fn places(header: &[String], columns: &Columns) -> Result<Places, TableError> {
    for (i, name) in header.iter().enumerate() {
        if header[..i].contains(name) {
            return Err(TableError::DuplicateHeader { column: name.clone() });
        }
    }
    let find = |name: &String| {
        header
            .iter()
            .position(|h| h == name.trim())
            .ok_or_else(|| TableError::UnknownColumn { column: name.clone(), present: listed(header) })
    };
    let size = columns.size()?;
    let treated_by = columns.treated_by().to_owned();
    let (seen, after) = if columns.kind == Kind::Days { (&columns.seen, &columns.after) } else { (&None, &None) };
    let roles = [
        ("the measure", Some(&columns.measure)),
        ("the treatment", Some(&treated_by)),
        ("the block", columns.block.as_ref()),
        ("the unit", columns.unit.as_ref()),
        ("the baseline", columns.baseline.as_ref()),
        ("what it is taken out of", size.filter(|_| columns.kind != Kind::Dose)),
        ("whether it was seen", seen.as_ref()),
        ("the day before", after.as_ref()),
    ];
    for (i, (second, name)) in roles.iter().enumerate() {
        if let Some((first, _)) = roles[..i].iter().find(|(_, other)| other.is_some() && other == name) {
            let column = name.map(String::clone).unwrap_or_default();
            return Err(TableError::ColumnTwice { column, first, second });
        }
    }
    Ok(Places {
        measure: find(&columns.measure)?,
        treatment: find(&treated_by)?,
        block: columns.block.as_ref().map(find).transpose()?,
        unit: columns.unit.as_ref().map(find).transpose()?,
        baseline: columns.baseline.as_ref().map(find).transpose()?,
        size: size.map(find).transpose()?,
        seen: seen.as_ref().map(find).transpose()?,
        after: after.as_ref().map(find).transpose()?,
    })
}

/// Reads a CSV table.
///
/// # Errors
/// [`TableError`], naming row and column and what to do.
///
/// ```
/// use iron_twin_core::judge::table::{read, Columns};
/// let csv = "feed;weight\nwater;1,5\nfull;2,5\nfull;n/a\n";
/// let columns = Columns { measure: "weight".into(), treatment: "feed".into(), control: "water".into(), ..Columns::default() };
/// let table = read(csv.as_bytes(), &columns)?;
/// assert_eq!(table.observations.len(), 2);
/// assert_eq!(table.dropped[0].row, 4);
/// # Ok::<(), iron_twin_core::judge::table::TableError>(())
/// ```
pub fn read(bytes: &[u8], columns: &Columns) -> Result<Table, TableError> {
    let text = std::str::from_utf8(bytes).map_err(|e| TableError::NotUtf8 { byte: e.valid_up_to() + 1 })?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(separator(text))
        .from_reader(text.as_bytes());
    let mut records = reader.records().filter_map(Result::ok);
    let header: Vec<String> = records.next().ok_or(TableError::Empty)?.iter().map(|c| c.trim().to_owned()).collect();
    if header.iter().all(String::is_empty) {
        return Err(TableError::Empty);
    }
    let places = places(&header, columns)?;
    let mut gather = Gather::new(columns, places);
    for record in records {
        // The line in the file, so that blank lines count as a spreadsheet counts them.
        let row = record.position().map_or(0, |p| p.line() as usize);
        if record.len() != header.len() {
            return Err(TableError::Ragged { row, got: record.len(), want: header.len() });
        }
        gather.take(row, &record)?;
    }
    gather.finish()
}

struct Gather<'a> {
    columns: &'a Columns,
    places: Places,
    rows: usize,
    dropped: Vec<Dropped>,
    treatments: Names,
    blocks: Names,
    units: Names,
    /// Treatment and block of each unit, as first seen.
    homes: Vec<(usize, usize)>,
    /// First dropped row of each treatment.
    lost: HashMap<usize, Dropped>,
    observations: Vec<Observation>,
    beside: Vec<Beside>,
}

/// The numbers of a row, and what stands beside them.
struct Numbers {
    value: f64,
    baseline: f64,
    beside: Beside,
}

impl<'a> Gather<'a> {
    fn new(columns: &'a Columns, places: Places) -> Self {
        let mut treatments = Names::default();
        if columns.kind != Kind::Dose {
            treatments.number(columns.control.trim());
        }
        Self {
            columns,
            places,
            rows: 0,
            dropped: Vec::new(),
            treatments,
            blocks: Names::default(),
            units: Names::default(),
            homes: Vec::new(),
            lost: HashMap::new(),
            observations: Vec::new(),
            beside: Vec::new(),
        }
    }

    fn drop_row(&mut self, row: usize, treatment: Option<usize>, why: String) {
        let dropped = Dropped { row, why };
        if let Some(treatment) = treatment {
            self.lost.entry(treatment).or_insert_with(|| dropped.clone());
        }
        self.dropped.push(dropped);
    }

    fn take(&mut self, row: usize, record: &csv::StringRecord) -> Result<(), TableError> {
        self.rows += 1;
        let cell = |i: usize| record.get(i).unwrap_or_default().trim();
        let treatment_name = cell(self.places.treatment);
        if treatment_name.is_empty() {
            self.drop_row(row, None, format!("{} is empty", self.columns.treated_by()));
            return Ok(());
        }
        let treatment = self.treatments.number(treatment_name);
        let labels = [("block", self.places.block), ("unit", self.places.unit)];
        for (role, place) in labels {
            if place.is_some_and(|i| cell(i).is_empty()) {
                self.drop_row(row, Some(treatment), format!("the {role} is empty"));
                return Ok(());
            }
        }
        let numbers = match self.numbers(row, record)? {
            Ok(numbers) => numbers,
            Err(why) => {
                self.drop_row(row, Some(treatment), why);
                return Ok(());
            }
        };
        let block = self.places.block.map_or(0, |i| self.blocks.number(cell(i)));
        let unit = self.unit(row, treatment, block, self.places.unit.map(cell))?;
        let (value, baseline) = (numbers.value, numbers.baseline);
        self.observations.push(Observation { value, treatment, block, baseline, unit });
        self.beside.push(numbers.beside);
        Ok(())
    }

    /// The numbers of a row; the inner error says why the row cannot be used, the outer why the file cannot.
    fn numbers(&self, row: usize, record: &csv::StringRecord) -> Result<Result<Numbers, String>, TableError> {
        let columns = self.columns;
        let text = |place: usize| record.get(place).unwrap_or_default().trim();
        let mut unusable = None;
        let mut read = |place: Option<usize>, column: Option<&String>, usual: f64| -> Result<f64, TableError> {
            let (Some(place), Some(column)) = (place, column) else { return Ok(usual) };
            match number(text(place)) {
                Cell::Number(v) => return Ok(v),
                Cell::Absurd => {
                    return Err(TableError::AbsurdValue { row, column: column.clone(), text: text(place).to_owned() });
                }
                Cell::NotANumber if text(place).is_empty() => {
                    unusable.get_or_insert_with(|| format!("{column} is empty"));
                }
                Cell::NotANumber => {
                    unusable.get_or_insert_with(|| format!("{column} is not a number: '{}'", text(place)));
                }
            }
            Ok(usual)
        };
        let value = read(Some(self.places.measure), Some(&columns.measure), 0.0)?;
        let baseline = read(self.places.baseline, columns.baseline.as_ref(), 0.0)?;
        let size_column = columns.size()?;
        let size = read(self.places.size, size_column, 1.0)?;
        let after = match self.places.after.filter(|&i| !text(i).is_empty()) {
            Some(place) => Some(read(Some(place), columns.after.as_ref(), 0.0)?),
            None => None,
        };
        let seen = match self.places.seen.map(|i| (text(i), text(i).to_lowercase())) {
            None => true,
            Some((_, word)) if ["yes", "true", "1"].contains(&word.as_str()) => true,
            Some((_, word)) if ["no", "false", "0"].contains(&word.as_str()) => false,
            Some((said, _)) => {
                unusable.get_or_insert_with(|| {
                    format!("{} is neither yes nor no: '{said}'", columns.seen.as_deref().unwrap_or_default())
                });
                true
            }
        };
        if let Some(why) = unusable {
            return Ok(Err(why));
        }
        let beside = Beside { size, seen, after };
        Ok(self
            .check_kind(row, value, &beside, (text(self.places.measure), self.places.size.map(text)))?
            .map_or(Ok(Numbers { value, baseline, beside }), Err))
    }

    /// What the kind of measure asks of a row. Some with the reason where the row alone is left out.
    fn check_kind(
        &self,
        row: usize,
        value: f64,
        beside: &Beside,
        (value_text, size_text): (&str, Option<&str>),
    ) -> Result<Option<String>, TableError> {
        let columns = self.columns;
        let column = columns.measure.clone();
        let size_column = columns.size()?.cloned().unwrap_or_default();
        let below = |column: &str, text: &str| TableError::BelowZero { row, column: column.into(), text: text.into() };
        let not_whole = |v: f64| v < 0.0 || v.fract() != 0.0;
        match columns.kind {
            Kind::Count | Kind::Share if not_whole(value) => {
                Err(TableError::NotACount { row, column, text: value_text.into() })
            }
            Kind::Share if not_whole(beside.size) => {
                let text = size_text.unwrap_or_default().into();
                Err(TableError::NotACount { row, column: size_column, text })
            }
            Kind::Share if value > beside.size => {
                Err(TableError::MoreThanAll { row, k: value, n: beside.size, column, out_of: size_column })
            }
            Kind::Share if beside.size == 0.0 => Ok(Some(format!("{size_column} is 0: nothing was looked at"))),
            Kind::Count if beside.size < 0.0 => Err(below(&size_column, size_text.unwrap_or_default())),
            Kind::Count if beside.size == 0.0 => Ok(Some(format!("{size_column} is 0: there was nothing to count on"))),
            Kind::Dose if beside.size < 0.0 => Err(below(&size_column, size_text.unwrap_or_default())),
            Kind::Days if value < 0.0 => Err(below(&column, value_text)),
            Kind::Days => match beside.after {
                Some(after) if beside.seen && after > value => Err(TableError::SeenBefore { row, after, day: value }),
                _ => Ok(None),
            },
            _ => Ok(None),
        }
    }

    fn unit(&mut self, row: usize, treatment: usize, block: usize, label: Option<&str>) -> Result<usize, TableError> {
        let unit = match label {
            Some(label) => self.units.number(label),
            None => self.units.number(&format!("row {row}")),
        };
        if unit == self.homes.len() {
            self.homes.push((treatment, block));
            return Ok(unit);
        }
        let home = self.homes[unit];
        let clash = |role, first: &str, second: &str| TableError::UnitTwice {
            row,
            column: self.columns.unit.clone().unwrap_or_default(),
            unit: self.units.list[unit].clone(),
            role,
            first: first.to_owned(),
            second: second.to_owned(),
        };
        if home.0 != treatment {
            return Err(clash("treatment", &self.treatments.list[home.0], &self.treatments.list[treatment]));
        }
        if home.1 != block {
            return Err(clash("block", &self.blocks.list[home.1], &self.blocks.list[block]));
        }
        Ok(unit)
    }

    fn finish(self) -> Result<Table, TableError> {
        if self.rows == 0 {
            return Err(TableError::Empty);
        }
        let column = self.columns.treated_by().to_owned();
        let mut seen = vec![false; self.treatments.list.len()];
        self.observations.iter().for_each(|o| seen[o.treatment] = true);
        let named_control = seen.first() == Some(&true) || self.lost.contains_key(&0);
        if !named_control && self.columns.kind != Kind::Dose {
            let present = listed(&self.treatments.list[1..]);
            return Err(TableError::ControlNotFound { column, control: self.columns.control.clone(), present });
        }
        if self.observations.is_empty() {
            return Err(TableError::NoNumbers { column: self.columns.measure.clone() });
        }
        if self.treatments.list.len() < 2 {
            return Err(TableError::OneTreatment { column, only: self.treatments.list[0].clone() });
        }
        if let Some(gone) = seen.iter().position(|s| !s).filter(|_| self.columns.kind != Kind::Dose) {
            let treatment = self.treatments.list[gone].clone();
            let first = self.lost.get(&gone).cloned().unwrap_or(Dropped { row: 0, why: String::new() });
            return Err(TableError::TreatmentLost { treatment, row: first.row, why: first.why });
        }
        Ok(Table {
            kind: self.columns.kind,
            rows: self.rows,
            dropped: self.dropped,
            treatments: self.treatments.list,
            blocks: self.blocks.list,
            units: self.units.list,
            has_units: self.columns.unit.is_some(),
            has_baseline: self.columns.baseline.is_some(),
            has_after: self.places.after.is_some(),
            observations: self.observations,
            beside: self.beside,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn columns() -> Columns {
        Columns { measure: "g".into(), treatment: "feed".into(), control: "water".into(), ..Columns::default() }
    }

    fn with_unit() -> Columns {
        Columns { unit: Some("tray".into()), block: Some("shelf".into()), ..columns() }
    }

    #[test]
    fn separators_marks_and_decimal_signs() {
        for csv in [
            "feed,g\nwater,1.5\nfull,2.5\n",
            "\u{feff}feed;g\r\nwater;1,5\r\nfull;2,5\r\n",
            "feed\tg\nwater\t1,5\nfull\t2.5\n",
            "\"feed\",\"g\"\n\"water\",\"1,5\"\n\"full\",2.5\n",
        ] {
            let table = read(csv.as_bytes(), &columns()).unwrap();
            let values: Vec<f64> = table.observations.iter().map(|o| o.value).collect();
            assert_eq!(values, [1.5, 2.5], "{csv:?}");
        }
    }

    #[test]
    fn each_refusal_names_its_place() {
        let cases: [(&[u8], &str); 11] = [
            (b"", "no data rows"),
            (b"feed,g\n", "no data rows"),
            (b"feed,g\nwater,\xff\n", "byte 14"),
            (b"feed,g,g\nwater,1,2\n", "twice"),
            (b"feed,h\nwater,1\n", "no column 'g'; the columns are 'feed', 'h'"),
            (b"feed,g\nwater,1\nfull,2,3\n", "row 3: has 3 cells"),
            (b"feed,g\nwater,1\nfull,inf\n", "row 3, column 'g'"),
            (b"feed,g\nwater,1\nfull,1e400\n", "row 3, column 'g'"),
            (b"feed,g\nhalf,1\nfull,2\n", "no row is 'water'; the treatments are 'half', 'full'"),
            (b"feed,g\nwater,1\nwater,2\n", "only one treatment"),
            (b"feed,g\nwater,1\nfull,n/a\n", "treatment 'full' lost all its rows (first: row 3"),
        ];
        for (csv, part) in cases {
            let message = read(csv, &columns()).unwrap_err().to_string();
            assert!(message.contains(part), "{message}");
        }
    }

    #[test]
    fn a_unit_in_two_treatments_or_blocks_is_refused() {
        let treatments = b"feed,g,tray,shelf\nwater,1,a,1\nfull,2,a,1\n";
        let blocks = b"feed,g,tray,shelf\nwater,1,a,1\nwater,2,a,2\nfull,1,b,1\n";
        for (csv, role) in [(&treatments[..], "treatment"), (&blocks[..], "block")] {
            let error = read(csv, &with_unit()).unwrap_err();
            assert!(matches!(&error, TableError::UnitTwice { role: r, .. } if *r == role), "{error}");
        }
    }

    #[test]
    fn unusable_rows_are_listed_one_by_one() {
        let csv = b"feed,g,tray,shelf\nwater,1,a,1\nfull,x,b,1\n,3,c,1\nfull,2,,1\nfull,2,d,1\nwater,,e,1\n";
        let table = read(csv, &with_unit()).unwrap();
        let rows: Vec<usize> = table.dropped.iter().map(|d| d.row).collect();
        assert_eq!(rows, [3, 4, 5, 7]);
        assert_eq!(table.dropped[0].why, "g is not a number: 'x'");
        assert_eq!((table.rows, table.observations.len()), (6, 2));
    }

    #[test]
    fn one_column_cannot_be_two_things() {
        let csv = b"feed,g\nwater,1\nfull,2\n";
        let columns = Columns { block: Some("feed".into()), ..columns() };
        assert!(matches!(read(csv, &columns), Err(TableError::ColumnTwice { .. })));
    }
}
