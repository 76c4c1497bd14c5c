//! Files of loggers over the API: how they are found to be read, what becomes of each row, and what
//! is refused.

use crate::farm;

use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use farm::{Farm, record};
use serde_json::{Value, json};

async fn trial(farm: &Farm) -> String {
    let id = farm.new_trial("Cress").await;
    let version = farm.get(&format!("/trials/{id}")).await["version"].clone();
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": version }),
    )
    .await;
    id
}

async fn bring(farm: &Farm, id: &str, bytes: impl Into<Body>) -> (StatusCode, Value) {
    let request = Request::post(format!("/api/v1/trials/{id}/loggers?name=shelf%207.csv"))
        .header(header::HOST, "localhost")
        .header(header::CONTENT_TYPE, "text/csv")
        .body(bytes.into())
        .expect("a request");
    let (status, _, bytes) = farm.raw(request).await;
    (status, serde_json::from_slice(&bytes).unwrap_or_default())
}

/// Waits until the file is in, or is not.
async fn ended(farm: &Farm, id: &str, token: &str) -> Value {
    for _ in 0..600 {
        let list = farm.get(&format!("/trials/{id}/loggers")).await;
        let all = list["incoming"].as_array().expect("incoming").iter();
        let own = all
            .filter(|f| f["token"] == token)
            .map(|f| f["standing"].clone())
            .next()
            .expect("the file");
        if own != "running" {
            return own;
        }
        tokio::time::sleep(std::time::Duration::from_millis(50)).await;
    }
    panic!("it does not end");
}

const LOG: &str = "probe 7\n\ntime;temp °F;RH %;battery\n03.05.2026 \
                   06:00;68,0;48,5;ok\n03.05.2026 06:01;68,9;48,6;ok\n03.05.2026 \
                   06:02;;;low\n03.05.2026 06:03;oops;48,6;ok\n03.05.2026 06:04;70,7;48,8;ok\n";

#[tokio::test]
async fn a_file_is_found_out_about_taken_in_and_taken_back() {
    let farm = Farm::new();
    let id = trial(&farm).await;
    farm.call(
        "PUT",
        "/farm",
        json!({ "name": "Quarry Lane Greens", "zone": "UTC" }),
    )
    .await;
    let (status, brought) = bring(&farm, &id, LOG).await;
    assert_eq!(
        (status, &brought["remembered"]),
        (StatusCode::CREATED, &json!(false)),
        "{brought}"
    );
    assert_eq!(brought["file"]["name"], "shelf 7.csv");
    let mut mapping = brought["mapping"].clone();
    let format = mapping["format"].clone();
    assert_eq!(
        mapping,
        json!({
            "separator": ";", "decimal_comma": true, "head_rows": 3, "time": 0, "time_of_day": null, "format": format,
            "zone": "UTC", "columns": [
                { "column": 1, "quantity": "air_temperature", "unit": "°F", "place": "room" },
                { "column": 2, "quantity": "humidity", "unit": "%", "place": "room" }] })
    );
    assert!(
        brought["layout"]["formats"]
            .as_array()
            .expect("formats")
            .contains(&format)
    );
    let token = brought["file"]["token"]
        .as_str()
        .expect("a token")
        .to_owned();
    mapping["columns"][1]["place"] = json!({ "shelf": 2 });
    let at = |rest: &str| format!("/trials/{id}/loggers/{token}{rest}");
    let preview = farm.call("POST", &at("/preview"), mapping.clone()).await;
    assert_eq!(
        preview["first"][0],
        json!({ "at": "2026-05-03 06:00:00", "values": [20.0, 48.5], "why": null })
    );
    assert_eq!(
        preview["first"][2]["why"],
        "'oops' in column 2 is no number"
    );
    assert_eq!(preview["first"].as_array().map(Vec::len), Some(4));
    let (status, text) = farm.text("POST", &at("/take-in"), mapping.clone()).await;
    assert_eq!(status, StatusCode::ACCEPTED, "{text}");
    let done = ended(&farm, &id, &token).await["done"].clone();
    assert_eq!(
        done["holds"],
        json!(["air temperature, the room", "humidity, level 2"])
    );
    assert_eq!(
        [
            &done["taken"],
            &done["doubled"],
            &done["empty"],
            &done["bad"]
        ],
        [3, 0, 1, 1]
    );
    assert_eq!(
        done["bad_rows"],
        json!([{ "line": 7, "why": "'oops' in column 2 is no number" }])
    );
    assert_eq!(
        farm.text("POST", &at("/take-in"), mapping.clone()).await.0,
        409,
        "it is in already"
    );
    assert_eq!(farm.text("DELETE", &at(""), Value::Null).await.0, 204);
    // The next file with this head is read in the same way; brought twice, it is nothing new.
    let (_, again) = bring(&farm, &id, LOG).await;
    assert_eq!(
        (&again["remembered"], &again["mapping"]),
        (&json!(true), &mapping)
    );
    let other = again["file"]["token"].as_str().expect("a token");
    let (status, _) = farm
        .text(
            "POST",
            &format!("/trials/{id}/loggers/{other}/take-in"),
            mapping,
        )
        .await;
    assert_eq!(status, StatusCode::ACCEPTED);
    let failed = ended(&farm, &id, other).await["failed"].clone();
    assert_eq!(
        failed,
        "nothing in it is new: 3 of its 4 rows stand there already"
    );
    let list = farm.get(&format!("/trials/{id}/loggers")).await;
    let file = list["files"][0]["id"].as_str().expect("a file").to_owned();
    let back = format!("/trials/{id}/loggers/{file}/take-back");
    assert_eq!(farm.text("POST", &back, Value::Null).await.0, 204);
    assert_eq!(farm.text("POST", &back, Value::Null).await.0, 404);
    assert_eq!(
        farm.get(&format!("/trials/{id}/loggers")).await["files"],
        json!([])
    );
}

