//! What must hold for any mix: mass is kept, thinning scales, order does not matter, salts are
//! neutral, a concentrate made and dosed is the solution again, and nothing that can be typed makes
//! the bench fall over.

use iron_twin_core::mix::bench::Bench;
use iron_twin_core::mix::ingredient::Ingredient;
use iron_twin_core::mix::recipe::{Recipe, Solution, read};
use iron_twin_core::mix::stock::stock;
use iron_twin_core::stores::keys;
use iron_twin_core::stores::lines::Line;
use iron_twin_core::stores::{Held, Item, Stores, generic};
use iron_twin_terms::quantity::FeedForm;
use proptest::prelude::*;

/// Every generic salt with a formula.
fn salts() -> Vec<(String, String)> {
    let formula = |i: &Item| Some((i.name.clone(), i.words(keys::FORMULA)?.to_owned()));
    generic()
        .iter()
        .filter(|i| i.shelf == "salts")
        .filter_map(formula)
        .collect()
}

fn recipe(doses: &[(usize, f64)]) -> Recipe {
    let salts = salts();
    let ingredient = |(i, g): &(usize, f64)| Ingredient {
        formula: Some(salts[i % salts.len()].1.clone()),
        g_per_l: Some(*g),
        ..Ingredient::default()
    };
    Recipe {
        ingredients: doses.iter().map(ingredient).collect(),
        ..Recipe::default()
    }
}

fn solution(doses: &[(usize, f64)]) -> Solution {
    recipe(doses).solution().expect("a sound recipe")
}

fn doses() -> impl Strategy<Value = Vec<(usize, f64)>> {
    prop::collection::vec((0usize..100, 0.001f64..2.0), 1..9)
}

/// What stays away from acids and bases, whose carbonate leaves as gas.
fn neutral_doses() -> impl Strategy<Value = Vec<(usize, f64)>> {
    let keep: Vec<usize> = salts()
        .iter()
        .enumerate()
        .filter(|(_, (name, _))| {
            !["acid", "hydroxide", "carbonate"]
                .iter()
                .any(|w| name.contains(w))
        })
        .map(|(i, _)| i)
        .collect();
    prop::collection::vec((prop::sample::select(keep), 0.001f64..2.0), 1..9)
}

#[test]
fn every_generic_salt_is_neutral_by_itself() {
    for (i, (name, _)) in salts().iter().enumerate() {
        let one = solution(&[(i, 0.5)]);
        assert!(
            one.charge_balance_percent.abs() < 1e-9,
            "{name}: {}",
            one.charge_balance_percent
        );
    }
}

