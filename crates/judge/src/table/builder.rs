//! Rows of a file gathered into a table, each refused, dropped or taken.

mod units;

use super::columns::{Columns, JOINT, Places};
use super::data::{Dropped, Factor, RowExtras, Table};
use super::error::TableError;
use super::file::{Cell, listed, number, unguarded};
use iron_twin_stats::linear::Observation;
use iron_twin_terms::dealing::{BlocksAre, Dealing};
use iron_twin_terms::kind::Kind;
use std::collections::HashMap;

/// Names in order of first appearance.
#[derive(Default)]
struct Names {
    index: HashMap<String, usize>,
    list: Vec<String>,
}

impl Names {
    fn number(&mut self, name: &str) -> usize {
        if let Some(&i) = self.index.get(name) {
            return i;
        }
        self.index.insert(name.to_owned(), self.list.len());
        self.list.push(name.to_owned());
        self.list.len() - 1
    }
}

/// A table as it grows row by row.
pub(super) struct TableBuilder<'a> {
    columns: &'a Columns,
    places: Places,
    rows: usize,
    dropped: Vec<Dropped>,
    treatments: Names,
    /// Levels of each crossed factor.
    levels: Vec<Names>,
    cells: Vec<Vec<usize>>,
    blocks: Names,
    columns_met: Names,
    fixtures: Names,
    /// The level that each lamp or pump decides, as first seen.
    carries: Vec<usize>,
    units: Names,
    /// Where each unit stands, as first seen.
    homes: Vec<Home>,
    /// First dropped row of each treatment.
    lost: HashMap<usize, Dropped>,
    observations: Vec<Observation>,
    beside: Vec<RowExtras>,
}

/// Where a unit stands, as indices.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
struct Home {
    treatment: usize,
    block: usize,
    column: usize,
    fixture: usize,
}

/// The numbers of a row, and what stands beside them.
struct Numbers {
    value: f64,
    baseline: f64,
    beside: RowExtras,
}

impl<'a> TableBuilder<'a> {
    pub(super) fn new(columns: &'a Columns, places: Places) -> Self {
        let mut treatments = Names::default();
        let mut levels: Vec<Names> = Vec::new();
        if columns.kind != Kind::Dose {
            treatments.number(&columns.control_name());
            for factor in &columns.factors {
                levels.push(Names::default());
                levels.last_mut().map(|l| l.number(factor.reference.trim()));
            }
        }
        Self {
            columns,
            places,
            rows: 0,
            dropped: Vec::new(),
            treatments,
            cells: if levels.is_empty() {
                Vec::new()
            } else {
                vec![vec![0; levels.len()]]
            },
            levels,
            blocks: Names::default(),
            columns_met: Names::default(),
            fixtures: Names::default(),
            carries: Vec::new(),
            units: Names::default(),
            homes: Vec::new(),
            lost: HashMap::new(),
            observations: Vec::new(),
            beside: Vec::new(),
        }
    }

    fn drop_row(&mut self, row: usize, treatment: Option<usize>, why: String) {
        let dropped = Dropped { row, why };
        if let Some(treatment) = treatment {
            self.lost
                .entry(treatment)
                .or_insert_with(|| dropped.clone());
        }
        self.dropped.push(dropped);
    }

