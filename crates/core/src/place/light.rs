//! The light map: what each place gets, how even it is, and whether it favours a treatment.

use crate::stores::shelves::lights;
use crate::trial::site::LightScale;
use crate::trial::site::SlotLight;
use crate::trial::space::Position;
use iron_twin_terms::indices::TreatmentIndex;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// Brightest place that is believed, µmol/m²/s: full sun is about 2,000.
pub const MOST_UMOL: f64 = 3000.0;

/// What is wrong with a measured light.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LightError {
    /// Negative, or brighter than the sun.
    #[error("light lies between 0 and {MOST_UMOL} µmol/m²/s, got {0}")]
    OutOfRange(f64),
    /// Lux says nothing about plants without the kind of lamp.
    #[error("lux converts by the kind of light; '{0}' is none that is known")]
    UnknownKind(String),
}

/// A measured light as µmol/m²/s.
///
/// # Errors
/// [`LightError`].
///
/// ```
/// use iron_twin_core::trial::site::LightScale;
/// use iron_twin_core::place::light::umol;
/// // Daylight: 54 lux to a µmol/m²/s (Thimijan and Heins 1983).
/// assert_eq!(umol(5400.0, LightScale::Lux, "daylight").unwrap(), 100.0);
/// assert_eq!(umol(150.0, LightScale::Umol, "").unwrap(), 150.0);
/// assert!(umol(5400.0, LightScale::Lux, "glow-worm").is_err());
/// ```
pub fn umol(value: f64, scale: LightScale, kind: &str) -> Result<f64, LightError> {
    let umol = match scale {
        LightScale::Umol => value,
        LightScale::Lux => {
            value
                / lights::lux_per_umol(kind)
                    .ok_or_else(|| LightError::UnknownKind(kind.to_owned()))?
        }
    };
    if (0.0..=MOST_UMOL).contains(&umol) {
        Ok(umol)
    } else {
        Err(LightError::OutOfRange(umol))
    }
}

/// How even the light of several places is.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Uniformity {
    /// Places measured.
    pub places: usize,
    /// Darkest, µmol/m²/s.
    pub least_umol: f64,
    /// Mean, µmol/m²/s.
    pub mean_umol: f64,
    /// Brightest, µmol/m²/s.
    pub most_umol: f64,
    /// Darkest over mean, 0 to 1: the usual figure for evenness.
    pub min_over_mean: f64,
}

/// How even the light is; None where nothing was measured, or all is dark.
#[must_use]
pub fn uniformity(map: &[SlotLight]) -> Option<Uniformity> {
    let mean_umol = map.iter().map(|l| l.umol).sum::<f64>() / map.len() as f64;
    if map.is_empty() || mean_umol <= 0.0 {
        return None;
    }
    let least_umol = map.iter().map(|l| l.umol).fold(f64::INFINITY, f64::min);
    let most_umol = map.iter().map(|l| l.umol).fold(0.0, f64::max);
    Some(Uniformity {
        places: map.len(),
        least_umol,
        mean_umol,
        most_umol,
        min_over_mean: least_umol / mean_umol,
    })
}

/// Mean light of each treatment, µmol/m²/s; None unless every unit stands in a measured place.
#[must_use]
pub fn by_treatment(
    map: &[SlotLight],
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
) -> Option<Vec<f64>> {
    let mut sums = vec![(0.0, 0usize); treatments];
    for (position, treatment) in units {
        let here = map
            .iter()
            .find(|l| (l.level, l.slot) == (position.level, position.slot))?;
        let own = sums.get_mut(treatment.get())?;
        *own = (own.0 + here.umol, own.1 + 1);
    }
    sums.into_iter()
        .map(|(sum, n)| (n > 0).then(|| sum / n as f64))
        .collect()
}

/// How much more light the brightest level has than the darkest, per cent of the mean of both; None
/// unless two are measured.
#[must_use]
pub fn between_levels(map: &[SlotLight]) -> Option<f64> {
    let mut levels: BTreeMap<u32, Vec<f64>> = BTreeMap::new();
    map.iter()
        .for_each(|l| levels.entry(l.level).or_default().push(l.umol));
    let means: Vec<f64> = levels
        .values()
        .map(|own| own.iter().sum::<f64>() / own.len() as f64)
        .collect();
    (means.len() > 1).then(|| gap_percent(&means))
}

/// By how much the brightest treatment's mean light exceeds the darkest's, in per cent of the mean
/// of both.
#[must_use]
pub fn gap_percent(means: &[f64]) -> f64 {
    let (least, most) = means
        .iter()
        .fold((f64::INFINITY, f64::NEG_INFINITY), |(least, most), &m| {
            (least.min(m), most.max(m))
        });
    if most > 0.0 {
        200.0 * (most - least) / (most + least)
    } else {
        0.0
    }
}

/// Light of a day, mol/m², from µmol/m²/s over so many hours.
///
/// ```
/// use iron_twin_core::place::light::daily_light;
/// // 200 umol/m2/s for 16 h: 11.52 mol/m2.
/// assert!((daily_light(200.0, 16.0) - 11.52).abs() < 1e-12);
/// ```
#[must_use]
pub fn daily_light(ppfd_umol_per_m2_s: f64, hours: f64) -> f64 {
    ppfd_umol_per_m2_s * hours * 3600.0 / 1e6
}

#[cfg(test)]
mod tests {
    use super::*;

    fn map(umol: &[f64]) -> Vec<SlotLight> {
        (1..)
            .zip(umol)
            .map(|(slot, &umol)| SlotLight {
                level: 1,
                slot,
                umol,
                ..SlotLight::default()
            })
            .collect()
    }

    #[test]
    fn evenness_is_darkest_over_mean() {
        let even = uniformity(&map(&[80.0, 100.0, 120.0])).unwrap();
        assert_eq!(
            (even.mean_umol, even.min_over_mean, even.places),
            (100.0, 0.8, 3)
        );
        assert_eq!(uniformity(&[]), None);
        assert_eq!(
            uniformity(&map(&[0.0, 0.0])),
            None,
            "in the dark nothing is even or uneven"
        );
    }

    #[test]
    fn a_treatment_in_the_brighter_places_is_seen() {
        let at = |slot, treatment| (Position { level: 1, slot }, TreatmentIndex(treatment));
        let lights = map(&[80.0, 100.0, 120.0, 100.0]);
        let units = [at(1, 0), at(3, 1), at(2, 0), at(4, 1)];
        let means = by_treatment(&lights, &units, 2).unwrap();
        assert_eq!(means, [90.0, 110.0]);
        assert!((gap_percent(&means) - 20.0).abs() < 1e-12);
        assert_eq!(
            by_treatment(&lights[..3], &units, 2),
            None,
            "a place without a figure says nothing"
        );
        assert_eq!(
            by_treatment(&lights, &units[..1], 2),
            None,
            "a treatment without units has no light"
        );
    }

    #[test]
    fn what_cannot_be_is_refused() {
        assert!(matches!(
            umol(-1.0, LightScale::Umol, ""),
            Err(LightError::OutOfRange(_))
        ));
        assert!(umol(f64::NAN, LightScale::Umol, "").is_err());
        assert!(umol(1e9, LightScale::Lux, "daylight").is_err());
    }
}
