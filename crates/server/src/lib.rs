//! The HTTP API and the built page. One file a station in `api/`; a handler parses, calls, replies.

// A problem is made once for a failed answer; boxing it would buy nothing.
#![allow(clippy::result_large_err)]

mod access;
pub mod api;
mod blind;
mod error;
mod facts;
mod guard;
mod line;
mod page;
mod sent;
mod view;

use axum::Router;
pub use error::Problem;
use iron_twin_store::Store;
use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;
use tokio::net::TcpListener;

/// What every handler shares.
#[derive(Clone)]
pub struct App {
    store: Arc<Store>,
    examples: Option<Examples>,
    /// Whether only this computer can reach it.
    here: bool,
    /// Hosts under which it answers beside its own address.
    hosts: Arc<[String]>,
    tries: Arc<access::Tries>,
}

/// Adds example trials to a farm that has none, as they would stand on the given day.
pub type Examples = fn(&Store, jiff::civil::Date) -> iron_twin_store::Result<()>;

impl App {
    /// An app over an open store.
    #[must_use]
    pub fn new(store: Store) -> Self {
        let tries = Arc::new(access::Tries::default());
        Self { store: Arc::new(store), examples: None, here: true, hosts: Arc::from([]), tries }
    }

    /// Lets others reach it: everybody signs in then. Host names beside addresses must be said, since a page elsewhere
    /// could make a name of its own point here.
    #[must_use]
    pub fn for_others(self, hosts: Vec<String>) -> Self {
        Self { here: false, hosts: hosts.into(), ..self }
    }

    /// Offers example trials to a farm that has none.
    #[must_use]
    pub fn with_examples(self, examples: Examples) -> Self {
        Self { examples: Some(examples), ..self }
    }

    /// Runs work on the store off the async threads.
    async fn run<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Store) -> Result<T, Problem> + Send + 'static,
    ) -> Result<T, Problem> {
        let store = Arc::clone(&self.store);
        tokio::task::spawn_blocking(move || work(&store)).await.unwrap_or_else(|e| Err(Problem::internal(&e)))
    }
}

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
        .layer(axum::middleware::from_fn_with_state(app, guard::check))
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
