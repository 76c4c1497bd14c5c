//! A farm at its real size, and how long its screens take: 2,000 trials of which 60 run, one of
//! them with 200 units and 72,000 readings, 5 million readings in the file. Prints a table; `cargo
//! xtask bench farm` writes it into docs/measurements.md.
//!
//! Times are those of the router in this process, without the network. Figures of writes stand
//! beside bare SQLite with the same durability in the same run.

use axum::Router;
use axum::body::Body;
use axum::http::{Request, header};
use iron_twin_core::trial::plan::Plan;
use iron_twin_server::{App, router};
use iron_twin_store::place::Chance;
use iron_twin_store::{Stamp, Store};
use jiff::{Timestamp, ToSpan};
use rusqlite::{Connection, params};
use std::path::Path;
use std::sync::Mutex;
use std::time::{Duration, Instant};
use tower::ServiceExt;

type Fallible<T> = Result<T, Box<dyn std::error::Error>>;

const TRIALS: usize = 2000;
const RUNNING: usize = 60;
const READINGS: usize = 5_000_000;
/// Records written by 8 clients, and by bare SQLite, in each turn.
const RECORDS: usize = 2000;
/// Turns that the two take one after the other, so that a slow moment of the disk falls on both.
const TURNS: usize = 4;
/// Readings that the grid asks for in the large trial, with a usual value.
const KINDS: [(&str, f64); 6] = [
    ("ph", 6.0),
    ("ec", 1.5),
    ("height", 40.0),
    ("leaf_count", 6.0),
    ("root_colour", 3.0),
    ("vigour", 3.0),
];

/// A trial that is made.
struct Made {
    name: &'static str,
    levels: u32,
    slots: u32,
    end_day: u32,
    /// Days that it has run.
    days: u32,
    primary: &'static str,
    also: &'static [&'static str],
}

const USUAL: Made = Made {
    name: "Cress",
    levels: 4,
    slots: 4,
    end_day: 60,
    days: 40,
    primary: "harvest_weight",
    also: &["height"],
};
const LARGE: Made = Made {
    name: "Two hundred trays",
    levels: 10,
    slots: 20,
    end_day: 90,
    days: 59,
    also: &["height", "leaf_count", "root_colour", "vigour"],
    ..USUAL
};
const UNREAD: Made = Made {
    name: "Waiting for roots",
    levels: 12,
    slots: 16,
    primary: "first_root",
    also: &["height", "leaf_count", "root_colour", "vigour"],
    ..LARGE
};
const OPENED: Made = Made {
    name: "Twelve measures",
    levels: 8,
    slots: 8,
    end_day: 60,
    days: 59,
    primary: "harvest_weight",
    also: &[
        "height",
        "leaf_count",
        "root_colour",
        "vigour",
        "germinated",
        "tip_burn",
        "first_root",
        "first_flower",
        "first_fruit",
        "water_used",
        "harvest_per_litre",
    ],
};

/// Numbers without a pattern, the same every time.
struct Chances(u64);

impl Chances {
    fn next(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1u64 << 53) as f64
    }
}

fn make(store: &Store, made: &Made, number: usize) -> Fallible<String> {
    let begun = Timestamp::now().checked_sub((i64::from(made.days) * 24 + 1).hours())?;
    let stamp = Stamp::owner(begun);
    let mut plan = Plan::usual(&format!("{} {number}", made.name));
    (plan.ask.end_day, plan.ask.crop, plan.ask.question) =
        (made.end_day, "cress".into(), "Which is better?".into());
    (plan.ask.primary_measure, plan.ask.also) = (
        made.primary.into(),
        made.also.iter().map(|key| (*key).to_owned()).collect(),
    );
    (plan.rack.levels, plan.rack.slots) = (made.levels, made.slots);
    if made.primary == "first_root" {
        plan.ask.margin = iron_twin_terms::quantity::Margin::Absolute(2.0);
    }
    let id = store.create_from(&stamp, plan)?;
    store.deal(
        &stamp,
        &id,
        Chance {
            seed: number as u64,
            nonce: [7; 32],
        },
        1,
    )?;
    store.sow(&stamp, &id, begun.to_zoned(jiff::tz::TimeZone::UTC).date())?;
    Ok(id)
}

