//! The ledger in the page: what is said to a finding, the weather outdoors on a phone, and what a
//! trial earns.

use iron_twin_e2e::{Browser, Server, record};
use serde_json::{Value, json};

#[tokio::test]
async fn a_finding_is_answered_and_money_is_told() {
    let server = Server::fresh("demo");
    let page = Browser::start(1280, 800).await;
    page.page.goto(&server.address).await.expect("the page");
    let id = page.demo_trial("Red").await;
    page.page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    page.shows("Believe it: nothing was found that could have made it, as far as it reaches.")
        .await;
    page.shows("Full feed earns €").await;
    page.shows("calibrated in time: pH meter, EC meter, scale")
        .await;
    // Four treatments; the picture says its ends to who does not see it.
    let rows =
        "return document.querySelector('.money .numbers').querySelectorAll('tbody tr').length";
    let count = |found: Value| found.as_u64().expect("a number");
    assert_eq!(
        count(
            page.page
                .execute(rows, vec![])
                .await
                .expect("a script")
                .json()
                .clone()
        ),
        4
    );
    let label = page
        .find(".money svg")
        .await
        .attr("aria-label")
        .await
        .expect("a label")
        .expect("a label");
    assert!(label.starts_with("very likely between €"), "{label}");
    page.click(".finding button[aria-label='answer “narrow claim”']")
        .await;
    page.fill("textarea[name=answer]", "the roof is next").await;
    assert!(
        page.axe_faults().await.is_empty(),
        "{:?}",
        page.axe_faults().await
    );
    page.click_text("button", "Keep it").await;
    page.shows("Answer: the roof is next").await;
    page.click_text("nav//a", "Tell").await;
    page.shows(
        "Run the same trial again in another week; the rounds can be pooled. Answer: the \
                roof is next",
    )
    .await;
    // A dearer kWh, and another sign, are told at once.
    page.page
        .goto(format!("{}/farm", server.address))
        .await
        .expect("the page");
    page.fill("input[name=price-currency]", "£").await;
    page.click_text("button", "Keep the prices").await;
    page.shows("Kept.").await;
    page.page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    page.shows("Full feed earns £").await;
    page.no_faults().await;
    page.end().await;
}

#[tokio::test]
async fn the_weather_is_entered_on_a_phone() {
    let server = Server::fresh("serve");
    let page = Browser::start(390, 844).await;
    page.new_trial(&server, "Spinach plots").await;
    let api = page.api_of_trial().await;
    let trial: Value = serde_json::from_str(&page.get(&api).await).expect("JSON");
    let rack =
        json!({ "name": "field", "levels": 4, "slots": 2, "design": "blocks", "kind": "sites" });
    let body = json!({ "rack": rack, "version": trial["version"] });
    let version = page.put(&format!("{api}/rack"), &body).await["version"].clone();
    page.post(&format!("{api}/deal"), &json!({ "version": version }))
        .await;
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::ToSpan::days(4))
        .expect("a date")
        .to_string();
    page.post(
        &format!("{api}/records"),
        &record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    let id = api.rsplit('/').next().expect("an id").to_owned();
    page.page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    page.shows("Nothing is on record yet.").await;
    page.fill("input[name=rain_mm]", "4,5").await;
    page.fill("input[name=low_c]", "-1").await;
    page.click_text("button", "Enter the weather").await;
    page.find(".weather-days tbody tr").await;
    page.shows("4.5").await;
    assert!(
        page.axe_faults().await.is_empty(),
        "{:?}",
        page.axe_faults().await
    );
    let wide = page
        .page
        .execute("return document.documentElement.scrollWidth", vec![])
        .await
        .expect("a script");
    assert_eq!(wide.json(), &json!(390));
    page.fill("input[name=low_c]", "30").await;
    page.fill("input[name=high_c]", "9").await;
    page.click_text("button", "Enter the weather").await;
    page.shows("The lowest lies above the highest").await;
    page.end().await;
}
