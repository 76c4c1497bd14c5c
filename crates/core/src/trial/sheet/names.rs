//! What a treatment is called where the grower gave it no name: what it gets otherwise than the
//! others.

use super::Sheet;
use super::rows::Line;
use crate::catalogue::conditions;
use crate::trial::application::{Application, Role, is_none};
use iron_twin_terms::indices::TreatmentIndex;

impl Sheet {
    /// The name that follows from what a treatment gets otherwise than others.
    ///
    /// ```
    /// use iron_twin_terms::indices::TreatmentIndex;
    /// use iron_twin_core::trial::{application::Role, sheet::Sheet};
    /// let mut sheet = Sheet::usual();
    /// let names = |sheet: &Sheet| [0, 1].map(|t| sheet.proposed_name(TreatmentIndex(t)));
    /// assert_eq!(names(&sheet), ["plain water", "full feed"]);
    /// sheet.treatments[0].give(Role::Feed, "grow feed", 1.0);
    /// sheet.treatments[1].set("aeration", "air stone");
    /// assert_eq!(names(&sheet), ["no aeration", "air stone"]);
    /// ```
    #[must_use]
    pub fn proposed_name(&self, treatment: TreatmentIndex) -> String {
        let nothing = |t: TreatmentIndex| Role::ALL.into_iter().all(|role| !self.gets(t, role));
        let all = self.indices();
        let mut parts: Vec<String> = Vec::new();
        if nothing(treatment) && !all.clone().all(nothing) {
            parts.push("plain water".into());
        } else {
            let own = self
                .lines()
                .into_iter()
                .filter_map(|line| self.of_line(&line, treatment));
            parts.extend(own);
        }
        let others = conditions::ALL.into_iter().filter_map(|c| {
            let own = self.value(treatment, c.key)?.trim();
            let differs = all.clone().any(|t| {
                self.value(t, c.key)
                    .is_some_and(|v| !v.trim().eq_ignore_ascii_case(own))
            });
            let said = || {
                if is_none(own) {
                    format!("no {}", c.name)
                } else {
                    format!("{own} {}", c.unit)
                }
            };
            differs.then(|| said().trim_end().to_owned())
        });
        parts.extend(others);
        match self.get(treatment) {
            // No commas: names stand in files, and on command lines.
            _ if parts.len() > 1 => format!("{} with {}", parts[0], parts[1..].join(" and ")),
            _ if !parts.is_empty() => parts.remove(0),
            Some(own) if own.control => "control".into(),
            _ => format!("treatment {}", treatment.get() + 1),
        }
    }

    /// What a treatment gets in a line, where not all get the same in it; None where that goes
    /// without saying.
    fn of_line(&self, line: &Line, treatment: TreatmentIndex) -> Option<String> {
        let given: Vec<Option<&Application>> =
            self.indices().map(|t| self.application(line, t)).collect();
        let own = given[treatment];
        if given.iter().all(|a| *a == own) {
            return None;
        }
        let Some(own) = own else {
            let all_fed = line.role == Role::Feed;
            return all_fed.then(|| "no feed".to_owned());
        };
        let there: Vec<&Application> = given.iter().flatten().copied().collect();
        let same_name = there.iter().all(|a| a.is_also(own));
        let differs = |of: &dyn Fn(&Application) -> String| there.iter().any(|a| of(a) != of(own));
        let dose = differs(&|a| a.amount.words());
        let mut said = match (line.role, own.of_label()) {
            (Role::Feed, Some(share)) if same_name && own.how.in_tank() => strength(share),
            // At the dose of its label is how a product is used.
            (_, share) if dose && (same_name || share != Some(1.0)) => {
                format!("{} {}", own.what.trim(), own.amount.words())
            }
            _ => own.what.trim().to_owned(),
        };
        if differs(&|a| a.how.words().to_owned()) || (!own.how.in_tank() && there.len() == 1) {
            said = format!("{said} {}", own.how.words());
        }
        if differs(&|a| a.when.words()) {
            said = format!("{said} {}", own.when.words().replace(", ", "/"));
        }
        Some(said)
    }

    /// Names the treatments that have no name, and those that still go by the one that followed
    /// from the sheet before.
    pub fn follow_names(&mut self, before: &Self) {
        let followed = |name: &str| {
            before
                .named(name)
                .is_some_and(|t| is_proposed(name, &before.proposed_name(t)))
        };
        let follows: Vec<bool> = self
            .treatments
            .iter()
            .map(|t| t.name.trim().is_empty() || followed(&t.name))
            .collect();
        for t in self.indices().filter(|&t| follows[t]) {
            let proposed = self.proposed_name(t);
            let taken = |name: &str| {
                self.each().any(|(o, other)| {
                    // Those that are yet to be named do not stand in the way.
                    o != t && (o < t || !follows[o]) && other.name.trim().eq_ignore_ascii_case(name)
                })
            };
            let name = (1..).map(|n| {
                if n == 1 {
                    proposed.clone()
                } else {
                    format!("{proposed} ({n})")
                }
            });
            let free = name
                .into_iter()
                .find(|name| !taken(name))
                .unwrap_or(proposed.clone());
            self.treatments[t].name = free;
        }
    }
}

