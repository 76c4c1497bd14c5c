//! Top-up: from the level and EC of a tank now to those wanted, how much water and how much feed;
//! and what the plants took since it was mixed.
//!
//! The feed is taken to be used up evenly, as EC alone cannot tell one nutrient from another: after
//! some top-ups a fresh solution is the only sure one.

use super::ingredient::RecipeError;
use super::recipe::Recipe;
use serde::{Deserialize, Serialize};

/// A tank now, and as it is wanted.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TankLevel {
    /// Solution left, L.
    pub now_l: f64,
    /// Its EC, mS/cm at 25 °C.
    pub now_ec_ms_per_cm: f64,
    /// Volume wanted, L.
    pub wanted_l: f64,
    /// EC wanted, mS/cm at 25 °C.
    pub wanted_ec_ms_per_cm: f64,
    /// Volume when it was mixed or last topped up, L, where what was used is to be known.
    #[serde(default)]
    pub start_l: Option<f64>,
}

/// What to add.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TopUp {
    /// To take out first, L: where the solution is too strong or too much.
    pub drain_l: f64,
    /// Water to add, L.
    pub water_l: f64,
    /// g of each ingredient of the recipe to add, in its order.
    pub add_g: Vec<f64>,
    /// Strength now, as a share of the recipe.
    pub share_now: f64,
    /// Strength wanted, as a share of the recipe.
    pub share_wanted: f64,
    /// Water that plants took and that evaporated, L; null without a volume at the start.
    pub water_used_l: Option<f64>,
    /// Share of the feed of a full-strength start that is gone, per cent; null without a volume at
    /// the start.
    pub feed_used_percent: Option<f64>,
}

/// Why there is no top-up.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum TopUpError {
    /// A number out of its range.
    #[error("{field} must lie between {least} and {most}, got {got}")]
    Range {
        /// Which.
        field: &'static str,
        /// Lowest.
        least: f64,
        /// Highest.
        most: f64,
        /// What came.
        got: f64,
    },
    /// Weaker than the water itself.
    #[error(
        "EC {wanted} lies below the {water:.2} mS/cm of the water alone, which no feed can lower"
    )]
    BelowWater {
        /// Wanted, mS/cm.
        wanted: f64,
        /// EC of the water, mS/cm.
        water: f64,
    },
    /// Stronger than the feed can make it.
    #[error(
        "EC {got} is more than {MOST_SHARE} times the recipe gives, {most:.2} mS/cm: measure \
         again, or choose the recipe that is in the tank"
    )]
    AboveFeed {
        /// Read or wanted, mS/cm.
        got: f64,
        /// Largest, mS/cm.
        most: f64,
    },
    /// A recipe that cannot be.
    #[error(transparent)]
    Recipe(#[from] RecipeError),
}

impl TopUpError {
    /// The field that is wrong.
    #[must_use]
    pub fn field(&self) -> &'static str {
        match self {
            Self::Range { field, .. } => field,
            Self::BelowWater { .. } => "wanted_ec_ms_per_cm",
            Self::AboveFeed { .. } => "ec_ms_per_cm",
            Self::Recipe(_) => "treatment",
        }
    }
}

/// Strongest that is reckoned with, as a multiple of the recipe.
const MOST_SHARE: f64 = 5.0;
/// Largest tank, L, and highest EC, mS/cm.
const MOST: (f64, f64) = (1e5, 20.0);
/// A meter may read the bare water a little low, mS/cm.
const SLACK_EC: f64 = 0.1;

impl TankLevel {
    fn check(&self) -> Result<(), TopUpError> {
        let fields = [
            ("now_l", self.now_l, 0.0, MOST.0),
            ("now_ec_ms_per_cm", self.now_ec_ms_per_cm, 0.0, MOST.1),
            ("wanted_l", self.wanted_l, 0.001, MOST.0),
            ("wanted_ec_ms_per_cm", self.wanted_ec_ms_per_cm, 0.0, MOST.1),
            ("start_l", self.start_l.unwrap_or(1.0), 0.001, MOST.0),
        ];
        for (field, got, least, most) in fields {
            if !(got >= least && got <= most) {
                return Err(TopUpError::Range {
                    field,
                    least,
                    most,
                    got,
                });
            }
        }
        Ok(())
    }
}

/// EC of the recipe at a share of its doses, mS/cm.
fn ec(recipe: &Recipe, grams: &[f64], share: f64) -> Result<f64, RecipeError> {
    let mut at = recipe.clone();
    for (ingredient, g) in at.ingredients.iter_mut().zip(grams) {
        *ingredient = super::aim::dosed(ingredient, g * share);
    }
    Ok(at.solution()?.conductivity_ms_per_cm.at_25c)
}

