//! What each treatment costs and brings on a unit, and what it earns beside the control: the uncertainty of the yield is carried
//! through to the money.

use super::comparison;
use crate::judge::result::Contrast;
use crate::judge::sentence::interval;
use crate::stores::Stores;
use crate::stores::prices::Prices;
use crate::tend::materials::{Material, Planned, kilowatt_hours, materials};
use crate::terms::indices::{TreatmentIndex, UnitIndex};
use crate::terms::words::capitalised;
use crate::trial::Trial;
use crate::trial::feed::FeedPlan;
use crate::trial::question::Seeks;
use jiff::civil::Date;
use serde::Serialize;
use std::sync::Arc;

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
}

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

/// What a treatment earns on a unit beside the control.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = MoneyBeside))]
pub struct Beside {
    /// What it costs more; below 0 what it saves.
    pub cost: f64,
    /// What it earns more, after that.
    pub gain: f64,
    /// The lower end of what it very likely earns more,
    pub low: f64,
    /// and the upper.
    pub high: f64,
    /// The price of a kg from which on it earns more, where it costs and yields more.
    pub pays_from_per_kg: Option<f64>,
    /// What it must yield more on a unit to earn back what it costs more, g.
    pub pays_from_g: Option<f64>,
    /// What it earns more for each of the money spent more, before that is taken off.
    pub brings_per_spent: Option<f64>,
    /// In words.
    pub sentence: String,
}

/// What a trial costs and brings.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Money {
    /// What stands before an amount.
    pub currency: String,
    /// Whether it is known what the harvest brings.
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
}

/// Days of a month, on average.
const DAYS_A_MONTH: f64 = 365.25 / 12.0;

/// What an opened trial costs and brings. None before the key is open, and where nothing is cut.
#[must_use]
pub fn money(trial: &Trial, stores: &Stores, prices: &Prices) -> Option<Money> {
    trial.reveal.as_ref()?;
    let sheet = &trial.plan.sheet;
    let control = sheet.control()?;
    let costs: Vec<Vec<Cost>> = sheet.indices().map(|t| costs(trial, stores, prices, t)).collect();
    let sum = |own: &[Cost]| own.iter().filter_map(|c| c.cost).sum::<f64>();
    let days = f64::from(trial.plan.ask.end_day + prices.days_between).max(1.0);
    let contrasts = contrasts(trial);
    let told = Told { trial, prices, control };
    let of = |t: TreatmentIndex| {
        let (own, value) = (&costs[t.get()], value(trial, t));
        let cost = sum(own);
        let gain = value.map(|value| value - cost);
        let name = &sheet.treatments[t].name;
        let contrast = contrasts.iter().flatten().find(|c| c.treatment == *name).filter(|_| t != control);
        let beside = contrast.and_then(|c| told.beside(t, c, (own, &costs[control.get()])));
        let gain_a_month = gain.map(|gain| gain * DAYS_A_MONTH / days);
        TreatmentMoney { treatment: t, costs: own.clone(), cost, value, gain, gain_a_month, beside }
    };
    let treatments: Vec<TreatmentMoney> = sheet.indices().map(of).collect();
    let mut unpriced: Vec<String> =
        costs.iter().flatten().filter(|c| c.cost.is_none()).map(|c| c.name.clone()).collect();
    unpriced.sort();
    unpriced.dedup();
    Some(Money {
        currency: prices.currency.clone(),
        priced: treatments.iter().any(|t| t.value.is_some()),
        as_of: prices.as_of,
        crops_a_year: 365.25 / days,
        treatments,
        unpriced,
    })
}

/// What all units of a trial cost as planned, as far as prices are known; None where none is. Work is not in it before it is
/// done.
#[must_use]
pub fn planned_cost(trial: &Trial, stores: &Stores, prices: &Prices) -> Option<f64> {
    let each = trial.plan.sheet.indices().zip(trial.numbers());
    let known = each.flat_map(|(t, n)| {
        let own = costs(trial, stores, prices, t).into_iter().filter_map(|c| c.cost);
        own.map(move |cost| cost * n as f64)
    });
    known.reduce(|a, b| a + b)
}

