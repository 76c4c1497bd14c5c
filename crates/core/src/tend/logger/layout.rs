//! How a logger's file is laid out, found out from its first and last rows: separator, where the
//! table begins, decimal comma, which column is the time and what the others are likely to hold.

use super::instants::formats_of;
use super::{fields, number};
use crate::catalogue::logged::Logged;
use serde::Serialize;
use std::borrow::Cow;

/// A column of the file.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FoundColumn {
    /// Its head; empty where the file has none.
    pub heading: String,
    /// What its head says it holds.
    pub quantity: Option<Logged>,
    /// In which unit; empty where there is none.
    pub unit: String,
    /// Whether its first rows are numbers.
    pub numbers: bool,
}

/// How a file is laid out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = LoggerLayout))]
pub struct Layout {
    /// What stands between two fields.
    pub separator: char,
    /// Whether decimals follow a comma.
    pub decimal_comma: bool,
    /// Lines before the first one with figures; the last row among them is the head.
    pub head_rows: u32,
    /// Columns, from the left.
    pub columns: Vec<FoundColumn>,
    /// Column of the time; of the date where the two stand apart.
    pub time: Option<u32>,
    /// Column of the time of day, where it stands apart from the date.
    pub time_of_day: Option<u32>,
    /// Ways in which its times can be read, the likeliest first; more than one where day and month
    /// cannot be told apart.
    pub formats: Vec<String>,
    /// The first rows with figures, field by field.
    pub rows: Vec<Vec<String>>,
}

/// What stands between fields.
pub const SEPARATORS: [char; 4] = [',', ';', '\t', '|'];
/// Rows shown.
const SHOWN: usize = 8;
/// Rows looked at, at either end.
const LOOKED_AT: usize = 60;
/// Rows that may stand before the table.
const MOST_HEAD: usize = 40;
/// Most columns of a table.
pub const MOST_COLUMNS: usize = 64;

fn records(text: &str, separator: char, most: usize) -> Vec<Vec<String>> {
    let own = |line: &str| {
        fields(line, separator)
            .into_iter()
            .map(Cow::into_owned)
            .collect()
    };
    text.lines().take(most).map(own).collect()
}

/// Whether most fields that hold something are numbers.
fn is_number(column: usize, rows: &[&Vec<String>], comma: bool) -> bool {
    let own = rows
        .iter()
        .filter_map(|r| r.get(column))
        .filter(|f| !f.is_empty());
    let (mut all, mut numbers) = (0, 0);
    for field in own {
        all += 1;
        numbers += usize::from(number(field, comma).is_some());
    }
    numbers * 2 > all
}

/// Columns of the time, and the ways in which it can be read.
fn time(width: usize, rows: &[&Vec<String>]) -> Option<(usize, Option<usize>, Vec<String>)> {
    let filled = |column: usize| {
        rows.iter()
            .filter_map(move |r| r.get(column))
            .map(String::as_str)
            .filter(|f| !f.is_empty())
    };
    for column in 0..width {
        let own: Vec<&str> = filled(column).collect();
        let formats = formats_of(&own);
        if own.len() * 2 > rows.len() && !formats.is_empty() {
            return Some((column, None, formats));
        }
    }
    // Date and time of day in two columns beside one another.
    for column in 0..width.saturating_sub(1) {
        let both = rows
            .iter()
            .filter_map(|r| Some(format!("{} {}", r.get(column)?, r.get(column + 1)?)));
        let own: Vec<String> = both.collect();
        let formats = formats_of(&own.iter().map(String::as_str).collect::<Vec<_>>());
        if !formats.is_empty() {
            return Some((column, Some(column + 1), formats));
        }
    }
    None
}

struct Tried {
    separator: char,
    width: usize,
    head: Vec<Vec<String>>,
    rows: Vec<Vec<String>>,
}

/// The table as a separator gives it: rows of one width, the first of them with figures after the
/// last without.
fn tried(text: &str, separator: char) -> Option<Tried> {
    let all = records(text, separator, MOST_HEAD + LOOKED_AT);
    let widths = all
        .iter()
        .map(Vec::len)
        .filter(|w| (2..=MOST_COLUMNS).contains(w));
    let count = |w: usize| all.iter().filter(|r| r.len() == w).count();
    let width = widths.max_by_key(|w| (count(*w), *w))?;
    let digits = |row: &Vec<String>| {
        row.iter()
            .filter(|f| f.starts_with(|c: char| c.is_ascii_digit() || c == '-'))
            .count()
    };
    let is_figures = |row: &Vec<String>| row.len() == width && digits(row) * 2 >= width.min(3);
    let begins = all.iter().position(is_figures)?;
    let rows = all[begins..]
        .iter()
        .filter(|r| r.len() == width)
        .cloned()
        .collect();
    Some(Tried {
        separator,
        width,
        head: all[..begins].to_vec(),
        rows,
    })
}

