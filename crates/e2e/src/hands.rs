//! Hands and eyes at the page: finding, clicking, typing, and waiting for what it shows.

use crate::{Browser, PATIENCE, Server};
use std::time::Duration;
use thirtyfour::error::WebDriverErrorInner;
use thirtyfour::prelude::*;

/// What the foot of the page says while something is on its way.
const SAVING: &str = "saving \u{2026}";
/// How long a page that shows what was waited for may go on changing.
const REST: Duration = Duration::from_secs(3);

/// Whether an element was drawn anew, or something lay over it while the page still moved.
fn moved(error: &WebDriverError) -> bool {
    matches!(
        error.as_inner(),
        WebDriverErrorInner::StaleElementReference(_)
            | WebDriverErrorInner::ElementClickIntercepted(_)
    )
}

/// A headless Chromium. The driver process is declared before the session, so that a panic ends
impl Browser {
    /// The element for a CSS selector, once it is there.
    ///
    /// # Panics
    /// When it does not come.
    pub async fn find(&self, css: &str) -> WebElement {
        let found = self
            .page
            .query(By::Css(css))
            .wait(PATIENCE, Duration::from_millis(50))
            .first()
            .await;
        match found {
            Ok(element) => element,
            Err(error) => panic!("'{css}' did not come: {error}\n{}", self.text().await),
        }
    }

    /// The element with this text inside one of a kind of tag, once it is there.
    ///
    /// # Panics
    /// When it does not come.
    pub async fn find_text(&self, tag: &str, text: &str) -> WebElement {
        let path = format!("//{tag}[contains(normalize-space(.), {})]", quoted(text));
        let found = self
            .page
            .query(By::XPath(&*path))
            .wait(PATIENCE, Duration::from_millis(50))
            .first()
            .await;
        match found {
            Ok(element) => element,
            Err(error) => panic!(
                "<{tag}> with '{text}' did not come: {error}\n{}",
                self.text().await
            ),
        }
    }

    /// Clicks an element; one that the page drew anew or moved between finding and clicking is
    /// looked for again.
    async fn click_found(&self, what: &str, find: impl AsyncFn() -> WebElement) {
        for _ in 0..5 {
            let element = find().await;
            // A button that still works takes no second click.
            if let Ok(Some(class)) = element.class_name().await
                && class.contains("ant-btn-loading")
            {
                self.gone(".ant-btn-loading").await;
            }
            let clicked = match at_rest(&element).await {
                Ok(()) => element.click().await,
                Err(error) => Err(error),
            };
            match clicked {
                Ok(()) => return,
                Err(error) if moved(&error) => tokio::time::sleep(Duration::from_millis(150)).await,
                Err(error) => panic!("'{what}' cannot be clicked: {error}"),
            }
        }
        panic!(
            "'{what}' stays covered, or is drawn anew again and again; the page says:\n{}",
            self.text().await
        );
    }

    /// Clicks the element for a CSS selector.
    pub async fn click(&self, css: &str) {
        self.click_found(css, async || self.find(css).await).await;
    }

    /// Clicks a tag that holds this text.
    pub async fn click_text(&self, tag: &str, text: &str) {
        self.click_found(text, async || self.find_text(tag, text).await)
            .await;
    }

    /// Replaces what a field holds, key by key; once more where it was drawn anew in between.
    pub async fn fill(&self, css: &str, text: &str) {
        for _ in 0..5 {
            self.click(css).await;
            let field = self.page.active_element().await.expect("a focus");
            let filled = match field.send_keys(Key::Control + "a").await {
                Ok(()) => field.send_keys(text).await,
                Err(error) => Err(error),
            };
            match filled {
                Ok(()) => return,
                Err(error) if moved(&error) => tokio::time::sleep(Duration::from_millis(50)).await,
                Err(error) => panic!("'{css}' cannot be filled: {error}"),
            }
        }
        panic!("'{css}' is drawn anew again and again");
    }

    /// Chooses from the list of a field, by the field's id.
    pub async fn choose(&self, id: &str, choice: &str) {
        self.click(&format!("#{id}")).await;
        self.click(&format!(".ant-select-item-option[title=\"{choice}\"]"))
            .await;
    }

    /// Chooses from the list of a field, by its spoken label.
    pub async fn choose_in(&self, label: &str, choice: &str) {
        self.click(&format!(".ant-select:has([aria-label='{label}'])"))
            .await;
        self.click(&format!(
            ".ant-select-dropdown:not(.ant-select-dropdown-hidden) [title='{choice}']"
        ))
        .await;
    }

    /// Puts the date so many days ago into a field for dates.
    pub async fn set_date(&self, css: &str, days_ago: u32) {
        let _ = self.find(css).await;
        let set = "const d = new Date(); d.setDate(d.getDate() - arguments[1]); const f = \
                   document.querySelector(arguments[0]); \
                   Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, \
                   'value').set.call(f, d.toLocaleDateString('sv-SE')); f.dispatchEvent(new \
                   Event('input', { bubbles: true }));";
        self.page
            .execute(
                set,
                vec![serde_json::json!(css), serde_json::json!(days_ago)],
            )
            .await
            .expect("a date");
    }

