//! What the README's commands call. Standard library only, so that it builds in seconds on a fresh
//! machine.

mod browser;
mod run;
mod suite;
mod web;

use run::{Fail, cargo, root};

const HELP: &str = "\
cargo xtask demo     build everything, make the demo farm and serve it (arguments go on to iron-twin demo)
cargo xtask serve    the same with your own trials (arguments go on to iron-twin serve)
cargo xtask test     formatting, lints and every test, browser tests included
cargo xtask build    the page and the release binary
cargo xtask types    the OpenAPI document and the page's types, from the server
cargo xtask shots    one picture of each view into docs/screenshots (or a folder you name)
cargo xtask bench    the benchmarks of the core; `bench farm`: how long screens and writes take on a farm of real size, into docs/measurements.md
cargo xtask foretold     thirty plans played: whether the chance they foretell comes to pass, into docs/foretold.md
cargo xtask house    what the sources measure: files, functions, docs, examples, names, into docs/architecture.md (`--long` lists what is too long)
cargo xtask deny     licences, bans and sources of what is linked in; installs cargo-deny where it is missing
cargo xtask calibrate    simulated seasons: false alarms and coverage, into docs/calibration.md (seasons, if you name a number)";

fn main() {
    let mut arguments = std::env::args().skip(1);
    let command = arguments.next().unwrap_or_default();
    let rest: Vec<String> = arguments.collect();
    let done = match command.as_str() {
        "demo" => serve("demo", &rest),
        "serve" => serve("serve", &rest),
        "test" => test(),
        "build" => build(),
        "types" => types(),
        "shots" => shots(&rest),
        "calibrate" => calibrate(&rest),
        "foretold" => foretold(&rest),
        "house" => house(&rest),
        "deny" => deny(),
        "bench" if rest.first().is_some_and(|what| what == "farm") => farm(),
        "bench" => cargo(&["bench", "-p", "iron-twin-core", "--bench", "exact"]),
        _ => {
            println!("{HELP}");
            return;
        }
    };
    if let Err(fail) = done {
        eprintln!("\ncargo xtask {command}: {fail}");
        std::process::exit(1);
    }
}

/// Marks between which what the sources measure stands in docs/architecture.md.
const HOUSE: (&str, &str) = ("<!-- cargo xtask house -->", "<!-- end of house -->");

fn house(rest: &[String]) -> Result<(), Fail> {
    let mut arguments = vec!["run", "--quiet", "-p", "iron-twin-house", "--"];
    arguments.extend(rest.iter().map(String::as_str));
    let table = String::from_utf8_lossy(&run::output("cargo", &arguments, &root())?).into_owned();
    println!("{table}");
    if rest.is_empty() {
        between("docs/architecture.md", HOUSE, &table)?;
    }
    Ok(())
}

/// Writes a table into a page, between its marks.
fn between(page: &str, (from, to): (&str, &str), table: &str) -> Result<(), Fail> {
    let path = root().join(page);
    let fail = |e: std::io::Error| Fail::new(format!("{page}: {e}"));
    let text = std::fs::read_to_string(&path).map_err(fail)?;
    let parts = text
        .split_once(from)
        .and_then(|(head, rest)| Some((head, rest.split_once(to)?.1)));
    let (head, tail) =
        parts.ok_or_else(|| Fail::new(format!("{page} has no place for '{from}'")))?;
    std::fs::write(
        &path,
        format!("{head}{from}\n{}\n{to}{tail}", table.trim_end()),
    )
    .map_err(fail)
}

/// Not part of the check: cargo-deny is no part of Rust, and takes longer to build than to run.
fn deny() -> Result<(), Fail> {
    if !run::have("cargo-deny") {
        cargo(&["install", "--locked", "cargo-deny"])?;
    }
    cargo(&["deny", "check", "licenses", "bans", "sources"])
}

/// The docs of every crate, whose links must lead somewhere.
fn docs() -> Result<(), Fail> {
    cargo(&[
        "doc",
        "--workspace",
        "--no-deps",
        "--all-features",
        "--quiet",
    ])
}

