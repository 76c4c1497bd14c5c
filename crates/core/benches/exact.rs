//! The exact counts and integrals behind a verdict, each beside its naive twin in the same run, so
//! that ratios can be read off whatever the machine.

use criterion::{Criterion, criterion_group, criterion_main};
use iron_twin_core::mix::bench::Bench;
use iron_twin_core::stores::Stores;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::table::{Columns, read};
use iron_twin_stats::dunnett::JointContrasts;
use iron_twin_stats::linear::Layout;
use iron_twin_stats::quasi::{self, Family, Tally};
use iron_twin_stats::ranks::midranks;
use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
use iron_twin_stats::redeal::{Block, redeal};
use iron_twin_stats::survival::{Lifetime, log_rank_scores};
use iron_twin_stats::turnbull::{Spread, Window};
use std::fmt::Write;
use std::hint::black_box;

/// Made-up weights, to the tenth of a gram.
fn weight(i: usize, shift: f64) -> f64 {
    ((100.0 + shift + 13.0 * ((i as f64 * 12.9898).sin() * 43_758.545_3).fract()) * 10.0).round()
        / 10.0
}

fn block(units: usize, from: usize) -> Block {
    Block {
        treated: (0..units).map(|i| weight(from + i, 6.0)).collect(),
        control: (0..units).map(|i| weight(from + 50 + i, 0.0)).collect(),
    }
}

/// Every deal one by one: what the counting replaces.
fn enumerate(block: &Block) -> f64 {
    let values: Vec<f64> = block
        .treated
        .iter()
        .chain(&block.control)
        .copied()
        .collect();
    let (n, total) = (block.treated.len(), values.iter().sum::<f64>());
    let observed = (2.0 * block.treated.iter().sum::<f64>() - total).abs();
    let (mut hits, mut all) = (0u32, 0u32);
    for mask in 0u32..1 << values.len() {
        if mask.count_ones() as usize == n {
            let sum: f64 = (0..values.len())
                .filter(|i| mask >> i & 1 == 1)
                .map(|i| values[i])
                .sum();
            all += 1;
            hits += u32::from((2.0 * sum - total).abs() >= observed - 1e-9);
        }
    }
    f64::from(hits) / f64::from(all)
}

/// Days of so many units a side, whole days of two to three weeks with a sixth not seen, as
/// log-rank scores.
fn logranks(units: usize) -> Block {
    let days: Vec<Lifetime> = (0..2 * units)
        .map(|i| {
            let day = (weight(i, if i < units { 4.0 } else { 0.0 }) / 7.0).floor();
            Lifetime {
                day,
                seen: i % 6 != 5,
            }
        })
        .collect();
    let scores = log_rank_scores(&days);
    Block {
        treated: scores[..units].to_vec(),
        control: scores[units..].to_vec(),
    }
}

