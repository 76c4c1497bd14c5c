//! The head of a record: as it is sent, and as it is worked out, once for all kinds.

use super::refusal::{Of, Refusal, Stage};
use crate::trial::Trial;
use crate::trial::records::{CropNumber, RecordHead, SampleNumber};
use iron_twin_terms::indices::UnitIndex;
use iron_twin_terms::role::Role;
use jiff::Timestamp;
use jiff::civil::{Date, Time};
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use std::sync::Arc;

/// The head of a record as a device sends it. What is left out is of the trial as a whole, and of
/// now.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct HeadSent {
    /// Random key of the request: sent again, it is answered again and not done again.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub key: Option<String>,
    /// Code of the unit.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub unit: Option<String>,
    /// Crop inside the unit, from 1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub crop: Option<CropNumber>,
    /// Sample inside the unit, from 1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub sample: Option<SampleNumber>,
    /// Day that it is of, counted from sowing; that of `date` or `at` where left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub day: Option<u32>,
    /// The date on which it was done; that of `at` where left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = Date))]
    pub date: Option<String>,
    /// The hour on that date, `HH:MM`; noon of a past day where left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
    pub time: Option<String>,
    /// When it was entered on the device (RFC 3339), which is kept where it arrives later; now
    /// where left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>, format = DateTime))]
    pub at: Option<Timestamp>,
    /// Name of the instrument it was taken with; left out where it was typed.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub instrument: Option<String>,
    /// Version of what it corrects; 0 where nothing stood there.
    #[serde(default)]
    pub version: i64,
    /// Whether what is unlikely was confirmed.
    #[serde(default)]
    pub confirmed: bool,
    /// Keys of requests that this one takes the place of, and of which the device never heard whether
    /// they arrived. What one of them left is corrected, and is no conflict; of a kind whose records
    /// stand each by itself it is answered, and not done again.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub instead_of: Vec<String>,
    /// Under whose name those were sent, where that was somebody else.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub taken_by: Option<String>,
    /// Commitment of the deal under which it was taken: a code of another deal may stand on another
    /// unit. Not looked at where left out.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub deal: Option<String>,
}

/// Who sends a record, when, and what the farm's clock shows.
#[derive(Debug, Clone)]
pub struct Sender<'a> {
    /// The person.
    pub who: &'a str,
    /// What they may do.
    pub role: Role,
    /// The moment.
    pub now: Timestamp,
    /// The farm's time zone.
    pub zone: &'a TimeZone,
}

/// The head of a record, worked out.
#[derive(Debug, Clone, PartialEq)]
pub struct Head {
    /// Of which unit; None for the trial as a whole.
    pub unit: Option<UnitIndex>,
    /// Crop inside it.
    pub crop: Option<CropNumber>,
    /// Sample inside it.
    pub sample: Option<SampleNumber>,
    /// Days since sowing, or since the round began; 0 before.
    pub day: u32,
    /// The farm's date at which it was done.
    pub date: Date,
    /// Round, from 1.
    pub round: u32,
    /// When it was done or seen.
    pub at: Timestamp,
    /// When it was entered.
    pub entered_at: Timestamp,
    /// Who entered it.
    pub who: Arc<str>,
    /// What they may do.
    pub role: Role,
    /// What it was measured with.
    pub instrument: Option<Arc<str>>,
    /// Version of what it corrects.
    pub version: i64,
    /// Whether what is unlikely was confirmed.
    pub confirmed: bool,
}

/// Longest name of an instrument.
const MOST_INSTRUMENT: usize = 60;

impl Head {
    /// The code of its unit; empty for the trial as a whole.
    #[must_use]
    pub fn code<'a>(&self, trial: &'a Trial) -> &'a str {
        self.unit.map_or("", |unit| trial.units[unit].code.as_str())
    }

    /// As the trial keeps it.
    #[must_use]
    pub fn record(&self, version: i64) -> RecordHead {
        RecordHead {
            crop: self.crop,
            sample: self.sample,
            day: self.day,
            round: self.round,
            at: self.at,
            entered_at: self.entered_at,
            who: Arc::clone(&self.who),
            instrument: self.instrument.clone(),
            version,
        }
    }
}

/// What is asked of a head by the record that it stands over.
#[derive(Debug, Clone, Copy)]
pub struct Asks {
    /// Of what it is.
    pub of: Of,
    /// When it may be written.
    pub stage: Stage,
    /// The round that it is of.
    pub round: u32,
    /// Whether the day counts from its own date, as that of a sowing.
    pub begins: bool,
}

/// The farm's date at an instant.
fn date_of(zone: &TimeZone, at: Timestamp) -> Date {
    at.to_zoned(zone.clone()).date()
}

