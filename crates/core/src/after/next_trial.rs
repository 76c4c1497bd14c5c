//! What to try next: plans that follow from what a trial told and what it could not tell, each with
//! what it would cost and show.

use crate::after::money::planned_cost;
use crate::ask::sees::sees_percent;
use crate::catalogue::conditions;
use crate::ledger::Finding;
use crate::ledger::trust::Belief;
use crate::stores::Stores;
use crate::stores::prices::Prices;
use crate::trial::Trial;
use crate::trial::application::{Amount, Role};
use crate::trial::decided::Decides;
use crate::trial::plan::Plan;
use crate::trial::question::Seeks;
use crate::trial::sheet::SheetTreatment;
use crate::trial::sheet::differences::Differences;
use iron_twin_judge::result::{Analysis, Contrast};
use iron_twin_judge::verdict::{Doubt, Verdict};
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::quantity::Margin;
use iron_twin_terms::severity::Severity;
use iron_twin_terms::words::{and, capitalised};
use serde::Serialize;

/// A trial that could follow.
#[derive(Debug, Clone, PartialEq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = NextTrial))]
pub struct Suggestion {
    /// By what it is asked for; the same for the same trial as long as its figures stand.
    pub key: String,
    /// What is done.
    pub title: String,
    /// Why.
    pub why: String,
    /// What it would show.
    pub teaches: String,
    /// Treatments of it.
    pub treatments: usize,
    /// Units of each treatment.
    pub units: usize,
    /// What it costs as planned, as far as prices are known; null where none is.
    pub cost: Option<f64>,
    /// The plan, made when it is asked for.
    #[serde(skip)]
    #[cfg_attr(feature = "schema", schema(ignore))]
    pub plan: Plan,
}

/// What a finished trial told.
pub struct Told<'a> {
    /// The trial.
    pub trial: &'a Trial,
    /// What decides, analysed.
    pub analysis: &'a Analysis,
    /// The treatments that may be the best, where that was told.
    pub may_be_best: &'a [String],
    /// Open findings.
    pub findings: &'a [Finding],
    /// How far the result can be believed.
    pub belief: Belief,
    /// Spread among units with which the next one is foreseen, per cent. It need not be that of
    /// this trial, so it is said.
    pub cv_percent: f64,
    /// The shelves.
    pub stores: &'a Stores,
    /// Prices of electricity and work.
    pub prices: &'a Prices,
}

/// What to decide, as the figures have it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
#[cfg_attr(feature = "schema", derive(utoipa::ToSchema))]
#[cfg_attr(feature = "schema", schema(as = DecisionAdvice))]
pub struct Advice {
    /// What to do.
    pub decides: Decides,
    /// With which treatment.
    pub treatment: Option<String>,
    /// Units of each treatment, where it is repeated.
    pub units: Option<u32>,
    /// Why.
    pub why: String,
}

/// Most trials that are suggested.
const MOST: usize = 4;
/// Units of each treatment at which faults of the count are mended. Common practice, no source:
/// four of each are the fewest of which a verdict can come.
const MENDED_UNITS: usize = 4;
/// Beyond this many units a side a repetition is not worth its room, and something else has to
/// change.
const MOST_WORTH: usize = 40;

/// Findings that are mended by more units. That units were too few to tell is mended by repeating
/// it.
const TOO_FEW: [&str; 2] = ["one_unit_per_treatment", "shared_unit"];

