//! Grow spaces in the store: what a change of the space, the light or the starting sizes keeps,
//! drops and refuses; rounds and crops inside units, with undo.

use crate::shelf;

use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::trial::question::Ask;
use iron_twin_core::trial::records::CropNumber;
use iron_twin_core::trial::site::LightScale;
use iron_twin_core::trial::site::SiteCard;
use iron_twin_core::trial::space::error::RackError;
use iron_twin_core::trial::space::{Position, Rack, RackDesign};
use iron_twin_store::ask::AskChange;
use iron_twin_store::place::{Chance, PlaceFigure};
use iron_twin_store::{Result, Stamp, Store, StoreError};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use jiff::civil::date;
use shelf::Take;

fn stamp() -> Stamp {
    Stamp::owner(Timestamp::from_second(40 * 86_400).expect("an instant"))
}

struct Bench {
    store: Store,
    id: String,
    _folder: tempfile::TempDir,
}

impl Bench {
    fn new() -> Result<Self> {
        let folder = tempfile::tempdir().expect("a folder");
        let store = Store::open(&folder.path().join("trials.sqlite"))?;
        let id = store.create_trial(&stamp(), "Kohlrabi")?;
        Ok(Self {
            store,
            id,
            _folder: folder,
        })
    }

    fn version(&self) -> Result<i64> {
        Ok(self.store.trial(&self.id)?.version)
    }

    fn rack(&self, rack: &Rack) -> Result<i64> {
        self.store
            .set_rack(&stamp(), &self.id, rack, self.version()?)
    }

    fn deal(&self) -> Result<i64> {
        self.store.deal(
            &stamp(),
            &self.id,
            Chance {
                seed: 5,
                nonce: [7; 32],
            },
            self.version()?,
        )
    }

    fn ask(&self, change: impl FnOnce(&mut Ask)) -> Result<i64> {
        let trial = self.store.trial(&self.id)?;
        let mut ask = trial.plan.ask.clone();
        change(&mut ask);
        let change = AskChange {
            name: trial.plan.name.clone(),
            ask,
            version: trial.version,
            reason: Some("tried".into()),
        };
        self.store.set_ask(&stamp(), &self.id, &change)
    }

    fn weigh(&self, code: &str, crop: u32, gross_g: f64) -> Result<i64> {
        let mut new = shelf::weighing(code, 1, gross_g, 20.0).confirmed();
        new.head.crop = CropNumber::new(crop);
        self.store.take(&stamp(), &self.id, &new)
    }
}

fn space(design: RackDesign, levels: u32, slots: u32) -> Rack {
    Rack {
        design,
        levels,
        slots,
        ..Rack::default()
    }
}

fn figure(level: u32, slot: u32, value: f64) -> PlaceFigure {
    PlaceFigure {
        level,
        slot,
        value: Some(value),
    }
}

#[test]
fn a_space_keeps_its_kind_and_names_and_a_new_name_keeps_the_deal() -> Result<()> {
    let bench = Bench::new()?;
    let rack = Rack {
        kind: SpaceKind::Sill,
        names: vec!["kitchen".into()],
        ..space(RackDesign::Blocks, 2, 2)
    };
    bench.rack(&rack)?;
    bench.deal()?;
    let codes: Vec<String> = bench
        .store
        .trial(&bench.id)?
        .units
        .iter()
        .map(|u| u.code.clone())
        .collect();
    bench.rack(&Rack {
        names: vec!["kitchen".into(), "stairs".into()],
        ..rack.clone()
    })?;
    let trial = bench.store.trial(&bench.id)?;
    assert_eq!(
        (trial.plan.rack.kind, trial.plan.rack.level_name(2)),
        (SpaceKind::Sill, "sill stairs".to_owned())
    );
    assert_eq!(
        trial
            .units
            .iter()
            .map(|u| u.code.clone())
            .collect::<Vec<_>>(),
        codes,
        "a name moves nobody"
    );
    bench.rack(&Rack { levels: 3, ..rack })?;
    assert!(
        bench.store.trial(&bench.id)?.deal.is_none(),
        "another shape drops the deal"
    );
    Ok(())
}

