//! Every kind of measure at its edges: none at all, all of n, one unit a side, samples in units,
//! checks days apart.

use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::{AnalyseError, Question, Scale};
use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_judge::table::{Columns, read};
use iron_twin_judge::verdict::{Doubt, Verdict};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::severity::Severity;

fn columns(kind: Kind, more: &[(&str, &str)]) -> Columns {
    let mut columns = Columns {
        kind,
        measure: "v".into(),
        treatment: "t".into(),
        control: "water".into(),
        ..Columns::default()
    };
    for (role, name) in more {
        let name = Some((*name).to_owned());
        match *role {
            "block" => columns.block = name,
            "unit" => columns.unit = name,
            "out_of" => columns.out_of = name,
            "exposure" => columns.exposure = name,
            "seen" => columns.seen = name,
            "after" => columns.after = name,
            other => panic!("{other}"),
        }
    }
    columns
}

fn ask(csv: &str, columns: &Columns, question: &Question) -> Result<Analysis, AnalyseError> {
    analyse(
        &read(csv.as_bytes(), columns).expect("a readable table"),
        question,
    )
}

fn first(csv: &str, columns: &Columns, question: &Question) -> Contrast {
    ask(csv, columns, question).expect("an analysis").contrasts[0].clone()
}

fn margin(text: &str) -> Question {
    Question {
        margin: Some(text.parse().expect("a margin")),
        ..Question::default()
    }
}

/// Rows of two treatments from lists of cells.
fn table(head: &str, water: &[&str], feed: &[&str]) -> String {
    let rows = |name: &str, cells: &[&str]| {
        cells
            .iter()
            .map(|c| format!("{name},{c}\n"))
            .collect::<String>()
    };
    format!("t,{head}\n{}{}", rows("water", water), rows("feed", feed))
}

#[test]
fn one_count_a_side_is_the_exact_split_of_the_total() {
    // Shared exact-counts.json: R 4.2.2 poisson.test(c(58, 41), c(12, 10)).
    let csv = table("v,n", &["41,10"], &["58,12"]);
    let c = first(
        &csv,
        &columns(Kind::Count, &[("exposure", "n")]),
        &Question::default(),
    );
    let near =
        |got: Option<f64>, want: f64| assert!((got.unwrap() - want).abs() < 1e-6, "{got:?} {want}");
    near(c.ratio.flatten(), 1.178_861_788_617_89);
    near(c.ratio_low.flatten(), 0.776_798_602_431_17);
    near(c.ratio_high.flatten(), 1.803_765_785_677_54);
    near(c.p, 0.480_097_579_354_868);
    assert_eq!(
        (c.verdict, c.doubt),
        (Verdict::CannotTell, Some(Doubt::OneUnit))
    );
}

#[test]
fn one_share_a_side_is_fishers_test() {
    let csv = table("v,n", &["14,31"], &["23,31"]);
    let analysis = ask(
        &csv,
        &columns(Kind::Share, &[("out_of", "n")]),
        &Question::default(),
    )
    .unwrap();
    let c = &analysis.contrasts[0];
    // Shared exact-counts.json: R 4.2.2 fisher.test.
    assert!((c.p.unwrap() - 0.037_367_535_494_091_7).abs() < 1e-9);
    assert!((c.odds_ratio.flatten().unwrap() - 3.417_43).abs() < 1e-4);
    assert!(
        analysis
            .warnings
            .iter()
            .any(|w| w.code == "one_unit_per_treatment")
    );
    assert_eq!(c.verdict, Verdict::CannotTell);
}

