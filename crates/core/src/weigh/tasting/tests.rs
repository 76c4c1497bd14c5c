use super::*;

fn names(of: TreatmentIndex) -> String {
    ["plain water", "half feed", "full feed"][of.get()].into()
}

fn setting(asked: Asked, way: Way, treatments: usize, seats: u32) -> Setting {
    let attributes = if asked == Asked::Liking {
        vec![Attribute::Bitter, Attribute::Sweet]
    } else {
        Vec::new()
    };
    Setting {
        asked,
        way,
        attributes,
        of: (0..treatments).map(TreatmentIndex).collect(),
        seats,
    }
}

/// Four units of each treatment.
fn units(of: TreatmentIndex) -> Vec<UnitIndex> {
    (0..4).map(|n| UnitIndex(4 * of.get() + n)).collect()
}

fn tasting(setting: &Setting, seed: u64) -> Tasting {
    let seat = |(i, cups): (usize, Vec<Cup>)| Seat {
        seat: i as u32 + 1,
        cups,
        answer: None,
        known: true,
        taster: String::new(),
    };
    Tasting {
        asked: setting.asked,
        way: setting.way,
        attributes: setting.attributes.clone(),
        of: setting.of.clone(),
        seats: setting
            .laid_out(units, seed)
            .unwrap()
            .into_iter()
            .enumerate()
            .map(seat)
            .collect(),
        begun_at: Timestamp::UNIX_EPOCH,
        until: Timestamp::UNIX_EPOCH + jiff::SignedDuration::from_hours(2),
        closed_at: None,
    }
}

/// The place of the odd cup.
fn odd(seat: &Seat) -> usize {
    (0..3)
        .find(|i| {
            seat.cups
                .iter()
                .filter(|c| c.of == seat.cups[*i].of)
                .count()
                == 1
        })
        .unwrap()
}

#[test]
fn so_many_who_find_the_odd_cup_are_told_and_one_fewer_is_not() {
    let mut own = tasting(&setting(Asked::Triangle, Way::Served, 2, 12), 3);
    for (i, seat) in own.seats.iter_mut().enumerate() {
        let place = if i < 8 {
            odd(seat)
        } else {
            (odd(seat) + 1) % 3
        };
        seat.answer = Some(Answer {
            picked: Some(place),
            ..Answer::default()
        });
    }
    let told = own.told().unwrap();
    let picked = told.picked.clone().unwrap();
    assert_eq!(
        (picked.of, picked.right, picked.wanted, picked.told),
        (12, 8, Some(8), true)
    );
    // 8 or more of 12 by guessing: 0.0188 (ISO 4120 table A.1 has 8 at 5 %).
    assert!((picked.p - 0.018_8).abs() < 5e-5, "{}", picked.p);
    assert_eq!(
        own.said(&told, &names),
        [
            "8 of 12 found the odd cup: plain water and half feed taste different. Luck alone \
             does as well in 19 of 1,000 tastings."
        ]
    );
    let seat = &mut own.seats[0];
    seat.answer.as_mut().unwrap().picked = Some((odd(seat) + 1) % 3);
    let told = own.told().unwrap();
    assert!(!told.picked.as_ref().unwrap().told);
    assert_eq!(
        own.said(&told, &names),
        [
            "7 of 12 found the odd cup, and one in three is found by guessing: whether plain \
             water and half feed taste different cannot be told, nor that they taste alike. It \
             would have taken 8."
        ]
    );
}

#[test]
fn a_preference_is_told_whichever_it_is_and_wherever_it_stood() {
    for better in [TreatmentIndex(0), TreatmentIndex(1)] {
        let mut own = tasting(&setting(Asked::Pair, Way::Served, 2, 12), 9);
        for (i, seat) in own.seats.iter_mut().enumerate() {
            let place = seat.cups.iter().position(|c| c.of == better).unwrap();
            let picked = if i < 10 { place } else { 1 - place };
            seat.answer = Some(Answer {
                picked: Some(picked),
                ..Answer::default()
            });
        }
        let told = own.told().unwrap();
        let other = TreatmentIndex(1 - better.get());
        let expected = format!(
            "10 of 12 preferred {} to {}: it is preferred. Luck alone has as many agree in 39 of \
             1,000 tastings.",
            names(better),
            names(other)
        );
        assert_eq!(own.said(&told, &names), [expected]);
    }
}

