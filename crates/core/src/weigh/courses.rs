//! The running yield of a harvest in waves: how much each treatment had cut by each day, and how
//! many days it was ahead of the control.

use crate::trial::Trial;
use crate::trial::records::CropNumber;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::words::capitalised;
use serde::Serialize;
use std::collections::BTreeSet;

/// How much a treatment had cut by each day.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Course {
    /// Which treatment.
    pub of: TreatmentIndex,
    /// Days since sowing, from 0; those on which something was cut of any unit.
    pub days: Vec<u32>,
    /// All that was cut until then, mean over its units, g.
    pub mean_g: Vec<f64>,
}

/// What a unit had cut by each of these days, g.
fn of_unit(trial: &Trial, unit: UnitIndex, crop: Option<CropNumber>, days: &[u32]) -> Vec<f64> {
    days.iter()
        .map(|day| trial.yield_by(unit, crop, *day).g)
        .collect()
}

/// Units of a treatment that stand.
fn units(trial: &Trial, of: TreatmentIndex) -> Vec<UnitIndex> {
    trial
        .each_unit()
        .filter(|(_, u)| u.treatment == of && u.lost.is_none())
        .map(|(i, _)| i)
        .collect()
}

/// The running yield of every treatment, in the order of the sheet; empty where the harvest does
/// not come in waves, and before the key is open.
#[must_use]
pub fn courses(trial: &Trial, crop: Option<CropNumber>) -> Vec<Course> {
    if trial.plan.ask.waves.is_none() || !trial.tells_deal() {
        return Vec::new();
    }
    let picked = trial
        .records
        .picks()
        .iter()
        .filter(|p| p.net_g() > 0.0)
        .map(|p| p.head.day);
    let weighed = trial
        .unit_indices()
        .flat_map(|unit| trial.of_unit(unit).weighings().iter().map(|w| w.head.day));
    let days: BTreeSet<u32> = picked.chain(weighed).chain([0]).collect();
    let days: Vec<u32> = days.into_iter().collect();
    let course = |of: TreatmentIndex| {
        let units = units(trial, of);
        let own: Vec<Vec<f64>> = units
            .iter()
            .map(|unit| of_unit(trial, *unit, crop, &days))
            .collect();
        let mean = |at: usize| own.iter().map(|g| g[at]).sum::<f64>() / own.len() as f64;
        (!own.is_empty() && days.len() > 1).then(|| Course {
            of,
            days: days.clone(),
            mean_g: (0..days.len()).map(mean).collect(),
        })
    };
    trial.plan.sheet.indices().filter_map(course).collect()
}

/// The day on which a running yield came to so much, between two cuts by the straight line; None
/// where it never did.
fn came_to(days: &[u32], g: &[f64], wanted: f64) -> Option<f64> {
    let at = g.iter().position(|own| *own >= wanted - 1e-9)?;
    // Before its first cut there was nothing to cut: no line leads there from the sowing.
    let Some(before) = at.checked_sub(1).filter(|before| g[*before] > 0.0) else {
        return Some(f64::from(days[at]));
    };
    let (from, until) = (f64::from(days[before]), f64::from(days[at]));
    Some(from + (until - from) * ((wanted - g[before]) / (g[at] - g[before])).clamp(0.0, 1.0))
}

/// By which day a treatment had cut as much as the control in all, where it was at least a day
/// earlier: in a sentence, with how many crops a year that makes, one after another. Empty where
/// none was.
#[must_use]
pub fn ahead(trial: &Trial, crop: Option<CropNumber>, all: &[Course]) -> Vec<String> {
    let Some(control) = trial
        .plan
        .sheet
        .control()
        .and_then(|c| all.iter().find(|own| own.of == c))
    else {
        return Vec::new();
    };
    let wanted = control.mean_g.last().copied().unwrap_or(0.0);
    let Some(control_day) =
        came_to(&control.days, &control.mean_g, wanted).filter(|_| wanted > 0.0)
    else {
        return Vec::new();
    };
    let name = |of: TreatmentIndex| trial.plan.sheet.treatments[of].name.as_str();
    let said = |own: &Course| {
        let day = came_to(&own.days, &own.mean_g, wanted)?;
        if day <= 0.0 || control_day - day < 1.0 {
            return None;
        }
        let range = range(trial, own, crop, wanted);
        let ahead = control_day - day;
        Some(format!(
            "{} had cut by day {day:.0}{range} what {} had by day {control_day:.0}: {ahead:.0} \
             day{} ahead. One crop after another that is {:.1} a year instead of {:.1}; whether \
             it is more than luck, the verdict says.",
            capitalised(name(own.of)),
            name(control.of),
            if format!("{ahead:.0}") == "1" {
                ""
            } else {
                "s"
            },
            365.0 / day,
            365.0 / control_day
        ))
    };
    all.iter()
        .filter(|own| own.of != control.of)
        .filter_map(said)
        .collect()
}

