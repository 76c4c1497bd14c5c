//! The solution bench: every treatment's tank by the labels in Stores, what it then holds, and a
//! meter held against it.

use crate::farm;

use farm::{Farm, record, set_cell};
use serde_json::{Value, json};

async fn set_cells(farm: &Farm, id: &str, treatment: usize, cells: &[(&str, &str)]) -> Value {
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut sheet = trial["sheet"].clone();
    for (key, value) in cells {
        set_cell(&mut sheet["treatments"][treatment], key, value);
    }
    let put = json!({ "sheet": sheet, "version": trial["version"] });
    farm.call("PUT", &format!("/trials/{id}/match-sheet"), put)
        .await
}

#[tokio::test]
async fn two_feeds_are_measured_out_each_by_its_own_label() {
    let farm = Farm::new();
    let id = farm.new_trial("Two feeds").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_cells(
        &farm,
        &id,
        0,
        &[
            ("feed", "grow feed"),
            ("dose", "0.5"),
            ("water", "tap water"),
        ],
    )
    .await;
    set_cells(
        &farm,
        &id,
        1,
        &[
            ("feed", "powder without calcium"),
            ("dose", "1"),
            ("water", "tap water"),
        ],
    )
    .await;
    let bench = farm.get(&at("/mix")).await;
    let out = |t: usize| bench["treatments"][t]["tank"]["measure_out"][0].clone();
    assert_eq!(
        (out(0)["unit"].as_str(), out(0)["per_litre"].as_f64()),
        (Some("mL"), Some(2.0))
    );
    assert_eq!(
        (out(1)["unit"].as_str(), out(1)["per_litre"].as_f64()),
        (Some("g"), Some(0.6))
    );
    let holds = |t: usize, e: &str| {
        bench["treatments"][t]["tank"]["solution"]["mg_per_l"][e]
            .as_f64()
            .expect("a figure")
    };
    // 2 mL of 1.12 kg/L with 3 % N are 67.2 mg/L; the tap brings 10 mg/L of nitrate, 2.26 as
    // nitrogen.
    assert!(
        (holds(0, "N") - 67.2 - 10.0 * 14.007 / 62.004).abs() < 0.01,
        "{}",
        holds(0, "N")
    );
    // The powder has no calcium: what is there is the tap's.
    assert!((holds(1, "Ca") - 64.0).abs() < 1e-6);
    // A feed that nobody knows goes by the dose typed at Mix, and what it holds stays open.
    set_cells(&farm, &id, 1, &[("feed", "neighbour's brew")]).await;
    let bench = farm.get(&at("/mix")).await;
    let tank = &bench["treatments"][1]["tank"];
    assert!(
        tank["solution"].is_null() && tank["unknown"][0] == "neighbour's brew",
        "{tank}"
    );
    assert_eq!(
        (
            tank["measure_out"][0]["in_stores"].as_bool(),
            tank["measure_out"][0]["per_litre"].as_f64()
        ),
        (Some(false), Some(4.0))
    );
}

#[tokio::test]
async fn a_meter_far_from_the_computed_ec_is_asked_about_once() {
    let farm = Farm::new();
    let id = farm.new_trial("Meter").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_cells(
        &farm,
        &id,
        1,
        &[("feed", "grow feed"), ("dose", "1"), ("water", "tap water")],
    )
    .await;
    let bench = farm.get(&at("/mix")).await;
    let computed = bench["treatments"][1]["tank"]["solution"]["conductivity_ms_per_cm"]["at_25c"]
        .as_f64()
        .expect("EC");
    let mix = |ec: f64, confirmed: bool| {
        json!({
            "treatment": 1, "volume_l": 2.2, "feed_total": 8.8, "ec": ec, "ph": 6.0,
            "confirmed": confirmed,
        })
    };
    farm.call("POST", &at("/mixes"), mix(computed * 1.05, false))
        .await;
    let (status, said) = farm
        .text("POST", &at("/mixes"), mix(computed * 0.7, false))
        .await;
    assert!(
        status == 422 && said.contains("30 % below") && said.contains("unlikely"),
        "{status} {said}"
    );
    farm.call("POST", &at("/mixes"), mix(computed * 0.7, true))
        .await;
    let recorded = farm.get(&at("/mix")).await["treatments"][1]["recorded"]
        .as_array()
        .expect("mixes")
        .len();
    assert_eq!(recorded, 2, "asked about, not lost");
}

