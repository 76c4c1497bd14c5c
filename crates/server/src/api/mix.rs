//! Mix: the tanks of a trial, how they are filled and given, recorded mixes, and the pouring sheet
//! that tells the key.

use super::records::{self, RecordsAnswer};
use crate::access::Who;
use crate::api::trials::current;
use crate::app::App;
use crate::clock::today;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::TrialView;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_chemistry::acid::{Bottle, PhDose, ph_dose};
use iron_twin_chemistry::conductivity::EcScale;
use iron_twin_core::mix::doses::{Beside, beside};
use iron_twin_core::mix::filling::Filling;
use iron_twin_core::mix::order::RoundStep;
use iron_twin_core::mix::serving::{filling, in_order, order};
use iron_twin_core::mix::tank::{Band, Tank, bands, ec_question, tanks, usual_target};
use iron_twin_core::mix::top_up::{TankLevel, TopUp, top_up};
use iron_twin_core::stores::{Item, Stores};
use iron_twin_core::tend::jugs::jugs;
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::application::Role;
use iron_twin_core::trial::feed::FeedPlan;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::mix::{GapWhy, Mix, Portioned};
use iron_twin_core::trial::sheet::SheetTreatment;
use iron_twin_core::trial::sheet::rows::NOTHING;
use iron_twin_store::StoreError;
use iron_twin_store::records::Incoming;
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// What to measure out for one treatment, and what was.
#[derive(Serialize, ToSchema)]
pub(crate) struct TreatmentMix {
    /// Index of the treatment.
    treatment: TreatmentIndex,
    /// Its name.
    name: String,
    /// What is dissolved; `none` for plain water.
    feed: String,
    /// What fills the tank, by the labels in Stores, and what the solution holds.
    tank: Tank,
    /// What is given beside the tank.
    beside: Vec<Beside>,
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
    /// Batch, as the grower counts them.
    batch: String,
    /// Temperature of the solution, °C.
    temperature_c: Option<f64>,
    /// What the recipe gave then, as a meter shows it at that temperature, mS/cm at 25 C.
    computed_ec_ms_per_cm: Option<f64>,
    /// Why meter and computation parted.
    gap_why: Option<GapWhy>,
    /// What was found, in own words.
    gap_note: String,
    /// What went in.
    portions: Vec<Portioned>,
}

/// The bench.
#[derive(Serialize, ToSchema)]
pub(crate) struct MixBench {
    /// The feed as its label gives it.
    feed: FeedPlan,
    /// One entry a treatment, in the order of the sheet.
    treatments: Vec<TreatmentMix>,
    /// Target profile that fits the crop; null where Stores know none.
    target: Option<String>,
    /// Bands of that target.
    bands: Vec<Band>,
    /// Batches that all units share.
    filling: Filling,
    /// Order of giving with shared tools, and the rinses between.
    order: Vec<RoundStep>,
}

/// The vessel at hand.
#[derive(Deserialize, IntoParams)]
pub(crate) struct MixQuery {
    /// Largest vessel to mix in, L; 10 where left out.
    vessel_l: Option<f64>,
}

const USUAL_VESSEL_L: f64 = 10.0;

pub(crate) fn tanks_of(trial: &Trial, stores: &Stores) -> Result<Vec<Tank>, Problem> {
    tanks(
        &trial.plan.sheet,
        stores,
        &trial.plan.feed,
        &trial.plan.ask.crop,
        &trial.units_at_once(),
    )
    .map_err(|e| Problem::refused("feed", e.to_string()))
}

/// What stands in the tank of a treatment by name.
fn fed_with(treatment: &SheetTreatment) -> String {
    let in_tank = treatment
        .applications
        .iter()
        .filter(|a| a.role == Role::Feed && a.how.in_tank());
    let names: Vec<&str> = in_tank.map(|a| a.what.as_str()).collect();
    if names.is_empty() {
        NOTHING.to_owned()
    } else {
        names.join(" and ")
    }
}

