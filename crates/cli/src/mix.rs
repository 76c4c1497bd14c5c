//! `iron-twin mix`: a thin shell over the core's recipe.

use crate::analyse::bytes;
use iron_twin_core::mix::recipe::{Solution, read};
use std::fmt::Write as _;
use std::io::Write;
use std::path::PathBuf;

/// Options of the command.
#[derive(clap::Args)]
pub struct Args {
    /// The recipe, a JSON file; `-` reads standard input.
    file: PathBuf,
    /// Print JSON instead of a summary.
    #[arg(long)]
    json: bool,
}

/// Works out the solution and prints it.
pub fn run(args: &Args) -> Result<(), String> {
    let text = String::from_utf8(bytes(&args.file)?).map_err(|_| "the recipe is not UTF-8 text".to_owned())?;
    let recipe = read(&text).map_err(|e| e.to_string())?;
    let solution = recipe.solution().map_err(|e| e.to_string())?;
    let page = if args.json {
        serde_json::to_string_pretty(&solution).map_err(|e| e.to_string())?
    } else {
        page(&solution, recipe.volume_l).trim_end().to_owned()
    };
    writeln!(std::io::stdout(), "{page}").map_err(|e| e.to_string())
}

/// The solution as a page for a terminal.
fn page(solution: &Solution, volume_l: f64) -> String {
    let mut page = String::new();
    let mut line = |text: String| {
        let _ = writeln!(page, "{text}");
    };
    let ec = solution.conductivity_ms_per_cm;
    line(format!("{volume_l} L of solution, EC {:.2} mS/cm at 25 °C", ec.at_25c));
    let ppm: Vec<String> = solution.ppm.iter().map(|(scale, ppm)| format!("{ppm:.0} ({scale} scale)")).collect();
    line(format!("on a meter in ppm: {}", ppm.join(", ")));
    if !solution.portions.is_empty() {
        line("\nmeasure out".into());
    }
    for portion in &solution.portions {
        let ml = portion.ml.map_or_else(String::new, |ml| format!("  or {ml:.1} mL"));
        line(format!("  {:<28} {:>9.2} g{ml}   ({:.3} g/L)", portion.name, portion.g, portion.g_per_l));
    }
    line("\nmg/L".into());
    for (element, mg) in solution.mg_per_l.iter().filter(|(_, mg)| **mg > 0.0) {
        line(format!("  {element:<12} {mg:>8.2}"));
    }
    line(format!(
        "\ncharge balance {:+.1} %, ionic strength {:.4} mol/L",
        solution.charge_balance_percent, solution.ionic_strength_mol_per_l
    ));
    for warning in &solution.warnings {
        line(format!("\n! {}", warning.message));
    }
    line(
        "\nGloves and goggles with concentrates; concentrate into water, acid into water, never the other way round."
            .into(),
    );
    page
}
