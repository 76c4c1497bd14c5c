//! What a grower is told, kind by kind, goal by goal: each sentence read and found right, then held
//! fast.

use iron_twin_judge::analysis::analyse;
use iron_twin_judge::question::Question;
use iron_twin_judge::table::{Columns, read};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::kind::Kind;

/// The sentence on kelp against plain water. `cells` are measure and, where the kind has one, its
/// companion.
fn told(
    kind: Kind,
    water: &[&str],
    kelp: &[&str],
    margin: &str,
    better: Better,
    goal: Goal,
) -> String {
    let rows = |name: &str, cells: &[&str]| {
        cells
            .iter()
            .map(|c| format!("{name},{c}\n"))
            .collect::<String>()
    };
    let csv = format!(
        "t,v,{}\n{}{}",
        "w",
        rows("plain water", water),
        rows("kelp", kelp)
    );
    let some = |of: Kind| (kind == of).then(|| "w".to_owned());
    let columns = Columns {
        kind,
        measure: "v".into(),
        treatment: "t".into(),
        control: "plain water".into(),
        out_of: some(Kind::Share),
        seen: some(Kind::Days),
        exposure: some(Kind::Count),
        ..Columns::default()
    };
    let question = Question {
        margin: margin.parse().ok(),
        better,
        goal,
        ..Question::default()
    };
    let table = read(csv.as_bytes(), &columns).expect("a readable table");
    analyse(&table, &question).expect("an analysis").contrasts[0]
        .sentence
        .clone()
}

use Better::{Higher, Lower};
use Goal::{Beat, Match};

#[test]
fn counts() {
    let few = (
        ["5,1", "7,1", "6,1", "8,1", "6,1", "7,1"],
        ["6,1", "8,1", "9,1", "7,1", "8,1", "9,1"],
    );
    let many = (
        ["50,1", "52,1", "49,1", "51,1", "50,1", "48,1"],
        ["60,1", "63,1", "61,1", "64,1", "60,1", "62,1"],
    );
    let on = |data: &([&str; 6], [&str; 6]), margin, better, goal| {
        told(Kind::Count, &data.0, &data.1, margin, better, goal)
    };
    assert_eq!(
        on(&few, "20%", Higher, Beat),
        "Can't tell kelp from plain water: it could have 1 % less or 47 % more. About 13 units a \
         side would settle a 20 % difference."
    );
    assert_eq!(
        on(&few, "60%", Higher, Match),
        "Kelp did the same as plain water: they differ by at most 47 % either way, less than the \
         60 % that would matter."
    );
    assert_eq!(
        on(&many, "10%", Higher, Beat),
        "Kelp had 23 % more than plain water. The true gain is very likely between 19 and 28 %: \
         more than the 10 % you said would matter."
    );
    assert_eq!(
        on(&many, "10%", Lower, Beat),
        "Kelp had 23 % more than plain water, and less is better. The true excess is very likely \
         between 19 and 28 %: more than the 10 % you said would matter."
    );
}

#[test]
fn shares() {
    let water = ["30,60", "33,60", "28,60", "31,60"];
    let (far, near) = (
        ["45,60", "47,60", "44,60", "49,60"],
        ["33,60", "36,60", "29,60", "30,60"],
    );
    assert_eq!(
        told(Kind::Share, &water, &far, "10", Higher, Beat),
        "Kelp reached 77 % and plain water 51 %, 26 points more. The true gain is very likely \
         between 20 and 33 points: more than the 10 points you said would matter."
    );
    assert_eq!(
        told(Kind::Share, &water, &far, "40%", Higher, Beat),
        "Kelp reached 77 % and plain water 51 %, 26 points more. The true gain is very likely \
         between 20 and 33 points: real, but it may be smaller than the 40 % (20.3 points) you \
         said would matter."
    );
    assert_eq!(
        told(Kind::Share, &water, &near, "5", Higher, Beat),
        "Can't tell kelp from plain water: it could reach 5 points less or 10 points more. About \
         14 units a side would settle a difference of 5 points."
    );
    assert_eq!(
        told(Kind::Share, &water, &near, "15", Higher, Match),
        "Kelp did the same as plain water: they differ by at most 10 points either way, less than \
         the 15 points that would matter."
    );
}

#[test]
fn days() {
    let water = ["15,yes", "16,yes", "18,yes", "17,yes", "19,no", "16,yes"];
    let (early, like) = (
        ["11,yes", "12,yes", "10,yes", "13,yes", "12,yes", "11,yes"],
        ["14,yes", "17,yes", "16,yes", "18,yes", "15,yes", "17,yes"],
    );
    assert_eq!(
        told(Kind::Days, &water, &early, "2", Lower, Beat),
        "Kelp took 5.3 days less than plain water (32 %), which is better. The true saving is \
         very likely between 3.7 and 7.0 days: more than the 2 days you said would matter. This \
         counts days up to day 19 only: by then it was seen in 6 of 6 of kelp and in 5 of 6 of \
         plain water."
    );
    assert_eq!(
        told(Kind::Days, &water, &early, "2", Higher, Beat),
        "Kelp took 5.3 days less than plain water (32 %). The true loss is very likely between \
         3.7 and 7.0 days: more than the 2 days you said would matter. This counts days up to day \
         19 only: by then it was seen in 6 of 6 of kelp and in 5 of 6 of plain water."
    );
    assert_eq!(
        told(Kind::Days, &water, &like, "2", Lower, Beat),
        "Can't tell kelp from plain water: it could take 2.6 days less or 1.2 days more. About 10 \
         units a side would settle a difference of 2 days. This counts days up to day 19 only: by \
         then it was seen in 6 of 6 of kelp and in 5 of 6 of plain water."
    );
    assert_eq!(
        told(Kind::Days, &water, &like, "4", Lower, Match),
        "Kelp did the same as plain water: they differ by at most 2.6 days either way, less than \
         the 4 days that would matter. This counts days up to day 19 only: by then it was seen in \
         6 of 6 of kelp and in 5 of 6 of plain water."
    );
}

#[test]
fn scores() {
    let water = ["1,", "2,", "2,", "1,", "2,", "3,"];
    let (high, like) = (
        ["3,", "4,", "4,", "5,", "3,", "4,"],
        ["2,", "2,", "3,", "1,", "3,", "2,"],
    );
    assert_eq!(
        told(Kind::Score, &water, &high, "0.1", Higher, Beat),
        "Kelp scored higher than plain water in 97 of 100 pairings. The true number is very \
         likely between 65 and 100: more than the 60 you said would matter."
    );
    assert_eq!(
        told(Kind::Score, &high, &water, "0.2", Higher, Beat),
        "Kelp scored lower than plain water in 97 of 100 pairings. The true number is very likely \
         between 65 and 100: real, but it may be nearer to even than the 70 you said would \
         matter."
    );
    assert_eq!(
        told(Kind::Score, &water, &high, "", Lower, Beat),
        "Kelp scored higher than plain water in 97 of 100 pairings, and less is better. The true \
         number is very likely between 65 and 100."
    );
    assert_eq!(
        told(Kind::Score, &water, &like, "0.1", Higher, Beat),
        "Can't tell kelp from plain water: it could score higher in anything from 31 to 85 of 100 \
         pairings. About 131 units a side would settle a difference of 10 in 100 pairings."
    );
}
