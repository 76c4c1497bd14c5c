//! One picture of each main view, from the demo data: `cargo xtask shots [FOLDER]`.

use iron_twin_e2e::{Bench, Browser, Server};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

async fn take(browser: &Browser, folder: &Path, name: &str, url: &str, ready: &str) {
    browser.page.goto(url).await.expect("the page");
    let _ = browser.find(ready).await;
    shoot(browser, folder, name).await;
}

async fn shoot(browser: &Browser, folder: &Path, name: &str) {
    // Fonts and the last figures settle.
    tokio::time::sleep(std::time::Duration::from_millis(700)).await;
    let path = folder.join(format!("{name}.png"));
    std::fs::write(&path, browser.picture().await).expect("a file");
    println!("{}", path.display());
}

/// The harvest with five trays weighed and the next on the scale, at the desk and on a phone.
async fn weigh(server: &Server, browser: &Browser, folder: &Path, trial: &str) {
    let get = async |path: String| -> Value { serde_json::from_str(&browser.get(&path).await).expect("JSON") };
    let bench = Bench::at(get("/api/v1/instruments".into()).await["bench"].as_str().expect("a bench"));
    let loads = bench.standing().await["loads"].clone();
    let api = format!("/api/v1/trials/{trial}");
    for n in 0..6 {
        let next = get(format!("{api}/weigh")).await["next"].as_str().expect("a code").to_owned();
        if n == 5 {
            bench.does(json!({ "put": next })).await;
            break;
        }
        let own = loads.as_array().expect("loads").iter().find(|l| l["name"] == *next).expect("a load");
        let body = json!({ "code": next, "gross_g": own["gross_g"], "tare_g": 288.4, "version": 0, "confirmed": true });
        browser.post(&format!("{api}/weighings"), &body).await;
    }
    for (name, (width, height)) in [("weigh", (1280, 800)), ("weigh-phone", (390, 844))] {
        browser.size(width, height).await;
        let settled = "[data-testid='live'][data-pan='settled']";
        take(browser, folder, name, &format!("{}/trials/{trial}/weigh", server.address), settled).await;
    }
}

#[tokio::main]
async fn main() {
    let folder = std::env::args().nth(1).map_or_else(|| PathBuf::from("docs/screenshots"), PathBuf::from);
    std::fs::create_dir_all(&folder).expect("a folder");
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let (running, finished) = (browser.demo_trial("Rocket").await, browser.demo_trial("Red").await);
    let at = |trial: &str, station: &str| format!("{}/trials/{trial}/{station}", server.address);
    let wide = [
        ("today", server.address.clone(), ".walk li"),
        ("trials", format!("{}/trials", server.address), ".stake"),
        ("farm", format!("{}/farm", server.address), ".farm-fields"),
        ("stores", format!("{}/stores/feeds", server.address), ".entries li"),
        ("ask", at(&running, "ask"), ".picture .said"),
        ("match", at(&running, "match"), ".sheet-table tbody tr"),
        ("place", at(&running, "place"), ".tray"),
        ("mix", at(&running, "mix"), ".tank"),
        ("tend", at(&running, "tend"), ".grid tbody tr"),
        ("tracks", at(&finished, "tend/tracks"), ".track-plot"),
        ("judge", at(&finished, "judge"), ".twins"),
        ("judge-sealed", at(&running, "judge"), ".judge"),
        ("tell", at(&finished, "tell"), ".report .twins"),
    ];
    for (name, url, ready) in &wide {
        take(&browser, &folder, name, url, ready).await;
    }
    browser.page.goto(at(&running, "mix?part=recipe")).await.expect("the page");
    browser.click("#bench-start").await;
    browser.keys("leafy").await;
    browser.click(".ant-select-item-option[title='leafy greens from salts']").await;
    browser.shows("iron EDTA sodium salt").await;
    browser.click_text("button", "Find the doses").await;
    browser.shows("nothing here brings it").await;
    let _ = browser.page.execute("window.scrollTo(0, 0)", Vec::new()).await.expect("the top of the page");
    shoot(&browser, &folder, "mix-bench").await;
    browser.page.goto(at(&running, "tend")).await.expect("the page");
    browser.click(".small-photo").await;
    browser.find(".photo-figures dd").await;
    let script = "document.querySelector('.photo-bench').scrollIntoView({ block: 'start' })";
    let _ = browser.page.execute(script, Vec::new()).await.expect("the photo in view");
    shoot(&browser, &folder, "photo").await;
    browser.size(390, 844).await;
    let narrow =
        [("today-phone", server.address.clone(), ".walk li"), ("tend-phone", at(&running, "tend"), ".grid tbody tr")];
    for (name, url, ready) in &narrow {
        take(&browser, &folder, name, url, ready).await;
    }
    browser.size(1280, 800).await;
    let ready = browser.demo_trial("Kohlrabi").await;
    weigh(&server, &browser, &folder, &ready).await;
    browser.end().await;
}
