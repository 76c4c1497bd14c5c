//! Writing the grow space, its light and its site cards, and the deal.

use crate::history::{Entry, append};
use crate::trial::{Trial, as_word};
use crate::trial::{load, step_version};
use crate::{Result, Stamp, Store, StoreError, new_id};
use iron_twin_core::place::blind::{KeyEntry, commitment};
use iron_twin_core::place::deal::{Dealt, deal, placed};
use iron_twin_core::place::light::{LightScale, umol};
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::space::{Position, Rack, RackDesign};
use iron_twin_core::trial::starts::SlotStart;
use rusqlite::Transaction;
use serde::Deserialize;
use serde_json::json;

/// Where the deal's chance comes from; made outside so that the demo can repeat itself.
#[derive(Debug, Clone, Copy)]
pub struct Chance {
    /// Seed of the deal.
    pub seed: u64,
    /// Nonce of the commitment.
    pub nonce: [u8; 32],
}

impl Chance {
    /// Fresh chance from the system's generator.
    #[must_use]
    pub fn fresh() -> Self {
        // Version-4 identifiers carry 122 random bits of the system; three of them fill seed and nonce.
        let draw = || uuid::Uuid::new_v4().into_bytes();
        let (a, b, c) = (draw(), draw(), draw());
        let mut nonce = [0; 32];
        nonce[..16].copy_from_slice(&a);
        nonce[16..].copy_from_slice(&b);
        let mut seed = [0; 8];
        seed.copy_from_slice(&c[8..]);
        seed[0] = c[0];
        Self { seed: u64::from_le_bytes(seed), nonce }
    }
}

/// A figure of one place as it was measured: its light, or the starting size of what stands there.
#[derive(Debug, Clone, Copy, PartialEq, Deserialize)]
pub struct PlaceFigure {
    /// Level, 1 the lowest.
    pub level: u32,
    /// Slot, 1 at the left.
    pub slot: u32,
    /// What the meter said; None takes the figure out.
    pub value: Option<f64>,
}

/// Writes a deal with its units and seals the key.
fn write_deal(t: &Transaction<'_>, trial: &Trial, chance: Chance, dealt: &[Dealt], now: &str) -> Result<String> {
    let key: Vec<KeyEntry> = dealt
        .iter()
        .map(|u| KeyEntry { code: u.code.clone(), treatment: trial.sheet.treatments[u.treatment].name.clone() })
        .collect();
    let sealed = commitment(&chance.nonce, &key);
    let id = &trial.id;
    t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
    t.execute("DELETE FROM unit WHERE trial_id = ?1", [id])?;
    t.execute(
        "INSERT INTO deal (trial_id, seed, nonce, commitment, dealt_at) VALUES (?1, ?2, ?3, ?4, ?5)",
        (id, chance.seed.cast_signed(), chance.nonce, &sealed, now),
    )?;
    for unit in dealt {
        t.execute(
            "INSERT INTO unit (id, trial_id, level, slot, code, treatment_id) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
            (new_id(), id, unit.position.level, unit.position.slot, &unit.code, &trial.treatment_ids[unit.treatment]),
        )?;
    }
    Ok(sealed)
}

