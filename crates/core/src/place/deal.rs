//! The deal: treatments over the slots of each level, at random inside blocks, repeatable from its
//! seed.
//!
//! The algorithm, so that anybody can repeat it: a ChaCha8 stream is seeded with the 64-bit seed
//! (`seed_from_u64`). For each level from the lowest, the treatments are listed in the order of the
//! match sheet, the whole list as many times as it fits, and shuffled by Fisher and Yates from the
//! last place down, each index drawn as the remainder of a 64-bit number after throwing away those
//! that would favour small remainders. Slots are filled from the left. The codes are then shuffled
//! in the same way from stream 1 of the same seed.
//!
//! Other designs, from the same stream 0: over the whole rack the list is that of all units and is
//! shuffled once, slots filled level by level; where numbers of units differ, the list holds the
//! units of the first treatment, then those of the second, and so on. In pairs each pair, from the
//! lowest level and the left, is a list of two; of more than two treatments the list of every two
//! (1 and 2, 1 and 3, ..., 2 and 3, ...), as many times as it fits, is shuffled over the pairs
//! first. Where a fixture serves a level, the list is that of levels, and a level holds one
//! treatment. A Latin square of up to five treatments is drawn row by row, each row a shuffled
//! list; at the first clash in a column the square is begun anew, so that every square is equally
//! likely. Larger squares start from the cyclic one and take the moves of Jacobson and Matthews
//! 1996 until n^3 proper squares were visited. Racks of several squares draw each by itself.
//!
//! A split plot shuffles one list of the lamp's settings, each as often as it fits, over the levels
//! from the lowest, then for each level the list of the treatments of its setting. In a swap-over
//! rounds go in pairs: for the first of a pair one list of both treatments, each for half of the
//! systems, is shuffled over the systems; in the second every system has the other one. Classes of
//! alike starting size are each a list of all treatments, from the smallest class; its members take
//! their cards level by level. Where mean starting sizes must not differ by more than a bound,
//! whole deals are drawn one after the other from the same stream until one keeps it, so that every
//! deal that keeps it is equally likely. What a grower placed by hand is not dealt; only its codes
//! are shuffled.

mod square;

use super::placed::{self, PlacedError};
use crate::trial::space::error::RackError;
use crate::trial::space::{Position, Rack, RackDesign};
use crate::trial::starts::size_classes;
use iron_twin_terms::indices::TreatmentIndex;
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
    pub treatment: TreatmentIndex,
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

/// Gives units their codes, shuffled from stream 1 of the seed.
fn with_codes(mut units: Vec<Dealt>, seed: u64) -> Vec<Dealt> {
    let mut letters = codes(units.len());
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    random.set_stream(1);
    shuffle(&mut random, &mut letters);
    units
        .iter_mut()
        .zip(letters)
        .for_each(|(unit, code)| unit.code = code);
    units
}

/// Units as the grower placed them, under shuffled codes.
///
/// # Errors
/// [`PlacedError`] for places that cannot be.
pub fn placed(
    rack: &Rack,
    units: &[(Position, TreatmentIndex)],
    treatments: usize,
    seed: u64,
) -> Result<Vec<Dealt>, PlacedError> {
    placed::check(rack, units, treatments)?;
    let dealt = units.iter().map(|&(position, treatment)| Dealt {
        position,
        treatment,
        code: String::new(),
    });
    Ok(with_codes(dealt.collect(), seed))
}

/// Deals `treatments` over a rack. The same seed gives the same deal on every machine.
///
/// # Errors
/// [`RackError`] where the rack cannot hold the treatments.
///
/// ```
/// use iron_twin_core::trial::space::Rack;
/// use iron_twin_core::place::deal::deal;
/// let units = deal(&Rack::default(), 4, 20261027)?;
/// assert_eq!(units.len(), 16);
/// assert_eq!(units, deal(&Rack::default(), 4, 20261027)?);
/// # Ok::<(), iron_twin_core::trial::space::error::RackError>(())
/// ```
pub fn deal(rack: &Rack, treatments: usize, seed: u64) -> Result<Vec<Dealt>, RackError> {
    rack.check(treatments)?;
    let mut random = ChaCha8Rng::seed_from_u64(seed);
    let Some(asked) = rack
        .within_percent
        .filter(|_| rack.design != RackDesign::ByHand)
    else {
        return Ok(with_codes(draw(rack, treatments, &mut random)?, seed));
    };
    let mut closest = f64::INFINITY;
    for _ in 0..MOST_DEALS {
        let units = draw(rack, treatments, &mut random)?;
        let placed: Vec<(Position, TreatmentIndex)> =
            units.iter().map(|u| (u.position, u.treatment)).collect();
        let gap = crate::place::placed::gap_percent(rack, &placed, treatments)
            .ok_or(RackError::NoStarts)?;
        if gap <= asked {
            return Ok(with_codes(units, seed));
        }
        closest = closest.min(gap);
    }
    Err(RackError::NeverWithin {
        tried: MOST_DEALS,
        asked,
        closest,
    })
}

