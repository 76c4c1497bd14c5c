//! Matched filling: one weighed batch at the strongest dose, shared over all treatments and units
//! and thinned for each, so that a slip of the scale cannot favour one of them.
//!
//! Where a vessel is too small for one batch, several alike are made, and *each* is shared over
//! *all* units: a batch that is off is then off for all alike.

use super::tank::MeasureOut;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::quantity::OutOfRange;
use serde::Serialize;

/// What one treatment gets.
#[derive(Debug, Clone, PartialEq)]
pub struct Served {
    /// Index of the treatment.
    pub treatment: TreatmentIndex,
    /// What makes batches of two treatments the same: feed, additive and water; empty for plain
    /// water.
    pub of: String,
    /// Share of the label dose.
    pub fraction: f64,
    /// Units that are filled.
    pub units: usize,
}

/// One treatment's share of every batch.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BatchShare {
    /// Index of the treatment.
    pub treatment: TreatmentIndex,
    /// Of the batch, L.
    pub take_l: f64,
    /// Water to it, L.
    pub water_l: f64,
    /// For each unit from this batch, mL.
    pub ml_a_unit: f64,
}

/// Batches that some treatments share.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct BatchSeries {
    /// What is in them, as in the sheet.
    pub of: String,
    /// Their strength, as a share of the label dose: that of the strongest treatment.
    pub fraction: f64,
    /// How many.
    pub batches: usize,
    /// Size of each, L.
    pub batch_l: f64,
    /// What to measure out for each.
    pub measure_out: Vec<MeasureOut>,
    /// What each treatment takes of every batch.
    pub shares: Vec<BatchShare>,
}

/// What an error of weighing does to the comparison, per cent of the dose.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ErrorEffect {
    /// How it is filled.
    pub way: FillingWay,
    /// Weighings.
    pub weighings: usize,
    /// One weighing off: by how much two fed treatments then part that should not.
    pub between_percent: f64,
    /// One weighing off: by how much the dose against plain water is off.
    pub against_water_percent: f64,
    /// Every weighing off by chance: the usual size of that parting (standard deviation).
    pub between_by_chance_percent: f64,
}

/// A way of filling.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum FillingWay {
    /// Every batch shared over all units.
    Shared,
    /// A tank weighed for each treatment.
    ByTreatment,
    /// Weighed for each unit.
    UnitByUnit,
}

/// How to fill all units.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Filling {
    /// Batches to make.
    pub series: Vec<BatchSeries>,
    /// Plain water, L, where some units get that.
    pub water_l: f64,
    /// Error of one weighing that the effects are for, per cent.
    pub error_percent: f64,
    /// What it does by each way; empty where nothing is weighed.
    pub effects: Vec<ErrorEffect>,
}

/// Error of one weighing, per cent: a spoon of powder, a small dose on a kitchen scale. Common
/// practice, no source.
pub const WEIGHING_ERROR_PERCENT: f64 = 2.0;
/// Smallest and largest vessel, L.
pub const VESSEL_L: (f64, f64) = (0.1, 10_000.0);

