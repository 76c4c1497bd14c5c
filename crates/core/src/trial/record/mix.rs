//! A mix as it was made: what went in, from which lot, and why a meter disagrees.

use super::head::Head;
use super::kind::{Desk, Heading, Record, tidied};
use super::refusal::{Refusal, Stage};
use crate::catalogue::readings::{Credible, Reading, ec, ph};
use crate::trial::Trial;
use crate::trial::records::{Kept, Recorded, Records};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::role::Role;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

/// A mix as it was made.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields, default)]
pub struct Mix {
    /// Index of the treatment in the sheet.
    pub treatment: TreatmentIndex,
    /// Litres made.
    pub volume_l: f64,
    /// mL or g of feed measured out.
    pub feed_total: f64,
    /// Measured EC, mS/cm at 25 °C.
    pub ec_ms_per_cm: Option<f64>,
    /// Measured pH.
    pub ph: Option<f64>,
    /// Batch, as the grower counts them.
    pub batch: String,
    /// Temperature of the solution, °C.
    pub temperature_c: Option<f64>,
    /// What the recipe gave then, mS/cm at 25 °C.
    pub computed_ec_ms_per_cm: Option<f64>,
    /// Why meter and computation parted.
    pub gap_why: Option<GapWhy>,
    /// What was found, in own words.
    pub gap_note: String,
    /// What went in.
    pub portions: Vec<Portioned>,
}

/// Why a meter and the computation part.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum GapWhy {
    /// Something was weighed or measured wrongly.
    Scale,
    /// The water is not the one in Stores.
    Water,
    /// The meter is off.
    Probe,
    /// The label does not hold what it says.
    Label,
    /// Looked for and not found.
    Unknown,
}

/// What was weighed or poured of one ingredient.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Portioned {
    /// What.
    pub name: String,
    /// `g` or `mL`.
    pub unit: String,
    /// As much as the bench asked for.
    pub planned: f64,
    /// As much as went in.
    pub measured: f64,
    /// Lot on its label.
    #[serde(default)]
    pub lot: String,
}

/// Longest name of a batch or lot.
pub const MOST_NAME: usize = 60;
/// Most ingredients of a mix.
pub const MOST_PORTIONS: usize = 60;
/// Most of one ingredient, g or mL.
pub const MOST_MEASURED: f64 = 1e6;

/// What is wrong with what went in.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum PortionError {
    /// Too many.
    #[error("a mix has at most {MOST_PORTIONS} ingredients, got {0}")]
    Many(usize),
    /// An amount that cannot be.
    #[error("{name}: must lie between 0 and {MOST_MEASURED}, got {got}")]
    Amount {
        /// Of what.
        name: String,
        /// What came.
        got: f64,
    },
    /// A unit that is none.
    #[error("{name}: measured in g or mL, not in '{unit}'")]
    Unit {
        /// Of what.
        name: String,
        /// As written.
        unit: String,
    },
    /// Too long.
    #[error("{name}: a lot has at most {MOST_NAME} letters")]
    Lot {
        /// Of what.
        name: String,
    },
}

/// Checks what went into a mix.
///
/// # Errors
/// [`PortionError`], naming the ingredient.
///
/// ```
/// use iron_twin_core::trial::record::mix::check;
/// use iron_twin_core::trial::record::mix::Portioned;
/// let part = |measured| Portioned { name: "part A".into(), unit: "mL".into(), planned: 8.8, measured, lot: String::new() };
/// assert!(check(&[part(8.7)]).is_ok());
/// assert!(check(&[part(-1.0)]).unwrap_err().to_string().starts_with("part A: must lie"));
/// ```
pub fn check(portions: &[Portioned]) -> Result<(), PortionError> {
    if portions.len() > MOST_PORTIONS {
        return Err(PortionError::Many(portions.len()));
    }
    for p in portions {
        let name = p.name.clone();
        if let Some(&got) = [p.planned, p.measured]
            .iter()
            .find(|a| !(0.0..=MOST_MEASURED).contains(*a))
        {
            return Err(PortionError::Amount { name, got });
        }
        if !["g", "mL"].contains(&p.unit.as_str()) {
            return Err(PortionError::Unit {
                name,
                unit: p.unit.clone(),
            });
        }
        if p.lot.chars().count() > MOST_NAME {
            return Err(PortionError::Lot { name });
        }
    }
    Ok(())
}

