//! What the rules look at, gathered once from a trial.

pub mod care;
pub mod given;
pub mod hands;
pub mod judged_days;
pub mod meters;
pub mod picked;
pub mod room;
pub mod rotation;
pub mod sample_losses;
pub mod sampling;
pub mod sharing;
pub mod solution;
pub mod spill;
pub mod stand;
pub mod tools;
pub mod weather;

use crate::catalogue::readings::is_of_solution;
use crate::ledger::answer::AnswerRecord;
use crate::mix::composition::Composition;
use crate::place::balance::usual_gap_percent;
use crate::place::placed::gap_percent;
use crate::place::{light, placed};
use crate::stores::Stores;
use crate::trial::Trial;
use crate::trial::changes::LIGHT;
use crate::trial::gone::SampleLosses;
use crate::trial::question::Ask;
use crate::trial::sheet::Sheet;
use crate::trial::space::{Position, Rack, RackDesign};
use care::Care;
use given::Given;
use hands::Hands;
use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_judge::verdict::Verdict;
use iron_twin_terms::indices::TreatmentIndex;
use jiff::civil::Date;
use judged_days::JudgedDay;
use meters::Meters;
use picked::Picked;
use room::Room;
use rotation::Rotation;
use sampling::Sampling;
use sharing::Sharing;
use solution::Solution;
use spill::Spill;
use stand::Stand;
use tools::Tools;
use weather::Weather;

