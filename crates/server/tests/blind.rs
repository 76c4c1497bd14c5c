//! The blind: a recorder and a viewer go through everything that the program answers, and find no
//! key.

use crate::sent;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use iron_twin_core::place::blind::nonce_text;
use iron_twin_server::{App, openapi, router};
use iron_twin_store::Store;
use sent::record;
use serde_json::{Value, json};
use tower::ServiceExt;

struct Farm {
    router: Router,
    store: Store,
    id: String,
    _folder: tempfile::TempDir,
}

/// What an answer was.
struct Answer {
    status: StatusCode,
    text: String,
    cookie: Option<String>,
}

const PASSPHRASE: &str = "jars on the sill";
/// Names of treatments and of what they get; no word of the program is one of them.
const SECRETS: [&str; 4] = ["zebra", "quagga", "okapi", "gnu potion"];

impl Farm {
    /// A sown trial whose treatments have telling names, with an owner, a recorder and a viewer.
    async fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let path = folder.path().join("trials.sqlite");
        let router = router(App::new(Store::open(&path).expect("a store")));
        let store = Store::open(&path).expect("a second look at the file");
        let mut farm = Self {
            router,
            store,
            id: String::new(),
            _folder: folder,
        };
        let trial = farm
            .owner("POST", "/trials", json!({ "name": "Kohlrabi" }))
            .await;
        farm.id = trial["id"].as_str().expect("an id").to_owned();
        let mut sheet = trial["sheet"].clone();
        sheet["treatments"][0]["name"] = json!("zebra");
        sheet["treatments"][1]["name"] = json!("quagga");
        let potion = json!({ "role": "additive", "what": "gnu potion" });
        sheet["treatments"][1]["applications"]
            .as_array_mut()
            .expect("a list")
            .push(potion);
        let mut third = sheet["treatments"][1].clone();
        third["name"] = json!("okapi");
        third["applications"] = json!([third["applications"][0]]);
        sheet["treatments"]
            .as_array_mut()
            .expect("treatments")
            .push(third);
        let put = json!({ "sheet": sheet, "version": trial["version"] });
        let trial = farm.owner("PUT", &farm.at("/match-sheet"), put).await;
        farm.owner(
            "POST",
            &farm.at("/deal"),
            json!({ "version": trial["version"] }),
        )
        .await;
        let date = jiff::Zoned::now()
            .date()
            .checked_sub(jiff::Span::new().days(5))
            .expect("a date")
            .to_string();
        farm.owner(
            "POST",
            &farm.at("/records"),
            record("work", json!({ "job": "sow", "date": date })),
        )
        .await;
        let mix =
            json!({ "treatment": 1, "volume_l": 2.0, "feed_total": 8.0, "ec": 1.7, "ph": 6.0 });
        farm.owner("POST", &farm.at("/mixes"), mix).await;
        farm.owner("POST", &farm.at("/pouring-sheet"), Value::Null)
            .await;
        for (name, role) in [("Ada", "owner"), ("Rec", "recorder"), ("Vi", "viewer")] {
            farm.owner(
                "POST",
                "/people",
                json!({ "name": name, "role": role, "passphrase": PASSPHRASE }),
            )
            .await;
        }
        farm
    }

    fn at(&self, rest: &str) -> String {
        format!("/trials/{}{rest}", self.id)
    }

    async fn ask(&self, method: &str, path: &str, cookie: Option<&str>, body: &Value) -> Answer {
        let mut request = Request::builder()
            .method(method)
            .uri(format!("/api/v1{path}"))
            .header(header::HOST, "localhost");
        request = request.header(header::CONTENT_TYPE, "application/json");
        if let Some(cookie) = cookie {
            request = request.header(header::COOKIE, cookie);
        }
        let body = if body.is_null() {
            Body::empty()
        } else {
            Body::from(body.to_string())
        };
        let response = self
            .router
            .clone()
            .oneshot(request.body(body).expect("a request"))
            .await
            .expect("an answer");
        let status = response.status();
        let set = response
            .headers()
            .get(header::SET_COOKIE)
            .map(|v| v.to_str().expect("text").to_owned());
        let bytes = axum::body::to_bytes(response.into_body(), 1 << 22)
            .await
            .expect("a body");
        let cookie = set.map(|c| c.split(';').next().expect("a cookie").to_owned());
        Answer {
            status,
            text: String::from_utf8_lossy(&bytes).into_owned(),
            cookie,
        }
    }

    async fn owner(&self, method: &str, path: &str, body: Value) -> Value {
        let answer = self.ask(method, path, None, &body).await;
        assert!(
            answer.status.is_success(),
            "{method} {path}: {} {}",
            answer.status,
            answer.text
        );
        serde_json::from_str(&answer.text).unwrap_or(Value::Null)
    }

    async fn sign_in(&self, name: &str) -> String {
        let body = json!({ "name": name, "passphrase": PASSPHRASE });
        let answer = self.ask("POST", "/sign-in", None, &body).await;
        assert_eq!(answer.status, StatusCode::OK, "{}", answer.text);
        answer.cookie.expect("a cookie")
    }

    /// Every path of the API with its methods, filled in for this trial.
    fn routes(&self) -> Vec<(String, String)> {
        let document: Value = serde_json::from_str(&openapi()).expect("JSON");
        let mut routes = Vec::new();
        for (path, methods) in document["paths"].as_object().expect("paths") {
            let own = path
                .strip_prefix("/api/v1")
                .expect("the prefix")
                .replace("{shelf}", "feeds");
            let own = own.replace("{id}", &self.id);
            let own = if own.ends_with("/labels") {
                format!("{own}?base=http://localhost")
            } else {
                own
            };
            routes.extend(
                methods
                    .as_object()
                    .expect("methods")
                    .keys()
                    .map(|m| (m.to_uppercase(), own.clone())),
            );
        }
        assert!(routes.len() > 40, "{}", routes.len());
        routes
    }

    /// What must not be found: names, values that differ, seed and nonce.
    fn secrets(&self) -> Vec<String> {
        let deal = self
            .store
            .trial(&self.id)
            .expect("the trial")
            .deal
            .clone()
            .expect("a deal");
        let mut secrets: Vec<String> = SECRETS.iter().map(|s| (*s).to_owned()).collect();
        secrets.extend([deal.seed.to_string(), nonce_text(&deal.nonce)]);
        secrets
    }
}