#[test]
fn where_nothing_was_counted_the_likelihood_of_the_totals_decides() {
    let columns = columns(Kind::Count, &[]);
    let none = table("v", &["5", "7", "6", "8"], &["0", "0", "0", "0"]);
    let c = first(&none, &columns, &margin("20%"));
    assert_eq!((c.ratio, c.verdict), (Some(None), Verdict::WorseByMargin));
    // 2 x 26 ln(1 + ratio) = 10/39 x t(3)^2, the dispersion of 5, 7, 6, 8 by hand.
    let high = (5.0 / 6.5 / 3.0 * 3.182_446_305_284_263_f64.powi(2) / 52.0).exp_m1();
    assert!(
        (c.ratio_high.flatten().unwrap() - high).abs() < 1e-9 && c.ratio_low == Some(Some(0.0)),
        "{c:?}"
    );
    assert_eq!(
        c.sentence,
        "Feed had none, less than water. The true loss is very likely between 95 and 100 %: more \
         than the 20 % you said would matter."
    );
    let fewer = first(
        &none,
        &columns,
        &Question {
            better: Better::Lower,
            ..margin("20%")
        },
    );
    assert_eq!(
        fewer.verdict,
        Verdict::BetterByMargin,
        "no aphids at all is what was wanted"
    );
    let matching = first(
        &none,
        &columns,
        &Question {
            goal: Goal::Match,
            ..margin("20%")
        },
    );
    assert_eq!(matching.verdict, Verdict::NotGoodEnough);
    // Two a side: a single degree of freedom.
    let few = first(
        &table("v", &["5", "7"], &["0", "0"]),
        &columns,
        &Question::default(),
    );
    assert_eq!((few.verdict, few.doubt), (Verdict::CannotTell, None));
    let control = first(
        &table("v", &["0", "0", "0", "0"], &["5", "7", "6", "8"]),
        &columns,
        &Question::default(),
    );
    assert_eq!(
        (control.ratio, control.percent, control.verdict),
        (Some(None), None, Verdict::Better)
    );
    assert!(
        control.sentence.starts_with(
            "Feed had more than water, which had none. The true ratio is very likely at least \
             19.5."
        ),
        "{}",
        control.sentence
    );
    let nothing = ask(
        &table("v", &["0", "0"], &["0", "0"]),
        &columns,
        &Question::default(),
    )
    .unwrap();
    assert!(nothing.warnings.iter().any(|w| w.code == "no_variation"));
    assert_eq!(nothing.contrasts[0].verdict, Verdict::CannotTell);
}

#[test]
fn all_of_n_has_no_odds_but_points() {
    let csv = table(
        "v,n",
        &["12,20", "10,20", "11,20", "13,20"],
        &["20,20", "20,20", "20,20", "20,20"],
    );
    let analysis = ask(
        &csv,
        &columns(Kind::Share, &[("out_of", "n")]),
        &Question::default(),
    )
    .unwrap();
    let c = &analysis.contrasts[0];
    assert_eq!((c.odds_ratio, c.odds_ratio_low), (Some(None), Some(None)));
    assert_eq!(
        c.decided_by.as_ref().map(|d| d.limits),
        Some("quasi_likelihood")
    );
    assert!((c.estimate - 42.5).abs() < 1e-9 && c.verdict == Verdict::Better);
    assert!(analysis.warnings.iter().any(|w| w.code == "at_the_edge"));
}

/// A perfect result is told as well as one short of it. Limits by SciPy 1.17: the likelihood of 60
/// of 60 and 29 of 60 with a gap held (scipy.optimize), over the dispersion of 9, 12 and 8 of 20,
/// against t with 2 df.
#[test]
fn a_perfect_result_has_limits() {
    let share = columns(Kind::Share, &[("out_of", "n")]);
    let csv = table(
        "v,n",
        &["9,20", "12,20", "8,20"],
        &["20,20", "20,20", "20,20"],
    );
    let c = first(&csv, &share, &Question::default());
    assert!(
        (c.low.unwrap() - 26.850_805_073_47).abs() < 1e-8
            && (c.high.unwrap() - 75.610_890_938_21).abs() < 1e-8,
        "{c:?}"
    );
    assert!(
        (c.p.unwrap() - 0.015_689_362_39).abs() < 1e-8 && c.verdict == Verdict::Better,
        "{c:?}"
    );
    // The same one short of it, by the delta method.
    let short = first(
        &csv.replacen("20,20", "19,20", 1),
        &share,
        &Question::default(),
    );
    assert_eq!(short.verdict, Verdict::Better);
}

/// Treatments without any leave the dispersion of the others, and their limits, as they would be
/// without them.
#[test]
fn treatments_at_none_do_not_thin_the_spread_of_the_others() {
    let count = columns(Kind::Count, &[]);
    let two = table("v", &["31", "12", "22"], &["9", "14", "18"]);
    let four = two.clone() + "oil,0\noil,0\noil,0\nneem,0\nneem,0\nneem,0\n";
    let (alone, beside) = (
        ask(&two, &count, &Question::default()).unwrap(),
        ask(&four, &count, &Question::default()).unwrap(),
    );
    assert_eq!(
        (beside.dispersion, beside.contrasts[0].df),
        (alone.dispersion, 4.0)
    );
    assert_eq!(
        (beside.contrasts[0].low, beside.contrasts[0].p),
        (alone.contrasts[0].low, alone.contrasts[0].p)
    );
    // By hand: exp(dispersion x t(4)^2 / 130) - 1, and F of 130 ln 2 over the dispersion.
    assert!((beside.contrasts[1].high.unwrap() - 0.182_609_497_7).abs() < 1e-8);
    assert!((beside.contrasts[1].p.unwrap() - 0.004_851_826_2).abs() < 1e-8);
}

