//! Line-ups by several judges: each by themselves, their agreement, what is refused, and what
//! becomes of it at Judge.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

/// A sown trial that is judged by the place in the line-up alone; its codes.
async fn sown(farm: &Farm) -> (String, Vec<String>) {
    let id = farm.new_trial("Cress").await;
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut ask = trial["ask"].clone();
    ask["primary_measure"] = json!("line_up");
    ask["margin"] = json!({ "kind": "absolute", "value": 0.2 });
    let put = json!({ "name": "Cress", "ask": ask, "version": trial["version"] });
    let trial = farm.call("PUT", &format!("/trials/{id}/ask"), put).await;
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": trial["version"] }),
    )
    .await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": days_ago(6) })),
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

#[tokio::test]
async fn two_judges_line_up_by_themselves_and_then_see_one_another() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let at = format!("/trials/{id}/line-ups");
    let (ada, bo) = (
        farm.person("Ada", "owner").await,
        farm.person("Bo", "recorder").await,
    );
    let seen = async |cookie: &str| {
        let (_, text) = farm.text_as(cookie, "GET", &at, Value::Null).await;
        serde_json::from_str::<Value>(&text).expect("JSON")
    };
    let order = |codes: &[String]| json!(codes.iter().map(|c| vec![c]).collect::<Vec<_>>());
    let said = json!({ "places": order(&codes) });
    let send = format!("/trials/{id}/records");
    assert_eq!(
        farm.text_as(&ada, "POST", &send, record("line_up", said))
            .await
            .0,
        200
    );
    // Bo begins from an order of their own, and is told nothing before they have said something.
    let before = seen(&bo).await;
    assert_eq!(before["judges"], json!(["Ada"]));
    assert_eq!(
        (&before["line_ups"], &before["agreement"], &before["mean"]),
        (&json!([]), &Value::Null, &json!([]))
    );
    let sorted = |view: &Value| {
        let mut own: Vec<String> = serde_json::from_value(view["codes"].clone()).expect("codes");
        own.sort();
        own
    };
    assert_eq!(sorted(&before), codes);
    assert_ne!(before["codes"], seen(&ada).await["codes"]);
    assert_eq!(before["codes"], seen(&bo).await["codes"]);
    // The same order but for the first two, which are tied.
    let mut tied: Vec<Vec<String>> = codes[2..].iter().map(|c| vec![c.clone()]).collect();
    tied.insert(0, codes[..2].to_vec());
    let said = record("line_up", json!({ "places": tied }));
    assert_eq!(farm.text_as(&bo, "POST", &send, said).await.0, 200);
    let view = seen(&bo).await;
    assert_eq!(view["judges"], json!(["Ada", "Bo"]));
    assert_eq!(view["line_ups"][1]["places"], json!(tied));
    assert!(
        view["agreement"]["w"]
            .as_f64()
            .is_some_and(|w| (0.99..1.0).contains(&w)),
        "{view}"
    );
    assert_eq!(view["agreement"]["units"], codes.len());
    assert_eq!(view["mean"][0], json!({ "code": codes[0], "place": 1.25 }));
    assert_eq!(view["mean"][1], json!({ "code": codes[1], "place": 1.75 }));
    // Who lined up takes it back.
    assert_eq!(
        farm.text_as(&bo, "POST", &format!("/trials/{id}/undo"), Value::Null)
            .await
            .0,
        200
    );
    assert_eq!(seen(&ada).await["judges"], json!(["Ada"]));
}

#[tokio::test]
async fn an_order_with_gaps_or_doubles_is_refused() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm).await;
    let (at, send) = (
        format!("/trials/{id}/line-ups"),
        format!("/trials/{id}/records"),
    );
    let all: Vec<Vec<String>> = codes.iter().map(|c| vec![c.clone()]).collect();
    let mut twice = all.clone();
    twice[0].push(codes[3].clone());
    for (body, field, why) in [
        (
            json!({ "places": all[2..] }),
            "places",
            format!("not yet in the order: {}, {}", codes[0], codes[1]),
        ),
        (
            json!({ "places": twice }),
            "places",
            format!("{} stands in the order twice", codes[3]),
        ),
        (
            json!({ "places": all, "judge": " " }),
            "judge",
            "say whose it is, in at most 80 letters".into(),
        ),
    ] {
        let (status, text) = farm.text("POST", &send, record("line_up", body)).await;
        let told: Value = serde_json::from_str(&text).expect("JSON");
        let told = &told["records"][0]["problem"];
        assert_eq!(
            (status.as_u16(), &told["field"], &told["detail"]),
            (422, &json!(field), &json!(why))
        );
    }
    assert_eq!(
        farm.text(
            "POST",
            &send,
            record("line_up", json!({ "places": [["?"]] }))
        )
        .await
        .0,
        404
    );
    // One device, two judges; the later of one's own stands.
    for (judge, order) in [
        ("Ada", all.clone()),
        ("Bo", all.iter().rev().cloned().collect()),
        ("Ada", all.iter().rev().cloned().collect()),
    ] {
        farm.call(
            "POST",
            &send,
            record("line_up", json!({ "places": order, "judge": judge })),
        )
        .await;
    }
    let view = farm.get(&at).await;
    assert_eq!(
        (&view["judges"], &view["agreement"]["w"]),
        (&json!(["Ada", "Bo"]), &json!(1.0))
    );
    let judge = farm.get(&format!("/trials/{id}/judge")).await;
    assert_eq!(judge["measure"]["key"], "line_up");
    assert_eq!(judge["weighed"], codes.len(), "every unit has what decides");
}