impl Told<'_> {
    /// The treatments that came out ahead, best first.
    fn winners(&self) -> Vec<&Contrast> {
        let won = |c: &&Contrast| matches!(c.verdict, Verdict::Better | Verdict::BetterByMargin);
        let mut all: Vec<&Contrast> = self.analysis.contrasts.iter().filter(won).collect();
        let lead = |c: &Contrast| {
            if self.analysis.better == Better::Lower {
                -c.estimate
            } else {
                c.estimate
            }
        };
        all.sort_by(|a, b| lead(b).total_cmp(&lead(a)));
        all
    }

    fn open(&self) -> Vec<&Contrast> {
        self.analysis
            .contrasts
            .iter()
            .filter(|c| c.verdict == Verdict::CannotTell)
            .collect()
    }

    /// Units of each treatment that would settle what is open; None where nothing says so.
    fn settles(&self) -> Option<usize> {
        self.open().iter().filter_map(|c| c.units_for_verdict).max()
    }

    fn units(&self) -> usize {
        self.trial.dealt_each().max(1)
    }

    fn words(&self) -> (&'static str, &'static str) {
        self.trial.dealt_words()
    }

    /// "1 tray", "8 trays".
    fn counted(&self, n: usize) -> String {
        let (one, many) = self.words();
        format!("{n} {}", if n == 1 { one } else { many })
    }

    /// What the figures say should be decided.
    #[must_use]
    pub fn advice(&self) -> Advice {
        let advice = |decides, treatment: Option<&str>, units: Option<usize>, why: String| Advice {
            decides,
            treatment: treatment.map(str::to_owned),
            units: units.and_then(|n| u32::try_from(n).ok()),
            why: capitalised(&why),
        };
        let again = self
            .settles()
            .filter(|n| *n <= MOST_WORTH)
            .map(|n| n.max(self.units()));
        if self.belief == Belief::DoNotAct {
            let units = Some(again.unwrap_or(0).max(MENDED_UNITS).max(self.units()));
            return advice(
                Decides::Repeat,
                None,
                units,
                "What was found must be mended before anything rests on it.".into(),
            );
        }
        if let Some(found) = self.adopted() {
            return found;
        }
        match (self.open().is_empty(), again) {
            (false, Some(units)) => {
                let why = format!(
                    "What stayed open, {} of each treatment would settle.",
                    self.counted(units)
                );
                advice(Decides::Repeat, None, Some(units), why)
            }
            (false, None) => advice(
                Decides::Further,
                None,
                None,
                "It stayed open, and more of the same would hardly settle it.".into(),
            ),
            (true, _) => {
                let own = self.analysis.contrasts.first();
                let why = own.map_or_else(String::new, |c| match c.verdict {
                    Verdict::Same => format!(
                        "{} did the same as {}: it gains nothing.",
                        c.treatment, c.versus
                    ),
                    _ => format!("{} did worse than {}.", c.treatment, c.versus),
                });
                advice(
                    Decides::Reject,
                    own.map(|c| c.treatment.as_str()),
                    None,
                    why,
                )
            }
        }
    }

    /// What is taken up: the best where something was better, or what did as well where that was
    /// asked.
    fn adopted(&self) -> Option<Advice> {
        let advice = |decides, treatment: &str, why: &str| Advice {
            decides,
            treatment: Some(treatment.to_owned()),
            units: None,
            why: capitalised(why),
        };
        if let Some(best) = self.winners().first() {
            let why = if best.verdict == Verdict::BetterByMargin {
                format!("{} was better by more than would matter.", best.treatment)
            } else {
                format!(
                    "{} was better; whether by as much as would matter is open.",
                    best.treatment
                )
            };
            let why = match self.tied_with(&best.treatment) {
                tied if tied.is_empty() => why,
                tied => {
                    format!(
                        "{why} {} cannot be told from it; the scorecard weighs them.",
                        capitalised(&and(&tied))
                    )
                }
            };
            let decides = if best.verdict == Verdict::BetterByMargin {
                Decides::Adopt
            } else {
                Decides::Further
            };
            return Some(advice(decides, &best.treatment, &why));
        }
        let goal = self.trial.plan.ask.goal;
        let kept = self.analysis.contrasts.iter().find(|c| {
            goal == Goal::Match && matches!(c.verdict, Verdict::GoodEnough | Verdict::Same)
        });
        kept.map(|own| {
            let why = format!("{} did as well as {}.", own.treatment, own.versus);
            advice(Decides::Adopt, &own.treatment, &why)
        })
    }

    /// Trials that could follow, the most telling first. None where nothing was compared.
    #[must_use]
    pub fn suggestions(&self) -> Vec<Suggestion> {
        let all = [
            self.mended(),
            self.one_thing_only(),
            self.repeated(),
            self.tied(),
            self.dose_between(),
            self.stronger(),
            self.still_less(),
            self.another_variety(),
            self.once_more(),
        ];
        let mut list: Vec<Suggestion> = all.into_iter().flatten().collect();
        // The same again under two names is one.
        let repeats = |s: &Suggestion| ["mended", "repeat"].contains(&s.key.as_str());
        if list.iter().any(repeats) {
            list.retain(|s| s.key != "once_more");
        }
        list.truncate(MOST);
        list
    }

    fn suggestion(
        &self,
        key: &str,
        title: String,
        why: String,
        teaches: &str,
        plan: Plan,
    ) -> Option<Suggestion> {
        let planned = Trial::planned(String::new(), plan);
        planned.plan.rack.check(planned.plan.treatments()).ok()?;
        let units = planned.dealt_each();
        let seen = sees_percent(&planned, self.cv_percent);
        let sees = seen.filter(|p| p.is_finite()).map(|p| {
            format!(
                " With {} of each it would find a difference of {} in 4 of 5 trials, if {} of one \
                 treatment differ by {}.",
                self.counted(units),
                percent(p),
                self.words().1,
                percent(self.cv_percent)
            )
        });
        Some(Suggestion {
            key: key.into(),
            title,
            why: capitalised(&why),
            teaches: format!("{teaches}{}", sees.unwrap_or_default()),
            treatments: planned.plan.treatments(),
            units,
            cost: planned_cost(&planned, self.stores, self.prices),
            plan: std::sync::Arc::unwrap_or_clone(planned.plan),
        })
    }

    /// The plan as a new one, under a name that says what is new.
    fn plan(&self, new: &str) -> Plan {
        let own = &self.trial.plan;
        let mut plan = Plan {
            name: format!("{}, {new}", own.name),
            sow_planned: None,
            ..(**own).clone()
        };
        plan.rack.starts.clear();
        plan
    }

    /// As many units as the plan has room for, or as many as were asked for.
    fn with_units(&self, plan: Plan, units: usize) -> Option<Plan> {
        let rack = plan
            .rack
            .with_units(units.max(self.units()), plan.treatments())?;
        Some(Plan { rack, ..plan })
    }

    /// The same without what stood in its way.
    fn mended(&self) -> Option<Suggestion> {
        let bad = |f: &&Finding| f.severity >= Severity::Serious;
        let few = self
            .findings
            .iter()
            .filter(bad)
            .find(|f| TOO_FEW.contains(&f.code));
        let undealt = self
            .findings
            .iter()
            .filter(bad)
            .find(|f| f.code == "not_dealt_at_random");
        let first = few.or(undealt)?;
        let units = self.settles().unwrap_or(0).clamp(MENDED_UNITS, MOST_WORTH);
        let plan = self.that_sees(self.with_units(
            self.plan("dealt anew"),
            if few.is_some() { units } else { 1 },
        )?)?;
        // As many, dealt as they were, mend nothing.
        if undealt.is_none() && plan.rack.dealt_each(plan.treatments()) <= self.units() {
            return None;
        }
        let units = plan.rack.dealt_each(plan.treatments());
        let title = format!(
            "The same, dealt by lot, with {} of each treatment",
            self.counted(units)
        );
        self.suggestion(
            "mended",
            title,
            format!("{}: {}", first.title, first.seen),
            "What this trial could not show.",
            plan,
        )
    }

    /// Where several things differed: the first of them alone.
    fn one_thing_only(&self) -> Option<Suggestion> {
        let Differences::Several { factors } = self.trial.plan.sheet.differences() else {
            return None;
        };
        let (first, others) = factors.split_first()?;
        let control = self.trial.plan.sheet.control()?;
        let base = self.trial.plan.sheet.treatments[control].clone();
        let mut plan = self.plan(&format!("{first} alone"));
        let before = plan.sheet.clone();
        for own in plan.sheet.treatments.iter_mut().filter(|t| !t.control) {
            *own = only(&base, own, first);
        }
        // Those that were told apart by something else are one now.
        let mut kept: Vec<SheetTreatment> = Vec::new();
        for own in std::mem::take(&mut plan.sheet.treatments) {
            if !kept
                .iter()
                .any(|k| k.conditions == own.conditions && k.applications == own.applications)
            {
                kept.push(own);
            }
        }
        plan.sheet.treatments = kept;
        plan.sheet.follow_names(&before);
        plan.sheet.check().ok()?;
        plan.rack.numbers.clear();
        let plan = self.with_units(plan, MENDED_UNITS)?;
        let why = format!(
            "{first} and {} differed at once, so that nobody can say which of them did it.",
            and(others)
        );
        let teaches = format!("Whether {first} does it by itself.");
        self.suggestion(
            "one_thing",
            format!("The same with one thing changed: {first}"),
            why,
            &teaches,
            plan,
        )
    }

    /// Enough units to settle what stayed open.
    fn repeated(&self) -> Option<Suggestion> {
        let (open, needed) = (self.open(), self.settles()?);
        if needed > MOST_WORTH {
            return None;
        }
        let plan = self.with_units(self.plan("repeated"), needed)?;
        let names: Vec<&str> = open.iter().map(|c| c.treatment.as_str()).collect();
        let control = &open.first()?.versus;
        let why = format!("{} could not be told from {control}.", and(&names));
        let units = plan.rack.dealt_each(plan.treatments());
        let title = format!("The same with {} of each treatment", self.counted(units));
        self.suggestion(
            "repeat",
            title,
            why,
            "Whether there is a difference that matters.",
            plan,
        )
    }

    /// Other treatments that may be the best as well as this one.
    fn tied_with(&self, name: &str) -> Vec<&str> {
        if !self.may_be_best.iter().any(|own| own == name) {
            return Vec::new();
        }
        self.may_be_best
            .iter()
            .map(String::as_str)
            .filter(|own| *own != name)
            .collect()
    }

    /// Only those that tie for the first place, in all the room.
    fn tied(&self) -> Option<Suggestion> {
        let best = self.winners().into_iter().next()?;
        let tied = self.tied_with(&best.treatment);
        let behind = |t: &&SheetTreatment| !t.control && !self.may_be_best.contains(&t.name);
        if tied.is_empty()
            || self
                .trial
                .plan
                .sheet
                .treatments
                .iter()
                .filter(behind)
                .count()
                == 0
        {
            return None;
        }
        let mut plan = self.plan("only the best");
        plan.sheet
            .treatments
            .retain(|t| t.control || self.may_be_best.contains(&t.name));
        plan.rack.numbers.clear();
        plan.ask.goal = Goal::Best;
        let plan = self.that_sees(plan)?;
        let title = format!(
            "Only what ties for the first place: {}",
            and(self.may_be_best)
        );
        let why = format!("{} could not be told from {}.", and(&tied), best.treatment);
        self.suggestion(
            "tied",
            title,
            why,
            "Which of them is ahead by what would matter, or that none is.",
            plan,
        )
    }

    /// Between a dose that won (or one that fell short) and the one below or above it.
    fn dose_between(&self) -> Option<Suggestion> {
        let sheet = &self.trial.plan.sheet;
        let control = &sheet.treatments[sheet.control()?];
        let short = |c: &&Contrast| c.verdict == Verdict::NotGoodEnough;
        let told = self
            .winners()
            .into_iter()
            .next()
            .or_else(|| self.analysis.contrasts.iter().find(short))?;
        let own = &sheet.treatments[sheet.named(&told.treatment)?];
        let (role, what, from, to) = dose(control, own)?;
        let middle = 0.5 * (from.figure()? + to.figure()?);
        let (least, most) = (
            from.figure()?.min(to.figure()?),
            from.figure()?.max(to.figure()?),
        );
        let tried = sheet
            .treatments
            .iter()
            .filter_map(|t| amount(t, role, &what)?.figure());
        if tried
            .filter(|d| *d > least + 1e-9 && *d < most - 1e-9)
            .count()
            > 0
            || most - least < 1e-9
        {
            return None;
        }
        let plan = self.with_dose(role, &what, middle, "a dose between")?;
        let said = self.dose_said(&to, middle);
        let title = format!("A dose between: {said} of {what}");
        let (why, teaches) = if told.verdict == Verdict::NotGoodEnough {
            let why = format!("{} fell short of {}.", told.treatment, told.versus);
            (
                why,
                format!("Whether {said} is enough where {} was not.", told.treatment),
            )
        } else {
            let why = format!(
                "{} was better than {}; nobody tried less of it.",
                told.treatment, told.versus
            );
            (
                why,
                "Whether less does as well, which would save the rest.".to_owned(),
            )
        };
        self.suggestion("between", title, why, &teaches, plan)
    }

    /// Up to the dose on the label, where less of it did nothing.
    fn stronger(&self) -> Option<Suggestion> {
        let sheet = &self.trial.plan.sheet;
        let control = &sheet.treatments[sheet.control()?];
        if !self.winners().is_empty() || self.trial.plan.ask.goal == Goal::Match {
            return None;
        }
        let weak = |c: &&Contrast| {
            matches!(
                c.verdict,
                Verdict::Same | Verdict::CannotTell | Verdict::Better
            )
        };
        let doses = self.analysis.contrasts.iter().filter(weak).filter_map(|c| {
            let own = &sheet.treatments[sheet.named(&c.treatment)?];
            let (role, what, from, to) = dose(control, own)?;
            let Amount::OfLabel(share) = to else {
                return None;
            };
            (share > from.figure()? && share < 1.0).then_some((share, role, what, c))
        });
        let (share, role, what, told) = doses.max_by(|a, b| a.0.total_cmp(&b.0))?;
        // Somebody tried the whole of it already.
        let whole = |t: &SheetTreatment| matches!(amount(t, role, &what), Some(Amount::OfLabel(share)) if share >= 1.0);
        if sheet.treatments.iter().any(whole) {
            return None;
        }
        let plan = self.with_dose(role, &what, 1.0, "the label dose")?;
        let why = format!(
            "{} is {} of the label dose, and it showed no difference from {}.",
            told.treatment,
            percent(100.0 * share),
            told.versus
        );
        let title = format!("The whole label dose of {what}");
        self.suggestion(
            "stronger",
            title,
            why,
            "Whether it does anything at the dose it is sold for.",
            plan,
        )
    }

    /// Less again, where less did as well.
    fn still_less(&self) -> Option<Suggestion> {
        let sheet = &self.trial.plan.sheet;
        let control = &sheet.treatments[sheet.control()?];
        if self.trial.plan.ask.goal != Goal::Match {
            return None;
        }
        let did = |c: &&Contrast| matches!(c.verdict, Verdict::GoodEnough | Verdict::Same);
        let doses = self.analysis.contrasts.iter().filter(did).filter_map(|c| {
            let own = &sheet.treatments[sheet.named(&c.treatment)?];
            let (role, what, from, to) = dose(control, own)?;
            let dose = to
                .figure()
                .filter(|d| *d > 0.0 && *d < from.figure().unwrap_or(0.0))?;
            Some((dose, role, what, to, c))
        });
        let (dose, role, what, to, told) = doses.min_by(|a, b| a.0.total_cmp(&b.0))?;
        let plan = self.with_dose(role, &what, 0.5 * dose, "less again")?;
        let said = self.dose_said(&to, 0.5 * dose);
        let why = format!("{} did as well as {}.", told.treatment, told.versus);
        let title = format!("Less again: {said} of {what}");
        self.suggestion(
            "less",
            title,
            why,
            "How far it can go down before it costs harvest.",
            plan,
        )
    }

    /// The winner on another variety, where something was decided.
    fn another_variety(&self) -> Option<Suggestion> {
        let decided = || {
            self.analysis
                .contrasts
                .iter()
                .find(|c| c.verdict != Verdict::CannotTell)
        };
        let told = self.winners().into_iter().next().or_else(decided)?;
        if self.trial.plan.ask.crop.trim().is_empty() || self.belief == Belief::DoNotAct {
            return None;
        }
        let mut plan = self.plan("another variety");
        plan.ask.crop = format!("another variety of {}", self.trial.plan.ask.crop.trim());
        let plan = self.that_sees(plan)?;
        let why = format!(
            "What {} did was seen on one crop: {}.",
            told.treatment,
            self.trial.plan.ask.crop.trim()
        );
        self.suggestion(
            "variety",
            "The same on another variety".into(),
            why,
            "Whether it holds beyond this one.",
            plan,
        )
    }

    /// The same again, at another time.
    fn once_more(&self) -> Option<Suggestion> {
        let stuck = self
            .open()
            .iter()
            .any(|c| matches!(c.doubt, Some(Doubt::OneUnit | Doubt::NoSpread)));
        if self.analysis.contrasts.is_empty() || stuck {
            return None;
        }
        let plan = self.with_units(self.plan("once more"), self.units())?;
        let why = "One round at one time can be a fluke of that time; two that agree are believed."
            .to_owned();
        self.suggestion(
            "once_more",
            "The same once more".into(),
            why,
            "Whether it comes out the same again.",
            plan,
        )
    }

    /// The control, the treatments that were told, and one with so much of something.
    fn with_dose(&self, role: Role, what: &str, dose: f64, new: &str) -> Option<Plan> {
        let mut plan = self.plan(new);
        let own = plan
            .sheet
            .treatments
            .iter()
            .find(|t| !t.control && amount(t, role, what).is_some())?
            .clone();
        let mut added = own;
        for a in added
            .applications
            .iter_mut()
            .filter(|a| a.role == role && a.what.trim() == what)
        {
            a.amount = with_figure(a.amount, dose)?;
        }
        let before = plan.sheet.clone();
        added.name = String::new();
        plan.sheet.treatments.push(added);
        plan.sheet.follow_names(&before);
        plan.sheet.check().ok()?;
        plan.rack.numbers.clear();
        plan.ask.seeks = Seeks::Verdicts;
        self.that_sees(plan)
    }

    /// With the fewest units, and no fewer than there were, that would see what would matter; with
    /// as many as there were where that takes too many, or nobody can say.
    fn that_sees(&self, plan: Plan) -> Option<Plan> {
        let Margin::Percent(matters) = plan.ask.margin else {
            return self.with_units(plan, self.units());
        };
        let least = self.units().max(plan.rack.dealt_each(plan.treatments()));
        let enough = (least..=MOST_WORTH).find_map(|units| {
            let own = self.with_units(plan.clone(), units)?;
            let seen = sees_percent(&Trial::planned(String::new(), own.clone()), self.cv_percent)?;
            (seen <= matters).then_some(own)
        });
        enough.or_else(|| self.with_units(plan, least))
    }

    fn dose_said(&self, of: &Amount, dose: f64) -> String {
        match of {
            Amount::OfLabel(_) => format!("{} of the label dose", percent(100.0 * dose)),
            other => format!("{} {}", trimmed(dose), other.unit()),
        }
    }
}

