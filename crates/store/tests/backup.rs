//! Backups while the farm is in use, and back again; files that are none, are damaged, or were
//! exchanged.

use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::photo::View;
use iron_twin_store::backup::{back_up, restore};
use iron_twin_store::photo::NewPhoto;
use iron_twin_store::{Result, Stamp, Store, StoreError};
use iron_twin_terms::role::Role;
use jiff::Timestamp;
use jiff::civil::date;
use std::path::{Path, PathBuf};

fn stamp() -> Stamp {
    Stamp::owner(Timestamp::from_second(1_800_000_000).expect("a moment"))
}

fn folder() -> (tempfile::TempDir, PathBuf) {
    let folder = tempfile::tempdir().expect("a folder");
    let data = folder.path().join("farm.sqlite");
    (folder, data)
}

/// A farm of so many trials.
fn farm(data: &Path, trials: usize) -> Result<Store> {
    let store = Store::open(data)?;
    (0..trials).try_for_each(|n| {
        store
            .create_trial(&stamp(), &format!("Trial {n}"))
            .map(|_| ())
    })?;
    Ok(store)
}

fn trials(data: &Path) -> Result<usize> {
    let store = Store::open(data)?;
    assert!(store.sound(true)?);
    Ok(store.trials()?.len())
}

/// A plain copy of the one file lacks what stands in `-wal`; a backup has it, and writes go on
/// meanwhile.
#[test]
fn a_backup_of_a_farm_in_use_holds_everything() -> Result<()> {
    let (folder, data) = folder();
    let store = farm(&data, 30)?;
    let copy = folder.path().join("copy.sqlite");
    std::thread::scope(|s| {
        let writing = s.spawn(|| {
            (0..40).try_for_each(|n| {
                store
                    .create_trial(&stamp(), &format!("Late {n}"))
                    .map(|_| ())
            })
        });
        for n in 0..5 {
            let held =
                back_up(&data, &folder.path().join(format!("{n}.sqlite"))).expect("a backup");
            assert!((30..=70).contains(&held.trials), "{}", held.trials);
        }
        writing.join().expect("no panic")
    })?;
    let held = back_up(&data, &copy)?;
    assert_eq!((held.trials, held.records), (70, 0));
    assert_eq!(held.bytes, std::fs::metadata(&copy).expect("a file").len());
    assert!(
        !folder.path().join("copy.sqlite-wal").exists()
            && !folder.path().join("copy.part").exists()
    );
    assert_eq!(trials(&copy)?, 70);
    // What is there already is not written over.
    assert!(matches!(
        back_up(&data, &copy),
        Err(StoreError::Unfit { .. })
    ));
    #[cfg(unix)]
    {
        use std::os::unix::fs::PermissionsExt;
        let held = back_up(&data, &folder.path().join("own.sqlite"))?;
        let mode = std::fs::metadata(folder.path().join("own.sqlite"))
            .expect("a file")
            .permissions()
            .mode()
            & 0o777;
        assert_eq!((held.trials, mode), (70, 0o600), "it holds the sealed keys");
    }
    Ok(())
}

#[test]
fn what_is_put_back_is_checked_and_what_stood_there_is_kept() -> Result<()> {
    let (folder, data) = folder();
    let copy = folder.path().join("copy.sqlite");
    drop(farm(&data, 2)?);
    back_up(&data, &copy)?;
    let store = Store::open(&data)?;
    store.create_trial(&stamp(), "Later")?;
    // Not under a running program.
    assert!(matches!(restore(&copy, &data), Err(StoreError::Locked(_))));
    assert_eq!(store.trials()?.len(), 3);
    drop(store);
    let done = restore(&copy, &data)?;
    assert_eq!((done.held.trials, trials(&data)?), (2, 2));
    assert_eq!(trials(&done.aside.expect("the old file"))?, 3);
    // A second time the first file aside stays.
    let again = restore(&copy, &data)?;
    assert_eq!(
        again.aside,
        Some(folder.path().join("farm.before-restore-2.sqlite"))
    );
    // To another machine: nothing stood there.
    let elsewhere = folder.path().join("new/farm.sqlite");
    assert_eq!(restore(&copy, &elsewhere)?.aside, None);
    assert_eq!(trials(&elsewhere)?, 2);
    assert!(matches!(
        restore(&data, &data),
        Err(StoreError::Unfit { .. })
    ));
    Ok(())
}

/// The `-wal` of a program that was killed belongs to its own file: it is folded in before another
/// takes the place.
#[test]
fn what_a_killed_program_left_beside_does_not_meet_the_backup() -> Result<()> {
    let (folder, data) = folder();
    let copy = folder.path().join("copy.sqlite");
    drop(farm(&data, 2)?);
    back_up(&data, &copy)?;
    let store = farm(&data, 3)?;
    let beside = |end: &str| PathBuf::from(format!("{}{end}", data.display()));
    let left = folder.path().join("left");
    std::fs::create_dir(&left).expect("a folder");
    for end in ["", "-wal", "-shm"] {
        std::fs::copy(beside(end), left.join(format!("farm.sqlite{end}"))).expect("a copy");
    }
    drop(store);
    let killed = left.join("farm.sqlite");
    assert!(
        left.join("farm.sqlite-wal")
            .metadata()
            .expect("a file")
            .len()
            > 0
    );
    let done = restore(&copy, &killed)?;
    assert_eq!(trials(&killed)?, 2);
    assert_eq!(
        trials(&done.aside.expect("the old file"))?,
        5,
        "with what stood in its -wal"
    );
    Ok(())
}