/// Longest note on a gap.
const MOST_GAP_NOTE: usize = 2000;

impl Kept for Mix {
    const KIND: &'static str = "mix";

    fn order(own: &Recorded<Self>) -> (u32, Timestamp) {
        (0, own.head.at)
    }
}

impl Records {
    /// Mixes, oldest first.
    #[must_use]
    pub fn mixes(&self) -> &[Recorded<Mix>] {
        self.of()
    }
}

/// Refuses what a meter cannot show, and asks about what it hardly shows.
fn check_metered(
    desk: &Desk<'_>,
    field: &'static str,
    reading: &Reading,
    value: Option<f64>,
) -> Result<(), Refusal> {
    match value.map(|v| reading.check(v, None)) {
        Some(Credible::No(why)) => Err(Refusal::wrong(field, why)),
        Some(Credible::Ask(asked)) => desk.ask(asked),
        _ => Ok(()),
    }
}

impl Record for Mix {
    const SEALS: bool = false;
    const NAMES_TREATMENTS: bool = true;
    const SEALED_WORDS: &'static str = "mixed a solution";
    // What the recipe gave is worked out from Stores.
    const SENT: bool = false;
    const HEADING: Heading = Heading::Mixes;

    fn may(role: Role) -> bool {
        role == Role::Owner
    }

    fn stage(&self) -> Stage {
        Stage::Any
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        if self.treatment.get() >= desk.trial.plan.treatments() {
            return Err(Refusal::NotFound {
                what: "treatment",
                id: self.treatment.to_string(),
            });
        }
        for (field, value, least) in [
            ("volume_l", self.volume_l, 1e-3),
            ("feed_total", self.feed_total, 0.0),
        ] {
            if !(value >= least && value <= 1e5) {
                return Err(Refusal::wrong(
                    field,
                    format!("must lie between {least} and 100000, got {value}"),
                ));
            }
        }
        self.batch = tidied("batch", &self.batch, MOST_NAME)?;
        self.gap_note = tidied("gap_note", &self.gap_note, MOST_GAP_NOTE)?;
        if let Some(t) = self.temperature_c.filter(|t| !(0.0..=50.0).contains(t)) {
            return Err(Refusal::wrong(
                "temperature_c",
                format!("must lie between 0 and 50, got {t}"),
            ));
        }
        check(&self.portions).map_err(|e| Refusal::wrong("portions", e))?;
        for portion in &mut self.portions {
            portion.name = portion.name.trim().to_owned();
            portion.lot = portion.lot.trim().to_owned();
        }
        check_metered(desk, "ec_ms_per_cm", &ec::READING, self.ec_ms_per_cm)?;
        check_metered(desk, "ph", &ph::READING, self.ph)
    }

    fn told(&self, trial: &Trial, _: &Head) -> String {
        let name = trial
            .plan
            .sheet
            .get(self.treatment)
            .map_or("", |own| own.name.as_str());
        format!("mixed {name}")
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nonsense_is_refused_by_name() {
        let part = Portioned {
            name: "salt".into(),
            unit: "g".into(),
            planned: 1.0,
            measured: 1.0,
            lot: String::new(),
        };
        let said = |p: Portioned| check(&[p]).unwrap_err().to_string();
        for odd in [f64::NAN, -1.0, 1e9] {
            assert!(
                said(Portioned {
                    measured: odd,
                    ..part.clone()
                })
                .contains("must lie")
            );
            assert!(
                said(Portioned {
                    planned: odd,
                    ..part.clone()
                })
                .contains("must lie")
            );
        }
        assert!(
            said(Portioned {
                unit: "oz".into(),
                ..part.clone()
            })
            .contains("'oz'")
        );
        assert!(
            said(Portioned {
                lot: "x".repeat(61),
                ..part.clone()
            })
            .contains("60 letters")
        );
        assert_eq!(check(&vec![part; 61]), Err(PortionError::Many(61)));
        assert!(check(&[]).is_ok());
    }
}
