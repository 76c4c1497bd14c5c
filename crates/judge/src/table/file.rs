//! A CSV file, whatever separates its cells, and the numbers in it.

use super::error::TableError;
use iron_twin_terms::quantity::LARGEST_VALUE;

/// Names for a message, the first dozen.
pub(super) fn listed(names: &[String]) -> String {
    const SHOWN: usize = 12;
    let shown: Vec<String> = names.iter().take(SHOWN).map(|n| format!("'{n}'")).collect();
    let more = if names.len() > SHOWN {
        format!(" and {} more", names.len() - SHOWN)
    } else {
        String::new()
    };
    format!("{}{more}", shown.join(", "))
}

/// With what a spreadsheet takes a cell for a formula.
pub const FORMULA: [char; 4] = ['=', '+', '-', '@'];

/// The text of a cell without the apostrophe that keeps a spreadsheet from running it.
pub(super) fn unguarded(cell: &str) -> &str {
    cell.strip_prefix('\'')
        .filter(|rest| rest.starts_with(FORMULA))
        .unwrap_or(cell)
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
    counts
        .iter()
        .rev()
        .max_by_key(|c| c.1)
        .filter(|c| c.1 > 0)
        .map_or(b',', |c| c.0)
}

/// What a cell holds.
pub(super) enum Cell {
    Number(f64),
    NotANumber,
    Absurd,
}

/// Reads a cell.
pub(super) fn number(text: &str) -> Cell {
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

/// A row of the file with its number.
pub(super) type Record = Result<(usize, csv::StringRecord), TableError>;

/// The header of a CSV file, and its rows.
pub(super) fn open(
    bytes: &[u8],
) -> Result<(Vec<String>, impl Iterator<Item = Record> + '_), TableError> {
    let text = std::str::from_utf8(bytes).map_err(|e| TableError::NotUtf8 {
        byte: e.valid_up_to() + 1,
    })?;
    let text = text.strip_prefix('\u{feff}').unwrap_or(text);
    let mut records = csv::ReaderBuilder::new()
        .has_headers(false)
        .flexible(true)
        .delimiter(separator(text))
        .from_reader(text.as_bytes())
        .into_records()
        .filter_map(Result::ok);
    let header: Vec<String> = records
        .next()
        .ok_or(TableError::Empty)?
        .iter()
        .map(|c| c.trim().to_owned())
        .collect();
    if header.iter().all(String::is_empty) {
        return Err(TableError::Empty);
    }
    let want = header.len();
    let rows = records.map(move |record| {
        // The line in the file, so that blank lines count as a spreadsheet counts them.
        let row = record.position().map_or(0, |p| p.line() as usize);
        if record.len() == want {
            Ok((row, record))
        } else {
            Err(TableError::Ragged {
                row,
                got: record.len(),
                want,
            })
        }
    });
    Ok((header, rows))
}
