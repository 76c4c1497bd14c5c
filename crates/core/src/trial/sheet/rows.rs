//! The rows of the match sheet: what is given laid side by side, and the conditions.

use super::Sheet;
use crate::catalogue::conditions;
use crate::trial::application::{Application, Role};
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// What some treatments get in the same place: the feed of each, the spray of each.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Line {
    /// Feed or additive.
    pub role: Role,
    /// As a grower says it, and the name of the factor: `feed`, or what it is where treatments get
    /// several.
    pub name: String,
    /// For each treatment the place of its application in its list; null where it gets none here.
    pub of: Vec<Option<usize>>,
}

/// What is compared of the treatments, one thing after another.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Row {
    /// Rows of one factor count as one difference.
    pub factor: String,
    /// As a grower says it.
    pub name: String,
    /// Unit of the cells; empty for words.
    pub unit: &'static str,
    /// What stands in it for each treatment; None where the row says nothing of it, as the day of
    /// what is not given.
    pub cells: Vec<Option<String>>,
}

/// The factor of the way in which something is given.
pub const WAY: &str = "way of giving";
/// The factor of the days on which something is given.
pub const SCHEDULE: &str = "schedule";

impl Row {
    /// Whether two treatments differ in it.
    #[must_use]
    pub fn differs(&self, a: TreatmentIndex, b: TreatmentIndex) -> bool {
        match (&self.cells[a], &self.cells[b]) {
            (Some(x), Some(y)) => x.trim().to_lowercase() != y.trim().to_lowercase(),
            _ => false,
        }
    }

    /// Whether any two treatments differ in it.
    #[must_use]
    pub fn varies(&self) -> bool {
        let all = TreatmentIndex::all(self.cells.len());
        let said = all.clone().find(|&t| self.cells[t].is_some());
        said.is_some_and(|first| all.clone().any(|t| self.differs(first, t)))
    }
}

impl Sheet {
    /// The application of a treatment in a line.
    #[must_use]
    pub fn application(&self, line: &Line, treatment: TreatmentIndex) -> Option<&Application> {
        self.get(treatment)?
            .applications
            .get((*treatment.of(&line.of)?)?)
    }

    /// What is given, side by side: what has one name stands in one line, and what stands in for it
    /// elsewhere joins it.
    ///
    /// ```
    /// use iron_twin_core::trial::{application::{Application, Role}, sheet::Sheet};
    /// let mut sheet = Sheet::usual();
    /// sheet.treatments[1].applications.push(Application::stirred(Role::Additive, "kelp", 1.0));
    /// let lines = sheet.lines();
    /// assert_eq!((lines[0].name.as_str(), &lines[0].of), ("feed", &vec![None, Some(0)]));
    /// assert_eq!((lines[1].name.as_str(), &lines[1].of), ("additive", &vec![None, Some(1)]));
    /// ```
    #[must_use]
    pub fn lines(&self) -> Vec<Line> {
        let mut lines: Vec<Line> = Role::ALL
            .into_iter()
            .flat_map(|role| self.lines_of(role))
            .collect();
        // A line of a name that is taken is told by how it is given, and by its number where that
        // is the same as well: lines of one name would count as one difference.
        for l in 1..lines.len() {
            let (before, own) = lines.split_at_mut(l);
            let how = self.given(&own[0].of).next().map_or("", |a| a.how.words());
            let name = own[0].name.clone();
            let numbered = (2..).map(|n| format!("{name} ({n})"));
            let mut names = [name.clone(), format!("{name}, {how}")]
                .into_iter()
                .chain(numbered);
            let free = names.find(|name| {
                before
                    .iter()
                    .all(|line| line.name.to_lowercase() != name.to_lowercase())
            });
            own[0].name = free.unwrap_or(name);
        }
        lines
    }

    /// What stands in a line.
    fn given(&self, of: &[Option<usize>]) -> impl Iterator<Item = &Application> {
        self.treatments
            .iter()
            .zip(of)
            .filter_map(|(t, i)| t.applications.get((*i)?))
    }

