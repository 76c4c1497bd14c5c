//! Records that the page keeps while nobody answers: nothing that was typed at the shelf is lost.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};
use serde_json::Value;
use std::net::TcpListener;
use std::path::PathBuf;

/// A server whose trial was sown today, with the browser at the grid of Tend.
struct Shelf {
    browser: Browser,
    tend: String,
    port: String,
    data: PathBuf,
    _folder: Option<tempfile::TempDir>,
}

/// A trial dealt and sown by clicks; then the server goes away.
async fn left_alone() -> Shelf {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Kohlrabi").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("Day 0").await;
    browser.find("input[data-place=\"0-0\"]").await;
    let tend = browser
        .page
        .current_url()
        .await
        .expect("an address")
        .to_string();
    let port = server
        .address
        .rsplit(':')
        .next()
        .expect("a port")
        .to_owned();
    let (data, folder) = server.kill();
    Shelf {
        browser,
        tend,
        port,
        data,
        _folder: folder,
    }
}

impl Shelf {
    async fn types(&self, place: &str, value: &str) {
        self.browser
            .fill(&format!("input[data-place=\"{place}\"]"), value)
            .await;
        self.browser.keys(Key::Enter).await;
    }

    fn back(&self) -> Server {
        Server::at("serve", self.data.clone(), &self.port)
    }

    /// pH of the first trays in walking order, as the server has it.
    async fn ph(&self) -> Vec<Option<f64>> {
        let path = self.tend.split("/trials/").nth(1).expect("a trial");
        let view: Value =
            serde_json::from_str(&self.browser.get(&format!("/api/v1/trials/{path}")).await)
                .expect("JSON");
        let rows = view["rows"].as_array().expect("rows");
        rows.iter()
            .take(3)
            .map(|row| row["cells"][0]["value"].as_f64())
            .collect()
    }
}

#[tokio::test]
async fn two_tabs_lose_nothing_of_each_other() {
    let shelf = left_alone().await;
    let browser = &shelf.browser;
    shelf.types("0-0", "6.1").await;
    browser.shows("1 kept here").await;
    // The second tab is opened while the server is there, and loses it as well.
    let server = shelf.back();
    let first = browser.page.window().await.expect("a tab");
    let second = browser.page.new_tab().await.expect("a tab");
    browser.page.switch_to_window(second).await.expect("a tab");
    browser.page.goto(&shelf.tend).await.expect("the page");
    browser.find("input[data-place=\"1-0\"]").await;
    browser.shows("all saved").await;
    let _ = server.kill();
    shelf.types("1-0", "6.2").await;
    browser.shows("1 kept here").await;
    browser.page.switch_to_window(first).await.expect("a tab");
    shelf.types("2-0", "6.3").await;
    browser.shows("2 kept here").await;
    let _server = shelf.back();
    browser.shows("all saved").await;
    assert_eq!(shelf.ph().await, [Some(6.1), Some(6.2), Some(6.3)]);
    shelf.browser.end().await;
}

#[tokio::test]
async fn a_tab_closed_while_nobody_answers_leaves_its_record() {
    let shelf = left_alone().await;
    let browser = &shelf.browser;
    // Somebody takes the connection and never answers.
    let silent = TcpListener::bind(format!("127.0.0.1:{}", shelf.port)).expect("the port");
    let first = browser.page.window().await.expect("a tab");
    let other = browser.page.new_tab().await.expect("a tab");
    browser.page.switch_to_window(first).await.expect("a tab");
    shelf.types("0-0", "6.4").await;
    browser.shows("1 kept here").await;
    browser.page.close_window().await.expect("closed");
    browser.page.switch_to_window(other).await.expect("a tab");
    drop(silent);
    let _server = shelf.back();
    browser.page.goto(&shelf.tend).await.expect("the page");
    browser.shows("all saved").await;
    assert_eq!(shelf.ph().await[0], Some(6.4));
    shelf.browser.end().await;
}

#[tokio::test]
async fn while_nobody_answers_a_slip_is_still_asked_about_at_the_tray() {
    let shelf = left_alone().await;
    let browser = &shelf.browser;
    // What cannot be is not kept; what is unusual is, once it was said to be right.
    shelf.types("0-0", "97").await;
    browser
        .shows("pH lies between 0 and 14; 97 cannot be right.")
        .await;
    shelf.types("0-0", "9.7").await;
    browser.shows("9.7 is unusual.").await;
    browser.keys(Key::Enter).await;
    browser.shows("1 kept here").await;
    shelf.types("1-0", "6.1").await;
    browser.shows("2 kept here").await;
    browser.click_text("button", "look at them").await;
    browser.shows("pH 9.7, day 0").await;
    let _server = shelf.back();
    browser.page.goto(&shelf.tend).await.expect("the page");
    browser.shows("all saved").await;
    assert_eq!(shelf.ph().await, [Some(9.7), Some(6.1), None]);
    shelf.browser.end().await;
}

