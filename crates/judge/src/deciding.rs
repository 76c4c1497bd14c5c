//! From limits to verdict, with the checks that may take a verdict back: the same for every kind of
//! measure.

use super::result::Randomisation;
use super::verdict::{Doubt, Gain, Verdict, decide};
use crate::question::Question;
use crate::result::Simultaneous;
use crate::result::{Contrast, DecidedBy};
use crate::sentence;
use crate::sentence::Terms;
use iron_twin_stats::StatsError;
use iron_twin_stats::distributions::t_quantile_upper;
use iron_twin_terms::goal::Goal;

/// What decides about one treatment against the control.
#[derive(Default)]
pub(crate) struct Deciding<'a> {
    /// Units of the treatment and of the control.
    pub units: (usize, usize),
    /// Limits of treatment less control on the scale of the margin; None where no spread can be
    /// had.
    pub limits: Option<(f64, f64)>,
    /// The re-deal.
    pub redealt: Option<&'a Randomisation>,
    /// The pooled model's limits, where `limits` allow for a spread that it does not have.
    pub pooled: Option<(f64, f64)>,
    /// Days: whether more of a side than may be left out had not come to it by the day up to which
    /// they are counted.
    pub unseen: bool,
    /// Whether the units of one side are all exactly alike, so that nothing shows how much they
    /// differ by themselves.
    pub flat: bool,
    /// Where the model has no limits because a treatment stands at the edge, the lead by which the
    /// re-deal decides.
    pub lead: Option<f64>,
}

/// The verdict, and why the interval was not allowed to decide where it was not. `margin` is 0
/// where none was given.
pub(crate) fn verdict(
    question: &Question,
    margin: f64,
    deciding: &Deciding<'_>,
) -> (Verdict, Option<Doubt>) {
    if deciding.units.0 < 2 || deciding.units.1 < 2 {
        return (Verdict::CannotTell, Some(Doubt::OneUnit));
    }
    let outside = 1.0 - question.confidence;
    if let Some(lead) = deciding.lead {
        return by_redeal_alone(question, lead, deciding.redealt);
    }
    let Some((low, high)) = deciding.limits.filter(|_| !deciding.flat) else {
        return (Verdict::CannotTell, Some(Doubt::NoSpread));
    };
    let by = |(low, high)| decide(question.goal, Gain::of(low, high, question.better), margin);
    let found = by((low, high));
    let contradicted = deciding.redealt.is_some_and(|r| {
        r.mid_p >= outside
            && r.smallest_possible_p
                .is_none_or(|smallest| smallest < outside)
    });
    if found.claims_difference() && contradicted {
        return (Verdict::CannotTell, Some(Doubt::Redeal));
    }
    if deciding.unseen && matches!(found, Verdict::Same | Verdict::GoodEnough) {
        return (Verdict::CannotTell, Some(Doubt::Unseen));
    }
    if found == Verdict::CannotTell
        && deciding
            .pooled
            .is_some_and(|limits| by(limits) != Verdict::CannotTell)
    {
        return (Verdict::CannotTell, Some(Doubt::UnequalSpread));
    }
    (found, None)
}

/// Where the treatment or the control has none (or all), the model has nothing to say and the deals
/// decide, by direction only.
fn by_redeal_alone(
    question: &Question,
    lead: f64,
    redealt: Option<&Randomisation>,
) -> (Verdict, Option<Doubt>) {
    let gain = Gain::of(lead, lead, question.better).low;
    let sure = redealt.is_some_and(|r| r.p < 1.0 - question.confidence);
    match question.goal {
        _ if sure && gain > 0.0 => (Verdict::Better, None),
        Goal::Beat | Goal::Best if sure && gain < 0.0 => (Verdict::Worse, None),
        _ => (Verdict::CannotTell, Some(Doubt::Redeal)),
    }
}

/// What the verdict and the sentence of a contrast are made from.
pub(crate) struct Decision<'a> {
    pub question: &'a Question,
    pub terms: Terms,
    /// The margin on the scale of the verdict; 0 where none was given.
    pub margin: f64,
    /// The control's mean, for amounts.
    pub control: f64,
}

