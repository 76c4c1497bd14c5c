//! Writing the rack and the deal.

use crate::history::{Entry, append};
use crate::trial::{load, step_version};
use crate::{Result, Stamp, Store, StoreError, new_id};
use iron_twin_core::place::Rack;
use iron_twin_core::place::blind::{KeyEntry, commitment};
use iron_twin_core::place::deal::deal;
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
            rack.check(trial.sheet.treatments.len()).map_err(|e| StoreError::refused("rack", e))?;
            step_version(t, &trial, version)?;
            let shape = |r: &Rack| (r.levels, r.slots, r.design);
            if shape(rack) != shape(&trial.rack) {
                t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
                t.execute("DELETE FROM unit WHERE trial_id = ?1", [id])?;
            }
            t.execute(
                "UPDATE trial SET rack_name = ?2, rack_levels = ?3, rack_slots = ?4, rack_design = ?5 WHERE id = ?1",
                (id, &rack.name, rack.levels, rack.slots, rack.design.key()),
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
            step_version(t, &trial, version)?;
            let dealt = deal(&trial.rack, trial.sheet.treatments.len(), chance.seed)
                .map_err(|e| StoreError::refused("rack", e))?;
            let key: Vec<KeyEntry> = dealt
                .iter()
                .map(|u| KeyEntry { code: u.code.clone(), treatment: trial.sheet.treatments[u.treatment].name.clone() })
                .collect();
            let sealed = commitment(&chance.nonce, &key);
            t.execute("DELETE FROM deal WHERE trial_id = ?1", [id])?;
            t.execute("DELETE FROM unit WHERE trial_id = ?1", [id])?;
            t.execute(
                "INSERT INTO deal (trial_id, seed, nonce, commitment, dealt_at) VALUES (?1, ?2, ?3, ?4, ?5)",
                (id, chance.seed.cast_signed(), chance.nonce, &sealed, stamp.now.to_string()),
            )?;
            for unit in &dealt {
                t.execute(
                    "INSERT INTO unit (id, trial_id, level, slot, code, treatment_id) VALUES (?1, ?2, ?3, ?4, ?5, ?6)",
                    (
                        new_id(),
                        id,
                        unit.position.level,
                        unit.position.slot,
                        &unit.code,
                        &trial.treatment_ids[unit.treatment],
                    ),
                )?;
            }
            // The history gets the commitment only: what it says must not open the key.
            let after = Some(json!({ "commitment": sealed, "units": dealt.len() }));
            append(t, stamp, Entry { trial: id, action: "dealt", entity: "deal", id, before: None, after })?;
            Ok(trial.version + 1)
        })
    }
}