#[tokio::test]
async fn a_bottle_of_acid_is_dosed_for_a_water_of_stores() {
    let farm = Farm::new();
    let ask = |water: &str, product: &str, target: f64| {
        let bottle = json!({ "product": product, "percent": 38.0, "density_kg_per_l": 1.23 });
        json!({ "water": water, "bottle": bottle, "target_ph": target })
    };
    let dose = farm
        .call("POST", "/ph-dose", ask("tap water", "nitric", 5.8))
        .await;
    let mmol = dose["mmol_per_l"].as_f64().expect("an amount");
    assert!((2.2..2.5).contains(&mmol), "{dose}");
    // 63.012 mg a mmol, 38 % of 1.23 kg/L.
    assert!((dose["ml_per_l"].as_f64().expect("mL") - mmol * 63.012 / (380.0 * 1.23)).abs() < 1e-9);
    assert_eq!(dose["element"], "N_NO3");
    assert!(
        dose["warnings"][0]
            .as_str()
            .expect("words")
            .contains("never water into it")
    );
    for (body, status, part) in [
        (ask("moon water", "nitric", 5.8), 404, "moon water"),
        (ask("tap water", "nitric", 8.2), 422, "takes a base"),
        (ask("tap water", "nitric", 2.0), 422, "target pH"),
    ] {
        let (got, said) = farm.text("POST", "/ph-dose", body).await;
        assert!(got == status && said.contains(part), "{got} {said}");
    }
}

#[tokio::test]
async fn a_recipe_of_two_parts_feeds_the_trial_at_two_strengths() {
    let farm = Farm::new();
    let id = farm.new_trial("Two parts").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let lines = farm.get("/bench/lines?name=two-part%20feed").await;
    let sent = json!({
        "lines": lines, "water": "tap water", "target": "leafy greens", "volume_l": 4.4,
        "stock_times": 100,
    });
    let bench = farm.call("POST", "/bench", sent.clone()).await;
    assert_eq!(bench["columns"].as_array().map(Vec::len), Some(2));
    assert_eq!(bench["stock"]["tanks"][0]["letter"], "A");
    // Part A at 2 mL/L of 1.2 kg/L with 5 % Ca: 120 mg/L on top of the tap's 64.
    assert!((bench["solution"]["mg_per_l"]["Ca"].as_f64().expect("Ca") - 184.0).abs() < 1e-6);
    // Kept as a recipe of one's own under the text that the bench gives.
    let item = json!({
        "item": {
            "shelf": "recipes", "name": "our two parts", "held": { "lines": bench["lines_text"] },
        },
    });
    farm.call("POST", "/stores/items", item).await;
    set_cells(
        &farm,
        &id,
        0,
        &[
            ("feed", "our two parts"),
            ("dose", "0.5"),
            ("water", "tap water"),
        ],
    )
    .await;
    let trial = set_cells(
        &farm,
        &id,
        1,
        &[
            ("feed", "our two parts"),
            ("dose", "1"),
            ("water", "tap water"),
        ],
    )
    .await;
    assert_eq!(
        trial["composition"]["unknown"],
        json!([]),
        "the match sheet knows what is in it"
    );
    let mix = farm.get(&at("/mix?vessel_l=2")).await;
    let totals = |t: usize| -> Vec<f64> {
        let out = mix["treatments"][t]["tank"]["measure_out"]
            .as_array()
            .expect("parts");
        out.iter()
            .map(|m| m["total"].as_f64().expect("mL"))
            .collect()
    };
    // 8 trays of 250 mL and a tenth spare: 2.2 L each.
    assert_eq!((totals(0), totals(1)), (vec![2.2, 2.2], vec![4.4, 4.4]));
    let series = &mix["filling"]["series"][0];
    assert_eq!(
        (
            series["batches"].as_u64(),
            series["shares"].as_array().map(Vec::len)
        ),
        (Some(2), Some(2))
    );
    assert_eq!(mix["filling"]["effects"][0]["between_percent"], 0.0);
    assert_eq!(
        mix["treatments"][1]["tank"]["unlike"],
        json!(["N", "P", "K", "Ca", "Mg", "S"])
    );
    assert_eq!(mix["order"][0], json!({ "step": "give", "treatment": 0 }));
}

