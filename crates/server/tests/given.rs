//! What was given: rounds, exceptions, late entries, what each has received, and the jugs of who
//! feeds without the key.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};
use std::collections::BTreeSet;

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

/// A dealt trial sown ten days ago; its codes.
async fn sown(farm: &Farm) -> (String, Vec<String>) {
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
        record("work", json!({ "job": "sow", "date": days_ago(10) })),
    )
    .await;
    let units = farm.get(&format!("/trials/{id}")).await["units"].clone();
    let codes = units
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned());
    (id, codes.collect())
}

fn received(view: &Value) -> Vec<(usize, Vec<u64>)> {
    let rows = view["received"].as_array().expect("rows").iter();
    rows.map(|row| {
        let days = row["work"]
            .as_array()
            .expect("work")
            .iter()
            .flat_map(|w| w["days"].as_array().expect("days"));
        (
            row["codes"].as_array().expect("codes").len(),
            days.map(|d| d.as_u64().expect("a day")).collect(),
        )
    })
    .collect()
}

#[tokio::test]
async fn a_round_by_code_and_its_exception() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let feed = |ago: i64| json!({ "job": "feed", "date": days_ago(ago) });
    farm.call("POST", &at("/records"), record("work", feed(6)))
        .await;
    let out = json!({
        "job": "feed", "to": { "unit": codes[1] }, "gift": { "withheld": "ran out" },
        "date": days_ago(4),
    });
    // The exception may come before its round.
    farm.call("POST", &at("/records"), record("giving", out.clone()))
        .await;
    farm.call("POST", &at("/records"), record("work", feed(4)))
        .await;
    let view = farm.get(&at("/given")).await;
    assert_eq!(
        received(&view),
        [(codes.len() - 1, vec![4, 6]), (1, vec![4])]
    );
    assert_eq!(view["received"][1]["codes"], json!([codes[1]]));
    assert_eq!(
        view["received"][1]["withheld"],
        json!([{ "day": 6, "job": "feed", "why": "ran out" }])
    );
    assert_eq!(
        view["missed"],
        json!([{ "job": "feed", "label": "Feed by code", "days": [8] }])
    );
    assert_eq!(
        (
            view["rounds"][0]["day"].as_u64(),
            view["rounds"][0]["late"].as_u64()
        ),
        (Some(6), Some(4))
    );
    // A second one on the same day is asked about; confirmed it counts.
    for (kind, body) in [("work", feed(4)), ("giving", out)] {
        let (status, text) = farm
            .text("POST", &at("/records"), record(kind, body.clone()))
            .await;
        assert!(status == 422 && text.contains("unlikely"), "{text}");
        let mut sure = body;
        sure["confirmed"] = true.into();
        farm.call("POST", &at("/records"), record(kind, sure)).await;
    }
    let view = farm.get(&at("/given")).await;
    assert_eq!(
        received(&view),
        [(codes.len() - 1, vec![4, 6, 6]), (1, vec![4])]
    );
    // Each is taken back by itself.
    for _ in 0..2 {
        farm.call("POST", &at("/undo"), Value::Null).await;
    }
    assert_eq!(
        received(&farm.get(&at("/given")).await),
        [(codes.len() - 1, vec![4, 6]), (1, vec![4])]
    );
}

#[tokio::test]
async fn a_top_up_of_its_own_keeps_what_how_much_and_both_instants() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let own = json!({
        "what": " kelp ", "how": "drenched", "amount": 12.5, "unit": "mL", "lot": "L7",
        "batch": "2",
    });
    let body = json!({
        "job": "apply", "to": { "unit": codes[0] }, "gift": { "own": own }, "date": days_ago(1),
        "time": "18:30",
    });
    farm.call("POST", &at("/records"), record("giving", body.clone()))
        .await;
    let view = farm.get(&at("/given")).await;
    let single = &view["singles"][0];
    let told = json!({
        "what": "kelp", "how": "drenched", "amount": 12.5, "unit": "mL", "lot": "L7", "batch": "2",
    });
    assert_eq!(
        (&single["gift"]["own"], &single["to"]),
        (&told, &json!(codes[0]))
    );
    assert_eq!(single["day"], 9);
    assert_ne!(single["at"], single["entered_at"]);
    let row = view["received"]
        .as_array()
        .expect("rows")
        .iter()
        .find(|r| r["codes"] == json!([codes[0]]))
        .expect("a row");
    assert_eq!(
        row["totals"],
        json!([{ "what": "kelp", "how": "drenched", "times": 1, "amount": 12.5, "unit": "mL" }])
    );
    for (change, field) in [
        (
            json!({ "gift": { "own": { "what": "", "amount": 1.0 } } }),
            "what",
        ),
        (
            json!({ "gift": { "own": { "what": "kelp", "amount": -1.0 } } }),
            "amount",
        ),
        (json!({ "gift": { "withheld": " " } }), "why"),
        (json!({ "to": "all", "gift": "as_planned" }), "to"),
        (json!({ "job": "read" }), "job"),
        (json!({ "date": days_ago(-1) }), "date"),
        (json!({ "date": days_ago(11) }), "date"),
        (json!({ "time": "later" }), "time"),
    ] {
        let mut wrong = body.clone();
        change
            .as_object()
            .expect("fields")
            .iter()
            .for_each(|(k, v)| wrong[k] = v.clone());
        let (status, text) = farm
            .text("POST", &at("/records"), record("giving", wrong))
            .await;
        assert_eq!(status, 422, "{text}");
        assert!(
            text.contains(&format!("\"field\":\"{field}\"")),
            "{field}: {text}"
        );
    }
    let (status, _) = farm
        .text(
            "POST",
            &at("/records"),
            record(
                "giving",
                json!({ "job": "feed", "to": { "unit": "?" }, "gift": "as_planned" }),
            ),
        )
        .await;
    assert_eq!(status, 404);
}

