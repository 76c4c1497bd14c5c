//! A day at the shelf: yesterday's feeding with an exception, what one tray got beside it, out of
//! reach of the server.

use iron_twin_core::practice::picture::{Drawing, draw};
use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};
use serde_json::Value;

async fn given(browser: &Browser, id: &str) -> Value {
    serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}/given")).await).expect("JSON")
}

#[tokio::test]
async fn yesterdays_feeding_its_exception_and_a_top_up_out_of_reach() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    let codes: Vec<String> = given(&browser, &id).await["received"][0]["codes"]
        .as_array()
        .expect("codes")
        .iter()
        .map(|c| c.as_str().expect("a code").to_owned())
        .collect();
    // From Today: yesterday, 180 mL each, and not the second tray.
    browser
        .click_text("li[b[contains(., 'Feed by code')]]//button", "otherwise")
        .await;
    browser.set_date("input[name=done-on]", 1).await;
    browser.fill("input[name=each]", "180").await;
    browser.choose_in("Not these", &codes[1]).await;
    browser.keys(Key::Escape).await;
    browser.fill("input[name=why]", "ran out").await;
    browser.click_text("button", "Keep it").await;
    browser.gone("input[name=done-on]").await;
    let view = given(&browser, &id).await;
    assert_eq!(
        (
            view["rounds"][0]["day"].as_u64(),
            view["rounds"][0]["ml_a_unit"].as_f64()
        ),
        (Some(4), Some(180.0))
    );
    assert_eq!(view["received"][1]["codes"], serde_json::json!([codes[1]]));
    assert_eq!(view["received"][1]["withheld"][0]["why"], "ran out");
    // At Tend: a top-up of the first tray, while nobody answers.
    browser
        .page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    browser.shows("day 4 (ran out)").await;
    browser.click_text("button", "Enter something given").await;
    browser.away(true).await;
    browser.choose_in("To", &codes[0]).await;
    browser.choose_in("Part of", "watered").await;
    browser
        .fill(".giving-form .what input", "plain water")
        .await;
    browser.fill("input[name=amount]", "80").await;
    browser.click_text("button", "Keep it").await;
    browser.shows("1 kept here, sent when it is back").await;
    browser.click_text("button", "look at them").await;
    browser
        .shows(&format!("{}: what was given", codes[0]))
        .await;
    browser.away(false).await;
    browser.shows("plain water: once, 80 mL").await;
    browser.gone(".kept-records").await;
    // Taken back, it is gone.
    browser
        .click_text("button", &format!("take back “watering of {}", codes[0]))
        .await;
    browser.gone_text("plain water: once").await;
    assert_eq!(
        given(&browser, &id).await["singles"]
            .as_array()
            .map(Vec::len),
        Some(1),
        "the exception stays"
    );
    // In the diary stands everything; an older entry is taken back there, whatever came after it.
    browser.click_text("summary", "Diary").await;
    browser
        .shows(&format!("watering of {}, day 5", codes[0]))
        .await;
    browser
        .click(&format!(
            "button[aria-label^='take back feeding without {}']",
            codes[1]
        ))
        .await;
    browser.gone_text("day 4 (ran out)").await;
    browser.choose_in("Show", "what was given").await;
    browser.shows("taken back").await;
    browser.no_faults_here().await;
    browser.end().await;
}

#[tokio::test]
async fn work_is_left_out_with_a_reason_and_a_second_feeding_is_asked_about() {
    let server = Server::fresh("demo");
    let browser = Browser::start(390, 844).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    let row = |label: &str| format!("li[b[normalize-space(.)='{label}']]");
    browser
        .click_text(
            &format!("{}//button", row("Feed by code")),
            "given as planned",
        )
        .await;
    browser.shows("fed days 3 and 5").await;
    // Somebody else has the old page open still, and enters it again.
    browser
        .page
        .goto(format!("{}/trials/{id}/mix", server.address))
        .await
        .expect("the page");
    browser.click_text("button", "Open the pouring sheet").await;
    browser.click_text("button", "done").await;
    browser.shows("Was it once more?").await;
    browser.click_text("button", "Yes, once more").await;
    browser.shows("Open the pouring sheet").await;
    browser
        .page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    browser.shows("fed days 3, 5 and 5").await;
    browser
        .click_text(&format!("{}//button", row("Read pH and EC")), "otherwise")
        .await;
    browser.click_text("label", "Not done at all").await;
    browser.fill("input[name=why]", "probe broken").await;
    browser.click_text("button", "Keep it").await;
    browser.shows("Nothing is due.").await;
    browser.no_faults_here().await;
    browser.end().await;
}

