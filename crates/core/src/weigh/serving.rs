//! In which order cups are served, and under which codes: so that what a cup tastes like after
//! another, and in which place it stands, falls on all alike.

use rand::seq::SliceRandom;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::Serialize;

/// Fewest and most cups of a tasting.
pub const CUPS: std::ops::RangeInclusive<usize> = 2..=8;
/// Most tasters.
pub const MOST_TASTERS: usize = 400;

/// Orders of serving that are balanced: every cup stands in every place equally often, and follows
/// every other equally often. As many orders as cups where their number is even, twice as many
/// where it is odd (Williams 1949).
///
/// ```
/// use iron_twin_core::weigh::serving::williams;
/// assert_eq!(williams(4), [[0, 1, 3, 2], [1, 2, 0, 3], [2, 3, 1, 0], [3, 0, 2, 1]]);
/// assert_eq!(williams(3).len(), 6);
/// ```
#[must_use]
pub fn williams(cups: usize) -> Vec<Vec<usize>> {
    // 0, 1, n-1, 2, n-2, ...: the steps between neighbours are all different.
    let first = (0..cups).map(|place| match place {
        0 => 0,
        odd if odd % 2 == 1 => odd.div_ceil(2),
        even => cups - even / 2,
    });
    let first: Vec<usize> = first.collect();
    let turned = |by: usize| -> Vec<usize> { first.iter().map(|cup| (cup + by) % cups).collect() };
    let orders: Vec<Vec<usize>> = (0..cups).map(turned).collect();
    if cups.is_multiple_of(2) {
        return orders;
    }
    let back = orders
        .iter()
        .map(|order| order.iter().rev().copied().collect());
    orders.iter().cloned().chain(back).collect()
}

/// A cup as it stands before a taster.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
pub struct Cup {
    /// What is in it, counted from 0.
    pub of: usize,
    /// Its code of three figures.
    pub code: u16,
}

fn check_tasters(tasters: usize) -> Result<(), String> {
    if (1..=MOST_TASTERS).contains(&tasters) {
        return Ok(());
    }
    Err(format!(
        "a tasting has 1 to {MOST_TASTERS} tasters, got {tasters}"
    ))
}

/// Cups of one taster under codes, no code twice.
fn coded(cups: &[usize], chance: &mut ChaCha8Rng) -> Vec<Cup> {
    let mut used: Vec<u16> = Vec::with_capacity(cups.len());
    let cup = |of: &usize| {
        let mut code = chance.random_range(100..1000);
        while used.contains(&code) {
            code = chance.random_range(100..1000);
        }
        used.push(code);
        Cup { of: *of, code }
    };
    cups.iter().map(cup).collect()
}

/// What is served to each taster, from left to right: balanced orders, dealt to the tasters by
/// chance, each cup under a code of its own that tells nothing.
///
/// ```
/// use iron_twin_core::weigh::serving::served;
/// let served = served(4, 12, 7).unwrap();
/// assert_eq!((served.len(), served[0].len()), (12, 4));
/// ```
///
/// # Errors
/// Says which number cannot be: 2 to 8 cups, 1 to 400 tasters.
pub fn served(cups: usize, tasters: usize, seed: u64) -> Result<Vec<Vec<Cup>>, String> {
    if !CUPS.contains(&cups) {
        return Err(format!(
            "a tasting has {} to {} cups, got {cups}",
            CUPS.start(),
            CUPS.end()
        ));
    }
    check_tasters(tasters)?;
    let mut chance = ChaCha8Rng::seed_from_u64(seed);
    let orders = williams(cups);
    let mut found: Vec<Vec<Cup>> = Vec::with_capacity(tasters);
    while found.len() < tasters {
        // Each run through the design has other names for its cups and another order of its rows.
        let mut names: Vec<usize> = (0..cups).collect();
        names.shuffle(&mut chance);
        let mut run = orders.clone();
        run.shuffle(&mut chance);
        let named = |order: Vec<usize>| order.into_iter().map(|cup| names[cup]).collect::<Vec<_>>();
        found.extend(
            run.into_iter()
                .take(tasters - found.len())
                .map(|order| coded(&named(order), &mut chance)),
        );
    }
    Ok(found)
}

/// What stands in a triangle: two cups alike and an odd one of either kind, in every place equally
/// often.
const TRIANGLES: [[usize; 3]; 6] = [
    [0, 0, 1],
    [0, 1, 0],
    [1, 0, 0],
    [1, 1, 0],
    [1, 0, 1],
    [0, 1, 1],
];

