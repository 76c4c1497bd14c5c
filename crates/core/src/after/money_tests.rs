use super::*;
use crate::stores::prices::CheapHours;
use crate::stores::{Held, Item};
use crate::trial::made_up::opened;
use crate::trial::plan::Plan;
use crate::trial::record::weighing::Weighing;
use crate::trial::records::{ReadingRecord, Recorded, UnitRecords, record_head};
use crate::trial::space::RackDesign;
use iron_twin_judge::verdict::Verdict;

fn item(shelf: &str, name: &str, held: &[(&str, f64)]) -> Item {
    let held = held
        .iter()
        .map(|(key, x)| ((*key).to_owned(), Held::Number(*x)))
        .collect();
    Item {
        shelf: shelf.into(),
        name: name.into(),
        source: String::new(),
        held,
    }
}

/// Four trays on water and four on feed, with these weights; a kg brings 20.
fn trial(water: [f64; 4], feed: [f64; 4]) -> Trial {
    let mut plan = Plan::usual("Amaranth");
    (plan.rack.levels, plan.rack.slots, plan.rack.design) =
        (1, 8, RackDesign::CompletelyRandomised);
    plan.ask.price_per_kg = Some(20.0);
    plan.sheet
        .treatments
        .iter_mut()
        .for_each(|t| t.conditions.clear());
    let mut trial = opened(plan, 8);
    let weighed = |n: usize| {
        let net_g = if n.is_multiple_of(2) {
            water[n / 2]
        } else {
            feed[n / 2]
        };
        let weighing = Recorded::new(
            None,
            record_head(12),
            Weighing {
                gross_g: net_g,
                tare_g: 0.0,
                turn: None,
            },
        );
        Arc::new(UnitRecords {
            own: [weighing].into_iter().collect(),
            ..UnitRecords::default()
        })
    };
    trial.records.units = (0..8).map(weighed).collect();
    trial
}

fn prices() -> Prices {
    Prices {
        currency: "€".into(),
        per_kwh: Some(0.30),
        per_hour: Some(18.0),
        ..Prices::default()
    }
}

const WATER: [f64; 4] = [98.0, 102.0, 100.0, 100.0];
const FEED: [f64; 4] = [128.0, 132.0, 130.0, 130.0];

/// By hand: 30 g more at 20 a kg bring 0.60. Four feedings of 250 mL at 4 mL a litre are 4 mL of
/// feed, at 15 a litre 0.06. So 0.54 more a tray; 3 g or 2 a kg earn the feed back, and each of the
/// money spent on it brings 10.
#[test]
fn what_feed_costs_is_taken_off_what_it_brings() {
    let own = trial(WATER, FEED);
    let stores = Stores::with_own(vec![item(
        "feeds",
        "grow feed",
        &[("price_per_kg_or_l", 15.0), ("dose_per_l", 4.0)],
    )]);
    let told = money(&own, &stores, &prices()).expect("money");
    let feed = &told.treatments[1];
    let near = |a: f64, b: f64| assert!((a - b).abs() < 1e-9, "{a} {b}");
    near(feed.value.unwrap(), 2.6);
    near(told.treatments[0].value.unwrap(), 2.0);
    let line = feed
        .costs
        .iter()
        .find(|c| c.kind == "feed")
        .expect("the feed");
    near(line.amount, 4.0);
    near(line.cost.unwrap(), 0.06);
    let beside = feed.beside.as_ref().expect("beside the control");
    near(beside.cost, 0.06);
    near(beside.gain, 0.54);
    near(beside.pays_from_g.unwrap(), 3.0);
    near(beside.pays_from_per_kg.unwrap(), 2.0);
    near(beside.brings_per_spent.unwrap(), 10.0);
    // The interval of the weights (30 g, standard error 1.1547 g, t 2.4469 of 6 degrees of freedom)
    // at 20 a kg, less the feed.
    near((beside.low * 1e4).round() / 1e4, 0.4835);
    near((beside.high * 1e4).round() / 1e4, 0.5965);
    assert_eq!(told.treatments[0].beside, None);
    // Twelve days and two between: 26.09 crops a year.
    near((told.crops_a_year * 100.0).round() / 100.0, 26.09);
    assert_eq!(
        beside.sentence,
        "Full feed earns €0.54 more a tray than plain water after its costs, very likely between \
         €0.48 and €0.60: it pays. It costs €0.060 more a tray: 3.0 g more earn that back, or a \
         price of €2.00 a kg at what it yielded."
    );
}

