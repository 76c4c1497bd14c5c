//! A blind tasting in the browser: twelve people on their phones, and one by themselves in three
//! minutes.

use iron_twin_e2e::{Browser, Server};
use serde_json::Value;
use std::collections::BTreeMap;

async fn read(browser: &Browser, path: &str) -> Value {
    serde_json::from_str(&browser.get(path).await).expect("JSON")
}

/// Name of the treatment of each unit, by code.
async fn names(browser: &Browser, trial: &str) -> BTreeMap<String, String> {
    let view = read(browser, &format!("/api/v1/trials/{trial}")).await;
    let name = |unit: &Value| {
        let own = unit["treatment"].as_u64().expect("an index") as usize;
        view["sheet"]["treatments"][own]["name"]
            .as_str()
            .expect("a name")
            .to_owned()
    };
    let units = view["units"].as_array().expect("units");
    units
        .iter()
        .map(|u| (u["code"].as_str().expect("a code").to_owned(), name(u)))
        .collect()
}

/// Ticks what goes into the cups, says that it is fit to eat, and deals them.
async fn begin(browser: &Browser, kind: &str, cups: &[&str]) {
    browser.click_text("label", kind).await;
    for name in cups {
        browser
            .click_text("fieldset[@class='cups']//label", name)
            .await;
    }
    browser.click(".agreed input").await;
    browser.click_text("button", "Deal the cups").await;
}

/// No page is wider than the phone.
async fn fits(browser: &Browser) {
    let width = browser
        .page
        .execute("return document.documentElement.scrollWidth;", vec![])
        .await
        .expect("a width");
    assert_eq!(width.json().as_i64(), Some(390));
}

#[tokio::test]
async fn twelve_people_taste_on_their_phones() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let trial = browser.demo_trial("Red").await;
    let page = format!("{}/trials/{trial}/weigh/tasting", server.address);
    browser.page.goto(&page).await.expect("the page");
    browser.shows("Before anybody tastes").await;
    // What so many could see stands there before anything is cut.
    browser.click_text("label", "Which is the odd one?").await;
    browser
        .shows("8 of 12 must find the odd cup before it tells")
        .await;
    begin(
        &browser,
        "How much is each liked?",
        &["plain water", "half feed", "full feed"],
    )
    .await;
    browser.shows("0 of 12 have answered").await;
    browser
        .click_text("button", "Show what goes into which cup")
        .await;
    browser.find(".runs tbody tr:nth-child(12)").await;
    assert_eq!(browser.axe_faults().await, Vec::<String>::new());
    browser.click_text("a", "Cards with QR codes").await;
    browser.find(".seat-card:nth-child(12) .qr").await;
    assert_eq!(browser.axe_faults().await, Vec::<String>::new());
    // The demo's own tasting stands before it.
    let own =
        read(&browser, &format!("/api/v1/trials/{trial}/tastings")).await["tastings"][1].clone();
    let cards = format!(
        "/api/v1/trials/{trial}/tastings/{}/cards?base={}",
        own["no"], server.address
    );
    let cards = read(&browser, &cards).await;
    let names = names(&browser, &trial).await;
    browser.size(390, 844).await;
    for (seat, card) in cards.as_array().expect("cards").iter().enumerate() {
        browser
            .page
            .goto(card["link"].as_str().expect("a link"))
            .await
            .expect("the page");
        browser.shows(&format!("Seat {}", seat + 1)).await;
        for (place, cup) in own["seats"][seat]["cups"]
            .as_array()
            .expect("cups")
            .iter()
            .enumerate()
        {
            // Everybody uses the scale otherwise; full feed is liked two points better, half feed
            // as much as plain water.
            let better = if names[cup["from"][0].as_str().expect("a code")] == "full feed" {
                2
            } else {
                0
            };
            let point = 3 + seat % 4 + better;
            browser
                .click(&format!(
                    ".cup:nth-of-type({}) .points label:nth-child({point}) input",
                    place + 1
                ))
                .await;
        }
        if seat == 0 {
            assert_eq!(browser.axe_faults().await, Vec::<String>::new());
            fits(&browser).await;
        }
        if seat == 4 {
            // Out of reach: what was said stays on the phone, also when the page is opened anew.
            browser.away(true).await;
            browser.click_text("button", "Send").await;
            browser.shows("stays on this phone").await;
            browser.away(false).await;
            browser.page.refresh().await.expect("the page");
            browser
                .find(".cup:nth-of-type(3) .points input:checked")
                .await;
        }
        browser.click_text("button", "Send").await;
        browser.shows("Thank you, it is kept").await;
    }
    browser.size(1280, 800).await;
    browser.page.goto(&page).await.expect("the page");
    browser.shows("12 of 12 have answered").await;
    browser.click_text("button", "Close it").await;
    browser
        .shows(
            "Full feed is liked better than plain water: 12 of 12 gave it more points, none \
                   fewer (6.5 against 4.5 of 9).",
        )
        .await;
    browser
        .shows(
            "Whether half feed is liked better than plain water cannot be told: none of 12 \
                   gave it more points, none fewer, 12 as many",
        )
        .await;
    assert_eq!(browser.axe_faults().await, Vec::<String>::new());
    // The report tells it too.
    browser
        .page
        .goto(format!("{}/trials/{trial}/tell", server.address))
        .await
        .expect("the page");
    browser
        .shows("Full feed is liked better than plain water: 12 of 12")
        .await;
    // The seats are closed.
    browser
        .page
        .goto(cards[0]["link"].as_str().expect("a link"))
        .await
        .expect("the page");
    browser.shows("This tasting is over").await;
    browser.no_faults().await;
    browser.end().await;
}

