//! What a planned trial could see: chance to find the margin, smallest difference found, units
//! needed, floor of the re-deal; for amounts, counts, shares and days, to beat the control or to
//! match it. `iron-twin power` calls it.

mod days;

use iron_twin_judge::strictness::{Laid, Strictness};
use iron_twin_stats::StatsError;
use iron_twin_stats::power::{PowerPlan, fewest_units};
use iron_twin_terms::goal::Goal;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use serde::Serialize;

/// How units of one treatment are expected to differ.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Spread {
    /// Amounts.
    Amount {
        /// Coefficient of variation between units, per cent.
        cv_percent: f64,
        /// The same among samples inside a unit; 0 where the unit is measured whole.
        within_cv_percent: f64,
        /// Samples of each unit.
        samples: usize,
    },
    /// Counts, on the log scale.
    Count {
        /// Expected count of a control unit.
        mean: f64,
        /// Variance over mean; 1 for things that fall independently.
        dispersion: f64,
    },
    /// Shares, in percentage points.
    Share {
        /// Expected share of the control, 0 to 1.
        share: f64,
        /// The n of a unit.
        out_of: f64,
        /// Variance over the binomial one; 1 where a unit's members are independent.
        dispersion: f64,
    },
    /// Days to an event, by playing seasons.
    Days {
        /// Mean of the control.
        mean: f64,
        /// Coefficient of variation between units, per cent.
        cv_percent: f64,
        /// Last day on which somebody looks; None where it is waited for to the end.
        until: Option<f64>,
        /// Whether the treatment is hoped to come sooner than the control; else later.
        sooner: bool,
        /// Seed of the seasons.
        seed: u64,
    },
}

impl Spread {
    /// Kind of measure that it describes.
    #[must_use]
    pub fn kind(&self) -> Kind {
        match self {
            Self::Amount { .. } => Kind::Amount,
            Self::Count { .. } => Kind::Count,
            Self::Share { .. } => Kind::Share,
            Self::Days { .. } => Kind::Days,
        }
    }
}

/// A planned trial.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PlannedTrial {
    /// Treatments, control included.
    pub treatments: usize,
    /// Units of each treatment.
    pub units: usize,
    /// Blocks over which a treatment's units are spread evenly; 1 where there are none.
    pub blocks: usize,
    /// Confidence of the intervals.
    pub confidence: f64,
    /// Chance that is wanted, for instance 0.8.
    pub power: f64,
    /// Smallest difference that matters.
    pub margin: Margin,
    /// Beat the control by the margin, or match it within.
    pub goal: Goal,
    /// How units differ.
    pub spread: Spread,
}

/// Why a plan cannot be judged.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
#[non_exhaustive]
pub enum ForesightError {
    /// Units do not go evenly into the blocks.
    #[error(
        "{units} units of a treatment cannot be spread evenly over {blocks} blocks; make it a \
         multiple of {blocks}"
    )]
    Uneven {
        /// Units of each treatment.
        units: usize,
        /// Blocks.
        blocks: usize,
    },
    /// A margin in units where there is no unit.
    #[error("the margin must be in per cent of the control, such as 10%, not {0}")]
    MarginInUnits(f64),
    /// Days are compared without blocks.
    #[error("`kind` days compares plain groups; leave out `blocks`")]
    DaysInBlocks,
    /// A treatment would have to go beyond all or none.
    #[error("with {share} % in the control a margin of {margin} points goes beyond 0 or 100 %")]
    BeyondAll {
        /// The control's share, per cent.
        share: f64,
        /// The margin, points.
        margin: f64,
    },
    /// A number outside its range.
    #[error(transparent)]
    Stats(#[from] StatsError),
}

/// The smallest difference that is found with the wanted chance.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Smallest {
    /// In per cent of the control.
    pub percent: Option<f64>,
    /// In standard deviations of a unit (counts: of a unit's logarithm).
    pub sd: f64,
    /// Shares: in percentage points.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub points: Option<f64>,
}

