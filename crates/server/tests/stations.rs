//! The line of stations as the API gives it: what stands at each, what is next, what is due, and
//! what a write changes.

use crate::farm;

use farm::{Farm, record, set_cell};
use iron_twin_core::place::deal::deal;
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::{analysis::analyse, table::read};
use serde_json::{Value, json};

fn status<'a>(trial: &'a Value, station: &str) -> &'a str {
    let found = trial["stations"]
        .as_array()
        .expect("stations")
        .iter()
        .find(|s| s["key"] == station);
    found.expect("the station")["status"]
        .as_str()
        .expect("words")
}

fn ask(trial: &Value, change: &[(&str, Value)]) -> Value {
    let mut ask = trial["ask"].clone();
    for (key, value) in change {
        ask[*key] = value.clone();
    }
    json!({ "name": trial["name"], "ask": ask, "version": trial["version"] })
}

fn date_days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

#[tokio::test]
async fn the_line_tells_where_a_trial_stands_and_where_to_go_on() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    assert_eq!(
        (trial["next"].as_str(), status(&trial, "ask")),
        (Some("ask"), "no question yet")
    );
    assert_eq!(status(&trial, "tend"), "12 days, not sown");

    let change = ask(
        &trial,
        &[
            ("question", json!("Is half enough?")),
            ("goal", json!("match")),
        ],
    );
    let trial = farm.call("PUT", &at("/ask"), change).await;
    assert_eq!(
        (trial["next"].as_str(), status(&trial, "ask")),
        (Some("place"), "match within 10 %")
    );

    let mut sheet = trial["sheet"].clone();
    sheet["treatments"][1]["conditions"]["medium"] = json!("coir mat");
    let mixed = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": sheet, "version": trial["version"] }),
        )
        .await;
    assert_eq!(
        (mixed["next"].as_str(), status(&mixed, "match")),
        (Some("match"), "2 differences")
    );
    let marks = mixed["stations"].as_array().expect("stations");
    assert_eq!(
        marks.iter().find(|s| s["key"] == "match").expect("match")["mark"],
        "wrong"
    );

    sheet["treatments"][1]["conditions"]["medium"] =
        sheet["treatments"][0]["conditions"]["medium"].clone();
    let trial = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": sheet, "version": mixed["version"] }),
        )
        .await;
    assert_eq!(status(&trial, "place"), "4 levels x 4, to deal");
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    assert_eq!(
        (dealt["next"].as_str(), status(&dealt, "place")),
        (Some("tend"), "4 levels x 4, dealt")
    );
    assert_eq!(dealt["units"].as_array().expect("units").len(), 16);

    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(12) })),
    )
    .await;
    let ripe = farm.get(&at("")).await;
    assert_eq!(
        (ripe["next"].as_str(), ripe["day"].as_u64()),
        (Some("weigh"), Some(12))
    );
    assert!(
        status(&ripe, "tend").starts_with("day 12 of 12"),
        "{}",
        status(&ripe, "tend")
    );
    assert_eq!(status(&ripe, "judge"), "sealed");
}

#[tokio::test]
async fn a_changed_sheet_or_rack_drops_the_deal_made_for_another() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": 1 }))
        .await;
    let again = farm
        .call("POST", &at("/deal"), json!({ "version": dealt["version"] }))
        .await;
    assert_ne!(
        dealt["commitment"], again["commitment"],
        "each deal has its own key"
    );
    let rack = json!({
        "rack": { "name": "tall rack", "levels": 5, "slots": 4 }, "version": again["version"],
    });
    let moved = farm.call("PUT", &at("/rack"), rack).await;
    assert!(moved["commitment"].is_null() && moved["units"].as_array().expect("units").is_empty());
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": moved["version"] }))
        .await;
    assert_eq!(dealt["units"].as_array().expect("units").len(), 20);
    let mut renamed = dealt["rack"].clone();
    renamed["name"] = json!("the same rack, named anew");
    let kept = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": renamed, "version": dealt["version"] }),
        )
        .await;
    assert_eq!(
        kept["commitment"], dealt["commitment"],
        "a new name moves no tray"
    );
    let sheet = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": kept["sheet"], "version": kept["version"] }),
        )
        .await;
    assert!(sheet["commitment"].is_null());
}

