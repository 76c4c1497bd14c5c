//! The solution bench: a two-part feed typed in from its labels, kept as a recipe, given to sixteen
//! trays at half and full strength; a slip is told at its field, and what stood on the bench is
//! still there.

use iron_twin_e2e::thirtyfour::Key;
use iron_twin_e2e::{Browser, Server};

/// Steps that a grower takes: a click, or a field with what is typed into it.
struct Steps(usize);

impl Steps {
    async fn click(&mut self, browser: &Browser, tag: &str, text: &str) {
        self.0 += 1;
        browser.click_text(tag, text).await;
    }

    async fn fill(&mut self, browser: &Browser, field: &str, text: &str) {
        self.0 += 1;
        browser.fill(&format!("input[name='{field}']"), text).await;
    }

    async fn choose(&mut self, browser: &Browser, field: &str, option: &str) {
        self.0 += 1;
        browser.click(&format!("#{field}")).await;
        browser.keys(option).await;
        browser
            .click(&format!(".ant-select-item-option[title=\"{option}\"]"))
            .await;
    }

    /// A label as it stands on the bottle.
    async fn label(&mut self, browser: &Browser, name: &str, figures: &[(&str, &str)]) {
        self.click(browser, "button", "type in a label").await;
        self.fill(browser, "entry-name", name).await;
        self.choose(browser, "entry-form", "liquid").await;
        for (field, value) in figures {
            self.fill(browser, &format!("entry-{field}"), value).await;
        }
        self.0 += 1;
        browser.keys(Key::Enter).await;
        browser.gone("input[name='entry-name']").await;
        // What was typed stands on the bench at once.
        browser
            .find(&format!("input[name='bench-dose-{name}']"))
            .await;
    }
}

#[tokio::test]
async fn a_two_part_feed_comes_from_its_labels_to_sixteen_trays_at_half_and_full_strength() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Lettuce in two parts").await;
    let mut steps = Steps(0);
    steps.click(&browser, "a", "Mix").await;
    steps.click(&browser, "a", "Recipe bench").await;
    let a = [
        ("dose_per_l", "2.5"),
        ("density_kg_per_l", "1.2"),
        ("n_percent", "4"),
        ("ca_percent", "4.5"),
    ];
    steps.label(&browser, "leaf feed A", &a).await;
    let b = [
        ("dose_per_l", "2.5"),
        ("density_kg_per_l", "1.1"),
        ("p2o5_percent", "2.5"),
        ("k2o_percent", "8"),
        ("mg_percent", "1"),
    ];
    steps.label(&browser, "leaf feed B", &b).await;
    // 2.5 mL of 1.2 kg/L with 4.5 % Ca are 135 mg/L.
    browser.shows("Ca 135").await;
    steps.fill(&browser, "recipe-name", "leaf feed").await;
    steps.click(&browser, "button", "Keep as recipe").await;
    steps
        .click(&browser, "button", "Feed the trial with it")
        .await;
    browser.shows("The trial is fed with it").await;
    browser.shows("take that back, feed grow feed again").await;
    steps.click(&browser, "a", "Match").await;
    browser.shows("One difference: feed").await;
    steps.click(&browser, "button", "half feed").await;
    browser.shows("3 treatments, 1 difference").await;
    steps.click(&browser, "a", "Mix").await;
    // Three treatments on sixteen slots: five trays each of 250 mL, and a tenth spare.
    browser.shows("leaf feed A").await;
    browser.shows("50 % of the recipe: 1.25 mL per litre").await;
    browser
        .shows("100 % of the recipe: 2.50 mL per litre")
        .await;
    assert!(steps.0 <= 25, "{} steps", steps.0);
    // The bench still holds what stood on it, and tells a slip at its field without losing the
    // rest.
    browser.click_text("a", "Recipe bench").await;
    browser
        .fill("input[name='bench-dose-leaf feed A']", "-3")
        .await;
    browser
        .shows("must lie between 0 and 500 in a litre, got -3")
        .await;
    browser
        .fill("input[name='bench-dose-leaf feed A']", "2")
        .await;
    browser.shows("Ca 108").await;
    browser.keys(Key::Up).await;
    browser.shows("Ca 113").await;
    browser.fill("input[name=bench-volume]", "1000000000").await;
    browser.shows("must lie between 0.001 and 1000000").await;
    browser.end().await;
}

