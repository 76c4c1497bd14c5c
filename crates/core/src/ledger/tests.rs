use super::facts::care::Care;
use super::facts::given::Given;
use super::facts::hands::Hands;
use super::facts::judged_days::JudgedDay;
use super::facts::meters::{Meters, State, Used};
use super::facts::picked::Picked;
use super::facts::room::Room;
use super::facts::rotation::Rotation;
use super::facts::sampling::Sampling;
use super::facts::sharing::Sharing;
use super::facts::solution::Solution;
use super::facts::spill::Spill;
use super::facts::stand::Stand;
use super::facts::tools::Tools;
use super::facts::weather::Weather;
use super::*;
use crate::catalogue::fixtures::Fixture;
use crate::catalogue::spaces::SpaceKind;
use crate::stores::Stores;
use crate::tend::given::WentShort;
use crate::trial::application::{Application, How, Role};
use crate::trial::feed::FeedPlan;
use crate::trial::gone::SampleLosses;
use crate::trial::sheet::Sheet;
use crate::trial::space::Rack;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::indices::TreatmentIndex;

/// A trial that every rule can look at and finds sound, but for the claim being narrow.
fn sound() -> Facts {
    Facts {
        sheet: Some(Sheet::usual()),
        composition: Some(
            Sheet::usual().composition(&Stores::with_own(Vec::new()), &FeedPlan::default()),
        ),
        rack: Rack {
            slots: 4,
            levels: 4,
            ..Rack::default()
        },
        dealt: true,
        units_each: 8,
        dealt_words: ("tray", "trays"),
        sharing: Some(Sharing {
            factor: "feed".into(),
            ..Sharing::default()
        }),
        edge_slots: vec![4, 4],
        light_umol: vec![148.0, 151.0],
        start_gap_percent: Some(2.0),
        sees_percent: Some(9.0),
        given: Some(fed(4, &[])),
        day: Some(12),
        record_days: vec![0, 3, 6, 9, 12],
        records: 60,
        units: 16,
        weighed: 16,
        picked: Some(Picked {
            units: 16,
            ..Picked::default()
        }),
        revealed: true,
        revealed_at: Some((12, 16)),
        revealed_why: String::new(),
        ended_on: Some(12),
        ends_with_record: true,
        care: Some(Care::default()),
        solution: Some(Solution {
            readings: 64,
            is_there: true,
            ..Solution::default()
        }),
        sampling: Some(Sampling::default()),
        hands: Some(Hands {
            read: true,
            reading: None,
        }),
        spill: Some(Spill::Nothing),
        stand: Some(Stand::default()),
        meters: Some(Meters {
            used: vec![Used {
                what: "scale",
                state: State::Within,
            }],
            apart: None,
        }),
        room: Some(Room {
            crop: "red amaranth".into(),
            grown_as: "microgreen".into(),
            usual_day: 12.0,
            last_day: 12,
            container: None,
        }),
        tools: Some(Tools::default()),
        weather: Some(Weather::default()),
        ..Facts::default()
    }
}

/// A feed that was given so often, and of which nothing is on record for some days.
fn fed(done: usize, missed: &[u32]) -> Given {
    Given {
        what: "feed".into(),
        planned: done + missed.len(),
        done,
        missed: missed.to_vec(),
        ..Given::default()
    }
}

fn height_on_day_7(on_day: usize, beside: usize, missing: usize) -> JudgedDay {
    JudgedDay {
        name: "height",
        day: 7,
        units: 16,
        on_day,
        beside,
        missing,
    }
}

/// All read on one neighbouring day are alike; some on the day and some beside it are not.
#[test]
fn readings_of_two_days_are_worse_than_readings_of_one_wrong_day() {
    let said = |of: JudgedDay| {
        let ledger = audit(&Facts {
            judged_days: vec![of],
            ..sound()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "measured_late")
            .map(|f| (f.severity, f.seen))
    };
    assert_eq!(said(height_on_day_7(16, 0, 0)), None);
    let all = said(height_on_day_7(0, 16, 0)).expect("open");
    assert_eq!(all.0, Severity::Minor, "{}", all.1);
    assert_eq!(
        said(height_on_day_7(8, 8, 0)).expect("open").0,
        Severity::Serious
    );
    let few = said(height_on_day_7(14, 0, 2)).expect("open");
    assert_eq!(
        few,
        (
            Severity::Minor,
            "height, judged on day 7: 2 of 16 have no figure.".into()
        )
    );
    assert_eq!(
        said(height_on_day_7(10, 0, 6)).expect("open").0,
        Severity::Serious
    );
}

fn open(facts: &Facts) -> Vec<&'static str> {
    audit(facts).open.iter().map(|f| f.code).collect()
}

