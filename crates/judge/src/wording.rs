//! How figures are written in a sentence: as finely as their standard error supports.

/// How the sentences name things.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Wording {
    /// Unit of the measure, for instance `g`; empty where it is not known.
    pub unit: String,
    /// What was treated, in the singular, for instance `tray`.
    pub a_unit: String,
    /// The same in the plural.
    pub units: String,
    /// Unit of a dose; empty where it is not known.
    pub dose: String,
    /// What a figure is cut or picked of: a unit, or a sample of it; empty where it is read off
    /// instead.
    pub each: String,
    /// What was measured, with which a sentence begins; empty where that goes without saying.
    pub measure: String,
}

impl Default for Wording {
    fn default() -> Self {
        Self {
            unit: String::new(),
            a_unit: "unit".into(),
            units: "units".into(),
            each: "unit".into(),
            dose: String::new(),
            measure: String::new(),
        }
    }
}

impl Wording {
    pub(crate) fn amount(&self, value: f64, decimals: usize) -> String {
        let number = plain(value.abs(), decimals);
        if self.unit == "points" && number == "1" {
            return "1 point".into();
        }
        if self.unit.is_empty() {
            number
        } else {
            format!("{number} {}", self.unit)
        }
    }
}

/// A p as it is told: no more than three decimals.
pub(crate) fn p_told(p: f64) -> String {
    if p < 0.001 {
        "p < 0.001".into()
    } else {
        format!("p = {}", trimmed(p, 3))
    }
}

/// A number with thousands set apart by nothing and no minus zero.
pub fn plain(value: f64, decimals: usize) -> String {
    let text = format!("{value:.decimals$}");
    if text
        .trim_start_matches('-')
        .chars()
        .all(|c| c == '0' || c == '.')
    {
        text.trim_start_matches('-').to_owned()
    } else {
        text
    }
}

/// Decimals that the precision supports: about one figure of the standard error, at most six.
pub fn decimals_for(se: f64) -> usize {
    if !(se > 0.0 && se.is_finite()) {
        return 1;
    }
    (-(se / 2.0).log10().floor()).clamp(0.0, 6.0) as usize
}

/// A figure with about four digits, trailing zeros left out.
pub fn figure(value: f64) -> String {
    if value == 0.0 || !value.is_finite() {
        return plain(value, 0);
    }
    trimmed(
        value,
        (3.0 - value.abs().log10().floor()).clamp(0.0, 9.0) as usize,
    )
}

/// A figure as fine as limits so far apart support: they are about four standard errors.
pub fn figure_within(value: f64, (low, high): (f64, f64)) -> String {
    if high > low {
        trimmed(value, decimals_for(0.25 * (high - low)))
    } else {
        figure(value)
    }
}

/// A number with so many decimals, zeros at its end left out.
pub fn trimmed(value: f64, decimals: usize) -> String {
    let text = plain(value, decimals);
    if text.contains('.') {
        text.trim_end_matches('0').trim_end_matches('.').to_owned()
    } else {
        text
    }
}

/// A chance as so many of a hundred, never none and never all.
pub fn of_a_hundred(chance: f64) -> String {
    format!("{:.0} of 100", (100.0 * chance).clamp(1.0, 99.0))
}

/// A chance as so many of the deals that could be made: of a hundred, or one in so many where it is
/// rarer.
pub(crate) fn of_deals(p: f64) -> String {
    if p < 0.01 && p > 0.0 {
        format!("1 of {} deals", plain((1.0 / p).round(), 0))
    } else {
        format!("{} of 100 deals", in_hundred(p))
    }
}

/// A chance as so many in a hundred, with more digits where it is rare; halves go up, as on the
/// page.
#[must_use]
pub fn in_hundred(p: f64) -> String {
    let share = 100.0 * p;
    if share < 1.0 {
        plain(share, 2)
    } else {
        plain(share.round(), 0)
    }
}
