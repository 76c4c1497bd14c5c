//! Photos of units: taken in, shown, marked and measured. By code, never by treatment.

use super::records::{self, RecordsAnswer};
use crate::access::Who;
use crate::app::App;
use crate::clock::{date_of, done_at};
use crate::error::Problem;
use crate::limits::MOST_OF_PICTURE;
use crate::pictures::{look_through, open};
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, Query, Request, State};
use axum::http::{StatusCode, header};
use axum::response::IntoResponse;
use image::{ExtendedColorType, ImageEncoder};
use iron_twin_core::trial::Trial;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_core::trial::record::photo::{Photo, View};
use iron_twin_core::trial::records::Recorded;
use iron_twin_photo::{Corners, Figures, Kind, Marked, Mask, PhotoError, Picture, flat, measure};
use iron_twin_store::photo::{NewMarks, NewPhoto};
use iron_twin_store::{Stamp, Store, StoreError};
use iron_twin_terms::indices::UnitIndex;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

/// A photo of a unit.
#[derive(Serialize, ToSchema)]
pub(crate) struct PhotoView {
    /// Random id.
    id: String,
    /// Code of the unit.
    code: String,
    /// From where: `top`, `side`, `root`.
    view: View,
    /// Days since sowing.
    day: u32,
    /// When it was taken (RFC 3339).
    at: String,
    /// Who entered it.
    who: String,
    /// Pixels in a row, turned upright.
    width: u32,
    /// Rows, turned upright.
    height: u32,
    /// As the camera held it, 1 to 8.
    orientation: u8,
    /// What was marked in it; null before.
    marked: Option<Marked>,
    /// What was measured; null before.
    figures: Option<Figures>,
    /// Version of what is marked, to send back with a change; 0 before.
    version: i64,
}

fn view(trial: &Trial, unit: UnitIndex, photo: &Recorded<Photo>) -> PhotoView {
    let marked = trial.records.photo_marked(&photo.id);
    PhotoView {
        code: trial.units[unit].code.clone(),
        id: photo.id.clone(),
        view: photo.view,
        day: photo.head.day,
        at: photo.head.at.to_string(),
        who: photo.head.who.to_string(),
        width: photo.width,
        height: photo.height,
        orientation: photo.orientation,
        marked: marked.map(|own| own.marked),
        figures: marked.map(|own| own.figures),
        version: marked.map_or(0, |own| own.head.version),
    }
}

/// Photos of a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct PhotosView {
    /// Oldest first.
    photos: Vec<PhotoView>,
}

fn all(store: &Store, id: &str) -> Result<PhotosView, Problem> {
    let trial = store.trial(id)?;
    Ok(PhotosView {
        photos: trial
            .records
            .photos()
            .map(|(unit, photo)| view(&trial, unit, photo))
            .collect(),
    })
}

/// Photos of a trial, oldest first.
#[utoipa::path(
    get,
    operation_id = "photos_list",
    path = "/trials/{id}/photos",
    params(("id" = String, Path)),
    responses((status = 200, body = PhotosView), (status = 404, body = Problem)),
)]
pub(crate) async fn list(
    State(app): State<App>,
    Path(id): Path<String>,
) -> Result<Json<PhotosView>, Problem> {
    app.run(move |store| Ok(Json(all(store, &id)?))).await
}

/// Of what a picture is.
#[derive(Deserialize, IntoParams)]
pub(crate) struct PhotoQuery {
    /// Code of the unit.
    code: String,
    /// From where: `top`, `side`, `root`.
    #[param(inline)]
    view: View,
    /// When it was entered on the device (RFC 3339); now where left out. The camera's own time
    /// comes first.
    #[param(value_type = Option<String>)]
    at: Option<Timestamp>,
}

