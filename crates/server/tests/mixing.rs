//! The solution bench: every treatment's tank by the labels in Stores, what it then holds, and a meter held against it.

mod farm;

use farm::Farm;
use serde_json::{Value, json};

async fn set_cells(farm: &Farm, id: &str, treatment: usize, cells: &[(&str, &str)]) -> Value {
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut sheet = trial["sheet"].clone();
    for (key, value) in cells {
        let row = sheet["conditions"].as_array().expect("rows").iter().position(|c| c == key).expect("a row");
        sheet["treatments"][treatment]["values"][row] = json!(value);
    }
    let put = json!({ "sheet": sheet, "version": trial["version"] });
    farm.call("PUT", &format!("/trials/{id}/match-sheet"), put).await
}

#[tokio::test]
async fn two_feeds_are_measured_out_each_by_its_own_label() {
    let farm = Farm::new();
    let id = farm.new_trial("Two feeds").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_cells(&farm, &id, 0, &[("feed", "grow feed"), ("dose", "0.5"), ("water", "tap water")]).await;
    set_cells(&farm, &id, 1, &[("feed", "powder without calcium"), ("dose", "1"), ("water", "tap water")]).await;
    let bench = farm.get(&at("/mix")).await;
    let out = |t: usize| bench["treatments"][t]["tank"]["measure_out"][0].clone();
    assert_eq!((out(0)["unit"].as_str(), out(0)["per_litre"].as_f64()), (Some("mL"), Some(2.0)));
    assert_eq!((out(1)["unit"].as_str(), out(1)["per_litre"].as_f64()), (Some("g"), Some(0.6)));
    let holds =
        |t: usize, e: &str| bench["treatments"][t]["tank"]["solution"]["mg_per_l"][e].as_f64().expect("a figure");
    // 2 mL of 1.12 kg/L with 3 % N are 67.2 mg/L; the tap brings 10 mg/L of nitrate, 2.26 as nitrogen.
    assert!((holds(0, "N") - 67.2 - 10.0 * 14.007 / 62.004).abs() < 0.01, "{}", holds(0, "N"));
    // The powder has no calcium: what is there is the tap's.
    assert!((holds(1, "Ca") - 64.0).abs() < 1e-6);
    // A feed that nobody knows goes by the dose typed at Mix, and what it holds stays open.
    set_cells(&farm, &id, 1, &[("feed", "neighbour's brew")]).await;
    let bench = farm.get(&at("/mix")).await;
    let tank = &bench["treatments"][1]["tank"];
    assert!(tank["solution"].is_null() && tank["unknown"][0] == "neighbour's brew", "{tank}");
    assert_eq!(
        (tank["measure_out"][0]["in_stores"].as_bool(), tank["measure_out"][0]["per_litre"].as_f64()),
        (Some(false), Some(4.0))
    );
}

#[tokio::test]
async fn a_meter_far_from_the_computed_ec_is_asked_about_once() {
    let farm = Farm::new();
    let id = farm.new_trial("Meter").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    set_cells(&farm, &id, 1, &[("feed", "grow feed"), ("dose", "1"), ("water", "tap water")]).await;
    let bench = farm.get(&at("/mix")).await;
    let computed = bench["treatments"][1]["tank"]["solution"]["conductivity_ms_per_cm"]["at_25c"].as_f64().expect("EC");
    let mix = |ec: f64, confirmed: bool| json!({ "treatment": 1, "volume_l": 2.2, "feed_total": 8.8, "ec_ms_per_cm": ec, "ph": 6.0, "confirmed": confirmed });
    farm.call("POST", &at("/mixes"), mix(computed * 1.05, false)).await;
    let (status, said) = farm.text("POST", &at("/mixes"), mix(computed * 0.7, false)).await;
    assert!(status == 422 && said.contains("30 % below") && said.contains("unlikely"), "{status} {said}");
    farm.call("POST", &at("/mixes"), mix(computed * 0.7, true)).await;
    let recorded = farm.get(&at("/mix")).await["treatments"][1]["recorded"].as_array().expect("mixes").len();
    assert_eq!(recorded, 2, "asked about, not lost");
}

#[tokio::test]
async fn a_bottle_of_acid_is_dosed_for_a_water_of_stores() {
    let farm = Farm::new();
    let ask = |water: &str, product: &str, target: f64| {
        let bottle = json!({ "product": product, "percent": 38.0, "density_kg_per_l": 1.23 });
        json!({ "water": water, "bottle": bottle, "target_ph": target })
    };
    let dose = farm.call("POST", "/ph-dose", ask("tap water", "nitric", 5.8)).await;
    let mmol = dose["mmol_per_l"].as_f64().expect("an amount");
    assert!((2.2..2.5).contains(&mmol), "{dose}");
    // 63.012 mg a mmol, 38 % of 1.23 kg/L.
    assert!((dose["ml_per_l"].as_f64().expect("mL") - mmol * 63.012 / (380.0 * 1.23)).abs() < 1e-9);
    assert_eq!(dose["element"], "N_NO3");
    assert!(dose["warnings"][0].as_str().expect("words").contains("never water into it"));
    for (body, status, part) in [
        (ask("moon water", "nitric", 5.8), 404, "moon water"),
        (ask("tap water", "nitric", 8.2), 422, "takes a base"),
        (ask("tap water", "nitric", 2.0), 422, "target pH"),
    ] {
        let (got, said) = farm.text("POST", "/ph-dose", body).await;
        assert!(got == status && said.contains(part), "{got} {said}");
    }
}
