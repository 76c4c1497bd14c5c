//! What room a plant has.

use crate::stores::Stores;
use crate::stores::keys;
use crate::trial::Trial;

/// What a plant has, and what it needs.
#[derive(Debug, Clone, PartialEq)]
pub struct Room {
    /// The crop.
    pub crop: String,
    /// As what it is grown, as Stores say.
    pub grown_as: String,
    /// Day on which it is usually cut.
    pub usual_day: f64,
    /// Last day of the trial, by plan or as it was.
    pub last_day: u32,
    /// The smallest container of all treatments, as Stores know it, and how much each plant has of
    /// it, L.
    pub container: Option<(String, f64)>,
}

/// What a plant has, and what it needs.
#[must_use]
pub fn look(trial: &Trial, stores: &Stores) -> Option<Room> {
    let ask = &trial.plan.ask;
    let crop = stores.find("crops", ask.crop.trim())?;
    let sheet = &trial.plan.sheet;
    let plants = f64::from(ask.sites()) * ask.crops_inside.len().max(1) as f64;
    let containers = sheet.indices().filter_map(|t| {
        let name = sheet.value(t, "container")?.trim();
        Some((
            name.to_owned(),
            stores.find("containers", name)?.number(keys::VOLUME_L)? / plants,
        ))
    });
    Some(Room {
        crop: ask.crop.trim().to_owned(),
        grown_as: crop.words(keys::GROWN_AS)?.to_owned(),
        usual_day: crop.number(keys::HARVEST_DAY)?,
        last_day: trial
            .ended_on()
            .filter(|_| trial.decides().measure.source.is_weighed())
            .unwrap_or(ask.end_day),
        container: containers.min_by(|a, b| a.1.total_cmp(&b.1)),
    })
}
