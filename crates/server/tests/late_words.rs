//! What comes after the seal: changes that want a reason, measures added midway, work entered late,
//! a root that goes away.

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

/// A sown trial with a first record, and the code of one of its trays.
async fn sealed(farm: &Farm) -> (String, String) {
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(6) })),
    )
    .await;
    let code = farm.get(&at("")).await["units"][0]["code"]
        .as_str()
        .expect("a code")
        .to_owned();
    let ph = json!({ "code": code, "reading": "ph", "day": 6, "value": 6.0, "version": 0 });
    farm.call("POST", &at("/records"), record("reading", ph))
        .await;
    (id, code)
}

async fn asked(
    farm: &Farm,
    id: &str,
    name: &str,
    change: &[(&str, Value)],
    reason: Value,
) -> (u16, String) {
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut ask = trial["ask"].clone();
    change
        .iter()
        .for_each(|(key, value)| ask[*key] = value.clone());
    let put = json!({ "name": name, "ask": ask, "version": trial["version"], "reason": reason });
    let (status, text) = farm.text("PUT", &format!("/trials/{id}/ask"), put).await;
    (status.as_u16(), text)
}

#[tokio::test]
async fn what_is_sealed_changes_with_a_reason_only() {
    let farm = Farm::new();
    let (id, _) = sealed(&farm).await;
    let changes: [(&str, &[(&str, Value)]); 4] = [
        ("Kohlrabi", &[("crop", json!("rocket"))]),
        ("Kohlrabi", &[("price_per_kg", json!(40.0))]),
        ("Kohlrabi", &[("usual_per_unit", json!(90.0))]),
        ("Another name", &[]),
    ];
    for (name, change) in changes {
        let (status, said) = asked(&farm, &id, name, change, Value::Null).await;
        assert!(
            status == 422 && said.contains("say why it changes"),
            "{change:?}: {status} {said}"
        );
        let (status, said) = asked(&farm, &id, name, change, json!("a slip")).await;
        assert_eq!(status, 200, "{said}");
        asked(&farm, &id, "Kohlrabi", &[], json!("back")).await;
    }
    let told = farm.get(&format!("/trials/{id}")).await["changes"].to_string();
    for field in ["crop", "price of a kg", "usual yield", "name"] {
        assert!(
            told.contains(&format!("\"field\":\"{field}\"")),
            "{field}: {told}"
        );
    }
}

#[tokio::test]
async fn a_measure_added_midway_settles_nothing() {
    let farm = Farm::new();
    let (id, code) = sealed(&farm).await;
    let (status, said) = asked(
        &farm,
        &id,
        "Kohlrabi",
        &[("also", json!(["height", "vigour"]))],
        json!("it shows"),
    )
    .await;
    assert_eq!(status, 200, "{said}");
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for reading in ["height", "vigour"] {
        let body = json!({
            "code": code, "reading": reading, "day": 6, "value": 4.0, "version": 0,
            "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("reading", body))
            .await;
    }
    let judge = farm.get(&at("/judge")).await;
    let told: Vec<(&str, bool)> = judge["measures"]
        .as_array()
        .expect("measures")
        .iter()
        .map(|m| {
            (
                m["measure"].as_str().expect("a key"),
                m["added_midway"].as_bool().expect("a mark"),
            )
        })
        .collect();
    assert_eq!(told, [("height", false), ("vigour", true)]);
}

/// Yesterday's feeding stands under yesterday; none before the sowing, none of tomorrow.
#[tokio::test]
async fn work_is_entered_on_the_day_on_which_it_was_done() {
    let farm = Farm::new();
    let (id, _) = sealed(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for (date, part) in [
        (days_ago(-1), "has not come yet"),
        (days_ago(7), "before it was sown"),
        ("soon".into(), "no"),
    ] {
        let (status, said) = farm
            .text(
                "POST",
                &at("/records"),
                record("work", json!({ "job": "feed", "date": date })),
            )
            .await;
        assert!(status == 422 && said.contains(part), "{said}");
    }
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "feed", "date": days_ago(1) })),
    )
    .await;
    let store = farm.store();
    let trial = store.trial(&id).expect("a trial");
    let fed: Vec<u32> = trial
        .work_done()
        .jobs
        .iter()
        .filter(|(job, _)| job.label() == "Feed by code")
        .map(|j| j.1)
        .collect();
    assert_eq!(fed, [5], "yesterday was day 5");
    // The next one is counted from the day on which it was given.
    let ahead = farm.get("/calendar").await["ahead"].to_string();
    assert!(
        ahead.contains(&days_ago(-1))
            && !ahead.contains(&format!(
                "\"job\":\"feed\",\"label\":\"Feed by \
                 code\",\"trial\":\"Kohlrabi\",\"date\":\"{}\"",
                days_ago(-2)
            )),
        "{ahead}"
    );
}

#[tokio::test]
async fn a_root_that_was_seen_does_not_go_away_unasked() {
    let farm = Farm::new();
    let (id, code) = sealed(&farm).await;
    asked(
        &farm,
        &id,
        "Kohlrabi",
        &[("also", json!(["first_root"]))],
        json!("roots show"),
    )
    .await;
    let root = |day: u32, value: f64, confirmed: bool| {
        json!({
            "code": code, "reading": "first_root", "day": day, "value": value, "version": 0,
            "confirmed": confirmed,
        })
    };
    let root =
        |day: u32, value: f64, confirmed: bool| record("reading", root(day, value, confirmed));
    let at = format!("/trials/{id}/records");
    farm.call("POST", &at, root(3, 0.0, false)).await;
    farm.call("POST", &at, root(4, 1.0, false)).await;
    let (status, said) = farm.text("POST", &at, root(5, 0.0, false)).await;
    assert!(
        status == 422 && said.contains("was seen already. Is it gone again?"),
        "{said}"
    );
    farm.call("POST", &at, root(5, 0.0, true)).await;
    farm.call("POST", &at, root(6, 1.0, false)).await;
}
