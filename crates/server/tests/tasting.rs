//! Blind tasting: what may go to the table, twelve phones at once, covered cups, and what is told
//! to whom and when.

use crate::farm;

use axum::http::StatusCode;
use farm::{Farm, record, set_cell};
use serde_json::{Value, json};

/// Eight trays, sown and weighed; the treatment that is not the control gets this additive besides.
async fn weighed(farm: &Farm, additive: &str) -> String {
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut trial = farm.get(&at("")).await;
    if !additive.is_empty() {
        set_cell(&mut trial["sheet"]["treatments"][1], "additive", additive);
        let put = json!({ "sheet": trial["sheet"], "version": trial["version"] });
        trial = farm.call("PUT", &at("/match-sheet"), put).await;
    }
    let rack = json!({
        "name": "shelf", "levels": 2, "slots": 4, "kind": "rack", "design": "completely_randomised",
    });
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let (status, text) = farm.text("POST", &at("/tastings"), pair(12)).await;
    assert!(
        status == StatusCode::CONFLICT && text.contains("nothing to taste"),
        "{status} {text}"
    );
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::ToSpan::days(10))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    for unit in farm.get(&at("")).await["units"].as_array().expect("units") {
        let code = unit["code"].as_str().expect("a code");
        let weight = json!({
            "code": code, "gross_g": 150.0, "tare_g": 40.0, "version": 0, "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("weighing", weight))
            .await;
    }
    id
}

fn pair(seats: u32) -> Value {
    json!({ "asked": "pair", "way": "served", "of": [0, 1], "seats": seats, "hours": 2 })
}

/// The tokens of a tasting, seat by seat.
async fn tokens(farm: &Farm, id: &str, no: &Value) -> Vec<String> {
    let cards = farm
        .get(&format!(
            "/trials/{id}/tastings/{no}/cards?base=http://10.0.0.7:4747/"
        ))
        .await;
    let link = |card: &Value| card["link"].as_str().expect("a link").to_owned();
    let links: Vec<String> = cards.as_array().expect("cards").iter().map(link).collect();
    assert!(
        links
            .iter()
            .all(|l| l.starts_with("http://10.0.0.7:4747/taste/")),
        "{links:?}"
    );
    links
        .iter()
        .map(|l| l.rsplit('/').next().expect("a token").to_owned())
        .collect()
}

#[tokio::test]
async fn what_is_not_fit_to_eat_stays_off_the_table() {
    let farm = Farm::new();
    let id = weighed(&farm, "house tea").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let barred = async || farm.get(&at("/tastings")).await["offers"][1]["barred"].clone();
    assert!(
        barred().await[0]
            .as_str()
            .expect("a reason")
            .contains("do not know what is in house tea")
    );
    let refused = farm.text("POST", &at("/tastings"), pair(6)).await;
    assert!(
        refused.0 == StatusCode::UNPROCESSABLE_ENTITY && refused.1.contains("house tea"),
        "{refused:?}"
    );
    let held = json!({
        "form": "liquid", "dose_per_l": 2.0, "composition": "stated", "n_percent": 0.1,
        "food_grade": "yes", "pre_harvest_days": 3.0,
    });
    let item = json!({
        "item": { "shelf": "additives", "name": "house tea", "source": "its label", "held": held },
        "version": 0,
    });
    farm.call("POST", "/stores/items", item).await;
    // Fed until the harvest, and its label wants three days.
    assert!(
        barred().await[0]
            .as_str()
            .expect("a reason")
            .contains("its label wants 3 days before the harvest")
    );
    let held = json!({
        "form": "liquid", "dose_per_l": 2.0, "composition": "stated", "n_percent": 0.1,
        "food_grade": "yes",
    });
    let item =
        json!({ "shelf": "additives", "name": "house tea", "source": "its label", "held": held });
    let shelves = farm.get("/stores").await;
    let of = |shelf: &Value| shelf["items"].as_array().expect("items").clone();
    let items: Vec<Value> = shelves
        .as_array()
        .expect("shelves")
        .iter()
        .flat_map(of)
        .collect();
    let own = items.iter().find(|i| i["name"] == "house tea").expect("it");
    let put = json!({ "id": own["id"], "item": item, "version": own["version"] });
    farm.call("POST", "/stores/items", put).await;
    assert_eq!(barred().await, json!([]));
    farm.call("POST", &at("/tastings"), pair(6)).await;
}

#[tokio::test]
async fn twelve_phones_answer_at_once_and_nobody_reads_along() {
    let farm = Farm::new();
    let id = weighed(&farm, "").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let view = farm.call("POST", &at("/tastings"), pair(12)).await;
    let own = view["tastings"][0].clone();
    assert_eq!(
        (
            &own["of"],
            own["seats"].as_array().map(Vec::len),
            &own["open"]
        ),
        (&json!(["plain water", "full feed"]), Some(12), &json!(true))
    );
    let tokens = tokens(&farm, &id, &own["no"]).await;
    // Everybody is asked to sign in by now; a seat asks for nothing but its token.
    let owner = farm.person("Robin", "owner").await;
    let hand = farm.person("Kim", "recorder").await;
    farm.call("POST", "/ask-here", json!({ "ask": true })).await;
    let page = farm.get(&format!("/taste/{}", tokens[0])).await;
    assert_eq!(
        (page["codes"].as_array().map(Vec::len), &page["answer"]),
        (Some(2), &Value::Null)
    );
    let text = page.to_string();
    assert!(
        !text.contains("feed\"") && !text.contains("plain") && !text.contains(&id),
        "a seat tells nothing of the trial: {text}"
    );
    assert_eq!(
        farm.text("GET", "/taste/not-a-token", Value::Null).await.0,
        StatusCode::NOT_FOUND
    );
    assert_eq!(
        farm.text("GET", &at(""), Value::Null).await.0,
        StatusCode::UNAUTHORIZED
    );
    // What stands first at the first seat is preferred by ten, wherever it stands at theirs.
    let first_of = |seat: usize, place: usize| own["seats"][seat]["cups"][place]["from"].clone();
    let preferred = first_of(0, 0);
    let answers = tokens.iter().enumerate().map(|(seat, token)| {
        let place = usize::from(first_of(seat, 0) != preferred);
        let picked = if seat < 10 { place } else { 1 - place };
        let (farm, path) = (&farm, format!("/taste/{token}"));
        let body = json!({ "picked": picked, "taster": format!("guest {seat}") });
        async move { farm.text("POST", &path, body).await }
    });
    for (status, text) in futures_util::future::join_all(answers).await {
        assert_eq!(status, StatusCode::OK, "{text}");
    }
    let refused = farm
        .text(
            "POST",
            &format!("/taste/{}", tokens[3]),
            json!({ "picked": 2 }),
        )
        .await;
    assert!(
        refused.0 == StatusCode::UNPROCESSABLE_ENTITY && refused.1.contains("there are 2 cups"),
        "{refused:?}"
    );
    // A recorder sees that it goes on, and neither what is in a cup nor the cards.
    let seen = farm
        .text_as(&hand, "GET", &at("/tastings"), Value::Null)
        .await
        .1;
    let seen: Value = serde_json::from_str(&seen).expect("a view");
    assert_eq!(
        (&seen["mine"], &seen["offers"], &seen["tastings"][0]["of"]),
        (&json!(false), &json!([]), &json!([]))
    );
    assert!(
        seen["tastings"][0]["seats"]
            .as_array()
            .expect("seats")
            .iter()
            .all(|s| s["answered"] == true && s["cups"][0]["from"] == json!([]))
    );
    let cards = at(&format!(
        "/tastings/{}/cards?base=http://10.0.0.7",
        own["no"]
    ));
    assert_eq!(
        farm.text_as(&hand, "GET", &cards, Value::Null).await.0,
        StatusCode::FORBIDDEN
    );
    let close = at(&format!("/tastings/{}/close", own["no"]));
    assert_eq!(
        farm.text_as(&hand, "POST", &close, Value::Null).await.0,
        StatusCode::FORBIDDEN
    );
    let as_owner = async |method: &str, path: String, body: Value| {
        let (status, text) = farm.text_as(&owner, method, &path, body).await;
        assert!(status.is_success(), "{path}: {text}");
        serde_json::from_str::<Value>(&text).expect("JSON")
    };
    let closed = as_owner("POST", close, Value::Null).await["tastings"][0].clone();
    assert_eq!(
        (&closed["closed"], &closed["told"]),
        (&json!(true), &Value::Null)
    );
    assert!(
        closed["said"][0]
            .as_str()
            .expect("words")
            .contains("once the key of the trial is open")
    );
    let late = farm
        .text(
            "POST",
            &format!("/taste/{}", tokens[0]),
            json!({ "picked": 0 }),
        )
        .await;
    assert!(
        late.0 == StatusCode::CONFLICT && late.1.contains("this tasting is over"),
        "{late:?}"
    );
    as_owner("POST", at("/reveal"), json!({ "reason": "tried out" })).await;
    let told = as_owner("GET", at("/tastings"), Value::Null).await["tastings"][0].clone();
    assert_eq!(
        (
            &told["told"]["picked"]["of"],
            &told["told"]["picked"]["told"]
        ),
        (&json!(12), &json!(true))
    );
    let said = told["said"][0].as_str().expect("words");
    assert!(
        said.starts_with("10 of 12 preferred ") && said.ends_with("in 39 of 1,000 tastings."),
        "{said}"
    );
    // What was preferred is what stands in the units that were preferred.
    let trial = as_owner("GET", at(""), Value::Null).await;
    let of = |code: &Value| {
        trial["units"]
            .as_array()
            .expect("units")
            .iter()
            .find(|u| u["code"] == *code)
            .expect("it")["treatment"]
            .clone()
    };
    let name = &trial["sheet"]["treatments"]
        [of(&preferred[0]).as_u64().expect("an index") as usize]["name"];
    assert!(
        said.contains(&format!("preferred {} to", name.as_str().expect("a name"))),
        "{said}"
    );
}

#[tokio::test]
async fn covered_cups_are_looked_under_only_after_the_answer() {
    let farm = Farm::new();
    let id = weighed(&farm, "").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let sent = json!({ "asked": "pair", "way": "covered", "of": [0, 1], "seats": 6, "hours": 1 });
    let own = farm.call("POST", &at("/tastings"), sent).await["tastings"][0].clone();
    let seat = |n: usize, what: &str| at(&format!("/tastings/{}/seats/{n}/{what}", own["no"]));
    let codes = |n: usize| -> Vec<String> {
        let cups = own["seats"][n - 1]["cups"].as_array().expect("cups");
        cups.iter()
            .map(|c| c["from"][0].as_str().expect("a code").to_owned())
            .collect()
    };
    farm.person("Robin", "owner").await;
    let hand = farm.person("Kim", "recorder").await;
    let answer = json!({ "picked": 0, "liking": [7, 4], "taster": "Kim" });
    let early = farm
        .text("POST", &seat(1, "uncovered"), json!({ "codes": codes(1) }))
        .await;
    assert!(
        early.0 == StatusCode::CONFLICT && early.1.contains("say first which is better"),
        "{early:?}"
    );
    let short = farm
        .text("POST", &seat(1, "answer"), json!({ "picked": 0 }))
        .await;
    assert!(short.1.contains("how much you like it"), "{short:?}");
    for n in 1..=6 {
        assert_eq!(
            farm.text_as(&hand, "POST", &seat(n, "answer"), answer.clone())
                .await
                .0,
            StatusCode::OK
        );
        // Changed before the look, kept after it.
        assert_eq!(
            farm.text_as(&hand, "POST", &seat(n, "answer"), answer.clone())
                .await
                .0,
            StatusCode::OK
        );
        let wrong = farm
            .text(
                "POST",
                &seat(n, "uncovered"),
                json!({ "codes": [codes(n)[0], codes(n)[0]] }),
            )
            .await;
        assert!(wrong.1.contains("each once"), "{wrong:?}");
        // Always the unit of the same side at the left.
        let of = |code: &String| format!("{}", unit_side(&farm, &id, code));
        let mut stood = codes(n);
        stood.sort_by_key(of);
        farm.call("POST", &seat(n, "uncovered"), json!({ "codes": stood }))
            .await;
        let again = farm.text("POST", &seat(n, "answer"), answer.clone()).await;
        assert!(
            again.0 == StatusCode::CONFLICT && again.1.contains("looked under"),
            "{again:?}"
        );
    }
    farm.call(
        "POST",
        &at(&format!("/tastings/{}/close", own["no"])),
        Value::Null,
    )
    .await;
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let told = farm.get(&at("/tastings")).await["tastings"][0].clone();
    assert_eq!(
        (&told["told"]["picked"]["right"], &told["told"]["answers"]),
        (&json!(0), &json!(6))
    );
    assert_eq!(told["told"]["liking"][0]["mean"], 7.0);
    let said: Vec<&str> = told["said"]
        .as_array()
        .expect("words")
        .iter()
        .map(|s| s.as_str().expect("words"))
        .collect();
    assert_eq!(
        said[0],
        "6 of 6 preferred plain water to full feed: it is preferred. Luck alone has as many agree \
         in 31 of 1,000 tastings."
    );
    assert!(
        said.last()
            .expect("a word")
            .starts_with("It is told of one taster"),
        "{said:?}"
    );
}

/// Which treatment a unit has, as the data file knows it.
fn unit_side(farm: &Farm, id: &str, code: &str) -> usize {
    let trial = farm.store().trial(id).expect("the trial");
    trial.units[trial.unit(code).expect("a unit")]
        .treatment
        .get()
}