/// What the rules look at: an immutable picture of one trial.
#[derive(Debug, Clone, Default)]
pub struct Facts {
    /// What is asked.
    pub ask: Ask,
    /// The match sheet.
    pub sheet: Option<Sheet>,
    /// What is behind the names of the sheet.
    pub composition: Option<Composition>,
    /// The rack.
    pub rack: Rack,
    /// Whether the treatments were dealt.
    pub dealt: bool,
    /// What was dealt to each treatment, as planned or placed; the fewest where numbers differ:
    /// units, or the lamps and levels that were dealt as a whole.
    pub units_each: usize,
    /// What was dealt, in the singular and the plural.
    pub dealt_words: (&'static str, &'static str),
    /// What units may share of what differs; None before anything differs.
    pub sharing: Option<Sharing>,
    /// Whether the grower chose the places.
    pub by_hand: bool,
    /// Levels that do not hold every treatment equally often, where they are meant to or the places
    /// were chosen.
    pub uneven_levels: Vec<String>,
    /// Whether one treatment stands wholly to one side of another.
    pub parted: bool,
    /// Gap between treatments' mean starting sizes, per cent of the mean of all; None unless every
    /// unit has one.
    pub start_gap_percent: Option<f64>,
    /// Mean starting size of each treatment, in the order of the sheet; empty unless every unit has
    /// one, and while the deal is sealed.
    pub start_means: Vec<f64>,
    /// The gap that deals like this one usually leave, per cent, while that of the deal is sealed;
    /// None unless every unit has a size.
    pub start_usual_percent: Option<f64>,
    /// Edge slots of each treatment, in the order of the sheet; empty while the deal is sealed.
    pub edge_slots: Vec<usize>,
    /// Mean light of each treatment, µmol/m²/s; empty unless all places are measured, and while the
    /// deal is sealed.
    pub light_umol: Vec<f64>,
    /// How much more light deals like this one usually leave one treatment than another, per cent,
    /// while that of the deal is sealed.
    pub light_usual_percent: Option<f64>,
    /// How much more light the brightest level has than the darkest, per cent, while the deal is
    /// sealed.
    pub lamps_apart_percent: Option<f64>,
    /// Moves to the next slot, where rotation is planned.
    pub rotation: Option<Rotation>,
    /// Smallest difference that these units find 8 times in 10, per cent.
    pub sees_percent: Option<f64>,
    /// After the reveal: comparisons that stayed open, of how many.
    pub undecided: Option<(usize, usize)>,
    /// The smallest p that dealing the units of a claimed difference anew could ever give.
    pub floor: Option<f64>,
    /// What was claimed, once the key is open.
    pub claims: Claims,
    /// Days since sowing; None before it.
    pub day: Option<u32>,
    /// How often what is compared fell due and was marked as given; None where it is not something
    /// given.
    pub given: Option<Given>,
    /// Days with at least one record.
    pub record_days: Vec<u32>,
    /// What is judged on stated days that are past.
    pub judged_days: Vec<JudgedDay>,
    /// Number of records of any kind.
    pub records: usize,
    /// Units dealt, and those weighed.
    pub units: usize,
    /// Units with a harvest weight.
    pub weighed: usize,
    /// Day on which the last record that decides was taken, once all that stand have theirs.
    pub ended_on: Option<u32>,
    /// Units written off, with the reason.
    pub lost: Vec<String>,
    /// Their codes.
    pub lost_codes: Vec<String>,
    /// Samples inside units that died; empty where none are followed. Each treatment by itself once
    /// the deal may be told, all together before.
    pub sample_losses: Vec<SampleLosses>,
    /// What was taken before one harvest at the end, and who was left out of waves; None before the
    /// sowing.
    pub picked: Option<Picked>,
    /// Whether the key was opened.
    pub revealed: bool,
    /// Day on which the key was opened, and units weighed by then.
    pub revealed_at: Option<(u32, usize)>,
    /// Why it was opened before the end; empty where it was not.
    pub revealed_why: String,
    /// Days before the end on which what decides was looked at by plan, and others on which it was.
    pub looked_on: (Vec<u32>, Vec<u32>),
    /// How often the pouring sheet was opened.
    pub pouring_sheets: usize,
    /// Whether anything is judged by eye.
    pub graded: bool,
    /// Whether a meter tells treatments apart, and readings of one were taken.
    pub metered: bool,
    /// Who judged by eye after reading the meter.
    pub read_before_grading: Vec<String>,
    /// How all were cared for, what is compared apart; None before the sowing.
    pub care: Option<Care>,
    /// What was read of the solutions; None before the sowing.
    pub solution: Option<Solution>,
    /// Which samples were measured; None before the sowing.
    pub sampling: Option<Sampling>,
    /// Whether the trial ends with the record that decides: what is weighed does, what is read on a
    /// day of its own does not.
    pub ends_with_record: bool,
    /// Measures that were added after the first record, as a grower says them.
    pub added_midway: Vec<&'static str>,
    /// Who read what is judged; None before the sowing.
    pub hands: Option<Hands>,
    /// What may reach the next unit; None before the deal.
    pub spill: Option<Spill>,
    /// How many plants stood in the units; None before the sowing.
    pub stand: Option<Stand>,
    /// What was measured with what; None before the sowing.
    pub meters: Option<Meters>,
    /// What room a plant has; None where Stores do not know the crop.
    pub room: Option<Room>,
    /// The weather; None before the sowing.
    pub weather: Option<Weather>,
    /// What the grower says to findings.
    pub answers: Vec<AnswerRecord>,
    /// Tools that treatments share, and rinses; None before the sowing.
    pub tools: Option<Tools>,
    /// What was changed in the sealed plan after the first record.
    pub moved_goal_posts: Vec<String>,
}

impl Facts {
    /// Number of treatments.
    #[must_use]
    pub fn treatments(&self) -> usize {
        self.sheet.as_ref().map_or(0, |s| s.treatments.len())
    }

    /// Units of each treatment in words; from the fewest to the most where numbers differ.
    #[must_use]
    pub fn each_said(&self) -> String {
        match self.rack.numbers.iter().max() {
            Some(most) if *most as usize > self.units_each => {
                format!("{} to {most}", self.units_each)
            }
            _ => self.units_each.to_string(),
        }
    }

    /// What stands in a place, in the plural.
    #[must_use]
    pub fn units_word(&self) -> &'static str {
        if self.rack.has_rounds() {
            "systems"
        } else {
            self.rack.kind.units()
        }
    }

    /// What was dealt, in the singular.
    #[must_use]
    pub fn dealt_word(&self) -> &'static str {
        self.dealt_words.0
    }

    /// What was dealt, as it goes with the number of each.
    #[must_use]
    pub fn dealt_said(&self) -> &'static str {
        if self.each_said() == "1" {
            self.dealt_words.0
        } else {
            self.dealt_words.1
        }
    }

    /// What was dealt, in the plural.
    #[must_use]
    pub fn dealt_several(&self) -> &'static str {
        self.dealt_words.1
    }
}

