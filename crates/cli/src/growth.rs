//! `iron-twin growth`: a thin shell over the core's comparison of tracks.

use crate::analyse::{bytes, parse_better};
use crate::words::as_options;
use iron_twin_judge::question::Question;
use iron_twin_judge::report_text::growth_page;
use iron_twin_judge::table::{Columns, read};
use iron_twin_judge::tracks::compare_growth;
use iron_twin_terms::goal::Better;
use iron_twin_terms::quantity::Margin;
use std::io::Write;
use std::path::PathBuf;

/// Options of the command.
#[derive(clap::Args)]
pub struct Args {
    /// The CSV file, one row for each unit and day; `-` reads standard input.
    file: PathBuf,
    /// Column with the size.
    #[arg(long)]
    measure: String,
    /// Column with the treatment.
    #[arg(long)]
    treatment: String,
    /// The treatment that the others are compared with.
    #[arg(long)]
    control: String,
    /// Column with the unit.
    #[arg(long)]
    unit: String,
    /// Column with the day.
    #[arg(long)]
    day: String,
    /// Column with alike units compared with each other.
    #[arg(long)]
    block: Option<String>,
    /// higher (larger and earlier is better) or lower.
    #[arg(long, default_value = "higher", value_parser = parse_better)]
    better: Better,
    /// Smallest difference that matters: 10% of the control, or 5 in the measure's unit.
    #[arg(long, allow_hyphen_values = true)]
    margin: Option<Margin>,
    /// Confidence of the intervals.
    #[arg(long, default_value_t = 0.95, allow_hyphen_values = true)]
    confidence: f64,
    /// Print JSON instead of a summary.
    #[arg(long)]
    json: bool,
}

/// Compares the growth and prints it.
pub fn run(args: &Args) -> Result<(), String> {
    let file = args.file.display();
    let columns = Columns {
        measure: args.measure.clone(),
        treatment: args.treatment.clone(),
        control: args.control.clone(),
        unit: Some(args.unit.clone()),
        day: Some(args.day.clone()),
        block: args.block.clone(),
        ..Columns::default()
    };
    let question = Question {
        better: args.better,
        margin: args.margin,
        confidence: args.confidence,
        ..Question::default()
    };
    let table =
        read(&bytes(&args.file)?, &columns).map_err(|e| format!("{file}: {}", as_options(&e)))?;
    let compared =
        compare_growth(&table, &question).map_err(|e| format!("{file}: {}", as_options(&e)))?;
    let text = if args.json {
        serde_json::to_string_pretty(&compared).map_err(|e| e.to_string())?
    } else {
        growth_page(&compared, &args.measure)
    };
    // A reader that has seen enough closes the pipe; that is no failure.
    let _ = writeln!(std::io::stdout(), "{}", text.trim_end());
    Ok(())
}
