//! After the verdict in the page: all measures, the scorecard by dragging, a decision, and the
//! trial that follows; on a phone each verdict in three lines.

use iron_twin_e2e::{Browser, Server, record};
use serde_json::{Value, json};

async fn script(page: &Browser, source: &str) -> Value {
    page.page
        .execute(source, vec![])
        .await
        .expect("a script")
        .json()
        .clone()
}

#[tokio::test]
async fn what_now() {
    let server = Server::fresh("demo");
    let page = Browser::start(1280, 800).await;
    page.page.goto(&server.address).await.expect("the page");
    let id = page.demo_trial("Red").await;
    page.page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    page.shows(
        "Full feed and two thirds feed tie for the first place; half feed and plain water \
                are surely behind.",
    )
    .await;
    page.find(".side-by-side tbody tr").await;
    assert_eq!(
        script(
            &page,
            "return document.querySelectorAll('.side-by-side .difference').length"
        )
        .await,
        json!(6)
    );
    // By keyboard: what it costs to the end, the harvest to nothing. Then plain water wins.
    page.shows("Full feed wins with").await;
    page.find("[aria-label='How much cost matters (home)']")
        .await
        .send_keys("\u{E010}")
        .await
        .expect("keys");
    page.shows("Two thirds feed wins with").await;
    page.find("[aria-label='How much harvest weight matters (home)']")
        .await
        .send_keys("\u{E011}")
        .await
        .expect("keys");
    page.shows("Plain water wins with").await;
    page.click_text("button", "market").await;
    page.shows("Full feed wins with").await;
    // Why the others lagged: the feed's nutrients go together, and one trial would give each alone.
    page.shows("little nitrogen").await;
    page.shows("They go together here: this trial cannot say which of them it is.")
        .await;
    // What each dose gave, with the one that is enough; of the height also how it grew.
    page.find("[data-shown=doses] .enough-dose").await;
    page.click(".measures [role=tab]:nth-of-type(2)").await;
    page.find("[data-shown=growth]").await;
    page.shows("a logistic curve through the means").await;
    // A decision with its reason, and one more beside it.
    page.shows(
        "The figures say: Adopt full feed. Full feed was better by more than would matter. \
                Two thirds feed cannot be told from it",
    )
    .await;
    page.fill("input[name=decide-reason]", "it pays on the roof")
        .await;
    page.click_text("button", "Keep this decision").await;
    page.shows("Decided: Adopt full feed: it pays on the roof")
        .await;
    assert!(
        page.axe_faults().await.is_empty(),
        "{:?}",
        page.axe_faults().await
    );
    // The report says how far it can be believed, and what was decided; each sentence stands in it
    // once.
    page.page
        .goto(format!("{}/trials/{id}/tell", server.address))
        .await
        .expect("the page");
    page.shows("What was decided").await;
    page.shows("it pays on the roof").await;
    page.shows("Believe it: nothing was found that could have made it")
        .await;
    let both = "return [...document.querySelectorAll('.verdicts p, .verdicts \
                details')].filter((p) => p.offsetParent !== null).length";
    // Three sentences, and on what they rest.
    assert_eq!(script(&page, both).await, json!(4));
    page.find(".report [data-shown=doses]").await;
    assert!(
        page.axe_faults().await.is_empty(),
        "{:?}",
        page.axe_faults().await
    );
    page.page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    // What ties is planned with one press; the new trial says what was decided.
    page.click("li[data-key=tied] button").await;
    page.shows("Decided before on red amaranth").await;
    page.shows("it pays on the roof").await;
    let api = page.api_of_trial().await;
    let made: Value = serde_json::from_str(&page.get(&api).await).expect("JSON");
    assert_eq!(
        made["name"],
        json!("Red amaranth, how strong a feed?, only the best")
    );
    assert_eq!(
        made["sheet"]["treatments"]
            .as_array()
            .expect("treatments")
            .len(),
        3
    );
    page.no_faults().await;
    page.end().await;
}

