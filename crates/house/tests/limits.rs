//! Files and functions stay as short as can be read, but for those that `over.txt` lists: it says
//! what is left to be parted, gets shorter, and no line of it longer.

use iron_twin_house::measure::{Source, measured};
use iron_twin_house::source::crates;
use std::fs;
use std::path::Path;

/// Lines of a function beyond which it does more than one thing.
const FUNCTION: usize = 60;

/// Lines of a file, tables apart.
const FILE: usize = 500;

/// What of a source is beyond a limit, a line each.
fn over(source: &Source) -> Vec<String> {
    let path = source.path.strip_prefix(crates()).unwrap_or(&source.path);
    let path = path.display().to_string().replace('\\', "/");
    let mut found = Vec::new();
    if source.lines - source.tables > FILE {
        found.push(format!("{path} {}", source.lines - source.tables));
    }
    let long = source.functions.iter().filter(|f| f.lines > FUNCTION);
    found.extend(long.map(|f| format!("{path} {} {}", f.name, f.lines)));
    found
}

fn all_over() -> Vec<String> {
    let mut names: Vec<_> = fs::read_dir(crates())
        .unwrap()
        .flatten()
        .map(|entry| entry.path())
        .filter(|path| path.join("Cargo.toml").is_file())
        .collect();
    names.sort();
    assert!(names.len() > 8, "the crates were read");
    let mut found: Vec<String> = names
        .iter()
        .flat_map(|folder| measured(folder).sources)
        .flat_map(|source| over(&source))
        .collect();
    found.sort();
    found
}

#[test]
fn files_and_functions_are_short_but_for_those_that_still_are_not() {
    let list = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/over.txt");
    let found = all_over().join("\n") + "\n";
    if std::env::var_os("OVER").is_some_and(|value| value == "write") {
        fs::write(&list, &found).unwrap();
    }
    let listed = fs::read_to_string(&list).unwrap();
    let of = |text: &str| -> Vec<String> { text.lines().map(str::to_owned).collect() };
    let (found, listed) = (of(&found), of(&listed));
    let new: Vec<_> = found.iter().filter(|f| !listed.contains(f)).collect();
    let gone: Vec<_> = listed.iter().filter(|l| !found.contains(l)).collect();
    assert!(
        new.is_empty() && gone.is_empty(),
        "too long now: {new:#?}\nno longer so (take it from over.txt): {gone:#?}"
    );
}

/// The check itself: a long function and a long file are seen, in an impl and in a module too;
/// what is compiled for tests only, and a table, count for nothing.
#[test]
fn what_is_too_long_is_seen() {
    let body = "        go();\n".repeat(60);
    let of = |text: &str| over(&Source::of(&crates().join("core/src/x.rs"), text));
    assert_eq!(
        of(&format!("fn long() {{\n{body}}}\n")),
        ["core/src/x.rs long 62"]
    );
    assert_eq!(
        of(&format!(
            "mod m {{\n impl A {{\n fn f(\n) {{\n{body} }}\n}}\n}}\n"
        )),
        ["core/src/x.rs f 63"]
    );
    let tests = format!("#[cfg(test)]\nmod tests {{\n fn f() {{\n{body} }}\n}}\n");
    assert!(of(&tests).is_empty());
    let short = "fn f() {\n    go();\n}\n".repeat(170);
    assert_eq!(of(&short), ["core/src/x.rs 510"]);
    let table = format!("const ALL: &[u8] = &[\n{}];\n", "    1,\n".repeat(600));
    assert!(of(&table).is_empty());
}

/// Test files of a crate that its `all.rs` does not list, and so never run.
fn unlisted(tests: &Path) -> Vec<String> {
    let all = fs::read_to_string(tests.join("all.rs")).unwrap_or_default();
    let is_listed = |name: &str| all.lines().any(|l| l == format!("mod {name};"));
    let files = fs::read_dir(tests).unwrap().flatten();
    files
        .map(|entry| entry.path())
        .filter(|path| path.extension().is_some_and(|e| e == "rs"))
        .filter_map(|path| Some(path.file_stem()?.to_str()?.to_owned()))
        .filter(|name| name != "all" && !is_listed(name))
        .collect()
}

#[test]
fn every_test_file_is_run() {
    let mut with_one = 0;
    for folder in fs::read_dir(crates()).unwrap().flatten() {
        let tests = folder.path().join("tests");
        if tests.join("all.rs").is_file() {
            with_one += 1;
            assert!(unlisted(&tests).is_empty(), "{:?}", unlisted(&tests));
        }
    }
    assert!(with_one > 5, "the crates were read");
    let planted = tempfile::tempdir().unwrap();
    fs::write(planted.path().join("all.rs"), "mod a;\n").unwrap();
    fs::write(planted.path().join("a.rs"), "").unwrap();
    assert!(unlisted(planted.path()).is_empty());
    fs::write(planted.path().join("b.rs"), "").unwrap();
    assert_eq!(unlisted(planted.path()), ["b"], "a file put in is seen");
}
