//! `iron-twin analyse`: a thin shell over the core.

use crate::words::{as_options, one_of};
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::{Question, Scale, Variance};
use iron_twin_judge::report_text::render;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::secondary::beside_one_another;
use iron_twin_judge::table::{Columns, read};
use iron_twin_terms::dealing::{BlocksAre, Dealing};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use std::io::{Read, Write};
use std::path::{Path, PathBuf};

/// Options of the command, as the contract has them.
#[derive(clap::Args)]
pub struct Args {
    /// The CSV file; `-` reads standard input.
    file: PathBuf,
    /// Column with what was measured; given several times, the first is primary.
    #[arg(long, required_unless_present = "plan")]
    measure: Vec<String>,
    /// Column with the treatment.
    #[arg(long, required_unless_present_any = ["dose", "plan"])]
    treatment: Option<String>,
    /// The treatment that the others are compared with.
    #[arg(long, required_unless_present_any = ["dose", "plan"])]
    control: Option<String>,
    /// The plan as the program exports it: how the units were dealt. Options given beside it lead.
    #[arg(long)]
    plan: Option<PathBuf>,
    /// Kind of measure: amount (usual), count, share, days, score or dose.
    #[arg(long, value_parser = parse_kind)]
    kind: Option<Kind>,
    /// Column with alike units compared with each other.
    #[arg(long)]
    block: Option<String>,
    /// What the blocks are: places (sites, farms, rounds: the claim is to carry to a further one)
    /// or alike (shelves of one room). Left out, the name of the column says it.
    #[arg(long, value_parser = parse_blocks, requires = "block")]
    blocks: Option<BlocksAre>,
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
    /// beat (usual), match or best.
    #[arg(long, value_parser = parse_goal)]
    goal: Option<Goal>,
    /// higher (usual) or lower.
    #[arg(long, value_parser = parse_better)]
    better: Option<Better>,
    /// Smallest difference that matters: 10% of the control, or 5 in the measure's unit.
    #[arg(long, allow_hyphen_values = true)]
    margin: Option<Margin>,
    /// Confidence of the intervals.
    #[arg(long, default_value_t = 0.95, allow_hyphen_values = true)]
    confidence: f64,
    /// pooled or unequal.
    #[arg(long, default_value = "pooled", value_parser = parse_variance)]
    variance: Variance,
    /// difference or ratio; difference where left out.
    #[arg(long, value_parser = parse_scale)]
    scale: Option<Scale>,
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

pub fn parse_goal(text: &str) -> Result<Goal, String> {
    one_of(
        text,
        &[
            ("beat", Goal::Beat),
            ("match", Goal::Match),
            ("best", Goal::Best),
        ],
    )
}

pub fn parse_better(text: &str) -> Result<Better, String> {
    one_of(
        text,
        &[("higher", Better::Higher), ("lower", Better::Lower)],
    )
}

fn parse_variance(text: &str) -> Result<Variance, String> {
    one_of(
        text,
        &[("pooled", Variance::Pooled), ("unequal", Variance::Unequal)],
    )
}

fn parse_blocks(text: &str) -> Result<BlocksAre, String> {
    one_of(
        text,
        &[("places", BlocksAre::Places), ("alike", BlocksAre::Alike)],
    )
}

fn parse_scale(text: &str) -> Result<Scale, String> {
    one_of(
        text,
        &[("difference", Scale::Difference), ("ratio", Scale::Ratio)],
    )
}

/// The file, or standard input for `-`.
pub fn bytes(file: &Path) -> Result<Vec<u8>, String> {
    let cannot = |e: std::io::Error| format!("{}: cannot be read: {e}", file.display());
    if file.as_os_str() == "-" {
        let mut all = Vec::new();
        std::io::stdin().read_to_end(&mut all).map_err(cannot)?;
        Ok(all)
    } else {
        std::fs::read(file).map_err(cannot)
    }
}

/// The plan named, or none: a plan of nothing but its format.
fn plan(args: &Args) -> Result<Option<AnalysisPlan>, String> {
    let Some(path) = &args.plan else {
        return Ok(None);
    };
    let file = path.display();
    let json = std::fs::read_to_string(path).map_err(|e| format!("{file}: cannot be read: {e}"))?;
    AnalysisPlan::read(&json)
        .map(Some)
        .map_err(|e| format!("{file}: {e}"))
}

/// One measure to be analysed: its columns and what is asked of it.
struct Asked {
    columns: Columns,
    question: Question,
}

impl Args {
    /// What the plan says, with the options given beside it in the lead.
    fn asked(&self, plan: Option<&AnalysisPlan>) -> Result<Vec<Asked>, String> {
        let named: Vec<String> = match plan {
            Some(plan) if self.measure.is_empty() => {
                plan.measures.iter().map(|m| m.column.clone()).collect()
            }
            _ => self.measure.clone(),
        };
        if named.is_empty() {
            return Err("the plan names no measure; give --measure COL".into());
        }
        let asked: Vec<Asked> = named
            .iter()
            .map(|measure| self.ask(measure, plan))
            .collect();
        let lacks = |c: &Columns| c.kind != Kind::Dose && c.factors.is_empty();
        match asked.iter().find(|a| {
            lacks(&a.columns) && (a.columns.treatment.is_empty() || a.columns.control.is_empty())
        }) {
            Some(_) => Err(
                "the plan names no treatment and control; give --treatment COL and --control NAME"
                    .into(),
            ),
            None => Ok(asked),
        }
    }

