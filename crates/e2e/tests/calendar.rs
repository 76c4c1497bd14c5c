//! The calendar, labels and a unit's page as a grower uses them.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};

#[tokio::test]
async fn a_trial_is_planned_labelled_and_its_days_lie_ahead() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Kohlrabi").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("a", "Labels to print").await;
    browser.shows("The codes lead to").await;
    browser.find(".label svg[aria-label*=\"/units/\"]").await;
    let first = browser.find(".label b").await.text().await.expect("a code");
    browser.click_text("a", "Back to Place").await;
    browser.click_text("nav//a", "Tend").await;
    browser.fill("input[name=rotate_every]", "3").await;
    browser.keys(Key::Enter).await;
    browser.click_text("button", "They are sown today").await;
    browser.click_text("a", "Today").await;
    browser.shows("Ahead").await;
    browser.shows("End blackout").await;
    browser.shows("Move to the next slot").await;
    browser.click_text("button", "Add days away").await;
    browser.shows("where to").await;

    // On the phone, as the label's code leads there.
    browser.size(390, 844).await;
    let address = browser.get("/api/v1/trials").await;
    let id = serde_json::from_str::<serde_json::Value>(&address).expect("trials")[0]["id"]
        .as_str()
        .expect("an id")
        .to_owned();
    browser
        .page
        .goto(format!("{}/trials/{id}/units/{first}", server.address))
        .await
        .expect("the page");
    browser.shows(&format!("Tray {first}")).await;
    browser.fill("input[data-place=\"0-0\"]", "6.1").await;
    browser.keys(Key::Enter).await;
    browser.fill("input[name=note]", "a leaf lies flat").await;
    browser.click_text("button", "Add the note").await;
    browser.shows("Day 0: a leaf lies flat").await;
    browser.end().await;
}