#[test]
fn dear_feed_does_not_pay_and_little_may_or_may_not() {
    let dear = |price: f64| {
        Stores::with_own(vec![item(
            "feeds",
            "grow feed",
            &[("price_per_kg_or_l", price), ("dose_per_l", 4.0)],
        )])
    };
    let said = |price: f64| {
        let told = money(&trial(WATER, FEED), &dear(price), &prices()).expect("money");
        told.treatments[1]
            .beside
            .as_ref()
            .expect("beside")
            .sentence
            .clone()
    };
    // 4 mL at 250 a litre are 1.00, and bring 0.60.
    assert!(
        said(250.0).starts_with(
            "Full feed earns €0.40 less a tray than plain water after its \
                                     costs, very likely between €0.34 and €0.46: it does not \
                                     pay."
        ),
        "{}",
        said(250.0)
    );
    // At 150 a litre they cost what they bring.
    assert!(
        said(150.0).starts_with(
            "Whether full feed pays cannot be told: after its costs it may \
                                 earn up to €0.057 less or €0.057 more a tray than plain water."
        ),
        "{}",
        said(150.0)
    );
    let mut own = trial(WATER, FEED);
    Arc::make_mut(&mut own.plan).ask.margin_money = Some(0.20);
    let told = money(&own, &dear(15.0), &prices()).expect("money");
    let sentence = &told.treatments[1].beside.as_ref().expect("beside").sentence;
    assert!(
        sentence.contains("more than the €0.20 you said would matter"),
        "{sentence}"
    );
}

#[test]
fn what_has_no_price_is_said_and_not_taken_for_nothing() {
    let told = money(
        &trial(WATER, FEED),
        &Stores::with_own(Vec::new()),
        &prices(),
    )
    .expect("money");
    assert!(
        told.unpriced.contains(&"grow feed".to_owned()),
        "{:?}",
        told.unpriced
    );
    let beside = told.treatments[1].beside.as_ref().expect("beside");
    assert!(
        beside
            .sentence
            .ends_with("Not counted, for want of a price: grow feed."),
        "{}",
        beside.sentence
    );
    // Without a price of the harvest there is no gain to tell.
    let mut own = trial(WATER, FEED);
    Arc::make_mut(&mut own.plan).ask.price_per_kg = None;
    let told = money(&own, &Stores::with_own(Vec::new()), &prices()).expect("money");
    assert!(!told.priced && told.treatments[1].beside.is_none());
    own.reveal = None;
    assert_eq!(money(&own, &Stores::with_own(Vec::new()), &prices()), None);
}

/// Straight-line depreciation, the worked example of every textbook (here: Horngren, Sundem,
/// Elliott, Introduction to Financial Accounting, from memory): cost less what is left, over the
/// life; a tray of 3.00 over 30 crops is 0.10 a crop. A lamp of 90.00 over two trays that lasts
/// 30,000 h and burns 16 h on 9 days: 45.00 x 144 / 30,000 = 0.216. Its 40 W are 2.88 kWh a tray,
/// eight of the sixteen hours at 0.10 and eight at 0.30: 0.576. Ten minutes of work at 18 an hour:
/// 3.00.
#[test]
fn fixtures_are_spread_over_their_life_and_power_has_its_hour() {
    let mut own = trial(WATER, FEED);
    let plan = Arc::make_mut(&mut own.plan);
    for t in &mut plan.sheet.treatments {
        t.set("container", "my tray");
        t.set("light", "my lamp");
        t.set("light_hours", "16");
    }
    for unit in &mut own.records.units {
        let reading = ReadingRecord {
            head: record_head(5),
            reading: "work",
            nth: 1,
            value: Some(10.0),
        };
        Arc::make_mut(unit).readings.push(reading);
    }
    let lamp = [
        ("price_each", 90.0),
        ("units_lit", 2.0),
        ("lasts_h", 30_000.0),
        ("watts", 40.0),
    ];
    let stores = Stores::with_own(vec![
        item(
            "containers",
            "my tray",
            &[("price_each", 3.0), ("lasts_crops", 30.0)],
        ),
        item("lights", "my lamp", &lamp),
    ]);
    let cheap = Some(CheapHours {
        from: 22,
        until: 6,
        per_kwh: 0.10,
    });
    let told = money(
        &own,
        &stores,
        &Prices {
            cheap,
            lamps_on_at: 18,
            as_of: Some(jiff::civil::date(2026, 5, 1)),
            ..prices()
        },
    )
    .expect("money");
    let cost = |kind: &str| {
        told.treatments[0]
            .costs
            .iter()
            .find(|c| c.kind == kind)
            .expect(kind)
            .cost
            .expect("a price")
    };
    let near = |a: f64, b: f64| assert!((a - b).abs() < 1e-9, "{a} {b}");
    near(cost("container"), 0.10);
    near(cost("lamp"), 0.216);
    near(cost("light"), 0.576);
    let light = told.treatments[0]
        .costs
        .iter()
        .find(|c| c.kind == "light")
        .expect("light");
    assert_eq!(
        light.priced_on,
        Some(jiff::civil::date(2026, 5, 1)),
        "its electricity has the day of the farm's prices"
    );
    near(cost("work"), 3.0);
}

