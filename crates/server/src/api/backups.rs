//! Backups of the whole farm: made now or every night, listed, and taken to another disk. For the
//! owner alone: a backup holds the sealed keys.

use crate::app::App;
use crate::clock::now;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::header;
use axum::response::IntoResponse;
use iron_twin_store::Store;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A backup that is kept.
#[derive(Serialize, ToSchema)]
pub(crate) struct BackupView {
    /// Name of its file; it says when it was made.
    name: String,
    /// Size, bytes.
    bytes: u64,
}

/// The backups that are kept beside the data file.
#[derive(Serialize, ToSchema)]
pub(crate) struct BackupsView {
    /// How many nightly ones are kept; 0 makes none.
    nightly: u32,
    /// The data file on this computer.
    data: String,
    /// Where the backups stand.
    folder: String,
    /// Those there are, newest first.
    backups: Vec<BackupView>,
}

fn view(store: &Store) -> Result<BackupsView, Problem> {
    let backups = store.backups()?.into_iter().map(|kept| BackupView {
        name: kept.name,
        bytes: kept.bytes,
    });
    Ok(BackupsView {
        nightly: store.nightly_backups()?,
        data: store.path().display().to_string(),
        folder: store.backup_folder().display().to_string(),
        backups: backups.collect(),
    })
}

/// The backups there are.
#[utoipa::path(get, operation_id = "backups_list", path = "/backups",
    responses((status = 200, body = BackupsView), (status = 403, body = Problem)))]
pub(crate) async fn list(State(app): State<App>) -> Result<Json<BackupsView>, Problem> {
    app.run(|store| Ok(Json(view(store)?))).await
}

/// Makes a backup now, and reads it again.
#[utoipa::path(
    post,
    operation_id = "backups_make",
    path = "/backups",
    responses(
        (status = 200, body = BackupsView),
        (status = 403, body = Problem),
        (status = 507, body = Problem),
    ),
)]
pub(crate) async fn make(State(app): State<App>) -> Result<Json<BackupsView>, Problem> {
    app.run_alone(|store| {
        store.back_up_now(&now(&store.farm()?), false)?;
        Ok(Json(view(store)?))
    })
    .await
}

/// How many nightly backups are kept.
#[derive(Deserialize, ToSchema)]
pub(crate) struct NightlySent {
    /// So many; 0 makes none.
    nightly: u32,
}

/// Sets how many nightly backups are kept.
#[utoipa::path(
    put,
    operation_id = "backups_nightly",
    path = "/backups",
    request_body = NightlySent,
    responses(
        (status = 200, body = BackupsView),
        (status = 403, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn nightly(
    State(app): State<App>,
    sent: Sent<NightlySent>,
) -> Result<Json<BackupsView>, Problem> {
    app.run(move |store| {
        store.set_nightly_backups(&sent.stamp, sent.body.nightly)?;
        Ok(Json(view(store)?))
    })
    .await
}

/// A backup, to be kept on another disk.
#[utoipa::path(
    get,
    operation_id = "backups_file",
    path = "/backups/{name}",
    params(("name" = String, Path)),
    responses(
        (status = 200, body = Vec<u8>, content_type = "application/vnd.sqlite3"),
        (status = 403, body = Problem),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn file(
    State(app): State<App>,
    Path(name): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    let own = name.clone();
    let path = app.run(move |store| Ok(store.backup_file(&own)?)).await?;
    let file = tokio::fs::File::open(path)
        .await
        .map_err(|e| Problem::internal(&e))?;
    let headers = [
        (header::CONTENT_TYPE, "application/vnd.sqlite3".to_owned()),
        // The names of backups are the program's own: letters, figures, hyphens.
        (
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{name}\""),
        ),
    ];
    Ok((
        headers,
        axum::body::Body::from_stream(tokio_util::io::ReaderStream::new(file)),
    ))
}
