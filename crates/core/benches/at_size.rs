//! A trial at its size, 64 units on eight levels, two of each of four treatments on each, 60 days,
//! seven readings a day of each unit: what the ledger and Judge take, beside one pass over all its
//! readings in the same run.

use criterion::{criterion_group, criterion_main};
use iron_twin_core::after::criteria::{measured, offers, proposed};
use iron_twin_core::after::money::{Money, money};
use iron_twin_core::after::next_trial::{Suggestion, Told};
use iron_twin_core::after::ranking::{Ranked, ranked};
use iron_twin_core::after::scorecard::{Figure, Outcome, Scored, outcome};
use iron_twin_core::after::why::{Why, why};
use iron_twin_core::ask::sees::sees_percent;
use iron_twin_core::ledger::trust::{Trust, trust};
use iron_twin_core::ledger::{Claims, Facts, Known, audit};
use iron_twin_core::stores::Stores;
use iron_twin_core::stores::prices::Prices;
use iron_twin_core::trial::deal::{Deal, Unit};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::records::{ReadingRecord, RecordHead, Recorded, UnitRecords};
use iron_twin_core::trial::scorecard::Criterion;
use iron_twin_core::trial::space::{Position, RackDesign};
use iron_twin_core::trial::{Reveal, Trial};
use iron_twin_core::verdict::by_crop::crop_effects;
use iron_twin_core::verdict::comparison::{analysis, dose};
use iron_twin_core::verdict::efficacy::efficacies;
use iron_twin_core::verdict::figures::dots;
use iron_twin_core::verdict::gone::gone;
use iron_twin_core::verdict::pictures::{Picture, pictures};
use iron_twin_core::weigh::courses::courses;
use iron_twin_judge::expected::held;
use iron_twin_judge::result::Contrast;
use iron_twin_judge::secondary::beside_one_another;
use iron_twin_judge::side_by_side::{Row, row};
use iron_twin_terms::indices::TreatmentIndex;
use jiff::Timestamp;
use jiff::civil::{Date, date};
use std::hint::black_box;
use std::sync::Arc;

const UNITS: usize = 64;
const TREATMENTS: usize = 4;
const LEVELS: u32 = 8;
const SLOTS: u32 = 8;
const DAYS: u32 = 60;
const READ: [&str; 7] = [
    "height",
    "leaf_count",
    "spread",
    "yellow_leaf",
    "affected_area",
    "ph",
    "ec",
];

/// Between -1 and 1, made up.
fn noise(i: usize, j: usize) -> f64 {
    2.0 * ((i as f64 * 12.9898 + j as f64 * 78.233).sin() * 43_758.545_3).fract()
}

fn head(day: u32) -> RecordHead {
    let at = Timestamp::UNIX_EPOCH;
    let (crop, sample, who) = (None, None, Arc::from("Ana"));
    RecordHead {
        crop,
        sample,
        day,
        round: 1,
        at,
        entered_at: at,
        who,
        instrument: None,
        version: 1,
    }
}

fn plan() -> Plan {
    let mut plan = Plan::usual("Amaranth");
    (plan.rack.levels, plan.rack.slots) = (LEVELS, SLOTS);
    let feed = plan.sheet.treatments[1].clone();
    for share in [0.5, 0.75] {
        let mut own = feed.clone();
        own.name = format!("{share} feed");
        own.applications[0].amount = iron_twin_core::trial::application::Amount::OfLabel(share);
        plan.sheet.treatments.push(own);
    }
    plan.ask.end_day = DAYS;
    plan.ask.crop = "amaranth".into();
    // Twelve measures: the weight, and eleven figures of the readings.
    let also = [
        "height",
        "leaf_count",
        "spread",
        "yellow_leaf",
        "affected_area",
        "height_rate",
        "height_area",
        "height_gained",
        "leaves_gained",
        "affected_area_track",
    ];
    plan.ask.also = also.map(str::to_owned).to_vec();
    plan.ask.judged_on = [("height".to_owned(), vec![30, DAYS])].into();
    plan
}

