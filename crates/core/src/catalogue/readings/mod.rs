//! Readings at the shelf. One file a reading: unit, what is refused as impossible, what is asked
//! about as unlikely.

pub mod affected_area;
pub mod brix;
pub mod brown_share;
pub mod canopy_cover;
pub mod canopy_density;
pub mod canopy_evenness;
pub mod curl;
pub mod dark_green;
pub mod dissolved_oxygen;
pub mod dry;
pub mod ec;
pub mod edible;
pub mod evenness;
pub mod feed_added;
pub mod filled;
pub mod first_flower;
pub mod first_fruit;
pub mod first_root;
pub mod flowers;
pub mod germinated;
pub mod height;
pub mod hulls_left;
pub mod leaf_count;
pub mod lean;
pub mod leaves_with_tip_burn;
pub mod level;
pub mod longest_root;
pub mod odour;
pub mod own;
pub mod ph;
pub mod red_colour;
pub mod red_leaf;
pub mod root_colour;
pub mod root_density;
pub mod sediment;
pub mod seeds_counted;
pub mod slime;
pub mod solution_added;
pub mod spread;
pub mod sturdiness;
pub mod swelling;
pub mod vigour;
pub mod wall_thickness;
pub mod water_added;
pub mod work;
pub mod work_cleaning;
pub mod work_feeding;
pub mod work_harvest;
pub mod work_setting_up;
pub mod yellow_leaf;
pub mod yellowing;

use serde::Serialize;

/// A reading of the solution or the plants.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Reading {
    /// Stable key.
    pub key: &'static str,
    /// As a grower says it.
    pub name: &'static str,
    /// Unit; empty for pH.
    pub unit: &'static str,
    /// Decimals shown.
    pub decimals: u32,
    /// Below this it cannot be.
    pub refused_below: f64,
    /// Above this it cannot be.
    pub refused_above: f64,
    /// Below this it is asked about.
    pub asked_below: f64,
    /// Above this it is asked about.
    pub asked_above: f64,
    /// Whether only whole numbers make sense: counts, grades, seen or not.
    pub whole: bool,
    /// Whether a value far from the one before is asked about.
    pub jumps_asked: bool,
    /// Whether it says if something was seen, which does not go away again.
    pub once_seen: bool,
    /// Whether it is judged by eye, so that who knows the treatment may see what they hope for.
    pub by_eye: bool,
    /// What the numbers mean; empty where the unit says it.
    pub scale: &'static str,
}

/// What a grade stands for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Anchor {
    /// The grade.
    pub grade: u32,
    /// In words.
    pub words: &'static str,
}

/// Minutes of work on a unit: of any kind, and task by task.
pub const WORK: [&Reading; 5] = [
    &work::READING,
    &work_setting_up::READING,
    &work_feeding::READING,
    &work_harvest::READING,
    &work_cleaning::READING,
];

/// All readings, in the order of the grid.
pub const ALL: [&Reading; 50] = [
    &ph::READING,
    &ec::READING,
    &level::READING,
    &filled::READING,
    &water_added::READING,
    &solution_added::READING,
    &feed_added::READING,
    &dissolved_oxygen::READING,
    &odour::READING,
    &sediment::READING,
    &height::READING,
    &germinated::READING,
    &seeds_counted::READING,
    &leaf_count::READING,
    &leaves_with_tip_burn::READING,
    &first_root::READING,
    &first_flower::READING,
    &first_fruit::READING,
    &root_colour::READING,
    &vigour::READING,
    &longest_root::READING,
    &spread::READING,
    &flowers::READING,
    &brix::READING,
    &wall_thickness::READING,
    &affected_area::READING,
    &root_density::READING,
    &slime::READING,
    &swelling::READING,
    &sturdiness::READING,
    &lean::READING,
    &canopy_density::READING,
    &evenness::READING,
    &hulls_left::READING,
    &yellowing::READING,
    &curl::READING,
    &red_colour::READING,
    &work::READING,
    &work_setting_up::READING,
    &work_feeding::READING,
    &work_harvest::READING,
    &work_cleaning::READING,
    &edible::READING,
    &dry::READING,
    &canopy_cover::READING,
    &dark_green::READING,
    &yellow_leaf::READING,
    &red_leaf::READING,
    &brown_share::READING,
    &canopy_evenness::READING,
];