/// A mix as the page sees it.
fn mix_view(m: &iron_twin_core::trial::records::Recorded<Mix>) -> MixView {
    MixView {
        volume_l: m.volume_l,
        feed_total: m.feed_total,
        ec_ms_per_cm: m.ec_ms_per_cm,
        ph: m.ph,
        day: m.head.day,
        at: m.head.at.to_string(),
        batch: m.batch.clone(),
        temperature_c: m.temperature_c,
        computed_ec_ms_per_cm: m.computed_ec_ms_per_cm,
        gap_why: m.gap_why,
        gap_note: m.gap_note.clone(),
        portions: m.portions.clone(),
    }
}

fn bench(trial: &Trial, stores: &Stores, vessel_l: f64) -> Result<MixBench, Problem> {
    let units = trial.units_at_once();
    let tanks = tanks_of(trial, stores)?;
    let target = usual_target(stores, &trial.plan.ask.crop);
    let filling = filling(
        &trial.plan.sheet,
        stores,
        &trial.plan.feed,
        &units,
        vessel_l,
    )
    .map_err(|e| Problem::refused("vessel_l", e.to_string()))?;
    let order = order(&trial.plan.sheet, stores, &tanks);
    let treatments = trial
        .plan
        .sheet
        .each()
        .zip(tanks)
        .map(|((index, treatment), tank)| {
            let recorded = trial
                .records
                .mixes()
                .iter()
                .filter(|m| m.treatment == index);
            TreatmentMix {
                treatment: index,
                name: treatment.name.clone(),
                feed: fed_with(treatment),
                beside: beside(
                    &trial.plan.sheet,
                    index,
                    stores,
                    &trial.plan.feed,
                    units[index],
                    trial.plan.ask.sites(),
                ),
                tank,
                recorded: recorded.map(mix_view).collect(),
            }
        })
        .collect();
    Ok(MixBench {
        feed: trial.plan.feed.clone(),
        treatments,
        target: target.map(|t| t.name.clone()),
        bands: target
            .and_then(Item::target)
            .map_or_else(Vec::new, |t| bands(&t)),
        filling,
        order,
    })
}

