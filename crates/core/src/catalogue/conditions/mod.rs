//! The rows of the match sheet. One file a condition: its key, name, usual value, the factor it
//! belongs to, and what its cells may hold.

pub mod aeration;
pub mod blackout_days;
pub mod container;
pub mod dry_down_days;
pub mod handling;
pub mod irrigation;
pub mod light;
pub mod light_hours;
pub mod light_watts;
pub mod medium;
pub mod seed_lot;
pub mod seed_weight;
pub mod soak_hours;
pub mod surface;
pub mod water;

/// A condition that treatments may share or differ in.
pub struct Condition {
    /// Stable key.
    pub key: &'static str,
    /// As a grower says it.
    pub name: &'static str,
    /// Unit of the value; empty for words.
    pub unit: &'static str,
    /// Conditions of one factor count as one difference.
    pub factor: &'static str,
    /// What a new sheet holds.
    pub usual: &'static str,
    /// Whether most trials say something about it; the others stand below a fold until they are
    /// used.
    pub common: bool,
    /// What a cell may hold; the message says what is wrong.
    pub check: fn(&str) -> Result<(), String>,
}

/// All conditions, in the order of the sheet.
pub const ALL: [&Condition; 15] = [
    &water::CONDITION,
    &medium::CONDITION,
    &container::CONDITION,
    &surface::CONDITION,
    &light::CONDITION,
    &light_hours::CONDITION,
    &light_watts::CONDITION,
    &seed_lot::CONDITION,
    &seed_weight::CONDITION,
    &soak_hours::CONDITION,
    &blackout_days::CONDITION,
    &aeration::CONDITION,
    &irrigation::CONDITION,
    &handling::CONDITION,
    &dry_down_days::CONDITION,
];

/// The condition with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Condition> {
    ALL.into_iter().find(|c| c.key == key)
}

/// Longest text in a cell.
pub const MOST_LETTERS: usize = 120;

fn words(value: &str) -> Result<(), String> {
    if value.chars().count() > MOST_LETTERS {
        Err(format!("at most {MOST_LETTERS} letters"))
    } else {
        Ok(())
    }
}

fn number_between(value: &str, least: f64, most: f64) -> Result<(), String> {
    match value.trim().parse::<f64>() {
        Ok(v) if (least..=most).contains(&v) => Ok(()),
        Ok(v) => Err(format!("must lie between {least} and {most}, got {v}")),
        Err(_) => Err(format!("'{value}' is not a number")),
    }
}

fn number_or_blank(value: &str, least: f64, most: f64) -> Result<(), String> {
    if value.trim().is_empty() {
        Ok(())
    } else {
        number_between(value, least, most)
    }
}
