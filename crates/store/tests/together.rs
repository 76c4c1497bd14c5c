//! Writes that arrive together share a commit: each is kept or taken back by itself, and none is
//! answered before it stands.

use iron_twin_store::{Result, Stamp, Store, StoreError};
use jiff::Timestamp;
use std::panic::{AssertUnwindSafe, catch_unwind};
use std::sync::Barrier;
use std::sync::atomic::{AtomicUsize, Ordering};

fn open() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("trials.sqlite")).expect("a store");
    let made = |t: &iron_twin_store::Tx<'_>| -> Result<()> {
        Ok(t.execute_batch(
            "CREATE TABLE mark (thread INTEGER NOT NULL, n INTEGER NOT NULL) STRICT",
        )?)
    };
    store.write(&stamp(), made).expect("a table");
    (folder, store)
}

fn stamp() -> Stamp {
    Stamp::owner(Timestamp::UNIX_EPOCH)
}

fn mark(store: &Store, thread: usize, n: usize, after: impl FnOnce() -> Result<()>) -> Result<()> {
    store.write(&stamp(), |t| {
        t.execute(
            "INSERT INTO mark VALUES (?1, ?2)",
            (thread as i64, n as i64),
        )?;
        after()
    })
}

fn marks(store: &Store) -> Vec<(i64, i64)> {
    let read = |t: &iron_twin_store::Tx<'_>| -> Result<Vec<(i64, i64)>> {
        let mut marks = t.prepare("SELECT thread, n FROM mark ORDER BY thread, n")?;
        let rows = marks.query_map([], |r| Ok((r.get(0)?, r.get(1)?)))?;
        Ok(rows.collect::<std::result::Result<_, _>>()?)
    };
    store.read(read).expect("marks")
}

#[test]
fn what_was_answered_stands_and_what_failed_left_nothing() {
    const THREADS: usize = 8;
    const EACH: usize = 60;
    let (_folder, store) = open();
    let (start, seen) = (Barrier::new(THREADS), AtomicUsize::new(0));
    std::thread::scope(|threads| {
        for thread in 0..THREADS {
            let (store, start, seen) = (&store, &start, &seen);
            threads.spawn(move || {
                start.wait();
                for n in 0..EACH {
                    let refused = || Err(StoreError::Locked("on purpose".into()));
                    match n % 5 {
                        // One in five is refused after it wrote, one in five panics.
                        1 => assert!(matches!(
                            mark(store, thread, n, refused),
                            Err(StoreError::Locked(_))
                        )),
                        2 => {
                            let broken = || mark(store, thread, n, || panic!("on purpose"));
                            assert!(catch_unwind(AssertUnwindSafe(broken)).is_err());
                        }
                        _ => {
                            mark(store, thread, n, || Ok(())).expect("a write");
                            // What was answered is seen by everybody at once.
                            let own = marks(store);
                            assert!(own.contains(&(thread as i64, n as i64)));
                            seen.fetch_max(own.len(), Ordering::SeqCst);
                        }
                    }
                }
            });
        }
    });
    let wanted: Vec<(i64, i64)> = (0..THREADS as i64)
        .flat_map(|thread| {
            (0..EACH as i64)
                .filter(|n| ![1, 2].contains(&(n % 5)))
                .map(move |n| (thread, n))
        })
        .collect();
    assert_eq!(marks(&store), wanted);
    assert!(
        seen.load(Ordering::SeqCst) <= wanted.len(),
        "nothing of what was taken back was ever seen"
    );
}

