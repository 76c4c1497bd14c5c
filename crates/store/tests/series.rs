//! A logger's file is taken in whole or not at all, its doubles are known, and it is taken back as
//! a whole.

use iron_twin_core::catalogue::logged::Logged;
use iron_twin_core::tend::logger::{ColumnUse, Mapping, ProbeAt};
use iron_twin_core::trial::space::Rack;
use iron_twin_store::place::Chance;
use iron_twin_store::series::{LogFile, Stretch};
use iron_twin_store::{Stamp, Store, StoreError};
use jiff::Timestamp;
use std::cell::Cell;

fn at(text: &str) -> Timestamp {
    text.parse().unwrap()
}

fn stamp(who: &str) -> Stamp {
    Stamp {
        who: who.into(),
        now: at("2026-06-01T00:00:00Z"),
        request: None,
    }
}

fn farm(folder: &tempfile::TempDir) -> (Store, String) {
    let store = Store::open(&folder.path().join("trials.sqlite")).unwrap();
    let id = store.create_trial(&stamp("owner"), "Kohlrabi").unwrap();
    let rack = Rack {
        name: "rack".into(),
        levels: 2,
        slots: 2,
        ..Rack::default()
    };
    let version = store.set_rack(&stamp("owner"), &id, &rack, 1).unwrap();
    store
        .deal(
            &stamp("owner"),
            &id,
            Chance {
                seed: 11,
                nonce: [3; 32],
            },
            version,
        )
        .unwrap();
    (store, id)
}

fn column(column: u32, quantity: Logged, place: ProbeAt) -> ColumnUse {
    ColumnUse {
        column,
        quantity,
        unit: quantity.unit().into(),
        place,
    }
}

fn mapping(columns: Vec<ColumnUse>) -> Mapping {
    Mapping {
        separator: ',',
        decimal_comma: false,
        head_rows: 1,
        time: 0,
        time_of_day: None,
        format: "iso".into(),
        zone: "UTC".into(),
        columns,
    }
}

/// Minutes of a log from the beginning of May on: each its time, and a temperature that rises by a
/// hundredth, over and over.
fn minutes(range: std::ops::Range<i64>) -> String {
    let start = at("2026-05-01T00:00:00Z").as_second();
    let line = |n: i64| {
        format!(
            "{},{}\n",
            Timestamp::from_second(start + 60 * n).unwrap(),
            20.0 + (n % 1000) as f64 / 100.0
        )
    };
    "time,temp\n".to_owned() + &range.map(line).collect::<String>()
}

fn room() -> Mapping {
    mapping(vec![column(1, Logged::AirTemperature, ProbeAt::Room)])
}

fn take(
    store: &Store,
    id: &str,
    text: &str,
    mapping: &Mapping,
) -> iron_twin_store::Result<Option<LogFile>> {
    store.take_log(
        &stamp("Ada"),
        id,
        ("log.csv", mapping),
        text.as_bytes(),
        || true,
    )
}

fn stretches(store: &Store, id: &str, hours: i64) -> Vec<Vec<Stretch>> {
    let all = store.series(id).unwrap();
    all.iter()
        .map(|s| store.stretches(s, (0, i64::MAX), hours).unwrap())
        .collect()
}

