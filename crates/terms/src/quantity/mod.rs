//! Quantities with their units: margins, volumes, doses.

use serde::{Deserialize, Serialize};
use std::str::FromStr;

pub use iron_twin_chemistry::volumes::{
    LITRES_PER_IMPERIAL_GALLON, LITRES_PER_US_GALLON, ML_PER_US_TEASPOON,
};

/// The smallest difference that would change what the grower does.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(tag = "kind", content = "value", rename_all = "snake_case")]
pub enum Margin {
    /// Per cent of the control's mean.
    Percent(f64),
    /// In the measure's own unit.
    Absolute(f64),
}

/// Why a margin could not be read.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum MarginError {
    /// Neither `10%` nor `5`.
    #[error("the margin '{0}' is neither a per cent such as 10% nor a number such as 5")]
    NotANumber(String),
    /// Zero, negative, infinite or beyond 1000 %.
    #[error("the margin '{0}' must be above zero and, as a per cent, below 1000")]
    OutOfRange(String),
}

/// Largest per cent that makes sense as a margin.
pub const MOST_MARGIN_PERCENT: f64 = 1000.0;

impl FromStr for Margin {
    type Err = MarginError;

    /// Reads `10%` or `5`.
    ///
    /// ```
    /// use iron_twin_terms::quantity::Margin;
    /// assert_eq!("10%".parse(), Ok(Margin::Percent(10.0)));
    /// assert!("-3".parse::<Margin>().is_err());
    /// ```
    fn from_str(text: &str) -> Result<Self, MarginError> {
        let trimmed = text.trim();
        let (number, percent) = match trimmed.strip_suffix('%') {
            Some(rest) => (rest.trim(), true),
            None => (trimmed, false),
        };
        let value: f64 = number
            .parse()
            .map_err(|_| MarginError::NotANumber(text.to_owned()))?;
        let most = if percent {
            MOST_MARGIN_PERCENT
        } else {
            LARGEST_VALUE
        };
        if !(value > 0.0 && value < most) {
            return Err(MarginError::OutOfRange(text.to_owned()));
        }
        Ok(if percent {
            Self::Percent(value)
        } else {
            Self::Absolute(value)
        })
    }
}

impl std::fmt::Display for Margin {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Percent(p) => write!(f, "{p}%"),
            Self::Absolute(a) => write!(f, "{a}"),
        }
    }
}

/// Values beyond this are taken for a slip of the keyboard or a broken export.
pub const LARGEST_VALUE: f64 = 1e15;

/// A number outside the range in which it makes sense.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[error("{what} must lie between {least} and {most}, got {got}")]
pub struct OutOfRange {
    /// Which number, with its unit.
    pub what: &'static str,
    /// Lowest admitted.
    pub least: f64,
    /// Highest admitted.
    pub most: f64,
    /// What came.
    pub got: f64,
}

/// A number within limits, or what is wrong with it in the words of its field.
pub fn in_range(what: &'static str, got: f64, least: f64, most: f64) -> Result<f64, OutOfRange> {
    if got >= least && got <= most {
        Ok(got)
    } else {
        Err(OutOfRange {
            what,
            least,
            most,
            got,
        })
    }
}

/// Whether a feed is measured by volume or weighed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, Default)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum FeedForm {
    /// Poured: mL per litre.
    #[default]
    Liquid,
    /// Weighed: g per litre.
    Powder,
}

impl FeedForm {
    /// `mL` or `g`.
    #[must_use]
    pub fn unit(self) -> &'static str {
        match self {
            Self::Liquid => "mL",
            Self::Powder => "g",
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn margins_round_trip_and_refuse() {
        for text in ["10%", "2.5%", "5", "0.25"] {
            assert_eq!(text.parse::<Margin>().unwrap().to_string(), text);
        }
        for text in ["", "%", "ten", "0", "-1%", "inf", "NaN", "2000%", "1e400"] {
            assert!(text.parse::<Margin>().is_err(), "{text}");
        }
    }
}
