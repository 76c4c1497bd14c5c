//! What was given: rounds by code with their exceptions, what single units and treatments got, what
//! each has really received, and the jugs from which others feed without the key.

use crate::access::Who;
use crate::app::App;
use crate::clock::{days_late, today};
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, State};
use iron_twin_core::catalogue::deeds::Job;
use iron_twin_core::tend::given::{giving_jobs, missed};
use iron_twin_core::tend::jugs::{Jug, jugs};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::application::How;
use iron_twin_core::trial::received::UnitReceived;
use iron_twin_core::trial::record::giving::{Gift, Giving, Portion, PortionUnit, Recipient};
use iron_twin_core::trial::records::{RecordHead, Recorded};
use iron_twin_store::Farm;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use serde::Serialize;
use std::collections::BTreeMap;
use utoipa::ToSchema;

/// When something was done and entered, and by whom.
#[derive(Serialize, ToSchema)]
pub(crate) struct EntryHead {
    /// Days since sowing.
    day: u32,
    /// When it was done (RFC 3339).
    at: String,
    /// When it was entered (RFC 3339).
    entered_at: String,
    /// By so many dates of the farm's calendar it was entered later than done.
    late: u32,
    /// Who entered it.
    who: String,
}

fn head(of: &RecordHead, farm: &Farm) -> EntryHead {
    EntryHead {
        day: of.day,
        at: of.at.to_string(),
        entered_at: of.entered_at.to_string(),
        late: days_late(farm, of.at, of.entered_at),
        who: of.who.to_string(),
    }
}

/// A round of giving, for all units.
#[derive(Serialize, ToSchema)]
pub(crate) struct GivingRound {
    /// When, by whom.
    #[serde(flatten)]
    head: EntryHead,
    /// What kind of work.
    job: Job,
    /// Of the water or the solution each unit got, mL; null where it was as planned.
    ml_a_unit: Option<f64>,
    /// Why it was left out; null where it was done.
    skipped: Option<String>,
}

/// Whether something was given as the plan has it, otherwise, or not.
#[derive(Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub(crate) enum GiftView {
    /// What the plan has.
    AsPlanned,
    /// Something of its own.
    Own(Portion),
    /// Nothing, for this reason.
    Withheld(String),
}

/// What was given to single units or a treatment, or withheld from them.
#[derive(Serialize, ToSchema)]
pub(crate) struct SingleGiving {
    /// When, by whom.
    #[serde(flatten)]
    head: EntryHead,
    /// What kind of work.
    job: Job,
    /// To whom, in words: a code, `jug 2`, the treatment's name where that may be told.
    to: String,
    /// What.
    gift: GiftView,
}

/// Work of one kind, as some units have received it.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReceivedWork {
    /// What kind of work.
    job: Job,
    /// In the grower's words.
    label: &'static str,
    /// The days, one for each time.
    days: Vec<u32>,
    /// The longest stretch between two times, days; null before the second.
    longest_gap: Option<u32>,
}

/// All of one thing that each of some units has received.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReceivedTotal {
    /// What.
    what: String,
    /// How it was given.
    how: How,
    /// So often.
    times: usize,
    /// All together for each unit; null where nobody measured it.
    amount: Option<f64>,
    /// Of what that counts.
    unit: PortionUnit,
}

/// Something that some units went without.
#[derive(Serialize, ToSchema)]
pub(crate) struct WithheldView {
    /// Days since sowing.
    day: u32,
    /// What kind of work.
    job: Job,
    /// Why.
    why: String,
}

/// Units that have received the same.
#[derive(Serialize, ToSchema)]
pub(crate) struct ReceivedRow {
    /// Their codes.
    codes: Vec<String>,
    /// Their treatment; null where it may not be told.
    treatment: Option<TreatmentIndex>,
    /// What they got, by kind of work.
    work: Vec<ReceivedWork>,
    /// What that comes to; empty while the plan's portions may not be told and nothing else was
    /// given.
    totals: Vec<ReceivedTotal>,
    /// What they did not get.
    withheld: Vec<WithheldView>,
}

/// Work that fell due and of which nothing is on record.
#[derive(Serialize, ToSchema)]
pub(crate) struct MissedWork {
    /// What kind of work.
    job: Job,
    /// In the grower's words.
    label: &'static str,
    /// The days on which it fell due.
    days: Vec<u32>,
}

/// A kind of work by which something is given.
#[derive(Serialize, ToSchema)]
pub(crate) struct GivingJob {
    /// What kind of work.
    job: Job,
    /// In the grower's words.
    label: &'static str,
}

