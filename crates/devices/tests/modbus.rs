//! Probes and switches over Modbus TCP: against the stand-ins, and against peers that are slow or
//! send what is none.

use iron_twin_devices::contact::Contact;
use iron_twin_devices::modbus::meter::{Meter, MeterValue};
use iron_twin_devices::modbus::registers::{Measured, Register, light, probe};
use iron_twin_devices::modbus::switch::Switches;
use iron_twin_devices::stand_in::modbus::{Solution, StandIns, Which};
use iron_twin_devices::stand_in::scale::Fault;
use std::time::{Duration, Instant};
use tokio::io::{AsyncReadExt, AsyncWriteExt};
use tokio::net::{TcpListener, TcpStream};

async fn listen() -> (TcpListener, String) {
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let address = listener.local_addr().expect("an address").to_string();
    (listener, address)
}

async fn served(room: &StandIns, which: Which) -> String {
    let (listener, address) = listen().await;
    tokio::spawn(room.clone().serve(listener, which));
    address
}

/// Waits until it stands as wanted, for 30 s at most.
async fn until<T>(view: impl Fn() -> T, wanted: impl Fn(&T) -> bool) -> T {
    let from = Instant::now();
    loop {
        let now = view();
        if wanted(&now) || from.elapsed() > Duration::from_secs(30) {
            return now;
        }
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
}

fn of(values: &[MeterValue], measures: Measured) -> MeterValue {
    *values
        .iter()
        .find(|v| v.measures == measures)
        .expect("a value")
}

async fn lost(meter: &Meter) -> String {
    match until(
        || meter.view().0,
        |contact| matches!(contact, Contact::Lost { .. }),
    )
    .await
    {
        Contact::Lost { why } => why,
        other => panic!("{other:?}"),
    }
}

#[tokio::test]
async fn a_probe_settles_in_its_bucket_and_comes_back_after_the_cable() {
    let room = StandIns::new(3);
    tokio::spawn(room.clone().pass());
    let meter = Meter::at(served(&room, Which::Probe).await, probe());
    // Dry: what cannot be is no value.
    let dry = until(|| meter.view(), |(contact, _)| *contact == Contact::Live)
        .await
        .1;
    assert_eq!(
        (of(&dry, Measured::Ph).value, of(&dry, Measured::Ph).still),
        (None, false)
    );
    room.room().probe_in = Some(Solution {
        ph: 6.1,
        ec: 1.35,
        temperature: 19.5,
    });
    let still = |(_, values): &(Contact, Vec<MeterValue>)| values.iter().all(|v| v.still);
    let (_, values) = until(|| meter.view(), still).await;
    for (measures, wanted, within) in [
        (Measured::Ph, 6.1, 0.06),
        (Measured::Ec, 1.35, 0.03),
        (Measured::Temperature, 19.5, 0.5),
    ] {
        let own = of(&values, measures);
        assert!(
            own.still && (own.value.expect("a value") - wanted).abs() < within,
            "{own:?}"
        );
    }
    room.room().fault = Fault::CableOut;
    assert_eq!(lost(&meter).await, "it does not answer");
    assert_eq!(
        of(&meter.view().1, Measured::Ph).value,
        None,
        "what it said before counts no longer"
    );
    room.room().fault = Fault::None;
    until(
        || meter.view(),
        |(_, values)| of(values, Measured::Ph).value.is_some(),
    )
    .await;
    assert_eq!(meter.view().0, Contact::Live);
}

#[tokio::test]
async fn a_plug_is_worked_and_the_meter_sees_it() {
    let room = StandIns::new(3);
    tokio::spawn(room.clone().pass());
    let (meter, switches) = (
        Meter::at(served(&room, Which::Light).await, light()),
        Switches::at(served(&room, Which::Switches).await, 2),
    );
    assert_eq!(
        switches.set(0, false).await,
        Err("it is not there".into()),
        "not reached yet"
    );
    until(|| switches.view(), |(contact, _)| *contact == Contact::Live).await;
    assert_eq!(switches.view().1, [Some(true), Some(false)]);
    let watts = |(_, values): &(Contact, Vec<MeterValue>)| of(values, Measured::Power).value;
    let lit = until(|| meter.view(), |view| watts(view).is_some()).await;
    assert!((watts(&lit).expect("W") - 98.0).abs() < 1.0, "{lit:?}");
    assert_eq!(switches.set(0, false).await, Ok(()));
    let dark = until(
        || meter.view(),
        |view| watts(view).is_some_and(|w| w < 10.0),
    )
    .await;
    assert_eq!(of(&dark.1, Measured::Light).value, Some(3.0));
    until(|| switches.view().1, |states| states[0] == Some(false)).await;
    assert_eq!(
        switches.set(7, true).await,
        Err("it has no such switch".into())
    );
    assert_eq!(room.room().switches, [false, false]);
}

/// A peer that does something with each line that is opened to it.
async fn peer<F: Future<Output = ()> + Send + 'static>(
    does: impl Fn(TcpStream) -> F + Send + 'static,
) -> String {
    let (listener, address) = listen().await;
    tokio::spawn(async move {
        while let Ok((stream, _)) = listener.accept().await {
            tokio::spawn(does(stream));
        }
    });
    address
}

#[tokio::test]
async fn peers_that_speak_otherwise_are_told_and_hold_nobody_up() {
    // Silent; garbage; an answer to another question; one that is far longer than it says; a byte
    // at a time.
    let silent = peer(|stream| async move {
        tokio::time::sleep(Duration::from_secs(60)).await;
        drop(stream);
    })
    .await;
    let garbage =
        peer(|mut stream| async move { while stream.write_all(&[0xAA; 4096]).await.is_ok() {} })
            .await;
    let other = peer(|mut stream| async move {
        let mut question = [0; 12];
        while stream.read_exact(&mut question).await.is_ok() {
            // The same transaction, function 4, three registers in the place of one.
            let answer = [
                question[0],
                question[1],
                0,
                0,
                0,
                9,
                question[6],
                4,
                6,
                0,
                1,
                0,
                2,
                0,
                3,
            ];
            if stream.write_all(&answer).await.is_err() {
                return;
            }
        }
    })
    .await;
    let slow = peer(|mut stream| async move {
        // The head of an answer of 200 bytes, and then one now and then.
        let _ = stream.write_all(&[0, 0, 0, 0, 0, 200, 255, 4]).await;
        while stream.write_all(&[0]).await.is_ok() {
            tokio::time::sleep(Duration::from_millis(300)).await;
        }
    })
    .await;
    let (nobody, gone) = listen().await;
    drop(nobody);
    for (address, wanted) in [
        (silent, "it does not answer".to_owned()),
        (garbage, "it answered what cannot be read".to_owned()),
        (
            other,
            "it answered 3 registers in the place of 1".to_owned(),
        ),
        (slow, "it does not answer".to_owned()),
        (gone.clone(), format!("nothing listens at {gone}")),
    ] {
        let meter = Meter::at(address, probe());
        let why = lost(&meter).await;
        assert!(why.starts_with(&wanted), "{why}, wanted {wanted}");
        assert!(meter.view().1.iter().all(|v| v.value.is_none()));
    }
}

#[tokio::test]
async fn a_register_that_is_not_there_is_told() {
    let room = StandIns::new(3);
    let address = served(&room, Which::Probe).await;
    let beyond = Register {
        at: 40,
        ..probe()[0].clone()
    };
    let why = lost(&Meter::at(address, vec![beyond])).await;
    assert!(why.starts_with("it refused the register"), "{why}");
}
