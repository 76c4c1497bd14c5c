//! What each station says when something is not as it should be, and how it is mended there.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};

async fn running_demo(server: &Server, browser: &Browser, station: &str) {
    browser.page.goto(&server.address).await.expect("the page");
    browser.click_text("a", "Rocket").await;
    // Today has links of its own to stations of other trials.
    browser.click_text("nav//a", station).await;
}

#[tokio::test]
async fn a_second_difference_is_said_at_once_and_mended() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Mustard on two mats").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed").await;
    browser.click_text("button", "half feed").await;
    browser.shows("3 treatments, 1 difference").await;
    browser
        .click_text("tr[th[normalize-space(.)='medium']]//button", "differ")
        .await;
    browser.fill("input[name=medium-1]", "coir mat").await;
    browser.keys(Key::Enter).await;
    browser
        .shows("Several differences at once: feed, medium")
        .await;
    browser.shows("more than one difference").await;
    browser
        .click_text(
            "tr[th[normalize-space(.)='medium']]//button",
            "same for all",
        )
        .await;
    browser.shows("One difference: feed").await;
    // A dose that makes no sense is refused beside the sheet, and the sheet is kept.
    browser.fill("input[name=feed-dose-1]", "lots").await;
    browser.keys(Key::Enter).await;
    browser.shows("'lots' is not a number").await;
    browser.end().await;
}

#[tokio::test]
async fn a_sealed_plan_changes_only_with_a_reason_and_shows_it() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    running_demo(&server, &browser, "Ask").await;
    browser.shows("The first record has sealed this plan").await;
    browser.fill("input[name=margin]", "15").await;
    browser.click_text("button", "Keep the change").await;
    browser.shows("say why it changes").await;
    browser
        .fill("input[name=reason]", "the buyer pays less for small gains")
        .await;
    browser.click_text("button", "Keep the change").await;
    browser.shows("margin: 10% → 15%").await;
    browser.shows("goal posts moved").await;
    browser.end().await;
}

#[tokio::test]
async fn a_lost_tray_is_written_off_with_its_reason_and_taken_back() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    running_demo(&server, &browser, "Weigh").await;
    browser.shows("The plan is to cut on day 11").await;
    let code = browser.find(".codebig").await.text().await.expect("a code");
    browser.click_text("button", "this tray is lost").await;
    browser
        .fill("input[name=lost]", "mould from the edge")
        .await;
    browser.click_text("button", "Write it off").await;
    browser.shows("1 of 12 trays was written off").await;
    browser
        .click(&format!(".ticks button[data-code='{code}']"))
        .await;
    browser.click_text("button", "it is not lost").await;
    browser.shows("this tray is lost").await;
    browser.end().await;
}

#[tokio::test]
async fn an_unlikely_weight_is_asked_about_and_an_impossible_one_refused() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    running_demo(&server, &browser, "Weigh").await;
    browser.click_text("button", "type it instead").await;
    for (i, gross) in ["380.5", "378.2", "383.1"].iter().enumerate() {
        if i == 0 {
            browser.fill("input[name=tare]", "288").await;
        }
        browser.fill("input[name=gross]", gross).await;
        browser.keys(Key::Enter).await;
        browser.shows(&format!("{} of 12 weighed", i + 1)).await;
    }
    browser.fill("input[name=gross]", "38.1").await;
    browser.keys(Key::Enter).await;
    browser
        .shows("the tray alone (288 g) cannot weigh more")
        .await;
    browser.fill("input[name=gross]", "310").await;
    browser.keys(Key::Enter).await;
    browser.shows("is far from the others").await;
    browser.keys(Key::Enter).await;
    browser.shows("4 of 12 weighed").await;
    browser.click_text("button", "take back").await;
    browser.shows("3 of 12 weighed").await;
    browser.end().await;
}