/// What was given in a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct GivenView {
    /// Day it is; null before the sowing.
    today: Option<u32>,
    /// Kinds of work by which something is given in this trial.
    jobs: Vec<GivingJob>,
    /// Rounds for all, newest first.
    rounds: Vec<GivingRound>,
    /// What single units and treatments got or did not get, newest first.
    singles: Vec<SingleGiving>,
    /// What each unit has received: units that have received the same stand together, the largest
    /// group first.
    received: Vec<ReceivedRow>,
    /// Work that fell due and of which nothing is on record.
    missed: Vec<MissedWork>,
    /// The jugs; null where who asks may not know which codes are filled from one.
    jugs: Option<Vec<Jug>>,
    /// Whether the jugs were given out to everybody who records.
    jugs_given_out: bool,
    /// What is given by the plan and what has been given, to choose from; empty where it may not be
    /// told.
    known: Vec<String>,
}

fn gaps(days: &[u32]) -> Option<u32> {
    days.windows(2).map(|two| two[1] - two[0]).max()
}

fn row(of: &UnitReceived, codes: Vec<String>, treatment: Option<TreatmentIndex>) -> ReceivedRow {
    let jobs: std::collections::BTreeSet<Job> = of.gifts.iter().map(|g| g.job).collect();
    let work = jobs.into_iter().map(|job| {
        let days: Vec<u32> = of.days(job).collect();
        ReceivedWork {
            job,
            label: job.label(),
            longest_gap: gaps(&days),
            days,
        }
    });
    let mut totals: Vec<ReceivedTotal> = Vec::new();
    for portion in of.gifts.iter().filter_map(|g| g.portion.as_ref()) {
        let alike = |t: &&mut ReceivedTotal| {
            t.what == portion.what
                && t.how == portion.how
                && (t.amount.is_none() || t.unit == portion.unit)
        };
        match totals.iter_mut().find(alike) {
            Some(own) => {
                own.times += 1;
                own.amount = match (own.amount, portion.amount) {
                    (Some(a), Some(b)) => Some(a + b),
                    _ => None,
                };
            }
            None => totals.push(ReceivedTotal {
                what: portion.what.clone(),
                how: portion.how,
                times: 1,
                amount: portion.amount,
                unit: portion.unit,
            }),
        }
    }
    let withheld = of.withheld.iter().map(|w| WithheldView {
        day: w.day,
        job: w.job,
        why: w.why.clone(),
    });
    ReceivedRow {
        codes,
        treatment,
        work: work.collect(),
        totals,
        withheld: withheld.collect(),
    }
}

/// Units that have received the same, together; those of two treatments apart, once that may be
/// told.
fn rows(trial: &Trial) -> Vec<ReceivedRow> {
    let told = trial.tells_deal();
    let mut groups: Vec<(UnitReceived, Option<TreatmentIndex>, Vec<UnitIndex>)> = Vec::new();
    for (i, unit) in trial
        .each_unit()
        .filter(|(_, u)| trial.is_now(u) || trial.reveal.is_some())
    {
        let own = (trial.received(i, told), told.then_some(unit.treatment));
        match groups
            .iter_mut()
            .find(|(of, t, _)| *of == own.0 && *t == own.1)
        {
            Some((_, _, units)) => units.push(i),
            None => groups.push((own.0, own.1, vec![i])),
        }
    }
    groups.sort_by_key(|(_, treatment, units)| (*treatment, std::cmp::Reverse(units.len())));
    let codes = |units: Vec<UnitIndex>| {
        units
            .into_iter()
            .map(|i| trial.units[i].code.clone())
            .collect()
    };
    groups
        .into_iter()
        .map(|(of, treatment, units)| row(&of, codes(units), treatment))
        .collect()
}

/// To whom something was given, as somebody may be told.
fn to_words(trial: &Trial, to: Recipient, who: &Who, jugs: Option<&[Jug]>) -> String {
    match to {
        Recipient::All => "all".into(),
        Recipient::Unit(unit) => trial.units[unit].code.clone(),
        Recipient::Treatment(t) if who.sees_key() || trial.reveal.is_some() => trial
            .plan
            .sheet
            .get(t)
            .map_or_else(String::new, |own| own.name.clone()),
        Recipient::Treatment(t) => {
            let jug = jugs.and_then(|all| all.iter().find(|jug| jug.treatment == t));
            jug.map_or_else(|| "a treatment".into(), |jug| format!("jug {}", jug.number))
        }
    }
}

