//! Counts, days and scores beside naive twins, and what must not matter to them: order of rows,
//! names, units of exposure, which side is called the control.

use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_judge::table::{Columns, read};
use iron_twin_stats::linear::Layout;
use iron_twin_stats::quasi::{Family, Tally, fit};
use iron_twin_stats::ranks::{RankBlock, midranks, superiority};
use iron_twin_stats::survival::{Curve, Lifetime, log_rank, log_rank_scores};
use iron_twin_stats::turnbull::{Spread, Window};
use iron_twin_terms::kind::Kind;
use proptest::prelude::*;

/// One unit: treatment, block, count, n (at least the count), day, seen, score.
type Unit = (usize, usize, u32, u32, u32, bool, u32);

/// Complete blocks of two to four treatments.
fn units() -> impl Strategy<Value = Vec<Unit>> {
    (2usize..5, 2usize..5).prop_flat_map(|(treatments, blocks)| {
        prop::collection::vec(
            (0u32..12, 1u32..20, 1u32..15, any::<bool>(), 1u32..6),
            treatments * blocks,
        )
        .prop_map(move |cells| {
            let unit = |(i, (k, more, day, seen, score)): (usize, (u32, u32, u32, bool, u32))| {
                (
                    i % treatments,
                    i / treatments,
                    k,
                    k + more,
                    day,
                    seen,
                    score,
                )
            };
            cells.into_iter().enumerate().map(unit).collect()
        })
    })
}

fn analysis(units: &[Unit], kind: Kind, names: [&str; 4], factor: f64) -> Option<Analysis> {
    let rows: String = units
        .iter()
        .map(|&(t, b, k, n, day, seen, score)| {
            let size = if kind == Kind::Count {
                f64::from(n) * factor
            } else {
                f64::from(n)
            };
            let seen = if seen { "yes" } else { "no" };
            format!("{},{b},{k},{size},{day},{seen},{score}\n", names[t])
        })
        .collect();
    let measure = match kind {
        Kind::Days => "day",
        Kind::Score => "score",
        _ => "k",
    };
    let some = |is: bool, name: &str| is.then(|| name.to_owned());
    let columns = Columns {
        kind,
        measure: measure.into(),
        treatment: "t".into(),
        control: names[0].into(),
        block: some(true, "b"),
        out_of: some(kind == Kind::Share, "n"),
        exposure: some(kind == Kind::Count, "n"),
        seen: some(kind == Kind::Days, "seen"),
        ..Columns::default()
    };
    let table = read(
        format!("t,b,k,n,day,seen,score\n{rows}").as_bytes(),
        &columns,
    )
    .ok()?;
    analyse(&table, &Question::default()).ok()
}

fn near(a: Option<f64>, b: Option<f64>, tolerance: f64) -> bool {
    match (a, b) {
        (Some(a), Some(b)) => (a - b).abs() <= tolerance * a.abs().max(b.abs()).max(1e-3),
        (a, b) => a.is_none() == b.is_none(),
    }
}

const NAMES: [&str; 4] = ["water", "half", "full", "double"];

