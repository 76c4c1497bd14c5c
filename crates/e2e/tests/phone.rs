//! On a phone no view is wider than the screen: what is wide scrolls inside itself.

use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

#[tokio::test]
async fn no_view_is_wider_than_a_phone() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let today: Value = serde_json::from_str(&browser.get("/api/v1/today").await).expect("JSON");
    let id = |name: &str| {
        let stakes = today["stakes"].as_array().expect("trials");
        let stake = stakes.iter().find(|s| s["name"].as_str().is_some_and(|n| n.starts_with(name)));
        stake.expect("a demo trial")["id"].as_str().expect("an id").to_owned()
    };
    let mut views: Vec<String> = ["", "trials", "stores/feeds", "people"].map(str::to_owned).to_vec();
    let of = |id: &str, stations: &[&str]| -> Vec<String> {
        stations.iter().map(|station| format!("trials/{id}/{station}")).collect()
    };
    let mix = ["mix?part=tanks", "mix?part=recipe", "mix?part=filling", "mix?part=water", "mix?part=topup"];
    views.extend(of(&id("Rocket"), &["ask", "match", "place", "tend", "weigh", "judge", "tell"]));
    views.extend(of(&id("Rocket"), &mix));
    views.extend(of(&id("Watercress"), &["mix?part=uptake", "tend"]));
    views.extend(of(&id("Red"), &["judge", "tell"]));
    let mut wide = Vec::new();
    for view in &views {
        browser.page.goto(format!("{}/{view}", server.address)).await.expect("the page");
        browser.find(".sheet, main").await;
        tokio::time::sleep(std::time::Duration::from_millis(400)).await;
        let width = browser.page.execute("return document.documentElement.scrollWidth", Vec::new()).await;
        let width = width.expect("a width").json().as_i64().expect("a number");
        if width > 390 {
            wide.push(format!("{view}: {width}"));
        }
    }
    assert!(wide.is_empty(), "{wide:#?}");
    browser.end().await;
}
