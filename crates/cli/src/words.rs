//! Words out of closed lists, as several commands take them.

/// The value that a word stands for.
pub fn one_of<T: Copy>(text: &str, words: &[(&str, T)]) -> Result<T, String> {
    words.iter().find(|(word, _)| *word == text).map(|(_, value)| *value).ok_or_else(|| {
        let names: Vec<&str> = words.iter().map(|(word, _)| *word).collect();
        format!("one of {}", names.join(", "))
    })
}
