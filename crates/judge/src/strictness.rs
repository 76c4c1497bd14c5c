//! The chance of a verdict, from that of the usual test.
//!
//! A verdict asks more than Student's or Dunnett's test: dealing the two treatments anew must bear
//! it out, and spreads that look unlike are allowed for. With few units that costs power, and a
//! plan that foretold the test would promise too much. How much it costs has no formula; it was
//! counted in simulated seasons (`examples/strictness.rs`, 1,200 to 6,000 for each line, 150 to 300
//! where treatments meet in turn, both judged in the same seasons), and lies here as the verdict's
//! chance at given chances of the test. docs/foretold.md holds plans against fresh seasons.

use iron_twin_stats::distributions::{normal_quantile_upper, normal_upper};
use iron_twin_terms::goal::Goal;

/// How the units of a treatment stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Laid {
    /// Dealt over the whole space.
    Freely,
    /// So many in each block of alike units.
    InBlocks(usize),
    /// So many at each of several places that the claim is to carry to.
    AtPlaces(usize),
    /// In pairs that leave treatments out.
    InTurn,
    /// In a Latin square, where deals can take little back.
    InSquares,
}

/// How much more a verdict asks than the usual test in one layout.
#[derive(Debug, Clone, PartialEq)]
pub struct Strictness {
    /// Where the usual test stands on the normal scale, and how much lower the verdict does, to
    /// find a difference.
    beat: Vec<(f64, f64)>,
    /// The same to show that a margin is kept.
    alike: Vec<(f64, f64)>,
}

struct Row {
    treatments: usize,
    laid: Laid,
    units: usize,
    beat: &'static [f64],
    alike: &'static [f64],
}

/// Chances of the usual test for which the rows have the verdict's.
const BEAT: [f64; 6] = [0.3, 0.6, 0.85, 0.97, 0.997, 0.99999];
const ALIKE: [f64; 5] = [0.5, 0.8, 0.95, 0.995, 0.99999];
/// Most treatments that were simulated; more are taken as so many.
const MOST_TREATMENTS: usize = 4;

impl Strictness {
    /// That of a layout with so many units of each treatment.
    #[must_use]
    pub fn of(treatments: usize, laid: Laid, units: usize) -> Self {
        let treatments = treatments.clamp(2, MOST_TREATMENTS);
        // In a square deals take back next to nothing; what is left is the allowance for spreads,
        // as for matching in blocks.
        if laid == Laid::InSquares {
            let alike = between(treatments, Laid::InBlocks(1), units, |r| (r.alike, &ALIKE));
            return Self {
                beat: alike.clone(),
                alike,
            };
        }
        let of = |laid| Self {
            beat: between(treatments, laid, units, |r| (r.beat, &BEAT)),
            alike: between(treatments, laid, units, |r| (r.alike, &ALIKE)),
        };
        match laid {
            Laid::InBlocks(3) => of(Laid::InBlocks(2)).and(&of(Laid::InBlocks(4))),
            Laid::InBlocks(n) if n > 4 => of(Laid::InBlocks(4)),
            Laid::AtPlaces(n) => of(Laid::AtPlaces(if n < 3 { 2 } else { 4 })),
            other => of(other),
        }
    }

    /// Half way between this and another.
    fn and(&self, other: &Self) -> Self {
        let both = |a: &[(f64, f64)], b: &[(f64, f64)]| {
            a.iter()
                .map(|&(at, lower)| (at, 0.5 * (lower + lower_at(b, at))))
                .collect()
        };
        Self {
            beat: both(&self.beat, &other.beat),
            alike: both(&self.alike, &other.alike),
        }
    }

    fn knots(&self, goal: Goal) -> &[(f64, f64)] {
        if goal == Goal::Match {
            &self.alike
        } else {
            &self.beat
        }
    }

