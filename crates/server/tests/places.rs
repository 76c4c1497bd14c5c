//! Grow spaces and the ways to deal over them: a lamp for each level, systems that swap, sites
//! outdoors, places chosen by hand, and the light of each place; from the plan to the verdict.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};
use std::collections::HashMap;

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

async fn set_rack(farm: &Farm, id: &str, change: Value) -> Value {
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut rack = trial["rack"].clone();
    for (key, value) in change.as_object().expect("an object") {
        rack[key] = value.clone();
    }
    farm.call(
        "PUT",
        &format!("/trials/{id}/rack"),
        json!({ "rack": rack, "version": trial["version"] }),
    )
    .await
}

async fn deal(farm: &Farm, id: &str) -> Value {
    let version = farm.get(&format!("/trials/{id}")).await["version"].clone();
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": version }),
    )
    .await
}

/// Treatment of each code, as the pouring sheet tells the owner.
async fn key(farm: &Farm, id: &str) -> HashMap<String, usize> {
    let sheet = farm
        .call("POST", &format!("/trials/{id}/pouring-sheet"), Value::Null)
        .await;
    let mut key = HashMap::new();
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        for code in pour["codes"].as_array().expect("codes") {
            key.insert(code.as_str().expect("a code").to_owned(), treatment);
        }
    }
    key
}

async fn weigh(farm: &Farm, id: &str, code: &str, net: f64) {
    let body = json!({
        "code": code, "gross_g": net + 200.0, "tare_g": 200.0, "version": 0, "confirmed": true,
    });
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("weighing", body),
    )
    .await;
}

fn finding<'a>(trial: &'a Value, code: &str) -> Option<&'a Value> {
    trial["ledger"]["open"]
        .as_array()
        .expect("findings")
        .iter()
        .find(|f| f["code"] == code)
}

fn text(value: &Value) -> &str {
    value.as_str().expect("text")
}

/// A difference that no rounding makes, and that comes back from the figures.
fn wobble(n: usize) -> f64 {
    ((n * 7) % 5) as f64 - 2.0
}

/// Noise of each system in both rounds: no way of dealing them makes it vanish into systems and
/// rounds.
const NOISE: [[f64; 2]; 4] = [[0.3, -1.2], [1.9, 0.4], [-0.6, 1.1], [0.8, -2.0]];

