//! The farm's date.

use crate::error::Problem;
use iron_twin_store::{Farm, Store};
use jiff::civil::{Date, Time};
use jiff::{Timestamp, Zoned, tz::TimeZone};
use serde::Deserialize;
use utoipa::ToSchema;

/// The farm's moment now.
pub(crate) fn now(farm: &Farm) -> Zoned {
    Timestamp::now().to_zoned(farm.time_zone())
}

/// Name of the time zone of this computer; empty where the system does not say.
pub(crate) fn machine_zone() -> String {
    TimeZone::system().iana_name().unwrap_or_default().to_owned()
}

/// Whether there is such a time zone.
pub(crate) fn is_zone(name: &str) -> bool {
    TimeZone::get(name).is_ok()
}

/// The farm's date today.
pub(crate) fn today(farm: &Farm) -> Date {
    date_of(farm, Timestamp::now())
}

/// When something was done: as the device says, which is never later than now, whatever its clock shows.
pub(crate) fn done_at(said: Option<Timestamp>, now: Timestamp) -> Timestamp {
    said.map_or(now, |said| said.min(now))
}

/// Day of a trial at an instant; None where it was not sown.
///
/// # Errors
/// `locked` where the clock stands before the day of sowing: the day of what is recorded would be wrong.
pub(crate) fn day_at(store: &Store, trial: &str, at: Timestamp) -> Result<Option<u32>, Problem> {
    let (farm, zero) = store.farm_and_day_zero(trial)?;
    let Some(zero) = zero else { return Ok(None) };
    let date = date_of(&farm, at);
    let days = zero.until(date).map_or(-1, |span| span.get_days());
    u32::try_from(days).map(Some).map_err(|_| {
        Problem::locked(format!(
            "By the clock it is {date}, before the sowing on {zero}. Set clock and time zone right; nothing was saved."
        ))
    })
}

/// Day of a trial on a date; 0 where it was not sown yet.
pub(crate) fn day_of(store: &Store, trial: &str, date: Date) -> Result<u32, Problem> {
    let (_, zero) = store.farm_and_day_zero(trial)?;
    let Some(zero) = zero else { return Ok(0) };
    let days = zero.until(date).map_or(-1, |span| span.get_days());
    u32::try_from(days).map_err(|_| Problem::refused("date", "that was before it was sown"))
}

/// When something was done, as it is entered: on a day that may be past, at an hour where it is known.
#[derive(Debug, Clone, Default, PartialEq, Deserialize, ToSchema)]
pub(crate) struct DoneWhen {
    /// The date on which it was done, `YYYY-MM-DD`; that of `at` where left out.
    #[serde(default)]
    pub date: Option<String>,
    /// The hour on that date, `HH:MM`; noon of a past day where left out.
    #[serde(default)]
    pub time: Option<String>,
    /// When it was entered on the device (RFC 3339), which is kept where it arrives later; now where left out.
    #[serde(default)]
    #[schema(value_type = Option<String>)]
    pub at: Option<Timestamp>,
}

impl DoneWhen {
    /// The date and the instant.
    ///
    /// # Errors
    /// `refused` for what is no date or hour, or has not come yet.
    pub(crate) fn instant(&self, farm: &Farm, now: Timestamp) -> Result<(Date, Timestamp), Problem> {
        let entered = done_at(self.at, now);
        let date = match &self.date {
            None => date_of(farm, entered),
            Some(text) => text
                .parse()
                .map_err(|_| Problem::refused("date", format!("'{text}' is not a date such as 2026-11-24")))?,
        };
        if date > date_of(farm, now) {
            return Err(Problem::refused("date", "that day has not come yet"));
        }
        let at = match &self.time {
            None if date == date_of(farm, entered) => entered,
            // Noon of a day that is past: the hour is not known.
            None => on_clock(farm, date, Time::constant(12, 0, 0, 0)),
            Some(text) => {
                let time = text
                    .parse()
                    .map_err(|_| Problem::refused("time", format!("'{text}' is not an hour such as 18:30")))?;
                on_clock(farm, date, time)
            }
        };
        if at > now {
            return Err(Problem::refused("time", "that hour has not come yet"));
        }
        Ok((date, at))
    }