#[tokio::test]
async fn the_bench_aims_and_tells_what_it_cannot_do_at_its_field() {
    let farm = Farm::new();
    let line =
        |name: &str, form: &str, per_l: f64| json!({ "name": name, "form": form, "per_l": per_l });
    let salts = [
        line("calcium nitrate tetrahydrate", "powder", 0.0),
        line("potassium nitrate", "powder", 0.0),
        line("magnesium sulfate heptahydrate", "powder", 0.0),
        line("potassium dihydrogen phosphate", "powder", 0.0),
    ];
    let sent = json!({ "lines": salts, "target": "leafy greens", "volume_l": 10 });
    let found = farm.call("POST", "/bench/aim", sent).await;
    assert!(
        found["lines"]
            .as_array()
            .expect("lines")
            .iter()
            .all(|l| l["per_l"].as_f64().expect("a dose") > 0.0)
    );
    let missed = found["aim"]["reached"]
        .as_array()
        .expect("elements")
        .iter()
        .find(|r| r["element"] == "Fe")
        .expect("iron");
    assert_eq!(missed["why_missed"], "nothing here brings it");
    let one = |line: Value| json!({ "lines": [line], "volume_l": 10 });
    let kno3 = || line("potassium nitrate", "powder", 0.5);
    let with = |key: &str, value: Value| {
        let mut sent = one(kno3());
        sent[key] = value;
        sent
    };
    for (sent, field, said) in [
        (
            one(line("potassium nitrate", "powder", -1.0)),
            "lines[0]",
            "must lie between 0 and 500",
        ),
        (
            one(line("moon dust", "powder", 1.0)),
            "lines[0]",
            "Stores know no feed",
        ),
        (
            one(line("grow feed", "powder", 1.0)),
            "lines[0]",
            "measured in mL",
        ),
        (with("volume_l", json!(1e9)), "volume_l", "must lie"),
        (
            with("temperature_c", json!(90)),
            "temperature_c",
            "must lie between 0 and 50",
        ),
        (
            with("stock_times", json!(1)),
            "stock_times",
            "between 2 and 1000",
        ),
        (with("water", json!("lava")), "water", "no water 'lava'"),
        (
            with("target", json!("gold")),
            "target",
            "no target profile 'gold'",
        ),
    ] {
        let (status, answer) = farm.text("POST", "/bench", sent).await;
        let problem: Value = serde_json::from_str(&answer).expect("a problem");
        assert_eq!(
            (status.as_u16(), problem["field"].as_str()),
            (422, Some(field)),
            "{answer}"
        );
        assert!(answer.contains(said), "{answer}");
    }
    // A label above all there is, and a formula with a hydrate that is none.
    let label = json!({
        "item": {
            "shelf": "feeds", "name": "too much", "held": { "n_percent": 60, "k2o_percent": 60 },
        },
    });
    let (_, said) = farm.text("POST", "/stores/items", label).await;
    assert!(said.contains("more than all of it"), "{said}");
    let hydrate =
        json!({ "item": { "shelf": "salts", "name": "odd", "held": { "formula": "MgSO4·xH2O" } } });
    let (status, said) = farm.text("POST", "/stores/items", hydrate).await;
    assert!(status == 422 && said.contains("formula"), "{said}");
    let recipe = json!({ "item": { "shelf": "recipes", "name": "a pinch", "held": { "lines": "a pinch of salt" } } });
    let (_, said) = farm.text("POST", "/stores/items", recipe).await;
    assert!(said.contains("is not an amount"), "{said}");
}