fn trial() -> Trial {
    let mut trial = Trial::planned("x", plan());
    let unit = |n: usize| Unit {
        id: n.to_string(),
        code: format!("{n}"),
        position: Position {
            level: n as u32 / SLOTS + 1,
            slot: n as u32 % SLOTS + 1,
        },
        treatment: TreatmentIndex((n + n / 4) % TREATMENTS),
        lost: None,
    };
    trial.units = Arc::new((0..UNITS).map(unit).collect());
    let at = Timestamp::UNIX_EPOCH;
    trial.deal = Some(Deal {
        seed: 1,
        nonce: [0; 32],
        commitment: String::new(),
        dealt_at: at,
    });
    (trial.sown_on, trial.sealed_at) = (Some(date(2026, 3, 2)), Some(at));
    trial.reveal = Some(Reveal {
        at,
        day: DAYS,
        weighed: UNITS,
        reason: String::new(),
    });
    let records = |n: usize| {
        let lead = ((n + n / 4) % TREATMENTS) as f64;
        let one = |day: u32, (k, reading): (usize, &'static str)| {
            let value = match reading {
                "ph" => 6.0 + 0.1 * noise(n, day as usize),
                "ec" => 1.4 + 0.05 * noise(n, day as usize + 1),
                _ => (10.0 + f64::from(day) + 2.0 * lead + noise(n, k + 7 * day as usize)).round(),
            };
            ReadingRecord {
                head: head(day),
                reading,
                nth: 1,
                value: Some(value),
            }
        };
        let all =
            (1..=DAYS).flat_map(|day| READ.into_iter().enumerate().map(move |own| one(day, own)));
        let net_g = 100.0 + 4.0 * lead + 6.0 * noise(n, 3);
        let weighing = Recorded::new(
            None,
            head(DAYS),
            Weighing {
                gross_g: net_g,
                tare_g: 0.0,
                turn: None,
            },
        );
        Arc::new(UnitRecords {
            readings: all.collect(),
            own: [weighing].into_iter().collect(),
        })
    };
    trial.records.units = (0..UNITS).map(records).collect();
    trial
}

/// The same as if it had been dealt over the whole shelf: fewer deals can be listed, more must be
/// drawn unit by unit.
fn completely_randomised(trial: &Trial) -> Trial {
    let mut free = trial.clone();
    Arc::make_mut(&mut free.plan).rack.design = RackDesign::CompletelyRandomised;
    free
}

/// The least that anything could do: look at every reading once.
fn one_pass(trial: &Trial) -> f64 {
    trial
        .records
        .units
        .iter()
        .flat_map(|u| &u.readings)
        .filter_map(|r| r.value)
        .sum()
}

/// All that the page of Judge shows of an opened trial, with one measure picked.
struct Page {
    rows: Vec<Row>,
    ranked: Option<Ranked>,
    enough: Option<String>,
    drawn: Vec<Picture>,
    money: Option<Money>,
    trust: Trust,
    why: Option<Why>,
    suggestions: Vec<Suggestion>,
    card: Outcome,
}

/// Whatever hangs on a page is worked out once, as the server does, and nothing is kept from the
/// last time.
fn page(trial: &Trial, picked: Judged, (stores, prices, today): (&Stores, &Prices, Date)) -> Page {
    let judged = trial.plan.ask.judged();
    let mut all: Vec<_> = judged
        .iter()
        .map(|j| analysis(trial, *j, None, None).expect("an analysis"))
        .collect();
    let decides = all[0].clone();
    let figures: Vec<_> = all.clone();
    beside_one_another(&mut all[1..]);
    let ranked = ranked(trial, trial.decides(), None);
    let best = ranked.as_ref().map_or(&[][..], |own| &own.may_be_best);

    let own_cv = decides.residual.cv_percent.unwrap_or(0.0);
    let named = |c: &Contrast| Some((trial.plan.sheet.named(&c.treatment)?, c.percent?));
    let claimed = decides
        .contrasts
        .iter()
        .filter(|c| c.verdict.claims_difference());
    let claims = Claims {
        decided: claimed.clone().count(),
        differences: claimed.filter_map(named).collect(),
    };
    let known = Known {
        sees_percent: sees_percent(trial, own_cv),
        claims,
        ..Known::default()
    };
    let ledger = audit(&Facts::of(trial, stores, &known, today));
    let trust = trust(&ledger, &known.claims);
    let told = Told {
        trial,
        analysis: &decides,
        may_be_best: best,
        findings: &ledger.open,
        belief: trust.belief,
        cv_percent: own_cv,
        stores,
        prices,
    };
    let enough = dose(trial, picked, None);
    black_box((
        dots(trial, picked, None),
        efficacies(trial, picked, None),
        courses(trial, None),
    ));
    black_box((
        gone(trial),
        crop_effects(trial, picked),
        held(&decides),
        told.advice(),
    ));

    let money = money(trial, stores, prices);
    let scored = |criterion: &Criterion| {
        let of = measured(trial, &criterion.from)
            .and_then(|j| judged.iter().position(|own| own.id() == j.id()));
        let figure = |name: &str| {
            let found = figures[of?].treatments.iter().find(|t| t.name == name)?;
            Some(Figure {
                mean: found.adjusted_mean,
                se: found.se.unwrap_or(0.0),
            })
        };
        let each = trial.plan.sheet.treatments.iter().map(|t| figure(&t.name));
        Scored {
            name: criterion.name.clone(),
            unit: String::new(),
            better: criterion.better,
            figures: each.collect(),
        }
    };
    let offered: Vec<_> = offers(trial)
        .into_iter()
        .map(|c| (c.clone(), scored(&c)))
        .collect();
    let card = proposed(trial, &offered);
    let names: Vec<String> = trial
        .plan
        .sheet
        .treatments
        .iter()
        .map(|t| t.name.clone())
        .collect();
    let on_card = card.criteria.iter().map(scored).collect();
    Page {
        rows: all.iter().map(row).collect(),
        drawn: pictures(trial, picked, None, enough.as_ref().map(|e| &e.found)),
        enough: enough.map(|e| e.found.sentence),
        money,
        trust,
        why: why(trial, Some(&decides), best, stores),
        suggestions: told.suggestions(),
        card: outcome(&card, &names, on_card),
        ranked,
    }
}

