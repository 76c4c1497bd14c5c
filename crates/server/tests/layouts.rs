//! What counts as one: levels under a lamp, pairs that leave a treatment out in turn, crops that
//! are blocks.

use crate::farm;

use farm::{Farm, record, set_cell};
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    let now = jiff::Zoned::now().date();
    now.checked_sub(jiff::ToSpan::days(days))
        .expect("a date")
        .to_string()
}

/// A new trial in which the hours of light differ, and its view.
async fn by_light(farm: &Farm, name: &str) -> (String, Value) {
    let id = farm.new_trial(name).await;
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut sheet = trial["sheet"].clone();
    for (treatment, hours) in sheet["treatments"]
        .as_array_mut()
        .expect("treatments")
        .iter_mut()
        .zip(["12", "16"])
    {
        treatment["applications"] = json!([]);
        set_cell(treatment, "light_hours", hours);
    }
    let put = json!({ "sheet": sheet, "version": trial["version"] });
    let trial = farm
        .call("PUT", &format!("/trials/{id}/match-sheet"), put)
        .await;
    (id, trial)
}

async fn rack(farm: &Farm, id: &str, rack: Value, version: &Value) -> Value {
    farm.call(
        "PUT",
        &format!("/trials/{id}/rack"),
        json!({ "rack": rack, "version": version }),
    )
    .await
}

fn finding<'a>(trial: &'a Value, code: &str) -> Option<&'a Value> {
    trial["ledger"]["open"]
        .as_array()
        .expect("findings")
        .iter()
        .find(|f| f["code"] == code)
}

