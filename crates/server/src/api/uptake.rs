//! Uptake: water and feed that went from each unit. Before the reveal water alone, as what went of
//! the feed would tell which units are fed.

use crate::access::Who;
use crate::api::mix::tanks_of;
use crate::app::App;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use iron_twin_core::catalogue::readings::level;
use iron_twin_core::mix::tank::Tank;
use iron_twin_core::mix::top_up::{ec_at, strength_at};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::tank_day::TankDay;
use iron_twin_core::trial::uptake::{Strength, Uptake, uptake};
use iron_twin_terms::indices::{TreatmentIndex, UnitIndex};
use serde::Serialize;
use utoipa::ToSchema;

/// What went from one unit.
#[derive(Serialize, ToSchema)]
pub(crate) struct UnitUptake {
    /// Its code.
    code: String,
    /// Index of its treatment; null until the reveal.
    treatment: Option<TreatmentIndex>,
    /// Water and feed; null where the records do not tell. Without feed until the reveal.
    uptake: Option<Uptake>,
    /// What is missing.
    why: Option<String>,
    /// EC at the level read last, had nothing of the feed been taken, mS/cm; null until the reveal.
    ec_untouched_ms_per_cm: Option<f64>,
    /// Nitrogen that went with the feed, mg, were all of it used up evenly; null until the reveal.
    nitrogen_mg: Option<f64>,
    /// Cut and weighed, g; null until the reveal.
    weight_g: Option<f64>,
    /// Weight for each litre of water used; null until the reveal.
    g_per_l: Option<f64>,
}

/// What went from the units of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct UptakeView {
    /// Whether anything was filled in or a level was read.
    recorded: bool,
    /// Whether the grid asks for levels and what is poured in.
    measured: bool,
    /// Units in walking order; after the reveal by treatment.
    units: Vec<UnitUptake>,
}

fn row(trial: &Trial, unit: UnitIndex, days: &[TankDay], tanks: &[Tank]) -> UnitUptake {
    let dealt = &trial.units[unit];
    let open = trial.reveal.is_some();
    let tank = &tanks[dealt.treatment];
    let share_at = |ec: f64| {
        if open && tank.solution.is_some() {
            strength_at(&tank.recipe, ec)
        } else {
            None
        }
    };
    let dose_per_l = open.then(|| tank.measure_out.iter().map(|m| m.per_litre).sum());
    let (used, why) = match uptake(
        days,
        Strength {
            dose_per_l,
            share_at: &share_at,
        },
    ) {
        Ok(used) => (Some(used), None),
        Err(missing) => (None, Some(missing.to_string())),
    };
    let weighed = trial
        .of_unit(unit)
        .weighings()
        .iter()
        .filter(|_| open)
        .map(|w| w.net_g());
    // Crops that share a unit drink from it together.
    let weight_g = weighed.reduce(|sum, w| sum + w);
    let feed_l = used.and_then(|u| u.feed_l);
    UnitUptake {
        code: dealt.code.clone(),
        treatment: open.then_some(dealt.treatment),
        // What a dose of feed is worth would tell the strength of the solution.
        uptake: used.map(|u| {
            if open {
                u
            } else {
                Uptake {
                    feed_given_l: None,
                    untouched_share: None,
                    ..u
                }
            }
        }),
        why,
        ec_untouched_ms_per_cm: used
            .and_then(|u| u.untouched_share)
            .filter(|_| open && tank.solution.is_some() && !tank.measure_out.is_empty())
            .and_then(|share| ec_at(&tank.recipe, share)),
        nitrogen_mg: feed_l.and_then(|litres| Some(litres * tank.fed_mg_per_l("N")?)),
        weight_g,
        g_per_l: weight_g
            .zip(used)
            .filter(|(_, u)| u.water_l > 0.0)
            .map(|(g, u)| g / u.water_l),
    }
}

/// Water and feed that went from each unit.
#[utoipa::path(
    get,
    operation_id = "uptake_get",
    path = "/trials/{id}/uptake",
    params(("id" = String, Path)),
    responses(
        (status = 200, body = UptakeView),
        (status = 403, body = Problem),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn get(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<UptakeView>, Problem> {
    app.run(move |store| {
        let trial = store.trial(&id)?;
        if !trial.shows_solution(&who.name) {
            let detail = "What each drank tells who is fed, and this trial is graded by eye. It \
                          opens with the key.";
            return Err(Problem::new(
                StatusCode::FORBIDDEN,
                "sealed",
                "Kept from who grades",
                detail,
            ));
        }
        let tanks = tanks_of(&trial, &store.shelves()?)?;
        let walk = iron_twin_core::place::walk::places(&trial);
        let standing = |unit: &UnitIndex| trial.units[*unit].lost.is_none();
        let mut order: Vec<UnitIndex> = trial.unit_indices().filter(standing).collect();
        let open = trial.reveal.is_some();
        order.sort_by_key(|&unit| (open.then(|| trial.units[unit].treatment), walk[unit]));
        let days: Vec<Vec<TankDay>> = order
            .iter()
            .map(|&unit| trial.of_unit(unit).tank_days())
            .collect();
        let poured = |day: &TankDay| {
            day.filled_l.or(day.level_l).is_some() || day.water_l + day.solution_l > 0.0
        };
        Ok(Json(UptakeView {
            recorded: days.iter().flatten().any(poured),
            measured: trial
                .plan
                .ask
                .readings()
                .iter()
                .any(|r| r.key == level::READING.key),
            units: order
                .iter()
                .zip(&days)
                .map(|(&unit, days)| row(&trial, unit, days, &tanks))
                .collect(),
        }))
    })
    .await
}
