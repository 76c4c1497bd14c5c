//! What a tasting tells, in sentences.

use super::{Against, Asked, Attribute, Rated, Tasting, Told, Way};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::words::capitalised;
use std::collections::BTreeSet;

/// How often luck alone does as well.
fn by_luck(p: f64) -> String {
    if p < 0.001 {
        "in fewer than 1 of 1,000 tastings".into()
    } else if p < 0.0995 {
        format!("in {:.0} of 1,000 tastings", 1000.0 * p)
    } else {
        format!("in {:.0} of 100 tastings", 100.0 * p)
    }
}

/// `less bitter`, `sweeter`, by which way it differs.
fn more_or_less(attribute: Attribute, more: bool) -> &'static str {
    match (attribute, more) {
        (Attribute::Bitter, true) => "more bitter",
        (Attribute::Bitter, false) => "less bitter",
        (Attribute::Sweet, true) => "sweeter",
        (Attribute::Sweet, false) => "less sweet",
        (Attribute::Texture, true) => "better in texture",
        (Attribute::Texture, false) => "worse in texture",
        (Attribute::Colour, true) => "better in colour",
        (Attribute::Colour, false) => "worse in colour",
        (Attribute::OffTaste, true) => "stronger in off-taste",
        (Attribute::OffTaste, false) => "weaker in off-taste",
    }
}

fn picked(
    tasting: &Tasting,
    told: &Told,
    name: &dyn Fn(TreatmentIndex) -> String,
) -> Option<String> {
    let own = told.picked.as_ref()?;
    let [first, second] = tasting.of[..] else {
        return None;
    };
    let (of, right) = (own.of, own.right);
    let few = match own.wanted {
        None => " So few answers can tell nothing.".to_owned(),
        Some(wanted) => format!(" It would have taken {wanted}."),
    };
    Some(match (tasting.asked, own.told) {
        (Asked::Triangle, true) => format!(
            "{right} of {of} found the odd cup: {} and {} taste different. Luck alone does as \
             well {}.",
            name(first),
            name(second),
            by_luck(own.p)
        ),
        (Asked::Triangle, false) => format!(
            "{right} of {of} found the odd cup, and one in three is found by guessing: whether {} \
             and {} taste different cannot be told, nor that they taste alike.{few}",
            name(first),
            name(second)
        ),
        (_, told) => {
            let (most, other) = if 2 * right > of {
                (second, first)
            } else {
                (first, second)
            };
            let agree = right.max(of - right);
            match told {
                true => format!(
                    "{agree} of {of} preferred {} to {}: it is preferred. Luck alone has as many \
                     agree {}.",
                    name(most),
                    name(other),
                    by_luck(own.p)
                ),
                false if 2 * agree == of => format!(
                    "As many preferred {} as {}: {agree} of {of}. Which is preferred cannot be \
                     told.",
                    name(first),
                    name(second)
                ),
                false => format!(
                    "{agree} of {of} preferred {} to {}: that may be luck, and which is preferred \
                     cannot be told.{few}",
                    name(most),
                    name(other)
                ),
            }
        }
    })
}

/// `9 of 12 gave it more points, 2 fewer, 1 as many`.
fn counts(against: &Against) -> String {
    let of = against.more + against.less + against.same;
    let same = if against.same > 0 {
        format!(", {} as many", against.same)
    } else {
        String::new()
    };
    let none = |n: usize| {
        if n == 0 {
            "none".to_owned()
        } else {
            n.to_string()
        }
    };
    format!(
        "{} of {of} gave it more points, {} fewer{same}",
        none(against.more),
        none(against.less)
    )
}

fn liked(rated: &[Rated], name: &dyn Fn(TreatmentIndex) -> String) -> Vec<String> {
    let Some(first) = rated.first() else {
        return Vec::new();
    };
    let one = |own: &Rated| {
        let against = own.against.as_ref()?;
        let (own_name, first_name) = (capitalised(&name(own.of)), name(first.of));
        let points = format!("{:.1} against {:.1} of 9", own.mean, first.mean);
        let counts = counts(against);
        Some(match (against.told, own.rank > first.rank) {
            (true, true) => {
                format!("{own_name} is liked better than {first_name}: {counts} ({points}).")
            }
            (true, false) => {
                format!("{own_name} is liked less than {first_name}: {counts} ({points}).")
            }
            (false, _) => {
                format!(
                    "Whether {} is liked better than {first_name} cannot be told: {counts} \
                     ({points}).",
                    name(own.of)
                )
            }
        })
    };
    rated[1..].iter().filter_map(one).collect()
}

impl Tasting {
    /// What it tells, in sentences, with the names that may be told.
    #[must_use]
    pub fn said(&self, told: &Told, name: &dyn Fn(TreatmentIndex) -> String) -> Vec<String> {
        if told.answers == 0 {
            return vec!["Nobody has answered.".into()];
        }
        let mut said: Vec<String> = picked(self, told, name).into_iter().collect();
        said.extend(liked(&told.liking, name));
        let mut silent: Vec<&str> = Vec::new();
        for (attribute, rated) in &told.attributes {
            let Some(first) = rated.first() else { continue };
            let before = said.len();
            for own in &rated[1..] {
                if own.against.as_ref().is_some_and(|a| a.told) {
                    let way = more_or_less(*attribute, own.rank > first.rank);
                    said.push(format!(
                        "{} is {way} than {}: {:.1} against {:.1} points.",
                        capitalised(&name(own.of)),
                        name(first.of),
                        own.mean,
                        first.mean
                    ));
                }
            }
            if said.len() == before {
                silent.push(attribute.name());
            }
        }
        if !silent.is_empty() {
            said.push(format!(
                "No difference can be told in: {}.",
                silent.join(", ")
            ));
        }
        if self.way == Way::Covered {
            let who: BTreeSet<&str> = self
                .seats
                .iter()
                .filter(|s| s.answer.is_some())
                .map(|s| s.taster.as_str())
                .collect();
            said.push(if who.len() > 1 {
                "It is told of those who tasted; others may taste otherwise.".into()
            } else {
                "It is told of one taster; others may taste otherwise.".into()
            });
        }
        said
    }
}
