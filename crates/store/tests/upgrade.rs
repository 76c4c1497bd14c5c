//! Files of before records of all kinds stood in one table: everything comes over, and undo works
//! across the upgrade.
//!
//! `files/every-kind-v16.sqlite` was made by the program at cedaaf7: three trials, one of them
//! opened, with every kind of record in them, corrected, taken back, of a unit of a deal that no
//! longer stands.

use iron_twin_core::trial::Trial;
use iron_twin_core::trial::decided::Decides;
use iron_twin_core::trial::record;
use iron_twin_core::trial::record::giving::{Gift, Recipient};
use iron_twin_core::trial::record::gone::GoneWhy;
use iron_twin_core::trial::record::guess::Expects;
use iron_twin_core::trial::record::look::LookAnswer;
use iron_twin_core::trial::record::mix::GapWhy;
use iron_twin_core::trial::record::weighing::Turn;
use iron_twin_core::trial::records::SampleNumber;
use iron_twin_store::{Result, Stamp, Store, StoreError};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use rusqlite::Connection;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

fn old_file(folder: &Path) -> PathBuf {
    let path = folder.join("farm.sqlite");
    let old = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/files/every-kind-v16.sqlite");
    std::fs::copy(old, &path).expect("a copy of the old file");
    path
}

/// Rows of the old tables, as many as there were of each.
const OLD: [(&str, &str); 17] = [
    ("note", "note"),
    ("weighing", "weighing"),
    ("job_done", "work"),
    ("job_moved", "moved"),
    ("giving", "giving"),
    ("line_up", "line_up"),
    ("guess", "guess"),
    ("sample_gone", "gone"),
    ("look", "look"),
    ("pick", "pick"),
    ("mix", "mix"),
    ("weather", "weather"),
    ("finding_answer", "answer"),
    ("decision", "decision"),
    ("scorecard", "scorecard"),
    ("photo", "photo"),
    (
        "(SELECT 1 FROM photo WHERE marked IS NOT NULL)",
        "photo_marked",
    ),
];

fn count(file: &Connection, what: &str) -> i64 {
    file.query_row(&format!("SELECT count(*) FROM {what}"), [], |r| r.get(0))
        .expect("a count")
}

fn trials(store: &Store) -> Result<[Arc<Trial>; 3]> {
    let mut named: Vec<Arc<Trial>> = store
        .trials()?
        .iter()
        .map(|head| store.trial(&head.id))
        .collect::<Result<_>>()?;
    named.sort_by_key(|t| (t.plan.ask.samples_inside > 0, t.reveal.is_some()));
    Ok(named.try_into().expect("three trials"))
}

#[test]
fn every_kind_of_record_comes_over() -> Result<()> {
    let folder = tempfile::tempdir().expect("a folder");
    let path = old_file(folder.path());
    let before: BTreeMap<&str, i64> = {
        let file = Connection::open(&path).expect("the old file");
        let losses = (
            "write_off",
            count(&file, "unit WHERE lost_reason IS NOT NULL"),
        );
        OLD.iter()
            .map(|(table, kind)| (*kind, count(&file, table)))
            .chain([losses])
            .collect()
    };
    assert!(
        before.values().all(|n| *n > 0),
        "the old file holds every kind: {before:?}"
    );
    let store = Store::open(&path)?;
    let file = Connection::open(&path).expect("the new file");
    let after: BTreeMap<&str, i64> = before
        .keys()
        .map(|kind| {
            (
                *kind,
                count(&file, &format!("record WHERE kind = '{kind}'")),
            )
        })
        .collect();
    // Three answers were taken away: one without words stands for each.
    let told: BTreeMap<&str, i64> = after
        .iter()
        .map(|(kind, n)| (*kind, if *kind == "answer" { n - 3 } else { *n }))
        .collect();
    assert_eq!(told, before);
    assert!(
        after.keys().all(|kind| record::find(kind).is_some()),
        "{after:?}"
    );
    assert!(store.sound(true)?);
    assert!(
        path.with_extension("before-v17.sqlite").exists(),
        "it was copied first"
    );
    Ok(())
}