#[tokio::test]
async fn systems_swap_treatments_from_round_to_round_and_are_judged_as_such() {
    let farm = Farm::new();
    let id = farm.new_trial("Watercress, dipped or not").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let (status, said) = {
        let trial = farm.get(&at("")).await;
        let mut rack = trial["rack"].clone();
        (rack["design"], rack["levels"]) = (json!("swap_over"), json!(3));
        farm.text(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await
    };
    assert!(status == 422 && said.contains("even number"), "{said}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    ask["question"] = json!("Does dipping help?");
    let put = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
    farm.call("PUT", &at("/ask"), put).await;
    set_rack(
        &farm,
        &id,
        json!({ "design": "swap_over", "levels": 2, "slots": 4, "kind": "buckets" }),
    )
    .await;
    let dealt = deal(&farm, &id).await;
    assert_eq!(
        (
            dealt["rounds"].as_u64(),
            dealt["units"].as_array().expect("units").len()
        ),
        (Some(2), 8)
    );
    let mut day = 30;
    for round in 1..=2u32 {
        farm.call(
            "POST",
            &at("/records"),
            record("work", json!({ "job": "sow", "date": days_ago(day) })),
        )
        .await;
        day = 12;
        let trial = farm.get(&at("")).await;
        assert_eq!(trial["round"].as_u64(), Some(round.into()));
        let now: Vec<&Value> = trial["units"]
            .as_array()
            .expect("units")
            .iter()
            .filter(|u| u["now"] == true)
            .collect();
        assert_eq!(now.len(), 4);
        assert!(now.iter().all(
            |u| u["level"] == round && text(&u["place"]).starts_with(&format!("round {round}"))
        ));
        let grid = farm.get(&at("/tend")).await;
        assert_eq!(
            grid["rows"].as_array().expect("rows").len(),
            4,
            "only what stands there now is recorded"
        );
        let other = trial["units"]
            .as_array()
            .expect("units")
            .iter()
            .find(|u| u["now"] == false)
            .expect("another");
        let early = json!({
            "code": other["code"], "gross_g": 300.0, "tare_g": 200.0, "version": 0,
            "confirmed": true,
        });
        let (status, said) = farm
            .text("POST", &at("/records"), record("weighing", early))
            .await;
        assert!(status == 409 && said.contains("round that"), "{said}");
        if round == 1 {
            let (status, said) = farm
                .text(
                    "POST",
                    &at("/records"),
                    record("work", json!({ "job": "sow" })),
                )
                .await;
            assert!(status == 409 && said.contains("not over"), "{said}");
        }
        let treatment = key(&farm, &id).await;
        assert_eq!(treatment.len(), 4, "the pouring sheet is that of the round");
        for unit in &now {
            let n = unit["slot"].as_u64().expect("a slot") as usize;
            let code = text(&unit["code"]);
            let gain = if treatment[code] == 1 { 25.0 } else { 0.0 };
            weigh(
                &farm,
                &id,
                code,
                100.0
                    + 8.0 * f64::from(round)
                    + 5.0 * n as f64
                    + gain
                    + NOISE[n - 1][round as usize - 1],
            )
            .await;
        }
        let due = farm.get(&at("/tend")).await["due"].clone();
        if round == 1 {
            assert_eq!(
                (due[0]["job"].as_str(), due[0]["label"].as_str()),
                (Some("sow"), Some("Begin the next round"))
            );
            assert_eq!(farm.get(&at("")).await["next"], "tend");
        }
    }
    assert_eq!(farm.get(&at("")).await["next"], "judge");
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let analysis = &judge["analysis"];
    assert_eq!(
        (
            analysis["design"]["name"].as_str(),
            analysis["design"]["units"].as_u64()
        ),
        (Some("swap-over"), Some(8))
    );
    let contrast = &analysis["contrasts"][0];
    assert!(
        (contrast["estimate"].as_f64().expect("a figure") - 25.0).abs() < 4.0,
        "{contrast}"
    );
    // Which two of four systems began with which: six ways.
    assert_eq!(contrast["randomisation"]["assignments"], 6.0);
    assert!(
        text(&contrast["sentence"]).contains("a bucket"),
        "{contrast}"
    );
}

#[tokio::test]
async fn taking_back_the_second_round_leaves_the_first() {
    let farm = Farm::new();
    let id = farm.new_trial("Watercress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_rack(
        &farm,
        &id,
        json!({ "design": "swap_over", "levels": 2, "slots": 2 }),
    )
    .await;
    let dealt = deal(&farm, &id).await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(20) })),
    )
    .await;
    for unit in dealt["units"]
        .as_array()
        .expect("units")
        .iter()
        .filter(|u| u["level"] == 1)
    {
        weigh(&farm, &id, text(&unit["code"]), 100.0).await;
    }
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(3) })),
    )
    .await;
    let trial = farm.get(&at("")).await;
    assert_eq!(
        (trial["round"].as_u64(), trial["day"].as_u64()),
        (Some(2), Some(3))
    );
    farm.call("POST", &at("/undo"), Value::Null).await;
    let trial = farm.get(&at("")).await;
    assert_eq!(
        (trial["round"].as_u64(), trial["day"].as_u64()),
        (Some(1), Some(20))
    );
    let (status, said) = farm
        .text(
            "POST",
            &at("/records"),
            record("work", json!({ "job": "sow", "date": days_ago(21) })),
        )
        .await;
    assert!(status == 422 && said.contains("round before"), "{said}");
}

