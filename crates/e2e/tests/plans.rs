//! A plan as a file: taken out at Tell, changed by hand, brought at Trials; and the next round of a
//! trial.

use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

#[tokio::test]
async fn a_plan_is_taken_out_changed_by_hand_and_brought() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser
        .page
        .goto(format!("{}/trials", server.address))
        .await
        .expect("the page");
    browser
        .click_text("a", "Red amaranth, how strong a feed?")
        .await;
    browser.click_text("nav//a", "Tell").await;
    let link = browser.find_text("a", "Download the trial's plan").await;
    let path = link.attr("href").await.expect("a link").expect("a place");
    let plan: Value = serde_json::from_str(&browser.get(&path).await).expect("a plan");
    let folder = tempfile::tempdir().expect("a folder");
    let bring = async |name: &str, text: &str| {
        let file = folder.path().join(name);
        std::fs::write(&file, text).expect("a file");
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
    };
    bring("note.json", "not a plan").await;
    browser.shows("This file is no plan").await;
    let mut odd = plan.clone();
    odd["care"]["moon"] = "full".into();
    bring("odd.json", &odd.to_string()).await;
    browser.shows("plan has no key `moon`").await;
    let mut sparse = plan.clone();
    sparse["name"] = "From a friend".into();
    sparse.as_object_mut().expect("a plan").remove("care");
    bring("sparse.json", &sparse.to_string()).await;
    browser.shows("From a friend").await;
    browser.click_text("nav//a", "Match").await;
    browser.find("input[value='two thirds feed']").await;
    browser.end().await;
}

#[tokio::test]
async fn the_next_round_is_planned_with_one_click() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser
        .page
        .goto(format!("{}/trials", server.address))
        .await
        .expect("the page");
    browser
        .click_text("a", "Red amaranth, how strong a feed?")
        .await;
    browser.click_text("nav//a", "Tell").await;
    browser.click_text("button", "plan the next round").await;
    browser
        .shows("Red amaranth, how strong a feed?, round 2")
        .await;
    browser.shows("being planned").await;
    browser.click_text("nav//a", "Place").await;
    browser.find_text("button", "Deal the treatments").await;
    browser.end().await;
}

/// What is offered before sowing is taken up with one tap, and kept.
#[tokio::test]
async fn a_place_is_taken_out_before_sowing() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Window end").await;
    browser.shows("Before you sow").await;
    browser.click(".cautions input[type=checkbox]").await;
    browser.shows("all saved").await;
    browser.page.refresh().await.expect("the page again");
    browser.find(".cautions input[type=checkbox]:checked").await;
    let path = browser
        .page
        .current_url()
        .await
        .expect("an address")
        .path()
        .to_owned();
    let id = path.split('/').nth(2).expect("a trial").to_owned();
    let kept: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}")).await).expect("JSON");
    assert_eq!(
        (
            kept["ask"]["covariate"].as_str(),
            kept["cautions"][0]["taken"].as_bool()
        ),
        (Some("slot"), Some(true))
    );
    browser.end().await;
}
