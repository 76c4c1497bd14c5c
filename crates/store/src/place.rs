//! Writing the grow space, its light and its site cards, and the deal.

use crate::error::{Result, StoreError};
use crate::history::{Entry, append};
use crate::plan::{PlanWrite, check_part, check_version, step_version};
use crate::store::{Stamp, Store, new_id};
use crate::transaction::Tx;
use crate::trial::Loaded;
use iron_twin_core::place::blind::{KeyEntry, commitment};
use iron_twin_core::place::deal::{Dealt, deal, placed};
use iron_twin_core::place::light::umol;
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::plan::MOST_SIZE;
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::site::{LightScale, SlotLight};
use iron_twin_core::trial::space::{Position, Rack, RackDesign};
use iron_twin_core::trial::starts::SlotStart;
use iron_twin_terms::indices::TreatmentIndex;
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
        // Version-4 identifiers carry 122 random bits of the system; three of them fill seed and
        // nonce.
        let draw = || uuid::Uuid::new_v4().into_bytes();
        let (a, b, c) = (draw(), draw(), draw());
        let mut nonce = [0; 32];
        nonce[..16].copy_from_slice(&a);
        nonce[16..].copy_from_slice(&b);
        let mut seed = [0; 8];
        seed.copy_from_slice(&c[8..]);
        seed[0] = c[0];
        Self {
            seed: u64::from_le_bytes(seed),
            nonce,
        }
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

/// Writes a deal with its units and seals the key. An earlier deal stays in the file, though it no
/// longer stands.
fn write_deal(
    t: &Tx<'_>,
    loaded: &Loaded,
    chance: Chance,
    dealt: &[Dealt],
    now: i64,
) -> Result<String> {
    let sheet = &loaded.trial.plan.sheet;
    let key: Vec<KeyEntry> = dealt
        .iter()
        .map(|u| KeyEntry {
            code: u.code.clone(),
            treatment: sheet.treatments[u.treatment].name.clone(),
        })
        .collect();
    let sealed = commitment(&chance.nonce, &key);
    t.execute(
        "INSERT INTO deal (trial_no, seed, nonce, commitment, dealt_at_us) VALUES (?1, ?2, ?3, \
         ?4, ?5)",
        (
            loaded.no,
            chance.seed.cast_signed(),
            chance.nonce,
            &sealed,
            now,
        ),
    )?;
    let deal = t.last_insert_rowid();
    for unit in dealt {
        t.execute(
            "INSERT INTO unit (id, deal_no, level, slot, code, treatment) VALUES (?1, ?2, ?3, ?4, \
             ?5, ?6)",
            (
                new_id(),
                deal,
                unit.position.level,
                unit.position.slot,
                &unit.code,
                unit.treatment.get() as i64,
            ),
        )?;
    }
    // Nothing placed yet is no deal.
    let stands = (!dealt.is_empty()).then_some(deal);
    t.execute(
        "UPDATE trial SET deal_no = ?2 WHERE no = ?1",
        (loaded.no, stands),
    )?;
    Ok(sealed)
}