#[tokio::test]
async fn what_is_no_log_is_refused_and_leaves_no_file() {
    let farm = Farm::new();
    let id = trial(&farm).await;
    let table = "there is no table in it: a logger's file has rows of a time and figures, with \
                 commas, semicolons, tabs or bars between";
    for (bytes, why) in [
        (b"".to_vec(), table),
        (b"a letter, to a friend\n".to_vec(), table),
        (vec![0; 100_000], table),
        (b"PK\x03\x04\x14\x00\x08;x;y\n".to_vec(), table),
        (
            b"a,b\n1,2\n3,4\n".to_vec(),
            "no column of it can be read as a time",
        ),
    ] {
        let (status, told) = bring(&farm, &id, bytes.clone()).await;
        assert_eq!(
            (status, &told["field"], &told["detail"]),
            (
                StatusCode::UNPROCESSABLE_ENTITY,
                &json!("file"),
                &json!(why)
            ),
            "{bytes:?}"
        );
    }
    assert_eq!(bring(&farm, "nowhere", LOG).await.0, 404);
    let too_large = vec![b'1'; (100 << 20) + 1];
    assert_eq!(bring(&farm, &id, too_large).await.0, 413);
    let folder = farm.file().with_extension("incoming");
    assert_eq!(std::fs::read_dir(folder).expect("a folder").count(), 0);
    let (_, brought) = bring(&farm, &id, LOG).await;
    let token = brought["file"]["token"]
        .as_str()
        .expect("a token")
        .to_owned();
    let take_in = format!("/trials/{id}/loggers/{token}/take-in");
    for (change, field) in [
        (json!({ "columns": [] }), "columns"),
        (json!({ "format": "%Q" }), "format"),
        (json!({ "zone": "Middle/Earth" }), "zone"),
        (json!({ "separator": "x" }), "separator"),
    ] {
        let mut wrong = brought["mapping"].clone();
        change
            .as_object()
            .expect("fields")
            .iter()
            .for_each(|(k, v)| wrong[k] = v.clone());
        let (status, text) = farm.text("POST", &take_in, wrong).await;
        assert_eq!(status, 422, "{text}");
        assert!(
            text.contains(&format!("\"field\":\"{field}\"")),
            "{field}: {text}"
        );
    }
    // A place that is not there is told where the file stands.
    let mut nowhere = brought["mapping"].clone();
    nowhere["columns"][0]["place"] = json!({ "unit": "?" });
    assert_eq!(
        farm.text("POST", &take_in, nowhere).await.0,
        StatusCode::ACCEPTED
    );
    assert_eq!(
        ended(&farm, &id, &token).await["failed"],
        "there is no unit '?'"
    );
    assert_eq!(
        farm.get(&format!("/trials/{id}/loggers")).await["files"],
        json!([])
    );
}

