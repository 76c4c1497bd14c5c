//! The farm itself: its time zone, a clock that was set back, its backups, and a data file that is
//! taken away.

use crate::farm;

use farm::{Farm, record};
use iron_twin_store::{Stamp, Store};
use jiff::{Timestamp, ToSpan};
use serde_json::{Value, json};

#[tokio::test]
async fn the_time_zone_is_said_once_and_the_machines_is_told() {
    let farm = Farm::new();
    let before = farm.get("/farm").await;
    assert_eq!(before["zone"], "", "nobody has said it");
    assert!(before["machine_zone"].is_string());
    // West of the date line and east of it two days are on the calendar at once.
    let mut dates = Vec::new();
    for zone in ["Pacific/Kiritimati", "Pacific/Pago_Pago"] {
        let said = farm
            .call(
                "PUT",
                "/farm",
                json!({ "name": " Quarry Lane Greens ", "zone": zone }),
            )
            .await;
        assert_eq!(
            (&said["zone"], &said["name"]),
            (&json!(zone), &json!("Quarry Lane Greens"))
        );
        assert_eq!(farm.get("/today").await["date"], said["today"]);
        dates.push(said["today"].as_str().expect("a date").to_owned());
    }
    assert!(dates[0] > dates[1], "{dates:?}");
    for wrong in [
        json!({ "name": "x", "zone": "Moon/Base" }),
        json!({ "name": "  ", "zone": "" }),
        json!({ "name": "x".repeat(61), "zone": "" }),
    ] {
        let (status, said) = farm.text("PUT", "/farm", wrong).await;
        assert_eq!(status, 422, "{said}");
    }
    assert_eq!(farm.get("/farm").await["name"], "Quarry Lane Greens");
}

/// The clock of the computer stands before the sowing: nothing is taken on a day that is wrong.
#[tokio::test]
async fn a_clock_set_back_before_the_sowing_is_told_as_such() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": 1 }))
        .await;
    let code = &dealt["units"][0]["code"];
    let tomorrow = (Timestamp::now() + 48.hours())
        .to_zoned(jiff::tz::TimeZone::UTC)
        .date();
    farm.store()
        .sow(&Stamp::owner(Timestamp::now() + 60.hours()), &id, tomorrow)
        .expect("sown");
    for (path, body) in [
        (
            "/records",
            record(
                "reading",
                json!({ "code": code, "reading": "ph", "day": 0, "value": 6.0, "version": 0 }),
            ),
        ),
        (
            "/records",
            record(
                "weighing",
                json!({ "code": code, "gross_g": 300.0, "tare_g": 200.0, "version": 0 }),
            ),
        ),
        (
            "/records",
            record("note", json!({ "code": code, "day": 0, "text": "green" })),
        ),
        ("/records", record("work", json!({ "job": "feed" }))),
        (
            "/mixes",
            json!({ "treatment": 1, "volume_l": 2.0, "feed_total": 8.0 }),
        ),
    ] {
        let (status, said) = farm.text("POST", &at(path), body).await;
        let told =
            said.contains("before the sowing on") && said.contains("Set clock and time zone right");
        assert!(status == 409 && told, "{path}: {status} {said}");
    }
    assert_eq!(
        farm.store()
            .trial(&id)
            .expect("the trial")
            .records
            .weighings(),
        0
    );
}

#[tokio::test]
async fn the_owner_backs_up_and_nobody_else_gets_at_it() {
    let farm = Farm::new();
    farm.new_trial("Cress").await;
    let first = farm.get("/backups").await;
    assert_eq!(
        (&first["nightly"], &first["backups"]),
        (&json!(7), &json!([]))
    );
    let made = farm.call("POST", "/backups", Value::Null).await;
    let name = made["backups"][0]["name"]
        .as_str()
        .expect("a name")
        .to_owned();
    assert!(name.starts_with("by-hand-"), "{name}");
    let bytes = made["backups"][0]["bytes"].as_u64().expect("a size");
    let (status, text) = farm
        .text("GET", &format!("/backups/{name}"), Value::Null)
        .await;
    assert!(
        status == 200 && text.starts_with("SQLite format 3"),
        "{status}"
    );
    let copy =
        Store::open(&std::path::Path::new(made["folder"].as_str().expect("a folder")).join(&name));
    assert_eq!(copy.expect("a farm").trials().expect("trials").len(), 1);
    assert!(bytes > 4096);
    assert_eq!(
        farm.call("PUT", "/backups", json!({ "nightly": 3 })).await["nightly"],
        3
    );
    assert_eq!(
        farm.text("PUT", "/backups", json!({ "nightly": 4000 }))
            .await
            .0,
        422
    );
    assert_eq!(
        farm.text("GET", "/backups/..%2Ftrials.sqlite", Value::Null)
            .await
            .0,
        404
    );
    farm.person("Ada", "owner").await;
    for role in ["recorder", "viewer"] {
        let cookie = farm.person(role, role).await;
        for (method, path) in [
            ("GET", "/backups"),
            ("POST", "/backups"),
            ("PUT", "/backups"),
            ("PUT", "/farm"),
        ] {
            let (status, said) = farm.text_as(&cookie, method, path, Value::Null).await;
            assert_eq!(status, 403, "{role} {method} {path}: {said}");
        }
        assert_eq!(
            farm.text_as(&cookie, "GET", &format!("/backups/{name}"), Value::Null)
                .await
                .0,
            403
        );
    }
}

