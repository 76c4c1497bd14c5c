//! What the rules look at, gathered once from a trial.

use crate::catalogue::deeds::Job;
use crate::catalogue::fixtures::Fixture;
use crate::catalogue::readings::is_of_solution;
use crate::mix::composition::Composition;
use crate::place::balance::usual_gap_percent;
use crate::place::placed::gap_percent;
use crate::place::{light, placed};
use crate::stores::Stores;
use crate::tend::given::{WentShort, missed_beside, went_short};
use crate::tend::schedule::calendar;
use crate::terms::indices::UnitIndex;
use crate::trial::Trial;
use crate::trial::care::WorkDone;
use crate::trial::changes::LIGHT;
use crate::trial::gone::SampleLosses;
use crate::trial::question::Ask;
use crate::trial::records::UnitRecords;
use crate::trial::sheet::Sheet;
use crate::trial::sheet::differences::Differences;
use crate::trial::space::{Position, Rack, RackDesign};
use jiff::civil::Date;
use std::collections::{BTreeMap, BTreeSet};

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
    /// What was dealt to each treatment, as planned or placed; the fewest where numbers differ: units, or the lamps and
    /// levels that were dealt as a whole.
    pub units_each: usize,
    /// What was dealt, in the singular and the plural.
    pub dealt_words: (&'static str, &'static str),
    /// What units may share of what differs; None before anything differs.
    pub sharing: Option<Sharing>,
    /// Whether the grower chose the places.
    pub by_hand: bool,
    /// Levels that do not hold every treatment equally often, where they are meant to or the places were chosen.
    pub uneven_levels: Vec<String>,
    /// Whether one treatment stands wholly to one side of another.
    pub parted: bool,
    /// Gap between treatments' mean starting sizes, per cent of the mean of all; None unless every unit has one.
    pub start_gap_percent: Option<f64>,
    /// The gap that deals like this one usually leave, per cent, while that of the deal is sealed; None unless every unit
    /// has a size.
    pub start_usual_percent: Option<f64>,
    /// Edge slots of each treatment, in the order of the sheet; empty while the deal is sealed.
    pub edge_slots: Vec<usize>,
    /// Mean light of each treatment, µmol/m²/s; empty unless all places are measured, and while the deal is sealed.
    pub light_umol: Vec<f64>,
    /// How much more light deals like this one usually leave one treatment than another, per cent, while that of the deal
    /// is sealed.
    pub light_usual_percent: Option<f64>,
    /// How much more light the brightest level has than the darkest, per cent, while the deal is sealed.
    pub lamps_apart_percent: Option<f64>,
    /// Moves to the next slot, where rotation is planned.
    pub rotation: Option<Rotation>,
    /// Smallest difference that these units find 8 times in 10, per cent.
    pub sees_percent: Option<f64>,
    /// After the reveal: comparisons that stayed open, of how many.
    pub undecided: Option<(usize, usize)>,
    /// The smallest p that dealing the units of a claimed difference anew could ever give.
    pub floor: Option<f64>,
    /// Days since sowing; None before it.
    pub day: Option<u32>,
    /// How often what is compared fell due and was marked as given; None where it is not something given.
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
    /// Samples inside units that died; empty where none are followed. Each treatment by itself once the deal may be told, all
    /// together before.
    pub sample_losses: Vec<SampleLosses>,
    /// What was taken before one harvest at the end, and who was left out of waves; None before the sowing.
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
    /// What was changed in the sealed plan after the first record.
    pub moved_goal_posts: Vec<String>,
}

/// How often something fell due and was given.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Given {
    /// What, as a grower says it.
    pub what: String,
    /// Times that it was marked as done, or at least mixed.
    pub done: usize,
    /// Times that the plan has until now.
    pub planned: usize,
    /// Days before today on which it fell due and of which nothing is on record.
    pub missed: Vec<u32>,
    /// Days on which it was left out for all, with the reason.
    pub left_out: Vec<(u32, String)>,
    /// Units from which it was withheld when others got it.
    pub short: Vec<WentShort>,
}

/// What is judged on a stated day, once it is past.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct JudgedDay {
    /// The measure, as a grower says it.
    pub name: &'static str,
    /// The day.
    pub day: u32,
    /// Units that stood then.
    pub units: usize,
    /// Units read on that very day.
    pub on_day: usize,
    /// Units whose figure is of a day beside it.
    pub beside: usize,
    /// Units without a figure.
    pub missing: usize,
}

