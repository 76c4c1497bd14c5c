//! What each treatment costs and brings on a unit, and what it earns beside the control: the
//! uncertainty of the yield is carried through to the money.

mod costs;
mod sold;
mod told;

pub use costs::Cost;
pub use sold::{Brought, Sold};
pub use told::Beside;

use self::costs::{costs, mean};
use self::told::Told;
use crate::stores::Stores;
use crate::stores::prices::Prices;
use crate::trial::Trial;
use crate::trial::question::Seeks;
use crate::verdict::comparison;
use iron_twin_judge::result::Contrast;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::civil::Date;
use serde::Serialize;
use std::sync::Arc;

/// What a treatment costs and brings on a unit.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct TreatmentMoney {
    /// The treatment.
    pub treatment: TreatmentIndex,
    /// Its costs.
    pub costs: Vec<Cost>,
    /// Their sum, as far as prices are known.
    pub cost: f64,
    /// What its harvest brings, on average; null where no price is known.
    pub value: Option<f64>,
    /// What is left.
    pub gain: Option<f64>,
    /// The same in a month, when one crop follows another in the same place.
    pub gain_a_month: Option<f64>,
    /// What it earns beside the control; null of the control itself.
    pub beside: Option<Beside>,
}

/// What a trial costs and brings.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Money {
    /// What stands before an amount.
    pub currency: String,
    /// Whether it is known of some treatment what its harvest brings.
    pub priced: bool,
    /// The day of the prices of electricity and work.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
    pub as_of: Option<Date>,
    /// Crops a year in one place: its days and those between.
    pub crops_a_year: f64,
    /// Each treatment.
    pub treatments: Vec<TreatmentMoney>,
    /// What has no price, so that it is not counted.
    pub unpriced: Vec<String>,
    /// What is cut in waves or sorted into grades, wave by wave and grade by grade.
    pub sold: Vec<Sold>,
    /// Grades that were cut and have no price: what a treatment brings that has any of them is not
    /// known.
    pub grades_without_price: Vec<String>,
    /// The oldest day of a price that goes into the costs; null where none has one.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
    pub oldest_price: Option<Date>,
}

/// Days of a month, on average.
const DAYS_A_MONTH: f64 = 365.25 / 12.0;

/// What an opened trial costs and brings. None before the key is open, and where nothing is cut.
#[must_use]
pub fn money(trial: &Trial, stores: &Stores, prices: &Prices) -> Option<Money> {
    trial.reveal.as_ref()?;
    let sheet = &trial.plan.sheet;
    let control = sheet.control()?;
    let costs: Vec<Vec<Cost>> = sheet
        .indices()
        .map(|t| costs(trial, stores, prices, t))
        .collect();
    let sum = |own: &[Cost]| own.iter().filter_map(|c| c.cost).sum::<f64>();
    let days = f64::from(trial.plan.ask.end_day + prices.days_between).max(1.0);
    let contrasts = contrasts(trial);
    let told = Told {
        trial,
        prices,
        control,
    };
    let of = |t: TreatmentIndex| {
        let (own, value) = (&costs[t.get()], value(trial, t));
        let cost = sum(own);
        let gain = value.map(|value| value - cost);
        let name = &sheet.treatments[t].name;
        let contrast = contrasts
            .iter()
            .flatten()
            .find(|c| c.treatment == *name)
            .filter(|_| t != control);
        let beside = contrast.and_then(|c| told.beside(t, c, (own, &costs[control.get()])));
        let gain_a_month = gain.map(|gain| gain * DAYS_A_MONTH / days);
        TreatmentMoney {
            treatment: t,
            costs: own.clone(),
            cost,
            value,
            gain,
            gain_a_month,
            beside,
        }
    };
    let treatments: Vec<TreatmentMoney> = sheet.indices().map(of).collect();
    let mut unpriced: Vec<String> = costs
        .iter()
        .flatten()
        .filter(|c| c.cost.is_none())
        .map(|c| c.name.clone())
        .collect();
    unpriced.sort();
    unpriced.dedup();
    let sold = sold::sold(trial);
    Some(Money {
        currency: prices.currency.clone(),
        priced: treatments.iter().any(|t| t.value.is_some()),
        as_of: prices.as_of,
        crops_a_year: 365.25 / days,
        oldest_price: costs.iter().flatten().filter_map(|c| c.priced_on).min(),
        grades_without_price: sold::without_price(&sold),
        sold,
        treatments,
        unpriced,
    })
}

/// What all units of a trial cost as planned, as far as prices are known; None where none is. Work
/// is not in it before it is done.
#[must_use]
pub fn planned_cost(trial: &Trial, stores: &Stores, prices: &Prices) -> Option<f64> {
    let each = trial.plan.sheet.indices().zip(trial.numbers());
    let known = each.flat_map(|(t, n)| {
        let own = costs(trial, stores, prices, t)
            .into_iter()
            .filter_map(|c| c.cost);
        own.map(move |cost| cost * n as f64)
    });
    known.reduce(|a, b| a + b)
}

/// What the harvest of a unit of a treatment brings, on average over those that were harvested.
fn value(trial: &Trial, treatment: TreatmentIndex) -> Option<f64> {
    let worth = |unit: UnitIndex| {
        let parts = trial.plan.ask.parts();
        parts
            .map(|crop| {
                trial
                    .cut_g(unit, crop)
                    .and(trial.yield_by(unit, crop, u32::MAX).value)
            })
            .sum::<Option<f64>>()
    };
    let cut = |unit: UnitIndex| {
        trial
            .plan
            .ask
            .parts()
            .all(|crop| trial.is_harvested(unit, crop))
    };
    let own = trial
        .each_unit()
        .filter(|(_, u)| u.treatment == treatment && u.lost.is_none());
    let all: Option<Vec<f64>> = own
        .filter(|(i, _)| cut(*i))
        .map(|(i, _)| worth(i))
        .collect();
    mean(&all?)
}

/// The treatments' harvests compared in money, as any other measure is.
fn contrasts(trial: &Trial) -> Option<Vec<Contrast>> {
    let mut own = trial.clone();
    let ask = &mut Arc::make_mut(&mut own.plan).ask;
    ask.primary_measure = "harvest_value".into();
    ask.also.clear();
    ask.judged_on.clear();
    (ask.by_ratio, ask.seeks) = (false, Seeks::Verdicts);
    let judged = own.decides();
    // Crops that share a unit are sold together; what is told of each by itself is told elsewhere.
    let crop = None;
    comparison::analysis(&own, judged, crop, None)
        .ok()
        .map(|analysis| analysis.contrasts)
}

#[cfg(test)]
#[path = "money_tests.rs"]
mod tests;
