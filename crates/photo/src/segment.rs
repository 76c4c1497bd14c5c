//! Which pixels are leaf, and of which colour.

use super::colour::{Lab, lab_of_light, light};
use super::picture::{Corners, Marked, PhotoError, Picture, Point};

/// What a pixel shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Kind {
    /// Outside of the tray.
    Outside,
    /// Mat, water, tray, sky in the water.
    Ground,
    /// Brown: bare soil, hulls, dead stems and leaves.
    Brown,
    /// Green leaf.
    Green,
    /// Yellow leaf.
    Yellow,
    /// Red leaf.
    Red,
}

impl Kind {
    /// Whether it is living leaf.
    #[must_use]
    pub fn is_leaf(self) -> bool {
        matches!(self, Self::Green | Self::Yellow | Self::Red)
    }
}

/// What each pixel shows, at the resolution at which it was looked at.
#[derive(Debug, Clone, PartialEq)]
pub struct Mask {
    /// Pixels in a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// One a pixel, rows from the top.
    pub kinds: Vec<Kind>,
    /// Colours as light in the three channels of sRGB, the card's colour taken out.
    pub(super) lights: Vec<[f32; 3]>,
}

/// Longest side at which a picture is looked at: cover is then known far better than corners are
/// marked.
const MOST_SIDE: usize = 1600;
/// A card is read in a square of this share of the picture's shorter side.
const CARD_SHARE: f64 = 0.02;
/// Spots of light on a leaf are no larger than this share of the tray.
const MOST_SPOT_SHARE: f64 = 0.0004;

/// Chroma below which a pixel is as good as grey.
const LEAST_CHROMA: f64 = 11.0;

/// Leaf among nine pixels, itself with them, below which it is a speck.
const LEAST_AROUND: usize = 4;

/// Hues and saturations at which a pixel counts as leaf. Chosen on drawn pictures, see
/// `docs/photos.md`; no published source.
fn kind_of(own: Lab, readiness: f64) -> Kind {
    // In the dark the noise of a sensor makes colours of its own.
    if own.l < 3.0 || own.chroma() < LEAST_CHROMA {
        return Kind::Ground;
    }
    let (hue, saturation) = (own.hue(), own.saturation());
    // At the usual readiness of a half: 0.20 for green, which neither mats nor shadows reach.
    let least = 0.34 - 0.28 * readiness;
    match hue {
        h if (103.0..178.0).contains(&h) && saturation > least => Kind::Green,
        h if (86.0..103.0).contains(&h) && saturation > least + 0.25 => Kind::Yellow,
        h if !(38.0..335.0).contains(&h) && saturation > least + 0.20 => Kind::Red,
        h if (38.0..86.0).contains(&h) && saturation > 0.25 && own.l < 55.0 => Kind::Brown,
        _ => Kind::Ground,
    }
}

/// Whether a point lies between the corners.
fn is_inside(corners: &Corners, [x, y]: Point) -> bool {
    let side = |i: usize| {
        let (a, b) = (corners[i], corners[(i + 1) % 4]);
        (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0])
    };
    let sides = [0, 1, 2, 3].map(side);
    sides.iter().all(|s| *s >= 0.0) || sides.iter().all(|s| *s <= 0.0)
}

/// By how much each channel is multiplied so that the card is grey.
fn gains(picture: &Picture<'_>, card: Option<Point>) -> Result<[f64; 3], PhotoError> {
    let Some([cx, cy]) = card else {
        return Ok([1.0; 3]);
    };
    let half = (0.5 * CARD_SHARE * picture.width.min(picture.height) as f64).max(1.0) as usize;
    let span = |c: f64, side: usize| {
        let at = ((c * side as f64) as usize).min(side - 1);
        at.saturating_sub(half)..(at + half + 1).min(side)
    };
    let (mut sums, mut count) = ([0.0; 3], 0.0);
    for y in span(cy, picture.height) {
        for x in span(cx, picture.width) {
            let pixel = picture.at(x, y);
            sums.iter_mut()
                .zip(pixel)
                .for_each(|(sum, c)| *sum += light(c.into()));
            count += 1.0;
        }
    }
    let means = sums.map(|sum| sum / count);
    let grey = (means[0] + means[1] + means[2]) / 3.0;
    if means.iter().any(|m| *m < 0.01) || means.iter().all(|m| *m > 0.99) {
        return Err(PhotoError::Card);
    }
    Ok(means.map(|m| grey / m))
}

/// Light of each of the 256 values of a channel.
fn lights() -> [f64; 256] {
    std::array::from_fn(|value| light(value as f64))
}

