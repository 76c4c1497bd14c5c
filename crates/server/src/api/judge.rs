//! Judge: sealed until the key is opened; then every treatment against the control.

use crate::api::trials::current;
use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use crate::figures::Figures;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_core::ask::lacks::lacks;
use iron_twin_core::catalogue::measures;
use iron_twin_core::catalogue::measures::Measure;
use iron_twin_core::mix::spent::{Bench, Spent, spent};
use iron_twin_core::stores::Stores;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::question::Judged;
use iron_twin_core::trial::records::CropNumber;
use iron_twin_core::verdict::by_crop::{CropEffect, crop_effects};
use iron_twin_core::verdict::comparison::decided_by;
use iron_twin_core::verdict::design::{columns_tell, has_blocks};
use iron_twin_core::verdict::efficacy::{Efficacy, efficacies};
use iron_twin_core::verdict::figures::dots as dots_of;
use iron_twin_core::verdict::gone::{Gone, gone};
use iron_twin_core::verdict::pictures::{Picture, pictures};
use iron_twin_core::weigh::courses::{Course, ahead, courses};
use iron_twin_judge::crops::agreement as agreement_said;
use iron_twin_judge::result::{Analysis, DoseOut, FactorsOut};
use iron_twin_judge::secondary::beside_one_another;
use iron_twin_terms::goal::{Better, Goal};
use iron_twin_terms::indices::TreatmentIndex;
use iron_twin_terms::kind::Kind;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// One unit as a dot.
#[derive(Serialize, ToSchema)]
pub(crate) struct Dot {
    /// Blind code.
    code: String,
    /// Level, 1 the lowest.
    level: u32,
    /// What its block is called; null where units are compared over the whole rack.
    block: Option<String>,
    /// Index of the treatment; null until the reveal.
    treatment: Option<TreatmentIndex>,
    /// Value in the measure's unit.
    value: f64,
}

/// The Judge station.
#[derive(Serialize, ToSchema)]
pub(crate) struct JudgeView {
    /// Measure shown.
    measure: Measure,
    /// Keys of the measures that have figures; the first is primary.
    measures: Vec<JudgedView>,
    /// Day on which the measure shown is judged; null for its last figure.
    day: Option<u32>,
    /// Every unit.
    dots: Vec<Dot>,
    /// Units that have what decides, whatever the measure shown.
    weighed: usize,
    /// Null until the reveal.
    analysis: Option<Analysis>,
    /// Number of the crop shown, of those that share a unit; null where a unit holds one.
    crop: Option<CropNumber>,
    /// The verdict on each crop that shares a unit, after the reveal.
    by_crop: Vec<CropVerdict>,
    /// Treatments that lost all their units, and whether that may be luck.
    gone: Vec<Gone>,
    /// What each treatment did on each crop, where levels have crops of their own; without a
    /// verdict of its own.
    crop_effects: Vec<CropEffect>,
    /// Whether the crops agree, in a sentence. Null where that cannot be had.
    agree: Option<String>,
    /// The crop as a factor inside the unit, behind that sentence.
    agreement: Option<FactorsOut>,
    /// How much is enough, where treatments are a ladder of doses.
    dose: Option<DoseOut>,
    /// The command that gives the same from the exported file.
    dose_command: Option<String>,
    /// How much damage each treatment kept away, where less of the measure shown is damage kept
    /// away.
    efficacy: Vec<Efficacy>,
    /// What each treatment's feeds came to on a unit, for what was gained; empty until the reveal.
    spent: Vec<TreatmentSpent>,
    /// Whether opening the key now is an early look: before the planned day, or before all that
    /// stand are recorded.
    early: bool,
    /// Growth, steps of days and doses of the measure shown; empty until the reveal, and where
    /// there are none.
    pictures: Vec<Picture>,
    /// The running yield of each treatment, where the harvest comes in waves; empty until the
    /// reveal.
    courses: Vec<Course>,
    /// By how many days a treatment was ahead of the control, in sentences.
    ahead: Vec<String>,
    /// Why there is no comparison, after the reveal.
    trouble: Option<String>,
    /// The command that gives the same figures from the exported file.
    command: Option<String>,
}