fn build() -> Result<(), Fail> {
    web::install()?;
    web::build()?;
    cargo(&["build", "--release", "-p", "iron-twin"])
}

fn serve(command: &str, rest: &[String]) -> Result<(), Fail> {
    build()?;
    let mut arguments = vec![command.to_owned()];
    if command == "demo" && !rest.iter().any(|a| a.starts_with("--data")) {
        // Kept from one start to the next, so that what a visitor tries out is still there.
        arguments.extend([
            "--data".into(),
            root().join("target/demo/demo.sqlite").display().to_string(),
        ]);
    }
    arguments.extend(rest.iter().cloned());
    let binary = run::target().join("release/iron-twin");
    run::program(binary.to_str().unwrap_or("iron-twin"), &arguments, &root())
}

fn test() -> Result<(), Fail> {
    let mut clock = Clock::start();
    cargo(&["fmt", "--all", "--check"])?;
    web::install()?;
    browser::install()?;
    clock.part("packages");
    web::types_are_fresh()?;
    web::check()?;
    web::build()?;
    clock.part("the page: formatters, types, lints, tests, build");
    cargo(&[
        "clippy",
        "--workspace",
        "--all-targets",
        "--all-features",
        "--",
        "-D",
        "warnings",
    ])?;
    clock.part("clippy");
    docs()?;
    clock.part("docs");
    // The binary that the browser tests start is built with the command's own tests; asked for by
    // itself, it would be built a second time with fewer features of what both use.
    let tests = suite::Built::all()?;
    clock.part("compiling tests and what they stand on");
    let done = tests.run();
    clock.part("running them");
    clock.tell();
    done
}

/// What each part of the check takes, so that docs/measurements.md need not guess.
struct Clock {
    since: std::time::Instant,
    parts: Vec<(&'static str, std::time::Duration)>,
}

impl Clock {
    fn start() -> Self {
        Self {
            since: std::time::Instant::now(),
            parts: Vec::new(),
        }
    }

    /// Ends a part; the next begins.
    fn part(&mut self, name: &'static str) {
        self.parts.push((name, self.since.elapsed()));
        self.since = std::time::Instant::now();
    }

