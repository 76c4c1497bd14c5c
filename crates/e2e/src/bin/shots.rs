//! One picture of each main view, from the demo data: `cargo xtask shots [FOLDER]`.

use iron_twin_e2e::{Browser, Server};
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
        ("weigh", at(&running, "weigh"), ".ticks button"),
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
    let narrow = [
        ("today-phone", server.address.clone(), ".walk li"),
        ("tend-phone", at(&running, "tend"), ".grid tbody tr"),
        ("weigh-phone", at(&running, "weigh"), ".ticks button"),
    ];
    for (name, url, ready) in &narrow {
        take(&browser, &folder, name, url, ready).await;
    }
    browser.end().await;
}
