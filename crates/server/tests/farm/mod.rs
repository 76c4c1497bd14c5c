//! A farm with a fresh data file, asked through the real router.

use crate::sent;

use axum::Router;
use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use http_body_util::BodyExt;
use iron_twin_server::{App, router};
use iron_twin_store::Store;
use serde_json::{Value, json};
use tower::ServiceExt;

pub use sent::{record, records};

/// The router over a data file of its own.
pub struct Farm {
    router: Router,
    folder: tempfile::TempDir,
}

impl Farm {
    pub fn new() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("trials.sqlite")).expect("a store");
        Self {
            router: router(App::new(store)),
            folder,
        }
    }

    /// The data file, read beside the running server.
    pub fn store(&self) -> Store {
        Store::open(&self.folder.path().join("trials.sqlite")).expect("a store")
    }

    /// The same data file under a program started anew.
    pub fn started_anew(&mut self) {
        self.serve(self.store());
    }

    /// The program started anew over a data file that was opened otherwise.
    pub fn serve(&mut self, store: Store) {
        self.router = router(App::new(store));
    }

    /// Path of the data file.
    pub fn file(&self) -> std::path::PathBuf {
        self.folder.path().join("trials.sqlite")
    }

    /// Adds somebody with a role and signs them in; the cookie of their browser.
    pub async fn person(&self, name: &str, role: &str) -> String {
        let passphrase = "jars on the sill";
        self.call(
            "POST",
            "/people",
            json!({ "name": name, "role": role, "passphrase": passphrase }),
        )
        .await;
        let body = json!({ "name": name, "passphrase": passphrase });
        let response = self.answer("POST", "/sign-in", None, &body).await;
        let set = response
            .headers()
            .get(header::SET_COOKIE)
            .expect("a cookie")
            .to_str()
            .expect("text");
        set.split(';').next().expect("a cookie").to_owned()
    }

    async fn answer(
        &self,
        method: &str,
        path: &str,
        cookie: Option<&str>,
        body: &Value,
    ) -> axum::response::Response {
        let mut request = Request::builder()
            .method(method)
            .uri(format!("/api/v1{path}"))
            .header(header::HOST, "localhost");
        if !body.is_null() {
            request = request.header(header::CONTENT_TYPE, "application/json");
        }
        if let Some(cookie) = cookie {
            request = request.header(header::COOKIE, cookie);
        }
        let body = if body.is_null() {
            Body::empty()
        } else {
            Body::from(body.to_string())
        };
        self.router
            .clone()
            .oneshot(request.body(body).expect("a request"))
            .await
            .expect("an answer")
    }

    /// Status and text of an answer to a signed-in browser.
    pub async fn text_as(
        &self,
        cookie: &str,
        method: &str,
        path: &str,
        body: Value,
    ) -> (StatusCode, String) {
        said(self.answer(method, path, Some(cookie), &body).await).await
    }

    /// Status, headers and bytes of an answer to a request made by hand.
    pub async fn raw(
        &self,
        request: Request<Body>,
    ) -> (StatusCode, axum::http::HeaderMap, Vec<u8>) {
        let response = self
            .router
            .clone()
            .oneshot(request)
            .await
            .expect("an answer");
        let (status, headers) = (response.status(), response.headers().clone());
        let bytes = axum::body::to_bytes(response.into_body(), 1 << 26)
            .await
            .expect("a body");
        (status, headers, bytes.to_vec())
    }

    /// Status and text of an answer to a request that may come again under its key.
    pub async fn keyed(&self, key: &str, path: &str, body: &Value) -> (StatusCode, String) {
        let request = Request::post(format!("/api/v1{path}")).header(header::HOST, "localhost");
        let request = request
            .header(header::CONTENT_TYPE, "application/json")
            .header("idempotency-key", key);
        let request = request
            .body(Body::from(body.to_string()))
            .expect("a request");
        said(
            self.router
                .clone()
                .oneshot(request)
                .await
                .expect("an answer"),
        )
        .await
    }

    /// Status and text of an answer.
    pub async fn text(&self, method: &str, path: &str, body: Value) -> (StatusCode, String) {
        said(self.answer(method, path, None, &body).await).await
    }

    /// An answer that succeeds, as JSON where it is.
    pub async fn call(&self, method: &str, path: &str, body: Value) -> Value {
        let (status, text) = self.text(method, path, body).await;
        assert!(status.is_success(), "{method} {path}: {status} {text}");
        serde_json::from_str(&text).unwrap_or(Value::String(text))
    }

    pub async fn get(&self, path: &str) -> Value {
        self.call("GET", path, Value::Null).await
    }

    /// What is sent as it comes.
    pub async fn stream(&self, path: &str) -> Events {
        let response = self.answer("GET", path, None, &Value::Null).await;
        assert_eq!(response.status(), StatusCode::OK, "{path}");
        Events(response.into_body(), String::new())
    }

    /// Id of a new trial with the usual plan.
    pub async fn new_trial(&self, name: &str) -> String {
        self.call("POST", "/trials", json!({ "name": name })).await["id"]
            .as_str()
            .expect("an id")
            .to_owned()
    }
}

/// Events as they come.
pub struct Events(Body, String);

impl Events {
    /// The data of the next event.
    pub async fn next(&mut self) -> String {
        loop {
            if let Some((event, rest)) = self.1.split_once("\n\n") {
                let data = event
                    .lines()
                    .find_map(|line| line.strip_prefix("data: "))
                    .map(str::to_owned);
                self.1 = rest.to_owned();
                if let Some(data) = data {
                    return data;
                }
                continue;
            }
            let frame = self
                .0
                .frame()
                .await
                .expect("more to come")
                .expect("a frame");
            self.1 += &String::from_utf8_lossy(frame.data_ref().expect("data"));
        }
    }
}

async fn said(response: axum::response::Response) -> (StatusCode, String) {
    let status = response.status();
    let bytes = axum::body::to_bytes(response.into_body(), 1 << 22)
        .await
        .expect("a body");
    (status, String::from_utf8_lossy(&bytes).into_owned())
}

/// Writes what a treatment gets of a kind (`feed` or `additive`) with the share of its label, or a
/// condition.
pub fn set_cell(treatment: &mut Value, key: &str, value: &str) {
    let role = if key.starts_with("additive") {
        "additive"
    } else {
        "feed"
    };
    let list = treatment["applications"]
        .as_array()
        .cloned()
        .unwrap_or_default();
    let (own, mut others): (Vec<Value>, Vec<Value>) =
        list.into_iter().partition(|a| a["role"] == role);
    let old = own
        .into_iter()
        .next()
        .unwrap_or_else(|| json!({ "role": role, "what": "none" }));
    let mut new = old.clone();
    match key {
        "feed" | "additive" => new["what"] = json!(value),
        "dose" | "additive_dose" => {
            new["amount"] = json!({ "of_label": value.parse::<f64>().expect("a share") })
        }
        "days" => {
            let days: Vec<u32> = value
                .split(", ")
                .map(|d| d.parse().expect("a day"))
                .collect();
            new["when"] = json!({ "days": days });
        }
        _ => {
            treatment["conditions"][key] = json!(value);
            return;
        }
    }
    others.push(new);
    treatment["applications"] = json!(others);
}
