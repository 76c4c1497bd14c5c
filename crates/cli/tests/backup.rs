//! Backup and restore as commands, and a farm that starts with everything however often they, or an
//! upgrade, are killed.

use iron_twin_store::{Stamp, Store};
use jiff::Timestamp;
use std::path::{Path, PathBuf};
use std::process::{Command, Output, Stdio};
use std::time::{Duration, Instant};

/// Kills of each kind.
const KILLS: u32 = 60;

pub fn command(words: &[&str], data: &Path) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_iron-twin"));
    command
        .args(words)
        .arg("--data")
        .arg(data)
        .stdout(Stdio::piped())
        .stderr(Stdio::piped());
    command
}

pub fn run(words: &[&str], data: &Path) -> Output {
    command(words, data).output().expect("the program")
}

pub fn said(output: &Output) -> String {
    format!(
        "{}{}",
        String::from_utf8_lossy(&output.stdout),
        String::from_utf8_lossy(&output.stderr)
    )
}

/// A farm of so many trials, large enough for its copy to take a while.
pub fn farm(data: &Path, trials: usize) {
    let store = Store::open(data).expect("a store");
    let stamp = Stamp::owner(Timestamp::from_second(1_800_000_000).expect("a moment"));
    for n in 0..trials {
        store
            .create_trial(&stamp, &format!("Trial {n}"))
            .expect("a trial");
    }
    drop(store);
    let own = rusqlite::Connection::open(data).expect("the file");
    own.execute_batch(
        "CREATE TABLE padding (bytes BLOB); INSERT INTO padding VALUES (randomblob(12000000));",
    )
    .expect("some weight");
}

/// Trials of a farm that starts as a whole.
pub fn trials(data: &Path) -> usize {
    let store = Store::open(data).expect("it starts");
    assert!(store.sound(true).expect("a check"));
    store.trials().expect("trials").len()
}

pub fn text(path: &Path) -> &str {
    path.to_str().expect("a path")
}

#[test]
fn a_backup_is_made_and_put_back_with_a_word() {
    let folder = tempfile::tempdir().expect("a folder");
    let (data, copy) = (
        folder.path().join("farm.sqlite"),
        folder.path().join("copy.sqlite"),
    );
    farm(&data, 3);
    let made = run(&["backup", text(&copy)], &data);
    assert!(
        made.status.success() && said(&made).contains("3 trials, 0 records, 12."),
        "{}",
        said(&made)
    );
    let again = run(&["backup", text(&copy)], &data);
    assert!(
        !again.status.success() && said(&again).contains("it is there already"),
        "{}",
        said(&again)
    );
    let back = run(&["restore", text(&copy)], &data);
    let aside = folder.path().join("farm.before-restore.sqlite");
    assert!(
        back.status.success() && said(&back).contains(text(&aside)),
        "{}",
        said(&back)
    );
    let wrong = run(&["restore", text(&folder.path().join("none"))], &data);
    assert!(
        !wrong.status.success() && said(&wrong).contains("Nothing was changed"),
        "{}",
        said(&wrong)
    );
    let nothing = run(
        &["backup", text(&folder.path().join("x"))],
        &folder.path().join("none"),
    );
    assert!(
        !nothing.status.success() && said(&nothing).contains("no such file"),
        "{}",
        said(&nothing)
    );
    assert!(
        !folder.path().join("none").exists(),
        "a backup of nothing makes no farm"
    );
    assert_eq!(trials(&data), 3);
}

/// Runs a command and kills it, over and over, and holds that many kills came before its work was
/// done and many after. `after` looks at what is left, told whether the command had ended by itself,
/// and says whether the work was done.
///
/// The moments are spread over twice the time that the work takes. How long that is changes with
/// what else the machine does, so it is felt for: a kill that came too late brings the next ones
/// nearer, one that came before puts them off.
fn killed(
    words: &[&str],
    data: &Path,
    mut taking: Duration,
    before: impl Fn(),
    after: impl Fn(bool) -> bool,
) {
    let mut cut_short = 0;
    for n in 0..KILLS {
        before();
        let mut child = command(words, data).spawn().expect("the program");
        // Steps of the golden section: any few of them in a row lie spread.
        std::thread::sleep(taking.mul_f64(2.0 * (f64::from(n) * 0.618).fract()));
        child.kill().expect("a kill");
        let ended = child.wait().expect("an end").success();
        let done = after(ended);
        cut_short += u32::from(!done);
        taking = taking.mul_f64(if done { 0.9 } else { 1.1 });
    }
    assert!(
        (KILLS / 4..=KILLS * 3 / 4).contains(&cut_short),
        "{cut_short} kills of {KILLS} came before the work was done"
    );
}

fn timed(work: impl FnOnce()) -> Duration {
    let started = Instant::now();
    work();
    started.elapsed()
}

