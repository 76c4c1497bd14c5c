//! By how much a verdict asks for more than the usual test, by simulated seasons: the table of
//! `crates/core/src/ask/strictness.rs`, printed as it stands there.

#[allow(dead_code, reason = "the calibration uses all of it")]
mod seasons;

use iron_twin_core::terms::kind::Kind;
use seasons::{Design, Law, run};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Grams, as the seasons have it.
const SD: f64 = 4.0;

fn strictness(design: &Design, seasons: u32, seed: u64) -> Option<f64> {
    let plan = design.plan()?;
    let truth = plan.smallest_detectable(0.8).ok()?;
    let found = 0.01 * run(&Design { truth: SD * truth, ..design.clone() }, seasons, seed).found;
    let (mut low, mut high) = (0.9, 3.0);
    for _ in 0..40 {
        let middle = 0.5 * (low + high);
        if plan.power_beyond(truth, middle).ok()? > found { low = middle } else { high = middle }
    }
    Some(low.max(1.0))
}

fn main() {
    let seasons: u32 = std::env::args().nth(1).and_then(|a| a.parse().ok()).unwrap_or(4000);
    let mut plans: Vec<(usize, usize, usize)> = Vec::new();
    for treatments in 2..=5 {
        for per_block in [0, 1, 2, 4] {
            plans.extend((2..=12).filter(|n| per_block == 0 || n % per_block == 0).map(|n| (treatments, per_block, n)));
        }
    }
    let (next, found) = (AtomicUsize::new(0), Mutex::new(vec![None; plans.len()]));
    std::thread::scope(|scope| {
        for _ in 0..std::thread::available_parallelism().map_or(1, std::num::NonZero::get) {
            scope.spawn(|| {
                loop {
                    let at = next.fetch_add(1, Ordering::Relaxed);
                    let Some(&(treatments, per_block, units)) = plans.get(at) else { break };
                    let (each, blocks) = if per_block == 0 { (units, 1) } else { (per_block, units / per_block) };
                    let design = Design::new(Kind::Amount, &vec![each; treatments], blocks, 1, Law::Usual);
                    let one = if blocks > 1 || per_block == 0 {
                        strictness(&design, seasons, 9000 + at as u64)
                    } else {
                        None
                    };
                    found.lock().expect("no worker panics while it holds the table")[at] = one;
                }
            });
        }
    });
    let found = found.into_inner().unwrap_or_default();
    for (plan, strictness) in plans.iter().zip(found) {
        if let Some(strictness) = strictness {
            println!("    ({}, {}, {}, {strictness:.3}),", plan.0, plan.1, plan.2);
        }
    }
}
