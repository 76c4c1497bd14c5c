//! The farm's date.

use crate::error::Problem;
use iron_twin_store::{Farm, Store};
use jiff::civil::Date;
use jiff::{Timestamp, Zoned, tz::TimeZone};

/// The farm's moment now.
pub(crate) fn now(farm: &Farm) -> Zoned {
    Timestamp::now().to_zoned(farm.time_zone())
}

/// Name of the time zone of this computer; empty where the system does not say.
pub(crate) fn machine_zone() -> String {
    TimeZone::system()
        .iana_name()
        .unwrap_or_default()
        .to_owned()
}

/// Whether there is such a time zone.
pub(crate) fn is_zone(name: &str) -> bool {
    TimeZone::get(name).is_ok()
}

/// The farm's date today.
pub(crate) fn today(farm: &Farm) -> Date {
    date_of(farm, Timestamp::now())
}

/// When something was done: as the device says, which is never later than now, whatever its clock
/// shows.
pub(crate) fn done_at(said: Option<Timestamp>, now: Timestamp) -> Timestamp {
    said.map_or(now, |said| said.min(now))
}

/// Day of a trial at an instant; None where it was not sown.
///
/// # Errors
/// `locked` where the clock stands before the day of sowing: the day of what is recorded would be
/// wrong.
pub(crate) fn day_at(store: &Store, trial: &str, at: Timestamp) -> Result<Option<u32>, Problem> {
    let (farm, zero) = store.farm_and_day_zero(trial)?;
    let Some(zero) = zero else { return Ok(None) };
    let date = date_of(&farm, at);
    let days = zero.until(date).map_or(-1, |span| span.get_days());
    u32::try_from(days).map(Some).map_err(|_| {
        Problem::locked(format!(
            "By the clock it is {date}, before the sowing on {zero}. Set clock and time zone \
             right; nothing was saved."
        ))
    })
}

/// The farm's date at an instant.
pub(crate) fn date_of(farm: &Farm, at: Timestamp) -> Date {
    at.to_zoned(farm.time_zone()).date()
}

/// By so many dates of the farm's calendar something was entered later than it was done: what was
/// done at noon four days ago is four days late in the morning too.
pub(crate) fn days_late(farm: &Farm, done: Timestamp, entered: Timestamp) -> u32 {
    let days = date_of(farm, done)
        .until(date_of(farm, entered))
        .map_or(0, |span| span.get_days());
    u32::try_from(days).unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_entry_is_late_by_dates_and_not_by_hours() {
        let farm = Farm {
            name: String::new(),
            zone: "Europe/Vienna".into(),
        };
        let late = |done: &str, entered: &str| {
            days_late(&farm, done.parse().unwrap(), entered.parse().unwrap())
        };
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-26T06:00:00Z"), 4);
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-26T22:59:00Z"), 4);
        // Midnight is where the farm stands.
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-26T23:01:00Z"), 5);
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-22T22:00:00Z"), 0);
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-21T22:00:00Z"), 0);
    }

    #[test]
    fn a_day_begins_where_the_farm_stands_and_no_clock_runs_ahead() {
        let farm = |zone: &str| Farm {
            name: String::new(),
            zone: zone.into(),
        };
        let late: Timestamp = "2026-11-26T23:30:00Z".parse().unwrap();
        assert_eq!(date_of(&farm("UTC"), late), jiff::civil::date(2026, 11, 26));
        assert_eq!(
            date_of(&farm("Europe/Vienna"), late),
            jiff::civil::date(2026, 11, 27)
        );
        let now: Timestamp = "2026-11-26T12:00:00Z".parse().unwrap();
        assert_eq!((done_at(Some(late), now), done_at(None, now)), (now, now));
    }
}