/// Samples that died, by treatment where the deal may be told.
fn sample_losses(trial: &Trial, told: bool) -> Vec<SampleLosses> {
    if trial.plan.ask.samples_inside == 0 || trial.units.is_empty() {
        return Vec::new();
    }
    let standing = || trial.each_unit().filter(|(_, u)| u.lost.is_none());
    if !told {
        return vec![trial.sample_losses(standing().map(|(i, _)| i))];
    }
    let of = |t| trial.sample_losses(standing().filter(move |(_, u)| u.treatment == t).map(|(i, _)| i));
    trial.plan.sheet.indices().map(of).collect()
}

/// What was taken of the units that stand, before one harvest at the end or in waves.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Picked {
    /// Units that stand.
    pub units: usize,
    /// Units from which something was taken aside.
    pub aside: usize,
    /// All that was, g.
    pub aside_g: f64,
    /// What those units yielded in all, g; 0 before they are harvested.
    pub of_g: f64,
    /// Looks that the waves so far asked for: every unit in each. That of today is not over.
    pub looks: usize,
    /// Looks that are missing.
    pub left_out: usize,
    /// The days of those waves.
    pub left_out_on: Vec<u32>,
}

/// What was taken of the units that stand.
fn picked(trial: &Trial, today: Option<u32>) -> Option<Picked> {
    trial.sown_on?;
    let stand = || trial.each_unit().filter(|(_, u)| u.lost.is_none() && trial.is_now(u)).map(|(i, _)| i);
    let mut aside: BTreeMap<UnitIndex, f64> = BTreeMap::new();
    let mut looked: BTreeSet<(u32, UnitIndex)> = BTreeSet::new();
    for pick in &trial.records.picks {
        if pick.aside {
            *aside.entry(pick.unit).or_default() += pick.net_g;
        } else {
            looked.insert((pick.head.day, pick.unit));
        }
    }
    let mut own = Picked { units: stand().count(), ..Picked::default() };
    for (unit, g) in stand().filter_map(|unit| Some((unit, *aside.get(&unit)?))).filter(|(_, g)| *g > 0.0) {
        own.aside += 1;
        own.aside_g += g;
        own.of_g += trial.plan.ask.parts().filter_map(|crop| trial.cut_g(unit, crop)).sum::<f64>();
    }
    for day in trial.wave_days().into_iter().filter(|day| Some(*day) != today || trial.reveal.is_some()) {
        let missing = stand().filter(|unit| !looked.contains(&(day, *unit))).count();
        own.looks += own.units;
        own.left_out += missing;
        if missing > 0 {
            own.left_out_on.push(day);
        }
    }
    Some(own)
}

/// What units may share of what differs.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Sharing {
    /// The fixture that is shared, or of which nobody said how far it reaches; None where each unit has its own.
    pub fixture: Option<Fixture>,
    /// What differs, as a grower says it.
    pub factor: String,
    /// Whether somebody said that one serves a whole level.
    pub said: bool,
    /// Whether whole levels are what counts.
    pub by_level: bool,
}

/// Moves to the next slot.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Rotation {
    /// Moves that the plan has until now.
    pub planned: usize,
    /// Moves made.
    pub done: usize,
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
            Some(most) if *most as usize > self.units_each => format!("{} to {most}", self.units_each),
            _ => self.units_each.to_string(),
        }
    }

    /// What stands in a place, in the plural.
    #[must_use]
    pub fn units_word(&self) -> &'static str {
        if self.rack.has_rounds() { "systems" } else { self.rack.kind.units() }
    }

    /// What was dealt, in the singular.
    #[must_use]
    pub fn dealt_word(&self) -> &'static str {
        self.dealt_words.0
    }

    /// What was dealt, as it goes with the number of each.
    #[must_use]
    pub fn dealt_said(&self) -> &'static str {
        if self.each_said() == "1" { self.dealt_words.0 } else { self.dealt_words.1 }
    }

    /// What was dealt, in the plural.
    #[must_use]
    pub fn dealt_several(&self) -> &'static str {
        self.dealt_words.1
    }
}

/// What is worked out elsewhere and handed in.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Known {
    /// Smallest difference that the plan would see, per cent.
    pub sees_percent: Option<f64>,
    /// After the reveal: comparisons that stayed open, of how many.
    pub undecided: Option<(usize, usize)>,
    /// The smallest p that dealing the units of a claimed difference anew could ever give; the worst of several.
    pub floor: Option<f64>,
}

