//! Tries to sign in, and when one has to wait.

use crate::error::Problem;
use axum::http::StatusCode;
use std::collections::HashMap;
use std::sync::Mutex;
use std::time::{Duration, Instant};

/// Sign-ins that failed, by name.
#[derive(Default)]
pub(crate) struct Tries(Mutex<HashMap<String, (u32, Instant)>>);

/// Failed tries before one has to wait.
const MOST_TRIES: u32 = 5;
/// How long one has to wait then.
const WAIT: Duration = Duration::from_secs(60);

impl Tries {
    pub(crate) fn check(&self, name: &str) -> Result<(), Problem> {
        let tries = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        match tries.get(name) {
            Some((count, last)) if *count >= MOST_TRIES && last.elapsed() < WAIT => Err(Problem::new(
                StatusCode::TOO_MANY_REQUESTS,
                "too_many_tries",
                "Too many tries",
                "Wait a minute, then try again.",
            )),
            _ => Ok(()),
        }
    }

    pub(crate) fn count(&self, name: &str, right: bool) {
        let mut tries = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        if right {
            tries.remove(name);
            return;
        }
        tries.retain(|_, (_, last)| last.elapsed() < WAIT);
        let entry = tries.entry(name.to_owned()).or_insert((0, Instant::now()));
        *entry = (entry.0 + 1, Instant::now());
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tries_run_out() {
        let tries = Tries::default();
        for _ in 0..MOST_TRIES {
            assert!(tries.check("kim").is_ok());
            tries.count("kim", false);
        }
        assert!(tries.check("kim").is_err() && tries.check("lee").is_ok());
        tries.count("kim", true);
        assert!(tries.check("kim").is_ok());
    }
}
