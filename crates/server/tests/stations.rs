//! The line of stations as the API gives it: what stands at each, what is next, what is due, and what a write changes.

use axum::Router;
use axum::body::Body;
use axum::http::{Request, header};
use iron_twin_server::{App, router};
use iron_twin_store::Store;
use serde_json::{Value, json};
use tower::ServiceExt;

struct Farm {
    router: Router,
    _folder: tempfile::TempDir,
}

impl Farm {
    fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("trials.sqlite")).expect("a store");
        Self { router: router(App::new(store)), _folder: folder }
    }

    async fn call(&self, method: &str, path: &str, body: Value) -> Value {
        let request = Request::builder().method(method).uri(format!("/api/v1{path}")).header(header::HOST, "localhost");
        let body = if body.is_null() { Body::empty() } else { Body::from(body.to_string()) };
        let response = self.router.clone().oneshot(request.body(body).expect("a request")).await.expect("an answer");
        let status = response.status();
        let bytes = axum::body::to_bytes(response.into_body(), 1 << 22).await.expect("a body");
        let text = String::from_utf8_lossy(&bytes).into_owned();
        assert!(status.is_success(), "{method} {path}: {status} {text}");
        serde_json::from_str(&text).unwrap_or(Value::String(text))
    }

    async fn get(&self, path: &str) -> Value {
        self.call("GET", path, Value::Null).await
    }

    async fn new_trial(&self, name: &str) -> String {
        self.call("POST", "/trials", json!({ "name": name })).await["id"].as_str().expect("an id").to_owned()
    }
}

fn status<'a>(trial: &'a Value, station: &str) -> &'a str {
    let found = trial["stations"].as_array().expect("stations").iter().find(|s| s["key"] == station);
    found.expect("the station")["status"].as_str().expect("words")
}

fn ask(trial: &Value, change: &[(&str, Value)]) -> Value {
    let mut ask = trial["ask"].clone();
    for (key, value) in change {
        ask[*key] = value.clone();
    }
    json!({ "name": trial["name"], "ask": ask, "version": trial["version"] })
}

fn date_days_ago(days: i64) -> String {
    jiff::Zoned::now().date().checked_sub(jiff::Span::new().days(days)).expect("a date").to_string()
}

#[tokio::test]
async fn the_line_tells_where_a_trial_stands_and_where_to_go_on() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    assert_eq!((trial["next"].as_str(), status(&trial, "ask")), (Some("ask"), "no question yet"));
    assert_eq!(status(&trial, "tend"), "12 days, not sown");

    let change = ask(&trial, &[("question", json!("Is half enough?")), ("goal", json!("match"))]);
    let trial = farm.call("PUT", &at("/ask"), change).await;
    assert_eq!((trial["next"].as_str(), status(&trial, "ask")), (Some("place"), "match within 10 %"));

    let mut sheet = trial["sheet"].clone();
    let row = sheet["conditions"].as_array().expect("rows").iter().position(|c| c == "medium").expect("medium");
    sheet["treatments"][1]["values"][row] = json!("coir mat");
    let mixed = farm.call("PUT", &at("/match-sheet"), json!({ "sheet": sheet, "version": trial["version"] })).await;
    assert_eq!((mixed["next"].as_str(), status(&mixed, "match")), (Some("match"), "2 differences"));
    let marks = mixed["stations"].as_array().expect("stations");
    assert_eq!(marks.iter().find(|s| s["key"] == "match").expect("match")["mark"], "wrong");

    sheet["treatments"][1]["values"][row] = sheet["treatments"][0]["values"][row].clone();
    let trial = farm.call("PUT", &at("/match-sheet"), json!({ "sheet": sheet, "version": mixed["version"] })).await;
    assert_eq!(status(&trial, "place"), "4 levels x 4, to deal");
    let dealt = farm.call("POST", &at("/deal"), json!({ "version": trial["version"] })).await;
    assert_eq!((dealt["next"].as_str(), status(&dealt, "place")), (Some("tend"), "4 levels x 4, dealt"));
    assert_eq!(dealt["units"].as_array().expect("units").len(), 16);

    farm.call("POST", &at("/jobs"), json!({ "job": "sow", "date": date_days_ago(12) })).await;
    let ripe = farm.get(&at("")).await;
    assert_eq!((ripe["next"].as_str(), ripe["day"].as_u64()), (Some("weigh"), Some(12)));
    assert!(status(&ripe, "tend").starts_with("day 12 of 12"), "{}", status(&ripe, "tend"));
    assert_eq!(status(&ripe, "judge"), "sealed");
}

#[tokio::test]
async fn a_changed_sheet_or_rack_drops_the_deal_made_for_another() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let dealt = farm.call("POST", &at("/deal"), json!({ "version": 1 })).await;
    let again = farm.call("POST", &at("/deal"), json!({ "version": dealt["version"] })).await;
    assert_ne!(dealt["commitment"], again["commitment"], "each deal has its own key");
    let rack = json!({ "rack": { "name": "tall rack", "levels": 5, "slots": 4 }, "version": again["version"] });
    let moved = farm.call("PUT", &at("/rack"), rack).await;
    assert!(moved["commitment"].is_null() && moved["units"].as_array().expect("units").is_empty());
    let dealt = farm.call("POST", &at("/deal"), json!({ "version": moved["version"] })).await;
    assert_eq!(dealt["units"].as_array().expect("units").len(), 20);
    let mut renamed = dealt["rack"].clone();
    renamed["name"] = json!("the same rack, named anew");
    let kept = farm.call("PUT", &at("/rack"), json!({ "rack": renamed, "version": dealt["version"] })).await;
    assert_eq!(kept["commitment"], dealt["commitment"], "a new name moves no tray");
    let sheet =
        farm.call("PUT", &at("/match-sheet"), json!({ "sheet": kept["sheet"], "version": kept["version"] })).await;
    assert!(sheet["commitment"].is_null());
}

