//! Chemical formulas: read, weighed, and taken apart into nutrients and ions.

use super::elements::{ATOMIC_WEIGHTS, atomic_weight, index};
use super::ions::{Ion, Ions};
use super::nutrients::{Nutrient, Nutrients};

/// What is wrong with a formula.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum FormulaError {
    /// Nothing written.
    #[error("the formula is empty")]
    Empty,
    /// A symbol that stands for no element known here.
    #[error("'{0}' is no element known here")]
    UnknownElement(String),
    /// A bracket opened and not closed, or the other way round.
    #[error("the parentheses do not close")]
    UnbalancedParentheses,
    /// A sign that belongs in no formula.
    #[error("'{0}' cannot stand in a formula")]
    Sign(char),
    /// A count of zero, or one too large to be meant.
    #[error("{0} is no count of atoms")]
    Count(String),
    /// More than can be meant.
    #[error("a formula has at most {MOST_LETTERS} letters")]
    TooLong,
}

/// Longest formula that is read.
pub const MOST_LETTERS: usize = 200;
/// Most atoms of one kind that is taken for meant.
const MOST_ATOMS: u32 = 1000;

/// An atom or a bracketed group, with its count.
#[derive(Debug, Clone, PartialEq)]
enum Part {
    Atom(usize, u32),
    Group(Vec<Part>, u32),
}

/// A formula that was read.
#[derive(Debug, Clone, PartialEq)]
pub struct Formula {
    /// Parts joined by dots, each with its factor: `CaSO4` once and `H2O` twice.
    joined: Vec<(f64, Vec<Part>)>,
}

/// Signs that join a hydrate.
const JOINS: [char; 6] = ['·', '*', '.', '•', '∙', '⋅'];

struct Reader<'a> {
    letters: std::iter::Peekable<std::str::Chars<'a>>,
}

impl Reader<'_> {
    /// A whole number, 1 where none stands.
    fn count(&mut self) -> Result<u32, FormulaError> {
        let mut digits = String::new();
        while let Some(d) = self.letters.next_if(char::is_ascii_digit) {
            digits.push(d);
        }
        if digits.is_empty() {
            return Ok(1);
        }
        digits
            .parse()
            .ok()
            .filter(|n| (1..=MOST_ATOMS).contains(n))
            .ok_or(FormulaError::Count(digits))
    }

    /// A factor before a joined part, `0.5` or `2`; 1 where none stands.
    fn factor(&mut self) -> Result<f64, FormulaError> {
        let mut digits = String::new();
        while let Some(d) = self
            .letters
            .next_if(|c| c.is_ascii_digit() || (*c == '.' && !digits.contains('.')))
        {
            digits.push(d);
        }
        if digits.is_empty() {
            return Ok(1.0);
        }
        let most = f64::from(MOST_ATOMS);
        digits
            .parse()
            .ok()
            .filter(|f| *f > 0.0 && *f <= most)
            .ok_or(FormulaError::Count(digits))
    }

    fn symbol(&mut self, first: char) -> Result<usize, FormulaError> {
        let mut symbol = String::from(first);
        if let Some(second) = self.letters.next_if(char::is_ascii_lowercase) {
            symbol.push(second);
        }
        index(&symbol).ok_or(FormulaError::UnknownElement(symbol))
    }

    /// Parts up to the closing bracket, a join, or the end.
    fn parts(&mut self, close: Option<char>) -> Result<Vec<Part>, FormulaError> {
        let mut parts = Vec::new();
        loop {
            match self.letters.peek().copied() {
                None if close.is_some() => return Err(FormulaError::UnbalancedParentheses),
                None => return Ok(parts),
                Some(c) if JOINS.contains(&c) && close.is_none() => return Ok(parts),
                Some(c) => {
                    self.letters.next();
                    match c {
                        '(' | '[' => {
                            let inner = self.parts(Some(if c == '(' { ')' } else { ']' }))?;
                            if inner.is_empty() {
                                return Err(FormulaError::UnbalancedParentheses);
                            }
                            let count = self.count()?;
                            parts.push(Part::Group(inner, count));
                        }
                        ')' | ']' if close == Some(c) => return Ok(parts),
                        ')' | ']' => return Err(FormulaError::UnbalancedParentheses),
                        'A'..='Z' => {
                            let atom = self.symbol(c)?;
                            let count = self.count()?;
                            parts.push(Part::Atom(atom, count));
                        }
                        other => return Err(FormulaError::Sign(other)),
                    }
                }
            }
        }
    }
}

