//! What loggers and judges bring: a logger's file taken in and taken back, tracks to look through,
//! a line-up by two judges.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server, record};
use serde_json::Value;

async fn json(browser: &Browser, path: &str) -> Value {
    serde_json::from_str(&browser.get(path).await).expect("JSON")
}

#[tokio::test]
async fn a_loggers_file_is_told_how_it_is_read_taken_in_and_taken_back() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    let zone = json(&browser, "/api/v1/farm").await["zone"]
        .as_str()
        .expect("a zone")
        .to_owned();
    let zone = jiff::tz::TimeZone::get(&zone).expect("a zone");
    let today = jiff::Timestamp::now().to_zoned(zone).date();
    let mut text = String::from("Shelf probe 12\nDate;Time;Water temp (F);PPFD;battery\n");
    for n in 0..144_i32 {
        let day = today.checked_sub(jiff::Span::new().days(2)).expect("a day");
        let at = day
            .at(0, 0, 0, 0)
            .checked_add(jiff::Span::new().minutes(10 * n))
            .expect("a time");
        let light = if (36..132).contains(&n) {
            180 + n % 7
        } else {
            0
        };
        let temp = if n == 20 {
            "fault".to_owned()
        } else {
            format!("{:.1}", 64.0 + f64::from(n % 5))
        };
        text += &format!("{};{temp};{light};3.1V\n", at.strftime("%d/%m/%Y;%H:%M"));
    }
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("probe.csv");
    std::fs::write(&file, text).expect("a file");
    browser
        .page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    browser.click_text("a", "tracks over the days").await;
    browser
        .find("input[name=log]")
        .await
        .send_keys(file.display().to_string())
        .await
        .expect("a file");
    browser.shows("probe.csv: how is it read?").await;
    // 64 °F are 17.78 °C.
    browser.shows("17.78").await;
    browser.no_faults_here().await;
    let code = json(&browser, &format!("/api/v1/trials/{id}")).await["units"][0]["code"]
        .as_str()
        .expect("a code")
        .to_owned();
    browser
        .choose_in("Water temp (F): Where the probe was", &code)
        .await;
    browser.click_text("button", "Take it in").await;
    browser.shows("probe.csv: 143 rows taken in.").await;
    browser
        .shows("line 23: 'fault' in column 3 is no number")
        .await;
    browser.click_text("button", "All right").await;
    browser.gone(".on-its-way").await;
    browser.click_text("button", "solution temperature").await;
    browser
        .find("svg[aria-label='solution temperature over the days']")
        .await;
    browser.shows("Each step is the mean of an hour").await;
    let seen = json(
        &browser,
        &format!("/api/v1/trials/{id}/tracks/logged/light"),
    )
    .await;
    assert_eq!(
        (&seen["hours"], &seen["tracks"][0]["place"]),
        (&Value::from(1), &Value::from("the room"))
    );
    let most = seen["tracks"][0]["most"].as_array().expect("values");
    assert_eq!(
        (most.len(), most[0].as_f64(), most[12].as_f64()),
        (24, Some(0.0), Some(186.0))
    );
    browser.no_faults().await;
    // The same file once more is known; so is how it is read.
    browser
        .find("input[name=log]")
        .await
        .send_keys(file.display().to_string())
        .await
        .expect("a file");
    browser
        .shows("A file with this head was read like this before.")
        .await;
    browser.click_text("button", "Take it in").await;
    browser
        .shows("nothing in it is new: 143 of its 144 rows stand there already")
        .await;
    browser.click_text("button", "All right").await;
    browser.gone(".on-its-way").await;
    browser
        .click_text("li[b[normalize-space(.)='probe.csv']]//button", "take back")
        .await;
    browser.click_text("button", "Take it back").await;
    browser.gone_text("solution temperature, ").await;
    let left = json(&browser, &format!("/api/v1/trials/{id}/tracks")).await;
    let left: Vec<&str> = left["logged"]
        .as_array()
        .expect("logged")
        .iter()
        .filter_map(|l| l["name"].as_str())
        .collect();
    assert_eq!(
        left,
        ["air temperature", "humidity"],
        "what the rack's own logger wrote"
    );
    browser.end().await;
}

