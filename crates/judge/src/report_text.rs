//! The analysis as a page for the terminal: what was compared, every treatment, every difference,
//! what was learned.

use super::result::{Analysis, Contrast, OverallOut};
use super::tracks::GrowthCompared;
use crate::wording::{figure, of_a_hundred};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::words::capitalised;
use std::fmt::Write;

/// Figures of one column with the decimals that its largest supports at four digits, so that they
/// line up.
fn aligned(values: impl Iterator<Item = Option<f64>> + Clone) -> Vec<String> {
    let known = values.clone().flatten().filter(|v| v.is_finite());
    let largest = known.map(f64::abs).fold(0.0, f64::max);
    let decimals = if largest > 0.0 {
        (3.0 - largest.log10().floor()).clamp(0.0, 9.0) as usize
    } else {
        0
    };
    values
        .map(|v| {
            v.filter(|v| v.is_finite())
                .map_or_else(|| "-".into(), |v| format!("{v:.decimals$}"))
        })
        .collect()
}

/// A p with as many digits as anybody reads.
fn chance(p: Option<f64>) -> String {
    match p {
        None => "-".into(),
        Some(p) if p < 0.0001 => "< 0.0001".into(),
        Some(p) => format!("{p:.4}"),
    }
}

/// A table with its first column to the left and the rest to the right, each as wide as it must be.
fn table(out: &mut String, head: &[String], rows: &[Vec<String>]) {
    let width = |column: usize| {
        let cells = rows.iter().map(|r| &r[column]).chain([&head[column]]);
        cells.map(|c| c.chars().count()).max().unwrap_or(0)
    };
    for row in std::iter::once(&head.to_vec()).chain(rows) {
        let mut line = format!("  {:<1$}", row[0], width(0));
        for (column, text) in row.iter().enumerate().skip(1) {
            let _ = write!(line, "   {:>1$}", text, width(column));
        }
        // Writing into a String cannot fail.
        let _ = writeln!(out, "{}", line.trim_end());
    }
}

/// A summary that ends in one plain sentence for each treatment.
///
/// ```
/// use iron_twin_judge::analysis::analyse;
/// use iron_twin_judge::question::Question;
/// use iron_twin_judge::table::{read, Columns};
/// let columns = Columns { measure: "g".into(), treatment: "feed".into(), control: "water".into(), ..Columns::default() };
/// let table = read(b"feed,g\nwater,312\nwater,321\nfull,401\nfull,384\n", &columns).unwrap();
/// let page = iron_twin_judge::report_text::render(&analyse(&table, &Question::default()).unwrap(), "g");
/// assert!(page.trim_end().lines().last().unwrap().contains("Full gave 76") || page.contains("Full gave 76"));
/// ```
#[must_use]
pub fn render(analysis: &Analysis, measure: &str) -> String {
    let mut out = String::new();
    design(&mut out, analysis, measure);
    treatments(&mut out, analysis);
    if let Some(overall) = &analysis.overall {
        all_alike(&mut out, overall);
    }
    if !analysis.contrasts.is_empty() {
        contrasts(&mut out, analysis);
    }
    curves(&mut out, analysis);
    effects(&mut out, analysis);
    if !analysis.warnings.is_empty() {
        out.push('\n');
        for warning in &analysis.warnings {
            let _ = writeln!(out, "! {}: {}", warning.code, warning.message);
        }
    }
    if let Some(best) = &analysis.best {
        let _ = writeln!(out, "\nMay be the best: {}", best.join(", "));
    }
    out.push('\n');
    let said = analysis.dose.iter().map(|d| d.sentence.as_str());
    let said = said.chain(analysis.factors.iter().map(|f| f.sentence.as_str()));
    for sentence in analysis
        .contrasts
        .iter()
        .map(|c| c.sentence.as_str())
        .chain(said)
    {
        let _ = writeln!(out, "{sentence}");
    }
    out
}

/// What was compared, and at which look.
fn design(out: &mut String, analysis: &Analysis, measure: &str) {
    let d = &analysis.design;
    let blocks = if d.blocks > 0 {
        format!(" in {} blocks", d.blocks)
    } else {
        String::new()
    };
    let [fewest, most] = d.samples_per_unit;
    let samples = match most {
        0 | 1 => String::new(),
        _ if fewest == most => format!(", {most} samples each"),
        _ => format!(", {fewest} to {most} samples each"),
    };
    let what = if analysis.kind == Kind::Dose {
        "doses"
    } else {
        "treatments"
    };
    let _ = writeln!(
        out,
        "{measure}: {}, {} {what}, {} units{blocks}{samples}\n",
        d.name, d.treatments, d.units
    );
    if let Some(look) = &analysis.look {
        let _ = writeln!(
            out,
            "  look {} of {}, {} % of the trial: intervals at {} % so that all looks together \
             keep to {} %\n",
            look.now,
            look.planned,
            figure(100.0 * look.share),
            figure(100.0 * look.confidence),
            figure(100.0 * analysis.confidence)
        );
    }
}