/// A record that would be written to a file nobody will ever open again is not acknowledged.
#[tokio::test]
async fn a_data_file_taken_away_while_it_runs_is_told() {
    let farm = Farm::new();
    farm.new_trial("Cress").await;
    let elsewhere = farm.file().with_extension("moved");
    std::fs::rename(farm.file(), &elsewhere).expect("moved");
    let (status, said) = farm
        .text("POST", "/trials", json!({ "name": "Lost" }))
        .await;
    assert!(
        status == 503 && said.contains("data_file_gone"),
        "{status} {said}"
    );
    std::fs::rename(&elsewhere, farm.file()).expect("back");
    farm.new_trial("Kept").await;
}

/// Another program that holds the file is waited for, and then named: nothing is lost, and nothing
/// fails.
#[tokio::test]
async fn a_locked_file_is_busy_and_not_a_fault() {
    let farm = Farm::new();
    farm.new_trial("Cress").await;
    let other = rusqlite::Connection::open(farm.file()).expect("the file");
    other.execute_batch("BEGIN IMMEDIATE").expect("a lock");
    let (status, said) = farm
        .text("POST", "/trials", json!({ "name": "Waits" }))
        .await;
    assert!(
        status == 503 && said.contains("\"code\":\"busy\""),
        "{status} {said}"
    );
    other.execute_batch("ROLLBACK").expect("let go");
    farm.new_trial("Goes on").await;
}

/// A disk that has no room for one more session says so at the sign-in, and lets people in when
/// there is room again.
#[tokio::test]
async fn a_full_disk_is_told_at_the_sign_in() {
    let mut farm = Farm::new();
    farm.person("Ada", "owner").await;
    let store = farm.store();
    // SQLite takes no fewer pages than there are.
    store
        .write(&Stamp::owner(Timestamp::now()), |t| {
            Ok(t.query_row("PRAGMA max_page_count = 1", [], |_| Ok(()))?)
        })
        .expect("a limit");
    farm.serve(store);
    let ada = json!({ "name": "ada", "passphrase": "jars on the sill" });
    let mut said = Vec::new();
    // The last page has room for some.
    while said.len() < 60 && said.last().is_none_or(|(status, _)| *status == 200) {
        said.push(farm.text("POST", "/sign-in", ada.clone()).await);
    }
    let (status, words) = said.last().expect("an answer");
    assert!(
        *status == 507 && words.contains("\"code\":\"disk_full\""),
        "{status} {words}"
    );
    farm.started_anew();
    assert_eq!(farm.text("POST", "/sign-in", ada).await.0, 200);
}

/// A browser that is used stays signed in: its end is put off once a day, and not at every request.
#[tokio::test]
async fn a_session_that_is_used_is_put_off_once_a_day() {
    let farm = Farm::new();
    farm.person("Ada", "owner").await;
    let cookie = farm.person("Rec", "recorder").await;
    let data = rusqlite::Connection::open(farm.file()).expect("the file");
    let now = Timestamp::now().as_second();
    let end = || -> Vec<i64> {
        let mut sql = data
            .prepare("SELECT expires_at FROM session ORDER BY expires_at")
            .expect("sql");
        sql.query_map([], |r| r.get(0))
            .expect("rows")
            .map(|r| r.expect("a row"))
            .collect()
    };
    let soon = now + 86_400;
    let last_used = |days_ago: i64| {
        let day = now / 86_400 - days_ago;
        let sql =
            "UPDATE session SET expires_at = ?1, record = json_set(record, '$.data.last_day', ?2)";
        data.execute(sql, (soon, day)).expect("changed");
    };
    last_used(0);
    assert_eq!(
        farm.text_as(&cookie, "GET", "/today", Value::Null).await.0,
        200
    );
    assert!(
        end().iter().all(|e| *e == soon),
        "used today already: nothing is written"
    );
    last_used(1);
    assert_eq!(
        farm.text_as(&cookie, "GET", "/today", Value::Null).await.0,
        200
    );
    let put_off = end().into_iter().filter(|e| *e > now + 29 * 86_400).count();
    assert_eq!(
        put_off,
        1,
        "the one that was used, and not the owner's: {:?}",
        end()
    );
    data.execute("UPDATE session SET expires_at = ?1", [now - 1])
        .expect("changed");
    let (_, me) = farm.text_as(&cookie, "GET", "/me", Value::Null).await;
    assert!(
        me.contains("\"signed_in\":false"),
        "not used for thirty days: {me}"
    );
}