/// Weighs every unit with what its level and its place on it say, opens the key, and gives the
/// answer of Judge.
async fn weighed(farm: &Farm, id: &str, net: impl Fn(usize, u64, u64) -> f64) -> Value {
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let trial = farm.get(&at("")).await;
    let units = trial["units"].as_array().expect("units");
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        for code in pour["codes"].as_array().expect("codes") {
            let unit = units.iter().find(|u| u["code"] == *code).expect("a unit");
            let figure = |key: &str| unit[key].as_u64().expect("a number");
            let gross = net(treatment, figure("level"), figure("slot"));
            let body = json!({
                "code": code, "gross_g": gross, "tare_g": 0.0, "version": 0, "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("weighing", body))
                .await;
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    farm.get(&at("/judge")).await
}

#[tokio::test]
async fn a_lamp_over_a_shelf_is_asked_about_and_counts_as_one() {
    let farm = Farm::new();
    let (id, trial) = by_light(&farm, "Twelve or sixteen hours").await;
    // Nobody said how far a lamp reaches: it is asked, and said in the ledger.
    assert_eq!(
        (&trial["through"]["fixture"], &trial["through"]["ask"]),
        (&json!("lamp"), &json!(true))
    );
    assert_eq!(
        finding(&trial, "shared_unit").expect("open")["severity"],
        "minor"
    );
    let own = json!({ "name": "rack", "levels": 6, "slots": 4, "serves": { "lamp": "place" } });
    let trial = rack(&farm, &id, own, &trial["version"]).await;
    assert!(finding(&trial, "shared_unit").is_none() && trial["through"]["ask"] == false);
    // One serves a whole level, and trays are dealt one by one: that cannot be.
    let shared = json!({ "name": "rack", "levels": 6, "slots": 4, "serves": { "lamp": "level" } });
    let trial = rack(&farm, &id, shared, &trial["version"]).await;
    assert_eq!(
        finding(&trial, "shared_unit").expect("open")["severity"],
        "serious"
    );

    let whole = json!({
        "name": "rack", "levels": 6, "slots": 4, "serves": { "lamp": "level" },
        "design": "fixtures",
    });
    let trial = rack(&farm, &id, whole, &trial["version"]).await;
    assert!(finding(&trial, "shared_unit").is_none());
    assert_eq!(
        (&trial["units_each"], &trial["seen_each"], &trial["ways"]),
        (&json!(12), &json!(3), &json!(20.0))
    );
    assert_eq!(
        (&trial["dealt_words"], &trial["by_level"]),
        (&json!("lamps"), &json!(true))
    );
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": trial["version"] }),
    )
    .await;
    // Each lamp has a height of its own: 2, 4 and 6 g; the places on a shelf differ by 1 g.
    let mut seen = std::collections::HashMap::new();
    let trial = farm.get(&format!("/trials/{id}")).await;
    for unit in trial["units"].as_array().expect("units") {
        *seen
            .entry(unit["level"].as_u64().expect("a level"))
            .or_insert(0) += 1;
    }
    assert!(seen.len() == 6 && seen.values().all(|n| *n == 4));
    let judge = weighed(&farm, &id, |t, level, slot| {
        100.0 + 30.0 * t as f64 + 2.0 * (level % 3) as f64 + slot as f64
    })
    .await;
    let analysis = &judge["analysis"];
    assert_eq!(analysis["design"]["units"], 6, "{}", judge["trouble"]);
    assert_eq!(analysis["design"]["samples_per_unit"], json!([4, 4]));
    let contrast = &analysis["contrasts"][0];
    assert!(
        (contrast["df"].as_f64().expect("df") - 4.0).abs() < 1e-4,
        "six lamps, two means: {}",
        contrast["df"]
    );
    assert_eq!(contrast["randomisation"]["assignments"], 20.0);
    let sentence = contrast["sentence"].as_str().expect("a sentence");
    assert!(
        sentence.contains("g a tray more than") && !sentence.contains("g a lamp"),
        "{sentence}"
    );
    assert!(
        !analysis["warnings"].to_string().contains("units_lost"),
        "{}",
        analysis["warnings"]
    );
    let csv = farm
        .text("GET", &format!("/trials/{id}/export.csv"), Value::Null)
        .await
        .1;
    let head = "unit,block,level,slot,fixture,treatment,harvest_weight_g,height_mm";
    assert_eq!(csv.lines().next(), Some(head), "{csv}");
    assert!(
        csv.contains(",,1,1,level 1,"),
        "the block is empty, the fixture is the level: {csv}"
    );
    assert!(
        judge["command"]
            .as_str()
            .expect("a command")
            .contains("--plan trial-plan.json")
    );
}

/// One lamp a side, set by hand: eight trays that agree are one lamp against one.
#[tokio::test]
async fn one_lamp_a_side_tells_nothing_however_many_trays() {
    let farm = Farm::new();
    let (id, trial) = by_light(&farm, "Two shelves").await;
    let by_hand = json!({
        "name": "rack", "levels": 2, "slots": 4, "serves": { "lamp": "level" }, "design": "by_hand",
    });
    let trial = rack(&farm, &id, by_hand, &trial["version"]).await;
    let places: Vec<Value> = (1..=2)
        .flat_map(|level| {
            (1..=4).map(move |slot| json!({ "level": level, "slot": slot, "treatment": level - 1 }))
        })
        .collect();
    let put = json!({ "places": places, "version": trial["version"] });
    let trial = farm.call("PUT", &format!("/trials/{id}/places"), put).await;
    let single = finding(&trial, "one_unit_per_treatment").expect("open");
    assert!(
        single["severity"] == "fatal"
            && single["seen"]
                .as_str()
                .expect("words")
                .contains("a single lamp"),
        "{single}"
    );
    let judge = weighed(&farm, &id, |t, _, slot| {
        100.0 + 40.0 * t as f64 + slot as f64
    })
    .await;
    assert_eq!(judge["analysis"]["contrasts"][0]["verdict"], "cannot_tell");
    let sentence = judge["analysis"]["contrasts"][0]["sentence"]
        .as_str()
        .expect("a sentence");
    assert!(sentence.contains("a single lamp on one side"), "{sentence}");
}

/// Three treatments, two to a pair: every two meet equally often, and the model takes the pairs
/// out.
#[tokio::test]
async fn pairs_leave_a_third_treatment_out_in_turn() {
    let farm = Farm::new();
    let id = farm.new_trial("Three in pairs").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut sheet = trial["sheet"].clone();
    let mut third = sheet["treatments"][1].clone();
    third["name"] = json!("half feed");
    set_cell(&mut third, "dose", "0.5");
    sheet["treatments"]
        .as_array_mut()
        .expect("treatments")
        .push(third);
    let trial = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": sheet, "version": trial["version"] }),
        )
        .await;
    let few = json!({
        "rack": { "name": "rack", "levels": 1, "slots": 5, "design": "pairs" },
        "version": trial["version"],
    });
    let (status, said) = farm.text("PUT", &at("/rack"), few).await;
    assert!(
        status == 422 && said.contains("takes 3 pairs or a multiple; this space has 2"),
        "{said}"
    );
    let trial = rack(
        &farm,
        &id,
        json!({ "name": "rack", "levels": 2, "slots": 8, "design": "pairs" }),
        &trial["version"],
    )
    .await;
    // Eight pairs, of which six are two whole turns: 6!/(2!2!2!) ways to give the pairs their two,
    // 2^6 within them.
    assert_eq!(
        (&trial["units_each"], &trial["ways"]),
        (&json!(4), &json!(90.0 * 64.0))
    );
    assert_eq!(
        trial["layout"],
        json!({
            "treatments": 3, "per_block": 0, "covariates": 0, "in_turn": true, "places": false,
        })
    );
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    // Pairs differ by 20 g, treatments by 0, 30 and 12 g, and nothing else but a gram here and
    // there.
    let pair = |level: u64, slot: u64| 4 * (level - 1) + slot.div_ceil(2);
    let judge = weighed(&farm, &id, |t, level, slot| {
        let noise = f64::from(
            [0u8, 1, 1, 0, 1, 0, 0, 1, 0, 0, 1, 1, 1, 0, 1, 0]
                [(8 * (level - 1) + slot - 1) as usize],
        );
        100.0 + [0.0, 30.0, 12.0][t] + 20.0 * pair(level, slot) as f64 + noise
    })
    .await;
    let analysis = &judge["analysis"];
    assert_eq!(
        analysis["design"]["name"], "incomplete blocks",
        "{}",
        judge["trouble"]
    );
    assert_eq!(
        (&analysis["design"]["blocks"], &analysis["design"]["units"]),
        (&json!(6), &json!(12))
    );
    for (contrast, truth) in analysis["contrasts"]
        .as_array()
        .expect("contrasts")
        .iter()
        .zip([30.0, 12.0])
    {
        let estimate = contrast["estimate"].as_f64().expect("an estimate");
        assert!(
            (estimate - truth).abs() < 1.5,
            "{estimate} of {truth}: the pairs are taken out"
        );
        assert_eq!(contrast["df"], 4.0, "12 trays, 6 pairs, 2 differences");
        assert_eq!(
            contrast["randomisation"]["assignments"], 4.0,
            "they meet in two pairs"
        );
    }
    let warnings = analysis["warnings"].to_string();
    assert!(
        !warnings.contains("units_lost") && !warnings.contains("uninformative"),
        "{warnings}"
    );
}

/// One crop a bucket, every treatment on each crop: crops are blocks, and a gain is a share of what
/// each crop makes.
#[tokio::test]
async fn crops_with_rows_of_their_own_are_blocks() {
    let farm = Farm::new();
    let id = farm.new_trial("Four crops").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let crops = ["basil", "dill", "rocket", "mint"];
    let space = |design: &str| {
        json!({
            "name": "buckets", "kind": "buckets", "levels": 4, "slots": 2, "design": design,
            "crops": crops,
        })
    };
    let free = json!({ "rack": space("completely_randomised"), "version": 1 });
    let (status, said) = farm.text("PUT", &at("/rack"), free).await;
    assert!(
        status == 422 && said.contains("crops of their own"),
        "{said}"
    );
    let trial = rack(&farm, &id, space("blocks"), &json!(1)).await;
    assert_eq!(
        trial["level_names"],
        json!([
            "row 1, basil",
            "row 2, dill",
            "row 3, rocket",
            "row 4, mint"
        ])
    );
    let mut ask = trial["ask"].clone();
    ask["crops_inside"] = json!(["basil", "dill"]);
    let put =
        json!({ "name": "Four crops", "ask": ask, "version": trial["version"], "reason": null });
    let (status, said) = farm.text("PUT", &at("/ask"), put).await;
    assert!(status == 422 && said.contains("not both"), "{said}");
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    // Crops make 40, 80, 160 and 320 g, and a treated bucket a quarter more, give or take a
    // hundredth.
    let judge = weighed(&farm, &id, |t, level, _| {
        20.0 * 2f64.powi(level as i32)
            * if t == 1 {
                1.25 + 0.01 * (level % 2) as f64
            } else {
                1.0
            }
    })
    .await;
    let analysis = &judge["analysis"];
    assert_eq!(
        (&analysis["scale"], &analysis["design"]["blocks"]),
        (&json!("ratio"), &json!(4)),
        "{}",
        judge["trouble"]
    );
    let contrast = &analysis["contrasts"][0];
    let ratio = contrast["estimate"].as_f64().expect("a ratio");
    assert!(
        (ratio - 1.255).abs() < 0.001,
        "the geometric mean of 1.26, 1.25, 1.26 and 1.25: {contrast}"
    );
    let sentence = contrast["sentence"].as_str().expect("a sentence");
    assert!(
        sentence.contains("gave 26 % more than plain water") || sentence.contains("gave 25 % more"),
        "{sentence}"
    );
    let effects: Vec<&str> = judge["crop_effects"]
        .as_array()
        .expect("a list")
        .iter()
        .filter_map(|e| e["sentence"].as_str())
        .collect();
    assert_eq!(effects.len(), 4);
    assert_eq!(
        effects[3],
        "Mint: full feed 80 g more than plain water (+25 %), 1 against 1."
    );
    let csv = farm.text("GET", &at("/export.csv"), Value::Null).await.1;
    assert!(
        csv.starts_with("unit,block,level,slot,crop,treatment,"),
        "{csv}"
    );
    let plan = farm.get(&at("/plan.json")).await;
    assert_eq!(plan["measures"][0]["scale"], "ratio");
    // With one crop nothing of it is there.
    let other = farm.new_trial("One crop").await;
    let trial = farm.get(&format!("/trials/{other}")).await;
    farm.call(
        "POST",
        &format!("/trials/{other}/deal"),
        json!({ "version": trial["version"] }),
    )
    .await;
    let judge = weighed(&farm, &other, |t, level, slot| {
        100.0 + 20.0 * t as f64 + (level * slot % 3) as f64
    })
    .await;
    assert_eq!(
        (&judge["crop_effects"], &judge["analysis"]["scale"]),
        (&json!([]), &json!("difference"))
    );
}
