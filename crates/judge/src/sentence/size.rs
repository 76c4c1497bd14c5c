//! How large a difference or a limit is, in the terms of its kind.

use super::{Phrase, Terms, counted};
use crate::wording::plain;
use iron_twin_terms::quantity::Margin;

impl Phrase<'_> {
    /// A figure no finer than its standard error supports, where that is hundreds or more.
    pub(super) fn fine(&self, value: f64) -> f64 {
        const COARSE: f64 = 200.0;
        match self
            .contrast
            .se
            .filter(|se| *se >= COARSE && se.is_finite() && !self.terms.is_ratio())
        {
            Some(se) => {
                let step = 10f64.powf((0.5 * se).log10().floor());
                (value / step).round() * step
            }
            None => value,
        }
    }

    pub(super) fn percent_decimals(&self, percent: f64) -> usize {
        if percent.abs() < 3.0 { 1 } else { 0 }
    }

    pub(super) fn between(&self) -> String {
        let gain = self.gain();
        let (from, to) = if gain.low >= 0.0 {
            (gain.low, gain.high)
        } else {
            (-gain.high, -gain.low)
        };
        if to.is_infinite() {
            return match self.terms {
                Terms::Count => format!("at least {}", plain(1.0 + from, 1)),
                _ => format!("at least {}", self.size(from)),
            };
        }
        if self.in_times() {
            let (low, high) = self.interval();
            // Beside a margin that it passes, as finely as shows that it does.
            let passes = self
                .margin
                .is_some_and(|m| low > 1.0 + m && (10.0 * low).round() <= 10.0 * (1.0 + m));
            return format!(
                "between {} and {}",
                plain(low, if passes { 2 } else { 1 }),
                plain(high, 1)
            );
        }
        match self.terms {
            Terms::Days => format!("between {} and {} days", self.limit(from), self.limit(to)),
            Terms::Share => {
                format!(
                    "between {} and {} points",
                    self.limit(from.min(100.0)),
                    self.limit(to.min(100.0))
                )
            }
            Terms::Score => format!(
                "between {} and {} of 100 pairings",
                plain(100.0 * from, 0),
                plain(100.0 * to, 0)
            ),
            Terms::Amount => {
                let unit = &self.question.wording.unit;
                let unit = if unit.is_empty() {
                    String::new()
                } else {
                    format!(" {unit}")
                };
                format!("between {} and {}{unit}", self.limit(from), self.limit(to))
            }
            Terms::Ratio | Terms::Count => Self::in_per_cent(from, to),
        }
    }

    /// Two shares in per cent; a limit above nothing is never told as nothing.
    fn in_per_cent(from: f64, to: f64) -> String {
        let needed = if from > 0.0 && from < 0.005 {
            (-(100.0 * from).log10()).ceil().clamp(1.0, 6.0)
        } else {
            0.0
        };
        format!(
            "between {} and {} %",
            plain(100.0 * from, needed as usize),
            plain(100.0 * to, 0)
        )
    }

    /// A limit: finer than the rest where it would else be rounded to nothing beside a claim that
    /// there is something.
    pub(super) fn limit(&self, value: f64) -> String {
        let most = if self.terms == Terms::Share {
            self.decimals.min(1)
        } else {
            self.decimals
        };
        let value = self.fine(value);
        let needed = if value > 0.0 {
            (-value.log10()).ceil().clamp(0.0, 6.0) as usize
        } else {
            0
        };
        let rounds_away = value > 0.0 && value < 0.5 * 10f64.powi(-(most as i32));
        plain(value, if rounds_away { needed } else { most })
    }

    pub(super) fn margin_text(&self) -> String {
        match self.question.margin {
            Some(Margin::Percent(p)) if self.terms == Terms::Share => {
                format!("{p} % ({} points)", plain(self.margin.unwrap_or(0.0), 1))
            }
            Some(Margin::Percent(p)) => format!("{p} %"),
            Some(Margin::Absolute(a)) if self.terms == Terms::Share => {
                counted(&a.to_string(), "point")
            }
            Some(Margin::Absolute(a)) if self.terms == Terms::Days => {
                counted(&a.to_string(), "day")
            }
            Some(Margin::Absolute(a)) if self.terms == Terms::Score => {
                format!("{} in 100 pairings", plain(100.0 * a, 0))
            }
            Some(Margin::Absolute(a)) => {
                let unit = &self.question.wording.unit;
                if unit.is_empty() {
                    a.to_string()
                } else {
                    format!("{a} {unit}")
                }
            }
            None => String::new(),
        }
    }

    /// A size on the margin's scale, with its share of the control where that makes sense.
    pub(super) fn size(&self, value: f64) -> String {
        self.size_to(value, 0)
    }

    /// The same with so many further decimals.
    pub(super) fn size_to(&self, value: f64, finer: usize) -> String {
        let value = value.max(0.0);
        if value.is_infinite() {
            return "any amount".into();
        }
        match self.terms {
            Terms::Ratio | Terms::Count => format!("{} %", plain(100.0 * value, finer)),
            Terms::Share if finer == 0 => counted(&self.limit(value.min(100.0)), "point"),
            Terms::Share => counted(
                &plain(value.min(100.0), self.decimals.min(1) + finer),
                "point",
            ),
            Terms::Days => counted(&plain(value, self.decimals + finer), "day"),
            Terms::Score => format!("{} of 100 pairings", plain(100.0 * value, finer)),
            Terms::Amount => {
                let shown = if finer == 0 { self.fine(value) } else { value };
                let amount = self.question.wording.amount(shown, self.decimals + finer);
                if self.control_mean > 0.0 {
                    let percent = 100.0 * value / self.control_mean;
                    format!(
                        "{amount} ({} %)",
                        plain(percent, self.percent_decimals(percent) + finer)
                    )
                } else {
                    amount
                }
            }
        }
    }

    /// A size that lies below the margin, as finely as it takes to show that it does.
    pub(super) fn below_margin(&self, value: f64) -> String {
        const MOST_FINER: usize = 4;
        let margin = self.margin.unwrap_or(f64::INFINITY);
        let percent = match self.terms {
            Terms::Amount if self.control_mean > 0.0 => 100.0 * margin / self.control_mean,
            _ => f64::INFINITY,
        };
        let scale = if self.terms.is_ratio() || self.terms == Terms::Score {
            100.0
        } else {
            1.0
        };
        let shows = |told: &String| {
            let mut numbers = told
                .split(|c: char| !c.is_ascii_digit() && c != '.')
                .filter_map(|n| n.parse::<f64>().ok());
            // What is something is not told as nothing.
            let own = numbers
                .next()
                .is_none_or(|n| n < scale * margin && (n > 0.0 || value <= 0.0));
            own && (self.terms != Terms::Amount || numbers.next().is_none_or(|n| n < percent))
        };
        (0..MOST_FINER)
            .map(|finer| self.size_to(value, finer))
            .find(shows)
            .unwrap_or_else(|| self.size_to(value, MOST_FINER))
    }
}
