//! Many treatments against one control: the joint distribution of the contrasts.

use super::StatsError;
use super::distributions::{normal_density, normal_quantile_upper, normal_upper, root_between};
use super::studentised::{SpreadNode, spread_nodes, spread_quantiles};

/// The joint distribution of several t statistics that share one spread estimate.
///
/// With a shared control the correlations usually factor as l_i l_j (always so without blocks, or
/// in complete blocks); the normal integral is then one-dimensional and exact to about 1e-12.
/// Correlations that do not factor (incomplete blocks, a covariate) go through a deterministic
/// lattice rule after Genz, with error below 1e-5.
///
/// Source: Dunnett 1955; Genz and Bretz 2009, Computation of Multivariate Normal and t
/// Probabilities.
#[derive(Debug, Clone)]
pub struct JointContrasts {
    count: usize,
    shape: Shape,
    spread: Vec<SpreadNode>,
    df: f64,
}

#[derive(Debug, Clone)]
enum Shape {
    Single,
    /// Loadings, each with the number of contrasts that share it.
    Factored {
        loadings: Vec<(f64, f64)>,
    },
    General {
        cholesky: Vec<Vec<f64>>,
        lattice: Vec<Vec<f64>>,
        spread: Vec<f64>,
    },
}

impl Shape {
    /// The spread estimate is one more dimension of the lattice: its last coordinate.
    fn general(correlation: &[Vec<f64>], df: f64) -> Self {
        let count = correlation.len();
        let mut lattice = lattice(count);
        let last: Vec<f64> = lattice.iter_mut().filter_map(Vec::pop).collect();
        Self::General {
            cholesky: cholesky(correlation),
            lattice,
            spread: spread_quantiles(df, &last),
        }
    }
}

impl JointContrasts {
    /// Prepares the distribution of contrasts with the given correlation matrix (row by row) and
    /// degrees of freedom.
    ///
    /// # Errors
    /// [`StatsError::OutOfRange`] where df is not above zero; [`StatsError::NotFinite`] for a
    /// broken matrix.
    ///
    /// ```
    /// use iron_twin_stats::dunnett::JointContrasts;
    /// assert!(JointContrasts::new(&[vec![1.0, 0.5], vec![0.5, 1.0]], 0.0).is_err());
    /// ```
    pub fn new(correlation: &[Vec<f64>], df: f64) -> Result<Self, StatsError> {
        if !(df > 0.0 && df.is_finite()) {
            return Err(StatsError::OutOfRange {
                what: "degrees of freedom",
                min: 0.0,
                max: f64::INFINITY,
                got: df,
            });
        }
        if correlation.iter().flatten().any(|r| !r.is_finite()) {
            return Err(StatsError::NotFinite {
                what: "correlation of the contrasts",
            });
        }
        let count = correlation.len();
        let shape = if count <= 1 {
            Shape::Single
        } else if let Some(loadings) = factor(correlation) {
            Shape::Factored {
                loadings: grouped(loadings),
            }
        } else {
            Shape::general(correlation, df)
        };
        Ok(Self {
            count,
            shape,
            spread: spread_nodes(df),
            df,
        })
    }

    /// P(the largest |t| among the contrasts exceeds `t`): the simultaneous two-sided p of a
    /// contrast with |t| = `t`.
    ///
    /// ```
    /// use iron_twin_stats::dunnett::JointContrasts;
    /// // Two independent comparisons: about twice the p of one.
    /// let joint = JointContrasts::new(&[vec![1.0, 0.0], vec![0.0, 1.0]], 1e6)?;
    /// assert!((joint.exceeds(1.959_964) - 0.0975).abs() < 1e-4);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    #[must_use]
    pub fn exceeds(&self, t: f64) -> f64 {
        let t = t.abs();
        if self.count <= 1 {
            return super::distributions::t_two_sided(t, self.df);
        }
        let total: f64 = match &self.shape {
            Shape::Single => super::distributions::t_two_sided(t, self.df),
            Shape::Factored { loadings } => {
                let grid = factor_grid(loadings);
                self.spread
                    .iter()
                    .map(|node| node.weight * factored_outside(t * node.s, loadings, &grid))
                    .sum()
            }
            // Whatever the lattice says, all together lie between one alone and Bonferroni.
            Shape::General { .. } => {
                let alone = super::distributions::t_two_sided(t, self.df);
                self.outside_of(t, 1)
                    .clamp(alone, (self.count as f64 * alone).min(1.0))
            }
        };
        total.clamp(0.0, 1.0)
    }