#[tokio::test]
async fn a_tank_is_topped_up_from_its_level_and_ec() {
    let farm = Farm::new();
    let id = farm.new_trial("Top-up").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_cells(
        &farm,
        &id,
        1,
        &[("feed", "grow feed"), ("dose", "1"), ("water", "tap water")],
    )
    .await;
    let mix = farm.get(&at("/mix")).await;
    let full = mix["treatments"][1]["tank"]["solution"]["conductivity_ms_per_cm"]["at_25c"]
        .as_f64()
        .expect("EC");
    let level = |now: f64, ec: f64| {
        json!({
            "treatment": 1,
            "level": {
                "now_l": now, "now_ec_ms_per_cm": ec, "wanted_l": 10, "wanted_ec_ms_per_cm": full,
                "start_l": 10,
            },
        })
    };
    // Half of it evaporated to nothing but the strength that was there: five litres at the recipe
    // are added.
    let half = farm.call("POST", &at("/top-up"), level(5.0, full)).await;
    let ml = half["add"][0]["amount"].as_f64().expect("mL");
    assert!(
        (ml - 20.0).abs() < 0.01 && half["add"][0]["unit"] == "mL",
        "{half}"
    );
    assert!(
        (half["top_up"]["water_l"].as_f64().expect("L") - 4.98).abs() < 1e-3,
        "the feed takes its room"
    );
    let (status, said) = farm.text("POST", &at("/top-up"), level(-1.0, full)).await;
    assert!(
        status == 422 && said.contains("now_l must lie between 0 and 100000"),
        "{said}"
    );
    let (_, said) = farm.text("POST", &at("/top-up"), level(5.0, 19.0)).await;
    assert!(said.contains("measure again"), "{said}");
    let mut nowhere = level(5.0, full);
    nowhere["treatment"] = json!(7);
    assert_eq!(farm.text("POST", &at("/top-up"), nowhere).await.0, 404);
}

#[tokio::test]
async fn a_mix_is_kept_with_batch_lots_and_the_reason_of_its_gap() {
    let farm = Farm::new();
    let id = farm.new_trial("Records").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_cells(
        &farm,
        &id,
        1,
        &[
            ("feed", "two-part feed"),
            ("dose", "1"),
            ("water", "tap water"),
        ],
    )
    .await;
    let part = |name: &str, measured: f64| {
        json!({
            "name": name, "unit": "mL", "planned": 4.4, "measured": measured, "lot": "L-7",
        })
    };
    let mix = json!({ "treatment": 1, "volume_l": 2.2, "feed_total": 8.9, "ec": 600, "ec_scale": "500", "ph": 6.0, "temperature_c": 18.5,
        "batch": "3", "portions": [part("part A, with calcium", 4.4), part("part B, without calcium", 4.5)] });
    let (status, said) = farm.text("POST", &at("/mixes"), mix.clone()).await;
    assert!(
        status == 422 && said.contains("unlikely") && said.contains("below"),
        "{said}"
    );
    let mut confirmed = mix;
    confirmed["confirmed"] = json!(true);
    confirmed["gap_why"] = json!("probe");
    confirmed["gap_note"] = json!("a dry bulb");
    farm.call("POST", &at("/mixes"), confirmed).await;
    let kept = farm.get(&at("/mix")).await["treatments"][1]["recorded"][0].clone();
    assert_eq!(
        (kept["batch"].as_str(), kept["gap_why"].as_str()),
        (Some("3"), Some("probe"))
    );
    assert_eq!(kept["gap_note"], "a dry bulb");
    assert_eq!(
        (
            kept["portions"][1]["measured"].as_f64(),
            kept["portions"][1]["lot"].as_str()
        ),
        (Some(4.5), Some("L-7"))
    );
    // 600 ppm on the 500 scale.
    assert_eq!(kept["ec_ms_per_cm"], 1.2);
    assert!(kept["computed_ec_ms_per_cm"].as_f64().expect("EC") > 1.5);
}