/// Readings of the solution stand first in [`ALL`].
const OF_SOLUTION: usize = 10;

/// Whether a reading is of the solution, which all plants of a unit share.
#[must_use]
pub fn is_of_solution(key: &str) -> bool {
    ALL[..OF_SOLUTION].iter().any(|r| r.key == key)
}

/// Readings that are taken from a picture of the whole unit stand last in [`ALL`].
const OF_PICTURE: usize = 6;

/// Whether a reading is taken from a picture of the unit.
#[must_use]
pub fn is_of_picture(key: &str) -> bool {
    ALL[ALL.len() - OF_PICTURE..].iter().any(|r| r.key == key)
}

/// Whether a reading is of the unit as a whole, whatever crops and samples stand in it.
#[must_use]
pub fn is_of_unit(key: &str) -> bool {
    is_of_solution(key) || is_of_picture(key) || is_after_cut(key) || key == work::READING.key
}

/// Whether a reading is taken of what was cut, after the cut.
#[must_use]
pub fn is_after_cut(key: &str) -> bool {
    [edible::READING.key, dry::READING.key].contains(&key)
}

/// The reading with this key, one of a grower's own among them.
#[must_use]
pub fn find(key: &str) -> Option<&'static Reading> {
    ALL.into_iter()
        .find(|r| r.key == key)
        .or_else(|| own::find(key))
}

/// What is thought of a value.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Credible {
    /// Taken.
    Yes,
    /// Taken when confirmed.
    Ask(String),
    /// Refused.
    No(String),
}

/// A change from the previous reading beyond this factor is asked about.
pub const ASKED_FACTOR: f64 = 2.0;

impl Reading {
    fn text(&self, value: f64) -> String {
        if self.unit.is_empty() {
            format!("{value}")
        } else {
            format!("{value} {}", self.unit)
        }
    }