/// What the verdict could see: the usual test less what the re-deal and the allowance for unlike
/// spreads cost.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct VerdictSight {
    /// Chance of a verdict on a true difference of the margin (goal match: that nothing is lost
    /// when nothing is).
    pub power: f64,
    /// The smallest difference on which there is a verdict with the wanted chance. Null for the
    /// goal match.
    pub smallest_detectable: Option<Smallest>,
    /// Fewest units of a treatment with the wanted chance of a verdict; null beyond 20,000.
    pub units_needed: Option<usize>,
}

/// What the plan could see.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Foresight {
    /// The usual test's chance to find a true difference of the margin (goal match: to show that
    /// nothing is lost when nothing is).
    pub power: f64,
    /// Null for the goal match.
    pub smallest_detectable: Option<Smallest>,
    /// Fewest units of a treatment with the wanted chance; null beyond 20,000.
    pub units_needed: Option<usize>,
    /// Goal match: chance to show that the two differ by less than the margin either way, when they
    /// are alike.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub power_same: Option<f64>,
    /// Days: seasons played, so that the chances are off by up to about 1.5 in a hundred.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub seasons: Option<usize>,
    /// The same of the verdict.
    pub verdict: VerdictSight,
    /// Smallest p that any deal of these units could give.
    pub smallest_possible_p: f64,
}

fn within(what: &'static str, got: f64, min: f64, max: f64) -> Result<(), StatsError> {
    if got > min && got <= max {
        Ok(())
    } else {
        Err(StatsError::OutOfRange {
            what,
            min,
            max,
            got,
        })
    }
}

impl PlannedTrial {
    fn check(&self) -> Result<(), ForesightError> {
        within("confidence", self.confidence, 0.0, 1.0 - 1e-9)?;
        within("power", self.power, 1.0 - self.confidence, 1.0 - 1e-9)?;
        if self.blocks == 0 || !self.units.is_multiple_of(self.blocks) {
            return Err(ForesightError::Uneven {
                units: self.units,
                blocks: self.blocks,
            });
        }
        match self.spread {
            Spread::Amount {
                cv_percent,
                within_cv_percent,
                samples,
            } => {
                within("spread between units in per cent", cv_percent, 0.0, 1000.0)?;
                within(
                    "spread within a unit in per cent",
                    within_cv_percent + 1.0,
                    0.0,
                    1001.0,
                )?;
                within("samples of a unit", samples as f64, 0.0, 1e6)?;
            }
            Spread::Count { mean, dispersion } => {
                within("count of a unit", mean, 0.0, 1e12)?;
                within("dispersion", dispersion, 0.0, 1e6)?;
            }
            Spread::Days {
                mean,
                cv_percent,
                until,
                ..
            } => {
                within("mean days", mean, 0.0, 1e5)?;
                within("spread between units in per cent", cv_percent, 0.5, 300.0)?;
                within("last day", until.unwrap_or(1e6), 1.0, 1e6)?;
                if self.blocks != 1 {
                    return Err(ForesightError::DaysInBlocks);
                }
            }
            Spread::Share {
                share,
                out_of,
                dispersion,
            } => {
                within("share of the control", share, 0.0, 1.0 - 1e-12)?;
                within("n of a unit", out_of, 0.0, 1e12)?;
                within("dispersion", dispersion, 0.0, 1e6)?;
            }
        }
        Ok(())
    }

    /// The margin on the scale of the model: a share of the mean, a share of the count, or a share
    /// of one.
    fn step(&self) -> Result<f64, ForesightError> {
        match (self.spread, self.margin) {
            (Spread::Share { share, .. }, margin) => {
                let step = match margin {
                    Margin::Absolute(points) => 0.01 * points,
                    Margin::Percent(percent) => 0.01 * percent * share,
                };
                let beyond = share + step >= 1.0 && share - step <= 0.0;
                if beyond {
                    return Err(ForesightError::BeyondAll {
                        share: 100.0 * share,
                        margin: 100.0 * step,
                    });
                }
                Ok(step)
            }
            (_, Margin::Percent(percent)) => Ok(0.01 * percent),
            (Spread::Days { mean, .. }, Margin::Absolute(days)) => Ok(days / mean),
            (_, Margin::Absolute(value)) => Err(ForesightError::MarginInUnits(value)),
        }
    }