fn benches(c: &mut criterion::Criterion) {
    let (trial, stores) = (trial(), Stores::with_own(Vec::new()));
    let judged = trial.plan.ask.judged();
    assert_eq!(
        (judged.len(), trial.records.readings()),
        (12, UNITS * DAYS as usize * READ.len())
    );
    let today = date(2026, 5, 2);
    c.bench_function("at size: one pass over the readings", |b| {
        b.iter(|| black_box(one_pass(black_box(&trial))))
    });
    c.bench_function("at size: the ledger", |b| {
        b.iter(|| {
            audit(&Facts::of(
                black_box(&trial),
                &stores,
                &Known::default(),
                today,
            ))
        });
    });
    c.bench_function("at size: Judge, what decides", |b| {
        b.iter(|| analysis(black_box(&trial), judged[0], None, None).expect("an analysis"));
    });
    c.bench_function("at size: Judge, all twelve measures", |b| {
        b.iter(|| {
            let all = judged
                .iter()
                .map(|j| analysis(black_box(&trial), *j, None, None).expect("an analysis"));
            let mut all: Vec<_> = all.collect();
            beside_one_another(&mut all[1..]);
            all
        });
    });
    // The height, which was read every day, over four doses: growth and doses.
    c.bench_function("at size: Judge, how much is enough", |b| {
        b.iter(|| dose(black_box(&trial), judged[1], None).expect("doses"));
    });
    let free = completely_randomised(&trial);
    c.bench_function("at size: Judge, how much is enough, no blocks", |b| {
        b.iter(|| dose(black_box(&free), judged[1], None).expect("doses"));
    });
    let prices = Prices {
        per_hour: Some(15.0),
        per_kwh: Some(0.3),
        ..Prices::default()
    };
    let shelf = (&stores, &prices, today);
    let shown = page(&trial, judged[1], shelf);
    assert_eq!((shown.rows.len(), shown.drawn.len()), (12, 2));
    assert!(
        shown.ranked.is_some()
            && shown.enough.is_some()
            && shown.money.is_some()
            && shown.why.is_some()
    );
    assert!(!shown.card.rankings.is_empty() && !shown.trust.line.is_empty());
    assert!(!shown.suggestions.is_empty());
    c.bench_function("at size: Judge, the whole page", |b| {
        b.iter(|| page(black_box(&trial), judged[1], shelf))
    });
    c.bench_function("at size: Judge, the whole page, no blocks", |b| {
        b.iter(|| page(black_box(&free), judged[1], shelf));
    });
    let found = dose(&trial, judged[1], None).expect("doses").found;
    c.bench_function("at size: Judge, the pictures of a measure", |b| {
        b.iter(|| {
            let drawn = pictures(black_box(&trial), judged[1], None, Some(&found));
            assert_eq!(drawn.len(), 2);
            drawn
        });
    });
}

criterion_group! { name = at_size; config = criterion::Criterion::default().sample_size(20); targets = benches }
criterion_main!(at_size);