#[tokio::test]
async fn an_early_look_is_possible_and_stays_in_the_ledger() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    running_demo(&server, &browser, "Weigh").await;
    browser.click_text("button", "type it instead").await;
    browser.fill("input[name=tare]", "288").await;
    browser.fill("input[name=gross]", "380").await;
    browser.keys(Key::Enter).await;
    browser.shows("1 of 12 weighed").await;
    browser.click_text("nav//a", "Judge").await;
    browser.shows("Sealed: 1 of 12 trays are weighed.").await;
    browser
        .fill("[name=reveal-reason]", "to see what it tells")
        .await;
    browser.click_text("button", "Open it all the same").await;
    browser.past_the_letters().await;
    browser
        .shows("The key was opened on day 5 of 11 with 1 of 12 trays weighed.")
        .await;
    browser.shows("lost all its rows").await;
    browser.end().await;
}

#[tokio::test]
async fn keys_are_told_on_a_question_mark_and_the_pouring_sheet_leaves_its_trace() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    running_demo(&server, &browser, "Mix").await;
    browser
        .page
        .active_element()
        .await
        .expect("a focus")
        .send_keys("?")
        .await
        .expect("keys");
    browser
        .shows("take the value and go on to the next tray")
        .await;
    browser.keys(Key::Escape).await;
    browser.click_text("button", "Open the pouring sheet").await;
    browser.shows("250 mL each to").await;
    browser.shows("was opened once").await;
    browser.end().await;
}

/// The page saves at a pause in typing; whoever walks on faster must not lose the last words.
#[tokio::test]
async fn walking_on_at_once_keeps_what_was_typed() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Mustard").await;
    browser
        .fill(
            "textarea[name=question]",
            "Does mustard want light on day 3?",
        )
        .await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference").await;
    browser.click_text("nav//a", "Tell").await;
    browser.shows("Does mustard want light on day 3?").await;
    browser.end().await;
}

/// Enter sends and leaving the field would send again; quick corrections of one tray never clash
/// with themselves.
#[tokio::test]
async fn quick_corrections_keep_the_last_value_and_clash_with_nobody() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    running_demo(&server, &browser, "Tend").await;
    let code = browser
        .find(".grid tbody th b")
        .await
        .text()
        .await
        .expect("a code");
    for value in ["6.1", "6.2", "6.3"] {
        browser.fill("input[data-place='0-0']", value).await;
        browser.keys(Key::Enter).await;
    }
    browser
        .shows(&format!("take back “pH of {code}: 6.3”"))
        .await;
    let path = browser
        .page
        .current_url()
        .await
        .expect("an address")
        .path()
        .replace("/trials/", "/api/v1/trials/");
    let mut stored = serde_json::Value::Null;
    for _ in 0..100 {
        let view: serde_json::Value =
            serde_json::from_str(&browser.get(&path).await).expect("JSON");
        stored = view["rows"][0]["cells"][0]["value"].clone();
        if stored == 6.3 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_eq!(stored, 6.3);
    assert!(
        !browser.text().await.contains("Somebody else"),
        "{}",
        browser.text().await
    );
    browser.end().await;
}

/// Enter takes what was typed, and so does leaving the field; before the answer has come that is
/// still one thing given.
#[tokio::test]
async fn what_is_typed_while_the_answer_is_slow_is_given_once() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Slow barn").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed").await;
    browser.slow(900).await;
    browser.fill("input[name=feed-what-0]", "grow feed").await;
    browser.keys(Key::Enter).await;
    browser
        .click_text(
            "tr[th[contains(normalize-space(.), 'light hours')]]//button",
            "differ",
        )
        .await;
    browser.fill("input[name=light_hours-1]", "12").await;
    browser.keys(Key::Enter).await;
    browser.shows("One difference: light hours").await;
    browser.slow(0).await;
    let address = browser.page.current_url().await.expect("an address");
    let id = address.path().split('/').nth(2).expect("an id").to_owned();
    let trial: serde_json::Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}")).await).expect("JSON");
    for treatment in trial["sheet"]["treatments"].as_array().expect("treatments") {
        assert_eq!(
            treatment["applications"].as_array().map(Vec::len),
            Some(1),
            "{treatment}"
        );
    }
    browser.end().await;
}
