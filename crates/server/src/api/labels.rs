//! Labels: what is printed and stuck to each unit. Code, place and dates; never a treatment.

use crate::app::App;
use crate::error::Problem;
use axum::Json;
use axum::extract::{Path, Query, State};
use iron_twin_terms::indices::UnitIndex;
use jiff::ToSpan;
use qrcode::{Color, EcLevel, QrCode};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// Where the links lead.
#[derive(Deserialize, IntoParams)]
pub(crate) struct LabelsQuery {
    /// Address under which a phone finds this program, for instance `http://192.168.1.20:4747`.
    base: String,
}

/// One label.
#[derive(Serialize, ToSchema)]
pub(crate) struct Label {
    /// Blind code.
    code: String,
    /// Where it stands, in words.
    place: String,
    /// Address of the unit's page.
    link: String,
    /// The address as a QR code: one word a row, 1 for a dark module. Four light modules belong
    /// around it.
    qr: Vec<String>,
}

/// The labels of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct Labels {
    /// Name of the trial.
    trial: String,
    /// Date of sowing, done or meant.
    sown: Option<String>,
    /// Date of harvest as planned.
    harvest: Option<String>,
    /// One for each unit, in walking order.
    labels: Vec<Label>,
}

/// Longest address that still makes a code a phone reads from a small label.
const MOST_BASE: usize = 120;

/// The address to which links lead, without an end that would double a stroke.
pub(crate) fn base_of(base: &str) -> Result<String, Problem> {
    let base = base.trim_end_matches('/').to_owned();
    if base.len() > MOST_BASE || !(base.starts_with("http://") || base.starts_with("https://")) {
        return Err(Problem::refused(
            "base",
            "an address such as http://192.168.1.20:4747",
        ));
    }
    Ok(base)
}

/// An address as rows of modules, 1 for a dark one.
pub(crate) fn qr(link: &str) -> Result<Vec<String>, Problem> {
    // Medium correction: a splash or a crease must not make it unreadable.
    let code =
        QrCode::with_error_correction_level(link, EcLevel::M).map_err(|e| Problem::internal(&e))?;
    let modules = code.to_colors();
    let row = |row: &[Color]| row.iter().map(|module| module.select('1', '0')).collect();
    Ok(modules.chunks(code.width()).map(row).collect())
}

/// The labels of a trial, to print.
#[utoipa::path(
    get,
    operation_id = "labels_get",
    path = "/trials/{id}/labels",
    params(("id" = String, Path), LabelsQuery),
    responses(
        (status = 200, body = Labels),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn get(
    State(app): State<App>,
    Path(id): Path<String>,
    Query(query): Query<LabelsQuery>,
) -> Result<Json<Labels>, Problem> {
    let base = base_of(&query.base)?;
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let walk = iron_twin_core::place::walk::places(&trial);
        // In a swap-over each round has letters and dates of its own: printed when it is its turn.
        let mut order: Vec<UnitIndex> = trial
            .unit_indices()
            .filter(|&i| trial.is_now(&trial.units[i]))
            .collect();
        order.sort_by_key(|&i| walk[i]);
        let labels = order
            .into_iter()
            .map(|i| {
                let unit = &trial.units[i];
                let link = format!("{base}/trials/{id}/units/{}", unit.code);
                let place = format!(
                    "{}, {}",
                    trial.plan.rack.name,
                    trial.plan.rack.place_name(unit.position)
                );
                // A code takes a millisecond; a sheet of labels is looked at more than once.
                let qr = store.figures.code(&link, || qr(&link))?;
                Ok(Label {
                    code: unit.code.clone(),
                    place,
                    qr,
                    link,
                })
            })
            .collect::<Result<Vec<_>, Problem>>()?;
        let zero = trial.day_zero();
        let harvest =
            zero.and_then(|d| d.checked_add(i64::from(trial.plan.ask.end_day).days()).ok());
        let text = |date: Option<jiff::civil::Date>| date.map(|d| d.to_string());
        Ok(Json(Labels {
            trial: trial.plan.name.clone(),
            sown: text(zero),
            harvest: text(harvest),
            labels,
        }))
    })
    .await
}