    /// The lattice's share outside, by its first points only where `part` is above one: they are a
    /// lattice themselves.
    fn outside_of(&self, t: f64, part: usize) -> f64 {
        let Shape::General {
            cholesky,
            lattice,
            spread,
        } = &self.shape
        else {
            return 0.0;
        };
        let (points, spread) = (
            &lattice[..lattice.len() / part],
            &spread[..lattice.len() / part],
        );
        let sum = |points: &[Vec<f64>], spread: &[f64]| -> f64 {
            points
                .iter()
                .zip(spread)
                .map(|(point, s)| general_outside(t * s, cholesky, point))
                .sum()
        };
        // Halves on two threads, added in a fixed order, so that the sum is the same on every
        // machine.
        let half = points.len() / 2;
        let total = std::thread::scope(|scope| {
            let first = scope.spawn(|| sum(&points[..half], &spread[..half]));
            let second = sum(&points[half..], &spread[half..]);
            first.join().map_or(f64::NAN, |first| first + second)
        });
        total / points.len() as f64
    }

    /// The |t| that all contrasts together stay within with the given confidence.
    ///
    /// # Errors
    /// [`StatsError::OutOfRange`] for a confidence outside (0, 1); [`StatsError::NoConvergence`].
    ///
    /// ```
    /// use iron_twin_stats::dunnett::JointContrasts;
    /// let half = vec![vec![1.0, 0.5], vec![0.5, 1.0]];
    /// let critical = JointContrasts::new(&half, 10.0)?.critical(0.95)?;
    /// assert!((critical - 2.568338876).abs() < 1e-6);
    /// # Ok::<(), iron_twin_stats::StatsError>(())
    /// ```
    pub fn critical(&self, confidence: f64) -> Result<f64, StatsError> {
        if !(confidence > 0.0 && confidence < 1.0) {
            return Err(StatsError::OutOfRange {
                what: "confidence",
                min: 0.0,
                max: 1.0,
                got: confidence,
            });
        }
        let outside = 1.0 - confidence;
        if self.count <= 1 {
            let quantile = super::distributions::t_quantile_upper;
            return quantile(0.5 * outside, self.df);
        }
        let asked = self.key(confidence);
        if let Some(known) =
            KNOWN.with_borrow(|known| known.iter().find(|(key, _)| *key == asked).map(|(_, c)| *c))
        {
            return Ok(known);
        }
        let critical = self.critical_anew(outside)?;
        KNOWN.with_borrow_mut(|known| {
            known.truncate(MOST_KNOWN - 1);
            known.insert(0, (asked, critical));
        });
        Ok(critical)
    }

    /// What a critical value depends on, to the last bit.
    fn key(&self, confidence: f64) -> Vec<u64> {
        let of_shape: Vec<f64> = match &self.shape {
            Shape::Single => Vec::new(),
            Shape::Factored { loadings } => loadings
                .iter()
                .flat_map(|(l, count)| [*l, *count])
                .collect(),
            Shape::General { cholesky, .. } => cholesky.iter().flatten().copied().collect(),
        };
        [self.df, confidence, self.count as f64]
            .into_iter()
            .chain(of_shape)
            .map(f64::to_bits)
            .collect()
    }

