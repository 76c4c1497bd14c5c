//! Instants as the file keeps them: microseconds since 1970, UTC.

use jiff::Timestamp;

/// The instant of so many microseconds; one that no calendar holds is the first of 1970.
pub(crate) fn instant(microseconds: i64) -> Timestamp {
    Timestamp::from_microsecond(microseconds).unwrap_or(Timestamp::UNIX_EPOCH)
}
