//! Stores and Match as a grower uses them: a feed from its label, what is behind the names, a
//! second factor crossed in.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};

#[tokio::test]
async fn a_feed_from_its_label_is_seen_through_at_match() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser
        .page
        .goto(format!("{}/stores", server.address))
        .await
        .expect("the page");
    browser.click_text("button", "Add a feed").await;
    for (field, value) in [
        ("name", "green bottle"),
        ("source", "its label"),
        ("dose_per_l", "2"),
        ("density_kg_per_l", "1,2"),
    ] {
        browser
            .fill(&format!("input[name=entry-{field}]"), value)
            .await;
    }
    browser.click("#entry-form").await;
    browser.click(".ant-select-item-option[title=liquid]").await;
    browser.fill("input[name=entry-n_percent]", "300").await;
    browser.click_text("button", "Keep it").await;
    browser.shows("n_percent: must lie between 0 and 100").await;
    browser.fill("input[name=entry-n_percent]", "5").await;
    browser.click_text("button", "Keep it").await;
    browser.shows("density 1.2 kg/L").await;

    browser.new_trial(&server, "Two bottles").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed. Whatever").await;
    browser.click_text("button", "another").await;
    browser.find("input[value='full feed (2)']").await;
    browser
        .fill("input[name=feed-what-2]", "green bottle")
        .await;
    browser.keys(Key::Enter).await;
    // 2 mL/L of 1.2 kg/L at 5 % is 120 mg/L, and 2 stand in the tap water.
    browser.shows("122").await;
    browser.shows("a difference behind the names").await;
    browser.click("#basis").await;
    browser
        .click(".ant-select-item-option[title=\"all at the same nitrogen\"]")
        .await;
    browser.shows("One difference by name: feed").await;
    browser.end().await;
}

#[tokio::test]
async fn a_second_factor_is_crossed_in_with_three_clicks() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Feed and mat").await;
    browser.click_text("nav//a", "Match").await;
    browser
        .click_text("button", "Cross in a second factor")
        .await;
    browser.click("#cross-condition").await;
    browser.click(".ant-select-item-option[title=medium]").await;
    browser.fill("input[name=cross-value]", "coir mat").await;
    browser.click_text("button", "Make it 4 treatments").await;
    browser
        .shows("feed and medium crossed: every combination is grown")
        .await;
    browser.click_text("button", "More conditions").await;
    browser.shows("dry before the cut, days").await;
    browser.end().await;
}
