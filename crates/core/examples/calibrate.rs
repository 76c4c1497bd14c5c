//! Simulated seasons with a known truth: how often the analysis raises a false alarm, and how often its interval holds the
//! truth, for the designs that growers use. `cargo xtask calibrate` writes the table into docs/calibration.md.

use iron_twin_core::judge::analysis::analyse;
use iron_twin_core::judge::question::Question;
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::terms::kind::Kind;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::fmt::Write;

struct Chance(ChaCha8Rng);

impl Chance {
    fn normal(&mut self) -> f64 {
        let (u, v): (f64, f64) = (1.0 - self.0.random::<f64>(), self.0.random());
        (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
    }

    fn hits(&mut self, n: usize, p: f64) -> usize {
        (0..n).filter(|_| self.0.random::<f64>() < p).count()
    }
}

/// A design: treatments, units of each in a block, blocks, samples of a unit.
struct Design {
    kind: Kind,
    treatments: usize,
    each: usize,
    blocks: usize,
    samples: usize,
    /// What every treatment truly has over the control: grams, a factor, points, days.
    truth: f64,
}

fn design(kind: Kind, (treatments, each, blocks, samples): (usize, usize, usize, usize), truth: f64) -> Design {
    Design { kind, treatments, each, blocks, samples, truth }
}

const NAMES: [&str; 4] = ["water", "half", "full", "double"];

impl Design {
    /// One season as a table: treatment, block, unit, value, size, seen.
    fn season(&self, chance: &mut Chance) -> String {
        let mut csv = String::from("t,b,u,v,n,seen\n");
        for block in 0..self.blocks {
            let shelf = chance.normal();
            for unit in 0..self.treatments * self.each {
                let treatment = unit % self.treatments;
                let own = chance.normal();
                for _ in 0..self.samples {
                    let (value, size, seen) = self.row(treatment > 0, shelf, own, chance);
                    // Writing into a String cannot fail.
                    let _ = writeln!(csv, "{},{block},{block}-{unit},{value},{size},{seen}", NAMES[treatment]);
                }
            }
        }
        csv
    }

    fn row(&self, treated: bool, shelf: f64, own: f64, chance: &mut Chance) -> (f64, f64, &'static str) {
        let gain = if treated { self.truth } else { 0.0 };
        let within = if self.samples > 1 { 3.0 * chance.normal() } else { 0.0 };
        match self.kind {
            Kind::Count => {
                // Expected 30 a unit, scattering twice as much as chance alone: a binomial of a spread-out rate.
                let factor = if treated { self.truth } else { 1.0 };
                let rate =
                    0.075 * factor * (0.15 * shelf + 0.18 * own - 0.5 * (0.15f64.powi(2) + 0.18f64.powi(2))).exp();
                (chance.hits(400, rate.min(1.0)) as f64, 1.0, "yes")
            }
            Kind::Share => (chance.hits(40, (0.5 + 0.01 * gain + 0.05 * own).clamp(0.0, 1.0)) as f64, 40.0, "yes"),
            Kind::Days => {
                let day = (14.0 + gain + 2.0 * own).round().max(1.0);
                if day > 18.0 { (18.0, 1.0, "no") } else { (day, 1.0, "yes") }
            }
            Kind::Score => ((3.0 + gain + own).round().clamp(1.0, 5.0), 1.0, "yes"),
            Kind::Amount | Kind::Dose => (100.0 + gain + 5.0 * shelf + 4.0 * own + within, 1.0, "yes"),
        }
    }

    fn columns(&self) -> Columns {
        let some = |is: bool, name: &str| is.then(|| name.to_owned());
        Columns {
            kind: self.kind,
            measure: "v".into(),
            treatment: "t".into(),
            control: "water".into(),
            block: some(self.blocks > 1, "b"),
            unit: some(self.samples > 1, "u"),
            out_of: some(self.kind == Kind::Share, "n"),
            seen: some(self.kind == Kind::Days, "seen"),
            ..Columns::default()
        }
    }

