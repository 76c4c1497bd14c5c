//! Tell: the trial as plain CSV that anybody can recompute.

use crate::ask::measures::Measure;

/// One unit with its final figures.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ExportRow {
    /// Blind code.
    pub unit: String,
    /// Block, for instance `level 2`.
    pub block: String,
    /// Treatment; None until the reveal.
    pub treatment: Option<String>,
    /// Value of each exported measure, in the order of the columns.
    pub values: Vec<Option<f64>>,
}

/// Writes the export: one row a unit, treatment left out until the reveal.
///
/// The values are written with all digits that they carry, so that `iron-twin analyse` gives the very figures shown.
///
/// ```
/// use iron_twin_core::{ask::measures::harvest_weight, tell::{export, ExportRow}};
/// let row = ExportRow { unit: "K".into(), block: "level 1".into(), treatment: Some("plain water".into()), values: vec![Some(97.3)] };
/// let csv = export(&[row], &[&harvest_weight::MEASURE]);
/// assert_eq!(csv, "unit,block,treatment,harvest_weight_g\nK,level 1,plain water,97.3\n");
/// ```
#[must_use]
pub fn export(rows: &[ExportRow], measures: &[&Measure]) -> String {
    let named = rows.iter().any(|r| r.treatment.is_some());
    let mut writer = csv::Writer::from_writer(Vec::new());
    let mut header = vec!["unit".to_owned(), "block".to_owned()];
    if named {
        header.push("treatment".into());
    }
    header.extend(measures.iter().map(|m| m.column()));
    // Writing to memory cannot fail.
    let _ = writer.write_record(&header);
    for row in rows {
        let mut record = vec![row.unit.clone(), row.block.clone()];
        if named {
            record.push(row.treatment.clone().unwrap_or_default());
        }
        record.extend(row.values.iter().map(|v| v.map_or_else(String::new, |v| v.to_string())));
        let _ = writer.write_record(&record);
    }
    writer.into_inner().ok().and_then(|bytes| String::from_utf8(bytes).ok()).unwrap_or_default()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ask::measures::harvest_weight;
    use crate::judge::table::{Columns, read};

    fn rows(named: bool) -> Vec<ExportRow> {
        [("K", "plain, \"soft\" water", Some(97.3)), ("B", "full feed", None), ("C", "full feed", Some(0.1 + 0.2))]
            .map(|(unit, treatment, value)| ExportRow {
                unit: unit.into(),
                block: "level 1".into(),
                treatment: named.then(|| treatment.into()),
                values: vec![value],
            })
            .to_vec()
    }

    #[test]
    fn what_is_written_is_read_back_to_the_last_digit() {
        let csv = export(&rows(true), &[&harvest_weight::MEASURE]);
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

    #[test]
    fn the_blind_export_has_no_treatment_column() {
        let csv = export(&rows(false), &[&harvest_weight::MEASURE]);
        assert!(!csv.contains("treatment") && !csv.contains("feed"), "{csv}");
    }
}