    /// A true difference of `step`, in standard deviations of a unit as the comparison sees them.
    fn effect_sd(&self, step: f64) -> f64 {
        let alike = self.goal == Goal::Match;
        match self.spread {
            Spread::Amount {
                cv_percent,
                within_cv_percent,
                samples,
            } => {
                let variance = cv_percent * cv_percent
                    + within_cv_percent * within_cv_percent / samples as f64;
                100.0 * step / variance.sqrt()
            }
            Spread::Count { mean, dispersion } => {
                let ratio = if alike { 1.0 } else { 1.0 + step };
                let distance = if alike {
                    -(-step.min(0.999)).ln_1p()
                } else {
                    step.ln_1p()
                };
                let variance = dispersion * (1.0 / mean + 1.0 / (ratio * mean));
                distance / (0.5 * variance).sqrt()
            }
            // Days are played out season by season, never through a formula.
            Spread::Days { cv_percent, .. } => 100.0 * step / cv_percent,
            Spread::Share {
                share,
                out_of,
                dispersion,
            } => {
                // Up where there is room, else down: the variance is that of the side where the
                // treatment would lie.
                let moved = if share + step < 1.0 {
                    share + step
                } else {
                    share - step
                };
                let other = if alike { share } else { moved };
                let variance =
                    dispersion * (share * (1.0 - share) + other * (1.0 - other)) / out_of;
                step / (0.5 * variance).sqrt()
            }
        }
    }

    fn plan(&self, units: usize) -> PowerPlan {
        PowerPlan {
            treatments: self.treatments,
            units,
            blocks: self.blocks,
            covariates: 0,
            confidence: self.confidence,
        }
    }

    fn chance(&self, units: usize, effect: f64) -> Result<f64, StatsError> {
        match self.goal {
            Goal::Match => self.plan(units).chance_above_zero(effect),
            Goal::Beat | Goal::Best => self.plan(units).power(effect),
        }
    }

    /// What the plan could see.
    ///
    /// The comparison is two-sided, of each treatment with the control, after Dunnett where there
    /// are several. Two treatments without blocks give the classic two-sample t computation. For
    /// the goal match the chance is that of the lower limit passing minus the margin when the two
    /// are truly alike.
    ///
    /// # Errors
    /// [`ForesightError`], each naming what to change.
    ///
    /// ```
    /// use iron_twin_core::ask::foresight::{PlannedTrial, Spread};
    /// use iron_twin_terms::goal::Goal;
    /// use iron_twin_terms::quantity::Margin;
    /// let trial = PlannedTrial {
    ///     treatments: 2, units: 8, blocks: 1, confidence: 0.95, power: 0.8, margin: Margin::Percent(10.0), goal: Goal::Beat,
    ///     spread: Spread::Amount { cv_percent: 10.0, within_cv_percent: 0.0, samples: 1 },
    /// };
    /// // R 4.2.2: power.t.test(n = 8, delta = 1, strict = TRUE)$power
    /// assert!((trial.foresee()?.power - 0.461238849504).abs() < 1e-9);
    /// # Ok::<(), iron_twin_core::ask::foresight::ForesightError>(())
    /// ```
    pub fn foresee(&self) -> Result<Foresight, ForesightError> {
        self.check()?;
        let step = self.step()?;
        if let Spread::Days {
            mean,
            cv_percent,
            until,
            sooner,
            seed,
        } = self.spread
        {
            let until = until.unwrap_or(f64::MAX);
            return self.by_seasons(
                &days::Days {
                    mean,
                    cv_percent,
                    until,
                    sooner,
                    seed,
                },
                step,
            );
        }
        let effect = self.effect_sd(step);
        let plan = self.plan(self.units);
        let power = self.chance(self.units, effect)?;
        let alike = self.goal == Goal::Match;
        let reached = |wanted: &dyn Fn(usize) -> f64| {
            fewest_units(self.blocks, |units| {
                self.chance(units, effect)
                    .is_ok_and(|chance| chance >= wanted(units))
            })
        };
        let strict = self.strictness(self.units);
        let verdict = VerdictSight {
            power: strict.chance(self.goal, power),
            smallest_detectable: match alike {
                true => None,
                false => Some(self.smallest(&plan, strict.usual(self.goal, self.power))?),
            },
            units_needed: reached(&|units| self.strictness(units).usual(self.goal, self.power)),
        };
        Ok(Foresight {
            power,
            smallest_detectable: if alike {
                None
            } else {
                Some(self.smallest(&plan, self.power)?)
            },
            units_needed: reached(&|_| self.power),
            power_same: if alike {
                Some(plan.chance_within(effect)?)
            } else {
                None
            },
            seasons: None,
            verdict,
            smallest_possible_p: plan.smallest_redeal_p(),
        })
    }

