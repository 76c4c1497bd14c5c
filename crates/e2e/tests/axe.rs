//! Every page under axe-core, the open rules for what screen readers and keyboards need: no fault
//! at either size.

use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

#[tokio::test]
async fn no_page_has_a_fault_that_axe_finds() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let (running, finished, watercress) = (
        browser.demo_trial("Rocket").await,
        browser.demo_trial("Red").await,
        browser.demo_trial("Watercress").await,
    );
    let trial = browser.get(&format!("/api/v1/trials/{running}")).await;
    let trial: Value = serde_json::from_str(&trial).expect("JSON");
    let code = trial["units"][0]["code"]
        .as_str()
        .expect("a code")
        .to_owned();
    let mut pages: Vec<(String, &str)> = [
        ("/", ".walk li"),
        ("/trials", ".stake"),
        ("/stores/feeds", ".entries li"),
        ("/stores/waters", ".entries li"),
        ("/people", ".add-person"),
        ("/farm", ".farm-fields"),
    ]
    .map(|(path, ready)| (path.to_owned(), ready))
    .into();
    for (trial, station, ready) in [
        (&running, "ask", ".picture .said"),
        (&running, "match", ".sheet-table tbody tr"),
        (&running, "place", ".tray"),
        (&running, "mix", ".tank"),
        (&running, "mix?part=filling", ".order"),
        (&running, "mix?part=recipe", "#bench-start"),
        (&watercress, "mix?part=uptake", ".uptake tbody tr"),
        (&running, "tend", ".grid tbody tr"),
        (&running, "weigh", ".ticks button"),
        (&finished, "weigh/tasting", ".told"),
        (&finished, "judge", ".twins"),
        (&running, "judge", ".judge"),
        (&finished, "tell", ".report .twins"),
        (&running, "labels", ".labels, .label"),
    ] {
        pages.push((format!("/trials/{trial}/{station}"), ready));
    }
    pages.push((format!("/trials/{running}/units/{code}"), "main"));
    let mut found: Vec<String> = Vec::new();
    for (width, height) in [(1280, 800), (390, 844)] {
        browser.size(width, height).await;
        for (path, ready) in &pages {
            browser
                .page
                .goto(format!("{}{path}", server.address))
                .await
                .expect("the page");
            let _ = browser.find(ready).await;
            // What is folded away is looked at too.
            let unfold = "document.querySelectorAll('details').forEach(d => d.open = true)";
            browser
                .page
                .execute(unfold, vec![])
                .await
                .expect("unfolded");
            let here = browser.axe_faults().await;
            found.extend(
                here.into_iter()
                    .map(|fault| format!("{width} {}: {fault}", path.replace(&running, "…"))),
            );
        }
        for (path, opens, shows) in [
            ("/".to_owned(), "button[aria-label='Keys']", "[role=dialog]"),
            (
                format!("/trials/{running}/ask"),
                ".ant-select",
                ".ant-select-dropdown .ant-select-item",
            ),
            (
                format!("/trials/{running}/tend"),
                ".notes .ant-select",
                ".ant-select-dropdown .ant-select-item",
            ),
            (
                format!("/trials/{running}/weigh"),
                ".net > .plain",
                ".writeoff",
            ),
        ] {
            // A phone has no keys to tell of.
            if width < 500 && opens.contains("Keys") {
                continue;
            }
            browser
                .page
                .goto(format!("{}{path}", server.address))
                .await
                .expect("the page");
            browser.click(opens).await;
            browser.find(shows).await;
            let here = browser.axe_faults().await;
            found.extend(
                here.into_iter()
                    .map(|fault| format!("{width} {path}, {shows}: {fault}")),
            );
        }
    }
    browser.end().await;
    assert!(
        found.is_empty(),
        "{} faults:\n{}",
        found.len(),
        found.join("\n")
    );
}
