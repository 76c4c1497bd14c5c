//! The router over API and page, the address it listens on, and how it stops.

use crate::app::App;
use crate::{access, api, origin, page};
use axum::Router;
use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;
use tokio::net::TcpListener;

/// The whole router: API, its document, and the page.
pub fn router(app: App) -> Router {
    let (api, document) = api::routes();
    let document = Arc::new(document);
    let served = Arc::clone(&document);
    Router::new()
        .merge(api.with_state(app.clone()))
        .route("/api/v1/openapi.json", axum::routing::get(move || async move { axum::Json((*served).clone()) }))
        .fallback(page::serve)
        .layer(axum::middleware::from_fn_with_state(app.clone(), access::identify))
        .layer(access::sessions(Arc::clone(&app.store)))
        .layer(axum::middleware::from_fn_with_state(app, origin::check))
        .layer(tower_http::limit::RequestBodyLimitLayer::new(1 << 20))
        .layer(tower_http::compression::CompressionLayer::new())
}

/// The OpenAPI 3.1 document as JSON.
#[must_use]
pub fn openapi() -> String {
    api::routes().1.to_pretty_json().unwrap_or_default()
}

/// Why the server could not start.
#[derive(Debug, thiserror::Error)]
pub enum ServeError {
    /// An address that others can reach, with nobody who could sign in.
    #[error(
        "{0} can be reached by others: add an owner with a passphrase first (start on 127.0.0.1, People), or stay there"
    )]
    NobodySignsIn(IpAddr),
    /// Somebody else listens there.
    #[error("port {0} is taken by another program; choose another with --port, or --port 0 for any free one")]
    PortTaken(u16),
    /// Anything else.
    #[error("cannot listen on {address}: {why}")]
    Listen {
        /// Where.
        address: SocketAddr,
        /// What the system says.
        why: std::io::Error,
    },
}

/// Binds to a loopback address, or to any other once somebody can sign in.
///
/// # Errors
/// [`ServeError`], each with its remedy.
pub async fn bind(address: SocketAddr, somebody_signs_in: bool) -> Result<TcpListener, ServeError> {
    if !address.ip().is_loopback() && !somebody_signs_in {
        return Err(ServeError::NobodySignsIn(address.ip()));
    }
    TcpListener::bind(address).await.map_err(|why| match why.kind() {
        std::io::ErrorKind::AddrInUse => ServeError::PortTaken(address.port()),
        _ => ServeError::Listen { address, why },
    })
}

/// Serves until the process is asked to stop.
///
/// # Errors
/// Those of the listener.
pub async fn serve(listener: TcpListener, app: App) -> std::io::Result<()> {
    let store = Arc::clone(&app.store);
    tokio::task::spawn_blocking(move || match store.sound(false) {
        Ok(true) => {}
        Ok(false) => tracing::error!("the data file is damaged: stop, keep a copy of it, and restore a backup"),
        Err(error) => tracing::error!(%error, "the data file could not be checked"),
    });
    axum::serve(listener, router(app)).with_graceful_shutdown(stopped()).await
}

async fn stopped() {
    let interrupt = tokio::signal::ctrl_c();
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        match signal(SignalKind::terminate()) {
            Ok(mut terminate) => {
                tokio::select! { _ = interrupt => {}, _ = terminate.recv() => {} }
            }
            Err(_) => drop(interrupt.await),
        }
    }
    #[cfg(not(unix))]
    drop(interrupt.await);
}
