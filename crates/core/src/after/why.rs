//! Why some treatments thrived and others lagged: what the ones have in common that the others
//! lack, as conjectures. Each with what speaks for it and against it, and the one trial that would
//! part it from the rest.

use crate::catalogue::{conditions, readings};
use crate::mix::given::Given;
use crate::stores::Stores;
use crate::tend::tracks::{means, unit_tracks};
use crate::trial::Trial;
use crate::trial::application::{Application, Role};
use crate::trial::plan::Plan;
use crate::trial::record::giving::{Gift, Recipient};
use crate::trial::sheet::SheetTreatment;
use crate::verdict::gone::is_gone;
use iron_twin_judge::result::Analysis;
use iron_twin_judge::verdict::Verdict;
use iron_twin_judge::wording::trimmed;
use iron_twin_terms::goal::Better;
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::words::{and, capitalised};
use serde::Serialize;

/// What may be behind it.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Conjecture {
    /// By what its trial is asked for.
    pub key: String,
    /// What.
    pub what: String,
    /// What was seen, with figures.
    pub seen: String,
    /// What speaks for it.
    pub speaks_for: Vec<String>,
    /// What speaks against it.
    pub against: Vec<String>,
    /// The trial that would part it from the others; empty where nothing but care is wanted, or no
    /// space holds it.
    pub parts: String,
    /// The plan of that trial, made when it is asked for.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub plan: Option<Plan>,
}

/// Who thrived, who lagged, and why that may be.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
pub struct Why {
    /// Those that came out ahead.
    pub thrived: Vec<String>,
    /// Those that were surely behind.
    pub lagged: Vec<String>,
    /// What may be behind it.
    pub conjectures: Vec<Conjecture>,
}

/// What a solution is looked at for: name, unit, how far apart matters, how it is read. Common
/// practice, no source.
type Quantity = (&'static str, &'static str, f64, fn(&Given) -> Option<f64>);

const NUTRIENTS: [Quantity; 5] = [
    ("nitrogen", "mg/L", 5.0, |g| g.n_mg_per_l),
    ("phosphorus", "mg/L", 2.0, |g| g.p_mg_per_l),
    ("potassium", "mg/L", 5.0, |g| g.k_mg_per_l),
    ("calcium", "mg/L", 5.0, |g| g.ca_mg_per_l),
    ("magnesium", "mg/L", 2.0, |g| g.mg_mg_per_l),
];
const OTHERS: [Quantity; 2] = [
    ("urea", "% of the nitrogen", 10.0, |g| {
        g.urea_share.map(|share| 100.0 * share)
    }),
    ("light of a day", "mol/m²", 1.0, |g| {
        g.daily_light_mol_per_m2
    }),
];
/// Readings whose tracks are looked at, and how far apart matters.
const TRACKS: [(&str, f64); 2] = [("ph", 0.4), ("dissolved_oxygen", 1.0)];
/// Amounts closer than this ratio are taken as alike.
const ALIKE: f64 = 1.2;
/// Units of each treatment in a trial that parts causes. Common practice, no source.
const UNITS: usize = 4;
/// Most conjectures that are told.
const MOST: usize = 6;

/// The two sides, and what each treatment gave.
struct Sides<'a> {
    trial: &'a Trial,
    thrived: Vec<TreatmentIndex>,
    lagged: Vec<TreatmentIndex>,
    /// What each gave, better upwards; None where it is gone.
    gave: Vec<Option<f64>>,
}

/// Something in which all that lagged differ from all that thrived.
struct Apart {
    name: &'static str,
    unit: &'static str,
    values: Vec<Option<f64>>,
    /// Whether those that lagged had less of it.
    less: bool,
}