#[test]
fn liking_is_told_by_ranks_within_tasters() {
    let mut own = tasting(&setting(Asked::Liking, Way::Served, 3, 12), 5);
    for (i, seat) in own.seats.iter_mut().enumerate() {
        // Tasters use the scale as they like; full feed stands two points above, half feed now
        // above and now below.
        let base = 3 + (i % 4) as u8;
        let like = |c: &Cup| base + [0, (i % 2 * 2) as u8, 2][c.of.get()];
        let liking: Vec<u8> = seat
            .cups
            .iter()
            .map(|c| like(c) - u8::from(c.of.get() == 1))
            .collect();
        let bitter = seat
            .cups
            .iter()
            .map(|c| if c.of.get() == 2 { 2 } else { 6 })
            .collect();
        let sweet = seat.cups.iter().map(|_| 5).collect();
        let attributes = BTreeMap::from([(Attribute::Bitter, bitter), (Attribute::Sweet, sweet)]);
        seat.answer = Some(Answer {
            picked: None,
            liking,
            attributes,
        });
    }
    assert!(
        own.seats
            .iter()
            .all(|s| own.check(s.answer.as_ref().unwrap()).is_ok())
    );
    let told = own.told().unwrap();
    let full = told.liking[2].against.as_ref().unwrap();
    assert_eq!(
        (full.more, full.less, full.same, full.told),
        (12, 0, 0, true)
    );
    let half = told.liking[1].against.as_ref().unwrap();
    assert_eq!((half.more, half.less, half.told), (6, 6, false));
    // All twelve to one side: twice (1/2)^12, and twice that for the second of two.
    assert!((full.p - 2.0 * 2.0_f64.powi(-11)).abs() < 1e-12 && (half.p - 1.0).abs() < 1e-12);
    assert_eq!(
        own.said(&told, &names),
        [
            "Whether half feed is liked better than plain water cannot be told: 6 of 12 gave it \
             more points, 6 fewer (4.5 against 4.5 of 9).",
            "Full feed is liked better than plain water: 12 of 12 gave it more points, none fewer \
             (6.5 against 4.5 of 9).",
            "Full feed is less bitter than plain water: 2.0 against 6.0 points.",
            "No difference can be told in: sweet.",
        ]
    );
}

#[test]
fn covered_cups_count_once_it_is_known_how_they_stood() {
    let mut own = tasting(&setting(Asked::Pair, Way::Covered, 2, 6), 4);
    // Cut from another unit of each treatment each time, as long as there are any.
    let firsts: Vec<Option<UnitIndex>> = own
        .seats
        .iter()
        .map(|s| s.cups.iter().find(|c| c.of.get() == 0).unwrap().unit)
        .collect();
    assert!(
        firsts[..4]
            .iter()
            .all(|u| firsts[..4].iter().filter(|v| *v == u).count() == 1),
        "{firsts:?}"
    );
    for seat in &mut own.seats {
        seat.known = seat.seat < 6;
        seat.answer = Some(Answer {
            picked: Some(0),
            liking: vec![7, 5],
            ..Answer::default()
        });
    }
    let told = own.told().unwrap();
    assert_eq!((told.answers, told.picked.as_ref().unwrap().of), (5, 5));
    let said = own.said(&told, &names);
    assert!(
        said[0].ends_with("So few answers can tell nothing.")
            && said.last().unwrap().contains("one taster"),
        "{said:?}"
    );
}