/// Fills a trial with readings of every unit, kind by kind and day by day, and with weights where
/// it is finished.
fn fill(
    file: &Connection,
    id: &str,
    kinds: &[(&str, f64)],
    days: u32,
    weighed: bool,
    chance: &mut Chances,
) -> Fallible<usize> {
    let (no, deal, sown): (i64, i64, i64) = file.query_row(
        "SELECT no, deal_no, created_at_us FROM trial WHERE id = ?1",
        [id],
        |r| Ok((r.get(0)?, r.get(1)?, r.get(2)?)),
    )?;
    let units: Vec<i64> = file
        .prepare_cached("SELECT no FROM unit WHERE deal_no = ?1")?
        .query_map([deal], |r| r.get(0))?
        .collect::<Result<_, _>>()?;
    let mut insert = file.prepare_cached(
        "INSERT INTO reading (trial_no, unit_no, reading, day, value, at_us, entered_at_us, \
         who, changed) VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?6, 'owner', 10)",
    )?;
    let mut count = 0;
    for day in 0..days {
        let at = sown + i64::from(day) * 86_400_000_000;
        for unit in &units {
            for (kind, usual) in kinds {
                let value = (usual * (0.9 + 0.2 * chance.next()) * 10.0).round() / 10.0;
                let value = if matches!(*kind, "ph" | "ec" | "height" | "level") {
                    value
                } else {
                    value.round()
                };
                insert.execute(params![no, unit, kind, day, value, at])?;
                count += 1;
            }
        }
    }
    if weighed {
        for unit in &units {
            let net = (90.0 + 20.0 * chance.next()).round();
            file.execute(
                "INSERT INTO record (trial_no, kind, place, unit_no, body, day, at_us, \
                 entered_at_us, who, changed) VALUES (?1, 'weighing', '', ?2, \
                 json_object('gross_g', ?3, 'tare_g', 20.0), ?4, ?5, ?5, 'owner', 10)",
                params![
                    no,
                    unit,
                    net + 20.0,
                    days,
                    sown + i64::from(days) * 86_400_000_000
                ],
            )?;
        }
        file.execute(
            "UPDATE trial SET revealed_at_us = ?2, reveal_day = ?3, reveal_weighed = ?4, version \
             = version + 1 WHERE no = ?1",
            params![
                no,
                sown + i64::from(days) * 86_400_000_000,
                days,
                units.len() as i64
            ],
        )?;
    }
    file.execute("UPDATE trial SET changed = 10 WHERE no = ?1", [no])?;
    Ok(count)
}

struct Farm {
    router: Router,
    large: String,
    unread: String,
    opened: String,
    readings: usize,
}

fn build(path: &Path, trials: usize) -> Fallible<Farm> {
    let store = Store::open(path)?;
    let (mut finished, mut running) = (Vec::new(), Vec::new());
    for number in 0..trials - 3 {
        let list = if number < RUNNING - 2 {
            &mut running
        } else {
            &mut finished
        };
        list.push(make(&store, &USUAL, number)?);
    }
    let (large, unread, opened) = (
        make(&store, &LARGE, 0)?,
        make(&store, &UNREAD, 0)?,
        make(&store, &OPENED, 0)?,
    );
    let mut file = Connection::open(path)?;
    let filling = file.transaction()?;
    let mut chance = Chances(20_261_126);
    let mut readings = fill(&filling, &large, &KINDS, 60, false, &mut chance)?;
    readings += fill(&filling, &unread, &KINDS[2..], 30, false, &mut chance)?;
    let all: Vec<(&str, f64)> = KINDS
        .into_iter()
        .chain([
            ("germinated", 80.0),
            ("seeds_counted", 100.0),
            ("leaves_with_tip_burn", 1.0),
            ("first_root", 1.0),
        ])
        .chain([("first_flower", 0.0), ("first_fruit", 0.0), ("level", 3.0)])
        .collect();
    readings += fill(&filling, &opened, &all, 60, true, &mut chance)?;
    for id in &running {
        readings += fill(&filling, id, &KINDS[..3], 20, false, &mut chance)?;
    }
    let each = (READINGS * trials / TRIALS).saturating_sub(readings) / finished.len() / (16 * 4);
    for id in &finished {
        readings += fill(
            &filling,
            id,
            &KINDS[..4],
            each as u32 + 1,
            true,
            &mut chance,
        )?;
    }
    filling.commit()?;
    drop(file);
    // The writer's own picture of the file is of before it was filled.
    drop(store);
    Ok(Farm {
        router: router(App::new(Store::open(path)?)),
        large,
        unread,
        opened,
        readings,
    })
}

impl Farm {
    async fn ask(
        &self,
        method: &str,
        path: &str,
        body: String,
    ) -> Fallible<(u16, usize, Duration)> {
        let request = Request::builder()
            .method(method)
            .uri(format!("/api/v1{path}"))
            .header(header::HOST, "localhost")
            .body(Body::from(body))?;
        let begun = Instant::now();
        let answer = self.router.clone().oneshot(request).await?;
        let status = answer.status().as_u16();
        let bytes = axum::body::to_bytes(answer.into_body(), 1 << 26).await?;
        Ok((status, bytes.len(), begun.elapsed()))
    }

