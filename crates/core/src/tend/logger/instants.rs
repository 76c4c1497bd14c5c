//! How a logger writes its times: found out from its rows, and read by what was found.

use jiff::civil::DateTime;
use jiff::fmt::strtime::BrokenDownTime;
use jiff::tz::{AmbiguousOffset, Offset, TimeZone};
use jiff::{Timestamp, fmt::strtime};

/// A time with its own offset, as ISO 8601 writes it.
pub const ISO: &str = "iso";
/// Seconds since 1970.
pub const UNIX: &str = "unix";
/// Milliseconds since 1970.
pub const UNIX_MS: &str = "unix_ms";

const DATES: [&str; 13] = [
    "%Y-%m-%d", "%Y/%m/%d", "%Y.%m.%d", "%d.%m.%Y", "%d/%m/%Y", "%m/%d/%Y", "%d-%m-%Y", "%m-%d-%Y",
    "%d.%m.%y", "%d/%m/%y", "%m/%d/%y", "%d %b %Y", "%b %d %Y",
];
const TIMES: [&str; 4] = ["%H:%M:%S%.f", "%H:%M", "%I:%M:%S %p", "%I:%M %p"];

/// All ways of writing a time that are tried, the plainest first.
fn formats() -> impl Iterator<Item = String> {
    let joined = [" ", "T", ", "].into_iter().flat_map(|between| {
        DATES.into_iter().flat_map(move |date| {
            TIMES
                .into_iter()
                .map(move |time| format!("{date}{between}{time}"))
        })
    });
    [ISO, UNIX, UNIX_MS]
        .into_iter()
        .map(str::to_owned)
        .chain(joined)
}

/// Least and greatest number of seconds that are taken for a count since 1970: the years 2001 to
/// 2100.
const UNIX_SECONDS: std::ops::Range<i64> = 978_307_200..4_102_444_800;

/// Years of a log. A clock that was never set says 1970 or 2000: that is read, and told.
const YEARS: std::ops::Range<i16> = 1970..2100;

/// A time as it stands in a row, before its zone is known.
#[derive(Debug, Clone, Copy, PartialEq)]
enum Written {
    Known(Timestamp),
    Local(DateTime),
}

fn written(text: &str, format: &str) -> Option<Written> {
    let text = text.trim();
    let counted = |per: i64| {
        let count: i64 = text.parse().ok()?;
        let own = UNIX_SECONDS
            .contains(&(count / per))
            .then_some(count * (1000 / per))?;
        Timestamp::from_millisecond(own).ok().map(Written::Known)
    };
    match format {
        ISO => text.parse().ok().map(Written::Known),
        UNIX => counted(1),
        UNIX_MS => counted(1000),
        _ => {
            let local = BrokenDownTime::parse(format, text)
                .ok()?
                .to_datetime()
                .ok()?;
            // Two digits read as a whole year are no year of a log.
            YEARS
                .contains(&local.year())
                .then_some(Written::Local(local))
        }
    }
}

/// Ways of writing by which every one of these times can be read, the likeliest first. More than
/// one where day and month cannot be told apart.
///
/// ```
/// use iron_twin_core::tend::logger::instants::formats_of;
/// assert_eq!(formats_of(&["13/05/2026 06:00"]), ["%d/%m/%Y %H:%M"]);
/// assert_eq!(formats_of(&["04/05/2026 06:00"]), ["%d/%m/%Y %H:%M", "%m/%d/%Y %H:%M"]);
/// // Times that run on day by day tell which it is.
/// assert_eq!(formats_of(&["04/05/2026 06:00", "05/05/2026 06:00", "06/05/2026 06:00"])[0], "%d/%m/%Y %H:%M");
/// assert!(formats_of(&["yesterday"]).is_empty());
/// ```
#[must_use]
pub fn formats_of(times: &[&str]) -> Vec<String> {
    let read = |format: &str| {
        times
            .iter()
            .map(|t| written(t, format))
            .collect::<Option<Vec<_>>>()
    };
    let seconds = |of: &Written| match of {
        Written::Known(at) => at.as_second(),
        Written::Local(at) => at
            .to_zoned(TimeZone::UTC)
            .map_or(0, |z| z.timestamp().as_second()),
    };
    let mut found: Vec<(i64, String)> = Vec::new();
    for format in formats().filter(|_| !times.is_empty()) {
        let Some(all) = read(&format) else { continue };
        // A log runs on: read rightly, it spans the least.
        let (first, last) = all.iter().fold((i64::MAX, i64::MIN), |(a, b), own| {
            (a.min(seconds(own)), b.max(seconds(own)))
        });
        found.push((last - first, format));
    }
    found.sort_by_key(|(span, _)| *span);
    let mut formats: Vec<String> = found.into_iter().map(|(_, format)| format).collect();
    // Blanks in a pattern match any blanks, or none: of those that read the same the first is
    // enough.
    let mut known: Vec<Vec<Written>> = Vec::new();
    formats.retain(|format| {
        let Some(own) = read(format).filter(|own| !known.contains(own)) else {
            return false;
        };
        known.push(own);
        true
    });
    formats
}

