//! A trial: its plan, and the immutable picture of all that is known of it.

use crate::history::{Entry, append};
use crate::{Result, Stamp, Store, StoreError, new_id};
use iron_twin_core::catalogue::conditions;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::readings::is_of_solution;
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::mix::record::{GapWhy, Portioned};
use iron_twin_core::mix::uptake::TankDay;
use iron_twin_core::quantity::FeedForm;
use iron_twin_core::quantity::Margin;
use iron_twin_core::terms::goal::{Better, Goal};
use iron_twin_core::trial::care::{CarePlan, MovedJob, TreatmentDays};
use iron_twin_core::trial::feed::FeedPlan;
use iron_twin_core::trial::question::{Ask, Seeks};
use iron_twin_core::trial::sheet::{Basis, CareRule, Sheet, SheetTreatment};
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::site::SlotLight;
use iron_twin_core::trial::space::{Position, Rack, RackDesign};
use iron_twin_core::trial::starts::SlotStart;
use rusqlite::{OptionalExtension, Row, Transaction};
use serde::{Serialize, de::DeserializeOwned};
use serde_json::{Value, json};
use std::collections::BTreeMap;

/// A dealt unit.
#[derive(Debug, Clone, PartialEq)]
pub struct Unit {
    /// Random id.
    pub id: String,
    /// Blind code.
    pub code: String,
    /// Where it stands.
    pub position: Position,
    /// Index of its treatment in the sheet. Secret until the reveal.
    pub treatment: usize,
    /// Why it was written off.
    pub lost: Option<String>,
}

/// The sealed deal. Secret until the reveal, but for the commitment.
#[derive(Debug, Clone, PartialEq)]
pub struct Deal {
    /// Seed of the deal.
    pub seed: u64,
    /// Nonce of the commitment.
    pub nonce: [u8; 32],
    /// The commitment, shown from the start.
    pub commitment: String,
    /// When it was dealt.
    pub dealt_at: String,
}

/// A reading as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct ReadingRow {
    /// Index into [`Trial::units`].
    pub unit: usize,
    /// Key of the reading.
    pub reading: String,
    /// Crop inside the unit, from 1; 0 for the unit as a whole.
    pub part: usize,
    /// Days since sowing.
    pub day: u32,
    /// The value; None when marked missing.
    pub value: Option<f64>,
    /// Version of the row.
    pub version: i64,
}

/// A weighing as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct WeighingRow {
    /// Index into [`Trial::units`].
    pub unit: usize,
    /// Crop inside the unit, from 1; 0 for the unit as a whole.
    pub part: usize,
    /// Gross, g.
    pub gross_g: f64,
    /// Tare, g.
    pub tare_g: f64,
    /// Net, g.
    pub net_g: f64,
    /// Days since sowing.
    pub day: u32,
    /// When.
    pub at: String,
    /// Version of the row.
    pub version: i64,
}

/// A note as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct NoteRow {
    /// Index into [`Trial::units`]; None for the whole trial.
    pub unit: Option<usize>,
    /// Days since sowing, or since the round began.
    pub day: u32,
    /// The round in which it was written.
    pub round: u32,
    /// What was noted.
    pub text: String,
}

/// A recorded mix.
#[derive(Debug, Clone, PartialEq)]
pub struct MixRow {
    /// Index of the treatment in the sheet.
    pub treatment: usize,
    /// Litres made.
    pub volume_l: f64,
    /// mL or g of feed.
    pub feed_total: f64,
    /// Measured EC, mS/cm at 25 °C.
    pub ec_ms_per_cm: Option<f64>,
    /// Measured pH.
    pub ph: Option<f64>,
    /// Days since sowing.
    pub day: u32,
    /// When.
    pub at: String,
    /// Batch, as the grower counts them.
    pub batch: String,
    /// Temperature of the solution, °C.
    pub temperature_c: Option<f64>,
    /// What the recipe gave then, mS/cm at 25 °C.
    pub computed_ec_ms_per_cm: Option<f64>,
    /// Why meter and computation parted.
    pub gap_why: Option<GapWhy>,
    /// What was found, in own words.
    pub gap_note: String,
    /// What went in.
    pub portions: Vec<Portioned>,
}

