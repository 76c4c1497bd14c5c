//! Small tables on which a comparison once said more than it knew, each with what it should come to.

use iron_twin_core::judge::analysis::analyse;
use iron_twin_core::judge::question::Question;
use iron_twin_core::judge::result::Analysis;
use iron_twin_core::judge::table::{Columns, read};
use iron_twin_core::judge::verdict::Verdict;
use iron_twin_core::terms::goal::Better;
use iron_twin_core::terms::kind::Kind;

fn days(csv: &str, treatment: &str, block: Option<&str>) -> Analysis {
    let columns = Columns {
        kind: Kind::Days,
        measure: "day".into(),
        treatment: treatment.into(),
        control: "water".into(),
        block: block.map(Into::into),
        ..Columns::default()
    };
    let question = Question { better: Better::Lower, ..Question::default() };
    analyse(&read(csv.as_bytes(), &columns).expect("a table"), &question).expect("an analysis")
}

/// Full feed stands mostly on the warm shelf, water on the cool one; inside each shelf they take the same days. Over the
/// shelves they lie 6 days apart.
#[test]
fn days_are_compared_inside_their_blocks() {
    let csv = "shelf,feed,day\nwarm,full,9\nwarm,full,10\nwarm,full,11\nwarm,water,10\nwarm,full,10\ncool,full,20\n\
               cool,water,19\ncool,water,20\ncool,water,21\ncool,water,20\n";
    let inside = &days(csv, "feed", Some("shelf")).contrasts[0];
    assert!(inside.estimate.abs() < 1e-9 && inside.verdict == Verdict::CannotTell, "{inside:?}");
    // Day ~ feed + shelf by least squares: the residual sum of squares is 4 over 7 df; feed and shelf share 0.36 of what
    // they tell, so that its variance is 4/7 / (10 * 0.25 * (1 - 0.36)).
    let se = (4.0_f64 / 7.0 / 1.6).sqrt();
    assert!((inside.se.expect("a spread") - se).abs() < 1e-9 && inside.df == 7.0, "{inside:?}");
    assert!(inside.logrank.as_ref().expect("a test").p.expect("a p") > 0.999);
    // The same table, its shelves passed over.
    let over = &days(csv, "feed", None).contrasts[0];
    assert!((over.estimate + 6.0).abs() < 1e-9, "{over:?}");
}

/// What the days inside blocks gain: pairs that differ much from one another and little in themselves.
#[test]
fn blocks_take_their_own_spread_out_of_days() {
    let mut csv = String::from("shelf,feed,day\n");
    for (shelf, day) in [10, 14, 19, 23].into_iter().enumerate() {
        csv += &format!("{shelf},water,{day}\n{shelf},full,{}\n", day - 3 - shelf % 2);
    }
    let (inside, over) = (days(&csv, "feed", Some("shelf")), days(&csv, "feed", None));
    let (inside, over) = (&inside.contrasts[0], &over.contrasts[0]);
    assert!((inside.estimate + 3.5).abs() < 1e-9 && (over.estimate + 3.5).abs() < 1e-9);
    // A paired t of 3, 4, 3, 4: sd 0.57735, se 0.288675 with 3 df.
    assert!((inside.se.expect("a spread") - 0.288_675_134_594_812_9).abs() < 1e-9 && inside.df == 3.0, "{inside:?}");
    assert!(over.se.expect("a spread") > 3.0 && over.verdict == Verdict::CannotTell, "{over:?}");
}

/// With nothing left unseen the limits of days are Welch's (1947): variances 1.3 and 0.7 of 5 each give a standard error of
/// 0.4 to the root and 7.3394 df, whose t by numerical integration is 2.342634.
#[test]
fn days_that_were_all_seen_have_welchs_limits() {
    let csv = "t,day\nwater,14\nwater,15\nwater,16\nwater,15\nwater,17\nfeed,11\nfeed,12\nfeed,10\nfeed,12\nfeed,11\n";
    let found = &days(csv, "t", None).contrasts[0];
    for (got, wanted) in [
        (found.estimate, -4.2),
        (found.low.expect("a limit"), -5.681_612),
        (found.high.expect("a limit"), -2.718_388),
        (found.df, 7.339_45),
    ] {
        assert!((got - wanted).abs() < 1e-5, "{got} for {wanted}");
    }
    // Greenwood's own errors stay as they are.
    let mean = found.restricted_mean.as_ref().expect("means");
    assert!((mean.se_control - (5.2_f64 / 25.0).sqrt()).abs() < 1e-12, "{mean:?}");
}

/// The interval is confirmed by the mid-p: half of the deals that part as widely count.
#[test]
fn the_interval_is_confirmed_by_the_mid_p() {
    // Sizes 1 to 8, 4 against 4: of 70 deals 12 lead at least as widely as 8 + 7 + 6 + 2 does, and 6 more widely.
    let csv = "t,y\nwater,1\nwater,3\nwater,4\nwater,5\nfeed,2\nfeed,6\nfeed,7\nfeed,8\n";
    let columns = Columns { measure: "y".into(), treatment: "t".into(), control: "water".into(), ..Columns::default() };
    let found = analyse(&read(csv.as_bytes(), &columns).expect("a table"), &Question::default()).expect("an analysis");
    let redealt = found.contrasts[0].randomisation.as_ref().expect("deals");
    let sums: Vec<i32> = (0..256_u32)
        .filter(|deal| deal.count_ones() == 4)
        .map(|deal| (0..8).filter(|bit| deal >> bit & 1 == 1).map(|bit| bit + 1).sum::<i32>())
        .collect();
    let share = |wide: &dyn Fn(i32) -> bool| sums.iter().filter(|s| wide((**s - 18).abs())).count() as f64 / 70.0;
    assert!((redealt.p - share(&|d| d >= 5)).abs() < 1e-12, "{redealt:?}");
    assert!((redealt.mid_p - 0.5 * (share(&|d| d >= 5) + share(&|d| d > 5))).abs() < 1e-12, "{redealt:?}");
}
