//! A line of a scale: `412.6 g stable`, `398.2 g moving`, `overload`, `underload`.

use iron_twin_core::weigh::steady::ScaleSays;

/// Heaviest load that is believed, g.
const MOST_G: f64 = 1e6;

/// Units in which scales speak, and g of each. The international avoirdupois pound is 0.45359237
/// kg, the ounce its sixteenth (NIST Handbook 44, appendix C).
const UNITS: [(&str, f64); 4] = [
    ("g", 1.0),
    ("kg", 1000.0),
    ("oz", 453.592_37 / 16.0),
    ("lb", 453.592_37),
];

/// What a line says; None where it is none of a scale.
#[must_use]
pub fn read(line: &[u8]) -> Option<ScaleSays> {
    let text = std::str::from_utf8(line).ok()?;
    let words: Vec<&str> = text.split_ascii_whitespace().collect();
    match words[..] {
        ["overload"] => Some(ScaleSays::Overload),
        ["underload"] => Some(ScaleSays::Underload),
        [value, unit, state] => {
            // Digits, a sign and a point: nothing else that a number may look like, such as 1e3 or
            // inf.
            let plain = value
                .bytes()
                .all(|b| b.is_ascii_digit() || matches!(b, b'.' | b'+' | b'-'));
            let value: f64 = value.parse().ok().filter(|_| plain)?;
            let g = value * UNITS.iter().find(|(name, _)| *name == unit)?.1;
            let stable = match state {
                "stable" => true,
                "moving" => false,
                _ => return None,
            };
            // To the milligram, so that decimals come out as the scale showed them.
            (g.abs() <= MOST_G).then_some(ScaleSays::Weight {
                g: (g * 1000.0).round() / 1000.0,
                stable,
            })
        }
        _ => None,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn lines_are_read_or_refused() {
        let weight = |g, stable| Some(ScaleSays::Weight { g, stable });
        for (line, wanted) in [
            ("412.6 g stable", weight(412.6, true)),
            ("  +412.6  g  moving ", weight(412.6, false)),
            ("-288 g stable", weight(-288.0, true)),
            ("0.4126 kg stable", weight(412.6, true)),
            ("14.55 oz stable", weight(412.486, true)),
            ("1 lb stable", weight(453.592, true)),
            ("overload", Some(ScaleSays::Overload)),
            ("underload", Some(ScaleSays::Underload)),
        ] {
            assert_eq!(read(line.as_bytes()), wanted, "{line}");
        }
        for line in [
            "",
            "412.6",
            "412.6 g",
            "412.6 g still",
            "412,6 g stable",
            "1e3 g stable",
            "inf g stable",
            "nan g stable",
            "412.6 st stable",
            "9999999 kg stable",
            "4 1 2 g stable",
            "overload now",
            "412.6 g stable stable",
            "-- g stable",
        ] {
            assert_eq!(read(line.as_bytes()), None, "{line}");
        }
        assert_eq!(read(b"\xff\xfe g stable"), None);
    }
}