/// Basil cut in three waves; these treatments give small leaves too, which have no price. The
/// height is judged on three days.
async fn basil_in_waves(page: &Browser, small: &[usize]) -> String {
    let text = page
        .post_for(
            "/api/v1/trials",
            &json!({ "name": "Basil in waves", "crop": "basil" }),
        )
        .await;
    let made: Value = serde_json::from_str(&text).expect("JSON");
    let id = made["id"].as_str().expect("an id").to_owned();
    let api = format!("/api/v1/trials/{id}");
    let trial = async || serde_json::from_str::<Value>(&page.get(&api).await).expect("JSON");
    let before = trial().await;
    let mut ask = before["ask"].clone();
    (ask["also"], ask["end_day"], ask["judged_on"]) = (
        json!(["height"]),
        json!(30),
        json!({ "height": [14, 22, 30] }),
    );
    ask["waves"] =
        json!({ "grades": [{ "name": "large", "price_per_kg": 30.0 }, { "name": "small" }] });
    let sent = json!({
        "name": "Basil in waves", "ask": ask, "version": before["version"], "reason": null,
    });
    let planned = page.put(&format!("{api}/ask"), &sent).await;
    let rack =
        json!({ "name": "rack", "levels": 2, "slots": 4, "design": "completely_randomised" });
    let placed = page
        .put(
            &format!("{api}/rack"),
            &json!({ "rack": rack, "version": planned["version"] }),
        )
        .await;
    page.post(
        &format!("{api}/deal"),
        &json!({ "version": placed["version"] }),
    )
    .await;
    let today = jiff::Zoned::now().date();
    let ago = |days: i64| {
        today
            .checked_sub(jiff::ToSpan::days(days))
            .expect("a date")
            .to_string()
    };
    page.post(
        &format!("{api}/records"),
        &record("work", json!({ "job": "sow", "date": ago(30) })),
    )
    .await;
    let sheet: Value = serde_json::from_str(
        &page
            .post_for(&format!("{api}/pouring-sheet"), &Value::Null)
            .await,
    )
    .expect("JSON");
    for (treatment, own) in sheet.as_array().expect("treatments").iter().enumerate() {
        for (n, code) in own["codes"].as_array().expect("codes").iter().enumerate() {
            for day in [14, 22, 30] {
                let more = (8 * treatment + 2 * n) as f64;
                let read = json!({
                    "code": code, "reading": "height", "day": day,
                    "value": 100.0 + 3.0 * day as f64 + more, "version": 0, "confirmed": true,
                });
                page.post(&format!("{api}/records"), &record("reading", read))
                    .await;
                let grades = if small.contains(&treatment) {
                    &["large", "small"][..]
                } else {
                    &["large"]
                };
                for grade in grades {
                    let pick = json!({
                        "code": code, "gross_g": 75.0 + more, "tare_g": 50.0, "grade": grade,
                        "date": ago(30 - day), "confirmed": true,
                    });
                    page.post(&format!("{api}/records"), &record("pick", pick))
                        .await;
                }
            }
        }
    }
    page.post(
        &format!("{api}/reveal"),
        &json!({ "reason": "all three waves are cut" }),
    )
    .await;
    id
}

