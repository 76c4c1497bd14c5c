//! What a device kept while no answer came, and sends later: corrected meanwhile, handed on, under a
//! deal that is no more.

use crate::farm;
use crate::records::sown;

use farm::{Farm, record};
use serde_json::{Value, json};

/// Sends a reading of pH on day 3, with what more its head says; status and what became of it.
async fn ph(farm: &Farm, at: &str, code: &str, value: f64, head: Value) -> (u16, Value) {
    let mut all = json!({ "code": code, "reading": "ph", "day": 3, "value": value });
    let more = head.as_object().expect("fields").clone();
    all.as_object_mut().expect("fields").extend(more);
    let (status, text) = farm.text("POST", at, record("reading", all)).await;
    let answer: Value = serde_json::from_str(&text).expect("JSON");
    (status.as_u16(), answer["records"][0].clone())
}

/// What stands as pH of the code on day 3.
fn stands(farm: &Farm, id: &str, code: &str) -> Vec<(f64, i64)> {
    let trial = farm.store().trial(id).expect("the trial");
    let unit = trial.unit(code).expect("a unit");
    let all = trial.of_unit(unit).readings.iter();
    all.filter(|r| r.reading == "ph" && r.head.day == 3)
        .map(|r| (r.value.expect("a value"), r.head.version))
        .collect()
}

/// 6.1 went out and no answer came; whoever took it put it right to 6.9 before one could.
#[tokio::test]
async fn what_was_put_right_while_no_answer_came_is_what_stands() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let at = format!("/trials/{id}/records");
    // Whether the first arrived or not.
    for (code, arrived) in [(&codes[0], true), (&codes[1], false)] {
        let key = format!("first-{code}");
        if arrived {
            ph(&farm, &at, code, 6.1, json!({ "key": key, "version": 0 })).await;
        }
        let later = json!({ "key": format!("{key}-later"), "version": 0, "instead_of": [key] });
        let (status, said) = ph(&farm, &at, code, 6.9, later.clone()).await;
        assert_eq!((status, &said["state"]), (200, &json!("kept")), "{said}");
        assert_eq!(stands(&farm, &id, code), [(6.9, 1 + i64::from(arrived))]);
        assert_eq!(ph(&farm, &at, code, 6.9, later).await.1, said, "once");
        // What was on its way all the time and comes now is behind what stands.
        if !arrived {
            let late = json!({ "key": key, "version": 0 });
            assert_eq!(ph(&farm, &at, code, 6.1, late).await.0, 409);
        }
    }
}

/// Somebody else wrote there meanwhile: that is a conflict, whatever it takes the place of.
#[tokio::test]
async fn what_somebody_else_wrote_meanwhile_is_a_conflict_as_before() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let (at, code) = (format!("/trials/{id}/records"), &codes[0]);
    ph(&farm, &at, code, 6.1, json!({ "key": "a" })).await;
    ph(
        &farm,
        &at,
        code,
        5.5,
        json!({ "key": "other", "version": 1 }),
    )
    .await;
    let later = json!({ "key": "b", "version": 0, "instead_of": ["a"] });
    let (status, said) = ph(&farm, &at, code, 6.9, later).await;
    assert_eq!((status, &said["problem"]["code"]), (409, &json!("stale")));
    assert_eq!(said["problem"]["stored"], "5.5");
    // A key of something else opens no door.
    ph(&farm, &at, &codes[1], 6.0, json!({ "key": "elsewhere" })).await;
    let foreign = json!({ "key": "c", "version": 0, "instead_of": ["elsewhere"] });
    assert_eq!(ph(&farm, &at, code, 6.9, foreign).await.0, 409);
    assert_eq!(stands(&farm, &id, code), [(5.5, 2)]);
}

/// Two read the same, or one passes over a cell that is kept: nothing is put right, and nobody is
/// asked.
#[tokio::test]
async fn an_equal_value_is_no_conflict() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let (at, code) = (format!("/trials/{id}/records"), &codes[0]);
    let (_, first) = ph(&farm, &at, code, 6.1, json!({ "key": "a" })).await;
    let told = farm.get(&format!("/trials/{id}/diary")).await;
    let (status, again) = ph(&farm, &at, code, 6.1, json!({ "key": "b" })).await;
    assert_eq!((status, &again), (200, &first));
    assert_eq!(farm.get(&format!("/trials/{id}/diary")).await, told);
    let weigh = |gross: f64| {
        let all = json!({ "code": code, "gross_g": gross, "tare_g": 20.0, "version": 0 });
        record("weighing", all)
    };
    let kept = farm.call("POST", &at, weigh(120.0)).await;
    assert_eq!(farm.call("POST", &at, weigh(120.0)).await, kept);
    let (status, text) = farm.text("POST", &at, weigh(121.0)).await;
    assert!(status == 422 && text.contains("already"), "{text}");
    // Read twice on purpose is two readings.
    ph(&farm, &at, code, 6.1, json!({ "key": "c", "again": true })).await;
    assert_eq!(stands(&farm, &id, code).len(), 2);
}

/// Who took it was taken out, or the device is somebody else's now: it is handed in by another, once.
#[tokio::test]
async fn what_one_took_another_hands_in_and_it_is_there_once() {
    let farm = Farm::new();
    let (id, _) = sown(&farm, 10).await;
    farm.person("Ada", "owner").await;
    let (kim, lee) = (
        farm.person("Kim", "recorder").await,
        farm.person("Lee", "recorder").await,
    );
    let at = format!("/trials/{id}/records");
    let note = |key: &str, more: Value| {
        let mut all = json!({ "key": key, "text": "Pale at the rim." });
        all.as_object_mut()
            .expect("fields")
            .extend(more.as_object().expect("fields").clone());
        record("note", all)
    };
    let (_, first) = farm.text_as(&kim, "POST", &at, note("a", json!({}))).await;
    let handed = note("b", json!({ "instead_of": ["a"], "taken_by": "Kim" }));
    let (status, second) = farm.text_as(&lee, "POST", &at, handed).await;
    assert!(status.is_success() && first == second, "{second}");
    // One that never arrived is taken in, as what it is: handed in by Lee.
    let handed = note("d", json!({ "instead_of": ["c"], "taken_by": "Kim" }));
    farm.text_as(&lee, "POST", &at, handed).await;
    let trial = farm.store().trial(&id).expect("the trial");
    let who: Vec<&str> = trial.records.notes().iter().map(|n| &*n.head.who).collect();
    assert_eq!(who, ["Kim", "Lee"]);
}

/// After an older backup and another deal the letters stand on other trays.
#[tokio::test]
async fn what_was_taken_under_another_deal_lands_on_no_tray_of_this_one() {
    let farm = Farm::new();
    let (id, codes) = sown(&farm, 10).await;
    let at = format!("/trials/{id}/records");
    let deal = farm.get(&format!("/trials/{id}")).await["commitment"].clone();
    let (status, _) = ph(&farm, &at, &codes[0], 6.1, json!({ "deal": deal })).await;
    assert_eq!(status, 200);
    let (status, said) = ph(&farm, &at, &codes[1], 6.1, json!({ "deal": "another" })).await;
    assert_eq!(
        (status, &said["problem"]["code"]),
        (409, &json!("dealt_again")),
        "{said}"
    );
    assert!(stands(&farm, &id, &codes[1]).is_empty());
}
