//! Growth compared: each unit's track over days gives it features (how large, when, how fast, how
//! much of it for how long), and the features are compared between treatments as any amount is.
//! Trays are counted, not days: the days of one tray are one track.

use super::analysis::check;
use super::kinds::amount::compare;
use super::result::Analysis;
use super::sentence::Terms;
use super::table::{Dropped, Table};
use crate::question::{AnalyseError, Question};
use iron_twin_stats::StatsError;
use iron_twin_stats::growth::{self, Growth, Shape};
use iron_twin_stats::holm::holm;
use iron_twin_stats::least_squares::Stop;
use iron_twin_terms::goal::Better;
use serde::Serialize;
use std::collections::BTreeMap;

/// A fitted parameter with its limits; null where the days do not pin it down.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Parameter {
    /// The estimate.
    pub value: f64,
    /// Lower limit.
    pub low: Option<f64>,
    /// Upper limit.
    pub high: Option<f64>,
}

impl From<growth::Feature> for Parameter {
    fn from(feature: growth::Feature) -> Self {
        let known = |v: f64| v.is_finite().then_some(v);
        Self {
            value: feature.value,
            low: known(feature.low),
            high: known(feature.high),
        }
    }
}

/// The curve of one unit, and how it was found.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct UnitCurve {
    /// The unit.
    pub unit: String,
    /// Its treatment.
    pub treatment: String,
    /// Days measured.
    pub days: usize,
    /// Size that growth tends to.
    pub asymptote: Option<Parameter>,
    /// Day of fastest growth.
    pub midpoint: Option<Parameter>,
    /// Days over which growth runs its course.
    pub scale: Option<Parameter>,
    /// Residual standard deviation.
    pub residual_sd: Option<f64>,
    /// Steps of the solver.
    pub steps: Option<usize>,
    /// How the solver stopped, or why there is no curve.
    pub stopped: String,
    /// Growth had not slowed down yet: the asymptote is a guess.
    pub still_rising: bool,
}

/// One feature compared between treatments.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct FeatureCompared {
    /// `asymptote`, `midpoint`, `scale`, `relative_growth_rate` or `area_under_track`.
    pub feature: &'static str,
    /// In words.
    pub name: &'static str,
    /// The comparison; null where too few units have the feature.
    pub analysis: Option<Analysis>,
    /// Why there is none.
    pub why_not: Option<String>,
}

/// Growth compared. Serialises to the format `iron-twin/growth/1`.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct GrowthCompared {
    /// Always `iron-twin/growth/1`.
    pub format: &'static str,
    /// `logistic` or `gompertz`: the shape that leaves less, over all units.
    pub shape: &'static str,
    /// Sum of squares that each shape leaves over the units that both fit; logistic, Gompertz.
    pub left_over: [f64; 2],
    /// Every unit's curve.
    pub units: Vec<UnitCurve>,
    /// Every feature, Holm-adjusted among themselves.
    pub features: Vec<FeatureCompared>,
}

/// The features, with whether more of it is better where larger plants are, and whether a margin in
/// the measure's unit means anything for it.
const FEATURES: [(&str, &str, bool, bool); 5] = [
    ("asymptote", "size that growth tends to", true, true),
    ("midpoint", "day of fastest growth", false, false),
    (
        "scale",
        "days over which growth runs its course",
        false,
        false,
    ),
    (
        "relative_growth_rate",
        "relative growth rate a day",
        true,
        false,
    ),
    ("area_under_track", "area under the track", true, false),
];

struct Track {
    unit: usize,
    first_row: usize,
    points: Vec<(f64, f64)>,
}

/// Compares the growth of treatments, unit by unit.
///
/// `table` holds one row for each unit and day, with the day beside it. The shape with the smaller
/// sum of squares over all units is taken for all, because parameters of two shapes do not compare.
///
/// # Errors
/// [`AnalyseError::NeedsDays`] for a table without units or days; else as
/// [`super::analysis::analyse`].
///
/// ```
/// use iron_twin_judge::question::Question;
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
/// let size = growth.features[0].analysis.as_ref().unwrap();
/// assert!((size.contrasts[0].estimate - 19.0).abs() < 1e-6 && size.contrasts[0].df == 2.0);
/// ```
pub fn compare_growth(table: &Table, question: &Question) -> Result<GrowthCompared, AnalyseError> {
    if !table.has_units || !table.has_days {
        return Err(AnalyseError::NeedsDays);
    }
    let tracks = tracks(table);
    let fits = |shape| -> Vec<Result<Growth, StatsError>> {
        tracks
            .iter()
            .map(|t| growth::fit(shape, &t.points, question.confidence))
            .collect()
    };
    let both = [fits(Shape::Logistic), fits(Shape::Gompertz)];
    let mut left_over = [0.0; 2];
    let mut fitted = [0usize; 2];
    for (i, track) in tracks.iter().enumerate() {
        for (shape, fits) in both.iter().enumerate() {
            fitted[shape] += usize::from(fits[i].is_ok());
            if let (Ok(own), Ok(_)) = (&fits[i], &both[1 - shape][i]) {
                let df = track.points.len() as f64 - 3.0;
                left_over[shape] += own.residual_sd * own.residual_sd * df;
            }
        }
    }
    let second = fitted[1] > fitted[0] || (fitted[1] == fitted[0] && left_over[1] < left_over[0]);
    let curves = &both[usize::from(second)];
    let units = tracks
        .iter()
        .zip(curves)
        .map(|(track, curve)| unit_curve(table, track, curve))
        .collect();
    let mut features: Vec<FeatureCompared> = FEATURES
        .iter()
        .map(|feature| compared(table, question, &tracks, curves, *feature))
        .collect();
    adjust(&mut features);
    Ok(GrowthCompared {
        format: "iron-twin/growth/1",
        shape: if second { "gompertz" } else { "logistic" },
        left_over,
        units,
        features,
    })
}

