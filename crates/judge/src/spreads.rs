//! Limits that allow for treatments which do not scatter alike.
//!
//! The pooled model lends every treatment the same spread. Where one scatters three times as much,
//! that claims a difference in 7 to 23 of 100 seasons without one, most where the wild one has the
//! fewest units. So the treatment that scatters most for its number is looked at: where it stands
//! out, or where numbers differ so much that a wrong spread would do harm, a comparison with it is
//! decided by a model with a spread of its own. How readily, `readiness` says; docs/decisions has
//! the figures it was chosen by.

use super::deciding::sidak_confidence;
use super::units::Units;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::t_quantile_upper;
use iron_twin_stats::linear::{self, Layout, MeansFit, Observation};
use iron_twin_stats::two_spreads::TwoSpreads;

/// Limits of one comparison, for all comparisons together.
pub(crate) struct SpreadLimits {
    /// What they allow for, as [`DecidedBy`](crate::result::DecidedBy) names it.
    pub name: &'static str,
    pub low: f64,
    pub high: f64,
    /// Standard error of the difference.
    pub se: f64,
    pub df: f64,
}

/// The units whose spread can be told, and which of them scatters otherwise.
pub(crate) struct Spreads {
    rows: Vec<Observation>,
    layout: Layout,
    /// The number of each treatment among those kept; None for one whose units are all alike.
    place: Vec<Option<usize>>,
    base: MeansFit,
    wild: Option<TwoSpreads>,
}

/// Chance, where all scatter alike, with which a treatment is given a spread of its own. More
/// readily with few units, which show a wrong spread least, and where numbers differ, which makes
/// it worst. By simulation: false claims stay below 6 of 100 with one treatment three times as
/// variable, and equal spreads cost at most 3 points of power from 4 against 4 on.
///
/// With several treatments of unlike numbers the others show the usual spread well, and it takes a
/// sign at least.
fn readiness(fewest: usize, most: usize, treatments: usize) -> f64 {
    const OF_FOUR: f64 = 0.1;
    const OF_TWO: f64 = 0.2;
    const A_SIGN: f64 = 0.15;
    let (fewest, most) = (fewest.max(1) as f64, most as f64);
    let ready = (OF_FOUR * (4.0 / fewest).powi(4)).min(OF_TWO) * (most / fewest).powi(8);
    if treatments > 2 && most > fewest {
        ready.min(A_SIGN)
    } else {
        ready
    }
}

impl Spreads {
    /// None where the pooled model may decide everything. `suspect` says that another test already
    /// found spreads unlike.
    pub(crate) fn of(
        units: &Units,
        layout: Layout,
        suspect: bool,
    ) -> Result<Option<Self>, StatsError> {
        let flat: Vec<bool> = (0..layout.treatments).map(|t| units.is_flat(t)).collect();
        let mut place = vec![None; layout.treatments];
        let mut kept = 0;
        for t in (0..layout.treatments).filter(|&t| !flat[t]) {
            place[t] = Some(kept);
            kept += 1;
        }
        // Against a control that does not scatter nothing is decided, and one treatment has nothing
        // to differ from.
        if flat[0] || kept < 2 {
            return Ok(None);
        }
        let rows: Vec<Observation> = units
            .rows
            .iter()
            .filter_map(|r| {
                Some(Observation {
                    treatment: place[r.treatment]?,
                    ..*r
                })
            })
            .collect();
        let layout = Layout {
            treatments: kept,
            ..layout
        };
        let Ok(base) = linear::fit(&rows, layout) else {
            return Ok(None);
        };
        if !(base.df > 0.0) {
            return Ok(None);
        }
        let counts = units
            .counts
            .iter()
            .zip(&flat)
            .filter(|(_, flat)| !**flat)
            .map(|(n, _)| *n);
        let (fewest, most) = (counts.clone().min().unwrap_or(1), counts.max().unwrap_or(1));
        let ready = readiness(fewest, most, kept);
        let wild = TwoSpreads::of(&rows, layout)?.filter(|w| suspect || w.p < ready);
        Ok((wild.is_some() || kept < flat.len()).then_some(Self {
            rows,
            layout,
            place,
            base,
            wild,
        }))
    }

    /// Limits of a treatment against the control; None where the pooled model's own decide. `usual`
    /// is the critical value of all comparisons together in the pooled model, with its degrees of
    /// freedom.
    pub(crate) fn limits(
        &self,
        treatment: usize,
        confidence: f64,
        usual: Option<(f64, f64)>,
    ) -> Result<Option<SpreadLimits>, StatsError> {
        let Some(t) = self.place[treatment] else {
            return Ok(None);
        };
        if let Some(wild) = self.wild.as_ref().filter(|w| w.wild == t || w.wild == 0) {
            let gap = wild.gap(&self.rows, self.layout, t, 0)?;
            let reach = self.critical(gap.df, confidence, usual)? * gap.se;
            let (low, high) = (gap.estimate - reach, gap.estimate + reach);
            return Ok(Some(SpreadLimits {
                name: "unequal_spread",
                low,
                high,
                se: gap.se,
                df: gap.df,
            }));
        }
        if self.layout.treatments == self.place.len() {
            return Ok(None);
        }
        let gap = self.base.difference(t, 0);
        let reach = self.critical(self.base.df, confidence, usual)? * gap.se;
        let (low, high) = (gap.estimate - reach, gap.estimate + reach);
        Ok(Some(SpreadLimits {
            name: "varying_units",
            low,
            high,
            se: gap.se,
            df: self.base.df,
        }))
    }

    /// Student's critical value at these degrees of freedom; where several are compared Dunnett's,
    /// carried over from those of the pooled model in the proportion in which Sidak's changes, from
    /// which it never lies far.
    fn critical(
        &self,
        df: f64,
        confidence: f64,
        usual: Option<(f64, f64)>,
    ) -> Result<f64, StatsError> {
        let comparisons = self.place.len() - 1;
        let student =
            |df: f64| t_quantile_upper(0.5 * (1.0 - sidak_confidence(confidence, comparisons)), df);
        match usual {
            Some((critical, usual_df)) if comparisons > 1 => {
                Ok(critical * student(df)? / student(usual_df)?)
            }
            _ => student(df),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::readiness;

    #[test]
    fn few_units_and_unlike_numbers_make_it_readier() {
        assert!((readiness(4, 4, 2) - 0.1).abs() < 1e-12);
        assert!(
            readiness(2, 2, 2) == 0.2 && readiness(6, 6, 2) < 0.02 && readiness(12, 12, 2) < 0.002
        );
        assert!(readiness(4, 8, 2) > 1.0, "eight against four: always");
        assert!(readiness(8, 10, 2) < 0.05);
        assert_eq!(readiness(3, 20, 4), 0.15);
    }
}
