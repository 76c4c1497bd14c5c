//! A treatment that had none, or all, in every unit: limits where its own odds or logarithm lie at
//! infinity.
//!
//! The likelihood of the two totals inside each block, with the gap held and the control's own
//! level chosen as well as may be, falls as the gap moves from what was seen. Divided by the
//! dispersion that the other treatments show, twice that fall is held against the square of the
//! critical t: the quasi-likelihood ratio. Source: McCullagh and Nelder 1989, section 9.2; profile
//! limits: Venzon and Moolgavkar 1988.

use super::distributions::{decreasing_root, f_upper};

/// What was counted in a block: of the treatment and of the control, each a count with what it was
/// counted in.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pair {
    /// Count and size of the treatment.
    pub treated: (f64, f64),
    /// Count and size of the control.
    pub control: (f64, f64),
}

/// Limits of a gap with a treatment at the edge.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct EdgeLimits {
    /// Lower limit.
    pub low: f64,
    /// Upper limit; infinite for a ratio over a control without any.
    pub high: f64,
    /// Twice the fall of the log-likelihood between the best gap and none at all, undivided.
    pub fall: f64,
}

impl EdgeLimits {
    /// Chance of so great a fall where there is no gap.
    ///
    /// ```
    /// use iron_twin_stats::edge::{Pair, ratio_limits};
    /// let pair = Pair { treated: (0.0, 3.0), control: (65.0, 3.0) };
    /// let limits = ratio_limits(&[pair], 3.0, 2.776).expect("something was counted");
    /// assert!(limits.p(3.0, 4.0) < 0.01);
    /// ```
    #[must_use]
    pub fn p(&self, dispersion: f64, df: f64) -> f64 {
        f_upper(self.fall / dispersion, 1.0, df)
    }
}

/// Limits of a ratio of rates, treatment over control, where one of the two counted none in any
/// block. None where both did.
///
/// ```
/// use iron_twin_stats::edge::{Pair, ratio_limits};
/// // None against 20 in as much: 2 x 20 ln(1 + ratio) = 4, so that the ratio may be exp(0.1) - 1.
/// let limits = ratio_limits(&[Pair { treated: (0.0, 1.0), control: (20.0, 1.0) }], 1.0, 2.0).expect("twenty");
/// assert!(limits.low == 0.0 && (limits.high - 0.1f64.exp_m1()).abs() < 1e-9);
/// ```
#[must_use]
pub fn ratio_limits(blocks: &[Pair], dispersion: f64, critical: f64) -> Option<EdgeLimits> {
    let none = |side: fn(&Pair) -> f64| blocks.iter().all(|b| side(b) == 0.0);
    let (treated_none, control_none) = (none(|b| b.treated.0), none(|b| b.control.0));
    // The fall at a ratio, with the side that counted none first; over a control without any the
    // ratio stands upside down.
    let fall = |ratio: f64| -> f64 {
        let share = |b: &Pair| {
            let ((_, empty), (count, full)) = if treated_none {
                (b.treated, b.control)
            } else {
                (b.control, b.treated)
            };
            2.0 * count * (ratio * empty / full).ln_1p()
        };
        blocks.iter().map(share).sum()
    };
    if treated_none == control_none {
        return None;
    }
    let reach = dispersion * critical * critical;
    let most = decreasing_root("limit of a ratio", 1.0, |ratio| reach - fall(ratio)).ok()?;
    let at_none = fall(1.0);
    Some(if treated_none {
        EdgeLimits {
            low: 0.0,
            high: most,
            fall: at_none,
        }
    } else {
        EdgeLimits {
            low: 1.0 / most,
            high: f64::INFINITY,
            fall: at_none,
        }
    })
}

/// Limits of a difference of shares, treatment less control, as shares: the same gap in every
/// block.
///
/// ```
/// use iron_twin_stats::edge::{Pair, share_limits};
/// // All of 60 against 29 of 60: the control may reach no more than about a third less.
/// let limits = share_limits(&[Pair { treated: (60.0, 60.0), control: (29.0, 60.0) }], 1.0, 1.96);
/// assert!((0.38..0.40).contains(&limits.low) && (0.63..0.65).contains(&limits.high), "{limits:?}");
/// ```
#[must_use]
pub fn share_limits(blocks: &[Pair], dispersion: f64, critical: f64) -> EdgeLimits {
    // Concave in the gap, because it is the best of a sum of logarithms of plain sums.
    let support = |gap: f64| blocks.iter().map(|b| best_support(b, gap)).sum::<f64>();
    let best = highest(-1.0, 1.0, support);
    let top = support(best);
    let reach = 0.5 * dispersion * critical * critical;
    let limit = |outside: f64| {
        let (mut inside, mut outside) = (best, outside);
        if top - support(outside) <= reach {
            return outside;
        }
        for _ in 0..STEPS {
            let middle = 0.5 * (inside + outside);
            if top - support(middle) > reach {
                outside = middle
            } else {
                inside = middle
            }
        }
        inside
    };
    EdgeLimits {
        low: limit(-1.0),
        high: limit(1.0),
        fall: 2.0 * (top - support(0.0)).max(0.0),
    }
}

