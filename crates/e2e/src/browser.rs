//! Headless Chromium and ChromeDriver: started when no other stands idle, and handed from test to
//! test. A start costs as much as a short test does.

use crate::printed;
use std::os::unix::process::CommandExt;
use std::process::{Child, Command, Stdio};
use std::sync::Mutex;
use thirtyfour::prelude::*;

/// ChromeDriver with its browsers, and their profile.
///
/// They run under a shell that waits for its input to end and then ends them all and takes the
/// profile away: so nothing is left behind when this process ends, by whatever way, though what is
/// kept in a static is never dropped.
struct Driver(Child);

const UNDER: &str = "setsid chromedriver --port=0 & driver=$!
    exec >/dev/null 2>&1
    cat
    kill -9 -$driver
    rm -rf \"$1\"";

impl Driver {
    /// Starts it; with the port at which it answers. None where it ended before: it takes a free
    /// port of one kind of address and then wants the same of the other, which somebody may have.
    fn start(profile: &str) -> Option<(Self, u16)> {
        let spawned = Command::new("sh")
            .args(["-c", UNDER, "sh", profile])
            .stdin(Stdio::piped())
            .stdout(Stdio::piped())
            // Not ended by a key that ends the test: it ends when its input does.
            .process_group(0)
            .spawn();
        let mut driver = Self(spawned.expect("a shell"));
        let output = driver.0.stdout.take().expect("the output is piped");
        let port = printed(output, |line| {
            let (_, rest) = line.split_once("started successfully on port ")?;
            rest.trim_end_matches('.').parse::<u16>().ok()
        })?;
        Some((driver, port))
    }
}

impl Drop for Driver {
    fn drop(&mut self) {
        drop(self.0.stdin.take());
        let _ = self.0.wait();
    }
}

/// Browsers whose tests have ended.
static IDLE: Mutex<Vec<(WebDriver, Driver)>> = Mutex::new(Vec::new());

/// A headless Chromium. The session is declared before its driver, so that a panic ends both.
pub struct Browser {
    /// The session.
    pub page: WebDriver,
    driver: Driver,
}

impl Browser {
    /// A browser whose page is `width` x `height`, with nothing of another test in it.
    ///
    /// # Panics
    /// Without chromedriver and chromium; `cargo xtask test` installs both.
    pub async fn start(width: u32, height: u32) -> Self {
        let idle = IDLE.lock().expect("no test ends within").pop();
        let browser = match idle {
            Some((page, driver)) => Self { page, driver },
            None => Self::new().await,
        };
        browser.size(width, height).await;
        browser
    }

    async fn new() -> Self {
        let profile = tempfile::tempdir().expect("a folder").keep();
        let profile = profile.to_str().expect("a path in plain letters");
        let (driver, port) = (0..5)
            .find_map(|_| Driver::start(profile))
            .expect("chromedriver, which takes a port at one of five tries");
        let mut wishes = DesiredCapabilities::chrome();
        let profile = format!("--user-data-dir={profile}");
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
            &profile,
        ] {
            wishes.add_arg(argument).expect("an argument");
        }
        let page = WebDriver::new(format!("http://127.0.0.1:{port}"), wishes)
            .await
            .expect("a browser session");
        Self { page, driver }
    }

    /// Leaves nothing of a test behind: its tabs, what its page kept, its cookies, its network.
    async fn cleared_of(page: &WebDriver) -> Result<(), thirtyfour::error::WebDriverError> {
        let mut tabs = page.windows().await?;
        while tabs.len() > 1 {
            if let Some(tab) = tabs.pop() {
                page.switch_to_window(tab).await?;
                page.close_window().await?;
            }
        }
        page.switch_to_window(tabs.remove(0)).await?;
        let origin = page.current_url().await?.origin().ascii_serialization();
        page.goto("about:blank").await?;
        let cdp = page.cdp();
        let whole = serde_json::json!({ "origin": origin, "storageTypes": "all" });
        cdp.send_raw("Storage.clearDataForOrigin", whole).await?;
        let nothing = || serde_json::json!({});
        // Cookies are kept by host, whatever its port: the next server's page would send them.
        cdp.send_raw("Network.clearBrowserCookies", nothing())
            .await?;
        cdp.send_raw("Network.emulateNetworkConditions", network(false, 0))
            .await?;
        cdp.send_raw("Network.disable", nothing()).await?;
        Ok(())
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

    /// Cuts the page off from the server, as a phone out of reach, or lets it reach it again.
    pub async fn away(&self, away: bool) {
        self.network(away, 0).await;
    }

    /// Makes every answer take so many milliseconds, as at the far end of a barn.
    pub async fn slow(&self, milliseconds: u32) {
        self.network(false, milliseconds).await;
    }

    async fn network(&self, offline: bool, latency: u32) {
        self.page
            .cdp()
            .send_raw("Network.enable", serde_json::json!({}))
            .await
            .expect("the network");
        self.page
            .cdp()
            .send_raw(
                "Network.emulateNetworkConditions",
                network(offline, latency),
            )
            .await
            .expect("the network");
    }

    /// A picture of the page.
    pub async fn picture(&self) -> Vec<u8> {
        self.page.screenshot_as_png().await.expect("a picture")
    }

    /// Gives the browser to the next test; one that cannot be cleared is ended.
    pub async fn end(self) {
        let Self { page, driver } = self;
        let cleared = Self::cleared_of(&page).await;
        if cleared.is_ok() {
            let mut idle = IDLE.lock().expect("no test ends within");
            idle.push((page, driver));
        }
    }
}

fn network(offline: bool, latency: u32) -> serde_json::Value {
    serde_json::json!({
        "offline": offline, "latency": latency, "downloadThroughput": -1, "uploadThroughput": -1
    })
}
