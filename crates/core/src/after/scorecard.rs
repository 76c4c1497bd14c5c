//! The scorecard worked out: every treatment by all that counts, how sure its place is, and what
//! would change it.
//!
//! A treatment's worth is the weighted sum of its values, each value running in a straight line
//! from 0 for the worst of the treatments to 1 for the best; weights are swings brought to a sum of
//! 1 (Edwards and Barron 1994, Organizational Behavior and Human Decision Processes 60, 306;
//! Goodwin and Wright, Decision Analysis for Management Judgment, chapter on several objectives;
//! both from memory). How sure a place is comes from drawing every measured figure anew with its
//! standard error.

use crate::trial::scorecard::{Criterion, KnockOut, Scorecard, Setting};
use iron_twin_judge::wording::figure;
use iron_twin_stats::distributions::normal_quantile_upper;
use iron_twin_terms::goal::Better;
use iron_twin_terms::words::{and, capitalised};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::Serialize;

/// A treatment's figure in one criterion.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ScoredFigure))]
pub struct Figure {
    /// The figure, in the criterion's unit.
    pub mean: f64,
    /// How far it is known, one standard error; 0 where the grower gave it.
    pub se: f64,
}

impl Figure {
    /// The mean of so many, with its standard error; None of none.
    #[must_use]
    pub fn of(values: &[f64]) -> Option<Self> {
        let n = values.len() as f64;
        let mean = (n > 0.0).then(|| values.iter().sum::<f64>() / n)?;
        let squares: f64 = values.iter().map(|v| (v - mean) * (v - mean)).sum();
        let se = if n > 1.0 {
            (squares / (n - 1.0) / n).sqrt()
        } else {
            0.0
        };
        Some(Self { mean, se })
    }
}

/// One criterion with its figures.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Scored {
    /// The criterion.
    pub name: String,
    /// Unit of its figures; empty for scores.
    pub unit: String,
    /// Which way is better.
    pub better: Better,
    /// By treatment, in the order of the match sheet; null where there is none.
    pub figures: Vec<Option<Figure>>,
}

/// Where a treatment stands in a setting.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Standing {
    /// The treatment.
    pub treatment: String,
    /// Its worth, from 0 for the worst in everything to 100 for the best in everything.
    pub worth: f64,
    /// In how many of 100 draws it wins.
    pub wins: f64,
}

/// How a setting comes out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Ranking {
    /// The setting.
    pub setting: String,
    /// Shares of what counts, by criterion, per cent.
    pub weights: Vec<f64>,
    /// The treatments, best first.
    pub standings: Vec<Standing>,
    /// Those that are out of the question, with why.
    pub out: Vec<KnockOut>,
    /// What it comes to, in sentences.
    pub said: Vec<String>,
}

/// The scorecard worked out.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = ScorecardOutcome))]
pub struct Outcome {
    /// What counts, with figures.
    pub scored: Vec<Scored>,
    /// By setting.
    pub rankings: Vec<Ranking>,
}

/// Draws behind "wins in so many of 100".
const DRAWS: usize = 2000;
/// Gaps of worth that are told apart, of 1.
const ALIKE: f64 = 1e-9;

/// The figures by which a setting ranks: treatments without a gap, and what counts among them.
struct Field<'a> {
    /// Indices of treatments that are neither out nor without a figure.
    of: Vec<usize>,
    /// Names of all treatments.
    names: &'a [String],
    /// What counts and differs: the criterion with its weight; weights add up to 1.
    counts: Vec<(&'a Scored, f64)>,
}