    fn critical_anew(&self, outside: f64) -> Result<f64, StatsError> {
        let quantile = super::distributions::t_quantile_upper;
        // One contrast alone asks less, and Bonferroni asks more.
        let (alone, bonferroni) = (
            quantile(0.5 * outside, self.df)?,
            quantile(0.5 * outside / self.count as f64, self.df)?,
        );
        let height = |t: f64| self.exceeds(t).max(1e-300).ln() - outside.ln();
        if matches!(self.shape, Shape::General { .. }) {
            // Tails that thin fall between the points of a lattice; there Bonferroni gives nothing
            // away.
            if outside < THIN {
                return Ok(bonferroni);
            }
            // A part of the lattice says where to look; the whole of it is asked only there.
            let rough = |t: f64| self.outside_of(t, 16).max(1e-300).ln() - outside.ln();
            let near = root_between(
                "Dunnett critical value",
                0.999 * alone,
                1.001 * bonferroni,
                rough,
            )?;
            let (low, high) = (0.998 * near, 1.002 * near);
            let (at_low, at_high) = (height(low), height(high));
            if at_low > 0.0 && at_high < 0.0 {
                // Over so short a stretch the logarithm is straight: twice by the secant leaves
                // nothing to gain.
                let middle = low + (high - low) * at_low / (at_low - at_high);
                let at_middle = height(middle);
                let (end, at_end) = if at_middle > 0.0 {
                    (high, at_high)
                } else {
                    (low, at_low)
                };
                let critical = middle + (end - middle) * at_middle / (at_middle - at_end);
                return Ok(critical.clamp(alone, bonferroni));
            }
        }
        root_between(
            "Dunnett critical value",
            0.999 * alone,
            1.001 * bonferroni,
            height,
        )
    }
}

/// Most critical values that a thread remembers.
const MOST_KNOWN: usize = 16;

std::thread_local! {
    /// The last critical values. A trial asks the same one for each of its measures, and a lattice
    /// takes long.
    static KNOWN: std::cell::RefCell<Vec<(Vec<u64>, f64)>> = const { std::cell::RefCell::new(Vec::new()) };
}

/// Tails below this are Bonferroni's where correlations do not factor: the lattice's error is about
/// as large.
const THIN: f64 = 1e-4;
/// Beyond this the edge of the integrand is too sharp for a grid of reasonable size; the lattice
/// takes over.
const MOST_LOADING: f64 = 0.9995;

/// Loadings l with r_ij = l_i l_j off the diagonal, where such exist.
fn factor(correlation: &[Vec<f64>]) -> Option<Vec<f64>> {
    let count = correlation.len();
    let first = if count == 2 {
        correlation[0][1].abs().sqrt()
    } else {
        let product = correlation[0][1] * correlation[0][2] / correlation[1][2];
        if !(product > 0.0) {
            return None;
        }
        product.sqrt()
    };
    let mut loadings = vec![first; count];
    for other in 1..count {
        loadings[other] = if first == 0.0 {
            0.0
        } else {
            correlation[0][other] / first
        };
    }
    let fits = (0..count).all(|i| {
        loadings[i].abs() < MOST_LOADING
            && (0..i).all(|j| (loadings[i] * loadings[j] - correlation[i][j]).abs() < 1e-9)
    });
    fits.then_some(loadings)
}

/// Most different loadings that are told apart.
const MOST_LOADINGS: usize = 128;

/// Equal loadings together, as they mostly are; of hundreds of different ones, neighbours, whose
/// tails hardly differ.
fn grouped(mut loadings: Vec<f64>) -> Vec<(f64, f64)> {
    loadings.sort_by(f64::total_cmp);
    let (low, high) = (loadings[0], loadings[loadings.len() - 1]);
    let width = if loadings.len() > MOST_LOADINGS {
        (high - low) / MOST_LOADINGS as f64
    } else {
        1e-12
    };
    let mut groups: Vec<(f64, f64, f64)> = Vec::new();
    for l in loadings {
        match groups.last_mut() {
            Some((first, sum, count)) if l - *first <= width => {
                (*sum, *count) = (*sum + l, *count + 1.0)
            }
            _ => groups.push((l, l, 1.0)),
        }
    }
    groups
        .into_iter()
        .map(|(_, sum, count)| (sum / count, count))
        .collect()
}

