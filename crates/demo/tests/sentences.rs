//! What the program says of four hundred and eighty made-up trials, sound ones and faulty ones:
//! every kind of sentence once, with its figures, as docs/sentences.md has them. Written anew with
//! `SENTENCES=write`.

#[allow(dead_code, reason = "the twenty scenarios use the rest")]
use crate::scenarios;

use iron_twin_core::after::money::money;
use iron_twin_core::after::next_trial::Told;
use iron_twin_core::after::ranking::ranked;
use iron_twin_core::after::scorecard::{Figure, Scored, outcome};
use iron_twin_core::after::why::why;
use iron_twin_core::ask::sees::sees_percent;
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::fixtures::{Fixture, Serves};
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::ledger::trust::trust;
use iron_twin_core::ledger::{Claims, Facts, Known, audit};
use iron_twin_core::stores::Stores;
use iron_twin_core::stores::prices::Prices;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::application::{Application, How, Role, When};
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::deal::Loss;
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::record::giving::{Gift, Portion, PortionUnit, Recipient};
use iron_twin_core::trial::record::gone::{Gone, GoneWhy};
use iron_twin_core::trial::record::look::{Look, LookAnswer};
use iron_twin_core::trial::record::pick::Pick;
use iron_twin_core::trial::record::weather::Weather;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::record::work::Work;
use iron_twin_core::trial::records::*;
use iron_twin_core::trial::scorecard::{Scorecard, Setting};
use iron_twin_core::trial::space::RackDesign;
use iron_twin_core::verdict::comparison::{analysis, dose};
use iron_twin_core::verdict::efficacy::efficacies;
use iron_twin_core::verdict::pictures::pictures;
use iron_twin_core::weigh::courses::{ahead, courses};
use iron_twin_judge::expected::held;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::verdict::Verdict;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use jiff::ToSpan;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use scenarios::grown::{Grown, grown, head, of_sample, reading, work};
use scenarios::kinds;
use std::collections::BTreeMap;
use std::fmt::Write;

fn pick<'a, T>(random: &mut ChaCha8Rng, from: &'a [T]) -> &'a T {
    &from[random.random_range(0..from.len())]
}

/// A plan such as growers make: a space, a crop, what differs.
fn made_up(random: &mut ChaCha8Rng) -> Plan {
    let mut plan = Plan::usual("Trial");
    let (kind, crop, end_day, container) = *pick(
        random,
        &[
            (SpaceKind::Rack, "red amaranth", 12, "tray, 25 x 50 cm"),
            (SpaceKind::Rack, "rocket", 10, "tray, 25 x 25 cm"),
            (SpaceKind::Buckets, "lettuce", 40, "bucket, 10 L"),
            (SpaceKind::Bench, "mint", 21, "jar, 1 L"),
            (SpaceKind::Sites, "spinach", 40, ""),
            (SpaceKind::Sill, "basil", 16, "pot, 12 cm"),
        ],
    );
    (plan.rack.kind, plan.ask.crop, plan.ask.end_day) = (kind, crop.into(), end_day);
    plan.rack.levels = *pick(random, &[1, 2, 4, 6]);
    plan.care = CarePlan::usual(kind);
    plan.ask.also.clear();
    plan.ask.price_per_kg = *pick(random, &[None, Some(24.0)]);
    let usual = plan.sheet.treatments[0].clone();
    let stirred = |role, what: &str, share| Application::stirred(role, what, share);
    let feed = |share| stirred(Role::Feed, "grow feed", share);
    let sprayed = |what: &str| Application {
        how: How::Sprayed,
        when: When::Days(vec![4, 8]),
        ..stirred(Role::Additive, what, 1.0)
    };
    let tea = stirred(Role::Additive, "willow tea", 1.0);
    let given: Vec<Vec<Application>> = match random.random_range(0..7) {
        0 => vec![vec![], vec![feed(1.0)]],
        1 => vec![vec![], vec![feed(0.5)], vec![feed(1.0)]],
        2 => vec![vec![feed(1.0)], vec![feed(0.5)]],
        3 => vec![vec![feed(1.0)], vec![feed(1.0), tea]],
        4 => vec![
            vec![],
            vec![sprayed("seaweed extract")],
            vec![sprayed("fulvic acid")],
        ],
        5 => vec![vec![feed(1.0)], vec![feed(1.0)]],
        _ => vec![vec![], vec![stirred(Role::Additive, "compost tea", 1.0)]],
    };
    let by_condition = given.len() == 2 && given[0] == given[1];
    plan.sheet.treatments = given
        .into_iter()
        .enumerate()
        .map(|(n, applications)| {
            let mut own = usual.clone();
            let names = ["plain", "second", "third"];
            (own.name, own.control, own.applications) = (names[n].into(), n == 0, applications);
            own.set("container", container);
            own
        })
        .collect();
    if by_condition {
        let (key, value) = *pick(
            random,
            &[
                ("medium", "jute mat"),
                ("light_hours", "12"),
                ("aeration", "air stone"),
            ],
        );
        plan.sheet.treatments[1].set(key, value);
        if key == "light_hours" && random.random_bool(0.5) {
            plan.rack.design = RackDesign::Fixtures;
            plan.rack.serves.insert(Fixture::Lamp, Serves::Level);
            plan.rack.levels = *pick(random, &[2, 4, 6]);
        }
    }
    plan.rack.slots = plan.treatments() as u32 * *pick(random, &[1, 2]);
    plan
}

