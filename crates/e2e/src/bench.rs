//! The bench of the stand-ins, worked by hand while the page is looked at.

use serde_json::Value;
use std::io::{Read, Write};
use std::net::TcpStream;
use std::time::Duration;

/// The bench at its address.
pub struct Bench(String);

impl Bench {
    /// The bench whose page has this address.
    #[must_use]
    pub fn at(address: &str) -> Self {
        Self(
            address
                .trim_start_matches("http://")
                .trim_end_matches('/')
                .to_owned(),
        )
    }

    /// Asks it; the body of its answer.
    fn ask(&self, head: &str, body: &str) -> String {
        let mut stream = TcpStream::connect(&self.0).expect("the bench");
        stream
            .set_read_timeout(Some(Duration::from_secs(10)))
            .expect("a limit");
        let host = &self.0;
        let length = body.len();
        let request = format!(
            "{head} HTTP/1.1\r\nHost: {host}\r\nContent-Type: application/json\r\nContent-Length: \
             {length}\r\nConnection: close\r\n\r\n{body}"
        );
        stream.write_all(request.as_bytes()).expect("a request");
        let mut answer = String::new();
        stream.read_to_string(&mut answer).expect("an answer");
        assert!(answer.starts_with("HTTP/1.1 2"), "{head} {body}: {answer}");
        answer
            .split_once("\r\n\r\n")
            .map(|(_, body)| body.to_owned())
            .unwrap_or_default()
    }

    /// How it stands.
    pub async fn standing(&self) -> Value {
        serde_json::from_str(&self.ask("GET /standing", "")).expect("JSON")
    }

    /// Does something at it.
    pub async fn does(&self, deed: Value) {
        self.ask("POST /do", &deed.to_string());
    }
}
