//! Records of all kinds: one route, a list in, one answer of one shape.

use crate::access::Who;
use crate::app::App;
use crate::error::Problem;
use crate::sent::Sent;
use axum::Json;
use axum::extract::{Path, State};
use axum::http::StatusCode;
use axum::response::{IntoResponse, Response};
use iron_twin_core::trial::record;
use iron_twin_core::trial::record::head::HeadSent;
use iron_twin_store::StoreError;
use iron_twin_store::records::{Incoming, Kept, NotKept};
use serde::{Deserialize, Serialize};
use utoipa::openapi::schema::{AdditionalProperties, OneOfBuilder, Type};
use utoipa::openapi::{ObjectBuilder, Ref, RefOr, Schema};
use utoipa::{PartialSchema, ToSchema};

/// Most records of a list: a round of readings of the largest trial fits.
const MOST: usize = 1000;
/// The format of lists of records that this program takes.
const FORMAT: u32 = 1;

/// Records, as they are sent.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub(crate) struct RecordsSent {
    /// The format, 1. A page of another version of the program is told to load itself anew; what it
    /// kept stays.
    format: u32,
    /// Whether each is taken in by itself; all of them or none where left out.
    #[serde(default)]
    each: bool,
    /// The records.
    #[schema(value_type = Vec<RecordSent>)]
    records: Vec<record::Sent>,
}

/// A record as it is sent: its kind, of what it is and when, and its value. The API document
/// describes each kind by itself.
struct RecordSent;

impl PartialSchema for RecordSent {
    fn schema() -> RefOr<Schema> {
        let kinds = record::ALL.iter().filter(|kind| kind.sent).map(|kind| {
            let name = (kind.schema)(&mut Vec::new());
            ObjectBuilder::new()
                .property(
                    "kind",
                    ObjectBuilder::new()
                        .schema_type(Type::String)
                        .enum_values(Some([kind.key])),
                )
                .property("head", Ref::from_schema_name("HeadSent"))
                .property("body", Ref::from_schema_name(name))
                .required("kind")
                .required("body")
                .additional_properties(Some(AdditionalProperties::FreeForm(false)))
        });
        kinds.fold(OneOfBuilder::new(), OneOfBuilder::item).into()
    }
}

impl ToSchema for RecordSent {
    fn schemas(all: &mut Vec<(String, RefOr<Schema>)>) {
        all.push(("HeadSent".into(), HeadSent::schema()));
        HeadSent::schemas(all);
        for kind in record::ALL.iter().filter(|kind| kind.sent) {
            (kind.schema)(all);
        }
    }
}

/// What became of one record.
#[derive(Debug, Serialize, ToSchema)]
#[serde(tag = "state", rename_all = "snake_case")]
pub(crate) enum RecordAnswer {
    /// It is kept.
    Kept {
        /// Its number.
        no: i64,
        /// Version to send with a correction.
        version: i64,
    },
    /// It was not taken in.
    Refused {
        /// Why: code, field and what stands there.
        problem: Problem,
    },
    /// It was sound, and was not kept because another of its list was refused.
    Left,
}

/// What became of the records of a list, in its order.
#[derive(Debug, Serialize, ToSchema)]
pub(crate) struct RecordsAnswer {
    /// One for each.
    records: Vec<RecordAnswer>,
}

impl From<Kept> for RecordAnswer {
    fn from(kept: Kept) -> Self {
        Self::Kept {
            no: kept.no,
            version: kept.version,
        }
    }
}

impl IntoResponse for RecordsAnswer {
    /// The status is that of the first that was refused.
    fn into_response(self) -> Response {
        let refused = self.records.iter().find_map(|own| match own {
            RecordAnswer::Refused { problem } => StatusCode::from_u16(problem.status).ok(),
            _ => None,
        });
        (refused.unwrap_or(StatusCode::OK), Json(self)).into_response()
    }
}

