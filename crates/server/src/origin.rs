//! What every request must satisfy, and the headers every answer carries.

use crate::app::App;
use crate::error::Problem;
use axum::extract::{Request, State};
use axum::http::{HeaderValue, Method, StatusCode, header};
use axum::middleware::Next;
use axum::response::{IntoResponse, Response};

/// Host names under which this program answers: a page elsewhere must not reach it by rebinding its
/// own name. A bare address cannot be rebound.
fn is_own_host(host: &str, here: bool, hosts: &[String]) -> bool {
    let name = host.rsplit_once(':').map_or(host, |(name, port)| {
        if port.parse::<u16>().is_ok() {
            name
        } else {
            host
        }
    });
    let address = || {
        name.trim_start_matches('[')
            .trim_end_matches(']')
            .parse::<std::net::IpAddr>()
            .is_ok()
    };
    matches!(name, "localhost" | "127.0.0.1" | "[::1]")
        || (!here && (address() || hosts.iter().any(|h| h.eq_ignore_ascii_case(name))))
}

/// Refuses foreign hosts and origins, and sets the security headers.
pub(crate) async fn check(State(app): State<App>, request: Request, next: Next) -> Response {
    let headers = request.headers();
    let text = |name| {
        headers
            .get(name)
            .and_then(|v: &HeaderValue| v.to_str().ok())
    };
    let host = text(header::HOST).unwrap_or("localhost");
    let origin = text(header::ORIGIN).map(|o| {
        o.trim_start_matches("http://")
            .trim_start_matches("https://")
    });
    let foreign = !is_own_host(host, app.here, &app.hosts)
        || origin.is_some_and(|o| request.method() != Method::GET && o != host);
    let mut response = if foreign {
        Problem::new(
            StatusCode::FORBIDDEN,
            "foreign_origin",
            "Not from here",
            "This address answers its own page only.",
        )
        .into_response()
    } else {
        next.run(request).await
    };
    let headers = response.headers_mut();
    let policy = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data:; \
                  frame-ancestors 'none'; base-uri 'none'; form-action 'self'";
    for (name, value) in [
        (header::CONTENT_SECURITY_POLICY, policy),
        (header::X_CONTENT_TYPE_OPTIONS, "nosniff"),
        (header::REFERRER_POLICY, "no-referrer"),
    ] {
        headers.insert(name, HeaderValue::from_static(value));
    }
    response
}

#[cfg(test)]
mod tests {
    use super::is_own_host;

    #[test]
    fn only_loopback_names_are_own() {
        for host in [
            "localhost",
            "localhost:4747",
            "127.0.0.1:1",
            "[::1]:80",
            "[::1]",
        ] {
            assert!(is_own_host(host, true, &[]), "{host}");
        }
        for host in [
            "example.org",
            "127.0.0.1.example.org:80",
            "localhost.example",
            "",
        ] {
            assert!(!is_own_host(host, true, &[]), "{host}");
        }
        let named = ["shelf.local".to_owned()];
        for (host, here, own) in [
            ("192.168.1.20:4747", true, false),
            ("192.168.1.20:4747", false, true),
            ("shelf.local", false, true),
            ("evil.example", false, false),
        ] {
            assert_eq!(is_own_host(host, here, &named), own, "{host}");
        }
    }
}
