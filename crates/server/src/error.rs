//! Errors as problem details (RFC 9457) with stable codes. SQL text goes to the log only.

use axum::http::{StatusCode, header};
use axum::response::{IntoResponse, Response};
use iron_twin_core::verdict::comparison::CompareError;
use iron_twin_stats::StatsError;
use iron_twin_store::StoreError;
use serde::Serialize;
use std::borrow::Cow;
use utoipa::ToSchema;

/// A problem as the client gets it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Problem {
    /// Always `about:blank`; the code tells which problem it is.
    #[serde(rename = "type")]
    pub kind: &'static str,
    /// HTTP status.
    pub status: u16,
    /// Stable code.
    pub code: &'static str,
    /// What happened, in a few words.
    pub title: &'static str,
    /// What happened, what was kept and what to do.
    pub detail: String,
    /// The field at which it arose.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub field: Option<Cow<'static, str>>,
    /// What stands there now, where a write was stale.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub stored: Option<String>,
    /// What was sent, where a write was stale.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub sent: Option<String>,
}

impl Problem {
    pub(crate) fn new(
        status: StatusCode,
        code: &'static str,
        title: &'static str,
        detail: impl Into<String>,
    ) -> Self {
        Self {
            kind: "about:blank",
            status: status.as_u16(),
            code,
            title,
            detail: detail.into(),
            field: None,
            stored: None,
            sent: None,
        }
    }

    pub(crate) fn bad_request(detail: impl Into<String>) -> Self {
        Self::new(
            StatusCode::BAD_REQUEST,
            "bad_request",
            "The request cannot be read",
            detail,
        )
    }

    pub(crate) fn refused(field: impl Into<Cow<'static, str>>, detail: impl Into<String>) -> Self {
        let problem = Self::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "refused",
            "That cannot be right",
            detail,
        );
        Self {
            field: Some(field.into()),
            ..problem
        }
    }

    pub(crate) fn locked(detail: impl Into<String>) -> Self {
        Self::new(
            StatusCode::CONFLICT,
            "locked",
            "That can no longer change",
            detail,
        )
    }

    pub(crate) fn reload() -> Self {
        let detail = "This page is of another version of the program. Load it anew; what waits on \
                      this device stays, and is sent then.";
        Self::new(
            StatusCode::SERVICE_UNAVAILABLE,
            "reload",
            "Load the page anew",
            detail,
        )
    }

    pub(crate) fn sealed() -> Self {
        let detail =
            "This tells what each treatment gets; it opens to recorders and viewers with the key.";
        Self::new(
            StatusCode::FORBIDDEN,
            "sealed",
            "Sealed until the key is opened",
            detail,
        )
    }

    pub(crate) fn not_empty() -> Self {
        let detail =
            "Examples are for a farm without trials, and this one has some. Nothing was added.";
        Self::new(
            StatusCode::CONFLICT,
            "not_empty",
            "There are trials already",
            detail,
        )
    }

    pub(crate) fn not_found(detail: impl Into<String>) -> Self {
        Self::new(StatusCode::NOT_FOUND, "not_found", "Not found", detail)
    }

    pub(crate) fn internal(error: &dyn std::fmt::Display) -> Self {
        tracing::error!(%error, "internal error");
        Self::new(
            StatusCode::INTERNAL_SERVER_ERROR,
            "internal",
            "Something went wrong here",
            "Nothing of this was saved. What was saved before is kept; try again, and look at the \
             log if it stays.",
        )
    }
}

impl Problem {
    /// What is wrong with the data file or its disk.
    fn of_file(error: StoreError, text: String) -> Self {
        match error {
            StoreError::DiskFull => Self::new(
                StatusCode::INSUFFICIENT_STORAGE,
                "disk_full",
                "The disk is full",
                "Nothing of this was saved; what was saved before is kept. Make room and send it \
                 again.",
            ),
            StoreError::Gone(_) => Self::new(
                StatusCode::SERVICE_UNAVAILABLE,
                "data_file_gone",
                "The data file was taken away",
                "It was moved, deleted or exchanged while the program runs. Nothing of this was \
                 saved. Stop the program, put the file back or restore a backup, and start \
                 again.",
            ),
            StoreError::Damaged => Self::new(
                StatusCode::SERVICE_UNAVAILABLE,
                "damaged",
                "The data file is damaged",
                "Nothing of this was saved. Stop the program, keep a copy of the file, and \
                 restore a backup.",
            ),
            StoreError::Unfit { .. } | StoreError::CannotOpen { .. } => Self::new(
                StatusCode::CONFLICT,
                "unfit_file",
                "That file cannot serve",
                text,
            ),
            StoreError::Busy(_) | StoreError::LockedOut => Self::new(
                StatusCode::SERVICE_UNAVAILABLE,
                "busy",
                "Busy",
                "The data file is busy; nothing was saved. Try again in a moment.",
            ),
            other => Self::internal(&other),
        }
    }
}

impl From<StoreError> for Problem {
    fn from(error: StoreError) -> Self {
        let text = error.to_string();
        match error {
            StoreError::NotFound { .. } => Self::not_found(text),
            StoreError::Stale { stored, sent, .. } => Self {
                stored: Some(stored),
                sent: Some(sent),
                ..Self::new(
                    StatusCode::CONFLICT,
                    "stale",
                    "Somebody else changed it meanwhile",
                    text,
                )
            },
            StoreError::Locked(_) => Self::locked(text),
            StoreError::DealtAgain => Self::new(
                StatusCode::CONFLICT,
                "dealt_again",
                "The treatments were dealt again meanwhile",
                text,
            ),
            StoreError::Refused { field, .. } => Self::refused(field, text),
            StoreError::Unlikely { .. } => Self::new(
                StatusCode::UNPROCESSABLE_ENTITY,
                "unlikely",
                "Is that right?",
                text,
            ),
            StoreError::NotYours => Self::new(
                StatusCode::FORBIDDEN,
                "not_yours",
                "That is the owner's",
                text,
            ),
            StoreError::Sealed => Self::sealed(),
            StoreError::KeyReused => Self::new(
                StatusCode::UNPROCESSABLE_ENTITY,
                "key_reused",
                "Request key used before",
                text,
            ),
            StoreError::NothingToUndo => Self::new(
                StatusCode::CONFLICT,
                "nothing_to_undo",
                "Nothing to take back",
                text,
            ),
            other => Self::of_file(other, text),
        }
    }
}

impl From<CompareError> for Problem {
    fn from(error: CompareError) -> Self {
        Self::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "cannot_analyse",
            "No comparison yet",
            error.to_string(),
        )
    }
}

impl From<StatsError> for Problem {
    fn from(error: StatsError) -> Self {
        Self::new(
            StatusCode::UNPROCESSABLE_ENTITY,
            "cannot_compute",
            "That cannot be computed",
            error.to_string(),
        )
    }
}

impl IntoResponse for Problem {
    fn into_response(self) -> Response {
        let status = StatusCode::from_u16(self.status).unwrap_or(StatusCode::INTERNAL_SERVER_ERROR);
        let body = serde_json::to_string(&self).unwrap_or_default();
        (
            status,
            [(header::CONTENT_TYPE, "application/problem+json")],
            body,
        )
            .into_response()
    }
}
