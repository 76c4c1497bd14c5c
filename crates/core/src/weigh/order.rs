//! In which order units come to the scale: shuffled, so that whatever drifts while one weighs falls
//! on no treatment.

use rand::SeedableRng;
use rand::seq::SliceRandom;
use rand_chacha::ChaCha8Rng;

/// The order by chance in which the units of a trial come, the same each time it is asked: places
/// of a list of their codes. Units are taken by code, so that it tells nothing of the deal, and a
/// unit more or less leaves it a fair order.
///
/// ```
/// use iron_twin_core::weigh::order::shuffled;
/// let codes = ["K", "A", "M", "C"];
/// assert_eq!(shuffled("a trial", 1, &codes), shuffled("a trial", 1, &codes));
/// assert_ne!(shuffled("a trial", 1, &codes), shuffled("a trial", 2, &codes));
/// ```
#[must_use]
pub fn shuffled(trial: &str, round: u32, codes: &[&str]) -> Vec<usize> {
    let mut places: Vec<usize> = (0..codes.len()).collect();
    places.sort_by_key(|&i| codes[i]);
    // Of the trial's random id: nobody chose it, and no deal came of it.
    let seed = trial.bytes().fold(0xcbf2_9ce4_8422_2325_u64, |h, b| {
        (h ^ u64::from(b)).wrapping_mul(0x0100_0000_01b3)
    });
    places.shuffle(&mut ChaCha8Rng::seed_from_u64(
        seed.wrapping_add(u64::from(round)),
    ));
    places
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_unit_comes_once_and_each_place_is_as_likely() {
        let codes: Vec<String> = (0..6).map(|i| char::from(b'A' + i).to_string()).collect();
        let codes: Vec<&str> = codes.iter().map(String::as_str).collect();
        let mut first = [0; 6];
        for trial in 0..3000 {
            let order = shuffled(&format!("trial {trial}"), 1, &codes);
            let mut sorted = order.clone();
            sorted.sort_unstable();
            assert_eq!(sorted, [0, 1, 2, 3, 4, 5]);
            first[order[0]] += 1;
        }
        // 500 each, and 4.5 standard deviations (20.4) about it.
        assert!(first.iter().all(|n| (408..592).contains(n)), "{first:?}");
        // However the list was written.
        let turned: Vec<&str> = codes.iter().rev().copied().collect();
        let by_code = |codes: &[&str]| {
            shuffled("t", 1, codes)
                .iter()
                .map(|&i| codes[i].to_owned())
                .collect::<Vec<_>>()
        };
        assert_eq!(by_code(&codes), by_code(&turned));
    }
}