/// What today's program read of the old file, figure by figure.
#[test]
fn they_say_what_they_said() -> Result<()> {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&old_file(folder.path()))?;
    let [own, opened, mint] = trials(&store)?;
    let (first, second) = (UnitIndex(0), UnitIndex(1));
    let r = &own.records;
    let notes: Vec<_> = r
        .notes()
        .iter()
        .map(|n| (n.unit.map(UnitIndex::get), n.text.as_str()))
        .collect();
    assert_eq!(
        notes,
        [
            (None, "Stand even."),
            (Some(2), "Pale, “quoted”\nand on two lines")
        ]
    );
    let weight = own.of_unit(second).weighed(None, None).expect("a weight");
    assert_eq!(
        (weight.net_g(), weight.turn, weight.head.version),
        (113.25, None, 2)
    );
    let weight = own.of_unit(first).weighed(None, None).expect("a weight");
    assert_eq!((weight.net_g(), weight.turn), (111.5, Some(Turn::Walking)));
    assert_eq!(
        (weight.head.instrument.as_deref(), &*weight.head.who),
        (Some("scale 1"), "kim")
    );
    let fed: Vec<_> = r
        .work()
        .iter()
        .map(|w| (w.job.label(), w.head.day, w.ml_a_unit, w.skipped.as_deref()))
        .collect();
    assert!(
        fed.contains(&("Fed", 4, Some(250.0), None)) || fed.len() >= 5,
        "{fed:?}"
    );
    assert!(
        r.work()
            .iter()
            .any(|w| w.skipped.as_deref() == Some("away") && w.head.day == 6)
    );
    assert_eq!(
        own.moved()
            .iter()
            .map(|m| (m.from, m.to))
            .collect::<Vec<_>>(),
        [(8, 9)]
    );
    let whom: Vec<_> = r.givings().iter().filter_map(|g| g.whom()).collect();
    let all = [
        Recipient::Unit(first),
        Recipient::Treatment(TreatmentIndex(1)),
        Recipient::Unit(second),
        Recipient::All,
    ];
    assert_eq!(whom, all);
    let Gift::Own(broth) = &r.givings()[0].gift else {
        panic!("{:?}", r.givings()[0])
    };
    assert_eq!(
        (broth.what.as_str(), broth.amount, broth.lot.as_str()),
        ("fish broth", Some(20.0), "L7")
    );
    assert_eq!(r.givings()[2].gift, Gift::Withheld("wilted".into()));
    let order: Vec<Vec<usize>> = r.line_ups()[0]
        .order(&own)
        .into_iter()
        .map(|t| t.into_iter().map(UnitIndex::get).collect())
        .collect();
    assert_eq!(order, [vec![1, 3], vec![0], vec![2]]);
    // The guess of a unit of the first deal is nobody's.
    let expected: Vec<_> = r
        .guesses()
        .filter_map(|g| Some((g.whom()?, g.by_percent)))
        .collect();
    let best = Expects::Best(TreatmentIndex(1));
    assert_eq!(
        expected,
        [
            (Expects::NoDifference, None),
            (Expects::Unit(second), Some(-5.5)),
            (best, None)
        ]
    );
    assert_eq!(
        (r.looks()[0].measure.as_str(), r.looks()[0].answer),
        ("height", LookAnswer::CannotTell)
    );
    let picks: Vec<_> = r
        .picks()
        .iter()
        .map(|p| (p.net_g(), p.pieces, p.grade.as_str(), p.aside))
        .collect();
    assert_eq!(picks[0], (40.0, Some(4), "large", false));
    assert_eq!((picks.len(), picks[4]), (5, (5.0, None, "", true)));
    let mix = &r.mixes()[0];
    assert_eq!(
        (mix.ec_ms_per_cm, mix.gap_why, mix.portions[0].measured),
        (Some(1.4), Some(GapWhy::Probe), 5.1)
    );
    assert_eq!(r.mixes()[1].gap_why, None);
    let weather: Vec<_> = r
        .weather()
        .iter()
        .map(|w| (w.head.day, w.rain_mm, w.high_c))
        .collect();
    assert_eq!(weather, [(3, Some(3.0), None), (4, None, Some(17.5))]);
    let answers: Vec<_> = r
        .answers()
        .map(|a| (a.code.as_str(), a.text.as_str()))
        .collect();
    assert_eq!(answers, [("few_units", "It is a rehearsal.")]);
    let photos: Vec<_> = r.photos().collect();
    assert_eq!(
        (photos.len(), photos[0].0, photos[0].1.media.as_str()),
        (2, first, "image/png")
    );
    let marked = r.photo_marked(&photos[0].1.id).expect("marked");
    assert_eq!((marked.marked.readiness, marked.head.version), (0.7, 2));
    assert!(r.photo_marked(&photos[1].1.id).is_none());
    let lost: Vec<_> = own
        .units
        .iter()
        .map(|u| u.lost.as_ref().map(|l| (l.reason.as_str(), l.day)))
        .collect();
    assert_eq!(lost, [None, None, None, Some(("mould", Some(10)))]);
    assert_eq!(
        (
            own.sown_on.is_some(),
            own.records.readings(),
            own.records.sowing_entered
        ),
        (true, 14, Some(0))
    );
    let gone = &mint.records.gone()[0];
    assert_eq!(
        (gone.unit, gone.head.sample, gone.why),
        (Some(first), SampleNumber::new(2), GoneWhy::Lost)
    );
    assert_eq!((gone.note.as_str(), mint.records.weighings()), ("snail", 8));
    let decided: Vec<_> = opened
        .records
        .decisions()
        .iter()
        .map(|d| (d.decides, d.units))
        .collect();
    assert_eq!(
        decided,
        [(Decides::Adopt, None), (Decides::Repeat, Some(8))]
    );
    assert!(opened.records.scorecard().is_some());
    Ok(())
}

