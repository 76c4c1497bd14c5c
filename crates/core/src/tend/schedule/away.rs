//! Days on which the grower is away: what falls into them, and whether it can be moved or must be
//! handed over.

use crate::catalogue::deeds::Job;
use serde::Serialize;

/// Work that falls on a day away.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Clash {
    /// What.
    pub job: Job,
    /// In the grower's words.
    pub label: &'static str,
    /// Day on which it falls.
    pub day: u32,
    /// Day to which it could be moved; null where somebody else has to do it.
    pub move_to: Option<u32>,
}

/// Farthest that work is moved, days: beyond it plants would go hungry, and the control with them.
pub const FARTHEST: u32 = 2;

/// What falls between two days (both included) of days away, each with the nearest day before or
/// after to which it could be moved without passing sowing or harvest.
///
/// ```
/// use iron_twin_core::catalogue::deeds::Job;
/// use iron_twin_core::tend::schedule::away::clashes;
/// let list = clashes(&[(Job::Feed, 5), (Job::Feed, 9), (Job::Harvest, 12)], 5, 6, 12);
/// assert_eq!(list.len(), 1);
/// assert_eq!(list[0].move_to, Some(4));
/// ```
#[must_use]
pub fn clashes(calendar: &[(Job, u32)], first: u32, last: u32, end_day: u32) -> Vec<Clash> {
    let inside = calendar
        .iter()
        .filter(|(_, day)| (first..=last).contains(day));
    inside
        .map(|&(job, day)| {
            let before = first
                .checked_sub(1)
                .filter(|d| *d > 0 && day - d <= FARTHEST);
            let after = Some(last + 1).filter(|d| *d < end_day && d - day <= FARTHEST);
            let nearest = match (before, after) {
                (Some(b), Some(a)) => Some(if day - b <= a - day { b } else { a }),
                (b, a) => b.or(a),
            };
            Clash {
                job,
                label: job.label(),
                day,
                move_to: nearest.filter(|_| job.can_move()),
            }
        })
        .collect()
}