impl Field<'_> {
    /// The worst and the best of a criterion among those that stand.
    fn range(&self, scored: &Scored) -> (f64, f64) {
        let figures = || {
            self.of
                .iter()
                .filter_map(|t| scored.figures[*t])
                .map(|f| f.mean)
        };
        let (least, most) = (
            figures().fold(f64::INFINITY, f64::min),
            figures().fold(f64::NEG_INFINITY, f64::max),
        );
        if scored.better == Better::Higher {
            (least, most)
        } else {
            (most, least)
        }
    }

    fn value(&self, scored: &Scored, figure: f64) -> f64 {
        let (worst, best) = self.range(scored);
        // Where all are alike, all are the best.
        if (best - worst).abs() > 0.0 {
            (figure - worst) / (best - worst)
        } else {
            1.0
        }
    }

    fn mean_value(&self, scored: &Scored, t: usize) -> f64 {
        scored.figures[t].map_or(0.0, |f| self.value(scored, f.mean))
    }

    fn worth(&self, t: usize) -> f64 {
        self.counts
            .iter()
            .map(|(scored, weight)| weight * self.mean_value(scored, t))
            .sum()
    }

    /// In what share of draws each wins; what ties shares the win.
    fn wins(&self) -> Vec<f64> {
        let mut random = ChaCha8Rng::seed_from_u64(1);
        let mut wins = vec![0.0; self.of.len()];
        // Ends and steps of the values stay as they are: only the figures are drawn.
        // Of normal figures that are drawn apart, the weighted sum is one normal figure.
        let of = |t: &usize| {
            let (mut mean, mut variance) = (0.0, 0.0);
            for (scored, weight) in &self.counts {
                let own = scored.figures[*t].unwrap_or(Figure { mean: 0.0, se: 0.0 });
                let (worst, best) = self.range(scored);
                let step = if (best - worst).abs() > 0.0 {
                    weight / (best - worst)
                } else {
                    0.0
                };
                mean += weight * self.value(scored, own.mean);
                variance += (step * own.se).powi(2);
            }
            (mean, variance.sqrt())
        };
        let each: Vec<(f64, f64)> = self.of.iter().map(of).collect();
        for _ in 0..DRAWS {
            let one = |(mean, spread): &(f64, f64)| {
                if *spread == 0.0 {
                    return *mean;
                }
                // From the middle of one of 2^53 equal parts, so that neither end is met.
                let u = ((random.next_u64() >> 11) as f64 + 0.5) / (1_u64 << 53) as f64;
                mean + spread * normal_quantile_upper(u)
            };
            let drawn: Vec<f64> = each.iter().map(one).collect();
            let most = drawn.iter().copied().fold(f64::NEG_INFINITY, f64::max);
            let best: Vec<usize> = (0..drawn.len())
                .filter(|i| drawn[*i] > most - ALIKE)
                .collect();
            for i in &best {
                wins[*i] += 1.0 / best.len() as f64;
            }
        }
        wins.iter().map(|w| w / DRAWS as f64).collect()
    }

    fn name(&self, t: usize) -> &str {
        &self.names[t]
    }

    /// A treatment that is nowhere better than another, and somewhere worse.
    fn dominated(&self) -> Vec<(usize, usize)> {
        let beats = |a: usize, b: usize| {
            let gaps: Vec<f64> = self
                .counts
                .iter()
                .map(|(s, _)| self.mean_value(s, a) - self.mean_value(s, b))
                .collect();
            gaps.iter().all(|g| *g >= -ALIKE) && gaps.iter().any(|g| *g > ALIKE)
        };
        let first = |b: &usize| self.of.iter().find(|a| beats(**a, *b)).map(|a| (*b, *a));
        self.of.iter().filter_map(first).collect()
    }

    /// What one gives and takes beside another: "14 % less harvest weight, for more smell".
    fn trade(&self, winner: usize, other: usize) -> Option<String> {
        let (mut pays, mut gains) = (Vec::new(), Vec::new());
        for (scored, _) in &self.counts {
            let gap = self.mean_value(scored, winner) - self.mean_value(scored, other);
            if gap.abs() < ALIKE {
                continue;
            }
            let said = apart(
                scored,
                scored.figures[winner]?.mean,
                scored.figures[other]?.mean,
            );
            if gap < 0.0 {
                pays.push(said)
            } else {
                gains.push(said)
            }
        }
        if pays.is_empty() || gains.is_empty() {
            return None;
        }
        let (winner, other) = (capitalised(self.name(winner)), self.name(other));
        Some(format!(
            "{winner} beside {other}: {} bought with {}.",
            and(&gains),
            and(&pays)
        ))
    }

    /// The least change of one weight that makes another win: which criterion, to what share, and
    /// who wins then.
    fn turns(&self, winner: usize) -> Option<(&str, f64, f64, usize)> {
        let mut least: Option<(&str, f64, f64, usize)> = None;
        for (scored, weight) in &self.counts {
            // The others keep their proportions to one another.
            let rest = |t: usize| {
                (self.worth(t) - weight * self.mean_value(scored, t)) / (1.0 - weight).max(ALIKE)
            };
            if *weight > 1.0 - ALIKE {
                continue;
            }
            for other in self.of.iter().copied().filter(|t| *t != winner) {
                let own = self.mean_value(scored, winner) - self.mean_value(scored, other);
                let others = rest(winner) - rest(other);
                // w own + (1 - w) others = 0
                let at = others / (others - own);
                // At either end they would only tie.
                if !(at > ALIKE && at < 1.0 - ALIKE) || (at - weight).abs() < ALIKE {
                    continue;
                }
                if least.is_none_or(|(_, from, to, _)| (at - weight).abs() < (to - from).abs()) {
                    least = Some((&scored.name, *weight, at, other));
                }
            }
        }
        least
    }
}

