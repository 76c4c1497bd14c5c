//! How long a request may take, and how an error is told that no handler made.

use crate::error::Problem;
use axum::body::Body;
use axum::extract::Request;
use axum::http::{HeaderName, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};
use http_body_util::Limited;
use std::time::Duration;

/// How long the head of a request may take to come.
pub(crate) const HEAD: Duration = Duration::from_secs(15);
/// How long a request may take from its head to the head of its answer.
const WHOLE: Duration = Duration::from_secs(30);
/// How long requests that are being answered are waited for at the end.
pub(crate) const AT_THE_END: Duration = Duration::from_secs(3);
/// Longest text of an error that is passed on, bytes.
const MOST_TEXT: usize = 4096;

/// What an error says that came without a problem: of the framework, of a limit, of the sessions.
fn problem(status: StatusCode, text: &str) -> Problem {
    let told = |usual: &str| {
        if text.trim().is_empty() {
            usual.to_owned()
        } else {
            text.trim().to_owned()
        }
    };
    let (code, title, detail) = match status {
        StatusCode::NOT_FOUND => (
            "not_found",
            "Not found",
            told("There is nothing under this address."),
        ),
        StatusCode::METHOD_NOT_ALLOWED => (
            "method_not_allowed",
            "Not so",
            told("This address is not asked in that way."),
        ),
        StatusCode::PAYLOAD_TOO_LARGE => (
            "too_large",
            "Too large",
            told("What was sent is larger than 1 MB."),
        ),
        StatusCode::UNSUPPORTED_MEDIA_TYPE => (
            "not_json",
            "The request cannot be read",
            told("JSON is asked for."),
        ),
        status if status.is_client_error() => (
            "bad_request",
            "The request cannot be read",
            told("The request cannot be read."),
        ),
        _ => {
            let usual = "Nothing of this was saved. What was saved before is kept; try again, and \
                         look at the log if it stays.";
            ("internal", "Something went wrong here", usual.to_owned())
        }
    };
    Problem::new(status, code, title, detail)
}

/// Most bytes of a request.
const MOST: usize = 1 << 20;
/// Most bytes of a request that brings a picture.
pub(crate) const MOST_OF_PICTURE: usize = 25 << 20;

/// Most bytes of a request that brings a logger's file: some two million rows.
pub(crate) const MOST_OF_LOG: usize = 100 << 20;
/// How long such a file may take to come.
const WHOLE_LOG: Duration = Duration::from_secs(600);

/// Whether a request brings something into a trial, by the last part of its address.
fn brings(request: &Request, what: &str) -> bool {
    let path = request.uri().path();
    request.method() == Method::POST && path.starts_with("/api/v1/trials/") && path.ends_with(what)
}

/// Refuses what is too large, before it is read where its length is told, and while it is read
/// otherwise.
pub(crate) async fn sized(request: Request, next: Next) -> Response {
    let most = match () {
        () if brings(&request, "/photos") => MOST_OF_PICTURE,
        () if brings(&request, "/loggers") => MOST_OF_LOG,
        () => MOST,
    };
    let told = request
        .headers()
        .get(header::CONTENT_LENGTH)
        .and_then(|v| v.to_str().ok()?.parse::<usize>().ok());
    if told.is_some_and(|length| length > most) {
        let detail = format!("What was sent is larger than {} MB.", most >> 20);
        return Problem::new(
            StatusCode::PAYLOAD_TOO_LARGE,
            "too_large",
            "Too large",
            detail,
        )
        .into_response();
    }
    next.run(request.map(|body| Body::new(Limited::new(body, most))))
        .await
}

/// Ends what takes too long, and tells every error of the API as a problem.
pub(crate) async fn told(request: Request, next: Next) -> Response {
    let api = request.uri().path().starts_with("/api/");
    let time = if brings(&request, "/loggers") {
        WHOLE_LOG
    } else {
        WHOLE
    };
    let Ok(response) = tokio::time::timeout(time, next.run(request)).await else {
        let detail = "The request did not come whole in time, or took too long. Look whether it \
                      was done, and try again.";
        return Problem::new(StatusCode::REQUEST_TIMEOUT, "too_slow", "Too slow", detail)
            .into_response();
    };
    let status = response.status();
    let kind = response
        .headers()
        .get(header::CONTENT_TYPE)
        .and_then(|v| v.to_str().ok())
        .unwrap_or_default();
    // A refused record is told in the shape of all records.
    let is_told =
        kind.starts_with("application/problem+json") || kind.starts_with("application/json");
    if !api || !(status.is_client_error() || status.is_server_error()) || is_told {
        return response;
    }
    let (parts, body) = response.into_parts();
    let bytes = axum::body::to_bytes(body, MOST_TEXT)
        .await
        .unwrap_or_default();
    let mut response = problem(status, &String::from_utf8_lossy(&bytes)).into_response();
    let replaced =
        |name: &HeaderName| [header::CONTENT_TYPE, header::CONTENT_LENGTH].contains(name);
    for (name, value) in parts.headers.iter().filter(|(name, _)| !replaced(name)) {
        response.headers_mut().append(name, value.clone());
    }
    response
}
