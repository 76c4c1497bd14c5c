//! The harvest at the scale: sixteen trays by one key each, while cables are pulled.

use iron_twin_e2e::{Bench, Browser, Server, record};
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
    browser
        .page
        .goto(format!("{}/trials/{trial}/weigh", server.address))
        .await
        .expect("the page");
    let bench = Bench::at(
        &browser
            .find(".setting a[target]")
            .await
            .attr("href")
            .await
            .expect("a link")
            .expect("one"),
    );
    let loads = bench.standing().await["loads"].clone();
    let load = |code: &str| {
        let own = loads
            .as_array()
            .expect("loads")
            .iter()
            .find(|l| l["name"] == code)
            .expect("a load");
        (
            own["gross_g"].as_f64().expect("g"),
            own["tare_g"].as_f64().expect("g"),
        )
    };
    browser.find(EMPTY).await;
    // No tare is taken as nothing: it is asked for, and weighed on the scale itself.
    assert!(browser.text().await.contains("never taken as nothing"));
    let first = code(&browser).await;
    let tare_g = load(&first).1;
    bench.does(json!({ "put_empty": first })).await;
    browser.find(SETTLED).await;
    assert!(
        !browser
            .find(".now button[type='submit']")
            .await
            .is_enabled()
            .await
            .expect("a button"),
        "no tare yet"
    );
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
                assert!(
                    !browser
                        .find(".now button[type='submit']")
                        .await
                        .is_enabled()
                        .await
                        .expect("a button")
                );
                assert_eq!(harvest(&browser).await["weighed"], 4);
                bench.does(json!({ "fail": "none" })).await;
            }
            9 => {
                bench.does(json!("put_too_much")).await;
                browser.shows("Too heavy for this scale").await;
                assert!(
                    !browser
                        .find(".now button[type='submit']")
                        .await
                        .is_enabled()
                        .await
                        .expect("a button")
                );
                bench.does(json!("lift")).await;
                browser.find(EMPTY).await;
                bench.does(json!({ "put": now })).await;
            }
            _ => bench.does(json!({ "put": now })).await,
        }
        browser.find(SETTLED).await;
        browser.keys(Key::Enter).await;
        keys += 1;
        codes.push(now);
        browser
            .shows(&format!("{} of 16 weighed", codes.len()))
            .await;
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
    assert_eq!(
        rows.iter()
            .map(|r| r["code"].as_str().expect("a code"))
            .collect::<Vec<_>>(),
        codes
    );
    for row in rows {
        let gross = load(row["code"].as_str().expect("a code")).0;
        let off = row["gross_g"].as_f64().expect("g") - gross;
        assert!(off.abs() < 0.16, "{row}");
        assert!(
            (row["tare_g"].as_f64().expect("g") - tare_g).abs() < 0.16,
            "{row}"
        );
    }
    let truth: f64 = codes.iter().map(|code| load(code).0 - tare_g).sum();
    assert!(
        (view["total_g"].as_f64().expect("g") - truth).abs() < 16.0 * 0.3,
        "{truth}"
    );
    // By the hand's walk they come otherwise.
    let path = format!("{}/weigh?turn=walking", browser.api_of_trial().await);
    let walking: Value = serde_json::from_str(&browser.get(&path).await).expect("the harvest");
    assert_ne!(
        walking["rows"]
            .as_array()
            .expect("rows")
            .iter()
            .map(|r| r["code"].clone())
            .collect::<Vec<_>>(),
        codes
    );
    browser.no_faults().await;
    browser.end().await;
}

