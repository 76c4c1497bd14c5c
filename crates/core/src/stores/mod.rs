//! Stores: what stands on the grower's shelves, with the figures that the other stations compute
//! from.
//!
//! One file a shelf in `shelves/` says which figures an entry holds and where they lie. Generic
//! entries ship with the program (`generic/*.csv`); an own entry of the same name takes the place
//! of a generic one.

pub mod csv;
pub mod keys;
pub mod lines;
pub mod prices;
pub mod shelves;

use iron_twin_chemistry::formula::Formula;
use iron_twin_chemistry::label::{Label, LabelError};
use iron_twin_chemistry::water::{MG_PER_MEQ_CACO3, SourceWater, german_degrees_in};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use std::collections::BTreeMap;

/// What a field of an entry may hold.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Holds {
    /// A number between two limits.
    Number {
        /// Lowest.
        least: f64,
        /// Highest.
        most: f64,
    },
    /// Some words.
    Words,
    /// One of a few.
    Choice {
        /// Which.
        of: &'static [&'static str],
    },
    /// A date, `YYYY-MM-DD`.
    Date,
    /// A chemical formula.
    Formula,
    /// Lines of a recipe, as `mix::lines` reads them.
    Lines,
}

/// A field of an entry.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Field {
    /// Stable key with the unit in it, as in the CSV.
    pub key: &'static str,
    /// As a grower says it.
    pub name: &'static str,
    /// Unit; empty for words.
    pub unit: &'static str,
    /// What it may hold.
    pub holds: Holds,
}

/// A shelf: entries of one kind.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Shelf {
    /// Stable key.
    pub key: &'static str,
    /// What stands on it.
    pub name: &'static str,
    /// One of them.
    pub one: &'static str,
    /// The row of the match sheet whose cells name its entries: a condition, `feed` or `additive`;
    /// empty for none.
    pub condition: &'static str,
    /// What an entry holds.
    pub fields: &'static [Field],
}

/// What stands in a field.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(untagged)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Held {
    /// A number, in the field's unit.
    Number(f64),
    /// Words, a choice, a date or a formula.
    Words(String),
}

/// An entry on a shelf.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Item {
    /// Key of its shelf.
    pub shelf: String,
    /// What the grower calls it; what cells of the match sheet hold.
    pub name: String,
    /// Where its figures come from: a label, an analysis, a formula, or `common practice, no
    /// source`.
    #[serde(default)]
    pub source: String,
    /// Fields that are known, by key.
    #[serde(default)]
    pub held: BTreeMap<String, Held>,
}

/// What is wrong with an entry.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum ItemError {
    /// No such shelf.
    #[error("there is no shelf '{0}'")]
    Shelf(String),
    /// No name, or one that is too long.
    #[error("a name has 1 to {MOST_LETTERS} letters")]
    Name,
    /// A field that no entry of the shelf has.
    #[error("{shelf} have no field '{field}'")]
    Unknown {
        /// The shelf's name.
        shelf: &'static str,
        /// The field.
        field: String,
    },
    /// A value that the field cannot hold.
    #[error("{field}: {why}")]
    Value {
        /// Key of the field.
        field: &'static str,
        /// What is wrong.
        why: String,
    },
    /// Label figures that cannot be those of one product.
    #[error(transparent)]
    Label(#[from] LabelError),
}

/// Longest name or word of an entry.
pub const MOST_LETTERS: usize = 120;

impl Holds {
    /// What a cell's text says; None for an empty cell.
    ///
    /// # Errors
    /// What is wrong with it, in plain words.
    pub fn read(&self, text: &str) -> Result<Option<Held>, String> {
        let text = text.trim();
        if text.is_empty() {
            return Ok(None);
        }
        let held = match self {
            Self::Number { .. } => Held::Number(
                text.parse()
                    .map_err(|_| format!("'{text}' is not a number"))?,
            ),
            _ => Held::Words(text.to_owned()),
        };
        self.check(&held)?;
        Ok(Some(held))
    }

