//! What a trial takes, for all units and a spare, and what it costs.

use super::schedule::calendar;
use crate::catalogue::deeds::Job;
use crate::mix::doses::of_unit;
use crate::stores::keys;
use crate::stores::{Item, Stores};
use crate::trial::application::{Application, is_none};
use crate::trial::care::{CarePlan, TreatmentDays, WorkDone};
use crate::trial::feed::FeedPlan;
use crate::trial::sheet::Sheet;
use iron_twin_chemistry::acid::ph_dose;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;
use std::collections::{BTreeMap, BTreeSet};

/// One thing to have.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Material {
    /// What: seed, medium, feed, water, pH, light.
    pub kind: &'static str,
    /// Its name, as on the match sheet.
    pub name: String,
    /// How much, spare included.
    pub amount: f64,
    /// Unit of the amount.
    pub unit: &'static str,
    /// What it costs, in the farm's currency; null where no price is known.
    pub cost: Option<f64>,
}

/// What a trial is planned to be.
pub struct Planned<'a> {
    /// The match sheet.
    pub sheet: &'a Sheet,
    /// Units of each treatment, in the order of the sheet.
    pub units: &'a [usize],
    /// Day of harvest.
    pub end_day: u32,
    /// Plants or places inside a unit.
    pub sites: u32,
    /// Rhythms.
    pub care: &'a CarePlan,
    /// Days of single treatments.
    pub own: &'a TreatmentDays,
    /// Solution for a unit, and the spare.
    pub feed: &'a FeedPlan,
    /// Price of a kWh; None where it is not known.
    pub price_per_kwh: Option<f64>,
}

/// Energy of a lamp, kWh: watts at the wall, hours a day, days.
///
/// ```
/// use iron_twin_core::tend::materials::kilowatt_hours;
/// assert_eq!(kilowatt_hours(50.0, 16.0, 10.0), 8.0);
/// ```
#[must_use]
pub fn kilowatt_hours(watts: f64, hours_a_day: f64, days: f64) -> f64 {
    watts * hours_a_day * days / 1000.0
}

/// Unit of what comes whole.
const PIECES: &str = "pieces";

/// Adds up amounts of one name and unit.
#[derive(Default)]
struct List(BTreeMap<(&'static str, String, &'static str), (f64, Option<f64>)>);

impl List {
    /// `price` is for one of the unit.
    fn add(
        &mut self,
        kind: &'static str,
        name: &str,
        unit: &'static str,
        amount: f64,
        price: Option<f64>,
    ) {
        if amount > 0.0 && amount.is_finite() {
            let entry = self
                .0
                .entry((kind, name.trim().to_owned(), unit))
                .or_insert((0.0, price.map(|_| 0.0)));
            entry.0 += amount;
            entry.1 = entry.1.zip(price).map(|(sum, price)| sum + price * amount);
        }
    }
}

/// What the whole trial takes: seed, media and containers for every unit with the spare, feed and
/// water for every feeding, additives, and electricity for the lamps.
///
/// ```
/// use iron_twin_core::trial::sheet::Sheet;
/// use iron_twin_core::trial::feed::FeedPlan;
/// use iron_twin_core::stores::Stores;
/// use iron_twin_core::tend::materials::{Planned, materials};
/// use iron_twin_core::trial::care::{CarePlan, TreatmentDays};
/// let (sheet, care, own, feed) = (Sheet::usual(), CarePlan::default(), TreatmentDays::default(), FeedPlan::default());
/// let planned = Planned { sheet: &sheet, units: &[8; 8], end_day: 12, sites: 1, care: &care, own: &own, feed: &feed, price_per_kwh: None };
/// let list = materials(&planned, &Stores::with_own(Vec::new()));
/// let seed = list.iter().find(|m| m.kind == "seed").unwrap();
/// // 16 trays of 12 g and a tenth more.
/// assert!((seed.amount - 211.2).abs() < 1e-9);
/// ```
#[must_use]
pub fn materials(planned: &Planned<'_>, stores: &Stores) -> Vec<Material> {
    let none_done = WorkDone::default();
    let feedings = calendar(planned.care, planned.own, planned.end_day, &none_done)
        .iter()
        .filter(|(job, _)| *job == Job::Feed)
        .count() as f64;
    let mut list = List::default();
    for treatment in planned.sheet.indices() {
        let own = Needs {
            planned,
            stores,
            treatment,
            units: treatment.of(planned.units).copied().unwrap_or(0) as f64,
            spare: 1.0 + 0.01 * planned.feed.spare_percent,
            feedings,
        };
        own.goods(&mut list);
        own.tank(&mut list);
        own.given(&mut list);
        own.light(&mut list);
    }
    list.0
        .into_iter()
        .map(|((kind, name, unit), (exact, cost))| {
            // Whole mats and trays: a tenth of one is one.
            let amount = if unit == PIECES { exact.ceil() } else { exact };
            Material {
                kind,
                name,
                amount,
                unit,
                cost: cost.map(|c| c * amount / exact),
            }
        })
        .collect()
}

