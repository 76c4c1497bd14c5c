//! The demo as a newcomer meets it, at the desk and on a phone.

use iron_twin_e2e::{Browser, Server};

#[tokio::test]
async fn the_finished_trial_says_what_was_learned() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    browser.click_text("a", "Red amaranth").await;
    browser.shows("Full feed").await;
    browser.shows("you said would matter").await;
    browser.shows("Fairness ledger").await;
    browser.click_text("nav//a", "Tell").await;
    browser.shows("What was learned").await;
    browser
        .shows("the opened key is the one that was sealed")
        .await;
    browser.end().await;
}

/// Nothing may stick out sideways on a phone, and what the thumb taps is large enough.
#[tokio::test]
async fn the_shelf_screens_fit_a_phone() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    browser.shows("Read pH and EC").await;
    let wide = "return document.documentElement.scrollWidth";
    let width = |value: serde_json::Value| value.as_u64().expect("a width");
    assert!(
        width(
            browser
                .page
                .execute(wide, vec![])
                .await
                .expect("a width")
                .json()
                .clone()
        ) <= 390
    );
    browser.click_text("a", "Rocket").await;
    let field = browser.find("input[data-place='0-0']").await;
    let size = field.rect().await.expect("a rectangle");
    assert!(size.height >= 44.0, "a field of {} px", size.height);
    for station in ["Weigh", "Tend"] {
        browser.click_text("nav//a", station).await;
        let _ = browser
            .find(if station == "Weigh" {
                ".codebig"
            } else {
                ".grid"
            })
            .await;
        let width = width(
            browser
                .page
                .execute(wide, vec![])
                .await
                .expect("a width")
                .json()
                .clone(),
        );
        assert!(width <= 390, "{station} is {width} px wide");
    }
    let text = browser.text().await;
    assert!(
        !text.contains("half feed") && !text.contains("full feed\n"),
        "the blind holds at the shelf: {text}"
    );
    browser.end().await;
}

/// A newcomer's own farm is empty: one button starts, another shows invented trials, which can be
/// put away again.
#[tokio::test]
async fn an_empty_farm_offers_examples_and_they_can_be_put_away() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    browser.click_text("button", "Show me the examples").await;
    browser.shows("Example: Red amaranth").await;
    browser.click_text("a", "Trials").await;
    for name in ["Red amaranth", "Rocket", "Watercress", "Kohlrabi"] {
        browser
            .click(&format!("button[aria-label^='put away Example: {name}']"))
            .await;
        let _ = browser
            .find(&format!("button[aria-label^='bring back Example: {name}']"))
            .await;
    }
    browser.click_text("a", "Today").await;
    browser.shows("Plan your first trial").await;
    assert!(
        !browser.text().await.contains("Show me the examples"),
        "there are trials already, put away or not"
    );
    browser.click_text("a", "Trials").await;
    browser
        .click("button[aria-label^='bring back Example: Rocket']")
        .await;
    let _ = browser
        .find("button[aria-label^='put away Example: Rocket']")
        .await;
    browser.end().await;
}