#[tokio::test]
async fn a_lamp_for_each_level_is_the_unit_of_its_factor() {
    let farm = Farm::new();
    let id = farm.new_trial("Lamp and feed").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut rack = trial["rack"].clone();
    rack["design"] = json!("split_plot");
    let (status, said) = farm
        .text(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    assert!(
        status == 422 && said.contains("two factors crossed"),
        "{said}"
    );
    let mut sheet = trial["sheet"].clone();
    for i in 0..2 {
        sheet["treatments"][i]["conditions"]["light"] = json!("white LED bar");
        let mut other = sheet["treatments"][i].clone();
        other["name"] = json!(format!("{} by the sill", text(&other["name"])));
        (other["control"], other["conditions"]["light"]) = (json!(false), json!("window sill"));
        sheet["treatments"]
            .as_array_mut()
            .expect("treatments")
            .push(other);
    }
    farm.call(
        "PUT",
        &at("/match-sheet"),
        json!({ "sheet": sheet, "version": trial["version"] }),
    )
    .await;
    let trial = set_rack(
        &farm,
        &id,
        json!({ "design": "split_plot", "levels": 4, "slots": 4 }),
    )
    .await;
    assert_eq!(
        (trial["fixture"].as_str(), trial["units_each"].as_u64()),
        (Some("lamp"), Some(4))
    );
    let dealt = deal(&farm, &id).await;
    assert_eq!(dealt["units"].as_array().expect("units").len(), 16);
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let treatment = key(&farm, &id).await;
    for (n, unit) in dealt["units"].as_array().expect("units").iter().enumerate() {
        let code = text(&unit["code"]);
        let level = unit["level"].as_u64().expect("a level") as f64;
        let fed = if treatment[code] % 2 == 1 { 30.0 } else { 0.0 };
        weigh(&farm, &id, code, 100.0 + 3.0 * level + fed + wobble(n)).await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let analysis = &judge["analysis"];
    assert_eq!(analysis["design"]["name"], "split plot", "{judge}");
    // Feed was dealt tray by tray under each lamp: what it brings is seen whatever the lamps do.
    let effects = analysis["factors"]["effects"].as_array().expect("effects");
    let fed = effects
        .iter()
        .find(|e| e["factor"] == "feed" && e["at"].is_null())
        .expect("the feed over all");
    assert!(
        (fed["estimate"].as_f64().expect("a figure") - 30.0).abs() < 4.5,
        "{fed}"
    );
    assert!(analysis["residual"]["fixtures_df"].as_f64().expect("lamps") > 0.0);
    assert!(text(&judge["command"]).contains("--plan"));
}

#[tokio::test]
async fn a_lone_lamp_a_side_is_said_before_anything_is_sown() {
    let farm = Farm::new();
    let id = farm.new_trial("Lamp and feed").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut sheet = trial["sheet"].clone();
    for i in 0..2 {
        sheet["treatments"][i]["conditions"]["light_hours"] = json!("12");
        let mut other = sheet["treatments"][i].clone();
        other["name"] = json!(format!("{}, long day", text(&other["name"])));
        (other["control"], other["conditions"]["light_hours"]) = (json!(false), json!("16"));
        sheet["treatments"]
            .as_array_mut()
            .expect("treatments")
            .push(other);
    }
    farm.call(
        "PUT",
        &at("/match-sheet"),
        json!({ "sheet": sheet, "version": trial["version"] }),
    )
    .await;
    let trial = set_rack(
        &farm,
        &id,
        json!({ "design": "split_plot", "levels": 2, "slots": 8 }),
    )
    .await;
    let said = finding(&trial, "one_unit_per_treatment").expect("a lone lamp");
    assert!(
        said["severity"] == "fatal" && text(&said["seen"]).contains("lamp or pump"),
        "{said}"
    );
    let trial = set_rack(&farm, &id, json!({ "levels": 4 })).await;
    assert!(finding(&trial, "one_unit_per_treatment").is_none());
}

#[tokio::test]
async fn three_sites_outdoors_are_blocks_with_cards() {
    let farm = Farm::new();
    let id = farm.new_trial("Soap spray on kale").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let names = json!(["north wall", "orchard", "by the shed"]);
    set_rack(
        &farm,
        &id,
        json!({ "kind": "sites", "levels": 3, "slots": 4, "names": names }),
    )
    .await;
    // Plots are looked at; they have no dark days, and no water to read.
    let care = farm.get(&at("")).await["care"].clone();
    assert_eq!(
        (
            &care["blackout_days"],
            &care["read_every"],
            &care["observe_every"]
        ),
        (&json!(0), &json!(0), &json!(3))
    );
    let card = json!({ "level": 2, "aspect": "south", "shade": "after four", "before": "beans", "grows_now": "kale",
                       "damage": "flea beetle" });
    let trial = farm.call("PUT", &at("/site-card"), card.clone()).await;
    assert_eq!(trial["site_cards"], json!([card]));
    let (status, _) = farm
        .text("PUT", &at("/site-card"), json!({ "level": 4 }))
        .await;
    assert_eq!(status, 422);
    let dealt = deal(&farm, &id).await;
    let blocks: std::collections::BTreeSet<&str> = dealt["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| text(&u["block"]))
        .collect();
    assert_eq!(
        blocks.into_iter().collect::<Vec<_>>(),
        ["site by the shed", "site north wall", "site orchard"]
    );
    let place = dealt["stations"]
        .as_array()
        .expect("stations")
        .iter()
        .find(|s| s["key"] == "place")
        .expect("place");
    assert_eq!(place["status"], "3 sites x 4, dealt");
    // Plots outdoors are taken to differ by a fifth where trays indoors differ by a twelfth.
    let outdoors = farm.get(&at("")).await;
    let indoors = farm
        .get(&format!("/trials/{}", farm.new_trial("Kale indoors").await))
        .await;
    assert_eq!(
        (
            &outdoors["spread"]["cv_percent"],
            &indoors["spread"]["cv_percent"]
        ),
        (&json!(20.0), &json!(8.0))
    );
    assert_eq!(outdoors["spread"]["trials"], 0);
    let labels = farm.get(&at("/labels?base=http://localhost")).await;
    assert!(
        text(&labels["labels"][0]["place"]).contains("site "),
        "{}",
        labels["labels"][0]["place"]
    );
}

#[tokio::test]
async fn what_is_wrong_with_places_chosen_by_hand_is_said_at_once() {
    let farm = Farm::new();
    let id = farm.new_trial("My own buckets").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = set_rack(
        &farm,
        &id,
        json!({ "kind": "buckets", "levels": 1, "slots": 8, "design": "by_hand" }),
    )
    .await;
    let (status, _) = farm
        .text("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    assert_eq!(status, 409, "nothing is dealt here");
    let put = |treatments: Vec<usize>| {
        let farm = &farm;
        let at = &at;
        async move {
            let version = farm.get(&at("")).await["version"].clone();
            let places: Vec<Value> = (1..)
                .zip(treatments)
                .map(
                    |(slot, treatment)| json!({ "level": 1, "slot": slot, "treatment": treatment }),
                )
                .collect();
            farm.call(
                "PUT",
                &at("/places"),
                json!({ "places": places, "version": version }),
            )
            .await
        }
    };
    let sides = put(vec![0, 0, 0, 0, 1, 1, 1, 1]).await;
    assert!(finding(&sides, "not_dealt_at_random").is_some());
    assert!(
        text(&finding(&sides, "uneven_blocks").expect("apart")["seen"])
            .contains("wholly to the left")
    );
    let middle = put(vec![0, 1, 1, 1, 1, 0, 0]).await;
    assert!(text(&finding(&middle, "uneven_blocks").expect("unequal")["seen"]).contains("row 1"));
    let alone = put(vec![0]).await;
    assert_eq!(alone["units_each"], 0);
    let (status, said) = farm
        .text(
            "POST",
            &at("/records"),
            record("work", json!({ "job": "sow" })),
        )
        .await;
    assert!(status == 409 && said.contains("no place yet"), "{said}");
    let mixed = put(vec![0, 1, 1, 0, 1, 0, 0, 1]).await;
    assert!(
        finding(&mixed, "uneven_blocks").is_none(),
        "{}",
        mixed["ledger"]["open"]
    );
    assert_eq!(
        farm.get(&at("/places"))
            .await
            .as_array()
            .expect("places")
            .len(),
        8
    );
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let treatment = key(&farm, &id).await;
    for (n, (code, treatment)) in treatment.iter().enumerate() {
        weigh(
            &farm,
            &id,
            code,
            100.0 + 20.0 * *treatment as f64 + wobble(n),
        )
        .await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    assert_eq!(
        judge["analysis"]["contrasts"][0]["units"]
            .as_u64()
            .unwrap_or(4),
        4,
        "{judge}"
    );
    assert!(finding(&farm.get(&at("")).await, "not_blind").is_some());
}

#[tokio::test]
async fn the_light_map_tells_which_treatment_has_more() {
    let farm = Farm::new();
    let id = farm.new_trial("Light").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_rack(
        &farm,
        &id,
        json!({ "levels": 1, "slots": 4, "design": "by_hand" }),
    )
    .await;
    let version = farm.get(&at("")).await["version"].clone();
    let places: Vec<Value> = [0, 1, 0, 1]
        .into_iter()
        .zip(1..)
        .map(|(t, s)| json!({ "level": 1, "slot": s, "treatment": t }))
        .collect();
    farm.call(
        "PUT",
        &at("/places"),
        json!({ "places": places, "version": version }),
    )
    .await;
    let measure = |values: [f64; 4], scale: &'static str| {
        let lights: Vec<Value> = values
            .into_iter()
            .zip(1..)
            .map(|(v, slot)| json!({ "level": 1, "slot": slot, "value": v }))
            .collect();
        json!({
            "places": lights, "scale": scale, "kind": if scale == "lux" { "daylight" } else { "" },
        })
    };
    let trial = farm
        .call(
            "PUT",
            &at("/light"),
            measure([100.0, 160.0, 100.0, 160.0], "umol"),
        )
        .await;
    let said = finding(&trial, "edge_or_light_uneven").expect("more light");
    assert!(text(&said["seen"]).contains("46 % more light"), "{said}");
    assert_eq!(trial["uniformity"]["places"], 4);
    assert!(
        (trial["uniformity"]["min_over_mean"]
            .as_f64()
            .expect("evenness")
            - 100.0 / 130.0)
            .abs()
            < 1e-12
    );
    // The same light everywhere, read as lux under daylight: 54 lux to a µmol/m²/s.
    let trial = farm
        .call("PUT", &at("/light"), measure([5400.0; 4], "lux"))
        .await;
    assert_eq!(trial["light"][0]["umol"], 100.0);
    assert!(finding(&trial, "edge_or_light_uneven").is_none());
    for wrong in [
        json!({ "places": [{ "level": 1, "slot": 1, "value": -3 }] }),
        json!({ "places": [{ "level": 2, "slot": 1, "value": 3 }] }),
        json!({
            "places": [{ "level": 1, "slot": 1, "value": 3 }], "scale": "lux", "kind": "moon",
        }),
    ] {
        let (status, said) = farm.text("PUT", &at("/light"), wrong).await;
        assert_eq!(status, 422, "{said}");
    }
    assert_eq!(
        farm.get(&at("")).await["light"][0]["umol"],
        100.0,
        "what was refused changed nothing"
    );
}

fn sizes(values: &[f64]) -> Value {
    let at = |(n, v): (usize, &f64)| json!({ "level": n / 4 + 1, "slot": n % 4 + 1, "value": v });
    json!({ "places": values.iter().enumerate().map(at).collect::<Vec<_>>() })
}

#[tokio::test]
async fn cuttings_are_dealt_inside_classes_of_alike_size_and_their_start_is_taken_into_account() {
    let farm = Farm::new();
    let id = farm.new_trial("Mint cuttings").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_rack(
        &farm,
        &id,
        json!({ "kind": "bench", "levels": 2, "slots": 4, "design": "by_size" }),
    )
    .await;
    let version = farm.get(&at("")).await["version"].clone();
    let (status, said) = farm
        .text("POST", &at("/deal"), json!({ "version": version }))
        .await;
    assert!(status == 422 && said.contains("starting sizes"), "{said}");
    let start = [10.0, 52.0, 21.0, 40.0, 12.0, 50.0, 20.0, 44.0];
    let trial = farm.call("PUT", &at("/starts"), sizes(&start)).await;
    assert_eq!(
        (
            trial["units_each"].as_u64(),
            trial["layout"]["per_block"].as_u64()
        ),
        (Some(4), Some(1))
    );
    let usual = |key: &str| trial["start_balance"][key].as_f64().expect("a share");
    assert!(
        usual("by_size_percent") < usual("by_level_percent"),
        "{}",
        trial["start_balance"]
    );
    let dealt = deal(&farm, &id).await;
    assert_eq!(
        dealt["start_balance"]["gap_percent"],
        Value::Null,
        "that of a sealed deal would tell the key"
    );
    assert!(text(&dealt["units"][0]["block"]).starts_with("size class "));
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let (status, said) = farm.text("PUT", &at("/starts"), sizes(&[11.0])).await;
    assert!(
        status == 409 && said.contains("deal went by them"),
        "{said}"
    );
    let treatment = key(&farm, &id).await;
    for unit in dealt["units"].as_array().expect("units") {
        let place = (unit["level"].as_u64().expect("a level") - 1) * 4
            + unit["slot"].as_u64().expect("a slot")
            - 1;
        let code = text(&unit["code"]);
        let gain = 15.0 * treatment[code] as f64;
        weigh(
            &farm,
            &id,
            code,
            50.0 + 2.0 * start[place as usize] + gain + 0.3 * wobble(place as usize),
        )
        .await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let trial = farm.get(&at("")).await;
    assert!(
        trial["start_balance"]["gap_percent"]
            .as_f64()
            .expect("a share")
            < 20.0
    );
    let judge = farm.get(&at("/judge")).await;
    let found = judge["analysis"]["contrasts"][0]["estimate"]
        .as_f64()
        .expect("a figure");
    assert!(
        (found - 15.0).abs() < 1.5,
        "the start is taken out of the difference: {found}"
    );
    let csv = farm.get(&at("/export.csv")).await;
    assert!(
        text(&csv).starts_with("unit,block,level,slot,start,treatment,"),
        "{csv}"
    );
    // The exported plan deals the same again.
    let plan = iron_twin_core::verdict::analysis_plan::AnalysisPlan::read(
        &farm.get(&at("/plan.json")).await.to_string(),
    )
    .expect("a plan");
    let again = iron_twin_core::place::deal::deal(
        plan.rack.as_ref().expect("a rack"),
        2,
        plan.seed.expect("a seed"),
    );
    for unit in again.expect("a deal") {
        let row = format!("{},size class", unit.code);
        assert!(
            text(&csv).contains(&row) && treatment[&unit.code] == unit.treatment.get(),
            "{row}"
        );
    }
}

#[tokio::test]
async fn a_deal_can_be_held_to_a_balance_and_is_judged_among_such_deals_only() {
    let farm = Farm::new();
    let id = farm.new_trial("Held to a balance").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_rack(
        &farm,
        &id,
        json!({ "levels": 2, "slots": 4, "design": "blocks" }),
    )
    .await;
    let start = [10.0, 52.0, 21.0, 40.0, 12.0, 50.0, 20.0, 44.0];
    farm.call("PUT", &at("/starts"), sizes(&start)).await;
    set_rack(&farm, &id, json!({ "within_percent": 0.001 })).await;
    let version = farm.get(&at("")).await["version"].clone();
    let (status, said) = farm
        .text("POST", &at("/deal"), json!({ "version": version }))
        .await;
    assert!(status == 422 && said.contains("the closest left"), "{said}");
    set_rack(&farm, &id, json!({ "within_percent": 8.0 })).await;
    let dealt = deal(&farm, &id).await;
    assert!(finding(&dealt, "unequal_start").is_none());
    assert!(
        dealt["ledger"]["sound"]
            .to_string()
            .contains("starting sizes dealt to lie within 8 %"),
        "{}",
        dealt["ledger"]
    );
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let treatment = key(&farm, &id).await;
    for (n, unit) in dealt["units"].as_array().expect("units").iter().enumerate() {
        let code = text(&unit["code"]);
        weigh(
            &farm,
            &id,
            code,
            100.0 + 20.0 * treatment[code] as f64 + wobble(n),
        )
        .await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let gap = farm.get(&at("")).await["start_balance"]["gap_percent"]
        .as_f64()
        .expect("a share");
    assert!(gap <= 8.0, "{gap}");
    let deals = judge["analysis"]["contrasts"][0]["randomisation"]["assignments"]
        .as_f64()
        .expect("deals");
    assert!(
        deals < 36.0,
        "of 36 deals only those within the bound: {deals}"
    );
    assert_eq!(
        farm.get(&at("/plan.json")).await["balance"]["within_percent"],
        8.0
    );
}