/// Takes a picture in: a JPEG or PNG as it comes from a phone. How it was held and when it was
/// taken is kept; what the camera told of the place is not.
#[utoipa::path(
    post,
    operation_id = "photos_add",
    path = "/trials/{id}/photos",
    params(("id" = String, Path), PhotoQuery),
    request_body(content = Vec<u8>, content_type = "image/jpeg"),
    responses(
        (status = 200, body = RecordsAnswer),
        (status = 404, body = RecordsAnswer),
        (status = 409, body = RecordsAnswer),
        (status = 413, body = Problem),
        (status = 422, body = Problem),
        (status = 507, body = Problem),
    ),
)]
pub(crate) async fn add(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(query): Query<PhotoQuery>,
    request: Request,
) -> Result<RecordsAnswer, Problem> {
    let key = request
        .headers()
        .get("idempotency-key")
        .and_then(|v| v.to_str().ok())
        .map(str::to_owned);
    let bytes = axum::body::to_bytes(request.into_body(), MOST_OF_PICTURE)
        .await
        .map_err(|_| too_large())?;
    app.run(move |store| {
        let now = Timestamp::now();
        let farm = store.farm()?;
        let incoming = look_through(bytes.to_vec(), &farm.time_zone())?;
        let entered = done_at(query.at, now);
        // A camera whose clock runs ahead, or stands in another year, is not believed.
        let sown = store.trial(&id)?.sown_on;
        let believed =
            |at: &Timestamp| *at <= now && sown.is_some_and(|sown| date_of(&farm, *at) >= sown);
        let at = incoming.taken.filter(believed).unwrap_or(entered);
        let request = key.map(|key| (key, format!("{id} photo of {}", query.code)));
        let stamp = Stamp {
            who: who.name,
            now,
            request,
        };
        let head = HeadSent {
            unit: Some(query.code),
            at: Some(at),
            ..HeadSent::default()
        };
        let new = NewPhoto {
            view: query.view,
            media: incoming.media,
            width: incoming.width,
            height: incoming.height,
            orientation: incoming.orientation,
            bytes: incoming.bytes,
        };
        records::answer_one(
            store
                .add_photo(&stamp, who.role, &id, head, &new)
                .map(|own| own.kept),
        )
    })
    .await
}

/// A picture that is too large, or did not come whole.
fn too_large() -> Problem {
    let detail = format!(
        "A picture has at most {} MB, and must come whole.",
        MOST_OF_PICTURE >> 20
    );
    Problem::new(
        StatusCode::PAYLOAD_TOO_LARGE,
        "too_large",
        "Too large",
        detail,
    )
}

/// A photo of a trial.
fn of(store: &Store, id: &str, photo: &str) -> Result<Recorded<Photo>, Problem> {
    let trial = store.trial(id)?;
    let found = trial.records.photo(photo).map(|(_, own)| own.clone());
    found.ok_or_else(|| {
        StoreError::NotFound {
            what: "photo",
            id: photo.into(),
        }
        .into()
    })
}

/// What is marked in a photo; the whole picture before.
fn marks(store: &Store, id: &str, photo: &str) -> Result<Marked, Problem> {
    Ok(store
        .trial(id)?
        .records
        .photo_marked(photo)
        .map(|own| own.marked)
        .unwrap_or_default())
}

fn kept_bytes(store: &Store, photo: &Photo) -> Result<Vec<u8>, Problem> {
    std::fs::read(store.photo_file(photo)).map_err(|e| {
        tracing::error!(error = %e, "a picture is not where it was kept");
        Problem::not_found(
            "The picture is no longer in the folder beside the data file; its figures are kept.",
        )
    })
}

/// A picture as it was kept.
#[utoipa::path(
    get,
    operation_id = "photos_file",
    path = "/trials/{id}/photos/{photo}/file",
    params(("id" = String, Path), ("photo" = String, Path)),
    responses(
        (status = 200, body = Vec<u8>, content_type = "image/jpeg"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn file(
    State(app): State<App>,
    Path((id, photo)): Path<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let photo = of(store, &id, &photo)?;
        let headers = [
            (header::CONTENT_TYPE, photo.media.clone()),
            (
                header::CACHE_CONTROL,
                "private, max-age=31536000, immutable".to_owned(),
            ),
        ];
        Ok((headers, kept_bytes(store, &photo)?))
    })
    .await
}

