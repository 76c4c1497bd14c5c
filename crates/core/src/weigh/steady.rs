//! When what a scale says may be taken as a weight: never while it moves, never what is old, never
//! the same load twice.

use std::collections::VecDeque;

/// What a scale says at one instant.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum ScaleSays {
    /// A weight, and whether the scale itself calls it stable.
    Weight {
        /// g.
        g: f64,
        /// Whether the scale calls it stable.
        stable: bool,
    },
    /// More lies on it than it can carry.
    Overload,
    /// Less than nothing by more than it can show: its pan is off.
    Underload,
}

/// Why there is nothing to take.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum NotSettled {
    /// The scale has not spoken for a while, or not at all.
    #[error("the scale is silent")]
    Silent,
    /// It moves, or has not stood still long enough.
    #[error("the weight is still moving")]
    Moving,
    /// Nothing lies on it.
    #[error("nothing lies on the scale")]
    Empty,
    /// It shows less than nothing: it was set to zero under a load that is gone.
    #[error("the scale shows less than nothing: set it to zero with nothing on it")]
    BelowZero,
    /// More lies on it than it can carry.
    #[error("too heavy for this scale")]
    Overload,
    /// The load that was taken has not been lifted since.
    #[error("this load was taken already: lift it, then put the next one on")]
    Taken,
}

/// What was said longer ago than this is old, ms.
pub const OLD_MS: u64 = 1_200;
/// A weight must stand still for so long, ms.
pub const STILL_MS: u64 = 600;
/// So many times it must have been said in that time.
pub const LEAST_TIMES: usize = 3;
/// Less than this is an empty pan, g.
pub const EMPTY_G: f64 = 1.0;
/// A load that is lifted changes the weight by more than this, g, and by more than [`LIFTED_SHARE`]
/// of it.
const LIFTED_G: f64 = 2.0;
/// See [`LIFTED_G`].
const LIFTED_SHARE: f64 = 0.05;

/// How far apart weights may lie that are one weight: the last digit of a shelf-top scale, and a
/// little of a heavy load.
fn alike(a: f64, b: f64) -> bool {
    (a - b).abs() <= 0.2_f64.max(a.abs() * 5e-4) + 1e-9
}

/// What a scale has said lately. Instants are those of this computer's clock when a line came in,
/// ms from any zero; lines that come in a bunch after a stutter do not make a weight stand still.
///
/// ```
/// use iron_twin_core::weigh::steady::{NotSettled, ScaleSays, Steady};
/// let mut steady = Steady::default();
/// let weight = |g, stable| ScaleSays::Weight { g, stable };
/// steady.hear(0, weight(398.0, false));
/// for ms in [200, 400, 600, 800] {
///     steady.hear(ms, weight(412.6, true));
/// }
/// assert_eq!(steady.settled(900), Ok(412.6));
/// assert_eq!(steady.settled(2_100), Err(NotSettled::Silent));
/// steady.took();
/// assert_eq!(steady.settled(900), Err(NotSettled::Taken));
/// ```
#[derive(Debug, Clone, Default)]
pub struct Steady {
    /// Weights called stable that lie together, oldest first, without a gap.
    still: VecDeque<(u64, f64)>,
    last: Option<(u64, ScaleSays)>,
    /// The load that was taken and still lies there, g.
    taken: Option<f64>,
}

impl Steady {
    /// Takes in what the scale says.
    pub fn hear(&mut self, ms: u64, says: ScaleSays) {
        // Nothing is known of what lay on it in a gap.
        if self
            .last
            .is_some_and(|(before, _)| ms.saturating_sub(before) > OLD_MS)
        {
            self.still.clear();
        }
        self.last = Some((ms, says));
        let ScaleSays::Weight { g, stable } = says else {
            self.still.clear();
            return;
        };
        if self
            .taken
            .is_some_and(|of| (of - g).abs() > LIFTED_G.max(of.abs() * LIFTED_SHARE))
        {
            self.taken = None;
        }
        if !stable || !g.is_finite() || self.still.iter().any(|&(_, before)| !alike(before, g)) {
            self.still.clear();
        }
        if stable && g.is_finite() {
            self.still.push_back((ms, g));
        }
        // One that is older than the time it must stand still is enough.
        while self
            .still
            .get(1)
            .is_some_and(|&(second, _)| ms.saturating_sub(second) >= STILL_MS)
        {
            self.still.pop_front();
        }
    }

