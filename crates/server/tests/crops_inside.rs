//! Several crops in each unit: recorded crop by crop, with a verdict on each and one on whether
//! they agree; and what the plan says of money and stages.

use crate::farm;

use farm::{Farm, record};
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::{analysis::analyse, table::read};
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

async fn set_ask(farm: &Farm, id: &str, change: Value) -> (axum::http::StatusCode, Value) {
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut ask = trial["ask"].clone();
    for (key, value) in change.as_object().expect("an object") {
        ask[key] = value.clone();
    }
    let body = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
    let (status, text) = farm.text("PUT", &format!("/trials/{id}/ask"), body).await;
    (status, serde_json::from_str(&text).expect("JSON"))
}

/// A pail with three kinds of seedling, eight pails: weighed crop by crop, feed helping two of the
/// three.
async fn grown(farm: &Farm) -> String {
    let id = farm.new_trial("Pails of three").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let crops = json!(["basil", "dill", "rocket"]);
    let (status, _) = set_ask(
        farm,
        &id,
        json!({ "question": "Who likes the feed?", "crops_inside": crops }),
    )
    .await;
    assert_eq!(status, 200);
    let trial = farm.get(&at("")).await;
    let rack = json!({ "name": "pails", "levels": 4, "slots": 2, "kind": "buckets" });
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
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        for (n, code) in pour["codes"].as_array().expect("codes").iter().enumerate() {
            for part in 1..=3usize {
                let gain = if treatment == 1 && part < 3 {
                    20.0
                } else {
                    0.0
                };
                let net = 60.0
                    + 10.0 * part as f64
                    + 2.0 * n as f64
                    + gain
                    + ((n * part * 7 + treatment) % 4) as f64;
                let body = json!({
                    "code": code, "crop": part, "gross_g": net, "tare_g": 0.0, "version": 0,
                    "confirmed": true,
                });
                farm.call("POST", &at("/records"), record("weighing", body))
                    .await;
            }
        }
    }
    id
}

#[tokio::test]
async fn each_crop_has_its_verdict_and_all_are_asked_whether_they_agree() {
    let farm = Farm::new();
    let id = grown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let weighed = farm.get(&at("/weigh")).await;
    assert_eq!(
        (
            weighed["rows"].as_array().expect("rows").len(),
            weighed["weighed"].as_u64()
        ),
        (24, Some(24))
    );
    assert!(weighed["next"].is_null());
    assert_eq!(farm.get(&at("")).await["next"], "judge");
    let sealed = farm.get(&at("/judge")).await;
    assert_eq!(
        (
            sealed["by_crop"].as_array().map(Vec::len),
            sealed["analysis"].is_null()
        ),
        (Some(0), true)
    );
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let crops: Vec<&str> = judge["by_crop"]
        .as_array()
        .expect("crops")
        .iter()
        .map(|c| c["crop"].as_str().expect("a name"))
        .collect();
    assert_eq!(crops, ["basil", "dill", "rocket"]);
    assert_eq!(
        judge["agreement"]["interaction"]["found"], true,
        "{}",
        judge["agreement"]
    );
    assert!(judge["agreement"]["names"].to_string().contains("crop"));
    // A crop's own comparison is that of its own weights, pail by pail.
    let estimate = |view: &Value| {
        view["analysis"]["contrasts"][0]["estimate"]
            .as_f64()
            .expect("a figure")
    };
    let rocket = farm.get(&at("/judge?crop=3")).await;
    assert!(
        (estimate(&judge) - 20.0).abs() < 3.0 && estimate(&rocket).abs() < 3.0,
        "{} {}",
        estimate(&judge),
        estimate(&rocket)
    );
    assert_eq!(judge["dots"].as_array().expect("dots").len(), 8);
    let (status, _) = farm.text("GET", &at("/judge?crop=4"), Value::Null).await;
    assert_eq!(status, 404);
    // The exported file with its plan gives the very agreement shown.
    let csv = farm.get(&at("/export.csv")).await;
    let csv = csv.as_str().expect("text");
    assert!(
        csv.starts_with("unit,block,level,slot,crop,treatment,"),
        "{csv}"
    );
    let plan = AnalysisPlan::read(&farm.get(&at("/plan.json")).await.to_string()).expect("a plan");
    let table = read(csv.as_bytes(), &plan.columns(0)).expect("a table");
    let again =
        serde_json::to_value(analyse(&table, &plan.question(0)).expect("figures")).expect("JSON");
    assert_eq!(
        again["factors"]["interaction"],
        judge["agreement"]["interaction"]
    );
    assert_eq!(
        again["design"]["name"], "split plot",
        "the pail is what was dealt"
    );
}

