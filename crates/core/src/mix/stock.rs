//! Stock concentrates: which salts go into tank A and which into tank B, whether they stay
//! dissolved there, and how much of each goes into a litre.
//!
//! Calcium falls out with sulfate (gypsum) and phosphate, so all that brings calcium stands in A
//! and all that brings sulfate or phosphate in B; the rest goes where there is most room. Room is
//! judged by ion products: potassium nitrate and magnesium sulfate in one tank can drop potassium
//! sulfate, of which nobody put in a grain.

use super::ingredient::{Ingredient, RecipeError, Slip};
use super::recipe::Recipe;
use crate::stores::keys;
use iron_twin_chemistry::formula::Formula;
use iron_twin_chemistry::ions::{Ion, Ions};
use iron_twin_chemistry::label::Brings;
use iron_twin_chemistry::solids::{calcium_phosphate, gypsum, share_of_saturation};
use iron_twin_chemistry::water::SourceWater;
use iron_twin_terms::severity::Severity;
use iron_twin_terms::severity::Warning;
use serde::Serialize;

/// One salt or feed in a concentrate.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StockPart {
    /// Its place in the recipe, from 0.
    pub index: usize,
    /// What it is.
    pub name: String,
    /// g in a litre of concentrate.
    pub g_per_l: f64,
    /// mL in a litre of concentrate, for liquids.
    pub ml_per_l: Option<f64>,
}

/// A tank of concentrate.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct StockTank {
    /// `A` or `B`.
    pub letter: char,
    /// What goes in, in the order in which it is dissolved.
    pub parts: Vec<StockPart>,
    /// How near it is to dropping the salt that falls out first: 1 is saturated, at 20 °C.
    pub fullness: f64,
    /// That salt; null for liquids, where it is the room in the tank, and for labels alone.
    pub nearest: Option<String>,
}

/// Concentrates of a recipe.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Stock {
    /// How many times as strong as the solution.
    pub times: f64,
    /// mL of each tank's concentrate in a litre of solution.
    pub ml_per_l: f64,
    /// Tanks: A with calcium, B with sulfate and phosphate; one where they do not meet.
    pub tanks: Vec<StockTank>,
    /// The strongest that stays below four fifths of saturation in every tank.
    pub times_most: f64,
    /// Feeds that hold calcium and phosphate or sulfate already: used as bought.
    pub as_bought: Vec<String>,
    /// What to know.
    pub warnings: Vec<Warning>,
}

/// Weakest and strongest concentrate that is worked out, times the solution.
pub const TIMES: (f64, f64) = (2.0, 1000.0);
/// Above this share of saturation a concentrate can drop salt in a cold room. Common practice, no
/// source.
pub const NEAR: f64 = 0.8;
/// pH of a concentrate with potassium dihydrogen phosphate. Common practice, no source.
const STOCK_PH: f64 = 5.0;
/// Most salts whose tank is found by trying every way; beyond it they go one by one where there is
/// room.
const MOST_TRIED: usize = 10;

/// An ingredient with what it brings at its dose.
struct Dosed<'a> {
    index: usize,
    name: String,
    ingredient: &'a Ingredient,
    g_per_l: f64,
    ml_per_l: Option<f64>,
    ions: Ions,
}

#[derive(PartialEq)]
enum Side {
    A,
    B,
    Either,
    AsBought,
}

impl Dosed<'_> {
    fn has(&self, ions: &[Ion]) -> bool {
        ions.iter().any(|&ion| self.ions.get(ion) > 0.0)
    }

    fn is_chelate(&self) -> bool {
        self.ingredient
            .formula
            .as_ref()
            .is_some_and(|f| f.contains("Fe") && f.contains('C'))
    }

    fn side(&self) -> Side {
        let falls_out_with_calcium = self.has(&[Ion::SO4, Ion::H2PO4, Ion::HPO4, Ion::CO3]);
        match (self.has(&[Ion::Ca]), falls_out_with_calcium) {
            (true, true) => Side::AsBought,
            (true, false) => Side::A,
            (false, true) => Side::B,
            // Acids stay away from the chelate, which they would break.
            (false, false) if self.has(&[Ion::H]) => Side::B,
            (false, false) if self.is_chelate() => Side::A,
            (false, false) => Side::Either,
        }
    }

    /// Acids into the water first, chelates last.
    fn turn(&self) -> u8 {
        if self.has(&[Ion::H]) {
            0
        } else {
            1 + u8::from(self.is_chelate())
        }
    }
}