    /// The chance of the verdict where the usual test has this one.
    ///
    /// ```
    /// use iron_twin_judge::strictness::{Laid, Strictness};
    /// use iron_twin_terms::goal::Goal;
    /// let two = Strictness::of(2, Laid::Freely, 2);
    /// assert!(two.chance(Goal::Beat, 0.85) < 0.66, "two trays a side promise more than they keep");
    /// assert!(Strictness::of(2, Laid::Freely, 100).chance(Goal::Beat, 0.85) > 0.845);
    /// ```
    #[must_use]
    pub fn chance(&self, goal: Goal, usual: f64) -> f64 {
        if !(usual > 0.0 && usual < 1.0) {
            return usual;
        }
        let at = -normal_quantile_upper(usual);
        normal_upper(lower_at(self.knots(goal), at) - at)
    }

    /// The chance that the usual test must have for the verdict to have this one.
    #[must_use]
    pub fn usual(&self, goal: Goal, chance: f64) -> f64 {
        let (mut low, mut high) = (-8.0, 8.0);
        for _ in 0..80 {
            let middle = 0.5 * (low + high);
            if self.chance(goal, normal_upper(-middle)) < chance {
                low = middle
            } else {
                high = middle
            }
        }
        normal_upper(-0.5 * (low + high))
    }
}

/// How much lower the verdict stands, on the normal scale, at a place between knots; beyond them as
/// at the last.
fn lower_at(knots: &[(f64, f64)], at: f64) -> f64 {
    let after = knots.partition_point(|k| k.0 < at);
    match (
        after.checked_sub(1).and_then(|i| knots.get(i)),
        knots.get(after),
    ) {
        (Some(a), Some(b)) => a.1 + (b.1 - a.1) * (at - a.0) / (b.0 - a.0),
        (Some(k), None) | (None, Some(k)) => k.1,
        (None, None) => 0.0,
    }
}

/// The rows of the numbers of units around this one, by the inverse of their number; beyond the
/// last it fades with it.
fn between(
    treatments: usize,
    laid: Laid,
    units: usize,
    of: impl Fn(&Row) -> (&'static [f64], &'static [f64]),
) -> Vec<(f64, f64)> {
    let rows: Vec<&Row> = ROWS
        .iter()
        .filter(|r| r.treatments == treatments && r.laid == laid)
        .collect();
    let knots = |row: &Row| -> Vec<(f64, f64)> {
        let (verdict, usual) = of(row);
        let one = |(v, u): (&f64, &f64)| {
            let (v, u) = (-normal_quantile_upper(*v), -normal_quantile_upper(*u));
            (u, (u - v).max(0.0))
        };
        verdict.iter().zip(usual).map(one).collect()
    };
    let after = rows.partition_point(|r| r.units < units);
    match (
        after.checked_sub(1).and_then(|i| rows.get(i)),
        rows.get(after),
    ) {
        (Some(fewer), Some(more)) => {
            let by = |n: usize| 1.0 / n as f64;
            let share = (by(fewer.units) - by(units)) / (by(fewer.units) - by(more.units));
            let (few, many) = (knots(fewer), knots(more));
            few.iter()
                .map(|&(at, lower)| (at, lower + share * (lower_at(&many, at) - lower)))
                .collect()
        }
        (None, Some(row)) => knots(row),
        (Some(row), None) => {
            let fades = row.units as f64 / units as f64;
            knots(row)
                .into_iter()
                .map(|(at, lower)| (at, fades * lower))
                .collect()
        }
        (None, None) => Vec::new(),
    }
}

