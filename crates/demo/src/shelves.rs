//! What the demo farm's Stores and prices hold beside the generic entries: made up, as all of it
//! is.

use crate::Clock;
use iron_twin_core::stores::prices::{CheapHours, Prices};
use iron_twin_core::stores::{Held, Item};
use iron_twin_store::{Result, Store};

/// What generic entries cost, and how long they last.
const PRICES: [(&str, &str, &str, f64); 6] = [
    ("feeds", "grow feed", "price_per_kg_or_l", 11.0),
    ("media", "hemp mat", "price_per_unit", 0.38),
    ("containers", "tray, 25 x 50 cm", "price_each", 3.2),
    ("containers", "tray, 25 x 50 cm", "lasts_crops", 60.0),
    ("containers", "bucket, 10 L", "price_each", 4.5),
    ("containers", "bucket, 10 L", "lasts_crops", 25.0),
];

/// Meters, with how many days before the demo they were calibrated.
const METERS: [(&str, &str, u32, f64); 3] = [
    ("pH pen", "pH", 24, 30.0),
    ("EC pen", "EC", 24, 90.0),
    ("bench scale", "scale", 120, 365.0),
];

/// Puts prices and meters into Stores.
pub(crate) fn fill(store: &Store, clock: &Clock) -> Result<()> {
    let stamp = clock.at(30, 8, 30);
    let stores = store.shelves()?;
    for (shelf, name) in [
        ("feeds", "grow feed"),
        ("media", "hemp mat"),
        ("containers", "tray, 25 x 50 cm"),
        ("containers", "bucket, 10 L"),
    ] {
        let Some(generic) = stores.find(shelf, name) else {
            continue;
        };
        let mut item = Item {
            source: "price list, made up".into(),
            ..generic.clone()
        };
        for (.., key, figure) in PRICES.iter().filter(|(s, n, ..)| (*s, *n) == (shelf, name)) {
            item.held.insert((*key).to_owned(), Held::Number(*figure));
        }
        store.put_item(&stamp, None, &item, 0)?;
    }
    for (name, kind, days, every) in METERS {
        let held = [
            ("kind".to_owned(), Held::Words(kind.into())),
            (
                "calibrated_on".to_owned(),
                Held::Words(clock.date(days).to_string()),
            ),
            ("calibrate_every_days".to_owned(), Held::Number(every)),
        ];
        let item = Item {
            shelf: "meters".into(),
            name: name.into(),
            source: String::new(),
            held: held.into(),
        };
        store.put_item(&stamp, None, &item, 0)?;
    }
    let cheap = Some(CheapHours {
        from: 22,
        until: 6,
        per_kwh: 0.21,
    });
    let prices = Prices {
        currency: "€".into(),
        per_kwh: Some(0.32),
        cheap,
        per_hour: Some(16.0),
        as_of: Some(clock.date(30)),
        ..Prices::default()
    };
    store.set_prices(&stamp, &prices)
}