/// Everything of the shelf is taken back, one after another, as whoever wrote it; what comes last
/// is the sowing.
#[test]
fn undo_works_across_the_upgrade() -> Result<()> {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&old_file(folder.path()))?;
    let [own, opened, _] = trials(&store)?;
    let stamp = |who: &str| Stamp {
        who: who.into(),
        now: Timestamp::from_second(1_800_000_000).expect("an instant"),
        request: None,
    };
    // The last weight of Kim's was a correction: the one before stands again.
    assert!(
        store
            .undo(&stamp("kim"), &own.id)?
            .action
            .starts_with("weighed")
    );
    assert!(
        store
            .undo(&stamp("kim"), &own.id)?
            .action
            .contains("113.25")
    );
    let weight = store
        .trial(&own.id)?
        .of_unit(UnitIndex(1))
        .weighed(None, None)
        .map(|w| (w.net_g(), w.head.version));
    assert_eq!(weight, Some((112.5, 1)));
    for who in ["nia", "kim", "owner"] {
        loop {
            match store.undo(&stamp(who), &own.id) {
                Ok(_) => {}
                Err(StoreError::NothingToUndo) => break,
                Err(other) => panic!("{who}: {other}"),
            }
        }
    }
    let left = store.trial(&own.id)?;
    let r = &left.records;
    assert_eq!(
        (
            r.readings(),
            r.weighings(),
            r.picks().len(),
            r.notes().len(),
            r.mixes().len()
        ),
        (0, 0, 0, 0, 0)
    );
    assert_eq!(
        (
            r.givings().len(),
            r.moved().len(),
            r.line_ups().len(),
            r.weather().len()
        ),
        (0, 0, 0, 0)
    );
    assert_eq!(
        (r.photos().count(), r.answers().count(), r.guesses().count()),
        (0, 0, 0)
    );
    assert_eq!(
        (left.sown_on, r.looks().len()),
        (None, 1),
        "what was seen was seen"
    );
    // Once the key is open only what was written on its strength.
    for _ in 0..2 {
        assert_eq!(
            store.undo(&stamp("owner"), &opened.id)?.action,
            "changed the scorecard"
        );
    }
    assert!(
        store
            .undo(&stamp("owner"), &opened.id)?
            .action
            .starts_with("decided: Repeat")
    );
    Ok(())
}

