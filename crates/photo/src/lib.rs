//! A tray measured in its picture: canopy cover, how green, how much of it yellow, red or brown,
//! how even.
//!
//! Works on pixels alone. The tray is the four-sided area between corners that somebody marked; a
//! grey card in the picture, where one was marked, takes the colour of the light out. A pixel
//! counts as leaf by hue and saturation, which a shadow hardly changes, and not by brightness. How
//! far that is right for white mats, shadows, brown stems and reflections stands in
//! `docs/photos.md`, measured on drawn pictures of which the truth is known.

pub mod colour;
mod figures;
mod flat;
mod picture;
mod ruler;
mod segment;

pub use figures::{Figures, measure};
pub use flat::flat;
pub use picture::{Corners, Marked, PhotoError, Picture, Point, Ruler, WHOLE};
pub use segment::{Kind, Mask, segment};