#[tokio::test]
async fn due_work_follows_what_was_really_done() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let jobs = |view: &Value| -> Vec<String> {
        let due = view["due"].as_array().expect("a list").iter();
        due.map(|d| format!("{} {}", d["job"].as_str().expect("a job"), d["late"]))
            .collect()
    };
    assert!(
        jobs(&farm.get("/today").await).is_empty(),
        "nothing is due before the deal"
    );
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": 1 }))
        .await;
    assert_eq!(jobs(&farm.get("/today").await), ["sow 0"]);
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(5) })),
    )
    .await;
    assert_eq!(
        jobs(&farm.get("/today").await),
        ["end_blackout 2", "feed 1", "read 1"]
    );
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "end_blackout" })),
    )
    .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "feed" })),
    )
    .await;
    assert_eq!(jobs(&farm.get(&at("/tend")).await), ["read 1"]);
    // A full round of pH and EC is the reading done.
    for unit in dealt["units"].as_array().expect("units") {
        for (reading, value) in [("ph", 6.1), ("ec", 1.2)] {
            let body = json!({
                "code": unit["code"], "reading": reading, "day": 5, "value": value, "version": 0,
            });
            farm.call("POST", &at("/records"), record("reading", body))
                .await;
        }
    }
    assert!(jobs(&farm.get(&at("/tend")).await).is_empty());
    let version = farm.get(&at("")).await["version"].clone();
    let care = json!({ "blackout_days": 3, "first_feed_day": 4, "feed_every": 1, "read_every": 1 });
    let changed = farm
        .call(
            "PUT",
            &at("/care"),
            json!({ "care": care, "version": version }),
        )
        .await;
    assert_eq!(changed["care"]["feed_every"], 1);
}

#[tokio::test]
async fn the_grid_walks_the_rack_and_shows_the_value_before() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call("POST", &at("/deal"), json!({ "version": 1 }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(6) })),
    )
    .await;
    let grid = farm.get(&at("/tend")).await;
    let places: Vec<(u64, u64)> = grid["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .map(|r| {
            (
                r["unit"]["level"].as_u64().expect("a level"),
                r["unit"]["slot"].as_u64().expect("a slot"),
            )
        })
        .collect();
    assert_eq!(
        &places[..5],
        [(4, 1), (4, 2), (4, 3), (4, 4), (3, 4)],
        "down the rack, to and fro"
    );
    let code = grid["rows"][0]["unit"]["code"].clone();
    let reading = |day: u64, value: Value, version: u64| {
        json!({
            "code": code, "reading": "height", "day": day, "value": value, "version": version,
        })
    };
    farm.call(
        "POST",
        &at("/records"),
        record("reading", reading(4, json!(21.0), 0)),
    )
    .await;
    farm.call(
        "POST",
        &at("/records"),
        record("reading", reading(6, Value::Null, 0)),
    )
    .await;
    let grid = farm.get(&at("/tend?day=6")).await;
    let cell = grid["rows"][0]["cells"]
        .as_array()
        .expect("cells")
        .iter()
        .find(|c| c["reading"] == "height")
        .expect("height");
    assert_eq!(
        (
            cell["missing"].as_bool(),
            cell["previous"].as_f64(),
            cell["previous_day"].as_u64()
        ),
        (Some(true), Some(21.0), Some(4))
    );
    // A day that has not come shows today instead of pretending.
    assert_eq!(farm.get(&at("/tend?day=99")).await["day"], 6);
}