/// Lists of units in an answer, as their codes in order.
fn lists_of_codes(value: &Value, lists: &mut Vec<Vec<String>>) {
    match value {
        Value::Array(items) => {
            let code = |v: &Value| {
                v["code"]
                    .as_str()
                    .or_else(|| v["unit"]["code"].as_str())
                    .map(str::to_owned)
            };
            let codes: Option<Vec<String>> = items.iter().map(code).collect();
            lists.extend(codes.filter(|c| c.len() > 2));
            items.iter().for_each(|v| lists_of_codes(v, lists));
        }
        Value::Object(fields) => fields.values().for_each(|v| lists_of_codes(v, lists)),
        _ => {}
    }
}

#[tokio::test]
async fn neither_recorder_nor_viewer_finds_the_key_anywhere() {
    let farm = Farm::new().await;
    let secrets = farm.secrets();
    let trial = farm.store.trial(&farm.id).expect("the trial");
    let treatment_of = |code: &str| {
        trial
            .units
            .iter()
            .find(|u| u.code == code)
            .expect("a unit")
            .treatment
    };
    for name in ["Rec", "Vi"] {
        let cookie = farm.sign_in(name).await;
        let mut answered = 0;
        for (method, path) in farm.routes() {
            // A body of nothing: what is not refused by role is refused by its form, or changes
            // nothing.
            let body = if method == "GET" {
                Value::Null
            } else {
                json!({})
            };
            // A stream of what instruments show: it knows no trial, and does not end.
            if path == "/sign-out" || path == "/instruments/live" {
                continue;
            }
            let answer = farm.ask(&method, &path, Some(&cookie), &body).await;
            let text = answer.text.to_lowercase();
            for secret in &secrets {
                assert!(
                    !text.contains(secret.as_str()),
                    "{name} finds '{secret}' at {method} {path}"
                );
            }
            assert!(
                !text.contains("\"treatment\":0") && !text.contains("\"treatment\":1"),
                "{name}: {method} {path}"
            );
            answered += usize::from(answer.status.is_success());
            if let Ok(json) = serde_json::from_str::<Value>(&answer.text) {
                let mut lists = Vec::new();
                lists_of_codes(&json, &mut lists);
                // The order at the scale comes of the trial's id and the codes alone, and may look
                // like anything.
                lists.retain(|codes| {
                    !path.ends_with("/weigh")
                        && codes
                            .iter()
                            .all(|c| trial.units.iter().any(|u| u.code == *c))
                });
                for codes in lists {
                    // An order that tells would put the trays of a treatment together.
                    let runs = codes
                        .windows(2)
                        .filter(|p| treatment_of(&p[0]) != treatment_of(&p[1]))
                        .count();
                    assert!(
                        runs > 2,
                        "{name}: the order at {method} {path} tells the key: {codes:?}"
                    );
                }
            }
        }
        assert!(answered > 12, "{name} gets {answered} answers");
    }
}

