//! Pictures of the demo's trays, drawn from what the simulated grow room says of them.

use iron_twin_core::practice::picture::{Drawing, draw};
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::photo::View;
use iron_twin_photo::{Marked, measure};
use iron_twin_store::photo::{NewMarks, NewPhoto};
use iron_twin_store::{Result, Stamp, Store, StoreError};
use iron_twin_terms::role::Role;

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
    let drawn = draw(&Drawing {
        width,
        height,
        leaves,
        seed,
        ..Drawing::default()
    });
    let mut bytes = Vec::new();
    let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut bytes, 88);
    let colours = image::ExtendedColorType::Rgb8;
    image::ImageEncoder::write_image(encoder, &drawn.pixels, width as u32, height as u32, colours)
        .map_err(|e| undrawn(&e))?;
    let new = NewPhoto {
        view: View::Top,
        media: "image/jpeg",
        width: width as u32,
        height: height as u32,
        orientation: 1,
        bytes,
    };
    let head = HeadSent {
        unit: Some(code.to_owned()),
        day: Some(day),
        ..HeadSent::default()
    };
    let photo = store.add_photo(stamp, Role::Owner, id, head, &new)?.id;
    let marked = Marked {
        corners: drawn.corners,
        ..Marked::default()
    };
    let (figures, _) = measure(&drawn.picture(), &marked).map_err(|e| undrawn(&e))?;
    let marks = NewMarks {
        photo,
        marked,
        figures,
        version: 0,
    };
    store.mark_photo(stamp, Role::Owner, id, &marks).map(drop)
}

/// A picture that could not be drawn: the demo says so, and has none.
fn undrawn(error: &dyn std::fmt::Display) -> StoreError {
    StoreError::Refused {
        field: "photo",
        message: error.to_string(),
    }
}
