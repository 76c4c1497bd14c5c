//! Names of what stands beside a data file: made of its whole name, so that the farms of two years
//! in one folder share nothing.

use std::path::{Path, PathBuf};

/// Files of this program end so, which tells nothing of them.
const USUAL: &str = "sqlite";

/// Path of a file or folder beside a data file. Any other ending than the usual one is part of the
/// name: `farm.2025` and `farm.2026` are two farms.
pub(crate) fn beside(data: &Path, what: &str) -> PathBuf {
    if data.extension().is_some_and(|e| e == USUAL) {
        return data.with_extension(what);
    }
    let mut name = data.as_os_str().to_owned();
    name.push(".");
    name.push(what);
    PathBuf::from(name)
}

/// The same as versions before named it, where that is another: all farms of one stem shared it.
pub(crate) fn shared_before(data: &Path, what: &str) -> Option<PathBuf> {
    let then = data.with_extension(what);
    (then != beside(data, what)).then_some(then)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_years_share_nothing_and_the_usual_names_stay() {
        let named = |data: &str| beside(Path::new(data), "photos").display().to_string();
        assert_eq!(named("a/farm.sqlite"), "a/farm.photos");
        assert_eq!(named("a/farm"), "a/farm.photos");
        assert_eq!(named("a/farm.2025"), "a/farm.2025.photos");
        assert_eq!(named("a/farm.2026.sqlite"), "a/farm.2026.photos");
        let before = |data: &str| shared_before(Path::new(data), "photos");
        assert_eq!(before("a/farm.sqlite"), None);
        assert_eq!(before("a/farm.2025"), Some("a/farm.photos".into()));
    }
}
