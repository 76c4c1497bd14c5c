//! Figures of a harvest for what was spent on it: asked for where the plan does not say it, shown
//! when they no longer tell the key, and exported with their units.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

#[tokio::test]
async fn a_harvest_is_judged_for_each_square_metre_once_the_key_is_open() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut trial = farm.get(&at("")).await;
    let ask = &mut trial["ask"];
    (ask["also"], ask["price_per_kg"]) = (
        json!(["harvest_per_area", "harvest_value", "harvest_per_hour"]),
        json!(30.0),
    );
    let put =
        json!({ "name": "Cress", "ask": ask.clone(), "version": trial["version"], "reason": null });
    farm.call("PUT", &at("/ask"), put).await;
    let lacking = async || {
        let trial = farm.get(&at("")).await;
        let cautions = trial["cautions"].as_array().expect("cautions").clone();
        cautions
            .iter()
            .filter(|c| c["code"] == "no_basis")
            .map(|c| c["said"].clone())
            .collect::<Vec<Value>>()
    };
    assert_eq!(
        lacking().await,
        [json!(
            "Harvest per square metre: Say at Match how much surface one has."
        )]
    );
    let mut trial = farm.get(&at("")).await;
    for treatment in trial["sheet"]["treatments"]
        .as_array_mut()
        .expect("treatments")
    {
        treatment["conditions"]["surface"] = json!("1250");
    }
    let trial = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": trial["sheet"], "version": trial["version"] }),
        )
        .await;
    assert_eq!(lacking().await, Vec::<Value>::new());
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let units = farm.get(&at("")).await["units"].clone();
    for (n, unit) in units.as_array().expect("units").iter().enumerate() {
        let code = unit["code"].as_str().expect("a code");
        let weighing = json!({
            "code": code, "gross_g": 150.0 + n as f64, "tare_g": 50.0, "version": 0,
            "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("weighing", weighing))
            .await;
        let work = json!({ "code": code, "reading": "work", "day": 0, "value": 6.0, "version": 0 });
        farm.call("POST", &at("/records"), record("reading", work))
            .await;
    }
    let judged = async |measure: &str| farm.get(&at(&format!("/judge?measure={measure}"))).await;
    // One by one they would tell the key wherever treatments have other surfaces.
    assert_eq!(judged("harvest_per_area").await["dots"], json!([]));
    assert_eq!(judged("harvest_per_hour").await["dots"][0]["value"], 1000.0);
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let weights = judged("harvest_weight").await;
    let areas = judged("harvest_per_area").await;
    let effect = |view: &Value| {
        view["analysis"]["contrasts"][0]["estimate"]
            .as_f64()
            .expect("a difference")
    };
    assert!(
        (effect(&areas) - 8.0 * effect(&weights)).abs() < 1e-6,
        "an eighth of a square metre"
    );
    assert_eq!(areas["measure"]["unit"], "g/m²");
    let value = judged("harvest_value").await;
    assert!((effect(&value) - 0.03 * effect(&weights)).abs() < 1e-9);
    let csv = farm.text("GET", &at("/export.csv"), Value::Null).await.1;
    let head = csv.lines().next().expect("a head");
    for column in [
        "harvest_per_area_g_per_m2",
        "harvest_value",
        "harvest_per_hour_g_per_h",
    ] {
        assert!(head.split(',').any(|c| c == column), "{column}: {head}");
    }
}

#[tokio::test]
async fn what_is_left_to_eat_and_dry_matter_are_shares_of_the_cut() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut trial = farm.get(&at("")).await;
    let ask = &mut trial["ask"];
    ask["also"] = json!(["edible_share", "edible_weight", "dry_share"]);
    let put =
        json!({ "name": "Cress", "ask": ask.clone(), "version": trial["version"], "reason": null });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let grid = farm.get(&at("/tend")).await;
    let after: Vec<&Value> = grid["readings"]
        .as_array()
        .expect("columns")
        .iter()
        .filter(|c| c["after_cut"] == true)
        .collect();
    assert_eq!(
        after
            .iter()
            .map(|c| c["key"].as_str().expect("a key"))
            .collect::<Vec<_>>(),
        ["edible", "dry"]
    );
    let code = grid["rows"][0]["unit"]["code"].clone();
    let weighing = json!({ "code": code, "gross_g": 170.0, "tare_g": 50.0, "version": 0 });
    farm.call("POST", &at("/records"), record("weighing", weighing))
        .await;
    let read = |reading: &str, value: f64| {
        json!({
            "code": code, "reading": reading, "day": 0, "value": value, "version": 0,
        })
    };
    let (status, text) = farm
        .text(
            "POST",
            &at("/records"),
            record("reading", read("edible", 960.0)),
        )
        .await;
    assert!(
        status == 422 && text.contains("960 g, and 120 g were cut"),
        "{text}"
    );
    farm.call(
        "POST",
        &at("/records"),
        record("reading", read("edible", 96.0)),
    )
    .await;
    farm.call("POST", &at("/records"), record("reading", read("dry", 7.2)))
        .await;
    let dot = async |measure: &str| {
        farm.get(&at(&format!("/judge?measure={measure}"))).await["dots"][0]["value"].clone()
    };
    assert_eq!(
        (
            dot("edible_share").await,
            dot("edible_weight").await,
            dot("dry_share").await
        ),
        (json!(80.0), json!(96.0), json!(6.0))
    );
}