#[tokio::test]
async fn the_bench_and_the_export_keep_their_numbers() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let feed = json!({
        "form": "powder", "label_per_litre": 0.6, "ml_a_unit": 500.0, "spare_percent": 0.0,
    });
    let trial = farm
        .call("PUT", &at("/feed"), json!({ "feed": feed, "version": 1 }))
        .await;
    let bench = farm.get(&at("/mix")).await;
    // The usual sheet feeds "grow feed", which Stores know as 4 mL in a litre, whatever dose was
    // typed.
    let full = &bench["treatments"][1]["tank"];
    assert_eq!(
        (
            full["volume_l"].as_f64(),
            full["measure_out"][0]["per_litre"].as_f64()
        ),
        (Some(4.0), Some(4.0))
    );
    assert_eq!(bench["treatments"][0]["tank"]["measure_out"], json!([]));
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(12) })),
    )
    .await;
    for (i, unit) in dealt["units"].as_array().expect("units").iter().enumerate() {
        let body = json!({
            "code": unit["code"], "gross_g": 300.1 + i as f64, "tare_g": 200.7, "version": 0,
        });
        farm.call("POST", &at("/records"), record("weighing", body))
            .await;
    }
    let harvest = farm.get(&at("/weigh")).await;
    assert_eq!(
        (harvest["weighed"].as_u64(), harvest["next"].is_null()),
        (Some(16), true)
    );
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let csv = farm.get(&at("/export.csv")).await;
    let lines: Vec<&str> = csv.as_str().expect("text").lines().collect();
    assert_eq!(
        lines[0],
        "unit,block,level,slot,treatment,harvest_weight_g,height_mm"
    );
    assert_eq!(lines.len(), 17);
    assert!(
        lines[1].contains("level 1,1,") && lines[1].contains(",plain water,"),
        "blocks and treatments come in order: {}",
        lines[1]
    );
    let judge = farm.get(&at("/judge")).await;
    assert_eq!(judge["analysis"]["input"]["used"], 16);
    assert!(
        judge["command"]
            .as_str()
            .expect("a command")
            .contains("--block block --margin 10%")
    );
    // The exported file under the exported plan gives the very figures of the screen.
    let plan = AnalysisPlan::read(&farm.get(&at("/plan.json")).await.to_string()).expect("a plan");
    let table = read(csv.as_str().expect("text").as_bytes(), &plan.columns(0)).expect("a table");
    let again =
        serde_json::to_value(analyse(&table, &plan.question(0)).expect("figures")).expect("JSON");
    for key in ["estimate", "low", "high", "p", "verdict", "randomisation"] {
        assert_eq!(
            again["contrasts"][0][key], judge["analysis"]["contrasts"][0][key],
            "{key}"
        );
    }
    let served = farm.get("/openapi.json").await;
    assert!(
        served["openapi"]
            .as_str()
            .expect("a version")
            .starts_with("3.1")
    );
}

/// Plans a trial of a design, grows it with these weights by treatment, and opens the key.
async fn grown(
    farm: &Farm,
    design: &str,
    levels: u32,
    slots: u32,
    crossed: bool,
    more: &[f64],
) -> (String, Value) {
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut trial = farm.get(&at("")).await;
    if crossed {
        let mut sheet = trial["sheet"].clone();
        for i in 0..2 {
            let mut other = sheet["treatments"][i].clone();
            other["name"] = json!(format!(
                "{} on coir",
                other["name"].as_str().expect("a name")
            ));
            other["control"] = json!(false);
            other["conditions"]["medium"] = json!("coir mat");
            sheet["treatments"]
                .as_array_mut()
                .expect("treatments")
                .push(other);
        }
        trial = farm
            .call(
                "PUT",
                &at("/match-sheet"),
                json!({ "sheet": sheet, "version": trial["version"] }),
            )
            .await;
        assert_eq!(
            (
                status(&trial, "match"),
                trial["differences"]["kind"].as_str()
            ),
            ("4 treatments, 2 factors crossed", Some("crossed"))
        );
    }
    let rack = json!({ "name": "rack", "levels": levels, "slots": slots, "design": design });
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(12) })),
    )
    .await;
    // The pouring sheet tells the key, so that the weights can follow the treatments.
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let names: Vec<String> = dealt["sheet"]["treatments"]
        .as_array()
        .expect("treatments")
        .iter()
        .map(|t| t["name"].as_str().expect("a name").to_owned())
        .collect();
    for (i, unit) in dealt["units"].as_array().expect("units").iter().enumerate() {
        let poured = sheet
            .as_array()
            .unwrap_or_else(|| sheet["rows"].as_array().expect("rows"));
        let name = poured
            .iter()
            .find(|r| {
                r.to_string()
                    .contains(&format!("\"{}\"", unit["code"].as_str().expect("a code")))
            })
            .and_then(|r| names.iter().rposition(|n| r["treatment"] == json!(n)))
            .expect("every unit is on the sheet");
        let noise = ((i * 7) % 5) as f64 * 0.4;
        let body = json!({
            "code": unit["code"], "gross_g": 300.0 + more[name] + noise, "tare_g": 200.0,
            "version": 0,
        });
        farm.call("POST", &at("/records"), record("weighing", body))
            .await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    (id, judge)
}

