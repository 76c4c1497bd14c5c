//! Guesses against what was found: who was right.

use crate::trial::Trial;
use crate::trial::record::guess::{Expects, Guess};
use crate::trial::records::Recorded;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::verdict::Verdict;
use iron_twin_terms::goal::Better;
use iron_twin_terms::indices::TreatmentIndex;
use serde::Serialize;

/// Whether a guess came true.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = GuessOutcome))]
#[serde(rename_all = "snake_case")]
pub enum Outcome {
    /// It did.
    Right,
    /// It did not.
    Wrong,
    /// The trial cannot tell.
    Open,
}

/// What became of a guess.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Told {
    /// Whether it came true.
    pub outcome: Outcome,
    /// How far the guessed difference lies from the one found, in percentage points.
    pub off_points: Option<f64>,
    /// A unit's place among all, 1 the best, and of how many.
    pub place: Option<(usize, usize)>,
}

fn is_better(verdict: Verdict) -> bool {
    matches!(verdict, Verdict::Better | Verdict::BetterByMargin)
}

fn is_worse(verdict: Verdict) -> bool {
    matches!(
        verdict,
        Verdict::Worse | Verdict::WorseByMargin | Verdict::NotGoodEnough
    )
}

/// Of a guess on treatments: what the verdicts on them say.
fn on_treatments(trial: &Trial, analysis: &Analysis, expects: Expects, sign: f64) -> Outcome {
    let all = &analysis.contrasts;
    let open_unless = |wrong: bool| if wrong { Outcome::Wrong } else { Outcome::Open };
    match expects {
        Expects::NoDifference if all.iter().all(|c| c.verdict == Verdict::Same) => Outcome::Right,
        Expects::NoDifference => open_unless(
            all.iter()
                .any(|c| is_better(c.verdict) || is_worse(c.verdict)),
        ),
        Expects::Best(own) if trial.plan.sheet.control() == Some(own) => {
            match all
                .iter()
                .all(|c| is_worse(c.verdict) || c.verdict == Verdict::Same)
            {
                true => Outcome::Right,
                false => open_unless(all.iter().any(|c| is_better(c.verdict))),
            }
        }
        Expects::Best(own) => {
            let found = all
                .iter()
                .find(|c| trial.plan.sheet.named(&c.treatment) == Some(own));
            let Some(found) = found else {
                return Outcome::Open;
            };
            let most = all
                .iter()
                .all(|c| sign * c.estimate <= sign * found.estimate);
            // Another one is ahead beyond what chance does: their limits do not meet.
            let behind = all.iter().any(|c| match sign > 0.0 {
                true => c.low.zip(found.high).is_some_and(|(low, high)| low > high),
                false => c.high.zip(found.low).is_some_and(|(high, low)| high < low),
            });
            match is_better(found.verdict) && most {
                true => Outcome::Right,
                false => {
                    open_unless(behind || found.verdict == Verdict::Same || is_worse(found.verdict))
                }
            }
        }
        Expects::Unit(_) => Outcome::Open,
    }
}

/// What became of a guess, by the analysis of what decides and the value of every unit; None before
/// the key is open.
#[must_use]
pub fn told(
    trial: &Trial,
    analysis: Option<&Analysis>,
    values: &[Option<f64>],
    guess: &Recorded<Guess>,
) -> Option<Told> {
    trial.reveal.as_ref()?;
    let sign = if trial.plan.ask.better == Better::Lower {
        -1.0
    } else {
        1.0
    };
    let expects = guess.whom()?;
    if let Expects::Unit(unit) = expects {
        let own = values.get(unit.get()).copied().flatten();
        let of = values.iter().flatten().count();
        let place = own.map(|own| {
            (
                1 + values
                    .iter()
                    .flatten()
                    .filter(|v| sign * **v > sign * own)
                    .count(),
                of,
            )
        });
        let outcome = match place {
            Some((1, _)) => Outcome::Right,
            // One that was lost came out nowhere.
            _ if of > 0 => Outcome::Wrong,
            _ => Outcome::Open,
        };
        return Some(Told {
            outcome,
            off_points: None,
            place,
        });
    }
    let outcome = analysis.map_or(Outcome::Open, |a| on_treatments(trial, a, expects, sign));
    let found = |own: TreatmentIndex| {
        let all = analysis?.contrasts.iter();
        all.filter(|c| trial.plan.sheet.named(&c.treatment) == Some(own))
            .find_map(|c| c.percent)
    };
    let off_points = match (expects, guess.by_percent) {
        (Expects::Best(own), Some(by)) => found(own).map(|percent| (by - percent).abs()),
        _ => None,
    };
    Some(Told {
        outcome,
        off_points,
        place: None,
    })
}