proptest! {
    #![proptest_config(ProptestConfig::with_cases(60))]

    #[test]
    fn order_names_and_units_of_exposure_do_not_matter(
        units in units(), kind in prop::sample::select(vec![Kind::Count, Kind::Share, Kind::Days, Kind::Score]), turn in 0usize..16,
    ) {
        let Some(plain) = analysis(&units, kind, NAMES, 1.0) else { return Ok(()) };
        let mut turned = units.clone();
        turned.rotate_left(turn % units.len());
        let other = analysis(&turned, kind, ["a", "b", "c", "d"], 1000.0).unwrap();
        for c in &plain.contrasts {
            let place = NAMES.iter().position(|n| *n == c.treatment).unwrap();
            let o: &Contrast = other.contrasts.iter().find(|o| o.treatment == ["a", "b", "c", "d"][place]).unwrap();
            prop_assert!(near(Some(c.estimate), Some(o.estimate), 1e-7) || c.estimate.is_nan(), "{} {}", c.estimate, o.estimate);
            prop_assert!(near(c.p, o.p, 1e-6) && near(c.low, o.low, 1e-6) && near(c.high, o.high, 1e-6));
            let p = |c: &Contrast| c.randomisation.as_ref().map(|r| r.p);
            prop_assert!(near(p(c), p(o), 1e-9));
            prop_assert_eq!(c.verdict, o.verdict);
        }
        prop_assert!(near(plain.overall.map(|o| o.p), other.overall.map(|o| o.p), 1e-6));
    }

    /// Which side is called the control turns the ratio over and leaves its p.
    #[test]
    fn turning_the_sides_turns_the_ratio(units in units()) {
        let two: Vec<Unit> = units.iter().filter(|u| u.0 < 2).copied().collect();
        let turned: Vec<Unit> = two.iter().map(|u| (1 - u.0, u.1, u.2, u.3, u.4, u.5, u.6)).collect();
        let of = |units: &[Unit]| analysis(units, Kind::Count, NAMES, 1.0).map(|a| a.contrasts[0].clone());
        let (Some(a), Some(b)) = (of(&two), of(&turned)) else { return Ok(()) };
        if let (Some(x), Some(y)) = (a.ratio.flatten(), b.ratio.flatten()) {
            prop_assert!((x * y - 1.0).abs() < 1e-7);
            prop_assert!(near(a.p, b.p, 1e-6));
        }
    }

    /// The fitted counts solve the likelihood's own equations: totals of treatments and blocks are
    /// met.
    #[test]
    fn fitted_counts_meet_their_totals(units in units()) {
        let treatments = units.iter().map(|u| u.0).max().unwrap() + 1;
        let blocks = units.iter().map(|u| u.1).max().unwrap() + 1;
        let tallies: Vec<Tally> = units
            .iter()
            .map(|u| Tally { treatment: u.0, block: u.1, column: 0, count: f64::from(u.2 + 1), size: f64::from(u.3) })
            .collect();
        let fit = fit(Family::Count, &tallies, Layout { treatments, blocks, columns: 1, baseline: false }).unwrap();
        // Rates are treatment effect times the mean block effect; the block effects come back from
        // the block totals.
        let effect: Vec<f64> = fit.scores.iter().map(|s| s.exp()).collect();
        let block_effect: Vec<f64> = (0..blocks)
            .map(|b| {
                let own = tallies.iter().filter(|t| t.block == b);
                let (count, size) = own.fold((0.0, 0.0), |(c, s), t| (c + t.count, s + t.size * effect[t.treatment]));
                count / size
            })
            .collect();
        for (t, own_effect) in effect.iter().enumerate() {
            let own = tallies.iter().filter(|u| u.treatment == t);
            let (count, fitted) = own.fold((0.0, 0.0), |(c, f), u| {
                (c + u.count, f + u.size * own_effect * block_effect[u.block])
            });
            prop_assert!((count - fitted).abs() < 1e-6 * count, "{count} {fitted}");
        }
    }

    /// Every deal of the ranks by hand, for the exact rank sum with ties.
    #[test]
    fn exact_rank_sums_equal_every_deal(
        treated in prop::collection::vec(1u32..5, 1..5), control in prop::collection::vec(1u32..5, 1..5),
    ) {
        let all: Vec<f64> = treated.iter().chain(&control).map(|v| f64::from(*v)).collect();
        let ranks = midranks(&all);
        let (n, m) = (all.len(), treated.len());
        let centre = m as f64 * (n as f64 + 1.0) / 2.0;
        let observed = (ranks[..m].iter().sum::<f64>() - centre).abs();
        let (mut hits, mut deals) = (0u32, 0u32);
        for mask in 0u32..1 << n {
            if mask.count_ones() as usize == m {
                let sum: f64 = (0..n).filter(|i| mask >> i & 1 == 1).map(|i| ranks[i]).sum();
                deals += 1;
                hits += u32::from((sum - centre).abs() >= observed - 1e-9);
            }
        }
        let row = |name: &str, v: &u32| format!("{name},{v}\n");
        let csv = format!(
            "t,v\n{}{}",
            control.iter().map(|v| row("water", v)).collect::<String>(),
            treated.iter().map(|v| row("feed", v)).collect::<String>()
        );
        let columns = Columns {
            kind: Kind::Score, measure: "v".into(), treatment: "t".into(), control: "water".into(), ..Columns::default()
        };
        let analysis = analyse(&read(csv.as_bytes(), &columns).unwrap(), &Question::default()).unwrap();
        let p = analysis.contrasts[0].exact_p.unwrap();
        prop_assert!((p - f64::from(hits) / f64::from(deals)).abs() < 1e-12);
        let block = RankBlock { treated: all[..m].to_vec(), control: all[m..].to_vec() };
        let wins: f64 = all[..m].iter().flat_map(|a| all[m..].iter().map(move |b| if a > b { 1.0 } else if a == b { 0.5 } else { 0.0 })).sum();
        prop_assert!((superiority(&[block]).unwrap() - wins / (m * (n - m)) as f64).abs() < 1e-12);
    }

    /// The log-rank test of two treatments from its scores: observed less expected is their sum;
    /// and the curve by counting.
    #[test]
    fn curves_and_log_rank_equal_counting(units in units()) {
        let lifetimes: Vec<(usize, usize, Lifetime)> = units
            .iter()
            .filter(|u| u.0 < 2)
            .map(|u| (u.0, 0, Lifetime { day: f64::from(u.4), seen: u.5 }))
            .collect();
        let all: Vec<Lifetime> = lifetimes.iter().map(|l| l.2).collect();
        let curve = Curve::of(&all).unwrap();
        let mut left = 1.0;
        for day in 1..15 {
            let day = f64::from(day);
            let risk = all.iter().filter(|l| l.day >= day).count() as f64;
            let events = all.iter().filter(|l| l.day == day && l.seen).count() as f64;
            if risk > 0.0 {
                left *= 1.0 - events / risk;
            }
            let ours = curve.steps.iter().rev().find(|s| s.day <= day).map_or(1.0, |s| s.remaining);
            prop_assert!((ours - left).abs() < 1e-12);
        }
        let area: f64 = (0..14).map(|d| {
            curve.steps.iter().rev().find(|s| s.day <= f64::from(d)).map_or(1.0, |s| s.remaining)
        }).sum();
        prop_assert!((curve.restricted_mean(14.0).mean - area).abs() < 1e-9);
        if let Some(test) = log_rank(&lifetimes, 2, 1) {
            let gap: f64 = lifetimes.iter().zip(log_rank_scores(&all)).filter(|(l, _)| l.0 == 1).map(|(_, s)| s).sum();
            let mut variance = 0.0;
            for day in 1..15 {
                let day = f64::from(day);
                let at = |t: usize| lifetimes.iter().filter(|l| l.0 == t && l.2.day >= day).count() as f64;
                let events = all.iter().filter(|l| l.day == day && l.seen).count() as f64;
                let risk = at(0) + at(1);
                if risk > 1.0 {
                    variance += events * (at(1) / risk) * (at(0) / risk) * (risk - events) / (risk - 1.0);
                }
            }
            prop_assert!((test.chi_square - gap * gap / variance).abs() < 1e-8 * test.chi_square.max(1.0));
        }
    }

    /// The textbook iteration of Turnbull, taken a long way, is no likelier than the curve found.
    #[test]
    fn no_other_curve_is_likelier(
        windows in prop::collection::vec((0u32..8, 1u32..5, any::<bool>()), 2..9),
    ) {
        let windows: Vec<Window> = windows
            .into_iter()
            .map(|(after, width, open)| Window {
                after: f64::from(after), by: if open { f64::INFINITY } else { f64::from(after + width) },
            })
            .collect();
        let spread = Spread::of(&windows).unwrap();
        let held: Vec<Vec<usize>> = windows
            .iter()
            .map(|w| (0..spread.cells.len()).filter(|&c| w.after <= spread.cells[c].from && spread.cells[c].to <= w.by).collect())
            .collect();
        let log = |p: &[f64]| held.iter().map(|own| own.iter().map(|&c| p[c]).sum::<f64>().ln()).sum::<f64>();
        let found: Vec<f64> = spread.cells.iter().map(|c| c.share).collect();
        let mut p = vec![1.0 / found.len() as f64; found.len()];
        for _ in 0..3000 {
            let mut next = vec![0.0; p.len()];
            for own in &held {
                let mass: f64 = own.iter().map(|&c| p[c]).sum();
                own.iter().for_each(|&c| next[c] += p[c] / mass / held.len() as f64);
            }
            p = next;
        }
        prop_assert!(log(&found) >= log(&p) - 1e-7, "{} {}", log(&found), log(&p));
        prop_assert!((found.iter().sum::<f64>() - 1.0).abs() < 1e-9);
        prop_assert!(spread.scores(&windows).iter().sum::<f64>().abs() < 1e-4);
    }
}
