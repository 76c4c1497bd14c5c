//! Tries to sign in, and when one has to wait.
//!
//! Counted by the address from which they come, so that strangers who try a name do not shut out
//! the one who bears it.

use crate::error::Problem;
use axum::extract::FromRequestParts;
use axum::http::StatusCode;
use axum::http::request::Parts;
use std::collections::{HashMap, HashSet};
use std::convert::Infallible;
use std::net::{IpAddr, Ipv4Addr};
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

/// The address from which a request comes.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Peer(pub IpAddr);

impl<S: Send + Sync> FromRequestParts<S> for Peer {
    type Rejection = Infallible;

    async fn from_request_parts(parts: &mut Parts, _: &S) -> Result<Self, Infallible> {
        Ok(parts
            .extensions
            .get::<Self>()
            .copied()
            .unwrap_or(Self(IpAddr::V4(Ipv4Addr::LOCALHOST))))
    }
}

/// Sign-ins that failed.
#[derive(Default)]
pub(crate) struct Tries(Mutex<Counted>);

#[derive(Default)]
struct Counted {
    /// By address and name, with the last.
    tries: HashMap<(IpAddr, String), (u32, Instant)>,
    /// Addresses from which somebody has come in since the start.
    known: HashSet<IpAddr>,
}

/// Failed tries of a name from one address before one has to wait.
const MOST_OF_NAME: u32 = 5;
/// Failed tries from one address.
const MOST_OF_ADDRESS: u32 = 20;
/// Failed tries from all addresses together from which nobody ever came in; the others, and this
/// computer, are not held up by them.
const MOST_OF_STRANGERS: u32 = 100;
/// Addresses that are remembered.
const MOST_KNOWN: usize = 200;
/// How long one has to wait then.
const WAIT: Duration = Duration::from_secs(60);

impl Counted {
    fn is_known(&self, address: IpAddr) -> bool {
        address.is_loopback() || self.known.contains(&address)
    }

    fn sum(&self, of: impl Fn(IpAddr) -> bool) -> u32 {
        self.tries
            .iter()
            .filter(|((address, _), _)| of(*address))
            .map(|(_, (count, _))| count)
            .sum()
    }
}

impl Tries {
    /// Counts a try before it is looked at, so that many at once are no more than one after the
    /// other.
    pub(crate) fn begin(&self, Peer(address): Peer, name: &str) -> Result<(), Problem> {
        let mut own = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        own.tries.retain(|_, (_, last)| last.elapsed() < WAIT);
        let refused = |detail: &str| {
            Err(Problem::new(
                StatusCode::TOO_MANY_REQUESTS,
                "too_many_tries",
                "Too many tries",
                detail.to_owned(),
            ))
        };
        let key = (address, name.to_owned());
        if own
            .tries
            .get(&key)
            .is_some_and(|(count, _)| *count >= MOST_OF_NAME)
        {
            return refused("Wait a minute, then try again.");
        }
        if own.sum(|other| other == address) >= MOST_OF_ADDRESS {
            return refused(
                "Many names are tried from this address; wait a minute, then try again.",
            );
        }
        if !own.is_known(address) && own.sum(|other| !own.is_known(other)) >= MOST_OF_STRANGERS {
            return refused(
                "Many try to sign in at once; wait a minute, or sign in on the computer itself.",
            );
        }
        let tried = own.tries.entry(key).or_insert((0, Instant::now()));
        *tried = (tried.0 + 1, Instant::now());
        Ok(())
    }

    /// Forgets the tries of somebody who came in, and remembers from where.
    pub(crate) fn came_in(&self, Peer(address): Peer, name: &str) {
        let mut own = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        own.tries.remove(&(address, name.to_owned()));
        if own.known.len() < MOST_KNOWN {
            own.known.insert(address);
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn peer(last: u8) -> Peer {
        Peer(IpAddr::V4(Ipv4Addr::new(192, 168, 1, last)))
    }

    /// Tries that are looked at, of so many.
    fn looked_at(tries: &Tries, peer: Peer, names: impl Iterator<Item = String>) -> usize {
        names.filter(|name| tries.begin(peer, name).is_ok()).count()
    }

    #[test]
    fn tries_run_out_by_name_and_by_address() {
        let tries = Tries::default();
        assert_eq!(
            looked_at(&tries, peer(1), std::iter::repeat_n("kim".into(), 400)),
            MOST_OF_NAME as usize
        );
        assert!(
            tries.begin(peer(2), "kim").is_ok(),
            "strangers who try her name do not shut her out"
        );
        tries.came_in(peer(2), "kim");
        assert_eq!(
            looked_at(&tries, peer(2), std::iter::repeat_n("kim".into(), 400)),
            MOST_OF_NAME as usize
        );
        let left = (MOST_OF_ADDRESS - MOST_OF_NAME) as usize;
        assert_eq!(
            looked_at(&tries, peer(1), (0..400).map(|n| format!("name {n}"))),
            left
        );
    }

    #[test]
    fn strangers_together_run_out_and_who_has_come_in_before_does_not_wait_for_them() {
        let tries = Tries::default();
        let home = peer(200);
        tries.came_in(home, "ada");
        let from_each =
            (1..100).map(|n| looked_at(&tries, peer(n), (0..30).map(|k| format!("{n} {k}"))));
        assert_eq!(from_each.sum::<usize>(), MOST_OF_STRANGERS as usize);
        assert!(
            tries.begin(peer(150), "ada").is_err(),
            "a new address waits"
        );
        assert!(
            tries.begin(home, "ada").is_ok(),
            "one from which she came in does not"
        );
        assert!(
            tries
                .begin(Peer(IpAddr::V4(Ipv4Addr::LOCALHOST)), "ada")
                .is_ok(),
            "nor the computer itself"
        );
    }
}