/// How far one figure lies from another, in words: in per cent where both are amounts, else in its
/// unit.
fn apart(scored: &Scored, own: f64, other: f64) -> String {
    let more = match own > other {
        true => "more",
        false if scored.unit == "days" => "fewer",
        false => "less",
    };
    let gap = (own - other).abs();
    let size = if scored.unit.is_empty() {
        format!("{} points", figure(gap))
    } else if other > 0.0 && own > 0.0 {
        let percent = 100.0 * gap / other;
        format!(
            "{} %",
            if percent < 10.0 {
                figure_of(percent, 1)
            } else {
                figure_of(percent, 0)
            }
        )
    } else {
        format!("{} {}", figure(gap), scored.unit)
    };
    format!("{size} {more} {}", scored.name)
}

fn figure_of(value: f64, decimals: usize) -> String {
    iron_twin_judge::wording::trimmed(value, decimals)
}

/// Ranks the treatments in every setting. `figures` are those of the criteria, in the order of the
/// card.
#[must_use]
pub fn outcome(card: &Scorecard, names: &[String], scored: Vec<Scored>) -> Outcome {
    let rankings = card
        .settings
        .iter()
        .map(|setting| ranking(card, setting, names, &scored))
        .collect();
    Outcome { scored, rankings }
}

/// The figures of a criterion that the grower scored.
#[must_use]
pub fn own_scores(criterion: &Criterion, names: &[String]) -> Vec<Option<Figure>> {
    names
        .iter()
        .map(|name| {
            criterion.scores.get(name).map(|score| Figure {
                mean: *score,
                se: 0.0,
            })
        })
        .collect()
}

fn ranking(card: &Scorecard, setting: &Setting, names: &[String], scored: &[Scored]) -> Ranking {
    let here = |k: &&KnockOut| k.setting.as_ref().is_none_or(|s| *s == setting.name);
    let out: Vec<KnockOut> = card.knock_outs.iter().filter(here).cloned().collect();
    let swing = |s: &Scored| setting.swings.get(&s.name).copied().unwrap_or(0.0);
    let all: f64 = scored.iter().map(swing).sum();
    let weights: Vec<f64> = scored
        .iter()
        .map(|s| {
            if all > 0.0 {
                100.0 * swing(s) / all
            } else {
                0.0
            }
        })
        .collect();
    let counted: Vec<&Scored> = scored.iter().filter(|s| swing(s) > 0.0).collect();
    let stands = |t: &usize| !out.iter().any(|k| k.treatment == names[*t]);
    let standing: Vec<usize> = (0..names.len()).filter(stands).collect();
    let whole = |t: &usize| {
        counted
            .iter()
            .all(|s| s.figures.get(*t).copied().flatten().is_some())
    };
    let (of, without): (Vec<usize>, Vec<usize>) = standing.into_iter().partition(whole);
    let counts = counted.iter().map(|s| (*s, swing(s) / all)).collect();
    let field = Field { of, names, counts };
    let mut said = Vec::new();
    if !without.is_empty() && !counted.is_empty() {
        let named: Vec<&str> = without.iter().map(|t| names[*t].as_str()).collect();
        said.push(format!(
            "Not ranked, for want of a figure: {}.",
            and(&named)
        ));
    }
    let mut own = Ranking {
        setting: setting.name.clone(),
        weights,
        standings: Vec::new(),
        out,
        said,
    };
    if field.counts.is_empty() || field.of.is_empty() {
        own.said
            .push("Say what counts here, and for how much.".into());
        return own;
    }
    own.said.extend(stand(&field, &mut own.standings));
    own
}