/// A pump of 60.00 for four units that lasts 20,000 h and runs 12 h on 12 days: 15.00 x 144 /
/// 20,000 = 0.108; its 20 W are 5 W a unit, 0.72 kWh at 0.30: 0.216. Six minutes of cutting and
/// three of feeding at 18 an hour: 1.80 and 0.90. Every price with its day.
#[test]
fn pumps_and_single_tasks_have_lines_of_their_own_and_prices_their_days() {
    let mut own = trial(WATER, FEED);
    for t in &mut Arc::make_mut(&mut own.plan).sheet.treatments {
        t.set("aeration", "my pump");
    }
    for (n, unit) in own.records.units.iter_mut().enumerate() {
        let reading = |reading, value| ReadingRecord {
            head: record_head(5),
            reading,
            nth: 1,
            value: Some(value),
        };
        let cutting = reading("work_harvest", if n < 4 { 4.0 } else { 8.0 });
        Arc::make_mut(unit)
            .readings
            .extend([cutting, reading("work_feeding", 3.0)]);
    }
    let held = [
        ("price_each", 60.0),
        ("units_served", 4.0),
        ("lasts_h", 20_000.0),
        ("watts", 20.0),
        ("hours_a_day", 12.0),
    ];
    let (march, may) = (jiff::civil::date(2026, 3, 1), jiff::civil::date(2026, 5, 1));
    let stores = Stores::with_own(vec![item("pumps", "my pump", &held).priced(None, march)]);
    let told = money(
        &own,
        &stores,
        &Prices {
            as_of: Some(may),
            ..prices()
        },
    )
    .expect("money");
    let line = |kind: &str, name: &str| {
        let mut own = told.treatments[0]
            .costs
            .iter()
            .filter(|c| c.kind == kind && c.name == name);
        let one = own.next().unwrap_or_else(|| panic!("no {kind} {name}"));
        assert!(own.next().is_none(), "one line of {kind} {name}");
        (one.cost.expect("a price"), one.priced_on)
    };
    let near = |(cost, day): (f64, Option<Date>), (want, of): (f64, Date)| {
        assert!(
            (cost - want).abs() < 1e-9 && day == Some(of),
            "{cost} {want} {day:?}"
        );
    };
    near(line("pump", "my pump"), (0.108, march));
    near(line("pump power", "my pump"), (0.216, may));
    near(line("work", "cutting it"), (1.8, may));
    near(line("work", "feeding it"), (0.9, may));
    let said = |own: &Trial| {
        money(own, &stores, &prices()).expect("money").treatments[1]
            .beside
            .clone()
            .expect("a gain")
            .sentence
    };
    assert!(!said(&own).contains("timed"), "{}", said(&own));
    // Nobody wrote down what feeding took on plain water: it is said, and the other way round.
    let mut forgot = own.clone();
    for unit in forgot.records.units.iter_mut().step_by(2) {
        Arc::make_mut(unit)
            .readings
            .retain(|r| r.reading != "work_feeding");
    }
    for unit in forgot.records.units.iter_mut().skip(1).step_by(2) {
        Arc::make_mut(unit)
            .readings
            .retain(|r| r.reading != "work_harvest");
    }
    let (water, feed) = (
        &forgot.plan.sheet.treatments[TreatmentIndex(0)].name,
        &forgot.plan.sheet.treatments[TreatmentIndex(1)].name,
    );
    let want = format!(
        " Work was timed on {feed} alone (feeding it); on {water} it counts as none. Work was \
         timed on {water} alone (cutting it); on {feed} it counts as none."
    );
    assert!(said(&forgot).ends_with(&want), "{}", said(&forgot));
    assert_eq!(told.oldest_price, Some(march));
    assert_eq!(own.of_unit(UnitIndex(0)).work_minutes(), Some(7.0));
}

