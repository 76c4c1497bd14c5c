//! What the page is made to ask the server, past its own buttons.

use crate::Browser;

impl Browser {
    /// Asks the server from inside the page: GET, as JSON or text.
    pub async fn get(&self, path: &str) -> String {
        let script = "const done = arguments[1]; fetch(arguments[0]).then(r => \
                      r.text()).then(done, e => done(String(e)));";
        let answer = self
            .page
            .execute_async(script, vec![serde_json::json!(path)])
            .await
            .expect("an answer");
        answer.convert().expect("text")
    }

    /// Sends JSON to the server from inside the page.
    ///
    /// # Panics
    /// Where it is not taken.
    pub async fn post(&self, path: &str, body: &serde_json::Value) {
        let (taken, said) = self.sent("POST", path, body).await;
        assert!(taken, "{path}: {said}");
    }

    /// Sends JSON to the server from inside the page; what it answers, taken or not.
    pub async fn post_for(&self, path: &str, body: &serde_json::Value) -> String {
        self.sent("POST", path, body).await.1
    }

    /// Puts JSON to the server from inside the page; the JSON that it answers.
    ///
    /// # Panics
    /// Where it is not taken, or the answer is no JSON.
    pub async fn put(&self, path: &str, body: &serde_json::Value) -> serde_json::Value {
        let (taken, said) = self.sent("PUT", path, body).await;
        assert!(taken, "{path}: {said}");
        serde_json::from_str(&said).expect("JSON")
    }

    /// Whether it was taken, and the answer.
    async fn sent(&self, method: &str, path: &str, body: &serde_json::Value) -> (bool, String) {
        let script = "const done = arguments[3]; fetch(arguments[0], { method: arguments[2], headers: { 'Content-Type': 'application/json' }, body: arguments[1] }).then(async \
                      r => done([r.ok, await r.text()]), e => done([false, String(e)]));";
        let body = if body.is_null() {
            String::new()
        } else {
            body.to_string()
        };
        let arguments = vec![
            serde_json::json!(path),
            serde_json::json!(body),
            serde_json::json!(method),
        ];
        let answer = self
            .page
            .execute_async(script, arguments)
            .await
            .expect("an answer");
        answer.convert().expect("whether it was taken, and text")
    }

    /// Id of the running or finished demo trial whose name begins so; the page must be one of the
    /// program's.
    ///
    /// # Panics
    /// Where there is none.
    pub async fn demo_trial(&self, name: &str) -> String {
        let today: serde_json::Value =
            serde_json::from_str(&self.get("/api/v1/today").await).expect("JSON");
        let stakes = today["stakes"].as_array().expect("trials");
        let stake = stakes
            .iter()
            .find(|s| s["name"].as_str().is_some_and(|n| n.starts_with(name)));
        stake.expect("a demo trial")["id"]
            .as_str()
            .expect("an id")
            .to_owned()
    }

    /// Path of the trial whose page is shown, under the interface.
    pub async fn api_of_trial(&self) -> String {
        let address = self.page.current_url().await.expect("an address");
        let id = address
            .path_segments()
            .and_then(|mut parts| parts.nth(1))
            .unwrap_or_default();
        format!("/api/v1/trials/{id}")
    }

    /// What the pouring sheet says: each treatment's name with its codes. It is opened by this, and
    /// that is written down.
    pub async fn pouring_sheet(&self, trial: &str) -> Vec<(String, Vec<String>)> {
        let script = "const done = arguments[1]; \
                      fetch(`/api/v1/trials/${arguments[0]}/pouring-sheet`, { method: 'POST' }).then(r \
                      => r.json()).then(done);";
        let sheet = self
            .page
            .execute_async(script, vec![serde_json::json!(trial)])
            .await
            .expect("a sheet");
        let text = |v: &serde_json::Value| v.as_str().expect("text").to_owned();
        let codes = |pour: &serde_json::Value| {
            pour["codes"]
                .as_array()
                .expect("codes")
                .iter()
                .map(text)
                .collect()
        };
        sheet
            .json()
            .as_array()
            .expect("a list")
            .iter()
            .map(|p| (text(&p["treatment"]), codes(p)))
            .collect()
    }
}
