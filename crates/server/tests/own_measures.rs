//! Measures of a grower's own: made at Ask, read at the shelf, judged, exported, and known on
//! another farm by their key alone.

use crate::farm;

use farm::{Farm, record};
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::table::read;
use serde_json::{Value, json};

#[tokio::test]
async fn a_measure_of_ones_own_is_read_judged_and_exported_like_any_other() {
    let farm = Farm::new();
    let gloss = json!({
        "name": " Leaf  gloss", "kind": "score", "better": "higher",
        "grades": ["dull", "matt", "shiny"],
    });
    let wrong = json!({ "name": "gloss", "kind": "score", "better": "higher", "grades": ["dull"] });
    let (status, said) = farm.text("POST", "/own-measures", wrong).await;
    assert!(status == 422 && said.contains("grades"), "{said}");
    let made = farm.call("POST", "/own-measures", gloss).await;
    assert_eq!(
        (&made["name"], &made["kind"]),
        (&json!("Leaf gloss"), &json!("score"))
    );
    let stalk = json!({
        "name": "stalk", "kind": "amount", "unit": "mm", "least": 0, "most": 40, "better": "higher",
    });
    let stalk = farm.call("POST", "/own-measures", stalk).await["key"].clone();
    let id = farm.new_trial("Chard").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let catalogue = farm.get("/catalogue").await["measures"]
        .as_array()
        .map(Vec::len);
    let mut ask = trial["ask"].clone();
    (ask["question"], ask["primary_measure"], ask["also"]) = (
        json!("Thicker stalks?"),
        stalk.clone(),
        json!([made["key"]]),
    );
    let put = json!({ "name": "Chard", "ask": ask, "version": trial["version"], "reason": null });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    assert_eq!(
        farm.get("/catalogue").await["measures"]
            .as_array()
            .map(Vec::len),
        catalogue.map(|n| n + 2),
        "known to all"
    );
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let grid = farm.get(&at("/tend?day=0")).await;
    let columns = grid["readings"].as_array().expect("columns");
    let of = |key: &Value| columns.iter().find(|c| &c["key"] == key).expect("a column");
    assert_eq!(
        (&of(&stalk)["unit"], &of(&stalk)["name"]),
        (&json!("mm"), &json!("stalk"))
    );
    assert_eq!(
        of(&made["key"])["anchors"][2],
        json!({ "grade": 3, "words": "shiny" })
    );
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let reading = |code: &Value, key: &Value, value: f64| {
        json!({
            "code": code, "reading": key, "day": 0, "value": value, "version": 0, "confirmed": true,
        })
    };
    let first = &sheet[0]["codes"][0];
    for (body, words) in [
        (reading(first, &stalk, 41.0), "between 0 and 40 mm"),
        (reading(first, &made["key"], 2.5), "whole number"),
        (
            reading(first, &json!("own;count;fleas;;0;9;lower"), 2.0),
            "there is no reading",
        ),
    ] {
        let (status, said) = farm
            .text("POST", &at("/records"), record("reading", body))
            .await;
        assert!(status == 422 && said.contains(words), "{said}");
    }
    for treatment in 0..2 {
        for (n, code) in sheet[treatment]["codes"]
            .as_array()
            .expect("codes")
            .iter()
            .enumerate()
        {
            farm.call(
                "POST",
                &at("/records"),
                record(
                    "reading",
                    reading(code, &stalk, 10.0 + 4.0 * treatment as f64 + 0.1 * n as f64),
                ),
            )
            .await;
            farm.call(
                "POST",
                &at("/records"),
                record("reading", reading(code, &made["key"], 1.0 + (n % 3) as f64)),
            )
            .await;
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let contrast = &judge["analysis"]["contrasts"][0];
    assert!(
        (contrast["estimate"].as_f64().expect("a number") - 4.0).abs() < 1e-9,
        "{}",
        judge["trouble"]
    );
    assert!(
        contrast["sentence"]
            .as_str()
            .expect("words")
            .contains(" 4.00 mm more than"),
        "{contrast}"
    );
    let key = made["key"]
        .as_str()
        .expect("a key")
        .replace(' ', "%20")
        .replace(';', "%3B")
        .replace(',', "%2C");
    assert_eq!(
        farm.get(&at(&format!("/judge?measure={key}"))).await["analysis"]["kind"],
        "score"
    );
    let csv = farm.text("GET", &at("/export.csv"), Value::Null).await.1;
    let head = csv.lines().next().expect("a head");
    assert!(
        head.ends_with("treatment,own_stalk_mm,own_leaf_gloss"),
        "{head}"
    );
    let plan = AnalysisPlan::read(&farm.get(&at("/plan.json")).await.to_string()).expect("a plan");
    let again = analyse(
        &read(csv.as_bytes(), &plan.columns(0)).expect("a table"),
        &plan.question(0),
    )
    .expect("an analysis");
    assert_eq!(json!(again.contrasts[0].low), contrast["low"]);

    // Its whole plan, brought to a farm that never heard of it, records the same.
    let package = json!({
        "format": "iron-twin/trial-plan/1", "name": "Chard", "ask": farm.get(&at("")).await["ask"],
    });
    let other = Farm::new();
    let brought = other.call("POST", "/trials/from-plan", package).await;
    let there = other
        .get(&format!(
            "/trials/{}",
            brought["id"].as_str().expect("an id")
        ))
        .await;
    assert_eq!(there["ask"]["primary_measure"], stalk);
}