/// A JPEG to be looked at.
fn jpeg(pixels: &[u8], width: usize, height: usize) -> Result<Vec<u8>, Problem> {
    let mut out = Vec::new();
    image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, 80)
        .write_image(pixels, width as u32, height as u32, ExtendedColorType::Rgb8)
        .map_err(|e| Problem::internal(&e))?;
    Ok(out)
}

/// Longest side of a small picture, pixels.
const SMALL: u32 = 360;

/// A picture made small and turned upright, for sheets of many.
#[utoipa::path(
    get,
    operation_id = "photos_small",
    path = "/trials/{id}/photos/{photo}/small",
    params(("id" = String, Path), ("photo" = String, Path)),
    responses(
        (status = 200, body = Vec<u8>, content_type = "image/jpeg"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn small(
    State(app): State<App>,
    Path((id, photo)): Path<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let photo = of(store, &id, &photo)?;
        let opened = open(&kept_bytes(store, &photo)?, photo.orientation)?
            .thumbnail(SMALL, SMALL)
            .into_rgb8();
        let out = jpeg(
            opened.as_raw(),
            opened.width() as usize,
            opened.height() as usize,
        )?;
        let headers = [
            (header::CONTENT_TYPE, "image/jpeg"),
            (
                header::CACHE_CONTROL,
                "private, max-age=31536000, immutable",
            ),
        ];
        Ok((headers, out))
    })
    .await
}

impl From<PhotoError> for Problem {
    fn from(error: PhotoError) -> Self {
        let field = match error {
            PhotoError::Corners | PhotoError::WrongSize { .. } => "corners",
            PhotoError::Card => "card",
            PhotoError::Readiness => "readiness",
            PhotoError::Ruler => "ruler",
        };
        Self::refused(field, error.to_string())
    }
}

fn measured(store: &Store, photo: &Photo, marked: &Marked) -> Result<(Figures, Mask), Problem> {
    let opened = open(&kept_bytes(store, photo)?, photo.orientation)?.into_rgb8();
    let (width, height) = (opened.width() as usize, opened.height() as usize);
    Ok(measure(
        &Picture {
            width,
            height,
            pixels: opened.as_raw(),
        },
        marked,
    )?)
}

/// Colours of the shading, with how much they cover.
fn shade(kind: Kind) -> [u8; 4] {
    match kind {
        Kind::Outside => [46, 49, 52, 150],
        Kind::Ground => [0, 0, 0, 0],
        Kind::Brown => [122, 84, 40, 150],
        Kind::Green => [60, 190, 90, 120],
        Kind::Yellow => [240, 210, 60, 150],
        Kind::Red => [220, 60, 110, 150],
    }
}

/// Pixels across of a flat tray.
const FLAT: usize = 720;

/// The tray of a picture laid flat between the corners that were marked, as if seen from straight
/// above: two of them stand at one scale. The whole picture where no corners were marked.
#[utoipa::path(
    get,
    operation_id = "photos_flat",
    path = "/trials/{id}/photos/{photo}/flat",
    params(("id" = String, Path), ("photo" = String, Path)),
    responses(
        (status = 200, body = Vec<u8>, content_type = "image/jpeg"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn flattened(
    State(app): State<App>,
    Path((id, photo)): Path<(String, String)>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let photo = of(store, &id, &photo)?;
        let opened = open(&kept_bytes(store, &photo)?, photo.orientation)?.into_rgb8();
        let (width, height) = (opened.width() as usize, opened.height() as usize);
        let picture = Picture {
            width,
            height,
            pixels: opened.as_raw(),
        };
        let (rows, pixels) = flat(&picture, &marks(store, &id, &photo.id)?, FLAT)?;
        // It changes when corners are marked anew: the page asks for each version by itself.
        Ok((
            [
                (header::CONTENT_TYPE, "image/jpeg"),
                (header::CACHE_CONTROL, "private, max-age=86400"),
            ],
            jpeg(&pixels, FLAT, rows)?,
        ))
    })
    .await
}

