//! Twenty trials with the faults of kinds that growers run, and five sound ones: what the ledger
//! finds, and that it finds nothing serious where nothing is wrong.

pub mod grown;
pub mod kinds;

use grown::{Grown, at, grown, head, of_sample, reading, work};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::catalogue::fixtures::{Fixture, Serves};
use iron_twin_core::catalogue::spaces::SpaceKind;
use iron_twin_core::trial::application::{Amount, Application, How, Role, When};
use iron_twin_core::trial::care::CarePlan;
use iron_twin_core::trial::changes::{Change, PlanChange};
use iron_twin_core::trial::deal::Loss;
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::record::giving::{Gift, Recipient};
use iron_twin_core::trial::record::gone::{Gone, GoneWhy};
use iron_twin_core::trial::record::pick::Pick;
use iron_twin_core::trial::record::weather::Weather;
use iron_twin_core::trial::record::work::Work;
use iron_twin_core::trial::records::*;
use iron_twin_core::trial::space::RackDesign;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::severity::Severity;

/// A plan over so many levels of so many slots, its treatments on what is given.
fn plan(
    kind: SpaceKind,
    (levels, slots): (u32, u32),
    crop: &str,
    end_day: u32,
    given: &[&[Application]],
) -> Plan {
    let mut plan = Plan::usual("Trial");
    let usual = plan.sheet.treatments[0].clone();
    plan.sheet.treatments = given
        .iter()
        .enumerate()
        .map(|(n, given)| {
            let mut own = usual.clone();
            (own.name, own.control, own.applications) =
                (format!("treatment {n}"), n == 0, given.to_vec());
            own
        })
        .collect();
    (plan.rack.kind, plan.rack.levels, plan.rack.slots) = (kind, levels, slots);
    plan.care = CarePlan::usual(kind);
    (plan.ask.crop, plan.ask.end_day) = (crop.into(), end_day);
    plan.ask.also.clear();
    if kind != SpaceKind::Rack {
        let container = if kind == SpaceKind::Sites {
            ""
        } else {
            "bucket, 10 L"
        };
        plan.sheet
            .treatments
            .iter_mut()
            .for_each(|t| t.set("container", container));
    }
    plan
}

fn feed(of_label: f64) -> Application {
    Application::stirred(Role::Feed, "grow feed", of_label)
}

fn additive(what: &str) -> Application {
    Application::stirred(Role::Additive, what, 1.0)
}

fn sprayed(what: &str, days: &[u32]) -> Application {
    Application {
        how: How::Sprayed,
        when: When::Days(days.to_vec()),
        ..additive(what)
    }
}

/// One pail a side, three crops in each, one feed against another.
fn pails_of_three_crops() -> Grown {
    let mut plan = plan(
        SpaceKind::Buckets,
        (1, 2),
        "lettuce",
        40,
        &[
            &[feed(1.0)],
            &[Application::stirred(Role::Feed, "bloom feed", 1.0)],
        ],
    );
    plan.ask.crops_inside = vec!["lettuce".into(), "pak choi".into(), "spinach".into()];
    let mut own = grown(plan);
    own.each(|_, _, own| {
        let whole = own.weighings()[0].clone();
        let of = |crop| {
            Recorded::new(
                None,
                RecordHead {
                    crop: CropNumber::new(crop),
                    ..whole.head.clone()
                },
                whole.is,
            )
        };
        own.own.set((1..=3).map(of).collect());
    });
    own
}

/// Six plants in each of two systems, one plant of one of them picked for the kitchen.
fn systems_raided() -> Grown {
    let mut plan = plan(
        SpaceKind::Buckets,
        (1, 2),
        "lettuce",
        40,
        &[&[feed(0.5)], &[feed(1.0)]],
    );
    plan.ask.samples_inside = 6;
    plan.ask.also.clear();
    let mut own = grown(plan);
    let (unit, gross_g) = (UnitIndex(1), 60.0);
    let pick = Recorded::new(
        Some(unit),
        head(30),
        Pick {
            gross_g,
            tare_g: 0.0,
            pieces: None,
            grade: String::new(),
            aside: true,
        },
    );
    own.trial.records.put(pick);
    own
}

/// Cuttings in two tubs, counted one by one.
fn cuttings_in_a_tub() -> Grown {
    let mut plan = plan(
        SpaceKind::Bench,
        (2, 6),
        "mint",
        21,
        &[&[], &[additive("willow tea")]],
    );
    plan.rack.serves.insert(Fixture::Reservoir, Serves::Level);
    plan.sheet
        .treatments
        .iter_mut()
        .for_each(|t| t.set("container", "jar, 1 L"));
    grown(plan)
}

