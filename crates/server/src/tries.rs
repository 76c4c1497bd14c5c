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
/// Names that are tried within a minute before new ones have to wait.
const MOST_NAMES: usize = 200;
/// How long one has to wait then.
const WAIT: Duration = Duration::from_secs(60);

impl Tries {
    /// Counts a try before it is looked at, so that many at once are no more than one after the other.
    pub(crate) fn begin(&self, name: &str) -> Result<(), Problem> {
        let mut tries = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
        tries.retain(|_, (_, last)| last.elapsed() < WAIT);
        let refused = |detail: &str| {
            Err(Problem::new(StatusCode::TOO_MANY_REQUESTS, "too_many_tries", "Too many tries", detail.to_owned()))
        };
        let full = tries.len() >= MOST_NAMES;
        match tries.get_mut(name) {
            Some((count, _)) if *count >= MOST_TRIES => refused("Wait a minute, then try again."),
            Some(known) => {
                *known = (known.0 + 1, Instant::now());
                Ok(())
            }
            None if full => refused("Many names are tried at once; wait a minute, then try again."),
            None => {
                tries.insert(name.to_owned(), (1, Instant::now()));
                Ok(())
            }
        }
    }

    /// Forgets the tries of somebody who came in.
    pub(crate) fn came_in(&self, name: &str) {
        self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner).remove(name);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn tries_run_out() {
        let tries = Tries::default();
        for _ in 0..MOST_TRIES {
            assert!(tries.begin("kim").is_ok());
        }
        assert!(tries.begin("kim").is_err() && tries.begin("lee").is_ok());
        tries.came_in("kim");
        assert!(tries.begin("kim").is_ok());
        (0..2 * MOST_NAMES).for_each(|n| drop(tries.begin(&format!("name {n}"))));
        assert!(tries.begin("somebody else").is_err(), "the list of names is bounded");
        assert!(tries.begin("lee").is_ok(), "who has tried before is not shut out by strangers");
    }
}
