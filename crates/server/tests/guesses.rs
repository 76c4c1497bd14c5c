//! Guesses: logged by anybody before the key is open, each told only to who made it, and held
//! against the verdict afterwards.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

#[tokio::test]
async fn everybody_guesses_and_the_opened_key_says_who_was_right() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = format!("/trials/{id}/guesses");
    let (ada, bo, eve) = (
        farm.person("Ada", "owner").await,
        farm.person("Bo", "recorder").await,
        farm.person("Eve", "viewer").await,
    );
    let send = format!("/trials/{id}/records");
    let guess = async |cookie: &str, body: Value| {
        farm.text_as(cookie, "POST", &send, record("guess", body))
            .await
            .0
            .as_u16()
    };
    let seen = async |cookie: &str| {
        let (_, text) = farm.text_as(cookie, "GET", &at, Value::Null).await;
        serde_json::from_str::<Value>(&text).expect("JSON")
    };
    // On the plan, before anything is dealt.
    assert_eq!(
        guess(
            &ada,
            json!({ "expects": { "best": 1 }, "by_percent": 12.0 })
        )
        .await,
        200
    );
    assert_eq!(
        guess(
            &eve,
            json!({ "expects": "no_difference", "name": "Eve's aunt" })
        )
        .await,
        200
    );
    assert_eq!(guess(&bo, json!({ "expects": { "best": 0 } })).await, 200);
    for wrong in [
        json!({ "expects": { "best": 1 }, "name": " " }),
        json!({ "expects": { "best": 1 }, "by_percent": 4000.0 }),
    ] {
        assert_eq!(guess(&bo, wrong).await, 422);
    }
    assert_eq!(guess(&bo, json!({ "expects": { "best": 9 } })).await, 404);
    assert_eq!(
        guess(&bo, json!({ "expects": { "unit": "A" } })).await,
        404,
        "nothing is dealt yet"
    );
    let view = seen(&bo).await;
    assert_eq!(
        (&view["count"], view["guesses"].as_array().map(Vec::len)),
        (&json!(3), Some(1))
    );
    assert_eq!(view["guesses"][0]["outcome"], Value::Null);
    // On the codes; a guess changes nothing of the plan, and does not seal it.
    let call = async |method: &str, path: String, body: Value| {
        let (status, text) = farm.text_as(&ada, method, &path, body).await;
        assert!(status.is_success(), "{path}: {text}");
        serde_json::from_str::<Value>(&text).unwrap_or_default()
    };
    let trial = call("GET", format!("/trials/{id}"), Value::Null).await;
    let trial = call(
        "POST",
        format!("/trials/{id}/deal"),
        json!({ "version": trial["version"] }),
    )
    .await;
    call(
        "POST",
        format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let codes: Vec<String> = trial["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned())
        .collect();
    assert_eq!(
        guess(&bo, json!({ "expects": { "unit": codes[3] } })).await,
        200
    );
    // The fourth is the heaviest, whatever was dealt to it.
    for (n, code) in codes.iter().enumerate() {
        let gross = 1100.0 + n as f64 * 0.5 + if n == 3 { 40.0 } else { 0.0 };
        let body = json!({
            "code": code, "gross_g": gross, "tare_g": 1000.0, "version": 0, "confirmed": true,
        });
        call(
            "POST",
            format!("/trials/{id}/records"),
            record("weighing", body),
        )
        .await;
    }
    call(
        "POST",
        format!("/trials/{id}/reveal"),
        json!({ "reason": "tried out" }),
    )
    .await;
    assert_eq!(
        guess(&eve, json!({ "expects": "no_difference" })).await,
        409,
        "too late"
    );
    let view = seen(&eve).await;
    let told: Vec<(&str, &str)> = view["guesses"]
        .as_array()
        .expect("guesses")
        .iter()
        .map(|g| {
            (
                g["name"].as_str().expect("a name"),
                g["outcome"].as_str().expect("an outcome"),
            )
        })
        .collect();
    assert_eq!(
        told.iter().map(|t| t.0).collect::<Vec<_>>(),
        ["Ada", "Eve's aunt", "Bo", "Bo"]
    );
    assert_eq!(told[3].1, "right");
    assert_eq!(
        (&view["guesses"][3]["place"], &view["guesses"][3]["of"]),
        (&json!(1), &json!(codes.len()))
    );
    let judge = call("GET", format!("/trials/{id}/judge"), Value::Null).await;
    let found = judge["analysis"]["contrasts"][0]["percent"]
        .as_f64()
        .expect("a difference");
    let off = view["guesses"][0]["off_points"]
        .as_f64()
        .expect("how far off");
    assert!((off - (12.0 - found).abs()).abs() < 1e-9);
}

/// A guess made out of reach before the sowing may arrive after it: it is of the time before, and
/// stands first.
#[tokio::test]
async fn a_guess_that_arrives_after_the_sowing_keeps_its_own_time() {
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
    let guess = async |name: &str, hours: i64| {
        let at = jiff::Timestamp::now() - jiff::SignedDuration::from_hours(hours);
        let body = json!({ "expects": "no_difference", "name": name, "at": at.to_string() });
        farm.call(
            "POST",
            &format!("/trials/{id}/records"),
            record("guess", body),
        )
        .await;
        farm.get(&format!("/trials/{id}/guesses")).await
    };
    guess("Late", 0).await;
    let view = guess("Early", 48).await;
    let told = |n: usize| {
        (
            view["guesses"][n]["name"].clone(),
            view["guesses"][n]["day"].clone(),
        )
    };
    assert_eq!(
        [told(0), told(1)],
        [(json!("Early"), json!(0)), (json!("Late"), json!(0))]
    );
}
