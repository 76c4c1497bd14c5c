//! A logger's file: how it is laid out, what its columns hold, and its rows one by one.
//!
//! The file is found out about ([`layout::layout`]), the grower says or confirms what each column
//! holds ([`Mapping`]), and [`read`] gives every row with what is right in it and every row with
//! what is wrong with it. Files of any size pass through: no row is kept.

pub mod instants;
pub mod layout;

use crate::catalogue::logged::Logged;
use instants::{Clock, zone};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::borrow::Cow;
use std::collections::BTreeSet;
use std::io::{BufRead, Read as _};
use std::ops::ControlFlow;

/// Where a probe stood.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum ProbeAt {
    /// In the room, for all units.
    Room,
    /// On the shelf with this number, from 1.
    Shelf(u32),
    /// In the unit with this code.
    Unit(String),
}

/// What a column holds, and where its probe stood.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ColumnUse {
    /// Which column, from 0.
    pub column: u32,
    /// What it holds.
    pub quantity: Logged,
    /// In which unit it is written.
    #[serde(default)]
    pub unit: String,
    /// Where.
    pub place: ProbeAt,
}

/// How a file is read.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Mapping {
    /// What stands between two fields.
    pub separator: char,
    /// Whether decimals follow a comma.
    pub decimal_comma: bool,
    /// Lines before the first one with figures.
    pub head_rows: u32,
    /// Column of the time, from 0.
    pub time: u32,
    /// Column of the time of day, where it stands apart from the date.
    #[serde(default)]
    pub time_of_day: Option<u32>,
    /// How times are written: `iso`, `unix`, `unix_ms`, or a pattern such as `%d.%m.%Y %H:%M`.
    pub format: String,
    /// Zone of times that do not tell their own: a name of the tz database, or `+02:00`.
    pub zone: String,
    /// The columns that are taken in.
    pub columns: Vec<ColumnUse>,
}

/// Why a file cannot be read by a mapping.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
#[error("{why}")]
pub struct MappingError {
    /// Field of the mapping.
    pub field: &'static str,
    /// What is wrong with it.
    pub why: String,
}

impl Mapping {
    /// Checks what can be checked without the file.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn check(&self) -> Result<(), MappingError> {
        self.clock().map(|_| ())
    }

    fn clock(&self) -> Result<Clock, MappingError> {
        let wrong = |field, why: &str| {
            Err(MappingError {
                field,
                why: why.to_owned(),
            })
        };
        if !layout::SEPARATORS.contains(&self.separator) {
            return wrong("separator", "a comma, a semicolon, a tab or a bar");
        }
        if self.columns.is_empty() {
            return wrong("columns", "say what at least one column holds");
        }
        let most = layout::MOST_COLUMNS as u32;
        let own = self
            .columns
            .iter()
            .map(|c| c.column)
            .chain([self.time])
            .chain(self.time_of_day);
        if own.clone().any(|c| c >= most) {
            return wrong("columns", "there is no such column");
        }
        let mut places = BTreeSet::new();
        for column in &self.columns {
            if column.quantity.from_written(0.0, &column.unit).is_none() {
                let why = format!(
                    "{} is not written in '{}'",
                    column.quantity.name(),
                    column.unit
                );
                return Err(MappingError {
                    field: "columns",
                    why,
                });
            }
            if column.column == self.time || Some(column.column) == self.time_of_day {
                return wrong("columns", "the column of the time holds nothing else");
            }
            if !places.insert((column.quantity, &column.place)) {
                let why = format!(
                    "two columns hold the {} of one place",
                    column.quantity.name()
                );
                return Err(MappingError {
                    field: "columns",
                    why,
                });
            }
        }
        let Some(zone) = zone(&self.zone) else {
            return wrong("zone", "there is no such zone");
        };
        let Some(clock) = Clock::new(&self.format, zone) else {
            return wrong("format", "times are not written in this way");
        };
        Ok(clock)
    }
}

/// A number as loggers write it, whatever follows it; None where there is none.
///
/// ```
/// use iron_twin_core::tend::logger::number;
/// assert_eq!(number("21,5 °C", true), Some(21.5));
/// assert_eq!(number("1.013,2", true), Some(1013.2));
/// assert_eq!(number("-0.25", false), Some(-0.25));
/// assert_eq!((number("---", false), number("NaN", false)), (None, None));
/// ```
#[must_use]
pub fn number(text: &str, decimal_comma: bool) -> Option<f64> {
    let text = text.trim();
    let is_part = |c: char| c.is_ascii_digit() || matches!(c, '+' | '-' | '.' | ',' | 'e' | 'E');
    let end = text.find(|c| !is_part(c)).unwrap_or(text.len());
    // A letter that begins the unit belongs to no number.
    let own = text[..end].trim_end_matches(['e', 'E']);
    let plain = match (decimal_comma, own.contains(',')) {
        (true, true) => own.replace('.', "").replace(',', "."),
        (true, false) => own.to_owned(),
        (false, _) => own.replace(',', ""),
    };
    plain.parse().ok().filter(|v: &f64| v.is_finite())
}

/// What marks a value as missing.
fn is_missing(text: &str) -> bool {
    let text = text.trim();
    text.chars().all(|c| c == '-')
        || ["nan", "n/a", "na", "null", "none", "#n/a"]
            .iter()
            .any(|m| text.eq_ignore_ascii_case(m))
}

/// A row, as it was read.
#[derive(Debug, Clone, PartialEq)]
pub enum Row<'a> {
    /// Its line in the file, its time, and the values of the columns that are taken in, in their
    /// order; None where a value is missing.
    Good(u64, Timestamp, &'a [Option<f64>]),
    /// A row that is not taken in: its line in the file, and why.
    Bad(u64, String),
    /// A row without any value.
    Empty,
}

