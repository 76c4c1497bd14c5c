//! One sound trial; for each rule exactly one thing is broken in its plan or its records, and
//! exactly that finding opens; mended, it is gone. Fails where a rule has no such fault.

use super::*;
use crate::catalogue::deeds::Job;
use crate::catalogue::fixtures::{Fixture, Serves};
use crate::catalogue::spaces::SpaceKind;
use crate::stores::{Held, Item, Stores};
use crate::trial::application::{Amount, Application, How, Role, When};
use crate::trial::changes::{Change, PlanChange};
use crate::trial::deal::{Deal, Loss, Unit};
use crate::trial::plan::Plan;
use crate::trial::record::gone::{Gone, GoneWhy};
use crate::trial::record::look::{Look, LookAnswer};
use crate::trial::record::note::Note;
use crate::trial::record::pick::Pick;
use crate::trial::record::weather::Weather;
use crate::trial::record::weighing::Weighing;
use crate::trial::record::work::Work;
use crate::trial::records::*;
use crate::trial::site::SlotLight;
use crate::trial::space::{Position, RackDesign};
use crate::trial::{Reveal, Trial};
use iron_twin_terms::goal::Goal;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::Timestamp;
use jiff::civil::{Date, date};
use std::sync::Arc;

/// A trial with what stands beside it.
#[derive(Clone)]
struct Case {
    trial: Trial,
    meters: Vec<Item>,
    known: Known,
    today: Date,
}

const SOWN: Date = date(2026, 3, 2);

fn meter(kind: &str, calibrated: &str) -> Item {
    let held = [("kind", kind), ("calibrated_on", calibrated)];
    let held = held
        .map(|(key, text)| (key.to_owned(), Held::Words(text.into())))
        .into();
    Item {
        shelf: "meters".into(),
        name: format!("{kind} on the shelf"),
        source: String::new(),
        held,
    }
}

fn at(day: u32) -> Timestamp {
    Timestamp::from_second(1_772_000_000 + i64::from(day) * 86_400).unwrap()
}

fn head(day: u32) -> RecordHead {
    RecordHead {
        at: at(day),
        entered_at: at(day),
        ..record_head(day)
    }
}

fn reading(reading: &'static str, day: u32, value: f64) -> ReadingRecord {
    ReadingRecord {
        head: head(day),
        reading,
        nth: 1,
        value: Some(value),
    }
}

fn work(job: Job, day: u32) -> Recorded<Work> {
    Recorded::new(
        None,
        head(day),
        Work {
            job,
            ml_a_unit: None,
            skipped: None,
        },
    )
}

/// Four shelves of four trays, two of each treatment on each, one of them at an edge; fed on days
/// 4, 6, 8 and 10; weighed on day 12, and still sealed.
fn sealed() -> Case {
    let mut plan = Plan::usual("Amaranth");
    plan.ask.crop = "red amaranth".into();
    plan.rack.starts = vec![Some(10.0); 16];
    let places = (1..=4).flat_map(|level| (1..=4).map(move |slot| Position { level, slot }));
    let unit = |(n, position): (usize, Position)| Unit {
        id: n.to_string(),
        code: char::from(b'A' + n as u8).to_string(),
        position,
        treatment: TreatmentIndex(((position.level + position.slot) % 2) as usize),
        lost: None,
    };
    let mut trial = Trial::planned("x", plan);
    trial.units = Arc::new(places.enumerate().map(unit).collect());
    trial.sown_on = Some(SOWN);
    trial.sealed_at = Some(at(0));
    trial.deal = Some(Deal {
        seed: 1,
        nonce: [0; 32],
        commitment: String::new(),
        dealt_at: at(0),
    });
    trial
        .records
        .lists
        .set(vec![work(Job::Sow, 0), work(Job::EndBlackout, 3)]);
    trial
        .records
        .lists
        .edit(|all| all.extend([4, 6, 8, 10].map(|day| work(Job::Feed, day))));
    let of = |unit: &Unit| {
        let fed = unit.treatment.get() as f64;
        let mut own = UnitRecords::default();
        for day in [4, 6, 8, 10] {
            own.readings.push(reading("ph", day, 6.0));
            own.readings.push(reading("ec", day, 0.3 + fed));
        }
        own.readings.push(reading("height", 12, 70.0 + 10.0 * fed));
        let net_g = 90.0 + 20.0 * fed + f64::from(unit.position.level);
        own.own.put(Recorded::new(
            None,
            head(12),
            Weighing {
                gross_g: net_g + 288.0,
                tare_g: 288.0,
                turn: None,
            },
        ));
        Arc::new(own)
    };
    trial.records.units = trial.units.iter().map(of).collect();
    let meters = vec![
        meter("pH", "2026-03-01"),
        meter("EC", "2026-02-20"),
        meter("scale", "2026-01-10"),
    ];
    let known = Known {
        sees_percent: Some(9.0),
        ..Known::default()
    };
    Case {
        trial,
        meters,
        known,
        today: date(2026, 3, 14),
    }
}