/// A change of the sealed plan.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct PlanChange {
    /// When.
    pub at: String,
    /// Which field.
    pub field: String,
    /// What it was.
    pub before: String,
    /// What it became.
    pub after: String,
    /// Why.
    pub reason: String,
}

/// The opened key.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Reveal {
    /// When.
    pub at: String,
    /// Day of the trial.
    pub day: u32,
    /// Units weighed by then.
    pub weighed: usize,
}

/// All that is known of one trial, read in one transaction.
#[derive(Debug, Clone, PartialEq)]
pub struct Trial {
    /// Random id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Grows with every change of the plan.
    pub version: i64,
    /// What is asked.
    pub ask: Ask,
    /// What each treatment gets.
    pub sheet: Sheet,
    /// Ids of the treatments, in the order of the sheet.
    pub treatment_ids: Vec<String>,
    /// Where it stands.
    pub rack: Rack,
    /// What the sites outdoors are like, by level.
    pub site_cards: Vec<SiteCard>,
    /// Light of the places measured.
    pub light: Vec<SlotLight>,
    /// The feed.
    pub feed: FeedPlan,
    /// When the work falls.
    pub care: CarePlan,
    /// Day on which sowing is meant, `YYYY-MM-DD`.
    pub sow_planned: Option<String>,
    /// Day 0, `YYYY-MM-DD`; in a swap-over that of the round it is in.
    pub sown_on: Option<String>,
    /// The round it is in, from 1; only a swap-over has more than one.
    pub round: u32,
    /// When the first record sealed the plan.
    pub sealed_at: Option<String>,
    /// The opened key.
    pub reveal: Option<Reveal>,
    /// The deal.
    pub deal: Option<Deal>,
    /// Units, ordered by code.
    pub units: Vec<Unit>,
    /// Readings, oldest first.
    pub readings: Vec<ReadingRow>,
    /// Weighings, in the order in which they were taken.
    pub weighings: Vec<WeighingRow>,
    /// Notes, oldest first.
    pub notes: Vec<NoteRow>,
    /// Work done in the round it is in.
    pub jobs: Vec<(Job, u32)>,
    /// Work of that round moved to another day, oldest first.
    pub moved: Vec<MovedJob>,
    /// Mixes, oldest first.
    pub mixes: Vec<MixRow>,
    /// Changes of the sealed plan.
    pub changes: Vec<PlanChange>,
    /// How often the pouring sheet was opened.
    pub pouring_sheets: usize,
    /// What the owner's next undo would take back.
    pub last_action: Option<String>,
}

impl Trial {
    /// What the match sheet says about the days of single treatments.
    #[must_use]
    pub fn own_days(&self) -> TreatmentDays {
        let cells = |key: &'static str| (0..self.sheet.treatments.len()).filter_map(move |t| self.sheet.value(t, key));
        let numbers = |key: &'static str| cells(key).filter_map(|v| v.trim().parse::<f64>().ok());
        let blackouts: Vec<u32> = cells("blackout_days")
            .map(|v| v.trim().parse::<f64>().map_or(self.care.blackout_days, |d| d.round() as u32))
            .collect();
        TreatmentDays {
            soak_hours: numbers("soak_hours").fold(0.0, f64::max).ceil() as u32,
            blackouts,
            given_on: cells("given_on")
                .flat_map(TreatmentDays::days)
                .collect::<std::collections::BTreeSet<_>>()
                .into_iter()
                .collect(),
        }
    }
}

/// A trial in the list.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TrialHead {
    /// Random id.
    pub id: String,
    /// Name.
    pub name: String,
    /// Whether it was put away: it stands in no list of work then.
    pub put_away: bool,
}

