//! Files of loggers: brought, looked at, told how they are read, taken in with their progress told,
//! and taken back.

use super::tracks::place_words;
use crate::access::Who;
use crate::app::App;
use crate::error::Problem;
use crate::incoming::{Arrived, Standing, as_utf8, ends, layout_of};
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, Query, Request, State};
use axum::http::StatusCode;
use http_body_util::BodyExt;
use iron_twin_core::catalogue::logged::{Logged, WrittenIn};
use iron_twin_core::tend::logger::layout::Layout;
use iron_twin_core::tend::logger::{ColumnUse, Mapping, ProbeAt, Row, Within, read};
use iron_twin_core::trial::Trial;
use iron_twin_store::Store;
use iron_twin_store::series::LogFile;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;
use std::ops::ControlFlow;
use std::sync::Arc;
use std::sync::atomic::Ordering;
use tokio::io::AsyncWriteExt;
use utoipa::{IntoParams, ToSchema};

/// A row that was not taken in.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerBadRow)]
pub(crate) struct BadRowView {
    /// Its line in the file, from 1.
    line: u64,
    /// Why.
    why: String,
}

/// A file that was taken in.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerFile)]
pub(crate) struct FileView {
    /// Random id.
    id: String,
    /// Its name.
    name: String,
    /// What it brought, in words, each with its place.
    holds: Vec<String>,
    /// Rows that brought something new.
    taken: u64,
    /// Rows that stood there already.
    doubled: u64,
    /// Rows with a value where another one stands already, which was kept.
    other: u64,
    /// Rows without a value.
    empty: u64,
    /// Rows that cannot be read.
    bad: u64,
    /// The first of the others and of the bad ones.
    bad_rows: Vec<BadRowView>,
    /// When it was taken in (RFC 3339).
    at: String,
    /// By whom.
    who: String,
    /// Whether who asks may take it back.
    own: bool,
}

fn file_view(trial: &Trial, file: LogFile, who: &str) -> FileView {
    let holds = file.mapping.columns.iter();
    let holds = holds
        .map(|c| format!("{}, {}", c.quantity.name(), place_words(trial, &c.place)))
        .collect();
    let bad = file.bad_rows.into_iter().map(|b| BadRowView {
        line: b.line,
        why: b.why,
    });
    FileView {
        id: file.id,
        name: file.name,
        holds,
        taken: file.taken,
        doubled: file.doubled,
        other: file.other,
        empty: file.empty,
        bad: file.bad,
        bad_rows: bad.collect(),
        at: file.at.to_string(),
        own: file.who == who && trial.reveal.is_none(),
        who: file.who,
    }
}

/// How a file that came in stands.
#[derive(Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
#[schema(as = LoggerStanding)]
pub(crate) enum StandingView {
    /// It waits to be told how it is read.
    Waiting,
    /// It is being taken in.
    Running,
    /// It is in; what became of its rows.
    Done(FileView),
    /// It was not taken in, and why.
    Failed(String),
}

/// A file that came in.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerArrived)]
pub(crate) struct ArrivedView {
    /// Its token.
    token: String,
    /// Its name.
    name: String,
    /// Who brought it.
    who: String,
    /// How large it is, bytes.
    bytes: u64,
    /// Bytes of it that were read.
    read: u64,
    /// How it stands.
    standing: StandingView,
}

fn arrived_view(trial: &Trial, file: &Arrived, who: &str) -> ArrivedView {
    ArrivedView {
        token: file.token.clone(),
        name: file.name.clone(),
        who: file.who.clone(),
        bytes: file.bytes,
        read: file.read.load(Ordering::Relaxed).min(file.bytes),
        standing: match file.standing() {
            Standing::Waiting => StandingView::Waiting,
            Standing::Running => StandingView::Running,
            Standing::Done(own) => StandingView::Done(file_view(trial, *own, who)),
            Standing::Failed(why) => StandingView::Failed(why),
        },
    }
}

/// A quantity that a logger records.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerQuantity)]
pub(crate) struct QuantityView {
    /// Its key.
    quantity: Logged,
    /// As a grower says it.
    name: &'static str,
    /// Units in which it is written; the first is its own.
    units: &'static [WrittenIn],
}

/// A place where a probe stands.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerPlace)]
pub(crate) struct PlaceView {
    /// Which.
    place: ProbeAt,
    /// In words.
    name: String,
}