/// The same with the key opened on its last day.
fn opened() -> Case {
    let mut case = sealed();
    case.trial.reveal = Some(Reveal {
        at: at(12),
        day: 12,
        weighed: 16,
        reason: String::new(),
    });
    case
}

impl Case {
    fn work(&mut self, change: impl FnOnce(&mut Vec<Recorded<Work>>)) {
        self.trial.records.lists.edit(change);
    }

    fn plan(&mut self) -> &mut Plan {
        Arc::make_mut(&mut self.trial.plan)
    }

    fn applications(&mut self, treatment: usize) -> &mut Vec<Application> {
        &mut self.plan().sheet.treatments[treatment].applications
    }

    fn units(&mut self) -> &mut Vec<Unit> {
        Arc::make_mut(&mut self.trial.units)
    }

    /// What was recorded of each unit, with its treatment.
    fn each(&mut self, change: impl Fn(usize, usize, &mut UnitRecords)) {
        let treatments: Vec<usize> = self.trial.units.iter().map(|u| u.treatment.get()).collect();
        for (i, own) in self.trial.records.units.iter_mut().enumerate() {
            change(i, treatments[i], Arc::make_mut(own));
        }
    }

    /// What is fed is given in another way, on days of its own.
    fn given(&mut self, how: How) {
        for t in 0..2 {
            for a in self.applications(t) {
                (a.how, a.when) = (how, When::Days(vec![4, 6, 8, 10]));
            }
        }
        self.work(|all| {
            for work in all.iter_mut().filter(|w| w.job == Job::Feed) {
                work.is.job = Job::Apply;
            }
        });
        // All stand in plain water then.
        self.plan().care.feed_every = 0;
        self.each(|_, _, own| {
            own.readings
                .iter_mut()
                .filter(|r| r.reading == "ec")
                .for_each(|r| r.value = Some(1.0))
        });
    }

    fn audit(&self) -> Ledger {
        let stores = Stores::with_own(self.meters.clone());
        audit(&Facts::of(&self.trial, &stores, &self.known, self.today))
    }

    fn open(&self) -> Vec<&'static str> {
        self.audit().open.iter().map(|f| f.code).collect()
    }
}

/// What is broken and how it is mended, of a sealed or an opened trial; what opens beside it where
/// one cannot be without the other.
struct Fault {
    code: &'static str,
    of: fn() -> Case,
    breaks: fn(&mut Case),
    mends: fn(&mut Case),
    beside: &'static [&'static str],
}

const fn fault(
    code: &'static str,
    of: fn() -> Case,
    breaks: fn(&mut Case),
    mends: fn(&mut Case),
) -> Fault {
    Fault {
        code,
        of,
        breaks,
        mends,
        beside: &[],
    }
}

fn sealed_plan() -> Plan {
    (*sealed().trial.plan).clone()
}