/// Water, levels and feed of every tray from filling to harvest: figures stand by code until the
/// key is opened, and the feed, which would tell the fed from the unfed, comes with it.
#[tokio::test]
async fn what_each_tray_drank_is_reckoned_and_judged() {
    let farm = Farm::new();
    let id = farm.new_trial("Who drinks more").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = set_cells(
        &farm,
        &id,
        1,
        &[("feed", "grow feed"), ("dose", "1"), ("water", "tap water")],
    )
    .await;
    let mut ask = trial["ask"].clone();
    ask["also"] = json!(["water_used", "harvest_per_litre"]);
    let put = json!({ "name": trial["name"], "ask": ask, "version": trial["version"] });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    let mut crowded = trial["ask"].clone();
    crowded["crops_inside"] = json!(["basil", "dill"]);
    let body = json!({ "name": trial["name"], "ask": crowded, "version": trial["version"] });
    let (status, said) = farm.text("PUT", &at("/ask"), body).await;
    assert!(
        status == 422 && said.contains("of the unit as a whole"),
        "{status} {said}"
    );
    farm.call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let sown = jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(12))
        .expect("a date")
        .to_string();
    farm.call(
        "POST",
        &at("/records"),
        record("work", json!({ "job": "sow", "date": sown })),
    )
    .await;
    let empty = farm.get(&at("/uptake")).await;
    assert_eq!(
        (empty["recorded"].as_bool(), empty["measured"].as_bool()),
        (Some(false), Some(true))
    );
    assert_eq!(empty["units"][0]["why"], "no filling is on record");

    let full =
        farm.get(&at("/mix")).await["treatments"][1]["tank"]["solution"]["conductivity_ms_per_cm"]
            ["at_25c"]
            .clone();
    let pours = farm.call("POST", &at("/pouring-sheet"), Value::Null).await;
    for pour in pours.as_array().expect("pours") {
        let fed = pour["treatment"] == "full feed";
        for (n, code) in pour["codes"].as_array().expect("codes").iter().enumerate() {
            let reading = |day: u32, reading: &str, value: f64| {
                json!({
                    "code": code, "reading": reading, "day": day, "value": value, "version": 0,
                    "confirmed": true,
                })
            };
            // 8 L filled, 2 L of water added at 5 L left; 6 L are left of 10, or 5 where it was
            // fed, a little apart.
            let left = if fed { 5.0 } else { 6.0 } + 0.1 * n as f64;
            let ec = if fed { full.as_f64().expect("EC") } else { 0.5 };
            let list = [
                (0, "filled", 8.0),
                (6, "level", 5.0),
                (6, "water_added", 2.0),
                (12, "level", left),
                (12, "ec", ec),
            ];
            // A dose straight into the tray: 4 mL, as a litre of the solution holds.
            let dosed = (6, "feed_added", 4.0);
            for (day, key, value) in list.into_iter().chain(fed.then_some(dosed)) {
                farm.call(
                    "POST",
                    &at("/records"),
                    record("reading", reading(day, key, value)),
                )
                .await;
            }
            let gross = if fed { 260.0 } else { 220.0 } + n as f64;
            let body = json!({
                "code": code, "gross_g": gross, "tare_g": 200.0, "version": 0, "confirmed": true,
            });
            farm.call("POST", &at("/records"), record("weighing", body))
                .await;
        }
    }
    let blind = farm.get(&at("/uptake")).await;
    for unit in blind["units"].as_array().expect("units") {
        assert!(
            unit["uptake"]["water_l"]
                .as_f64()
                .is_some_and(|w| (3.2..5.1).contains(&w)),
            "{unit}"
        );
        assert!(
            unit["uptake"]["feed_l"].is_null()
                && unit["treatment"].is_null()
                && unit["weight_g"].is_null(),
            "{unit}"
        );
    }
    farm.call("POST", &at("/reveal"), json!({ "reason": "tried out" }))
        .await;
    let open = farm.get(&at("/uptake")).await;
    let units = open["units"].as_array().expect("units");
    for unit in units {
        let (water, fed) = (
            unit["uptake"]["water_l"].as_f64().expect("water"),
            unit["treatment"] == 1,
        );
        let weight = unit["weight_g"].as_f64().expect("a weight");
        assert!((unit["g_per_l"].as_f64().expect("g/L") - weight / water).abs() < 1e-12);
        // At the full EC as much feed is left as the level says: of 9 litres' worth given the rest
        // is gone, 134.4 mg N in each.
        let gone = fed.then_some(9.0 - (10.0 - water));
        let untouched = unit["ec_untouched_ms_per_cm"].as_f64();
        assert_eq!(untouched.is_some(), fed, "{unit}");
        assert!(
            untouched.is_none_or(|ec| ec > full.as_f64().expect("EC")),
            "9 litres' worth in less water: {unit}"
        );
        assert!(
            unit["uptake"]["feed_l"]
                .as_f64()
                .zip(gone)
                .is_none_or(|(f, g)| (f - g).abs() < 1e-6),
            "{unit}"
        );
        assert_eq!(unit["uptake"]["feed_l"].is_number(), fed, "{unit}");
        let nitrogen = unit["nitrogen_mg"].as_f64();
        assert!(
            nitrogen
                .zip(gone)
                .is_none_or(|(n, g)| (n - 134.4 * g).abs() < 0.01),
            "{unit}"
        );
    }
    assert!(
        units
            .windows(2)
            .all(|w| w[0]["treatment"].as_u64() <= w[1]["treatment"].as_u64()),
        "by treatment"
    );
    // Judged like any other measure, from the same figures.
    let judge = farm.get(&at("/judge?measure=water_used")).await;
    let mean = |t: u64| {
        let own = units
            .iter()
            .filter(|u| u["treatment"] == t)
            .map(|u| u["uptake"]["water_l"].as_f64().expect("L"));
        own.clone().sum::<f64>() / own.count() as f64
    };
    let estimate = judge["analysis"]["contrasts"][0]["estimate"]
        .as_f64()
        .unwrap_or_else(|| panic!("{judge}"));
    assert!((estimate - (mean(1) - mean(0))).abs() < 1e-9, "{estimate}");
    let csv = farm.get(&at("/export.csv")).await;
    let head = csv
        .as_str()
        .expect("text")
        .lines()
        .next()
        .expect("a line")
        .to_owned();
    assert!(
        head.contains("water_used_L") && head.contains("harvest_per_litre_g_per_L"),
        "{head}"
    );
}