/// Looks at every pixel of a picture, or at every second, third, ... of a large one.
///
/// # Errors
/// [`PhotoError`].
pub fn segment(picture: &Picture<'_>, marked: &Marked) -> Result<Mask, PhotoError> {
    let (full_width, full_height) = (picture.width, picture.height);
    picture.check()?;
    marked.check()?;
    let gains = gains(picture, marked.card)?;
    let step = full_width.max(full_height).div_ceil(MOST_SIDE);
    let (width, height) = (full_width.div_ceil(step), full_height.div_ceil(step));
    let table = lights();
    let mut kinds = Vec::with_capacity(width * height);
    let mut seen = Vec::with_capacity(width * height);
    for y in 0..height {
        for x in 0..width {
            let (px, py) = (
                (x * step).min(full_width - 1),
                (y * step).min(full_height - 1),
            );
            let at = [
                (px as f64 + 0.5) / full_width as f64,
                (py as f64 + 0.5) / full_height as f64,
            ];
            if !is_inside(&marked.corners, at) {
                kinds.push(Kind::Outside);
                seen.push([0.0; 3]);
                continue;
            }
            let pixel = picture.at(px, py);
            let lit: [f64; 3] =
                std::array::from_fn(|c| (gains[c] * table[pixel[c] as usize]).min(1.0));
            kinds.push(kind_of(lab_of_light(lit), marked.readiness));
            seen.push(lit.map(|c| c as f32));
        }
    }
    let mut mask = Mask {
        width,
        height,
        kinds,
        lights: seen,
    };
    mask.take_out_specks();
    mask.fill_spots();
    Ok(mask)
}

impl Mask {
    /// What a pixel shows.
    #[must_use]
    pub fn at(&self, x: usize, y: usize) -> Kind {
        self.kinds[y * self.width + x]
    }

    /// Takes leaf of which hardly anything around is leaf for what it is: noise, above all in the
    /// dark.
    fn take_out_specks(&mut self) {
        let mask = &*self;
        let around = |x: usize, y: usize| {
            let columns = x.saturating_sub(1)..(x + 2).min(mask.width);
            let rows = y.saturating_sub(1)..(y + 2).min(mask.height);
            rows.flat_map(|y| columns.clone().map(move |x| (x, y)))
                .filter(|&(x, y)| mask.at(x, y).is_leaf())
                .count()
        };
        let mut specks = Vec::new();
        for y in 0..self.height {
            for x in 0..self.width {
                // It counts itself.
                if self.at(x, y).is_leaf() && around(x, y) < LEAST_AROUND {
                    specks.push(y * self.width + x);
                }
            }
        }
        specks
            .into_iter()
            .for_each(|i| self.kinds[i] = Kind::Ground);
    }

    /// Takes small bright spots that lie wholly within leaf for what they are: light on a leaf.
    fn fill_spots(&mut self) {
        let tray = self.kinds.iter().filter(|k| **k != Kind::Outside).count();
        let most = (MOST_SPOT_SHARE * tray as f64) as usize;
        let mut visited = vec![false; self.kinds.len()];
        let mut spot = Vec::new();
        for start in 0..self.kinds.len() {
            if visited[start] || self.kinds[start] != Kind::Ground {
                continue;
            }
            spot.clear();
            let enclosed = self.flood(start, most, &mut visited, &mut spot);
            if enclosed && spot.len() <= most {
                spot.iter().for_each(|&i| self.kinds[i] = Kind::Green);
            }
        }
    }

    /// Ground that hangs together with a pixel; whether nothing but leaf lies around it. Stops
    /// collecting beyond `most`, and walks on so that the whole of it is visited.
    fn flood(
        &self,
        start: usize,
        most: usize,
        visited: &mut [bool],
        spot: &mut Vec<usize>,
    ) -> bool {
        let mut enclosed = true;
        let mut open = vec![start];
        visited[start] = true;
        while let Some(i) = open.pop() {
            if spot.len() <= most {
                spot.push(i);
            }
            let (x, y) = (i % self.width, i / self.width);
            let beside = [
                (x > 0).then(|| i - 1),
                (x + 1 < self.width).then(|| i + 1),
                (y > 0).then(|| i - self.width),
                (y + 1 < self.height).then(|| i + self.width),
            ];
            for next in beside {
                match next.map(|n| (n, self.kinds[n])) {
                    Some((n, Kind::Ground)) => {
                        if !visited[n] {
                            visited[n] = true;
                            open.push(n);
                        }
                    }
                    Some((_, kind)) => enclosed &= kind.is_leaf(),
                    None => enclosed = false,
                }
            }
        }
        enclosed
    }
}