/// Small digits below the line, as textbooks print them, read as plain ones.
fn plain(letter: char) -> char {
    match letter {
        '₀'..='₉' => char::from(b'0' + (letter as u32 - '₀' as u32) as u8),
        other => other,
    }
}

impl std::str::FromStr for Formula {
    type Err = FormulaError;

    /// Reads a formula with brackets and hydrates; `·`, `*` and `.` all join.
    ///
    /// ```
    /// use iron_twin_chemistry::formula::{Formula, FormulaError};
    /// let salt: Formula = "Ca(NO3)2·4H2O".parse()?;
    /// assert!((salt.molar_mass() - 236.146).abs() < 0.01);
    /// assert_eq!("Ca(NO3".parse::<Formula>(), Err(FormulaError::UnbalancedParentheses));
    /// # Ok::<(), FormulaError>(())
    /// ```
    fn from_str(text: &str) -> Result<Self, FormulaError> {
        if text.chars().count() > MOST_LETTERS {
            return Err(FormulaError::TooLong);
        }
        let text: String = text
            .chars()
            .filter(|c| !c.is_whitespace())
            .map(plain)
            .collect();
        if text.is_empty() {
            return Err(FormulaError::Empty);
        }
        let mut reader = Reader {
            letters: text.chars().peekable(),
        };
        let mut joined = Vec::new();
        loop {
            let factor = reader.factor()?;
            let parts = reader.parts(None)?;
            if parts.is_empty() {
                return Err(FormulaError::Empty);
            }
            joined.push((factor, parts));
            if reader.letters.next().is_none() {
                return Ok(Self { joined });
            }
        }
    }
}

/// Moles of each element in a list of parts, by index of the table.
fn count_into(parts: &[Part], factor: f64, into: &mut [f64; ATOMIC_WEIGHTS.len()]) {
    for part in parts {
        match part {
            Part::Atom(atom, count) => into[*atom] += factor * f64::from(*count),
            Part::Group(inner, count) => count_into(inner, factor * f64::from(*count), into),
        }
    }
}

/// Groups that leave an ion or a known form: atoms in their order, and what they leave.
const GROUPS: [(&[(&str, u32)], Leaves); 13] = [
    (&[("N", 1), ("O", 3)], Leaves::Ion(Ion::NO3, 0)),
    (&[("N", 1), ("H", 4)], Leaves::Ion(Ion::NH4, 0)),
    (&[("H", 3), ("P", 1), ("O", 4)], Leaves::Ion(Ion::H2PO4, 1)),
    (&[("H", 2), ("P", 1), ("O", 4)], Leaves::Ion(Ion::H2PO4, 0)),
    (&[("H", 1), ("P", 1), ("O", 4)], Leaves::Ion(Ion::HPO4, 0)),
    (&[("H", 2), ("S", 1), ("O", 4)], Leaves::Ion(Ion::SO4, 2)),
    (&[("S", 1), ("O", 4)], Leaves::Ion(Ion::SO4, 0)),
    (&[("H", 1), ("C", 1), ("O", 3)], Leaves::Ion(Ion::HCO3, 0)),
    (&[("C", 1), ("O", 3)], Leaves::Ion(Ion::CO3, 0)),
    (&[("O", 1), ("H", 1)], Leaves::Ion(Ion::OH, 0)),
    (&[("Mo", 1), ("O", 4)], Leaves::Ion(Ion::MoO4, 0)),
    (&[("H", 2), ("O", 1)], Leaves::Nothing),
    (&[("H", 3), ("B", 1), ("O", 3)], Leaves::Nothing),
];

#[derive(Clone, Copy)]
enum Leaves {
    /// An ion, and so many acid protons beside it.
    Ion(Ion, u32),
    /// Uncharged and understood.
    Nothing,
}

/// Single atoms that stand as ions.
const SINGLE: [(&str, Ion); 9] = [
    ("K", Ion::K),
    ("Na", Ion::Na),
    ("Ca", Ion::Ca),
    ("Mg", Ion::Mg),
    ("Cl", Ion::Cl),
    ("Fe", Ion::Fe),
    ("Mn", Ion::Mn),
    ("Zn", Ion::Zn),
    ("Cu", Ion::Cu),
];