#[test]
fn files_that_cannot_serve_are_refused_and_left_as_they_are() -> Result<()> {
    let (folder, data) = folder();
    let at = |name: &str| folder.path().join(name);
    drop(farm(&data, 2)?);
    std::fs::write(
        at("text"),
        "not a database, but long enough to be taken for the head of one, by and by and by and \
         by.....",
    )
    .expect("a file");
    let foreign = rusqlite::Connection::open(at("foreign")).expect("a file");
    foreign
        .execute_batch("CREATE TABLE recipe (name TEXT); INSERT INTO recipe VALUES ('soup');")
        .expect("a table");
    drop(foreign);
    back_up(&data, &at("newer"))?;
    let newer = rusqlite::Connection::open(at("newer")).expect("a file");
    newer
        .pragma_update(None, "user_version", 99)
        .expect("a version");
    drop(newer);
    back_up(&data, &at("damaged"))?;
    let mut bytes = std::fs::read(at("damaged")).expect("a file");
    let from = bytes.len() / 4;
    bytes[from..from + 40_000].fill(0x5a);
    std::fs::write(at("damaged"), &bytes).expect("a file");
    for (name, why) in [
        ("text", "no data file"),
        ("foreign", "no data file"),
        ("newer", "newer version"),
        ("damaged", "damaged"),
        ("none", "no such file"),
    ] {
        let before = std::fs::read(at(name)).ok();
        let said = restore(&at(name), &data).expect_err(name);
        assert!(
            matches!(
                said,
                StoreError::Unfit { .. } | StoreError::CannotOpen { .. }
            ) && said.to_string().contains(why),
            "{name}: {said}"
        );
        if name == "text" || name == "foreign" || name == "newer" {
            let said = Store::open(&at(name)).err().expect(name).to_string();
            assert!(
                said.contains(why) && said.contains("left as it is"),
                "{name}: {said}"
            );
        }
        assert_eq!(std::fs::read(at(name)).ok(), before, "{name} is as it was");
    }
    assert_eq!(trials(&data)?, 2);
    // A damaged farm gives way to a backup, and is kept.
    back_up(&data, &at("good"))?;
    std::fs::write(&data, &bytes).expect("a file");
    assert!(
        back_up(&data, &at("of damaged")).is_err()
            && !at("of damaged").exists()
            && !at("of damaged.part").exists()
    );
    let done = restore(&at("good"), &data)?;
    assert_eq!(trials(&data)?, 2);
    assert_eq!(
        std::fs::read(done.aside.expect("the damaged file"))
            .expect("a file")
            .len(),
        bytes.len()
    );
    Ok(())
}

#[test]
fn a_file_found_damaged_takes_no_more_writes_and_one_taken_away_says_so() -> Result<()> {
    let (folder, data) = folder();
    let store = farm(&data, 2)?;
    let moved = folder.path().join("moved.sqlite");
    std::fs::rename(&data, &moved).expect("another place");
    assert!(matches!(
        store.create_trial(&stamp(), "Lost"),
        Err(StoreError::Gone(_))
    ));
    std::fs::copy(&moved, &data).expect("another file in its place");
    assert!(matches!(
        store.create_trial(&stamp(), "Lost"),
        Err(StoreError::Gone(_))
    ));
    std::fs::rename(&moved, &data).expect("back again");
    store.create_trial(&stamp(), "Kept")?;
    assert!(store.sound(false)?);
    let bad = folder.path().join("bad.sqlite");
    back_up(&data, &bad)?;
    // The head and the list of tables are left, so that it opens.
    let inside = rusqlite::Connection::open(&bad).expect("the file");
    let page: u32 = inside
        .pragma_query_value(None, "page_size", |r| r.get(0))
        .expect("a size");
    let root = "SELECT rootpage FROM sqlite_schema WHERE name = 'history'";
    let number: u32 = inside.query_row(root, [], |r| r.get(0)).expect("a page");
    let (at, page) = ((page * (number - 1)) as usize, page as usize);
    drop(inside);
    let mut bytes = std::fs::read(&bad).expect("a file");
    bytes[at..at + page].fill(0x5a);
    std::fs::write(&bad, bytes).expect("a file");
    let store = Store::open(&bad)?;
    assert!(!store.sound(false)?);
    assert!(matches!(
        store.create_trial(&stamp(), "Lost"),
        Err(StoreError::Damaged)
    ));
    Ok(())
}

