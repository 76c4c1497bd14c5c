//! A plain CSV table, as anybody might bring it, read into units, treatments and blocks.
//!
//! UTF-8 with or without a byte-order mark, CRLF, comma, semicolon or tab, decimal points or
//! commas. What cannot be used is dropped row by row and listed; what makes the whole table
//! doubtful is refused with row and column.

mod builder;
mod columns;
mod data;
mod error;
mod file;

pub use columns::{Columns, FactorColumn};
pub use data::{Dropped, Factor, RowExtras, Table};
pub use error::TableError;
pub use file::FORMULA;

use builder::TableBuilder;
use columns::places;
use file::{Cell, listed, number, open};

/// Reads a CSV table.
///
/// # Errors
/// [`TableError`], naming row and column and what to do.
///
/// ```
/// use iron_twin_judge::table::{read, Columns};
/// let csv = "feed;weight\nwater;1,5\nfull;2,5\nfull;n/a\n";
/// let columns = Columns { measure: "weight".into(), treatment: "feed".into(), control: "water".into(), ..Columns::default() };
/// let table = read(csv.as_bytes(), &columns)?;
/// assert_eq!(table.observations.len(), 2);
/// assert_eq!(table.dropped[0].row, 4);
/// # Ok::<(), iron_twin_judge::table::TableError>(())
/// ```
pub fn read(bytes: &[u8], columns: &Columns) -> Result<Table, TableError> {
    let (header, records) = open(bytes)?;
    let mut builder = TableBuilder::new(columns, places(&header, columns)?);
    for record in records {
        let (row, record) = record?;
        builder.take(row, &record)?;
    }
    builder.finish()
}

/// Reads columns that must hold a number in every row.
///
/// # Errors
/// [`TableError`], naming row and column and what to do.
///
/// ```
/// let rows = iron_twin_judge::table::read_numbers(b"round;gain;se\n1;8,5;2\n2;7;1,5\n", &["gain", "se"])?;
/// assert_eq!(rows, [[8.5, 2.0], [7.0, 1.5]]);
/// # Ok::<(), iron_twin_judge::table::TableError>(())
/// ```
pub fn read_numbers(bytes: &[u8], columns: &[&str]) -> Result<Vec<Vec<f64>>, TableError> {
    let (header, records) = open(bytes)?;
    let find = |column: &&str| {
        let place = header.iter().position(|h| h == column.trim());
        place.ok_or_else(|| TableError::UnknownColumn {
            column: (*column).to_owned(),
            present: listed(&header),
        })
    };
    let places = columns.iter().map(find).collect::<Result<Vec<_>, _>>()?;
    let mut rows = Vec::new();
    for record in records {
        let (row, record) = record?;
        let one = |(&place, column): (&usize, &&str)| {
            let text = record.get(place).unwrap_or_default();
            match number(text) {
                Cell::Number(v) => Ok(v),
                _ => Err(TableError::NotANumber {
                    row,
                    column: (*column).to_owned(),
                    text: text.trim().to_owned(),
                }),
            }
        };
        rows.push(
            places
                .iter()
                .zip(columns)
                .map(one)
                .collect::<Result<Vec<f64>, _>>()?,
        );
    }
    if rows.is_empty() {
        Err(TableError::Empty)
    } else {
        Ok(rows)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn columns() -> Columns {
        Columns {
            measure: "g".into(),
            treatment: "feed".into(),
            control: "water".into(),
            ..Columns::default()
        }
    }

    fn with_unit() -> Columns {
        Columns {
            unit: Some("tray".into()),
            block: Some("shelf".into()),
            ..columns()
        }
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
            (
                b"feed,h\nwater,1\n",
                "no column 'g'; the columns are 'feed', 'h'",
            ),
            (b"feed,g\nwater,1\nfull,2,3\n", "row 3: has 3 cells"),
            (b"feed,g\nwater,1\nfull,inf\n", "row 3, column 'g'"),
            (b"feed,g\nwater,1\nfull,1e400\n", "row 3, column 'g'"),
            (
                b"feed,g\nhalf,1\nfull,2\n",
                "no row is 'water'; the treatments are 'half', 'full'",
            ),
            (b"feed,g\nwater,1\nwater,2\n", "only one treatment"),
            (
                b"feed,g\nwater,1\nfull,n/a\n",
                "treatment 'full' lost all its rows (first: row 3",
            ),
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
            assert!(
                matches!(&error, TableError::UnitTwice { role: r, .. } if *r == role),
                "{error}"
            );
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
        let columns = Columns {
            block: Some("feed".into()),
            ..columns()
        };
        assert!(matches!(
            read(csv, &columns),
            Err(TableError::ColumnTwice { .. })
        ));
    }
}
