//! A plain CSV table, as anybody might bring it, read into units, treatments and blocks.
//!
//! UTF-8 with or without a byte-order mark, CRLF, comma, semicolon or tab, decimal points or commas. What cannot be
//! used is dropped row by row and listed; what makes the whole table doubtful is refused with row and column.

mod error;

pub use error::TableError;

use crate::quantity::LARGEST_VALUE;
use crate::terms::dealing::Dealing;
use crate::terms::kind::Kind;
use iron_twin_stats::linear::Observation;
use serde::Serialize;
use std::collections::HashMap;

/// Between the levels of crossed factors in the name of a treatment.
const JOINT: &str = " + ";

/// A column with the levels of one of several crossed factors.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FactorColumn {
    /// The column.
    pub column: String,
    /// The level that the others are compared with.
    pub reference: String,
}

/// One of several crossed factors, as the table has it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Factor {
    /// Name: that of its column.
    pub name: String,
    /// Levels, the reference first, the others as the file first names them.
    pub levels: Vec<String>,
}

/// Which columns hold what.
#[derive(Debug, Clone, Default, PartialEq)]
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
    /// Number of the sample inside its unit. A later sample without a value is passed over: the measure is of the whole unit
    /// and stands with the first, or the sample is gone.
    pub sample: Option<String>,
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
    /// A second set of blocks that crosses the first.
    pub column: Option<String>,
    /// Crossed factors, two or more. With a treatment column beside them the treatments keep their own names, else they
    /// are named by their levels and the control is the combination of all references.
    pub factors: Vec<FactorColumn>,
    /// The lamp or pump that decides the first factor for all units that it serves.
    pub fixture: Option<String>,
    /// The starting size that limited the deal.
    pub start: Option<String>,
    /// The day of each row, for growth.
    pub day: Option<String>,
    /// How the units were dealt.
    pub dealing: Dealing,
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
    /// The column with the treatment's name; None where crossed factors name it.
    named: Option<usize>,
    /// One column for each crossed factor; that of the treatment where there are none.
    treated: Vec<usize>,
    block: Option<usize>,
    column: Option<usize>,
    fixture: Option<usize>,
    start: Option<usize>,
    day: Option<usize>,
    unit: Option<usize>,
    sample: Option<usize>,
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
        match (&self.dose, self.kind, self.factors.first()) {
            (Some(dose), Kind::Dose, _) => dose,
            (_, _, Some(factor)) if self.treatment.is_empty() => &factor.column,
            _ => &self.treatment,
        }
    }

    /// The control's name: for crossed factors, every reference level joined.
    #[must_use]
    pub fn control_name(&self) -> String {
        if self.factors.is_empty() || !self.treatment.is_empty() {
            return self.control.trim().to_owned();
        }
        self.factors.iter().map(|f| f.reference.trim()).collect::<Vec<_>>().join(JOINT)
    }

    /// The column of the n, the exposure or the dose.
    fn size(&self) -> Result<Option<&String>, TableError> {
        let missing = |option| TableError::ColumnMissing { kind: self.kind.word(), option };
        match self.kind {
            Kind::Share => self.out_of.as_ref().map(Some).ok_or(missing("`out-of` COL: the n of k out of n")),
            Kind::Dose => self.dose.as_ref().map(Some).ok_or(missing("`dose` COL: the numeric dose")),
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
        ("the column of the square", columns.column.as_ref()),
        ("the lamp or pump", columns.fixture.as_ref()),
        ("the sample", columns.sample.as_ref()),
        ("the baseline", columns.baseline.as_ref()),
        ("what it is taken out of", size.filter(|_| columns.kind != Kind::Dose)),
        ("whether it was seen", seen.as_ref()),
        ("the day before", after.as_ref()),
        ("the day of the row", columns.day.as_ref()),
    ];
    for (i, (second, name)) in roles.iter().enumerate() {
        if let Some((first, _)) = roles[..i].iter().find(|(_, other)| other.is_some() && other == name) {
            let column = name.map(String::clone).unwrap_or_default();
            return Err(TableError::ColumnTwice { column, first, second });
        }
    }
    let treated = if columns.factors.is_empty() || columns.kind == Kind::Dose {
        vec![find(&treated_by)?]
    } else {
        columns.factors.iter().map(|f| find(&f.column)).collect::<Result<_, _>>()?
    };
    let named = !columns.factors.is_empty() && columns.kind != Kind::Dose && !columns.treatment.is_empty();
    Ok(Places {
        measure: find(&columns.measure)?,
        named: if named { Some(find(&columns.treatment)?) } else { None },
        treated,
        block: columns.block.as_ref().map(find).transpose()?,
        column: columns.column.as_ref().map(find).transpose()?,
        fixture: columns.fixture.as_ref().map(find).transpose()?,
        start: columns.start.as_ref().map(find).transpose()?,
        day: columns.day.as_ref().map(find).transpose()?,
        unit: columns.unit.as_ref().map(find).transpose()?,
        sample: columns.sample.as_ref().map(find).transpose()?,
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
    let (header, records) = open(bytes)?;
    let mut gather = Gather::new(columns, places(&header, columns)?);
    for record in records {
        let (row, record) = record?;
        gather.take(row, &record)?;
    }
    gather.finish()
}

/// A row of the file with its number.
type Record = Result<(usize, csv::StringRecord), TableError>;

/// The header of a CSV file, and its rows.
fn open(bytes: &[u8]) -> Result<(Vec<String>, impl Iterator<Item = Record> + '_), TableError> {
    let text = std::str::from_utf8(bytes).map_err(|e| TableError::NotUtf8 { byte: e.valid_up_to() + 1 })?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut records = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(separator(text))
        .from_reader(text.as_bytes())
        .into_records()
        .filter_map(Result::ok);
    let header: Vec<String> = records.next().ok_or(TableError::Empty)?.iter().map(|c| c.trim().to_owned()).collect();
    if header.iter().all(String::is_empty) {
        return Err(TableError::Empty);
    }
    let want = header.len();
    let rows = records.map(move |record| {
        // The line in the file, so that blank lines count as a spreadsheet counts them.
        let row = record.position().map_or(0, |p| p.line() as usize);
        if record.len() == want { Ok((row, record)) } else { Err(TableError::Ragged { row, got: record.len(), want }) }
    });
    Ok((header, rows))
}

/// Reads columns that must hold a number in every row.
///
/// # Errors
/// [`TableError`], naming row and column and what to do.
///
/// ```
/// let rows = iron_twin_core::judge::table::read_numbers(b"round;gain;se\n1;8,5;2\n2;7;1,5\n", &["gain", "se"])?;
/// assert_eq!(rows, [[8.5, 2.0], [7.0, 1.5]]);
/// # Ok::<(), iron_twin_core::judge::table::TableError>(())
/// ```
pub fn read_numbers(bytes: &[u8], columns: &[&str]) -> Result<Vec<Vec<f64>>, TableError> {
    let (header, records) = open(bytes)?;
    let find = |column: &&str| {
        let place = header.iter().position(|h| h == column.trim());
        place.ok_or_else(|| TableError::UnknownColumn { column: (*column).to_owned(), present: listed(&header) })
    };
    let places = columns.iter().map(find).collect::<Result<Vec<_>, _>>()?;
    let mut rows = Vec::new();
    for record in records {
        let (row, record) = record?;
        let one = |(&place, column): (&usize, &&str)| {
            let text = record.get(place).unwrap_or_default();
            match number(text) {
                Cell::Number(v) => Ok(v),
                _ => Err(TableError::NotANumber { row, column: (*column).to_owned(), text: text.trim().to_owned() }),
            }
        };
        rows.push(places.iter().zip(columns).map(one).collect::<Result<Vec<f64>, _>>()?);
    }
    if rows.is_empty() { Err(TableError::Empty) } else { Ok(rows) }
}

struct Gather<'a> {
    columns: &'a Columns,
    places: Places,
    rows: usize,
    dropped: Vec<Dropped>,
    treatments: Names,
    /// Levels of each crossed factor.
    levels: Vec<Names>,
    cells: Vec<Vec<usize>>,
    blocks: Names,
    columns_met: Names,
    fixtures: Names,
    /// The level that each lamp or pump decides, as first seen.
    carries: Vec<usize>,
    units: Names,
    /// Where each unit stands, as first seen.
    homes: Vec<Home>,
    /// First dropped row of each treatment.
    lost: HashMap<usize, Dropped>,
    observations: Vec<Observation>,
    beside: Vec<RowExtras>,
}

/// Where a unit stands, as indices.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Home {
    treatment: usize,
    block: usize,
    column: usize,
    fixture: usize,
}

