//! The sealed key: which code is which treatment, committed to at the deal and opened at the
//! reveal.
//!
//! A 4 x 4 rack has only 331,776 keys, so a bare hash of the key, or the seed, would give it away.
//! The commitment is SHA-256 over a secret 256-bit nonce followed by the key.

use sha2::{Digest, Sha256};

/// A code with the name of its treatment.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct KeyEntry {
    /// Blind code.
    pub code: String,
    /// Treatment.
    pub treatment: String,
}

/// The key as text: one line `code=treatment` for each unit, sorted by code.
#[must_use]
pub fn key_text(entries: &[KeyEntry]) -> String {
    let mut lines: Vec<String> = entries
        .iter()
        .map(|e| format!("{}={}\n", e.code, e.treatment))
        .collect();
    lines.sort();
    lines.concat()
}

fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|b| format!("{b:02x}")).collect()
}

/// The commitment to a key: 64 hexadecimal digits.
#[must_use]
pub fn commitment(nonce: &[u8; 32], entries: &[KeyEntry]) -> String {
    let mut hash = Sha256::new();
    hash.update(nonce);
    hash.update(key_text(entries).as_bytes());
    hex(&hash.finalize())
}

/// Whether the opened key is the one that was sealed.
#[must_use]
pub fn verify(sealed: &str, nonce: &[u8; 32], entries: &[KeyEntry]) -> bool {
    commitment(nonce, entries) == sealed
}

/// The nonce as text, for the report.
#[must_use]
pub fn nonce_text(nonce: &[u8; 32]) -> String {
    hex(nonce)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn key() -> Vec<KeyEntry> {
        [("K", "plain water"), ("B", "full feed")]
            .map(|(code, treatment)| KeyEntry {
                code: code.into(),
                treatment: treatment.into(),
            })
            .to_vec()
    }

    #[test]
    fn the_commitment_is_sha256_of_nonce_and_key() {
        // python3 -c "import hashlib; print(hashlib.sha256(bytes(32) + b'B=full feed\nK=plain
        // water\n').hexdigest())"
        assert_eq!(
            commitment(&[0; 32], &key()),
            "4660b5ae395026f34fd1a55627f0e8525fecb54abb27d3cc4c7b3798f302bbe1"
        );
    }

    #[test]
    fn any_change_breaks_the_seal() {
        let sealed = commitment(&[7; 32], &key());
        assert!(verify(&sealed, &[7; 32], &key()));
        assert!(!verify(&sealed, &[8; 32], &key()));
        let mut swapped = key();
        swapped[0].treatment = "full feed".into();
        assert!(!verify(&sealed, &[7; 32], &swapped));
    }
}
