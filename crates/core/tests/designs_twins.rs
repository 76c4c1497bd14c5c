//! The models behind the designs beside naive twins, and their false alarms in seasons in which
//! nothing differs.

use iron_twin_core::place::deal::{deal, ways};
use iron_twin_core::trial::space::{Rack, RackDesign};
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::table::read;
use iron_twin_stats::distributions::t_two_sided;
use iron_twin_stats::linear::{self, Layout, Observation};
use iron_twin_stats::quasi::{self, Family, Tally};
use iron_twin_stats::split_plot::{self, SplitPlot};
use nalgebra::{DMatrix, DVector};
use proptest::prelude::*;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

fn row(treatment: usize, block: usize, column: usize, value: f64) -> Observation {
    Observation {
        value,
        treatment,
        block,
        column,
        baseline: 0.0,
        unit: 0,
    }
}

/// Rows and columns written out, an unknown for each treatment and each further row and column.
fn written_out(rows: &[Observation], layout: Layout) -> DMatrix<f64> {
    let (t, b) = (layout.treatments, layout.blocks);
    DMatrix::from_fn(rows.len(), layout.rank(), |i, j| {
        let r = &rows[i];
        let here = if j < t {
            r.treatment == j
        } else if j < t + b - 1 {
            r.block == j - t + 1
        } else {
            r.column == j + 2 - t - b
        };
        f64::from(u8::from(here))
    })
}