#[tokio::test]
async fn one_person_tastes_blind_to_themselves() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let trial = browser.demo_trial("Red").await;
    let names = names(&browser, &trial).await;
    browser
        .page
        .goto(format!("{}/trials/{trial}/weigh/tasting", server.address))
        .await
        .expect("the page");
    // What the demo's own tasting told stands above.
    browser.find(".told tbody").await;
    fits(&browser).await;
    begin(&browser, "Three minutes", &["plain water", "full feed"]).await;
    for serving in 1..=6 {
        browser.shows(&format!("Serving {serving} of 6")).await;
        // Which was better is said before anybody looks.
        let left_is_full = serving % 2 == 0;
        let (better, worse) = if left_is_full { (1, 2) } else { (2, 1) };
        browser
            .click(&format!(".which button:nth-of-type({better})"))
            .await;
        browser
            .click(&format!(
                "fieldset:nth-of-type({better}) label:nth-child(8) input"
            ))
            .await;
        browser
            .click(&format!(
                "fieldset:nth-of-type({worse}) label:nth-child(5) input"
            ))
            .await;
        if serving == 1 {
            assert_eq!(browser.axe_faults().await, Vec::<String>::new());
        }
        browser.click_text("button", "Keep it, then look").await;
        browser.shows("Now look under the cups").await;
        let view = read(&browser, &format!("/api/v1/trials/{trial}/tastings")).await;
        let cups = view["tastings"][1]["seats"][serving - 1]["cups"]
            .as_array()
            .expect("cups")
            .clone();
        let codes: Vec<&str> = cups
            .iter()
            .map(|c| c["from"][0].as_str().expect("a code"))
            .collect();
        let full = codes
            .iter()
            .position(|code| names[*code] == "full feed")
            .expect("one");
        let left = if left_is_full {
            codes[full]
        } else {
            codes[1 - full]
        };
        browser.click_text("div[@role='group']//button", left).await;
    }
    browser.shows("All servings are tasted").await;
    browser.click_text("button", "Close it").await;
    browser
        .shows("6 of 6 preferred full feed to plain water: it is preferred.")
        .await;
    browser
        .shows(
            "Full feed is liked better than plain water: 6 of 6 gave it more points, none \
                   fewer (8.0 against 5.0 of 9).",
        )
        .await;
    browser.shows("It is told of one taster").await;
    fits(&browser).await;
    browser.no_faults().await;
    browser.end().await;
}
