//! Electrical conductivity of a nutrient solution, from its ions.
//!
//! Each ion's limiting conductivity is lowered by the drag and the lag of its cloud of other ions
//! (Onsager's limiting law, with the finite size of ions in the denominator), after calcium,
//! magnesium and the rest have paired with sulfate, phosphate and bicarbonate. Held against
//! PHREEQC: within 3 % of the reference values, within 3.5 % of 62 solutions from 0.1 to 100 mmol/L
//! and 10 to 35 °C (`chemistry/tests/fixtures/conductivity-phreeqc.json`).

use super::activity::log_activity;
use super::ions::{Ion, Ions};

/// Ion pairs: cation, anion, and log10 of their association constant at 25 °C, mol/L.
///
/// Rounded from the databases that ship with PHREEQC (phreeqc.dat, wateq4f.dat); the sulfates of
/// calcium and magnesium lie within what those two give (2.25 to 2.31, 2.25 to 2.42). Taken as the
/// same from 10 to 35 °C.
const PAIRS: [(Ion, Ion, f64); 9] = [
    (Ion::Ca, Ion::SO4, 2.20),
    (Ion::Mg, Ion::SO4, 2.33),
    (Ion::K, Ion::SO4, 0.60),
    (Ion::Na, Ion::SO4, 0.60),
    (Ion::NH4, Ion::SO4, 1.11),
    (Ion::Ca, Ion::HCO3, 0.59),
    (Ion::Mg, Ion::HCO3, 1.07),
    (Ion::Ca, Ion::H2PO4, 1.41),
    (Ion::Mg, Ion::H2PO4, 1.51),
];

/// Limiting conductivity of a charged pair, S cm² per mole of charge, where none is tabulated.
const PAIR_CONDUCTIVITY: f64 = 60.0;
/// Onsager's relaxation coefficient in water at 25 °C, (mol/L)^-1/2.
const RELAXATION: f64 = 0.2289;
/// Onsager's electrophoretic coefficient in water at 25 °C, S cm²/mol (mol/L)^-1/2: 30.1 by theory,
/// 33.1 fits mixtures.
const ELECTROPHORETIC: f64 = 33.1;
/// Size of ions in the denominator, (mol/L)^-1/2.
const SIZE: f64 = 1.35;
/// Limiting conductivities follow the fluidity of water to this power (Walden's rule would be 1).
const FLUIDITY_POWER: f64 = 0.93;

/// Temperatures for which this holds, °C.
pub const TEMPERATURES_C: std::ops::RangeInclusive<f64> = 0.0..=50.0;

/// Viscosity of water, mPa s. Kestin, Sokolov and Wakeham, J. Phys. Chem. Ref. Data 7 (1978) 941.
fn viscosity(celsius: f64) -> f64 {
    let d = 20.0 - celsius;
    1.002 * 10f64.powf(d / (celsius + 96.0) * (1.2364 - 1.37e-3 * d + 5.7e-6 * d * d))
}

/// Relative permittivity of water. Malmberg and Maryott, J. Res. NBS 56 (1956) 1.
fn permittivity(celsius: f64) -> f64 {
    87.740 - 0.400_08 * celsius + 9.398e-4 * celsius * celsius - 1.410e-6 * celsius.powi(3)
}

/// Permittivity times absolute temperature, against that at 25 °C.
fn screening(celsius: f64) -> f64 {
    permittivity(celsius) * (celsius + 273.15) / (permittivity(25.0) * 298.15)
}

/// Free ions and pairs, mol/L, with their charges.
pub(super) struct Species {
    ions: Vec<(Ion, f64)>,
    pairs: Vec<(i32, f64)>,
    pub(super) ionic_strength: f64,
}

impl Species {
    /// An ion that has paired with nothing, mol/L.
    pub(super) fn free(&self, ion: Ion) -> f64 {
        self.ions
            .iter()
            .find(|(own, _)| *own == ion)
            .map_or(0.0, |(_, c)| *c)
    }

    /// All that is dissolved, each pair counted once, mol/L.
    pub(super) fn dissolved(&self) -> f64 {
        self.ions.iter().map(|(_, c)| c).sum::<f64>()
            + self.pairs.iter().map(|(_, c)| c).sum::<f64>()
    }
}

const MOST_STEPS: usize = 500;

