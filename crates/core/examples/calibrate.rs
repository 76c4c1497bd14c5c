//! Simulated seasons with a known truth: how often the verdict claims a difference where there is
//! none, how often the deciding interval holds the truth, and how often a true difference is found
//! beside the best rival that is valid there. `cargo xtask calibrate` writes the table into
//! docs/calibration.md.

mod seasons;

use iron_twin_stats::power::PowerPlan;
use iron_twin_stats::redeal::whole::{DealtUnit, Deck};
use iron_twin_terms::kind::Kind;
use seasons::{Design, Law, run};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

fn designs() -> Vec<Design> {
    use Kind::{Amount, Count, Days, Dose, Score, Share};
    use Law::{
        AlikeSites, Deaths, Edge, Gone, Hump, Hyperbola, MildSites, Plateau, SCurve, Sites, Skewed,
        Slope, SlopeOut, Usual, VerySkewed, Wild,
    };
    let one =
        |kind, each: &[usize], blocks, samples, law| Design::new(kind, each, blocks, samples, law);
    let mut all = vec![
        one(Amount, &[2, 2], 1, 1, Usual),
        one(Amount, &[3, 3], 1, 1, Usual),
        one(Amount, &[4, 4], 1, 1, Usual),
        one(Amount, &[6, 6], 1, 1, Usual),
        one(Amount, &[8, 8], 1, 1, Usual),
        one(Amount, &[12, 12], 1, 1, Usual),
        one(Amount, &[8, 4], 1, 1, Usual),
        one(Amount, &[12, 4], 1, 1, Usual),
        one(Amount, &[6, 3], 1, 1, Usual),
        one(Amount, &[4, 4, 4, 4], 1, 1, Usual),
        one(Amount, &[6, 6, 6, 6], 1, 1, Usual),
        one(Amount, &[1, 1], 3, 1, Usual),
        one(Amount, &[1, 1], 6, 1, Usual),
        one(Amount, &[1, 1, 1, 1], 4, 1, Usual),
        one(Amount, &[1, 1, 1, 1], 6, 1, Usual),
        one(Amount, &[2, 2, 2], 3, 1, Usual),
        one(Amount, &[4, 4], 2, 1, Usual),
        one(Amount, &[3, 3], 1, 4, Usual),
        one(Amount, &[1, 1, 1], 4, 3, Usual),
        one(Amount, &[8, 8], 1, 5, Usual),
    ];
    for each in [2, 3, 4, 6, 12] {
        all.push(one(Amount, &[each, each], 1, 1, Wild(1)));
    }
    for (each, wild) in [
        ([8, 4], 1),
        ([4, 8], 0),
        ([8, 4], 0),
        ([12, 4], 1),
        ([6, 3], 1),
    ] {
        all.push(one(Amount, &each, 1, 1, Wild(wild)));
    }
    for (each, blocks) in [
        (2, 1),
        (3, 1),
        (4, 1),
        (6, 1),
        (12, 1),
        (1, 4),
        (1, 6),
        (1, 12),
    ] {
        for wild in [0, 1] {
            all.push(one(Amount, &[each; 4], blocks, 1, Wild(wild)));
        }
    }
    all.extend([
        one(Amount, &[4, 4], 1, 1, Skewed),
        one(Amount, &[8, 8], 1, 1, Skewed),
        one(Amount, &[4, 4, 4, 4], 1, 1, Skewed),
        one(Amount, &[1, 1, 1, 1], 6, 1, Skewed),
        one(Amount, &[8, 8], 1, 1, VerySkewed),
        Design {
            truth: 1.5,
            ..one(Amount, &[8, 8], 1, 1, VerySkewed)
        },
        Design {
            truth: 3.0,
            ..one(Amount, &[4, 4], 1, 1, VerySkewed)
        },
        one(Amount, &[8, 8], 1, 1, Slope),
        one(Amount, &[8, 8], 1, 1, SlopeOut),
        one(Amount, &[1, 1, 1, 1], 4, 1, SlopeOut),
        one(Amount, &[4, 4, 4, 4], 3, 1, Sites),
        one(Amount, &[4, 4], 3, 1, Sites),
        one(Amount, &[2, 2], 6, 1, Sites),
        one(Amount, &[4, 4, 4, 4], 3, 1, MildSites),
        one(Amount, &[3, 3], 4, 1, AlikeSites),
        one(Amount, &[4, 4], 1, 1, Deaths),
        one(Amount, &[8, 8], 1, 1, Deaths),
        one(Count, &[3, 3], 4, 1, Sites),
        one(Share, &[3, 3], 4, 1, Sites),
        one(Days, &[3, 3], 4, 1, Sites),
        one(Score, &[3, 3], 4, 1, Sites),
        one(Score, &[2, 2], 8, 1, Sites),
        one(Count, &[4, 4], 1, 1, Usual),
        one(Count, &[8, 8], 1, 1, Usual),
        one(Count, &[1, 1, 1], 5, 1, Usual),
        one(Count, &[3, 3, 3], 1, 1, Edge),
        one(Count, &[6, 6], 1, 1, Edge),
        one(Count, &[2, 2, 2, 2], 1, 1, Gone),
        one(Count, &[3, 3, 3, 3], 1, 1, Gone),
        one(Count, &[6, 6, 6, 6], 1, 1, Gone),
        one(Share, &[3, 3, 3, 3], 1, 1, Gone),
        one(Share, &[4, 4], 1, 1, Usual),
        one(Share, &[8, 8], 1, 1, Usual),
        one(Share, &[4, 4, 4], 1, 1, Usual),
        one(Share, &[3, 3, 3], 1, 1, Edge),
        one(Share, &[6, 6], 1, 1, Edge),
        one(Days, &[4, 4], 1, 1, Edge),
        one(Days, &[6, 6], 1, 1, Usual),
        one(Days, &[8, 8], 1, 1, Usual),
        one(Days, &[8, 8], 1, 1, Edge),
        one(Days, &[1, 1, 1, 1], 4, 1, Usual),
        one(Score, &[6, 6], 1, 1, Usual),
        one(Score, &[8, 8], 1, 1, Usual),
        one(Score, &[4, 4, 4, 4], 1, 1, Usual),
        one(Dose, &[3], 1, 1, Hump),
        one(Dose, &[4], 1, 1, Hump),
        one(Dose, &[4], 1, 1, SCurve),
        one(Dose, &[4], 1, 1, Hyperbola),
        one(Dose, &[4], 1, 1, Plateau),
        one(Dose, &[1], 4, 1, Hump),
        one(Dose, &[1], 4, 1, SCurve),
        one(Dose, &[1], 4, 1, Hyperbola),
        one(Dose, &[1], 4, 1, Plateau),
    ]);
    all
}

