//! The API through the real router: answers, problems with their codes, and the blind.

use crate::sent;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use iron_twin_server::{App, bind, openapi, router};
use iron_twin_store::Store;
use sent::record;
use serde_json::{Value, json};
use tower::ServiceExt;

struct Bench {
    router: Router,
    _folder: tempfile::TempDir,
}

impl Bench {
    fn new() -> Self {
        Self::with(|app| app)
    }

    fn with(make: impl FnOnce(App) -> App) -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("trials.sqlite")).expect("a store");
        Self {
            router: router(make(App::new(store))),
            _folder: folder,
        }
    }

    async fn raw(&self, request: Request<Body>) -> (StatusCode, String, String) {
        let response = self
            .router
            .clone()
            .oneshot(request)
            .await
            .expect("an answer");
        let status = response.status();
        let kind = response
            .headers()
            .get(header::CONTENT_TYPE)
            .map_or("", |v| v.to_str().unwrap_or(""))
            .to_owned();
        let bytes = axum::body::to_bytes(response.into_body(), 1 << 22)
            .await
            .expect("a body");
        (status, kind, String::from_utf8_lossy(&bytes).into_owned())
    }

    async fn ask(&self, method: &str, path: &str, body: Option<Value>) -> (StatusCode, Value) {
        let request = Request::builder()
            .method(method)
            .uri(path)
            .header(header::HOST, "localhost");
        let body = body.map_or_else(Body::empty, |b| Body::from(b.to_string()));
        let (status, _, text) = self.raw(request.body(body).expect("a request")).await;
        (
            status,
            serde_json::from_str(&text).unwrap_or(Value::String(text)),
        )
    }

    async fn ok(&self, method: &str, path: &str, body: Option<Value>) -> Value {
        let (status, value) = self.ask(method, path, body).await;
        assert!(status.is_success(), "{method} {path}: {status} {value}");
        value
    }

    async fn problem(&self, method: &str, path: &str, body: Option<Value>) -> (u16, String) {
        let (status, value) = self.ask(method, path, body).await;
        assert!(!status.is_success(), "{method} {path}: {value}");
        // That of a record stands in the answer to its list.
        let value = value["records"]
            .get(0)
            .map_or(value.clone(), |own| own["problem"].clone());
        assert_eq!(value["status"], status.as_u16());
        assert!(value["detail"].as_str().is_some_and(|d| !d.is_empty()));
        (
            status.as_u16(),
            value["code"].as_str().expect("a code").to_owned(),
        )
    }

    /// A dealt and sown trial on two levels, day 0 long past.
    async fn sown(&self) -> (String, Vec<String>) {
        let trial = self
            .ok(
                "POST",
                "/api/v1/trials",
                Some(json!({ "name": "Kohlrabi" })),
            )
            .await;
        let id = trial["id"].as_str().expect("an id").to_owned();
        let rack = json!({ "rack": { "name": "rack", "levels": 2, "slots": 2 }, "version": 1 });
        self.ok("PUT", &format!("/api/v1/trials/{id}/rack"), Some(rack))
            .await;
        let dealt = self
            .ok(
                "POST",
                &format!("/api/v1/trials/{id}/deal"),
                Some(json!({ "version": 2 })),
            )
            .await;
        let job = json!({ "job": "sow", "date": "2026-01-01" });
        self.ok(
            "POST",
            &format!("/api/v1/trials/{id}/records"),
            Some(record("work", job)),
        )
        .await;
        let codes = dealt["units"].as_array().expect("units").iter();
        (
            id,
            codes
                .map(|u| u["code"].as_str().expect("a code").to_owned())
                .collect(),
        )
    }
}

#[tokio::test]
async fn each_problem_has_its_code() {
    let bench = Bench::new();
    let (id, codes) = bench.sown().await;
    let at = |rest: &str| format!("/api/v1/trials/{id}/{rest}");
    let reading = |value: f64, version: i64| {
        let own = json!({
            "code": codes[0], "reading": "ph", "day": 1, "value": value, "version": version,
        });
        Some(record("reading", own))
    };
    bench.ok("POST", &at("records"), reading(6.1, 0)).await;
    let cases = [
        (
            "GET",
            "/api/v1/trials/nobody".to_owned(),
            None,
            404,
            "not_found",
        ),
        ("GET", "/api/v1/nowhere".to_owned(), None, 404, "not_found"),
        (
            "POST",
            "/api/v1/trials".to_owned(),
            Some(json!({ "name": " " })),
            422,
            "refused",
        ),
        (
            "POST",
            "/api/v1/trials".to_owned(),
            Some(json!({ "nom": "x" })),
            400,
            "bad_request",
        ),
        ("POST", at("records"), reading(61.0, 1), 422, "refused"),
        ("POST", at("records"), reading(9.2, 1), 422, "unlikely"),
        ("POST", at("records"), reading(6.3, 0), 409, "stale"),
        (
            "POST",
            at("deal"),
            Some(json!({ "version": 3 })),
            409,
            "locked",
        ),
        ("POST", at("reveal"), None, 409, "locked"),
        ("GET", at("judge?measure=luck"), None, 404, "not_found"),
        (
            "POST",
            "/api/v1/picture".to_owned(),
            Some(json!({
                "layout": { "treatments": 2, "per_block": 0 }, "units": 4, "cv_percent": -1.0,
                "margin_percent": 10.0,
            })),
            422,
            "cannot_compute",
        ),
    ];
    for (method, path, body, status, code) in cases {
        assert_eq!(
            bench.problem(method, &path, body).await,
            (status, code.to_owned()),
            "{method} {path}"
        );
    }
    bench.ok("POST", &at("undo"), None).await;
    bench.ok("POST", &at("undo"), None).await;
    assert_eq!(
        bench.problem("POST", &at("undo"), None).await,
        (409, "nothing_to_undo".into())
    );
}