/// What one treatment needs.
struct Needs<'p> {
    planned: &'p Planned<'p>,
    stores: &'p Stores,
    treatment: TreatmentIndex,
    units: f64,
    /// One and the share that is taken to spare.
    spare: f64,
    /// How often the trial is fed.
    feedings: f64,
}

impl Needs<'_> {
    fn cell(&self, key: &str) -> &str {
        self.planned
            .sheet
            .value(self.treatment, key)
            .unwrap_or("")
            .trim()
    }

    fn number(&self, key: &str) -> Option<f64> {
        self.cell(key).parse().ok()
    }

    fn price(&self, shelf: &str, name: &str, key: keys::NumberKey) -> Option<f64> {
        self.stores.find(shelf, name).and_then(|i| i.number(key))
    }

    fn applications(&self) -> impl Iterator<Item = &Application> {
        self.planned.sheet.treatments[self.treatment]
            .applications
            .iter()
            .filter(|a| !a.is_nothing())
    }

    fn own_days(&self, application: &Application) -> Option<Vec<u32>> {
        application.when.days(self.planned.end_day)
    }

    /// Seed, medium and container.
    fn goods(&self, list: &mut List) {
        let lot = self.cell("seed_lot");
        let seed = if lot.is_empty() { "seed" } else { lot };
        let by_gram = self
            .price("seed_lots", lot, keys::PRICE_PER_KG)
            .map(|p| p / 1000.0);
        let all = self.units * self.spare;
        let grams = self.number("seed_weight").unwrap_or(0.0) * all;
        list.add("seed", seed, "g", grams, by_gram);
        for (kind, shelf, key, price_key) in [
            ("medium", "media", "medium", keys::PRICE_PER_UNIT),
            ("container", "containers", "container", keys::PRICE_EACH),
        ] {
            let name = self.cell(key);
            if !is_none(name) {
                list.add(kind, name, PIECES, all, self.price(shelf, name, price_key));
            }
        }
    }

    /// How often the tank is filled: one that is fed on days of its own on those, any other
    /// whenever the trial is fed.
    fn fillings(&self) -> f64 {
        let mut days: Vec<Option<Vec<u32>>> = self
            .applications()
            .filter(|a| a.how.in_tank())
            .map(|a| self.own_days(a))
            .collect();
        if days.is_empty() || days.iter().any(Option::is_none) {
            return self.feedings;
        }
        days.iter_mut()
            .flatten()
            .flat_map(std::mem::take)
            .collect::<BTreeSet<u32>>()
            .len() as f64
    }

    fn water(&self, litres: f64, list: &mut List) {
        let name = self.cell("water");
        let price = self.price("waters", name, keys::PRICE_PER_L);
        list.add("water", name, "L", litres, price);
    }

    /// The water of the tank, and what brings it to its pH.
    fn tank(&self, list: &mut List) {
        let litres =
            self.planned.feed.ml_a_unit / 1000.0 * self.units * self.spare * self.fillings();
        self.water(litres, list);
        let water = self
            .stores
            .find("waters", self.cell("water"))
            .and_then(Item::water);
        if let (Some(water), Some(ph)) = (water, self.planned.feed.ph)
            && let Ok(dose) = ph_dose(&water, &ph.bottle, ph.target_ph)
        {
            let name = format!("{}, {} %", ph.bottle.product.name(), ph.bottle.percent);
            list.add("pH", &name, "mL", dose.ml_per_l * litres, None);
        }
    }

    /// What is given, with the water that is mixed for it.
    fn given(&self, list: &mut List) {
        for application in self.applications() {
            let times = self
                .own_days(application)
                .map_or(self.feedings, |days| days.len() as f64);
            let all = self.units * self.spare * times;
            let doses = of_unit(
                application,
                self.stores,
                self.planned.feed,
                self.planned.sites,
            );
            for dose in doses {
                let part = dose.part;
                let price = part
                    .price_per_l
                    .map(|p| p / part.per_l.max(f64::MIN_POSITIVE));
                let amount = dose.amount.unwrap_or(0.0) * all;
                let role = application.role.name();
                list.add(role, &part.name, part.form.unit(), amount, price);
            }
            // What is mixed for it takes water of its own.
            if let Some(ml) = application.ml_a_unit.filter(|_| application.takes_water()) {
                self.water(ml / 1000.0 * all, list);
            }
        }
    }

    /// Electricity for the lamps.
    fn light(&self, list: &mut List) {
        let name = self.cell("light");
        let Some(lamp) = self.stores.find("lights", name) else {
            return;
        };
        let lit = lamp.number(keys::UNITS_LIT).unwrap_or(self.units).max(1.0);
        let lamps = (self.units / lit).ceil();
        let dark = self.planned.care.blackout_days;
        let days = f64::from(self.planned.end_day.saturating_sub(dark));
        let hours = self.number("light_hours").unwrap_or(0.0);
        let energy = kilowatt_hours(lamp.number(keys::WATTS).unwrap_or(0.0) * lamps, hours, days);
        list.add("light", name, "kWh", energy, self.planned.price_per_kwh);
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::stores::{Held, Item};
    use crate::trial::application::{Amount, How, Role, When};
    use crate::trial::feed::PhPlan;
    use iron_twin_chemistry::acid::{Bottle, PhProduct};

    fn planned<'a>(
        sheet: &'a Sheet,
        care: &'a CarePlan,
        own: &'a TreatmentDays,
        feed: &'a FeedPlan,
    ) -> Planned<'a> {
        Planned {
            sheet,
            units: &[8; 8],
            end_day: 12,
            sites: 1,
            care,
            own,
            feed,
            price_per_kwh: Some(0.3),
        }
    }

    fn find<'a>(list: &'a [Material], kind: &str) -> &'a Material {
        list.iter()
            .find(|m| m.kind == kind)
            .unwrap_or_else(|| panic!("no {kind} in {list:?}"))
    }

    #[test]
    fn amounts_are_those_of_all_units_and_feedings() {
        let (mut sheet, care, own, feed) = (
            Sheet::usual(),
            CarePlan::default(),
            TreatmentDays::default(),
            FeedPlan::default(),
        );
        sheet
            .treatments
            .iter_mut()
            .for_each(|t| t.set("light", "white LED bar, 20 W"));
        let list = materials(
            &planned(&sheet, &care, &own, &feed),
            &Stores::with_own(Vec::new()),
        );
        // Days 4, 6, 8 and 10; 8 trays of 250 mL and a tenth more, on water and on feed.
        assert!((find(&list, "water").amount - 4.0 * 2.2 * 2.0).abs() < 1e-9);
        assert!((find(&list, "feed").amount - 4.0 * 4.0 * 2.2).abs() < 1e-9);
        assert_eq!(
            find(&list, "medium").amount,
            18.0,
            "a tenth more than sixteen, in whole mats"
        );
        // Four bars for eight trays of each treatment, 20 W, 16 h, 9 days after the dark: 23.04
        // kWh.
        let light = find(&list, "light");
        assert!((light.amount - 2.0 * 4.0 * 0.02 * 16.0 * 9.0).abs() < 1e-9);
        assert!((light.cost.unwrap() - 0.3 * light.amount).abs() < 1e-9);
        assert_eq!(find(&list, "feed").cost, None, "no price, no cost");
        // The acid for the same litres of tap water.
        let bottle = Bottle {
            product: PhProduct::Nitric,
            percent: 38.0,
            density_kg_per_l: 1.23,
        };
        let feed = FeedPlan {
            ph: Some(PhPlan {
                bottle,
                target_ph: 5.8,
            }),
            ..feed
        };
        let stores = Stores::with_own(Vec::new());
        let tap = stores
            .find("waters", "tap water")
            .and_then(Item::water)
            .unwrap();
        let list = materials(&planned(&sheet, &care, &own, &feed), &stores);
        let acid = find(&list, "pH");
        let each = ph_dose(&tap, &bottle, 5.8).unwrap().ml_per_l;
        assert!(
            (acid.amount - each * find(&list, "water").amount).abs() < 1e-9
                && acid.name == "nitric acid, 38 %"
        );
    }

    #[test]
    fn prices_of_own_entries_are_used_and_own_days_counted() {
        let (mut sheet, care, feed) = (Sheet::usual(), CarePlan::default(), FeedPlan::default());
        sheet
            .treatments
            .iter_mut()
            .for_each(|t| t.set("seed_lot", "bag 7"));
        sheet.treatments[1].applications[0].when = When::Days(vec![5]);
        let own = TreatmentDays {
            feeding: sheet.feeding_days(12),
            ..TreatmentDays::default()
        };
        let held = [("price_per_kg".to_owned(), Held::Number(40.0))].into();
        let bag = Item {
            shelf: "seed_lots".into(),
            name: "bag 7".into(),
            source: String::new(),
            held,
        };
        let list = materials(
            &planned(&sheet, &care, &own, &feed),
            &Stores::with_own(vec![bag]),
        );
        assert!((find(&list, "seed").cost.unwrap() - 0.2112 * 40.0).abs() < 1e-9);
        assert!(
            (find(&list, "feed").amount - 4.0 * 2.2).abs() < 1e-9,
            "one feeding on its own day"
        );
        // An additive dusted on once: 0.2 g for each of three plants of eight trays and a tenth
        // more; nothing in the water.
        let dust = Application::stirred(Role::Additive, "rooting powder", 1.0);
        let dust = Application {
            how: How::Dusted,
            amount: Amount::PerSite(0.2),
            when: When::Planting,
            ..dust
        };
        sheet.treatments[1].applications.push(dust);
        let own = TreatmentDays {
            feeding: sheet.feeding_days(12),
            ..TreatmentDays::default()
        };
        let planned = Planned {
            sites: 3,
            ..planned(&sheet, &care, &own, &feed)
        };
        let list = materials(&planned, &Stores::with_own(Vec::new()));
        assert!((find(&list, "additive").amount - 0.6 * 8.8).abs() < 1e-9);
    }
}
