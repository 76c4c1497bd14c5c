//! What a unit costs: what is used up, what wears out, electricity and work.

use crate::catalogue::readings::{self, Reading};
use crate::stores::keys;
use crate::stores::prices::Prices;
use crate::stores::{Item, Stores};
use crate::tend::materials::{Material, Planned, kilowatt_hours, materials};
use crate::trial::Trial;
use crate::trial::feed::FeedPlan;
use iron_twin_terms::indices::TreatmentIndex;
use jiff::civil::Date;
use serde::Serialize;

/// One cost of a unit.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = CostLine))]
pub struct Cost {
    /// Seed, medium, container, feed, water, light, lamp, work.
    pub kind: &'static str,
    /// What, as on the match sheet.
    pub name: String,
    /// How much on a unit.
    pub amount: f64,
    /// Unit of the amount.
    pub unit: &'static str,
    /// What it costs; null where no price is known.
    pub cost: Option<f64>,
    /// The day of its price; null where nobody said.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
    pub priced_on: Option<Date>,
}

/// What a unit of a treatment costs, line by line, without spare.
pub(super) fn costs(
    trial: &Trial,
    stores: &Stores,
    prices: &Prices,
    treatment: TreatmentIndex,
) -> Vec<Cost> {
    let sheet = &trial.plan.sheet;
    let numbers = trial.numbers();
    let n = treatment.of(&numbers).copied().unwrap_or(0).max(1);
    let own = trial.treatment_days();
    let feed = FeedPlan {
        spare_percent: 0.0,
        ..trial.plan.feed.clone()
    };
    let units: Vec<usize> = sheet
        .indices()
        .map(|t| if t == treatment { n } else { 0 })
        .collect();
    let hours = sheet.number(treatment, "light_hours").unwrap_or(0.0);
    let planned = Planned {
        sheet,
        units: &units,
        end_day: trial.plan.ask.end_day,
        sites: trial.plan.ask.sites(),
        care: &trial.plan.care,
        own: &own,
        feed: &feed,
        price_per_kwh: prices.per_kwh_of(hours),
    };
    let each = n as f64;
    let mut list: Vec<Cost> = materials(&planned, stores)
        .into_iter()
        .map(|m| line(m, stores, prices, each))
        .collect();
    list.extend(light(trial, stores, prices, treatment, &planned));
    pumps(trial, stores, prices, treatment, &mut list);
    list.extend(work(trial, prices, treatment));
    list
}

/// A lamp of Stores wears; watts typed at Match are power.
fn light(
    trial: &Trial,
    stores: &Stores,
    prices: &Prices,
    treatment: TreatmentIndex,
    planned: &Planned<'_>,
) -> Option<Cost> {
    let sheet = &trial.plan.sheet;
    let hours = sheet.number(treatment, "light_hours").unwrap_or(0.0);
    let care = &trial.plan.care;
    let lit_days = f64::from(planned.end_day.saturating_sub(care.blackout_days));
    let lamp = sheet.value(treatment, "light");
    if let Some(lamp) = lamp.and_then(|name| stores.find("lights", name.trim())) {
        let units = planned.units.iter().sum::<usize>() as f64;
        let lit = lamp.number(keys::UNITS_LIT).unwrap_or(units);
        return worn("lamp", lamp, lit, hours * lit_days);
    }
    let watts = sheet.number(treatment, "light_watts")?;
    Some(power(
        "light",
        "light",
        kilowatt_hours(watts, hours, lit_days),
        prices,
        planned.price_per_kwh,
    ))
}

/// A material as a cost of one unit.
fn line(m: Material, stores: &Stores, prices: &Prices, each: f64) -> Cost {
    let amount = m.amount / each;
    let shelf = SHELVES
        .iter()
        .find(|(kind, _)| *kind == m.kind)
        .map(|(_, shelf)| *shelf);
    let item = shelf.and_then(|shelf| stores.find(shelf, &m.name));
    // What serves several crops is spread over them, in equal parts.
    let crops = item
        .filter(|_| m.kind == "container")
        .and_then(|own| own.number(keys::LASTS_CROPS))
        .unwrap_or(1.0);
    let day = if m.kind == "light" {
        prices.as_of
    } else {
        item.and_then(Item::priced_on)
    };
    let priced_on = day.filter(|_| m.cost.is_some());
    Cost {
        kind: m.kind,
        name: m.name,
        amount,
        unit: m.unit,
        cost: m.cost.map(|cost| cost / each / crops),
        priced_on,
    }
}

