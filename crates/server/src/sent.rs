//! A body as it was sent, with the stamp that the write carries.

use crate::access::Who;
use crate::error::Problem;
use axum::body::Bytes;
use axum::extract::{FromRequest, Request};
use iron_twin_store::Stamp;
use jiff::Timestamp;
use serde::de::DeserializeOwned;

/// Longest idempotency key.
const MOST_KEY_LETTERS: usize = 200;

/// A JSON body and its stamp. An empty body reads as `null`.
pub(crate) struct Sent<T> {
    pub body: T,
    pub stamp: Stamp,
}

impl<S: Send + Sync, T: DeserializeOwned> FromRequest<S> for Sent<T> {
    type Rejection = Problem;

    async fn from_request(request: Request, state: &S) -> Result<Self, Problem> {
        let path = request.uri().path().to_owned();
        let who = request
            .extensions()
            .get::<Who>()
            .map_or_else(|| "owner".to_owned(), |w| w.name.clone());
        let key = request
            .headers()
            .get("idempotency-key")
            .map(|v| v.to_str().unwrap_or_default().to_owned());
        if key
            .as_ref()
            .is_some_and(|k| k.is_empty() || k.len() > MOST_KEY_LETTERS)
        {
            let wanted = format!(
                "an Idempotency-Key has 1 to {MOST_KEY_LETTERS} letters, figures or signs of ASCII"
            );
            return Err(Problem::bad_request(wanted));
        }
        let bytes = Bytes::from_request(request, state)
            .await
            .map_err(|e| Problem::bad_request(e.to_string()))?;
        let text = if bytes.is_empty() {
            &b"null"[..]
        } else {
            &bytes
        };
        let body = serde_json::from_slice(text).map_err(|e| Problem::bad_request(e.to_string()))?;
        // The path belongs to what the key stands for: the same body to another trial is another
        // request.
        let request = key.map(|key| (key, format!("{path}\n{}", String::from_utf8_lossy(text))));
        Ok(Self {
            body,
            stamp: Stamp {
                who,
                now: Timestamp::now(),
                request,
            },
        })
    }
}