#[tokio::test]
async fn a_recorder_records_under_their_own_name_and_changes_nothing_else() {
    let farm = Farm::new().await;
    let cookie = farm.sign_in("rec").await;
    let trial = farm.owner("GET", &farm.at(""), Value::Null).await;
    let code = trial["units"][0]["code"]
        .as_str()
        .expect("a code")
        .to_owned();
    let reading = json!({ "code": code, "reading": "ph", "day": 4, "value": 6.2, "version": 0 });
    let answer = farm
        .ask(
            "POST",
            &farm.at("/records"),
            Some(&cookie),
            &record("reading", reading.clone()),
        )
        .await;
    assert!(answer.status.is_success(), "{}", answer.text);
    // The owner's undo does not take back what somebody else recorded; theirs does.
    let mine = farm.owner("GET", &farm.at(""), Value::Null).await;
    assert!(!mine["undo"].to_string().contains("pH"), "{}", mine["undo"]);
    let theirs = farm
        .ask("GET", &farm.at(""), Some(&cookie), &Value::Null)
        .await;
    assert!(
        theirs.text.contains(&format!("pH of {code}")),
        "{}",
        theirs.text
    );
    let undone = farm
        .ask("POST", &farm.at("/undo"), Some(&cookie), &Value::Null)
        .await;
    assert!(
        undone.status.is_success() && undone.text.contains("pH"),
        "{}",
        undone.text
    );

    for (method, path) in [
        ("POST", farm.at("/reveal")),
        ("POST", farm.at("/pouring-sheet")),
        ("POST", farm.at("/deal")),
        ("PUT", farm.at("/ask")),
        ("PUT", farm.at("/match-sheet")),
        ("GET", farm.at("/plan.json")),
        ("GET", farm.at("/mix")),
        ("GET", farm.at("/places")),
        ("PUT", farm.at("/places")),
        ("PUT", farm.at("/light")),
        ("POST", "/people".to_owned()),
        ("GET", "/people".to_owned()),
        ("POST", "/ask-here".to_owned()),
        ("POST", "/trials".to_owned()),
    ] {
        let answer = farm.ask(method, &path, Some(&cookie), &json!({})).await;
        assert_eq!(
            answer.status,
            StatusCode::FORBIDDEN,
            "{method} {path}: {}",
            answer.text
        );
    }
    let viewer = farm.sign_in("Vi").await;
    let answer = farm
        .ask(
            "POST",
            &farm.at("/records"),
            Some(&viewer),
            &record("reading", reading.clone()),
        )
        .await;
    assert_eq!(answer.status, StatusCode::FORBIDDEN);
}

