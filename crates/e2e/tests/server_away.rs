//! A phone out of reach of the server: what is recorded is kept, sent when it is back, and what is
//! not taken then is asked about.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

#[tokio::test]
async fn weights_taken_out_of_reach_arrive_later_and_an_odd_one_is_asked_about() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/weigh", server.address))
        .await
        .expect("the page");
    // A scale stands there; what is out of reach is typed.
    browser.click_text("button", "type it instead").await;
    browser.fill("input[name=tare]", "288").await;
    for (i, gross) in ["380.5", "378.2", "383.1"].iter().enumerate() {
        browser.fill("input[name=gross]", gross).await;
        browser.keys(Key::Enter).await;
        browser.shows(&format!("{} of 12 weighed", i + 1)).await;
    }
    browser.away(true).await;
    // The second is far from the others: nobody is there to ask.
    for (kept, gross) in [(1, "381.4"), (2, "310")] {
        browser.fill("input[name=gross]", gross).await;
        browser.keys(Key::Enter).await;
        browser
            .shows(&format!("{kept} kept here, sent when it is back"))
            .await;
    }
    browser.away(false).await;
    browser.shows("4 of 12 weighed").await;
    browser
        .click_text("button", "1 record was not taken: look")
        .await;
    browser.shows("310 g gross, 288 g tare").await;
    browser.shows("far from the others").await;
    browser.no_faults_here().await;
    browser.click_text("button", "It is right").await;
    browser.shows("5 of 12 weighed").await;
    browser.gone(".kept-records").await;
    let weighed: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}/weigh")).await)
            .expect("JSON");
    let mut gross: Vec<f64> = weighed["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .filter_map(|r| r["gross_g"].as_f64())
        .collect();
    gross.sort_by(f64::total_cmp);
    assert_eq!(gross, [310.0, 378.2, 380.5, 381.4, 383.1]);
    browser.end().await;
}
