use super::*;
use proptest::prelude::*;

fn mapping() -> Mapping {
    let column = |column, quantity, unit: &str, place| ColumnUse {
        column,
        quantity,
        unit: unit.into(),
        place,
    };
    Mapping {
        separator: ';',
        decimal_comma: true,
        head_rows: 1,
        time: 0,
        time_of_day: None,
        format: "%d.%m.%Y %H:%M".into(),
        zone: "UTC".into(),
        columns: vec![
            column(1, Logged::AirTemperature, "°F", ProbeAt::Room),
            column(2, Logged::Humidity, "%", ProbeAt::Shelf(1)),
        ],
    }
}

fn within() -> Within {
    let at = |text: &str| text.parse().expect("an instant");
    Within {
        from: at("2001-01-01T00:00:00Z"),
        until: at("2027-01-01T00:00:00Z"),
    }
}

/// What became of each row: good ones by their values, others by why not.
fn told(text: &str, mapping: &Mapping) -> Vec<String> {
    let mut found = Vec::new();
    read(text.as_bytes(), mapping, within(), |row| {
        found.push(match row {
            Row::Good(_, at, values) => format!("{at} {values:?}"),
            Row::Bad(line, why) => format!("{line}: {why}"),
            Row::Empty => "empty".into(),
        });
        ControlFlow::Continue(())
    })
    .expect("a mapping that can be");
    found
}

#[test]
fn good_rows_are_taken_and_bad_ones_are_told_by_line() {
    let text = "time;temp;rh\r\n01.05.2026 06:00;68,0;48,5\r\n01.05.2026 \
                06:01;;\r\n\r\n01.05.2026 06:02;---;47\n01.05.2026 06:03;warm;47\n01.05.2026 \
                06:04;68,0;147\nsoon;68;47\n01.01.1970 00:00;68;47\n01.05.2026 \
                06:05;68\n\"01.05.2026 06:06;68;47\n\"01.05.2026 06:07\";\"68,0\";47\n01.05.2026 \
                06:0";
    let expected = [
        "2026-05-01T06:00:00Z [Some(20.0), Some(48.5)]",
        "empty",
        "empty",
        "2026-05-01T06:02:00Z [None, Some(47.0)]",
        "6: 'warm' in column 2 is no number",
        "7: humidity of 147 % cannot be",
        "8: the time cannot be read",
        "9: the clock stood at 1970-01-01 00:00",
        "10: the row ends before column 3",
        "11: the row ends before column 2",
        "2026-05-01T06:07:00Z [Some(20.0), Some(47.0)]",
        "13: the row ends before column 2",
    ];
    assert_eq!(told(text, &mapping()), expected);
}

#[test]
fn old_bytes_and_endless_lines_spoil_their_own_row_alone() {
    let mut text = b"time;temp \xb0F;rh\n01.05.2026 06:00;68,0 \xb0F;48\n".to_vec();
    text.extend(std::iter::repeat_n(b'x', 3 * MOST_LINE as usize));
    text.extend(b"\n01.05.2026 06:02;68,0;48\n");
    let mut found = Vec::new();
    read(&text[..], &mapping(), within(), |row| {
        found.push(matches!(row, Row::Good(..)));
        ControlFlow::Continue(())
    })
    .expect("a mapping that can be");
    assert_eq!(found, [true, false, true]);
    assert_eq!(decoded(b"\xef\xbb\xbftemp \xc2\xb0C"), "temp °C");
    assert_eq!(decoded(b"temp \xb0C, \xb5S/cm"), "temp °C, µS/cm");
}

