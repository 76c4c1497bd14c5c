//! Instruments by address: which there are, what they say as they say it, and taking a weight.

use crate::app::App;
use crate::error::Problem;
use crate::instruments::{Showing, registers};
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::sse::{Event, KeepAlive, Sse};
use futures_util::Stream;
use iron_twin_core::catalogue::instruments::Instrument;
use iron_twin_devices::modbus::registers::{MOST, Register, hold};
use iron_twin_store::device::{Device, NewDevice};
use iron_twin_terms::words::capitalised;
use serde::{Deserialize, Serialize};
use std::convert::Infallible;
use std::time::{Duration, Instant};
use utoipa::ToSchema;

/// An instrument.
#[derive(Serialize, ToSchema)]
pub(crate) struct InstrumentView {
    /// Its number.
    no: i64,
    /// What kind.
    kind: Instrument,
    /// What it is called.
    name: String,
    /// `host:port`.
    address: String,
    /// Its registers; empty for what has none.
    registers: Vec<Register>,
    /// Version to send back.
    version: i64,
}

/// All instruments.
#[derive(Serialize, ToSchema)]
pub(crate) struct InstrumentsView {
    /// Them, in the order in which they were added.
    instruments: Vec<InstrumentView>,
    /// What each shows now.
    showing: Vec<Showing>,
    /// Page of the bench on which stand-ins are played with; null where none run.
    bench: Option<String>,
}

fn showing(app: &App, devices: &[Device]) -> Vec<Showing> {
    devices
        .iter()
        .filter_map(|d| app.instruments.showing(d.no))
        .collect()
}

/// The instruments as they stand in the data file, each with its line kept.
async fn devices(app: &App) -> Result<Vec<Device>, Problem> {
    let devices = app.run(|store| Ok(store.devices()?)).await?;
    app.instruments.follow(&devices);
    Ok(devices)
}

async fn view(app: &App) -> Result<Json<InstrumentsView>, Problem> {
    let devices = devices(app).await?;
    let showing = showing(app, &devices);
    let of = |d: Device| InstrumentView {
        no: d.no,
        kind: d.is.kind,
        registers: registers(&d.is),
        name: d.is.name,
        address: d.is.address,
        version: d.version,
    };
    let bench = app.bench.as_deref().map(str::to_owned);
    Ok(Json(InstrumentsView {
        instruments: devices.into_iter().map(of).collect(),
        showing,
        bench,
    }))
}

/// The instruments of the farm.
#[utoipa::path(get, operation_id = "instruments_get", path = "/instruments",
    responses((status = 200, body = InstrumentsView)))]
pub(crate) async fn list(State(app): State<App>) -> Result<Json<InstrumentsView>, Problem> {
    view(&app).await
}

/// An instrument as it is entered.
#[derive(Deserialize, ToSchema)]
pub(crate) struct InstrumentSent {
    /// What kind.
    kind: Instrument,
    /// What it is called.
    name: String,
    /// `host:port`.
    address: String,
    /// Its registers; the usual ones where left out.
    #[serde(default)]
    registers: Option<Vec<Register>>,
    /// Version that is changed; left out for a new one.
    #[serde(default)]
    version: i64,
}

impl InstrumentSent {
    fn device(self) -> Result<NewDevice, Problem> {
        let reads = matches!(self.kind, Instrument::Probe | Instrument::Light);
        if self
            .registers
            .as_ref()
            .is_some_and(|own| !reads || !hold(own))
        {
            let wanted = format!(
                "1 to {MOST} registers, each for something else, with a factor that is not nought"
            );
            return Err(Problem::refused("registers", wanted));
        }
        let registers = self
            .registers
            .map(|own| serde_json::to_string(&own))
            .transpose();
        let registers = registers.map_err(|e| Problem::internal(&e))?;
        Ok(NewDevice {
            kind: self.kind,
            name: self.name,
            address: self.address,
            registers,
        })
    }
}

/// Adds an instrument.
#[utoipa::path(
    post,
    operation_id = "instruments_add",
    path = "/instruments",
    request_body = InstrumentSent,
    responses((status = 200, body = InstrumentsView), (status = 422, body = Problem)),
)]
pub(crate) async fn add(
    State(app): State<App>,
    sent: Sent<InstrumentSent>,
) -> Result<Json<InstrumentsView>, Problem> {
    app.run(move |store| Ok(store.keep_device(&sent.stamp, None, &sent.body.device()?)?))
        .await?;
    view(&app).await
}

/// Changes an instrument.
#[utoipa::path(
    put,
    operation_id = "instruments_put",
    path = "/instruments/{no}",
    params(("no" = i64, Path)),
    request_body = InstrumentSent,
    responses(
        (status = 200, body = InstrumentsView),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn change(
    State(app): State<App>,
    Path(no): Path<i64>,
    sent: Sent<InstrumentSent>,
) -> Result<Json<InstrumentsView>, Problem> {
    app.run(move |store| {
        let version = sent.body.version;
        Ok(store.keep_device(&sent.stamp, Some((no, version)), &sent.body.device()?)?)
    })
    .await?;
    view(&app).await
}

/// Takes an instrument off the list; what was recorded with it stays.
#[utoipa::path(
    delete,
    operation_id = "instruments_remove",
    path = "/instruments/{no}",
    params(("no" = i64, Path)),
    responses((status = 200, body = InstrumentsView), (status = 404, body = Problem)),
)]
pub(crate) async fn remove(
    State(app): State<App>,
    Path(no): Path<i64>,
    sent: Sent<()>,
) -> Result<Json<InstrumentsView>, Problem> {
    app.run(move |store| Ok(store.remove_device(&sent.stamp, no)?))
        .await?;
    view(&app).await
}

