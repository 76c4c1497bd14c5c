//! One treatment that scatters otherwise than the rest: the linear model with two spreads, one of
//! its own and one of all others.
//!
//! The residual sum of squares falls into that of the other treatments by themselves and what the
//! one adds; under equal spread the two are independent, and their mean squares follow F. With both
//! spreads known a difference of adjusted means, a weighted sum of the rows, has its variance, and
//! Satterthwaite's degrees of freedom from the two sums. Without blocks and with two treatments
//! this is Welch's comparison. Source: Satterthwaite 1946; Welch 1947; for blocks the sums of
//! squares of Grubbs 1948.

use super::StatsError;
use super::distributions::f_upper;
use super::linear::{Layout, Observation, difference_weights, fit};

/// The model with a spread for one treatment and one for the rest.
#[derive(Debug, Clone)]
pub struct TwoSpreads {
    /// The treatment with a spread of its own.
    pub wild: usize,
    /// Upper tail of F: how seldom the treatment would scatter so much more than the others where
    /// all scatter alike.
    pub p: f64,
    /// Sum of squares that the treatment adds, and its degrees of freedom.
    own: (f64, f64),
    /// Sum of squares of the others by themselves, and its degrees of freedom.
    others: (f64, f64),
    /// Share of the residuals that belong to the treatment, and to the others: sums of one less the
    /// leverage.
    room: (f64, f64),
}

/// A difference of two means with its standard error under two spreads.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Gap {
    /// First minus second.
    pub estimate: f64,
    /// Standard error.
    pub se: f64,
    /// Satterthwaite's degrees of freedom.
    pub df: f64,
}

impl TwoSpreads {
    /// The model in which the treatment that scatters most for its number has a spread of its own;
    /// None where no treatment can be told from the rest, as in pairs, whose differences have one
    /// spread only.
    ///
    /// # Errors
    /// As [`fit`] of all rows.
    ///
    /// ```
    /// use iron_twin_stats::linear::{Layout, Observation};
    /// use iron_twin_stats::two_spreads::TwoSpreads;
    /// use iron_twin_stats::welch::welch;
    /// let (even, wild) = ([10.0, 11.0, 9.0, 10.5], [4.0, 16.0, 9.0, 21.0]);
    /// let row = |treatment, value| Observation { value, treatment, block: 0, column: 0, baseline: 0.0, unit: 0 };
    /// let rows: Vec<_> = even.iter().map(|v| row(0, *v)).chain(wild.iter().map(|v| row(1, *v))).collect();
    /// let layout = Layout { treatments: 2, blocks: 1, columns: 1, baseline: false };
    /// let model = TwoSpreads::of(&rows, layout)?.expect("two groups");
    /// assert!(model.wild == 1 && model.p < 0.01);
    /// let gap = model.gap(&rows, layout, 1, 0)?;
    /// let beside = welch(&wild, &even, 0.95)?.expect("both scatter");
    /// assert!((gap.se - beside.se).abs() < 1e-12 && (gap.df - beside.df).abs() < 1e-12);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn of(rows: &[Observation], layout: Layout) -> Result<Option<Self>, StatsError> {
        let whole = fit(rows, layout)?;
        let all = whole.residuals.iter().map(|r| r * r).sum::<f64>();
        let mut found: Option<Self> = None;
        for wild in 0..layout.treatments {
            let Some(others) = without(rows, layout, wild).filter(|o| o.1 > 0.0 && o.0 > 0.0)
            else {
                continue;
            };
            let own = ((all - others.0).max(0.0), whole.df - others.1);
            let room = |mine: bool| -> f64 {
                let kept = rows
                    .iter()
                    .zip(&whole.leverages)
                    .filter(|(r, _)| (r.treatment == wild) == mine);
                kept.map(|(_, h)| 1.0 - h).sum()
            };
            if !(own.1 > 0.0) {
                continue;
            }
            let p = f_upper(own.0 / own.1 / (others.0 / others.1), own.1, others.1);
            if found.as_ref().is_none_or(|f| p < f.p) {
                found = Some(Self {
                    wild,
                    p,
                    own,
                    others,
                    room: (room(true), room(false)),
                });
            }
        }
        Ok(found)
    }

    /// The difference of two adjusted means, first minus second, under the two spreads.
    ///
    /// # Errors
    /// As [`fit`].
    pub fn gap(
        &self,
        rows: &[Observation],
        layout: Layout,
        first: usize,
        second: usize,
    ) -> Result<Gap, StatsError> {
        let weights = difference_weights(rows, layout, first, second)?;
        let squares = |mine: bool| -> f64 {
            let kept = rows
                .iter()
                .zip(&weights)
                .filter(|(r, _)| (r.treatment == self.wild) == mine);
            kept.map(|(_, w)| w * w).sum()
        };
        let (own, others, room) = (self.own, self.others, self.room);
        let by_own = squares(true) / room.0;
        let by_others = (by_own * (1.0 - room.1 / others.1) + squares(false) / others.1).max(0.0);
        let (a, b) = (by_own * own.0, by_others * others.0);
        let df = (a + b) * (a + b) / (a * a / own.1 + b * b / others.1);
        let estimate = rows.iter().zip(&weights).map(|(r, w)| r.value * w).sum();
        Ok(Gap {
            estimate,
            se: (a + b).sqrt(),
            df,
        })
    }
}

