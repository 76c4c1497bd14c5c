//! Money over the interface: prices of the farm, and what treatments cost and bring once the key is
//! open.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

#[tokio::test]
async fn prices_are_kept_and_refused_by_their_field() {
    let farm = Farm::new();
    assert_eq!(farm.get("/farm/prices").await["lamps_on_at"], json!(6));
    let own = json!({
        "currency": " € ", "per_kwh": 0.3, "cheap": { "from": 22, "until": 6, "per_kwh": 0.2 },
        "as_of": "2026-10-01",
    });
    let kept = farm.call("PUT", "/farm/prices", own).await;
    assert_eq!(
        (&kept["currency"], &kept["cheap"]["per_kwh"]),
        (&json!("€"), &json!(0.2))
    );
    // Name and zone of the farm stay, and prices stay when those change.
    farm.call(
        "PUT",
        "/farm",
        json!({ "name": "Quarry Lane Greens", "zone": "" }),
    )
    .await;
    assert_eq!(farm.get("/farm/prices").await, kept);
    for (body, field) in [
        (json!({ "per_kwh": -1.0 }), "per_kwh"),
        (json!({ "per_hour": 1e9 }), "per_hour"),
        (
            json!({ "cheap": { "from": 7, "until": 7, "per_kwh": 0.1 } }),
            "cheap",
        ),
        (json!({ "lamps_on_at": 24 }), "lamps_on_at"),
        (json!({ "days_between": 400 }), "days_between"),
        (json!({ "currency": "thalers" }), "currency"),
    ] {
        let (status, said) = farm.text("PUT", "/farm/prices", body).await;
        assert!(
            status == 422 && said.contains(&format!("\"field\":\"{field}\"")),
            "{said}"
        );
    }
    farm.person("Olga", "owner").await;
    let recorder = farm.person("Rea", "recorder").await;
    let (status, _) = farm
        .text_as(&recorder, "PUT", "/farm/prices", json!({}))
        .await;
    assert_eq!(status, 403);
}

/// Eight trays of each, weighed on the day of sowing: water 100 g and a few, feed 30 g more; a kg
/// brings 20.
async fn weighed(farm: &Farm) -> String {
    let id = farm.new_trial("Amaranth").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    (ask["question"], ask["price_per_kg"]) = (json!("Does feed pay?"), json!(20.0));
    let trial = farm
        .call(
            "PUT",
            &at("/ask"),
            json!({ "name": "Amaranth", "ask": ask, "version": trial["version"], "reason": null }),
        )
        .await;
    let rack =
        json!({ "name": "rack", "levels": 2, "slots": 8, "design": "completely_randomised" });
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    for t in 0..2 {
        for (n, code) in sheet[t]["codes"]
            .as_array()
            .expect("codes")
            .iter()
            .enumerate()
        {
            let gross = 100.0 + 30.0 * t as f64 + (n % 4) as f64;
            let body = json!({
                "code": code, "gross_g": gross, "tare_g": 0.0, "version": 0, "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("weighing", body))
                .await;
        }
    }
    id
}

#[tokio::test]
async fn what_feed_earns_is_told_once_the_key_is_open() {
    let farm = Farm::new();
    let id = weighed(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    assert_eq!(farm.get(&at("/money")).await, Value::Null);
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    farm.call("PUT", "/farm/prices", json!({ "currency": "€" }))
        .await;
    let told = farm.get(&at("/money")).await;
    assert_eq!(
        (&told["priced"], &told["currency"]),
        (&json!(true), &json!("€"))
    );
    let beside = &told["treatments"][1]["beside"];
    // 30 g at 20 a kg; nothing has a price yet.
    let near = |value: &Value, by: f64| {
        assert!(
            (value.as_f64().expect("a figure") - by).abs() < 1e-9,
            "{value} {by}"
        )
    };
    near(&beside["gain"], 0.6);
    let sentence = beside["sentence"].as_str().expect("words");
    assert!(
        sentence.ends_with("Not counted, for want of a price: grow feed."),
        "{sentence}"
    );
    // Four mL of feed at 25 a litre.
    let held = json!({ "price_per_kg_or_l": 25.0, "dose_per_l": 4.0, "form": "liquid" });
    let item = json!({ "shelf": "feeds", "name": "grow feed", "source": "bill", "held": held });
    farm.call(
        "POST",
        "/stores/items",
        json!({ "item": item, "version": 0 }),
    )
    .await;
    let told = farm.get(&at("/money")).await;
    near(&told["treatments"][1]["beside"]["cost"], 0.1);
    near(&told["treatments"][1]["beside"]["gain"], 0.5);
    // A price has its day, which nobody had to type, and keeps it.
    let today = told["oldest_price"].as_str().expect("a day").to_owned();
    let lines = told["treatments"][1]["costs"].as_array().expect("costs");
    assert!(
        lines
            .iter()
            .any(|c| c["name"] == "grow feed" && c["priced_on"] == json!(today)),
        "{told}"
    );
    assert_eq!(
        farm.get("/farm/prices").await["as_of"],
        Value::Null,
        "no price was said there"
    );
    let prices = farm
        .call(
            "PUT",
            "/farm/prices",
            json!({ "currency": "€", "per_kwh": 0.3 }),
        )
        .await;
    assert_eq!(prices["as_of"], json!(today));
    // 10 % of what the control brings was not asked in money: it pays or it does not.
    assert_eq!(told["treatments"][1]["beside"]["verdict"], json!("better"));
    // Money and weight tell one story: the limits of the verdict at the price, less the cost.
    let judged = farm.get(&at("/judge")).await;
    let contrast = &judged["analysis"]["contrasts"][0];
    let limit = |key: &str| contrast[key].as_f64().expect("a limit") * 0.02 - 0.1;
    near(&told["treatments"][1]["beside"]["low"], limit("low"));
    near(&told["treatments"][1]["beside"]["high"], limit("high"));
}