#[test]
fn what_pays_by_its_margin_has_the_verdict_of_any_measure() {
    let feed = |price: f64| {
        Stores::with_own(vec![item(
            "feeds",
            "grow feed",
            &[("price_per_kg_or_l", price), ("dose_per_l", 4.0)],
        )])
    };
    let verdict = |margin: Option<f64>, price: f64| {
        let mut own = trial(WATER, FEED);
        Arc::make_mut(&mut own.plan).ask.margin_money = margin;
        money(&own, &feed(price), &prices())
            .expect("money")
            .treatments[1]
            .beside
            .as_ref()
            .expect("beside")
            .verdict
    };
    // It earns 0.48 to 0.60 more at 15 a litre, 0.34 to 0.46 less at 250, and at 150 as much as the
    // control.
    let told = [
        (Some(0.2), 15.0),
        (Some(0.55), 15.0),
        (Some(0.7), 15.0),
        (None, 15.0),
        (Some(0.2), 250.0),
        (Some(0.2), 150.0),
        (None, 150.0),
    ];
    let told = told.map(|(margin, price)| verdict(margin, price));
    use Verdict::{Better, BetterByMargin, CannotTell, Same, WorseByMargin};
    assert_eq!(
        told,
        [
            BetterByMargin,
            Better,
            Same,
            Better,
            WorseByMargin,
            Same,
            CannotTell
        ]
    );
}

