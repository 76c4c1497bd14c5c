//! A harvest in waves: pieces, grades and prices; what is taken aside; until the last wave is
//! looked at.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::ToSpan::days(days))
        .expect("a date")
        .to_string()
}

/// Four bushes of peppers sown twenty days ago, whose last day is today; their codes.
async fn peppers(farm: &Farm, waves: Value) -> (String, Vec<String>) {
    let id = farm.new_trial("Peppers").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut trial = farm.get(&at("")).await;
    let ask = &mut trial["ask"];
    (ask["also"], ask["end_day"], ask["waves"]) = (json!([]), json!(20), waves);
    let put = json!({
        "name": "Peppers", "ask": ask.clone(), "version": trial["version"], "reason": null,
    });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    let rack = json!({
        "name": "roof", "levels": 1, "slots": 4, "kind": "bench", "design": "completely_randomised",
    });
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
        record("work", json!({ "job": "sow", "date": days_ago(20) })),
    )
    .await;
    let units = farm.get(&at("")).await["units"].clone();
    let codes = units
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned());
    (id, codes.collect())
}

fn grades() -> Value {
    json!({
        "grades": [
            { "name": "large", "price_per_kg": 8.0 }, { "name": "small", "price_per_kg": 5.0 },
        ],
    })
}

fn pick(code: &str, ago: i64, (net, pieces, grade): (f64, Option<u32>, &str)) -> Value {
    json!({
        "code": code, "gross_g": 50.0 + net, "tare_g": 50.0, "pieces": pieces, "grade": grade,
        "date": days_ago(ago),
    })
}

#[tokio::test]
async fn three_waves_come_to_the_right_value() {
    let farm = Farm::new();
    let (id, codes) = peppers(&farm, grades()).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let row = async |code: &str| {
        let view = farm.get(&at("/weigh")).await;
        view["rows"]
            .as_array()
            .expect("rows")
            .iter()
            .find(|r| r["code"] == *code)
            .expect("a row")["picked"]
            .clone()
    };
    for (ago, of) in [
        (9, (620.0, Some(4), "large")),
        (9, (150.0, Some(2), "small")),
        (4, (480.0, Some(3), "large")),
    ] {
        farm.call(
            "POST",
            &at("/records"),
            record("pick", pick(&codes[0], ago, of)),
        )
        .await;
    }
    // By hand: 0.62 x 8 + 0.15 x 5 + 0.48 x 8 = 9.55.
    let picked = row(&codes[0]).await;
    assert_eq!(
        (&picked["g"], &picked["pieces"]),
        (&json!(1250.0), &json!(9))
    );
    assert!(
        (picked["value"].as_f64().expect("money") - 9.55).abs() < 1e-9,
        "{picked}"
    );
    assert_eq!(picked["picks"][0]["day"], 11);
    // A second one of a grade on a day is asked about; a grade that the plan does not have is
    // refused.
    let again = pick(&codes[0], 4, (90.0, Some(1), "large"));
    let (status, text) = farm
        .text("POST", &at("/records"), record("pick", again.clone()))
        .await;
    assert!(
        status == 422
            && text.contains("480 g of large stand there")
            && text.contains("Is this more?"),
        "{text}"
    );
    let (status, text) = farm
        .text(
            "POST",
            &at("/records"),
            record("pick", pick(&codes[0], 3, (90.0, None, "odd"))),
        )
        .await;
    assert!(
        status == 422 && text.contains("the plan has no grade 'odd'"),
        "{text}"
    );
    let mut sure = again;
    sure["confirmed"] = true.into();
    farm.call("POST", &at("/records"), record("pick", sure))
        .await;
    assert_eq!(row(&codes[0]).await["g"], 1340.0);
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(row(&codes[0]).await["g"], 1250.0);
    // The first wave and the second; today's begins with the first unit that is looked at, and ends
    // with the last.
    let view = farm.get(&at("/weigh")).await;
    assert_eq!(
        (&view["wave_days"], &view["weighed"]),
        (&json!([11, 16]), &json!(0))
    );
    let harvest_due = async || {
        let today = farm.get("/today").await;
        today["due"]
            .as_array()
            .expect("a list")
            .iter()
            .any(|d| d["job"] == "harvest")
    };
    assert!(harvest_due().await);
    let mut next = Vec::new();
    for _ in 0..4 {
        let code = farm.get(&at("/weigh")).await["next"]
            .as_str()
            .expect("a code")
            .to_owned();
        farm.call(
            "POST",
            &at("/records"),
            record(
                "pick",
                pick(
                    &code,
                    0,
                    (if code == codes[0] { 0.0 } else { 300.0 }, None, ""),
                ),
            ),
        )
        .await;
        next.push(code);
    }
    let view = farm.get(&at("/weigh")).await;
    assert_eq!(
        (&view["next"], &view["weighed"], view["total_g"].as_f64()),
        (&Value::Null, &json!(4), Some(2150.0))
    );
    next.sort();
    let mut sorted = codes.clone();
    sorted.sort();
    assert_eq!(next, sorted);
    // Nothing is left to be done, and the verdict has the whole harvest: its own figure for the
    // first unit.
    assert!(!harvest_due().await);
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let export = farm.call("GET", &at("/export.csv"), Value::Null).await;
    let own = export
        .as_str()
        .expect("a table")
        .lines()
        .find(|l| l.split(',').any(|c| c == codes[0]))
        .expect("a row");
    assert!(
        own.split(',')
            .any(|cell| cell == "1250" || cell == "1250.0"),
        "{own}"
    );
}

