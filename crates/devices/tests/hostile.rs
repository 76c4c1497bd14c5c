//! Peers that are slow, silent, or send what no scale sends.

use iron_twin_devices::contact::Contact;
use iron_twin_devices::scale::{Pan, Scale, ScaleView};
use std::sync::Arc;
use std::sync::atomic::{AtomicBool, Ordering};
use std::time::{Duration, Instant};
use tokio::io::AsyncWriteExt;
use tokio::net::{TcpListener, TcpStream};

/// A peer at an address: what it does with each line that is opened to it, by number.
async fn peer<F: Future<Output = ()> + Send + 'static>(
    does: impl Fn(usize, TcpStream) -> F + Send + Sync + 'static,
) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let address = listener.local_addr().expect("an address").to_string();
    tokio::spawn(async move {
        for turn in 0.. {
            let Ok((stream, _)) = listener.accept().await else {
                return;
            };
            tokio::spawn(does(turn, stream));
        }
    });
    address
}

/// Waits until a scale stands as wanted, for 30 s at most.
async fn until(scale: &Scale, wanted: impl Fn(&ScaleView) -> bool) -> ScaleView {
    let from = Instant::now();
    loop {
        let view = scale.view();
        if wanted(&view) || from.elapsed() > Duration::from_secs(30) {
            return view;
        }
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

async fn lost(scale: &Scale) -> String {
    match until(scale, |v| matches!(v.contact, Contact::Lost { .. }))
        .await
        .contact
    {
        Contact::Lost { why } => why,
        other => panic!("{other:?}"),
    }
}

async fn says(mut stream: TcpStream, line: &'static str, times: usize) {
    for _ in 0..times {
        if stream.write_all(line.as_bytes()).await.is_err() {
            return;
        }
        tokio::time::sleep(Duration::from_millis(150)).await;
    }
}

#[tokio::test]
async fn a_scale_is_heard_and_comes_back_by_itself() {
    // The first line is hung up on when it is told to; the second goes on.
    let hang_up = Arc::new(AtomicBool::new(false));
    let told = Arc::clone(&hang_up);
    let address = peer(move |turn, mut stream| {
        let told = Arc::clone(&told);
        async move {
            while (turn > 0 || !told.load(Ordering::Relaxed))
                && stream.write_all(b"412.6 g stable\r\n").await.is_ok()
            {
                tokio::time::sleep(Duration::from_millis(150)).await;
            }
        }
    })
    .await;
    let scale = Scale::at(address);
    assert_eq!(
        scale.view(),
        ScaleView {
            contact: Contact::Reaching,
            g: None,
            pan: Pan::Silent
        }
    );
    let view = until(&scale, |v| v.pan == Pan::Settled).await;
    assert_eq!(
        view,
        ScaleView {
            contact: Contact::Live,
            g: Some(412.6),
            pan: Pan::Settled
        }
    );
    scale.took();
    assert_eq!(until(&scale, |v| v.pan == Pan::Taken).await.pan, Pan::Taken);
    hang_up.store(true, Ordering::Relaxed);
    assert_eq!(lost(&scale).await, "it hung up");
    assert!(
        scale.settled().is_err(),
        "what was said before the line broke counts no longer"
    );
    // It comes back, and what was taken is still known as taken.
    assert_eq!(
        until(&scale, |v| v.pan == Pan::Taken).await.contact,
        Contact::Live
    );
    scale.again();
    assert_eq!(
        until(&scale, |v| v.pan == Pan::Settled).await.g,
        Some(412.6)
    );
    assert_eq!(scale.settled(), Ok(412.6));
}

#[tokio::test]
async fn half_a_line_and_silence_are_told() {
    let silent = peer(|_, stream| async move {
        tokio::time::sleep(Duration::from_secs(60)).await;
        drop(stream);
    })
    .await;
    // A byte now and then, and no line ever ends.
    let slow = peer(|_, mut stream| async move {
        while stream.write_all(b"4").await.is_ok() {
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
    })
    .await;
    for address in [silent, slow] {
        let (from, scale) = (Instant::now(), Scale::at(address));
        assert_eq!(lost(&scale).await, "it is silent; is the cable in?");
        assert!(
            from.elapsed() > Duration::from_secs(2),
            "a scale may hold its breath"
        );
        assert!(scale.settled().is_err());
    }
}

#[tokio::test]
async fn garbage_floods_and_endless_lines_are_told_and_take_no_memory() {
    let garbage = peer(|_, stream| says(stream, "HELO \u{7}scale\r\n", 500)).await;
    assert_eq!(
        lost(&Scale::at(garbage)).await,
        "it sends \"HELO ?scale\", which is not what a scale says"
    );
    let bytes = peer(|_, mut stream| async move {
        while stream.write_all(&[0xff, 0xfe, b'\n']).await.is_ok() {
            tokio::time::sleep(Duration::from_millis(150)).await;
        }
    })
    .await;
    assert!(
        lost(&Scale::at(bytes))
            .await
            .contains("not what a scale says")
    );
    let long = peer(|_, mut stream| async move {
        let line = [vec![b'x'; 5000], vec![b'\n']].concat();
        while stream.write_all(&line).await.is_ok() {
            tokio::time::sleep(Duration::from_millis(150)).await;
        }
    })
    .await;
    assert_eq!(
        lost(&Scale::at(long)).await,
        "it sends lines of more than 120 bytes"
    );
    let endless =
        peer(|_, mut stream| async move { while stream.write_all(&[b'x'; 8192]).await.is_ok() {} })
            .await;
    assert_eq!(
        lost(&Scale::at(endless)).await,
        "what it sends has no lines"
    );
    let flood = peer(|_, mut stream| async move {
        while stream
            .write_all("412.6 g stable\n".repeat(100).as_bytes())
            .await
            .is_ok()
        {}
    })
    .await;
    let scale = Scale::at(flood);
    assert_eq!(
        lost(&scale).await,
        "it sends more than 200 lines in a second"
    );
    assert!(
        scale.settled().is_err(),
        "a flood is no weight that stands still"
    );
}

#[tokio::test]
async fn a_line_between_garbage_is_no_weight() {
    // Every other line is spoilt: what stands between may be of another load.
    let address = peer(|_, mut stream| async move {
        while stream.write_all(b"412.6 g stable\n##\n").await.is_ok() {
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    })
    .await;
    let scale = Scale::at(address);
    until(&scale, |v| v.contact == Contact::Live).await;
    for _ in 0..100 {
        assert!(scale.settled().is_err());
        tokio::time::sleep(Duration::from_millis(20)).await;
    }
}

#[tokio::test]
async fn nobody_there_is_told_and_what_hangs_is_let_go_when_the_scale_is() {
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let address = listener.local_addr().expect("an address").to_string();
    drop(listener);
    assert_eq!(
        lost(&Scale::at(address.clone())).await,
        format!("nothing listens at {address}")
    );
    // Whether a name that nobody has is refused or not answered is the network's own way.
    let unnamed = lost(&Scale::at("no.such.host.invalid:1".into())).await;
    assert!(
        unnamed.contains("cannot be reached") || unnamed.contains("does not answer"),
        "{unnamed}"
    );
    // When the scale is dropped, its line is closed.
    let (told, mut ended) = tokio::sync::mpsc::channel(1);
    let address = peer(move |_, mut stream| {
        let told = told.clone();
        async move {
            while stream.write_all(b"1 g stable\n").await.is_ok() {
                tokio::time::sleep(Duration::from_millis(50)).await;
            }
            let _ = told.send(()).await;
        }
    })
    .await;
    let scale = Scale::at(address);
    until(&scale, |v| v.contact == Contact::Live).await;
    drop(scale);
    assert!(
        tokio::time::timeout(Duration::from_secs(5), ended.recv())
            .await
            .is_ok()
    );
}