struct FactorGrid {
    nodes: Vec<(f64, f64)>,
}

/// Trapezium nodes for the shared normal: fine enough for the sharpest edge, 1/sqrt(1 - l^2) wide.
/// What lies outside is the same on both sides of zero, so one side counts twice.
fn factor_grid(loadings: &[(f64, f64)]) -> FactorGrid {
    let sharpest = loadings
        .iter()
        .map(|(l, _)| (1.0 - l * l).sqrt() / l.abs().max(0.5))
        .fold(1.0, f64::min);
    let h = 0.4 * sharpest;
    let reach = 9.0;
    let steps = (reach / h).ceil() as i64;
    FactorGrid {
        nodes: (0..=steps)
            .map(|i| {
                let z = i as f64 * h;
                (z, if i == 0 { h } else { 2.0 * h } * normal_density(z))
            })
            .collect(),
    }
}

fn factored_outside(bound: f64, loadings: &[(f64, f64)], grid: &FactorGrid) -> f64 {
    grid.nodes
        .iter()
        .map(|&(z, weight)| {
            let log_inside: f64 = loadings
                .iter()
                .map(|&(l, count)| {
                    let rest = (1.0 - l * l).sqrt();
                    let outside =
                        normal_upper((bound - l * z) / rest) + normal_upper((bound + l * z) / rest);
                    count * (-outside.min(1.0)).ln_1p()
                })
                .sum();
            weight * -log_inside.exp_m1()
        })
        .sum()
}

fn cholesky(matrix: &[Vec<f64>]) -> Vec<Vec<f64>> {
    let n = matrix.len();
    let mut lower = vec![vec![0.0; n]; n];
    for i in 0..n {
        for j in 0..=i {
            let dot: f64 = (0..j).map(|k| lower[i][k] * lower[j][k]).sum();
            let rest = matrix[i][j] - dot;
            lower[i][j] = if i == j {
                rest.max(1e-14).sqrt()
            } else {
                rest / lower[j][j]
            };
        }
    }
    lower
}

/// A Kronecker lattice on the powers of the generalised golden ratio, folded by the tent map.
fn lattice(dimensions: usize) -> Vec<Vec<f64>> {
    let points = (1_500_000 / dimensions.max(1)).clamp(2_000, 200_000);
    let mut ratio = 1.5f64;
    for _ in 0..80 {
        ratio = (1.0 + ratio).powf(1.0 / (dimensions as f64 + 1.0));
    }
    (0..points)
        .map(|point| {
            (1..=dimensions)
                .map(|power| {
                    let x = ((point as f64 + 0.5) * ratio.powf(-(power as f64))).fract();
                    (2.0 * x - 1.0).abs().clamp(1e-15, 1.0 - 1e-15)
                })
                .collect()
        })
        .collect()
}

/// One lattice point's share of what lies outside the cube of half-width `bound`.
fn general_outside(bound: f64, lower: &[Vec<f64>], point: &[f64]) -> f64 {
    let count = lower.len();
    let mut drawn = Vec::with_capacity(count);
    let mut inside = 1.0;
    for (i, row) in lower.iter().enumerate() {
        let shift: f64 = row.iter().zip(&drawn).map(|(l, z)| l * z).sum();
        let below = normal_upper((bound + shift) / row[i]);
        let above = normal_upper((bound - shift) / row[i]);
        let between = (1.0 - below - above).max(0.0);
        inside *= between;
        if i + 1 < count {
            drawn.push(-normal_quantile_upper(
                (below + point[i] * between).clamp(1e-300, 1.0 - 1e-16),
            ));
        }
    }
    1.0 - inside
}

