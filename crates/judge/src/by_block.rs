//! Treatment by block: whether a treatment does the same in every block, and when that is what a
//! difference must be held against.
//!
//! Where a block holds several units of a treatment, units show how alike trays of one shelf are,
//! and nothing about how alike shelves, sites or rounds are. A claim that is to hold at a further
//! site is held against what sites differ in: the means of the cells then stand for the units.
//! Source: Yates and Cochran 1938; for the preliminary test Bancroft 1964.

use super::table::Table;
use super::units::Units;
use crate::result::{BlockGap, ByBlockOut};
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::f_upper;
use iron_twin_stats::linear::{self, Layout, Observation};
use iron_twin_terms::dealing::{BlocksAre, Restriction};
use std::collections::BTreeMap;

/// Below this p a treatment is said not to do the same in every block.
const FOUND: f64 = 0.05;
/// Alike corners of one room: below this p the data speak for holding a difference against
/// treatment x block.
const ALIKE: f64 = 0.05;
/// Where nobody said what the blocks are: more readily, because they may be sites (Bancroft 1964
/// recommends 0.25).
const UNSAID: f64 = 0.25;

/// Treatment by block, where blocks hold several units of a treatment.
pub(crate) struct ByBlock {
    /// The means of the cells in place of the units.
    pub cells: Units,
    /// What is told of it.
    pub told: ByBlockOut,
    /// Units of a cell, on average.
    pub each: f64,
    blocks_are: BlocksAre,
}

/// Where the units of each cell stand among the units, by block and treatment.
pub(crate) type Places = BTreeMap<(usize, usize), Vec<usize>>;

/// The cells of a table whose blocks hold several units of a treatment; None where no cell shows
/// how its units differ, or where blocks and treatments leave nothing over.
pub(crate) fn cells(table: &Table, units: &Units, layout: Layout) -> Option<Places> {
    if table.dealing.restriction != Restriction::Free || layout.blocks < 2 || layout.columns > 1 {
        return None;
    }
    let mut places = Places::new();
    for (at, row) in units.rows.iter().enumerate() {
        places
            .entry((row.block, row.treatment))
            .or_default()
            .push(at);
    }
    let rank = layout.treatments + layout.blocks - 1 + usize::from(layout.baseline);
    (places.len() < units.rows.len() && places.len() > rank).then_some(places)
}

impl ByBlock {
    /// Of amounts.
    pub(crate) fn of(
        table: &Table,
        units: &Units,
        layout: Layout,
    ) -> Result<Option<Self>, StatsError> {
        let Some(places) = cells(table, units, layout) else {
            return Ok(None);
        };
        let by_cell = rows_by_cell(units, &places);
        let inside = linear::fit(
            &by_cell,
            Layout {
                treatments: places.len(),
                blocks: 1,
                ..layout
            },
        );
        let Ok(inside) = inside else { return Ok(None) };
        let alike = linear::fit(&units.rows, layout)?;
        let squares = |residuals: &[f64]| residuals.iter().map(|r| r * r).sum::<f64>();
        let over = alike.df - inside.df;
        if !(inside.df > 0.0 && over > 0.0) {
            return Ok(None);
        }
        let within = squares(&inside.residuals) / inside.df;
        let between = (squares(&alike.residuals) - squares(&inside.residuals)).max(0.0) / over;
        let told = Self::told(table, units, &places, (between, over), (within, inside.df));
        // Means of cells may share a starting size where their units do not.
        let stands = !layout.baseline || linear::baseline_is_free(&told.cells.rows, layout);
        Ok(Some(told).filter(|_| stands))
    }

    /// From the mean squares of treatment x block and of units, each with its degrees of freedom.
    pub(crate) fn told(
        table: &Table,
        units: &Units,
        places: &Places,
        over: (f64, f64),
        inside: (f64, f64),
    ) -> Self {
        let each = units.rows.len() as f64 / places.len() as f64;
        let statistic = over.0 / inside.0;
        Self {
            cells: Self::means(units, places),
            told: ByBlockOut {
                sd: ((over.0 - inside.0) / each).max(0.0).sqrt(),
                statistic,
                df: [over.1, inside.1],
                p: if statistic.is_finite() {
                    f_upper(statistic, over.1, inside.1)
                } else {
                    1.0
                },
            },
            each,
            blocks_are: table.dealing.blocks,
        }
    }

    fn means(units: &Units, places: &Places) -> Units {
        let mut counts = vec![0; units.counts.len()];
        let mut rows = Vec::with_capacity(places.len());
        for own in places.values() {
            let n = own.len() as f64;
            let mean = |of: fn(&Observation) -> f64| {
                own.iter().map(|&at| of(&units.rows[at])).sum::<f64>() / n
            };
            let first = units.rows[own[0]];
            counts[first.treatment] += 1;
            rows.push(Observation {
                value: mean(|r| r.value),
                baseline: mean(|r| r.baseline),
                ..first
            });
        }
        Units {
            samples: vec![1; rows.len()],
            starts: vec![0.0; rows.len()],
            rows,
            counts,
        }
    }

    /// Whether a difference is held against treatment x block.
    pub(crate) fn is_error(&self) -> bool {
        match self.blocks_are {
            BlocksAre::Places => true,
            BlocksAre::Alike => self.told.p < ALIKE,
            BlocksAre::Unsaid => self.told.p < UNSAID,
        }
    }

    /// What a treatment did against the control block by block, where it surely did not do the same
    /// in each. `gap` makes it from the means of both.
    pub(crate) fn gaps(
        &self,
        table: &Table,
        treatment: usize,
        gap: impl Fn(f64, f64) -> f64,
    ) -> Vec<BlockGap> {
        if !(self.told.p < FOUND) {
            return Vec::new();
        }
        let of = |block: usize, t: usize| {
            self.cells
                .rows
                .iter()
                .find(|r| (r.block, r.treatment) == (block, t))
                .map(|r| r.value)
        };
        let told = |block: usize| {
            let estimate = gap(of(block, treatment)?, of(block, 0)?);
            estimate.is_finite().then(|| BlockGap {
                block: table.blocks[block].clone(),
                estimate,
            })
        };
        (0..table.blocks.len()).filter_map(told).collect()
    }
}

/// The units, each under the number of its cell in place of its treatment.
fn rows_by_cell(units: &Units, places: &Places) -> Vec<Observation> {
    let cells = places.values().enumerate();
    cells
        .flat_map(|(cell, own)| {
            own.iter().map(move |&at| Observation {
                treatment: cell,
                block: 0,
                ..units.rows[at]
            })
        })
        .collect()
}