type Fault = fn(&mut Grown);

const FAULTS: [Fault; 19] = [
    |g| {
        g.trial
            .records
            .lists
            .edit::<Work>(|all| all.retain(|w| w.job != Job::Feed || w.head.day < 6))
    },
    |g| {
        g.trial
            .records
            .lists
            .edit::<Work>(|all| all.retain(|w| w.job != Job::Rinse))
    },
    |g| {
        g.each(|_, t, own| {
            own.readings
                .iter_mut()
                .filter(|r| r.reading == "ph" && t > 0)
                .for_each(|r| r.value = Some(7.3))
        })
    },
    |g| g.each(|_, _, own| own.readings.retain(|r| !["ph", "ec"].contains(&r.reading))),
    |g| g.meters.truncate(1),
    |g| {
        g.units()[0].lost = Some(Loss {
            reason: "mould".into(),
            day: Some(6),
        })
    },
    |g| {
        let days = g.trial.plan.ask.end_day;
        g.ends_on(days + 5);
    },
    |g| {
        let days = g.trial.plan.ask.end_day;
        g.ends_on(days - 4);
    },
    |g| g.trial.pouring_sheets = 1,
    |g| g.plan().ask.goal = Goal::Match,
    |g| g.plan().rack.design = RackDesign::ByHand,
    |g| {
        g.each(|i, _, own| {
            own.readings
                .push(reading("level", 7, if i % 3 == 0 { 0.0 } else { 2.0 }))
        })
    },
    |g| {
        let unit = UnitIndex(0);
        let (gross_g, tare_g, pieces, grade, aside) = (22.0, 0.0, None, String::new(), true);
        g.trial.records.put(Recorded::new(
            Some(unit),
            head(8),
            Pick {
                gross_g,
                tare_g,
                pieces,
                grade,
                aside,
            },
        ));
    },
    |g| {
        let withheld = Gift::Withheld("ran out".into());
        let to = Recipient::Unit(UnitIndex(1));
        g.trial
            .records
            .put(Recorded::given(head(6), Job::Feed, to, withheld));
    },
    |g| {
        let own = Portion {
            what: "tap water".into(),
            how: How::Stirred,
            amount: Some(200.0),
            unit: PortionUnit::Millilitres,
            lot: String::new(),
            batch: String::new(),
        };
        let to = Recipient::Treatment(TreatmentIndex(0));
        g.trial
            .records
            .put(Recorded::given(head(6), Job::Water, to, Gift::Own(own)));
    },
    |g| {
        let wet = |day: u32| {
            Recorded::new(
                None,
                head(day),
                Weather {
                    rain_mm: Some(if day == 8 { 11.0 } else { 0.0 }),
                    low_c: Some(-1.0),
                    high_c: Some(36.5),
                },
            )
        };
        g.trial.records.lists.set((0..10).map(wet).collect());
    },
    |g| {
        g.trial.records.put(Recorded::new(
            None,
            head(5),
            Look {
                measure: g.trial.plan.ask.primary_measure.clone(),
                answer: LookAnswer::Differ,
            },
        ))
    },
    |g| {
        g.plan().ask.also = vec!["vigour".into(), "height".into()];
        g.each(|_, t, own| {
            let mut graded = reading("vigour", 9, 3.0);
            graded.head.who = ["Ada", "Bo", "Bo"][t].into();
            own.readings.push(graded);
        });
    },
    |g| {
        g.plan().ask.samples_inside = 3;
        g.each(|i, _, own| {
            for sample in 1..=3 {
                own.readings
                    .push(of_sample(sample, reading("height", 5, 40.0 + i as f64)));
            }
        });
        let gone = |unit| {
            Recorded::new(
                Some(unit),
                RecordHead {
                    sample: SampleNumber::new(3),
                    ..head(6)
                },
                Gone {
                    why: GoneWhy::Thinned,
                    note: String::new(),
                },
            )
        };
        let second: Vec<UnitIndex> = g
            .trial
            .each_unit()
            .filter(|(_, u)| u.treatment == TreatmentIndex(1))
            .map(|(i, _)| i)
            .collect();
        g.trial
            .records
            .lists
            .set(second.into_iter().map(gone).collect());
    },
];

