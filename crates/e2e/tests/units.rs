//! What counts as a unit: cuttings of a tub read one by one and judged by the tub; six of one
//! against two of the other.

use iron_twin_e2e::thirtyfour::{By, Key};
use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

#[tokio::test]
async fn a_tub_of_three_cuttings_against_another_is_one_against_one() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Mint in two tubs").await;
    browser
        .fill(
            "textarea[name=question]",
            "Do cuttings grow faster in feed?",
        )
        .await;
    browser.choose("measure", "height").await;
    browser
        .choose("samples-inside", "3 plants or cuttings in each")
        .await;
    browser
        .shows("more plants make a tray's figure steadier")
        .await;
    browser.click_text("nav//a", "Match").await;
    browser.click_text("nav//a", "Place").await;
    browser.choose("space-kind", "buckets in rows").await;
    browser.choose("design", "freely over all places").await;
    browser.fill("input[name=rack-levels]", "1").await;
    browser.fill("input[name=rack-slots]", "2").await;
    browser.keys(Key::Enter).await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("Day 0").await;
    let fields = browser
        .page
        .find_all(By::Css("table.grid tbody tr"))
        .await
        .expect("rows");
    assert_eq!(fields.len(), 6, "a row for each cutting");
    // pH and EC are of the tub: one field in the row of its first cutting. The height is of each
    // cutting.
    browser.find("input[data-place=\"0-2\"]").await;
    browser.fill("input[data-place=\"0-2\"]", "31").await;
    for height in ["32", "33", "61", "62", "63"] {
        browser.keys(Key::Enter).await;
        browser.keys(height).await;
    }
    browser.keys(Key::Enter).await;
    browser.shows("all saved").await;
    let grid: Value = serde_json::from_str(
        &browser
            .get(&format!("{}/tend", browser.api_of_trial().await))
            .await,
    )
    .expect("JSON");
    let heights = grid["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .map(|row| row["cells"][2]["value"].as_f64());
    assert_eq!(
        heights.collect::<Vec<_>>(),
        [31.0, 32.0, 33.0, 61.0, 62.0, 63.0].map(Some),
        "three in each of two tubs"
    );
    // The last is taken back: the second tub was short of one. It has no field any more, and Enter
    // walks past it.
    browser.click(".daybar .undo").await;
    browser.find("input[data-place=\"5-2\"][value='']").await;
    browser.click(".samples-gone summary").await;
    browser
        .click(".samples-gone .plants > div:nth-child(2) button:nth-of-type(3)")
        .await;
    browser.click_text("label", "was never there").await;
    browser.no_faults().await;
    browser.click_text("button", "Take this plant out").await;
    browser.find("td.sample-gone").await;
    assert_eq!(
        browser
            .page
            .find_all(By::Css("td.sample-gone"))
            .await
            .expect("cells")
            .len(),
        1
    );
    browser.gone("input[data-place=\"5-2\"]").await;
    browser.click("input[data-place=\"4-2\"]").await;
    browser.keys("62").await;
    browser.keys(Key::Enter).await;
    assert!(
        browser.has_focus("input[data-place=\"0-2\"]").await
            || browser.has_focus("input[data-place=\"0-3\"]").await
    );
    // The last height is taken back where it stands, and not from a page of the plan.
    browser.find(".daybar .undo").await;
    browser.click_text("nav//a", "Place").await;
    browser.shows("The deal").await;
    browser.gone(".step-back .undo").await;
    browser.click_text("nav//a", "Judge").await;
    browser.shows("Opening now is an early look").await;
    browser
        .fill("[name=reveal-reason]", "to see what it tells")
        .await;
    browser.click_text("button", "Open it all the same").await;
    browser.past_the_letters().await;
    browser.shows("stand in one unit each").await;
    browser.end().await;
}

#[tokio::test]
async fn six_trays_against_two_are_dealt_at_random() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Six and two").await;
    // What the list does not have is made by hand, and recorded like the others.
    browser.click_text("summary", "A measure of your own").await;
    browser
        .fill("input[name=own-name]", "gloss of the leaves")
        .await;
    browser.choose("own-kind", "grades, by eye").await;
    for (n, words) in ["dull", "matt", "shiny"].into_iter().enumerate() {
        browser
            .fill(&format!("input[name=own-grade-{}]", n + 1), words)
            .await;
    }
    browser.no_faults().await;
    browser
        .click_text("button", "Record it in this trial")
        .await;
    browser.shows("all saved").await;
    browser.click_text("nav//a", "Place").await;
    browser.choose("design", "freely over all places").await;
    browser
        .click_text("button", "Not as many trays of each")
        .await;
    browser.fill("input[name=number-0]", "2").await;
    browser.keys(Key::Tab).await;
    browser.fill("input[name=number-1]", "6").await;
    browser.keys(Key::Enter).await;
    browser.shows("8 trays freely").await;
    // A change of the plan is taken back as a whole.
    browser
        .click_text("button", "take back the change of the space")
        .await;
    browser.shows("10 trays freely").await;
    let second = browser.find("input[name=number-1]").await;
    assert_eq!(second.value().await.expect("a value").as_deref(), Some("8"));
    browser.fill("input[name=number-1]", "6").await;
    browser.keys(Key::Enter).await;
    browser.shows("8 trays freely").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("28").await;
    // Dealt upon, it is no longer offered.
    browser.gone(".step-back .undo").await;
    let trays = browser
        .page
        .find_all(By::Css(".rack .tray"))
        .await
        .expect("trays");
    assert_eq!(trays.len(), 8);
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser
        .find("input[aria-label^='gloss of the leaves']")
        .await;
    browser.end().await;
}