#[tokio::test]
async fn the_grid_walks_crop_by_crop_and_the_solution_is_shared() {
    let farm = Farm::new();
    let id = farm.new_trial("Pails of two").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_ask(&farm, &id, json!({ "crops_inside": ["basil", "dill"] })).await;
    let version = farm.get(&at("")).await["version"].clone();
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": version }))
        .await;
    let code = dealt["units"][0]["code"].clone();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(2) })),
    )
    .await;
    let grid = farm.get(&at("/tend")).await;
    let columns: Vec<(&str, u64)> = grid["readings"]
        .as_array()
        .expect("columns")
        .iter()
        .map(|c| {
            (
                c["key"].as_str().expect("a key"),
                c["crop"].as_u64().unwrap_or(0),
            )
        })
        .collect();
    assert_eq!(
        columns,
        [("ph", 0), ("ec", 0), ("height", 1), ("height", 2)]
    );
    let reading = |key: &str, crop: u32, value: f64| {
        let crop = (crop > 0).then_some(crop);
        json!({
            "code": code, "reading": key, "crop": crop, "day": 2, "value": value, "version": 0,
        })
    };
    farm.call(
        "POST",
        &at("/records"),
        record("reading", reading("height", 1, 20.0)),
    )
    .await;
    farm.call(
        "POST",
        &at("/records"),
        record("reading", reading("height", 2, 31.0)),
    )
    .await;
    for wrong in [
        reading("height", 0, 20.0),
        reading("height", 3, 20.0),
        reading("ph", 1, 6.0),
    ] {
        let (status, said) = farm
            .text("POST", &at("/records"), record("reading", wrong))
            .await;
        assert_eq!(status, 422, "{said}");
    }
    let weight =
        json!({ "code": code, "gross_g": 90.0, "tare_g": 0.0, "version": 0, "confirmed": true });
    let (status, said) = farm
        .text("POST", &at("/records"), record("weighing", weight))
        .await;
    assert!(status == 422 && said.contains("name the crop"), "{said}");
    farm.call("POST", &at("/undo"), Value::Null).await;
    let row = farm.get(&at("/tend")).await["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .find(|r| r["unit"]["code"] == code)
        .expect("the pail")
        .clone();
    assert_eq!(
        (
            row["cells"][2]["value"].as_f64(),
            row["cells"][3]["value"].is_null()
        ),
        (Some(20.0), true)
    );
    let (status, said) = set_ask(
        &farm,
        &id,
        json!({ "crops_inside": ["basil", "dill", "mint"] }),
    )
    .await;
    assert!(
        status == 409 || status == 422,
        "what was recorded would lose its crop: {said}"
    );
}

#[tokio::test]
async fn a_margin_is_said_in_per_cent_in_grams_and_in_money() {
    let farm = Farm::new();
    let id = farm.new_trial("Money").await;
    let (status, said) = set_ask(&farm, &id, json!({ "margin_money": 1.2 })).await;
    assert!(
        status == 422 && said["detail"].as_str().expect("words").contains("price"),
        "{said}"
    );
    let known = json!({ "margin_money": 1.2, "price_per_kg": 40.0, "usual_per_unit": 250.0, "end_stage": "first true leaf" });
    let (status, trial) = set_ask(&farm, &id, known).await;
    assert_eq!(status, 200, "{trial}");
    assert_eq!(
        trial["ask"]["margin"],
        json!({ "kind": "absolute", "value": 30.0 })
    );
    assert_eq!(
        trial["margin"],
        json!({ "percent": 12.0, "absolute": 30.0, "money": 1.2 })
    );
    assert_eq!(trial["ask"]["end_stage"], "first true leaf");
    let few = trial["ledger"]["open"]
        .as_array()
        .expect("findings")
        .iter()
        .any(|f| f["code"] == "too_few_to_tell");
    let sound = trial["ledger"]["sound"]
        .to_string()
        .contains("asked for 12 %");
    assert!(
        few || sound,
        "the ledger weighs a margin in money as a share of the usual yield"
    );
    for wrong in [
        json!({ "price_per_kg": -1.0 }),
        json!({ "crops_inside": ["basil"] }),
    ] {
        let (status, said) = set_ask(&farm, &id, wrong).await;
        assert_eq!(status, 422, "{said}");
    }
}