/// A weight that is put in the place of another is named; one's own second weight is no quarrel
/// with somebody else.
#[tokio::test]
async fn a_weight_is_replaced_by_name() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let trial = browser.demo_trial("Kohlrabi").await;
    browser
        .page
        .goto(format!("{}/trials/{trial}/weigh", server.address))
        .await
        .expect("the page");
    let first = code(&browser).await;
    browser.click_text("button", "type it instead").await;
    browser.fill("input[name='gross']", "412.8").await;
    browser.fill("input[name='tare']", "288").await;
    browser.keys(Key::Enter).await;
    browser.shows("1 of 16 weighed").await;
    browser
        .click(&format!(".ticks button[data-code='{first}']"))
        .await;
    browser
        .shows(&format!("Replace the 124.8 g of {first}"))
        .await;
    browser.fill("input[name='gross']", "413.9").await;
    browser.keys(Key::Enter).await;
    browser.shows("125.9 g so far").await;
    // Another page of the same grower does not know of it yet: it is asked which counts.
    let behind = record(
        "weighing",
        json!({ "code": first, "gross_g": 420.0, "tare_g": 288.0, "version": 0 }),
    );
    let path = format!("{}/records", browser.api_of_trial().await);
    let said = browser.post_for(&path, &behind).await;
    assert!(
        said.contains(&format!(
            "{first} has 125.9 g from you already. Put 132 g in its place?"
        )),
        "{said}"
    );
    // What went to the kitchen before is counted in, and the ledger sees that one tray alone gave
    // it.
    browser.click(".aside summary").await;
    browser.choose("aside-unit", &first).await;
    browser.fill("input[name='aside-net']", "40").await;
    browser.click_text("button", "Keep it").await;
    browser.gone(".aside button:enabled").await;
    let trial: Value =
        serde_json::from_str(&browser.get(&browser.api_of_trial().await).await).expect("JSON");
    let open = trial["ledger"]["open"].as_array().expect("findings");
    let picked = open
        .iter()
        .find(|f| f["code"] == "picked_early")
        .expect("a finding");
    assert_eq!(
        picked["seen"],
        "Something was taken from 1 of 16 trays before the harvest: 40 g, 24 % of what it \
         yielded. It is counted in."
    );
    browser.no_faults().await;
    browser.end().await;
}

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::ToSpan::days(days))
        .expect("a date")
        .to_string()
}