/// Files of loggers in a trial.
#[derive(Serialize, ToSchema)]
pub(crate) struct LoggersView {
    /// Files that were taken in, newest first.
    files: Vec<FileView>,
    /// Files that came in and wait, are being taken in, or could not be.
    incoming: Vec<ArrivedView>,
    /// What a column can hold.
    quantities: Vec<QuantityView>,
    /// Where a probe can stand.
    places: Vec<PlaceView>,
}

fn places(trial: &Trial) -> Vec<PlaceView> {
    let rack = &trial.plan.rack;
    let shelves = if rack.has_rounds() || rack.levels < 2 {
        0
    } else {
        rack.levels
    };
    let shelves = (1..=shelves).map(ProbeAt::Shelf);
    let codes: BTreeSet<&str> = trial.units.iter().map(|u| u.code.as_str()).collect();
    let units = codes.into_iter().map(|code| ProbeAt::Unit(code.to_owned()));
    let all = std::iter::once(ProbeAt::Room).chain(shelves).chain(units);
    all.map(|place| PlaceView {
        name: place_words(trial, &place),
        place,
    })
    .collect()
}

/// Files of loggers in a trial, and those on their way.
#[utoipa::path(
    get,
    operation_id = "loggers_list",
    path = "/trials/{id}/loggers",
    params(("id" = String, Path)),
    responses((status = 200, body = LoggersView), (status = 404, body = Problem)),
)]
pub(crate) async fn list(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
) -> Result<Json<LoggersView>, Problem> {
    let incoming = Arc::clone(&app.incoming);
    app.run(move |store| {
        let trial = store.trial(&id)?;
        let files = store.log_files(&id)?.into_iter().rev();
        let view = |quantity: Logged| QuantityView {
            quantity,
            name: quantity.name(),
            units: quantity.units(),
        };
        Ok(Json(LoggersView {
            files: files
                .map(|file| file_view(&trial, file, &who.name))
                .collect(),
            incoming: incoming
                .of(&id)
                .iter()
                .map(|file| arrived_view(&trial, file, &who.name))
                .collect(),
            quantities: Logged::ALL.into_iter().map(view).collect(),
            places: places(&trial),
        }))
    })
    .await
}

/// The file's name.
#[derive(Deserialize, IntoParams)]
pub(crate) struct BringQuery {
    /// As it is called on the device.
    #[serde(default)]
    name: String,
}

/// A file that came in, and how it is likely to be read.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerBrought)]
pub(crate) struct BroughtView {
    /// The file.
    file: ArrivedView,
    /// How it is laid out.
    layout: Layout,
    /// How it is likely to be read.
    mapping: Mapping,
    /// Whether a file with this head was read in this way before.
    remembered: bool,
}

/// The head of a file, by which the way of reading it is remembered.
fn head_of(layout: &Layout) -> Option<String> {
    let headings: Vec<&str> = layout.columns.iter().map(|c| c.heading.as_str()).collect();
    let told = headings.iter().any(|h| !h.is_empty());
    told.then(|| headings.join(&layout.separator.to_string()))
}

/// How a file is likely to be read, by what its heads say; everything stands in the room until
/// somebody says otherwise.
fn guessed(layout: &Layout, zone: String) -> Mapping {
    let mut known = BTreeSet::new();
    let columns = (0..).zip(&layout.columns).filter_map(|(column, found)| {
        let quantity = found.quantity?;
        known.insert(quantity).then(|| ColumnUse {
            column,
            quantity,
            unit: found.unit.clone(),
            place: ProbeAt::Room,
        })
    });
    Mapping {
        separator: layout.separator,
        decimal_comma: layout.decimal_comma,
        head_rows: layout.head_rows,
        time: layout.time.unwrap_or(0),
        time_of_day: layout.time_of_day,
        format: layout.formats.first().cloned().unwrap_or_default(),
        zone,
        columns: columns.collect(),
    }
}

fn unreadable(e: &std::io::Error) -> Problem {
    tracing::error!(error = %e, "a file that came in");
    match e.kind() {
        std::io::ErrorKind::StorageFull | std::io::ErrorKind::QuotaExceeded => {
            iron_twin_store::StoreError::DiskFull.into()
        }
        _ => Problem::internal(e),
    }
}