    /// The line to the scale is gone: what it said counts no longer.
    pub fn lost(&mut self) {
        self.still.clear();
        self.last = None;
    }

    /// What it shows now, g; None where it says no weight, or nothing for a while.
    #[must_use]
    pub fn shows(&self, now_ms: u64) -> Option<f64> {
        match self.last {
            Some((ms, ScaleSays::Weight { g, .. })) if now_ms.saturating_sub(ms) <= OLD_MS => {
                Some(g)
            }
            _ => None,
        }
    }

    /// The weight that may be taken now, g.
    ///
    /// # Errors
    /// [`NotSettled`], why there is none.
    pub fn settled(&self, now_ms: u64) -> Result<f64, NotSettled> {
        let Some((ms, says)) = self.last else {
            return Err(NotSettled::Silent);
        };
        if now_ms.saturating_sub(ms) > OLD_MS {
            return Err(NotSettled::Silent);
        }
        let g = match says {
            ScaleSays::Overload => return Err(NotSettled::Overload),
            ScaleSays::Underload => return Err(NotSettled::BelowZero),
            ScaleSays::Weight { g, .. } => g,
        };
        let long = self
            .still
            .front()
            .is_some_and(|&(first, _)| ms.saturating_sub(first) >= STILL_MS);
        if !long || self.still.len() < LEAST_TIMES {
            return Err(NotSettled::Moving);
        }
        if g < -EMPTY_G {
            return Err(NotSettled::BelowZero);
        }
        if g < EMPTY_G {
            return Err(NotSettled::Empty);
        }
        if self.taken.is_some() {
            return Err(NotSettled::Taken);
        }
        Ok(g)
    }

    /// The load that lies there was taken: it must be lifted before the next.
    pub fn took(&mut self) {
        self.taken = match self.last {
            Some((_, ScaleSays::Weight { g, .. })) => Some(g),
            _ => None,
        };
    }

