//! A server that answers late: whoever types on meanwhile loses nothing, and one change does not undo
//! the one before it.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

/// Longer than it takes to type the next thing.
const LATE_MS: u32 = 1500;

async fn trial(browser: &Browser) -> Value {
    let path = browser.api_of_trial().await;
    serde_json::from_str(&browser.get(&path).await).expect("JSON")
}

#[tokio::test]
async fn a_plan_typed_faster_than_it_is_answered_is_kept_whole() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Far end of the barn").await;
    browser.click_text("nav//a", "Place").await;
    browser.choose("space-kind", "bench with jars").await;
    browser.click(".level-names summary").await;
    let before = trial(&browser).await["rack"]["levels"].as_u64();
    browser.slow(LATE_MS).await;
    // Each is left for the next before its answer is there.
    for (field, typed) in [
        ("rack-name", "bench by the door"),
        ("rack-slots", "6"),
        ("level-name-1", "front"),
        ("level-name-2", "back"),
    ] {
        let field = format!("input[name='{field}']");
        browser.fill(&field, typed).await;
    }
    browser.keys(Key::Enter).await;
    browser.choose("design", "freely over all places").await;
    browser.click_text("nav//a", "Match").await;
    browser.fill("input[name='treatment-1']", "half").await;
    browser.keys(Key::Enter).await;
    browser
        .fill("input[name='feed-what-1']", "garlic brew")
        .await;
    browser.keys(Key::Enter).await;
    browser.slow(0).await;
    browser.gone(".ant-btn-loading").await;
    for _ in 0..100 {
        if trial(&browser).await["sheet"]
            .to_string()
            .contains("garlic brew")
        {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let now = trial(&browser).await;
    let rack = &now["rack"];
    assert_eq!(rack["name"], "bench by the door", "{rack}");
    assert_eq!(rack["slots"], 6, "{rack}");
    assert_eq!(rack["levels"].as_u64(), before, "{rack}");
    assert_eq!(rack["kind"], "bench", "{rack}");
    assert_eq!(rack["design"], "completely_randomised", "{rack}");
    assert_eq!(
        (&rack["names"][0], &rack["names"][1]),
        (&"front".into(), &"back".into()),
        "{rack}"
    );
    let sheet = now["sheet"].to_string();
    assert!(
        sheet.contains("\"half\"") && sheet.contains("garlic brew"),
        "{sheet}"
    );
    browser.end().await;
}

#[tokio::test]
async fn a_weight_typed_while_the_one_before_is_recorded_is_the_next_ones() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    let address = format!("{}/trials/{id}/weigh", server.address);
    browser.page.goto(address).await.expect("the page");
    browser.click_text("button", "type it instead").await;
    browser.fill("input[name=tare]", "288").await;
    let code = async || {
        let shown = browser.find(".codebig").await;
        shown
            .attr("data-key")
            .await
            .expect("a page")
            .expect("a code")
    };
    let first = code().await;
    browser.fill("input[name=gross]", "380.5").await;
    browser.slow(LATE_MS).await;
    browser.keys(Key::Enter).await;
    // The record is answered, what is next is not: the field is empty, and the old tray is shown.
    let emptied = "input[name=gross][value='']";
    browser.find(emptied).await;
    assert_eq!(code().await, first, "what is next cannot be known yet");
    browser.keys_on("input[name=gross]", "378.2").await;
    browser.gone(&format!(".codebig[data-key='{first}']")).await;
    browser.slow(0).await;
    browser.keys(Key::Enter).await;
    browser.shows("2 of 12 weighed").await;
    let rows = browser.get(&format!("/api/v1/trials/{id}/weigh")).await;
    let rows: Value = serde_json::from_str(&rows).expect("JSON");
    let mut gross: Vec<f64> = rows["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .filter_map(|r| r["gross_g"].as_f64())
        .collect();
    gross.sort_by(f64::total_cmp);
    assert_eq!(gross, [378.2, 380.5]);
    browser.end().await;
}