/// Batches for all units of all treatments, none larger than the vessel.
///
/// # Errors
/// [`OutOfRange`] for a vessel that cannot be.
///
/// ```
/// use iron_twin_core::mix::filling::{fill, Served};
/// use iron_twin_terms::indices::TreatmentIndex;
/// let of = |treatment, fraction| Served { treatment: TreatmentIndex(treatment), of: "feed".into(), fraction, units: 8 };
/// let filling = fill(&[of(0, 0.5), of(1, 1.0)], 250.0, 0.0, 10.0)?;
/// // 2 L at half and 2 L at full strength take 3 L at full strength.
/// assert_eq!((filling.series[0].batches, filling.series[0].batch_l), (1, 3.0));
/// assert_eq!((filling.series[0].shares[0].take_l, filling.series[0].shares[0].water_l), (1.0, 1.0));
/// # Ok::<(), iron_twin_terms::quantity::OutOfRange>(())
/// ```
pub fn fill(
    served: &[Served],
    ml_a_unit: f64,
    spare_percent: f64,
    vessel_l: f64,
) -> Result<Filling, OutOfRange> {
    iron_twin_terms::quantity::in_range("the largest vessel, L", vessel_l, VESSEL_L.0, VESSEL_L.1)?;
    let litres = |s: &Served| s.units as f64 * ml_a_unit / 1000.0 * (1.0 + 0.01 * spare_percent);
    let is_water = |s: &&Served| s.of.is_empty() || s.fraction <= 0.0;
    let mut series: Vec<BatchSeries> = Vec::new();
    for first in served.iter().filter(|s| !is_water(s)) {
        if series.iter().any(|s| s.of == first.of) {
            continue;
        }
        let alike: Vec<&Served> = served
            .iter()
            .filter(|s| !is_water(s) && s.of == first.of)
            .collect();
        let fraction = alike.iter().map(|s| s.fraction).fold(0.0, f64::max);
        let strong = |s: &Served| litres(s) * s.fraction / fraction;
        let all: f64 = alike.iter().map(|s| strong(s)).sum();
        // A hair over a whole number of vessels is not one batch more.
        let batches = (all / vessel_l - 1e-9).ceil().max(1.0);
        let shares = alike.iter().map(|s| BatchShare {
            treatment: s.treatment,
            take_l: strong(s) / batches,
            water_l: (litres(s) - strong(s)) / batches,
            ml_a_unit: ml_a_unit / batches,
        });
        series.push(BatchSeries {
            of: first.of.clone(),
            fraction,
            batches: batches as usize,
            batch_l: all / batches,
            measure_out: Vec::new(),
            shares: shares.collect(),
        });
    }
    let water_l = served.iter().filter(is_water).map(litres).sum();
    let effects = effects(&series, served);
    Ok(Filling {
        series,
        water_l,
        error_percent: WEIGHING_ERROR_PERCENT,
        effects,
    })
}