/// None in every unit of one treatment and all in every unit of the other: no two units of a
/// treatment differ, and yet nothing could be clearer. A warning that nothing can be judged must
/// not stand beside what the deals decide.
#[test]
fn all_against_none_is_decided_by_the_deals_and_not_warned_of_as_beyond_judging() {
    let share = columns(Kind::Share, &[("out_of", "n")]);
    let csv = table(
        "v,n",
        &["0,8", "0,8", "0,8", "0,8"],
        &["8,8", "8,8", "8,8", "8,8"],
    );
    let clear = ask(&csv, &share, &Question::default()).unwrap();
    assert_eq!(clear.contrasts[0].verdict, Verdict::Better);
    let codes: Vec<&str> = clear.warnings.iter().map(|w| w.code).collect();
    assert_eq!(codes, ["at_the_edge"]);
    // Half of each unit against all of it: the deals decide there, and for the treatment that is
    // alike but not at the edge nothing does.
    let csv = format!("{csv}third,4,8\nthird,4,8\nthird,4,8\nthird,4,8\n").replace(",0,8", ",2,8");
    let mixed = ask(&csv, &share, &Question::default()).unwrap();
    let verdict = |name: &str| {
        mixed
            .contrasts
            .iter()
            .find(|c| c.treatment == name)
            .unwrap()
            .verdict
    };
    assert_eq!(verdict("third"), Verdict::CannotTell);
    assert!(mixed.contrasts.iter().any(|c| c.verdict == Verdict::Better));
    let warned = mixed
        .warnings
        .iter()
        .find(|w| w.code == "no_residual_variation")
        .unwrap();
    assert_eq!(warned.severity, Severity::Serious);
}

/// Values hundreds of orders of magnitude apart: the upper limit of a ratio is beyond what a number
/// can hold, and is left out instead of being called infinite.
#[test]
fn a_ratio_without_an_upper_limit_says_so() {
    let csv = table("v", &["0.1", "0.1", "1e-300", "0.1"], &["0.1", "0.11"]);
    let ratio = Question {
        scale: Scale::Ratio,
        ..Question::default()
    };
    let c = first(&csv, &columns(Kind::Amount, &[]), &ratio);
    assert!(
        c.low.is_some() && c.high.is_none() && c.ratio_high == Some(None),
        "{c:?}"
    );
    assert_eq!(c.verdict, Verdict::CannotTell);
    assert!(
        c.sentence.contains("100 % less or any amount more"),
        "{}",
        c.sentence
    );
}

#[test]
fn samples_of_a_unit_are_summed_and_units_alone_count() {
    let sampled = "t,u,v,n\nwater,a,1,5\nwater,a,2,5\nwater,b,2,5\nwater,b,3,5\nfeed,c,4,5\nfeed,c,4,5\nfeed,d,5,5\nfeed,d,3,5\n";
    let summed = "t,u,v,n\nwater,a,3,10\nwater,b,5,10\nfeed,c,8,10\nfeed,d,8,10\n";
    for (kind, role) in [(Kind::Share, "out_of"), (Kind::Count, "exposure")] {
        let columns = columns(kind, &[("unit", "u"), (role, "n")]);
        let (a, b) = (
            ask(sampled, &columns, &margin("10%")).unwrap(),
            ask(summed, &columns, &margin("10%")).unwrap(),
        );
        assert_eq!(a.contrasts, b.contrasts, "{kind:?}");
        assert_eq!(a.design.samples_per_unit, [2, 2]);
    }
}

#[test]
fn shares_are_judged_in_points_and_in_per_cent_of_the_control() {
    let csv = table(
        "v,n",
        &["30,60", "31,60", "29,60", "30,60"],
        &["31,60", "30,60", "29,60", "32,60"],
    );
    let columns = columns(Kind::Share, &[("out_of", "n")]);
    let points = ask(
        &csv,
        &columns,
        &Question {
            goal: Goal::Match,
            ..margin("10")
        },
    )
    .unwrap();
    assert_eq!(points.margin.as_ref().unwrap().absolute, Some(10.0));
    assert_eq!(points.contrasts[0].verdict, Verdict::Same);
    let percent = ask(
        &csv,
        &columns,
        &Question {
            goal: Goal::Match,
            ..margin("20%")
        },
    )
    .unwrap();
    assert!((percent.margin.unwrap().absolute.unwrap() - 10.0).abs() < 1e-9);
    assert!(
        points.contrasts[0].sentence.contains("points"),
        "{}",
        points.contrasts[0].sentence
    );
}