/// What a unit of a treatment costs, line by line, without spare.
fn costs(trial: &Trial, stores: &Stores, prices: &Prices, treatment: TreatmentIndex) -> Vec<Cost> {
    let sheet = &trial.plan.sheet;
    let numbers = trial.numbers();
    let n = treatment.of(&numbers).copied().unwrap_or(0).max(1);
    let own = trial.treatment_days();
    let feed = FeedPlan { spare_percent: 0.0, ..trial.plan.feed.clone() };
    let units: Vec<usize> = sheet.indices().map(|t| if t == treatment { n } else { 0 }).collect();
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
    let line = |m: Material| {
        let amount = m.amount / each;
        // What serves several crops is spread over them, in equal parts.
        let lasts = (m.kind == "container").then(|| stores.find("containers", &m.name)?.number("lasts_crops"));
        let cost = match lasts {
            Some(crops) => m.cost.zip(crops).map(|(cost, crops)| cost / each / crops),
            None => m.cost.map(|cost| cost / each),
        };
        Cost { kind: m.kind, name: m.name, amount, unit: m.unit, cost }
    };
    let mut list: Vec<Cost> = materials(&planned, stores).into_iter().map(line).collect();
    let lit_days = f64::from(trial.plan.ask.end_day.saturating_sub(trial.plan.care.blackout_days));
    if let Some(lamp) = sheet.value(treatment, "light").and_then(|name| stores.find("lights", name.trim())) {
        // The lamp itself, in equal parts over the hours that it lasts.
        let lit = lamp.number("units_lit").unwrap_or(each).max(1.0);
        let (burns, price, lasts) = (hours * lit_days, lamp.number("price_each"), lamp.number("lasts_h"));
        if let Some(price) = price.filter(|_| burns > 0.0) {
            let cost = lasts.map(|lasts| price / lit * burns / lasts);
            list.push(Cost { kind: "lamp", name: lamp.name.clone(), amount: burns, unit: "h", cost });
        }
    } else if let Some(watts) = sheet.number(treatment, "light_watts") {
        let amount = kilowatt_hours(watts, hours, lit_days);
        let cost = planned.price_per_kwh.map(|price| price * amount);
        list.push(Cost { kind: "light", name: "light".into(), amount, unit: "kWh", cost });
    }
    if let Some(minutes) = work(trial, treatment) {
        let cost = prices.per_hour.map(|hour| hour * minutes / 60.0);
        list.push(Cost { kind: "work", name: "work".into(), amount: minutes, unit: "min", cost });
    }
    list
}

/// Minutes of work on a unit of a treatment, on average over those of which they are known.
fn work(trial: &Trial, treatment: TreatmentIndex) -> Option<f64> {
    let own = trial.each_unit().filter(|(_, u)| u.treatment == treatment && u.lost.is_none());
    let minutes = own.filter_map(|(i, _)| trial.of_unit(i).of("work", None, None).map(|(_, m)| m).reduce(|a, b| a + b));
    mean(&minutes.collect::<Vec<f64>>())
}

fn mean(values: &[f64]) -> Option<f64> {
    (!values.is_empty()).then(|| values.iter().sum::<f64>() / values.len() as f64)
}

/// What the harvest of a unit of a treatment brings, on average over those that were harvested.
fn value(trial: &Trial, treatment: TreatmentIndex) -> Option<f64> {
    let worth = |unit: UnitIndex| {
        let parts = trial.plan.ask.parts();
        parts.map(|crop| trial.cut_g(unit, crop).and(trial.yield_by(unit, crop, u32::MAX).value)).sum::<Option<f64>>()
    };
    let cut = |unit: UnitIndex| trial.plan.ask.parts().all(|crop| trial.is_harvested(unit, crop));
    let own = trial.each_unit().filter(|(_, u)| u.treatment == treatment && u.lost.is_none());
    let all: Option<Vec<f64>> = own.filter(|(i, _)| cut(*i)).map(|(i, _)| worth(i)).collect();
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
    comparison::analysis(&own, judged, crop, None).ok().map(|analysis| analysis.contrasts)
}

/// What the sentences speak of.
struct Told<'a> {
    trial: &'a Trial,
    prices: &'a Prices,
    control: TreatmentIndex,
}

