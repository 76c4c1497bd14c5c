//! The margin in per cent, in the measure's unit, and in money: each from the others, by what a
//! unit usually yields and what the harvest brings.

use crate::catalogue::measures;
use crate::trial::question::Ask;
use iron_twin_terms::quantity::Margin;
use serde::Serialize;

/// A margin three ways; None where a figure for the conversion is missing.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct MarginSaid {
    /// Per cent of the control's mean.
    pub percent: Option<f64>,
    /// In the unit of the primary measure.
    pub absolute: Option<f64>,
    /// Money a unit, in the grower's currency.
    pub money: Option<f64>,
}

/// Money for one of the measure's unit: harvest weighed in g, sold by the kg. None where it is not
/// sold so.
fn worth_of_one(ask: &Ask) -> Option<f64> {
    let measure = measures::find(&ask.primary_measure)?;
    ask.price_per_kg
        .filter(|_| measure.unit == "g")
        .map(|price| price / 1000.0)
}

/// The margin of a plan in each of the three ways.
///
/// ```
/// use iron_twin_core::trial::question::Ask;
/// use iron_twin_core::ask::worth::said;
/// use iron_twin_terms::quantity::Margin;
/// // 12 % of the usual 250 g are 30 g, and at 40 a kilo these bring 1.20.
/// let ask = Ask {
///     margin: Margin::Percent(12.0), usual_per_unit: Some(250.0), price_per_kg: Some(40.0), ..Ask::default()
/// };
/// let margin = said(&ask);
/// assert_eq!((margin.percent, margin.absolute, margin.money), (Some(12.0), Some(30.0), Some(1.2)));
/// ```
#[must_use]
pub fn said(ask: &Ask) -> MarginSaid {
    let usual = ask.usual_per_unit.filter(|u| *u > 0.0);
    let (percent, absolute) = match ask.margin {
        Margin::Percent(percent) => (Some(percent), usual.map(|u| u * percent / 100.0)),
        Margin::Absolute(value) => (usual.map(|u| 100.0 * value / u), Some(value)),
    };
    MarginSaid {
        percent,
        absolute,
        money: absolute
            .zip(worth_of_one(ask))
            .map(|(value, one)| value * one),
    }
}

/// The plan with a margin typed as money turned into the measure's unit, which is what units are
/// compared in. None where money says nothing about the measure, or no price is known.
#[must_use]
pub fn settled(ask: &Ask) -> Option<Ask> {
    match ask.margin_money {
        None => Some(ask.clone()),
        Some(money) => Some(Ask {
            margin: Margin::Absolute(money / worth_of_one(ask)?),
            ..ask.clone()
        }),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn ask(margin: Margin) -> Ask {
        Ask {
            margin,
            usual_per_unit: Some(250.0),
            price_per_kg: Some(40.0),
            ..Ask::default()
        }
    }

    #[test]
    fn each_way_leads_back_to_the_others() {
        let from_percent = said(&ask(Margin::Percent(12.0)));
        let from_grams = said(&ask(Margin::Absolute(from_percent.absolute.unwrap())));
        assert_eq!(from_percent, from_grams);
        let money = Ask {
            margin_money: from_percent.money,
            ..ask(Margin::Percent(99.0))
        };
        assert_eq!(settled(&money).unwrap().margin, Margin::Absolute(30.0));
    }

    #[test]
    fn what_is_missing_stays_unsaid() {
        let plain = Ask {
            usual_per_unit: None,
            ..ask(Margin::Percent(10.0))
        };
        assert_eq!(
            said(&plain),
            MarginSaid {
                percent: Some(10.0),
                ..MarginSaid::default()
            }
        );
        let height = Ask {
            primary_measure: "height".into(),
            ..ask(Margin::Absolute(5.0))
        };
        assert_eq!(said(&height).money, None, "height is not sold by the kilo");
        assert_eq!(
            settled(&Ask {
                margin_money: Some(1.0),
                ..height
            }),
            None
        );
        assert_eq!(
            settled(&Ask {
                margin_money: Some(1.0),
                price_per_kg: None,
                ..ask(Margin::Percent(1.0))
            }),
            None
        );
    }
}
