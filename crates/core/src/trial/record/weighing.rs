//! The weight of a unit at its harvest, or of one of its crops or samples.

use super::head::Head;
use super::kind::{Desk, Heading, Record};
use super::refusal::{Of, Refusal};
use crate::trial::Trial;
use crate::trial::records::{CropNumber, Kept, Recorded, SampleNumber, UnitRecords};
use iron_twin_stats::spread::median;
use iron_twin_terms::indices::UnitIndex;
use serde::{Deserialize, Serialize};

/// The weight of a unit at its harvest, or of one of its crops or samples.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(deny_unknown_fields)]
pub struct Weighing {
    /// Container and all, g.
    pub gross_g: f64,
    /// Container alone, g.
    pub tare_g: f64,
    /// In which order the units came; null where nobody said.
    #[serde(default)]
    pub turn: Option<Turn>,
}

/// In which order units come.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[serde(rename_all = "snake_case")]
pub enum Turn {
    /// By chance.
    #[default]
    Shuffled,
    /// As one walks past them.
    Walking,
    /// Taken out of turn.
    Chosen,
}

/// More than this on a shelf-top scale is a slip, g.
pub const MOST_G: f64 = 50_000.0;
/// A weight beyond this factor from the middle of its siblings is asked about.
pub const ASKED_FACTOR: f64 = 1.7;

/// Why a weight is refused.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum WeighError {
    /// Not a weight.
    #[error("the {which} weight must lie between 0 and {MOST_G} g, got {got}")]
    OutOfRange {
        /// `gross` or `tare`.
        which: &'static str,
        /// What came.
        got: f64,
    },
    /// Container heavier than container and greens.
    #[error("the tray alone ({tare_g} g) cannot weigh more than tray and greens ({gross_g} g)")]
    TareAboveGross {
        /// Gross, g.
        gross_g: f64,
        /// Tare, g.
        tare_g: f64,
    },
}

/// What was harvested, g, to the milligram so that decimals come out as the scale showed them.
///
/// # Errors
/// [`WeighError`], naming the weight.
///
/// ```
/// use iron_twin_core::trial::record::weighing::net_g;
/// assert_eq!(net_g(412.6, 288.0).unwrap(), 124.6);
/// ```
pub fn net_g(gross_g: f64, tare_g: f64) -> Result<f64, WeighError> {
    for (which, got) in [("gross", gross_g), ("tare", tare_g)] {
        if !(0.0..=MOST_G).contains(&got) {
            return Err(WeighError::OutOfRange { which, got });
        }
    }
    if tare_g > gross_g {
        return Err(WeighError::TareAboveGross { gross_g, tare_g });
    }
    Ok(to_milligram(gross_g - tare_g))
}

/// To the milligram.
pub(super) fn to_milligram(g: f64) -> f64 {
    (g * 1000.0).round() / 1000.0
}

impl Weighing {
    /// What was harvested, g: that of a weight that was taken in.
    #[must_use]
    pub fn net_g(&self) -> f64 {
        to_milligram(self.gross_g - self.tare_g)
    }
}

/// A question about a weight that stands far from its siblings; None where it looks alike or there
/// are too few.
#[must_use]
pub fn question(net_g: f64, siblings_g: &[f64]) -> Option<String> {
    if siblings_g.len() < 3 {
        return None;
    }
    let middle = median(siblings_g);
    let unlike = middle > 0.0 && !(middle / ASKED_FACTOR..=middle * ASKED_FACTOR).contains(&net_g);
    let asks = match net_g / middle {
        times if (8.0..=12.0).contains(&times) => "It is ten times as much: a decimal point?",
        times if (1.0 / 12.0..=1.0 / 8.0).contains(&times) => {
            "It is a tenth of them: a decimal point?"
        }
        _ => "Is it right?",
    };
    unlike.then(|| {
        format!("{net_g:.1} g is far from the others, which lie around {middle:.1} g. {asks}")
    })
}

impl Kept for Weighing {
    const KIND: &'static str = "weighing";
    const BY_UNIT: bool = true;

    // The last that was taken comes last, whatever the day.
    fn order(own: &Recorded<Self>) -> (u32, jiff::Timestamp) {
        (0, own.head.at)
    }
}

impl UnitRecords {
    /// Weighings in the order in which they were taken.
    #[must_use]
    pub fn weighings(&self) -> &[Recorded<Weighing>] {
        self.own.of()
    }

    /// The weight of one crop or sample, or of the unit as a whole.
    #[must_use]
    pub fn weighed(
        &self,
        crop: Option<CropNumber>,
        sample: Option<SampleNumber>,
    ) -> Option<&Recorded<Weighing>> {
        self.weighings()
            .iter()
            .find(|w| (w.head.crop, w.head.sample) == (crop, sample))
    }
}

