//! `iron-twin analyse`: a thin shell over the core.

use crate::words::one_of;
use iron_twin_core::ask::measures::Kind;
use iron_twin_core::judge::analysis::{Question, Scale, Variance, analyse};
use iron_twin_core::judge::holm::holm;
use iron_twin_core::judge::report_text::render;
use iron_twin_core::judge::result::Analysis;
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::judge::verdict::{Better, Goal};
use iron_twin_core::quantity::Margin;
use std::io::{Read, Write};
use std::path::PathBuf;

/// Options of the command, as the contract has them.
#[derive(clap::Args)]
pub struct Args {
    /// The CSV file; `-` reads standard input.
    file: PathBuf,
    /// Column with what was measured; given several times, the first is primary.
    #[arg(long, required = true)]
    measure: Vec<String>,
    /// Column with the treatment.
    #[arg(long, required_unless_present = "dose")]
    treatment: Option<String>,
    /// The treatment that the others are compared with.
    #[arg(long, required_unless_present = "dose")]
    control: Option<String>,
    /// Kind of measure: amount, count, share, days, score or dose.
    #[arg(long, default_value = "amount", value_parser = parse_kind)]
    kind: Kind,
    /// Column with alike units compared with each other.
    #[arg(long)]
    block: Option<String>,
    /// Column whose equal values are samples of one unit.
    #[arg(long)]
    unit: Option<String>,
    /// Column with the starting size.
    #[arg(long)]
    baseline: Option<String>,
    /// share: column with the n of k out of n.
    #[arg(long)]
    out_of: Option<String>,
    /// count: column with the plants, area or days behind a count.
    #[arg(long)]
    exposure: Option<String>,
    /// days: column with yes (seen on that day) or no (not yet seen by then).
    #[arg(long)]
    seen: Option<String>,
    /// days: column with the last day on which it was not yet seen.
    #[arg(long)]
    after: Option<String>,
    /// dose: column with the numeric dose.
    #[arg(long)]
    dose: Option<String>,
    /// days: the day up to which means are taken.
    #[arg(long, allow_hyphen_values = true)]
    tau: Option<f64>,
    /// beat, match or best.
    #[arg(long, default_value = "beat", value_parser = parse_goal)]
    goal: Goal,
    /// higher or lower.
    #[arg(long, default_value = "higher", value_parser = parse_better)]
    better: Better,
    /// Smallest difference that matters: 10% of the control, or 5 in the measure's unit.
    #[arg(long, allow_hyphen_values = true)]
    margin: Option<Margin>,
    /// Confidence of the intervals.
    #[arg(long, default_value_t = 0.95, allow_hyphen_values = true)]
    confidence: f64,
    /// pooled or unequal.
    #[arg(long, default_value = "pooled", value_parser = parse_variance)]
    variance: Variance,
    /// difference or ratio.
    #[arg(long, default_value = "difference", value_parser = parse_scale)]
    scale: Scale,
    /// Units that each treatment had at the start.
    #[arg(long)]
    expected_units: Option<usize>,
    /// Seed for anything sampled.
    #[arg(long, default_value_t = 1)]
    seed: u64,
    /// Print JSON instead of a summary.
    #[arg(long)]
    json: bool,
}

fn parse_kind(text: &str) -> Result<Kind, String> {
    one_of(text, &Kind::WORDS)
}

fn parse_goal(text: &str) -> Result<Goal, String> {
    one_of(text, &[("beat", Goal::Beat), ("match", Goal::Match), ("best", Goal::Best)])
}

fn parse_better(text: &str) -> Result<Better, String> {
    one_of(text, &[("higher", Better::Higher), ("lower", Better::Lower)])
}

fn parse_variance(text: &str) -> Result<Variance, String> {
    one_of(text, &[("pooled", Variance::Pooled), ("unequal", Variance::Unequal)])
}

fn parse_scale(text: &str) -> Result<Scale, String> {
    one_of(text, &[("difference", Scale::Difference), ("ratio", Scale::Ratio)])
}

fn bytes(args: &Args) -> Result<Vec<u8>, String> {
    let cannot = |e: std::io::Error| format!("{}: cannot be read: {e}", args.file.display());
    if args.file.as_os_str() == "-" {
        let mut all = Vec::new();
        std::io::stdin().read_to_end(&mut all).map_err(cannot)?;
        Ok(all)
    } else {
        std::fs::read(&args.file).map_err(cannot)
    }
}