    /// Lines of a role, before those that substitute one another are joined: by treatment, which of
    /// its applications stands in each.
    fn lines_apart(&self, role: Role) -> Vec<Vec<Option<usize>>> {
        let count = self.treatments.len();
        let mut lines: Vec<Vec<Option<usize>>> = Vec::new();
        for (t, treatment) in self.each() {
            let own = |i: usize| &treatment.applications[i];
            let mut open: Vec<usize> = (0..treatment.applications.len())
                .filter(|&i| own(i).role == role)
                .collect();
            // The same name given the same way is the same line; then the same name; then a line of
            // its own.
            for same_way in [true, false] {
                open.retain(|&i| {
                    let fits =
                        |a: &Application| a.is_also(own(i)) && (!same_way || a.how == own(i).how);
                    let there = |of: &[Option<usize>]| of[t].is_none() && self.given(of).any(fits);
                    let line = lines.iter().position(|of| there(of));
                    line.inspect(|&l| lines[l][t] = Some(i)).is_none()
                });
            }
            for i in open {
                let mut line = vec![None; count];
                line[t] = Some(i);
                lines.push(line);
            }
        }
        lines
    }

    fn lines_of(&self, role: Role) -> Vec<Line> {
        let lines = self.lines_apart(role);
        // What stands in one treatment where another stands elsewhere is its substitute: the first
        // that fits, one given the same way before others.
        let way = |of: &[Option<usize>]| self.given(of).next().map(|a| a.how);
        let mut joined: Vec<Vec<Option<usize>>> = Vec::new();
        for line in lines {
            let apart = |other: &[Option<usize>]| {
                self.indices()
                    .all(|t| line[t].is_none() || other[t].is_none())
            };
            let fits = (0..joined.len()).filter(|&j| apart(&joined[j]));
            match fits.min_by_key(|&j| (way(&joined[j]) != way(&line), j)) {
                Some(j) => joined[j]
                    .iter_mut()
                    .zip(&line)
                    .for_each(|(own, of)| *own = own.or(*of)),
                None => joined.push(line),
            }
        }
        let several = joined.len() > 1;
        let name = |(n, of): (usize, &Vec<Option<usize>>)| {
            let mut names = self.given(of);
            let ways = joined.iter().filter(|other| way(other) == way(of)).count();
            match names.next() {
                _ if !several => role.name().to_owned(),
                Some(first) if names.all(|a| a.is_also(first)) => first.what.trim().to_owned(),
                Some(first) if ways == 1 => format!("{}, {}", role.name(), first.how.words()),
                _ => format!("{} {}", role.name(), n + 1),
            }
        };
        let line = |(n, of): (usize, &Vec<Option<usize>>)| Line {
            role,
            name: name((n, of)),
            of: of.clone(),
        };
        joined.iter().enumerate().map(line).collect()
    }

    /// Everything in which treatments may differ, in the order of the sheet: the water, what is
    /// given, the other conditions.
    #[must_use]
    pub fn rows(&self) -> Vec<Row> {
        let condition = |c: &'static conditions::Condition| Row {
            factor: c.factor.into(),
            name: c.name.into(),
            unit: c.unit,
            cells: self
                .treatments
                .iter()
                .map(|t| t.value(c.key).map(|v| v.trim().to_owned()))
                .collect(),
        };
        let (water, others): (Vec<_>, Vec<_>) =
            conditions::ALL.into_iter().partition(|c| c.key == "water");
        let mut rows: Vec<Row> = water.into_iter().map(condition).collect();
        for line in self.lines() {
            rows.extend(self.rows_of(&line));
        }
        rows.extend(others.into_iter().map(condition));
        rows
    }

    fn rows_of(&self, line: &Line) -> [Row; 4] {
        let all = self.indices();
        let cells = |say: &dyn Fn(&Application) -> String| -> Vec<Option<String>> {
            all.clone()
                .map(|t| self.application(line, t).map(say))
                .collect()
        };
        let row = |factor: &str, name: String, cells| Row {
            factor: factor.to_owned(),
            name,
            unit: "",
            cells,
        };
        let what = all.clone().map(|t| {
            Some(
                self.application(line, t)
                    .map_or_else(|| NOTHING.to_owned(), |a| a.what.trim().to_owned()),
            )
        });
        let role = line.role.name();
        let of = if line.name == role {
            String::new()
        } else {
            format!(" of {}", line.name)
        };
        let dose = if line.role == Role::Feed {
            format!("dose{of}")
        } else {
            format!("{role} dose{of}")
        };
        let amount = |a: &Application| match a.ml_a_unit {
            Some(ml) if !a.how.in_tank() => format!("{}, {ml} mL a unit", a.amount.words()),
            _ => a.amount.words(),
        };
        [
            row(&line.name, line.name.clone(), what.collect()),
            row(&line.name, dose, cells(&amount)),
            row(
                WAY,
                format!("way of giving{of}"),
                cells(&|a| a.how.words().to_owned()),
            ),
            row(
                SCHEDULE,
                format!("when given{of}"),
                cells(&|a| a.when.words()),
            ),
        ]
    }
}