/// A name out of a closed list, as the database stores it.
fn word<T: DeserializeOwned>(text: String) -> rusqlite::Result<T> {
    serde_json::from_value(Value::String(text))
        .map_err(|e| rusqlite::Error::FromSqlConversionFailure(0, rusqlite::types::Type::Text, Box::new(e)))
}

/// A list that the database stores as JSON.
fn from_json<T: DeserializeOwned>(text: &str) -> rusqlite::Result<T> {
    serde_json::from_str(text)
        .map_err(|e| rusqlite::Error::FromSqlConversionFailure(0, rusqlite::types::Type::Text, Box::new(e)))
}

pub(crate) fn as_word(value: impl Serialize) -> Result<String> {
    match serde_json::to_value(value)? {
        Value::String(text) => Ok(text),
        other => Ok(other.to_string()),
    }
}

fn plan_from(row: &Row<'_>) -> rusqlite::Result<Trial> {
    let margin_value = row.get("margin_value")?;
    let percent = row.get::<_, String>("margin_kind")? == "percent";
    let revealed_at: Option<String> = row.get("revealed_at")?;
    Ok(Trial {
        id: row.get("id")?,
        name: row.get("name")?,
        version: row.get("version")?,
        ask: Ask {
            question: row.get("question")?,
            hypothesis: row.get("hypothesis")?,
            goal: word::<Goal>(row.get("goal")?)?,
            better: word::<Better>(row.get("better")?)?,
            crop: row.get("crop")?,
            primary_measure: row.get("primary_measure")?,
            also: Vec::new(),
            margin: if percent { Margin::Percent(margin_value) } else { Margin::Absolute(margin_value) },
            end_day: row.get("end_day")?,
            end_stage: row.get("end_stage")?,
            crops_inside: Vec::new(),
            price_per_kg: row.get("price_per_kg")?,
            usual_per_unit: row.get("usual_per_unit")?,
            usual_out_of: row.get("usual_out_of")?,
            seeks: word::<Seeks>(row.get("seeks")?)?,
            margin_money: row.get("margin_money")?,
        },
        sheet: Sheet {
            conditions: conditions::ALL.iter().map(|c| c.key.into()).collect(),
            treatments: Vec::new(),
            basis: word::<Basis>(row.get("match_basis")?)?,
            care: word::<CareRule>(row.get("match_care")?)?,
            waiver: row.get("match_waiver")?,
        },
        treatment_ids: Vec::new(),
        rack: Rack {
            name: row.get("rack_name")?,
            levels: row.get("rack_levels")?,
            slots: row.get("rack_slots")?,
            design: word::<RackDesign>(row.get("rack_design")?)?,
            kind: word::<SpaceKind>(row.get("rack_kind")?)?,
            names: from_json(&row.get::<_, String>("rack_names")?)?,
            split: Vec::new(),
            starts: Vec::new(),
            within_percent: row.get("rack_within_percent")?,
        },
        site_cards: Vec::new(),
        light: Vec::new(),
        feed: FeedPlan {
            form: word::<FeedForm>(row.get("feed_form")?)?,
            label_per_litre: row.get("feed_label_per_litre")?,
            ml_a_unit: row.get("feed_ml_a_unit")?,
            spare_percent: row.get("feed_spare_percent")?,
            ph: from_json(&row.get::<_, String>("feed_ph")?)?,
        },
        care: CarePlan {
            blackout_days: row.get("blackout_days")?,
            first_feed_day: row.get("first_feed_day")?,
            feed_every: row.get("feed_every")?,
            read_every: row.get("read_every")?,
            water_every: row.get("water_every")?,
            rotate_every: row.get("rotate_every")?,
            observe_every: row.get("observe_every")?,
            photograph_every: row.get("photograph_every")?,
            thin_day: row.get("thin_day")?,
        },
        sow_planned: row.get("sow_planned")?,
        sown_on: row.get("sown_on")?,
        round: 1,
        sealed_at: row.get("sealed_at")?,
        reveal: match revealed_at {
            Some(at) => {
                Some(Reveal { at, day: row.get("reveal_day")?, weighed: row.get::<_, u32>("reveal_weighed")? as usize })
            }
            None => None,
        },
        deal: None,
        units: Vec::new(),
        readings: Vec::new(),
        weighings: Vec::new(),
        notes: Vec::new(),
        jobs: Vec::new(),
        moved: Vec::new(),
        mixes: Vec::new(),
        changes: Vec::new(),
        pouring_sheets: 0,
        last_action: None,
    })
}