/// Whether all treatments are alike.
fn all_alike(out: &mut String, overall: &OverallOut) {
    let df: Vec<String> = overall.df.iter().map(|v| figure(*v)).collect();
    let _ = writeln!(
        out,
        "\n  All treatments alike? {} = {} ({} df), p {}",
        overall.test,
        figure(overall.statistic),
        df.join(" and "),
        chance(Some(overall.p))
    );
}

fn treatments(out: &mut String, analysis: &Analysis) {
    let (name, mean, third) = match analysis.kind {
        Kind::Amount => ("treatment", "mean", "sd"),
        Kind::Count => ("treatment", "rate", "sd"),
        Kind::Share => ("treatment", "share, %", "sd"),
        Kind::Days => ("treatment", "mean, days", "median"),
        Kind::Score => ("treatment", "mean score", "sd"),
        Kind::Dose => ("dose", "mean", "sd"),
    };
    let scale = if analysis.kind == Kind::Share {
        100.0
    } else {
        1.0
    };
    let all = &analysis.treatments;
    let means = aligned(all.iter().map(|t| Some(scale * t.adjusted_mean)));
    let thirds = aligned(all.iter().map(|t| match analysis.kind {
        Kind::Days => t.median.flatten(),
        _ => t.sd.map(|sd| scale * sd),
    }));
    let rows: Vec<Vec<String>> = all
        .iter()
        .zip(means.into_iter().zip(thirds))
        .map(|(t, (mean, third))| vec![t.name.clone(), t.units.to_string(), mean, third])
        .collect();
    table(out, &[name, "units", mean, third].map(str::to_owned), &rows);
}

/// The limits and p that decide: those for all contrasts together where there are several.
struct Limits {
    low: Option<f64>,
    high: Option<f64>,
    p: Option<f64>,
}

fn limits(contrast: &Contrast) -> Limits {
    match &contrast.simultaneous {
        Some(s) => Limits {
            low: Some(s.low),
            high: Some(s.high),
            p: Some(s.p),
        },
        None => Limits {
            low: contrast.low,
            high: contrast.high,
            p: contrast.p,
        },
    }
}

fn contrasts(out: &mut String, analysis: &Analysis) {
    let estimate = match (analysis.kind, analysis.scale) {
        (_, "ratio") => "ratio",
        (Kind::Share, _) => "points more",
        (Kind::Days, _) => "days more",
        (Kind::Score, _) => "pairings won",
        _ => "difference",
    };
    // A superiority is told as the share of pairings won, as its own limits are.
    let shift = if analysis.kind == Kind::Score {
        0.5
    } else {
        0.0
    };
    let all = &analysis.contrasts;
    let estimates = aligned(all.iter().map(|c| Some(c.estimate + shift)));
    let lows = aligned(all.iter().map(|c| limits(c).low.map(|v| v + shift)));
    let highs = aligned(all.iter().map(|c| limits(c).high.map(|v| v + shift)));
    let rows = rows_of(all, (&estimates, &lows, &highs));
    let versus = format!("against {}", analysis.contrasts[0].versus);
    let together = if analysis.contrasts.len() > 1 {
        "p, all together"
    } else {
        "p"
    };
    let percent = figure(
        100.0
            * analysis
                .look
                .as_ref()
                .map_or(analysis.confidence, |l| l.confidence),
    );
    let head = [
        versus.as_str(),
        estimate,
        &format!("{percent} % from"),
        "to",
        together,
        "p, re-dealt",
        "ahead again",
    ];
    out.push('\n');
    table(out, &head.map(str::to_owned), &rows);
}

/// A row for each contrast.
fn rows_of(
    all: &[Contrast],
    (estimates, lows, highs): (&[String], &[String], &[String]),
) -> Vec<Vec<String>> {
    (0..all.len())
        .map(|i| {
            let redealt = chance(all[i].randomisation.as_ref().map(|r| r.p));
            let (name, p) = (all[i].treatment.clone(), chance(limits(&all[i]).p));
            let again = all[i]
                .ahead_next_time
                .map_or_else(|| "-".into(), of_a_hundred);
            vec![
                name,
                estimates[i].clone(),
                lows[i].clone(),
                highs[i].clone(),
                p,
                redealt,
                again,
            ]
        })
        .collect()
}

/// Crossed factors: what each does, over all combinations and within each.
fn effects(out: &mut String, analysis: &Analysis) {
    let Some(factors) = &analysis.factors else {
        return;
    };
    if let Some(test) = &factors.interaction.test {
        let df: Vec<String> = test.df.iter().map(|v| figure(*v)).collect();
        let _ = writeln!(
            out,
            "\n  Does one work differently with the other? F = {} ({} df), p {}\n",
            figure(test.statistic),
            df.join(" and "),
            chance(Some(test.p))
        );
    }
    let all = &factors.effects;
    let estimates = aligned(all.iter().map(|e| Some(e.contrast.estimate)));
    let lows = aligned(all.iter().map(|e| limits(&e.contrast).low));
    let highs = aligned(all.iter().map(|e| limits(&e.contrast).high));
    let rows: Vec<Vec<String>> = (0..all.len())
        .map(|i| {
            let c = &all[i].contrast;
            let over = if all[i].at.is_none() {
                " (over all)"
            } else {
                ""
            };
            vec![
                format!("{}{over}", c.treatment),
                estimates[i].clone(),
                lows[i].clone(),
                highs[i].clone(),
                chance(limits(c).p),
                chance(c.randomisation.as_ref().map(|r| r.p)),
            ]
        })
        .collect();
    let head = [
        "effect",
        "against its reference",
        "from",
        "to",
        "p",
        "p, re-dealt",
    ];
    table(out, &head.map(str::to_owned), &rows);
}

