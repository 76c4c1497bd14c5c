//! `iron-twin mix`: a thin shell over the core's recipe.

use crate::analyse::bytes;
use iron_twin_core::mix::aim::Aim;
use iron_twin_core::mix::recipe::{Solution, read};
use iron_twin_core::mix::stock::{Stock, stock};
use serde::Serialize;
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

/// The answer: the solution, and what else the recipe asks for.
#[derive(Serialize)]
struct Answer {
    #[serde(flatten)]
    solution: Solution,
    #[serde(skip_serializing_if = "Option::is_none")]
    aim: Option<Aim>,
    #[serde(skip_serializing_if = "Option::is_none")]
    stock: Option<Stock>,
    #[serde(skip)]
    temperature_c: f64,
}

/// Works out the solution and prints it.
pub fn run(args: &Args) -> Result<(), String> {
    let text = String::from_utf8(bytes(&args.file)?)
        .map_err(|_| "the recipe is not UTF-8 text".to_owned())?;
    let recipe = read(&text).map_err(|e| e.to_string())?;
    let (recipe, aim) = recipe.aimed().map_err(|e| e.to_string())?;
    let solution = recipe.solution().map_err(|e| e.to_string())?;
    let stock = recipe
        .stock_times
        .map(|times| stock(&recipe, times))
        .transpose()
        .map_err(|e| e.to_string())?;
    let answer = Answer {
        solution,
        aim,
        stock,
        temperature_c: recipe.temperature_c,
    };
    let page = if args.json {
        serde_json::to_string_pretty(&answer).map_err(|e| e.to_string())?
    } else {
        page(&answer, recipe.volume_l).trim_end().to_owned()
    };
    writeln!(std::io::stdout(), "{page}").map_err(|e| e.to_string())
}

/// The solution as a page for a terminal.
fn page(answer: &Answer, volume_l: f64) -> String {
    let solution = &answer.solution;
    let mut page = String::new();
    let mut line = |text: String| {
        let _ = writeln!(page, "{text}");
    };
    let ec = solution.conductivity_ms_per_cm;
    line(format!(
        "{volume_l} L of solution, EC {:.2} mS/cm at 25 °C",
        ec.at_25c
    ));
    let ppm: Vec<String> = solution
        .ppm
        .iter()
        .map(|(scale, ppm)| format!("{ppm:.0} ({scale} scale)"))
        .collect();
    line(format!("on a meter in ppm: {}", ppm.join(", ")));
    let t = answer.temperature_c;
    if (t - 25.0).abs() >= 1.0 {
        line(format!(
            "at {t} °C it conducts {:.2} mS/cm; a meter that corrects 2 % a degree shows {:.2}",
            ec.at_temperature, ec.as_metered
        ));
    }
    if !solution.portions.is_empty() {
        line("\nmeasure out".into());
    }
    portion_lines(solution, &mut line);
    line("\nmg/L".into());
    for (element, mg) in solution.mg_per_l.iter().filter(|(_, mg)| **mg > 0.0) {
        line(format!("  {element:<12} {mg:>8.2}"));
    }
    line(format!(
        "\ncharge balance {:+.1} %, ionic strength {:.4} mol/L, osmotic pressure {:.0} kPa",
        solution.charge_balance_percent,
        solution.ionic_strength_mol_per_l,
        solution.osmotic_pressure_kpa
    ));
    missed_lines(answer, &mut line);
    if let Some(stock) = &answer.stock {
        stock_lines(stock, &mut line);
    }
    for warning in &solution.warnings {
        line(format!("\n! {}", warning.message));
    }
    line(
        "\nGloves and goggles with concentrates; concentrate into water, acid into water, never \
         the other way round."
            .into(),
    );
    page
}

/// What to measure out.
fn portion_lines(solution: &Solution, line: &mut impl FnMut(String)) {
    for portion in &solution.portions {
        let ml = portion
            .ml
            .map_or_else(String::new, |ml| format!("  or {ml:.1} mL"));
        line(format!(
            "  {:<28} {:>9.2} g{ml}   ({:.3} g/L)",
            portion.name, portion.g, portion.g_per_l
        ));
    }
}

/// What the aim does not reach, and why.
fn missed_lines(answer: &Answer, line: &mut impl FnMut(String)) {
    for missed in answer.aim.iter().flat_map(|aim| &aim.reached) {
        if let Some(why) = &missed.why_missed {
            let (got, wanted) = (missed.reached_mg_per_l, missed.wanted_mg_per_l);
            line(format!(
                "\n! {}: {got:.2} instead of {wanted:.2} mg/L: {why}",
                missed.element
            ));
        }
    }
}

/// The concentrates.
fn stock_lines(stock: &Stock, line: &mut impl FnMut(String)) {
    line(format!(
        "\nconcentrates {} times as strong, {:.1} mL of each in a litre (up to {:.0} times stays \
         dissolved)",
        stock.times, stock.ml_per_l, stock.times_most
    ));
    for tank in &stock.tanks {
        line(format!(
            "  tank {}, {:.0} % of what stays dissolved",
            tank.letter,
            100.0 * tank.fullness
        ));
        for part in &tank.parts {
            let amount = part.ml_per_l.map_or_else(
                || format!("{:>9.2} g", part.g_per_l),
                |ml| format!("{ml:>9.1} mL"),
            );
            line(format!("    {:<28}{amount} a litre", part.name));
        }
    }
    for warning in &stock.warnings {
        line(format!("\n! {}", warning.message));
    }
}
