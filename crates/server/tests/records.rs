//! Records as they arrive: late ones with their own day, odd keys refused with a word, and what is one act done once.

mod farm;

use axum::body::Body;
use axum::http::{Request, header};
use farm::Farm;
use iron_twin_server::{App, router};
use iron_twin_store::Store;
use jiff::{Timestamp, ToSpan};
use serde_json::{Value, json};
use tower::ServiceExt;

/// A sown trial of four trays, and its codes.
async fn sown(farm: &Farm, days: i64) -> (String, Vec<String>) {
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let rack = json!({ "rack": { "name": "rack", "levels": 2, "slots": 2 }, "version": 1 });
    farm.call("PUT", &at("/rack"), rack).await;
    let dealt = farm.call("POST", &at("/deal"), json!({ "version": 2 })).await;
    let date = (Timestamp::now() - (days * 24).hours()).to_zoned(jiff::tz::TimeZone::system()).date();
    farm.call("POST", &at("/jobs"), json!({ "job": "sow", "date": date.to_string() })).await;
    let codes =
        dealt["units"].as_array().expect("units").iter().map(|u| u["code"].as_str().expect("a code").to_owned());
    (id, codes.collect())
}

/// A weight taken two days ago on a phone without an answer is of that day; a clock that runs ahead changes nothing.
#[tokio::test]
async fn a_late_weight_keeps_the_day_on_which_it_was_taken() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let weigh =
        |code: &str, at: Value| json!({ "code": code, "gross_g": 120.0, "tare_g": 20.0, "version": 0, "at": at });
    let taken = Timestamp::now() - 48.hours();
    farm.call("POST", &format!("/trials/{id}/weighings"), weigh(&codes[0], json!(taken.to_string()))).await;
    let ahead = Timestamp::now() + 48.hours();
    farm.call("POST", &format!("/trials/{id}/weighings"), weigh(&codes[1], json!(ahead.to_string()))).await;
    farm.call("POST", &format!("/trials/{id}/weighings"), weigh(&codes[2], Value::Null)).await;
    let trial = farm.store().trial(&id).expect("the trial");
    let of = |code: &str| trial.of_unit(trial.unit(code).expect("a unit")).weighings[0].head.clone();
    assert_eq!([&codes[0], &codes[1], &codes[2]].map(|code| of(code).day), [8, 10, 10]);
    let late = of(&codes[0]);
    assert_eq!(late.at.as_second(), taken.as_second());
    assert!(late.entered_at > late.at, "both instants are kept");
    assert!(of(&codes[1]).at <= Timestamp::now(), "nothing was weighed the day after tomorrow");
}

#[tokio::test]
async fn a_request_key_that_cannot_be_read_is_refused_with_a_word() {
    let folder = tempfile::tempdir().expect("a folder");
    let router = router(App::new(Store::open(&folder.path().join("trials.sqlite")).expect("a store")));
    for (key, status) in [("clé".as_bytes(), 400), (b"".as_slice(), 400), (b"k-1".as_slice(), 201)] {
        let request = Request::post("/api/v1/trials")
            .header(header::HOST, "localhost")
            .header("idempotency-key", axum::http::HeaderValue::from_bytes(key).expect("a header"))
            .body(Body::from(r#"{"name":"Cress"}"#))
            .expect("a request");
        let answer = router.clone().oneshot(request).await.expect("an answer");
        assert_eq!(answer.status().as_u16(), status, "{key:?}");
    }
}

/// Eight who press the button at once get the examples once.
#[tokio::test(flavor = "multi_thread")]
async fn examples_are_added_once_however_many_ask() {
    let folder = tempfile::tempdir().expect("a folder");
    let path = folder.path().join("trials.sqlite");
    let app = App::new(Store::open(&path).expect("a store")).with_examples(iron_twin_demo::add_examples);
    let router = router(app);
    let asked: Vec<_> = (0..8)
        .map(|_| {
            let request = Request::post("/api/v1/examples").header(header::HOST, "localhost").body(Body::empty());
            tokio::spawn(router.clone().oneshot(request.expect("a request")))
        })
        .collect();
    let mut answers = Vec::new();
    for one in asked {
        answers.push(one.await.expect("no panic").expect("an answer").status().as_u16());
    }
    answers.sort_unstable();
    assert_eq!(answers, [201, 409, 409, 409, 409, 409, 409, 409]);
    assert_eq!(Store::open(&path).expect("a store").trials().expect("trials").len(), 4);
}

/// A take-back whose answer was lost is sent again after the key was opened: it is answered as it was the first time.
#[tokio::test]
async fn a_take_back_sent_again_is_answered_as_before() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 3).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for code in &codes {
        let weight = json!({ "code": code, "gross_g": 120.0, "tare_g": 20.0, "version": 0 });
        farm.call("POST", &at("/weighings"), weight).await;
    }
    let again = json!({ "code": codes[0], "gross_g": 125.0, "tare_g": 20.0, "version": 1 });
    farm.call("POST", &at("/weighings"), again).await;
    let first = farm.keyed("back", &at("/undo"), &Value::Null).await;
    assert!(first.0.is_success() && first.1.contains(&codes[0]), "{}", first.1);
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" })).await;
    assert_eq!(farm.keyed("back", &at("/undo"), &Value::Null).await, first);
    assert_eq!(farm.keyed("another", &at("/undo"), &Value::Null).await.0, 409);
    let trial = farm.store().trial(&id).expect("the trial");
    assert_eq!(trial.records.weighings(), 4, "taken back once");
}

/// Two who change the plan at once: who comes second is told what stands there now, and what they sent.
#[tokio::test]
async fn a_stale_change_of_the_plan_tells_both_values() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let put = |day: u32| {
        let mut ask = trial["ask"].clone();
        ask["end_day"] = json!(day);
        json!({ "name": "Cress", "ask": ask, "version": trial["version"] })
    };
    farm.call("PUT", &at("/ask"), put(14)).await;
    let (status, said) = farm.text("PUT", &at("/ask"), put(9)).await;
    assert_eq!(status, 409);
    let problem: Value = serde_json::from_str(&said).expect("a problem");
    assert_eq!((&problem["stored"], &problem["sent"]), (&json!("ask end day 14"), &json!("ask end day 9")), "{said}");
    let mut rack = trial["rack"].clone();
    rack["slots"] = json!(6);
    let (status, said) = farm.text("PUT", &at("/rack"), json!({ "rack": rack, "version": trial["version"] })).await;
    assert!(status == 409 && said.contains("it is now slots 4, and you sent slots 6"), "{said}");
}
