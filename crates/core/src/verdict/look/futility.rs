//! Whether going on can still bring what was hoped for.

use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_stats::looks::best_of_the_rest;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;

/// Chance of an end beyond what is called the best of the rest.
const TAIL: f64 = 0.05;

/// Share of the days before which nothing is given up: what works slowly has not shown yet what it
/// does.
const FROM: f64 = 0.5;

/// Whether none of the treatments is likely to end as far beyond the control as matters, though the
/// rest went as well as the figures at a `share` of the trial still allow. It stops nothing, so it
/// costs nothing of the allowance. Nobody hopes that a match differs, and what is no amount has no
/// standard error in the unit of its margin.
pub(super) fn is_out_of_reach(found: &Analysis, share: f64) -> bool {
    let hopes = share >= FROM && found.goal != Goal::Match && found.kind == Kind::Amount;
    let Some(margin) = found.margin.as_ref().filter(|_| hopes) else {
        return false;
    };
    let by_ratio = found.scale == "ratio";
    let hoped = match (by_ratio, margin.given.parse::<Margin>(), margin.absolute) {
        (true, Ok(Margin::Percent(percent)), _) => {
            let part = percent / 100.0;
            Some(if found.better == Better::Lower {
                -(1.0 - part).ln()
            } else {
                part.ln_1p()
            })
        }
        (false, _, absolute) => absolute,
        _ => None,
    };
    let Some(hoped) = hoped.filter(|own| own.is_finite()) else {
        return false;
    };
    let falls_short = |c: &Contrast| {
        let estimate = if by_ratio {
            c.estimate.ln()
        } else {
            c.estimate
        };
        let gain = if found.better == Better::Lower {
            -estimate
        } else {
            estimate
        };
        // Without a standard error nothing is known of what may come.
        let best =
            c.se.and_then(|se| best_of_the_rest(share, (gain, se, c.df), TAIL).ok());
        best.is_some_and(|best| best < hoped)
    };
    !found.contrasts.is_empty() && found.contrasts.iter().all(falls_short)
}