/// Ions of a list of parts; None where a part is not understood, as in a chelate.
fn ions_of(parts: &[Part]) -> Option<Ions> {
    let mut ions = Ions::default();
    let mut rest = parts;
    while let Some(first) = rest.first() {
        if let Part::Group(inner, count) = first {
            ions.add_scaled(&ions_of(inner)?, f64::from(*count));
            rest = &rest[1..];
            continue;
        }
        let begins = |group: &[(&str, u32)]| {
            rest.len() >= group.len()
                && group.iter().zip(rest).all(|((symbol, count), part)| {
                    matches!(part, Part::Atom(atom, own) if own == count && ATOMIC_WEIGHTS[*atom].0 == *symbol)
                })
        };
        if let Some((group, leaves)) = GROUPS.iter().find(|(group, _)| begins(group)) {
            if let Leaves::Ion(ion, protons) = *leaves {
                ions.add(ion, 1.0);
                ions.add(Ion::H, f64::from(protons));
            }
            rest = &rest[group.len()..];
            continue;
        }
        let Part::Atom(atom, count) = first else {
            return None;
        };
        let symbol = ATOMIC_WEIGHTS[*atom].0;
        let single = SINGLE
            .iter()
            .find(|(own, _)| *own == symbol)
            .map(|(_, ion)| *ion);
        // A hydrogen that leads a nitrate or a chloride is an acid's.
        let ion = if symbol == "H" && *count == 1 {
            Some(Ion::H)
        } else {
            single
        };
        ions.add(ion?, f64::from(*count));
        rest = &rest[1..];
    }
    Some(ions)
}

impl Formula {
    /// Moles of each element in a mole, by symbol.
    #[must_use]
    pub fn atoms(&self) -> Vec<(&'static str, f64)> {
        let mut counts = [0.0; ATOMIC_WEIGHTS.len()];
        self.joined
            .iter()
            .for_each(|(factor, parts)| count_into(parts, *factor, &mut counts));
        ATOMIC_WEIGHTS
            .iter()
            .zip(counts)
            .filter(|(_, n)| *n > 0.0)
            .map(|((symbol, _), n)| (*symbol, n))
            .collect()
    }

    /// Mass of a mole, g.
    #[must_use]
    pub fn molar_mass(&self) -> f64 {
        self.atoms()
            .iter()
            .map(|(symbol, n)| n * atomic_weight(symbol).unwrap_or(0.0))
            .sum()
    }

    /// Urea stands as a molecule of its own: CO(NH2)2, or CH4N2O.
    fn is_urea(&self) -> bool {
        let atoms = self.atoms();
        self.joined.len() == 1 && atoms == [("H", 4.0), ("C", 1.0), ("N", 2.0), ("O", 1.0)]
    }

    /// Ions that a mole leaves in water, mol. A formula whose parts are not known as ions, such as
    /// a chelate or a sugar, leaves none.
    ///
    /// ```
    /// use iron_twin_chemistry::{formula::Formula, ions::Ion};
    /// let ions = "NH4H2PO4".parse::<Formula>()?.ions();
    /// assert_eq!((ions.get(Ion::NH4), ions.get(Ion::H2PO4)), (1.0, 1.0));
    /// # Ok::<(), iron_twin_chemistry::formula::FormulaError>(())
    /// ```
    #[must_use]
    pub fn ions(&self) -> Ions {
        let mut all = Ions::default();
        for (factor, parts) in &self.joined {
            match ions_of(parts) {
                Some(ions) => all.add_scaled(&ions, *factor),
                None => return Ions::default(),
            }
        }
        all
    }

