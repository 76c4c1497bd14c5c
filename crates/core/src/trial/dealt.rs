//! What was dealt a treatment as a whole: the unit in a place, or the level that a lamp, pump or
//! reservoir serves.

use super::Trial;
use super::space::RackDesign;
use crate::catalogue::fixtures::{Fixture, Serves};
use iron_twin_terms::indices::TreatmentIndex;
use std::collections::BTreeMap;

impl Trial {
    /// Whether whole levels were dealt, or set by hand under fixtures that serve them: a level is
    /// then the unit, and what stands on it are its samples.
    #[must_use]
    pub fn is_by_level(&self) -> bool {
        match self.plan.rack.design {
            RackDesign::Fixtures => true,
            RackDesign::ByHand => self.shared_fixture().is_some() && self.levels_hold_one(),
            _ => false,
        }
    }

    /// The fixture through which what differs reaches the plants, where one serves a whole level.
    #[must_use]
    pub fn shared_fixture(&self) -> Option<Fixture> {
        let (fixture, _) = self.plan.sheet.through()?;
        (self.plan.rack.serves.get(&fixture) == Some(&Serves::Level)).then_some(fixture)
    }

    /// Whether units stand, and on no level two treatments.
    #[must_use]
    pub fn levels_hold_one(&self) -> bool {
        let mut held = BTreeMap::new();
        !self.units.is_empty()
            && self
                .units
                .iter()
                .all(|u| *held.entry(u.position.level).or_insert(u.treatment) == u.treatment)
    }

    /// Whether what follows from the deal may be told: figures that depend on which unit has which
    /// treatment would, one by one, give the sealed key away. Who chose the places knows it anyhow.
    #[must_use]
    pub fn tells_deal(&self) -> bool {
        self.reveal.is_some()
            || (self.deal.is_some() && self.plan.rack.design == RackDesign::ByHand)
    }

    /// What was dealt a treatment as a whole, for each treatment, in the order of the sheet: as
    /// dealt, else as planned.
    #[must_use]
    pub fn dealt_numbers(&self) -> Vec<usize> {
        let treatments = self.plan.treatments();
        if !self.is_by_level() {
            return match self.plan.rack.design {
                RackDesign::SplitPlot => self.plan.rack.dealt_numbers(treatments),
                _ => self.numbers(),
            };
        }
        if self.units.is_empty() {
            return self.plan.rack.dealt_numbers(treatments);
        }
        let mut held: BTreeMap<u32, TreatmentIndex> = BTreeMap::new();
        self.units
            .iter()
            .for_each(|u| _ = held.insert(u.position.level, u.treatment));
        self.plan
            .sheet
            .indices()
            .map(|t| held.values().filter(|own| **own == t).count())
            .collect()
    }

    /// The fewest of them that a treatment has.
    #[must_use]
    pub fn dealt_each(&self) -> usize {
        match self.plan.rack.design {
            RackDesign::ByHand if !self.is_by_level() => self.units_each(),
            _ => self.dealt_numbers().into_iter().min().unwrap_or(0),
        }
    }

    /// What was dealt, in the singular and the plural: `tray`, `trays`; `lamp`, `lamps`.
    #[must_use]
    pub fn dealt_words(&self) -> (&'static str, &'static str) {
        let rack = &self.plan.rack;
        let split = rack.design == RackDesign::SplitPlot;
        if !split && !self.is_by_level() {
            return if rack.has_rounds() {
                ("system", "systems")
            } else {
                (rack.kind.unit(), rack.kind.units())
            };
        }
        let fixture = self.plan.sheet.through().map(|(fixture, _)| fixture);
        match self.shared_fixture().or(fixture.filter(|_| split)) {
            Some(fixture) => (fixture.word(), fixture.words()),
            None => (rack.kind.level(), rack.kind.levels()),
        }
    }

    /// The fixture about which nobody said how far it reaches, though what differs comes through
    /// it, one usually serves several places, and there are several on a level.
    #[must_use]
    pub fn unsaid_fixture(&self) -> Option<(Fixture, String)> {
        let rack = &self.plan.rack;
        let by_place = !matches!(
            rack.design,
            RackDesign::Fixtures | RackDesign::SplitPlot | RackDesign::SwapOver
        );
        let (fixture, factor) = self.plan.sheet.through()?;
        let asks = fixture.is_mostly_shared()
            && !rack.serves.contains_key(&fixture)
            && rack.slots > 1
            && by_place;
        asks.then_some((fixture, factor))
    }
}