    /// Prints them as the rows of a table.
    fn tell(&self) {
        for (name, took) in &self.parts {
            println!("| {name} | {} s |", took.as_secs());
        }
    }
}

/// Designs of the calibration's table that miss the bounds: more than 6 in 100 false, less than 94
/// held, or more than 3 points of power below the usual test.
fn not_kept(table: &str) -> Vec<String> {
    let figure = |cell: &str| cell.trim().trim_end_matches('%').trim().parse::<f64>().ok();
    let missed = |line: &str| -> Option<String> {
        let cells: Vec<&str> = line.trim_matches('|').split('|').collect();
        let [name, claims, held, found, _, usual] = cells[..] else {
            return None;
        };
        let (claims, held, found, usual) =
            (figure(claims), figure(held), figure(found), figure(usual));
        let less = found
            .zip(usual)
            .filter(|(found, usual)| found + 3.0 < *usual);
        let told = [
            claims.filter(|v| *v > 6.0).map(|v| format!("{v} % false")),
            held.filter(|v| *v < 94.0).map(|v| format!("{v} % held")),
            less.map(|(found, usual)| {
                format!("{found} % found where the usual test finds {usual}")
            }),
        ];
        let told: Vec<String> = told.into_iter().flatten().collect();
        (!told.is_empty()).then(|| format!("- {}: {}", name.trim(), told.join(", ")))
    };
    table.lines().filter_map(missed).collect()
}

fn foretold(rest: &[String]) -> Result<(), Fail> {
    let seasons = rest.first().map_or("6000", String::as_str);
    let example = [
        "run",
        "--quiet",
        "--release",
        "-p",
        "iron-twin-core",
        "--example",
        "foretold",
        seasons,
    ];
    let table = String::from_utf8_lossy(&run::output("cargo", &example, &root())?).into_owned();
    let text = format!(
        "# What plans foretell\n\nThe chance of a verdict that Ask and `iron-twin power` \
         foretell, beside {seasons} fresh seasons of each plan (`cargo xtask foretold`);\nchance \
         moves a figure of 75 % by {:.1} points. Which seasons the foretelling itself was counted \
         in says `crates/judge/src/strictness.rs`.\n\n{table}",
        100.0 * (0.75f64 * 0.25 / seasons.parse::<f64>().unwrap_or(6000.0)).sqrt()
    );
    std::fs::write(root().join("docs/foretold.md"), text)
        .map_err(|e| Fail::new(format!("docs/foretold.md: {e}")))
}

fn calibrate(rest: &[String]) -> Result<(), Fail> {
    let seasons = rest.first().map_or("10000", String::as_str);
    let example = [
        "run",
        "--quiet",
        "--release",
        "-p",
        "iron-twin-core",
        "--example",
        "calibrate",
        seasons,
    ];
    let table = String::from_utf8_lossy(&run::output("cargo", &example, &root())?).into_owned();
    let text = format!(
        "# Calibration\n\nSimulated seasons with a known truth, {seasons} a figure (doses a \
         twentieth), from fixed seeds (`cargo xtask calibrate`). All contrasts of a \
         trial\ntogether; chance moves a figure of 5 % by about {:.1} points. A verdict is to \
         claim a difference where there is none in at most 6 % of the seasons, and\nthe interval \
         that decided is to hold the truth in at least 94 %. A true difference is one that the \
         usual test (Student's t, Dunnett's for several treatments) finds\n80 times in 100 where \
         all scatter alike: the price of the re-deal and of allowing for unlike spreads. What the \
         plan foretold is the chance of the\nverdict that Ask and `iron-twin power` would have \
         given ([foretold.md](foretold.md)). For doses a claim is false where the dose that is \
         promised lies\nbelow what is enough; the ladders at the end are a fifth as many \
         seasons.\n\n## What is not kept\n\n{}\n\nAsk says so before the first seed is sown: of \
         control and numbers in words (`crates/core/src/ask/cautions.rs`), of power by \
         foretelling the chance of\nthe verdict.\n\n## All designs\n\n{table}",
        not_kept(&table).join("\n"),
        100.0 * (0.05f64 * 0.95 / seasons.parse::<f64>().unwrap_or(10_000.0)).sqrt()
    );
    std::fs::write(root().join("docs/calibration.md"), text)
        .map_err(|e| Fail::new(format!("docs/calibration.md: {e}")))
}

/// Marks between which the table of the farm stands in docs/measurements.md.
const FARM: (&str, &str) = ("<!-- cargo xtask bench farm -->", "<!-- end of farm -->");

fn farm() -> Result<(), Fail> {
    let example = [
        "run",
        "--quiet",
        "--release",
        "-p",
        "iron-twin-server",
        "--example",
        "farm",
    ];
    let table = String::from_utf8_lossy(&run::output("cargo", &example, &root())?).into_owned();
    between("docs/measurements.md", FARM, &table)
}

fn types() -> Result<(), Fail> {
    web::install()?;
    let document = run::output(
        "cargo",
        &["run", "--quiet", "-p", "iron-twin", "--", "openapi"],
        &root(),
    )?;
    std::fs::write(root().join("web/openapi.json"), document)
        .map_err(|e| Fail::new(format!("web/openapi.json: {e}")))?;
    web::types()
}

fn shots(rest: &[String]) -> Result<(), Fail> {
    web::install()?;
    web::build()?;
    browser::install()?;
    cargo(&["build", "-p", "iron-twin", "-p", "iron-twin-e2e"])?;
    let folder = rest
        .first()
        .cloned()
        .unwrap_or_else(|| root().join("docs/screenshots").display().to_string());
    let binary = run::target().join("debug/shots");
    run::program(binary.to_str().unwrap_or("shots"), &[folder], &root())
}
