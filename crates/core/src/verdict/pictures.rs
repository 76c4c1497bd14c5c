//! What of a measure runs over days or doses: growth, who had it by which day, what each dose gave.
//! Points as they were recorded, the curve that goes with them, and a sentence that says what both
//! are.

use super::figures::{dots, figures};
use crate::catalogue::measures::Source;
use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::records::CropNumber;
use iron_twin_judge::result::{DoseOut, EnoughOut};
use iron_twin_judge::wording::trimmed;
use iron_twin_stats::growth::{Growth, Shape, fit, relative_growth_rate};
use iron_twin_stats::survival::{Curve, Lifetime};
use iron_twin_stats::turnbull::{Spread, Window};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::words::and;
use serde::Serialize;
use std::collections::BTreeMap;

/// What a picture shows.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Shown {
    /// The size by day.
    Growth,
    /// The share that had it by each day, %.
    Steps,
    /// The response to each dose.
    Doses,
}

/// A line of a picture.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = PictureLine))]
pub struct Line {
    /// Which treatment; null for a line through all of them.
    pub of: Option<TreatmentIndex>,
    /// Days or doses, rising.
    pub x: Vec<f64>,
    /// Values.
    pub y: Vec<f64>,
}

/// A point of a picture.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = PicturePoint))]
pub struct Point {
    /// Of which treatment.
    pub of: TreatmentIndex,
    /// Day or dose.
    pub x: f64,
    /// Value: of a unit, or the mean of the units of a day.
    pub y: f64,
    /// Lowest and highest of the units, where it is a mean.
    pub reach: Option<[f64; 2]>,
}

/// A picture of a measure.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = MeasurePicture))]
pub struct Picture {
    /// What it shows.
    pub shown: Shown,
    /// Unit of what runs to the right: days or that of the dose.
    pub across: &'static str,
    /// Unit of what runs upwards.
    pub up: &'static str,
    /// Lines.
    pub lines: Vec<Line>,
    /// Points.
    pub points: Vec<Point>,
    /// The dose that is enough, with its limits; null elsewhere.
    pub enough: Option<EnoughOut>,
    /// What it is, and what can be read from it.
    pub said: Vec<String>,
}

/// A figure that stands for a mean and carries no limits: two digits, or whole.
fn short(value: f64) -> String {
    if value.abs() < 10.0 {
        format!("{value:.1}")
    } else {
        format!("{value:.0}")
    }
}

/// Points of a smooth line.
const SMOOTH: u32 = 60;

fn smooth(from: f64, to: f64, y: impl Fn(f64) -> f64) -> (Vec<f64>, Vec<f64>) {
    (0..=SMOOTH)
        .map(|n| from + (to - from) * f64::from(n) / f64::from(SMOOTH))
        .map(|x| (x, y(x)))
        .unzip()
}

/// The pictures of a measure beside its dots; `dose` is what was found of its doses, where
/// treatments are a ladder of them. Empty before the key is open, and where nothing of it runs over
/// days or doses.
#[must_use]
pub fn pictures(
    trial: &Trial,
    judged: Judged,
    crop: Option<CropNumber>,
    dose: Option<&DoseOut>,
) -> Vec<Picture> {
    if trial.reveal.is_none() {
        return Vec::new();
    }
    let growth = match judged.measure.source {
        Source::Last(key) | Source::Gain(key) | Source::Area(key) | Source::RelativeGrowth(key) => {
            growth(trial, key, judged, crop)
        }
        _ => None,
    };
    let steps = matches!(judged.measure.source, Source::FirstSeen(_))
        .then(|| steps(trial, judged, crop))
        .flatten();
    growth
        .into_iter()
        .chain(steps)
        .chain(dose.and_then(|found| doses(trial, judged, crop, found)))
        .collect()
}

fn standing(trial: &Trial, of: TreatmentIndex) -> Vec<UnitIndex> {
    trial
        .each_unit()
        .filter(|(_, u)| u.treatment == of && u.lost.is_none())
        .map(|(unit, _)| unit)
        .collect()
}

/// The reading of a unit on each day, its samples by their mean.
fn by_day(
    trial: &Trial,
    unit: UnitIndex,
    key: &str,
    crop: Option<CropNumber>,
) -> BTreeMap<u32, f64> {
    let mut days: BTreeMap<u32, Vec<f64>> = BTreeMap::new();
    for sample in trial.plan.ask.samples() {
        let own: BTreeMap<u32, f64> = trial.of_unit(unit).of(key, crop, sample).collect();
        own.into_iter()
            .for_each(|(day, value)| days.entry(day).or_default().push(value));
    }
    days.into_iter()
        .map(|(day, own)| (day, own.iter().sum::<f64>() / own.len() as f64))
        .collect()
}

