//! Killed processes and lost replies: what was acknowledged is there, what was not is sent again.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server, record};
use serde_json::{Value, json};

async fn post(browser: &Browser, path: &str, body: Value) -> Value {
    let script = "const done = arguments[2]; fetch(arguments[0], { method: arguments[1].method, body: JSON.stringify(arguments[1].body) }).then(r \
                  => r.text()).then(t => done(t || 'null'), e => done('\"lost\"'));";
    let method = if path.ends_with("/rack") {
        "PUT"
    } else {
        "POST"
    };
    let sent = vec![json!(path), json!({ "method": method, "body": body })];
    let answer = browser
        .page
        .execute_async(script, sent)
        .await
        .expect("an answer");
    serde_json::from_str(&answer.convert::<String>().expect("text")).expect("JSON")
}

async fn sown(browser: &Browser) -> (String, Vec<String>) {
    let trial = post(browser, "/api/v1/trials", json!({ "name": "Cress" })).await;
    let id = trial["id"].as_str().expect("an id").to_owned();
    let at = |rest: &str| format!("/api/v1/trials/{id}/{rest}");
    let rack = json!({ "rack": { "name": "rack", "levels": 3, "slots": 2 }, "version": 1 });
    post(browser, &at("rack"), rack).await;
    let dealt = post(browser, &at("deal"), json!({ "version": 2 })).await;
    post(
        browser,
        &at("records"),
        record("work", json!({ "job": "sow", "date": "2026-01-01" })),
    )
    .await;
    let codes = dealt["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned());
    (id.clone(), codes.collect())
}

/// Records are written one after the other and the process is killed in between: every acknowledged
/// one is there.
#[tokio::test]
async fn a_killed_process_loses_no_acknowledged_record() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let (id, codes) = sown(&browser).await;
    let script = "const [id, codes] = [arguments[0], arguments[1]]; window.acknowledged = []; \
                  (async () => { for (let day = 0; day < 300; day++) for (const code of codes) { const body = JSON.stringify({ format: 1, records: [{ kind: 'reading', head: { unit: code, day, version: 0 }, body: { reading: 'ph', value: 6 + (day % 9) / 10 } }] }); const r = await fetch(`/api/v1/trials/${id}/records`, { method: 'POST', body }); if (r.ok) window.acknowledged.push([code, day]); } })();";
    browser
        .page
        .execute(script, vec![json!(id), json!(codes)])
        .await
        .expect("a start");
    let acknowledged = async || {
        let list = browser
            .page
            .execute("return window.acknowledged", vec![])
            .await
            .expect("a list");
        list.json().as_array().expect("a list").clone()
    };
    // A slow disk takes longer for the same twenty records; the kill comes while more are on their
    // way.
    let patience = std::time::Instant::now();
    while acknowledged().await.len() < 20 {
        assert!(
            patience.elapsed().as_secs() < 120,
            "the server takes no records"
        );
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    let (data, _folder) = server.kill();
    tokio::time::sleep(std::time::Duration::from_millis(200)).await;
    let kept = acknowledged().await;
    assert!(
        kept.len() < 300 * codes.len(),
        "the kill came after the last record"
    );

    let again = Server::on("serve", data);
    browser.page.goto(&again.address).await.expect("the page");
    for day in 0..=kept.last().expect("a record")[1].as_u64().expect("a day") {
        let view: Value = serde_json::from_str(
            &browser
                .get(&format!("/api/v1/trials/{id}/tend?day={day}"))
                .await,
        )
        .expect("JSON");
        for record in kept.iter().filter(|r| r[1] == day) {
            let row = view["rows"]
                .as_array()
                .expect("rows")
                .iter()
                .find(|r| r["unit"]["code"] == record[0])
                .expect("a row");
            assert!(
                row["cells"][0]["value"].is_number(),
                "lost: tray {} on day {day}",
                record[0]
            );
        }
    }
    browser.end().await;
}

/// The server goes away while weighing; the weight is kept in the page, and arrives once when the
/// server is back.
#[tokio::test]
async fn a_weight_taken_without_an_answer_is_kept_and_sent_again() {
    let server = Server::fresh("serve");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let (id, _) = sown(&browser).await;
    let port = server
        .address
        .rsplit(':')
        .next()
        .expect("a port")
        .to_owned();
    browser
        .page
        .goto(format!("{}/trials/{id}/weigh", server.address))
        .await
        .expect("the page");
    browser.fill("input[name=tare]", "20").await;
    let (data, _folder) = server.kill();
    browser.fill("input[name=gross]", "120").await;
    browser.keys(Key::Enter).await;
    browser.shows("1 kept here").await;
    let again = Server::at("serve", data, &port);
    browser.shows("all saved").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/weigh", again.address))
        .await
        .expect("the page");
    browser.shows("1 of 6 weighed").await;
    browser.end().await;
}