    pub(super) fn take(
        &mut self,
        row: usize,
        record: &csv::StringRecord,
    ) -> Result<(), TableError> {
        let cell = |i: usize| unguarded(record.get(i).unwrap_or_default().trim());
        if self.places.sample.is_some_and(|i| cell(i) != "1")
            && cell(self.places.measure).is_empty()
        {
            return Ok(());
        }
        self.rows += 1;
        if let Some(empty) = self.places.treated.iter().position(|&i| cell(i).is_empty()) {
            let factor = self.columns.factors.get(empty);
            let column = factor.map_or(self.columns.treated_by(), |f| f.column.as_str());
            let why = format!("{column} is empty");
            self.drop_row(row, None, why);
            return Ok(());
        }
        let levels: Vec<&str> = self.places.treated.iter().map(|&i| cell(i)).collect();
        let treatment = self.treatment(row, self.places.named.map(cell), &levels)?;
        if let Some(role) = self.unlabelled(record) {
            self.drop_row(row, Some(treatment), format!("the {role} is empty"));
            return Ok(());
        }
        let numbers = match self.numbers(row, record)? {
            Ok(numbers) => numbers,
            Err(why) => {
                self.drop_row(row, Some(treatment), why);
                return Ok(());
            }
        };
        let block = self.places.block.map_or(0, |i| self.blocks.number(cell(i)));
        let own = self.places.column;
        let column = own.map_or(0, |i| self.columns_met.number(cell(i)));
        let fixture = match self.places.fixture {
            Some(i) => self.fixture(row, treatment, cell(i))?,
            None => 0,
        };
        let home = Home {
            treatment,
            block,
            column,
            fixture,
        };
        let label = self.label(record);
        let unit = self.unit(row, home, label)?;
        let (value, baseline) = (numbers.value, numbers.baseline);
        self.observations.push(Observation {
            value,
            treatment,
            block,
            column,
            baseline,
            unit,
        });
        self.beside.push(numbers.beside);
        Ok(())
    }

