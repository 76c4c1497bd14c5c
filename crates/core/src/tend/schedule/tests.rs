use super::away::clashes;
use super::*;
use crate::trial::care::CareError;
use crate::trial::care::{FeedingDays, MovedJob};

fn done(jobs: &[(Job, u32)]) -> WorkDone {
    WorkDone {
        jobs: jobs.to_vec(),
        ..WorkDone::default()
    }
}

fn jobs(past: &[(Job, u32)], today: u32) -> Vec<(Job, u32)> {
    let list = due(
        &CarePlan::default(),
        &TreatmentDays::default(),
        12,
        &done(past),
        today,
    );
    list.iter().map(|d| (d.job, d.late)).collect()
}

fn days(plan: &CarePlan, own: &TreatmentDays, past: &WorkDone, job: Job) -> Vec<u32> {
    calendar(plan, own, 12, past)
        .into_iter()
        .filter(|(j, _)| *j == job)
        .map(|(_, day)| day)
        .collect()
}

#[test]
fn a_late_feeding_moves_the_next_ones() {
    let start = [(Job::Sow, 0), (Job::EndBlackout, 3), (Job::Read, 7)];
    assert_eq!(
        jobs(&[&start[..], &[(Job::Feed, 4)]].concat(), 7),
        [(Job::Feed, 1)]
    );
    assert_eq!(jobs(&[&start[..], &[(Job::Feed, 6)]].concat(), 7), []);
    assert_eq!(
        jobs(&[&start[..], &[(Job::Feed, 6)]].concat(), 8),
        [(Job::Feed, 0)]
    );
    let (plan, own) = (CarePlan::default(), TreatmentDays::default());
    assert_eq!(
        days(&plan, &own, &done(&[(Job::Feed, 4)]), Job::Feed),
        [6, 8, 10]
    );
    assert_eq!(
        days(&plan, &own, &done(&[(Job::Feed, 5)]), Job::Feed),
        [7, 9, 11]
    );
}

#[test]
fn nothing_is_fed_on_the_last_day_but_everything_is_cut() {
    let past = [
        (Job::Sow, 0),
        (Job::EndBlackout, 3),
        (Job::Feed, 10),
        (Job::Read, 11),
    ];
    assert_eq!(jobs(&past, 12), [(Job::Harvest, 0)]);
    let all = WorkDone {
        all_weighed: true,
        ..done(&past)
    };
    assert!(
        due(
            &CarePlan::default(),
            &TreatmentDays::default(),
            12,
            &all,
            20
        )
        .is_empty()
    );
}

#[test]
fn care_plans_that_cannot_be_kept_are_refused() {
    assert_eq!(CarePlan::default().check(12), Ok(()));
    let late = CarePlan {
        first_feed_day: 13,
        ..CarePlan::default()
    };
    assert!(matches!(
        late.check(12),
        Err(CareError::BeyondEnd { got: 13, .. })
    ));
    let seldom = CarePlan {
        rotate_every: 366,
        ..CarePlan::default()
    };
    assert_eq!(
        seldom.check(12),
        Err(CareError::Seldom {
            what: "rotating",
            got: 366
        })
    );
    assert_eq!(
        CarePlan {
            feed_every: 0,
            read_every: 0,
            ..CarePlan::default()
        }
        .check(12),
        Ok(())
    );
}

#[test]
fn before_sowing_only_sowing_is_due() {
    assert_eq!(jobs(&[], 0), [(Job::Sow, 0)]);
    assert_eq!(jobs(&[], 3), [(Job::Sow, 3), (Job::EndBlackout, 0)]);
}