/// Pairs ions by their association constants: damped successive substitution, which settles in some
/// tens of steps.
pub(super) fn speciate(ions: &Ions, celsius: f64) -> Species {
    let total: Vec<(Ion, f64)> = ions
        .present()
        .map(|(ion, mmol)| (ion, 1e-3 * mmol))
        .collect();
    let mut free: Vec<f64> = total.iter().map(|(_, c)| *c).collect();
    let at = |ion: Ion| total.iter().position(|(own, _)| *own == ion);
    let pairs: Vec<(usize, usize, f64)> = PAIRS
        .iter()
        .filter_map(|&(a, b, log_k)| Some((at(a)?, at(b)?, log_k)))
        .collect();
    let charge = |i: usize| total[i].0.charge();
    let mut strength = 0.0;
    let mut bound = vec![0.0; pairs.len()];
    for _ in 0..MOST_STEPS {
        strength = strength_of(&free, &pairs, &bound, charge);
        let log_g = log_activity(1, strength) * screening(celsius).powf(-1.5);
        let constant = |&(a, b, log_k): &(usize, usize, f64)| {
            let squares = charge(a).pow(2) + charge(b).pow(2) - (charge(a) + charge(b)).pow(2);
            10f64.powf(log_k + log_g * f64::from(squares))
        };
        let mut moved: f64 = 0.0;
        let before = free.clone();
        for (i, (_, all)) in total.iter().enumerate() {
            let taken: f64 = pairs
                .iter()
                .filter(|(a, b, _)| *a == i || *b == i)
                .map(|p| constant(p) * before[if p.0 == i { p.1 } else { p.0 }])
                .sum();
            let next = all / (1.0 + taken);
            moved = moved.max((next - before[i]).abs() / all);
            free[i] = 0.5 * (before[i] + next);
        }
        bound = pairs
            .iter()
            .map(|p| constant(p) * free[p.0] * free[p.1])
            .collect();
        if moved < 1e-10 {
            break;
        }
    }
    Species {
        ions: total
            .iter()
            .zip(&free)
            .map(|((ion, _), c)| (*ion, *c))
            .collect(),
        pairs: pairs
            .iter()
            .zip(bound)
            .map(|((a, b, _), c)| (charge(*a) + charge(*b), c))
            .collect(),
        ionic_strength: strength,
    }
}

/// Ionic strength (mol/L) of free ions and of the pairs that are charged still.
fn strength_of(
    free: &[f64],
    pairs: &[(usize, usize, f64)],
    bound: &[f64],
    charge: impl Fn(usize) -> i32,
) -> f64 {
    0.5 * (free
        .iter()
        .enumerate()
        .map(|(i, c)| c * f64::from(charge(i).pow(2)))
        .sum::<f64>()
        + pairs
            .iter()
            .zip(bound)
            .map(|((a, b, _), c)| c * f64::from((charge(*a) + charge(*b)).pow(2)))
            .sum::<f64>())
}

/// Conductivity at a temperature, mS/cm; 0 for no ions. Ions in mmol/L, counted as given: urea,
/// iron and trace elements add nothing. Temperatures outside [`TEMPERATURES_C`] are taken as the
/// nearest inside.
///
/// ```
/// use iron_twin_chemistry::conductivity::conductivity;
/// use iron_twin_chemistry::ions::{Ion, Ions};
/// let mut standard = Ions::default();
/// standard.add(Ion::K, 10.0);
/// standard.add(Ion::Cl, 10.0);
/// // 0.01 mol/L potassium chloride, the calibration solution: 1.413 mS/cm at 25 °C.
/// assert!((conductivity(&standard, 25.0) - 1.413).abs() < 0.014);
/// ```
#[must_use]
pub fn conductivity(ions: &Ions, celsius: f64) -> f64 {
    let celsius = celsius.clamp(*TEMPERATURES_C.start(), *TEMPERATURES_C.end());
    let species = speciate(ions, celsius);
    let root = species.ionic_strength.sqrt();
    let (fluidity, screen) = (viscosity(25.0) / viscosity(celsius), screening(celsius));
    let relaxation = RELAXATION * screen.powf(-1.5);
    let electrophoretic = ELECTROPHORETIC * fluidity * screen.powf(-0.5);
    // An equivalent's conductivity, less what its cloud of other ions holds back.
    let carried = |charge: i32, limiting: f64, molar: f64| {
        let z = f64::from(charge.abs());
        let each = limiting * fluidity.powf(FLUIDITY_POWER) / z;
        let held = (relaxation * each + electrophoretic) * z * root / (1.0 + SIZE * root);
        molar * z * (each - held).max(0.0)
    };
    let ions = species
        .ions
        .iter()
        .filter(|(ion, _)| ion.limiting_conductivity() > 0.0);
    let from_ions: f64 = ions
        .map(|(ion, molar)| carried(ion.charge(), ion.limiting_conductivity(), *molar))
        .sum();
    let charged = species.pairs.iter().filter(|(charge, _)| *charge != 0);
    let from_pairs: f64 = charged
        .map(|(charge, molar)| {
            carried(*charge, PAIR_CONDUCTIVITY * f64::from(charge.abs()), *molar)
        })
        .sum();
    from_ions + from_pairs
}

