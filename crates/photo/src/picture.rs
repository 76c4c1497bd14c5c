//! A picture, and what somebody marked in it.

use serde::{Deserialize, Serialize};

/// A picture: rows from the top, three bytes of sRGB a pixel.
#[derive(Debug, Clone, Copy)]
pub struct Picture<'a> {
    /// Pixels in a row.
    pub width: usize,
    /// Rows.
    pub height: usize,
    /// `3 * width * height` bytes.
    pub pixels: &'a [u8],
}

impl Picture<'_> {
    /// Checks that there are as many bytes as the sides say.
    ///
    /// # Errors
    /// [`PhotoError::WrongSize`].
    pub fn check(&self) -> Result<(), PhotoError> {
        let (width, height, got) = (self.width, self.height, self.pixels.len());
        let wanted = width.saturating_mul(height).saturating_mul(3);
        if wanted == 0 || got != wanted {
            Err(PhotoError::WrongSize {
                width,
                height,
                wanted,
                got,
            })
        } else {
            Ok(())
        }
    }

    /// A pixel.
    #[must_use]
    pub fn at(&self, x: usize, y: usize) -> [u8; 3] {
        let i = 3 * (y * self.width + x);
        [self.pixels[i], self.pixels[i + 1], self.pixels[i + 2]]
    }
}

/// A point of a picture, as shares of its width and height, from its upper left corner.
pub type Point = [f64; 2];

/// Four corners of the tray, going round it.
pub type Corners = [Point; 4];

/// The whole picture.
pub const WHOLE: Corners = [[0.0, 0.0], [1.0, 0.0], [1.0, 1.0], [0.0, 1.0]];

/// Two points of a ruler in the picture, and how far apart they are. Ruler and what is measured lie
/// at the same distance from the camera; how they lean is not taken out.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Ruler {
    /// One end, and the other.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Vec<f64>>))]
    pub ends: [Point; 2],
    /// How far apart they are, mm.
    pub mm: f64,
}

/// Longest ruler, mm.
const MOST_MM: f64 = 10_000.0;
/// A ruler is at least so long a share of the picture: a shorter one tells little.
const LEAST_SHARE: f64 = 0.02;

impl Ruler {
    /// Checks that it is one.
    ///
    /// # Errors
    /// [`PhotoError::Ruler`].
    pub fn check(&self) -> Result<(), PhotoError> {
        let inside = self.ends.iter().flatten().all(|c| (0.0..=1.0).contains(c));
        let apart = (self.ends[1][0] - self.ends[0][0]).hypot(self.ends[1][1] - self.ends[0][1]);
        if inside && apart >= LEAST_SHARE && self.mm > 0.0 && self.mm <= MOST_MM {
            Ok(())
        } else {
            Err(PhotoError::Ruler)
        }
    }
}

/// What was marked in a picture.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Marked {
    /// Corners of the tray.
    #[cfg_attr(feature = "schema", schema(value_type = Vec<Vec<f64>>))]
    pub corners: Corners,
    /// A grey or white card: its centre; null where there is none.
    #[serde(default)]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Vec<f64>>))]
    pub card: Option<Point>,
    /// How readily a pixel counts as leaf, 0 to 1; a half is usual.
    #[serde(default = "usual_readiness")]
    pub readiness: f64,
    /// A ruler that lies in the picture; null where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ruler: Option<Ruler>,
    /// A line whose length is asked, such as along a root or a stem: its two ends; null where none
    /// is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<Vec<Vec<f64>>>))]
    pub line: Option<[Point; 2]>,
}

fn usual_readiness() -> f64 {
    0.5
}

impl Default for Marked {
    fn default() -> Self {
        Self {
            corners: WHOLE,
            card: None,
            readiness: usual_readiness(),
            ruler: None,
            line: None,
        }
    }
}

/// Why a picture cannot be measured.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum PhotoError {
    /// The bytes are not as many as the sides say.
    #[error("a picture of {width} by {height} pixels has {wanted} bytes, not {got}")]
    WrongSize {
        /// Pixels in a row.
        width: usize,
        /// Rows.
        height: usize,
        /// Bytes that it should have.
        wanted: usize,
        /// Bytes that came.
        got: usize,
    },
    /// The corners enclose too little, lie outside, or cross.
    #[error("mark the four corners of the tray inside the picture, going round it")]
    Corners,
    /// The card is black, or not in the picture.
    #[error("the grey card must be in the picture, and neither black nor burnt out")]
    Card,
    /// No ruler, a ruler that is too short to tell anything, or a line without one.
    #[error(
        "the ends of the ruler and of the line must be in the picture, the ruler's well apart, \
         and its length above zero"
    )]
    Ruler,
    /// The readiness is no share.
    #[error("how readily a pixel counts as leaf lies between 0 and 1")]
    Readiness,
}

impl Marked {
    /// Checks that corners go round an area inside the picture.
    ///
    /// # Errors
    /// [`PhotoError::Corners`], [`PhotoError::Readiness`].
    pub fn check(&self) -> Result<(), PhotoError> {
        let inside = |p: &Point| p.iter().all(|c| (0.0..=1.0).contains(c));
        let turn = |i: usize| {
            let [a, b, c] = [0, 1, 2].map(|k| self.corners[(i + k) % 4]);
            (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0])
        };
        let turns = [0, 1, 2, 3].map(turn);
        let round = turns.iter().all(|t| *t > 1e-4) || turns.iter().all(|t| *t < -1e-4);
        if !self.corners.iter().all(inside) || !round {
            return Err(PhotoError::Corners);
        }
        if !(0.0..=1.0).contains(&self.readiness) {
            return Err(PhotoError::Readiness);
        }
        if self.card.is_some_and(|p| !inside(&p)) {
            return Err(PhotoError::Card);
        }
        if self
            .line
            .is_some_and(|ends| self.ruler.is_none() || !ends.iter().all(inside))
        {
            return Err(PhotoError::Ruler);
        }
        self.ruler.map_or(Ok(()), |ruler| ruler.check())?;
        Ok(())
    }
}