/// Whether an error is of the record, and not of the file or the machine.
fn is_refusal(error: &StoreError) -> bool {
    matches!(
        error,
        StoreError::NotFound { .. }
            | StoreError::Stale { .. }
            | StoreError::Locked(_)
            | StoreError::DealtAgain
            | StoreError::Refused { .. }
            | StoreError::Unlikely { .. }
            | StoreError::NotYours
            | StoreError::Sealed
            | StoreError::KeyReused
    )
}

/// The answer to a list of which all was kept, or nothing.
pub(super) fn answer(
    count: usize,
    done: Result<Vec<Kept>, NotKept>,
) -> Result<RecordsAnswer, Problem> {
    match done {
        Ok(kept) => Ok(RecordsAnswer {
            records: kept.into_iter().map(RecordAnswer::from).collect(),
        }),
        Err(NotKept { at, why }) if is_refusal(&why) => {
            let mut refused = Some(Problem::from(why));
            let own = |place: usize| match refused.take_if(|_| place == at) {
                Some(problem) => RecordAnswer::Refused { problem },
                None => RecordAnswer::Left,
            };
            Ok(RecordsAnswer {
                records: (0..count).map(own).collect(),
            })
        }
        Err(NotKept { why, .. }) => Err(why.into()),
    }
}

/// The answer to one record.
pub(super) fn answer_one(done: Result<Kept, StoreError>) -> Result<RecordsAnswer, Problem> {
    answer(
        1,
        done.map(|kept| vec![kept])
            .map_err(|why| NotKept { at: 0, why }),
    )
}

/// Takes records in: what was done, read, weighed, seen and said at the shelf. All of them are kept
/// or none, unless `each` is set. Each kind says by itself what is refused, what is asked about
/// (`unlikely`: send it again with `confirmed`) and who may write it. A record with a key that was
/// seen before is answered again, and not done again.
#[utoipa::path(
    post,
    operation_id = "records_take",
    path = "/trials/{id}/records",
    params(("id" = String, Path)),
    request_body = RecordsSent,
    responses(
        (status = 200, body = RecordsAnswer),
        (status = 403, body = RecordsAnswer),
        (status = 404, body = RecordsAnswer),
        (status = 409, body = RecordsAnswer),
        (status = 422, body = RecordsAnswer),
        (status = 503, body = Problem),
    ),
)]
pub(crate) async fn take(
    State(app): State<App>,
    who: Who,
    Path(id): Path<String>,
    sent: Sent<RecordsSent>,
) -> Result<RecordsAnswer, Problem> {
    let RecordsSent {
        format,
        each,
        records,
    } = sent.body;
    if format != FORMAT {
        return Err(Problem::reload());
    }
    if records.is_empty() || records.len() > MOST {
        return Err(Problem::refused(
            "records",
            format!("a list has 1 to {MOST} records"),
        ));
    }
    let stamp = sent.stamp;
    app.run(move |store| {
        let read = |list: &[record::Sent]| -> Result<Vec<Incoming>, NotKept> {
            let all = list.iter().enumerate();
            all.map(|(at, sent)| Incoming::read(sent).map_err(|why| NotKept { at, why }))
                .collect()
        };
        let take = |list: &[record::Sent]| {
            answer(
                list.len(),
                read(list).and_then(|own| store.record(&stamp, who.role, &id, own)),
            )
        };
        if !each {
            return take(&records);
        }
        let mut all = Vec::with_capacity(records.len());
        for own in records.chunks(1) {
            all.extend(take(own)?.records);
        }
        Ok(RecordsAnswer { records: all })
    })
    .await
}

/// Routes at which earlier versions of the page sent their records, one a kind.
pub(crate) const RETIRED: [&str; 9] = [
    "readings",
    "notes",
    "jobs",
    "weighings",
    "picks",
    "given",
    "line-ups",
    "samples-gone",
    "guesses",
];

/// What an earlier version of the page is told that still waits with a record: to load itself anew.
/// It keeps the record until then, and the new page sends it.
pub(crate) async fn retired() -> Problem {
    Problem::reload()
}
