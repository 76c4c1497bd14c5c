use super::*;
use crate::trial::scorecard::Origin;
use std::collections::BTreeMap;

fn scored(name: &str, better: Better, figures: &[f64]) -> Scored {
    let figures = figures
        .iter()
        .map(|mean| {
            Some(Figure {
                mean: *mean,
                se: 0.0,
            })
        })
        .collect();
    Scored {
        name: name.into(),
        unit: String::new(),
        better,
        figures,
    }
}

fn card(swings: &[(&str, f64)]) -> Scorecard {
    let swings: BTreeMap<String, f64> = swings
        .iter()
        .map(|(name, s)| ((*name).to_owned(), *s))
        .collect();
    let criterion = |name: &String| Criterion {
        name: name.clone(),
        from: Origin::Own,
        better: Better::Higher,
        scores: BTreeMap::new(),
    };
    Scorecard {
        criteria: swings.keys().map(criterion).collect(),
        settings: vec![Setting {
            name: "home".into(),
            swings,
        }],
        knock_outs: Vec::new(),
    }
}

fn names(all: &[&str]) -> Vec<String> {
    all.iter().map(|n| (*n).to_owned()).collect()
}

/// The office of Goodwin and Wright, Decision Analysis for Management Judgment (chapter 3 of the
/// third edition): seven places by six attributes, with swings 100, 80, 70, 30, 20 and 10, and the
/// aggregate benefits that the book prints for weights rounded to 32, 26, 23, 10, 6 and 3. From
/// memory; the sums of its table were checked by hand.
#[test]
fn the_office_of_the_textbook() {
    let all = [
        (
            "closeness",
            32.0,
            [100.0, 20.0, 80.0, 70.0, 40.0, 0.0, 60.0],
        ),
        (
            "visibility",
            26.0,
            [60.0, 80.0, 70.0, 50.0, 60.0, 0.0, 100.0],
        ),
        ("image", 23.0, [100.0, 10.0, 0.0, 30.0, 90.0, 70.0, 20.0]),
        ("size", 10.0, [75.0, 30.0, 0.0, 55.0, 100.0, 0.0, 50.0]),
        ("comfort", 6.0, [0.0, 100.0, 10.0, 30.0, 60.0, 80.0, 50.0]),
        ("parking", 3.0, [90.0, 30.0, 100.0, 90.0, 70.0, 0.0, 80.0]),
    ];
    let swings: Vec<(&str, f64)> = all.iter().map(|(name, w, _)| (*name, *w)).collect();
    let scored: Vec<Scored> = all
        .iter()
        .map(|(name, _, f)| scored(name, Better::Higher, f))
        .collect();
    let places = names(&["A", "B", "C", "D", "E", "F", "G"]);
    let told = outcome(&card(&swings), &places, scored.clone());
    let ranking = &told.rankings[0];
    let worth = |name: &str| {
        ranking
            .standings
            .iter()
            .find(|s| s.treatment == name)
            .unwrap()
            .worth
    };
    for (name, printed) in [
        ("A", 80.8),
        ("B", 39.4),
        ("C", 47.4),
        ("D", 52.3),
        ("E", 64.8),
        ("F", 20.9),
        ("G", 60.2),
    ] {
        assert!(
            (worth(name) - printed).abs() < 0.05,
            "{name}: {}",
            worth(name)
        );
    }
    let order: Vec<&str> = ranking
        .standings
        .iter()
        .map(|s| s.treatment.as_str())
        .collect();
    assert_eq!(order, ["A", "E", "G", "D", "C", "B", "F"]);
    // Swings as they are dragged come to the weights that the book rounds.
    let dragged = [100.0, 80.0, 70.0, 30.0, 20.0, 10.0];
    let swings: Vec<(&str, f64)> = all
        .iter()
        .zip(dragged)
        .map(|((name, ..), s)| (*name, s))
        .collect();
    let weights = outcome(&card(&swings), &places, scored).rankings[0]
        .weights
        .clone();
    assert_eq!(
        weights.iter().map(|w| w.round()).collect::<Vec<_>>(),
        [32.0, 26.0, 23.0, 10.0, 6.0, 3.0]
    );
}

/// By hand: two things, 60 and 40 in 100. The one is worth 60, the other 40; at 50 and 50 they tie,
/// so that weight turns it.
#[test]
fn the_weight_that_changes_the_winner() {
    let figures = vec![
        scored("harvest", Better::Higher, &[100.0, 80.0]),
        scored("smell", Better::Lower, &[6.0, 2.0]),
    ];
    let told = outcome(
        &card(&[("harvest", 60.0), ("smell", 40.0)]),
        &names(&["full feed", "half feed"]),
        figures,
    );
    let own = &told.rankings[0];
    assert_eq!(own.standings[0].treatment, "full feed");
    assert!(
        (own.standings[0].worth - 60.0).abs() < 1e-9
            && (own.standings[1].worth - 40.0).abs() < 1e-9
    );
    assert_eq!(
        own.said,
        [
            "Full feed wins with 60 of 100 points before 40.",
            "Full feed beside half feed: 20 points more harvest bought with 4 points more smell.",
            "Half feed would win if harvest counted 50 in 100 instead of 60."
        ]
    );
}