impl Store {
    /// Sets the rack; a deal made for another rack is dropped.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Locked`] once sealed, [`StoreError::Stale`].
    pub fn set_rack(&self, stamp: &Stamp, id: &str, rack: &Rack, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.sealed_at.is_some() {
                return Err(StoreError::Locked("the first record has sealed the places"));
            }
            // How a split plot is split follows from the sheet, whatever was sent.
            let split = trial.sheet.by_fixture().map(|(_, split)| split).unwrap_or_default();
            let split = if rack.design == RackDesign::SplitPlot { split } else { Vec::new() };
            let mut own = Rack { split, ..rack.clone() };
            // So do the starting sizes from what was measured.
            own.set_starts(&starts(&trial));
            let rack = &own;
            rack.check(trial.sheet.treatments.len()).map_err(|e| StoreError::refused("rack", e))?;
            step_version(t, &trial, version)?;
            let shape = |r: &Rack| (r.levels, r.slots, r.design, r.within_percent);
            if shape(rack) != shape(&trial.rack) {
                t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
                t.execute("DELETE FROM unit WHERE trial_id = ?1", [id])?;
            }
            t.execute(
                "UPDATE trial SET rack_name = ?2, rack_levels = ?3, rack_slots = ?4, rack_design = ?5, rack_kind = ?6,
                   rack_names = ?7, rack_within_percent = ?8 WHERE id = ?1",
                (
                    id,
                    &rack.name,
                    rack.levels,
                    rack.slots,
                    rack.design.key(),
                    rack.kind.key(),
                    serde_json::to_string(&rack.names)?,
                    rack.within_percent,
                ),
            )?;
            let entry = Entry {
                trial: id,
                action: "placed",
                entity: "rack",
                id,
                before: Some(serde_json::to_value(&trial.rack)?),
                after: Some(serde_json::to_value(rack)?),
            };
            append(t, stamp, entry)?;
            Ok(trial.version + 1)
        })
    }

    /// Deals the treatments over the rack and seals the key.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Locked`] once sealed, [`StoreError::Stale`].
    pub fn deal(&self, stamp: &Stamp, id: &str, chance: Chance, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.sealed_at.is_some() {
                return Err(StoreError::Locked("the first record has sealed the deal"));
            }
            if trial.rack.design == RackDesign::ByHand {
                return Err(StoreError::Locked("these places are chosen by hand; take another design to deal"));
            }
            step_version(t, &trial, version)?;
            let dealt = deal(&trial.rack, trial.sheet.treatments.len(), chance.seed)
                .map_err(|e| StoreError::refused("rack", e))?;
            let sealed = write_deal(t, &trial, chance, &dealt, &stamp.now.to_string())?;
            // The history gets the commitment only: what it says must not open the key.
            let after = Some(json!({ "commitment": sealed, "units": dealt.len() }));
            append(t, stamp, Entry { trial: id, action: "dealt", entity: "deal", id, before: None, after })?;
            Ok(trial.version + 1)
        })
    }

    /// Places units by hand: which treatment stands where, in a trial whose design is by hand. Codes are shuffled.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for places that cannot be, [`StoreError::Locked`] once sealed or for dealt designs,
    /// [`StoreError::Stale`].
    pub fn place_by_hand(
        &self,
        stamp: &Stamp,
        id: &str,
        places: &[(Position, usize)],
        chance: Chance,
        version: i64,
    ) -> Result<i64> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.sealed_at.is_some() {
                return Err(StoreError::Locked("the first record has sealed the places"));
            }
            if trial.rack.design != RackDesign::ByHand {
                return Err(StoreError::Locked("treatments are dealt here; choose places by hand as the design first"));
            }
            step_version(t, &trial, version)?;
            let units = placed(&trial.rack, places, trial.sheet.treatments.len(), chance.seed)
                .map_err(|e| StoreError::refused("places", e))?;
            let sealed = write_deal(t, &trial, chance, &units, &stamp.now.to_string())?;
            if units.is_empty() {
                t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
            }
            let after = Some(json!({ "commitment": sealed, "units": units.len() }));
            append(t, stamp, Entry { trial: id, action: "placed by hand", entity: "deal", id, before: None, after })?;
            Ok(trial.version + 1)
        })
    }

    /// Sets the light of places as measured; the figures of other places stay. Light may be measured while a trial runs.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for light that cannot be or a place that is none, [`StoreError::Locked`] after the reveal.
    pub fn set_light(
        &self,
        stamp: &Stamp,
        id: &str,
        measured: &[PlaceFigure],
        scale: LightScale,
        kind: &str,
    ) -> Result<()> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.reveal.is_some() {
                return Err(StoreError::Locked("the key is open: records can no longer change"));
            }
            for light in measured {
                write_light(t, stamp, &trial, light, scale, kind)?;
            }
            let after = Some(json!({ "places": measured.len(), "scale": scale, "kind": kind }));
            let before = Some(serde_json::to_value(&trial.light)?);
            append(t, stamp, Entry { trial: id, action: "measured the light", entity: "light", id, before, after })
        })
    }

    /// Sets what a site outdoors is like. It may be filled in while a trial runs.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a text too long or a site that is none, [`StoreError::Locked`] after the reveal.
    pub fn set_site_card(&self, stamp: &Stamp, id: &str, card: &SiteCard) -> Result<()> {
        if card.lines().iter().any(|line| line.chars().count() > SiteCard::MOST_LETTERS) {
            return Err(StoreError::refused("card", format!("at most {} letters a line", SiteCard::MOST_LETTERS)));
        }
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            if trial.reveal.is_some() {
                return Err(StoreError::Locked("the key is open: records can no longer change"));
            }
            if !(1..=trial.rack.levels).contains(&card.level) {
                let what = format!("there is no {} {}", trial.rack.level_word(), card.level);
                return Err(StoreError::refused("level", what));
            }
            t.execute(
                "INSERT OR REPLACE INTO site_card (trial_id, level, aspect, shade, before, grows_now, damage)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7)",
                (id, card.level, &card.aspect, &card.shade, &card.before, &card.grows_now, &card.damage),
            )?;
            let before = trial.site_cards.iter().find(|c| c.level == card.level);
            let before = before.map(serde_json::to_value).transpose()?;
            let after = Some(serde_json::to_value(card)?);
            append(t, stamp, Entry { trial: id, action: "described a site", entity: "site_card", id, before, after })
        })
    }
}