    fn ask(&self, measure: &str, plan: Option<&AnalysisPlan>) -> Asked {
        let number = plan.and_then(|p| p.measure(measure)).unwrap_or(usize::MAX);
        let (of_plan, question) = plan.map_or_else(Default::default, |p| {
            (p.columns(number), p.question(number))
        });
        let or = |own: &Option<String>, plan: Option<String>| own.clone().or(plan);
        let kind = self.kind.unwrap_or(of_plan.kind);
        // Factors give the treatment; a treatment named beside them sets the factors aside.
        let factors = if self.treatment.is_some() {
            Vec::new()
        } else {
            of_plan.factors
        };
        let columns = Columns {
            kind,
            measure: measure.to_owned(),
            treatment: self.treatment.clone().unwrap_or(of_plan.treatment),
            control: self.control.clone().unwrap_or(of_plan.control),
            block: or(&self.block, of_plan.block),
            unit: or(&self.unit, of_plan.unit),
            baseline: or(&self.baseline, of_plan.baseline),
            out_of: or(&self.out_of, of_plan.out_of),
            exposure: or(&self.exposure, of_plan.exposure),
            seen: or(&self.seen, of_plan.seen),
            after: or(&self.after, of_plan.after),
            dose: self.dose.clone(),
            factors,
            dealing: Dealing {
                blocks: self.blocks.unwrap_or(of_plan.dealing.blocks),
                ..of_plan.dealing
            },
            ..of_plan
        };
        let question = Question {
            goal: self.goal.unwrap_or(question.goal),
            better: self.better.unwrap_or(question.better),
            margin: self.margin.or(question.margin),
            confidence: self.confidence,
            variance: self.variance,
            scale: self.scale.unwrap_or(question.scale),
            tau: self.tau,
            expected_units: self.expected_units.or(question.expected_units),
            seed: self.seed,
            ..question
        };
        Asked { columns, question }
    }
}

/// Analyses every measure named and prints the result.
pub fn run(args: &Args) -> Result<(), String> {
    check_columns(args)?;
    let file = args.file.display();
    let plan = plan(args)?;
    let asked = args.asked(plan.as_ref())?;
    let bytes = bytes(&args.file)?;
    let mut analyses = Vec::with_capacity(asked.len());
    for Asked { columns, question } in &asked {
        let table = read(&bytes, columns).map_err(|e| format!("{file}: {}", as_options(&e)))?;
        let refused = |e| format!("{file}, column '{}': {}", columns.measure, as_options(&e));
        analyses.push(analyse(&table, question).map_err(refused)?);
    }
    // The first stands alone.
    if let Some((_, secondary)) = analyses.split_first_mut() {
        beside_one_another(secondary);
    }
    let measures: Vec<String> = asked.into_iter().map(|a| a.columns.measure).collect();
    let text = if args.json {
        json(&measures, &analyses)?
    } else {
        pages(&measures, &analyses)
    };
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
    // With a plan the kind may be its own; then the column speaks for itself.
    let Some(asked) = args.kind.or(args.plan.is_none().then_some(Kind::Amount)) else {
        return Ok(());
    };
    for (option, given, kind) in named {
        if given && asked != kind {
            return Err(format!(
                "{option} goes with --kind {}, not with --kind {}",
                kind.word(),
                asked.word()
            ));
        }
    }
    if asked == Kind::Dose && args.dose.is_none() {
        return Err("--kind dose needs --dose COL: the numeric dose".into());
    }
    Ok(())
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
    measures
        .iter()
        .zip(analyses)
        .map(|(measure, a)| render(a, measure))
        .collect::<Vec<_>>()
        .join("\n")
}
