//! What counts as one: a lamp over a shelf, proposed where light is what differs; pairs that leave
//! a treatment out in turn.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};
use serde_json::{Value, json};

/// Brings a plan, and opens the trial made of it.
async fn brought(server: &Server, browser: &Browser, plan: &Value) {
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("plan.json");
    std::fs::write(&file, plan.to_string()).expect("a file");
    browser
        .page
        .goto(format!("{}/trials", server.address))
        .await
        .expect("the page");
    let input = browser.find("input[name=plan]").await;
    input
        .send_keys(file.to_string_lossy())
        .await
        .expect("a file to bring");
    browser
        .find_text("h1", plan["name"].as_str().expect("a name"))
        .await;
}

/// A plan in which the hours of light differ.
fn by_light() -> Value {
    let treatment = |control: bool, hours: &str| {
        json!({
            "name": format!("{hours} lamp hours"), "control": control,
            "conditions": { "light_hours": hours },
        })
    };
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
    browser.click_text("nav//a", "Place").await;
    browser
        .shows("What differs (light hours) comes from a lamp. How far does one reach?")
        .await;
    browser
        .click_text("button", "one lamp serves a whole level")
        .await;
    browser
        .shows("a level counts as one, however many trays stand on it")
        .await;
    browser.shows("4 lamps x 4").await;
    browser.gone(".reach.asked").await;
    browser.click_text("nav//a", "Ask").await;
    browser.shows("The trays under one lamp are averaged").await;
    assert_eq!(
        browser
            .find("[data-testid=units-each]")
            .await
            .text()
            .await
            .expect("a number"),
        "2"
    );
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("one of 6 ways").await;
    // It was dealt on the question: taken back, every tray counts again.
    browser
        .click_text("button", "each tray has its own lamp")
        .await;
    browser.shows("4 levels x 4").await;
    browser.end().await;
}

#[tokio::test]
async fn crops_of_single_rows_are_typed_and_told() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Two crops").await;
    browser.click_text("nav//a", "Place").await;
    browser.click(".level-names summary").await;
    for (level, crop) in [(1, "basil"), (2, "dill"), (3, "basil"), (4, "dill")] {
        browser
            .fill(&format!("input[name=level-crop-{level}]"), crop)
            .await;
        browser.keys(Key::Enter).await;
        browser.shows(&format!("level {level}, {crop}")).await;
    }
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("a", "Labels to print").await;
    browser.shows("level 3, basil, slot 1").await;
    browser.end().await;
}

#[tokio::test]
async fn days_of_judgement_and_weights_of_plants_are_planned_and_taken() {
    let server = Server::fresh("serve");
    let browser = Browser::start(390, 844).await;
    let mut plan = by_light();
    plan["name"] = json!("Leeks");
    plan["ask"]["samples_inside"] = json!(2);
    plan["rack"] =
        json!({ "name": "deck", "kind": "buckets", "levels": 1, "slots": 4, "design": "pairs" });
    brought(&server, &browser, &plan).await;
    browser.click_text("nav//a", "Ask").await;
    browser.click(".judged-days summary").await;
    browser.fill("input[name=judged-height]", "day 7").await;
    browser.find(".judged-days .ant-input-status-error").await;
    browser.fill("input[name=judged-height]", "7, 11").await;
    browser.keys(Key::Tab).await;
    browser.click("#weigh-samples").await;
    browser.shows("0 of 8 plants").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("Day 0").await;
    browser.click_text("nav//a", "Weigh").await;
    browser.shows("plant 1").await;
    // Plants lie on the pan by themselves: that is said, and not taken for granted.
    browser.shows("it is never taken as nothing").await;
    browser.click_text("button", "set to zero with it: 0").await;
    browser.fill("input[name=gross]", "31").await;
    browser.keys(Key::Enter).await;
    browser.shows("plant 2").await;
    // Its neighbour is gone: the next bucket is on the scale, and the gap stays in sight.
    browser
        .click_text("button", "This plant is gone: on to the next")
        .await;
    browser.shows("plant 1").await;
    browser.fill("input[name=gross]", "33").await;
    browser.keys(Key::Enter).await;
    browser.shows("2 of 8 plants").await;
    browser.end().await;
}

/// After the first record a starting size is changed with a reason, and both stand with what was
/// asked.
#[tokio::test]
async fn a_starting_size_after_the_first_record_wants_a_reason() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Sizes").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("button", "Starting size").await;
    let first = "input[name='start-4-1']";
    browser.fill(first, "21").await;
    browser.keys(Key::Enter).await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.fill("tbody input", "6.1").await;
    browser.keys(Key::Enter).await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Starting size").await;
    browser.find(&format!("{first}:disabled")).await;
    browser
        .fill("input[name=place-reason]", "read off the wrong line")
        .await;
    browser.find(&format!("{first}:enabled")).await;
    browser.fill(first, "24").await;
    browser.keys(Key::Enter).await;
    browser.click_text("nav//a", "Ask").await;
    browser.shows("starting sizes").await;
    browser.shows("(read off the wrong line)").await;
    browser.end().await;
}