/// Pictures are backed up beside the data, by hand and by night, and come back with it.
#[test]
fn pictures_are_backed_up_with_the_data_and_come_back() -> Result<()> {
    let (folder, data) = folder();
    let store = farm(&data, 1)?;
    let id = store.trials()?[0].id.clone();
    store.deal(
        &stamp(),
        &id,
        iron_twin_store::place::Chance {
            seed: 1,
            nonce: [0; 32],
        },
        store.trial(&id)?.version,
    )?;
    store.sow(&stamp(), &id, date(1970, 1, 1))?;
    let code = store.trial(&id)?.units[iron_twin_terms::indices::UnitIndex(0)]
        .code
        .clone();
    let photo = |bytes: &[u8]| NewPhoto {
        view: View::Top,
        media: "image/jpeg",
        width: 2,
        height: 2,
        orientation: 1,
        bytes: bytes.to_vec(),
    };
    let head = HeadSent {
        unit: Some(code),
        day: Some(0),
        ..HeadSent::default()
    };
    let add =
        |bytes: &[u8]| store.add_photo(&stamp(), Role::Owner, &id, head.clone(), &photo(bytes));
    add(b"one")?;
    add(b"two")?;
    // The same picture twice is one file.
    add(b"two")?;
    let files = |folder: &Path| std::fs::read_dir(folder).map_or(0, Iterator::count);
    assert_eq!(files(&store.photo_folder()), 2);
    let copy = folder.path().join("elsewhere").join("copy.sqlite");
    std::fs::create_dir_all(copy.parent().expect("a folder")).expect("a folder");
    back_up(&data, &copy)?;
    let night = date(2026, 11, 1)
        .at(3, 0, 0, 0)
        .in_tz("UTC")
        .expect("a moment");
    let nightly = store.back_up_nightly(&night)?.expect("made");
    let nightly = store.backup_file(&nightly.name)?;
    drop(store);
    for (n, backup) in [copy, nightly].iter().enumerate() {
        let other = folder.path().join(format!("new-{n}.sqlite"));
        restore(backup, &other)?;
        let back = Store::open(&other)?;
        let trial = back.trial(&id)?;
        let kept: Vec<Vec<u8>> = trial
            .records
            .photos()
            .map(|(_, p)| std::fs::read(back.photo_file(p)).expect("the picture"))
            .collect();
        assert_eq!(
            kept,
            [b"one".to_vec(), b"two".to_vec(), b"two".to_vec()],
            "{}",
            backup.display()
        );
    }
    Ok(())
}

#[test]
fn a_backup_a_night_as_many_as_are_kept() -> Result<()> {
    let (_folder, data) = folder();
    let store = farm(&data, 1)?;
    let night = |day: i8, hour: i8| {
        date(2026, 11, day)
            .at(hour, 0, 0, 0)
            .in_tz("UTC")
            .expect("a moment")
    };
    let names = || -> Result<Vec<String>> {
        Ok(store.backups()?.into_iter().map(|kept| kept.name).collect())
    };
    assert_eq!((store.nightly_backups()?, names()?.len()), (7, 0));
    store.set_nightly_backups(&stamp(), 2)?;
    let by_hand = store.back_up_now(&night(1, 9), false)?.name;
    for day in 2..6 {
        assert!(
            store.back_up_nightly(&night(day, 3))?.is_some(),
            "day {day}"
        );
        assert_eq!(store.back_up_nightly(&night(day, 4))?, None, "one a night");
    }
    assert_eq!(
        names()?,
        [
            "nightly-2026-11-05-030000.sqlite",
            "nightly-2026-11-04-030000.sqlite",
            by_hand.as_str()
        ]
    );
    assert_eq!(
        trials(&store.backup_file("nightly-2026-11-05-030000.sqlite")?)?,
        1
    );
    for name in ["../farm.sqlite", "farm.sqlite", ""] {
        assert!(
            matches!(store.backup_file(name), Err(StoreError::NotFound { .. })),
            "{name}"
        );
    }
    store.set_nightly_backups(&stamp(), 0)?;
    assert_eq!(store.back_up_nightly(&night(7, 3))?, None);
    assert!(matches!(
        store.set_nightly_backups(&stamp(), 401),
        Err(StoreError::Refused { .. })
    ));
    Ok(())
}

/// Farms of two years in one folder: neither sees, sweeps or restores what is the other's.
#[test]
fn farms_whose_names_end_in_a_year_share_nothing() -> Result<()> {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    let (old, new) = (farm(&at("farm.2025"), 1)?, farm(&at("farm.2026"), 2)?);
    assert_ne!(old.photo_folder(), new.photo_folder());
    assert_ne!(old.incoming_folder(), new.incoming_folder());
    assert_ne!(old.backup_folder(), new.backup_folder());
    // Pictures that an earlier version kept for both come over to each, and to what is saved.
    let picture = "0123.jpg";
    std::fs::create_dir_all(at("farm.photos")).expect("a folder");
    std::fs::write(at("farm.photos").join(picture), b"a picture").expect("a picture");
    old.bring_pictures_over()?;
    assert!(old.photo_folder().join(picture).is_file());
    assert!(
        at("farm.photos").join(picture).is_file(),
        "it may be the other's"
    );
    back_up(&at("farm.2026"), &at("saved.sqlite"))?;
    assert!(at("saved.photos").join(picture).is_file());
    Ok(())
}
