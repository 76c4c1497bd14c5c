//! The deal: treatments over the slots of each level, at random inside blocks, repeatable from its seed.
//!
//! The algorithm, so that anybody can repeat it: a ChaCha8 stream is seeded with the 64-bit seed (`seed_from_u64`).
//! For each level from the lowest, the treatments are listed in the order of the match sheet, the whole list as many
//! times as it fits, and shuffled by Fisher and Yates from the last place down, each index drawn as the remainder of
//! a 64-bit number after throwing away those that would favour small remainders. Slots are filled from the left. The
//! codes are then shuffled in the same way from stream 1 of the same seed.

use super::{Position, Rack, RackError};
use rand::{Rng, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// Letters that cannot be taken for one another or for a figure.
const LETTERS: &[u8] = b"ABCDEFGHJKLMNPRSTUVWXYZ";

/// One unit as dealt.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Dealt {
    /// Where it stands.
    pub position: Position,
    /// Index of its treatment in the match sheet.
    pub treatment: usize,
    /// Its blind code.
    pub code: String,
}

fn below(random: &mut ChaCha8Rng, bound: usize) -> usize {
    let bound = bound as u64;
    let fair = u64::MAX - u64::MAX % bound;
    loop {
        let drawn = random.next_u64();
        if drawn < fair {
            return (drawn % bound) as usize;
        }
    }
}

fn shuffle<T>(random: &mut ChaCha8Rng, items: &mut [T]) {
    for last in (1..items.len()).rev() {
        items.swap(last, below(random, last + 1));
    }
}

/// Codes for `count` units in plain order: one letter each where they suffice, else two.
fn codes(count: usize) -> Vec<String> {
    let letter = |i: usize| char::from(LETTERS[i % LETTERS.len()]);
    (0..count)
        .map(|i| {
            if count <= LETTERS.len() {
                letter(i).to_string()
            } else {
                format!("{}{}", letter(i / LETTERS.len()), letter(i))
            }
        })
        .collect()
}

/// Deals `treatments` over a rack. The same seed gives the same deal on every machine.
///
/// # Errors
/// [`RackError`] where the rack cannot hold the treatments.
///
/// ```
/// use iron_twin_core::place::{Rack, deal::deal};
/// let units = deal(&Rack::default(), 4, 20261027)?;
/// assert_eq!(units.len(), 16);
/// assert_eq!(units, deal(&Rack::default(), 4, 20261027)?);
/// # Ok::<(), iron_twin_core::place::RackError>(())
/// ```
pub fn deal(rack: &Rack, treatments: usize, seed: u64) -> Result<Vec<Dealt>, RackError> {
    rack.check(treatments)?;
    let repeats = rack.repeats(treatments);
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let mut units = Vec::new();
    for level in 1..=rack.levels {
        let mut cards: Vec<usize> = (0..repeats).flat_map(|_| 0..treatments).collect();
        shuffle(&mut random, &mut cards);
        for (i, treatment) in cards.into_iter().enumerate() {
            units.push(Dealt { position: Position { level, slot: i as u32 + 1 }, treatment, code: String::new() });
        }
    }
    let mut letters = codes(units.len());
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    random.set_stream(1);
    shuffle(&mut random, &mut letters);
    for (unit, code) in units.iter_mut().zip(letters) {
        unit.code = code;
    }
    Ok(units)
}

/// In how many ways the rack could have been dealt, each level by itself.
#[must_use]
pub fn ways(rack: &Rack, treatments: usize) -> f64 {
    let repeats = rack.repeats(treatments);
    let mut left = repeats * treatments;
    let mut a_level = 1.0;
    for _ in 0..treatments {
        a_level *= crate::stats::redeal::binomial(left, repeats);
        left -= repeats;
    }
    f64::powi(a_level, rack.levels as i32)
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::{HashMap, HashSet};

    #[test]
    fn every_level_holds_every_treatment_equally_and_codes_are_unique() {
        let rack = Rack { levels: 5, slots: 9, ..Rack::default() };
        let units = deal(&rack, 4, 3).unwrap();
        assert_eq!(units.len(), 40);
        for level in 1..=5 {
            for treatment in 0..4 {
                let here = units.iter().filter(|u| u.position.level == level && u.treatment == treatment).count();
                assert_eq!(here, 2);
            }
        }
        assert_eq!(units.iter().map(|u| &u.code).collect::<HashSet<_>>().len(), 40);
        assert!(units.iter().all(|u| u.code.len() == 2));
    }

    #[test]
    fn all_orders_of_a_level_are_equally_likely() {
        let rack = Rack { levels: 1, slots: 3, ..Rack::default() };
        let mut seen: HashMap<Vec<usize>, f64> = HashMap::new();
        let deals = 6000;
        for seed in 0..deals {
            let order = deal(&rack, 3, seed).unwrap().iter().map(|u| u.treatment).collect();
            *seen.entry(order).or_default() += 1.0;
        }
        assert_eq!(seen.len(), 6);
        let expected = deals as f64 / 6.0;
        let chi_square: f64 = seen.values().map(|n| (n - expected) * (n - expected) / expected).sum();
        // Chi-square on 5 degrees of freedom passes 20.5 one time in a thousand.
        assert!(chi_square < 20.5, "{chi_square}");
    }

    #[test]
    fn the_number_of_deals() {
        assert_eq!(ways(&Rack::default(), 4), 331_776.0);
        assert_eq!(ways(&Rack { levels: 2, slots: 4, ..Rack::default() }, 2), 36.0);
    }

    #[test]
    fn the_algorithm_does_not_drift() {
        // Frozen: a change here would silently alter every stored deal.
        let order: Vec<String> = deal(&Rack { levels: 2, slots: 4, ..Rack::default() }, 4, 42)
            .unwrap()
            .iter()
            .map(|u| format!("{}{}", u.treatment, u.code))
            .collect();
        assert_eq!(order.join(" "), "2B 0C 3D 1H 1G 0F 3E 2A");
    }
}