#[test]
fn what_is_sold_is_told_by_wave_and_grade() {
    use crate::trial::record::pick::Pick;
    use crate::trial::records::Recorded;
    use crate::trial::waves::{SizeGrade, Waves};
    let mut own = trial(WATER, FEED);
    assert_eq!(
        money(&own, &Stores::with_own(Vec::new()), &prices())
            .expect("money")
            .sold,
        []
    );
    let grade = |name: &str, price_per_kg| SizeGrade {
        name: name.into(),
        price_per_kg,
    };
    Arc::make_mut(&mut own.plan).ask.waves = Some(Waves {
        grades: vec![grade("tender", Some(30.0)), grade("coarse", None)],
        cut_mm: None,
    });
    let pick = |unit: usize, day: u32, grade: &str, net_g: f64| {
        Recorded::new(
            Some(UnitIndex(unit)),
            record_head(day),
            Pick {
                gross_g: net_g,
                tare_g: 0.0,
                grade: grade.into(),
                pieces: None,
                aside: false,
            },
        )
    };
    own.records.lists.set(vec![
        pick(0, 8, "tender", 40.0),
        pick(2, 8, "tender", 20.0),
        pick(0, 8, "coarse", 8.0),
        pick(1, 10, "coarse", 50.0),
    ]);
    let told = money(&own, &Stores::with_own(Vec::new()), &prices())
        .expect("money")
        .sold;
    let of = |t: usize, day: u32, grade: &str| {
        let found = told
            .iter()
            .find(|s| s.day == day && s.grade == grade)
            .and_then(|s| s.each[t])
            .expect("a figure");
        (found.g, found.value.expect("a price"))
    };
    // Four trays a treatment: 60 g of tender leaves on two of water's are 15 g a tray, at 30 a kg;
    // coarse ones have the price of the trial. On day 12 the four of each were cleared, at the
    // price of the trial too. A line for what was cut and none for what was not, by day and in the
    // order of the grades that were planned.
    let lines: Vec<(u32, &str, [bool; 2])> = told
        .iter()
        .map(|s| {
            (
                s.day,
                s.grade.as_str(),
                [s.each[0].is_some(), s.each[1].is_some()],
            )
        })
        .collect();
    let want = [
        (8, "tender", [true, false]),
        (8, "coarse", [true, false]),
        (10, "coarse", [false, true]),
        (12, "", [true, true]),
    ];
    assert_eq!(lines, want);
    for (got, want) in [
        (of(0, 8, "tender"), (15.0, 0.45)),
        (of(0, 8, "coarse"), (2.0, 0.04)),
        (of(1, 10, "coarse"), (12.5, 0.25)),
        (of(1, 12, ""), (130.0, 2.6)),
    ] {
        assert!(
            (got.0 - want.0).abs() < 1e-9 && (got.1 - want.1).abs() < 1e-9,
            "{got:?} {want:?}"
        );
    }
    // All lines of a treatment together are what a tray of it yielded, and what it brought.
    for (t, units) in [(0, [0, 2, 4, 6]), (1, [1, 3, 5, 7])] {
        let lines = || told.iter().filter_map(|s| s.each[t]);
        let yields = units.map(|unit| own.yield_by(UnitIndex(unit), None, 12));
        let (g, value) = (
            yields.iter().map(|y| y.g).sum::<f64>(),
            yields.iter().map(|y| y.value.expect("priced")).sum::<f64>(),
        );
        assert!((lines().map(|s| s.g).sum::<f64>() - g / 4.0).abs() < 1e-9);
        assert!(
            (lines().map(|s| s.value.expect("a price")).sum::<f64>() - value / 4.0).abs() < 1e-9
        );
    }
    // Without a price of the whole nobody knows what the coarse ones bring, nor what was cleared at
    // the end.
    let told = |own: &Trial| money(own, &Stores::with_own(Vec::new()), &prices()).expect("money");
    assert!(
        told(&own).grades_without_price.is_empty()
            && told(&own).treatments.iter().all(|t| t.value.is_some())
    );
    Arc::make_mut(&mut own.plan).ask.price_per_kg = None;
    assert_eq!(
        told(&own).grades_without_price,
        ["what is not sorted", "coarse"]
    );
    // Where only feed has some of them, what water brings is still known.
    own.records
        .lists
        .set((0..8).map(|unit| pick(unit, 12, "tender", 40.0)).collect());
    own.records.put(pick(1, 12, "coarse", 8.0));
    for unit in &mut own.records.units {
        Arc::make_mut(unit).own.set::<Weighing>(Vec::new());
    }
    let partly = told(&own);
    assert_eq!(partly.grades_without_price, ["coarse"]);
    let known: Vec<bool> = partly
        .treatments
        .iter()
        .map(|t| t.value.is_some())
        .collect();
    assert!(
        partly.priced && known == [true, false] && partly.treatments[1].beside.is_none(),
        "{partly:?}"
    );
}

/// In a swap-over a system is a unit in each round: what was picked in the first round counts in
/// the last too.
#[test]
fn what_was_picked_in_an_earlier_round_is_in_the_lines() {
    use crate::trial::record::pick::Pick;
    use crate::trial::records::{RecordHead, Recorded};
    use crate::trial::waves::Waves;
    let mut own = trial([0.0; 4], [0.0; 4]);
    let plan = Arc::make_mut(&mut own.plan);
    plan.ask.waves = Some(Waves {
        grades: Vec::new(),
        cut_mm: None,
    });
    plan.rack.design = RackDesign::SwapOver;
    own.round = 2;
    let units = Arc::make_mut(&mut own.units);
    units
        .iter_mut()
        .enumerate()
        .for_each(|(n, u)| u.position.level = n as u32 / 4 + 1);
    own.records.units = (0..8).map(|_| Arc::new(UnitRecords::default())).collect();
    let pick = |unit: usize, round: u32, net_g: f64| {
        Recorded::new(
            Some(UnitIndex(unit)),
            RecordHead {
                round,
                ..record_head(8)
            },
            Pick {
                gross_g: net_g,
                tare_g: 0.0,
                grade: String::new(),
                pieces: None,
                aside: false,
            },
        )
    };
    own.records.lists.set(
        (0..8)
            .map(|n| pick(n, n as u32 / 4 + 1, if n < 4 { 100.0 } else { 140.0 }))
            .collect(),
    );
    let told = money(&own, &Stores::with_own(Vec::new()), &prices())
        .expect("money")
        .sold;
    let brought = Some(Brought {
        g: 120.0,
        value: Some(2.4),
    });
    assert_eq!(
        told,
        [Sold {
            day: 8,
            grade: String::new(),
            each: vec![brought; 2]
        }]
    );
}
