//! A measure judged on stated days: read on them, exported by them, judged by each, and found out
//! where it was not.

use crate::farm;

use farm::{Farm, record};
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::table::read;
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    let now = jiff::Zoned::now().date();
    now.checked_sub(jiff::ToSpan::days(days))
        .expect("a date")
        .to_string()
}

/// A sown trial whose height decides on days 5 and 9, and its codes with the treatment that each
/// has.
async fn tall(farm: &Farm, sown: i64) -> (String, Vec<(String, usize)>) {
    let id = farm.new_trial("Tall or not").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    (ask["question"], ask["primary_measure"], ask["also"]) =
        (json!("Do they grow?"), json!("height"), json!([]));
    for (wrong, said) in [
        (json!({ "height": [5, 13] }), "between 1 and the last, 12"),
        (json!({ "harvest_weight": [5] }), "not read on a day"),
        (json!({ "luck": [5] }), "no measure 'luck'"),
    ] {
        ask["judged_on"] = wrong;
        let put = json!({
            "name": "Tall", "ask": ask.clone(), "version": trial["version"], "reason": null,
        });
        let (status, answer) = farm.text("PUT", &at("/ask"), put).await;
        assert!(status == 422 && answer.contains(said), "{answer}");
    }
    ask["judged_on"] = json!({ "height": [5, 9] });
    let put = json!({ "name": "Tall", "ask": ask, "version": trial["version"], "reason": null });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(sown) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let mut dealt = Vec::new();
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        let codes = pour["codes"].as_array().expect("codes").iter();
        dealt.extend(codes.map(|c| (c.as_str().expect("a code").to_owned(), treatment)));
    }
    (id, dealt)
}

async fn measure(farm: &Farm, id: &str, code: &str, day: u32, value: f64) {
    let body = json!({
        "code": code, "reading": "height", "sample": null, "day": day, "value": value, "version": 0,
        "confirmed": true,
    });
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("reading", body),
    )
    .await;
}

