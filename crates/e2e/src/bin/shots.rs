//! One picture of each main view, from the demo data: `cargo xtask shots [FOLDER]`.

use iron_twin_e2e::{Bench, Browser, Server, record};
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

/// The harvest with five trays weighed and the next on the scale.
async fn weigh(server: &Server, browser: &Browser, folder: &Path, trial: &str) {
    let get = async |path: String| -> Value {
        serde_json::from_str(&browser.get(&path).await).expect("JSON")
    };
    let bench = Bench::at(
        get("/api/v1/instruments".into()).await["bench"]
            .as_str()
            .expect("a bench"),
    );
    let loads = bench.standing().await["loads"].clone();
    let api = format!("/api/v1/trials/{trial}");
    for n in 0..6 {
        let next = get(format!("{api}/weigh")).await["next"]
            .as_str()
            .expect("a code")
            .to_owned();
        if n == 5 {
            bench.does(json!({ "put": next })).await;
            break;
        }
        let own = loads
            .as_array()
            .expect("loads")
            .iter()
            .find(|l| l["name"] == *next)
            .expect("a load");
        let body = json!({
            "code": next, "gross_g": own["gross_g"], "tare_g": 288.4, "version": 0,
            "confirmed": true,
        });
        browser
            .post(&format!("{api}/records"), &record("weighing", body))
            .await;
    }
    let settled = "[data-testid='live'][data-pan='settled']";
    take(
        browser,
        folder,
        "weigh",
        &format!("{}/trials/{trial}/weigh", server.address),
        settled,
    )
    .await;
}

/// What a tasting told, and the page of a taster at the next one.
async fn tasting(server: &Server, browser: &Browser, folder: &Path, trial: &str) {
    let api = format!("/api/v1/trials/{trial}/tastings");
    take(
        browser,
        folder,
        "tasting",
        &format!("{}/trials/{trial}/weigh/tasting", server.address),
        ".told",
    )
    .await;
    let body = json!({
        "asked": "liking", "way": "served", "of": [0, 2, 3], "attributes": ["bitter"], "seats": 6,
        "hours": 2,
    });
    let begun: Value = serde_json::from_str(&browser.post_for(&api, &body).await).expect("JSON");
    let no = &begun["tastings"]
        .as_array()
        .expect("tastings")
        .last()
        .expect("one")["no"];
    let cards = browser
        .get(&format!("{api}/{no}/cards?base={}", server.address))
        .await;
    let cards: Value = serde_json::from_str(&cards).expect("JSON");
    browser.size(390, 844).await;
    take(
        browser,
        folder,
        "tasting-phone",
        cards[0]["link"].as_str().expect("a link"),
        ".points",
    )
    .await;
    browser.size(1280, 800).await;
}

/// The recipe bench, with doses found for an aim.
async fn recipe_bench(browser: &Browser, folder: &Path, url: &str) {
    browser.page.goto(url).await.expect("the page");
    browser.click("#bench-start").await;
    browser.keys("leafy").await;
    browser
        .click(".ant-select-item-option[title='leafy greens from salts']")
        .await;
    browser.shows("iron EDTA sodium salt").await;
    browser.click_text("button", "Find the doses").await;
    browser.shows("nothing here brings it").await;
    let _ = browser
        .page
        .execute("window.scrollTo(0, 0)", Vec::new())
        .await
        .expect("the top of the page");
    shoot(browser, folder, "mix-bench").await;
}

/// A photo with its marks and figures.
async fn photo(browser: &Browser, folder: &Path, url: &str) {
    browser.page.goto(url).await.expect("the page");
    browser.click(".small-photo").await;
    browser.find(".photo-figures dd").await;
    let script = "document.querySelector('.photo-bench').scrollIntoView({ block: 'start' })";
    let _ = browser
        .page
        .execute(script, Vec::new())
        .await
        .expect("the photo in view");
    shoot(browser, folder, "photo").await;
}

#[tokio::main]
async fn main() {
    let folder = std::env::args()
        .nth(1)
        .map_or_else(|| PathBuf::from("docs/screenshots"), PathBuf::from);
    std::fs::create_dir_all(&folder).expect("a folder");
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let (running, finished) = (
        browser.demo_trial("Rocket").await,
        browser.demo_trial("Red").await,
    );
    let at = |trial: &str, station: &str| format!("{}/trials/{trial}/{station}", server.address);
    let wide = [
        ("today", server.address.clone(), ".walk li"),
        ("trials", format!("{}/trials", server.address), ".stake"),
        ("farm", format!("{}/farm", server.address), ".farm-fields"),
        (
            "stores",
            format!("{}/stores/feeds", server.address),
            ".entries li",
        ),
        ("ask", at(&running, "ask"), ".picture .said"),
        ("match", at(&running, "match"), ".sheet-table tbody tr"),
        ("place", at(&running, "place"), ".tray"),
        ("mix", at(&running, "mix"), ".tank"),
        ("tend", at(&running, "tend"), ".grid tbody tr"),
        ("tracks", at(&finished, "tend/tracks"), ".track-plot"),
        ("judge", at(&finished, "judge"), ".twins"),
        ("tell", at(&finished, "tell"), ".report .twins"),
    ];
    for (name, url, ready) in &wide {
        take(&browser, &folder, name, url, ready).await;
    }
    recipe_bench(&browser, &folder, &at(&running, "mix?part=recipe")).await;
    photo(&browser, &folder, &at(&running, "tend")).await;
    browser.size(390, 844).await;
    let narrow = [
        ("today-phone", server.address.clone(), ".walk li"),
        ("tend-phone", at(&running, "tend"), ".grid tbody tr"),
    ];
    for (name, url, ready) in &narrow {
        take(&browser, &folder, name, url, ready).await;
    }
    browser.size(1280, 800).await;
    let ready = browser.demo_trial("Kohlrabi").await;
    weigh(&server, &browser, &folder, &ready).await;
    tasting(&server, &browser, &folder, &finished).await;
    browser.end().await;
}