/// What pumps wear and take.
fn pumps(
    trial: &Trial,
    stores: &Stores,
    prices: &Prices,
    treatment: TreatmentIndex,
    list: &mut Vec<Cost>,
) {
    let sheet = &trial.plan.sheet;
    for condition in ["aeration", "irrigation"] {
        if let Some(pump) = sheet
            .value(treatment, condition)
            .and_then(|name| stores.find("pumps", name.trim()))
        {
            let (a_day, served) = (
                pump.number(keys::HOURS_A_DAY).unwrap_or(24.0),
                pump.number(keys::UNITS_SERVED).unwrap_or(1.0),
            );
            let days = f64::from(trial.plan.ask.end_day);
            let energy = kilowatt_hours(
                pump.number(keys::WATTS).unwrap_or(0.0) / served.max(1.0),
                a_day,
                days,
            );
            // Round the clock it takes the mean of the hours, and part of a day is taken as spread
            // over it.
            list.push(power(
                "pump power",
                &pump.name,
                energy,
                prices,
                prices.per_kwh_of(24.0),
            ));
            list.extend(worn("pump", pump, served, a_day * days));
        }
    }
}

/// The shelf on which a kind of material stands.
const SHELVES: [(&str, &str); 6] = [
    ("seed", "seed_lots"),
    ("medium", "media"),
    ("container", "containers"),
    ("feed", "feeds"),
    ("additive", "additives"),
    ("water", "waters"),
];

/// A fixture itself, in equal parts over the hours that it lasts and the units that it serves. None
/// where it does not run or has no price.
fn worn(kind: &'static str, fixture: &Item, serves: f64, runs_h: f64) -> Option<Cost> {
    let price = fixture.number(keys::PRICE_EACH).filter(|_| runs_h > 0.0)?;
    let cost = fixture
        .number(keys::LASTS_H)
        .map(|lasts| price / serves.max(1.0) * runs_h / lasts);
    let priced_on = fixture.priced_on().filter(|_| cost.is_some());
    Some(Cost {
        kind,
        name: fixture.name.clone(),
        amount: runs_h,
        unit: "h",
        cost,
        priced_on,
    })
}

/// Electricity of something, at the price of its hours.
fn power(
    kind: &'static str,
    name: &str,
    amount: f64,
    prices: &Prices,
    per_kwh: Option<f64>,
) -> Cost {
    let cost = per_kwh.map(|price| price * amount);
    Cost {
        kind,
        name: name.to_owned(),
        amount,
        unit: "kWh",
        cost,
        priced_on: prices.as_of.filter(|_| cost.is_some()),
    }
}

/// The kind of cost that work is.
pub(super) const WORK: &str = "work";

/// Work on a unit of a treatment, task by task, each on average over the units of which it is
/// known.
fn work(trial: &Trial, prices: &Prices, treatment: TreatmentIndex) -> Vec<Cost> {
    let task = |own: &&Reading| {
        let units = trial
            .each_unit()
            .filter(|(_, u)| u.treatment == treatment && u.lost.is_none());
        let minutes = |unit| {
            trial
                .of_unit(unit)
                .of(own.key, None, None)
                .map(|(_, m)| m)
                .reduce(|a, b| a + b)
        };
        let amount = mean(
            &units
                .filter_map(|(unit, _)| minutes(unit))
                .collect::<Vec<f64>>(),
        )?;
        let cost = prices.per_hour.map(|hour| hour * amount / 60.0);
        let name = own.name.trim_start_matches("work: ").to_owned();
        Some(Cost {
            kind: WORK,
            name,
            amount,
            unit: "min",
            cost,
            priced_on: prices.as_of.filter(|_| cost.is_some()),
        })
    };
    readings::WORK.iter().filter_map(task).collect()
}

/// The mean; None of nothing.
pub(super) fn mean(values: &[f64]) -> Option<f64> {
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}
