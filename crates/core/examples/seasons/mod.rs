//! Simulated seasons with a known truth, for the calibration and for the tests that hold it.

use iron_twin_core::ask::picture::Layout;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::{Question, Scale};
use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_judge::table::{Columns, read};
use iron_twin_stats::power::PowerPlan;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::kind::Kind;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::fmt::Write;

pub struct Chance(ChaCha8Rng);

impl Chance {
    /// Chance from a fixed seed.
    pub fn of(seed: u64) -> Self {
        Self(ChaCha8Rng::seed_from_u64(seed))
    }

    /// A standard normal figure.
    pub fn normal(&mut self) -> f64 {
        let (u, v): (f64, f64) = (1.0 - self.0.random::<f64>(), self.0.random());
        (-2.0 * u.ln()).sqrt() * (2.0 * std::f64::consts::PI * v).cos()
    }

    fn order(&mut self, n: usize) -> Vec<usize> {
        let mut all: Vec<usize> = (0..n).collect();
        for i in 0..n {
            all.swap(i, self.0.random_range(i..n));
        }
        all
    }

    fn hits(&mut self, n: usize, p: f64) -> usize {
        (0..n).filter(|_| self.0.random::<f64>() < p).count()
    }
}

/// How the figures of a season fall.
#[derive(Clone, Copy, PartialEq)]
pub enum Law {
    /// Normal, all alike: 100 g, units 4 g apart.
    Usual,
    /// This treatment scatters three times as much as the others.
    Wild(usize),
    /// Lognormal with a standard deviation of 0.5 on the logarithms.
    Skewed,
    /// Lognormal with a standard deviation of 1, compared by ratio.
    VerySkewed,
    /// A slope along the shelf, over all its places 1.5 times as wide as units scatter: left in, or
    /// the place taken out.
    Slope,
    SlopeOut,
    /// What each treatment does differs from block to block as much as units do.
    Sites,
    /// Half of that.
    MildSites,
    /// Sites at which every treatment does the same.
    AlikeSites,
    /// Counts of 4 a unit, or shares of 95 in 100: near the edge.
    Edge,
    /// All but the control and the first treatment have none at all; only these two are compared.
    Gone,
    /// The treatments kill the weakest quarter of their units and do nothing else; a claim that
    /// turns with the lost ones counted as the worst is none.
    Deaths,
    /// Doses: a hump, a steep S, ever less for more, a line that stays level.
    Hump,
    SCurve,
    Hyperbola,
    Plateau,
}

/// The doses of a ladder.
const DOSES: [f64; 5] = [0.0, 1.0, 2.0, 4.0, 8.0];

impl Law {
    /// What a dose truly gives.
    fn at(self, d: f64) -> f64 {
        10.0 + match self {
            Self::Hump => 10.0 * d - 1.25 * d * d,
            Self::SCurve => 15.0 * d.powi(3) / (8.0 + d.powi(3)),
            Self::Hyperbola => 15.0 * d / (1.0 + d),
            _ => 5.0 * d.min(3.0),
        }
    }

    /// The lowest dose that truly comes within 10 % of the best.
    fn enough(self) -> f64 {
        let grid = || (0..=8000).map(|i| f64::from(i) / 1000.0);
        let best = grid().map(|d| self.at(d)).fold(0.0, f64::max);
        grid().find(|d| self.at(*d) >= 0.9 * best).unwrap_or(8.0)
    }
}

/// A design: units of each treatment in a block, blocks, samples of a unit.
#[derive(Clone)]
pub struct Design {
    pub kind: Kind,
    pub each: Vec<usize>,
    pub blocks: usize,
    pub samples: usize,
    pub law: Law,
    /// What every treatment truly has over the control: grams, a factor, points, days.
    pub truth: f64,
}

const NAMES: [&str; 5] = ["water", "half", "full", "double", "triple"];
/// Standard deviation of units, g.
const SD: f64 = 4.0;

impl Design {
    pub fn new(kind: Kind, each: &[usize], blocks: usize, samples: usize, law: Law) -> Self {
        let truth = if kind == Kind::Count || law == Law::VerySkewed {
            1.0
        } else {
            0.0
        };
        Self {
            kind,
            each: each.to_vec(),
            blocks,
            samples,
            law,
            truth,
        }
    }

