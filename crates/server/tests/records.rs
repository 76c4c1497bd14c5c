//! Records as they arrive: late ones with their own day, odd keys refused with a word, and what is
//! one act done once.

use crate::farm;

use axum::body::Body;
use axum::http::{Request, header};
use farm::{Farm, record, records};
use iron_twin_server::{App, router};
use iron_twin_store::Store;
use jiff::{Timestamp, ToSpan};
use serde_json::{Value, json};
use tower::ServiceExt;

/// A sown trial of four trays, and its codes.
pub async fn sown(farm: &Farm, days: i64) -> (String, Vec<String>) {
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let rack = json!({ "rack": { "name": "rack", "levels": 2, "slots": 2 }, "version": 1 });
    farm.call("PUT", &at("/rack"), rack).await;
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": 2 }))
        .await;
    let date = (Timestamp::now() - (days * 24).hours())
        .to_zoned(jiff::tz::TimeZone::system())
        .date();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date.to_string() })),
    )
    .await;
    let codes = dealt["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned());
    (id, codes.collect())
}

/// A weight taken two days ago on a phone without an answer is of that day; a clock that runs ahead
/// changes nothing.
#[tokio::test]
async fn a_late_weight_keeps_the_day_on_which_it_was_taken() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let weigh = |code: &str, at: Value| {
        json!({
            "code": code, "gross_g": 120.0, "tare_g": 20.0, "version": 0, "at": at,
        })
    };
    let taken = Timestamp::now() - 48.hours();
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("weighing", weigh(&codes[0], json!(taken.to_string()))),
    )
    .await;
    let ahead = Timestamp::now() + 48.hours();
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("weighing", weigh(&codes[1], json!(ahead.to_string()))),
    )
    .await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("weighing", weigh(&codes[2], Value::Null)),
    )
    .await;
    let trial = farm.store().trial(&id).expect("the trial");
    let of = |code: &str| {
        trial.of_unit(trial.unit(code).expect("a unit")).weighings()[0]
            .head
            .clone()
    };
    assert_eq!(
        [&codes[0], &codes[1], &codes[2]].map(|code| of(code).day),
        [8, 10, 10]
    );
    let late = of(&codes[0]);
    assert_eq!(late.at.as_second(), taken.as_second());
    assert!(late.entered_at > late.at, "both instants are kept");
    assert!(
        of(&codes[1]).at <= Timestamp::now(),
        "nothing was weighed the day after tomorrow"
    );
}

#[tokio::test]
async fn a_request_key_that_cannot_be_read_is_refused_with_a_word() {
    let folder = tempfile::tempdir().expect("a folder");
    let router = router(App::new(
        Store::open(&folder.path().join("trials.sqlite")).expect("a store"),
    ));
    for (key, status) in [
        ("clé".as_bytes(), 400),
        (b"".as_slice(), 400),
        (b"k-1".as_slice(), 201),
    ] {
        let request = Request::post("/api/v1/trials")
            .header(header::HOST, "localhost")
            .header(
                "idempotency-key",
                axum::http::HeaderValue::from_bytes(key).expect("a header"),
            )
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
    let app =
        App::new(Store::open(&path).expect("a store")).with_examples(iron_twin_demo::add_examples);
    let router = router(app);
    let asked: Vec<_> = (0..8)
        .map(|_| {
            let request = Request::post("/api/v1/examples")
                .header(header::HOST, "localhost")
                .body(Body::empty());
            tokio::spawn(router.clone().oneshot(request.expect("a request")))
        })
        .collect();
    let mut answers = Vec::new();
    for one in asked {
        answers.push(
            one.await
                .expect("no panic")
                .expect("an answer")
                .status()
                .as_u16(),
        );
    }
    answers.sort_unstable();
    assert_eq!(answers, [201, 409, 409, 409, 409, 409, 409, 409]);
    assert_eq!(
        Store::open(&path)
            .expect("a store")
            .trials()
            .expect("trials")
            .len(),
        4
    );
}

/// A take-back whose answer was lost is sent again after the key was opened: it is answered as it
/// was the first time.
#[tokio::test]
async fn a_take_back_sent_again_is_answered_as_before() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 3).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for code in &codes {
        let weight = json!({ "code": code, "gross_g": 120.0, "tare_g": 20.0, "version": 0 });
        farm.call("POST", &at("/records"), record("weighing", weight))
            .await;
    }
    let again = json!({ "code": codes[0], "gross_g": 125.0, "tare_g": 20.0, "version": 1 });
    farm.call("POST", &at("/records"), record("weighing", again))
        .await;
    let first = farm.keyed("back", &at("/undo"), &Value::Null).await;
    assert!(
        first.0.is_success() && first.1.contains(&codes[0]),
        "{}",
        first.1
    );
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    assert_eq!(farm.keyed("back", &at("/undo"), &Value::Null).await, first);
    assert_eq!(
        farm.keyed("another", &at("/undo"), &Value::Null).await.0,
        409
    );
    let trial = farm.store().trial(&id).expect("the trial");
    assert_eq!(trial.records.weighings(), 4, "taken back once");
}

