//! Samples inside a unit: cuttings of a tub are read one by one, and the tub is what is judged.

use crate::farm;

use farm::{Farm, record, records};
use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::table::read;
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    let now = jiff::Zoned::now().date();
    now.checked_sub(jiff::ToSpan::days(days))
        .expect("a date")
        .to_string()
}

/// A sown trial of jars whose cuttings are followed, and its codes with the treatment that each
/// has.
async fn rooted(farm: &Farm, jars: u32, samples: u32) -> (String, Vec<(String, usize)>) {
    let id = farm.new_trial("Mint cuttings").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut trial = farm.get(&at("")).await;
    let ask = &mut trial["ask"];
    (ask["question"], ask["primary_measure"], ask["also"]) = (
        json!("Do they grow?"),
        json!("height"),
        json!(["first_root"]),
    );
    ask["samples_inside"] = json!(samples);
    let put = json!({
        "name": "Mint cuttings", "ask": ask.clone(), "version": trial["version"], "reason": null,
    });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    assert_eq!(trial["ask"]["samples_inside"], samples);
    let rack = json!({
        "name": "sill", "levels": 1, "slots": jars, "kind": "bench",
        "design": "completely_randomised",
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
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let mut dealt: Vec<(String, usize)> = Vec::new();
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        dealt.extend(
            pour["codes"]
                .as_array()
                .expect("codes")
                .iter()
                .map(|c| (c.as_str().expect("a code").to_owned(), treatment)),
        );
    }
    (id, dealt)
}

fn height(code: &str, sample: Value, value: f64) -> Value {
    json!({
        "code": code, "reading": "height", "sample": sample, "day": 12, "value": value,
        "version": 0, "confirmed": true,
    })
}

#[tokio::test]
async fn cuttings_are_read_one_by_one_and_the_jar_is_judged() {
    let farm = Farm::new();
    let (id, dealt) = rooted(&farm, 8, 3).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let grid = farm.get(&at("/tend?day=12")).await;
    let rows = grid["rows"].as_array().expect("rows");
    assert_eq!(rows.len(), 24, "a row for each cutting");
    assert_eq!(
        [&rows[0]["sample"], &rows[1]["sample"], &rows[2]["sample"]],
        [&json!(1), &json!(2), &json!(3)]
    );
    assert!(
        rows[0]["cells"][0].is_object() && rows[1]["cells"][0].is_null(),
        "pH is of the jar"
    );
    for (n, (code, treatment)) in dealt.iter().enumerate() {
        for sample in 1..=3u32 {
            let own = 40.0 + 12.0 * *treatment as f64 + 2.0 * (n % 4) as f64 + f64::from(sample);
            // The last cutting of one jar died before it could be measured.
            if (n, sample) != (5, 3) {
                farm.call(
                    "POST",
                    &at("/records"),
                    record("reading", height(code, json!(sample), own)),
                )
                .await;
            }
        }
    }
    for wrong in [
        height(&dealt[0].0, Value::Null, 40.0),
        height(&dealt[0].0, json!(4), 40.0),
    ] {
        let (status, said) = farm
            .text("POST", &at("/records"), record("reading", wrong))
            .await;
        assert!(
            status == 422 && said.contains("samples in a unit"),
            "{said}"
        );
    }
    let ph = json!({
        "code": dealt[0].0, "reading": "ph", "sample": 1, "day": 12, "value": 6.0, "version": 0,
    });
    let (status, said) = farm
        .text("POST", &at("/records"), record("reading", ph))
        .await;
    assert!(status == 422 && said.contains("unit as a whole"), "{said}");
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let analysis = &judge["analysis"];
    assert_eq!(analysis["design"]["units"], 8, "{}", judge["trouble"]);
    assert_eq!(analysis["design"]["samples_per_unit"], json!([2, 3]));
    assert_eq!(
        judge["dots"].as_array().expect("dots").len(),
        8,
        "a dot is a jar"
    );
    let contrast = &analysis["contrasts"][0];
    // By hand: jars of a side differ by 2 mm steps, treatments by 12 mm; the missing cutting was
    // the tallest of its jar.
    assert!(
        (contrast["estimate"].as_f64().expect("an estimate") - 12.0).abs() < 0.5,
        "{contrast}"
    );
    assert!(
        contrast["df"].as_f64().expect("df") <= 6.0,
        "never more than eight jars give"
    );
    assert_eq!(
        contrast["randomisation"]["assignments"], 70.0,
        "jars are dealt, four of eight"
    );
    let codes: Vec<&str> = analysis["warnings"]
        .as_array()
        .expect("a list")
        .iter()
        .filter_map(|w| w["code"].as_str())
        .collect();
    assert!(
        !codes.contains(&"rows_dropped") && !codes.contains(&"units_lost"),
        "{codes:?}"
    );

    // The exported file with its plan gives the very figures.
    let csv = farm.text("GET", &at("/export.csv"), Value::Null).await.1;
    assert_eq!(
        csv.lines().next(),
        Some(
            "unit,block,level,slot,sample,treatment,height_mm,first_root_day,first_root_seen,first_root_after"
        )
    );
    let plan = AnalysisPlan::read(&farm.get(&at("/plan.json")).await.to_string()).expect("a plan");
    let again = analyse(
        &read(csv.as_bytes(), &plan.columns(0)).expect("a table"),
        &plan.question(0),
    )
    .expect("an analysis");
    assert_eq!(json!(again.contrasts[0].low), contrast["low"]);
}

/// Three cuttings in one tub against three in another are one tub against one.
#[tokio::test]
async fn one_tub_a_side_tells_nothing_however_many_cuttings() {
    let farm = Farm::new();
    let (id, dealt) = rooted(&farm, 2, 3).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for (code, treatment) in &dealt {
        for sample in 1..=3u32 {
            let own = 40.0 + 30.0 * *treatment as f64 + f64::from(sample);
            farm.call(
                "POST",
                &at("/records"),
                record("reading", height(code, json!(sample), own)),
            )
            .await;
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    assert_eq!(judge["analysis"]["contrasts"][0]["verdict"], "cannot_tell");
    let warnings = judge["analysis"]["warnings"].to_string();
    assert!(warnings.contains("one_unit_per_treatment"), "{warnings}");
    let ledger = farm.get(&at("")).await["ledger"]["open"].to_string();
    assert!(ledger.contains("one_unit_per_treatment"), "{ledger}");
}

#[tokio::test]
async fn designs_that_cannot_tell_samples_apart_are_refused_with_them() {
    let farm = Farm::new();
    let (id, _) = rooted(&farm, 4, 3).await;
    let plan = farm.get(&format!("/trials/{id}")).await;
    let next = farm.new_trial("Next").await;
    let mut ask = plan["ask"].clone();
    let rack = json!({ "name": "rack", "levels": 2, "slots": 2, "design": "latin_square" });
    let trial = farm
        .call(
            "PUT",
            &format!("/trials/{next}/rack"),
            json!({ "rack": rack, "version": 1 }),
        )
        .await;
    ask["samples_inside"] = json!(3);
    let put = json!({ "name": "Next", "ask": ask, "version": trial["version"], "reason": null });
    let (status, said) = farm.text("PUT", &format!("/trials/{next}/ask"), put).await;
    assert!(status == 422 && said.contains("square"), "{said}");
}

/// Six trays of a feed against two of plain water: dealt at random, mixed for by their own numbers,
/// judged as they stand.
#[tokio::test]
async fn six_against_two_are_dealt_mixed_and_judged() {
    let farm = Farm::new();
    let id = farm.new_trial("Six and two").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let rack = |numbers: Value| {
        json!({
            "rack": {
                "name": "rack", "levels": 2, "slots": 5, "design": "completely_randomised",
                "numbers": numbers,
            },
            "version": 1,
        })
    };
    for wrong in [json!([2]), json!([2, 0]), json!([2, 9])] {
        let (status, said) = farm.text("PUT", &at("/rack"), rack(wrong)).await;
        assert!(status == 422 && said.contains("numbers of units"), "{said}");
    }
    let trial = farm.call("PUT", &at("/rack"), rack(json!([2, 6]))).await;
    assert_eq!(
        (&trial["ways"], &trial["units_each"]),
        (&json!(28.0), &json!(2))
    );
    let sound = trial["ledger"]["open"].to_string();
    assert!(
        sound.contains("too_few_to_tell"),
        "two of one see little: {sound}"
    );
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let mix = farm.get(&at("/mix")).await;
    let litres = |t: usize| {
        mix["treatments"][t]["tank"]["volume_l"]
            .as_f64()
            .expect("litres")
    };
    assert!(
        (litres(1) / litres(0) - 3.0).abs() < 1e-9,
        "six trays take three times as much as two"
    );
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    for (treatment, pour) in sheet.as_array().expect("pours").iter().enumerate() {
        let codes = pour["codes"].as_array().expect("codes");
        assert_eq!(codes.len(), [2, 6][treatment]);
        for (n, code) in codes.iter().enumerate() {
            let net = 100.0 + 40.0 * treatment as f64 + n as f64;
            let body = json!({
                "code": code, "gross_g": net, "tare_g": 0.0, "version": 0, "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("weighing", body))
                .await;
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let contrast = &judge["analysis"]["contrasts"][0];
    assert_eq!(
        (&contrast["df"], &contrast["randomisation"]["assignments"]),
        (&json!(6.0), &json!(28.0))
    );
    assert_eq!(contrast["estimate"], 42.0);
    let warnings = judge["analysis"]["warnings"].to_string();
    assert!(
        !warnings.contains("units_lost"),
        "nothing was lost: {warnings}"
    );
}

/// Five plants of a bucket are weighed one by one: the bucket is judged by their mean, and what was
/// cut is their sum.
#[tokio::test]
async fn plants_are_weighed_one_by_one() {
    let farm = Farm::new();
    let id = farm.new_trial("Leeks in buckets").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    (ask["question"], ask["also"], ask["weigh_samples"]) =
        (json!("Do they grow?"), json!([]), json!(true));
    let put = |ask: &Value, version: &Value| {
        json!({
            "name": "Leeks", "ask": ask, "version": version, "reason": null,
        })
    };
    let (status, said) = farm
        .text("PUT", &at("/ask"), put(&ask, &trial["version"]))
        .await;
    assert!(status == 422 && said.contains("say how many"), "{said}");
    ask["samples_inside"] = json!(3);
    let trial = farm
        .call("PUT", &at("/ask"), put(&ask, &trial["version"]))
        .await;
    let rack =
        json!({ "name": "deck", "levels": 4, "slots": 2, "kind": "buckets", "design": "pairs" });
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    let of = |t: usize| sheet[t]["codes"].as_array().expect("codes").clone();
    let weigh = |code: &Value, sample: Value, gross: f64| {
        json!({
            "code": code, "sample": sample, "gross_g": gross, "tare_g": 0.0, "version": 0,
            "confirmed": true,
        })
    };
    let first = of(0)[0].clone();
    for (sample, part) in [
        (Value::Null, "say which of the 3"),
        (json!(4), "say which of the 3"),
    ] {
        let (status, said) = farm
            .text(
                "POST",
                &at("/records"),
                record("weighing", weigh(&first, sample, 50.0)),
            )
            .await;
        assert!(status == 422 && said.contains(part), "{said}");
    }
    let view = farm.get(&at("/weigh")).await;
    assert_eq!(
        (
            view["rows"].as_array().expect("rows").len(),
            &view["next_sample"]
        ),
        (24, &json!(1))
    );
    for t in 0..2 {
        for (n, code) in of(t).iter().enumerate() {
            for sample in 1..=3u32 {
                // One plant of one bucket died: nobody weighs it.
                if (t, n, sample) != (1, 2, 3) {
                    let gross = 50.0
                        + 20.0 * t as f64
                        + 3.0 * (n % 2) as f64
                        + 4.0 * (f64::from(sample) - 2.0);
                    farm.call(
                        "POST",
                        &at("/records"),
                        record("weighing", weigh(code, json!(sample), gross)),
                    )
                    .await;
                }
            }
        }
    }
    let view = farm.get(&at("/weigh")).await;
    assert_eq!(
        (&view["weighed"], &view["next_sample"]),
        (&json!(23), &json!(3)),
        "the dead one is still asked for"
    );
    let trial = farm.get(&at("")).await;
    let weigh_plate = trial["stations"]
        .as_array()
        .expect("stations")
        .iter()
        .find(|s| s["key"] == "weigh")
        .expect("weigh");
    assert_eq!(weigh_plate["status"], "23 of 24 plants");
    // A correction of one plant leaves its neighbours.
    let again = json!({
        "code": first, "sample": 2, "gross_g": 51.0, "tare_g": 0.0, "version": 1, "confirmed": true,
    });
    farm.call("POST", &at("/records"), record("weighing", again))
        .await;
    assert_eq!(farm.get(&at("/weigh")).await["weighed"], 23);
    let mut whole = trial["ask"].clone();
    whole["weigh_samples"] = json!(false);
    let mut put = put(&whole, &trial["version"]);
    put["reason"] = json!("easier");
    let (status, said) = farm.text("PUT", &at("/ask"), put).await;
    assert!(
        status == 409 && said.contains("weights are there already"),
        "{said}"
    );

    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let analysis = &judge["analysis"];
    assert_eq!(
        (
            &analysis["design"]["units"],
            &analysis["design"]["samples_per_unit"]
        ),
        (&json!(8), &json!([2, 3]))
    );
    let sentence = analysis["contrasts"][0]["sentence"]
        .as_str()
        .expect("a sentence");
    assert!(sentence.contains("g a plant more than"), "{sentence}");
    let csv = farm.text("GET", &at("/export.csv"), Value::Null).await.1;
    assert_eq!(csv.lines().count(), 25, "a row for each plant");
}

/// Jars hold unlike numbers, and a cutting dies on the way: nothing more is asked of it, and how it
/// ended is compared with nobody.
#[tokio::test]
async fn cuttings_that_died_or_were_never_there_are_marked_and_no_longer_asked_for() {
    let farm = Farm::new();
    let (id, dealt) = rooted(&farm, 8, 3).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let (first, second) = (dealt[0].0.clone(), dealt[1].0.clone());
    let gone = |code: &str, numbers: &[u32], why: &str, days: i64| -> Vec<(&str, Value)> {
        let of = |n: &u32| {
            json!({
                "code": code, "sample": n, "why": why, "note": "damped off", "date": days_ago(days),
            })
        };
        numbers.iter().map(|n| ("gone", of(n))).collect()
    };
    let tell =
        async |list: Vec<(&str, Value)>| farm.text("POST", &at("/records"), records(&list)).await;
    let mut early = height(&second, json!(2), 55.0);
    early["day"] = json!(8);
    farm.call("POST", &at("/records"), record("reading", early))
        .await;
    for (wrong, words) in [
        (gone(&second, &[4], "lost", 3), "3 are followed"),
        (gone(&second, &[], "lost", 3), "1 to 1000 records"),
        (gone(&second, &[1, 2, 3], "lost", 3), "write"),
        (gone(&second, &[2], "lost", 4), "on day 8"),
        (gone(&second, &[2], "never_there", 3), "on day 8"),
    ] {
        let (status, said) = tell(wrong).await;
        assert!(status == 422 && said.contains(words), "{said}");
    }
    assert_eq!(tell(gone(&second, &[2], "lost", 3)).await.0, 200);
    assert_eq!(tell(gone(&first, &[3], "never_there", 0)).await.0, 200);
    let (status, said) = tell(gone(&second, &[2], "thinned", 1)).await;
    assert!(
        status == 422 && said.contains("marked as lost already"),
        "{said}"
    );
    let said_of = async |day: u32| {
        let grid = farm.get(&at(&format!("/tend?day={day}"))).await;
        let rows = grid["rows"].as_array().expect("rows").clone();
        let of = |code: &str, sample: u32| {
            let row = rows
                .iter()
                .find(|r| r["unit"]["code"] == code && r["sample"] == sample)
                .expect("a row");
            row["gone"]["words"].clone()
        };
        [of(&first, 3), of(&second, 2), of(&second, 1)]
    };
    assert_eq!(
        said_of(12).await,
        [json!("never there"), json!("lost, day 9"), Value::Null]
    );
    assert_eq!(
        said_of(8).await,
        [json!("never there"), Value::Null, Value::Null]
    );
    for (code, sample, words) in [
        (&second, 2, "was lost on day 9"),
        (&first, 3, "was never there"),
    ] {
        let (status, said) = farm
            .text(
                "POST",
                &at("/records"),
                record("reading", height(code, json!(sample), 40.0)),
            )
            .await;
        assert!(status == 422 && said.contains(words), "{said}");
    }
    // Taken back, it stands again; and it can be marked once more.
    let diary = farm.get(&at("/diary?kind=notes")).await;
    let entry = &diary["entries"][0];
    assert!(
        entry
            .to_string()
            .contains(&format!("plant 3 of {first} never there")),
        "{diary}"
    );
    farm.call("POST", &at("/undo"), Value::Null).await;
    assert_eq!(said_of(12).await[0], Value::Null);
    assert_eq!(tell(gone(&first, &[3], "never_there", 0)).await.0, 200);

    for (n, (code, treatment)) in dealt.iter().enumerate() {
        for sample in 1..=3u32 {
            if (n, sample) != (0, 3) && (n, sample) != (1, 2) {
                let own = 40.0 + 12.0 * *treatment as f64 + 2.0 * (n % 4) as f64;
                farm.call(
                    "POST",
                    &at("/records"),
                    record("reading", height(code, json!(sample), own)),
                )
                .await;
            }
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let judge = farm.get(&at("/judge")).await;
    let analysis = &judge["analysis"];
    assert_eq!(
        analysis["design"]["samples_per_unit"],
        json!([2, 3]),
        "{}",
        judge["trouble"]
    );
    // Had the dead one's last height counted, its jar would lie higher: all of a jar are alike
    // here.
    let residual = &analysis["residual"];
    assert!(
        (analysis["contrasts"][0]["estimate"]
            .as_f64()
            .expect("a number")
            - 12.0)
            .abs()
            < 1e-9,
        "{residual}"
    );
    let ledger = farm.get(&at("")).await["ledger"]["open"].clone();
    let losses = ledger
        .as_array()
        .expect("a list")
        .iter()
        .find(|f| f["code"] == "losses")
        .expect("told");
    // One of 23 that stood: of one treatment 1 of 11 or 12, of the other none.
    assert_eq!(losses["severity"], "minor", "{losses}");
    assert!(
        losses["seen"]
            .as_str()
            .expect("words")
            .starts_with("1 of 23 plants followed inside the"),
        "{losses}"
    );
}
