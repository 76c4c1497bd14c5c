//! Uptake: water and feed that went from a unit between its first filling and the last level read, refills and top-ups
//! included.
//!
//! On any one day the level and EC are those read before something is poured in. Water that evaporated is counted with
//! what the plants took; a unit without plants beside the others shows how much that is. The feed is taken to be used up
//! evenly, as EC alone cannot tell one nutrient from another.

use serde::Serialize;

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
}

/// What went from a unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Uptake {
    /// Day of the first filling.
    pub from_day: u32,
    /// Day of the level that counts last.
    pub to_day: u32,
    /// Water and solution given up to then, L.
    pub given_l: f64,
    /// Water that plants took and that evaporated, L.
    pub water_l: f64,
    /// Feed given, as what so many litres of fresh solution hold.
    pub feed_given_l: f64,
    /// Feed that is gone, as what so many litres of fresh solution hold; null where an EC is missing or nothing is fed.
    pub feed_l: Option<f64>,
}

/// Why nothing can be said of a unit.
#[derive(Debug, Clone, Copy, PartialEq, thiserror::Error)]
pub enum NoUptake {
    /// No filling on record.
    #[error("no filling is on record")]
    NeverFilled,
    /// Filled, and not looked at since.
    #[error("the level was not read after the filling on day {0}")]
    LevelNotRead(u32),
    /// Poured away unread.
    #[error("the level was not read before the fresh filling on day {0}")]
    PouredAway(u32),
    /// Rain, a slip, or something poured in that was not written down.
    #[error("on day {day} there were {more:.2} L more than had been put in: check the level and what was added")]
    MoreThanGiven {
        /// When.
        day: u32,
        /// How much too much, L.
        more: f64,
    },
}

/// How much more than was put in a level may show before it is questioned, as a share of it: what a scale on a bucket is
/// read to. Common practice, no source.
const SLACK: f64 = 0.02;

/// A filling, with what followed.
struct Filling {
    day: u32,
    given_l: f64,
    feed_given_l: f64,
    /// At the last level read.
    read: Option<Read>,
}

struct Read {
    day: u32,
    given_l: f64,
    feed_given_l: f64,
    level_l: f64,
    ec_ms_per_cm: Option<f64>,
}

impl Filling {
    fn read(&mut self, day: &TankDay) -> Result<(), NoUptake> {
        let Some(level_l) = day.level_l else { return Ok(()) };
        let more = level_l - self.given_l;
        if more > SLACK * self.given_l {
            return Err(NoUptake::MoreThanGiven { day: day.day, more });
        }
        self.read = Some(Read {
            day: day.day,
            given_l: self.given_l,
            feed_given_l: self.feed_given_l,
            level_l,
            ec_ms_per_cm: day.ec_ms_per_cm,
        });
        Ok(())
    }
}