#[tokio::test]
async fn due_work_follows_what_was_really_done() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let jobs = |view: &Value| -> Vec<String> {
        let due = view["due"].as_array().expect("a list").iter();
        due.map(|d| format!("{} {}", d["job"].as_str().expect("a job"), d["late"])).collect()
    };
    assert!(jobs(&farm.get("/today").await).is_empty(), "nothing is due before the deal");
    let dealt = farm.call("POST", &at("/deal"), json!({ "version": 1 })).await;
    assert_eq!(jobs(&farm.get("/today").await), ["sow 0"]);
    farm.call("POST", &at("/jobs"), json!({ "job": "sow", "date": date_days_ago(5) })).await;
    assert_eq!(jobs(&farm.get("/today").await), ["end_blackout 2", "feed 1", "read 1"]);
    farm.call("POST", &at("/jobs"), json!({ "job": "end_blackout" })).await;
    farm.call("POST", &at("/jobs"), json!({ "job": "feed" })).await;
    assert_eq!(jobs(&farm.get(&at("/tend")).await), ["read 1"]);
    // A full round of pH and EC is the reading done.
    for unit in dealt["units"].as_array().expect("units") {
        for (reading, value) in [("ph", 6.1), ("ec", 1.2)] {
            let body = json!({ "code": unit["code"], "reading": reading, "day": 5, "value": value, "version": 0 });
            farm.call("POST", &at("/readings"), body).await;
        }
    }
    assert!(jobs(&farm.get(&at("/tend")).await).is_empty());
    let version = farm.get(&at("")).await["version"].clone();
    let care = json!({ "blackout_days": 3, "first_feed_day": 4, "feed_every": 1, "read_every": 1 });
    let changed = farm.call("PUT", &at("/care"), json!({ "care": care, "version": version })).await;
    assert_eq!(changed["care"]["feed_every"], 1);
}

#[tokio::test]
async fn the_grid_walks_the_rack_and_shows_the_value_before() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohlrabi").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call("POST", &at("/deal"), json!({ "version": 1 })).await;
    farm.call("POST", &at("/jobs"), json!({ "job": "sow", "date": date_days_ago(6) })).await;
    let grid = farm.get(&at("/tend")).await;
    let places: Vec<(u64, u64)> = grid["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .map(|r| (r["unit"]["level"].as_u64().expect("a level"), r["unit"]["slot"].as_u64().expect("a slot")))
        .collect();
    assert_eq!(&places[..5], [(4, 1), (4, 2), (4, 3), (4, 4), (3, 4)], "down the rack, to and fro");
    let code = grid["rows"][0]["unit"]["code"].clone();
    let reading = |day: u64, value: Value, version: u64| json!({ "code": code, "reading": "height", "day": day, "value": value, "version": version });
    farm.call("POST", &at("/readings"), reading(4, json!(21.0), 0)).await;
    farm.call("POST", &at("/readings"), reading(6, Value::Null, 0)).await;
    let grid = farm.get(&at("/tend?day=6")).await;
    let cell =
        grid["rows"][0]["cells"].as_array().expect("cells").iter().find(|c| c["reading"] == "height").expect("height");
    assert_eq!(
        (cell["missing"].as_bool(), cell["previous"].as_f64(), cell["previous_day"].as_u64()),
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
    let feed = json!({ "form": "powder", "label_per_litre": 0.6, "ml_a_unit": 500.0, "spare_percent": 0.0 });
    let trial = farm.call("PUT", &at("/feed"), json!({ "feed": feed, "version": 1 })).await;
    let bench = farm.get(&at("/mix")).await;
    let full = &bench["treatments"][1]["dilution"];
    assert_eq!((full["volume_l"].as_f64(), full["per_litre"].as_f64()), (Some(4.0), Some(0.6)));
    assert!(full["teaspoons_per_us_gallon"].is_null(), "a spoon of powder has no fixed weight");
    assert_eq!(bench["treatments"][0]["dilution"]["feed_total"], 0.0);
    let dealt = farm.call("POST", &at("/deal"), json!({ "version": trial["version"] })).await;
    farm.call("POST", &at("/jobs"), json!({ "job": "sow", "date": date_days_ago(12) })).await;
    for (i, unit) in dealt["units"].as_array().expect("units").iter().enumerate() {
        let body = json!({ "code": unit["code"], "gross_g": 300.1 + i as f64, "tare_g": 200.7, "version": 0 });
        farm.call("POST", &at("/weighings"), body).await;
    }
    let harvest = farm.get(&at("/weigh")).await;
    assert_eq!((harvest["weighed"].as_u64(), harvest["next"].is_null()), (Some(16), true));
    farm.call("POST", &at("/reveal"), Value::Null).await;
    let csv = farm.get(&at("/export.csv")).await;
    let lines: Vec<&str> = csv.as_str().expect("text").lines().collect();
    assert_eq!(lines[0], "unit,block,treatment,harvest_weight_g,height_mm");
    assert_eq!(lines.len(), 17);
    assert!(lines[1].contains("level 1,plain water,"), "blocks and treatments come in order: {}", lines[1]);
    let judge = farm.get(&at("/judge")).await;
    assert_eq!(judge["analysis"]["input"]["used"], 16);
    assert!(judge["command"].as_str().expect("a command").contains("--block block --margin 10%"));
    let served = farm.get("/openapi.json").await;
    assert!(served["openapi"].as_str().expect("a version").starts_with("3.1"));
}
