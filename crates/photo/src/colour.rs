//! Colour from a picture's pixels: sRGB to CIELAB under D65, hue, saturation and brightness, and
//! the dark green colour index.

/// A colour in CIELAB under D65: lightness 0 to 100, green to red, blue to yellow.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Lab {
    /// Lightness.
    pub l: f64,
    /// Green (below 0) to red.
    pub a: f64,
    /// Blue (below 0) to yellow.
    pub b: f64,
}

/// The white of D65 for the 2° observer, Y = 1.
const WHITE: [f64; 3] = [0.950_47, 1.0, 1.088_83];

/// A channel of sRGB, 0 to 255, as light, 0 to 1 (IEC 61966-2-1).
///
/// ```
/// use iron_twin_photo::colour::light;
/// assert_eq!((light(0.0), light(255.0)), (0.0, 1.0));
/// assert!((light(119.0) - 0.184).abs() < 0.001);
/// ```
#[must_use]
pub fn light(channel: f64) -> f64 {
    let c = channel / 255.0;
    if c <= 0.040_45 {
        c / 12.92
    } else {
        ((c + 0.055) / 1.055).powf(2.4)
    }
}

/// CIELAB of light in the three channels of sRGB (CIE 15).
#[must_use]
pub fn lab_of_light([r, g, b]: [f64; 3]) -> Lab {
    let xyz = [
        0.412_456_4 * r + 0.357_576_1 * g + 0.180_437_5 * b,
        0.212_672_9 * r + 0.715_152_2 * g + 0.072_175 * b,
        0.019_333_9 * r + 0.119_192 * g + 0.950_304_1 * b,
    ];
    // The cube root, but for the darkest, where it would be too steep: 6/29 and what follows from
    // it.
    let f = |t: f64| {
        if t > 216.0 / 24_389.0 {
            t.cbrt()
        } else {
            (24_389.0 / 27.0 * t + 16.0) / 116.0
        }
    };
    let [x, y, z] = [
        f(xyz[0] / WHITE[0]),
        f(xyz[1] / WHITE[1]),
        f(xyz[2] / WHITE[2]),
    ];
    Lab {
        l: 116.0 * y - 16.0,
        a: 500.0 * (x - y),
        b: 200.0 * (y - z),
    }
}

/// CIELAB of a pixel of sRGB.
#[must_use]
pub fn lab([r, g, b]: [u8; 3]) -> Lab {
    lab_of_light([light(r.into()), light(g.into()), light(b.into())])
}

impl Lab {
    /// Chroma: how far it is from grey.
    #[must_use]
    pub fn chroma(self) -> f64 {
        self.a.hypot(self.b)
    }

    /// Hue angle, degrees from 0 to 360: 0 red, 90 yellow, 180 green, 270 blue.
    #[must_use]
    pub fn hue(self) -> f64 {
        self.b.atan2(self.a).to_degrees().rem_euclid(360.0)
    }

    /// Saturation, 0 to 1: chroma against lightness, which a shadow hardly changes.
    #[must_use]
    pub fn saturation(self) -> f64 {
        let all = self.chroma().hypot(self.l);
        if all > 0.0 { self.chroma() / all } else { 0.0 }
    }
}

/// Dark green colour index, 0 to 1, of a mean colour of sRGB (Karcher and Richardson 2003, Crop
/// Science 43, 943): the mean of hue between yellow (60°) and green (120°), paleness and darkness.
/// A deeper green is nearer to 1.
///
/// ```
/// use iron_twin_photo::colour::dark_green;
/// // Hue 120°, saturation 1, brightness 0.5: (1 + 0 + 0.5) / 3.
/// assert!((dark_green([0.0, 127.5, 0.0]) - 0.5).abs() < 1e-12);
/// assert_eq!(dark_green([255.0, 255.0, 0.0]), 0.0);
/// ```
#[must_use]
pub fn dark_green([r, g, b]: [f64; 3]) -> f64 {
    let (most, least) = (r.max(g).max(b), r.min(g).min(b));
    if most <= 0.0 {
        return 0.0;
    }
    let spread = most - least;
    let hue = if spread == 0.0 {
        0.0
    } else if most == r {
        60.0 * ((g - b) / spread).rem_euclid(6.0)
    } else if most == g {
        60.0 * ((b - r) / spread + 2.0)
    } else {
        60.0 * ((r - g) / spread + 4.0)
    };
    let index = ((hue - 60.0) / 60.0 + (1.0 - spread / most) + (1.0 - most / 255.0)) / 3.0;
    index.clamp(0.0, 1.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// CIELAB of the corners of sRGB under D65, as published with the conversion's formulas (B.
    /// Lindbloom, CIE Color Calculator, and the CIE 15 formulas worked by hand; two decimals, from
    /// memory).
    #[test]
    fn the_corners_of_srgb_have_their_published_lab() {
        for (rgb, l, a, b) in [
            ([255, 0, 0], 53.24, 80.09, 67.20),
            ([0, 255, 0], 87.73, -86.18, 83.18),
            ([0, 0, 255], 32.30, 79.19, -107.86),
            ([255, 255, 0], 97.14, -21.55, 94.48),
            ([0, 255, 255], 91.11, -48.09, -14.13),
            ([255, 0, 255], 60.32, 98.23, -60.82),
            ([255, 255, 255], 100.0, 0.0, 0.0),
            ([0, 0, 0], 0.0, 0.0, 0.0),
            ([119, 119, 119], 50.03, 0.0, 0.0),
        ] {
            let own = lab(rgb);
            for (got, wanted) in [(own.l, l), (own.a, a), (own.b, b)] {
                assert!((got - wanted).abs() < 0.02, "{rgb:?}: {own:?}");
            }
        }
    }

    #[test]
    fn a_shadow_keeps_hue_and_nearly_the_saturation() {
        let leaf = [light(95.0), light(127.0), light(79.0)];
        let (bright, dark) = (lab_of_light(leaf), lab_of_light(leaf.map(|c| 0.35 * c)));
        assert!(
            (bright.hue() - dark.hue()).abs() < 1.0,
            "{bright:?} {dark:?}"
        );
        assert!(
            (bright.saturation() - dark.saturation()).abs() < 0.06,
            "{bright:?} {dark:?}"
        );
    }

    #[test]
    fn the_dark_green_index_lies_between_0_and_1_whatever_the_colour() {
        for n in 0..4096u32 {
            let channel = |shift: u32| f64::from((n >> shift) & 15) * 17.0;
            let index = dark_green([channel(0), channel(4), channel(8)]);
            assert!((0.0..=1.0).contains(&index), "{n}");
        }
        assert!(
            dark_green([30.0, 90.0, 40.0]) > dark_green([150.0, 190.0, 60.0]),
            "a deeper green is nearer to 1"
        );
    }
}