/// The share of the recipe at which the solution has this EC.
fn share(recipe: &Recipe, grams: &[f64], wanted: f64, slack: f64) -> Result<f64, TopUpError> {
    let (water, most) = (ec(recipe, grams, 0.0)?, ec(recipe, grams, MOST_SHARE)?);
    if wanted < water - slack {
        return Err(TopUpError::BelowWater { wanted, water });
    }
    if wanted > most {
        return Err(TopUpError::AboveFeed { got: wanted, most });
    }
    let (mut low, mut high) = (0.0, MOST_SHARE);
    // Fifty halvings of 5 are far below what a meter reads.
    for _ in 0..50 {
        let middle = 0.5 * (low + high);
        if ec(recipe, grams, middle)? < wanted {
            low = middle
        } else {
            high = middle
        }
    }
    Ok(0.5 * (low + high))
}

/// The strength of a tank that holds a recipe, from its EC, as a share of the recipe; 0 where a
/// meter reads no more than the bare water. None without any feed, or where no strength that is
/// reckoned with has such an EC.
#[must_use]
pub fn strength_at(recipe: &Recipe, ec_ms_per_cm: f64) -> Option<f64> {
    let grams: Vec<f64> = recipe
        .solution()
        .ok()?
        .portions
        .iter()
        .map(|p| p.g_per_l)
        .collect();
    if grams.iter().all(|g| *g <= 0.0) {
        return None;
    }
    share(recipe, &grams, ec_ms_per_cm, MOST.1).ok()
}

/// EC of a recipe at a share of its doses, mS/cm at 25 °C. None for a recipe that cannot be.
#[must_use]
pub fn ec_at(recipe: &Recipe, share: f64) -> Option<f64> {
    let grams: Vec<f64> = recipe
        .solution()
        .ok()?
        .portions
        .iter()
        .map(|p| p.g_per_l)
        .collect();
    ec(recipe, &grams, share).ok()
}