#[test]
fn days_with_samples_in_units_are_compared_by_unit() {
    let csv = "t,u,v,seen\nwater,a,14,yes\nwater,a,16,yes\nwater,b,15,yes\nwater,b,19,no\nwater,c,13,yes\nwater,c,15,yes\nfeed,d,9,yes\nfeed,d,10,yes\nfeed,e,8,yes\nfeed,e,11,yes\nfeed,f,10,yes\nfeed,f,12,yes\n";
    let columns = columns(Kind::Days, &[("unit", "u"), ("seen", "seen")]);
    let analysis = ask(
        csv,
        &columns,
        &Question {
            better: Better::Lower,
            ..margin("1")
        },
    )
    .unwrap();
    let c = &analysis.contrasts[0];
    // Units' restricted means to day 19: 15, 17, 14 against 9.5, 9.5, 11.
    assert!(
        (c.estimate - (10.0 - 46.0 / 3.0)).abs() < 1e-9,
        "{}",
        c.estimate
    );
    assert_eq!(c.df, 4.0);
    assert_eq!(c.verdict, Verdict::BetterByMargin);
    assert!(c.sentence.contains("days less"), "{}", c.sentence);
    assert_eq!(
        (analysis.kind, analysis.design.units, analysis.input.used),
        (Kind::Days, 6, 12)
    );
}

#[test]
fn known_days_and_checks_on_every_day_agree() {
    let water = [
        "15,yes,15",
        "15,no,",
        "21,yes,21",
        "21,no,",
        "18,yes,18",
        "21,yes,21",
    ];
    let feed = [
        "9,yes,9",
        "12,yes,12",
        "12,yes,12",
        "10,yes,10",
        "15,yes,15",
        "17,yes,17",
    ];
    let csv = table("v,seen,after", &water, &feed);
    let exact = first(
        &csv,
        &columns(Kind::Days, &[("seen", "seen")]),
        &Question::default(),
    );
    let between = first(
        &csv,
        &columns(Kind::Days, &[("seen", "seen"), ("after", "after")]),
        &Question::default(),
    );
    assert!((exact.estimate - between.estimate).abs() < 1e-6);
    let p = |c: &Contrast| c.logrank.as_ref().unwrap().exact.as_ref().unwrap().p;
    assert!((p(&exact) - p(&between)).abs() < 1e-9);
    assert!(
        between.logrank.as_ref().unwrap().chi2.is_none() && exact.logrank.unwrap().chi2.is_some()
    );
    // The jackknife's error is near Greenwood's, not equal to it.
    let ratio = between.se.unwrap() / exact.se.unwrap();
    assert!((0.8..1.4).contains(&ratio), "{ratio}");
}

#[test]
fn checks_days_apart_still_tell_early_from_late() {
    let water = [
        "13,yes,11",
        "15,yes,13",
        "17,yes,15",
        "15,yes,13",
        "19,no,19",
        "17,yes,15",
    ];
    let feed = [
        "9,yes,7", "9,yes,7", "11,yes,9", "7,yes,", "11,yes,9", "9,yes,7",
    ];
    let csv = table("v,seen,after", &water, &feed);
    let columns = columns(Kind::Days, &[("seen", "seen"), ("after", "after")]);
    let analysis = ask(
        &csv,
        &columns,
        &Question {
            better: Better::Lower,
            ..margin("2")
        },
    )
    .unwrap();
    assert_eq!(
        analysis.contrasts[0].verdict,
        Verdict::BetterByMargin,
        "{:#?}",
        analysis.contrasts[0]
    );
    let median = analysis.treatments[1].median.flatten().unwrap();
    assert!(median > 7.0 && median < 10.0, "{median}");
}

#[test]
fn scores_in_blocks_are_ranked_inside_them() {
    let csv = "t,b,v\nwater,1,1\nfeed,1,2\nwater,2,3\nfeed,2,4\nwater,3,5\nfeed,3,6\nwater,4,2\nfeed,4,3\nwater,5,1\nfeed,5,2\nwater,6,3\nfeed,6,5\n";
    let c = first(
        csv,
        &columns(Kind::Score, &[("block", "b")]),
        &margin("0.1"),
    );
    // Six pairs all one way: two deals of 64.
    assert!((c.exact_p.unwrap() - 2.0 / 64.0).abs() < 1e-12);
    assert_eq!(c.probability_of_superiority, Some(1.0));
    assert_eq!(c.verdict, Verdict::BetterByMargin);
    let plain = first(csv, &columns(Kind::Score, &[]), &margin("0.1"));
    assert!(
        plain.probability_of_superiority.unwrap() < 1.0,
        "between blocks the order is mixed"
    );
}

