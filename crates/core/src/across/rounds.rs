//! Rounds: repeats of one trial pooled, what a next round would show, and whether one more would
//! settle it.

use iron_twin_judge::verdict::{Gain, Verdict, decide};
use iron_twin_judge::wording::{decimals_for, of_a_hundred, plain};
use iron_twin_stats::StatsError;
use iron_twin_stats::pooling::{Between, Pooled, Round, pool};
use iron_twin_terms::goal::{Better, Goal};
use serde::Serialize;

/// What is asked of the rounds.
#[derive(Debug, Clone, PartialEq)]
pub struct RoundsQuestion {
    /// What was tried.
    pub treatment: String,
    /// What it was compared with.
    pub control: String,
    /// Unit of the estimates; empty where it is not known.
    pub unit: String,
    /// Goal.
    pub goal: Goal,
    /// Which way is better.
    pub better: Better,
    /// Smallest difference that matters, on the scale of the estimates.
    pub margin: Option<f64>,
    /// Confidence of the limits.
    pub confidence: f64,
    /// How the variance between rounds is estimated.
    pub between: Between,
}

impl Default for RoundsQuestion {
    fn default() -> Self {
        Self {
            treatment: "the treatment".into(),
            control: "the control".into(),
            unit: String::new(),
            goal: Goal::Beat,
            better: Better::Higher,
            margin: None,
            confidence: 0.95,
            between: Between::Reml,
        }
    }
}

/// Limits of something.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Limits {
    /// Lower limit.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
}

/// What further rounds like these would make of it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct OneMore {
    /// Limits to be expected with one more round.
    pub low: f64,
    /// Upper limit.
    pub high: f64,
    /// Whether the verdict would then be another than "can't tell".
    pub settles: bool,
}

/// The rounds pooled. Serialises to the format `iron-twin/rounds/1`.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct RoundsOut {
    /// Always `iron-twin/rounds/1`.
    pub format: &'static str,
    /// Number of rounds.
    pub rounds: usize,
    /// Mean difference over rounds.
    pub mean: f64,
    /// Its standard error (Knapp and Hartung).
    pub se: f64,
    /// Degrees of freedom; null for the fixed effect.
    pub df: Option<f64>,
    /// Lower limit of the mean.
    pub low: f64,
    /// Upper limit of the mean.
    pub high: f64,
    /// Two-sided p that the mean is zero.
    pub p: f64,
    /// Standard deviation between rounds.
    pub between_rounds_sd: f64,
    /// Share of the variation that lies between rounds, per cent.
    pub heterogeneity_percent: f64,
    /// That all rounds estimate the same: Cochran's Q and its upper tail.
    pub q: f64,
    /// Upper tail of Q.
    pub q_p: f64,
    /// Where the true difference of a next round lies; null for the fixed effect.
    pub next_round: Option<Limits>,
    /// The chance that a next round, as precise as these are, shows a difference in the direction
    /// that is better; null for the fixed effect.
    pub ahead_next_time: Option<f64>,
    /// The verdict.
    pub verdict: Verdict,
    /// What one more round like these would make of it.
    pub one_more: OneMore,
    /// Further rounds like these that would settle it; null where 20 would not, 0 where it is
    /// settled.
    pub more_needed: Option<usize>,
    /// What was learned, in plain words.
    pub sentence: String,
}

/// Most further rounds that are looked for.
const MOST_MORE: usize = 20;

/// Pools the rounds of one trial.
///
/// Answers: does it hold up over seasons, how far apart are they, and would another round settle
/// it? Figures are treatment less control as measured; `better` turns only verdict and sentence.
///
/// # Errors
/// [`StatsError`] for fewer than two rounds, a variance not above zero, or a number that is not
/// finite.
///
/// ```
/// use iron_twin_core::across::rounds::{pool_rounds, RoundsQuestion};
/// use iron_twin_stats::pooling::Round;
/// let rounds = [8.0, 6.5, 7.2].map(|estimate| Round { estimate, variance: 1.0 });
/// let pooled = pool_rounds(&rounds, &RoundsQuestion::default())?;
/// assert!(pooled.sentence.starts_with("Over 3 rounds"));
/// # Ok::<(), iron_twin_stats::StatsError>(())
/// ```
pub fn pool_rounds(rounds: &[Round], question: &RoundsQuestion) -> Result<RoundsOut, StatsError> {
    let pooled = pool(rounds, question.between, question.confidence)?;
    let margin = question.margin.unwrap_or(0.0);
    let by =
        |low: f64, high: f64| decide(question.goal, Gain::of(low, high, question.better), margin);
    let verdict = by(pooled.low, pooled.high);
    let settles = |more: usize| -> Result<(Limits, bool), StatsError> {
        let (low, high) = pooled.with_more(more)?;
        Ok((Limits { low, high }, by(low, high) != Verdict::CannotTell))
    };
    let (limits, one_settles) = settles(1)?;
    let mut more_needed = (verdict != Verdict::CannotTell).then_some(0);
    for more in 1..=MOST_MORE {
        if more_needed.is_none() && settles(more)?.1 {
            more_needed = Some(more);
        }
    }
    let mut out = RoundsOut {
        format: "iron-twin/rounds/1",
        rounds: rounds.len(),
        mean: pooled.mean,
        se: pooled.se,
        df: pooled.df.is_finite().then_some(pooled.df),
        low: pooled.low,
        high: pooled.high,
        p: pooled.p,
        between_rounds_sd: pooled.between_variance.sqrt(),
        heterogeneity_percent: pooled.heterogeneity_percent,
        q: pooled.q,
        q_p: pooled.q_p,
        next_round: pooled.next_round.map(|(low, high)| Limits { low, high }),
        ahead_next_time: pooled.above_next_time().map(|above| match question.better {
            Better::Higher => above,
            Better::Lower => 1.0 - above,
        }),
        verdict,
        one_more: OneMore {
            low: limits.low,
            high: limits.high,
            settles: one_settles,
        },
        more_needed,
        sentence: String::new(),
    };
    out.sentence = sentence(&out, &pooled, question);
    Ok(out)
}

