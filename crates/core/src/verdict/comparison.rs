//! The comparison of a trial's treatments, by its own plan and from its own export, so that file
//! and screen agree.

use super::analysis_plan::Design;
use super::design::{analysis_plan, crops_cross, crossed, factor_column, unit_column};
use super::export::csv_of;
use super::gone::is_gone;
use crate::catalogue::measures::{Measure, Source};
use crate::trial::Trial;
use crate::trial::question::Judged;
use crate::trial::records::CropNumber;
use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::{AnalyseError, Question};
use iron_twin_judge::result::{Analysis, DoseOut};
use iron_twin_judge::table::{Columns, Table, TableError, read};
use iron_twin_judge::wording::Wording;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::kind::Kind;

/// Why a trial's treatments cannot be compared.
#[derive(Debug, Clone, PartialEq, thiserror::Error)]
pub enum CompareError {
    /// No treatment is the control.
    #[error("no treatment is the control")]
    NoControl,
    /// Nothing is left to compare with.
    #[error(
        "all units of the control, or of every other treatment, were written off: no figures are \
         left to compare"
    )]
    Gone,
    /// The trial does not record it.
    #[error("this trial does not record {0}")]
    NotRecorded(String),
    /// Its records make no table.
    #[error(transparent)]
    Table(#[from] TableError),
    /// Its table cannot be analysed as asked.
    #[error(transparent)]
    Analyse(#[from] AnalyseError),
}

/// How much is enough, with the command that gives the same from the exported file.
#[derive(Debug, Clone, PartialEq)]
pub struct DoseAnswer {
    /// What was found.
    pub found: DoseOut,
    /// The command.
    pub command: String,
}

/// How sentences name things: what was dealt, and what a figure is of, which is a part of it where
/// samples are taken.
fn wording(trial: &Trial, measure: &Measure) -> Wording {
    let kind = trial.plan.rack.kind;
    let (dealt, several) = if trial.is_by_level() {
        trial.dealt_words()
    } else {
        (kind.unit(), kind.units())
    };
    let by_sample = trial.plan.ask.is_told_by_sample(measure.source);
    // What is cut is so much a tray; a height or a share is none.
    let cut = matches!(
        measure.source,
        Source::Weighing | Source::Value | Source::Pieces
    );
    let each = if !cut {
        ""
    } else if by_sample {
        "plant"
    } else {
        kind.unit()
    };
    Wording {
        // A per cent of a per cent would be two things.
        unit: if measure.unit == "%" {
            "points"
        } else {
            measure.unit
        }
        .into(),
        measure: if measure.source == Source::Weighing {
            String::new()
        } else {
            measure.name.into()
        },
        a_unit: dealt.into(),
        units: several.into(),
        each: each.into(),
        dose: String::new(),
    }
}

/// The analysis of an opened trial. Where crops share a unit: of one of them, or of all with the
/// crop as a factor inside the unit. Every treatment is compared with the control, or with
/// `against`, a benchmark.
///
/// # Errors
/// [`CompareError`].
pub fn analysis(
    trial: &Trial,
    judged: Judged,
    only: Option<CropNumber>,
    against: Option<TreatmentIndex>,
) -> Result<Analysis, CompareError> {
    compare(trial, judged, (only, against), |question| question)
}

/// The same asked otherwise, as at a look before the end.
pub(crate) fn compare(
    trial: &Trial,
    judged: Judged,
    (only, against): (Option<CropNumber>, Option<TreatmentIndex>),
    otherwise: impl FnOnce(Question) -> Question,
) -> Result<Analysis, CompareError> {
    let control = trial.plan.sheet.control().ok_or(CompareError::NoControl)?;
    // What lost all its units has no figure; that it lost them is told beside the others.
    let gone: Vec<TreatmentIndex> = trial
        .plan
        .sheet
        .indices()
        .filter(|t| is_gone(trial, *t))
        .collect();
    if gone.contains(&control) || gone.len() + 1 == trial.plan.treatments() {
        return Err(CompareError::Gone);
    }
    let mut plan = analysis_plan(trial, only);
    // Crossed factors keep their references: there a treatment is a combination.
    let combined = matches!(
        plan.design,
        Design::Factorial { .. } | Design::SplitPlot { .. }
    );
    if let Some(other) = against
        .and_then(|t| trial.plan.sheet.get(t))
        .filter(|_| !combined)
    {
        plan.control = Some(other.name.clone());
    }
    let place = plan
        .measure(&judged.column())
        .ok_or_else(|| CompareError::NotRecorded(judged.column()))?;
    let mut table = read(
        csv_of(trial, only, &[judged], &gone).as_bytes(),
        &plan.columns(place),
    )?;
    name_factors(trial, &mut table);
    let verdicts = only.map_or(1, |_| trial.plan.ask.crops_inside.len().max(1));
    let question = otherwise(Question {
        wording: wording(trial, judged.measure),
        confidence: 1.0 - (1.0 - Question::default().confidence) / verdicts as f64,
        ..plan.question(place)
    });
    match analyse(&table, &question) {
        // Without a margin there is nothing to match; the difference itself is still worth showing.
        Err(AnalyseError::MarginMissing) => Ok(analyse(
            &table,
            &Question {
                goal: Goal::Beat,
                ..question
            },
        )?),
        other => Ok(other?),
    }
}

/// Factors are spoken of by their names, and not by the columns of the export.
fn name_factors(trial: &Trial, table: &mut Table) {
    let own = crossed(trial);
    for factor in &mut table.factors {
        if let Some(own) = own.iter().find(|f| factor_column(&f.name) == factor.name) {
            factor.name.clone_from(&own.name);
        }
    }
}

/// How much is enough, where treatments are a ladder of doses: from the same export, with the
/// command for it. None for other trials, for measures that are no amounts, and before the reveal.
#[must_use]
pub fn dose(trial: &Trial, judged: Judged, only: Option<CropNumber>) -> Option<DoseAnswer> {
    trial.reveal.as_ref()?;
    let ladder = trial
        .plan
        .sheet
        .dose_ladder()
        .filter(|_| judged.measure.kind == Kind::Amount)?;
    let plan = analysis_plan(trial, only);
    let place = plan.measure(&judged.column())?;
    let columns = Columns {
        kind: Kind::Dose,
        measure: judged.column(),
        dose: Some("dose".into()),
        unit: (!trial.plan.rack.has_rounds()).then(|| unit_column(trial).to_owned()),
        block: match &plan.design {
            Design::Blocks { block } => Some(block.clone()),
            _ => None,
        },
        ..Columns::default()
    };
    let table = read(csv_of(trial, only, &[judged], &[]).as_bytes(), &columns).ok()?;
    // A ladder asks how much is enough, whatever was asked of its single doses.
    let wording = Wording {
        dose: ladder.unit.to_owned(),
        ..wording(trial, judged.measure)
    };
    let question = Question {
        goal: Goal::Beat,
        wording,
        ..plan.question(place)
    };
    let found = analyse(&table, &question).ok()?.dose?;
    let better = if question.better == Better::Higher {
        ""
    } else {
        " --better lower"
    };
    let margin = question
        .margin
        .map_or_else(String::new, |m| format!(" --margin {m}"));
    let block = columns
        .block
        .as_ref()
        .map_or_else(String::new, |b| format!(" --block {b}"));
    let command = format!(
        "iron-twin analyse trial.csv --kind dose --measure {} --dose dose{block}{margin}{better}",
        judged.column()
    );
    Some(DoseAnswer { found, command })
}

/// What decides a trial's comparisons: the crop as a factor where crops share a unit and that can
/// be had, else the first.
#[must_use]
pub fn decided_by(trial: &Trial, measure: &Measure) -> Option<CropNumber> {
    let several = !trial.plan.ask.crops_inside.is_empty();
    (several && !(crops_cross(trial) && measure.kind == Kind::Amount))
        .then(|| CropNumber::new(1))
        .flatten()
}
