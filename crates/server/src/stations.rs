//! The band of eight stations: what stands at each, in a word or figure.

use iron_twin_core::ledger::{Ledger, Rule, rules};
use iron_twin_core::tend::due::due_now;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::sheet::differences::Differences;
use iron_twin_core::trial::space::RackDesign;
use iron_twin_terms::goal::Goal;
use iron_twin_terms::kind::Kind;
use iron_twin_terms::severity::Severity;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

/// Whether a station wants a hand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Mark {
    /// Nothing to do.
    Quiet,
    /// Something is open here.
    Open,
    /// Something is wrong here.
    Wrong,
}

/// One plate of the band.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub(crate) struct Station {
    /// ask, match, place, mix, tend, weigh, judge or tell.
    pub key: &'static str,
    /// What stands there.
    pub status: String,
    /// Whether it wants a hand.
    pub mark: Mark,
}

fn wrong(ledger: &Ledger, station: &str) -> bool {
    ledger
        .open
        .iter()
        .any(|f| f.station == station && f.severity >= Severity::Serious)
}

/// The next station at which something must happen before the trial can go on.
pub(crate) fn next_station(trial: &Trial, all_recorded: bool, today: Date) -> &'static str {
    if trial.reveal.is_some() {
        return "judge";
    }
    if trial.plan.ask.question.is_empty() {
        return "ask";
    }
    if trial.deal.is_none() {
        let told = !matches!(
            trial.plan.sheet.differences(),
            Differences::None | Differences::Several { .. }
        );
        return if told { "place" } else { "match" };
    }
    match trial.day(today) {
        Some(_) if all_recorded && !trial.has_next_round() => "judge",
        // The next round is begun at Tend.
        Some(_) if all_recorded => "tend",
        Some(day) if day >= trial.plan.ask.end_day => "weigh",
        _ => "tend",
    }
}

/// The eight plates.
pub(crate) fn stations(
    trial: &Trial,
    ledger: &Ledger,
    sees_percent: Option<f64>,
    today: Date,
) -> Vec<Station> {
    let next = next_station(trial, trial.all_recorded(), today);
    let status = [
        ("ask", ask(trial)),
        ("match", matched(trial)),
        ("place", place(trial)),
        ("mix", mix(trial)),
        ("tend", tend(trial, today)),
        ("weigh", weigh(trial)),
        ("judge", judge(trial, sees_percent)),
        (
            "tell",
            if trial.reveal.is_some() {
                "report ready".into()
            } else {
                "plan to print".to_owned()
            },
        ),
    ];
    debug_assert!(
        rules::ALL
            .iter()
            .all(|r: &&Rule| status.iter().any(|(key, _)| *key == r.station))
    );
    status
        .into_iter()
        .map(|(key, status)| {
            let mark = if wrong(ledger, key) {
                Mark::Wrong
            } else if key == next && trial.reveal.is_none() {
                Mark::Open
            } else {
                Mark::Quiet
            };
            Station { key, status, mark }
        })
        .collect()
}

fn planned_units(trial: &Trial) -> usize {
    match (trial.units.len(), trial.plan.rack.design) {
        (0, RackDesign::ByHand) => 0,
        (0, _) => trial.numbers().iter().sum(),
        (units, _) => units,
    }
}

fn weigh(trial: &Trial) -> String {
    if trial.plan.rack.has_rounds() {
        let systems = trial.plan.rack.slots;
        let now = trial
            .unit_indices()
            .filter(|&unit| trial.is_now(&trial.units[unit]));
        let done: usize = now.map(|unit| trial.of_unit(unit).weighings().len()).sum();
        return format!("round {}: {done} of {systems}", trial.round);
    }
    let judged = trial.plan.ask.judged();
    if trial.records.weighings() == 0 && !judged.iter().any(|j| j.measure.source.is_weighed()) {
        return "nothing to weigh".into();
    }
    if trial.plan.ask.waves.is_some() {
        let waves = trial.wave_days().len();
        let grams: f64 = trial
            .unit_indices()
            .filter_map(|unit| trial.cut_g(unit, None))
            .sum();
        let told = if grams < 1000.0 {
            format!("{grams:.0} g")
        } else {
            format!("{:.1} kg", grams / 1000.0)
        };
        return match waves {
            0 => "in waves, none yet".into(),
            1 => format!("1 wave, {told}"),
            _ => format!("{waves} waves, {told}"),
        };
    }
    let each = trial.plan.ask.weighed_parts().count();
    let what = match (trial.plan.ask.weigh_samples, each) {
        (true, _) => "plants",
        (false, 1) => trial.plan.rack.kind.units(),
        (false, _) => "weights",
    };
    let gone = if trial.plan.ask.weigh_samples {
        trial.records.gone().len()
    } else {
        0
    };
    format!(
        "{} of {} {what}",
        trial.records.weighings(),
        each * planned_units(trial) - gone
    )
}