/// A measure as it is judged.
#[derive(Serialize, ToSchema)]
pub(crate) struct JudgedView {
    /// What it is asked for by: `height`, `height@7`.
    id: String,
    /// Key of the measure.
    measure: &'static str,
    /// Day on which it is judged; null for its last figure.
    day: Option<u32>,
    /// Whether it was added after the first record: it may raise a question, and settles none.
    added_midway: bool,
}

impl JudgedView {
    pub(super) fn of(trial: &Trial, judged: Judged) -> Self {
        let key = judged.measure.key;
        Self {
            id: judged.id(),
            measure: key,
            day: judged.day,
            added_midway: trial.is_added_midway(key),
        }
    }
}

/// What a treatment's feeds and additives came to.
#[derive(Serialize, ToSchema)]
pub(crate) struct TreatmentSpent {
    /// Name of the treatment.
    treatment: String,
    /// Feed by feed.
    spent: Vec<Spent>,
}

/// What was spent for what was gained, where an amount was measured.
fn spent_on(
    trial: &Trial,
    analysis: &Analysis,
    measure: &Measure,
    stores: &Stores,
) -> Vec<TreatmentSpent> {
    let bench = Bench {
        stores,
        plan: &trial.plan.feed,
        sites: trial.plan.ask.sites(),
        feedings: trial.feedings(),
        end_day: trial.plan.ask.end_day,
    };
    let index = |name: &str| trial.plan.sheet.named(name);
    let each = analysis.contrasts.iter().filter_map(|c| {
        let (treatment, control) = (index(&c.treatment)?, index(&c.versus)?);
        let gain = if trial.plan.ask.better_of(measure) == Better::Lower {
            -c.estimate
        } else {
            c.estimate
        };
        // A ratio is no gain in grams.
        let gain = Some(gain).filter(|_| analysis.scale == "difference");
        let list = spent(&trial.plan.sheet, (treatment, control), &bench, gain);
        (!list.is_empty()).then(|| TreatmentSpent {
            treatment: c.treatment.clone(),
            spent: list,
        })
    });
    if measure.kind == Kind::Amount {
        each.collect()
    } else {
        Vec::new()
    }
}

/// What was found for one of the crops that share a unit.
#[derive(Serialize, ToSchema)]
pub(crate) struct CropVerdict {
    /// The crop.
    crop: String,
    /// A sentence for each treatment, in the order of the comparisons.
    sentences: Vec<String>,
}

/// Which measure to show, and of which crop.
#[derive(Deserialize, IntoParams)]
pub(crate) struct JudgeQuery {
    /// Index of the treatment that the others are compared with, such as a benchmark; the control
    /// where left out.
    against: Option<TreatmentIndex>,
    /// Number of the crop, from 1, where several share a unit; the first where left out.
    crop: Option<u32>,
    /// Key of the measure; the primary one where left out.
    measure: Option<String>,
}

fn command(trial: &Trial, judged: Judged) -> String {
    let measure = judged.measure;
    if !columns_tell(trial) || measure.kind != Kind::Amount {
        return format!(
            "iron-twin analyse trial.csv --plan trial-plan.json --measure {}",
            judged.column()
        );
    }
    let control = trial
        .plan
        .sheet
        .control()
        .map_or("", |c| trial.plan.sheet.treatments[c].name.as_str());
    let mut words = vec![
        "iron-twin analyse trial.csv".to_owned(),
        format!("--measure {}", judged.column()),
        "--treatment treatment".into(),
        // A quote in a name would end the word.
        format!("--control '{}'", control.replace('\'', "'\\''")),
    ];
    if has_blocks(trial) {
        words.push("--block block".into());
    }
    words.push(format!("--margin {}", trial.plan.ask.margin));
    match trial.plan.ask.goal {
        Goal::Beat => {}
        Goal::Match => words.push("--goal match".into()),
        Goal::Best => words.push("--goal best".into()),
    }
    if trial.plan.ask.better == Better::Lower {
        words.push("--better lower".into());
    }
    if trial.plan.rack.numbers.is_empty() {
        words.push(format!("--expected-units {}", trial.units_each()));
    }
    words.join(" ")
}

