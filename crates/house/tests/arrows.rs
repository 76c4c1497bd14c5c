//! The house holds: a floor of the core uses only those written above it in `lib.rs`, and in no
//! crate do files use one another in a circle. Read from every path of the sources; what is
//! compiled for tests only is left out.

use iron_twin_house::arrows::{Arrows, Named, arrows, circle, floors, upward};
use iron_twin_house::source::crates;
use std::collections::BTreeSet;
use std::fs;

#[test]
fn no_arrow_runs_upward() {
    let upward = upward(&crates().join("core/src"));
    assert!(upward.is_empty(), "{upward:#?}");
}

/// The check itself: an arrow upward is seen wherever it is put into a file, and in tests it is
/// none.
#[test]
fn an_arrow_put_in_is_seen() {
    let folder = tempfile::tempdir().unwrap();
    let (real, root) = (crates().join("core/src"), folder.path());
    fs::copy(real.join("lib.rs"), root.join("lib.rs")).unwrap();
    for room in floors(&fs::read_to_string(real.join("lib.rs")).unwrap()) {
        fs::create_dir(root.join(&room)).unwrap();
        fs::write(root.join(room).join("mod.rs"), "").unwrap();
    }
    let (file, sound) = (
        root.join("trial/mod.rs"),
        fs::read_to_string(real.join("trial/mod.rs")).unwrap(),
    );
    let arrow = "trial uses ledger";
    let seen = |text: &str| {
        fs::write(&file, text).unwrap();
        upward(root).iter().any(|own| own.starts_with(arrow))
    };
    let tests = "#[cfg(test)]\nmod planted {\n    use crate::ledger::Finding;\n}\n";
    for (planted, is_seen) in [
        (sound.clone(), false),
        (format!("{sound}\nuse crate::ledger::Finding;\n"), true),
        (
            format!(
                "{sound}\n{tests}\nuse crate::{{ask::Cautions, ledger::{{self, Finding as F}}}};\n"
            ),
            true,
        ),
        (format!("{sound}\n{tests}"), false),
        (
            format!("{sound}\nfn f() {{ crate::ledger::open(); }}\n"),
            true,
        ),
        (
            format!("{sound}\nfn f() {{ println!(\"{{}}\", crate::ledger::open()); }}\n"),
            true,
        ),
        (
            format!("{sound}\nmod inner {{ use super::super::ledger::Finding; }}\n"),
            true,
        ),
        (
            format!("{sound}\nfn f(of: &crate::ledger::Finding) {{}}\n"),
            true,
        ),
        (
            format!("{sound}\n#[cfg(feature = \"schema\")]\nuse crate::ledger::Finding;\n"),
            true,
        ),
        (format!("{sound}\n// use crate::ledger::Finding;\n"), false),
    ] {
        assert_eq!(
            seen(&planted),
            is_seen,
            "{}",
            planted.strip_prefix(&sound).unwrap_or_default()
        );
    }
}

#[test]
fn no_files_use_one_another_in_a_circle() {
    for name in [
        "stats",
        "chemistry",
        "photo",
        "terms",
        "judge",
        "core",
        "store",
        "server",
        "cli",
    ] {
        let arrows = arrows(&crates().join(name).join("src"));
        assert!(
            arrows.len() > 1 && (name == "terms" || arrows.values().any(|uses| !uses.is_empty())),
            "{name} was read"
        );
        let circle = circle(&arrows);
        assert!(circle.is_empty(), "{name}: {circle:?}");
    }
}

/// What each crate of the ground may name of ours beside itself.
const GROUND: [(&str, &[&str]); 6] = [
    ("stats", &[]),
    ("chemistry", &[]),
    ("photo", &[]),
    ("terms", &["chemistry"]),
    ("judge", &["stats", "terms"]),
    ("core", &["chemistry", "judge", "photo", "stats", "terms"]),
];

/// Crates of ours that a manifest names as needed.
fn ours(manifest: &str) -> BTreeSet<String> {
    let name = |line: &str| {
        let rest = line.strip_prefix("iron-twin-")?;
        Some(rest.split(['.', ' ']).next()?.to_owned())
    };
    manifest.lines().filter_map(name).collect()
}

#[test]
fn the_ground_knows_no_trial_and_the_core_no_machinery() {
    let manifest = |name: &str| fs::read_to_string(crates().join(name).join("Cargo.toml")).unwrap();
    for (name, may) in GROUND {
        let may: BTreeSet<String> = may.iter().map(|m| (*m).to_owned()).collect();
        assert_eq!(ours(&manifest(name)), may, "{name}");
        let machinery = ["rusqlite", "axum", "tokio"];
        assert!(
            machinery.iter().all(|m| !manifest(name).contains(m)),
            "{name} knows no file, network or clock"
        );
    }
    assert_eq!(
        ours("iron-twin-core.workspace = true\niron-twin-store = { path = \"x\" }"),
        BTreeSet::from(["core".to_owned(), "store".to_owned()]),
        "one put in is seen"
    );
}

/// The check itself: it sees an upward arrow and a circle where there is one.
#[test]
fn a_circle_is_seen() {
    let arrow = |from: &str, to: &[&str]| {
        (
            from.to_owned(),
            to.iter().map(|t| (*t).to_owned()).collect(),
        )
    };
    let round = Arrows::from([
        arrow("a", &["b"]),
        arrow("b", &["c"]),
        arrow("c", &["a"]),
        arrow("d", &["a"]),
    ]);
    assert_eq!(
        circle(&round).len(),
        4,
        "what hangs on a circle stays with it"
    );
    assert!(circle(&Arrows::from([arrow("a", &["b"]), arrow("b", &[])])).is_empty());
    assert_eq!(
        Named::of("use crate::a::{B, c::{D, E as F}};\nfn f() { crate::z::g(); }"),
        [
            "crate::a::B",
            "crate::a::c::D",
            "crate::a::c::E",
            "crate::z::g"
        ]
    );
}
