//! `iron-twin deal`: a plan dealt by the documented algorithm, so that anybody can repeat a deal
//! from its seed.

use iron_twin_core::place::deal::deal;
use iron_twin_core::trial::space::RackDesign;
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_core::verdict::table::{ExportRow, export};
use std::io::Write;
use std::path::PathBuf;

/// Options of the command.
#[derive(clap::Args)]
pub struct Args {
    /// The plan, with `rack`, `treatments` and mostly `seed`.
    file: PathBuf,
    /// Seed of the deal; leads over the plan's.
    #[arg(long)]
    seed: Option<u64>,
}

/// Deals the plan and prints it as CSV: code, place, block and treatment of every unit.
pub fn run(args: &Args) -> Result<(), String> {
    let file = args.file.display();
    let json =
        std::fs::read_to_string(&args.file).map_err(|e| format!("{file}: cannot be read: {e}"))?;
    let plan = AnalysisPlan::read(&json).map_err(|e| format!("{file}: {e}"))?;
    let lacks = |key: &str| format!("{file}: the plan has no \"{key}\", and a deal needs it");
    let rack = plan.rack.as_ref().ok_or_else(|| lacks("rack"))?;
    if plan.treatments.is_empty() {
        return Err(lacks("treatments"));
    }
    if rack.design == RackDesign::ByHand {
        return Err(format!(
            "{file}: these places were chosen by hand; nothing was dealt"
        ));
    }
    let seed = args
        .seed
        .or(plan.seed)
        .ok_or_else(|| format!("{}; or give --seed N", lacks("seed")))?;
    let units = deal(rack, plan.treatments.len(), seed).map_err(|e| format!("{file}: {e}"))?;
    let rows: Vec<ExportRow> = units
        .into_iter()
        .map(|u| ExportRow {
            block: rack
                .block_of(u.position, plan.treatments.len())
                .unwrap_or_default(),
            level: u.position.level,
            slot: u.position.slot,
            treatment: Some(plan.treatments[u.treatment].clone()),
            unit: u.code,
            ..ExportRow::default()
        })
        .collect();
    let _ = write!(std::io::stdout(), "{}", export(&rows, &[], &[]));
    Ok(())
}
