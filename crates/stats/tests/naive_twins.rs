//! Each estimator beside a naive twin: the same answer by the plain textbook route, on tables drawn
//! by proptest.

use iron_twin_stats::distributions::{f_upper, t_quantile_upper, t_two_sided};
use iron_twin_stats::linear::{self, Layout, Observation};
use iron_twin_stats::mixed;
use iron_twin_stats::power::{PowerPlan, fewest_units};
use iron_twin_stats::spread::{brown_forsythe_p, farthest, median};
use iron_twin_stats::tukey::{critical_t, range_upper};
use iron_twin_stats::welch::{mean_and_variance, welch};
use nalgebra::{DMatrix, DVector};
use proptest::prelude::*;

/// Complete blocks with a covariate, a little ragged: some rows drawn twice.
#[derive(Debug, Clone)]
struct Drawn {
    rows: Vec<Observation>,
    layout: Layout,
}

fn drawn() -> impl Strategy<Value = Drawn> {
    (2usize..5, 2usize..5, any::<bool>()).prop_flat_map(|(treatments, blocks, baseline)| {
        let cells = treatments * blocks;
        let values = prop::collection::vec((0.0..100.0f64, 0.0..10.0f64, any::<bool>()), cells);
        values.prop_map(move |values| {
            let mut rows = Vec::new();
            for (cell, (value, start, twice)) in values.into_iter().enumerate() {
                let start = if baseline { start } else { 0.0 };
                let unit = rows.len();
                let row = Observation {
                    value,
                    treatment: cell % treatments,
                    block: cell / treatments,
                    column: 0,
                    baseline: start,
                    unit,
                };
                rows.push(row);
                if twice {
                    rows.push(Observation {
                        value: value * 0.9 + 3.0,
                        baseline: start * 1.1,
                        unit: unit + 1,
                        ..row
                    });
                }
            }
            for (unit, row) in rows.iter_mut().enumerate() {
                row.unit = unit;
            }
            Drawn {
                rows,
                layout: Layout {
                    treatments,
                    blocks,
                    columns: 1,
                    baseline,
                },
            }
        })
    })
}

