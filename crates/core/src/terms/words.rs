//! Words as sentences want them.

/// A text that begins a sentence.
///
/// ```
/// assert_eq!(iron_twin_core::terms::words::capitalised("half feed"), "Half feed");
/// ```
#[must_use]
pub fn capitalised(text: &str) -> String {
    let mut letters = text.chars();
    letters.next().map_or_else(String::new, |first| first.to_uppercase().chain(letters).collect())
}