#[test]
fn the_best_of_several_is_named_for_every_kind() {
    let csv = "t,v,n,seen\nwater,2,20,yes\nwater,3,20,yes\nwater,2,20,yes\nwater,3,20,yes\nhalf,9,20,yes\nhalf,10,20,yes\nhalf,8,20,yes\nhalf,9,20,yes\nfull,10,20,yes\nfull,9,20,yes\nfull,11,20,yes\nfull,9,20,yes\n";
    for (kind, more) in [
        (Kind::Count, vec![]),
        (Kind::Share, vec![("out_of", "n")]),
        (Kind::Days, vec![("seen", "seen")]),
        (Kind::Amount, vec![]),
    ] {
        let best = |better| {
            let question = Question {
                goal: Goal::Best,
                better,
                ..Question::default()
            };
            ask(csv, &columns(kind, &more), &question)
                .unwrap()
                .best
                .unwrap()
        };
        assert_eq!(best(Better::Higher), ["half", "full"], "{kind:?}");
        assert_eq!(best(Better::Lower), ["water"], "{kind:?}");
    }
}

/// A treatment with nothing at all is told from the best by the deals.
#[test]
fn nothing_at_all_is_not_among_the_best() {
    let zeros: String = (0..6).map(|_| "none,0\n").collect();
    let some: String = [5, 7, 6, 8, 5, 9]
        .iter()
        .map(|k| format!("water,{k}\nfeed,{}\n", k + 1))
        .collect();
    let question = Question {
        goal: Goal::Best,
        ..Question::default()
    };
    let analysis = ask(
        &format!("t,v\n{some}{zeros}"),
        &columns(Kind::Count, &[]),
        &question,
    )
    .unwrap();
    assert_eq!(analysis.best.unwrap(), ["water", "feed"]);
}

#[test]
fn options_of_other_kinds_are_refused() {
    let csv = table("v", &["1", "2"], &["3", "4"]);
    let ask = |kind, question: &Question| {
        ask(&csv, &columns(kind, &[]), question)
            .unwrap_err()
            .to_string()
    };
    assert!(
        ask(
            Kind::Count,
            &Question {
                margin: Some(Margin::Absolute(5.0)),
                ..Question::default()
            }
        )
        .contains("per cent")
    );
    assert!(ask(Kind::Score, &margin("0.6")).contains("0.5"));
    assert!(
        ask(
            Kind::Amount,
            &Question {
                tau: Some(5.0),
                ..Question::default()
            }
        )
        .contains("`tau`")
    );
    assert!(
        ask(
            Kind::Days,
            &Question {
                tau: Some(-5.0),
                ..Question::default()
            }
        )
        .contains("above 0")
    );
}

/// A side whose units are all exactly alike shows no spread of its own: nothing is claimed from it,
/// in days or amounts, and days on which something was seen are not the same as days by which it
/// was not.
#[test]
fn a_side_without_spread_bears_no_verdict() {
    // Looked at on days 40 and 50: both controls in flower on day 50, of six treated ones only one.
    let feed = [
        "50,yes,40",
        "50,no,",
        "50,no,",
        "50,no,",
        "50,no,",
        "50,no,",
    ];
    let csv = table("v,seen,after", &["50,yes,40", "50,yes,40"], &feed);
    let days = columns(Kind::Days, &[("seen", "seen"), ("after", "after")]);
    let lower = Question {
        better: Better::Lower,
        ..Question::default()
    };
    let found = ask(&csv, &days, &lower).unwrap();
    let c = &found.contrasts[0];
    assert_eq!(
        (c.verdict, c.doubt),
        (Verdict::CannotTell, Some(Doubt::NoSpread)),
        "{}",
        c.sentence
    );
    assert!(
        !found.warnings.iter().any(|w| w.code == "no_variation"),
        "{:?}",
        found.warnings
    );
    // The same with a control that scatters is told from its interval.
    let csv = table("v,seen,after", &["40,yes,30", "50,yes,40"], &feed);
    assert_ne!(first(&csv, &days, &lower).doubt, Some(Doubt::NoSpread));
    // Amounts: three trays of exactly 50 g against three that scatter.
    let amount = columns(Kind::Amount, &[]);
    let c = first(
        &table("v", &["50", "50", "50"], &["60", "64", "71"]),
        &amount,
        &Question::default(),
    );
    assert_eq!(
        (c.verdict, c.doubt),
        (Verdict::CannotTell, Some(Doubt::NoSpread))
    );
    let c = first(
        &table("v", &["50", "50", "51"], &["60", "64", "71"]),
        &amount,
        &Question::default(),
    );
    assert_eq!(c.verdict, Verdict::Better);
}