fn sides<'a>(trial: &'a Trial, analysis: Option<&Analysis>, best: &[String]) -> Option<Sides<'a>> {
    let sheet = &trial.plan.sheet;
    let control = sheet.control()?;
    let gone = |t: &TreatmentIndex| is_gone(trial, *t);
    let ahead: Vec<TreatmentIndex> = match analysis {
        None => sheet.indices().filter(|t| !gone(t)).collect(),
        Some(_) if sheet.treatments.len() > 2 => {
            best.iter().filter_map(|name| sheet.named(name)).collect()
        }
        Some(own) => own
            .contrasts
            .iter()
            .filter_map(|c| match c.verdict {
                Verdict::Better | Verdict::BetterByMargin => sheet.named(&c.treatment),
                Verdict::Worse | Verdict::WorseByMargin | Verdict::NotGoodEnough => Some(control),
                _ => None,
            })
            .collect(),
    };
    let lagged: Vec<TreatmentIndex> = sheet.indices().filter(|t| !ahead.contains(t)).collect();
    if ahead.is_empty() || lagged.is_empty() {
        return None;
    }
    let sign = analysis.map_or(1.0, |a| if a.better == Better::Lower { -1.0 } else { 1.0 });
    let mean = |t: TreatmentIndex| {
        let own = analysis?
            .treatments
            .iter()
            .find(|own| own.name == sheet.treatments[t].name)?;
        Some(sign * own.adjusted_mean)
    };
    Some(Sides {
        trial,
        thrived: ahead,
        lagged,
        gave: sheet.indices().map(mean).collect(),
    })
}

