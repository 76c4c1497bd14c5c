//! `iron-twin rounds`: a thin shell over the core's pooling of rounds.

use crate::analyse::{bytes, parse_better, parse_goal};
use crate::words::one_of;
use iron_twin_core::across::rounds::{RoundsQuestion, pool_rounds};
use iron_twin_judge::table::read_numbers;
use iron_twin_stats::pooling::{Between, Round};
use iron_twin_terms::goal::{Better, Goal};
use std::io::Write;
use std::path::PathBuf;

/// Options of the command.
#[derive(clap::Args)]
pub struct Args {
    /// The CSV file, one row a round; `-` reads standard input.
    file: PathBuf,
    /// Column with the round's difference, treatment less control.
    #[arg(long)]
    estimate: String,
    /// Column with its standard error.
    #[arg(long)]
    se: String,
    /// What was tried, for the sentence.
    #[arg(long, default_value = "the treatment")]
    treatment: String,
    /// What it was compared with, for the sentence.
    #[arg(long, default_value = "the control")]
    control: String,
    /// Unit of the estimates, for the sentence.
    #[arg(long, default_value = "")]
    in_unit: String,
    /// beat or match.
    #[arg(long, default_value = "beat", value_parser = parse_goal)]
    goal: Goal,
    /// higher or lower.
    #[arg(long, default_value = "higher", value_parser = parse_better)]
    better: Better,
    /// Smallest difference that matters, on the scale of the estimates.
    #[arg(long)]
    margin: Option<f64>,
    /// reml, paule_mandel or fixed.
    #[arg(long, default_value = "reml", value_parser = parse_between)]
    between: Between,
    /// Confidence of the limits.
    #[arg(long, default_value_t = 0.95, allow_hyphen_values = true)]
    confidence: f64,
    /// Print JSON instead of a sentence.
    #[arg(long)]
    json: bool,
}

fn parse_between(text: &str) -> Result<Between, String> {
    one_of(
        text,
        &[
            ("reml", Between::Reml),
            ("paule_mandel", Between::PauleMandel),
            ("fixed", Between::Fixed),
        ],
    )
}

/// Pools the rounds and prints what they say.
pub fn run(args: &Args) -> Result<(), String> {
    let file = args.file.display();
    if args.goal == Goal::Match && args.margin.is_none() {
        return Err("--goal match needs --margin: how much less would still be good enough".into());
    }
    if args.margin.is_some_and(|m| !(m > 0.0 && m.is_finite())) {
        return Err("--margin must be above 0, on the scale of the estimates".into());
    }
    let rows = read_numbers(&bytes(&args.file)?, &[&args.estimate, &args.se])
        .map_err(|e| format!("{file}: {e}"))?;
    let rounds: Vec<Round> = rows
        .iter()
        .map(|r| Round {
            estimate: r[0],
            variance: r[1] * r[1],
        })
        .collect();
    let question = RoundsQuestion {
        treatment: args.treatment.clone(),
        control: args.control.clone(),
        unit: args.in_unit.clone(),
        goal: args.goal,
        better: args.better,
        margin: args.margin,
        confidence: args.confidence,
        between: args.between,
    };
    let pooled = pool_rounds(&rounds, &question).map_err(|e| format!("{file}: {e}"))?;
    let text = if args.json {
        serde_json::to_string_pretty(&pooled).map_err(|e| e.to_string())?
    } else {
        pooled.sentence
    };
    let _ = writeln!(std::io::stdout(), "{text}");
    Ok(())
}