    /// A season after the deaths: the weakest quarter of each treatment's units is gone.
    fn without_the_weakest(csv: &str) -> String {
        let mut lines: Vec<&str> = csv.lines().collect();
        let value = |line: &str| {
            line.split(',')
                .nth(3)
                .and_then(|v| v.parse::<f64>().ok())
                .unwrap_or(f64::INFINITY)
        };
        for name in &NAMES[1..] {
            let of = |line: &&str| line.starts_with(&format!("{name},"));
            let gone = lines.iter().filter(|l| of(l)).count() / 4;
            for _ in 0..gone {
                let weakest = (0..lines.len())
                    .filter(|i| of(&lines[*i]))
                    .min_by(|a, b| value(lines[*a]).total_cmp(&value(lines[*b])));
                weakest.map(|at| lines.remove(at));
            }
        }
        lines.join("\n") + "\n"
    }

    /// One season as a table: treatment, block, unit, value, size, seen.
    fn season(&self, chance: &mut Chance) -> String {
        let mut csv = format!("t,{},u,v,n,seen,slot\n", self.block());
        for block in 0..self.blocks {
            let shelf = chance.normal();
            let mut slots = chance.order(self.each.iter().sum());
            let middle = 0.5 * (slots.len() as f64 - 1.0);
            let wide = ((slots.len() as f64).powi(2) - 1.0).sqrt() / 12f64.sqrt();
            for (treatment, &each) in self.each.iter().enumerate() {
                let here = match self.law {
                    Law::Sites => chance.normal(),
                    Law::MildSites => 0.5f64.sqrt() * chance.normal(),
                    _ => 0.0,
                };
                for unit in 0..each {
                    let slot = slots.pop().unwrap_or_default() as f64;
                    let slope = match self.law {
                        Law::Slope | Law::SlopeOut => 1.5 * (slot - middle) / wide,
                        _ => 0.0,
                    };
                    let scatter = if self.law == Law::Wild(treatment) {
                        3.0
                    } else {
                        1.0
                    };
                    let own = chance.normal() * scatter + here + slope;
                    for _ in 0..self.samples {
                        let (mut value, size, seen) = self.row(treatment > 0, shelf, own, chance);
                        if self.law == Law::Gone && treatment > 1 {
                            value = 0.0;
                        }
                        // Writing into a String cannot fail.
                        let _ = writeln!(
                            csv,
                            "{},{block},{block}-{treatment}-{unit},{value},{size},{seen},{slot}",
                            NAMES[treatment]
                        );
                    }
                }
            }
        }
        csv
    }

    fn row(
        &self,
        treated: bool,
        shelf: f64,
        own: f64,
        chance: &mut Chance,
    ) -> (f64, f64, &'static str) {
        let gain = if treated { self.truth } else { 0.0 };
        let within = if self.samples > 1 {
            3.0 * chance.normal()
        } else {
            0.0
        };
        let edge = self.law == Law::Edge;
        match self.kind {
            Kind::Count => {
                // Expected 30 a unit (4 near the edge), scattering twice as much as chance alone: a
                // binomial of a spread-out rate.
                let factor = if treated { self.truth } else { 1.0 };
                let (often, spread) = if edge { (0.01, 0.5) } else { (0.075, 0.18) };
                let rate = often
                    * factor
                    * (0.15 * shelf + spread * own - 0.5 * (0.15f64.powi(2) + spread * spread))
                        .exp();
                (chance.hits(400, rate.min(1.0)) as f64, 1.0, "yes")
            }
            Kind::Share => {
                let usual = if edge { 0.95 } else { 0.5 };
                let spread = if edge { 0.02 } else { 0.05 };
                let share = (usual + 0.01 * gain + spread * own).clamp(0.0, 1.0);
                (
                    chance.hits(if edge { 20 } else { 40 }, share) as f64,
                    if edge { 20.0 } else { 40.0 },
                    "yes",
                )
            }
            Kind::Days => {
                let day =
                    (14.0 + gain + 2.0 * own + if self.blocks > 1 { 2.0 * shelf } else { 0.0 })
                        .round()
                        .max(1.0);
                // A quarter is not seen by day 15.
                let last = if edge { 15.0 } else { 18.0 };
                if day > last {
                    (last, 1.0, "no")
                } else {
                    (day, 1.0, "yes")
                }
            }
            Kind::Score => ((3.0 + gain + own).round().clamp(1.0, 5.0), 1.0, "yes"),
            Kind::Amount | Kind::Dose if self.law == Law::Skewed => {
                (100.0 * (0.5 * own).exp() + gain, 1.0, "yes")
            }
            Kind::Amount if self.law == Law::VerySkewed => (
                100.0 * own.exp() * if treated { self.truth } else { 1.0 },
                1.0,
                "yes",
            ),
            Kind::Amount | Kind::Dose => {
                (100.0 + gain + 5.0 * shelf + SD * own + within, 1.0, "yes")
            }
        }
    }

