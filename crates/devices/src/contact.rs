//! How the line to a device stands, and how it is kept.

use serde::Serialize;
use std::time::Duration;
use tokio::net::TcpStream;

/// How the line to a device stands.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[serde(tag = "state", rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum Contact {
    /// It is being reached for the first time.
    Reaching,
    /// It speaks, and is understood.
    Live,
    /// It is not there, or says what cannot be understood; it is tried again and again.
    Lost {
        /// Why, in a grower's words.
        why: String,
    },
}

/// A peer must answer the first knock in this time.
const KNOCK: Duration = Duration::from_secs(3);
/// The shortest wait before a line is tried again.
const FIRST_WAIT: Duration = Duration::from_millis(250);
/// The longest one.
const LONGEST_WAIT: Duration = Duration::from_secs(5);

/// How long to wait before the line is tried again: longer each time it was in vain.
#[derive(Debug)]
pub struct Waits(Duration);

impl Default for Waits {
    fn default() -> Self {
        Self(FIRST_WAIT)
    }
}

impl Waits {
    /// Waits, and longer the next time.
    pub async fn wait(&mut self) {
        tokio::time::sleep(self.0).await;
        self.0 = (self.0 * 2).min(LONGEST_WAIT);
    }

    /// It answered: the next wait is short again.
    pub fn answered(&mut self) {
        self.0 = FIRST_WAIT;
    }
}

/// Opens the line to `host:port`.
///
/// # Errors
/// Why there is none, in a grower's words.
pub async fn reach(address: &str) -> Result<TcpStream, String> {
    let stream = match tokio::time::timeout(KNOCK, TcpStream::connect(address)).await {
        Ok(Ok(stream)) => stream,
        Ok(Err(error)) if error.kind() == std::io::ErrorKind::ConnectionRefused => {
            return Err(format!("nothing listens at {address}"));
        }
        Ok(Err(error)) => return Err(format!("{address} cannot be reached: {error}")),
        Err(_) => return Err(format!("{address} does not answer")),
    };
    let _ = stream.set_nodelay(true);
    Ok(stream)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[tokio::test(start_paused = true)]
    async fn waits_grow_to_their_longest_and_begin_anew_once_it_answers() {
        let mut waits = Waits::default();
        let mut told = Vec::new();
        for turn in 0..7 {
            let from = tokio::time::Instant::now();
            waits.wait().await;
            told.push(from.elapsed().as_millis());
            if turn == 5 {
                waits.answered();
            }
        }
        assert_eq!(told, [250, 500, 1000, 2000, 4000, 5000, 250]);
    }
}
