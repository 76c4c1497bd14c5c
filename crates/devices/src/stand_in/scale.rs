//! A scale that is not there: it settles, it is never quite still, and it fails as scales fail.

use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};
use std::fmt::Write;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use tokio::io::AsyncWriteExt;
use tokio::net::{TcpListener, TcpStream};

/// It speaks so often.
pub const EVERY: Duration = Duration::from_millis(150);
/// Heaviest load, g.
pub const MOST_G: f64 = 5_000.0;
/// Of the way that is left, so much at each step.
const STEP: f64 = 0.55;
/// What a hand adds that still touches the tray, g.
const HAND_G: f64 = 25.0;
/// Its last digit, g.
const DIGIT_G: f64 = 0.1;

/// A fault of the scale.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Fault {
    /// None.
    None,
    /// The cable is out: the line stays open, and nothing comes.
    CableOut,
    /// It hangs up, and nobody answers.
    SwitchedOff,
    /// It says the same for ever, whatever lies on it.
    Frozen,
    /// It sends what is no line of a scale.
    Garbage,
}

/// What the scale feels and shows.
#[derive(Debug)]
pub struct Physics {
    load_g: f64,
    zero_g: f64,
    shown_g: f64,
    /// Steps for which it has not moved.
    still: u32,
    /// Steps for which a hand still touches the load.
    hand: u32,
    fault: Fault,
    frozen: String,
    chance: ChaCha8Rng,
}

impl Physics {
    /// An empty scale.
    #[must_use]
    pub fn new(seed: u64) -> Self {
        Self {
            load_g: 0.0,
            zero_g: 0.0,
            shown_g: 0.0,
            still: 0,
            hand: 0,
            fault: Fault::None,
            frozen: String::new(),
            chance: ChaCha8Rng::seed_from_u64(seed),
        }
    }

    /// Puts something on it in the place of what lay there; 0 lifts it.
    pub fn put(&mut self, g: f64) {
        self.load_g = g;
        self.hand = if g > 0.0 { 3 } else { 0 };
        self.still = 0;
    }

    /// Sets it to zero under what lies on it.
    pub fn zero(&mut self) {
        self.zero_g = self.load_g;
        self.still = 0;
    }

    /// Makes it fail, or mends it.
    pub fn fail(&mut self, fault: Fault) {
        self.frozen = self.line();
        self.fault = fault;
    }

    /// How it fails.
    #[must_use]
    pub fn fault(&self) -> Fault {
        self.fault
    }

    /// What lies on it, g.
    #[must_use]
    pub fn load_g(&self) -> f64 {
        self.load_g
    }

    fn line(&mut self) -> String {
        if self.load_g > MOST_G {
            return "overload".into();
        }
        // Never quite still: the last digit goes to and fro.
        let noise = self.chance.random_range(-0.06..0.06);
        let digit = ((self.shown_g + noise) / DIGIT_G).round() * DIGIT_G;
        let state = if self.still >= 3 { "stable" } else { "moving" };
        format!(
            "{:.1} g {state}",
            if digit.abs() < DIGIT_G / 2.0 {
                0.0
            } else {
                digit
            }
        )
    }

    /// One step on: the line it says, with its end.
    pub fn step(&mut self) -> String {
        let hand = if self.hand > 0 {
            self.chance.random_range(-HAND_G..HAND_G)
        } else {
            0.0
        };
        self.hand = self.hand.saturating_sub(1);
        let aim = self.load_g - self.zero_g + hand;
        self.shown_g += (aim - self.shown_g) * STEP;
        let near = (aim - self.shown_g).abs() < 0.05;
        self.shown_g = if near { aim } else { self.shown_g };
        self.still = if near && hand == 0.0 {
            self.still + 1
        } else {
            0
        };
        let line = match self.fault {
            Fault::Frozen => self.frozen.clone(),
            Fault::Garbage => {
                (0..self.chance.random_range(1..200)).fold(String::new(), |mut text, _| {
                    let _ = write!(text, "{}", char::from(self.chance.random_range(33..127u8)));
                    text
                })
            }
            _ => self.line(),
        };
        line + "\r\n"
    }
}

/// A scale that others can reach.
#[derive(Clone)]
pub struct StandIn {
    physics: Arc<Mutex<Physics>>,
    said: tokio::sync::watch::Sender<String>,
}

impl StandIn {
    /// An empty scale.
    #[must_use]
    pub fn new(seed: u64) -> Self {
        let (said, _) = tokio::sync::watch::channel(String::new());
        Self {
            physics: Arc::new(Mutex::new(Physics::new(seed))),
            said,
        }
    }

