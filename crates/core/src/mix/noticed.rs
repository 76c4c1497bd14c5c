//! What a solution is noticed for: what it lacks, has too much of, or cannot keep dissolved.

use iron_twin_chemistry::ions::Ions;
use iron_twin_chemistry::nutrients::{Nutrient, Nutrients};
use iron_twin_chemistry::solids::{calcium_phosphate, gypsum};
use iron_twin_terms::severity::Severity;
use iron_twin_terms::severity::Warning;

/// Below this, mg/L of calcium or magnesium, a fed solution is said to lack it. Common practice, no
/// source.
const LITTLE_CALCIUM: f64 = 20.0;
const LITTLE_MAGNESIUM: f64 = 5.0;
/// pH at which most crops are fed. Common practice, no source.
const USUAL_PH: f64 = 6.0;
/// Above this share of the nitrogen ammonium is said to be much. Common practice, no source.
const MUCH_AMMONIUM: f64 = 0.25;
/// Above this share of all nitrogen, urea is said. Common practice, no source.
const MUCH_UREA: f64 = 0.2;
/// Above this, mg/L, sodium or chloride is said. Common practice, no source.
const MUCH_SALT: f64 = 150.0;
/// Below this, mg/L of nitrogen, a feed is said to be too weak to show anything. Common practice,
/// no source.
pub const STARVED_N: f64 = 20.0;

/// What to know about a solution: what it lacks, has too much of, or drops. `fed` where something
/// was put into the water.
pub(super) fn noticed(
    nutrients: &Nutrients,
    ions: &Ions,
    fed: bool,
    unknown_form: &[String],
) -> Vec<Warning> {
    let mut list = Vec::new();
    let mut warn = |code, severity, message: String| {
        list.push(Warning {
            code,
            severity,
            message,
        })
    };
    for name in unknown_form {
        let message = format!(
            "The label of {name} does not say in which form its nitrogen comes; it is counted as \
             nitrate."
        );
        warn("nitrogen_form_unknown", Severity::Minor, message);
    }
    if fed {
        lacks(nutrients, &mut warn);
    }
    forms(nutrients, &mut warn);
    let salts = [
        (Nutrient::Na, "much_sodium", "sodium"),
        (Nutrient::Cl, "much_chloride", "chloride"),
    ];
    for (nutrient, code, name) in salts {
        let got = nutrients.get(nutrient);
        if got > MUCH_SALT {
            let message = format!(
                "{got:.0} mg/L of {name}: sensitive crops suffer above about {MUCH_SALT:.0}."
            );
            warn(code, Severity::Minor, message);
        }
    }
    list.extend(fed.then(|| falls_out(ions)).flatten());
    list
}

/// Nitrogen in a form that roots without soil, or the pH, do not take well.
fn forms(nutrients: &Nutrients, warn: &mut impl FnMut(&'static str, Severity, String)) {
    let n = nutrients.nitrogen();
    let urea = nutrients.get(Nutrient::NUrea);
    if n > 0.0 && urea > MUCH_UREA * n {
        let percent = 100.0 * urea / n;
        warn(
            "much_urea",
            Severity::Minor,
            format!(
                "{percent:.0} % of the nitrogen is urea, which roots without soil use slowly and \
                 meters do not see."
            ),
        );
    }
    let ammonium = nutrients.get(Nutrient::NAmmonium);
    if n > STARVED_N && ammonium > MUCH_AMMONIUM * n {
        let percent = 100.0 * ammonium / n;
        warn(
            "much_ammonium",
            Severity::Minor,
            format!(
                "{percent:.0} % of the nitrogen is ammonium: above about {:.0} % it harms many \
                 crops in warm water and pulls the pH down.",
                100.0 * MUCH_AMMONIUM
            ),
        );
    }
}

/// What a feed has too little of.
fn lacks(nutrients: &Nutrients, warn: &mut impl FnMut(&'static str, Severity, String)) {
    let n = nutrients.nitrogen();
    let (calcium, magnesium) = (nutrients.get(Nutrient::Ca), nutrients.get(Nutrient::Mg));
    if calcium < LITTLE_CALCIUM {
        warn(
            "no_calcium",
            Severity::Serious,
            format!(
                "Only {calcium:.1} mg/L of calcium, from feed and water together: leaves may \
                     burn at the tips whatever else is tried."
            ),
        );
    }
    if magnesium < LITTLE_MAGNESIUM {
        warn(
            "no_magnesium",
            Severity::Serious,
            format!("Only {magnesium:.1} mg/L of magnesium, from feed and water together."),
        );
    }
    if n < STARVED_N {
        warn(
            "starved",
            Severity::Serious,
            format!(
                "Only {n:.1} mg/L of nitrogen: so weak a solution can limit every plant, \
                     whatever else differs."
            ),
        );
    }
}

/// What falls out of the solution itself, before anybody makes a concentrate of it.
fn falls_out(ions: &Ions) -> Option<Warning> {
    let of_ph = calcium_phosphate(ions, USUAL_PH);
    let message = if gypsum(ions) > 1.0 {
        "More calcium and sulfate than stay dissolved: gypsum falls out as a white sediment."
            .to_owned()
    } else if of_ph > 1.0 {
        format!(
            "More calcium and phosphate than stay dissolved at pH {USUAL_PH}: a white haze, and \
             phosphorus that plants miss."
        )
    } else {
        return None;
    };
    Some(Warning {
        code: "falls_out",
        severity: Severity::Serious,
        message,
    })
}
