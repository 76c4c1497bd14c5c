//! Trials as growers run them, from plan to opened key, as values.

use iron_twin_core::ask::sees::sees_percent;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::ledger::{Facts, Known, audit};
use iron_twin_core::stores::{Held, Item, Stores};
use iron_twin_core::tend::schedule::calendar;
use iron_twin_core::trial::care::WorkDone;
use iron_twin_core::trial::deal::{Deal, Unit};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::record::pick::Pick;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::record::work::Work;
use iron_twin_core::trial::records::*;
use iron_twin_core::trial::space::{Position, RackDesign};
use iron_twin_core::trial::{Reveal, Trial};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::severity::Severity;
use jiff::civil::{Date, date};
use jiff::{Timestamp, ToSpan};
use std::sync::Arc;

const SOWN: Date = date(2026, 3, 2);

/// A trial that was grown, with the meters of its farm and the spread that was reckoned with.
#[derive(Clone)]
pub struct Grown {
    pub trial: Trial,
    pub meters: Vec<Item>,
    pub cv_percent: f64,
}

pub fn at(day: u32) -> Timestamp {
    Timestamp::from_second(1_772_000_000 + i64::from(day) * 86_400).expect("an instant")
}

pub fn head(day: u32) -> RecordHead {
    let (crop, sample, instrument) = (None, None, None);
    RecordHead {
        crop,
        sample,
        day,
        round: 1,
        at: at(day),
        entered_at: at(day),
        who: "Ada".into(),
        instrument,
        version: 1,
    }
}

pub fn reading(key: &'static str, day: u32, value: f64) -> ReadingRecord {
    ReadingRecord {
        head: head(day),
        reading: key,
        nth: 1,
        value: Some(value),
    }
}

pub fn of_sample(sample: u32, own: ReadingRecord) -> ReadingRecord {
    ReadingRecord {
        head: RecordHead {
            sample: SampleNumber::new(sample),
            ..own.head.clone()
        },
        ..own
    }
}