/// Counted, in the order of treatments, layout and units.
#[rustfmt::skip]
const ROWS: &[Row] = &[
    Row { treatments: 2, laid: Laid::AtPlaces(2), units: 6, beat: &[0.250, 0.594, 0.850, 0.970], alike: &[0.483, 0.783, 0.933] },
    Row { treatments: 2, laid: Laid::AtPlaces(2), units: 10, beat: &[0.251, 0.574, 0.844, 0.970], alike: &[0.486, 0.786, 0.936] },
    Row { treatments: 2, laid: Laid::AtPlaces(4), units: 12, beat: &[0.261, 0.597, 0.850, 0.970], alike: &[0.484, 0.784, 0.934] },
    Row { treatments: 2, laid: Laid::Freely, units: 2, beat: &[0.196, 0.421, 0.635, 0.773, 0.850, 0.926], alike: &[0.345, 0.592, 0.746, 0.833, 0.926] },
    Row { treatments: 2, laid: Laid::Freely, units: 3, beat: &[0.244, 0.518, 0.769, 0.930, 0.986, 0.999], alike: &[0.421, 0.717, 0.897, 0.982, 0.999] },
    Row { treatments: 2, laid: Laid::Freely, units: 4, beat: &[0.262, 0.535, 0.805, 0.954, 0.992, 1.000], alike: &[0.470, 0.770, 0.934, 0.989, 0.996] },
    Row { treatments: 2, laid: Laid::Freely, units: 5, beat: &[0.271, 0.560, 0.820, 0.957], alike: &[0.489, 0.788, 0.943] },
    Row { treatments: 2, laid: Laid::Freely, units: 6, beat: &[0.288, 0.583, 0.840, 0.967], alike: &[0.496, 0.796, 0.948] },
    Row { treatments: 2, laid: Laid::Freely, units: 8, beat: &[0.295, 0.594, 0.846, 0.969], alike: &[0.499, 0.799, 0.950] },
    Row { treatments: 2, laid: Laid::Freely, units: 12, beat: &[0.299, 0.599, 0.848, 0.969], alike: &[0.500, 0.800, 0.949] },
    Row { treatments: 2, laid: Laid::Freely, units: 16, beat: &[0.299, 0.600, 0.850, 0.970], alike: &[0.500, 0.800, 0.950] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 2, beat: &[0.300, 0.600, 0.850, 0.970, 0.997, 1.000], alike: &[0.500, 0.800, 0.950, 0.995, 1.000] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 3, beat: &[0.300, 0.600, 0.850, 0.970, 0.997, 1.000], alike: &[0.500, 0.800, 0.950, 0.995, 1.000] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 4, beat: &[0.300, 0.600, 0.850, 0.970, 0.997, 1.000], alike: &[0.500, 0.800, 0.950, 0.995, 1.000] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 5, beat: &[0.300, 0.600, 0.850, 0.970], alike: &[0.500, 0.800, 0.950] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 6, beat: &[0.286, 0.577, 0.834, 0.964], alike: &[0.497, 0.797, 0.947] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 7, beat: &[0.262, 0.550, 0.809, 0.952], alike: &[0.495, 0.795, 0.945] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 8, beat: &[0.274, 0.564, 0.818, 0.955], alike: &[0.497, 0.797, 0.947] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 12, beat: &[0.292, 0.590, 0.845, 0.967], alike: &[0.499, 0.799, 0.949] },
    Row { treatments: 2, laid: Laid::InBlocks(1), units: 16, beat: &[0.298, 0.595, 0.849, 0.970], alike: &[0.499, 0.799, 0.949] },
    Row { treatments: 2, laid: Laid::InBlocks(2), units: 4, beat: &[0.267, 0.539, 0.792, 0.914, 0.947, 0.951], alike: &[0.443, 0.740, 0.892, 0.944, 0.951] },
    Row { treatments: 2, laid: Laid::InBlocks(2), units: 6, beat: &[0.258, 0.528, 0.774, 0.914], alike: &[0.468, 0.756, 0.901] },
    Row { treatments: 2, laid: Laid::InBlocks(2), units: 8, beat: &[0.277, 0.560, 0.806, 0.936], alike: &[0.472, 0.760, 0.913] },
    Row { treatments: 2, laid: Laid::InBlocks(2), units: 12, beat: &[0.281, 0.575, 0.822, 0.956], alike: &[0.479, 0.772, 0.932] },
    Row { treatments: 2, laid: Laid::InBlocks(2), units: 16, beat: &[0.287, 0.576, 0.826, 0.961], alike: &[0.482, 0.774, 0.937] },
    Row { treatments: 2, laid: Laid::InBlocks(4), units: 8, beat: &[0.283, 0.572, 0.811, 0.928], alike: &[0.480, 0.767, 0.908] },
    Row { treatments: 2, laid: Laid::InBlocks(4), units: 12, beat: &[0.285, 0.569, 0.807, 0.920], alike: &[0.474, 0.760, 0.900] },
    Row { treatments: 2, laid: Laid::InBlocks(4), units: 16, beat: &[0.286, 0.571, 0.811, 0.929], alike: &[0.477, 0.763, 0.908] },
    Row { treatments: 3, laid: Laid::AtPlaces(2), units: 6, beat: &[0.172, 0.402, 0.628, 0.788], alike: &[0.336, 0.588, 0.754] },
    Row { treatments: 3, laid: Laid::AtPlaces(2), units: 10, beat: &[0.258, 0.554, 0.815, 0.956], alike: &[0.469, 0.768, 0.928] },
    Row { treatments: 3, laid: Laid::AtPlaces(4), units: 12, beat: &[0.176, 0.414, 0.637, 0.796], alike: &[0.338, 0.591, 0.762] },
    Row { treatments: 3, laid: Laid::Freely, units: 2, beat: &[0.186, 0.378, 0.550, 0.658, 0.713, 0.787], alike: &[0.310, 0.513, 0.631, 0.703, 0.787] },
    Row { treatments: 3, laid: Laid::Freely, units: 3, beat: &[0.217, 0.442, 0.671, 0.847, 0.935, 0.989], alike: &[0.357, 0.622, 0.804, 0.922, 0.989] },
    Row { treatments: 3, laid: Laid::Freely, units: 4, beat: &[0.250, 0.514, 0.772, 0.922, 0.984, 1.000], alike: &[0.434, 0.733, 0.898, 0.978, 0.996] },
    Row { treatments: 3, laid: Laid::Freely, units: 5, beat: &[0.272, 0.553, 0.813, 0.954], alike: &[0.478, 0.772, 0.932] },
    Row { treatments: 3, laid: Laid::Freely, units: 6, beat: &[0.286, 0.577, 0.833, 0.961], alike: &[0.485, 0.785, 0.940] },
    Row { treatments: 3, laid: Laid::Freely, units: 8, beat: &[0.292, 0.593, 0.846, 0.969], alike: &[0.497, 0.796, 0.950] },
    Row { treatments: 3, laid: Laid::Freely, units: 12, beat: &[0.300, 0.598, 0.850, 0.970], alike: &[0.499, 0.800, 0.950] },
    Row { treatments: 3, laid: Laid::Freely, units: 16, beat: &[0.300, 0.599, 0.850, 0.970], alike: &[0.500, 0.800, 0.950] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 2, beat: &[0.203, 0.395, 0.560, 0.658, 0.707, 0.776], alike: &[0.337, 0.527, 0.639, 0.699, 0.776] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 3, beat: &[0.195, 0.411, 0.612, 0.785, 0.891, 0.977], alike: &[0.338, 0.566, 0.744, 0.872, 0.977] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 4, beat: &[0.261, 0.523, 0.769, 0.924, 0.981, 0.999], alike: &[0.428, 0.718, 0.895, 0.974, 0.999] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 5, beat: &[0.284, 0.574, 0.819, 0.953], alike: &[0.482, 0.770, 0.928] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 6, beat: &[0.250, 0.537, 0.801, 0.942], alike: &[0.478, 0.788, 0.939] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 7, beat: &[0.238, 0.524, 0.778, 0.937], alike: &[0.491, 0.790, 0.944] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 8, beat: &[0.255, 0.536, 0.806, 0.956], alike: &[0.494, 0.791, 0.946] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 12, beat: &[0.284, 0.582, 0.832, 0.967], alike: &[0.497, 0.798, 0.948] },
    Row { treatments: 3, laid: Laid::InBlocks(1), units: 16, beat: &[0.289, 0.591, 0.844, 0.966], alike: &[0.500, 0.799, 0.950] },
    Row { treatments: 3, laid: Laid::InBlocks(2), units: 4, beat: &[0.246, 0.512, 0.745, 0.881, 0.941, 0.962], alike: &[0.420, 0.701, 0.854, 0.935, 0.962] },
    Row { treatments: 3, laid: Laid::InBlocks(2), units: 6, beat: &[0.258, 0.534, 0.781, 0.921], alike: &[0.465, 0.756, 0.905] },
    Row { treatments: 3, laid: Laid::InBlocks(2), units: 8, beat: &[0.272, 0.551, 0.804, 0.944], alike: &[0.471, 0.765, 0.926] },
    Row { treatments: 3, laid: Laid::InBlocks(2), units: 12, beat: &[0.283, 0.576, 0.825, 0.959], alike: &[0.481, 0.777, 0.935] },
    Row { treatments: 3, laid: Laid::InBlocks(2), units: 16, beat: &[0.290, 0.586, 0.836, 0.965], alike: &[0.488, 0.786, 0.942] },
    Row { treatments: 3, laid: Laid::InBlocks(4), units: 8, beat: &[0.277, 0.560, 0.802, 0.921], alike: &[0.471, 0.757, 0.902] },
    Row { treatments: 3, laid: Laid::InBlocks(4), units: 12, beat: &[0.284, 0.571, 0.811, 0.928], alike: &[0.477, 0.765, 0.909] },
    Row { treatments: 3, laid: Laid::InBlocks(4), units: 16, beat: &[0.288, 0.569, 0.812, 0.941], alike: &[0.475, 0.764, 0.918] },
    Row { treatments: 3, laid: Laid::InTurn, units: 4, beat: &[0.260, 0.556, 0.798, 0.958, 0.997, 1.000], alike: &[0.448, 0.752, 0.922, 0.987, 1.000] },
    Row { treatments: 3, laid: Laid::InTurn, units: 8, beat: &[0.296, 0.600, 0.850, 0.970], alike: &[0.500, 0.800, 0.950] },
    Row { treatments: 4, laid: Laid::AtPlaces(2), units: 6, beat: &[0.165, 0.375, 0.582, 0.715], alike: &[0.320, 0.546, 0.681] },
    Row { treatments: 4, laid: Laid::AtPlaces(4), units: 12, beat: &[0.173, 0.389, 0.587, 0.741], alike: &[0.319, 0.544, 0.707] },
    Row { treatments: 4, laid: Laid::Freely, units: 2, beat: &[0.185, 0.370, 0.526, 0.614, 0.656, 0.712], alike: &[0.307, 0.494, 0.597, 0.650, 0.712] },
    Row { treatments: 4, laid: Laid::Freely, units: 3, beat: &[0.201, 0.412, 0.618, 0.783, 0.883, 0.969], alike: &[0.340, 0.565, 0.742, 0.867, 0.969] },
    Row { treatments: 4, laid: Laid::Freely, units: 4, beat: &[0.231, 0.491, 0.744, 0.902, 0.972, 0.998], alike: &[0.423, 0.703, 0.878, 0.965, 0.998] },
    Row { treatments: 4, laid: Laid::Freely, units: 5, beat: &[0.266, 0.554, 0.801, 0.945], alike: &[0.469, 0.764, 0.924] },
    Row { treatments: 4, laid: Laid::Freely, units: 6, beat: &[0.285, 0.578, 0.830, 0.959], alike: &[0.487, 0.782, 0.938] },
    Row { treatments: 4, laid: Laid::Freely, units: 8, beat: &[0.294, 0.593, 0.842, 0.966], alike: &[0.495, 0.796, 0.948] },
    Row { treatments: 4, laid: Laid::Freely, units: 12, beat: &[0.299, 0.596, 0.849, 0.969], alike: &[0.499, 0.800, 0.949] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 2, beat: &[0.180, 0.380, 0.534, 0.618, 0.642, 0.668], alike: &[0.320, 0.497, 0.600, 0.640, 0.668] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 3, beat: &[0.200, 0.391, 0.589, 0.717, 0.814, 0.941], alike: &[0.329, 0.549, 0.685, 0.794, 0.941] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 4, beat: &[0.240, 0.495, 0.740, 0.884, 0.951, 0.993], alike: &[0.413, 0.695, 0.851, 0.943, 0.993] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 5, beat: &[0.281, 0.569, 0.811, 0.943], alike: &[0.471, 0.763, 0.919] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 6, beat: &[0.255, 0.522, 0.787, 0.935], alike: &[0.483, 0.781, 0.937] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 7, beat: &[0.246, 0.511, 0.782, 0.930], alike: &[0.491, 0.791, 0.941] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 8, beat: &[0.262, 0.547, 0.809, 0.948], alike: &[0.495, 0.795, 0.945] },
    Row { treatments: 4, laid: Laid::InBlocks(1), units: 12, beat: &[0.287, 0.583, 0.837, 0.965], alike: &[0.497, 0.799, 0.949] },
    Row { treatments: 4, laid: Laid::InBlocks(2), units: 4, beat: &[0.245, 0.494, 0.720, 0.866, 0.930, 0.964], alike: &[0.406, 0.667, 0.831, 0.920, 0.964] },
    Row { treatments: 4, laid: Laid::InBlocks(2), units: 6, beat: &[0.248, 0.533, 0.774, 0.920], alike: &[0.466, 0.748, 0.909] },
    Row { treatments: 4, laid: Laid::InBlocks(2), units: 8, beat: &[0.270, 0.563, 0.817, 0.943], alike: &[0.475, 0.775, 0.926] },
    Row { treatments: 4, laid: Laid::InBlocks(2), units: 12, beat: &[0.287, 0.587, 0.838, 0.963], alike: &[0.483, 0.790, 0.942] },
    Row { treatments: 4, laid: Laid::InBlocks(2), units: 16, beat: &[0.291, 0.582, 0.841, 0.966], alike: &[0.483, 0.786, 0.943] },
    Row { treatments: 4, laid: Laid::InBlocks(4), units: 8, beat: &[0.282, 0.562, 0.802, 0.917], alike: &[0.471, 0.759, 0.898] },
    Row { treatments: 4, laid: Laid::InBlocks(4), units: 12, beat: &[0.281, 0.569, 0.810, 0.932], alike: &[0.473, 0.759, 0.913] },
    Row { treatments: 4, laid: Laid::InBlocks(4), units: 16, beat: &[0.287, 0.578, 0.819, 0.939], alike: &[0.482, 0.769, 0.918] },
];

