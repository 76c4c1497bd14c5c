//! The exact counts and integrals behind a verdict, each beside its naive twin in the same run, so that ratios can be
//! read off whatever the machine.

use criterion::{Criterion, criterion_group, criterion_main};
use iron_twin_core::judge::analysis::{Question, analyse};
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::stats::dunnett::JointContrasts;
use iron_twin_core::stats::redeal::{Block, redeal};
use std::fmt::Write;
use std::hint::black_box;

/// Made-up weights, to the tenth of a gram.
fn weight(i: usize, shift: f64) -> f64 {
    ((100.0 + shift + 13.0 * ((i as f64 * 12.9898).sin() * 43_758.545_3).fract()) * 10.0).round() / 10.0
}

fn block(units: usize, from: usize) -> Block {
    Block {
        treated: (0..units).map(|i| weight(from + i, 6.0)).collect(),
        control: (0..units).map(|i| weight(from + 50 + i, 0.0)).collect(),
    }
}

/// Every deal one by one: what the counting replaces.
fn enumerate(block: &Block) -> f64 {
    let values: Vec<f64> = block.treated.iter().chain(&block.control).copied().collect();
    let (n, total) = (block.treated.len(), values.iter().sum::<f64>());
    let observed = (2.0 * block.treated.iter().sum::<f64>() - total).abs();
    let (mut hits, mut all) = (0u32, 0u32);
    for mask in 0u32..1 << values.len() {
        if mask.count_ones() as usize == n {
            let sum: f64 = (0..values.len()).filter(|i| mask >> i & 1 == 1).map(|i| values[i]).sum();
            all += 1;
            hits += u32::from((2.0 * sum - total).abs() >= observed - 1e-9);
        }
    }
    f64::from(hits) / f64::from(all)
}

fn benches(c: &mut Criterion) {
    let eight = block(8, 0);
    c.bench_function("re-deal 8 v 8, counted", |b| b.iter(|| redeal(black_box(std::slice::from_ref(&eight)), 1)));
    c.bench_function("re-deal 8 v 8, one by one", |b| b.iter(|| enumerate(black_box(&eight))));
    let six: Vec<Block> = (0..6).map(|i| block(2, 7 * i)).collect();
    c.bench_function("re-deal 6 blocks of 2 v 2, counted", |b| b.iter(|| redeal(black_box(&six), 1)));
    let fifteen = block(15, 3);
    c.bench_function("re-deal 15 v 15, counted", |b| b.iter(|| redeal(black_box(std::slice::from_ref(&fifteen)), 1)));
    let half: Vec<Vec<f64>> = (0..3).map(|i| (0..3).map(|j| if i == j { 1.0 } else { 0.5 }).collect()).collect();
    c.bench_function("Dunnett critical value, 3 contrasts, 9 df", |b| {
        b.iter(|| JointContrasts::new(black_box(&half), 9.0).and_then(|j| j.critical(0.95)))
    });
    let mut csv = String::from("t,b,g\n");
    for unit in 0..64 {
        let _ = writeln!(csv, "treatment {},{},{}", unit % 4, unit / 4, weight(unit, 3.0 * (unit % 4) as f64));
    }
    let columns = Columns {
        measure: "g".into(),
        treatment: "t".into(),
        control: "treatment 0".into(),
        block: Some("b".into()),
        ..Columns::default()
    };
    let table = read(csv.as_bytes(), &columns).expect("a sound table");
    let question = Question { margin: "10%".parse().ok(), ..Question::default() };
    c.bench_function("whole analysis, 64 units in 16 blocks", |b| b.iter(|| analyse(black_box(&table), &question)));
}

criterion_group!(exact, benches);
criterion_main!(exact);
