//! What a fertiliser label says, turned into nutrients and ions.

use super::elements::atomic_weight;
use super::ions::{Ion, Ions};
use super::nutrients::{Nutrient, Nutrients};
use serde::{Deserialize, Serialize};

/// A label: per cent by mass, phosphorus and potassium as oxides, the way labels print them.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Label {
    /// What it is called.
    pub name: String,
    /// All nitrogen, N.
    pub n: f64,
    /// Nitrogen of nitrate, N.
    pub n_nitrate: Option<f64>,
    /// Nitrogen of ammonium, N.
    pub n_ammonium: Option<f64>,
    /// Nitrogen of urea, N.
    pub n_urea: Option<f64>,
    /// Phosphorus, as P2O5.
    pub p2o5: f64,
    /// Potassium, as K2O.
    pub k2o: f64,
    /// Calcium, Ca.
    pub ca: f64,
    /// Calcium, as CaO, where the label prints the oxide.
    pub cao: f64,
    /// Magnesium, Mg.
    pub mg: f64,
    /// Magnesium, as MgO, where the label prints the oxide.
    pub mgo: f64,
    /// Sulfur, S.
    pub s: f64,
    /// Sulfur, as SO3, where the label prints the oxide.
    pub so3: f64,
    /// Sodium, Na.
    pub na: f64,
    /// Chloride, Cl.
    pub cl: f64,
    /// Iron, Fe.
    pub fe: f64,
    /// Manganese, Mn.
    pub mn: f64,
    /// Zinc, Zn.
    pub zn: f64,
    /// Boron, B.
    pub b: f64,
    /// Copper, Cu.
    pub cu: f64,
    /// Molybdenum, Mo.
    pub mo: f64,
    /// Density, kg/L, for liquids and for powders measured by the spoon.
    pub density_kg_per_l: Option<f64>,
}

/// What is wrong with a label.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum LabelError {
    /// Not a share of a whole.
    #[error("{field} must lie between 0 and 100 per cent, got {got}")]
    Percent {
        /// Which figure.
        field: &'static str,
        /// What came.
        got: f64,
    },
    /// More than there is.
    #[error("the figures add up to {0:.1} per cent of the product, more than all of it")]
    AboveAll(f64),
    /// Forms of nitrogen above the nitrogen.
    #[error("the forms of nitrogen add up to {forms} per cent, more than n = {n}")]
    NitrogenForms {
        /// Sum of the forms.
        forms: f64,
        /// All nitrogen.
        n: f64,
    },
    /// A density no product has.
    #[error("density_kg_per_l must lie between {LEAST_DENSITY} and {MOST_DENSITY}, got {0}")]
    Density(f64),
}

/// Lowest density of a powder or liquid, kg/L.
pub const LEAST_DENSITY: f64 = 0.2;
/// Highest density of a powder or liquid, kg/L.
pub const MOST_DENSITY: f64 = 3.0;

/// What a gram of a product brings.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Brings {
    /// Nutrients, mg in a gram.
    pub mg_per_g: Nutrients,
    /// Ions, mmol in a gram.
    pub mmol_per_g: Ions,
}

/// Mass share of an element in its oxide.
fn share(element: &str, atoms: f64, oxygens: f64) -> f64 {
    let (own, oxygen) = (
        atomic_weight(element).unwrap_or(0.0),
        atomic_weight("O").unwrap_or(0.0),
    );
    atoms * own / (atoms * own + oxygens * oxygen)
}

impl Label {
    /// Nitrogen that no form is stated for, per cent.
    #[must_use]
    pub fn nitrogen_without_form(&self) -> f64 {
        let rest = self.n - self.stated_forms();
        if rest > 1e-9 { rest } else { 0.0 }
    }

    fn stated_forms(&self) -> f64 {
        [self.n_nitrate, self.n_ammonium, self.n_urea]
            .into_iter()
            .flatten()
            .sum()
    }