#[test]
fn treatments_with_days_of_their_own_keep_them() {
    let feeding = FeedingDays {
        tank: vec![4, 6, 9, 14],
        by_rhythm: false,
        beside: vec![0, 5],
        rinsed: false,
        unfed: false,
    };
    let own = TreatmentDays {
        soak_hours: 8,
        blackouts: vec![5, 3],
        feeding,
        ..TreatmentDays::default()
    };
    let plan = CarePlan::default();
    assert_eq!(
        calendar(&plan, &own, 12, &WorkDone::default())[0],
        (Job::Soak, 0)
    );
    assert_eq!(
        days(&plan, &own, &WorkDone::default(), Job::EndBlackout),
        [3, 5]
    );
    assert_eq!(
        days(
            &plan,
            &own,
            &done(&[(Job::EndBlackout, 3)]),
            Job::EndBlackout
        ),
        [5]
    );
    assert_eq!(
        days(&plan, &own, &WorkDone::default(), Job::Feed),
        [4, 6, 9]
    );
    assert_eq!(days(&plan, &own, &done(&[(Job::Feed, 7)]), Job::Feed), [9]);
    // What is sprayed or dusted is work of its own, which neither moves the feedings nor is moved
    // by them.
    assert_eq!(
        days(&plan, &own, &done(&[(Job::Feed, 7)]), Job::Apply),
        [0, 5]
    );
    assert_eq!(
        days(&plan, &own, &done(&[(Job::Apply, 0)]), Job::Apply),
        [5]
    );
    // An additive on days of its own in a tank that is fed by the rhythm: both, and each day once.
    let both = TreatmentDays {
        feeding: FeedingDays {
            by_rhythm: true,
            ..own.feeding.clone()
        },
        ..TreatmentDays::default()
    };
    assert_eq!(
        days(&plan, &both, &WorkDone::default(), Job::Feed),
        [4, 6, 8, 9, 10]
    );
}

#[test]
fn rhythms_of_nothing_are_left_out_and_others_begin_in_the_light() {
    let plan = CarePlan {
        feed_every: 0,
        read_every: 0,
        rotate_every: 3,
        thin_day: 6,
        ..CarePlan::default()
    };
    let (own, none) = (TreatmentDays::default(), WorkDone::default());
    assert!(days(&plan, &own, &none, Job::Feed).is_empty());
    assert_eq!(days(&plan, &own, &none, Job::Rotate), [3, 6, 9]);
    assert_eq!(days(&plan, &own, &none, Job::Thin), [6]);
    assert!(
        days(
            &CarePlan {
                blackout_days: 0,
                ..plan
            },
            &own,
            &none,
            Job::EndBlackout
        )
        .is_empty()
    );
}

#[test]
fn moved_work_falls_on_its_new_day_and_counts_from_there() {
    let moved = WorkDone {
        moved: vec![MovedJob {
            job: Job::Feed,
            from: 6,
            to: 5,
        }],
        ..done(&[(Job::Feed, 4)])
    };
    assert_eq!(
        days(
            &CarePlan::default(),
            &TreatmentDays::default(),
            &moved,
            Job::Feed
        ),
        [5, 7, 9, 11]
    );
    let later = WorkDone {
        moved: vec![MovedJob {
            job: Job::Feed,
            from: 6,
            to: 7,
        }],
        ..done(&[(Job::Feed, 4)])
    };
    assert_eq!(
        days(
            &CarePlan::default(),
            &TreatmentDays::default(),
            &later,
            Job::Feed
        ),
        [7, 9, 11]
    );
}

#[test]
fn work_moved_back_by_a_whole_rhythm_or_more_does_not_come_round_for_ever() {
    for to in 1..6 {
        let moved = WorkDone {
            moved: vec![MovedJob {
                job: Job::Feed,
                from: 6,
                to,
            }],
            ..done(&[(Job::Feed, 4)])
        };
        let feeds = days(
            &CarePlan::default(),
            &TreatmentDays::default(),
            &moved,
            Job::Feed,
        );
        assert!(feeds[0] == to && feeds.len() <= 4, "{to}: {feeds:?}");
    }
}

#[test]
fn what_was_missed_is_not_made_up_for_twice() {
    let list = due(
        &CarePlan::default(),
        &TreatmentDays::default(),
        30,
        &done(&[
            (Job::Sow, 0),
            (Job::EndBlackout, 3),
            (Job::Feed, 4),
            (Job::Read, 11),
        ]),
        11,
    );
    assert_eq!(list.len(), 1);
    assert_eq!((list[0].day, list[0].late), (6, 5));
    assert!(
        list[0]
            .mind
            .as_ref()
            .unwrap()
            .starts_with("2 missed since. Give one now, not 3")
    );
}