#[tokio::test]
async fn what_has_no_price_and_what_was_measured_on_several_days() {
    let server = Server::fresh("serve");
    let page = Browser::start(1280, 800).await;
    page.page.goto(&server.address).await.expect("the page");
    // Both give what has no price: neither can be told, and yet somebody said a price.
    let both = basil_in_waves(&page, &[0, 1]).await;
    page.page
        .goto(format!("{}/trials/{both}/judge", server.address))
        .await
        .expect("the page");
    page.shows(
        "No price was said for small: what a treatment brings that has any of it is not known.",
    )
    .await;
    let told = script(
        &page,
        "return document.querySelector('section.money').innerText",
    )
    .await;
    assert!(
        !told.as_str().expect("text").contains("Nobody said"),
        "{told}"
    );
    let id = basil_in_waves(&page, &[1]).await;
    page.page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    page.shows(
        "No price was said for small: what a treatment brings that has any of it is not known.",
    )
    .await;
    // Row by row: what it brings, what is left, what is left a month, and beside the control.
    let money = "return [...document.querySelectorAll('.money \
                 .numbers')[0].querySelectorAll('tbody tr')].map((r) => \
                 [...r.querySelectorAll('td')].slice(1).map((c) => c.innerText.trim()))";
    let told = script(&page, money).await;
    let (water, feed) = (
        told[0].as_array().expect("cells"),
        told[1].as_array().expect("cells"),
    );
    assert_eq!(
        feed,
        &vec![json!("–"); 4],
        "nobody knows what feed brings: {told}"
    );
    assert!(
        water.iter().all(|cell| cell != "–") && water[3] == "the control",
        "{told}"
    );
    page.click_text("summary", "What each wave brings").await;
    let waves = "return [...document.querySelectorAll('.money \
                 details')[0].querySelectorAll('tbody tr')].map((r) => [...r.children].map((c) => \
                 c.innerText.trim()))";
    // 25 g on the first tray of water and 3 g more on average; feed 8 g more, and of the small as
    // much again.
    let lines: Vec<Value> = [14, 22, 30]
        .into_iter()
        .flat_map(|day| {
            let large = json!([format!("large on day {day}"), "28 g, 0.84", "36 g, 1.08"]);
            [
                large,
                json!([format!("small on day {day}"), "–", "36 g, no price"]),
            ]
        })
        .collect();
    assert_eq!(script(&page, waves).await, json!(lines));
    // The last day of the height is proposed; the others can be taken in as well, each once.
    let criteria = "return [...document.querySelectorAll('.scorecard [aria-label^=\"How \
                    much\"]')].map((s) => s.getAttribute('aria-label'))";
    let card = script(&page, criteria).await;
    assert_eq!(
        card,
        json!(
            ["harvest weight", "height", "cost"].map(|of| format!("How much {of} matters (home)"))
        )
    );
    page.choose_in("Add what counts", "height on day 14").await;
    page.find("[aria-label='How much height on day 14 matters (home)']")
        .await;
    let kept: Value =
        serde_json::from_str(&page.get(&format!("/api/v1/trials/{id}/scorecard")).await)
            .expect("JSON");
    let days = |own: &Value| own["from"]["measure_on"]["day"].clone();
    let all: Vec<Value> = kept["card"]["criteria"]
        .as_array()
        .expect("criteria")
        .iter()
        .map(days)
        .collect();
    assert_eq!(
        (kept["proposed"].clone(), all),
        (
            json!(false),
            vec![Value::Null, Value::Null, Value::Null, json!(14)]
        )
    );
    let figures = kept["outcome"]["scored"][3]["figures"]
        .as_array()
        .expect("figures");
    let means: Vec<f64> = figures
        .iter()
        .map(|f| f["mean"].as_f64().expect("a mean"))
        .collect();
    assert!(
        (means[0] - 145.0).abs() < 1e-9 && (means[1] - 153.0).abs() < 1e-9,
        "{means:?}"
    );
    page.no_faults().await;
    page.end().await;
}

#[tokio::test]
async fn three_lines_on_a_phone() {
    let server = Server::fresh("demo");
    let page = Browser::start(390, 844).await;
    page.page.goto(&server.address).await.expect("the page");
    let id = page.demo_trial("Red").await;
    page.page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    page.shows("over the 10 % asked.").await;
    let lines_of = "return [...document.querySelectorAll('.v.brief')].map((p) => \
                    Math.round(p.getBoundingClientRect().height / \
                    parseFloat(getComputedStyle(p).lineHeight)))";
    let lines = script(&page, lines_of).await;
    let all: Vec<u64> = lines
        .as_array()
        .expect("lines")
        .iter()
        .map(|n| n.as_u64().expect("a number"))
        .collect();
    assert!(
        all.len() == 3 && all.iter().all(|n| (1..=3).contains(n)),
        "{all:?}"
    );
    assert_eq!(
        script(&page, "return document.documentElement.scrollWidth").await,
        json!(390)
    );
    // The whole sentence is one tap away.
    let shown = "return [...document.querySelectorAll('.v.whole')].filter((p) => p.offsetParent \
                 !== null).length";
    assert_eq!(script(&page, shown).await, json!(0));
    page.click("details.brief summary").await;
    page.shows("you said would matter").await;
    // What is read off is named, and fits as well.
    page.click(".measures [role=tab]:nth-of-type(2)").await;
    page.shows("Height: two thirds feed").await;
    let all = script(&page, lines_of).await;
    let all: Vec<u64> = all
        .as_array()
        .expect("lines")
        .iter()
        .map(|n| n.as_u64().expect("a number"))
        .collect();
    assert!(
        all.len() == 3 && all.iter().all(|n| (1..=3).contains(n)),
        "{all:?}"
    );
    assert!(
        page.axe_faults().await.is_empty(),
        "{:?}",
        page.axe_faults().await
    );
    page.no_faults().await;
    page.end().await;
}