/// Two who change the plan at once: who comes second is told what stands there now, and what they
/// sent.
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
    assert_eq!(
        (&problem["stored"], &problem["sent"]),
        (&json!("ask end day 14"), &json!("ask end day 9")),
        "{said}"
    );
    let mut rack = trial["rack"].clone();
    rack["slots"] = json!(6);
    let (status, said) = farm
        .text(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    assert!(
        status == 409 && said.contains("it is now slots 4, and you sent slots 6"),
        "{said}"
    );
}

/// What became of each record of a list, in a word.
fn states(text: &str) -> Vec<String> {
    let answer: Value = serde_json::from_str(text).expect("JSON");
    let all = answer["records"]
        .as_array()
        .unwrap_or_else(|| panic!("{text}"));
    all.iter()
        .map(|own| own["state"].as_str().expect("a state").to_owned())
        .collect()
}

/// One that is refused takes the others of its list with it, unless each stands by itself.
#[tokio::test]
async fn a_list_is_kept_whole_or_not_at_all_unless_each_is_for_itself() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let path = format!("/trials/{id}/records");
    let note = |text: &str| ("note", json!({ "code": codes[0], "text": text }));
    let ph = |value: f64| {
        (
            "reading",
            json!({ "code": codes[1], "day": 3, "reading": "ph", "value": value }),
        )
    };
    let mut list = records(&[note("Even."), ph(97.0), note("Pale.")]);
    let (status, text) = farm.text("POST", &path, list.clone()).await;
    assert_eq!(
        (status.as_u16(), states(&text)),
        (422, ["left", "refused", "left"].map(String::from).to_vec())
    );
    assert!(
        text.contains("pH lies between 0 and 14; 97 cannot be right"),
        "{text}"
    );
    let trial = farm.store().trial(&id).expect("the trial");
    assert_eq!(
        (trial.records.notes().len(), trial.records.readings()),
        (0, 0)
    );
    list["each"] = json!(true);
    let (status, text) = farm.text("POST", &path, list).await;
    assert_eq!(
        (status.as_u16(), states(&text)),
        (422, ["kept", "refused", "kept"].map(String::from).to_vec())
    );
    let trial = farm.store().trial(&id).expect("the trial");
    assert_eq!(
        (trial.records.notes().len(), trial.records.readings()),
        (2, 0)
    );
    // A later one of a list meets what an earlier one wrote: the second weight of a tray is asked
    // about.
    let weight = |net: f64| {
        (
            "weighing",
            json!({ "code": codes[0], "gross_g": 20.0 + net, "tare_g": 20.0, "version": 0 }),
        )
    };
    let (status, text) = farm
        .text("POST", &path, records(&[weight(100.0), weight(130.0)]))
        .await;
    assert_eq!(
        (status.as_u16(), states(&text)),
        (422, ["left", "refused"].map(String::from).to_vec())
    );
    assert!(text.contains("100 g from you already"), "{text}");
    assert_eq!(
        farm.store()
            .trial(&id)
            .expect("the trial")
            .records
            .weighings(),
        0
    );
}