/// Means of a treatment by day, on days when most of its units were read: fewer would not be the
/// same units.
fn means(trial: &Trial, of: TreatmentIndex, key: &str, crop: Option<CropNumber>) -> Vec<Point> {
    let units: Vec<BTreeMap<u32, f64>> = standing(trial, of)
        .into_iter()
        .map(|unit| by_day(trial, unit, key, crop))
        .filter(|own| !own.is_empty())
        .collect();
    let mut days: BTreeMap<u32, Vec<f64>> = BTreeMap::new();
    units
        .iter()
        .flatten()
        .for_each(|(day, value)| days.entry(*day).or_default().push(*value));
    let most = days
        .into_iter()
        .filter(|(_, own)| 2 * own.len() > units.len());
    let point = |(day, own): (u32, Vec<f64>)| {
        let (low, high) = own
            .iter()
            .fold((f64::MAX, f64::MIN), |(a, b), v| (a.min(*v), b.max(*v)));
        let y = own.iter().sum::<f64>() / own.len() as f64;
        Point {
            of,
            x: f64::from(day),
            y,
            reach: Some([low, high]),
        }
    };
    most.map(point).collect()
}

/// The curve through the means, where one fits. Grades go by steps, and no curve leads through
/// them.
fn curve_of(judged: Judged, track: &[(f64, f64)]) -> Option<Growth> {
    let is_size = judged.measure.kind == Kind::Amount;
    fit(Shape::Logistic, track, 0.95)
        .ok()
        .filter(|own| is_size && !own.still_rising)
}

/// A logistic curve as a line between two days.
fn drawn(of: TreatmentIndex, own: &Growth, (first, last): (f64, f64)) -> Line {
    let (top, middle, scale) = (own.asymptote.value, own.midpoint.value, own.scale.value);
    let (x, y) = smooth(first, last, |day| {
        top / (1.0 + ((middle - day) / scale).exp())
    });
    Line { of: Some(of), x, y }
}

/// Growth over the days on which it was read, where those are three or more.
fn growth(
    trial: &Trial,
    key: &'static str,
    judged: Judged,
    crop: Option<CropNumber>,
) -> Option<Picture> {
    let reading = crate::catalogue::readings::find(key)?;
    let (mut lines, mut points, mut told) = (Vec::new(), Vec::new(), Vec::new());
    let mut curved = false;
    for of in trial.plan.sheet.indices() {
        let own = means(trial, of, key, crop);
        let track: Vec<(f64, f64)> = own.iter().map(|p| (p.x, p.y)).collect();
        if track.is_empty() {
            continue;
        }
        let name = &trial.plan.sheet.treatments[of].name;
        let (line, curve, said) = track_of(of, judged, reading.unit, &track);
        curved |= curve;
        lines.push(line);
        told.extend(said.map(|said| format!("{name} {said}")));
        points.extend(own);
    }
    let days = points
        .iter()
        .map(|p| p.x as u32)
        .collect::<std::collections::BTreeSet<u32>>();
    if days.len() < 3 {
        return None;
    }
    let units = trial.plan.rack.kind.units();
    let line = if curved {
        "a logistic curve through the means, where one fits"
    } else {
        "lines from mean to mean"
    };
    let what = format!(
        "Points are means of the {units} of a day, bars reach from the lowest to the highest; \
         {line}."
    );
    // The rates stand for the means alone: how far they can be trusted is told by their own
    // measure.
    let rates = (!told.is_empty() && judged.measure.kind == Kind::Amount).then(|| {
        format!(
            "Relative growth from the first day to the last, by the means: {}.",
            told.join("; ")
        )
    });
    let said = std::iter::once(what).chain(rates).collect();
    Some(Picture {
        shown: Shown::Growth,
        across: "days",
        up: reading.unit,
        lines,
        points,
        enough: None,
        said,
    })
}

/// The line of one treatment, whether it is a curve, and what is said of it. Grades go by steps, and
/// no curve leads through them.
fn track_of(
    of: TreatmentIndex,
    judged: Judged,
    unit: &str,
    track: &[(f64, f64)],
) -> (Line, bool, Option<String>) {
    let mut said = Vec::new();
    if let Ok(rate) = relative_growth_rate(track) {
        said.push(format!("{} % a day", short(100.0 * rate)));
    }
    let curve = curve_of(judged, track);
    let line = match (&curve, track.first(), track.last()) {
        (Some(own), Some(first), Some(last)) => {
            let (top, middle) = (own.asymptote.value, own.midpoint.value);
            said.push(format!(
                "fastest on day {middle:.1}, towards {} {unit}",
                short(top)
            ));
            drawn(of, own, (first.0, last.0))
        }
        _ => {
            let (x, y) = track.iter().copied().unzip();
            Line { of: Some(of), x, y }
        }
    };
    let said = Some(said.join(", ")).filter(|said| !said.is_empty());
    (line, curve.is_some(), said)
}