/// Three waves of peppers: two on record, the third on the page, sorted, counted, priced; a bush on
/// which nothing was ripe.
#[tokio::test]
async fn three_waves_of_peppers_come_to_the_right_value() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let get =
        async |path: &str| serde_json::from_str::<Value>(&browser.get(path).await).expect("JSON");
    let made: Value = serde_json::from_str(
        &browser
            .post_for("/api/v1/trials", &json!({ "name": "Peppers" }))
            .await,
    )
    .expect("JSON");
    let api = format!("/api/v1/trials/{}", made["id"].as_str().expect("an id"));
    let trial = get(&api).await;
    let mut ask = trial["ask"].clone();
    (ask["crop"], ask["also"], ask["end_day"]) = (json!("pepper"), json!([]), json!(20));
    ask["waves"] = json!({
        "grades": [
            { "name": "large", "price_per_kg": 8.0 }, { "name": "small", "price_per_kg": 5.0 },
        ],
    });
    let sent =
        json!({ "name": "Peppers", "ask": ask, "version": trial["version"], "reason": null });
    let trial = browser.put(&format!("{api}/ask"), &sent).await;
    let rack = json!({
        "name": "roof", "levels": 1, "slots": 4, "kind": "buckets",
        "design": "completely_randomised",
    });
    let trial = browser
        .put(
            &format!("{api}/rack"),
            &json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    browser
        .post(
            &format!("{api}/deal"),
            &json!({ "version": trial["version"] }),
        )
        .await;
    browser
        .post(
            &format!("{api}/records"),
            &record("work", json!({ "job": "sow", "date": days_ago(20) })),
        )
        .await;
    let codes: Vec<String> = get(&api).await["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned())
        .collect();
    for code in &codes {
        for (ago, net, pieces, grade) in [
            (9, 620.0, 4, "large"),
            (9, 150.0, 2, "small"),
            (4, 480.0, 3, "large"),
        ] {
            let body = json!({
                "code": code, "gross_g": 50.0 + net, "tare_g": 50.0, "pieces": pieces,
                "grade": grade, "date": days_ago(ago), "confirmed": true,
            });
            browser
                .post(&format!("{api}/records"), &record("pick", body))
                .await;
        }
    }
    browser
        .page
        .goto(format!(
            "{}/trials/{}/weigh",
            server.address,
            made["id"].as_str().expect("an id")
        ))
        .await
        .expect("the page");
    browser.shows("waves on day 11, 16").await;
    // By hand: 0.62 x 8 + 0.15 x 5 + 0.48 x 8 = 9.55.
    browser
        .shows("So far 1250.0 g, 9 pieces, 138.9 g each, worth 9.55")
        .await;
    let first = code(&browser).await;
    browser.fill("input[name='gross']", "350").await;
    browser.fill("input[name='pieces']", "2").await;
    browser.click_text("button", "large").await;
    // Enter takes it from the grade as from the fields; the bush stays until one goes on, for its
    // other grades.
    browser.keys(Key::Enter).await;
    browser
        .shows("So far 1550.0 g, 11 pieces, 140.9 g each, worth 11.95")
        .await;
    assert_eq!(code(&browser).await, first);
    browser.fill("input[name='gross']", "140").await;
    browser.fill("input[name='pieces']", "1").await;
    browser.click_text("button", "small").await;
    browser.keys(Key::Enter).await;
    browser
        .shows("So far 1640.0 g, 12 pieces, 136.7 g each, worth 12.40")
        .await;
    browser.no_faults().await;
    browser.click_text("button", "on to the next").await;
    for done in 1..4 {
        browser.shows(&format!("{done} of 4 looked at today")).await;
        browser.click_text("button", "nothing ripe on it").await;
    }
    // It is its last day, and every bush was looked at.
    browser.shows("All buckets are weighed").await;
    let view = harvest(&browser).await;
    let own = view["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .find(|r| r["code"] == *first)
        .expect("a row")
        .clone();
    assert!(
        (own["picked"]["value"].as_f64().expect("money") - 12.40).abs() < 1e-9,
        "{own}"
    );
    assert_eq!(view["total_g"], 1640.0 + 3.0 * 1250.0);
    browser.end().await;
}

/// A reading that the probe shows is taken by one key, once it stands still; what it shows goes
/// into a mix as well.
#[tokio::test]
async fn a_probe_fills_the_grid_and_the_mix_by_one_key() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let view: Value =
        serde_json::from_str(&browser.get("/api/v1/instruments").await).expect("JSON");
    let bench = Bench::at(view["bench"].as_str().expect("a bench"));
    let trial = browser.demo_trial("Rocket").await;
    browser
        .page
        .goto(format!("{}/trials/{trial}/tend", server.address))
        .await
        .expect("the page");
    browser.find("[data-testid='probe']").await;
    bench.does(json!({ "probe_in": "half feed" })).await;
    let field = browser.find("input[data-place='0-0']").await;
    assert!(
        field
            .attr("aria-label")
            .await
            .expect("a label")
            .expect("one")
            .contains("pH")
    );
    browser.click("input[data-place='0-0']").await;
    // While it settles nothing is taken.
    browser.shows("(settling)").await;
    browser.keys("=").await;
    assert_eq!(
        browser
            .find("input[data-place='0-0']")
            .await
            .prop("value")
            .await
            .expect("a value")
            .as_deref(),
        Some("")
    );
    browser
        .find("[data-testid='probe'][data-still='true']")
        .await;
    browser.keys("=").await;
    assert!(
        browser.has_focus("input[data-place='1-0']").await,
        "it walks on"
    );
    let taken = browser
        .find("input[data-place='0-0']")
        .await
        .prop("value")
        .await
        .expect("a value")
        .expect("one");
    let taken: f64 = taken.parse().expect("a number");
    assert!((taken - 6.3).abs() < 0.06, "{taken}");
    browser
        .page
        .goto(format!("{}/trials/{trial}/mix", server.address))
        .await
        .expect("the page");
    browser
        .find("[data-testid='probe'][data-still='true']")
        .await;
    browser.click_text("button", "from the probe").await;
    let of = async |name: &str| {
        let field = browser.find(&format!("input[name^='mix-{name}-']")).await;
        field
            .prop("value")
            .await
            .expect("a value")
            .expect("one")
            .parse::<f64>()
            .expect("a number")
    };
    let (ec, ph, temperature) = (of("ec").await, of("ph").await, of("temperature").await);
    assert!(
        (ec - 1.13).abs() < 0.02 && (ph - 6.3).abs() < 0.06 && (temperature - 18.9).abs() < 0.3,
        "{ec} {ph} {temperature}"
    );
    // The lamp is switched off and on again; the meter sees it.
    browser
        .page
        .goto(format!("{}/farm", server.address))
        .await
        .expect("the page");
    browser.shows("power 98 W").await;
    browser.click_text("button", "turn switch 1 off").await;
    browser.shows("power 2 W").await;
    browser.shows("switch 1 is off").await;
    browser.no_faults().await;
    browser.end().await;
}

/// The registers of a probe as its manual says; and an instrument that was taken off the list by
/// mistake.
#[tokio::test]
async fn registers_are_edited_and_what_was_taken_off_is_put_back() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser
        .page
        .goto(format!("{}/farm", server.address))
        .await
        .expect("the page");
    let probe = async || {
        let view: Value =
            serde_json::from_str(&browser.get("/api/v1/instruments").await).expect("JSON");
        let all = view["instruments"].as_array().expect("instruments").clone();
        all.into_iter()
            .find(|i| i["kind"] == "probe")
            .expect("a probe")
    };
    let before = probe().await;
    let name = before["name"].as_str().expect("a name").to_owned();
    browser.click_text("summary", &name).await;
    let details = "details.registers[open]";
    browser
        .fill(
            &format!("{details} .register:nth-of-type(1) [name='times-0']"),
            "0.1",
        )
        .await;
    browser
        .fill(
            &format!("{details} .register:nth-of-type(1) [name='at-0']"),
            "40",
        )
        .await;
    assert_eq!(browser.axe_faults().await, Vec::<String>::new());
    browser.click_text("details[@open]//button", "Keep").await;
    browser
        .find_text("details[@open]//button", "The usual ones")
        .await;
    let from = std::time::Instant::now();
    while probe().await["registers"][0]["times"] != json!(0.1) {
        assert!(from.elapsed().as_secs() < 20, "{}", probe().await);
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    let kept = probe().await;
    assert_eq!(
        (&kept["registers"][0]["at"], &kept["registers"][1]),
        (&json!(40), &before["registers"][1])
    );
    // Off the list, and back with its registers.
    browser
        .click(&format!("button[aria-label='take off the list: {name}']"))
        .await;
    browser.shows(&format!("{name} is off the list.")).await;
    browser.click_text("button", "Put it back").await;
    browser.gone_text("is off the list.").await;
    let back = probe().await;
    assert_eq!(
        (&back["name"], &back["address"], &back["registers"]),
        (&kept["name"], &kept["address"], &kept["registers"])
    );
    // The usual ones again.
    browser.click_text("summary", &name).await;
    browser
        .click_text("details[@open]//button", "The usual ones")
        .await;
    let from = std::time::Instant::now();
    while probe().await["registers"] != before["registers"] {
        assert!(from.elapsed().as_secs() < 20, "{}", probe().await);
        tokio::time::sleep(std::time::Duration::from_millis(100)).await;
    }
    browser.no_faults().await;
    browser.end().await;
}
