//! Why a data file cannot be opened is told apart, with what to do: whoever reads that their data is
//! no data file deletes it.

use crate::backup::{farm, run, said, text, trials};
use std::path::Path;
use std::process::Command;

/// What `serve` says of a file that it cannot open.
fn refused(data: &Path) -> String {
    let done = run(&["serve", "--port", "0"], data);
    assert_eq!(done.status.code(), Some(2), "{}", said(&done));
    said(&done)
}

#[test]
fn foreign_newer_damaged_and_held_are_told_apart() {
    let folder = tempfile::tempdir().expect("a folder");
    let at = |name: &str| folder.path().join(name);
    let data = at("farm.sqlite");
    farm(&data, 2);
    let copy = |name: &str| {
        std::fs::copy(&data, at(name)).expect("a copy");
        at(name)
    };
    let newer = copy("newer.sqlite");
    let own = rusqlite::Connection::open(&newer).expect("a file");
    own.pragma_update(None, "user_version", 99)
        .expect("a version");
    drop(own);
    assert!(refused(&newer).contains("written by a newer version"));

    // The first page is broken after its head, which says whose it is.
    let damaged = copy("damaged.sqlite");
    let mut bytes = std::fs::read(&damaged).expect("a file");
    bytes[100..4000].fill(0xff);
    std::fs::write(&damaged, &bytes).expect("a file");
    let told = refused(&damaged);
    assert!(
        told.contains("is this program's and is damaged") && told.contains("restore BACKUP"),
        "{told}"
    );
    assert!(!told.contains("no data file"), "{told}");
    let saved = run(&["backup", text(&at("of-damaged.sqlite"))], &damaged);
    assert!(said(&saved).contains("damaged"), "{}", said(&saved));

    let holder = rusqlite::Connection::open(&data).expect("a file");
    holder
        .execute_batch("PRAGMA locking_mode = EXCLUSIVE; BEGIN EXCLUSIVE;")
        .expect("held");
    let told = refused(&data);
    assert!(
        told.contains("another program holds it") && told.contains("The file is whole"),
        "{told}"
    );
    let saved = said(&run(&["backup", text(&at("of-held.sqlite"))], &data));
    assert!(saved.contains("another program holds it"), "{saved}");
    drop(holder);
    assert_eq!(trials(&data), 2);
}

/// Somebody else's file stays as it is, its rights as well.
#[cfg(unix)]
#[test]
fn a_foreign_file_is_left_with_its_rights() {
    use std::os::unix::fs::PermissionsExt;
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("picture.sqlite");
    std::fs::write(&file, vec![0x5a; 5000]).expect("a file");
    std::fs::set_permissions(&file, std::fs::Permissions::from_mode(0o644)).expect("rights");
    let told = refused(&file);
    assert!(
        told.contains("no data file of this program") && told.contains("left as it is"),
        "{told}"
    );
    let after = std::fs::metadata(&file).expect("a file");
    assert_eq!(after.permissions().mode() & 0o777, 0o644);
    assert_eq!(
        std::fs::read(&file).expect("a file"),
        vec![0x5a; 5000],
        "not a byte"
    );
}

/// A small disk of its own, filled to the last byte; farm and backup stand on either side of it.
const FULL: &str = r#"
    set -u
    mkdir disk && mount -t tmpfs -o size=40m tmpfs disk || exit 77
    cp farm.sqlite disk/farm.sqlite
    dd if=/dev/zero of=disk/fill bs=4k 2>/dev/null
    "$1" serve --port 0 --data disk/farm.sqlite
    "$1" backup saved.sqlite --data disk/farm.sqlite
"#;

/// On a full disk the farm is whole, is said to be, and gets out to another disk.
#[cfg(target_os = "linux")]
#[test]
fn a_full_disk_is_told_as_such_and_a_backup_gets_out() {
    let folder = tempfile::tempdir().expect("a folder");
    farm(&folder.path().join("farm.sqlite"), 3);
    let program = env!("CARGO_BIN_EXE_iron-twin");
    let done = Command::new("unshare")
        .args(["--user", "--map-root-user", "--mount", "sh", "-c", FULL])
        .args(["sh", program])
        .current_dir(folder.path())
        .output();
    let done = done.expect("unshare, of util-linux");
    if done.status.code() == Some(77) || said(&done).contains("unshare") {
        // A container may forbid disks of one's own; where the project is checked it does not.
        assert!(std::env::var_os("CI").is_none(), "{}", said(&done));
        return;
    }
    let told = said(&done);
    assert!(
        told.contains("the disk that it stands on is full") && told.contains("do not delete it"),
        "{told}"
    );
    assert!(!told.contains("no data file"), "{told}");
    assert!(
        told.contains("holds all of disk/farm.sqlite: 3 trials"),
        "{told}"
    );
    assert_eq!(trials(&folder.path().join("saved.sqlite")), 3);
}
