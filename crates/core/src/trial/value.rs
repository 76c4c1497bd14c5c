//! The trial as one value: its plan, its deal, its records.

use crate::trial::changes::PlanChange;
use crate::trial::deal::{Deal, Unit};
use crate::trial::plan::Plan;
use crate::trial::records::{Records, UnitRecords};
use iron_twin_terms::indices::UnitIndex;
use jiff::Timestamp;
use jiff::civil::Date;
use std::sync::{Arc, LazyLock};

/// The opened key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reveal {
    /// When.
    pub at: Timestamp,
    /// Day of the trial.
    pub day: u32,
    /// Units weighed by then, those written off apart.
    pub weighed: usize,
    /// Why it was opened before the end; empty where it was not.
    pub reason: String,
}

/// All that is known of one trial.
#[derive(Debug, Clone, PartialEq)]
pub struct Trial {
    /// Random id.
    pub id: String,
    /// Grows with every change of the plan.
    pub version: i64,
    /// Grows with every record.
    pub changed: i64,
    /// What was planned. Shared, as the units are, so that taking in one more record does not copy
    /// them.
    pub plan: Arc<Plan>,
    /// Day 0; in a swap-over that of the round it is in.
    pub sown_on: Option<Date>,
    /// The round it is in, from 1; only a swap-over has more than one.
    pub round: u32,
    /// When the first record sealed the plan.
    pub sealed_at: Option<Timestamp>,
    /// The opened key.
    pub reveal: Option<Reveal>,
    /// The deal.
    pub deal: Option<Deal>,
    /// Units, ordered by code; none before the deal.
    pub units: Arc<Vec<Unit>>,
    /// What was recorded.
    pub records: Records,
    /// Changes of the sealed plan.
    pub changes: Vec<PlanChange>,
    /// How often the pouring sheet was opened.
    pub pouring_sheets: usize,
    /// Whether everybody who records may see which codes are filled from one jug.
    pub jugs_given_out: bool,
}

impl Trial {
    /// A trial that was only planned.
    #[must_use]
    pub fn planned(id: impl Into<String>, plan: Plan) -> Self {
        Self {
            id: id.into(),
            version: 1,
            changed: 0,
            plan: Arc::new(plan),
            sown_on: None,
            round: 1,
            sealed_at: None,
            reveal: None,
            deal: None,
            units: Arc::default(),
            records: Records::default(),
            changes: Vec::new(),
            pouring_sheets: 0,
            jugs_given_out: false,
        }
    }

    /// What was recorded of a unit; nothing where it has no records yet.
    #[must_use]
    pub fn of_unit(&self, unit: UnitIndex) -> &UnitRecords {
        static NOTHING: LazyLock<UnitRecords> = LazyLock::new(UnitRecords::default);
        unit.of(&self.records.units)
            .map_or(&NOTHING, |records| records)
    }

    /// Index of the unit with this code, whatever its case.
    #[must_use]
    pub fn unit(&self, code: &str) -> Option<UnitIndex> {
        let code = code.trim();
        // They stand in the order of their codes.
        let exact = self
            .units
            .binary_search_by(|u| u.code.as_str().cmp(code))
            .ok()
            .map(UnitIndex);
        let alike = || {
            self.each_unit()
                .find(|(_, u)| u.code.eq_ignore_ascii_case(code))
                .map(|(unit, _)| unit)
        };
        exact.or_else(alike)
    }

    /// The places of its units, in order.
    pub fn unit_indices(
        &self,
    ) -> impl DoubleEndedIterator<Item = UnitIndex> + ExactSizeIterator + Clone + use<> {
        UnitIndex::all(self.units.len())
    }

    /// Its units with their places, in order.
    pub fn each_unit(&self) -> impl DoubleEndedIterator<Item = (UnitIndex, &Unit)> + Clone {
        self.unit_indices().zip(self.units.iter())
    }

    /// Whether a unit is on the shelf in the round it is in: in a swap-over a unit is a system
    /// during one round.
    #[must_use]
    pub fn is_now(&self, unit: &Unit) -> bool {
        !self.plan.rack.has_rounds() || unit.position.level == self.round
    }
}
