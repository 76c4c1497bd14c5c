//! The data file itself: who may read it, and what an upgrade leaves behind when it is cut short.

use iron_twin_store::{Farm, Stamp, Store};
use jiff::Timestamp;
use std::path::Path;

fn copies(folder: &Path) -> Vec<String> {
    let entries = std::fs::read_dir(folder).expect("a folder");
    let names = entries.map(|e| {
        e.expect("an entry")
            .file_name()
            .to_string_lossy()
            .into_owned()
    });
    let mut copies: Vec<String> = names.filter(|name| name.contains("before-v")).collect();
    copies.sort();
    copies
}

#[cfg(unix)]
#[test]
fn nobody_else_on_the_machine_reads_the_file() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("trials.sqlite");
    let mode = |path: &Path| {
        std::fs::metadata(path)
            .expect("a file")
            .permissions()
            .mode()
            & 0o777
    };
    drop(Store::open(&path).expect("a store"));
    assert_eq!(mode(&path), 0o600);
    // A file from before is closed to others as well.
    std::fs::set_permissions(&path, std::fs::Permissions::from_mode(0o644)).expect("permissions");
    let store = Store::open(&path).expect("a store");
    store
        .set_farm(
            &Stamp::owner(Timestamp::now()),
            &Farm {
                name: "Mine".into(),
                zone: String::new(),
            },
        )
        .expect("a write");
    for beside in ["trials.sqlite", "trials.sqlite-wal", "trials.sqlite-shm"] {
        assert_eq!(mode(&folder.path().join(beside)), 0o600, "{beside}");
    }
}

/// An upgrade that is cut short after its copy, or before it was whole, is begun again; every whole
/// copy stays.
#[test]
fn an_upgrade_cut_short_is_begun_again() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("trials.sqlite");
    drop(Store::open(&path).expect("a store"));
    let newest: i64 = {
        let file = rusqlite::Connection::open(&path).expect("a file");
        let newest = file
            .pragma_query_value(None, "user_version", |r| r.get(0))
            .expect("a version");
        // As it stood before the last step, which then meets its own tables and fails: the copy is
        // made all the same.
        file.pragma_update(None, "user_version", newest - 1)
            .expect("a version");
        newest
    };
    std::fs::write(
        path.with_extension(format!("before-v{newest}.part")),
        "cut short",
    )
    .expect("half a copy");
    let mut wanted = Vec::new();
    for n in 1..=3 {
        let said = Store::open(&path)
            .err()
            .map(|e| e.to_string())
            .unwrap_or_default();
        assert!(!said.contains("output file"), "{said}");
        wanted.push(if n == 1 {
            format!("trials.before-v{newest}.sqlite")
        } else {
            format!("trials.before-v{newest}-{n}.sqlite")
        });
        wanted.sort();
        assert_eq!(copies(folder.path()), wanted);
    }
    for copy in copies(folder.path()) {
        let file = rusqlite::Connection::open(folder.path().join(copy)).expect("a copy");
        let sound: String = file
            .pragma_query_value(None, "integrity_check", |r| r.get(0))
            .expect("a check");
        assert_eq!(sound, "ok");
    }
}