/// What is served to each taster of a triangle test, from left to right: all six triangles equally
/// often, dealt to the tasters by chance, each cup under a code of its own.
///
/// ```
/// use iron_twin_core::weigh::serving::triangles;
/// let served = triangles(6, 7).unwrap();
/// assert!(served.iter().all(|cups| (1..=2).contains(&cups.iter().filter(|cup| cup.of == 0).count())));
/// ```
///
/// # Errors
/// Says that there are 1 to 400 tasters.
pub fn triangles(tasters: usize, seed: u64) -> Result<Vec<Vec<Cup>>, String> {
    check_tasters(tasters)?;
    let mut chance = ChaCha8Rng::seed_from_u64(seed);
    let mut found: Vec<Vec<Cup>> = Vec::with_capacity(tasters);
    while found.len() < tasters {
        let mut run = TRIANGLES;
        run.shuffle(&mut chance);
        found.extend(
            run.iter()
                .take(tasters - found.len())
                .map(|cups| coded(cups, &mut chance)),
        );
    }
    Ok(found)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::BTreeMap;

    fn counts<T: Ord>(of: impl Iterator<Item = T>) -> BTreeMap<T, usize> {
        let mut found = BTreeMap::new();
        of.for_each(|one| *found.entry(one).or_default() += 1);
        found
    }

    #[test]
    fn every_cup_stands_everywhere_and_follows_every_other_equally_often() {
        for cups in CUPS {
            let orders = williams(cups);
            let each = if cups % 2 == 0 { 1 } else { 2 };
            assert_eq!(orders.len(), cups * each);
            let places = counts(orders.iter().flat_map(|o| o.iter().copied().enumerate()));
            assert!(
                places.len() == cups * cups && places.values().all(|n| *n == each),
                "{cups}"
            );
            let follows = counts(
                orders
                    .iter()
                    .flat_map(|o| o.windows(2).map(|w| (w[0], w[1]))),
            );
            assert!(
                follows.len() == cups * (cups - 1) && follows.values().all(|n| *n == each),
                "{cups}"
            );
        }
    }

    #[test]
    fn every_triangle_is_served_equally_often() {
        let served = triangles(12, 5).unwrap();
        let kinds = counts(
            served
                .iter()
                .map(|cups| cups.iter().map(|c| c.of).collect::<Vec<_>>()),
        );
        assert!(
            kinds.len() == 6 && kinds.values().all(|n| *n == 2),
            "{kinds:?}"
        );
        assert!(
            served
                .iter()
                .all(|cups| counts(cups.iter().map(|c| c.code)).len() == 3)
        );
        assert!(triangles(0, 5).is_err() && triangles(401, 5).is_err());
        assert_ne!(triangles(12, 6).unwrap(), served);
    }

    #[test]
    fn twelve_tasters_of_four_cups_are_served_three_whole_designs() {
        for seed in 0..50 {
            let served = served(4, 12, seed).unwrap();
            let places = counts(
                served
                    .iter()
                    .flat_map(|cups| cups.iter().map(|c| c.of).enumerate()),
            );
            assert!(places.values().all(|n| *n == 3), "{places:?}");
            let follows = counts(
                served
                    .iter()
                    .flat_map(|cups| cups.windows(2).map(|w| (w[0].of, w[1].of))),
            );
            assert!(
                follows.len() == 12 && follows.values().all(|n| *n == 3),
                "{follows:?}"
            );
            for cups in &served {
                assert!(cups.iter().all(|c| (100..1000).contains(&c.code)));
                assert_eq!(
                    counts(cups.iter().map(|c| c.code)).len(),
                    4,
                    "no code twice before one taster"
                );
            }
        }
        // A part of a design is as near to balance as it can be: no cup more than once more in a
        // place than another.
        let seven = served(4, 7, 3).unwrap();
        let places = counts(
            seven
                .iter()
                .flat_map(|cups| cups.iter().map(|c| c.of).enumerate()),
        );
        assert!(places.values().all(|n| (1..=2).contains(n)), "{places:?}");
        assert!(
            served(1, 7, 3).is_err()
                && served(9, 7, 3).is_err()
                && served(4, 0, 3).is_err()
                && served(4, 401, 3).is_err()
        );
    }
}