#[tokio::test]
async fn who_records_brings_files_and_who_looks_on_does_not() {
    let farm = Farm::new();
    let id = trial(&farm).await;
    farm.person("Ada", "owner").await;
    for (role, status) in [
        ("recorder", StatusCode::CREATED),
        ("viewer", StatusCode::FORBIDDEN),
    ] {
        let cookie = farm.person(role, role).await;
        let request = Request::post(format!("/api/v1/trials/{id}/loggers?name=log.csv"))
            .header(header::HOST, "localhost")
            .header(header::COOKIE, cookie)
            .body(Body::from(LOG))
            .expect("a request");
        assert_eq!(farm.raw(request).await.0, status, "{role}");
    }
}

/// Three days of a room in a zone far from UTC: lit from six to ten at night, 25 °C and 60 %.
#[tokio::test]
async fn what_follows_from_a_log_follows_the_farms_days() {
    let farm = Farm::new();
    farm.call(
        "PUT",
        "/farm",
        json!({ "name": "Quarry Lane Greens", "zone": "Pacific/Auckland" }),
    )
    .await;
    let id = trial(&farm).await;
    let sown = jiff::Timestamp::now()
        .to_zoned(jiff::tz::TimeZone::get("Pacific/Auckland").expect("a zone"))
        .date();
    let sown = sown.checked_sub(jiff::Span::new().days(4)).expect("a day");
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": sown.to_string() })),
    )
    .await;
    let mut text = String::from("time,temp C,RH,PPFD\n");
    for n in 0..i64::from(3 * 24 * 4) {
        let at = sown
            .at(0, 0, 0, 0)
            .checked_add(jiff::Span::new().minutes(15 * n))
            .expect("a time");
        let light = if (6..22).contains(&at.hour()) { 200 } else { 0 };
        text += &format!("{},25,60,{light}\n", at.strftime("%Y-%m-%d %H:%M:%S"));
    }
    let (status, brought) = bring(&farm, &id, text).await;
    assert_eq!(status, StatusCode::CREATED, "{brought}");
    let token = brought["file"]["token"]
        .as_str()
        .expect("a token")
        .to_owned();
    let take_in = format!("/trials/{id}/loggers/{token}/take-in");
    assert_eq!(
        farm.text("POST", &take_in, brought["mapping"].clone())
            .await
            .0,
        StatusCode::ACCEPTED
    );
    assert_eq!(ended(&farm, &id, &token).await["done"]["taken"], 288);
    let tracks = farm.get(&format!("/trials/{id}/tracks")).await;
    let named = |list: &str| {
        let all = tracks[list].as_array().expect("a list").iter();
        all.map(|k| k["quantity"].as_str().expect("a quantity").to_owned())
            .collect::<Vec<_>>()
    };
    assert_eq!(named("logged"), ["air_temperature", "humidity", "light"]);
    assert_eq!(
        named("computed"),
        ["vapour_pressure_deficit", "daily_light", "degree_days"]
    );
    let of = async |what: &str, query: &str| {
        farm.get(&format!("/trials/{id}/tracks/computed/{what}{query}"))
            .await
    };
    let list = |view: &Value, key: &str| -> Vec<f64> {
        serde_json::from_value(view["tracks"][0][key].clone()).expect("numbers")
    };
    // FAO 56, table 2.3: 3.168 kPa at 25 °C, of which the air lacks two fifths.
    let vpd = of("vapour_pressure_deficit", "").await;
    assert_eq!((list(&vpd, "mean").len(), &vpd["hours"]), (72, &json!(1)));
    assert!(
        list(&vpd, "mean")
            .iter()
            .all(|v| (v - 0.4 * 3.168).abs() < 1e-3)
    );
    // Sixteen hours at 200 µmol/m²s, on each of three days as the farm counts them.
    let light = of("daily_light", "").await;
    assert_eq!(list(&light, "days"), [0.5, 1.5, 2.5]);
    assert!(
        list(&light, "mean")
            .iter()
            .all(|v| (v - 11.52).abs() < 1e-9),
        "{light}"
    );
    // Twenty degrees above the base for three days; counted from the sowing whatever is shown.
    let warm = list(&of("degree_days", "").await, "mean");
    assert!((warm[warm.len() - 1] - 60.0).abs() < 1e-9);
    let later = list(&of("degree_days", "?from=2").await, "mean");
    assert!(
        (later[0] - 40.0 - 20.0 / 24.0).abs() < 1e-9
            && (later[later.len() - 1] - 60.0).abs() < 1e-9,
        "{later:?}"
    );
    assert_eq!(
        farm.text(
            "GET",
            &format!("/trials/{id}/tracks/computed/daily_light?from=9&until=2"),
            Value::Null
        )
        .await
        .0,
        422
    );
}