#[tokio::test]
async fn salts_are_aimed_at_a_target_and_made_into_concentrates() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Salts").await;
    browser.click_text("nav//a", "Mix").await;
    browser.click_text("a", "Recipe bench").await;
    let mut steps = Steps(0);
    steps
        .choose(&browser, "bench-start", "leafy greens from salts")
        .await;
    steps.choose(&browser, "bench-water", "rain water").await;
    steps.choose(&browser, "bench-target", "fruit crops").await;
    browser.shows("iron EDTA sodium salt").await;
    browser
        .click_text("button", "Find the doses for fruit crops")
        .await;
    browser.shows("nothing here brings it").await;
    browser
        .click_text("button", "put back what stood here")
        .await;
    browser.click_text("summary", "Stock concentrates").await;
    browser.fill("input[name=stock-times]", "100").await;
    // 0.57 g/L, a hundred times.
    browser.shows("57.0 g calcium nitrate tetrahydrate").await;
    browser.shows("10 mL each of A and B").await;
    browser.fill("input[name=stock-times]", "900").await;
    browser.shows("falls out. Make it at most").await;
    // The trial is fed with it, and that is taken back.
    browser.fill("input[name=recipe-name]", "house salts").await;
    browser.click_text("button", "Keep as recipe").await;
    browser.click_text("button", "Feed the trial with it").await;
    browser
        .click_text("button", "take that back, feed grow feed again")
        .await;
    browser.shows("Feed the trial with it: full feed").await;
    browser.end().await;
}

#[tokio::test]
async fn batches_are_shared_rinses_planned_and_a_tank_topped_up() {
    let server = Server::fresh("serve");
    let browser = Browser::start(1280, 800).await;
    browser.new_trial(&server, "Filling").await;
    browser.click_text("nav//a", "Mix").await;
    browser.click_text("a", "Filling and order").await;
    browser.shows("One batch of 2.20 L").await;
    browser.fill("input[name=vessel]", "1.1").await;
    browser
        .shows("2 batches of 1.10 L, each shared over every tray")
        .await;
    browser.shows("rinse three times with clean water").await;
    browser.fill("input[name=vessel]", "0").await;
    browser
        .shows("The largest vessel, L must lie between 0.1 and 10000")
        .await;
    browser.click_text("a", "Top-up").await;
    browser.fill("input[name=top-now]", "1,1").await;
    browser.fill("input[name=top-nowEc]", "1.74").await;
    browser.click_text("button", "Work it out").await;
    browser.shows("1.10 L of water").await;
    browser.fill("input[name=top-nowEc]", "19").await;
    browser.click_text("button", "Work it out").await;
    browser.shows("measure again").await;
    // Acid for the water, counted in every tank and in the batch, and taken out again.
    browser.click_text("a", "pH of the water").await;
    browser.fill("input[name=ph-target]", "9").await;
    browser.shows("pH must lie between 4.5 and 8.5").await;
    browser.fill("input[name=ph-target]", "5.8").await;
    browser.click_text("button", "Count it in every tank").await;
    browser
        .shows("Counted in every tank: nitric acid, 38 %, to pH 5.8.")
        .await;
    browser.click_text("a", "Tanks").await;
    browser.shows("first, into the water, to pH 5.8").await;
    browser.click_text("a", "Filling and order").await;
    browser.shows("Bring all the water to pH 5.8 first").await;
    browser.click_text("a", "pH of the water").await;
    browser
        .click_text("button", "use the water as it comes")
        .await;
    browser.shows("Count it in every tank").await;
    browser.end().await;
}

/// Water used is asked for at Ask, recorded in the grid and shown at Mix; the demo has a whole
/// season of it.
#[tokio::test]
async fn a_bucket_says_what_it_drank() {
    let server = Server::fresh("demo");
    let browser = Browser::start(1280, 800).await;
    browser.page.goto(&server.address).await.expect("the page");
    browser.click_text("a", "Watercress").await;
    browser.click_text("nav//a", "Mix").await;
    browser.click_text("a", "Uptake").await;
    browser.shows("Feed gone").await;
    browser.shows("L given, day 1 to 30").await;
    browser.shows("mg N").await;
    assert_eq!(
        browser
            .page
            .find_all(thirtyfour::By::Css(".uptake tbody tr"))
            .await
            .expect("rows")
            .len(),
        12
    );
    browser.click_text("nav//a", "Judge").await;
    browser
        .click_text("button", "harvest per litre of water")
        .await;
    browser.shows("g/L").await;

    browser.new_trial(&server, "Jars").await;
    browser.click_text("nav//a", "Mix").await;
    browser.click_text("a", "Uptake").await;
    browser.shows("This trial does not ask for levels").await;
    browser.click_text("a", "Go to Ask").await;
    browser.click("#also").await;
    browser.keys("water used").await;
    browser
        .click(".ant-select-item-option[title='water used']")
        .await;
    browser.click_text("nav//a", "Place").await;
    browser.click_text("button", "Deal the treatments").await;
    browser.click_text("nav//a", "Tend").await;
    browser.click_text("button", "They are sown today").await;
    browser.shows("solution left").await;
    browser.shows("before pouring").await;
    browser.end().await;
}
