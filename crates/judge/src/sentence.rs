//! The verdict as a sentence that a grower can repeat. No "significant", no bare p.

mod brief;
mod size;

use super::result::{BlockGap, Contrast};
use super::verdict::{Doubt, Gain, Verdict};
use crate::question::Question;
use crate::wording::decimals_for;
use crate::wording::figure;
use crate::wording::{in_hundred, of_deals};
use crate::wording::{plain, trimmed};
use iron_twin_terms::goal::Better;
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::words::capitalised;

/// What was learned, and what it rests on where that must be said.
pub(crate) struct Decision {
    pub claim: String,
    /// The claim in three lines of a phone.
    pub brief: String,
    pub caveat: Option<String>,
}

/// In which terms a kind of measure is spoken of.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Terms {
    /// Differences of amounts, in the measure's unit.
    Amount,
    /// Ratios of amounts, in per cent.
    Ratio,
    /// Ratios of counts, in per cent.
    Count,
    /// Shares, in percentage points.
    Share,
    /// Days to an event.
    Days,
    /// Which of two scores higher, in pairings out of 100.
    Score,
}

/// A claim with what it rests on: the one place where they meet.
pub(crate) fn joined(claim: &str, caveat: Option<&str>) -> String {
    caveat.map_or_else(|| claim.to_owned(), |caveat| format!("{claim} {caveat}"))
}

/// "1 day", "2 days".
fn counted(number: &str, one: &str) -> String {
    if number == "1" {
        format!("1 {one}")
    } else {
        format!("{number} {one}s")
    }
}

impl Terms {
    pub(crate) fn is_ratio(self) -> bool {
        matches!(self, Self::Ratio | Self::Count)
    }

    /// "it could give 4 g less".
    fn verb(self) -> &'static str {
        match self {
            Self::Amount | Self::Ratio => "give",
            Self::Count => "have",
            Self::Share => "reach",
            Self::Days => "take",
            Self::Score => "win",
        }
    }
}

struct Phrase<'a> {
    terms: Terms,
    contrast: &'a Contrast,
    question: &'a Question,
    margin: Option<f64>,
    control_mean: f64,
    decimals: usize,
    /// Units of the smaller side.
    stood: usize,
}

/// Says what a contrast has taught. `margin` is on the scale of the verdict; `control_mean` on that
/// of the model.
#[must_use]
pub(crate) fn of(
    terms: Terms,
    contrast: &Contrast,
    question: &Question,
    margin: Option<f64>,
    control_mean: f64,
    stood: usize,
) -> Decision {
    let decimals = decimals_for(contrast.se.unwrap_or(0.0));
    Phrase {
        terms,
        contrast,
        question,
        margin,
        control_mean,
        decimals,
        stood,
    }
    .say()
}

