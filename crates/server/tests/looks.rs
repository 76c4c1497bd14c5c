//! Looks before the end: what they tell, to whom, and what is left of them at the end.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

/// A trial judged by height on day 12 and sown six days ago, with looks planned; its codes and what
/// was dealt to them.
async fn growing(farm: &Farm, looks_on: Value) -> (String, Vec<(String, usize)>) {
    let id = farm.new_trial("Pea shoots").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    ask["question"] = json!("Do they grow taller?");
    (ask["primary_measure"], ask["also"], ask["looks_on"]) =
        (json!("height"), json!(["harvest_weight"]), looks_on);
    let put =
        json!({ "name": "Pea shoots", "ask": ask, "version": trial["version"], "reason": null });
    let trial = farm.call("PUT", &at("/ask"), put).await;
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
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let codes = |t: usize| {
        let own = sheet[t]["codes"].as_array().expect("codes").clone();
        own.into_iter()
            .map(move |c| (c.as_str().expect("a code").to_owned(), t))
            .collect::<Vec<_>>()
    };
    (id, (0..2).flat_map(codes).collect())
}

async fn read_all(farm: &Farm, id: &str, dealt: &[(String, usize)], day: u32, gain: f64) {
    for (n, (code, treatment)) in dealt.iter().enumerate() {
        let value = 60.0 + gain * *treatment as f64 + (n % 4) as f64;
        let body = json!({
            "code": code, "reading": "height", "day": day, "value": value, "version": 0,
            "confirmed": true,
        });
        farm.call(
            "POST",
            &format!("/trials/{id}/records"),
            record("reading", body),
        )
        .await;
    }
}

fn finding(trial: &Value) -> Option<&Value> {
    trial["ledger"]["open"]
        .as_array()
        .expect("a list")
        .iter()
        .find(|f| f["code"] == "looked_early")
}

#[tokio::test]
async fn a_planned_look_tells_without_the_key_and_spends_its_share() {
    let farm = Farm::new();
    let (id, dealt) = growing(&farm, json!([6])).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let view = farm.get(&at("/looks")).await;
    assert_eq!(
        (&view["is_planned"], &view["not_now"], &view["planned"]),
        (&json!(true), &Value::Null, &json!([6]))
    );
    assert_eq!(
        view["measures"],
        json!([{ "key": "height", "name": "height", "decides": true }])
    );
    let look = json!({ "measure": "height" });
    let (status, said) = farm.text("POST", &at("/looks"), look.clone()).await;
    assert!(
        status == 422 && said.contains("only 0 of 16 have a figure"),
        "{said}"
    );
    let (status, said) = farm
        .text(
            "POST",
            &at("/looks"),
            json!({ "measure": "harvest_weight" }),
        )
        .await;
    assert!(status == 422 && said.contains("only at the end"), "{said}");
    let (status, said) = farm
        .text("POST", &at("/looks"), json!({ "measure": "luck" }))
        .await;
    assert!(status == 422 && said.contains("does not record"), "{said}");
    read_all(&farm, &id, &dealt, 6, 30.0).await;
    farm.call("POST", &at("/looks"), look).await;
    let view = farm.get(&at("/looks")).await;
    let had = &view["had"][0];
    assert_eq!(
        (&had["answer"], &had["planned"], &had["day"]),
        (&json!("differ"), &json!(true), &json!(6))
    );
    let trial = farm.get(&at("")).await;
    assert_eq!(
        (&trial["reveal"], finding(&trial)),
        (&Value::Null, None),
        "the key stays shut, and nothing is wrong"
    );
    assert!(
        !view.to_string().contains("water"),
        "no treatment is named: {view}"
    );
    // Half way next to nothing is spent, and the end keeps 4.9 of 5.
    let stages = view["stages"].as_array().expect("a look and the end");
    let of = |n: usize, key: &str| stages[n][key].as_f64().expect("a figure");
    assert!(
        stages.len() == 2 && stages[0]["told"] == "differ" && stages[1]["end"] == true,
        "{view}"
    );
    assert!(
        (of(0, "spent_percent") - 0.3).abs() < 0.3 && (of(1, "spent_percent") - 5.0).abs() < 1e-9,
        "{view}"
    );
    assert!(
        (of(1, "confidence_percent") - 95.1).abs() < 0.05 && of(0, "confidence_percent") > 99.0,
        "{view}"
    );
    // It stands in the diary and is not taken back: the last record that can be is a reading.
    let undone = farm.call("POST", &at("/undo"), Value::Null).await;
    assert!(undone.to_string().contains("height"), "{undone}");
    assert_eq!(
        farm.get(&at("/looks")).await["had"]
            .as_array()
            .map(Vec::len),
        Some(1)
    );
    read_all(&farm, &id, &dealt[15..], 6, 30.0).await;
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let look = &judge["analysis"]["look"];
    assert_eq!(
        (&look["now"], &look["planned"]),
        (&json!(2), &json!(2)),
        "{}",
        judge["trouble"]
    );
    let (status, _) = farm
        .text("POST", &at("/looks"), json!({ "measure": "height" }))
        .await;
    assert_eq!(status, 409, "the key is open");
}