/// Two lamps, one of each over a shelf.
fn two_lamps() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (2, 4),
        "red amaranth",
        12,
        &[&[feed(1.0)], &[feed(1.0)]],
    );
    plan.sheet.treatments[1].set("light", "warm tube");
    plan.rack.design = RackDesign::Fixtures;
    plan.rack.serves.insert(Fixture::Lamp, Serves::Level);
    grown(plan)
}

/// Four boxes, with two changes at once.
fn two_changes() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (2, 2),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    );
    plan.sheet.treatments[1].set("handling", "brushed daily");
    grown(plan)
}

/// Letters on the trays, but who reads the meter grades them as well.
fn meter_in_sight() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    );
    plan.ask.also = vec!["vigour".into()];
    grown(plan)
}

/// Of eight plants of each the best two are shown.
fn best_two_of_each() -> Grown {
    let mut plan = plan(
        SpaceKind::Buckets,
        (4, 2),
        "lettuce",
        40,
        &[&[], &[feed(1.0)]],
    );
    (plan.ask.primary_measure, plan.ask.samples_inside) = ("height".into(), 8);
    let mut own = grown(plan);
    own.each(|_, _, own| {
        own.readings.retain(|r| r.reading != "height");
        for sample in 1..=8 {
            let height = if sample <= 2 { 90.0 } else { 60.0 };
            own.readings
                .push(of_sample(sample, reading("height", 30, height)));
            if sample <= 2 {
                own.readings
                    .push(of_sample(sample, reading("height", 40, 1.3 * height)));
            }
        }
    });
    own
}

/// Planned for 14 days, cut on day 33.
fn ran_to_day_33() -> Grown {
    let mut own = grown(plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        14,
        &[&[], &[feed(1.0)]],
    ));
    own.ends_on(33);
    own
}

/// A feed so thin that all go hungry.
fn weak_feed() -> Grown {
    grown(plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[], &[feed(0.03)]],
    ))
}

/// Two sprays by one sprayer, no rinse on record, rain after one.
fn sprays_in_the_rain() -> Grown {
    let given: [&[Application]; 3] = [
        &[],
        &[sprayed("neem soap", &[6, 13])],
        &[sprayed("garlic tea", &[9, 16])],
    ];
    let mut own = grown(plan(SpaceKind::Sites, (4, 3), "spinach", 40, &given));
    own.trial
        .records
        .lists
        .edit::<Work>(|all| all.retain(|w| w.job != Job::Rinse));
    let rain = |day: u32| {
        Recorded::new(
            None,
            head(day),
            Weather {
                rain_mm: Some(if day == 6 || day == 13 { 9.0 } else { 0.0 }),
                low_c: Some(8.0),
                high_c: Some(19.0),
            },
        )
    };
    own.trial.records.lists.set((0..=40).map(rain).collect());
    own
}

/// Half the dose was forgotten twice for those on it.
fn half_dose_forgotten() -> Grown {
    let mut own = grown(plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[feed(1.0)], &[feed(0.5)]],
    ));
    let withheld = |day| {
        Recorded::given(
            head(day),
            Job::Feed,
            Recipient::Treatment(TreatmentIndex(1)),
            Gift::Withheld("forgotten".into()),
        )
    };
    own.trial.records.lists.set(vec![withheld(6), withheld(8)]);
    own
}

/// A potting mix that is fed from the bag against one that is not.
fn charged_medium() -> Grown {
    let mut plan = plan(SpaceKind::Rack, (4, 4), "red amaranth", 12, &[&[], &[]]);
    plan.sheet.treatments[0].set("medium", "coir mat");
    plan.sheet.treatments[1].set("medium", "potting mix, charged");
    grown(plan)
}

/// Graded by one who had the key in hand.
fn graded_by_who_knew() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    );
    plan.ask.also = vec!["odour".into()];
    let mut own = grown(plan);
    own.trial.pouring_sheets = 1;
    own
}

/// Opened when half of it was weighed.
fn opened_half_way() -> Grown {
    let mut own = grown(plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    ));
    let reveal = own.trial.reveal.as_mut().expect("opened");
    (reveal.day, reveal.weighed) = (11, 7);
    own
}

/// All of one on the window side, set by hand.
fn one_at_the_window() -> Grown {
    let mut own = grown(plan(
        SpaceKind::Sill,
        (1, 8),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    ));
    own.plan().rack.design = RackDesign::ByHand;
    own.units()
        .iter_mut()
        .for_each(|u| u.treatment = TreatmentIndex(usize::from(u.position.slot > 4)));
    own
}