/// A treatment that has one factor of its own, and all else of the control.
fn only(control: &SheetTreatment, own: &SheetTreatment, factor: &str) -> SheetTreatment {
    let mut made = SheetTreatment {
        control: false,
        name: own.name.clone(),
        ..control.clone()
    };
    for (key, value) in &own.conditions {
        if conditions::find(key).is_some_and(|c| c.factor == factor) {
            made.set(key, value.clone());
        }
    }
    for role in Role::ALL {
        if role.name() == factor {
            made.applications.retain(|a| a.role != role);
            made.applications
                .extend(own.applications.iter().filter(|a| a.role == role).cloned());
        }
    }
    made.applications.sort_by_key(|a| a.role);
    made
}

/// How much a treatment gets of something.
fn amount(of: &SheetTreatment, role: Role, what: &str) -> Option<Amount> {
    of.applications
        .iter()
        .find(|a| a.role == role && a.what.trim().eq_ignore_ascii_case(what))
        .map(|a| a.amount)
}

fn with_figure(amount: Amount, figure: f64) -> Option<Amount> {
    match amount {
        Amount::OfLabel(_) => Some(Amount::OfLabel(figure)),
        Amount::PerLitre(_) => Some(Amount::PerLitre(figure)),
        Amount::PerUnit(_) => Some(Amount::PerUnit(figure)),
        Amount::PerSite(_) => Some(Amount::PerSite(figure)),
        Amount::Undiluted => None,
    }
}