/// Deals drawn before a bound on starting sizes is given up.
const MOST_DEALS: usize = 5000;

/// A card for every unit of each treatment, in order.
fn all_cards(rack: &Rack, treatments: usize) -> Vec<usize> {
    if rack.numbers.is_empty() {
        return (0..rack.units_each(treatments))
            .flat_map(|_| 0..treatments)
            .collect();
    }
    let own = rack.numbers.iter().enumerate();
    own.flat_map(|(t, &n)| std::iter::repeat_n(t, n as usize))
        .collect()
}

/// A card for every lamp, pump or level that is dealt as a whole.
fn dealt_cards(rack: &Rack, treatments: usize) -> Vec<usize> {
    let own = rack.dealt_numbers(treatments);
    let own = own.iter().enumerate();
    own.flat_map(|(t, &n)| std::iter::repeat_n(t, n)).collect()
}

/// One deal from the stream, without codes.
fn draw(rack: &Rack, treatments: usize, random: &mut ChaCha8Rng) -> Result<Vec<Dealt>, RackError> {
    let mut units = Vec::new();
    let mut place = |level: u32, from: u32, cards: Vec<usize>| {
        units.extend(cards.into_iter().enumerate().map(|(i, treatment)| Dealt {
            position: Position {
                level,
                slot: from + i as u32,
            },
            treatment: TreatmentIndex(treatment),
            code: String::new(),
        }));
    };
    let equally = |times: usize| {
        (0..times)
            .flat_map(|_| 0..treatments)
            .collect::<Vec<usize>>()
    };
    let mut mixed = |mut cards: Vec<usize>| {
        shuffle(random, &mut cards);
        cards
    };
    match rack.design {
        RackDesign::Blocks => (1..=rack.levels)
            .for_each(|level| place(level, 1, mixed(equally(rack.repeats(treatments))))),
        RackDesign::Pairs => in_pairs(rack, treatments, random, &mut place),
        RackDesign::CompletelyRandomised => {
            let cards = mixed(all_cards(rack, treatments));
            for (level, row) in (1..).zip(cards.chunks(rack.slots as usize)) {
                place(level, 1, row.to_vec());
            }
        }
        RackDesign::LatinSquare => {
            let squares = rack.levels as usize / treatments;
            let rows = (0..squares)
                .flat_map(|_| square::draw(random, treatments))
                .collect::<Vec<_>>();
            (1..)
                .zip(rows)
                .for_each(|(level, row)| place(level, 1, row));
        }
        RackDesign::SplitPlot => under_lamps(rack, treatments, random, &mut place),
        RackDesign::Fixtures => {
            let cards = mixed(dealt_cards(rack, treatments));
            (1..).zip(cards).for_each(|(level, treatment)| {
                place(level, 1, vec![treatment; rack.slots as usize]);
            });
        }
        RackDesign::SwapOver => {
            for pair in 0..rack.levels / 2 {
                let first = mixed(equally(rack.slots as usize / 2));
                let second = first.iter().map(|t| 1 - t).collect();
                place(2 * pair + 1, 1, first);
                place(2 * pair + 2, 1, second);
            }
        }
        RackDesign::BySize => by_size(rack, treatments, &mut mixed, &mut place)?,
        RackDesign::ByHand => {}
    }
    Ok(units)
}

