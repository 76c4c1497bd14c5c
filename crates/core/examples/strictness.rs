//! How much stricter a verdict is than the usual test: the chance of the verdict where the usual
//! test has a given chance, for the layouts that growers use, from simulated seasons. Its output is
//! the table of `judge/src/strictness.rs`.
//!
//! `cargo run --release --example strictness -p iron-twin-core -- [seasons] [part of a layout's
//! name]`

use iron_twin_core::ask::picture::Layout;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::result::Contrast;
use iron_twin_judge::table::{Columns, Table, read};
use iron_twin_judge::verdict::Verdict;
use iron_twin_stats::linear::Observation;
use iron_twin_terms::dealing::BlocksAre;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::quantity::Margin;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::fmt::Write;
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

const NAMES: [&str; 6] = ["water", "a", "b", "c", "d", "e"];
/// Chances of the usual test at which the verdict is watched; the last ones with few units only,
/// where a verdict needs them.
const BEAT: [f64; 6] = [0.3, 0.6, 0.85, 0.97, 0.997, 0.99999];
const MATCH: [f64; 5] = [0.5, 0.8, 0.95, 0.995, 0.99999];
/// Few units.
const FEW: usize = 4;

#[derive(Clone, Copy)]
struct Cell {
    layout: Layout,
    units: usize,
}

