//! The shelves through the store: kept, refused, replaced, taken back.

use iron_twin_core::stores::keys;
use iron_twin_core::stores::{Held, Item};
use iron_twin_store::{Result, Stamp, Store, StoreError};
use jiff::Timestamp;

fn stamp(second: i64) -> Stamp {
    Stamp::owner(Timestamp::from_second(second).expect("a moment"))
}

fn open() -> Result<(Store, tempfile::TempDir)> {
    let folder = tempfile::tempdir().expect("a folder");
    Ok((Store::open(&folder.path().join("trials.sqlite"))?, folder))
}

fn feed(name: &str, n_percent: f64) -> Item {
    let held = [("n_percent".to_owned(), Held::Number(n_percent))].into();
    Item {
        shelf: "feeds".into(),
        name: name.into(),
        source: "label".into(),
        held,
    }
}

fn n_of(store: &Store, name: &str) -> Result<Option<f64>> {
    Ok(store
        .shelves()?
        .find("feeds", name)
        .and_then(|i| i.number(keys::N_PERCENT)))
}

#[test]
fn an_own_entry_hides_the_generic_one_until_it_is_taken_off() -> Result<()> {
    let (store, _folder) = open()?;
    assert_eq!(n_of(&store, "grow feed")?, Some(3.0));
    let own = store.put_item(&stamp(1), None, &feed("Grow feed", 7.0), 0)?;
    assert_eq!(n_of(&store, "grow feed")?, Some(7.0));
    let changed = store.put_item(
        &stamp(2),
        Some(&own.id),
        &feed("Grow feed", 8.0),
        own.version,
    )?;
    assert_eq!(
        (changed.version, n_of(&store, "grow feed")?),
        (2, Some(8.0))
    );
    let stale = store.put_item(
        &stamp(3),
        Some(&own.id),
        &feed("Grow feed", 9.0),
        own.version,
    );
    assert!(matches!(stale, Err(StoreError::Stale { .. })), "{stale:?}");
    let twice = store.put_item(&stamp(3), None, &feed("GROW FEED", 9.0), 0);
    assert!(
        matches!(twice, Err(StoreError::Refused { field: "name", .. })),
        "{twice:?}"
    );
    store.remove_item(&stamp(4), &own.id, changed.version)?;
    assert_eq!(n_of(&store, "grow feed")?, Some(3.0));
    store.undo_shelves(&stamp(5))?;
    assert_eq!(n_of(&store, "grow feed")?, Some(8.0));
    store.undo_shelves(&stamp(6))?;
    store.undo_shelves(&stamp(7))?;
    assert_eq!(n_of(&store, "grow feed")?, Some(3.0));
    assert!(matches!(
        store.undo_shelves(&stamp(8)),
        Err(StoreError::NothingToUndo)
    ));
    Ok(())
}

#[test]
fn a_file_comes_in_whole_and_goes_whole() -> Result<()> {
    let (store, _folder) = open()?;
    store.put_item(&stamp(1), None, &feed("mine", 1.0), 0)?;
    let bad = store.import_items(&stamp(2), "feeds", b"name,n_percent\nmine,2\nother,lots\n");
    assert!(bad.unwrap_err().to_string().contains("line 3"));
    assert_eq!(
        (n_of(&store, "mine")?, n_of(&store, "other")?),
        (Some(1.0), None),
        "nothing of it came in"
    );
    assert_eq!(
        store.import_items(&stamp(3), "feeds", b"name,n_percent\nmine,2\nother,4\n")?,
        2
    );
    assert_eq!(
        (n_of(&store, "mine")?, n_of(&store, "other")?),
        (Some(2.0), Some(4.0))
    );
    store.undo_shelves(&stamp(4))?;
    assert_eq!(
        (n_of(&store, "mine")?, n_of(&store, "other")?),
        (Some(1.0), None),
        "all of it went"
    );
    assert!(matches!(
        store.import_items(&stamp(5), "attic", b"name\n"),
        Err(StoreError::NotFound { .. })
    ));
    Ok(())
}

#[test]
fn entries_survive_the_process() -> Result<()> {
    let (store, folder) = open()?;
    store.put_item(&stamp(1), None, &feed("mine", 5.5), 0)?;
    drop(store);
    let again = Store::open(&folder.path().join("trials.sqlite"))?;
    assert_eq!(n_of(&again, "Mine")?, Some(5.5));
    Ok(())
}