/// Where as many units stood as would settle it, the sentence does not ask for as many as there
/// were.
#[test]
fn a_number_that_stood_already_is_not_asked_for() {
    let amount = columns(Kind::Amount, &[]);
    let water = ["95.4", "98.2", "101.8", "104.6"];
    let said = |feed: [&str; 4], margin_text: &str| {
        first(&table("v", &water, &feed), &amount, &margin(margin_text))
    };
    let near = said(["100.4", "103.2", "106.8", "109.6"], "11");
    assert_eq!(near.verdict, Verdict::CannotTell);
    assert!(
        near.units_for_verdict.unwrap() <= 4
            && near
                .sentence
                .ends_with(" As many units again may settle it."),
        "{}",
        near.sentence
    );
    let far = said(["97.4", "100.2", "103.8", "106.6"], "4");
    assert!(
        far.units_for_verdict.unwrap() > 4
            && far
                .sentence
                .contains("units a side would settle a difference of 4"),
        "{}",
        far.sentence
    );
}

/// The lowest dose may do as well: what is promised is the upper limit, and not the best guess
/// between.
#[test]
fn a_dose_is_enough_only_from_where_it_surely_is() {
    let doses = Columns {
        kind: Kind::Dose,
        measure: "v".into(),
        dose: Some("d".into()),
        ..Columns::default()
    };
    let csv = |rows: &[(f64, f64)]| {
        rows.iter()
            .fold("d,v\n".to_owned(), |csv, (d, v)| format!("{csv}{d},{v}\n"))
    };
    let of = |rows: &[(f64, f64)]| {
        ask(&csv(rows), &doses, &margin("10%"))
            .unwrap()
            .dose
            .expect("a dose")
    };
    let flat = |scatter: f64| -> Vec<(f64, f64)> {
        let each = |d: &f64| [0.0, 3.0, -3.0, 1.0].map(|off| (*d, 100.0 + scatter * off));
        [0.0, 0.5, 1.0].iter().flat_map(each).collect()
    };
    // Nothing changes with the dose. Where the trays scatter little, the doses are sure to be
    // alike.
    assert!(
        of(&flat(1.0))
            .sentence
            .contains(" Already without any the response is within 10 % of the best. Dealing")
    );
    let said = of(&flat(3.0)).sentence;
    // Of the doses tried: the curves alone would name one between.
    let want = "Nothing shows that the response bends over the doses tried. A dose of 0.5 is very \
                likely enough, and less may be: nothing shows that any is needed to come within \
                10 % of the best. Dealing the ladder anew, no dose is sure to do anything.";
    assert_eq!(said, want);
    // The same without a dose of nothing.
    let some: Vec<(f64, f64)> = flat(3.0).iter().map(|(d, v)| (d + 0.5, *v)).collect();
    let want = "A dose of 1 is very likely enough, and less may be: nothing shows that more than \
                the lowest tried, 0.5, is needed to come";
    assert!(of(&some).sentence.contains(want), "{}", of(&some).sentence);
    // What harms: none of it is best, and the ladder does not read as if it helped.
    let harm: Vec<(f64, f64)> = flat(1.0).iter().map(|(d, v)| (*d, v - 60.0 * d)).collect();
    let said = of(&harm);
    assert!(
        said.steps.iter().all(|s| s.works && !s.rises),
        "{:?}",
        said.steps
    );
    assert!(
        said.sentence
            .contains(" Already without any the response is within 10 % of the best."),
        "{}",
        said.sentence
    );
    assert!(
        said.sentence.contains(" 0.5 and more lower the response;"),
        "{}",
        said.sentence
    );
    // Half is as good as all, and nothing is far worse: the lower limit lies above the lowest dose.
    let rising: Vec<(f64, f64)> = [(0.0, 50.0), (0.25, 75.0), (0.5, 100.0), (1.0, 101.0)]
        .iter()
        .flat_map(|(d, v)| [(*d, v - 1.0), (*d, *v), (*d, v + 1.0), (*d, v + 0.5)])
        .collect();
    let found = of(&rising);
    let enough = found.enough.expect("enough");
    assert!(
        enough.low > 0.0 && found.sentence.contains(" is enough: it comes within 10 %"),
        "{}",
        found.sentence
    );
}