const FAULTS: &[Fault] = &[
    fault(
        "no_plain_control",
        sealed,
        |c| c.plan().ask.goal = Goal::Match,
        |c| c.plan().ask.goal = Goal::Beat,
    ),
    fault(
        "more_than_one_difference",
        sealed,
        |c| c.plan().sheet.treatments[1].set("handling", "brushed daily"),
        |c| c.plan().sheet.treatments[0].set("handling", "brushed daily"),
    ),
    fault(
        "hidden_difference",
        sealed,
        |c| {
            let silicate = Application::stirred(Role::Additive, "potassium silicate solution", 1.0);
            *c.applications(0) = c.applications(1).clone();
            c.applications(1).push(silicate);
        },
        |c| *c.plan() = sealed_plan(),
    ),
    fault(
        "composition_unknown",
        sealed,
        |c| c.applications(1)[0] = Application::stirred(Role::Additive, "secret tonic", 1.0),
        |c| *c.plan() = sealed_plan(),
    ),
    fault(
        "starved",
        sealed,
        |c| c.applications(1)[0].amount = Amount::OfLabel(0.02),
        |c| c.applications(1)[0].amount = Amount::OfLabel(1.0),
    ),
    fault(
        "one_unit_per_treatment",
        sealed,
        |c| {
            (c.plan().rack.levels, c.plan().rack.slots) = (1, 2);
            c.units().truncate(2);
            c.trial.records.units.truncate(2);
        },
        |c| c.trial = sealed().trial,
    ),
    fault(
        "shared_unit",
        sealed,
        |c| {
            _ = c
                .plan()
                .rack
                .serves
                .insert(Fixture::Reservoir, Serves::Level)
        },
        |c| {
            _ = c
                .plan()
                .rack
                .serves
                .insert(Fixture::Reservoir, Serves::Place)
        },
    ),
    fault(
        "too_few_to_tell",
        sealed,
        |c| c.known.sees_percent = Some(34.0),
        |c| c.known.sees_percent = Some(9.0),
    ),
    fault(
        "many_measures",
        sealed,
        |c| {
            let also = [
                "height",
                "leaf_count",
                "spread",
                "flowers",
                "canopy_cover",
                "brix",
            ];
            c.plan().ask.also = also.map(String::from).to_vec();
        },
        |c| c.plan().ask.also.truncate(3),
    ),
    fault(
        "outgrown",
        sealed,
        |c| c.plan().ask.crop = "radish".into(),
        |c| c.plan().ask.crop = "red amaranth".into(),
    ),
    Fault {
        beside: &["not_blind"],
        ..fault(
            "not_dealt_at_random",
            opened,
            |c| c.plan().rack.design = RackDesign::ByHand,
            |c| c.plan().rack.design = RackDesign::Blocks,
        )
    },
    Fault {
        beside: &["not_blind", "not_dealt_at_random"],
        ..fault(
            "uneven_blocks",
            opened,
            |c| {
                c.plan().rack.design = RackDesign::ByHand;
                // Inner slots of the lowest two shelves change places.
                let (a, b) = (c.units()[1].treatment, c.units()[5].treatment);
                (c.units()[1].treatment, c.units()[5].treatment) = (b, a);
            },
            |c| c.trial = opened().trial,
        )
    },
    fault(
        "edge_or_light_uneven",
        opened,
        |c| {
            let light = |u: &Unit| SlotLight {
                level: u.position.level,
                slot: u.position.slot,
                umol: 120.0 + 30.0 * u.treatment.get() as f64,
                ..SlotLight::default()
            };
            c.plan().light = c.trial.units.iter().map(light).collect::<Vec<_>>();
        },
        |c| c.plan().light.iter_mut().for_each(|l| l.umol = 150.0),
    ),
    fault(
        "spill_over",
        sealed,
        |c| c.given(How::Sprayed),
        |c| c.given(How::OnSeed),
    ),
    fault(
        "unequal_start",
        opened,
        |c| {
            c.plan().rack.starts = (0..16)
                .map(|n| Some(10.0 + 2.0 * f64::from((n / 4 + n % 4) % 2)))
                .collect()
        },
        |c| c.plan().rack.starts = vec![Some(10.0); 16],
    ),
    fault(
        "not_blind",
        sealed,
        |c| c.trial.pouring_sheets = 2,
        |c| c.trial.pouring_sheets = 0,
    ),
    fault(
        "different_hands",
        opened,
        |c| {
            c.each(|_, t, own| {
                own.readings
                    .iter_mut()
                    .for_each(|r| r.head.who = ["Ada", "Bo"][t].into())
            })
        },
        |c| {
            c.each(|i, _, own| {
                own.readings
                    .iter_mut()
                    .for_each(|r| r.head.who = ["Ada", "Bo"][i / 4 % 2].into())
            })
        },
    ),
    fault(
        "not_given",
        sealed,
        |c| c.work(|all| all.retain(|w| w.job != Job::Feed || w.head.day == 4)),
        // Entered late.
        |c| c.work(|all| all.extend([6, 8, 10].map(|day| work(Job::Feed, day)))),
    ),
    fault(
        "unequal_care",
        sealed,
        |c| {
            c.each(|i, _, own| {
                own.readings
                    .push(reading("level", 8, if i < 3 { 0.0 } else { 0.4 }))
            })
        },
        |c| {
            c.each(|_, _, own| {
                own.readings
                    .iter_mut()
                    .filter(|r| r.reading == "level")
                    .for_each(|r| r.value = Some(0.2))
            })
        },
    ),
    Fault {
        beside: &["spill_over"],
        ..fault(
            "carry_over",
            sealed,
            |c| {
                c.applications(0)
                    .push(Application::stirred(Role::Feed, "grow feed", 0.0));
                c.given(How::Sprayed);
            },
            |c| c.work(|all| all.extend([4, 6, 8, 10].map(|day| work(Job::Rinse, day)))),
        )
    },
    fault(
        "solution_drift",
        sealed,
        |c| {
            c.each(|_, _, own| {
                own.readings
                    .iter_mut()
                    .filter(|r| r.reading == "ph")
                    .for_each(|r| r.value = Some(7.4))
            })
        },
        |c| {
            c.each(|_, _, own| {
                own.readings
                    .iter_mut()
                    .filter(|r| r.reading == "ph")
                    .for_each(|r| r.value = Some(6.2))
            })
        },
    ),
    fault(
        "weather_differed",
        outdoors,
        |c| c.trial.records.lists.set::<Weather>(Vec::new()),
        |c| c.trial.records.lists.set((0..13).map(dry_day).collect()),
    ),
    fault(
        "uncalibrated",
        sealed,
        |c| c.meters[0] = meter("pH", "2025-11-01"),
        |c| c.meters[0] = meter("pH", "2026-03-10"),
    ),
    fault(
        "gap_in_log",
        sealed,
        |c| {
            (c.plan().care.feed_every, c.plan().care.read_every) = (6, 6);
            c.work(|all| all.retain(|w| ![6, 8].contains(&w.head.day)));
            c.each(|_, _, own| own.readings.retain(|r| ![6, 8].contains(&r.head.day)));
        },
        |c| {
            c.trial.records.put(Recorded::new(
                None,
                head(7),
                Note {
                    text: "all well".into(),
                },
            ))
        },
    ),
    fault(
        "measured_late",
        sealed,
        |c| {
            c.plan().ask.judged_on.insert("height".into(), vec![7]);
            c.each(|i, _, own| {
                own.readings
                    .push(reading("height", if i == 0 { 8 } else { 7 }, 40.0))
            });
        },
        |c| {
            c.each(|i, _, own| {
                if i == 0 {
                    own.readings.push(reading("height", 7, 38.0))
                }
            })
        },
    ),
    fault(
        "unequal_stand",
        opened,
        |c| {
            c.plan().ask.samples_inside = 4;
            c.trial.records.lists.set(thinned(c));
        },
        |c| c.trial.records.lists.set::<Gone>(Vec::new()),
    ),
    fault(
        "only_the_best",
        sealed,
        |c| {
            (c.plan().ask.samples_inside, c.plan().ask.weigh_samples) = (4, true);
            c.each(|_, _, own| weigh_samples(own, 3));
        },
        |c| c.each(|_, _, own| weigh_samples(own, 4)),
    ),
    fault(
        "losses",
        sealed,
        |c| {
            c.units()[3].lost = Some(Loss {
                reason: "mould".into(),
                day: Some(9),
            })
        },
        |c| c.units()[3].lost = None,
    ),
    fault(
        "picked_early",
        sealed,
        |c| c.trial.records.lists.set((0..3).map(kitchen).collect()),
        |c| c.trial.records.lists.set((0..16).map(kitchen).collect()),
    ),
    fault(
        "looked_early",
        sealed,
        |c| c.trial.records.put(look(7)),
        // It had been planned.
        |c| c.plan().ask.looks_on = vec![7],
    ),
    fault(
        "stopped_early",
        sealed,
        |c| {
            c.each(|_, _, own| own.own.edit::<Weighing>(|all| all[0].head.day = 10));
            c.each(|_, _, own| own.readings.retain(|r| r.reading != "height"));
        },
        |c| c.plan().ask.end_stage = "first true leaf".into(),
    ),
    fault(
        "ran_late",
        sealed,
        |c| {
            c.each(|_, _, own| own.own.edit::<Weighing>(|all| all[0].head.day = 15));
            c.today = date(2026, 3, 17);
        },
        |c| c.each(|_, _, own| own.own.edit::<Weighing>(|all| all[0].head.day = 12)),
    ),
    fault(
        "goal_posts_moved",
        sealed,
        |c| {
            let change = Change {
                field: "margin",
                before: "10%".into(),
                after: "5%".into(),
            };
            c.trial.changes.push(PlanChange {
                at: at(9),
                change,
                reason: "hope".into(),
                added: Vec::new(),
            });
        },
        |c| c.trial.changes.clear(),
    ),
];