/// With one criterion and two figures one standard error each apart by d, the first wins with the
/// chance that a normal of spread √2 lies below d: d = 1 gives 76.0 of 100 (a table of the normal
/// distribution at 0.7071).
#[test]
fn how_often_it_wins_is_the_chance_of_the_textbook() {
    let mut own = scored("harvest", Better::Higher, &[101.0, 100.0]);
    own.figures.iter_mut().flatten().for_each(|f| f.se = 1.0);
    let told = outcome(&card(&[("harvest", 100.0)]), &names(&["a", "b"]), vec![own]);
    let wins: Vec<f64> = told.rankings[0].standings.iter().map(|s| s.wins).collect();
    assert!((wins[0] - 76.0).abs() < 2.5, "{wins:?}");
    assert!((wins[0] + wins[1] - 100.0).abs() < 1e-9);
    assert!(
        told.rankings[0].said[0].starts_with("A wins with 100 of 100 points before 0, in 7"),
        "{:?}",
        told.rankings[0].said
    );
}

#[test]
fn what_is_out_or_lacks_a_figure_is_not_ranked() {
    let mut figures = scored("harvest", Better::Higher, &[100.0, 80.0, 90.0]);
    figures.figures[2] = None;
    let mut own = card(&[("harvest", 100.0)]);
    let out = |setting: Option<&str>| KnockOut {
        treatment: "full feed".into(),
        why: "not certified".into(),
        on: None,
        proof: "its label".into(),
        setting: setting.map(str::to_owned),
    };
    let all = names(&["full feed", "half feed", "kelp"]);
    own.knock_outs = vec![out(Some("market"))];
    let ranked = |own: &Scorecard| {
        let told = outcome(own, &all, vec![figures.clone()]);
        told.rankings[0]
            .standings
            .iter()
            .map(|s| s.treatment.clone())
            .collect::<Vec<_>>()
    };
    assert_eq!(
        ranked(&own),
        ["full feed", "half feed"],
        "only at the market is it out"
    );
    own.knock_outs = vec![out(Some("home"))];
    assert_eq!(ranked(&own), ["half feed"]);
    own.knock_outs = vec![out(None)];
    let told = outcome(&own, &all, vec![figures.clone()]);
    assert_eq!(told.rankings[0].out.len(), 1);
    assert_eq!(
        told.rankings[0].said,
        [
            "Not ranked, for want of a figure: kelp.",
            "Half feed is the only one left."
        ]
    );
    // What nobody weighed does not rank.
    let told = outcome(&card(&[("harvest", 0.0)]), &all, vec![figures.clone()]);
    assert_eq!(
        told.rankings[0].said,
        ["Say what counts here, and for how much."]
    );
}

#[test]
fn who_is_nowhere_better_is_said_to_be() {
    let figures = vec![
        scored("harvest", Better::Higher, &[100.0, 80.0]),
        scored("cost", Better::Lower, &[1.0, 1.0]),
    ];
    let told = outcome(
        &card(&[("harvest", 50.0), ("cost", 50.0)]),
        &names(&["a", "b"]),
        figures,
    );
    assert_eq!(
        told.rankings[0].said,
        [
            "A wins with 100 of 100 points before 50.",
            "B is better than a in nothing that counts here, and worse in something.",
            "A stays ahead whatever one of the weights is."
        ]
    );
    let alike = vec![scored("harvest", Better::Higher, &[100.0, 100.0])];
    let told = outcome(&card(&[("harvest", 50.0)]), &names(&["a", "b"]), alike);
    assert_eq!(told.rankings[0].said, ["A and b are worth the same here."]);
}

#[test]
fn what_is_given_for_what_is_told_in_per_cent() {
    let mut weight = scored("harvest weight", Better::Higher, &[86.0, 100.0]);
    weight.unit = "g".into();
    let figures = vec![weight, scored("taste", Better::Higher, &[8.0, 5.0])];
    let told = outcome(
        &card(&[("harvest weight", 30.0), ("taste", 70.0)]),
        &names(&["a", "b"]),
        figures,
    );
    assert_eq!(
        told.rankings[0].said[1],
        "A beside b: 3 points more taste bought with 14 % less harvest weight."
    );
}

/// Days are counted, and weights are not.
#[test]
fn of_days_there_are_fewer() {
    let mut days = scored("days to first root", Better::Lower, &[6.0, 8.0]);
    days.unit = "days".into();
    let figures = vec![days, scored("taste", Better::Higher, &[5.0, 7.0])];
    let told = outcome(
        &card(&[("days to first root", 100.0), ("taste", 50.0)]),
        &names(&["a", "b"]),
        figures,
    );
    assert_eq!(
        told.rankings[0].said[1],
        "A beside b: 25 % fewer days to first root bought with 2 points less taste."
    );
}
