//! The real page in a real browser: the binary, headless Chromium and ChromeDriver, started and
//! ended here.

mod bench;
#[path = "../../server/tests/sent/mod.rs"]
pub mod sent;

pub use bench::Bench;
pub use sent::record;
use std::io::{BufRead, BufReader};
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::time::Duration;
pub use thirtyfour;
use thirtyfour::error::WebDriverErrorInner;
use thirtyfour::prelude::*;

/// A child process in a group of its own; the whole group ends with it.
struct Group(Child);

impl Drop for Group {
    fn drop(&mut self) {
        // ChromeDriver's browsers are in its group; killing the driver alone would leave them
        // behind.
        let _ = Command::new("kill")
            .args(["-9", "--", &format!("-{}", self.0.id())])
            .status();
        let _ = self.0.wait();
    }
}

/// Starts a program and reads its output until a line gives what `found` looks for; the rest is
/// drained.
fn start<T>(command: &mut Command, found: impl Fn(&str) -> Option<T>) -> (Group, T) {
    let program = command.get_program().to_string_lossy().into_owned();
    try_start(command, found).unwrap_or_else(|| panic!("{program} ended before it was ready"))
}

/// The same; None where it ended before.
fn try_start<T>(command: &mut Command, found: impl Fn(&str) -> Option<T>) -> Option<(Group, T)> {
    let program = command.get_program().to_string_lossy().into_owned();
    let spawned = command
        .stdin(Stdio::null())
        .stdout(Stdio::piped())
        .stderr(Stdio::inherit())
        .process_group(0)
        .spawn();
    let mut group = Group(spawned.unwrap_or_else(|e| panic!("{program} cannot be started: {e}")));
    let output = group.0.stdout.take().expect("the output is piped");
    let mut lines = BufReader::new(output).lines();
    let value = loop {
        let line = lines.next()?.expect("text");
        if let Some(value) = found(&line) {
            break value;
        }
    };
    std::thread::spawn(move || lines.for_each(drop));
    Some((group, value))
}

/// The binary beside this test in the target folder.
///
/// # Panics
/// When it was not built: `cargo xtask test` builds it first.
#[must_use]
pub fn binary() -> PathBuf {
    let own = std::env::current_exe().expect("a path");
    let found = own
        .ancestors()
        .map(|folder| folder.join("iron-twin"))
        .find(|path| path.is_file());
    found.expect("the binary is not built: run cargo xtask test, or cargo build first")
}

/// A running Iron Twin with a data file of its own.
pub struct Server {
    group: Group,
    /// Where it answers, for instance `http://127.0.0.1:41234`.
    pub address: String,
    /// Its data file.
    pub data: PathBuf,
    _folder: Option<tempfile::TempDir>,
}

impl Server {
    /// Starts `iron-twin serve` or `iron-twin demo` on a fresh file.
    #[must_use]
    pub fn fresh(command: &str) -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let data = folder.path().join("trials.sqlite");
        Self {
            _folder: Some(folder),
            ..Self::on(command, data)
        }
    }

    /// Starts it on a given file.
    #[must_use]
    pub fn on(command: &str, data: PathBuf) -> Self {
        Self::at(command, data, "0")
    }

    /// Starts it on a given file and port, as after a restart.
    #[must_use]
    pub fn at(command: &str, data: PathBuf, port: &str) -> Self {
        let (group, address) = start(
            Command::new(binary())
                .arg(command)
                .arg("--data")
                .arg(&data)
                .args(["--port", port]),
            |line| line.strip_prefix("Iron Twin is at ").map(str::to_owned),
        );
        Self {
            group,
            address,
            data,
            _folder: None,
        }
    }

    /// Ends the process at once, as a power cut would, and gives the data file back with its
    /// folder.
    #[must_use]
    pub fn kill(mut self) -> (PathBuf, Option<tempfile::TempDir>) {
        let _ = self.group.0.kill();
        let folder = self._folder.take();
        (self.data.clone(), folder)
    }
}