fn tracks(table: &Table) -> Vec<Track> {
    let mut by_unit: BTreeMap<usize, Track> = BTreeMap::new();
    for (i, (o, beside)) in table.observations.iter().zip(&table.beside).enumerate() {
        let track = by_unit.entry(o.unit).or_insert(Track {
            unit: o.unit,
            first_row: i,
            points: Vec::new(),
        });
        track.points.push((beside.day, o.value));
    }
    let mut tracks: Vec<Track> = by_unit.into_values().collect();
    tracks
        .iter_mut()
        .for_each(|t| t.points.sort_by(|a, b| a.0.total_cmp(&b.0)));
    tracks
}

fn unit_curve(table: &Table, track: &Track, curve: &Result<Growth, StatsError>) -> UnitCurve {
    let fitted = curve.as_ref().ok();
    UnitCurve {
        unit: table.units[track.unit].clone(),
        treatment: table.treatments[table.observations[track.first_row].treatment].clone(),
        days: track.points.len(),
        asymptote: fitted.map(|g| g.asymptote.into()),
        midpoint: fitted.map(|g| g.midpoint.into()),
        scale: fitted.map(|g| g.scale.into()),
        residual_sd: fitted.map(|g| g.residual_sd).filter(|sd| sd.is_finite()),
        steps: fitted.map(|g| g.steps),
        stopped: match curve {
            Ok(Growth {
                stop: Stop::Level, ..
            }) => "at the bottom".into(),
            Ok(Growth {
                stop: Stop::Settled,
                ..
            }) => "steps no longer changed it".into(),
            Err(error) => error.to_string(),
        },
        still_rising: fitted.is_some_and(|g| g.still_rising),
    }
}

/// A feature of one unit, or why it has none.
fn feature_of(
    feature: &str,
    track: &Track,
    curve: &Result<Growth, StatsError>,
) -> Result<f64, String> {
    let of_curve = |value: fn(&Growth) -> f64| match curve {
        Ok(growth) if growth.still_rising => Err("growth had not slowed down yet".to_owned()),
        Ok(growth) => Ok(value(growth)),
        Err(error) => Err(error.to_string()),
    };
    match feature {
        "asymptote" => of_curve(|g| g.asymptote.value),
        "midpoint" => of_curve(|g| g.midpoint.value),
        "scale" => of_curve(|g| g.scale.value),
        "relative_growth_rate" => {
            growth::relative_growth_rate(&track.points).map_err(|e| e.to_string())
        }
        _ => growth::area_under(&track.points).map_err(|e| e.to_string()),
    }
}

fn compared(
    table: &Table,
    question: &Question,
    tracks: &[Track],
    curves: &[Result<Growth, StatsError>],
    (feature, name, like_size, in_units): (&'static str, &'static str, bool, bool),
) -> FeatureCompared {
    let own = with_feature(table, tracks, curves, feature);
    let without = |why_not: String| FeatureCompared {
        feature,
        name,
        analysis: None,
        why_not: Some(why_not),
    };
    let missing =
        (0..own.treatments.len()).find(|&t| own.observations.iter().all(|o| o.treatment != t));
    if let Some(missing) = missing {
        let first = own
            .dropped
            .first()
            .map_or_else(String::new, |d| d.why.clone());
        return without(format!(
            "no unit of {} has it ({first})",
            own.treatments[missing]
        ));
    }
    let turned = match (question.better, like_size) {
        (better, true) => better,
        (Better::Higher, false) => Better::Lower,
        (Better::Lower, false) => Better::Higher,
    };
    let percent = question
        .margin
        .filter(|m| in_units || matches!(m, iron_twin_terms::quantity::Margin::Percent(_)));
    let asked = Question {
        better: turned,
        margin: percent,
        ..question.clone()
    };
    // Midpoint and scale are days: a treatment takes less of them, it does not give less.
    let terms = if like_size {
        Terms::Amount
    } else {
        Terms::Days
    };
    match check(&own, &asked).and_then(|()| compare(&own, &asked, terms)) {
        Ok(analysis) => FeatureCompared {
            feature,
            name,
            analysis: Some(analysis),
            why_not: None,
        },
        Err(error) => without(error.to_string()),
    }
}