/// Early the treated ones are behind, at the end ahead; a later look does not change what was
/// judged on its day.
#[tokio::test]
async fn each_day_has_its_own_figure_and_the_last_decides() {
    let farm = Farm::new();
    let (id, dealt) = tall(&farm, 12).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for (n, (code, t)) in dealt.iter().enumerate() {
        let wobble = (n % 4) as f64;
        measure(&farm, &id, code, 5, 30.0 - 6.0 * *t as f64 + wobble).await;
        measure(&farm, &id, code, 9, 60.0 + 12.0 * *t as f64 + wobble).await;
        measure(&farm, &id, code, 12, 80.0 + 40.0 * *t as f64 + wobble).await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let told: Vec<&str> = judge["measures"]
        .as_array()
        .expect("measures")
        .iter()
        .filter_map(|m| m["id"].as_str())
        .collect();
    assert_eq!(
        (told, &judge["day"]),
        (vec!["height@9", "height@5"], &json!(9)),
        "the last day decides"
    );
    let estimate = |judge: &Value| {
        judge["analysis"]["contrasts"][0]["estimate"]
            .as_f64()
            .expect("an estimate")
    };
    let early = farm.get(&at("/judge?measure=height@5")).await;
    assert!((estimate(&judge) - 12.0).abs() < 1.0 && (estimate(&early) + 6.0).abs() < 1.0);
    assert_eq!(early["day"], 5);
    assert_eq!(
        farm.text("GET", &at("/judge?measure=luck@5"), Value::Null)
            .await
            .0,
        404
    );
    let ledger = farm.get(&at("")).await["ledger"].clone();
    assert!(
        !ledger["open"].to_string().contains("measured_late"),
        "{}",
        ledger["open"]
    );
    assert!(
        ledger["sound"]
            .to_string()
            .contains("read on its day: height on day 9, height on day 5"),
        "{}",
        ledger["sound"]
    );
    // The exported file with its plan gives the very figures of each day.
    let csv = farm.text("GET", &at("/export.csv"), Value::Null).await.1;
    assert!(
        csv.lines()
            .next()
            .expect("a head")
            .ends_with("treatment,height_mm_day_9,height_mm_day_5"),
        "{csv}"
    );
    let plan = AnalysisPlan::read(&farm.get(&at("/plan.json")).await.to_string()).expect("a plan");
    let place = plan.measure("height_mm_day_5").expect("a measure");
    let table = read(csv.as_bytes(), &plan.columns(place)).expect("a table");
    let again = analyse(&table, &plan.question(place)).expect("an analysis");
    assert_eq!(
        json!(again.contrasts[0].estimate),
        early["analysis"]["contrasts"][0]["estimate"]
    );
}

/// Half of them are read on day 8, two not at all: a reading beside the day stands for it, and the
/// ledger says so.
#[tokio::test]
async fn what_was_not_read_on_its_day_is_found() {
    let farm = Farm::new();
    let (id, dealt) = tall(&farm, 12).await;
    for (n, (code, t)) in dealt.iter().enumerate() {
        measure(&farm, &id, code, 5, 30.0 + *t as f64).await;
        if n > 1 {
            measure(
                &farm,
                &id,
                code,
                if n % 2 == 0 { 8 } else { 9 },
                60.0 + 10.0 * *t as f64 + (n % 3) as f64,
            )
            .await;
        }
        // Two days beside is another day.
        measure(&farm, &id, code, 11, 200.0).await;
    }
    let trial = farm.get(&format!("/trials/{id}")).await;
    let late = trial["ledger"]["open"]
        .as_array()
        .expect("findings")
        .iter()
        .find(|f| f["code"] == "measured_late");
    let late = late.expect("open");
    assert_eq!(late["severity"], "serious");
    let units = dealt.len();
    let beside = (2..units).filter(|n| n % 2 == 0).count();
    assert_eq!(
        late["seen"],
        format!(
            "height, judged on day 9: {beside} of {units} trays were read a day before or after, \
             2 of {units} have no figure."
        )
    );
    farm.call(
        "POST",
        &format!("/trials/{id}/reveal"),
        json!({ "reason": "tried out" }),
    )
    .await;
    let judge = farm.get(&format!("/trials/{id}/judge")).await;
    assert_eq!(judge["dots"].as_array().expect("dots").len(), units - 2);
    assert!(
        judge["dots"]
            .as_array()
            .expect("dots")
            .iter()
            .all(|d| d["value"].as_f64().expect("a value") < 100.0)
    );
}

/// On the stated day the reading is due, whatever the rhythm of readings.
#[tokio::test]
async fn reading_falls_due_on_the_stated_day() {
    let farm = Farm::new();
    let (id, _) = tall(&farm, 5).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let today = farm.get("/today").await.to_string();
    assert!(today.contains("is judged: take it of every one"), "{today}");
    let trial = farm.get(&at("")).await;
    assert!(
        !trial["ledger"]["open"]
            .to_string()
            .contains("measured_late"),
        "the day is not over"
    );
}

/// Three days are looked at beside the one that decides: one of them would be called better by
/// itself (p 0.039), and is not among three. The day that decides stands alone.
#[tokio::test]
async fn days_beside_the_one_that_decides_are_judged_together() {
    let farm = Farm::new();
    let id = farm.new_trial("Four days").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    (ask["primary_measure"], ask["also"], ask["judged_on"]) = (
        json!("height"),
        json!([]),
        json!({ "height": [3, 5, 7, 9] }),
    );
    let put =
        json!({ "name": "Four days", "ask": ask, "version": trial["version"], "reason": null });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    let rack =
        json!({ "name": "rack", "levels": 3, "slots": 4, "design": "completely_randomised" });
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
    let heights = [
        (
            3,
            [
                [44.3, 38.7, 47.5, 50.7, 50.3, 47.1],
                [48.2, 53.4, 62.4, 61.4, 47.4, 51.5],
            ],
        ),
        (
            5,
            [
                [53.3, 55.5, 52.0, 43.7, 47.9, 50.8],
                [60.1, 60.1, 42.7, 45.3, 48.1, 47.8],
            ],
        ),
        (
            7,
            [
                [38.5, 51.0, 48.6, 48.2, 60.9, 47.4],
                [50.1, 48.9, 48.2, 37.9, 52.3, 56.4],
            ],
        ),
        (
            9,
            [
                [40.0, 41.0, 42.0, 43.0, 44.0, 45.0],
                [60.0, 61.0, 62.0, 63.0, 64.0, 65.0],
            ],
        ),
    ];
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        for (n, code) in pour["codes"].as_array().expect("codes").iter().enumerate() {
            for (day, values) in heights {
                measure(
                    &farm,
                    &id,
                    code.as_str().expect("a code"),
                    day,
                    values[treatment][n],
                )
                .await;
            }
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let contrast = |judge: &Value| judge["analysis"]["contrasts"][0].clone();
    let decides = contrast(&farm.get(&at("/judge")).await);
    assert_eq!(
        (&decides["verdict"], decides.get("p_holm")),
        (&json!("better_by_margin"), None),
        "{decides}"
    );
    let beside = contrast(&farm.get(&at("/judge?measure=height@3")).await);
    let (p, holm) = (
        beside["p"].as_f64().expect("a p"),
        beside["p_holm"].as_f64().expect("one of all"),
    );
    assert!(
        p < 0.05 && (holm - 3.0 * p).abs() < 1e-12 && holm > 0.05,
        "{beside}"
    );
    assert_eq!(
        (&beside["verdict"], &beside["doubt"]),
        (&json!("cannot_tell"), &json!("several"))
    );
    let said = beside["sentence"].as_str().expect("a sentence");
    assert!(
        said.contains("of 3 measures looked at beside the one that decides"),
        "{said}"
    );
}