/// The pH to which a trial's water is brought is kept with its feed, counted in every tank, and
/// refused at its number.
#[tokio::test]
async fn water_is_brought_to_a_ph_in_every_tank() {
    let farm = Farm::new();
    let id = farm.new_trial("To pH 5.8").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    for treatment in 0..2 {
        set_cells(&farm, &id, treatment, &[("water", "tap water")]).await;
    }
    let trial = farm.get(&at("")).await;
    let feed = |percent: f64| {
        let mut feed = trial["feed"].clone();
        let bottle =
            json!({ "product": "phosphoric", "percent": percent, "density_kg_per_l": 1.2 });
        feed["ph"] = json!({ "bottle": bottle, "target_ph": 5.8 });
        json!({ "feed": feed, "version": trial["version"] })
    };
    let (status, said) = farm.text("PUT", &at("/feed"), feed(140.0)).await;
    assert!(
        status == 422 && said.contains("strength, per cent must lie between"),
        "{status} {said}"
    );
    let phosphorus = |bench: &Value, t: usize| {
        bench["treatments"][t]["tank"]["solution"]["mg_per_l"]["P"]
            .as_f64()
            .expect("P")
    };
    let before = farm.get(&at("/mix")).await;
    let kept = farm.call("PUT", &at("/feed"), feed(30.0)).await;
    assert_eq!(kept["feed"]["ph"]["target_ph"], 5.8);
    let after = farm.get(&at("/mix")).await;
    let body =
        json!({ "water": "tap water", "bottle": kept["feed"]["ph"]["bottle"], "target_ph": 5.8 });
    let dose = farm.call("POST", "/ph-dose", body).await;
    for t in 0..2 {
        let gained = phosphorus(&after, t) - phosphorus(&before, t);
        assert!(
            (gained - dose["element_mg_per_l"].as_f64().expect("P")).abs() < 0.01,
            "{gained} {dose}"
        );
        let to_ph = &after["treatments"][t]["tank"]["to_ph"];
        assert_eq!(
            (to_ph["name"].as_str(), &to_ph["ml_per_l"]),
            (Some("phosphoric acid"), &dose["ml_per_l"])
        );
    }
    let mut without = kept["feed"].clone();
    without.as_object_mut().expect("a feed").remove("ph");
    farm.call(
        "PUT",
        &at("/feed"),
        json!({ "feed": without, "version": kept["version"] }),
    )
    .await;
    assert_eq!(
        phosphorus(&farm.get(&at("/mix")).await, 1),
        phosphorus(&before, 1),
        "taken out again"
    );
}
