//! What money is counted in, and what electricity and an hour of work cost.

use jiff::civil::Date;
use serde::{Deserialize, Serialize};

/// What money is counted in, and what electricity and an hour of work cost on the farm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(default, deny_unknown_fields)]
pub struct Prices {
    /// Sign or letters that stand before an amount; empty for none.
    pub currency: String,
    /// A kWh; null where it is not known.
    pub per_kwh: Option<f64>,
    /// Hours of the day at which it costs something else.
    pub cheap: Option<CheapHours>,
    /// Hour of the day at which lamps go on.
    pub lamps_on_at: u8,
    /// An hour of work; null where it is not counted.
    pub per_hour: Option<f64>,
    /// Days between a cut and the next sowing in the same place.
    pub days_between: u32,
    /// The day of these prices; null where nobody said.
    #[cfg_attr(feature = "schema", schema(value_type = Option<String>))]
    pub as_of: Option<Date>,
}

/// Hours of the day at which electricity costs something else.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct CheapHours {
    /// From this hour on, 0 to 23,
    pub from: u8,
    /// to this; smaller than the first where it goes over midnight.
    pub until: u8,
    /// A kWh then.
    pub per_kwh: f64,
}

impl Default for Prices {
    fn default() -> Self {
        // Common practice, no source: lamps from six on, two days for cleaning and setting up.
        Self {
            currency: String::new(),
            per_kwh: None,
            cheap: None,
            lamps_on_at: 6,
            per_hour: None,
            days_between: 2,
            as_of: None,
        }
    }
}

/// Most letters of a currency.
const MOST_SIGN: usize = 6;
/// Most for a kWh or an hour.
const MOST_PRICE: f64 = 100_000.0;

impl Prices {
    /// Checks the figures.
    ///
    /// # Errors
    /// The field, and what is wrong with it.
    pub fn check(&self) -> Result<(), (&'static str, String)> {
        if self.currency.chars().count() > MOST_SIGN {
            return Err(("currency", format!("at most {MOST_SIGN} letters")));
        }
        let cheap = self.cheap.map(|c| c.per_kwh);
        for (field, price) in [
            ("per_kwh", self.per_kwh),
            ("per_hour", self.per_hour),
            ("cheap", cheap),
        ] {
            if let Some(x) = price.filter(|x| !(0.0..=MOST_PRICE).contains(x)) {
                return Err((field, format!("between 0 and {MOST_PRICE}, got {x}")));
            }
        }
        if self
            .cheap
            .is_some_and(|c| c.from > 23 || c.until > 23 || c.from == c.until)
        {
            return Err(("cheap", "two different hours from 0 to 23".into()));
        }
        if self.lamps_on_at > 23 {
            return Err(("lamps_on_at", "an hour from 0 to 23".into()));
        }
        if self.days_between > 365 {
            return Err(("days_between", "at most 365 days".into()));
        }
        Ok(())
    }

    /// The same with their day: today where one is new or another than `before` and nobody gave a
    /// day for it.
    #[must_use]
    pub fn dated(self, before: Option<&Self>, today: Date) -> Self {
        let told = |own: &Self| (own.per_kwh, own.cheap, own.per_hour);
        let nothing = (None, None, None);
        let (now, then) = (told(&self), before.map_or(nothing, told));
        let old = before.and_then(|b| b.as_of);
        let as_of = match self.as_of {
            own if now == nothing => own,
            own if now != then && (own.is_none() || own == old) => Some(today),
            own => own.or(old),
        };
        Self { as_of, ..self }
    }

    /// What a kWh costs a lamp that burns so many hours a day, on average over them.
    ///
    /// ```
    /// use iron_twin_core::stores::prices::{CheapHours, Prices};
    /// let cheap = Some(CheapHours { from: 22, until: 6, per_kwh: 0.20 });
    /// let prices = Prices { per_kwh: Some(0.40), cheap, lamps_on_at: 18, ..Prices::default() };
    /// // From 18 to 10: eight hours at 0.20 and eight at 0.40.
    /// assert!((prices.per_kwh_of(16.0).unwrap() - 0.30).abs() < 1e-12);
    /// assert_eq!(Prices::default().per_kwh_of(16.0), None);
    /// ```
    #[must_use]
    pub fn per_kwh_of(&self, hours: f64) -> Option<f64> {
        let usual = self.per_kwh?;
        let Some(cheap) = self.cheap else {
            return Some(usual);
        };
        let hours = hours.clamp(0.0, 24.0);
        let is_cheap = |hour: u8| match cheap.from < cheap.until {
            true => (cheap.from..cheap.until).contains(&hour),
            false => hour >= cheap.from || hour < cheap.until,
        };
        let of = |n: u8| {
            let part = (hours - f64::from(n)).clamp(0.0, 1.0);
            part * if is_cheap((self.lamps_on_at + n) % 24) {
                cheap.per_kwh
            } else {
                usual
            }
        };
        if hours == 0.0 {
            Some(usual)
        } else {
            Some((0..24).map(of).sum::<f64>() / hours)
        }
    }

    /// An amount of money as it is told.
    ///
    /// ```
    /// use iron_twin_core::stores::prices::Prices;
    /// let prices = Prices { currency: "€".into(), ..Prices::default() };
    /// assert_eq!([0.4149, -1.5, 0.0312, 0.0].map(|x| prices.told(x)), ["€0.41", "−€1.50", "€0.031", "€0.00"]);
    /// ```
    #[must_use]
    pub fn told(&self, amount: f64) -> String {
        let digits = if amount != 0.0 && amount.abs() < 0.1 {
            3
        } else {
            2
        };
        let sign = if amount < 0.0 { "−" } else { "" };
        let letters = self.currency.chars().any(char::is_alphabetic);
        let space = if letters { " " } else { "" };
        format!("{sign}{}{space}{:.digits$}", self.currency, amount.abs())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::civil::date;

    #[test]
    fn a_price_has_the_day_on_which_it_was_said() {
        let (march, may, june) = (date(2026, 3, 1), date(2026, 5, 1), date(2026, 6, 1));
        let at = |per_kwh, as_of| Prices {
            per_kwh,
            as_of,
            ..Prices::default()
        };
        let old = at(Some(0.3), None).dated(None, march);
        assert_eq!(old.as_of, Some(march));
        // Kept as it was, changed, changed with a day of its own, and nothing priced at all.
        assert_eq!(old.clone().dated(Some(&old), may).as_of, Some(march));
        assert_eq!(
            at(Some(0.3), None).dated(Some(&old), may).as_of,
            Some(march)
        );
        assert_eq!(
            at(Some(0.4), Some(march)).dated(Some(&old), may).as_of,
            Some(may)
        );
        assert_eq!(
            at(Some(0.4), Some(june)).dated(Some(&old), may).as_of,
            Some(june)
        );
        assert_eq!(at(None, None).dated(None, may).as_of, None);
    }
}