#[test]
fn sizes_make_the_deal_and_a_new_size_drops_it() -> Result<()> {
    let bench = Bench::new()?;
    bench.rack(&space(RackDesign::BySize, 1, 4))?;
    let sizes: Vec<PlaceFigure> = (1..=4)
        .map(|slot| figure(1, slot, 10.0 * f64::from(slot)))
        .collect();
    bench.store.set_starts(&stamp(), &bench.id, &sizes, None)?;
    bench.deal()?;
    assert_eq!(bench.store.trial(&bench.id)?.units.len(), 4);
    bench
        .store
        .set_starts(&stamp(), &bench.id, &[figure(1, 4, 12.0)], None)?;
    let trial = bench.store.trial(&bench.id)?;
    assert!(
        trial.deal.is_none() && trial.units.is_empty(),
        "the deal went by the old sizes"
    );
    assert_eq!(
        trial.plan.rack.start_of(Position { level: 1, slot: 4 }),
        Some(12.0)
    );
    for wrong in [
        figure(1, 1, -2.0),
        figure(1, 1, f64::NAN),
        figure(9, 1, 3.0),
    ] {
        assert!(matches!(
            bench.store.set_starts(&stamp(), &bench.id, &[wrong], None),
            Err(StoreError::Refused { .. })
        ));
    }
    let out = PlaceFigure {
        value: None,
        ..figure(1, 4, 0.0)
    };
    bench.store.set_starts(&stamp(), &bench.id, &[out], None)?;
    assert_eq!(
        bench.store.trial(&bench.id)?.plan.rack.starts,
        [Some(10.0), Some(20.0), Some(30.0), None]
    );
    Ok(())
}

#[test]
fn light_stays_when_the_space_is_dealt_anew_and_is_refused_as_a_whole() -> Result<()> {
    let bench = Bench::new()?;
    bench.rack(&space(RackDesign::Blocks, 2, 2))?;
    bench.store.set_light(
        &stamp(),
        &bench.id,
        &[figure(1, 1, 120.0)],
        (LightScale::Umol, ""),
        None,
    )?;
    bench.deal()?;
    assert_eq!(bench.store.trial(&bench.id)?.plan.light.len(), 1);
    let half = [figure(1, 2, 130.0), figure(1, 3, 140.0)];
    assert!(
        bench
            .store
            .set_light(&stamp(), &bench.id, &half, (LightScale::Umol, ""), None)
            .is_err()
    );
    assert_eq!(
        bench.store.trial(&bench.id)?.plan.light.len(),
        1,
        "all of a list or nothing"
    );
    let long = SiteCard {
        level: 1,
        shade: "x".repeat(300),
        ..SiteCard::default()
    };
    assert!(matches!(
        bench.store.set_site_card(&stamp(), &bench.id, &long),
        Err(StoreError::Refused { .. })
    ));
    Ok(())
}

#[test]
fn places_by_hand_are_only_for_that_design_and_seal_like_a_deal() -> Result<()> {
    let bench = Bench::new()?;
    let chance = Chance {
        seed: 1,
        nonce: [9; 32],
    };
    let at = |slot, treatment| (Position { level: 1, slot }, TreatmentIndex(treatment));
    bench.rack(&space(RackDesign::Blocks, 1, 4))?;
    let place = |places: &[(Position, TreatmentIndex)]| {
        bench
            .store
            .place_by_hand(&stamp(), &bench.id, places, chance, bench.version()?)
    };
    assert!(matches!(place(&[at(1, 0)]), Err(StoreError::Locked(_))));
    bench.rack(&space(RackDesign::ByHand, 1, 4))?;
    assert!(
        matches!(
            place(&[at(1, 0), at(1, 1)]),
            Err(StoreError::Refused { .. })
        ),
        "two in one place"
    );
    place(&[at(1, 0), at(3, 1)])?;
    let trial = bench.store.trial(&bench.id)?;
    assert_eq!((trial.units.len(), trial.units_each()), (2, 1));
    assert_eq!(trial.deal.as_ref().expect("a seal").commitment.len(), 64);
    place(&[])?;
    assert!(
        bench.store.trial(&bench.id)?.deal.is_none(),
        "nothing placed, nothing sealed"
    );
    Ok(())
}