    /// What was taken is to be taken again, as after a correction.
    pub fn again(&mut self) {
        self.taken = None;
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn said() -> impl Strategy<Value = (u64, ScaleSays)> {
        let says = prop_oneof![
            6 => (prop_oneof![Just(0.0), Just(288.0), Just(412.6), Just(412.7), 0.0..900.0f64], any::<bool>())
                .prop_map(|(g, stable)| ScaleSays::Weight { g, stable }),
            6 => Just(ScaleSays::Weight { g: 412.6, stable: true }),
            1 => Just(ScaleSays::Overload),
            1 => Just(ScaleSays::Underload),
        ];
        (
            prop_oneof![5 => 50..400u64, 1 => Just(0), 1 => 400..5_000u64],
            says,
        )
    }

    proptest! {
        #![proptest_config(ProptestConfig::with_cases(2_000))]

        /// Whatever comes, what may be taken was said just now, called stable every time for long
        /// enough, and always the same.
        #[test]
        fn nothing_that_moves_or_is_old_is_taken(stream in prop::collection::vec(said(), 1..40), wait in 0..3_000u64) {
            let (mut steady, mut ms, mut heard) = (Steady::default(), 0, Vec::new());
            for (gap, says) in stream {
                ms += gap;
                steady.hear(ms, says);
                heard.push((ms, says));
                let now = ms + wait;
                let Ok(g) = steady.settled(now) else { continue };
                prop_assert!(wait <= OLD_MS);
                // Back from the end: an unbroken stretch of stable weights that lie together.
                let mut from = ms;
                let mut times = 0;
                for &(at, says) in heard.iter().rev() {
                    let ScaleSays::Weight { g: other, stable: true } = says else { break };
                    if from - at > OLD_MS || (other - g).abs() > 0.45 {
                        break;
                    }
                    from = at;
                    times += 1;
                }
                prop_assert!(ms - from >= STILL_MS && times >= LEAST_TIMES, "{g} after {} ms, {times} times", ms - from);
            }
        }

        /// And what stands still is taken, once: no load stays on the scale for ever, and none is
        /// taken twice.
        #[test]
        fn what_stands_still_is_taken_once(
            before in prop::collection::vec(said(), 0..30), g in 5.0..2_000.0f64, step in 80..200u64,
        ) {
            let (mut steady, mut ms) = (Steady::default(), 0);
            for (gap, says) in before {
                ms += gap;
                steady.hear(ms, says);
            }
            let mut stand = |steady: &mut Steady, g: f64| for _ in 0..15 {
                ms += step;
                steady.hear(ms, ScaleSays::Weight { g, stable: true });
                if steady.settled(ms).is_ok() {
                    break;
                }
            };
            stand(&mut steady, g);
            let now = steady.last.map_or(0, |(ms, _)| ms);
            prop_assert_eq!(steady.settled(now), Ok(g));
            steady.took();
            stand(&mut steady, g + 0.1);
            let now = steady.last.map_or(0, |(ms, _)| ms);
            prop_assert_eq!(steady.settled(now), Err(NotSettled::Taken));
            stand(&mut steady, 0.0);
            stand(&mut steady, g);
            let now = steady.last.map_or(0, |(ms, _)| ms);
            prop_assert_eq!(steady.settled(now), Ok(g));
        }
    }

    #[test]
    fn each_state_has_its_name() {
        let after = |said: &[ScaleSays]| {
            let mut steady = Steady::default();
            for (i, &says) in said.iter().enumerate() {
                steady.hear(200 * i as u64, says);
            }
            steady.settled(200 * said.len() as u64)
        };
        let of = |g: f64, stable: bool| ScaleSays::Weight { g, stable };
        assert_eq!(after(&[]), Err(NotSettled::Silent));
        assert_eq!(after(&[of(412.6, true); 3]), Err(NotSettled::Moving));
        assert_eq!(after(&[of(412.6, true); 4]), Ok(412.6));
        assert_eq!(after(&[of(412.6, false); 9]), Err(NotSettled::Moving));
        assert_eq!(after(&[of(0.4, true); 9]), Err(NotSettled::Empty));
        assert_eq!(after(&[of(-288.0, true); 9]), Err(NotSettled::BelowZero));
        assert_eq!(
            after(&[
                of(412.6, true),
                of(412.6, true),
                of(412.6, true),
                ScaleSays::Overload
            ]),
            Err(NotSettled::Overload)
        );
        assert_eq!(after(&[ScaleSays::Underload]), Err(NotSettled::BelowZero));
        assert_eq!(after(&[of(f64::NAN, true); 9]), Err(NotSettled::Moving));
        // A bunch of lines after a stutter is no time.
        let mut steady = Steady::default();
        (0..9).for_each(|_| steady.hear(5_000, of(412.6, true)));
        assert_eq!(steady.settled(5_000), Err(NotSettled::Moving));
        // A line that was pulled: nothing it said counts.
        (0..9).for_each(|i| steady.hear(6_000 + 200 * i, of(412.6, true)));
        assert_eq!(
            (steady.settled(7_700), steady.shows(7_700)),
            (Ok(412.6), Some(412.6))
        );
        steady.lost();
        assert_eq!(
            (steady.settled(7_700), steady.shows(7_700)),
            (Err(NotSettled::Silent), None)
        );
    }
}