/// The same on plots outdoors: fed beside the soil, by hand.
fn outdoors() -> Case {
    let mut case = sealed();
    case.plan().rack.kind = SpaceKind::Sites;
    case.plan().care.read_every = 0;
    case.trial.records.lists.set((0..13).map(dry_day).collect());
    case
}

fn dry_day(day: u32) -> Recorded<Weather> {
    Recorded::new(
        None,
        head(day),
        Weather {
            rain_mm: Some(0.0),
            low_c: Some(9.0),
            high_c: Some(22.0),
        },
    )
}

fn thinned(case: &Case) -> Vec<Recorded<Gone>> {
    let fed = case
        .trial
        .each_unit()
        .filter(|(_, u)| u.treatment == TreatmentIndex(1));
    let gone = |(unit, _): (UnitIndex, &Unit)| {
        Recorded::new(
            Some(unit),
            RecordHead {
                sample: SampleNumber::new(4),
                ..head(5)
            },
            Gone {
                why: GoneWhy::Thinned,
                note: String::new(),
            },
        )
    };
    fed.map(gone).collect()
}

/// The first so many of four plants are weighed one by one.
fn weigh_samples(own: &mut UnitRecords, n: u32) {
    let whole = own.weighings()[0].clone();
    let of = |sample| {
        Recorded::new(
            None,
            RecordHead {
                sample: SampleNumber::new(sample),
                ..whole.head.clone()
            },
            Weighing {
                gross_g: 45.0,
                tare_g: 20.0,
                turn: None,
            },
        )
    };
    own.own.set((1..=n).map(of).collect());
}

