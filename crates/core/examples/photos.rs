//! How far the measuring of drawn pictures is right, as the table of `docs/photos.md`.

use iron_twin_core::practice::picture::{Drawing, Setting, draw};
use iron_twin_photo::{Marked, measure};

/// Pictures of each setting.
const PICTURES: u64 = 60;

fn main() {
    println!(
        "| picture | mean error of cover, points | largest | error of the share of yellow, points \
         | of red |"
    );
    println!("|---|---|---|---|---|");
    for setting in Setting::ALL {
        let (mut sum, mut largest, mut yellow, mut red) = (0.0, 0.0f64, 0.0f64, 0.0f64);
        for seed in 0..PICTURES {
            // From nearly bare to nearly closed, in a third of them with yellow and red leaves.
            let mixed = if seed % 3 == 0 { 0.2 } else { 0.0 };
            let leaves = 10 + (seed * 15) as usize;
            let drawing = Drawing {
                setting,
                leaves,
                yellow: mixed,
                red: mixed,
                seed,
                width: 800,
                height: 600,
                ..Drawing::default()
            };
            let drawn = draw(&drawing);
            let marked = Marked {
                corners: drawn.corners,
                card: drawn.card,
                ..Marked::default()
            };
            let Ok((figures, _)) = measure(&drawn.picture(), &marked) else {
                continue;
            };
            let error = figures.cover_percent - drawn.cover_percent;
            sum += error;
            largest = if error.abs() > largest.abs() {
                error
            } else {
                largest
            };
            let apart = |got: Option<f64>, truth: f64| got.map_or(0.0, |got| (got - truth).abs());
            yellow = yellow.max(apart(figures.yellow_percent, drawn.yellow_percent));
            red = red.max(apart(figures.red_percent, drawn.red_percent));
        }
        println!(
            "| {} | {:+.2} | {largest:+.2} | {yellow:.1} | {red:.1} |",
            setting.words(),
            sum / PICTURES as f64
        );
    }
}
