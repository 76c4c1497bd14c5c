//! The verdict in so few words that three lines of a phone hold it. What it leaves out stands in
//! the whole sentence.

use super::{Phrase, Terms};
use crate::verdict::{Doubt, Verdict};
use crate::wording::{of_deals, plain};
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::words::capitalised;

impl Phrase<'_> {
    pub(super) fn brief(&self) -> String {
        let (treatment, control) = (capitalised(&self.contrast.treatment), &self.contrast.versus);
        match self.contrast.verdict {
            Verdict::Better | Verdict::Worse if self.interval().0.is_nan() => {
                format!(
                    "{}; luck is unlikely, how much it is cannot be said.",
                    self.lead_in(true)
                )
            }
            verdict if self.terms == Terms::Score && verdict.claims_difference() => {
                self.brief_pairings()
            }
            Verdict::BetterByMargin | Verdict::WorseByMargin => {
                format!(
                    "{}; very likely {}, over the {} asked.",
                    self.lead_in(true),
                    self.ends(),
                    self.margin_in_few()
                )
            }
            Verdict::Better | Verdict::Worse if self.margin.is_some() => {
                let margin = self.margin_in_few();
                format!(
                    "{}; very likely {}, maybe below the {margin} asked.",
                    self.lead_in(true),
                    self.ends()
                )
            }
            Verdict::Better | Verdict::Worse => {
                format!("{}; very likely {}.", self.lead_in(true), self.ends())
            }
            Verdict::Same => {
                let most = self.below_margin(self.widest());
                format!("{treatment} did the same as {control}, to within {most} either way.")
            }
            Verdict::GoodEnough => {
                let lost = self.below_margin(-self.gain().low);
                format!("{treatment} did as well as {control}: at worst it gives up {lost}.")
            }
            Verdict::NotGoodEnough => {
                let loss = self.gain_word(false);
                let (between, margin) = (self.ends(), self.margin_in_few());
                format!(
                    "{treatment} falls short of {control}: a {loss} of {between}, over the \
                         {margin} you allowed."
                )
                .replace("a excess", "an excess")
            }
            Verdict::CannotTell => self.brief_doubt(),
        }
    }

    /// "19 to 35 g".
    fn ends(&self) -> String {
        let told = self.between();
        told.strip_prefix("between ")
            .map_or(told.clone(), |ends| ends.replacen(" and ", " to ", 1))
    }

    /// The margin as it was said.
    fn margin_in_few(&self) -> String {
        match self.question.margin {
            Some(Margin::Percent(p)) => format!("{p} %"),
            _ => self.margin_text(),
        }
    }

    fn brief_pairings(&self) -> String {
        let (low, high) = self.interval();
        if self.contrast.closed_p.is_some() && low < 0.0 && high > 0.0 {
            return format!(
                "{}; luck is unlikely, how far it leads cannot be said.",
                self.lead_in(true)
            );
        }
        let (low, high) = if self.contrast.estimate > 0.0 {
            (low, high)
        } else {
            (-high, -low)
        };
        let won = |over: f64| plain(50.0 + 100.0 * over, 0);
        let beside = match (self.margin, self.contrast.verdict) {
            (Some(m), Verdict::BetterByMargin | Verdict::WorseByMargin) => {
                format!(", over the {} asked", won(m))
            }
            (Some(m), _) => format!(", maybe below the {} asked", won(m)),
            (None, _) => String::new(),
        };
        let least = if low > 0.0 && low < 0.005 {
            plain(50.0 + 100.0 * low, 1)
        } else {
            won(low)
        };
        format!(
            "{}; very likely {least} to {}{beside}.",
            self.lead_in(true),
            won(high)
        )
    }

    fn brief_doubt(&self) -> String {
        let (treatment, control) = (&self.contrast.treatment, &self.contrast.versus);
        let w = &self.question.wording;
        let opening = format!("Can't tell {treatment} from {control}");
        match self.contrast.doubt {
            Some(Doubt::OneUnit) => format!("{opening}: one {} on a side.", w.a_unit),
            Some(Doubt::NoSpread) => {
                format!("{opening}: nothing shows how much {} differ.", w.units)
            }
            Some(Doubt::Redeal) => {
                let p = self
                    .contrast
                    .closed_p
                    .or(self.contrast.randomisation.as_ref().map(|r| r.p))
                    .unwrap_or(1.0);
                format!(
                    "{opening}: luck gives a gap this wide in {}.{}",
                    of_deals(p),
                    self.brief_settle()
                )
            }
            Some(Doubt::Unseen) => format!("{opening}: too few had come to it."),
            Some(Doubt::UnequalSpread) => {
                format!(
                    "{opening}: they scatter too unequally.{}",
                    self.brief_settle()
                )
            }
            Some(Doubt::Several) => format!("{opening} beside the other measures."),
            None if self.terms == Terms::Score => {
                let (low, high) = self.interval();
                let won = |over: f64| plain(50.0 + 100.0 * over, 0);
                let settle = self.brief_settle();
                format!(
                    "{opening}: higher in {} to {} of 100 pairings.{settle}",
                    won(low),
                    won(high)
                )
            }
            None => {
                let gain = self.gain();
                let less = self.or_hardly(format!("{} less", self.size(self.side(gain, false))));
                format!(
                    "{opening}: {less} to {}.{}",
                    self.at_most(self.side(gain, true)),
                    self.brief_settle()
                )
            }
        }
    }

    /// How many units would settle it.
    fn brief_settle(&self) -> String {
        let units = &self.question.wording.units;
        match self
            .contrast
            .units_for_verdict
            .filter(|_| self.margin.is_some())
        {
            Some(needed) if needed <= self.stood => {
                format!(" As many {units} again may settle it.")
            }
            Some(needed) => format!(" About {needed} {units} a side would settle it."),
            None => String::new(),
        }
    }
}