/// What takes a tank that holds a recipe from its level and EC now to those wanted.
///
/// # Errors
/// [`TopUpError`], naming the number.
pub fn top_up(recipe: &Recipe, level: &TankLevel) -> Result<TopUp, TopUpError> {
    level.check()?;
    let portions = recipe.solution()?.portions;
    let grams: Vec<f64> = portions.iter().map(|p| p.g_per_l).collect();
    // The meter may read the bare water low; a wish below it cannot be met.
    let now = share(recipe, &grams, level.now_ec_ms_per_cm, MOST.1)?;
    let wanted = share(recipe, &grams, level.wanted_ec_ms_per_cm, SLACK_EC)?;
    let room = (level.now_l - level.wanted_l).max(0.0);
    // Too strong even when filled up: some must go, so that what stays is just enough.
    let strong = if now * (level.now_l - room) > wanted * level.wanted_l {
        level.now_l - wanted * level.wanted_l / now
    } else {
        room
    };
    // What is poured takes room: a full tank that is too weak must give some up first.
    let pour = |share: f64| {
        let litres = portions
            .iter()
            .map(|p| p.g_per_l * p.ml.unwrap_or(0.0) / p.g.max(f64::MIN_POSITIVE))
            .sum::<f64>();
        share * litres / 1000.0
    };
    let holds = level.wanted_l * (1.0 - pour(wanted)) / (1.0 - pour(now)).max(f64::MIN_POSITIVE);
    let drain_l = strong.max(level.now_l - holds).clamp(0.0, level.now_l);
    let left = level.now_l - drain_l;
    let need = (wanted * level.wanted_l - now * left).max(0.0);
    let add_g: Vec<f64> = grams.iter().map(|g| g * need).collect();
    let liquid_l = pour(need);
    Ok(TopUp {
        drain_l,
        water_l: (level.wanted_l - left - liquid_l).max(0.0),
        add_g,
        share_now: now,
        share_wanted: wanted,
        water_used_l: level.start_l.map(|start| start - level.now_l),
        feed_used_percent: level
            .start_l
            .map(|start| 100.0 * (1.0 - now * level.now_l / start)),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::mix::ingredient::Ingredient;
    use iron_twin_chemistry::label::Label;
    use iron_twin_chemistry::water::SourceWater;
    use proptest::prelude::*;

    fn recipe() -> Recipe {
        let label = Label {
            name: "feed".into(),
            n: 3.0,
            n_nitrate: Some(2.7),
            n_ammonium: Some(0.3),
            p2o5: 1.2,
            k2o: 4.0,
            ca: 2.0,
            mg: 0.5,
            density_kg_per_l: Some(1.12),
            ..Label::default()
        };
        let feed = Ingredient {
            label: Some(label),
            ml_per_l: Some(4.0),
            ..Ingredient::default()
        };
        let water = SourceWater {
            mg_per_l: [("Ca".to_owned(), 30.0), ("Cl".to_owned(), 50.0)].into(),
            ..SourceWater::default()
        };
        Recipe {
            water: Some(water),
            ingredients: vec![feed],
            ..Recipe::default()
        }
    }

    fn full() -> f64 {
        recipe().solution().unwrap().conductivity_ms_per_cm.at_25c
    }

    fn level(now_l: f64, now: f64, wanted_l: f64, wanted: f64) -> TankLevel {
        TankLevel {
            now_l,
            now_ec_ms_per_cm: now,
            wanted_l,
            wanted_ec_ms_per_cm: wanted,
            start_l: Some(wanted_l),
        }
    }

    #[test]
    fn an_empty_tank_gets_the_recipe_and_a_full_one_nothing() {
        let fresh = top_up(&recipe(), &level(0.0, 0.0, 10.0, full())).unwrap();
        assert!((fresh.add_g[0] - 44.8).abs() < 1e-3, "{fresh:?}");
        assert!(
            (fresh.water_l - 9.96).abs() < 1e-3,
            "40 mL of feed take their room"
        );
        let done = top_up(&recipe(), &level(10.0, full(), 10.0, full())).unwrap();
        assert!(
            done.add_g[0] < 1e-6 && done.drain_l < 1e-6 && done.water_l < 1e-6,
            "{done:?}"
        );
        assert!(done.feed_used_percent.unwrap().abs() < 1e-3);
    }

    #[test]
    fn too_strong_is_thinned_and_drained_only_where_thinning_has_no_room() {
        let thin = top_up(&recipe(), &level(5.0, 1.2 * full(), 10.0, full())).unwrap();
        assert_eq!(thin.drain_l, 0.0);
        assert!(thin.water_l > 4.0 && thin.add_g[0] > 0.0);
        let drain = top_up(&recipe(), &level(9.5, 1.5 * full(), 10.0, full())).unwrap();
        assert!(drain.drain_l > 1.0 && drain.add_g[0] < 1e-9, "{drain:?}");
        assert!((drain.water_l - (10.0 - (9.5 - drain.drain_l))).abs() < 1e-9);
    }

    #[test]
    fn a_full_tank_that_is_too_weak_gives_up_what_the_feed_needs() {
        let weak = [0.3, 1.0].map(|s| ec(&recipe(), &[4.48], s).unwrap());
        let got = top_up(&recipe(), &level(10.0, weak[0], 10.0, weak[1])).unwrap();
        assert!(
            got.drain_l > 0.0 && got.drain_l < 0.05 && got.water_l < 1e-9,
            "{got:?}"
        );
        assert!((10.0 - got.drain_l + got.add_g[0] / 1120.0 - 10.0).abs() < 1e-6);
    }

    #[test]
    fn strength_is_read_off_the_meter() {
        for share in [0.0, 0.4, 1.0, 2.5] {
            let at = ec(&recipe(), &[4.48], share).unwrap();
            assert!(
                (strength_at(&recipe(), at).unwrap() - share).abs() < 1e-6,
                "{share}"
            );
            assert_eq!(ec_at(&recipe(), share), Some(at));
        }
        assert!(
            strength_at(&recipe(), 0.0).unwrap() < 1e-9,
            "a meter may read the water low"
        );
        assert_eq!(strength_at(&recipe(), 19.0), None);
        assert_eq!(
            strength_at(
                &Recipe {
                    ingredients: Vec::new(),
                    ..recipe()
                },
                0.5
            ),
            None,
            "nothing is fed"
        );
    }

    #[test]
    fn nonsense_is_refused_by_name() {
        let said = |l: TankLevel| top_up(&recipe(), &l).unwrap_err().to_string();
        for odd in [-1.0, f64::NAN, 1e9] {
            assert!(said(level(odd, 1.0, 10.0, 1.0)).starts_with("now_l must lie"));
            assert!(said(level(1.0, odd, 10.0, 1.0)).starts_with("now_ec_ms_per_cm must lie"));
            assert!(said(level(1.0, 1.0, odd, 1.0)).starts_with("wanted_l must lie"));
        }
        assert!(said(level(1.0, 1.0, 10.0, 0.01)).contains("water alone"));
        assert!(said(level(1.0, 19.0, 10.0, 1.0)).contains("measure again"));
    }

    proptest! {
        /// After the top-up the tank holds the wanted volume at the wanted EC: mixed up anew from
        /// all that is in it.
        #[test]
        fn the_tank_ends_where_it_is_wanted(
            left in 0.0f64..10.0, now in 0.3f64..1.8, wanted in 0.5f64..1.5,
        ) {
            let (r, grams) = (recipe(), [4.48]);
            let [now_ec, wanted_ec] = [now, wanted].map(|s| ec(&r, &grams, s).unwrap());
            let got = top_up(&r, &level(left, now_ec, 10.0, wanted_ec)).unwrap();
            let kept = left - got.drain_l;
            let feed = now * 4.48 * kept + got.add_g[0];
            let litres = kept + got.water_l + got.add_g[0] / 1120.0;
            prop_assert!((litres - 10.0).abs() < 1e-6, "{got:?}");
            prop_assert!((ec(&r, &grams, feed / 44.8).unwrap() - wanted_ec).abs() < 1e-3, "{got:?}");
        }
    }
}