/// The steps of the file before records had one shape, as they stand.
const STEPS: [&str; 16] = [
    include_str!("../src/migrations/0001_farm.sql"),
    include_str!("../src/migrations/0002_records.sql"),
    include_str!("../src/migrations/0003_backups.sql"),
    include_str!("../src/migrations/0004_loss_day.sql"),
    include_str!("../src/migrations/0005_giving.sql"),
    include_str!("../src/migrations/0006_photo.sql"),
    include_str!("../src/migrations/0007_series.sql"),
    include_str!("../src/migrations/0008_line_up.sql"),
    include_str!("../src/migrations/0009_guess.sql"),
    include_str!("../src/migrations/0010_gone_and_looks.sql"),
    include_str!("../src/migrations/0011_devices.sql"),
    include_str!("../src/migrations/0012_picks.sql"),
    include_str!("../src/migrations/0013_tasting.sql"),
    include_str!("../src/migrations/0014_reveal_reason.sql"),
    include_str!("../src/migrations/0015_weather_and_answers.sql"),
    include_str!("../src/migrations/0016_decisions_and_scorecards.sql"),
];

fn names(file: &Connection, sql: &str) -> Vec<String> {
    let mut statement = file.prepare(sql).expect("SQL");
    let rows = statement.query_map([], |r| r.get(0)).expect("names");
    rows.collect::<rusqlite::Result<_>>().expect("names")
}

/// A file as it stood after so many steps, with all that the old file holds and such a file had
/// room for.
fn of_version(path: &Path, old: &Path, version: usize) {
    let file = Connection::open(path).expect("a file");
    file.pragma_update(None, "foreign_keys", false)
        .expect("a pragma");
    for step in &STEPS[..version] {
        file.execute_batch(step).expect("a step");
    }
    file.execute("ATTACH ?1 AS old", [old.to_str().expect("a path")])
        .expect("the old file");
    let tables = "SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite_%'";
    for table in names(&file, tables) {
        let columns = |schema: &str| {
            names(
                &file,
                &format!("SELECT name FROM pragma_table_info('{table}', '{schema}')"),
            )
        };
        let then = columns("main");
        let both: Vec<String> = columns("old")
            .into_iter()
            .filter(|c| then.contains(c))
            .collect();
        let both = both.join(", ");
        let sql =
            format!("INSERT OR REPLACE INTO main.{table} ({both}) SELECT {both} FROM old.{table}");
        file.execute(&sql, [])
            .unwrap_or_else(|e| panic!("{table} of version {version}: {e}"));
    }
    file.pragma_update(None, "user_version", version as i64)
        .expect("a version");
}

#[test]
fn files_of_every_step_open_with_what_they_hold() -> Result<()> {
    let folder = tempfile::tempdir().expect("a folder");
    let old = old_file(folder.path());
    for version in 1..=STEPS.len() {
        let path = folder.path().join(format!("v{version}.sqlite"));
        of_version(&path, &old, version);
        let before: Vec<(&str, i64)> = {
            let file = Connection::open(&path).expect("the file");
            let there = names(&file, "SELECT name FROM sqlite_schema WHERE type = 'table'");
            let had = OLD
                .iter()
                .filter(|(table, _)| there.iter().any(|t| t == table));
            had.map(|(table, kind)| (*kind, count(&file, table)))
                .collect()
        };
        let store = Store::open(&path)?;
        assert_eq!(
            trials(&store)?.map(|t| t.units.len()),
            [4, 4, 4],
            "version {version}"
        );
        let file = Connection::open(&path).expect("the file");
        for (kind, n) in before {
            let more = if kind == "answer" { 3 } else { 0 };
            let now = count(&file, &format!("record WHERE kind = '{kind}'"));
            assert_eq!(now, n + more, "{kind} of version {version}");
        }
    }
    Ok(())
}