#[test]
fn mappings_that_cannot_be_are_refused_by_field() {
    let refused = |change: fn(&mut Mapping)| {
        let mut own = mapping();
        change(&mut own);
        own.check().err().map(|e| e.field)
    };
    assert_eq!(mapping().check(), Ok(()));
    assert_eq!(refused(|m| m.separator = 'x'), Some("separator"));
    assert_eq!(refused(|m| m.columns.clear()), Some("columns"));
    assert_eq!(refused(|m| m.columns[0].unit = "%".into()), Some("columns"));
    assert_eq!(refused(|m| m.columns[0].column = 0), Some("columns"));
    assert_eq!(refused(|m| m.time = 4_000_000_000), Some("columns"));
    assert_eq!(
        refused(|m| {
            let twice = m.columns[0].clone();
            m.columns.push(ColumnUse { column: 5, ..twice });
        }),
        Some("columns")
    );
    assert_eq!(refused(|m| m.zone = "Middle/Earth".into()), Some("zone"));
    assert_eq!(refused(|m| m.format = "%Q".into()), Some("format"));
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(400))]

    /// Whatever bytes come: every line is told as good, bad or empty, once; and nothing good holds
    /// what cannot be.
    #[test]
    fn broken_files_are_read_to_their_end(
        bytes in prop::collection::vec(prop_oneof![
            prop::sample::select(b"0123456789;,.:-\"\n\r\t |eE".to_vec()), any::<u8>(),
        ], 0..600),
        separator in prop::sample::select(layout::SEPARATORS.to_vec()),
        decimal_comma in any::<bool>(),
    ) {
        let own = Mapping { separator, decimal_comma, head_rows: 0, ..mapping() };
        let mut rows = 0;
        read(&bytes[..], &own, within(), |row| {
            rows += 1;
            if let Row::Good(_, _, values) = row {
                assert!(values.iter().flatten().all(|v| v.is_finite()) && values.iter().any(Option::is_some));
            }
            ControlFlow::Continue(())
        }).expect("a mapping that can be");
        let lines = bytes.split(|b| *b == b'\n').count() - usize::from(bytes.is_empty() || bytes.ends_with(b"\n"));
        prop_assert_eq!(rows, lines);
        let _ = layout::layout(&decoded(&bytes), &decoded(&bytes));
    }

    /// What is written is found out about and read again, whatever the layout.
    #[test]
    fn what_a_logger_writes_is_read_again(
        separator in prop::sample::select(vec![';', '\t', '|']),
        decimal_comma in any::<bool>(),
        step in prop::sample::select(vec![1_i64, 5, 60, 1440]),
        date in prop::sample::select(vec!["%Y-%m-%d %H:%M:%S", "%d.%m.%Y %H:%M", "%m/%d/%Y %I:%M %p", "%Y-%m-%dT%H:%M:%SZ"]),
        values in prop::collection::vec(150..350_i32, 30..50),
    ) {
        let start = jiff::civil::date(2026, 5, 23).at(0, 0, 0, 0);
        let mut text = format!("Model X{separator}\nwhen{separator}temp °C{separator}note\n");
        let mut written = Vec::new();
        for (n, value) in (0..).zip(&values) {
            let at = start.checked_add(jiff::Span::new().minutes(n * step)).expect("a time");
            let tenths = format!("{}{}{}", value / 10, if decimal_comma { ',' } else { '.' }, value % 10);
            text += &format!("{}{separator}{tenths}{separator}ok\n", at.strftime(date));
            written.push((at, f64::from(*value) / 10.0));
        }
        let found = layout::layout(&text, "").expect("a table");
        prop_assert_eq!((found.separator, found.head_rows, found.time), (separator, 2, Some(0)));
        let column = &found.columns[1];
        let (quantity, unit) = (column.quantity.expect("told by its head"), column.unit.clone());
        let own = Mapping {
            separator,
            decimal_comma: found.decimal_comma,
            head_rows: found.head_rows,
            time: 0,
            time_of_day: None,
            format: found.formats[0].clone(),
            zone: "UTC".into(),
            columns: vec![ColumnUse { column: 1, quantity, unit, place: ProbeAt::Room }],
        };
        let mut back = Vec::new();
        read(text.as_bytes(), &own, within(), |row| {
            if let Row::Good(_, at, values) = row {
                back.push((at.to_zoned(jiff::tz::TimeZone::UTC).datetime(), values[0].unwrap_or(f64::NAN)));
            }
            ControlFlow::Continue(())
        }).expect("a mapping that can be");
        prop_assert_eq!(back, written);
    }
}
