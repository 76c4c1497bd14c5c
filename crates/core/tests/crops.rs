//! Whether crops agree, read as a trial writes it: a plan of analysis and a table.

use iron_twin_core::verdict::analysis_plan::AnalysisPlan;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::crops::agreement;
use iron_twin_judge::question::Question;
use iron_twin_judge::table::read;

fn said(gain_of_rocket: f64) -> String {
    let mut csv = String::from("unit,treatment,crop,g\n");
    for unit in 0..8usize {
        let feed = unit % 2 == 1;
        for (n, (crop, gain)) in [("basil", 20.0), ("rocket", gain_of_rocket)]
            .into_iter()
            .enumerate()
        {
            let g = 60.0
                + 5.0 * n as f64
                + if feed { gain } else { 0.0 }
                + ((unit * 7 + n * 3) % 5) as f64 * 0.5;
            csv += &format!(
                "{unit},{},{crop},{g}\n",
                if feed { "feed" } else { "water" }
            );
        }
    }
    let plan = r#"{ "format": "iron-twin/plan/1", "design": { "kind": "split_plot", "fixture": "unit", "factors": [
        { "column": "treatment", "reference": "water" }, { "column": "crop", "reference": "basil" } ] },
        "measures": [ { "column": "g", "margin": "10%" } ] }"#;
    let plan = AnalysisPlan::read(plan).unwrap();
    let table = read(csv.as_bytes(), &plan.columns(0)).unwrap();
    let analysis = analyse(&table, &Question { ..plan.question(0) }).unwrap();
    agreement(&analysis.factors.unwrap(), "treatment", "g")
}

#[test]
fn crops_that_part_are_told_apart_and_others_taken_together() {
    let parted = said(1.0);
    assert!(
        parted.starts_with("The crops do not agree; feed against water: basil +"),
        "{parted}"
    );
    assert!(parted.contains("rocket +"), "{parted}");
    let alike = said(20.0);
    assert!(
        alike.starts_with("No sign that the crops disagree")
            && alike.contains("over all crops feed"),
        "{alike}"
    );
    assert!(alike.contains("very likely between +"), "{alike}");
}