/// The share of a treatment that had it by each day: exact days step by step, days between two
/// looks by straight lines, as the comparison takes them.
fn steps(trial: &Trial, judged: Judged, crop: Option<CropNumber>) -> Option<Picture> {
    let all: Vec<_> = trial
        .plan
        .ask
        .samples()
        .flat_map(|sample| figures(trial, judged, crop, sample).into_iter().enumerate())
        .collect();
    let seen = || {
        all.iter()
            .filter_map(|(unit, f)| Some((*unit, f.as_ref()?.value, f.as_ref()?.seen?)))
    };
    let between = seen().any(|(.., own)| own.after.is_some());
    let last = seen().map(|(_, day, _)| day).fold(0.0, f64::max);
    let mut lines = Vec::new();
    let (mut halves, mut never) = (Vec::new(), Vec::new());
    for of in trial.plan.sheet.indices() {
        let own: Vec<_> = seen()
            .filter(|(unit, ..)| trial.units[UnitIndex(*unit)].treatment == of)
            .collect();
        if own.is_empty() {
            continue;
        }
        let (line, half) = if between {
            by_windows(of, &own, last)?
        } else {
            by_days(of, &own, last)?
        };
        let name = &trial.plan.sheet.treatments[of].name;
        match half {
            Some(day) => halves.push(format!("{name} by day {}", trimmed(day, 1))),
            None => never.push(name.clone()),
        }
        lines.push(line);
    }
    if lines.is_empty() || last <= 0.0 {
        return None;
    }
    let said = steps_said(between, &halves, &never, last);
    Some(Picture {
        shown: Shown::Steps,
        across: "days",
        up: "%",
        lines,
        points: Vec::new(),
        enough: None,
        said,
    })
}

/// By when half of them had it, in words.
fn steps_said(between: bool, halves: &[String], never: &[String], last: f64) -> Vec<String> {
    let how = if between {
        "; between two looks nobody knows the day, so the line is straight there"
    } else {
        ""
    };
    let mut said = vec![format!("How many had it by each day{how}.")];
    if !halves.is_empty() {
        said.push(format!("Half of them: {}.", halves.join(", ")));
    }
    if !never.is_empty() {
        said.push(format!(
            "Not half of {} by day {}.",
            and(never),
            trimmed(last, 1)
        ));
    }
    said
}

/// The share that had it, where the day lies between two looks, and the day by which half had.
fn by_windows(
    of: TreatmentIndex,
    own: &[(usize, f64, super::figures::Seen)],
    last: f64,
) -> Option<(Line, Option<f64>)> {
    let window = |(_, day, own): &(usize, f64, super::figures::Seen)| match own.yes {
        true => Window {
            after: own.after.unwrap_or(0.0).min(*day),
            by: *day,
        },
        false => Window {
            after: *day,
            by: f64::INFINITY,
        },
    };
    let spread = Spread::of(&own.iter().map(window).collect::<Vec<_>>()).ok()?;
    let mut x: Vec<f64> = spread
        .cells
        .iter()
        .flat_map(|c| [c.from, c.to])
        .filter(|d| d.is_finite())
        .collect();
    x.extend([0.0, last]);
    x.sort_by(f64::total_cmp);
    x.dedup();
    let y = x
        .iter()
        .map(|day| 100.0 * (1.0 - spread.remaining(*day)))
        .collect();
    Some((Line { of: Some(of), x, y }, spread.median()))
}

/// The share that had it by exact days, and the day by which half had.
fn by_days(
    of: TreatmentIndex,
    own: &[(usize, f64, super::figures::Seen)],
    last: f64,
) -> Option<(Line, Option<f64>)> {
    let lifetimes: Vec<Lifetime> = own
        .iter()
        .map(|(_, day, own)| Lifetime {
            day: *day,
            seen: own.yes,
        })
        .collect();
    let curve = Curve::of(&lifetimes).ok()?;
    let (mut x, mut y, mut by) = (vec![0.0], vec![0.0], 0.0);
    for step in &curve.steps {
        let now = 100.0 * (1.0 - step.remaining);
        x.extend([step.day, step.day]);
        y.extend([by, now]);
        by = now;
    }
    x.push(last);
    y.push(by);
    Some((Line { of: Some(of), x, y }, curve.median()))
}

/// The response to each dose, unit by unit, with the curve that the doses' means speak for.
fn doses(
    trial: &Trial,
    judged: Judged,
    crop: Option<CropNumber>,
    found: &DoseOut,
) -> Option<Picture> {
    let ladder = trial.plan.sheet.dose_ladder()?;
    let values = dots(trial, judged, crop);
    let points: Vec<Point> = trial
        .units
        .iter()
        .zip(values)
        .filter_map(|(u, y)| {
            Some(Point {
                of: u.treatment,
                x: *u.treatment.of(&ladder.doses)?,
                y: y?,
                reach: None,
            })
        })
        .collect();
    let drawn = &found.line;
    let line = Line {
        of: None,
        x: drawn.doses.clone(),
        y: drawn.values.clone(),
    };
    let curve = if drawn.averaged {
        "the line is the mean of all curves that the figures leave standing, each by what speaks \
         for it"
    } else {
        "the line is the curve that lies nearest"
    };
    let said = vec![format!(
        "Each point is a {}; {curve}.",
        trial.plan.rack.kind.unit()
    )];
    let enough = found.enough.clone();
    Some(Picture {
        shown: Shown::Doses,
        across: ladder.unit,
        up: judged.measure.unit,
        lines: vec![line],
        points,
        enough,
        said,
    })
}

#[cfg(test)]
#[path = "pictures_tests.rs"]
mod tests;