/// Who guesses how well, over all trials.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Guesser {
    /// Who.
    pub name: String,
    /// Guesses that came true,
    pub right: usize,
    /// that did not,
    pub wrong: usize,
    /// and of which the trials cannot tell.
    pub open: usize,
    /// How far guessed differences lay from those found, percentage points, on average; null where
    /// none was guessed.
    pub off_points: Option<f64>,
}

/// Guesses by who made them, whatever the case of the name: most right first, then fewest wrong.
#[must_use]
pub fn tallied(all: &[(String, Told)]) -> Vec<Guesser> {
    let mut list: Vec<(Guesser, Vec<f64>)> = Vec::new();
    for (name, told) in all {
        let name = name.trim();
        let at = list
            .iter()
            .position(|(own, _)| own.name.eq_ignore_ascii_case(name))
            .unwrap_or_else(|| {
                let (right, wrong, open) = (0, 0, 0);
                list.push((
                    Guesser {
                        name: name.to_owned(),
                        right,
                        wrong,
                        open,
                        off_points: None,
                    },
                    Vec::new(),
                ));
                list.len() - 1
            });
        let (own, off) = &mut list[at];
        match told.outcome {
            Outcome::Right => own.right += 1,
            Outcome::Wrong => own.wrong += 1,
            Outcome::Open => own.open += 1,
        }
        off.extend(told.off_points);
    }
    for (own, off) in &mut list {
        own.off_points = (!off.is_empty()).then(|| off.iter().sum::<f64>() / off.len() as f64);
    }
    let mut list: Vec<Guesser> = list.into_iter().map(|(own, _)| own).collect();
    list.sort_by(|a, b| (b.right, a.wrong, &a.name).cmp(&(a.right, b.wrong, &b.name)));
    list
}

#[cfg(test)]
mod tests {
    #[test]
    fn guesses_are_tallied_by_who_made_them() {
        let told = |outcome, off_points| Told {
            outcome,
            off_points,
            place: None,
        };
        let all = [
            ("Ada".to_owned(), told(Outcome::Right, Some(4.0))),
            ("Ben".to_owned(), told(Outcome::Wrong, None)),
            (" ada ".to_owned(), told(Outcome::Wrong, Some(10.0))),
            ("Cy".to_owned(), told(Outcome::Right, None)),
            ("Ben".to_owned(), told(Outcome::Open, None)),
        ];
        let guesser = |name: &str, right, wrong, open, off_points| Guesser {
            name: name.into(),
            right,
            wrong,
            open,
            off_points,
        };
        let want = [
            guesser("Cy", 1, 0, 0, None),
            guesser("Ada", 1, 1, 0, Some(7.0)),
            guesser("Ben", 0, 1, 1, None),
        ];
        assert_eq!(tallied(&all), want);
        assert!(tallied(&[]).is_empty());
    }

    use super::*;
    use crate::trial::Reveal;
    use crate::trial::plan::Plan;
    use crate::trial::record::guess::Expected;
    use crate::trial::records::record_head;
    use crate::trial::sheet::{Sheet, SheetTreatment};
    use iron_twin_judge::analysis::analyse;
    use iron_twin_judge::question::Question;
    use iron_twin_judge::table::{Columns, read};
    use iron_twin_terms::indices::UnitIndex;
    use iron_twin_terms::quantity::Margin;
    use jiff::Timestamp;
    use std::sync::Arc;

    fn guess(expects: Expects, by_percent: Option<f64>) -> Recorded<Guess> {
        let (unit, expects) = match expects {
            Expects::Best(own) => (None, Expected::Best(own)),
            Expects::NoDifference => (None, Expected::NoDifference),
            Expects::Unit(unit) => (Some(unit), Expected::Unit),
        };
        Recorded::new(
            unit,
            record_head(1),
            Guess {
                name: "Ada".into(),
                expects,
                by_percent,
            },
        )
    }