/// The table with a feature of each track in the place of its sizes.
fn with_feature(
    table: &Table,
    tracks: &[Track],
    curves: &[Result<Growth, StatsError>],
    feature: &str,
) -> Table {
    let mut own = Table {
        observations: Vec::new(),
        beside: Vec::new(),
        has_units: false,
        rows: tracks.len(),
        ..table.clone()
    };
    own.dropped.clear();
    for (track, curve) in tracks.iter().zip(curves) {
        match feature_of(feature, track, curve) {
            Ok(value) => {
                own.observations.push(iron_twin_stats::linear::Observation {
                    value,
                    ..table.observations[track.first_row]
                });
                own.beside.push(table.beside[track.first_row]);
            }
            Err(why) => own.dropped.push(Dropped {
                row: 0,
                why: format!("{}: {why}", table.units[track.unit]),
            }),
        }
    }
    own
}

/// Features of one track are several looks at one thing: Holm among them, treatment by treatment.
fn adjust(features: &mut [FeatureCompared]) {
    let count = features
        .iter()
        .filter_map(|f| f.analysis.as_ref())
        .map(|a| a.contrasts.len())
        .max()
        .unwrap_or(0);
    for contrast in 0..count {
        let mut own: Vec<_> = features
            .iter_mut()
            .filter_map(|f| f.analysis.as_mut()?.contrasts.get_mut(contrast))
            .collect();
        let p: Vec<Option<f64>> = own
            .iter()
            .map(|c| c.simultaneous.as_ref().map_or(c.p, |s| Some(s.p)))
            .collect();
        own.iter_mut()
            .zip(holm(&p))
            .for_each(|(c, adjusted)| c.p_holm = adjusted);
    }
}

#[cfg(test)]
mod tests {
    use super::super::table::{Columns, read};
    use super::super::verdict::Verdict;
    use super::*;

    /// Logistic tracks of four trays a side, the fed ones taller and three days earlier.
    fn csv(last_day: u32) -> String {
        let mut csv = "feed,tray,day,mm\n".to_owned();
        for tray in 0..8u32 {
            let fed = tray % 2 == 1;
            let wobble = f64::from(tray / 2) - 1.5;
            let (top, middle) = (
                if fed { 120.0 } else { 100.0 } + wobble,
                if fed { 6.0 } else { 9.0 } + 0.2 * wobble,
            );
            for day in (1..=last_day).step_by(2) {
                let noise = 0.3 * f64::from((day * 7 + tray * 3) % 5) - 0.6;
                let mm = top / (1.0 + ((middle - f64::from(day)) / 1.8).exp()) + noise;
                csv += &format!(
                    "{},t{tray},{day},{mm:.2}\n",
                    if fed { "full" } else { "water" }
                );
            }
        }
        csv
    }

    fn columns() -> Columns {
        Columns {
            measure: "mm".into(),
            treatment: "feed".into(),
            control: "water".into(),
            unit: Some("tray".into()),
            day: Some("day".into()),
            ..Columns::default()
        }
    }

    #[test]
    fn features_are_compared_by_trays() {
        let table = read(csv(19).as_bytes(), &columns()).unwrap();
        let out = compare_growth(
            &table,
            &Question {
                margin: "5%".parse().ok(),
                ..Question::default()
            },
        )
        .unwrap();
        assert_eq!((out.shape, out.units.len()), ("logistic", 8));
        assert!(out.left_over[0] < out.left_over[1]);
        let of = |name: &str| {
            out.features
                .iter()
                .find(|f| f.feature == name)
                .unwrap()
                .analysis
                .as_ref()
                .unwrap()
                .contrasts[0]
                .clone()
        };
        let (top, middle) = (of("asymptote"), of("midpoint"));
        assert!(
            (top.estimate - 20.0).abs() < 1.0 && top.df == 6.0,
            "{} {}",
            top.estimate,
            top.df
        );
        assert_eq!(top.verdict, Verdict::BetterByMargin);
        // Three days earlier is a gain, though the figure is negative.
        assert!((middle.estimate + 3.0).abs() < 0.2);
        assert_eq!(middle.verdict, Verdict::BetterByMargin);
        assert!(top.p_holm.unwrap() >= top.p.unwrap());
    }

    #[test]
    fn growth_that_has_not_slowed_down_gives_no_asymptote_but_an_area() {
        let table = read(csv(7).as_bytes(), &columns()).unwrap();
        let out = compare_growth(&table, &Question::default()).unwrap();
        let of = |name: &str| out.features.iter().find(|f| f.feature == name).unwrap();
        assert!(
            of("asymptote").analysis.is_none(),
            "{:?}",
            out.units.iter().map(|u| u.still_rising).collect::<Vec<_>>()
        );
        assert!(of("asymptote").why_not.as_ref().unwrap().contains("water"));
        assert!(of("area_under_track").analysis.is_some());
    }

    #[test]
    fn units_and_days_are_needed() {
        let table = read(
            csv(9).as_bytes(),
            &Columns {
                day: None,
                ..columns()
            },
        )
        .unwrap();
        assert_eq!(
            compare_growth(&table, &Question::default()),
            Err(AnalyseError::NeedsDays)
        );
    }
}
