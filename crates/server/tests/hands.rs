//! Who reads the meters and who grades: before the reveal nobody grades what an EC beside the
//! letter has told them.

use crate::farm;

use farm::{Farm, record};
use serde_json::{Value, json};

/// A sown trial of feed against water that is graded by eye, of two trays a side, and its codes.
async fn graded(farm: &Farm) -> (String, Vec<String>) {
    let id = farm.new_trial("Basil").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    ask["also"] = json!(["vigour"]);
    let put = json!({ "name": "Basil", "ask": ask, "version": trial["version"] });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    let mut rack = trial["rack"].clone();
    (rack["levels"], rack["slots"]) = (json!(1), json!(4));
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(4))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    let code = |unit: &Value| unit["code"].as_str().expect("a code").to_owned();
    (
        id,
        dealt["units"]
            .as_array()
            .expect("units")
            .iter()
            .map(code)
            .collect(),
    )
}

/// The cell of a reading in the first row of the grid.
fn cell<'a>(tend: &'a Value, reading: &str) -> &'a Value {
    let cells = tend["rows"][0]["cells"].as_array().expect("cells");
    cells
        .iter()
        .find(|c| c["reading"] == reading)
        .expect("a cell")
}

#[tokio::test]
async fn the_meter_of_one_is_kept_from_another_who_grades() {
    let farm = Farm::new();
    let (id, codes) = graded(&farm).await;
    farm.person("Ada", "owner").await;
    let (reader, grader) = (
        farm.person("Rea", "recorder").await,
        farm.person("Gray", "recorder").await,
    );
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let take = async |who: &str, reading: &str, day: u32, value: f64| {
        for code in &codes {
            let sent = json!({
                "code": code, "reading": reading, "day": day, "value": value, "version": 0,
            });
            let (status, said) = farm
                .text_as(who, "POST", &at("/records"), record("reading", sent))
                .await;
            assert!(status.is_success(), "{status} {said}");
        }
    };
    let grid = async |who: &str| -> Value {
        let (_, text) = farm.text_as(who, "GET", &at("/tend"), Value::Null).await;
        serde_json::from_str(&text).expect("JSON")
    };
    take(&reader, "ec", 2, 1.4).await;
    take(&reader, "ec", 4, 1.5).await;
    let seen = grid(&reader).await;
    assert_eq!(
        (&cell(&seen, "ec")["value"], &cell(&seen, "ec")["previous"]),
        (&json!(1.5), &json!(1.4))
    );
    assert_eq!(seen["solution_kept"], false);
    // Who has done neither yet is not shown it either: they may be about to grade.
    take(&grader, "vigour", 4, 6.0).await;
    let seen = grid(&grader).await;
    let ec = cell(&seen, "ec");
    assert_eq!(
        (&ec["value"], &ec["previous"], &ec["hidden"]),
        (&Value::Null, &Value::Null, &json!(true)),
        "{ec}"
    );
    assert_eq!(
        (&cell(&seen, "vigour")["value"], &seen["solution_kept"]),
        (&json!(6.0), &json!(true))
    );
    let (status, said) = farm
        .text_as(&grader, "GET", &at("/uptake"), Value::Null)
        .await;
    assert!(
        status == 403 && said.contains("Kept from who grades"),
        "{said}"
    );
    // Nor does a question or a conflict tell.
    let far = json!({ "code": codes[1], "reading": "ec", "day": 3, "value": 0.4, "version": 0 });
    let (status, said) = farm
        .text_as(&grader, "POST", &at("/records"), record("reading", far))
        .await;
    assert!(
        status == 422 && said.contains("unlikely") && !said.contains("1.4"),
        "{said}"
    );
    // Not even by a try that happens to be equal: tries would find it.
    for value in [1.2, 1.5] {
        let again = json!({
            "code": codes[0], "reading": "ec", "day": 4, "value": value, "version": 0,
        });
        let (status, said) = farm
            .text_as(&grader, "POST", &at("/records"), record("reading", again))
            .await;
        let stored =
            &serde_json::from_str::<Value>(&said).expect("JSON")["records"][0]["problem"]["stored"];
        assert!(status == 409 && stored == "another value", "{said}");
    }
    let sound = farm.get(&at("")).await["ledger"]["sound"].to_string();
    assert!(sound.contains("recorded under codes"), "{sound}");

    // Who reads the meter and then grades is named, and is shown their own figures of the day, no
    // others.
    take(&reader, "vigour", 3, 5.0).await;
    let trial = farm.get(&at("")).await;
    let open = trial["ledger"]["open"].as_array().expect("findings");
    let found = open
        .iter()
        .find(|f| f["code"] == "not_blind")
        .expect("named");
    assert_eq!(
        found["seen"],
        "Rea read pH or EC, which tells who is fed, and graded by eye afterwards."
    );
    let seen = grid(&reader).await;
    assert_eq!(
        (&cell(&seen, "ec")["value"], &cell(&seen, "ec")["previous"]),
        (&json!(1.5), &Value::Null)
    );
}