#[test]
fn days_away_move_what_can_be_moved() {
    let list = clashes(
        &[
            (Job::Feed, 5),
            (Job::Read, 6),
            (Job::Feed, 8),
            (Job::Harvest, 9),
        ],
        5,
        9,
        12,
    );
    let moves: Vec<Option<u32>> = list.iter().map(|c| c.move_to).collect();
    // Day 5 goes to day 4, day 6 too, day 8 to day 10, the harvest stays.
    assert_eq!(moves, [Some(4), Some(4), Some(10), None]);
    assert_eq!(
        clashes(&[(Job::Feed, 6)], 3, 9, 12)[0].move_to,
        None,
        "too far either way"
    );
    assert!(clashes(&[(Job::Feed, 2)], 5, 9, 12).is_empty());
}

/// A measure judged on days 5 and 12 is read on them, whatever the rhythm, the last day included;
/// said at the task.
#[test]
fn what_is_judged_on_a_day_is_read_on_it() {
    let own = TreatmentDays {
        judged: vec![5, 12],
        ..TreatmentDays::default()
    };
    let jobs = vec![
        (Job::Sow, 0),
        (Job::EndBlackout, 3),
        (Job::Feed, 4),
        (Job::Read, 4),
    ];
    let mut done = WorkDone {
        jobs,
        ..WorkDone::default()
    };
    let reads = |done: &WorkDone| -> Vec<u32> {
        let all = calendar(&CarePlan::default(), &own, 12, done);
        all.into_iter()
            .filter(|(job, _)| *job == Job::Read)
            .map(|(_, day)| day)
            .collect()
    };
    assert_eq!(reads(&done), [5, 6, 8, 10, 12]);
    let said = |done: &WorkDone, today: u32| {
        let due = due(&CarePlan::default(), &own, 12, done, today);
        due.into_iter()
            .find(|d| d.job == Job::Read)
            .and_then(|d| d.mind)
    };
    assert!(said(&done, 5).is_some_and(|mind| mind.contains("is judged: take it of every one")));
    assert!(said(&done, 6).is_some_and(|mind| mind.contains("is past")));
    done.jobs.push((Job::Read, 5));
    assert_eq!((reads(&done), said(&done, 7)), (vec![7, 9, 11, 12], None));
    let never = CarePlan {
        read_every: 0,
        ..CarePlan::default()
    };
    done.moved.push(crate::trial::care::MovedJob {
        job: Job::Read,
        from: 12,
        to: 11,
    });
    assert!(
        calendar(&never, &own, 12, &done).contains(&(Job::Read, 11)),
        "moved once"
    );
}

/// A past day of sowing: what fell before it was entered may have been done, and is asked about;
/// what fell since is late.
#[test]
fn what_fell_before_the_sowing_was_entered_is_asked_about() {
    let told = |entered: Option<u32>, today: u32| -> Vec<(Job, u32, bool, bool)> {
        let done = WorkDone {
            sowing_entered: entered,
            ..done(&[(Job::Sow, 0)])
        };
        let list = due(
            &CarePlan::default(),
            &TreatmentDays::default(),
            12,
            &done,
            today,
        );
        list.into_iter()
            .map(|d| (d.job, d.late, d.asked, d.mind.is_some()))
            .collect()
    };
    let blackout =
        |list: &[(Job, u32, bool, bool)]| list.iter().find(|d| d.0 == Job::EndBlackout).copied();
    // Entered on day 8: the blackout was to end on day 3.
    assert_eq!(
        blackout(&told(Some(8), 8)),
        Some((Job::EndBlackout, 5, true, false))
    );
    assert_eq!(
        blackout(&told(Some(0), 8)),
        Some((Job::EndBlackout, 5, false, true)),
        "entered on the day: it is late"
    );
    assert_eq!(
        blackout(&told(Some(3), 4)),
        Some((Job::EndBlackout, 1, false, true)),
        "it fell on that very day"
    );
    assert_eq!(
        blackout(&told(None, 8)),
        Some((Job::EndBlackout, 5, false, true))
    );
}