#[tokio::test]
async fn retries_are_answered_once() {
    let bench = Bench::new();
    let (id, codes) = bench.sown().await;
    let send = |gross: f64| {
        let own = json!({
            "key": "once", "code": codes[0], "gross_g": gross, "tare_g": 20.0, "version": 0,
        });
        let body = record("weighing", own);
        let request = Request::builder()
            .method("POST")
            .uri(format!("/api/v1/trials/{id}/records"))
            .header(header::HOST, "localhost");
        bench.raw(
            request
                .body(Body::from(body.to_string()))
                .expect("a request"),
        )
    };
    assert_eq!(send(120.0).await.0, StatusCode::OK);
    assert_eq!(send(120.0).await.0, StatusCode::OK);
    let (status, kind, text) = send(121.0).await;
    assert_eq!(
        (status, kind.as_str()),
        (StatusCode::UNPROCESSABLE_ENTITY, "application/json")
    );
    assert!(text.contains("key_reused"), "{text}");
}

/// Every text that stands as a value in an answer.
fn texts<'a>(value: &'a Value, found: &mut Vec<&'a str>) {
    match value {
        Value::String(text) => found.push(text),
        Value::Array(list) => list.iter().for_each(|v| texts(v, found)),
        Value::Object(map) => map.values().for_each(|v| texts(v, found)),
        _ => {}
    }
}

/// Everything a recorder may ask for, before the reveal.
const READS: [&str; 8] = [
    "",
    "/mix",
    "/tend",
    "/weigh",
    "/judge",
    "/judge?measure=height",
    "/export.csv",
    "/plan.json",
];

#[tokio::test]
async fn the_blind_holds_on_every_read_until_the_reveal() {
    let bench = Bench::new();
    let (id, codes) = bench.sown().await;
    for (i, code) in codes.iter().enumerate() {
        let body =
            json!({ "code": code, "gross_g": 120.0 + i as f64, "tare_g": 20.0, "version": 0 });
        bench
            .ok(
                "POST",
                &format!("/api/v1/trials/{id}/records"),
                Some(record("weighing", body)),
            )
            .await;
    }
    let mut sealed = Value::Null;
    for path in READS {
        let (_, value) = bench
            .ask("GET", &format!("/api/v1/trials/{id}{path}"), None)
            .await;
        let text = value.to_string();
        assert!(
            !text.contains("\"seed\":") && !text.contains("nonce"),
            "{path}: {text}"
        );
        if path.is_empty() {
            sealed = value["commitment"].clone();
            assert!(
                value["units"]
                    .as_array()
                    .expect("units")
                    .iter()
                    .all(|u| u["treatment"].is_null()),
                "{path}"
            );
            let order: Vec<_> = value["units"]
                .as_array()
                .unwrap()
                .iter()
                .map(|u| u["code"].to_string())
                .collect();
            assert!(order.is_sorted(), "units come in the order of their codes");
        }
        if !path.is_empty() && path != "/mix" {
            assert!(
                !text.contains("full feed") && !text.contains("plain water"),
                "{path}: {text}"
            );
        }
        if path == "/mix" {
            // Letters of elements are keys there; as a value none may stand.
            let mut values = Vec::new();
            texts(&value, &mut values);
            assert!(
                !codes.iter().any(|c| values.contains(&c.as_str())),
                "{path}: {text}"
            );
        }
    }
    let open = bench
        .ok(
            "POST",
            &format!("/api/v1/trials/{id}/reveal"),
            Some(json!({ "reason": "tried out" })),
        )
        .await;
    assert_eq!(open["reveal"]["verified"], true);
    assert_eq!(open["commitment"], sealed);
    assert!(
        open["units"]
            .as_array()
            .expect("units")
            .iter()
            .all(|u| u["treatment"].is_number())
    );
    let judge = bench
        .ok("GET", &format!("/api/v1/trials/{id}/judge"), None)
        .await;
    assert_eq!(
        judge["analysis"]["contrasts"]
            .as_array()
            .expect("contrasts")
            .len(),
        1
    );
}