    async fn read(&self, path: &str) -> Fallible<(usize, Duration)> {
        match self.ask("GET", path, String::new()).await? {
            (200, size, took) => Ok((size, took)),
            (status, ..) => Err(format!("GET {path}: {status}").into()),
        }
    }

    /// A reading of the large trial: another unit and day every time.
    async fn write(&self, codes: &[String], number: usize) -> Fallible<Duration> {
        let (code, day) = (&codes[number % codes.len()], number / codes.len() % 59);
        let body = format!(
            r#"{{"format":1,"records":[{{"kind":"reading","head":{{"unit":"{code}","day":{day},"confirmed":true}},
                "body":{{"reading":"water_added","value":1.0}}}}]}}"#
        );
        match self
            .ask("POST", &format!("/trials/{}/records", self.large), body)
            .await?
        {
            (200, _, took) => Ok(took),
            (status, ..) => Err(format!("POST records: {status}").into()),
        }
    }
}

fn milliseconds(took: Duration) -> f64 {
    1000.0 * took.as_secs_f64()
}

/// The share of times that lie at or below it.
fn quantile(times: &mut [f64], share: f64) -> f64 {
    times.sort_by(f64::total_cmp);
    times[((times.len() as f64 * share).ceil() as usize).clamp(1, times.len()) - 1]
}

fn codes(path: &Path, id: &str) -> Fallible<Vec<String>> {
    let file = Connection::open(path)?;
    let sql = "SELECT code FROM unit WHERE deal_no = (SELECT deal_no FROM trial WHERE id = ?1) \
               ORDER BY code";
    let found = file
        .prepare(sql)?
        .query_map([id], |r| r.get(0))?
        .collect::<Result<_, _>>()?;
    Ok(found)
}

/// Seconds that bare SQLite takes for records from 8 threads over one connection, each in a
/// transaction of its own that does what a record does here: a row, a count, an entry in the
/// history.
fn bare(path: &Path, records: usize) -> Fallible<f64> {
    let file = Connection::open(path)?;
    file.execute_batch(
        "PRAGMA journal_mode = WAL; PRAGMA synchronous = FULL; 
         CREATE TABLE bare (no INTEGER PRIMARY KEY, unit TEXT NOT NULL, value REAL, at INTEGER NOT NULL) STRICT;
         CREATE TABLE head (no INTEGER PRIMARY KEY, changed INTEGER NOT NULL) STRICT;
         INSERT INTO head VALUES (1, 0);
         CREATE TABLE history (no INTEGER PRIMARY KEY, who TEXT NOT NULL, after TEXT NOT NULL) STRICT;",
    )?;
    let file = Mutex::new(file);
    let begun = Instant::now();
    std::thread::scope(|threads| {
        for thread in 0..8 {
            let file = &file;
            threads.spawn(move || {
                for n in 0..records / 8 {
                    let mut own = file.lock().expect("no panic");
                    let t = own.transaction().expect("a transaction");
                    let row = params![format!("unit {thread}"), n as f64, n as i64];
                    t.execute(
                        "INSERT INTO bare (unit, value, at) VALUES (?1, ?2, ?3)",
                        row,
                    )
                    .expect("a row");
                    t.execute("UPDATE head SET changed = changed + 1 WHERE no = 1", [])
                        .expect("a count");
                    let after = format!(
                        r#"{{"unit":"unit {thread}","value":{n},"reading":"ph","day":3,"crop":0}}"#
                    );
                    t.execute(
                        "INSERT INTO history (who, after) VALUES ('owner', ?1)",
                        [after],
                    )
                    .expect("a trace");
                    t.commit().expect("durable");
                }
            });
        }
    });
    Ok(begun.elapsed().as_secs_f64())
}

/// Seconds that the program takes for records from 8 clients into the large trial.
async fn written(
    farm: &'static Farm,
    codes: &'static [String],
    from: usize,
    records: usize,
) -> Fallible<f64> {
    let begun = Instant::now();
    let clients: Vec<_> = (0..8)
        .map(|client| {
            tokio::spawn(async move {
                for n in 0..records / 8 {
                    farm.write(codes, from + 8 * n + client)
                        .await
                        .map_err(|e| e.to_string())?;
                }
                Ok::<(), String>(())
            })
        })
        .collect();
    for client in clients {
        client.await??;
    }
    Ok(begun.elapsed().as_secs_f64())
}

