//! Every page under axe-core, the open rules for what screen readers and keyboards need: no fault at either size.

use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

/// The faults that axe-core finds on the page as it stands: rule, what is wrong, where.
async fn faults(browser: &Browser, axe: &str) -> Vec<String> {
    // What the bar at the foot covers is scrolled free; here it would count as a target cut small.
    let free = "document.head.insertAdjacentHTML('beforeend', '<style>.edge { position: static !important; }</style>')";
    browser.page.execute(free, vec![]).await.expect("a style");
    browser.page.execute(axe, vec![]).await.expect("axe-core");
    let script = "const done = arguments[0]; axe.run(document, { resultTypes: ['violations'], \
                  rules: { 'target-size': { enabled: true }, 'label-content-name-mismatch': { enabled: true } } }).then(r => done(JSON.stringify(\
                  r.violations.map(v => `${v.id} (${v.impact}): ${v.help}: ${v.nodes.map(n => n.html.slice(0, 160)).slice(0, 3).join(' | ')}`))), \
                  e => done(JSON.stringify([String(e)])))";
    let found = browser.page.execute_async(script, vec![]).await.expect("an answer");
    serde_json::from_str(&found.convert::<String>().expect("text")).expect("a list")
}

#[tokio::test]
async fn no_page_has_a_fault_that_axe_finds() {
    let file = concat!(env!("CARGO_MANIFEST_DIR"), "/../../web/node_modules/axe-core/axe.min.js");
    let axe = std::fs::read_to_string(file).expect("axe-core, which npm ci brings");
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let (running, finished, watercress) =
        (browser.demo_trial("Rocket").await, browser.demo_trial("Red").await, browser.demo_trial("Watercress").await);
    let trial = browser.get(&format!("/api/v1/trials/{running}")).await;
    let trial: Value = serde_json::from_str(&trial).expect("JSON");
    let code = trial["units"][0]["code"].as_str().expect("a code").to_owned();
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
            browser.page.goto(format!("{}{path}", server.address)).await.expect("the page");
            let _ = browser.find(ready).await;
            let here = faults(&browser, &axe).await;
            found.extend(here.into_iter().map(|fault| format!("{width} {}: {fault}", path.replace(&running, "…"))));
        }
    }
    browser.end().await;
    assert!(found.is_empty(), "{} faults:\n{}", found.len(), found.join("\n"));
}