impl Store {
    /// Sets the rack; a deal made for another rack is dropped.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Locked`] once sealed, [`StoreError::Stale`].
    pub fn set_rack(&self, stamp: &Stamp, id: &str, rack: &Rack, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.sealed_at.is_some() {
                return Err(StoreError::locked("the first record has sealed the places"));
            }
            let mut plan = (*trial.plan).clone();
            // The starting sizes follow from what was measured, whatever was sent.
            plan.rack = Rack {
                starts: Vec::new(),
                ..rack.clone()
            };
            plan.rack.set_starts(&starts(&trial.plan.rack));
            // Care that nobody has changed follows from where it stands.
            if plan.care == CarePlan::usual(trial.plan.rack.kind) {
                plan.care = CarePlan::usual(plan.rack.kind);
            }
            plan.settle();
            plan.rack
                .check(plan.treatments())
                .map_err(|e| StoreError::refused("rack", e))?;
            if let Some(why) = plan.at_odds() {
                return Err(StoreError::refused("rack", why));
            }
            check_part(trial, version, &trial.plan.rack, rack)?;
            let shape = |r: &Rack| {
                (
                    r.levels,
                    r.slots,
                    r.design,
                    r.within_percent,
                    r.numbers.clone(),
                )
            };
            let drops_deal = shape(&plan.rack) != shape(&trial.plan.rack);
            t.change_plan(
                stamp,
                &loaded,
                PlanWrite {
                    action: "placed",
                    plan,
                    reason: None,
                    drops_deal,
                    undoes: None,
                },
            )?;
            step_version(t, &loaded)
        })
    }

    /// Deals the treatments over the rack and seals the key.
    ///
    /// # Errors
    /// [`StoreError::Refused`], [`StoreError::Locked`] once sealed, [`StoreError::Stale`].
    pub fn deal(&self, stamp: &Stamp, id: &str, chance: Chance, version: i64) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.sealed_at.is_some() {
                return Err(StoreError::locked("the first record has sealed the deal"));
            }
            if trial.plan.rack.design == RackDesign::ByHand {
                return Err(StoreError::locked(
                    "these places are chosen by hand; take another design to deal",
                ));
            }
            check_version(trial, version)?;
            let dealt = deal(&trial.plan.rack, trial.plan.treatments(), chance.seed)
                .map_err(|e| StoreError::refused("rack", e))?;
            let sealed = write_deal(t, &loaded, chance, &dealt, stamp.now.as_microsecond())?;
            // The history gets the commitment only: what it says must not open the key.
            let after = Some(json!({ "commitment": sealed, "units": dealt.len() }));
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action: "dealt",
                    entity: "deal",
                    id,
                    before: None,
                    after,
                },
            )?;
            step_version(t, &loaded)
        })
    }

    /// Places units by hand: which treatment stands where, in a trial whose design is by hand.
    /// Codes are shuffled.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for places that cannot be, [`StoreError::Locked`] once sealed or for
    /// dealt designs, [`StoreError::Stale`].
    pub fn place_by_hand(
        &self,
        stamp: &Stamp,
        id: &str,
        places: &[(Position, TreatmentIndex)],
        chance: Chance,
        version: i64,
    ) -> Result<i64> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.sealed_at.is_some() {
                return Err(StoreError::locked("the first record has sealed the places"));
            }
            if trial.plan.rack.design != RackDesign::ByHand {
                return Err(StoreError::locked(
                    "treatments are dealt here; choose places by hand as the design first",
                ));
            }
            check_version(trial, version)?;
            let units = placed(
                &trial.plan.rack,
                places,
                trial.plan.treatments(),
                chance.seed,
            )
            .map_err(|e| StoreError::refused("places", e))?;
            let sealed = write_deal(t, &loaded, chance, &units, stamp.now.as_microsecond())?;
            let after = Some(json!({ "commitment": sealed, "units": units.len() }));
            append(
                t,
                stamp,
                Entry {
                    trial: id,
                    action: "placed by hand",
                    entity: "deal",
                    id,
                    before: None,
                    after,
                },
            )?;
            step_version(t, &loaded)
        })
    }

    /// Sets the light of places as measured; the figures of other places stay. Once sealed, a
    /// reason is needed.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for light that cannot be or a place that is none,
    /// [`StoreError::Locked`] after the reveal.
    pub fn set_light(
        &self,
        stamp: &Stamp,
        id: &str,
        measured: &[PlaceFigure],
        (scale, kind): (LightScale, &str),
        reason: Option<&str>,
    ) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_some() {
                return Err(StoreError::locked(
                    "the key is open: records can no longer change",
                ));
            }
            let mut plan = (*trial.plan).clone();
            for light in measured {
                check_place(&plan.rack, light)?;
                plan.light
                    .retain(|l| (l.level, l.slot) != (light.level, light.slot));
                let Some(measured) = light.value else {
                    continue;
                };
                let umol =
                    umol(measured, scale, kind).map_err(|e| StoreError::refused("light", e))?;
                let (level, slot, light_kind) = (light.level, light.slot, kind.to_owned());
                plan.light.push(SlotLight {
                    level,
                    slot,
                    umol,
                    measured,
                    scale,
                    light_kind,
                });
            }
            let write = PlanWrite {
                action: "measured the light",
                plan,
                reason,
                drops_deal: false,
                undoes: None,
            };
            t.change_plan(stamp, &loaded, write)
        })
    }

    /// Sets what a site outdoors is like. It may be filled in while a trial runs.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for a text too long or a site that is none, [`StoreError::Locked`]
    /// after the reveal.
    pub fn set_site_card(&self, stamp: &Stamp, id: &str, card: &SiteCard) -> Result<()> {
        if card
            .lines()
            .iter()
            .any(|line| line.chars().count() > SiteCard::MOST_LETTERS)
        {
            return Err(StoreError::refused(
                "card",
                format!("at most {} letters a line", SiteCard::MOST_LETTERS),
            ));
        }
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            if trial.reveal.is_some() {
                return Err(StoreError::locked(
                    "the key is open: records can no longer change",
                ));
            }
            let rack = &trial.plan.rack;
            if !(1..=rack.levels).contains(&card.level) {
                let what = format!("there is no {} {}", rack.level_word(), card.level);
                return Err(StoreError::refused("level", what));
            }
            let mut plan = (*trial.plan).clone();
            plan.sites.retain(|own| own.level != card.level);
            plan.sites.push(card.clone());
            let write = PlanWrite {
                action: "described a site",
                plan,
                reason: None,
                drops_deal: false,
                undoes: None,
            };
            t.change_plan(stamp, &loaded, write)
        })
    }
}