pub fn work(job: Job, day: u32) -> Recorded<Work> {
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

fn meter(kind: &str) -> Item {
    let held = [
        ("kind", kind),
        ("calibrated_on", "2026-03-01"),
        ("calibrate_every_days", "400"),
    ];
    let held = held.map(|(key, text)| {
        let held = text
            .parse()
            .map_or_else(|_| Held::Words(text.into()), Held::Number);
        (key.to_owned(), held)
    });
    Item {
        shelf: "meters".into(),
        name: format!("{kind} on the shelf"),
        source: String::new(),
        held: held.into(),
    }
}

/// Treatments in turn over the slots of each level, each level beginning with the next; whole
/// levels where they are dealt.
fn units(plan: &Plan) -> Vec<Unit> {
    let treatments = plan.treatments() as u32;
    let places = (1..=plan.rack.levels)
        .flat_map(|level| (1..=plan.rack.slots).map(move |slot| Position { level, slot }));
    let unit = |(n, position): (usize, Position)| {
        let turn = match plan.rack.design {
            RackDesign::Fixtures => position.level - 1,
            RackDesign::CompletelyRandomised => n as u32,
            _ => position.level - 1 + position.slot - 1,
        };
        let code = format!(
            "{}{}",
            char::from(b'A' + (n % 24) as u8),
            if n < 24 {
                String::new()
            } else {
                (n / 24).to_string()
            }
        );
        let treatment = TreatmentIndex((turn % treatments) as usize);
        Unit {
            id: n.to_string(),
            code,
            position,
            treatment,
            lost: None,
        }
    };
    places.enumerate().map(unit).collect()
}

/// The trial of a plan, grown as it says: all work done on its day, pH and EC read, everything
/// recorded on the last day, and only then the key opened.
pub fn grown(plan: Plan) -> Grown {
    let end = plan.ask.end_day;
    let mut trial = Trial::planned("x", plan);
    trial.units = Arc::new(units(&trial.plan));
    trial.sown_on = Some(SOWN);
    trial.sealed_at = Some(at(0));
    trial.deal = Some(Deal {
        seed: 1,
        nonce: [0; 32],
        commitment: String::new(),
        dealt_at: at(0),
    });
    let due = calendar(
        &trial.plan.care,
        &trial.treatment_days(),
        end,
        &WorkDone::default(),
    );
    let reads: Vec<u32> = due
        .iter()
        .filter(|(job, _)| *job == Job::Read)
        .map(|(_, day)| *day)
        .collect();
    trial.records.lists.set(
        due.into_iter()
            .filter(|(job, _)| !matches!(job, Job::Harvest | Job::Read))
            .map(|(job, day)| work(job, day))
            .collect(),
    );
    let fed = |t: TreatmentIndex| -> f64 {
        let own = trial.plan.sheet.get(t).expect("a treatment");
        own.applications
            .iter()
            .filter(|a| a.how.in_tank())
            .filter_map(|a| a.amount.figure())
            .sum()
    };
    let samples: Vec<_> = trial.plan.ask.samples().collect();
    let keys: Vec<&'static str> = trial
        .plan
        .ask
        .measures()
        .iter()
        .filter(|m| !m.source.is_weighed())
        .flat_map(|m| m.source.needs())
        .collect();
    let record = |unit: &Unit| {
        let mut own = UnitRecords::default();
        for day in &reads {
            own.readings.push(reading("ph", *day, 6.0));
            own.readings
                .push(reading("ec", *day, 0.3 + fed(unit.treatment)));
        }
        for key in &keys {
            for sample in samples
                .iter()
                .filter(|s| s.is_none() || trial.plan.ask.is_by_sample(key))
            {
                let of = reading(key, end, 3.0);
                own.readings
                    .push(sample.map_or(of.clone(), |s| of_sample(s.get(), of)));
            }
        }
        let net_g = 100.0 + f64::from(unit.position.level);
        own.own.put(Recorded::new(
            None,
            head(end),
            Weighing {
                gross_g: net_g + 288.0,
                tare_g: 288.0,
                turn: None,
            },
        ));
        Arc::new(own)
    };
    trial.records.units = trial.units.iter().map(record).collect();
    trial.reveal = Some(Reveal {
        at: at(end),
        day: end,
        weighed: trial.units.len(),
        reason: String::new(),
    });
    Grown {
        trial,
        meters: ["pH", "EC", "scale"].map(meter).to_vec(),
        cv_percent: 8.0,
    }
}

impl Grown {
    /// What was recorded of each unit, with its treatment.
    pub fn each(&mut self, change: impl Fn(usize, usize, &mut UnitRecords)) {
        let treatments: Vec<usize> = self.trial.units.iter().map(|u| u.treatment.get()).collect();
        for (i, own) in self.trial.records.units.iter_mut().enumerate() {
            change(i, treatments[i], Arc::make_mut(own));
        }
    }

    pub fn plan(&mut self) -> &mut Plan {
        Arc::make_mut(&mut self.trial.plan)
    }

    pub fn units(&mut self) -> &mut Vec<Unit> {
        Arc::make_mut(&mut self.trial.units)
    }

    /// All that was recorded on a day is of another.
    pub fn ends_on(&mut self, day: u32) {
        let last = self.trial.plan.ask.end_day;
        self.trial.records.lists.edit::<Pick>(|all| {
            all.iter_mut()
                .filter(|p| p.head.day == last)
                .for_each(|p| p.head = head(day));
        });
        self.each(|_, _, own| {
            own.own
                .edit::<Weighing>(|all| all.iter_mut().for_each(|w| w.head = head(day)));
            own.readings
                .iter_mut()
                .filter(|r| r.head.day == last && !["ph", "ec"].contains(&r.reading))
                .for_each(|r| r.head.day = day);
        });
        self.trial.reveal.as_mut().expect("opened").day = day;
    }

    /// The open findings: code, how bad, what was seen.
    pub fn open(&self) -> Vec<(&'static str, Severity, String)> {
        let known = Known {
            sees_percent: sees_percent(&self.trial, self.cv_percent),
            ..Known::default()
        };
        let last = self.trial.ended_on().unwrap_or(self.trial.plan.ask.end_day);
        let today = SOWN.checked_add(i64::from(last).days()).expect("a day");
        let facts = Facts::of(
            &self.trial,
            &Stores::with_own(self.meters.clone()),
            &known,
            today,
        );
        audit(&facts)
            .open
            .into_iter()
            .map(|f| (f.code, f.severity, f.seen))
            .collect()
    }
}
