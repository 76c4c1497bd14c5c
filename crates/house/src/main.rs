//! Prints what the sources measure, a row a crate, and what stands above a limit.

use iron_twin_house::measure::{Measured, measured, row, shared_names};
use iron_twin_house::source::crates;

fn main() {
    let mut names: Vec<String> = std::fs::read_dir(crates())
        .expect("the crates")
        .flatten()
        .filter(|entry| entry.path().join("Cargo.toml").is_file())
        .map(|entry| entry.file_name().to_string_lossy().into_owned())
        .collect();
    names.sort();
    println!(
        "| crate | files | lines median/95th/max | function lines median/95th | functions > 60 | \
         doc per code line | public functions with an example | test/code |\n\
         |---|---|---|---|---|---|---|---|"
    );
    let mut all = Measured::default();
    for name in names {
        let own = measured(&crates().join(&name));
        println!("{}", row(&name, &own));
        all.tests += own.tests;
        all.sources.extend(own.sources);
    }
    println!("{}", row("all", &all));
    let shared = shared_names(&all.sources);
    let types: usize = shared.values().map(Vec::len).sum();
    println!(
        "\n{} names are shared by {types} types{}{}",
        shared.len(),
        if shared.is_empty() { "." } else { ": " },
        shared
            .iter()
            .map(|(name, files)| format!("{name} {}", files.len()))
            .collect::<Vec<_>>()
            .join(", ")
    );
    if std::env::args().any(|argument| argument == "--long") {
        let root = crates();
        for source in &all.sources {
            let path = source.path.strip_prefix(&root).unwrap_or(&source.path);
            if source.lines - source.tables > 500 {
                println!("{} {} lines", path.display(), source.lines);
            }
            for long in source.functions.iter().filter(|f| f.lines > 60) {
                println!(
                    "{}:{} {} {}",
                    path.display(),
                    long.line,
                    long.name,
                    long.lines
                );
            }
        }
    }
}
