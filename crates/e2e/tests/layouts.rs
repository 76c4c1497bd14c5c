//! What counts as one: a lamp over a shelf, proposed where light is what differs; pairs that leave a treatment out in turn.

use iron_twin_e2e::{Browser, Server};
use serde_json::{Value, json};

/// Brings a plan, and opens the trial made of it.
async fn brought(server: &Server, browser: &Browser, plan: &Value) {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("plan.json");
    std::fs::write(&file, plan.to_string()).expect("a file");
    browser.page.goto(format!("{}/trials", server.address)).await.expect("the page");
    let input = browser.find("input[name=plan]").await;
    input.send_keys(file.to_string_lossy()).await.expect("a file to bring");
    browser.find_text("h1", plan["name"].as_str().expect("a name")).await;
}

/// A plan in which the hours of light differ.
fn by_light() -> Value {
    let treatment = |control: bool, hours: &str| json!({ "name": format!("{hours} lamp hours"), "control": control, "conditions": { "light_hours": hours } });
    json!({
        "format": "iron-twin/trial-plan/1", "name": "Lamp hours",
        "ask": { "question": "Does pak choi need sixteen hours of light?", "crop": "pak choi" },
        "sheet": { "treatments": [treatment(true, "12"), treatment(false, "16")] },
        "rack": { "name": "rack", "levels": 4, "slots": 4 }
    })
}

#[tokio::test]
async fn a_lamp_over_a_shelf_is_proposed_as_the_unit() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    brought(&server, &browser, &by_light()).await;
    browser.click_text("a", "Place").await;
    browser.shows("What differs (light hours) comes from a lamp. How far does one reach?").await;
    browser.click_text("button", "one lamp serves a whole level").await;
    browser.shows("a level counts as one, however many trays stand on it").await;
    browser.shows("4 lamps x 4").await;
    browser.gone(".reach.asked").await;
    browser.click_text("a", "Ask").await;
    browser.shows("The trays under one lamp are averaged").await;
    assert_eq!(browser.find("[data-testid=units-each]").await.text().await.expect("a number"), "2");
    browser.click_text("a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("one of 6 ways").await;
    // It was dealt on the question: taken back, every tray counts again.
    browser.click_text("button", "each tray has its own lamp").await;
    browser.shows("4 levels x 4").await;
    browser.end().await;
}