/// The design written out: one column a treatment, one a further block, the covariate as it is.
fn dense(drawn: &Drawn) -> (DMatrix<f64>, DVector<f64>) {
    let layout = drawn.layout;
    let x = DMatrix::from_fn(drawn.rows.len(), layout.rank(), |i, j| {
        let row = &drawn.rows[i];
        if j < layout.treatments {
            f64::from(u8::from(row.treatment == j))
        } else if j < layout.treatments + layout.blocks - 1 {
            f64::from(u8::from(row.block == j - layout.treatments + 1))
        } else {
            row.baseline
        }
    });
    (
        x,
        DVector::from_iterator(drawn.rows.len(), drawn.rows.iter().map(|r| r.value)),
    )
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    /// Least squares by QR of the written-out design (nalgebra's singular values were off by 2 % on
    /// one such table).
    #[test]
    fn least_squares_equals_the_dense_solution(drawn in drawn()) {
        prop_assume!(!drawn.layout.baseline || linear::baseline_is_free(&drawn.rows, drawn.layout));
        let fit = linear::fit(&drawn.rows, drawn.layout).unwrap();
        let (x, y) = dense(&drawn);
        let qr = x.clone().qr();
        let diagonal = qr.r().diagonal().abs();
        prop_assume!(diagonal.min() > 1e-6 * diagonal.max());
        let beta = qr.r().solve_upper_triangular(&(qr.q().transpose() * &y)).unwrap();
        let residual = &y - &x * &beta;
        let df = (drawn.rows.len() - drawn.layout.rank()) as f64;
        prop_assert_eq!(fit.df, df);
        for treatment in 1..drawn.layout.treatments {
            let gap = fit.difference(treatment, 0).estimate - (beta[treatment] - beta[0]);
            prop_assert!(gap.abs() < 1e-6, "{}", gap);
        }
        for (ours, theirs) in fit.residuals.iter().zip(residual.iter()) {
            prop_assert!((ours - theirs).abs() < 1e-6);
        }
        if df > 0.0 {
            prop_assert!((fit.residual_sd - (residual.norm_squared() / df).sqrt()).abs() < 1e-6);
        }
        let trace: f64 = fit.leverages.iter().sum();
        prop_assert!((trace - drawn.layout.rank() as f64).abs() < 1e-6, "leverages sum to the rank");
    }

    /// The F test as the comparison of two models: with treatments and without.
    #[test]
    fn the_overall_test_is_the_drop_in_residual_squares(drawn in drawn()) {
        prop_assume!(!drawn.layout.baseline);
        let fit = linear::fit(&drawn.rows, drawn.layout).unwrap();
        prop_assume!(fit.df >= 1.0);
        let together: Vec<Observation> = drawn.rows.iter().map(|r| Observation { treatment: 0, ..*r }).collect();
        let reduced = linear::fit(&together, Layout { treatments: 1, ..drawn.layout }).unwrap();
        let squares = |residuals: &[f64]| residuals.iter().map(|r| r * r).sum::<f64>();
        let (full, less) = (squares(&fit.residuals), squares(&reduced.residuals));
        prop_assume!(full > 1e-6);
        let between = (drawn.layout.treatments - 1) as f64;
        let f = (less - full) / between / (full / fit.df);
        let ours = linear::overall(&fit).unwrap();
        prop_assert!((ours.f - f).abs() < 1e-6 * f.max(1.0), "{} {}", ours.f, f);
        prop_assert!((ours.p - f_upper(f, between, fit.df)).abs() < 1e-8);
    }

    /// REML by brute force: the restricted likelihood with the covariance matrix written out has
    /// its top where we say.
    #[test]
    fn the_mixed_model_sits_at_the_top_of_the_restricted_likelihood(
        effects in prop::collection::vec(-6.0..6.0f64, 6),
        noise in prop::collection::vec(-3.0..3.0f64, 18),
        sizes in prop::collection::vec(1usize..4, 6),
    ) {
        let mut rows = Vec::new();
        for (unit, size) in sizes.iter().enumerate() {
            for sample in 0..*size {
                let value = 20.0 + effects[unit] + noise[3 * unit + sample];
                rows.push(Observation { value, treatment: unit % 2, block: 0, column: 0, baseline: 0.0, unit });
            }
        }
        prop_assume!(rows.len() > 7);
        let layout = Layout { treatments: 2, blocks: 1, columns: 1, baseline: false };
        let fit = mixed::fit(&rows, layout).unwrap();
        let top = restricted(&rows, fit.within_unit_sd, fit.between_units_sd);
        for (within, between) in [(1.05, 1.0), (0.95, 1.0), (1.0, 1.05), (1.0, 0.95), (1.03, 0.97), (0.97, 1.03)] {
            let other = restricted(&rows, fit.within_unit_sd * within, fit.between_units_sd * between);
            prop_assert!(other <= top + 1e-7, "{} {}: {} above {}", within, between, other, top);
        }
        if fit.between_units_sd == 0.0 {
            prop_assert!(restricted(&rows, fit.within_unit_sd, 0.05 * fit.within_unit_sd) <= top + 1e-7);
            prop_assert_eq!(fit.df(0), fit.df_cap);
        }
        prop_assert!(fit.df(0) <= fit.df_cap + 1e-12);
    }

    /// Brown and Forsythe's F is an ordinary one-way analysis of distances from the median.
    #[test]
    fn brown_forsythe_is_a_one_way_analysis(groups in prop::collection::vec(prop::collection::vec(0.0..50.0f64, 4..8), 2..5)) {
        let mut rows = Vec::new();
        for (treatment, group) in groups.iter().enumerate() {
            let middle = median(group);
            rows.extend(group.iter().map(|v| Observation {
                value: (v - middle).abs(), treatment, block: 0, column: 0, baseline: 0.0, unit: 0,
            }));
        }
        let fit = linear::fit(&rows, Layout { treatments: groups.len(), blocks: 1, columns: 1, baseline: false }).unwrap();
        let want = linear::overall(&fit).unwrap().p;
        prop_assert!((brown_forsythe_p(&groups).unwrap() - want).abs() < 1e-9);
    }

    /// The externally studentised residual is what leaving the row out and predicting it gives.
    #[test]
    fn the_farthest_unit_is_what_leaving_it_out_says(values in prop::collection::vec(0.0..50.0f64, 8)) {
        let rows: Vec<Observation> = values
            .iter()
            .enumerate()
            .map(|(unit, &value)| Observation { value, treatment: unit % 2, block: 0, column: 0, baseline: 0.0, unit })
            .collect();
        let layout = Layout { treatments: 2, blocks: 1, columns: 1, baseline: false };
        let fit = linear::fit(&rows, layout).unwrap();
        prop_assume!(fit.residual_sd > 1e-3);
        let found = farthest(&fit.residuals, &fit.leverages, fit.df).unwrap();
        let rest: Vec<Observation> = rows.iter().filter(|r| r.unit != found.row).copied().collect();
        let without = linear::fit(&rest, layout).unwrap();
        let out = &rows[found.row];
        let own = rest.iter().filter(|r| r.treatment == out.treatment).count() as f64;
        let t = (out.value - without.means[out.treatment]) / (without.residual_sd * (1.0 + 1.0 / own).sqrt());
        prop_assert!((t - found.t).abs() < 1e-6 * t.abs().max(1.0), "{} {}", t, found.t);
        prop_assert!((found.p - (t_two_sided(t, 5.0) * 8.0).min(1.0)).abs() < 1e-6);
    }

    /// With equal spreads and sizes Welch has the pooled t, and never more df than the pooled test.
    #[test]
    fn welch_meets_the_pooled_test(first in prop::collection::vec(0.0..50.0f64, 5), second in prop::collection::vec(0.0..50.0f64, 5)) {
        let ((a, va), (b, vb)) = (mean_and_variance(&first), mean_and_variance(&second));
        prop_assume!(va > 1e-6 && vb > 1e-6);
        let w = welch(&first, &second, 0.95).unwrap().unwrap();
        let pooled_se = (0.5 * (va + vb) * 2.0 / 5.0).sqrt();
        prop_assert!((w.estimate - (a - b)).abs() < 1e-9);
        prop_assert!((w.se - pooled_se).abs() < 1e-9);
        prop_assert!(w.df <= 8.0 + 1e-9 && w.df >= 4.0 - 1e-9);
        let mirrored = welch(&second, &first, 0.95).unwrap().unwrap();
        prop_assert!((mirrored.low + w.high).abs() < 1e-9);
    }

    /// A searched-for size is the first that does it.
    #[test]
    fn fewest_units_is_the_first_that_does(least in 1usize..3000, step in 1usize..7) {
        let found = fewest_units(step, |n| n >= least).unwrap();
        prop_assert!(found >= least && found % step == 0 && (found < step + least));
    }
}