/// The last value of a cell is the one that counts, whether one comes back before the server does or
/// not.
#[tokio::test]
async fn what_is_put_right_while_nobody_answers_is_what_arrives() {
    let shelf = left_alone().await;
    let browser = &shelf.browser;
    shelf.types("0-0", "6.1").await;
    browser.shows("1 kept here").await;
    shelf.types("0-0", "6.9").await;
    shelf.types("1-0", "6.2").await;
    browser.shows("2 kept here").await;
    // To pass over a cell that is kept sends it no second time.
    shelf.types("0-0", "6.9").await;
    browser.shows("2 kept here").await;
    let _server = shelf.back();
    browser.shows("all saved").await;
    assert_eq!(shelf.ph().await, [Some(6.9), Some(6.2), None]);
    shelf.browser.end().await;
}

/// A part of the page that cannot be fetched, as after the program was brought up to date.
#[tokio::test]
async fn a_part_that_cannot_be_fetched_is_told_and_the_rest_stands() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Kohlrabi").await;
    let blocked = async |urls: Value| {
        let cdp = browser.page.cdp();
        let set = cdp.send_raw("Network.setBlockedURLs", urls).await;
        set.expect("the network");
    };
    browser.slow(0).await;
    blocked(serde_json::json!({ "urls": ["*/assets/Place*"] })).await;
    browser.click_text("nav//a", "Place").await;
    browser.shows("could not be loaded").await;
    browser.no_faults_here().await;
    // The way on stands, and leads where all is well.
    browser.click_text("footer//a", "Trials").await;
    browser.shows("Kohlrabi").await;
    browser.page.back().await.expect("back");
    browser.shows("could not be loaded").await;
    blocked(serde_json::json!({ "urls": [] })).await;
    browser.click_text("button", "Load it again").await;
    browser.shows("Deal the treatments").await;
    browser.end().await;
}

#[tokio::test]
async fn a_record_waits_for_its_writer_to_sign_in_again() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Kohlrabi").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("Day 0").await;
    let tend = browser
        .page
        .current_url()
        .await
        .expect("an address")
        .to_string();
    browser.click_text("a", "People").await;
    for name in ["Ada", "Rec"] {
        browser.fill("input[name=person]", name).await;
        browser
            .fill("input[name=passphrase]", "jars on the sill")
            .await;
        browser.click_text("button", "Let them in").await;
        browser.shows(name).await;
    }
    browser.click("input[name=ask-here]").await;
    let sign_in = async |name: &str| {
        browser.shows("Records are kept under your name").await;
        browser.fill("input[name=person]", name).await;
        browser
            .fill("input[name=passphrase]", "jars on the sill")
            .await;
        browser.keys(Key::Enter).await;
    };
    sign_in("rec").await;
    browser.shows("Rec, recorder").await;
    browser.page.goto(&tend).await.expect("the page");
    browser.find("input[data-place=\"0-0\"]").await;
    browser
        .page
        .delete_all_cookies()
        .await
        .expect("signed out elsewhere");
    browser.fill("input[data-place=\"0-0\"]", "6.6").await;
    browser.keys(Key::Enter).await;
    browser.shows("1 kept here").await;
    // Somebody else signs in first: it is not theirs to send.
    browser.page.refresh().await.expect("the page");
    sign_in("ada").await;
    browser.shows("1 kept here").await;
    browser.click_text("button", "look at them").await;
    browser
        .shows("Taken by Rec, and sent when they sign in.")
        .await;
    browser.no_faults_here().await;
    browser
        .page
        .goto(format!("{}/people", server.address))
        .await
        .expect("the page");
    browser.click_text("button", "sign out").await;
    sign_in("rec").await;
    browser.shows("all saved").await;
    let path = tend.split("/trials/").nth(1).expect("a trial").to_owned();
    let view: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{path}")).await).expect("JSON");
    assert_eq!(view["rows"][0]["cells"][0]["value"], 6.6);
    // What nobody comes back for another hands in.
    browser.page.goto(&tend).await.expect("the page");
    browser.find("input[data-place=\"1-0\"]").await;
    browser
        .page
        .delete_all_cookies()
        .await
        .expect("signed out elsewhere");
    browser.fill("input[data-place=\"1-0\"]", "6.7").await;
    browser.keys(Key::Enter).await;
    browser.shows("1 kept here").await;
    browser.page.refresh().await.expect("the page");
    sign_in("ada").await;
    browser.click_text("button", "look at them").await;
    browser.click_text("button", "Hand it in as Ada").await;
    browser.shows("all saved").await;
    let view: Value =
        serde_json::from_str(&browser.get(&format!("/api/v1/trials/{path}")).await).expect("JSON");
    assert_eq!(view["rows"][1]["cells"][0]["value"], 6.7);
    browser.end().await;
}
