//! The farm's date.

use iron_twin_store::Farm;
use jiff::civil::Date;
use jiff::{Timestamp, tz::TimeZone};

/// The farm's date today.
pub(crate) fn today(farm: &Farm) -> Date {
    let zone =
        if farm.zone.is_empty() { TimeZone::system() } else { TimeZone::get(&farm.zone).unwrap_or(TimeZone::UTC) };
    Timestamp::now().to_zoned(zone).date()
}
