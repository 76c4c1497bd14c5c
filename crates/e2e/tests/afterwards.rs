//! After the verdict in the page: all measures, the scorecard by dragging, a decision, and the trial that follows; on a phone each
//! verdict in three lines.

use iron_twin_e2e::{Browser, Server};
use serde_json::{Value, json};

async fn script(page: &Browser, source: &str) -> Value {
    page.page.execute(source, vec![]).await.expect("a script").json().clone()
}

#[tokio::test]
async fn what_now() {
    let server = Server::fresh("demo");
    let page = Browser::start(1280, 800).await;
    page.page.goto(&server.address).await.expect("the page");
    let id = page.demo_trial("Red").await;
    page.page.goto(format!("{}/trials/{id}/judge", server.address)).await.expect("the page");
    page.shows("Full feed and two thirds feed tie for the first place; half feed and plain water are surely behind.")
        .await;
    page.find(".side-by-side tbody tr").await;
    assert_eq!(script(&page, "return document.querySelectorAll('.side-by-side .difference').length").await, json!(6));
    // By keyboard: what it costs to the end, the harvest to nothing. Then plain water wins.
    page.shows("Full feed wins with").await;
    page.find("[aria-label='How much cost matters (home)']").await.send_keys("\u{E010}").await.expect("keys");
    page.shows("Two thirds feed wins with").await;
    page.find("[aria-label='How much harvest weight matters (home)']").await.send_keys("\u{E011}").await.expect("keys");
    page.shows("Plain water wins with").await;
    page.click_text("button", "market").await;
    page.shows("Full feed wins with").await;
    // Why the others lagged: the feed's nutrients go together, and one trial would give each alone.
    page.shows("little nitrogen").await;
    page.shows("They go together here: this trial cannot say which of them it is.").await;
    // What each dose gave, with the one that is enough; of the height also how it grew.
    page.find("[data-shown=doses] .enough-dose").await;
    page.click(".measures [role=tab]:nth-of-type(2)").await;
    page.find("[data-shown=growth]").await;
    page.shows("a logistic curve through the means").await;
    // A decision with its reason, and one more beside it.
    page.shows("The figures say: Adopt full feed. Full feed was better by more than would matter. Two thirds feed cannot be told from it").await;
    page.fill("input[name=decide-reason]", "it pays on the roof").await;
    page.click_text("button", "Keep this decision").await;
    page.shows("Decided: Adopt full feed: it pays on the roof").await;
    assert!(page.axe_faults().await.is_empty(), "{:?}", page.axe_faults().await);
    // The report says how far it can be believed, and what was decided; each sentence stands in it once.
    page.page.goto(format!("{}/trials/{id}/tell", server.address)).await.expect("the page");
    page.shows("What was decided").await;
    page.shows("it pays on the roof").await;
    page.shows("Believe it: nothing was found that could have made it").await;
    let both = "return [...document.querySelectorAll('.verdicts p, .verdicts details')].filter((p) => p.offsetParent !== null).length";
    // Three sentences, and on what they rest.
    assert_eq!(script(&page, both).await, json!(4));
    page.find(".report [data-shown=doses]").await;
    assert!(page.axe_faults().await.is_empty(), "{:?}", page.axe_faults().await);
    page.page.goto(format!("{}/trials/{id}/judge", server.address)).await.expect("the page");
    // What ties is planned with one press; the new trial says what was decided.
    page.click("li[data-key=tied] button").await;
    page.shows("Decided before on red amaranth").await;
    page.shows("it pays on the roof").await;
    let api = page.api_of_trial().await;
    let made: Value = serde_json::from_str(&page.get(&api).await).expect("JSON");
    assert_eq!(made["name"], json!("Red amaranth, how strong a feed?, only the best"));
    assert_eq!(made["sheet"]["treatments"].as_array().expect("treatments").len(), 3);
    page.no_faults().await;
    page.end().await;
}

#[tokio::test]
async fn three_lines_on_a_phone() {
    let server = Server::fresh("demo");
    let page = Browser::start(390, 844).await;
    page.page.goto(&server.address).await.expect("the page");
    let id = page.demo_trial("Red").await;
    page.page.goto(format!("{}/trials/{id}/judge", server.address)).await.expect("the page");
    page.shows("over the 10 % asked.").await;
    let lines_of = "return [...document.querySelectorAll('.v.brief')].map((p) => Math.round(p.getBoundingClientRect().height / parseFloat(getComputedStyle(p).lineHeight)))";
    let lines = script(&page, lines_of).await;
    let all: Vec<u64> = lines.as_array().expect("lines").iter().map(|n| n.as_u64().expect("a number")).collect();
    assert!(all.len() == 3 && all.iter().all(|n| (1..=3).contains(n)), "{all:?}");
    assert_eq!(script(&page, "return document.documentElement.scrollWidth").await, json!(390));
    // The whole sentence is one tap away.
    let shown = "return [...document.querySelectorAll('.v.whole')].filter((p) => p.offsetParent !== null).length";
    assert_eq!(script(&page, shown).await, json!(0));
    page.click("details.brief summary").await;
    page.shows("you said would matter").await;
    // What is read off is named, and fits as well.
    page.click(".measures [role=tab]:nth-of-type(2)").await;
    page.shows("Height: two thirds feed").await;
    let all = script(&page, lines_of).await;
    let all: Vec<u64> = all.as_array().expect("lines").iter().map(|n| n.as_u64().expect("a number")).collect();
    assert!(all.len() == 3 && all.iter().all(|n| (1..=3).contains(n)), "{all:?}");
    assert!(page.axe_faults().await.is_empty(), "{:?}", page.axe_faults().await);
    page.no_faults().await;
    page.end().await;
}
