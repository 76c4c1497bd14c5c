//! What a harvest is told for: a square metre, a plant, a gram of seed, a day, a kilowatt-hour, a
//! litre of water, a millilitre of feed, an hour of work. Derived here once; every station reads
//! the same figure.

use crate::catalogue::deeds::Job;
use crate::catalogue::measures::Per;
use crate::trial::Trial;
use crate::trial::application::{Amount, Application, Role};
use crate::trial::received::Received;
use crate::trial::records::{CropNumber, UnitRecords};
use crate::trial::uptake::{Strength, uptake};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};

/// Water that went from a unit, L; None where the records do not tell.
pub(crate) fn water_used(own: &UnitRecords) -> Option<f64> {
    uptake(&own.tank_days(), Strength::UNKNOWN)
        .ok()
        .map(|used| used.water_l)
}

/// The day on which a unit was cut last.
fn cut_on(trial: &Trial, unit: UnitIndex) -> Option<u32> {
    let weighed = trial.of_unit(unit).weighings().iter().map(|w| w.head.day);
    let picked = trial
        .records
        .picks()
        .iter()
        .filter(|p| p.unit == Some(unit) && p.net_g() > 0.0)
        .map(|p| p.head.day);
    weighed.chain(picked).max()
}

/// Electricity of the light over a unit until a day, kWh: from the end of the dark days on.
fn energy_kwh(trial: &Trial, treatment: TreatmentIndex, until: u32) -> Option<f64> {
    let dark = trial
        .plan
        .sheet
        .number(treatment, "blackout_days")
        .unwrap_or(f64::from(trial.plan.care.blackout_days));
    let days = (f64::from(until) - dark).max(0.0);
    Some(
        trial.plan.sheet.number(treatment, "light_watts")?
            * trial.plan.sheet.number(treatment, "light_hours")?
            * days
            / 1000.0,
    )
}

/// Feed in so much solution, mL or g as it comes from the bottle; None where nobody knows the dose.
fn feed_in(trial: &Trial, own: &Application, solution_ml: f64) -> Option<f64> {
    let litres = solution_ml / 1000.0;
    match own.amount {
        Amount::OfLabel(share) => Some(litres * share * trial.plan.feed.label_per_litre),
        Amount::PerLitre(dose) => Some(litres * dose),
        Amount::PerUnit(dose) => Some(dose),
        Amount::PerSite(_) | Amount::Undiluted => None,
    }
}

/// Feed that a unit got, mL or g as it comes from the bottle; None where some of it was given
/// without a measure.
fn feed_given(trial: &Trial, unit: UnitIndex) -> Option<f64> {
    let applications = &trial
        .plan
        .sheet
        .get(trial.units[unit].treatment)?
        .applications;
    let feeds = || {
        applications
            .iter()
            .filter(|a| a.role == Role::Feed && a.how.in_tank() && !a.is_nothing())
    };
    let held = |gift: &Received| -> Option<f64> {
        let portion = gift.portion.as_ref()?;
        let falls = feeds().filter(|a| a.when.falls_on(Some(gift.day)));
        let own: Vec<&Application> = falls
            .filter(|a| portion.what.contains(a.what.trim()))
            .collect();
        own.into_iter().try_fold(0.0, |sum, a| {
            Some(sum + feed_in(trial, a, portion.amount?)?)
        })
    };
    let received = trial.received(unit, true);
    let fed = received.gifts.iter().filter(|g| g.job == Job::Feed);
    fed.map(held).try_fold(0.0, |sum, own| Some(sum + own?))
}

/// What was spent on a unit, in the unit of what a harvest is told for.
fn spent(trial: &Trial, unit: UnitIndex, per: Per) -> Option<f64> {
    let own = trial.of_unit(unit);
    let treatment = trial.units[unit].treatment;
    match per {
        Per::Water => water_used(own),
        Per::Surface => trial
            .plan
            .sheet
            .number(treatment, "surface")
            .map(|cm2| cm2 / 10_000.0),
        Per::Plant => {
            let standing = trial
                .plan
                .ask
                .samples()
                .flatten()
                .filter(|s| trial.gone(unit, Some(*s)).is_none())
                .count();
            (standing > 0).then_some(standing as f64)
        }
        Per::Seed => trial.plan.sheet.number(treatment, "seed_weight"),
        Per::Day => cut_on(trial, unit).map(f64::from),
        Per::Energy => energy_kwh(trial, treatment, cut_on(trial, unit)?),
        Per::Feed => feed_given(trial, unit),
        Per::Work => own.work_minutes().map(|minutes| minutes / 60.0),
    }
}

/// What was cut from a unit, or from a crop of it, for each of what was spent on the unit. None
/// where one of them is not known or nothing was spent, and before the key is open where it would
/// tell which unit has which treatment.
#[must_use]
pub fn harvest_per(
    trial: &Trial,
    unit: UnitIndex,
    crop: Option<CropNumber>,
    per: Per,
) -> Option<f64> {
    if per.tells_treatment() && !trial.tells_deal() {
        return None;
    }
    let cut_g = trial.cut_g(unit, crop)?;
    spent(trial, unit, per)
        .filter(|spent| *spent > 0.0)
        .map(|spent| cut_g / spent)
}

#[cfg(test)]
mod tests;