#[tokio::test]
async fn a_photo_is_added_marked_and_measured_against_what_is_true_of_it() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    let id = browser.demo_trial("Rocket").await;
    let drawn = draw(&Drawing {
        leaves: 150,
        seed: 77,
        ..Drawing::default()
    });
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("tray.png");
    let (width, height) = (drawn.width as u32, drawn.height as u32);
    image::save_buffer(
        &file,
        &drawn.pixels,
        width,
        height,
        image::ExtendedColorType::Rgb8,
    )
    .expect("a picture");
    browser
        .page
        .goto(format!("{}/trials/{id}/tend", server.address))
        .await
        .expect("the page");
    let input = browser.find("input[name=photo]").await;
    input
        .send_keys(file.display().to_string())
        .await
        .expect("a file");
    // Today's photo of the first tray of the walk; the corners of its last photo are taken over.
    browser.find_text("h3", "Day 5").await;
    browser.click(".contact .small-photo").await;
    browser.find(".photo-frame .handle").await;
    browser.click_text("button", "Measure and keep").await;
    browser.find(".photo-figures dd").await;
    let view: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}/photos")).await)
            .expect("JSON");
    let photo = view["photos"]
        .as_array()
        .expect("photos")
        .last()
        .expect("a photo")
        .clone();
    assert_eq!(photo["day"], 5);
    let cover = photo["figures"]["cover_percent"]
        .as_f64()
        .expect("a figure");
    assert!(
        (cover - drawn.cover_percent).abs() < 1.0,
        "{cover} for {}",
        drawn.cover_percent
    );
    // A corner stepped with a key moves the area, and the figure with it.
    browser.click(".handle").await;
    for _ in 0..20 {
        browser.keys(Key::Right).await;
    }
    browser.click_text("button", "Measure and keep").await;
    browser.shows("take back “measured a photo of").await;
    // A ruler in the picture: half the width is 100 mm, and the line between its ends is as long as
    // it is drawn.
    browser
        .click_text("label", "A ruler is in the picture")
        .await;
    browser.click_text("label", "Measure a line").await;
    browser
        .click_text("label", "Lay the picture of day 3 over it")
        .await;
    browser.find(".photo-frame .ghost").await;
    browser.click_text("button", "Measure and keep").await;
    browser.shows("leaf, by the ruler").await;
    let view: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}/photos")).await)
            .expect("JSON");
    let figures = view["photos"]
        .as_array()
        .expect("photos")
        .last()
        .expect("a photo")["figures"]
        .clone();
    // The ruler is 0.6 of the width, the line 0.6 of the height.
    let line = 100.0 * f64::from(height) / f64::from(width);
    assert!(
        (figures["line_mm"].as_f64().expect("a length") - line).abs() < 1e-6,
        "{figures}"
    );
    // This day and the one before, laid flat and held against each other; then all of them tray by
    // tray.
    browser
        .click_text("summary", "Hold two against each other")
        .await;
    browser.find(".wiped .over").await;
    browser
        .keys_on(
            "input[type=range][aria-label='Where the one ends and the other begins']",
            Key::Left,
        )
        .await;
    let clip = browser
        .find(".wiped .over")
        .await
        .attr("style")
        .await
        .expect("a style")
        .unwrap_or_default();
    assert!(clip.contains("49%"), "{clip}");
    browser
        .click_text("label", "tray by tray over the days")
        .await;
    browser.find(".photo-sheet tbody tr").await;
    browser.no_faults_here().await;
    browser.size(390, 844).await;
    browser.no_faults_here().await;
    browser.end().await;
}
