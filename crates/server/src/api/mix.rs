//! Mix: dilutions of the label feed, recorded mixes, and the pouring sheet that tells the key.

use crate::access::Who;
use crate::api::trials::current;
use crate::facts::{day, today};
use crate::sent::Sent;
use crate::view::TrialView;
use crate::{App, Problem};
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use iron_twin_core::chemistry::acid::{Bottle, PhDose, ph_dose};
use iron_twin_core::match_sheet::{Sheet, conditions};
use iron_twin_core::mix::tank::{Tank, ec_question, tank};
use iron_twin_core::mix::{Dilution, FeedPlan, dilution};
use iron_twin_core::stores::{Item, Stores};
use iron_twin_core::tend::schedule::Own;
use iron_twin_store::mix::NewMix;
use iron_twin_store::trial::Trial;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// What to measure out for one treatment, and what was.
#[derive(Serialize, ToSchema)]
pub(crate) struct TreatmentMix {
    /// Index of the treatment.
    treatment: usize,
    /// Its name.
    name: String,
    /// What is dissolved; `none` for plain water.
    feed: String,
    /// What to measure out by the label dose typed at Mix, where Stores do not know the feed.
    dilution: Dilution,
    /// What fills the tank, by the labels in Stores, and what the solution holds.
    tank: Tank,
    /// Recorded mixes, oldest first.
    recorded: Vec<MixView>,
}

/// A recorded mix.
#[derive(Serialize, ToSchema)]
pub(crate) struct MixView {
    /// Litres made.
    volume_l: f64,
    /// mL or g of feed.
    feed_total: f64,
    /// Measured EC, mS/cm at 25 C.
    ec_ms_per_cm: Option<f64>,
    /// Measured pH.
    ph: Option<f64>,
    /// Days since sowing.
    day: u32,
    /// When.
    at: String,
}

/// The bench.
#[derive(Serialize, ToSchema)]
pub(crate) struct MixBench {
    /// The feed as its label gives it.
    feed: FeedPlan,
    /// One entry a treatment, in the order of the sheet.
    treatments: Vec<TreatmentMix>,
}

fn tank_of(trial: &Trial, treatment: usize, stores: &Stores) -> Result<Tank, Problem> {
    tank(&trial.sheet, treatment, stores, &trial.feed, &trial.ask.crop, trial.units_at_once())
        .map_err(|e| Problem::refused("feed", e.to_string()))
}

fn bench(trial: &Trial, stores: &Stores) -> Result<MixBench, Problem> {
    let units = trial.units_at_once();
    let treatments = trial
        .sheet
        .treatments
        .iter()
        .enumerate()
        .map(|(index, treatment)| {
            let feed = trial.sheet.value(index, "feed").unwrap_or(conditions::feed::NONE).to_owned();
            let dose = trial.sheet.value(index, "dose").and_then(|d| d.parse().ok()).unwrap_or(0.0);
            let fraction = if conditions::feed::is_none(&feed) { 0.0 } else { dose };
            let recorded = trial.mixes.iter().filter(|m| m.treatment == index);
            Ok(TreatmentMix {
                treatment: index,
                name: treatment.name.clone(),
                feed,
                dilution: dilution(&trial.feed, fraction, units)
                    .map_err(|e| Problem::refused("dose", e.to_string()))?,
                tank: tank_of(trial, index, stores)?,
                recorded: recorded
                    .map(|m| MixView {
                        volume_l: m.volume_l,
                        feed_total: m.feed_total,
                        ec_ms_per_cm: m.ec_ms_per_cm,
                        ph: m.ph,
                        day: m.day,
                        at: m.at.clone(),
                    })
                    .collect(),
            })
        })
        .collect::<Result<_, Problem>>()?;
    Ok(MixBench { feed: trial.feed.clone(), treatments })
}

/// What to measure out for each treatment.
#[utoipa::path(get, operation_id = "mix_get", path = "/trials/{id}/mix", params(("id" = String, Path)),
    responses((status = 200, body = MixBench), (status = 404, body = Problem)))]
pub(crate) async fn get(State(app): State<App>, who: Who, Path(id): Path<String>) -> Result<Json<MixBench>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        Problem::unless_sealed(&who, &trial)?;
        Ok(Json(bench(&trial, &store.shelves()?)?))
    })
    .await
}

/// The feed as changed.
#[derive(Deserialize, ToSchema)]
pub(crate) struct FeedSent {
    /// The feed.
    feed: FeedPlan,
    /// Version on which the change was made.
    version: i64,
}

/// Sets the feed as its label gives it.
#[utoipa::path(put, operation_id = "mix_put_feed", path = "/trials/{id}/feed", params(("id" = String, Path)), request_body = FeedSent,
    responses((status = 200, body = TrialView), (status = 409, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn put_feed(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<FeedSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_feed(&sent.stamp, &id, &sent.body.feed, sent.body.version)?;
        current(store, &id)
    })
    .await
}

