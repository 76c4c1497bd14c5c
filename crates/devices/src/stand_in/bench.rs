//! The bench: a page on which trays are put on a scale that is not there, and cables are pulled.

use super::Load;
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
}

/// How the bench stands.
#[derive(Debug, Serialize)]
struct Standing {
    load_g: f64,
    fault: Fault,
    loads: Vec<Load>,
}

async fn standing(State(bench): State<Bench>) -> Json<Standing> {
    let physics = bench.scale.physics();
    Json(Standing { load_g: physics.load_g(), fault: physics.fault(), loads: bench.loads.to_vec() })
}

async fn done(State(bench): State<Bench>, headers: HeaderMap, Json(deed): Json<Deed>) -> StatusCode {
    // A page elsewhere can have a browser send this only from its own origin.
    let own = |origin: &str| {
        headers.get(header::HOST).is_some_and(|host| origin.ends_with(&format!("://{}", host.to_str().unwrap_or("?"))))
    };
    if headers.get(header::ORIGIN).is_some_and(|origin| !origin.to_str().is_ok_and(own)) {
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
