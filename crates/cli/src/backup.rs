//! `iron-twin backup` and `iron-twin restore`: the data file as one whole file, and back.

use iron_twin_store::backup::{Held, back_up, restore};
use std::path::{Path, PathBuf};

/// What `backup` and `restore` work on.
#[derive(clap::Args)]
pub struct Args {
    /// The backup: for `backup` a new file, for `restore` one that is there.
    file: PathBuf,
    /// The data file of the farm.
    #[arg(long)]
    data: Option<PathBuf>,
}

fn told(held: &Held) -> String {
    let many = |n: i64, one: &str| {
        if n == 1 {
            format!("1 {one}")
        } else {
            format!("{n} {one}s")
        }
    };
    let megabytes = held.bytes as f64 / 1e6;
    format!(
        "{}, {}, {megabytes:.1} MB",
        many(held.trials, "trial"),
        many(held.records, "record")
    )
}

/// Copies the data file, while the program runs or not.
pub fn save(args: &Args, usual: &Path) -> Result<(), String> {
    let data = args.data.as_deref().unwrap_or(usual);
    let held = back_up(data, &args.file).map_err(|e| e.to_string())?;
    println!(
        "{} holds all of {}: {}; read again and sound.",
        args.file.display(),
        data.display(),
        told(&held)
    );
    Ok(())
}

/// Puts a backup in the place of the data file.
pub fn put_back(args: &Args, usual: &Path) -> Result<(), String> {
    let data = args.data.as_deref().unwrap_or(usual);
    let done = restore(&args.file, data).map_err(|e| format!("{e}. Nothing was changed."))?;
    println!(
        "{} is what {} holds: {}.",
        data.display(),
        args.file.display(),
        told(&done.held)
    );
    if let Some(aside) = done.aside {
        println!("What stood there before is kept as {}.", aside.display());
    }
    Ok(())
}