impl Cell {
    /// Units without an effect, as a table: shelves 1.25 standard deviations apart.
    fn season(&self, random: &mut ChaCha8Rng) -> Option<Table> {
        let mut normal = || {
            let (u, v): (f64, f64) = (1.0 - random.random::<f64>(), random.random());
            (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
        };
        let Layout {
            treatments,
            per_block,
            in_turn,
            ..
        } = self.layout;
        let mut csv = String::from("t,b,v\n");
        let mut put = |t: usize, block: usize, value: f64| {
            let _ = writeln!(csv, "{},{block},{value}", NAMES[t]);
        };
        if in_turn {
            let mut pair = 0;
            for _ in 0..self.units / (treatments - 1) {
                for a in 0..treatments {
                    for b in a + 1..treatments {
                        let shelf = 100.0 + 1.25 * normal();
                        put(a, pair, shelf + normal());
                        put(b, pair, shelf + normal());
                        pair += 1;
                    }
                }
            }
        } else {
            let blocks = self.layout.blocks(self.units);
            for block in 0..blocks {
                let shelf = 100.0 + if per_block > 0 { 1.25 * normal() } else { 0.0 };
                for t in 0..treatments {
                    for _ in 0..self.units / blocks {
                        put(t, block, shelf + normal());
                    }
                }
            }
        }
        let blocked = per_block > 0 || in_turn;
        let columns = Columns {
            measure: "v".into(),
            treatment: "t".into(),
            control: "water".into(),
            block: blocked.then(|| "b".into()),
            ..Columns::default()
        };
        let mut table = read(csv.as_bytes(), &columns).ok()?;
        table.dealing.blocks = if self.layout.places {
            BlocksAre::Places
        } else {
            BlocksAre::Alike
        };
        Some(table)
    }

    fn with(table: &Table, gain: f64) -> Table {
        let mut with = table.clone();
        with.observations
            .iter_mut()
            .filter(|o| o.treatment > 0)
            .for_each(|o| o.value += gain);
        with
    }

    fn layout_named(&self) -> String {
        let Layout {
            treatments,
            per_block,
            in_turn,
            places,
            ..
        } = self.layout;
        let laid = match (in_turn, places, per_block) {
            (true, ..) => "in turn".to_owned(),
            (_, true, n) => format!("{n} at a place"),
            (_, _, 0) => "no blocks".to_owned(),
            (_, _, n) => format!("{n} in a block"),
        };
        format!("{treatments}; {laid}")
    }

    /// Chances of a verdict at each chance of the usual test. Both are counted in the same seasons
    /// and only what they differ by is taken from them, because the usual chance is known.
    fn line(&self, seasons: u32, seed: u64) -> Option<String> {
        let usual = self.layout.plan(self.units);
        if usual.df() < 1.0 {
            return None;
        }
        let seasons = if self.layout.in_turn {
            seasons / 10
        } else {
            seasons
        };
        let (scale, critical) = (self.layout.effect(), usual.critical().ok()?);
        let effects = |levels: &[f64]| -> Option<Vec<f64>> {
            levels
                .iter()
                .map(|l| usual.smallest_detectable(*l).ok().map(|e| e / scale))
                .collect()
        };
        let few = self.units <= FEW;
        let (beat_at, match_at) = if few {
            (&BEAT[..], &MATCH[..])
        } else {
            (&BEAT[..4], &MATCH[..3])
        };
        let (to_beat, to_match) = (effects(beat_at)?, effects(match_at)?);
        let mut random = ChaCha8Rng::seed_from_u64(seed);
        let (mut beat, mut kept) = (vec![0i32; beat_at.len()], vec![0i32; match_at.len()]);
        for _ in 0..seasons {
            let table = self.season(&mut random)?;
            for (count, &effect) in beat.iter_mut().zip(&to_beat) {
                let table = Self::with(&table, effect);
                let told = analyse(&table, &Question::default()).ok()?;
                let contrast = &told.contrasts[0];
                let found =
                    lowest(self.layout, critical, &table, contrast).is_some_and(|low| low > 0.0);
                *count += i32::from(contrast.verdict == Verdict::Better) - i32::from(found);
            }
            for (count, &margin) in kept.iter_mut().zip(&to_match) {
                let question = Question {
                    goal: Goal::Match,
                    margin: Some(Margin::Absolute(margin)),
                    ..Question::default()
                };
                let told = analyse(&table, &question).ok()?;
                let contrast = &told.contrasts[0];
                let found = lowest(self.layout, critical, &table, contrast)
                    .is_some_and(|low| low > -margin);
                let kept = !matches!(
                    contrast.verdict,
                    Verdict::CannotTell | Verdict::NotGoodEnough | Verdict::Worse
                );
                *count += i32::from(kept) - i32::from(found);
            }
        }
        let chances = |counts: &[i32], levels: &[f64]| {
            let one = |(n, level): (&i32, &f64)| {
                format!("{:.3}", level + f64::from(*n) / f64::from(seasons))
            };
            counts
                .iter()
                .zip(levels)
                .map(one)
                .collect::<Vec<_>>()
                .join(", ")
        };
        Some(format!(
            "{}; {}; [{}]; [{}]",
            self.layout_named(),
            self.units,
            chances(&beat, beat_at),
            chances(&kept, match_at)
        ))
    }
}

/// The lower limit of the usual test, the first treatment against the control: by the model's own
/// figures where pairs leave treatments out or places are the error, else worked out anew, because
/// shelves that look unlike have changed the model's.
fn lowest(layout: Layout, critical: f64, table: &Table, contrast: &Contrast) -> Option<f64> {
    if layout.in_turn || layout.places {
        return contrast
            .simultaneous
            .as_ref()
            .map(|s| s.low)
            .or(contrast.low);
    }
    let rows = &table.observations;
    let mean = |of: &dyn Fn(&Observation) -> bool| {
        let own: Vec<f64> = rows.iter().filter(|o| of(o)).map(|o| o.value).collect();
        own.iter().sum::<f64>() / own.len() as f64
    };
    let treatments: Vec<f64> = (0..table.treatments.len())
        .map(|t| mean(&|o| o.treatment == t))
        .collect();
    let blocks: Vec<f64> = (0..table.blocks.len().max(1))
        .map(|b| mean(&|o| o.block == b))
        .collect();
    let all = mean(&|_| true);
    let left: f64 = rows
        .iter()
        .map(|o| (o.value - treatments[o.treatment] - blocks[o.block] + all).powi(2))
        .sum();
    let df = (rows.len() + 1 - treatments.len() - blocks.len()) as f64;
    let each = (rows.len() / treatments.len()) as f64;
    Some(treatments[1] - treatments[0] - critical * (2.0 * left / df / each).sqrt())
}

fn cells() -> Vec<Cell> {
    let mut all = Vec::new();
    for treatments in 2..=4 {
        let plain = Layout {
            treatments,
            per_block: 0,
            covariates: 0,
            in_turn: false,
            places: false,
        };
        for (per_block, sizes) in [
            (0, &[2, 3, 4, 5, 6, 8, 12, 16][..]),
            (1, &[2, 3, 4, 5, 6, 7, 8, 12, 16]),
            (2, &[4, 6, 8, 12, 16]),
            (4, &[8, 12, 16]),
        ] {
            all.extend(sizes.iter().map(|&units| Cell {
                layout: Layout { per_block, ..plain },
                units,
            }));
        }
        for (per_block, sites) in [(2, 3), (4, 3), (2, 5), (4, 6)] {
            all.push(Cell {
                layout: Layout {
                    per_block,
                    places: true,
                    ..plain
                },
                units: per_block * sites,
            });
        }
        if treatments > 2 {
            let layout = Layout {
                in_turn: true,
                ..plain
            };
            all.extend([2, 4].map(|k| Cell {
                layout,
                units: k * (treatments - 1),
            }));
        }
    }
    all
}

fn main() {
    let mut args = std::env::args().skip(1);
    let seasons: u32 = args.next().and_then(|a| a.parse().ok()).unwrap_or(3000);
    let only = args.next().unwrap_or_default();
    let cells: Vec<Cell> = cells()
        .into_iter()
        .filter(|c| c.layout_named().contains(&only))
        .collect();
    let (next, lines) = (AtomicUsize::new(0), Mutex::new(vec![None; cells.len()]));
    let workers = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    std::thread::scope(|scope| {
        for _ in 0..workers {
            scope.spawn(|| {
                loop {
                    let at = next.fetch_add(1, Ordering::Relaxed);
                    let Some(cell) = cells.get(at) else { break };
                    let told = cell.line(seasons, 1 + at as u64);
                    if let Some(told) = &told {
                        eprintln!("{told}");
                    }
                    lines
                        .lock()
                        .expect("no worker panics while it holds the lines")[at] = told;
                }
            });
        }
    });
    for line in lines.into_inner().unwrap_or_default().into_iter().flatten() {
        println!("{line}");
    }
}
