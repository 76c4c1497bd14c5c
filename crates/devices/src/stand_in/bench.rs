//! The bench: a page on which trays are put on a scale that is not there, and cables are pulled.

use super::Load;
use super::modbus::{Solution, StandIns};
use super::scale::{Fault, MOST_G, StandIn};
use axum::extract::State;
use axum::http::{HeaderMap, StatusCode, header};
use axum::response::Html;
use axum::routing::{get, post};
use axum::{Json, Router};
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// What stands on the bench.
#[derive(Clone)]
pub struct Bench {
    /// The scale.
    pub scale: StandIn,
    /// Probe, meter and switches.
    pub room: StandIns,
    /// What can be put on it.
    pub loads: Arc<[Load]>,
}

/// What is done at the bench.
#[derive(Debug, Clone, PartialEq, Deserialize)]
#[serde(rename_all = "snake_case", deny_unknown_fields)]
enum Deed {
    /// Puts a load on the scale, by its name.
    Put(String),
    /// Puts the container of a load on it, without the greens.
    PutEmpty(String),
    /// Puts more on it than it can carry.
    PutTooMuch,
    /// Lifts what lies on it.
    Lift,
    /// Sets it to zero.
    Zero,
    /// Makes it fail, or mends it.
    Fail(Fault),
    /// Puts the probe into one of the solutions, or lets it hang in the air.
    ProbeIn(Option<String>),
    /// Makes the probe fail, or mends it.
    FailProbe(Fault),
    /// Calibrates the probe: what it has drifted is gone.
    Calibrate,
}

/// Solutions into which the probe can be put.
const SOLUTIONS: [(&str, Solution); 4] = [
    (
        "plain water",
        Solution {
            ph: 7.4,
            ec: 0.52,
            temperature: 18.5,
        },
    ),
    (
        "half feed",
        Solution {
            ph: 6.3,
            ec: 1.13,
            temperature: 18.9,
        },
    ),
    (
        "full feed",
        Solution {
            ph: 6.1,
            ec: 1.71,
            temperature: 19.2,
        },
    ),
    (
        "buffer 7.00",
        Solution {
            ph: 7.0,
            ec: 0.0,
            temperature: 20.0,
        },
    ),
];

/// How the bench stands.
#[derive(Debug, Serialize)]
struct Standing {
    load_g: f64,
    fault: Fault,
    loads: Vec<Load>,
    solutions: Vec<&'static str>,
    probe_in: Option<&'static str>,
    probe_fault: Fault,
    lamp: bool,
    pump: bool,
}

async fn standing(State(bench): State<Bench>) -> Json<Standing> {
    let physics = bench.scale.physics();
    let room = bench.room.room();
    let name = |of: &Solution| {
        SOLUTIONS
            .iter()
            .find(|(_, own)| own == of)
            .map(|(name, _)| *name)
    };
    Json(Standing {
        load_g: physics.load_g(),
        fault: physics.fault(),
        loads: bench.loads.to_vec(),
        solutions: SOLUTIONS.iter().map(|(name, _)| *name).collect(),
        probe_in: room.probe_in.as_ref().and_then(name),
        probe_fault: room.fault,
        lamp: room.switches[0],
        pump: room.switches[1],
    })
}

async fn done(
    State(bench): State<Bench>,
    headers: HeaderMap,
    Json(deed): Json<Deed>,
) -> StatusCode {
    // A page elsewhere can have a browser send this only from its own origin.
    let own = |origin: &str| {
        headers
            .get(header::HOST)
            .is_some_and(|host| origin.ends_with(&format!("://{}", host.to_str().unwrap_or("?"))))
    };
    if headers
        .get(header::ORIGIN)
        .is_some_and(|origin| !origin.to_str().is_ok_and(own))
    {
        return StatusCode::FORBIDDEN;
    }
    let of = |name: &str| bench.loads.iter().find(|load| load.name == name);
    let mut physics = bench.scale.physics();
    match deed {
        Deed::Put(name) => match of(&name) {
            Some(load) => physics.put(load.gross_g),
            None => return StatusCode::NOT_FOUND,
        },
        Deed::PutEmpty(name) => match of(&name) {
            Some(load) => physics.put(load.tare_g),
            None => return StatusCode::NOT_FOUND,
        },
        Deed::PutTooMuch => physics.put(1.5 * MOST_G),
        Deed::Lift => physics.put(0.0),
        Deed::Zero => physics.zero(),
        Deed::Fail(fault) => physics.fail(fault),
        Deed::ProbeIn(None) => bench.room.room().probe_in = None,
        Deed::ProbeIn(Some(name)) => match SOLUTIONS.iter().find(|(own, _)| *own == name) {
            Some((_, solution)) => bench.room.room().probe_in = Some(*solution),
            None => return StatusCode::NOT_FOUND,
        },
        Deed::FailProbe(fault) => bench.room.room().fault = fault,
        Deed::Calibrate => bench.room.room().drift = 0.0,
    }
    StatusCode::NO_CONTENT
}

/// The bench as a page and what it sends.
pub fn router(bench: Bench) -> Router {
    Router::new()
        .route("/", get(|| async { Html(include_str!("bench.html")) }))
        .route("/standing", get(standing))
        .route("/do", post(done))
        .with_state(bench)
}