#[tokio::test]
async fn after_the_reveal_everybody_may_check_the_seal() {
    let farm = Farm::new().await;
    let cookie = farm.sign_in("Rec").await;
    let before: Value = serde_json::from_str(
        &farm
            .ask("GET", &farm.at(""), Some(&cookie), &Value::Null)
            .await
            .text,
    )
    .expect("JSON");
    assert_eq!(before["sheet"]["treatments"][1]["name"], "treatment 2");
    for unit in before["units"].as_array().expect("units") {
        let weight = json!({
            "code": unit["code"], "gross_g": 300.0, "tare_g": 200.0, "version": 0,
            "confirmed": true,
        });
        let answer = farm
            .ask(
                "POST",
                &farm.at("/records"),
                Some(&cookie),
                &record("weighing", weight.clone()),
            )
            .await;
        assert!(answer.status.is_success(), "{}", answer.text);
    }
    farm.owner(
        "POST",
        &farm.at("/reveal"),
        json!({ "reason": "tried out" }),
    )
    .await;
    let after: Value = serde_json::from_str(
        &farm
            .ask("GET", &farm.at(""), Some(&cookie), &Value::Null)
            .await
            .text,
    )
    .expect("JSON");
    assert_eq!(after["sheet"]["treatments"][1]["name"], "quagga");
    assert_eq!(
        before["commitment"], after["commitment"],
        "the seal shown from the start"
    );
    assert_eq!(after["reveal"]["verified"], true);
    assert!(
        farm.ask("GET", &farm.at("/plan.json"), Some(&cookie), &Value::Null)
            .await
            .status
            .is_success()
    );
}

#[tokio::test]
async fn signing_in_is_asked_tried_and_ended() {
    let farm = Farm::new().await;
    let me = farm.owner("GET", "/me", Value::Null).await;
    assert_eq!(
        me,
        json!({ "name": "owner", "role": "owner", "signed_in": false })
    );
    farm.owner("POST", "/ask-here", json!({ "ask": true }))
        .await;
    let answer = farm.ask("GET", "/today", None, &Value::Null).await;
    assert_eq!(answer.status, StatusCode::UNAUTHORIZED);
    assert!(
        answer.text.contains("\"code\":\"sign_in\""),
        "{}",
        answer.text
    );
    let me: Value =
        serde_json::from_str(&farm.ask("GET", "/me", None, &Value::Null).await.text).expect("JSON");
    assert_eq!(
        me,
        json!({ "name": null, "role": null, "signed_in": false })
    );

    let cookie = farm.sign_in("ADA").await;
    assert!(
        farm.ask("GET", "/people", Some(&cookie), &Value::Null)
            .await
            .text
            .contains("Rec")
    );
    let rec = farm.sign_in("Rec").await;
    let people: Value = serde_json::from_str(
        &farm
            .ask("GET", "/people", Some(&cookie), &Value::Null)
            .await
            .text,
    )
    .expect("JSON");
    let id_of = |name: &str| {
        let list = people["people"].as_array().expect("people");
        list.iter().find(|p| p["name"] == name).expect("somebody")["id"]
            .as_str()
            .expect("an id")
            .to_owned()
    };
    let last = farm
        .ask(
            "POST",
            &format!("/people/{}/remove", id_of("Ada")),
            Some(&cookie),
            &Value::Null,
        )
        .await;
    assert_eq!(last.status, StatusCode::CONFLICT, "the last owner stays");
    farm.ask(
        "POST",
        &format!("/people/{}/remove", id_of("Rec")),
        Some(&cookie),
        &Value::Null,
    )
    .await;
    let gone = farm.ask("GET", "/today", Some(&rec), &Value::Null).await;
    assert_eq!(
        gone.status,
        StatusCode::UNAUTHORIZED,
        "who is taken out is signed out"
    );

    farm.ask("POST", "/sign-out", Some(&cookie), &Value::Null)
        .await;
    assert_eq!(
        farm.ask("GET", "/today", Some(&cookie), &Value::Null)
            .await
            .status,
        StatusCode::UNAUTHORIZED
    );
    let wrong = json!({ "name": "Vi", "passphrase": "not this one" });
    for _ in 0..5 {
        assert_eq!(
            farm.ask("POST", "/sign-in", None, &wrong).await.status,
            StatusCode::FORBIDDEN
        );
    }
    let right = json!({ "name": "Vi", "passphrase": PASSPHRASE });
    assert_eq!(
        farm.ask("POST", "/sign-in", None, &right).await.status,
        StatusCode::TOO_MANY_REQUESTS
    );
}