#[tokio::test]
async fn tracks_lead_to_the_tray_and_tell_treatments_only_when_the_key_is_open() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Red amaranth").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend/tracks", server.address))
        .await
        .expect("the page");
    browser.click_text("button", "height").await;
    let picture = browser.find("svg[aria-label='height over the days']").await;
    for name in ["plain water", "half feed", "full feed"] {
        let text = picture.text().await.expect("labels");
        assert!(text.contains(name), "{name}: {text}");
    }
    browser.click_text("button", "numbers").await;
    browser.no_faults().await;
    // From the numbers to the tray.
    let code =
        json(&browser, &format!("/api/v1/trials/{id}/tracks/height")).await["units"][0]["code"]
            .as_str()
            .expect("a code")
            .to_owned();
    browser
        .click(&format!(".track .numbers a[href$='/units/{code}']"))
        .await;
    browser.find(".unit-page").await;
    // Sealed, nothing of the deal is told.
    let id = browser.demo_trial("Rocket").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend/tracks", server.address))
        .await
        .expect("the page");
    browser
        .find("svg[aria-label='air temperature over the days']")
        .await;
    let code = json(&browser, &format!("/api/v1/trials/{id}")).await["units"][0]["code"]
        .as_str()
        .expect("a code")
        .to_owned();
    browser
        .page
        .goto(format!("{}/trials/{id}/units/{code}", server.address))
        .await
        .expect("the page");
    browser.fill("input[aria-label*='height']", "40").await;
    // Where it is asked about, once more is yes.
    browser.keys(Key::Enter).await;
    browser.keys(Key::Enter).await;
    browser.shows("all saved").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend/tracks", server.address))
        .await
        .expect("the page");
    browser.click_text("button", "height").await;
    browser.shows("By code alone").await;
    let sealed = json(&browser, &format!("/api/v1/trials/{id}/tracks/height")).await;
    assert_eq!(
        (&sealed["means"], &sealed["control"]),
        (&Value::Array(Vec::new()), &Value::Null)
    );
    assert!(
        sealed["units"]
            .as_array()
            .expect("units")
            .iter()
            .all(|u| u["treatment"].is_null())
    );
    browser.end().await;
}

#[tokio::test]
async fn two_judges_line_the_trays_up_by_tap_and_key_one_of_them_out_of_reach() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    browser.click_text("a", "line them up").await;
    let pool = ".pool .code-card";
    let first = browser.find(pool).await.text().await.expect("a code");
    browser.fill("input[name=judge]", "Ada").await;
    for _ in 0..3 {
        browser.click(pool).await;
    }
    // Up by half a step the last is tied with the one before it, by another it passes it.
    let card = |n: usize| format!(".ordered li:nth-child({n}) .code-card");
    let third = browser.find(&card(3)).await.text().await.expect("a code");
    browser.click(&card(3)).await;
    browser.keys(Key::Up).await;
    browser
        .find(&format!(
            "button[aria-label='{third}, places 2 to 3 of 3, tied']"
        ))
        .await;
    browser.keys(Key::Up).await;
    browser
        .find(&format!("button[aria-label='{third}, place 2 of 3']"))
        .await;
    browser.no_faults_here().await;
    browser.click_text("button", "the other 9 are alike").await;
    browser.click_text("button", "That is my order").await;
    browser.shows("Your order is kept.").await;
    browser.shows("Lined up by Ada.").await;
    // The second judge, while nobody answers.
    browser.click_text("button", "line them up again").await;
    browser.fill("input[name=judge]", "Bo").await;
    browser.away(true).await;
    for _ in 0..12 {
        browser.click(pool).await;
    }
    browser.click_text("button", "That is my order").await;
    browser.shows("Your order is kept on this device").await;
    browser.click_text("button", "look at them").await;
    browser.shows("line-up by Bo: ").await;
    browser.away(false).await;
    browser.gone(".kept-records").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend/line-up", server.address))
        .await
        .expect("the page");
    browser.shows("Lined up by Ada, Bo.").await;
    browser.shows("Kendall's W is").await;
    browser.no_faults().await;
    let view = json(&browser, &format!("/api/v1/trials/{id}/line-ups")).await;
    assert_eq!(view["line_ups"][0]["places"][0][0], first.as_str());
    assert_eq!(view["line_ups"][0]["places"][1][0], third.as_str());
    assert_eq!(
        view["line_ups"][0]["places"].as_array().map(Vec::len),
        Some(4)
    );
    assert_eq!(
        view["line_ups"][1]["places"].as_array().map(Vec::len),
        Some(12)
    );
    browser.end().await;
}

#[tokio::test]
async fn a_guess_is_logged_before_the_key_is_open_and_the_report_says_who_was_right() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    browser.fill("input[name='guess-name']", "Ada").await;
    browser
        .choose_in("Which comes out best?", "full feed")
        .await;
    browser.fill("input[name='guess-by']", "20").await;
    browser.click_text("button", "Log it").await;
    browser.shows("full feed best, by 20 %").await;
    browser.shows("One guess is logged.").await;
    browser.no_faults_here().await;
    // Weighed and opened by hand of the API, the report says whether it came true.
    let trial = json(&browser, &format!("/api/v1/trials/{id}")).await;
    for unit in trial["units"].as_array().expect("units") {
        let body = serde_json::json!({
            "code": unit["code"], "gross_g": 100.0, "tare_g": 40.0, "version": 0, "confirmed": true,
        });
        browser
            .post(
                &format!("/api/v1/trials/{id}/records"),
                &record("weighing", body),
            )
            .await;
    }
    browser
        .post(
            &format!("/api/v1/trials/{id}/reveal"),
            &serde_json::json!({ "reason": "tried out" }),
        )
        .await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tell", server.address))
        .await
        .expect("the page");
    browser.shows("full feed best, by 20 %").await;
    browser.shows("off by 20 points").await;
    browser.end().await;
}
