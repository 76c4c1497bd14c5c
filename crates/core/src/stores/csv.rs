//! A shelf as CSV: one row an entry, columns `name`, `source` and the keys of its fields, which
//! carry their units.

use super::{Item, ItemError, Shelf};
use std::collections::BTreeMap;

/// Why a file could not be taken in; nothing of it is.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CsvError {
    /// Not CSV.
    #[error("the file is not CSV: {0}")]
    Malformed(String),
    /// No column for the names.
    #[error("the file lacks the column 'name'")]
    NoName,
    /// A column that the shelf has no field for.
    #[error("{shelf} have no column '{column}'")]
    Column {
        /// The shelf's name.
        shelf: &'static str,
        /// The column.
        column: String,
    },
    /// A row that cannot be used.
    #[error("line {line}: {why}")]
    Row {
        /// Line of the file, the header being 1.
        line: u64,
        /// What is wrong.
        why: String,
    },
    /// Two rows of one name.
    #[error("line {line}: '{name}' stands in the file twice")]
    Twice {
        /// Line of the second.
        line: u64,
        /// The name.
        name: String,
    },
    /// More than a shelf takes.
    #[error("at most {MOST_ROWS} entries in a file")]
    TooMany,
}

/// Most entries in a file.
pub const MOST_ROWS: usize = 2000;

/// Reads the entries of a shelf. Columns may stand in any order, and any but `name` may be missing.
///
/// # Errors
/// [`CsvError`], naming line and column.
pub fn read(shelf: &Shelf, bytes: &[u8]) -> Result<Vec<Item>, CsvError> {
    let bytes = bytes.strip_prefix(b"\xef\xbb\xbf").unwrap_or(bytes);
    let mut reader = csv::ReaderBuilder::new()
        .trim(csv::Trim::All)
        .from_reader(bytes);
    let header = reader
        .headers()
        .map_err(|e| CsvError::Malformed(e.to_string()))?
        .clone();
    if !header.iter().any(|c| c == "name") {
        return Err(CsvError::NoName);
    }
    for column in header.iter().filter(|c| !matches!(*c, "name" | "source")) {
        if !shelf.fields.iter().any(|f| f.key == column) {
            return Err(CsvError::Column {
                shelf: shelf.name,
                column: column.into(),
            });
        }
    }
    let mut items: Vec<Item> = Vec::new();
    for record in reader.records() {
        let record = record.map_err(|e| CsvError::Malformed(e.to_string()))?;
        let line = record.position().map_or(0, csv::Position::line);
        let item = row(shelf, &header, &record).map_err(|why| CsvError::Row { line, why })?;
        if items
            .iter()
            .any(|other| super::same(other, shelf.key, &item.name))
        {
            return Err(CsvError::Twice {
                line,
                name: item.name,
            });
        }
        items.push(item);
        if items.len() > MOST_ROWS {
            return Err(CsvError::TooMany);
        }
    }
    Ok(items)
}

fn row(
    shelf: &Shelf,
    header: &csv::StringRecord,
    record: &csv::StringRecord,
) -> Result<Item, String> {
    let mut item = Item {
        shelf: shelf.key.into(),
        name: String::new(),
        source: String::new(),
        held: BTreeMap::new(),
    };
    for (column, cell) in header.iter().zip(record) {
        match column {
            "name" => item.name = cell.into(),
            "source" => item.source = cell.into(),
            key => {
                let Some(field) = shelf.fields.iter().find(|f| f.key == key) else {
                    continue;
                };
                if let Some(held) = field
                    .holds
                    .read(cell)
                    .map_err(|why| format!("{key}: {why}"))?
                {
                    item.held.insert(key.into(), held);
                }
            }
        }
    }
    item.check().map_err(|e: ItemError| e.to_string())?;
    Ok(item)
}

/// Writes the entries of a shelf; [`read`] takes them in again without loss.
#[must_use]
pub fn write<'a>(shelf: &Shelf, items: impl IntoIterator<Item = &'a Item>) -> String {
    let mut writer = csv::Writer::from_writer(Vec::new());
    let header = ["name", "source"]
        .into_iter()
        .chain(shelf.fields.iter().map(|f| f.key));
    // Writing into memory cannot fail.
    let _ = writer.write_record(header);
    for item in items {
        let text = |key: &str| match item.held.get(key) {
            Some(super::Held::Number(v)) => v.to_string(),
            Some(super::Held::Words(w)) => w.clone(),
            None => String::new(),
        };
        let cells = [item.name.clone(), item.source.clone()].into_iter();
        let _ = writer.write_record(cells.chain(shelf.fields.iter().map(|f| text(f.key))));
    }
    String::from_utf8(writer.into_inner().unwrap_or_default()).unwrap_or_default()
}