/// Every two treatments meet equally often, in an order of chance where they meet in turn.
fn in_pairs(
    rack: &Rack,
    treatments: usize,
    random: &mut ChaCha8Rng,
    place: &mut impl FnMut(u32, u32, Vec<usize>),
) {
    let across = (rack.slots / 2) as usize;
    let two = |a: usize| (a + 1..treatments).map(move |b| vec![a, b]);
    let mut pairs: Vec<Vec<usize>> = (0..treatments)
        .flat_map(two)
        .cycle()
        .take(rack.pairs(treatments))
        .collect();
    if rack.in_turn(treatments) {
        shuffle(random, &mut pairs);
    }
    for (n, mut pair) in pairs.into_iter().enumerate() {
        shuffle(random, &mut pair);
        place((n / across) as u32 + 1, (2 * (n % across)) as u32 + 1, pair);
    }
}

/// Lamps are dealt to levels, and treatments under each.
fn under_lamps(
    rack: &Rack,
    treatments: usize,
    random: &mut ChaCha8Rng,
    place: &mut impl FnMut(u32, u32, Vec<usize>),
) {
    let settings = rack.settings();
    let mut lamps: Vec<usize> = (0..rack.levels as usize / settings)
        .flat_map(|_| 0..settings)
        .collect();
    shuffle(random, &mut lamps);
    for (level, lamp) in (1..).zip(lamps) {
        let under = (0..treatments).filter(|&t| rack.split[t] == lamp);
        let mut cards: Vec<usize> = (0..rack.repeats(treatments))
            .flat_map(|_| under.clone())
            .collect();
        shuffle(random, &mut cards);
        place(level, 1, cards);
    }
}

/// Units of like size are dealt together.
fn by_size(
    rack: &Rack,
    treatments: usize,
    mixed: &mut impl FnMut(Vec<usize>) -> Vec<usize>,
    place: &mut impl FnMut(u32, u32, Vec<usize>),
) -> Result<(), RackError> {
    let classes = size_classes(&rack.starts, treatments);
    let number = classes.iter().flatten().max().map_or(0, |most| most + 1);
    if number == 0 {
        return Err(RackError::NoStarts);
    }
    let mut hands: Vec<_> = (0..number)
        .map(|_| mixed((0..treatments).collect()).into_iter())
        .collect();
    for (index, class) in classes.iter().enumerate() {
        let Some(treatment) = class.and_then(|class| hands[class].next()) else {
            continue;
        };
        let (level, slot) = (index as u32 / rack.slots + 1, index as u32 % rack.slots);
        place(level, slot + 1, vec![treatment]);
    }
    Ok(())
}