    fn block(&self) -> &'static str {
        if matches!(self.law, Law::Sites | Law::MildSites | Law::AlikeSites) {
            "site"
        } else {
            "shelf"
        }
    }

    fn columns(&self) -> Columns {
        let some = |is: bool, name: &str| is.then(|| name.to_owned());
        Columns {
            kind: self.kind,
            measure: "v".into(),
            treatment: "t".into(),
            control: "water".into(),
            block: some(self.blocks > 1, self.block()),
            unit: some(self.samples > 1, "u"),
            out_of: some(self.kind == Kind::Share, "n"),
            seen: some(self.kind == Kind::Days, "seen"),
            baseline: some(self.law == Law::SlopeOut, "slot"),
            ..Columns::default()
        }
    }

    pub fn name(&self) -> String {
        let kind = self.kind.word();
        if self.kind == Kind::Dose {
            let shape = match self.law {
                Law::Hump => "a hump",
                Law::SCurve => "an S-shaped curve",
                Law::Hyperbola => "ever less for more",
                _ => "a plateau",
            };
            let blocks = if self.blocks > 1 {
                format!(" in each of {} blocks", self.blocks)
            } else {
                String::new()
            };
            return format!("dose, 5 doses of {}{blocks}, {shape}", self.each[0]);
        }
        let sides = self
            .each
            .iter()
            .map(|n| (n * self.blocks).to_string())
            .collect::<Vec<_>>()
            .join(" v ");
        let what = if self.block() == "site" {
            "sites"
        } else {
            "blocks"
        };
        let blocks = if self.blocks > 1 {
            format!(", {} {what}", self.blocks)
        } else {
            String::new()
        };
        let samples = if self.samples > 1 {
            format!(", {} plants a unit", self.samples)
        } else {
            String::new()
        };
        let law = match (self.law, self.kind) {
            (Law::Usual, _) => String::new(),
            (Law::Wild(0), _) => ", control 3 times as variable".into(),
            (Law::Wild(t), _) => format!(", treatment {t} 3 times as variable"),
            (Law::Skewed, _) => ", lognormal (0.5)".into(),
            (Law::VerySkewed, _) if self.truth == 1.0 => ", lognormal (1), by ratio".into(),
            (Law::VerySkewed, _) => {
                format!(", lognormal (1), by ratio, {} times as much", self.truth)
            }
            (Law::Slope, _) => ", a slope along the shelf".into(),
            (Law::SlopeOut, _) => ", a slope along the shelf, its places taken out".into(),
            (Law::Sites, _) => ", effects differ between sites as units do".into(),
            (Law::MildSites, _) => ", effects differ between sites half as much".into(),
            (Law::AlikeSites, _) => ", effects alike at all sites".into(),
            (Law::Edge, Kind::Count) => ", 4 a unit".into(),
            (Law::Edge, Kind::Share) => ", 19 of 20".into(),
            (Law::Edge, _) => ", a third not seen".into(),
            (Law::Hump | Law::SCurve | Law::Hyperbola | Law::Plateau, _) => String::new(),
            (Law::Deaths, _) => ", treatments kill the weakest quarter".into(),
            (Law::Gone, _) => ", two treatments at none".into(),
        };
        format!("{kind}, {sides}{blocks}{samples}{law}")
    }

    /// The true difference that the usual test (Student's, Dunnett's for several treatments) finds
    /// 80 times in 100 where all scatter alike, and that chance.
    pub fn usual_test(&self) -> Option<(f64, f64)> {
        Some((self.plan()?.smallest_detectable(0.8).ok()? * SD, 80.0))
    }

    /// The chance in per cent that the plan's picture foretells for a verdict on a true difference.
    pub fn foretold(&self, truth: f64) -> Option<f64> {
        let plan = self.plan().filter(|_| self.law != Law::Slope)?;
        let layout = Layout {
            treatments: plan.treatments,
            per_block: if self.blocks > 1 { self.each[0] } else { 0 },
            covariates: 0,
            in_turn: false,
            places: false,
        };
        let strict = layout.strictness(plan.units);
        if self.law != Law::SlopeOut {
            return Some(100.0 * strict.chance(Goal::Beat, plan.power(truth / SD).ok()?));
        }
        let plan = PowerPlan {
            covariates: 1,
            ..plan
        };
        let shared = (1.0 + 1.0 / (plan.df() - 1.0)).sqrt();
        Some(100.0 * strict.chance(Goal::Beat, plan.power(truth / SD / shared).ok()?))
    }

    /// The plan of a design whose treatments all scatter alike.
    pub fn plan(&self) -> Option<PowerPlan> {
        let even = self.each.windows(2).all(|w| w[0] == w[1]);
        let alike = matches!(self.law, Law::Usual | Law::Slope | Law::SlopeOut);
        if self.kind != Kind::Amount || !alike || self.samples > 1 || !even {
            return None;
        }
        let units = self.each[0] * self.blocks;
        Some(PowerPlan {
            treatments: self.each.len(),
            units,
            blocks: self.blocks,
            covariates: 0,
            confidence: 0.95,
        })
    }
}

