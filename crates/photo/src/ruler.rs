//! Lengths in a picture, by a ruler that lies in it.

use super::picture::{Point, Ruler};

/// How far apart two points are in a picture of a size, pixels.
pub(super) fn pixels(ends: [Point; 2], (width, height): (usize, usize)) -> f64 {
    ((ends[1][0] - ends[0][0]) * width as f64).hypot((ends[1][1] - ends[0][1]) * height as f64)
}

impl Ruler {
    /// Millimetres a pixel, in a picture of a size.
    ///
    /// ```
    /// use iron_twin_photo::Ruler;
    /// let ruler = Ruler { ends: [[0.1, 0.5], [0.6, 0.5]], mm: 100.0 };
    /// assert_eq!(ruler.mm_a_pixel((400, 300)), 0.5);
    /// ```
    #[must_use]
    pub fn mm_a_pixel(&self, size: (usize, usize)) -> f64 {
        self.mm / pixels(self.ends, size)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::{Marked, PhotoError, Picture, measure};

    /// A leaf of 40 by 30 pixels on a white mat of 200 by 100, a ruler of 100 mm over half the
    /// width.
    fn drawn() -> Vec<u8> {
        let pixel = |n: usize| {
            let (x, y) = (n % 200, n / 200);
            if (60..100).contains(&x) && (20..50).contains(&y) {
                [70, 120, 50]
            } else {
                [240, 240, 238]
            }
        };
        (0..20_000).flat_map(pixel).collect()
    }

    #[test]
    fn a_ruler_tells_area_and_length() {
        let pixels = drawn();
        let picture = Picture {
            width: 200,
            height: 100,
            pixels: &pixels,
        };
        let ruler = Ruler {
            ends: [[0.25, 0.9], [0.75, 0.9]],
            mm: 100.0,
        };
        // Along the diagonal of the leaf: 40 by 30 pixels, each of one millimetre.
        let line = Some([[0.3, 0.2], [0.5, 0.5]]);
        let marked = Marked {
            ruler: Some(ruler),
            line,
            ..Marked::default()
        };
        let figures = measure(&picture, &marked).expect("figures").0;
        assert!(
            (figures.leaf_cm2.expect("an area") - 12.0).abs() < 0.2,
            "{figures:?}"
        );
        assert!((figures.line_mm.expect("a length") - 50.0).abs() < 1e-9);
        let without = measure(&picture, &Marked::default()).expect("figures").0;
        assert_eq!((without.leaf_cm2, without.line_mm), (None, None));
    }

    #[test]
    fn what_is_no_ruler_is_refused() {
        let pixels = drawn();
        let picture = Picture {
            width: 200,
            height: 100,
            pixels: &pixels,
        };
        let said = |ruler: Option<Ruler>, line| {
            measure(
                &picture,
                &Marked {
                    ruler,
                    line,
                    ..Marked::default()
                },
            )
            .err()
        };
        let good = Ruler {
            ends: [[0.1, 0.1], [0.9, 0.1]],
            mm: 150.0,
        };
        assert_eq!(said(Some(good), None), None);
        for wrong in [
            Ruler { mm: 0.0, ..good },
            Ruler {
                mm: f64::NAN,
                ..good
            },
            Ruler {
                ends: [[0.5, 0.5], [0.505, 0.5]],
                ..good
            },
            Ruler {
                ends: [[0.1, 0.1], [1.2, 0.1]],
                ..good
            },
        ] {
            assert_eq!(
                said(Some(wrong), None),
                Some(PhotoError::Ruler),
                "{wrong:?}"
            );
        }
        assert_eq!(
            said(None, Some([[0.1, 0.1], [0.5, 0.5]])),
            Some(PhotoError::Ruler),
            "a line wants a ruler"
        );
    }
}
