//! `iron-twin devices`: instruments that are not there, and the bench on which they are played with.

use iron_twin_core::catalogue::instruments::Instrument;
use iron_twin_devices::stand_in::bench::{Bench, router};
use iron_twin_devices::stand_in::{Load, scale::StandIn};
use iron_twin_store::Stamp;
use iron_twin_store::Store;
use iron_twin_store::device::NewDevice;
use jiff::Timestamp;
use std::net::{Ipv4Addr, SocketAddr};
use tokio::net::TcpListener;

#[derive(clap::Args)]
pub struct Args {
    /// Port of the bench's page on this computer; the scale takes the next one. 0 for any free ones.
    #[arg(long, default_value_t = 4750)]
    port: u16,
}

/// Addresses of what was started.
struct Started {
    bench: SocketAddr,
    scale: SocketAddr,
}

async fn listen(port: u16) -> Result<TcpListener, String> {
    let address = SocketAddr::from((Ipv4Addr::LOCALHOST, port));
    TcpListener::bind(address).await.map_err(|e| format!("cannot listen on {address}: {e}; choose another --port"))
}

/// Starts the stand-ins beside everything else.
async fn start(port: u16, loads: Vec<Load>) -> Result<Started, String> {
    let (page, line) = (listen(port).await?, listen(if port == 0 { 0 } else { port.saturating_add(1) }).await?);
    let address = |listener: &TcpListener| listener.local_addr().map_err(|e| e.to_string());
    let started = Started { bench: address(&page)?, scale: address(&line)? };
    let scale = StandIn::new(20_261_128);
    tokio::spawn(scale.clone().run(line));
    tokio::spawn(async move { axum::serve(page, router(Bench { scale, loads: loads.into() })).await });
    Ok(started)
}

/// Name of the scale that the demo connects.
const DEMO_SCALE: &str = "stand-in scale";

/// Starts the stand-ins for the demo, with its trays on the bench, and connects them. Returns the page of the bench.
pub async fn beside_the_demo(store: &Store) -> Result<String, String> {
    let loads = iron_twin_demo::ready_loads(store).map_err(|e| e.to_string())?;
    let load = |(name, gross_g, tare_g)| Load { name, gross_g, tare_g };
    let started = start(0, loads.into_iter().map(load).collect()).await?;
    // At another port each time.
    let new = NewDevice { kind: Instrument::Scale, name: DEMO_SCALE.into(), address: started.scale.to_string() };
    let old = store.devices().map_err(|e| e.to_string())?.into_iter().find(|d| d.is.name == DEMO_SCALE);
    let stamp = Stamp::owner(Timestamp::now());
    store.keep_device(&stamp, old.map(|d| (d.no, d.version)), &new).map_err(|e| e.to_string())?;
    let bench = format!("http://{}", started.bench);
    println!("Bench of the stand-ins: {bench}");
    Ok(bench)
}

/// Trays that can be put on the scale where no trial says which: 16 about one weight.
fn made_up() -> Vec<Load> {
    let tray = |i: u8| {
        let spread = f64::from(i * 7 % 16) - 7.5;
        let tare_g = 288.0 + f64::from(i % 5) * 0.7;
        let gross_g = ((tare_g + 120.0 + 2.1 * spread) * 10.0).round() / 10.0;
        Load { name: format!("tray {}", char::from(b'A' + i)), gross_g, tare_g }
    };
    (0..16).map(tray).collect()
}

/// Runs them until they are stopped.
pub fn run(args: &Args) -> Result<(), String> {
    let runtime = tokio::runtime::Builder::new_multi_thread().worker_threads(1).enable_all().build();
    runtime.map_err(|e| format!("the program could not start its threads: {e}"))?.block_on(async {
        let started = start(args.port, made_up()).await?;
        println!("Bench: http://{}", started.bench);
        println!("Scale: {}. Connect it under Farm, Instruments. Stop with Ctrl+C.", started.scale);
        tokio::signal::ctrl_c().await.map_err(|e| e.to_string())
    })
}
