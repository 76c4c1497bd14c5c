//! The API: one file a station, and `farm`, `today` and `trials` for what lies around them.

mod ask;
mod backups;
mod bench;
mod calendar;
mod farm;
mod judge;
mod labels;
mod match_sheet;
mod materials;
mod mix;
mod people;
mod place;
mod stores;
mod tell;
mod tend;
mod today;
mod trials;
mod uptake;
mod weigh;

use crate::app::App;
use axum::Router;
use utoipa::OpenApi;
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

#[derive(OpenApi)]
#[openapi(info(
    title = "Iron Twin",
    description = "Plans, keeps and judges side-by-side trials. Masses in g, volumes in L or mL as named, conductivity \
                   in mS/cm at 25 C, days counted from sowing. Errors are problem details (RFC 9457) with a stable \
                   `code`. A write may carry an Idempotency-Key header; the same key with the same body is answered \
                   again and not done again."
))]
struct Document;

/// All routes under `/api/v1`, with their OpenAPI document.
pub(crate) fn routes() -> (Router<App>, utoipa::openapi::OpenApi) {
    let v1 = OpenApiRouter::new()
        .routes(routes!(farm::farm, farm::put))
        .routes(routes!(backups::list, backups::make, backups::nightly))
        .routes(routes!(backups::file))
        .routes(routes!(farm::catalogue))
        .routes(routes!(people::me))
        .routes(routes!(people::sign_in))
        .routes(routes!(people::sign_out))
        .routes(routes!(people::list, people::add))
        .routes(routes!(people::remove))
        .routes(routes!(people::ask_here))
        .routes(routes!(today::today))
        .routes(routes!(trials::list, trials::create))
        .routes(routes!(trials::bring))
        .routes(routes!(trials::next_round))
        .routes(routes!(trials::get))
        .routes(routes!(trials::undo))
        .routes(routes!(trials::put_away))
        .routes(routes!(trials::examples))
        .routes(routes!(ask::put))
        .routes(routes!(ask::picture))
        .routes(routes!(ask::foreseen))
        .routes(routes!(match_sheet::put))
        .routes(routes!(place::put_rack))
        .routes(routes!(place::deal))
        .routes(routes!(place::get_places, place::put_places))
        .routes(routes!(place::put_light))
        .routes(routes!(place::put_site_card))
        .routes(routes!(place::put_starts))
        .routes(routes!(mix::get))
        .routes(routes!(mix::put_feed))
        .routes(routes!(mix::ph))
        .routes(routes!(mix::record))
        .routes(routes!(mix::pouring_sheet))
        .routes(routes!(mix::work_out_top_up))
        .routes(routes!(uptake::get))
        .routes(routes!(bench::start))
        .routes(routes!(bench::view))
        .routes(routes!(bench::aim))
        .routes(routes!(tend::get))
        .routes(routes!(tend::reading))
        .routes(routes!(tend::note))
        .routes(routes!(tend::job))
        .routes(routes!(tend::write_off))
        .routes(routes!(tend::put_care))
        .routes(routes!(weigh::get))
        .routes(routes!(weigh::record))
        .routes(routes!(judge::get))
        .routes(routes!(judge::reveal))
        .routes(routes!(labels::get))
        .routes(routes!(materials::get))
        .routes(routes!(calendar::get))
        .routes(routes!(calendar::ics))
        .routes(routes!(calendar::away))
        .routes(routes!(calendar::not_away))
        .routes(routes!(calendar::move_job))
        .routes(routes!(calendar::plan_sowing))
        .routes(routes!(stores::get))
        .routes(routes!(stores::put))
        .routes(routes!(stores::remove))
        .routes(routes!(stores::import))
        .routes(routes!(stores::export))
        .routes(routes!(stores::undo))
        .routes(routes!(tell::export))
        .routes(routes!(tell::plan))
        .routes(routes!(tell::trial_plan));
    OpenApiRouter::with_openapi(Document::openapi()).nest("/api/v1", v1).split_for_parts()
}
