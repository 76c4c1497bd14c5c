//! The calendar through the API: what lies ahead, the iCalendar file read by another library, days
//! away, labels, rotation.

use crate::farm;

use axum::http::StatusCode;
use farm::{Farm, record, set_cell};
use ical::IcalParser;
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// A dealt trial of two treatments, sown so many days ago.
async fn sown(farm: &Farm, days_ago: i64) -> String {
    let id = farm.new_trial("Kohlrabi").await;
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": 1 }),
    )
    .await;
    let date = day(-days_ago);
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": date })),
    )
    .await;
    id
}

/// Dates of the events of the iCalendar file by what they say.
async fn events(farm: &Farm) -> BTreeMap<String, Vec<(String, String)>> {
    let (status, file) = farm.text("GET", "/calendar.ics", Value::Null).await;
    assert_eq!(status, StatusCode::OK);
    let mut events: BTreeMap<String, Vec<(String, String)>> = BTreeMap::new();
    for calendar in IcalParser::new(file.as_bytes()) {
        for event in calendar.expect("a calendar that can be parsed").events {
            let of = |name: &str| {
                let found = event.properties.iter().find(|p| p.name == name);
                found
                    .and_then(|p| p.value.clone())
                    .unwrap_or_else(|| panic!("an event without {name}"))
            };
            assert!(!of("DTSTAMP").is_empty());
            events
                .entry(of("SUMMARY"))
                .or_default()
                .push((of("UID"), of("DTSTART")));
        }
    }
    events
}

fn day(from_today: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_add(jiff::Span::new().days(from_today))
        .expect("a date")
        .to_string()
}

fn plain(date: &str) -> String {
    date.replace('-', "")
}

fn dates(events: &BTreeMap<String, Vec<(String, String)>>, what: &str) -> Vec<String> {
    events
        .get(what)
        .map(|list| list.iter().map(|(_, date)| date.clone()).collect())
        .unwrap_or_default()
}

#[tokio::test]
async fn another_library_reads_the_file_and_a_changed_feeding_moves_the_later_ones() {
    let farm = Farm::new();
    let id = sown(&farm, 4).await;
    let before = events(&farm).await;
    // Day 4 is today: feedings on days 4, 6, 8 and 10, the cut on day 12.
    let want = |days: &[i64]| days.iter().map(|d| plain(&day(*d))).collect::<Vec<_>>();
    assert_eq!(
        dates(&before, "Feed by code: Kohlrabi"),
        want(&[0, 2, 4, 6])
    );
    assert_eq!(dates(&before, "Cut and weigh: Kohlrabi"), want(&[8]));

    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("moved", json!({ "job": "feed", "from": 4, "to": 5 })),
    )
    .await;
    let moved = events(&farm).await;
    assert_eq!(dates(&moved, "Feed by code: Kohlrabi"), want(&[1, 3, 5, 7]));
    let ids = |e: &BTreeMap<String, Vec<(String, String)>>| -> Vec<String> {
        e["Feed by code: Kohlrabi"]
            .iter()
            .map(|(uid, _)| uid.clone())
            .collect()
    };
    assert_eq!(ids(&before), ids(&moved), "the same events, elsewhere");
    let text = farm.text("GET", "/calendar.ics", Value::Null).await.1;
    assert!(
        !text.contains("plain water") && !text.contains("full feed"),
        "the blind holds in the file"
    );

    let undone = farm
        .call("POST", &format!("/trials/{id}/undo"), Value::Null)
        .await;
    assert_eq!(undone["action"], "moved feeding from day 4 to day 5");
    assert_eq!(
        dates(&events(&farm).await, "Feed by code: Kohlrabi"),
        want(&[0, 2, 4, 6])
    );
    // Really fed today: the next ones are counted from today.
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "feed" })),
    )
    .await;
    assert_eq!(
        dates(&events(&farm).await, "Feed by code: Kohlrabi"),
        want(&[2, 4, 6])
    );
}

