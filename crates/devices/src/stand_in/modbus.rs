//! Probe, light and power meter, and switches that are not there, over Modbus TCP.

use super::scale::Fault;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::{Deserialize, Serialize};
use std::future::{Future, pending};
use std::pin::Pin;
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use std::time::Duration;
use tokio::net::TcpListener;
use tokio_modbus::server::{Service, tcp::Server};
use tokio_modbus::{ExceptionCode, Request, Response};

/// A step of the room.
const STEP: Duration = Duration::from_millis(250);
/// Of the way that is left, so much at each step: a probe takes some ten seconds.
const SETTLES: f64 = 0.12;
/// The glass of the probe drifts until it is calibrated, pH a step: some 0.3 in a day.
const DRIFT: f64 = 0.3 / 86_400.0 / 4.0;

/// A solution into which the probe is put.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
pub struct Solution {
    /// Its pH.
    pub ph: f64,
    /// Its conductivity at 25 °C, mS/cm.
    pub ec: f64,
    /// Its temperature, °C.
    pub temperature: f64,
}

/// What stands in the room.
#[derive(Debug)]
pub struct Room {
    /// What the probe is in; None where it hangs in the air.
    pub probe_in: Option<Solution>,
    /// What it has drifted, pH.
    pub drift: f64,
    /// How the probe fails.
    pub fault: Fault,
    shows: Solution,
    /// Lamp and pump.
    pub switches: [bool; 2],
    energy_wh: f64,
    chance: ChaCha8Rng,
    frozen: Option<[u16; 3]>,
}

impl Room {
    fn new(seed: u64) -> Self {
        Self {
            probe_in: None,
            drift: 0.0,
            fault: Fault::None,
            shows: Solution {
                ph: 7.0,
                ec: 0.0,
                temperature: 20.0,
            },
            switches: [true, false],
            energy_wh: 0.0,
            chance: ChaCha8Rng::seed_from_u64(seed),
            frozen: None,
        }
    }

    /// One step on.
    fn step(&mut self) {
        self.drift += DRIFT;
        let aim = self.probe_in.unwrap_or(Solution {
            ph: 7.0,
            ec: 0.0,
            temperature: 20.0,
        });
        let toward = |now: f64, aim: f64| now + SETTLES * (aim - now);
        self.shows = Solution {
            ph: toward(self.shows.ph, aim.ph + self.drift),
            ec: toward(self.shows.ec, aim.ec),
            temperature: toward(self.shows.temperature, aim.temperature),
        };
        self.energy_wh += self.power_w() * STEP.as_secs_f64() / 3600.0;
    }

    /// What lamp, pump and the meter itself take, W.
    fn power_w(&self) -> f64 {
        let [lamp, pump] = self.switches;
        2.0 + if lamp { 96.0 } else { 0.0 } + if pump { 18.0 } else { 0.0 }
    }

    fn noise(&mut self, most: f64) -> f64 {
        self.chance.random_range(-most..most)
    }

    fn probe(&mut self) -> [u16; 3] {
        if let (Fault::Frozen, Some(frozen)) = (self.fault, self.frozen) {
            return frozen;
        }
        let word = |value: f64| (value.round() as i16).cast_unsigned();
        let (ph, ec) = (
            self.shows.ph + self.noise(0.01),
            (self.shows.ec + self.noise(0.004)).max(0.0),
        );
        // A dry glass says what cannot be.
        let ph = if self.probe_in.is_some() {
            100.0 * ph
        } else {
            -3_000.0
        };
        let temperature = self.shows.temperature + self.noise(0.06);
        let words = [word(ph), word(1000.0 * ec), word(10.0 * temperature)];
        self.frozen = Some(words);
        words
    }

    fn light(&mut self) -> [u16; 4] {
        let umol = if self.switches[0] {
            148.0 + self.noise(2.0)
        } else {
            3.0
        };
        let watts = self.power_w() + self.noise(0.6);
        let energy = self.energy_wh.round() as u32;
        [
            umol.round() as u16,
            (10.0 * watts).round() as u16,
            (energy >> 16) as u16,
            (energy & 0xFFFF) as u16,
        ]
    }
}

/// Which of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Which {
    /// pH, EC and temperature.
    Probe,
    /// Light and power.
    Light,
    /// Lamp and pump.
    Switches,
}