/// What was claimed, once the key is open.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Claims {
    /// Comparisons that were decided.
    pub decided: usize,
    /// The differences that are claimed, each with its treatment, per cent of the control; none
    /// where the measure has no per cent.
    pub differences: Vec<(TreatmentIndex, f64)>,
}

/// What is worked out elsewhere and handed in.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Known {
    /// Smallest difference that the plan would see, per cent.
    pub sees_percent: Option<f64>,
    /// After the reveal: comparisons that stayed open, of how many.
    pub undecided: Option<(usize, usize)>,
    /// The smallest p that dealing the units of a claimed difference anew could ever give; the
    /// worst of several.
    pub floor: Option<f64>,
    /// What was claimed, once the key is open.
    pub claims: Claims,
}

impl Known {
    /// What is known while the key is not open.
    #[must_use]
    pub fn planned(sees_percent: Option<f64>) -> Self {
        Self {
            sees_percent,
            ..Self::default()
        }
    }

    /// What is known once the key is open, from the analyses of what decides: one, or one for each
    /// crop inside a unit.
    pub fn opened<'a>(
        trial: &Trial,
        sees_percent: Option<f64>,
        found: impl Iterator<Item = &'a Analysis>,
    ) -> Self {
        let all: Vec<(&Contrast, Option<f64>)> = found
            .flat_map(|own| own.contrasts.iter().map(move |c| (c, own.confidence)))
            .map(|(c, confidence)| {
                let floor = c.randomisation.as_ref();
                let floor = floor.and_then(|r| r.on_model_alone(confidence));
                (c, floor.filter(|_| c.verdict.claims_difference()))
            })
            .collect();
        let is_open = |c: &Contrast| c.verdict == Verdict::CannotTell;
        let open = all.iter().filter(|(c, _)| is_open(c)).count();
        let claimed = all.iter().filter(|(c, _)| c.verdict.claims_difference());
        let claimed =
            claimed.filter_map(|(c, _)| Some((trial.plan.sheet.named(&c.treatment)?, c.percent?)));
        Self {
            sees_percent,
            undecided: (!all.is_empty()).then_some((open, all.len())),
            floor: all.iter().filter_map(|(_, floor)| *floor).reduce(f64::max),
            claims: Claims {
                decided: all.len() - open,
                differences: claimed.collect(),
            },
        }
    }
}

/// Mean starting size of each treatment; empty unless every unit has one.
fn start_means(trial: &Trial) -> Vec<f64> {
    let sizes: Option<Vec<(TreatmentIndex, f64)>> = trial
        .units
        .iter()
        .map(|u| Some((u.treatment, trial.plan.rack.start_of(u.position)?)))
        .collect();
    let Some(sizes) = sizes.filter(|s| !s.is_empty()) else {
        return Vec::new();
    };
    let mean = |t: TreatmentIndex| {
        let own: Vec<f64> = sizes
            .iter()
            .filter(|(of, _)| *of == t)
            .map(|(_, size)| *size)
            .collect();
        own.iter().sum::<f64>() / own.len().max(1) as f64
    };
    trial.plan.sheet.indices().map(mean).collect()
}