/// What is not understood is refused by its name, and of a list that is of another version the page
/// is told to load itself anew.
#[tokio::test]
async fn what_is_not_understood_is_named() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let path = format!("/trials/{id}/records");
    let one = |kind: &str, head: Value, body: Value| {
        json!({
            "format": 1, "records": [{ "kind": kind, "head": head, "body": body }],
        })
    };
    let note = json!({ "text": "Even." });
    let unit = json!({ "unit": codes[0] });
    let mut with_more = one("note", unit.clone(), note.clone());
    with_more["colour"] = json!("green");
    for (sent, status, named) in [
        (one("mood", unit.clone(), note.clone()), 404, "mood"),
        // Photos come with their picture, and what of one is answered to is sent where looks are
        // asked for.
        (one("photo", unit.clone(), json!({})), 404, "photo"),
        (
            one("note", unit.clone(), json!({ "text": "Even.", "mood": 3 })),
            422,
            "mood",
        ),
        (one("note", unit.clone(), json!({})), 422, "text"),
        (
            one(
                "note",
                json!({ "unit": codes[0], "shelf": 2 }),
                note.clone(),
            ),
            422,
            "shelf",
        ),
        (one("note", json!({ "day": -1 }), note.clone()), 422, "-1"),
        (
            one("note", json!({ "at": "yesterday" }), note.clone()),
            422,
            "\"field\":\"head\"",
        ),
        (
            one("note", json!({ "unit": "ZZ9" }), note.clone()),
            404,
            "ZZ9",
        ),
        (
            one(
                "note",
                json!({ "unit": codes[0], "day": 3, "date": "2026-13-40" }),
                note.clone(),
            ),
            422,
            "date",
        ),
        (with_more, 400, "colour"),
        (json!({ "format": 1, "records": [] }), 422, "1 to 1000"),
    ] {
        let (got, text) = farm.text("POST", &path, sent).await;
        assert!(
            got.as_u16() == status && text.contains(named),
            "{named}: {got} {text}"
        );
    }
    for format in [0, 2] {
        let mut list = one("note", unit.clone(), note.clone());
        list["format"] = json!(format);
        let (status, text) = farm.text("POST", &path, list).await;
        assert!(status == 503 && text.contains("\"reload\""), "{text}");
    }
    for old in [
        "readings",
        "notes",
        "jobs",
        "weighings",
        "picks",
        "given",
        "line-ups",
        "samples-gone",
        "guesses",
    ] {
        let (status, text) = farm
            .text("POST", &format!("/trials/{id}/{old}"), note.clone())
            .await;
        assert!(
            status == 503 && text.contains("\"reload\""),
            "{old}: {text}"
        );
    }
    assert!(
        farm.store()
            .trial(&id)
            .expect("the trial")
            .records
            .notes()
            .is_empty()
    );
}

/// Each kind says who may write it; nobody who may not is told more than that.
#[tokio::test]
async fn each_kind_has_those_who_may_write_it() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    farm.person("Ada", "owner").await;
    let (hand, looker) = (
        farm.person("Rec", "recorder").await,
        farm.person("Vi", "viewer").await,
    );
    let path = format!("/trials/{id}/records");
    let kinds = [
        (
            "note",
            json!({ "code": codes[0], "text": "Even." }),
            [true, false],
        ),
        (
            "reading",
            json!({ "code": codes[0], "day": 3, "reading": "ph", "value": 6.1 }),
            [true, false],
        ),
        (
            "weighing",
            json!({ "code": codes[0], "gross_g": 120.0, "tare_g": 20.0, "version": 0 }),
            [true, false],
        ),
        ("guess", json!({ "expects": "no_difference" }), [true, true]),
        (
            "write_off",
            json!({ "code": codes[1], "reason": "mould" }),
            [true, false],
        ),
        (
            "answer",
            json!({ "code": "few_units", "text": "It is a rehearsal." }),
            [false, false],
        ),
        (
            "decision",
            json!({ "decides": "adopt", "reason": "It paid." }),
            [false, false],
        ),
    ];
    for (kind, body, may) in kinds {
        for (cookie, may) in [&hand, &looker].into_iter().zip(may) {
            let (status, text) = farm
                .text_as(cookie, "POST", &path, record(kind, body.clone()))
                .await;
            assert_eq!(status == 403, !may, "{kind}: {status} {text}");
            let state = if may { "kept" } else { "refused" };
            assert_eq!(states(&text), [state], "{kind}: {text}");
        }
    }
}

/// A key is of one record: the same list again is answered again, and the key with something else
/// in it is refused.
#[tokio::test]
async fn a_record_sent_again_is_answered_again() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let path = format!("/trials/{id}/records");
    let pick = |key: &str, net: f64| {
        (
            "pick",
            json!({
                "key": key, "code": codes[0], "gross_g": net, "tare_g": 0.0, "aside": true,
                "confirmed": true,
            }),
        )
    };
    let list = records(&[pick("a", 30.0), pick("b", 40.0)]);
    let first = farm.call("POST", &path, list.clone()).await;
    assert_eq!(farm.call("POST", &path, list).await, first);
    // A page that lost the answer to one sends it with others.
    let mixed = farm
        .call("POST", &path, records(&[pick("c", 50.0), pick("b", 40.0)]))
        .await;
    assert_eq!(mixed["records"][1], first["records"][1]);
    assert_eq!(
        farm.store()
            .trial(&id)
            .expect("the trial")
            .records
            .picks()
            .len(),
        3
    );
    let (status, text) = farm.text("POST", &path, records(&[pick("b", 41.0)])).await;
    assert!(status.is_client_error(), "{text}");
    assert_eq!(states(&text), ["refused"]);
    assert_eq!(
        farm.store()
            .trial(&id)
            .expect("the trial")
            .records
            .picks()
            .len(),
        3
    );
}