#[test]
fn hours_and_days_follow_from_the_minutes_and_doubles_are_known() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = farm(&folder);
    let file = take(&store, &id, &minutes(0..90), &room())
        .unwrap()
        .unwrap();
    assert_eq!(
        (file.taken, file.doubled, file.empty, file.bad, &*file.who),
        (90, 0, 0, 0, "Ada")
    );
    let hour = at("2026-05-01T00:00:00Z").as_second() / 3600;
    let told = stretches(&store, &id, 1);
    let near = |s: &Stretch, hour, count, least: f64, most: f64, mean: f64| {
        (s.hour, s.count) == (hour, count)
            && [(s.least, least), (s.most, most), (s.mean, mean)]
                .iter()
                .all(|(a, b)| (a - b).abs() < 1e-9)
    };
    assert_eq!((told.len(), told[0].len()), (1, 2));
    assert!(near(&told[0][0], hour, 60, 20.0, 20.59, 20.295), "{told:?}");
    assert!(
        near(&told[0][1], hour + 1, 30, 20.6, 20.89, 20.745),
        "{told:?}"
    );
    assert!(near(
        &stretches(&store, &id, 24)[0][0],
        hour,
        90,
        20.0,
        20.89,
        20.445
    ));
    // A later download of the same logger holds what was there, and more; one row says otherwise
    // now.
    let other = minutes(60..120).replace(",20.61\n", ",20.99\n")
        + "2026-05-01T09:00:00Z,warm\n2026-05-01T09:01:00Z,\n\n";
    let file = take(&store, &id, &other, &room()).unwrap().unwrap();
    assert_eq!(
        (file.taken, file.doubled, file.other, file.empty, file.bad),
        (30, 29, 1, 2, 1)
    );
    let told: Vec<(u64, &str)> = file.bad_rows.iter().map(|b| (b.line, &*b.why)).collect();
    assert_eq!(
        told,
        [
            (
                3,
                "another air temperature stands there at this time already"
            ),
            (62, "'warm' in column 2 is no number")
        ]
    );
    let both = stretches(&store, &id, 24);
    assert_eq!(
        (both.len(), both[0][0].count),
        (1, 120),
        "one series, of both files, each minute once"
    );
    // What another logger says of the same place is left out; what is new in the same rows is not.
    let two = mapping(vec![
        column(1, Logged::AirTemperature, ProbeAt::Room),
        column(2, Logged::Humidity, ProbeAt::Room),
    ]);
    let text = minutes(0..10)
        .replace("\n", ",50\n")
        .replace(",20,", ",25,");
    let file = take(&store, &id, &text, &two).unwrap().unwrap();
    assert_eq!(
        (file.taken, file.doubled, file.other, file.bad),
        (10, 0, 1, 0)
    );
    assert_eq!(
        stretches(&store, &id, 24)
            .iter()
            .map(|s| s[0].count)
            .collect::<Vec<_>>(),
        [120, 10]
    );
    // The same for another place is another series.
    let shelf = mapping(vec![column(1, Logged::AirTemperature, ProbeAt::Shelf(2))]);
    take(&store, &id, &minutes(0..10), &shelf).unwrap();
    assert_eq!(store.series(&id).unwrap().len(), 3);
}

#[test]
fn what_brings_nothing_leaves_nothing() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = farm(&folder);
    let refused = |text: &str, mapping: &Mapping| match take(&store, &id, text, mapping) {
        Err(StoreError::Refused { field, message }) => format!("{field}: {message}"),
        Err(StoreError::NotFound { what, id }) => format!("no {what} {id}"),
        other => panic!("{other:?}"),
    };
    assert_eq!(
        refused("time,temp\n", &room()),
        "file: no row of it has a value in the columns that were chosen"
    );
    let told = refused("time,temp\nsoon,20\nlater,21\n", &room());
    assert_eq!(
        told,
        "file: none of its 2 rows can be taken in; line 2: the time cannot be read"
    );
    take(&store, &id, &minutes(0..5), &room()).unwrap();
    let told = refused(&minutes(0..5), &room());
    assert_eq!(
        told,
        "file: nothing in it is new: 5 of its 5 rows stand there already"
    );
    let nowhere = |place| mapping(vec![column(1, Logged::AirTemperature, place)]);
    assert_eq!(
        refused(&minutes(0..5), &nowhere(ProbeAt::Shelf(3))),
        "no shelf 3"
    );
    assert_eq!(
        refused(&minutes(0..5), &nowhere(ProbeAt::Unit("?".into()))),
        "no unit ?"
    );
    let files = store.log_files(&id).unwrap();
    assert_eq!((files.len(), stretches(&store, &id, 1)[0].len()), (1, 1));
}

#[test]
fn given_up_midway_nothing_stands_and_others_write_meanwhile() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = farm(&folder);
    let asked = Cell::new(0);
    let going = || {
        asked.set(asked.get() + 1);
        // Somebody else writes while the file comes in.
        store.create_trial(&stamp("Bo"), "Another").unwrap();
        assert!(
            store.series(&id).unwrap().is_empty(),
            "half a file is not shown"
        );
        asked.get() < 3
    };
    let text = minutes(0..40_000);
    let done = store
        .take_log(
            &stamp("Ada"),
            &id,
            ("log.csv", &room()),
            text.as_bytes(),
            going,
        )
        .unwrap();
    assert_eq!((done, asked.get()), (None, 3));
    assert!(store.log_files(&id).unwrap().is_empty() && store.series(&id).unwrap().is_empty());
    drop(store);
    let file = rusqlite::Connection::open(folder.path().join("trials.sqlite")).unwrap();
    let rows = |table: &str| {
        file.query_row(&format!("SELECT count(*) FROM {table}"), [], |r| {
            r.get::<_, i64>(0)
        })
        .unwrap()
    };
    assert_eq!(
        (rows("log_file"), rows("series"), rows("series_point")),
        (0, 0, 0)
    );
}

