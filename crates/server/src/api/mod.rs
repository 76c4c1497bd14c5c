//! The API: one file a station, and `farm`, `today` and `trials` for what lies around them.

mod ask;
mod backups;
mod bench;
mod calendar;
mod decide;
mod diary;
mod farm;
mod given;
mod guesses;
mod instruments;
mod judge;
mod labels;
mod line_up;
mod loggers;
mod looks;
mod match_sheet;
mod materials;
mod mix;
mod people;
mod photos;
mod place;
mod records;
mod samples;
mod scorecard;
mod side_by_side;
mod stores;
mod tasting;
mod tell;
mod tend;
mod today;
mod tracks;
mod trials;
mod uptake;
mod weather;
mod weigh;

use crate::app::App;
use axum::Router;
use axum::routing::post;
use utoipa::OpenApi;
use utoipa::openapi::response::ResponseBuilder;
use utoipa::openapi::schema::{AdditionalProperties, AnyOfBuilder};
use utoipa::openapi::{Content, ContentBuilder, ObjectBuilder, Ref, RefOr, Schema};
use utoipa_axum::router::OpenApiRouter;
use utoipa_axum::routes;

#[derive(OpenApi)]
#[openapi(info(
    title = "Iron Twin",
    description = "Plans, keeps and judges side-by-side trials. Masses in g, volumes in L or mL \
                   as named, conductivity in mS/cm at 25 C, days counted from sowing. Errors are \
                   problem details (RFC 9457) with a stable `code`. A write may carry an \
                   Idempotency-Key header; the same key with the same body is answered again and \
                   not done again."
))]
struct Document;

/// The farm, its people, instruments, stores and copies.
fn of_farm() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(farm::farm, farm::put))
        .routes(routes!(backups::list, backups::make, backups::nightly))
        .routes(routes!(backups::file))
        .routes(routes!(farm::prices, farm::put_prices))
        .routes(routes!(materials::money))
        .routes(routes!(farm::catalogue))
        .routes(routes!(farm::own_measure))
        .routes(routes!(people::me))
        .routes(routes!(people::sign_in))
        .routes(routes!(people::sign_out))
        .routes(routes!(people::list, people::add))
        .routes(routes!(people::remove))
        .routes(routes!(people::ask_here))
        .routes(routes!(today::today))
        .routes(routes!(instruments::list, instruments::add))
        .routes(routes!(instruments::change, instruments::remove))
        .routes(routes!(instruments::live))
        .routes(routes!(instruments::take))
        .routes(routes!(instruments::switch))
        .routes(routes!(materials::get))
        .routes(routes!(calendar::get))
        .routes(routes!(calendar::ics))
        .routes(routes!(calendar::away))
        .routes(routes!(calendar::not_away))
        .routes(routes!(calendar::plan_sowing))
        .routes(routes!(stores::get))
        .routes(routes!(stores::put))
        .routes(routes!(stores::remove))
        .routes(routes!(stores::import))
        .routes(routes!(stores::export))
        .routes(routes!(stores::undo))
}

/// A trial, and its stations before the first record.
fn of_plan() -> OpenApiRouter<App> {
    OpenApiRouter::new()
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
        .routes(routes!(labels::get))
}

/// What is recorded, and what follows at once.
fn of_shelf() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(records::take))
        .routes(routes!(tend::get))
        .routes(routes!(tend::put_care))
        .routes(routes!(given::get))
        .routes(routes!(given::give_out_jugs))
        .routes(routes!(photos::list, photos::add))
        .routes(routes!(photos::mark))
        .routes(routes!(photos::file))
        .routes(routes!(photos::mask))
        .routes(routes!(photos::small))
        .routes(routes!(photos::flattened))
        .routes(routes!(guesses::get))
        .routes(routes!(guesses::guessers))
        .routes(routes!(weather::get))
        .routes(routes!(line_up::get))
        .routes(routes!(looks::get, looks::have))
        .routes(routes!(loggers::list, loggers::bring))
        .routes(routes!(loggers::preview))
        .routes(routes!(loggers::take_in))
        .routes(routes!(loggers::give_up))
        .routes(routes!(loggers::take_back))
        .routes(routes!(tracks::list))
        .routes(routes!(tracks::get))
        .routes(routes!(tracks::logged))
        .routes(routes!(tracks::computed))
        .routes(routes!(diary::get))
        .routes(routes!(diary::take_back))
        .routes(routes!(weigh::get))
}

