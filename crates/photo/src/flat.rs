//! A tray taken out of its picture and laid flat, as if seen from straight above: so that two
//! pictures stand at one scale.

use super::picture::{Corners, Marked, PhotoError, Picture, Point};

/// How a point of the flat tray is found in the picture: the projection of the unit square onto
/// four corners (Heckbert 1989, Fundamentals of texture mapping and image warping, section 2.2.3;
/// from memory).
struct Projection {
    x: [f64; 3],
    y: [f64; 3],
    depth: [f64; 2],
}

impl Projection {
    fn of(corners: &Corners) -> Self {
        let [p0, p1, p2, p3] = corners;
        let sum = |i: usize| p0[i] - p1[i] + p2[i] - p3[i];
        let (one, two) = (|i: usize| p1[i] - p2[i], |i: usize| p3[i] - p2[i]);
        let whole = one(0) * two(1) - two(0) * one(1);
        let g = (sum(0) * two(1) - two(0) * sum(1)) / whole;
        let h = (one(0) * sum(1) - sum(0) * one(1)) / whole;
        let row = |i: usize| [p1[i] - p0[i] + g * p1[i], p3[i] - p0[i] + h * p3[i], p0[i]];
        Self {
            x: row(0),
            y: row(1),
            depth: [g, h],
        }
    }

    fn at(&self, [u, v]: Point) -> Point {
        let depth = self.depth[0] * u + self.depth[1] * v + 1.0;
        [self.x, self.y].map(|row| (row[0] * u + row[1] * v + row[2]) / depth)
    }
}

/// The mean length of opposite sides of a tray in its picture, across by down, pixels: what its
/// sides are to one another.
fn sides(picture: (usize, usize), corners: &Corners) -> [f64; 2] {
    let side = |a: usize, b: usize| {
        let by = [0, 1].map(|i| corners[b][i] - corners[a][i]);
        (by[0] * picture.0 as f64).hypot(by[1] * picture.1 as f64)
    };
    [
        0.5 * (side(0, 1) + side(3, 2)),
        0.5 * (side(1, 2) + side(0, 3)),
    ]
}

/// Fewest and most rows of a flat tray, for a width of one: what lies beyond is marked wrongly.
const ROWS: (f64, f64) = (0.1, 10.0);

/// The tray between the marked corners, laid flat and so many pixels wide: its rows and three bytes
/// of sRGB a pixel, each mixed from the four that lie around its place.
///
/// ```
/// use iron_twin_photo::{Marked, Picture, flat};
/// let pixels: Vec<u8> = (0..48).collect();
/// let picture = Picture { width: 4, height: 4, pixels: &pixels };
/// assert_eq!(flat(&picture, &Marked::default(), 4)?, (4, pixels.clone()));
/// # Ok::<(), iron_twin_photo::PhotoError>(())
/// ```
///
/// # Errors
/// [`PhotoError`] for corners that cannot be, or a picture of another size.
pub fn flat(
    picture: &Picture<'_>,
    marked: &Marked,
    width: usize,
) -> Result<(usize, Vec<u8>), PhotoError> {
    picture.check()?;
    marked.check()?;
    let [across, down] = sides((picture.width, picture.height), &marked.corners);
    let height = ((down / across).clamp(ROWS.0, ROWS.1) * width as f64)
        .round()
        .max(1.0) as usize;
    let projection = Projection::of(&marked.corners);
    let mut pixels = Vec::with_capacity(3 * width * height);
    for row in 0..height {
        for column in 0..width {
            let share = [
                (column as f64 + 0.5) / width as f64,
                (row as f64 + 0.5) / height as f64,
            ];
            let [x, y] = projection.at(share);
            pixels.extend(mixed(
                picture,
                x * picture.width as f64 - 0.5,
                y * picture.height as f64 - 0.5,
            ));
        }
    }
    Ok((height, pixels))
}

