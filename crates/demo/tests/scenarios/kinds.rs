//! Trials that are judged by something else than a weight at the end: counts, shares, days, grades,
//! damage, waves, doses, looks.

use super::grown::{Grown, at, head, reading};
use iron_twin_core::trial::application::{Application, How, Role, When};
use iron_twin_core::trial::plan::Plan;
use iron_twin_core::trial::record::look::{Look, LookAnswer};
use iron_twin_core::trial::record::pick::Pick;
use iron_twin_core::trial::record::weighing::Weighing;
use iron_twin_core::trial::records::*;
use iron_twin_core::trial::waves::{SizeGrade, Waves};
use iron_twin_terms::goal::Better;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use iron_twin_terms::quantity::Margin;
use rand::RngExt;
use rand_chacha::ChaCha8Rng;

/// What a trial is judged by.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum By {
    Counts,
    Shares,
    Days,
    Grades,
    Damage,
    DamageFromBefore,
    Waves,
    Doses,
    Looks,
}

pub const ALL: [By; 9] = [
    By::Counts,
    By::Shares,
    By::Days,
    By::Grades,
    By::Damage,
    By::DamageFromBefore,
    By::Waves,
    By::Doses,
    By::Looks,
];

impl By {
    fn measure(self) -> &'static str {
        match self {
            Self::Counts => "flowers",
            Self::Shares => "germinated",
            Self::Days => "first_root",
            Self::Grades => "vigour",
            Self::Damage => "tip_burn",
            Self::DamageFromBefore => "affected_area",
            Self::Waves | Self::Doses => "harvest_weight",
            Self::Looks => "height",
        }
    }

    /// The plan, judged by it.
    pub fn asked(self, plan: &mut Plan) {
        let ask = &mut plan.ask;
        ask.primary_measure = self.measure().into();
        match self {
            Self::Grades => ask.margin = Margin::Absolute(0.1),
            Self::Days => (ask.better, ask.margin) = (Better::Lower, Margin::Absolute(1.0)),
            Self::Damage | Self::DamageFromBefore => {
                (ask.better, ask.margin) = (Better::Lower, Margin::Percent(20.0));
                let sprayed = |what: &str| Application {
                    how: How::Sprayed,
                    when: When::Days(vec![4, 8]),
                    ..Application::stirred(Role::Additive, what, 1.0)
                };
                let given = [
                    vec![],
                    vec![sprayed("seaweed extract")],
                    vec![sprayed("fulvic acid")],
                ];
                named(plan, given.to_vec());
            }
            Self::Waves => {
                let grade = |name: &str, price_per_kg| SizeGrade {
                    name: name.into(),
                    price_per_kg,
                };
                ask.waves = Some(Waves {
                    grades: vec![grade("large", Some(30.0)), grade("small", None)],
                    cut_mm: None,
                });
                ask.price_per_kg = Some(20.0);
            }
            Self::Doses => {
                let feed = |share| Application::stirred(Role::Feed, "grow feed", share);
                named(
                    plan,
                    vec![vec![], vec![feed(0.5)], vec![feed(1.0)], vec![feed(1.5)]],
                );
            }
            Self::Looks => ask.looks_on = vec![3, 7],
            Self::Counts | Self::Shares => {}
        }
    }

    /// What was recorded of it: an effect of the later treatments, and a spread.
    pub fn recorded(self, random: &mut ChaCha8Rng, own: &mut Grown) {
        let (end, of) = (
            own.trial.plan.ask.end_day,
            own.trial.plan.treatments().max(2) as f64 - 1.0,
        );
        let gain = [-0.4, 0.0, 0.1, 0.3, 0.8][random.random_range(0..5)];
        let wide = [0.05, 0.15, 0.4][random.random_range(0..3)];
        let mut normal = || (0..12).map(|_| random.random::<f64>()).sum::<f64>() - 6.0;
        let noise: Vec<[f64; 3]> = own
            .trial
            .units
            .iter()
            .map(|_| [normal(), normal(), normal()])
            .collect();
        let size = |i: usize, t: usize, nth: usize| {
            ((1.0 + gain * t as f64 / of) * (1.0 + wide * noise[i][nth])).max(0.02)
        };
        own.each(|i, t, records| {
            let mut put = |key: &'static str, day: u32, value: f64| {
                records
                    .readings
                    .retain(|r| r.reading != key || r.head.day != day);
                records.readings.push(reading(key, day, value));
            };
            let at_end = size(i, t, 0);
            match self {
                Self::Counts => put("flowers", end, (8.0 * at_end).round()),
                Self::Shares => {
                    put("seeds_counted", end, 50.0);
                    put("germinated", end, (30.0 * at_end).round().min(50.0));
                }
                Self::Days => {
                    let came = (0.6 * f64::from(end) / at_end).round();
                    for day in (0..=end).step_by(2) {
                        put(
                            "first_root",
                            day,
                            f64::from(u8::from(f64::from(day) >= came)),
                        );
                    }
                }
                Self::Grades => put("vigour", end, (5.0 * at_end).round().clamp(1.0, 9.0)),
                Self::Damage => {
                    put("leaf_count", end, 20.0);
                    put(
                        "leaves_with_tip_burn",
                        end,
                        (8.0 / at_end).round().min(20.0),
                    );
                }
                Self::DamageFromBefore => {
                    put("affected_area", 2, (10.0 * size(i, 0, 1)).min(100.0));
                    put("affected_area", end, (30.0 / at_end).min(100.0));
                }
                Self::Doses => {
                    records
                        .own
                        .edit::<Weighing>(|all| all[0].is.gross_g = 100.0 * at_end + 288.0);
                }
                Self::Looks => {
                    for (nth, day) in [3, 7, end].into_iter().enumerate() {
                        put("height", day, 8.0 * f64::from(day) * size(i, t, nth));
                    }
                }
                Self::Waves => records.own.set::<Weighing>(Vec::new()),
            }
        });
        if self == Self::Waves {
            let first = end.saturating_sub(4);
            let treatments: Vec<usize> =
                own.trial.units.iter().map(|u| u.treatment.get()).collect();
            for (i, t) in treatments.into_iter().enumerate() {
                for (day, nth) in [(first, 0), (end, 1)] {
                    for (grade, share) in [("large", 0.7), ("small", 0.3)] {
                        let net_g = 60.0 * share * size(i, t, nth);
                        let (gross_g, tare_g, pieces, aside) = (net_g, 0.0, Some(6), false);
                        let (unit, grade) = (UnitIndex(i), grade.into());
                        own.trial.records.put(Recorded::new(
                            Some(unit),
                            head(day),
                            Pick {
                                gross_g,
                                tare_g,
                                pieces,
                                grade,
                                aside,
                            },
                        ));
                    }
                }
            }
        }
        if self == Self::Looks {
            let key = self.measure();
            let told = |day| {
                Recorded::new(
                    None,
                    head(day),
                    Look {
                        measure: key.into(),
                        answer: LookAnswer::CannotTell,
                    },
                )
            };
            own.trial.records.lists.set(vec![told(3), told(7)]);
            own.trial.reveal.as_mut().expect("opened").at = at(end);
        }
    }
}

/// Treatments with these applications, called as the others are, all else as the control has it.
fn named(plan: &mut Plan, given: Vec<Vec<Application>>) {
    let usual = plan.sheet.treatments[TreatmentIndex(0)].clone();
    let each = given.into_iter().enumerate().map(|(n, applications)| {
        let mut own = usual.clone();
        own.name = ["plain", "second", "third", "fourth"][n].into();
        (own.control, own.applications) = (n == 0, applications);
        own
    });
    plan.sheet.treatments = each.collect();
    plan.rack.slots = plan.treatments() as u32 * 2;
}