/// Finds out how a file is laid out, from its beginning and its end (which tells day and month
/// apart where the beginning does not). None where there is no table in it.
#[must_use]
pub fn layout(beginning: &str, end: &str) -> Option<Layout> {
    let found = SEPARATORS.into_iter().filter_map(|s| tried(beginning, s));
    let best = found.max_by_key(|t| (t.rows.len() * t.width, t.width))?;
    let later = records(end, best.separator, usize::MAX);
    let later = later
        .iter()
        .rev()
        .filter(|r| r.len() == best.width)
        .take(LOOKED_AT);
    // The last line may be cut off: a logger that was still writing.
    let rows: Vec<&Vec<String>> = best.rows.iter().chain(later.skip(1)).collect();
    let comma = best.separator != ',' && {
        let between_digits = |f: &str, sign: char| {
            f.split_once(sign).is_some_and(|(a, b)| {
                a.ends_with(|c: char| c.is_ascii_digit())
                    && b.starts_with(|c: char| c.is_ascii_digit())
            })
        };
        let fields = || {
            rows.iter()
                .flat_map(|r| r.iter())
                .filter(|f| !f.contains(':'))
        };
        let decimals = |sign| {
            fields()
                .filter(|f| between_digits(f, sign) && f.matches(sign).count() == 1)
                .count()
        };
        decimals(',') > decimals('.')
    };
    let (time, time_of_day, formats) = time(best.width, &rows)
        .map_or((None, None, Vec::new()), |(a, b, formats)| {
            (Some(a), b, formats)
        });
    let head = best.head.iter().rev().find(|r| r.len() == best.width);
    let is_time = |c: usize| Some(c) == time || Some(c) == time_of_day;
    let column = |c: usize| {
        let heading = head.and_then(|h| h.get(c)).cloned().unwrap_or_default();
        let told = Logged::of_heading(&heading).filter(|_| !is_time(c));
        let numbers = !is_time(c) && is_number(c, &rows, comma);
        let told = told.filter(|_| numbers);
        FoundColumn {
            heading,
            quantity: told.map(|(own, _)| own),
            unit: told.map(|(_, unit)| unit.to_owned()).unwrap_or_default(),
            numbers,
        }
    };
    Some(Layout {
        separator: best.separator,
        decimal_comma: comma,
        head_rows: best.head.len() as u32,
        columns: (0..best.width).map(column).collect(),
        time: time.map(|c| c as u32),
        time_of_day: time_of_day.map(|c| c as u32),
        formats,
        rows: best.rows.iter().take(SHOWN).cloned().collect(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_table_with_words_before_it_and_decimal_commas() {
        let text = "Logger 7\nserial;0815\n\nDatum;Uhrzeit;Temperature °C;RH \
                    %;battery\n01.05.2026;06:00:00;21,5;48,0;ok\n01.05.2026;06:01:00;21,6;48,2;ok\n01.05.2026;06:02:00;;48,1;ok\n";
        let own = layout(text, "").expect("a table");
        assert_eq!((own.separator, own.decimal_comma), (';', true));
        assert_eq!((own.time, own.time_of_day), (Some(0), Some(1)));
        assert_eq!(own.formats, ["%d.%m.%Y %H:%M:%S%.f"]);
        let told: Vec<_> = own
            .columns
            .iter()
            .map(|c| (c.quantity, c.numbers))
            .collect();
        let quantity = |own| (Some(own), true);
        assert_eq!(
            told[2..],
            [
                quantity(Logged::AirTemperature),
                quantity(Logged::Humidity),
                (None, false)
            ]
        );
        assert_eq!(own.rows.len(), 3);
    }

    #[test]
    fn the_end_of_the_file_tells_day_and_month_apart() {
        let beginning = "time,temp C\n03/04/2026 06:00,20.1\n03/04/2026 07:00,20.4\n";
        assert_eq!(layout(beginning, "").expect("a table").formats.len(), 2);
        let own = layout(
            beginning,
            "27/04/2026 06:00,21.0\n27/04/2026 07:00,21.0\n27/04",
        )
        .expect("a table");
        assert_eq!(own.formats, ["%d/%m/%Y %H:%M"]);
        assert!(!own.decimal_comma);
    }

    #[test]
    fn what_is_no_table_is_told_so() {
        for text in [
            "",
            "\n\n",
            "a letter to a friend,\nwith commas, and lines\n",
            "\u{0}\u{1}\u{2}",
            ",,,,\n,,,,\n",
        ] {
            assert_eq!(layout(text, ""), None, "{text:?}");
        }
    }
}
