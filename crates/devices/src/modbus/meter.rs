//! A probe or a meter: what its registers hold, once a second.

use super::registers::{Measured, Register, Table};
use super::{EVERY, asked, open};
use crate::contact::{Contact, Waits};
use serde::Serialize;
use std::collections::VecDeque;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};
use tokio_modbus::client::Context;
use tokio_modbus::{Request, Response};

/// A value counts as still once it has stood so long.
const STILL: Duration = Duration::from_secs(4);
/// What was read longer ago than this is old.
const OLD: Duration = Duration::from_secs(4);
/// A value that is the same to the last digit for so long is told: a living probe goes to and fro.
const FROZEN: Duration = Duration::from_secs(600);

/// A value as it shows now.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MeterValue {
    /// Of what.
    pub measures: Measured,
    /// In its unit; None where the instrument says what cannot be, such as a dry probe.
    pub value: Option<f64>,
    /// Whether it stands still.
    pub still: bool,
    /// Whether it has been the same to the last digit for ten minutes.
    pub frozen: bool,
}

/// What a register said lately.
#[derive(Debug, Clone, Default)]
struct Track {
    lately: VecDeque<(Instant, f64)>,
    same_since: Option<(Instant, f64)>,
}

impl Track {
    fn hear(&mut self, now: Instant, value: Option<f64>) {
        let Some(value) = value else {
            *self = Self::default();
            return;
        };
        if self
            .lately
            .back()
            .is_some_and(|(before, _)| now - *before > OLD)
        {
            self.lately.clear();
        }
        self.lately.push_back((now, value));
        while self
            .lately
            .get(1)
            .is_some_and(|(second, _)| now - *second >= STILL)
        {
            self.lately.pop_front();
        }
        if self.same_since.is_none_or(|(_, same)| same != value) {
            self.same_since = Some((now, value));
        }
    }

    fn value(&self, measures: Measured, now: Instant) -> MeterValue {
        let last = self
            .lately
            .back()
            .filter(|(at, _)| now - *at <= OLD)
            .map(|(_, value)| *value);
        let long = self
            .lately
            .front()
            .is_some_and(|(at, _)| now - *at >= STILL);
        let values = || self.lately.iter().map(|(_, v)| *v);
        let spread = values().fold(f64::MIN, f64::max) - values().fold(f64::MAX, f64::min);
        let still = last.is_some_and(|last| long && spread <= measures.still_within(last));
        let frozen = last.is_some()
            && self
                .same_since
                .is_some_and(|(since, _)| now - since >= FROZEN);
        MeterValue {
            measures,
            value: last,
            still,
            frozen,
        }
    }
}

struct Shared {
    contact: Contact,
    tracks: Vec<(Measured, Track)>,
}

/// A probe or meter at an address; the line to it is kept until this is dropped.
pub struct Meter {
    shared: Arc<Mutex<Shared>>,
    task: tokio::task::JoinHandle<()>,
}

impl Meter {
    /// Reaches for the instrument at `host:port`, again and again. Must be called within a Tokio
    /// runtime.
    #[must_use]
    pub fn at(address: String, registers: Vec<Register>) -> Self {
        let tracks = registers
            .iter()
            .map(|r| (r.measures, Track::default()))
            .collect();
        let shared = Arc::new(Mutex::new(Shared {
            contact: Contact::Reaching,
            tracks,
        }));
        let task = tokio::spawn(keep(Arc::clone(&shared), address, registers));
        Self { shared, task }
    }

    /// How it stands now: the line, and what it shows.
    #[must_use]
    pub fn view(&self) -> (Contact, Vec<MeterValue>) {
        let (own, now) = (
            self.shared.lock().unwrap_or_else(PoisonError::into_inner),
            Instant::now(),
        );
        let values = own
            .tracks
            .iter()
            .map(|(measures, track)| track.value(*measures, now))
            .collect();
        (own.contact.clone(), values)
    }
}