#[tokio::test]
async fn what_is_taken_aside_counts_and_one_harvest_has_no_waves() {
    let farm = Farm::new();
    let (id, codes) = peppers(&farm, Value::Null).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let (status, text) = farm
        .text(
            "POST",
            &at("/records"),
            record("pick", pick(&codes[0], 5, (40.0, None, ""))),
        )
        .await;
    assert!(
        status == 422 && text.contains("\"field\":\"aside\""),
        "{text}"
    );
    let mut aside = pick(&codes[0], 5, (40.0, None, ""));
    aside["aside"] = true.into();
    farm.call("POST", &at("/records"), record("pick", aside))
        .await;
    assert_eq!(
        farm.get(&at("/weigh")).await["weighed"],
        0,
        "a pick for the kitchen is no harvest"
    );
    for code in &codes {
        let body = json!({ "code": code, "gross_g": 400.0, "tare_g": 288.0, "version": 0 });
        farm.call("POST", &at("/records"), record("weighing", body))
            .await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let export = farm.call("GET", &at("/export.csv"), Value::Null).await;
    let with = |net: &str| {
        export
            .as_str()
            .expect("a table")
            .lines()
            .filter(|l| l.split(',').any(|c| c.trim_end_matches(".0") == net))
            .count()
    };
    assert_eq!((with("152"), with("112")), (1, 3), "{export}");
}

#[tokio::test]
async fn who_was_ahead_is_told_with_the_key_and_not_before() {
    let farm = Farm::new();
    let (id, codes) = peppers(&farm, json!({})).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.store().trial(&id).expect("the trial");
    for code in &codes {
        // Full feed has by day 10 what plain water has by day 18.
        let fed = trial.units[trial.unit(code).expect("a unit")]
            .treatment
            .get()
            == 1;
        for (ago, net) in if fed {
            [(10, 400.0), (2, 200.0)]
        } else {
            [(10, 100.0), (2, 300.0)]
        } {
            farm.call(
                "POST",
                &at("/records"),
                record("pick", pick(code, ago, (net, None, ""))),
            )
            .await;
        }
        farm.call(
            "POST",
            &at("/records"),
            record("pick", pick(code, 0, (0.0, None, ""))),
        )
        .await;
    }
    let sealed = farm.get(&at("/judge")).await;
    assert_eq!(
        (&sealed["courses"], &sealed["ahead"], &sealed["early"]),
        (&json!([]), &json!([]), &json!(false))
    );
    farm.call("POST", &at("/reveal"), Value::Null).await;
    let open = farm.get(&at("/judge")).await;
    assert_eq!(open["courses"][0]["mean_g"], json!([0.0, 100.0, 400.0]));
    assert_eq!(open["courses"][1]["mean_g"], json!([0.0, 400.0, 600.0]));
    let said = open["ahead"][0].as_str().expect("a sentence");
    assert!(
        said.starts_with("Full feed had cut by day 10 (its")
            && said.contains("by day 18: 8 days ahead"),
        "{said}"
    );
    // Another measure has no running yield.
    assert_eq!(
        farm.get(&at("/judge?measure=height")).await["courses"],
        json!([])
    );
}