/// Each design is dealt, recorded and analysed as it was dealt, and its exported file under its
/// exported plan says the same.
#[tokio::test]
async fn every_design_flows_into_the_analysis_that_fits_it() {
    let farm = Farm::new();
    let cases = [
        (
            "completely_randomised",
            2,
            5,
            false,
            "completely randomised",
            10,
        ),
        ("pairs", 2, 5, false, "matched pairs", 8),
        ("blocks", 4, 2, false, "matched pairs", 8),
        ("latin_square", 4, 4, true, "Latin square", 16),
        ("blocks", 4, 4, true, "factorial in blocks", 16),
        (
            "completely_randomised",
            3,
            4,
            true,
            "factorial, completely randomised",
            12,
        ),
    ];
    for (design, levels, slots, crossed, name, units) in cases {
        let (id, judge) = grown(
            &farm,
            design,
            levels,
            slots,
            crossed,
            &[0.0, 4.0, 1.0, 30.0],
        )
        .await;
        let analysis = &judge["analysis"];
        assert_eq!(
            (
                analysis["design"]["name"].as_str(),
                analysis["design"]["units"].as_u64()
            ),
            (Some(name), Some(units)),
            "{judge}"
        );
        assert_eq!(
            analysis["factors"].is_null(),
            !(crossed && design != "latin_square"),
            "{name}"
        );
        let csv = farm.get(&format!("/trials/{id}/export.csv")).await;
        let plan = AnalysisPlan::read(
            &farm
                .get(&format!("/trials/{id}/plan.json"))
                .await
                .to_string(),
        )
        .expect("a plan");
        let table =
            read(csv.as_str().expect("text").as_bytes(), &plan.columns(0)).expect("a table");
        let again = serde_json::to_value(analyse(&table, &plan.question(0)).expect("figures"))
            .expect("JSON");
        assert_eq!(
            again["contrasts"][0]["p"], analysis["contrasts"][0]["p"],
            "{name}"
        );
        assert_eq!(again["design"], analysis["design"], "{name}");
        // The exported seed deals the same trays again.
        let rack = plan.rack.as_ref().expect("a rack");
        let dealt = deal(
            rack,
            plan.treatments.len(),
            plan.seed.expect("a seed after the reveal"),
        )
        .expect("a deal");
        for unit in dealt {
            let row = format!(
                "{},{},{},{},{},",
                unit.code,
                rack.block_of(unit.position, plan.treatments.len())
                    .unwrap_or_default(),
                unit.position.level,
                unit.position.slot,
                plan.treatments[unit.treatment]
            );
            assert!(csv.as_str().expect("text").contains(&row), "{name}: {row}");
        }
    }
    let (_, judge) = grown(&farm, "blocks", 4, 4, true, &[0.0, 4.0, 1.0, 40.0]).await;
    assert_eq!(judge["analysis"]["factors"]["interaction"]["found"], true);
    let said = judge["analysis"]["factors"]["sentence"]
        .as_str()
        .expect("a sentence");
    assert!(
        said.contains("only with") || said.starts_with("What "),
        "{said}"
    );
    assert!(
        judge["command"]
            .as_str()
            .expect("a command")
            .contains("--plan")
    );
}

