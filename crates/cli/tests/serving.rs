//! The program as it serves: requests that never come whole, many who sign in at once, errors told
//! as problems, and its end.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

/// The program, serving on a port of its own; it ends with this.
pub(crate) struct Served {
    child: Child,
    address: String,
    _folder: Option<tempfile::TempDir>,
}

impl Served {
    fn start() -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        let mut served = Self::on(&folder.path().join("farm.sqlite"));
        served._folder = Some(folder);
        served
    }

    /// Serves a data file.
    pub(crate) fn on(data: &Path) -> Self {
        let mut child = Command::new(env!("CARGO_BIN_EXE_iron-twin"))
            .args(["serve", "--port", "0", "--data"])
            .arg(data)
            .stdout(Stdio::piped())
            .spawn()
            .expect("the program");
        let mut line = String::new();
        BufReader::new(child.stdout.as_mut().expect("piped"))
            .read_line(&mut line)
            .expect("its address");
        let address = line
            .trim()
            .rsplit("http://")
            .next()
            .expect("an address")
            .to_owned();
        Self {
            child,
            address,
            _folder: None,
        }
    }

    fn connect(&self) -> TcpStream {
        let stream = TcpStream::connect(&self.address).expect("a connection");
        stream
            .set_read_timeout(Some(Duration::from_secs(40)))
            .expect("a limit");
        stream
    }

    /// A request on a connection of its own, the answer to which nobody has read yet.
    pub(crate) fn start_to_send(
        &self,
        method: &str,
        path: &str,
        kind: &str,
        body: &[u8],
    ) -> TcpStream {
        let mut stream = self.connect();
        let length = body.len();
        let head = format!(
            "{method} /api/v1{path} HTTP/1.1\r\nHost: localhost\r\nContent-Type: \
             {kind}\r\nContent-Length: {length}\r\nConnection: close\r\n\r\n"
        );
        stream.write_all(head.as_bytes()).expect("sent");
        stream.write_all(body).expect("sent");
        stream
    }

    /// Status, head and body of an answer.
    pub(crate) fn ask(
        &self,
        method: &str,
        path: &str,
        kind: &str,
        body: &[u8],
    ) -> (u16, String, String) {
        let mut stream = self.start_to_send(method, path, kind, body);
        let mut text = String::new();
        stream.read_to_string(&mut text).expect("an answer");
        let (head, body) = text.split_once("\r\n\r\n").expect("a head");
        let status = head
            .split(' ')
            .nth(1)
            .and_then(|s| s.parse().ok())
            .expect("a status");
        (status, head.to_lowercase(), body.to_owned())
    }

    /// Ends it at once, as a power cut would.
    pub(crate) fn kill(&mut self) {
        let _ = self.child.kill();
        let _ = self.child.wait();
    }

    fn post(&self, path: &str, body: &serde_json::Value) -> u16 {
        self.ask(
            "POST",
            path,
            "application/json",
            body.to_string().as_bytes(),
        )
        .0
    }

    /// Asks the program to stop as a system does, and waits. How long it took.
    pub(crate) fn stop(&mut self) -> Duration {
        let started = Instant::now();
        let asked = Command::new("kill")
            .args(["-TERM", &self.child.id().to_string()])
            .status()
            .expect("kill");
        assert!(asked.success());
        self.child.wait().expect("an end");
        started.elapsed()
    }
}

impl Drop for Served {
    fn drop(&mut self) {
        self.kill();
    }
}

#[test]
fn half_sent_requests_hold_up_neither_others_nor_the_end() {
    let mut served = Served::start();
    let half: Vec<TcpStream> = (0..200)
        .map(|n| {
            let mut stream = served.connect();
            // Some never end their head, some never send their body.
            let sent = if n % 2 == 0 {
                "GET /api/v1/today HTTP/1.1\r\nHost: local".to_owned()
            } else {
                "POST /api/v1/trials HTTP/1.1\r\nHost: localhost\r\nContent-Type: \
                 application/json\r\nContent-Length: 500\r\n\r\n{"
                    .to_owned()
            };
            stream.write_all(sent.as_bytes()).expect("sent");
            stream
        })
        .collect();
    let (status, ..) = served.ask("GET", "/today", "application/json", b"");
    assert_eq!(status, 200);
    let took = served.stop();
    assert!(took < Duration::from_secs(5), "{took:?}");
    drop(half);
}