impl Phrase<'_> {
    fn say(&self) -> Decision {
        let (treatment, control) = (capitalised(&self.contrast.treatment), &self.contrast.versus);
        let main = match self.contrast.verdict {
            Verdict::Better | Verdict::Worse if self.interval().0.is_nan() => self.by_deals_alone(),
            verdict if self.terms == Terms::Score && verdict.claims_difference() => self.pairings(),
            Verdict::BetterByMargin | Verdict::WorseByMargin => format!(
                "{}. The true {} is very likely {}: more than the {} you said would matter.",
                self.lead(),
                self.gain_word(self.contrast.verdict == Verdict::BetterByMargin),
                self.between(),
                self.margin_text()
            ),
            Verdict::Better | Verdict::Worse => format!(
                "{}. The true {} is very likely {}{}.",
                self.lead(),
                self.gain_word(self.contrast.verdict == Verdict::Better),
                self.between(),
                self.short_of_margin()
            ),
            Verdict::Same => format!(
                "{treatment} did the same as {control}: they differ by at most {} either way, \
                 less than the {} that would matter.",
                self.below_margin(self.widest()),
                self.margin_text()
            ),
            Verdict::GoodEnough => format!(
                "{treatment} did as well as {control}: at worst it gives up {}, less than the {} \
                 you allowed.",
                self.below_margin(-self.gain().low),
                self.margin_text()
            ),
            Verdict::NotGoodEnough => format!(
                "{treatment} falls short of {control}: the true {} is very likely {}, more than \
                 the {} you allowed.",
                self.gain_word(false),
                self.between(),
                self.margin_text()
            ),
            Verdict::CannotTell => self.cannot_tell(),
        };
        Decision {
            claim: self.of_measure(&main) + &self.cut_off() + &self.block_by_block(),
            brief: self.of_measure(&self.brief()),
            caveat: self.model_alone(),
        }
    }

    /// The same with what was measured before it, where that must be said.
    fn of_measure(&self, said: &str) -> String {
        let measure = &self.question.wording.measure;
        if measure.is_empty() {
            return said.to_owned();
        }
        let (treatment, control) = (&self.contrast.treatment, &self.contrast.versus);
        let own = match said.strip_prefix(capitalised(treatment).as_str()) {
            Some(rest) => format!("{treatment}{rest}"),
            // One colon is enough.
            None => said.replacen("Can't", "can't", 1).replacen(
                &format!("{control}: "),
                &format!("{control}; "),
                1,
            ),
        };
        format!("{}: {own}", capitalised(measure))
    }

    /// That days are means up to a day, where some had not come to it by then: how many, and that
    /// their day is not known.
    fn cut_off(&self) -> String {
        let Some(mean) = self.contrast.restricted_mean.as_ref() else {
            return String::new();
        };
        let ([n, late], [m, control_late]) = (mean.unseen_treatment, mean.unseen_control);
        if late + control_late == 0 {
            return String::new();
        }
        format!(
            " This counts days up to day {} only: by then it was seen in {} of {n} of {} and in \
             {} of {m} of {}.",
            figure(mean.tau),
            n - late,
            self.contrast.treatment,
            m - control_late,
            self.contrast.versus
        )
    }

    /// That the treatment did not do the same in every block, and what it did in each; of many, in
    /// the two that lie farthest apart.
    fn block_by_block(&self) -> String {
        const LISTED: usize = 5;
        let mut gaps: Vec<&BlockGap> = self.contrast.by_block.iter().collect();
        if gaps.len() < 2 {
            return String::new();
        }
        gaps.sort_by(|a, b| b.estimate.total_cmp(&a.estimate));
        // Where it comes to the same in words, as with a treatment that had none anywhere, there is
        // nothing to tell.
        if self.gap_text(gaps[0].estimate) == self.gap_text(gaps[gaps.len() - 1].estimate) {
            return String::new();
        }
        let each = |gap: &BlockGap| {
            // A bare number says nothing by itself.
            let name = if gap.block.parse::<f64>().is_ok() {
                "block "
            } else {
                ""
            };
            format!("{} at {name}{}", self.gap_text(gap.estimate), gap.block)
        };
        let told = if gaps.len() > LISTED {
            format!("from {} to {}", each(gaps[0]), each(gaps[gaps.len() - 1]))
        } else {
            gaps.into_iter().map(each).collect::<Vec<_>>().join(", ")
        };
        format!(" It did not do the same everywhere: {told}.")
    }

    /// "24 g more".
    fn gap_text(&self, estimate: f64) -> String {
        let (size, more) = match self.terms {
            Terms::Ratio | Terms::Count => (
                format!("{} %", plain(100.0 * (estimate - 1.0).abs(), 0)),
                estimate > 1.0,
            ),
            Terms::Share => (
                counted(&plain(estimate.abs(), self.decimals.min(1)), "point"),
                estimate > 0.0,
            ),
            Terms::Days => (
                counted(&plain(estimate.abs(), self.decimals), "day"),
                estimate > 0.0,
            ),
            Terms::Amount | Terms::Score => (
                self.question.wording.amount(estimate.abs(), self.decimals),
                estimate > 0.0,
            ),
        };
        // What rounds to nothing is no more and no less.
        if size.chars().all(|c| !c.is_ascii_digit() || c == '0') {
            return "no difference".into();
        }
        format!("{size} {}", if more { "more" } else { "less" })
    }

    fn interval(&self) -> (f64, f64) {
        interval(self.contrast)
    }

    /// Limits of the gain: in the measure's unit, or as a share for ratios.
    fn gain(&self) -> Gain {
        let (low, high) = self.interval();
        let from = if self.terms.is_ratio() { 1.0 } else { 0.0 };
        Gain::of(low - from, high - from, self.question.better)
    }

    fn widest(&self) -> f64 {
        let gain = self.gain();
        gain.low.abs().max(gain.high.abs())
    }

    /// "Full feed gave 31 g a tray more than plain water (27 %)".
    fn lead(&self) -> String {
        self.lead_in(false)
    }

    /// The same, in few words where that is wanted.
    fn lead_in(&self, few: bool) -> String {
        let c = self.contrast;
        // A ratio over a control that had none is no number, and it is more.
        let more =
            c.estimate.is_nan() || c.estimate > if self.terms.is_ratio() { 1.0 } else { 0.0 };
        let direction = if more { "more" } else { "less" };
        let wording = &self.question.wording;
        let percent = c
            .percent
            .map(|p| format!("{} %", plain(p.abs(), self.percent_decimals(p))));
        // Of a control near nothing the share says nothing.
        const TOO_MANY: f64 = 1000.0;
        let told = percent
            .as_ref()
            .filter(|_| c.percent.is_some_and(|p| p.abs() < TOO_MANY));
        let share = told.map_or(String::new(), |p| format!(" ({p})"));
        let better = match (self.question.better, more) {
            (Better::Lower, true) if few => ", worse",
            (Better::Lower, false) if few => ", better",
            (Better::Lower, true) => ", and less is better",
            (Better::Lower, false) => ", which is better",
            _ => "",
        };
        let (name, control) = (capitalised(&c.treatment), &c.versus);
        match self.terms {
            Terms::Amount => {
                let amount = wording.amount(self.fine(c.estimate), self.decimals);
                match wording.each.as_str() {
                    "" => format!("{name} had {amount} {direction} than {control}{share}{better}"),
                    each => format!(
                        "{name} gave {amount} a {each} {direction} than {control}{share}{better}"
                    ),
                }
            }
            Terms::Ratio => {
                format!(
                    "{name} gave {} {direction} than {control}{better}",
                    percent.unwrap_or_default()
                )
            }
            Terms::Count => self.counts(direction, better, percent),
            Terms::Share => self.shares(few, direction, better),
            Terms::Days => format!(
                "{name} took {} {direction} than {control}{share}{better}",
                counted(&plain(c.estimate.abs(), self.decimals), "day")
            ),
            Terms::Score => {
                let (wins, higher) = (
                    50.0 + 100.0 * c.estimate.abs(),
                    if more { "higher" } else { "lower" },
                );
                format!(
                    "{name} scored {higher} than {control} in {} of 100 pairings{better}",
                    plain(wins, 0)
                )
            }
        }
    }

    /// How many more or fewer, in times or in per cent.
    fn counts(&self, direction: &str, better: &str, percent: Option<String>) -> String {
        let c = self.contrast;
        let (name, control) = (capitalised(&c.treatment), &c.versus);
        match c.ratio.flatten() {
            Some(ratio) if self.in_times() => {
                format!(
                    "{name} had {} times as many as {control}{better}",
                    plain(ratio, 1)
                )
            }
            Some(_) => format!(
                "{name} had {} {direction} than {control}{better}",
                percent.unwrap_or_default()
            ),
            None if c.estimate.is_nan() => {
                format!("{name} had {direction} than {control}, which had none{better}")
            }
            None => format!("{name} had none, {direction} than {control}{better}"),
        }
    }

    /// Two shares, and what lies between them.
    fn shares(&self, few: bool, direction: &str, better: &str) -> String {
        let c = self.contrast;
        let (name, control) = (capitalised(&c.treatment), &c.versus);
        // The two shares and what lies between them are told equally finely, so that they
        // add up.
        let gap = c.estimate.abs();
        let (own, against) = (
            100.0 * c.share.unwrap_or(0.0),
            100.0 * c.share_control.unwrap_or(0.0),
        );
        let whole = (own.round() - against.round()).abs() - gap.round();
        let decimals = if self.decimals == 0 && whole == 0.0 {
            0
        } else {
            1
        };
        let of = |share: f64| trimmed(share, decimals);
        let (own, against) = (of(own), of(against));
        // In few words the two shares say which is more; how much, the limits after them.
        if few {
            return format!("{name} {own} %, {control} {against} %{better}");
        }
        let points = counted(&trimmed(gap, decimals), "point");
        format!(
            "{name} reached {own} % and {control} {against} %, {points} \
                     {direction}{better}"
        )
    }

    /// Scores: how many of a hundred pairings are won in the long run, beside the number that would
    /// matter.
    fn pairings(&self) -> String {
        let (low, high) = self.interval();
        if let Some(p) = self.contrast.closed_p.filter(|_| low < 0.0 && high > 0.0) {
            return format!(
                "{}. Dealing every set of treatments with {} anew gives a lead this clear in at \
                 most {}, so luck is unlikely; how far it leads cannot be said.",
                self.lead(),
                self.contrast.versus,
                of_deals(p)
            );
        }
        let won = |over: f64| plain(50.0 + 100.0 * over, 0);
        // Told of the side that wins.
        let (low, high) = if self.contrast.estimate > 0.0 {
            (low, high)
        } else {
            (-high, -low)
        };
        let by_margin = matches!(
            self.contrast.verdict,
            Verdict::BetterByMargin | Verdict::WorseByMargin
        );
        let beside = match self.margin {
            Some(m) if by_margin => format!(": more than the {} you said would matter", won(m)),
            Some(m) => format!(
                ": real, but it may be nearer to even than the {} you said would matter",
                won(m)
            ),
            None => String::new(),
        };
        // More than half is told as more than half.
        let least = if low > 0.0 && low < 0.005 {
            plain(50.0 + 100.0 * low, 1)
        } else {
            won(low)
        };
        format!(
            "{}. The true number is very likely between {least} and {}{beside}.",
            self.lead(),
            won(high)
        )
    }

    /// A treatment at none or all: the model has no limits, and the deals bear the verdict.
    fn by_deals_alone(&self) -> String {
        let p = self.contrast.randomisation.as_ref().map_or(1.0, |r| r.p);
        format!(
            "{}. Dealing the {} anew gives a gap this wide in {}, so luck is unlikely; how wide \
             the true gap is cannot be said.",
            self.lead(),
            self.question.wording.units,
            of_deals(p)
        )
    }

    /// From twice as many on, a ratio says more than its per cent.
    fn in_times(&self) -> bool {
        self.terms == Terms::Count
            && self
                .contrast
                .ratio
                .flatten()
                .is_some_and(|ratio| ratio >= 2.0)
    }

    fn gain_word(&self, good: bool) -> &'static str {
        if self.in_times() || (self.terms == Terms::Count && self.interval().1.is_infinite()) {
            return "ratio";
        }
        match (self.question.better, good) {
            (Better::Higher, true) => "gain",
            (Better::Higher, false) => "loss",
            (Better::Lower, true) => "saving",
            (Better::Lower, false) => "excess",
        }
    }

    fn short_of_margin(&self) -> String {
        if self.margin.is_some() {
            format!(
                ": real, but it may be smaller than the {} you said would matter",
                self.margin_text()
            )
        } else {
            String::new()
        }
    }

    fn cannot_tell(&self) -> String {
        let (treatment, control) = (&self.contrast.treatment, &self.contrast.versus);
        let w = &self.question.wording;
        let opening = format!("Can't tell {treatment} from {control}");
        match self.contrast.doubt {
            Some(Doubt::OneUnit) => {
                format!(
                    "{opening}: with a single {} on one side, the {} cannot be told from the \
                     treatment.",
                    w.a_unit, w.a_unit
                )
            }
            Some(Doubt::NoSpread) => {
                format!(
                    "{opening}: nothing shows how much {} differ by themselves, so a gap cannot \
                     be judged.",
                    w.units
                )
            }
            Some(Doubt::Redeal) => self.untold_by_deals(&opening),
            Some(Doubt::Unseen) => {
                let day = self
                    .contrast
                    .restricted_mean
                    .as_ref()
                    .map_or(f64::NAN, |m| m.tau);
                format!(
                    "{opening}: too few had come to it by day {} to say that they do the same.",
                    figure(day)
                )
            }
            Some(Doubt::UnequalSpread) => {
                format!(
                    "{opening}: the treatments scatter so unequally that the gap may be chance.{}",
                    self.settle()
                )
            }
            // Known only once the others are: `secondary` says how many there were.
            Some(Doubt::Several) => {
                format!("{opening} beside the other measures that were looked at.")
            }
            None if self.terms == Terms::Score => {
                let (low, high) = self.interval();
                format!(
                    "{opening}: it could score higher in anything from {} to {} of 100 pairings.{}",
                    plain(50.0 + 100.0 * low, 0),
                    plain(50.0 + 100.0 * high, 0),
                    self.settle()
                )
            }
            None => self.either_way(&opening),
        }
    }

    /// Where dealing the units anew gives such a gap too often.
    fn untold_by_deals(&self, opening: &str) -> String {
        let w = &self.question.wording;
        let p = self
            .contrast
            .closed_p
            .or(self.contrast.randomisation.as_ref().map(|r| r.p))
            .unwrap_or(1.0);
        format!(
            "{opening}: dealing the {} anew gives a gap this wide in {}, too often to \
                     rule out luck.{}",
            w.units,
            of_deals(p),
            self.settle()
        )
    }

    /// How far it could lie either way.
    fn either_way(&self, opening: &str) -> String {
        let gain = self.gain();
        format!(
            "{opening}: it could {} {} or {}.{}",
            if self.question.wording.each.is_empty() && self.terms == Terms::Amount {
                "have"
            } else {
                self.terms.verb()
            },
            self.or_hardly(format!("{} less", self.size(self.side(gain, false)))),
            self.at_most(self.side(gain, true)),
            self.settle()
        )
    }

    /// How much more it may be: from ten times as many on, in times.
    fn at_most(&self, more: f64) -> String {
        const IN_TIMES: f64 = 9.0;
        match self.terms {
            Terms::Count if more >= IN_TIMES && more.is_finite() => {
                format!("{} times as many", plain(1.0 + more, 0))
            }
            Terms::Ratio if more >= IN_TIMES && more.is_finite() => {
                format!("{} times as much", plain(1.0 + more, 0))
            }
            _ => self.or_hardly(format!("{} more", self.size(more))),
        }
    }

    /// What rounds to nothing as what it is: "hardly less" in place of "0.0 g less".
    fn or_hardly(&self, told: String) -> String {
        let first = told.split(' ').next().unwrap_or_default();
        let nothing = first.parse::<f64>().is_ok_and(|number| number == 0.0);
        match told.rsplit_once(' ') {
            Some((_, word)) if nothing => format!("hardly {word}"),
            _ => told,
        }
    }

    /// How far the treatment may lie above (or below) the control as measured.
    fn side(&self, gain: Gain, more: bool) -> f64 {
        match (self.question.better, more) {
            (Better::Higher, true) | (Better::Lower, false) => gain.high,
            (Better::Higher, false) | (Better::Lower, true) => -gain.low,
        }
    }

    fn settle(&self) -> String {
        match self.contrast.units_for_verdict {
            // Where as many stood already, the difference lies too near to what would matter for
            // their number to tell.
            Some(needed) if self.margin.is_some() && needed <= self.stood => {
                format!(
                    " As many {} again may settle it.",
                    self.question.wording.units
                )
            }
            Some(needed) if self.margin.is_some() => {
                let difference = match self.question.margin {
                    Some(Margin::Percent(_)) => format!("a {} difference", self.margin_text()),
                    _ => format!("a difference of {}", self.margin_text()),
                };
                format!(
                    " About {needed} {} a side would settle {difference}.",
                    self.question.wording.units
                )
            }
            _ => String::new(),
        }
    }

    /// With very few units the re-deal can confirm nothing, and the sentence must say so.
    fn model_alone(&self) -> Option<String> {
        if !self.contrast.verdict.claims_difference() {
            return None;
        }
        let redealt = self.contrast.randomisation.as_ref()?;
        if redealt.smallest_possible_p? < 1.0 - self.question.confidence {
            return None;
        }
        let units = &self.question.wording.units;
        Some(
            match redealt
                .whole
                .as_ref()
                .filter(|w| w.mid_p < 1.0 - self.question.confidence)
            {
                Some(whole) => format!(
                    "Confirmed by dealing the whole trial anew: a gap this clear came up in {} of \
                     100 deals of all its {units}. Which treatment made it rests on the model.",
                    // Told alike for all treatments for which it is next to nothing: one line for
                    // them all.
                    if whole.mid_p < 0.01 {
                        "fewer than 1".into()
                    } else {
                        in_hundred(whole.mid_p)
                    }
                ),
                None => format!(
                    "With so few {units} this rests on the model alone: dealing the {units} anew \
                     gives a gap this wide in {}.",
                    of_deals(redealt.p)
                ),
            },
        )
    }
}

/// The limits of which the sentence speaks: those that decide, in the measure's unit or as a ratio.
pub fn interval(c: &Contrast) -> (f64, f64) {
    if let Some(decided) = c.decided_by.as_ref().filter(|d| d.limits != "model") {
        return (decided.low, decided.high.unwrap_or(f64::INFINITY));
    }
    match &c.simultaneous {
        Some(s) => (s.low, s.high),
        // A low limit alone: a ratio without an upper limit that a number can hold.
        None => (
            c.low.unwrap_or(f64::NAN),
            c.high.unwrap_or(if c.low.is_some() {
                f64::INFINITY
            } else {
                f64::NAN
            }),
        ),
    }
}

#[cfg(test)]
mod tests;
