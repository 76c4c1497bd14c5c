//! Stores: the shelves with their generic and own entries, changed one by one or as CSV.

use crate::api::tell::file_headers;
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use crate::view::UndoneView;
use axum::Json;
use axum::extract::{Path, State};
use axum::response::IntoResponse;
use iron_twin_core::stores::{Item, Shelf, Stores, csv, shelves};
use iron_twin_store::Store;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// An entry on a shelf.
#[derive(Serialize, ToSchema)]
pub(crate) struct ItemView {
    /// Random id of an own entry; null for a generic one.
    id: Option<String>,
    /// Version to send back with a change; 0 for a generic one.
    version: i64,
    /// The entry.
    #[serde(flatten)]
    item: Item,
}

/// A shelf with what stands on it.
#[derive(Serialize, ToSchema)]
pub(crate) struct ShelfView {
    /// Key, names and fields.
    #[serde(flatten)]
    shelf: Shelf,
    /// Entries, the grower's own first.
    items: Vec<ItemView>,
}

fn view(store: &Store) -> Result<Vec<ShelfView>, Problem> {
    let own = store.own_items()?;
    let all = Stores::with_own(own.iter().map(|o| o.item.clone()).collect());
    let of = |shelf: &Shelf| {
        let entries = all.items().iter().filter(|i| i.shelf == shelf.key);
        entries
            .map(|item| {
                let known = own
                    .iter()
                    .find(|o| o.item.shelf == item.shelf && o.item.name == item.name);
                let (id, version) = known.map_or((None, 0), |o| (Some(o.id.clone()), o.version));
                ItemView {
                    id,
                    version,
                    item: item.clone(),
                }
            })
            .collect()
    };
    Ok(shelves::ALL
        .iter()
        .map(|(shelf, _)| ShelfView {
            shelf: **shelf,
            items: of(shelf),
        })
        .collect())
}

/// All shelves.
#[utoipa::path(
    get,
    operation_id = "stores_get",
    path = "/stores",
    responses((status = 200, body = Vec<ShelfView>)),
)]
pub(crate) async fn get(State(app): State<App>) -> Result<Json<Vec<ShelfView>>, Problem> {
    app.run(|store| Ok(Json(view(store)?))).await
}

/// An entry as changed, or a new one.
#[derive(Deserialize, ToSchema)]
pub(crate) struct ItemSent {
    /// Id of the own entry that is changed; left out for a new one.
    #[serde(default)]
    id: Option<String>,
    /// Version on which the change was made; 0 for a new one.
    #[serde(default)]
    version: i64,
    /// The entry.
    item: Item,
}

/// Puts an entry on its shelf.
#[utoipa::path(
    post,
    operation_id = "stores_put",
    path = "/stores/items",
    request_body = ItemSent,
    responses(
        (status = 200, body = Vec<ShelfView>),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn put(
    State(app): State<App>,
    sent: Sent<ItemSent>,
) -> Result<Json<Vec<ShelfView>>, Problem> {
    app.run(move |store| {
        store.put_item(
            &sent.stamp,
            sent.body.id.as_deref(),
            &sent.body.item.tidied(),
            sent.body.version,
        )?;
        Ok(Json(view(store)?))
    })
    .await
}

/// Which entry to take off.
#[derive(Deserialize, ToSchema)]
pub(crate) struct RemoveSent {
    /// Version that is taken off.
    version: i64,
}

/// Takes an own entry off its shelf; a generic one of that name comes back.
#[utoipa::path(
    post,
    operation_id = "stores_remove",
    path = "/stores/items/{id}/remove",
    params(("id" = String, Path)),
    request_body = RemoveSent,
    responses(
        (status = 200, body = Vec<ShelfView>),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
    ),
)]
pub(crate) async fn remove(
    State(app): State<App>,
    Path(id): Path<String>,
    sent: Sent<RemoveSent>,
) -> Result<Json<Vec<ShelfView>>, Problem> {
    app.run(move |store| {
        store.remove_item(&sent.stamp, &id, sent.body.version)?;
        Ok(Json(view(store)?))
    })
    .await
}

/// A CSV file.
#[derive(Deserialize, ToSchema)]
pub(crate) struct CsvSent {
    /// The file's text: columns `name`, `source` and keys of fields.
    csv: String,
}

/// Takes in a CSV file of one shelf, as a whole or not at all.
#[utoipa::path(
    post,
    operation_id = "stores_import",
    path = "/stores/{shelf}/import",
    params(("shelf" = String, Path)),
    request_body = CsvSent,
    responses(
        (status = 200, body = Vec<ShelfView>),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn import(
    State(app): State<App>,
    Path(shelf): Path<String>,
    sent: Sent<CsvSent>,
) -> Result<Json<Vec<ShelfView>>, Problem> {
    app.run(move |store| {
        store.import_items(&sent.stamp, &shelf, sent.body.csv.as_bytes())?;
        Ok(Json(view(store)?))
    })
    .await
}

/// A shelf as CSV, generic entries included; it comes in again without loss.
#[utoipa::path(
    get,
    operation_id = "stores_export",
    path = "/stores/{shelf}/export.csv",
    params(("shelf" = String, Path)),
    responses(
        (status = 200, body = String, content_type = "text/csv"),
        (status = 404, body = Problem),
    ),
)]
pub(crate) async fn export(
    State(app): State<App>,
    Path(shelf): Path<String>,
) -> Result<impl IntoResponse, Problem> {
    app.run(move |store| {
        let shelf = shelves::find(&shelf)
            .ok_or_else(|| Problem::not_found(format!("There is no shelf '{shelf}'.")))?;
        let all = store.shelves()?;
        let items = all.items().iter().filter(|i| i.shelf == shelf.key);
        Ok((
            file_headers(shelf.name, "", "csv", "text/csv; charset=utf-8"),
            csv::write(shelf, items),
        ))
    })
    .await
}

/// Takes back the last change of the shelves; a file that was taken in, as a whole.
#[utoipa::path(post, operation_id = "stores_undo", path = "/stores/undo",
    responses((status = 200, body = UndoneView), (status = 409, body = Problem)))]
pub(crate) async fn undo(
    State(app): State<App>,
    sent: Sent<Option<()>>,
) -> Result<Json<UndoneView>, Problem> {
    app.run(move |store| Ok(Json(store.undo_shelves(&sent.stamp)?.into())))
        .await
}