/// What the cell of a treatment without feed or additive says.
pub const NOTHING: &str = "none";

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::application::{Amount, How, When};
    use crate::trial::sheet::SheetTreatment;
    use crate::trial::sheet::differences::Differences;
    use proptest::prelude::*;

    fn feed(what: &str) -> Application {
        Application::stirred(Role::Feed, what, 1.0)
    }

    fn kelp() -> Application {
        Application::stirred(Role::Additive, "kelp", 1.0)
    }

    fn sheet(given: Vec<Vec<Application>>) -> Sheet {
        let column = |(i, own): (usize, Vec<Application>)| SheetTreatment {
            name: format!("t{i}"),
            control: i == 0,
            applications: own,
            ..Sheet::usual().treatments[0].clone()
        };
        Sheet {
            treatments: given.into_iter().enumerate().map(column).collect(),
            ..Sheet::usual()
        }
    }

    fn factors(sheet: &Sheet) -> Vec<String> {
        match sheet.differences() {
            Differences::None => Vec::new(),
            Differences::One { factor } => vec![factor],
            Differences::Crossed { factors }
            | Differences::Stepwise { factors, .. }
            | Differences::Several { factors } => factors,
        }
    }

    #[test]
    fn a_reservoir_feed_and_a_drench_are_two_lines_and_the_drench_alone_is_one_difference() {
        let drench = |what: &str| Application {
            how: How::Drenched,
            ..feed(what)
        };
        let both = sheet(vec![
            vec![feed("grow feed")],
            vec![feed("grow feed"), drench("bloom feed")],
        ]);
        assert_eq!(
            both.lines()
                .iter()
                .map(|l| l.name.as_str())
                .collect::<Vec<_>>(),
            ["grow feed", "bloom feed"]
        );
        assert_eq!(factors(&both), ["bloom feed"]);
        // Another drench stands in its place, whatever the order in which they were written.
        let swapped = sheet(vec![
            vec![drench("tea"), feed("grow feed")],
            vec![feed("grow feed"), drench("bloom feed")],
            vec![feed("grow feed")],
        ]);
        let lines = swapped.lines();
        assert_eq!(
            (lines.len(), &lines[0].of, &lines[1].of),
            (
                2,
                &vec![Some(0), Some(1), None],
                &vec![Some(1), Some(0), Some(0)]
            )
        );
        assert_eq!(factors(&swapped), ["feed, drenched"]);
    }

    #[test]
    fn plain_water_and_a_spray_differ_in_the_spray_and_not_in_the_way_of_giving() {
        let spray = Application {
            how: How::Sprayed,
            when: When::Days(vec![4, 8]),
            ..kelp()
        };
        assert_eq!(
            factors(&sheet(vec![vec![], vec![spray.clone()]])),
            ["additive"]
        );
        assert_eq!(
            factors(&sheet(vec![vec![kelp()], vec![spray.clone()]])),
            [WAY, SCHEDULE]
        );
        let later = Application {
            when: When::Planting,
            ..spray.clone()
        };
        assert_eq!(
            factors(&sheet(vec![vec![spray.clone()], vec![later]])),
            [SCHEDULE]
        );
        let more = Application {
            amount: Amount::Undiluted,
            ..spray.clone()
        };
        assert_eq!(
            factors(&sheet(vec![vec![spray.clone()], vec![more]])),
            ["additive"]
        );
        assert_eq!(
            factors(&sheet(vec![vec![spray.clone()], vec![spray]])),
            [""; 0]
        );
    }

    #[test]
    fn two_additives_and_both_together_are_crossed() {
        let humic = Application::stirred(Role::Additive, "humic", 1.0);
        let crossed = sheet(vec![
            vec![],
            vec![kelp()],
            vec![humic.clone()],
            vec![humic.clone(), kelp()],
        ]);
        assert_eq!(factors(&crossed), ["kelp", "humic"]);
        assert!(matches!(crossed.differences(), Differences::Crossed { .. }));
        let levels = crossed.crossing().unwrap();
        assert_eq!(levels[0].levels, ["no kelp", "kelp", "no kelp", "kelp"]);
        // Without the pair they are three levels of one thing.
        assert_eq!(
            factors(&sheet(vec![vec![], vec![kelp()], vec![humic]])),
            ["additive"]
        );
    }

    #[test]
    fn one_thing_given_twice_is_two_lines() {
        let spray = Application {
            how: How::Sprayed,
            ..kelp()
        };
        let twice = sheet(vec![
            vec![kelp()],
            vec![spray.clone(), kelp()],
            vec![kelp(), spray],
        ]);
        let lines = twice.lines();
        assert_eq!(
            lines.iter().map(|l| l.name.as_str()).collect::<Vec<_>>(),
            ["kelp", "kelp, sprayed"]
        );
        assert_eq!(
            (&lines[0].of, &lines[1].of),
            (
                &vec![Some(0), Some(1), Some(0)],
                &vec![None, Some(0), Some(1)]
            )
        );
        assert_eq!(twice.twins(), [(TreatmentIndex(1), TreatmentIndex(2))]);
    }

    fn any_application() -> impl Strategy<Value = Application> {
        let names = prop::sample::select(vec!["kelp", "humic", "Kelp ", "grow feed"]);
        let hows = prop::sample::select(How::ALL.to_vec());
        (prop::sample::select(Role::ALL.to_vec()), names, hows).prop_map(|(role, what, how)| {
            Application {
                how,
                ..Application::stirred(role, what, 1.0)
            }
        })
    }

    proptest! {
        /// Whatever is given to whom, every application stands in exactly one line, and a line
        /// holds one of a treatment.
        #[test]
        fn every_application_stands_in_one_line(given in prop::collection::vec(prop::collection::vec(any_application(), 0..5), 2..6)) {
            let sheet = sheet(given);
            let lines = sheet.lines();
            for (t, treatment) in sheet.each() {
                let mut places: Vec<usize> = lines.iter().filter_map(|line| line.of[t]).collect();
                places.sort_unstable();
                prop_assert_eq!(places, (0..treatment.applications.len()).collect::<Vec<_>>());
            }
            for line in &lines {
                prop_assert!(line.of.iter().any(Option::is_some), "no line is empty");
                let roles = sheet.indices().filter_map(|t| sheet.application(line, t)).all(|a| a.role == line.role);
                prop_assert!(roles);
            }
            let names: std::collections::HashSet<&str> = lines.iter().map(|l| l.name.as_str()).collect();
            prop_assert_eq!(names.len(), lines.len(), "lines have names of their own: {:?}", lines);
        }

        /// A treatment that gets what another gets, in whatever order it was written, is its twin
        /// and differs in nothing.
        #[test]
        fn the_order_in_which_things_were_written_is_no_difference(given in prop::collection::vec(any_application(), 0..5), turn in 0..5usize) {
            let mut turned = given.clone();
            turned.rotate_left(turn.min(given.len()));
            let sheet = sheet(vec![given, turned]);
            prop_assert_eq!(sheet.differences(), Differences::None, "{:?}", sheet.lines());
            prop_assert_eq!(sheet.twins(), [(TreatmentIndex(0), TreatmentIndex(1))]);
        }
    }
}