/// Four dead pots at nothing have no spread; a living pot is measured by the living.
#[test]
fn the_dead_make_no_outlier_of_the_living() {
    let rows = |values: &[f64], name: &str| {
        values
            .iter()
            .map(|v| format!("{name},{v}\n"))
            .collect::<String>()
    };
    let dead = rows(&[0.0; 6], "dead") + &rows(&[0.0; 6], "drowned");
    let of = |living: &[f64], dead: &str| {
        let water = rows(&[100.0, 104.0, 97.0, 101.0, 99.0, 103.0], "water");
        let csv = format!("t,v\n{water}{}{dead}", rows(living, "feed"));
        let found = ask(&csv, &columns(Kind::Amount, &[]), &Question::default()).unwrap();
        found
            .warnings
            .iter()
            .find(|w| w.code == "outlying_unit")
            .map(|w| w.message.clone())
    };
    let (alike, far) = (
        [108.0, 112.0, 110.0, 103.0, 111.0, 109.0],
        [108.0, 112.0, 110.0, 30.0, 111.0, 109.0],
    );
    assert_eq!(
        (of(&alike, &dead), of(&far, &dead)),
        (of(&alike, ""), of(&far, "")),
        "the dead change nothing"
    );
    assert_eq!(of(&alike, &dead), None);
    assert!(of(&far, &dead).is_some_and(|m| m.contains("row 11")));
}

/// A ladder of three trays a dose, means as given, trays 1 apart.
fn ladder(means: &[(f64, f64)]) -> iron_twin_judge::result::DoseOut {
    let doses = Columns {
        kind: Kind::Dose,
        measure: "v".into(),
        dose: Some("d".into()),
        ..Columns::default()
    };
    let mut csv = String::from("d,v\n");
    for (dose, mean) in means {
        [-1.0, 0.0, 1.0]
            .iter()
            .for_each(|off| csv += &format!("{dose},{}\n", mean + off));
    }
    ask(&csv, &doses, &margin("10%"))
        .unwrap()
        .dose
        .expect("a dose")
}

/// Too much burns: no curve that only rises may name a dose, and the parabola says where it turns.
#[test]
fn a_hump_is_told_as_one() {
    let hump = ladder(&[
        (0.0, 10.0),
        (1.0, 18.8),
        (2.0, 25.0),
        (4.0, 30.0),
        (8.0, 10.0),
    ]);
    assert_eq!(hump.preferred, "quadratic");
    assert!(
        (hump
            .quadratic
            .as_ref()
            .and_then(|q| q.peak)
            .expect("a peak")
            - 4.0)
            .abs()
            < 0.01,
        "{hump:?}"
    );
    assert!(hump.lack_of_fit.as_ref().expect("three a dose").p > 0.9);
    assert!(
        hump.sentence
            .starts_with("The response is best at a dose of about 4"),
        "{}",
        hump.sentence
    );
    let enough = hump.enough.expect("a curve that stands");
    // The true curve is within a tenth of its best from 2.45 on; the limits go out to the doses
    // that were tried.
    assert_eq!((enough.low, enough.high), (2.0, 4.0));
}

#[test]
fn means_that_no_curve_passes_name_no_dose() {
    let odd = ladder(&[
        (0.0, 10.0),
        (1.0, 30.0),
        (2.0, 10.0),
        (4.0, 30.0),
        (8.0, 10.0),
    ]);
    assert!(odd.enough.is_none() && odd.lack_of_fit.as_ref().expect("three a dose").p < 1e-6);
    assert!(
        odd.sentence
            .contains("no curve that was tried passes near enough"),
        "{}",
        odd.sentence
    );
}

/// A response that still rises at the highest dose has no dose that is enough; stepping down says
/// which do something.
#[test]
fn what_has_not_stopped_rising_is_not_enough() {
    let line = ladder(&[
        (0.0, 10.0),
        (1.0, 12.0),
        (2.0, 14.0),
        (4.0, 18.0),
        (8.0, 26.0),
    ]);
    assert!(line.enough.is_none(), "{:?}", line.enough);
    assert!(
        line.sentence
            .contains("It has not stopped at the highest dose tried, 8"),
        "{}",
        line.sentence
    );
    let works: Vec<(f64, bool)> = line.steps.iter().map(|s| (s.dose, s.works)).collect();
    assert_eq!(works, [(1.0, false), (2.0, true), (4.0, true), (8.0, true)]);
    assert!(
        line.steps.iter().all(|s| s.rises)
            && line.sentence.contains(" 2 and more raise the response;"),
        "{}",
        line.sentence
    );
    // Three of 0 and three of 1, one apart inside: 20 deals, of which this one, its mirror image
    // and those that exchange the two equal trays (11 of either) part them as widely.
    let first = &line.steps[0];
    assert!(
        first.exact && first.assignments == 20.0 && (first.p - 4.0 / 20.0).abs() < 1e-12,
        "{first:?}"
    );
}

