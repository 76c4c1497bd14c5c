//! Writing what is cut or picked before one harvest at the end, or in its place.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append, row};
use crate::standing::{check_open, check_round, check_stands, unit};
use crate::store::{Stamp, Store};
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::terms::indices::UnitIndex;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::records::{CropNumber, PickRecord, SampleNumber};
use iron_twin_core::trial::waves::MOST_PIECES;
use iron_twin_core::weigh::{Weighing, question};
use jiff::Timestamp;

/// A pick as it is recorded.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct NewPick {
    /// Code of the unit.
    pub code: String,
    /// Crop inside the unit; None for the unit as a whole.
    pub crop: Option<CropNumber>,
    /// Sample inside the unit, where they are weighed one by one; None for the unit as a whole.
    pub sample: Option<SampleNumber>,
    /// Gross, g.
    pub gross_g: f64,
    /// Tare, g.
    pub tare_g: f64,
    /// Pieces; None where they were not counted.
    pub pieces: Option<u32>,
    /// Grade; empty where it was not sorted.
    pub grade: String,
    /// Whether it was taken outside a wave, as for the kitchen.
    pub aside: bool,
    /// Days since sowing.
    pub day: u32,
    /// Whether what is unlikely was confirmed.
    pub confirmed: bool,
    /// When it was done; None for now.
    pub at: Option<Timestamp>,
    /// What it was weighed with; None where nobody said.
    pub instrument: Option<String>,
}

/// What is asked about before it is taken: a second one of the same grade on that day, a weight far from its siblings'.
fn asked(trial: &Trial, unit: UnitIndex, new: &NewPick, net_g: f64) -> Option<String> {
    let same = |p: &&PickRecord| {
        p.head.day == new.day && p.grade == new.grade && p.head.sample == new.sample && p.aside == new.aside
    };
    if let Some(before) = trial.picks_of(unit, new.crop).find(same) {
        let of = if new.grade.is_empty() { String::new() } else { format!(" of {}", new.grade) };
        return Some(format!("{} g{of} stand there for {} on this day already. Is this more?", before.net_g, new.code));
    }
    // Pieces that are much lighter or heavier than all of its grade so far.
    let piece_g = |net_g: f64, pieces: Option<u32>| pieces.filter(|n| *n > 0).map(|n| net_g / f64::from(n));
    let alike = trial.records.picks.iter().filter(|p| p.head.crop == new.crop && p.grade == new.grade);
    let siblings: Vec<f64> = alike.filter_map(|p| piece_g(p.net_g, p.pieces)).collect();
    let own = piece_g(net_g, new.pieces)?;
    question(own, &siblings).map(|said| format!("By the piece, {}: {said}", new.code))
}

/// Refuses what cannot be.
fn check(t: &Tx<'_>, loaded: &Loaded, new: &NewPick) -> Result<(UnitIndex, f64)> {
    let trial = &loaded.trial;
    check_open(trial)?;
    if trial.sown_on.is_none() {
        return Err(StoreError::Locked("sow first: there is nothing to pick yet"));
    }
    let unit = unit(trial, &new.code)?;
    check_round(trial, unit)?;
    if trial.units[unit].lost.is_some() {
        return Err(StoreError::Locked("this unit was written off; take that back first"));
    }
    if !trial.plan.ask.weighed_parts().any(|part| part == (new.crop, new.sample)) {
        return Err(StoreError::refused(
            "crop",
            "name what is picked as it is weighed: the crop, the plant, or the whole",
        ));
    }
    check_stands(t, loaded, unit, new.sample, new.day)?;
    let waves = trial.plan.ask.waves.as_ref();
    if !new.aside && waves.is_none() {
        return Err(StoreError::refused(
            "aside",
            "this trial has one harvest at the end: what is taken before is taken aside, or say at Ask that it is harvested in waves",
        ));
    }
    if !new.grade.is_empty() && !waves.is_some_and(|w| w.grades.iter().any(|g| g.name == new.grade)) {
        return Err(StoreError::refused("grade", format!("the plan has no grade '{}'", new.grade)));
    }
    if new.pieces.is_some_and(|n| n > MOST_PIECES) {
        return Err(StoreError::refused("pieces", format!("at most {MOST_PIECES} pieces at once")));
    }
    let net_g =
        Weighing { gross_g: new.gross_g, tare_g: new.tare_g }.net_g().map_err(|e| StoreError::refused("gross_g", e))?;
    if net_g == 0.0 && new.pieces.is_some_and(|n| n > 0) {
        return Err(StoreError::refused("gross_g", "pieces that weigh nothing: weigh them, or leave the number empty"));
    }
    match asked(trial, unit, new, net_g) {
        Some(message) if !new.confirmed => Err(StoreError::Unlikely { message }),
        _ => Ok((unit, net_g)),
    }
}

impl Store {
    /// Records what was picked of a unit.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for what cannot be, [`StoreError::Unlikely`] for what must be confirmed,
    /// [`StoreError::NotFound`], [`StoreError::Locked`].
    pub fn record_pick(&self, stamp: &Stamp, id: &str, new: &NewPick) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let (unit, net_g) = check(t, &loaded, new)?;
            t.seal(stamp, &loaded)?;
            insert(t, stamp, &loaded, new, (unit, net_g))
        })
    }
}

fn insert(t: &Tx<'_>, stamp: &Stamp, loaded: &Loaded, new: &NewPick, (unit, net_g): (UnitIndex, f64)) -> Result<()> {
    let trial = &loaded.trial;
    t.execute(
        "INSERT INTO pick (trial_no, unit_no, crop, sample, gross_g, tare_g, net_g, pieces, grade, aside, day, round, at_us,
                           entered_at_us, who, instrument, changed)
         VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8, ?9, ?10, ?11, ?12, ?13, ?14, ?15, ?16, ?17)",
        rusqlite::params![
            loaded.no,
            loaded.units[unit],
            new.crop.map_or(0, CropNumber::get),
            new.sample.map_or(0, SampleNumber::get),
            new.gross_g,
            new.tare_g,
            net_g,
            new.pieces,
            &new.grade,
            new.aside,
            new.day,
            trial.round,
            new.at.unwrap_or(stamp.now).as_microsecond(),
            stamp.now.as_microsecond(),
            &stamp.who,
            &new.instrument,
            t.count_record(loaded)?,
        ],
    )?;
    let no = t.last_insert_rowid();
    let after = row(t, "pick", no)?;
    let pieces = new.pieces.map_or_else(String::new, |n| format!(", {n} pieces"));
    let grade = if new.grade.is_empty() { String::new() } else { format!(" {}", new.grade) };
    let action = match (net_g == 0.0, new.aside) {
        (true, _) => format!("nothing ripe on {}", new.code),
        (_, true) => format!("taken aside from {}: {net_g} g{pieces}", new.code),
        _ => format!("picked from {}: {net_g} g{grade}{pieces}", new.code),
    };
    let entry = Entry { trial: &trial.id, action: &action, entity: "pick", id: &no.to_string(), before: None, after };
    append(t, stamp, entry)
}
