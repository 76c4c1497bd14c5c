//! Instruments by address: what they show as it comes, what is taken, and for which unit.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};
use std::time::{Duration, Instant};
use tokio::io::AsyncWriteExt;
use tokio::net::TcpListener;

/// A scale that says what is put into the channel, five times a second.
async fn scale() -> (String, tokio::sync::watch::Sender<String>) {
    let (put, says) = tokio::sync::watch::channel("0.0 g stable".to_owned());
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("a port");
    let address = listener.local_addr().expect("an address").to_string();
    tokio::spawn(async move {
        while let Ok((mut stream, _)) = listener.accept().await {
            let says = says.clone();
            tokio::spawn(async move {
                loop {
                    let line = format!("{}\n", says.borrow().clone());
                    if stream.write_all(line.as_bytes()).await.is_err() {
                        return;
                    }
                    tokio::time::sleep(Duration::from_millis(100)).await;
                }
            });
        }
    });
    (address, put)
}

/// What the first instrument shows, once it is as wanted; as it is after 30 s otherwise.
async fn shows(farm: &Farm, wanted: impl Fn(&Value) -> bool) -> Value {
    let from = Instant::now();
    loop {
        let view = farm.get("/instruments").await["showing"][0].clone();
        if wanted(&view) || from.elapsed() > Duration::from_secs(30) {
            return view;
        }
        tokio::time::sleep(Duration::from_millis(30)).await;
    }
}

#[tokio::test]
async fn a_weight_is_taken_once_for_one_unit() {
    let farm = Farm::new();
    let (address, put) = scale().await;
    let sent = json!({ "kind": "scale", "name": "bench scale", "address": address });
    let view = farm.call("POST", "/instruments", sent.clone()).await;
    let no = view["instruments"][0]["no"].as_i64().expect("a number");
    let take = format!("/instruments/{no}/take");
    let taking = |unit: &str| json!({ "unit": unit });
    let empty = shows(&farm, |v| v["pan"] == "empty").await;
    assert_eq!(
        (&empty["contact"]["state"], &empty["g"]),
        (&json!("live"), &json!(0.0))
    );
    let refused = |text: &str, why: &str| {
        let problem: Value = serde_json::from_str(text).expect("a problem");
        assert_eq!(
            (&problem["code"], &problem["detail"]),
            (&json!("unsettled"), &json!(why)),
            "{text}"
        );
    };
    refused(
        &farm.text("POST", &take, taking("t/K")).await.1,
        "Nothing lies on the scale.",
    );
    put.send_replace("412.6 g moving".into());
    shows(&farm, |v| v["pan"] == "moving").await;
    refused(
        &farm.text("POST", &take, taking("t/K")).await.1,
        "The weight is still moving.",
    );
    put.send_replace("412.6 g stable".into());
    shows(&farm, |v| v["pan"] == "settled").await;
    assert_eq!(
        farm.call("POST", &take, taking("t/K")).await,
        json!({ "g": 412.6, "instrument": "bench scale" })
    );
    // Not for the next unit before it is lifted; for the same one, as after a mistake.
    refused(
        &farm.text("POST", &take, taking("t/M")).await.1,
        "This load was taken already: lift it, then put the next one on.",
    );
    assert_eq!(shows(&farm, |v| v["pan"] == "taken").await["pan"], "taken");
    assert_eq!(farm.call("POST", &take, taking("t/K")).await["g"], 412.6);
    put.send_replace("0.0 g stable".into());
    shows(&farm, |v| v["pan"] == "empty").await;
    put.send_replace("398.2 g stable".into());
    shows(&farm, |v| v["pan"] == "settled").await;
    assert_eq!(farm.call("POST", &take, taking("t/M")).await["g"], 398.2);
    // Another of the same name, an address without a port, a change of something that has changed.
    for (change, field) in [
        (json!({}), "name"),
        (json!({ "name": "b", "address": "bench" }), "address"),
        (json!({ "name": "" }), "name"),
    ] {
        let mut wrong = sent.clone();
        change
            .as_object()
            .expect("fields")
            .iter()
            .for_each(|(k, v)| wrong[k] = v.clone());
        let (status, text) = farm.text("POST", "/instruments", wrong).await;
        assert_eq!(status, 422, "{text}");
        assert!(text.contains(&format!("\"field\":\"{field}\"")), "{text}");
    }
    let moved =
        json!({ "kind": "scale", "name": "bench scale", "address": "127.0.0.1:9", "version": 1 });
    let one = format!("/instruments/{no}");
    let view = farm.call("PUT", &one, moved.clone()).await;
    assert_eq!(view["instruments"][0]["version"], 2);
    assert_eq!(farm.text("PUT", &one, moved).await.0, 409);
    // At its new address nobody listens.
    assert_eq!(
        shows(&farm, |v| v["contact"]["state"] == "lost").await["contact"]["why"],
        "nothing listens at 127.0.0.1:9"
    );
    assert_eq!(
        farm.call("DELETE", &one, Value::Null).await["instruments"],
        json!([])
    );
    assert_eq!(farm.text("POST", &take, taking("t/M")).await.0, 404);
}

