//! Weigh: the harvest, unit after unit, under blind codes.

pub mod courses;
pub mod order;
pub mod serving;
pub mod steady;
pub mod table;
pub mod tasting;

use iron_twin_stats::spread::median;
use serde::{Deserialize, Serialize};

/// A weight as it was taken.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Weighing {
    /// Container and all, g.
    pub gross_g: f64,
    /// Container alone, g.
    pub tare_g: f64,
}

/// More than this on a shelf-top scale is a slip, g.
pub const MOST_G: f64 = 50_000.0;
/// A weight beyond this factor from the middle of its siblings is asked about.
pub const ASKED_FACTOR: f64 = 1.7;

/// Why a weight is refused.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum WeighError {
    /// Not a weight.
    #[error("the {which} weight must lie between 0 and {MOST_G} g, got {got}")]
    OutOfRange {
        /// `gross` or `tare`.
        which: &'static str,
        /// What came.
        got: f64,
    },
    /// Container heavier than container and greens.
    #[error("the tray alone ({tare_g} g) cannot weigh more than tray and greens ({gross_g} g)")]
    TareAboveGross {
        /// Gross, g.
        gross_g: f64,
        /// Tare, g.
        tare_g: f64,
    },
}

impl Weighing {
    /// What was harvested, g, to the milligram so that decimals come out as the scale showed them.
    ///
    /// # Errors
    /// [`WeighError`], naming the weight.
    ///
    /// ```
    /// use iron_twin_core::weigh::Weighing;
    /// assert_eq!(Weighing { gross_g: 412.6, tare_g: 288.0 }.net_g().unwrap(), 124.6);
    /// ```
    pub fn net_g(&self) -> Result<f64, WeighError> {
        for (which, got) in [("gross", self.gross_g), ("tare", self.tare_g)] {
            if !(0.0..=MOST_G).contains(&got) {
                return Err(WeighError::OutOfRange { which, got });
            }
        }
        if self.tare_g > self.gross_g {
            return Err(WeighError::TareAboveGross { gross_g: self.gross_g, tare_g: self.tare_g });
        }
        Ok(((self.gross_g - self.tare_g) * 1000.0).round() / 1000.0)
    }
}

/// A question about a weight that stands far from its siblings; None where it looks alike or there are too few.
#[must_use]
pub fn question(net_g: f64, siblings_g: &[f64]) -> Option<String> {
    if siblings_g.len() < 3 {
        return None;
    }
    let middle = median(siblings_g);
    let unlike = middle > 0.0 && !(middle / ASKED_FACTOR..=middle * ASKED_FACTOR).contains(&net_g);
    let asks = match net_g / middle {
        times if (8.0..=12.0).contains(&times) => "It is ten times as much: a decimal point?",
        times if (1.0 / 12.0..=1.0 / 8.0).contains(&times) => "It is a tenth of them: a decimal point?",
        _ => "Is it right?",
    };
    unlike.then(|| format!("{net_g:.1} g is far from the others, which lie around {middle:.1} g. {asks}"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn impossible_weights_are_refused() {
        let net = |gross_g, tare_g| Weighing { gross_g, tare_g }.net_g();
        assert_eq!(net(100.0, 40.0), Ok(60.0));
        assert_eq!(net(40.0, 40.0), Ok(0.0));
        assert!(matches!(net(30.0, 40.0), Err(WeighError::TareAboveGross { .. })));
        assert!(matches!(net(f64::NAN, 0.0), Err(WeighError::OutOfRange { which: "gross", .. })));
        assert!(matches!(net(10.0, -1.0), Err(WeighError::OutOfRange { which: "tare", .. })));
        assert!(matches!(net(1e9, 1.0), Err(WeighError::OutOfRange { which: "gross", .. })));
    }

    #[test]
    fn unlike_weights_are_asked_about() {
        let siblings = [97.0, 118.0, 131.0, 105.0];
        assert!(question(110.0, &siblings).is_none());
        assert!(question(12.4, &siblings).is_some());
        assert!(question(12.4, &siblings[..2]).is_none());
        let asked = |g| question(g, &siblings).unwrap_or_default();
        assert_eq!(
            asked(1120.0),
            "1120.0 g is far from the others, which lie around 111.5 g. It is ten times as much: a decimal point?"
        );
        assert!(
            asked(11.2).ends_with("It is a tenth of them: a decimal point?") && asked(300.0).ends_with("Is it right?")
        );
    }
}
