//! The live picture of what n units a side could see.

use crate::catalogue::spaces::SpaceKind;
use crate::trial::Trial;
use iron_twin_judge::strictness::{Laid, Strictness};
use iron_twin_stats::StatsError;
use iron_twin_stats::power::{PowerPlan, fewest_units};
use iron_twin_terms::goal::Goal;
use serde::{Deserialize, Serialize};

/// What one number of units could see.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Sight {
    /// Units of each treatment.
    pub units: usize,
    /// Smallest difference found 8 times in 10, in per cent of the control; for the goal match the
    /// smallest loss that can be ruled out as often when nothing is lost.
    pub smallest_percent: f64,
    /// Chance of a verdict where the true difference is the margin (goal match: that nothing is
    /// given up, where nothing is).
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

/// How units of a treatment are laid out, as far as what they can see depends on it.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Layout {
    /// Treatments, control included.
    pub treatments: usize,
    /// How often a level, as a block, holds each treatment; 0 where there are no blocks.
    pub per_block: usize,
    /// Degrees of freedom that columns of a Latin square cost.
    #[serde(default)]
    pub covariates: usize,
    /// Whether units stand in pairs that leave treatments out, every two meeting in turn.
    #[serde(default)]
    pub in_turn: bool,
    /// Whether blocks are places to which the claim is to carry: a difference is then held against
    /// what places differ in, and further units at a place help less than further places.
    #[serde(default)]
    pub places: bool,
}

impl Layout {
    /// That of a trial as planned.
    #[must_use]
    pub fn of(trial: &Trial) -> Self {
        let (rack, treatments) = (&trial.plan.rack, trial.plan.treatments());
        let (units, blocks, in_turn) = (
            trial.units_each(),
            rack.blocks(treatments),
            rack.in_turn(treatments),
        );
        let per_block = if blocks > 1 && !in_turn {
            units / blocks
        } else {
            0
        };
        let places = rack.kind == SpaceKind::Sites;
        Self {
            treatments,
            per_block,
            covariates: rack.covariates(treatments),
            in_turn,
            places,
        }
    }

    /// Number of blocks that so many units of a treatment fill; 1 where there are none.
    #[must_use]
    pub fn blocks(&self, units: usize) -> usize {
        if self.in_turn {
            return (units * self.treatments / 2).max(1);
        }
        units.checked_div(self.per_block).unwrap_or(1).max(1)
    }

    /// Units of a treatment that come together: whole blocks, squares and turns.
    #[must_use]
    pub fn step(&self) -> usize {
        match (self.covariates, self.in_turn) {
            (0, true) => self.treatments - 1,
            (0, false) => self.per_block.max(1),
            _ => self.treatments,
        }
    }

    /// Units that stand for one: those of a treatment at a place, where places are what a
    /// difference is held against.
    fn as_one(&self) -> usize {
        if self.places {
            self.per_block.max(1)
        } else {
            1
        }
    }

    /// The plan with so many units of a treatment.
    #[must_use]
    pub fn plan(&self, units: usize) -> PowerPlan {
        let Self {
            treatments,
            covariates,
            ..
        } = *self;
        let blocks = self.blocks(units);
        PowerPlan {
            treatments,
            units: units / self.as_one(),
            blocks,
            covariates,
            confidence: 0.95,
        }
    }

    /// How much of a difference between two treatments comparisons inside blocks carry: all of it
    /// in whole blocks; in pairs of t treatments the root of t / (2 (t - 1)), the efficiency factor
    /// of balanced incomplete blocks of two (Cochran and Cox 1957, chapter 11). Where a place's
    /// units stand for one, its mean scatters by the root of their number less, as long as
    /// treatments do the same everywhere, which nobody knows beforehand.
    #[must_use]
    pub fn effect(&self) -> f64 {
        let t = self.treatments as f64;
        let whole = (self.as_one() as f64).sqrt();
        if self.in_turn {
            whole * (t / (2.0 * (t - 1.0))).sqrt()
        } else {
            whole
        }
    }