#[test]
fn a_bound_that_no_deal_keeps_is_refused_and_changes_nothing() -> Result<()> {
    let bench = Bench::new()?;
    let rack = Rack {
        within_percent: Some(0.5),
        ..space(RackDesign::Blocks, 1, 2)
    };
    bench.rack(&rack)?;
    bench.store.set_starts(
        &stamp(),
        &bench.id,
        &[figure(1, 1, 10.0), figure(1, 2, 20.0)],
        None,
    )?;
    let refused = bench.deal().unwrap_err().to_string();
    assert!(refused.contains("the closest left"), "{refused}");
    assert!(bench.store.trial(&bench.id)?.deal.is_none());
    assert_eq!(
        Rack {
            within_percent: Some(0.0),
            ..rack
        }
        .check(2),
        Err(RackError::Within(0.0))
    );
    Ok(())
}

#[test]
fn work_and_days_belong_to_their_round() -> Result<()> {
    let bench = Bench::new()?;
    bench.rack(&space(RackDesign::SwapOver, 2, 2))?;
    bench.deal()?;
    bench.store.sow(&stamp(), &bench.id, date(1970, 1, 1))?;
    bench.store.job_done(&stamp(), &bench.id, Job::Feed, 4)?;
    let codes: Vec<(String, u32)> = bench
        .store
        .trial(&bench.id)?
        .units
        .iter()
        .map(|u| (u.code.clone(), u.position.level))
        .collect();
    for (code, _) in codes.iter().filter(|(_, round)| *round == 1) {
        bench.weigh(code, 0, 120.0)?;
    }
    let later = codes
        .iter()
        .find(|(_, round)| *round == 2)
        .expect("a later system");
    assert!(matches!(
        bench.weigh(&later.0, 0, 120.0),
        Err(StoreError::Locked(_))
    ));
    bench.store.sow(&stamp(), &bench.id, date(1970, 1, 20))?;
    let trial = bench.store.trial(&bench.id)?;
    assert_eq!(
        (trial.round, trial.work_done().jobs.as_slice()),
        (2, [(Job::Sow, 0)].as_slice()),
        "the feeding was of round 1"
    );
    assert_eq!((trial.open_units(), trial.has_next_round()), (2, false));
    bench.weigh(&later.0, 0, 120.0)?;
    let first = codes
        .iter()
        .find(|(_, round)| *round == 1)
        .expect("a first system");
    let reading = shelf::reading(&first.0, "ph", 1, Some(6.0));
    assert!(matches!(
        bench.store.take(&stamp(), &bench.id, &reading),
        Err(StoreError::Locked(_))
    ));
    Ok(())
}

#[test]
fn crops_are_weighed_one_by_one_and_taken_back_one_by_one() -> Result<()> {
    let bench = Bench::new()?;
    bench.ask(|ask| ask.crops_inside = vec!["basil".into(), "dill".into()])?;
    bench.rack(&space(RackDesign::Blocks, 1, 2))?;
    bench.deal()?;
    bench.store.sow(&stamp(), &bench.id, date(1970, 1, 1))?;
    let code = bench.store.trial(&bench.id)?.units[0].code.clone();
    bench.weigh(&code, 1, 120.0)?;
    assert!(
        !bench.store.trial(&bench.id)?.is_recorded(UnitIndex(0)),
        "dill is missing"
    );
    bench.weigh(&code, 2, 90.0)?;
    assert!(bench.store.trial(&bench.id)?.is_recorded(UnitIndex(0)));
    assert!(
        matches!(bench.weigh(&code, 0, 90.0), Err(StoreError::Refused { .. })),
        "which crop?"
    );
    assert_eq!(
        bench.store.undo(&stamp(), &bench.id)?.action,
        format!("weighed {code}, dill: 70 g")
    );
    let trial = bench.store.trial(&bench.id)?;
    let left: Vec<_> = trial
        .of_unit(UnitIndex(0))
        .weighings()
        .iter()
        .map(|w| w.head.crop)
        .collect();
    assert_eq!(left, [CropNumber::new(1)]);
    assert!(matches!(
        bench.ask(|ask| ask.crops_inside.clear()),
        Err(StoreError::Locked(_))
    ));
    bench.ask(|ask| ask.crops_inside[0] = "sweet basil".into())?;
    assert_eq!(
        bench.store.trial(&bench.id)?.changes[0].change.field,
        "crops that share a unit",
        "a name may be mended, and shows"
    );
    Ok(())
}

