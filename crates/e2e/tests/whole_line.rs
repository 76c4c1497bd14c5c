//! One trial from question to verdict, by keyboard and mouse, and its figures against the binary on
//! the exported file.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server, binary};
use serde_json::Value;
use std::process::Command;

/// What each tray weighs, by its place: made up, with a clear gain for the fed ones.
fn gross(level: u64, slot: u64, fed: bool) -> f64 {
    let base = 380.0 + 4.0 * level as f64 + 1.5 * slot as f64;
    base + if fed { 41.0 + level as f64 } else { 0.0 }
}

async fn plan(browser: &Browser, server: &Server) {
    browser.page.goto(&server.address).await.expect("the page");
    browser.shows("Plan your first trial").await;
    browser.click_text("button", "Start a trial").await;
    browser
        .fill("input[name=name]", "Kohlrabi, full feed or water?")
        .await;
    browser.keys(Key::Enter).await;
    browser
        .fill("textarea[name=question]", "Does full feed pay on kohlrabi?")
        .await;
    browser.fill("input[name=crop]", "kohlrabi").await;
    browser.fill("input[name=margin]", "8").await;
    browser.shows("beat by 8 %").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed").await;
    browser.click_text("nav//a", "Place").await;
    browser.fill("input[name=rack-slots]", "2").await;
    browser.keys(Key::Enter).await;
    browser.shows("4 levels x 2, to deal").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("4 levels x 2, dealt").await;
}

async fn mix_and_sow(browser: &Browser) {
    browser.click_text("nav//a", "Mix").await;
    browser.shows("4.40 mL").await;
    browser.fill("input[name=mix-ec-1]", "1,62").await;
    browser.fill("input[name=mix-ph-1]", "6.1").await;
    browser.keys(Key::Enter).await;
    browser.shows("EC 1.62 (computed 1.74), pH 6.1").await;
    browser.click_text("nav//a", "Tend").await;
    browser.shows("Sow every tray").await;
    // Twelve days ago, so that the harvest is due today.
    browser.set_date("input[name=sown_on]", 12).await;
    browser.click_text("button", "They were sown on").await;
    browser.shows("day 12 of 12").await;
}