/// The margin was lowered when the weights were in, and nine measures are judged.
fn moved_after_the_fact() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    );
    let also = [
        "height",
        "leaf_count",
        "spread",
        "flowers",
        "canopy_cover",
        "brix",
        "longest_root",
    ];
    plan.ask.also = also.map(String::from).to_vec();
    let mut own = grown(plan);
    let change = Change {
        field: "margin",
        before: "10%".into(),
        after: "4%".into(),
    };
    own.trial.changes.push(PlanChange {
        at: at(12),
        change,
        reason: "it looked close".into(),
        added: Vec::new(),
    });
    own
}

/// One person graded the fed trays, another the plain ones.
fn two_pairs_of_eyes() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (4, 4),
        "red amaranth",
        12,
        &[&[feed(1.0)], &[feed(1.0)]],
    );
    plan.sheet.treatments[1].set("handling", "brushed daily");
    plan.ask.primary_measure = "sturdiness".into();
    let mut own = grown(plan);
    own.each(|_, t, own| {
        own.readings
            .iter_mut()
            .filter(|r| r.reading == "sturdiness")
            .for_each(|r| r.head.who = ["Ada", "Bo"][t].into());
    });
    own
}

/// Trays that went mouldy were thrown out, and plants thinned in one treatment only.
fn lost_and_thinned() -> Grown {
    let mut plan = plan(
        SpaceKind::Buckets,
        (4, 4),
        "lettuce",
        40,
        &[&[], &[feed(1.0)]],
    );
    plan.ask.samples_inside = 4;
    let mut own = grown(plan);
    own.units()[2].lost = Some(Loss {
        reason: "slime".into(),
        day: Some(22),
    });
    let fed: Vec<UnitIndex> = own
        .trial
        .each_unit()
        .filter(|(_, u)| u.treatment == TreatmentIndex(1))
        .map(|(i, _)| i)
        .collect();
    let gone = |unit| {
        Recorded::new(
            Some(unit),
            RecordHead {
                sample: SampleNumber::new(4),
                ..head(9)
            },
            Gone {
                why: GoneWhy::Thinned,
                note: String::new(),
            },
        )
    };
    own.trial
        .records
        .lists
        .set(fed.into_iter().map(gone).collect());
    own
}

/// pH climbed in one treatment from day 9 on, and the buckets of it ran dry.
fn drifted_and_dry() -> Grown {
    let mut plan = plan(
        SpaceKind::Buckets,
        (4, 4),
        "lettuce",
        40,
        &[&[feed(1.0)], &[feed(1.0)]],
    );
    plan.sheet.treatments[1].set("handling", "leaves picked");
    let mut own = grown(plan);
    own.each(|i, t, own| {
        let wander = i as f64 / 100.0;
        own.readings
            .iter_mut()
            .filter(|r| r.reading == "ph")
            .for_each(|r| {
                r.value = Some(if t == 1 && r.head.day > 9 { 7.1 } else { 6.0 } + wander);
            });
        own.readings
            .push(reading("level", 30, if t == 1 { 0.0 } else { 4.0 }));
    });
    own
}

/// Tomatoes in two litres each for a season, a ladder of doses.
fn tomatoes_in_jars() -> Grown {
    let mut plan = plan(
        SpaceKind::Bench,
        (4, 4),
        "tomato",
        100,
        &[&[], &[feed(0.5)], &[feed(1.0)], &[feed(1.5)]],
    );
    plan.sheet
        .treatments
        .iter_mut()
        .for_each(|t| t.set("container", "jar, 1 L"));
    grown(plan)
}