impl Decision<'_> {
    /// Gives a contrast its verdict and its sentence.
    pub fn decide(&self, contrast: &mut Contrast, deciding: &Deciding<'_>) {
        (contrast.verdict, contrast.doubt) = verdict(self.question, self.margin, deciding);
        let margin = (self.margin > 0.0).then_some(self.margin);
        let said = sentence::of(
            self.terms,
            contrast,
            self.question,
            margin,
            self.control,
            deciding.units.0.min(deciding.units.1),
        );
        contrast.sentence = sentence::joined(&said.claim, said.caveat.as_deref());
        (contrast.claim, contrast.brief, contrast.caveat) = (said.claim, said.brief, said.caveat);
    }

    /// Decides by the contrast's own limits, those for all contrasts together where there are
    /// several, and by its re-deal. `lead` is given where a treatment at the edge leaves the deals
    /// alone to speak.
    pub(crate) fn decide_by_own_limits(
        &self,
        contrast: &mut Contrast,
        units: (usize, usize),
        lead: Option<f64>,
    ) {
        self.decide_unless(contrast, units, lead, false);
    }

    /// Scores of several treatments: a difference is claimed by the closed test, in the direction
    /// that was seen; how much it is worth, and that two do the same, the limits say as ever.
    pub(crate) fn decide_by_closed_test(&self, contrast: &mut Contrast, units: (usize, usize)) {
        let together = contrast.simultaneous.as_ref().map(|s| (s.low, s.high));
        let Some((low, high)) = together.or(contrast.low.zip(contrast.high)) else {
            return self.decide_by_own_limits(contrast, units, None);
        };
        let p = contrast.closed_p.unwrap_or(1.0);
        let sure = p < 1.0 - self.question.confidence;
        // The limits on the side of the claim, so that the closed test alone says whether there is
        // a difference.
        let nearest = f64::MIN_POSITIVE;
        let limits = match (sure, contrast.estimate > 0.0) {
            (true, true) => (low.max(nearest), high),
            (true, false) => (low, high.min(-nearest)),
            (false, _) => (low, high),
        };
        let closed = Randomisation {
            p,
            mid_p: p,
            smallest_possible_p: None,
            assignments: f64::NAN,
            exact: true,
            whole: None,
        };
        contrast.decided_by = Some(DecidedBy {
            limits: "closed_test",
            low,
            high: Some(high),
            df: contrast.df,
        });
        self.decide(
            contrast,
            &Deciding {
                units,
                limits: Some(limits),
                redealt: Some(&closed),
                ..Deciding::default()
            },
        );
    }

    /// The same, where a side may be `flat`: its units all exactly alike.
    pub(crate) fn decide_unless(
        &self,
        contrast: &mut Contrast,
        units: (usize, usize),
        lead: Option<f64>,
        flat: bool,
    ) {
        let from = if self.terms == Terms::Count { 1.0 } else { 0.0 };
        let together = contrast.simultaneous.as_ref().map(|s| (s.low, s.high));
        let limits = together
            .or(contrast.low.zip(contrast.high))
            .map(|(low, high)| (low - from, high - from));
        if let Some((low, high)) = together.or(contrast.low.zip(contrast.high)) {
            contrast.decided_by = Some(DecidedBy {
                limits: "model",
                low,
                high: Some(high),
                df: contrast.df,
            });
        }
        let redealt = contrast.randomisation.clone();
        // Beyond the last day nothing is known of those that had not come to it.
        const LEFT_OUT: f64 = 0.25;
        let unseen = contrast.restricted_mean.as_ref().is_some_and(|m| {
            [m.unseen_treatment, m.unseen_control]
                .iter()
                .any(|[n, late]| *late as f64 > LEFT_OUT * *n as f64)
        });
        let deciding = Deciding {
            units,
            limits,
            redealt: redealt.as_ref(),
            lead,
            flat,
            unseen,
            ..Deciding::default()
        };
        self.decide(contrast, &deciding);
    }
}

/// The confidence that each of several comparisons needs so that all hold together, by Sidak's
/// inequality.
pub(crate) fn sidak_confidence(confidence: f64, comparisons: usize) -> f64 {
    confidence.powf(1.0 / comparisons as f64)
}

/// A p that holds for several comparisons together, by Sidak's inequality.
pub(crate) fn sidak_p(p: f64, comparisons: usize) -> f64 {
    -(comparisons as f64 * (-p).ln_1p()).exp_m1()
}

/// Sidak's t limits of an estimate where several comparisons are made; None for a single one.
pub(crate) fn sidak_limits(
    (estimate, se, df): (f64, f64, f64),
    p: f64,
    confidence: f64,
    comparisons: usize,
) -> Result<Option<Simultaneous>, StatsError> {
    if comparisons < 2 {
        return Ok(None);
    }
    let reach = se * t_quantile_upper(0.5 * (1.0 - sidak_confidence(confidence, comparisons)), df)?;
    Ok(Some(Simultaneous::new(
        "sidak",
        estimate - reach,
        estimate + reach,
        sidak_p(p, comparisons),
    )))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn deals(p: f64) -> Randomisation {
        Randomisation {
            p,
            mid_p: p,
            smallest_possible_p: Some(0.01),
            assignments: 70.0,
            exact: true,
            whole: None,
        }
    }

    #[test]
    fn the_deals_decide_by_direction_where_the_model_has_no_limits() {
        let (few, many) = (deals(0.01), deals(0.2));
        let ask = |lead, redealt| {
            verdict(
                &Question::default(),
                0.0,
                &Deciding {
                    units: (4, 4),
                    redealt: Some(redealt),
                    lead: Some(lead),
                    ..Deciding::default()
                },
            )
        };
        assert_eq!(ask(2.0, &few), (Verdict::Better, None));
        assert_eq!(ask(-2.0, &few), (Verdict::Worse, None));
        assert_eq!(ask(2.0, &many), (Verdict::CannotTell, Some(Doubt::Redeal)));
        let matching = Question {
            goal: Goal::Match,
            ..Question::default()
        };
        let deciding = Deciding {
            units: (4, 4),
            redealt: Some(&few),
            lead: Some(-2.0),
            ..Deciding::default()
        };
        assert_eq!(
            verdict(&matching, 0.1, &deciding).0,
            Verdict::CannotTell,
            "matching asks how much, which nobody knows"
        );
    }

    #[test]
    fn one_unit_and_no_spread_never_decide() {
        let deciding = Deciding {
            units: (1, 4),
            limits: Some((1.0, 2.0)),
            ..Deciding::default()
        };
        assert_eq!(
            verdict(&Question::default(), 0.0, &deciding).1,
            Some(Doubt::OneUnit)
        );
        let deciding = Deciding {
            units: (4, 4),
            ..Deciding::default()
        };
        assert_eq!(
            verdict(&Question::default(), 0.0, &deciding).1,
            Some(Doubt::NoSpread)
        );
    }
}
