//! After the verdict: measures side by side, the scorecard, what is decided, and the trial that
//! follows.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

/// Eight trays of each: water 100 g and a few, feed 30 g more.
async fn weighed(farm: &Farm, name: &str) -> String {
    let id = farm.new_trial(name).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    (ask["question"], ask["crop"], ask["hypothesis"]) =
        (json!("Feed?"), json!("Amaranth"), json!("Feed gives more"));
    let ask = json!({ "name": name, "ask": ask, "version": trial["version"], "reason": null });
    let trial = farm.call("PUT", &at("/ask"), ask).await;
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
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    for t in 0..2 {
        for (n, code) in sheet[t]["codes"]
            .as_array()
            .expect("codes")
            .iter()
            .enumerate()
        {
            let gross = 100.0 + 30.0 * t as f64 + (n % 4) as f64;
            let body = json!({
                "code": code, "gross_g": gross, "tare_g": 0.0, "version": 0, "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("weighing", body))
                .await;
            let height = json!({
                "code": code, "reading": "height", "value": 60.0 + n as f64, "day": 0, "version": 0,
                "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("reading", height))
                .await;
        }
    }
    id
}

#[tokio::test]
async fn a_decision_is_kept_with_its_reason_and_shown_to_later_trials() {
    let farm = Farm::new();
    let id = weighed(&farm, "Amaranth one").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    // Sealed: nothing is advised, nothing can be decided, nothing names treatments.
    let next = farm.get(&at("/next")).await;
    assert_eq!(
        (&next["advice"], &next["suggestions"]),
        (&Value::Null, &json!([]))
    );
    let adopt = json!({ "decides": "adopt", "treatment": "full feed", "reason": " pays " });
    assert_eq!(
        farm.text("POST", &at("/records"), record("decision", adopt.clone()))
            .await
            .0,
        409
    );
    assert_eq!(farm.get(&at("/judge/measures")).await["rows"], json!([]));
    assert_eq!(
        farm.text("GET", &at("/scorecard"), Value::Null).await.0,
        409
    );
    assert_eq!(
        farm.text("POST", &at("/records"), record("scorecard", json!({})))
            .await
            .0,
        409
    );
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;

    let next = farm.get(&at("/next")).await;
    assert_eq!(
        (&next["advice"]["decides"], &next["advice"]["treatment"]),
        (&json!("adopt"), &json!("full feed"))
    );
    for (body, field) in [
        (json!({ "decides": "adopt" }), "treatment"),
        (
            json!({ "decides": "adopt", "treatment": "moonlight" }),
            "treatment",
        ),
        (json!({ "decides": "repeat", "units": 0 }), "units"),
        (
            json!({ "decides": "further", "reason": "x".repeat(401) }),
            "reason",
        ),
    ] {
        let (status, said) = farm
            .text("POST", &at("/records"), record("decision", body))
            .await;
        assert!(
            status == 422 && said.contains(&format!("\"field\":\"{field}\"")),
            "{said}"
        );
    }
    farm.call("POST", &at("/records"), record("decision", adopt))
        .await;
    let kept = farm.get(&at("/next")).await;
    assert_eq!(
        (
            &kept["decisions"][0]["said"],
            &kept["decisions"][0]["decision"]["reason"]
        ),
        (&json!("Adopt full feed"), &json!("pays"))
    );
    // A later word stands beside the first; taken back, the first stands again.
    farm.call(
        "POST",
        &at("/records"),
        record("decision", json!({ "decides": "repeat", "units": 1 })),
    )
    .await;
    let two = farm.get(&at("/next")).await;
    let said: Vec<&str> = two["decisions"]
        .as_array()
        .unwrap()
        .iter()
        .map(|d| d["said"].as_str().unwrap())
        .collect();
    assert_eq!(
        said,
        ["Adopt full feed", "Repeat with 1 tray of each treatment"]
    );
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(
        farm.get(&at("/next")).await["decisions"]
            .as_array()
            .unwrap()
            .len(),
        1
    );

    // Another trial of the crop is told, one of another crop is not, and neither is the trial
    // itself.
    let later = weighed(&farm, "Amaranth two").await;
    let before = farm.get(&format!("/trials/{later}/next")).await["before"].clone();
    assert_eq!(
        (before.as_array().unwrap().len(), &before[0]["said"]),
        (1, &json!("Adopt full feed"))
    );
    assert_eq!(
        (&before[0]["trial"], &before[0]["name"]),
        (&json!(id), &json!("Amaranth one"))
    );
    assert_eq!(farm.get(&at("/next")).await["before"], json!([]));
    let other = farm.new_trial("Cress").await;
    assert_eq!(
        farm.get(&format!("/trials/{other}/next")).await["before"],
        json!([])
    );
    // Who records reads it, and decides nothing.
    farm.person("Olga", "owner").await;
    let recorder = farm.person("Rea", "recorder").await;
    let (status, _) = farm
        .text_as(
            &recorder,
            "POST",
            &at("/records"),
            record("decision", json!({ "decides": "further" })),
        )
        .await;
    assert_eq!(status, 403);
}

#[tokio::test]
async fn a_suggested_trial_is_planned_as_it_was_told() {
    let farm = Farm::new();
    let id = weighed(&farm, "Amaranth").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let next = farm.get(&at("/next")).await;
    let own = &next["suggestions"][0];
    assert_eq!(own["key"], json!("between"), "{next}");
    let made = farm
        .call("POST", &at("/next"), json!({ "key": "between" }))
        .await;
    assert_eq!(made["name"], json!("Amaranth, a dose between"));
    let named: Vec<&str> = made["sheet"]["treatments"]
        .as_array()
        .unwrap()
        .iter()
        .map(|t| t["name"].as_str().unwrap())
        .collect();
    assert_eq!(named, ["plain water", "full feed", "half feed"]);
    assert_eq!(
        made["sheet"]["treatments"].as_array().unwrap().len() as u64,
        own["treatments"].as_u64().unwrap()
    );
    assert_eq!(made["reveal"], Value::Null);
    // What may be behind it: the feed's nutrients, which only go together here; its trial gives
    // each alone.
    let why = &next["why"];
    assert_eq!(
        (&why["thrived"], &why["lagged"]),
        (&json!(["full feed"]), &json!(["plain water"]))
    );
    let cause = &why["conjectures"][0];
    let key = cause["key"].as_str().expect("a key");
    assert!(
        key.starts_with("why:nitrogen+")
            && cause["against"][0]
                .as_str()
                .unwrap()
                .starts_with("They go together"),
        "{why}"
    );
    let made = farm.call("POST", &at("/next"), json!({ "key": key })).await;
    assert_eq!(
        made["sheet"]["treatments"][1]["name"],
        json!("with nitrogen salt")
    );
    let (status, said) = farm
        .text("POST", &at("/next"), json!({ "key": "moon" }))
        .await;
    assert!(
        status == 422 && said.contains("no longer suggested"),
        "{said}"
    );
}

#[tokio::test]
async fn measures_stand_side_by_side() {
    let farm = Farm::new();
    let id = weighed(&farm, "Amaranth").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let told = farm.get(&at("/judge/measures")).await;
    assert_eq!(
        (&told["ranking"], &told["expected"]),
        (&Value::Null, &json!("It held.")),
        "two treatments have no ranks"
    );
    let rows = told["rows"].as_array().unwrap();
    let [weight, height] = &rows[..] else {
        panic!("{told}")
    };
    assert_eq!(
        (&weight["decides"], &height["decides"]),
        (&json!(true), &json!(false))
    );
    let cell = &weight["row"]["cells"][0];
    // 30 g over 101.5 g.
    assert!(
        (cell["estimate"].as_f64().unwrap() - 100.0 * 30.0 / 101.5).abs() < 1e-9,
        "{cell}"
    );
    assert_eq!(cell["verdict"], json!("better_by_margin"));
    // Heights are the same tray by tray.
    assert_eq!(
        (&height["name"], &height["row"]["cells"][0]["estimate"]),
        (&json!("height"), &json!(0.0))
    );
    assert_eq!(
        told["by_luck_percent"],
        Value::Null,
        "one measure beside is no crowd"
    );
}

#[tokio::test]
async fn a_scorecard_is_proposed_kept_and_taken_back() {
    let farm = Farm::new();
    let id = weighed(&farm, "Amaranth").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let view = farm.get(&at("/scorecard")).await;
    assert_eq!(view["proposed"], json!(true));
    let named = |view: &Value| -> Vec<String> {
        let all = view["card"]["criteria"].as_array().unwrap().iter();
        all.map(|c| c["name"].as_str().unwrap().to_owned())
            .collect()
    };
    assert_eq!(
        named(&view),
        ["harvest weight", "height", "cost"],
        "nothing was tasted"
    );
    let first = |view: &Value, setting: usize| {
        view["outcome"]["rankings"][setting]["standings"][0]["treatment"].clone()
    };
    assert_eq!(first(&view, 0), json!("full feed"));

    // Own scores: the smell of the feed counts most at school, and turns it there alone.
    let mut card = view["card"].clone();
    let smell = json!({ "name": "smell", "from": "own", "better": "lower", "scores": { "plain water": 0.0, "full feed": 8.0 } });
    card["criteria"].as_array_mut().unwrap().push(smell);
    card["settings"][2]["swings"] = json!({ "harvest weight": 30.0, "smell": 100.0 });
    farm.call("POST", &at("/records"), record("scorecard", card.clone()))
        .await;
    let kept = farm.get(&at("/scorecard")).await;
    assert_eq!(
        (&kept["proposed"], first(&kept, 0), first(&kept, 2)),
        (&json!(false), json!("full feed"), json!("plain water"))
    );
    // Out at the market: not ranked there, with its reason.
    let out = json!({ "treatment": "full feed", "why": "not certified", "on": "2026-11-01", "proof": "its label", "setting": "market" });
    card["knock_outs"] = json!([out]);
    farm.call("POST", &at("/records"), record("scorecard", card.clone()))
        .await;
    let kept = farm.get(&at("/scorecard")).await;
    assert_eq!(first(&kept, 1), json!("plain water"));
    assert_eq!(
        kept["outcome"]["rankings"][1]["out"][0]["why"],
        json!("not certified")
    );
    assert_eq!(first(&kept, 0), json!("full feed"));
    for (change, field) in [
        (
            json!([{ "name": "a", "from": "own", "better": "higher", "scores": { "x": 11.0 } }]),
            "scores",
        ),
        (
            json!([{ "name": " ", "from": "own", "better": "higher" }]),
            "criteria",
        ),
        (
            json!([{ "name": "a", "from": { "measure": "moon" }, "better": "higher" }]),
            "criteria",
        ),
    ] {
        let (status, said) = farm
            .text(
                "POST",
                &at("/records"),
                record("scorecard", json!({ "criteria": change })),
            )
            .await;
        assert!(
            status == 422 && said.contains(&format!("\"field\":\"{field}\"")),
            "{said}"
        );
    }
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(
        first(&farm.get(&at("/scorecard")).await, 1),
        json!("full feed")
    );
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(farm.get(&at("/scorecard")).await["proposed"], json!(true));
}
