//! `iron-twin power`: a thin shell over the core's foresight.

use crate::analyse::parse_better;
use crate::words::{as_options, one_of};
use iron_twin_core::ask::foresight::{Foresight, PlannedTrial, Spread};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use std::io::Write;

/// Options of the command, as the contract has them.
#[derive(clap::Args)]
pub struct Args {
    /// Treatments, control included.
    #[arg(long)]
    treatments: usize,
    /// Units of each treatment.
    #[arg(long)]
    units: usize,
    /// Smallest difference that matters: 10% of the control (share: or 5 points).
    #[arg(long, allow_hyphen_values = true)]
    margin: Margin,
    /// Blocks over which a treatment's units are spread evenly.
    #[arg(long, default_value_t = 1)]
    blocks: usize,
    /// amount, count, share or days.
    #[arg(long, default_value = "amount", value_parser = parse_kind)]
    kind: Kind,
    /// amount and days: spread between units of one treatment, such as 8%.
    #[arg(long, value_parser = percent, allow_hyphen_values = true)]
    cv: Option<f64>,
    /// amount: spread among samples inside a unit, such as 20%.
    #[arg(long, value_parser = percent, allow_hyphen_values = true, requires = "samples")]
    within_cv: Option<f64>,
    /// amount: samples of each unit.
    #[arg(long, requires = "within_cv")]
    samples: Option<usize>,
    /// count: expected count of a control unit.
    #[arg(long, allow_hyphen_values = true)]
    count: Option<f64>,
    /// share: expected share of the control, such as 60%.
    #[arg(long, value_parser = percent, allow_hyphen_values = true)]
    share: Option<f64>,
    /// share: the n of k out of n of a unit.
    #[arg(long, allow_hyphen_values = true)]
    out_of: Option<f64>,
    /// count and share: how many times more units scatter than chance alone makes them.
    #[arg(long, allow_hyphen_values = true)]
    dispersion: Option<f64>,
    /// days: mean days of the control.
    #[arg(long, allow_hyphen_values = true)]
    days: Option<f64>,
    /// days: last day on which somebody looks.
    #[arg(long, allow_hyphen_values = true)]
    until: Option<f64>,
    /// days: whether sooner (lower, usual) or later (higher) is hoped for.
    #[arg(long, default_value = "lower", value_parser = parse_better)]
    better: Better,
    /// Seed of the seasons that are played for days.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// beat or match.
    #[arg(long, default_value = "beat", value_parser = parse_goal)]
    goal: Goal,
    /// Confidence of the intervals.
    #[arg(long, default_value_t = 0.95, allow_hyphen_values = true)]
    confidence: f64,
    /// Chance that is wanted.
    #[arg(long, default_value_t = 0.8, allow_hyphen_values = true)]
    power: f64,
    /// Print JSON instead of a summary.
    #[arg(long)]
    json: bool,
}

fn parse_kind(text: &str) -> Result<Kind, String> {
    one_of(
        text,
        &[
            ("amount", Kind::Amount),
            ("count", Kind::Count),
            ("share", Kind::Share),
            ("days", Kind::Days),
        ],
    )
}

fn parse_goal(text: &str) -> Result<Goal, String> {
    one_of(text, &[("beat", Goal::Beat), ("match", Goal::Match)])
}

/// `8%` or `8`, both per cent.
fn percent(text: &str) -> Result<f64, String> {
    let number = text.trim().trim_end_matches('%').trim();
    number
        .parse()
        .map_err(|_| format!("'{text}' is no per cent such as 8%"))
}

fn spread(args: &Args) -> Result<Spread, String> {
    let other = |option: &str| {
        Err(format!(
            "{option} does not go with --kind {}; leave it out",
            args.kind.word()
        ))
    };
    if let Some(option) = stray(args) {
        return other(option);
    }
    let needs = |option: &str| format!("--kind {} needs {option}", args.kind.word());
    let dispersion = args.dispersion.unwrap_or(1.0);
    match args.kind {
        Kind::Count => Ok(Spread::Count {
            mean: args.count.ok_or_else(|| needs("--count N"))?,
            dispersion,
        }),
        Kind::Share => Ok(Spread::Share {
            share: 0.01 * args.share.ok_or_else(|| needs("--share P%"))?,
            out_of: args.out_of.ok_or_else(|| needs("--out-of N"))?,
            dispersion,
        }),
        Kind::Days => Ok(Spread::Days {
            mean: args
                .days
                .ok_or_else(|| needs("--days N: mean days of the control"))?,
            cv_percent: args
                .cv
                .ok_or_else(|| needs("--cv P%: how much units of one treatment differ"))?,
            until: args.until,
            sooner: args.better == Better::Lower,
            seed: args.seed,
        }),
        _ => Ok(Spread::Amount {
            cv_percent: args
                .cv
                .ok_or_else(|| needs("--cv P%: how much units of one treatment differ"))?,
            within_cv_percent: args.within_cv.unwrap_or(0.0),
            samples: args.samples.unwrap_or(1),
        }),
    }
}