fn rows<T>(
    t: &Transaction<'_>,
    sql: &str,
    trial: &str,
    mut map: impl FnMut(&Row<'_>) -> rusqlite::Result<T>,
) -> Result<Vec<T>> {
    let mut statement = t.prepare_cached(sql)?;
    let found = statement.query_map([trial], |r| map(r))?.collect::<rusqlite::Result<_>>()?;
    Ok(found)
}

/// Reads everything about one trial.
pub(crate) fn load(t: &Transaction<'_>, id: &str) -> Result<Trial> {
    let mut trial = t
        .query_row("SELECT * FROM trial WHERE id = ?1", [id], plan_from)
        .optional()?
        .ok_or_else(|| StoreError::NotFound { what: "trial", id: id.into() })?;
    trial.ask.also =
        rows(t, "SELECT measure FROM also_measured WHERE trial_id = ?1 ORDER BY position", id, |r| r.get(0))?;
    trial.ask.crops_inside =
        rows(t, "SELECT name FROM crop_inside WHERE trial_id = ?1 ORDER BY position", id, |r| r.get(0))?;
    load_sheet(t, &mut trial)?;
    load_space(t, &mut trial)?;
    load_deal(t, &mut trial)?;
    load_records(t, &mut trial)?;
    trial.changes = rows(t, "SELECT * FROM plan_change WHERE trial_id = ?1 ORDER BY at", id, |r| {
        Ok(PlanChange {
            at: r.get("at")?,
            field: r.get("field")?,
            before: r.get("before")?,
            after: r.get("after")?,
            reason: r.get("reason")?,
        })
    })?;
    trial.pouring_sheets =
        t.query_row("SELECT count(*) FROM history WHERE trial_id = ?1 AND entity = 'pouring_sheet'", [id], |r| {
            r.get::<_, u32>(0)
        })? as usize;
    trial.last_action = t
        .query_row(
            "SELECT action FROM history WHERE trial_id = ?1 AND who = 'owner' AND undone = 0
               AND entity IN ('reading', 'weighing', 'note', 'job_done', 'mix', 'job_moved') ORDER BY id DESC LIMIT 1",
            [id],
            |r| r.get(0),
        )
        .optional()?;
    Ok(trial)
}

fn load_sheet(t: &Transaction<'_>, trial: &mut Trial) -> Result<()> {
    let treatments: Vec<(String, String, bool)> =
        rows(t, "SELECT id, name, control FROM treatment WHERE trial_id = ?1 ORDER BY position", &trial.id, |r| {
            Ok((r.get(0)?, r.get(1)?, r.get(2)?))
        })?;
    for (id, name, control) in treatments {
        let cells: Vec<(String, String)> =
            rows(t, "SELECT condition, value FROM condition_value WHERE treatment_id = ?1", &id, |r| {
                Ok((r.get(0)?, r.get(1)?))
            })?;
        let values = conditions::ALL
            .iter()
            .map(|c| cells.iter().find(|(key, _)| key == c.key).map_or_else(|| c.usual.to_owned(), |(_, v)| v.clone()))
            .collect();
        trial.sheet.treatments.push(SheetTreatment { name, control, values });
        trial.treatment_ids.push(id);
    }
    Ok(())
}

/// The grow space beyond its rows and places; the split follows from the sheet and is not stored.
fn load_space(t: &Transaction<'_>, trial: &mut Trial) -> Result<()> {
    if trial.rack.design == RackDesign::SplitPlot {
        trial.rack.split = trial.sheet.by_fixture().map(|(_, split)| split).unwrap_or_default();
    }
    let starts = rows(t, "SELECT level, slot, size FROM slot_start WHERE trial_id = ?1", &trial.id, |r| {
        Ok(SlotStart { level: r.get(0)?, slot: r.get(1)?, size: r.get(2)? })
    })?;
    trial.rack.set_starts(&starts);
    trial.site_cards = rows(t, "SELECT * FROM site_card WHERE trial_id = ?1 ORDER BY level", &trial.id, |r| {
        Ok(SiteCard {
            level: r.get("level")?,
            aspect: r.get("aspect")?,
            shade: r.get("shade")?,
            before: r.get("before")?,
            grows_now: r.get("grows_now")?,
            damage: r.get("damage")?,
        })
    })?;
    trial.light = rows(
        t,
        "SELECT level, slot, umol_per_m2_s FROM slot_light WHERE trial_id = ?1 ORDER BY level, slot",
        &trial.id,
        |r| Ok(SlotLight { level: r.get(0)?, slot: r.get(1)?, umol: r.get(2)? }),
    )?;
    trial.round = t
        .query_row("SELECT max(round) FROM round_begun WHERE trial_id = ?1", [&trial.id], |r| {
            r.get::<_, Option<u32>>(0)
        })?
        .unwrap_or(1);
    Ok(())
}

fn load_deal(t: &Transaction<'_>, trial: &mut Trial) -> Result<()> {
    trial.deal = t
        .query_row("SELECT seed, nonce, commitment, dealt_at FROM deal WHERE trial_id = ?1", [&trial.id], |r| {
            Ok(Deal {
                seed: r.get::<_, i64>(0)?.cast_unsigned(),
                nonce: r.get(1)?,
                commitment: r.get(2)?,
                dealt_at: r.get(3)?,
            })
        })
        .optional()?;
    let ids = trial.treatment_ids.clone();
    trial.units = rows(
        t,
        "SELECT id, code, level, slot, treatment_id, lost_reason FROM unit WHERE trial_id = ?1 ORDER BY code",
        &trial.id,
        |r| {
            let treatment: String = r.get(4)?;
            Ok(Unit {
                id: r.get(0)?,
                code: r.get(1)?,
                position: Position { level: r.get(2)?, slot: r.get(3)? },
                treatment: ids.iter().position(|t| *t == treatment).unwrap_or(0),
                lost: r.get(5)?,
            })
        },
    )?;
    Ok(())
}

fn load_records(t: &Transaction<'_>, trial: &mut Trial) -> Result<()> {
    let (id, units, treatments) = (trial.id.clone(), trial.units.clone(), trial.treatment_ids.clone());
    let unit = |id: &str| units.iter().position(|u| u.id == id);
    trial.readings = rows(t, "SELECT * FROM reading WHERE trial_id = ?1 ORDER BY day, at", &id, |r| {
        Ok(ReadingRow {
            unit: unit(&r.get::<_, String>("unit_id")?).unwrap_or(0),
            reading: r.get("reading")?,
            part: r.get::<_, u32>("part")? as usize,
            day: r.get("day")?,
            value: r.get("value")?,
            version: r.get("version")?,
        })
    })?;
    trial.weighings = rows(t, "SELECT * FROM weighing WHERE trial_id = ?1 ORDER BY at", &id, |r| {
        Ok(WeighingRow {
            unit: unit(&r.get::<_, String>("unit_id")?).unwrap_or(0),
            part: r.get::<_, u32>("part")? as usize,
            gross_g: r.get("gross_g")?,
            tare_g: r.get("tare_g")?,
            net_g: r.get("net_g")?,
            day: r.get("day")?,
            at: r.get("at")?,
            version: r.get("version")?,
        })
    })?;
    trial.notes = rows(t, "SELECT * FROM note WHERE trial_id = ?1 ORDER BY day, at", &id, |r| {
        Ok(NoteRow {
            unit: r.get::<_, Option<String>>("unit_id")?.and_then(|u| unit(&u)),
            day: r.get("day")?,
            round: r.get("round")?,
            text: r.get("text")?,
        })
    })?;
    let of_round = |sql: &str| sql.replace("#ROUND", &trial.round.to_string());
    let sql = of_round("SELECT job, day FROM job_done WHERE trial_id = ?1 AND round = #ROUND ORDER BY day");
    trial.jobs = rows(t, &sql, &id, |r| Ok((word::<Job>(r.get(0)?)?, r.get(1)?)))?;
    let sql =
        of_round("SELECT job, from_day, to_day FROM job_moved WHERE trial_id = ?1 AND round = #ROUND ORDER BY at");
    trial.moved =
        rows(t, &sql, &id, |r| Ok(MovedJob { job: word::<Job>(r.get(0)?)?, from: r.get(1)?, to: r.get(2)? }))?;
    let mut went_in: BTreeMap<String, Vec<Portioned>> = BTreeMap::new();
    let sql = "SELECT p.* FROM mix_portion p JOIN mix m ON m.id = p.mix_id WHERE m.trial_id = ?1 ORDER BY p.position";
    let portions = rows(t, sql, &id, |r| {
        let portion = Portioned {
            name: r.get("name")?,
            unit: r.get("unit")?,
            planned: r.get("planned")?,
            measured: r.get("measured")?,
            lot: r.get("lot")?,
        };
        Ok((r.get::<_, String>("mix_id")?, portion))
    })?;
    for (mix, portion) in portions {
        went_in.entry(mix).or_default().push(portion);
    }
    trial.mixes = rows(t, "SELECT * FROM mix WHERE trial_id = ?1 ORDER BY at", &id, |r| {
        let treatment: String = r.get("treatment_id")?;
        let why: String = r.get("gap_why")?;
        Ok(MixRow {
            batch: r.get("batch")?,
            temperature_c: r.get("temperature_c")?,
            computed_ec_ms_per_cm: r.get("computed_ec_ms_per_cm")?,
            gap_note: r.get("gap_note")?,
            gap_why: (!why.is_empty()).then(|| word::<GapWhy>(why)).transpose()?,
            portions: went_in.remove(&r.get::<_, String>("id")?).unwrap_or_default(),
            treatment: treatments.iter().position(|t| *t == treatment).unwrap_or(0),
            volume_l: r.get("volume_l")?,
            feed_total: r.get("feed_total")?,
            ec_ms_per_cm: r.get("ec_ms_per_cm")?,
            ph: r.get("ph")?,
            day: r.get("day")?,
            at: r.get("at")?,
        })
    })?;
    Ok(())
}

/// Seals the plan at the first record.
pub(crate) fn seal(t: &Transaction<'_>, stamp: &Stamp, trial: &Trial) -> Result<()> {
    if trial.sealed_at.is_none() {
        t.execute("UPDATE trial SET sealed_at = ?2 WHERE id = ?1", (&trial.id, stamp.now.to_string()))?;
        let entry =
            Entry { trial: &trial.id, action: "sealed", entity: "trial", id: &trial.id, before: None, after: None };
        append(t, stamp, entry)?;
    }
    Ok(())
}

/// Refuses a stale write to the plan and counts the version up.
pub(crate) fn step_version(t: &Transaction<'_>, trial: &Trial, sent: i64) -> Result<()> {
    if trial.version != sent {
        return Err(StoreError::Stale {
            what: "the plan".into(),
            stored: format!("version {}", trial.version),
            sent: format!("version {sent}"),
        });
    }
    t.execute("UPDATE trial SET version = version + 1 WHERE id = ?1", [&trial.id])?;
    Ok(())
}

/// Longest text in a field of the plan.
pub const MOST_LETTERS: usize = 2000;

pub(crate) fn check_text(field: &'static str, text: &str) -> Result<()> {
    if text.chars().count() > MOST_LETTERS {
        return Err(StoreError::refused(field, format!("at most {MOST_LETTERS} letters")));
    }
    Ok(())
}

impl Trial {
    /// Whether a unit has what decides: a weight, or the readings that the primary measure is made from; of every crop,
    /// where several share it.
    #[must_use]
    pub fn is_recorded(&self, unit: usize) -> bool {
        let source = self.ask.measures()[0].source;
        self.ask.parts().all(|part| {
            let weighed = self.weighings.iter().any(|w| w.unit == unit && w.part == part);
            let taken = |key: &&str| {
                let of =
                    |r: &&ReadingRow| r.unit == unit && (is_of_solution(key) || r.part == part) && r.reading == **key;
                self.readings.iter().any(|r| of(&r) && r.value.is_some())
            };
            (weighed || !source.is_weighed()) && source.needs().iter().all(taken)
        })
    }

    /// What was read of the solution of a unit and poured into it, day by day.
    #[must_use]
    pub fn tank_days(&self, unit: usize) -> Vec<TankDay> {
        let mut days: BTreeMap<u32, TankDay> = BTreeMap::new();
        for (r, value) in self.readings.iter().filter(|r| r.unit == unit).filter_map(|r| Some((r, r.value?))) {
            let day = days.entry(r.day).or_insert(TankDay { day: r.day, ..TankDay::default() });
            match r.reading.as_str() {
                "level" => day.level_l = Some(value),
                "ec" => day.ec_ms_per_cm = Some(value),
                "filled" => day.filled_l = Some(value),
                "water_added" => day.water_l = value,
                "solution_added" => day.solution_l = value,
                "feed_added" => day.feed = value,
                _ => {}
            }
        }
        days.into_values().collect()
    }

    /// Units that have what decides.
    #[must_use]
    pub fn recorded_units(&self) -> usize {
        (0..self.units.len()).filter(|&unit| self.is_recorded(unit)).count()
    }

    /// Whether a unit is on the shelf in the round it is in: in a swap-over a unit is a system during one round.
    #[must_use]
    pub fn is_now(&self, unit: &Unit) -> bool {
        !self.rack.has_rounds() || unit.position.level == self.round
    }

    /// Units of the round it is in that still lack what decides, and were not written off.
    #[must_use]
    pub fn open_units(&self) -> usize {
        let open = |&(i, u): &(usize, &Unit)| self.is_now(u) && u.lost.is_none() && !self.is_recorded(i);
        self.units.iter().enumerate().filter(open).count()
    }

    /// Whether another round follows the one it is in.
    #[must_use]
    pub fn has_next_round(&self) -> bool {
        self.rack.has_rounds() && self.sown_on.is_some() && self.round < self.rack.levels
    }

    /// Units of each treatment that stand at the same time: those of one round of a swap-over, else all.
    #[must_use]
    pub fn units_at_once(&self) -> usize {
        if self.rack.has_rounds() { self.units_each() / self.rack.levels.max(1) as usize } else { self.units_each() }
    }

    /// Units of each treatment: as planned, or the fewest where the grower placed them by hand.
    #[must_use]
    pub fn units_each(&self) -> usize {
        let treatments = self.sheet.treatments.len();
        match self.rack.design {
            RackDesign::ByHand => {
                (0..treatments).map(|t| self.units.iter().filter(|u| u.treatment == t).count()).min().unwrap_or(0)
            }
            _ => self.rack.units_each(treatments),
        }
    }
}

impl Store {
    /// Starts a trial with the usual plan.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for an empty name.
    pub fn create_trial(&self, stamp: &Stamp, name: &str) -> Result<String> {
        let name = name.trim();
        if name.is_empty() {
            return Err(StoreError::refused("name", "give the trial a name, for instance the crop and what you try"));
        }
        check_text("name", name)?;
        self.write(stamp, |t| {
            let id = new_id();
            let (ask, rack, feed, care) = (Ask::default(), Rack::default(), FeedPlan::default(), CarePlan::default());
            t.execute(
                "INSERT INTO trial (id, name, question, hypothesis, goal, better, crop, primary_measure, margin_kind,
                   margin_value, end_day, rack_name, rack_levels, rack_slots, feed_form, feed_label_per_litre,
                   feed_ml_a_unit, feed_spare_percent, blackout_days, first_feed_day, feed_every, read_every, created_at)
                 VALUES (?1, ?2, '', '', 'beat', 'higher', '', ?3, 'percent', 10.0, ?4, ?5, ?6, ?7, 'liquid', ?8, ?9,
                   ?10, ?11, ?12, ?13, ?14, ?15)",
                rusqlite::params![
                    id, name, ask.primary_measure, ask.end_day, rack.name, rack.levels, rack.slots,
                    feed.label_per_litre, feed.ml_a_unit, feed.spare_percent, care.blackout_days, care.first_feed_day,
                    care.feed_every, care.read_every, stamp.now.to_string()
                ],
            )?;
            crate::ask::write_also(t, &id, &ask)?;
            crate::match_sheet::insert(t, &id, &Sheet::usual())?;
            let entry = Entry {
                trial: &id, action: "created", entity: "trial", id: &id, before: None, after: Some(json!({ "name": name })),
            };
            append(t, stamp, entry)?;
            Ok(id)
        })
    }

    /// All trials, newest first.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn trials(&self) -> Result<Vec<TrialHead>> {
        self.read(|t| {
            let mut statement =
                t.prepare("SELECT id, name, put_away_at IS NOT NULL FROM trial ORDER BY created_at DESC, name")?;
            let heads = statement
                .query_map([], |r| Ok(TrialHead { id: r.get(0)?, name: r.get(1)?, put_away: r.get(2)? }))?
                .collect::<rusqlite::Result<_>>()?;
            Ok(heads)
        })
    }

    /// Puts a trial away, or brings it back. It stands in no list of work meanwhile; nothing of it is lost.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn put_away(&self, stamp: &Stamp, id: &str, away: bool) -> Result<()> {
        self.write(stamp, |t| {
            let at = away.then(|| stamp.now.to_string());
            if t.execute("UPDATE trial SET put_away_at = ?2 WHERE id = ?1", (id, at))? == 0 {
                return Err(StoreError::NotFound { what: "trial", id: id.into() });
            }
            let action = if away { "put away" } else { "brought back" };
            append(t, stamp, Entry { trial: id, action, entity: "trial", id, before: None, after: None })
        })
    }

    /// Trials of a crop whose key is open and that one measure decided, newest first: what own spread comes from.
    ///
    /// # Errors
    /// [`StoreError::Sqlite`].
    pub fn finished_alike(&self, crop: &str, measure: &str) -> Result<Vec<String>> {
        self.read(|t| {
            let sql = "SELECT id FROM trial WHERE revealed_at IS NOT NULL AND lower(trim(crop)) = lower(trim(?1))
                         AND primary_measure = ?2 AND trim(crop) <> '' ORDER BY revealed_at DESC LIMIT 50";
            let mut statement = t.prepare_cached(sql)?;
            let found = statement.query_map([crop, measure], |r| r.get(0))?.collect::<rusqlite::Result<_>>()?;
            Ok(found)
        })
    }

    /// Everything about one trial.
    ///
    /// # Errors
    /// [`StoreError::NotFound`].
    pub fn trial(&self, id: &str) -> Result<Trial> {
        self.read(|t| load(t, id))
    }
}