/// A salt that may fall out, with its solubility.
struct Known {
    name: String,
    ions: Ions,
    molar_mass: f64,
    g_per_l: f64,
}

/// Salts of which it is known how much dissolves: the generic ones, and those of the recipe.
fn known(parts: &[Dosed<'_>]) -> Vec<Known> {
    let read = |name: &str, formula: &str, g_per_l: f64| {
        let formula: Formula = formula.parse().ok()?;
        let mut ions = Ions::default();
        ions.add_scaled(&formula.ions(), 1.0);
        Some(Known {
            name: name.to_owned(),
            ions,
            molar_mass: formula.molar_mass(),
            g_per_l,
        })
    };
    let own = parts.iter().filter_map(|p| {
        read(
            &p.name,
            p.ingredient.formula.as_deref()?,
            p.ingredient.solubility_g_per_l?,
        )
    });
    let mut list: Vec<Known> = own.collect();
    for item in crate::stores::generic()
        .iter()
        .filter(|i| i.shelf == "salts")
    {
        let (Some(formula), Some(g_per_l)) = (
            item.words(keys::FORMULA),
            item.number(keys::SOLUBILITY_G_PER_L),
        ) else {
            continue;
        };
        let Some(generic) = read(&item.name, formula, g_per_l) else {
            continue;
        };
        if !list
            .iter()
            .any(|k| k.ions == generic.ions && (k.molar_mass - generic.molar_mass).abs() < 1e-6)
        {
            list.push(generic);
        }
    }
    list
}

/// How full a tank is with these parts at so many times their dose, and the salt that falls out
/// first.
fn fullness(parts: &[&Dosed<'_>], known: &[Known], times: f64) -> (f64, Option<String>) {
    let mut ions = Ions::default();
    parts.iter().for_each(|p| ions.add_scaled(&p.ions, times));
    let by_salt = known.iter().filter_map(|k| {
        let share = share_of_saturation(&ions, &k.ions, k.molar_mass, k.g_per_l)?;
        Some((share, Some(k.name.clone())))
    });
    // What leaves no ions (urea, boric acid, chelates) by its grams; liquids by the room they take.
    let by_grams = parts
        .iter()
        .filter(|p| p.ions.present().next().is_none())
        .filter_map(|p| {
            Some((
                times * p.g_per_l / p.ingredient.solubility_g_per_l?,
                Some(p.name.clone()),
            ))
        });
    let room = parts.iter().filter_map(|p| p.ml_per_l).sum::<f64>() * times / 1000.0;
    by_salt.chain(by_grams).fold(
        (room, None),
        |most, next| if next.0 > most.0 { next } else { most },
    )
}

fn dosed(recipe: &Recipe) -> Result<Vec<Dosed<'_>>, RecipeError> {
    let solution = recipe.solution()?;
    let brings: Vec<Brings> = recipe.brings()?;
    Ok(recipe
        .ingredients
        .iter()
        .zip(solution.portions)
        .zip(brings)
        .enumerate()
        .filter(|(_, ((_, portion), _))| portion.g_per_l > 0.0)
        .map(|(index, ((ingredient, portion), brings))| {
            let mut ions = Ions::default();
            ions.add_scaled(&brings.mmol_per_g, portion.g_per_l);
            let ml_per_l = portion
                .ml
                .filter(|_| ingredient.label.is_some())
                .map(|ml| ml / recipe.volume_l);
            Dosed {
                index,
                name: portion.name,
                ingredient,
                g_per_l: portion.g_per_l,
                ml_per_l,
                ions,
            }
        })
        .collect())
}

/// Puts the parts that fit either tank where the fuller of the two stays emptiest.
fn shared_out<'a, 'b>(
    fixed: [Vec<&'b Dosed<'a>>; 2],
    free: Vec<&'b Dosed<'a>>,
    known: &[Known],
) -> [Vec<&'b Dosed<'a>>; 2] {
    let place = |choice: usize| {
        let mut tanks = fixed.clone();
        free.iter()
            .enumerate()
            .for_each(|(i, part)| tanks[choice >> i & 1].push(part));
        tanks
    };
    let fuller = |tanks: &[Vec<&Dosed<'_>>; 2]| {
        let each = tanks.each_ref().map(|t| fullness(t, known, 1.0).0);
        (each[0].max(each[1]), each[0] + each[1])
    };
    if free.len() <= MOST_TRIED {
        let choices = (0..1usize << free.len()).map(|choice| (fuller(&place(choice)), choice));
        let best = choices.min_by(|a, b| a.0.0.total_cmp(&b.0.0).then(a.0.1.total_cmp(&b.0.1)));
        return place(best.map_or(0, |(_, choice)| choice));
    }
    let mut tanks = fixed;
    for part in free {
        let with = [0, 1].map(|t| {
            let mut tank = tanks[t].clone();
            tank.push(part);
            fullness(&tank, known, 1.0).0
        });
        tanks[usize::from(with[1] < with[0])].push(part);
    }
    tanks
}

/// Concentrates of a recipe, `times` as strong as its solution; its water is what they are
/// dissolved in.
///
/// # Errors
/// [`RecipeError`], naming ingredient and field.
///
/// ```
/// use iron_twin_core::mix::{recipe::Recipe, stock::stock};
/// let recipe: Recipe = serde_json::from_str(r#"{"volume_l": 100, "ingredients": [
///     {"formula": "Ca(NO3)2·4H2O", "g_per_l": 0.94}, {"formula": "MgSO4·7H2O", "g_per_l": 0.4}]}"#).unwrap();
/// let stock = stock(&recipe, 100.0)?;
/// assert_eq!(stock.tanks.iter().map(|t| t.letter).collect::<String>(), "AB");
/// assert_eq!(stock.ml_per_l, 10.0);
/// # Ok::<(), iron_twin_core::mix::ingredient::RecipeError>(())
/// ```
pub fn stock(recipe: &Recipe, times: f64) -> Result<Stock, RecipeError> {
    if !(TIMES.0..=TIMES.1).contains(&times) {
        let slip = Slip::Range {
            least: TIMES.0,
            most: TIMES.1,
            got: times,
        };
        return Err(RecipeError {
            ingredient: None,
            index: None,
            field: "stock_times".into(),
            slip,
        });
    }
    let parts = dosed(recipe)?;
    let known = known(&parts);
    let of = |side: Side| {
        parts
            .iter()
            .filter(|p| p.side() == side)
            .collect::<Vec<_>>()
    };
    let (a, b, free) = (of(Side::A), of(Side::B), of(Side::Either));
    let one_tank = a.is_empty() || b.is_empty();
    let tanks = if one_tank {
        [a.into_iter().chain(b).chain(free).collect(), Vec::new()]
    } else {
        shared_out([a, b], free, &known)
    };
    let as_bought = of(Side::AsBought).iter().map(|p| p.name.clone()).collect();
    let filled: Vec<(char, &Vec<&Dosed<'_>>)> = ['A', 'B']
        .into_iter()
        .zip(&tanks)
        .filter(|(_, t)| !t.is_empty())
        .collect();
    let most = filled
        .iter()
        .map(|(_, t)| fullness(t, &known, 1.0).0)
        .fold(0.0, f64::max);
    let mut stock = Stock {
        times,
        ml_per_l: 1000.0 / times,
        tanks: filled
            .iter()
            .map(|(letter, parts)| tank(*letter, parts, &known, times))
            .collect(),
        times_most: if most > 0.0 {
            (NEAR / most).min(TIMES.1)
        } else {
            TIMES.1
        },
        as_bought,
        warnings: Vec::new(),
    };
    stock.warnings = warnings(&stock, &filled, recipe.water.as_ref());
    Ok(stock)
}

fn tank(letter: char, parts: &[&Dosed<'_>], known: &[Known], times: f64) -> StockTank {
    let (fullness, nearest) = fullness(parts, known, times);
    let mut order: Vec<&&Dosed<'_>> = parts.iter().collect();
    order.sort_by(|x, y| {
        x.turn()
            .cmp(&y.turn())
            .then(y.g_per_l.total_cmp(&x.g_per_l))
    });
    let parts = order
        .into_iter()
        .map(|p| StockPart {
            index: p.index,
            name: p.name.clone(),
            g_per_l: times * p.g_per_l,
            ml_per_l: p.ml_per_l.map(|ml| times * ml),
        })
        .collect();
    StockTank {
        letter,
        parts,
        fullness,
        nearest,
    }
}

fn warnings(
    stock: &Stock,
    filled: &[(char, &Vec<&Dosed<'_>>)],
    water: Option<&SourceWater>,
) -> Vec<Warning> {
    let mut list = Vec::new();
    let mut warn = |code, severity, message| {
        list.push(Warning {
            code,
            severity,
            message,
        })
    };
    for tank in &stock.tanks {
        let what = tank.nearest.clone();
        let percent = 100.0 * tank.fullness;
        let letter = tank.letter;
        match what {
            Some(what) if tank.fullness > 1.0 => warn(
                "will_not_dissolve",
                Severity::Serious,
                format!(
                    "Tank {letter} comes to {percent:.0} % of what stays dissolved: {what} falls \
                     out. {}",
                    at_most(stock)
                ),
            ),
            None if tank.fullness > 1.0 => warn(
                "no_room",
                Severity::Serious,
                format!(
                    "The liquids of tank {letter} alone fill {percent:.0} % of it. {}",
                    at_most(stock)
                ),
            ),
            Some(what) if tank.fullness > NEAR => warn(
                "near_saturation",
                Severity::Minor,
                format!(
                    "Tank {letter} is at {percent:.0} % of saturation: {what} can fall out in a \
                     cold room."
                ),
            ),
            _ => {}
        }
    }
    for name in &stock.as_bought {
        let message = format!(
            "{name} holds calcium together with sulfate or phosphate: stronger than as bought it \
             would fall out. Dose it by itself."
        );
        warn("calcium_with_phosphate", Severity::Serious, message);
    }
    hard_water(filled, water, stock.times, &mut warn);
    list
}

/// Calcium of the water that falls out in a concentrate.
fn hard_water(
    filled: &[(char, &Vec<&Dosed<'_>>)],
    water: Option<&SourceWater>,
    times: f64,
    warn: &mut impl FnMut(&'static str, Severity, String),
) {
    if let Some((_, water)) = water.and_then(|w| w.content().ok()) {
        for (letter, parts) in filled {
            let mut ions = water;
            parts.iter().for_each(|p| ions.add_scaled(&p.ions, times));
            let falls = [
                ("gypsum", gypsum(&ions)),
                ("calcium phosphate", calcium_phosphate(&ions, STOCK_PH)),
            ];
            let Some((solid, _)) = falls.into_iter().find(|(_, product)| *product > 1.0) else {
                continue;
            };
            if parts.iter().all(|p| p.ions.get(Ion::Ca) == 0.0) {
                let message = format!(
                    "The calcium of this water falls out as {solid} in tank {letter}: make it \
                     with rain or reverse osmosis water."
                );
                warn("hard_water_in_stock", Severity::Minor, message);
            }
        }
    }
}

fn at_most(stock: &Stock) -> String {
    if stock.times_most >= TIMES.0 {
        format!(
            "Make it at most {:.0} times as strong.",
            stock.times_most.floor()
        )
    } else {
        "It cannot be made stronger than the solution itself.".into()
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use iron_twin_chemistry::label::Label;

    fn salt(formula: &str, g_per_l: f64) -> Ingredient {
        Ingredient {
            formula: Some(formula.into()),
            g_per_l: Some(g_per_l),
            ..Ingredient::default()
        }
    }

    fn recipe(ingredients: Vec<Ingredient>) -> Recipe {
        Recipe {
            volume_l: 100.0,
            ingredients,
            ..Recipe::default()
        }
    }

    /// Hoagland and Arnon 1950, solution 1: 5, 5, 2 and 1 mmol/L, with iron chelate.
    fn hoagland() -> Recipe {
        recipe(vec![
            salt("Ca(NO3)2·4H2O", 1.1808),
            salt("KNO3", 0.5055),
            salt("MgSO4·7H2O", 0.4930),
            salt("KH2PO4", 0.1361),
            salt("C10H12FeN2NaO8", 0.02),
        ])
    }

    #[test]
    fn calcium_never_stands_with_sulfate_or_phosphate() {
        let stock = stock(&hoagland(), 100.0).unwrap();
        let names = |t: usize| {
            stock.tanks[t]
                .parts
                .iter()
                .map(|p| p.name.as_str())
                .collect::<Vec<_>>()
        };
        assert!(names(0).contains(&"Ca(NO3)2·4H2O") && names(0).contains(&"C10H12FeN2NaO8"));
        assert!(names(1).contains(&"MgSO4·7H2O") && names(1).contains(&"KH2PO4"));
        assert!((stock.tanks[0].parts[0].g_per_l - 118.08).abs() < 1e-9);
        assert_eq!(names(0).last(), Some(&"C10H12FeN2NaO8"), "chelate last");
        assert!(stock.warnings.is_empty(), "{:?}", stock.warnings);
    }

    #[test]
    fn mass_is_the_same_in_concentrate_and_solution() {
        let stock = stock(&hoagland(), 200.0).unwrap();
        let mut given: Vec<f64> = vec![0.0; 5];
        for part in stock.tanks.iter().flat_map(|t| &t.parts) {
            given[part.index] += part.g_per_l * stock.ml_per_l / 1000.0;
        }
        for (given, ingredient) in given.iter().zip(&hoagland().ingredients) {
            assert!((given - ingredient.g_per_l.unwrap()).abs() < 1e-12);
        }
    }

    #[test]
    fn what_does_not_dissolve_is_said_with_the_strongest_that_does() {
        let strong = stock(&hoagland(), 900.0).unwrap();
        assert_eq!(strong.warnings[0].code, "will_not_dissolve");
        let most = strong.times_most.floor();
        assert!(
            strong.warnings[0]
                .message
                .contains(&format!("at most {most:.0} times")),
            "{:?}",
            strong.warnings
        );
        let at_most = stock(&hoagland(), most).unwrap();
        assert!(at_most.warnings.is_empty() && at_most.tanks.iter().all(|t| t.fullness <= NEAR));
        // Potassium sulfate, 111 g/L, is the one that limits concentrates.
        let sulfate = stock(&recipe(vec![salt("K2SO4", 0.6)]), 200.0).unwrap();
        assert_eq!(
            (sulfate.tanks.len(), sulfate.warnings[0].code),
            (1, "will_not_dissolve")
        );
    }

    #[test]
    fn hard_water_and_complete_feeds_are_noticed() {
        let water = SourceWater {
            mg_per_l: [("Ca".to_owned(), 250.0)].into(),
            ..SourceWater::default()
        };
        let hard = Recipe {
            water: Some(water),
            ..hoagland()
        };
        assert!(
            stock(&hard, 300.0)
                .unwrap()
                .warnings
                .iter()
                .any(|w| w.code == "hard_water_in_stock")
        );
        let label = Label {
            name: "all in one".into(),
            n: 3.0,
            ca: 2.0,
            p2o5: 1.0,
            density_kg_per_l: Some(1.1),
            ..Label::default()
        };
        let complete = Ingredient {
            label: Some(label),
            ml_per_l: Some(4.0),
            ..Ingredient::default()
        };
        let bought = stock(&recipe(vec![complete]), 50.0).unwrap();
        assert_eq!(
            (bought.as_bought, bought.tanks.len()),
            (vec!["all in one".to_owned()], 0)
        );
    }

    #[test]
    fn liquids_take_room() {
        let label = Label {
            name: "part".into(),
            k2o: 6.0,
            p2o5: 2.0,
            density_kg_per_l: Some(1.1),
            ..Label::default()
        };
        let part = Ingredient {
            label: Some(label),
            ml_per_l: Some(2.0),
            ..Ingredient::default()
        };
        let made = stock(&recipe(vec![part]), 600.0).unwrap();
        assert!((made.tanks[0].fullness - 1.2).abs() < 1e-9);
        assert_eq!(made.warnings[0].code, "no_room");
    }

    #[test]
    fn nonsense_is_refused_by_name() {
        for times in [0.0, 1.0, f64::NAN, 1e9] {
            let said = stock(&hoagland(), times).unwrap_err().to_string();
            assert!(
                said.starts_with("stock_times: must lie between 2 and 1000"),
                "{said}"
            );
        }
        assert!(stock(&recipe(vec![]), 100.0).unwrap().tanks.is_empty());
    }
}
