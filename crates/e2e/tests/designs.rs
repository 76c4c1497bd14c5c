//! Designs and measures as a grower chooses them: the rack is dealt in pairs, freely or as a
//! square; a share decides; two factors are crossed, recorded, and told apart at Judge.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server, record};
use serde_json::{Value, json};

#[tokio::test]
async fn a_rack_is_dealt_in_pairs_freely_and_as_a_square() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Mustard in pairs").await;
    browser.click_text("nav//a", "Place").await;
    browser
        .choose("design", "in pairs of neighbouring slots")
        .await;
    browser.shows("8 pairs, to deal").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("at random within each pair").await;
    browser.shows("one of 256 ways").await;
    browser
        .choose("design", "once on each level and once in each column")
        .await;
    browser.shows("square 4 x 2, to deal").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("a Latin square drawn at random").await;
    browser.choose("design", "freely over all places").await;
    browser.shows("16 trays freely, to deal").await;
    browser.end().await;
}

#[tokio::test]
async fn a_share_decides_and_is_recorded_at_the_shelf() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Sprouting mustard").await;
    browser
        .fill("textarea[name=question]", "Do more of them sprout?")
        .await;
    browser.choose("measure", "germinated").await;
    browser
        .shows("Say what share the control usually shows")
        .await;
    browser.fill("input[name=usual_per_unit]", "60").await;
    browser.shows("Say out of how many").await;
    browser.fill("input[name=usual_out_of]", "50").await;
    browser
        .shows("iron-twin power --kind share --share 60% --out-of 50")
        .await;
    browser.shows("beat by 10 %").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("seeds counted").await;
    let fields = browser
        .page
        .find_all(iron_twin_e2e::thirtyfour::By::Css("table.grid thead th"))
        .await
        .expect("a head");
    assert_eq!(
        fields.len(),
        6,
        "tray, pH, EC, germinated, seeds counted, and the height that is also recorded"
    );
    // Half a seed cannot be counted: refused where it was typed.
    browser.fill("input[data-place=\"0-4\"]", "12.5").await;
    browser.keys(Key::Enter).await;
    browser.shows("seeds counted is a whole number").await;
    // It is kept in sight from wherever one goes, and gone once it is corrected.
    browser.click_text("nav//a", "Judge").await;
    browser.shows("1 record was not taken: look").await;
    browser.click_text("nav//a", "Tend").await;
    browser.fill("input[data-place=\"0-4\"]", "12").await;
    browser.keys(Key::Enter).await;
    browser.shows("all saved").await;
    browser.end().await;
}