impl Drop for Meter {
    fn drop(&mut self) {
        self.task.abort();
    }
}

async fn read(context: &mut Context, register: &Register) -> Result<Option<f64>, String> {
    let words = register.encoding.words();
    let question = match register.table {
        Table::Input => Request::ReadInputRegisters(register.at, words),
        Table::Holding => Request::ReadHoldingRegisters(register.at, words),
    };
    let (Response::ReadInputRegisters(found) | Response::ReadHoldingRegisters(found)) =
        asked(context, question).await?
    else {
        return Err("it answered another question".into());
    };
    if found.len() != usize::from(words) {
        return Err(format!(
            "it answered {} registers in the place of {words}",
            found.len()
        ));
    }
    let value = register
        .encoding
        .number(&found)
        .map(|number| number * register.times);
    let (least, most) = register.measures.limits();
    // To a millionth, so that a factor leaves no tail of digits.
    Ok(value
        .filter(|v| (least..=most).contains(v))
        .map(|v| (v * 1e6).round() / 1e6))
}

async fn keep(shared: Arc<Mutex<Shared>>, address: String, registers: Vec<Register>) {
    let lock = || shared.lock().unwrap_or_else(PoisonError::into_inner);
    let mut waits = Waits::default();
    loop {
        let why = match open(&address).await {
            Err(why) => why,
            Ok(mut context) => 'line: loop {
                let mut values = Vec::new();
                for register in &registers {
                    match read(&mut context, register).await {
                        Ok(value) => values.push(value),
                        Err(why) => break 'line why,
                    }
                }
                waits.answered();
                {
                    let (mut own, now) = (lock(), Instant::now());
                    own.contact = Contact::Live;
                    own.tracks
                        .iter_mut()
                        .zip(values)
                        .for_each(|((_, track), value)| track.hear(now, value));
                }
                tokio::time::sleep(EVERY).await;
            },
        };
        {
            let mut own = lock();
            own.contact = Contact::Lost { why };
            own.tracks
                .iter_mut()
                .for_each(|(_, track)| *track = Track::default());
        }
        waits.wait().await;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn heard(values: &[(u64, Option<f64>)]) -> MeterValue {
        let (start, mut track) = (Instant::now(), Track::default());
        let at = |seconds: u64| start + Duration::from_secs(seconds);
        values
            .iter()
            .for_each(|&(second, value)| track.hear(at(second), value));
        track.value(Measured::Ph, at(values.last().map_or(0, |v| v.0)))
    }

    #[test]
    fn a_value_is_still_once_it_has_stood_and_frozen_where_it_never_moves() {
        let run = |of: fn(u64) -> f64, seconds: u64| {
            heard(&(0..=seconds).map(|s| (s, Some(of(s)))).collect::<Vec<_>>())
        };
        let alive = |s: u64| 6.1 + if s.is_multiple_of(2) { 0.01 } else { 0.0 };
        assert_eq!(
            (
                run(alive, 3).still,
                run(alive, 5).still,
                run(alive, 5).frozen
            ),
            (false, true, false)
        );
        assert!(!run(|s| 7.0 - 0.05 * s as f64, 8).still, "it settles yet");
        let dead = run(|_| 6.1, 700);
        assert!(dead.still && dead.frozen && dead.value == Some(6.1));
        assert!(!run(alive, 700).frozen);
        // A dry probe says nothing, and begins anew.
        let dry = heard(&[(0, Some(6.1)), (1, Some(6.1)), (2, None), (3, Some(6.1))]);
        assert_eq!((dry.value, dry.still), (Some(6.1), false));
        assert_eq!(heard(&[(0, Some(6.1)), (1, None)]).value, None);
        // What stood before a gap does not make it still.
        let gap = heard(&[
            (0, Some(6.1)),
            (1, Some(6.1)),
            (9, Some(6.1)),
            (10, Some(6.1)),
        ]);
        assert!(!gap.still);
    }
}