/// The starting sizes in a space, place by place.
fn starts(rack: &Rack) -> Vec<SlotStart> {
    let places = (1..=rack.levels)
        .flat_map(|level| (1..=rack.slots).map(move |slot| Position { level, slot }));
    places
        .filter_map(|p| {
            rack.start_of(p).map(|size| SlotStart {
                level: p.level,
                slot: p.slot,
                size,
            })
        })
        .collect()
}

impl Store {
    /// Sets the starting sizes of what stands in places; None takes one out. A deal that went by
    /// them is dropped. Once sealed, a reason is needed.
    ///
    /// # Errors
    /// [`StoreError::Refused`] for sizes that cannot be or a place that is none;
    /// [`StoreError::Locked`] once sealed where the deal goes by them, and after the reveal.
    pub fn set_starts(
        &self,
        stamp: &Stamp,
        id: &str,
        sizes: &[PlaceFigure],
        reason: Option<&str>,
    ) -> Result<()> {
        self.write(stamp, |t| {
            let loaded = t.loaded(id)?;
            let trial = &loaded.trial;
            let deal_goes_by_them = trial.plan.rack.design == RackDesign::BySize
                || trial.plan.rack.within_percent.is_some();
            if trial.reveal.is_some() || (trial.sealed_at.is_some() && deal_goes_by_them) {
                return Err(StoreError::locked(
                    "the starting sizes are sealed: the deal went by them",
                ));
            }
            let mut plan = (*trial.plan).clone();
            let mut sized = starts(&plan.rack);
            for figure in sizes {
                check_place(&plan.rack, figure)?;
                let (level, slot) = (figure.level, figure.slot);
                sized.retain(|own| (own.level, own.slot) != (level, slot));
                let Some(size) = figure.value else { continue };
                if !(size > 0.0 && size <= MOST_SIZE) {
                    return Err(StoreError::refused(
                        "size",
                        format!("a starting size lies above 0, got {size}"),
                    ));
                }
                sized.push(SlotStart { level, slot, size });
            }
            plan.rack.set_starts(&sized);
            let write = PlanWrite {
                action: "measured the start",
                plan,
                reason,
                drops_deal: deal_goes_by_them,
                undoes: None,
            };
            t.change_plan(stamp, &loaded, write)
        })
    }
}

fn check_place(rack: &Rack, PlaceFigure { level, slot, .. }: &PlaceFigure) -> Result<()> {
    if (1..=rack.levels).contains(level) && (1..=rack.slots).contains(slot) {
        return Ok(());
    }
    Err(StoreError::refused(
        "slot",
        format!("there is no place {slot} on level {level}"),
    ))
}
