//! Which columns of a file hold what.

use super::error::TableError;
use super::file::listed;
use iron_twin_terms::dealing::Dealing;
use iron_twin_terms::kind::Kind;

/// Between the levels of crossed factors in the name of a treatment.
pub(super) const JOINT: &str = " + ";

/// A column with the levels of one of several crossed factors.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct FactorColumn {
    /// The column.
    pub column: String,
    /// The level that the others are compared with.
    pub reference: String,
}

/// Which columns hold what.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Columns {
    /// What kind of measure it is: says which of the columns below are read.
    pub kind: Kind,
    /// What was measured.
    pub measure: String,
    /// What was given.
    pub treatment: String,
    /// The treatment that the others are compared with.
    pub control: String,
    /// Alike units compared with each other.
    pub block: Option<String>,
    /// Rows with the same value are samples of one unit.
    pub unit: Option<String>,
    /// Number of the sample inside its unit. A later sample without a value is passed over: the
    /// measure is of the whole unit and stands with the first, or the sample is gone.
    pub sample: Option<String>,
    /// Starting size.
    pub baseline: Option<String>,
    /// The n of k out of n, for shares.
    pub out_of: Option<String>,
    /// Plants, area or days behind a count; 1 where left out.
    pub exposure: Option<String>,
    /// Days: whether the event was seen on that day.
    pub seen: Option<String>,
    /// Days: last day on which it was not yet seen.
    pub after: Option<String>,
    /// The numeric dose; takes the place of the treatment.
    pub dose: Option<String>,
    /// A second set of blocks that crosses the first.
    pub column: Option<String>,
    /// Crossed factors, two or more. With a treatment column beside them the treatments keep their
    /// own names, else they are named by their levels and the control is the combination of all
    /// references.
    pub factors: Vec<FactorColumn>,
    /// The lamp or pump that decides the first factor for all units that it serves.
    pub fixture: Option<String>,
    /// The starting size that limited the deal.
    pub start: Option<String>,
    /// The day of each row, for growth.
    pub day: Option<String>,
    /// How the units were dealt.
    pub dealing: Dealing,
}

impl Columns {
    /// The column that says how the rows were treated: for doses, the dose itself.
    #[must_use]
    pub fn treated_by(&self) -> &str {
        match (&self.dose, self.kind, self.factors.first()) {
            (Some(dose), Kind::Dose, _) => dose,
            (_, _, Some(factor)) if self.treatment.is_empty() => &factor.column,
            _ => &self.treatment,
        }
    }

    /// The control's name: for crossed factors, every reference level joined.
    #[must_use]
    pub fn control_name(&self) -> String {
        if self.factors.is_empty() || !self.treatment.is_empty() {
            return self.control.trim().to_owned();
        }
        self.factors
            .iter()
            .map(|f| f.reference.trim())
            .collect::<Vec<_>>()
            .join(JOINT)
    }

    /// The column of the n, the exposure or the dose.
    pub(super) fn size(&self) -> Result<Option<&String>, TableError> {
        let missing = |option| TableError::ColumnMissing {
            kind: self.kind.word(),
            option,
        };
        match self.kind {
            Kind::Share => self
                .out_of
                .as_ref()
                .map(Some)
                .ok_or(missing("`out-of` COL: the n of k out of n")),
            Kind::Dose => self
                .dose
                .as_ref()
                .map(Some)
                .ok_or(missing("`dose` COL: the numeric dose")),
            Kind::Count => Ok(self.exposure.as_ref()),
            Kind::Amount | Kind::Days | Kind::Score => Ok(None),
        }
    }
}