#[tokio::test]
async fn work_is_left_out_with_a_reason_and_not_asked_for_again() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let due = async || {
        let due = farm.get(&at("/tend")).await["due"].clone();
        due.as_array()
            .expect("due")
            .iter()
            .map(|d| d["job"].as_str().expect("a job").to_owned())
            .collect::<Vec<_>>()
    };
    assert!(due().await.contains(&"feed".to_owned()));
    let out = json!({ "job": "feed", "skipped": "power cut" });
    farm.call("POST", &at("/records"), record("work", out))
        .await;
    assert!(!due().await.contains(&"feed".to_owned()));
    let view = farm.get(&at("/given")).await;
    assert_eq!(received(&view), [(codes.len(), vec![])]);
    assert_eq!(view["rounds"][0]["skipped"], "power cut");
    for (body, field) in [
        (json!({ "job": "harvest", "skipped": "rain" }), "job"),
        (json!({ "job": "observe", "skipped": "" }), "skipped"),
        (json!({ "job": "observe", "ml_a_unit": 5.0 }), "ml_a_unit"),
        (
            json!({ "job": "feed", "ml_a_unit": 0.0, "confirmed": true }),
            "ml_a_unit",
        ),
    ] {
        let (status, text) = farm
            .text("POST", &at("/records"), record("work", body))
            .await;
        assert!(
            status == 422 && text.contains(&format!("\"field\":\"{field}\"")),
            "{text}"
        );
    }
    farm.call(
        "POST",
        &at("/records"),
        record(
            "work",
            json!({ "job": "feed", "date": days_ago(2), "ml_a_unit": 180.0 }),
        ),
    )
    .await;
    assert_eq!(
        farm.get(&at("/given")).await["rounds"][1]["ml_a_unit"],
        180.0
    );
}

#[tokio::test]
async fn who_feeds_by_jug_learns_no_name() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let (owner, hand) = (
        farm.person("Ada", "owner").await,
        farm.person("Rec", "recorder").await,
    );
    let seen = async |cookie: &str| {
        let (_, text) = farm
            .text_as(cookie, "GET", &at("/given"), Value::Null)
            .await;
        serde_json::from_str::<Value>(&text).expect("JSON")
    };
    let to_jug = json!({ "job": "feed", "to": { "jug": 1 }, "gift": "as_planned" });
    assert_eq!(seen(&hand).await["jugs"], Value::Null);
    assert_eq!(seen(&hand).await["known"], json!([]));
    assert_eq!(
        farm.text_as(
            &hand,
            "POST",
            &at("/records"),
            record("giving", to_jug.clone())
        )
        .await
        .0,
        403
    );
    assert_eq!(
        farm.text_as(&hand, "POST", &at("/jugs"), Value::Null)
            .await
            .0,
        403
    );
    assert_eq!(
        farm.text_as(&owner, "POST", &at("/jugs"), Value::Null)
            .await
            .0,
        200
    );
    let view = seen(&hand).await;
    let jugs = view["jugs"].as_array().expect("jugs");
    let all: usize = jugs
        .iter()
        .map(|j| j["codes"].as_array().expect("codes").len())
        .sum();
    assert_eq!((jugs.len(), all), (2, codes.len()));
    // As a set: whether fields keep their order depends on what else is built along with this
    // crate.
    let told = |jug: &Value| {
        jug.as_object()
            .expect("a jug")
            .keys()
            .cloned()
            .collect::<BTreeSet<_>>()
    };
    assert!(
        jugs.iter()
            .all(|j| told(j) == ["codes", "number", "turn"].map(str::to_owned).into()),
        "{jugs:?}"
    );
    assert_eq!(
        farm.text_as(&hand, "POST", &at("/records"), record("giving", to_jug))
            .await
            .0,
        200
    );
    let by_name =
        json!({ "job": "feed", "to": { "treatment": 1 }, "gift": { "own": { "what": "kelp" } } });
    assert_eq!(
        farm.text_as(
            &hand,
            "POST",
            &at("/records"),
            record("giving", by_name.clone())
        )
        .await
        .0,
        403
    );
    assert_eq!(
        farm.text_as(&owner, "POST", &at("/records"), record("giving", by_name))
            .await
            .0,
        200
    );
    let view = seen(&hand).await;
    let told: Vec<&str> = view["singles"]
        .as_array()
        .expect("singles")
        .iter()
        .map(|s| s["to"].as_str().expect("to"))
        .collect();
    assert!(told.iter().all(|to| to.starts_with("jug ")), "{told:?}");
    assert!(!view.to_string().contains("kelp"), "{view}");
    assert_eq!(
        received(&view),
        [(codes.len(), vec![])],
        "whose jug it was is not told unit by unit"
    );
}