    fn check(&self, held: &Held) -> Result<(), String> {
        match (self, held) {
            (Self::Number { least, most }, Held::Number(v)) if (*least..=*most).contains(v) => {
                Ok(())
            }
            (Self::Number { least, most }, Held::Number(v)) => {
                Err(format!("must lie between {least} and {most}, got {v}"))
            }
            (Self::Number { .. }, Held::Words(w)) => Err(format!("'{w}' is not a number")),
            (_, Held::Number(v)) => Err(format!("{v} is a number where words belong")),
            (Self::Lines, Held::Words(w)) => crate::stores::lines::read(w)
                .map(|_| ())
                .map_err(|e| e.to_string()),
            (_, Held::Words(w)) if w.chars().count() > MOST_LETTERS => {
                Err(format!("at most {MOST_LETTERS} letters"))
            }
            (Self::Choice { of }, Held::Words(w)) if !of.contains(&w.as_str()) => {
                Err(format!("'{w}' is none of {}", of.join(", ")))
            }
            (Self::Date, Held::Words(w)) if !is_date(w) => {
                Err(format!("'{w}' is no date such as 2026-04-30"))
            }
            (Self::Formula, Held::Words(w)) => {
                w.parse::<Formula>().map(|_| ()).map_err(|e| e.to_string())
            }
            _ => Ok(()),
        }
    }
}

/// Whether a text is a date of the calendar, `YYYY-MM-DD`.
fn is_date(text: &str) -> bool {
    let parts: Vec<&str> = text.split('-').collect();
    let [y, m, d] = parts[..] else { return false };
    let shaped = y.len() == 4 && m.len() == 2 && d.len() == 2;
    let (Ok(y), Ok(m), Ok(d)) = (y.parse::<u32>(), m.parse::<u32>(), d.parse::<u32>()) else {
        return false;
    };
    let leap = y.is_multiple_of(4) && (!y.is_multiple_of(100) || y.is_multiple_of(400));
    let days = match m {
        4 | 6 | 9 | 11 => 30,
        2 if leap => 29,
        2 => 28,
        1..=12 => 31,
        _ => 0,
    };
    shaped && (1..=days).contains(&d)
}

impl Item {
    /// Checks the entry against its shelf.
    ///
    /// # Errors
    /// [`ItemError`], naming the field.
    pub fn check(&self) -> Result<(), ItemError> {
        let shelf =
            shelves::find(&self.shelf).ok_or_else(|| ItemError::Shelf(self.shelf.clone()))?;
        if self.name.trim().is_empty()
            || [&self.name, &self.source]
                .iter()
                .any(|t| t.chars().count() > MOST_LETTERS)
        {
            return Err(ItemError::Name);
        }
        for (key, held) in &self.held {
            let unknown = || ItemError::Unknown {
                shelf: shelf.name,
                field: key.clone(),
            };
            let field = shelf
                .fields
                .iter()
                .find(|f| f.key == key)
                .ok_or_else(unknown)?;
            field.holds.check(held).map_err(|why| ItemError::Value {
                field: field.key,
                why,
            })?;
        }
        if let Some(label) = self.label() {
            label.check()?;
        }
        Ok(())
    }

    /// The entry with the day of its price: today's where a price is new or another than `before`
    /// and nobody gave a day for it.
    ///
    /// ```
    /// use iron_twin_core::stores::{Held, Item};
    /// let at = |price: f64| Item { shelf: "media".into(), name: "mat".into(), source: String::new(), held: [("price_per_unit".to_owned(), Held::Number(price))].into() };
    /// let (march, may) = (jiff::civil::date(2026, 3, 1), jiff::civil::date(2026, 5, 1));
    /// let old = at(2.0).priced(None, march);
    /// assert_eq!(old.priced_on(), Some(march));
    /// assert_eq!(Item { held: old.held.clone(), ..at(2.0) }.priced(Some(&old), may).priced_on(), Some(march));
    /// assert_eq!(at(2.5).priced(Some(&old), may).priced_on(), Some(may));
    /// ```
    #[must_use]
    pub fn priced(mut self, before: Option<&Self>, today: Date) -> Self {
        let is_price = |key: &str| key.starts_with("price_");
        let held = |own: &Self| -> BTreeMap<String, Held> {
            own.held
                .iter()
                .filter(|(key, _)| is_price(key))
                .map(|(key, held)| (key.clone(), held.clone()))
                .collect()
        };
        let day = |own: &Self| own.held.get(shelves::PRICED_ON).cloned();
        let (now, then) = (held(&self), before.map(held).unwrap_or_default());
        let dated = shelves::find(&self.shelf)
            .is_some_and(|s| s.fields.iter().any(|f| f.key == shelves::PRICED_ON));
        let (own, old) = (day(&self), before.and_then(day));
        if !dated || now.is_empty() {
            return self;
        }
        if now != then && (own.is_none() || own == old) {
            self.held
                .insert(shelves::PRICED_ON.into(), Held::Words(today.to_string()));
        } else if let Some(old) = old.filter(|_| own.is_none()) {
            self.held.insert(shelves::PRICED_ON.into(), old);
        }
        self
    }

