//! Which unit a row is of, and that a unit stands in one place.

use super::super::error::TableError;
use super::super::file::unguarded;
use super::{Home, TableBuilder};

impl TableBuilder<'_> {
    /// What a unit is called; in a swap-over it is a system during one round.
    pub(super) fn label(&self, record: &csv::StringRecord) -> Option<String> {
        let cell = |i: usize| unguarded(record.get(i).unwrap_or_default().trim());
        match (
            self.columns.dealing.is_swap_over(),
            self.places.block,
            self.places.column,
        ) {
            (true, Some(system), Some(round)) => {
                Some(format!("{} in {}", cell(system), cell(round)))
            }
            _ => self.places.unit.map(|i| cell(i).to_owned()),
        }
    }

    /// Where the label above stands, or begins.
    fn label_column(&self) -> Option<&str> {
        let named = self.columns.unit.as_deref();
        let system = self.columns.block.as_deref();
        system
            .filter(|_| self.columns.dealing.is_swap_over())
            .or(named)
    }

    /// Number of a unit; one that is met again must stand where it stood.
    pub(super) fn unit(
        &mut self,
        row: usize,
        home: Home,
        label: Option<String>,
    ) -> Result<usize, TableError> {
        let unit = self
            .units
            .number(&label.unwrap_or_else(|| format!("row {row}")));
        if unit == self.homes.len() {
            self.homes.push(home);
            return Ok(unit);
        }
        let first = self.homes[unit];
        let roles = [
            (
                "treatment",
                &self.treatments,
                first.treatment,
                home.treatment,
            ),
            ("block", &self.blocks, first.block, home.block),
            ("column", &self.columns_met, first.column, home.column),
            ("fixture", &self.fixtures, first.fixture, home.fixture),
        ];
        match roles
            .into_iter()
            .find(|(_, _, first, second)| first != second)
        {
            None => Ok(unit),
            Some((role, names, first, second)) => Err(TableError::UnitTwice {
                row,
                column: self.label_column().unwrap_or_default().to_owned(),
                unit: self.units.list[unit].clone(),
                role,
                first: names.list[first].clone(),
                second: names.list[second].clone(),
            }),
        }
    }
}