/// Refuses the weight of a part that is not weighed by itself.
fn check_part(trial: &Trial, head: &Head) -> Result<(), Refusal> {
    let ask = &trial.plan.ask;
    if !ask.parts().any(|crop| crop == head.crop) {
        return Err(Refusal::wrong(
            "crop",
            "name the crop that is weighed, one of those that share the unit",
        ));
    }
    if ask
        .weighed_parts()
        .any(|part| part == (head.crop, head.sample))
    {
        return Ok(());
    }
    let why = if ask.weigh_samples {
        format!(
            "every plant is weighed by itself; say which of the {}",
            ask.samples_inside
        )
    } else {
        "the harvest is weighed as a whole, not plant by plant".to_owned()
    };
    Err(Refusal::wrong("sample", why))
}

impl Weighing {
    /// What is asked about is asked in one: a weight unlike its siblings, and one's own second
    /// weight of the same, which is no quarrel with anybody.
    fn asked(&self, desk: &Desk<'_>, unit: UnitIndex) -> Option<String> {
        let (trial, head, net) = (desk.trial, desk.head, self.net_g());
        let own = |other: UnitIndex, w: &Recorded<Weighing>| {
            other == unit && w.head.sample == head.sample
        };
        let all = trial.unit_indices().flat_map(|other| {
            trial
                .of_unit(other)
                .weighings()
                .iter()
                .map(move |w| (other, w))
        });
        let siblings: Vec<f64> = all
            .filter(|(other, w)| w.head.crop == head.crop && !own(*other, w))
            .map(|(_, w)| w.net_g())
            .collect();
        let stored = trial.of_unit(unit).weighed(head.crop, head.sample);
        let mine = stored.filter(|w| w.head.version != head.version && w.head.who == head.who);
        let second = mine.map(|w| {
            format!(
                "{} has {} g from you already. Put {net} g in its place?",
                desk.code(),
                w.net_g()
            )
        });
        let asked: Vec<String> = question(net, &siblings).into_iter().chain(second).collect();
        (!asked.is_empty()).then(|| asked.join(" "))
    }
}

impl Record for Weighing {
    const OF: Of = Of::Part;
    const HEADING: Heading = Heading::Weights;

    fn place(&self, _: &Head) -> Option<String> {
        Some(String::new())
    }

    fn admit(&mut self, desk: &Desk<'_>) -> Result<(), Refusal> {
        let (trial, head, unit) = (desk.trial, desk.head, desk.unit()?);
        if trial.units[unit].lost.is_some() {
            return Err(Refusal::locked(
                "this tray was written off; take that back first",
            ));
        }
        check_part(trial, head)?;
        desk.check_sample_stands()?;
        net_g(self.gross_g, self.tare_g).map_err(|e| Refusal::wrong("gross_g", e))?;
        if let Some(asked) = self.asked(desk, unit) {
            desk.ask(asked)?;
        }
        // One's own is no quarrel: it was asked about, and confirmed.
        if desk.stands.is_some_and(|s| *s.who == *head.who) {
            return Ok(());
        }
        let stored = trial.of_unit(unit).weighed(head.crop, head.sample);
        let stored = stored.map_or_else(|| "taken back".to_owned(), |w| format!("{} g", w.net_g()));
        desk.check_version(
            format!("the weight of {}", desk.code()),
            stored,
            format!("{} g", self.net_g()),
        )
    }

    fn told(&self, trial: &Trial, head: &Head) -> String {
        let of = trial
            .plan
            .ask
            .crop_inside(head.crop)
            .map_or_else(String::new, |crop| format!(", {crop}"));
        let plant = head
            .sample
            .map_or_else(String::new, |n| format!(", plant {}", n.get()));
        format!(
            "weighed {}{of}{plant}: {} g",
            head.code(trial),
            self.net_g()
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn impossible_weights_are_refused() {
        let net = |gross_g, tare_g| net_g(gross_g, tare_g);
        assert_eq!(net(100.0, 40.0), Ok(60.0));
        assert_eq!(net(40.0, 40.0), Ok(0.0));
        assert!(matches!(
            net(30.0, 40.0),
            Err(WeighError::TareAboveGross { .. })
        ));
        assert!(matches!(
            net(f64::NAN, 0.0),
            Err(WeighError::OutOfRange { which: "gross", .. })
        ));
        assert!(matches!(
            net(10.0, -1.0),
            Err(WeighError::OutOfRange { which: "tare", .. })
        ));
        assert!(matches!(
            net(1e9, 1.0),
            Err(WeighError::OutOfRange { which: "gross", .. })
        ));
    }

    #[test]
    fn unlike_weights_are_asked_about() {
        let siblings = [97.0, 118.0, 131.0, 105.0];
        assert!(question(110.0, &siblings).is_none());
        assert!(question(12.4, &siblings).is_some());
        assert!(question(12.4, &siblings[..2]).is_none());
        let asked = |g| question(g, &siblings).unwrap_or_default();
        assert_eq!(
            asked(1120.0),
            "1120.0 g is far from the others, which lie around 111.5 g. It is ten times as much: \
             a decimal point?"
        );
        assert!(
            asked(11.2).ends_with("It is a tenth of them: a decimal point?")
                && asked(300.0).ends_with("Is it right?")
        );
    }
}