#[test]
fn what_never_comes_whole_is_let_go_in_time() {
    let served = Served::start();
    let mut head = served.connect();
    head.write_all(b"GET /api/v1/today HTTP/1.1\r\nHost: local")
        .expect("sent");
    let mut body = served.connect();
    body.write_all(
        b"POST /api/v1/trials HTTP/1.1\r\nHost: localhost\r\nContent-Length: 500\r\n\r\n{",
    )
    .expect("sent");
    let started = Instant::now();
    let mut said = String::new();
    // Closed, with an answer or without one.
    let _ = head.read_to_string(&mut said);
    let took = started.elapsed();
    assert!((10..25).contains(&took.as_secs()), "{took:?} {said}");
    let mut said = [0; 4096];
    let n = body.read(&mut said).expect("an answer");
    let said = String::from_utf8_lossy(&said[..n]).into_owned();
    assert!(
        said.starts_with("HTTP/1.1 408") && said.contains("too_slow"),
        "{said}"
    );
    assert!(started.elapsed() < Duration::from_secs(40));
}

#[test]
fn every_error_of_the_api_is_told_as_a_problem() {
    let served = Served::start();
    let json = "application/json";
    let large = "x".repeat((1 << 20) + 1);
    for (method, path, kind, body, status, code) in [
        ("GET", "/trials/none", json, "", 404, "not_found"),
        ("GET", "/nowhere", json, "", 404, "not_found"),
        ("DELETE", "/today", json, "", 405, "method_not_allowed"),
        ("POST", "/sign-in", "text/plain", "{}", 415, "not_json"),
        ("POST", "/sign-in", json, "{", 400, "bad_request"),
        ("POST", "/sign-in", json, "{\"name\":3}", 422, "bad_request"),
        ("POST", "/trials", json, "[", 400, "bad_request"),
        (
            "GET",
            "/trials/none/tend?day=soon",
            json,
            "",
            400,
            "bad_request",
        ),
        ("POST", "/trials", json, large.as_str(), 413, "too_large"),
    ] {
        let (found, head, text) = served.ask(method, path, kind, body.as_bytes());
        let what = format!("{method} {path}: {found} {text}");
        assert_eq!(found, status, "{what}");
        assert!(
            head.contains("content-type: application/problem+json"),
            "{what} {head}"
        );
        let problem: serde_json::Value =
            serde_json::from_str(&text).unwrap_or_else(|e| panic!("{what}: {e}"));
        assert_eq!(
            (&problem["code"], &problem["status"]),
            (&code.into(), &status.into()),
            "{what}"
        );
        assert!(
            problem["detail"].as_str().is_some_and(|d| !d.is_empty()),
            "{what}"
        );
    }
    let (_, head, _) = served.ask("DELETE", "/today", json, b"");
    assert!(head.contains("allow:"), "{head}");
}

/// Each check of a passphrase takes 19 MB; however many ask, few are looked at together, and few of
/// one name at all.
#[test]
fn many_who_sign_in_at_once_take_little_room_and_the_owner_still_comes_in() {
    let served = Served::start();
    let person = |name: &str, role: &str| serde_json::json!({ "name": name, "role": role, "passphrase": "jars on the sill" });
    assert_eq!(served.post("/people", &person("Ada", "owner")), 200);
    assert_eq!(served.post("/people", &person("Rec", "recorder")), 200);
    let sign_in = |name: &str, passphrase: &str| {
        serde_json::json!({
            "name": name, "passphrase": passphrase,
        })
    };
    let all = |number: usize, body: &serde_json::Value| -> Vec<u16> {
        std::thread::scope(|s| {
            let asked: Vec<_> = (0..number)
                .map(|_| s.spawn(|| served.post("/sign-in", body)))
                .collect();
            asked
                .into_iter()
                .map(|answer| answer.join().expect("no panic"))
                .collect()
        })
    };
    let right = all(300, &sign_in("Ada", "jars on the sill"));
    assert!(right.iter().all(|s| [200, 429].contains(s)), "{right:?}");
    let wrong = all(400, &sign_in("Rec", "not this one"));
    assert_eq!(
        wrong.iter().filter(|s| **s == 403).count(),
        5,
        "looked at, of 400"
    );
    assert_eq!(
        served.post("/sign-in", &sign_in("Ada", "jars on the sill")),
        200
    );
    #[cfg(target_os = "linux")]
    {
        let status = std::fs::read_to_string(format!("/proc/{}/status", served.child.id()))
            .expect("its state");
        let most = status
            .lines()
            .find_map(|l| l.strip_prefix("VmHWM:"))
            .expect("its peak");
        let kilobytes: u64 = most
            .trim()
            .trim_end_matches(" kB")
            .parse()
            .expect("a figure");
        assert!(kilobytes < 150_000, "{kilobytes} kB at most");
    }
}