#[test]
fn killed_while_it_backs_up_the_farm_is_whole_and_no_half_backup_passes_for_one() {
    let folder = tempfile::tempdir().expect("a folder");
    let (data, copy) = (
        folder.path().join("farm.sqlite"),
        folder.path().join("copy.sqlite"),
    );
    farm(&data, 5);
    let taking = timed(|| assert!(run(&["backup", text(&copy)], &data).status.success()));
    let clear = || std::fs::remove_file(&copy).unwrap_or_default();
    let whole = |finished: bool| {
        assert_eq!(trials(&data), 5);
        if copy.exists() {
            assert_eq!(trials(&copy), 5);
        } else {
            assert!(!finished, "it said that it was made");
        }
        finished
    };
    killed(&["backup", text(&copy)], &data, taking, clear, whole);
}

#[test]
fn killed_while_it_restores_the_old_farm_or_the_new_one_stands_there() {
    let folder = tempfile::tempdir().expect("a folder");
    let (data, copy) = (
        folder.path().join("farm.sqlite"),
        folder.path().join("copy.sqlite"),
    );
    farm(&data, 5);
    assert!(run(&["backup", text(&copy)], &data).status.success());
    let stamp = Stamp::owner(Timestamp::from_second(1_800_000_000).expect("a moment"));
    Store::open(&data)
        .expect("a store")
        .create_trial(&stamp, "Later")
        .expect("a trial");
    let later = folder.path().join("later.sqlite");
    assert!(run(&["backup", text(&later)], &data).status.success());
    let taking = timed(|| assert!(run(&["restore", text(&copy)], &data).status.success()));
    let asides = || -> Vec<PathBuf> {
        let all = std::fs::read_dir(folder.path())
            .expect("a folder")
            .map(|e| e.expect("an entry").path());
        all.filter(|p| {
            p.to_string_lossy().contains("before-restore")
                && p.extension().is_some_and(|e| e == "sqlite")
        })
        .collect()
    };
    let before = || {
        asides()
            .iter()
            .for_each(|p| std::fs::remove_file(p).expect("removed"));
        assert!(run(&["restore", text(&later)], &data).status.success());
        asides()
            .iter()
            .for_each(|p| std::fs::remove_file(p).expect("removed"));
    };
    let whole = |finished: bool| {
        match trials(&data) {
            5 => assert!(
                asides().iter().any(|p| trials(p) == 6),
                "the old farm is kept aside"
            ),
            found => assert!(found == 6 && !finished, "{found}"),
        }
        finished
    };
    killed(&["restore", text(&copy)], &data, taking, before, whole);
}

/// Rows of a table, or of what is asked of one.
fn count(file: &rusqlite::Connection, what: &str) -> i64 {
    file.query_row(&format!("SELECT count(*) FROM {what}"), [], |r| r.get(0))
        .expect("a count")
}

/// The old file holds every kind of record in tables of their own (`store/tests/upgrade.rs` tells
/// what is in it).
#[test]
fn killed_while_it_is_brought_up_to_date_the_farm_starts_with_everything() {
    let folder = tempfile::tempdir().expect("a folder");
    let (data, old) = (
        folder.path().join("farm.sqlite"),
        folder.path().join("old.sqlite"),
    );
    let made =
        Path::new(env!("CARGO_MANIFEST_DIR")).join("../store/tests/files/every-kind-v16.sqlite");
    std::fs::copy(made, &old).expect("the old file");
    let kinds = [
        ("note", "note"),
        ("weighing", "weighing"),
        ("job_done", "work"),
        ("giving", "giving"),
        ("pick", "pick"),
    ];
    let expected = {
        let earlier = rusqlite::Connection::open(&old).expect("the file");
        let padding =
            "CREATE TABLE padding (bytes BLOB); INSERT INTO padding VALUES (randomblob(12000000));";
        earlier.execute_batch(padding).expect("some weight");
        (
            kinds.map(|(table, _)| count(&earlier, table)),
            count(&earlier, "reading"),
            count(&earlier, "history"),
        )
    };
    let before = || {
        for entry in std::fs::read_dir(folder.path())
            .expect("a folder")
            .map(|e| e.expect("an entry").path())
        {
            // A connection that was looked through a moment ago may take its `-wal` away by itself.
            let gone = |e: &std::io::Error| e.kind() == std::io::ErrorKind::NotFound;
            if entry != old
                && let Err(error) = std::fs::remove_file(&entry)
            {
                assert!(gone(&error), "{}: {error}", entry.display());
            }
        }
        std::fs::copy(&old, &data).expect("a copy");
    };
    before();
    let taking = timed(|| assert_eq!(trials(&data), 3));
    let version = || -> i64 {
        let file = rusqlite::Connection::open(&data).expect("the file");
        file.pragma_query_value(None, "user_version", |r| r.get(0))
            .expect("a version")
    };
    let whole = |_| {
        let done = version() != 16;
        assert_eq!(trials(&data), 3);
        let file = rusqlite::Connection::open(&data).expect("the file");
        let now = kinds.map(|(_, kind)| count(&file, &format!("record WHERE kind = '{kind}'")));
        assert_eq!(
            (now, count(&file, "reading"), count(&file, "history")),
            expected
        );
        done
    };
    // Served, it does not end by itself: its work here is to bring the file up to date.
    killed(&["serve", "--port", "0"], &data, taking, before, whole);
}