proptest! {
    /// The mass of each element is the sum of what each salt brings alone.
    #[test]
    fn mass_is_kept(list in doses()) {
        let whole = solution(&list);
        for (element, mg) in &whole.mg_per_l {
            let sum: f64 = list.iter().map(|one| solution(&[*one]).mg_per_l.get(element).copied().unwrap_or(0.0)).sum();
            prop_assert!((sum - mg).abs() <= 1e-9 * mg.max(1.0), "{element}: {sum} {mg}");
        }
    }

    /// A tenth of every dose is a tenth of every element; it conducts less, but more than a tenth.
    #[test]
    fn thinning_scales(list in neutral_doses()) {
        let tenth: Vec<(usize, f64)> = list.iter().map(|(i, g)| (*i, g / 10.0)).collect();
        let (full, thin) = (solution(&list), solution(&tenth));
        for (element, mg) in &full.mg_per_l {
            prop_assert!((thin.mg_per_l[element] - mg / 10.0).abs() < 1e-9 * mg.max(1.0), "{element}");
        }
        let (full, thin) = (full.conductivity_ms_per_cm.at_25c, thin.conductivity_ms_per_cm.at_25c);
        prop_assert!(full == 0.0 || (thin < full && thin > full / 10.0 - 1e-12), "{thin} {full}");
    }

    /// Whatever the order, acids and bases among them: the same solution, and a neutral one.
    #[test]
    fn order_does_not_matter(list in doses(), turn in 0usize..9) {
        let mut turned = list.clone();
        turned.rotate_left(turn % list.len());
        turned.reverse();
        let (one, other) = (solution(&list), solution(&turned));
        prop_assert!((one.conductivity_ms_per_cm.at_25c - other.conductivity_ms_per_cm.at_25c).abs() < 1e-9);
        prop_assert!((one.osmotic_pressure_kpa - other.osmotic_pressure_kpa).abs() < 1e-6);
        prop_assert!(one.charge_balance_percent.abs() < 1e-6, "{}", one.charge_balance_percent);
    }

    /// Concentrates dosed as their labels say are the solution again; calcium meets neither sulfate
    /// nor phosphate in a tank.
    #[test]
    fn concentrates_come_back_as_the_solution(list in neutral_doses(), times in 2.0f64..500.0) {
        let recipe = recipe(&list);
        let made = stock(&recipe, times).expect("a sound recipe");
        let mut back = vec![0.0; list.len()];
        for tank in &made.tanks {
            for part in &tank.parts {
                back[part.index] += part.g_per_l * made.ml_per_l / 1000.0;
            }
            let names: Vec<&str> = tank.parts.iter().map(|p| p.name.as_str()).collect();
            let has = |what: &[&str]| names.iter().any(|n| what.iter().any(|w| n.contains(w)));
            prop_assert!(made.tanks.len() == 1 || !(has(&["Ca"]) && has(&["SO4", "PO4"])), "{names:?}");
        }
        for ((_, g), back) in list.iter().zip(&back) {
            prop_assert!((g - back).abs() < 1e-9, "{g} {back}");
        }
    }

    /// The strongest concentrate that is named stays below saturation, and twice that does not.
    #[test]
    fn the_strongest_concentrate_is_the_strongest(list in neutral_doses()) {
        let recipe = recipe(&list);
        let most = stock(&recipe, 2.0).expect("a sound recipe").times_most;
        prop_assume!((2.0..=250.0).contains(&most));
        let fullest = |times: f64| stock(&recipe, times).expect("sound").tanks.iter().map(|t| t.fullness).fold(0.0, f64::max);
        prop_assert!(fullest(most) <= 0.8 + 1e-6, "{most} {}", fullest(most));
        prop_assert!(fullest(4.0 * most) > 1.0);
    }

    /// The aim keeps its promises whatever is chosen: no dose below zero, every element told, a
    /// reason for every miss.
    #[test]
    fn any_aim_ends_with_doses_or_a_reason(
        picks in prop::collection::vec(0usize..100, 1..7), target in 0usize..5, water in 0usize..4,
    ) {
        let stores = Stores::with_own(Vec::new());
        let names = |shelf: &str| generic().into_iter().filter(|i| i.shelf == shelf).map(|i| i.name).collect::<Vec<_>>();
        let (salts, targets, waters) = (names("salts"), names("targets"), names("waters"));
        let line = |i: &usize| Line { per_l: 0.0, form: FeedForm::Powder, name: salts[i % salts.len()].clone() };
        let bench = Bench {
            lines: picks.iter().map(line).collect(),
            target: targets[target % targets.len()].clone(),
            water: waters[water % waters.len()].clone(),
            volume_l: 10.0,
            temperature_c: 20.0,
            stock_times: None,
        };
        match bench.aim(&stores) {
            Ok((lines, aim)) => {
                prop_assert!(lines.iter().all(|l| l.per_l >= 0.0 && l.per_l.is_finite()));
                for reached in &aim.reached {
                    let miss = (reached.reached_mg_per_l - reached.wanted_mg_per_l).abs();
                    prop_assert!(miss <= 0.05 * reached.wanted_mg_per_l + 0.05 || reached.why_missed.is_some(), "{reached:?}");
                }
                let filled = Bench { lines, ..bench }.view(&stores);
                prop_assert!(filled.is_ok(), "{filled:?}");
            }
            Err(error) => {
                let text = error.to_string();
                prop_assert!(text.split_whitespace().count() >= 4 && !text.contains("NaN"), "{text}");
            }
        }
    }

    /// Any figures at all give a solution or a message; none a panic.
    #[test]
    fn any_recipe_gives_an_answer_or_a_reason(
        formula in "[A-Z][a-z]?[0-9]?(\\([A-Z]{1,2}[0-9]?\\)[0-9]?)?(·[0-9]H2O)?", amount in prop::num::f64::ANY,
        volume in prop::num::f64::ANY, celsius in prop::num::f64::ANY, times in prop::num::f64::ANY, purity in prop::num::f64::ANY,
    ) {
        let ingredient = Ingredient {
            formula: Some(formula),
            g_per_l: Some(amount),
            purity_percent: Some(purity),
            ..Ingredient::default()
        };
        let recipe = Recipe { volume_l: volume, temperature_c: celsius, ingredients: vec![ingredient], ..Recipe::default() };
        if let Ok(solution) = recipe.solution() {
            prop_assert!(solution.mg_per_l.values().all(|mg| mg.is_finite()));
            prop_assert!(solution.conductivity_ms_per_cm.at_25c.is_finite());
        }
        let _ = stock(&recipe, times);
    }

    /// Any text at all is read as a recipe or refused.
    #[test]
    fn any_text_is_read_or_refused(text in ".{0,80}") {
        let _ = read(&text);
        let held = [("lines".to_owned(), Held::Words(text))].into();
        let item = Item { shelf: "recipes".into(), name: "any".into(), source: String::new(), held };
        let _ = item.check();
        let _ = Stores::with_own(vec![item]).parts("feeds", "any");
    }
}
