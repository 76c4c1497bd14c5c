//! The analysis as a page for the terminal.

use super::result::Analysis;
use std::fmt::Write;

fn figure(value: Option<f64>) -> String {
    value.map_or_else(
        || "-".into(),
        |v| if v != 0.0 && v.abs() < 0.001 { format!("{v:.2e}") } else { format!("{v:.4}") },
    )
}

/// A summary that ends in one plain sentence for each treatment.
#[must_use]
pub fn render(analysis: &Analysis, measure: &str) -> String {
    let mut out = String::new();
    let d = &analysis.design;
    let blocks = if d.blocks > 0 { format!(", {} blocks", d.blocks) } else { String::new() };
    // Writing into a String cannot fail.
    let _ = writeln!(out, "{measure}: {} ({} treatments, {} units{blocks})\n", d.name, d.treatments, d.units);
    let width = analysis.treatments.iter().map(|t| t.name.chars().count()).max().unwrap_or(0).max(9);
    let _ = writeln!(out, "{:<width$}  {:>5}  {:>12}  {:>10}", "treatment", "units", "mean", "sd");
    for t in &analysis.treatments {
        let _ = writeln!(out, "{:<width$}  {:>5}  {:>12.4}  {:>10}", t.name, t.units, t.adjusted_mean, figure(t.sd));
    }
    let _ = writeln!(
        out,
        "\n{:<width$}  {:>12}  {:>12}  {:>12}  {:>9}  {:>9}",
        "difference", "estimate", "low", "high", "p", "re-deal p"
    );
    for c in &analysis.contrasts {
        let (low, high, p) = match &c.simultaneous {
            Some(s) => (Some(s.low), Some(s.high), Some(s.p)),
            None => (c.low, c.high, c.p),
        };
        let _ = writeln!(
            out,
            "{:<width$}  {:>12.4}  {:>12}  {:>12}  {:>9}  {:>9}",
            c.treatment,
            c.estimate,
            figure(low),
            figure(high),
            figure(p),
            figure(c.randomisation.as_ref().map(|r| r.p))
        );
    }
    for warning in &analysis.warnings {
        let _ = writeln!(out, "\n! {}: {}", warning.code, warning.message);
    }
    if let Some(best) = &analysis.best {
        let _ = writeln!(out, "\nMay be the best: {}", best.join(", "));
    }
    let _ = writeln!(out);
    for c in &analysis.contrasts {
        let _ = writeln!(out, "{}", c.sentence);
    }
    out
}