/// Analyses every measure named and prints the result.
pub fn run(args: &Args) -> Result<(), String> {
    check_columns(args)?;
    let file = args.file.display();
    let bytes = bytes(args)?;
    let question = Question {
        goal: args.goal,
        better: args.better,
        margin: args.margin,
        confidence: args.confidence,
        variance: args.variance,
        scale: args.scale,
        tau: args.tau,
        expected_units: args.expected_units,
        seed: args.seed,
        ..Question::default()
    };
    let mut analyses = Vec::with_capacity(args.measure.len());
    for measure in &args.measure {
        let columns = Columns {
            kind: args.kind,
            measure: measure.clone(),
            treatment: args.treatment.clone().unwrap_or_default(),
            control: args.control.clone().unwrap_or_default(),
            block: args.block.clone(),
            unit: args.unit.clone(),
            baseline: args.baseline.clone(),
            out_of: args.out_of.clone(),
            exposure: args.exposure.clone(),
            seen: args.seen.clone(),
            after: args.after.clone(),
            dose: args.dose.clone(),
        };
        let table = read(&bytes, &columns).map_err(|e| format!("{file}: {e}"))?;
        analyses.push(analyse(&table, &question).map_err(|e| format!("{file}, column '{measure}': {e}"))?);
    }
    adjust_secondary(&mut analyses);
    let text = if args.json { json(&args.measure, &analyses)? } else { pages(&args.measure, &analyses) };
    // A reader that has seen enough closes the pipe; that is no failure.
    let _ = writeln!(std::io::stdout(), "{}", text.trim_end());
    Ok(())
}

/// A column that the kind of measure does not read would be passed over in silence.
fn check_columns(args: &Args) -> Result<(), String> {
    let named = [
        ("--out-of", args.out_of.is_some(), Kind::Share),
        ("--exposure", args.exposure.is_some(), Kind::Count),
        ("--seen", args.seen.is_some(), Kind::Days),
        ("--after", args.after.is_some(), Kind::Days),
        ("--dose", args.dose.is_some(), Kind::Dose),
    ];
    for (option, given, kind) in named {
        if given && args.kind != kind {
            return Err(format!("{option} goes with --kind {}, not with --kind {}", kind.word(), args.kind.word()));
        }
    }
    if args.kind == Kind::Dose && args.dose.is_none() {
        return Err("--kind dose needs --dose COL: the numeric dose".into());
    }
    Ok(())
}

/// Holm among the secondary measures, treatment by treatment; the primary stands alone.
fn adjust_secondary(analyses: &mut [Analysis]) {
    let Some((_, secondary)) = analyses.split_first_mut() else { return };
    let names: Vec<String> =
        secondary.first().map_or_else(Vec::new, |a| a.contrasts.iter().map(|c| c.treatment.clone()).collect());
    for name in names {
        let mut own: Vec<_> =
            secondary.iter_mut().filter_map(|a| a.contrasts.iter_mut().find(|c| c.treatment == name)).collect();
        let p: Vec<Option<f64>> = own.iter().map(|c| c.simultaneous.as_ref().map_or(c.p, |s| Some(s.p))).collect();
        for (contrast, adjusted) in own.iter_mut().zip(holm(&p)) {
            contrast.p_holm = adjusted;
        }
    }
}

fn json(measures: &[String], analyses: &[Analysis]) -> Result<String, String> {
    let value = |a: &Analysis| serde_json::to_value(a).map_err(|e| e.to_string());
    let mut whole = value(&analyses[0])?;
    if measures.len() > 1 {
        let each = measures
            .iter()
            .zip(analyses)
            .map(|(measure, a)| {
                let mut one = value(a)?;
                one["measure"] = serde_json::Value::String(measure.clone());
                Ok(one)
            })
            .collect::<Result<Vec<_>, String>>()?;
        whole["measures"] = serde_json::Value::Array(each);
    }
    serde_json::to_string_pretty(&whole).map_err(|e| e.to_string())
}

fn pages(measures: &[String], analyses: &[Analysis]) -> String {
    measures.iter().zip(analyses).map(|(measure, a)| render(a, measure)).collect::<Vec<_>>().join("\n")
}