/// Residual sum of squares of all treatments but one, and its degrees of freedom.
fn without(rows: &[Observation], layout: Layout, gone: usize) -> Option<(f64, f64)> {
    let mut block_of = vec![usize::MAX; layout.blocks];
    let mut column_of = vec![usize::MAX; layout.columns];
    let (mut blocks, mut columns) = (0, 0);
    let numbered = |names: &mut Vec<usize>, place: usize, next: &mut usize| {
        if names[place] == usize::MAX {
            names[place] = *next;
            *next += 1;
        }
        names[place]
    };
    let mut kept = Vec::with_capacity(rows.len());
    for row in rows.iter().filter(|r| r.treatment != gone) {
        let block = numbered(&mut block_of, row.block, &mut blocks);
        let column = numbered(&mut column_of, row.column, &mut columns);
        let treatment = row.treatment - usize::from(row.treatment > gone);
        kept.push(Observation {
            treatment,
            block,
            column,
            ..*row
        });
    }
    let layout = Layout {
        treatments: layout.treatments - 1,
        blocks,
        columns,
        ..layout
    };
    if kept.len() <= layout.rank() {
        return None;
    }
    let fit = fit(&kept, layout).ok()?;
    Some((fit.residuals.iter().map(|r| r * r).sum(), fit.df))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn row(treatment: usize, block: usize, value: f64) -> Observation {
        Observation {
            value,
            treatment,
            block,
            column: 0,
            baseline: 0.0,
            unit: 0,
        }
    }

    /// In complete blocks the difference of the wild one from the mean of the others has their
    /// variances plainly: both ways to the same number, by hand and by weights.
    #[test]
    fn in_complete_blocks_it_is_the_differences_by_block() {
        let values = [
            [10.0, 11.0, 30.0],
            [12.0, 12.5, 9.0],
            [9.0, 10.5, 22.0],
            [13.0, 12.0, 2.0],
        ];
        let rows: Vec<Observation> = (values.iter().enumerate())
            .flat_map(|(b, own)| own.iter().enumerate().map(move |(t, v)| row(t, b, *v)))
            .collect();
        let layout = Layout {
            treatments: 3,
            blocks: 4,
            columns: 1,
            baseline: false,
        };
        let model = TwoSpreads::of(&rows, layout).unwrap().unwrap();
        assert_eq!(model.wild, 2);
        let variance = |d: &[f64]| {
            let mean = d.iter().sum::<f64>() / d.len() as f64;
            d.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / (d.len() as f64 - 1.0)
        };
        let led: Vec<f64> = values.iter().map(|v| v[2] - 0.5 * (v[0] + v[1])).collect();
        let apart: Vec<f64> = values.iter().map(|v| v[1] - v[0]).collect();
        // Half the variance of a difference of two others is the spread of one.
        let (wild, other) = (variance(&led), 0.5 * variance(&apart));
        let gap = model.gap(&rows, layout, 2, 0).unwrap();
        let expected = (wild + 0.5 * other) / 4.0;
        assert!(
            (gap.se * gap.se - expected).abs() < 1e-12,
            "{} {expected}",
            gap.se * gap.se
        );
        let df =
            expected.powi(2) / ((wild / 4.0).powi(2) / 3.0 + (0.5 * other / 4.0).powi(2) / 3.0);
        assert!((gap.df - df).abs() < 1e-9, "{} {df}", gap.df);
        // Two of the others: by their own spread alone.
        let plain = model.gap(&rows, layout, 1, 0).unwrap();
        assert!((plain.se * plain.se - 2.0 * other / 4.0).abs() < 1e-12);
    }

    #[test]
    fn pairs_have_one_spread_only() {
        let rows = [
            row(0, 0, 1.0),
            row(1, 0, 4.0),
            row(0, 1, 2.0),
            row(1, 1, 9.0),
            row(0, 2, 5.0),
            row(1, 2, 3.0),
        ];
        let layout = Layout {
            treatments: 2,
            blocks: 3,
            columns: 1,
            baseline: false,
        };
        assert!(TwoSpreads::of(&rows, layout).unwrap().is_none());
    }
}
