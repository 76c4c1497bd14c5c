//! What treatments are given: names that follow it, a spray against no spray, two solutions in one
//! unit, and what the bench, the calendar and the pouring sheet make of it.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};

async fn type_into(browser: &Browser, field: &str, text: &str) {
    browser.fill(&format!("input[name='{field}']"), text).await;
    browser.keys(Key::Enter).await;
}

#[tokio::test]
async fn a_spray_and_a_drench_are_planned_named_and_measured_out() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Spray and drench").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed.").await;

    // Both fed alike, one sprayed as well: one difference, and the names say it.
    type_into(&browser, "feed-what-0", "grow feed").await;
    browser.shows("Every treatment gets the same").await;
    browser
        .click_text("tr[th[normalize-space(.)='additive']]//button", "differ")
        .await;
    type_into(&browser, "additive-what-1", "seaweed extract").await;
    browser.shows("One difference: additive.").await;
    browser.find("input[value='seaweed extract']").await;
    browser.click_text("button", "More conditions").await;
    browser
        .choose_in("how it is given, additive, seaweed extract", "sprayed")
        .await;
    browser.shows("each tray gets, mL").await;
    browser.find("input[value='seaweed extract sprayed']").await;
    type_into(&browser, "additive-volume-1", "8").await;
    browser
        .choose_in("when, additive, seaweed extract sprayed", "on days")
        .await;
    type_into(&browser, "additive-when-1", "when dry").await;
    browser.shows("'when dry' names no day").await;
    type_into(&browser, "additive-when-1", "5, 9").await;
    browser.shows("One difference: additive.").await;

    // A second feed, drenched beside the tank, for both alike.
    browser.click_text("button", "Another feed").await;
    type_into(&browser, "feed2-what", "fish emulsion").await;
    browser
        .choose_in("how it is given, fish emulsion", "drenched")
        .await;
    browser.shows("One difference: additive.").await;

    // The tank holds the feed alone; spray and drench are measured out beside it.
    browser.click_text("nav//a", "Mix").await;
    browser
        .shows("and sprayed: seaweed extract, 1 × the label dose, on days 5, 9")
        .await;
    browser
        .shows("fish emulsion: how much each gets is not said at Match")
        .await;
    browser.end().await;
}