/// Harvests with an effect and a spread, on the day on which they were cut.
fn weigh(random: &mut ChaCha8Rng, own: &mut Grown) {
    let (gain, sd) = (
        *pick(random, &[-0.2, 0.0, 0.06, 0.15, 0.4]),
        *pick(random, &[2.0, 6.0, 14.0]),
    );
    let mut normal = || (0..12).map(|_| random.random::<f64>()).sum::<f64>() - 6.0;
    let noise: Vec<f64> = own.trial.units.iter().map(|_| normal()).collect();
    own.each(|i, t, records| {
        let net_g = 100.0 * (1.0 + gain * t as f64 / 2.0) + sd * noise[i];
        records
            .own
            .edit::<Weighing>(|all| all[0].is.gross_g = net_g + 288.0);
    });
}

/// All that is said of a trial: of what kind, and the words.
fn said(own: &Grown) -> Vec<(String, String)> {
    let trial = &own.trial;
    let stores = Stores::with_own(own.meters.clone());
    let verdicts = analysis(trial, trial.decides(), None, None);
    let contrasts = verdicts
        .as_ref()
        .map(|a| a.contrasts.clone())
        .unwrap_or_default();
    let claimed = contrasts.iter().filter(|c| c.verdict.claims_difference());
    let claimed = claimed.filter_map(|c| Some((trial.plan.sheet.named(&c.treatment)?, c.percent?)));
    let claims = Claims {
        decided: contrasts
            .iter()
            .filter(|c| c.verdict != Verdict::CannotTell)
            .count(),
        differences: claimed.collect(),
    };
    let open = contrasts.len() - claims.decided;
    let undecided = (!contrasts.is_empty()).then_some((open, contrasts.len()));
    let known = Known {
        sees_percent: sees_percent(trial, own.cv_percent),
        claims: claims.clone(),
        undecided,
        ..Known::default()
    };
    let last = trial.ended_on().unwrap_or(trial.plan.ask.end_day);
    let today = trial
        .sown_on
        .expect("sown")
        .checked_add(i64::from(last).days())
        .expect("a day");
    let ledger = audit(&Facts::of(trial, &stores, &known, today));
    let mut all: Vec<(String, String)> = Vec::new();
    all.extend(
        contrasts
            .iter()
            .map(|c| ("verdict".to_owned(), c.sentence.clone())),
    );
    let trusted = trust(&ledger, &claims);
    all.push(("believe it?".into(), trusted.line.clone()));
    if let Ok(verdicts) = &verdicts {
        all.extend(
            contrasts
                .iter()
                .map(|c| ("verdict in few words".to_owned(), c.brief.clone())),
        );
        all.extend(held(verdicts).map(|words| ("what was expected".to_owned(), words)));
        let (best, said) = ranked(trial, trial.decides(), None)
            .map(|own| (own.may_be_best, own.said))
            .unzip();
        all.extend(said.map(|words| ("from best to worst".to_owned(), words)));
        let best: Vec<String> = best.unwrap_or_default();
        let prices = Prices {
            currency: "€".into(),
            ..Prices::default()
        };
        let told = Told {
            trial,
            analysis: verdicts,
            may_be_best: &best,
            findings: &ledger.open,
            belief: trusted.belief,
            cv_percent: verdicts
                .residual
                .cv_percent
                .unwrap_or(0.0)
                .max(own.cv_percent),
            stores: &stores,
            prices: &prices,
        };
        all.extend(next_of(&told));
        all.extend(weighed_up(trial, verdicts));
    }
    all.extend(beside_verdicts(trial, &stores, verdicts.as_ref().ok()));
    all.extend(ledger.open.iter().map(|f| {
        (
            format!("{}, {:?}", f.title, f.severity).to_lowercase(),
            format!("{} {}", f.seen, f.remedy),
        )
    }));
    all.extend(
        ledger
            .sound
            .into_iter()
            .map(|s| ("found sound".to_owned(), s)),
    );
    let prices = Prices {
        currency: "€".into(),
        ..Prices::default()
    };
    let told = money(trial, &stores, &prices);
    all.extend(
        told.into_iter()
            .flat_map(|m| m.treatments)
            .filter_map(|t| Some(("money".to_owned(), t.beside?.sentence))),
    );
    all
}

