//! `iron-twin devices`: instruments that are not there, and the bench on which they are played
//! with.

use iron_twin_core::catalogue::instruments::Instrument;
use iron_twin_devices::stand_in::bench::{Bench, router};
use iron_twin_devices::stand_in::modbus::{StandIns, Which};
use iron_twin_devices::stand_in::{Load, scale::StandIn};
use iron_twin_store::Stamp;
use iron_twin_store::Store;
use iron_twin_store::device::NewDevice;
use jiff::Timestamp;
use std::net::{Ipv4Addr, SocketAddr};
use tokio::net::TcpListener;

#[derive(clap::Args)]
pub struct Args {
    /// Port of the bench's page on this computer; the instruments take the next four. 0 for any
    /// free ones.
    #[arg(long, default_value_t = 4750)]
    port: u16,
}

/// What was started: the page of the bench, and each instrument with its name and address.
struct Started {
    bench: SocketAddr,
    instruments: Vec<(Instrument, &'static str, SocketAddr)>,
}

async fn listen(port: u16) -> Result<TcpListener, String> {
    let address = SocketAddr::from((Ipv4Addr::LOCALHOST, port));
    TcpListener::bind(address)
        .await
        .map_err(|e| format!("cannot listen on {address}: {e}; choose another --port"))
}

/// Starts the stand-ins beside everything else: the page at a port, the others at those that
/// follow; 0 for any free ones.
async fn start(port: u16, loads: Vec<Load>) -> Result<Started, String> {
    let at = |n: u16| if port == 0 { 0 } else { port.saturating_add(n) };
    let page = listen(port).await?;
    let (scale, room) = (StandIn::new(20_261_128), StandIns::new(20_261_128));
    let line = listen(at(1)).await?;
    let address = |listener: &TcpListener| listener.local_addr().map_err(|e| e.to_string());
    let mut instruments = vec![(Instrument::Scale, "stand-in scale", address(&line)?)];
    tokio::spawn(scale.clone().run(line));
    for (n, kind, name, which) in [
        (2, Instrument::Probe, "stand-in probe", Which::Probe),
        (3, Instrument::Light, "stand-in light meter", Which::Light),
        (4, Instrument::Switch, "stand-in timer", Which::Switches),
    ] {
        let listener = listen(at(n)).await?;
        instruments.push((kind, name, address(&listener)?));
        tokio::spawn(room.clone().serve(listener, which));
    }
    tokio::spawn(room.clone().pass());
    let bench = address(&page)?;
    tokio::spawn(async move {
        axum::serve(
            page,
            router(Bench {
                scale,
                room,
                loads: loads.into(),
            }),
        )
        .await
    });
    Ok(Started { bench, instruments })
}

/// Starts the stand-ins for the demo, with its trays on the bench, and connects them. Returns the
/// page of the bench.
pub async fn beside_the_demo(store: &Store) -> Result<String, String> {
    let loads = iron_twin_demo::ready_loads(store).map_err(|e| e.to_string())?;
    let load = |(name, gross_g, tare_g)| Load {
        name,
        gross_g,
        tare_g,
    };
    let started = start(0, loads.into_iter().map(load).collect()).await?;
    let known = store.devices().map_err(|e| e.to_string())?;
    for (kind, name, address) in started.instruments {
        // At another port each time.
        let new = NewDevice {
            kind,
            name: name.into(),
            address: address.to_string(),
            registers: None,
        };
        let old = known
            .iter()
            .find(|d| d.is.name == name)
            .map(|d| (d.no, d.version));
        store
            .keep_device(&Stamp::owner(Timestamp::now()), old, &new)
            .map_err(|e| e.to_string())?;
    }
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
        Load {
            name: format!("tray {}", char::from(b'A' + i)),
            gross_g,
            tare_g,
        }
    };
    (0..16).map(tray).collect()
}

/// Runs them until they are stopped.
pub fn run(args: &Args) -> Result<(), String> {
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .worker_threads(1)
        .enable_all()
        .build();
    runtime
        .map_err(|e| format!("the program could not start its threads: {e}"))?
        .block_on(async {
            let started = start(args.port, made_up()).await?;
            println!("Bench: http://{}", started.bench);
            started
                .instruments
                .iter()
                .for_each(|(_, name, address)| println!("{name}: {address}"));
            println!("Connect them under Farm, Instruments. Stop with Ctrl+C.");
            tokio::signal::ctrl_c().await.map_err(|e| e.to_string())
        })
}