fn brought(store: &Store, file: &Arrived) -> Result<BroughtView, Problem> {
    let trial = store.trial(&file.trial)?;
    as_utf8(&file.path).map_err(|e| unreadable(&e))?;
    let layout = layout_of(&file.path).map_err(|e| unreadable(&e))?;
    let layout = layout.ok_or_else(|| {
        let why = "there is no table in it: a logger's file has rows of a time and figures, with \
                   commas, semicolons, tabs or bars between";
        Problem::refused("file", why)
    })?;
    if layout.time.is_none() {
        return Err(Problem::refused(
            "file",
            "no column of it can be read as a time",
        ));
    }
    let known = match head_of(&layout) {
        Some(head) => store.remembered_mapping(&trial, &head)?,
        None => None,
    };
    // One that was remembered for other times of writing is found out about anew.
    let known = known.filter(|own| layout.formats.contains(&own.format) && !own.columns.is_empty());
    let remembered = known.is_some();
    let mapping = match known {
        Some(own) => own,
        None => guessed(
            &layout,
            store
                .farm()?
                .time_zone()
                .iana_name()
                .unwrap_or("UTC")
                .to_owned(),
        ),
    };
    Ok(BroughtView {
        file: arrived_view(&trial, file, &file.who),
        layout,
        mapping,
        remembered,
    })
}

/// Brings a file as it comes from a logger, and tells how it is likely to be read. Nothing is taken
/// in yet.
#[utoipa::path(
    post,
    operation_id = "loggers_bring",
    path = "/trials/{id}/loggers",
    params(("id" = String, Path), BringQuery),
    request_body(content = Vec<u8>, content_type = "text/csv"),
    responses(
        (status = 201, body = BroughtView),
        (status = 404, body = Problem),
        (status = 413, body = Problem),
        (status = 422, body = Problem),
        (status = 507, body = Problem),
    ),
)]
pub(crate) async fn bring(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    Query(query): Query<BringQuery>,
    request: Request,
) -> Result<(StatusCode, Json<BroughtView>), Problem> {
    let trial = id.clone();
    let folder = app
        .run(move |store| Ok(store.trial(&trial).map(|_| store.incoming_folder())?))
        .await?;
    tokio::fs::create_dir_all(&folder)
        .await
        .map_err(|e| unreadable(&e))?;
    let token = iron_twin_store::new_token();
    let path = folder.join(&token);
    // From here on the file goes with what stands for it, whatever happens.
    let mut arrived = Arrived::new(token, id, who.name, query.name, path.clone(), 0);
    let mut file = tokio::fs::File::create(&path)
        .await
        .map_err(|e| unreadable(&e))?;
    let mut body = request.into_body();
    while let Some(frame) = body.frame().await {
        let frame = frame.map_err(|_| {
            let detail = format!(
                "A logger's file has at most {} MB, and must come whole.",
                crate::limits::MOST_OF_LOG >> 20
            );
            Problem::new(
                StatusCode::PAYLOAD_TOO_LARGE,
                "too_large",
                "Too large",
                detail,
            )
        })?;
        if let Ok(data) = frame.into_data() {
            arrived.bytes += data.len() as u64;
            file.write_all(&data).await.map_err(|e| unreadable(&e))?;
        }
    }
    file.flush().await.map_err(|e| unreadable(&e))?;
    drop(file);
    let incoming = Arc::clone(&app.incoming);
    app.run(move |store| {
        let view = brought(store, &arrived)?;
        incoming.keep(arrived);
        Ok((StatusCode::CREATED, Json(view)))
    })
    .await
}

/// A row as it would be read.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerReadRow)]
pub(crate) struct ReadRow {
    /// When, by the farm's clock; null where the row is not taken in.
    at: Option<String>,
    /// The values of the columns that are taken in, each in its quantity's own unit; null where one
    /// is missing.
    values: Vec<Option<f64>>,
    /// Why it is not taken in.
    why: Option<String>,
}

/// The first rows and the last as they would be read.
#[derive(Serialize, ToSchema)]
#[schema(as = LoggerPreview)]
pub(crate) struct PreviewView {
    /// The first.
    first: Vec<ReadRow>,
    /// The last, which tell whether day and month stand the right way round; empty for a short
    /// file.
    last: Vec<ReadRow>,
}

/// Rows shown at the beginning, and at the end.
const SHOWN: usize = 6;

fn read_rows(text: &str, mapping: &Mapping, store: &Store) -> Result<Vec<ReadRow>, Problem> {
    let zone = store.farm()?.time_zone();
    let within = Within {
        from: Timestamp::from_second(978_307_200).unwrap_or(Timestamp::UNIX_EPOCH),
        until: Timestamp::MAX,
    };
    let mut rows = Vec::new();
    let wrong = |e: iron_twin_core::tend::logger::MappingError| Problem::refused(e.field, e.why);
    read(text.as_bytes(), mapping, within, |row| {
        match row {
            Row::Good(_, at, values) => rows.push(ReadRow {
                at: Some(
                    at.to_zoned(zone.clone())
                        .strftime("%Y-%m-%d %H:%M:%S")
                        .to_string(),
                ),
                values: values.to_vec(),
                why: None,
            }),
            Row::Bad(_, why) => rows.push(ReadRow {
                at: None,
                values: Vec::new(),
                why: Some(why),
            }),
            Row::Empty => {}
        }
        ControlFlow::Continue(())
    })
    .map_err(wrong)?;
    Ok(rows)
}