/// The restricted likelihood of a split plot with its covariance matrix written out.
fn restricted(plot: &SplitPlot<'_>, within: f64, between: f64) -> f64 {
    let n = plot.rows.len();
    let v = DMatrix::from_fn(n, n, |i, j| {
        let own = if i == j { within * within } else { 0.0 };
        own + if plot.fixtures[i] == plot.fixtures[j] {
            between * between
        } else {
            0.0
        }
    });
    let x = DMatrix::from_fn(n, plot.levels.len(), |i, j| {
        f64::from(u8::from(plot.rows[i].treatment == j))
    });
    let y = DVector::from_iterator(n, plot.rows.iter().map(|r| r.value));
    let inverse = v.clone().try_inverse().expect("a covariance matrix");
    let information = x.transpose() * &inverse * &x;
    let beta = information
        .clone()
        .try_inverse()
        .expect("every cell is grown")
        * x.transpose()
        * &inverse
        * &y;
    let residual = y - x * beta;
    -0.5 * (v.determinant().ln()
        + information.determinant().ln()
        + (residual.transpose() * inverse * &residual)[0])
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    /// Least squares with rows and columns, one tray of the square lost, against the dense normal
    /// equations.
    #[test]
    fn rows_and_columns_equal_the_dense_solution(
        size in 3usize..6, values in prop::collection::vec(0.0..100.0f64, 25), lost in 0usize..25,
    ) {
        let cells = (0..size * size).filter(|&i| i != lost);
        let rows: Vec<Observation> =
            cells.map(|i| row((i / size + i % size) % size, i / size, i % size, values[i])).collect();
        let layout = Layout { treatments: size, blocks: size, columns: size, baseline: false };
        let fit = linear::fit(&rows, layout).unwrap();
        let x = written_out(&rows, layout);
        let y = DVector::from_iterator(rows.len(), rows.iter().map(|r| r.value));
        let inverse = (x.transpose() * &x).try_inverse().unwrap();
        let beta = &inverse * x.transpose() * &y;
        let residual = &y - &x * &beta;
        for t in 1..size {
            prop_assert!((fit.difference(t, 0).estimate - (beta[t] - beta[0])).abs() < 1e-7);
        }
        prop_assert_eq!(fit.df, (rows.len() - layout.rank()) as f64);
        if fit.df > 0.0 {
            let sd = (residual.norm_squared() / fit.df).sqrt();
            prop_assert!((fit.residual_sd - sd).abs() < 1e-7);
            let variance = inverse[(1, 1)] + inverse[(0, 0)] - 2.0 * inverse[(0, 1)];
            prop_assert!((fit.difference(1, 0).se - sd * variance.sqrt()).abs() < 1e-7);
        }
    }

    /// Rows and columns are alike to the model, and counting on twice the area changes no ratio.
    #[test]
    fn counts_in_a_square_do_not_mind_its_side_or_its_size(values in prop::collection::vec(1u32..40, 16)) {
        let layout = Layout { treatments: 4, blocks: 4, columns: 4, baseline: false };
        let fitted = |turned: bool, size: f64| {
            let tally = |i: usize| {
                let (r, c) = (i / 4, i % 4);
                let (block, column) = if turned { (c, r) } else { (r, c) };
                Tally { treatment: (r + c) % 4, block, column, count: size * f64::from(values[i]), size }
            };
            quasi::fit(Family::Count, &(0..16).map(tally).collect::<Vec<_>>(), layout).unwrap()
        };
        let (plain, turned, large) = (fitted(false, 1.0), fitted(true, 1.0), fitted(false, 2.0));
        prop_assert_eq!(plain.df, 6.0);
        for t in 1..4 {
            let (a, b, c) = (plain.difference(t, 0), turned.difference(t, 0), large.difference(t, 0));
            prop_assert!((a.0 - b.0).abs() < 1e-8 && (a.1 - b.1).abs() < 1e-8, "{:?} {:?}", a, b);
            prop_assert!((a.0 - c.0).abs() < 1e-8 && (a.1 - c.1).abs() < 1e-8, "{:?} {:?}", a, c);
        }
    }

    /// REML by brute force: no nearby pair of spreads is likelier than the one we report.
    #[test]
    fn a_split_plot_sits_at_the_top_of_the_restricted_likelihood(
        lamps in prop::collection::vec(-6.0..6.0f64, 6), noise in prop::collection::vec(-3.0..3.0f64, 18), lost in 0usize..30,
    ) {
        let places: Vec<(usize, usize)> =
            (0..18).filter(|&i| i != lost).map(|i| (i / 3, i % 3)).collect();
        let rows: Vec<Observation> = places
            .iter()
            .map(|&(lamp, tray)| row(3 * (lamp % 2) + tray, 0, 0, 20.0 + lamps[lamp] + noise[3 * lamp + tray]))
            .collect();
        let fixtures: Vec<usize> = places.iter().map(|p| p.0).collect();
        let plot = SplitPlot { rows: &rows, fixtures: &fixtures, levels: &[0, 0, 0, 1, 1, 1], blocks: 1, baseline: false };
        let fit = split_plot::fit(&plot).unwrap();
        let top = restricted(&plot, fit.within_fixture_sd, fit.between_fixtures_sd);
        for (a, b) in [(1.05, 1.0), (0.95, 1.0), (1.0, 1.05), (1.0, 0.95), (1.03, 0.97), (0.97, 1.03)] {
            let near = restricted(&plot, a * fit.within_fixture_sd, b * fit.between_fixtures_sd);
            prop_assert!(near <= top + 1e-7, "{a} {b}: {near} above {top}");
        }
        prop_assert!((fit.df_fixtures, fit.df_inside) == (4.0, rows.len() as f64 - 10.0));
    }

    /// Moving and stretching the measure moves and stretches what is said of it, and nothing else.
    #[test]
    fn a_split_plot_follows_the_unit_of_its_measure(values in prop::collection::vec(1.0..50.0f64, 12), factor in 0.1..20.0f64) {
        let fixtures: Vec<usize> = (0..12).map(|i| i / 2).collect();
        let of = |stretch: f64, shift: f64| {
            let rows: Vec<Observation> = (0..12)
                .map(|i| row(i % 2 + 2 * (i / 2 % 2), 0, 0, stretch * values[i] + shift))
                .collect();
            split_plot::fit(&SplitPlot { rows: &rows, fixtures: &fixtures, levels: &[0, 0, 1, 1], blocks: 1, baseline: false }).unwrap()
        };
        let (plain, moved) = (of(1.0, 0.0), of(factor, 7.0));
        let near = |a: f64, b: f64| (a - b).abs() <= 1e-4 * a.abs().max(b.abs()).max(1e-3);
        prop_assert!(near(moved.difference_se(1, 0), factor * plain.difference_se(1, 0)));
        prop_assert!(near(moved.means[3] - moved.means[0], factor * (plain.means[3] - plain.means[0])));
        let light = [-0.5, -0.5, 0.5, 0.5];
        prop_assert!(near(moved.df_of(&light), plain.df_of(&light)));
    }

    /// The deal's own arithmetic: as many deals as there are orders, never two of one treatment in
    /// a pair.
    #[test]
    fn a_pair_holds_both_and_a_free_deal_the_same_number_of_each(levels in 1u32..5, slots in 2u32..9, seed in any::<u64>()) {
        let rack = |design| Rack { levels, slots, design, ..Rack::default() };
        let pairs = rack(RackDesign::Pairs);
        let units = deal(&pairs, 2, seed).unwrap();
        for unit in &units {
            let mates = units.iter().filter(|u| pairs.block_of(u.position, 2) == pairs.block_of(unit.position, 2));
            prop_assert_eq!(mates.map(|u| u.treatment.get()).sum::<usize>(), 1, "one of each");
        }
        prop_assert_eq!(ways(&pairs, 2), 2f64.powi((levels * (slots / 2)) as i32));
        let free = rack(RackDesign::CompletelyRandomised);
        let units = deal(&free, 2, seed).unwrap();
        let fed = units.iter().filter(|u| u.treatment.get() == 1).count();
        prop_assert_eq!((2 * fed, units.len()), (units.len(), 2 * free.units_each(2)));
    }
}

