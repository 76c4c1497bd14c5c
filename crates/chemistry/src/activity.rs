//! Activity coefficients of ions after Davies, at 25 °C.

/// Davies' constant at 25 °C, (mol/L)^-1/2, for logarithms to base 10.
pub(super) const DAVIES: f64 = 0.509;
/// Davies' equation is not carried beyond this ionic strength, mol/L: it would turn up again.
pub(super) const MOST_STRENGTH: f64 = 0.5;

/// log10 of the activity coefficient of an ion of this charge at an ionic strength, mol/L.
pub(super) fn log_activity(charge: i32, strength: f64) -> f64 {
    let root = strength.sqrt();
    -DAVIES * f64::from(charge * charge) * (root / (1.0 + root) - 0.3 * strength.min(MOST_STRENGTH))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Handbook values at 0.1 mol/L: potassium chloride 0.770 (Robinson and Stokes, from memory);
    /// Davies' own paper gives 0.78 for single charges at 0.1.
    #[test]
    fn single_charges_at_a_tenth_molar() {
        assert!((10f64.powf(log_activity(1, 0.1)) - 0.78).abs() < 0.01);
        assert_eq!(log_activity(0, 0.1), 0.0);
        assert!((log_activity(2, 0.1) / log_activity(1, 0.1) - 4.0).abs() < 1e-12);
        assert_eq!(log_activity(1, 0.0), 0.0);
    }
}