    fn name(&self) -> String {
        let kind = self.kind.word();
        let units = self.each * self.blocks;
        let sides = vec![units.to_string(); self.treatments].join(" v ");
        let blocks = if self.blocks > 1 { format!(", {} blocks", self.blocks) } else { String::new() };
        let samples = if self.samples > 1 { format!(", {} plants a unit", self.samples) } else { String::new() };
        format!("{kind}, {sides}{blocks}{samples}")
    }
}

/// Share of seasons, in per cent.
struct Shares {
    alarms: f64,
    verdicts: f64,
    held: f64,
}

fn run(design: &Design, seasons: u32, seed: u64) -> Shares {
    let mut chance = Chance(ChaCha8Rng::seed_from_u64(seed));
    let (mut alarms, mut verdicts, mut held, mut counted) = (0u32, 0u32, 0u32, 0u32);
    for _ in 0..seasons {
        let csv = design.season(&mut chance);
        let Ok(table) = read(csv.as_bytes(), &design.columns()) else { continue };
        let Ok(analysis) = analyse(&table, &Question::default()) else { continue };
        counted += 1;
        let limits = analysis.contrasts.iter().map(|c| match &c.simultaneous {
            Some(s) => (Some(s.low), Some(s.high)),
            None => (c.low, c.high),
        });
        let beside =
            |at: f64| move |l: (Option<f64>, Option<f64>)| l.0.is_some_and(|v| v > at) || l.1.is_some_and(|v| v < at);
        let none = if design.kind == Kind::Count { 1.0 } else { 0.0 };
        alarms += u32::from(limits.clone().any(beside(none)));
        verdicts += u32::from(analysis.contrasts.iter().any(|c| c.verdict.claims_difference()));
        held += u32::from(!limits.clone().any(beside(design.truth)));
    }
    let share = |n: u32| 100.0 * f64::from(n) / f64::from(counted.max(1));
    Shares { alarms: share(alarms), verdicts: share(verdicts), held: share(held) }
}

fn main() {
    let seasons: u32 = std::env::args().nth(1).and_then(|a| a.parse().ok()).unwrap_or(4000);
    let (amount, count, share, days, score) = (Kind::Amount, Kind::Count, Kind::Share, Kind::Days, Kind::Score);
    let shapes = [
        (amount, (2, 2, 1, 1), 12.0),
        (amount, (2, 3, 1, 1), 12.0),
        (amount, (2, 4, 1, 1), 12.0),
        (amount, (2, 8, 1, 1), 12.0),
        (amount, (4, 4, 1, 1), 12.0),
        (amount, (2, 1, 3, 1), 12.0),
        (amount, (2, 1, 6, 1), 12.0),
        (amount, (4, 1, 4, 1), 12.0),
        (amount, (3, 2, 3, 1), 12.0),
        (amount, (2, 3, 1, 4), 12.0),
        (amount, (3, 1, 4, 3), 12.0),
        (amount, (2, 8, 1, 5), 12.0),
        (count, (2, 4, 1, 1), 1.3),
        (count, (2, 8, 1, 1), 1.3),
        (count, (3, 1, 5, 1), 1.3),
        (share, (2, 4, 1, 1), 15.0),
        (share, (2, 8, 1, 1), 15.0),
        (share, (3, 4, 1, 1), 15.0),
        (days, (2, 6, 1, 1), -2.0),
        (days, (2, 8, 1, 1), -2.0),
        (score, (2, 6, 1, 1), 1.0),
        (score, (2, 8, 1, 1), 1.0),
    ];
    println!(
        "| design | interval leaves no difference out, where there is none | a verdict claims one | interval holds the truth |"
    );
    println!("|---|---|---|---|");
    for (i, (kind, shape, truth)) in shapes.into_iter().enumerate() {
        let nothing = if kind == Kind::Count { 1.0 } else { 0.0 };
        let (null, with) = (design(kind, shape, nothing), design(kind, shape, truth));
        let alarm = run(&null, seasons, 1000 + i as u64);
        // The truth of days and scores on their own scale is not a number of this table; only its absence is.
        let told = matches!(kind, Kind::Amount | Kind::Count | Kind::Share);
        let held = if told { format!("{:.1} %", run(&with, seasons, 5000 + i as u64).held) } else { "–".into() };
        println!("| {} | {:.1} % | {:.1} % | {held} |", null.name(), alarm.alarms, alarm.verdicts);
    }
}