/// The starting sizes of a trial, place by place.
fn starts(trial: &Trial) -> Vec<SlotStart> {
    let rack = &trial.rack;
    let places = (1..=rack.levels).flat_map(|level| (1..=rack.slots).map(move |slot| Position { level, slot }));
    places.filter_map(|p| rack.start_of(p).map(|size| SlotStart { level: p.level, slot: p.slot, size })).collect()
}

/// Largest starting size, in any unit.
const MOST_SIZE: f64 = 1e6;

impl Store {
    /// Sets the starting sizes of what stands in places; None takes one out. A deal that went by them is dropped.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for sizes that cannot be or a place that is none; [`StoreError::Locked`] once sealed where
    /// the deal goes by them, and after the reveal.
    pub fn set_starts(&self, stamp: &Stamp, id: &str, sizes: &[PlaceFigure]) -> Result<()> {
        self.write(stamp, |t| {
            let trial = load(t, id)?;
            let deal_goes_by_them = trial.rack.design == RackDesign::BySize || trial.rack.within_percent.is_some();
            if trial.reveal.is_some() || (trial.sealed_at.is_some() && deal_goes_by_them) {
                return Err(StoreError::Locked("the starting sizes are sealed: the deal went by them"));
            }
            for &PlaceFigure { level, slot, value } in sizes {
                if !(1..=trial.rack.levels).contains(&level) || !(1..=trial.rack.slots).contains(&slot) {
                    return Err(StoreError::refused("slot", format!("there is no place {slot} on level {level}")));
                }
                t.execute(
                    "DELETE FROM slot_start WHERE trial_id = ?1 AND level = ?2 AND slot = ?3",
                    (id, level, slot),
                )?;
                let Some(size) = value else { continue };
                if !(size > 0.0 && size <= MOST_SIZE) {
                    return Err(StoreError::refused("size", format!("a starting size lies above 0, got {size}")));
                }
                t.execute(
                    "INSERT INTO slot_start (trial_id, level, slot, size, at) VALUES (?1, ?2, ?3, ?4, ?5)",
                    (id, level, slot, size, stamp.now.to_string()),
                )?;
            }
            if deal_goes_by_them {
                t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
                t.execute("DELETE FROM unit WHERE trial_id = ?1", [id])?;
            }
            let before = Some(serde_json::to_value(&trial.rack.starts)?);
            let after = Some(json!({ "places": sizes.len() }));
            append(t, stamp, Entry { trial: id, action: "measured the start", entity: "start", id, before, after })
        })
    }
}

fn write_light(
    t: &Transaction<'_>,
    stamp: &Stamp,
    trial: &Trial,
    &PlaceFigure { level, slot, value }: &PlaceFigure,
    scale: LightScale,
    kind: &str,
) -> Result<()> {
    if !(1..=trial.rack.levels).contains(&level) || !(1..=trial.rack.slots).contains(&slot) {
        return Err(StoreError::refused("slot", format!("there is no place {slot} on level {level}")));
    }
    match value {
        None => t.execute(
            "DELETE FROM slot_light WHERE trial_id = ?1 AND level = ?2 AND slot = ?3",
            (&trial.id, level, slot),
        )?,
        Some(value) => {
            let umol = umol(value, scale, kind).map_err(|e| StoreError::refused("light", e))?;
            t.execute(
                "INSERT OR REPLACE INTO slot_light
                   (trial_id, level, slot, umol_per_m2_s, measured, scale, light_kind, at)
                 VALUES (?1, ?2, ?3, ?4, ?5, ?6, ?7, ?8)",
                (&trial.id, level, slot, umol, value, as_word(scale)?, kind, stamp.now.to_string()),
            )?
        }
    };
    Ok(())
}