fn kitchen(unit: usize) -> Recorded<Pick> {
    Recorded::new(
        Some(UnitIndex(unit)),
        head(8),
        Pick {
            gross_g: 20.0,
            tare_g: 0.0,
            pieces: None,
            grade: String::new(),
            aside: true,
        },
    )
}

fn look(day: u32) -> Recorded<Look> {
    Recorded::new(
        None,
        head(day),
        Look {
            measure: "harvest_weight".into(),
            answer: LookAnswer::CannotTell,
        },
    )
}

fn sorted(codes: impl IntoIterator<Item = &'static str>) -> Vec<&'static str> {
    let mut all: Vec<&str> = codes.into_iter().collect();
    all.sort_unstable();
    all
}

#[test]
fn a_sound_trial_opens_nothing_but_how_far_it_reaches() {
    assert_eq!(
        (sealed().open(), opened().open()),
        (vec![], vec!["narrow_claim"])
    );
    assert!(
        opened().audit().waits.is_empty(),
        "{:?}",
        opened().audit().waits
    );
}

#[test]
fn each_fault_opens_its_finding_and_mended_none() {
    let mut wrong = Vec::new();
    for fault in FAULTS {
        let mut case = (fault.of)();
        let usual = case.open();
        (fault.breaks)(&mut case);
        let expected = sorted(
            usual
                .iter()
                .copied()
                .chain([fault.code])
                .chain(fault.beside.iter().copied()),
        );
        if sorted(case.open()) != expected {
            let seen: Vec<_> = case
                .audit()
                .open
                .into_iter()
                .map(|f| (f.code, f.seen))
                .collect();
            wrong.push(format!("{} broken: {seen:?}", fault.code));
        }
        (fault.mends)(&mut case);
        let left = sorted(case.open());
        let of_its_own = left.contains(&fault.code);
        let beside = left
            .iter()
            .any(|code| !usual.contains(code) && !fault.beside.contains(code));
        if of_its_own || beside {
            wrong.push(format!("{} mended: {left:?}", fault.code));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn every_rule_has_a_fault() {
    // What a result does not cover follows every result.
    let faults = sorted(FAULTS.iter().map(|f| f.code).chain(["narrow_claim"]));
    assert_eq!(faults, sorted(rules::ALL.iter().map(|r| r.code)));
}