#[tokio::test]
async fn reached_from_elsewhere_everybody_signs_in() {
    let folder = tempfile::tempdir().expect("a folder");
    let store = Store::open(&folder.path().join("trials.sqlite")).expect("a store");
    let router = router(App::new(store).for_others(vec!["shelf.local".into()]));
    for (host, path, status) in [
        (
            "192.168.1.20:4747",
            "/api/v1/today",
            StatusCode::UNAUTHORIZED,
        ),
        ("shelf.local", "/api/v1/me", StatusCode::OK),
        ("evil.example", "/api/v1/me", StatusCode::FORBIDDEN),
    ] {
        let request = Request::builder()
            .uri(path)
            .header(header::HOST, host)
            .body(Body::empty())
            .expect("a request");
        let answer = router.clone().oneshot(request).await.expect("an answer");
        assert_eq!(answer.status(), status, "{host} {path}");
    }
}

#[tokio::test]
async fn the_bench_is_for_everybody_and_a_top_up_is_sealed() {
    let farm = Farm::new().await;
    let line = json!({ "name": "potassium nitrate", "form": "powder", "per_l": 0.5 });
    let bench = json!({ "lines": [line], "target": "microgreens", "volume_l": 5 });
    let level =
        json!({ "now_l": 1, "now_ec_ms_per_cm": 1, "wanted_l": 2, "wanted_ec_ms_per_cm": 1 });
    let top_up = json!({ "treatment": 1, "level": level });
    for name in ["Rec", "Vi"] {
        let cookie = farm.sign_in(name).await;
        for path in ["/bench", "/bench/aim"] {
            let answer = farm.ask("POST", path, Some(&cookie), &bench).await;
            assert_eq!(answer.status, StatusCode::OK, "{path} {}", answer.text);
        }
        let answer = farm
            .ask("POST", &farm.at("/top-up"), Some(&cookie), &top_up)
            .await;
        assert!(
            answer.status == StatusCode::FORBIDDEN && answer.text.contains("sealed"),
            "{}",
            answer.text
        );
    }
}

/// Letters have cases in every script, and forty wrong tries at once are no more than five one
/// after the other.
#[tokio::test]
async fn names_of_any_script_come_in_and_tries_are_counted_before_they_are_checked() {
    let farm = Farm::new().await;
    let emile = json!({ "name": "Émile", "role": "owner", "passphrase": PASSPHRASE });
    farm.owner("POST", "/people", emile.clone()).await;
    let again = json!({ "name": "ÉMILE", "role": "viewer", "passphrase": PASSPHRASE });
    let taken = farm.ask("POST", "/people", None, &again).await;
    assert!(
        taken.status == StatusCode::UNPROCESSABLE_ENTITY && taken.text.contains("already"),
        "{}",
        taken.text
    );
    for name in ["Émile", "émile", " ÉMILE "] {
        farm.sign_in(name).await;
    }
    let long = json!({ "name": "x".repeat(5000), "passphrase": PASSPHRASE });
    assert_eq!(
        farm.ask("POST", "/sign-in", None, &long).await.status,
        StatusCode::FORBIDDEN
    );
    let wrong = json!({ "name": "Rec", "passphrase": "not this one" });
    let farm = std::sync::Arc::new(farm);
    let mut tries = tokio::task::JoinSet::new();
    for _ in 0..40 {
        let (farm, wrong) = (std::sync::Arc::clone(&farm), wrong.clone());
        tries.spawn(async move { farm.ask("POST", "/sign-in", None, &wrong).await.status });
    }
    let answers = tries.join_all().await;
    let count = |status: StatusCode| answers.iter().filter(|a| **a == status).count();
    assert_eq!(
        (
            count(StatusCode::FORBIDDEN),
            count(StatusCode::TOO_MANY_REQUESTS)
        ),
        (5, 35)
    );
    // Strangers who try one name do not keep out another.
    farm.sign_in("Ada").await;
}