#[tokio::test]
async fn the_diary_tells_everything_and_each_takes_back_their_own() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let (owner, hand) = (
        farm.person("Ada", "owner").await,
        farm.person("Rec", "recorder").await,
    );
    let read = |code: &str, value: f64| {
        json!({
            "code": code, "reading": "height", "day": 3, "value": value, "version": 0,
        })
    };
    let trial = farm.text_as(&owner, "GET", &at(""), Value::Null).await.1;
    let trial: Value = serde_json::from_str(&trial).expect("JSON");
    let mix = json!({ "treatment": 1, "volume_l": 2.0, "feed_total": 8.0 });
    farm.text_as(&owner, "POST", &at("/mixes"), mix).await;
    let mut ask = trial["ask"].clone();
    let before = ask["also"].clone();
    ask["also"] = json!(["height", "leaf_count"]);
    let put = json!({ "name": "Cress", "ask": ask, "version": trial["version"], "reason": "to see it grow" });
    assert_eq!(farm.text_as(&owner, "PUT", &at("/ask"), put).await.0, 200);
    for (n, who) in [&hand, &owner, &hand].into_iter().enumerate() {
        let (status, said) = farm
            .text_as(
                who,
                "POST",
                &at("/records"),
                record("reading", read(&codes[n], 40.0)),
            )
            .await;
        assert_eq!(status, 200, "{said}");
    }
    farm.text_as(
        &hand,
        "POST",
        &at("/records"),
        record("work", json!({ "job": "feed", "date": days_ago(4) })),
    )
    .await;
    let diary = async |who: &str, query: &str| {
        let (_, text) = farm
            .text_as(who, "GET", &at(&format!("/diary{query}")), Value::Null)
            .await;
        serde_json::from_str::<Value>(&text).expect("JSON")["entries"]
            .as_array()
            .expect("entries")
            .clone()
    };
    let all = diary(&hand, "").await;
    let actions: Vec<&str> = all
        .iter()
        .map(|e| e["action"].as_str().expect("an action"))
        .collect();
    assert_eq!(actions[0], "Feed by code, day 6");
    assert!(
        actions.contains(&"mixed a solution"),
        "no treatment by name: {actions:?}"
    );
    let name = trial["sheet"]["treatments"][1]["name"]
        .as_str()
        .expect("a name");
    assert!(diary(&owner, "?kind=mixes").await[0]["action"] == json!(format!("mixed {name}")));
    let readings = diary(&hand, "?kind=readings").await;
    assert_eq!(
        readings
            .iter()
            .map(|e| e["own"].as_bool())
            .collect::<Vec<_>>(),
        [Some(true), Some(false), Some(true)]
    );
    assert_eq!(
        diary(
            &hand,
            &format!("?kind=readings&before={}", readings[1]["id"])
        )
        .await
        .len(),
        1
    );
    // The oldest of one's own, however much was written since; not somebody else's; not twice.
    let take_back = async |who: &str, entry: &Value| {
        farm.text_as(
            who,
            "POST",
            &at("/take-back"),
            json!({ "entry": entry["id"] }),
        )
        .await
        .0
        .as_u16()
    };
    assert_eq!(take_back(&hand, &readings[1]).await, 409);
    assert_eq!(take_back(&hand, &readings[2]).await, 200);
    assert_eq!(take_back(&hand, &readings[2]).await, 409);
    let readings = diary(&hand, "?kind=readings").await;
    assert_eq!(
        readings
            .iter()
            .map(|e| e["undone"].as_bool())
            .collect::<Vec<_>>(),
        [Some(false), Some(false), Some(true)]
    );
    // A change of the plan as well, by who made it.
    let plans = diary(&owner, "?kind=plan").await;
    let changed = plans
        .iter()
        .find(|e| e["plan"] == json!(true) && e["own"] == json!(true))
        .expect("a change");
    assert_eq!(take_back(&hand, changed).await, 409);
    assert_eq!(take_back(&owner, changed).await, 200);
    let trial = farm.text_as(&owner, "GET", &at(""), Value::Null).await.1;
    assert_eq!(
        serde_json::from_str::<Value>(&trial).expect("JSON")["ask"]["also"],
        before
    );
}