#[test]
fn a_sound_trial_leaves_only_the_narrow_claim() {
    let ledger = audit(&sound());
    assert_eq!(open(&sound()), ["narrow_claim"]);
    assert!(ledger.waits.is_empty(), "{:?}", ledger.waits);
    assert_eq!(ledger.sound.len(), rules::ALL.len() - 1);
}

#[test]
fn nothing_recorded_is_never_a_pass() {
    let ledger = audit(&Facts::default());
    assert!(ledger.open.is_empty() && ledger.sound.is_empty());
    assert_eq!(ledger.waits.len(), rules::ALL.len());
}

#[test]
fn each_rule_opens_on_its_own_fault() {
    type Fault = fn(&mut Facts);
    let faults: [(&str, Fault); 40] = [
        ("no_plain_control", |f| {
            let sheet = f.sheet.as_mut().unwrap();
            sheet.treatments[0].cell("feed", "old feed");
        }),
        ("no_plain_control", |f| f.ask.goal = Goal::Match),
        ("starved", |f| {
            let given = &mut f.composition.as_mut().unwrap().given;
            given.iter_mut().for_each(|g| g.n_mg_per_l = Some(4.0));
        }),
        ("more_than_one_difference", |f| {
            let sheet = f.sheet.as_mut().unwrap();
            sheet.treatments[0].set("medium", "jute");
        }),
        ("more_than_one_difference", |f| {
            let sheet = f.sheet.as_mut().unwrap();
            sheet.treatments[1].applications = sheet.treatments[0].applications.clone();
        }),
        ("hidden_difference", |f| {
            let sheet = f.sheet.as_mut().unwrap();
            sheet.treatments[1].set("medium", "potting mix, charged");
            f.composition =
                Some(sheet.composition(&Stores::with_own(Vec::new()), &FeedPlan::default()));
        }),
        ("composition_unknown", |f| {
            let sheet = f.sheet.as_mut().unwrap();
            sheet.treatments[1].cell("additive", "secret tonic");
            f.composition =
                Some(sheet.composition(&Stores::with_own(Vec::new()), &FeedPlan::default()));
        }),
        ("one_unit_per_treatment", |f| f.units_each = 1),
        ("shared_unit", |f| {
            f.sharing = Some(Sharing {
                fixture: Some(Fixture::Lamp),
                said: true,
                ..Sharing::default()
            });
        }),
        ("shared_unit", |f| {
            f.sharing = Some(Sharing {
                fixture: Some(Fixture::Pump),
                ..Sharing::default()
            })
        }),
        ("measured_late", |f| {
            f.judged_days = vec![height_on_day_7(15, 1, 0)]
        }),
        ("measured_late", |f| {
            f.judged_days = vec![height_on_day_7(15, 0, 1)]
        }),
        ("not_dealt_at_random", |f| f.by_hand = true),
        ("not_blind", |f| f.by_hand = true),
        ("uneven_blocks", |f| {
            f.uneven_levels = vec!["level 2".into()]
        }),
        ("uneven_blocks", |f| f.parted = true),
        ("unequal_start", |f| f.start_gap_percent = Some(12.0)),
        ("edge_or_light_uneven", |f| {
            f.light_umol = vec![120.0, 150.0]
        }),
        ("too_few_to_tell", |f| f.sees_percent = Some(34.0)),
        ("too_few_to_tell", |f| f.undecided = Some((1, 3))),
        ("edge_or_light_uneven", |f| f.edge_slots = vec![6, 2]),
        ("edge_or_light_uneven", |f| {
            f.rotation = Some(Rotation {
                planned: 5,
                done: 2,
            })
        }),
        ("not_blind", |f| f.pouring_sheets = 2),
        ("gap_in_log", |f| f.record_days = vec![0, 1, 12]),
        ("losses", |f| f.lost = vec!["tray K, mould".into()]),
        ("losses", |f| f.weighed = 15),
        ("looked_early", |f| f.revealed_at = Some((9, 16))),
        ("looked_early", |f| f.revealed_at = Some((12, 11))),
        ("looked_early", |f| f.looked_on = (vec![4], vec![7])),
        ("picked_early", |f| {
            f.picked = Some(Picked {
                units: 16,
                aside: 3,
                aside_g: 40.0,
                of_g: 330.0,
                ..Picked::default()
            });
        }),
        ("picked_early", |f| {
            f.picked = Some(Picked {
                units: 16,
                aside: 15,
                aside_g: 3.0,
                of_g: 1500.0,
                ..Picked::default()
            });
        }),
        ("picked_early", |f| {
            f.picked = Some(Picked {
                units: 16,
                looks: 48,
                left_out: 1,
                left_out_on: vec![9],
                ..Picked::default()
            });
        }),
        ("losses", |f| {
            f.sample_losses = vec![SampleLosses { stood: 48, lost: 1 }; 2]
        }),
        ("too_few_to_tell", |f| {
            (f.undecided, f.floor) = (Some((0, 1)), Some(1.0 / 3.0))
        }),
        ("not_given", |f| f.given = Some(fed(0, &[4, 6, 8, 10]))),
        ("not_given", |f| f.given = Some(fed(2, &[4, 6, 8]))),
        ("ran_late", |f| f.ended_on = Some(25)),
        ("gap_in_log", |f| f.ended_on = Some(25)),
        // It still runs, long after its end, and nobody looks.
        ("ran_late", |f| {
            (f.revealed, f.revealed_at, f.ended_on, f.day) = (false, None, None, Some(15))
        }),
        ("goal_posts_moved", |f| {
            f.moved_goal_posts = vec!["margin 10% to 5%".into()]
        }),
    ];
    for (code, fault) in faults {
        let mut facts = sound();
        fault(&mut facts);
        assert!(open(&facts).contains(&code), "{code}: {:?}", open(&facts));
    }
    let mut undealt = sound();
    undealt.dealt = false;
    assert!(audit(&undealt).waits.contains(&"not dealt at random"));
}

