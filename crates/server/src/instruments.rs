//! The instruments of the farm, each with its line kept; what they say is asked of them here.

use crate::error::Problem;
use axum::http::StatusCode;
use iron_twin_core::catalogue::instruments::Instrument;
use iron_twin_devices::contact::Contact;
use iron_twin_devices::modbus::meter::{Meter, MeterValue};
use iron_twin_devices::modbus::registers::{self, Register};
use iron_twin_devices::modbus::switch::Switches;
use iron_twin_devices::scale::{Pan, Scale};
use iron_twin_store::device::{Device, NewDevice};
use iron_twin_terms::words::capitalised;
use serde::Serialize;
use std::collections::BTreeMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex, MutexGuard, PoisonError};
use utoipa::ToSchema;

/// The line to an instrument.
enum Line {
    /// A scale, and what the load that lies on it was taken for.
    Scale(Scale, Option<String>),
    /// A probe or a meter.
    Meter(Meter),
    /// A timer, a plug. Shared with those who wait for it to answer.
    Switches(Arc<Switches>),
}

/// An instrument whose line is kept.
struct Kept {
    is: NewDevice,
    line: Line,
}

/// Switches of one device: the lamp and the pump of the stand-in, the first plugs of a real one.
const SWITCHES: u16 = 2;

/// The registers of an instrument: those that were entered for it, else the usual ones.
pub(crate) fn registers(device: &NewDevice) -> Vec<Register> {
    let own = device
        .registers
        .as_deref()
        .and_then(|text| serde_json::from_str::<Vec<Register>>(text).ok());
    match device.kind {
        Instrument::Probe => own.unwrap_or_else(registers::probe),
        Instrument::Light => own.unwrap_or_else(registers::light),
        Instrument::Scale | Instrument::Switch => Vec::new(),
    }
}

impl Line {
    fn open(device: &NewDevice) -> Self {
        let address = device.address.clone();
        match device.kind {
            Instrument::Scale => Self::Scale(Scale::at(address), None),
            Instrument::Probe | Instrument::Light => {
                Self::Meter(Meter::at(address, registers(device)))
            }
            Instrument::Switch => Self::Switches(Arc::new(Switches::at(address, SWITCHES))),
        }
    }
}

/// What an instrument shows now.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub(crate) struct Showing {
    /// Its number.
    no: i64,
    /// The line to it.
    contact: Contact,
    /// What a scale shows, g; null where it shows no weight, and for other instruments.
    g: Option<f64>,
    /// What can be done with what lies on a scale; null for other instruments.
    pan: Option<Pan>,
    /// What a probe or meter reads; empty for other instruments.
    values: Vec<MeterValue>,
    /// Whether each switch is on, null where it is not known; empty for other instruments.
    switches: Vec<Option<bool>>,
}

/// All of them, by number.
#[derive(Default)]
pub(crate) struct Instruments {
    kept: Mutex<BTreeMap<i64, Kept>>,
    /// Set once the program stops: what streams ends.
    ending: AtomicBool,
}

impl Instruments {
    fn lock(&self) -> MutexGuard<'_, BTreeMap<i64, Kept>> {
        self.kept.lock().unwrap_or_else(PoisonError::into_inner)
    }

    /// Keeps a line to each of these, and to no other. Must be called within a Tokio runtime.
    pub fn follow(&self, devices: &[Device]) {
        let mut kept = self.lock();
        kept.retain(|no, own| devices.iter().any(|d| d.no == *no && d.is == own.is));
        for device in devices {
            kept.entry(device.no).or_insert_with(|| Kept {
                is: device.is.clone(),
                line: Line::open(&device.is),
            });
        }
    }

    /// What an instrument shows now; None where there is none of that number.
    pub fn showing(&self, no: i64) -> Option<Showing> {
        let kept = self.lock();
        let blank = |contact| Showing {
            no,
            contact,
            g: None,
            pan: None,
            values: Vec::new(),
            switches: Vec::new(),
        };
        Some(match &kept.get(&no)?.line {
            Line::Scale(scale, _) => {
                let view = scale.view();
                Showing {
                    g: view.g,
                    pan: Some(view.pan),
                    ..blank(view.contact)
                }
            }
            Line::Meter(meter) => {
                let (contact, values) = meter.view();
                Showing {
                    values,
                    ..blank(contact)
                }
            }
            Line::Switches(switches) => {
                let (contact, switches) = switches.view();
                Showing {
                    switches,
                    ..blank(contact)
                }
            }
        })
    }

    /// The switches of a device.
    ///
    /// # Errors
    /// `not_found`.
    pub fn switches(&self, no: i64) -> Result<Arc<Switches>, Problem> {
        match self.lock().get(&no).map(|own| &own.line) {
            Some(Line::Switches(switches)) => Ok(Arc::clone(switches)),
            _ => Err(Problem::not_found("there are no such switches")),
        }
    }

    /// Takes the weight that lies on a scale for a unit, g, and what the scale is called. One load
    /// is taken for one unit; for the same unit it may be taken again.
    ///
    /// # Errors
    /// `not_found`; `unsettled` with the reason why there is nothing to take.
    pub fn take(&self, no: i64, unit: &str) -> Result<(f64, String), Problem> {
        let mut kept = self.lock();
        let Some(Kept {
            is,
            line: Line::Scale(scale, taken_for),
        }) = kept.get_mut(&no)
        else {
            return Err(Problem::not_found("there is no such scale"));
        };
        if taken_for.as_deref() == Some(unit) {
            scale.again();
        }
        let g = scale.settled().map_err(|why| {
            let detail = format!("{}.", capitalised(&why.to_string()));
            Problem::new(
                StatusCode::CONFLICT,
                "unsettled",
                "Nothing was taken",
                detail,
            )
        })?;
        scale.took();
        *taken_for = Some(unit.to_owned());
        Ok((g, is.name.clone()))
    }

    /// The program stops.
    pub fn end(&self) {
        self.ending.store(true, Ordering::Relaxed);
    }

    /// Whether the program stops.
    pub fn ends(&self) -> bool {
        self.ending.load(Ordering::Relaxed)
    }
}