#[test]
fn what_cannot_be_set_or_answered_is_said() {
    let refused = |setting: &Setting| setting.laid_out(units, 1).unwrap_err();
    assert!(refused(&setting(Asked::Triangle, Way::Served, 3, 12)).contains("two treatments"));
    assert!(refused(&setting(Asked::Liking, Way::Served, 1, 12)).contains("2 to 8"));
    assert!(refused(&setting(Asked::Liking, Way::Served, 3, 0)).contains("1 to 400"));
    assert!(refused(&setting(Asked::Liking, Way::Covered, 2, 6)).contains("covered cups"));
    assert!(refused(&setting(Asked::Pair, Way::Covered, 2, 25)).contains("covered cups"));
    let twice = Setting {
        of: vec![TreatmentIndex(1); 2],
        ..setting(Asked::Pair, Way::Served, 2, 6)
    };
    assert!(refused(&twice).contains("each once"));
    let gone = setting(Asked::Pair, Way::Served, 2, 6)
        .laid_out(|t| if t.get() == 1 { Vec::new() } else { units(t) }, 1);
    assert!(
        gone.unwrap_err()
            .contains("nothing stands to be tasted of treatment 2")
    );

    let own = tasting(&setting(Asked::Liking, Way::Served, 3, 6), 1);
    let full = || Answer {
        picked: None,
        liking: vec![1, 9, 5],
        attributes: BTreeMap::from([
            (Attribute::Bitter, vec![1; 3]),
            (Attribute::Sweet, vec![9; 3]),
        ]),
    };
    assert_eq!(own.check(&full()), Ok(()));
    for wrong in [
        Answer {
            picked: Some(0),
            ..full()
        },
        Answer {
            liking: vec![1, 9],
            ..full()
        },
        Answer {
            liking: vec![1, 9, 10],
            ..full()
        },
        Answer {
            liking: vec![0, 9, 5],
            ..full()
        },
        Answer {
            attributes: BTreeMap::new(),
            ..full()
        },
        Answer {
            attributes: BTreeMap::from([(Attribute::Colour, vec![1; 3])]),
            ..full()
        },
    ] {
        assert!(own.check(&wrong).is_err(), "{wrong:?}");
    }
    let pair = tasting(&setting(Asked::Pair, Way::Served, 2, 6), 1);
    assert!(
        pair.check(&Answer::default()).is_err()
            && pair
                .check(&Answer {
                    picked: Some(2),
                    ..Answer::default()
                })
                .is_err()
    );
    let end = own.until;
    assert!(own.takes_answers(Timestamp::UNIX_EPOCH) && !own.takes_answers(end));
    assert!(
        !Tasting {
            closed_at: Some(end),
            ..own
        }
        .takes_answers(Timestamp::UNIX_EPOCH)
    );
}

/// Tasters who taste nothing: told no more often than is allowed.
#[test]
fn where_nothing_is_tasted_little_is_told() {
    use rand::{RngExt, SeedableRng};
    let mut chance = rand_chacha::ChaCha8Rng::seed_from_u64(11);
    let mut told = [0; 3];
    for round in 0..1000 {
        let mut liking = tasting(&setting(Asked::Liking, Way::Served, 3, 12), round);
        let mut odd_one = tasting(&setting(Asked::Triangle, Way::Served, 2, 12), round);
        for seat in &mut liking.seats {
            let mut points = || {
                (0..3)
                    .map(|_| chance.random_range(1..10))
                    .collect::<Vec<u8>>()
            };
            let attributes =
                BTreeMap::from([(Attribute::Bitter, points()), (Attribute::Sweet, points())]);
            seat.answer = Some(Answer {
                picked: None,
                liking: points(),
                attributes,
            });
        }
        for seat in &mut odd_one.seats {
            seat.answer = Some(Answer {
                picked: Some(chance.random_range(0..3)),
                ..Answer::default()
            });
        }
        let (own, triangle) = (liking.told().unwrap(), odd_one.told().unwrap());
        let any = |rated: &[Rated]| {
            rated
                .iter()
                .any(|r| r.against.as_ref().is_some_and(|a| a.told))
        };
        told[0] += i32::from(any(&own.liking));
        told[1] += i32::from(own.attributes.values().any(|r| any(r)));
        told[2] += i32::from(triangle.picked.unwrap().told);
    }
    // 5 % of 1,000, two standard errors above and not nothing below.
    assert!(told.iter().all(|n| (5..=64).contains(n)), "{told:?}");
}