#[tokio::test]
async fn a_design_that_no_longer_fits_becomes_blocks_again() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    // Two pairs of two treatments; every two of three would take three.
    let rack = json!({ "name": "rack", "levels": 1, "slots": 4, "design": "pairs" });
    let trial = farm
        .call("PUT", &at("/rack"), json!({ "rack": rack, "version": 1 }))
        .await;
    assert_eq!(
        (
            status(&trial, "place"),
            trial["layout"]["per_block"].as_u64(),
            trial["units_each"].as_u64()
        ),
        ("2 pairs, to deal", Some(1), Some(2))
    );
    let mut sheet = trial["sheet"].clone();
    let mut half = sheet["treatments"][1].clone();
    half["name"] = json!("half feed");
    sheet["treatments"]
        .as_array_mut()
        .expect("treatments")
        .push(half);
    let trial = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": sheet, "version": trial["version"] }),
        )
        .await;
    assert_eq!(trial["rack"]["design"], "blocks");
}

/// Measures of every kind are recorded at the shelf, exported in their columns and analysed as what
/// they are.
#[tokio::test]
async fn measures_of_every_kind_flow_from_the_shelf_to_the_verdict() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let also = json!(["first_root", "root_colour", "leaf_count", "tip_burn"]);
    let change = ask(
        &trial,
        &[
            ("question", json!("Does it sprout better?")),
            ("primary_measure", json!("germinated")),
            ("also", also),
        ],
    );
    let trial = farm.call("PUT", &at("/ask"), change).await;
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(12) })),
    )
    .await;
    let grid = farm.get(&at("/tend?day=12")).await;
    let keys: Vec<&str> = grid["readings"]
        .as_array()
        .expect("readings")
        .iter()
        .map(|r| r["key"].as_str().expect("a key"))
        .collect();
    assert_eq!(
        keys,
        [
            "ph",
            "ec",
            "germinated",
            "seeds_counted",
            "leaf_count",
            "leaves_with_tip_burn",
            "first_root",
            "root_colour"
        ],
        "pH and EC always, height not asked for"
    );
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let poured = sheet
        .as_array()
        .unwrap_or_else(|| sheet["rows"].as_array().expect("rows"))
        .clone();
    // Counted treatment by treatment: over all, a deal may leave one of them without any spread.
    let mut of_each = [0; 2];
    for unit in dealt["units"].as_array().expect("units") {
        let code = unit["code"].as_str().expect("a code");
        let own = poured
            .iter()
            .find(|r| r.to_string().contains(&format!("\"{code}\"")))
            .expect("on the sheet");
        let fed = u64::from(own["treatment"] == json!("full feed"));
        let nth = &mut of_each[fed as usize];
        let luck = (*nth * 7) % 5;
        *nth += 1;
        let mut takes = vec![
            (12, "germinated", 60 + 25 * fed + luck),
            (12, "seeds_counted", 100),
            (12, "leaf_count", 20 + 2 * luck),
            (12, "leaves_with_tip_burn", 2 + luck % 3),
            (12, "root_colour", 2 + 2 * fed + luck % 2),
        ];
        // Looked at every other day; the fed ones root four days sooner.
        for day in [4, 6, 8, 10, 12] {
            takes.push((day, "first_root", u64::from(day >= 10 - 4 * fed + luck % 2)));
        }
        for (day, reading, value) in takes {
            let body = json!({
                "code": code, "reading": reading, "day": day, "value": value, "version": 0,
            });
            farm.call("POST", &at("/records"), record("reading", body))
                .await;
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let csv = farm.get(&at("/export.csv")).await;
    assert_eq!(
        csv.as_str().expect("text").lines().next(),
        Some(
            "unit,block,level,slot,treatment,germinated,germinated_of,first_root_day,first_root_seen,first_root_after,root_colour,leaf_count,tip_burn,tip_burn_of"
        )
    );
    for (measure, kind, verdict) in [
        ("germinated", "share", "better_by_margin"),
        ("first_root", "days", "better"),
        ("root_colour", "score", "better"),
        // Luck alone: whatever the deal makes of it.
        ("leaf_count", "count", ""),
        ("tip_burn", "share", ""),
    ] {
        let judge = farm.get(&at(&format!("/judge?measure={measure}"))).await;
        assert!(
            judge["trouble"].is_null(),
            "{measure}: {}",
            judge["trouble"]
        );
        let analysis = &judge["analysis"];
        assert_eq!(
            (
                analysis["kind"].as_str(),
                analysis["input"]["used"].as_u64()
            ),
            (Some(kind), Some(16)),
            "{measure}"
        );
        let said = analysis["contrasts"][0]["verdict"]
            .as_str()
            .expect("a verdict");
        assert!(
            said.starts_with(verdict),
            "{measure}: {said}, {}",
            analysis["contrasts"][0]["sentence"]
        );
    }
    let rooted = farm.get(&at("/judge?measure=first_root")).await;
    assert!(
        rooted["analysis"]["contrasts"][0]["estimate"]
            .as_f64()
            .expect("days")
            < 0.0,
        "sooner is better"
    );
    let ledger = farm.get(&at("")).await["ledger"].to_string();
    assert!(
        !ledger.contains("looked early\",\"sev"),
        "every unit has what decides"
    );
}

/// A new trial with these treatments, each a name and what differs from the usual row.
async fn planned(
    farm: &Farm,
    name: &str,
    treatments: &[(&str, &[(&str, &str)])],
) -> (String, Value) {
    let id = farm.new_trial(name).await;
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut sheet = trial["sheet"].clone();
    let usual = sheet["treatments"][1].clone();
    let columns: Vec<Value> = treatments
        .iter()
        .enumerate()
        .map(|(i, (name, cells))| {
            let mut own = usual.clone();
            (own["name"], own["control"]) = (json!(name), json!(i == 0));
            cells
                .iter()
                .for_each(|(key, value)| set_cell(&mut own, key, value));
            own
        })
        .collect();
    sheet["treatments"] = json!(columns);
    let put = json!({ "sheet": sheet, "version": trial["version"] });
    let trial = farm
        .call("PUT", &format!("/trials/{id}/match-sheet"), put)
        .await;
    (id, trial)
}

fn codes(trial: &Value) -> Vec<&str> {
    let open = trial["ledger"]["open"].as_array().expect("findings");
    open.iter()
        .map(|f| f["code"].as_str().expect("a code"))
        .collect()
}

#[tokio::test]
async fn lamps_a_benchmark_and_a_schedule_can_each_be_planned() {
    let farm = Farm::new();
    // A lamp trial without plain water: said, then waived with a note.
    let lamps: [(&str, &[(&str, &str)]); 2] = [
        ("bar", &[("light", "white LED bar, 20 W")]),
        ("tube", &[("light", "fluorescent tube, 36 W")]),
    ];
    let (id, trial) = planned(&farm, "Which lamp?", &lamps).await;
    assert_eq!(
        trial["differences"],
        json!({ "kind": "one", "factor": "lamp" })
    );
    assert!(
        codes(&trial).contains(&"hidden_difference"),
        "the tube is dimmer: {:?}",
        codes(&trial)
    );
    let mut sheet = trial["sheet"].clone();
    sheet["waiver"] = json!("all are fed alike");
    let put = json!({ "sheet": sheet, "version": trial["version"] });
    let trial = farm
        .call("PUT", &format!("/trials/{id}/match-sheet"), put)
        .await;
    let waived = trial["ledger"]["open"].to_string();
    assert!(
        waived.contains("waived: all are fed alike") && waived.contains("\"minor\""),
        "{waived}"
    );

    // A known-good benchmark beside the control.
    let plain: &[(&str, &str)] = &[("feed", "none"), ("dose", "0")];
    let bench: [(&str, &[(&str, &str)]); 3] = [
        ("water", plain),
        ("usual", &[]),
        ("half", &[("dose", "0.5")]),
    ];
    let (_, trial) = planned(&farm, "Half the dose", &bench).await;
    let kinds: Vec<&str> = trial["controls"]
        .as_array()
        .expect("controls")
        .iter()
        .map(|c| c["kind"].as_str().expect("a kind"))
        .collect();
    assert_eq!(kinds, ["plain_water", "usual_practice"]);

    // A treatment that is a schedule: the pouring sheet says whose turn it is.
    let turns: [(&str, &[(&str, &str)]); 2] = [
        ("often", &[("days", "1, 2, 3, 4")]),
        ("seldom", &[("days", "2, 4")]),
    ];
    let (id, trial) = planned(&farm, "How often?", &turns).await;
    assert_eq!(trial["differences"]["factor"], "schedule");
    let trial = farm
        .call(
            "POST",
            &format!("/trials/{id}/deal"),
            json!({ "version": trial["version"] }),
        )
        .await;
    assert!(trial["commitment"].is_string());
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": date_days_ago(1) })),
    )
    .await;
    let due = farm.get(&format!("/trials/{id}/tend")).await["due"].clone();
    assert!(
        due.as_array()
            .expect("work")
            .iter()
            .any(|d| d["job"] == "feed"),
        "{due}"
    );
    let poured = farm
        .call("POST", &format!("/trials/{id}/pouring-sheet"), Value::Null)
        .await;
    assert_eq!(
        (poured[0]["today"].as_bool(), poured[1]["today"].as_bool()),
        (Some(true), Some(false))
    );
    let materials = farm.get(&format!("/trials/{id}/materials")).await;
    let water = materials
        .as_array()
        .expect("a list")
        .iter()
        .find(|m| m["kind"] == "water")
        .expect("water");
    // Four turns and two, of eight trays and a tenth more at a quarter of a litre.
    assert!(
        (water["amount"].as_f64().expect("litres") - 6.0 * 2.2).abs() < 1e-9,
        "{water}"
    );
}

