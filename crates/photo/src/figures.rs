//! The figures of a tray in its picture.

use super::colour::{Lab, dark_green, lab_of_light};
use super::picture::{Corners, Marked, PhotoError, Picture};
use super::ruler::pixels;
use super::segment::{Kind, Mask, segment};
use serde::{Deserialize, Serialize};

/// What a picture says of a tray.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Figures {
    /// Share of the tray that is leaf, per cent.
    pub cover_percent: f64,
    /// Share of the leaf that is yellow, per cent; null without leaf.
    pub yellow_percent: Option<f64>,
    /// Share of the leaf that is red, per cent; null without leaf.
    pub red_percent: Option<f64>,
    /// Share of the tray that is brown, per cent: soil, hulls, what has died.
    pub brown_percent: f64,
    /// Dark green colour index of the mean colour of the leaf, 0 to 1; null without leaf.
    pub dark_green: Option<f64>,
    /// Mean lightness of the leaf, CIELAB; null without leaf.
    pub lightness: Option<f64>,
    /// Mean green to red of the leaf, CIELAB; null without leaf.
    pub green_red: Option<f64>,
    /// Mean blue to yellow of the leaf, CIELAB; null without leaf.
    pub blue_yellow: Option<f64>,
    /// How evenly the leaf is spread over 25 fields of the tray, per cent: 100 where all are
    /// covered alike, 0 where each is either full or bare. Null where nothing or everything is
    /// covered.
    pub evenness_percent: Option<f64>,
    /// Area of the leaf as the ruler tells it, cm²; null without one.
    #[serde(default)]
    pub leaf_cm2: Option<f64>,
    /// Length of the line as the ruler tells it, mm; null without both.
    #[serde(default)]
    pub line_mm: Option<f64>,
}

/// Fields along a side, over which evenness is judged.
const FIELDS: usize = 5;

/// Light as a channel of sRGB, 0 to 255 (IEC 61966-2-1).
fn channel(light: f64) -> f64 {
    255.0
        * if light <= 0.003_130_8 {
            12.92 * light
        } else {
            1.055 * light.powf(1.0 / 2.4) - 0.055
        }
}

/// Measures a tray in its picture; the mask shows what was taken for what.
///
/// ```
/// use iron_twin_photo::{Marked, Picture, measure};
/// // Half leaf, half white mat.
/// let mut pixels = [[70u8, 120, 50]; 50].concat();
/// pixels.extend([[240u8, 240, 238]; 50].concat());
/// let picture = Picture { width: 10, height: 10, pixels: &pixels };
/// let (figures, _) = measure(&picture, &Marked::default())?;
/// assert_eq!(figures.cover_percent, 50.0);
/// # Ok::<(), iron_twin_photo::PhotoError>(())
/// ```
///
/// # Errors
/// [`PhotoError`].
pub fn measure(picture: &Picture<'_>, marked: &Marked) -> Result<(Figures, Mask), PhotoError> {
    let mask = segment(picture, marked)?;
    let count = |wanted: fn(Kind) -> bool| mask.kinds.iter().filter(|k| wanted(**k)).count() as f64;
    let tray = count(|k| k != Kind::Outside);
    if tray == 0.0 {
        return Err(PhotoError::Corners);
    }
    let leaf = count(Kind::is_leaf);
    let of_leaf = |n: f64| (leaf > 0.0).then(|| 100.0 * n / leaf);
    let mean = mean_light(&mask, leaf);
    let lab: Option<Lab> = mean.map(lab_of_light);
    let size = (picture.width, picture.height);
    let mm = marked.ruler.map(|ruler| ruler.mm_a_pixel(size));
    // The mask may be coarser than the picture: its leaf is told as a share of all of it.
    let whole = (picture.width * picture.height) as f64;
    let leaf_pixels = whole * leaf / mask.kinds.len() as f64;
    let figures = Figures {
        cover_percent: 100.0 * leaf / tray,
        yellow_percent: of_leaf(count(|k| k == Kind::Yellow)),
        red_percent: of_leaf(count(|k| k == Kind::Red)),
        brown_percent: 100.0 * count(|k| k == Kind::Brown) / tray,
        dark_green: mean.map(|light| dark_green(light.map(channel))),
        lightness: lab.map(|lab| lab.l),
        green_red: lab.map(|lab| lab.a),
        blue_yellow: lab.map(|lab| lab.b),
        evenness_percent: evenness(&mask, &marked.corners),
        leaf_cm2: mm.map(|mm| leaf_pixels * mm * mm / 100.0),
        line_mm: mm
            .zip(marked.line)
            .map(|(mm, line)| mm * pixels(line, size)),
    };
    Ok((figures, mask))
}

