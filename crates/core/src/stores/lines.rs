//! A recipe as a grower writes it: one line an ingredient, `2 mL/L part A; 0.4 g/L magnesium
//! sulfate heptahydrate`.

use iron_twin_terms::quantity::FeedForm;

/// A line of a recipe.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// mL or g in a litre.
    pub per_l: f64,
    /// Poured or weighed.
    pub form: FeedForm,
    /// What it is called in Stores.
    pub name: String,
}

/// Why a recipe could not be read.
#[derive(Debug, Clone, PartialEq, Eq, thiserror::Error)]
pub enum LinesError {
    /// No amount, unit and name.
    #[error("'{0}' is not an amount, mL/L or g/L, and a name, as in '2 mL/L part A'")]
    Shape(String),
    /// An amount that cannot be.
    #[error("the amount of {name} must lie between 0 and {MOST_PER_L} in a litre, got {got}")]
    Amount {
        /// Of what.
        name: String,
        /// As written.
        got: String,
    },
    /// Nothing in it.
    #[error("a recipe has at least one line")]
    Empty,
    /// Too much in it.
    #[error("a recipe has at most {MOST_LINES} lines, got {0}")]
    Many(usize),
}

/// Most of one ingredient, mL or g in a litre.
pub const MOST_PER_L: f64 = 500.0;
/// Most lines.
pub const MOST_LINES: usize = 30;

/// Reads lines that stand between semicolons or line ends.
///
/// # Errors
/// [`LinesError`], naming the line.
///
/// ```
/// use iron_twin_core::stores::lines::read;
/// let lines = read("2 mL/L part A, with calcium; 0.4 g/L KNO3")?;
/// assert_eq!((lines[0].per_l, lines[0].name.as_str()), (2.0, "part A, with calcium"));
/// assert!(read("a pinch of salt").is_err());
/// # Ok::<(), iron_twin_core::stores::lines::LinesError>(())
/// ```
pub fn read(text: &str) -> Result<Vec<Line>, LinesError> {
    let lines: Vec<&str> = text
        .split([';', '\n'])
        .map(str::trim)
        .filter(|l| !l.is_empty())
        .collect();
    match lines.len() {
        0 => return Err(LinesError::Empty),
        many if many > MOST_LINES => return Err(LinesError::Many(many)),
        _ => {}
    }
    lines.into_iter().map(line).collect()
}

fn line(text: &str) -> Result<Line, LinesError> {
    let shape = || LinesError::Shape(text.to_owned());
    let mut words = text.splitn(3, char::is_whitespace);
    let (amount, unit, name) = (words.next(), words.next(), words.next());
    let (Some(amount), Some(unit), Some(name)) = (amount, unit, name.map(str::trim)) else {
        return Err(shape());
    };
    let form = match unit.to_lowercase().as_str() {
        "ml/l" => FeedForm::Liquid,
        "g/l" => FeedForm::Powder,
        _ => return Err(shape()),
    };
    let bad = || LinesError::Amount {
        name: name.to_owned(),
        got: amount.to_owned(),
    };
    let per_l: f64 = amount.replace(',', ".").parse().map_err(|_| shape())?;
    if !(0.0..=MOST_PER_L).contains(&per_l) {
        return Err(bad());
    }
    Ok(Line {
        per_l,
        form,
        name: name.to_owned(),
    })
}

/// Lines as [`read`] reads them.
#[must_use]
pub fn write(lines: &[Line]) -> String {
    let line = |l: &Line| format!("{} {}/L {}", l.per_l, l.form.unit(), l.name);
    lines.iter().map(line).collect::<Vec<_>>().join("; ")
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn nonsense_is_refused_by_line() {
        let said = |text: &str| read(text).unwrap_err().to_string();
        assert!(said("").contains("at least one"));
        assert!(said("2 mL/L").contains("'2 mL/L' is not an amount"));
        assert!(said("2 cups/L broth").contains("broth"));
        assert!(
            said("-1 g/L salt").contains("amount of salt must lie between 0 and 500, got -1")
                || said("-1 g/L salt").contains("got -1")
        );
        assert!(
            said("NaN g/L salt").contains("got NaN") && said("1e9 g/L salt").contains("got 1e9")
        );
        assert!(said(&"1 g/L a;".repeat(31)).contains("31"));
    }

    proptest! {
        #[test]
        fn lines_come_back_as_they_were(list in prop::collection::vec((0.0f64..500.0, any::<bool>(), "[a-z][a-z, ]{0,20}[a-z]"), 1..9)) {
            let form = |liquid| if liquid { FeedForm::Liquid } else { FeedForm::Powder };
            let lines: Vec<Line> =
                list.into_iter().map(|(per_l, liquid, name)| Line { per_l, form: form(liquid), name }).collect();
            prop_assert_eq!(read(&write(&lines)).unwrap(), lines);
        }

        #[test]
        fn no_text_panics(text in ".{0,60}") {
            let _ = read(&text);
        }
    }
}