/// The verdict on each crop that shares a unit, and whether they agree.
fn crops(
    figures: &Figures,
    trial: &Trial,
    judged: Judged,
) -> (Vec<CropVerdict>, Option<FactorsOut>) {
    let verdict = |(number, crop): (u32, &String)| {
        let sentences = match figures.analysis(trial, judged, CropNumber::new(number), None) {
            Ok(found) => found.contrasts.iter().map(|c| c.sentence.clone()).collect(),
            Err(error) => vec![error.to_string()],
        };
        CropVerdict {
            crop: crop.clone(),
            sentences,
        }
    };
    let by_crop: Vec<CropVerdict> = (1..)
        .zip(&trial.plan.ask.crops_inside)
        .map(verdict)
        .collect();
    let together = !by_crop.is_empty() && decided_by(trial, judged.measure).is_none();
    let agreement = together
        .then(|| {
            figures
                .analysis(trial, judged, None, None)
                .ok()?
                .factors
                .clone()
        })
        .flatten();
    (by_crop, agreement)
}

/// A comparison as it stands among the measures that are looked at beside the one that decides;
/// that one stands alone.
fn among_others(
    figures: &Figures,
    trial: &Trial,
    judged: Judged,
    (crop, against): (Option<CropNumber>, Option<TreatmentIndex>),
    own: &Analysis,
) -> Analysis {
    let others = trial.plan.ask.judged().split_off(1);
    if !others.iter().any(|other| other.id() == judged.id()) {
        return own.clone();
    }
    let (mut secondary, mut place) = (Vec::new(), None);
    for other in &others {
        if let Ok(found) = figures.analysis(trial, *other, crop, against) {
            place = place.or((other.id() == judged.id()).then_some(secondary.len()));
            secondary.push((*found).clone());
        }
    }
    let Some(place) = place else {
        return own.clone();
    };
    beside_one_another(&mut secondary);
    secondary.swap_remove(place)
}

fn view(
    figures: &Figures,
    trial: &Trial,
    stores: &Stores,
    judged: Judged,
    crop: Option<CropNumber>,
    against: Option<TreatmentIndex>,
    day: Option<u32>,
) -> Result<JudgeView, Problem> {
    let (open, measure) = (trial.reveal.is_some(), judged.measure);
    let (by_crop, agreement) = if open {
        crops(figures, trial, judged)
    } else {
        (Vec::new(), None)
    };
    let dots = dots(trial, judged, crop);
    let told = trial
        .plan
        .ask
        .judged()
        .into_iter()
        .filter(|j| dots_of(trial, *j, crop).iter().any(Option::is_some));
    let with_figures: Vec<JudgedView> = told.map(|j| JudgedView::of(trial, j)).collect();
    let (analysis, trouble) = found(figures, trial, judged, (crop, against));
    let enough = figures.dose(trial, judged, crop);
    let lost = gone(trial);
    let yields = if judged.measure.source.is_weighed() {
        courses(trial, crop)
    } else {
        Vec::new()
    };
    Ok(JudgeView {
        early: trial.opens_early(day.unwrap_or(0)),
        measure: *measure,
        measures: with_figures,
        day: judged.day,
        dots,
        weighed: trial
            .each_unit()
            .filter(|(i, u)| u.lost.is_none() && trial.is_recorded(*i))
            .count(),
        command: (analysis.is_some()
            && lost.is_empty()
            && against.is_none()
            && (crop.is_none() || agreement.is_some()))
        .then(|| command(trial, judged)),
        pictures: pictures(trial, judged, crop, enough.as_ref().map(|e| &e.found)),
        dose: enough.as_ref().map(|e| e.found.clone()),
        dose_command: enough.map(|e| e.command.clone()),
        crop,
        by_crop,
        crop_effects: crop_effects(trial, judged),
        gone: lost,
        agree: agreement
            .as_ref()
            .map(|factors| agreement_said(factors, "treatment", measure.unit)),
        agreement,
        efficacy: efficacies(trial, judged, crop),
        ahead: ahead(trial, crop, &yields),
        courses: yields,
        spent: analysis
            .as_ref()
            .map_or_else(Vec::new, |found| spent_on(trial, found, measure, stores)),
        analysis,
        trouble,
    })
}