#[tokio::main(worker_threads = 2)]
async fn main() -> Fallible<()> {
    // A smaller farm may be asked for while working on the program.
    let trials = std::env::args()
        .nth(1)
        .map_or(Ok(TRIALS), |n| n.parse())?
        .max(2 * RUNNING);
    let folder = tempfile::tempdir()?;
    let path = folder.path().join("farm.sqlite");
    let begun = Instant::now();
    let farm: &'static Farm = Box::leak(Box::new(build(&path, trials)?));
    let size_mb = std::fs::metadata(&path)?.len() as f64 / 1e6;
    println!(
        "A file of {} readings in {trials} trials, {RUNNING} of which run ({size_mb:.0} MB, made \
         in {:.0} s); the large trial has 200 units and 72,000 readings.\n",
        farm.readings,
        begun.elapsed().as_secs_f64()
    );
    println!("| read behind a screen | first | p50 | p99 | size |\n|---|---|---|---|---|");
    let (large, unread, opened) = (&farm.large, &farm.unread, &farm.opened);
    let screens: Vec<(String, String)> = [
        ("Today".to_owned(), "/today".to_owned()),
        ("Trials".into(), "/trials".into()),
        ("Calendar".into(), "/calendar".into()),
        ("Stores".into(), "/stores".into()),
    ]
    .into_iter()
    .chain(
        [
            "",
            "/tend",
            "/tend?day=30",
            "/weigh",
            "/judge",
            "/mix",
            "/materials",
            "/labels?base=http://rack.local",
            "/export.csv",
        ]
        .map(|rest| {
            (
                format!("large trial {rest}").trim_end().to_owned(),
                format!("/trials/{large}{rest}"),
            )
        }),
    )
    .chain(std::iter::once((
        "opened /uptake".to_owned(),
        format!("/trials/{opened}/uptake"),
    )))
    .chain(["", "/tend", "/judge"].map(|rest| {
        (
            format!("192 units, roots not read yet {rest}")
                .trim_end()
                .to_owned(),
            format!("/trials/{unread}{rest}"),
        )
    }))
    .chain(
        std::iter::once("")
            .chain([
                "harvest_weight",
                "height",
                "germinated",
                "root_colour",
                "leaf_count",
            ])
            .map(|measure| {
                let rest = if measure.is_empty() {
                    String::new()
                } else {
                    format!("/judge?measure={measure}")
                };
                (
                    format!("opened, 64 units, 12 measures, 60 days {rest}"),
                    format!("/trials/{opened}{rest}"),
                )
            }),
    )
    .collect();
    let mut worst = 0.0_f64;
    // While working on writes, `farm 130 writes` leaves the screens out.
    let screens = if std::env::args().nth(2).is_some() {
        Vec::new()
    } else {
        screens
    };
    for (name, path) in &screens {
        let (size, first) = farm.read(path).await?;
        let mut times = Vec::new();
        for _ in 0..100 {
            times.push(milliseconds(farm.read(path).await?.1));
        }
        let (median, high) = (quantile(&mut times, 0.5), quantile(&mut times, 0.99));
        worst = worst.max(high);
        println!(
            "| {name} | {:.1} ms | {median:.1} ms | {high:.1} ms | {:.0} kB |",
            milliseconds(first),
            size as f64 / 1e3
        );
    }
    let codes: &'static [String] = Box::leak(codes(&path, large)?.into_boxed_slice());
    for rest in ["", "/tend", "/weigh"] {
        let at = format!("/trials/{large}{rest}");
        let mut times = Vec::new();
        for n in 0..100 {
            let number = n + if rest.is_empty() { 0 } else { 100 * rest.len() };
            farm.write(codes, number).await?;
            times.push(milliseconds(farm.read(&at).await?.1));
        }
        let (median, high) = (quantile(&mut times, 0.5), quantile(&mut times, 0.99));
        worst = worst.max(high);
        println!(
            "| {}, right after a record | | {median:.1} ms | {high:.1} ms | |",
            format!("large trial {rest}").trim_end()
        );
    }
    println!("\nThe slowest p99 is {worst:.0} ms; the budget is 50 ms.\n");
    let (mut plain_s, mut own_s) = (0.0, 0.0);
    for turn in 0..TURNS {
        plain_s += bare(&folder.path().join(format!("bare{turn}.sqlite")), RECORDS)?;
        own_s += written(farm, codes, RECORDS * (turn + 1), RECORDS).await?;
    }
    let all = (TURNS * RECORDS) as f64;
    let (plain, own) = (all / plain_s, all / own_s);
    println!(
        "Records a second from 8 clients into the large trial: {own:.0}; bare SQLite with the \
         same durable transactions (a row, a count, an entry in the history) in the same run: \
         {plain:.0}. That is {:.0} % of it; the budget is half.",
        100.0 * own / plain
    );
    Ok(())
}
