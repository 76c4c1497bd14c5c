//! What a treatment earns beside the control, in figures and in words.

use super::costs::{Cost, WORK};
use crate::stores::prices::Prices;
use crate::trial::Trial;
use iron_twin_judge::result::Contrast;
use iron_twin_judge::sentence::interval;
use iron_twin_judge::verdict::{Gain, Verdict, decide};
use iron_twin_terms::goal::Goal;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::words::capitalised;
use serde::Serialize;

/// What a treatment earns on a unit beside the control.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = MoneyBeside))]
pub struct Beside {
    /// What it costs more; below 0 what it saves.
    pub cost: f64,
    /// What it earns more, after that.
    pub gain: f64,
    /// The lower end of what it very likely earns more,
    pub low: f64,
    /// and the upper.
    pub high: f64,
    /// The price of a kg from which on it earns more, where it costs and yields more.
    pub pays_from_per_kg: Option<f64>,
    /// What it must yield more on a unit to earn back what it costs more, g.
    pub pays_from_g: Option<f64>,
    /// What it earns more for each of the money spent more, before that is taken off.
    pub brings_per_spent: Option<f64>,
    /// What it earns more held against the margin in money, where one was said: whether it pays.
    pub verdict: Verdict,
    /// In words.
    pub sentence: String,
}

/// What the sentences speak of.
pub(super) struct Told<'a> {
    pub(super) trial: &'a Trial,
    pub(super) prices: &'a Prices,
    pub(super) control: TreatmentIndex,
}

