//! Words out of closed lists, as several commands take them.

/// The value that a word stands for.
pub fn one_of<T: Copy>(text: &str, words: &[(&str, T)]) -> Result<T, String> {
    words
        .iter()
        .find(|(word, _)| *word == text)
        .map(|(_, value)| *value)
        .ok_or_else(|| {
            let names: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
            format!("one of {}", names.join(", "))
        })
}

/// What the core says of its fields, as the options of a command: `margin` becomes --margin.
///
/// ```text
/// `goal` match needs `margin`    becomes    --goal match needs --margin
/// ```
pub fn as_options(error: &impl std::fmt::Display) -> String {
    let said = error.to_string();
    let mut parts = said.split('`');
    let mut out = parts.next().unwrap_or_default().to_owned();
    for (n, part) in parts.enumerate() {
        if n % 2 == 0 {
            out.push_str("--");
        }
        out.push_str(part);
    }
    out
}
