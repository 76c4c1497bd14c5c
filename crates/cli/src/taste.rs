//! `iron-twin taste`: what a blind tasting told, how many servings it wants, and what to serve to
//! whom.

use iron_twin_core::weigh::serving::served;
use iron_twin_stats::tasting::{Serving, p_value, planned, power, wanted};
use serde_json::json;

#[derive(clap::Args)]
pub struct Args {
    #[command(subcommand)]
    what: What,
}

#[derive(clap::Subcommand)]
enum What {
    /// What so many right answers tell (triangle), or so many that prefer one of two (pair).
    Result {
        /// triangle or pair.
        #[arg(long, value_parser = parse_serving)]
        serving: Serving,
        /// Servings.
        #[arg(long)]
        servings: usize,
        /// Right answers; of pairs those that prefer one of the two.
        #[arg(long)]
        right: usize,
        /// Error that is allowed.
        #[arg(long, default_value_t = 0.05)]
        alpha: f64,
    },
    /// How many servings are wanted.
    Plan {
        /// triangle or pair.
        #[arg(long, value_parser = parse_serving)]
        serving: Serving,
        /// Share of servings that are truly told apart (triangle), or in which one is preferred
        /// (pair), such as 30%.
        #[arg(long, value_parser = percent)]
        share: f64,
        /// Chance that is wanted.
        #[arg(long, default_value_t = 0.8)]
        power: f64,
        /// Error that is allowed.
        #[arg(long, default_value_t = 0.05)]
        alpha: f64,
    },
    /// Cups for each taster, from left to right, under codes of three figures.
    Serve {
        /// Different cups.
        #[arg(long)]
        cups: usize,
        /// Tasters.
        #[arg(long)]
        tasters: usize,
        /// Seed: the same one serves the same again.
        #[arg(long, default_value_t = 1)]
        seed: u64,
    },
}

fn parse_serving(text: &str) -> Result<Serving, String> {
    crate::words::one_of(
        text,
        &[("triangle", Serving::Triangle), ("pair", Serving::Pair)],
    )
}

/// `30%` or `30`, both per cent, as a share.
fn percent(text: &str) -> Result<f64, String> {
    let number = text.trim().trim_end_matches('%').trim();
    let share: f64 = number
        .parse()
        .map_err(|_| format!("'{text}' is no per cent such as 30%"))?;
    if (0.0..=100.0).contains(&share) {
        Ok(0.01 * share)
    } else {
        Err(format!("'{text}' lies beyond 0 to 100 %"))
    }
}

fn allowed(alpha: f64) -> Result<f64, String> {
    if alpha > 0.0 && alpha < 0.5 {
        Ok(alpha)
    } else {
        Err(format!("--alpha lies between 0 and 0.5, got {alpha}"))
    }
}

/// Works it out and prints it as JSON.
pub fn run(args: &Args) -> Result<(), String> {
    let told = match &args.what {
        What::Result {
            serving,
            servings,
            right,
            alpha,
        } => {
            let p = p_value(*serving, *servings, *right).map_err(|e| e.to_string())?;
            let wanted =
                wanted(*serving, *servings, allowed(*alpha)?).map_err(|e| e.to_string())?;
            json!({
                "servings": servings, "right": right, "p": p, "wanted": wanted, "told": p <= *alpha,
            })
        }
        What::Plan {
            serving,
            share,
            power: at_least,
            alpha,
        } => {
            if !(*at_least > 0.0 && *at_least < 1.0) {
                return Err(format!("--power lies between 0 and 1, got {at_least}"));
            }
            let alpha = allowed(*alpha)?;
            let servings =
                planned(*serving, alpha, *share, *at_least).map_err(|e| e.to_string())?;
            let reached = servings
                .map(|n| power(*serving, n, alpha, *share))
                .transpose()
                .map_err(|e| e.to_string())?;
            let right = servings
                .map(|n| wanted(*serving, n, alpha))
                .transpose()
                .map_err(|e| e.to_string())?
                .flatten();
            json!({ "servings": servings, "wanted": right, "power": reached })
        }
        What::Serve {
            cups,
            tasters,
            seed,
        } => json!({ "tasters": served(*cups, *tasters, *seed)? }),
    };
    println!(
        "{}",
        serde_json::to_string_pretty(&told).map_err(|e| e.to_string())?
    );
    Ok(())
}