/// Mean light of the leaf in each channel.
fn mean_light(mask: &Mask, leaf: f64) -> Option<[f64; 3]> {
    let mut sums = [0.0f64; 3];
    for (light, _) in mask
        .lights
        .iter()
        .zip(&mask.kinds)
        .filter(|(_, kind)| kind.is_leaf())
    {
        sums.iter_mut()
            .zip(light)
            .for_each(|(sum, c)| *sum += f64::from(*c));
    }
    (leaf > 0.0).then(|| sums.map(|sum| sum / leaf))
}

/// Where a point between the corners lies along and across the tray, each from 0 to 1: the bilinear
/// map, turned round by Newton's steps, which a convex tray seen at a slant needs few of.
fn along(corners: &Corners, [x, y]: [f64; 2]) -> [f64; 2] {
    let [a, b, c, d] = corners;
    let (mut u, mut v) = (0.5, 0.5);
    for _ in 0..6 {
        let at = |i: usize| {
            (1.0 - u) * (1.0 - v) * a[i]
                + u * (1.0 - v) * b[i]
                + u * v * c[i]
                + (1.0 - u) * v * d[i]
        };
        let by_u = |i: usize| (1.0 - v) * (b[i] - a[i]) + v * (c[i] - d[i]);
        let by_v = |i: usize| (1.0 - u) * (d[i] - a[i]) + u * (c[i] - b[i]);
        let (dx, dy) = (x - at(0), y - at(1));
        let determinant = by_u(0) * by_v(1) - by_u(1) * by_v(0);
        if determinant.abs() < 1e-12 {
            break;
        }
        u += (dx * by_v(1) - dy * by_v(0)) / determinant;
        v += (dy * by_u(0) - dx * by_u(1)) / determinant;
    }
    [u.clamp(0.0, 1.0), v.clamp(0.0, 1.0)]
}

/// One less the spread of cover among fields against the widest that this cover allows.
fn evenness(mask: &Mask, corners: &Corners) -> Option<f64> {
    let mut fields = [[0.0f64; 2]; FIELDS * FIELDS];
    for y in 0..mask.height {
        for x in 0..mask.width {
            let kind = mask.at(x, y);
            if kind == Kind::Outside {
                continue;
            }
            let at = [
                (x as f64 + 0.5) / mask.width as f64,
                (y as f64 + 0.5) / mask.height as f64,
            ];
            let [u, v] =
                along(corners, at).map(|share| ((share * FIELDS as f64) as usize).min(FIELDS - 1));
            let field = &mut fields[v * FIELDS + u];
            field[0] += f64::from(u8::from(kind.is_leaf()));
            field[1] += 1.0;
        }
    }
    let covers: Vec<f64> = fields
        .iter()
        .filter(|f| f[1] > 0.0)
        .map(|f| f[0] / f[1])
        .collect();
    let mean = covers.iter().sum::<f64>() / covers.len() as f64;
    let widest = (mean * (1.0 - mean)).sqrt();
    let spread =
        (covers.iter().map(|c| (c - mean).powi(2)).sum::<f64>() / covers.len() as f64).sqrt();
    (widest > 1e-9).then(|| 100.0 * (1.0 - spread / widest))
}