    /// What it feels and shows.
    pub fn physics(&self) -> MutexGuard<'_, Physics> {
        self.physics.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Steps on for ever, and speaks to all who listen.
    pub async fn run(self, listener: TcpListener) {
        let own = self.clone();
        let stepping = async move {
            let mut clock = tokio::time::interval(EVERY);
            loop {
                clock.tick().await;
                let line = own.physics().step();
                own.said.send_replace(line);
            }
        };
        let answering = async move {
            loop {
                match listener.accept().await {
                    Ok((stream, _)) => _ = tokio::spawn(self.clone().speak(stream)),
                    Err(_) => tokio::time::sleep(EVERY).await,
                }
            }
        };
        tokio::join!(stepping, answering);
    }

    async fn speak(self, mut stream: TcpStream) {
        let mut lines = self.said.subscribe();
        while lines.changed().await.is_ok() {
            let fault = self.physics().fault();
            let line = lines.borrow_and_update().clone();
            match fault {
                Fault::CableOut => {}
                Fault::SwitchedOff => return,
                _ => {
                    if stream.write_all(line.as_bytes()).await.is_err() {
                        return;
                    }
                }
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::scale::line::read;
    use iron_twin_core::weigh::steady::{NotSettled, ScaleSays, Steady};

    /// Steps of a scale, as they are heard.
    fn heard(
        physics: &mut Physics,
        steady: &mut Steady,
        from: &mut u64,
        steps: u32,
    ) -> Result<f64, NotSettled> {
        for _ in 0..steps {
            *from += 150;
            if let Some(says) = read(physics.step().trim_end().as_bytes()) {
                steady.hear(*from, says);
            }
        }
        steady.settled(*from)
    }

    #[test]
    fn what_is_taken_is_what_lies_on_it_to_a_digit() {
        for seed in 0..200 {
            let (mut physics, mut steady, mut ms) = (Physics::new(seed), Steady::default(), 0);
            let g = 40.0 + 7.3 * seed as f64;
            assert_eq!(
                heard(&mut physics, &mut steady, &mut ms, 10),
                Err(NotSettled::Empty)
            );
            physics.put(g);
            let mut settled = None;
            for step in 0..40 {
                if let Ok(taken) = heard(&mut physics, &mut steady, &mut ms, 1) {
                    settled = Some((step, taken));
                    break;
                }
            }
            let (step, taken) = settled.expect("it settles");
            assert!((taken - g).abs() < 0.16, "{taken} of {g}");
            // Not before the hand is off, and within 4 seconds.
            assert!((6..27).contains(&step), "{step}");
            steady.took();
            physics.put(0.0);
            assert_ne!(heard(&mut physics, &mut steady, &mut ms, 1), Ok(taken));
            assert_eq!(
                heard(&mut physics, &mut steady, &mut ms, 30),
                Err(NotSettled::Empty)
            );
        }
    }

    #[test]
    fn its_faults_are_told() {
        let (mut physics, mut steady, mut ms) = (Physics::new(7), Steady::default(), 0);
        physics.put(9_000.0);
        assert_eq!(
            heard(&mut physics, &mut steady, &mut ms, 20),
            Err(NotSettled::Overload)
        );
        physics.put(300.0);
        assert!(heard(&mut physics, &mut steady, &mut ms, 30).is_ok());
        // Frozen: the load is changed, and it says the same. It is not taken a second time.
        steady.took();
        physics.fail(Fault::Frozen);
        physics.put(0.0);
        heard(&mut physics, &mut steady, &mut ms, 20).unwrap_err();
        physics.put(500.0);
        assert_eq!(
            heard(&mut physics, &mut steady, &mut ms, 40),
            Err(NotSettled::Taken)
        );
        physics.fail(Fault::Garbage);
        assert_eq!(
            (0..50)
                .filter(|_| read(physics.step().trim_end().as_bytes()).is_some())
                .count(),
            0
        );
        physics.fail(Fault::None);
        physics.zero();
        assert_eq!(
            heard(&mut physics, &mut steady, &mut ms, 40),
            Err(NotSettled::Empty)
        );
        physics.put(0.0);
        assert_eq!(
            heard(&mut physics, &mut steady, &mut ms, 40),
            Err(NotSettled::BelowZero)
        );
        let last = read(physics.step().trim_end().as_bytes());
        assert!(
            matches!(last, Some(ScaleSays::Weight { g, stable: true }) if (g + 500.0).abs() < 0.2),
            "{last:?}"
        );
    }
}
