//! Judge beyond the plain comparison: a ladder of doses, a benchmark beside the control, and what
//! other kinds of measure could see.

use crate::farm;

use farm::{Farm, record, set_cell};
use iron_twin_judge::{analysis::analyse, table::Columns, table::read};
use serde_json::{Value, json};

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

/// Water and three strengths of one feed over four levels: the gain levels off at about half.
async fn ladder(farm: &Farm) -> String {
    let id = farm.new_trial("How strong?").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut sheet = trial["sheet"].clone();
    sheet["treatments"][0]["name"] = json!("the shop's water");
    for (name, dose) in [("half feed", "0.5"), ("a quarter", "0.25")] {
        let mut other = sheet["treatments"][1].clone();
        other["name"] = json!(name);
        set_cell(&mut other, "dose", dose);
        sheet["treatments"]
            .as_array_mut()
            .expect("treatments")
            .push(other);
    }
    let trial = farm
        .call(
            "PUT",
            &at("/match-sheet"),
            json!({ "sheet": sheet, "version": trial["version"] }),
        )
        .await;
    let mut ask = trial["ask"].clone();
    (ask["seeks"], ask["goal"]) = (json!("dose"), json!("best"));
    let put = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    assert_eq!(trial["ask"]["seeks"], "dose");
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": days_ago(12) })),
    )
    .await;
    let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    for pour in sheet.as_array().expect("pours") {
        let net = match pour["treatment"].as_str().expect("a name") {
            "full feed" => 140.0,
            "half feed" => 139.0,
            "a quarter" => 121.0,
            _ => 100.0,
        };
        for (n, code) in pour["codes"].as_array().expect("codes").iter().enumerate() {
            let gross = net + 200.0 + f64::from([0, 3, 1, 2][n % 4]);
            let body = json!({
                "code": code, "gross_g": gross, "tare_g": 200.0, "version": 0, "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("weighing", body))
                .await;
        }
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    id
}

#[tokio::test]
async fn a_ladder_of_doses_says_which_is_enough() {
    let farm = Farm::new();
    let id = ladder(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let judge = farm.get(&at("/judge")).await;
    let enough = judge["dose"]["enough"]["dose"]
        .as_f64()
        .unwrap_or_else(|| panic!("{}", judge["dose"]));
    assert!((0.25..0.6).contains(&enough), "{}", judge["dose"]);
    let said = judge["dose"]["sentence"].as_str().expect("a sentence");
    assert!(
        said.contains("A dose of ") && said.contains("× the label dose is enough"),
        "{said}"
    );
    assert_eq!(
        judge["dose_command"],
        "iron-twin analyse trial.csv --kind dose --measure harvest_weight_g --dose dose --block \
         block --margin 10%"
    );
    let command = judge["command"].as_str().expect("a command");
    assert!(
        command.contains(r" --control 'the shop'\''s water' --"),
        "a shell reads the name as it stands: {command}"
    );
    // The command's columns on the exported file give the dose that is shown.
    let csv = farm.get(&at("/export.csv")).await;
    let columns = Columns {
        kind: iron_twin_terms::kind::Kind::Dose,
        measure: "harvest_weight_g".into(),
        dose: Some("dose".into()),
        block: Some("block".into()),
        ..Columns::default()
    };
    let table = read(csv.as_str().expect("text").as_bytes(), &columns).expect("a table");
    let question = iron_twin_judge::question::Question {
        margin: Some(iron_twin_terms::quantity::Margin::Percent(10.0)),
        ..Default::default()
    };
    let again = analyse(&table, &question)
        .expect("figures")
        .dose
        .expect("doses")
        .enough
        .expect("enough")
        .dose;
    assert_eq!(again, enough);
}

#[tokio::test]
async fn every_treatment_can_be_judged_against_a_benchmark_too() {
    let farm = Farm::new();
    let id = ladder(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let names = |judge: &Value| -> Vec<(String, f64)> {
        let of = |c: &Value| {
            (
                c["treatment"].as_str().expect("a name").to_owned(),
                c["estimate"].as_f64().expect("a figure"),
            )
        };
        judge["analysis"]["contrasts"]
            .as_array()
            .expect("contrasts")
            .iter()
            .map(of)
            .collect()
    };
    let control = farm.get(&at("/judge")).await;
    let full = names(&control)
        .into_iter()
        .find(|(name, _)| name == "full feed")
        .expect("full feed")
        .1;
    let benchmark = farm.get(&at("/judge?against=1")).await;
    assert!(
        benchmark["analysis"]["contrasts"]
            .as_array()
            .expect("some")
            .iter()
            .all(|c| c["versus"] == "full feed")
    );
    let water = names(&benchmark)
        .into_iter()
        .find(|(name, _)| name == "the shop's water")
        .expect("water")
        .1;
    assert!(
        (full + water).abs() < 1e-9,
        "the same gap the other way round: {full} {water}"
    );
    assert!(
        benchmark["command"].is_null(),
        "the printed command is that of the control"
    );
    let (status, _) = farm.text("GET", &at("/judge?against=9"), Value::Null).await;
    assert_eq!(status, 404);
}

#[tokio::test]
async fn counts_shares_and_days_are_foreseen_as_the_command_does() {
    let farm = Farm::new();
    let id = farm.new_trial("Sprouting").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    assert!(
        farm.get(&at("/expected")).await.is_null(),
        "amounts have their picture"
    );
    for (measure, usual, out_of, option) in [
        (
            "germinated",
            60.0,
            Some(50.0),
            "--kind share --share 60% --out-of 50",
        ),
        ("leaf_count", 12.0, None, "--kind count --count 12"),
        ("first_flower", 30.0, None, "--kind days --days 30 --cv 10%"),
    ] {
        let trial = farm.get(&at("")).await;
        let mut ask = trial["ask"].clone();
        (
            ask["primary_measure"],
            ask["usual_per_unit"],
            ask["usual_out_of"],
        ) = (json!(measure), Value::Null, Value::Null);
        ask["end_day"] = json!(60);
        let put = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
        let trial = farm.call("PUT", &at("/ask"), put).await;
        assert_eq!(
            farm.get(&at("/expected")).await["kind"],
            "lacks",
            "{measure}"
        );
        (ask["usual_per_unit"], ask["usual_out_of"]) = (json!(usual), json!(out_of));
        let put = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
        farm.call("PUT", &at("/ask"), put).await;
        let seen = farm.get(&at("/expected")).await;
        assert_eq!(seen["kind"], "sees", "{seen}");
        assert!(
            seen["command"]
                .as_str()
                .expect("a command")
                .contains(option),
            "{seen}"
        );
        assert!((0.0..=1.0).contains(&seen["power"].as_f64().expect("a chance")));
    }
}

/// A treatment that lost all its trays has no figure, but that it lost them is a result: exact, and
/// in words. The others are judged as they stand.
#[tokio::test]
async fn a_treatment_that_died_out_is_told_exactly() {
    for (each, told) in [(4u32, true), (2, false)] {
        let farm = Farm::new();
        let id = farm.new_trial("Kohlrabi").await;
        let at = |rest: &str| format!("/trials/{id}{rest}");
        let trial = farm.get(&at("")).await;
        let mut sheet = trial["sheet"].clone();
        let mut strong = sheet["treatments"][1].clone();
        strong["name"] = json!("triple feed");
        set_cell(&mut strong, "dose", "3");
        sheet["treatments"]
            .as_array_mut()
            .expect("treatments")
            .push(strong);
        let trial = farm
            .call(
                "PUT",
                &at("/match-sheet"),
                json!({ "sheet": sheet, "version": trial["version"] }),
            )
            .await;
        let rack = json!({
            "name": "rack", "levels": each, "slots": 3, "design": "completely_randomised",
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
        for (t, pour) in sheet.as_array().expect("pours").iter().enumerate() {
            for (n, code) in pour["codes"].as_array().expect("codes").iter().enumerate() {
                if t == 2 {
                    // One after the other, from the fourth day on; sown twelve days ago.
                    let date = days_ago(8 - i64::try_from(n).expect("few"));
                    let body = json!({ "code": code, "reason": "wilted", "date": date });
                    farm.call("POST", &at("/records"), record("write_off", body))
                        .await;
                } else {
                    let gross = 100.0 + 30.0 * t as f64 + 2.0 * n as f64;
                    let body = json!({
                        "code": code, "gross_g": gross, "tare_g": 0.0, "version": 0,
                        "confirmed": true,
                    });
                    farm.call("POST", &at("/records"), record("weighing", body))
                        .await;
                }
            }
        }
        farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
            .await;
        let judge = farm.get(&at("/judge")).await;
        let gone = &judge["gone"][0];
        assert_eq!(
            (&gone["told"], &gone["units"], &gone["lost_control"]),
            (&json!(told), &json!(each), &json!(0))
        );
        // 2 of the 70 deals of eight trays part all losses from all that stand; 2 of 6 of four.
        let p = if each == 4 { 2.0 / 70.0 } else { 2.0 / 6.0 };
        assert!((gone["p"].as_f64().expect("a chance") - p).abs() < 1e-12);
        let sentence = gone["sentence"].as_str().expect("a sentence");
        let when = if each == 4 {
            "from day 4 to day 7, half of them by day 5"
        } else {
            "from day 4 to day 5"
        };
        let lead = format!(
            "Triple feed lost all of its {each} trays (wilted) {when}, plain water none of \
             {each}. "
        );
        assert!(sentence.starts_with(&lead), "{sentence}");
        assert_eq!(sentence.contains("so luck is unlikely"), told, "{sentence}");
        let analysis = &judge["analysis"];
        assert_eq!(
            analysis["contrasts"].as_array().expect("contrasts").len(),
            1,
            "{}",
            judge["trouble"]
        );
        assert_eq!(analysis["contrasts"][0]["estimate"], 30.0);
        assert!(
            judge["command"].is_null(),
            "the exported file still holds the lost ones"
        );
    }
}

/// A rack brighter towards one end: the plan is offered to take the light out, says so before the
/// first record, and the verdict is that of the command with the light as its covariate; left in,
/// the limits lie four times as far apart.
#[tokio::test]
async fn light_that_the_plan_takes_out_hides_nothing() {
    let farm = Farm::new();
    let weigh = async |covariate: &str| -> (Value, String) {
        let id = farm.new_trial(&format!("Bright end, {covariate}?")).await;
        let at = |rest: &str| format!("/trials/{id}{rest}");
        let places: Vec<(u32, u32)> = (1..=4)
            .flat_map(|level| (1..=4).map(move |slot| (level, slot)))
            .collect();
        let umol = |slot: u32| 100 + 40 * slot;
        let trial = farm.get(&at("")).await;
        let light: Vec<Value> = (places.iter())
            .map(|(level, slot)| json!({ "level": level, "slot": slot, "value": umol(*slot) }))
            .collect();
        let mut rack = trial["rack"].clone();
        rack["design"] = json!("completely_randomised");
        farm.call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
        let trial = farm
            .call(
                "PUT",
                &at("/light"),
                json!({ "places": light, "scale": "umol", "kind": "" }),
            )
            .await;
        let offered = |trial: &Value| {
            trial["cautions"]
                .as_array()
                .is_some_and(|c| c.iter().any(|c| c["offer"] == "light"))
        };
        assert!(offered(&trial), "{}", trial["cautions"]);
        let mut ask = trial["ask"].clone();
        ask["covariate"] = json!(covariate);
        let put = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
        let trial = farm.call("PUT", &at("/ask"), put).await;
        farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
            .await;
        farm.call(
            "POST",
            &at("/records"),
            record("work", json!({ "job": "sow", "date": days_ago(12) })),
        )
        .await;
        let trial = farm.get(&at("")).await;
        let slot_of = |code: &Value| {
            trial["units"]
                .as_array()
                .and_then(|all| all.iter().find(|u| u["code"] == *code))
                .map_or(0, |u| u["slot"].as_u64().unwrap_or(0))
        };
        let sheet = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
        for pour in sheet.as_array().expect("pours") {
            let net = if pour["treatment"] == "plain water" {
                100.0
            } else {
                130.0
            };
            for (n, code) in pour["codes"].as_array().expect("codes").iter().enumerate() {
                let gross =
                    net + 200.0 + 12.0 * slot_of(code) as f64 + f64::from([0, 3, 1, 2][n % 4]);
                let body = json!({
                    "code": code, "gross_g": gross, "tare_g": 200.0, "version": 0,
                    "confirmed": true,
                });
                farm.call("POST", &at("/records"), record("weighing", body))
                    .await;
            }
        }
        let sealed = farm.get(&at("")).await;
        assert_eq!(
            offered(&sealed),
            covariate == "light",
            "once sealed only what was taken up is told"
        );
        farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
            .await;
        (
            farm.get(&at("/judge")).await,
            farm.get(&at("/export.csv"))
                .await
                .as_str()
                .expect("text")
                .to_owned(),
        )
    };
    let (left_in, plain) = weigh("start").await;
    let (out, csv) = weigh("light").await;
    let contrast = |judge: &Value| judge["analysis"]["contrasts"][0].clone();
    let width =
        |c: &Value| c["high"].as_f64().expect("a limit") - c["low"].as_f64().expect("a limit");
    assert!(
        !plain.contains("light") && width(&contrast(&left_in)) > 4.0 * width(&contrast(&out)),
        "{left_in}"
    );
    let contrast = contrast(&out);
    assert_eq!(contrast["verdict"], "better_by_margin", "{contrast}");
    assert!(
        (contrast["estimate"].as_f64().expect("a figure") - 30.0).abs() < 1.5,
        "{contrast}"
    );
    let columns = Columns {
        measure: "harvest_weight_g".into(),
        treatment: "treatment".into(),
        control: "plain water".into(),
        unit: Some("unit".into()),
        baseline: Some("light".into()),
        ..Columns::default()
    };
    let question = iron_twin_judge::question::Question {
        margin: Some(iron_twin_terms::quantity::Margin::Percent(10.0)),
        ..Default::default()
    };
    let again =
        analyse(&read(csv.as_bytes(), &columns).expect("a table"), &question).expect("figures");
    assert_eq!(
        contrast["estimate"].as_f64(),
        Some(again.contrasts[0].estimate)
    );
}
