//! How long a photo of 12 million pixels takes from the bytes of the phone to its figures; beside
//! it how long it takes only to open it, so that a ratio can be read off whatever the machine.

use image::{ExtendedColorType, ImageEncoder};
use iron_twin_core::practice::picture::{Drawing, draw};
use iron_twin_photo::{Marked, Picture, measure};
use std::time::Instant;

const SIDES: (usize, usize) = (4000, 3000);
const TIMES: usize = 7;

/// The middle of several, milliseconds.
fn median(mut all: Vec<f64>) -> f64 {
    all.sort_by(f64::total_cmp);
    all[all.len() / 2]
}

fn main() {
    let (width, height) = SIDES;
    let drawn = draw(&Drawing {
        width,
        height,
        leaves: 420,
        ..Drawing::default()
    });
    let mut bytes = Vec::new();
    let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, 92);
    encoder
        .write_image(
            &drawn.pixels,
            width as u32,
            height as u32,
            ExtendedColorType::Rgb8,
        )
        .unwrap_or_else(|e| panic!("a JPEG: {e}"));
    let (mut opening, mut whole, mut cover) = (Vec::new(), Vec::new(), 0.0);
    for _ in 0..TIMES {
        let started = Instant::now();
        let opened = image::load_from_memory(&bytes)
            .unwrap_or_else(|e| panic!("opened: {e}"))
            .into_rgb8();
        opening.push(started.elapsed().as_secs_f64() * 1e3);
        let picture = Picture {
            width,
            height,
            pixels: opened.as_raw(),
        };
        let marked = Marked {
            corners: drawn.corners,
            ..Marked::default()
        };
        let (figures, _) = measure(&picture, &marked).unwrap_or_else(|e| panic!("measured: {e}"));
        whole.push(started.elapsed().as_secs_f64() * 1e3);
        cover = figures.cover_percent;
    }
    let (opening, whole) = (median(opening), median(whole));
    println!(
        "| JPEG, {:.1} MB | opened {opening:.0} ms | measured {whole:.0} ms in all | {:.2} times \
         the opening |",
        bytes.len() as f64 / 1e6,
        whole / opening
    );
    println!("cover {cover:.2} %, true {:.2} %", drawn.cover_percent);
}