fn curves(out: &mut String, analysis: &Analysis) {
    let Some(dose) = &analysis.dose else { return };
    out.push('\n');
    let mut line = |name: &str, key: &str, text: String| {
        let mark = if dose.preferred == key {
            "  (preferred)"
        } else {
            ""
        };
        let _ = writeln!(out, "  {name:<14}  {text}{mark}");
    };
    let slope = |from: f64, by: f64| {
        format!(
            "{} {} {} x dose",
            figure(from),
            if by < 0.0 { '-' } else { '+' },
            figure(by.abs())
        )
    };
    let l = &dose.linear;
    line(
        "straight line",
        "linear",
        format!("{}, p {}", slope(l.intercept, l.slope), chance(l.p)),
    );
    if let Some(p) = &dose.linear_plateau {
        let text = format!(
            "{} up to {}, then {}",
            slope(p.intercept, p.slope),
            figure(p.joint),
            figure(p.plateau)
        );
        line("plateau", "linear_plateau", text);
    }
    if let Some(q) = &dose.quadratic {
        let turns = q.peak.map_or(String::new(), |peak| {
            format!(", turning at {}", figure(peak))
        });
        let text = format!(
            "{} {} {} x dose^2{turns}",
            slope(q.intercept, q.slope),
            if q.curvature < 0.0 { '-' } else { '+' },
            figure(q.curvature.abs())
        );
        line("hump", "quadratic", text);
    }
    if let Some(l) = &dose.log_logistic {
        let error = l
            .se_ed50
            .map_or(String::new(), |se| format!(" (se {})", figure(se)));
        let text = format!(
            "from {} to {}, half way at {}{error}, slope {}",
            figure(l.upper),
            figure(l.lower),
            figure(l.ed50),
            figure(l.slope)
        );
        line("S-shaped curve", "log_logistic", text);
    }
}

/// Growth compared, as a page for the terminal: every feature against the control, and what was
/// learned.
///
/// ```
/// use iron_twin_judge::question::Question;
/// use iron_twin_judge::report_text::growth_page;
/// use iron_twin_judge::table::{read, Columns};
/// use iron_twin_judge::tracks::compare_growth;
/// let mut csv = "feed,tray,day,mm\n".to_owned();
/// for (tray, top) in [80.0, 84.0, 99.0, 103.0].into_iter().enumerate() {
///     for day in 0..9 {
///         let mm = top / (1.0 + (4.0 - f64::from(day)).exp());
///         csv += &format!("{},t{tray},{day},{mm}\n", if tray < 2 { "water" } else { "full" });
///     }
/// }
/// let columns = Columns {
///     measure: "mm".into(), treatment: "feed".into(), control: "water".into(), unit: Some("tray".into()), day: Some("day".into()),
///     ..Columns::default()
/// };
/// let growth = compare_growth(&read(csv.as_bytes(), &columns).unwrap(), &Question::default()).unwrap();
/// assert!(growth_page(&growth, "mm").starts_with("mm: growth of 4 units, logistic curves"));
/// ```
#[must_use]
pub fn growth_page(growth: &GrowthCompared, measure: &str) -> String {
    let mut out = format!(
        "{measure}: growth of {} units, {} curves\n\n",
        growth.units.len(),
        growth.shape
    );
    let number = |v: Option<f64>| v.map_or_else(|| "-".into(), figure);
    let rows: Vec<Vec<String>> = growth
        .features
        .iter()
        .filter_map(|f| f.analysis.as_ref().map(|a| (f.name, a)))
        .flat_map(|(name, a)| a.contrasts.iter().map(move |c| (name, c)))
        .map(|(name, c)| {
            let l = limits(c);
            let p = chance(c.p_holm);
            vec![
                format!("{name}, {}", c.treatment),
                figure(c.estimate),
                number(l.low),
                number(l.high),
                p,
            ]
        })
        .collect();
    table(
        &mut out,
        &["against the control", "difference", "from", "to", "p, Holm"].map(str::to_owned),
        &rows,
    );
    out.push('\n');
    for curve in growth
        .units
        .iter()
        .filter(|u| u.asymptote.is_none() || u.still_rising)
    {
        let why = if curve.still_rising {
            "growth had not slowed down yet"
        } else {
            &curve.stopped
        };
        let _ = writeln!(out, "! {}: {why}", curve.unit);
    }
    for feature in &growth.features {
        let said = feature
            .analysis
            .iter()
            .flat_map(|a| &a.contrasts)
            .map(|c| c.sentence.as_str());
        for sentence in said.chain(feature.why_not.as_deref()) {
            let _ = writeln!(out, "{}: {sentence}", capitalised(feature.name));
        }
    }
    out
}