    fn by_seasons(&self, days: &days::Days, step: f64) -> Result<Foresight, ForesightError> {
        let plan = self.plan(self.units);
        // Two units a side are the least that show a spread.
        within("units of a treatment", self.units as f64, 1.0, 2000.0)?;
        within("treatments", self.treatments as f64, 1.0, 1e4)?;
        let confidence = self.confidence.powf(1.0 / (self.treatments - 1) as f64);
        let wanted = days::Wanted {
            goal: self.goal,
            confidence,
            margin: step * days.mean,
        };
        let alike = self.goal == Goal::Match;
        let longer = if alike { 1.0 } else { days.factor(step) };
        let smallest = |power: f64| -> Result<Option<Smallest>, StatsError> {
            let found = if alike {
                None
            } else {
                days.smallest(self.units, &wanted, power)?
            };
            let told = |s| Smallest {
                percent: Some(100.0 * s),
                sd: 100.0 * s / days.cv_percent,
                points: None,
            };
            Ok(found.map(told))
        };
        let power = days.chance(self.units, longer, &wanted)?;
        let strict = self.strictness(self.units);
        let verdict = VerdictSight {
            power: strict.chance(self.goal, power),
            smallest_detectable: smallest(strict.usual(self.goal, self.power))?,
            units_needed: days.fewest(longer, &wanted, |units| {
                self.strictness(units).usual(self.goal, self.power)
            })?,
        };
        Ok(Foresight {
            power,
            smallest_detectable: smallest(self.power)?,
            units_needed: days.fewest(longer, &wanted, |_| self.power)?,
            power_same: None,
            verdict,
            seasons: Some(days::SEASONS),
            smallest_possible_p: plan.smallest_redeal_p(),
        })
    }

    /// How much more a verdict asks than the usual test.
    fn strictness(&self, units: usize) -> Strictness {
        let laid = if self.blocks > 1 {
            Laid::InBlocks(units / self.blocks)
        } else {
            Laid::Freely
        };
        Strictness::of(self.treatments, laid, units)
    }

    fn smallest(&self, plan: &PowerPlan, power: f64) -> Result<Smallest, StatsError> {
        let sd = plan.smallest_detectable(power)?;
        // The step whose effect is that: the effect rises with the step, so halving finds it.
        let (mut low, mut high) = (0.0, self.widest_step());
        if self.effect_sd(high) < sd {
            return Ok(Smallest {
                percent: None,
                sd,
                points: None,
            });
        }
        for _ in 0..200 {
            let middle = 0.5 * (low + high);
            if self.effect_sd(middle) < sd {
                low = middle;
            } else {
                high = middle;
            }
        }
        Ok(match self.spread {
            Spread::Share { share, .. } => Smallest {
                percent: Some(100.0 * high / share),
                sd,
                points: Some(100.0 * high),
            },
            _ => Smallest {
                percent: Some(100.0 * high),
                sd,
                points: None,
            },
        })
    }