#[cfg(test)]
mod tests {
    use super::*;

    fn equicorrelated(count: usize, r: f64) -> Vec<Vec<f64>> {
        (0..count)
            .map(|i| (0..count).map(|j| if i == j { 1.0 } else { r }).collect())
            .collect()
    }

    #[test]
    fn critical_values_match_outside_computation() {
        // ../shared reference power-and-quantiles.json: Gauss-Legendre quadrature outside the
        // project.
        let table = [
            (2, 10.0, 2.568_338_876_032_79),
            (3, 12.0, 2.682_870_062_840_26),
            (3, 20.0, 2.540_349_609_942_6),
            (5, 30.0, 2.656_854_491_216),
        ];
        for (count, df, want) in table {
            let got = JointContrasts::new(&equicorrelated(count, 0.5), df)
                .unwrap()
                .critical(0.95)
                .unwrap();
            assert!((got - want).abs() < 1e-8, "{count} {df}: {got} {want}");
        }
    }

    #[test]
    fn the_lattice_agrees_with_the_one_factor_integral() {
        for (count, r) in [(3, 0.5), (4, 0.3), (5, 0.7)] {
            let matrix = equicorrelated(count, r);
            let exact = JointContrasts::new(&matrix, 9.0).unwrap();
            let general = JointContrasts {
                shape: Shape::general(&matrix, 9.0),
                ..exact.clone()
            };
            for t in [2.0, 3.5] {
                let gap = (exact.exceeds(t) - general.exceeds(t)).abs();
                assert!(gap < 1e-5, "{count} contrasts, t {t}: {gap}");
            }
        }
    }

    #[test]
    fn one_contrast_is_students_t_and_more_contrasts_ask_more() {
        let one = JointContrasts::new(&[vec![1.0]], 7.0)
            .unwrap()
            .critical(0.95)
            .unwrap();
        assert!((one - 2.364_624_251_592_785).abs() < 1e-9);
        let mut last = one;
        for count in 2..7 {
            let next = JointContrasts::new(&equicorrelated(count, 0.5), 7.0)
                .unwrap()
                .critical(0.95)
                .unwrap();
            assert!(next > last);
            last = next;
        }
    }

    #[test]
    fn independent_contrasts_given_many_df_multiply() {
        let joint = JointContrasts::new(&equicorrelated(2, 0.0), 1e6).unwrap();
        let one = 2.0 * normal_upper(2.0);
        assert!((joint.exceeds(2.0) - (1.0 - (1.0 - one) * (1.0 - one))).abs() < 1e-6);
    }

    /// Hundreds of different loadings, taken together in groups, against each of them by itself.
    #[test]
    fn neighbouring_loadings_stand_for_each_other() {
        let loadings: Vec<f64> = (0..300).map(|i| 0.5 + 0.4 * f64::from(i) / 300.0).collect();
        let each: Vec<(f64, f64)> = loadings.iter().map(|l| (*l, 1.0)).collect();
        let few = grouped(loadings);
        assert!(few.len() <= MOST_LOADINGS + 1);
        for bound in [2.0, 3.0, 4.0] {
            let (a, b) = (
                factored_outside(bound, &each, &factor_grid(&each)),
                factored_outside(bound, &few, &factor_grid(&few)),
            );
            assert!((a - b).abs() < 1e-5, "{a} {b}");
        }
    }

    #[test]
    fn refuses_what_makes_no_sense() {
        assert!(JointContrasts::new(&equicorrelated(2, 0.5), 0.0).is_err());
        assert!(JointContrasts::new(&equicorrelated(2, f64::NAN), 4.0).is_err());
        assert!(
            JointContrasts::new(&equicorrelated(2, 0.5), 4.0)
                .unwrap()
                .critical(1.0)
                .is_err()
        );
    }
}