/// Whether an element was drawn anew, or something lay over it while the page still moved.
fn moved(error: &WebDriverError) -> bool {
    matches!(
        error.as_inner(),
        WebDriverErrorInner::StaleElementReference(_)
            | WebDriverErrorInner::ElementClickIntercepted(_)
    )
}

/// A headless Chromium. The driver process is declared before the session, so that a panic ends
/// both.
pub struct Browser {
    /// The session.
    pub page: WebDriver,
    _group: Group,
    _profile: tempfile::TempDir,
}

/// How long a thing may take to appear: long enough for a slow machine, since what is there is
/// found at once.
const PATIENCE: Duration = Duration::from_secs(45);

impl Browser {
    /// Starts a browser whose page is `width` x `height`.
    ///
    /// # Panics
    /// Without chromedriver and chromium; `cargo xtask test` installs both.
    pub async fn start(width: u32, height: u32) -> Self {
        // It takes a free port of one kind of address and then wants the same of the other, which
        // somebody may have: it ends then.
        let driver = || {
            try_start(Command::new("chromedriver").arg("--port=0"), |line| {
                let (_, rest) = line.split_once("started successfully on port ")?;
                rest.trim_end_matches('.').parse::<u16>().ok()
            })
        };
        let (group, port) = (0..5)
            .find_map(|_| driver())
            .expect("chromedriver, which takes a port at one of five tries");
        let profile = tempfile::tempdir().expect("a folder");
        let mut wishes = DesiredCapabilities::chrome();
        let profile_argument = format!("--user-data-dir={}", profile.path().display());
        for argument in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--disable-dev-shm-usage",
            "--hide-scrollbars",
            "--lang=en-GB",
            &profile_argument,
        ] {
            wishes.add_arg(argument).expect("an argument");
        }
        let page = WebDriver::new(format!("http://127.0.0.1:{port}"), wishes)
            .await
            .expect("a browser session");
        let browser = Self {
            page,
            _group: group,
            _profile: profile,
        };
        browser.size(width, height).await;
        browser
    }

    /// Makes the page itself so large; the window is larger by its frame.
    pub async fn size(&self, width: u32, height: u32) {
        // Below about 500 the window will not shrink, so the page's own metrics are set instead.
        let metrics = serde_json::json!({
            "width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 500
        });
        self.page
            .cdp()
            .send_raw("Emulation.setDeviceMetricsOverride", metrics)
            .await
            .expect("metrics");
    }

    /// The element for a CSS selector, once it is there.
    ///
    /// # Panics
    /// When it does not come.
    pub async fn find(&self, css: &str) -> WebElement {
        let found = self
            .page
            .query(By::Css(css))
            .wait(PATIENCE, Duration::from_millis(50))
            .first()
            .await;
        match found {
            Ok(element) => element,
            Err(error) => panic!("'{css}' did not come: {error}\n{}", self.text().await),
        }
    }

    /// The element with this text inside one of a kind of tag, once it is there.
    ///
    /// # Panics
    /// When it does not come.
    pub async fn find_text(&self, tag: &str, text: &str) -> WebElement {
        let path = format!("//{tag}[contains(normalize-space(.), {})]", quoted(text));
        let found = self
            .page
            .query(By::XPath(&*path))
            .wait(PATIENCE, Duration::from_millis(50))
            .first()
            .await;
        match found {
            Ok(element) => element,
            Err(error) => panic!(
                "<{tag}> with '{text}' did not come: {error}\n{}",
                self.text().await
            ),
        }
    }

    /// Clicks an element; one that the page drew anew or moved between finding and clicking is
    /// looked for again.
    async fn click_found(&self, what: &str, find: impl AsyncFn() -> WebElement) {
        for _ in 0..5 {
            let element = find().await;
            let clicked = match element.scroll_into_view().await {
                Ok(()) => element.click().await,
                Err(error) => Err(error),
            };
            match clicked {
                Ok(()) => return,
                Err(error) if moved(&error) => tokio::time::sleep(Duration::from_millis(150)).await,
                Err(error) => panic!("'{what}' cannot be clicked: {error}"),
            }
        }
        panic!(
            "'{what}' stays covered, or is drawn anew again and again; the page says:\n{}",
            self.text().await
        );
    }

    /// Clicks the element for a CSS selector.
    pub async fn click(&self, css: &str) {
        self.click_found(css, async || self.find(css).await).await;
    }

    /// After the key was opened: past the letters by rank, and what they had, to the verdict.
    pub async fn past_the_letters(&self) {
        self.shows("First the letters, from best to worst").await;
        self.click_text("button", "Show what they had").await;
        self.click_text("button", "On to the verdict").await;
    }

    /// Clicks a tag that holds this text.
    pub async fn click_text(&self, tag: &str, text: &str) {
        self.click_found(text, async || self.find_text(tag, text).await)
            .await;
    }

    /// Replaces what a field holds, key by key.
    pub async fn fill(&self, css: &str, text: &str) {
        self.click(css).await;
        let field = self.page.active_element().await.expect("a focus");
        field.send_keys(Key::Control + "a").await.expect("keys");
        field.send_keys(text).await.expect("keys");
    }

    /// Chooses from the list of a field, by the field's id.
    pub async fn choose(&self, id: &str, choice: &str) {
        self.click(&format!("#{id}")).await;
        self.click(&format!(".ant-select-item-option[title=\"{choice}\"]"))
            .await;
    }

    /// Chooses from the list of a field, by its spoken label.
    pub async fn choose_in(&self, label: &str, choice: &str) {
        self.click(&format!(".ant-select:has([aria-label='{label}'])"))
            .await;
        self.click(&format!(
            ".ant-select-dropdown:not(.ant-select-dropdown-hidden) [title='{choice}']"
        ))
        .await;
    }

    /// Puts the date so many days ago into a field for dates.
    pub async fn set_date(&self, css: &str, days_ago: u32) {
        let _ = self.find(css).await;
        let set = "const d = new Date(); d.setDate(d.getDate() - arguments[1]); const f = \
                   document.querySelector(arguments[0]); \
                   Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, \
                   'value').set.call(f, d.toLocaleDateString('sv-SE')); f.dispatchEvent(new \
                   Event('input', { bubbles: true }));";
        self.page
            .execute(
                set,
                vec![serde_json::json!(css), serde_json::json!(days_ago)],
            )
            .await
            .expect("a date");
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

    /// Starts a trial as a grower does, and stands at its Ask station.
    pub async fn new_trial(&self, server: &Server, name: &str) {
        self.page
            .goto(format!("{}/trials", server.address))
            .await
            .expect("the page");
        self.fill("input[name=name]", name).await;
        self.keys(Key::Enter).await;
        self.find("textarea[name=question]").await;
    }

    /// Types into whatever has the focus.
    pub async fn keys(&self, keys: impl Into<TypingData>) {
        let element = self.page.active_element().await.expect("a focus");
        element.send_keys(keys.into()).await.expect("keys");
    }

    /// Types into the element with a CSS selector, whatever lies over it.
    pub async fn keys_on(&self, css: &str, keys: impl Into<TypingData>) {
        self.find(css)
            .await
            .send_keys(keys.into())
            .await
            .expect("keys");
    }

    /// All text of the page.
    pub async fn text(&self) -> String {
        match self.page.find(By::Tag("body")).await {
            Ok(body) => body.text().await.unwrap_or_default(),
            Err(_) => String::new(),
        }
    }

    /// Waits until the page shows a text.
    ///
    /// # Panics
    /// When it does not.
    pub async fn shows(&self, text: &str) {
        let started = std::time::Instant::now();
        loop {
            let now = self.text().await;
            if now.contains(text) {
                return;
            }
            assert!(
                started.elapsed() < PATIENCE,
                "'{text}' did not come; the page says:\n{now}"
            );
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
    }

    /// Waits until nothing is left for a CSS selector.
    ///
    /// # Panics
    /// When it stays.
    pub async fn gone(&self, css: &str) {
        let started = std::time::Instant::now();
        while !self
            .page
            .find_all(By::Css(css))
            .await
            .expect("a page")
            .is_empty()
        {
            assert!(
                started.elapsed() < PATIENCE,
                "'{css}' stays; the page says:\n{}",
                self.text().await
            );
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
    }

    /// Waits until the page no longer shows a text.
    ///
    /// # Panics
    /// When it stays.
    pub async fn gone_text(&self, text: &str) {
        let started = std::time::Instant::now();
        loop {
            let now = self.text().await;
            if !now.contains(text) {
                return;
            }
            assert!(
                started.elapsed() < PATIENCE,
                "'{text}' stays; the page says:\n{now}"
            );
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
    }

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

    /// Holds the page, as it stands and at a phone's size, against axe-core.
    ///
    /// # Panics
    /// When it finds a fault.
    pub async fn no_faults(&self) {
        for (width, height) in [(1280, 800), (390, 844)] {
            self.size(width, height).await;
            self.no_faults_here().await;
        }
        self.size(1280, 800).await;
    }

    /// Holds the page as it stands against axe-core.
    ///
    /// # Panics
    /// When it finds a fault.
    pub async fn no_faults_here(&self) {
        let faults = self.axe_faults().await;
        assert!(faults.is_empty(), "{}", faults.join("\n"));
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

    /// Whether the element with a CSS selector has the focus.
    pub async fn has_focus(&self, css: &str) -> bool {
        let script = format!("return document.activeElement?.matches({css:?}) ?? false");
        let answer = self
            .page
            .execute(script, Vec::new())
            .await
            .expect("an answer");
        answer.json().as_bool().unwrap_or_default()
    }

    /// The faults that axe-core finds on the page as it stands: rule, what is wrong, where.
    ///
    /// # Panics
    /// Without axe-core, which `npm ci` brings.
    pub async fn axe_faults(&self) -> Vec<String> {
        let file = concat!(
            env!("CARGO_MANIFEST_DIR"),
            "/../../web/node_modules/axe-core/axe.min.js"
        );
        let axe = std::fs::read_to_string(file).expect("axe-core, which npm ci brings");
        // What the bar at the foot covers is scrolled free; here it would count as a target cut
        // small.
        let free = "document.head.insertAdjacentHTML('beforeend', '<style>.edge { position: static !important; }</style>')";
        self.page.execute(free, vec![]).await.expect("a style");
        self.page.execute(&axe, vec![]).await.expect("axe-core");
        let script = "const done = arguments[0]; axe.run(document, { resultTypes: ['violations'], rules: { 'target-size': { enabled: true }, 'label-content-name-mismatch': { enabled: true } } }).then(r \
                      => done(JSON.stringify(r.violations.map(v => `${v.id} (${v.impact}): \
                      ${v.help}: ${v.nodes.map(n => `${n.html.slice(0, 160)} (${(n.any[0] ?? {}).message ?? ''})`).slice(0, 3).join(' | ')}`))), \
                      e => done(JSON.stringify([String(e)])))";
        let found = self
            .page
            .execute_async(script, vec![])
            .await
            .expect("an answer");
        serde_json::from_str(&found.convert::<String>().expect("text")).expect("a list")
    }

    /// Cuts the page off from the server, as a phone out of reach, or lets it reach it again.
    pub async fn away(&self, away: bool) {
        self.network(away, 0).await;
    }

    /// Makes every answer take so many milliseconds, as at the far end of a barn.
    pub async fn slow(&self, milliseconds: u32) {
        self.network(false, milliseconds).await;
    }

    async fn network(&self, offline: bool, latency: u32) {
        let network = serde_json::json!({
            "offline": offline, "latency": latency, "downloadThroughput": -1, "uploadThroughput": -1
        });
        self.page
            .cdp()
            .send_raw("Network.enable", serde_json::json!({}))
            .await
            .expect("the network");
        self.page
            .cdp()
            .send_raw("Network.emulateNetworkConditions", network)
            .await
            .expect("the network");
    }

    /// A picture of the page.
    pub async fn picture(&self) -> Vec<u8> {
        self.page.screenshot_as_png().await.expect("a picture")
    }

    /// Ends the session.
    pub async fn end(self) {
        let _ = self.page.clone().quit().await;
    }
}

fn quoted(text: &str) -> String {
    if text.contains('\'') {
        format!("\"{text}\"")
    } else {
        format!("'{text}'")
    }
}