/// Whether a name is the one that was proposed, with the number that keeps it apart from another
/// where one was needed.
fn is_proposed(name: &str, proposed: &str) -> bool {
    let number = name
        .strip_prefix(proposed)
        .map(|rest| rest.trim_start_matches(" (").trim_end_matches(')'));
    number.is_some_and(|n| {
        n.is_empty()
            || n.parse::<usize>()
                .is_ok_and(|n| name == format!("{proposed} ({n})"))
    })
}

/// A share of the label dose as it is spoken of.
fn strength(share: f64) -> String {
    let is = |wanted: f64| (share - wanted).abs() < 0.005;
    match share {
        _ if is(0.25) => "quarter feed".into(),
        _ if is(1.0 / 3.0) => "one third feed".into(),
        _ if is(0.5) => "half feed".into(),
        _ if is(2.0 / 3.0) => "two thirds feed".into(),
        _ if is(1.0) => "full feed".into(),
        _ if is(2.0) => "double feed".into(),
        _ => format!("{share} of full feed"),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::trial::application::{How, When};

    fn names(sheet: &Sheet) -> Vec<String> {
        sheet.indices().map(|t| sheet.proposed_name(t)).collect()
    }

    #[test]
    fn names_say_what_differs_and_nothing_else() {
        let mut sheet = Sheet::usual();
        let half = sheet.treatments[1].clone();
        sheet.treatments.push(half);
        sheet.treatments[2].give(Role::Feed, "grow feed", 0.5);
        assert_eq!(names(&sheet), ["plain water", "full feed", "half feed"]);
        sheet.treatments[2].give(Role::Feed, "bloom feed", 0.5);
        assert_eq!(
            names(&sheet),
            [
                "plain water",
                "grow feed",
                "bloom feed 0.5 × the label dose"
            ]
        );
        sheet.treatments[2].give(Role::Feed, "bloom feed", 1.0);
        assert_eq!(names(&sheet), ["plain water", "grow feed", "bloom feed"]);
        sheet.treatments[2].give(Role::Feed, "grow feed", 1.0);
        sheet.treatments[2].give(Role::Additive, "kelp", 1.0);
        assert_eq!(
            names(&sheet),
            ["plain water", "full feed", "full feed with kelp"]
        );
        sheet.treatments[2].applications[1].how = How::Sprayed;
        assert_eq!(names(&sheet)[2], "full feed with kelp sprayed");
        sheet.treatments.remove(0);
        assert_eq!(
            names(&sheet),
            ["treatment 1", "kelp sprayed"],
            "both are fed alike"
        );
        sheet.treatments[0].control = true;
        sheet.treatments[0].give(Role::Additive, "kelp", 1.0);
        sheet.treatments[1].applications[1].when = When::Planting;
        assert_eq!(names(&sheet)[1], "kelp sprayed once at planting");
    }

    #[test]
    fn a_copy_that_was_numbered_follows_as_well() {
        let before = Sheet::usual();
        let mut sheet = before.clone();
        sheet.treatments.push(sheet.treatments[1].clone());
        sheet.treatments[2].name = String::new();
        sheet.follow_names(&before);
        assert_eq!(sheet.treatments[2].name, "full feed (2)");
        let numbered = sheet.clone();
        sheet.treatments[2].give(Role::Feed, "bloom feed", 1.0);
        sheet.follow_names(&numbered);
        assert_eq!(
            [1, 2].map(|t| sheet.treatments[t].name.clone()),
            ["grow feed", "bloom feed"]
        );
        for typed in ["full feed (two)", "full feed 2", "full feed (2) late"] {
            let mut own = numbered.clone();
            own.treatments[2].name = typed.into();
            let mut next = own.clone();
            next.treatments[2].give(Role::Feed, "bloom feed", 1.0);
            next.follow_names(&own);
            assert_eq!(next.treatments[2].name, typed, "typed by the grower");
        }
    }

    #[test]
    fn a_name_follows_until_one_is_typed_and_stays_unique() {
        let before = Sheet::usual();
        let mut after = before.clone();
        after.treatments[1].give(Role::Feed, "grow feed", 0.5);
        after.follow_names(&before);
        assert_eq!(after.treatments[1].name, "half feed");
        // A typed name stays, and one that was cleared follows again.
        let mut typed = after.clone();
        typed.treatments[1].name = "Mum's brew".into();
        typed.treatments[1].give(Role::Feed, "grow feed", 2.0);
        typed.follow_names(&after);
        assert_eq!(typed.treatments[1].name, "Mum's brew");
        let mut cleared = typed.clone();
        cleared.treatments[1].name = " ".into();
        cleared.follow_names(&typed);
        assert_eq!(cleared.treatments[1].name, "double feed");
        // Two that get the same are told apart all the same.
        let mut twins = cleared.clone();
        twins.treatments.push(cleared.treatments[1].clone());
        twins.treatments[2].name.clear();
        twins.follow_names(&cleared);
        let called: Vec<&str> = twins.treatments.iter().map(|t| t.name.as_str()).collect();
        assert_eq!(called, ["plain water", "double feed", "double feed (2)"]);
        assert_eq!(twins.check(), Ok(()));
    }
}