    /// Nutrients in a mole, g. Nitrogen that is neither nitrate, ammonium nor urea is counted as
    /// bound otherwise.
    #[must_use]
    pub fn nutrients(&self) -> Nutrients {
        let mut nutrients = Nutrients::default();
        let ions = self.ions();
        for (symbol, moles) in self.atoms() {
            let mass = moles * atomic_weight(symbol).unwrap_or(0.0);
            if symbol == "N" {
                let each = atomic_weight("N").unwrap_or(0.0);
                let (nitrate, ammonium) = (ions.get(Ion::NO3) * each, ions.get(Ion::NH4) * each);
                nutrients.add(Nutrient::NNitrate, nitrate);
                nutrients.add(Nutrient::NAmmonium, ammonium);
                let rest = (mass - nitrate - ammonium).max(0.0);
                let form = if self.is_urea() {
                    Nutrient::NUrea
                } else {
                    Nutrient::NOther
                };
                nutrients.add(form, if rest < 1e-9 { 0.0 } else { rest });
            } else if let Some(nutrient) = Nutrient::ALL.into_iter().find(|n| n.symbol() == symbol)
            {
                nutrients.add(nutrient, mass);
            }
        }
        nutrients
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Formula {
        text.parse().unwrap_or_else(|e| panic!("{text}: {e}"))
    }

    #[test]
    fn hydrates_join_however_they_are_written() {
        let dotted = read("MgSO4·7H2O");
        for other in ["MgSO4*7H2O", "MgSO4.7H2O", "MgSO₄ · 7H₂O", "MgSO4(H2O)7"] {
            assert!(
                (read(other).molar_mass() - dotted.molar_mass()).abs() < 1e-9,
                "{other}"
            );
        }
        assert!(
            (read("CaSO4.0.5H2O").molar_mass() - (read("CaSO4").molar_mass() + 9.0075)).abs()
                < 1e-9
        );
        assert!((read("5Ca(NO3)2·NH4NO3·10H2O").molar_mass() - 1080.69).abs() < 0.1);
    }

    #[test]
    fn slips_are_named() {
        let refused = |text: &str| text.parse::<Formula>().unwrap_err();
        assert_eq!(refused(" "), FormulaError::Empty);
        assert_eq!(refused("KNo3"), FormulaError::UnknownElement("No".into()));
        assert_eq!(refused("Ca(NO3"), FormulaError::UnbalancedParentheses);
        assert_eq!(refused("CaNO3)2"), FormulaError::UnbalancedParentheses);
        assert_eq!(refused("Ca()2"), FormulaError::UnbalancedParentheses);
        assert_eq!(refused("K+"), FormulaError::Sign('+'));
        assert_eq!(refused("KCl0"), FormulaError::Count("0".into()));
        assert_eq!(refused("KCl·"), FormulaError::Empty);
        assert_eq!(refused(&"H".repeat(201)), FormulaError::TooLong);
        assert!(matches!(refused("H99999999999"), FormulaError::Count(_)));
    }

    #[test]
    fn salts_are_neutral_and_leave_what_they_should() {
        let salts = [
            "Ca(NO3)2·4H2O",
            "KNO3",
            "NH4NO3",
            "MgSO4·7H2O",
            "KH2PO4",
            "K2HPO4",
            "NH4H2PO4",
            "(NH4)2HPO4",
            "K2SO4",
            "(NH4)2SO4",
            "Ca(H2PO4)2·H2O",
            "CaCl2·2H2O",
            "KCl",
            "NaCl",
            "K2CO3",
            "KHCO3",
            "KOH",
            "HNO3",
            "H3PO4",
            "H2SO4",
            "HCl",
            "Mg(NO3)2·6H2O",
            "5Ca(NO3)2·NH4NO3·10H2O",
            "FeSO4·7H2O",
            "MnSO4·H2O",
            "ZnSO4·7H2O",
            "CuSO4·5H2O",
            "Na2MoO4·2H2O",
            "CaSO4·2H2O",
            "Ca(OH)2",
        ];
        for salt in salts {
            let ions = read(salt).ions();
            assert!(ions.present().count() >= 2, "{salt} leaves no ions");
            assert!(ions.charge_balance_percent().abs() < 1e-12, "{salt}");
        }
        for other in ["H3BO3", "CO(NH2)2", "C10H12FeN2NaO8", "C12H22O11"] {
            assert_eq!(read(other).ions().present().count(), 0, "{other}");
        }
    }

    #[test]
    fn nitrogen_is_told_by_its_form() {
        let mixed = read("NH4NO3").nutrients();
        assert!((mixed.get(Nutrient::NNitrate) - 14.007).abs() < 1e-9);
        assert!((mixed.get(Nutrient::NAmmonium) - 14.007).abs() < 1e-9);
        for urea in ["CO(NH2)2", "CH4N2O"] {
            assert!(
                (read(urea).nutrients().get(Nutrient::NUrea) - 28.014).abs() < 1e-9,
                "{urea}"
            );
        }
        let chelate = read("C10H12FeN2NaO8").nutrients();
        assert!((chelate.get(Nutrient::NOther) - 28.014).abs() < 1e-9);
        assert!((chelate.get(Nutrient::Fe) - 55.845).abs() < 1e-9);
    }
}