#[tokio::test]
async fn a_look_beside_the_plan_is_logged_and_told() {
    let farm = Farm::new();
    let (id, dealt) = growing(&farm, json!([])).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    read_all(&farm, &id, &dealt, 6, 0.0).await;
    assert_eq!(finding(&farm.get(&at("")).await), None);
    let owner = farm.person("Ada", "owner").await;
    let (viewer, recorder) = (
        farm.person("Eve", "viewer").await,
        farm.person("Bo", "recorder").await,
    );
    let look = json!({ "measure": "height" });
    assert_eq!(
        farm.text_as(&viewer, "POST", &at("/looks"), look.clone())
            .await
            .0,
        403
    );
    let (status, said) = farm.text_as(&recorder, "POST", &at("/looks"), look).await;
    assert_eq!(status, 200, "{said}");
    let (_, said) = farm
        .text_as(&recorder, "GET", &at("/looks"), Value::Null)
        .await;
    assert!(
        said.contains("\"planned\":false") && !said.contains("\"differ\""),
        "{said}"
    );
    let (_, text) = farm.text_as(&owner, "GET", &at(""), Value::Null).await;
    let trial: Value = serde_json::from_str(&text).expect("JSON");
    let found = finding(&trial).expect("a finding");
    assert_eq!(
        (&found["severity"], &found["seen"]),
        (
            &json!("minor"),
            &json!("What decides was looked at on day 6, without a plan to.")
        )
    );
    let (_, plan) = farm
        .text_as(&owner, "GET", &at("/plan.json"), Value::Null)
        .await;
    let plan: Value = serde_json::from_str(&plan).expect("JSON");
    assert_eq!(
        (&plan["unplanned_looks"], &plan["looks"]),
        (&json!([0.5]), &Value::Null)
    );
}

/// What was judged on a day that is past is no longer offered; what is judged later still is.
#[tokio::test]
async fn a_look_is_offered_only_before_the_last_day_of_judgement() {
    let farm = Farm::new();
    let (id, _) = growing(&farm, json!([])).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let offered = async |days: Value| {
        let trial = farm.get(&at("")).await;
        let mut ask = trial["ask"].clone();
        ask["judged_on"] = json!({ "height": days });
        let put = json!({ "name": "Pea shoots", "ask": ask, "version": trial["version"], "reason": "other days" });
        farm.call("PUT", &at("/ask"), put).await;
        farm.get(&at("/looks")).await["measures"]
            .as_array()
            .map(Vec::len)
    };
    assert_eq!(
        [offered(json!([3, 5])).await, offered(json!([3, 6])).await],
        [Some(0), Some(0)]
    );
    let (status, said) = farm
        .text("POST", &at("/looks"), json!({ "measure": "height" }))
        .await;
    assert!(
        status == 422 && said.contains("day 6 is the last"),
        "{said}"
    );
    assert_eq!(offered(json!([3, 9])).await, Some(1));
}

/// Looks are planned for what is there before the end, on days before it.
#[tokio::test]
async fn looks_that_cannot_be_are_refused_at_ask() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    for (measure, days, words) in [
        ("harvest_weight", json!([6]), "only at the end"),
        ("height", json!([12]), "between 1 and the last"),
        ("height", json!([6, 6]), "each once"),
        ("height", json!([1, 2, 3, 4, 5]), "at most 4"),
    ] {
        let mut ask = trial["ask"].clone();
        (ask["question"], ask["primary_measure"], ask["looks_on"]) =
            (json!("Why?"), json!(measure), days);
        ask["also"] = json!([]);
        let put =
            json!({ "name": "Cress", "ask": ask, "version": trial["version"], "reason": null });
        let (status, said) = farm.text("PUT", &at("/ask"), put).await;
        assert!(
            status == 422 && said.contains("looks_on") && said.contains(words),
            "{said}"
        );
    }
}
