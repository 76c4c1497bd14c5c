//! Words as sentences want them.

/// A text that begins a sentence.
///
/// ```
/// assert_eq!(iron_twin_terms::words::capitalised("half feed"), "Half feed");
/// ```
#[must_use]
pub fn capitalised(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| {
        first.to_uppercase().chain(letters).collect()
    })
}

/// Names one after another.
///
/// ```
/// use iron_twin_terms::words::and;
/// assert_eq!([and(&["a"]), and(&["a", "b"]), and(&["a", "b", "c"])], ["a", "a and b", "a, b and c"]);
/// ```
#[must_use]
pub fn and<T: AsRef<str>>(names: &[T]) -> String {
    match names {
        [] => String::new(),
        [one] => one.as_ref().to_owned(),
        [first @ .., last] => {
            let first: Vec<&str> = first.iter().map(AsRef::as_ref).collect();
            format!("{} and {}", first.join(", "), last.as_ref())
        }
    }
}

/// Days told one by one; of more it is said how many.
const MOST_DAYS_TOLD: usize = 8;

/// Days as a sentence tells them.
///
/// ```
/// use iron_twin_terms::words::days_told;
/// assert_eq!([days_told(&[4]), days_told(&[4, 6, 8])], ["day 4", "days 4, 6 and 8"]);
/// assert_eq!(days_told(&[1, 2, 3, 5, 6, 8, 9, 10, 12]), "9 days from day 1 to day 12");
/// ```
#[must_use]
pub fn days_told(days: &[u32]) -> String {
    match days {
        [] => String::new(),
        [one] => format!("day {one}"),
        [first, .., last] if days.len() > MOST_DAYS_TOLD => {
            format!("{} days from day {first} to day {last}", days.len())
        }
        [before @ .., last] => {
            let before: Vec<String> = before.iter().map(u32::to_string).collect();
            format!("days {} and {last}", before.join(", "))
        }
    }
}

/// `once`, `twice`, `5 times`.
///
/// ```
/// use iron_twin_terms::words::times;
/// assert_eq!([times(1), times(2), times(3)], ["once", "twice", "3 times"]);
/// ```
#[must_use]
pub fn times(n: usize) -> String {
    match n {
        1 => "once".into(),
        2 => "twice".into(),
        n => format!("{n} times"),
    }
}