/// A dot for every unit that has a figure.
fn dots(trial: &Trial, judged: Judged, crop: Option<CropNumber>) -> Vec<Dot> {
    let blocks = trial.plan.rack.block_names(trial.plan.treatments());
    trial
        .units
        .iter()
        .zip(dots_of(trial, judged, crop))
        .filter_map(|(u, value)| {
            let treatment = trial.reveal.is_some().then_some(u.treatment);
            let block = blocks(u.position);
            value.map(|value| Dot {
                code: u.code.clone(),
                level: u.position.level,
                block,
                treatment,
                value,
            })
        })
        .collect()
}

/// The analysis once the key is open, or why there is none.
fn found(
    figures: &Figures,
    trial: &Trial,
    judged: Judged,
    (crop, against): (Option<CropNumber>, Option<TreatmentIndex>),
) -> (Option<Analysis>, Option<String>) {
    let (open, measure) = (trial.reveal.is_some(), judged.measure);
    match open.then(|| figures.analysis(trial, judged, crop, against)) {
        None => (None, None),
        Some(Ok(analysis)) => (
            Some(among_others(
                figures,
                trial,
                judged,
                (crop, against),
                &analysis,
            )),
            None,
        ),
        // Fields of an analysis stand in backquotes, for whoever calls them something else.
        Some(Err(error)) => {
            let why = lacks(trial, measure)
                .map_or_else(|| error.to_string().replace('`', ""), str::to_owned);
            (None, Some(why))
        }
    }
}

/// The measure with this key, on its day where it has one; `height` of a measure with days is the
/// last of them.
fn judged(trial: &Trial, id: &str) -> Result<Judged, Problem> {
    let all = trial.plan.ask.judged();
    if let Some(own) = all
        .iter()
        .find(|j| j.id() == id)
        .or_else(|| all.iter().rev().find(|j| j.measure.key == id))
    {
        return Ok(*own);
    }
    // Measures that this trial does not record have no figures, which is an answer as well.
    let measure = measures::find(id)
        .ok_or_else(|| Problem::not_found(format!("there is no measure '{id}'")))?;
    Ok(Judged { measure, day: None })
}

/// Dots under codes while sealed; the comparison once the key is open.
#[utoipa::path(
    get,
    operation_id = "judge_get",
    path = "/trials/{id}/judge",
    params(("id" = String, Path), JudgeQuery),
    responses((status = 200, body = JudgeView), (status = 404, body = Problem)),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
    Query(query): Query<JudgeQuery>,
) -> Result<Json<JudgeView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let judged = match &query.measure {
            Some(id) => judged(&trial, id)?,
            None => trial.decides(),
        };
        let mut parts = trial.plan.ask.parts();
        let crop = match query.crop {
            Some(number) => CropNumber::new(number),
            None => parts.clone().next().flatten(),
        };
        if !parts.any(|part| part == crop) {
            let number = query.crop.unwrap_or_default();
            return Err(Problem::not_found(format!(
                "there is no crop {number} in a unit of this trial"
            )));
        }
        let control = trial.plan.sheet.control();
        let against = query.against.filter(|t| Some(*t) != control);
        if against.is_some_and(|t| trial.plan.sheet.get(t).is_none()) {
            return Err(Problem::not_found(
                "there is no such treatment to compare with",
            ));
        }
        let day = trial.day(today(&store.farm()?));
        Ok(Json(view(
            &store.figures,
            &trial,
            &store.shelves()?,
            judged,
            crop,
            against,
            day,
        )?))
    })
    .await
}

/// How the key is opened.
#[derive(Deserialize, ToSchema)]
pub(crate) struct RevealSent {
    /// Why it is opened before the end; not wanted once all that stand have what decides and the
    /// planned day has come.
    #[serde(default)]
    reason: String,
}

/// Opens the key for good: records can no longer change. Before the end it takes a reason, which
/// stands in the ledger.
#[utoipa::path(
    post,
    operation_id = "judge_reveal",
    path = "/trials/{id}/reveal",
    params(("id" = String, Path)),
    request_body = Option<RevealSent>,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn reveal(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<RevealSent>>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        let day = store.trial(&id)?.day(today(&store.farm()?)).unwrap_or(0);
        let reason = sent.body.map(|own| own.reason).unwrap_or_default();
        store.reveal(&sent.stamp, &id, day, &reason)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}
