//! What is written down of a mix beside its volume: what went in, from which lot, and why a meter disagrees.

use crate::trial::records::Portioned;

/// Longest name of a batch or lot.
pub const MOST_LETTERS: usize = 60;
/// Most ingredients of a mix.
pub const MOST_PORTIONS: usize = 60;
/// Most of one ingredient, g or mL.
pub const MOST: f64 = 1e6;

/// What is wrong with a record.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum RecordError {
    /// Too many.
    #[error("a mix has at most {MOST_PORTIONS} ingredients, got {0}")]
    Many(usize),
    /// An amount that cannot be.
    #[error("{name}: must lie between 0 and {MOST}, got {got}")]
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
    #[error("{name}: a lot has at most {MOST_LETTERS} letters")]
    Lot {
        /// Of what.
        name: String,
    },
}

/// Checks what went into a mix.
///
/// # Errors
/// [`RecordError`], naming the ingredient.
///
/// ```
/// use iron_twin_core::mix::record::check;
/// use iron_twin_core::trial::records::Portioned;
/// let part = |measured| Portioned { name: "part A".into(), unit: "mL".into(), planned: 8.8, measured, lot: String::new() };
/// assert!(check(&[part(8.7)]).is_ok());
/// assert!(check(&[part(-1.0)]).unwrap_err().to_string().starts_with("part A: must lie"));
/// ```
pub fn check(portions: &[Portioned]) -> Result<(), RecordError> {
    if portions.len() > MOST_PORTIONS {
        return Err(RecordError::Many(portions.len()));
    }
    for p in portions {
        let name = p.name.clone();
        if let Some(&got) = [p.planned, p.measured].iter().find(|a| !(0.0..=MOST).contains(*a)) {
            return Err(RecordError::Amount { name, got });
        }
        if !["g", "mL"].contains(&p.unit.as_str()) {
            return Err(RecordError::Unit { name, unit: p.unit.clone() });
        }
        if p.lot.chars().count() > MOST_LETTERS {
            return Err(RecordError::Lot { name });
        }
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nonsense_is_refused_by_name() {
        let part = Portioned { name: "salt".into(), unit: "g".into(), planned: 1.0, measured: 1.0, lot: String::new() };
        let said = |p: Portioned| check(&[p]).unwrap_err().to_string();
        for odd in [f64::NAN, -1.0, 1e9] {
            assert!(said(Portioned { measured: odd, ..part.clone() }).contains("must lie"));
            assert!(said(Portioned { planned: odd, ..part.clone() }).contains("must lie"));
        }
        assert!(said(Portioned { unit: "oz".into(), ..part.clone() }).contains("'oz'"));
        assert!(said(Portioned { lot: "x".repeat(61), ..part.clone() }).contains("60 letters"));
        assert_eq!(check(&vec![part; 61]), Err(RecordError::Many(61)));
        assert!(check(&[]).is_ok());
    }
}