#[tokio::test]
async fn the_pouring_sheet_tells_the_key_and_says_so() {
    let bench = Bench::new();
    let (id, codes) = bench.sown().await;
    let sheet = bench
        .ok("POST", &format!("/api/v1/trials/{id}/pouring-sheet"), None)
        .await;
    let poured: usize = sheet
        .as_array()
        .expect("a list")
        .iter()
        .map(|p| p["codes"].as_array().unwrap().len())
        .sum();
    assert_eq!(poured, codes.len());
    let body = json!({ "code": codes[0], "reading": "ph", "day": 1, "value": 6.0, "version": 0 });
    bench
        .ok(
            "POST",
            &format!("/api/v1/trials/{id}/records"),
            Some(record("reading", body)),
        )
        .await;
    let trial = bench.ok("GET", &format!("/api/v1/trials/{id}"), None).await;
    let open: Vec<_> = trial["ledger"]["open"]
        .as_array()
        .unwrap()
        .iter()
        .map(|f| f["code"].clone())
        .collect();
    assert!(open.contains(&json!("not_blind")), "{open:?}");
}

#[tokio::test]
async fn foreign_pages_get_nothing() {
    let bench = Bench::new();
    let foreign = Request::get("/api/v1/today")
        .header(header::HOST, "farm.example.org")
        .body(Body::empty())
        .unwrap();
    assert_eq!(bench.raw(foreign).await.0, StatusCode::FORBIDDEN);
    let posted = Request::post("/api/v1/trials")
        .header(header::HOST, "localhost:4747")
        .header(header::ORIGIN, "http://elsewhere.example")
        .body(Body::from("{\"name\":\"x\"}"))
        .unwrap();
    assert_eq!(bench.raw(posted).await.0, StatusCode::FORBIDDEN);
    let own = Request::post("/api/v1/trials")
        .header(header::HOST, "localhost:4747")
        .header(header::ORIGIN, "http://localhost:4747")
        .body(Body::from("{\"name\":\"x\"}"))
        .unwrap();
    assert_eq!(bench.raw(own).await.0, StatusCode::CREATED);
}

#[tokio::test]
async fn other_addresses_and_taken_ports_are_refused_with_a_remedy() {
    let open = bind("0.0.0.0:0".parse().unwrap(), false)
        .await
        .unwrap_err()
        .to_string();
    assert!(open.contains("127.0.0.1"), "{open}");
    let first = bind("127.0.0.1:0".parse().unwrap(), false).await.unwrap();
    let taken = bind(first.local_addr().unwrap(), false)
        .await
        .unwrap_err()
        .to_string();
    assert!(taken.contains("--port"), "{taken}");
}

/// The page's types are generated from this file: it must be what the binary serves.
#[test]
fn the_openapi_document_is_fresh() {
    let stored = include_str!("../../../web/openapi.json");
    assert!(stored.trim() == openapi().trim(), "run: cargo xtask types");
    let document: Value = serde_json::from_str(stored).expect("JSON");
    assert!(
        document["openapi"]
            .as_str()
            .is_some_and(|v| v.starts_with("3.1"))
    );
    let mut ids = Vec::new();
    for path in document["paths"].as_object().expect("paths").values() {
        ids.extend(
            path.as_object()
                .expect("methods")
                .values()
                .map(|m| m["operationId"].to_string()),
        );
    }
    let count = ids.len();
    ids.sort();
    ids.dedup();
    assert_eq!(
        ids.len(),
        count,
        "operation ids must be unique: the page's types hang on them"
    );
}

#[tokio::test]
async fn examples_are_for_an_empty_farm_and_can_be_put_away() {
    let bench = Bench::with(|app| app.with_examples(iron_twin_demo::add_examples));
    let heads = bench.ok("POST", "/api/v1/examples", None).await;
    let ids: Vec<&str> = heads
        .as_array()
        .expect("heads")
        .iter()
        .map(|h| h["id"].as_str().expect("an id"))
        .collect();
    assert_eq!(ids.len(), 4);
    let (status, problem) = bench.ask("POST", "/api/v1/examples", None).await;
    assert_eq!(
        (status.as_u16(), &problem["code"]),
        (409, &json!("not_empty"))
    );
    let stakes = |today: &Value| today["stakes"].as_array().expect("stakes").len();
    assert_eq!(stakes(&bench.ok("GET", "/api/v1/today", None).await), 4);
    let away = |to: bool| {
        (
            format!("/api/v1/trials/{}/put-away", ids[0]),
            Some(json!({ "away": to })),
        )
    };
    let (path, body) = away(true);
    bench.ask("POST", &path, body).await;
    assert_eq!(stakes(&bench.ok("GET", "/api/v1/today", None).await), 3);
    let list = bench.ok("GET", "/api/v1/trials", None).await;
    assert_eq!(
        list.as_array()
            .expect("a list")
            .iter()
            .filter(|t| t["put_away"] == true)
            .count(),
        1
    );
    let (path, body) = away(false);
    bench.ask("POST", &path, body).await;
    assert_eq!(stakes(&bench.ok("GET", "/api/v1/today", None).await), 4);
    let bare = Bench::with(|app| app);
    assert_eq!(
        bare.ask("POST", "/api/v1/examples", None).await.0.as_u16(),
        404
    );
}