/// Who takes records may take weights; the list is the owner's.
#[tokio::test]
async fn a_recorder_takes_weights_and_changes_no_instrument() {
    let farm = Farm::new();
    let (address, put) = scale().await;
    let sent = json!({ "kind": "scale", "name": "bench scale", "address": address });
    farm.call("POST", "/instruments", sent.clone()).await;
    put.send_replace("412.6 g stable".into());
    shows(&farm, |v| v["pan"] == "settled").await;
    let _owner = farm.person("Ada", "owner").await;
    let recorder = farm.person("Ben", "recorder").await;
    let viewer = farm.person("Cleo", "viewer").await;
    let unit = json!({ "unit": "t/K" });
    assert_eq!(
        farm.text_as(&viewer, "POST", "/instruments/1/take", unit.clone())
            .await
            .0,
        403
    );
    assert_eq!(
        farm.text_as(&recorder, "POST", "/instruments", sent)
            .await
            .0,
        403
    );
    assert_eq!(
        farm.text_as(&recorder, "POST", "/instruments/1/take", unit)
            .await
            .0,
        200
    );
}

/// What comes as it comes: the first at once, the next when something changes.
#[tokio::test]
async fn what_a_scale_shows_streams() {
    let farm = Farm::new();
    let (address, put) = scale().await;
    farm.call(
        "POST",
        "/instruments",
        json!({ "kind": "scale", "name": "bench scale", "address": address }),
    )
    .await;
    put.send_replace("412.6 g stable".into());
    let mut events = farm.stream("/instruments/live").await;
    let from = Instant::now();
    let mut seen = Vec::new();
    while from.elapsed() < Duration::from_secs(30) && seen.last() != Some(&json!("settled")) {
        let event = events.next().await;
        seen.push(serde_json::from_str::<Value>(&event).expect("JSON")[0]["pan"].clone());
    }
    put.send_replace("overload".into());
    while from.elapsed() < Duration::from_secs(30) && seen.last() != Some(&json!("overload")) {
        let event = events.next().await;
        seen.push(serde_json::from_str::<Value>(&event).expect("JSON")[0]["pan"].clone());
    }
    seen.dedup();
    let known = |word: &str| seen.iter().any(|v| v == word);
    assert!(
        known("moving") && known("settled") && seen.last() == Some(&json!("overload")),
        "{seen:?}"
    );
}

/// What a weight was taken from and in which order the units came is kept with it.
#[tokio::test]
async fn scale_and_order_stand_with_the_weight() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let version = farm.get(&format!("/trials/{id}")).await["version"].clone();
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": version }),
    )
    .await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let view = farm.get(&format!("/trials/{id}/weigh")).await;
    assert_eq!(view["turn"], "shuffled");
    let body = json!({ "code": view["next"], "gross_g": 400.0, "tare_g": 288.0, "version": 0, "instrument": "bench scale", "turn": "shuffled" });
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("weighing", body.clone()),
    )
    .await;
    let file = rusqlite::Connection::open(farm.file()).expect("the file");
    let kept = file.query_row(
        "SELECT instrument, json_extract(body, '$.turn') FROM record WHERE kind = 'weighing'",
        [],
        |r| Ok((r.get(0)?, r.get(1)?)),
    );
    let kept: (String, String) = kept.expect("a weight");
    assert_eq!(kept, ("bench scale".into(), "shuffled".into()));
    let mut long = body;
    long["instrument"] = "x".repeat(61).into();
    assert_eq!(
        farm.text(
            "POST",
            &format!("/trials/{id}/records"),
            record("weighing", long)
        )
        .await
        .0,
        422
    );
}
