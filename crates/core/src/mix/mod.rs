//! Mix: how much of a label feed goes into the water of each treatment.

pub mod aim;
pub mod recipe;
pub mod tank;

use crate::quantity::{LITRES_PER_US_GALLON, ML_PER_US_TEASPOON};
use serde::{Deserialize, Serialize};

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

/// A feed as its label gives it, and how much solution the trial takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct FeedPlan {
    /// Liquid or powder.
    pub form: FeedForm,
    /// Label dose: mL (liquid) or g (powder) per litre.
    pub label_per_litre: f64,
    /// Solution for one unit at one feeding, mL.
    pub ml_a_unit: f64,
    /// Spare on top of what the units take, per cent.
    pub spare_percent: f64,
}

impl Default for FeedPlan {
    fn default() -> Self {
        Self { form: FeedForm::Liquid, label_per_litre: 4.0, ml_a_unit: 250.0, spare_percent: 10.0 }
    }
}

/// Largest label dose per litre that is taken for credible, mL or g.
pub const MOST_LABEL_PER_LITRE: f64 = 200.0;
/// Largest volume of one unit at one feeding, mL.
pub const MOST_ML_A_UNIT: f64 = 100_000.0;

/// What is wrong with a feed plan.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum MixError {
    /// A number out of its range.
    #[error("{what} must lie between {least} and {most}, got {got}")]
    OutOfRange {
        /// Which number, with its unit.
        what: &'static str,
        /// Lowest admitted.
        least: f64,
        /// Highest admitted.
        most: f64,
        /// What came.
        got: f64,
    },
}

/// What to measure out for one treatment.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Dilution {
    /// Share of the label dose.
    pub fraction: f64,
    /// mL (liquid) or g (powder) per litre.
    pub per_litre: f64,
    /// US teaspoons per US gallon; liquids only, since a spoon of powder has no fixed weight.
    pub teaspoons_per_us_gallon: Option<f64>,
    /// Solution for all units at one feeding, spare included, litres.
    pub volume_l: f64,
    /// Feed in that volume: mL or g.
    pub feed_total: f64,
}

fn range(what: &'static str, got: f64, least: f64, most: f64) -> Result<f64, MixError> {
    if got >= least && got <= most { Ok(got) } else { Err(MixError::OutOfRange { what, least, most, got }) }
}

impl FeedPlan {
    /// Checks the numbers of the plan.
    ///
    /// # Errors
    /// [`MixError::OutOfRange`], naming the number.
    pub fn check(&self) -> Result<(), MixError> {
        range("label dose per litre", self.label_per_litre, 0.001, MOST_LABEL_PER_LITRE)?;
        range("solution for one unit, mL", self.ml_a_unit, 0.1, MOST_ML_A_UNIT)?;
        range("spare, per cent", self.spare_percent, 0.0, 200.0)?;
        Ok(())
    }
}

/// The dilution for a treatment that gets `fraction` of the label dose on `units` units.
///
/// # Errors
/// [`MixError::OutOfRange`], naming the number.
///
/// ```
/// use iron_twin_core::mix::{dilution, FeedPlan};
/// let half = dilution(&FeedPlan { spare_percent: 0.0, ..FeedPlan::default() }, 0.5, 4)?;
/// assert_eq!((half.per_litre, half.volume_l, half.feed_total), (2.0, 1.0, 2.0));
/// # Ok::<(), iron_twin_core::mix::MixError>(())
/// ```
pub fn dilution(plan: &FeedPlan, fraction: f64, units: usize) -> Result<Dilution, MixError> {
    plan.check()?;
    range("share of the label dose", fraction, 0.0, crate::match_sheet::conditions::dose::MOST)?;
    let per_litre = plan.label_per_litre * fraction;
    let volume_l = plan.ml_a_unit * units as f64 * (1.0 + 0.01 * plan.spare_percent) / 1000.0;
    Ok(Dilution {
        fraction,
        per_litre,
        teaspoons_per_us_gallon: (plan.form == FeedForm::Liquid)
            .then_some(per_litre * LITRES_PER_US_GALLON / ML_PER_US_TEASPOON),
        volume_l,
        feed_total: per_litre * volume_l,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_millilitre_per_litre_is_four_fifths_of_a_teaspoon_per_gallon() {
        // 3785.411784 mL in a US gallon over 4.92892159375 mL in a teaspoon is 768 (NIST Handbook 44, appendix C).
        let plan = FeedPlan { label_per_litre: 1.0, ..FeedPlan::default() };
        let teaspoons = dilution(&plan, 1.0, 1).unwrap().teaspoons_per_us_gallon.unwrap();
        assert!((teaspoons - 0.768).abs() < 1e-12);
    }

    #[test]
    fn doses_add_up_and_powders_have_no_spoon() {
        let plan = FeedPlan { form: FeedForm::Powder, label_per_litre: 0.6, ml_a_unit: 500.0, spare_percent: 10.0 };
        let d = dilution(&plan, 2.0 / 3.0, 16).unwrap();
        assert!((d.per_litre - 0.4).abs() < 1e-12);
        assert!((d.volume_l - 8.8).abs() < 1e-12);
        assert!((d.feed_total - 3.52).abs() < 1e-12);
        assert_eq!(d.teaspoons_per_us_gallon, None);
    }

    #[test]
    fn nonsense_is_refused_by_name() {
        let plan = FeedPlan::default();
        for fraction in [-0.1, f64::NAN, 4.0] {
            assert!(dilution(&plan, fraction, 4).is_err());
        }
        let error = dilution(&FeedPlan { ml_a_unit: 0.0, ..plan }, 1.0, 4).unwrap_err();
        assert!(error.to_string().starts_with("solution for one unit"), "{error}");
    }
}