/// Share of seasons, in per cent.
pub struct Shares {
    /// A verdict claims a difference.
    pub claims: f64,
    /// The deciding limits hold the truth.
    pub held: f64,
    /// A given contrast is claimed in the right direction.
    pub found: f64,
}

fn limits(c: &Contrast) -> (Option<f64>, Option<f64>) {
    match (&c.decided_by, &c.simultaneous) {
        (Some(d), _) => (Some(d.low), d.high),
        (None, Some(s)) => (Some(s.low), Some(s.high)),
        (None, None) => (c.low, c.high),
    }
}

/// Seasons of a ladder of doses: a claim is false where the dose that is promised lies below what
/// is enough.
fn run_ladder(design: &Design, seasons: u32, seed: u64) -> Shares {
    let mut chance = Chance::of(seed);
    let truth = design.law.enough();
    let (mut below, mut held, mut told) = (0u32, 0u32, 0u32);
    for _ in 0..seasons {
        let mut csv = String::from("b,d,v\n");
        let blocked = design.blocks > 1;
        for block in 0..design.blocks {
            let shelf = if blocked { 5.0 * chance.normal() } else { 0.0 };
            for dose in DOSES {
                for _ in 0..design.each[0] {
                    let _ = writeln!(
                        csv,
                        "{block},{dose},{}",
                        design.law.at(dose) + shelf + 2.0 * chance.normal()
                    );
                }
            }
        }
        let columns = Columns {
            kind: Kind::Dose,
            measure: "v".into(),
            dose: Some("d".into()),
            block: blocked.then(|| "b".into()),
            ..Columns::default()
        };
        let question = Question {
            margin: "10%".parse().ok(),
            ..Question::default()
        };
        let analysis = read(csv.as_bytes(), &columns)
            .ok()
            .and_then(|table| analyse(&table, &question).ok());
        let Some(enough) = analysis.and_then(|a| a.dose).and_then(|d| d.enough) else {
            continue;
        };
        told += 1;
        below += u32::from(enough.high < truth);
        held += u32::from(enough.low <= truth && truth <= enough.high);
    }
    let share = |n: u32, of: u32| 100.0 * f64::from(n) / f64::from(of.max(1));
    Shares {
        claims: share(below, seasons),
        held: share(held, told),
        found: share(told, seasons),
    }
}

/// Seasons of a design, counted.
pub fn run(design: &Design, seasons: u32, seed: u64) -> Shares {
    if design.kind == Kind::Dose {
        return run_ladder(design, seasons, seed);
    }
    let mut chance = Chance::of(seed);
    let (mut claims, mut held, mut found, mut counted) = (0u32, 0u32, 0u32, 0u32);
    for _ in 0..seasons {
        let mut csv = design.season(&mut chance);
        if design.law == Law::Deaths {
            csv = Design::without_the_weakest(&csv);
        }
        let Ok(table) = read(csv.as_bytes(), &design.columns()) else {
            continue;
        };
        let expected_units = (design.law == Law::Deaths).then(|| design.each[0] * design.blocks);
        let scale = if design.law == Law::VerySkewed {
            Scale::Ratio
        } else {
            Scale::Difference
        };
        let Ok(analysis) = analyse(
            &table,
            &Question {
                expected_units,
                scale,
                ..Question::default()
            },
        ) else {
            continue;
        };
        counted += 1;
        let Analysis { contrasts, .. } = &analysis;
        let contrasts = if design.law == Law::Gone {
            &contrasts[..1]
        } else {
            &contrasts[..]
        };
        let at = design.truth;
        let beside = |c: &Contrast| {
            let (low, high) = limits(c);
            low.is_some_and(|v| v > at) || high.is_some_and(|v| v < at)
        };
        held += u32::from(!contrasts.iter().any(beside));
        let stands = |c: &Contrast| c.with_losses.as_ref().is_none_or(|w| !w.turns);
        claims += u32::from(
            contrasts
                .iter()
                .any(|c| c.verdict.claims_difference() && stands(c)),
        );
        found += u32::from(contrasts[0].verdict.claims_difference() && contrasts[0].estimate > 0.0);
    }
    let share = |n: u32| 100.0 * f64::from(n) / f64::from(counted.max(1));
    Shares {
        claims: share(claims),
        held: share(held),
        found: share(found),
    }
}
