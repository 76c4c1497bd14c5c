//! Warnings that a table of figures gives by itself, each from data.

use super::result::ByBlockOut;
use super::table::Table;
use super::units::Units;
use crate::question::Question;
use crate::wording::p_told;
use iron_twin_stats::linear::{MeansFit, Observation};
use iron_twin_stats::spread::{Outlier, brown_forsythe_p, farthest};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::severity::Warning;
use iron_twin_terms::words::and;

/// Brown-Forsythe p below which spreads count as unequal.
pub const UNEQUAL_SPREAD_P: f64 = 0.01;
/// Units of each treatment from which on spreads are compared.
pub const UNEQUAL_SPREAD_UNITS: usize = 4;
/// Bonferroni p below which one unit counts as far from the rest.
pub const OUTLYING_P: f64 = 0.05;

fn warning(code: &'static str, severity: Severity, message: String) -> Warning {
    Warning {
        code,
        severity,
        message,
    }
}

/// Whether spreads are surely unequal.
#[must_use]
pub(crate) fn unequal_spread(fit: &MeansFit, units: &Units) -> Option<f64> {
    let mut groups = vec![Vec::new(); units.counts.len()];
    for (unit, residual) in units.rows.iter().zip(&fit.residuals) {
        groups[unit.treatment].push(*residual);
    }
    if groups.iter().any(|g| g.len() < UNEQUAL_SPREAD_UNITS) {
        return None;
    }
    brown_forsythe_p(&groups).filter(|p| *p < UNEQUAL_SPREAD_P)
}

/// Warnings that the units give whatever the kind of measure.
pub(crate) fn of_units(table: &Table, question: &Question, units: &Units) -> Vec<Warning> {
    let mut found = Vec::new();
    found.extend(single_units(table, units));
    // Of days, those on which something was seen and those by which it was not are no equals.
    let alike = table
        .beside
        .windows(2)
        .all(|w| (w[0].seen, w[0].after) == (w[1].seen, w[1].after));
    if alike && units.all_equal(units.rows.first().map_or(0.0, |r| r.value)) {
        found.push(warning(
            "no_variation",
            Severity::Fatal,
            "every value is the same; nothing can be compared".into(),
        ));
    }
    found.extend(uninformative_blocks(
        table,
        &table.observations,
        "treatment",
    ));
    found.extend(units_lost(table, question, units));
    if let Some(within) = table.dealing.within.filter(|w| !units.starts_within(*w)) {
        found.push(warning(
            "deal_outside_bound",
            Severity::Serious,
            format!(
                "the treatments' mean starting sizes lie further apart than the {} % that the \
                 plan admitted, so all deals are counted; check the plan, or which units were \
                 lost",
                super::wording::figure(100.0 * within)
            ),
        ));
    }
    if !table.dropped.is_empty() {
        let (left, all) = (table.dropped.len(), table.rows);
        found.push(warning(
            "rows_dropped",
            Severity::Minor,
            format!("{left} of {all} rows could not be used"),
        ));
    }
    found
}

/// Treatments that stand in one unit only.
fn single_units(table: &Table, units: &Units) -> Option<Warning> {
    let single: Vec<&str> = (0..units.counts.len())
        .filter(|&t| units.counts[t] == 1)
        .map(|t| table.treatments[t].as_str())
        .collect();
    (!single.is_empty()).then(|| {
        warning(
            "one_unit_per_treatment",
            Severity::Fatal,
            match single[..] {
                [one] => format!(
                    "{one} stands in one unit only: that unit cannot be told from its treatment"
                ),
                _ => format!(
                    "{} stand in one unit each: such a unit cannot be told from its treatment",
                    and(&single)
                ),
            },
        )
    })
}