/// How the first rows of a file and its last would be read.
#[utoipa::path(
    post,
    operation_id = "loggers_preview",
    path = "/trials/{id}/loggers/{token}/preview",
    params(("id" = String, Path), ("token" = String, Path)),
    request_body = Mapping,
    responses(
        (status = 200, body = PreviewView),
        (status = 404, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn preview(
    State(app): State<App>,
    Path((id, token)): Path<(String, String)>,
    Json(mapping): Json<Mapping>,
) -> Result<Json<PreviewView>, Problem> {
    let file = app.incoming.find(&id, &token)?;
    app.run(move |store| {
        let (beginning, end) = ends(&file.path).map_err(|e| unreadable(&e))?;
        let mut first = read_rows(&beginning, &mapping, store)?;
        let mut last = read_rows(
            &end,
            &Mapping {
                head_rows: 0,
                ..mapping
            },
            store,
        )?;
        first.truncate(SHOWN);
        last.drain(..last.len().saturating_sub(SHOWN));
        Ok(Json(PreviewView { first, last }))
    })
    .await
}

/// Takes a file in by a mapping, beside everything else; ask the list how far it is. The mapping is
/// remembered for files with this head.
#[utoipa::path(
    post,
    operation_id = "loggers_take_in",
    path = "/trials/{id}/loggers/{token}/take-in",
    params(("id" = String, Path), ("token" = String, Path)),
    request_body = Mapping,
    responses(
        (status = 202),
        (status = 404, body = Problem),
        (status = 409, body = Problem),
        (status = 422, body = Problem),
    ),
)]
pub(crate) async fn take_in(
    State(app): State<App>,
    Path((id, token)): Path<(String, String)>,
    sent: Sent<Mapping>,
) -> Result<StatusCode, Problem> {
    let file = app.incoming.find(&id, &token)?;
    let Sent {
        body: mapping,
        stamp,
    } = sent;
    let own = Arc::clone(&file);
    let (mapping, stamp) = app
        .run(move |store| {
            mapping
                .check()
                .map_err(|e| Problem::refused(e.field, e.why))?;
            if store.trial(&own.trial)?.reveal.is_some() {
                return Err(Problem::locked(
                    "The key is open: records can no longer change.",
                ));
            }
            if !own.begin() {
                return Err(Problem::locked("This file is being taken in already."));
            }
            if let Some(head) = layout_of(&own.path)
                .ok()
                .flatten()
                .as_ref()
                .and_then(head_of)
            {
                store.remember_mapping(&stamp, &head, &mapping)?;
            }
            Ok((mapping, stamp))
        })
        .await?;
    let store = Arc::clone(&app.store);
    tokio::task::spawn_blocking(move || file.take_in(&store, &stamp, &mapping));
    Ok(StatusCode::ACCEPTED)
}

/// Gives up a file that waits or is being taken in, or puts away the word of one that is in. What
/// was taken in of it is not kept, unless it was taken in to its end.
#[utoipa::path(
    delete,
    operation_id = "loggers_give_up",
    path = "/trials/{id}/loggers/{token}",
    params(("id" = String, Path), ("token" = String, Path)),
    responses((status = 204), (status = 404, body = Problem)),
)]
pub(crate) async fn give_up(
    State(app): State<App>,
    Path((id, token)): Path<(String, String)>,
) -> Result<StatusCode, Problem> {
    app.incoming.give_up(&id, &token)?;
    Ok(StatusCode::NO_CONTENT)
}

/// Takes a file back, with all that it brought.
#[utoipa::path(
    post,
    operation_id = "loggers_take_back",
    path = "/trials/{id}/loggers/{token}/take-back",
    params(("id" = String, Path), ("token" = String, Path, description = "Id of the file")),
    responses((status = 204), (status = 404, body = Problem), (status = 409, body = Problem)),
)]
pub(crate) async fn take_back(
    State(app): State<App>,
    Path((id, file)): Path<(String, String)>,
    sent: Sent<()>,
) -> Result<StatusCode, Problem> {
    app.run(move |store| {
        store.take_back_log(&sent.stamp, &id, &file)?;
        Ok(StatusCode::NO_CONTENT)
    })
    .await
}