/// The numbers of a row, and what stands beside them.
struct Numbers {
    value: f64,
    baseline: f64,
    beside: RowExtras,
}

impl<'a> Gather<'a> {
    fn new(columns: &'a Columns, places: Places) -> Self {
        let mut treatments = Names::default();
        let mut levels: Vec<Names> = Vec::new();
        if columns.kind != Kind::Dose {
            treatments.number(&columns.control_name());
            for factor in &columns.factors {
                levels.push(Names::default());
                levels.last_mut().map(|l| l.number(factor.reference.trim()));
            }
        }
        Self {
            columns,
            places,
            rows: 0,
            dropped: Vec::new(),
            treatments,
            cells: if levels.is_empty() { Vec::new() } else { vec![vec![0; levels.len()]] },
            levels,
            blocks: Names::default(),
            columns_met: Names::default(),
            fixtures: Names::default(),
            carries: Vec::new(),
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
        let cell = |i: usize| record.get(i).unwrap_or_default().trim();
        if self.places.sample.is_some_and(|i| cell(i) != "1") && cell(self.places.measure).is_empty() {
            return Ok(());
        }
        self.rows += 1;
        if let Some(empty) = self.places.treated.iter().position(|&i| cell(i).is_empty()) {
            let column = self.columns.factors.get(empty).map_or(self.columns.treated_by(), |f| f.column.as_str());
            let why = format!("{column} is empty");
            self.drop_row(row, None, why);
            return Ok(());
        }
        let levels: Vec<&str> = self.places.treated.iter().map(|&i| cell(i)).collect();
        let treatment = self.treatment(row, self.places.named.map(cell), &levels)?;
        let labels = [
            ("block", self.places.block),
            ("unit", self.places.unit),
            ("column", self.places.column),
            ("fixture", self.places.fixture),
        ];
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
        let column = self.places.column.map_or(0, |i| self.columns_met.number(cell(i)));
        let fixture = match self.places.fixture {
            Some(i) => self.fixture(row, treatment, cell(i))?,
            None => 0,
        };
        let home = Home { treatment, block, column, fixture };
        // In a swap-over a unit is a system during one round.
        let label = match (self.columns.dealing.is_swap_over(), self.places.block, self.places.column) {
            (true, Some(system), Some(round)) => Some(format!("{} in {}", cell(system), cell(round))),
            _ => self.places.unit.map(|i| cell(i).to_owned()),
        };
        let unit = self.unit(row, home, label)?;
        let (value, baseline) = (numbers.value, numbers.baseline);
        self.observations.push(Observation { value, treatment, block, column, baseline, unit });
        self.beside.push(numbers.beside);
        Ok(())
    }

    /// Number of the treatment with this name, or with these levels of the crossed factors.
    fn treatment(&mut self, row: usize, own: Option<&str>, names: &[&str]) -> Result<usize, TableError> {
        if self.levels.is_empty() {
            return Ok(self.treatments.number(names[0]));
        }
        let joined = names.join(JOINT);
        let treatment = self.treatments.number(own.unwrap_or(&joined));
        let cell: Vec<usize> = self.levels.iter_mut().zip(names).map(|(levels, name)| levels.number(name)).collect();
        if treatment == self.cells.len() {
            self.cells.push(cell);
        } else if self.cells[treatment] != cell {
            let first: Vec<&str> =
                self.levels.iter().zip(&self.cells[treatment]).map(|(l, &i)| l.list[i].as_str()).collect();
            return Err(TableError::LevelsChange {
                row,
                treatment: self.treatments.list[treatment].clone(),
                first: first.join(JOINT),
                second: joined,
            });
        }
        Ok(treatment)
    }

    /// Number of the lamp or pump, which must carry one level of the first factor.
    fn fixture(&mut self, row: usize, treatment: usize, label: &str) -> Result<usize, TableError> {
        let fixture = self.fixtures.number(label);
        let level = self.cells.get(treatment).and_then(|c| c.first()).copied().unwrap_or(treatment);
        if fixture == self.carries.len() {
            self.carries.push(level);
        }
        let first = self.carries[fixture];
        if first == level {
            return Ok(fixture);
        }
        let name = |level: usize| self.levels.first().map_or(String::new(), |l| l.list[level].clone());
        Err(TableError::FixtureTwice { row, fixture: label.to_owned(), first: name(first), second: name(level) })
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
        let start = read(self.places.start, columns.start.as_ref(), 0.0)?;
        let day = read(self.places.day, columns.day.as_ref(), 0.0)?;
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
        let beside = RowExtras { size, seen, after, start, day };
        Ok(self
            .check_kind(row, value, &beside, (text(self.places.measure), self.places.size.map(text)))?
            .map_or(Ok(Numbers { value, baseline, beside }), Err))
    }

    /// What the kind of measure asks of a row. Some with the reason where the row alone is left out.
    fn check_kind(
        &self,
        row: usize,
        value: f64,
        beside: &RowExtras,
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

    fn unit(&mut self, row: usize, home: Home, label: Option<String>) -> Result<usize, TableError> {
        let unit = self.units.number(&label.unwrap_or_else(|| format!("row {row}")));
        if unit == self.homes.len() {
            self.homes.push(home);
            return Ok(unit);
        }
        let first = self.homes[unit];
        let roles = [
            ("treatment", &self.treatments, first.treatment, home.treatment),
            ("block", &self.blocks, first.block, home.block),
            ("column", &self.columns_met, first.column, home.column),
            ("fixture", &self.fixtures, first.fixture, home.fixture),
        ];
        match roles.into_iter().find(|(_, _, first, second)| first != second) {
            None => Ok(unit),
            Some((role, names, first, second)) => Err(TableError::UnitTwice {
                row,
                column: self.columns.unit.clone().unwrap_or_default(),
                unit: self.units.list[unit].clone(),
                role,
                first: names.list[first].clone(),
                second: names.list[second].clone(),
            }),
        }
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
            return Err(TableError::ControlNotFound { column, control: self.columns.control_name(), present });
        }
        if self.observations.is_empty() {
            return Err(TableError::NoNumbers { column: self.columns.measure.clone() });
        }
        if self.treatments.list.len() < 2 {
            return Err(TableError::OneTreatment { column, only: self.treatments.list[0].clone() });
        }
        if let Some((factor, met)) = self.columns.factors.iter().zip(&self.levels).find(|(_, met)| met.list.len() < 2) {
            let level = met.list.first().cloned().unwrap_or_default();
            return Err(TableError::OneLevel { factor: factor.column.clone(), level });
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
            columns: self.columns_met.list,
            factors: (self.columns.factors.iter().zip(self.levels))
                .map(|(factor, levels)| Factor { name: factor.column.clone(), levels: levels.list })
                .collect(),
            cells: self.cells,
            fixtures: match self.places.fixture {
                Some(_) => self.homes.iter().map(|h| h.fixture).collect(),
                None => Vec::new(),
            },
            dealing: self.columns.dealing,
            units: self.units.list,
            has_units: self.columns.unit.is_some(),
            has_days: self.columns.day.is_some(),
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