/// Puts the treatments in order; what that comes to.
fn stand(field: &Field<'_>, standings: &mut Vec<Standing>) -> Vec<String> {
    let names = field.names;
    let wins = field.wins();
    let mut order: Vec<(usize, f64, f64)> = field
        .of
        .iter()
        .zip(wins)
        .map(|(t, wins)| (*t, field.worth(*t), wins))
        .collect();
    order.sort_by(|a, b| b.1.total_cmp(&a.1));
    let said = told(field, &order);
    *standings = order
        .into_iter()
        .map(|(t, worth, wins)| Standing {
            treatment: names[t].clone(),
            worth: 100.0 * worth,
            wins: 100.0 * wins,
        })
        .collect();
    said
}

/// What a ranking comes to.
fn told(field: &Field<'_>, order: &[(usize, f64, f64)]) -> Vec<String> {
    let [(winner, worth, wins), rest @ ..] = order else {
        return Vec::new();
    };
    let name = capitalised(field.name(*winner));
    let Some((second, next, _)) = rest.first() else {
        return vec![format!("{name} is the only one left.")];
    };
    let tied: Vec<&str> = order
        .iter()
        .filter(|o| o.1 > worth - ALIKE)
        .map(|o| field.name(o.0))
        .collect();
    if tied.len() > 1 {
        return vec![format!(
            "{} are worth the same here.",
            capitalised(&and(&tied))
        )];
    }
    let (drawn, sure) = sure(field, *wins);
    let mut said = vec![format!(
        "{name} wins with {:.0} of 100 points before {:.0}{sure}.",
        100.0 * worth,
        100.0 * next
    )];
    if drawn && *wins < 0.5 {
        said.push(
            "No treatment wins half of the draws: what was measured does not settle it.".into(),
        );
    }
    said.extend(field.trade(*winner, *second));
    for (worse, better) in field.dominated() {
        said.push(format!(
            "{} is better than {} in nothing that counts here, and worse in something.",
            capitalised(field.name(worse)),
            field.name(better)
        ));
    }
    said.push(match field.turns(*winner) {
        Some((criterion, from, to, other)) => format!(
            "{} would win if {criterion} counted {:.0} in 100 instead of {:.0}.",
            capitalised(field.name(other)),
            100.0 * to,
            100.0 * from
        ),
        None if field.counts.len() == 1 => "Only one thing counts here.".into(),
        None => format!("{name} stays ahead whatever one of the weights is."),
    });
    said
}

/// Whether anything was drawn, and how often the winner won then: never all and never none of the
/// draws.
fn sure(field: &Field<'_>, wins: f64) -> (bool, String) {
    let drawn = field.counts.iter().any(|(s, _)| {
        field
            .of
            .iter()
            .any(|t| s.figures[*t].is_some_and(|f| f.se > 0.0))
    });
    let sure = match (drawn, 100.0 * wins) {
        (false, _) => String::new(),
        (true, w) if w > 99.5 => ", in more than 99 of 100 draws".into(),
        (true, w) => format!(", in {w:.0} of 100 draws"),
    };
    (drawn, sure)
}

#[cfg(test)]
#[path = "scorecard_tests.rs"]
mod tests;