/// How often it is looked whether something has changed.
const LOOK: Duration = Duration::from_millis(150);
/// The same is told again after so long: who does not hear it knows that the line is gone.
const AGAIN: Duration = Duration::from_millis(900);
/// A stream ends after so long; the page opens the next, and says anew who asks.
const LONGEST: Duration = Duration::from_secs(600);
/// How often the list is read anew.
const LIST: Duration = Duration::from_secs(5);

/// A page that listens.
struct Listener {
    app: App,
    devices: Vec<Device>,
    read: Instant,
    begun: Instant,
    told: Option<(Instant, Vec<Showing>)>,
}

impl Listener {
    /// The next event; None where the stream ends.
    async fn next(&mut self) -> Option<Event> {
        loop {
            if self.told.is_some() {
                tokio::time::sleep(LOOK).await;
            }
            if self.app.instruments.ends() || self.begun.elapsed() > LONGEST {
                return None;
            }
            if self.read.elapsed() > LIST {
                (self.devices, self.read) = (devices(&self.app).await.ok()?, Instant::now());
            }
            let now = showing(&self.app, &self.devices);
            if self
                .told
                .as_ref()
                .is_some_and(|(at, told)| *told == now && at.elapsed() < AGAIN)
            {
                continue;
            }
            let event = Event::default().json_data(&now).ok()?;
            self.told = Some((Instant::now(), now));
            return Some(event);
        }
    }
}

/// What the instruments show, as server-sent events: a list of `Showing`, each time something
/// changes and at least once a second.
#[utoipa::path(get, operation_id = "instruments_live", path = "/instruments/live",
    responses((status = 200, body = Vec<Showing>, content_type = "text/event-stream")))]
pub(crate) async fn live(
    State(app): State<App>,
) -> Result<Sse<impl Stream<Item = Result<Event, Infallible>>>, Problem> {
    let devices = devices(&app).await?;
    let now = Instant::now();
    let listener = Listener {
        app,
        devices,
        read: now,
        begun: now,
        told: None,
    };
    let stream = futures_util::stream::unfold(listener, |mut own| async move {
        let event = own.next().await?;
        Some((Ok(event), own))
    });
    Ok(Sse::new(stream).keep_alive(KeepAlive::default()))
}

/// Which switch, and what it is to do.
#[derive(Deserialize, ToSchema)]
pub(crate) struct SwitchSent {
    /// Its number, from 0.
    switch: u16,
    /// On, or off.
    on: bool,
}

/// Works a switch: answered once the device has said that it did. The owner alone may.
#[utoipa::path(
    post,
    operation_id = "instruments_switch",
    path = "/instruments/{no}/switch",
    params(("no" = i64, Path)),
    request_body = SwitchSent,
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)),
)]
pub(crate) async fn switch(
    State(app): State<App>,
    Path(no): Path<i64>,
    sent: Sent<SwitchSent>,
) -> Result<StatusCode, Problem> {
    devices(&app).await?;
    let switches = app.instruments.switches(no)?;
    let worked = switches.set(sent.body.switch, sent.body.on).await;
    worked.map(|()| StatusCode::NO_CONTENT).map_err(|why| {
        let detail = format!("{}. Look whether it is on or off.", capitalised(&why));
        Problem::new(
            StatusCode::CONFLICT,
            "not_switched",
            "It was not switched",
            detail,
        )
    })
}

/// For which unit a weight is taken.
#[derive(Deserialize, ToSchema)]
pub(crate) struct TakeSent {
    /// Trial, code, crop and sample in one word: one load is taken for one unit, and may be taken
    /// again for the same.
    unit: String,
}

/// A weight that was taken.
#[derive(Serialize, ToSchema)]
pub(crate) struct Taken {
    /// Gross, g.
    g: f64,
    /// Name of the scale.
    instrument: String,
}

/// Takes the weight that lies on a scale: never one that moves, is old, or was taken for another
/// unit.
#[utoipa::path(
    post,
    operation_id = "instruments_take",
    path = "/instruments/{no}/take",
    params(("no" = i64, Path)),
    request_body = TakeSent,
    responses(
        (status = 200, body = Taken),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
    ),
)]
pub(crate) async fn take(
    State(app): State<App>,
    Path(no): Path<i64>,
    sent: Sent<TakeSent>,
) -> Result<Json<Taken>, Problem> {
    devices(&app).await?;
    let (g, instrument) = app.instruments.take(no, &sent.body.unit)?;
    Ok(Json(Taken { g, instrument }))
}