/// What went from a unit over its days, which stand in order. `share_at` gives the strength of its solution at an EC, as a
/// share of the fresh one; None where it is not fed or nobody knows.
///
/// # Errors
/// [`NoUptake`], saying what is missing.
///
/// ```
/// use iron_twin_core::mix::uptake::{TankDay, uptake};
/// let days = [
///     TankDay { day: 0, filled_l: Some(10.0), ..TankDay::default() },
///     TankDay { day: 6, level_l: Some(7.0), water_l: 2.0, ..TankDay::default() },
///     TankDay { day: 12, level_l: Some(5.0), ec_ms_per_cm: Some(0.9), ..TankDay::default() },
/// ];
/// // 12 L given and 5 left, at half the strength of fresh: 2.5 of 10 litres' worth of feed are left.
/// let used = uptake(&days, &|ec| Some(ec / 1.8)).unwrap();
/// assert_eq!((used.water_l, used.feed_l), (7.0, Some(7.5)));
/// ```
pub fn uptake(days: &[TankDay], share_at: &dyn Fn(f64) -> Option<f64>) -> Result<Uptake, NoUptake> {
    let mut closed: Vec<Read> = Vec::new();
    let mut open: Option<Filling> = None;
    let mut first = None;
    for day in days {
        if let Some(filling) = &mut open {
            filling.read(day)?;
        }
        if let Some(filled_l) = day.filled_l {
            if let Some(before) = open.take() {
                let read = before.read.filter(|r| r.day == day.day);
                closed.push(read.ok_or(NoUptake::PouredAway(day.day))?);
            }
            first.get_or_insert(day.day);
            open = Some(Filling { day: day.day, given_l: filled_l, feed_given_l: filled_l, read: None });
        }
        if let Some(filling) = &mut open {
            filling.given_l += day.water_l + day.solution_l;
            filling.feed_given_l += day.solution_l;
        }
    }
    let (from_day, last) = first.zip(open).ok_or(NoUptake::NeverFilled)?;
    match last.read {
        Some(read) => closed.push(read),
        None if closed.is_empty() => return Err(NoUptake::LevelNotRead(last.day)),
        None => {}
    }
    let sum = |of: fn(&Read) -> f64| closed.iter().map(of).sum::<f64>();
    let feed_given_l = sum(|r| r.feed_given_l);
    // As litres of fresh solution that hold as much feed as was left.
    let feed_left = closed.iter().try_fold(0.0, |left, r| Some(left + share_at(r.ec_ms_per_cm?)? * r.level_l));
    Ok(Uptake {
        from_day,
        to_day: closed.last().map_or(from_day, |r| r.day),
        given_l: sum(|r| r.given_l),
        water_l: sum(|r| r.given_l - r.level_l),
        feed_given_l,
        feed_l: feed_left.map(|left| feed_given_l - left),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn day(day: u32) -> TankDay {
        TankDay { day, ..TankDay::default() }
    }

    fn filled(on: u32, litres: f64) -> TankDay {
        TankDay { filled_l: Some(litres), ..day(on) }
    }

    fn level(on: u32, litres: f64) -> TankDay {
        TankDay { level_l: Some(litres), ..day(on) }
    }

    fn water(days: &[TankDay]) -> Result<f64, NoUptake> {
        uptake(days, &|_| None).map(|u| u.water_l)
    }

    #[test]
    fn what_is_missing_is_said() {
        assert_eq!(water(&[]), Err(NoUptake::NeverFilled));
        assert_eq!(water(&[level(3, 5.0)]), Err(NoUptake::NeverFilled));
        assert_eq!(water(&[filled(0, 8.0)]), Err(NoUptake::LevelNotRead(0)));
        assert_eq!(water(&[filled(0, 8.0), level(3, 5.0), filled(7, 8.0)]), Err(NoUptake::PouredAway(7)));
        let more = water(&[filled(0, 8.0), level(3, 9.5)]).unwrap_err();
        assert!(more.to_string().contains("1.50 L more"), "{more}");
        assert_eq!(water(&[filled(0, 8.0), level(3, 8.1)]).map(|w| w.round()), Ok(-0.0), "a reading's own error");
    }

    #[test]
    fn a_refill_adds_up_and_an_unread_last_one_is_left_out() {
        let refill = TankDay { level_l: Some(5.0), ..filled(7, 8.0) };
        assert_eq!(water(&[filled(0, 8.0), refill]), Ok(3.0));
        let both = [filled(0, 8.0), refill, level(9, 6.0)];
        assert_eq!(water(&both), Ok(5.0));
        assert_eq!(uptake(&both, &|_| None).map(|u| (u.from_day, u.to_day, u.feed_l)), Ok((0, 9, None)));
        // What is poured in after the reading of the day is not gone yet.
        assert_eq!(water(&[filled(0, 8.0), TankDay { water_l: 2.0, ..level(4, 6.0) }]), Ok(2.0));
        assert_eq!(
            water(&[level(0, 3.0), filled(0, 8.0), level(2, 7.0)]),
            Ok(1.0),
            "before the first filling nothing counts"
        );
    }

    proptest! {
        /// A bucket that plants empty day by day, topped up and filled anew as it comes: what the records say went is what
        /// went.
        #[test]
        fn the_records_give_back_what_the_plants_took(
            start in 5.0f64..20.0,
            events in prop::collection::vec((0.0f64..1.0, 0.0f64..1.0, 0.0f64..3.0, 0.0f64..3.0, prop::option::weighted(0.15, 5.0f64..20.0)), 1..20),
        ) {
            let (full_ec, mut days) = (1.6, vec![filled(0, start)]);
            let (mut litres, mut feed) = (start, start);
            let (mut took_water, mut took_feed) = (0.0, 0.0);
            for (n, (drink, eat, added_water, added_solution, refill)) in (1..).zip(events) {
                took_water += drink * litres;
                took_feed += eat * feed;
                (litres, feed) = (litres * (1.0 - drink), feed * (1.0 - eat));
                let ec = if litres > 0.0 { full_ec * feed / litres } else { 0.0 };
                days.push(TankDay {
                    day: n, level_l: Some(litres), ec_ms_per_cm: Some(ec), filled_l: refill,
                    water_l: added_water, solution_l: added_solution,
                });
                if let Some(fresh) = refill {
                    (litres, feed) = (fresh, fresh);
                }
                litres += added_water + added_solution;
                feed += added_solution;
            }
            // A refill on the last day has not been read: what went before it counts.
            let got = uptake(&days, &|ec| Some(ec / full_ec)).unwrap();
            prop_assert!((got.water_l - took_water).abs() < 1e-9 * (1.0 + got.given_l), "{got:?} {took_water}");
            prop_assert!((got.feed_l.unwrap() - took_feed).abs() < 1e-9 * (1.0 + got.given_l), "{got:?} {took_feed}");
        }
    }
}
