//! Where each level holds a crop of its own: what each treatment did on each crop, without a
//! verdict of its own.

use super::figures::dots;
use crate::catalogue::measures::Measure;
use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::sheet::SheetTreatment;
use iron_twin_judge::wording::figure;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::words::capitalised;
use serde::Serialize;

/// What one treatment did on one crop.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct CropEffect {
    /// The crop.
    pub crop: String,
    /// Name of the treatment.
    pub treatment: String,
    /// Mean of the treatment less mean of the control, in the measure's unit; shares in points.
    pub difference: f64,
    /// The same, per cent of the control's mean; null where that is not above zero, and for shares.
    pub percent: Option<f64>,
    /// Units of the treatment with a figure.
    pub units: usize,
    /// Units of the control with a figure.
    pub of_control: usize,
    /// In words.
    pub sentence: String,
}

/// The effect of every treatment on every crop, once the key is open; none where levels hold the
/// same crop, for grades, and where neither side has a figure.
#[must_use]
pub fn crop_effects(trial: &Trial, judged: Judged) -> Vec<CropEffect> {
    let measure = judged.measure;
    let rack = &trial.plan.rack;
    let crops = rack.crops_apart();
    let Some(control) = trial.plan.sheet.control() else {
        return Vec::new();
    };
    if crops.len() < 2 || trial.reveal.is_none() || measure.kind == Kind::Score {
        return Vec::new();
    }
    let values = dots(trial, judged, None);
    let mut found = Vec::new();
    for crop in crops {
        let side = |treatment: TreatmentIndex| -> Vec<f64> {
            let own = trial.units.iter().zip(&values);
            let own = own.filter(|(u, _)| {
                u.treatment == treatment
                    && rack
                        .crop_of(u.position.level)
                        .unwrap_or_default()
                        .eq_ignore_ascii_case(crop)
            });
            own.filter_map(|(_, value)| *value).collect()
        };
        // A level of which nothing was said holds the crop of the trial.
        let name = if crop.is_empty() {
            trial.plan.ask.crop.as_str()
        } else {
            crop
        };
        let base = side(control);
        for (t, treatment) in trial.plan.sheet.each().filter(|(t, _)| *t != control) {
            let own = side(t);
            if own.is_empty() || base.is_empty() {
                continue;
            }
            found.push(effect(
                trial,
                measure,
                (name, control, treatment),
                (&own, &base),
            ));
        }
    }
    found
}

/// What one treatment did to one crop.
fn effect(
    trial: &Trial,
    measure: &Measure,
    (name, control, treatment): (&str, TreatmentIndex, &SheetTreatment),
    (own, base): (&[f64], &[f64]),
) -> CropEffect {
    let mean = |values: &[f64]| values.iter().sum::<f64>() / values.len() as f64;
    let difference = mean(own) - mean(base);
    let percent =
        (mean(base) > 0.0 && measure.kind != Kind::Share).then(|| 100.0 * difference / mean(base));
    let unit = if measure.kind == Kind::Share {
        "points"
    } else {
        measure.unit
    };
    let share = percent.map_or(String::new(), |p| format!(" ({p:+.0} %)"));
    let size = format!("{} {unit}", figure(difference.abs()));
    let said = match difference {
        d if d > 0.0 => format!("{} more", size.trim_end()),
        d if d < 0.0 => format!("{} less", size.trim_end()),
        _ => "just as much".to_owned(),
    };
    let sentence = format!(
        "{}: {} {said} than {}{share}, {} against {}.",
        capitalised(name),
        treatment.name,
        trial.plan.sheet.treatments[control].name,
        own.len(),
        base.len()
    );
    let (units, of_control) = (own.len(), base.len());
    let (crop, treatment) = (name.to_owned(), treatment.name.clone());
    CropEffect {
        crop,
        treatment,
        difference,
        percent,
        units,
        of_control,
        sentence,
    }
}
