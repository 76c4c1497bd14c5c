//! The house holds: a floor of the core uses only those written above it in `lib.rs`, and in no crate do files use one
//! another in a circle. Read from the `use` lines and paths of the sources; tests inside them are left out.

use std::collections::{BTreeMap, BTreeSet};
use std::fs;
use std::path::{Path, PathBuf};

/// Modules of a crate, each with the modules it uses; the crate's root is the empty name.
type Arrows = BTreeMap<String, BTreeSet<String>>;

fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap_or_else(|e| panic!("{}: {e}", folder.display())) {
        let path = entry.unwrap().path();
        if path.is_dir() {
            sources(&path, found);
        } else if path.extension().is_some_and(|e| e == "rs") {
            found.push(path);
        }
    }
}

fn module_of(root: &Path, file: &Path) -> String {
    let inside = file.strip_prefix(root).unwrap().with_extension("");
    let mut parts: Vec<&str> = inside.iter().map(|p| p.to_str().unwrap()).collect();
    if matches!(parts.last(), Some(&("mod" | "lib" | "main"))) {
        parts.pop();
    }
    parts.join("::")
}

/// The source without comments and without what is compiled for tests only.
fn code(text: &str) -> String {
    let code: Vec<&str> = text.lines().filter(|l| !l.trim_start().starts_with("//")).collect();
    code.join("\n").split("#[cfg(test)]").next().unwrap_or_default().to_owned()
}

/// Single paths of a `use` tree such as `crate::a::{b, c::D}`.
fn paths(tree: &str, prefix: &str, found: &mut Vec<String>) {
    let join = |rest: &str| if prefix.is_empty() { rest.to_owned() } else { format!("{prefix}::{rest}") };
    let Some((head, rest)) = tree.split_once('{') else {
        let path = tree.split(" as ").next().unwrap_or_default().trim();
        found.push(join(path));
        return;
    };
    let head = join(head.trim().trim_end_matches("::"));
    let inner = rest.rsplit_once('}').map_or(rest, |(inner, _)| inner);
    let (mut depth, mut from) = (0, 0);
    for (at, c) in inner.char_indices().chain([(inner.len(), ',')]) {
        match c {
            '{' => depth += 1,
            '}' => depth -= 1,
            ',' if depth == 0 => {
                if !inner[from..at].trim().is_empty() {
                    paths(inner[from..at].trim(), &head, found);
                }
                from = at + 1;
            }
            _ => {}
        }
    }
}

/// Every path that a source names: those of its `use` lines, and those written out from `crate` or `super`.
fn named(code: &str) -> Vec<String> {
    let mut found = Vec::new();
    let mut rest = String::new();
    let mut statement: Option<String> = None;
    for line in code.lines() {
        let trimmed = line.trim_start();
        let at_top = line.len() == trimmed.len();
        let opens = ["use ", "pub use ", "pub(crate) use "].iter().find_map(|o| trimmed.strip_prefix(o));
        match (&mut statement, opens) {
            (Some(open), _) => open.push_str(trimmed),
            (None, Some(tree)) if at_top => statement = Some(tree.to_owned()),
            _ => rest.push_str(&format!("{line}\n")),
        }
        if let Some(done) = statement.take_if(|s| s.trim_end().ends_with(';')) {
            paths(done.trim_end().trim_end_matches(';'), "", &mut found);
        }
    }
    let is_word = |c: char| c.is_alphanumeric() || c == '_' || c == ':';
    let words = rest.split(|c| !is_word(c)).filter(|w| w.starts_with("crate::") || w.starts_with("super::"));
    found.extend(words.map(str::to_owned));
    found
}

fn arrows(root: &Path) -> Arrows {
    let mut files = Vec::new();
    sources(root, &mut files);
    files.retain(|f| !f.file_stem().is_some_and(|s| s.to_str().unwrap().ends_with("tests")));
    let modules: BTreeMap<String, PathBuf> = files.into_iter().map(|f| (module_of(root, &f), f)).collect();
    let uses = |module: &String, file: &PathBuf| {
        let own: Vec<&str> = module.split("::").filter(|s| !s.is_empty()).collect();
        let meant = |path: String| {
            let parts: Vec<&str> = path.split("::").collect();
            let up = parts.iter().take_while(|p| **p == "super").count();
            let mut whole = match parts[0] {
                "crate" => parts[1..].to_vec(),
                "super" => [&own[..own.len().saturating_sub(up)], &parts[up..]].concat(),
                child if modules.contains_key(&[&own[..], &[child]].concat().join("::")) => [&own[..], &parts].concat(),
                _ => return None,
            };
            while !modules.contains_key(&whole.join("::")) {
                whole.pop();
            }
            Some(whole.join("::"))
        };
        named(&code(&fs::read_to_string(file).unwrap()))
            .into_iter()
            .filter_map(meant)
            .filter(|to| to != module)
            .collect()
    };
    modules.iter().map(|(module, file)| (module.clone(), uses(module, file))).collect()
}

