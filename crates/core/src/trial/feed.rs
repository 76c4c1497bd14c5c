//! The feed of a trial, as its label gives it, and how much solution the trial takes.

use iron_twin_chemistry::acid::{self, Bottle};
use iron_twin_terms::quantity::{FeedForm, OutOfRange, in_range};
use serde::{Deserialize, Serialize};

/// A feed as its label gives it, and how much solution the trial takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct FeedPlan {
    /// Liquid or powder.
    pub form: FeedForm,
    /// Label dose: mL (liquid) or g (powder) per litre.
    pub label_per_litre: f64,
    /// Solution for one unit at one feeding, mL.
    pub ml_a_unit: f64,
    /// Spare on top of what the units take, per cent.
    pub spare_percent: f64,
    /// How the water of all treatments is brought to a pH before anything else goes in; None for as
    /// it comes.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub ph: Option<PhPlan>,
}

/// A pH to which water is brought, and the bottle that does it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct PhPlan {
    /// The bottle.
    pub bottle: Bottle,
    /// pH wanted.
    pub target_ph: f64,
}

impl Default for FeedPlan {
    fn default() -> Self {
        Self {
            form: FeedForm::Liquid,
            label_per_litre: 4.0,
            ml_a_unit: 250.0,
            spare_percent: 10.0,
            ph: None,
        }
    }
}

/// Largest label dose per litre that is taken for credible, mL or g.
pub const MOST_LABEL_PER_LITRE: f64 = 200.0;

/// Largest volume of one unit at one feeding, mL.
pub const MOST_ML_A_UNIT: f64 = 100_000.0;

impl FeedPlan {
    /// Checks the numbers of the plan.
    ///
    /// # Errors
    /// [`OutOfRange`], naming the number.
    pub fn check(&self) -> Result<(), OutOfRange> {
        in_range(
            "label dose per litre",
            self.label_per_litre,
            0.001,
            MOST_LABEL_PER_LITRE,
        )?;
        in_range(
            "solution for one unit, mL",
            self.ml_a_unit,
            0.1,
            MOST_ML_A_UNIT,
        )?;
        in_range("spare, per cent", self.spare_percent, 0.0, 200.0)?;
        if let Some(PhPlan { bottle, target_ph }) = self.ph {
            in_range("pH wanted", target_ph, acid::TARGETS.0, acid::TARGETS.1)?;
            in_range("strength, per cent", bottle.percent, 0.1, 100.0)?;
            in_range("density, kg/L", bottle.density_kg_per_l, 0.5, 2.5)?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nonsense_is_refused_by_name() {
        let plan = FeedPlan {
            ml_a_unit: 0.0,
            ..FeedPlan::default()
        };
        assert!(
            plan.check()
                .unwrap_err()
                .to_string()
                .starts_with("solution for one unit")
        );
        for odd in [-0.1, f64::NAN, 1e9] {
            assert!(
                FeedPlan {
                    label_per_litre: odd,
                    ..FeedPlan::default()
                }
                .check()
                .is_err()
            );
            assert!(
                FeedPlan {
                    spare_percent: odd,
                    ..FeedPlan::default()
                }
                .check()
                .is_err()
            );
            let bottle = Bottle {
                product: acid::PhProduct::Nitric,
                percent: odd,
                density_kg_per_l: 1.2,
            };
            assert!(
                FeedPlan {
                    ph: Some(PhPlan {
                        bottle,
                        target_ph: 5.8
                    }),
                    ..FeedPlan::default()
                }
                .check()
                .is_err()
            );
        }
    }
}
