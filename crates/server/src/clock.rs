//! The farm's date.

use crate::error::Problem;
use iron_twin_store::{Farm, Store};
use jiff::civil::Date;
use jiff::{Timestamp, tz::TimeZone};

/// The farm's date today.
pub(crate) fn today(farm: &Farm) -> Date {
    date_of(farm, Timestamp::now())
}

/// When something was done: as the device says, which is never later than now, whatever its clock shows.
pub(crate) fn done_at(said: Option<Timestamp>, now: Timestamp) -> Timestamp {
    said.map_or(now, |said| said.min(now))
}

/// Day of a trial at an instant; None before it was sown.
pub(crate) fn day_at(store: &Store, trial: &str, at: Timestamp) -> Result<Option<u32>, Problem> {
    let (farm, zero) = store.farm_and_day_zero(trial)?;
    let days = zero.and_then(|zero| zero.until(date_of(&farm, at)).ok());
    Ok(days.and_then(|days| u32::try_from(days.get_days()).ok()))
}

/// The farm's date at an instant.
pub(crate) fn date_of(farm: &Farm, at: Timestamp) -> Date {
    let zone =
        if farm.zone.is_empty() { TimeZone::system() } else { TimeZone::get(&farm.zone).unwrap_or(TimeZone::UTC) };
    at.to_zoned(zone).date()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_day_begins_where_the_farm_stands_and_no_clock_runs_ahead() {
        let farm = |zone: &str| Farm { name: String::new(), zone: zone.into() };
        let late: Timestamp = "2026-11-26T23:30:00Z".parse().unwrap();
        assert_eq!(date_of(&farm("UTC"), late), jiff::civil::date(2026, 11, 26));
        assert_eq!(date_of(&farm("Europe/Vienna"), late), jiff::civil::date(2026, 11, 27));
        let now: Timestamp = "2026-11-26T12:00:00Z".parse().unwrap();
        assert_eq!((done_at(Some(late), now), done_at(None, now)), (now, now));
    }
}