impl Facts {
    /// What is known of a trial on a day.
    #[must_use]
    pub fn of(trial: &Trial, stores: &Stores, known: &Known, today: Date) -> Self {
        let treatments = trial.plan.sheet.treatments.len();
        let dealt = trial.deal.is_some();
        let by_hand = trial.plan.rack.design == RackDesign::ByHand;
        let units = trial.placement();
        // Until the key is open nothing is looked at that depends on the deal.
        let told = trial.tells_deal();
        let rack = &trial.plan.rack;
        let edge_slots = if told {
            placed::edges(rack, &units, treatments)
        } else {
            Vec::new()
        };
        let lights = |p: Position| trial.plan.light_at(p);
        // Two hundred deals are drawn for it: only where it is told.
        let sealed = dealt && !told;
        let usual = |figure: &dyn Fn(Position) -> Option<f64>| {
            sealed
                .then(|| usual_gap_percent(rack, treatments, figure))
                .flatten()
        };
        let uneven_levels = match trial.plan.rack.design {
            RackDesign::ByHand => placed::uneven_levels(&units, treatments),
            _ => Vec::new(),
        };
        let what = trial.plan.rack.kind.unit();
        let day = trial.day(today);
        Facts {
            ask: trial.plan.ask.clone(),
            composition: Some(trial.plan.sheet.composition(stores, &trial.plan.feed)),
            sheet: Some(trial.plan.sheet.clone()),
            rack: trial.plan.rack.clone(),
            dealt,
            units_each: trial.dealt_each(),
            dealt_words: trial.dealt_words(),
            sharing: sharing::look(trial),
            by_hand: by_hand && dealt,
            uneven_levels: uneven_levels
                .into_iter()
                .map(|level| trial.plan.rack.level_name(level))
                .collect(),
            parted: by_hand && placed::parted(&units, treatments).is_some(),
            start_gap_percent: gap_percent(rack, &units, treatments).filter(|_| told),
            start_means: if told { start_means(trial) } else { Vec::new() },
            start_usual_percent: usual(&|p| rack.start_of(p)),
            edge_slots,
            light_umol: light::by_treatment(&trial.plan.light, &units, treatments)
                .filter(|_| told)
                .unwrap_or_default(),
            light_usual_percent: usual(&lights),
            lamps_apart_percent: light::between_levels(&trial.plan.light).filter(|_| sealed),
            rotation: rotation::look(trial, day),
            sees_percent: known.sees_percent,
            undecided: known.undecided,
            floor: known.floor,
            claims: known.claims.clone(),
            day,
            given: given::look(trial, day),
            record_days: trial.record_days().into_iter().collect(),
            judged_days: judged_days::look(trial, day),
            records: trial.records.readings()
                + trial.records.weighings()
                + trial.records.picks().len()
                + trial.records.notes().len(),
            units: trial.units.len(),
            weighed: trial.recorded_units(),
            ended_on: trial.ended_on(),
            lost: trial
                .units
                .iter()
                .filter_map(|u| {
                    u.lost
                        .as_ref()
                        .map(|l| format!("{what} {}, {}", u.code, l.reason))
                })
                .collect(),
            lost_codes: trial
                .units
                .iter()
                .filter(|u| u.lost.is_some())
                .map(|u| u.code.clone())
                .collect(),
            sample_losses: sample_losses::look(trial, told),
            picked: picked::look(trial, day),
            revealed: trial.reveal.is_some(),
            revealed_at: trial.reveal.as_ref().map(|r| (r.day, r.weighed)),
            revealed_why: trial
                .reveal
                .as_ref()
                .map(|r| r.reason.clone())
                .unwrap_or_default(),
            looked_on: trial.looked_on(),
            pouring_sheets: trial.pouring_sheets,
            graded: trial.is_graded(),
            metered: trial.is_told_by_meter()
                && trial
                    .records
                    .units
                    .iter()
                    .any(|u| u.readings.iter().any(|r| is_of_solution(r.reading))),
            read_before_grading: trial
                .read_before_grading()
                .iter()
                .map(|who| who.to_string())
                .collect(),
            care: care::look(trial, day),
            solution: solution::look(trial, stores, day),
            sampling: sampling::look(trial, day),
            ends_with_record: trial.decides().day.is_none()
                && trial.decides().measure.source.is_weighed(),
            added_midway: trial
                .plan
                .ask
                .measures()
                .iter()
                .filter(|m| trial.is_added_midway(m.key))
                .map(|m| m.name)
                .collect(),
            hands: hands::look(trial, day),
            spill: spill::look(trial),
            stand: stand::look(trial, day),
            meters: meters::look(trial, stores, day),
            room: room::look(trial, stores),
            weather: weather::look(trial, day),
            answers: trial.records.answers().map(AnswerRecord::from).collect(),
            tools: tools::look(trial, day),
            // Light measured better says nothing of success.
            moved_goal_posts: trial
                .changes
                .iter()
                .filter(|c| c.change.field != LIGHT)
                .map(|c| {
                    format!(
                        "{} from {} to {} ({})",
                        c.change.field, c.change.before, c.change.after, c.reason
                    )
                })
                .collect(),
        }
    }
}
