//! Photos: taken in, stripped, measured within a point of the truth, refused where they would harm,
//! and shown to who may.

use crate::farm;

use axum::body::Body;
use axum::http::{Request, StatusCode, header};
use exif::experimental::Writer;
use farm::{Farm, record};
use image::{ExtendedColorType, ImageEncoder};
use img_parts::jpeg::Jpeg;
use img_parts::{Bytes, ImageEXIF};
use iron_twin_core::practice::picture::{Drawing, Drawn, draw};
use serde_json::{Value, json};
use std::io::Cursor;

fn days_ago(days: i64) -> String {
    jiff::Zoned::now()
        .date()
        .checked_sub(jiff::Span::new().days(days))
        .expect("a date")
        .to_string()
}

/// A sown trial that is judged by canopy cover as well; a code of it.
async fn sown(farm: &Farm) -> (String, String) {
    let id = farm.new_trial("Cress").await;
    let trial = farm.get(&format!("/trials/{id}")).await;
    let mut ask = trial["ask"].clone();
    ask["also"] = json!(["canopy_cover"]);
    let put = json!({ "name": "Cress", "ask": ask, "version": trial["version"] });
    let trial = farm.call("PUT", &format!("/trials/{id}/ask"), put).await;
    farm.call(
        "POST",
        &format!("/trials/{id}/deal"),
        json!({ "version": trial["version"] }),
    )
    .await;
    farm.call(
        "POST",
        &format!("/trials/{id}/records"),
        record("work", json!({ "job": "sow", "date": days_ago(6) })),
    )
    .await;
    let code = farm.get(&format!("/trials/{id}")).await["units"][0]["code"]
        .as_str()
        .expect("a code")
        .to_owned();
    (id, code)
}

fn jpeg(drawn: &Drawn) -> Vec<u8> {
    let mut out = Vec::new();
    let encoder = image::codecs::jpeg::JpegEncoder::new_with_quality(&mut out, 92);
    let (width, height) = (drawn.width as u32, drawn.height as u32);
    encoder
        .write_image(&drawn.pixels, width, height, ExtendedColorType::Rgb8)
        .expect("a JPEG");
    out
}

fn png(width: u32, height: u32, pixels: &[u8]) -> Vec<u8> {
    let mut out = Vec::new();
    let encoder = image::codecs::png::PngEncoder::new(&mut out);
    encoder
        .write_image(pixels, width, height, ExtendedColorType::Rgb8)
        .expect("a PNG");
    out
}

/// What a phone writes: how it was held, when, and where.
fn with_camera(bytes: Vec<u8>, orientation: u16, taken: &str) -> Vec<u8> {
    let ascii = |text: &str| exif::Value::Ascii(vec![text.as_bytes().to_vec()]);
    let field = |tag, value| exif::Field {
        tag,
        ifd_num: exif::In::PRIMARY,
        value,
    };
    let fields = [
        field(
            exif::Tag::Orientation,
            exif::Value::Short(vec![orientation]),
        ),
        field(exif::Tag::DateTimeOriginal, ascii(taken)),
        field(exif::Tag::GPSLatitudeRef, ascii("N")),
        field(exif::Tag::Model, ascii("pocket-camera-77")),
    ];
    let mut writer = Writer::new();
    fields.iter().for_each(|f| writer.push_field(f));
    let mut raw = Cursor::new(Vec::new());
    writer.write(&mut raw, false).expect("EXIF");
    let mut picture = Jpeg::from_bytes(Bytes::from(bytes)).expect("a JPEG");
    picture.set_exif(Some(Bytes::from(raw.into_inner())));
    picture.encoder().bytes().to_vec()
}

async fn send(farm: &Farm, id: &str, code: &str, bytes: Vec<u8>) -> (StatusCode, Value) {
    send_view(farm, id, (code, "top"), bytes).await
}

async fn send_view(
    farm: &Farm,
    id: &str,
    (code, view): (&str, &str),
    bytes: Vec<u8>,
) -> (StatusCode, Value) {
    let request = Request::post(format!(
        "/api/v1/trials/{id}/photos?code={code}&view={view}"
    ))
    .header(header::HOST, "localhost")
    .header(header::CONTENT_TYPE, "image/jpeg")
    .body(Body::from(bytes))
    .expect("a request");
    let (status, _, body) = farm.raw(request).await;
    if status == StatusCode::OK {
        return (status, farm.get(&format!("/trials/{id}/photos")).await);
    }
    (status, serde_json::from_slice(&body).unwrap_or_default())
}