/// On which days the units of a treatment came to it, in brackets.
fn range(trial: &Trial, own: &Course, crop: Option<CropNumber>, wanted: f64) -> String {
    let each = units(trial, own.of);
    let days: Vec<f64> = each
        .iter()
        .filter_map(|unit| came_to(&own.days, &of_unit(trial, *unit, crop, &own.days), wanted))
        .collect();
    let (first, last) = days
        .iter()
        .fold((f64::MAX, 0.0_f64), |(a, b), d| (a.min(*d), b.max(*d)));
    let never = each.len() - days.len();
    let word = trial.plan.rack.kind.units();
    let never = if never > 0 {
        format!(", {never} of {} never", each.len())
    } else {
        String::new()
    };
    let on = if format!("{first:.0}") == format!("{last:.0}") {
        format!("day {first:.0}")
    } else {
        format!("days {first:.0} to {last:.0}")
    };
    if days.is_empty() {
        String::new()
    } else {
        format!(" (its {word} on {on}{never})")
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::Reveal;
    use crate::trial::deal::Unit;
    use crate::trial::plan::Plan;
    use crate::trial::record::pick::Pick;
    use crate::trial::records::{Recorded, record_head};
    use crate::trial::space::Position;
    use crate::trial::waves::Waves;
    use jiff::Timestamp;
    use std::sync::Arc;

    /// Two units of plain water and two of full feed with these picks: unit, day, g.
    fn trial(picks: &[(usize, u32, f64)]) -> Trial {
        let mut plan = Plan::usual("Peppers");
        plan.ask.waves = Some(Waves::default());
        let mut trial = Trial::planned("x", plan);
        let unit = |n: usize| Unit {
            id: format!("u{n}"),
            code: char::from(b'A' + n as u8).to_string(),
            position: Position {
                level: 1,
                slot: n as u32 + 1,
            },
            treatment: TreatmentIndex(n / 2),
            lost: None,
        };
        trial.units = Arc::new((0..4).map(unit).collect());
        trial.records.units = (0..4).map(|_| Arc::default()).collect();
        let pick = |&(unit, day, net_g): &(usize, u32, f64)| {
            Recorded::new(
                Some(UnitIndex(unit)),
                record_head(day),
                Pick {
                    gross_g: net_g,
                    tare_g: 0.0,
                    pieces: None,
                    grade: String::new(),
                    aside: false,
                },
            )
        };
        trial.records.lists.set(picks.iter().map(pick).collect());
        trial.reveal = Some(Reveal {
            at: Timestamp::UNIX_EPOCH,
            day: 40,
            weighed: 4,
            reason: String::new(),
        });
        trial
    }

    /// Plain water comes to 400 g by day 40; full feed had 300 g by day 20 and 600 g by day 30.
    fn fed() -> Trial {
        trial(&[
            (0, 30, 200.0),
            (1, 30, 200.0),
            (0, 40, 200.0),
            (1, 40, 200.0),
            (2, 20, 300.0),
            (3, 20, 300.0),
            (2, 30, 400.0),
            (3, 30, 200.0),
        ])
    }

    fn told(trial: &Trial) -> Vec<String> {
        ahead(trial, None, &courses(trial, None))
    }

    #[test]
    fn days_ahead_are_read_off_the_running_yield() {
        let own = fed();
        let all = courses(&own, None);
        assert_eq!(
            (all[0].days.clone(), all[0].mean_g.clone()),
            (vec![0, 20, 30, 40], vec![0.0, 0.0, 200.0, 400.0])
        );
        assert_eq!(all[1].mean_g, [0.0, 300.0, 600.0, 600.0]);
        // 400 g lie a third of the way from 300 g on day 20 to 600 g on day 30; of its units a
        // quarter and a half.
        assert_eq!(
            told(&own),
            [
                "Full feed had cut by day 23 (its trays on days 22 to 25) what plain water had by \
                 day 40: 17 days ahead. One crop after another that is 15.6 a year instead of \
                 9.1; whether it is more than luck, the verdict says."
            ]
        );
    }

    #[test]
    fn who_is_not_ahead_and_what_is_sealed_says_nothing() {
        let behind = trial(&[
            (0, 30, 200.0),
            (1, 30, 200.0),
            (2, 30, 100.0),
            (3, 40, 100.0),
        ]);
        assert_eq!(told(&behind), Vec::<String>::new());
        let alike = trial(&[
            (0, 30, 200.0),
            (1, 30, 200.0),
            (2, 30, 201.0),
            (3, 30, 203.0),
        ]);
        assert_eq!(told(&alike), Vec::<String>::new());
        assert_eq!(told(&trial(&[])), Vec::<String>::new());
        let sealed = Trial {
            reveal: None,
            ..fed()
        };
        assert!(courses(&sealed, None).is_empty() && told(&sealed).is_empty());
        let mut once = fed();
        Arc::make_mut(&mut once.plan).ask.waves = None;
        assert!(courses(&once, None).is_empty());
        // One of its units never came to it.
        let uneven = trial(&[
            (0, 40, 200.0),
            (1, 40, 200.0),
            (2, 20, 500.0),
            (3, 20, 100.0),
        ]);
        assert!(
            told(&uneven)[0].contains("by day 20 (its trays on day 20, 1 of 2 never)"),
            "{:?}",
            told(&uneven)
        );
    }
}
