//! The sealed deal: whatever a recorder and a viewer can read, every admissible deal remains
//! possible. Under each of them the program is asked for everything, and answers the same.

use crate::farm;

use farm::{Farm, record};
use iron_twin_core::place::deal::{Dealt, deal, ways};
use iron_twin_core::trial::space::Rack;
use iron_twin_server::openapi;
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// Five designs small enough to go through every deal: the change of the rack, and the number of
/// its deals.
fn designs() -> [(&'static str, Value, f64); 5] {
    [
        (
            "blocks with measured light and starts",
            json!({ "design": "blocks", "levels": 2, "slots": 4 }),
            36.0,
        ),
        (
            "six against two",
            json!({
                "design": "completely_randomised", "levels": 2, "slots": 4, "numbers": [6, 2],
            }),
            28.0,
        ),
        (
            "pairs",
            json!({ "design": "pairs", "levels": 2, "slots": 4 }),
            16.0,
        ),
        (
            "size classes",
            json!({ "design": "by_size", "levels": 2, "slots": 4 }),
            16.0,
        ),
        (
            "a lamp for each level",
            json!({ "design": "fixtures", "levels": 4, "slots": 2 }),
            6.0,
        ),
    ]
}

async fn set_rack(farm: &Farm, id: &str, change: &Value) {
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
    .await;
}

/// A dealt and sown trial with starting sizes, light, a mix, readings that tell nothing, and some
/// weights.
async fn trial(farm: &Farm, change: &Value) -> String {
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_rack(farm, &id, change).await;
    let (levels, slots) = (
        change["levels"].as_u64().expect("levels"),
        change["slots"].as_u64().expect("slots"),
    );
    let each = |first: f64, step: f64| -> Vec<Value> {
        let places = (1..=levels).flat_map(|level| (1..=slots).map(move |slot| (level, slot)));
        let value = |n: usize| first + step * ((n * 5) % 8) as f64;
        places
            .enumerate()
            .map(|(n, (l, s))| json!({ "level": l, "slot": s, "value": value(n) }))
            .collect()
    };
    farm.call("PUT", &at("/starts"), json!({ "places": each(20.0, 4.0) }))
        .await;
    farm.call(
        "PUT",
        &at("/light"),
        json!({ "places": each(90.0, 15.0), "scale": "umol" }),
    )
    .await;
    let version = farm.get(&at("")).await["version"].clone();
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": version }))
        .await;
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(5))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    let mix = json!({ "treatment": 1, "volume_l": 2.0, "feed_total": 8.0, "ec": 1.7, "ph": 6.0 });
    farm.call("POST", &at("/mixes"), mix).await;
    let codes: Vec<Value> = dealt["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].clone())
        .collect();
    for code in &codes {
        let reading =
            json!({ "code": code, "reading": "ph", "day": 4, "value": 6.1, "version": 0 });
        farm.call("POST", &at("/records"), record("reading", reading))
            .await;
    }
    farm.call(
        "POST",
        &at("/records"),
        record(
            "write_off",
            json!({ "code": codes[0], "reason": "dropped" }),
        ),
    )
    .await;
    for code in &codes[1..4] {
        let weight = json!({
            "code": code, "gross_g": 300.0, "tare_g": 200.0, "version": 0, "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("weighing", weight))
            .await;
    }
    id
}

/// Everything that can be read of the trial.
fn readable(id: &str) -> Vec<String> {
    let document: Value = serde_json::from_str(&openapi()).expect("JSON");
    let paths = document["paths"].as_object().expect("paths");
    let get = paths
        .iter()
        .filter(|(_, methods)| methods.get("get").is_some());
    let filled = get.map(|(path, _)| {
        path.strip_prefix("/api/v1")
            .expect("the prefix")
            .replace("{id}", id)
    });
    let labelled = |p: String| {
        if p.ends_with("/labels") {
            format!("{p}?base=http://localhost")
        } else {
            p
        }
    };
    // What instruments show knows no trial, and its stream does not end.
    filled
        .filter(|p| !p.contains('{') && p != "/instruments/live")
        .map(labelled)
        .collect()
}

/// Puts another deal into the data file, and starts the program anew.
fn redeal(farm: &mut Farm, dealt: &[Dealt]) {
    let data = rusqlite::Connection::open(farm.file()).expect("the file");
    for unit in dealt {
        let keys = (
            unit.treatment.get() as i64,
            unit.position.level,
            unit.position.slot,
        );
        let changed = data.execute(
            "UPDATE unit SET treatment = ?1 WHERE level = ?2 AND slot = ?3",
            keys,
        );
        assert_eq!(changed.expect("a change"), 1);
    }
    drop(data);
    farm.started_anew();
}

#[tokio::test]
async fn every_admissible_deal_remains_possible_to_who_may_not_know_it() {
    for (name, change, number) in designs() {
        let mut farm = Farm::new();
        let id = trial(&farm, &change).await;
        farm.person("Ada", "owner").await;
        let people = [
            farm.person("Rec", "recorder").await,
            farm.person("Vi", "viewer").await,
        ];
        let rack: Rack =
            serde_json::from_value(farm.get(&format!("/trials/{id}")).await["rack"].clone())
                .expect("a rack");
        assert_eq!(ways(&rack, 2), number, "{name}");
        let mut deals: BTreeMap<Vec<usize>, Vec<Dealt>> = BTreeMap::new();
        for seed in 0.. {
            let dealt = deal(&rack, 2, seed).expect("a deal");
            deals.insert(dealt.iter().map(|u| u.treatment.get()).collect(), dealt);
            if deals.len() as f64 >= number {
                break;
            }
        }
        let (mut first, mut seen): (Option<Vec<String>>, usize) = (None, 0);
        for dealt in deals.values() {
            redeal(&mut farm, dealt);
            let mut answers = Vec::new();
            for cookie in &people {
                for path in readable(&id) {
                    let (status, text) = farm.text_as(cookie, "GET", &path, Value::Null).await;
                    seen += usize::from(status.is_success());
                    // The calendar says when it was asked for.
                    let text: Vec<&str> = text
                        .lines()
                        .filter(|line| !line.starts_with("DTSTAMP"))
                        .collect();
                    answers.push(format!("{path} {status} {}", text.join("\n")));
                }
            }
            let before = first.get_or_insert_with(|| answers.clone());
            for (now, then) in answers.iter().zip(before.iter()) {
                assert!(
                    now == then,
                    "{name}: this answer tells one deal from another\n{now}\n{then}"
                );
            }
        }
        assert!(
            seen > 25 * deals.len(),
            "{name}: {seen} answers under {} deals",
            deals.len()
        );
    }
}