impl Sides<'_> {
    fn name(&self, t: TreatmentIndex) -> &str {
        &self.trial.plan.sheet.treatments[t].name
    }

    fn names(&self, of: &[TreatmentIndex]) -> String {
        and(&of.iter().map(|t| self.name(*t)).collect::<Vec<_>>())
    }

    /// The one that lagged most; of those that are gone the first.
    fn worst(&self) -> TreatmentIndex {
        let gave = |t: &TreatmentIndex| self.gave[t.get()].unwrap_or(f64::NEG_INFINITY);
        self.lagged
            .iter()
            .copied()
            .min_by(|a, b| gave(a).total_cmp(&gave(b)))
            .unwrap_or(self.lagged[0])
    }

    fn best(&self) -> TreatmentIndex {
        let gave = |t: &TreatmentIndex| self.gave[t.get()].unwrap_or(f64::NEG_INFINITY);
        self.thrived
            .iter()
            .copied()
            .max_by(|a, b| gave(a).total_cmp(&gave(b)))
            .unwrap_or(self.thrived[0])
    }

    /// The ends of what a side had; None where something is not known.
    fn ends(&self, of: &[TreatmentIndex], values: &[Option<f64>]) -> Option<(f64, f64)> {
        let own: Vec<f64> = of.iter().map(|t| values[t.get()]).collect::<Option<_>>()?;
        Some((
            own.iter().copied().fold(f64::INFINITY, f64::min),
            own.iter().copied().fold(f64::NEG_INFINITY, f64::max),
        ))
    }

    /// Whether all that lagged had less, or all had more, by as much as matters.
    fn parted(&self, values: &[Option<f64>], least: f64) -> Option<bool> {
        let (low, high) = self.ends(&self.lagged, values)?;
        let (from, to) = self.ends(&self.thrived, values)?;
        let clear = |small: f64, large: f64| large - small > least && large > ALIKE * small;
        if clear(high, from) {
            return Some(true);
        }
        clear(to, low).then_some(false)
    }

    /// "0 to 68 against 91 to 137 mg/L".
    fn figures(&self, own: &Apart) -> String {
        let said = |of: &[TreatmentIndex]| match self.ends(of, &own.values) {
            Some((a, b)) if figure(a) == figure(b) => figure(a),
            Some((a, b)) => format!("{} to {}", figure(a), figure(b)),
            None => String::new(),
        };
        let told = format!(
            "{} {} against {} {}",
            own.name,
            said(&self.lagged),
            said(&self.thrived),
            own.unit
        );
        told.trim_end().to_owned()
    }

    /// How often it befell a unit, on average.
    fn times(&self, own: &Apart) -> String {
        let often = |value: f64| match figure(value).as_str() {
            "0" => "never".to_owned(),
            "1" => "once".to_owned(),
            several => format!("{several} times"),
        };
        let said = |of: &[TreatmentIndex]| match self.ends(of, &own.values) {
            Some((a, b)) if figure(a) == figure(b) => often(a),
            Some((a, b)) => format!("{} to {}", often(a), often(b)),
            None => String::new(),
        };
        let unit = self.trial.plan.rack.kind.unit();
        format!(
            "{} {} a {unit}, against {}",
            own.name,
            said(&self.lagged),
            said(&self.thrived)
        )
    }

    /// Whether what a treatment gave goes with how much it had, over all of them: None of two, else
    /// whether it does, with a pair that does not.
    fn step_by_step(&self, own: &Apart) -> Option<Result<(), (TreatmentIndex, TreatmentIndex)>> {
        let all: Vec<(TreatmentIndex, f64, f64)> = TreatmentIndex::all(self.gave.len())
            .filter_map(|t| Some((t, own.values[t.get()]?, self.gave[t.get()]?)))
            .collect();
        if all.len() < 3 {
            return None;
        }
        let sign = if own.less { 1.0 } else { -1.0 };
        let mut ties = false;
        for (n, a) in all.iter().enumerate() {
            for b in &all[n + 1..] {
                ties |= a.1 != b.1 && (a.2 - b.2).abs() < 1e-9;
                if sign * (a.1 - b.1) * (a.2 - b.2) < 0.0 {
                    return Some(Err(if a.1 > b.1 { (a.0, b.0) } else { (b.0, a.0) }));
                }
            }
        }
        (!ties).then_some(Ok(()))
    }

    fn reasons(&self, own: &Apart) -> (Vec<String>, Vec<String>) {
        let (mut speaks_for, mut against) = (Vec::new(), Vec::new());
        let more = if own.less { "more" } else { "less" };
        match self.step_by_step(own) {
            Some(Ok(())) => speaks_for.push(format!(
                "The {more} of it, the better, over all treatments."
            )),
            Some(Err((much, little))) => against.push(format!(
                "It does not go step by step: {} had more of it than {}, and did {}.",
                self.name(much),
                self.name(little),
                if own.less { "worse" } else { "better" }
            )),
            None => {}
        }
        if own.less
            && self
                .ends(&self.lagged, &own.values)
                .is_some_and(|(_, most)| most == 0.0)
        {
            speaks_for.push(format!(
                "All that thrived had it, and {} had none.",
                self.names(&self.lagged)
            ));
        }
        (speaks_for, against)
    }

    /// A plan of the worst (or the best) beside itself with one thing changed.
    fn plan(&self, new: &str, of: TreatmentIndex, changed: Vec<SheetTreatment>) -> Option<Plan> {
        let own = &self.trial.plan;
        let mut plan = Plan {
            name: format!("{}, {new}?", own.name),
            sow_planned: None,
            ..(**own).clone()
        };
        let base = SheetTreatment {
            control: true,
            ..own.sheet.treatments[of].clone()
        };
        plan.sheet.treatments = std::iter::once(base).chain(changed).collect();
        plan.sheet.check().ok()?;
        plan.rack = plan.rack.with_units(UNITS, plan.treatments())?;
        Some(plan)
    }

    fn given_too(&self, of: TreatmentIndex, what: &str) -> SheetTreatment {
        let mut own = self.trial.plan.sheet.treatments[of].clone();
        own.applications
            .push(Application::stirred(Role::Additive, what, 1.0));
        SheetTreatment {
            name: format!("with {what}"),
            control: false,
            ..own
        }
    }

    fn set_to(&self, of: TreatmentIndex, key: &str, value: &str) -> SheetTreatment {
        let mut own = self.trial.plan.sheet.treatments[of].clone();
        own.set(key, value);
        SheetTreatment {
            name: value.to_owned(),
            control: false,
            ..own
        }
    }

    /// Nutrients that went together, as one conjecture.
    fn of_nutrients(&self, own: &[Apart], first: &Apart, less: bool) -> Conjecture {
        let names: Vec<&str> = own.iter().map(|a| a.name).collect();
        let (speaks_for, mut against) = self.reasons(first);
        if own.len() > 1 {
            against.insert(
                0,
                "They go together here: this trial cannot say which of them it is.".into(),
            );
        }
        let base = if less { self.worst() } else { self.best() };
        let changed = names
            .iter()
            .map(|n| self.given_too(base, &format!("{n} salt")))
            .collect();
        let base_name = self.name(base);
        let parts = if own.len() > 1 {
            format!(
                "{} with each of them added alone, beside {base_name} as it is.",
                capitalised(base_name)
            )
        } else {
            format!(
                "{} with {} added, beside {base_name} as it is.",
                capitalised(base_name),
                names[0]
            )
        };
        Conjecture {
            key: format!("why:{}", names.join("+")),
            what: format!(
                "{} {}",
                if less { "too little" } else { "too much" },
                and(&names)
            ),
            seen: own
                .iter()
                .map(|a| self.figures(a))
                .collect::<Vec<_>>()
                .join("; "),
            speaks_for,
            against,
            parts,
            plan: self.plan("which nutrient", base, changed),
        }
    }

    /// What the solutions hold. Nutrients that go together are one conjecture, and its trial gives
    /// each of them alone.
    fn solutions(&self, given: &[Given]) -> Vec<Conjecture> {
        let look = |(name, unit, least, of): &Quantity| {
            let values: Vec<Option<f64>> = given.iter().map(of).collect();
            let less = self.parted(&values, *least)?;
            Some(Apart {
                name,
                unit,
                values,
                less,
            })
        };
        let mut all = Vec::new();
        for less in [true, false] {
            let own: Vec<Apart> = NUTRIENTS
                .iter()
                .filter_map(look)
                .filter(|a| a.less == less)
                .collect();
            let Some(first) = own.first() else { continue };
            all.push(self.of_nutrients(&own, first, less));
        }
        all.extend(
            OTHERS
                .iter()
                .filter_map(look)
                .map(|own| self.of_other(&own)),
        );
        all
    }

    fn of_other(&self, own: &Apart) -> Conjecture {
        let (speaks_for, against) = self.reasons(own);
        let is_urea = own.name == "urea";
        let base = if own.less { self.worst() } else { self.best() };
        let planned = is_urea && !own.less;
        Conjecture {
            key: format!("why:{}", own.name),
            what: format!(
                "{} {}",
                if own.less { "too little" } else { "too much" },
                own.name
            ),
            seen: self.figures(own),
            speaks_for,
            against,
            parts: if planned {
                let base = self.name(base);
                format!(
                    "{} with urea added, beside {base} as it is.",
                    capitalised(base)
                )
            } else {
                String::new()
            },
            plan: if planned {
                self.plan("is it urea", base, vec![self.given_too(base, "urea")])
            } else {
                None
            },
        }
    }

    /// Readings of the solution that went apart, from the first day from which on they stayed
    /// apart.
    fn tracks(&self) -> Vec<Conjecture> {
        TRACKS
            .iter()
            .filter_map(|(key, least)| self.track(key, *least))
            .collect()
    }

    /// From which day on a reading stayed apart, whether it was the lower in those that lagged, its
    /// last values, and whether all began alike.
    fn parted_from(
        &self,
        by_day: &[Vec<(u32, f64)>],
        least: f64,
    ) -> Option<(u32, bool, Vec<Option<f64>>, bool)> {
        let days: Vec<u32> = by_day.first()?.iter().map(|(day, _)| *day).collect();
        let at = |day: u32| -> Vec<Option<f64>> {
            by_day
                .iter()
                .map(|own| own.iter().find(|(d, _)| *d == day).map(|(_, v)| *v))
                .collect()
        };
        // Apart by as much as matters, whatever the ratio: pH is no amount.
        let apart = |day: u32| {
            let values = at(day);
            let ((low, high), (from, to)) = (
                self.ends(&self.lagged, &values)?,
                self.ends(&self.thrived, &values)?,
            );
            if from - high > least {
                Some(true)
            } else {
                (low - to > least).then_some(false)
            }
        };
        let last = apart(*days.last()?)?;
        let from = days
            .iter()
            .rev()
            .take_while(|day| apart(**day) == Some(last))
            .last()?;
        // One day is a slip of the meter.
        if days.iter().filter(|d| *d >= from).count() < 2 {
            return None;
        }
        Some((*from, last, at(*days.last()?), days.first() < Some(from)))
    }

    /// One reading that went apart and stayed so.
    fn track(&self, key: &'static str, least: f64) -> Option<Conjecture> {
        let reading = readings::find(key)?;
        let tracks = unit_tracks(self.trial, reading, None);
        let by_day: Vec<Vec<(u32, f64)>> = self
            .trial
            .plan
            .sheet
            .indices()
            .map(|t| means(self.trial, &tracks, t))
            .collect();
        let (from, last, values, began) = self.parted_from(&by_day, least)?;
        let own = Apart {
            name: reading.name,
            unit: reading.unit,
            values,
            less: last,
        };
        let kept = self
            .ends(&self.thrived, &own.values)
            .map(|(a, b)| 0.5 * (a + b))?;
        let held = format!("{} held near {}", reading.name, figure(kept));
        let worst = self.worst();
        let (mut speaks_for, mut against) = (Vec::new(), Vec::new());
        if began {
            speaks_for.push(format!(
                "They began alike and went apart from day {from} on."
            ));
        }
        against.push(
            "Plants change what they drink from: it may follow from poor growth and \
                          not make it."
                .into(),
        );
        Some(Conjecture {
            key: format!("why:{key}"),
            what: format!("{} too {}", reading.name, if last { "low" } else { "high" }),
            seen: format!("{} from day {from} on", self.figures(&own)),
            speaks_for,
            against,
            parts: format!(
                "{} with its {held}, beside itself as it was.",
                capitalised(self.name(worst))
            ),
            plan: self.plan(
                "is it the solution",
                worst,
                vec![self.set_to(worst, "handling", &held)],
            ),
        })
    }

    /// Something that befell those that lagged more often.
    fn befallen(
        &self,
        name: &'static str,
        values: Vec<Option<f64>>,
        but: &str,
    ) -> Option<Conjecture> {
        let own = Apart {
            name,
            unit: "times each",
            less: self.parted(&values, 0.5)?,
            values,
        };
        // Those that thrived went short more often: no reason to lag.
        if own.less {
            return None;
        }
        let alone = self
            .ends(&self.thrived, &own.values)
            .is_some_and(|(_, most)| most == 0.0);
        let often = if alone { "alone" } else { "more often" };
        Some(Conjecture {
            key: format!("why:{name}"),
            what: format!("they {name}"),
            seen: self.times(&own),
            speaks_for: vec![format!("It befell {} {often}.", self.names(&self.lagged))],
            against: if but.is_empty() {
                Vec::new()
            } else {
                vec![but.to_owned()]
            },
            parts: String::new(),
            plan: None,
        })
    }

    /// What befell those that lagged, and the others not or less: they ran dry, or went without.
    fn befell(&self) -> Vec<Conjecture> {
        let numbers = self.trial.numbers();
        let each = |of: &dyn Fn(TreatmentIndex) -> usize| -> Vec<Option<f64>> {
            let one = |t: TreatmentIndex| of(t) as f64 / numbers[t.get()].max(1) as f64;
            self.trial
                .plan
                .sheet
                .indices()
                .map(|t| Some(one(t)))
                .collect()
        };
        let units = |t: TreatmentIndex| {
            self.trial
                .each_unit()
                .filter(move |(_, u)| u.treatment == t)
                .map(|(i, _)| i)
        };
        let dry = each(&|t| {
            let own = units(t).flat_map(|i| &self.trial.of_unit(i).readings);
            own.filter(|r| r.reading == "level" && r.value == Some(0.0))
                .count()
        });
        let without = each(&|t| {
            let withheld = self
                .trial
                .records
                .givings()
                .iter()
                .filter(|g| matches!(g.gift, Gift::Withheld(_)));
            withheld
                .map(|g| match g.whom() {
                    Some(Recipient::All) => numbers[t.get()],
                    Some(Recipient::Treatment(own)) if own == t => numbers[t.get()],
                    Some(Recipient::Unit(unit)) if self.trial.units[unit].treatment == t => 1,
                    _ => 0,
                })
                .sum()
        });
        let told = [
            (
                "ran dry",
                dry,
                "It may have come after they failed: nobody waters what is dead.",
            ),
            ("went without what was due", without, ""),
        ];
        let one = |(name, values, but)| self.befallen(name, values, but);
        told.into_iter().filter_map(one).collect()
    }

    /// Conditions that all that lagged share and none that thrived.
    fn conditions(&self) -> Vec<Conjecture> {
        let sheet = &self.trial.plan.sheet;
        let one = |condition: &conditions::Condition| {
            let of = |t: &TreatmentIndex| {
                sheet
                    .value(*t, condition.key)
                    .unwrap_or_default()
                    .trim()
                    .to_lowercase()
            };
            let (lagged, thrived) = (of(&self.lagged[0]), of(&self.thrived[0]));
            let alike = self.lagged.iter().all(|t| of(t) == lagged)
                && self.thrived.iter().all(|t| of(t) == thrived);
            if !alike || lagged == thrived || thrived.is_empty() {
                return None;
            }
            let worst = self.worst();
            let shown = |t: TreatmentIndex| {
                sheet
                    .value(t, condition.key)
                    .unwrap_or_default()
                    .trim()
                    .to_owned()
            };
            let (own, other) = (shown(worst), shown(self.best()));
            let own = if own.is_empty() {
                "none".to_owned()
            } else {
                own
            };
            Some(Conjecture {
                key: format!("why:{}", condition.key),
                what: condition.name.to_owned(),
                seen: format!("{own} against {other}"),
                speaks_for: vec![format!(
                    "All that thrived had {other}, all that lagged {own}."
                )],
                against: Vec::new(),
                parts: format!(
                    "{} with {other}, beside itself with {own}.",
                    capitalised(self.name(worst))
                ),
                plan: self.plan(
                    &format!("is it the {}", condition.name),
                    worst,
                    vec![self.set_to(worst, condition.key, &other)],
                ),
            })
        };
        conditions::ALL.into_iter().filter_map(one).collect()
    }
}