#[tokio::test]
async fn a_name_cannot_end_a_line_of_the_file() {
    let farm = Farm::new();
    let id = farm.new_trial("Kohl\rrabi").await;
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": 1 }),
    )
    .await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": day(-4) })),
    )
    .await;
    let file = farm.text("GET", "/calendar.ics", Value::Null).await.1;
    assert!(
        !file.replace("\r\n", "").contains(['\r', '\n']),
        "lines end by CR LF and nothing else"
    );
    assert_eq!(
        dates(&events(&farm).await, "Feed by code: Kohl rabi").len(),
        4
    );
}

#[tokio::test]
async fn days_away_offer_to_move_or_to_hand_over() {
    let farm = Farm::new();
    let id = sown(&farm, 5).await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "feed" })),
    )
    .await;
    let view = farm
        .call(
            "POST",
            "/away",
            json!({ "first": day(1), "last": day(2), "note": "market" }),
        )
        .await;
    let clashes = view["away"][0]["clashes"].as_array().expect("clashes");
    let feed = clashes
        .iter()
        .find(|c| c["job"] == "feed")
        .expect("a feeding on day 7");
    assert_eq!(
        (feed["day"].as_u64(), feed["move_to"].as_u64()),
        (Some(7), Some(8))
    );
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("moved", json!({ "job": "feed", "from": 7, "to": 8 })),
    )
    .await;
    let view = farm.get("/calendar").await;
    let clashes = view["away"][0]["clashes"].as_array().expect("clashes");
    assert!(clashes.iter().all(|c| c["job"] != "feed"), "{clashes:?}");
    let away = view["away"][0]["id"].as_str().expect("an id").to_owned();
    let view = farm
        .call("POST", &format!("/away/{away}/remove"), Value::Null)
        .await;
    assert!(view["away"].as_array().expect("a list").is_empty());

    for (body, field) in [
        (json!({ "first": "soon", "last": day(2) }), "first"),
        (json!({ "first": day(2), "last": day(1) }), "last"),
        (json!({ "first": day(0), "last": day(400) }), "last"),
    ] {
        let (status, text) = farm.text("POST", "/away", body).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{text}");
        assert!(text.contains(&format!("\"field\":\"{field}\"")), "{text}");
    }
    let harvest = farm
        .text(
            "POST",
            &format!("/trials/{id}/records"),
            record("moved", json!({ "job": "harvest", "from": 12, "to": 11 })),
        )
        .await;
    assert!(
        harvest.1.contains("harvesting cannot be moved"),
        "{}",
        harvest.1
    );
}