/// Where in a row the columns stand.
pub(super) struct Places {
    pub(super) measure: usize,
    /// The column with the treatment's name; None where crossed factors name it.
    pub(super) named: Option<usize>,
    /// One column for each crossed factor; that of the treatment where there are none.
    pub(super) treated: Vec<usize>,
    pub(super) block: Option<usize>,
    pub(super) column: Option<usize>,
    pub(super) fixture: Option<usize>,
    pub(super) start: Option<usize>,
    pub(super) day: Option<usize>,
    pub(super) unit: Option<usize>,
    pub(super) sample: Option<usize>,
    pub(super) baseline: Option<usize>,
    /// The n, the exposure or the dose.
    pub(super) size: Option<usize>,
    pub(super) seen: Option<usize>,
    pub(super) after: Option<usize>,
}

impl Columns {
    /// Columns that only days have: whether it was seen, and the check before.
    fn days(&self) -> (Option<&String>, Option<&String>) {
        if self.kind == Kind::Days {
            (self.seen.as_ref(), self.after.as_ref())
        } else {
            (None, None)
        }
    }
}

/// Finds the columns in the header.
pub(super) fn places(header: &[String], columns: &Columns) -> Result<Places, TableError> {
    for (i, name) in header.iter().enumerate() {
        if header[..i].contains(name) {
            return Err(TableError::DuplicateHeader {
                column: name.clone(),
            });
        }
    }
    let find = |name: &String| {
        header
            .iter()
            .position(|h| h == name.trim())
            .ok_or_else(|| TableError::UnknownColumn {
                column: name.clone(),
                present: listed(header),
            })
    };
    let treated_by = columns.treated_by().to_owned();
    check_roles(columns, &treated_by)?;
    let size = columns.size()?;
    let (seen, after) = columns.days();
    let treated = if columns.factors.is_empty() || columns.kind == Kind::Dose {
        vec![find(&treated_by)?]
    } else {
        columns
            .factors
            .iter()
            .map(|f| find(&f.column))
            .collect::<Result<_, _>>()?
    };
    let named =
        !columns.factors.is_empty() && columns.kind != Kind::Dose && !columns.treatment.is_empty();
    Ok(Places {
        measure: find(&columns.measure)?,
        named: if named {
            Some(find(&columns.treatment)?)
        } else {
            None
        },
        treated,
        block: columns.block.as_ref().map(find).transpose()?,
        column: columns.column.as_ref().map(find).transpose()?,
        fixture: columns.fixture.as_ref().map(find).transpose()?,
        start: columns.start.as_ref().map(find).transpose()?,
        day: columns.day.as_ref().map(find).transpose()?,
        unit: columns.unit.as_ref().map(find).transpose()?,
        sample: columns.sample.as_ref().map(find).transpose()?,
        baseline: columns.baseline.as_ref().map(find).transpose()?,
        size: size.map(find).transpose()?,
        seen: seen.map(find).transpose()?,
        after: after.map(find).transpose()?,
    })
}

/// No column is two things at once.
fn check_roles(columns: &Columns, treated_by: &String) -> Result<(), TableError> {
    let size = columns.size()?;
    let (seen, after) = columns.days();
    let roles = [
        ("the measure", Some(&columns.measure)),
        ("the treatment", Some(treated_by)),
        ("the block", columns.block.as_ref()),
        ("the unit", columns.unit.as_ref()),
        ("the column of the square", columns.column.as_ref()),
        ("the lamp or pump", columns.fixture.as_ref()),
        ("the sample", columns.sample.as_ref()),
        ("the baseline", columns.baseline.as_ref()),
        (
            "what it is taken out of",
            size.filter(|_| columns.kind != Kind::Dose),
        ),
        ("whether it was seen", seen),
        ("the day before", after),
        ("the day of the row", columns.day.as_ref()),
    ];
    for (i, (second, name)) in roles.iter().enumerate() {
        if let Some((first, _)) = roles[..i]
            .iter()
            .find(|(_, other)| other.is_some() && other == name)
        {
            let column = name.map(String::clone).unwrap_or_default();
            return Err(TableError::ColumnTwice {
                column,
                first,
                second,
            });
        }
    }
    Ok(())
}