/// When it was done: on a day that may be past, at an hour where it is known; never later than now.
fn instant(sent: &HeadSent, sender: &Sender<'_>) -> Result<(Date, Timestamp), Refusal> {
    // Whatever the clock of the device shows.
    let entered = sent.at.map_or(sender.now, |at| at.min(sender.now));
    let today = date_of(sender.zone, sender.now);
    let date = match &sent.date {
        None => date_of(sender.zone, entered),
        Some(text) => {
            let wrong =
                |_| Refusal::wrong("date", format!("'{text}' is not a date such as 2026-11-24"));
            text.parse().map_err(wrong)?
        }
    };
    if date > today {
        return Err(Refusal::wrong("date", "that day has not come yet"));
    }
    let on_clock = |time: Time| {
        date.to_datetime(time)
            .to_zoned(sender.zone.clone())
            .map_or(Timestamp::UNIX_EPOCH, |zoned| zoned.timestamp())
    };
    let at = match &sent.time {
        None if date == date_of(sender.zone, entered) => entered,
        // Noon of a day that is past: the hour is not known.
        None => on_clock(Time::constant(12, 0, 0, 0)),
        Some(text) => {
            let wrong =
                |_| Refusal::wrong("time", format!("'{text}' is not an hour such as 18:30"));
            on_clock(text.parse().map_err(wrong)?)
        }
    };
    if at > sender.now {
        return Err(Refusal::wrong("time", "that hour has not come yet"));
    }
    Ok((date, at))
}

fn days_between(from: Date, to: Date) -> i32 {
    from.until(to).map_or(-1, |span| span.get_days())
}

/// The clock stands before the sowing: the day of whatever is recorded would be wrong.
fn clock_wrong(date: Date, sown: Date) -> Refusal {
    Refusal::locked(format!(
        "By the clock it is {date}, before the sowing on {sown}. Set clock and time zone right; \
         nothing was saved."
    ))
}

/// The day that it is of.
fn day(
    sent: &HeadSent,
    sender: &Sender<'_>,
    trial: &Trial,
    date: Date,
    asks: Asks,
) -> Result<u32, Refusal> {
    let Some(sown) = trial.sown_on.filter(|_| !asks.begins) else {
        return Ok(0);
    };
    let today = date_of(sender.zone, sender.now);
    let Ok(now) = u32::try_from(days_between(sown, today)) else {
        // One that was made out of reach before the sowing may arrive after it.
        return if asks.stage == Stage::Planned {
            Ok(0)
        } else {
            Err(clock_wrong(today, sown))
        };
    };
    match sent.day {
        Some(day) if day > now => Err(Refusal::wrong(
            "day",
            format!("day {day} has not come yet; today is day {now}"),
        )),
        Some(day) => Ok(day),
        None => match u32::try_from(days_between(sown, date)) {
            Ok(day) => Ok(day),
            Err(_) if asks.stage == Stage::Planned => Ok(0),
            Err(_) if sent.date.is_some() => {
                Err(Refusal::wrong("date", "that was before it was sown"))
            }
            Err(_) => Err(clock_wrong(date, sown)),
        },
    }
}

/// Refuses what a trial is not ready for, or past.
fn check_stage(trial: &Trial, stage: Stage) -> Result<(), Refusal> {
    let open = trial.reveal.is_some();
    match stage {
        Stage::Any => Ok(()),
        Stage::Opened if open => Ok(()),
        Stage::Opened => Err(Refusal::locked(
            "open the key first: what was learned is told then",
        )),
        Stage::Dealt | Stage::Sown if trial.deal.is_none() => Err(Refusal::locked(
            "deal the treatments first: records belong to dealt units",
        )),
        _ if open => Err(Refusal::locked(
            "the key is open: records can no longer change",
        )),
        Stage::Sown if trial.sown_on.is_none() => {
            Err(Refusal::locked("sow first: days count from sowing"))
        }
        _ => Ok(()),
    }
}

/// A system of another round is not on the shelf now.
pub(super) fn check_round(trial: &Trial, unit: UnitIndex) -> Result<(), Refusal> {
    let unit = &trial.units[unit];
    if trial.is_now(unit) {
        return Ok(());
    }
    Err(Refusal::locked(if unit.position.level < trial.round {
        "this code belongs to a round that is over"
    } else {
        "this code belongs to a round that has not begun"
    }))
}

/// Refuses what was taken under another deal: its code may be on another unit now.
fn check_deal(sent: &HeadSent, trial: &Trial) -> Result<(), Refusal> {
    let dealt = trial.deal.as_ref().map(|deal| &deal.commitment);
    match (&sent.deal, dealt) {
        (Some(then), Some(now)) if then != now => Err(Refusal::DealtAgain),
        _ => Ok(()),
    }
}