    fn figures(&self) -> [(&'static str, f64); 21] {
        [
            ("n", self.n),
            ("n_nitrate", self.n_nitrate.unwrap_or(0.0)),
            ("n_ammonium", self.n_ammonium.unwrap_or(0.0)),
            ("n_urea", self.n_urea.unwrap_or(0.0)),
            ("p2o5", self.p2o5),
            ("k2o", self.k2o),
            ("ca", self.ca),
            ("cao", self.cao),
            ("mg", self.mg),
            ("mgo", self.mgo),
            ("s", self.s),
            ("so3", self.so3),
            ("na", self.na),
            ("cl", self.cl),
            ("fe", self.fe),
            ("mn", self.mn),
            ("zn", self.zn),
            ("b", self.b),
            ("cu", self.cu),
            ("mo", self.mo),
            ("", 0.0),
        ]
    }

    /// Checks that the figures can be those of one product.
    ///
    /// # Errors
    /// [`LabelError`], naming the figure.
    pub fn check(&self) -> Result<(), LabelError> {
        for (field, got) in self.figures() {
            if !(0.0..=100.0).contains(&got) {
                return Err(LabelError::Percent { field, got });
            }
        }
        let forms = self.stated_forms();
        // Labels round each form by itself.
        if forms > self.n + 0.1 + 0.01 * self.n {
            return Err(LabelError::NitrogenForms { forms, n: self.n });
        }
        let all: f64 = self
            .figures()
            .iter()
            .filter(|(field, _)| !field.starts_with("n_"))
            .map(|(_, v)| v)
            .sum();
        if all > 100.0 {
            return Err(LabelError::AboveAll(all));
        }
        match self.density_kg_per_l {
            Some(d) if !(LEAST_DENSITY..=MOST_DENSITY).contains(&d) => Err(LabelError::Density(d)),
            _ => Ok(()),
        }
    }

    /// What a gram brings. Nitrogen without a stated form is counted as nitrate.
    ///
    /// # Errors
    /// Those of [`Label::check`].
    ///
    /// ```
    /// use iron_twin_chemistry::{label::Label, nutrients::Nutrient};
    /// let label = Label { p2o5: 11.0, k2o: 30.0, ..Label::default() };
    /// let grams = label.brings()?.mg_per_g;
    /// assert!((grams.get(Nutrient::P) - 48.0).abs() < 0.1);
    /// assert!((grams.get(Nutrient::K) - 249.0).abs() < 0.1);
    /// # Ok::<(), iron_twin_chemistry::label::LabelError>(())
    /// ```
    pub fn brings(&self) -> Result<Brings, LabelError> {
        self.check()?;
        let mut brings = Brings::default();
        let nitrate = self.n_nitrate.unwrap_or(0.0) + self.nitrogen_without_form();
        let percent = [
            (Nutrient::NNitrate, nitrate),
            (Nutrient::NAmmonium, self.n_ammonium.unwrap_or(0.0)),
            (Nutrient::NUrea, self.n_urea.unwrap_or(0.0)),
            (Nutrient::P, self.p2o5 * share("P", 2.0, 5.0)),
            (Nutrient::K, self.k2o * share("K", 2.0, 1.0)),
            (Nutrient::Ca, self.ca + self.cao * share("Ca", 1.0, 1.0)),
            (Nutrient::Mg, self.mg + self.mgo * share("Mg", 1.0, 1.0)),
            (Nutrient::S, self.s + self.so3 * share("S", 1.0, 3.0)),
            (Nutrient::Na, self.na),
            (Nutrient::Cl, self.cl),
            (Nutrient::Fe, self.fe),
            (Nutrient::Mn, self.mn),
            (Nutrient::Zn, self.zn),
            (Nutrient::B, self.b),
            (Nutrient::Cu, self.cu),
            (Nutrient::Mo, self.mo),
        ];
        for (nutrient, percent) in percent {
            let mg = 10.0 * percent;
            brings.mg_per_g.add(nutrient, mg);
            if let Some(ion) = carried_by(nutrient) {
                brings.mmol_per_g.add(
                    ion,
                    mg / atomic_weight(nutrient.symbol()).unwrap_or(f64::INFINITY),
                );
            }
        }
        Ok(brings)
    }
}

/// The ion that a nutrient of a label is in; None for what carries no charge or comes in traces.
fn carried_by(nutrient: Nutrient) -> Option<Ion> {
    match nutrient {
        Nutrient::NNitrate => Some(Ion::NO3),
        Nutrient::NAmmonium => Some(Ion::NH4),
        Nutrient::P => Some(Ion::H2PO4),
        Nutrient::K => Some(Ion::K),
        Nutrient::Ca => Some(Ion::Ca),
        Nutrient::Mg => Some(Ion::Mg),
        Nutrient::S => Some(Ion::SO4),
        Nutrient::Na => Some(Ion::Na),
        Nutrient::Cl => Some(Ion::Cl),
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn oxides_are_read_as_labels_print_them() {
        // Common conversion factors of fertiliser tables: P = 0.4364 P2O5, K = 0.8301 K2O, Ca =
        // 0.7147 CaO, Mg = 0.6030 MgO, S = 0.4005 SO3.
        for (got, want) in [
            (share("P", 2.0, 5.0), 0.4364),
            (share("K", 2.0, 1.0), 0.8301),
            (share("Ca", 1.0, 1.0), 0.7147),
            (share("Mg", 1.0, 1.0), 0.6030),
            (share("S", 1.0, 3.0), 0.4005),
        ] {
            assert!((got - want).abs() < 6e-5, "{got} {want}");
        }
    }

    #[test]
    fn nitrogen_without_a_form_is_nitrate() {
        let label = Label {
            n: 6.0,
            n_ammonium: Some(1.5),
            ..Label::default()
        };
        assert_eq!(label.nitrogen_without_form(), 4.5);
        let brings = label.brings().unwrap();
        assert_eq!(brings.mg_per_g.get(Nutrient::NNitrate), 45.0);
        assert_eq!(brings.mg_per_g.nitrogen(), 60.0);
        assert!((brings.mmol_per_g.get(Ion::NO3) - 45.0 / 14.007).abs() < 1e-12);
    }

    #[test]
    fn labels_that_cannot_be_are_refused() {
        let refused = |label: Label| label.check().unwrap_err();
        assert!(matches!(
            refused(Label {
                k2o: -1.0,
                ..Label::default()
            }),
            LabelError::Percent { field: "k2o", .. }
        ));
        assert!(matches!(
            refused(Label {
                n: f64::NAN,
                ..Label::default()
            }),
            LabelError::Percent { field: "n", .. }
        ));
        assert!(matches!(
            refused(Label {
                n: 60.0,
                k2o: 50.0,
                ..Label::default()
            }),
            LabelError::AboveAll(_)
        ));
        let forms = Label {
            n: 3.0,
            n_nitrate: Some(2.0),
            n_urea: Some(2.0),
            ..Label::default()
        };
        assert!(matches!(refused(forms), LabelError::NitrogenForms { .. }));
        assert!(matches!(
            refused(Label {
                density_kg_per_l: Some(30.0),
                ..Label::default()
            }),
            LabelError::Density(_)
        ));
    }
}
