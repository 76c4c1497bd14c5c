//! The shelves: one file each.

pub mod additives;
pub mod containers;
pub mod crops;
pub mod feeds;
pub mod lights;
pub mod media;
pub mod meters;
pub mod pumps;
pub mod recipes;
pub mod salts;
pub mod seed_lots;
pub mod targets;
pub mod waters;

use super::{Field, Holds, Shelf};

/// All shelves in their order, with the generic entries as CSV.
pub const ALL: [(&Shelf, &str); 13] = [
    (&feeds::SHELF, include_str!("../generic/feeds.csv")),
    (&recipes::SHELF, include_str!("../generic/recipes.csv")),
    (&additives::SHELF, include_str!("../generic/additives.csv")),
    (&salts::SHELF, include_str!("../generic/salts.csv")),
    (&targets::SHELF, include_str!("../generic/targets.csv")),
    (&waters::SHELF, include_str!("../generic/waters.csv")),
    (&media::SHELF, include_str!("../generic/media.csv")),
    (&lights::SHELF, include_str!("../generic/lights.csv")),
    (&pumps::SHELF, include_str!("../generic/pumps.csv")),
    (
        &containers::SHELF,
        include_str!("../generic/containers.csv"),
    ),
    (&crops::SHELF, include_str!("../generic/crops.csv")),
    (&seed_lots::SHELF, "name\n"),
    (&meters::SHELF, "name\n"),
];

/// The shelf with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Shelf> {
    ALL.iter()
        .map(|(shelf, _)| *shelf)
        .find(|shelf| shelf.key == key)
}

/// The first shelf whose entries the cells of a condition name.
#[must_use]
pub fn of_condition(condition: &str) -> Option<&'static Shelf> {
    ALL.iter()
        .map(|(shelf, _)| *shelf)
        .find(|shelf| shelf.condition == condition && !condition.is_empty())
}

const fn number(
    key: &'static str,
    name: &'static str,
    unit: &'static str,
    least: f64,
    most: f64,
) -> Field {
    Field {
        key,
        name,
        unit,
        holds: Holds::Number { least, most },
    }
}

const fn percent(key: &'static str, name: &'static str) -> Field {
    number(key, name, "%", 0.0, 100.0)
}

const fn words(key: &'static str, name: &'static str) -> Field {
    Field {
        key,
        name,
        unit: "",
        holds: Holds::Words,
    }
}

const fn choice(key: &'static str, name: &'static str, of: &'static [&'static str]) -> Field {
    Field {
        key,
        name,
        unit: "",
        holds: Holds::Choice { of },
    }
}

/// Whether the label says that it may be eaten, or used on what is eaten.
const fn food_grade() -> Field {
    choice("food_grade", "food grade by its label", &["yes", "no"])
}

/// Days that its label wants between the last of it and the harvest.
const fn pre_harvest() -> Field {
    number(
        "pre_harvest_days",
        "days before harvest (pre-harvest interval)",
        "days",
        0.0,
        365.0,
    )
}

const fn date(key: &'static str, name: &'static str) -> Field {
    Field {
        key,
        name,
        unit: "",
        holds: Holds::Date,
    }
}

/// What ten of the grower's own level spoonfuls, or dabs, weigh together.
const fn ten_spoons() -> Field {
    number(
        "ten_spoons_g",
        "ten of your spoonfuls weigh",
        "g",
        0.001,
        1000.0,
    )
}

/// Price of a unit of measure, in the farm's currency.
const fn price(key: &'static str, name: &'static str) -> Field {
    number(key, name, "", 0.0, 1e6)
}

/// The day of its price; who changes a price and says none has that day put in.
const fn priced_on() -> Field {
    date(PRICED_ON, "price of")
}

/// Key of the day of a price.
pub const PRICED_ON: &str = "priced_on";