/// What was marked, as it is tried out.
#[derive(Deserialize, IntoParams)]
pub(crate) struct MaskQuery {
    /// Corners, going round the tray: eight shares of width and height, with commas between; the
    /// whole picture where left out.
    corners: Option<String>,
    /// The card, two shares with a comma between; none where left out.
    card: Option<String>,
    /// How readily a pixel counts as leaf, 0 to 1.
    readiness: Option<f64>,
}

fn shares(text: &str, field: &'static str) -> Result<Vec<f64>, Problem> {
    let parsed: Result<Vec<f64>, _> = text.split(',').map(|part| part.trim().parse()).collect();
    parsed.map_err(|_| Problem::refused(field, "shares of width and height, such as 0.1,0.1"))
}

fn marked(query: &MaskQuery) -> Result<Marked, Problem> {
    let mut marked = Marked::default();
    if let Some(text) = &query.corners {
        let all = shares(text, "corners")?;
        let corners: Vec<[f64; 2]> = all
            .chunks(2)
            .filter_map(|two| two.try_into().ok())
            .collect();
        marked.corners = Corners::try_from(corners).map_err(|_| PhotoError::Corners)?;
    }
    if let Some(text) = &query.card {
        let card = shares(text, "card")?.try_into();
        marked.card = Some(card.map_err(|_| PhotoError::Card)?);
    }
    marked.readiness = query.readiness.unwrap_or(marked.readiness);
    Ok(marked)
}

/// What was taken for leaf, as a shading to lay over the picture.
#[utoipa::path(
    get,
    operation_id = "photos_mask",
    path = "/trials/{id}/photos/{photo}/mask",
    params(("id" = String, Path), ("photo" = String, Path), MaskQuery),
    responses(
        (status = 200, body = Vec<u8>, content_type = "image/png"),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn mask(
    State(app): State<App>,
    Path((id, photo)): Path<(String, String)>,
    Query(query): Query<MaskQuery>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let photo = of(store, &id, &photo)?;
        let (_, mask) = measured(store, &photo, &marked(&query)?)?;
        let pixels: Vec<u8> = mask.kinds.iter().flat_map(|kind| shade(*kind)).collect();
        let mut out = Vec::new();
        image::codecs::png::PngEncoder::new(&mut out)
            .write_image(
                &pixels,
                mask.width as u32,
                mask.height as u32,
                ExtendedColorType::Rgba8,
            )
            .map_err(|e| Problem::internal(&e))?;
        Ok(([(header::CONTENT_TYPE, "image/png")], out))
    })
    .await
}

/// What was marked in a photo.
#[derive(Deserialize, ToSchema)]
pub(crate) struct MarkSent {
    /// Corners, card, and how readily a pixel counts as leaf.
    marked: Marked,
    /// Version of the marks that these stand in place of; 0 where there were none.
    version: i64,
}

/// Keeps what was marked in a photo, measures it, and records what the trial is judged by.
#[utoipa::path(
    put,
    operation_id = "photos_mark",
    path = "/trials/{id}/photos/{photo}",
    params(("id" = String, Path), ("photo" = String, Path)),
    request_body = MarkSent,
    responses(
        (status = 200, body = RecordsAnswer),
        (status = 404, body = RecordsAnswer),
        (status = 409, body = RecordsAnswer),
        (status = 422, body = RecordsAnswer),
    ),
)]
pub(crate) async fn mark(
    State(app): State<App>,
    who: Who,
    Path((id, photo)): Path<(String, String)>,
    sent: Sent<MarkSent>,
) -> Result<RecordsAnswer, Problem> {
    app.run(move |store| {
        let MarkSent { marked, version } = sent.body;
        let found = of(store, &id, &photo)?;
        let (figures, _) = measured(store, &found, &marked)?;
        let new = NewMarks {
            photo,
            marked,
            figures,
            version,
        };
        records::answer_one(store.mark_photo(&sent.stamp, who.role, &id, &new))
    })
    .await
}