/// Halvings: each limit to about 1e-12.
const STEPS: usize = 42;

/// Log-likelihood of a block with a given gap, the control's share chosen as well as may be.
fn best_support(block: &Pair, gap: f64) -> f64 {
    let term = |count: f64, share: f64| {
        if count > 0.0 {
            count * share.max(0.0).ln()
        } else {
            0.0
        }
    };
    let ((k1, n1), (k0, n0)) = (block.treated, block.control);
    let support = |p: f64| {
        term(k0, p) + term(n0 - k0, 1.0 - p) + term(k1, p + gap) + term(n1 - k1, 1.0 - p - gap)
    };
    let (from, to) = ((-gap).max(0.0), (1.0 - gap).min(1.0));
    if from >= to {
        return support(from.min(1.0));
    }
    support(highest(from, to, support))
        .max(support(from))
        .max(support(to))
}

/// Where a concave function stands highest, by thirds.
fn highest(mut from: f64, mut to: f64, f: impl Fn(f64) -> f64) -> f64 {
    const THIRDS: usize = 60;
    for _ in 0..THIRDS {
        let (a, b) = (from + (to - from) / 3.0, to - (to - from) / 3.0);
        if f(a) < f(b) { from = a } else { to = b }
    }
    0.5 * (from + to)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn all_of(n: f64, k0: f64) -> Pair {
        Pair {
            treated: (n, n),
            control: (k0, n),
        }
    }

    /// All of n against k of n at no gap: both at (n + k) / 2n; the fall is twice the gain of the
    /// free shares over it.
    #[test]
    fn the_fall_to_no_gap_is_that_of_the_table() {
        let limits = share_limits(&[all_of(60.0, 29.0)], 1.0, 2.0);
        let (p, q): (f64, f64) = (29.0 / 60.0, 89.0 / 120.0);
        let by_hand =
            2.0 * (29.0 * p.ln() + 31.0 * (1.0 - p).ln() - 89.0 * q.ln() - 31.0 * (1.0 - q).ln());
        assert!(
            (limits.fall - by_hand).abs() < 1e-8,
            "{} {by_hand}",
            limits.fall
        );
    }

    #[test]
    fn turning_the_question_turns_the_limits() {
        let (a, b) = (
            share_limits(&[all_of(20.0, 12.0)], 1.4, 2.2),
            Pair {
                treated: (8.0, 20.0),
                control: (20.0, 20.0),
            },
        );
        // What did not come up in place of what did, and sides exchanged.
        let none = share_limits(
            &[Pair {
                treated: (0.0, 20.0),
                control: (8.0, 20.0),
            }],
            1.4,
            2.2,
        );
        assert!(
            (a.low + none.high).abs() < 1e-9 && (a.high + none.low).abs() < 1e-9,
            "{a:?} {none:?}"
        );
        let swapped = share_limits(
            &[Pair {
                treated: (20.0, 20.0),
                control: (8.0, 20.0),
            }],
            1.4,
            2.2,
        );
        let other = share_limits(&[b], 1.4, 2.2);
        assert!((swapped.low + other.high).abs() < 1e-9);
    }

    #[test]
    fn ratios_turn_over_and_blocks_add() {
        let pair = |t: f64, c: f64| Pair {
            treated: (t, 2.0),
            control: (c, 3.0),
        };
        let (none, all) = (ratio_limits(&[pair(0.0, 9.0)], 2.0, 2.5).unwrap(), {
            let turned = Pair {
                treated: (9.0, 3.0),
                control: (0.0, 2.0),
            };
            ratio_limits(&[turned], 2.0, 2.5).unwrap()
        });
        assert!(
            (none.high * all.low - 1.0).abs() < 1e-9 && all.high.is_infinite() && none.low == 0.0
        );
        let (one, two) = (
            ratio_limits(&[pair(0.0, 18.0)], 2.0, 2.5).unwrap().high,
            ratio_limits(&[pair(0.0, 9.0), pair(0.0, 9.0)], 2.0, 2.5)
                .unwrap()
                .high,
        );
        assert!((one - two).abs() < 1e-9);
        assert!(ratio_limits(&[pair(0.0, 0.0)], 1.0, 2.0).is_none());
    }
}
