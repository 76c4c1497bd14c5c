//! Running programs, with a clear word when one is missing or fails.

use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};

/// What went wrong, with its remedy.
pub struct Fail(String);

impl Fail {
    pub fn new(text: impl Into<String>) -> Self {
        Self(text.into())
    }
}

impl std::fmt::Display for Fail {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(&self.0)
    }
}

/// The folder of the workspace, as Cargo has it when it runs this: what was built may be of another
/// clone with the same target folder.
pub fn root() -> PathBuf {
    let own = std::env::var("CARGO_MANIFEST_DIR")
        .unwrap_or_else(|_| env!("CARGO_MANIFEST_DIR").to_owned());
    Path::new(&own)
        .parent()
        .map_or_else(|| PathBuf::from("."), Path::to_path_buf)
}

/// The folder into which Cargo builds: where the environment says so, else `target`.
pub fn target() -> PathBuf {
    std::env::var_os("CARGO_TARGET_DIR").map_or_else(|| root().join("target"), PathBuf::from)
}

/// Runs a program, showing what it prints.
pub fn program<S: AsRef<str>>(name: &str, arguments: &[S], folder: &Path) -> Result<(), Fail> {
    let words: Vec<&str> = arguments.iter().map(AsRef::as_ref).collect();
    println!("> {} {}", name, words.join(" "));
    match Command::new(name).args(&words).current_dir(folder).status() {
        Ok(status) if status.success() => Ok(()),
        Ok(_) => Err(Fail::new(format!(
            "'{name} {}' failed; what it said stands above",
            words.join(" ")
        ))),
        Err(e) => Err(Fail::new(format!("'{name}' cannot be started: {e}"))),
    }
}

/// Runs cargo in the workspace.
pub fn cargo(arguments: &[&str]) -> Result<(), Fail> {
    program("cargo", arguments, &root())
}

/// What a program prints.
pub fn output(name: &str, arguments: &[&str], folder: &Path) -> Result<Vec<u8>, Fail> {
    let done = Command::new(name)
        .args(arguments)
        .current_dir(folder)
        .stderr(Stdio::inherit())
        .output();
    match done {
        Ok(done) if done.status.success() => Ok(done.stdout),
        Ok(_) => Err(Fail::new(format!(
            "'{name} {}' failed",
            arguments.join(" ")
        ))),
        Err(e) => Err(Fail::new(format!("'{name}' cannot be started: {e}"))),
    }
}

/// Whether a program is there.
pub fn have(name: &str) -> bool {
    Command::new(name)
        .arg("--version")
        .stdout(Stdio::null())
        .stderr(Stdio::null())
        .status()
        .is_ok_and(|s| s.success())
}