#[test]
fn a_full_disk_is_told_to_all_who_shared_the_commit_and_nothing_of_theirs_stands() {
    const THREADS: usize = 8;
    let (_folder, store) = open();
    mark(&store, 0, 0, || Ok(())).expect("a write");
    let (start, failed) = (Barrier::new(THREADS), AtomicUsize::new(0));
    std::thread::scope(|threads| {
        for thread in 0..THREADS {
            let (store, start, failed) = (&store, &start, &failed);
            threads.spawn(move || {
                start.wait();
                let much = |t: &iron_twin_store::Tx<'_>| -> Result<()> {
                    let pages: i64 = t.query_row("PRAGMA page_count", [], |r| r.get(0))?;
                    t.query_row(
                        &format!("PRAGMA max_page_count = {}", pages + 3),
                        [],
                        |_| Ok(()),
                    )?;
                    t.execute("INSERT INTO mark VALUES (?1, 1)", [thread as i64])?;
                    t.execute_batch(
                        "CREATE TABLE large (x BLOB) STRICT; INSERT INTO large VALUES \
                         (zeroblob(4000000));",
                    )?;
                    Ok(())
                };
                let said = store.write(&stamp(), much);
                assert!(matches!(said, Err(StoreError::DiskFull)), "{said:?}");
                failed.fetch_add(1, Ordering::SeqCst);
            });
        }
    });
    assert_eq!(
        (failed.load(Ordering::SeqCst), marks(&store)),
        (THREADS, vec![(0, 0)])
    );
    // With room again the next write goes on.
    store
        .write(&stamp(), |t| {
            Ok(t.query_row("PRAGMA max_page_count = 1000000", [], |_| Ok(()))?)
        })
        .expect("room again");
    mark(&store, 1, 1, || Ok(())).expect("a write");
    assert!(store.sound(true).expect("a check"));
}

/// One write is under way while another waits for its turn, so that the two share a commit; what
/// the second does, and what the first is told.
fn behind_another(second: impl FnOnce(&Store) + Send) -> (Result<()>, Vec<(i64, i64)>) {
    let (_folder, store) = open();
    let (under_way, begun) = std::sync::mpsc::channel();
    let first = std::thread::scope(|threads| {
        let store = &store;
        let first = threads.spawn(move || {
            mark(store, 1, 1, || {
                under_way.send(()).expect("somebody listens");
                std::thread::sleep(std::time::Duration::from_millis(300));
                Ok(())
            })
        });
        begun.recv().expect("the first has its turn");
        second(store);
        first.join().expect("no panic")
    });
    (first, marks(&store))
}

#[test]
fn the_first_of_two_is_told_the_truth_whatever_the_second_does() {
    let (first, marks) = behind_another(|store| mark(store, 2, 2, || Ok(())).expect("a write"));
    assert!(first.is_ok());
    assert_eq!(marks, [(1, 1), (2, 2)]);
    let (first, marks) = behind_another(|store| {
        assert!(mark(store, 2, 2, || Err(StoreError::Locked("on purpose".into()))).is_err());
    });
    assert!(first.is_ok());
    assert_eq!(marks, [(1, 1)]);
    // The second ends the whole transaction, as SQLite does by itself where it must.
    let (first, marks) = behind_another(|store| {
        let said = store.write(&stamp(), |t| Ok(t.execute_batch("ROLLBACK")?));
        assert!(said.is_err(), "{said:?}");
    });
    assert!(
        first.is_err(),
        "what does not stand was not answered as if it did"
    );
    assert_eq!(marks, []);
}

#[test]
fn a_key_that_comes_twice_at_once_is_done_once() {
    const THREADS: usize = 8;
    let (_folder, store) = open();
    let start = Barrier::new(THREADS);
    std::thread::scope(|threads| {
        for _ in 0..THREADS {
            let (store, start) = (&store, &start);
            threads.spawn(move || {
                start.wait();
                let stamp = Stamp {
                    request: Some(("key".into(), "body".into())),
                    ..stamp()
                };
                let said = store.write(&stamp, |t| {
                    t.execute("INSERT INTO mark VALUES (7, 7)", [])?;
                    Ok(7)
                });
                assert_eq!(said.expect("the stored answer"), 7);
            });
        }
    });
    assert_eq!(marks(&store), [(7, 7)]);
}