fn ask(trial: &Trial) -> String {
    let margin = match trial.plan.ask.margin {
        _ if trial.plan.ask.margin_money.is_some() => {
            format!(
                "{} in money",
                trial.plan.ask.margin_money.unwrap_or_default()
            )
        }
        iron_twin_terms::quantity::Margin::Percent(p) => format!("{p} %"),
        iron_twin_terms::quantity::Margin::Absolute(a) => format!("{a} {}", trial.primary().unit),
    };
    match trial.plan.ask.goal {
        _ if trial.plan.ask.question.is_empty() => "no question yet".into(),
        Goal::Beat => format!("beat by {margin}"),
        Goal::Match => format!("match within {margin}"),
        Goal::Best => format!("best, {margin} counts"),
    }
}

fn matched(trial: &Trial) -> String {
    match trial.plan.sheet.differences() {
        Differences::None => "no difference".into(),
        Differences::One { .. } => format!(
            "{} treatments, 1 difference",
            trial.plan.sheet.treatments.len()
        ),
        Differences::Crossed { factors } => {
            format!(
                "{} treatments, {} factors crossed",
                trial.plan.sheet.treatments.len(),
                factors.len()
            )
        }
        Differences::Stepwise { steps, .. } => {
            format!(
                "{} treatments, {} steps",
                trial.plan.sheet.treatments.len(),
                steps.len()
            )
        }
        Differences::Several { factors } => format!("{} differences", factors.len()),
    }
}

fn place(trial: &Trial) -> String {
    let treatments = trial.plan.treatments();
    let across = trial.plan.rack.used_slots(treatments);
    let (levels, kind) = (trial.plan.rack.levels, trial.plan.rack.kind);
    let several = if levels == 1 { "" } else { "s" };
    let shape = match trial.plan.rack.design {
        RackDesign::Blocks => format!("{levels} {}{several} x {across}", kind.level()),
        RackDesign::CompletelyRandomised => {
            format!("{} {} freely", planned_units(trial), kind.units())
        }
        RackDesign::Pairs => format!("{} pairs", trial.plan.rack.pairs(treatments)),
        RackDesign::LatinSquare => format!("square {levels} x {across}"),
        RackDesign::Fixtures => format!("{levels} {} x {across}", trial.dealt_words().1),
        RackDesign::SplitPlot => format!("{levels} lamps or pumps x {across}"),
        RackDesign::SwapOver => format!("{across} systems x {levels} rounds"),
        RackDesign::BySize => format!("{} size classes", trial.plan.rack.units_each(treatments)),
        RackDesign::ByHand => return format!("{} {} by hand", planned_units(trial), kind.units()),
    };
    if trial.deal.is_some() {
        format!("{shape}, dealt")
    } else {
        format!("{shape}, to deal")
    }
}

fn mix(trial: &Trial) -> String {
    let read: Vec<f64> = trial
        .records
        .mixes()
        .iter()
        .filter_map(|m| m.ec_ms_per_cm)
        .collect();
    match (
        read.iter().copied().reduce(f64::min),
        read.iter().copied().reduce(f64::max),
    ) {
        (Some(low), Some(high)) if low < high => format!("EC {low:.1} to {high:.1}"),
        (Some(low), _) => format!("EC {low:.1}"),
        _ => "to be mixed".into(),
    }
}

fn tend(trial: &Trial, today: Date) -> String {
    let end = trial.plan.ask.end_day;
    match (trial.day(today), &trial.reveal) {
        (_, Some(reveal)) => format!("ended on day {}", trial.ended_on().unwrap_or(reveal.day)),
        (Some(day), None) if day > end => format!("day {day}, planned {end}"),
        (Some(day), None) => {
            let due = due_now(trial, today).len();
            let work = if due > 0 {
                format!(", {due} due")
            } else {
                String::new()
            };
            let round = if trial.plan.rack.has_rounds() {
                format!("round {}, ", trial.round)
            } else {
                String::new()
            };
            format!("{round}day {day} of {end}{work}")
        }
        (None, None) => format!("{end} days, not sown"),
    }
}

fn judge(trial: &Trial, sees_percent: Option<f64>) -> String {
    match (&trial.reveal, sees_percent) {
        (Some(_), _) => {
            let verdicts = trial.plan.sheet.treatments.len() - 1;
            format!("{verdicts} verdict{}", if verdicts == 1 { "" } else { "s" })
        }
        (None, _) if trial.sealed_at.is_some() => "sealed".into(),
        (None, Some(sees)) => format!("will see {sees:.0} %"),
        (None, None) if trial.primary().kind != Kind::Amount => "waits for records".into(),
        (None, None) => "too few to tell".into(),
    }
}