impl Told<'_> {
    pub(super) fn beside(
        &self,
        t: TreatmentIndex,
        contrast: &Contrast,
        (own, other): (&[Cost], &[Cost]),
    ) -> Option<Beside> {
        let sum = |costs: &[Cost]| costs.iter().filter_map(|c| c.cost).sum::<f64>();
        let cost = sum(own) - sum(other);
        let left_out = unpriced(own, other);
        let timed_alone = |a: &[Cost], b: &[Cost]| -> Vec<String> {
            let work =
                |c: &&Cost| c.kind == WORK && !b.iter().any(|o| o.kind == WORK && o.name == c.name);
            a.iter().filter(work).map(|c| c.name.clone()).collect()
        };
        let timed = [
            (t, timed_alone(own, other)),
            (self.control, timed_alone(other, own)),
        ];
        // The limits of the verdict, so that money and weight tell one story.
        let (low, high) =
            Some(interval(contrast)).filter(|(low, high)| low.is_finite() && high.is_finite())?;
        let (gain, low, high) = (contrast.estimate - cost, low - cost, high - cost);
        let per_kg = self
            .trial
            .plan
            .ask
            .price_per_kg
            .filter(|p| *p > 0.0 && self.one_price());
        let more_g = per_kg.map(|price| 1000.0 * contrast.estimate / price);
        let beside = Beside {
            cost,
            gain,
            low,
            high,
            pays_from_per_kg: more_g
                .filter(|g| cost > 0.0 && *g > 0.0)
                .map(|g| 1000.0 * cost / g),
            pays_from_g: per_kg
                .filter(|_| cost > 0.0)
                .map(|price| 1000.0 * cost / price),
            brings_per_spent: (cost > 0.0 && contrast.estimate > 0.0)
                .then(|| contrast.estimate / cost),
            verdict: self.verdict(low, high),
            sentence: String::new(),
        };
        let sentence = self.sentence(t, &beside, &left_out) + &self.timed(timed);
        Some(Beside { sentence, ..beside })
    }

    /// The gain after costs held against the margin in money, as a yield is against its own.
    fn verdict(&self, low: f64, high: f64) -> Verdict {
        let margin = self
            .trial
            .plan
            .ask
            .margin_money
            .filter(|m| *m > 0.0)
            .unwrap_or(0.0);
        decide(Goal::Beat, Gain { low, high }, margin)
    }

    /// Work that was timed on one of the two alone: on the other it counts as none, which may be
    /// so, or may be forgotten.
    fn timed(&self, alone: [(TreatmentIndex, Vec<String>); 2]) -> String {
        let name = |t: TreatmentIndex| &self.trial.plan.sheet.treatments[t].name;
        let (one, other) = (alone[0].0, alone[1].0);
        let told = |(t, tasks): (TreatmentIndex, Vec<String>)| {
            let without = if t == one { other } else { one };
            let (name, without) = (name(t), name(without));
            (!tasks.is_empty()).then(|| {
                format!(
                    " Work was timed on {name} alone ({}); on {without} it counts as none.",
                    tasks.join(", ")
                )
            })
        };
        alone.into_iter().filter_map(told).collect()
    }

    /// Whether all that is cut has one price.
    fn one_price(&self) -> bool {
        self.trial
            .plan
            .ask
            .waves
            .as_ref()
            .is_none_or(|w| w.grades.iter().all(|g| g.price_per_kg.is_none()))
    }

    fn sentence(&self, t: TreatmentIndex, own: &Beside, left_out: &[String]) -> String {
        let sheet = &self.trial.plan.sheet;
        let (name, control) = (
            &sheet.treatments[t].name,
            &sheet.treatments[self.control].name,
        );
        let unit = self.trial.plan.rack.kind.unit();
        let said = |x: f64| self.prices.told(x);
        let likely = |a: f64, b: f64| format!("very likely between {} and {}", said(a), said(b));
        let matters = self.trial.plan.ask.margin_money.filter(|m| *m > 0.0);
        let mut words = if own.low > 0.0 {
            let more = match matters {
                Some(m) if own.low > m => {
                    format!("more than the {} you said would matter", said(m))
                }
                Some(m) if own.high < m => format!(
                    "it pays, but less than the {} you said would matter",
                    said(m)
                ),
                _ => "it pays".into(),
            };
            let size = likely(own.low, own.high);
            format!(
                "{} earns {} more a {unit} than {control} after its costs, {size}: {more}.",
                capitalised(name),
                said(own.gain)
            )
        } else if own.high < 0.0 {
            let size = likely(-own.high, -own.low);
            format!(
                "{} earns {} less a {unit} than {control} after its costs, {size}: it does not \
                 pay.",
                capitalised(name),
                said(-own.gain)
            )
        } else {
            format!(
                "Whether {name} pays cannot be told: after its costs it may earn up to {} less or \
                 {} more a {unit} than {control}.",
                said(-own.low),
                said(own.high)
            )
        };
        words += &self.cost_said(own);
        if !left_out.is_empty() {
            words += &format!(
                " Not counted, for want of a price: {}.",
                left_out.join(", ")
            );
        }
        words
    }

    /// What it costs more or less, and what would earn that back.
    fn cost_said(&self, own: &Beside) -> String {
        let unit = self.trial.plan.rack.kind.unit();
        let said = |x: f64| self.prices.told(x);
        let mut words = String::new();
        if own.cost > 0.0 {
            words += &format!(" It costs {} more a {unit}", said(own.cost));
            words += &match (own.pays_from_g, own.pays_from_per_kg) {
                (Some(g), Some(price)) => {
                    format!(
                        ": {} g more earn that back, or a price of {} a kg at what it yielded.",
                        grams(g),
                        said(price)
                    )
                }
                (Some(g), None) => format!(": {} g more would earn that back.", grams(g)),
                _ => ".".into(),
            };
        } else if own.cost < 0.0 {
            words += &format!(" It costs {} less a {unit}.", said(-own.cost));
        }
        words
    }
}

fn grams(g: f64) -> String {
    if g < 10.0 {
        format!("{g:.1}")
    } else {
        format!("{g:.0}")
    }
}

/// What has no price and is not the same for both; the rest does not matter here.
fn unpriced(own: &[Cost], other: &[Cost]) -> Vec<String> {
    let missing = |a: &[Cost], b: &[Cost]| -> Vec<String> {
        let unknown = a.iter().filter(|c| c.cost.is_none());
        let same = |c: &&Cost| {
            !b.iter()
                .any(|o| o.name == c.name && o.kind == c.kind && (o.amount - c.amount).abs() < 1e-9)
        };
        unknown.filter(same).map(|c| c.name.clone()).collect()
    };
    let mut left_out = missing(own, other);
    left_out.extend(missing(other, own));
    left_out.sort();
    left_out.dedup();
    left_out
}