/// Restricted log-likelihood with the covariance matrix written out, up to a constant.
fn restricted(rows: &[Observation], within: f64, between: f64) -> f64 {
    let n = rows.len();
    let v = DMatrix::from_fn(n, n, |i, j| {
        let own = if i == j { within * within } else { 0.0 };
        own + if rows[i].unit == rows[j].unit {
            between * between
        } else {
            0.0
        }
    });
    let x = DMatrix::from_fn(n, 2, |i, j| f64::from(u8::from(rows[i].treatment == j)));
    let y = DVector::from_iterator(n, rows.iter().map(|r| r.value));
    let inverse = v.clone().try_inverse().expect("a covariance matrix");
    let information = x.transpose() * &inverse * &x;
    let beta =
        information.clone().try_inverse().expect("two treatments") * x.transpose() * &inverse * &y;
    let residual = y - x * beta;
    let quadratic = (residual.transpose() * inverse * &residual)[0];
    -0.5 * (v.determinant().ln() + information.determinant().ln() + quadratic)
}

/// Tukey's limits hold all pairs: they are wider than Student's and grow with the number of
/// treatments.
#[test]
fn tukey_widens_with_treatments_and_narrows_with_df() {
    for df in [3.0, 8.0, 30.0] {
        let student = t_quantile_upper(0.025, df).unwrap();
        let mut last = student - 1e-6;
        for count in 2..9 {
            let t = critical_t(0.95, count, df).unwrap();
            assert!(t > last, "{count} treatments, {df} df: {t} after {last}");
            assert!((range_upper(t * std::f64::consts::SQRT_2, count, df) - 0.05).abs() < 1e-9);
            last = t;
        }
    }
    assert!(critical_t(0.95, 4, 30.0).unwrap() < critical_t(0.95, 4, 6.0).unwrap());
    assert!(critical_t(1.0, 4, 6.0).is_err() && critical_t(0.95, 4, 0.0).is_err());
}

/// Power of an unblocked plan against a plain simulation of the two-sample t test.
#[test]
fn power_is_what_simulation_gives() {
    use rand::{RngExt, SeedableRng};
    let mut random = rand_chacha::ChaCha8Rng::seed_from_u64(5);
    let mut normal = move || {
        let (u, v): (f64, f64) = (1.0 - random.random::<f64>(), random.random());
        (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
    };
    let plan = PowerPlan {
        treatments: 2,
        units: 5,
        blocks: 1,
        covariates: 0,
        confidence: 0.95,
    };
    let (effect, rounds) = (1.8, 4000);
    let found = (0..rounds)
        .filter(|_| {
            let draw = |shift: f64, normal: &mut dyn FnMut() -> f64| {
                (0..5).map(|_| shift + normal()).collect::<Vec<_>>()
            };
            let (a, b) = (draw(effect, &mut normal), draw(0.0, &mut normal));
            let ((ma, va), (mb, vb)) = (mean_and_variance(&a), mean_and_variance(&b));
            let t = (ma - mb) / (0.5 * (va + vb) * 0.4).sqrt();
            t_two_sided(t, 8.0) < 0.05
        })
        .count();
    let (share, want) = (
        found as f64 / f64::from(rounds),
        plan.power(effect).unwrap(),
    );
    // Four standard errors of a share from 4,000 rounds.
    assert!(
        (share - want).abs() < 4.0 * (want * (1.0 - want) / f64::from(rounds)).sqrt(),
        "{share} {want}"
    );
}
