//! The router over API and page, the address it listens on, and how it stops.

use crate::app::App;
use crate::clock::now;
use crate::tries::Peer;
use crate::{access, api, limits, origin, page};
use axum::Router;
use hyper_util::rt::{TokioIo, TokioTimer};
use hyper_util::server::graceful::GracefulShutdown;
use iron_twin_store::Store;
use std::net::{IpAddr, SocketAddr};
use std::sync::Arc;
use tokio::net::TcpListener;
use tower::ServiceExt;

/// The whole router: API, its document, and the page.
pub fn router(app: App) -> Router {
    let (api, document) = api::routes();
    let document = Arc::new(document);
    let served = Arc::clone(&document);
    Router::new()
        .merge(api.with_state(app.clone()))
        .route(
            "/api/v1/openapi.json",
            axum::routing::get(move || async move { axum::Json((*served).clone()) }),
        )
        .fallback(page::serve)
        .layer(axum::middleware::from_fn_with_state(
            app.clone(),
            access::identify,
        ))
        .layer(access::sessions(Arc::clone(&app.store)))
        .layer(axum::middleware::from_fn_with_state(app, origin::check))
        .layer(axum::middleware::from_fn(limits::sized))
        .layer(axum::middleware::from_fn(limits::told))
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
        "{0} can be reached by others: add an owner with a passphrase first (start on 127.0.0.1, \
         People), or stay there"
    )]
    NobodySignsIn(IpAddr),
    /// Somebody else listens there.
    #[error(
        "port {0} is taken by another program; choose another with --port, or --port 0 for any \
         free one"
    )]
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
    TcpListener::bind(address)
        .await
        .map_err(|why| match why.kind() {
            std::io::ErrorKind::AddrInUse => ServeError::PortTaken(address.port()),
            _ => ServeError::Listen { address, why },
        })
}

/// What is done at the start, and from then on, beside answering.
fn begin(app: &App) {
    let store = Arc::clone(&app.store);
    // Before anybody can bring the next.
    if let Err(error) = store.sweep_logs() {
        tracing::error!(%error, "what was left of a logger's file could not be swept away");
    }
    if let Err(error) = store.bring_pictures_over() {
        tracing::error!(%error, "pictures of before could not be brought to where they stand now");
    }
    tokio::task::spawn_blocking(move || match store.sound(false) {
        Ok(true) => {}
        Ok(false) => tracing::error!(
            "the data file is damaged: stop, keep a copy of it, and restore a backup"
        ),
        Err(error) => tracing::error!(%error, "the data file could not be checked"),
    });
    tokio::spawn(nightly(Arc::clone(&app.store)));
}

/// Serves until `stop`: what is being answered then is answered, what is only half asked is not
/// waited for.
///
/// # Errors
/// Those of the listener.
pub async fn serve(
    listener: TcpListener,
    app: App,
    stop: impl Future<Output = ()>,
) -> std::io::Result<()> {
    begin(&app);
    let instruments = Arc::clone(&app.instruments);
    let router = router(app);
    let graceful = GracefulShutdown::new();
    let mut stop = std::pin::pin!(stop);
    loop {
        let (stream, address) = tokio::select! {
            accepted = listener.accept() => match accepted {
                Ok(accepted) => accepted,
                Err(error) => {
                    // Too many open files, a connection that was given up: those that are open go
                    // on.
                    tracing::warn!(%error, "a connection was not taken");
                    tokio::time::sleep(std::time::Duration::from_millis(100)).await;
                    continue;
                }
            },
            () = &mut stop => break,
        };
        let router = router.clone();
        let service = hyper::service::service_fn(
            move |mut request: hyper::Request<hyper::body::Incoming>| {
                request.extensions_mut().insert(Peer(address.ip()));
                router.clone().oneshot(request)
            },
        );
        let mut http = hyper::server::conn::http1::Builder::new();
        http.timer(TokioTimer::new())
            .header_read_timeout(limits::HEAD);
        let connection = graceful.watch(http.serve_connection(TokioIo::new(stream), service));
        tokio::spawn(async move {
            if let Err(error) = connection.await {
                tracing::debug!(%error, "a connection ended");
            }
        });
    }
    drop(listener);
    instruments.end();
    if tokio::time::timeout(limits::AT_THE_END, graceful.shutdown())
        .await
        .is_err()
    {
        tracing::info!("some connections were still open at the end");
    }
    Ok(())
}

/// How long after the start the first backup is thought of, and how often then.
const AFTER_START: std::time::Duration = std::time::Duration::from_secs(60);
const EVERY: std::time::Duration = std::time::Duration::from_secs(600);
/// Before this hour the night is not over.
const NIGHT_UNTIL: i8 = 3;

/// Makes the backup of each night, or of the day on which the program first runs again.
async fn nightly(store: Arc<Store>) {
    tokio::time::sleep(AFTER_START).await;
    loop {
        let own = Arc::clone(&store);
        let made = tokio::task::spawn_blocking(move || {
            let moment = now(&own.farm()?);
            if moment.hour() < NIGHT_UNTIL {
                Ok(None)
            } else {
                own.back_up_nightly(&moment)
            }
        });
        match made.await {
            Ok(Ok(Some(made))) => tracing::info!(name = made.name, "backup made"),
            Ok(Ok(None)) => {}
            Ok(Err(error)) => tracing::error!(%error, "the nightly backup could not be made"),
            Err(error) => tracing::error!(%error, "the nightly backup could not be made"),
        }
        tokio::time::sleep(EVERY).await;
    }
}

/// Watches from now on for the signals by which a service is stopped; done when one has come. Watch
/// before saying where the program answers: whoever reads that may stop it at once.
///
/// # Errors
/// When the system does not let it watch.
pub fn stopped() -> std::io::Result<impl Future<Output = ()>> {
    #[cfg(unix)]
    {
        use tokio::signal::unix::{SignalKind, signal};
        let mut interrupt = signal(SignalKind::interrupt())?;
        let mut terminate = signal(SignalKind::terminate())?;
        Ok(async move {
            tokio::select! { _ = interrupt.recv() => {}, _ = terminate.recv() => {} }
        })
    }
    #[cfg(not(unix))]
    Ok(async { drop(tokio::signal::ctrl_c().await) })
}