/// Effects for the series that most treatments share; where each has a feed of its own, nothing can
/// be shared.
fn effects(series: &[BatchSeries], served: &[Served]) -> Vec<ErrorEffect> {
    let Some(widest) = series.iter().max_by_key(|s| s.shares.len()) else {
        return Vec::new();
    };
    let units = |t: TreatmentIndex| {
        served
            .iter()
            .find(|s| s.treatment == t)
            .map_or(1, |s| s.units.max(1))
    };
    let each = widest
        .shares
        .iter()
        .map(|s| units(s.treatment))
        .min()
        .unwrap_or(1) as f64;
    let all: usize = widest.shares.iter().map(|s| units(s.treatment)).sum();
    let (error, batches) = (WEIGHING_ERROR_PERCENT, widest.batches as f64);
    let effect = |way, weighings, between, against, chance| ErrorEffect {
        way,
        weighings,
        between_percent: between,
        against_water_percent: against,
        between_by_chance_percent: chance,
    };
    vec![
        effect(
            FillingWay::Shared,
            widest.batches,
            0.0,
            error / batches,
            0.0,
        ),
        effect(
            FillingWay::ByTreatment,
            widest.shares.len(),
            error,
            error,
            error * 2f64.sqrt(),
        ),
        effect(
            FillingWay::UnitByUnit,
            all,
            error / each,
            error / each,
            error * (2.0 / each).sqrt(),
        ),
    ]
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn served(treatment: usize, of: &str, fraction: f64, units: usize) -> Served {
        Served {
            treatment: TreatmentIndex(treatment),
            of: of.into(),
            fraction,
            units,
        }
    }

    #[test]
    fn water_and_other_feeds_have_batches_of_their_own() {
        let list = [
            served(0, "", 0.0, 4),
            served(1, "a", 1.0, 4),
            served(2, "b", 1.0, 4),
            served(3, "a", 0.0, 4),
        ];
        let filling = fill(&list, 500.0, 10.0, 20.0).unwrap();
        assert_eq!(
            filling
                .series
                .iter()
                .map(|s| s.of.as_str())
                .collect::<Vec<_>>(),
            ["a", "b"]
        );
        assert!((filling.water_l - 4.4).abs() < 1e-12);
    }

    #[test]
    fn nonsense_is_refused_and_nothing_needs_no_batch() {
        for vessel in [0.0, -1.0, f64::NAN, 1e9] {
            let error = fill(&[served(0, "a", 1.0, 1)], 100.0, 0.0, vessel)
                .unwrap_err()
                .to_string();
            assert!(error.starts_with("the largest vessel"), "{error}");
        }
        let none = fill(&[served(0, "", 0.0, 4)], 100.0, 0.0, 5.0).unwrap();
        assert!(none.series.is_empty() && none.effects.is_empty());
    }

    /// Filled for real, weighing by weighing, with every weighing off in turn: the doses that units
    /// then hold.
    fn doses(filling: &Filling, units: usize, off: usize) -> Vec<f64> {
        let series = &filling.series[0];
        let scale = |batch: usize| if batch == off { 1.02 } else { 1.0 };
        let dose = |s: &BatchShare| -> f64 {
            let ready = s.take_l + s.water_l;
            let of_batch = |b| scale(b) * series.fraction * s.take_l / ready * s.ml_a_unit;
            (0..series.batches).map(of_batch).sum()
        };
        assert!(
            series
                .shares
                .iter()
                .all(|s| s.ml_a_unit * units as f64 <= 1000.0 * (s.take_l + s.water_l) + 1e-6)
        );
        series.shares.iter().map(dose).collect()
    }

    proptest! {
        /// No batch is larger than the vessel, every unit gets its volume and dose, and a batch
        /// that is off is off for all alike: the ratio between treatments stays what it should be.
        #[test]
        fn a_batch_that_is_off_moves_all_alike(
            half in 0.1f64..1.0, units in 1usize..12, ml in 20.0f64..3000.0, spare in 0.0f64..30.0, vessel in 0.5f64..30.0,
        ) {
            let list = [served(0, "", 0.0, units), served(1, "a", half, units), served(2, "a", 1.0, units)];
            let filling = fill(&list, ml, spare, vessel).unwrap();
            let series = &filling.series[0];
            prop_assert!(series.batch_l <= vessel * (1.0 + 1e-6));
            let right = doses(&filling, units, usize::MAX);
            prop_assert!((right[1] - ml).abs() < 1e-6 * ml && (right[0] - half * ml).abs() < 1e-6 * ml);
            for off in 0..series.batches.min(5) {
                let wrong = doses(&filling, units, off);
                prop_assert!((wrong[0] / wrong[1] - half).abs() < 1e-9);
                let against = 100.0 * (wrong[1] / right[1] - 1.0);
                prop_assert!((against - filling.effects[0].against_water_percent).abs() < 1e-6);
            }
        }
    }

    /// The effects of weighing by treatment and unit by unit, against a simulation with errors
    /// drawn at random.
    #[test]
    fn chance_is_what_a_simulation_shows() {
        use rand::{RngExt, SeedableRng};
        let filling = fill(
            &[served(0, "a", 0.5, 8), served(1, "a", 1.0, 8)],
            250.0,
            0.0,
            10.0,
        )
        .unwrap();
        let mut chance = rand_chacha::ChaCha8Rng::seed_from_u64(5);
        // Twelve evens less six: as good as normal, with a standard deviation of 1.
        let mut error = || (0..12).map(|_| chance.random::<f64>()).sum::<f64>() - 6.0;
        let mut spread = |weighings: usize| {
            let mut mean = || (0..weighings).map(|_| 2.0 * error()).sum::<f64>() / weighings as f64;
            let gaps: Vec<f64> = (0..20_000).map(|_| mean() - mean()).collect();
            (gaps.iter().map(|g| g * g).sum::<f64>() / gaps.len() as f64).sqrt()
        };
        for (effect, weighings) in filling.effects[1..].iter().zip([1, 8]) {
            let seen = spread(weighings);
            assert!(
                (seen / effect.between_by_chance_percent - 1.0).abs() < 0.03,
                "{effect:?} {seen}"
            );
        }
    }
}