/// Rise of conductivity that meters allow for a degree, per cent of the value at 25 °C. Common
/// practice, no source.
pub const METER_PERCENT_A_DEGREE: f64 = 2.0;

/// What a meter with the usual linear compensation shows as "at 25 °C" for a solution of another
/// temperature, mS/cm; it errs by some per cent far from 25 °C, since true conductivity does not
/// rise along a line.
///
/// ```
/// use iron_twin_chemistry::conductivity::metered;
/// assert!((metered(1.80, 20.0) - 2.0).abs() < 1e-12);
/// ```
#[must_use]
pub fn metered(at_temperature: f64, celsius: f64) -> f64 {
    at_temperature / (1.0 + 0.01 * METER_PERCENT_A_DEGREE * (celsius - 25.0))
}

/// Scales on which meters show dissolved solids: ppm for one mS/cm.
pub const PPM_SCALES: [f64; 3] = [500.0, 640.0, 700.0];

/// What a meter shows conductivity in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, serde::Serialize, serde::Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum EcScale {
    /// mS/cm at 25 °C.
    #[default]
    #[serde(rename = "ms_per_cm")]
    MilliSiemens,
    /// ppm, 500 for one mS/cm.
    #[serde(rename = "500")]
    Ppm500,
    /// ppm, 640 for one mS/cm.
    #[serde(rename = "640")]
    Ppm640,
    /// ppm, 700 for one mS/cm.
    #[serde(rename = "700")]
    Ppm700,
}

impl EcScale {
    /// What a meter shows, in mS/cm at 25 °C.
    ///
    /// ```
    /// use iron_twin_chemistry::conductivity::EcScale;
    /// assert_eq!(EcScale::Ppm700.ms_per_cm(1050.0), 1.5);
    /// assert_eq!(EcScale::MilliSiemens.ms_per_cm(1.5), 1.5);
    /// ```
    #[must_use]
    pub fn ms_per_cm(self, shown: f64) -> f64 {
        match self {
            Self::MilliSiemens => shown,
            Self::Ppm500 => shown / PPM_SCALES[0],
            Self::Ppm640 => shown / PPM_SCALES[1],
            Self::Ppm700 => shown / PPM_SCALES[2],
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn water_has_the_viscosity_and_permittivity_of_the_handbook() {
        // CRC Handbook, properties of water: 0.8900 mPa s and 78.36 to 78.54 at 25 C; 1.306 mPa s
        // at 10 C.
        assert!((viscosity(25.0) - 0.890).abs() < 0.001);
        assert!((viscosity(10.0) - 1.306).abs() < 0.002);
        assert!((permittivity(25.0) - 78.4).abs() < 0.15);
    }

    #[test]
    fn nothing_conducts_nothing_and_odd_amounts_stay_finite() {
        assert_eq!(conductivity(&Ions::default(), 25.0), 0.0);
        for amount in [1e-9, 1.0, 1e3, 1e6] {
            let mut ions = Ions::default();
            ions.add(Ion::Ca, amount);
            ions.add(Ion::SO4, amount);
            for celsius in [-50.0, 0.0, 25.0, 400.0, f64::NAN] {
                let got = conductivity(&ions, celsius);
                assert!(
                    got.is_nan() == celsius.is_nan() && !(got < 0.0) && !got.is_infinite(),
                    "{amount} {celsius} {got}"
                );
            }
        }
    }
}