fn unit(sent: &HeadSent, trial: &Trial, asks: Asks) -> Result<Option<UnitIndex>, Refusal> {
    let found = match (&sent.unit, asks.of) {
        (None, Of::Part | Of::Unit) => return Err(Refusal::wrong("unit", "say of which unit")),
        (Some(_), Of::Trial) => return Err(Refusal::wrong("unit", "this is of the whole trial")),
        (None, _) => None,
        (Some(code), _) => {
            let unknown = || Refusal::NotFound {
                what: "unit",
                id: code.clone(),
            };
            Some(trial.unit(code).ok_or_else(unknown)?)
        }
    };
    if asks.of != Of::Part && sent.crop.is_some() {
        return Err(Refusal::wrong("crop", "this is of the unit as a whole"));
    }
    if asks.of != Of::Part && sent.sample.is_some() {
        return Err(Refusal::wrong("sample", "this is of the unit as a whole"));
    }
    Ok(found)
}

impl HeadSent {
    /// Works the head out against a trial.
    ///
    /// # Errors
    /// Why nothing can be recorded under it.
    pub fn resolve(&self, trial: &Trial, sender: &Sender<'_>, asks: Asks) -> Result<Head, Refusal> {
        check_stage(trial, asks.stage)?;
        check_deal(self, trial)?;
        let unit = unit(self, trial, asks)?;
        // A guess or a note on a unit may be of any round; what is measured is of the one that it
        // is in.
        if let Some(unit) = unit.filter(|_| matches!(asks.of, Of::Part | Of::Unit)) {
            check_round(trial, unit)?;
        }
        if self
            .instrument
            .as_ref()
            .is_some_and(|name| name.chars().count() > MOST_INSTRUMENT)
        {
            return Err(Refusal::wrong(
                "instrument",
                "that is no name of an instrument",
            ));
        }
        let (date, at) = instant(self, sender)?;
        let day = day(self, sender, trial, date, asks)?;
        Ok(Head {
            unit,
            crop: self.crop,
            sample: self.sample,
            day,
            date,
            round: asks.round,
            at,
            entered_at: sender.now,
            who: Arc::from(sender.who),
            role: sender.role,
            instrument: self.instrument.as_deref().map(Arc::from),
            version: self.version,
            confirmed: self.confirmed,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn told(date: Option<&str>, time: Option<&str>, at: Option<&str>) -> Result<String, Refusal> {
        let zone = TimeZone::get("Europe/Vienna").unwrap();
        let now = "2026-11-26T12:00:00Z".parse().unwrap();
        let sender = Sender {
            who: "Ada",
            role: Role::Recorder,
            now,
            zone: &zone,
        };
        let sent = HeadSent {
            date: date.map(Into::into),
            time: time.map(Into::into),
            at: at.map(|at| at.parse().unwrap()),
            ..HeadSent::default()
        };
        instant(&sent, &sender).map(|(date, at)| format!("{date} {at}"))
    }

    #[test]
    fn a_late_entry_has_the_hour_that_is_known_of_it() {
        assert_eq!(
            told(None, None, None),
            Ok("2026-11-26 2026-11-26T12:00:00Z".into())
        );
        // What was entered before midnight and arrives after it is of the day before.
        assert_eq!(
            told(None, None, Some("2026-11-25T22:30:00Z")),
            Ok("2026-11-25 2026-11-25T22:30:00Z".into())
        );
        assert_eq!(
            told(Some("2026-11-25"), None, None),
            Ok("2026-11-25 2026-11-25T11:00:00Z".into())
        );
        assert_eq!(
            told(Some("2026-11-25"), Some("18:30"), None),
            Ok("2026-11-25 2026-11-25T17:30:00Z".into())
        );
        // A device whose clock runs ahead is not believed.
        assert_eq!(
            told(None, None, Some("2027-01-01T00:00:00Z")),
            Ok("2026-11-26 2026-11-26T12:00:00Z".into())
        );
        let field = |r: Result<String, Refusal>| match r {
            Err(Refusal::Wrong { field, .. }) => field,
            other => panic!("{other:?}"),
        };
        assert_eq!(field(told(Some("soon"), None, None)), "date");
        assert_eq!(field(told(Some("2026-11-25"), Some("late"), None)), "time");
        assert_eq!(field(told(Some("2026-11-27"), None, None)), "date");
        assert_eq!(field(told(Some("2026-11-26"), Some("13:01"), None)), "time");
    }
}