    fn widest_step(&self) -> f64 {
        match self.spread {
            Spread::Share { share, .. } => share.max(1.0 - share) * (1.0 - 1e-12),
            _ => 1e6,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn amount(units: usize, cv_percent: f64) -> PlannedTrial {
        PlannedTrial {
            treatments: 2,
            units,
            blocks: 1,
            confidence: 0.95,
            power: 0.8,
            margin: Margin::Percent(10.0),
            goal: Goal::Beat,
            spread: Spread::Amount {
                cv_percent,
                within_cv_percent: 0.0,
                samples: 1,
            },
        }
    }

    #[test]
    fn the_smallest_difference_is_found_with_the_wanted_chance() {
        let shares = Spread::Share {
            share: 0.4,
            out_of: 30.0,
            dispersion: 1.5,
        };
        let counts = Spread::Count {
            mean: 12.0,
            dispersion: 2.0,
        };
        for spread in [amount(5, 8.0).spread, shares, counts] {
            let trial = PlannedTrial {
                spread,
                units: 5,
                ..amount(5, 8.0)
            };
            let smallest = trial
                .foresee()
                .unwrap()
                .smallest_detectable
                .unwrap()
                .percent
                .unwrap();
            let again = PlannedTrial {
                margin: Margin::Percent(smallest),
                ..trial
            }
            .foresee()
            .unwrap();
            assert!(
                (again.power - 0.8).abs() < 1e-6,
                "{spread:?}: {}",
                again.power
            );
            assert_eq!(again.units_needed, Some(5), "{spread:?}");
        }
    }

    #[test]
    fn another_tray_buys_more_than_another_plant_in_the_tray() {
        let spread = |samples| Spread::Amount {
            cv_percent: 8.0,
            within_cv_percent: 20.0,
            samples,
        };
        let power = |units, samples| {
            PlannedTrial {
                spread: spread(samples),
                units,
                ..amount(4, 8.0)
            }
            .foresee()
            .unwrap()
            .power
        };
        assert!(power(4, 1) < power(4, 2) && power(4, 2) < power(8, 1));
        let whole = amount(4, 8.0).foresee().unwrap().power;
        assert!(
            power(4, 100_000) < whole && whole - power(4, 100_000) < 1e-3,
            "plants alone never reach further"
        );
    }

    #[test]
    fn matching_needs_more_the_nearer_the_margin() {
        let matching = |margin| PlannedTrial {
            goal: Goal::Match,
            margin: Margin::Percent(margin),
            ..amount(6, 8.0)
        };
        let (near, far) = (
            matching(5.0).foresee().unwrap(),
            matching(15.0).foresee().unwrap(),
        );
        assert!(near.power < far.power && near.units_needed > far.units_needed);
        assert!(
            far.power_same.unwrap() < far.power,
            "both sides ask more than one"
        );
        assert!(far.smallest_detectable.is_none());
    }

    #[test]
    fn what_cannot_be_is_refused() {
        let uneven = PlannedTrial {
            blocks: 4,
            ..amount(6, 8.0)
        };
        assert_eq!(
            uneven.foresee(),
            Err(ForesightError::Uneven {
                units: 6,
                blocks: 4
            })
        );
        for trial in [
            PlannedTrial {
                margin: Margin::Absolute(5.0),
                ..amount(6, 8.0)
            },
            PlannedTrial {
                treatments: 1,
                ..amount(6, 8.0)
            },
            PlannedTrial {
                units: 1,
                ..amount(1, 8.0)
            },
            PlannedTrial {
                power: 1.0,
                ..amount(6, 8.0)
            },
            PlannedTrial {
                confidence: f64::NAN,
                ..amount(6, 8.0)
            },
            amount(6, 0.0),
            amount(6, f64::NAN),
            PlannedTrial {
                spread: Spread::Share {
                    share: 1.2,
                    out_of: 10.0,
                    dispersion: 1.0,
                },
                ..amount(6, 8.0)
            },
        ] {
            assert!(trial.foresee().is_err(), "{trial:?}");
        }
    }
}