/// The trial as the page's own calls make it; what is looked at is the page.
#[tokio::test]
async fn crossed_factors_are_told_apart_at_judge() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Feed and mat").await;
    browser.click_text("nav//a", "Match").await;
    browser.shows("One difference: feed").await;
    let address = browser
        .page
        .current_url()
        .await
        .expect("an address")
        .to_string();
    let id = address.split('/').nth(4).expect("an id").to_owned();
    let call = |method: &'static str, path: String, body: Value| {
        let browser = &browser;
        async move {
            let script = "const [method, path, body, done] = arguments; fetch(path, { method, headers: { 'content-type': 'application/json' }, body: body === null ? undefined : JSON.stringify(body) }) \
                          .then(async (r) => done(await r.text()))";
            let said = browser
                .page
                .execute_async(
                    script,
                    vec![json!(method), json!(format!("/api/v1/trials/{path}")), body],
                )
                .await
                .expect("an answer");
            let text: String = said.convert().expect("text");
            serde_json::from_str::<Value>(&text).unwrap_or(Value::Null)
        }
    };
    let trial = serde_json::from_str::<Value>(&browser.get(&format!("/api/v1/trials/{id}")).await)
        .expect("a trial");
    let mut sheet = trial["sheet"].clone();
    for i in 0..2 {
        let mut other = sheet["treatments"][i].clone();
        other["name"] = json!(format!(
            "{} on coir",
            other["name"].as_str().expect("a name")
        ));
        other["control"] = json!(false);
        other["conditions"]["medium"] = json!("coir mat");
        sheet["treatments"]
            .as_array_mut()
            .expect("treatments")
            .push(other);
    }
    call(
        "PUT",
        format!("{id}/match-sheet"),
        json!({ "sheet": sheet, "version": trial["version"] }),
    )
    .await;
    browser.page.refresh().await.expect("the page");
    browser
        .shows("feed and medium crossed: every combination is grown")
        .await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("4 levels x 4, dealt").await;
    call(
        "POST",
        format!("{id}/records"),
        record("work", json!({ "job": "sow" })),
    )
    .await;
    let poured = call("POST", format!("{id}/pouring-sheet"), Value::Null).await;
    let rows = poured
        .as_array()
        .unwrap_or_else(|| poured["rows"].as_array().expect("rows"))
        .clone();
    let trial = serde_json::from_str::<Value>(&browser.get(&format!("/api/v1/trials/{id}")).await)
        .expect("a trial");
    for (i, unit) in trial["units"].as_array().expect("units").iter().enumerate() {
        let code = unit["code"].as_str().expect("a code");
        let own = rows
            .iter()
            .find(|r| r.to_string().contains(&format!("\"{code}\"")))
            .expect("on the sheet");
        let gain = if own["treatment"] == json!("full feed on coir") {
            40.0
        } else {
            0.0
        };
        let gross = 300.0 + gain + ((i * 7) % 5) as f64;
        let body = json!({
            "code": code, "gross_g": gross, "tare_g": 200.0, "version": 0, "confirmed": true,
        });
        call("POST", format!("{id}/records"), record("weighing", body)).await;
    }
    call(
        "POST",
        format!("{id}/reveal"),
        json!({ "reason": "tried out" }),
    )
    .await;
    browser
        .page
        .goto(format!("{}/trials/{id}/judge", server.address))
        .await
        .expect("the page");
    browser.shows("eed and medium, crossed").await;
    browser.shows("helps only with").await;
    browser.shows("grow feed with coir mat").await;
    browser.end().await;
}

/// Two buckets, two rounds: planned, dealt, drawn, labelled, recorded round by round, and judged as
/// what they are.
#[tokio::test]
async fn systems_swap_over_from_the_plan_to_the_verdict() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser
        .new_trial(&server, "Watercress, dipped or not")
        .await;
    browser
        .fill("textarea[name=question]", "Does dipping help?")
        .await;
    browser.click_text("nav//a", "Place").await;
    browser.choose("space-kind", "buckets in rows").await;
    browser.fill("input[name=rack-levels]", "2").await;
    browser.keys(Key::Enter).await;
    browser
        .choose("design", "systems swap treatments each round")
        .await;
    browser.shows("4 systems x 2 rounds, to deal").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("one of 6 ways").await;
    browser.shows("round 2").await;
    browser.click_text("a", "Labels to print").await;
    browser.shows("round 1, system").await;
    browser.page.back().await.expect("back");
    for (round, gain) in [(1, 30), (2, 34)] {
        browser.click_text("nav//a", "Tend").await;
        if round == 1 {
            browser.click_text("button", "They are sown today").await;
        } else {
            browser.shows("Begin the next round").await;
            browser.click_text("button", "done").await;
        }
        browser.shows(&format!("round {round}: 0 of 4")).await;
        browser.click_text("nav//a", "Weigh").await;
        for n in 0..4 {
            browser.shows(&format!("{n} of 4 weighed")).await;
            browser.fill("input[name=tare]", "200").await;
            browser
                .fill("input[name=gross]", &(300 + gain + 7 * n).to_string())
                .await;
            browser.keys(Key::Enter).await;
        }
        browser.shows(&format!("round {round}: 4 of 4")).await;
    }
    browser.click_text("nav//a", "Judge").await;
    browser
        .fill("[name=reveal-reason]", "to see what it tells")
        .await;
    browser.click_text("button", "Open it all the same").await;
    browser.past_the_letters().await;
    browser.shows("Could it be luck?").await;
    browser.shows("6 ways").await;
    browser.end().await;
}