#[tokio::test]
async fn own_finished_trials_give_the_spread_of_the_next() {
    let farm = Farm::new();
    let finish = |crop: &'static str| {
        let farm = &farm;
        async move {
            let id = farm.new_trial("Kohlrabi").await;
            let trial = farm.get(&format!("/trials/{id}")).await;
            farm.call(
                "PUT",
                &format!("/trials/{id}/ask"),
                ask(&trial, &[("crop", json!(crop))]),
            )
            .await;
            let trial = farm.get(&format!("/trials/{id}")).await;
            farm.call(
                "POST",
                &format!("/trials/{id}/deal"),
                json!({ "version": trial["version"] }),
            )
            .await;
            farm.call(
                "POST",
                &format!("/trials/{id}/records"),
                record("work", json!({ "job": "sow", "date": date_days_ago(12) })),
            )
            .await;
            let trial = farm.get(&format!("/trials/{id}")).await;
            for (i, unit) in trial["units"].as_array().expect("units").iter().enumerate() {
                let gross = 300.0 + [0.0, 9.0, 4.0, 17.0, 2.0, 12.0][i % 6];
                let body = json!({
                    "code": unit["code"], "gross_g": gross, "tare_g": 200.0, "version": 0,
                    "confirmed": true,
                });
                farm.call(
                    "POST",
                    &format!("/trials/{id}/records"),
                    record("weighing", body),
                )
                .await;
            }
            farm.call(
                "POST",
                &format!("/trials/{id}/reveal"),
                json!({ "reason": "tried out" }),
            )
            .await;
            farm.get(&format!("/trials/{id}/judge")).await["analysis"]["residual"].clone()
        }
    };
    let residual = finish("kohlrabi").await;
    finish("something else").await;
    let id = farm.new_trial("Kohlrabi again").await;
    let trial = farm.get(&format!("/trials/{id}")).await;
    assert_eq!(
        trial["spread"]["trials"], 0,
        "no crop said, the usual figure"
    );
    let trial = farm
        .call(
            "PUT",
            &format!("/trials/{id}/ask"),
            ask(&trial, &[("crop", json!(" Kohlrabi "))]),
        )
        .await;
    assert_eq!(trial["spread"]["trials"], 1);
    let (own, first) = (
        trial["spread"]["cv_percent"].as_f64(),
        residual["cv_percent"].as_f64(),
    );
    assert!((own.expect("a spread") - first.expect("a spread")).abs() < 1e-9);
}
