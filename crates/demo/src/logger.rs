//! What the demo's logger wrote on the rack: temperature on the lowest and the highest level, and
//! the humidity on the lowest, every ten minutes; warm and dry under the lamps, cool and damp at
//! night.

use iron_twin_core::catalogue::logged::Logged;
use iron_twin_core::tend::logger::{ColumnUse, Mapping, ProbeAt};
use iron_twin_store::{Result, Stamp, Store};
use jiff::ToSpan;
use jiff::civil::Date;

/// Minutes between two rows.
const EVERY: i64 = 10;
/// The lamps are lit from this hour to that.
const LIT: std::ops::Range<i64> = 6..22;
/// The rack's highest level is so much warmer under the lamps, °C.
const ABOVE: f64 = 1.6;

/// A little up and down, the same at every start.
fn sway(n: i64, period: f64) -> f64 {
    (n as f64 / period).sin() + 0.5 * (n as f64 / (0.37 * period) + 1.0).sin()
}

/// The file as the logger wrote it, with a row of a probe that was pulled out.
fn written(sown: Date, days: u32) -> String {
    let mut text = String::from("rack logger\ntime;temp low °C;temp high °C;RH low %\n");
    let mut lamps = 0.0;
    for n in 0..i64::from(days) * 24 * 60 / EVERY {
        let lit = LIT.contains(&(n * EVERY / 60 % 24));
        // Warmth comes and goes with the lamps within the hour.
        lamps += 0.2 * (f64::from(u8::from(lit)) - lamps);
        let low = 17.8 + 4.2 * lamps + 0.35 * sway(n, 31.0);
        let high = low + ABOVE * lamps + 0.1 * sway(n, 11.0);
        let damp = 68.0 - 15.0 * lamps + 2.5 * sway(n, 47.0);
        let at = sown
            .at(0, 0, 0, 0)
            .checked_add((n * EVERY).minutes())
            .unwrap_or_default();
        let high = if n == 200 {
            "err".to_owned()
        } else {
            format!("{high:.1}")
        };
        text += &format!(
            "{};{low:.1};{high};{damp:.0}\n",
            at.strftime("%d.%m.%Y %H:%M")
        );
    }
    text
}

/// Takes in what the logger wrote in the first days of a trial on a rack with so many levels.
pub(crate) fn take_in(
    store: &Store,
    stamp: &Stamp,
    id: &str,
    (sown, days, levels): (Date, u32, u32),
) -> Result<()> {
    let column = |column, quantity: Logged, place| ColumnUse {
        column,
        quantity,
        unit: quantity.unit().into(),
        place,
    };
    let mapping = Mapping {
        separator: ';',
        decimal_comma: false,
        head_rows: 2,
        time: 0,
        time_of_day: None,
        format: "%d.%m.%Y %H:%M".into(),
        zone: store
            .farm()?
            .time_zone()
            .iana_name()
            .unwrap_or("UTC")
            .into(),
        columns: vec![
            column(1, Logged::AirTemperature, ProbeAt::Shelf(1)),
            column(2, Logged::AirTemperature, ProbeAt::Shelf(levels)),
            column(3, Logged::Humidity, ProbeAt::Shelf(1)),
        ],
    };
    let text = written(sown, days);
    store
        .take_log(
            stamp,
            id,
            ("rack-logger.csv", &mapping),
            text.as_bytes(),
            || true,
        )
        .map(|_| ())
}