#[test]
fn what_a_killed_process_left_is_swept_away_and_what_was_whole_stays() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = farm(&folder);
    take(&store, &id, &minutes(0..90), &room()).unwrap();
    drop(store);
    let path = folder.path().join("trials.sqlite");
    let file = rusqlite::Connection::open(&path).unwrap();
    file.execute_batch(
        "INSERT INTO log_file (id, trial_no, name, mapping, at_us, who, changed) SELECT \
         'half', trial_no, name, mapping, 0, who, 0 FROM log_file; INSERT INTO series \
         (log_no, quantity) SELECT max(no), 'air_temperature' FROM log_file; INSERT INTO \
         series_point SELECT max(no), 0, 20.0 FROM series;",
    )
    .unwrap();
    drop(file);
    let store = Store::open(&path).unwrap();
    assert_eq!(
        store.log_files(&id).unwrap().len(),
        1,
        "half a file is not shown"
    );
    store.sweep_logs().unwrap();
    let file = rusqlite::Connection::open(&path).unwrap();
    let points = file
        .query_row("SELECT count(*) FROM series_point", [], |r| {
            r.get::<_, i64>(0)
        })
        .unwrap();
    assert_eq!((points, store.log_files(&id).unwrap()[0].taken), (90, 90));
}

#[test]
fn a_file_is_taken_back_as_a_whole_by_who_took_it_in() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = farm(&folder);
    let first = take(&store, &id, &minutes(0..90), &room())
        .unwrap()
        .unwrap();
    take(&store, &id, &minutes(60..120), &room()).unwrap();
    assert!(matches!(
        store.take_back_log(&stamp("Bo"), &id, &first.id),
        Err(StoreError::Locked(_))
    ));
    store.take_back_log(&stamp("Ada"), &id, &first.id).unwrap();
    assert_eq!(
        stretches(&store, &id, 24)[0][0].count,
        30,
        "the minutes that the second brought"
    );
    assert!(matches!(
        store.take_back_log(&stamp("Ada"), &id, &first.id),
        Err(StoreError::NotFound { .. })
    ));
    // By the undo of everybody as well.
    let undone = store.undo(&stamp("Ada"), &id).unwrap();
    assert_eq!(undone.action, "took in a logger's file, 30 rows");
    assert!(store.series(&id).unwrap().is_empty());
    // And in again.
    assert_eq!(
        take(&store, &id, &minutes(0..90), &room())
            .unwrap()
            .map(|f| f.taken),
        Some(90)
    );
}

#[test]
fn how_a_file_is_read_is_remembered_by_its_head() {
    let folder = tempfile::tempdir().unwrap();
    let (store, id) = farm(&folder);
    let trial = store.trial(&id).unwrap();
    let code = trial.units[iron_twin_terms::indices::UnitIndex(0)]
        .code
        .clone();
    let own = mapping(vec![
        column(1, Logged::AirTemperature, ProbeAt::Room),
        column(2, Logged::SolutionTemperature, ProbeAt::Unit(code)),
    ]);
    assert_eq!(store.remembered_mapping(&trial, "time,a,b").unwrap(), None);
    store
        .remember_mapping(&stamp("Ada"), "time,a,b", &own)
        .unwrap();
    assert_eq!(
        store.remembered_mapping(&trial, "time,a,b").unwrap(),
        Some(own.clone())
    );
    // In another trial the unit of this one is nowhere.
    let other = store.create_trial(&stamp("Ada"), "Another").unwrap();
    let found = store
        .remembered_mapping(&store.trial(&other).unwrap(), "time,a,b")
        .unwrap()
        .unwrap();
    assert_eq!(found.columns, own.columns[..1]);
}
