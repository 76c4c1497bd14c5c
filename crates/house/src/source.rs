//! Sources and what stands at the head of their items.

use std::fs;
use std::path::{Path, PathBuf};
use syn::{Attribute, Item};

/// The folder in which the crates stand.
pub fn crates() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR"))
        .parent()
        .expect("this crate stands among the others")
        .to_owned()
}

/// Adds the files of a folder, and of those in it, that are written in Rust.
pub fn sources(folder: &Path, found: &mut Vec<PathBuf>) {
    for entry in fs::read_dir(folder).unwrap_or_else(|e| panic!("{}: {e}", folder.display())) {
        let path = entry.unwrap().path();
        if path.is_dir() {
            sources(&path, found);
        } else if path.extension().is_some_and(|e| e == "rs") {
            found.push(path);
        }
    }
}

/// Attributes of an item.
pub fn attributes(item: &Item) -> &[Attribute] {
    match item {
        Item::Const(own) => &own.attrs,
        Item::Enum(own) => &own.attrs,
        Item::Fn(own) => &own.attrs,
        Item::Impl(own) => &own.attrs,
        Item::Macro(own) => &own.attrs,
        Item::Mod(own) => &own.attrs,
        Item::Static(own) => &own.attrs,
        Item::Struct(own) => &own.attrs,
        Item::Trait(own) => &own.attrs,
        Item::Type(own) => &own.attrs,
        Item::Use(own) => &own.attrs,
        _ => &[],
    }
}

/// Whether something is compiled for tests only.
pub fn is_of_tests(attributes: &[Attribute]) -> bool {
    let asks = |own: &Attribute| {
        own.meta
            .require_list()
            .map(|list| list.tokens.to_string())
            .unwrap_or_default()
    };
    attributes
        .iter()
        .any(|own| own.path().is_ident("cfg") && asks(own) == "test")
}
