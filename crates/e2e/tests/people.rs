//! An owner lets a recorder in; the recorder records, and what trays get stays sealed for them.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};

async fn sign_in(browser: &Browser, name: &str) {
    browser.fill("input[name=person]", name).await;
    browser
        .fill("input[name=passphrase]", "jars on the sill")
        .await;
    browser.keys(Key::Enter).await;
}

#[tokio::test]
async fn a_recorder_signs_in_and_works_blind() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Kohlrabi").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("Day 0").await;
    browser.click_text("a", "People").await;
    sign_in_as_new(&browser, "Ada").await;
    browser.shows("plans, deals, opens keys").await;
    sign_in_as_new(&browser, "Rec").await;
    browser.shows("reads, weighs, notes").await;
    browser.click("input[name=ask-here]").await;
    browser.shows("Sign in").await;
    sign_in(&browser, "rec").await;
    browser.shows("Rec, recorder").await;
    browser.click_text("a", "Trials").await;
    browser.click_text("a", "Kohlrabi").await;
    browser.click_text("nav//a", "Match").await;
    browser
        .shows("What each treatment gets is sealed for you")
        .await;
    let text = browser.text().await;
    assert!(
        !text.contains("full feed") && !text.contains("plain water"),
        "{text}"
    );
    browser.click_text("nav//a", "Tend").await;
    browser.fill("input[data-place=\"0-0\"]", "6.1").await;
    browser.keys(Key::Enter).await;
    browser.shows("take back “pH of").await;
    browser.click_text("button", "sign out").await;
    browser.shows("Passphrase").await;
    browser.end().await;
}

async fn sign_in_as_new(browser: &Browser, name: &str) {
    browser.fill("input[name=person]", name).await;
    browser
        .fill("input[name=passphrase]", "jars on the sill")
        .await;
    browser.click_text("button", "Let them in").await;
}