/// All warnings of amounts and their unit-level fit.
pub(crate) fn collect(
    table: &Table,
    question: &Question,
    units: &Units,
    fit: &MeansFit,
) -> Vec<Warning> {
    let mut found = of_units(table, question, units);
    if !found.iter().any(|w| w.code == "no_variation") && units.no_residual(fit) && fit.df > 0.0 {
        found.push(warning(
            "no_residual_variation",
            Severity::Fatal,
            "units of a treatment are all exactly alike, so there is no spread to judge a \
             difference by"
                .into(),
        ));
    }
    if let Some(p) = unequal_spread(fit, units) {
        found.push(warning(
            "unequal_spread",
            Severity::Serious,
            format!(
                "treatments scatter very unequally (Brown-Forsythe {}); the limits that decide \
                 allow for it",
                p_told(p)
            ),
        ));
    }
    if !units.no_residual(fit)
        && let Some(far) = outlying(units, fit)
    {
        let unit = units.rows[far.row].unit;
        found.push(warning(
            "outlying_unit",
            Severity::Serious,
            format!(
                "{} ({}) stands {:.1} standard errors from what the others lead to expect ({} \
                 after Bonferroni); check its record",
                table.units[unit],
                table.treatments[units.rows[far.row].treatment],
                far.t.abs(),
                p_told(far.p)
            ),
        ));
    }
    found
}

/// A treatment that does not do the same in every block.
pub(crate) fn differs_by_block(table: &Table, told: &ByBlockOut) -> Option<Warning> {
    (told.p < 0.05).then(|| {
        let message = format!(
            "treatments do not do the same in every block (F {} over {} blocks); a further block \
             may differ again",
            p_told(told.p),
            table.blocks.len()
        );
        warning("differs_by_block", Severity::Serious, message)
    })
}

/// The unit that stands far from what the others lead to expect. Treatments whose units are all
/// exactly alike, such as dead ones, say nothing about how far a living unit may stand from its
/// like.
fn outlying(units: &Units, fit: &MeansFit) -> Option<Outlier> {
    let kept: Vec<usize> = (0..units.rows.len())
        .filter(|&i| !units.is_flat(units.rows[i].treatment))
        .collect();
    let flat = (0..units.counts.len()).filter(|&t| units.is_flat(t));
    let df = fit.df - flat.map(|t| units.counts[t] as f64 - 1.0).sum::<f64>();
    let of = |values: &[f64]| kept.iter().map(|&i| values[i]).collect::<Vec<f64>>();
    let far =
        farthest(&of(&fit.residuals), &of(&fit.leverages), df).filter(|far| far.p < OUTLYING_P)?;
    Some(Outlier {
        row: kept[far.row],
        ..far
    })
}

/// Blocks that hold one `what` only: a treatment, or a dose.
pub(crate) fn uninformative_blocks(
    table: &Table,
    rows: &[Observation],
    what: &str,
) -> Option<Warning> {
    let mut first: Vec<Option<usize>> = vec![None; table.blocks.len()];
    let mut mixed = vec![false; table.blocks.len()];
    if table.blocks.is_empty() {
        return None;
    }
    for row in rows {
        match first[row.block] {
            None => first[row.block] = Some(row.treatment),
            Some(t) if t != row.treatment => mixed[row.block] = true,
            Some(_) => {}
        }
    }
    let names: Vec<&str> = (0..mixed.len())
        .filter(|&b| !mixed[b])
        .map(|b| table.blocks[b].as_str())
        .collect();
    (!names.is_empty()).then(|| {
        let message = format!(
            "block {} holds only one {what} and says nothing about differences",
            names.join(", ")
        );
        warning("uninformative_block", Severity::Minor, message)
    })
}

fn units_lost(table: &Table, question: &Question, units: &Units) -> Option<Warning> {
    let expected = question.expected_units?;
    let short: Vec<String> = (0..units.counts.len())
        .filter(|&t| units.counts[t] < expected)
        .map(|t| {
            format!(
                "{} ({} of {expected} left)",
                table.treatments[t], units.counts[t]
            )
        })
        .collect();
    (!short.is_empty()).then(|| {
        let message = format!(
            "units were lost: {}; if the treatment caused it, the comparison is biased",
            short.join(", ")
        );
        warning("units_lost", Severity::Serious, message)
    })
}