/// An option that does not go with the kind.
fn stray(args: &Args) -> Option<&'static str> {
    let (amount, count, share) = (
        args.kind == Kind::Amount,
        args.kind == Kind::Count,
        args.kind == Kind::Share,
    );
    let days = args.kind == Kind::Days;
    let stray = [
        ("--cv", args.cv.is_some() && !amount && !days),
        ("--within-cv", args.within_cv.is_some() && !amount),
        ("--count", args.count.is_some() && !count),
        ("--share", args.share.is_some() && !share),
        ("--out-of", args.out_of.is_some() && !share),
        (
            "--dispersion",
            args.dispersion.is_some() && (amount || days),
        ),
        ("--days", args.days.is_some() && !days),
        ("--until", args.until.is_some() && !days),
    ];
    stray
        .into_iter()
        .find(|(_, stray)| *stray)
        .map(|(option, _)| option)
}

/// Judges the plan and prints what it could see.
pub fn run(args: &Args) -> Result<(), String> {
    let trial = PlannedTrial {
        treatments: args.treatments,
        units: args.units,
        blocks: args.blocks,
        confidence: args.confidence,
        power: args.power,
        margin: args.margin,
        goal: args.goal,
        spread: spread(args)?,
    };
    let seen = trial.foresee().map_err(|e| as_options(&e))?;
    let text = if args.json {
        serde_json::to_string_pretty(&seen).map_err(|e| e.to_string())?
    } else {
        page(args, &seen)
    };
    let _ = writeln!(std::io::stdout(), "{text}");
    Ok(())
}

fn page(args: &Args, seen: &Foresight) -> String {
    let margin = margin_of(args);
    let blocks = if args.blocks > 1 {
        format!(" in {} blocks", args.blocks)
    } else {
        String::new()
    };
    let mut lines = vec![
        format!(
            "{} treatments, {} units each{blocks}",
            args.treatments, args.units
        ),
        String::new(),
    ];
    if args.goal == Goal::Match {
        lines.push(format!(
            "If a treatment is truly as good as the control, {} trials in 100 show that it gives \
             up less than {margin}.",
            hundredths(seen.verdict.power)
        ));
    } else {
        lines.push(format!(
            "A true difference of {margin} is found in {} trials of 100.",
            hundredths(seen.verdict.power)
        ));
    }
    lines.extend(smallest(args, seen));
    lines.push(match seen.verdict.units_needed {
        Some(needed) => format!(
            "{needed} units a side would do it {} times in 100.",
            hundredths(args.power)
        ),
        None if args.kind == Kind::Days => "More than 2,000 units a side would be needed.".into(),
        None => "More than 20,000 units a side would be needed.".into(),
    });
    lines.push(format!(
        "Even the widest gap these units can show would be dealt by chance 1 time in {:.0}.",
        1.0 / seen.smallest_possible_p
    ));
    lines.push(format!(
        "The usual test alone would say so in {} of 100; a verdict also deals the units anew and \
         allows for unlike spreads.",
        hundredths(seen.power)
    ));
    if let Some(seasons) = seen.seasons {
        lines.push(format!(
            "From {seasons} seasons played; each chance may be off by 1 or 2 in 100."
        ));
    }
    lines.join("\n")
}

/// The smallest difference that is found as often as was asked.
fn smallest(args: &Args, seen: &Foresight) -> Option<String> {
    let smallest = seen.verdict.smallest_detectable.as_ref()?;
    let size = match (smallest.points, smallest.percent) {
        (Some(points), _) => format!("{points:.1} points"),
        (None, Some(percent)) => format!("{percent:.1} %"),
        (None, None) => format!("{:.2} standard deviations", smallest.sd),
    };
    Some(format!(
        "The smallest difference found {} times in 100 is {size}.",
        hundredths(args.power)
    ))
}

/// The margin in the unit of what is measured.
fn margin_of(args: &Args) -> String {
    match args.margin {
        Margin::Absolute(days) if args.kind == Kind::Days => format!("{days} days"),
        Margin::Absolute(points) => format!("{points} points"),
        Margin::Percent(percent) => format!("{percent} %"),
    }
}

fn hundredths(chance: f64) -> String {
    format!("{:.0}", 100.0 * chance)
}