#[tokio::test]
async fn a_photo_is_measured_and_its_cover_is_a_reading() {
    let farm = Farm::new();
    let (id, code) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let drawn = draw(&Drawing {
        leaves: 260,
        ..Drawing::default()
    });
    let (status, view) = send(&farm, &id, &code, jpeg(&drawn)).await;
    assert_eq!(status, 200, "{view}");
    let photo = &view["photos"][0];
    assert_eq!(
        (&photo["code"], &photo["day"], &photo["figures"]),
        (&json!(code), &json!(6), &Value::Null)
    );
    let own = at(&format!("/photos/{}", photo["id"].as_str().expect("an id")));
    let mark = json!({ "marked": { "corners": drawn.corners }, "version": 0 });
    farm.call("PUT", &own, mark.clone()).await;
    let view = farm.get(&at("/photos")).await;
    let cover = view["photos"][0]["figures"]["cover_percent"]
        .as_f64()
        .expect("a figure");
    assert!(
        (cover - drawn.cover_percent).abs() < 1.0,
        "{cover} for {}",
        drawn.cover_percent
    );
    let tend = farm.get(&at("/tend")).await;
    let column = tend["readings"]
        .as_array()
        .expect("columns")
        .iter()
        .position(|r| r["key"] == "canopy_cover")
        .expect("a column");
    let row = tend["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .find(|r| r["unit"]["code"] == json!(code))
        .expect("a row");
    assert_eq!(row["cells"][column]["value"].as_f64(), Some(cover));
    // Marked again it corrects the reading, and does not add one.
    let again = json!({ "marked": { "corners": drawn.corners, "readiness": 0.3 }, "version": 1 });
    farm.call("PUT", &own, again).await;
    let tend = farm.get(&at("/tend")).await;
    let row = tend["rows"]
        .as_array()
        .expect("rows")
        .iter()
        .find(|r| r["unit"]["code"] == json!(code))
        .expect("a row");
    assert_eq!(row["cells"][column]["times"], 1);
    assert_eq!(
        farm.text("PUT", &own, mark).await.0,
        409,
        "somebody else has marked it since"
    );
    for (change, field) in [
        (
            json!({ "corners": [[0.0, 0.0], [1.0, 1.0], [1.0, 0.0], [0.0, 1.0]] }),
            "corners",
        ),
        (
            json!({ "corners": drawn.corners, "readiness": 2.0 }),
            "readiness",
        ),
        (
            json!({ "corners": drawn.corners, "card": [3.0, 0.0] }),
            "card",
        ),
    ] {
        let (status, text) = farm
            .text("PUT", &own, json!({ "marked": change, "version": 2 }))
            .await;
        assert!(
            status == 422 && text.contains(&format!("\"field\":\"{field}\"")),
            "{text}"
        );
    }
    // The shading is a picture of its own.
    let request =
        Request::get(format!("/api/v1{own}/mask?readiness=0.5")).header(header::HOST, "localhost");
    let (status, headers, body) = farm
        .raw(request.body(Body::empty()).expect("a request"))
        .await;
    assert_eq!(
        (status, &headers["content-type"]),
        (StatusCode::OK, &"image/png".parse().expect("a value"))
    );
    assert_eq!(
        image::load_from_memory(&body).expect("a PNG").width() as usize,
        drawn.width
    );
}

#[tokio::test]
async fn what_the_camera_told_of_place_and_phone_is_not_kept() {
    let farm = Farm::new();
    let (id, code) = sown(&farm).await;
    let drawn = draw(&Drawing::default());
    let yesterday = format!("{} 09:30:00", days_ago(1).replace('-', ":"));
    let mut sent = with_camera(jpeg(&drawn), 6, &yesterday);
    sent.extend(b"PK\x03\x04<script>alert(1)</script>");
    let (status, view) = send(&farm, &id, &code, sent).await;
    assert_eq!(status, 200, "{view}");
    let photo = &view["photos"][0];
    assert_eq!(
        (&photo["day"], &photo["orientation"]),
        (&json!(5), &json!(6))
    );
    assert_eq!(
        (&photo["width"], &photo["height"]),
        (&json!(drawn.height), &json!(drawn.width)),
        "turned upright"
    );
    let path = format!(
        "/api/v1/trials/{id}/photos/{}/file",
        photo["id"].as_str().expect("an id")
    );
    let request = Request::get(path)
        .header(header::HOST, "localhost")
        .body(Body::empty())
        .expect("a request");
    let (status, headers, body) = farm.raw(request).await;
    assert_eq!(status, 200);
    assert_eq!(headers["content-type"], "image/jpeg");
    assert_eq!(headers["x-content-type-options"], "nosniff");
    for told in [&b"pocket-camera-77"[..], b"<script>", b"PK\x03\x04"] {
        assert!(
            !body.windows(told.len()).any(|w| w == told),
            "{}",
            String::from_utf8_lossy(told)
        );
    }
    assert_eq!(
        image::load_from_memory(&body).expect("a picture").width() as usize,
        drawn.width
    );
    // How it was held is all that is left: a browser turns it upright by that.
    let left = exif::Reader::new()
        .read_from_container(&mut Cursor::new(body))
        .expect("EXIF");
    let tags: Vec<exif::Tag> = left.fields().map(|f| f.tag).collect();
    assert_eq!(tags, [exif::Tag::Orientation]);
    assert_eq!(
        left.get_field(tags[0], exif::In::PRIMARY)
            .and_then(|f| f.value.get_uint(0)),
        Some(6)
    );
}

/// A PNG whose head tells other sides than its body has.
fn claimed(width: u32, height: u32) -> Vec<u8> {
    let mut bytes = png(8, 8, &[90; 8 * 8 * 3]);
    bytes[16..20].copy_from_slice(&width.to_be_bytes());
    bytes[20..24].copy_from_slice(&height.to_be_bytes());
    let crc = crc32(&bytes[12..29]);
    bytes[29..33].copy_from_slice(&crc.to_be_bytes());
    bytes
}

/// The check sum of a PNG's chunk (ISO 3309).
fn crc32(bytes: &[u8]) -> u32 {
    !bytes.iter().fold(!0u32, |crc, byte| {
        (0..8).fold(crc ^ u32::from(*byte), |c, _| {
            if c & 1 == 1 {
                0xedb8_8320 ^ (c >> 1)
            } else {
                c >> 1
            }
        })
    })
}

#[tokio::test]
async fn hostile_pictures_are_refused_and_nothing_else_is_lost() {
    let farm = Farm::new();
    let (id, code) = sown(&farm).await;
    let good = jpeg(&draw(&Drawing::default()));
    let cut = good[..good.len() / 3].to_vec();
    // 24 million pixels of one colour pack into little.
    let bomb = png(4900, 4900, &vec![200; 4900 * 4900 * 3]);
    assert!(bomb.len() < 1 << 20, "{}", bomb.len());
    for (what, bytes, status) in [
        (
            "text",
            b"<html><script>alert(1)</script></html>".to_vec(),
            422,
        ),
        ("GIF", b"GIF89a\x01\x00\x01\x00\x00\x00\x00;".to_vec(), 422),
        (
            "SVG",
            b"<svg xmlns='http://www.w3.org/2000/svg'/>".to_vec(),
            422,
        ),
        ("nothing", Vec::new(), 422),
        ("a head alone", good[..4].to_vec(), 422),
        ("cut short", cut, 422),
        ("far too wide", claimed(4_000_000_000, 2), 422),
        ("too many pixels", claimed(9_000, 9_000), 422),
        ("claims more than it has", claimed(5_000, 5_000), 422),
        ("a lot of one colour", bomb, 200),
        ("too large", vec![0xff; (25 << 20) + 1], 413),
    ] {
        let started = std::time::Instant::now();
        let (got, said) = send(&farm, &id, &code, bytes).await;
        assert_eq!(got, status, "{what}: {said}");
        if got == 422 {
            assert_eq!(said["code"], "not_a_picture", "{what}");
        }
        // Far more than it takes: what would hang is found.
        assert!(
            started.elapsed().as_secs() < 20,
            "{what}: {:?}",
            started.elapsed()
        );
    }
    let view = farm.get(&format!("/trials/{id}/photos")).await;
    assert_eq!(
        view["photos"].as_array().map(Vec::len),
        Some(1),
        "what was refused left nothing"
    );
    assert_eq!(
        send(&farm, &id, &code, good).await.0,
        200,
        "and a good one is taken as before"
    );
    let kept = std::fs::read_dir(farm.file().with_extension("photos"))
        .expect("the folder")
        .count();
    assert_eq!(kept, 2, "one file a picture");
}

#[tokio::test]
async fn photos_are_for_who_may_see_the_trial_and_a_viewer_adds_none() {
    let farm = Farm::new();
    let (id, code) = sown(&farm).await;
    let drawn = draw(&Drawing::default());
    let (_, view) = send(&farm, &id, &code, jpeg(&drawn)).await;
    let photo = view["photos"][0]["id"].as_str().expect("an id").to_owned();
    farm.person("Ada", "owner").await;
    let (hand, looker) = (
        farm.person("Rec", "recorder").await,
        farm.person("Vi", "viewer").await,
    );
    let own = format!("/trials/{id}/photos/{photo}");
    for (cookie, file, mark) in [(&*looker, 200, 403), (&*hand, 200, 200)] {
        let request = Request::get(format!("/api/v1{own}/file")).header(header::HOST, "localhost");
        let request = request
            .header(header::COOKIE, cookie)
            .body(Body::empty())
            .expect("a request");
        assert_eq!(farm.raw(request).await.0, file, "{cookie}");
        let body = json!({ "marked": { "corners": drawn.corners }, "version": 0 });
        assert_eq!(
            farm.text_as(cookie, "PUT", &own, body).await.0,
            mark,
            "{cookie}"
        );
    }
}

/// A stem seen from the side with a ruler beside it is its height; what no ruler tells is recorded
/// nowhere.
#[tokio::test]
async fn a_ruler_in_the_picture_tells_the_height_and_a_tray_is_laid_flat() {
    let farm = Farm::new();
    let (id, code) = sown(&farm).await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    ask["also"] = json!(["height", "canopy_cover"]);
    let put = json!({ "name": "Cress", "ask": ask, "version": trial["version"], "reason": "heights too" });
    farm.call("PUT", &at("/ask"), put).await;
    let pixels: Vec<u8> = (0..120_000).flat_map(|_| [90u8, 140, 70]).collect();
    let (status, view) = send_view(&farm, &id, (&code, "side"), png(400, 300, &pixels)).await;
    assert_eq!(status, 200, "{view}");
    let photo = view["photos"][0].clone();
    let mark = async |marked: Value, version: &Value| {
        let path = at(&format!("/photos/{}", photo["id"].as_str().expect("an id")));
        farm.text(
            "PUT",
            &path,
            json!({ "marked": marked, "version": version }),
        )
        .await
    };
    let corners = json!([[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]]);
    // 300 pixels of ruler are 150 mm; the stem is 240 pixels tall.
    let ruler = json!({ "ends": [[0.1, 0.95], [0.85, 0.95]], "mm": 150.0 });
    let line = json!([[0.5, 0.9], [0.5, 0.1]]);
    let (status, said) = mark(
        json!({ "corners": corners, "line": line }),
        &photo["version"],
    )
    .await;
    assert!(status == 422 && said.contains("ruler"), "{said}");
    let (status, said) = mark(
        json!({ "corners": corners, "ruler": ruler }),
        &photo["version"],
    )
    .await;
    assert_eq!(status, 200, "{said}");
    let of_grid = async || {
        let grid = farm.get(&at("/tend")).await;
        let column = grid["readings"]
            .as_array()
            .expect("columns")
            .iter()
            .position(|r| r["key"] == "height");
        let row = grid["rows"]
            .as_array()
            .expect("rows")
            .iter()
            .find(|r| r["unit"]["code"] == code.as_str());
        row.expect("a row")["cells"][column.expect("a column")]["value"].clone()
    };
    assert_eq!(
        of_grid().await,
        Value::Null,
        "a ruler alone measures nothing"
    );
    let version =
        serde_json::from_str::<Value>(&said).expect("JSON")["records"][0]["version"].clone();
    let (status, said) = mark(
        json!({ "corners": corners, "ruler": ruler, "line": line }),
        &version,
    )
    .await;
    assert_eq!(status, 200, "{said}");
    assert!((of_grid().await.as_f64().expect("a height") - 120.0).abs() < 1e-9);
    let request = Request::get(format!(
        "/api/v1/trials/{id}/photos/{}/flat",
        photo["id"].as_str().expect("an id")
    ))
    .header(header::HOST, "localhost")
    .body(Body::empty())
    .expect("a request");
    let (status, headers, body) = farm.raw(request).await;
    assert_eq!(
        (status.as_u16(), headers[header::CONTENT_TYPE].to_str().ok()),
        (200, Some("image/jpeg"))
    );
    let flat = image::load_from_memory(&body).expect("a picture");
    assert_eq!(
        (flat.width(), flat.height()),
        (720, 540),
        "four by three, as the tray is"
    );
}

/// In a swap-over the round of a photo may be over before anybody marks it: no figure is kept then,
/// and what was marked can be set again once that round is open.
#[tokio::test]
async fn marks_and_their_readings_are_kept_together_or_not_at_all() {
    let farm = Farm::new();
    let id = farm.new_trial("Cress").await;
    let at = |rest: &str| format!("/trials/{id}{rest}");
    let trial = farm.get(&at("")).await;
    let mut ask = trial["ask"].clone();
    ask["also"] = json!(["canopy_cover"]);
    let put = json!({ "name": "Cress", "ask": ask, "version": trial["version"] });
    let trial = farm.call("PUT", &at("/ask"), put).await;
    let mut rack = trial["rack"].clone();
    (rack["design"], rack["levels"], rack["slots"]) = (json!("swap_over"), json!(2), json!(2));
    let trial = farm
        .call(
            "PUT",
            &at("/rack"),
            json!({ "rack": rack, "version": trial["version"] }),
        )
        .await;
    let dealt = farm
        .call("POST", &at("/deal"), json!({ "version": trial["version"] }))
        .await;
    let sow = |date: String| record("work", json!({ "job": "sow", "date": date }));
    farm.call("POST", &at("/records"), sow(days_ago(20))).await;
    let first = dealt["units"]
        .as_array()
        .expect("units")
        .iter()
        .filter(|u| u["level"] == 1);
    let codes: Vec<&str> = first.map(|u| u["code"].as_str().expect("a code")).collect();
    let drawn = draw(&Drawing {
        leaves: 260,
        ..Drawing::default()
    });
    let (status, view) = send(&farm, &id, codes[0], jpeg(&drawn)).await;
    assert_eq!(status, 200, "{view}");
    for code in &codes {
        let weight = json!({
            "code": code, "gross_g": 300.0, "tare_g": 200.0, "version": 0, "confirmed": true,
        });
        farm.call("POST", &at("/records"), record("weighing", weight))
            .await;
    }
    farm.call("POST", &at("/records"), sow(days_ago(0))).await;
    let own = at(&format!(
        "/photos/{}",
        view["photos"][0]["id"].as_str().expect("an id")
    ));
    let mark = json!({ "marked": { "corners": drawn.corners }, "version": 0 });
    let (status, said) = farm.text("PUT", &own, mark.clone()).await;
    assert!(
        status == 409 && said.contains("round that") && !said.contains("\"kept\""),
        "{status} {said}"
    );
    let photo = farm.get(&at("/photos")).await["photos"][0].clone();
    assert_eq!(
        (&photo["version"], &photo["figures"]),
        (&json!(0), &Value::Null)
    );
    // The next round is taken back: the first is open again.
    farm.call("POST", &at("/undo"), Value::Null).await;
    farm.call("PUT", &own, mark).await;
    assert!(farm.get(&at("/photos")).await["photos"][0]["figures"]["cover_percent"].is_number());
    let tend = farm.get(&at("/tend")).await;
    assert!(
        tend["rows"].to_string().contains("\"value\":"),
        "and its reading stands in the grid"
    );
}
