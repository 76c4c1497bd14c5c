//! A photo's marks and the readings made of them are kept together or not at all, also where the
//! program is killed while it works them out.

use crate::serving::Served;
use iron_twin_core::practice::picture::{Drawing, draw};
use serde_json::{Value, json};
use std::io::Cursor;
use std::path::{Path, PathBuf};
use std::time::{Duration, Instant};

/// Kills from before the marks came to after they were answered.
const KILLS: u32 = 40;

fn asked(served: &Served, method: &str, path: &str, body: &Value) -> Value {
    let (status, _, said) = served.ask(
        method,
        path,
        "application/json",
        body.to_string().as_bytes(),
    );
    assert!(
        (200..300).contains(&status),
        "{method} {path}: {status} {said}"
    );
    serde_json::from_str(&said).unwrap_or_default()
}

/// A sown trial that is judged by canopy cover, with one photo that nobody marked: the path to mark
/// it, and the mark.
fn with_photo(served: &Served) -> (String, Value) {
    let trial = asked(served, "POST", "/trials", &json!({ "name": "Cress" }));
    let id = trial["id"].as_str().expect("an id").to_owned();
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let mut ask = trial["ask"].clone();
    ask["also"] = json!(["canopy_cover"]);
    let put = json!({ "name": "Cress", "ask": ask, "version": trial["version"] });
    let trial = asked(served, "PUT", &at("/ask"), &put);
    let version = json!({ "version": trial["version"] });
    let dealt = asked(served, "POST", &at("/deal"), &version);
    let sown = json!({ "kind": "work", "head": {}, "body": { "job": "sow" } });
    let list = json!({ "format": 1, "records": [sown] });
    asked(served, "POST", &at("/records"), &list);
    let drawn = draw(&Drawing::default());
    let mut png = Cursor::new(Vec::new());
    image::RgbImage::from_raw(drawn.width as u32, drawn.height as u32, drawn.pixels)
        .expect("a picture")
        .write_to(&mut png, image::ImageFormat::Png)
        .expect("a PNG");
    let code = dealt["units"][0]["code"].as_str().expect("a code");
    let path = at(&format!("/photos?code={code}&view=top"));
    let (status, _, said) = served.ask("POST", &path, "image/png", png.get_ref());
    assert_eq!(status, 200, "{said}");
    let view = asked(served, "GET", &at("/photos"), &Value::Null);
    let photo = view["photos"][0]["id"].as_str().expect("an id").to_owned();
    let mark = json!({ "marked": { "corners": drawn.corners }, "version": 0 });
    (at(&format!("/photos/{photo}")), mark)
}

/// Copies a farm, its file with the pictures beside it; where the file is then.
fn copied(from: &Path, to: &Path) -> PathBuf {
    std::fs::create_dir_all(to).expect("a folder");
    for entry in std::fs::read_dir(from).expect("a folder").flatten() {
        let to = to.join(entry.file_name());
        if entry.path().is_dir() {
            copied(&entry.path(), &to);
        } else {
            std::fs::copy(entry.path(), to).expect("a copy");
        }
    }
    to.join("farm.sqlite")
}

/// Marks and readings that stand in a file.
fn kept(data: &Path) -> (i64, i64) {
    let file = rusqlite::Connection::open(data).expect("the file");
    let count = |sql: &str| file.query_row(sql, [], |r| r.get(0)).expect("a count");
    (
        count("SELECT count(*) FROM record WHERE kind = 'photo_marked'"),
        count("SELECT count(*) FROM reading"),
    )
}

#[test]
fn a_kill_while_a_photo_is_marked_leaves_marks_and_readings_or_neither() {
    let folder = tempfile::tempdir().expect("a folder");
    let made = folder.path().join("made");
    std::fs::create_dir(&made).expect("a folder");
    let (path, mark, taking, whole) = {
        let mut served = Served::on(&made.join("farm.sqlite"));
        let (path, mark) = with_photo(&served);
        served.stop();
        let trial = copied(&made, &folder.path().join("whole"));
        let mut served = Served::on(&trial);
        let started = Instant::now();
        asked(&served, "PUT", &path, &mark);
        let taking = started.elapsed();
        served.stop();
        (path, mark, taking, kept(&trial))
    };
    assert!(whole.0 == 1 && whole.1 >= 1, "{whole:?}");
    let (mut none, mut all) = (0, 0);
    for n in 0..KILLS {
        let data = copied(&made, &folder.path().join(n.to_string()));
        let mut served = Served::on(&data);
        let sent = served.start_to_send(
            "PUT",
            &path,
            "application/json",
            mark.to_string().as_bytes(),
        );
        // Most kills fall near the end, where marks and readings are written.
        let share = 1.3 * f64::from(n) / f64::from(KILLS);
        std::thread::sleep(Duration::from_secs_f64(taking.as_secs_f64() * share));
        served.kill();
        drop(sent);
        match kept(&data) {
            (0, 0) => none += 1,
            found if found == whole => all += 1,
            torn => panic!("kill {n} left {torn:?} of {whole:?}"),
        }
    }
    assert!(none >= 5 && all >= 3, "{none} before, {all} after");
}