/// What is tasted, judged, decided and told.
fn of_end() -> OpenApiRouter<App> {
    OpenApiRouter::new()
        .routes(routes!(tasting::get, tasting::begin))
        .routes(routes!(tasting::close))
        .routes(routes!(tasting::answer))
        .routes(routes!(tasting::uncover))
        .routes(routes!(tasting::cards))
        .routes(routes!(tasting::foresee))
        .routes(routes!(tasting::seat, tasting::taste))
        .routes(routes!(judge::get))
        .routes(routes!(judge::reveal))
        .routes(routes!(side_by_side::get))
        .routes(routes!(decide::get, decide::plan))
        .routes(routes!(scorecard::get))
        .routes(routes!(tell::export))
        .routes(routes!(tell::plan))
        .routes(routes!(tell::trial_plan))
}

/// All routes under `/api/v1`, with their OpenAPI document.
pub(crate) fn routes() -> (Router<App>, utoipa::openapi::OpenApi) {
    let v1 = of_farm().merge(of_plan()).merge(of_shelf()).merge(of_end());
    let (router, mut document) = OpenApiRouter::with_openapi(Document::openapi())
        .nest("/api/v1", v1)
        .split_for_parts();
    let router = records::RETIRED.iter().fold(router, |router, path| {
        router.route(
            &format!("/api/v1/trials/{{id}}/{path}"),
            post(records::retired),
        )
    });
    tell_problems(&mut document);
    tell_doses(&mut document);
    (router, document)
}

/// Errors are problem details: the kind in which they come, and that any operation may answer so.
fn tell_problems(document: &mut utoipa::openapi::OpenApi) {
    let problem = || {
        let content = ContentBuilder::new()
            .schema(Some(Ref::from_schema_name("Problem")))
            .build();
        ResponseBuilder::new()
            .description("A problem, with its stable code.")
            .content(PROBLEM, content)
            .build()
    };
    let operations = document.paths.paths.values_mut().flat_map(|path| {
        [
            &mut path.get,
            &mut path.put,
            &mut path.post,
            &mut path.delete,
        ]
        .into_iter()
        .filter_map(Option::as_mut)
    });
    for operation in operations {
        for (status, response) in &mut operation.responses.responses {
            if let (true, RefOr::T(response)) = (status.starts_with(['4', '5']), response)
                // A refused record is answered in the shape of all records.
                && response.content.get("application/json").is_some_and(is_problem)
                && let Some(content) = response.content.shift_remove("application/json")
            {
                response.content.insert(PROBLEM.to_owned(), content);
            }
        }
        // Too slow, too large, signed out, busy, full: every operation may.
        operation
            .responses
            .responses
            .insert("default".to_owned(), RefOr::T(problem()));
    }
}

fn is_problem(content: &RefOr<Content>) -> bool {
    let RefOr::T(content) = content else {
        return false;
    };
    matches!(&content.schema, Some(RefOr::Ref(own)) if own.ref_location.ends_with("/Problem"))
}

/// The curves of doses stand among the fields of an analysis, where there are any: beside them
/// nothing, and not `null`.
fn tell_doses(document: &mut utoipa::openapi::OpenApi) {
    let schemas = document.components.as_mut().map(|c| &mut c.schemas);
    let Some(RefOr::T(Schema::AllOf(analysis))) = schemas.and_then(|s| s.get_mut("Analysis"))
    else {
        return;
    };
    let nothing = ObjectBuilder::new()
        .additional_properties(Some(AdditionalProperties::FreeForm(true)))
        .build();
    let doses = AnyOfBuilder::new()
        .item(Ref::from_schema_name("DoseOut"))
        .item(nothing)
        .build();
    if let Some(first @ RefOr::T(Schema::OneOf(_))) = analysis.items.first_mut() {
        *first = RefOr::T(Schema::AnyOf(doses));
    }
}

/// Kind of an error's answer (RFC 9457).
const PROBLEM: &str = "application/problem+json";
