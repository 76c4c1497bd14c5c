//! The page: its packages, checks, types and build.

use crate::run::{Fail, output, program, root};
use std::path::{Path, PathBuf};
use std::time::SystemTime;

/// Oldest Node.js that builds the page.
const LEAST_NODE: u32 = 20;

fn web() -> PathBuf {
    root().join("web")
}

fn check_node() -> Result<(), Fail> {
    let remedy = format!(
        "Install Node.js {LEAST_NODE} or newer with npm, so that 'node --version' and 'npm \
         --version' answer."
    );
    let version = output("node", &["--version"], &root())
        .map_err(|_| Fail::new(format!("Node.js is not there. {remedy}")))?;
    let text = String::from_utf8_lossy(&version).trim().to_owned();
    let major = text
        .trim_start_matches('v')
        .split('.')
        .next()
        .and_then(|m| m.parse::<u32>().ok());
    if major.is_none_or(|m| m < LEAST_NODE) {
        return Err(Fail::new(format!("Node.js {text} is too old. {remedy}")));
    }
    if !crate::run::have("npm") {
        return Err(Fail::new(format!("npm is not there. {remedy}")));
    }
    Ok(())
}

/// Installs the packages of the lock file, unless they stand as the lock file says.
pub fn install() -> Result<(), Fail> {
    check_node()?;
    let changed = |path: PathBuf| std::fs::metadata(path).and_then(|m| m.modified()).ok();
    let (lock, stand) = (
        changed(web().join("package-lock.json")),
        changed(web().join("node_modules/.package-lock.json")),
    );
    if lock.is_some() && stand > lock {
        return Ok(());
    }
    let arguments = ["ci", "--no-audit", "--no-fund"];
    // A registry may stumble once.
    program("npm", &arguments, &web()).or_else(|_| program("npm", &arguments, &web()))
}

/// When anything below a path was last changed.
fn newest(path: &Path) -> Option<SystemTime> {
    let own = std::fs::metadata(path).and_then(|m| m.modified()).ok()?;
    let below = std::fs::read_dir(path).into_iter().flatten().flatten();
    Some(
        below
            .filter_map(|entry| newest(&entry.path()))
            .fold(own, SystemTime::max),
    )
}

/// Builds the page into web/dist, from where the binary embeds it; a page newer than its sources
/// stays, since a new one would make cargo build the binary again.
pub fn build() -> Result<(), Fail> {
    let sources = [
        "src",
        "public",
        "index.html",
        "package-lock.json",
        "vite.config.ts",
    ];
    let changed = sources
        .iter()
        .filter_map(|name| newest(&web().join(name)))
        .max();
    if std::fs::metadata(web().join("dist/index.html"))
        .and_then(|m| m.modified())
        .ok()
        > changed
    {
        return Ok(());
    }
    program(
        "npm",
        &["run", "--silent", "build", "--", "--logLevel", "warn"],
        &web(),
    )
}

/// TypeScript and ESLint.
pub fn check() -> Result<(), Fail> {
    program("npm", &["run", "--silent", "check"], &web())
}

const TYPES: &str = "src/api/schema.d.ts";

/// Writes the page's types from the OpenAPI document.
pub fn types() -> Result<(), Fail> {
    program(
        "npx",
        &["openapi-typescript", "openapi.json", "-o", TYPES],
        &web(),
    )
}

/// Fails when the types are not those of the OpenAPI document; that the document is the server's is
/// a test of its own.
pub fn types_are_fresh() -> Result<(), Fail> {
    let fresh = output("npx", &["openapi-typescript", "openapi.json"], &web())?;
    let stored = std::fs::read(web().join(TYPES)).unwrap_or_default();
    if String::from_utf8_lossy(&stored).trim() == String::from_utf8_lossy(&fresh).trim() {
        Ok(())
    } else {
        Err(Fail::new(format!(
            "web/{TYPES} is stale. Run: cargo xtask types"
        )))
    }
}