/// Oats of Yates 1935 (R `MASS::oats`, variety Victory): each dose once in each of six blocks. The
/// lowest step has 64 deals inside blocks; only the one block that went down may turn without the
/// sum of the six differences falling below 109, so 4 of 64.
#[test]
fn a_ladder_in_blocks_is_dealt_and_fitted_inside_them() {
    let csv = include_str!("fixtures/oats-dose-blocks/data.csv");
    let doses = |block: Option<&str>| Columns {
        kind: Kind::Dose,
        measure: "y".into(),
        dose: Some("dose".into()),
        block: block.map(Into::into),
        ..Columns::default()
    };
    let inside = ask(csv, &doses(Some("block")), &margin("10%")).unwrap();
    let across = ask(csv, &doses(None), &margin("10%")).unwrap();
    assert_eq!((inside.design.blocks, across.design.blocks), (6, 0));
    let (inside, across) = (inside.dose.unwrap(), across.dose.unwrap());
    let first = &inside.steps[0];
    assert!(
        first.exact && first.assignments == 64.0 && (first.p - 4.0 / 64.0).abs() < 1e-12,
        "{first:?}"
    );
    // The blocks differ by 55 g and more: taken for scatter they make every step less sure.
    for (a, b) in inside.steps[1..].iter().zip(&across.steps[1..]) {
        assert!(a.p <= b.p && a.p < 0.001, "{a:?} {b:?}");
    }
    assert!(
        inside.steps[1].p < 0.2 * across.steps[1].p,
        "{:?} {:?}",
        inside.steps[1],
        across.steps[1]
    );
    assert!(
        !inside.sentence.contains("too few"),
        "64 deals could have been enough: {}",
        inside.sentence
    );
    // Of four blocks the lowest step has 16 deals, and its own p can be no less than 2 of them.
    let four: String = csv
        .lines()
        .filter(|line| !line.starts_with("V,") && !line.starts_with("VI,"))
        .map(|line| format!("{line}\n"))
        .collect();
    let four = ask(&four, &doses(Some("block")), &margin("10%"))
        .unwrap()
        .dose
        .unwrap();
    assert!(
        four.steps[1].works && four.steps[0].assignments == 16.0,
        "{:?}",
        four.steps
    );
    // All deals of the three lower doses tried in R 4.2.2: 16 of 1296 lead as widely.
    assert!(
        (four.steps[1].p - 16.0 / 1296.0).abs() < 1e-12,
        "{:?}",
        four.steps
    );
    let want = "in at most 1 of 100 deals. For 0.2 there were too few ways to deal (16) to be \
                sure, whatever came out.";
    assert!(four.sentence.ends_with(want), "{}", four.sentence);
    // The doses' means are the same either way, and so is the parabola through them; its scatter is
    // not.
    let (a, b) = (inside.quadratic.unwrap(), across.quadratic.unwrap());
    assert!(
        (a.curvature - b.curvature).abs() < 1e-9 && b.rss > 3.0 * a.rss,
        "{a:?} {b:?}"
    );
}

/// A block that holds one dose only says nothing, and a dose that shares no block with the others
/// cannot be placed among them.
#[test]
fn blocks_that_keep_a_dose_apart_are_refused() {
    let doses = Columns {
        kind: Kind::Dose,
        measure: "v".into(),
        dose: Some("d".into()),
        block: Some("b".into()),
        ..Columns::default()
    };
    let joined = "b,d,v\na,0,1\na,1,2\nb,0,3\nb,2,5\nc,2,6\n";
    let found = ask(joined, &doses, &Question::default()).unwrap();
    let alone: Vec<&str> = found
        .warnings
        .iter()
        .filter(|w| w.code == "uninformative_block")
        .map(|w| w.message.as_str())
        .collect();
    assert_eq!(
        alone,
        ["block c holds only one dose and says nothing about differences"]
    );
    let apart = "b,d,v\na,0,1\na,1,2\nb,2,5\nb,2,6\n";
    let refused = ask(apart, &doses, &Question::default()).unwrap_err();
    assert!(
        refused
            .to_string()
            .starts_with("dose 2 never shares a block"),
        "{refused}"
    );
}