/// Pairs from the plan to the verdict: dealt, labelled, weighed at the page, compared pair by pair.
#[tokio::test]
async fn pairs_are_weighed_and_judged_pair_by_pair() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Mustard, pair by pair").await;
    browser
        .fill("textarea[name=question]", "Does the feed help?")
        .await;
    browser.click_text("nav//a", "Place").await;
    browser.fill("input[name=rack-levels]", "2").await;
    browser.keys(Key::Enter).await;
    browser
        .choose("design", "in pairs of neighbouring slots")
        .await;
    browser.shows("4 pairs, to deal").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("one of 16 ways").await;
    browser.click_text("a", "Labels to print").await;
    browser.shows("level 2, slot 4").await;
    browser.page.back().await.expect("back");
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.click_text("nav//a", "Weigh").await;
    for n in 0..8 {
        browser.shows(&format!("{n} of 8 weighed")).await;
        browser.fill("input[name=tare]", "200").await;
        browser
            .fill("input[name=gross]", &(310 + 3 * n).to_string())
            .await;
        browser.keys(Key::Enter).await;
    }
    browser.shows("8 of 8 weighed").await;
    browser.click_text("nav//a", "Judge").await;
    browser
        .fill("[name=reveal-reason]", "to see what it tells")
        .await;
    browser.click_text("button", "Open it all the same").await;
    browser.past_the_letters().await;
    browser.shows("16 ways").await;
    browser.shows("pair 4").await;
    browser.end().await;
}

/// A light map is typed along the walk; places chosen by hand are found fault with at once.
#[tokio::test]
async fn places_by_hand_and_their_light_are_looked_at_as_they_are_set() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "My own places").await;
    browser.click_text("nav//a", "Place").await;
    browser.fill("input[name=rack-levels]", "1").await;
    browser.keys(Key::Enter).await;
    browser
        .choose("design", "not dealt: I choose the places")
        .await;
    browser.shows("0 trays by hand").await;
    for slot in 1..=2 {
        browser
            .click(&format!("button[aria-label^='level 1, {slot}:']"))
            .await;
        browser.shows(&format!("{slot} trays by hand")).await;
    }
    browser.click_text("button", "full feed").await;
    for slot in 3..=4 {
        browser
            .click(&format!("button[aria-label^='level 1, {slot}:']"))
            .await;
        browser.shows(&format!("{slot} trays by hand")).await;
    }
    browser
        .shows("One treatment stands wholly to the left of another")
        .await;
    // Exchange the middle two: drag one onto the other's place.
    let (from, to) = (
        browser
            .find("button[aria-label^='level 1, 2:'] .tray")
            .await,
        browser.find("button[aria-label^='level 1, 3:']").await,
    );
    from.scroll_into_view().await.expect("in view");
    let drag = browser
        .page
        .action_chain()
        .move_to_element_center(&from)
        .click_and_hold()
        .move_by_offset(20, 0)
        .move_to_element_center(&to)
        .release();
    drag.perform().await.expect("a drag");
    browser.shows("no treatment has places of its own").await;
    browser.click_text("button", "Light").await;
    browser.fill("input[name=light-1-1]", "100").await;
    for light in ["160", "100", "160"] {
        browser.keys(Key::Enter).await;
        browser.keys(light).await;
    }
    browser.keys(Key::Enter).await;
    browser.shows("4 places: 100 to 160").await;
    browser.shows("darkest over mean 0.77").await;
    browser.end().await;
}

/// The count of steps stands in the guide.
#[tokio::test]
async fn sixteen_trays_at_four_strengths_are_planned_in_eight_steps() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    browser.click_text("a", "Trials").await;
    browser
        .fill("input[name=name]", "Red amaranth, how strong a feed?")
        .await;
    browser.keys(Key::Enter).await;
    browser
        .fill(
            "textarea[name=question]",
            "How strong a feed does red amaranth want?",
        )
        .await;
    browser.click_text("nav//a", "Match").await;
    browser.click_text("button", "half feed").await;
    browser.click_text("button", "two thirds feed").await;
    browser.shows("4 treatments, 1 difference").await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.shows("4 levels x 4, dealt").await;
    assert_eq!(
        browser
            .page
            .find_all(iron_twin_e2e::thirtyfour::By::Css(".tray"))
            .await
            .expect("trays")
            .len(),
        16
    );
    browser.click_text("nav//a", "Mix").await;
    browser
        .click_text("summary", "What the whole trial takes")
        .await;
    browser.shows("hemp mat").await;
    browser.end().await;
}