#[tokio::test]
async fn a_sowing_that_is_meant_fills_the_calendar_before_it_is_done() {
    let farm = Farm::new();
    let trial = farm
        .call("POST", "/trials", json!({ "name": "Kohlrabi" }))
        .await;
    let id = trial["id"].as_str().expect("an id");
    let trial = farm
        .call(
            "POST",
            &format!("/trials/{id}/deal"),
            json!({ "version": trial["version"] }),
        )
        .await;
    assert!(
        farm.get("/calendar").await["ahead"]
            .as_array()
            .expect("a list")
            .is_empty()
    );
    let trial = farm
        .call(
            "PUT",
            &format!("/trials/{id}/sowing"),
            json!({ "on": day(3), "version": trial["version"] }),
        )
        .await;
    assert_eq!(trial["sow_planned"], json!(day(3)));
    let ahead = farm.get("/calendar").await["ahead"].clone();
    assert_eq!(
        (ahead[0]["job"].as_str(), ahead[0]["date"].as_str()),
        (Some("sow"), Some(day(3).as_str()))
    );
    // Nothing is due before that day.
    assert!(
        farm.get("/today").await["due"]
            .as_array()
            .expect("a list")
            .is_empty()
    );
    let (status, _) = farm
        .text(
            "PUT",
            &format!("/trials/{id}/sowing"),
            json!({ "on": "then", "version": trial["version"] }),
        )
        .await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[tokio::test]
async fn units_go_round_and_the_ledger_counts_the_moves() {
    let farm = Farm::new();
    let id = sown(&farm, 6).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut care = trial["care"].clone();
    care["rotate_every"] = json!(3);
    let trial = farm
        .call(
            "PUT",
            &at("/care"),
            json!({ "care": care, "version": trial["version"] }),
        )
        .await;
    let next = trial["rotation"]["next"].as_array().expect("moves").clone();
    assert_eq!(next.len(), trial["units"].as_array().expect("units").len());
    assert!(
        trial["ledger"]["open"]
            .to_string()
            .contains("0 of 2 moves to the next slot were made")
    );
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "rotate" })),
    )
    .await;
    let moved = farm.get(&at("")).await;
    assert_eq!(moved["rotation"]["moves_done"], 1);
    for m in &next {
        let unit = moved["units"]
            .as_array()
            .expect("units")
            .iter()
            .find(|u| u["code"] == m["code"])
            .expect("it");
        assert_eq!(
            (&unit["level_now"], &unit["slot_now"]),
            (&m["to"]["level"], &m["to"]["slot"])
        );
        assert_eq!(
            (&unit["level"], &unit["slot"]),
            (&m["from"]["level"], &m["from"]["slot"]),
            "the deal stays"
        );
    }
    assert!(
        !moved["ledger"]["open"]
            .to_string()
            .contains("moves to the next slot")
    );
}

#[tokio::test]
async fn treatments_keep_days_of_their_own() {
    let farm = Farm::new();
    let trial = farm
        .call(
            "POST",
            "/trials",
            json!({ "name": "Three or five days of dark" }),
        )
        .await;
    let id = trial["id"].as_str().expect("an id");
    let mut sheet = trial["sheet"].clone();
    for (treatment, days) in [(0, "3"), (1, "5")] {
        set_cell(&mut sheet["treatments"][treatment], "feed", "grow feed");
        sheet["treatments"][treatment]["conditions"]["blackout_days"] = json!(days);
    }
    let put = json!({ "sheet": sheet, "version": trial["version"] });
    let trial = farm
        .call("PUT", &format!("/trials/{id}/match-sheet"), put)
        .await;
    assert_eq!(
        trial["differences"],
        json!({ "kind": "one", "factor": "blackout" })
    );
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": trial["version"] }),
    )
    .await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": day(-1) })),
    )
    .await;
    assert_eq!(
        dates(
            &events(&farm).await,
            "End blackout: Three or five days of dark"
        )
        .len(),
        2
    );
}

/// Finder pattern of a QR code, ISO/IEC 18004: it stands in three of the four corners, and in no
/// other.
fn assert_finders(rows: &[Value]) {
    const FINDER: [&str; 7] = [
        "1111111", "1000001", "1011101", "1011101", "1011101", "1000001", "1111111",
    ];
    let rows: Vec<&str> = rows
        .iter()
        .map(|row| row.as_str().expect("a row"))
        .collect();
    let (side, far) = (rows.len(), rows.len() - 7);
    assert!(
        side >= 21 && (side - 17) % 4 == 0 && rows.iter().all(|row| row.len() == side),
        "{side} modules a side"
    );
    let at = |x: usize, y: usize| {
        FINDER
            .iter()
            .enumerate()
            .all(|(dy, line)| &rows[y + dy][x..x + 7] == *line)
    };
    assert_eq!(
        [at(0, 0), at(far, 0), at(0, far), at(far, far)],
        [true, true, true, false]
    );
}

