//! What was read of the solution of a unit and poured into it, day by day.

use super::records::UnitRecords;
use std::collections::BTreeMap;

/// What was read of a unit and poured into it on one day.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct TankDay {
    /// Days since sowing.
    pub day: u32,
    /// Solution left before anything was poured in, L.
    pub level_l: Option<f64>,
    /// EC of what was left, mS/cm at 25 °C.
    pub ec_ms_per_cm: Option<f64>,
    /// Fresh solution filled in after what was left had been poured away, L.
    pub filled_l: Option<f64>,
    /// Plain water added, L.
    pub water_l: f64,
    /// Solution of its own treatment added, L.
    pub solution_l: f64,
    /// Feed dosed straight in, mL or g of all its parts together.
    pub feed: f64,
}

impl UnitRecords {
    /// What was read of the solution of the unit and poured into it, in the order of the days.
    #[must_use]
    pub fn tank_days(&self) -> Vec<TankDay> {
        let mut days: BTreeMap<u32, TankDay> = BTreeMap::new();
        for (r, value) in self.readings.iter().filter_map(|r| Some((r, r.value?))) {
            let day = days.entry(r.head.day).or_insert(TankDay {
                day: r.head.day,
                ..TankDay::default()
            });
            match r.reading {
                "level" => day.level_l = Some(value),
                "ec" => day.ec_ms_per_cm = Some(value),
                "filled" => day.filled_l = Some(value),
                "water_added" => day.water_l = value,
                "solution_added" => day.solution_l = value,
                "feed_added" => day.feed = value,
                _ => {}
            }
        }
        days.into_values().collect()
    }
}