/// Moves to the next slot that the plan has until a day, and those made.
fn rotation(trial: &Trial, day: Option<u32>) -> Option<Rotation> {
    let (first, every) = (trial.plan.care.first(Job::Rotate), trial.plan.care.rotate_every);
    // On the last day nothing moves any more.
    let day = day?.min(trial.plan.ask.end_day.saturating_sub(1));
    let planned = if day < first { 0 } else { 1 + (day - first).checked_div(every)? as usize };
    (every > 0).then(|| Rotation { planned, done: trial.work_done().times(Job::Rotate) })
}

/// How often what is compared fell due, and was given.
fn given(trial: &Trial, today: Option<u32>) -> Option<Given> {
    let sheet = &trial.plan.sheet;
    let factors = match sheet.differences() {
        Differences::One { factor } => vec![factor],
        Differences::Crossed { factors } | Differences::Stepwise { factors, .. } | Differences::Several { factors } => {
            factors
        }
        Differences::None => return None,
    };
    let lines: Vec<_> = sheet.lines().into_iter().filter(|line| factors.contains(&line.name)).collect();
    let until = trial.ended_on().or(today)?;
    let sown = WorkDone { jobs: vec![(Job::Sow, 0)], ..WorkDone::default() };
    let calendar = calendar(&trial.plan.care, &trial.treatment_days(), trial.plan.ask.end_day, &sown);
    let done = trial.work_done();
    let mut found = Given { what: lines.first()?.name.clone(), short: went_short(trial), ..Given::default() };
    for (job, in_tank) in [(Job::Feed, true), (Job::Apply, false)] {
        let mut own = lines.iter().flat_map(|line| sheet.indices().filter_map(|t| sheet.application(line, t)));
        if !own.any(|a| a.how.in_tank() == in_tank) {
            continue;
        }
        found.planned += calendar.iter().filter(|(j, day)| *j == job && *day < until).count();
        let of = |list: &[(Job, u32)]| list.iter().filter(|(j, _)| *j == job).map(|(_, day)| *day).collect::<Vec<_>>();
        let given = of(&done.jobs);
        // What was mixed was most likely given, where nobody marked it.
        let mixed: BTreeSet<u32> =
            trial.records.mixes.iter().filter(|_| in_tank && given.is_empty()).map(|m| m.head.day).collect();
        found.done += given.len().max(mixed.len());
        let settled = given.into_iter().chain(of(&done.skipped)).chain(mixed).collect();
        found.missed.extend(missed_beside(trial, job, until, &settled));
        let skipped = trial.records.work.iter().filter(|w| w.job == job && w.head.round == trial.round);
        found.left_out.extend(skipped.filter_map(|w| Some((w.head.day, w.skipped.clone()?))));
    }
    found.missed.sort_unstable();
    Some(found)
}

/// What is judged on stated days that are past: a reading may still come on the day after.
fn judged_days(trial: &Trial, today: Option<u32>) -> Vec<JudgedDay> {
    let past = |day: u32| trial.reveal.is_some() || today.is_some_and(|today| today > day + UnitRecords::DAYS_BESIDE);
    let judged = trial.plan.ask.judged().into_iter().filter_map(|j| Some((j.measure, j.day.filter(|d| past(*d))?)));
    let mut found = Vec::new();
    for (measure, day) in judged {
        let mut of = JudgedDay { name: measure.name, day, units: 0, on_day: 0, beside: 0, missing: 0 };
        for (i, _) in trial.each_unit().filter(|(_, u)| u.lost.is_none() && trial.is_now(u)) {
            of.units += 1;
            let key = measure.source.needs()[0];
            let mut days = trial.plan.ask.parts().flat_map(|crop| {
                trial.plan.ask.samples().filter_map(move |s| Some(trial.of_unit(i).on(key, crop, s, day)?.0))
            });
            match days.next() {
                None => of.missing += 1,
                Some(first) if first == day && days.all(|d| d == day) => of.on_day += 1,
                Some(_) => of.beside += 1,
            }
        }
        found.push(of);
    }
    found
}

