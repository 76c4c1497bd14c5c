//! Kinds of control, and what each can and cannot show.

use crate::trial::application::{Application, Role};
use crate::trial::sheet::Sheet;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// What a treatment can be compared as.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub enum ControlKind {
    /// Water and nothing else.
    PlainWater,
    /// The solution of another treatment without its additive.
    FeedOnly,
    /// A feed at its label rate, where others get less or more, or another feed.
    UsualPractice,
    /// All that others get but for one condition that is not in the water: lamp, medium, air.
    UsualSetUp,
}

/// A treatment that others can be compared with.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct ControlSaid {
    /// Index of the treatment.
    pub treatment: TreatmentIndex,
    /// Whether it is the control of the trial.
    pub chosen: bool,
    /// Its kind.
    pub kind: ControlKind,
    /// What comparing with it can show.
    pub shows: &'static str,
    /// What it cannot.
    pub cannot: &'static str,
}

fn said(kind: ControlKind) -> (&'static str, &'static str) {
    match kind {
        ControlKind::PlainWater => (
            "whether giving anything at all pays, and by how much",
            "which part of what was given did it: strength, balance or additive",
        ),
        ControlKind::FeedOnly => (
            "what the additive does on top of the same feed",
            "whether the feed itself does anything",
        ),
        ControlKind::UsualPractice => (
            "whether the new way does better than, or as well as, what the label says",
            "whether feeding pays at all",
        ),
        ControlKind::UsualSetUp => (
            "what the new lamp, medium, air or handling changes",
            "whether the plants were fed enough for it to show",
        ),
    }
}

impl Sheet {
    /// Treatments that can serve as a control, the chosen one first.
    ///
    /// ```
    /// use iron_twin_core::trial::sheet::Sheet;
    /// use iron_twin_core::match_sheet::controls::ControlKind;
    /// assert_eq!(Sheet::usual().controls()[0].kind, ControlKind::PlainWater);
    /// ```
    #[must_use]
    pub fn controls(&self) -> Vec<ControlSaid> {
        let feeds = |t: TreatmentIndex| -> Vec<&Application> {
            self.treatments[t]
                .applications
                .iter()
                .filter(|a| a.role == Role::Feed && !a.is_nothing())
                .collect()
        };
        let fed = |t: TreatmentIndex| self.gets(t, Role::Feed);
        let helped = |t: TreatmentIndex| self.gets(t, Role::Additive);
        let all = self.indices();
        let differs = all.clone().any(|t| feeds(t) != feeds(TreatmentIndex(0)));
        let alike = |a: TreatmentIndex, b: TreatmentIndex| {
            let (a, b) = (feeds(a), feeds(b));
            a.len() == b.len() && a.iter().zip(&b).all(|(x, y)| x.is_also(y))
        };
        let mut list: Vec<ControlSaid> = Vec::new();
        for treatment in all.clone() {
            let chosen = self.treatments[treatment].control;
            let kind = if !fed(treatment)
                && !helped(treatment)
                && all.clone().any(|t| fed(t) || helped(t))
            {
                ControlKind::PlainWater
            } else if !helped(treatment) && all.clone().any(|t| helped(t) && alike(t, treatment)) {
                ControlKind::FeedOnly
            } else if fed(treatment)
                && !helped(treatment)
                && feeds(treatment).iter().all(|a| a.of_label() == Some(1.0))
                && differs
            {
                ControlKind::UsualPractice
            } else if chosen {
                ControlKind::UsualSetUp
            } else {
                continue;
            };
            let (shows, cannot) = said(kind);
            list.push(ControlSaid {
                treatment,
                chosen,
                kind,
                shows,
                cannot,
            });
        }
        list.sort_by_key(|c| !c.chosen);
        list
    }
}