fn benches(c: &mut Criterion) {
    let eight = block(8, 0);
    c.bench_function("re-deal 8 v 8, counted", |b| {
        b.iter(|| redeal(black_box(std::slice::from_ref(&eight)), 1))
    });
    c.bench_function("re-deal 8 v 8, one by one", |b| {
        b.iter(|| enumerate(black_box(&eight)))
    });
    let six: Vec<Block> = (0..6).map(|i| block(2, 7 * i)).collect();
    c.bench_function("re-deal 6 blocks of 2 v 2, counted", |b| {
        b.iter(|| redeal(black_box(&six), 1))
    });
    let fifteen = block(15, 3);
    c.bench_function("re-deal 15 v 15, counted", |b| {
        b.iter(|| redeal(black_box(std::slice::from_ref(&fifteen)), 1))
    });
    let grades = |values: &[f64]| {
        values
            .iter()
            .map(|v| (v / 4.0).round())
            .collect::<Vec<f64>>()
    };
    let ranked = midranks(&[grades(&fifteen.treated), grades(&fifteen.control)].concat());
    let ranks = Block {
        treated: ranked[..15].to_vec(),
        control: ranked[15..].to_vec(),
    };
    c.bench_function("ranks 15 v 15 with ties, counted", |b| {
        b.iter(|| redeal(black_box(std::slice::from_ref(&ranks)), 1))
    });
    let twenty = logranks(20);
    c.bench_function("log-rank scores 20 v 20, counted", |b| {
        b.iter(|| redeal(black_box(std::slice::from_ref(&twenty)), 1))
    });
    for blocks in [4, 6] {
        let units: Vec<DealtUnit> = (0..4 * blocks)
            .map(|i| DealtUnit {
                treatment: i % 4,
                block: i / 4,
                value: weight(i, 3.0 * (i % 4) as f64),
            })
            .collect();
        let deck = Deck::of(&units, 4).expect("numbers");
        c.bench_function(
            &format!("whole deal of 4 treatments in {blocks} blocks"),
            |b| b.iter(|| black_box(&deck).largest_difference(1)),
        );
    }
    let windows: Vec<Window> = (0..12)
        .map(|i| Window {
            after: f64::from(i % 5 + 4),
            by: if i % 6 == 5 {
                f64::INFINITY
            } else {
                f64::from(i % 5 + 6)
            },
        })
        .collect();
    c.bench_function("curve of 12 windows of days", |b| {
        b.iter(|| Spread::of(black_box(&windows)))
    });
    let tallies: Vec<Tally> = (0..64)
        .map(|i| Tally {
            treatment: i % 4,
            block: i / 4,
            column: 0,
            count: (weight(i, 0.0) / 5.0).floor(),
            size: 1.0,
        })
        .collect();
    let layout = Layout {
        treatments: 4,
        blocks: 16,
        columns: 1,
        baseline: false,
    };
    c.bench_function("counts of 64 units in 16 blocks, fitted", |b| {
        b.iter(|| quasi::fit(Family::Count, black_box(&tallies), layout))
    });
    let half: Vec<Vec<f64>> = (0..3)
        .map(|i| (0..3).map(|j| if i == j { 1.0 } else { 0.5 }).collect())
        .collect();
    c.bench_function("Dunnett critical value, 3 contrasts, 9 df", |b| {
        // Never the same twice: what was asked before is remembered.
        let mut confidence = 0.95;
        b.iter(|| {
            confidence += 1e-13;
            JointContrasts::new(black_box(&half), 9.0).and_then(|j| j.critical(confidence))
        })
    });
    let mut csv = String::from("t,b,g\n");
    for unit in 0..64 {
        let _ = writeln!(
            csv,
            "treatment {},{},{}",
            unit % 4,
            unit / 4,
            weight(unit, 3.0 * (unit % 4) as f64)
        );
    }
    let columns = Columns {
        measure: "g".into(),
        treatment: "t".into(),
        control: "treatment 0".into(),
        block: Some("b".into()),
        ..Columns::default()
    };
    let table = read(csv.as_bytes(), &columns).expect("a sound table");
    let question = Question {
        margin: "10%".parse().ok(),
        ..Question::default()
    };
    c.bench_function("whole analysis, 64 units in 16 blocks", |b| {
        b.iter(|| analyse(black_box(&table), &question))
    });
    let stores = Stores::with_own(Vec::new());
    let lines = stores
        .lines("leafy greens from salts")
        .expect("a generic recipe");
    let bench = Bench {
        lines,
        water: "tap water".into(),
        target: "leafy greens".into(),
        volume_l: 10.0,
        temperature_c: 20.0,
        stock_times: Some(100.0),
    };
    c.bench_function("bench of five salts with concentrates", |b| {
        b.iter(|| black_box(&bench).view(&stores))
    });
    c.bench_function("aim of five salts at twelve elements", |b| {
        b.iter(|| black_box(&bench).aim(&stores))
    });
}

criterion_group!(exact, benches);
criterion_main!(exact);