/// A single time that is missing among many is no fault; nothing of what was never due is missed.
#[test]
fn what_counts_as_given() {
    let said = |given: Given, revealed| {
        let ledger = audit(&Facts {
            given: Some(given),
            revealed,
            ..sound()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "not_given")
            .map(|f| (f.severity, f.seen))
    };
    assert_eq!(
        [
            said(fed(4, &[]), true),
            said(fed(3, &[8]), true),
            said(fed(0, &[]), true)
        ],
        [None, None, None]
    );
    let never = |revealed| said(fed(0, &[4]), revealed).expect("open");
    let words = "Nothing says that feed was ever given; by the plan it fell due once.";
    assert_eq!(
        never(false),
        (Severity::Minor, words.into()),
        "from the first missed day on"
    );
    assert_eq!(never(true), (Severity::Serious, words.into()));
    let twice = said(fed(2, &[4, 6, 8]), true).expect("open");
    let words = "Feed was given twice; nothing is on record for days 4, 6 and 8, when it fell due.";
    assert_eq!(twice, (Severity::Minor, words.into()));
    // What was left out with a reason is no gap in the log; it is said.
    let out = Given {
        left_out: vec![(6, "power cut".into())],
        ..fed(3, &[])
    };
    assert_eq!(
        said(out, true),
        Some((
            Severity::Minor,
            "Feed was left out on day 6 (power cut).".into()
        ))
    );
    let more = Given {
        planned: 4,
        ..fed(6, &[])
    };
    assert_eq!(
        said(more, true),
        Some((
            Severity::Minor,
            "Feed was given 6 times; by the plan it falls due 4 times.".into()
        ))
    );
    assert_eq!(
        said(
            Given {
                planned: 4,
                ..fed(5, &[])
            },
            true
        ),
        None,
        "one more may be a day early"
    );
    // One that went without now and then differs from its siblings; one that went without a quarter
    // of it is another treatment.
    let short = |times, of| {
        let short = vec![WentShort {
            code: "B".into(),
            times,
            of,
            why: "ran out".into(),
        }];
        said(
            Given {
                short,
                ..fed(4, &[])
            },
            true,
        )
    };
    assert_eq!(
        short(1, 5),
        Some((
            Severity::Minor,
            "B went without once in 5 (ran out).".into()
        ))
    );
    assert_eq!(short(2, 8).map(|s| s.0), Some(Severity::Serious));
}

#[test]
fn few_units_rest_on_the_model() {
    // What rests on the model alone is said, the more seriously the fewer there were.
    let floor = |p| {
        let ledger = audit(&Facts {
            undecided: Some((0, 1)),
            floor: Some(p),
            ..sound()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "too_few_to_tell")
            .map(|f| f.severity)
    };
    assert_eq!(
        [floor(0.03), floor(0.125), floor(1.0 / 3.0)],
        [None, Some(Severity::Minor), Some(Severity::Serious)]
    );
}

/// A height read on the way is no end of the trial; a weight is, whatever the day.
#[test]
fn what_was_read_on_the_way_has_not_ended() {
    let said = |measure: &str, revealed: bool| {
        let mut facts = Facts {
            ended_on: Some(6),
            revealed,
            ..sound()
        };
        facts.ask.primary_measure = measure.into();
        audit(&facts)
            .sound
            .iter()
            .any(|s| s.contains("ended on day 6"))
    };
    assert_eq!(
        [
            said("height", false),
            said("height", true),
            said("harvest_weight", false)
        ],
        [false, true, true]
    );
}

/// What was looked at as planned is no fault; a look beside the plan is a small one, whether the
/// key is open or not.
#[test]
fn planned_looks_are_sound() {
    let planned = Facts {
        looked_on: (vec![4, 8], Vec::new()),
        ..sound()
    };
    assert_eq!(open(&planned), ["narrow_claim"]);
    for revealed_at in [None, Some((12, 16))] {
        let ledger = audit(&Facts {
            revealed_at,
            looked_on: (vec![4], vec![7, 9]),
            ..sound()
        });
        let found = ledger
            .open
            .into_iter()
            .find(|f| f.code == "looked_early")
            .expect("open");
        let words = "What decides was looked at on days 7 and 9, without a plan to.";
        assert_eq!(
            (found.severity, found.seen.as_str()),
            (Severity::Minor, words)
        );
    }
}

/// A few plants that died alike are told; more of one treatment than of another lean the verdict.
/// What was thinned is no loss.
#[test]
fn plants_that_died_matter_where_treatments_lost_unlike_shares() {
    let said = |lost: &[(usize, usize)]| {
        let sample_losses = lost
            .iter()
            .map(|&(lost, stood)| SampleLosses { stood, lost })
            .collect();
        let ledger = audit(&Facts {
            sample_losses,
            ..sound()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "losses")
            .map(|f| (f.severity, f.seen))
    };
    assert_eq!(said(&[(0, 48), (0, 40)]), None);
    let alike = said(&[(2, 48), (3, 48)]).expect("open");
    assert_eq!(
        alike,
        (
            Severity::Minor,
            "5 of 96 plants followed inside the trays died.".into()
        )
    );
    let apart = said(&[(1, 48), (9, 48)]).expect("open");
    let words =
        "10 of 96 plants followed inside the trays died, between 2 and 19 % of a treatment's.";
    assert_eq!(apart, (Severity::Serious, words.into()));
    // While the deal is sealed only their sum is known.
    assert_eq!(said(&[(5, 96)]).map(|s| s.0), Some(Severity::Minor));
    assert_eq!(said(&[(24, 96)]).map(|s| s.0), Some(Severity::Serious));
}

/// A tray written off is no early look, nor is a trial that ended at its stage; a day late is no
/// fault.
#[test]
fn what_is_no_early_look_and_no_late_end() {
    let written_off = Facts {
        lost: vec!["tray K, mould".into()],
        revealed_at: Some((12, 15)),
        ..sound()
    };
    assert!(
        !open(&written_off).contains(&"looked_early"),
        "{:?}",
        open(&written_off)
    );
    let mut stage = Facts {
        revealed_at: Some((9, 16)),
        ended_on: Some(9),
        ..sound()
    };
    assert_eq!(
        open(&stage),
        ["stopped_early", "narrow_claim"],
        "no stage was named"
    );
    stage.ask.end_stage = "first true leaf".into();
    stage.record_days = vec![0, 3, 6, 9];
    assert_eq!(open(&stage), ["narrow_claim"]);
    let missing = Facts {
        revealed_at: Some((12, 14)),
        ..written_off
    };
    assert!(
        open(&missing).contains(&"looked_early"),
        "one more was not weighed"
    );
    let seen = |why: &str| {
        let ledger = audit(&Facts {
            revealed_why: why.into(),
            ..missing.clone()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "looked_early")
            .map(|f| f.seen)
    };
    assert_eq!(
        seen("").as_deref(),
        Some("The key was opened on day 12 of 12 with 14 of 16 trays weighed.")
    );
    let told = "The key was opened on day 12 of 12 with 14 of 16 trays weighed. The reason given: \
                “the fair is tomorrow”.";
    assert_eq!(seen("the fair is tomorrow").as_deref(), Some(told));
    let day_late = Facts {
        ended_on: Some(13),
        record_days: vec![0, 3, 6, 9, 13],
        ..sound()
    };
    assert_eq!(open(&day_late), ["narrow_claim"]);
    let severity = |day| {
        let ledger = audit(&Facts {
            ended_on: Some(day),
            record_days: (0..=day).collect(),
            ..sound()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "ran_late")
            .map(|f| f.severity)
    };
    assert_eq!(
        [severity(13), severity(15), severity(16)],
        [None, Some(Severity::Minor), Some(Severity::Serious)]
    );
}

/// Two of one treatment and six of the other: each is measured by its own number, and spoken of so.
#[test]
fn unequal_numbers_are_measured_by_their_share() {
    let of = |edges: [usize; 2]| Facts {
        rack: Rack {
            numbers: vec![2, 6],
            slots: 4,
            levels: 2,
            ..Rack::default()
        },
        units_each: 2,
        edge_slots: edges.to_vec(),
        light_umol: Vec::new(),
        ..sound()
    };
    for (edges, uneven) in [
        ([1, 3], false),
        ([2, 6], false),
        ([0, 4], false),
        ([2, 2], false),
        ([0, 5], true),
    ] {
        let codes = open(&of(edges));
        assert_eq!(
            codes.contains(&"edge_or_light_uneven"),
            uneven,
            "{edges:?}: {codes:?}"
        );
        assert!(!codes.contains(&"one_unit_per_treatment"), "{codes:?}");
    }
    let few = audit(&Facts {
        sees_percent: Some(34.0),
        ..of([1, 3])
    });
    let finding = few
        .open
        .iter()
        .find(|f| f.code == "too_few_to_tell")
        .expect("open");
    assert_eq!(
        finding.seen.split(" a side").next(),
        Some("2 to 6 trays"),
        "{}",
        finding.seen
    );
}

#[test]
fn the_worst_comes_first_and_the_blind_is_kept() {
    let mut facts = sound();
    facts.units_each = 1;
    facts.edge_slots = vec![6, 2];
    let ledger = audit(&facts);
    assert_eq!(ledger.open[0].severity, Severity::Fatal);
    let edges = ledger
        .open
        .iter()
        .find(|f| f.code == "edge_or_light_uneven")
        .unwrap();
    assert!(
        !edges.seen.contains("water") && !edges.seen.contains("feed"),
        "{}",
        edges.seen
    );
    assert_eq!(
        edges.remedy,
        "Next time turn the trays through all slots, or even out the lamps."
    );
    let by_hand = Facts {
        revealed: false,
        ..facts
    };
    let ledger = audit(&by_hand);
    let edges = ledger
        .open
        .iter()
        .find(|f| f.code == "edge_or_light_uneven")
        .unwrap();
    assert!(
        edges
            .remedy
            .starts_with("Place them otherwise before the first record"),
        "{}",
        edges.remedy
    );
}

/// While the deal is sealed the rules speak of its design alone: what this very deal made of sizes
/// and light is not in it.
#[test]
fn a_sealed_deal_is_judged_by_its_design() {
    let sealed = Facts {
        edge_slots: Vec::new(),
        light_umol: Vec::new(),
        start_gap_percent: None,
        rotation: None,
        ..sound()
    };
    let said = |facts: &Facts, code: &str| {
        let open = audit(facts).open.into_iter().find(|f| f.code == code);
        open.map(|f| (f.severity, f.seen))
    };
    let start = |usual| Facts {
        start_usual_percent: usual,
        ..sealed.clone()
    };
    assert_eq!(
        [None, Some(4.9)].map(|usual| said(&start(usual), "unequal_start")),
        [None, None]
    );
    assert!(audit(&start(None)).waits.contains(&"unequal start"));
    assert!(
        audit(&start(Some(4.9)))
            .sound
            .contains(&"deals like this one leave starting sizes within 4.9 % on average".into())
    );
    let (severity, seen) = said(&start(Some(14.2)), "unequal_start").expect("open");
    assert_eq!(severity, Severity::Minor);
    assert_eq!(
        seen,
        "Deals like this one leave 14 % between the treatments' mean starting sizes on average; \
         how this one fell is sealed."
    );
    let rack = Rack {
        within_percent: Some(3.0),
        ..sealed.rack.clone()
    };
    assert_eq!(
        said(
            &Facts {
                rack,
                ..start(Some(14.2))
            },
            "unequal_start"
        ),
        None,
        "a bound was set before it was dealt"
    );

    let light = |usual| Facts {
        light_usual_percent: Some(usual),
        ..sealed.clone()
    };
    assert_eq!(said(&light(4.0), "edge_or_light_uneven"), None);
    let (_, seen) = said(&light(9.0), "edge_or_light_uneven").expect("open");
    assert!(
        seen.starts_with("By the light map deals like this one leave one treatment 9 % more light"),
        "{seen}"
    );
    // A lamp that is what differs is told by the lamps, whichever has which treatment.
    let sharing = Some(Sharing {
        fixture: Some(Fixture::Lamp),
        factor: "lamp".into(),
        said: true,
        by_level: true,
    });
    let lamps = |apart| Facts {
        lamps_apart_percent: Some(apart),
        sharing: sharing.clone(),
        ..sealed.clone()
    };
    assert_eq!(said(&lamps(2.0), "edge_or_light_uneven"), None);
    assert_eq!(
        said(&lamps(12.0), "edge_or_light_uneven").expect("open").1,
        "By the light map one lamp gives 12 % more light than another."
    );
}

/// Codes alone are no blind where a meter tells who is fed and the same person grades.
#[test]
fn who_reads_the_meter_and_grades_is_named() {
    let hands = |names: &[&str]| Facts {
        graded: true,
        metered: true,
        read_before_grading: names.iter().map(|n| (*n).to_owned()).collect(),
        ..sound()
    };
    let seen = |facts: &Facts| {
        audit(facts)
            .open
            .into_iter()
            .find(|f| f.code == "not_blind")
            .map(|f| f.seen)
    };
    assert_eq!(seen(&hands(&[])), None);
    let one = "Ada read pH or EC, which tells who is fed, and graded by eye afterwards.";
    assert_eq!(seen(&hands(&["Ada"])).as_deref(), Some(one));
    assert!(
        seen(&hands(&["Ada", "Bo", "Cy"]))
            .expect("open")
            .starts_with("Ada, Bo and Cy read")
    );
    let poured = Facts {
        pouring_sheets: 1,
        ..hands(&["Ada"])
    };
    let both = format!("The pouring sheet, which tells the key, was opened once. {one}");
    assert_eq!(seen(&poured), Some(both));
    let weighed = Facts {
        graded: false,
        ..hands(&[])
    };
    assert!(
        audit(&weighed)
            .sound
            .iter()
            .any(|s| s.contains("nothing is judged by eye"))
    );
}

/// What is said of a control fits what is asked: products against one another, the usual dose
/// against less, a lamp.
#[test]
fn a_control_is_judged_by_what_is_asked() {
    let said = |facts: &Facts| {
        let open = audit(facts)
            .open
            .into_iter()
            .find(|f| f.code == "no_plain_control");
        open.map(|f| {
            (
                f.severity,
                f.seen.split(',').next().unwrap_or_default().to_owned(),
            )
        })
    };
    let with = |rows: [(&str, &str, Option<&str>); 2]| {
        let mut facts = sound();
        let sheet = facts.sheet.as_mut().unwrap();
        for (treatment, (feed, share, additive)) in sheet.treatments.iter_mut().zip(rows) {
            treatment.applications.clear();
            treatment.give(Role::Feed, feed, share.parse().unwrap());
            if let Some(additive) = additive {
                treatment.give(Role::Additive, additive, 1.0);
            }
        }
        facts
    };
    let inoculants = with([
        ("grow feed", "1", Some("bacillus")),
        ("grow feed", "1", Some("mycorrhiza")),
    ]);
    let (severity, seen) = said(&inoculants).expect("open");
    assert_eq!(
        (severity, seen.as_str()),
        (
            Severity::Serious,
            "Every treatment gets an inoculant or another additive"
        )
    );
    // The same in all is no product that is tried.
    let mut lamps = with([
        ("grow feed", "1", Some("kelp")),
        ("grow feed", "1", Some("kelp")),
    ]);
    lamps.sheet.as_mut().unwrap().treatments[1].set("light_hours", "12");
    assert_eq!(
        said(&lamps).expect("open").1,
        "All are fed alike: whether the number of light hours matters more to hungry plants than \
         to fed ones goes unseen."
    );
    let alone = with([("grow feed", "1", None), ("grow feed", "1", Some("kelp"))]);
    assert_eq!(
        said(&alone),
        None,
        "the feed alone is what an additive is compared with"
    );
    // Half against the full dose: to do as well with less, the full dose is what it is compared
    // with.
    let halves = with([("grow feed", "1", None), ("grow feed", "0.5", None)]);
    assert_eq!(
        said(&halves).expect("open").0,
        Severity::Serious,
        "to beat it"
    );
    let mut matched = halves;
    matched.ask.goal = Goal::Match;
    assert_eq!(said(&matched), None);
}

/// Plots outdoors live on their soil, and are spoken of as what they are.
#[test]
fn plots_are_no_trays() {
    let mut facts = sound();
    let sheet = facts.sheet.as_mut().unwrap();
    sheet.treatments[1].applications.clear();
    sheet.treatments[1].give(Role::Additive, "kelp", 1.0);
    sheet.treatments[1].give(Role::Feed, "grow feed", 0.05);
    facts.composition =
        Some(sheet.composition(&Stores::with_own(Vec::new()), &FeedPlan::default()));
    facts.record_days = vec![0, 12];
    facts.rack.kind = SpaceKind::Sites;
    let ledger = audit(&facts);
    let seen = |code: &str| {
        ledger
            .open
            .iter()
            .find(|f| f.code == code)
            .map(|f| (f.seen.as_str(), f.remedy.as_str()))
    };
    assert_eq!(seen("starved"), None);
    assert_eq!(
        seen("narrow_claim").expect("open").0,
        "One variety, one season, though 4 sites near one another."
    );
    assert!(
        seen("gap_in_log")
            .expect("open")
            .1
            .starts_with("Look at the plots")
    );
    assert!(
        ledger
            .sound
            .contains(&"plots live on their soil, whatever is given beside".to_owned())
    );
}

/// Cuttings that root in water with a powder on their ends are not fed, and so not starved; a feed
/// stirred in too thin starves all.
#[test]
fn a_dipped_powder_feeds_nobody() {
    let starved = |role: Role, what: &str, how: How, share: f64| {
        let mut facts = sound();
        let sheet = facts.sheet.as_mut().unwrap();
        sheet.treatments[1].applications = vec![Application {
            how,
            ..Application::stirred(role, what, share)
        }];
        facts.composition =
            Some(sheet.composition(&Stores::with_own(Vec::new()), &FeedPlan::default()));
        open(&facts).contains(&"starved")
    };
    for how in [How::Dipped, How::Dusted, How::Sprayed] {
        assert!(
            !starved(Role::Additive, "seaweed extract", how, 1.0),
            "{how:?}"
        );
    }
    assert!(starved(Role::Feed, "grow feed", How::Stirred, 0.02));
    assert!(!starved(Role::Feed, "grow feed", How::Stirred, 1.0));
}

/// What was taken from a few units matters by its share; from all alike it does not, and no more do
/// waves that were whole.
#[test]
fn picks_are_seen_where_some_units_gave_them_and_others_not() {
    let of = |picked: Picked| {
        let ledger = audit(&Facts {
            picked: Some(Picked {
                units: 16,
                ..picked
            }),
            ..sound()
        });
        ledger
            .open
            .into_iter()
            .find(|f| f.code == "picked_early")
            .map(|f| (f.severity, f.seen))
    };
    let (severity, seen) = of(Picked {
        aside: 3,
        aside_g: 40.0,
        of_g: 330.0,
        ..Picked::default()
    })
    .expect("open");
    assert_eq!(severity, Severity::Serious);
    assert_eq!(
        seen,
        "Something was taken from 3 of 16 trays before the harvest: 40 g, 12 % of what they \
         yielded. It is counted in."
    );
    let little = of(Picked {
        aside: 3,
        aside_g: 5.0,
        of_g: 330.0,
        ..Picked::default()
    })
    .expect("open");
    assert!(
        little.0 == Severity::Minor && little.1.contains("5 g, 1.5 % of"),
        "{}",
        little.1
    );
    let unweighed = of(Picked {
        aside: 1,
        aside_g: 5.0,
        ..Picked::default()
    })
    .expect("open");
    assert!(
        unweighed.0 == Severity::Serious && unweighed.1.contains("5 g. It is"),
        "{}",
        unweighed.1
    );
    assert_eq!(
        of(Picked {
            aside: 16,
            aside_g: 90.0,
            of_g: 1800.0,
            ..Picked::default()
        }),
        None
    );
    assert_eq!(
        of(Picked {
            looks: 48,
            ..Picked::default()
        }),
        None
    );
    let waves = |left_out, left_out_on| {
        of(Picked {
            looks: 48,
            left_out,
            left_out_on,
            ..Picked::default()
        })
        .expect("open")
    };
    let (severity, seen) = waves(1, vec![9]);
    assert_eq!(severity, Severity::Minor);
    assert_eq!(
        seen,
        "In the waves 1 of 48 looks are missing, on day 9: nobody says whether anything was ripe."
    );
    assert_eq!(waves(5, vec![9, 12]).0, Severity::Serious);
}

/// More light on the treatment that yields more explains part of it; more light on the one that
/// yields less explains nothing, and what was found stands in spite of it.
#[test]
fn light_explains_what_points_its_way() {
    let said = |light: [f64; 2], claimed: f64| {
        let claims = Claims {
            decided: 1,
            differences: vec![(TreatmentIndex(1), claimed)],
        };
        let facts = Facts {
            light_umol: light.to_vec(),
            claims,
            ..sound()
        };
        let open = audit(&facts)
            .open
            .into_iter()
            .find(|f| f.code == "edge_or_light_uneven");
        open.map(|f| (f.severity, f.seen, f.makes))
    };
    // 7 % more light, three quarters of it in weight: 5.25 of 9 %.
    let (severity, seen, makes) = said([100.0, 107.0], 9.0).expect("open");
    assert_eq!((severity, makes.len()), (Severity::Serious, 1));
    assert!((makes[0].1 - 5.25).abs() < 1e-9);
    assert!(
        seen.ends_with(" That alone could make about 5 of the 9 % found."),
        "{seen}"
    );
    let (severity, seen, _) = said([100.0, 107.0], 4.0).expect("open");
    assert!(
        severity == Severity::Serious
            && seen.ends_with(" That alone could make all of the 4 % found."),
        "{seen}"
    );
    let (severity, ..) = said([100.0, 107.0], 36.0).expect("open");
    assert_eq!(severity, Severity::Minor, "a seventh of it");
    let (severity, seen, makes) = said([107.0, 100.0], 9.0).expect("open");
    assert_eq!((severity, makes), (Severity::Minor, vec![]), "{seen}");
    assert!(seen.ends_with("more light than another."), "{seen}");
    // The less light goes with the loss.
    assert_eq!(said([107.0, 100.0], -9.0).expect("open").2.len(), 1);
}
