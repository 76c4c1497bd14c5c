//! The ions that carry a current, in mmol/L.

use serde::{Deserialize, Serialize};

/// An ion in solution.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[allow(missing_docs)]
pub enum Ion {
    NO3,
    NH4,
    H2PO4,
    K,
    Ca,
    Mg,
    SO4,
    Na,
    Cl,
    HCO3,
    HPO4,
    CO3,
    H,
    OH,
    Fe,
    Mn,
    Zn,
    Cu,
    MoO4,
}

impl Ion {
    /// All of them; the first ten are always shown.
    pub const ALL: [Self; 19] = [
        Self::NO3,
        Self::NH4,
        Self::H2PO4,
        Self::K,
        Self::Ca,
        Self::Mg,
        Self::SO4,
        Self::Na,
        Self::Cl,
        Self::HCO3,
        Self::HPO4,
        Self::CO3,
        Self::H,
        Self::OH,
        Self::Fe,
        Self::Mn,
        Self::Zn,
        Self::Cu,
        Self::MoO4,
    ];

    /// Number of ions that are always shown.
    pub const SHOWN: usize = 10;

    /// Its formula without the charge.
    #[must_use]
    pub fn key(self) -> &'static str {
        match self {
            Self::NO3 => "NO3",
            Self::NH4 => "NH4",
            Self::H2PO4 => "H2PO4",
            Self::K => "K",
            Self::Ca => "Ca",
            Self::Mg => "Mg",
            Self::SO4 => "SO4",
            Self::Na => "Na",
            Self::Cl => "Cl",
            Self::HCO3 => "HCO3",
            Self::HPO4 => "HPO4",
            Self::CO3 => "CO3",
            Self::H => "H",
            Self::OH => "OH",
            Self::Fe => "Fe",
            Self::Mn => "Mn",
            Self::Zn => "Zn",
            Self::Cu => "Cu",
            Self::MoO4 => "MoO4",
        }
    }

    /// Charge number.
    #[must_use]
    pub fn charge(self) -> i32 {
        match self {
            Self::K | Self::Na | Self::NH4 | Self::H => 1,
            Self::Ca | Self::Mg | Self::Fe | Self::Mn | Self::Zn | Self::Cu => 2,
            Self::NO3 | Self::H2PO4 | Self::Cl | Self::HCO3 | Self::OH => -1,
            Self::SO4 | Self::HPO4 | Self::CO3 | Self::MoO4 => -2,
        }
    }

    /// Molar conductivity at infinite dilution and 25 °C, S cm²/mol (per mole of the ion, not per
    /// equivalent).
    ///
    /// CRC Handbook of Chemistry and Physics, table "Ionic Conductivity and Diffusion at Infinite
    /// Dilution". Trace metals and molybdate, at micromoles, are left out: 0.
    #[must_use]
    pub fn limiting_conductivity(self) -> f64 {
        match self {
            Self::K => 73.48,
            Self::NH4 => 73.5,
            Self::Na => 50.08,
            Self::Ca => 118.94,
            Self::Mg => 106.0,
            Self::NO3 => 71.42,
            Self::Cl => 76.31,
            Self::SO4 => 160.0,
            Self::H2PO4 => 36.0,
            Self::HPO4 => 114.0,
            Self::HCO3 => 44.5,
            Self::CO3 => 138.6,
            Self::H => 349.65,
            Self::OH => 198.0,
            Self::Fe | Self::Mn | Self::Zn | Self::Cu | Self::MoO4 => 0.0,
        }
    }
}

/// Amounts of ions: mmol in a litre, or mmol from a mole or gram of a product.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Ions([f64; Ion::ALL.len()]);

impl Ions {
    /// Amount of one ion.
    #[must_use]
    pub fn get(&self, ion: Ion) -> f64 {
        self.0[ion as usize]
    }

    /// Adds to one ion.
    pub fn add(&mut self, ion: Ion, amount: f64) {
        self.0[ion as usize] += amount;
    }

    /// `factor` times another amount, added.
    pub fn add_scaled(&mut self, other: &Self, factor: f64) {
        self.0
            .iter_mut()
            .zip(other.0)
            .for_each(|(own, more)| *own += factor * more);
    }

    /// Ions that are there, with their amounts.
    pub fn present(&self) -> impl Iterator<Item = (Ion, f64)> + '_ {
        Ion::ALL
            .into_iter()
            .map(|ion| (ion, self.get(ion)))
            .filter(|(_, amount)| *amount > 0.0)
    }

    /// Half the sum of amount times squared charge, in the unit of the amounts; before any pairing
    /// of ions.
    ///
    /// ```
    /// use iron_twin_chemistry::ions::{Ion, Ions};
    /// let mut gypsum = Ions::default();
    /// gypsum.add(Ion::Ca, 2.0);
    /// gypsum.add(Ion::SO4, 2.0);
    /// assert_eq!(gypsum.ionic_strength(), 8.0);
    /// ```
    #[must_use]
    pub fn ionic_strength(&self) -> f64 {
        0.5 * self
            .present()
            .map(|(ion, amount)| amount * f64::from(ion.charge() * ion.charge()))
            .sum::<f64>()
    }

    /// 100 (cations - anions) / (cations + anions), in equivalents; 0 for pure water.
    #[must_use]
    pub fn charge_balance_percent(&self) -> f64 {
        let (mut net, mut all) = (0.0, 0.0);
        for (ion, amount) in self.present() {
            let equivalents = amount * f64::from(ion.charge());
            net += equivalents;
            all += equivalents.abs();
        }
        if all > 0.0 { 100.0 * net / all } else { 0.0 }
    }

    /// Lets acids and bases meet: strong ones react to the end, and carbonic acid leaves as gas.
    pub fn neutralise(&mut self) {
        let meet = |ions: &mut Self, a: Ion, b: Ion, left: &[Ion]| {
            let amount = ions.get(a).min(ions.get(b));
            if amount > 0.0 {
                ions.add(a, -amount);
                ions.add(b, -amount);
                left.iter().for_each(|&ion| ions.add(ion, amount));
            }
        };
        meet(self, Ion::H, Ion::OH, &[]);
        meet(self, Ion::H, Ion::CO3, &[Ion::HCO3]);
        meet(self, Ion::H, Ion::HPO4, &[Ion::H2PO4]);
        meet(self, Ion::H, Ion::HCO3, &[]);
        meet(self, Ion::OH, Ion::H2PO4, &[Ion::HPO4]);
        meet(self, Ion::CO3, Ion::H2PO4, &[Ion::HCO3, Ion::HPO4]);
        meet(self, Ion::OH, Ion::HCO3, &[Ion::CO3]);
    }
}
