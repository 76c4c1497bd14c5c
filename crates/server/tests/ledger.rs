//! The ledger over the interface: the weather outdoors, what the grower says to findings, and how
//! far a result can be believed.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

/// Plots outdoors, sown six days ago.
async fn plots(farm: &Farm) -> String {
    let id = farm.new_trial("Spinach plots").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let rack =
        json!({ "name": "field", "levels": 4, "slots": 2, "design": "blocks", "kind": "sites" });
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::ToSpan::days(6))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    id
}

async fn finding(farm: &Farm, id: &str, code: &str) -> Option<Value> {
    let trial = farm.get(&format!("/trials/{id}")).await;
    trial["ledger"]["open"]
        .as_array()
        .expect("a list")
        .iter()
        .find(|f| f["code"] == code)
        .cloned()
}

#[tokio::test]
async fn the_weather_is_entered_replaced_and_taken_back() {
    let farm = Farm::new();
    let id = plots(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let seen = finding(&farm, &id, "weather_differed")
        .await
        .expect("nothing is on record")["seen"]
        .clone();
    assert!(
        seen.as_str()
            .expect("words")
            .starts_with("Nothing is on record of the weather"),
        "{seen}"
    );
    let view = farm.get(&at("/weather")).await;
    assert_eq!(
        (&view["outdoors"], &view["today"], &view["days"]),
        (&json!(true), &json!(6), &json!([]))
    );
    for (body, field) in [
        (json!({}), "rain_mm"),
        (json!({ "rain_mm": -1.0 }), "rain_mm"),
        (json!({ "low_c": 20.0, "high_c": 9.0 }), "low_c"),
        (json!({ "high_c": 61.0 }), "high_c"),
        (json!({ "day": 7, "rain_mm": 1.0 }), "day"),
    ] {
        let (status, said) = farm
            .text("POST", &at("/records"), record("weather", body))
            .await;
        assert!(
            status == 422 && said.contains(&format!("\"field\":\"{field}\"")),
            "{said}"
        );
    }
    farm.call(
        "POST",
        &at("/records"),
        record(
            "weather",
            json!({ "day": 5, "rain_mm": 3.5, "low_c": 7.0, "high_c": 18.0 }),
        ),
    )
    .await;
    assert_eq!(finding(&farm, &id, "weather_differed").await, None);
    farm.call(
        "POST",
        &at("/records"),
        record("weather", json!({ "day": 5, "low_c": -2.0, "version": 1 })),
    )
    .await;
    let view = farm.get(&at("/weather")).await;
    assert_eq!(
        view["days"],
        json!([{ "day": 5, "rain_mm": null, "low_c": -2.0, "high_c": null, "who": "owner" }])
    );
    let frost = finding(&farm, &id, "weather_differed")
        .await
        .expect("frost");
    assert_eq!(
        (&frost["seen"], &frost["severity"]),
        (&json!("Frost on day 5, −2 °C."), &json!("minor"))
    );
    // What stood there before comes back, and nothing after that.
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(
        farm.get(&at("/weather")).await["days"][0]["rain_mm"],
        json!(3.5)
    );
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(farm.get(&at("/weather")).await["days"], json!([]));
}

#[tokio::test]
async fn an_answer_stands_beside_its_finding_and_takes_nothing_away() {
    let farm = Farm::new();
    let id = plots(&farm).await;
    let send = format!("/trials/{id}/records");
    let answer = |code: &str, text: &str| record("answer", json!({ "code": code, "text": text }));
    let before = finding(&farm, &id, "weather_differed").await.expect("open");
    assert_eq!(
        (&before["answer"], &before["units"]),
        (&Value::Null, &json!([]))
    );
    farm.text(
        "POST",
        &send,
        answer("weather_differed", " under a tunnel "),
    )
    .await;
    let answered = finding(&farm, &id, "weather_differed")
        .await
        .expect("still open");
    assert_eq!(answered["answer"]["text"], json!("under a tunnel"));
    assert_eq!(
        (&answered["seen"], &answered["severity"]),
        (&before["seen"], &before["severity"])
    );
    let (status, said) = farm.text("POST", &send, answer("moon phase", "full")).await;
    assert!(status == 422 && said.contains("no such finding"), "{said}");
    let (status, _) = farm
        .text("POST", &send, answer("weather_differed", &"x".repeat(401)))
        .await;
    assert_eq!(status, 422);
    farm.text("POST", &send, answer("weather_differed", ""))
        .await;
    assert_eq!(
        finding(&farm, &id, "weather_differed").await.expect("open")["answer"],
        Value::Null
    );
    // Who records enters the weather; what is said to a finding is the owner's.
    farm.person("Olga", "owner").await;
    let recorder = farm.person("Rea", "recorder").await;
    let (status, said) = farm
        .text_as(&recorder, "POST", &send, answer("losses", "no"))
        .await;
    assert_eq!(status, 403, "{said}");
    let rain = record("weather", json!({ "rain_mm": 2.0 }));
    let (status, said) = farm.text_as(&recorder, "POST", &send, rain).await;
    assert_eq!(status, 200, "{said}");
}

#[tokio::test]
async fn how_far_a_result_can_be_believed_is_told_once_the_key_is_open() {
    let farm = Farm::new();
    let id = plots(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    assert_eq!(trial["trust"], Value::Null);
    for (n, unit) in trial["units"].as_array().expect("units").iter().enumerate() {
        let body = json!({
            "code": unit["code"], "gross_g": 400.0 + 2.0 * n as f64, "tare_g": 0.0, "version": 0,
            "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("weighing", body))
            .await;
    }
    farm.call(
        "POST",
        &at("/reveal"),
        json!({ "reason": "the frost comes" }),
    )
    .await;
    let trial = farm.get(&at("")).await;
    let line = "Believe it with care: not given as planned and ended before its day.";
    assert_eq!(
        trial["trust"],
        json!({ "belief": "with_care", "line": line })
    );
    // An answer may come after the key is open.
    let said = json!({ "code": "stopped_early", "text": "frost was forecast" });
    farm.call("POST", &at("/records"), record("answer", said))
        .await;
    let said = finding(&farm, &id, "stopped_early").await.expect("open")["answer"]["text"].clone();
    assert_eq!(said, json!("frost was forecast"));
}