    /// The day of its price; None where nobody said.
    #[must_use]
    pub fn priced_on(&self) -> Option<Date> {
        match self.held.get(shelves::PRICED_ON)? {
            Held::Words(day) => day.parse().ok(),
            Held::Number(_) => None,
        }
    }

    /// The entry with amounts of a water typed in mmol/L (`1.6 mmol`) turned into the mg/L of their
    /// fields, and hardness typed in other degrees (`18 French`, `12 English`, `180 ppm`) into
    /// German ones; alkalinity in mmol is acid capacity. All else stays, to be checked.
    ///
    /// ```
    /// use iron_twin_core::stores::{Held, Item};
    /// let held = [("ca_mg_per_l".to_owned(), Held::Words("2 mmol".into()))].into();
    /// let water = Item { shelf: "waters".into(), name: "well".into(), source: String::new(), held }.tidied();
    /// assert!((water.number(iron_twin_core::stores::keys::CA_MG_PER_L).unwrap() - 80.156).abs() < 1e-9);
    /// ```
    #[must_use]
    pub fn tidied(mut self) -> Self {
        if self.shelf != "waters" {
            return self;
        }
        for (key, held) in &mut self.held {
            let Held::Words(text) = held else { continue };
            if key == "hardness_dh" {
                let split = text
                    .find(|c: char| !(c.is_ascii_digit() || ".,".contains(c)))
                    .unwrap_or(text.len());
                let (figure, unit) = text.split_at(split);
                let german = figure
                    .replace(',', ".")
                    .parse::<f64>()
                    .ok()
                    .zip(german_degrees_in(unit));
                if let Some((figure, each)) = german {
                    *held = Held::Number((figure * each * 100.0).round() / 100.0);
                }
                continue;
            }
            let amount = ["mmol/l", "mmol"]
                .iter()
                .find_map(|unit| text.to_lowercase().strip_suffix(unit).map(str::to_owned));
            let amount = amount.and_then(|a| a.trim().replace(',', ".").parse::<f64>().ok());
            let molar = match shelves::waters::IONS.iter().find(|(own, _)| own == key) {
                Some((_, ion)) => ion.parse::<Formula>().ok().map(|f| f.molar_mass()),
                None => (key == "alkalinity_mg_per_l_caco3").then_some(MG_PER_MEQ_CACO3),
            };
            if let Some((amount, molar)) = amount.zip(molar) {
                // Four digits, as no analysis gives more.
                let mg: f64 = amount * molar;
                *held = Held::Number((mg * 1e4).round() / 1e4);
            }
        }
        self
    }

    /// A number that is known.
    #[must_use]
    pub fn number(&self, key: keys::NumberKey) -> Option<f64> {
        self.number_of(key.key())
    }

    fn number_of(&self, key: &str) -> Option<f64> {
        match self.held.get(key) {
            Some(Held::Number(v)) => Some(*v),
            _ => None,
        }
    }

    /// Words that are known.
    #[must_use]
    pub fn words(&self, key: keys::WordsKey) -> Option<&str> {
        self.words_of(key.key())
    }

    fn words_of(&self, key: &str) -> Option<&str> {
        match self.held.get(key) {
            Some(Held::Words(w)) => Some(w),
            _ => None,
        }
    }