/// The colour at a place between pixels.
fn mixed(picture: &Picture<'_>, x: f64, y: f64) -> [u8; 3] {
    let inside = |at: f64, most: usize| at.clamp(0.0, most as f64 - 1.0);
    let (x, y) = (inside(x, picture.width), inside(y, picture.height));
    let (left, top) = (x.floor() as usize, y.floor() as usize);
    let (right, bottom) = (
        (left + 1).min(picture.width - 1),
        (top + 1).min(picture.height - 1),
    );
    let (along, below) = (x - left as f64, y - top as f64);
    let around =
        [(left, top), (right, top), (left, bottom), (right, bottom)].map(|(x, y)| picture.at(x, y));
    let weights = [
        (1.0 - along) * (1.0 - below),
        along * (1.0 - below),
        (1.0 - along) * below,
        along * below,
    ];
    [0, 1, 2].map(|channel| {
        let sum: f64 = around
            .iter()
            .zip(weights)
            .map(|(pixel, weight)| weight * f64::from(pixel[channel]))
            .sum();
        sum.round() as u8
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::WHOLE;
    use proptest::prelude::*;

    fn quad() -> impl Strategy<Value = Corners> {
        let near = |x: f64, y: f64| (x..x + 0.25, y..y + 0.25).prop_map(|(x, y)| [x, y]);
        [
            near(0.0, 0.0),
            near(0.7, 0.0),
            near(0.7, 0.7),
            near(0.0, 0.7),
        ]
    }

    proptest! {
        /// Corners come to corners, straight lines stay straight, and the middle of the tray is
        /// where its diagonals cross, which is what tells a projection from a mere stretching.
        #[test]
        fn it_is_a_projection(corners in quad(), u in 0.0..1.0_f64, v in 0.0..1.0_f64, w in 0.0..1.0_f64) {
            let projection = Projection::of(&corners);
            for (corner, share) in corners.iter().zip(WHOLE) {
                let at = projection.at(share);
                prop_assert!((0..2).all(|i| (at[i] - corner[i]).abs() < 1e-9), "{at:?} {corner:?}");
            }
            let turn = |[a, b, c]: [Point; 3]| (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);
            let on_a_line = [[u, v], [1.0 - u, w], [0.5, 0.5 * (v + w)]].map(|p| projection.at(p));
            prop_assert!(turn(on_a_line).abs() < 1e-9);
            let middle = projection.at([0.5, 0.5]);
            prop_assert!(turn([corners[0], middle, corners[2]]).abs() < 1e-9);
            prop_assert!(turn([corners[1], middle, corners[3]]).abs() < 1e-9);
        }
    }

    /// A chessboard of four by four drawn at a slant comes out straight.
    #[test]
    fn a_slanting_board_is_laid_flat() {
        let corners: Corners = [[0.3, 0.1], [0.8, 0.2], [0.95, 0.9], [0.1, 0.75]];
        let (width, height) = (240, 200);
        let projection = Projection::of(&corners);
        // The board is drawn field by field from many points of each, so that nothing of what is
        // tried out draws it.
        let mut pixels = vec![128u8; 3 * width * height];
        for n in 0..1600 * 1600 {
            let share = [
                (f64::from(n % 1600) + 0.5) / 1600.0,
                (f64::from(n / 1600) + 0.5) / 1600.0,
            ];
            let [x, y] = projection.at(share);
            let light = if (share[0] * 4.0) as u32 % 2 == (share[1] * 4.0) as u32 % 2 {
                250
            } else {
                10
            };
            let at = 3 * ((y * height as f64) as usize * width + (x * width as f64) as usize);
            pixels[at..at + 3].fill(light);
        }
        let marked = Marked {
            corners,
            ..Marked::default()
        };
        let (rows, out) = flat(
            &Picture {
                width,
                height,
                pixels: &pixels,
            },
            &marked,
            80,
        )
        .expect("flat");
        assert_eq!(out.len(), 3 * 80 * rows);
        for (row, column) in (0..4).flat_map(|row| (0..4).map(move |column| (row, column))) {
            let at = 3 * ((2 * row + 1) * rows / 8 * 80 + (2 * column + 1) * 10);
            assert_eq!(
                out[at] > 200,
                row % 2 == column % 2,
                "field {row} {column}: {}",
                out[at]
            );
        }
    }
}
