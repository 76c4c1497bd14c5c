//! What falls out of a solution: gypsum and calcium phosphate by their solubility products, and any
//! other salt by how much of it dissolves in water alone.

use super::activity::log_activity;
use super::conductivity::speciate;
use super::ions::{Ion, Ions};

/// log10 of the solubility product of gypsum, CaSO4·2H2O, at 25 °C. Source: phreeqc.dat of PHREEQC
/// 3.
const GYPSUM: f64 = -4.58;
/// log10 of the solubility product of brushite, CaHPO4·2H2O, at 25 °C: the calcium phosphate that
/// falls out first. Source: Gregory, Moreno and Brown, J. Res. NBS 74A (1970) 461, from memory.
const BRUSHITE: f64 = -6.59;
/// log10 of the second acidity constant of phosphoric acid, and of the pairs of calcium and
/// magnesium with HPO4; as in `acid`.
const PK_PHOSPHATE: f64 = 7.198;
const PAIR_CALCIUM_PHOSPHATE: f64 = 2.74;
const PAIR_MAGNESIUM_PHOSPHATE: f64 = 2.87;
/// A gram of dissolved salt takes up about so much room, mL: turns grams in a litre of water into
/// grams in a litre of solution. Common practice, no source.
const ML_A_GRAM: f64 = 0.45;

/// Ion product of gypsum over its solubility product: above 1 it can fall out. Ions in mmol/L.
///
/// ```
/// use iron_twin_chemistry::{ions::{Ion, Ions}, solids::gypsum};
/// let mut ions = Ions::default();
/// ions.add(Ion::Ca, 5.0);
/// ions.add(Ion::SO4, 2.0);
/// assert!(gypsum(&ions) < 0.2);
/// ```
#[must_use]
pub fn gypsum(ions: &Ions) -> f64 {
    let species = speciate(ions, 25.0);
    let product = species.free(Ion::Ca) * species.free(Ion::SO4);
    product * 10f64.powf(2.0 * log_activity(2, species.ionic_strength) - GYPSUM)
}

/// Ion product of calcium phosphate (brushite) over its solubility product at a pH: above 1 it can
/// fall out.
#[must_use]
pub fn calcium_phosphate(ions: &Ions, ph: f64) -> f64 {
    let all = 1e-3 * (ions.get(Ion::H2PO4) + ions.get(Ion::HPO4));
    let species = speciate(ions, 25.0);
    let strength = species.ionic_strength;
    let (one, two) = (log_activity(1, strength), log_activity(2, strength));
    let calcium = species.free(Ion::Ca);
    let ratio = 10f64.powf(ph - PK_PHOSPHATE + one - two);
    let pairs = [
        (PAIR_CALCIUM_PHOSPHATE, calcium),
        (PAIR_MAGNESIUM_PHOSPHATE, species.free(Ion::Mg)),
    ];
    let paired: f64 = pairs
        .iter()
        .map(|(log_k, free)| 10f64.powf(log_k + 2.0 * two) * free)
        .sum();
    let free = all * ratio / (1.0 + ratio * (1.0 + paired));
    calcium * free * 10f64.powf(2.0 * two - BRUSHITE)
}

/// How near a solution is to dropping a salt, from what dissolves of the salt in water alone: the
/// ion product over that of the salt's own saturated solution, as the share of its saturation (the
/// root of as many ions as the salt has). Ions of a mole of the salt; its solubility in g per litre
/// of water. Other salts in the solution make the true share a little smaller. None where one of
/// its ions is missing.
#[must_use]
pub fn share_of_saturation(
    ions: &Ions,
    salt: &Ions,
    molar_mass: f64,
    solubility_g_per_l: f64,
) -> Option<f64> {
    let moles = solubility_g_per_l / (1.0 + 1e-3 * ML_A_GRAM * solubility_g_per_l) / molar_mass;
    let (mut log, mut count) = (0.0, 0.0);
    for (ion, each) in salt.present() {
        let here = ions.get(ion) / 1000.0;
        if here <= 0.0 || moles <= 0.0 {
            return None;
        }
        log += each * (here / (each * moles)).ln();
        count += each;
    }
    (count > 0.0).then(|| (log / count).exp())
}

#[cfg(test)]
mod tests {
    use super::*;

    fn of(list: &[(Ion, f64)]) -> Ions {
        let mut ions = Ions::default();
        list.iter().for_each(|(ion, mmol)| ions.add(*ion, *mmol));
        ions
    }

    /// CRC Handbook: 0.205 g of CaSO4 in 100 g of water at 25 °C, 15.1 mmol/L.
    #[test]
    fn gypsum_is_saturated_where_the_handbook_says() {
        let saturated = gypsum(&of(&[(Ion::Ca, 15.1), (Ion::SO4, 15.1)]));
        assert!((0.85..1.15).contains(&saturated), "{saturated}");
    }

    #[test]
    fn calcium_phosphate_falls_out_as_the_ph_rises() {
        let hoagland = of(&[
            (Ion::Ca, 5.0),
            (Ion::H2PO4, 1.0),
            (Ion::K, 6.0),
            (Ion::NO3, 15.0),
            (Ion::Mg, 2.0),
            (Ion::SO4, 2.0),
        ]);
        assert!(calcium_phosphate(&hoagland, 5.8) < 1.0);
        assert!(calcium_phosphate(&hoagland, 7.5) > 1.0);
        assert!(calcium_phosphate(&hoagland, 6.5) > calcium_phosphate(&hoagland, 6.0));
        assert_eq!(calcium_phosphate(&of(&[(Ion::Ca, 5.0)]), 6.0), 0.0);
    }

    #[test]
    fn a_salt_alone_is_at_its_share_and_one_that_shares_an_ion_comes_nearer() {
        let nitrate = of(&[(Ion::K, 1.0), (Ion::NO3, 1.0)]);
        let litre = 316.0 / (1.0 + 0.45 * 0.316) / 101.102;
        let half = of(&[(Ion::K, 500.0 * litre), (Ion::NO3, 500.0 * litre)]);
        let share = share_of_saturation(&half, &nitrate, 101.102, 316.0).unwrap();
        assert!((share - 0.5).abs() < 1e-9, "{share}");
        // Potassium sulfate out of potassium nitrate and magnesium sulfate: no grain of it was put
        // in.
        let sulfate = of(&[(Ion::K, 2.0), (Ion::SO4, 1.0)]);
        let both = of(&[
            (Ion::K, 2000.0),
            (Ion::NO3, 2000.0),
            (Ion::Mg, 500.0),
            (Ion::SO4, 500.0),
        ]);
        assert!(share_of_saturation(&both, &sulfate, 174.25, 111.0).unwrap() > 1.0);
        assert_eq!(share_of_saturation(&nitrate, &sulfate, 174.25, 111.0), None);
    }
}