/// What two treatments differ in, where that is how much they get of one thing: what it is, how
/// much the one gets and how much the other.
fn dose(one: &SheetTreatment, other: &SheetTreatment) -> Option<(Role, String, Amount, Amount)> {
    if one.conditions != other.conditions {
        return None;
    }
    let mut named: Vec<(Role, String)> = Vec::new();
    for a in one.applications.iter().chain(&other.applications) {
        let key = (a.role, a.what.trim().to_owned());
        if !named
            .iter()
            .any(|(role, what)| *role == key.0 && what.eq_ignore_ascii_case(&key.1))
        {
            named.push(key);
        }
    }
    let mut apart = named.into_iter().filter_map(|(role, what)| {
        let (a, b) = (amount(one, role, &what), amount(other, role, &what));
        let none = |of: Option<Amount>, like: Amount| of.or_else(|| with_figure(like, 0.0));
        let (a, b) = (none(a, b.or(a)?)?, none(b, a.or(b)?)?);
        (a != b).then_some((role, what, a, b))
    });
    let first = apart.next()?;
    let alike = std::mem::discriminant(&first.2) == std::mem::discriminant(&first.3);
    (apart.next().is_none() && alike).then_some(first)
}

fn percent(value: f64) -> String {
    format!(
        "{} %",
        iron_twin_judge::wording::trimmed(value, if value < 10.0 { 1 } else { 0 })
    )
}

fn trimmed(value: f64) -> String {
    iron_twin_judge::wording::figure(value)
}

#[cfg(test)]
#[path = "next_trial_tests.rs"]
mod tests;
