//! Pictures of the demo's trays, drawn from what the simulated grow room says of them.

use iron_twin_core::practice::picture::{Drawing, draw};
use iron_twin_core::tend::photo::{Marked, measure};
use iron_twin_store::photo::{NewPhoto, View};
use iron_twin_store::{Result, Stamp, Store, StoreError};

/// Sides of a drawn picture, pixels: small, for the demo is made anew at every start.
const SIDES: (usize, usize) = (320, 240);
/// Leaves that are strewn for a mm of height.
const LEAVES_A_MM: f64 = 26.0;

/// Draws a tray of this height, keeps the picture, and measures it.
pub(crate) fn photograph(
    store: &Store,
    stamp: &Stamp,
    id: &str,
    (code, day, height_mm): (&str, u32, f64),
    seed: u64,
) -> Result<()> {
    let (width, height) = SIDES;
    let leaves = (LEAVES_A_MM * height_mm) as usize;
    let drawn = draw(&Drawing { width, height, leaves, seed, ..Drawing::default() });
    let mut bytes = Vec::new();
    let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, 88);
    let colours = image::ExtendedColorType::Rgb8;
    image::ImageEncoder::write_image(encoder, &drawn.pixels, width as u32, height as u32, colours)
        .map_err(|e| undrawn(&e))?;
    let new = NewPhoto {
        code: code.to_owned(),
        view: View::Top,
        day,
        at: Some(stamp.now),
        media: "image/jpeg",
        width: width as u32,
        height: height as u32,
        orientation: 1,
        bytes,
    };
    let photo = store.add_photo(stamp, id, &new)?;
    let marked = Marked { corners: drawn.corners, ..Marked::default() };
    let (figures, _) = measure(&drawn.picture(), &marked).map_err(|e| undrawn(&e))?;
    store.mark_photo(stamp, id, &photo, (&marked, &figures), 1).map(|_| ())
}

/// A picture that could not be drawn: the demo says so, and has none.
fn undrawn(error: &dyn std::fmt::Display) -> StoreError {
    StoreError::Refused { field: "photo", message: error.to_string() }
}