    /// The day of a trial, and the instant.
    ///
    /// # Errors
    /// As [`DoneWhen::instant`], and for a day before the sowing.
    pub(crate) fn of(&self, store: &Store, trial: &str, now: Timestamp) -> Result<(u32, Timestamp), Problem> {
        let (date, at) = self.instant(&store.farm()?, now)?;
        Ok((day_of(store, trial, date)?, at))
    }
}

/// The instant at which the farm's clock shows an hour of a date.
fn on_clock(farm: &Farm, date: Date, time: Time) -> Timestamp {
    date.to_datetime(time).to_zoned(farm.time_zone()).map_or(Timestamp::UNIX_EPOCH, |zoned| zoned.timestamp())
}

/// The farm's date at an instant.
pub(crate) fn date_of(farm: &Farm, at: Timestamp) -> Date {
    at.to_zoned(farm.time_zone()).date()
}

/// By so many dates of the farm's calendar something was entered later than it was done: what was done at noon four
/// days ago is four days late in the morning too.
pub(crate) fn days_late(farm: &Farm, done: Timestamp, entered: Timestamp) -> u32 {
    let days = date_of(farm, done).until(date_of(farm, entered)).map_or(0, |span| span.get_days());
    u32::try_from(days).unwrap_or(0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_entry_is_late_by_dates_and_not_by_hours() {
        let farm = Farm { name: String::new(), zone: "Europe/Vienna".into() };
        let late = |done: &str, entered: &str| days_late(&farm, done.parse().unwrap(), entered.parse().unwrap());
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-26T06:00:00Z"), 4);
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-26T22:59:00Z"), 4);
        // Midnight is where the farm stands.
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-26T23:01:00Z"), 5);
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-22T22:00:00Z"), 0);
        assert_eq!(late("2026-11-22T11:00:00Z", "2026-11-21T22:00:00Z"), 0);
    }

    #[test]
    fn a_day_begins_where_the_farm_stands_and_no_clock_runs_ahead() {
        let farm = |zone: &str| Farm { name: String::new(), zone: zone.into() };
        let late: Timestamp = "2026-11-26T23:30:00Z".parse().unwrap();
        assert_eq!(date_of(&farm("UTC"), late), jiff::civil::date(2026, 11, 26));
        assert_eq!(date_of(&farm("Europe/Vienna"), late), jiff::civil::date(2026, 11, 27));
        let now: Timestamp = "2026-11-26T12:00:00Z".parse().unwrap();
        assert_eq!((done_at(Some(late), now), done_at(None, now)), (now, now));
    }

    #[test]
    fn a_late_entry_has_the_hour_that_is_known_of_it() {
        let farm = Farm { name: String::new(), zone: "Europe/Vienna".into() };
        let now: Timestamp = "2026-11-26T12:00:00Z".parse().unwrap();
        let when = |date: Option<&str>, time: Option<&str>, at: Option<&str>| DoneWhen {
            date: date.map(Into::into),
            time: time.map(Into::into),
            at: at.map(|at| at.parse().unwrap()),
        };
        let told = |w: DoneWhen| w.instant(&farm, now).map(|(date, at)| format!("{date} {at}")).map_err(|e| e.detail);
        assert_eq!(told(when(None, None, None)), Ok("2026-11-26 2026-11-26T12:00:00Z".into()));
        // What was entered before midnight and arrives after it is of the day before.
        let late = when(None, None, Some("2026-11-25T22:30:00Z"));
        assert_eq!(told(late), Ok("2026-11-25 2026-11-25T22:30:00Z".into()));
        assert_eq!(told(when(Some("2026-11-25"), None, None)), Ok("2026-11-25 2026-11-25T11:00:00Z".into()));
        assert_eq!(told(when(Some("2026-11-25"), Some("18:30"), None)), Ok("2026-11-25 2026-11-25T17:30:00Z".into()));
        for (date, time) in
            [("2026-11-27", None), ("2026-11-26", Some("13:01")), ("soon", None), ("2026-11-25", Some("late"))]
        {
            assert!(told(when(Some(date), time, None)).is_err(), "{date} {time:?}");
        }
    }
}
