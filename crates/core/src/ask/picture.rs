//! The live picture of what n units a side could see.

use iron_twin_stats::StatsError;
use iron_twin_stats::power::{PowerPlan, fewest_units};
use serde::Serialize;

/// What one number of units could see.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sight {
    /// Units of each treatment.
    pub units: usize,
    /// Smallest difference found 8 times in 10, in per cent of the control.
    pub smallest_percent: f64,
    /// Chance of finding a true difference of the margin.
    pub power: f64,
    /// Smallest p that a re-deal of these units could reach.
    pub smallest_redeal_p: f64,
}

/// The picture for a range of sizes around the plan.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Picture {
    /// Spread among units of one treatment, in per cent of the mean.
    pub cv_percent: f64,
    /// The margin, in per cent of the control.
    pub margin_percent: f64,
    /// One entry a size, smallest first.
    pub sights: Vec<Sight>,
    /// The planned size, as an index into `sights`.
    pub planned: Option<usize>,
    /// Fewest units of a treatment that find the margin 8 times in 10.
    pub units_needed: Option<usize>,
}

/// Number of blocks that `units` units of a treatment fill with `per_block` in each; 1 where there are none.
#[must_use]
pub fn blocks_of(units: usize, per_block: usize) -> usize {
    units.checked_div(per_block).unwrap_or(1).max(1)
}

/// Chance with which the smallest difference is to be found.
pub const USUAL_POWER: f64 = 0.8;
/// Most units a side that the picture draws.
pub const MOST_UNITS: usize = 16;

/// What `treatments` treatments (control included) could see with 2 to [`MOST_UNITS`] units each.
///
/// Two treatments without blocks give the classic two-sample t computation; with `per_block` above 0 each
/// block holds every treatment so many times, and `covariates` cost so many degrees of freedom more (columns of a square); with more treatments each is compared with the control after Dunnett.
///
/// # Errors
/// [`StatsError::OutOfRange`] for a spread or margin that is not above zero, or fewer than two treatments.
///
/// ```
/// let picture = iron_twin_core::ask::picture::picture(2, 4, 0, 0, 8.0, 10.0)?;
/// // R 4.2.2: power.t.test(n = 4, power = 0.8)$delta is 2.38075 standard deviations.
/// let four = picture.sights.iter().find(|s| s.units == 4).unwrap();
/// assert!((four.smallest_percent - 8.0 * 2.38075).abs() < 0.01);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn picture(
    treatments: usize,
    planned_units: usize,
    per_block: usize,
    covariates: usize,
    cv_percent: f64,
    margin_percent: f64,
) -> Result<Picture, StatsError> {
    for (what, got) in [("spread in per cent", cv_percent), ("margin in per cent", margin_percent)] {
        if !(got > 0.0 && got <= 1000.0) {
            return Err(StatsError::OutOfRange { what, min: 0.0, max: 1000.0, got });
        }
    }
    let plan = |units: usize| PowerPlan {
        treatments,
        units,
        blocks: blocks_of(units, per_block),
        covariates,
        confidence: 0.95,
    };
    let effect = margin_percent / cv_percent;
    // Squares are whole: as many units as treatments, or twice as many.
    let whole = |units: &usize| covariates == 0 || (units.is_multiple_of(treatments) && plan(*units).df() >= 1.0);
    // In a square two treatments change places over whole cycles of rows, each of two rows at least.
    let floor = |plan: PowerPlan| match covariates {
        0 => plan.smallest_redeal_p(),
        _ => 0.5f64.powi((plan.units / 2) as i32 - 1).min(1.0),
    };
    let sights: Vec<Sight> = (2..=MOST_UNITS.max(planned_units.min(48)))
        .filter(whole)
        .map(|units| {
            let plan = plan(units);
            Ok(Sight {
                units,
                smallest_percent: cv_percent * plan.smallest_detectable(USUAL_POWER)?,
                power: plan.power(effect)?,
                smallest_redeal_p: floor(plan),
            })
        })
        .collect::<Result<_, StatsError>>()?;
    Ok(Picture {
        cv_percent,
        margin_percent,
        planned: sights.iter().position(|s| s.units == planned_units),
        // Whole levels, and whole squares: a level that holds a treatment twice gives two units at a time.
        units_needed: fewest_units(if covariates > 0 { treatments } else { per_block.max(1) }, |n| {
            plan(n).power(effect).is_ok_and(|p| p >= USUAL_POWER)
        }),
        sights,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn more_units_see_smaller_differences() {
        let picture = picture(4, 4, 1, 0, 8.0, 10.0).unwrap();
        assert!(picture.sights.windows(2).all(|w| w[0].smallest_percent > w[1].smallest_percent));
        assert!(picture.sights.windows(2).all(|w| w[0].power < w[1].power));
        assert_eq!(picture.sights[picture.planned.unwrap()].units, 4);
        let needed = picture.units_needed.unwrap();
        assert!(picture.sights.iter().all(|s| (s.units >= needed) == (s.power >= USUAL_POWER)));
    }

    #[test]
    fn fuller_blocks_leave_more_degrees_of_freedom() {
        let sees = |per_block| picture(2, 8, per_block, 0, 8.0, 10.0).unwrap().sights[6].smallest_percent;
        assert!(sees(0) < sees(4) && sees(4) < sees(2) && sees(2) < sees(1));
        let needed = picture(2, 8, 4, 0, 8.0, 7.0).unwrap().units_needed.unwrap();
        assert!(needed.is_multiple_of(4), "whole levels: {needed}");
        assert_eq!((blocks_of(8, 0), blocks_of(8, 2), blocks_of(1, 2)), (1, 4, 1));
    }

    #[test]
    fn nonsense_is_refused() {
        for (treatments, cv, margin) in [(1, 8.0, 10.0), (2, 0.0, 10.0), (2, 8.0, f64::NAN), (2, 8.0, -1.0)] {
            assert!(picture(treatments, 4, 0, 0, cv, margin).is_err());
        }
    }
}