type Named = (&'static str, fn() -> Grown);
type Scenario = (&'static str, fn() -> Grown, &'static [&'static str]);

const SCENARIOS: [Scenario; 20] = [
    (
        "one pail a side, three crops",
        pails_of_three_crops,
        &["one_unit_per_treatment", "no_plain_control"],
    ),
    (
        "two systems, one raided",
        systems_raided,
        &["one_unit_per_treatment", "picked_early"],
    ),
    (
        "cuttings in one tub",
        cuttings_in_a_tub,
        &["shared_unit", "composition_unknown"],
    ),
    (
        "two lamps, one each",
        two_lamps,
        &["one_unit_per_treatment"],
    ),
    (
        "four boxes, two changes",
        two_changes,
        &["more_than_one_difference", "too_few_to_tell"],
    ),
    ("letters, but EC in sight", meter_in_sight, &["not_blind"]),
    ("best two of each", best_two_of_each, &["only_the_best"]),
    ("day 33 of 14", ran_to_day_33, &["ran_late", "outgrown"]),
    ("weak feed", weak_feed, &["starved"]),
    (
        "sprays, no rinse, rain",
        sprays_in_the_rain,
        &["carry_over", "weather_differed", "spill_over"],
    ),
    ("half dose forgotten", half_dose_forgotten, &["not_given"]),
    ("charged medium", charged_medium, &["hidden_difference"]),
    ("graded by who knew", graded_by_who_knew, &["not_blind"]),
    ("opened half way", opened_half_way, &["looked_early"]),
    (
        "one at the window",
        one_at_the_window,
        &["not_dealt_at_random", "uneven_blocks"],
    ),
    (
        "goal posts and many measures",
        moved_after_the_fact,
        &["goal_posts_moved", "many_measures"],
    ),
    ("two pairs of eyes", two_pairs_of_eyes, &["different_hands"]),
    (
        "lost and thinned",
        lost_and_thinned,
        &["losses", "unequal_stand"],
    ),
    (
        "drifted and dry",
        drifted_and_dry,
        &["solution_drift", "unequal_care"],
    ),
    ("tomatoes in jars", tomatoes_in_jars, &["outgrown"]),
];

/// Sixteen trays, water against feed.
fn sound_trays() -> Grown {
    grown(plan(
        SpaceKind::Rack,
        (6, 4),
        "red amaranth",
        12,
        &[&[], &[feed(1.0)]],
    ))
}

/// An additive against the same feed without it, in buckets.
fn sound_buckets() -> Grown {
    grown(plan(
        SpaceKind::Buckets,
        (6, 4),
        "lettuce",
        40,
        &[&[feed(1.0)], &[feed(1.0), additive("seaweed extract")]],
    ))
}

/// Half against full dose, to do as well with less: three doses, the full one being what is done
/// now.
fn sound_match() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (8, 4),
        "red amaranth",
        12,
        &[&[feed(1.0)], &[feed(0.5)]],
    );
    plan.ask.goal = iron_twin_terms::goal::Goal::Match;
    grown(plan)
}

/// Lamps over whole shelves, six of each, plain water and feed alike on each.
fn sound_lamps() -> Grown {
    let mut plan = plan(
        SpaceKind::Rack,
        (12, 4),
        "red amaranth",
        12,
        &[&[feed(1.0)], &[feed(1.0)]],
    );
    plan.sheet.treatments[1].set("light_hours", "12");
    plan.sheet.waiver = "all are fed, as the farm does".into();
    plan.rack.design = RackDesign::Fixtures;
    plan.rack.serves.insert(Fixture::Lamp, Serves::Level);
    grown(plan)
}

/// A spray against water alone on plots, rinsed, in dry weather.
fn sound_plots() -> Grown {
    let soap = Application {
        amount: Amount::OfLabel(1.0),
        ..sprayed("potassium humate powder", &[6, 13, 20])
    };
    let mut own = grown(plan(
        SpaceKind::Sites,
        (8, 4),
        "spinach",
        40,
        &[&[], &[soap]],
    ));
    let dry = |day: u32| {
        Recorded::new(
            None,
            head(day),
            Weather {
                rain_mm: Some(0.0),
                low_c: Some(8.0),
                high_c: Some(19.0),
            },
        )
    };
    own.trial.records.lists.set((0..=40).map(dry).collect());
    for day in (0..40).step_by(3) {
        own.trial.records.put(work(Job::Observe, day));
    }
    own
}

#[test]
fn the_faults_of_twenty_kinds_of_trial_are_found() {
    let mut missed = Vec::new();
    let mut all = 0;
    for (name, make, faults) in SCENARIOS {
        let open = make().open();
        println!("\n{name}");
        open.iter()
            .for_each(|(code, severity, seen)| println!("  {code} {severity:?}: {seen}"));
        all += faults.len();
        missed.extend(
            faults
                .iter()
                .filter(|code| !open.iter().any(|(own, ..)| own == *code))
                .map(|code| format!("{name}: {code}")),
        );
    }
    assert!(
        missed.is_empty(),
        "{} of {all} missed: {missed:?}",
        missed.len()
    );
}

#[test]
fn nothing_serious_is_found_where_nothing_is_wrong() {
    let sound: [Named; 5] = [
        ("trays", sound_trays),
        ("buckets", sound_buckets),
        ("match", sound_match),
        ("lamps", sound_lamps),
        ("plots", sound_plots),
    ];
    let mut wrong = Vec::new();
    for (name, make) in sound {
        let open = make().open();
        println!("\n{name}");
        open.iter()
            .for_each(|(code, severity, seen)| println!("  {code} {severity:?}: {seen}"));
        wrong.extend(
            open.into_iter()
                .filter(|(_, severity, _)| *severity > Severity::Minor)
                .map(|f| (name, f)),
        );
    }
    assert!(wrong.is_empty(), "{wrong:?}");
}