/// All of them in one room.
#[derive(Clone)]
pub struct StandIns(Arc<Mutex<Room>>);

impl StandIns {
    /// A room with the lamp on and the probe in the air.
    #[must_use]
    pub fn new(seed: u64) -> Self {
        Self(Arc::new(Mutex::new(Room::new(seed))))
    }

    /// The room.
    pub fn room(&self) -> MutexGuard<'_, Room> {
        self.0.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Lets time pass, for ever.
    pub async fn pass(self) {
        let mut clock = tokio::time::interval(STEP);
        loop {
            clock.tick().await;
            self.room().step();
        }
    }

    /// Answers for one of them, for ever.
    pub async fn serve(self, listener: TcpListener, which: Which) {
        let connected = |stream, _| {
            let own = Device {
                room: self.clone(),
                which,
            };
            let off = which == Which::Probe && self.room().fault == Fault::SwitchedOff;
            async move { Ok((!off).then_some((own, stream))) }
        };
        // A listener that fails once is listened to again.
        let server = Server::new(listener);
        loop {
            if server.serve(&connected, |_| {}).await.is_err() {
                tokio::time::sleep(STEP).await;
            }
        }
    }
}

struct Device {
    room: StandIns,
    which: Which,
}

/// So many registers from an address; what lies beyond is refused.
fn some<T: Clone>(all: &[T], at: u16, count: u16) -> Result<Vec<T>, ExceptionCode> {
    let (from, count) = (usize::from(at), usize::from(count));
    all.get(from..from + count)
        .map(<[T]>::to_vec)
        .ok_or(ExceptionCode::IllegalDataAddress)
}

impl Device {
    fn answer(&self, request: Request<'_>) -> Result<Response, ExceptionCode> {
        let mut room = self.room.room();
        match (self.which, request) {
            (Which::Probe, Request::ReadInputRegisters(at, count)) => {
                some(&room.probe(), at, count).map(Response::ReadInputRegisters)
            }
            (Which::Light, Request::ReadInputRegisters(at, count)) => {
                some(&room.light(), at, count).map(Response::ReadInputRegisters)
            }
            (Which::Switches, Request::ReadCoils(at, count)) => {
                some(&room.switches, at, count).map(Response::ReadCoils)
            }
            (Which::Switches, Request::WriteSingleCoil(at, on)) => {
                let switch = room
                    .switches
                    .get_mut(usize::from(at))
                    .ok_or(ExceptionCode::IllegalDataAddress)?;
                *switch = on;
                Ok(Response::WriteSingleCoil(at, on))
            }
            _ => Err(ExceptionCode::IllegalFunction),
        }
    }
}

impl Service for Device {
    type Request = Request<'static>;
    type Response = Response;
    type Exception = ExceptionCode;
    type Future = Pin<Box<dyn Future<Output = Result<Response, ExceptionCode>> + Send>>;

    fn call(&self, request: Request<'static>) -> Self::Future {
        // The cable is out: nothing ever comes.
        if self.which == Which::Probe && self.room.room().fault == Fault::CableOut {
            return Box::pin(pending());
        }
        let answer = self.answer(request);
        Box::pin(async move { answer })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_probe_settles_and_drifts_until_it_is_calibrated() {
        let mut room = Room::new(5);
        assert_eq!(room.probe()[0].cast_signed(), -3_000, "dry");
        room.probe_in = Some(Solution {
            ph: 6.1,
            ec: 1.35,
            temperature: 19.5,
        });
        (0..4).for_each(|_| room.step());
        assert!(room.probe()[0] > 630, "not settled within a second");
        (0..120).for_each(|_| room.step());
        let [ph, ec, temperature] = room.probe();
        assert!(
            (609..=611).contains(&ph)
                && (1345..=1355).contains(&ec)
                && (194..=196).contains(&temperature)
        );
        // A day without calibration.
        (0..4 * 86_400).for_each(|_| room.step());
        assert!(
            (636..=643).contains(&room.probe()[0]),
            "{}",
            room.probe()[0]
        );
        room.drift = 0.0;
        (0..120).for_each(|_| room.step());
        assert!((609..=611).contains(&room.probe()[0]));
        room.fault = Fault::Frozen;
        let before = room.probe();
        room.probe_in = None;
        (0..120).for_each(|_| room.step());
        assert_eq!(room.probe(), before);
    }
}
