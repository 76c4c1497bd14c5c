//! Whether the chance that a plan foretells is that of the verdict: thirty plans, each played in
//! fresh seasons. `cargo xtask foretold` writes the table into docs/foretold.md.

#[allow(dead_code, reason = "calibrate uses the rest")]
mod seasons;

use iron_twin_core::ask::foresight::{PlannedTrial, Spread};
use iron_twin_core::ask::picture::Layout;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use seasons::{Design, Law, run};

/// A plan: treatments, units of each in a block, blocks, whether blocks are places, and the chance
/// of the usual test.
struct Plan {
    each: Vec<usize>,
    blocks: usize,
    law: Law,
    usual: f64,
}

/// Standard deviation of units in the seasons, g.
const SD: f64 = 4.0;

fn plans() -> Vec<Plan> {
    let plan = |treatments: usize, each: usize, blocks: usize, usual: f64| Plan {
        each: vec![each; treatments],
        blocks,
        law: Law::Usual,
        usual,
    };
    let mut all = vec![
        plan(2, 2, 1, 0.8),
        plan(2, 3, 1, 0.6),
        plan(2, 4, 1, 0.5),
        plan(2, 4, 1, 0.9),
        plan(2, 5, 1, 0.7),
        plan(2, 7, 1, 0.8),
        plan(2, 9, 1, 0.5),
        plan(2, 12, 1, 0.9),
        plan(2, 1, 4, 0.7),
        plan(2, 1, 6, 0.8),
        plan(2, 1, 7, 0.6),
        plan(2, 1, 9, 0.8),
        plan(2, 2, 3, 0.8),
        plan(2, 3, 3, 0.7),
        plan(2, 4, 2, 0.9),
        plan(3, 3, 1, 0.8),
        plan(3, 4, 1, 0.9),
        plan(3, 7, 1, 0.7),
        plan(3, 1, 4, 0.8),
        plan(3, 1, 6, 0.6),
        plan(3, 1, 9, 0.9),
        plan(3, 2, 3, 0.8),
        plan(4, 4, 1, 0.8),
        plan(4, 6, 1, 0.5),
        plan(4, 1, 4, 0.9),
        plan(4, 1, 6, 0.8),
        plan(4, 1, 8, 0.7),
        plan(4, 2, 3, 0.8),
        plan(5, 5, 1, 0.8),
        plan(5, 1, 6, 0.8),
    ];
    // Effects are alike everywhere, but held against what places differ in.
    all.push(Plan {
        law: Law::AlikeSites,
        ..plan(2, 3, 4, 0.8)
    });
    all.push(Plan {
        law: Law::AlikeSites,
        ..plan(3, 2, 4, 0.8)
    });
    all
}

fn amount(plan: &Plan, seasons: u32, seed: u64) -> Option<(String, f64, f64)> {
    let places = plan.law == Law::AlikeSites;
    let layout = Layout {
        treatments: plan.each.len(),
        per_block: if plan.blocks > 1 { plan.each[0] } else { 0 },
        covariates: 0,
        in_turn: false,
        places,
    };
    let units = plan.each[0] * plan.blocks;
    let effect = layout.plan(units).smallest_detectable(plan.usual).ok()? / layout.effect();
    let foretold = 100.0 * layout.chance(units, Goal::Beat, effect).ok()?;
    let design = Design::new(Kind::Amount, &plan.each, plan.blocks, 1, plan.law);
    let found = run(
        &Design {
            truth: SD * effect,
            ..design.clone()
        },
        seasons,
        seed,
    )
    .found;
    Some((
        format!("{}, {:.2} standard deviations apart", design.name(), effect),
        foretold,
        found,
    ))
}

/// Counts, shares and days, whose spread in the seasons is known only nearly: what they scatter by
/// is written out here.
fn other(
    kind: Kind,
    units: usize,
    truth: f64,
    spread: Spread,
    margin: Margin,
    seasons: u32,
) -> Option<(String, f64, f64)> {
    let trial = PlannedTrial {
        treatments: 2,
        units,
        blocks: 1,
        confidence: 0.95,
        power: 0.8,
        margin,
        goal: Goal::Beat,
        spread,
    };
    let foretold = 100.0 * trial.foresee().ok()?.verdict.power;
    let design = Design {
        truth,
        ..Design::new(kind, &[units, units], 1, 1, Law::Usual)
    };
    Some((
        format!("{}, {margin} apart", design.name()),
        foretold,
        run(&design, seasons, 77).found,
    ))
}

fn main() {
    let mut args = std::env::args().skip(1);
    let seasons: u32 = args.next().and_then(|a| a.parse().ok()).unwrap_or(6000);
    let rows: Vec<(String, f64, f64)> = std::thread::scope(|scope| {
        let (all, half) = (plans(), plans().len() / 2);
        let all = &*Box::leak(Box::new(all));
        let play = move |from: usize, to: usize| -> Vec<(String, f64, f64)> {
            (from..to)
                .filter_map(|i| amount(&all[i], seasons, 9000 + i as u64))
                .collect()
        };
        let first = scope.spawn(move || play(0, half));
        let second = play(half, all.len());
        first
            .join()
            .unwrap_or_default()
            .into_iter()
            .chain(second)
            .collect()
    });
    // 30 a unit with a rate that differs by 18 % between units: 30 + 29 of variance. 20 of 40 with
    // a share that differs by 5 points: 1 + 39 x 0.0025 / 0.25. Days of 14 with a deviation of 2,
    // rounded.
    let counts = |units, by: f64| {
        other(
            Kind::Count,
            units,
            1.0 + by,
            Spread::Count {
                mean: 30.0,
                dispersion: 1.97,
            },
            Margin::Percent(100.0 * by),
            seasons,
        )
    };
    let shares = |units, points: f64| {
        let spread = Spread::Share {
            share: 0.5,
            out_of: 40.0,
            dispersion: 1.39,
        };
        other(
            Kind::Share,
            units,
            points,
            spread,
            Margin::Absolute(points),
            seasons,
        )
    };
    let others = [
        counts(4, 0.5),
        counts(8, 0.3),
        shares(4, 20.0),
        shares(8, 15.0),
    ];
    println!("| plan | the plan foretold | a verdict was found | apart by |");
    println!("|---|---|---|---|");
    let mut widest = 0.0f64;
    for (name, foretold, found) in rows.into_iter().chain(others.into_iter().flatten()) {
        widest = widest.max((found - foretold).abs());
        println!(
            "| {name} | {foretold:.1} % | {found:.1} % | {:+.1} |",
            found - foretold
        );
    }
    println!("\nThe widest gap is {widest:.1} points.");
}
