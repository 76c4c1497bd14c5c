//! The units of a table: what was treated as a whole, each by the mean of its samples.

use super::result::Design;
use super::table::Table;
use iron_twin_stats::linear::{MeansFit, Observation};
use iron_twin_terms::dealing::Restriction;

/// The units of a table, each by its mean.
#[derive(Debug, Clone)]
pub(crate) struct Units {
    pub rows: Vec<Observation>,
    pub samples: Vec<usize>,
    pub counts: Vec<usize>,
    /// Starting sizes that limited the deal, one a unit.
    pub starts: Vec<f64>,
}

impl Units {
    pub(crate) fn of(observations: &[Observation], table: &Table) -> Self {
        let mut rows: Vec<Observation> = Vec::new();
        let mut samples = Vec::new();
        let mut starts = Vec::new();
        let mut place = vec![usize::MAX; table.units.len()];
        for (o, beside) in observations.iter().zip(&table.beside) {
            if place[o.unit] == usize::MAX {
                place[o.unit] = rows.len();
                rows.push(Observation {
                    value: 0.0,
                    baseline: 0.0,
                    ..*o
                });
                samples.push(0);
                starts.push(0.0);
            }
            let row = &mut rows[place[o.unit]];
            starts[place[o.unit]] += beside.start;
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
        starts
            .iter_mut()
            .zip(&samples)
            .for_each(|(s, &n)| *s /= n as f64);
        Self {
            rows,
            samples,
            counts,
            starts,
        }
    }

    /// Whether the treatments' mean starting sizes lie within this share of the mean of all;
    /// rounding must not decide.
    pub(crate) fn starts_within(&self, within: f64) -> bool {
        let mut sums = vec![0.0; self.counts.len()];
        self.rows
            .iter()
            .zip(&self.starts)
            .for_each(|(row, start)| sums[row.treatment] += start);
        let means = || {
            sums.iter()
                .zip(&self.counts)
                .map(|(sum, &n)| sum / n as f64)
        };
        let all = self.starts.iter().sum::<f64>() / self.starts.len() as f64;
        let (lowest, highest) = (
            means().fold(f64::INFINITY, f64::min),
            means().fold(f64::NEG_INFINITY, f64::max),
        );
        highest - lowest <= within * all.abs() * (1.0 + 1e-9)
    }

    pub(crate) fn have_samples(&self) -> bool {
        self.samples.iter().any(|&n| n > 1)
    }

    pub(crate) fn all_equal(&self, value: f64) -> bool {
        self.rows.iter().all(|r| r.value == value)
    }

    /// Whether a treatment has several units, all with the very same value.
    pub(crate) fn is_flat(&self, treatment: usize) -> bool {
        let own = self.values_of(treatment);
        own.len() > 1 && own.iter().all(|v| *v == own[0])
    }

    /// No unit departs from its model by more than rounding: compared with the inputs, not with a
    /// zero.
    pub(crate) fn no_residual(&self, fit: &MeansFit) -> bool {
        let size = self.rows.iter().map(|r| r.value.abs()).fold(0.0, f64::max);
        fit.residuals.iter().all(|r| r.abs() <= 1e-12 * size)
    }

    pub(crate) fn values_of(&self, treatment: usize) -> Vec<f64> {
        self.rows
            .iter()
            .filter(|r| r.treatment == treatment)
            .map(|r| r.value)
            .collect()
    }

    /// Harmonic mean of the samples of a unit.
    pub(crate) fn typical_samples(&self) -> f64 {
        self.samples.len() as f64 / self.samples.iter().map(|&n| 1.0 / n as f64).sum::<f64>()
    }
}

/// The design that the table's columns show.
pub(crate) fn design(table: &Table, units: &Units) -> Design {
    let blocks = table.blocks.len();
    let name = if let Some(name) = by_plan(table) {
        name
    } else if blocks == 0 {
        "completely randomised"
    } else {
        let (treatments, mut cells) = (table.treatments.len(), std::collections::HashMap::new());
        units
            .rows
            .iter()
            .for_each(|r| *cells.entry((r.block, r.treatment)).or_insert(0usize) += 1);
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
        error: if table.dealing.restriction == Restriction::SplitPlot {
            "fixtures"
        } else {
            "units"
        },
    }
}

/// The design where columns alone could not tell it.
fn by_plan(table: &Table) -> Option<&'static str> {
    match (
        table.dealing.restriction,
        table.factors.is_empty(),
        table.blocks.is_empty(),
    ) {
        (Restriction::LatinSquare, ..) => Some("Latin square"),
        (Restriction::SwapOver, ..) => Some("swap-over"),
        (Restriction::SplitPlot, ..) => Some("split plot"),
        (Restriction::Free, false, true) => Some("factorial, completely randomised"),
        (Restriction::Free, false, false) => Some("factorial in blocks"),
        (Restriction::Free, true, _) => None,
    }
}
