//! Several measures side by side: each difference on a scale that a row can share, so that a glance
//! finds where a treatment leads and where it pays for it.

use crate::result::{Analysis, Contrast};
use crate::sentence::interval;
use crate::verdict::Verdict;
use iron_twin_terms::goal::Better;
use iron_twin_terms::kind::Kind;
use serde::Serialize;

/// What one treatment did in one measure, beside the treatment it was compared with.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = SideCell))]
pub struct Cell {
    /// Name of the treatment.
    pub treatment: String,
    /// The difference as it was measured, in the row's unit; null where none can be told.
    pub estimate: Option<f64>,
    /// Lower limit; null where nothing bounds it.
    pub low: Option<f64>,
    /// Upper limit; null where nothing bounds it.
    pub high: Option<f64>,
    /// What was learned.
    pub verdict: Verdict,
}

/// One measure.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = SideRow))]
pub struct Row {
    /// Unit of its differences: `%` of the other, `points`, `days`, or `pairings` of 100 beyond
    /// even.
    pub unit: &'static str,
    /// Which way is better.
    pub better: Better,
    /// The margin in that unit, where the measure has one.
    pub margin: Option<f64>,
    /// Treatment by treatment.
    pub cells: Vec<Cell>,
}

/// How differences of a kind are scaled: by what they are multiplied after what stands for no
/// difference is taken off.
struct Scale {
    unit: &'static str,
    even: f64,
    factor: f64,
}

fn scale(analysis: &Analysis, contrast: &Contrast) -> Scale {
    let unit = |unit, even, factor| Scale { unit, even, factor };
    match (analysis.kind, analysis.scale) {
        (Kind::Share, _) => unit("points", 0.0, 1.0),
        (Kind::Days, _) => unit("days", 0.0, 1.0),
        (Kind::Score, _) => unit("pairings", 0.0, 100.0),
        (_, "ratio") => unit("%", 1.0, 100.0),
        _ => {
            let other = analysis
                .treatments
                .iter()
                .find(|t| t.name == contrast.versus)
                .map(|t| t.adjusted_mean);
            unit(
                "%",
                0.0,
                other
                    .filter(|mean| *mean > 0.0)
                    .map_or(f64::NAN, |mean| 100.0 / mean),
            )
        }
    }
}

/// The row of one measure.
#[must_use]
pub fn row(analysis: &Analysis) -> Row {
    let known = |value: f64| Some(value).filter(|v| v.is_finite());
    let cell = |contrast: &Contrast| {
        let Scale { even, factor, .. } = scale(analysis, contrast);
        let on = |value: f64| known(factor * (value - even));
        let (low, high) = interval(contrast);
        Cell {
            treatment: contrast.treatment.clone(),
            estimate: on(contrast.estimate),
            low: on(low),
            high: on(high),
            verdict: contrast.verdict,
        }
    };
    let own = analysis.contrasts.first().map(|c| scale(analysis, c));
    let margin = analysis
        .margin
        .as_ref()
        .and_then(|m| match m.given.strip_suffix('%') {
            Some(percent) if own.as_ref().is_some_and(|s| s.unit == "%") => {
                percent.trim().parse().ok()
            }
            _ => {
                let even = own.as_ref().map_or(0.0, |s| s.even);
                let absolute = m.absolute.or_else(|| m.given.parse().ok())?;
                // A margin of a ratio has no absolute size.
                known(own.as_ref().map_or(1.0, |s| s.factor) * absolute).filter(|_| even == 0.0)
            }
        });
    Row {
        unit: own.map_or("%", |s| s.unit),
        better: analysis.better,
        margin,
        cells: analysis.contrasts.iter().map(cell).collect(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::analysis::analyse;
    use crate::question::Question;
    use crate::table::{Columns, read};

    fn told(csv: &str, question: Question, out_of: Option<&str>) -> (Analysis, Row) {
        let columns = Columns {
            measure: "y".into(),
            treatment: "t".into(),
            control: "water".into(),
            out_of: out_of.map(str::to_owned),
            ..Columns::default()
        };
        let columns = Columns {
            kind: if out_of.is_some() {
                Kind::Share
            } else {
                columns.kind
            },
            ..columns
        };
        let analysis = analyse(&read(csv.as_bytes(), &columns).unwrap(), &question).unwrap();
        let row = row(&analysis);
        (analysis, row)
    }

    const AMOUNTS: &str = "t,y\nwater,95\nwater,101\nwater,104\nfeed,128\nfeed,133\nfeed,129\n";

    #[test]
    fn amounts_are_told_in_per_cent_of_the_other() {
        let (analysis, row) = told(
            AMOUNTS,
            Question {
                margin: "10%".parse().ok(),
                ..Question::default()
            },
            None,
        );
        let (contrast, cell) = (&analysis.contrasts[0], &row.cells[0]);
        assert_eq!(
            (row.unit, row.margin, cell.treatment.as_str()),
            ("%", Some(10.0), "feed")
        );
        // (128 + 133 + 129) / 3 = 130 over (95 + 101 + 104) / 3 = 100.
        assert!((cell.estimate.unwrap() - 30.0).abs() < 1e-9, "{cell:?}");
        assert!((cell.estimate.unwrap() - contrast.percent.unwrap()).abs() < 1e-9);
        assert!(
            (cell.low.unwrap() - contrast.low.unwrap()).abs() < 1e-9,
            "the control's mean is 100"
        );
        assert_eq!(cell.verdict, Verdict::BetterByMargin);
        // In grams the margin is a share of the control as well.
        let (_, row) = told(
            AMOUNTS,
            Question {
                margin: "20".parse().ok(),
                ..Question::default()
            },
            None,
        );
        assert!((row.margin.unwrap() - 20.0).abs() < 1e-9, "20 g of 100 g");
    }

    #[test]
    fn shares_are_told_in_points() {
        let csv = "t,y,n\nwater,60,100\nwater,64,100\nwater,62,100\nfeed,80,100\nfeed,84,100\nfeed,82,100\n";
        let (_, row) = told(
            csv,
            Question {
                margin: "10".parse().ok(),
                ..Question::default()
            },
            Some("n"),
        );
        assert_eq!((row.unit, row.margin), ("points", Some(10.0)));
        assert!(
            (row.cells[0].estimate.unwrap() - 20.0).abs() < 0.1,
            "{row:?}"
        );
    }

    #[test]
    fn what_nothing_bounds_has_no_limits() {
        let (_, row) = told("t,y\nwater,95\nfeed,128\n", Question::default(), None);
        let cell = &row.cells[0];
        assert_eq!(
            (cell.low, cell.high, cell.verdict),
            (None, None, Verdict::CannotTell)
        );
        assert!(
            (cell.estimate.unwrap() - 34.736_842).abs() < 1e-5,
            "33 of 95"
        );
    }
}