#[test]
fn money_is_settled_into_the_measure_before_the_seal() -> Result<()> {
    let bench = Bench::new()?;
    bench.ask(|ask| {
        (ask.margin_money, ask.price_per_kg, ask.usual_per_unit) =
            (Some(0.6), Some(30.0), Some(200.0))
    })?;
    let ask = bench.store.trial(&bench.id)?.plan.ask.clone();
    assert_eq!(
        ask.margin,
        iron_twin_terms::quantity::Margin::Absolute(20.0)
    );
    let refused = bench.ask(|ask| (ask.price_per_kg, ask.margin_money) = (None, Some(1.0)));
    assert!(matches!(
        refused,
        Err(StoreError::Refused {
            field: "margin",
            ..
        })
    ));
    Ok(())
}

/// Once the first record has sealed the plan, sizes and light are set with a reason, which is kept
/// beside what changed.
#[test]
fn sizes_and_light_after_the_first_record_want_a_reason() -> Result<()> {
    let bench = Bench::new()?;
    bench.rack(&space(RackDesign::Blocks, 2, 2))?;
    bench
        .store
        .set_starts(&stamp(), &bench.id, &[figure(1, 1, 10.0)], None)?;
    bench.deal()?;
    bench.store.sow(&stamp(), &bench.id, date(1970, 1, 1))?;
    let code = bench.store.trial(&bench.id)?.units[0].code.clone();
    bench.weigh(&code, 0, 100.0)?;
    let (lamp, umol) = ([figure(1, 2, 130.0)], (LightScale::Umol, ""));
    let refused = |done: Result<()>| {
        matches!(
            done,
            Err(StoreError::Refused {
                field: "reason",
                ..
            })
        )
    };
    for reason in [None, Some("  ")] {
        assert!(
            refused(
                bench
                    .store
                    .set_starts(&stamp(), &bench.id, &[figure(1, 1, 11.0)], reason)
            ),
            "{reason:?}"
        );
        assert!(
            refused(
                bench
                    .store
                    .set_light(&stamp(), &bench.id, &lamp, umol, reason)
            ),
            "{reason:?}"
        );
    }
    // What stands there already changes nothing.
    bench
        .store
        .set_starts(&stamp(), &bench.id, &[figure(1, 1, 10.0)], None)?;
    bench.store.set_starts(
        &stamp(),
        &bench.id,
        &[figure(1, 1, 11.0)],
        Some("read off the wrong line"),
    )?;
    bench.store.set_light(
        &stamp(),
        &bench.id,
        &lamp,
        umol,
        Some("the meter came today"),
    )?;
    let trial = bench.store.trial(&bench.id)?;
    let told: Vec<_> = trial
        .changes
        .iter()
        .map(|c| {
            (
                c.change.field,
                c.change.before.as_str(),
                c.change.after.as_str(),
                c.reason.as_str(),
            )
        })
        .collect();
    assert_eq!(
        told,
        [
            (
                "starting sizes",
                "10 in 1.1",
                "11 in 1.1",
                "read off the wrong line"
            ),
            ("light", "none in 1.2", "130 in 1.2", "the meter came today"),
        ]
    );
    Ok(())
}