    /// How its units stand, as far as a verdict asks more than the usual test.
    fn laid(&self) -> Laid {
        match *self {
            Self {
                covariates: 1.., ..
            } => Laid::InSquares,
            Self { in_turn: true, .. } => Laid::InTurn,
            Self { per_block: 0, .. } => Laid::Freely,
            Self {
                places: true,
                per_block: 2..,
                ..
            } => Laid::AtPlaces(self.per_block),
            Self { per_block, .. } => Laid::InBlocks(per_block),
        }
    }

    /// How much more a verdict asks than the usual test.
    #[must_use]
    pub fn strictness(&self, units: usize) -> Strictness {
        // A single level filled more than once is no block.
        let laid = if self.blocks(units) == 1 && !self.in_turn {
            Laid::Freely
        } else {
            self.laid()
        };
        Strictness::of(self.treatments, laid, units)
    }

    /// The chance with which so many units bring a verdict on a true difference of a margin; for
    /// the goal match, that they show that nothing is lost when nothing is.
    ///
    /// # Errors
    /// [`StatsError`] for a plan without degrees of freedom.
    pub fn chance(&self, units: usize, goal: Goal, margin_sd: f64) -> Result<f64, StatsError> {
        Ok(self
            .strictness(units)
            .chance(goal, self.usual_chance(units, goal, margin_sd)?))
    }

    /// The same of the usual test: Student's, or Dunnett's for several treatments.
    ///
    /// # Errors
    /// [`StatsError`] for a plan without degrees of freedom.
    pub fn usual_chance(
        &self,
        units: usize,
        goal: Goal,
        margin_sd: f64,
    ) -> Result<f64, StatsError> {
        let effect = self.effect() * margin_sd;
        match goal {
            Goal::Match => self.plan(units).chance_above_zero(effect),
            Goal::Beat | Goal::Best => self.plan(units).power(effect),
        }
    }

    /// The smallest difference on which there is a verdict with the usual chance, in standard
    /// deviations; for the goal match the smallest margin that can be shown to be kept.
    ///
    /// # Errors
    /// [`StatsError`] for a plan without degrees of freedom.
    pub fn smallest(&self, units: usize, goal: Goal) -> Result<f64, StatsError> {
        let usual = self.strictness(units).usual(goal, USUAL_POWER);
        if goal != Goal::Match {
            return Ok(self.plan(units).smallest_detectable(usual)? / self.effect());
        }
        let (mut low, mut high) = (0.0, 1.0);
        while self.usual_chance(units, goal, high)? < usual && high < 1e6 {
            (low, high) = (high, 2.0 * high);
        }
        for _ in 0..60 {
            let middle = 0.5 * (low + high);
            if self.usual_chance(units, goal, middle)? < usual {
                low = middle
            } else {
                high = middle
            }
        }
        Ok(high)
    }

    /// The smallest p that a re-deal of two treatments could reach.
    #[must_use]
    pub fn smallest_redeal_p(&self, units: usize) -> f64 {
        match (self.covariates, self.in_turn) {
            (0, false) => PowerPlan {
                units,
                ..self.plan(units)
            }
            .smallest_redeal_p(),
            // Two treatments meet in so many pairs.
            (0, true) => 0.5f64
                .powi((units / (self.treatments - 1)) as i32 - 1)
                .min(1.0),
            // In a square two treatments change places over whole cycles of rows, each of two rows
            // at least.
            _ => 0.5f64.powi((units / 2) as i32 - 1).min(1.0),
        }
    }
}

/// Chance with which the smallest difference is to be found.
pub const USUAL_POWER: f64 = 0.8;
/// Most units a side that the picture draws.
pub const MOST_UNITS: usize = 16;

