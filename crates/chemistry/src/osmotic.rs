//! Osmotic pressure of a solution: what roots must draw water against.
//!
//! The ideal pressure of all that is dissolved, free ions, pairs and urea, times an osmotic
//! coefficient that follows from Davies' activities by the equation of Gibbs and Duhem. Good to 0.5
//! mol/L of ionic strength, far above any feed: within 1 % for sodium chloride, within 4 % for
//! calcium chloride at 0.1 mol/L.

use super::activity::{DAVIES, MOST_STRENGTH};
use super::conductivity::speciate;
use super::ions::Ions;

/// Gas constant, L kPa / (mol K). Source: CODATA 2018.
const GAS: f64 = 8.314_462_618;

/// Osmotic pressure, kPa: of ions in mmol/L and of uncharged substance (urea) in mmol/L, at a
/// temperature in °C.
///
/// ```
/// use iron_twin_chemistry::ions::{Ion, Ions};
/// use iron_twin_chemistry::osmotic::osmotic_pressure_kpa;
/// let mut salt = Ions::default();
/// salt.add(Ion::Na, 100.0);
/// salt.add(Ion::Cl, 100.0);
/// assert!((osmotic_pressure_kpa(&salt, 0.0, 25.0) - 463.0).abs() < 5.0);
/// ```
#[must_use]
pub fn osmotic_pressure_kpa(ions: &Ions, uncharged_mmol_per_l: f64, celsius: f64) -> f64 {
    let species = speciate(ions, celsius);
    let dissolved = species.dissolved() + 1e-3 * uncharged_mmol_per_l;
    // Sum of c (phi - 1) = -2 A * integral of I f'(I), with f(I) = sqrt(I)/(1 + sqrt(I)) - 0.3 I.
    let strength = species.ionic_strength.min(MOST_STRENGTH);
    let root = strength.sqrt();
    let f = root / (1.0 + root) - 0.3 * strength;
    let integral = strength - 2.0 * root + 2.0 * root.ln_1p() - 0.15 * strength * strength;
    let missing = 2.0 * DAVIES * std::f64::consts::LN_10 * (strength * f - integral);
    GAS * (celsius + 273.15) * (dissolved - missing).max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::ions::Ion;

    /// Osmotic coefficients at 25 °C, 0.1 mol/kg: Robinson and Stokes, Electrolyte Solutions
    /// (1959), appendix 8.10, from memory. Magnesium sulfate shows that pairs count once.
    #[test]
    fn salts_have_the_osmotic_coefficients_of_the_handbook() {
        let cases = [
            (Ion::Na, 1.0, Ion::Cl, 1.0, 0.932, 0.01),
            (Ion::K, 1.0, Ion::NO3, 1.0, 0.906, 0.04),
            (Ion::K, 1.0, Ion::Cl, 1.0, 0.927, 0.015),
            (Ion::Ca, 1.0, Ion::Cl, 2.0, 0.854, 0.035),
            (Ion::Mg, 1.0, Ion::SO4, 1.0, 0.606, 0.06),
        ];
        for (cation, a, anion, b, coefficient, tolerance) in cases {
            let mut ions = Ions::default();
            ions.add(cation, 100.0 * a);
            ions.add(anion, 100.0 * b);
            let ideal = GAS * 298.15 * 0.1 * (a + b);
            let got = osmotic_pressure_kpa(&ions, 0.0, 25.0) / ideal;
            assert!(
                (got - coefficient).abs() < tolerance,
                "{cation:?} {anion:?}: {got} {coefficient}"
            );
        }
    }

    #[test]
    fn urea_counts_and_nothing_presses_nothing() {
        assert_eq!(osmotic_pressure_kpa(&Ions::default(), 0.0, 25.0), 0.0);
        let urea = osmotic_pressure_kpa(&Ions::default(), 10.0, 20.0);
        assert!((urea - GAS * 293.15 * 0.01).abs() < 1e-9);
    }
}