/// A circle of modules, where there is one: whatever is left when those that use nothing that is left are taken out.
fn circle(arrows: &Arrows) -> BTreeSet<String> {
    let mut left: BTreeSet<String> = arrows.keys().cloned().collect();
    loop {
        let free: Vec<String> =
            left.iter().filter(|m| arrows[*m].iter().all(|to| !left.contains(to))).cloned().collect();
        if free.is_empty() {
            return left;
        }
        left.retain(|m| !free.contains(m));
    }
}

/// Rooms of the core in the order in which `lib.rs` lists them, from the ground up.
fn floors(lib: &str) -> Vec<String> {
    let rows = lib
        .lines()
        .filter_map(|l| l.strip_prefix("//! | "))
        .filter(|row| row.starts_with(|c: char| c.is_ascii_digit()));
    rows.flat_map(|row| {
        row.split('|')
            .nth(1)
            .unwrap_or_default()
            .split(',')
            .map(|r| r.trim().trim_matches(['[', '`', ']']).to_owned())
            .collect::<Vec<_>>()
    })
    .collect()
}

fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).parent().unwrap().to_owned()
}

#[test]
fn no_arrow_runs_upward() {
    let root = crates().join("core/src");
    let floors = floors(&fs::read_to_string(root.join("lib.rs")).unwrap());
    let arrows = arrows(&root);
    let room = |module: &str| module.split("::").next().unwrap_or_default().to_owned();
    let rooms: BTreeSet<String> = arrows.keys().map(|m| room(m)).filter(|r| !r.is_empty()).collect();
    assert_eq!(floors.iter().cloned().collect::<BTreeSet<_>>(), rooms, "every room stands in the tour of lib.rs");
    let height = |module: &str| floors.iter().position(|f| *f == room(module)).unwrap_or(0);
    let upward: Vec<String> = arrows
        .iter()
        .flat_map(|(from, tos)| tos.iter().map(move |to| (from, to)))
        .filter(|(from, to)| height(to) > height(from))
        .map(|(from, to)| format!("{from} uses {to}"))
        .collect();
    assert!(upward.is_empty(), "{upward:#?}");
}

#[test]
fn no_files_use_one_another_in_a_circle() {
    for name in ["stats", "chemistry", "core", "store", "server", "cli"] {
        let arrows = arrows(&crates().join(name).join("src"));
        assert!(arrows.len() > 1 && arrows.values().map(BTreeSet::len).sum::<usize>() > 0, "{name} was read");
        let circle = circle(&arrows);
        assert!(circle.is_empty(), "{name}: {circle:?}");
    }
}

#[test]
fn the_statistics_and_the_chemistry_know_no_trial_and_the_core_no_machinery() {
    let manifest = |name: &str| fs::read_to_string(crates().join(name).join("Cargo.toml")).unwrap();
    for name in ["stats", "chemistry"] {
        assert_eq!(manifest(name).matches("iron-twin-").count(), 1, "{name} names itself and no other crate of ours");
    }
    let core = manifest("core");
    let machinery = ["rusqlite", "axum", "tokio", "iron-twin-store"];
    assert!(machinery.iter().all(|m| !core.contains(m)), "the core knows no file, network or clock");
}

/// The check itself: it sees an upward arrow and a circle where there is one.
#[test]
fn a_circle_is_seen() {
    let arrow = |from: &str, to: &[&str]| (from.to_owned(), to.iter().map(|t| (*t).to_owned()).collect());
    let round = Arrows::from([arrow("a", &["b"]), arrow("b", &["c"]), arrow("c", &["a"]), arrow("d", &["a"])]);
    assert_eq!(circle(&round).len(), 4, "what hangs on a circle stays with it");
    assert!(circle(&Arrows::from([arrow("a", &["b"]), arrow("b", &[])])).is_empty());
    let mut found = Vec::new();
    paths("crate::a::{B, c::{D, E as F}}", "", &mut found);
    assert_eq!(found, ["crate::a::B", "crate::a::c::D", "crate::a::c::E"]);
    assert_eq!(named("use super::x::Y;\nfn f() { crate::z::g(); }"), ["super::x::Y", "crate::z::g"]);
}
