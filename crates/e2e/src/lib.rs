//! The real page in a real browser: the binary, headless Chromium and ChromeDriver, started and
//! ended here.

mod asks;
mod bench;
mod browser;
mod faults;
mod hands;
#[path = "../../server/tests/sent/mod.rs"]
pub mod sent;
mod server;

pub use bench::Bench;
pub use browser::Browser;
pub use sent::record;
pub use server::{Server, binary};
pub use thirtyfour;

use std::io::{BufRead, BufReader, Read};
use std::time::Duration;

/// How long a thing may take to appear: long enough for a slow machine, since what is there is
/// found at once.
const PATIENCE: Duration = Duration::from_secs(45);

/// Reads what a program prints until a line gives what `found` looks for; the rest is drained. None
/// where it ended before.
fn printed<T>(output: impl Read + Send + 'static, found: impl Fn(&str) -> Option<T>) -> Option<T> {
    let mut lines = BufReader::new(output).lines();
    let value = loop {
        let line = lines.next()?.expect("text");
        if let Some(value) = found(&line) {
            break value;
        }
    };
    std::thread::spawn(move || lines.for_each(drop));
    Some(value)
}
