//! Uptake: water and feed that went from a unit between its first filling and the last level read,
//! refills and top-ups included.
//!
//! On any one day the level and EC are those read before something is poured in. Water that
//! evaporated is counted with what the plants took; a unit without plants beside the others shows
//! how much that is. The feed is taken to be used up evenly, as EC alone cannot tell one nutrient
//! from another.

use super::tank_day::TankDay;
use serde::Serialize;

/// How strong the solution of a unit is meant to be, and how an EC is read as strength.
#[derive(Clone, Copy)]
pub struct Strength<'a> {
    /// mL or g of feed in a litre of fresh solution; None or 0 where it is not fed or nobody knows.
    pub dose_per_l: Option<f64>,
    /// The strength at an EC, as a share of the fresh solution; None where it is not fed or nobody
    /// knows.
    pub share_at: &'a dyn Fn(f64) -> Option<f64>,
}

impl Strength<'_> {
    /// Where only the water is asked for.
    pub const UNKNOWN: Strength<'static> = Strength {
        dose_per_l: None,
        share_at: &|_| None,
    };

    /// So much feed as litres of fresh solution that hold it.
    fn litres_of(&self, feed: f64) -> Option<f64> {
        if feed == 0.0 {
            Some(0.0)
        } else {
            self.dose_per_l
                .filter(|per_l| *per_l > 0.0)
                .map(|per_l| feed / per_l)
        }
    }
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
    /// Feed given, as what so many litres of fresh solution hold; null where it was dosed straight
    /// in and nobody knows how much of it a litre takes.
    pub feed_given_l: Option<f64>,
    /// Feed that is gone, as what so many litres of fresh solution hold; null where an EC is
    /// missing or nothing is fed.
    pub feed_l: Option<f64>,
    /// Strength that the solution would have at the level read last, had nothing of the feed given
    /// since its last filling been taken, as a share of the fresh one; null with nothing left or
    /// unknown doses.
    pub untouched_share: Option<f64>,
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
    #[error(
        "on day {day} there were {more:.2} L more than there could be: check the level and what \
         was added, or was it rain?"
    )]
    MoreThanGiven {
        /// When.
        day: u32,
        /// How much too much, L.
        more: f64,
    },
}

/// How much more than was put in a level may show before it is questioned, as a share of it: what a
/// scale on a bucket is read to. Common practice, no source.
const SLACK: f64 = 0.02;

/// A filling, with what followed.
struct Filling {
    day: u32,
    given_l: f64,
    feed_given_l: Option<f64>,
    /// At the last level read.
    read: Option<Read>,
}

struct Read {
    day: u32,
    given_l: f64,
    feed_given_l: Option<f64>,
    level_l: f64,
    ec_ms_per_cm: Option<f64>,
}

impl Filling {
    fn read(&mut self, day: &TankDay) -> Result<(), NoUptake> {
        let Some(level_l) = day.level_l else {
            return Ok(());
        };
        let held = self
            .read
            .as_ref()
            .map_or(self.given_l, |r| r.level_l + self.given_l - r.given_l);
        let more = level_l - held;
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

/// What went from a unit over its days, which stand in order. What is poured into an empty unit
/// fills it as well.
///
/// # Errors
/// [`NoUptake`], saying what is missing.
///
/// ```
/// use iron_twin_core::trial::uptake::{Strength, uptake};
/// use iron_twin_core::trial::tank_day::TankDay;
/// let days = [
///     TankDay { day: 0, filled_l: Some(10.0), ..TankDay::default() },
///     TankDay { day: 6, level_l: Some(7.0), water_l: 2.0, ..TankDay::default() },
///     TankDay { day: 12, level_l: Some(5.0), ec_ms_per_cm: Some(0.9), ..TankDay::default() },
/// ];
/// // 12 L given and 5 left, at half the strength of fresh: 2.5 of 10 litres' worth of feed are left.
/// let strength = Strength { dose_per_l: Some(4.0), share_at: &|ec| Some(ec / 1.8) };
/// let used = uptake(&days, strength).unwrap();
/// assert_eq!((used.water_l, used.feed_l), (7.0, Some(7.5)));
/// ```
pub fn uptake(days: &[TankDay], strength: Strength<'_>) -> Result<Uptake, NoUptake> {
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
            open = Some(Filling {
                day: day.day,
                given_l: filled_l,
                feed_given_l: Some(filled_l),
                read: None,
            });
        }
        let poured_l = day.water_l + day.solution_l;
        if open.is_none() && poured_l > 0.0 {
            first.get_or_insert(day.day);
            open = Some(Filling {
                day: day.day,
                given_l: 0.0,
                feed_given_l: Some(0.0),
                read: None,
            });
        }
        if let Some(filling) = &mut open {
            filling.given_l += poured_l;
            let fed = strength
                .litres_of(day.feed)
                .map(|litres| litres + day.solution_l);
            filling.feed_given_l = filling
                .feed_given_l
                .zip(fed)
                .map(|(given, more)| given + more);
        }
    }
    summed(
        first.zip(open).ok_or(NoUptake::NeverFilled)?,
        closed,
        strength,
    )
}