fn line(design: &Design, number: u64, seasons: u32) -> String {
    // Six curves refitted a thousand times a season.
    let seasons = if design.kind == Kind::Dose {
        seasons / 20
    } else {
        seasons
    };
    let null = run(design, seasons, 1000 + number);
    let per_cent = |v: f64| format!("{v:.1} %");
    let (found, foretold, usual) = match design.usual_test() {
        Some((truth, usual)) => {
            let with = Design {
                truth,
                ..design.clone()
            };
            let foretold = design.foretold(truth).map_or_else(|| "–".into(), per_cent);
            (
                per_cent(run(&with, seasons, 5000 + number).found),
                foretold,
                per_cent(usual),
            )
        }
        None => ("–".into(), "–".into(), "–".into()),
    };
    // Where a true difference is played from the start no claim of it is false.
    let claims = if design.law == Law::VerySkewed && design.truth > 1.0 {
        "–".into()
    } else {
        per_cent(null.claims)
    };
    format!(
        "| {} | {claims} | {} | {found} | {foretold} | {usual} |",
        design.name(),
        per_cent(null.held)
    )
}

/// A ladder of doses whose response rises evenly to what Dunnett's comparison of the top dose finds
/// 68 times in 100: how often the trend over deals of the whole ladder, as `judge::kinds::dose` has
/// it, does; and where no dose does anything.
fn ladder(doses: usize, each: usize, skewed: bool, seasons: u32) -> String {
    let plan = PowerPlan {
        treatments: doses,
        units: each,
        blocks: 1,
        covariates: 0,
        confidence: 0.95,
    };
    let effect = plan.smallest_detectable(0.68).unwrap_or(f64::NAN);
    let scores: Vec<f64> = (0..doses).map(|d| d as f64).collect();
    let sure = |top: f64, seed: u64| {
        let mut chance = seasons::Chance::of(seed);
        let mut found = 0u32;
        for _ in 0..seasons {
            let units: Vec<DealtUnit> = (0..doses * each)
                .map(|i| {
                    let treatment = i % doses;
                    let rise = top * treatment as f64 / (doses - 1) as f64;
                    let value = rise + chance.normal();
                    DealtUnit {
                        treatment,
                        block: 0,
                        value: if skewed { value.exp() } else { value },
                    }
                })
                .collect();
            let dealt = Deck::of(&units, doses).map(|deck| deck.trend(&scores, 1));
            found += u32::from(dealt.is_some_and(|d| d.shares[0].p < 0.05));
        }
        100.0 * f64::from(found) / f64::from(seasons)
    };
    let law = if skewed { ", lognormal (1)" } else { "" };
    format!(
        "| {doses} doses of {each}{law} | {:.1} % | {:.1} % | 68.0 % |",
        sure(0.0, 31),
        sure(effect, 32)
    )
}

fn main() {
    let mut args = std::env::args().skip(1);
    let seasons: u32 = args.next().and_then(|a| a.parse().ok()).unwrap_or(10_000);
    let only = args.next().unwrap_or_default();
    // The seed of a design does not hang on which others are asked for.
    let designs: Vec<(u64, Design)> = (0..)
        .zip(designs())
        .filter(|(_, d)| d.name().contains(&only))
        .collect();
    let (next, lines) = (
        AtomicUsize::new(0),
        Mutex::new(vec![String::new(); designs.len()]),
    );
    let workers = std::thread::available_parallelism().map_or(1, std::num::NonZero::get);
    std::thread::scope(|scope| {
        for _ in 0..workers {
            scope.spawn(|| {
                loop {
                    let at = next.fetch_add(1, Ordering::Relaxed);
                    let Some((number, design)) = designs.get(at) else {
                        break;
                    };
                    let told = line(design, *number, seasons);
                    eprintln!("{told}");
                    lines
                        .lock()
                        .expect("no worker panics while it holds the lines")[at] = told;
                }
            });
        }
    });
    println!(
        "| design | a verdict claims a difference where there is none | the deciding interval \
         holds the truth | a true difference is found | the plan foretold | by the usual test |"
    );
    println!("|---|---|---|---|---|---|");
    for line in lines.into_inner().unwrap_or_default() {
        println!("{line}");
    }
    if only.is_empty() || "ladder".contains(&only) {
        println!(
            "\n| ladder of doses | the top dose is claimed where none does anything | where it \
             does | Dunnett's test of it, normal |"
        );
        println!("|---|---|---|---|");
        for (doses, each, skewed) in [(4, 3, false), (4, 4, false), (5, 4, false), (4, 4, true)] {
            println!("{}", ladder(doses, each, skewed, seasons / 5));
        }
    }
}
