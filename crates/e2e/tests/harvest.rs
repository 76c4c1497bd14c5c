//! The harvest at the scale: sixteen trays by one key each, while cables are pulled.

use iron_twin_e2e::{Bench, Browser, Server};
use serde_json::{Value, json};
use thirtyfour::Key;

/// The harvest as the program has it.
async fn harvest(browser: &Browser) -> Value {
    let path = format!("{}/weigh", browser.api_of_trial().await);
    serde_json::from_str(&browser.get(&path).await).expect("the harvest")
}

async fn code(browser: &Browser) -> String {
    browser.find(".codebig").await.text().await.expect("a code")
}

const SETTLED: &str = "[data-testid='live'][data-pan='settled']";
const EMPTY: &str = "[data-testid='live'][data-pan='empty']";

#[tokio::test]
async fn sixteen_trays_by_sixteen_keys_through_a_cable_pull_and_an_overload() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let trial = browser.demo_trial("Kohlrabi").await;
    browser.page.goto(format!("{}/trials/{trial}/weigh", server.address)).await.expect("the page");
    let bench = Bench::at(&browser.find(".setting a[target]").await.attr("href").await.expect("a link").expect("one"));
    let loads = bench.standing().await["loads"].clone();
    let load = |code: &str| {
        let own = loads.as_array().expect("loads").iter().find(|l| l["name"] == code).expect("a load");
        (own["gross_g"].as_f64().expect("g"), own["tare_g"].as_f64().expect("g"))
    };
    browser.find(EMPTY).await;
    // No tare is taken as nothing: it is asked for, and weighed on the scale itself.
    assert!(browser.text().await.contains("never taken as nothing"));
    let first = code(&browser).await;
    let tare_g = load(&first).1;
    bench.does(json!({ "put_empty": first })).await;
    browser.find(SETTLED).await;
    assert!(!browser.find(".now button[type='submit']").await.is_enabled().await.expect("a button"), "no tare yet");
    browser.click_text("button", "weigh the empty one").await;
    browser.gone(".tare .ask").await;
    bench.does(json!("lift")).await;
    browser.find(EMPTY).await;
    let (mut keys, mut codes) = (0, Vec::new());
    while codes.len() < 16 {
        let now = code(&browser).await;
        match codes.len() {
            4 => {
                // The cable is out: it says so, takes nothing, and comes back by itself.
                bench.does(json!({ "fail": "cable_out" })).await;
                bench.does(json!({ "put": now })).await;
                browser.shows("is the cable in?").await;
                assert!(!browser.find(".now button[type='submit']").await.is_enabled().await.expect("a button"));
                assert_eq!(harvest(&browser).await["weighed"], 4);
                bench.does(json!({ "fail": "none" })).await;
            }
            9 => {
                bench.does(json!("put_too_much")).await;
                browser.shows("Too heavy for this scale").await;
                assert!(!browser.find(".now button[type='submit']").await.is_enabled().await.expect("a button"));
                bench.does(json!("lift")).await;
                browser.find(EMPTY).await;
                bench.does(json!({ "put": now })).await;
            }
            _ => bench.does(json!({ "put": now })).await,
        }
        browser.find(SETTLED).await;
        browser.keys(Key::Enter + "").await;
        keys += 1;
        codes.push(now);
        browser.shows(&format!("{} of 16 weighed", codes.len())).await;
        // The same load is not taken for the next tray.
        if codes.len() < 16 {
            browser.find("[data-testid='live'][data-pan='taken']").await;
            bench.does(json!("lift")).await;
            browser.find(EMPTY).await;
        }
    }
    assert_eq!(keys, 16);
    browser.shows("All trays are weighed").await;
    let view = harvest(&browser).await;
    let rows = view["rows"].as_array().expect("rows");
    // In the order in which the program called them, each with its own weight.
    assert_eq!(rows.iter().map(|r| r["code"].as_str().expect("a code")).collect::<Vec<_>>(), codes);
    for row in rows {
        let gross = load(row["code"].as_str().expect("a code")).0;
        let off = row["gross_g"].as_f64().expect("g") - gross;
        assert!(off.abs() < 0.16, "{row}");
        assert!((row["tare_g"].as_f64().expect("g") - tare_g).abs() < 0.16, "{row}");
    }
    let truth: f64 = codes.iter().map(|code| load(code).0 - tare_g).sum();
    assert!((view["total_g"].as_f64().expect("g") - truth).abs() < 16.0 * 0.3, "{truth}");
    // By the hand's walk they come otherwise.
    let path = format!("{}/weigh?turn=walking", browser.api_of_trial().await);
    let walking: Value = serde_json::from_str(&browser.get(&path).await).expect("the harvest");
    assert_ne!(walking["rows"].as_array().expect("rows").iter().map(|r| r["code"].clone()).collect::<Vec<_>>(), codes);
    browser.no_faults().await;
    browser.end().await;
}

/// A weight that is put in the place of another is named; one's own second weight is no quarrel with somebody else.
#[tokio::test]
async fn a_weight_is_replaced_by_name() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let trial = browser.demo_trial("Kohlrabi").await;
    browser.page.goto(format!("{}/trials/{trial}/weigh", server.address)).await.expect("the page");
    let first = code(&browser).await;
    browser.click_text("button", "type it instead").await;
    browser.fill("input[name='gross']", "412.8").await;
    browser.fill("input[name='tare']", "288").await;
    browser.keys(Key::Enter + "").await;
    browser.shows("1 of 16 weighed").await;
    browser.click(&format!(".ticks button[data-code='{first}']")).await;
    browser.shows(&format!("Replace the 124.8 g of {first}")).await;
    browser.click_text("button", "type it instead").await;
    browser.fill("input[name='gross']", "413.9").await;
    browser.keys(Key::Enter + "").await;
    browser.shows("125.9 g so far").await;
    // Another page of the same grower does not know of it yet: it is asked which counts.
    let behind = json!({ "code": first, "gross_g": 420.0, "tare_g": 288.0, "version": 0 });
    let path = format!("{}/weighings", browser.api_of_trial().await);
    let said = browser.post_for(&path, &behind).await;
    assert!(said.contains(&format!("{first} has 125.9 g from you already. Put 132 g in its place?")), "{said}");
    browser.no_faults().await;
    browser.end().await;
}