/// What units may share of what differs.
fn sharing(trial: &Trial) -> Option<Sharing> {
    if matches!(trial.plan.sheet.differences(), Differences::None) {
        return None;
    }
    let by_level = trial.is_by_level() || trial.plan.rack.design == RackDesign::SplitPlot;
    let shared = trial.shared_fixture();
    let unsaid = trial.unsaid_fixture();
    let factor = trial.plan.sheet.through().map(|(_, factor)| factor).unwrap_or_default();
    Some(Sharing { fixture: shared.or(unsaid.map(|(f, _)| f)), factor, said: shared.is_some(), by_level })
}

impl Facts {
    /// What is known of a trial on a day.
    #[must_use]
    pub fn of(trial: &Trial, stores: &Stores, known: Known, today: Date) -> Self {
        let treatments = trial.plan.sheet.treatments.len();
        let dealt = trial.deal.is_some();
        let by_hand = trial.plan.rack.design == RackDesign::ByHand;
        let units = trial.placement();
        // Until the key is open nothing is looked at that depends on the deal.
        let told = trial.tells_deal();
        let rack = &trial.plan.rack;
        let edge_slots = if told { placed::edges(rack, &units, treatments) } else { Vec::new() };
        let lights = |p: Position| trial.plan.light_at(p);
        // Two hundred deals are drawn for it: only where it is told.
        let sealed = dealt && !told;
        let usual = |figure: &dyn Fn(Position) -> Option<f64>| {
            sealed.then(|| usual_gap_percent(rack, treatments, figure)).flatten()
        };
        let uneven_levels = match trial.plan.rack.design {
            RackDesign::ByHand => placed::uneven_levels(&units, treatments),
            _ => Vec::new(),
        };
        let what = trial.plan.rack.kind.unit();
        Facts {
            ask: trial.plan.ask.clone(),
            composition: Some(trial.plan.sheet.composition(stores, &trial.plan.feed)),
            sheet: Some(trial.plan.sheet.clone()),
            rack: trial.plan.rack.clone(),
            dealt,
            units_each: trial.dealt_each(),
            dealt_words: trial.dealt_words(),
            sharing: sharing(trial),
            by_hand: by_hand && dealt,
            uneven_levels: uneven_levels.into_iter().map(|level| trial.plan.rack.level_name(level)).collect(),
            parted: by_hand && placed::parted(&units, treatments).is_some(),
            start_gap_percent: gap_percent(rack, &units, treatments).filter(|_| told),
            start_usual_percent: usual(&|p| rack.start_of(p)),
            edge_slots,
            light_umol: light::by_treatment(&trial.plan.light, &units, treatments).filter(|_| told).unwrap_or_default(),
            light_usual_percent: usual(&lights),
            lamps_apart_percent: light::between_levels(&trial.plan.light).filter(|_| sealed),
            rotation: rotation(trial, trial.day(today)),
            sees_percent: known.sees_percent,
            undecided: known.undecided,
            floor: known.floor,
            day: trial.day(today),
            given: given(trial, trial.day(today)),
            record_days: trial.record_days().into_iter().collect(),
            judged_days: judged_days(trial, trial.day(today)),
            records: trial.records.readings()
                + trial.records.weighings()
                + trial.records.picks.len()
                + trial.records.notes.len(),
            units: trial.units.len(),
            weighed: trial.recorded_units(),
            ended_on: trial.ended_on(),
            lost: trial
                .units
                .iter()
                .filter_map(|u| u.lost.as_ref().map(|l| format!("{what} {}, {}", u.code, l.reason)))
                .collect(),
            sample_losses: sample_losses(trial, told),
            picked: picked(trial, trial.day(today)),
            revealed: trial.reveal.is_some(),
            revealed_at: trial.reveal.as_ref().map(|r| (r.day, r.weighed)),
            revealed_why: trial.reveal.as_ref().map(|r| r.reason.clone()).unwrap_or_default(),
            looked_on: trial.looked_on(),
            pouring_sheets: trial.pouring_sheets,
            graded: trial.is_graded(),
            metered: trial.is_told_by_meter()
                && trial.records.units.iter().any(|u| u.readings.iter().any(|r| is_of_solution(r.reading))),
            read_before_grading: trial.read_before_grading().iter().map(|who| who.to_string()).collect(),
            // Light measured better says nothing of success.
            moved_goal_posts: trial
                .changes
                .iter()
                .filter(|c| c.change.field != LIGHT)
                .map(|c| format!("{} from {} to {} ({})", c.change.field, c.change.before, c.change.after, c.reason))
                .collect(),
        }
    }
}
