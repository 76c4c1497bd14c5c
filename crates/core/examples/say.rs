use iron_twin_core::judge::analysis::analyse;
use iron_twin_core::judge::question::{Question, Scale};
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::judge::wording::Wording;
use iron_twin_core::quantity::Margin;
use iron_twin_core::terms::goal::{Better, Goal};
use iron_twin_core::terms::kind::Kind;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::fmt::Write;
fn main() {
    let mut r = ChaCha8Rng::seed_from_u64(std::env::args().nth(1).and_then(|a| a.parse().ok()).unwrap_or(1));
    let mut said = 0;
    while said < 320 {
        let mut pick = |n: usize| r.random_range(0..n);
        let kind = [Kind::Amount, Kind::Amount, Kind::Count, Kind::Share, Kind::Days, Kind::Score][pick(6)];
        let t = 2 + pick(3);
        let each: Vec<usize> = {
            let n = 2 + pick(6);
            let odd = pick(4) == 0;
            (0..t).map(|i| if odd && i == 1 { n + 3 } else { n }).collect()
        };
        let blocked = pick(3); // 0 none 1 shelf 2 site
        let goal = [Goal::Beat, Goal::Beat, Goal::Match, Goal::Best][pick(4)];
        let lower = pick(3) == 0;
        let effect = [0.0, 0.5, 1.5, 4.0, -3.0, 12.0][pick(6)];
        let wild = pick(4) == 0;
        let lost = pick(4) == 0;
        let edge = pick(5) == 0;
        let m = pick(3);
        let ratio = pick(5) == 0 && kind == Kind::Amount;
        let mut normal = || {
            let (u, v): (f64, f64) = (1.0 - r.random::<f64>(), r.random());
            (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
        };
        let names = ["plain water", "half feed", "full feed", "double feed"];
        let bl = if blocked == 0 { 1 } else { 3 };
        let mut csv = format!("t,{},v,n,seen\n", if blocked == 2 { "site" } else { "shelf" });
        for b in 0..bl {
            let sh = normal();
            for (i, &n) in each.iter().enumerate() {
                let n = if blocked > 0 { n.div_ceil(2) } else { n };
                let inter = if blocked == 2 { normal() } else { 0.0 };
                for k in 0..n {
                    if lost && i == 1 && k == 0 && n > 2 {
                        continue;
                    }
                    let z = normal() * if wild && i == 1 { 3.0 } else { 1.0 }
                        + if i > 0 { effect } else { 0.0 }
                        + sh
                        + inter;
                    let (v, nn, seen) = match kind {
                        Kind::Count => (
                            (if edge { 1.0 } else { 20.0 } * (0.2 * z).exp()).round()
                                * if edge && i == 1 { 0.0 } else { 1.0 },
                            1.0,
                            "yes",
                        ),
                        Kind::Share => (((0.5 + 0.06 * z).clamp(0.0, 1.0) * 20.0).round(), 20.0, "yes"),
                        Kind::Days => {
                            let d = (12.0 + z).round().max(1.0);
                            if edge && d > 12.0 { (12.0, 1.0, "no") } else { (d, 1.0, "yes") }
                        }
                        Kind::Score => ((3.0 + 0.6 * z).round().clamp(1.0, 5.0), 1.0, "yes"),
                        _ => ((100.0 + 5.0 * z).max(0.5), 1.0, "yes"),
                    };
                    let _ = writeln!(csv, "{},{b},{v},{nn},{seen}", names[i]);
                }
            }
        }
        let columns = Columns {
            kind,
            measure: "v".into(),
            treatment: "t".into(),
            control: "plain water".into(),
            block: (blocked > 0).then(|| if blocked == 2 { "site".into() } else { "shelf".into() }),
            out_of: (kind == Kind::Share).then(|| "n".into()),
            seen: (kind == Kind::Days).then(|| "seen".into()),
            ..Columns::default()
        };
        let margin = match (m, kind) {
            (0, _) => None,
            (_, Kind::Score) => Some(Margin::Absolute(0.1)),
            (1, Kind::Share) => Some(Margin::Absolute(10.0)),
            (1, Kind::Days) => Some(Margin::Absolute(2.0)),
            (1, Kind::Amount) if !ratio => Some(Margin::Absolute(8.0)),
            _ => Some(Margin::Percent(10.0)),
        };
        let wording =
            Wording { unit: if kind == Kind::Amount { "g".into() } else { String::new() }, ..Wording::default() };
        let q = Question {
            goal: if margin.is_none() && goal == Goal::Match { Goal::Beat } else { goal },
            better: if lower { Better::Lower } else { Better::Higher },
            margin,
            wording,
            expected_units: lost.then(|| each[0].div_ceil(if blocked > 0 { 2 } else { 1 }) * bl),
            scale: if ratio { Scale::Ratio } else { Scale::Difference },
            ..Question::default()
        };
        let Ok(table) = read(csv.as_bytes(), &columns) else { continue };
        match analyse(&table, &q) {
            Ok(a) => {
                for c in &a.contrasts {
                    said += 1;
                    println!(
                        "[{} {:?}{} e{effect} t{t} n{} {}{}{}] {} ({})",
                        kind.word(),
                        q.goal,
                        if lower { " low" } else { "" },
                        each[0],
                        ["", "shelf", "site"][blocked],
                        if wild { " wild" } else { "" },
                        if lost { " lost" } else { "" },
                        c.sentence,
                        c.ahead_next_time.map_or("-".into(), |v| format!("{:.0}", 100.0 * v))
                    );
                }
            }
            Err(e) => println!("ERR {e}"),
        }
    }
}