/// Least and greatest instant that a log may hold; a clock that was never set says 1970 or 2000.
#[derive(Debug, Clone, Copy)]
pub struct Within {
    /// Not before.
    pub from: Timestamp,
    /// Not after.
    pub until: Timestamp,
}

struct RowReader<'a> {
    mapping: &'a Mapping,
    clock: Clock,
    within: Within,
    values: Vec<Option<f64>>,
}

impl RowReader<'_> {
    fn row(&mut self, fields: &[Cow<'_, str>]) -> Result<Option<Timestamp>, String> {
        let field = |column: u32| fields.get(column as usize).map(Cow::as_ref);
        self.values.clear();
        let mapping = self.mapping;
        for column in &mapping.columns {
            let Some(text) = field(column.column) else {
                return Err(format!("the row ends before column {}", column.column + 1));
            };
            if is_missing(text) {
                self.values.push(None);
                continue;
            }
            let read = number(text, mapping.decimal_comma)
                .and_then(|v| column.quantity.from_written(v, &column.unit))
                .ok_or_else(|| {
                    format!(
                        "'{}' in column {} is no number",
                        shortened(text),
                        column.column + 1
                    )
                })?;
            let (least, most) = column.quantity.limits();
            if !(least..=most).contains(&read) {
                return Err(format!(
                    "{} of {} {} cannot be",
                    column.quantity.name(),
                    shortened(text),
                    column.unit
                )
                .replace("  ", " "));
            }
            self.values.push(Some(read));
        }
        if self.values.iter().all(Option::is_none) {
            return Ok(None);
        }
        let date = field(mapping.time).unwrap_or_default();
        let read = match mapping.time_of_day {
            Some(column) => self
                .clock
                .read(&format!("{date} {}", field(column).unwrap_or_default())),
            None => self.clock.read(date),
        };
        let at = read.map_err(|e| e.to_string())?;
        if at < self.within.from || at > self.within.until {
            return Err(format!(
                "the clock stood at {}",
                at.strftime("%Y-%m-%d %H:%M")
            ));
        }
        Ok(Some(at))
    }
}

fn shortened(text: &str) -> String {
    let text = text.trim();
    if text.chars().count() > 24 {
        text.chars().take(24).chain(['…']).collect()
    } else {
        text.to_owned()
    }
}

/// Longest line of a log, bytes.
const MOST_LINE: u64 = 16 << 10;

/// Bytes as text: UTF-8, or else Latin-1, which older loggers write for ° and µ.
#[must_use]
pub fn decoded(bytes: &[u8]) -> Cow<'_, str> {
    match std::str::from_utf8(bytes) {
        Ok(text) => Cow::Borrowed(text.strip_prefix('\u{feff}').unwrap_or(text)),
        Err(_) => bytes
            .iter()
            .map(|&b| char::from(b))
            .collect::<String>()
            .into(),
    }
}

/// The fields of a line. A row of a log never runs over several lines, so that a quote left open
/// spoils its own line alone.
pub(crate) fn fields(line: &str, separator: char) -> Vec<Cow<'_, str>> {
    if !line.contains('"') {
        return line
            .split(separator)
            .map(|f| Cow::Borrowed(f.trim()))
            .collect();
    }
    let mut reader = csv::ReaderBuilder::new()
        .has_headers(false)
        .delimiter(separator as u8)
        .trim(csv::Trim::All)
        .from_reader(line.as_bytes());
    let record = reader
        .records()
        .next()
        .and_then(Result::ok)
        .unwrap_or_default();
    record.iter().map(|f| Cow::Owned(f.to_owned())).collect()
}

/// Reads the next line without its end. None at the end of the file; `Some(false)` for one longer
/// than a row can be.
fn next_line(file: &mut impl BufRead, line: &mut Vec<u8>) -> std::io::Result<Option<bool>> {
    line.clear();
    if file.by_ref().take(MOST_LINE).read_until(b'\n', line)? == 0 {
        return Ok(None);
    }
    let whole = line.ends_with(b"\n") || (line.len() as u64) < MOST_LINE;
    if !whole {
        file.skip_until(b'\n')?;
    }
    let end = line
        .iter()
        .rposition(|b| !matches!(b, b'\n' | b'\r'))
        .map_or(0, |last| last + 1);
    line.truncate(end);
    Ok(Some(whole))
}

/// Reads a file row by row, until it ends or `take` has enough.
///
/// # Errors
/// [`MappingError`] for a mapping that cannot be, or a file that cannot be read on.
pub fn read(
    mut file: impl BufRead,
    mapping: &Mapping,
    within: Within,
    mut take: impl FnMut(Row<'_>) -> ControlFlow<()>,
) -> Result<(), MappingError> {
    let clock = mapping.clock()?;
    let mut rows = RowReader {
        mapping,
        clock,
        within,
        values: Vec::with_capacity(mapping.columns.len()),
    };
    let mut line = Vec::new();
    for number in 1.. {
        let next = next_line(&mut file, &mut line);
        let next = next.map_err(|e| MappingError {
            field: "file",
            why: format!("the file cannot be read on: {e}"),
        })?;
        let Some(whole) = next else { break };
        if number <= u64::from(mapping.head_rows) {
            continue;
        }
        let text = decoded(&line);
        let going = if !whole {
            take(Row::Bad(number, "longer than a row can be".into()))
        } else if text.trim().is_empty() {
            take(Row::Empty)
        } else {
            match rows.row(&fields(&text, mapping.separator)) {
                Ok(Some(at)) => take(Row::Good(number, at, &rows.values)),
                Ok(None) => take(Row::Empty),
                Err(why) => take(Row::Bad(number, why)),
            }
        };
        if going.is_break() {
            break;
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests;
