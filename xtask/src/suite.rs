//! Runs every test. Those that drive a browser go beside the others: a browser waits more than it
//! works, and many of the others run on one core.

use crate::run::{Fail, cargo, root};
use std::path::PathBuf;
use std::process::{Command, Output};

/// The test target of the browser tests.
const BROWSER: &str = "browser";

/// Test targets beside the unit tests, by name and binary.
pub struct Built(Vec<(String, PathBuf)>);

impl Built {
    /// Compiles all tests.
    pub fn all() -> Result<Self, Fail> {
        let words = ["test", "--workspace", "--no-run"];
        println!("> cargo {}", words.join(" "));
        let done = Command::new("cargo")
            .args(words)
            .current_dir(root())
            .output()
            .map_err(|e| Fail::new(format!("'cargo' cannot be started: {e}")))?;
        let said = String::from_utf8_lossy(&done.stderr);
        if !done.status.success() {
            eprint!("{said}");
            return Err(Fail::new(
                "the tests do not compile; what it said stands above",
            ));
        }
        Ok(Self(said.lines().filter_map(target).collect()))
    }

    /// Runs them: those in a browser at one end, all others at the other.
    pub fn run(&self) -> Result<(), Fail> {
        let browser = self.0.iter().find(|(name, _)| name == BROWSER);
        let (_, binary) = browser.ok_or_else(|| Fail::new("the browser tests were not built"))?;
        let binary = binary.clone();
        let beside = std::thread::spawn(move || in_browser(&binary));
        // By name, so that Cargo runs whatever target there is but that one.
        let mut words = vec!["test", "--workspace", "--no-fail-fast", "--lib", "--bins"];
        let mut names: Vec<&str> = self.0.iter().map(|(name, _)| name.as_str()).collect();
        names.retain(|name| *name != BROWSER);
        names.sort_unstable();
        names.dedup();
        words.extend(names.iter().flat_map(|name| ["--test", name]));
        let others = cargo(&words);
        let examples = cargo(&["test", "--workspace", "--no-fail-fast", "--doc"]);
        let browser = beside
            .join()
            .unwrap_or_else(|_| Err(Fail::new("the browser tests ended")));
        others.and(examples).and(browser)
    }
}

/// A line such as `Executable tests/all.rs (target/debug/deps/all-0123456789abcdef)`.
fn target(line: &str) -> Option<(String, PathBuf)> {
    let of = line.trim_start().strip_prefix("Executable tests/")?;
    let path = of.split_once(" (")?.1.strip_suffix(')')?;
    let path = root().join(path);
    let (name, _) = path.file_name()?.to_str()?.rsplit_once('-')?;
    Some((name.to_owned(), path))
}

/// Runs the browser tests; what they say is shown at their end, and not between what others say.
fn in_browser(binary: &PathBuf) -> Result<(), Fail> {
    let threads = std::thread::available_parallelism().map_or(2, std::num::NonZero::get);
    let done = Command::new(binary)
        .args(["--test-threads", &threads.max(2).to_string()])
        .current_dir(root().join("crates/e2e"))
        .output();
    match done {
        Ok(Output {
            status,
            stdout,
            stderr,
        }) => {
            print!("{}", String::from_utf8_lossy(&stdout));
            eprint!("{}", String::from_utf8_lossy(&stderr));
            match status.success() {
                true => Ok(()),
                false => Err(Fail::new(
                    "a browser test failed; what it said stands above",
                )),
            }
        }
        Err(e) => Err(Fail::new(format!(
            "{} cannot be started: {e}",
            binary.display()
        ))),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_test_target_is_read_off_what_cargo_says() {
        let line = "  Executable tests/all.rs (target/debug/deps/browser-0123456789abcdef)";
        let (name, path) = target(line).expect("a target");
        assert_eq!(name, "browser");
        assert!(path.ends_with("target/debug/deps/browser-0123456789abcdef"));
        let unit = "  Executable unittests src/lib.rs (target/debug/deps/iron_twin-0123)";
        assert!(target(unit).is_none() && target("   Compiling x v1").is_none());
    }
}