#[tokio::test]
async fn labels_carry_code_place_and_a_link_and_never_a_treatment() {
    let farm = Farm::new();
    let id = sown(&farm, 2).await;
    let labels = farm
        .get(&format!(
            "/trials/{id}/labels?base=http://192.168.1.20:4747/"
        ))
        .await;
    assert_eq!(
        (labels["sown"].as_str(), labels["harvest"].as_str()),
        (Some(day(-2).as_str()), Some(day(10).as_str()))
    );
    let list = labels["labels"].as_array().expect("labels");
    assert_eq!(list.len(), 16);
    for label in list {
        let code = label["code"].as_str().expect("a code");
        assert_eq!(
            label["link"],
            json!(format!("http://192.168.1.20:4747/trials/{id}/units/{code}"))
        );
        assert_finders(label["qr"].as_array().expect("rows"));
    }
    assert!(!labels.to_string().contains("plain water"));
    for base in [
        "localhost",
        "ftp://x",
        &format!("http://{}", "x".repeat(200)),
    ] {
        let (status, _) = farm
            .text(
                "GET",
                &format!("/trials/{id}/labels?base={base}"),
                Value::Null,
            )
            .await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{base}");
    }
}

#[tokio::test]
async fn meters_ask_for_their_calibration() {
    let farm = Farm::new();
    sown(&farm, 2).await;
    let held = json!({ "kind": "pH", "calibrated_on": day(-40), "calibrate_every_days": 30 });
    let item = json!({ "shelf": "meters", "name": "pH pen", "source": "", "held": held });
    farm.call(
        "POST",
        "/stores/items",
        json!({ "version": 0, "item": item }),
    )
    .await;
    let due = farm.get("/today").await["due"].clone();
    let task = due
        .as_array()
        .expect("tasks")
        .iter()
        .find(|t| t["job"] == "calibrate")
        .expect("a calibration");
    assert_eq!(
        (task["title"].as_str(), task["late"].as_u64()),
        (Some("Calibrate pH pen"), Some(10))
    );
    assert!(task["trial_id"].is_null());
}

/// A trial sown eight days ago is entered today: its work is asked about, at Tend and on the list
/// of today.
#[tokio::test]
async fn work_from_before_the_sowing_was_entered_is_asked_about() {
    let farm = Farm::new();
    let id = farm.new_trial("Late in the book").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    farm.call("POST", &at("/deal"), json!({ "version": 1 }))
        .await;
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(8))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    for (list, path) in [("due", at("/tend")), ("due", "/today".to_owned())] {
        let told = farm.get(&path).await;
        let due = told[list].as_array().expect("work");
        assert!(due.len() > 1, "{told}");
        for work in due {
            assert_eq!(
                work["asked"] == true,
                work["day"].as_u64() < Some(8),
                "{path}: {work}"
            );
        }
        assert!(
            due.iter()
                .any(|w| w["job"] == "end_blackout" && w["asked"] == true && w["mind"].is_null()),
            "{told}"
        );
    }
    // Said to have been done on its day, it is asked no more.
    let third = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(5))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "end_blackout", "date": third })),
    )
    .await;
    let tend = farm.get(&at("/tend")).await;
    assert!(
        !tend["due"].to_string().contains("end_blackout"),
        "{}",
        tend["due"]
    );
    // And it stands in the list of what was done, each time with its day.
    for days in [6, 8] {
        let date = jiff::Zoned::now()
            .date()
            .checked_sub(jiff::Span::new().days(8 - days))
            .expect("a date")
            .to_string();
        farm.call(
            "POST",
            &at("/records"),
            record("work", json!({ "job": "feed", "date": date })),
        )
        .await;
    }
    let done = farm.get(&at("/tend")).await["done"].clone();
    let told: Vec<_> = done
        .as_array()
        .expect("work")
        .iter()
        .map(|d| (d["job"].as_str(), d["days"].clone()))
        .collect();
    assert_eq!(
        told,
        [
            (Some("sow"), json!([0])),
            (Some("end_blackout"), json!([3])),
            (Some("feed"), json!([6, 8]))
        ]
    );
}