    /// Which label of a row is empty.
    fn unlabelled(&self, record: &csv::StringRecord) -> Option<&'static str> {
        let cell = |i: usize| unguarded(record.get(i).unwrap_or_default().trim());
        let labels = [
            ("block", self.places.block),
            ("unit", self.places.unit),
            ("column", self.places.column),
            ("fixture", self.places.fixture),
        ];
        let empty = |(_, place): &(&str, Option<usize>)| place.is_some_and(|i| cell(i).is_empty());
        labels.into_iter().find(empty).map(|(role, _)| role)
    }

    /// Number of the treatment with this name, or with these levels of the crossed factors.
    fn treatment(
        &mut self,
        row: usize,
        own: Option<&str>,
        names: &[&str],
    ) -> Result<usize, TableError> {
        if self.levels.is_empty() {
            return Ok(self.treatments.number(names[0]));
        }
        let joined = names.join(JOINT);
        let treatment = self.treatments.number(own.unwrap_or(&joined));
        let cell: Vec<usize> = self
            .levels
            .iter_mut()
            .zip(names)
            .map(|(levels, name)| levels.number(name))
            .collect();
        if treatment == self.cells.len() {
            self.cells.push(cell);
        } else if self.cells[treatment] != cell {
            let first: Vec<&str> = self
                .levels
                .iter()
                .zip(&self.cells[treatment])
                .map(|(l, &i)| l.list[i].as_str())
                .collect();
            return Err(TableError::LevelsChange {
                row,
                treatment: self.treatments.list[treatment].clone(),
                first: first.join(JOINT),
                second: joined,
            });
        }
        Ok(treatment)
    }

    /// Number of the lamp or pump, which must carry one level of the first factor.
    fn fixture(&mut self, row: usize, treatment: usize, label: &str) -> Result<usize, TableError> {
        let fixture = self.fixtures.number(label);
        let level = self
            .cells
            .get(treatment)
            .and_then(|c| c.first())
            .copied()
            .unwrap_or(treatment);
        if fixture == self.carries.len() {
            self.carries.push(level);
        }
        let first = self.carries[fixture];
        if first == level {
            return Ok(fixture);
        }
        let name = |level: usize| {
            self.levels
                .first()
                .map_or(String::new(), |l| l.list[level].clone())
        };
        Err(TableError::FixtureTwice {
            row,
            fixture: label.to_owned(),
            first: name(first),
            second: name(level),
        })
    }

    /// The numbers of a row; the inner error says why the row cannot be used, the outer why the
    /// file cannot.
    fn numbers(
        &self,
        row: usize,
        record: &csv::StringRecord,
    ) -> Result<Result<Numbers, String>, TableError> {
        let columns = self.columns;
        let text = |place: usize| record.get(place).unwrap_or_default().trim();
        let mut unusable = None;
        let mut read = |place: Option<usize>, column: Option<&String>, usual: f64| {
            let (Some(place), Some(column)) = (place, column) else {
                return Ok(usual);
            };
            match read_number(row, column, text(place))? {
                Ok(value) => Ok(value),
                Err(why) => {
                    unusable.get_or_insert(why);
                    Ok(usual)
                }
            }
        };
        let value = read(Some(self.places.measure), Some(&columns.measure), 0.0)?;
        let baseline = read(self.places.baseline, columns.baseline.as_ref(), 0.0)?;
        let start = read(self.places.start, columns.start.as_ref(), 0.0)?;
        let day = read(self.places.day, columns.day.as_ref(), 0.0)?;
        let size_column = columns.size()?;
        let size = read(self.places.size, size_column, 1.0)?;
        let after = match self.places.after.filter(|&i| !text(i).is_empty()) {
            Some(place) => Some(read(Some(place), columns.after.as_ref(), 0.0)?),
            None => None,
        };
        let seen = self.places.seen.map_or(Ok(true), |i| yes_or_no(text(i)));
        let seen = seen.unwrap_or_else(|said| {
            let column = columns.seen.as_deref().unwrap_or_default();
            unusable.get_or_insert_with(|| format!("{column} is neither yes nor no: '{said}'"));
            true
        });
        if let Some(why) = unusable {
            return Ok(Err(why));
        }
        let beside = RowExtras {
            size,
            seen,
            after,
            start,
            day,
        };
        let typed = (text(self.places.measure), self.places.size.map(text));
        let wrong = self.check_kind(row, value, &beside, typed)?;
        let numbers = Numbers {
            value,
            baseline,
            beside,
        };
        Ok(wrong.map_or(Ok(numbers), Err))
    }

    /// What the kind of measure asks of a row. Some with the reason where the row alone is left
    /// out.
    fn check_kind(
        &self,
        row: usize,
        value: f64,
        beside: &RowExtras,
        (value_text, size_text): (&str, Option<&str>),
    ) -> Result<Option<String>, TableError> {
        let columns = self.columns;
        let column = columns.measure.clone();
        let size_column = columns.size()?.cloned().unwrap_or_default();
        let below = |column: &str, text: &str| TableError::BelowZero {
            row,
            column: column.into(),
            text: text.into(),
        };
        let not_whole = |v: f64| v < 0.0 || v.fract() != 0.0;
        match columns.kind {
            Kind::Count | Kind::Share if not_whole(value) => Err(TableError::NotACount {
                row,
                column,
                text: value_text.into(),
            }),
            Kind::Share if not_whole(beside.size) => {
                let text = size_text.unwrap_or_default().into();
                Err(TableError::NotACount {
                    row,
                    column: size_column,
                    text,
                })
            }
            Kind::Share if value > beside.size => Err(TableError::MoreThanAll {
                row,
                k: value,
                n: beside.size,
                column,
                out_of: size_column,
            }),
            Kind::Share if beside.size == 0.0 => {
                Ok(Some(format!("{size_column} is 0: nothing was looked at")))
            }
            Kind::Count if beside.size < 0.0 => {
                Err(below(&size_column, size_text.unwrap_or_default()))
            }
            Kind::Count if beside.size == 0.0 => Ok(Some(format!(
                "{size_column} is 0: there was nothing to count on"
            ))),
            Kind::Dose if beside.size < 0.0 => {
                Err(below(&size_column, size_text.unwrap_or_default()))
            }
            Kind::Days if value < 0.0 => Err(below(&column, value_text)),
            Kind::Days => check_days(row, value, beside).map(|()| None),
            _ => Ok(None),
        }
    }

    /// How the units were dealt; where nobody said what the blocks are, the name of their column
    /// may.
    fn dealing(&self) -> Dealing {
        let named = || {
            self.columns
                .block
                .as_deref()
                .map_or(BlocksAre::Unsaid, BlocksAre::named)
        };
        let said = Some(self.columns.dealing.blocks).filter(|b| *b != BlocksAre::Unsaid);
        Dealing {
            blocks: said.unwrap_or_else(named),
            ..self.columns.dealing
        }
    }

    pub(super) fn finish(self) -> Result<Table, TableError> {
        if self.rows == 0 {
            return Err(TableError::Empty);
        }
        self.check_treatments()?;
        self.check_levels()?;
        let dealing = self.dealing();
        Ok(Table {
            kind: self.columns.kind,
            rows: self.rows,
            dropped: self.dropped,
            treatments: self.treatments.list,
            blocks: self.blocks.list,
            columns: self.columns_met.list,
            factors: (self.columns.factors.iter().zip(self.levels))
                .map(|(factor, levels)| Factor {
                    name: factor.column.clone(),
                    levels: levels.list,
                })
                .collect(),
            cells: self.cells,
            fixtures: match self.places.fixture {
                Some(_) => self.homes.iter().map(|h| h.fixture).collect(),
                None => Vec::new(),
            },
            dealing,
            units: self.units.list,
            has_units: self.columns.unit.is_some(),
            has_days: self.columns.day.is_some(),
            has_baseline: self.columns.baseline.is_some(),
            has_after: self.places.after.is_some(),
            observations: self.observations,
            beside: self.beside,
        })
    }

    /// Every treatment that is named has figures, the control among them.
    fn check_treatments(&self) -> Result<(), TableError> {
        let column = self.columns.treated_by().to_owned();
        let mut seen = vec![false; self.treatments.list.len()];
        self.observations
            .iter()
            .for_each(|o| seen[o.treatment] = true);
        let named_control = seen.first() == Some(&true) || self.lost.contains_key(&0);
        if !named_control && self.columns.kind != Kind::Dose {
            let present = listed(&self.treatments.list[1..]);
            return Err(TableError::ControlNotFound {
                column,
                control: self.columns.control_name(),
                present,
            });
        }
        if self.observations.is_empty() {
            return Err(TableError::NoNumbers {
                column: self.columns.measure.clone(),
            });
        }
        if self.treatments.list.len() < 2 {
            return Err(TableError::OneTreatment {
                column,
                only: self.treatments.list[0].clone(),
            });
        }
        if let Some(gone) = seen
            .iter()
            .position(|s| !s)
            .filter(|_| self.columns.kind != Kind::Dose)
        {
            let treatment = self.treatments.list[gone].clone();
            let first = self.lost.get(&gone).cloned().unwrap_or(Dropped {
                row: 0,
                why: String::new(),
            });
            return Err(TableError::TreatmentLost {
                treatment,
                row: first.row,
                why: first.why,
            });
        }
        Ok(())
    }

    /// Every factor has two levels at least.
    fn check_levels(&self) -> Result<(), TableError> {
        if let Some((factor, met)) = self
            .columns
            .factors
            .iter()
            .zip(&self.levels)
            .find(|(_, met)| met.list.len() < 2)
        {
            let level = met.list.first().cloned().unwrap_or_default();
            return Err(TableError::OneLevel {
                factor: factor.column.clone(),
                level,
            });
        }
        Ok(())
    }
}

/// Yes or no, as it is typed; what stands there where it is neither.
fn yes_or_no(text: &str) -> Result<bool, &str> {
    match text.to_lowercase().as_str() {
        "yes" | "true" | "1" => Ok(true),
        "no" | "false" | "0" => Ok(false),
        _ => Err(text),
    }
}

/// A number of a row; the inner error says why the row cannot be used, the outer why the file
/// cannot.
fn read_number(row: usize, column: &str, text: &str) -> Result<Result<f64, String>, TableError> {
    match number(text) {
        Cell::Number(v) => Ok(Ok(v)),
        Cell::Absurd => Err(TableError::AbsurdValue {
            row,
            column: column.to_owned(),
            text: text.to_owned(),
        }),
        Cell::NotANumber if text.is_empty() => Ok(Err(format!("{column} is empty"))),
        Cell::NotANumber => Ok(Err(format!("{column} is not a number: '{text}'"))),
    }
}

/// What was seen was not seen before the check that came before.
fn check_days(row: usize, day: f64, beside: &RowExtras) -> Result<(), TableError> {
    match beside.after {
        Some(after) if beside.seen && after > day => {
            Err(TableError::SeenBefore { row, after, day })
        }
        _ => Ok(()),
    }
}