/// In how many ways the rack could have been dealt.
#[must_use]
pub fn ways(rack: &Rack, treatments: usize) -> f64 {
    let list = |kinds: usize, each: usize| -> f64 {
        (1..=kinds)
            .map(|kinds| iron_twin_stats::redeal::binomial(kinds * each, each))
            .product()
    };
    let of_list = |each: usize| list(treatments, each);
    let of_numbers = |numbers: Vec<usize>| {
        let (mut placed, mut ways) = (0, 1.0);
        for number in numbers {
            placed += number;
            ways *= iron_twin_stats::redeal::binomial(placed, number);
        }
        ways
    };
    match rack.design {
        RackDesign::Blocks => f64::powi(of_list(rack.repeats(treatments)), rack.levels as i32),
        RackDesign::Pairs => {
            let pairs = rack.pairs(treatments);
            let turns = pairs / (treatments * treatments.saturating_sub(1) / 2).max(1);
            let over = if rack.in_turn(treatments) {
                list(pairs / turns.max(1), turns)
            } else {
                1.0
            };
            over * f64::powi(2.0, pairs as i32)
        }
        RackDesign::CompletelyRandomised => of_numbers(rack.numbers(treatments)),
        RackDesign::Fixtures => of_numbers(rack.dealt_numbers(treatments)),
        RackDesign::LatinSquare => f64::powi(
            square::how_many(treatments),
            (rack.levels as usize / treatments.max(1)) as i32,
        ),
        RackDesign::SplitPlot => {
            let (settings, repeats) = (rack.settings(), rack.repeats(treatments));
            let lamps = list(settings, rack.levels as usize / settings);
            lamps * f64::powi(list(treatments / settings, repeats), rack.levels as i32)
        }
        RackDesign::SwapOver => f64::powi(of_list(rack.slots as usize / 2), rack.levels as i32 / 2),
        RackDesign::BySize => f64::powi(of_list(1), rack.units_each(treatments) as i32),
        RackDesign::ByHand => 1.0,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::collections::{HashMap, HashSet};

    /// Six against two: each of the 28 ways to choose the two is as likely as any other.
    #[test]
    fn unequal_numbers_are_dealt_evenly() {
        let rack = Rack {
            levels: 2,
            slots: 5,
            design: RackDesign::CompletelyRandomised,
            numbers: vec![6, 2],
            ..Rack::default()
        };
        assert_eq!(ways(&rack, 2), 28.0);
        let mut seen: HashMap<Vec<Position>, u32> = HashMap::new();
        for seed in 0..5600 {
            let units = deal(&rack, 2, seed).unwrap();
            let of = |t: usize| units.iter().filter(|u| u.treatment.get() == t).count();
            assert_eq!((of(0), of(1)), (6, 2));
            *seen
                .entry(
                    units
                        .iter()
                        .filter(|u| u.treatment.get() == 1)
                        .map(|u| u.position)
                        .collect(),
                )
                .or_default() += 1;
        }
        let chi_square: f64 = seen
            .values()
            .map(|n| (f64::from(*n) - 200.0).powi(2) / 200.0)
            .sum();
        // 28 classes: the 0.1 % point of chi-square with 27 degrees of freedom is 55.5, the 99.9 %
        // point 9.8.
        assert!(
            seen.len() == 28 && (9.8..55.5).contains(&chi_square),
            "{chi_square}"
        );
        for numbers in [vec![6], vec![6, 0], vec![6, 5], vec![1, 2, 3]] {
            assert!(matches!(
                deal(
                    &Rack {
                        numbers,
                        ..rack.clone()
                    },
                    2,
                    1
                ),
                Err(RackError::Numbers { .. })
            ));
        }
        let blocks = Rack {
            design: RackDesign::Blocks,
            ..rack
        };
        assert!(matches!(blocks.check(2), Err(RackError::Numbers { .. })));
    }

    #[test]
    fn every_level_holds_every_treatment_equally_and_codes_are_unique() {
        let rack = Rack {
            levels: 5,
            slots: 9,
            ..Rack::default()
        };
        let units = deal(&rack, 4, 3).unwrap();
        assert_eq!(units.len(), 40);
        for level in 1..=5 {
            for treatment in 0..4 {
                let here = units
                    .iter()
                    .filter(|u| u.position.level == level && u.treatment.get() == treatment)
                    .count();
                assert_eq!(here, 2);
            }
        }
        assert_eq!(
            units.iter().map(|u| &u.code).collect::<HashSet<_>>().len(),
            40
        );
        assert!(units.iter().all(|u| u.code.len() == 2));
    }

    #[test]
    fn all_orders_of_a_level_are_equally_likely() {
        let rack = Rack {
            levels: 1,
            slots: 3,
            ..Rack::default()
        };
        let mut seen: HashMap<Vec<usize>, f64> = HashMap::new();
        let deals = 6000;
        for seed in 0..deals {
            let order = deal(&rack, 3, seed)
                .unwrap()
                .iter()
                .map(|u| u.treatment.get())
                .collect();
            *seen.entry(order).or_default() += 1.0;
        }
        assert_eq!(seen.len(), 6);
        let expected = deals as f64 / 6.0;
        let chi_square: f64 = seen
            .values()
            .map(|n| (n - expected) * (n - expected) / expected)
            .sum();
        // Chi-square on 5 degrees of freedom passes 20.5 one time in a thousand.
        assert!(chi_square < 20.5, "{chi_square}");
    }

    /// Deals of a small rack, each counted as often as it came, against as often as it should.
    fn chi_square(rack: &Rack, treatments: usize, deals: u64) -> (f64, usize) {
        let mut seen: HashMap<Vec<usize>, f64> = HashMap::new();
        for seed in 0..deals {
            let order = deal(rack, treatments, seed)
                .unwrap()
                .iter()
                .map(|u| u.treatment.get())
                .collect();
            *seen.entry(order).or_default() += 1.0;
        }
        let expected = deals as f64 / ways(rack, treatments);
        (
            seen.values()
                .map(|n| (n - expected) * (n - expected) / expected)
                .sum(),
            seen.len(),
        )
    }

    #[test]
    fn every_admissible_deal_of_every_design_is_equally_likely() {
        let rack = |levels, slots, design| Rack {
            levels,
            slots,
            design,
            ..Rack::default()
        };
        // Upper 0.1 % points of chi-square: 5 df 20.5, 7 df 24.3, 11 df 31.3, 575 df 685.
        for (rack, treatments, deals, kinds, bound) in [
            (
                rack(2, 2, RackDesign::CompletelyRandomised),
                2,
                6000,
                6,
                20.5,
            ),
            (rack(1, 6, RackDesign::Pairs), 2, 6000, 8, 24.3),
            (rack(3, 3, RackDesign::LatinSquare), 3, 6000, 12, 31.3),
            (rack(4, 4, RackDesign::LatinSquare), 4, 20_000, 576, 685.0),
            // Two lamps of each setting over four levels, two feeds under each: 6 x 2^4. 95 df:
            // 142.9.
            (
                Rack {
                    split: vec![0, 1, 0, 1],
                    ..rack(4, 2, RackDesign::SplitPlot)
                },
                4,
                12_000,
                96,
                142.9,
            ),
            // Half of four systems begins with each, anew for the second pair of rounds: 6 x 6. 35
            // df: 66.6.
            (rack(4, 4, RackDesign::SwapOver), 2, 9000, 36, 66.6),
            // Three treatments, two to a pair: 3! ways to give the pairs their two, 2^3 within
            // them. 47 df: 82.7.
            (rack(1, 6, RackDesign::Pairs), 3, 9600, 48, 82.7),
            // Two levels of each of two lamps, and one against three. 5 df: 20.5, 3 df: 16.3.
            (rack(4, 3, RackDesign::Fixtures), 2, 6000, 6, 20.5),
            (
                Rack {
                    numbers: vec![1, 3],
                    ..rack(4, 2, RackDesign::Fixtures)
                },
                2,
                4000,
                4,
                16.3,
            ),
            // Four pairs of alike size, one place left out: 2^4. 15 df: 37.7.
            (
                Rack {
                    starts: (1..=9).map(|s| Some(f64::from(s * s))).collect(),
                    ..rack(3, 3, RackDesign::BySize)
                },
                2,
                6000,
                16,
                37.7,
            ),
        ] {
            assert_eq!(ways(&rack, treatments), f64::from(kinds));
            let (statistic, seen) = chi_square(&rack, treatments, deals);
            assert_eq!(seen, kinds as usize, "{:?}", rack.design);
            assert!(statistic < bound, "{:?}: {statistic}", rack.design);
        }
    }

    #[test]
    fn squares_of_every_size_are_latin() {
        for treatments in 2..=8usize {
            let levels = if treatments <= 6 {
                2 * treatments as u32
            } else {
                treatments as u32
            };
            let rack = Rack {
                levels,
                slots: treatments as u32 + 1,
                design: RackDesign::LatinSquare,
                ..Rack::default()
            };
            let units = deal(&rack, treatments, 11).unwrap();
            assert_eq!(units.len(), levels as usize * treatments);
            for level in 1..=levels {
                let row: HashSet<usize> = units
                    .iter()
                    .filter(|u| u.position.level == level)
                    .map(|u| u.treatment.get())
                    .collect();
                assert_eq!(row.len(), treatments);
            }
            for slot in 1..=treatments as u32 {
                for treatment in 0..treatments {
                    let here = units
                        .iter()
                        .filter(|u| u.position.slot == slot && u.treatment.get() == treatment)
                        .count();
                    assert_eq!(
                        here,
                        levels as usize / treatments,
                        "{treatments} treatments, slot {slot}"
                    );
                }
            }
        }
    }

    #[test]
    fn a_rack_that_does_not_fit_its_design_is_refused() {
        let rack = |levels, slots, design| Rack {
            levels,
            slots,
            design,
            ..Rack::default()
        };
        let few = RackError::Pairs {
            treatments: 4,
            wanted: 6,
            pairs: 4,
        };
        assert_eq!(deal(&rack(2, 4, RackDesign::Pairs), 4, 1), Err(few));
        let dark = RackError::Fixtures {
            levels: 2,
            treatments: 3,
        };
        assert_eq!(deal(&rack(2, 4, RackDesign::Fixtures), 3, 1), Err(dark));
        let square = rack(3, 4, RackDesign::LatinSquare);
        assert_eq!(
            deal(&square, 4, 1),
            Err(RackError::NotSquare {
                levels: 3,
                treatments: 4
            })
        );
        let free = deal(&rack(3, 5, RackDesign::CompletelyRandomised), 4, 1).unwrap();
        assert_eq!(
            free.len(),
            12,
            "three units of each, three slots stay empty"
        );
        assert_eq!(
            rack(2, 5, RackDesign::Pairs).block_of(Position { level: 2, slot: 3 }, 2),
            Some("pair 4".into())
        );
    }

    #[test]
    fn lamps_serve_a_whole_level_and_systems_swap() {
        let split = Rack {
            split: vec![0, 0, 0, 1, 1, 1],
            design: RackDesign::SplitPlot,
            slots: 7,
            ..Rack::default()
        };
        let units = deal(&split, 6, 5).unwrap();
        assert_eq!(
            (
                units.len(),
                split.units_each(6),
                split.dealt_each(6),
                split.used_slots(6)
            ),
            (24, 4, 2, 6)
        );
        for level in 1..=4 {
            let lamps: HashSet<usize> = units
                .iter()
                .filter(|u| u.position.level == level)
                .map(|u| split.split[u.treatment])
                .collect();
            assert_eq!(lamps.len(), 1, "level {level} has one lamp");
        }
        let swap = Rack {
            levels: 6,
            slots: 4,
            design: RackDesign::SwapOver,
            ..Rack::default()
        };
        let units = deal(&swap, 2, 5).unwrap();
        let at = |level, slot| {
            units
                .iter()
                .find(|u| u.position == Position { level, slot })
                .unwrap()
                .treatment
                .get()
        };
        for (pair, system) in (0..3).flat_map(|p| (1..=4).map(move |s| (p, s))) {
            assert_eq!(
                at(2 * pair + 1, system),
                1 - at(2 * pair + 2, system),
                "both in every pair of rounds"
            );
        }
        assert_eq!(
            deal(
                &Rack {
                    levels: 3,
                    ..swap.clone()
                },
                2,
                1
            ),
            Err(RackError::Odd {
                systems: 4,
                rounds: 3
            })
        );
        assert_eq!(deal(&swap, 3, 1), Err(RackError::SwapOf(3)));
        assert_eq!(
            deal(
                &Rack {
                    split: vec![0, 1],
                    ..split.clone()
                },
                2,
                1
            ),
            Err(RackError::NotCrossed)
        );
        assert_eq!(
            deal(&Rack { levels: 3, ..split }, 6, 1),
            Err(RackError::Lamps {
                levels: 3,
                settings: 2
            })
        );
    }

    #[test]
    fn what_was_placed_by_hand_keeps_its_place() {
        let rack = Rack {
            design: RackDesign::ByHand,
            ..Rack::default()
        };
        let own = [
            (Position { level: 1, slot: 2 }, TreatmentIndex(1)),
            (Position { level: 3, slot: 4 }, TreatmentIndex(0)),
        ];
        let units = placed(&rack, &own, 2, 9).unwrap();
        assert_eq!(
            units
                .iter()
                .map(|u| (u.position, u.treatment))
                .collect::<Vec<_>>(),
            own
        );
        assert_ne!(units[0].code, units[1].code);
        assert!(deal(&rack, 2, 9).unwrap().is_empty(), "nothing is dealt");
    }

    #[test]
    fn the_number_of_deals() {
        assert_eq!(ways(&Rack::default(), 4), 331_776.0);
        assert_eq!(
            ways(
                &Rack {
                    levels: 2,
                    slots: 4,
                    ..Rack::default()
                },
                2
            ),
            36.0
        );
    }

    #[test]
    fn the_algorithm_does_not_drift() {
        // Frozen: a change here would silently alter every stored deal.
        let order: Vec<String> = deal(
            &Rack {
                levels: 2,
                slots: 4,
                ..Rack::default()
            },
            4,
            42,
        )
        .unwrap()
        .iter()
        .map(|u| format!("{}{}", u.treatment.get(), u.code))
        .collect();
        assert_eq!(order.join(" "), "2B 0C 3D 1H 1G 0F 3E 2A");
    }
}