/// What stands beside the verdicts: pictures, doses, damage kept away, who was ahead, what may be
/// behind it.
fn beside_verdicts(
    trial: &Trial,
    stores: &Stores,
    verdicts: Option<&Analysis>,
) -> Vec<(String, String)> {
    let judged = trial.decides();
    let found = dose(trial, judged, None);
    let told = |kind: &str, words: Vec<String>| {
        words
            .into_iter()
            .map(|w| (kind.to_owned(), w))
            .collect::<Vec<_>>()
    };
    let mut all = told(
        "how much is enough",
        found.iter().map(|d| d.found.sentence.clone()).collect(),
    );
    let drawn = pictures(trial, judged, None, found.as_ref().map(|d| &d.found));
    all.extend(told(
        "under a picture",
        drawn.into_iter().flat_map(|p| p.said).collect(),
    ));
    all.extend(told(
        "damage kept away",
        efficacies(trial, judged, None)
            .into_iter()
            .map(|e| e.said)
            .collect(),
    ));
    all.extend(told("waves", ahead(trial, None, &courses(trial, None))));
    all.extend(told(
        "warning of a comparison",
        verdicts
            .iter()
            .flat_map(|a| &a.warnings)
            .map(|w| w.message.clone())
            .collect(),
    ));
    let best = ranked(trial, judged, None)
        .map(|own| own.may_be_best)
        .unwrap_or_default();
    let conjectures = why(trial, verdicts, &best, stores)
        .into_iter()
        .flat_map(|w| w.conjectures);
    all.extend(conjectures.flat_map(|c| {
        let words = format!(
            "{}: {} For it: {} Against it: {} {}",
            c.what,
            c.seen,
            c.speaks_for.join(" "),
            c.against.join(" "),
            c.parts
        );
        told("why", vec![words])
    }));
    all
}

/// What the figures advise, and the trials that could follow.
fn next_of(told: &Told<'_>) -> Vec<(String, String)> {
    let advice = told.advice();
    let units = advice
        .units
        .map_or_else(String::new, |n| format!(" with {n} of each"));
    let name = advice.treatment.unwrap_or_default();
    let mut all = vec![(
        format!("advice, {:?}", advice.decides).to_lowercase(),
        format!("{name}{units}: {}", advice.why),
    )];
    all.extend(told.suggestions().into_iter().map(|s| {
        let size = format!("{} treatments, {} of each", s.treatments, s.units);
        (
            format!("next trial, {}", s.key),
            format!("{}. {} {} ({size})", s.title, s.why, s.teaches),
        )
    }));
    all
}

/// A scorecard of the harvest, and of a smell and a price that are made up.
fn weighed_up(trial: &Trial, verdicts: &Analysis) -> Vec<(String, String)> {
    let names: Vec<String> = trial
        .plan
        .sheet
        .treatments
        .iter()
        .map(|t| t.name.clone())
        .collect();
    let of = |name: &String| verdicts.treatments.iter().find(|t| t.name == *name);
    let weights = names.iter().map(|n| {
        of(n).map(|t| Figure {
            mean: t.adjusted_mean,
            se: t.se.unwrap_or(0.0),
        })
    });
    let made = |by: f64, step: f64| {
        (0..names.len())
            .map(|t| {
                Some(Figure {
                    mean: by + step * t as f64,
                    se: 0.0,
                })
            })
            .collect()
    };
    let scored = |name: &str, unit: &str, better, figures| Scored {
        name: name.into(),
        unit: unit.into(),
        better,
        figures,
    };
    let all = vec![
        scored("harvest weight", "g", Better::Higher, weights.collect()),
        scored("smell", "", Better::Lower, made(2.0, 1.5)),
        scored("cost", "€", Better::Lower, made(0.4, 0.05)),
    ];
    let swings = [("harvest weight", 100.0), ("smell", 30.0), ("cost", 20.0)]
        .map(|(n, s)| (n.to_owned(), s))
        .into();
    let setting = Setting {
        name: "home".into(),
        swings,
    };
    let card = Scorecard {
        criteria: Vec::new(),
        settings: vec![setting],
        knock_outs: Vec::new(),
    };
    let told = outcome(&card, &names, all)
        .rankings
        .into_iter()
        .flat_map(|r| r.said);
    told.map(|words| ("scorecard".to_owned(), words)).collect()
}