/// What to measure out for each treatment.
#[utoipa::path(
    get,
    operation_id = "mix_get",
    path = "/trials/{id}/mix",
    params(("id" = String, Path), MixQuery),
    responses(
        (status = 200, body = MixBench),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(query): Query<MixQuery>,
) -> Result<Json<MixBench>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        who.unless_sealed(&trial)?;
        Ok(Json(bench(
            &trial,
            &store.shelves()?,
            query.vessel_l.unwrap_or(USUAL_VESSEL_L),
        )?))
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
#[utoipa::path(
    put,
    operation_id = "mix_put_feed",
    path = "/trials/{id}/feed",
    params(("id" = String, Path)),
    request_body = FeedSent,
    responses(
        (status = 200, body = TrialView),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put_feed(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<FeedSent>,
) -> Result<Json<TrialView>, Problem> {
    app.run(move |store| {
        store.set_feed(&sent.stamp, &id, &sent.body.feed, sent.body.version)?;
        current(store, &id, &sent.stamp.who)
    })
    .await
}

/// A mix as made.
#[derive(Deserialize, ToSchema)]
pub(crate) struct MixSent {
    /// Index of the treatment.
    treatment: TreatmentIndex,
    /// Litres made.
    volume_l: f64,
    /// mL or g of feed measured out.
    feed_total: f64,
    /// What the EC meter shows, on the scale below.
    ec: Option<f64>,
    /// In what it shows it; mS/cm at 25 C where left out.
    #[serde(default)]
    ec_scale: EcScale,
    /// Measured pH.
    ph: Option<f64>,
    /// Whether an unlikely value was confirmed.
    #[serde(default)]
    confirmed: bool,
    /// Batch, as the grower counts them.
    #[serde(default)]
    batch: String,
    /// Temperature of the solution, °C.
    #[serde(default)]
    temperature_c: Option<f64>,
    /// Why meter and computation part, where it was asked.
    #[serde(default)]
    gap_why: Option<GapWhy>,
    /// What was found, in own words.
    #[serde(default)]
    gap_note: String,
    /// What went in; what the bench asked for where left out.
    #[serde(default)]
    portions: Vec<Portioned>,
}

/// Records a mix.
#[utoipa::path(
    post,
    operation_id = "mix_record",
    path = "/trials/{id}/mixes",
    params(("id" = String, Path)),
    request_body = MixSent,
    responses(
        (status = 200, body = RecordsAnswer),
        (status = 404, body = RecordsAnswer),
        (status = 422, body = RecordsAnswer),
    ),
)]
pub(crate) async fn record(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    sent: Sent<MixSent>,
) -> Result<RecordsAnswer, Problem> {
    app.run(move |store| {
        let MixSent {
            treatment,
            volume_l,
            feed_total,
            ec,
            ec_scale,
            ph,
            confirmed,
            ..
        } = sent.body;
        let ec_ms_per_cm = ec.map(|shown| ec_scale.ms_per_cm(shown));
        let MixSent {
            batch,
            temperature_c,
            gap_why,
            gap_note,
            portions,
            ..
        } = sent.body;
        let trial = store.trial(&id)?;
        let tank = tanks_of(&trial, &store.shelves()?)?
            .into_iter()
            .nth(treatment.get());
        let computed = tank.and_then(|t| t.ec_as_metered(temperature_c));
        // What the meter says is held against what the recipe gives.
        if let (Some(measured), Some(computed), false) = (ec_ms_per_cm, computed, confirmed)
            && let Some(question) = ec_question(measured, computed)
        {
            return records::answer_one(Err(StoreError::Unlikely { message: question }));
        }
        let mix = Mix {
            treatment,
            volume_l,
            feed_total,
            ec_ms_per_cm,
            ph,
            batch,
            temperature_c,
            computed_ec_ms_per_cm: computed,
            gap_why,
            gap_note,
            portions,
        };
        let head = HeadSent {
            confirmed,
            ..HeadSent::default()
        };
        let list = Incoming::of(head, mix).into_iter().collect();
        records::answer(1, store.record(&sent.stamp, who.role, &id, list))
    })
    .await
}

/// Which trays get a solution.
#[derive(Serialize, ToSchema)]
pub(crate) struct Pour {
    /// Its turn in the round, from 1: the mildest first, what clings or lives longest last.
    turn: usize,
    /// Name of the treatment.
    treatment: String,
    /// mL for each tray.
    ml_a_unit: f64,
    /// Whether it is its turn today, where treatments are given on days of their own.
    today: bool,
    /// What it gets beside its solution, for one unit.
    beside: Vec<Beside>,
    /// What it gets otherwise than others, row by row.
    differs: Vec<String>,
    /// Number of the jug from which its trays are filled, as those see it who feed without the key;
    /// null where no unit of it stands.
    jug: Option<usize>,
    /// Codes of its trays, in walking order.
    codes: Vec<String>,
}

