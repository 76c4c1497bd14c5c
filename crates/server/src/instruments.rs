//! The instruments of the farm, each with its line kept; what they say is asked of them here.

use crate::error::Problem;
use axum::http::StatusCode;
use iron_twin_core::catalogue::instruments::Instrument;
use iron_twin_core::terms::words::capitalised;
use iron_twin_devices::scale::{Scale, ScaleView};
use iron_twin_store::device::{Device, NewDevice};
use std::collections::BTreeMap;
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, MutexGuard, PoisonError};

/// An instrument whose line is kept.
struct Kept {
    is: NewDevice,
    scale: Option<Scale>,
    /// What the load that lies on the scale was taken for.
    taken_for: Option<String>,
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
                scale: (device.is.kind == Instrument::Scale).then(|| Scale::at(device.is.address.clone())),
                taken_for: None,
            });
        }
    }

    /// How a scale stands; None for what is no scale.
    pub fn scale(&self, no: i64) -> Option<ScaleView> {
        self.lock().get(&no).and_then(|own| own.scale.as_ref()).map(Scale::view)
    }

    /// Takes the weight that lies on a scale for a unit, g, and what the scale is called. One load is taken for one unit;
    /// for the same unit it may be taken again.
    ///
    /// # Errors
    /// `not_found`; `unsettled` with the reason why there is nothing to take.
    pub fn take(&self, no: i64, unit: &str) -> Result<(f64, String), Problem> {
        let mut kept = self.lock();
        let Some(Kept { is, scale: Some(scale), taken_for }) = kept.get_mut(&no) else {
            return Err(Problem::not_found("there is no such scale"));
        };
        if taken_for.as_deref() == Some(unit) {
            scale.again();
        }
        let g = scale.settled().map_err(|why| {
            let detail = format!("{}.", capitalised(&why.to_string()));
            Problem::new(StatusCode::CONFLICT, "unsettled", "Nothing was taken", detail)
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