/// What the treatments of a layout could see with 2 to [`MOST_UNITS`] units each.
///
/// What is foretold is the verdict: Student's t, or Dunnett's for several treatments, less what the
/// re-deal and the allowance for unlike spreads cost.
///
/// # Errors
/// [`StatsError::OutOfRange`] for a spread or margin that is not above zero, or fewer than two
/// treatments.
///
/// ```
/// use iron_twin_core::ask::picture::{Layout, picture};
/// use iron_twin_terms::goal::Goal;
/// let two = Layout { treatments: 2, per_block: 0, covariates: 0, in_turn: false, places: false };
/// let picture = picture(two, 4, Goal::Beat, 8.0, 10.0)?;
/// // R 4.2.2: power.t.test(n = 4, power = 0.8)$delta is 2.38075 standard deviations; a verdict asks more.
/// let four = picture.sights.iter().find(|s| s.units == 4).unwrap();
/// assert!(four.smallest_percent > 8.0 * 2.38075 && four.smallest_percent < 8.0 * 2.7);
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn picture(
    layout: Layout,
    planned_units: usize,
    goal: Goal,
    cv_percent: f64,
    margin_percent: f64,
) -> Result<Picture, StatsError> {
    for (what, got) in [
        ("spread in per cent", cv_percent),
        ("margin in per cent", margin_percent),
    ] {
        if !(got > 0.0 && got <= 1000.0) {
            return Err(StatsError::OutOfRange {
                what,
                min: 0.0,
                max: 1000.0,
                got,
            });
        }
    }
    if layout.treatments < 2 {
        let got = layout.treatments as f64;
        return Err(StatsError::OutOfRange {
            what: "treatments",
            min: 2.0,
            max: f64::INFINITY,
            got,
        });
    }
    let margin_sd = margin_percent / cv_percent;
    // Squares and turns are whole: as many units as treatments, or one fewer, or a multiple.
    let whole = |units: &usize| {
        let fixed = layout.covariates > 0 || layout.in_turn || layout.as_one() > 1;
        !fixed || (units.is_multiple_of(layout.step()) && layout.plan(*units).df() >= 1.0)
    };
    let sights: Vec<Sight> = (2..=MOST_UNITS.max(planned_units.min(48)))
        .filter(whole)
        .map(|units| {
            Ok(Sight {
                units,
                smallest_percent: cv_percent * layout.smallest(units, goal)?,
                power: layout.chance(units, goal, margin_sd)?,
                smallest_redeal_p: layout.smallest_redeal_p(units),
            })
        })
        .collect::<Result<_, StatsError>>()?;
    Ok(Picture {
        cv_percent,
        margin_percent,
        planned: sights.iter().position(|s| s.units == planned_units),
        // Whole levels, and whole squares: a level that holds a treatment twice gives two units at
        // a time.
        units_needed: fewest_units(layout.step(), |n| {
            layout
                .chance(n, goal, margin_sd)
                .is_ok_and(|p| p >= USUAL_POWER)
        }),
        sights,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    fn layout(treatments: usize, per_block: usize) -> Layout {
        Layout {
            treatments,
            per_block,
            covariates: 0,
            in_turn: false,
            places: false,
        }
    }

    /// Four plots of each at three sites: two degrees of freedom, however many plots stand there.
    /// Student's t with 2 df is 4.303, and a mean of four plots scatters half as much.
    #[test]
    fn further_sites_tell_more_than_further_plots() {
        let sites = |per_block| Layout {
            places: true,
            ..layout(2, per_block)
        };
        assert_eq!(
            (
                sites(4).plan(12).df(),
                sites(4).effect(),
                sites(4).plan(12).units
            ),
            (2.0, 2.0, 3)
        );
        assert!((sites(4).plan(12).critical().unwrap() - 4.303).abs() < 1e-3);
        let sees = |layout: Layout, units| layout.smallest(units, Goal::Beat).unwrap();
        assert!(sees(sites(4), 12) > sees(sites(2), 12) && sees(sites(2), 12) > sees(sites(1), 12));
        assert!(
            sees(sites(1), 6) == sees(layout(2, 1), 6),
            "one plot a site is what blocks are anyway"
        );
        let picture = picture(sites(4), 12, Goal::Beat, 20.0, 20.0).unwrap();
        assert!(
            picture
                .sights
                .iter()
                .all(|s| s.units % 4 == 0 && s.units >= 8),
            "whole sites, two at least"
        );
    }

    #[test]
    fn more_units_see_smaller_differences() {
        let picture = picture(layout(4, 1), 4, Goal::Beat, 8.0, 10.0).unwrap();
        assert!(
            picture
                .sights
                .windows(2)
                .all(|w| w[0].smallest_percent > w[1].smallest_percent)
        );
        assert!(picture.sights.windows(2).all(|w| w[0].power < w[1].power));
        assert_eq!(picture.sights[picture.planned.unwrap()].units, 4);
        let needed = picture.units_needed.unwrap();
        assert!(
            picture
                .sights
                .iter()
                .all(|s| (s.units >= needed) == (s.power >= USUAL_POWER))
        );
    }

    #[test]
    fn fuller_blocks_leave_more_degrees_of_freedom() {
        let sees = |per_block| {
            picture(layout(2, per_block), 8, Goal::Beat, 8.0, 10.0)
                .unwrap()
                .sights[6]
                .smallest_percent
        };
        assert!(sees(0) < sees(4) && sees(4) < sees(2) && sees(2) < sees(1));
        let needed = picture(layout(2, 4), 8, Goal::Beat, 8.0, 7.0)
            .unwrap()
            .units_needed
            .unwrap();
        assert!(needed.is_multiple_of(4), "whole levels: {needed}");
        assert_eq!(
            (
                layout(2, 0).blocks(8),
                layout(2, 2).blocks(8),
                layout(2, 2).blocks(1)
            ),
            (1, 4, 1)
        );
    }

    /// Three treatments in pairs: the difference of two has variance 2 s^2 / (r E), E = 3/4, with
    /// N - b - t + 1 degrees of freedom. Nine pairs, r = 6, df = 18 - 9 - 2: Dunnett's two-sided
    /// 5 % point of 2 comparisons on 7 df is 2.75 (Dunnett 1964, table II, from memory).
    #[test]
    fn pairs_that_leave_one_out_see_less_than_whole_blocks() {
        let in_turn = Layout {
            in_turn: true,
            ..layout(3, 0)
        };
        assert_eq!(
            (in_turn.blocks(4), in_turn.step(), in_turn.plan(4).df()),
            (6, 2, 4.0)
        );
        assert!((in_turn.plan(6).critical().unwrap() - 2.75).abs() < 0.006);
        assert!((in_turn.effect() - 0.75f64.sqrt()).abs() < 1e-12);
        let sees = |layout: Layout| {
            let picture = picture(layout, 4, Goal::Beat, 8.0, 10.0).unwrap();
            picture.sights[picture.planned.unwrap()]
        };
        let (turn, whole) = (sees(in_turn), sees(layout(3, 1)));
        assert!(turn.smallest_percent > whole.smallest_percent && turn.power < whole.power);
        assert_eq!(turn.smallest_redeal_p, 0.5, "two meet in two pairs");
        assert!(
            picture(in_turn, 5, Goal::Beat, 8.0, 10.0)
                .unwrap()
                .planned
                .is_none(),
            "no whole turn"
        );
    }

    /// For the goal match the chance is that of the lower limit passing minus the margin when
    /// nothing is lost: half a false alarm at no margin, or less; the smallest margin shown is
    /// found with the usual chance.
    #[test]
    fn matching_is_another_question_than_beating() {
        let plan = layout(2, 0);
        assert!((plan.usual_chance(6, Goal::Match, 0.0).unwrap() - 0.025).abs() < 1e-9);
        assert!(plan.chance(6, Goal::Match, 0.0).unwrap() < 0.025);
        let smallest = plan.smallest(6, Goal::Match).unwrap();
        assert!((plan.chance(6, Goal::Match, smallest).unwrap() - USUAL_POWER).abs() < 1e-9);
        assert!(
            (smallest / plan.smallest(6, Goal::Beat).unwrap() - 1.0).abs() < 0.02,
            "one tail is as good as two"
        );
        let at_once = |goal| picture(plan, 6, goal, 8.0, 1.0).unwrap().sights[4].power;
        assert!(
            at_once(Goal::Match) < at_once(Goal::Beat),
            "a margin next to nothing"
        );
    }

    #[test]
    fn nonsense_is_refused() {
        for (treatments, cv, margin) in [
            (1, 8.0, 10.0),
            (2, 0.0, 10.0),
            (2, 8.0, f64::NAN),
            (2, 8.0, -1.0),
        ] {
            assert!(picture(layout(treatments, 0), 4, Goal::Beat, cv, margin).is_err());
        }
    }
}