/// Opens the pouring sheet, which tells the key; the opening is logged and shown in the ledger.
#[utoipa::path(
    post,
    operation_id = "mix_pouring_sheet",
    path = "/trials/{id}/pouring-sheet",
    params(("id" = String, Path)),
    responses((status = 200, body = Vec<Pour>), (status = 409, body = Problem)),
)]
pub(crate) async fn pouring_sheet(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<Option<()>>,
) -> Result<Json<Vec<Pour>>, Problem> {
    app.run(move |store| {
        store.open_pouring_sheet(&sent.stamp, &id)?;
        let trial = store.trial(&id)?;
        let stores = store.shelves()?;
        let walk = iron_twin_core::place::walk::places(&trial);
        let mut order: Vec<UnitIndex> = trial.unit_indices().collect();
        order.sort_by_key(|&i| walk[i]);
        let now = trial.day(today(&store.farm()?));
        let turns = in_order(&trial.plan.sheet, &stores, &tanks_of(&trial, &stores)?);
        let jugs = jugs(&trial, now);
        let sheet = trial.plan.sheet.each().map(|(t, treatment)| Pour {
            jug: jugs
                .iter()
                .find(|jug| jug.treatment == t)
                .map(|jug| jug.number),
            turn: turns
                .iter()
                .position(|own| *own == t)
                .map_or(turns.len(), |place| place + 1),
            treatment: treatment.name.clone(),
            ml_a_unit: trial.plan.feed.ml_a_unit,
            beside: beside(
                &trial.plan.sheet,
                t,
                &stores,
                &trial.plan.feed,
                1,
                trial.plan.ask.sites(),
            ),
            today: trial.plan.sheet.is_its_turn(t, now),
            differs: trial.plan.sheet.differing(t),
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
#[utoipa::path(
    post,
    operation_id = "mix_ph",
    path = "/ph-dose",
    request_body = PhSent,
    responses(
        (status = 200, body = PhDose),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn ph(
    State(app): State<App>,
    sent: Sent<PhSent>,
) -> Result<Json<PhDose>, Problem> {
    app.run(move |store| {
        let shelves = store.shelves()?;
        let water = shelves
            .find("waters", sent.body.water.trim())
            .and_then(Item::water)
            .ok_or_else(|| {
                Problem::not_found(format!("Stores know no water '{}'", sent.body.water))
            })?;
        let dose = ph_dose(&water, &sent.body.bottle, sent.body.target_ph);
        Ok(Json(
            dose.map_err(|e| Problem::refused("ph", e.to_string()))?,
        ))
    })
    .await
}

/// A treatment's tank now, and as it is wanted.
#[derive(Deserialize, ToSchema)]
pub(crate) struct TopUpSent {
    /// Index of the treatment.
    treatment: TreatmentIndex,
    /// Its level.
    level: TankLevel,
}

/// What to add to a tank.
#[derive(Serialize, ToSchema)]
pub(crate) struct TopUpView {
    /// Amounts.
    top_up: TopUp,
    /// What to measure out, in mL or g.
    add: Vec<Added>,
}

/// What to measure out of one feed or salt.
#[derive(Serialize, ToSchema)]
pub(crate) struct Added {
    /// What it is called.
    name: String,
    /// `mL` or `g`.
    unit: &'static str,
    /// How much.
    amount: f64,
}

/// Works out a top-up from level and EC; nothing is written.
#[utoipa::path(
    post,
    operation_id = "mix_top_up",
    path = "/trials/{id}/top-up",
    params(("id" = String, Path)),
    request_body = TopUpSent,
    responses(
        (status = 200, body = TopUpView),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn work_out_top_up(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    sent: Sent<TopUpSent>,
) -> Result<Json<TopUpView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        who.unless_sealed(&trial)?;
        let tank = tanks_of(&trial, &store.shelves()?)?
            .into_iter()
            .nth(sent.body.treatment.get());
        let tank = tank.ok_or_else(|| Problem::not_found("There is no such treatment."))?;
        if tank.solution.is_none() {
            let unknown = tank.unknown.join(", ");
            return Err(Problem::refused(
                "treatment",
                format!("Stores do not say what is in {unknown}"),
            ));
        }
        let top_up = top_up(&tank.recipe, &sent.body.level)
            .map_err(|e| Problem::refused(e.field(), e.to_string()))?;
        let add = tank
            .measure_out
            .iter()
            .zip(&tank.recipe.ingredients)
            .zip(&top_up.add_g)
            .map(|((m, i), g)| {
                // In the unit in which it is measured out: as many mL as the recipe has for so many
                // grams.
                let amount = i
                    .g_per_l
                    .filter(|per_l| *per_l > 0.0)
                    .map_or(*g, |per_l| g * m.per_litre / per_l);
                Added {
                    name: m.name.clone(),
                    unit: m.unit,
                    amount,
                }
            });
        Ok(Json(TopUpView {
            add: add.collect(),
            top_up,
        }))
    })
    .await
}
