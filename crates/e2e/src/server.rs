//! The binary, started on a data file of its own and ended here.

use crate::printed;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::sync::OnceLock;

/// The server's process; it ends with this.
struct Process(Child);

impl Drop for Process {
    fn drop(&mut self) {
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

/// The files of the demo, by their names: making its seasons costs seconds, and every test that
/// begins with them begins with the same.
static DEMO: OnceLock<Vec<(PathBuf, Vec<u8>)>> = OnceLock::new();

/// Makes the demo's files once: the program is asked for them and ended as a service is.
fn demo() -> Vec<(PathBuf, Vec<u8>)> {
    let folder = tempfile::tempdir().expect("a folder");
    let mut server = Server::on("demo", folder.path().join("trials.sqlite"));
    let ended = Command::new("kill")
        .arg(server.process.0.id().to_string())
        .status();
    assert!(ended.is_ok_and(|s| s.success()), "the demo can be ended");
    let status = server.process.0.wait().expect("the demo's end");
    assert!(status.success(), "the demo ended with {status}");
    files(folder.path(), Path::new(""))
}

/// Every file below a folder, by its path within it.
fn files(folder: &Path, within: &Path) -> Vec<(PathBuf, Vec<u8>)> {
    let entries = std::fs::read_dir(folder.join(within)).expect("a folder");
    let found = entries.map(|e| within.join(e.expect("an entry").file_name()));
    found
        .flat_map(|path| {
            let whole = folder.join(&path);
            if whole.is_dir() {
                files(folder, &path)
            } else {
                vec![(path, std::fs::read(whole).expect("a file"))]
            }
        })
        .collect()
}

/// The binary beside this test in the target folder.
///
/// # Panics
/// When it was not built: `cargo xtask test` builds it first.
#[must_use]
pub fn binary() -> PathBuf {
    let own = std::env::current_exe().expect("a path");
    let found = own
        .ancestors()
        .map(|folder| folder.join("iron-twin"))
        .find(|path| path.is_file());
    found.expect("the binary is not built: run cargo xtask test, or cargo build first")
}

/// A running Iron Twin with a data file of its own.
pub struct Server {
    process: Process,
    /// Where it answers, for instance `http://127.0.0.1:41234`.
    pub address: String,
    /// Its data file.
    pub data: PathBuf,
    _folder: Option<tempfile::TempDir>,
}

impl Server {
    /// Starts `iron-twin serve` or `iron-twin demo` on a fresh file.
    #[must_use]
    pub fn fresh(command: &str) -> Self {
        let folder = tempfile::tempdir().expect("a folder");
        if command == "demo" {
            for (path, content) in DEMO.get_or_init(demo) {
                let to = folder.path().join(path);
                std::fs::create_dir_all(to.parent().expect("a folder")).expect("a folder");
                std::fs::write(to, content).expect("a file");
            }
        }
        let data = folder.path().join("trials.sqlite");
        Self {
            _folder: Some(folder),
            ..Self::on(command, data)
        }
    }

    /// Starts it on a given file.
    #[must_use]
    pub fn on(command: &str, data: PathBuf) -> Self {
        Self::at(command, data, "0")
    }

    /// Starts it on a given file and port, as after a restart.
    #[must_use]
    pub fn at(command: &str, data: PathBuf, port: &str) -> Self {
        let spawned = Command::new(binary())
            .arg(command)
            .arg("--data")
            .arg(&data)
            .args(["--port", port])
            .stdin(Stdio::null())
            .stdout(Stdio::piped())
            .spawn();
        let mut process = Process(spawned.expect("the binary can be started"));
        let output = process.0.stdout.take().expect("the output is piped");
        let address = printed(output, |line| {
            line.strip_prefix("Iron Twin is at ").map(str::to_owned)
        });
        Self {
            process,
            address: address.expect("the binary ended before it was ready"),
            data,
            _folder: None,
        }
    }

    /// Ends the process at once, as a power cut would, and gives the data file back with its
    /// folder.
    #[must_use]
    pub fn kill(mut self) -> (PathBuf, Option<tempfile::TempDir>) {
        let _ = self.process.0.kill();
        let folder = self._folder.take();
        (self.data.clone(), folder)
    }
}