fn sentence(out: &RoundsOut, pooled: &Pooled, question: &RoundsQuestion) -> String {
    let unit = if question.unit.is_empty() {
        String::new()
    } else {
        format!(" {}", question.unit)
    };
    // No finer than the mean is known, as in the sentences of single trials.
    let decimals = decimals_for(out.se);
    let size = |v: f64| format!("{}{unit}", plain(v.abs(), decimals));
    let direction = if out.mean > 0.0 { "more" } else { "less" };
    let (treatment, control) = (&question.treatment, &question.control);
    let range = |low: f64, high: f64| {
        let signed = |v: f64| format!("{} {}", size(v), if v < 0.0 { "less" } else { "more" });
        format!("between {} and {}", signed(low), signed(high))
    };
    let lead = format!(
        "Over {} rounds {treatment} gave {} {direction} than {control}, very likely {}",
        out.rounds,
        size(out.mean),
        range(out.low, out.high)
    );
    let beside = match out.verdict {
        Verdict::BetterByMargin => ": better by more than would matter",
        Verdict::WorseByMargin | Verdict::NotGoodEnough => ": worse by more than would matter",
        Verdict::Better => ": better",
        Verdict::Worse => ": worse",
        Verdict::Same => ": the same, for what matters",
        Verdict::GoodEnough => ": good enough",
        Verdict::CannotTell => ", which leaves it open",
    };
    let unlike = if pooled.between_variance > 0.0 {
        format!(
            "; from round to round the true difference varies by about {}",
            size(out.between_rounds_sd)
        )
    } else {
        String::new()
    };
    let next = out.next_round.map_or_else(String::new, |n| {
        format!(
            " In a next round the true difference very likely lies {}.",
            range(n.low, n.high)
        )
    });
    let next = match out.ahead_next_time {
        Some(chance) => format!(
            "{next} Such a round would come out ahead in about {}.",
            of_a_hundred(chance)
        ),
        None => next,
    };
    let more = more_rounds(out);
    format!("{lead}{beside}{unlike}.{next}{more}")
}

/// Whether more rounds would settle what stayed open.
fn more_rounds(out: &RoundsOut) -> String {
    match (out.verdict, out.more_needed) {
        (Verdict::CannotTell, Some(1)) => " One more round like these would settle it.".to_owned(),
        (Verdict::CannotTell, Some(more)) => {
            format!(" One more would not settle it; {more} like these would.")
        }
        (Verdict::CannotTell, None) => {
            format!(" Not even {MOST_MORE} more rounds like these would settle it.")
        }
        _ => String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn rounds(estimates: &[f64], variances: &[f64]) -> Vec<Round> {
        estimates
            .iter()
            .zip(variances)
            .map(|(&estimate, &variance)| Round { estimate, variance })
            .collect()
    }

    fn feed(margin: f64) -> RoundsQuestion {
        RoundsQuestion {
            treatment: "full feed".into(),
            control: "plain water".into(),
            unit: "g".into(),
            margin: Some(margin),
            ..RoundsQuestion::default()
        }
    }

    #[test]
    fn one_more_round_is_said_to_settle_it_and_does() {
        // Two rounds have a single degree of freedom, whatever they show.
        let two = rounds(&[10.0, 7.0], &[1.0, 1.0]);
        let out = pool_rounds(&two, &feed(2.0)).unwrap();
        assert_eq!(out.verdict, Verdict::CannotTell);
        assert!(out.one_more.settles && out.more_needed == Some(1));
        assert!(
            out.sentence
                .ends_with("One more round like these would settle it."),
            "{}",
            out.sentence
        );
        let three = rounds(&[9.0, 8.0, 8.5], &[1.0, 1.0, 1.0]);
        let out = pool_rounds(&three, &feed(2.0)).unwrap();
        assert_eq!(
            (out.verdict, out.more_needed),
            (Verdict::BetterByMargin, Some(0))
        );
        assert!(out.sentence.starts_with(
            "Over 3 rounds full feed gave 8.5 g more than plain water, very likely between"
        ));
    }

    #[test]
    fn rounds_that_disagree_leave_it_open() {
        let out = pool_rounds(&rounds(&[14.0, -9.0, 3.0], &[1.0, 1.5, 1.2]), &feed(5.0)).unwrap();
        assert_eq!(out.verdict, Verdict::CannotTell);
        assert!(!out.one_more.settles && out.between_rounds_sd > 5.0);
        assert!(
            out.sentence.contains("varies by about 11"),
            "{}",
            out.sentence
        );
        let next = out.next_round.unwrap();
        assert!(
            next.low < out.low && next.high > out.high,
            "a round varies more than the mean of rounds"
        );
    }

    #[test]
    fn lower_is_better_turns_the_verdict_alone() {
        let losses = rounds(&[-4.0, -4.2, -3.9, -4.1], &[0.2; 4]);
        let quick = RoundsQuestion {
            better: Better::Lower,
            ..feed(1.0)
        };
        let (up, down) = (
            pool_rounds(&losses, &feed(1.0)).unwrap(),
            pool_rounds(&losses, &quick).unwrap(),
        );
        assert_eq!(
            (up.verdict, down.verdict),
            (Verdict::WorseByMargin, Verdict::BetterByMargin)
        );
        assert_eq!(up.mean, down.mean);
        assert!(pool_rounds(&losses[..1], &quick).is_err());
    }
}
