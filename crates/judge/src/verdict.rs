//! From interval to verdict, by one table.

use iron_twin_terms::goal::Better;
use iron_twin_terms::goal::Goal;
use serde::{Deserialize, Serialize};

/// What was learned of one treatment against the control.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// Better, and by more than the margin.
    BetterByMargin,
    /// Worse, and by more than the margin.
    WorseByMargin,
    /// Apart by less than the margin, either way.
    Same,
    /// Better, by an amount that may lie below the margin.
    Better,
    /// Worse, by an amount that may lie below the margin.
    Worse,
    /// At worst it gives up less than the margin.
    GoodEnough,
    /// It gives up more than the margin.
    NotGoodEnough,
    /// The interval leaves it open.
    #[default]
    CannotTell,
}

impl Verdict {
    /// Whether the verdict claims a difference in one direction.
    ///
    /// ```
    /// use iron_twin_judge::verdict::Verdict;
    /// assert!(Verdict::Better.claims_difference() && !Verdict::Same.claims_difference());
    /// ```
    #[must_use]
    pub fn claims_difference(self) -> bool {
        matches!(
            self,
            Self::BetterByMargin | Self::WorseByMargin | Self::Better | Self::Worse
        )
    }
}

/// Limits of the true gain, positive where the treatment is better.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gain {
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
}

impl Gain {
    /// Turns limits of treatment minus control into limits of the gain.
    ///
    /// ```
    /// use iron_twin_terms::goal::Better;
    /// use iron_twin_judge::verdict::Gain;
    /// assert_eq!(Gain::of(-3.0, -1.0, Better::Lower), Gain { low: 1.0, high: 3.0 });
    /// ```
    #[must_use]
    pub fn of(low: f64, high: f64, better: Better) -> Self {
        match better {
            Better::Higher => Self { low, high },
            Better::Lower => Self {
                low: -high,
                high: -low,
            },
        }
    }
}

/// The verdict that an interval gives; the first rule that holds decides. `margin` is 0 where none
/// was given.
///
/// ```
/// use iron_twin_judge::verdict::{decide, Gain, Verdict};
/// use iron_twin_terms::goal::Goal;
/// assert_eq!(decide(Goal::Beat, Gain { low: 7.0, high: 16.0 }, 4.5), Verdict::BetterByMargin);
/// assert_eq!(decide(Goal::Match, Gain { low: -3.0, high: 6.0 }, 4.5), Verdict::GoodEnough);
/// ```
#[must_use]
pub fn decide(goal: Goal, gain: Gain, margin: f64) -> Verdict {
    let Gain { low, high } = gain;
    let with_margin = margin > 0.0;
    let same = with_margin && -margin < low && high < margin;
    if with_margin && low > margin {
        return Verdict::BetterByMargin;
    }
    match goal {
        Goal::Beat | Goal::Best => {
            if with_margin && high < -margin {
                Verdict::WorseByMargin
            } else if same {
                Verdict::Same
            } else if low > 0.0 {
                Verdict::Better
            } else if high < 0.0 {
                Verdict::Worse
            } else {
                Verdict::CannotTell
            }
        }
        Goal::Match => {
            if low > 0.0 {
                Verdict::Better
            } else if same {
                Verdict::Same
            } else if low > -margin {
                Verdict::GoodEnough
            } else if high < -margin {
                Verdict::NotGoodEnough
            } else {
                Verdict::CannotTell
            }
        }
    }
}

/// Why an interval does not decide.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Doubt {
    /// A treatment stands in one unit only: the unit cannot be told from the treatment.
    OneUnit,
    /// Nothing varies, or no degrees of freedom are left.
    NoSpread,
    /// The re-deal could have confirmed the difference and did not.
    Redeal,
    /// Spreads differ, and the comparison that allows for it cannot tell.
    UnequalSpread,
    /// Days: too many had not come to it by the day up to which they are counted to say that two do
    /// the same.
    Unseen,
    /// Looked at beside other measures, chance brings one as far apart too often.
    Several,
}

#[cfg(test)]
mod tests {
    use super::*;

    fn at(goal: Goal, low: f64, high: f64, margin: f64) -> Verdict {
        decide(goal, Gain { low, high }, margin)
    }

    #[test]
    fn every_row_of_the_table() {
        use Goal::{Beat, Best, Match};
        use Verdict::*;
        let rows = [
            (Beat, 6.0, 9.0, 5.0, BetterByMargin),
            (Beat, -9.0, -6.0, 5.0, WorseByMargin),
            (Beat, 1.0, 4.0, 5.0, Same),
            (Best, 1.0, 9.0, 5.0, Better),
            (Beat, -9.0, -1.0, 5.0, Worse),
            (Beat, -1.0, 9.0, 5.0, CannotTell),
            (Beat, 1.0, 4.0, 0.0, Better),
            (Beat, -4.0, -1.0, 0.0, Worse),
            (Match, 6.0, 9.0, 5.0, BetterByMargin),
            (Match, 1.0, 4.0, 5.0, Better),
            (Match, -4.0, 4.0, 5.0, Same),
            (Match, -4.0, 9.0, 5.0, GoodEnough),
            (Match, -9.0, -6.0, 5.0, NotGoodEnough),
            (Match, -9.0, 1.0, 5.0, CannotTell),
        ];
        for (goal, low, high, margin, want) in rows {
            assert_eq!(
                at(goal, low, high, margin),
                want,
                "{goal:?} {low} {high} {margin}"
            );
        }
    }

    #[test]
    fn lower_is_better_turns_the_interval() {
        assert_eq!(
            Gain::of(2.0, 5.0, Better::Lower),
            Gain {
                low: -5.0,
                high: -2.0
            }
        );
        assert_eq!(
            decide(Goal::Beat, Gain::of(-9.0, -6.0, Better::Lower), 5.0),
            Verdict::BetterByMargin
        );
    }
}