impl Told<'_> {
    fn beside(&self, t: TreatmentIndex, contrast: &Contrast, (own, other): (&[Cost], &[Cost])) -> Option<Beside> {
        let sum = |costs: &[Cost]| costs.iter().filter_map(|c| c.cost).sum::<f64>();
        let cost = sum(own) - sum(other);
        // What has no price and is the same for both does not matter here.
        let missing = |a: &[Cost], b: &[Cost]| -> Vec<String> {
            let unknown = a.iter().filter(|c| c.cost.is_none());
            let same = |c: &&Cost| {
                !b.iter().any(|o| o.name == c.name && o.kind == c.kind && (o.amount - c.amount).abs() < 1e-9)
            };
            unknown.filter(same).map(|c| c.name.clone()).collect()
        };
        let mut left_out: Vec<String> = missing(own, other);
        left_out.extend(missing(other, own));
        left_out.sort();
        left_out.dedup();
        // The limits of the verdict, so that money and weight tell one story.
        let (low, high) = Some(interval(contrast)).filter(|(low, high)| low.is_finite() && high.is_finite())?;
        let (gain, low, high) = (contrast.estimate - cost, low - cost, high - cost);
        let per_kg = self.trial.plan.ask.price_per_kg.filter(|p| *p > 0.0 && self.one_price());
        let more_g = per_kg.map(|price| 1000.0 * contrast.estimate / price);
        let beside = Beside {
            cost,
            gain,
            low,
            high,
            pays_from_per_kg: more_g.filter(|g| cost > 0.0 && *g > 0.0).map(|g| 1000.0 * cost / g),
            pays_from_g: per_kg.filter(|_| cost > 0.0).map(|price| 1000.0 * cost / price),
            brings_per_spent: (cost > 0.0 && contrast.estimate > 0.0).then(|| contrast.estimate / cost),
            sentence: String::new(),
        };
        Some(Beside { sentence: self.sentence(t, &beside, &left_out), ..beside })
    }

    /// Whether all that is cut has one price.
    fn one_price(&self) -> bool {
        self.trial.plan.ask.waves.as_ref().is_none_or(|w| w.grades.iter().all(|g| g.price_per_kg.is_none()))
    }

    fn sentence(&self, t: TreatmentIndex, own: &Beside, left_out: &[String]) -> String {
        let sheet = &self.trial.plan.sheet;
        let (name, control) = (&sheet.treatments[t].name, &sheet.treatments[self.control].name);
        let unit = self.trial.plan.rack.kind.unit();
        let said = |x: f64| self.prices.told(x);
        let likely = |a: f64, b: f64| format!("very likely between {} and {}", said(a), said(b));
        let matters = self.trial.plan.ask.margin_money.filter(|m| *m > 0.0);
        let mut words = if own.low > 0.0 {
            let more = match matters {
                Some(m) if own.low > m => format!("more than the {} you said would matter", said(m)),
                Some(m) if own.high < m => format!("it pays, but less than the {} you said would matter", said(m)),
                _ => "it pays".into(),
            };
            let size = likely(own.low, own.high);
            format!(
                "{} earns {} more a {unit} than {control} after its costs, {size}: {more}.",
                capitalised(name),
                said(own.gain)
            )
        } else if own.high < 0.0 {
            let size = likely(-own.high, -own.low);
            format!(
                "{} earns {} less a {unit} than {control} after its costs, {size}: it does not pay.",
                capitalised(name),
                said(-own.gain)
            )
        } else {
            format!(
                "Whether {name} pays cannot be told: after its costs it may earn up to {} less or {} more a {unit} than {control}.",
                said(-own.low),
                said(own.high)
            )
        };
        if own.cost > 0.0 {
            words += &format!(" It costs {} more a {unit}", said(own.cost));
            words += &match (own.pays_from_g, own.pays_from_per_kg) {
                (Some(g), Some(price)) => {
                    format!(
                        ": {} g more earn that back, or a price of {} a kg at what it yielded.",
                        grams(g),
                        said(price)
                    )
                }
                (Some(g), None) => format!(": {} g more would earn that back.", grams(g)),
                _ => ".".into(),
            };
        } else if own.cost < 0.0 {
            words += &format!(" It costs {} less a {unit}.", said(-own.cost));
        }
        if !left_out.is_empty() {
            words += &format!(" Not counted, for want of a price: {}.", left_out.join(", "));
        }
        words
    }
}

fn grams(g: f64) -> String {
    if g < 10.0 { format!("{g:.1}") } else { format!("{g:.0}") }
}

#[cfg(test)]
#[path = "money_tests.rs"]
mod tests;