    /// What its grades stand for, as its scale says; empty where it has none.
    ///
    /// ```
    /// use iron_twin_core::catalogue::readings::{Anchor, ec, lean};
    /// assert_eq!(lean::READING.anchors()[1], Anchor { grade: 2, words: "leaning" });
    /// assert!(ec::READING.anchors().is_empty());
    /// ```
    #[must_use]
    pub fn anchors(&self) -> Vec<Anchor> {
        let anchor = |part: &'static str| {
            let (grade, words) = part.split_once(' ')?;
            Some(Anchor {
                grade: grade.parse().ok()?,
                words,
            })
        };
        self.scale.split(", ").filter_map(anchor).collect()
    }

    /// Between which values nothing is asked, given the previous one of the same unit: the least
    /// and the greatest.
    ///
    /// ```
    /// use iron_twin_core::catalogue::readings::ec;
    /// assert_eq!(ec::READING.unasked(None), (0.0, 4.0));
    /// assert_eq!(ec::READING.unasked(Some(1.0)), (0.5, 2.0));
    /// ```
    #[must_use]
    pub fn unasked(&self, previous: Option<f64>) -> (f64, f64) {
        let (low, high) = (self.asked_below, self.asked_above);
        match previous {
            Some(before) if self.jumps_asked && before > 0.0 => (
                low.max(before / ASKED_FACTOR),
                high.min(before * ASKED_FACTOR),
            ),
            Some(before) if self.once_seen && before > 0.0 => (low.max(1.0), high),
            _ => (low, high),
        }
    }

    /// Whether a value can be right, given the previous one of the same unit.
    ///
    /// ```
    /// use iron_twin_core::catalogue::readings::{ph, Credible};
    /// assert_eq!(ph::READING.check(6.1, Some(6.0)), Credible::Yes);
    /// assert!(matches!(ph::READING.check(61.0, None), Credible::No(_)));
    /// ```
    #[must_use]
    pub fn check(&self, value: f64, previous: Option<f64>) -> Credible {
        if !value.is_finite() || value < self.refused_below || value > self.refused_above {
            return Credible::No(format!(
                "{} lies between {} and {}; {value} cannot be right",
                self.name,
                self.refused_below,
                self.text(self.refused_above)
            ));
        }
        if self.whole && value.fract() != 0.0 {
            return Credible::No(format!(
                "{} is a whole number; {value} cannot be right",
                self.name
            ));
        }
        if value < self.asked_below || value > self.asked_above {
            return Credible::Ask(format!(
                "{} of {} is unusual. Is it right?",
                self.name,
                self.text(value)
            ));
        }
        match previous {
            Some(before)
                if self.jumps_asked
                    && before > 0.0
                    && !(1.0 / ASKED_FACTOR..=ASKED_FACTOR).contains(&(value / before)) =>
            {
                Credible::Ask(format!(
                    "{} was {} before and is {} now. Is it right?",
                    self.name,
                    before,
                    self.text(value)
                ))
            }
            Some(before) if self.once_seen && before > 0.0 && value == 0.0 => Credible::Ask(
                format!("The {} was seen already. Is it gone again?", self.name),
            ),
            _ => Credible::Yes,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_reading_refuses_asks_and_takes() {
        for reading in ALL {
            assert!(
                matches!(reading.check(f64::NAN, None), Credible::No(_)),
                "{}",
                reading.key
            );
            assert!(matches!(
                reading.check(reading.refused_above * 1.01 + 1.0, None),
                Credible::No(_)
            ));
            assert!(matches!(
                reading.check(reading.refused_below - 1.0, None),
                Credible::No(_)
            ));
            let unusual = (0.5 * (reading.asked_above + reading.refused_above)).floor();
            // Grades have no unusual value: each step of the scale is as good as another.
            if reading.asked_above < reading.refused_above {
                assert!(
                    matches!(
                        reading.check(
                            unusual.max(
                                reading.asked_above
                                    + 0.1_f64.max(f64::from(u8::from(reading.whole)))
                            ),
                            None
                        ),
                        Credible::Ask(_)
                    ),
                    "{}",
                    reading.key
                );
            }
            if reading.whole {
                assert!(
                    matches!(
                        reading.check(0.5 + reading.refused_below, None),
                        Credible::No(_)
                    ),
                    "{}",
                    reading.key
                );
            }
            let usual = (0.5 * (reading.asked_below + reading.asked_above)).floor();
            assert_eq!(reading.check(usual, Some(usual)), Credible::Yes);
        }
        for graded in ALL
            .into_iter()
            .filter(|r| r.by_eye && !r.once_seen && r.refused_above <= 9.0)
        {
            let grades: Vec<f64> = graded
                .anchors()
                .iter()
                .map(|a| f64::from(a.grade))
                .collect();
            let ends = (grades.first().copied(), grades.last().copied());
            assert_eq!(
                ends,
                (Some(graded.refused_below), Some(graded.refused_above)),
                "{}",
                graded.key
            );
            assert!(
                (3..=5).contains(&grades.len()) && grades.is_sorted(),
                "{}",
                graded.key
            );
        }
        assert!(matches!(
            ec::READING.check(2.4, Some(1.0)),
            Credible::Ask(_)
        ));
        // What is asked about lies outside of what is told to lie within.
        for (reading, value) in ALL
            .into_iter()
            .flat_map(|r| (0..=100).map(move |n| (r, 0.05 * f64::from(n))))
        {
            for before in [None, Some(0.0), Some(1.0), Some(2.0)] {
                let (low, high) = reading.unasked(before);
                let asked = matches!(reading.check(value, before), Credible::Ask(_));
                let inside = (low..=high).contains(&value);
                assert!(
                    !(asked && inside),
                    "{} {value} after {before:?}",
                    reading.key
                );
                let taken = reading.check(value, before) == Credible::Yes;
                assert!(!taken || inside, "{} {value} after {before:?}", reading.key);
            }
        }
        assert_eq!(find("ph").map(|r| r.key), Some("ph"));
        assert!(find("mood").is_none());
        let of_solution: Vec<&str> = ALL
            .iter()
            .map(|r| r.key)
            .filter(|key| is_of_solution(key))
            .collect();
        assert_eq!(
            of_solution[..7],
            [
                "ph",
                "ec",
                "level",
                "filled",
                "water_added",
                "solution_added",
                "feed_added"
            ]
        );
        let of_picture: Vec<&str> = ALL
            .iter()
            .map(|r| r.key)
            .filter(|key| is_of_picture(key))
            .collect();
        assert_eq!(of_picture[..2], ["canopy_cover", "dark_green"]);
        assert_eq!(of_picture.len(), 6);
        assert_eq!(of_solution[7..], ["dissolved_oxygen", "odour", "sediment"]);
    }
}