/// Probes stand in eight trays; those of one treatment run three degrees warm. It is told with the
/// key open, and of the others nothing is.
#[tokio::test]
async fn probes_of_one_treatment_that_run_warm_are_told_once_the_key_is_open() {
    let farm = Farm::new();
    let id = trial(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(4))
        .expect("a day");
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown.to_string() })),
    )
    .await;
    let codes: Vec<String> = farm.get(&at("")).await["units"]
        .as_array()
        .expect("units")
        .iter()
        .map(|u| u["code"].as_str().expect("a code").to_owned())
        .collect();
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let warm = |code: &str| {
        sheet[1]["codes"]
            .as_array()
            .expect("codes")
            .iter()
            .any(|c| c == code)
    };
    for (quantity, heading, gap) in [("air_temperature", "temp C", 3.0), ("humidity", "RH", 0.0)] {
        let mut text = format!("time{}\n", format!(",{heading}").repeat(codes.len()));
        for hour in 0..72 {
            let when = sown
                .at(0, 0, 0, 0)
                .checked_add(jiff::Span::new().hours(hour))
                .expect("a time");
            text += &when.strftime("%Y-%m-%d %H:%M:%S").to_string();
            for (n, code) in codes.iter().enumerate() {
                let value = 20.0 + 0.1 * (n % 3) as f64 + if warm(code) { gap } else { 0.0 };
                text += &format!(",{value:.1}");
            }
            text.push('\n');
        }
        let (status, brought) = bring(&farm, &id, text).await;
        assert_eq!(status, StatusCode::CREATED, "{brought}");
        let mut mapping = brought["mapping"].clone();
        let unit = mapping["columns"][0]["unit"].clone();
        let column = |(n, code): (usize, &String)| {
            json!({
                "column": n + 1, "quantity": quantity, "unit": unit, "place": { "unit": code },
            })
        };
        mapping["columns"] = codes.iter().enumerate().map(column).collect();
        let token = brought["file"]["token"]
            .as_str()
            .expect("a token")
            .to_owned();
        assert_eq!(
            farm.text("POST", &at(&format!("/loggers/{token}/take-in")), mapping)
                .await
                .0,
            StatusCode::ACCEPTED
        );
        assert_eq!(ended(&farm, &id, &token).await["done"]["taken"], 72);
    }
    let apart =
        async |what: &str| farm.get(&at(&format!("/tracks/logged/{what}"))).await["apart"].clone();
    assert_eq!(apart("air_temperature").await, json!([]), "the key is shut");
    for code in &codes {
        let body = json!({
            "code": code, "gross_g": 100.0, "tare_g": 0.0, "version": 0, "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("weighing", body))
            .await;
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let told = apart("air_temperature").await;
    assert_eq!(
        (told.as_array().map(Vec::len), &told[0]["treatment"]),
        (Some(1), &json!(1)),
        "{told}"
    );
    assert!(
        (told[0]["by"].as_f64().expect("a number") - 3.0).abs() < 0.2,
        "{told}"
    );
    assert_eq!(
        (&told[0]["from"], &told[0]["until"]),
        (&json!(0), &json!(2))
    );
    assert_eq!(apart("humidity").await, json!([]));
}