    /// The label of a feed or additive; None for other shelves and where the maker keeps the
    /// composition to himself.
    #[must_use]
    pub fn label(&self) -> Option<Label> {
        if !matches!(self.shelf.as_str(), "feeds" | "additives")
            || self.words(keys::COMPOSITION) == Some("unknown")
        {
            return None;
        }
        let percent = |key: &str| self.number_of(key).unwrap_or(0.0);
        Some(Label {
            name: self.name.clone(),
            n: percent("n_percent"),
            n_nitrate: self.number(keys::N_NITRATE_PERCENT),
            n_ammonium: self.number(keys::N_AMMONIUM_PERCENT),
            n_urea: self.number(keys::N_UREA_PERCENT),
            p2o5: percent("p2o5_percent"),
            k2o: percent("k2o_percent"),
            ca: percent("ca_percent"),
            cao: percent("cao_percent"),
            mg: percent("mg_percent"),
            mgo: percent("mgo_percent"),
            s: percent("s_percent"),
            so3: percent("so3_percent"),
            na: percent("na_percent"),
            cl: percent("cl_percent"),
            fe: percent("fe_percent"),
            mn: percent("mn_percent"),
            zn: percent("zn_percent"),
            b: percent("b_percent"),
            cu: percent("cu_percent"),
            mo: percent("mo_percent"),
            density_kg_per_l: self.number(keys::DENSITY_KG_PER_L),
        })
    }

    /// The analysis of a water; None for other shelves.
    #[must_use]
    pub fn water(&self) -> Option<SourceWater> {
        (self.shelf == "waters").then(|| SourceWater {
            name: self.name.clone(),
            ph: self.number(keys::PH),
            alkalinity_mg_per_l_caco3: self.number(keys::ALKALINITY_MG_PER_L_CACO3),
            mg_per_l: shelves::waters::IONS
                .iter()
                .filter_map(|(key, ion)| Some(((*ion).to_owned(), self.number_of(key)?)))
                .collect(),
            hardness_dh: self.number(keys::HARDNESS_DH),
            ..SourceWater::default()
        })
    }

    /// A target profile, mg/L by element; None for other shelves.
    #[must_use]
    pub fn target(&self) -> Option<BTreeMap<String, f64>> {
        let elements = shelves::targets::ELEMENTS.iter();
        let known = elements
            .filter_map(|(key, element)| Some(((*element).to_owned(), self.number_of(key)?)));
        (self.shelf == "targets").then(|| known.collect())
    }

    /// Grams in a litre at the label dose of a feed or additive; None where dose or, for a liquid,
    /// density is not known.
    #[must_use]
    pub fn label_g_per_l(&self) -> Option<f64> {
        let dose = self.number(keys::DOSE_PER_L)?;
        if self.words(keys::FORM) == Some("liquid") {
            Some(dose * self.number(keys::DENSITY_KG_PER_L)?)
        } else {
            Some(dose)
        }
    }
}

/// All that stands on the shelves.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Stores {
    items: Vec<Item>,
}

impl Stores {
    /// The generic entries, and the grower's own, which take the place of generic ones of the same
    /// name.
    #[must_use]
    pub fn with_own(own: Vec<Item>) -> Self {
        let mut items = own;
        for generic in generic() {
            if !items.iter().any(|i| same(i, &generic.shelf, &generic.name)) {
                items.push(generic);
            }
        }
        Self { items }
    }

    /// The entry of a shelf with this name, whatever the case of its letters.
    ///
    /// ```
    /// use iron_twin_core::stores::Stores;
    /// let stores = Stores::with_own(Vec::new());
    /// assert!(stores.find("media", "Hemp mat").is_some());
    /// assert!(stores.find("media", "moon dust").is_none());
    /// ```
    #[must_use]
    pub fn find(&self, shelf: &str, name: &str) -> Option<&Item> {
        self.items.iter().find(|i| same(i, shelf, name))
    }

    /// All entries, the grower's own first.
    #[must_use]
    pub fn items(&self) -> &[Item] {
        &self.items
    }
}

fn same(item: &Item, shelf: &str, name: &str) -> bool {
    item.shelf == shelf && item.name.trim().to_lowercase() == name.trim().to_lowercase()
}

/// The entries that ship with the program: no brands; each says where its figures come from.
#[must_use]
pub fn generic() -> Vec<Item> {
    static READ: std::sync::OnceLock<Vec<Item>> = std::sync::OnceLock::new();
    READ.get_or_init(|| {
        shelves::ALL
            .iter()
            .flat_map(|(shelf, csv)| {
                csv::read(shelf, csv.as_bytes()).expect("the generic entries are tested")
            })
            .collect()
    })
    .clone()
}

#[cfg(test)]
mod tests;
