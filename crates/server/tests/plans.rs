//! Plans of trials as files: taken out, brought back, changed by hand, planned for another round.

use crate::farm;

use axum::http::StatusCode;
use farm::{Farm, set_cell};
use serde_json::{Value, json};

/// A dealt trial with an unusual sheet, and its plan as it is taken out.
async fn planned(farm: &Farm) -> (String, Value) {
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut sheet = trial["sheet"].clone();
    set_cell(&mut sheet["treatments"][1], "dose", "0.5");
    let kelp = json!({
        "role": "additive", "what": "kelp", "how": "sprayed", "amount": "undiluted",
        "ml_a_unit": 5.0, "when": { "days": [3, 6] },
    });
    sheet["treatments"][0]["applications"] = json!([kelp]);
    let trial = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": sheet, "version": trial["version"] }),
        )
        .await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let (status, text) = farm.text("GET", &at("/trial-plan.json"), Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    assert!(
        !text.contains("seed\":") && !text.contains("nonce"),
        "the deal stays here"
    );
    (id, serde_json::from_str(&text).expect("a plan"))
}

#[tokio::test]
async fn a_plan_taken_out_and_brought_is_the_same_plan_undealt() {
    let farm = Farm::new();
    let (id, plan) = planned(&farm).await;
    let brought = farm.call("POST", "/trials/from-plan", plan.clone()).await;
    assert_ne!(brought["id"], json!(id));
    assert_eq!(
        (brought["commitment"].is_null(), brought["version"].as_i64()),
        (true, Some(1))
    );
    let path = format!(
        "/trials/{}/trial-plan.json",
        brought["id"].as_str().expect("an id")
    );
    assert_eq!(farm.get(&path).await, plan);
    // Names follow what is given; a control that is sprayed is no plain water.
    let names: Vec<&Value> = (0..2)
        .map(|t| &brought["sheet"]["treatments"][t]["name"])
        .collect();
    assert_eq!(names, ["no feed with kelp sprayed", "half feed"]);
}

#[tokio::test]
async fn an_unknown_key_is_refused_by_its_name_and_a_missing_one_is_usual() {
    let farm = Farm::new();
    let (_, plan) = planned(&farm).await;
    let refused = async |change: fn(&mut Value)| {
        let mut own = plan.clone();
        change(&mut own);
        let (status, text) = farm.text("POST", "/trials/from-plan", own).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{text}");
        text
    };
    for (change, named) in [
        ((|p| p["moon"] = json!("full")) as fn(&mut Value), "`moon`"),
        (|p| p["ask"]["moon"] = json!(1), "`moon`"),
        (
            |p| p["sheet"]["treatments"][0]["dose"] = json!("1"),
            "`dose`",
        ),
        (
            |p| p["sheet"]["treatments"][0]["applications"][0]["often"] = json!(2),
            "`often`",
        ),
        (
            |p| p["sheet"]["treatments"][1]["conditions"]["feed"] = json!("x"),
            "no condition 'feed'",
        ),
        (
            |p| p["sheet"]["treatments"][1]["applications"][0]["how"] = json!("poured"),
            "`poured`",
        ),
        (|p| p["care"]["feed_every"] = json!("often"), "often"),
        (
            |p| p["light"] = json!([{ "level": 9, "slot": 1, "umol": 100.0 }]),
            "no place 1 on level 9",
        ),
        (
            |p| p["light"] = json!([{ "level": 1, "slot": 1, "umol": 1e9 }]),
            "from 0 to 5000",
        ),
        (|p| p["sites"] = json!([{ "level": 9 }]), "no level 9"),
        (|p| p["rack"]["starts"] = json!([-1.0]), "above 0"),
        (|p| p["rack"]["levels"] = json!(4_000_000), "levels"),
        (|p| p["name"] = json!(" "), "name"),
        (
            |p| p["format"] = json!("iron-twin/plan/1"),
            "iron-twin/trial-plan/1",
        ),
    ] {
        let text = refused(change).await;
        assert!(text.contains(named), "{named}: {text}");
    }
    let trials = farm.get("/trials").await;
    assert_eq!(
        trials.as_array().map(Vec::len),
        Some(1),
        "nothing was made of them"
    );
    let mut sparse = plan.clone();
    for key in ["care", "light", "sites", "feed", "sow_planned"] {
        sparse.as_object_mut().expect("a plan").remove(key);
    }
    sparse["ask"]
        .as_object_mut()
        .expect("an ask")
        .remove("margin");
    let taken = farm.call("POST", "/trials/from-plan", sparse).await;
    assert_eq!(
        (
            taken["care"]["feed_every"].as_u64(),
            taken["margin"]["percent"].as_f64()
        ),
        (Some(2), Some(10.0))
    );
}

#[tokio::test]
async fn the_next_round_has_the_plan_a_free_name_and_no_records() {
    let farm = Farm::new();
    let (id, plan) = planned(&farm).await;
    let mut names = Vec::new();
    for _ in 0..2 {
        let next = farm
            .call("POST", &format!("/trials/{id}/next-round"), Value::Null)
            .await;
        assert_eq!(
            (next["commitment"].is_null(), next["sealed_at"].is_null()),
            (true, true)
        );
        assert_eq!(
            (&next["sheet"], &next["ask"]),
            (&plan["sheet"], &plan["ask"])
        );
        names.push(next["name"].clone());
    }
    assert_eq!(names, ["Cress, round 2", "Cress, round 3"]);
    let (status, _) = farm
        .text("POST", "/trials/none/next-round", Value::Null)
        .await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}