/// Reads the times of a log, row after row.
#[derive(Debug, Clone)]
pub struct Clock {
    format: String,
    zone: TimeZone,
    before: Option<Timestamp>,
}

/// Why a time could not be read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, thiserror::Error)]
pub enum TimeError {
    /// Not as the others are written.
    #[error("the time cannot be read")]
    Unreadable,
    /// Clocks were put forward over it.
    #[error("clocks were put forward over this time; was the logger kept on another zone?")]
    Skipped,
}

/// A zone by its name in the tz database, or by its distance from UTC such as `+02:00`.
///
/// ```
/// use iron_twin_core::tend::logger::instants::zone;
/// assert!(zone("UTC").is_some() && zone("+02:00").is_some() && zone("Middle/Earth").is_none());
/// ```
#[must_use]
pub fn zone(name: &str) -> Option<TimeZone> {
    let fixed = || {
        Some(TimeZone::fixed(
            Offset::from_seconds(strtime::parse("%:z", name).ok()?.offset()?.seconds()).ok()?,
        ))
    };
    TimeZone::get(name).ok().or_else(fixed)
}

impl Clock {
    /// A clock for times written in a way, in a zone. None for a way of writing that is no such.
    #[must_use]
    pub fn new(format: &str, zone: TimeZone) -> Option<Self> {
        let known = formats().any(|own| own == format);
        known.then(|| Self {
            format: format.to_owned(),
            zone,
            before: None,
        })
    }

    /// Reads the next time. Where clocks were put back an hour stands twice: there the one is taken
    /// that goes on from the row before.
    ///
    /// # Errors
    /// [`TimeError`].
    pub fn read(&mut self, text: &str) -> Result<Timestamp, TimeError> {
        let at = match written(text, &self.format).ok_or(TimeError::Unreadable)? {
            Written::Known(at) => at,
            Written::Local(local) => {
                let instant = |offset: Offset| {
                    offset
                        .to_timestamp(local)
                        .map_err(|_| TimeError::Unreadable)
                };
                match self.zone.to_ambiguous_timestamp(local).offset() {
                    AmbiguousOffset::Unambiguous { offset } => instant(offset)?,
                    AmbiguousOffset::Gap { .. } => return Err(TimeError::Skipped),
                    AmbiguousOffset::Fold { before, after } => {
                        let first = instant(before)?;
                        if self.before.is_some_and(|last| last >= first) {
                            instant(after)?
                        } else {
                            first
                        }
                    }
                }
            }
        };
        self.before = Some(at);
        Ok(at)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn clock(format: &str, name: &str) -> Clock {
        Clock::new(format, zone(name).expect("a zone")).expect("a format")
    }

    #[test]
    fn each_way_of_writing_is_found_again() {
        let at: DateTime = "2026-05-23T17:06:09".parse().expect("a time");
        for format in formats().filter(|f| ![ISO, UNIX, UNIX_MS].contains(&f.as_str())) {
            let text = at.strftime(&format).to_string();
            let found = formats_of(&[&text]);
            let read = found.first().map(|f| written(&text, f));
            let minutes = if format.contains("%S") {
                at
            } else {
                at.with().second(0).build().expect("a time")
            };
            assert_eq!(
                read,
                Some(Some(Written::Local(minutes))),
                "{format}: {text} by {found:?}"
            );
        }
        assert_eq!(
            formats_of(&["2026-05-23T17:06:09Z", "2026-05-23T19:07:09+02:00"]),
            [ISO]
        );
        assert_eq!(formats_of(&["1779555969", "1779556029"]), [UNIX]);
        assert_eq!(formats_of(&["1779555969000"]), [UNIX_MS]);
        assert_eq!(formats_of(&["12"]), [] as [&str; 0]);
    }

    #[test]
    fn zones_turn_local_times_into_instants() {
        let mut own = clock("%d.%m.%Y %H:%M", "Europe/Berlin");
        assert_eq!(
            own.read("01.07.2026 12:00").map(|t| t.to_string()),
            Ok("2026-07-01T10:00:00Z".into())
        );
        assert_eq!(
            own.read("01.12.2026 12:00").map(|t| t.to_string()),
            Ok("2026-12-01T11:00:00Z".into())
        );
        // Clocks were put forward on 29 March 2026, from 2:00 to 3:00, and back on 25 October from
        // 3:00 to 2:00 (the European rule: last Sundays).
        assert_eq!(own.read("29.03.2026 02:30"), Err(TimeError::Skipped));
        let night = [
            "25.10.2026 01:30",
            "25.10.2026 02:00",
            "25.10.2026 02:30",
            "25.10.2026 02:00",
            "25.10.2026 02:30",
        ];
        let minutes: Vec<i64> = night
            .iter()
            .map(|t| own.read(t).expect("a time").as_second() / 60)
            .collect();
        assert!(
            minutes.windows(2).all(|two| two[1] - two[0] == 30),
            "{minutes:?}"
        );
        assert_eq!(own.read("soon"), Err(TimeError::Unreadable));
        assert_eq!(
            clock("%Y-%m-%d %H:%M", "-05:00")
                .read("2026-01-01 00:00")
                .map(|t| t.to_string()),
            Ok("2026-01-01T05:00:00Z".into())
        );
    }
}