#[cfg(test)]
mod tests {
    use super::*;

    const ALL: [Laid; 6] = [
        Laid::Freely,
        Laid::InBlocks(1),
        Laid::InBlocks(3),
        Laid::AtPlaces(4),
        Laid::InTurn,
        Laid::InSquares,
    ];

    #[test]
    fn a_verdict_is_never_likelier_than_the_test_and_rises_with_it() {
        for (treatments, laid, goal) in [2, 3, 4, 7].into_iter().flat_map(|t| {
            ALL.map(|l| (t, l, Goal::Beat))
                .into_iter()
                .chain(ALL.map(|l| (t, l, Goal::Match)))
        }) {
            for units in [2, 3, 4, 5, 6, 7, 9, 12, 20, 100] {
                let strict = Strictness::of(treatments, laid, units);
                let chances: Vec<f64> = (1..1000)
                    .map(|i| strict.chance(goal, f64::from(i) / 1000.0))
                    .collect();
                assert!(
                    chances.windows(2).all(|w| w[0] < w[1]),
                    "{treatments} {laid:?} {units} {goal:?}"
                );
                assert!(
                    chances
                        .iter()
                        .zip(1..)
                        .all(|(v, i)| *v <= f64::from(i) / 1000.0 + 1e-12)
                );
                let usual = strict.usual(goal, 0.8);
                assert!(
                    (strict.chance(goal, usual) - 0.8).abs() < 1e-9,
                    "{treatments} {laid:?} {units}"
                );
            }
        }
    }

    #[test]
    fn rows_stand_as_they_were_counted_and_fade_with_many_units() {
        for row in ROWS {
            let strict = Strictness::of(row.treatments, row.laid, row.units);
            for (verdict, usual) in row.beat.iter().zip(BEAT) {
                assert!((strict.chance(Goal::Beat, usual) - verdict.min(usual)).abs() < 1e-9);
            }
        }
        let much = Strictness::of(3, Laid::Freely, 2).chance(Goal::Beat, 0.9);
        let little = Strictness::of(3, Laid::Freely, 400).chance(Goal::Beat, 0.9);
        assert!(much < 0.75 && little > 0.899, "{much} {little}");
        let (two, three, four) = (2, 3, 4);
        let of = |n| Strictness::of(2, Laid::InBlocks(n), 12).chance(Goal::Beat, 0.6);
        assert!((of(three) - 0.5 * (of(two) + of(four))).abs() < 1e-3);
    }
}