    /// Plain water, half feed and full feed, six trays each, with these gains over plain water.
    fn trial(half: f64, full: f64) -> (Trial, Analysis, Vec<Option<f64>>) {
        let mut plan = Plan::usual("Cress");
        let named = |name: &str, control| SheetTreatment {
            name: name.into(),
            control,
            ..Sheet::usual().treatments[1].clone()
        };
        plan.sheet.treatments = vec![
            named("plain water", true),
            named("half feed", false),
            named("full feed", false),
        ];
        let mut trial = Trial::planned("x", plan);
        trial.reveal = Some(Reveal {
            at: Timestamp::UNIX_EPOCH,
            day: 9,
            weighed: 18,
            reason: String::new(),
        });
        let jitter = [-1.5, 0.8, 1.6, -0.4, -1.1, 0.6];
        let mut text = String::from("treatment,g\n");
        let mut values = Vec::new();
        for (name, gain) in [
            ("plain water", 0.0),
            ("half feed", half),
            ("full feed", full),
        ] {
            for j in jitter {
                text += &format!("{name},{}\n", 100.0 + gain + j);
                values.push(Some(100.0 + gain + j));
            }
        }
        let columns = Columns {
            measure: "g".into(),
            treatment: "treatment".into(),
            control: "plain water".into(),
            ..Columns::default()
        };
        let question = Question {
            margin: Some(Margin::Percent(10.0)),
            ..Question::default()
        };
        let analysis = analyse(&read(text.as_bytes(), &columns).unwrap(), &question).unwrap();
        (trial, analysis, values)
    }

    fn outcomes(gains: (f64, f64)) -> [Outcome; 4] {
        let (own, analysis, values) = trial(gains.0, gains.1);
        [
            Expects::Best(TreatmentIndex(0)),
            Expects::Best(TreatmentIndex(1)),
            Expects::Best(TreatmentIndex(2)),
            Expects::NoDifference,
        ]
        .map(|expects| {
            told(&own, Some(&analysis), &values, &guess(expects, None))
                .unwrap()
                .outcome
        })
    }

    #[test]
    fn who_was_right_follows_from_the_verdicts() {
        use Outcome::{Open, Right, Wrong};
        assert_eq!(outcomes((15.0, 30.0)), [Wrong, Wrong, Right, Wrong]);
        assert_eq!(outcomes((30.0, 15.0)), [Wrong, Right, Wrong, Wrong]);
        assert_eq!(
            outcomes((0.2, -0.3)),
            [Right, Wrong, Wrong, Right],
            "shown to be the same"
        );
        assert_eq!(outcomes((-20.0, -30.0)), [Right, Wrong, Wrong, Wrong]);
        assert_eq!(
            outcomes((15.0, 15.5)),
            [Wrong, Open, Right, Wrong],
            "which of the two is luck"
        );
        let (own, _, values) = trial(0.0, 0.0);
        let untold = told(&own, None, &values, &guess(Expects::NoDifference, None)).unwrap();
        assert_eq!(untold.outcome, Open, "nothing can be compared");
    }

    #[test]
    fn amounts_and_units_are_held_against_what_was_found() {
        let (mut own, analysis, values) = trial(15.0, 30.0);
        let of =
            |own: &Trial, expects, by| told(own, Some(&analysis), &values, &guess(expects, by));
        let full = of(&own, Expects::Best(TreatmentIndex(2)), Some(40.0)).unwrap();
        assert!(
            full.off_points.is_some_and(|off| (off - 10.0).abs() < 1e-9),
            "{full:?}"
        );
        // The heaviest is the third of the last six; the lightest the first of the first six.
        let best = of(&own, Expects::Unit(UnitIndex(14)), None).unwrap();
        assert_eq!((best.outcome, best.place), (Outcome::Right, Some((1, 18))));
        let worst = of(&own, Expects::Unit(UnitIndex(0)), None).unwrap();
        assert_eq!(
            (worst.outcome, worst.place),
            (Outcome::Wrong, Some((18, 18)))
        );
        Arc::make_mut(&mut own.plan).ask.better = Better::Lower;
        assert_eq!(
            of(&own, Expects::Unit(UnitIndex(0)), None).unwrap().place,
            Some((1, 18))
        );
        own.reveal = None;
        assert_eq!(of(&own, Expects::NoDifference, None), None, "sealed");
    }
}
