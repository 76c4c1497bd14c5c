//! A trial as plain CSV that anybody can recompute.

use iron_twin_judge::table::FORMULA;

/// One unit with its final figures.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ExportRow {
    /// Blind code.
    pub unit: String,
    /// Which of the crops that share the unit; None where it holds one.
    pub crop: Option<String>,
    /// Which of the samples followed inside the unit, from 1; None where it is read as a whole.
    pub sample: Option<u32>,
    /// The fixture that serves it with others of its level and was dealt as a whole, for instance
    /// `level 2`; None where it was dealt by itself.
    pub fixture: Option<String>,
    /// Block, for instance `level 2`; empty where units are compared over the whole rack.
    pub block: String,
    /// Level, 1 the lowest.
    pub level: u32,
    /// Slot, 1 at the left.
    pub slot: u32,
    /// Starting size; None where none was taken.
    pub start: Option<f64>,
    /// Light of its place, µmol/m²/s, where the plan takes it out of the differences.
    pub light: Option<f64>,
    /// Treatment; None until the reveal.
    pub treatment: Option<String>,
    /// Dose that it got, where treatments are a ladder of doses; None until the reveal.
    pub dose: Option<f64>,
    /// Level of each crossed factor, in the order of their columns.
    pub levels: Vec<String>,
    /// What stands in the columns of the measures; empty where nothing was recorded.
    pub cells: Vec<String>,
}

/// A cell that a spreadsheet would take for a formula, with an apostrophe before it; numbers stay
/// as they are.
fn guarded(cell: &str) -> String {
    let formula = cell.starts_with(FORMULA) && cell.trim().parse::<f64>().is_err();
    if formula {
        format!("'{cell}")
    } else {
        cell.to_owned()
    }
}

/// Writes the export: one row a unit, treatment left out until the reveal.
///
/// Numbers come with all digits that they carry, so that `iron-twin analyse` gives the very figures
/// shown.
///
/// ```
/// use iron_twin_core::verdict::table::{export, ExportRow};
/// let row = ExportRow {
///     unit: "K".into(), crop: None, sample: None, fixture: None, block: "level 1".into(), level: 1, slot: 3, start: None, light: None,
///     treatment: Some("plain water".into()),
///     dose: None, levels: vec![], cells: vec!["97.3".into()],
/// };
/// let csv = export(&[row], &[], &["harvest_weight_g".into()]);
/// assert_eq!(csv, "unit,block,level,slot,treatment,harvest_weight_g\nK,level 1,1,3,plain water,97.3\n");
/// ```
#[must_use]
pub fn export(rows: &[ExportRow], factors: &[String], columns: &[String]) -> String {
    let shown = Shown::of(rows);
    let mut writer = csv::Writer::from_writer(Vec::new());
    // Writing to memory cannot fail.
    let _ = writer.write_record(shown.header(factors, columns));
    for row in rows {
        let record = shown.record(row);
        let _ = writer.write_record(record.iter().map(|cell| guarded(cell)));
    }
    writer
        .into_inner()
        .ok()
        .and_then(|bytes| String::from_utf8(bytes).ok())
        .unwrap_or_default()
}

/// A column that stands in the table only where a row has something for it.
type Optional = (&'static str, fn(&ExportRow) -> Option<String>);

/// Columns before the treatment, and the dose after it.
const OPTIONAL: [Optional; 5] = [
    ("fixture", |r| r.fixture.clone()),
    ("start", |r| r.start.map(|s| s.to_string())),
    ("light", |r| r.light.map(|l| l.to_string())),
    ("crop", |r| r.crop.clone()),
    ("sample", |r| r.sample.map(|n| n.to_string())),
];

/// Which columns a table has.
struct Shown {
    before: Vec<Optional>,
    named: bool,
    doses: bool,
}

impl Shown {
    fn of(rows: &[ExportRow]) -> Self {
        let is_there = |(_, of): &Optional| rows.iter().any(|r| of(r).is_some());
        Self {
            before: OPTIONAL.into_iter().filter(is_there).collect(),
            named: rows.iter().any(|r| r.treatment.is_some()),
            doses: rows.iter().any(|r| r.dose.is_some()),
        }
    }

    fn header(&self, factors: &[String], columns: &[String]) -> Vec<String> {
        let mut header = ["unit", "block", "level", "slot"]
            .map(str::to_owned)
            .to_vec();
        header.extend(self.before.iter().map(|(name, _)| (*name).to_owned()));
        if self.named {
            header.push("treatment".into());
            header.extend_from_slice(factors);
            if self.doses {
                header.push("dose".into());
            }
        }
        header.extend_from_slice(columns);
        header
    }

    fn record(&self, row: &ExportRow) -> Vec<String> {
        let mut record = vec![
            row.unit.clone(),
            row.block.clone(),
            row.level.to_string(),
            row.slot.to_string(),
        ];
        record.extend(
            self.before
                .iter()
                .map(|(_, of)| of(row).unwrap_or_default()),
        );
        if self.named {
            record.push(row.treatment.clone().unwrap_or_default());
            record.extend(row.levels.iter().cloned());
            if self.doses {
                record.push(row.dose.map_or_else(String::new, |d| d.to_string()));
            }
        }
        record.extend(row.cells.iter().cloned());
        record
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use iron_twin_judge::table::{Columns, read};

    fn rows(named: bool) -> Vec<ExportRow> {
        [
            ("K", "plain, \"soft\" water", 97.3.to_string()),
            ("B", "full feed", String::new()),
            ("C", "full feed", (0.1 + 0.2).to_string()),
        ]
        .map(|(unit, treatment, value)| ExportRow {
            unit: unit.into(),
            block: "level 1".into(),
            treatment: named.then(|| treatment.into()),
            cells: vec![value],
            ..ExportRow::default()
        })
        .to_vec()
    }

    #[test]
    fn what_is_written_is_read_back_to_the_last_digit() {
        let csv = export(&rows(true), &[], &["harvest_weight_g".into()]);
        let columns = Columns {
            measure: "harvest_weight_g".into(),
            treatment: "treatment".into(),
            control: "plain, \"soft\" water".into(),
            block: Some("block".into()),
            ..Columns::default()
        };
        let table = read(csv.as_bytes(), &columns).unwrap();
        assert_eq!(table.observations[1].value, 0.1 + 0.2);
        assert_eq!(table.dropped.len(), 1);
    }

    /// A name that a spreadsheet would run as a formula is kept from it, and read back as it was.
    #[test]
    fn names_that_look_like_formulas_are_kept_from_spreadsheets() {
        let mut own = rows(true);
        for (row, name) in own.iter_mut().zip(["=cmd()", "-10 % feed", "-10 % feed"]) {
            row.treatment = Some(name.into());
        }
        own[1].cells = vec!["-3.5".into()];
        let csv = export(&own, &[], &["harvest_weight_g".into()]);
        assert!(
            csv.contains(",'=cmd(),") && csv.contains(",'-10 % feed,-3.5"),
            "{csv}"
        );
        let columns = Columns {
            measure: "harvest_weight_g".into(),
            treatment: "treatment".into(),
            control: "=cmd()".into(),
            ..Columns::default()
        };
        assert_eq!(
            read(csv.as_bytes(), &columns).unwrap().treatments,
            ["=cmd()", "-10 % feed"]
        );
    }

    #[test]
    fn the_blind_export_has_no_treatment_column() {
        let csv = export(&rows(false), &[], &["harvest_weight_g".into()]);
        assert!(!csv.contains("treatment") && !csv.contains("feed"), "{csv}");
    }
}