fn followed(csv: &str, plan: &str) -> Analysis {
    let plan = AnalysisPlan::read(plan).unwrap();
    analyse(
        &read(csv.as_bytes(), &plan.columns(0)).unwrap(),
        &plan.question(0),
    )
    .unwrap()
}

/// A season's luck.
struct Luck(ChaCha8Rng);

impl Luck {
    fn normal(&mut self) -> f64 {
        let (u, v): (f64, f64) = (1.0 - self.0.random::<f64>(), self.0.random());
        (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
    }
}

const SQUARE: &str = r#"{ "format": "iron-twin/plan/1", "treatment": "t", "control": "0",
    "design": { "kind": "latin_square", "row": "r", "column": "c" }, "measures": [ { "column": "g" } ] }"#;
const SWAP: &str = r#"{ "format": "iron-twin/plan/1", "treatment": "t", "control": "0",
    "design": { "kind": "swap_over", "system": "r", "round": "c" }, "measures": [ { "column": "g" } ] }"#;
/// One season of a design in which nothing differs; rows and columns have their own luck.
fn season(design: &str, luck: &mut Luck) -> Vec<f64> {
    let mut csv = "r,c,t,g\n".to_owned();
    let mut trays = Vec::new();
    let (rows, columns) = match design {
        "square" => (4, 4),
        "swap" => (2, 6),
        _ => (6, 3),
    };
    let own: Vec<f64> = (0..rows + columns).map(|_| 3.0 * luck.normal()).collect();
    let first: Vec<usize> = (0..3).map(|_| luck.0.random_range(0..2)).collect();
    for r in 0..rows {
        for c in 0..columns {
            let treatment = match design {
                "square" => (r + c) % 4,
                "swap" => (first[c / 2] + c + r) % 2,
                _ => c,
            };
            let column = if design == "split" {
                0.0
            } else {
                own[rows + c]
            };
            let g = 50.0 + own[r] + column + luck.normal();
            csv += &format!("{r},{c},{treatment},{g}\n");
            trays.push(row(3 * (r % 2) + c % 3, 0, 0, g));
        }
    }
    match design {
        "square" => followed(&csv, SQUARE)
            .contrasts
            .iter()
            .filter_map(|c| c.simultaneous.as_ref().map(|s| s.p))
            .collect(),
        "swap" => followed(&csv, SWAP)
            .contrasts
            .iter()
            .filter_map(|c| c.p)
            .collect(),
        _ => {
            let fixtures: Vec<usize> = (0..18).map(|i| i / 3).collect();
            let plot = SplitPlot {
                rows: &trays,
                fixtures: &fixtures,
                levels: &[0, 0, 0, 1, 1, 1],
                blocks: 1,
                baseline: false,
            };
            let fit = split_plot::fit(&plot).unwrap();
            let third = 1.0 / 3.0;
            let lamps = [-third, -third, -third, third, third, third];
            let gap: f64 = lamps.iter().zip(&fit.means).map(|(w, m)| w * m).sum();
            let weights = DVector::from_column_slice(&lamps);
            let se = (&fit.covariance * &weights).dot(&weights).sqrt();
            vec![t_two_sided(gap / se, fit.df_of(&lamps))]
        }
    }
}

/// False alarms of each design against the 5 % promised. A split plot read as if trays were the
/// units of the lamps would raise several times as many.
#[test]
fn false_alarms_of_the_designs_stay_as_rare_as_promised() {
    let seasons = 300;
    let mut luck = Luck(ChaCha8Rng::seed_from_u64(2026));
    for design in ["square", "swap", "split"] {
        let alarms = (0..seasons)
            .filter(|_| season(design, &mut luck).into_iter().fold(1.0, f64::min) < 0.05)
            .count();
        let share = alarms as f64 / f64::from(seasons);
        let error = (0.05f64 * 0.95 / f64::from(seasons)).sqrt();
        assert!((share - 0.05).abs() < 3.5 * error, "{design}: {share}");
    }
}

#[test]
fn trays_under_a_lamp_are_no_lamps() {
    // The same seasons with every tray taken for a unit of its lamp's setting: far too many alarms.
    let mut luck = Luck(ChaCha8Rng::seed_from_u64(7));
    let plan = r#"{ "format": "iron-twin/plan/1", "treatment": "lamp", "control": "0", "measures": [ { "column": "g" } ] }"#;
    let mut alarms = 0;
    for _ in 0..100 {
        let mut csv = "lamp,g\n".to_owned();
        for lamp in 0..6 {
            let own = 3.0 * luck.normal();
            (0..3).for_each(|_| csv += &format!("{},{}\n", lamp % 2, 50.0 + own + luck.normal()));
        }
        alarms += usize::from(
            followed(&csv, plan).contrasts[0]
                .p
                .is_some_and(|p| p < 0.05),
        );
    }
    assert!(alarms > 15, "{alarms} of 100");
}