/// Figures, codes and days told alike, so that a kind of sentence stands once.
fn mask(words: &str) -> String {
    let digits = |c: char| if c.is_ascii_digit() { '#' } else { c };
    let mut out: String = words.chars().map(digits).collect();
    while out.contains("##") || out.contains("#.#") {
        out = out.replace("##", "#").replace("#.#", "#");
    }
    let code = |w: &str| {
        let bare = w.trim_matches(|c: char| !c.is_alphanumeric() && c != '#');
        matches!(
            bare,
            "second"
                | "third"
                | "plain"
                | "Second"
                | "Third"
                | "lettuce"
                | "rocket"
                | "mint"
                | "basil"
                | "spinach"
                | "trays"
                | "buckets"
                | "jars"
                | "pots"
                | "plots"
                | "tray"
                | "bucket"
                | "jar"
                | "pot"
                | "plot"
        ) || (bare.len() == 1 && bare != "a" && bare != "#" && bare.chars().all(char::is_uppercase))
    };
    out.split(' ')
        .map(|w| if code(w) { "…" } else { w })
        .collect::<Vec<_>>()
        .join(" ")
}

/// Trials that are judged by a weight at the end, and by something else.
const MANY: usize = 300;
const OTHERS: usize = 180;

fn table() -> String {
    let mut random = ChaCha8Rng::seed_from_u64(20_261_128);
    let mut kinds: BTreeMap<(String, String), (String, usize)> = BTreeMap::new();
    for n in 0..MANY + OTHERS {
        let mut plan = made_up(&mut random);
        // The later ones are judged by something else than a weight at the end.
        let by = (n >= MANY).then(|| kinds::ALL[n % kinds::ALL.len()]);
        if let Some(by) = by {
            by.asked(&mut plan);
        }
        let mut own = grown(plan);
        for day in (0..own.trial.plan.ask.end_day).step_by(3) {
            own.trial.records.put(work(Job::Observe, day));
        }
        match by {
            Some(by) => by.recorded(&mut random, &mut own),
            None => weigh(&mut random, &mut own),
        }
        for _ in 0..n % 4 {
            pick(&mut random, &FAULTS)(&mut own);
        }
        for (kind, words) in said(&own) {
            kinds.entry((kind, mask(&words))).or_insert((words, 0)).1 += 1;
        }
    }
    let mut out = String::from(
        "# What is said of four hundred and eighty made-up trials\n\nEvery kind of sentence once, \
         with the figures of the first trial of which it was said, and how often it came. Made \
         by\n`crates/demo/tests/sentences.rs`: sound trials and such with one to three faults, in \
         six kinds of space; three hundred\nare judged by what is cut, the others by counts, \
         shares, days, grades, damage, waves, doses, or with looks before the end.\n\n| what | in \
         so many | words |\n|---|---:|---|\n",
    );
    for ((kind, _), (words, times)) in kinds {
        let _ = writeln!(out, "| {kind} | {times} | {} |", words.replace('|', "\\|"));
    }
    out
}

#[test]
fn the_sentences_are_those_that_were_read() {
    let file = std::path::Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/sentences.md");
    let made = table();
    if std::env::var("SENTENCES").is_ok_and(|v| v == "write") {
        std::fs::write(&file, &made).expect("written");
    }
    let kept = std::fs::read_to_string(&file).expect("docs/sentences.md");
    let differ = made.lines().find(|line| !kept.contains(line));
    assert!(
        made == kept,
        "docs/sentences.md is of another day; read what changed: {differ:?}"
    );
}