/// The record grid by keyboard: Enter walks, a point repeats, a slip is refused, Ctrl+Z takes back.
async fn tend(browser: &Browser) {
    browser.click("input[data-place='0-0']").await;
    browser.keys("6.1").await;
    browser.keys(Key::Enter).await;
    browser.keys(".").await;
    browser.shows("take back “pH of").await;
    browser.click("input[data-place='2-0']").await;
    browser.keys("61").await;
    browser.keys(Key::Enter).await;
    browser.shows("cannot be right").await;
    browser.click("input[data-place='3-0']").await;
    browser.keys("9.1").await;
    browser.keys(Key::Enter).await;
    browser.shows("Is it right?").await;
    browser.click_text("button", "yes, it is right").await;
    let path = "input[data-place='3-0']";
    let mut left = usize::MAX;
    for _ in 0..100 {
        left = browser
            .page
            .find_all(iron_twin_e2e::thirtyfour::By::ClassName("word"))
            .await
            .expect("rows")
            .len();
        if left == 1 {
            break;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    assert_eq!(
        left,
        1,
        "only the impossible pH is still complained of:\n{}",
        browser.text().await
    );
    assert_eq!(
        browser
            .find(path)
            .await
            .value()
            .await
            .expect("a value")
            .as_deref(),
        Some("9.1")
    );
    browser
        .page
        .active_element()
        .await
        .expect("a focus")
        .send_keys(Key::Control + "z")
        .await
        .expect("keys");
    for _ in 0..100 {
        if browser
            .find(path)
            .await
            .value()
            .await
            .expect("a value")
            .as_deref()
            == Some("")
        {
            return;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    panic!("Ctrl+Z did not take the reading back");
}

/// Which trays are fed: known to this test only, from the data file's own pouring sheet.
async fn fed_codes(browser: &Browser, id: &str) -> Vec<String> {
    let sheet = browser.pouring_sheet(id).await;
    sheet
        .into_iter()
        .find(|(name, _)| name == "full feed")
        .expect("full feed")
        .1
}

async fn weigh(browser: &Browser, id: &str) {
    let fed = fed_codes(browser, id).await;
    browser.click_text("nav//a", "Weigh").await;
    let trial: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{id}")).await).expect("JSON");
    let units = trial["units"].as_array().expect("units");
    for done in 0..units.len() {
        let code = browser.find(".codebig").await.text().await.expect("a code");
        let unit = units
            .iter()
            .find(|u| u["code"] == code.as_str())
            .expect("a unit");
        assert!(
            unit["treatment"].is_null(),
            "the blind holds while weighing"
        );
        if done == 0 {
            browser.fill("input[name=tare]", "288").await;
        }
        let g = gross(
            unit["level"].as_u64().unwrap(),
            unit["slot"].as_u64().unwrap(),
            fed.contains(&code),
        );
        browser.fill("input[name=gross]", &format!("{g}")).await;
        browser.keys(Key::Enter).await;
        browser
            .shows(&format!("{} of {} weighed", done + 1, units.len()))
            .await;
    }
    browser.shows("All trays are weighed.").await;
}

/// The exact figures behind the shown ones.
async fn exact(browser: &Browser) -> Vec<f64> {
    let row = browser.find("tr[data-contrast='full feed']").await;
    let mut figures = Vec::new();
    for cell in row
        .find_all(iron_twin_e2e::thirtyfour::By::Css("td[data-exact]"))
        .await
        .expect("cells")
    {
        let text = cell
            .attr("data-exact")
            .await
            .expect("an attribute")
            .expect("a figure");
        figures.push(text.parse().expect("a number"));
    }
    figures
}

/// Step by step in the page; and with the tools of any computer it comes to the same.
async fn seal_is_checked(browser: &Browser) {
    browser.click_text("button", "Check the seal").await;
    for _ in 0..4 {
        browser.click_text("button", "Next step").await;
    }
    browser.shows("That is the seal, figure for figure").await;
    let command = browser.find("[data-testid='seal-checked'] code").await;
    // Folded away, it has no text that is seen.
    let command = command
        .prop("textContent")
        .await
        .expect("text")
        .expect("a command");
    let run = Command::new("bash")
        .arg("-c")
        .arg(command)
        .output()
        .expect("a run");
    let trial = browser.get(&browser.api_of_trial().await).await;
    let trial: Value = serde_json::from_str(&trial).expect("JSON");
    assert_eq!(
        &String::from_utf8_lossy(&run.stdout)[..64],
        trial["commitment"].as_str().expect("a seal")
    );
}

#[tokio::test]
async fn from_question_to_verdict_and_back_through_the_file() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    plan(&browser, &server).await;
    mix_and_sow(&browser).await;
    tend(&browser).await;
    let url = browser.page.current_url().await.expect("an address");
    let id = url.path().split('/').nth(2).expect("an id").to_owned();
    weigh(&browser, &id).await;
    browser.click_text("nav//a", "Judge").await;
    browser.shows("Everything is weighed.").await;
    browser.click_text("button", "Open the key").await;
    browser.past_the_letters().await;
    browser.shows("more than plain water").await;
    browser.shows("the 8 % you said would matter").await;
    seal_is_checked(&browser).await;
    browser.click_text("button", "numbers").await;
    let shown = exact(&browser).await;

    let csv = browser
        .get(&format!("/api/v1/trials/{id}/export.csv"))
        .await;
    let folder = tempfile::tempdir().expect("a folder");
    let file = folder.path().join("trial.csv");
    std::fs::write(&file, csv).expect("a file");
    let run = Command::new(binary())
        .arg("analyse")
        .arg(&file)
        .args([
            "--measure",
            "harvest_weight_g",
            "--treatment",
            "treatment",
            "--control",
            "plain water",
        ])
        .args(["--block", "block", "--margin", "8%", "--json"])
        .output()
        .expect("a run");
    assert!(
        run.status.success(),
        "{}",
        String::from_utf8_lossy(&run.stderr)
    );
    let analysis: Value = serde_json::from_slice(&run.stdout).expect("JSON");
    let contrast = &analysis["contrasts"][0];
    let keys = ["estimate", "percent", "low", "high", "p"];
    let mut want: Vec<f64> = keys
        .iter()
        .map(|k| contrast[k].as_f64().expect("a figure"))
        .collect();
    want.push(contrast["randomisation"]["p"].as_f64().expect("a p"));
    want.push(contrast["ahead_next_time"].as_f64().expect("a chance"));
    assert_eq!(
        shown, want,
        "the screen and the file give the very same figures"
    );
    assert_eq!(contrast["verdict"], "better_by_margin");
    let spoken = browser
        .find("[data-verdict]")
        .await
        .attr("data-verdict")
        .await
        .expect("an attribute");
    assert_eq!(spoken.as_deref(), Some("better_by_margin"));
    browser.end().await;
}