fn single(
    trial: &Trial,
    of: &Recorded<Giving>,
    who: &Who,
    jugs: Option<&[Jug]>,
    farm: &Farm,
) -> SingleGiving {
    // What a treatment got by name says what it is.
    let sealed = matches!(of.whom(), Some(Recipient::Treatment(_)))
        && !who.sees_key()
        && trial.reveal.is_none();
    let gift = match &of.gift {
        Gift::AsPlanned => GiftView::AsPlanned,
        // Lot and batch are in the grower's own words, which may name it as well.
        Gift::Own(portion) if sealed => GiftView::Own(Portion {
            what: "sealed".into(),
            lot: String::new(),
            batch: String::new(),
            ..portion.clone()
        }),
        Gift::Own(portion) => GiftView::Own(portion.clone()),
        Gift::Withheld(why) => GiftView::Withheld(why.clone()),
    };
    let to = of
        .whom()
        .map_or_else(String::new, |to| to_words(trial, to, who, jugs));
    SingleGiving {
        head: head(&of.head, farm),
        job: of.job,
        to,
        gift,
    }
}

/// What may be chosen as given: what the plan has, and what has been given.
fn known(trial: &Trial) -> Vec<String> {
    let planned = trial
        .plan
        .sheet
        .treatments
        .iter()
        .flat_map(|t| &t.applications)
        .filter(|a| !a.is_nothing());
    let given = trial
        .records
        .givings()
        .iter()
        .filter_map(|g| match &g.gift {
            Gift::Own(portion) => Some(portion.what.as_str()),
            _ => None,
        });
    let all = planned
        .map(|a| a.what.trim())
        .chain(given)
        .chain(std::iter::once("plain water"));
    // Told apart whatever their case, in the spelling first met.
    let mut found: BTreeMap<String, String> = BTreeMap::new();
    all.for_each(|name| {
        _ = found
            .entry(name.to_lowercase())
            .or_insert_with(|| name.to_owned())
    });
    found.into_values().collect()
}

/// Records that are wanted, the latest first.
fn latest<R>(all: &[Recorded<R>], is_wanted: impl Fn(&Recorded<R>) -> bool) -> Vec<&Recorded<R>> {
    let mut list: Vec<_> = all.iter().filter(|r| is_wanted(r)).collect();
    list.sort_by_key(|r| std::cmp::Reverse((r.head.at, r.head.entered_at)));
    list
}

fn view(trial: &Trial, who: &Who, farm: &Farm) -> GivenView {
    let today = trial.day(today(farm));
    let jugs = (who.sees_key() || trial.jugs_given_out || trial.reveal.is_some())
        .then(|| jugs(trial, today));
    let jobs = giving_jobs(trial);
    let label = |job: Job| job.label();
    let now = |head: &RecordHead| head.round == trial.round || trial.reveal.is_some();
    let rounds = latest(trial.records.work(), |w| w.job.is_giving() && now(&w.head));
    let singles = latest(trial.records.givings(), |g| now(&g.head));
    let until = today
        .filter(|_| trial.deal.is_some())
        .map(|t| trial.ended_on().unwrap_or(t));
    let missing = |&job: &Job| MissedWork {
        job,
        label: label(job),
        days: until.map_or_else(Vec::new, |until| missed(trial, job, until)),
    };
    GivenView {
        today,
        missed: jobs
            .iter()
            .map(missing)
            .filter(|m| !m.days.is_empty())
            .collect(),
        jobs: jobs
            .into_iter()
            .map(|job| GivingJob {
                job,
                label: label(job),
            })
            .collect(),
        rounds: rounds
            .into_iter()
            .map(|w| GivingRound {
                head: head(&w.head, farm),
                job: w.job,
                ml_a_unit: w.ml_a_unit,
                skipped: w.skipped.clone(),
            })
            .collect(),
        singles: singles
            .into_iter()
            .map(|g| single(trial, g, who, jugs.as_deref(), farm))
            .collect(),
        received: if trial.deal.is_some() {
            rows(trial)
        } else {
            Vec::new()
        },
        jugs,
        jugs_given_out: trial.jugs_given_out,
        known: if who.sees_key() || trial.reveal.is_some() {
            known(trial)
        } else {
            Vec::new()
        },
    }
}

/// What was given, and what each unit has received.
#[utoipa::path(
    get,
    operation_id = "given_get",
    path = "/trials/{id}/given",
    params(("id" = String, Path)),
    responses((status = 200, body = GivenView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<GivenView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Ok(Json(view(&trial, &who, &store.farm()?)))
    })
    .await
}

/// Gives out the jugs: everybody who records sees from here on which codes are filled from one, and
/// not what is in it.
#[utoipa::path(
    post,
    operation_id = "given_jugs",
    path = "/trials/{id}/jugs",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = GivenView),
        (status = 403, body = Problem),
        (status = 409, body = Problem),
    ),
)]
pub(crate) async fn give_out_jugs(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<Json<GivenView>, Problem> {
    app.run(move |store| {
        who.unless_sealed(&*store.trial(&id)?)?;
        store.give_out_jugs(&sent.stamp, &id)?;
        let trial = store.trial(&id)?;
        Ok(Json(view(&trial, &who, &store.farm()?)))
    })
    .await
}