    /// Types into whatever has the focus; once more where that was drawn anew in between.
    pub async fn keys(&self, keys: impl Into<TypingData> + Clone) {
        for _ in 0..5 {
            let element = self.page.active_element().await.expect("a focus");
            match element.send_keys(keys.clone().into()).await {
                Ok(()) => return,
                Err(error) if moved(&error) => tokio::time::sleep(Duration::from_millis(50)).await,
                Err(error) => panic!("keys: {error}"),
            }
        }
        panic!("what has the focus is drawn anew again and again");
    }

    /// Types into the element with a CSS selector, whatever lies over it.
    pub async fn keys_on(&self, css: &str, keys: impl Into<TypingData>) {
        self.find(css)
            .await
            .send_keys(keys.into())
            .await
            .expect("keys");
    }

    /// All text of the page that can be seen, line by line.
    pub async fn text(&self) -> String {
        // The page's own word: the driver's walks through every element and took half a second where
        // this takes a hundredth.
        let script = "return (document.body?.innerText ?? '').split('\\n').map(l => \
                      l.replace(/[\\s\\u200b]+/g, ' ').trim()).filter(l => l).join('\\n')";
        match self.page.execute(script, Vec::new()).await {
            Ok(answer) => answer.convert().unwrap_or_default(),
            Err(_) => String::new(),
        }
    }

    /// Waits until the page shows a text and has come to rest: what is typed into a page that is
    /// about to change is not what anybody would do who reads it.
    ///
    /// # Panics
    /// When it does not.
    pub async fn shows(&self, text: &str) {
        let started = std::time::Instant::now();
        let mut shown: Option<std::time::Instant> = None;
        let mut before = String::new();
        loop {
            let now = self.text().await;
            if now.contains(text) {
                let since = *shown.get_or_insert_with(std::time::Instant::now);
                // A live scale never rests.
                if (now == before && !now.contains(SAVING)) || since.elapsed() > REST {
                    return;
                }
            }
            assert!(
                started.elapsed() < PATIENCE,
                "'{text}' did not come; the page says:\n{now}"
            );
            before = now;
            tokio::time::sleep(Duration::from_millis(100)).await;
        }
    }

    /// Waits until nothing is left for a CSS selector.
    ///
    /// # Panics
    /// When it stays.
    pub async fn gone(&self, css: &str) {
        let started = std::time::Instant::now();
        while !self
            .page
            .find_all(By::Css(css))
            .await
            .expect("a page")
            .is_empty()
        {
            assert!(
                started.elapsed() < PATIENCE,
                "'{css}' stays; the page says:\n{}",
                self.text().await
            );
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
    }

    /// Waits until the page no longer shows a text.
    ///
    /// # Panics
    /// When it stays.
    pub async fn gone_text(&self, text: &str) {
        let started = std::time::Instant::now();
        loop {
            let now = self.text().await;
            if !now.contains(text) {
                return;
            }
            assert!(
                started.elapsed() < PATIENCE,
                "'{text}' stays; the page says:\n{now}"
            );
            tokio::time::sleep(Duration::from_millis(60)).await;
        }
    }

    /// Whether the element with a CSS selector has the focus.
    pub async fn has_focus(&self, css: &str) -> bool {
        let script = format!("return document.activeElement?.matches({css:?}) ?? false");
        let answer = self
            .page
            .execute(script, Vec::new())
            .await
            .expect("an answer");
        answer.json().as_bool().unwrap_or_default()
    }

    /// After the key was opened: past the letters by rank, and what they had, to the verdict.
    pub async fn past_the_letters(&self) {
        self.shows("First the letters, from best to worst").await;
        self.click_text("button", "Show what they had").await;
        self.click_text("button", "On to the verdict").await;
    }

    /// Starts a trial as a grower does, and stands at its Ask station.
    pub async fn new_trial(&self, server: &Server, name: &str) {
        self.page
            .goto(format!("{}/trials", server.address))
            .await
            .expect("the page");
        self.fill("input[name=name]", name).await;
        self.keys(Key::Enter).await;
        self.find("textarea[name=question]").await;
    }
}

/// Brings an element into view and waits until it stands still: a click goes to a place, and what
/// comes above it a moment later moves another thing there.
async fn at_rest(element: &WebElement) -> Result<(), WebDriverError> {
    element.scroll_into_view().await?;
    let mut before = element.rect().await?;
    for _ in 0..20 {
        tokio::time::sleep(Duration::from_millis(50)).await;
        let now = element.rect().await?;
        if (now.x, now.y) == (before.x, before.y) {
            return Ok(());
        }
        before = now;
    }
    Ok(())
}

fn quoted(text: &str) -> String {
    if text.contains('\'') {
        format!("\"{text}\"")
    } else {
        format!("'{text}'")
    }
}