/// A mix as made.
#[derive(Deserialize, ToSchema)]
pub(crate) struct MixSent {
    /// Index of the treatment.
    treatment: usize,
    /// Litres made.
    volume_l: f64,
    /// mL or g of feed measured out.
    feed_total: f64,
    /// Measured EC, mS/cm at 25 C.
    ec_ms_per_cm: Option<f64>,
    /// Measured pH.
    ph: Option<f64>,
    /// Whether an unlikely value was confirmed.
    #[serde(default)]
    confirmed: bool,
}

/// Records a mix.
#[utoipa::path(post, operation_id = "mix_record", path = "/trials/{id}/mixes", params(("id" = String, Path)), request_body = MixSent,
    responses((status = 201), (status = 422, body = Problem)))]
pub(crate) async fn record(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<MixSent>,
) -> Result<StatusCode, Problem> {
    app.run(move |store| {
        let day = day(&store.trial(&id)?, today(&store.farm()?)).unwrap_or(0);
        let MixSent { treatment, volume_l, feed_total, ec_ms_per_cm, ph, confirmed } = sent.body;
        let trial = store.trial(&id)?;
        // What the meter says is held against what the recipe gives.
        if let (Some(measured), false) = (ec_ms_per_cm, confirmed)
            && treatment < trial.sheet.treatments.len()
            && let Some(solution) = tank_of(&trial, treatment, &store.shelves()?)?.solution
            && let Some(question) = ec_question(measured, solution.conductivity_ms_per_cm.at_25c)
        {
            return Err(iron_twin_store::StoreError::Unlikely { message: question }.into());
        }
        let mix = NewMix { treatment, volume_l, feed_total, ec_ms_per_cm, ph, day, confirmed };
        store.record_mix(&sent.stamp, &id, &mix)?;
        Ok(StatusCode::CREATED)
    })
    .await
}

/// Which trays get a solution.
#[derive(Serialize, ToSchema)]
pub(crate) struct Pour {
    /// Name of the treatment.
    treatment: String,
    /// mL for each tray.
    ml_a_unit: f64,
    /// Whether it is its turn today, where treatments are given on days of their own.
    today: bool,
    /// What it gets otherwise than others, condition by condition.
    differs: Vec<String>,
    /// Codes of its trays, in walking order.
    codes: Vec<String>,
}

/// Whether a treatment is given what it gets today: on its own days, else with all.
fn its_turn(sheet: &Sheet, treatment: usize, day: Option<u32>) -> bool {
    let own = sheet.value(treatment, "given_on").map(Own::days).unwrap_or_default();
    own.is_empty() || day.is_some_and(|d| own.contains(&d))
}

/// Opens the pouring sheet, which tells the key; the opening is logged and shown in the ledger.
#[utoipa::path(post, operation_id = "mix_pouring_sheet", path = "/trials/{id}/pouring-sheet", params(("id" = String, Path)),
    responses((status = 200, body = Vec<Pour>), (status = 409, body = Problem)))]
pub(crate) async fn pouring_sheet(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<Json<Vec<Pour>>, Problem> {
    app.run(move |store| {
        store.open_pouring_sheet(&sent.stamp, &id)?;
        let trial = store.trial(&id)?;
        let walk = crate::view::walk(&trial);
        let mut order: Vec<usize> = (0..trial.units.len()).collect();
        order.sort_by_key(|&i| walk[i]);
        let now = day(&trial, today(&store.farm()?));
        let sheet = trial.sheet.treatments.iter().enumerate().map(|(t, treatment)| Pour {
            treatment: treatment.name.clone(),
            ml_a_unit: trial.feed.ml_a_unit,
            today: its_turn(&trial.sheet, t, now),
            differs: trial.sheet.differing(t),
            codes: order
                .iter()
                .filter(|&&i| {
                    let unit = &trial.units[i];
                    unit.treatment == t && unit.lost.is_none() && trial.is_now(unit)
                })
                .map(|&i| trial.units[i].code.clone())
                .collect(),
        });
        Ok(Json(sheet.collect()))
    })
    .await
}

/// A bottle, and the pH that is wanted.
#[derive(Deserialize, ToSchema)]
pub(crate) struct PhSent {
    /// Name of the water in Stores.
    water: String,
    /// The bottle.
    bottle: Bottle,
    /// pH wanted.
    target_ph: f64,
}

/// How much of a bottle of acid or base takes a water of Stores to a pH.
#[utoipa::path(post, operation_id = "mix_ph", path = "/ph-dose", request_body = PhSent,
    responses((status = 200, body = PhDose), (status = 404, body = Problem), (status = 422, body = Problem)))]
pub(crate) async fn ph(State(app): State<App>, sent: Sent<PhSent>) -> Result<Json<PhDose>, Problem> {
    app.run(move |store| {
        let shelves = store.shelves()?;
        let water = shelves
            .find("waters", sent.body.water.trim())
            .and_then(Item::water)
            .ok_or_else(|| Problem::not_found(format!("Stores know no water '{}'", sent.body.water)))?;
        let dose = ph_dose(&water, &sent.body.bottle, sent.body.target_ph);
        Ok(Json(dose.map_err(|e| Problem::refused("ph", e.to_string()))?))
    })
    .await
}
