//! Twelve friends taste what was cut, the evening of the harvest: invented, from a fixed seed and a
//! known truth.

use crate::Clock;
use iron_twin_core::weigh::tasting::{Answer, Asked, Attribute, Setting, Way};
use iron_twin_store::tasting::Begun;
use iron_twin_store::{Result, Store};
use iron_twin_terms::indices::TreatmentIndex;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use std::collections::BTreeMap;

/// Points by which each treatment is liked better than plain water, and is less bitter.
const BETTER: [f64; 4] = [0.0, 0.4, 0.9, 1.9];

/// A rating around a mean, 1 to 9.
fn points(chance: &mut ChaCha8Rng, mean: f64) -> u8 {
    // The sum of three even draws is bell-shaped enough for taste.
    let noise: f64 = (0..3).map(|_| chance.random_range(-0.9..0.9)).sum();
    (mean + noise).round().clamp(1.0, 9.0) as u8
}

/// Plain water, two thirds and full feed, liked and bitter, by twelve at their phones.
pub(crate) fn tasted(store: &Store, clock: &Clock, id: &str, (day, ago): (u32, u32)) -> Result<()> {
    let setting = Setting {
        asked: Asked::Liking,
        way: Way::Served,
        attributes: vec![Attribute::Bitter],
        of: [0, 2, 3].map(TreatmentIndex).to_vec(),
        seats: 12,
    };
    let begun = Begun {
        setting,
        hours: 2,
        day,
        seed: 20_261_126,
    };
    let no = store.begin_tasting(&clock.at(ago, 18, 0), id, &begun)?;
    let kept = store.tastings(id)?.into_iter().find(|own| own.no == no);
    let mut chance = ChaCha8Rng::seed_from_u64(61);
    for (seat, token) in kept
        .iter()
        .flat_map(|own| own.is.seats.iter().zip(&own.tokens))
    {
        let base = f64::from(chance.random_range(4..6_u8));
        let mut all = |sign: f64, base: f64| -> Vec<u8> {
            seat.cups
                .iter()
                .map(|cup| points(&mut chance, base + sign * BETTER[cup.of.get()]))
                .collect()
        };
        let (liking, bitter) = (all(1.0, base), all(-1.0, 5.5));
        let answer = Answer {
            picked: None,
            liking,
            attributes: BTreeMap::from([(Attribute::Bitter, bitter)]),
        };
        let mut stamp = clock.at(ago, 18, 10 + seat.seat);
        "taster".clone_into(&mut stamp.who);
        store.taste(&stamp, token.as_deref().unwrap_or_default(), &answer, "")?;
    }
    store.close_tasting(&clock.at(ago, 19, 0), id, no)
}
