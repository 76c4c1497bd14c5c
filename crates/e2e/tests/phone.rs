//! On a phone no view is wider than the screen: what is wide scrolls inside itself.

use iron_twin_e2e::{Browser, Server};

#[tokio::test]
async fn no_view_is_wider_than_a_phone() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let mut views: Vec<String> = ["", "trials", "stores/feeds", "people"]
        .map(str::to_owned)
        .to_vec();
    let of = |id: &str, stations: &[&str]| -> Vec<String> {
        stations
            .iter()
            .map(|station| format!("trials/{id}/{station}"))
            .collect()
    };
    let mix = [
        "mix?part=tanks",
        "mix?part=recipe",
        "mix?part=filling",
        "mix?part=water",
        "mix?part=topup",
    ];
    views.extend(of(
        &browser.demo_trial("Rocket").await,
        &["ask", "match", "place", "tend", "weigh", "judge", "tell"],
    ));
    views.extend(of(&browser.demo_trial("Rocket").await, &mix));
    views.extend(of(
        &browser.demo_trial("Watercress").await,
        &["mix?part=uptake", "tend"],
    ));
    views.extend(of(&browser.demo_trial("Red").await, &["judge", "tell"]));
    let mut wide = Vec::new();
    for view in &views {
        browser
            .page
            .goto(format!("{}/{view}", server.address))
            .await
            .expect("the page");
        browser.find(".sheet, main").await;
        tokio::time::sleep(std::time::Duration::from_millis(400)).await;
        let width = browser
            .page
            .execute("return document.documentElement.scrollWidth", Vec::new())
            .await;
        let width = width.expect("a width").json().as_i64().expect("a number");
        if width > 390 {
            wide.push(format!("{view}: {width}"));
        }
    }
    assert!(wide.is_empty(), "{wide:#?}");
    browser.end().await;
}
