//! The units of a table: what was treated as a whole, each by the mean of its samples.

use super::result::Design;
use super::table::Table;
use crate::stats::linear::{MeansFit, Observation};

/// The units of a table, each by its mean.
#[derive(Debug, Clone)]
pub(crate) struct Units {
    pub rows: Vec<Observation>,
    pub samples: Vec<usize>,
    pub counts: Vec<usize>,
}

impl Units {
    pub(crate) fn of(observations: &[Observation], table: &Table) -> Self {
        let mut rows: Vec<Observation> = Vec::new();
        let mut samples = Vec::new();
        let mut place = vec![usize::MAX; table.units.len()];
        for o in observations {
            if place[o.unit] == usize::MAX {
                place[o.unit] = rows.len();
                rows.push(Observation { value: 0.0, baseline: 0.0, ..*o });
                samples.push(0);
            }
            let row = &mut rows[place[o.unit]];
            row.value += o.value;
            row.baseline += o.baseline;
            samples[place[o.unit]] += 1;
        }
        let mut counts = vec![0; table.treatments.len()];
        for (row, &n) in rows.iter_mut().zip(&samples) {
            if n > 1 {
                row.value /= n as f64;
                row.baseline /= n as f64;
            }
            counts[row.treatment] += 1;
        }
        Self { rows, samples, counts }
    }

    pub(crate) fn have_samples(&self) -> bool {
        self.samples.iter().any(|&n| n > 1)
    }

    pub(crate) fn all_equal(&self, value: f64) -> bool {
        self.rows.iter().all(|r| r.value == value)
    }

    /// No unit departs from its model by more than rounding: compared with the inputs, not with a zero.
    pub(crate) fn no_residual(&self, fit: &MeansFit) -> bool {
        let size = self.rows.iter().map(|r| r.value.abs()).fold(0.0, f64::max);
        fit.residuals.iter().all(|r| r.abs() <= 1e-12 * size)
    }

    pub(crate) fn values_of(&self, treatment: usize) -> Vec<f64> {
        self.rows.iter().filter(|r| r.treatment == treatment).map(|r| r.value).collect()
    }

    /// Harmonic mean of the samples of a unit.
    pub(crate) fn typical_samples(&self) -> f64 {
        self.samples.len() as f64 / self.samples.iter().map(|&n| 1.0 / n as f64).sum::<f64>()
    }
}

/// The design that the table's columns show.
pub(crate) fn design(table: &Table, units: &Units) -> Design {
    let blocks = table.blocks.len();
    let name = if blocks == 0 {
        "completely randomised"
    } else {
        let (treatments, mut cells) = (table.treatments.len(), std::collections::HashMap::new());
        units.rows.iter().for_each(|r| *cells.entry((r.block, r.treatment)).or_insert(0usize) += 1);
        let complete = cells.len() == blocks * treatments;
        let single = cells.values().all(|&n| n == 1);
        match (complete, single, treatments) {
            (true, true, 2) => "matched pairs",
            (true, _, _) => "randomised complete blocks",
            (false, _, _) => "incomplete blocks",
        }
    };
    Design {
        name,
        treatments: table.treatments.len(),
        units: units.rows.len(),
        blocks,
        samples_per_unit: [
            units.samples.iter().copied().min().unwrap_or(0),
            units.samples.iter().copied().max().unwrap_or(0),
        ],
    }
}