fn figure(value: f64) -> String {
    trimmed(value, if value.abs() < 10.0 { 1 } else { 0 })
}

/// What may be behind it that some thrived and others lagged; None before the key is open, and
/// where nobody was surely behind.
#[must_use]
pub fn why(
    trial: &Trial,
    analysis: Option<&Analysis>,
    may_be_best: &[String],
    stores: &Stores,
) -> Option<Why> {
    trial.reveal.as_ref()?;
    let sides = sides(trial, analysis, may_be_best)?;
    let given = trial.plan.sheet.composition(stores, &trial.plan.feed).given;
    let mut conjectures = sides.solutions(&given);
    conjectures.extend(sides.tracks());
    conjectures.extend(sides.befell());
    // Lamp and hours are told as the light of a day where that is known.
    let lit = conjectures.iter().any(|c| c.key == "why:light of a day");
    let of_light = |c: &Conjecture| {
        ["why:light", "why:light_hours", "why:light_watts"].contains(&c.key.as_str())
    };
    conjectures.extend(
        sides
            .conditions()
            .into_iter()
            .filter(|c| !(lit && of_light(c))),
    );
    // A trial that cannot be planned is not spoken of.
    conjectures
        .iter_mut()
        .filter(|c| c.plan.is_none())
        .for_each(|c| c.parts.clear());
    // Each stands against the others where all of them are so.
    let names: Vec<String> = conjectures.iter().map(|c| c.what.clone()).collect();
    for (n, own) in conjectures.iter_mut().enumerate() {
        let others: Vec<&str> = names
            .iter()
            .enumerate()
            .filter(|(i, _)| *i != n)
            .map(|(_, n)| n.as_str())
            .collect();
        if !others.is_empty() {
            own.against
                .push(format!("It could as well be: {}.", and(&others)));
        }
    }
    conjectures.truncate(MOST);
    Some(Why {
        thrived: sides
            .thrived
            .iter()
            .map(|t| sides.name(*t).to_owned())
            .collect(),
        lagged: sides
            .lagged
            .iter()
            .map(|t| sides.name(*t).to_owned())
            .collect(),
        conjectures,
    })
}

#[cfg(test)]
#[path = "why_tests.rs"]
mod tests;