/// What went over all fillings.
fn summed(
    (from_day, last): (u32, Filling),
    mut closed: Vec<Read>,
    strength: Strength<'_>,
) -> Result<Uptake, NoUptake> {
    match last.read {
        Some(read) => closed.push(read),
        None if closed.is_empty() => return Err(NoUptake::LevelNotRead(last.day)),
        None => {}
    }
    let sum = |of: fn(&Read) -> f64| closed.iter().map(of).sum::<f64>();
    let feed_given_l = closed
        .iter()
        .try_fold(0.0, |given, r| Some(given + r.feed_given_l?));
    // As litres of fresh solution that hold as much feed as was left.
    let feed_left = closed.iter().try_fold(0.0, |left, r| {
        Some(left + (strength.share_at)(r.ec_ms_per_cm?)? * r.level_l)
    });
    let last = closed.last();
    Ok(Uptake {
        from_day,
        to_day: last.map_or(from_day, |r| r.day),
        given_l: sum(|r| r.given_l),
        water_l: sum(|r| r.given_l - r.level_l),
        feed_given_l,
        feed_l: feed_given_l
            .zip(feed_left)
            .map(|(given, left)| given - left),
        untouched_share: last
            .filter(|r| r.level_l > 0.0)
            .and_then(|r| Some(r.feed_given_l? / r.level_l)),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn day(day: u32) -> TankDay {
        TankDay {
            day,
            ..TankDay::default()
        }
    }

    fn filled(on: u32, litres: f64) -> TankDay {
        TankDay {
            filled_l: Some(litres),
            ..day(on)
        }
    }

    fn level(on: u32, litres: f64) -> TankDay {
        TankDay {
            level_l: Some(litres),
            ..day(on)
        }
    }

    fn water(days: &[TankDay]) -> Result<f64, NoUptake> {
        uptake(days, Strength::UNKNOWN).map(|u| u.water_l)
    }

    #[test]
    fn what_is_missing_is_said() {
        assert_eq!(water(&[]), Err(NoUptake::NeverFilled));
        assert_eq!(water(&[level(3, 5.0)]), Err(NoUptake::NeverFilled));
        assert_eq!(water(&[filled(0, 8.0)]), Err(NoUptake::LevelNotRead(0)));
        assert_eq!(
            water(&[filled(0, 8.0), level(3, 5.0), filled(7, 8.0)]),
            Err(NoUptake::PouredAway(7))
        );
        let more = water(&[filled(0, 8.0), level(3, 9.5)]).unwrap_err();
        assert!(more.to_string().contains("1.50 L more"), "{more}");
        // A level that rose with nothing poured in, though it stays below what was filled in.
        let rose = [filled(0, 8.0), level(3, 5.0), level(5, 6.0)];
        assert!(matches!(
            water(&rose),
            Err(NoUptake::MoreThanGiven { day: 5, .. })
        ));
        assert_eq!(
            water(&[
                filled(0, 8.0),
                TankDay {
                    water_l: 1.0,
                    ..level(3, 5.0)
                },
                level(5, 6.0)
            ]),
            Ok(3.0)
        );
        assert_eq!(
            water(&[filled(0, 8.0), level(3, 8.1)]).map(|w| w.round()),
            Ok(-0.0),
            "a reading's own error"
        );
    }

    #[test]
    fn a_refill_adds_up_and_an_unread_last_one_is_left_out() {
        let refill = TankDay {
            level_l: Some(5.0),
            ..filled(7, 8.0)
        };
        assert_eq!(water(&[filled(0, 8.0), refill]), Ok(3.0));
        let both = [filled(0, 8.0), refill, level(9, 6.0)];
        assert_eq!(water(&both), Ok(5.0));
        assert_eq!(
            uptake(&both, Strength::UNKNOWN).map(|u| (u.from_day, u.to_day, u.feed_l)),
            Ok((0, 9, None))
        );
        // What is poured in after the reading of the day is not gone yet.
        assert_eq!(
            water(&[
                filled(0, 8.0),
                TankDay {
                    water_l: 2.0,
                    ..level(4, 6.0)
                }
            ]),
            Ok(2.0)
        );
        assert_eq!(
            water(&[level(0, 3.0), filled(0, 8.0), level(2, 7.0)]),
            Ok(1.0),
            "before the first filling nothing counts"
        );
    }

    /// 5 mL of a feed of which a litre takes 4 mL, into 10 L of water at each of three feedings:
    /// the dose adds up, and the EC that it would have untouched is known.
    #[test]
    fn doses_into_a_standing_reservoir_add_up() {
        let dosed = |on: u32| TankDay {
            feed: 5.0,
            ..day(on)
        };
        let days = [
            TankDay {
                water_l: 10.0,
                ..dosed(0)
            },
            dosed(3),
            TankDay {
                level_l: Some(7.5),
                ec_ms_per_cm: Some(0.4),
                ..dosed(6)
            },
            TankDay {
                level_l: Some(6.0),
                ec_ms_per_cm: Some(0.5),
                ..day(9)
            },
        ];
        let at = |days: &[TankDay], dose_per_l| {
            uptake(
                days,
                Strength {
                    dose_per_l,
                    share_at: &|ec| Some(ec / 2.0),
                },
            )
            .unwrap()
        };
        // Two doses before the reading of day 6: 10 mL, as 2.5 L of fresh solution hold; in 7.5 L
        // that is a third.
        let six = at(&days[..3], Some(4.0));
        assert_eq!(
            (six.water_l, six.feed_given_l, six.untouched_share),
            (2.5, Some(2.5), Some(2.5 / 7.5))
        );
        assert!((six.feed_l.unwrap() - (2.5 - 0.2 * 7.5)).abs() < 1e-12);
        let nine = at(&days, Some(4.0));
        assert_eq!(
            (nine.feed_given_l, nine.untouched_share),
            (Some(3.75), Some(3.75 / 6.0))
        );
        // Nobody knows what a litre takes: the water is still told.
        let unknown = at(&days, None);
        assert_eq!(
            (unknown.water_l, unknown.feed_given_l, unknown.feed_l),
            (4.0, None, None)
        );
    }

    proptest! {
        /// A bucket that plants empty day by day, topped up and filled anew as it comes: what the
        /// records say went is what went.
        #[test]
        fn the_records_give_back_what_the_plants_took(
            start in 5.0f64..20.0,
            events in prop::collection::vec(
                (0.0f64..1.0, 0.0f64..1.0, 0.0f64..3.0, 0.0f64..3.0, 0.0f64..9.0, prop::option::weighted(0.15, 5.0f64..20.0)), 1..20,
            ),
        ) {
            let (full_ec, mut days) = (1.6, vec![filled(0, start)]);
            let (mut litres, mut feed) = (start, start);
            let (mut took_water, mut took_feed) = (0.0, 0.0);
            for (n, (drink, eat, added_water, added_solution, dosed, refill)) in (1..).zip(events) {
                took_water += drink * litres;
                took_feed += eat * feed;
                (litres, feed) = (litres * (1.0 - drink), feed * (1.0 - eat));
                let ec = if litres > 0.0 { full_ec * feed / litres } else { 0.0 };
                days.push(TankDay {
                    day: n, level_l: Some(litres), ec_ms_per_cm: Some(ec), filled_l: refill,
                    water_l: added_water, solution_l: added_solution, feed: dosed,
                });
                if let Some(fresh) = refill {
                    (litres, feed) = (fresh, fresh);
                }
                litres += added_water + added_solution;
                feed += added_solution + dosed / 4.0;
            }
            // A refill on the last day has not been read: what went before it counts.
            let got = uptake(&days, Strength { dose_per_l: Some(4.0), share_at: &|ec| Some(ec / full_ec) }).unwrap();
            prop_assert!((got.water_l - took_water).abs() < 1e-9 * (1.0 + got.given_l), "{got:?} {took_water}");
            prop_assert!((got.feed_l.unwrap() - took_feed).abs() < 1e-9 * (1.0 + got.given_l + got.feed_given_l.unwrap()), "{got:?} {took_feed}");
        }
    }
}
